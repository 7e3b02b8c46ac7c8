package cli

import (
	"io"
	"os"
	"strings"
	"unicode"

	"github.com/mattn/go-runewidth"
	"golang.org/x/term"
)

const (
	widthElse = 80  // columns when it is not known
	widthMost = 100 // longer lines are hard to read
)

// A Style is how text is set for whoever reads it.
type Style struct {
	Color bool // colour may be used
	Width int  // columns that texts fit
	Whole bool // nothing is shortened: nobody looks at it on a screen of that width
}

// newStyle looks at the output once: colours only on a terminal that wants them.
func newStyle(out io.Writer, plain bool, width int) Style {
	s := Style{Width: widthElse, Whole: width == 0}
	if f, ok := out.(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		s.Whole = false
		s.Color = !plain && os.Getenv("NO_COLOR") == "" && os.Getenv("TERM") != "dumb"
		if w, _, err := term.GetSize(int(f.Fd())); err == nil && w > 0 {
			s.Width = min(max(w, 40), widthMost)
		}
	}
	if width > 0 {
		s.Width = width
	}
	return s
}

// The few colours; each also reads without colour.
func (s Style) bold(t string) string { return s.sgr("1", t) }

// faint is for what may be passed over: the names of rows.
func (s Style) faint(t string) string { return s.sgr("2", t) }

// bad is for what failed.
func (s Style) bad(t string) string { return s.sgr("1;31", t) }

// good is for what works.
func (s Style) good(t string) string { return s.sgr("1;32", t) }

// mind is for what a person has to know, though nothing failed. Yellow cannot be read on
// white.
func (s Style) mind(t string) string { return s.sgr("1;35", t) }

// key is for what is to be typed.
func (s Style) key(t string) string { return s.sgr("36", t) }

// sgr puts a text between a colour's code and its end. Colour only ever repeats what
// a word says already.
func (s Style) sgr(code, t string) string {
	if !s.Color || t == "" {
		return t
	}
	return "\x1b[" + code + "m" + t + "\x1b[0m"
}

// clean takes out what a terminal would obey: control characters and marks that
// change the direction of writing. Tabs become blanks.
func clean(t string) string {
	safe := func(r rune) bool {
		return r >= ' ' && r != 0x7F && !unicode.Is(unicode.Cf, r) && !(r >= 0x80 && r < 0xA0) && r != 0x2028 && r != 0x2029
	}
	for _, r := range t {
		if !safe(r) {
			return strings.Map(func(r rune) rune {
				switch {
				case r == '\t':
					return ' '
				case r == '\n':
					return r
				case safe(r):
					return r
				}
				return '·'
			}, t)
		}
	}
	return t
}

// fit cuts t to at most n columns, with an ellipsis.
func fit(t string, n int) string {
	t = strings.ReplaceAll(clean(t), "\n", " ")
	if runewidth.StringWidth(t) <= n {
		return t
	}
	return runewidth.Truncate(t, n, "…")
}

// fit cuts t to n columns, unless nothing is to be shortened.
func (s Style) fit(t string, n int) string {
	if s.Whole {
		return strings.ReplaceAll(clean(t), "\n", " ")
	}
	return fit(t, n)
}

// fitMiddle is [Style.fit] in the middle, which keeps both ends of a path.
func (s Style) fitMiddle(t string, n int) string {
	if s.Whole {
		return s.fit(t, n)
	}
	return fitMiddle(t, n)
}

// fitMiddle cuts t in its middle, which keeps both ends of a path.
func fitMiddle(t string, n int) string {
	t = strings.ReplaceAll(clean(t), "\n", " ")
	if runewidth.StringWidth(t) <= n || n < 8 {
		return fit(t, n)
	}
	tail := runewidth.TruncateLeft(t, runewidth.StringWidth(t)-(n-n/2-1), "")
	return runewidth.Truncate(t, n/2, "") + "…" + tail
}

// pad fills t with blanks to n columns.
func pad(t string, n int) string { return runewidth.FillRight(t, n) }

// breakable finds where a long word may be broken so that the first part has at
// most room columns: behind a backslash or slash if there is one far enough.
func breakable(word string, room int) string {
	head := runewidth.Truncate(word, room, "")
	if at := strings.LastIndexAny(head, `\/`); at > len(head)/3 {
		return head[:at+1]
	}
	return head
}

// wrap breaks t into lines of at most width columns, indented; the first line is
// not indented when hang is set. A word longer than a line is broken.
func wrap(t string, width, indent int, hang bool) []string {
	room := max(width-indent, 16)
	var lines []string
	line := ""
	flush := func() {
		if line != "" {
			lines = append(lines, line)
			line = ""
		}
	}
	for _, word := range strings.Fields(clean(t)) {
		for word != "" {
			left := room
			if line != "" {
				left -= runewidth.StringWidth(line) + 1
			}
			head := word
			if runewidth.StringWidth(word) > left {
				if head = ""; runewidth.StringWidth(word) > room && left > room/3 {
					head = breakable(word, left)
				}
			}
			if head == "" {
				if line == "" {
					break // a character wider than the line
				}
				flush()
				continue
			}
			if line != "" {
				line += " "
			}
			line += head
			if word = word[len(head):]; word != "" {
				flush()
			}
		}
	}
	flush()
	for i := range lines {
		if i > 0 || !hang {
			lines[i] = strings.Repeat(" ", indent) + lines[i]
		}
	}
	return lines
}
