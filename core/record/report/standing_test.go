package report

import (
	"testing"

	"hollowkey/core/fix"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/trail"
	"hollowkey/core/record/casefile"
)

// The banner says how it stands, and nothing that undo has changed since.
func TestStanding(t *testing.T) {
	failed, worked := verdictOf(story.Failed), verdictOf(story.Succeeded)
	try := func(rehearsal, works bool, changes ...int) *casefile.Attempt {
		v := failed
		if works {
			v = worked
		}
		return &casefile.Attempt{Done: true, Verdict: v, Rehearsal: rehearsal, Changes: changes}
	}
	made := func(n int, status string) fix.Item {
		i := change(n, status)
		i.Change = n
		return i
	}
	for name, c := range map[string]struct {
		in   Input
		want Standing
	}{
		"nothing read":     {Input{}, Unread},
		"it worked":        {Input{Verdict: worked}, NoFault},
		"it failed":        {Input{Verdict: failed}, Failed},
		"fixed, not tried": {Input{Verdict: failed, Changes: []fix.Item{made(1, "done")}}, Changed},
		"fixed, no help": {Input{Verdict: failed, Changes: []fix.Item{made(1, "done")},
			Attempts: []*casefile.Attempt{try(true, false, 1)}}, NoHelp},
		"fixed, rehearsed": {Input{Verdict: failed, Changes: []fix.Item{made(1, "done")},
			Attempts: []*casefile.Attempt{try(true, true, 1)}}, Rehearsed},
		"fixed on the machine": {Input{Verdict: failed, Changes: []fix.Item{made(1, "done")},
			Attempts: []*casefile.Attempt{try(false, true, 1)}}, Works},
		"undone after it": {Input{Verdict: failed, Changes: []fix.Item{made(1, "undone")},
			Attempts: []*casefile.Attempt{try(false, true, 1)}}, WasUndone},
		"undone, another stays": {Input{Verdict: failed, Changes: []fix.Item{made(1, "undone"), made(2, "done")},
			Attempts: []*casefile.Attempt{try(true, true, 1, 2)}}, WasUndone},
		"undone before it": {Input{Verdict: failed, Changes: []fix.Item{made(1, "undone"), made(2, "done")},
			Attempts: []*casefile.Attempt{try(true, true, 2)}}, Rehearsed},
		"only undone": {Input{Verdict: failed, Changes: []fix.Item{made(1, "undone")}}, WasUndone},
	} {
		if got := (builder{c.in}).standing(); got != c.want {
			t.Errorf("%s: %q, want %q", name, got, c.want)
		}
		if b := (builder{c.in}).banner(); b.Class == "" || b.Next == "" {
			t.Errorf("%s: %+v", name, b)
		}
	}
}

// Actions of no length are folded, those that failed never.
func TestShortActionsAreFolded(t *testing.T) {
	tr := &trail.Trail{Begins: "09:12:02.500", Took: 30,
		Steps: []trail.Step{{Name: "A", At: "09:12:02", State: "done"}, {Name: "B", At: "09:12:03", Took: 20, State: "done"},
			{Name: "C", At: "09:12:23", State: "failed", Broke: true}, {Name: "D", At: "09:12:24", Phase: "rollback"}}}
	tl := timeline(tr, func(s string) string { return s })
	if len(tl.Rows) != 3 || tl.Left != 1 || tl.Rows[0].Name != "B" || tl.Ticks[0].Text != "09:12:02" {
		t.Errorf("%+v", tl)
	}
}
