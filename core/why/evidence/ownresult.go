// This file follows a result of the OS's to the lines that tell it.

package evidence

import "slices"

const (
	// otherResult is what is left of how surely a line has to do with what
	// broke when it tells another result than the one with which the setup
	// ended, and that one came up well behind it.
	otherResult = 0.5
	// leastResult is the least of the OS's results that are failures. Source:
	// [MS-ERREF] 2.1.
	leastResult = 0x8000_0000
)

// ownResult follows a result of the OS with which the setup ended to the lines
// that tell it: those are the ones in which it broke. Where another result was
// told long before, the setup came past it; right before, it may be what the
// last one was made of.
func (r *Run) ownResult() {
	if r.a.Exit == nil || uint32(r.a.Exit.Code) < leastResult {
		return
	}
	own := uint32(r.a.Exit.Code)
	first := -1
	told := make([][]Number, len(r.lines))
	// The lines that tell the number first are where it came up; other results
	// well before that were survived.
	for i := range r.lines {
		l := &r.lines[i]
		told[i] = slices.DeleteFunc(Numbers(l.lower), func(n Number) bool { return uint32(n.Value) < leastResult })
		if l.Line == r.a.Exit.Line || l.Verdict || !slices.ContainsFunc(told[i], func(n Number) bool { return uint32(n.Value) == own }) {
			continue
		}
		if l.linked = max(l.linked, linkedSame); first < 0 || l.pos < first {
			first = l.pos
		}
	}
	if first < 0 {
		return
	}
	for i := range r.lines {
		l := &r.lines[i]
		if len(told[i]) > 0 && first-l.pos > nearLines {
			l.linked *= otherResult
		}
	}
}
