// This file resolves the Directory table: the one place where that is done.

package installdb

import "strings"

// Directories is a package's Directory table as a tree.
type Directories struct {
	rows  map[string]Directory // by key
	order []string             // keys as the table has them
}

// A Directory is one row of the table: its name in the target and in the
// source, empty where it stands for the one above it. Source: the platform SDK,
// "Directory Table".
type Directory struct {
	Key, Parent    string // a root's parent is empty
	Target, Source string // long names
}

// maxDirectories is how many rows may stand between one and its root: paths end
// at 32,767 characters, and the names of real trees are longer than two.
const maxDirectories = 1000

// Directories reads the Directory table; a package without one has none.
func (db *Database) Directories() (*Directories, error) {
	t, err := db.TableOrEmpty("Directory")
	if err != nil {
		return nil, err
	}
	d := &Directories{rows: map[string]Directory{}}
	for _, r := range t.Rows {
		key, parent := t.Get(r, "Directory").Text, t.Get(r, "Directory_Parent").Text
		if parent == key {
			parent = ""
		}
		target, source, apart := strings.Cut(t.Get(r, "DefaultDir").Text, ":")
		if !apart {
			source = target
		}
		if _, ok := d.rows[key]; !ok {
			d.order = append(d.order, key)
		}
		d.rows[key] = Directory{key, parent, ownName(target), ownName(source)}
	}
	return d, nil
}

// ownName is the long name, or nothing for ".".
func ownName(name string) string {
	if name = LongName(name); name == "." {
		return ""
	}
	return name
}

// LongName is the long one of "short|long", or the only one.
func LongName(name string) string {
	if _, long, ok := strings.Cut(name, "|"); ok {
		return long
	}
	return name
}

// Keys are the keys of all rows in their order.
func (d *Directories) Keys() []string { return d.order }

// Has says whether the table has a row of that key.
func (d *Directories) Has(key string) bool { _, ok := d.rows[key]; return ok }

// Up are the rows from one to its root, the row itself first. A chain that
// names a row that is missing ends with that key alone, for a property may hold
// its path all the same; whole is false then. A circle has no rows.
func (d *Directories) Up(key string) (chain []Directory, whole bool) {
	for len(chain) < maxDirectories {
		row, ok := d.rows[key]
		if !ok {
			return append(chain, Directory{Key: key}), false
		}
		if chain = append(chain, row); row.Parent == "" {
			return chain, true
		}
		key = row.Parent
	}
	return nil, false // a circle
}

// Resolve gives the path of a directory, with a backslash at its end: that of
// the nearest directory above whose path is known, and the names below it. ok
// is false when nothing above it is known.
func (d *Directories) Resolve(key string, known func(key string) (path string, ok bool)) (path string, ok bool) {
	chain, _ := d.Up(key)
	below := ""
	for _, dir := range chain {
		if path, ok := known(dir.Key); ok && path != "" {
			return strings.TrimRight(path, `\`) + `\` + below, true
		}
		if dir.Target != "" {
			below = dir.Target + `\` + below
		}
	}
	return "", false
}
