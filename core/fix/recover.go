// This file settles what a crash left between two records.

package fix

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
)

// A Recovery tells how a change was found that a crash had left open.
type Recovery struct {
	Item
	Found string // how the machine was found, in words
}

// Recover looks at what a crash left between two records, says how the target
// is found now, and writes that down. No more is done to the machine than that
// files which were begun beside their place are removed. While another run
// changes the machine, nothing is cut off.
func (j *Journal) Recover(m machine.Machine) ([]Recovery, error) {
	var found []Recovery
	if !slices.ContainsFunc(j.all(), func(i Item) bool { return (i.Status == "open" || i.Status == "undo open") && i.Machine == m.Name() }) {
		return nil, nil
	}
	if err := j.hold(m, 0); errors.Is(err, ErrBusy) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	defer j.Release()
	for _, i := range j.all() {
		if i.Status != "open" && i.Status != "undo open" || i.Machine != m.Name() {
			continue
		}
		if t, ok := m.(interface{ Tidy(path string) error }); ok {
			if err := t.Tidy(i.Step.Target); err != nil {
				return found, err
			}
		}
		now, err := i.Step.Read(m)
		if err != nil {
			return found, err
		}
		undo := i.Status == "undo open"
		r := Recovery{Item: i}
		status := ""
		var left *kinds.State
		switch {
		case i.Step.Runs():
			status, r.Found = "failed", "whether the OS's program came to its end is not known; it may be run again"
		case now.Equal(*i.After) && undo:
			status, r.Found = "done", "undoing it had not begun; the change is still in force"
		case now.Equal(*i.After):
			status, r.Found = "done", "the change had been made; it can be undone"
		case now.Equal(*i.Before) && undo:
			status, r.Found = "undone", "it had been undone"
		case !undo && unmade(m, i, now):
			status, r.Found = "failed", "it was done in part; what it had copied is removed, and nothing needs to be undone"
		case now.Equal(*i.Before):
			status, r.Found = "failed", "the change had not been made; nothing needs to be undone"
		case now.Between(*i.Before, *i.After):
			status, r.Found, left = "done", fmt.Sprintf("it was done in part (%s); it can be undone", strings.Join(now.Lines(m), ", ")), &now
			now.Remember(*i.After)
		default:
			status, r.Found = "done", fmt.Sprintf("the target is in neither state but %q; hollowkey undo --force --change %d sets it back",
				strings.Join(now.Lines(m), ", "), i.Change)
		}
		if status != "done" {
			if err := retime(m, i.Lists); err != nil {
				r.Found += "; " + err.Error()
			}
		}
		if status == "failed" { // what was set aside stands in its place still
			_ = kinds.Clear(j.quarantine(i.Change))
		}
		kept := ""
		if i.Kept == "" {
			kept = kinds.ListSum(j.quarantine(i.Change))
		}
		if _, err := j.write(Record{Phase: Found, Of: i.Seq, Title: status, After: left, Kept: kept,
			Error: "an earlier run was cut off: " + r.Found}); err != nil {
			return found, err
		}
		r.Status = status
		found = append(found, r)
	}
	return found, nil
}

// unmade removes what a change that was killed in the middle had made so far,
// where it makes things of its own; false where it does not, or had not begun.
func unmade(m machine.Machine, i Item, now kinds.State) bool {
	if now.Equal(*i.After) {
		return false
	}
	made, err := i.Step.Unmake(m, *i.Before, *i.After)
	return made && err == nil
}
