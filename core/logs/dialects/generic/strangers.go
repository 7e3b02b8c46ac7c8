// This file takes the lines of another program off the end of a log, as they
// stand there when a console's output or a runner's log was saved with them:
// else the setup would seem to have gone on, and to have broken elsewhere.

package generic

import (
	"slices"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/story"
)

const (
	leastStrange = 20 // lines: fewer are a setup's last words
	mostStrange  = 6  // shapes they have: what goes on in many ways may be the setup's own
	leastOften   = 8  // times that each shape stands there
	longestTag   = 24 // bytes of a name before a colon
)

// strangersLeft takes such lines off an attempt: many of a few shapes that stood
// nowhere before, under two names or more that nobody had there, or without the
// stamp that the lines before them have. They tell of no trouble and no end.
func (r *Reader) strangersLeft(a *story.Attempt) {
	ms := a.Messages
	from, first, tags, shapes := len(ms), a.LastLine+1, map[string]bool{}, map[int]int{}
	for ; from > 0; from-- {
		m := ms[from-1]
		often := m.Repeated >= leastOften && m.Since > 0 && len(m.Further) == 0
		if !often || m.Kind <= story.KindWarning || m.Verdict || m.Stopped || endings.Tells(m.Text) {
			break
		}
		if shapes[m.Since] = m.Repeated; len(shapes) > mostStrange {
			return
		}
		tags[tagOf(m)] = true
		first = min(first, m.Since)
	}
	lines := 0
	for _, n := range shapes {
		lines += n
	}
	unstamped := r.timed && r.unstamped > 0 && first >= r.unstamped
	if lines < leastStrange || from == 0 || ms[from-1].Line >= first || !unstamped && (tags[""] || len(tags) < 2 || !r.over(a, ms[:from])) ||
		a.Exit != nil && a.Exit.Line >= first || r.well[a] >= first {
		return
	}
	for _, m := range ms[:from] {
		if !unstamped && tags[tagOf(m)] {
			return
		}
	}
	a.Messages, a.LastLine = ms[:from], first-1
	a.Entries = max(a.Entries-lines, 0)
	r.ends[a] = min(r.ends[a], first-1)
	kept := a.Actions[:0]
	for _, x := range a.Actions {
		if x.Line >= first {
			continue
		}
		if x.EndLine >= first { // it ended with their first line
			x.EndLine, x.End = 0, -1
		}
		kept = append(kept, x)
	}
	a.Actions = kept
}

// over says whether the run is told to be over, by what was read so far or by
// one of the last messages.
func (r *Reader) over(a *story.Attempt, ms []*story.Message) bool {
	return a.Success != nil || a.Exit != nil || slices.ContainsFunc(ms[max(0, len(ms)-nearStop):], func(m *story.Message) bool {
		said := endings.Read(m.Text)
		return m.Verdict || said.Ends || said.Failed || said.Worked || said.GivesUp
	})
}

// tagOf is the name that a message has in front of its words; empty for none.
func tagOf(m *story.Message) string {
	if m.Source != "" {
		return m.Source
	}
	tag, _, ok := strings.Cut(m.Text, ": ")
	if !ok || len(tag) > longestTag || strings.ContainsAny(tag, " \\/") {
		return ""
	}
	return tag
}
