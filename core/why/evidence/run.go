// Package evidence weighs what the lines of a run say: which of them are about
// the failure at all, what each speaks of, and which cause they speak for when
// all are taken together.
//
// To read it: this file makes a run of the lines; judge.go says of each line
// whether it fails and what it speaks of; burst.go finds where it broke, link.go
// what has to do with that; weigh.go adds all up. Every other file is one idea
// about what lines say, which those ask in turn.
//
// It is for logs without numbered messages, where no engine says which failure
// counts. docs/verdicts.md tells the rules with examples.
package evidence

import (
	"cmp"
	"fmt"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/codes"
	"hollowkey/core/why/lexicon"
)

// A Run is one attempt with how much each of its lines counts.
type Run struct {
	a      *story.Attempt
	broke  *story.Action          // the action that broke, nil where none is known
	turned bool                   // the newest line stands first
	levels bool                   // its lines have levels
	place  map[*story.Message]int // in lines
	end    int                    // the place where it was given up
	taken  int                    // the line from which on it is rolled back; end where none says so
	again  map[*story.Message]bool
	lines  []line
	burst  []int          // the lines in which it broke, by their places in lines
	spoken map[string]int // in how many lines a name stands
	words  map[string]int // in how many lines a longer word stands
	alike  map[string]int // how many lines have a shape
	hot    map[string]float64
	bare   bool            // it broke in a program of the setup's own, and a note elsewhere tells over what
	echoed map[string]bool // classes of failures in which another cause shows, which a note tells
	guess  *line           // a note elsewhere that names a thing and what is wrong with it, where nothing tells more
	// everyone is the source of most lines, which tells nothing of who said
	// one; empty where there is none
	everyone string
}

// A line is a message with what was found out about it.
type line struct {
	*story.Message
	pos       int // its place in the course of the run: the line, counted from the other end where the newest stands first
	lower     string
	shape     string   // without what changes from line to line
	noise     bool     // its shape comes all the time
	old       bool     // a warning that came long before, and the run went on
	names     []string // what it names, in small letters
	clues     []Clue
	said      endings.Reading // of the end of a setup
	passes    bool            // it says of itself that it does not matter
	advises   bool            // it tells a person what to do
	otherwise bool            // it failed, and went well another way
	fails     bool            // it tells of a failure
	reason    bool            // it is told under a name for a reason
	parting   bool            // nothing was done behind it: the run was given up
	rated     float64         // by its own words and place
	linked    float64         // how surely it has to do with what broke
}

// lower is the text in small letters as patterns are kept; letters beyond ASCII
// stay as they are, at their places, so that offsets hold in both.
func lower(s string) string { return pieces.Lower(s) }

// ReadRun looks at the lines of an attempt.
func ReadRun(a *story.Attempt, broke *story.Action) *Run {
	r := &Run{a: a, broke: broke, end: givenUp(a, broke), spoken: map[string]int{}, hot: map[string]float64{},
		echoed: map[string]bool{}, words: map[string]int{}, place: map[*story.Message]int{}}
	r.turned = newestFirst(a.Messages)
	r.end = r.pos(r.end)
	messages := a.Messages
	if r.turned {
		messages = slices.Clone(messages)
		slices.Reverse(messages)
		r.end = max(r.pos(a.Line), r.pos(a.LastLine)) // its line was told by the file's order
		if a.Exit != nil {
			r.end = r.pos(a.Exit.Line)
		}
	}
	levels := slices.ContainsFunc(a.Messages, func(m *story.Message) bool { return m.Kind == story.KindInfo })
	r.levels = levels
	r.lines = make([]line, len(messages))
	inParts(len(messages), func(i int) { r.lines[i] = r.alone(messages[i]) })
	for i := range r.lines {
		l := &r.lines[i]
		r.place[l.Message] = i
		for w := range wordsOf(l.lower) {
			r.words[w]++
		}
		for _, n := range l.names {
			r.spoken[n]++
		}
	}
	r.awaited()
	r.again = r.recovered()
	r.reasons()
	r.uncount()
	r.partings(levels)
	for i := range r.lines {
		r.judge(&r.lines[i], levels)
	}
	r.unmade()
	r.misspelt()
	r.checklists()
	r.choices()
	r.findNoise()
	r.needs()
	r.everyone = everyone(messages)
	well := 0
	for i := len(r.lines) - 1; i >= 0; i-- { // a try is made good by the last one
		l := &r.lines[i]
		l.otherwise = (l.fails || speaks(l.clues)) && well >= wellAfter && l.said.Again && !r.failsAgain(i)
		if !l.fails && !l.noise && !l.Verdict && l.pos < r.end {
			well++
		}
	}
	r.findBurst()
	if levels && r.mute() && a.Success != nil && !*a.Success {
		r.belie()
		r.burst = nil
		r.findBurst()
	}
	r.link()
	r.ownResult()
	r.putIn()
	r.byTheWay()
	r.listen()
	r.compare()
	r.widths()
	r.fits()
	r.sums()
	r.rooms()
	r.overhear()
	r.deeper()
	return r
}

// alone is what a line tells by itself. It is asked for several lines at once.
func (r *Run) alone(m *story.Message) line {
	a := r.a
	l := line{Message: m, pos: r.pos(m.Line), lower: lower(m.Text)}
	l.clues = CluesIn(l.lower)
	given(m.Text, l.lower, l.clues)
	reread(l.lower, l.clues)
	if c, ok := policySet(l.lower); ok {
		l.clues = append(l.clues, c)
	}
	if c, ok := programEnded(l.lower); ok {
		l.clues = append(l.clues, c)
	}
	l.clues = append(l.clues, comparedIn(m.Text, l.lower)...)
	l.clues = append(l.clues, missingSource(m.Text, l.clues)...)
	l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool { return c.ofProduct(l.lower, a.Product.Name) })
	if m.Number != 0 { // of the engine, and no error of the OS
		l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool { return c.Code != nil && *c.Code == m.Number })
	}
	if c, ok := engineSays(m.Number); ok && a.Dialect != story.Engine {
		l.clues = append(l.clues, c)
	}
	if m.Verdict || a.Exit != nil && a.Exit.Line == m.Line { // what a program ends with is its own
		l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool {
			ofAll := m.Verdict && c.Class == "corrupt" && c.Code == nil && len(strings.Fields(l.lower)) <= shortResult
			return c.OwnCode || ofAll
		})
	}
	if a.Exit != nil && a.Exit.Line != m.Line { // "cannot continue on this host (14)", then "exit 14"
		l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool {
			return c.Loose && c.OwnCode && c.Strength == lexicon.Echo && *c.Code == a.Exit.Code && len(names.In(m.Text)) == 0
		})
	}
	l.said = endings.Read(m.Text)
	l.passes = passes(m, l.lower, l.said)
	l.advises = m.Number == 0 && l.said.Advises // the engine's own texts all end with advice
	if a.Cancelled && (l.said.Cancelled || m.Stopped) && !slices.ContainsFunc(l.clues, func(c Clue) bool { return c.Class == "cancelled" }) {
		l.clues = append(l.clues, Clue{Class: "cancelled", Strength: lexicon.Root, What: "somebody stopped it"})
	}
	for _, n := range namesOf(m.Text) {
		if !slices.Contains(l.names, n) {
			l.names = append(l.names, n)
		}
	}
	return l
}

// partLines is how many lines one processor takes at a time: some milliseconds
// of work, and less than most logs have.
const partLines = 64

// inParts does n things on all processors.
func inParts(n int, do func(i int)) {
	var next atomic.Int64
	var all sync.WaitGroup
	for range min(runtime.GOMAXPROCS(0), (n+partLines-1)/partLines) {
		all.Go(func() {
			for from := int(next.Add(partLines)) - partLines; from < n; from = int(next.Add(partLines)) - partLines {
				for i := from; i < min(n, from+partLines); i++ {
					do(i)
				}
			}
		})
	}
	all.Wait()
}

// shortResult is how many words a line has at most that tells how all went:
// "Result: incomplete" finds fault with no file.
const shortResult = 3

// engineSays is what the number of a message of the installer engine tells,
// which another program hands on. That a service did not start, or a program of
// the package failed, has a cause of its own.
func engineSays(number int) (c Clue, ok bool) {
	if number == 0 { // as of nearly all lines
		return c, false
	}
	e, ok := codes.EngineMessage(number)
	strength := lexicon.Tells
	if e.Class == "service" || e.Class == "custom-action" {
		strength = lexicon.Echo
	}
	return Clue{Class: e.Class, Strength: strength, What: fmt.Sprintf("the engine's message %d", number), Code: &number}, ok && e.Class != ""
}

// pos is the place of a line of the file in the course of the run, as if each
// entry stood on one line: blank lines and lines that go on put nothing apart.
func (r *Run) pos(line int) int {
	first, last := min(r.a.Line, r.a.LastLine), max(r.a.Line, r.a.LastLine)
	if r.turned {
		line = first + last - line
	}
	if all := last - first + 1; r.a.Entries > 0 && r.a.Entries < all {
		return first + (line-first)*r.a.Entries/all
	}
	return line
}

// newestFirst says whether the messages, in the order of their lines, go back
// in time.
func newestFirst(ms []*story.Message) bool {
	back, on := 0, 0
	for i := 1; i < len(ms); i++ {
		switch {
		case ms[i].At < 0 || ms[i-1].At < 0 || ms[i].At == ms[i-1].At:
		case ms[i].At < ms[i-1].At:
			back++
		default:
			on++
		}
	}
	return back > 4*on && back > 1
}

// namesOf lists what a text names, in small letters: files by their last name
// too, since one line gives the path and another the file alone.
func namesOf(text string) (all []string) {
	for _, n := range names.In(text) {
		s := lower(n.Text)
		switch n.Kind {
		case names.Path, names.File:
			all = append(all, s)
			if at := strings.LastIndexAny(s, `\/`); at >= 0 && at < len(s)-3 {
				all = append(all, s[at+1:])
			}
		default:
			all = append(all, s)
		}
	}
	return all
}

// Counted is how much the i-th message counts for a sign that sees it.
func (r *Run) Counted(i int) float64 {
	l := &r.lines[r.place[r.a.Messages[i]]]
	rated := l.rated
	if l.otherwise {
		rated *= otherwiseFactor
	}
	return l.linked * r.severity(l, rated)
}

// Weight is how much the i-th message of the attempt counts.
func (r *Run) Weight(i int) float64 { return r.lines[r.place[r.a.Messages[i]]].rated }

// mostBroke is how many lines tell where it broke.
const mostBroke = 3

// Broke are the lines in which the run broke, those that are nearest the cause
// first.
func (r *Run) Broke() (ms []*story.Message) {
	places := slices.Clone(r.burst)
	slices.SortStableFunc(places, func(a, b int) int {
		return cmp.Compare(r.lines[b].linked*r.lines[b].rated, r.lines[a].linked*r.lines[a].rated)
	})
	for _, i := range places[:min(len(places), mostBroke)] {
		ms = append(ms, r.lines[i].Message)
	}
	return ms
}

// lastSaid is how many lines before the end of a run may say that nothing came
// of it.
const lastSaid = 4

// unmade takes what sounds like a need off the last lines that only say that
// what is set up did not come to be installed.
func (r *Run) unmade() {
	for i := max(0, len(r.lines)-lastSaid); i < len(r.lines); i++ {
		if l := &r.lines[i]; len(l.clues) > 0 && endings.NotInstalled(l.Text, r.a.Product.Name) {
			l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool { return c.Class == "prerequisite" && c.Code == nil })
		}
	}
}
