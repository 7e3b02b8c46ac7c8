package signs

import (
	_ "embed"
	"regexp"
	"regexp/syntax"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"
)

// A Pattern is a regular expression (RE2 syntax, letters of either case) that is
// compiled when a line holds one of its plain pieces.
type Pattern struct {
	source string                // as it was written
	pieces func() []string       // lower-case texts of which every match holds one; none when there are no such
	re     func() *regexp.Regexp // compiled when it is first needed
}

// UnmarshalText reads a pattern.
func (p *Pattern) UnmarshalText(text []byte) error {
	*p = NewPattern(string(text))
	return nil
}

// MarshalText writes the pattern as it was read.
func (p Pattern) MarshalText() ([]byte, error) { return []byte(p.source), nil }

// IsZero says whether there is no pattern.
func (p Pattern) IsZero() bool { return p.source == "" }

// NewPattern makes a pattern; whether it is a regular expression at all is
// found out by [Pattern.Check] or at the first use.
func NewPattern(source string) Pattern {
	return Pattern{source: source, pieces: sync.OnceValue(func() []string { return piecesOf(source) }), re: sync.OnceValue(func() *regexp.Regexp {
		re, err := regexp.Compile("(?i)" + source)
		if err != nil {
			return regexp.MustCompile(`\z\A.`) // Check has refused it; here it matches nothing
		}
		return re
	})}
}

// Check says whether the pattern is a regular expression.
func (p Pattern) Check() error {
	_, err := regexp.Compile("(?i)" + p.source)
	return err
}

// find matches text, of which lower is the lower-case form, and adds the named
// captures to caps when that is not nil.
func (p Pattern) find(text, lower string, caps map[string]string) bool {
	if ps := p.pieces(); len(ps) > 0 && !slices.ContainsFunc(ps, func(piece string) bool { return strings.Contains(lower, piece) }) {
		return false
	}
	return p.match(text, caps)
}

// match is find without a look for the pieces.
func (p Pattern) match(text string, caps map[string]string) bool {
	re := p.re()
	m := re.FindStringSubmatch(text)
	if m == nil {
		return false
	}
	for i, name := range re.SubexpNames() {
		if name != "" && m[i] != "" && caps != nil && !ofTheSentence(m[i]) {
			caps[name] = strings.TrimSpace(m[i])
		}
	}
	return true
}

//go:embed sentence.txt
var sentenceText string

var sentenceWords = sync.OnceValue(func() map[string]bool {
	words := map[string]bool{}
	for line := range strings.Lines(sentenceText) {
		if f := strings.Fields(line); len(f) > 1 && f[0] != "#" {
			for _, w := range f[1:] {
				words[w] = true
			}
		}
	}
	return words
})

// longestWord is the length of the longest word in sentence.txt, in bytes: longer
// captures, most of them paths, need no look.
const longestWord = 24

// ofTheSentence says whether a capture caught a word of the sentence in place of a
// name: "the service cannot" names no service.
func ofTheSentence(capture string) bool {
	return len(capture) <= longestWord && sentenceWords()[strings.ToLower(strings.TrimSpace(capture))]
}

// piecesOf finds texts in small letters of which every match of an expression
// holds at least one: a text without any of them need not be tried. Of the sets
// that would do, it gives the one whose shortest piece is the longest.
func piecesOf(src string) []string {
	re, err := syntax.Parse(src, syntax.Perl)
	if err != nil {
		return nil
	}
	set := required(re)
	if shortest(set) < leastPiece {
		return nil
	}
	return set
}

const (
	leastPiece = 2  // bytes; a single letter stands in every line
	mostPieces = 40 // of one expression
)

// required goes down those parts of an expression that no match can do without.
func required(re *syntax.Regexp) (best []string) {
	switch re.Op {
	case syntax.OpLiteral:
		if piece := longestASCII(re.Rune); piece != "" {
			return []string{piece}
		}
	case syntax.OpCapture, syntax.OpPlus:
		return required(re.Sub[0])
	case syntax.OpRepeat:
		if re.Min > 0 {
			return required(re.Sub[0])
		}
	case syntax.OpConcat:
		for _, part := range re.Sub {
			if set := required(part); shortest(set) > shortest(best) {
				best = set
			}
		}
	case syntax.OpAlternate:
		for _, part := range re.Sub {
			set := required(part)
			if len(set) == 0 || len(best)+len(set) > mostPieces {
				return nil
			}
			best = append(best, set...)
		}
	}
	return best
}

// shortest is the length of the shortest of some pieces, 0 of none.
func shortest(pieces []string) int {
	if len(pieces) == 0 {
		return 0
	}
	return len(slices.MinFunc(pieces, func(a, b string) int { return len(a) - len(b) }))
}

// longestASCII leaves out what lower case may change to something else.
func longestASCII(runes []rune) string {
	runs := strings.FieldsFunc(string(runes), func(r rune) bool { return r >= utf8.RuneSelf })
	longest := ""
	for _, r := range runs {
		if len(r) > len(longest) {
			longest = r
		}
	}
	return strings.ToLower(longest)
}
