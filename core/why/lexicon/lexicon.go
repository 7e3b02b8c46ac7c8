// Package lexicon knows the words for failures: by class, by how much they say,
// in the languages that setups speak. The words are data, a file for each
// language beside this one.
//
// A line of a file is: class, strength, then phrases with bars between, in
// small letters. " * " in a phrase stands for other words in between, a star at
// a word for its other endings or beginnings. docs/lexicon.md tells how to add
// a language.
package lexicon

import (
	"embed"
	"fmt"
	"io"
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

// String is the word by which the data files name the strength.
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

// A Lexicon is what all files say. There are many phrases, and each page of
// memory that holds some costs as much time as to read a hundred of them: what
// nearly all have in common stands in keys alone.
type Lexicon struct {
	says    []saying
	of      []uint16         // of each phrase its line, in says; with again, it is the one before it without marks on its letters
	keys    []string         // of each phrase its longest part, by which it is looked up; the whole of most
	starred map[int32]string // phrases with stars, as they are written
	set     *pieces.Set      // of the keys
}

// Default is the lexicon that ships with the program.
var Default = sync.OnceValue(build)

// empty is a lexicon that says nothing yet.
func empty() *Lexicon { return &Lexicon{starred: map[int32]string{}} }

// build reads the phrases that are embedded. It is on the way of every verdict,
// so texts are copied as few times as can be.
func build() *Lexicon {
	l := empty()
	names, _ := files.ReadDir(".") // embedded: it cannot fail
	texts, phrases := make([]string, len(names)), 0
	room := make([]byte, 32<<10) // so that each text is copied once: to make a string of what ReadFile gives copies it again
	for i, n := range names {
		f, _ := files.Open(n.Name())
		var text strings.Builder
		if info, err := f.Stat(); err == nil {
			text.Grow(int(info.Size()))
		}
		io.CopyBuffer(&text, f, room)
		texts[i] = text.String()
		phrases += strings.Count(texts[i], "|") + strings.Count(texts[i], "\n")
	}
	phrases += phrases / 4 // as many more are written in a second way
	l.of, l.keys = make([]uint16, 0, phrases), make([]string, 0, phrases)
	for i, n := range names {
		if err := l.read(n.Name(), texts[i]); err != nil {
			panic(err) // our own data; a test reads it
		}
	}
	l.set = pieces.New(l.keys)
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
			l.add(p, 0)
			for _, way := range pieces.Unmarked(p) {
				l.add(way, again)
			}
		}
	}
	return nil
}

// again marks in Lexicon.of a further way to write the phrase before; the files
// have far fewer lines.
const again = 1 << 15

// add adds a phrase of the last line, in one of the ways in which it is
// written.
func (l *Lexicon) add(way string, mark uint16) {
	key := way
	if strings.IndexByte(way, '*') >= 0 { // few of them
		parts, longest := parts(way)
		key = strings.Trim(parts[longest], "*")
		l.starred[int32(len(l.keys))] = way
	}
	l.keys, l.of = append(l.keys, key), append(l.of, uint16(len(l.says)-1)|mark)
}

// parts splits a phrase where other words may stand, or other endings, and
// gives the place of the longest part.
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

// maxGap is how many bytes " * " stands for at most: names and paths go between
// the words of a sentence, whole sentences do not.
const maxGap = 60

// In finds the phrases in a line, which is given in small letters. Of several
// that overlap and are of one class, the strongest and longest is given.
func (l *Lexicon) In(lower string) (found []Word) {
	l.set.Find(lower, func(i, end int) {
		start, stop := end-len(l.keys[i]), end
		if way, is := l.starred[int32(i)]; is {
			start, stop = around(lower, way, start, stop)
		} else if !whole(lower, l.keys[i], start, stop) {
			return
		}
		if start >= 0 && stop >= 0 {
			says := l.says[l.of[i]&^again]
			found = append(found, Word{says.class, says.strength, l.phrase(i), start, stop})
		}
	})
	return tidy(found)
}

// phrase is a phrase as its file has it.
func (l *Lexicon) phrase(i int) string {
	for l.of[i]&again != 0 {
		i--
	}
	if text, is := l.starred[int32(i)]; is {
		return text
	}
	return l.keys[i]
}

// around finds the other parts of a phrase around its longest one, which stands
// from at to end; -1 when they are not there.
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

// letterAt says whether a part begins with a letter or digit; one that begins
// with a mark needs no blank before it.
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
