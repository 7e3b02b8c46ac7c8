// This file leads from a number to the signs that know it, without reading a
// log.

package signs

import (
	_ "embed"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// numbers lists, a line each, which built-in signs a message number or exit
// code leads to: "1327|id|class|title". It is made with pack.json, so that
// explaining a number need not read all signs.
//
//go:embed numbers.txt
var numbers string

// A Known is a cause that a number can have.
type Known struct {
	ID    string `json:"id"`    // of the sign
	Class string `json:"class"` // of its cause
	Title string `json:"title"` // with its captures' words for "not known"

	// Of a site's own only.
	Program     string   `json:"program,omitempty"`     // whose number it is
	Explanation string   `json:"explanation,omitempty"` // in whole sentences
	Remedies    []string `json:"remedies,omitempty"`    // in a phrase each
}

// ForNumber lists the built-in signs that a message number or exit code leads
// to, the surest first.
func ForNumber(n int) (known []Known) {
	key := "\n" + strconv.Itoa(n) + "|"
	rest := "\n" + numbers
	for {
		at := strings.Index(rest, key)
		if at < 0 {
			return known
		}
		line, _, _ := strings.Cut(rest[at+len(key):], "\n")
		if cells := strings.SplitN(line, "|", 3); len(cells) == 3 {
			known = append(known, Known{ID: cells[0], Class: cells[1], Title: cells[2]})
		}
		rest = rest[at+len(key):]
	}
}

// Numbers writes the list that [ForNumber] reads.
func (p *Pack) Numbers() []byte {
	type row struct {
		n int   // the number
		s *Sign // that asks for it
	}
	var rows []row
	for _, s := range p.Signs {
		ns := []int{s.Message}
		for _, w := range s.Seen {
			ns = append(append(ns, w.Message...), w.Exit...)
		}
		slices.Sort(ns)
		for _, n := range slices.Compact(ns) {
			if n != 0 {
				rows = append(rows, row{n, s})
			}
		}
	}
	slices.SortStableFunc(rows, func(a, b row) int {
		switch {
		case a.n != b.n:
			return a.n - b.n
		case a.s.Strength > b.s.Strength:
			return -1
		case a.s.Strength < b.s.Strength:
			return 1
		}
		return 0
	})
	var b strings.Builder
	for _, r := range rows {
		title, _ := Fill(r.s.Title, nil)
		fmt.Fprintf(&b, "%d|%s|%s|%s\n", r.n, r.s.ID, r.s.Class, strings.ReplaceAll(title, "?", "…"))
	}
	return []byte(b.String())
}
