package why_test

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/trail"
	"hollowkey/core/step"
	"hollowkey/core/why"
	"hollowkey/core/why/signs"
	"hollowkey/demo"
	"hollowkey/demo/demotest"
)

func ask(t *testing.T, q why.Question) *why.Answer {
	t.Helper()
	ans, err := why.Ask(context.Background(), q)
	if err != nil {
		t.Fatal(err)
	}
	return ans
}

func write(t *testing.T, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	return path
}

// Every log of the demo has the cause that its scenario gives it, and on the
// desktop a remedy that a program can take.
func TestTheDemosLogs(t *testing.T) {
	folder, m := demotest.LayOut(t)
	for log, want := range map[string]string{
		"berthline.log": `permission C:\Users\mwhitlow\AppData\Local\Temp`, "tidebook.log": "service BerthSync", "roster.log": "path Z:",
		"ledger.log": `path C:\ProgramData\Saltmarsh Quay`, "planner31.log": "condition VersionNT",
	} {
		v := ask(t, why.Question{Logs: []string{filepath.Join(folder, log)}, Machine: m}).Verdict
		if got := *v.Cause.Class + " " + v.Cause.Subject.Name; got != want || v.Cause.Confidence < 0.9 || v.Worked() {
			t.Errorf("%s: %s, %.2f; want %s", log, got, v.Cause.Confidence, want)
		}
		if !slices.ContainsFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) > 0 }) {
			t.Errorf("%s: no remedy has steps: %+v", log, v.Remedies)
		}
	}
}

// The package is only looked at on a machine; a gate that refuses there is
// mended by the smallest change first.
func TestThePackageJoinsOnAMachine(t *testing.T) {
	folder, m := demotest.LayOut(t)
	q := why.Question{Logs: []string{filepath.Join(folder, "planner31.log")}}
	alone := ask(t, q).Verdict
	q.Machine = m
	joined := ask(t, q).Verdict
	kinds := func(list []step.Remedy) (out []string) {
		for _, r := range list {
			for _, s := range r.Steps {
				for kind := range s {
					out = append(out, kind)
				}
			}
		}
		return out
	}
	if k := kinds(alone.Remedies); slices.Contains(k, "transform") {
		t.Errorf("a transform was made of a package that nobody read: %v", k)
	}
	if k := kinds(joined.Remedies); len(k) < 3 || k[0] != "transform" || !slices.Contains(k, "copy") {
		t.Errorf("%v", k)
	}
	if !slices.ContainsFunc(joined.Machine, func(f signs.Finding) bool { return f.Check == "package-gates" && f.Answer == "yes" }) {
		t.Errorf("findings: %+v", joined.Machine)
	}
	if err := m.RemoveFile(demo.PlannerPath); err != nil {
		t.Fatal(err)
	}
	gone := ask(t, q).Verdict
	if !slices.ContainsFunc(gone.Machine, func(f signs.Finding) bool { return f.Check == "package-gates" && f.Answer == "unknown" }) ||
		slices.Contains(kinds(gone.Remedies), "transform") {
		t.Errorf("a package that is gone: %+v, %v", gone.Machine, kinds(gone.Remedies))
	}
}

// A log reads the same as a file, in its folder among other files, and from a
// pipe.
func TestWaysToGiveALog(t *testing.T) {
	folder, _ := demotest.LayOut(t)
	text, err := os.ReadFile(filepath.Join(folder, "tidebook.log"))
	if err != nil {
		t.Fatal(err)
	}
	path := write(t, "tidebook.log", string(text))
	dir := filepath.Dir(path)
	for name, other := range map[string]string{"notes.txt": "call Tess about the quay lights\n", ".hidden": "x",
		"photo.png": "\x89PNG\r\n\x1a\n\x00\x00"} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(other), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if err := os.Mkdir(filepath.Join(dir, "below"), 0o755); err != nil {
		t.Fatal(err)
	}
	var counted int64
	count := func(total int64) (func(io.Reader) io.Reader, func()) {
		return func(r io.Reader) io.Reader { return &counter{r, &counted} }, func() { counted *= -1 }
	}
	for name, q := range map[string]why.Question{
		"a file":   {Logs: []string{path}, Watch: count},
		"a folder": {Logs: []string{dir}},
		"a pipe":   {Logs: []string{"-"}, Stdin: strings.NewReader(string(text))},
	} {
		ans := ask(t, q)
		v := ans.Verdict
		if *v.Cause.Class != "service" || v.BrokeAt.Action == nil || *v.BrokeAt.Action != "StartServices" || *v.ExitCode != 1603 {
			t.Errorf("%s: %+v, broke at %+v", name, v.Cause, v.BrokeAt)
		}
		if name == "a folder" && (len(ans.Logs) != 3 || ans.Verdict.Logs[0].File != path) {
			t.Errorf("%s: %v were read, the first of %+v", name, ans.Logs, v.Logs)
		}
	}
	if counted != -int64(len(text)) {
		t.Errorf("%d bytes were counted and ended; the log has %d", counted, len(text))
	}
}

type counter struct {
	io.Reader
	n *int64
}

func (c *counter) Read(p []byte) (int, error) {
	n, err := c.Reader.Read(p)
	*c.n += int64(n)
	return n, err
}

// Without a log the words of a dialog or a number are enough; with one they are
// compared with it.
func TestWordsAndNumbers(t *testing.T) {
	folder, _ := demotest.LayOut(t)
	exit := 1618
	v := ask(t, why.Question{Exit: &exit}).Verdict
	if v.Cause.Class == nil || *v.Cause.Class != "busy" || v.ExitCode == nil || *v.ExitCode != 1618 {
		t.Errorf("%+v, %v", v.Cause, v.ExitCode)
	}
	said := ask(t, why.Question{Said: "Error 1920. Service 'Berth Sync' (BerthSync) failed to start."}).Verdict
	if said.Cause.Class == nil || *said.Cause.Class != "service" || !strings.Contains(said.Cause.Subject.Name, "BerthSync") {
		t.Errorf("%+v", said.Cause)
	}
	both := ask(t, why.Question{Logs: []string{filepath.Join(folder, "tidebook.log")}, Exit: &exit}).Verdict
	if *both.Cause.Class != "service" || !strings.Contains(fmt.Sprintf("%+v", both), "1618") {
		t.Errorf("a number that the log does not know: %+v", both.Cause)
	}
}

// What cannot be answered says why, and what to do.
func TestErrors(t *testing.T) {
	many := t.TempDir()
	for i := range 201 {
		if err := os.WriteFile(filepath.Join(many, fmt.Sprintf("%03d.log", i)), []byte("x"), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	for _, tt := range []struct {
		name string
		q    why.Question
		is   error
		say  string
	}{
		{"nothing", why.Question{}, why.ErrCall, "hint: hollowkey logs"},
		{"an encoding that is none", why.Question{Logs: []string{"x"}, Encoding: "klingon"}, why.ErrCall, "klingon"},
		{"a file that is not there", why.Question{Logs: []string{filepath.Join(many, "none")}}, nil, "there is no such file"},
		{"an empty folder", why.Question{Logs: []string{t.TempDir()}}, nil, "the folder is empty"},
		{"too many", why.Question{Logs: []string{many}}, nil, "hint: name the logs of one attempt"},
		{"an empty log", why.Question{Logs: []string{write(t, "e.log", "")}}, dialects.ErrEmpty, "the setup may still run"},
		{"a package",
			why.Question{Logs: []string{write(t, "p.log", "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1\x00\x00\x00")}}, dialects.ErrBinary, "not the package"},
		{"prose", why.Question{Logs: []string{write(t, "n.log", "Dear Tess,\nthe lights are on.\n")}}, dialects.ErrNoLog, "/l*v"},
		{"signs that are not there", why.Question{Logs: []string{"x"}, Signs: filepath.Join(many, "none")}, nil, "none"},
	} {
		_, err := why.Ask(context.Background(), tt.q)
		if err == nil || tt.is != nil && !errors.Is(err, tt.is) || !strings.Contains(err.Error(), tt.say) {
			t.Errorf("%s: %v", tt.name, err)
		}
	}
	folder, _ := demotest.LayOut(t)
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := why.Ask(ctx, why.Question{Logs: []string{filepath.Join(folder, "roster.log")}}); !errors.Is(err, context.Canceled) {
		t.Errorf("called off: %v", err)
	}
}

// A site's own signs count beside ours.
func TestSiteSigns(t *testing.T) {
	folder, _ := demotest.LayOut(t)
	sign := write(t, "site.yaml", `
- id: site-tide-clock
  title: The tide clock was switched off for the clock change
  class: service
  strength: 0.99
  seen:
    - text: ['\((?P<service>BerthSync)\) failed to start']
  subject: { kind: service, name: '{service}' }
  explanation: Port Ellery switches the tide clock off twice a year.
  remedies:
    - class: advice
      title: ask the harbour office
  tests:
    action: StartServices
    match: ["Service 'Berth Sync' (BerthSync) failed to start"]
    nearMiss: ["Service 'Berth Sync' (BerthSync) was started"]
`)
	q := why.Question{Logs: []string{filepath.Join(folder, "tidebook.log")}}
	ours := ask(t, q).Verdict
	q.Signs = filepath.Dir(sign)
	v := ask(t, q).Verdict
	if v.Cause.Title == ours.Cause.Title || !strings.Contains(v.Cause.Title, "tide clock") || v.Remedies[0].Title != "ask the harbour office" {
		t.Errorf("%+v, %+v", v.Cause, v.Remedies)
	}
	if err := os.WriteFile(sign, []byte("- id: [\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := why.Ask(context.Background(), q); err == nil || !strings.Contains(err.Error(), "site.yaml") {
		t.Errorf("a sign file that cannot be read: %v", err)
	}
}

// The trail marks where it broke; around a line its neighbours stand.
func TestTrailAndAround(t *testing.T) {
	folder, _ := demotest.LayOut(t)
	log := filepath.Join(folder, "tidebook.log")
	q := why.Question{Logs: []string{log}}
	tr, v, err := why.Trail(context.Background(), q, trail.Options{})
	if err != nil {
		t.Fatal(err)
	}
	broke := slices.IndexFunc(tr.Steps, func(s trail.Step) bool { return s.Broke })
	if broke < 0 || tr.Steps[broke].Name != "StartServices" || tr.BrokeAt != v.BrokeAt {
		t.Errorf("step %d broke, %+v", broke, tr.BrokeAt)
	}
	again, err := why.TrailOf(context.Background(), log, v, trail.Options{})
	if err != nil || len(again.Steps) != len(tr.Steps) || again.BrokeAt != tr.BrokeAt {
		t.Errorf("of a verdict that is known: %v", err)
	}
	lines, err := why.Around(context.Background(), q, *v.BrokeAt.Line, 2)
	if err != nil || len(lines) != 5 || lines[2].Line != *v.BrokeAt.Line {
		t.Errorf("%+v, %v", lines, err)
	}
	exit := 5
	if tr, _, err := why.Trail(context.Background(), why.Question{Exit: &exit}, trail.Options{}); err != nil || tr != nil {
		t.Errorf("a number has a trail: %+v, %v", tr, err)
	}
}
