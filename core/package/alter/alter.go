// Package alter changes a package without touching the vendor's file: edits are
// checked against what refers to the rows, carried out in memory, and written
// as a transform or as an altered copy.
package alter

import (
	"crypto/rand"
	"encoding/csv"
	"fmt"
	"strings"

	"hollowkey/core/package/condition"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/references"
)

// An Edit is one wish: its kind, and TABLE,KEY… as the command line has it.
type Edit struct {
	Kind string `json:"kind"` // the option that asks for it, such as remove-row
	Text string `json:"text"` // the option's value
}

// Kinds of edits, with the shape of their text.
var Kinds = []struct{ Name, Shape, Help string }{
	{"remove-row", "TABLE,KEY", "remove the row with this key"},
	{"remove-table", "TABLE", "remove a table with all its rows"},
	{"add-row", "TABLE,CELL,…", "add a row (cells as CSV)"},
	{"set-cell", "TABLE,KEY,COLUMN,VALUE", "set one cell"},
	{"set-property", "NAME=VALUE", "set a property, or add it"},
	{"set-condition", "TABLE,KEY,CONDITION", "set the condition of a row"},
}

// A Done is what one edit did.
type Done struct {
	Edit
	Words    string           `json:"words"`              // what it does, in one sentence
	Before   []string         `json:"before,omitempty"`   // the row as it was; empty for a new one
	After    []string         `json:"after,omitempty"`    // the row as it is; empty for one that went
	Dangling []references.Use `json:"dangling,omitempty"` // what now refers to nothing
	Also     []string         `json:"also,omitempty"`     // what went with it
}

// Apply carries edits out on a database in memory. With follow, rows of
// sequences and other rows that would refer to a removed row go with it;
// without, such rows are an error.
func Apply(db *installdb.Database, edits []Edit, follow bool) ([]Done, error) {
	var all []Done
	for _, e := range edits {
		d, err := one(db, e, follow)
		if err != nil {
			return nil, fmt.Errorf("--%s %s: %w", e.Kind, e.Text, err)
		}
		all = append(all, d)
	}
	return all, nil
}

// one carries out one edit and tells what it did.
func one(db *installdb.Database, e Edit, follow bool) (Done, error) {
	d := Done{Edit: e}
	table, rest, _ := strings.Cut(e.Text, ",")
	var err error
	switch e.Kind {
	case "remove-row":
		err = removeRow(db, &d, table, rest, follow)
	case "remove-table":
		err = removeTable(db, &d, e.Text)
	case "add-row":
		err = addRow(db, &d, table, rest)
	case "set-cell":
		err = setCell(db, &d, table, rest)
	case "set-property":
		err = setProperty(db, &d, e.Text)
	case "set-condition":
		err = setCondition(db, &d, table, rest)
	default:
		err = fmt.Errorf("no such edit")
	}
	return d, err
}

// table reads a table, and names near ones when it is missing.
func table(db *installdb.Database, name string) (*installdb.Table, error) {
	t, err := db.Table(name)
	if err == nil {
		return t, nil
	}
	for _, n := range db.Tables() {
		if strings.EqualFold(n, name) {
			return nil, fmt.Errorf("%w\nhint: it is written %s", err, n)
		}
	}
	return nil, fmt.Errorf("%w\nhint: to list them: hollowkey package tables PACKAGE", err)
}

// find gives the row whose key, its parts joined by commas, begins rest; after
// is what follows.
func find(t *installdb.Table, rest string, whole bool) (at int, after string, err error) {
	at, longest := -1, -1
	for i, r := range t.Rows {
		key := strings.ReplaceAll(t.Key(r), "\t", ",")
		if whole && key == rest {
			return i, "", nil
		}
		if !whole && len(key) > longest && (strings.HasPrefix(rest, key+",") || rest == key) {
			at, longest = i, len(key)
			after = strings.TrimPrefix(rest[len(key):], ",")
		}
	}
	if at < 0 {
		return -1, "", fmt.Errorf("table %s has no row with the key %.120q\n"+
			"hint: keys of several columns are written with commas between; to see its rows: hollowkey package rows PACKAGE %s", t.Name, rest, t.Name)
	}
	return at, after, nil
}

// lines are a row for a preview.
func lines(t *installdb.Table, r installdb.Row) (out []string) {
	for _, c := range references.Cells(t, r) {
		out = append(out, c.Column+" = "+c.Value)
	}
	return out
}

// removeRow takes a row away. Rows that refer to it would be left hanging, so
// they are an error, unless they are to follow.
func removeRow(db *installdb.Database, d *Done, name, key string, follow bool) error {
	t, err := table(db, name)
	if err != nil {
		return err
	}
	at, _, err := find(t, key, true)
	if err != nil {
		return err
	}
	d.Words, d.Before = "remove "+references.Place{Table: name, Key: t.Key(t.Rows[at])}.String(), lines(t, t.Rows[at])
	graph, err := references.Read(db)
	if err != nil {
		return err
	}
	place := references.Place{Table: name, Key: t.Key(t.Rows[at])}
	dangling, err := graph.Dangling(place)
	if err != nil {
		return err
	}
	if len(dangling) > 0 && !follow {
		return fmt.Errorf("other rows refer to it: %s\nhint: remove those first, or give --along to remove them along with it",
			references.Describe(dangling))
	}
	if err := db.DeleteRow(name, at); err != nil {
		return err
	}
	return removeUsers(db, d, dangling, 0)
}

const maxFollow = 20 // references one behind another

// removeUsers removes the rows that referred to a removed one, and in turn what
// refers to those.
func removeUsers(db *installdb.Database, d *Done, users []references.Use, depth int) error {
	if depth > maxFollow {
		return fmt.Errorf("more than %d references lie one behind another", maxFollow)
	}
	for _, u := range users {
		t, err := db.Table(u.Table)
		if err != nil {
			return err
		}
		at := t.Find(u.Key)
		if at < 0 {
			continue
		}
		graph, err := references.Read(db)
		if err != nil {
			return err
		}
		next, err := graph.Dangling(u.Place)
		if err != nil {
			return err
		}
		d.Also = append(d.Also, "remove "+u.Place.String())
		if err := db.DeleteRow(u.Table, at); err != nil {
			return err
		}
		if err := removeUsers(db, d, next, depth+1); err != nil {
			return err
		}
	}
	return nil
}

const maxShown = 20 // rows of a removed table that a preview shows

// removeTable takes a table with its rows; what refers to one of them is told.
func removeTable(db *installdb.Database, d *Done, name string) error {
	t, err := table(db, name)
	if err != nil {
		return err
	}
	d.Words = fmt.Sprintf("remove the table %s with %d rows", name, len(t.Rows))
	graph, err := references.Read(db)
	if err != nil {
		return err
	}
	for _, r := range t.Rows {
		uses, err := graph.Dangling(references.Place{Table: name, Key: t.Key(r)})
		if err != nil {
			return err
		}
		for _, u := range uses {
			if u.Table != name {
				d.Dangling = append(d.Dangling, u)
			}
		}
		if len(d.Before) < maxShown {
			d.Before = append(d.Before, strings.Join(lines(t, r), "; "))
		}
	}
	if n := len(t.Rows) - maxShown; n > 0 {
		d.Before = append(d.Before, fmt.Sprintf("… and %d rows more", n))
	}
	return db.DropTable(name)
}

// addRow reads a row as CSV, in the order of the columns.
func addRow(db *installdb.Database, d *Done, name, cells string) error {
	r := csv.NewReader(strings.NewReader(cells))
	r.LazyQuotes = true
	fields, err := r.Read()
	if err != nil {
		return fmt.Errorf("the cells are not CSV: %w", err)
	}
	if !db.Has(name) {
		columns := installdb.StandardColumns(name)
		if columns == nil {
			return fmt.Errorf("the package has no table %s, and it is none of the engine's own", name)
		}
		if err := db.AddTable(name, columns); err != nil {
			return err
		}
		d.Also = append(d.Also, "add the table "+name)
	}
	t, err := db.Table(name)
	if err != nil {
		return err
	}
	if len(fields) > len(t.Columns) {
		return fmt.Errorf("table %s has %d columns, %d cells were given", name, len(t.Columns), len(fields))
	}
	row := make(installdb.Row, len(t.Columns))
	for i, c := range t.Columns {
		text := ""
		if i < len(fields) {
			text = fields[i]
		}
		if row[i], err = c.ParseValue(text); err != nil {
			return err
		}
		if c.Name == "Condition" {
			if _, err := condition.Parse(text); err != nil {
				return err
			}
		}
	}
	d.Words, d.After = "add "+references.Place{Table: name, Key: t.Key(row)}.String(), lines(t, row)
	return db.AddRow(name, row)
}

// setCell finds a row by its key and sets one of its columns.
func setCell(db *installdb.Database, d *Done, name, rest string) error {
	t, err := table(db, name)
	if err != nil {
		return err
	}
	at, after, err := find(t, rest, false)
	if err != nil {
		return err
	}
	column, text, ok := strings.Cut(after, ",")
	if !ok {
		return fmt.Errorf("behind the key there must be a column and a value\nhint: --set-cell TABLE,KEY,COLUMN,VALUE")
	}
	return set(db, d, t, at, column, text)
}

// set puts a value into a cell, checked against the column's type and length.
func set(db *installdb.Database, d *Done, t *installdb.Table, at int, column, text string) error {
	k := t.Column(column)
	if k < 0 {
		return fmt.Errorf("table %s has no column %q", t.Name, column)
	}
	v, err := t.Columns[k].ParseValue(text)
	if err != nil {
		return err
	}
	if column == "Condition" {
		if _, err := condition.Parse(text); err != nil {
			return err
		}
	}
	was := t.Rows[at][k].String()
	d.Words = fmt.Sprintf("set %s of %s", column, references.Place{Table: t.Name, Key: t.Key(t.Rows[at])})
	if t.Columns[k].Key() { // the key is what names the row: another row takes its place
		row := append(installdb.Row(nil), t.Rows[at]...)
		row[k] = v
		if err := db.DeleteRow(t.Name, at); err != nil {
			return err
		}
		err = db.AddRow(t.Name, row)
	} else {
		err = db.SetCell(t.Name, at, column, v)
	}
	d.Before, d.After = []string{column + " = " + was}, []string{column + " = " + text}
	return err
}

// setProperty sets a property. In the table an empty one cannot stand: the
// engine refuses such a package.
func setProperty(db *installdb.Database, d *Done, text string) error {
	name, value, ok := strings.Cut(text, "=")
	if !ok || name == "" {
		return fmt.Errorf("a property is written NAME=VALUE")
	}
	if value == "" {
		return fmt.Errorf("a property in the table cannot be empty\nhint: --remove-row Property,%s unsets it", name)
	}
	if !db.Has("Property") {
		return addRow(db, d, "Property", csvCell(name)+","+csvCell(value))
	}
	t, err := db.Table("Property")
	if err != nil {
		return err
	}
	if at := t.Find(name); at >= 0 {
		return set(db, d, t, at, "Value", value)
	}
	return addRow(db, d, "Property", csvCell(name)+","+csvCell(value))
}

// csvCell writes a cell so that it reads back as it is.
func csvCell(s string) string { return `"` + strings.ReplaceAll(s, `"`, `""`) + `"` }

// setCondition sets the condition of a row by its key; an empty one takes it
// away, so that the row always counts.
func setCondition(db *installdb.Database, d *Done, name, rest string) error {
	t, err := table(db, name)
	if err != nil {
		return err
	}
	if t.Column("Condition") < 0 {
		return fmt.Errorf("table %s has no conditions", name)
	}
	at, text, err := find(t, rest, false)
	if err != nil {
		return err
	}
	if name == "LaunchCondition" && text == "" {
		return fmt.Errorf("a launch condition cannot be empty\nhint: --remove-row takes it away")
	}
	return set(db, d, t, at, "Condition", text)
}

// newCode makes a package code.
func newCode() string {
	b := make([]byte, 16)
	rand.Read(b)
	return codeOf(b)
}

// codeOf writes 16 bytes as a code of the random kind.
func codeOf(b []byte) string {
	b[6], b[8] = b[6]&0x0F|0x40, b[8]&0x3F|0x80
	return strings.ToUpper(fmt.Sprintf("{%x-%x-%x-%x-%x}", b[:4], b[4:6], b[6:8], b[8:10], b[10:]))
}
