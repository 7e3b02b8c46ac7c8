// This file knows the engine's own tables.

package installdb

import (
	_ "embed"
	"fmt"
	"strings"
	"sync"

	"hollowkey/core/package/compound"
)

//go:embed standard.txt
var standardText string

// standardTables are the tables of the engine's own schema.
var standardTables = sync.OnceValue(func() map[string][]Column {
	tables := map[string][]Column{}
	for line := range strings.Lines(standardText) {
		f := strings.Fields(line)
		if len(f) == 0 || f[0] == "#" {
			continue
		}
		for i := 1; i+1 < len(f); i += 2 {
			c, err := ParseShape(f[i], f[i+1])
			if err != nil {
				panic(err) // our own file; a test reads it
			}
			tables[f[0]] = append(tables[f[0]], c)
		}
	}
	return tables
})

// StandardColumns are the columns that a table of the engine's own schema has;
// nil for another.
func StandardColumns(table string) []Column { return standardTables()[table] }

// Insert adds a row whose cells are string, int, []byte, [compound.Content] or
// nil; cells left out at the end are NULL. A table of the engine's own schema
// that is missing is added first.
func (db *Database) Insert(table string, cells ...any) error {
	if !db.Has(table) {
		columns := StandardColumns(table)
		if columns == nil {
			return fmt.Errorf("%q: %w", table, ErrNoTable)
		}
		if err := db.AddTable(table, columns); err != nil {
			return err
		}
	}
	r := make(Row, len(db.schema[table]))
	if len(cells) > len(r) {
		return fmt.Errorf("table %s has %d columns, %d cells were given", table, len(r), len(cells))
	}
	for i, c := range cells {
		switch v := c.(type) {
		case nil:
		case string:
			r[i] = TextValue(v)
		case int:
			r[i] = IntValue(int32(v))
		case []byte:
			r[i] = Value{Stream: compound.Bytes(v)}
		case compound.Content:
			r[i] = Value{Stream: v}
		default:
			return fmt.Errorf("table %s: a cell cannot be %T", table, c)
		}
	}
	return db.AddRow(table, r)
}

// SetSummary sets the summary information.
func (db *Database) SetSummary(s *Summary) { db.summary = s }

// AddStream adds a stream of its own, such as a cabinet.
func (db *Database) AddStream(name string, b []byte) { db.AddContent(name, compound.Bytes(b)) }

// AddContent is AddStream for contents that are read when they are written.
func (db *Database) AddContent(name string, c compound.Content) { db.streams[name] = c }

// Properties are the names and values of the Property table; a package without
// one has none.
func (db *Database) Properties() (map[string]string, error) {
	t, err := db.TableOrEmpty("Property")
	if err != nil {
		return nil, err
	}
	all := make(map[string]string, len(t.Rows))
	for _, r := range t.Rows {
		all[t.Get(r, "Property").Text] = t.Get(r, "Value").Text
	}
	return all, nil
}
