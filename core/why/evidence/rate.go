// This file weighs lines by what kind of line they are, before anything is
// known of what they say.

package evidence

import (
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
)

// How lines of logs without actions of their own are rated: by severity,
// closeness to where the run was given up, what they name, repetition, and what
// they say of themselves.
const (
	toleratedFactor = 0.35 // the line says that it does not matter
	verdictFactor   = 0.45 // the line tells how the run went, not why
	verdictWithWhy  = 0.85 // it tells both
	noiseFactor     = 0.5  // lines of this shape come again and again
	noiseCount      = 8    // of one shape: what is asked for again after a pause comes three to five times
	earlierFactor   = 0.8  // said long before the run was given up
	farLines        = 400  // what counts as long before
	// debugWeight is of lines that a foreign log calls debug, or that have no
	// level and no word for failing: most of what they count and name is no
	// failure.
	debugWeight   = 0.55
	specificBonus = 0.08 // a path, a service, a host stands in it: enough to part two lines that say the same
	otherAction   = 0.75 // said by an action that went on well
)

// KindWeight is how much a line of a kind tells about a failure.
var KindWeight = map[story.Kind]float64{
	story.KindError: 1, story.KindDebug: 0.98, story.KindText: 0.97, story.KindNote: 0.93, story.KindProduct: 0.9,
	story.KindResult: 0.8, story.KindWarning: 0.7, story.KindInfo: 0.5, story.KindData: 0.4,
}

// RollbackWeight is of what is said on the way back: it undoes, and breaks
// nothing.
const RollbackWeight = 0.15

// notYet says, in small letters, that something is not so before the setup does
// it: "service KelpSvc does not exist yet".
var notYet = lazy.MustCompile(`(?:\bnot\b|n't\b|\bno\b).{0,40}\byet\b|\bnoch (?:nicht|kein)|\bpas encore\b|\btodavía no\b|\baún no\b|\bancora non\b|\bnon \S+ ancora\b|` +
	`\bainda não\b|\bnog (?:niet|geen)\b|\bjeszcze nie|\bzatím ne|ännu inte|henüz|ещё не|еще не|まだ|아직|尚未|还没|還沒`)

// rate gives a line of a log without numbered messages its weight.
func (r *Run) rate(l *line) float64 {
	m, low := l.Message, l.lower
	w := KindWeight[m.Kind]
	if r.a.Dialect == story.Generic && m.Kind == story.KindText {
		w = debugWeight
	}
	if m.Kind <= story.KindWarning && specific.MatchString(m.Text) {
		w = min(1, w+specificBonus)
	}
	if l.passes || m.Kind > story.KindWarning && notYet.MatchString(low) {
		w *= toleratedFactor
	}
	if r.again[m] {
		w *= recoveredFactor
	}
	if m.Verdict {
		if len(CluesIn(low)) > 0 {
			w *= verdictWithWhy
		} else {
			w *= verdictFactor
		}
	}
	if m.Repeated > noiseCount {
		w *= noiseFactor
	}
	if m.Rollback {
		w *= RollbackWeight
	}
	if r.broke != nil && m.Action != nil && !m.Action.Within(r.broke) && !r.broke.Within(m.Action) && !m.Action.Failed {
		w *= otherAction
	}
	if r.end-r.pos(m.Line) > farLines {
		w *= earlierFactor
	}
	return w
}

// givenUp is the line where a run was given up.
func givenUp(a *story.Attempt, broke *story.Action) int {
	switch {
	// there, what is told below the end belongs to it
	case broke != nil && broke.EndLine > 0 && a.Dialect != story.Generic && a.Dialect != story.Script:
		return broke.EndLine
	case a.Rollback > 0:
		return a.Rollback
	case a.Exit != nil:
		return a.Exit.Line
	}
	return a.LastLine
}

// specific is what a telling line names: a code, a path, an exception, an
// errno.
var specific = lazy.MustCompile(`0x[0-9a-fA-F]{8}|[A-Za-z]:\\[\w ]|\\\\\w|\w+Exception\b|\bE[A-Z]{4,}\b|https?://|\berror (?:code )?\d+`)
