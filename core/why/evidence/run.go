// Package evidence weighs what the lines of a run say: which of them are about
// the failure at all, what each speaks of, and which cause they speak for when
// all are taken together.
//
// It is for logs without numbered messages, where no engine says which failure
// counts. docs/verdicts.md tells the rules with examples.
package evidence

import (
	"cmp"
	_ "embed"
	"fmt"
	"iter"
	"math"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"
	"unicode"

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
	// everyone is the source of most lines, which tells nothing of who said one; empty where there is none
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

func lower(s string) string { return pieces.Lower(s) }

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
	r.misspelt()
	r.checklists()
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

// partLines is how many lines one processor takes at a time: some milliseconds of work, and less than most logs have.
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

// shortResult is how many words a line has at most that tells how all went: "Result: incomplete" finds fault
// with no file.
const shortResult = 3

// engineSays is what the number of a message of the installer engine tells, which another program
// hands on. That a service did not start, or a program of the package failed, has a cause of its own.
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

// reasonKeys are names under which a report says why a setup failed, often behind its result.
var reasonKeys = map[string]bool{"reason": true, "cause": true, "error": true, "error text": true, "errortext": true, "last error": true, "lasterror": true,
	"error message": true, "errormessage": true, "failure": true, "failure reason": true, "details": true, "detail": true, "explanation": true, "problem": true,
	"grund": true, "ursache": true, "fehler": true, "fehlertext": true, "letzter fehler": true, "raison": true, "motif": true, "erreur": true, "motivo": true,
	"causa": true, "errore": true, "erro": true, "reden": true, "oorzaak": true, "fout": true, "przyczyna": true, "błąd": true, "důvod": true, "příčina": true,
	"chyba": true, "orsak": true, "fel": true, "neden": true, "hata": true, "причина": true, "ошибка": true, "理由": true, "原因": true, "エラー": true, "이유": true,
	"원인": true, "오류": true, "错误": true}

// IsReason says whether a name is one under which a report says why a setup failed.
func IsReason(name string) bool { return reasonKeys[lower(name)] }

// reasonsBehind is how many lines behind the result of a report its reason stands at most.
const reasonsBehind = 12

// reasons makes failures of what a report of names and values says to be the reason, wherever its result stands.
func (r *Run) reasons() {
	for i := range r.lines {
		l := &r.lines[i]
		if !IsReason(l.Source) || r.a.Success == nil || *r.a.Success || l.Kind <= story.KindWarning && l.pos <= r.end {
			continue
		}
		if l.pos-r.end <= reasonsBehind {
			l.reason = true
			r.end = max(r.end, l.pos)
		}
	}
}

// pos is the place of a line of the file in the course of the run, as if each entry
// stood on one line: blank lines and lines that go on put nothing apart.
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

// newestFirst says whether the messages, in the order of their lines, go back in
// time.
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

// namesOf lists what a text names, in small letters: files by their last name too,
// since one line gives the path and another the file alone.
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

// findNoise finds the shapes that come all the time: they are about no failure in
// particular, however grave they say they are.
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

// wentOn says whether, since a place, lines of other sorts came that are no failures: as many
// as make a warning at that place one that nothing came of.
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

// wellAfter is how many lines that are no failures come at least behind one that was done in another
// way: the last try of all goes on with nothing.
const wellAfter = 2

// wentOnLines is how many sorts of lines between show that the run went on.
const wentOnLines = 6

// findBurst finds the lines in which the run broke: from where it was given up
// back, as long as one failure follows upon another. Lines that come all the time
// do not count as lines between; an error may stand further off than a warning.
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

// counts says whether a failure was neither made good nor said not to matter. One
// that is tried otherwise counts only when that fails too.
func (r *Run) counts(i int) bool {
	l := &r.lines[i]
	return !r.again[l.Message] && !l.Rollback && !l.otherwise && !l.passes
}

// failsAgain says whether another failure of the same part, or of the same thing,
// follows upon a line within a few others.
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

// akin says whether two lines have a longer word in common that few others have.
func (r *Run) akin(a, b *line) bool {
	for w := range wordsOf(a.lower) {
		if r.words[w] <= retryLines && strings.Contains(b.lower, w) {
			return true
		}
	}
	return false
}

// link says for each line how surely it has to do with what broke.
func (r *Run) link() {
	limit := max(4, min(rareName, int(float64(len(r.lines))*rareShare)))
	head := r.end
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

// within says whether the i-th line stands between lines of the burst, close to one.
func (r *Run) within(i int) bool {
	if len(r.burst) == 0 || i < r.burst[0] || i > r.burst[len(r.burst)-1] {
		return false
	}
	at, _ := slices.BinarySearch(r.burst, i)
	return at < len(r.burst) && r.lines[r.burst[at]].pos-r.lines[i].pos <= insideLines || at > 0 &&
		r.lines[i].pos-r.lines[r.burst[at-1]].pos <= insideLines
}

// places says for each line of the burst how near the cause its place is: what
// stands far before the rest may be something else, and what comes behind the first
// failure is more and more of an echo.
func (r *Run) places() map[int]float64 {
	in := map[int]float64{}
	close := 1.0
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

// hotWords are the words of the lines in which it broke that few other lines have.
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

// hotHeads are the two words with which the lines in which it broke begin, and few others:
// what was done, by its name.
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

// headOf are the first two words of a text, when both are letters alone: "probe runtime".
func headOf(lower string) string {
	first, rest, ok := strings.Cut(lower, " ")
	second, _, _ := strings.Cut(rest, " ")
	second = strings.TrimRight(second, ":,;.")
	other := func(c rune) bool { return !unicode.IsLetter(c) && c != '-' && c != '_' }
	if !ok || len(first) < leastHead || len(second) < leastHead || strings.IndexFunc(first+second, other) >= 0 {
		return ""
	}
	return first + " " + second
}

// leastHead is how many bytes each word of a head has; shorter ones begin any sentence.
const leastHead = 4

// hasWord says whether a text has one of some words.
func hasWord(text string, words map[string]bool) bool {
	if len(words) == 0 {
		return false
	}
	for w := range wordsOf(text) {
		if words[w] {
			return true
		}
	}
	return false
}

// leastWord is the length of words that are compared, in bytes: shorter ones are of
// the sentence.
const leastWord = 5

// wordsOf gives the longer words of a text's first line, each once, but those that
// any failure is told with.
func wordsOf(text string) iter.Seq[string] {
	return func(yield func(string) bool) {
		text, _, _ := strings.Cut(text, "\n")
		seen := map[string]bool{}
		for w := range strings.FieldsFuncSeq(text, func(c rune) bool { return !unicode.IsLetter(c) }) {
			if len(w) < leastWord || seen[w] || plainWords()[w] {
				continue
			}
			seen[w] = true
			if !yield(w) {
				return
			}
		}
	}
}

//go:embed plain.txt
var plainText string

// plainWords are those of plain.txt.
var plainWords = sync.OnceValue(func() map[string]bool {
	m := map[string]bool{}
	for w := range strings.FieldsSeq(plainText) {
		m[w] = true
	}
	return m
})

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
