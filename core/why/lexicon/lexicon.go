// Package lexicon knows the words for failures: by class, by how much they say,
// in the languages that setups speak. The words are data, a file for each language
// beside this one.
//
// A line of a file is: class, strength, then phrases with bars between, in small
// letters. " * " in a phrase stands for other words in between, a star at a word
// for its other endings or beginnings. docs/lexicon.md tells how to add a language.
package lexicon

import (
	"embed"
	"fmt"
	"slices"
	"strings"
	"sync"

	"hollowkey/core/logs/pieces"
)

// A Strength is how much a phrase says of a cause.
type Strength uint8

// The strengths, closed.
const (
	Echo    Strength = iota // a failure in which many causes show
	Tells                   // speaks of the cause; another may be behind it
	Root                    // names the cause itself
	Against                 // speaks against it
)

var strengths = map[string]Strength{"echo": Echo, "tells": Tells, "root": Root, "against": Against}

func (s Strength) String() string { return [...]string{"echo", "tells", "root", "against"}[s] }

// A Word is one phrase that was found.
type Word struct {
	Class    string
	Strength Strength
	Phrase   string // as the file has it
	At, End  int    // bytes of the line, in small letters
}

//go:embed *.txt
var files embed.FS

// A phrase is one of a file's.
type phrase struct {
	class    string
	strength Strength
	text     string   // as it stands in the file
	parts    []string // its words between " * "
	key      int      // the longest part, by which it is looked up
}

// A Lexicon is what all files say.
type Lexicon struct {
	phrases []phrase
	parts   []string    // of all phrases, one behind the other
	set     *pieces.Set // of the keys
}

// Default is the lexicon that ships with the program.
var Default = sync.OnceValue(func() *Lexicon {
	l := &Lexicon{}
	names, _ := files.ReadDir(".") // embedded: it cannot fail
	for _, n := range names {
		text, _ := files.ReadFile(n.Name())
		if err := l.read(n.Name(), string(text)); err != nil {
			panic(err) // our own data; a test reads it
		}
	}
	l.index()
	return l
})

// read adds a file's phrases.
func (l *Lexicon) read(name, text string) error {
	l.phrases = slices.Grow(l.phrases, strings.Count(text, "|")+strings.Count(text, "\n"))
	at := 0
	for line := range strings.Lines(text) {
		at++
		line = strings.TrimSpace(line)
		if line == "" || line[0] == '#' {
			continue
		}
		class, rest, _ := strings.Cut(line, " ")
		how, rest, ok := strings.Cut(strings.TrimLeft(rest, " "), " ")
		strength, known := strengths[how]
		if !ok || !known {
			return fmt.Errorf("%s:%d: %q is no strength: echo, tells, root or against", name, at, how)
		}
		for p := range strings.SplitSeq(rest, "|") {
			p = strings.TrimSpace(p)
			if p == "" {
				return fmt.Errorf("%s:%d: a phrase is empty", name, at)
			}
			l.add(class, strength, p, p)
			for _, way := range pieces.Unmarked(p) {
				l.add(class, strength, p, way)
			}
		}
	}
	return nil
}

// add adds a phrase in one of the ways in which it is written.
func (l *Lexicon) add(class string, strength Strength, text, way string) {
	first := len(l.parts)
	l.parts = appendParts(l.parts, way)
	ph := phrase{class: class, strength: strength, text: text, parts: l.parts[first:len(l.parts):len(l.parts)]}
	for i, part := range ph.parts {
		if len(part) > len(ph.parts[ph.key]) {
			ph.key = i
		}
	}
	l.phrases = append(l.phrases, ph)
}

// appendParts splits a phrase where other words may stand, or other endings.
func appendParts(parts []string, phrase string) []string {
	for part := range strings.SplitSeq(phrase, " * ") {
		for {
			at := strings.IndexByte(part[1:], '*') + 1
			if at == 0 || at == len(part)-1 {
				break
			}
			parts = append(parts, part[:at+1])
			if part[at+1] != ' ' { // other letters, not other words: api*.dll
				part = "*" + part[at+1:]
			} else {
				part = part[at+2:]
			}
		}
		parts = append(parts, part)
	}
	return parts
}

func (l *Lexicon) index() {
	keys := make([]string, len(l.phrases))
	for i, p := range l.phrases {
		keys[i] = strings.Trim(p.parts[p.key], "*")
	}
	l.set = pieces.New(keys)
}

// maxGap is how many bytes " * " stands for at most: names and paths go between
// the words of a sentence, whole sentences do not.
const maxGap = 60

// In finds the phrases in a line, which is given in small letters. Of several that
// overlap and are of one class, the strongest and longest is given.
func (l *Lexicon) In(lower string) (found []Word) {
	l.set.Find(lower, func(i, end int) {
		p := &l.phrases[i]
		at := end - len(strings.Trim(p.parts[p.key], "*"))
		if !whole(lower, p.parts[p.key], at, end) {
			return
		}
		start, stop := at, end
		for k := p.key - 1; k >= 0; k-- {
			if start = before(lower, p.parts[k], start); start < 0 {
				return
			}
		}
		for k := p.key + 1; k < len(p.parts); k++ {
			if stop = after(lower, p.parts[k], stop); stop < 0 {
				return
			}
		}
		found = append(found, Word{p.class, p.strength, p.text, start, stop})
	})
	return tidy(found)
}

// whole says whether a part stands in s from at to end as it wants to: as whole
// words, but where a star allows more.
func whole(s, part string, at, end int) bool {
	return (part[0] == '*' || !letterAt(part) || pieces.Begins(s, at)) && (part[len(part)-1] == '*' || pieces.Ends(s, end))
}

// letterAt says whether a part begins with a letter or digit; one that begins with
// a mark needs no blank before it.
func letterAt(part string) bool {
	c := part[0]
	return c >= 0x80 || c >= 'a' && c <= 'z' || c >= '0' && c <= '9'
}

// before finds a part that ends at most maxGap bytes before a place, and gives
// where it begins; -1 when there is none.
func before(s, part string, place int) int {
	text := strings.Trim(part, "*")
	from := max(0, place-maxGap-len(text))
	for end := place; end > from; {
		at := strings.LastIndex(s[from:end], text)
		if at < 0 {
			return -1
		}
		at += from
		if whole(s, part, at, at+len(text)) {
			return at
		}
		end = at + len(text) - 1
	}
	return -1
}

// after finds a part that begins at most maxGap bytes behind a place, and gives
// where it ends; -1 when there is none.
func after(s, part string, place int) int {
	text := strings.Trim(part, "*")
	to := min(len(s), place+maxGap+len(text))
	for from := place; from < to; {
		at := strings.Index(s[from:to], text)
		if at < 0 {
			return -1
		}
		at += from
		if whole(s, part, at, at+len(text)) {
			return at + len(text)
		}
		from = at + 1
	}
	return -1
}

// tidy leaves of words that overlap the longest: "not found in path" is no "not
// found".
func tidy(found []Word) []Word {
	if len(found) < 2 {
		return found
	}
	slices.SortStableFunc(found, func(a, b Word) int {
		if d := (b.End - b.At) - (a.End - a.At); d != 0 {
			return d
		}
		return int(b.Strength) - int(a.Strength)
	})
	kept := found[:0:0]
	for _, w := range found {
		if !slices.ContainsFunc(kept, func(k Word) bool { return w.At < k.End && k.At < w.End }) {
			kept = append(kept, w)
		}
	}
	slices.SortStableFunc(kept, func(a, b Word) int { return a.At - b.At })
	return kept
}
