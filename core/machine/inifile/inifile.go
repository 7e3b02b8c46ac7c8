// Package inifile reads and alters INI files so that everything else in them
// stays as it was: comments, order, encoding, line ends, the final newline.
//
// Source: the OS's profile functions (GetPrivateProfileString): sections in
// brackets, keys before the first equals sign, letter case of no account.
package inifile

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

const maxSize = 16 << 20 // bytes

// ErrTooLarge says that a file is too large to be an INI file.
var ErrTooLarge = errors.New("larger than 16 MiB, so no INI file")

type encodingKind int

const (
	ansi encodingKind = iota
	utf8Plain
	utf8Mark
	utf16LE
	utf16BE
)

// A File is an INI file line by line.
type File struct {
	kind  encodingKind // written back as it was
	lines []line       // with comments and empty ones
}

// A line keeps its own line end, so that mixed ones survive.
type line struct{ text, end string } // end is the line's own, so that mixed ones stay

// Parse reads an INI file. Any text is one; lines that say nothing are kept.
func Parse(b []byte) (*File, error) {
	if len(b) > maxSize {
		return nil, ErrTooLarge
	}
	f := &File{}
	text := ""
	switch {
	case bytes.HasPrefix(b, []byte{0xFF, 0xFE}), bytes.HasPrefix(b, []byte{0xFE, 0xFF}):
		f.kind = utf16LE
		if b[0] == 0xFE {
			f.kind = utf16BE
		}
		if len(b)%2 != 0 {
			return nil, errors.New("UTF-16 text of an odd number of bytes")
		}
		units := make([]uint16, 0, len(b)/2)
		for i := 2; i+1 < len(b); i += 2 {
			u := uint16(b[i]) | uint16(b[i+1])<<8
			if f.kind == utf16BE {
				u = u<<8 | u>>8
			}
			units = append(units, u)
		}
		text = string(utf16.Decode(units))
		if !bytes.Equal(f.encode(text), b) {
			return nil, errors.New("UTF-16 text with broken pairs")
		}
	case bytes.HasPrefix(b, []byte("\xEF\xBB\xBF")) && utf8.Valid(b):
		f.kind, text = utf8Mark, string(b[3:])
	case utf8.Valid(b):
		f.kind, text = utf8Plain, string(b)
	default: // one letter a byte, whatever the code page: what is not touched comes back as it was
		for _, c := range b {
			text += string(rune(c))
		}
	}
	f.split(text)
	return f, nil
}

// split keeps each line with its own line end, for files in the wild mix them.
func (f *File) split(text string) {
	for text != "" {
		n := strings.IndexAny(text, "\r\n")
		if n < 0 {
			f.lines = append(f.lines, line{text, ""})
			return
		}
		end := text[n : n+1]
		if strings.HasPrefix(text[n:], "\r\n") {
			end = "\r\n"
		}
		f.lines = append(f.lines, line{text[:n], end})
		text = text[n+len(end):]
	}
}

// Bytes gives the file back in its encoding.
func (f *File) Bytes() []byte {
	var b strings.Builder
	for _, l := range f.lines {
		b.WriteString(l.text)
		b.WriteString(l.end)
	}
	return f.encode(b.String())
}

// encode writes the text in the encoding and with the mark that the file came
// with.
func (f *File) encode(text string) []byte {
	switch f.kind {
	case utf8Mark:
		return append([]byte("\xEF\xBB\xBF"), text...)
	case utf16LE, utf16BE:
		out := []byte{0xFF, 0xFE}
		for _, u := range utf16.Encode([]rune(text)) {
			out = append(out, byte(u), byte(u>>8))
		}
		if f.kind == utf16BE {
			for i := 0; i+1 < len(out); i += 2 {
				out[i], out[i+1] = out[i+1], out[i]
			}
		}
		return out
	case ansi:
		var out []byte
		for _, r := range text {
			out = append(out, byte(r))
		}
		return out
	}
	return []byte(text)
}

// section gives the name of a section's heading.
func (l line) section() (string, bool) {
	t := strings.TrimSpace(l.text)
	if !strings.HasPrefix(t, "[") {
		return "", false
	}
	name, _, ok := strings.Cut(t[1:], "]")
	return strings.TrimSpace(name), ok
}

// key splits a line into key and value; comments have none.
func (l line) key() (key, value string, ok bool) {
	t := strings.TrimSpace(l.text)
	if t == "" || t[0] == ';' || t[0] == '#' || t[0] == '[' {
		return "", "", false
	}
	key, value, ok = strings.Cut(t, "=")
	return strings.TrimSpace(key), strings.TrimSpace(value), ok
}

// find gives the line of a key, the place where a new one would go (behind the
// section's last key), and whether the section is there. Of several the first
// counts, as for the OS.
func (f *File) find(section, key string) (at, next int, there bool) {
	at, next = -1, -1
	inside := false
	for i, l := range f.lines {
		if name, ok := l.section(); ok {
			if there {
				return at, next, true
			}
			if inside = strings.EqualFold(name, section); inside {
				there, next = true, i+1
			}
			continue
		}
		if k, _, ok := l.key(); ok && inside {
			next = i + 1
			if strings.EqualFold(k, key) && at < 0 {
				at = i
			}
		}
	}
	return at, next, there
}

// Get gives the value of a key without quotes around it.
func (f *File) Get(section, key string) (string, bool) {
	at, _, _ := f.find(section, key)
	if at < 0 {
		return "", false
	}
	_, v, _ := f.lines[at].key()
	if len(v) >= 2 && (v[0] == '"' || v[0] == '\'') && v[len(v)-1] == v[0] {
		v = v[1 : len(v)-1]
	}
	return v, true
}

// Sections lists the sections in their order.
func (f *File) Sections() (names []string) {
	for _, l := range f.lines {
		if n, ok := l.section(); ok {
			names = append(names, n)
		}
	}
	return names
}

// A Pair is one key with its value.
type Pair struct{ Key, Value string } // as they stand, without blanks around them

// Keys lists the keys of a section in their order.
func (f *File) Keys(section string) (list []Pair) {
	inside := false
	for _, l := range f.lines {
		if n, ok := l.section(); ok {
			inside = strings.EqualFold(n, section)
		} else if k, v, ok := l.key(); ok && inside {
			list = append(list, Pair{k, v})
		}
	}
	return list
}

// Set sets a key, or adds it behind the section's last one; a section that is
// missing is added at the end. It fails for a name or value that could not
// stand on one line.
func (f *File) Set(section, key, value string) error {
	switch {
	case section == "" || key == "":
		return errors.New("an INI key needs a section and a name")
	case strings.ContainsAny(section+key+value, "\r\n\x00") || strings.ContainsAny(section, "[]") || strings.ContainsAny(key, "=[];"):
		return fmt.Errorf("section %q, key %q, value %q cannot stand in an INI file", section, key, value)
	}
	for _, r := range section + key + value {
		if f.kind == ansi && r > 0x7F {
			return fmt.Errorf("the file is in an old code page, and %q does not fit every one\nhint: write it in plain letters", value)
		}
	}
	at, next, there := f.find(section, key)
	if at >= 0 {
		l := &f.lines[at]
		head, old, _ := strings.Cut(l.text, "=")
		blank := old[:len(old)-len(strings.TrimLeft(old, " \t"))]
		l.text = head + "=" + blank + value
		return nil
	}
	end := f.lineEnd()
	if !there {
		if n := len(f.lines); n > 0 {
			if f.lines[n-1].end == "" {
				f.lines[n-1].end = end
				defer f.dropLastEnd()
			}
			if strings.TrimSpace(f.lines[n-1].text) != "" {
				f.lines = append(f.lines, line{"", end})
			}
		}
		f.lines = append(f.lines, line{"[" + section + "]", end}, line{key + "=" + value, end})
		return nil
	}
	if next == len(f.lines) && f.lines[next-1].end == "" { // the file has no final newline, and keeps having none
		f.lines[next-1].end = end
		defer f.dropLastEnd()
	}
	f.lines = append(f.lines[:next], append([]line{{key + "=" + value, end}}, f.lines[next:]...)...)
	return nil
}

// Remove takes a key out, and its section when that holds nothing more.
func (f *File) Remove(section, key string) {
	if at, _, _ := f.find(section, key); at >= 0 {
		f.lines = append(f.lines[:at], f.lines[at+1:]...)
	}
	if len(f.Keys(section)) > 0 {
		return
	}
	for i, l := range f.lines {
		if n, ok := l.section(); ok && strings.EqualFold(n, section) {
			if i+1 == len(f.lines) || strings.HasPrefix(strings.TrimSpace(f.lines[i+1].text), "[") {
				f.lines = append(f.lines[:i], f.lines[i+1:]...)
			}
			return
		}
	}
}

// dropLastEnd keeps a file that ended without a line end that way.
func (f *File) dropLastEnd() { f.lines[len(f.lines)-1].end = "" }

// lineEnd is the line end that the file uses.
func (f *File) lineEnd() string {
	for _, l := range f.lines {
		if l.end != "" {
			return l.end
		}
	}
	return "\r\n"
}

// Readable decodes a value of an old code page for people, as 1252.
func (f *File) Readable(v string) string {
	if f.kind != ansi {
		return v
	}
	b := make([]byte, 0, len(v))
	for _, r := range v {
		b = append(b, byte(r))
	}
	out, err := charmap.Windows1252.NewDecoder().Bytes(b)
	if err != nil {
		return v
	}
	return string(out)
}
