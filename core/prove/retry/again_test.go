package retry_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/prove/retry"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
	"hollowkey/demo"
	"hollowkey/demo/demotest"
)

func clock() time.Time { return time.Date(2026, 5, 4, 10, 0, 0, 0, time.UTC) }

// A bench is the demo with a case and its journal.
type bench struct {
	*testing.T
	folder, dir string
	m           *twin.Twin
	j           *fix.Journal
}

func onBench(t *testing.T) bench {
	t.Helper()
	b := bench{T: t, dir: filepath.Join(t.TempDir(), "case")}
	b.folder, b.m = demotest.LayOut(t)
	var err error
	if b.j, err = fix.OpenJournal(b.dir, clock); err != nil {
		t.Fatal(err)
	}
	return b
}

func (b bench) verdict(log string) *verdict.Verdict {
	b.Helper()
	ans, err := why.Ask(context.Background(), why.Question{Logs: []string{filepath.Join(b.folder, log)}, Machine: b.m})
	if err != nil {
		b.Fatal(err)
	}
	return ans.Verdict
}

func (b bench) plan(v *verdict.Verdict) fix.Plan {
	b.Helper()
	for _, r := range v.Remedies {
		if len(r.Steps) > 0 {
			p, err := fix.Draft(b.m, r.Title, r.Steps)
			if err != nil {
				b.Fatal(err)
			}
			return p
		}
	}
	b.Fatalf("no remedy has steps: %+v", v.Remedies)
	return fix.Plan{}
}

func (b bench) again(w retry.Wish) *retry.Result {
	b.Helper()
	w.Dir, w.Now = b.dir, clock()
	r, err := retry.Again(context.Background(), b.m, b.j, w)
	if err != nil {
		b.Fatal(err)
	}
	return r
}

// The same failure comes again until it is mended; each attempt is kept with
// its log, its verdict and the changes that it had, and the next one needs no
// words.
func TestAgain(t *testing.T) {
	b := onBench(t)
	log := filepath.Join(b.folder, "berthline.log")
	first := b.again(retry.Wish{Of: log})
	if first.Change != retry.Same || first.Attempt.Exit != 1603 || first.Attempt.User != "mwhitlow" || len(first.Since) != 0 {
		t.Errorf("%s, exit %d, as %s, %d changes since", first.Change, first.Attempt.Exit, first.Attempt.User, len(first.Since))
	}
	if err := b.plan(first.Attempt.Verdict).Apply(b.m, b.j); err != nil {
		t.Fatal(err)
	}
	second := b.again(retry.Wish{})
	if second.Change != retry.Gone || second.Attempt.Exit != 0 || !second.Attempt.Rehearsal || len(second.Since) != 1 ||
		second.Attempt.Package != first.Attempt.Package || second.Attempt.User != "mwhitlow" {
		t.Errorf("%s, %+v, %d changes since", second.Change, second.Attempt, len(second.Since))
	}
	if err := b.j.Undo(b.m, b.j.Items()[0].Change, false); err != nil {
		t.Fatal(err)
	}
	if third := b.again(retry.Wish{}); third.Change != retry.Back || len(third.Attempt.Changes) != 0 {
		t.Errorf("undone: %s, changes %v", third.Change, third.Attempt.Changes)
	}
	list, err := casefile.Attempts(b.dir)
	if err != nil || len(list) != 3 {
		t.Fatalf("%d attempts, %v", len(list), err)
	}
	for i, a := range list {
		if info, err := os.Stat(a.LogPath(b.dir)); err != nil || info.Size() == 0 || !a.Done || a.Verdict == nil || a.Number != i+1 {
			t.Errorf("attempt %d: %+v, its log %v", i+1, a, err)
		}
	}
}

// A mute engine is a live machine whose engine ends without a word in its log.
type muteEngine struct {
	machine.Machine
	exit int
}

func (m muteEngine) Facts() machine.Facts {
	f := m.Machine.Facts()
	f.Elevated = true
	return f
}

func (m muteEngine) RunLine(_ context.Context, _, line string) (int, error) {
	_, log, _ := strings.Cut(line, `/l*v "`)
	return m.exit, os.WriteFile(strings.TrimSuffix(log, `"`), nil, 0o644)
}

// Where the engine fell before its first line its exit code is judged, and the
// attempt is kept as any other.
func TestAnEngineWithoutAWord(t *testing.T) {
	for exit, worked := range map[int]bool{0: true, 1603: false, 1618: false, 3010: true} {
		b := onBench(t)
		agreed := func(string) error { return nil }
		r, err := retry.Again(context.Background(), muteEngine{b.m, exit}, b.j,
			retry.Wish{Of: demo.PlannerPath, Dir: b.dir, Now: clock(), Ask: agreed})
		if err != nil {
			t.Errorf("%d: %v", exit, err)
			continue
		}
		list, err := casefile.Attempts(b.dir)
		if err != nil || len(list) != 1 || !list[0].Done || list[0].Exit != exit || r.Attempt.Verdict.Worked() != worked {
			t.Errorf("%d: worked %v, %+v, %v", exit, r.Attempt.Verdict.Worked(), list, err)
		}
		text, err := os.ReadFile(r.Attempt.LogPath(b.dir))
		if err != nil || !strings.Contains(string(text), "no log") {
			t.Errorf("%d: %q, %v", exit, text, err)
		}
	}
}

// Properties given by hand stay for the next attempt; those that a step brought
// go when it is undone.
func TestWhatIsHandedOn(t *testing.T) {
	b := onBench(t)
	p, err := fix.Draft(b.m, "a command", []step.Model{step.New("command", "out", `C:\Deploy\run.cmd`, "package", demo.PlannerPath,
		"properties", "SITECODE=ELLERY")})
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Apply(b.m, b.j); err != nil {
		t.Fatal(err)
	}
	with := b.again(retry.Wish{Of: demo.PlannerPath, Given: []string{"QUAY=7"}})
	if got := strings.Join(with.Attempt.Properties, " "); got != "QUAY=7 SITECODE=ELLERY" || with.Change != retry.First {
		t.Errorf("%q, %s", got, with.Change)
	}
	if err := b.j.Undo(b.m, b.j.Items()[0].Change, false); err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(b.again(retry.Wish{}).Attempt.Properties, " "); got != "QUAY=7" {
		t.Errorf("after the step was undone: %q", got)
	}
	if got := strings.Join(b.again(retry.Wish{Of: demo.PlannerPath, Given: []string{"QUAY=8"}}).Attempt.Properties, " "); got != "QUAY=8" {
		t.Errorf("given anew: %q", got)
	}
}

// What cannot be tried again says why.
func TestNothingToTry(t *testing.T) {
	b := onBench(t)
	noPackage := filepath.Join(t.TempDir(), "other.log")
	text := "[2026-05-04 09:12:01] [info] Tidebook Desk 2.8.1 setup starting\n[2026-05-04 09:12:02] [error] EBUSY: locked, open 'C:\\x'\n" +
		"[2026-05-04 09:12:03] [error] setup failed, exit code 4\n"
	if err := os.WriteFile(noPackage, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	for _, tt := range []struct {
		of string
		is error
	}{{"", retry.ErrNothingTried}, {noPackage, retry.ErrNoPackage}, {filepath.Join(b.folder, "none.log"), nil}} {
		_, err := retry.Again(context.Background(), b.m, b.j, retry.Wish{Dir: b.dir, Of: tt.of, Now: clock()})
		if err == nil || tt.is != nil && !errors.Is(err, tt.is) {
			t.Errorf("%q: %v", tt.of, err)
		}
	}
	if list, _ := casefile.Attempts(b.dir); len(list) != 0 {
		t.Errorf("%d attempts were written down", len(list))
	}
}

// A trial answers on a copy: the twin stays as it is, with nothing in force.
func TestTrial(t *testing.T) {
	b := onBench(t)
	for log, want := range map[string]retry.Change{"berthline.log": retry.Gone, "ledger.log": retry.Gone} {
		v := b.verdict(log)
		p := b.plan(v)
		r, err := retry.Trial(context.Background(), b.m, p, v, nil, clock)
		if err != nil {
			t.Errorf("%s: %v", log, err)
			continue
		}
		if r.Change != want || r.Before != v || r.Words == "" {
			t.Errorf("%s: %s, %q", log, r.Change, r.Words)
		}
		if again := b.plan(v); !again.Pending() {
			t.Errorf("%s: the trial changed the twin itself", log)
		}
	}
	empty := fix.Plan{Title: "nothing", Machine: b.m.Name()}
	if r, err := retry.Trial(context.Background(), b.m, empty, b.verdict("berthline.log"), nil, clock); err != nil || r.Change != retry.Same {
		t.Errorf("a plan that changes nothing: %+v, %v", r, err)
	}
	for _, v := range []*verdict.Verdict{nil, {}} {
		if _, err := retry.Trial(context.Background(), b.m, empty, v, nil, clock); !errors.Is(err, retry.ErrNoPackage) {
			t.Errorf("a setup without a package: %v", err)
		}
	}
}

func TestSetupFile(t *testing.T) {
	for name, want := range map[string]bool{
		`C:\Deploy\A.MSI`: true, "a.msp": true, "setup.exe": true, `D:\x.y\app.msixbundle`: true, "app.appx": true,
		"setup.log": false, `C:\a.msi\setup.txt`: false, "msi": false, "": false, "a.msi.log": false, "-": false,
	} {
		if got := retry.SetupFile(name); got != want {
			t.Errorf("%q: %v", name, got)
		}
	}
}

// Of several rights that are lacking only that one is given which the setup
// needs.
func TestSmallest(t *testing.T) {
	b := onBench(t)
	const folder = `C:\Program Files\Saltmarsh Quay`
	if _, err := b.m.Stat(folder); err != nil {
		if err := b.m.MakeFolder(folder); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.m.SetFileSecurity(folder,
		machine.Security{SDDL: "O:S-1-5-21-9-9-9-1099D:P(A;OICI;FA;;;S-1-5-21-9-9-9-1099)", Own: true}); err != nil {
		t.Fatal(err)
	}
	first, err := fix.Draft(b.m, "what is wrong on the demo's machine",
		[]step.Model{step.New("grant", "folder", `C:\Users\mwhitlow\AppData\Local\Temp`, "account", "SYSTEM", "right", "modify")})
	if err != nil {
		t.Fatal(err)
	}
	if err := first.Apply(b.m, b.j); err != nil {
		t.Fatal(err)
	}
	r := b.again(retry.Wish{Of: `C:\Deploy\Berthline.msi`})
	v := r.Attempt.Verdict
	grants := []step.Model{step.New("grant", "folder", folder, "account", "mwhitlow", "right", "modify"),
		step.New("grant", "folder", folder, "account", "SYSTEM", "right", "modify")}
	got := retry.Smallest(t.Context(), b.m, grants, v, nil, clock)
	if len(got) != 1 || got[0]["grant"]["account"] != "SYSTEM" {
		t.Errorf("%v; the verdict is %+v", got, v.Cause)
	}
	if same := retry.Smallest(t.Context(), b.m, grants[:1], v, nil, clock); len(same) != 1 {
		t.Errorf("one right alone: %v", same)
	}
	mixed := append(grants[:1:1], step.New("key", "key", `HKCU\Software\X`))
	if same := retry.Smallest(t.Context(), b.m, mixed, v, nil, clock); len(same) != 2 {
		t.Errorf("other steps: %v", same)
	}
}
