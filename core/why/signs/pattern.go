// This file is a sign's expression, compiled when it is first needed.

package signs

import (
	_ "embed"
	"regexp"
	"slices"
	"strings"
	"sync"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/pieces"
)

// A Pattern is a regular expression (RE2 syntax, letters of either case) that
// is compiled when a line holds one of its plain pieces.
type Pattern struct{ *pattern }

type pattern struct {
	source string // as it was written
	looked sync.Once
	sets   [][]string // of needs, once looked
	once   sync.Once
	regexp *regexp.Regexp // once needed
}

// UnmarshalText reads a pattern.
func (p *Pattern) UnmarshalText(text []byte) error {
	*p = NewPattern(string(text))
	return nil
}

// MarshalText writes the pattern as it was read.
func (p Pattern) MarshalText() ([]byte, error) {
	if p.IsZero() {
		return nil, nil
	}
	return []byte(p.source), nil
}

// IsZero says whether there is no pattern.
func (p Pattern) IsZero() bool { return p.pattern == nil || p.source == "" }

// NewPattern makes a pattern; whether it is a regular expression at all is
// found out by [Pattern.Check] or at the first use.
func NewPattern(source string) Pattern { return Pattern{&pattern{source: source}} }

// needs are what a match cannot do without.
func (p Pattern) needs() [][]string {
	p.looked.Do(func() { p.sets = needs(p.source) })
	return p.sets
}

// re is the expression.
func (p Pattern) re() *regexp.Regexp {
	p.once.Do(func() {
		re, err := compile(p.source)
		if err != nil {
			re = regexp.MustCompile(`\z\A.`) // Check has refused it; here it matches nothing
		}
		p.regexp = re
	})
	return p.regexp
}

// Check says whether the pattern is a regular expression.
func (p Pattern) Check() error {
	if p.IsZero() {
		return nil
	}
	_, err := compile(p.source)
	return err
}

// notQuote is a set of all signs but quotes.
var notQuote = lazy.MustCompile(`\[\^[^\]\\]*'[^\]\\]*\]`)

// compile makes the expression of a pattern. What is no quote may be an
// apostrophe before a letter: C:\Users\o'hara\Temp ends where its quote does.
func compile(source string) (*regexp.Regexp, error) {
	return regexp.Compile("(?i)" + notQuote.ReplaceAllString(source, `(?:$0|'\b)`))
}

// find matches text, of which lower is the lower-case form, and adds the named
// captures to caps when that is not nil.
func (p Pattern) find(text, lower string, caps map[string]string) bool {
	return p.possible(lower) && p.match(text, caps)
}

// possible says whether a text in small letters holds what no match can do
// without.
func (p Pattern) possible(lower string) bool {
	for _, set := range p.needs() {
		if !slices.ContainsFunc(set, func(piece string) bool { return strings.Contains(lower, piece) }) {
			return false
		}
	}
	return true
}

// pieces are the best of what a match needs, none when there are no such.
func (p Pattern) pieces() []string {
	if needs := p.needs(); len(needs) > 0 {
		return needs[0]
	}
	return nil
}

// valueRoom is how many bytes behind a match a value is looked for in.
const valueRoom = 64

// longestDenial is how many bytes in front of a match are looked at for a word
// that takes it back, the longest with its blanks.
const longestDenial = 16

// match is find without a look for the pieces. What is set to no behind its
// name is no match, and what a word in front takes back: "reboot pending: no",
// "no newer version is installed".
func (p Pattern) match(text string, caps map[string]string) bool {
	re := p.re()
	at := re.FindStringSubmatchIndex(text)
	if at == nil || pieces.Denied(strings.ToLower(text[at[0]:at[1]]), strings.ToLower(text[at[1]:min(len(text), at[1]+valueRoom)])) ||
		pieces.NoneOf(strings.ToLower(text[max(0, at[0]-longestDenial):at[0]])) {
		return false
	}
	m := make([]string, len(at)/2)
	for i := range m {
		if at[2*i] >= 0 {
			m[i] = text[at[2*i]:at[2*i+1]]
		}
	}
	for i, name := range re.SubexpNames() {
		if name != "" && m[i] != "" && caps != nil && !ofTheSentence(m[i]) {
			caps[name] = undoubled(strings.TrimSpace(m[i]))
			if at := forWhat.FindStringIndex(caps[name]); at != nil && strings.Contains(caps[name][:at[0]], `\`) {
				caps[name] = caps[name][:at[0]]
			}
		}
	}
	return true
}

// forWhat goes on, in a sentence, behind a path or key with what it is opened
// for.
var forWhat = lazy.MustCompile(` for (?:reading|writing|read|write|update|access|append|deletion)\b.*$`)

// undoubled takes the second of two backslashes out of a path or key that was
// written as a string of a program.
func undoubled(v string) string {
	if strings.Contains(v, `:\\`) || strings.HasPrefix(strings.ToUpper(v), "HK") && strings.Contains(v, `\\`) {
		return strings.ReplaceAll(v, `\\`, `\`)
	}
	return v
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

// longestWord is the length of the longest word in sentence.txt, in bytes:
// longer captures, most of them paths, need no look.
const longestWord = 24

// ofTheSentence says whether a capture caught a word of the sentence in place
// of a name: "the service cannot" names no service, and CreateServiceW is what
// was called.
func ofTheSentence(capture string) bool {
	return len(capture) <= longestWord && (sentenceWords()[strings.ToLower(strings.TrimSpace(capture))] || names.IsCall(capture))
}
