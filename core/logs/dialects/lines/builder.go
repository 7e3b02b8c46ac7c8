// Package lines helps the readers of line-based logs: it keeps what may tell
// why a run failed, within bounds, however long and noisy the log is.
package lines

import (
	"hash/maphash"
	"slices"
	"time"
	"unicode/utf8"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/story"
)

// Limits of what is kept of one attempt.
const (
	headKept   = 2500 // first lines of each weight: the cause of a failure often stands quietly, far before it
	tailKept   = 2500 // last lines of each weight
	maxShapes  = 8192 // different shapes of lines that are counted
	shapeKept  = 24   // lines of one shape that are kept from the start
	maxActions = 4000
)

// An Entry is one entry of a log, parsed by its dialect.
type Entry struct {
	Line   int           // from 1
	At     time.Duration // time of day, -1 when unknown
	Date   string        // as the log writes it
	Kind   story.Kind    // error, warning or other
	Number int           // the system's or engine's number, when the dialect has a place for it
	Source string        // logger, component or package
	Text   string        // without its stamp
	Raw    string        // as it stands in the log
}

// A Builder makes attempts of entries.
type Builder struct {
	file     string            // name of the log
	dialect  story.Dialect     // whose builder it is
	attempts []*story.Attempt  // all so far
	A        *story.Attempt    // the one that is being read; nil before the first entry
	action   *story.Action     // that is running
	errors   kept              // lines with errors
	rest     kept              // other lines
	shapes   map[uint64]*shape // by what a line looks like without its numbers and names
	seed     maphash.Seed      // of the shapes' hashes
	last     *story.Message    // the line added last
	clock    story.Clock       // times of this attempt
}

// kept holds the first and the last messages that were put in.
type kept struct {
	head []shaped // the first ones
	tail []shaped // a ring of the last ones
	next int      // the ring's oldest
}

// shaped is a message with the shape that it is counted under.
type shaped struct {
	m *story.Message
	s *shape
}

// add keeps a message: the first ones for good, of the rest the last ones,
// since failures show at both ends.
func (k *kept) add(m *story.Message, s *shape) {
	if len(k.head) < headKept {
		k.head = append(k.head, shaped{m, s})
		return
	}
	if len(k.tail) < tailKept {
		k.tail = append(k.tail, shaped{m, s})
		return
	}
	k.tail[k.next].forget()
	k.tail[k.next] = shaped{m, s}
	k.next = (k.next + 1) % tailKept
}

// forget lets go of a message that made room, so that thousands of shapes do
// not hold what nobody will read.
func (x shaped) forget() {
	x.s.keep = slices.DeleteFunc(x.s.keep, func(m *story.Message) bool { return m == x.m })
}

// all are the messages that were kept, in the order in which they came.
func (k *kept) all() []shaped {
	return slices.Concat(k.head, k.tail[k.next:], k.tail[:k.next])
}

// shape counts the lines that differ only in numbers, paths and quoted words.
type shape struct {
	n    int              // how often it came
	from int              // the line of the first
	keep []*story.Message // its first ones
}

// New makes a builder for one file.
func New(file string, dialect story.Dialect) *Builder {
	return &Builder{file: file, dialect: dialect, seed: maphash.MakeSeed(), clock: story.ClockFor(new(story.Attempt))}
}

// Begin starts an attempt at a line; the one before is closed.
func (b *Builder) Begin(line int) {
	b.close(line - 1)
	b.A = &story.Attempt{
		Place: story.Place{File: b.file, Line: line}, Dialect: b.dialect,
		Properties: map[string]story.Property{}, Policies: map[string]story.Property{},
	}
	b.attempts = append(story.Latest(b.attempts, b.A), b.A)
	b.errors, b.rest, b.action, b.last = kept{}, kept{}, nil, nil
	b.shapes = map[uint64]*shape{}
	b.clock = story.ClockFor(b.A)
}

// Ensure begins the first attempt when there is none.
func (b *Builder) Ensure(line int) {
	if b.A == nil {
		b.Begin(line)
	}
	b.A.LastLine = line
}

// Place is a line of this file.
func (b *Builder) Place(line int) story.Place { return story.Place{File: b.file, Line: line} }

// Stamp takes the time of an entry.
func (b *Builder) Stamp(line int, at time.Duration, date string) { b.clock.Stamp(line, at, date) }

// Gap is how long before at the last entry was; 0 when either is unknown.
func (b *Builder) Gap(at time.Duration, date string) time.Duration { return b.clock.Since(at, date) }

// Add keeps an entry as a message.
func (b *Builder) Add(e Entry) *story.Message {
	b.Ensure(e.Line)
	b.Stamp(e.Line, e.At, e.Date)
	m := &story.Message{
		Place: b.Place(e.Line), At: b.clock.Now(), Kind: e.Kind, Number: e.Number, Source: e.Source,
		Text: story.Clip(e.Text, story.MaxText), Raw: story.Clip(e.Raw, story.MaxText), Action: b.action, Repeated: 1,
		Rollback: b.A.Rollback > 0 && e.Line > b.A.Rollback,
	}
	if m.Number == 0 {
		m.Number, m.Fields = OfEngine(m.Text)
	}
	b.last = m
	b.A.Entries++
	key := b.shape(e.Kind, e.Source, m.Text)
	s := b.shapes[key]
	if s == nil {
		if len(b.shapes) >= maxShapes {
			b.A.Dropped++
			return m
		}
		s = &shape{from: e.Line}
		b.shapes[key] = s
	}
	s.n++
	s.keep = append(s.keep, m)
	if len(s.keep) > shapeKept { // of a line that comes again and again the first and the last few are kept
		gone := s.keep[shapeKept/2]
		gone.Line = 0
		s.keep = append(s.keep[:shapeKept/2], s.keep[shapeKept/2+1:]...)
	}
	if e.Kind <= story.KindProduct {
		b.errors.add(m, s)
	} else {
		b.rest.add(m, s)
	}
	return m
}

// Skipped counts entries that were left out since they say nothing new.
func (b *Builder) Skipped(n int) {
	if b.A != nil {
		b.A.Entries += n
	}
}

// Last is the message that was kept last, nil when there is none.
func (b *Builder) Last() *story.Message { return b.last }

// More adds a line that belongs to the last entry: a part of a stack trace or
// of a text of several lines.
func (b *Builder) More(line int, text string) {
	b.Ensure(line)
	if b.last == nil {
		return
	}
	if len(b.last.Text)+len(text) < story.MaxText {
		b.last.Text += "\n" + text
		b.last.Further = append(b.last.Further, line)
	}
}

// shape hashes a text without what changes from line to line.
func (b *Builder) shape(kind story.Kind, source, text string) uint64 {
	var h maphash.Hash
	h.SetSeed(b.seed)
	h.WriteByte(byte(kind))
	h.WriteString(source)
	if len(text) > 160 {
		text = text[:160]
	}
	for i := 0; i < len(text); i++ {
		c := text[i]
		if i == 0 || !wordByte(text[i-1]) {
			if n := hexWord(text[i:]); n > 0 { // a sum, or an address
				i += n - 1
				continue
			}
		}
		switch {
		case c >= '0' && c <= '9':
		case c == '\\' || c == '/': // the names in a path
			h.WriteByte('\\')
			for i+1 < len(text) && (wordByte(text[i+1]) || text[i+1] == '.') {
				i++
			}
		default:
			h.WriteByte(c)
		}
	}
	return h.Sum64()
}

// leastHex is how many figures a sum or an address has at least; shorter ones
// may be words.
const leastHex = 6

// hexWord is the length of the hexadecimal number that a text begins with, 0
// for none.
func hexWord(text string) (n int) {
	figures := false
	for n < len(text) && wordByte(text[n]) {
		switch c := text[n] | 0x20; {
		case text[n] >= '0' && text[n] <= '9':
			figures = true
		case c < 'a' || c > 'f':
			return 0
		}
		n++
	}
	if !figures || n < leastHex {
		return 0
	}
	return n
}

// wordByte says whether a byte can stand within a word; those beyond ASCII are
// parts of letters.
func wordByte(c byte) bool {
	return c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c == '_' || c >= utf8.RuneSelf
}

// Start opens an action inside parent (nil for none).
func (b *Builder) Start(line int, name string, parent *story.Action) *story.Action {
	b.Ensure(line)
	a := &story.Action{Place: b.Place(line), Name: story.Clip(name, 200), Parent: parent, Start: b.clock.Now(), End: -1, Custom: true}
	if len(b.A.Actions) < maxActions {
		b.A.Actions = append(b.A.Actions, a)
	} else {
		b.A.Dropped++
	}
	b.action = a
	return a
}

// Action is the action that is running.
func (b *Builder) Action() *story.Action { return b.action }

// Within puts what follows into an action; nil for none.
func (b *Builder) Within(a *story.Action) { b.action = a }

// End ends an action. text is the line that ended it.
func (b *Builder) End(a *story.Action, line int, failed bool, code *int, text string) {
	if a == nil {
		return
	}
	a.EndLine, a.End, a.Failed, a.Code = line, b.clock.Now(), failed, code
	if failed {
		a.EndText = story.Clip(text, story.MaxText)
	}
	if b.action == a {
		b.action = a.Parent
	}
}

// Exit sets what the run ended with.
func (b *Builder) Exit(line, code int, text string) {
	b.Ensure(line)
	b.A.Exit = &story.Exit{Place: b.Place(line), Code: code, Text: story.Clip(text, story.MaxText)}
}

// Property notes a name's value.
func (b *Builder) Property(line int, name, value string) {
	b.Ensure(line)
	if len(b.A.Properties) < story.MaxProperties {
		b.A.Properties[name] = story.Property{Place: b.Place(line), Value: story.Clip(value, story.MaxText)}
	}
}

// close ends an attempt: the messages that were kept become its own, in the
// order of their lines.
func (b *Builder) close(lastLine int) {
	if b.A == nil {
		return
	}
	b.A.LastLine = lastLine
	for _, x := range slices.Concat(b.errors.all(), b.rest.all()) {
		if x.m.Line == 0 {
			continue
		}
		x.m.Repeated, x.m.Since = x.s.n, x.s.from
		b.A.Messages = append(b.A.Messages, x.m)
	}
	sortByLine(b.A.Messages)
	if b.A.Exit != nil && exitcode.Restart(b.A.Exit.Code) {
		b.A.Restart = true
	}
	b.A = nil
}

// Finish gives the attempts.
func (b *Builder) Finish() []*story.Attempt {
	if b.A != nil {
		b.close(b.A.LastLine)
	}
	return b.attempts
}
