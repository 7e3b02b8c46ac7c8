// Package references knows which rows of a package's tables refer to which
// others, finds text in all of them, and chooses rows by a filter.
package references

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/package/condition"
	"hollowkey/core/package/installdb"
)

// A Link says that the cells of a column name rows of a table.
type Link struct {
	Table  string `json:"table"`  // whose column it is
	Column string `json:"column"` // that refers
	To     string `json:"to"`     // the table whose key it holds
}

// A Place is one row of one table.
type Place struct {
	Table string `json:"table"` // which one
	Key   string `json:"key"`   // parts of the key with tabs between
}

// String names the row by its table and key; a key of several columns has
// commas.
func (p Place) String() string { return p.Table + " " + strings.ReplaceAll(p.Key, "\t", ", ") }

// A Use is a row that refers to another, and the column that does.
type Use struct {
	Place
	Column string `json:"column"` // through which it refers
}

// special are links that a column's name does not tell.
// Source: the platform SDK's installer documentation, "Database Tables".
var special = []Link{
	{"Directory", "Directory_Parent", "Directory"}, {"Feature", "Feature_Parent", "Feature"}, {"Component", "KeyPath", "File"},
	{"Component", "KeyPath", "Registry"}, {"InstallExecuteSequence", "Action", "CustomAction"},
	{"InstallUISequence", "Action", "CustomAction"},
	{"AdminExecuteSequence", "Action", "CustomAction"}, {"AdminUISequence", "Action", "CustomAction"},
	{"AdvtExecuteSequence", "Action", "CustomAction"},
	{"InstallUISequence", "Action", "Dialog"}, {"AdminUISequence", "Action", "Dialog"}, {"DrLocator", "Parent", "RegLocator"},
	{"DrLocator", "Parent", "DrLocator"}, {"ControlEvent", "Argument", "CustomAction"}, {"ControlEvent", "Argument", "Dialog"},
	{"Shortcut", "Target", "Feature"}, {"IniFile", "DirProperty", "Directory"}, {"RemoveFile", "DirProperty", "Directory"},
	{"Shortcut", "WkDir", "Directory"}, {"Upgrade", "ActionProperty", "Property"}, {"AppSearch", "Property", "Property"},
	{"DuplicateFile", "DestFolder", "Directory"}, {"MoveFile", "DestFolder", "Directory"}, {"MoveFile", "SourceFolder", "Directory"},
	{"AppSearch", "Signature_", "RegLocator"}, {"AppSearch", "Signature_", "IniLocator"}, {"AppSearch", "Signature_", "DrLocator"},
	{"AppSearch", "Signature_", "CompLocator"}, {"LockPermissions", "LockObject", "File"}, {"LockPermissions", "LockObject", "Registry"},
}

// customSources are the tables that CustomAction.Source names, by base type.
var customSources = map[int]string{
	1: "Binary", 2: "Binary", 5: "Binary", 6: "Binary", 17: "File", 18: "File", 21: "File", 22: "File",
	34: "Directory", 35: "Directory", 50: "Property", 51: "Property", 53: "Property", 54: "Property",
}

// A Graph is the references of one package.
type Graph struct {
	db    *installdb.Database // the package
	links []Link              // all of its columns that refer to something
	users map[Place][]Use     // made at the first question
}

// Read works out which columns of a package refer to which tables: those with
// an underscore at the end name their table, the package's _Validation table
// tells more, and so do the engine's own tables.
func Read(db *installdb.Database) (*Graph, error) {
	g := &Graph{db: db}
	add := func(l Link) {
		if db.Has(l.Table) && db.Has(l.To) && !slices.Contains(g.links, l) &&
			slices.ContainsFunc(db.Columns(l.Table), func(c installdb.Column) bool { return c.Name == l.Column }) {
			g.links = append(g.links, l)
		}
	}
	for _, name := range db.Tables() {
		for _, c := range db.Columns(name) {
			if to, ok := strings.CutSuffix(c.Name, "_"); ok {
				add(Link{name, c.Name, to})
			}
		}
	}
	for _, l := range special {
		add(l)
	}
	v, err := db.TableOrEmpty("_Validation")
	if err != nil {
		return nil, err
	}
	for _, r := range v.Rows {
		for to := range strings.SplitSeq(v.Get(r, "KeyTable").Text, ";") {
			if n := v.Get(r, "KeyColumn"); to != "" && n.Int <= 1 {
				add(Link{v.Get(r, "Table").Text, v.Get(r, "Column").Text, to})
			}
		}
	}
	return g, nil
}

// Users lists the rows that refer to a row.
func (g *Graph) Users(of Place) ([]Use, error) {
	if g.users == nil {
		if err := g.index(); err != nil {
			return nil, err
		}
	}
	return g.users[of], nil
}

// index notes for every row who refers to it, once for all questions.
func (g *Graph) index() error {
	g.users = map[Place][]Use{}
	for _, name := range g.db.Tables() {
		t, err := g.db.Table(name)
		if err != nil {
			return err
		}
		for _, r := range t.Rows {
			at := Place{name, t.Key(r)}
			for _, to := range g.from(t, r) {
				if to.Place != at {
					g.users[to.Place] = addOnce(g.users[to.Place], Use{at, to.Column})
				}
			}
		}
	}
	return nil
}

// addOnce adds a use unless it is there; those of one row stand together at the
// end, so very many need no search.
func addOnce(list []Use, u Use) []Use {
	for _, have := range slices.Backward(list) {
		if have == u {
			return list
		}
		if have.Place != u.Place {
			break
		}
	}
	return append(list, u)
}

// From lists what a row refers to, and through which of its columns.
func (g *Graph) From(t *installdb.Table, r installdb.Row) (list []Use) {
	for _, u := range g.from(t, r) {
		other, err := g.db.TableOrEmpty(u.Table)
		if err == nil && other.Find(u.Key) >= 0 && !slices.Contains(list, u) {
			list = append(list, u)
		}
	}
	return list
}

// from lists the rows that a row names, whether they are there or not.
func (g *Graph) from(t *installdb.Table, r installdb.Row) (list []Use) {
	add := func(table, key, column string) {
		if key != "" && (table != t.Name || key != t.Key(r)) {
			list = append(list, Use{Place{table, key}, column})
		}
	}
	for _, l := range g.links {
		if l.Table == t.Name {
			add(l.To, t.Get(r, l.Column).String(), l.Column)
		}
	}
	if t.Name == "CustomAction" {
		add(customSources[int(t.Get(r, "Type").Int)&0x3F], t.Get(r, "Source").Text, "Source")
	}
	for i, c := range t.Columns {
		if c.Kind() != installdb.Text || i >= len(r) || r[i].Null() {
			continue
		}
		for _, p := range properties(c.Name, r[i].Text) {
			add("Property", p, c.Name)
		}
	}
	return list
}

// properties lists the properties that a cell mentions: in a condition, or in
// brackets in a text.
func properties(column, text string) (names []string) {
	if column == "Condition" {
		e, err := condition.Parse(text)
		if err != nil {
			return nil
		}
		for _, s := range condition.Symbols(e) {
			if s.Kind == condition.Property {
				names = append(names, s.Name)
			}
		}
		return names
	}
	for {
		_, rest, ok := strings.Cut(text, "[")
		if !ok {
			return names
		}
		name, after, ok := strings.Cut(rest, "]")
		if !ok {
			return names
		}
		if name != "" && !strings.ContainsAny(name, `%#$!~\[ `) {
			names = append(names, name)
		}
		text = after
	}
}

// Dangling lists what would refer to nothing once a row is gone. Mentions in
// texts do not count, and neither do rows of the same key elsewhere. An error
// means that a table cannot be read.
func (g *Graph) Dangling(of Place) ([]Use, error) {
	users, err := g.Users(of)
	if err != nil {
		return nil, err
	}
	var list []Use
	for _, u := range users {
		if of.Table == "Property" && u.Column != "Source" {
			continue // an unset property is empty, which is allowed
		}
		elsewhere := false
		for _, l := range g.links {
			if l.Table == u.Table && l.Column == u.Column && l.To != of.Table {
				if t, err := g.db.Table(l.To); err == nil && t.Find(of.Key) >= 0 {
					elsewhere = true
				}
			}
		}
		if !elsewhere {
			list = append(list, u)
		}
	}
	return list, nil
}

// Describe lists rows in words, for a message.
func Describe(uses []Use) string {
	var parts []string
	for i, u := range uses {
		if i == 4 {
			parts = append(parts, fmt.Sprintf("and %d more", len(uses)-i))
			break
		}
		parts = append(parts, u.Place.String())
	}
	return strings.Join(parts, "; ")
}
