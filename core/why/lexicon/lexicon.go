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
	Thing                   // a thing that is the cause where the line fails or asks for it, and else a fact like any other
	Topic                   // likewise, and another cause may be behind it
)

var strengths = map[string]Strength{"echo": Echo, "tells": Tells, "root": Root, "against": Against, "thing": Thing, "topic": Topic}

func (s Strength) String() string {
	return [...]string{"echo", "tells", "root", "against", "thing", "topic"}[s]
}

// A Word is one phrase that was found.
type Word struct {
	Class    string
	Strength Strength
	Phrase   string // as the file has it
	At, End  int    // bytes of the line, in small letters
}

//go:embed *.txt
var files embed.FS

// A saying is what all phrases of a line say.
type saying struct {
	class    string
	strength Strength
}

// A phrase is one of a file's, in one of the ways in which it is written.
type phrase struct {
	says int32  // its line, in says
	text string // as it stands in the file
	way  string // as it is written
}

// A Lexicon is what all files say.
type Lexicon struct {
	says    []saying
	phrases []phrase
	keys    []string    // of each phrase its longest part, by which it is looked up
	set     *pieces.Set // of the keys
}

// Default is the lexicon that ships with the program.
var Default = sync.OnceValue(build)

func build() *Lexicon {
	l := &Lexicon{}
	names, _ := files.ReadDir(".") // embedded: it cannot fail
	texts, phrases := make([]string, len(names)), 0
	for i, n := range names {
		text, _ := files.ReadFile(n.Name())
		texts[i] = string(text)
		phrases += strings.Count(texts[i], "|") + strings.Count(texts[i], "\n")
	}
	l.phrases = make([]phrase, 0, phrases+phrases/4) // as many more are written in a second way
	for i, n := range names {
		if err := l.read(n.Name(), texts[i]); err != nil {
			panic(err) // our own data; a test reads it
		}
	}
	l.index()
	return l
}

// read adds a file's phrases.
func (l *Lexicon) read(name, text string) error {
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
			return fmt.Errorf("%s:%d: %q is no strength: echo, tells, root, thing, topic or against", name, at, how)
		}
		l.says = append(l.says, saying{class, strength})
		for p := range strings.SplitSeq(rest, "|") {
			p = strings.TrimSpace(p)
			if p == "" {
				return fmt.Errorf("%s:%d: a phrase is empty", name, at)
			}
			says := int32(len(l.says) - 1)
			l.phrases = append(l.phrases, phrase{says, p, p})
			for _, way := range pieces.Unmarked(p) {
				l.phrases = append(l.phrases, phrase{says, p, way})
			}
		}
	}
	return nil
}

// parts splits a phrase where other words may stand, or other endings, and gives the
// place of the longest part.
func parts(phrase string) (parts []string, longest int) {
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
	for i, part := range parts {
		if len(part) > len(parts[longest]) {
			longest = i
		}
	}
	return parts, longest
}

// index makes what In looks phrases up in.
func (l *Lexicon) index() {
	l.keys = make([]string, len(l.phrases))
	for i, p := range l.phrases {
		l.keys[i] = p.way
		if strings.IndexByte(p.way, '*') >= 0 { // few of them
			parts, longest := parts(p.way)
			l.keys[i] = strings.Trim(parts[longest], "*")
		}
	}
	l.set = pieces.New(l.keys)
}

// maxGap is how many bytes " * " stands for at most: names and paths go between
// the words of a sentence, whole sentences do not.
const maxGap = 60

// In finds the phrases in a line, which is given in small letters. Of several that
// overlap and are of one class, the strongest and longest is given.
func (l *Lexicon) In(lower string) (found []Word) {
	l.set.Find(lower, func(i, end int) {
		p := &l.phrases[i]
		start, stop := end-len(l.keys[i]), end
		if len(l.keys[i]) < len(p.way) {
			start, stop = around(lower, p.way, start, stop)
		} else if !whole(lower, p.way, start, stop) {
			return
		}
		if start >= 0 && stop >= 0 {
			found = append(found, Word{l.says[p.says].class, l.says[p.says].strength, p.text, start, stop})
		}
	})
	return tidy(found)
}

// around finds the other parts of a phrase around its longest one, which stands from at to
// end; -1 when they are not there.
func around(lower, phrase string, at, end int) (start, stop int) {
	parts, key := parts(phrase)
	if !whole(lower, parts[key], at, end) {
		return -1, -1
	}
	for k := key - 1; k >= 0 && at >= 0; k-- {
		at = before(lower, parts[k], at)
	}
	for k := key + 1; k < len(parts) && end >= 0; k++ {
		end = after(lower, parts[k], end)
	}
	return at, end
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
