// This file sets rows in columns that fit the width, and names beside wrapped
// texts.

package cli

import (
	"encoding/csv"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/cli/columns"
)

// columnGap is the least that keeps two columns of words apart to the eye.
const columnGap = 2

// grid sets rows in columns that fit the width: the widest columns are cut
// first. The first row is the heading.
func grid(b *strings.Builder, s Style, indent int, rows [][]string) {
	if len(rows) == 0 {
		return
	}
	widths := make([]int, len(rows[0]))
	for _, r := range rows {
		for i, c := range r {
			widths[i] = max(widths[i], columns.Width(clean(c)))
		}
	}
	if !s.Whole {
		squeeze(widths, s.Width-indent)
	}
	for n, r := range rows {
		line := strings.Repeat(" ", indent)
		for i, c := range r {
			cell := fit(c, widths[i])
			// Of a path the end says most, so its middle is cut.
			if strings.ContainsAny(c, `/\`) {
				cell = fitMiddle(c, widths[i])
			}
			if i < len(r)-1 {
				cell = pad(cell, widths[i]+columnGap)
			}
			line += cell
		}
		line = strings.TrimRight(line, " ")
		if n == 0 {
			line = s.bold(line)
		}
		b.WriteString(line + "\n")
	}
}

// squeeze narrows the widest columns until all fit.
func squeeze(widths []int, room int) {
	sum := func() (n int) {
		for _, w := range widths {
			n += w + columnGap
		}
		return n - columnGap
	}
	for over := sum() - room; over > 0; over = sum() - room {
		widest := 0
		for i := range widths {
			if widths[i] > widths[widest] {
				widest = i
			}
		}
		if widths[widest] <= 4 {
			return
		}
		widths[widest]--
	}
}

// item writes a name and a text beside it, wrapped under itself.
func item(b *strings.Builder, s Style, indent, names int, name, text string) {
	if text == "" {
		return
	}
	lines := wrap(text, s.Width, indent+names, true)
	b.WriteString(strings.Repeat(" ", indent) + s.faint(pad(name, names)) + strings.Join(lines, "\n") + "\n")
}

// bindCSV binds the option of lists that prints them as CSV. Source: RFC 4180.
func bindCSV(c *cobra.Command, on *bool) {
	c.Flags().BoolVar(on, "csv", false, "print CSV")
}

// printCSV prints rows, the first of which is the heading.
func (a *app) printCSV(rows [][]string) error {
	return csv.NewWriter(a.out).WriteAll(rows)
}

// printGrid prints rows alone.
func (a *app) printGrid(rows [][]string) error {
	var b strings.Builder
	grid(&b, a.style, 0, rows)
	_, err := io.WriteString(a.out, b.String())
	return err
}
