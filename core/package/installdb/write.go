// This file writes a database.

package installdb

import (
	"fmt"
	"maps"
	"os"
	"slices"

	"hollowkey/core/package/compound"
)

// Write writes the database with all its changes to out. Streams and tables
// that did not change are copied as they are; a digital signature, which would
// no longer hold, is left out.
func (db *Database) Write(out *os.File) error {
	lay := db.nodes
	if db.Format == Transform && db.file == nil {
		lay = db.transformNodes
	}
	root, err := lay()
	if err != nil {
		return err
	}
	version := 3
	if db.file != nil {
		version = db.file.Version()
	}
	return compound.Write(out, root, version)
}

// nodes lays the database out as a storage.
func (db *Database) nodes() (*compound.Node, error) {
	root := &compound.Node{Class: classOf(db.Format)}
	if db.storage != nil {
		var err error
		if root, err = db.file.Copy(db.storage); err != nil {
			return nil, err
		}
	}
	put := func(stored string, c compound.Content) {
		root.Children = slices.DeleteFunc(root.Children, func(n *compound.Node) bool { return n.Name == stored })
		if c != nil {
			root.Children = append(root.Children, &compound.Node{Name: stored, Content: c})
		}
	}
	// A signature over other bytes is none.
	put("\x05DigitalSignature", nil)
	put("\x05MsiDigitalSignatureEx", nil)
	for name := range db.gone {
		put(encodeName(name, false), nil)
	}
	for name, c := range db.streams {
		put(encodeName(name, false), c)
	}
	if db.summary != nil {
		b, err := db.summary.Write()
		if err != nil {
			return nil, err
		}
		put(summaryStream, compound.Bytes(b))
	}
	return root, db.putTables(put)
}

// putTables writes the string pool and the tables that changed. The strings
// keep their references, so that all other tables stay as they are.
func (db *Database) putTables(put func(string, compound.Content)) error {
	if len(db.changed) == 0 && len(db.dropped) == 0 && db.file != nil {
		return nil
	}
	schema := db.newSchema()
	before, err := db.oldRows(schema)
	if err != nil {
		return err
	}
	// Texts are counted: what the old rows used is given back before the new
	// ones take theirs.
	for _, t := range before {
		db.Pool.releaseRows(t)
	}
	after := []*Table{schema.tables, schema.columns}
	for _, name := range slices.Sorted(maps.Keys(db.changed)) {
		after = append(after, db.tables[name])
	}
	for _, t := range after {
		if err := db.Pool.useRows(t); err != nil {
			return fmt.Errorf("table %s: %w", t.Name, err)
		}
	}
	if db.Pool.Len() > shortLimit && !db.Pool.long { // every reference grows, in every table
		for _, name := range db.Tables() {
			if !db.changed[name] {
				t, err := db.Table(name)
				if err != nil {
					return err
				}
				after = append(after, t)
			}
		}
		db.Pool.long = true
	}
	for name := range db.dropped {
		put(encodeName(name, true), nil)
	}
	for _, t := range after {
		b, err := db.Pool.encodeRows(t.Columns, t.Rows)
		if err != nil {
			return fmt.Errorf("table %s: %w", t.Name, err)
		}
		if len(b) == 0 {
			put(encodeName(t.Name, true), nil)
			continue
		}
		put(encodeName(t.Name, true), compound.Bytes(b))
	}
	index, data, err := db.Pool.write()
	if err != nil {
		return err
	}
	put(encodeName("_StringPool", true), compound.Bytes(index))
	put(encodeName("_StringData", true), compound.Bytes(data))
	return nil
}

// A catalogue is the pair of tables that describe the others.
type catalogue struct{ tables, columns *Table } // as the file keeps them: names, and their columns

// newSchema builds the two system tables out of the tables that there are.
func (db *Database) newSchema() catalogue {
	c := catalogue{&Table{Name: "_Tables", Columns: tablesColumns}, &Table{Name: "_Columns", Columns: columnsColumns}}
	for _, name := range db.Tables() {
		c.tables.Rows = append(c.tables.Rows, Row{TextValue(name)})
		c.columns.Rows = append(c.columns.Rows, columnRows(name, db.schema[name], 0)...)
	}
	return c
}

// columnRows are the rows of _Columns for a table's columns from number from
// on.
func columnRows(table string, columns []Column, from int) (rows []Row) {
	for i, col := range columns[from:] {
		rows = append(rows, Row{TextValue(table), IntValue(int32(from + i + 1)), TextValue(col.Name), IntValue(int32(int16(col.Type)))})
	}
	return rows
}

// oldRows are the file's rows of the tables that are written anew: their
// strings are used no more.
func (db *Database) oldRows(c catalogue) (list []*Table, err error) {
	if db.file == nil {
		return nil, nil
	}
	// The counts are those of the file as it is, so the old rows are read from
	// it again.
	original := newDatabase()
	original.file, original.storage, original.Pool = db.file, db.storage, db.Pool
	if err := original.readSchema(); err != nil {
		return nil, err
	}
	add := func(name string, columns []Column) error {
		rows, err := original.readRows(name, columns)
		list = append(list, &Table{name, columns, rows})
		return err
	}
	if err := add("_Tables", c.tables.Columns); err != nil {
		return nil, err
	}
	if err := add("_Columns", c.columns.Columns); err != nil {
		return nil, err
	}
	names := slices.Concat(slices.Collect(maps.Keys(db.changed)), slices.Collect(maps.Keys(db.dropped)))
	slices.Sort(names)
	for _, name := range names {
		if original.Has(name) {
			if err := add(name, original.schema[name]); err != nil {
				return nil, err
			}
		}
	}
	return list, nil
}

// releaseRows counts a table's strings down in the pool; those that nobody uses
// any more leave their places free.
func (p *StringPool) releaseRows(t *Table) {
	for k, c := range t.Columns {
		if c.Kind() != Text {
			continue
		}
		for _, r := range t.Rows {
			if ref, ok := p.Find(r[k].Text); ok {
				p.release(ref)
			}
		}
	}
}

// useRows counts them up, and says which value does not fit into the pool.
func (p *StringPool) useRows(t *Table) error {
	for k, c := range t.Columns {
		if c.Kind() != Text {
			continue
		}
		for i, r := range t.Rows {
			if _, err := p.use(r[k].Text); err != nil {
				return fmt.Errorf("row %d, column %s: %w", i+1, c.Name, err)
			}
		}
	}
	return nil
}
