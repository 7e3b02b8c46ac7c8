// This file changes tables in memory.

package installdb

import (
	"bytes"
	"fmt"
	"io"
	"slices"

	"hollowkey/core/package/compound"
)

// AddTable adds an empty table. It fails where the table is there, or its
// columns are none that the engine takes.
func (db *Database) AddTable(name string, columns []Column) error {
	switch {
	case db.Has(name):
		return fmt.Errorf("table %s is there already", name)
	case len(columns) == 0 || len(columns) > 32:
		return fmt.Errorf("table %s: a table has 1 to 32 columns, not %d", name, len(columns))
	case !columns[0].Key():
		return fmt.Errorf("table %s: the first column must belong to the key", name)
	}
	db.schema[name] = columns
	db.tables[name] = &Table{Name: name, Columns: columns}
	db.changed[name] = true
	delete(db.dropped, name)
	return nil
}

// addColumn adds a column at the end of a table.
func (db *Database) addColumn(name string, c Column) error {
	t, err := db.Table(name)
	if err != nil {
		return err
	}
	t.Columns = append(slices.Clone(t.Columns), c)
	db.schema[name] = t.Columns
	for i := range t.Rows {
		t.Rows[i] = append(t.Rows[i], Value{})
	}
	db.changed[name] = true
	return nil
}

// DropTable removes a table with all its rows and their streams.
func (db *Database) DropTable(name string) error {
	t, err := db.Table(name)
	if err != nil {
		return err
	}
	for len(t.Rows) > 0 {
		if err := db.DeleteRow(name, len(t.Rows)-1); err != nil {
			return err
		}
	}
	delete(db.schema, name)
	delete(db.tables, name)
	db.dropped[name] = true
	delete(db.changed, name)
	return nil
}

// AddRow adds a row. A key that is there already is an error, and so are cells
// that their columns cannot hold.
func (db *Database) AddRow(name string, r Row) error {
	t, err := db.Table(name)
	if err != nil {
		return err
	}
	if err := t.check(r); err != nil {
		return err
	}
	if i := t.Find(t.Key(r)); i >= 0 {
		return fmt.Errorf("table %s has a row with the key %q already", name, t.Key(r))
	}
	return db.putRow(t, len(t.Rows), r)
}

// putRow sets row i of a table, or adds it at the end.
func (db *Database) putRow(t *Table, i int, r Row) error {
	stream := t.streamName(r)
	for k, c := range t.Columns {
		if c.Kind() == Binary && r[k].Stream != nil {
			db.streams[stream] = r[k].Stream
			delete(db.gone, stream)
		}
	}
	if i == len(t.Rows) {
		t.Rows = append(t.Rows, r)
	} else {
		t.Rows[i] = r
	}
	db.changed[t.Name] = true
	return nil
}

// DeleteRow removes row i of a table, with its stream.
func (db *Database) DeleteRow(name string, i int) error {
	t, err := db.Table(name)
	if err != nil {
		return err
	}
	r := t.Rows[i]
	for k, c := range t.Columns {
		if c.Kind() == Binary && r[k].Stream != nil {
			stream := t.streamName(r)
			delete(db.streams, stream)
			db.gone[stream] = true
		}
	}
	t.Rows = slices.Delete(t.Rows, i, i+1)
	db.changed[name] = true
	return nil
}

// SetCell sets one cell of row i. A cell of the key is refused: remove the row
// and add another. It fails for a column that is not there, and for a value of
// another kind than the column's.
func (db *Database) SetCell(name string, i int, column string, v Value) error {
	t, err := db.Table(name)
	if err != nil {
		return err
	}
	k := t.Column(column)
	if k < 0 {
		return fmt.Errorf("table %s has no column %s", name, column)
	}
	if t.Columns[k].Key() {
		return fmt.Errorf("column %s is the key of table %s\nhint: remove the row and add another", column, name)
	}
	r := slices.Clone(t.Rows[i])
	r[k] = v
	if err := t.check(r); err != nil {
		return err
	}
	return db.putRow(t, i, r)
}

// check says whether a row can stand in the table.
func (t *Table) check(r Row) error {
	if len(r) != len(t.Columns) {
		return fmt.Errorf("table %s has %d columns, the row has %d cells", t.Name, len(t.Columns), len(r))
	}
	for k, c := range t.Columns {
		v := r[k]
		switch {
		case v.Null() && !c.Nullable() && c.Kind() != Text:
			return fmt.Errorf("table %s: column %s may not be empty", t.Name, c.Name)
		case v.Null():
		case (c.Kind() == Binary) != (v.Stream != nil), (c.Kind() == Short || c.Kind() == Long) != v.IsInt:
			return fmt.Errorf("table %s: column %s is of type %s and cannot hold %q", t.Name, c.Name, c.Shape(), v.String())
		}
	}
	return nil
}

// sameStream says whether two streams hold the same bytes.
func sameStream(a, b compound.Content) (bool, error) {
	if a == nil || b == nil {
		return a == nil && b == nil, nil
	}
	if a.Size() != b.Size() {
		return false, nil
	}
	x, y := a.Reader(), b.Reader()
	p, q := make([]byte, 64<<10), make([]byte, 64<<10)
	for {
		n, err := io.ReadFull(x, p)
		m, err2 := io.ReadFull(y, q)
		if !bytes.Equal(p[:n], q[:m]) {
			return false, nil
		}
		for _, e := range []error{err, err2} {
			if e != nil && e != io.EOF && e != io.ErrUnexpectedEOF {
				return false, e
			}
		}
		if err != nil {
			return true, nil
		}
	}
}
