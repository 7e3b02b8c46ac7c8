package cli_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

const twinName = "ELLERY-D07"

var demoLogs = []string{"berthline.log", "tidebook.log", "roster.log"}

func TestFixAndUndoLeaveNoTrace(t *testing.T) {
	dir := layOut(t)
	long := time.Date(2026, 3, 4, 7, 5, 31, 0, time.UTC)
	for name := range tree(t, filepath.Join(dir, twinName)) {
		if err := os.Chtimes(filepath.Join(dir, twinName, name), long, long); err != nil {
			t.Fatal(err)
		}
	}
	before, since := tree(t, filepath.Join(dir, twinName)), times(t, filepath.Join(dir, twinName))
	for _, log := range demoLogs {
		r := mustRun(t, dir, 0, "fix", log, "--machine", twinName, "--preview")
		if !strings.Contains(r.out, "Nothing has been changed") || !strings.Contains(r.out, "+ ") {
			t.Errorf("%s: preview:\n%s", log, r.out)
		}
		if d := differs(before, tree(t, filepath.Join(dir, twinName))); d != nil {
			t.Fatalf("%s: the preview changed %v", log, d)
		}
		if r := mustRun(t, dir, 1, "fix", log, "--machine", twinName); !strings.Contains(r.err, "no terminal to ask on") {
			t.Errorf("%s: without --yes: %s", log, r.err)
		}
		mustRun(t, dir, 0, "fix", log, "--machine", twinName, "--yes")
		if d := differs(before, tree(t, filepath.Join(dir, twinName))); len(d) != 1 {
			t.Errorf("%s: the fix changed %v, want one file", log, d)
		}
		if r := mustRun(t, dir, 0, "journal", "--machine", twinName); !strings.Contains(r.out, " done ") {
			t.Errorf("%s: journal:\n%s", log, r.out)
		}
		// The cause is gone, so the machine no longer shows it.
		if r := run(t, dir, nil, "why", log, "--machine", twinName); !strings.Contains(r.out, "does not show it now") {
			t.Errorf("%s: after the fix the machine still seems to show it:\n%s", log, r.out)
		}
		mustRun(t, dir, 0, "undo", "--yes", "--machine", twinName)
		if d := differs(before, tree(t, filepath.Join(dir, twinName))); d != nil {
			t.Errorf("%s: after undo %v differ", log, d)
		}
		for name, at := range times(t, filepath.Join(dir, twinName)) {
			if !at.Equal(since[name]) {
				t.Errorf("%s: after undo %s is of %v, was of %v", log, name, at, since[name])
			}
		}
		if r := mustRun(t, dir, 3, "undo", "--yes", "--machine", twinName); !strings.Contains(r.err, "nothing to undo") {
			t.Errorf("%s: undo twice: %s", log, r.err)
		}
	}
}

// times tells when each file of a folder was written last.
func times(t *testing.T, dir string) map[string]time.Time {
	t.Helper()
	at := map[string]time.Time{}
	err := filepath.WalkDir(dir, func(path string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		info, err := e.Info()
		at[path] = info.ModTime()
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return at
}

func TestUndoRefusesWhatChangedSince(t *testing.T) {
	dir := layOut(t)
	services := filepath.Join(dir, twinName, "services.yaml")
	mustRun(t, dir, 0, "fix", "tidebook.log", "--machine", twinName, "--yes")
	b, err := os.ReadFile(services)
	if err != nil {
		t.Fatal(err)
	}
	changed := strings.Replace(string(b), "start: manual # switched", "start: automatic # switched", 1)
	if changed == string(b) {
		t.Fatalf("the fix did not set the start type:\n%s", b)
	}
	if err := os.WriteFile(services, []byte(changed), 0o600); err != nil {
		t.Fatal(err)
	}
	r := mustRun(t, dir, 1, "undo", "--yes", "--machine", twinName)
	if !strings.Contains(r.err, "has changed since") || !strings.Contains(r.err, "--force") {
		t.Errorf("undo after a change by somebody else: %s", r.err)
	}
	if b, _ := os.ReadFile(services); string(b) != changed {
		t.Errorf("a refused undo changed something")
	}
	mustRun(t, dir, 0, "undo", "--yes", "--machine", twinName, "--force")
	if b, _ := os.ReadFile(services); !strings.Contains(string(b), "start: disabled # switched") {
		t.Errorf("undo --force left\n%s", b)
	}
}

// The process is really ended at each point between the records.
func TestCutOffAtEachPoint(t *testing.T) {
	for _, tt := range []struct {
		point, args, note string
		inForce           bool
	}{
		{"after-begin", "fix", "had not been made", false},
		{"after-change", "fix", "had been made", true},
		{"after-undo-begin", "undo", "still in force", true},
		{"after-undo", "undo", "had been undone", false},
	} {
		dir := layOut(t)
		before := tree(t, filepath.Join(dir, twinName))
		fix := []string{"fix", "roster.log", "--machine", twinName, "--yes"}
		args := fix
		if tt.args == "undo" {
			mustRun(t, dir, 0, fix...)
			args = []string{"undo", "--yes", "--machine", twinName}
		}
		if r := crash(t, dir, tt.point, args...); r.code != crashed {
			t.Fatalf("%s: the process was not ended there: %d %s", tt.point, r.code, r.err)
		}
		r := mustRun(t, dir, 0, "journal", "--machine", twinName)
		if !strings.Contains(r.err, "was cut off") || !strings.Contains(r.err, tt.note) {
			t.Errorf("%s: the next run says %q, want %q", tt.point, r.err, tt.note)
		}
		if r := mustRun(t, dir, 0, "journal", "--machine", twinName); r.err != "" {
			t.Errorf("%s: said again: %s", tt.point, r.err)
		}
		want := 3
		if tt.inForce {
			want = 0
		}
		mustRun(t, dir, want, "undo", "--yes", "--machine", twinName)
		if d := differs(before, tree(t, filepath.Join(dir, twinName))); d != nil {
			t.Errorf("%s: in the end %v differ", tt.point, d)
		}
	}
}

func TestTornJournalLine(t *testing.T) {
	dir := layOut(t)
	mustRun(t, dir, 0, "fix", "tidebook.log", "--machine", twinName, "--yes")
	journal := filepath.Join(dir, twinName+".case", "journal.ndjson")
	b, err := os.ReadFile(journal)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(journal, append(b, `{"seq":99,"ti`...), 0o600); err != nil {
		t.Fatal(err)
	}
	mustRun(t, dir, 0, "undo", "--yes", "--machine", twinName)
	if r := mustRun(t, dir, 0, "journal", "--machine", twinName); !strings.Contains(r.out, "undone") {
		t.Errorf("after a torn line the journal says\n%s", r.out)
	}
	if err := os.WriteFile(journal, []byte("{nonsense}\n{\"seq\":1}\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if r := mustRun(t, dir, 1, "journal", "--machine", twinName); !strings.Contains(r.err, "journal.ndjson:1:") {
		t.Errorf("a journal that was changed by hand: %s", r.err)
	}
}

// A registry step leaves the state before it as standard registry text, too.
func TestRegistryStepLeavesRegFile(t *testing.T) {
	dir := layOut(t)
	mustRun(t, dir, 0, "fix", "roster.log", "--machine", twinName, "--yes", "--case", "port")
	files, err := filepath.Glob(filepath.Join(dir, twinName+".case", "registry", "before-*.reg"))
	if err != nil || len(files) != 1 {
		t.Fatalf("registry texts: %v, %v", files, err)
	}
	b, err := os.ReadFile(files[0])
	if err != nil || !strings.Contains(strings.ReplaceAll(string(b), "\x00", ""), `"Personal"=hex(2):5a,00,3a,00`) {
		t.Errorf("%s: %q", files[0], b)
	}
	mustRun(t, dir, 0, "undo", "--yes", "--machine", twinName, "--case", "port")
}

func TestBadTwins(t *testing.T) {
	for _, tt := range []struct{ file, text, want string }{
		{"twin.yaml", "os: {}\n", "name is missing"},
		{"twin.yaml", "name: [", "twin.yaml:"},
		{"access.yaml", "'C:\\': O:SYD:(A;;QQ;;;SY)\n", "access.yaml:1: C:\\"},
		{"services.yaml", "- name: x\n  start: sometimes\n  state: running\n", "services.yaml:1"},
		{"registry/user.reg", "hello\n", "registry/user.reg: line 1"},
	} {
		dir := layOut(t)
		if err := os.WriteFile(filepath.Join(dir, twinName, filepath.FromSlash(tt.file)), []byte(tt.text), 0o600); err != nil {
			t.Fatal(err)
		}
		if r := mustRun(t, dir, 1, "fix", "roster.log", "--machine", twinName, "--preview"); !strings.Contains(r.err, tt.want) {
			t.Errorf("%s: %s, want %q", tt.file, r.err, tt.want)
		}
	}
}

func TestTwinIsNotLeft(t *testing.T) {
	dir := layOut(t)
	secret := filepath.Join(dir, "secret.yaml")
	if err := os.WriteFile(secret, []byte("- name: x\n  start: manual\n  state: stopped\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	services := filepath.Join(dir, twinName, "services.yaml")
	if err := os.Remove(services); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink(filepath.Join("..", "secret.yaml"), services); err != nil {
		t.Skip("no symbolic links here:", err)
	}
	if r := mustRun(t, dir, 1, "fix", "tidebook.log", "--machine", twinName, "--preview"); !strings.Contains(r.err, "services.yaml") {
		t.Errorf("a link out of the twin: %s", r.err)
	}
}

func TestFixScript(t *testing.T) {
	dir := layOut(t)
	before := tree(t, filepath.Join(dir, "ELLERY-D07"))
	mustRun(t, dir, 0, "fix", "roster.log", "--machine", "ELLERY-D07", "--script", "ps1")
	files := tree(t, dir)
	if !strings.Contains(files["hollowkey-fix.ps1"], "-Name 'Personal' -PropertyType ExpandString -Value '%USERPROFILE%\\Documents'") ||
		!strings.Contains(files["hollowkey-fix-undo.ps1"], "-Value 'Z:\\Documents'") {
		t.Errorf("%s\n%s", files["hollowkey-fix.ps1"], files["hollowkey-fix-undo.ps1"])
	}
	if d := differs(before, tree(t, filepath.Join(dir, "ELLERY-D07"))); len(d) > 0 {
		t.Errorf("the machine was changed: %v", d)
	}
	mustRun(t, dir, 1, "fix", "roster.log", "--machine", "ELLERY-D07", "--script", "ps1") // they are there already
	mustRun(t, dir, 0, "fix", "tidebook.log", "--machine", "ELLERY-D07", "--script", "cmd")
	mustRun(t, dir, 2, "fix", "tidebook.log", "--machine", "ELLERY-D07", "--script", "sh")
}
