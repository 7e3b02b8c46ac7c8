// This file says in one line how a setup stands and what comes next.

package report

import (
	"slices"

	"hollowkey/core/fix"
	"hollowkey/core/record/casefile"
)

// A Standing is how a setup stands at the time of the page.
type Standing string

// The standings.
const (
	Unread    Standing = "not read yet"
	NoFault   Standing = "nothing is wrong"
	Failed    Standing = "failed"
	Changed   Standing = "changed, not tried again"
	NoHelp    Standing = "changed, does not work yet"
	Rehearsed Standing = "fixed in rehearsal"
	Works     Standing = "works on the machine"
	WasUndone Standing = "the fix was undone"
)

// banners say what each standing means for the person, and what is to be done
// now.
var banners = map[Standing]struct{ class, next string }{
	Unread:    {"mind", "Have the setup's log read: hollowkey why LOG."},
	NoFault:   {"good", "You need to do nothing."},
	Failed:    {"bad", "Take the first remedy below, then run the setup again."},
	Changed:   {"mind", "Run the setup again."},
	NoHelp:    {"bad", "Take the next remedy below, then run the setup again."},
	Rehearsed: {"mind", "Run the setup on the machine itself: so far it was tried on a copy."},
	Works:     {"good", "You need to do nothing. If the product misbehaves later, say so with the title of this page."},
	WasUndone: {"mind", "The machine is as it was before, and the setup fails again until the fix is applied anew."},
}

// personal is what the person who asked does now.
var personal = map[Standing]string{
	Unread:    "You need to do nothing yet: the log is still to be read.",
	NoFault:   "You need to do nothing.",
	Failed:    "You need to do nothing yet: your administrator applies the fix and runs the setup again.",
	Changed:   "Run the setup again, or wait until your administrator does.",
	NoHelp:    "You need to do nothing yet: your administrator tries the next fix.",
	Rehearsed: "Run the setup again, or wait until your administrator does.",
	Works:     "You can use the product. If something is wrong with it, say so with the title of this page.",
	WasUndone: "You need to do nothing yet: the setup fails again until your administrator applies the fix anew.",
}

// Banner is what stands at the top of a page.
type Banner struct {
	Word  string `json:"word"`  // the standing
	Class string `json:"class"` // good, mind, bad
	Next  string `json:"next"`  // what to do now
}

// banner is the line at the top of the page: how the case stands, and what
// comes next.
func (b builder) banner() Banner {
	s := b.standing()
	return Banner{string(s), banners[s].class, banners[s].next}
}

// standing is how it stands: by the last attempt that ended, and what was
// undone since.
func (b builder) standing() Standing {
	in := b.in
	inForce := slices.ContainsFunc(in.Changes, func(c fix.Item) bool { return (c.Status == "done" || c.Status == "final") && c.Hold == "" })
	undone := slices.ContainsFunc(in.Changes, func(c fix.Item) bool { return c.Status == "undone" })
	last := b.last()
	switch {
	case in.Verdict == nil:
		return Unread
	case last != nil && last.Verdict.Worked() && b.undoneSince(last):
		return WasUndone
	case last != nil && last.Verdict.Worked() && last.Rehearsal:
		return Rehearsed
	case last != nil && last.Verdict.Worked():
		return Works
	case in.Verdict.Worked():
		return NoFault
	case last != nil && inForce && len(last.Changes) > 0:
		return NoHelp
	case inForce:
		return Changed
	case undone:
		return WasUndone
	}
	return Failed
}

// last is the last attempt that ended; nil without one.
func (b builder) last() *casefile.Attempt {
	for _, a := range slices.Backward(b.in.Attempts) {
		if a.Done && a.Verdict != nil {
			return a
		}
	}
	return nil
}

// undoneSince says whether a change that an attempt had is undone by now. One
// that tells of none had all that is in force.
func (b builder) undoneSince(a *casefile.Attempt) bool {
	undone, left := false, false
	for _, c := range b.in.Changes {
		if c.Status == "undone" && slices.Contains(a.Changes, c.Change) {
			return true
		}
		undone = undone || c.Status == "undone"
		left = left || c.Status == "done" || c.Status == "final"
	}
	return len(a.Changes) == 0 && undone && !left
}

// applied says whether a remedy is in force: a plan of its title is.
func (b builder) applied(title string) bool {
	return slices.ContainsFunc(b.in.Changes, func(c fix.Item) bool { return (c.Status == "done" || c.Status == "final") && c.Title == title })
}
