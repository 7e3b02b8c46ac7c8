// This file says how surely a line has to do with what broke: the same part,
// the same thing, the same words, or near.

package evidence

import (
	"slices"
)

// How surely a line has to do with what broke.
const (
	linkedSame   = 1.0  // it is one of the lines in which it broke
	linkedName   = 0.92 // it names what those name
	linkedInside = 0.85 // it stands between them
	insideLines  = 4    // no farther than this from one
	linkedWord   = 0.74 // it has a word with them in common that few lines have
	linkedNear   = 0.62 // right before them
	nearLines    = 25   // what one step of a setup writes at its usual level
	linkedAround = 0.45 // some way before them
	aroundLines  = 120  // the same at its most talkative
	linkedFail   = 0.5  // another failure of the run, that nothing made good
	linkedNot    = 0.28 // anything else
	linkedPassed = 0.4  // it says of itself that it does not matter
	linkedNoise  = 0.2  // it comes all the time
	takenBack    = 0.55 // said when the run was given up already, or is rolled back
	laterFactor  = 0.93 // for each line of another shape that broke before it: what comes later is more of an echo
	leastLater   = 0.6  // ten echoes make a line no worse than that
	closeLines   = 400  // as many lines between two failures as part them for good
	leastClose   = 0.85 // what a gap leaves at least
	headClose    = 0.8  // what is farther from the end than this is not yet where it broke
	behindFactor = 0.5  // said behind the end of the run
	rareName     = 40   // a name in more lines than this names nothing in particular
	rareShare    = 0.04 // the same for short logs, where forty lines are many
)

// link says for each line how surely it has to do with what broke.
func (r *Run) link() {
	limit := max(4, min(rareName, int(float64(len(r.lines))*rareShare)))
	head := r.end
	// Names that few lines have, of those in which it broke, are what the
	// failure is about.
	for _, i := range r.burst {
		l := &r.lines[i]
		head = min(head, l.pos)
		for _, n := range l.names {
			if r.spoken[n] <= limit {
				r.hot[n] = 1
			}
		}
	}
	words, heads := r.hotWords(), r.hotHeads()
	in := r.places()
	for i := range r.lines {
		l := &r.lines[i]
		l.linked = linkedNot
		set := func(w float64) { l.linked = max(l.linked, w) }
		if w, ok := in[i]; ok {
			l.linked = linkedSame * w
			continue
		}
		if slices.ContainsFunc(l.names, func(n string) bool { return r.hot[n] > 0 }) || heads[headOf(l.lower)] {
			set(linkedName)
		} else if hasWord(l.lower, words) {
			set(linkedWord)
		}
		if r.within(i) {
			set(linkedInside)
		}
		switch d := head - l.pos; {
		case d <= nearLines && l.pos <= r.end:
			set(linkedNear)
		case d > 0 && d <= aroundLines:
			set(linkedAround)
		}
		if l.fails && !r.again[l.Message] {
			set(linkedFail)
		}
		// What was said after the end was said about something else.
		if l.pos > r.end {
			l.linked *= behindFactor
		}
		if l.passes {
			l.linked = min(l.linked, linkedPassed)
		}
		if l.noise && l.linked < linkedWord {
			l.linked = min(l.linked, linkedNoise)
		}
	}
}

// within says whether the i-th line stands between lines of the burst, close to
// one.
func (r *Run) within(i int) bool {
	if len(r.burst) == 0 || i < r.burst[0] || i > r.burst[len(r.burst)-1] {
		return false
	}
	at, _ := slices.BinarySearch(r.burst, i)
	return at < len(r.burst) && r.lines[r.burst[at]].pos-r.lines[i].pos <= insideLines || at > 0 &&
		r.lines[i].pos-r.lines[r.burst[at-1]].pos <= insideLines
}

// places says for each line of the burst how near the cause its place is: what
// stands far before the rest may be something else, and what comes behind the
// first failure is more and more of an echo.
func (r *Run) places() map[int]float64 {
	in := map[int]float64{}
	close := 1.0
	// Going back from the end, each further failure is less surely of the same
	// trouble; then, going forward from the first that is, each later one is
	// more surely an echo of it.
	for k := len(r.burst) - 1; k >= 0; k-- {
		l := &r.lines[r.burst[k]]
		if k < len(r.burst)-1 {
			if next := &r.lines[r.burst[k+1]]; next.shape != l.shape {
				close *= max(leastClose, 1-float64(next.pos-l.pos)/closeLines)
			}
		}
		in[r.burst[k]] = close
	}
	later := 1.0
	begun := false
	seen := map[string]bool{}
	for _, i := range r.burst {
		l := &r.lines[i]
		if !begun && in[i] < headClose {
			continue
		}
		if !seen[l.shape] && begun {
			later = max(leastLater, later*laterFactor)
		}
		begun, seen[l.shape] = true, true
		in[i] = max(in[i], headClose) * later
		if l.pos > r.taken {
			in[i] *= takenBack
		}
	}
	return in
}

// hotWords are the words of the lines in which it broke that few other lines
// have.
func (r *Run) hotWords() map[string]bool {
	hot := map[string]bool{}
	for _, i := range r.burst {
		for w := range wordsOf(r.lines[i].lower) {
			if n := r.words[w]; n > 1 && n <= retryLines {
				hot[w] = true
			}
		}
	}
	return hot
}

// hotHeads are the two words with which the lines in which it broke begin, and
// few others: what was done, by its name.
func (r *Run) hotHeads() map[string]bool {
	count := map[string]int{}
	for i := range r.lines {
		if h := headOf(r.lines[i].lower); h != "" {
			count[h]++
		}
	}
	hot := map[string]bool{}
	for _, i := range r.burst {
		if h := headOf(r.lines[i].lower); h != "" && count[h] <= retryLines {
			hot[h] = true
		}
	}
	return hot
}
