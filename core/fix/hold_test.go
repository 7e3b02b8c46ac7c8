package fix

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/step"
)

func TestHold(t *testing.T) {
	m, j, folder := onTwin(t)
	before := allFiles(t, folder)
	p, err := DraftHold(m, VerboseLogging)
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Apply(m, j); err != nil {
		t.Fatal(err)
	}
	if v, err := LoggingPolicy(m); err != nil || v != kinds.LoggingAll {
		t.Errorf("the policy is %q, %v", v, err)
	}
	if h := j.Holds("", ""); len(h) != 1 || h[0].Hold != VerboseLogging {
		t.Errorf("holds: %+v", h)
	}
	if len(j.LastPlan(m.Name())) != 0 {
		t.Error("a hold is taken for the last fix")
	}
	if err := j.Undo(m, j.Holds("", "")[0].Change, false); err != nil {
		t.Fatal(err)
	}
	if len(j.Holds("", "")) != 0 || allFiles(t, folder) != before {
		t.Error("the release left something")
	}
	if _, err := DraftHold(m, "tide"); err == nil {
		t.Error("an unknown hold is drafted")
	}
	for _, r := range kinds.LoggingAll {
		if kinds.LoggingSwitches[r] == "" {
			t.Errorf("the switch %c is not explained", r)
		}
	}
}

// The journal is read again as it was written; each record is on a line of its
// own, and nothing is ever rewritten.
func TestJournalIsAppendOnly(t *testing.T) {
	m, j, _ := onTwin(t)
	var before string
	for i := range 3 {
		p, err := Draft(m, "x", []step.Model{step.New("registry", "key", berthKey, "name", "Slips", "type", "dword", "value",
			string(rune('1'+i)))})
		if err != nil {
			t.Fatal(err)
		}
		if err := p.Apply(m, j); err != nil {
			t.Fatal(err)
		}
		b, err := os.ReadFile(j.Path())
		if err != nil || !strings.HasPrefix(string(b), before) || strings.Count(string(b), "\n") != 2*(i+1) {
			t.Fatalf("after change %d the journal was rewritten, or has not two lines more: %v", i+1, err)
		}
		before = string(b)
	}
	again, err := OpenJournal(filepath.Dir(j.Path()), time.Now)
	if err != nil || len(again.Records()) != 6 || len(again.InForce(m.Name())) != 3 {
		t.Errorf("read again: %d records, %v", len(again.Records()), err)
	}
	if got := again.InForce(m.Name())[0].Change; got != 3 {
		t.Errorf("the newest change is %d, want 3", got)
	}
	if len(again.InForce("ELLERY-D99")) != 0 {
		t.Error("changes of another machine are in force")
	}
}

func TestUndoOfWhatCannotBe(t *testing.T) {
	m, j, _ := onTwin(t)
	if err := j.Undo(m, 7, false); err == nil || !strings.Contains(err.Error(), "no change 7") {
		t.Errorf("a change that is not there: %v", err)
	}
	p, _ := Draft(m, "x", []step.Model{step.New("service", "name", "Spooler", "start", "manual")})
	if err := p.Apply(m, j); err != nil {
		t.Fatal(err)
	}
	if err := j.Undo(m, 1, false); err != nil {
		t.Fatal(err)
	}
	if err := j.Undo(m, 1, false); err == nil || !strings.Contains(err.Error(), "is undone") {
		t.Errorf("twice: %v", err)
	}
	p.Machine = "ELLERY-D99"
	if err := p.Apply(m, j); err == nil || !strings.Contains(err.Error(), "this is ELLERY-D07") {
		t.Errorf("a plan for another machine: %v", err)
	}
}

// A plan that finds all as it should be changes nothing and writes nothing.
func TestNothingToDo(t *testing.T) {
	m, j, _ := onTwin(t)
	p, err := Draft(m, "x", []step.Model{step.New("service", "name", "Spooler", "start", "automatic", "state", "running")})
	if err != nil || p.Pending() {
		t.Fatalf("pending %v, %v", p.Pending(), err)
	}
	if err := p.Apply(m, j); err != nil || len(j.Records()) != 0 {
		t.Errorf("%d records, %v", len(j.Records()), err)
	}
}
