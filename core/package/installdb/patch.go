// This file reads what a patch says of itself.

package installdb

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"hollowkey/core/package/compound"
)

// sortedKeys are a map's keys in their order.
func sortedKeys[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }

// A PatchInfo is what a patch says of itself in its summary information and
// its storages.
type PatchInfo struct {
	Code       string   // the patch code
	Obsoletes  []string // patch codes that it replaces
	Targets    []string // product codes that it is for
	Transforms []string // names of its transforms, in their order; those that begin with # only arrange the media
	Sources    []string // names of the sources that it looks for
}

// PatchInfo reads the summary information of a patch.
// Source: the platform SDK, "Summary Property Descriptions".
func (db *Database) PatchInfo() (PatchInfo, error) {
	s, err := db.Summary()
	if err != nil {
		return PatchInfo{}, err
	}
	var p PatchInfo
	for i, code := range codes(s.Text(SummaryRevision)) {
		if i == 0 {
			p.Code = code
		} else {
			p.Obsoletes = append(p.Obsoletes, code)
		}
	}
	p.Targets = codes(s.Text(SummaryTemplate))
	split := func(t string) []string {
		return strings.FieldsFunc(t, func(r rune) bool { return r == ';' })
	}
	for _, t := range split(s.Text(SummaryLastAuthor)) {
		p.Transforms = append(p.Transforms, strings.TrimPrefix(t, ":"))
	}
	p.Sources = split(s.Text(SummaryKeywords))
	return p, nil
}

// codes takes the {…} codes out of a text.
func codes(t string) (list []string) {
	for {
		_, rest, ok := strings.Cut(t, "{")
		if !ok {
			return list
		}
		code, after, ok := strings.Cut(rest, "}")
		if !ok {
			return list
		}
		list = append(list, "{"+strings.ToUpper(code)+"}")
		t = after
	}
}

// Storages lists the storages in the file: the transforms of a patch, or those
// embedded in a package.
func (db *Database) Storages() (names []string) {
	if db.storage == nil {
		return nil
	}
	for _, c := range db.storage.Children {
		if c.Storage {
			name, _ := decodeName(c.Name)
			names = append(names, name)
		}
	}
	return names
}

// Storage opens a storage in the file as a database of its own.
func (db *Database) Storage(name string) (*Database, error) {
	if db.storage != nil {
		for _, c := range db.storage.Children {
			if plain, _ := decodeName(c.Name); c.Storage && (plain == name || c.Name == name) {
				return openStorage(db.file, c)
			}
		}
	}
	return nil, fmt.Errorf("there is no storage %q", name)
}

// ExtractStorage lays a storage of the file out as a file of its own.
func (db *Database) ExtractStorage(name string) (*compound.Node, error) {
	for _, c := range db.storage.Children {
		if plain, _ := decodeName(c.Name); c.Storage && plain == name {
			return db.file.Copy(c)
		}
	}
	return nil, fmt.Errorf("there is no storage %q", name)
}
