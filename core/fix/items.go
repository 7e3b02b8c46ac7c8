// This file shows the journal as changes, one for each step, with all that
// became of it.

package fix

import (
	"errors"
	"fmt"
	"slices"
)

// An Item is one change as the journal tells of it.
type Item struct {
	Record        // its Begin record
	Status string // done, final (it cannot be undone), undone, failed, open, undo open
	Note   string // what a person should know, such as how a crash left it
	InPart bool   // a run that was cut off did only some of it
}

// Items are the changes, oldest first: of the journal's case, where it has one.
func (j *Journal) Items() []Item {
	return slices.DeleteFunc(j.all(), func(i Item) bool { return j.Case != "" && i.Case != j.Case })
}

// all are the changes of all cases.
func (j *Journal) all() []Item {
	var items []Item
	at := map[int]int{}
	for _, r := range j.records {
		if r.Phase == Begin {
			at[r.Seq] = len(items)
			items = append(items, Item{Record: r, Status: "open"})
			continue
		}
		i, ok := at[r.Of]
		if !ok {
			continue
		}
		items[i].take(r)
	}
	return items
}

// take is what a later record says of the change.
func (i *Item) take(r Record) {
	switch r.Phase {
	case Done:
		i.Status, i.Kept = "done", r.Kept
		if i.Step.OneWay() != "" {
			i.Status, i.Note = "final", i.Step.OneWay()
		}
		if r.After != nil {
			i.After = r.After
		}
	case Failed:
		i.Status, i.Note = "failed", r.Error
	case UndoBegin:
		i.Status = "undo open"
	case Undone:
		i.Status = "undone"
	case UndoFailed:
		i.Status, i.Note = "done", r.Error
	case Found:
		i.Status, i.Note = r.Title, r.Error
		if r.Kept != "" {
			i.Kept = r.Kept
		}
		if r.After != nil {
			i.After, i.InPart = r.After, true
		}
		if r.Title == "done" && i.Step.OneWay() != "" {
			i.Status = "final"
		}
	}
}

// ErrNoChange says that a journal has no change of that number.
var ErrNoChange = errors.New("the journal has no change")

// Item is the change of a number.
func (j *Journal) Item(change int) (Item, error) {
	items := j.all()
	if k := slices.IndexFunc(items, func(i Item) bool { return i.Change == change }); k >= 0 {
		return items[k], nil
	}
	return Item{}, fmt.Errorf("%w %d", ErrNoChange, change)
}

// LastPlan are the changes of the newest plan that is in force on a machine,
// newest first: the order to take them back in.
func (j *Journal) LastPlan(machine string) (items []Item) {
	for _, i := range j.InForce(machine) {
		if i.Hold != "" {
			continue // released by its own command
		}
		if len(items) == 0 || items[0].Plan == i.Plan {
			items = append(items, i)
		}
	}
	return items
}

// InForce are all changes on a machine that have not been undone, newest
// first: of the journal's case, where it has one.
func (j *Journal) InForce(machine string) (items []Item) {
	for _, i := range slices.Backward(j.Items()) {
		if i.Status == "done" && i.Machine == machine {
			items = append(items, i)
		}
	}
	return items
}

// Standing counts the changes on a machine that are in force, of all cases:
// those that can be undone, and those that cannot.
func (j *Journal) Standing(machine string) (back, final int) {
	for _, i := range j.all() {
		if i.Machine != machine {
			continue
		}
		switch i.Status {
		case "done":
			back++
		case "final":
			if i.Step.Kind != "restore-point" { // it changes nothing
				final++
			}
		}
	}
	return back, final
}
