package casefile

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/why/verdict"
)

func clock() time.Time { return time.Date(2026, 5, 4, 9, 12, 1, 5, time.UTC) }

func write(t *testing.T, path, text string) string {
	t.Helper()
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	return path
}

func TestAboutSurvives(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "case")
	c, err := Make(dir, About{Title: "Tidebook: it \"stops\"\n# here", Told: "- 'x'", Machine: "D07"}, clock)
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Note("two\nlines: yes"); err != nil {
		t.Fatal(err)
	}
	if err := c.Close("solved"); err != nil {
		t.Fatal(err)
	}
	again, err := Load(dir, clock)
	if err != nil || again.Title != c.Title || again.Told != c.Told || again.State != Closed || again.Outcome != "solved" ||
		len(again.Notes) != 1 || again.Notes[0].Text != "two\nlines: yes" || !again.Opened.Equal(c.Opened) {
		t.Errorf("%+v, %v", again, err)
	}
	if _, err := Make(dir, About{}, clock); err == nil {
		t.Error("a case was opened twice")
	}
	write(t, filepath.Join(dir, "case.yaml"), "title: x\nunknown: y\n")
	if _, err := Load(dir, clock); err == nil || !strings.Contains(err.Error(), "case.yaml") {
		t.Errorf("an unknown key: %v", err)
	}
	if _, err := Load(t.TempDir(), clock); err == nil || !strings.Contains(err.Error(), "hollowkey case open --case ") {
		t.Errorf("no case: %v", err)
	}
}

// The same contents are kept once, others beside them under a name of their
// own.
func TestEvidence(t *testing.T) {
	dir, other := t.TempDir(), t.TempDir()
	add := func(name string) string {
		t.Helper()
		at, err := AddEvidence(dir, name)
		if err != nil {
			t.Fatal(err)
		}
		return filepath.Base(at)
	}
	first := write(t, filepath.Join(other, "a", "setup.log"), "one")
	second := write(t, filepath.Join(other, "b", "setup.log"), "two")
	empty := write(t, filepath.Join(other, "c", "setup.log"), "")
	got := []string{add(first), add(first), add(second), add(second), add(empty), add(first)}
	if want := "setup.log setup.log setup-2.log setup-2.log setup-3.log setup.log"; strings.Join(got, " ") != want {
		t.Errorf("%v, want %s", got, want)
	}
	if b, _ := os.ReadFile(filepath.Join(dir, "evidence", "setup-2.log")); string(b) != "two" {
		t.Errorf("%q", b)
	}
	if _, err := AddEvidence(dir, filepath.Join(other, "absent.log")); err == nil {
		t.Error("an absent file was added")
	}
}

func TestVerdicts(t *testing.T) {
	dir := t.TempDir()
	for _, summary := range []string{"a", "b", "a"} {
		if _, err := AddVerdict(dir, &verdict.Verdict{Cause: verdict.Cause{Summary: summary}}); err != nil {
			t.Fatal(err)
		}
	}
	list, err := Verdicts(dir)
	if err != nil || len(list) != 2 || list[0].Cause.Summary != "a" || list[1].Cause.Summary != "b" {
		t.Errorf("%+v, %v", list, err)
	}
	write(t, filepath.Join(dir, "verdicts", "0007.json"), "{")
	if _, err := Verdicts(dir); err == nil || !strings.Contains(err.Error(), "0007.json") {
		t.Errorf("a broken verdict: %v", err)
	}
}

// An attempt is known of from the moment it begins; numbers go on; a log
// outside of the case is refused.
func TestAttempts(t *testing.T) {
	dir := t.TempDir()
	a, err := BeginAttempt(dir, Attempt{Package: "x.msi"})
	if err != nil {
		t.Fatal(err)
	}
	if list, err := Attempts(dir); err != nil || len(list) != 1 || list[0].Done {
		t.Errorf("begun: %+v, %v", list, err)
	}
	a.Exit = 1603
	if err := a.End(dir); err != nil {
		t.Fatal(err)
	}
	b, err := BeginAttempt(dir, Attempt{})
	if err != nil || b.Number != 2 || b.Log == a.Log {
		t.Errorf("%+v, %v", b, err)
	}
	list, err := Attempts(dir)
	if err != nil || len(list) != 2 || !list[0].Done || list[0].Exit != 1603 || list[1].Done {
		t.Errorf("%+v, %v", list, err)
	}
	write(t, filepath.Join(dir, "attempts", "0003.json"), `{"number":3,"log":"../../etc/passwd"}`)
	if _, err := Attempts(dir); err == nil || !strings.Contains(err.Error(), "outside of the case") {
		t.Errorf("a log that leads out: %v", err)
	}
}

func TestCommands(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "case")
	if err := Record(dir, clock(), []string{"why"}, 0); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(dir); err == nil {
		t.Error("something was written where no case is open")
	}
	if _, err := Make(dir, About{Title: "x"}, clock); err != nil {
		t.Fatal(err)
	}
	if err := Record(dir, clock(), []string{"retry", "--given", "DBPASSWORD=hunter2"}, 3); err != nil {
		t.Fatal(err)
	}
	f, err := os.OpenFile(filepath.Join(dir, "commands.ndjson"), os.O_APPEND|os.O_WRONLY, 0)
	if err != nil {
		t.Fatal(err)
	}
	f.WriteString(`{"time":"20`) // cut off
	f.Close()
	list, err := Commands(dir)
	if err != nil || len(list) != 1 || list[0].Exit != 3 || strings.Contains(strings.Join(list[0].Args, " "), "hunter2") {
		t.Errorf("%+v, %v", list, err)
	}
}
