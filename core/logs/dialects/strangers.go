// This file finds another program's lines before a log and behind it, in a
// sample of the text: what a runner's console or an agent wrote down before and
// goes on to write says nothing of how the log itself is built, or how it ended.

package dialects

import (
	"bytes"
	"slices"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/textfile"
)

const (
	leastStrange = 20      // lines: fewer are a setup's first or last words
	mostShapes   = 6       // that they have: what goes on in many ways may be the setup's own
	oftenStrange = 4       // times that each shape stands there in a sample
	twoNames     = 2       // with colons behind, that tell another program by themselves: a single one may count what the setup does
	mostSuspects = 4000    // lines that are held back until it shows whether the log goes on behind them
	mostHeld     = 4 << 20 // bytes of them
	fewAlike     = 0.3     // share of the rest that may have such stamps, or none as they have: further lines of a record
	keptLead     = 100     // lines of another program that are kept before a log, to tell its own lines from
	lastLines    = 5       // of a log in one of which it tells its end
	leastRest    = 8       // lines that a log must have of its own behind another program's
	longestWord  = 24      // bytes of a line's first word that tell who speaks
)

// A dress is what a line begins with: its stamp without the figures, and the
// name or the word behind it.
type dress struct{ stamp, word string }

// dressOf is a line's.
func dressOf(line []byte) (d dress) {
	rest := bytes.TrimLeft(line, "[(<\"")
	if _, _, n := peel.Stamp(rest); n > 0 {
		d.stamp = string(line[:len(line)-len(rest)]) + shapeOf(rest[:n])
		rest = bytes.TrimLeft(rest[n:], "]:)>|,;\" \t-")
	} else {
		rest = line
	}
	rest = rest[:min(len(rest), longestWord)]
	if i := bytes.IndexAny(rest, " \t"); i >= 0 {
		rest = rest[:i]
	}
	d.word = shapeOf(rest)
	return d
}

// strange is the run of lines that another program may have written, counted
// from one end of the lines.
type strange struct {
	dresses map[dress]bool
	shapes  map[string]*int // how often each stands there
	lines   int
	scratch []byte // for a shape, which is seldom a new one
}

func newStrange() strange { return strange{dresses: map[dress]bool{}, shapes: map[string]*int{}} }

// takes says whether a line goes on in the same way. Lines that differ in their
// numbers alone are dressed alike: only the first of them is looked at. Where
// dressed is false, lines of another dress go on, too.
func (s *strange) takes(line []byte, dressed bool) bool {
	s.scratch = unnumbered(s.scratch[:0], line)
	n, known := s.shapes[string(s.scratch)]
	if !known {
		if len(s.shapes) == mostShapes {
			return false
		}
		d, shape := dressOf(line), string(s.scratch)
		if dressed && !s.dresses[d] || endings.Tells(shape) {
			return false
		}
		n = new(int)
		s.shapes[shape], s.dresses[d] = n, true
	}
	*n++
	s.lines++
	return true
}

// other says whether such lines are another program's than the rest: each of
// their shapes comes again and again, and no line of the rest is dressed like
// them. Behind a log they have two names at least, too, or other stamps: else
// they may be what the setup does until it hangs.
func (s *strange) other(rest [][]byte, behind bool) bool {
	if s.lines < leastStrange {
		return false
	}
	for _, n := range s.shapes {
		if *n < oftenStrange {
			return false
		}
	}
	stamps, own := map[string]bool{}, 0
	for d := range s.dresses {
		stamps[d.stamp] = true
	}
	alike, named := 0, len(s.dresses) >= twoNames
	for d := range s.dresses {
		named = named && strings.HasSuffix(d.word, ":")
	}
	for _, l := range rest {
		if len(l) == 0 {
			continue
		}
		own++
		d := dressOf(l)
		if s.dresses[d] {
			return false
		}
		if stamps[d.stamp] {
			alike++
		}
	}
	return own >= leastRest && (!behind || float64(alike) < fewAlike*float64(own) || named && over(rest))
}

// over says whether one of the last lines of a log tells that its run is over:
// what comes behind is nothing that it did. The last one stands first.
func over(turned [][]byte) bool {
	seen := 0
	for _, l := range turned {
		if len(bytes.TrimSpace(l)) == 0 {
			continue
		}
		if said := endings.Read(string(l)); said.Ends || said.Exit != nil || said.Failed || said.Worked || said.GivesUp || said.Cancelled {
			return true
		}
		if seen++; seen == lastLines {
			break
		}
	}
	return false
}

// run is another program's lines that the lines begin with, and how many of
// these they are; 0 where there are none. The run may have gone on into the log,
// where that has lines that come again and again: it ends where those dressed in
// one way begin, then.
func run(lines [][]byte, behind bool) (n int, s strange) {
	if s = newStrange(); sameAtBothEnds(lines) {
		return 0, s
	}
	var turns []int // where lines of another dress begin
	for n < len(lines) {
		if had := len(s.dresses); len(lines[n]) > 0 {
			if !s.takes(lines[n], false) {
				break
			}
			if len(s.dresses) > had {
				turns = append(turns, n)
			}
		}
		n++
	}
	for {
		if s.other(lines[n:], behind) {
			return n, s
		}
		if len(turns) < 2 {
			return 0, s
		}
		n, turns = turns[len(turns)-1], turns[:len(turns)-1]
		s = newStrange()
		for _, l := range lines[:n] {
			if len(l) > 0 {
				s.takes(l, false)
			}
		}
	}
}

// sameAtBothEnds says whether the last lines are dressed like the first one:
// they are the rest of any run from there, so that it is no other program's.
func sameAtBothEnds(lines [][]byte) bool {
	first := slices.IndexFunc(lines, func(l []byte) bool { return len(l) > 0 })
	if first < 0 {
		return true
	}
	d := dressOf(lines[first])
	for i, seen := len(lines)-1, 0; i > first && seen < leastRest; i-- {
		if len(lines[i]) > 0 {
			if seen++; dressOf(lines[i]) == d {
				return true
			}
		}
	}
	return false
}

// tail is where another program's lines begin that go on to the last one;
// len(lines) where there are none.
func tail(lines [][]byte) (at int, s strange) {
	turned := slices.Clone(lines)
	slices.Reverse(turned)
	n, s := run(turned, true)
	return len(lines) - n, s
}

// lead is where another program's lines end that the text begins with; 0 where
// there are none.
func lead(lines [][]byte) int {
	n, _ := run(lines, false)
	return n
}

// shapeOf is a line without its numbers.
func shapeOf(line []byte) string { return string(unnumbered(nil, line)) }

// unnumbered adds a line to what is there, without its numbers.
func unnumbered(to, line []byte) []byte {
	for _, c := range line {
		if c < '0' || c > '9' {
			to = append(to, c)
		}
	}
	return to
}

// withoutLead takes another program's lines off the begin of a text: lines are a
// sample of it, and places where they stand among those that were not read yet.
// lines is nil when more has to be seen first.
func (s *sniffer) withoutLead(lines [][]byte, places []int) ([][]byte, []int) {
	if !s.ended && s.aside == nil && len(s.layers) == 0 {
		if how, all := allStrange(lines); all {
			s.suspect(s.head, how)
			s.head, s.text, s.windows, s.size = s.head[:0], s.text[:0], 0, 0
			return nil, nil
		}
	}
	from := lead(lines)
	if from == 0 {
		return lines, places
	}
	first := places[from]
	s.head = s.head[first:]
	for i := range places {
		places[i] -= first
	}
	s.aside = []textfile.Line{} // nobody needs to read them
	if s.ended {
		return lines[from:], places[from:]
	}
	s.windows, s.size = 0, 0 // the rest is too little to tell how the log is built
	for _, l := range s.head {
		s.size += len(l.Text)
	}
	return nil, nil
}

// withoutTail takes another program's lines off the end of a sample. They are
// read no more where the text ends there, and held back where it goes on.
func (s *sniffer) withoutTail(lines [][]byte, places []int) [][]byte {
	at, how := tail(lines)
	if at == len(lines) {
		return lines
	}
	if s.ended || len(s.layers) == 0 {
		if !s.ended {
			s.suspect(s.head[places[at]:], how)
		}
		s.head = s.head[:places[at]]
	}
	return lines[:at]
}

// suspect holds lines back that may be another program's behind the log.
func (s *sniffer) suspect(lines []textfile.Line, how strange) {
	s.strange = &how
	for _, l := range lines {
		s.hold(l)
	}
}

// hold keeps a line, which lies in a block that is used again.
func (s *sniffer) hold(l textfile.Line) {
	s.held += len(l.Text)
	s.suspects = append(s.suspects, textfile.Line{Number: l.Number, Text: bytes.Clone(l.Text), Cut: l.Cut})
}

// heldBack says whether a line goes on as the suspected ones do, and holds it
// back; where it does not, the log went on, and they are read after all.
func (s *sniffer) heldBack(l textfile.Line) bool {
	if s.strange == nil {
		return false
	}
	room := len(s.suspects) < mostSuspects && s.held < mostHeld
	if room && (len(l.Text) == 0 || s.strange.takes(l.Text, true)) {
		s.hold(l)
		return true
	}
	s.release()
	return false
}

// release reads the lines that were held back. Of those that a text begins with
// the last ones are enough to tell whether they are the log's; the others wait
// for that.
func (s *sniffer) release() {
	held := s.suspects
	s.strange, s.suspects, s.held = nil, nil, 0
	if s.reader == nil && !s.ended {
		n := max(0, len(held)-keptLead)
		s.aside, held = held[:n], held[n:]
	}
	for _, l := range held {
		if !s.heldBack(l) { // others of them may be held back again, and none may come before those
			s.next(l)
		}
	}
}

// allStrange says whether all of the lines may be another program's, behind
// which a log begins.
func allStrange(lines [][]byte) (strange, bool) {
	s := newStrange()
	for _, l := range lines {
		if len(l) == 0 {
			continue
		}
		if !s.takes(l, false) {
			return s, false
		}
	}
	for _, n := range s.shapes {
		if *n < oftenStrange {
			return s, false
		}
	}
	return s, s.lines >= leastStrange
}
