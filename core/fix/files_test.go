package fix

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/step"
	"hollowkey/demo"
)

// disk reads every file of a twin's drive.
func disk(t *testing.T, folder string) map[string]string {
	t.Helper()
	files := map[string]string{}
	err := filepath.WalkDir(filepath.Join(folder, "disk"), func(p string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() {
			files[p] = "(folder)"
			return nil
		}
		b, err := os.ReadFile(p)
		files[p] = string(b)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return files
}

func same(a, b map[string]string) bool {
	for n := range a {
		if a[n] != b[n] {
			return false
		}
	}
	return len(a) == len(b)
}

var removal = "remove-row LaunchCondition,VersionNT >= 501 AND VersionNT < 600"

// Each kind of step on files: the preview changes nothing, apply then undo
// gives every byte back.
func TestFileSteps(t *testing.T) {
	const deploy = `C:\Deploy\`
	for name, model := range map[string]step.Model{
		"ini":       step.New("ini", "file", deploy+"setup.ini", "section", "Gate", "key", "Newest", "value", "19045"),
		"ini copy":  step.New("ini", "file", deploy+"setup.ini", "section", "New", "key", "K", "value", "V", "copy", `C:\Windows\Temp\Copy`),
		"transform": step.New("transform", "out", deploy+"p.mst", "package", demo.PlannerPath, "edits", removal),
		"copy":      step.New("copy", "out", deploy+"p2.msi", "package", demo.PlannerPath, "edits", removal),
		"command":   step.New("command", "out", deploy+"p.cmd", "package", demo.PlannerPath, "properties", "SITECODE=Port 100%\nX=\"q\""),
	} {
		m, j, folder := onTwin(t)
		if err := os.WriteFile(filepath.Join(folder, "disk", "C", "Deploy", "setup.ini"), []byte("[Gate]\nNewest=18363"), 0o644); err != nil {
			t.Fatal(err)
		}
		before := disk(t, folder)
		p, err := Draft(m, "x", []step.Model{model})
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if !same(before, disk(t, folder)) {
			t.Errorf("%s: the draft changed the machine", name)
		}
		if err := p.Apply(m, j); err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		after := disk(t, folder)
		if same(before, after) {
			t.Errorf("%s: nothing was changed", name)
		}
		again, err := Draft(m, "x", []step.Model{model})
		if err != nil || again.Pending() {
			t.Errorf("%s: drafted again it is pending: %v", name, err)
		}
		if err := j.Undo(m, j.Items()[0].Change, false); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		if now := disk(t, folder); !same(before, now) {
			for n := range now {
				if before[n] != now[n] {
					t.Errorf("%s: %s is left", name, n)
				}
			}
		}
		if name == "command" {
			text := after[filepath.Join(folder, "disk", "C", "Deploy", "p.cmd")]
			if !strings.Contains(text, `SITECODE="Port 100%%" X="""q""" /l*v "%TEMP%\`) {
				t.Errorf("the command: %q", text)
			}
		}
	}
}

func TestFileStepsRefuse(t *testing.T) {
	m, _, folder := onTwin(t)
	if err := os.WriteFile(filepath.Join(folder, "disk", "C", "Deploy", "other.msi"), []byte("x"), 0o644); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		model step.Model
		say   string
	}{
		"no such INI": {step.New("ini", "file", `C:\Deploy\none.ini`, "section", "A", "key", "B", "value", "C"), "not exist"},
		"leading out": {step.New("ini", "file", `C:\..\x.ini`, "section", "A", "key", "B", "value", "C"), "no plain path"},
		"not a package": {step.New("transform", "out", `C:\Deploy\p.mst`, "package", `C:\Deploy\readme.txt`, "edits", removal),
			"not a compound file"},
		"a missing row": {step.New("transform", "out", `C:\Deploy\p.mst`, "package", demo.PlannerPath, "edits",
			"remove-row LaunchCondition,Nobody"), "no row with the key"},
		"no edits":       {step.New("transform", "out", `C:\Deploy\p.mst`, "package", demo.PlannerPath, "edits", ""), "change nothing"},
		"another file":   {step.New("copy", "out", `C:\Deploy\other.msi`, "package", demo.PlannerPath, "edits", removal), "not a compound file"},
		"a bad property": {step.New("command", "out", `C:\Deploy\p.cmd`, "package", demo.PlannerPath, "properties", "site=1"), "public property"},
	} {
		if _, err := Draft(m, "x", []step.Model{c.model}); err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v; want %q", name, err, c.say)
		}
	}
	line, err := kinds.CommandLine(`C:\My Deploy\p.msi`, "A=b c\nB=", `C:\t 1.mst;C:\t2.mst`)
	if want := `msiexec /i "C:\My Deploy\p.msi" A="b c" B="" TRANSFORMS="C:\t 1.mst;C:\t2.mst" /l*v "%TEMP%\p.log"`; err != nil ||
		line != want {
		t.Errorf("%s, %v", line, err)
	}
}

// A quarantine that was tampered with, is damaged or gone is not brought back
// blindly.
func TestQuarantineIsChecked(t *testing.T) {
	const folder = `C:\Program Files (x86)\Nine Fathom\Fairway Radio 1`
	for name, c := range map[string]struct {
		harm func(t *testing.T, dir string)
		want string
	}{
		"a path elsewhere": {func(t *testing.T, dir string) {
			list := filepath.Join(dir, "list.ndjson")
			b, err := os.ReadFile(list)
			if err != nil {
				t.Fatal(err)
			}
			if err := os.WriteFile(list, []byte(strings.Replace(string(b), `Fairway Radio 1\\relay.ini`, `..\\other.ini`, 1)+
				`{"path":"C:\\Windows\\evil.exe","kept":"000002"}`+"\n"), 0o644); err != nil {
				t.Fatal(err)
			}
		}, "not as the journal knows it"},
		"a name that leads out": {func(t *testing.T, dir string) {
			if err := os.WriteFile(filepath.Join(dir, "list.ndjson"), []byte(`{"path":"C:\\x","kept":"../../x"}`+"\n"), 0o644); err != nil {
				t.Fatal(err)
			}
		}, "not an entry of a quarantine"},
		"other contents": {func(t *testing.T, dir string) {
			kept, err := filepath.Glob(filepath.Join(dir, "0*"))
			if err != nil || len(kept) == 0 {
				t.Fatal(kept, err)
			}
			if err := os.WriteFile(kept[0], []byte("other"), 0o644); err != nil {
				t.Fatal(err)
			}
		}, "is damaged"},
		"gone": {func(t *testing.T, dir string) {
			if err := os.RemoveAll(dir); err != nil {
				t.Fatal(err)
			}
		}, "was emptied or moved"},
	} {
		m, j, _ := onTwin(t)
		p, err := Draft(m, "x", []step.Model{step.New("quarantine", "path", folder)})
		if err != nil {
			t.Fatal(err)
		}
		if err := p.Apply(m, j); err != nil {
			t.Fatal(err)
		}
		seq := j.InForce(m.Name())[0].Change
		c.harm(t, j.quarantine(seq))
		if err := j.Undo(m, seq, false); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", name, err, c.want)
		}
		if _, err := m.Stat(`C:\Windows\evil.exe`); err == nil {
			t.Errorf("%s: a file came elsewhere", name)
		}
	}
}

func TestPrices(t *testing.T) {
	for _, k := range step.Names() {
		s := kinds.Step{Kind: k}
		if s.Price().Size < 1 || s.Price().Size > 8 {
			t.Errorf("%s has no size", k)
		}
		if (k == "end-process" || k == "sign-out" || k == "repair" || k == "restore-point") != (s.OneWay() != "") {
			t.Errorf("%s: one way is %q", k, s.OneWay())
		}
	}
	list := []step.Remedy{{Title: "advice"}, {Title: "large", Steps: []step.Model{step.New("repair", "what", "system-files")}},
		{Title: "more advice"}, {Title: "small", Steps: []step.Model{step.New("registry", "key", "x")}},
		{Title: "two", Steps: []step.Model{step.New("transform", "out", "x"), step.New("command", "out", "y")}}}
	step.Order(list)
	var titles []string
	for _, r := range list {
		titles = append(titles, r.Title)
	}
	if got := strings.Join(titles, ", "); got != "advice, small, more advice, two, large" {
		t.Error(got)
	}
	if w := step.Price(list[4].Steps).Words(); !strings.Contains(w, "larger change; no restart; about 15 minutes; it cannot be undone") {
		t.Error(w)
	}
}
