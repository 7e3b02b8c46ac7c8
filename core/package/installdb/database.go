// Package installdb reads and writes the installer database: tables of rows in
// the streams of a compound file, as packages (.msi), transforms (.mst) and
// patches (.msp) have them.
//
// The format has no public specification of its tables' encoding; what this
// package relies on is written down in docs/packages.md, and is checked against
// a real installer engine by the tests in realengine.
package installdb

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/package/compound"
)

// ErrDamaged says that the database breaks the format's rules.
var ErrDamaged = errors.New("damaged installer database")

// damaged is an error about the file itself, as against one in reading it.
func damaged(format string, args ...any) error {
	return fmt.Errorf("%w: %s", ErrDamaged, fmt.Sprintf(format, args...))
}

const (
	maxPool   = 512 << 20 // bytes of string data
	maxTable  = 512 << 20 // bytes of one table
	maxColumn = 255       // columns of a table
)

// Format is the kind of database file.
type Format string

// The formats, by the class ID of the root storage.
const (
	Package   Format = "package"
	Transform Format = "transform"
	Patch     Format = "patch"
	Unknown   Format = "database"
)

var formats = map[string]Format{
	"{000C1084-0000-0000-C000-000000000046}": Package,
	"{000C1082-0000-0000-C000-000000000046}": Transform,
	"{000C1086-0000-0000-C000-000000000046}": Patch,
}

// classOf is the class ID that a format's root storage has.
func classOf(f Format) compound.ClassID {
	low := map[Format]byte{Package: 0x84, Transform: 0x82, Patch: 0x86}[f]
	return compound.ClassID{low, 0x10, 0x0C, 0, 0, 0, 0, 0, 0xC0, 0, 0, 0, 0, 0, 0, 0x46}
}

// A Database is one package, transform or patch. Tables are read when they are
// asked for, and may be changed in memory; the file is never written.
type Database struct {
	Format Format      // package, patch or transform
	Pool   *StringPool // all strings of the tables

	file    *compound.File              // nil when it was made in memory
	storage *compound.Entry             // the one that holds this database
	schema  map[string][]Column         // columns by table
	tables  map[string]*Table           // read, or made
	streams map[string]compound.Content // added or replaced, by their plain names
	gone    map[string]bool             // streams taken away
	changed map[string]bool             // tables that differ from the file
	dropped map[string]bool             // tables taken away
	summary *Summary                    // nil before it is read or set
	changes map[string][]byte           // of a transform that is made: the records of each table
	byName  map[string]*compound.Entry  // streams by their stored names
	cells   map[string]int64            // of the tables that were read, by name
}

// Open reads the catalogue of a database in a file of size bytes.
func Open(r io.ReaderAt, size int64) (*Database, error) {
	f, err := compound.Open(r, size)
	if err != nil {
		return nil, err
	}
	return In(f)
}

// In is [Open] for a container that is open.
func In(f *compound.File) (*Database, error) { return openStorage(f, f.Root) }

// openStorage opens the database in a storage: the package itself, or a
// transform or package within a patch.
func openStorage(f *compound.File, s *compound.Entry) (*Database, error) {
	db := newDatabase()
	db.file, db.storage = f, s
	if known, ok := formats[s.Class.String()]; ok {
		db.Format = known
	}
	var index, data []byte
	var err error
	if e := db.entry("_StringPool", true); e != nil {
		if index, err = f.ReadAll(e, maxPool); err != nil {
			return nil, err
		}
	}
	if e := db.entry("_StringData", true); e != nil {
		if data, err = f.ReadAll(e, maxPool); err != nil {
			return nil, err
		}
	}
	// A transform may have no text at all.
	if index == nil {
		if db.Format == Unknown {
			return nil, fmt.Errorf("%w: it has no string pool", ErrNoDatabase)
		}
		index = make([]byte, 4)
	}
	if db.Pool, err = ReadPool(index, data); err != nil {
		return nil, err
	}
	if db.Format == Transform {
		return db, nil // its catalogue tables hold changes, not rows
	}
	return db, db.readSchema()
}

// ErrNoDatabase says that a compound file is no installer database.
var ErrNoDatabase = errors.New("not an installer database")

// newDatabase is one without tables.
func newDatabase() *Database {
	return &Database{
		Format: Unknown, schema: map[string][]Column{}, tables: map[string]*Table{}, streams: map[string]compound.Content{},
		gone: map[string]bool{}, changes: map[string][]byte{}, changed: map[string]bool{}, dropped: map[string]bool{},
	}
}

// New makes an empty database in memory.
func New(format Format, page int) *Database {
	db := newDatabase()
	db.Format, db.Pool, db.summary = format, newPool(page), &Summary{CodePage: page}
	return db
}

// entry finds the stream of a table, or another stream by its plain name.
func (db *Database) entry(name string, table bool) *compound.Entry {
	if db.storage == nil {
		return nil
	}
	if db.byName == nil {
		db.byName = make(map[string]*compound.Entry, len(db.storage.Children))
		for _, c := range db.storage.Children {
			if !c.Storage {
				db.byName[c.Name] = c
			}
		}
	}
	return db.byName[encodeName(name, table)]
}

// The two tables that describe the others.
var (
	tablesColumns  = []Column{{"Name", 0x2D40}}
	columnsColumns = []Column{{"Table", 0x2D40}, {"Number", 0x2502}, {"Name", 0x0D40}, {"Type", 0x0502}}
)

// readSchema reads which tables there are, and their columns in order.
func (db *Database) readSchema() error {
	names, err := db.readRows("_Tables", tablesColumns)
	if err != nil {
		return err
	}
	for _, r := range names {
		db.schema[r[0].Text] = nil
	}
	columns, err := db.readRows("_Columns", columnsColumns)
	if err != nil {
		return err
	}
	slices.SortStableFunc(columns, func(a, b Row) int { return int(a[1].Int) - int(b[1].Int) })
	for _, r := range columns {
		name := r[0].Text
		have, ok := db.schema[name]
		if !ok {
			continue // left over from a table that was dropped
		}
		if int(r[1].Int) != len(have)+1 || len(have) >= maxColumn {
			return damaged("table %s: column %q has number %d, not %d", name, r[2].Text, r[1].Int, len(have)+1)
		}
		db.schema[name] = append(have, Column{r[2].Text, uint16(r[3].Int)})
	}
	for name, columns := range db.schema {
		if len(columns) == 0 {
			delete(db.schema, name) // a table without columns holds nothing
		}
	}
	return nil
}

// CodePage is the Windows code page of the strings; 0 is the neutral one.
func (db *Database) CodePage() int { return db.Pool.page }

// Tables lists the names of all tables, sorted.
func (db *Database) Tables() []string {
	var names []string
	for name := range db.schema {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// Has says whether a table exists.
func (db *Database) Has(table string) bool { return db.schema[table] != nil }

// Columns are the columns of a table; nil when there is no such table.
func (db *Database) Columns(table string) []Column { return db.schema[table] }

// RowCount is the number of a table's rows, told without reading them.
func (db *Database) RowCount(table string) int {
	if t, ok := db.tables[table]; ok {
		return len(t.Rows)
	}
	e := db.entry(table, true)
	if e == nil {
		return 0
	}
	return int(e.Size() / int64(rowWidth(db.schema[table], db.Pool.refSize())))
}

// A Row is the cells of one row, in the order of the columns.
type Row []Value

// A Table is one table with all its rows.
type Table struct {
	Name    string   // as the package has it
	Columns []Column // in their order
	Rows    []Row    // in the order of the file
}

// Column gives the index of a column, or -1.
func (t *Table) Column(name string) int {
	return slices.IndexFunc(t.Columns, func(c Column) bool { return c.Name == name })
}

// Get gives a cell by its column's name; a column that the table lacks is NULL.
func (t *Table) Get(r Row, column string) Value {
	if i := t.Column(column); i >= 0 && i < len(r) {
		return r[i]
	}
	return Value{}
}

// Key is the row's primary key in one string, the parts with a tab between.
func (t *Table) Key(r Row) string {
	var parts []string
	for i, c := range t.Columns {
		if c.Key() {
			parts = append(parts, r[i].String())
		}
	}
	return strings.Join(parts, "\t")
}

// Find gives the index of the row with a key, or -1.
func (t *Table) Find(key string) int {
	return slices.IndexFunc(t.Rows, func(r Row) bool { return t.Key(r) == key })
}

// ErrNoTable says that the database lacks a table.
var ErrNoTable = errors.New("there is no such table")

// Table reads a table. The error wraps [ErrNoTable] or [ErrDamaged]. The rows
// belong to the database: change them through it.
func (db *Database) Table(name string) (*Table, error) {
	if t, ok := db.tables[name]; ok {
		return t, nil
	}
	columns, ok := db.schema[name]
	if !ok {
		switch c := db.newSchema(); name { // the two that describe the others, as they stand now
		case "_Tables":
			return c.tables, nil
		case "_Columns":
			return c.columns, nil
		}
		return nil, fmt.Errorf("%q: %w", name, ErrNoTable)
	}
	rows, err := db.readRows(name, columns)
	if err != nil {
		return nil, err
	}
	t := &Table{name, columns, rows}
	db.tables[name] = t
	return t, nil
}

// TableOrEmpty is Table, with no rows in place of a table that is missing.
func (db *Database) TableOrEmpty(name string) (*Table, error) {
	if !db.Has(name) {
		return &Table{Name: name}, nil
	}
	return db.Table(name)
}

// Stream opens a stream by its plain name, such as "Binary.Setup"; nil when
// there is none.
func (db *Database) Stream(name string) (compound.Content, error) {
	if c, ok := db.streams[name]; ok {
		return c, nil
	}
	if e := db.entry(name, false); e != nil && !db.gone[name] {
		return db.file.Stream(e)
	}
	return nil, nil
}

// A StreamInfo is the name and the size of one stream.
type StreamInfo struct {
	Name  string // plain, not as it is packed in the file
	Size  int64  // bytes
	Table bool   // it holds a table's rows
}

// Streams lists all streams, tables too.
func (db *Database) Streams() (list []StreamInfo) {
	if db.storage == nil {
		return nil
	}
	for _, c := range db.storage.Children {
		if !c.Storage {
			name, table := decodeName(c.Name)
			list = append(list, StreamInfo{name, c.Size(), table})
		}
	}
	return list
}

// Signed says whether a digital signature is in the file.
func (db *Database) Signed() bool {
	return db.storage != nil && (db.storage.Child("\x05DigitalSignature") != nil || db.storage.Child("\x05MsiDigitalSignatureEx") != nil)
}

// streamName is the plain name of the stream of a row's stream column.
func (t *Table) streamName(r Row) string {
	name := t.Name
	for i, c := range t.Columns {
		if c.Key() {
			part := r[i].Text
			if r[i].IsInt {
				part = strconv.Itoa(int(r[i].Int))
			}
			name += "." + part
		}
	}
	return name
}
