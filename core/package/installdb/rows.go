// This file reads the rows of tables, with a limit for what a file may claim.

package installdb

import (
	"encoding/binary"
	"fmt"
	"slices"
)

// Rows stand column by column: first all cells of the first column, then those
// of the second. Integers are stored with their sign bit turned, so that 0 is
// NULL. Source: docs/packages.md, "Rows".

// The sign bits of two- and four-byte cells.
const (
	turnShort = 0x8000
	turnLong  = 0x80000000
)

// rowWidth is how many bytes a row takes; a table without columns must not
// divide by zero.
func rowWidth(columns []Column, refSize int) (n int) {
	for _, c := range columns {
		n += c.width(refSize)
	}
	return max(n, 1)
}

// readRows reads the stream of a table; a table without one has no rows.
func (db *Database) readRows(name string, columns []Column) ([]Row, error) {
	e := db.entry(name, true)
	if e == nil {
		return nil, nil
	}
	refSize := db.Pool.refSize()
	width := rowWidth(columns, refSize)
	// Before anything is allocated: a file may claim more cells than there is
	// memory.
	if err := db.afford(name, e.Size()/int64(width)*int64(len(columns))); err != nil {
		return nil, err
	}
	raw, err := db.file.ReadAll(e, maxTable)
	if err != nil {
		return nil, fmt.Errorf("table %s: %w", name, err)
	}
	n := len(raw) / width
	cells := make([]Value, n*len(columns))
	rows := make([]Row, n)
	for i := range rows {
		rows[i] = Row(cells[i*len(columns) : (i+1)*len(columns) : (i+1)*len(columns)])
	}
	// A table is stored column by column.
	at := 0
	for k, c := range columns {
		for i := range rows {
			v, err := db.Pool.cell(raw[at:], c)
			if err != nil {
				return nil, fmt.Errorf("table %s, row %d, column %s: %w", name, i+1, c.Name, err)
			}
			rows[i][k] = v
			at += c.width(refSize)
		}
	}
	return rows, db.bindStreams(&Table{name, columns, rows})
}

// maxCells is how many cells the tables of a database may have together: some
// 450 MB of memory. The largest packages that are made have a tenth of it; a
// stranger's may let twenty tables stand on the same bytes.
const maxCells = 8 << 20

// afford counts the cells of a table, once.
func (db *Database) afford(name string, cells int64) error {
	if db.cells == nil {
		db.cells = map[string]int64{}
	}
	total := cells
	for other, n := range db.cells {
		if other != name {
			total += n
		}
	}
	if total > maxCells {
		return fmt.Errorf("table %s: with it the tables have %d cells, more than the %d that are read", name, total, maxCells)
	}
	db.cells[name] = cells
	return nil
}

// bindStreams gives the cells of stream columns their streams. Very many rows
// share one look at the directory.
func (db *Database) bindStreams(t *Table) error {
	k := slices.IndexFunc(t.Columns, func(c Column) bool { return c.Kind() == Binary })
	if k < 0 {
		return nil
	}
	for _, r := range t.Rows {
		if !r[k].IsInt {
			continue
		}
		s, err := db.lazyStream(t.streamName(r))
		if err != nil {
			return err
		}
		r[k] = s
	}
	return nil
}

// cell reads one cell from the beginning of b. A cell of a stream column that
// holds something comes as the integer 1.
func (p *StringPool) cell(b []byte, c Column) (Value, error) {
	switch c.Kind() {
	case Short:
		if n := binary.LittleEndian.Uint16(b); n != 0 {
			return IntValue(int32(int16(n ^ turnShort))), nil
		}
	case Long:
		if n := binary.LittleEndian.Uint32(b); n != 0 {
			return IntValue(int32(n ^ turnLong)), nil
		}
	case Binary:
		if binary.LittleEndian.Uint16(b) != 0 {
			return IntValue(1), nil
		}
	default:
		ref := uint32(binary.LittleEndian.Uint16(b))
		if p.long {
			ref |= uint32(b[2]) << 16
		}
		t, err := p.At(ref)
		return TextValue(t), err
	}
	return Value{}, nil
}

// putCell appends one cell; ref is its text's reference.
func (p *StringPool) putCell(b []byte, c Column, v Value, ref uint32) []byte {
	switch c.Kind() {
	case Short:
		if !v.IsInt {
			return append(b, 0, 0)
		}
		return binary.LittleEndian.AppendUint16(b, uint16(v.Int)^turnShort)
	case Long:
		if !v.IsInt {
			return append(b, 0, 0, 0, 0)
		}
		return binary.LittleEndian.AppendUint32(b, uint32(v.Int)^turnLong)
	case Binary:
		if v.Stream == nil {
			return append(b, 0, 0)
		}
		return append(b, 1, 0)
	}
	b = binary.LittleEndian.AppendUint16(b, uint16(ref))
	if p.long {
		b = append(b, byte(ref>>16))
	}
	return b
}

// encodeRows writes the rows of a table column by column. Every text must be in
// the pool. Rows are sorted by what their key cells are stored as, which is the
// order that the engine searches in.
func (p *StringPool) encodeRows(columns []Column, rows []Row) ([]byte, error) {
	type stored struct {
		row  Row      // its cells
		refs []uint32 // strings that it uses, for their counts
		key  []uint32 // cells of the key as they are kept
	}
	list := make([]stored, len(rows))
	for i, r := range rows {
		s := stored{row: r, refs: make([]uint32, len(columns))}
		for k, c := range columns {
			if c.Kind() == Text {
				ref, ok := p.Find(r[k].Text)
				if !ok {
					return nil, fmt.Errorf("the text %.40q is not in the string pool", r[k].Text)
				}
				s.refs[k] = ref
			}
			if c.Key() {
				key := s.refs[k]
				switch c.Kind() {
				case Short:
					key = uint32(uint16(r[k].Int) ^ turnShort)
				case Long:
					key = uint32(r[k].Int) ^ turnLong
				}
				s.key = append(s.key, key)
			}
		}
		list[i] = s
	}
	slices.SortStableFunc(list, func(a, b stored) int { return slices.Compare(a.key, b.key) })
	var out []byte
	for k, c := range columns {
		for _, s := range list {
			out = p.putCell(out, c, s.row[k], s.refs[k])
		}
	}
	return out, nil
}
