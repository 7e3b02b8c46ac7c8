package ladder_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/machine/twin"
	"hollowkey/core/prove/ladder"
	"hollowkey/core/prove/retry"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
	"hollowkey/demo/demotest"
)

func clock() time.Time { return time.Date(2026, 5, 4, 10, 0, 0, 0, time.UTC) }

// A bench is the demo's machine with a case, a journal and the verdict on one
// log.
func bench(t *testing.T, log string) (*twin.Twin, *fix.Journal, *verdict.Verdict, string) {
	t.Helper()
	folder, m := demotest.LayOut(t)
	dir := filepath.Join(t.TempDir(), "case")
	j, err := fix.OpenJournal(dir, clock)
	if err != nil {
		t.Fatal(err)
	}
	ans, err := why.Ask(t.Context(), why.Question{Logs: []string{filepath.Join(folder, log)}, Machine: m})
	if err != nil {
		t.Fatal(err)
	}
	return m, j, ans.Verdict, dir
}

// The likeliest and cheapest come first; what cannot be undone and what only
// pretends come behind what can be, and each thing stands there once.
func TestOrder(t *testing.T) {
	m, _, v, _ := bench(t, "ledger.log")
	v.Remedies = append(v.Remedies, step.Remedy{Title: "pretend", OnlyNamed: true,
		Steps: []step.Model{step.New("registry", "key", `HKCU\Software\X`, "name", "A", "type", "string", "value", "1")}},
		v.Remedies[0])
	l := ladder.Build(v, "ledger.log", m)
	if len(l.Rungs) < 3 || l.Next() != 0 || l.Rungs[0].Title != v.Remedies[0].Title {
		t.Fatalf("%+v", l.Rungs)
	}
	seen := map[string]bool{}
	pretends, oneWay := -1, -1
	for i, r := range l.Rungs {
		if seen[r.Title] {
			t.Errorf("%s is there twice", r.Title)
		}
		seen[r.Title] = true
		if r.Title == "pretend" {
			pretends = i
		}
		if r.OneWay && oneWay < 0 {
			oneWay = i
		}
		if (len(r.Steps) == 0) != (r.State == ladder.Person) || r.Likely <= 0 || r.Likely > 1 {
			t.Errorf("%+v", r)
		}
	}
	if pretends < 1 || oneWay < pretends {
		t.Errorf("the one that pretends stands at %d, the first without a way back at %d: %+v", pretends, oneWay, l.Rungs)
	}
}

// What did not help is undone before the next one; what helped stays; where it
// fails elsewhere the rung stays, and what mends the new failure comes next.
func TestClimb(t *testing.T) {
	m, j, v, dir := bench(t, "ledger.log")
	l := ladder.Build(v, "ledger.log", m)
	useless := step.New("registry", "key", `HKCU\Software\Quay`, "name", "Tried", "type", "string", "value", "1")
	l.Rungs = append([]ladder.Rung{{Title: "of no use", Steps: []step.Model{useless}, State: ladder.Waiting, Likely: 0.9}}, l.Rungs...)
	elsewhere := *v
	elsewhere.Remedies = []step.Remedy{{Title: "for the next failure", Steps: []step.Model{step.New("key", "key", `HKCU\Software\Next`)}}}
	answers := []retry.Change{retry.Same, retry.Further, retry.Gone}
	c := ladder.Climber{Machine: m, Journal: j, Dir: dir, Try: func() (*retry.Result, error) {
		change := answers[0]
		answers = answers[1:]
		return &retry.Result{Change: change, Words: string(change), Attempt: &casefile.Attempt{Verdict: &elsewhere}}, nil
	}}
	var titles []string
	for at := l.Next(); at >= 0; at = l.Next() {
		p, err := c.Draft(l.Rungs[at])
		if err != nil {
			t.Fatal(err)
		}
		titles = append(titles, l.Rungs[at].Title)
		if err := c.Take(&l, at, p); err != nil {
			t.Fatal(err)
		}
		if at == 0 {
			if _, err := m.Value(`HKCU\Software\Quay`, "Tried"); err == nil || l.Rungs[0].State != ladder.NoHelp {
				t.Errorf("%s: %v", l.Rungs[0].State, err)
			}
		}
	}
	if len(titles) != 3 || titles[2] != "for the next failure" || len(answers) != 0 {
		t.Errorf("%q were taken, %v are left", titles, answers)
	}
	if n := len(j.InForce(m.Name())); n != 2 {
		t.Errorf("%d changes are in force", n)
	}
	again := ladder.Build(v, "ledger.log", m)
	if err := again.GoOn(dir); err != nil {
		t.Fatal(err)
	}
	if states := again.Rungs[0].State; states != ladder.Further {
		t.Errorf("after it was read again: %s", states)
	}
}

// A person tells where nothing can be run; a rung that asks for a restart waits
// for it.
func TestToldByAPerson(t *testing.T) {
	m, j, v, dir := bench(t, "ledger.log")
	l := ladder.Build(v, "ledger.log", m)
	c := ladder.Climber{Machine: m, Journal: j, Dir: dir}
	p, err := c.Draft(l.Rungs[0])
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Take(&l, 0, p); err != nil || l.Rungs[0].State != ladder.Taken || l.Next() != 0 {
		t.Fatalf("%s, %v", l.Rungs[0].State, err)
	}
	if err := c.Told(&l, 0, false); err != nil || l.Rungs[0].State != ladder.NoHelp || len(j.InForce(m.Name())) != 0 || l.Next() == 0 {
		t.Errorf("%s, %v, %v", l.Rungs[0].State, j.InForce(m.Name()), err)
	}
}

// Nothing that stands in a case's file is taken as a step.
func TestAForgedLadder(t *testing.T) {
	m, _, v, dir := bench(t, "ledger.log")
	l := ladder.Build(v, "ledger.log", m)
	forged := l
	forged.Rungs = []ladder.Rung{{Title: l.Rungs[0].Title, State: ladder.Waiting, Likely: 1,
		Steps: []step.Model{step.New("repair", "what", "reset:Quay.Forged")}}}
	b, err := json.Marshal(forged)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(dir, "ladder.json")
	if err := os.WriteFile(file, b, 0o644); err != nil {
		t.Fatal(err)
	}
	want, _ := json.Marshal(l)
	if err := l.GoOn(dir); err != nil {
		t.Fatal(err)
	}
	if got, _ := json.Marshal(l); string(got) != string(want) {
		t.Errorf("%s\nwant %s", got, want)
	}
	if err := os.WriteFile(file, []byte("{"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := l.GoOn(dir); err == nil || !strings.Contains(err.Error(), "begin the ladder anew") {
		t.Errorf("a file that is none: %v", err)
	}
}

// A rung that counts after a restart brings the command with it that goes on
// afterwards; the OS forgets that command once it ran it, which is no obstacle
// to taking the rung back.
func TestGoesOnAfterARestart(t *testing.T) {
	m, j, v, dir := bench(t, "ledger.log")
	l := ladder.Build(v, "ledger.log", m)
	const again = "hollowkey fix ledger.log --ladder --after-logon"
	l.Rungs = append([]ladder.Rung{{Title: "start in safe mode", State: ladder.Waiting, Price: step.Cost{Restart: true},
		Steps: []step.Model{step.New("path-entry", "entry", `C:\Tools`, "state", "present")}}}, l.Rungs...)
	c := ladder.Climber{Machine: m, Journal: j, Dir: dir, Again: again}
	p, err := c.Draft(l.Rungs[0])
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Take(&l, 0, p); err != nil || l.Rungs[0].State != ladder.Taken {
		t.Fatalf("%v: %+v", err, l.Rungs[0])
	}
	const key = `HKCU\Software\Microsoft\Windows\CurrentVersion\RunOnce`
	if got, err := m.Value(key, "HollowKey"); err != nil || got.Words() != again {
		t.Fatalf("at the next sign-in: %v, %v", got, err)
	}
	if err := m.DeleteValue(key, "HollowKey"); err != nil { // the OS has run it
		t.Fatal(err)
	}
	if err := c.Told(&l, 0, false); err != nil || l.Rungs[0].State != ladder.NoHelp {
		t.Fatalf("%v: %+v", err, l.Rungs[0])
	}
	for _, i := range j.LastPlan(m.Name()) {
		t.Errorf("still in force: %s", i.Step.Words())
	}
}
