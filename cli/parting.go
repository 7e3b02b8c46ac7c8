// This file shows where a setup parts from the same one where it worked.

package cli

import (
	"fmt"
	"io"
	"path/filepath"
	"strings"

	"hollowkey/core/why/verdict"
)

// partingRows is how many differences a screen shows; --json has all.
const partingRows = 8

// partingText writes where a setup parts from the same one where it worked, and
// what differed before.
func partingText(w io.Writer, s Style, good string, p *verdict.Parting) error {
	var b strings.Builder
	b.WriteString("\n")
	// What differs matters more than where, if the verdict speaks of it.
	switch name := clean(filepath.Base(good)); {
	case p.At == nil:
		fmt.Fprintf(&b, "%s\n", s.bold("It goes the same way as "+name+", as far as the logs tell"))
	default:
		head := "It parts from " + name + " at "
		if p.At.Action != "" {
			head += s.fit(p.At.Action, s.Width-len(head)-30) + ", "
		}
		head += fmt.Sprintf("line %d", p.At.Line)
		if p.At.GoodLine > 0 {
			head += fmt.Sprintf(" (there line %d)", p.At.GoodLine)
		}
		fmt.Fprintf(&b, "%s\n", s.bold(head))
		if p.At.Text != "" {
			fmt.Fprintf(&b, "  %s\n", s.fit(strings.TrimSpace(p.At.Text), s.Width-2))
		}
	}
	if len(p.Differences) > 0 {
		rows := [][]string{{"differs", "name", "here", "there"}}
		for _, d := range p.Differences[:min(len(p.Differences), partingRows)] {
			kind := d.Kind
			if d.Tells {
				kind += " *"
			}
			rows = append(rows, []string{kind, d.Name, orNone(d.Here), orNone(d.There)})
		}
		b.WriteString("\n")
		grid(&b, s, 2, rows)
		if n := len(p.Differences) - partingRows; n > 0 {
			fmt.Fprintf(&b, "  %d more in --json\n", n)
		}
	}
	switch {
	case p.Explains:
		b.WriteString("\n  * the verdict speaks of it: that difference explains the failure\n")
	case len(p.Differences) > 0:
		b.WriteString("\n  None of these is what the verdict is about.\n")
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// orNone is a value, or a dash where there is none.
func orNone(v string) string {
	if v == "" {
		return "-"
	}
	return v
}
