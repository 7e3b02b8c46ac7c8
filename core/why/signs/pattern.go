package signs

import (
	"regexp"
	"strings"
	"sync"
)

// A Pattern is a regular expression (RE2 syntax, letters of either case) that is
// compiled when a line holds its rarest plain piece.
type Pattern struct {
	source string
	plain  string // lower-case text that every match holds; may be empty
	re     func() *regexp.Regexp
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
		if name != "" && m[i] != "" && caps != nil {
			caps[name] = strings.TrimSpace(m[i])
		}
	}
	return true
}

// plainPiece finds the longest run of plain ASCII characters outside of all
// groups, classes and alternatives: a text must hold it to match.
func plainPiece(src string) string {
	best, run := "", []byte{}
	flush := func() {
		if len(run) > len(best) {
			best = string(run)
		}
		run = run[:0]
	}
	depth := 0
	for i := 0; i < len(src); i++ {
		c := src[i]
		switch {
		case c == '|' && depth == 0:
			return ""
		case c == '(':
			flush()
			depth++
		case c == ')':
			flush()
			depth--
		case c == '[':
			flush()
			for i++; i < len(src) && src[i] != ']'; i++ {
				if src[i] == '\\' {
					i++
				}
			}
		case c == '?' || c == '*' || c == '{':
			if len(run) > 0 {
				run = run[:len(run)-1] // the character before may be absent
			}
			flush()
			if c == '{' {
				for i < len(src) && src[i] != '}' {
					i++
				}
			}
		case c == '.' || c == '^' || c == '$' || c == '+':
			flush()
		case c == '\\' && i+1 < len(src):
			i++
			if strings.IndexByte(`\.()[]{}?*+|^$-/"' `, src[i]) >= 0 && depth == 0 {
				run = append(run, src[i])
			} else {
				flush()
			}
		case depth == 0 && c < 0x80:
			if c >= 'A' && c <= 'Z' {
				c += 'a' - 'A'
			}
			run = append(run, c)
		default:
			flush()
		}
	}
	flush()
	return best
}
