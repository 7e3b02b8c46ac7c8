// This file looks for a word in all tables, with what refers to each hit.

package cli

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/package/installdb"
	"hollowkey/core/package/references"
)

// findLimit is a screen of rows; --limit gives more.
const findLimit = 30

// newFind is the command that finds a word in all tables. It is the quickest
// way from a word of a log to the row that it came from.
func (a *app) newFind() *cobra.Command {
	var opt packageOptions
	limit := findLimit
	c := &cobra.Command{
		Use:   "find FILE TEXT",
		Short: "finds a word in all tables, and what refers to what",
		Long: `Looks for a text in the names and values of all tables, letter case aside, and shows for
each row what it refers to and what refers to it.

It reads only. Exit status: 0 found, 1 the file cannot be read, 2 wrong call, 3 not found.`,
		Example: "  hollowkey package find planner.msi ChartRuntime\n  hollowkey package find planner.msi 'Windows XP'",
		Args:    cobra.ExactArgs(2),
		RunE: func(_ *cobra.Command, args []string) error {
			if args[1] == "" {
				return wrongCall("the text to find is empty")
			}
			return a.onPackage(args[0], opt, func(db *installdb.Database, _ int64) error {
				g, err := references.Read(db)
				if err != nil {
					return err
				}
				f, err := g.Find(args[1], limit)
				if err != nil {
					return fmt.Errorf("%s: %w", args[0], err)
				}
				if a.json {
					err = printJSON(a.out, struct {
						Schema string `json:"schema"`
						Text   string `json:"text"`
						references.Found
					}{"hollowkey.package.find/2", args[1], f})
				} else {
					err = findText(a.out, a.style, f, args[1], args[0])
				}
				if err == nil && len(f.Hits)+len(f.Tables)+len(f.Columns)+len(f.Streams) == 0 {
					return errNo
				}
				return err
			})
		},
	}
	c.Flags().IntVar(&limit, "limit", findLimit, "show this many rows")
	opt.bindWith(c)
	return c
}

// findText lists the hits with what they refer to and what refers to them.
func findText(w io.Writer, s Style, f references.Found, text, file string) error {
	var b strings.Builder
	if len(f.Hits)+len(f.Tables)+len(f.Columns)+len(f.Streams) == 0 {
		fmt.Fprintf(&b, "%q is nowhere in %s.\n", clean(text), file)
	}
	names := func(title string, list []string) {
		if len(list) > 0 {
			fmt.Fprintf(&b, "%s %s\n", s.bold(title), strings.Join(wrap(strings.Join(list, ", "), s.Width, len(title)+1, true), "\n"))
		}
	}
	if n := len(f.Hits) + f.More; n > 0 {
		fmt.Fprintf(&b, "%s\n", s.bold(fmt.Sprintf("%q is in %s:", clean(text), count(n, "row"))))
	}
	for _, h := range f.Hits {
		fmt.Fprintf(&b, "\n%s  %s\n", s.key(h.Table), s.bold(s.fit(strings.ReplaceAll(h.Key, "\t", ", "), s.Width-len(h.Table)-2)))
		for _, c := range h.Cells {
			if c.Value == h.Key {
				continue // stands in the heading
			}
			item(&b, s, 4, 15, c.Column, s.mark(c.Value, text))
		}
		item(&b, s, 4, 15, "means", h.Means)
		item(&b, s, 4, 15, "refers to", useList(h.Uses))
		item(&b, s, 4, 15, "used by", useList(h.UsedBy))
	}
	if f.More > 0 {
		fmt.Fprintf(&b, "\n%d rows more; --limit shows them.\n", f.More)
	}
	if len(f.Hits) > 0 && len(f.Tables)+len(f.Columns)+len(f.Streams) > 0 {
		b.WriteString("\n")
	}
	names("Tables named so:", f.Tables)
	var columns []string
	for _, c := range f.Columns {
		columns = append(columns, c.Table+"."+c.Column)
	}
	names("Columns named so:", columns)
	names("Streams named so:", f.Streams)
	_, err := io.WriteString(w, b.String())
	return err
}

const excerpt = 300 // bytes of a long cell around what was found

// mark cuts a long cell to what lies around the text that was found.
func (s Style) mark(value, text string) string {
	at := strings.Index(strings.ToLower(value), strings.ToLower(text))
	if len(value) <= excerpt || at < 0 || s.Whole {
		return s.fit(value, 2*excerpt)
	}
	from, to := max(0, at-excerpt/2), min(len(value), at+excerpt/2)
	return "…" + strings.ToValidUTF8(value[from:to], "") + "…"
}

// usesShown are rows named before the rest is counted: two lines of text.
const usesShown = 6

// useList names rows that refer to something, the first ones by name and the
// rest by their number.
func useList(uses []references.Use) string {
	var parts []string
	for i, u := range uses {
		if i == usesShown {
			parts = append(parts, fmt.Sprintf("and %d more", len(uses)-i))
			break
		}
		parts = append(parts, u.Place.String()+" ("+u.Column+")")
	}
	return strings.Join(parts, "; ")
}
