// This file goes to the notes before a failure that says nothing itself: a
// trouble that was told earlier, and that nothing settled.

package evidence

import (
	"slices"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// Where the lines in which a run broke only tell that a program of the setup's
// own gave up, somebody who looks for the cause reads what was noted before:
// most of it is about things that are all right, and one line is not.

const (
	// linkedHeard is how surely a cause that is noted by the way has to do with
	// such a failure.
	linkedHeard = 0.6
	// mostHeard is how many different notes may speak of troubles: where there
	// are more, none of them stands out.
	mostHeard = 4
	// bareFactor is what is left of "a program of the setup's own failed" where
	// a note tells what it failed over: that class is of logs that show nothing
	// more.
	bareFactor = 0.2
)

// overhear links such notes with a failure that says nothing, where nothing
// else was heard.
func (r *Run) overhear() {
	if len(r.burst) == 0 || r.a.Success == nil || *r.a.Success {
		return
	}
	said := slices.ContainsFunc(r.burst, func(i int) bool { return slices.ContainsFunc(r.lines[i].clues, Clue.surely) })
	// The failure says something itself; notes before it have nothing to add.
	if !r.mute() {
		r.bare = said
		return
	}
	for i := range r.lines {
		l := &r.lines[i]
		heard := func(c Clue) bool { return c.tellsMore() && c.Strength != lexicon.Echo && l.linked >= linkedMute }
		if !r.broken(i) && slices.ContainsFunc(l.clues, heard) {
			r.bare = true
			return
		}
	}
	maybe := func(c Clue) bool { // what is not there is looked for all the time
		return c.tellsMore() && c.Strength == lexicon.Echo && !c.Guess && !c.Loose && !c.Thing && c.Class != "path"
	}
	// Plain words first; hints only where there are no plain words.
	for _, tells := range []func(Clue) bool{Clue.surely, maybe} {
		for _, l := range r.notes(func(l *line) bool { return slices.ContainsFunc(l.clues, tells) }) {
			l.linked = max(l.linked, linkedHeard)
			r.bare = true
		}
		if r.bare {
			return
		}
	}
	if said { // as advice: "close the tray program and try again"
		r.bare = true
		return
	}
	if l := r.notes(func(l *line) bool { _, ok := guessed(r.said(l)); return ok }); len(l) > 0 {
		r.guess, r.bare = l[len(l)-1], true
	}
}

// notes are the lines outside of those in which a run broke that tell of a
// trouble, and that nothing says is none; nil where they are of too many
// shapes.
func (r *Run) notes(tells func(l *line) bool) (found []*line) {
	shapes := map[string]bool{}
	for i := range r.lines {
		l := &r.lines[i]
		if r.broken(i) || l.noise || l.passes || l.otherwise || l.Verdict || l.pos > r.end || r.again[l.Message] ||
			pieces.Denied("", l.lower) || endsWithNo(l) || endings.WentWell(l.Text) && !l.root() || !tells(l) {
			continue
		}
		if shapes[l.shape] = true; len(shapes) > mostHeard {
			return nil
		}
		found = append(found, l)
	}
	return found
}

// linkedDeep is how surely a note has to do with a failure that is one of those
// in which its cause shows.
const linkedDeep = 0.7

// echoFactor is what is left of what speaks for such a failure itself.
const echoFactor = 0.4

// deepest are, by a cause, the classes of failures that are nothing else where
// a note tells it.
var deepest = map[string][]string{
	"elevation": {"permission"}, "policy": {"permission"}, "security-software": {"permission", "corrupt", "prerequisite", "path"},
	"network": {"corrupt"}, "space": {"corrupt"}, "busy": {"in-use"}, "service": {"in-use", "network"},
}

// deeper looks, behind a failure in which other causes show, for a note that
// tells one of them: "not running as administrator", and then "access is
// denied".
func (r *Run) deeper() {
	if len(r.burst) == 0 || r.a.Success == nil || *r.a.Success {
		return
	}
	loud := map[string]bool{}
	// Some causes show as others: a share that cannot be reached shows as a
	// file that is not there. Where only the echo is loud, the notes are asked
	// for what is behind it.
	for _, i := range r.burst {
		for _, c := range r.lines[i].clues {
			loud[c.Class] = loud[c.Class] || c.tellsMore() && !c.Guess && !c.Loose
		}
	}
	not := map[string]bool{"elevation": r.ofOneUser(), "service": loud["network"] && !loud["in-use"] && r.ofOutside()}
	behind := func(class string) bool {
		return !not[class] && !loud[class] && slices.ContainsFunc(deepest[class], func(echo string) bool { return loud[echo] })
	}
	told := func(c Clue) bool { return c.surely() && !c.Thing && behind(c.Class) }
	if behind("elevation") {
		for i := range r.lines {
			if l := &r.lines[i]; l.Kind > story.KindWarning && !r.broken(i) {
				l.clues = append(l.clues, slices.DeleteFunc(quietIn(l.Text, l.lower), func(c Clue) bool { return c.Class != "elevation" })...)
			}
		}
	}
	for _, l := range r.notes(func(l *line) bool { return l.Kind > story.KindWarning && slices.ContainsFunc(l.clues, told) }) {
		l.linked = max(l.linked, linkedDeep)
		for k := range l.clues {
			if c := &l.clues[k]; told(*c) {
				c.Strength = lexicon.Root
				for _, echo := range deepest[c.Class] {
					r.echoed[echo] = true
				}
			}
		}
	}
}

// oneUser is said of a setup for nobody but who runs it, and is a place of that
// user's: neither takes an administrator.
var oneUser = lazy.MustCompile(`\bper[- ]?user\b|\bcurrent user only\b|\bfor (?:this|the current) user\b|\bscope ?[=:] ?(?:per)?user\b|\bnur für diesen benutzer\b`)

// ofOneUser says whether a run is such a setup, or broke over such a place.
func (r *Run) ofOneUser() bool {
	return slices.ContainsFunc(r.lines, func(l line) bool { return oneUser.MatchString(l.lower) }) ||
		slices.ContainsFunc(r.burst, func(i int) bool { return strings.Contains(r.lines[i].lower, `\appdata\`) })
}

// loopback are hosts that are this machine.
var loopback = lazy.MustCompile(`^(?:\w+://)?(?:localhost|127\.\d+\.\d+\.\d+|0\.0\.0\.0|\[?::1\]?)(?:$|[:/])`)

// ofOutside says whether a run broke over a host that is not this machine: no
// service of this one answers there.
func (r *Run) ofOutside() bool {
	return slices.ContainsFunc(r.burst, func(i int) bool {
		return slices.ContainsFunc(names.In(r.lines[i].Text), func(n names.Name) bool {
			return (n.Kind == names.Host || n.Kind == names.URL) && !loopback.MatchString(n.Text)
		})
	})
}

// Aside says whether nothing in the lines in which a run broke speaks for a
// cause, so that it is told by notes alone.
func (r *Run) Aside(h Hypothesis) bool {
	return len(r.burst) > 0 && r.mute() && !slices.ContainsFunc(h.Points, func(p Point) bool {
		i, ok := r.place[p.Line]
		return p.Line == nil || ok && r.broken(i)
	})
}

// root says whether a phrase of a line names a cause itself, which holds
// whatever else the line says: "another setup is running".
func (l *line) root() bool {
	return slices.ContainsFunc(l.clues, func(c Clue) bool { return c.tellsMore() && c.Strength == lexicon.Root && !c.Thing })
}

// surely says whether a clue is for a cause in words, or the OS's own number of
// a call.
func (c Clue) surely() bool {
	return c.tellsMore() && (c.Strength == lexicon.Root || c.Strength == lexicon.Tells || c.Call)
}

// broken says whether the i-th line is one of those in which it broke.
func (r *Run) broken(i int) bool {
	_, is := slices.BinarySearch(r.burst, i)
	return is
}

// tellsMore says whether a clue is for more than that a program of the setup's
// own failed.
func (c Clue) tellsMore() bool { return c.Class != "custom-action" && c.Strength != lexicon.Against }

// endsWithNo says whether a line gives no as the value of what it names, and
// that is well: "restart due: false".
func endsWithNo(l *line) bool {
	at := strings.LastIndexAny(l.lower, " :=")
	if at < 0 || !strings.HasSuffix(strings.TrimRight(l.lower[:at+1], " "), ":") && l.lower[at] != '=' {
		return false
	}
	matters := func(c Clue) bool { return wanted[c.Class] || c.Compared }
	return pieces.IsNo(strings.Trim(l.lower[at+1:], `."')]`)) && !slices.ContainsFunc(l.clues, matters)
}
