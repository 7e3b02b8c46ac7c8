// This file keeps the first and last lines of an action that runs, in memory
// that is used again: a log has hundreds of thousands of actions and one that
// fails.

package engine

import (
	"time"

	"hollowkey/core/logs/story"
)

// A slot is one line that may matter if the action that it fell in fails.
type slot struct {
	line int           // in the log, from 1
	at   time.Duration // time of day
	kind story.Kind    // what kind of line it is
	text []byte        // cut at the longest that is kept; the room is used again
}

const (
	windowHead = 64  // lines kept from the start of an action
	windowTail = 192 // lines kept from its end
	dataKept   = 4   // lines kept of what an action was working on
)

// A window keeps the first and the last lines of an action that is running, so
// that a long action costs no more than a short one.
type window struct {
	slots [windowHead + windowTail]slot // the first lines, and a ring of the last ones
	n     int                           // lines seen
	data  [dataKept]slot                // a ring of records of data
	nData int                           // how many records there were
}

// reset empties the window; its memory stays for the next action.
func (w *window) reset() { w.n, w.nData = 0, 0 }

// add keeps a copy of text.
func (w *window) add(line int, at time.Duration, kind story.Kind, text []byte) {
	i := w.n
	if i >= windowHead {
		i = windowHead + (w.n-windowHead)%windowTail
	}
	w.slots[i].set(line, at, kind, text)
	w.n++
}

// addData keeps a line of an action's data in the place of the oldest.
func (w *window) addData(line int, at time.Duration, text []byte) {
	w.data[w.nData%dataKept].set(line, at, story.KindData, text)
	w.nData++
}

// set puts a line into the slot, in the memory of the one before, cut to what a
// message has at most.
func (s *slot) set(line int, at time.Duration, kind story.Kind, text []byte) {
	if len(text) > story.MaxText {
		text = text[:story.MaxText]
	}
	s.line, s.at, s.kind = line, at, kind
	s.text = append(s.text[:0], text...)
}

// each visits the kept lines in order, the data lines in between.
func (w *window) each(visit func(*slot)) {
	d := max(0, w.nData-dataKept)
	visitData := func(before int) {
		for ; d < w.nData && w.data[d%dataKept].line < before; d++ {
			visit(&w.data[d%dataKept])
		}
	}
	for i := range min(w.n, windowHead) {
		visitData(w.slots[i].line)
		visit(&w.slots[i])
	}
	for i := max(windowHead, w.n-windowTail); i < w.n; i++ {
		s := &w.slots[windowHead+(i-windowHead)%windowTail]
		visitData(s.line)
		visit(s)
	}
	visitData(int(^uint(0) >> 1))
}

// lastData is what the action was working on, oldest first.
func (w *window) lastData(file string) (lines []story.Line) {
	for d := max(0, w.nData-dataKept); d < w.nData; d++ {
		s := &w.data[d%dataKept]
		lines = append(lines, story.Line{Place: story.Place{File: file, Line: s.line}, Text: string(s.text)})
	}
	return lines
}
