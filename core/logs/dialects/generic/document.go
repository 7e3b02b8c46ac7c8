// This file reads one JSON value that goes on over many lines.

package generic

import (
	"bytes"
	"cmp"
	"encoding/json"
	"slices"
	"strings"
	"unicode/utf16"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A Document reads a text that is one JSON value as a whole: a report with
// lists of records in it. Each object that has words, a time or a level of its
// own is an entry; what other objects say is told name by name, where it
// stands.
type Document struct {
	Reader
	stack []frame
	text  []byte // of the string or word under way
	in    lexing
	high  rune   // first half of a pair of \u escapes
	key   string // that was read, and whose value comes next
	isKey bool   // the next string is a key
	deep  int    // levels beyond maxDepth
	about int    // values that speak of setups
}

// A frame is an object or a list under way.
type frame struct {
	list   bool
	name   string // the key under which it stands
	fields []lineField
	title  string // what the object calls itself
}

// A lineField is a field with the line on which it stands.
type lineField struct {
	field
	line int
}

type lexing uint8

const (
	between lexing = iota
	inString
	inEscape
	inUnicode
	inWord
)

// Limits of a document. No report of a setup is nested deeper, and no object in
// one has more names of its own.
const (
	maxDepth  = 32
	maxFields = 200
	maxString = 8000 // bytes of one value
)

// NewDocument makes a reader for the text called file.
func NewDocument(file string) *Document { return &Document{Reader: *New(file)} }

// CanSkip says that no line may be left out of a document.
func (d *Document) CanSkip() bool { return false }

// IsDocument says whether the first lines of a text begin one JSON value that
// goes on over lines, or holds lists of objects on a single one.
func IsDocument(lines [][]byte) bool {
	var head [][]byte
	for _, l := range lines {
		if t := bytes.TrimSpace(l); len(t) > 0 {
			if head = append(head, t); len(head) == 3 {
				break
			}
		}
	}
	if len(head) == 0 || head[0][0] != '{' && head[0][0] != '[' {
		return false
	}
	if len(head) == 1 {
		return json.Valid(head[0]) && (bytes.Contains(head[0], []byte(`[{"`)) || aloneReport(head[0])) || len(head[0]) > maxString &&
			bytes.Contains(head[0][:maxString], []byte(`":`))
	}
	if json.Valid(head[0]) { // an object on each line is a log
		return false
	}
	next := head[1][0]
	return len(head[0]) == 1 && (next == '"' || next == '{' || next == '[') || bytes.HasPrefix(head[0], []byte(`{"`)) && next == '"'
}

// aloneReport says whether the one object of a text is a report of a run, and
// no line of a log: of a product, and how it ended.
func aloneReport(t []byte) bool {
	fs, ok := flatObject(t)
	if !ok {
		return false
	}
	var told reportParts
	for _, f := range fs {
		switch name := strings.ToLower(f.name); {
		case meaning(name) == "text" || meaning(name) == "time":
			return false
		case meaning(name) == "product":
			told.product = true
		case ofReportName(name)&ofEnd != 0:
			told.end = true
		}
	}
	return told.product && told.end
}

// Line takes the next line.
func (d *Document) Line(l textfile.Line) {
	for _, c := range l.Text {
		d.byte(c, l.Number)
	}
	switch d.in {
	case inWord:
		d.word(l.Number)
	case inString: // a line's end is no part of a string, but of a damaged text
		d.text = append(d.text, ' ')
	}
}

// byte takes the next byte.
func (d *Document) byte(c byte, line int) {
	switch d.in {
	case inString:
		switch c {
		case '"':
			d.in = between
			d.value(string(d.text), line)
		case '\\':
			d.in = inEscape
		default:
			d.add(c)
		}
	case inEscape:
		d.in = inString
		if c == 'u' {
			d.in, d.text = inUnicode, append(d.text, 0) // marks where the digits begin
			return
		}
		if k := strings.IndexByte("nrtbf", c); k >= 0 {
			c = "\n\r\t  "[k]
		}
		d.add(c)
	case inUnicode:
		d.text = append(d.text, c)
		if at := bytes.LastIndexByte(d.text, 0); len(d.text)-at > 4 {
			d.unicode(at)
		}
	case inWord:
		if strings.IndexByte(",]}: \t", c) < 0 {
			d.add(c)
			return
		}
		d.word(line)
		d.byte(c, line)
	default:
		d.mark(c, line)
	}
}

// add adds a byte to the text that is read; what is beyond the longest is
// dropped, the rest of the document still counts.
func (d *Document) add(c byte) {
	if len(d.text) < maxString {
		d.text = append(d.text, c)
	}
}

// unicode puts a letter in place of the four digits behind byte at.
func (d *Document) unicode(at int) {
	r := rune(0)
	for _, c := range d.text[at+1:] {
		digit := strings.IndexByte("0123456789abcdef", c|0x20)
		if c >= '0' && c <= '9' {
			digit = int(c - '0')
		}
		r = r<<4 | rune(max(digit, 0))
	}
	d.text, d.in = d.text[:at], inString
	switch {
	case utf16.IsSurrogate(r) && d.high == 0:
		d.high = r
		return
	case d.high != 0:
		r = utf16.DecodeRune(d.high, r)
	}
	d.high = 0
	d.text = append(d.text, string(r)...)
}

// mark takes a byte between values.
func (d *Document) mark(c byte, line int) {
	switch c {
	case '{', '[':
		if len(d.stack) >= maxDepth {
			d.deep++
			return
		}
		d.stack = append(d.stack, frame{list: c == '[', name: d.key})
		d.key, d.isKey = "", c == '{'
	case '}', ']':
		if d.deep > 0 {
			d.deep--
			return
		}
		d.close()
	case ':':
		d.isKey = false
	case ',':
		d.isKey = len(d.stack) > 0 && !d.stack[len(d.stack)-1].list
	case '"':
		d.in, d.text = inString, d.text[:0]
	case ' ', '\t', '\r', 0xEF, 0xBB, 0xBF: // blanks, and the mark at a text's begin
	default:
		d.in, d.text = inWord, append(d.text[:0], c)
	}
}

// word ends a bare word: a number, true, false or null.
func (d *Document) word(line int) {
	d.in = between
	d.value(string(d.text), line)
}

// value takes a string, a number, true, false or null.
func (d *Document) value(v string, line int) {
	if d.isKey {
		d.key = v
		return
	}
	if len(d.stack) == 0 {
		return
	}
	f := &d.stack[len(d.stack)-1]
	// A value in a list bears the list's name.
	name := d.key
	if f.list {
		name = f.name
	}
	d.key = ""
	if speaksOfSetups([]byte(name + " " + v)) {
		d.about++
	}
	switch {
	case v == "null" || v == "":
	case len(d.stack) == 1 || f.list: // of the whole, or one of a list of words
		if !f.list && yesOrNo[strings.ToLower(name)] && (v == "true" || v == "false") {
			name = "success"
		}
		d.tell(line, field{name: name, value: v}, false)
	case len(f.fields) < maxFields:
		if f.title == "" && selfNames[strings.ToLower(name)] {
			f.title = v
		}
		f.fields = append(f.fields, lineField{field{name: name, value: v}, line})
	}
}

// yesOrNo are names under which a document says by yes or no how all of it
// went; of a part they say no more than that.
var yesOrNo = map[string]bool{"ok": true, "done": true, "completed": true, "finished": true, "installed": true, "passed": true}

// selfNames are names of fields with which an object says what it is.
var selfNames = map[string]bool{"name": true, "id": true, "step": true, "stage": true, "task": true, "action": true, "product": true, "component": true,
	"package": true, "phase": true}

// close ends the innermost object or list.
func (d *Document) close() {
	if len(d.stack) == 0 {
		return
	}
	f := d.stack[len(d.stack)-1]
	d.stack = d.stack[:len(d.stack)-1]
	if len(f.fields) == 0 {
		return
	}
	// What is inside of a part speaks for that part, however deep it stands.
	source := ""
	for _, outer := range d.stack {
		source = cmp.Or(outer.title, source)
	}
	record := false
	plain := make([]field, len(f.fields))
	for i, x := range f.fields {
		plain[i] = x.field
		what := meaning(x.name)
		record = record || what == "text" || what == "time" || what == "level"
	}
	// An object with words, a time or a level is an entry of its own; any other
	// is values of what it stands in.
	if record {
		if e, ok := compose(plain); ok {
			e.source = cmp.Or(e.source, source)
			if !e.level && graveNames[strings.ToLower(f.name)] {
				e.kind, e.level = story.KindError, true
			}
			d.take(f.fields[0].line, e)
		}
		return
	}
	if n := len(d.stack); n > 0 && !f.list && d.stack[n-1].ofRecord() {
		for _, x := range f.fields { // beside a record's own values: "data": {"path": …, "err": 32}
			x.deep = true
			d.stack[n-1].fields = append(d.stack[n-1].fields, x)
		}
		return
	}
	for _, x := range f.fields {
		grave := graveNames[strings.ToLower(f.name)] || graveNames[strings.ToLower(x.name)]
		if len(d.stack) > 1 && f.name+f.title != "" { // of a part, not of the whole
			x.name = cmp.Or(f.title, f.name) + " " + x.name
		}
		d.tell(x.line, x.field, grave && strings.Contains(x.value, " "))
	}
	if f.title != "" {
		d.stageOf(f)
	}
}

// ofRecord says whether an object under way is a record with words.
func (f frame) ofRecord() bool {
	return !f.list && slices.ContainsFunc(f.fields, func(x lineField) bool { return meaning(x.name) == "text" }) &&
		slices.ContainsFunc(f.fields, func(x lineField) bool { return meaning(x.name) == "time" || meaning(x.name) == "level" })
}

// stageOf makes an action of an object that has a name and says how it went.
func (d *Document) stageOf(f frame) {
	for _, x := range f.fields {
		if low := strings.ToLower(x.name); (yesOrNo[low] || low == "success" || low == "succeeded") && (x.value == "true" || x.value == "false") {
			a := d.b.Start(f.fields[0].line, f.title, nil)
			d.b.End(a, x.line, x.value == "false", nil, x.name+": "+x.value)
			return
		}
		if strings.EqualFold(x.name, "result") || strings.EqualFold(x.name, "state") ||
			strings.EqualFold(x.name, "status") || strings.EqualFold(x.name, "outcome") {
			low := strings.ToLower(x.value)
			failed := strings.Contains(low, "fail") || strings.Contains(low, "error") || strings.Contains(low, "abort")
			a := d.b.Start(f.fields[0].line, f.title, nil)
			d.b.End(a, x.line, failed, nil, x.name+": "+x.value)
			return
		}
	}
}

// graveNames are names of what went wrong.
var graveNames = map[string]bool{"error": true, "errors": true, "exception": true, "failure": true, "lasterror": true, "last_error": true, "reason": true, "cause": true,
	"problem": true, "fault": true, "errormessage": true, "error_message": true, "errortext": true, "fehler": true, "grund": true, "erreur": true, "errore": true}

// tell takes one name with its value; grave says that it is of what went wrong.
func (d *Document) tell(line int, f field, grave bool) {
	e := entry{at: -1, kind: story.KindText, text: f.name + ": " + f.value}
	if grave {
		e.kind, e.level, e.text = story.KindError, true, f.value
	}
	switch meaning(f.name) {
	case "product":
		e.product = f.value
		d.b.Ensure(line)
		if a := d.b.A; a.Product.Name == "" {
			a.Product.Name = f.value
		}
	case "version":
		if d.b.A != nil && d.b.A.Product.Version == "" {
			d.b.A.Product.Version = f.value
		}
	}
	d.take(line, e)
}

// Finish gives the attempts. A text that was cut lacks what the report tells at
// its end: a part's number, or an error on the way, does not stand for it.
func (d *Document) Finish() []*story.Attempt {
	all := d.Reader.Finish()
	if n := len(all); n > 0 && len(d.stack) > 0 && !d.firm {
		all[n-1].Success, all[n-1].Exit = nil, nil
	}
	return all
}

// Told says whether the text is about a setup at all.
func (d *Document) Told(attempts []*story.Attempt) bool {
	ended := func(a *story.Attempt) bool { return a.Exit != nil }
	named := func(a *story.Attempt) bool { // what has a result, parts and a name is a report of a run
		return a.Exit != nil && a.Product.Name != "" || len(a.Actions) > 0 && a.Success != nil
	}
	return d.about >= leastAbout || d.about > 0 && slices.ContainsFunc(attempts, ended) || slices.ContainsFunc(attempts, named)
}

// take puts an entry into the story.
func (d *Document) take(line int, e entry) {
	d.Reader.entry(textfile.Line{Number: line, Text: []byte(e.text)}, e)
}
