package evidence

import (
	_ "embed"
	"slices"
	"strconv"
	"strings"
	"sync"

	"hollowkey/core/logs/pieces"
	"hollowkey/core/why/lexicon"
)

//go:embed texts.txt
var textsText string

// texts are the OS's own words for its errors, and the set that finds them.
var texts = sync.OnceValue(func() (t struct {
	codes []int
	words []string
	set   *pieces.Set
}) {
	for line := range strings.Lines(textsText) {
		number, rest, ok := strings.Cut(strings.TrimSpace(line), " ")
		code, err := strconv.Atoi(number)
		if !ok || err != nil {
			continue
		}
		for p := range strings.SplitSeq(rest, "|") {
			p, _, _ = strings.Cut(p, " * ") // what it names stands between
			t.words, t.codes = append(t.words, p), append(t.codes, code)
		}
	}
	t.set = pieces.New(t.words)
	return t
})

// A said is one of those texts in a line: the number that it tells, and where it stands.
type said struct{ code, from, to int }

// saidIn finds the OS's own words in a line, in small letters.
func saidIn(lower string) (all []said) {
	t := texts()
	t.set.Find(lower, func(k, end int) { all = append(all, said{t.codes[k], end - len(t.words[k]), end}) })
	return all
}

// bySystem puts what the OS's own words in a line tell into the place of what single words in them
// seem to: "the directory or file cannot be created" is a number, whatever else speaks of folders.
func bySystem(lower string, clues []Clue) []Clue {
	for _, s := range saidIn(lower) {
		c, ok := Number{Value: int64(s.code), Kind: System, At: s.from}.clue()
		if !ok || pieces.Undone(lower[:s.from]) || pieces.Denied(lower[s.from:s.to], lower[s.to:]) {
			continue
		}
		same := false
		clues = slices.DeleteFunc(clues, func(o Clue) bool {
			inside := o.Code == nil && o.At >= s.from && o.At < s.to && o.Strength != lexicon.Against
			same = same || inside && o.Class == c.Class
			return inside && o.Class != c.Class
		})
		if !same {
			c.Code = nil // the words are there, and no number
			clues = append(clues, c)
		}
	}
	return clues
}

// CodeOfText finds the system error whose own words a line, in small letters, holds, when
// it speaks of a cause of this class.
func CodeOfText(lower, class string) (code int, ok bool) {
	for _, s := range saidIn(lower) {
		if c, known := SystemError(s.code); known && c.Class == class {
			return s.code, true
		}
	}
	return 0, false
}
