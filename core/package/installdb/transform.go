// This file reads, applies and writes transforms.

package installdb

import (
	"encoding/binary"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hollowkey/core/package/compound"
)

// A transform holds, for each table that it changes, a stream of records. A
// record begins with a mask: 0 removes the row of the key that follows; with
// bit 0 set the upper byte counts the cells of a whole row that follow; else
// each bit names a cell that changes, and key and cells follow.
//
// Source: docs/packages.md, "Transforms".

// A Change is what a transform does to one row, in terms of names: Row has a
// value for each column; Set says which of them a change of cells sets.
type Change struct {
	Table string // whose row it is
	Op    Op     // put, modify or delete
	Row   Row    // its cells; of a deletion only the key's
	Set   []bool // for Modify: the columns that are set
}

// An Op says what happens to a row.
type Op string

// The operations. Put adds a row or overwrites it whole.
const (
	Put    Op = "put"
	Modify Op = "modify"
	Delete Op = "delete"
)

// A TransformFile is a transform that was read: tables come and go, and rows
// change.
type TransformFile struct {
	Added   map[string][]Column // new tables
	Grown   map[string][]Column // columns added to tables
	Dropped []string            // tables that go
	Changes []Change            // in the order of the file
	Summary *Summary            // products and checks that it is meant for
	db      *Database           // the transform as a database, for its streams
}

// recordColumns are the columns of a table as the transform sees it.
type recordColumns func(table string) []Column

// ReadTransform reads a transform database. schema gives the columns of the
// tables that it changes: those of the package that it is meant for.
func ReadTransform(db *Database, schema recordColumns) (*TransformFile, error) {
	t := &TransformFile{Added: map[string][]Column{}, Grown: map[string][]Column{}, db: db}
	var err error
	if t.Summary, err = db.Summary(); err != nil {
		return nil, err
	}
	tables, err := db.records("_Tables", tablesColumns)
	if err != nil {
		return nil, err
	}
	// The two catalogue tables say which tables and columns come and go; they
	// are read before any row can be.
	for _, c := range tables {
		if c.Op == Delete {
			t.Dropped = append(t.Dropped, c.Row[0].Text)
		} else {
			t.Added[c.Row[0].Text] = nil
		}
	}
	columns, err := db.records("_Columns", columnsColumns)
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(columns, func(a, b Change) int { return int(a.Row[1].Int) - int(b.Row[1].Int) })
	for _, c := range columns {
		if c.Op == Delete {
			continue
		}
		name, col := c.Row[0].Text, Column{c.Row[2].Text, uint16(c.Row[3].Int)}
		if have, ok := t.Added[name]; ok {
			t.Added[name] = append(have, col)
		} else {
			t.Grown[name] = append(t.Grown[name], col)
		}
	}
	return t, t.readChanges(schema)
}

// readChanges reads the changed rows of each table, with the columns that the
// transform itself adds.
func (t *TransformFile) readChanges(schema recordColumns) error {
	for _, name := range t.db.tableStreams() {
		if strings.HasPrefix(name, "_String") || name == "_Tables" || name == "_Columns" {
			continue
		}
		columns := t.Added[name]
		if columns == nil {
			columns = schema(name)
			if columns == nil {
				return fmt.Errorf("the transform changes table %s, which the package does not have: %w", name, ErrNoTable)
			}
			columns = append(slices.Clone(columns), t.Grown[name]...)
		}
		changes, err := t.db.records(name, columns)
		if err != nil {
			return err
		}
		t.Changes = append(t.Changes, changes...)
	}
	return nil
}

// tableStreams lists the tables that have a stream.
func (db *Database) tableStreams() (names []string) {
	for _, s := range db.Streams() {
		if s.Table {
			names = append(names, s.Name)
		}
	}
	slices.Sort(names)
	return names
}

const wideMask = 16 // columns that a mask can name

// records reads the change records of one table.
func (db *Database) records(name string, columns []Column) ([]Change, error) {
	e := db.entry(name, true)
	if e == nil {
		return nil, nil
	}
	raw, err := db.file.ReadAll(e, maxTable)
	if err != nil {
		return nil, fmt.Errorf("table %s: %w", name, err)
	}
	var list []Change
	shape := &Table{Name: name, Columns: columns}
	refSize := db.Pool.refSize()
	for at := 0; at+2 <= len(raw); {
		// The mask says what the record does: zero deletes, an odd one puts so
		// many cells, else its bits mark the cells that change.
		mask := binary.LittleEndian.Uint16(raw[at:])
		at += 2
		c := Change{Table: name, Op: Modify, Row: make(Row, len(columns)), Set: make([]bool, len(columns))}
		switch {
		case mask == 0:
			c.Op = Delete
		case mask&1 != 0:
			c.Op = Put
			if n := int(mask >> 8); n > len(columns) {
				return nil, damaged("table %s, record %d: %d cells for %d columns", name, len(list)+1, n, len(columns))
			}
		}
		for k, col := range columns {
			switch {
			case c.Op == Put && k >= int(mask>>8):
				continue
			case c.Op != Put && !col.Key() && (k >= wideMask || mask&(1<<k) == 0):
				continue
			}
			if at+col.width(refSize) > len(raw) {
				return nil, damaged("table %s, record %d is cut off in column %s", name, len(list)+1, col.Name)
			}
			if c.Row[k], err = db.Pool.cell(raw[at:], col); err != nil {
				return nil, fmt.Errorf("table %s, record %d, column %s: %w", name, len(list)+1, col.Name, err)
			}
			c.Set[k] = true
			at += col.width(refSize)
		}
		for k, col := range columns {
			if col.Kind() == Binary && c.Set[k] && c.Row[k].IsInt {
				if c.Row[k], err = db.lazyStream(shape.streamName(c.Row)); err != nil {
					return nil, err
				}
			}
		}
		list = append(list, c)
	}
	return list, nil
}

// Apply carries the changes of a transform out on a database in memory. Rows
// that are there already are overwritten, rows to be removed that are not there
// are passed over.
func (db *Database) Apply(t *TransformFile) error {
	for _, name := range t.Dropped {
		if db.Has(name) {
			if err := db.DropTable(name); err != nil {
				return err
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(t.Added)) {
		if !db.Has(name) {
			if err := db.AddTable(name, t.Added[name]); err != nil {
				return err
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(t.Grown)) {
		for _, c := range t.Grown[name] {
			if !slices.ContainsFunc(db.schema[name], func(o Column) bool { return o.Name == c.Name }) {
				if err := db.addColumn(name, c); err != nil {
					return err
				}
			}
		}
	}
	// Rows are found by key, and the index of a table is made once.
	rows := map[string]map[string]int{}
	for _, c := range t.Changes {
		if err := db.applyChange(c, rows); err != nil {
			return err
		}
	}
	return nil
}

// applyChange carries out one change; at is an index of the rows by table and
// key, made as it is needed.
func (db *Database) applyChange(c Change, at map[string]map[string]int) error {
	t, err := db.Table(c.Table)
	if err != nil {
		return err
	}
	byKey, ok := at[c.Table]
	if !ok {
		byKey = make(map[string]int, len(t.Rows))
		for i, r := range t.Rows {
			byKey[t.Key(r)] = i
		}
		at[c.Table] = byKey
	}
	for len(c.Row) < len(t.Columns) {
		c.Row = append(c.Row, Value{})
	}
	key := t.Key(c.Row)
	i, found := byKey[key]
	switch {
	case c.Op == Delete && found:
		delete(at, c.Table) // the rows behind it move up
		return db.DeleteRow(c.Table, i)
	// A transform that was made for another version may put what is there, or
	// change what is not: the engine passes that over, too.
	case c.Op == Put && found:
		return db.putRow(t, i, c.Row)
	case c.Op == Put:
		byKey[key] = len(t.Rows)
		return db.putRow(t, len(t.Rows), c.Row)
	case c.Op == Modify && found:
		r := slices.Clone(t.Rows[i])
		for k := range c.Set {
			if c.Set[k] {
				r[k] = c.Row[k]
			}
		}
		return db.putRow(t, i, r)
	}
	return nil
}

// MakeTransform writes the changes as a transform database. The checks and the
// products go into its summary information, which the caller sets. It fails
// where a text does not fit the string pool.
func MakeTransform(d *Difference, page int, s *Summary) (*Database, error) {
	db := New(Transform, page)
	db.summary = s
	for _, c := range d.Changes {
		shape := &Table{Name: c.Table, Columns: d.columns(c.Table)}
		for k, col := range shape.Columns {
			switch {
			case col.Kind() == Binary && c.Op != Delete && c.Row[k].Stream != nil:
				db.streams[shape.streamName(c.Row)] = c.Row[k].Stream
			case col.Kind() == Text && carried(shape.Columns, c)[k]:
				if _, err := db.Pool.use(c.Row[k].Text); err != nil {
					return nil, fmt.Errorf("table %s: %w", c.Table, err)
				}
			}
		}
	}
	catalogue, err := d.catalogue(db.Pool)
	if err != nil {
		return nil, err
	}
	// Whether references take two bytes or three is known only when all texts
	// are in.
	db.Pool.long = db.Pool.Len() > shortLimit
	for _, c := range append(catalogue, d.Changes...) {
		columns := d.columns(c.Table)
		b, err := db.Pool.record(columns, c)
		if err != nil {
			return nil, err
		}
		db.changes[c.Table] = append(db.changes[c.Table], b...)
	}
	return db, nil
}

// whole says whether a change is written as a whole row: a new one, or one of a
// table with more columns than a mask can name.
func whole(columns []Column, c Change) bool {
	return c.Op == Put || c.Op == Modify && len(columns) > wideMask
}

// carried says which cells a change is written with.
func carried(columns []Column, c Change) []bool {
	cells := make([]bool, len(columns))
	for k, col := range columns {
		cells[k] = col.Key() || whole(columns, c) || c.Op == Modify && c.Set[k]
	}
	return cells
}

// record encodes one change.
func (p *StringPool) record(columns []Column, c Change) ([]byte, error) {
	mask := uint16(0)
	switch {
	case whole(columns, c):
		mask = uint16(len(columns))<<8 | 1
	case c.Op == Modify:
		for k := range columns {
			if c.Set[k] && !columns[k].Key() {
				mask |= 1 << k
			}
		}
	}
	b := binary.LittleEndian.AppendUint16(nil, mask)
	// A record carries its key, and beside it what it puts or changes.
	carried := carried(columns, c)
	for k, col := range columns {
		if !carried[k] {
			continue
		}
		ref, ok := uint32(0), true
		if col.Kind() == Text {
			if ref, ok = p.Find(c.Row[k].Text); !ok {
				return nil, fmt.Errorf("the text %.40q is not in the string pool", c.Row[k].Text)
			}
		}
		b = p.putCell(b, col, c.Row[k], ref)
	}
	return b, nil
}

// transformNodes lays a transform out as a storage.
func (db *Database) transformNodes() (*compound.Node, error) {
	root := &compound.Node{Class: classOf(Transform)}
	add := func(name string, table bool, b compound.Content) {
		root.Children = append(root.Children, &compound.Node{Name: encodeName(name, table), Content: b})
	}
	for _, name := range slices.Sorted(maps.Keys(db.changes)) {
		add(name, true, compound.Bytes(db.changes[name]))
	}
	for _, name := range slices.Sorted(maps.Keys(db.streams)) {
		add(name, false, db.streams[name])
	}
	index, data, err := db.Pool.write()
	if err != nil {
		return nil, err
	}
	add("_StringPool", true, compound.Bytes(index))
	add("_StringData", true, compound.Bytes(data))
	b, err := db.summary.Write()
	root.Children = append(root.Children, &compound.Node{Name: summaryStream, Content: compound.Bytes(b)})
	return root, err
}
