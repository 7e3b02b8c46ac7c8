// This file is the part of the demo around a failed setup: making ready, the
// cache, leftovers, a hunt.

package cli

import (
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/fix/leftovers"
	"hollowkey/core/fix/startup"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/package/cached"
	"hollowkey/core/step"
	"hollowkey/core/why/checks"
	"hollowkey/demo"
)

// demoTask is work around a setup that the demo did: what was seen, what was
// done about it.
type demoTask struct {
	Title  string   `json:"title"`  // what is wrong, in one phrase
	Seen   []string `json:"seen"`   // what was found, each in one phrase
	Done   []string `json:"done"`   // what was changed, each in one phrase
	Plan   fix.Plan `json:"plan"`   // empty for the hunt, which has rounds
	Undone int      `json:"undone"` // changes undone at the end
}

// demoAround mends the desktop, restores a cached package, clears leftovers and
// hunts for a conflict, and takes everything back.
func (a *app) demoAround(into string) (out []demoTask, err error) {
	m, err := twin.Open(a.machine)
	if err != nil {
		return nil, err
	}
	defer m.Close()
	j, err := a.journalFor(filepath.Join(into, demo.Around))
	if err != nil {
		return nil, err
	}
	for _, task := range []func(machine.Machine, string) (demoTask, error){demoReady, demoCache, demoLeftovers} {
		t, err := task(m, into)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", t.Title, err)
		}
		if err := t.Plan.Apply(m, j); err != nil {
			return nil, fmt.Errorf("%s: %w", t.Title, err)
		}
		for _, c := range t.Plan.Changes {
			t.Done = append(t.Done, c.Words())
		}
		// The demo leaves the desktop as it found it, so that it can be run
		// again.
		for _, i := range j.LastPlan(m.Name()) {
			if err := j.Undo(m, i.Change, false); err != nil {
				return nil, err
			}
			t.Undone++
		}
		out = append(out, t)
	}
	hunt, err := demoHunt(m, j)
	return append(out, hunt), err
}

// demoReady mends what `ready` finds on the desktop, but only two of the
// findings: the others belong to the failed setups that are told before.
func demoReady(m machine.Machine, _ string) (demoTask, error) {
	t := demoTask{Title: "Before the next setup: is the desktop ready"}
	var steps []step.Model
	for _, c := range checks.Ready(m, checks.Options{}) {
		if c.Name == "PATH" || c.Name == "files in the way" {
			t.Seen = append(t.Seen, c.Name+": "+c.Seen)
			steps = append(steps, c.Steps...)
		}
	}
	var err error
	t.Plan, err = fix.Draft(m, "make the machine ready", steps)
	return t, err
}

// demoCache restores the one cached package that is missing, out of the demo's
// share.
func demoCache(m machine.Machine, into string) (demoTask, error) {
	t := demoTask{Title: "Pilot Roster can be neither repaired nor removed"}
	list, err := cached.Read(m)
	if err != nil {
		return t, err
	}
	wanted := bad(list)
	found, _, err := cached.Search([]string{filepath.Join(into, demo.Share)}, wanted, nil)
	if err != nil {
		return t, err
	}
	var steps []step.Model
	for _, e := range wanted {
		t.Seen = append(t.Seen, fmt.Sprintf("the cached package of %s %s is %s", e.Name, e.Version, e.State))
		if src, ok := found[e.Code]; ok {
			t.Seen = append(t.Seen, fmt.Sprintf("the very one, by its package code: %s, inside: %s", filepath.Base(src.Path), src.Inside))
			steps = append(steps, step.Model{"place": {"out": e.File, "from": src.Path, "inside": src.Inside, "sha256": src.Hash}})
		}
	}
	t.Plan, err = fix.Draft(m, "restore cached packages", steps)
	return t, err
}

// demoLeftovers clears what an old version left; what is a user's stays.
func demoLeftovers(m machine.Machine, _ string) (demoTask, error) {
	t := demoTask{Title: "Fairway Radio 1 was deleted by hand, and the new version stumbles over it"}
	rep, err := leftovers.Find(m, "Fairway Radio 1")
	if err != nil {
		return t, err
	}
	items, err := rep.Choose(nil, nil, nil)
	if err != nil {
		return t, err
	}
	t.Seen = append(t.Seen, fmt.Sprintf("%d things are left; %d of them are a user's data and stay", len(rep.Items),
		len(rep.Items)-len(items)))
	t.Plan, err = leftovers.Clear(m, rep.Query, items)
	return t, err
}

const demoCulprit = "service:QuayWatch"

// demoHunt plays a hunt: the setup fails whenever one service is on.
func demoHunt(m machine.Machine, j *fix.Journal) (demoTask, error) {
	t := demoTask{Title: "Something that starts with the desktop breaks the setup"}
	items, _, err := startup.Items(m)
	if err != nil {
		return t, err
	}
	c := startup.Case{Machine: m.Name(), Items: items}
	for r := c.Result(); !r.Done; r = c.Result() {
		off := c.Off(r.Next)
		plan, _, err := startup.Hold(m, off)
		if err != nil {
			return t, err
		}
		if err := plan.Apply(m, j); err != nil {
			return t, err
		}
		// A person would try the setup now; the demo knows the item that breaks
		// it.
		round := startup.Round{On: r.Next, Outcome: startup.Failed}
		if slices.ContainsFunc(off, func(i startup.Item) bool { return i.ID == demoCulprit }) {
			round.Outcome = startup.Worked
		}
		c.Rounds = append(c.Rounds, round)
		n, err := startup.Release(m, j)
		if err != nil {
			return t, err
		}
		t.Undone += n
		t.Done = append(t.Done, fmt.Sprintf("%d of %d held: %s", len(off), len(items), round.Outcome))
	}
	r := c.Result()
	if len(r.Culprits) != 1 || len(r.Culprits[0]) != 1 {
		return t, errors.New("the hunt found no single culprit")
	}
	culprit := items[r.Culprits[0][0]]
	t.Seen = append(t.Seen, fmt.Sprintf("%d items start beside the OS's own; after %d restarts it is %s (%s)", len(items), len(c.Rounds),
		culprit.Name, culprit.ID))
	return t, nil
}

// demoTaskText tells one task around the setups: seen, done, undone.
func demoTaskText(b *strings.Builder, s Style, t demoTask, number int) {
	fmt.Fprintf(b, "\n%s %s\n", s.bold(fmt.Sprintf("%d.", number)), s.bold(t.Title+"."))
	row := func(name, text string) { item(b, s, 3, 7, name, text) }
	for _, x := range t.Seen {
		row("seen", sentence(x))
	}
	name := "fix"
	if len(t.Plan.Changes) == 0 {
		name = "round"
	}
	for _, x := range t.Done {
		row(name, sentence(x))
	}
	row("undo", fmt.Sprintf("%s undone; the twin is as it was.", count(t.Undone, "change")))
}
