// This file reads texts with columns, named or not.

package generic

import (
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"slices"
	"strings"

	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/story"
)

// leastCells is how many cells a table's line has: two may be a word, a sign
// and more words.
const leastCells = 3

// table reads a text with a head that names its columns: one that begins with
// #Fields:, or a first line of names with tabs, semicolons, bars or commas between.
func table(lines [][]byte) form {
	for i, l := range lines {
		if rest, ok := bytes.CutPrefix(l, []byte("#Fields:")); ok {
			names := strings.Fields(string(rest))
			f := rowsOf(names, func(line string) []string { return blankCells(line, len(names)) })
			if len(names) >= leastCells && agree(f, lines[i+1:]) {
				return f
			}
		}
	}
	tried := 0
	for i, l := range lines {
		if len(bytes.TrimSpace(l)) == 0 || l[0] == '#' {
			continue
		}
		if tried++; tried > mostBeforeHead {
			break
		}
		// The rarest in sentences first: a comma parts words as well.
		for _, sep := range []rune{'\t', ';', '|', ','} {
			cut := cutter(sep)
			names := cut(strings.TrimPrefix(string(l), "\ufeff"))
			if len(names) < leastCells || !allNames(names) {
				continue
			}
			if f := rowsOf(names, cut); agree(f, lines[i+1:]) {
				return f
			}
		}
	}
	return headless(lines)
}

// mostBeforeHead is how many lines may stand before a table's head, of a mail or
// a ticket that it was put into.
const mostBeforeHead = 12

// blankCells parts a line at blanks; quotation marks hold a cell together, and
// what is left over belongs to the last.
func blankCells(line string, n int) (cells []string) {
	for line = strings.TrimSpace(line); line != ""; line = strings.TrimLeft(line, " \t") {
		if rest, quoted := strings.CutPrefix(line, `"`); quoted {
			if cell, behind, closed := strings.Cut(rest, `"`); closed && (behind == "" || behind[0] == ' ' || behind[0] == '\t') {
				cells, line = append(cells, cell), behind
				continue
			}
		}
		if len(cells) == n-1 {
			return append(cells, line)
		}
		at := strings.IndexAny(line, " \t")
		if at < 0 {
			at = len(line)
		}
		cells, line = append(cells, line[:at]), line[at:]
	}
	return cells
}

// IsTable says whether lines are the rows of a table.
func IsTable(lines [][]byte) bool { return table(lines) != nil }

// Of a table without a head: so many rows tell what its columns are, when so
// many of them agree.
const (
	leastRows = 4
	agreeing  = 0.8
)

// headless reads rows of cells in quotation marks whose columns nothing names:
// what they are, their values tell.
func headless(lines [][]byte) form {
	for _, sep := range []rune{',', ';', '\t', '|'} {
		cut := cutter(sep)
		var rows [][]string
		for _, l := range lines {
			if bytes.HasPrefix(l, []byte(`"`)) && bytes.Contains(l, []byte(`"`+string(sep))) {
				rows = append(rows, cut(string(bytes.TrimSpace(l))))
			}
		}
		if len(rows) < leastRows || float64(len(rows)) < agreeing*float64(len(lines)) {
			continue
		}
		if names := columnsOf(rows); names != nil {
			if f := rowsOf(names, cut); agree(f, lines) {
				return f
			}
		}
	}
	return nil
}

// columnsOf names the columns of rows by what stands in them; nil where none
// holds times or levels.
func columnsOf(rows [][]string) []string {
	width := len(rows[0])
	names, letters := make([]string, width), make([]int, width)
	text := -1
	for i := range width {
		stamps, levels, words, all := 0, 0, 0, 0
		for _, r := range rows {
			if len(r) != width {
				continue
			}
			all++
			cell := strings.TrimSpace(r[i])
			letters[i] += len(cell)
			if _, _, n := peel.Stamp([]byte(cell)); n > 0 {
				stamps++
			} else if peel.Level(cell) != peel.Unknown {
				levels++
			} else if !strings.Contains(cell, " ") {
				words++
			}
		}
		// A column is what nearly all of its cells are; the one with most
		// letters that is nothing else holds the words.
		share := func(n int) bool { return float64(n) >= agreeing*float64(max(all, 1)) }
		switch {
		case share(stamps):
			names[i] = "time"
		case share(levels):
			names[i] = "level"
		case share(words):
			names[i] = "source"
		default:
			names[i] = "cell"
		}
		if names[i] == "cell" && (text < 0 || letters[i] > letters[text]) {
			text = i
		}
	}
	if text < 0 || !slices.Contains(names, "time") && !slices.Contains(names, "level") {
		return nil
	}
	names[text] = "text"
	return names
}

// cutter parts a line at a sign; quotation marks hold it together.
func cutter(sep rune) func(string) []string {
	return func(line string) []string {
		if !strings.Contains(line, `"`) {
			return strings.Split(line, string(sep))
		}
		c := csv.NewReader(strings.NewReader(line))
		c.Comma, c.LazyQuotes, c.FieldsPerRecord = sep, true, -1
		cells, err := c.Read()
		if err != nil {
			return nil
		}
		return cells
	}
}

// allNames says whether a line's cells are names of columns: short, beginning
// with a letter, none a level or a time, and one of them known.
func allNames(cells []string) bool {
	known := false
	for _, c := range cells {
		c = strings.TrimSpace(c)
		if c == "" || len(c) > 40 || c[0] >= '0' && c[0] <= '9' || strings.ContainsAny(c, `\=:`) {
			return false
		}
		known = known || meaning(c) != ""
	}
	return known
}

// rowsOf reads lines as rows of these columns.
func rowsOf(names []string, cut func(string) []string) form {
	return func(line []byte) (e entry, ok bool) {
		if len(line) == 0 {
			return e, false
		}
		if line[0] == '#' {
			return remark(string(line))
		}
		cells := cut(string(line))
		if len(cells) < len(names)-1 || len(cells) < leastCells {
			return e, false
		}
		var fs []field
		for i, n := range names {
			if i < len(cells) {
				fs = append(fs, field{name: strings.TrimSpace(n), value: strings.TrimSpace(cells[i])})
			}
		}
		e, ok = compose(fs)
		if ok && e.at < 0 && e.date == "" && !e.level { // the head itself, or another table
			return e, false
		}
		return e, ok
	}
}

// remark reads a line between the rows that speaks for itself: "#Remark: …".
func remark(line string) (e entry, ok bool) {
	name, text, ok := strings.Cut(strings.TrimLeft(line, "# "), ": ")
	switch name = strings.ToLower(name); {
	case !ok || strings.ContainsAny(name, " \t"), name == "fields", name == "version", name == "date":
		return e, false
	case name == "software":
		at := strings.LastIndexByte(text, ' ')
		if at < 0 || len(text) == at+1 || text[at+1] < '0' || text[at+1] > '9' {
			at = len(text)
		}
		e.product, e.version = strings.TrimSpace(text[:at]), strings.TrimSpace(text[at:])
	}
	e.at, e.kind, e.text = -1, story.KindText, strings.TrimSpace(text)
	return e, e.text != ""
}

// elements reads a text of XML elements, one a line: attributes and contents
// are the fields. Management agents write <![LOG[…]LOG]!> before such an
// element.
func elements(lines [][]byte) form {
	if agree(element, lines) {
		return element
	}
	return nil
}

// element reads a line that is written as an element: text, and time, part and
// type as attributes.
func element(line []byte) (e entry, ok bool) {
	t := bytes.TrimSpace(line)
	var text string
	if rest, found := bytes.CutPrefix(t, []byte("<![LOG[")); found {
		said, rest, found := bytes.Cut(rest, []byte("]LOG]!>"))
		if !found {
			return e, false
		}
		// What follows is no element by the letter: <time="…" date="…" …>
		rest = bytes.TrimSuffix(bytes.TrimPrefix(bytes.TrimSpace(rest), []byte("<")), []byte(">"))
		text, t = string(said), append(append([]byte("<record "), rest...), "/>"...)
	}
	if len(t) < 5 || t[0] != '<' || t[len(t)-1] != '>' || t[1] == '?' || t[1] == '!' || t[1] == '/' {
		return e, false
	}
	d := xml.NewDecoder(bytes.NewReader(t))
	d.Strict = false
	var fs []field
	if text != "" {
		fs = append(fs, field{name: "msg", value: text})
	}
	said := ""
	var open []string // the elements around what is read
	for {
		tok, err := d.Token()
		if err != nil {
			break // the end, or an element that goes on in the next line
		}
		switch x := tok.(type) {
		case xml.StartElement:
			open = append(open, x.Name.Local)
			for _, a := range x.Attr {
				if text != "" && (a.Name.Local == "file" || a.Name.Local == "context") { // of the agent's own source
					continue
				}
				fs = append(fs, field{name: a.Name.Local, value: a.Value})
			}
		case xml.EndElement:
			open = open[:max(0, len(open)-1)]
		case xml.CharData:
			switch value := strings.TrimSpace(string(x)); {
			case len(open) < 2 || text != "":
				said += string(x)
			case value != "":
				fs = append(fs, field{name: open[len(open)-1], value: value, deep: len(open) > 2})
			}
		}
	}
	if s := strings.TrimSpace(said); s != "" {
		fs = append(fs, field{name: "msg", value: s})
	}
	if len(fs) < 2 {
		return e, false
	}
	e, ok = compose(fs)
	// Contents in words are what a record says, whatever its attributes hold.
	return e, ok && (e.level || e.at >= 0 || e.product != "" || strings.Contains(strings.TrimSpace(said), " "))
}
