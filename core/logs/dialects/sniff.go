// This file tells of which dialect a text is, from samples, and hands its lines
// to the reader of that dialect.

package dialects

import (
	"bytes"
	"math"
	"slices"

	"hollowkey/core/logs/dialects/generic"
	reading "hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// maxWindows is how many windows of headLines are looked at for a dialect of
// our own behind another program's output. A deployment's console output before
// the setup's own log is shorter.
const maxWindows = 40

// A sniffer tells of which dialect a text is, window by window, and hands its
// lines to the reader for it.
type sniffer struct {
	name     string
	head     []textfile.Line // of the window under way
	text     []byte          // of those lines, one behind the other; used again for the next window
	size     int             // bytes so far, until a dialect is settled
	windows  int             // looked at so far
	front    peel.Columns    // of lines of which nothing could be told but what they begin with
	speakers map[string]bool // whose names stand there; nil where they are many
	lines    int             // so far
	blank    int             // of them
	control  int             // bytes of those that no text has
	ended    bool            // no line follows
	strange  *strange        // how lines look that may be another program's behind the log; nil where none do
	suspects []textfile.Line // those lines, until it shows whether the log goes on
	aside    []textfile.Line // those before them at the begin of the text; not nil once they were asked for
	held     int             // bytes of the suspects
	settled  bool            // a dialect of our own was found; no more is looked for
	around   story.Source    // what the first lines tell of the machine

	chosen  story.Dialect    // of the reader; empty while nothing was told
	reader  story.Reader     // nil before the first window
	skips   skipper          // the same reader, where it is one; to ask for each line takes as long as to read it
	layers  []layer          // around each line of the whole text
	columns peel.Columns     // in front of the reader's lines
	sampled map[string]bool  // shapes of the lines by which later windows were told; of forty windows at most
	learned peel.Columns     // of the first window, beneath which a later one may hold a dialect of our own
	before  []*story.Attempt // of a reader that another one took over from
	calm    calm             // before a reader that can do without what says nothing new
	ahead   *textfile.Ahead  // of the lines, until it was turned on; nil then
}

// line takes the next line.
func (s *sniffer) line(l textfile.Line) {
	if s.lines++; len(l.Text) == 0 {
		s.blank++
	}
	if s.windows == 0 {
		for _, c := range l.Text {
			if c < ' ' && c != '\t' && c != '\r' && c != '\f' && c != 0x1b && c != 0 || c == 0x7f {
				s.control++
			}
		}
	}
	if text := reading.Plain(l.Text); len(text) != len(l.Text) { // what was worked out ahead is of another text
		l.Text, l.Notes = text, nil
	}
	if !s.heldBack(l) {
		s.next(l)
	}
}

// next takes a line that is not held back.
func (s *sniffer) next(l textfile.Line) {
	if s.settled || s.windows >= maxWindows {
		s.hand(l)
		return
	}
	if s.windows == 0 || len(s.head) > 0 || s.chosen == "" || s.chosen == story.Generic {
		s.size += len(l.Text)
		from := len(s.text)
		s.text = append(s.text, l.Text...)
		kept := textfile.Line{Number: l.Number, Text: s.text[from:len(s.text):len(s.text)], Cut: l.Cut}
		if l.Notes != nil { // they lie in a block that is used again
			kept.Notes = new(*l.Notes)
		}
		s.head = append(s.head, kept)
		if len(s.head) >= headLines*s.pace() || len(s.head) > 0 && s.size > (s.windows+1)*headBytes {
			s.look()
		}
		return
	}
	s.hand(l)
}

// hand gives a line to the reader, without what stands in front of it.
func (s *sniffer) hand(l textfile.Line) {
	if l.Number <= aroundLines && s.chosen != story.Engine { // the engine tells what is around as properties
		around(&s.around, l.Number, l.Text)
	}
	if s.skips != nil && s.skips.CanSkip() {
		if s.ahead != nil {
			s.ahead.On()
			s.ahead = nil
		}
		s.calm.line(l, s.pass)
		return
	}
	if s.ahead != nil {
		s.ahead.Off()
	}
	s.pass(l)
}

// pass is hand for a line that was not held back, or was so long enough.
func (s *sniffer) pass(l textfile.Line) {
	if s.calm.left > 0 {
		s.skips.Skipped(s.calm.skipped())
	}
	for _, take := range s.layers {
		l.Text, l.Notes = take(l.Text), nil // what was worked out ahead is of another text
	}
	if len(s.columns) > 0 {
		l.Text = s.columns.Strip(l.Text)
	}
	s.reader.Line(l)
}

// look tells the dialect of a window, and hands its lines on.
func (s *sniffer) look() {
	s.windows++
	if s.chosen == "" && s.reader != nil {
		s.turn()
	}
	lines, places := make([][]byte, 0, len(s.head)), make([]int, 0, len(s.head))
	for i, l := range s.head {
		if s.pace() == 1 || len(l.Text) > 0 {
			lines, places = append(lines, l.Text), append(places, i)
		}
	}
	alone := false // a document, of which no lines are another program's
	if s.windows == 1 {
		s.layers, lines = layersOf(lines)
		if from, to := document(lines); from > 0 {
			lines, alone = lines[from:to], true
			if s.ended && to < len(places) {
				s.head = s.head[:places[to]]
			}
			s.head = s.head[places[from]:]
		} else if lines, places = s.withoutLead(lines, places); lines == nil {
			return
		}
	} else {
		for _, take := range s.layers {
			lines = through(take, lines)
		}
	}
	if !alone {
		lines = s.withoutTail(lines, places)
	}
	if s.chosen != story.Generic || !s.goesOn(lines) {
		before := s.reader
		s.choose(lines)
		if s.reader != before {
			s.calm = calm{}
		}
	}
	s.skips, _ = s.reader.(skipper)
	if r, ok := s.reader.(interface{ Paced(int) }); ok {
		r.Paced(s.pace())
	}
	if len(s.aside) > 0 {
		for _, l := range s.aside {
			s.hand(l)
		}
		s.aside = []textfile.Line{}
	}
	for _, l := range s.head {
		s.hand(l)
	}
	s.head, s.text = s.head[:0], s.text[:0]
}

// choose takes the reader for what a window holds.
func (s *sniffer) choose(lines [][]byte) {
	var off peel.Columns
	if s.chosen == "" {
		off = peel.SetOff(lines)
		if in := off.Indent(); in != nil && generic.IsTable(stripped(in, lines)) { // what is more is a cell's
			off = in
		} else if off != nil && generic.IsTable(lines) {
			off = nil
		}
		if off != nil {
			lines = stripped(off, lines)
		}
	}
	w := newWindow(lines)
	d, columns, score := w.detect(s.chosen == "")
	if s.chosen == "" && !d.sure(score, len(lines)) {
		if k := w.wrapper(); k > 0 { // what is beneath is a log by itself
			off, lines = slices.Concat(off, w.learned()[:k]), w.beneath(k)
			w = newWindow(lines)
			d, columns, score = w.detect(true)
		}
	}
	for k := 1; k <= len(s.learned) && d.name == story.Generic; k++ {
		if x, _, n := newWindow(stripped(s.learned[:k], lines)).detect(false); x.open != nil && x.name != story.Generic && n > score {
			d, columns, score = x, s.learned[:k], n
		}
	}
	form := 0
	if s.chosen == "" { // the columns are this window's
		form = w.formBeneath(columns)
	}
	if s.chosen == "" && s.reader == nil && d.name != story.Engine && !d.sure(score, len(lines)) {
		if front, is := w.document(); is {
			s.reader, s.columns, s.chosen, s.settled = generic.NewDocument(s.name), slices.Concat(off, front), story.Generic, true
			return
		}
	}
	if s.chosen == "" && s.reader == nil && d.name != story.Engine && !d.sure(score, len(lines)) {
		if b := generic.NewBlocks(s.name, lines); b != nil {
			s.reader, s.columns, s.chosen, s.settled = b, off, story.Generic, true
			return
		}
	}
	switch {
	case score == 0 && s.reader == nil: // what it is may show later
		s.front, s.speakers = w.learned(), speakersOf(w)
		s.reader, s.columns = generic.NewPlain(s.name, s.front, lines), off
	case score == 0:
	case d.name != story.Generic && (s.reader == nil || score*2 > len(lines)):
		if s.chosen != "" { // a log of another program stands before it
			s.calm.release(s.pass)
			s.before = append(s.before, s.reader.Finish()...)
		}
		s.reader, s.columns, s.chosen, s.settled = d.open(s.name), slices.Concat(off, columns), d.name, true
	case s.chosen == "" && form > 0: // records of a form of their own behind another program's stamp
		bare := stripped(columns[:form], lines)
		s.reader, s.columns, s.chosen = generic.NewLearned(s.name, peel.Learn(bare), bare), slices.Concat(off, columns[:form]), story.Generic
	case s.chosen == "":
		s.reader, s.columns, s.chosen = generic.NewLearned(s.name, columns, lines), off, story.Generic
		s.learned = slices.Concat(off, columns)
	}
}

const (
	turnLines = 30  // lines behind the place where another program began to write
	turnShare = 0.8 // of them that lack what all lines before it began with
)

// turn looks for the place in a window at which a program of which nothing
// could be told was followed by another one: what its lines began with no
// longer stands there, and what stands there can be told, or what stood before
// had nothing to do with setups. That begins a text of its own.
func (s *sniffer) turn() {
	at := s.turned()
	if at < 0 {
		return
	}
	rest := make([][]byte, 0, len(s.head)-at)
	for _, l := range s.head[at:] {
		rest = append(rest, l.Text)
	}
	w := newWindow(rest)
	if _, _, score := w.detect(true); score == 0 {
		p, plain := s.reader.(interface{ About() bool })
		if _, is := w.document(); !is && (!plain || p.About()) {
			return
		}
	}
	for _, l := range s.head[:at] {
		s.hand(l)
	}
	s.head = append(s.head[:0], s.head[at:]...)
	s.reader, s.front, s.calm = nil, nil, calm{}
}

// mostSpeakers is of how many names at most those of the parts of one program
// are: what more lines begin with are names of values, or words.
const mostSpeakers = 8

// speakersOf are the names that the lines of a window begin with; nil where
// these are none, or more than a few.
func speakersOf(w *window) map[string]bool {
	names := map[string]bool{}
	for _, l := range w.lines {
		if f, _, ok := w.learned().Take(l); ok {
			names[f.Source] = true
		}
	}
	if names[""] || len(names) > mostSpeakers {
		return nil
	}
	return names
}

// turned is the first line of a window that lacks what all lines before it
// began with, as most lines behind it do; -1 when there is none.
func (s *sniffer) turned() int {
	if len(s.front) == 0 {
		return -1
	}
	fits := make([]bool, len(s.head))
	for i, l := range s.head {
		f, _, took := s.front.Take(l.Text)
		fits[i] = took && (s.speakers == nil || s.speakers[f.Source]) || len(bytes.TrimSpace(l.Text)) == 0
	}
	for i := range fits {
		n, not := min(turnLines, len(fits)-i), 0
		if fits[i] || n < turnLines/3 {
			continue
		}
		for _, f := range fits[i : i+n] {
			if !f {
				not++
			}
		}
		if float64(not) >= turnShare*float64(n) {
			return i
		}
	}
	return -1
}

// sampled is of how many lines one is looked at to see that a log goes on as
// before.
const sampled = 16

// enough is how many lines with a time or a level show that the log has not
// turned into something else.
const enough = 8

// goesOn says whether a window of another program's log holds no dialect of our
// own, by some of its lines: to score all of them takes as long as to read
// them.
func (s *sniffer) goesOn(lines [][]byte) bool {
	some := make([][]byte, 0, len(lines)/sampled+1)
	for i := 0; i < len(lines); i += sampled {
		some = append(some, lines[i])
	}
	if !s.anyNew(some) {
		return true
	}
	for k, bare := range s.learned.Peeled(some) {
		if !anyOfOurs(bare) && (len(s.learned) > 0 || generic.Score(bare[:min(len(bare), enough)]) > 0) {
			continue
		}
		d, _, n := newWindow(bare).detect(false)
		if n > 0 && d.name != story.Generic || k == 0 && n == 0 && len(s.learned) == 0 {
			return false
		}
	}
	return true
}

// anyNew says whether one of a few lines differs from all that were asked about
// before in more than its numbers; else they tell what those told.
func (s *sniffer) anyNew(lines [][]byte) bool {
	if s.sampled == nil {
		s.sampled = map[string]bool{}
	}
	had := len(s.sampled)
	var shape []byte
	for _, l := range lines {
		if shape = unnumbered(shape[:0], l); !s.sampled[string(shape)] {
			s.sampled[string(shape)] = true
		}
	}
	return len(s.sampled) > had
}

// anyOfOurs says whether some lines have anything of a dialect of our own.
func anyOfOurs(lines [][]byte) bool {
	return slices.ContainsFunc(known, func(d dialect) bool { return d.name != story.Generic && d.score(lines) > 0 })
}

// A teller is a reader that only knows at the end whether its text is about a
// setup.
type teller interface {
	Told(attempts []*story.Attempt) bool
}

// finish gives what was read; the dialect is empty when the text is no log. It
// gives nothing then, but for a text that may be one all the same.
func (s *sniffer) finish() ([]*story.Attempt, story.Dialect) {
	if s.ended = true; s.reader == nil {
		s.release()
	}
	if len(s.head) > 0 {
		s.look()
	}
	if s.reader == nil {
		return nil, ""
	}
	s.calm.release(s.pass)
	attempts := append(s.before, s.reader.Finish()...)
	for _, a := range attempts {
		a.Pace = s.pace()
	}
	if p, ok := s.reader.(teller); ok {
		if s.chosen = ""; p.Told(attempts) {
			s.chosen = story.Generic
		} else if m, ok := s.reader.(interface{ MayTell() bool }); !ok || !m.MayTell() {
			attempts = nil
		}
	}
	return attempts, s.chosen
}

// doubled is the share of blank lines from which on each line has one behind it:
// as line ends turn out that were written twice, or turned by a mail program.
const doubled = 0.45

// pace is how many lines of the file each that says something takes, as story's
// Attempt has it.
func (s *sniffer) pace() int {
	if s.lines == 0 || float64(s.blank) < doubled*float64(s.lines) {
		return 1
	}
	return int(math.Round(float64(s.lines) / float64(max(s.lines-s.blank, 1))))
}
