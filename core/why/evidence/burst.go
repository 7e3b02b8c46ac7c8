// This file finds the lines in which a run broke: from where it was given up
// back to where the trouble began. What comes all the time is noise and no part
// of it.

package evidence

import (
	"math"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/story"
)

// How the last failures of a run are told from those that it went on after.
const (
	burstLines  = 12               // a warning so close to the next failure belongs to it; lines that come all the time do not count
	burstErrors = 60               // an error so close
	burstTime   = 3 * time.Second  // or so close in time
	burstFar    = 300              // lines of all sorts that are too many between,
	burstLong   = 30 * time.Second // when so much time has passed too
	retryLines  = 12               // so many lines that have a word in common can be tries of one thing
	noiseTimes  = 5                // a shape that comes so often,
	noiseShare  = 0.25             // and over so much of the log,
	oldLines    = 9                // a warning that came so many lines before was gone on after
	noiseFirst  = 0.4              // and began in so much of it, is noise: what began later and stays may be what broke
)

// findNoise finds the shapes that come all the time: they are about no failure
// in particular, however grave they say they are.
func (r *Run) findNoise() {
	type seen struct{ n, first, last int }
	common := r.commonWords()
	shapes := map[string]*seen{}
	for i := range r.lines {
		l := &r.lines[i]
		l.shape = common.shape(l.Message)
		s := shapes[l.shape]
		if s == nil {
			s = &seen{first: l.pos}
			shapes[l.shape] = s
		}
		s.n++
		s.n = max(s.n, l.Repeated)
		s.last = l.pos
	}
	last, old := map[string]int{}, map[string]bool{}
	r.alike = map[string]int{}
	for shape, s := range shapes {
		r.alike[shape] = s.n
	}
	span := math.Max(1, math.Abs(float64(r.a.LastLine-r.a.Line)))
	// Noise is what comes often, from early on, over most of the run: it was
	// there while all went well.
	for i := range r.lines {
		l := &r.lines[i]
		s := shapes[l.shape]
		if before, seen := last[l.shape]; seen && l.Kind == story.KindWarning { // close together they are tries of one thing
			old[l.shape] = old[l.shape] || l.pos-before > oldLines && r.wentOn(i, before)
		}
		last[l.shape] = l.pos
		l.noise = s.n >= noiseTimes && float64(s.last-s.first)/span > noiseShare &&
			float64(s.first-min(r.pos(r.a.Line), r.pos(r.a.LastLine))) < noiseFirst*span
	}
	for i := range r.lines {
		r.lines[i].old = r.lines[i].Kind == story.KindWarning && old[r.lines[i].shape]
	}
}

// everyone is the source of more than half of the messages.
func everyone(ms []*story.Message) string {
	n := map[string]int{}
	for _, m := range ms {
		if n[m.Source]++; n[m.Source]*2 > len(ms) {
			return m.Source
		}
	}
	return ""
}

// wentOn says whether, since a place, lines of other sorts came that are no
// failures: as many as make a warning at that place one that nothing came of.
func (r *Run) wentOn(i, since int) bool {
	others := map[string]bool{}
	for k := i - 1; k >= 0 && r.lines[k].pos > since; k-- {
		if l := &r.lines[k]; !l.fails && l.shape != r.lines[i].shape {
			if others[l.shape] = true; len(others) >= wentOnLines {
				return true
			}
		}
	}
	return false
}

// wellAfter is how many lines that are no failures come at least behind one
// that was done in another way: the last try of all goes on with nothing.
const wellAfter = 2

// wentOnLines is how many sorts of lines between show that the run went on.
const wentOnLines = 6

// findBurst finds the lines in which the run broke: from where it was given up
// back, as long as one failure follows upon another. Lines that come all the
// time do not count as lines between; an error may stand further off than a
// warning.
func (r *Run) findBurst() {
	var next *line
	between := map[string]bool{} // shapes of lines since next that are no noise
	for i := len(r.lines) - 1; i >= 0; i-- {
		l := &r.lines[i]
		if l.noise || l.old || l.pos > r.end {
			continue
		}
		between[l.shape] = true
		if !l.fails || !r.counts(i) {
			continue
		}
		// Two failures belong together that stand close, in lines or in time,
		// with few other things between them.
		if next != nil {
			apart := burstLines
			if l.Kind <= story.KindDebug {
				apart = burstErrors
			}
			inTime := l.At >= 0 && next.At > 0 && next.At-l.At >= 0
			far := next.pos-l.pos > burstFar && (!inTime || next.At-l.At > burstLong)
			if (len(between) > apart || far) && !(inTime && next.At-l.At <= burstTime && len(between) <= burstErrors) {
				break
			}
		}
		next, between = l, map[string]bool{}
		r.burst = append(r.burst, i)
	}
	slices.Reverse(r.burst)
	r.taken = r.end
	if len(r.burst) == 0 {
		return
	}
	for i := r.burst[0] + 1; i < len(r.lines); i++ { // the failure itself may say that it rolls back
		if l := &r.lines[i]; !l.noise && l.pos < r.end && l.said.GivesUp {
			r.taken = l.pos
			return
		}
	}
}

// counts says whether a failure was neither made good nor said not to matter.
// One that is tried otherwise counts only when that fails too.
func (r *Run) counts(i int) bool {
	l := &r.lines[i]
	return !r.again[l.Message] && !l.Rollback && !l.otherwise && !l.passes
}

// failsAgain says whether another failure of the same part, or of the same
// thing, follows upon a line within a few others.
func (r *Run) failsAgain(i int) bool {
	l := &r.lines[i]
	seen := map[string]bool{}
	for k := i + 1; k < len(r.lines) && len(seen) <= burstLines; k++ {
		o := &r.lines[k]
		if o.noise {
			continue
		}
		seen[o.shape] = true
		same := o.shape == l.shape || o.Source != "" && o.Source == l.Source && o.Source != r.everyone
		if o.fails && !o.otherwise && !o.passes && (same ||
			slices.ContainsFunc(l.names, func(n string) bool { return slices.Contains(o.names, n) && r.spoken[n] <= retryLines }) || r.akin(l, o)) {
			return true
		}
	}
	return false
}

// akin says whether two lines have a longer word in common that few others
// have.
func (r *Run) akin(a, b *line) bool {
	for w := range wordsOf(a.lower) {
		if r.words[w] <= retryLines && strings.Contains(b.lower, w) {
			return true
		}
	}
	return false
}
