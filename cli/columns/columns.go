// Package columns brings text to a width: letters that a terminal would obey
// are taken out, and what is too long is cut or goes on in the next line. A
// letter of two columns counts as two.
package columns

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/clipperhouse/displaywidth"
)

// Clean takes out what a terminal would obey: control characters and marks that
// change the direction of writing. Tabs become blanks. Bytes that are no
// letters become the mark for such, since their width would hang on their
// neighbours.
func Clean(t string) string {
	if !utf8.ValidString(t) {
		t = strings.ToValidUTF8(t, "\uFFFD")
	}
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

// Width is how many columns t takes.
func Width(t string) int { return displaywidth.String(t) }

// Fit cuts t to at most n columns, with an ellipsis.
func Fit(t string, n int) string {
	t = strings.ReplaceAll(Clean(t), "\n", " ")
	return displaywidth.TruncateString(t, n, "…")
}

// FitMiddle cuts t in its middle, which keeps both ends of a path.
func FitMiddle(t string, n int) string {
	t = strings.ReplaceAll(Clean(t), "\n", " ")
	wide := Width(t)
	if wide <= n || n < 8 {
		return Fit(t, n)
	}
	return displaywidth.TruncateString(t, n/2, "") + "…" + CutLeft(t, wide-(n-n/2-1))
}

// Pad fills t with blanks to n columns.
func Pad(t string, n int) string { return t + strings.Repeat(" ", max(0, n-Width(t))) }

// PadLeft fills t with blanks before it to n columns.
func PadLeft(t string, n int) string { return strings.Repeat(" ", max(0, n-Width(t))) + t }

// CutLeft takes away at least the first n columns of t, whole letters.
func CutLeft(t string, n int) string {
	for g := displaywidth.StringGraphemes(t); n > 0 && g.Next(); {
		n -= g.Width()
		t = t[len(g.Value()):]
	}
	return t
}

// breakable finds where a long word may be broken so that the first part has at
// most room columns: behind a backslash or slash if there is one far enough.
func breakable(word string, room int) string {
	head := displaywidth.TruncateString(word, room, "")
	if at := strings.LastIndexAny(head, `\/`); at > len(head)/3 {
		return head[:at+1]
	}
	return head
}

// Wrap breaks t into lines of at most width columns, indented; the first line
// is not indented when hang is set. A word longer than a line is broken.
func Wrap(t string, width, indent int, hang bool) []string {
	room := max(width-indent, 16)
	var lines []string
	line := ""
	flush := func() {
		if line != "" {
			lines = append(lines, line)
			line = ""
		}
	}
	for _, word := range strings.Fields(Clean(t)) {
		for word != "" {
			left := room
			if line != "" {
				left -= Width(line) + 1
			}
			head := word
			if Width(word) > left {
				// Only a word that fits no line is broken, and only where
				// enough of it stays on this one.
				if head = ""; Width(word) > room && left > room/3 {
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
