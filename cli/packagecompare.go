// This file compares two packages row by row.

package cli

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/package/alter"
	"hollowkey/core/package/installdb"
)

// newCompare is the command that compares two packages row by row.
func (a *app) newCompare() *cobra.Command {
	var out output
	c := &cobra.Command{
		Use:   "compare A B",
		Short: "rows added, removed and changed from one package to another, or by a transform",
		Long: `Compares two packages row by row. B may be a transform: then A is compared with what the
transform makes of it. --out writes the difference as a transform from A to B.

It reads only, but for the transform. Exit status: 0 they are the same, or the transform
was written, 1 could not, 2 wrong call, 3 they differ.`,
		Example: "  hollowkey package compare planner-3.0.msi planner-3.1.msi\n  hollowkey package compare planner.msi planner.mst\n" +
			"  hollowkey package compare planner.msi altered.msi --out site.mst",
		Args: cobra.ExactArgs(2),
		RunE: func(_ *cobra.Command, args []string) error {
			from, _, done, err := a.openPackage(args[0], packageOptions{})
			if err != nil {
				return err
			}
			defer done()
			to, _, done2, err := a.openPackage(args[1], packageOptions{})
			if err != nil {
				return err
			}
			defer done2()
			if to.Format == installdb.Transform {
				again, _, done3, err := a.openPackage(args[0], packageOptions{with: args[1:]})
				if err != nil {
					return err
				}
				defer done3()
				to = again
			}
			t, d, err := alter.Transform(from, to)
			if err != nil {
				return err
			}
			if out.name != "" {
				if err := notOver(out.name, args); err != nil {
					return err
				}
				if err := alter.Save(t, out.name, out.replace); err != nil {
					return err
				}
			}
			if a.json {
				err = printJSON(a.out, compareJSON(d))
			} else {
				err = compareText(a.out, a.style, d, args, out.name)
			}
			if err == nil && !d.Empty() && out.name == "" {
				return errNo
			}
			return err
		},
	}
	out.bind(c, "write the difference as a transform to this file")
	return c
}

type rowChange struct {
	Table  string            `json:"table"`            // whose row it is
	Key    string            `json:"key"`              // parts with tabs between
	Change string            `json:"change"`           // added, removed, changed
	Before map[string]string `json:"before,omitempty"` // cells by column; empty for an added row
	After  map[string]string `json:"after,omitempty"`  // cells by column; empty for a removed row
}

// rowChanges makes the difference's rows readable: added, removed or changed,
// with the cells by their column's name.
func rowChanges(d *installdb.Difference) []rowChange {
	list := []rowChange{}
	for i, c := range d.Changes {
		t := &installdb.Table{Name: c.Table, Columns: d.Columns(c.Table)}
		r := rowChange{Table: c.Table, Key: t.Key(c.Row),
			Change: map[installdb.Op]string{installdb.Put: "added", installdb.Modify: "changed", installdb.Delete: "removed"}[c.Op]}
		r.Before, r.After = map[string]string{}, map[string]string{}
		for k, col := range t.Columns {
			before := ""
			if k < len(d.Before[i]) {
				before = d.Before[i][k].String()
			}
			after := ""
			if c.Op != installdb.Delete {
				after = c.Row[k].String()
			}
			// Of a changed row only the cells that changed are shown.
			if c.Op == installdb.Modify && !c.Set[k] {
				continue
			}
			if before != "" {
				r.Before[col.Name] = before
			}
			if after != "" {
				r.After[col.Name] = after
			}
		}
		list = append(list, r)
	}
	return list
}

// compareJSON is the difference in its JSON shape.
func compareJSON(d *installdb.Difference) any {
	added := []string{}
	for name := range d.Added {
		added = append(added, name)
	}
	return struct {
		Schema  string      `json:"schema"`
		Same    bool        `json:"same"`
		Added   []string    `json:"tables_added"`
		Dropped []string    `json:"tables_removed"`
		Rows    []rowChange `json:"rows"`
	}{"hollowkey.package.compare/1", d.Empty(), added, append([]string{}, d.Dropped...), rowChanges(d)}
}

// compareText tells the tables that came and went, then the rows by table.
func compareText(w io.Writer, s Style, d *installdb.Difference, args []string, transform string) error {
	var b strings.Builder
	n := map[string]int{}
	changes := rowChanges(d)
	for _, c := range changes {
		n[c.Change]++
	}
	if d.Empty() {
		b.WriteString("They hold the same rows.\n")
	} else {
		fmt.Fprintf(&b, "%s\n", s.bold(fmt.Sprintf("From %s to %s: %s added, %d removed, %d changed.", args[0], args[1],
			count(n["added"], "row"), n["removed"], n["changed"])))
	}
	for _, name := range d.Dropped {
		fmt.Fprintf(&b, "%s\n", s.bad("- table "+name))
	}
	for name := range d.Added {
		fmt.Fprintf(&b, "%s\n", s.good("+ table "+name))
	}
	for _, c := range changes {
		fmt.Fprintf(&b, "\n%s %s %s\n", s.key(c.Table), s.bold(s.fit(strings.ReplaceAll(c.Key, "\t", ", "), s.Width-len(c.Table)-10)), c.Change)
		var before, after []string
		for _, col := range d.Columns(c.Table) {
			if v, ok := c.Before[col.Name]; ok {
				before = append(before, col.Name+" = "+v)
			}
			if v, ok := c.After[col.Name]; ok {
				after = append(after, col.Name+" = "+v)
			}
		}
		writeDiff(&b, s, before, after)
	}
	if transform != "" {
		fmt.Fprintf(&b, "\n%s %s\n", s.good("Written:"), transform)
	}
	_, err := io.WriteString(w, b.String())
	return err
}
