// This file chooses rows by a condition over their columns.

package references

import (
	"fmt"
	"slices"
	"strconv"

	"hollowkey/core/package/condition"
	"hollowkey/core/package/installdb"
)

// A Query chooses rows of a table: those on which a condition holds whose
// symbols are the columns, sorted by columns, with some of the columns.
type Query struct {
	Where string   // a condition in the engine's language; empty fits all
	Sort  []string // column names; a minus in front turns the order round
	Show  []string // column names; none means all
}

// Select answers a query. The condition is one of the engine's language:
// Component_ = "Main" AND Attributes >< 4, Name ~>< "quay", NOT Condition.
// Errors name what of the condition cannot be read, or which column is not
// there.
func Select(t *installdb.Table, q Query) (columns []installdb.Column, rows []installdb.Row, err error) {
	e, err := condition.Parse(q.Where)
	if err != nil {
		return nil, nil, err
	}
	for _, s := range condition.Symbols(e) {
		if s.Kind == condition.Property && t.Column(s.Name) < 0 {
			return nil, nil, noColumn(t, s.Name)
		}
	}
	for _, r := range t.Rows {
		lookup := func(s condition.Symbol) condition.Value {
			if v := t.Get(r, s.Name); s.Kind == condition.Property && v.Stream == nil {
				return condition.Value{Text: v.String()}
			}
			return condition.Value{}
		}
		if condition.Eval(e, lookup) == condition.True {
			rows = append(rows, r)
		}
	}
	if rows, err = order(t, rows, q.Sort); err != nil {
		return nil, nil, err
	}
	if len(q.Show) == 0 {
		return t.Columns, rows, nil
	}
	var at []int
	for _, name := range q.Show {
		i := t.Column(name)
		if i < 0 {
			return nil, nil, noColumn(t, name)
		}
		at = append(at, i)
		columns = append(columns, t.Columns[i])
	}
	cut := make([]installdb.Row, len(rows))
	for i, r := range rows {
		for _, k := range at {
			cut[i] = append(cut[i], r[k])
		}
	}
	return columns, cut, nil
}

// order sorts rows by columns; the last one named is sorted by first, so that
// the first one wins.
func order(t *installdb.Table, rows []installdb.Row, by []string) ([]installdb.Row, error) {
	rows = slices.Clone(rows)
	for _, name := range slices.Backward(by) {
		down := len(name) > 1 && name[0] == '-'
		if down {
			name = name[1:]
		}
		i := t.Column(name)
		if i < 0 {
			return nil, noColumn(t, name)
		}
		slices.SortStableFunc(rows, func(a, b installdb.Row) int {
			n := compare(a[i], b[i])
			if down {
				return -n
			}
			return n
		})
	}
	return rows, nil
}

// compare puts numbers before texts as numbers, else goes by the text.
func compare(a, b installdb.Value) int {
	switch {
	case a.IsInt && b.IsInt:
		return int(int64(a.Int) - int64(b.Int))
	case a.String() < b.String():
		return -1
	case a.String() > b.String():
		return 1
	}
	return 0
}

// noColumn names the columns that there are.
func noColumn(t *installdb.Table, name string) error {
	known := ""
	for _, c := range t.Columns {
		known += ", " + c.Name
	}
	return fmt.Errorf("table %s has no column %s\nhint: it has %s", t.Name, strconv.Quote(name), known[min(2, len(known)):])
}
