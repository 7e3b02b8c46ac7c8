// This file adds all up: what speaks for each cause, and against it, and how
// sure that makes the likeliest.

package evidence

import (
	"cmp"
	_ "embed"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// A Proposal is a cause that something else than words proposes: a sign.
type Proposal struct {
	Class string
	ID    string           // of the sign
	Title string           // what it says
	Score float64          // from 0 to 1, its strength times the weight of its line
	Says  Nearness         // how near the cause the sign is
	Lines []*story.Message // that showed it
}

// Nearness is how near the cause a proposal is.
type Nearness uint8

// How near: the cause itself, something that speaks of it, a failure in which
// many causes show, or only that something failed.
const (
	Root Nearness = iota
	Tells
	Echo
	Nothing
)

// A Point speaks for a hypothesis, or against it.
type Point struct {
	Weight float64        // in nats of log-odds; negative against
	What   string         // the phrase, the number's meaning, or the sign's title
	Sign   string         // ID of the sign, where it is one
	Code   *int           // where a number said it
	Line   *story.Message // nil for what no line shows
	Root   bool           // it names the cause itself
	// Compared says that What tells of two lines, which do not agree.
	Compared bool
	Kind     string // of cause within its class, where that is known
	guess    bool   // no phrase says it
}

// A Hypothesis is a cause with all that speaks for and against it.
type Hypothesis struct {
	Class  string
	Total  float64 // log-odds
	Points []Point // the heaviest first
}

// OnlyMentioned says whether all that speaks for a hypothesis is that lines
// mention a thing of its kind.
func (h Hypothesis) OnlyMentioned() bool {
	return !slices.ContainsFunc(h.Points, func(p Point) bool { return p.What != aboutIt })
}

// What a clue weighs, in nats, when its line is surely about the failure. Found
// by trying on logs with known answers; scripts/calibrate.py shows how they do.
const (
	rootWeight    = 3.2  // one such clue alone outweighs that nothing is known
	tellsWeight   = 1.9  // two are as good as one that is the root
	echoWeight    = 1.2  // what a failure leads to: it fits many causes
	againstWeight = -1.5 // it takes back most of what a telling clue gives
	guessWeight   = 1.1  // of a thing and a state: enough to be named where nothing else speaks, and surely the error is of the setup
	topicWeight   = 0.95 // of a thing alone: it is named only where nothing else speaks, and is a guess
	fading        = 0.45 // what each further point of a class adds of its own weight
	unknownPrior  = 0.75 // what "unknown" weighs when nothing speaks
	mostPoints    = 12   // of a hypothesis that are kept
	quietest      = 0.85 // what a low level leaves of a root that is linked with what broke: roots often stand at debug level
	quietElse     = 0.45 // and of one that is not
)

// signWeight is what a sign weighs that is sure to 1, by how near the cause it
// is.
var signWeight = map[Nearness]float64{Root: 4.4, Tells: 2.8, Echo: 1.7, Nothing: 1.4}

// Weight is what a proposal weighs.
func (p Proposal) Weight() float64 { return signWeight[p.Says] * p.Score }

// weightOf is what a clue of a line weighs.
func (r *Run) weightOf(c Clue, l *line) float64 {
	severity := l.rated
	if l.advises {
		severity *= adviceFactor
	}
	if l.otherwise {
		severity *= otherwiseFactor
	}
	if c.Class == "cancelled" && !r.a.Cancelled { // what somebody answers when it broke already
		severity *= afterwards
	}
	switch c.Strength {
	case lexicon.Root:
		s := r.severity(l, severity)
		if c.Call { // the OS itself says it, of this very call
			s = min(1, callFactor*s)
		}
		return rootWeight * l.linked * s
	case lexicon.Tells:
		return tellsWeight * l.linked * severity
	case lexicon.Echo:
		if c.Guess {
			return guessWeight * l.linked * severity
		}
		if c.Call && l.linked >= linkedInside { // the OS itself says it, of a call that has to do with what broke
			severity = callFactor * max(severity, KindWeight[story.KindWarning])
		}
		return echoWeight * l.linked * severity
	}
	if l.advises { // "make sure that the service is running" says that it is not
		return 0
	}
	return againstWeight * l.linked
}

// severity is how much the level of a line counts when it names a cause: roots
// often stand at debug level.
func (r *Run) severity(l *line, rated float64) float64 {
	quiet := quietElse
	if l.linked >= linkedNear {
		quiet = quietest
	}
	if l.advises {
		quiet *= adviceFactor
	}
	return max(rated, quiet*penalty(r, l))
}

// callFactor is of a number that a function of the OS gave back: it is no word
// that could mean something else.
const callFactor = 1.3

// otherwiseFactor is of a failure after which the same was done in another way,
// and nothing of it failed again.
const otherwiseFactor = 0.35

// adviceFactor is of what a program tells a person to do: it is said at the
// end, for any failure alike, and seldom knows the cause.
const adviceFactor = 0.4

// afterwards is what is left of words for cancelling in a run that is not told
// to have been cancelled.
const afterwards = 0.5

// penalty is 1 for a line whose only fault is its low level, less for one that
// was made good, does not matter, or is noise.
func penalty(r *Run, l *line) float64 {
	full := KindWeight[l.Kind]
	if r.a.Dialect == story.Generic && l.Kind == story.KindText {
		full = debugWeight
	}
	if l.otherwise {
		return otherwiseFactor
	}
	if l.rated < full*0.9 {
		return l.rated / full
	}
	if l.Kind > story.KindWarning && endings.WentWell(l.Text) {
		return fineFactor
	}
	return 1
}

// fineFactor is of a line that names a cause and says that all is well with it:
// "disk space: ok".
const fineFactor = 0.3

// Weigh gives the hypotheses, the likeliest first; "unknown" is one of them.
func (r *Run) Weigh(proposals []Proposal) []Hypothesis {
	points := map[string][]Point{}
	for i := range r.lines {
		l := &r.lines[i]
		for _, c := range l.clues {
			w := r.weightOf(c, l)
			if r.bare && c.Class == "custom-action" {
				w *= bareFactor
			}
			if r.echoed[c.Class] {
				w *= echoFactor
			}
			if w > 0.05 || w < -0.05 {
				points[c.Class] = append(points[c.Class],
					Point{Weight: w, What: c.What, Code: c.Code, Line: l.Message, Root: c.Strength == lexicon.Root, Compared: c.Compared,
						Kind: c.Kind, guess: c.Guess})
			}
		}
	}
	proposals = slices.Clone(proposals)
	for i := range proposals {
		switch p := &proposals[i]; {
		case r.bare && p.Class == "custom-action" && p.Says != Root:
			p.Score *= bareFactor
		case r.echoed[p.Class]:
			p.Score *= echoFactor
		}
	}
	hs := settle(points, proposals)
	if hs[0].Class != "unknown" {
		return hs
	}
	if about := r.about(); len(about) > 0 {
		return settle(about, proposals)
	}
	return hs
}

// about are what the failures are about in which a run broke, for one that
// speaks of no cause. Where those say nothing, it is what was said right before
// them.
func (r *Run) about() map[string][]Point {
	points := map[string][]Point{}
	add := func(l *line, c Clue, weight float64) {
		points[c.Class] = append(points[c.Class], Point{Weight: weight, What: c.What, Line: l.Message, guess: true})
	}
	for _, i := range r.burst {
		l := &r.lines[i]
		if !l.fails || l.Verdict || len(l.clues) > 0 || l.Number != 0 {
			continue
		}
		if c, ok := topic(r.said(l)); ok {
			add(l, c, topicWeight*l.linked*l.rated)
		}
	}
	if len(points) > 0 || r.a.Success == nil || *r.a.Success {
		return points
	}
	if l, c, ok := r.lastSaid(); ok {
		add(l, c, topicWeight)
	} else if r.guess != nil {
		c, _ := guessed(r.said(r.guess))
		add(r.guess, c, topicWeight)
	}
	return points
}

// lastSaid finds, of the last few lines before a run is given up, the last one
// that names a thing and what is wrong with it.
func (r *Run) lastSaid() (l *line, c Clue, ok bool) {
	head := r.taken
	if len(r.burst) > 0 {
		head = min(head, r.lines[r.burst[0]].pos)
	}
	for i, seen := len(r.lines)-1, 0; i >= 0 && seen < lastLines; i-- {
		l = &r.lines[i]
		if l.pos >= head || l.noise {
			continue
		}
		seen++
		if l.Verdict || l.Number != 0 || endings.WentWell(l.Text) || l.passes || pieces.Denied("", l.lower) {
			continue
		}
		if c, ok = guessed(r.said(l)); ok {
			return l, c, true
		}
	}
	return nil, c, false
}

// lastLines is how many lines before a run is given up may say why: what is
// cleaned up and reported first.
const lastLines = 3

// Propose gives the hypotheses of proposals alone.
func Propose(proposals []Proposal) []Hypothesis { return settle(map[string][]Point{}, proposals) }

// settle adds the proposals to what speaks for each class, and gives the
// classes with their totals. One hypothesis is that nobody knows: the others
// have to outweigh it.
func settle(points map[string][]Point, proposals []Proposal) []Hypothesis {
	for _, p := range proposals {
		pt := Point{Weight: p.Weight(), What: p.Title, Sign: p.ID, Root: p.Says == Root}
		if len(p.Lines) > 0 {
			pt.Line = p.Lines[0]
		}
		points[p.Class] = append(points[p.Class], pt)
	}
	hypotheses := []Hypothesis{{Class: "unknown", Total: unknownPrior}}
	explainAway(points)
	for class, ps := range points {
		if h := sum(class, ps); h.Total > 0 {
			hypotheses = append(hypotheses, h)
		}
	}
	support(hypotheses)
	slices.SortFunc(hypotheses, func(a, b Hypothesis) int {
		if c := cmp.Compare(b.Total, a.Total); c != 0 {
			return c
		}
		return cmp.Compare(a.Class, b.Class)
	})
	return hypotheses
}

// explainedBy are the classes in whose failures another class shows: what
// protection software stops is told as access denied. What speaks for the
// second then speaks for the first too.
var explainedBy = map[string][]string{
	"permission": {"elevation", "in-use", "security-software", "policy"},
	"path":       {"source", "security-software", "prerequisite", "leftover", "command-line"},
	"corrupt":    {"network", "space", "security-software"},
	"network":    {"service", "prerequisite"},
	"service":    {"prerequisite", "registry", "leftover"},
	"leftover":   {"source", "cached-package", "installer-service"},
	"source":     {"cached-package"},
}

// Echoes are the classes in whose failures a class shows.
func Echoes(class string) (all []string) {
	for echo, causes := range explainedBy {
		if slices.Contains(causes, class) {
			all = append(all, echo)
		}
	}
	return all
}

const (
	supportShare = 0.3 // of what an explained class weighs
	supportMost  = 2.0 // nats of it that count
)

// support adds to the causes that are surely named what their echoes weigh.
func support(hs []Hypothesis) {
	totals := map[string]float64{}
	for _, h := range hs {
		totals[h.Class] = h.Total
	}
	for i := range hs {
		if !slices.ContainsFunc(hs[i].Points, func(p Point) bool { return p.Root && p.Weight >= surelyRoot }) {
			continue
		}
		for echo, causes := range explainedBy {
			if w := totals[echo]; w > 0 && slices.Contains(causes, hs[i].Class) {
				hs[i].Total += supportShare * min(w, supportMost)
			}
		}
	}
}

const (
	surelyRoot  = 1.4  // a root of so much weight makes echoes of what comes behind it
	echoedShare = 0.75 // what is left of those
)

// explainAway takes weight from what only speaks of a cause when the root of
// another one stands before it: a hash that does not match behind a page of a
// web filter says nothing of damage.
func explainAway(points map[string][]Point) {
	first := map[string]int{} // the line of each class's first sure root
	for class, ps := range points {
		for _, p := range ps {
			if p.Root && p.Weight >= surelyRoot && p.Line != nil && (first[class] == 0 || p.Line.Line < first[class]) {
				first[class] = p.Line.Line
			}
		}
	}
	for class, ps := range points {
		for i := range ps {
			if ps[i].Root || ps[i].Line == nil {
				continue
			}
			for other, line := range first {
				if other != class && ps[i].Line.Line > line {
					ps[i].Weight *= echoedShare
					break
				}
			}
		}
	}
}

const (
	surelySaid = 0.5 // a phrase of so much weight says a class without a guess
	guessedToo = 0.6 // of a guess that only agrees with it
)

// sum adds up what speaks for a class: the heaviest point in full, each further
// one by less, and of one phrase or one line only the heaviest.
func sum(class string, ps []Point) Hypothesis {
	if slices.ContainsFunc(ps, func(p Point) bool { return !p.guess && p.Weight >= surelySaid }) {
		for i := range ps {
			if ps[i].guess {
				ps[i].Weight *= guessedToo
			}
		}
	}
	slices.SortStableFunc(ps, func(a, b Point) int {
		if c := cmp.Compare(math.Abs(b.Weight), math.Abs(a.Weight)); c != 0 || a.Compared == b.Compared {
			return c
		}
		if a.Compared { // it says what was found, too
			return -1
		}
		return 1
	})
	h := Hypothesis{Class: class}
	said := map[string]bool{}
	lines, signed := map[*story.Message]int{}, map[*story.Message]bool{}
	share := 1.0
	for _, p := range ps {
		if said[p.What] || p.Line != nil && (lines[p.Line] >= 2 || p.Sign != "" && signed[p.Line]) { // two signs of a line read the same words
			continue
		}
		signed[p.Line] = signed[p.Line] || p.Sign != ""
		said[p.What] = true
		lines[p.Line]++
		if len(h.Points) < mostPoints {
			h.Points = append(h.Points, p)
		}
		if p.Weight < 0 {
			h.Total += p.Weight
			continue
		}
		h.Total += p.Weight * share
		share *= fading
	}
	return h
}

// Confidence is how sure the first of some hypotheses is: by how far it is
// ahead of the next, and how much speaks for it at all.
func Confidence(hs []Hypothesis) float64 {
	if len(hs) == 0 {
		return 0
	}
	second := 0.0
	if len(hs) > 1 {
		second = max(hs[1].Total, 0)
	}
	f, margin, total := fitted(), hs[0].Total-second, hs[0].Total
	sure := 1 / (1 + math.Exp(-(f["margin"]*margin + f["total"]*total + f["base"])))
	if margin+total < f["proof"] {
		return min(sure, unproved)
	}
	return sure
}

// unproved is how sure a verdict is at most that no more speaks for than for
// one that was wrong: below 0.9, from where on it reads as proved.
const unproved = 0.89

//go:embed fitted.txt
var fittedText string

// fitted are the numbers that scripts/calibrate.py found.
var fitted = sync.OnceValue(func() map[string]float64 {
	m := map[string]float64{}
	for line := range strings.Lines(fittedText) {
		if f := strings.Fields(line); len(f) == 2 && f[0] != "#" {
			m[f[0]], _ = strconv.ParseFloat(f[1], 64) // a test looks that all are numbers
		}
	}
	return m
})
