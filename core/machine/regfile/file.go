// Package regfile reads and changes registry text, the .reg files that the OS
// exports, in UTF-16LE or UTF-8. A change touches only the lines that it is
// about: comments, order, line ends and encoding of the rest stay.
package regfile

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"strings"
	"unicode/utf16"
	"unicode/utf8"
)

// Limits of registry text.
const (
	maxSize = 256 << 20 // bytes
	maxKey  = 4 << 10   // bytes of a key's path
)

// ErrSyntax is wrapped by every error about text that is no registry text.
var ErrSyntax = errors.New("not registry text")

// A File is registry text in memory.
type File struct {
	header string          // the first line, which tells the version
	wide   bool            // UTF-16LE
	mark   bool            // with byte order mark
	lines  []string        // all lines, without their ends
	ends   bool            // the last line has an end
	eol    string          // the file's own end of a line
	keys   []*Key          // in the order of the file
	index  map[string]*Key // by path in small letters
}

// A Key is a section of the file.
type Key struct {
	Path   string  // as the file writes it, long form
	Delete bool    // "[-…]": the key is to be deleted when the file is merged
	Values []Entry // in the order of the file
	line   int     // of the header
	again  bool    // a second header of this key stands further down
	last   int     // last line that belongs to it
}

// An Entry is a named value of a key; the default value has an empty name.
type Entry struct {
	Name   string // empty for the key's default value
	Value  Value  // type and bytes
	Delete bool   // "name"=-
	from   int    // first line
	to     int    // last line
}

// Parse reads registry text. Errors wrap [ErrSyntax] and say what is no
// registry text.
func Parse(b []byte) (*File, error) {
	if len(b) > maxSize {
		return nil, fmt.Errorf("over %d bytes: %w", maxSize, ErrSyntax)
	}
	f := &File{eol: "\n"}
	text, err := f.decode(b)
	if err != nil {
		return nil, err
	}
	f.lines = strings.Split(text, "\n")
	if n := len(f.lines); f.lines[n-1] == "" {
		f.lines, f.ends = f.lines[:n-1], true
	}
	if len(f.lines) > 0 && strings.HasSuffix(f.lines[0], "\r") {
		f.eol = "\r\n"
	}
	return f, f.scan()
}

// decode reads registry text in the three encodings that the OS writes and
// reads, and remembers which, so that the file is written back the same.
func (f *File) decode(b []byte) (string, error) {
	switch {
	case bytes.HasPrefix(b, []byte{0xFF, 0xFE}):
		f.wide, f.mark = true, true
		b = b[2:]
	case bytes.HasPrefix(b, []byte{0xEF, 0xBB, 0xBF}):
		f.mark = true
		b = b[3:]
	case len(b) > 3 && b[1] == 0 && b[3] == 0:
		f.wide = true
	}
	if !f.wide {
		if !utf8.Valid(b) {
			return "", fmt.Errorf("neither UTF-16 nor UTF-8: %w", ErrSyntax)
		}
		return string(b), nil
	}
	if len(b)%2 != 0 {
		return "", fmt.Errorf("UTF-16 with an odd number of bytes: %w", ErrSyntax)
	}
	units := make([]uint16, len(b)/2)
	for i := range units {
		units[i] = binary.LittleEndian.Uint16(b[2*i:])
	}
	return string(utf16.Decode(units)), nil
}

// Bytes is the text as it is written to disk.
func (f *File) Bytes() []byte {
	text := strings.Join(f.lines, "\n")
	if f.ends {
		text += "\n"
	}
	var out []byte
	switch {
	case f.wide && f.mark:
		out = []byte{0xFF, 0xFE}
	case f.mark:
		out = []byte{0xEF, 0xBB, 0xBF}
	}
	if !f.wide {
		return append(out, text...)
	}
	return append(out, utf16Bytes(text)...)
}

// Text is the registry text in UTF-8.
func (f *File) Text() string { return strings.Join(f.lines, "\n") + "\n" }

// scan finds keys and values. It is done again after each change: the files are
// small, and no line number can then be wrong.
func (f *File) scan() error {
	f.keys, f.index, f.header = nil, map[string]*Key{}, ""
	var key *Key
	fail := func(line int, format string, args ...any) error {
		return fmt.Errorf("line %d: %s: %w", line+1, fmt.Sprintf(format, args...), ErrSyntax)
	}
	for i := 0; i < len(f.lines); i++ {
		t := strings.TrimSpace(strings.TrimSuffix(f.lines[i], "\r"))
		switch {
		case t == "" || t[0] == ';':
		case f.header == "":
			if t != "Windows Registry Editor Version 5.00" && t != "REGEDIT4" {
				return fail(i, "want the header line, found %.40q", t)
			}
			f.header = t
		case t[0] == '[':
			if !strings.HasSuffix(t, "]") || len(t) < 3 || len(t) > maxKey {
				return fail(i, "the key %.40q is not closed, empty or too long", t)
			}
			path, del := strings.CutPrefix(t[1:len(t)-1], "-")
			if strings.Trim(path, " \t\\") == "" {
				return fail(i, "a key has no name")
			}
			key = f.index[fold(path)]
			if key == nil || del != key.Delete {
				key = &Key{Path: path, Delete: del, line: i}
				f.keys = append(f.keys, key)
				f.index[fold(path)] = key
			} else {
				key.again = true
			}
			key.last = i
		case t[0] == '"' || t[0] == '@':
			if key == nil {
				return fail(i, "a value stands before any key")
			}
			e, err := f.entry(i)
			if err != nil {
				return fail(i, "%v", err)
			}
			key.Values = append(key.Values, e)
			key.last, i = e.to, e.to
		default:
			return fail(i, "%.40q is no key, value or comment", t)
		}
	}
	if f.header == "" {
		return fail(0, "the header line is missing")
	}
	return nil
}

// entry reads the value that begins at line i and may go on below.
func (f *File) entry(i int) (Entry, error) {
	e := Entry{from: i, to: i}
	var text strings.Builder
	text.WriteString(strings.TrimSuffix(f.lines[i], "\r"))
	for inQuotes := openQuotes(text.String(), false); e.to+1 < len(f.lines) && (inQuotes || goesOn(f.lines[e.to])); {
		e.to++
		line := strings.TrimSuffix(f.lines[e.to], "\r")
		text.WriteString("\n" + line)
		if inQuotes && e.to-i > 1000 {
			return e, errors.New("a string has no closing quotation mark")
		}
		inQuotes = openQuotes(line, inQuotes)
	}
	t := strings.TrimSpace(text.String())
	rest := ""
	if t[0] == '@' {
		rest = t[1:]
	} else {
		name, after, err := unquote(t)
		if err != nil {
			return e, err
		}
		e.Name, rest = name, after
	}
	rest, ok := strings.CutPrefix(strings.TrimLeft(rest, " \t"), "=")
	if !ok {
		return e, fmt.Errorf("an equals sign is missing after the name %.30q", e.Name)
	}
	if strings.TrimSpace(rest) == "-" {
		e.Delete = true
		return e, nil
	}
	v, err := parseValue(rest)
	v.Text = strings.TrimLeft(rest, " \t")
	e.Value = v
	return e, err
}

// goesOn says whether a line of bytes continues in the next one.
func goesOn(line string) bool {
	t := strings.TrimSpace(strings.TrimSuffix(line, "\r"))
	return strings.HasSuffix(t, `\`) && (strings.Contains(t, "hex") || !strings.Contains(t, `"`))
}

// openQuotes says whether a quoted string is still open at the end of t, of
// which one may have been open at its begin.
func openQuotes(t string, open bool) bool {
	for i := 0; i < len(t); i++ {
		switch t[i] {
		case '\\':
			if open {
				i++
			}
		case '"':
			open = !open
		}
	}
	return open
}

// fold is a path as it is compared: letters' case does not count in the
// registry.
func fold(path string) string { return strings.ToLower(path) }

// Keys are the sections in their order.
func (f *File) Keys() []*Key { return f.keys }

// Key finds a section by its path, in any case; nil when there is none.
func (f *File) Key(path string) *Key { return f.index[fold(path)] }

// Value finds a value by its name, in any case; of several the last counts.
func (k *Key) Value(name string) (Entry, bool) {
	for i := len(k.Values) - 1; i >= 0; i-- {
		if strings.EqualFold(k.Values[i].Name, name) {
			return k.Values[i], !k.Values[i].Delete
		}
	}
	return Entry{}, false
}

// AddKey appends an empty section, after a blank line.
func (f *File) AddKey(path string) error {
	if f.Key(path) != nil {
		return nil
	}
	cr := strings.TrimSuffix(f.eol, "\n")
	f.lines = append(f.lines, cr, "["+path+"]"+cr)
	return f.scan()
}

// RemoveKey takes a section with its values out, and the blank line above it.
func (f *File) RemoveKey(path string) error {
	k := f.Key(path)
	if k == nil {
		return nil
	}
	if k.again {
		return fmt.Errorf("the key %s stands in several places of this file, so it cannot be taken out as a "+
			"whole\nhint: put its parts together", k.Path)
	}
	from := k.line
	if from > 0 && strings.TrimSpace(f.lines[from-1]) == "" {
		from--
	}
	f.cut(from, k.last)
	return f.scan()
}

// Section gives the lines that RemoveKey would take out, and where they begin.
func (f *File) Section(path string) (lines string, at int, ok bool) {
	k := f.Key(path)
	if k == nil {
		return "", 0, false
	}
	if at = k.line; at > 0 && strings.TrimSpace(f.lines[at-1]) == "" {
		at--
	}
	return strings.Join(f.lines[at:k.last+1], "\n"), at, true
}

// PutSection puts lines back that Section gave. Where the place has become the
// middle of another key, they go to the end. It fails for lines that are no
// registry text.
func (f *File) PutSection(lines string, at int) error {
	at = min(max(at, 0), len(f.lines))
	if !f.between(at) {
		at = len(f.lines)
	}
	was := f.lines
	f.splice(at, at-1, strings.Split(lines, "\n"))
	if err := f.scan(); err != nil {
		f.lines = was
		return errors.Join(err, f.scan())
	}
	return nil
}

// between says whether a section can stand in front of a line: no value of
// another key may come next.
func (f *File) between(at int) bool {
	for _, k := range f.keys {
		for _, e := range k.Values {
			if at > e.from && at <= e.to {
				return false
			}
		}
	}
	for _, l := range f.lines[at:] {
		switch t := strings.TrimSpace(l); {
		case t == "" || t[0] == ';':
		default:
			return t[0] == '['
		}
	}
	return true
}

// SetValue sets a value in a section that is there, in its place or behind the
// last one.
func (f *File) SetValue(path, name string, v Value) error { return f.SetValueBefore(path, name, "", v) }

// SetValueBefore is SetValue that puts a new value in front of the one called
// next, when there is one.
func (f *File) SetValueBefore(path, name, next string, v Value) error {
	k := f.Key(path)
	if k == nil {
		return fmt.Errorf("the key %s is not in this file", path)
	}
	label := "@"
	if name != "" {
		label = `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(name) + `"`
	}
	cr := strings.TrimSuffix(f.eol, "\n")
	lines := strings.Split(label+"="+v.format(), "\n")
	for i := range lines {
		lines[i] += cr
	}
	if e, ok := k.Value(name); ok {
		f.splice(e.from, e.to, lines)
	} else if e, ok := k.Value(next); ok && next != "" {
		f.splice(e.from, e.from-1, lines)
	} else {
		f.splice(k.last+1, k.last, lines)
	}
	return f.scan()
}

// RemoveValue takes a value out.
func (f *File) RemoveValue(path, name string) error {
	if k := f.Key(path); k != nil {
		if e, ok := k.Value(name); ok {
			f.cut(e.from, e.to)
			return f.scan()
		}
	}
	return nil
}

// cut takes lines out.
func (f *File) cut(from, to int) { f.splice(from, to, nil) }

// splice puts lines in place of others.
func (f *File) splice(from, to int, lines []string) {
	out := append([]string{}, f.lines[:from]...)
	out = append(out, lines...)
	f.lines = append(out, f.lines[to+1:]...)
}

// KeyEntries are a key with values, or an absent key: merging deletes it.
type KeyEntries struct {
	Key    string  // long form
	Absent bool    // true: the file deletes the key
	Values []Entry // in the order of the file
}

// Export writes a key's values as registry text of its own, which takes the
// present state back when it is merged.
func Export(key string, values []Entry, absent bool) []byte {
	return ExportKeys([]KeyEntries{{key, absent, values}})
}

// ExportKeys is Export of several keys.
func ExportKeys(keys []KeyEntries) []byte {
	var b strings.Builder
	b.WriteString("Windows Registry Editor Version 5.00\r\n")
	for _, k := range keys {
		if k.Absent {
			b.WriteString("\r\n[-" + k.Key + "]\r\n")
			continue
		}
		b.WriteString("\r\n[" + k.Key + "]\r\n")
		for _, e := range k.Values {
			label := "@"
			if e.Name != "" {
				label = `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(e.Name) + `"`
			}
			value := "-"
			if !e.Delete {
				e.Value.Text = ""
				value = e.Value.format()
			}
			b.WriteString(label + "=" + value + "\r\n")
		}
	}
	return append([]byte{0xFF, 0xFE}, utf16Bytes(b.String())...)
}

// KeyText writes one key with its values as registry text without the first
// line of a file.
func KeyText(key string, values []Entry) string {
	whole := Export(key, values, false)
	_, text, _ := strings.Cut(utf16Text(whole[2:]), "\r\n\r\n")
	return text
}
