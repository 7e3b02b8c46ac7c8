package generic

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
)

// An entry is one log entry in whatever form it was written.
type entry struct {
	date   string        // year-month-day, empty when the line has none
	at     time.Duration // time of day; -1 where the line has none
	kind   story.Kind    // error, warning or other
	level  bool          // the level was written, not guessed
	bare   bool          // that number is called nothing: it may as well be a thread's
	number string        // the level where it is one figure, whose meaning differs from log to log
	source string        // who wrote it, where the line says so
	text   string        // without stamp, level and source
	fields int           // bytes at the end of the text that are the record's further fields
	extra  []string      // further lines that an object held: error, stack
	named  bool          // it is made of named values: nothing else can be peeled off

	product, version string // as named values give them
	host             string // likewise: of the machine that speaks, or of another one
	sourceName       string // what the value that became the source is called
}

// levels are the words for how grave an entry is.
var levels = map[string]story.Kind{
	"fatal": story.KindError, "critical": story.KindError, "crit": story.KindError, "severe": story.KindError, "error": story.KindError,
	"err": story.KindError, "emerg": story.KindError, "alert": story.KindError, "panic": story.KindError, "failure": story.KindError,
	"warn": story.KindWarning, "warning": story.KindWarning, "wrn": story.KindWarning,
	"info": story.KindInfo, "information": story.KindInfo, "inf": story.KindInfo, "notice": story.KindInfo, "success": story.KindInfo,
	"debug": story.KindText, "dbg": story.KindText, "trace": story.KindText, "verbose": story.KindText, "vrb": story.KindText,
	"fine": story.KindText, "finer": story.KindText, "finest": story.KindText, "config": story.KindText, "trc": story.KindText,
	"ftl": story.KindError,
	"e":   story.KindError, "f": story.KindError, "w": story.KindWarning, "i": story.KindInfo, "d": story.KindText, "v": story.KindText,
}

// longestWord is how many bytes the longest of them has.
const longestWord = len("information")

// kindOfWord is the level that a word is for. It is asked of each of a line's first words.
func kindOfWord(word []byte) (kind story.Kind, known bool) {
	word = bytes.TrimSpace(word)
	if len(word) > longestWord {
		return kind, false
	}
	var low [longestWord]byte
	for i, c := range word {
		if c >= utf8.RuneSelf { // in no level
			return kind, false
		}
		if c >= 'A' && c <= 'Z' {
			c |= 0x20
		}
		low[i] = c
	}
	kind, known = levels[string(low[:len(word)])]
	return kind, known
}

// parse reads an entry; ok is false for a line that has neither time nor level.
func parse(line []byte) (e entry, ok bool) {
	e = entry{at: -1, kind: story.KindText}
	if t := bytes.TrimSpace(line); len(t) > 1 && t[0] == '{' && t[len(t)-1] == '}' {
		if e, ok := object(t); ok {
			return e, true
		}
	}
	if e, ok := logfmt(line); ok {
		return e, true
	}
	rest := line
	stamped := false
	if at := bytes.TrimLeft(rest, "[(<"); len(rest)-len(at) <= 1 {
		if date, clock, n := lines.Stamp(at); n > 0 {
			e.date, e.at, stamped = date, clock, true
			rest = bytes.TrimLeft(at[n:], "])> \t,-|:")
		}
	}
	level, source, text := words(rest)
	if !stamped && !glog(&rest, &e) && (level == "" || !begins(rest, level)) {
		return e, false
	}
	if level == "" {
		level, source, text = words(rest)
	}
	if level != "" {
		e.kind, _ = kindOfWord([]byte(level))
		e.level = true
	}
	e.source, e.text = cmp.Or(source, e.source), strings.TrimSpace(string(text))
	e.unlog()
	return e, e.text != ""
}

// logger is a program's logger in front of a text: the dotted path of a class, or of its
// method, which a host's name never looks like.
var logger = lazy.MustCompile(`^(?:in )?((?:[a-z_]\w*\.){1,6}[A-Z]\w*(?:[.$][A-Za-z]\w*)*)(?: - | — |: | )(\S.*)$`)

// unlog takes the logger off the front of an entry's text.
func (e *entry) unlog() {
	word, _, _ := strings.Cut(strings.TrimPrefix(e.text, "in "), " ")
	if strings.IndexByte(word, '.') <= 0 || word[0] < '_' || word[0] > 'z' { // as of most lines
		return
	}
	// A class and a method alone are the head of an entry whose text stands on the next line.
	if m := logger.FindStringSubmatch(e.text); m != nil && (e.level || strings.Contains(m[2], " ")) &&
		!strings.HasSuffix(m[1], "Exception") && !strings.HasSuffix(m[1], "Error") {
		e.source, e.text = m[1], m[2]
	}
}

// begins says whether an unstamped line begins with its level, as a word of its
// own or in brackets; a level word further on is only a word.
func begins(line []byte, level string) bool {
	t := bytes.TrimLeft(line, " \t[(<*")
	return len(t) > len(level) && strings.EqualFold(string(t[:len(level)]), level) && bytes.IndexByte([]byte(":]) >|-\t"), t[len(level)]) >= 0
}

const maxHeadWords = 5 // words before the text in which the level may stand

// words takes the level and the logger off the front: "[error] (install) text",
// "ERROR Logger - text", "ERROR: text". Without a level all is text.
func words(line []byte) (level, source string, text []byte) {
	rest := line
	var seen []string
	for n := 0; n < maxHeadWords; n++ {
		rest = bytes.TrimLeft(rest, " \t|-")
		if len(rest) == 0 {
			break
		}
		open, whole := rest[0], rest
		var word []byte
		bracketed := false
		switch open {
		case '[', '(', '<':
			close := bytes.IndexByte(rest, map[byte]byte{'[': ']', '(': ')', '<': '>'}[open])
			if close < 0 || close > 60 {
				return level, source, fallback(level, line, rest)
			}
			if ofPath(rest[1:close]) { // what the sentence is about, and no name of who speaks
				return level, source, fallback(level, line, rest)
			}
			word, rest, bracketed = rest[1:close], rest[close+1:], true
		default:
			end := bytes.IndexAny(rest, " \t:|")
			if end < 0 || end > 60 {
				return level, source, fallback(level, line, rest)
			}
			word = rest[:end]
			after := rest[end:]
			if level == "" {
				if _, known := kindOfWord(word); !known && n == 0 && after[0] == ':' {
					return "", "", line
				}
			}
			if level != "" {
				trimmed := bytes.TrimLeft(after, " ")
				// Only a dash parts a logger from its text: before a colon may stand what
				// went wrong ("EBUSY: …").
				if len(trimmed) > 1 && trimmed[0] == '-' && trimmed[1] == ' ' && bytes.IndexByte(word, ' ') < 0 && len(word) > 1 {
					return level, string(word), bytes.TrimLeft(trimmed[1:], " ")
				}
				return level, source, rest
			}
			rest = after
		}
		w := strings.TrimSpace(string(word))
		if _, known := kindOfWord(word); known && (len(w) > 1 || bracketed) && level == "" {
			if !bracketed && n > 0 && ofSentence(w, rest) { // "a security error occurred"
				return "", "", line
			}
			if !bracketed && w != strings.ToUpper(w) && valued(rest) { // "success: true", "error 1069: …"
				if len(seen) > 0 {
					source = seen[len(seen)-1]
				}
				return "", source, whole
			}
			level = w
			rest = bytes.TrimLeft(rest, ":")
			if source == "" && len(seen) > 0 {
				source = seen[len(seen)-1]
			}
			continue
		}
		if bracketed && level != "" {
			if ofAll.MatchString(w) { // a step's number, which the text begins with
				return level, source, whole
			}
			source = w
			continue
		}
		if level != "" {
			break
		}
		seen = append(seen, w)
	}
	return level, source, fallback(level, line, rest)
}

// ofPath says whether what stands in brackets is the path of a file or folder.
func ofPath(b []byte) bool {
	return len(b) > 3 && (b[1] == ':' && (b[2] == '\\' || b[2] == '/') || bytes.HasPrefix(b, []byte(`\\`)))
}

// ofSentence says whether a word for a level is one of a sentence: in small letters, with the next word or the end right
// behind it.
func ofSentence(level string, behind []byte) bool {
	if level != strings.ToLower(level) || len(level) < len("note") {
		return false
	}
	goesOn := len(behind) > 1 && behind[0] == ' ' && (behind[1] >= 'a' && behind[1] <= 'z' || behind[1] == '(')
	return goesOn || strings.Trim(string(behind), ".!") == ""
}

// ofAll is the number of a step and how many there are.
var ofAll = lazy.MustCompile(`^\d{1,2} ?(?:/|of|von|de|di|sur|van|z|av|из) ?\d{1,2}$`)

// valued says whether what stands behind a word for a level makes it the name of a value or of a number.
func valued(rest []byte) bool {
	if len(rest) > 1 && rest[0] == ' ' && rest[1] >= '0' && rest[1] <= '9' {
		return true
	}
	value := pieces.Lower(pieces.ValueBehind(string(rest)))
	return pieces.IsYes(value) || pieces.IsNo(value)
}

// fallback is the text: what is left when a level was found, else all of it.
func fallback(level string, line, rest []byte) []byte {
	if level == "" {
		return line
	}
	return bytes.TrimLeft(rest, " \t:-|")
}

// glog reads "E0102 15:04:05.000000 1234 file.go:12] text".
func glog(rest *[]byte, e *entry) bool {
	l := *rest
	if len(l) < 14 || bytes.IndexByte([]byte("IWEFDV"), l[0]) < 0 || l[1] < '0' || l[1] > '9' || l[5] != ' ' {
		return false
	}
	_, at, n := lines.Stamp(l[6:])
	if n == 0 {
		return false
	}
	close := bytes.Index(l, []byte("] "))
	if close < 0 {
		return false
	}
	e.at, e.date = at, string(l[1:5])
	// where in its source it speaks
	if e.source, _, _ = strings.Cut(string(l[bytes.LastIndexByte(l[:close], ' ')+1:close]), ":"); strings.Trim(e.source, "0123456789") == "" {
		e.source = ""
	}
	*rest = append([]byte{'[', l[0], ']', ' '}, l[close+2:]...)
	return true
}

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

// flatObject reads an object whose values are numbers, words and plain strings, as most lines of
// JSON logs are, some ten times faster than the standard decoder, which reads all others.
func flatObject(t []byte) (fs []field, ok bool) {
	t = bytes.TrimSpace(t)
	if len(t) < 2 || t[0] != '{' || t[len(t)-1] != '}' {
		return nil, false
	}
	fs = make([]field, 0, bytes.Count(t, []byte(`":`)))
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

// simpleEscapes are what JSON writes behind a backslash, but for a letter by its number. Source: RFC 8259, section 7.
var simpleEscapes = [256]byte{'"': '"', '\\': '\\', '/': '/', 'b': '\b', 'f': '\f', 'n': '\n', 'r': '\r', 't': '\t'}

// escapedString is plainString for one with such escapes, as every path of the OS has; one with letters by their numbers is not read.
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

// plainValue reads a number or one of JSON's words at the begin of t, as flat writes it.
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

// within are the fields of an object in an envelope: {"meta":{…},"data":{"message":…}}.
// Only names whose meaning is known say that it is one.
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

// deepest is how many objects within each other are opened beside a record's own values.
const deepest = 3

// beside are the values of an object that stands beside a record's own: "fields": {"path": …, "err": 32}.
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

// thrown says whether an object is a value by itself, as an exception is: it has words of its own.
func thrown(m map[string]any) bool {
	for _, k := range []string{"message", "stack", "hresult"} {
		if _, is := m[k]; is {
			return true
		}
	}
	return false
}

// values are names of objects that are a value by themselves: of an error, an exception.
var values = []string{"error", "err", "exception", "cause"}

// thrownParts are the parts of an exception in the order in which they are told; what else it holds follows.
var thrownParts = []string{"type", "name", "code", "errno", "message", "path", "stack", "hresult", "inner"}

// flat writes a JSON value on one line.
func flat(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return v
	case map[string]any:
		var parts []string
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

// longestKey is how many bytes a key at the head of a line of pairs has at most.
const longestKey = 16

// paired says whether a line begins with a key, and has more of them: no sentence does.
func paired(line []byte) bool {
	at := bytes.IndexByte(line[:min(len(line), longestKey+1)], '=')
	return at > 0 && !bytes.ContainsAny(line[:at], " \"'\\/:([{<") && bytes.Count(line, []byte("=")) > 1
}

// logfmt reads time=… level=error msg="…": pairs with a time or a level, and words.
func logfmt(line []byte) (e entry, ok bool) {
	levelled := bytes.Contains(line, []byte("level=")) || bytes.Contains(line, []byte("lvl="))
	if !levelled && !paired(line) {
		return e, false
	}
	var fs []field
	rest := string(line)
	for n := 0; n < 100; n++ {
		rest = strings.TrimLeft(rest, " \t")
		eq := strings.IndexByte(rest, '=')
		if eq <= 0 || strings.ContainsAny(rest[:eq], " \"") {
			break
		}
		key := rest[:eq]
		rest = rest[eq+1:]
		var value string
		if strings.HasPrefix(rest, `"`) {
			i := 1
			for i < len(rest) && rest[i] != '"' {
				if rest[i] == '\\' {
					i++
				}
				i++
			}
			value = strings.NewReplacer(`\"`, `"`, `\\`, `\`).Replace(rest[1:min(i, len(rest))])
			rest = rest[min(i+1, len(rest)):]
		} else {
			end := strings.IndexAny(rest, " \t")
			if end < 0 {
				end = len(rest)
			}
			value, rest = rest[:end], rest[end:]
		}
		fs = append(fs, field{name: key, value: value})
	}
	if len(fs) < 2 || !levelled && !told(fs) {
		return e, false
	}
	return compose(fs)
}

// told says whether named values are those of a log's line: when or how grave it is, and
// what it says.
func told(fs []field) bool {
	head, words := false, false
	for _, f := range fs {
		switch meaning(f.name) {
		case "time", "level":
			head = true
		case "text":
			words = true
		}
	}
	return head && words
}
