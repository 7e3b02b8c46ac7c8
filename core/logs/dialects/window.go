// This file tells of which dialect a sample of lines is, and what stands in front
// of them.

package dialects

import (
	"bytes"
	"slices"
	"sync"
	"time"

	"hollowkey/core/logs/dialects/generic"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/story"
)

// A window is some lines of a text. What they begin with is learned once, when
// somebody asks: it takes longer than to read them.
type window struct {
	lines   [][]byte
	learned func() peel.Columns
	bare    [][][]byte // the lines without the first k columns, by k; nil until somebody asks
}

// newWindow is a sample of lines; its columns are learned when somebody asks,
// since most dialects are known without.
func newWindow(lines [][]byte) *window {
	return &window{lines: lines, learned: sync.OnceValue(func() peel.Columns { return peel.Learn(lines) })}
}

// beneath are the lines without their first k columns.
func (w *window) beneath(k int) [][]byte { return w.without()[k] }

// without are the lines without the first k columns, by k.
func (w *window) without() [][][]byte {
	if w.bare == nil {
		w.bare = w.learned().Peeled(w.lines)
	}
	return w.bare
}

// wraps is the share of lines that must have what another program wrote in front
// of each line of a log: it does not know which of them begin a record.
const wraps = 0.97

// wrapper is how many of the columns another program wrote in front of a log
// that has its own times, or records of several lines; 0 where none did. Such a
// log is read as if it stood alone: else its own levels, and the lines that
// belong to the record above them, are lost behind the other's stamp.
func (w *window) wrapper() int {
	learned := w.learned()
	k, level := learned.Outer()
	if level < k {
		told := map[string]bool{}
		for _, l := range w.lines {
			if f, _, ok := learned[:k].Take(l); ok {
				told[f.Level] = true
			}
		}
		if len(told) > 1 {
			k = level
		}
	}
	if k == 0 && learned.Told() && !generic.IsBlocks(w.lines) {
		k = 1 + slices.IndexFunc(w.without()[1:], generic.IsBlocks)
	}
	if k == 0 {
		return 0
	}
	has, all, since := 0, 0, 0
	for i, l := range w.lines {
		if len(bytes.TrimSpace(l)) > 0 {
			all++
			if _, _, ok := learned[:k].Take(l); ok {
				has++
			}
			if f, _, ok := learned[k:].Take(w.beneath(k)[i]); ok && f.Date == "" && f.At >= 0 && f.At < time.Hour {
				since++ // the program's own count of the time, beside the clock
			}
		}
	}
	if float64(has) < wraps*float64(all) || since*2 > all {
		return 0
	}
	return k
}

// document says whether the lines begin a document of several lines, and behind
// which columns.
func (w *window) document() (front peel.Columns, is bool) {
	if generic.IsDocument(w.lines) {
		return nil, true
	}
	learned := w.learned()
	for k := 1; k <= len(learned); k++ {
		if generic.IsDocument(w.beneath(k)) {
			return learned[:k], true
		}
	}
	return nil, false
}

// detect picks the dialect that most of the lines are of, and the columns in
// front of which it stands: another program may have written its own stamp
// before each line. score is 0 when the lines are of none. Without deep,
// nothing is peeled: a log whose layout is known already seldom has another
// beneath it, and looking costs as much as reading.
func (w *window) detect(deep bool) (best dialect, columns peel.Columns, score int) {
	lines := w.lines
	for _, d := range known {
		if n := d.score(lines); n > score {
			best, score = d, n
		}
		if score > 2*len(lines) { // most lines are surely of this one
			return best, nil, score
		}
	}
	if !deep || best.sure(score, len(lines)) {
		return best, nil, score
	}
	learned := w.learned()
	if best.name == story.Generic || best.open == nil {
		columns = learned
	}
	if len(learned) > 0 && score < 1 && learned.Told() {
		best, score = known[len(known)-1], 1
	}
	for k := 1; k <= len(learned); k++ {
		bare := w.beneath(k)
		for _, d := range known {
			if d.name == story.Generic {
				continue
			}
			// A dialect of its own beneath a prefix must be sure of itself: the
			// prefix alone makes any text look like more of a log than it is,
			// and one of as many lines as a dialect of ours says less than
			// that.
			n := d.score(bare)
			beneath := n > score || n == score && (best.name == story.Generic || d.name == story.Events && k == 1 && learned[:1].Told())
			if beneath && n*2 > len(lines) {
				best, columns, score = d, learned[:k], n
			}
		}
	}
	return best, columns, score
}

// formBeneath is how many of the columns, which are some that were learned,
// stand in front of records that have a form of their own, 0 when none does or
// none is needed.
func (w *window) formBeneath(columns peel.Columns) int {
	if len(columns) == 0 || generic.Formed(w.lines) {
		return 0
	}
	for k := 1; k <= len(columns); k++ {
		if generic.Formed(w.beneath(k)) {
			return k
		}
	}
	return 0
}

// nearlyAll is the share of lines of a dialect of our own from which on nothing
// is looked for beneath: its lines have a form that no stamp in front of
// another's would leave.
const nearlyAll = 0.9

// sure says whether a text is of a dialect of our own by nearly all of its
// lines.
func (d dialect) sure(score, lines int) bool {
	return d.open != nil && d.name != story.Generic && float64(score) >= nearlyAll*float64(lines)
}

// stripped are the lines without their columns.
func stripped(columns peel.Columns, lines [][]byte) [][]byte {
	bare := make([][]byte, len(lines))
	for i, l := range lines {
		bare[i] = columns.Strip(l)
	}
	return bare
}
