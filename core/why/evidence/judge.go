// This file says of each line whether it fails, and which of its clues stand.
// It is the one place where a line's level is believed, or not.

package evidence

import (
	"slices"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// judge says whether a line fails, how much it counts, and which of its clues
// stand. Where no level says how grave a line is, its words do.
func (r *Run) judge(l *line, levels bool) {
	m := l.Message
	l.rated = r.rate(l)
	l.facts()
	if l.reason || l.parting && l.tells() || !levels && m.Kind == story.KindText && (l.speaks() || r.echoes(l)) {
		l.fail()
	}
	if l.reason { // no level could say so more plainly
		l.rated = KindWeight[story.KindError]
	}
	if l.fails = l.fails || fails(m, l.clues, levels) || !levels && callFailed(l.lower); !l.fails {
		l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool { return c.Loose })
	}
	against := !slices.ContainsFunc(l.clues, func(c Clue) bool { return c.Strength != lexicon.Against }) // of another cause, or none
	if l.fails && against && !m.Verdict && m.Number == 0 {
		if c, ok := guessed(r.said(l)); ok {
			l.clues = append(l.clues, c)
		}
	}
}

// tells says whether a line, behind which nothing was done, speaks of a cause
// in any way that is no trouble's absence.
func (l *line) tells() bool {
	return !l.passes && !l.advises && !endings.WentWell(l.Text) && !endsWithNo(l) && slices.ContainsFunc(l.clues, func(c Clue) bool {
		looks := c.Class == "path" || c.Class == "leftover" // what is not there is looked for, and what is old is removed
		return c.tellsMore() && !c.Loose && !c.Guess && !c.Thing && (!looks || c.Strength == lexicon.Root)
	})
}

// partings marks the last line before each run's end that says something, where
// the lines behind it only tell that it is given up. They are looked at in logs
// that tell how grave a line is: elsewhere words alone tell.
func (r *Run) partings(levels bool) {
	if !levels || r.a.Success == nil || *r.a.Success {
		return
	}
	for i := len(r.lines) - 1; i >= max(0, len(r.lines)-mostBehind); i-- {
		l := &r.lines[i]
		if l.Kind > story.KindWarning && !l.Verdict && !endings.Unwinds(l.Text) {
			graver := func(o line) bool { return o.Kind <= story.KindWarning && !o.passes } // then that is the failure
			l.parting = r.brokeBehind(i) && !slices.ContainsFunc(r.lines[max(0, i-lastLines):i], graver)
			return
		}
	}
}

// said is what a line says, without the product's name, which may be that of a
// server, or a file's.
func (r *Run) said(l *line) string {
	if name := r.a.Product.Name; name != "" {
		return strings.ReplaceAll(l.lower, lower(name), "it")
	}
	return l.lower
}

// speaks says whether a line speaks of a cause, and not of one that is no
// trouble.
func (l *line) speaks() bool { return (speaks(l.clues) || agree(l.clues)) && !endings.WentWell(l.Text) }

// echoes says whether a line, of which no level tells how grave it is, speaks
// of a failure in which many causes show. Files that are not there are looked
// for all the time: those count near the end; old versions are spoken of
// wherever they are removed.
func (r *Run) echoes(l *line) bool {
	return slices.ContainsFunc(l.clues, func(c Clue) bool {
		return c.Strength == lexicon.Echo && !c.Loose && !c.Guess && !c.Thing && c.Class != "leftover" &&
			(c.Class != "path" || !c.Call && r.end-l.pos <= nearLines)
	}) && !endings.WentWell(l.Text) && !l.passes
}

// fail makes a failure of a line that no level calls one: it counts as a
// warning at least.
func (l *line) fail() {
	full := KindWeight[l.Kind]
	if l.Kind == story.KindText {
		full = debugWeight
	}
	l.rated = max(l.rated, l.rated/full*KindWeight[story.KindWarning])
	l.fails = true
}

// belie does not believe the levels of a run that failed, and in which no line
// that counts is graver than info: its words tell which lines are failures.
func (r *Run) belie() {
	sure := slices.ContainsFunc(r.lines, func(l line) bool {
		return slices.ContainsFunc(quietIn(l.Text, l.lower), func(c Clue) bool { return c.Quiet })
	})
	for i := range r.lines {
		l := &r.lines[i]
		if l.fails || l.noise || l.Kind <= story.KindWarning || l.passes {
			continue
		}
		// Old versions are spoken of wherever they are removed: a note that
		// tells more comes before them.
		old := sure && !slices.ContainsFunc(l.clues, func(c Clue) bool { return c.Class != "leftover" || c.Strength == lexicon.Root })
		if l.speaks() && !old || l.said.Fails {
			l.fail()
			r.judge(l, false)
		}
	}
}

// facts makes facts of the things that a line names without failing over them:
// every setup tells its command line and whether there are administrator's
// rights.
func (l *line) facts() {
	if l.fails || l.Kind <= story.KindWarning || !slices.ContainsFunc(l.clues, func(c Clue) bool { return c.Thing }) {
		return
	}
	told, value := l.Text, 0
	if at := slices.IndexFunc(l.clues, func(c Clue) bool { return c.Set > 0 && c.Set < len(told) }); at >= 0 {
		value = l.clues[at].Set
		told = told[value:] // "minimum requirements: met" asks for nothing
	}
	said, none := endings.Read(told), false
	if f := strings.Fields(lower(told)); len(f) > 0 && len(told) < len(l.Text) {
		none = pieces.IsNo(f[len(f)-1]) // "group policy: restrictions none", as some languages put it
	}
	if none {
		l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool { return !c.Thing && c.At >= value })
	}
	if said.Fails || said.Refuses || said.Advises ||
		!none && slices.ContainsFunc(l.clues, func(c Clue) bool { return (!c.Thing || c.Wanting) && !c.Loose && c.Strength != lexicon.Against }) {
		return
	}
	for i := range l.clues {
		if c := &l.clues[i]; c.Thing {
			c.Strength, c.Guess = lexicon.Echo, true
		}
	}
}

// speaks says whether a line speaks of a cause by more than an echo.
func speaks(clues []Clue) bool {
	return slices.ContainsFunc(clues, func(c Clue) bool {
		return (c.Strength == lexicon.Root || c.Strength == lexicon.Tells) && !c.Loose && (!c.Thing || c.Wanting)
	})
}

// agree says whether words and a number of one line speak of the same cause:
// "access denied (5)" in any language.
func agree(clues []Clue) bool {
	return slices.ContainsFunc(clues, func(c Clue) bool {
		words := func(o Clue) bool { return o.Code == nil && o.Class == c.Class && !o.Loose }
		return c.Code != nil && !c.Loose && slices.ContainsFunc(clues, words)
	})
}

// fails says whether a line tells of a failure: by its level, or by its words.
// Where levels are told, a call that found nothing at the lowest is a look, and
// no failure.
func fails(m *story.Message, clues []Clue, levels bool) bool {
	if m.Kind <= story.KindWarning {
		return true
	}
	return m.Kind == story.KindResult || slices.ContainsFunc(clues, func(c Clue) bool {
		return c.Call && !(levels && m.Kind == story.KindText && c.Strength == lexicon.Echo && c.Class == "path") ||
			c.Code != nil && c.Strength == lexicon.Root
	})
}

// callFailed says whether a line tells that a function of the OS gave back an
// error, be it one that speaks of no cause.
func callFailed(lower string) bool {
	return slices.ContainsFunc(Numbers(lower), func(n Number) bool { return n.Kind == System && !n.Hex && n.Value > 1 })
}
