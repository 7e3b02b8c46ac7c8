// This file reads one entry: stamp, level, part, words, in any order that is
// written.

package generic

import (
	"bytes"
	"cmp"
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
	blank  bool          // a record without words: as a blank line
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

// kindOfWord is the level that a word is for. It is asked of each of a line's
// first words.
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
	if e, ok := logfmt(line, false); ok {
		return e, true
	}
	// Stamp, level and part may stand in any order; what is left behind them is
	// what is said.
	rest := line
	stamped := false
	if at := bytes.TrimLeft(rest, "[(<"); len(rest)-len(at) <= 1 {
		if date, clock, n := lines.Stamp(at); n > 0 {
			e.date, e.at, stamped = date, clock, true
			rest = bytes.TrimLeft(at[n:], "])> \t,-|:")
			if pairs, ok := logfmt(rest, true); ok {
				pairs.date, pairs.at = e.date, e.at
				return pairs, true
			}
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

// logger is a program's logger in front of a text: the dotted path of a class,
// or of its method, which a host's name never looks like.
var logger = lazy.MustCompile(`^(?:in )?((?:[a-z_]\w*\.){1,6}[A-Z]\w*(?:[.$][A-Za-z]\w*)*)(?: - | — |: | )(\S.*)$`)

// unlog takes the logger off the front of an entry's text.
func (e *entry) unlog() {
	word, _, _ := strings.Cut(strings.TrimPrefix(e.text, "in "), " ")
	if strings.IndexByte(word, '.') <= 0 || word[0] < '_' || word[0] > 'z' { // as of most lines
		return
	}
	// A class and a method alone are the head of an entry whose text stands on
	// the next line.
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
				// Only a dash parts a logger from its text: before a colon may
				// stand what went wrong ("EBUSY: …").
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

// ofSentence says whether a word for a level is one of a sentence: in small
// letters, with the next word or the end right behind it.
func ofSentence(level string, behind []byte) bool {
	if level != strings.ToLower(level) || len(level) < len("note") {
		return false
	}
	goesOn := len(behind) > 1 && behind[0] == ' ' && (behind[1] >= 'a' && behind[1] <= 'z' || behind[1] == '(')
	return goesOn || strings.Trim(string(behind), ".!") == ""
}

// ofAll is the number of a step and how many there are.
var ofAll = lazy.MustCompile(`^\d{1,2} ?(?:/|of|von|de|di|sur|van|z|av|из) ?\d{1,2}$`)

// valued says whether what stands behind a word for a level makes it the name
// of a value or of a number.
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

// longestKey is how many bytes a key at the head of a line of pairs has at
// most.
const longestKey = 16

// paired says whether a line begins with a key, and has more of them: no
// sentence does.
func paired(line []byte) bool {
	at := bytes.IndexByte(line[:min(len(line), longestKey+1)], '=')
	return at > 0 && !bytes.ContainsAny(line[:at], " \"'\\/:([{<") && bytes.Count(line, []byte("=")) > 1
}

// logfmt reads time=… level=error msg="…": pairs with a time or a level, and
// words. Behind a stamp no pair needs to be one, and nothing may follow them.
func logfmt(line []byte, stamped bool) (e entry, ok bool) {
	levelled := bytes.Contains(line, []byte("level=")) || bytes.Contains(line, []byte("lvl="))
	if !levelled && !paired(line) && (!stamped || bytes.Count(line, []byte("=")) < 2) {
		return e, false
	}
	var fs []field
	rest := string(line)
	// Name=value, with quotes where a value has blanks; the first word that is
	// no pair ends the list.
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
	if stamped {
		fs = append(fs, field{name: "time"})
	}
	if len(fs) < 2 || !levelled && !told(fs) || stamped && strings.TrimSpace(rest) != "" {
		return e, false
	}
	return compose(fs)
}

// told says whether named values are those of a log's line: when or how grave
// it is, and what it says.
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
