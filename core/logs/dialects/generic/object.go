// This file reads a line that is a JSON object.

package generic

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"hollowkey/core/logs/dialects/lines"
)

// object reads a JSON object as an entry, its keys in their order.
func object(t []byte) (e entry, ok bool) {
	fs, ok := flatObject(t)
	if !ok {
		fs, ok = decoded(t)
	}
	if !ok {
		return e, false
	}
	return compose(fs)
}

// decoded reads any object with the standard decoder.
func decoded(t []byte) (fs []field, ok bool) {
	dec := json.NewDecoder(bytes.NewReader(t))
	dec.UseNumber()
	if tok, err := dec.Token(); err != nil || tok != json.Delim('{') {
		return nil, false
	}
	// Loggers put the record itself into an envelope, or values of any depth
	// beside the words.
	var plainFields, inner []field
	for dec.More() {
		key, err := dec.Token()
		if err != nil {
			return nil, false
		}
		var v any
		if dec.Decode(&v) != nil {
			return nil, false
		}
		name, _ := key.(string)
		m, is := v.(map[string]any)
		if !is {
			f := field{name: name, value: flat(v)}
			fs, plainFields = append(fs, f), append(plainFields, f)
			continue
		}
		inner = append(inner, within(name, m)...)
		if meaning(name) == "text" || thrown(m) {
			fs = append(fs, field{name: name, value: flat(v)})
		} else {
			fs = append(fs, beside(m, deepest)...)
		}
	}
	text := func(f field) bool { return meaning(f.name) == "text" }
	inside := slices.ContainsFunc(inner, text) && !slices.ContainsFunc(plainFields, text) // "event": {"text": …}
	if inside || len(inner) > 0 && !slices.ContainsFunc(fs, text) {                       // an envelope
		fs = slices.Concat(plainFields, inner)
	}
	return fs, true
}

// flatObject reads an object whose values are numbers, words and plain strings,
// as most lines of JSON logs are, some ten times faster than the standard
// decoder, which reads all others.
func flatObject(t []byte) (fs []field, ok bool) {
	t = bytes.TrimSpace(t)
	if len(t) < 2 || t[0] != '{' || t[len(t)-1] != '}' {
		return nil, false
	}
	fs = make([]field, 0, bytes.Count(t, []byte(`":`)))
	// Most objects are flat, and lines with them come by the million: the
	// standard decoder is asked only for the others.
	for rest := t[1 : len(t)-1]; ; {
		key, after, ok := plainString(bytes.TrimLeft(rest, " \t"))
		after = bytes.TrimLeft(after, " \t")
		if !ok || len(after) == 0 || after[0] != ':' {
			return nil, false
		}
		rest = bytes.TrimLeft(after[1:], " \t")
		value := ""
		if len(rest) > 0 && rest[0] == '"' {
			value, rest, ok = plainString(rest)
		} else {
			value, rest, ok = plainValue(rest)
		}
		if !ok {
			return nil, false
		}
		fs = append(fs, field{name: key, value: value})
		if rest = bytes.TrimLeft(rest, " \t"); len(rest) == 0 {
			return fs, true
		}
		if rest[0] != ',' {
			return nil, false
		}
		rest = rest[1:]
	}
}

// plainString reads a string at the begin of t.
func plainString(t []byte) (s string, rest []byte, ok bool) {
	if len(t) < 2 || t[0] != '"' {
		return "", nil, false
	}
	end := bytes.IndexByte(t[1:], '"')
	if end < 0 {
		return "", nil, false
	}
	in := t[1 : 1+end]
	for _, c := range in {
		if c == '\\' {
			return escapedString(t)
		}
		if c < ' ' {
			return "", nil, false
		}
	}
	return string(in), t[end+2:], utf8.Valid(in)
}

// simpleEscapes are what JSON writes behind a backslash, but for a letter by
// its number. Source: RFC 8259, section 7.
var simpleEscapes = [256]byte{'"': '"', '\\': '\\', '/': '/', 'b': '\b', 'f': '\f', 'n': '\n', 'r': '\r', 't': '\t'}

// escapedString is plainString for one with such escapes, as every path of the
// OS has; one with letters by their numbers is not read.
func escapedString(t []byte) (s string, rest []byte, ok bool) {
	var b strings.Builder
	for i := 1; i < len(t); i++ {
		switch c := t[i]; {
		case c == '"':
			s = b.String()
			return s, t[i+1:], utf8.ValidString(s)
		case c < ' ':
			return "", nil, false
		case c != '\\':
			b.WriteByte(c)
		default:
			if i++; i >= len(t) || simpleEscapes[t[i]] == 0 {
				return "", nil, false
			}
			b.WriteByte(simpleEscapes[t[i]])
		}
	}
	return "", nil, false
}

// plainValue reads a number or one of JSON's words at the begin of t, as flat
// writes it.
func plainValue(t []byte) (s string, rest []byte, ok bool) {
	end := bytes.IndexAny(t, ", \t")
	if end < 0 {
		end = len(t)
	}
	switch w := string(t[:end]); {
	case w == "null":
		return "", t[end:], true
	case w != "" && w[0] != '{' && w[0] != '[' && json.Valid(t[:end]):
		return w, t[end:], true
	}
	return "", nil, false
}

// within are the fields of an object in an envelope:
// {"meta":{…},"data":{"message":…}}. Only names whose meaning is known say that
// it is one.
func within(name string, m map[string]any) (fs []field) {
	known := false
	for _, k := range slices.Sorted(maps.Keys(m)) {
		known = known || meaning(k) != ""
		if deeper, is := m[k].(map[string]any); is && !slices.Contains(values, k) {
			inner := within(name+"."+k, deeper)
			fs, known = append(fs, inner...), known || inner != nil
			continue
		}
		fs = append(fs, field{name: name + "." + k, value: flat(m[k])})
	}
	if !known {
		return nil
	}
	return fs
}

// deepest is how many objects within each other are opened beside a record's
// own values.
const deepest = 3

// beside are the values of an object that stands beside a record's own:
// "fields": {"path": …, "err": 32}.
func beside(m map[string]any, depth int) (fs []field) {
	for _, k := range slices.Sorted(maps.Keys(m)) {
		if inner, is := m[k].(map[string]any); is && depth > 1 && !thrown(inner) {
			fs = append(fs, beside(inner, depth-1)...)
			continue
		}
		fs = append(fs, field{name: k, value: flat(m[k]), deep: true})
	}
	return fs
}

// thrown says whether an object is a value by itself, as an exception is: it
// has words of its own.
func thrown(m map[string]any) bool {
	for _, k := range []string{"message", "stack", "hresult"} {
		if _, is := m[k]; is {
			return true
		}
	}
	return false
}

// values are names of objects that are a value by themselves: of an error, an
// exception.
var values = []string{"error", "err", "exception", "cause"}

// thrownParts are the parts of an exception in the order in which they are
// told; what else it holds follows.
var thrownParts = []string{"type", "name", "code", "errno", "message", "path", "stack", "hresult", "inner"}

// flat writes a JSON value on one line.
func flat(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return string(lines.Plain([]byte(v)))
	case map[string]any:
		var parts []string
		// Of an error's object the parts that tell most come first, in the
		// order in which people read them.
		if !thrown(v) {
			for _, k := range slices.Sorted(maps.Keys(v)) {
				parts = append(parts, k+"="+flat(v[k]))
			}
			return strings.Join(parts, " ")
		}
		for _, k := range thrownParts {
			if w, ok := v[k]; ok {
				parts = append(parts, flat(w))
			}
		}
		for _, k := range slices.Sorted(maps.Keys(v)) {
			if _, inner := v[k].(map[string]any); !inner && !slices.Contains(thrownParts, k) {
				parts[len(parts)-1] += " " + k + "=" + flat(v[k])
			}
		}
		return strings.Join(parts, ": ")
	case []any:
		var parts []string
		for _, x := range v {
			parts = append(parts, flat(x))
		}
		return strings.Join(parts, ", ")
	}
	return fmt.Sprint(v)
}
