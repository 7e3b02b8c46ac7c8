// This file takes off what others put around each line of a whole log: the
// numbers of a listing, quotation marks, a record of a log collector or a row of
// a table that has the line in one of its values.

package dialects

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"html"
	"slices"
	"strings"
	"unicode"

	"hollowkey/core/logs/dialects/generic"
	reading "hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/story"
)

// A layer takes off what stands around a line; a line that does not have it
// stays as it is.
type layer func(line []byte) []byte

const (
	mostLayers  = 3    // that lie around each other: a number, a row, a stamp
	allWrapped  = 0.97 // share of the lines that must have a layer
	leastLayer  = 8    // lines without which no layer is told
	triedValues = 3    // values of a record in which a log is looked for, the longest first
)

// layersOf are the layers around the lines, the outermost first, and the lines
// without them.
func layersOf(lines [][]byte) (layers []layer, bare [][]byte) {
	bare = lines
	for len(layers) < mostLayers {
		var l layer
		if c := peel.Listed(bare); c != nil {
			l = c.Strip
		} else if l = quotes(bare); l == nil {
			for _, find := range []func([][]byte) layer{objects, rows, page, prefix} {
				if l = find(bare); l != nil {
					break
				}
			}
		}
		if l == nil {
			break
		}
		layers, bare = append(layers, l), through(l, bare)
	}
	return layers, bare
}

// through are the lines without a layer.
func through(l layer, lines [][]byte) [][]byte {
	bare := make([][]byte, len(lines))
	for i, line := range lines {
		bare[i] = l(line)
	}
	return bare
}

const (
	mostAround = 12 // lines of a mail or a ticket before a document, or behind it
	ofDocument = 0.97
)

// document is where one JSON value begins and ends that a mail or a ticket has
// been put around; all lines where there is none.
func document(lines [][]byte) (from, to int) {
	from = -1
	for i, l := range lines[:min(len(lines), mostAround)] {
		if len(l) > 0 && (l[0] == '{' || l[0] == '[') && generic.IsDocument(lines[i:]) {
			from = i
			break
		}
	}
	if from <= 0 {
		return 0, len(lines)
	}
	for to = len(lines); to > from && len(lines)-to < mostAround; to-- {
		if l := bytes.TrimSpace(lines[to-1]); len(l) > 0 && (l[0] == '}' || l[0] == ']') {
			break
		}
	}
	n := 0
	for _, l := range lines[from:to] {
		if l = bytes.TrimSpace(l); len(l) == 0 || bytes.IndexByte([]byte(`"{}[],`), l[0]) >= 0 {
			n++
		}
	}
	if float64(n) < ofDocument*float64(to-from) {
		return 0, len(lines)
	}
	return from, to
}

// nearlyAllOf says whether nearly all lines that say something have a form.
func nearlyAllOf(lines [][]byte, has func(line []byte) bool) bool {
	n, all := 0, 0
	for _, l := range lines {
		if l = bytes.TrimSpace(l); len(l) > 0 {
			if all++; has(l) {
				n++
			}
		}
	}
	return all >= leastLayer && float64(n) >= allWrapped*float64(all)
}

const (
	leastPrefix = 3  // bytes of what all lines begin with
	mostPrefix  = 60 // bytes of it; more is the same sentence
)

// prefix finds that all lines begin with the same name in a mark of its own
// ("out> ", "pc07 | ", "[stdout] "), or with anything else behind which they
// have a layout of their own. A name with a colon may be the setup's.
func prefix(lines [][]byte) layer {
	var shared []byte
	said := 0
	for _, l := range lines {
		if len(bytes.TrimSpace(l)) == 0 {
			continue
		}
		said++
		if shared == nil {
			shared = l[:min(len(l), mostPrefix)]
		}
		n := 0
		for n < len(shared) && n < len(l) && shared[n] == l[n] {
			n++
		}
		if shared = shared[:n]; n < leastPrefix {
			return nil
		}
	}
	if said < leastLayer {
		return nil
	}
	at := bytes.IndexAny(shared, ">|")
	if last := bytes.LastIndexAny(shared, "]:-"); at < 0 {
		at = last
	}
	if at+1 < leastPrefix || bytes.IndexByte([]byte(`{<#;"`), shared[0]) >= 0 || unicode.IsDigit(rune(shared[at-1])) ||
		slices.ContainsFunc(lines, stamped) {
		return nil
	}
	shared = bytes.Clone(shared[:at+1])
	if slices.ContainsFunc(lines, func(l []byte) bool { // the mark is a part of a word
		return len(l) > at+1 && l[at+1] != ' ' && shared[at] != '>' && shared[at] != '|'
	}) {
		return nil
	}
	off := func(line []byte) []byte {
		rest, ok := bytes.CutPrefix(line, shared)
		if ok && len(rest) > 0 && rest[0] == ' ' {
			rest = rest[1:]
		}
		return rest
	}
	if bytes.IndexByte([]byte(">|]"), shared[at]) < 0 && !ownLayout(through(off, lines), false) {
		return nil
	}
	return off
}

// stamped says whether a line begins with a stamp.
func stamped(line []byte) bool { return dressOf(line).stamp != "" }

// tags are those with which a page shows a text as it is.
var tags = lazy.MustCompile(`(?i)</?(?:html|head|body|pre|code|span|div|p|br|font|b|i|title|meta|samp|tt)(?: [^<>]{0,200})?/?>`)

// page finds that the lines are shown by a page, as a text whose signs are
// written as a page needs them.
func page(lines [][]byte) layer {
	shown := slices.IndexFunc(lines[:min(len(lines), mostAround)], func(l []byte) bool {
		return bytes.Contains(bytes.ToLower(l), []byte("<pre"))
	})
	if shown < 0 || !ownLayout(through(unmarked, lines[shown+1:]), false) && generic.Formed(lines) {
		return nil
	}
	return unmarked
}

// unmarked is a line of such a text without its tags.
func unmarked(line []byte) []byte {
	if bytes.IndexByte(line, '<') >= 0 {
		line = []byte(tags.ReplaceAllString(string(line), ""))
	}
	if bytes.IndexByte(line, '&') >= 0 {
		line = []byte(html.UnescapeString(string(line)))
	}
	return line
}

// quotes finds that each line stands in quotation marks as a whole.
func quotes(lines [][]byte) layer {
	whole := func(l []byte) bool {
		return len(l) > 1 && l[0] == '"' && l[len(l)-1] == '"' &&
			bytes.IndexByte(bytes.ReplaceAll(l[1:len(l)-1], []byte(`""`), nil), '"') < 0
	}
	if !nearlyAllOf(lines, whole) {
		return nil
	}
	return func(line []byte) []byte {
		if l := bytes.TrimSpace(line); whole(l) {
			return bytes.ReplaceAll(l[1:len(l)-1], []byte(`""`), []byte(`"`))
		}
		return line
	}
}

// objects finds that each line is an object, one of whose values is the line of
// a log that has its own layout.
func objects(lines [][]byte) layer {
	is := func(l []byte) bool { return l[0] == '{' && l[len(l)-1] == '}' && bytes.Contains(l, []byte(`":`)) }
	if !nearlyAllOf(lines, is) {
		return nil
	}
	letters, graded := map[string]int{}, grades[string]{}
	for _, l := range distinct(lines) {
		var fields map[string]any
		if json.Unmarshal(l, &fields) != nil {
			continue
		}
		for name, v := range fields {
			if text, ok := v.(string); ok {
				letters[name] += len(text)
				graded.add(name, text)
			}
		}
	}
	for _, name := range longest(letters) {
		key := []byte(`"` + name + `"`)
		inside := func(line []byte) []byte {
			if v, ok := valueOf(line, key); ok {
				return v
			}
			return line
		}
		if ownLayout(through(inside, lines), graded.differ()) {
			return inside
		}
	}
	return nil
}

// distinct are the lines without those that differ from one before in their
// numbers alone.
func distinct(lines [][]byte) (some [][]byte) {
	seen := map[string]bool{}
	var shape []byte
	for _, l := range lines {
		if shape = unnumbered(shape[:0], l); !seen[string(shape)] {
			seen[string(shape)] = true
			some = append(some, l)
		}
	}
	return some
}

// grades are the levels that the values under each name are, or in each cell.
type grades[T comparable] map[T]map[peel.Gravity]int

// add counts a value.
func (g grades[T]) add(at T, value string) {
	if g[at] == nil {
		g[at] = map[peel.Gravity]int{}
	}
	g[at][peel.Level(value)]++
}

// differ says whether values under one name are levels, and not all the same:
// then the record tells more than the line in it.
func (g grades[T]) differ() bool {
	for _, levels := range g {
		if levels[peel.Unknown] == 0 && len(levels) > 1 {
			return true
		}
	}
	return false
}

// longest are the names whose values have the most letters, in that order.
func longest(letters map[string]int) []string {
	var names []string
	for n := range letters {
		names = append(names, n)
	}
	slices.SortFunc(names, func(a, b string) int {
		if letters[a] != letters[b] {
			return letters[b] - letters[a]
		}
		return strings.Compare(a, b)
	})
	return names[:min(len(names), triedValues)]
}

// valueOf is the text of an object's value under a key, which stands in its
// quotation marks.
func valueOf(line, key []byte) (text []byte, ok bool) {
	at := bytes.Index(line, key)
	if at < 0 {
		return nil, false
	}
	rest, colon := bytes.CutPrefix(bytes.TrimLeft(line[at+len(key):], " \t"), []byte(":"))
	if rest = bytes.TrimLeft(rest, " \t"); !colon || len(rest) == 0 || rest[0] != '"' {
		return nil, false
	}
	escaped := false
	for i := 1; i < len(rest); i++ {
		switch rest[i] {
		case '\\':
			escaped = true
			i++
		case '"':
			if !escaped {
				return rest[1:i], true
			}
			var s string
			if json.Unmarshal(rest[:i+1], &s) != nil {
				return nil, false
			}
			return reading.Plain(bytes.TrimRight([]byte(s), "\r\n")), true
		}
	}
	return nil, false
}

// rows finds that each line is a row of a table with commas, one of whose cells
// is the line of a log that has its own layout.
func rows(lines [][]byte) layer {
	quoted := func(l []byte) bool { return bytes.HasSuffix(l, []byte(`"`)) && bytes.Contains(l, []byte(`,"`)) }
	if !nearlyAllOf(lines, quoted) {
		return nil
	}
	letters, width, graded := map[int]int{}, 0, grades[int]{}
	for _, l := range lines {
		cells := cellsOf(l)
		for i, c := range cells {
			letters[i] += len(c)
			if len(cells) > 1 && c != "" {
				graded.add(i, c)
			}
		}
		width = max(width, len(cells))
	}
	if width < 2 {
		return nil
	}
	best := 0
	for i, n := range letters {
		if n > letters[best] || n == letters[best] && i < best {
			best = i
		}
	}
	inside := func(line []byte) []byte {
		if cells := cellsOf(line); len(cells) > best {
			return []byte(cells[best])
		}
		return line
	}
	if !ownLayout(through(inside, lines), graded.differ()) {
		return nil
	}
	return inside
}

// cellsOf are the cells of a row; nil where it is none.
func cellsOf(line []byte) []string {
	r := csv.NewReader(bytes.NewReader(line))
	r.LazyQuotes = true
	cells, err := r.Read()
	if err != nil || strings.Contains(cells[0], `"`) { // something stands in front of the first
		return nil
	}
	return cells
}

// ownLayout says whether lines are a log by themselves, whose layout tells more
// than a record around each of them: a dialect of ours, or most lines have a
// stamp; that does not count where the records have levels of their own.
func ownLayout(lines [][]byte, graded bool) bool {
	w := newWindow(lines)
	d, _, score := w.detect(true)
	if graded && (d.open == nil || d.name == story.Generic) {
		return false
	}
	if score == 0 || d.open == nil {
		return generic.IsTable(lines)
	}
	if d.name != story.Generic {
		return score*2 > len(lines)
	}
	return w.learned().Stamped() && says(w.learned(), lines) || generic.IsBlocks(lines) || generic.IsTable(lines)
}

// says says whether most lines say something behind their columns, and not all
// the same: else they are stamps alone, with a zone maybe.
func says(columns peel.Columns, lines [][]byte) bool {
	n, all, texts := 0, 0, map[string]bool{}
	for _, l := range lines {
		if len(l) == 0 {
			continue
		}
		all++
		if rest := columns.Strip(l); bytes.ContainsFunc(rest, unicode.IsLetter) {
			texts[shapeOf(rest)] = true
			n++
		}
	}
	return n*2 > all && len(texts) > 1
}
