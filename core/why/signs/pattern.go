package signs

import (
	_ "embed"
	"regexp"
	"regexp/syntax"
	"strings"
	"sync"
	"unicode/utf8"
)

// A Pattern is a regular expression (RE2 syntax, letters of either case) that is
// compiled when a line holds its rarest plain piece.
type Pattern struct {
	source string                // as it was written
	plain  string                // lower-case text that every match holds; may be empty
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
	return Pattern{source: source, plain: plainPiece(source), re: sync.OnceValue(func() *regexp.Regexp {
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
	if p.plain != "" && !strings.Contains(lower, p.plain) {
		return false
	}
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

// plainPiece finds the longest run of plain ASCII letters that every match of an
// expression holds, in small letters: a text without it need not be tried.
func plainPiece(src string) string {
	re, err := syntax.Parse(src, syntax.Perl)
	if err != nil {
		return ""
	}
	return required(re)
}

// required goes down those parts of an expression that no match can do without.
func required(re *syntax.Regexp) (best string) {
	switch re.Op {
	case syntax.OpLiteral:
		return longestASCII(re.Rune)
	case syntax.OpCapture, syntax.OpPlus:
		return required(re.Sub[0])
	case syntax.OpRepeat:
		if re.Min > 0 {
			return required(re.Sub[0])
		}
	case syntax.OpConcat:
		for _, part := range re.Sub {
			if piece := required(part); len(piece) > len(best) {
				best = piece
			}
		}
	}
	return best
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
