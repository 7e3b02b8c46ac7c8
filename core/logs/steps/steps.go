// Package steps reads the lines with which a setup tells what it does next:
// "operation: copy fonts", "=== copy fonts ===", "copy fonts started". It knows
// the words for that in the languages of words.txt.
package steps

import (
	_ "embed"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

//go:embed words.txt
var wordsText string

// What a word is; one may be several.
type kind uint8

const (
	noun kind = 1 << iota
	thing
	begin
	begun
	ended
	link
	verb
)

var kinds = map[string]kind{"noun": noun, "thing": thing, "begin": begin, "begun": begun, "ended": ended, "link": link, "verb": verb}

// words are those of words.txt, and unspaced those that are written without
// blanks around them.
var words = sync.OnceValue(func() (w struct {
	of       map[string]kind
	unspaced []string
}) {
	w.of = map[string]kind{}
	for line := range strings.Lines(wordsText) {
		fields := strings.Fields(line)
		if len(fields) < 3 || fields[0] == "#" {
			continue
		}
		for _, word := range fields[2:] {
			if r, _ := utf8.DecodeRuneInString(word); isUnspaced(r) && w.of[word] == 0 {
				w.unspaced = append(w.unspaced, word)
			}
			w.of[word] |= kinds[fields[0]]
		}
	}
	return w
})

// isUnspaced says whether a letter is one of a script that parts words by no
// blanks. Korean does, but joins its particles to them.
func isUnspaced(r rune) bool {
	return unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Hangul)
}

// A Head is what such a line tells.
type Head struct {
	Name   string
	Number string // of the step, empty where it has none
	Sure   bool   // a word for a step stands before the name
	Ends   bool   // the step is over
	Led    bool   // nothing but a word for a beginning tells that it is one: what begins may be a thing
}

const (
	lineRoom = 120 // bytes of a line; a step is not told in a paragraph
	nameMost = 5   // words of a name
	nameRoom = 60  // and bytes
)

// marks are signs that set a heading off.
const marks = "=-*#>~_·•→»<[( \t"

// numbered is the number behind a word for a step, and how many there are.
var numbered = lazy.MustCompile(`^#?(\d{1,3})(?:\s*(?:/|of|von|de|di|z|av|из|sur|van|の|中)\s*\d{1,3})?\b`)

// counted is a step told by its number and a sign: "3. copy fonts", "[3] copy
// fonts".
var counted = lazy.MustCompile(`^[\[(]?(\d{1,2})(?:[.)\]:]+|\s[-–])\s+`)

// version is one within a name.
var version = lazy.MustCompile(`\d\.\d`)

// ruled ends a heading behind whose name a line is drawn.
var ruled = lazy.MustCompile(` (?:-{3,}|={3,}|\*{3,}|#{3,}|~{3,}|_{3,})$`)

// ofWhat leads from a beginning to what begins: "début de copier polices".
var ofWhat = lazy.MustCompile(`^(?:(?:of|the|der|des|du|de la|de|del|della|di|do|da|van) |d['’])`)

// call is a function's name with nothing in its brackets.
var call = lazy.MustCompile(`^((?:[A-Za-z_]\w*(?:::|\.))*[A-Za-z_]\w{2,50}) ?\(\)$`)

// Sure reads a line that names a step behind a word for one; all others, which
// are nearly all of a log, it passes over quickly.
func Sure(text string) (h Head, ok bool) {
	rest := strings.TrimLeft(text, marks)
	if r, _ := utf8.DecodeRuneInString(rest); !unicode.IsLetter(r) { // a number before it, maybe
		if r < '0' || r > '9' {
			return h, false
		}
		rest = strings.TrimLeft(rest, "0123456789.)]: -–\t")
	}
	word, _ := first(rest)
	if words().of[word]&(noun|thing|begin) == 0 {
		return h, false
	}
	h, ok = Read(text)
	return h, ok && h.Sure
}

// Read reads a line; ok is false for one that names no step.
func Read(text string) (h Head, ok bool) {
	text = strings.TrimSpace(text)
	if len(text) < 3 || len(text) > lineRoom {
		return h, false
	}
	if m := call.FindStringSubmatch(text); m != nil {
		return Head{Name: m[1]}, true
	}
	bannered := false
	if m := counted.FindStringSubmatch(text); m != nil {
		h.Number, text, bannered = m[1], text[len(m[0]):], true
	}
	rest := strings.TrimLeft(text, marks)
	bannered = bannered || len(rest) < len(text) && len(rest) > 0 || ruled.MatchString(rest)
	if bannered {
		rest = strings.TrimRight(rest, "=-*#<~_])> \t")
	}
	begins := false
	for range 2 { // "now starting …"
		word, after := first(rest)
		if words().of[word]&begin == 0 || after == "" || after == rest {
			break
		}
		begins, rest = true, ofWhat.ReplaceAllString(strings.TrimLeft(after, " :\t"), "")
	}
	word, after := first(rest)
	is := words().of[word]
	parted := false
	if is&(noun|thing) != 0 {
		rest = strings.TrimLeft(after, " \t")
		if m := numbered.FindStringSubmatch(rest); m != nil {
			h.Number, rest, parted = m[1], strings.TrimLeft(rest[len(m[0]):], "] \t"), true
		}
		if bare := strings.TrimLeft(rest, ":：=-–—.→>]) \t"); len(bare) < len(rest) {
			parted, rest = true, bare
		}
		if bare := strings.TrimLeft(rest, "«»\"“”'‘[<(「『 "); len(bare) < len(rest) {
			parted, rest = true, bare
		}
	}
	name, starts, ends := closed(rest)
	if !isName(name, parted) {
		return Head{}, false
	}
	h.Name, h.Ends, h.Sure = name, ends, is&noun != 0 || is&thing != 0 && (parted || begins || starts)
	if h.Sure && !parted && !begins && !starts && !ends && strings.Count(name, " ") > 3 { // a sentence about a step
		return Head{}, false
	}
	does := is&(noun|thing) == 0 && !begins && !starts && !bannered && !ends && isDone(name)
	h.Led = !h.Sure && (begins || does) && !starts && !bannered
	return h, h.Sure || is&(noun|thing) == 0 && (begins || starts || bannered || does)
}

// doneMost is how many words a line has at most that says what is done and to
// what, and nothing else.
const doneMost = 4

// isDone says whether a name is what is done and to what: "replace files",
// "Dateien ersetzen".
func isDone(name string) bool {
	fields := strings.Fields(name)
	if len(fields) < 2 || len(fields) > doneMost || strings.ContainsAny(name, ".:/0123456789'") {
		return false
	}
	first, last := words().of[pieces.Lower(fields[0])], words().of[pieces.Lower(fields[len(fields)-1])]
	return first&verb != 0 || last&verb != 0 && unicode.IsUpper([]rune(fields[0])[0])
}

// first is a text's first word in small letters, and what stands behind it.
func first(text string) (word, after string) {
	if r, _ := utf8.DecodeRuneInString(text); isUnspaced(r) {
		longest := ""
		for _, w := range words().unspaced {
			if len(w) > len(longest) && strings.HasPrefix(text, w) {
				longest = w
			}
		}
		return longest, text[len(longest):]
	}
	end := strings.IndexFunc(text, func(r rune) bool { return !unicode.IsLetter(r) })
	if end <= 0 {
		return pieces.Lower(text), ""
	}
	if strings.IndexByte("-_.", text[end]) >= 0 && end+1 < len(text) && text[end+1] > ' ' { // of a name: start-agent
		return "", text
	}
	return pieces.Lower(text[:end]), text[end:]
}

// closed parts a name from what stands behind it: that it begins, or is over.
func closed(rest string) (name string, starts, ends bool) {
	name = rest
	for {
		cut := strings.TrimRight(name, " \t.…:：»\"“”'’]>)」』-–—")
		if cut == "" {
			return "", false, false
		}
		at := strings.LastIndexAny(cut, " \t:=") + 1
		if at == 0 { // one word alone, or one of a script without blanks
			if w := behind(cut); w != "" {
				starts, ends = starts || words().of[w]&begun != 0, ends || words().of[w]&ended != 0
				name = cut[:len(cut)-len(w)]
				continue
			}
			return cut, starts, ends
		}
		is := words().of[pieces.Lower(cut[at:])]
		if is&(begun|ended) == 0 {
			if w := behind(cut); w != "" && isUnspaced(lastRune(cut)) {
				starts, ends = starts || words().of[w]&begun != 0, ends || words().of[w]&ended != 0
				name = cut[:len(cut)-len(w)]
				continue
			}
			return cut, starts, ends
		}
		starts, ends, name = starts || is&begun != 0, ends || is&ended != 0, cut[:at-1]
	}
}

// behind is the word for a beginning or an end with which a text without blanks
// ends.
func behind(text string) (longest string) {
	if !isUnspaced(lastRune(text)) {
		return ""
	}
	for _, w := range words().unspaced {
		if words().of[w]&(begun|ended) != 0 && len(w) > len(longest) && len(w) < len(text) && strings.HasSuffix(text, w) {
			longest = w
		}
	}
	return longest
}

// lastRune is the last letter of a text.
func lastRune(s string) rune { r, _ := utf8.DecodeLastRuneInString(s); return r }

// isName says whether a text can name what is done: a few words, and none that
// makes it a sentence, a value or a file. behind says that it stands behind a
// word for a step: what is done may then be to start something.
func isName(name string, behind bool) bool {
	if len(name) > nameRoom || strings.ContainsAny(name, "\\=;,\"«»()[]{}%@$!?“”") || strings.Contains(name, ": ") || strings.Contains(name, "：") {
		return false
	}
	r, _ := utf8.DecodeRuneInString(name)
	if !unicode.IsLetter(r) || !isUnspaced(r) && utf8.RuneCountInString(name) < 3 || utf8.RuneCountInString(name) < 2 {
		return false
	}
	fields := strings.Fields(name)
	if len(fields) > nameMost || words().of[pieces.Lower(fields[len(fields)-1])]&link != 0 {
		return false
	}
	setups := 0
	for i, f := range fields {
		low := pieces.Lower(f)
		is := words().of[low]
		if behind && len(fields) > 1 && is&begin != 0 {
			is &^= begun
		}
		if i == 0 && (is&(link|begun|ended) != 0 || pieces.IsYes(low) || pieces.IsNo(low)) {
			return false
		}
		if endings.IsSetup(low) {
			setups++
		}
	}
	if setups == len(fields) || setups > 0 && version.MatchString(name) { // the product's, which is all of it
		return false
	}
	said := endings.Read(name)
	return !said.Fails && !said.Passed && !said.Restart && said.Exit == nil && !said.Cancelled
}
