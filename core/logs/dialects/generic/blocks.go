// This file reads records that are blocks of lines, each a name and a value.

package generic

import (
	"bytes"
	"html"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// Blocks reads a text whose records are blocks of lines, each a name and a
// value:
//
//	Time: 04.05.2026 09:12:01
//	Level: Error
//	Text: cannot listen on 8443
//	----
//
// A record ends at a line of strokes, at a blank one, or where its first name
// comes again. The lines may be elements of XML, too: <Level>Error</Level>; a
// record then ends with the element around them.
type Blocks struct {
	Reader
	names  map[string]bool // of the fields, in small letters
	around string          // the name of the element that is a record; empty where the lines are no elements
	fields []lineField
}

// Limits of a block: more names of its own no logger writes, and what goes on
// over more lines is a listing.
const (
	maxBlock     = 24
	maxBlockMore = 60
)

// NewBlocks makes a reader for the text called file, told by its first lines;
// nil when they are no such blocks.
func NewBlocks(file string, head [][]byte) *Blocks {
	around := recordTag(head)
	names := blockNames(head, around != "")
	if names == nil {
		return nil
	}
	return &Blocks{Reader: *New(file), names: names, around: around}
}

// IsBlocks says whether lines are records of several lines each, every line a
// name and a value.
func IsBlocks(lines [][]byte) bool { return blockNames(lines, recordTag(lines) != "") != nil }

// CanSkip says that no line may be left out of a block.
func (b *Blocks) CanSkip() bool { return false }

const (
	leastBlocks = 3   // that the first lines must hold
	shareBlocks = 0.7 // of the lines that must be a name and a value of such a block
)

// blockNames finds the names that come again and again, each at the begin of a
// line;
// nil when the lines are no blocks with a time or a level, and words. Elements
// of records may have other ones in each.
func blockNames(head [][]byte, elements bool) map[string]bool {
	times := map[string]int{}
	all := 0
	for _, l := range head {
		if stroke(l) {
			continue
		}
		all++
		if name, _, ok := blockPair(l); ok {
			times[name]++
		}
	}
	names := map[string]bool{}
	in, told, words := 0, false, false
	// Names that come in block after block are a record's; of those one must
	// tell time or level, and one the words.
	for name, n := range times {
		if n < leastBlocks {
			continue
		}
		names[name] = true
		in += n
		what := meaning(name)
		told = told || what == "time" || what == "level"
		words = words || what == "text"
	}
	if !told || !words || len(names) < 3 || len(names) > maxBlock || !elements && float64(in) < shareBlocks*float64(all) {
		return nil
	}
	return names
}

// blockPair reads a line that is a name and a value: "Severity: Critical",
// "result........: 104". The name comes in small letters.
func blockPair(line []byte) (name, value string, ok bool) {
	t := bytes.TrimLeft(line, " \t")
	if len(t) > 0 && t[0] == '<' {
		return elementPair(t)
	}
	at := bytes.IndexAny(t, ":=")
	if at < 2 || at > 40 || at+1 < len(t) && t[at] == ':' && t[at+1] != ' ' && t[at+1] != '\t' {
		return "", "", false
	}
	n := strings.ToLower(strings.TrimRight(string(t[:at]), ". \t"))
	if n == "" || len(n) > 24 || strings.Count(n, " ") > 2 || strings.ContainsAny(n, `\/"'()[]{}<>,;.`) || n[0] >= '0' && n[0] <= '9' {
		return "", "", false
	}
	return n, strings.TrimSpace(string(t[at+1:])), true
}

// elementPair reads a line that is an element of XML with nothing but a text in
// it.
func elementPair(t []byte) (name, value string, ok bool) {
	t = bytes.TrimRight(t, " \t\r")
	open := bytes.IndexByte(t, '>')
	last := bytes.LastIndex(t, []byte("</"))
	if open < 2 || last < open || t[len(t)-1] != '>' {
		return "", "", false
	}
	tag, _, _ := bytes.Cut(t[1:open], []byte(" "))
	if !bytes.Equal(tag, t[last+2:len(t)-1]) || bytes.IndexByte(t[open+1:last], '<') >= 0 {
		return "", "", false
	}
	return strings.ToLower(string(tag)), html.UnescapeString(strings.TrimSpace(string(t[open+1 : last]))), true
}

// loneTag is a line that only opens or closes an element.
var loneTag = lazy.MustCompile(`^\s*<(/?)([\pL_][\w:.-]*)((?:\s+[\w:.-]+\s*=\s*(?:"[^"]*"|'[^']*'))*)\s*>\s*$`)

// attributeOf is one of an element's attributes.
var attributeOf = lazy.MustCompile(`([\w:.-]+)\s*=\s*(?:"([^"]*)"|'([^']*)')`)

// recordTag is the name of the first element that is opened again and again on
// lines of its own, with others in it; empty where there is none.
func recordTag(head [][]byte) string {
	times := map[string]int{}
	first := ""
	for _, l := range head {
		if m := loneTag.FindSubmatch(l); m != nil && len(m[1]) == 0 {
			name := string(m[2])
			if times[name]++; times[name] == leastBlocks && first == "" {
				first = name
			}
		}
	}
	return first
}

// stroke says whether a line only parts what stands around it.
func stroke(line []byte) bool {
	t := bytes.Trim(line, "-=_*#~+ \t\r")
	return len(t) == 0 || t[0] == '<' && (loneTag.Match(t) || bytes.HasPrefix(t, []byte("<?xml")))
}

// Line takes the next line.
func (b *Blocks) Line(l textfile.Line) {
	if stroke(l.Text) {
		b.part(l)
		return
	}
	name, value, ok := blockPair(l.Text)
	if !ok || !b.names[name] && (b.around == "" || len(b.fields) == 0) {
		if n := len(b.fields); n > 0 && n < maxBlock && strings.Count(b.fields[n-1].value, "\n") < maxBlockMore {
			b.fields[n-1].value += "\n" + strings.TrimRight(string(l.Text), " \t\r")
			return
		}
		b.Reader.Line(l)
		return
	}
	for _, f := range b.fields {
		if f.name == name { // the next one begins
			b.flush()
			break
		}
	}
	b.fields = append(b.fields, lineField{field{name: name, value: value}, l.Number})
}

// part takes a line that stands between two records, or between the parts of
// one.
func (b *Blocks) part(l textfile.Line) {
	m := loneTag.FindSubmatch(l.Text)
	if m == nil || string(m[2]) == b.around {
		b.flush()
	}
	if m == nil {
		return
	}
	for _, a := range attributeOf.FindAllStringSubmatch(string(m[3]), maxBlock) {
		b.fields = append(b.fields, lineField{field{name: a[1], value: html.UnescapeString(a[2] + a[3])}, l.Number})
	}
}

// flush takes the record that has been read. It stands on the line of its
// words.
func (b *Blocks) flush() {
	if len(b.fields) == 0 {
		return
	}
	line := b.fields[0].line
	var fs []field
	var more []string
	for _, f := range b.fields {
		head, rest, goesOn := strings.Cut(f.value, "\n")
		if goesOn {
			more = append(more, strings.Split(rest, "\n")...)
		}
		if meaning(f.name) == "text" && f.value != "" {
			line = f.line
		}
		fs = append(fs, field{name: f.name, value: head})
	}
	b.fields = b.fields[:0]
	e, ok := compose(fs)
	if !ok {
		return
	}
	e.extra = append(e.extra, more...)
	b.entry(textfile.Line{Number: line, Text: []byte(e.text)}, e)
}

// Finish gives the attempts.
func (b *Blocks) Finish() []*story.Attempt {
	b.flush()
	return b.Reader.Finish()
}
