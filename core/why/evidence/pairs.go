// This file finds a thing and a state in one line, in whichever order and
// words: "the service", "is disabled".

package evidence

import (
	_ "embed"
	"slices"
	"strings"
	"sync"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/why/lexicon"
)

// No list of phrases has all the ways in which a failure can be told. A line
// that none of them is in, and that tells of a failure, still names a thing and
// what is wrong with it.

//go:embed pairs.txt
var pairsText string

// A pairing is one class of pairs.txt: any of the things with any of the
// states.
type pairing struct {
	class  string
	things []int
	states []int
}

// pairs is pairs.txt, its words in one set.
type pairs struct {
	set     *pieces.Set
	words   []string
	ends    []bool // other endings are the word's, too
	of      []int  // the meaning of each word
	shapes  map[int]*lazy.Regexp
	classes []pairing
	undone  map[int]bool // what a "no" before it undoes
	topics  []pairing    // without states
	awaits  []pairing    // what is waited for
	turns   []turn
	names   map[string]int // the meanings
}

var allPairs = sync.OnceValue(func() (p pairs) {
	p.shapes, p.undone = map[int]*lazy.Regexp{}, map[int]bool{}
	meanings := map[string]int{}
	p.names = meanings
	meaning := func(name string) int {
		if _, known := meanings[name]; !known {
			meanings[name] = len(meanings)
		}
		return meanings[name]
	}
	known := func(names string) (all []int) {
		for name := range strings.FieldsSeq(names) {
			if n, ok := meanings[name]; ok {
				all = append(all, n)
			}
		}
		return all
	}
	for line := range strings.Lines(pairsText) {
		kind, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		name, rest, _ := strings.Cut(strings.TrimSpace(rest), " ")
		switch kind {
		case "thing", "state":
			of := meaning(name)
			for w := range strings.SplitSeq(rest, "|") {
				w = strings.TrimSpace(w)
				stem, open := strings.CutSuffix(w, "*")
				if stem == "" {
					continue
				}
				for _, way := range append(pieces.Unmarked(stem), stem) {
					p.words, p.ends, p.of = append(p.words, way), append(p.ends, open), append(p.of, of)
				}
			}
		case "shape":
			p.shapes[meaning(name)] = lazy.OfData(strings.TrimSpace(rest))
		case "class":
			things, states, _ := strings.Cut(rest, ":")
			p.classes = append(p.classes, pairing{name, known(things), known(states)})
		case "undone":
			for _, n := range known(name + " " + rest) {
				p.undone[n] = true
			}
		case "about":
			p.topics = append(p.topics, pairing{class: name, things: known(rest)})
		case "await":
			p.awaits = append(p.awaits, pairing{class: name, things: known(rest)})
		case "turn":
			classes, rest, _ := strings.Cut(name+" "+rest, ":")
			from, to, _ := strings.Cut(classes, " to ")
			things, states, _ := strings.Cut(rest, ":")
			p.turns = append(p.turns, turn{strings.Fields(from), pairing{strings.TrimSpace(to), known(things), known(states)}})
		}
	}
	p.set = pieces.New(p.words)
	return p
})

// A turn makes of what a phrase says, where the line names a thing of a certain
// kind, another class: a file that is not there is a path, and a key that is
// not there is not.
type turn struct {
	from []string
	pairing
}

// A meaning finds the place where a line has a thing or a state of pairs.txt.
type meaning func(n int) (at int, ok bool)

// ofBuild takes out what stands behind the name of a folder or a runtime, and
// is no processor that anything lacks: "Desktop Runtime 8.0 (x64) missing"; and
// makes one name of an account's two words, which is no service.
var ofBuild = strings.NewReplacer("(x86)", "     ", "(x64)", "     ", "(arm64)", "       ", "(64-bit)", "        ", "(32-bit)", "        ",
	"network service", "network_service", "local service", "local_service") // accounts

// meaningsIn reads a line, given in small letters.
func (p *pairs) meaningsIn(lower string) meaning {
	lower = ofBuild.Replace(lower)
	found := map[int]int{} // where each meaning begins
	p.set.Find(lower, func(k, end int) {
		start := end - len(p.words[k])
		if !pieces.Begins(lower, start) || !p.ends[k] && !pieces.Ends(lower, end) || within(lower, start, end) {
			return
		}
		if p.undone[p.of[k]] && pieces.Undone(strings.TrimSuffix(lower[:start], "be ")) {
			return
		}
		if _, seen := found[p.of[k]]; !seen {
			found[p.of[k]] = start
		}
	})
	return func(n int) (int, bool) {
		at, asked := found[n]
		if form, has := p.shapes[n]; !asked && has {
			at = nowhere
			if m := form.FindStringIndex(lower); m != nil && !inAddress(lower, m[0]) {
				at = m[0]
			}
			found[n], asked = at, true // many pairings ask for it
		}
		return max(at, 0), asked && at != nowhere
	}
}

// nowhere stands for the place of what a line does not have.
const nowhere = -1

// fits says whether a line has one of the things and one of the states, and
// where the thing stands.
func (x pairing) fits(has meaning) (at int, ok bool) {
	// States first: they are words, most lines have none, and a thing may be an
	// expression.
	if len(x.states) > 0 && !slices.ContainsFunc(x.states, func(n int) bool { _, ok := has(n); return ok }) {
		return 0, false
	}
	for _, n := range x.things {
		if at, ok = has(n); ok {
			return at, true
		}
	}
	return 0, false
}

// guessed finds what a line, given in small letters, is about by a thing and a
// state that it names.
func guessed(lower string) (c Clue, ok bool) {
	p := allPairs()
	return p.first(p.classes, lower, "what it is about, and what is wrong with it")
}

// aboutIt is what is told of a point that only says what a failing line speaks
// of.
const aboutIt = "what the failure is about"

// topic finds what a line, given in small letters, is about by a thing alone.
func topic(lower string) (c Clue, ok bool) {
	p := allPairs()
	return p.first(p.topics, lower, aboutIt)
}

// first makes a clue of the first pairing that a line fits.
func (p *pairs) first(all []pairing, lower, what string) (c Clue, ok bool) {
	has := p.meaningsIn(lower)
	for _, x := range all {
		if at, ok := x.fits(has); ok {
			return Clue{Class: x.class, Strength: lexicon.Echo, What: what, At: at, Guess: true}, true
		}
	}
	return c, false
}

// reread gives the phrases of a line, in small letters, another class where the
// thing that it names says so.
func reread(lower string, clues []Clue) {
	p := allPairs()
	var has meaning
	for i := range clues {
		c := &clues[i]
		if c.Class == "path" && unknownCmdlet.MatchString(lower) { // no folder of PATH holds it, but a module that is not there
			c.Class = "prerequisite"
		}
		if c.Class == "corrupt" && hostCertificate(lower) {
			c.Class = "network"
		}
		if c.Strength == lexicon.Against || c.Thing || c.Class == "path" && c.Strength != lexicon.Echo { // "path too long" stays one
			continue
		}
		for _, x := range p.turns {
			if !slices.Contains(x.from, c.Class) {
				continue
			}
			if has == nil {
				has = p.meaningsIn(lower)
			}
			if _, ok := x.fits(has); ok {
				c.Class = x.class
				break
			}
		}
	}
}

// hostCertificate says whether a line speaks of the certificate that a host
// shows, which nobody put into a package.
func hostCertificate(lower string) bool {
	p := allPairs()
	n, known := p.names["certificate"]
	if !known || !hostIn(lower) {
		return false
	}
	_, told := p.meaningsIn(lower)(n)
	return told
}

// unknownCmdlet is what PowerShell says of a command of its own kind, a verb
// and a noun, that it does not know, in any language.
var unknownCmdlet = lazy.MustCompile(`['"‘“„«][a-z]{2,12}-[a-z]\w+['"’”»“].{0,60}\bcmdlets?\b`)

// inAddress says whether a place in a text stands in an address of the web,
// which names a file whatever is wrong with the way to it.
func inAddress(s string, at int) bool {
	return strings.Contains(s[strings.LastIndexByte(s[:at], ' ')+1:at], "://")
}

// within says whether a word is a part of a path, of a file's name or of an
// address.
func within(s string, start, end int) bool {
	const joins = `\/._@=`
	return start > 0 && strings.IndexByte(joins, s[start-1]) >= 0 ||
		end+1 < len(s) && strings.IndexByte(joins+":", s[end]) >= 0 && s[end+1] != ' '
}
