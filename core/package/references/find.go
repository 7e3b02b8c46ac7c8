// This file looks for a text in all tables.

package references

import (
	"strings"

	"hollowkey/core/package/installdb"
	"hollowkey/core/package/sequence"
)

// A Hit is a row in which a text was found.
type Hit struct {
	Place
	Columns []string    `json:"columns"`           // where: names of columns
	Cells   []NamedCell `json:"cells"`             // the whole row
	Means   string      `json:"means,omitempty"`   // of a custom action: what it does, in words
	UsedBy  []Use       `json:"used_by,omitempty"` // rows that refer to it
	Uses    []Use       `json:"uses,omitempty"`    // rows that it refers to
}

// A NamedCell is one cell for people.
type NamedCell struct {
	Column string `json:"column"` // its name
	Value  string `json:"value"`  // as text
}

// A Found is all that a search found.
type Found struct {
	Tables  []string `json:"tables,omitempty"`  // whose name holds the text
	Columns []Link   `json:"columns,omitempty"` // columns whose name does
	Streams []string `json:"streams,omitempty"` // names that hold the text
	Hits    []Hit    `json:"rows"`              // rows, in the order of the tables
	More    int      `json:"more,omitempty"`    // rows beyond the limit
}

// Find looks for a text in all names and values, letter case aside. At most
// limit rows are told with what they refer to.
func (g *Graph) Find(text string, limit int) (Found, error) {
	var f Found
	want := strings.ToLower(text)
	holds := func(s string) bool { return strings.Contains(strings.ToLower(s), want) }
	for _, name := range g.db.Tables() {
		if holds(name) {
			f.Tables = append(f.Tables, name)
		}
		t, err := g.db.Table(name)
		if err != nil {
			return f, err
		}
		for _, c := range t.Columns {
			if holds(c.Name) {
				f.Columns = append(f.Columns, Link{Table: name, Column: c.Name})
			}
		}
		for _, r := range t.Rows {
			var in []string
			for i, c := range t.Columns {
				if r[i].Stream == nil && holds(r[i].String()) {
					in = append(in, c.Name)
				}
			}
			if in == nil {
				continue
			}
			if len(f.Hits) >= limit {
				f.More++
				continue
			}
			h := Hit{Place: Place{name, t.Key(r)}, Columns: in, Cells: Cells(t, r), Uses: g.From(t, r)}
			if name == "CustomAction" {
				d := sequence.Decode(int(t.Get(r, "Type").Int), t.Get(r, "Source").Text, t.Get(r, "Target").Text)
				h.Means = d.Does + "; " + d.Manner()
			}
			if h.UsedBy, err = g.Users(h.Place); err != nil {
				return f, err
			}
			f.Hits = append(f.Hits, h)
		}
	}
	for _, s := range g.db.Streams() {
		if !s.Table && holds(s.Name) {
			f.Streams = append(f.Streams, s.Name)
		}
	}
	return f, nil
}

// Cells are the cells of a row that hold something.
func Cells(t *installdb.Table, r installdb.Row) (list []NamedCell) {
	for i, c := range t.Columns {
		if !r[i].Null() {
			list = append(list, NamedCell{c.Name, r[i].String()})
		}
	}
	return list
}
