package evidence

import (
	_ "embed"
	"slices"
	"strings"
	"sync"

	"hollowkey/core/logs/pieces"
	"hollowkey/core/why/lexicon"
)

// No list of phrases has all the ways in which a failure can be told. A line that none of
// them is in, and that tells of a failure, still names a thing and what is wrong with it.

//go:embed pairs.txt
var pairsText string

// A pairing is one class of pairs.txt: any of the things with any of the states.
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
	classes []pairing
}

var allPairs = sync.OnceValue(func() (p pairs) {
	meanings := map[string]int{}
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
			meanings[name] = len(meanings)
			for w := range strings.SplitSeq(rest, "|") {
				w = strings.TrimSpace(w)
				stem, open := strings.CutSuffix(w, "*")
				if stem == "" {
					continue
				}
				for _, way := range append(pieces.Unmarked(stem), stem) {
					p.words, p.ends, p.of = append(p.words, way), append(p.ends, open), append(p.of, meanings[name])
				}
			}
		case "class":
			things, states, _ := strings.Cut(rest, ":")
			p.classes = append(p.classes, pairing{name, known(things), known(states)})
		}
	}
	p.set = pieces.New(p.words)
	return p
})

// guessed finds what a line, given in small letters, is about by a thing and a state that it
// names.
func guessed(lower string) (c Clue, ok bool) {
	p := allPairs()
	at := map[int]int{} // where each meaning begins
	p.set.Find(lower, func(k, end int) {
		start := end - len(p.words[k])
		if !pieces.Begins(lower, start) || !p.ends[k] && !pieces.Ends(lower, end) || within(lower, start, end) {
			return
		}
		if _, seen := at[p.of[k]]; !seen {
			at[p.of[k]] = start
		}
	})
	has := func(n int) bool { _, ok := at[n]; return ok }
	for _, x := range p.classes {
		if i := slices.IndexFunc(x.things, has); i >= 0 && slices.ContainsFunc(x.states, has) {
			return Clue{Class: x.class, Strength: lexicon.Echo, What: "what it is about, and what is wrong with it", At: at[x.things[i]], Guess: true}, true
		}
	}
	return c, false
}

// within says whether a word is a part of a path, of a file's name or of an address.
func within(s string, start, end int) bool {
	const joins = `\/._@=`
	return start > 0 && strings.IndexByte(joins, s[start-1]) >= 0 ||
		end+1 < len(s) && strings.IndexByte(joins+":", s[end]) >= 0 && s[end+1] != ' '
}
