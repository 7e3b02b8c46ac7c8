package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/trail"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
)

func TestTrail(t *testing.T) {
	dir := layOut(t)
	r := mustRun(t, dir, 0, "trail", "tidebook.log")
	for _, want := range []string{"FAILED  Tidebook Desk 2.8.1, exit code 1603", "slowest", "StartServices ←",
		"rolled back from", "undone"} {
		if !strings.Contains(r.out, want) {
			t.Errorf("trail does not say %q:\n%s", want, r.out)
		}
	}
	for l := range strings.Lines(mustRun(t, dir, 0, "trail", "tidebook.log", "--width", "80").out) {
		if n := len([]rune(strings.TrimRight(l, "\n"))); n > 80 {
			t.Errorf("%d columns: %s", n, l)
		}
	}
	tr := decode[trail.Trail](t, mustRun(t, dir, 0, "trail", "tidebook.log", "--failed", "--json", "--properties", "product*").out)
	var names []string
	for _, s := range tr.Steps {
		names = append(names, s.Name+" "+s.State)
	}
	if got := strings.Join(names, ", "); got != "INSTALL failed, InstallFinalize failed, StartServices failed" {
		t.Errorf("failed steps: %s", got)
	}
	if s := tr.Steps[2]; !s.Broke || s.Took < 30 || len(s.Messages) == 0 || s.Depth != 2 {
		t.Errorf("the step that broke: %+v", s)
	}
	if len(tr.Values) < 4 || tr.Values[0].Name != "ProductCode" {
		t.Errorf("properties: %+v", tr.Values)
	}
	r = mustRun(t, dir, 0, "trail", "tidebook.log", "--around", "2442", "--context", "2")
	if lines := strings.Split(strings.TrimSpace(r.out), "\n"); len(lines) != 5 || !strings.Contains(lines[2], "2442 > Error 1920") {
		t.Errorf("around 2442:\n%s", r.out)
	}
	if r := mustRun(t, dir, 1, "trail", "tidebook.log", "--around", "999999"); !strings.Contains(r.err, "has no line 999999") {
		t.Errorf("around a line that is not there: %s", r.err)
	}
}

// A log that grows is followed to its verdict.
func TestTrailFollows(t *testing.T) {
	dir := layOut(t)
	whole, err := os.ReadFile(filepath.Join(dir, "roster.log"))
	if err != nil {
		t.Fatal(err)
	}
	growing := filepath.Join(dir, "growing.log")
	half := len(whole) / 2 &^ 1
	if err := os.WriteFile(growing, whole[:half], 0o600); err != nil {
		t.Fatal(err)
	}
	go func() {
		time.Sleep(700 * time.Millisecond)
		f, err := os.OpenFile(growing, os.O_APPEND|os.O_WRONLY, 0)
		if err == nil {
			f.Write(whole[half:])
			f.Close()
		}
	}()
	r := mustRun(t, dir, 3, "trail", "growing.log", "--follow", "--patience", "20s")
	if !strings.Contains(r.out, "CostFinalize") || !strings.Contains(r.out, "drive Z:") {
		t.Errorf("following:\n%s", r.out)
	}
}

func TestLogs(t *testing.T) {
	dir := layOut(t)
	out := decode[struct{ Logs []why.Found }](t, mustRun(t, dir, 0, "logs", "--json", "--machine", twinName).out)
	if len(out.Logs) != 5 {
		t.Fatalf("%d logs on the twin, want 5: %+v", len(out.Logs), out.Logs)
	}
	for i, l := range out.Logs {
		if !strings.HasPrefix(l.Path, `C:\Windows\Temp\`) || l.Outcome != story.Failed || l.Product == "" || l.Cause == "" ||
			i > 0 && l.Time.After(out.Logs[i-1].Time) {
			t.Errorf("log %d: %+v", i, l)
		}
	}
	if r := mustRun(t, dir, 0, "logs", "."); !strings.Contains(r.out, "berthline.log") || strings.Contains(r.out, "twin.yaml") {
		t.Errorf("logs of a folder:\n%s", r.out)
	}
	if r := mustRun(t, dir, 3, "logs", filepath.Join(twinName, "registry")); !strings.Contains(r.err, "No setup log") {
		t.Errorf("a folder without logs: %s", r.err)
	}
	mustRun(t, dir, 2, "logs")
	mustRun(t, dir, 1, "logs", "nowhere")
}

// The logging policy is a hold: it is shown after every command until released.
func TestVerboseLoggingIsAHold(t *testing.T) {
	dir := layOut(t)
	before := tree(t, filepath.Join(dir, twinName))
	if r := mustRun(t, dir, 0, "logs", "verbose", "on", "--preview", "--machine", twinName); !strings.Contains(r.out,
		"+ string voicewarmupx") {
		t.Errorf("the preview does not show the value:\n%s", r.out)
	}
	if d := differs(before, tree(t, filepath.Join(dir, twinName))); d != nil {
		t.Errorf("the preview changed %v", d)
	}
	mustRun(t, dir, 0, "logs", "verbose", "on", "--yes", "--machine", twinName)
	type policy struct {
		Policy string
		Held   bool
	}
	if p := decode[policy](t, mustRun(t, dir, 0, "logs", "verbose", "show", "--json", "--machine",
		twinName).out); p.Policy != "voicewarmupx" || !p.Held {
		t.Errorf("policy as JSON: %+v", p)
	}
	if r := mustRun(t, dir, 0, "logs", "verbose", "show", "--machine", twinName); !strings.Contains(r.out, "voicewarmupx") ||
		!strings.Contains(r.out, "v  verbose") {
		t.Errorf("show:\n%s", r.out)
	}
	if r := mustRun(t, dir, 3, "why", "roster.log", "--machine", twinName); !strings.Contains(r.err, "hold in force: verbose logging policy") {
		t.Errorf("another command does not remind: %s", r.err)
	}
	mustRun(t, dir, 3, "undo", "--yes", "--machine", twinName) // a hold is not the last fix
	mustRun(t, dir, 0, "logs", "verbose", "off", "--yes", "--machine", twinName)
	if d := differs(before, tree(t, filepath.Join(dir, twinName))); d != nil {
		t.Errorf("after the release %v differ", d)
	}
	if r := mustRun(t, dir, 3, "logs", "verbose", "off", "--machine", twinName); strings.Contains(r.err, "in force") {
		t.Errorf("released twice: %s", r.err)
	}
	mustRun(t, dir, 2, "logs", "verbose", "loud", "--machine", twinName)
}

func TestWhySaid(t *testing.T) {
	dir := layOut(t)
	v := decode[verdict.Verdict](t, mustRun(t, dir, 3, "why", "--json", "--said", `Error 1327. Invalid Drive: Z:\`, "--machine", twinName).out)
	if *v.Cause.Class != "path" || v.FirstWithSteps() < 0 || len(v.Machine) == 0 {
		t.Errorf("a dialog's text: %+v", v)
	}
	v = decode[verdict.Verdict](t, mustRun(t, dir, 3, "why", "--json", "--exit", "1603", "--machine", twinName).out)
	if *v.Cause.Class != "permission" || v.FirstWithSteps() < 0 {
		t.Errorf("1603 on a machine that shows a cause: %+v", v.Cause)
	}
	r := mustRun(t, dir, 3, "why", "roster.log", "--exit", "1618")
	if !strings.Contains(r.out, "perhaps this is the") {
		t.Errorf("an exit code that is not the log's:\n%s", r.out)
	}
	if r := mustRun(t, dir, 0, "code", "1327"); !strings.Contains(r.out, "Known causes behind it") {
		t.Errorf("code does not link to signs:\n%s", r.out)
	}
}
