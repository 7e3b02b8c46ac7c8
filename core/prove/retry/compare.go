// Package retry runs a setup again, on the machine or as a rehearsal on a copy
// of its twin, and says what has become of the failure.
package retry

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/package/installdb"
	"hollowkey/core/why/verdict"
)

// Change is what became of a failure.
type Change string

// The changes.
const (
	Gone    Change = "gone"    // the setup works now, and something was done for it
	Works   Change = "works"   // it works, though nothing is known that would have mended a failure
	Same    Change = "same"    // it breaks at the same action for the same reason
	Further Change = "further" // it breaks later in the sequence
	Earlier Change = "earlier" // it breaks before it came to the old place
	Moved   Change = "moved"   // it breaks elsewhere, or for another reason
	First   Change = "first"   // there was no attempt to compare with
	Back    Change = "back"    // it worked in the attempt before
)

// Compare says what became of the failure between two attempts. order gives an
// action's place in the package's sequence, 0 when it is not known; may be nil.
func Compare(before, after *verdict.Verdict, order func(action string) int) Change {
	switch {
	case after.Worked() && (before == nil || before.Worked()):
		return Works
	case after.Worked():
		return Gone
	case before == nil:
		return First
	case before.Worked():
		return Back
	case alike(before, after):
		return Same
	}
	a, b := 0, 0
	if order != nil {
		a, b = order(action(before)), order(action(after))
	}
	switch {
	case a == 0 || b == 0 || a == b:
		return Moved
	case b > a:
		return Further
	}
	return Earlier
}

// action is where a setup broke; empty when the log does not tell.
func action(v *verdict.Verdict) string {
	if v.BrokeAt.Action == nil {
		return ""
	}
	return *v.BrokeAt.Action
}

// alike says whether two failures are the same one: action, class and subject.
// The words may differ, since they tell paths and numbers that change from run
// to run.
func alike(a, b *verdict.Verdict) bool {
	class := func(v *verdict.Verdict) string {
		if v.Cause.Class == nil {
			return ""
		}
		return *v.Cause.Class
	}
	subject := func(v *verdict.Verdict) string {
		if v.Cause.Subject == nil {
			return ""
		}
		return strings.ToLower(strings.TrimRight(v.Cause.Subject.Name, `\`))
	}
	return strings.EqualFold(action(a), action(b)) && class(a) == class(b) && subject(a) == subject(b)
}

// Words tells a change in one sentence.
func Words(c Change, before, after *verdict.Verdict) string {
	where := func(v *verdict.Verdict) string {
		text := cmp.Or(action(v), "an action that the log does not name")
		if v.Cause.Class != nil {
			text += " (" + *v.Cause.Class
			if s := v.Cause.Subject; s != nil && s.Name != "" {
				text += ", " + s.Kind + " " + s.Name
			}
			text += ")"
		}
		return text
	}
	switch c {
	case Works:
		if before == nil || before.Worked() {
			return "the setup works"
		}
		return "the setup works now, though nothing was changed here since it broke at " + where(before) +
			": somebody else fixed it, or it comes and goes"
	case Gone:
		return "the failure is gone: it broke at " + where(before) + " before, and works now"
	case Back:
		return "it worked in the attempt before, and breaks now at " + where(after)
	case Same:
		return "it breaks as before, at " + where(after)
	case Further:
		return fmt.Sprintf("the failure has moved on: it broke at %s before; that is passed now, and it breaks at %s", where(before),
			where(after))
	case Earlier:
		return fmt.Sprintf("it breaks earlier than before: at %s, before it comes to %s", where(after), where(before))
	case Moved:
		return fmt.Sprintf("it breaks elsewhere: at %s before, at %s now", where(before), where(after))
	}
	return "it breaks at " + where(after)
}

// Order gives the places of actions in a package's execute sequence.
func Order(db *installdb.Database) func(string) int {
	t, err := db.TableOrEmpty("InstallExecuteSequence")
	if err != nil {
		return nil
	}
	return func(name string) int {
		i := slices.IndexFunc(t.Rows, func(r installdb.Row) bool { return strings.EqualFold(t.Get(r, "Action").Text, name) })
		if i < 0 {
			return 0
		}
		return int(t.Get(t.Rows[i], "Sequence").Int)
	}
}
