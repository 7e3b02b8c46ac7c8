// This file prints tables and rows, for people, spreadsheets and programs.

package cli

import (
	"encoding/csv"
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/cli/columns"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/references"
)

// newTables is the command that lists tables.
func (a *app) newTables() *cobra.Command {
	var opt packageOptions
	c := &cobra.Command{
		Use:   "tables FILE",
		Short: "lists the tables of a package with their rows and columns",
		Long: "Lists the tables with the number of rows and the columns; * marks the key.\n\n" +
			"It reads only. Exit status: 0 listed, 1 the file cannot be read, 2 wrong call.",
		Example: "  hollowkey package tables planner.msi",
		Args:    cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onPackage(args[0], opt, func(db *installdb.Database, _ int64) error {
				return a.tables(db)
			})
		},
	}
	opt.bindWith(c)
	return c
}

type tableInfo struct {
	Name    string       `json:"name"`    // as the package has it
	Rows    int          `json:"rows"`    // how many
	Columns []columnInfo `json:"columns"` // in their order
}

type columnInfo struct {
	Name string `json:"name"` // as the package has it
	Type string `json:"type"` // short form, such as s72
	Key  bool   `json:"key"`  // it belongs to the primary key
}

// tables lists names, numbers of rows, and columns with their shapes. The
// number comes from the size of the stream, so that no row has to be read.
func (a *app) tables(db *installdb.Database) error {
	list := []tableInfo{}
	rows := [][]string{{"table", "rows", "columns"}}
	for _, name := range db.Tables() {
		t := tableInfo{Name: name, Rows: db.RowCount(name)}
		var names []string
		for _, c := range db.Columns(name) {
			t.Columns = append(t.Columns, columnInfo{c.Name, c.Shape(), c.Key()})
			mark := ""
			if c.Key() {
				mark = "*"
			}
			names = append(names, mark+c.Name)
		}
		list = append(list, t)
		rows = append(rows, []string{name, fmt.Sprint(t.Rows), strings.Join(names, " ")})
	}
	if a.json {
		return printJSON(a.out, struct {
			Schema string      `json:"schema"`
			Tables []tableInfo `json:"tables"`
		}{"hollowkey.package.tables/1", list})
	}
	var b strings.Builder
	grid(&b, a.style, 0, rows)
	_, err := io.WriteString(a.out, b.String())
	return err
}

// newRows is the command that shows the rows of a table. Its condition is
// written in the engine's own language, as whoever reads packages knows that
// one.
func (a *app) newRows() *cobra.Command {
	var opt packageOptions
	var q references.Query
	var asCSV bool
	c := &cobra.Command{
		Use:   "rows FILE TABLE",
		Short: "shows the rows of a table: filtered, sorted, chosen columns",
		Long: `Shows the rows of a table. --where takes a condition in the engine's own language, with
the columns as names: = <> < > <= >=, >< (holds), << (begins with), >> (ends with), a ~ in
front leaves letter case aside; AND, OR, NOT, brackets. A column alone holds when it is
not empty.

It reads only. Exit status: 0 shown, 1 the file or table cannot be read, 2 wrong call,
3 no row fits.`,
		Example: "  hollowkey package rows planner.msi CustomAction\n" +
			"  hollowkey package rows planner.msi InstallExecuteSequence --sort Sequence --where 'Condition >< \"Installed\"'\n" +
			"  hollowkey package rows planner.msi Property --where 'Property ~>< \"site\"' --csv",
		Args: cobra.ExactArgs(2),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onPackage(args[0], opt, func(db *installdb.Database, _ int64) error {
				t, err := db.Table(tableNamed(db, args[1]))
				if err != nil {
					return fmt.Errorf("%s: %w\nhint: to list them: hollowkey package tables %s", args[0], err, quoteArgument(args[0]))
				}
				columns, rows, err := references.Select(t, q)
				if err != nil {
					return callError{err}
				}
				if err := a.rows(t.Name, columns, rows, asCSV); err != nil {
					return err
				}
				if len(rows) == 0 {
					fmt.Fprintf(a.err, "No row of %s fits.\n", t.Name)
					return errNo
				}
				return nil
			})
		},
	}
	c.Flags().StringVar(&q.Where, "where", "", "only rows for which this condition on the columns holds")
	c.Flags().StringSliceVar(&q.Sort, "sort", nil, "sort by these columns; a minus in front turns the order round")
	c.Flags().StringSliceVar(&q.Show, "columns", nil, "show only these columns")
	bindCSV(c, &asCSV)
	opt.bindWith(c)
	return c
}

// tableNamed finds a table whatever the case of its letters.
func tableNamed(db *installdb.Database, name string) string {
	for _, n := range db.Tables() {
		if strings.EqualFold(n, name) && !db.Has(name) {
			return n
		}
	}
	return name
}

// rows writes rows as a grid, as CSV or as JSON.
func (a *app) rows(table string, columns []installdb.Column, rows []installdb.Row, asCSV bool) error {
	names := make([]string, len(columns))
	for i, c := range columns {
		names[i] = c.Name
	}
	switch {
	case a.json:
		list := make([]map[string]any, len(rows))
		for i, r := range rows {
			list[i] = map[string]any{}
			for k, v := range r {
				list[i][names[k]] = jsonCell(v)
			}
		}
		return printJSON(a.out, struct {
			Schema  string           `json:"schema"`
			Table   string           `json:"table"`
			Columns []string         `json:"columns"`
			Rows    []map[string]any `json:"rows"`
		}{"hollowkey.package.rows/1", table, names, list})
	case asCSV:
		w := csv.NewWriter(a.out)
		w.Write(names)
		for _, r := range rows {
			w.Write(texts(r))
		}
		w.Flush()
		return w.Error()
	}
	all := [][]string{names}
	for _, r := range rows {
		all = append(all, texts(r))
	}
	var b strings.Builder
	// A grid where the width allows it, else a block for each row: a cell that
	// is cut is of no use.
	if fits(a.style, all) {
		grid(&b, a.style, 0, all)
	} else {
		records(&b, a.style, names, columns, rows)
	}
	_, err := io.WriteString(a.out, b.String())
	return err
}

// jsonCell keeps numbers as numbers; of a stream only its size is told.
func jsonCell(v installdb.Value) any {
	switch {
	case v.Null():
		return nil
	case v.IsInt:
		return v.Int
	case v.Stream != nil:
		return map[string]int64{"bytes": v.Stream.Size()}
	}
	return v.Text
}

// texts are the cells of a row as people read them.
func texts(r installdb.Row) (out []string) {
	for _, v := range r {
		out = append(out, v.String())
	}
	return out
}

const cutAtMost = 3 // a grid may cut cells to a third of the room that they want

// fits says whether a grid shows enough of each row.
func fits(s Style, rows [][]string) bool {
	want := 0
	for i := range rows[0] {
		widest := 0
		for _, r := range rows {
			widest = max(widest, min(columns.Width(r[i]), 40))
		}
		want += widest + columnGap
	}
	return want <= s.Width*4/cutAtMost && len(rows[0])*8 <= s.Width
}

// records writes each row as a block: its key, then its other cells in a line
// each.
func records(b *strings.Builder, s Style, names []string, columns []installdb.Column, rows []installdb.Row) {
	widest := 0
	for _, n := range names {
		widest = max(widest, len(n))
	}
	for i, r := range rows {
		if i > 0 {
			b.WriteString("\n")
		}
		var key []string
		for k, c := range columns {
			if c.Key() {
				key = append(key, r[k].String())
			}
		}
		if len(key) > 0 {
			fmt.Fprintln(b, s.bold(s.fit(strings.Join(key, ", "), s.Width)))
		}
		for k, v := range r {
			if !columns[k].Key() || len(columns) == 1 {
				item(b, s, 2, widest+2, names[k], v.String())
			}
		}
	}
}
