// This file is how text is set for whoever reads it: width, colours, and
// neither where nobody looks at a terminal.

package cli

import (
	"io"
	"os"
	"strings"

	"golang.org/x/term"

	"hollowkey/cli/columns"
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

// newStyle looks at the output once: colours only on a terminal that wants
// them.
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

// mind is for what a person has to know, though nothing failed. Yellow cannot
// be read on white.
func (s Style) mind(t string) string { return s.sgr("1;35", t) }

// key is for what is to be typed.
func (s Style) key(t string) string { return s.sgr("36", t) }

// sgr puts a text between a colour's code and its end. Colour only ever repeats
// what a word says already.
func (s Style) sgr(code, t string) string {
	if !s.Color || t == "" {
		return t
	}
	return "\x1b[" + code + "m" + t + "\x1b[0m"
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

// Short names for what every command needs.
var (
	clean     = columns.Clean
	fit       = columns.Fit
	fitMiddle = columns.FitMiddle
	pad       = columns.Pad
	wrap      = columns.Wrap
)
