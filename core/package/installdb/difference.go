// This file finds what leads from one database to another.

package installdb

import (
	"fmt"
	"slices"
)

// A Difference is what leads from one database to another.
type Difference struct {
	Added   map[string][]Column // tables that only the second has
	Dropped []string            // tables that only the first has
	Grown   map[string]int      // tables with more columns in the second: how many the first has
	Changes []Change            // of rows; Before holds what was there
	Before  []Row               // for each change the row before it, nil for a new one
	schema  map[string][]Column // columns by table, as the second database has them
}

// Empty says whether both databases hold the same.
func (d *Difference) Empty() bool {
	return len(d.Added)+len(d.Dropped)+len(d.Changes)+len(d.Grown) == 0
}

// Columns are the columns of a table as the second database has them.
func (d *Difference) Columns(table string) []Column { return d.columns(table) }

// columns are those of a table of the difference, the two system tables
// included.
func (d *Difference) columns(table string) []Column {
	switch table {
	case "_Tables":
		return tablesColumns
	case "_Columns":
		return columnsColumns
	}
	return d.schema[table]
}

// Compare finds what leads from a to b. Tables whose columns differ otherwise
// than by more of them at the end are an error: no transform can say that.
func Compare(a, b *Database) (*Difference, error) {
	d := &Difference{Added: map[string][]Column{}, Grown: map[string]int{}, schema: map[string][]Column{}}
	for _, name := range a.Tables() {
		d.schema[name] = a.schema[name]
		if !b.Has(name) {
			d.Dropped = append(d.Dropped, name)
		}
	}
	for _, name := range b.Tables() {
		d.schema[name] = b.schema[name]
		if !a.Has(name) {
			d.Added[name] = b.schema[name]
		} else if !slices.Equal(a.schema[name], b.schema[name]) {
			n := len(a.schema[name])
			if n >= len(b.schema[name]) || !slices.Equal(a.schema[name], b.schema[name][:n]) {
				return nil, fmt.Errorf("table %s has other columns in the second package; a transform cannot change those", name)
			}
			d.Grown[name] = n
		}
		if err := d.compareTable(a, b, name); err != nil {
			return nil, fmt.Errorf("table %s: %w", name, err)
		}
	}
	return d, nil
}

// compareTable notes the rows that went, came and changed, by their keys.
func (d *Difference) compareTable(a, b *Database, name string) error {
	old, err := a.TableOrEmpty(name)
	if err != nil {
		return err
	}
	now, err := b.Table(name)
	if err != nil {
		return err
	}
	was := make(map[string]Row, len(old.Rows))
	for _, r := range old.Rows {
		was[old.Key(r)] = r
	}
	seen := make(map[string]bool, len(now.Rows))
	// Rows are the same by their keys, whatever their place.
	for _, r := range now.Rows {
		key := now.Key(r)
		seen[key] = true
		before, ok := was[key]
		if !ok {
			d.note(Change{Table: name, Op: Put, Row: r}, nil)
			continue
		}
		set, any := make([]bool, len(r)), false
		for k := range r {
			var o Value
			if k < len(before) {
				o = before[k]
			}
			same := r[k].same(o)
			// Streams are compared byte by byte, as two packages have them in
			// different places.
			if same && r[k].Stream != nil {
				if same, err = sameStream(r[k].Stream, o.Stream); err != nil {
					return err
				}
			}
			set[k] = !same
			any = any || !same
		}
		if any {
			d.note(Change{Table: name, Op: Modify, Row: r, Set: set}, before)
		}
	}
	for _, r := range old.Rows {
		if !seen[old.Key(r)] {
			full := append(slices.Clone(r), make(Row, len(now.Columns)-len(r))...)
			d.note(Change{Table: name, Op: Delete, Row: full}, r)
		}
	}
	return nil
}

// note keeps a change with the row as it was.
func (d *Difference) note(c Change, before Row) {
	d.Changes = append(d.Changes, c)
	d.Before = append(d.Before, before)
}

// catalogue are the changes of the tables that describe the others. Their
// strings join the pool.
func (d *Difference) catalogue(p *StringPool) (list []Change, err error) {
	add := func(table string, op Op, r Row) {
		for _, v := range r {
			if _, e := p.use(v.Text); e != nil {
				err = e
			}
		}
		list = append(list, Change{Table: table, Op: op, Row: r})
	}
	for _, name := range d.Dropped {
		add("_Tables", Delete, Row{TextValue(name)})
	}
	for _, name := range sortedKeys(d.Added) {
		add("_Tables", Put, Row{TextValue(name)})
		for _, r := range columnRows(name, d.Added[name], 0) {
			add("_Columns", Put, r)
		}
	}
	for _, name := range sortedKeys(d.Grown) {
		for _, r := range columnRows(name, d.schema[name], d.Grown[name]) {
			add("_Columns", Put, r)
		}
	}
	return list, err
}
