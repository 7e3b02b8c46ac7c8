package casefile

import (
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/fix"
	"hollowkey/core/logs/story"
	"hollowkey/core/machine"
	"hollowkey/core/step"
	"hollowkey/core/why/verdict"
	"hollowkey/demo/demotest"
)

func verdictOn(log string, outcome story.Outcome) *verdict.Verdict {
	return &verdict.Verdict{Outcome: outcome, Logs: []verdict.Log{{File: log}}}
}

func standOf(t *testing.T, dir string) Stand {
	t.Helper()
	j, err := fix.OpenJournal(dir, clock)
	if err != nil {
		t.Fatal(err)
	}
	st, err := StandOf(dir, j, clock)
	if err != nil {
		t.Fatal(err)
	}
	return st
}

// A folder that holds nothing stands for nothing; so does an absent one.
func TestAnEmptyStand(t *testing.T) {
	for _, dir := range []string{t.TempDir(), filepath.Join(t.TempDir(), "absent")} {
		st := standOf(t, dir)
		v, log := st.Subject()
		if st.About != nil || v != nil || log != "" || st.CutOff() || len(st.Holds()) != 0 || st.VerdictOf("x.log") != nil {
			t.Errorf("%+v, %v, %q", st, v, log)
		}
	}
}

// The subject is the last verdict on a setup that failed, with its log as the
// case keeps it.
func TestSubject(t *testing.T) {
	other := t.TempDir()
	bad, good := write(t, filepath.Join(other, "bad.log"), "it failed"), write(t, filepath.Join(other, "good.log"), "it worked")
	for _, tt := range []struct {
		name string
		kept []*verdict.Verdict
		want string
	}{
		{"one that failed, then one that worked", []*verdict.Verdict{verdictOn(bad, story.Failed), verdictOn(good, story.Succeeded)}, "bad.log"},
		{"only one that worked", []*verdict.Verdict{verdictOn(good, story.Succeeded)}, "good.log"},
		{"one that worked, then one that failed", []*verdict.Verdict{verdictOn(good, story.Succeeded), verdictOn(bad, story.Failed)}, "bad.log"},
	} {
		dir := filepath.Join(t.TempDir(), "case")
		if _, err := Make(dir, About{Title: "x"}, clock); err != nil {
			t.Fatal(err)
		}
		for _, v := range tt.kept {
			if err := Keep(dir, []string{v.Logs[0].File}, v); err != nil {
				t.Fatal(err)
			}
		}
		st := standOf(t, dir)
		v, log := st.Subject()
		if v == nil || filepath.Base(log) != tt.want || !strings.HasPrefix(log, dir) {
			t.Errorf("%s: %q", tt.name, log)
		}
		if st.About == nil || st.VerdictOf(filepath.Join("elsewhere", tt.want)) == nil || st.VerdictOf("none.log") != nil {
			t.Errorf("%s: the verdict is not found by its log", tt.name)
		}
	}
}

// Without a verdict the newest attempt that failed is the subject.
func TestSubjectOfAttempts(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "case")
	for _, outcome := range []story.Outcome{story.Failed, story.Failed, story.Succeeded} {
		a, err := BeginAttempt(dir, Attempt{Machine: "D07"})
		if err != nil {
			t.Fatal(err)
		}
		a.Verdict = &verdict.Verdict{Outcome: outcome}
		write(t, a.LogPath(dir), "log")
		if err := a.End(dir); err != nil {
			t.Fatal(err)
		}
	}
	v, log := standOf(t, dir).Subject()
	if v == nil || v.Worked() || filepath.Base(log) != "0002.log" {
		t.Errorf("%+v, %s", v, log)
	}
}

// Holds are told once each, and by machine.
func TestHoldsAreTold(t *testing.T) {
	_, m := demotest.LayOut(t)
	dir := filepath.Join(t.TempDir(), "case")
	j, err := fix.OpenJournal(dir, clock)
	if err != nil {
		t.Fatal(err)
	}
	p, err := fix.Draft(m, "hold", []step.Model{
		step.New("service", "name", "QuayWatch", "start", string(machine.StartDisabled)),
		step.New("service", "name", "MooringLights", "start", string(machine.StartDisabled)),
	})
	if err != nil {
		t.Fatal(err)
	}
	p.Hold = fix.StartupHold
	if err := p.Apply(m, j); err != nil {
		t.Fatal(err)
	}
	st := standOf(t, dir)
	if got := st.Holds(); len(got) != 1 || got[0] != fix.StartupHold+" on ELLERY-D07" || st.CutOff() {
		t.Errorf("%q, cut off: %v", got, st.CutOff())
	}
}

// A file of the case that was changed by hand is named, not passed over.
func TestABrokenStand(t *testing.T) {
	for name, file := range map[string]string{"about": "case.yaml", "attempt": "attempts/0001.json", "verdict": "verdicts/0001.json"} {
		dir := filepath.Join(t.TempDir(), "case")
		write(t, filepath.Join(dir, filepath.FromSlash(file)), "{ : broken")
		j, err := fix.OpenJournal(dir, clock)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := StandOf(dir, j, clock); err == nil || !strings.Contains(err.Error(), filepath.Base(file)) {
			t.Errorf("%s: %v", name, err)
		}
	}
}
