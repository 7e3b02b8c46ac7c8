// This file leads to the line in which a number first came up with which the
// setup ended.

package verdict

import (
	"slices"
	"strings"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/codes"
	"hollowkey/core/why/evidence"
)

// leastOwn is from where on a number that a program ends with stands in a
// second line by no chance: smaller ones are counts and levels.
const leastOwn = 256

// doubtful is how sure a verdict is at most that gives way to the line which
// first told the number that the setup ended with: above it, words say more
// than a number.
const doubtful = 0.6

// toldOwn is the first line that tells the number with which the setup ended
// later, in whatever notation, when it is a number that nobody but its maker
// knows. nil where none does.
func (j *judge) toldOwn() *story.Message {
	e := j.a.Exit
	if e == nil || uint32(e.Code) < leastOwn || uint32(e.Code) > 1<<31 && -e.Code < leastOwn {
		return nil
	}
	if _, known := codes.ExitCode(e.Code); known {
		return nil
	}
	if _, known := codes.SystemError(e.Code); known {
		return nil
	}
	if entry, known := codes.Result(uint32(e.Code)); known && entry.Class != "" {
		return nil
	}
	for _, m := range j.a.Messages {
		if m.Line >= e.Line {
			return nil
		}
		for _, text := range wholeNumber.FindAllString(firstLine(m.Text), mostNumbersTold) {
			if n, ok := exitcode.Parse(text); ok && uint32(n) == uint32(e.Code) {
				return m
			}
		}
	}
	return nil
}

// wholeNumber is a number of three figures or more, in either notation, and
// mostNumbersTold is how many of a line are looked at.
var wholeNumber = lazy.MustCompile(`\b0x[0-9A-Fa-f]{2,8}\b|-?\b\d{3,10}\b`)

const mostNumbersTold = 6

// byOwnNumber hangs a verdict that is in doubt on that line: where the number
// came up, it broke, whatever else the log complains about.
func (j *judge) byOwnNumber(hs []evidence.Hypothesis) bool {
	if evidence.Confidence(hs) > doubtful {
		return false
	}
	m := j.toldOwn()
	if m == nil || slices.ContainsFunc(hs[0].Points, func(p evidence.Point) bool { // what stands beside it says more
		if p.Line == nil {
			return false
		}
		n := j.a.Apart(m, p.Line)
		return n <= nearby && -n <= nearby
	}) {
		return false
	}
	j.unknown()
	j.v.Sign, j.anchor = "", []*story.Message{m}
	c := &j.v.Cause
	c.Message = &j.a.Exit.Code
	c.Summary = "the number with which the setup ended comes up first in: " +
		story.Clip(strings.TrimSpace(firstLine(m.Text)), mostOfLine) + "; its maker knows what it means"
	c.Subject = j.subject("unknown")
	if c.Subject == nil { // what was spoken of right before it came up
		things := []names.Kind{names.Host, names.Service, names.Path, names.File}
		c.Subject = j.subjectIn(slices.Concat(j.anchor, j.samePart(j.before())), things, anything)
	}
	if c.Subject != nil {
		j.byRuntime(c.Subject.Name)
	}
	return true
}

// mostOfLine is how many bytes of a line a summary holds: two lines of a
// screen.
const mostOfLine = 160
