// This file makes an entry of named values, whatever they are called and in
// whichever language.

package generic

import (
	"bytes"
	"cmp"
	_ "embed"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/story"
)

// A field is one named value of a record: of a JSON object, a table's row, an
// XML element, or key=value pairs.
type field struct {
	name, value string
	deep        bool // it stands in an object beside the record's own values: its name says nothing about the record
}

// meaning is what the field's name means for the record.
func (f field) meaning() string {
	if m := meaning(f.name); !f.deep || m == "dull" || m == "machine" {
		return m
	}
	return ""
}

// names.txt says what the names of fields mean, in all languages that we read:
// a line for each meaning, then the names in small letters.
//
//go:embed names.txt
var namesText string

// meanings are what a field's name can mean.
var meanings = func() map[string]string {
	m := map[string]string{}
	for line := range strings.Lines(namesText) {
		words := strings.Fields(line)
		if len(words) == 0 || words[0] == "#" {
			continue
		}
		for _, w := range words[1:] {
			m[w] = words[0]
		}
	}
	return m
}()

// meaning is what a name means by itself; empty when that is not known. Of a
// nested name the last part counts.
func meaning(name string) string {
	low := strings.ToLower(strings.TrimSpace(name))
	if m, ok := meanings[low]; ok {
		return m
	}
	return meanings[low[strings.LastIndexByte(low, '.')+1:]]
}

const (
	maxNamed = 12  // further values that are told behind the text
	maxValue = 400 // bytes of one of them
)

// numericLevels are those of loggers that count in tens, and of management
// agents that count from one.
var numericLevels = map[string]string{"10": "trace", "20": "debug", "30": "info", "40": "warn", "50": "error", "60": "fatal",
	"1": "info", "2": "warn", "3": "error"}

// compose makes an entry of named values: by what their names mean, and where
// that is not known by what the values are. What has no place of its own
// follows the text as name=value, since it may say what failed.
func compose(fs []field) (e entry, ok bool) {
	e = entry{at: -1, kind: story.KindInfo, named: true}
	used := make([]bool, len(fs))
	first := func(what string) string {
		for i, f := range fs {
			if !used[i] && f.value != "" && f.meaning() == what {
				used[i] = true
				return f.value
			}
		}
		return ""
	}
	level, number := levelOf(fs, used)
	e.number = number
	for range 2 { // a date and a time may stand apart
		date, at := stampOf(first("time"))
		e.date = cmp.Or(e.date, date)
		if at >= 0 {
			e.at = at
		}
	}
	if level == "" && number == "" && e.at >= 0 { // what has a time is a log's record
		level = levelByValue(fs, used)
	}
	if g := peel.Level(level); g != peel.Unknown {
		e.kind, e.level = ofGravity[g], true
	}
	e.source, e.sourceName = speaker(fs, used)
	text := first("text")
	if text == "" && e.kind > story.KindWarning && emptyText(fs) { // a blank line of what a collector wrote down
		e.blank = true
		return e, true
	}
	if text == "" {
		text = longest(fs, used)
	}
	e.text = filled(text, fs, used)
	for i, f := range fs {
		switch f.meaning() {
		case "product":
			e.product = cmp.Or(e.product, f.value)
		case "version":
			e.version = cmp.Or(e.version, f.value)
		case "machine":
			e.host, used[i] = cmp.Or(e.host, f.value), true
		case "dull":
			used[i] = !strings.ContainsAny(f.value, "= ") // a context may hold values of its own
		}
	}
	if e.version == "" { // a name alone may be that of anything
		e.product = ""
	}
	if level == "" && e.text == "" && e.at < 0 {
		return e, false
	}
	told := 0
	before := len(e.text)
	for i, f := range fs {
		if used[i] || f.value == "" || f.value == "-" || f.value == e.text || told >= maxNamed {
			continue
		}
		told++
		head, more, _ := strings.Cut(f.value, "\n")
		e.text += " " + f.name + "=" + strings.TrimSpace(story.Clip(head, maxValue))
		if more != "" {
			e.extra = append(e.extra, strings.Split(more, "\n")...)
		}
	}
	e.fields = len(e.text) - before
	e.text = strings.TrimSpace(e.text) // the fields end with no blank
	return e, e.text != ""
}

// emptyText says whether a record has a place for words, and nothing in it.
func emptyText(fs []field) bool {
	return slices.ContainsFunc(fs, func(f field) bool { return f.value == "" && f.meaning() == "text" })
}

// speaker takes the field that tells who wrote a record, and its name: a path
// or an address is what the record is about.
func speaker(fs []field, used []bool) (value, name string) {
	for i, f := range fs {
		if !used[i] && f.value != "" && f.meaning() == "source" && !strings.ContainsAny(f.value, `\\`) && !strings.Contains(f.value, ":/") {
			used[i] = true
			return f.value, f.name
		}
	}
	return "", ""
}

// levelOf takes the fields that tell how grave a record is: a word before a
// number, which may be a priority that all records share.
func levelOf(fs []field, used []bool) (level, number string) {
	for i, f := range fs {
		if used[i] || f.value == "" || f.meaning() != "level" {
			continue
		}
		w, numeric := numericLevels[f.value]
		switch {
		case peel.Level(f.value) != peel.Unknown:
			if used[i] = true; peel.Level(level) == peel.Unknown || numericLevel(fs, level) {
				level, number = f.value, ""
			}
		case numeric:
			if used[i] = true; level == "" {
				level, number = w, f.value
			}
		case level == "" && len(f.value) == 1 && f.value[0] >= '0' && f.value[0] <= '9':
			used[i], number = true, f.value
		case level == "":
			used[i], level = true, f.value
		}
	}
	return level, number
}

// levelByValue takes the field whose name says nothing and whose whole value is
// a word for how grave a record is; of several none, since they may be about
// something else.
func levelByValue(fs []field, used []bool) string {
	at := -1
	for i, f := range fs {
		if used[i] || len(f.value) < 2 || f.deep || meaning(f.name) != "" || peel.Level(f.value) == peel.Unknown {
			continue
		}
		if at >= 0 {
			return ""
		}
		at = i
	}
	if at < 0 {
		return ""
	}
	used[at] = true
	return fs[at].value
}

// numericLevel says whether a level was told by a number and not by its word.
func numericLevel(fs []field, level string) bool {
	return !slices.ContainsFunc(fs, func(f field) bool { return f.value == level })
}

// longest is the longest value with a blank in it: words, not a name.
func longest(fs []field, used []bool) string {
	at := -1
	for i, f := range fs {
		if !used[i] && !f.deep && strings.Contains(f.value, " ") && (at < 0 || len(f.value) > len(fs[at].value)) {
			at = i
		}
	}
	if at < 0 {
		return ""
	}
	used[at] = true
	return fs[at].value
}

// filled puts the values into a text that names them: "Copied {Count} files".
func filled(text string, fs []field, used []bool) string {
	if !strings.Contains(text, "{") {
		return text
	}
	for i, f := range fs {
		if f.name == "" || !strings.Contains(text, "{"+f.name) {
			continue
		}
		for n := 0; n < maxNamed; n++ {
			from := strings.Index(text, "{"+f.name)
			if from < 0 {
				break
			}
			end := strings.IndexByte(text[from:], '}')
			after := text[from+1+len(f.name)]
			if end < 0 || after != '}' && after != ':' && after != ',' {
				break
			}
			text = text[:from] + f.value + text[from+end+1:]
			used[i] = true
		}
	}
	return text
}

// stampOf reads a time in any form, or seconds or milliseconds since 1970.
func stampOf(v string) (date string, at time.Duration) {
	if date, at, n := peel.Stamp([]byte(v)); n > 0 {
		return date, at
	}
	if n, err := strconv.ParseFloat(v, 64); err == nil && n > 1e9 && n < 1e14 {
		if n > 1e11 {
			n /= 1000
		}
		sec, frac := math.Modf(n)
		t := time.Unix(int64(sec), int64(frac*1e9)).UTC()
		return t.Format("2006-01-02"), t.Sub(t.Truncate(24 * time.Hour)).Truncate(time.Millisecond)
	}
	for _, form := range []string{"2006-01-02", "02/01/2006", "01-02-2006", "02.01.2006"} {
		if _, err := time.Parse(form, v); err == nil {
			return v, -1
		}
	}
	return "", -1
}

// A form is a way of writing records that was told from a text's first lines.
type form func(line []byte) (e entry, ok bool)

// learn tells the form of a text from its first lines; nil when it has none of
// these.
func learn(lines [][]byte) form {
	for _, try := range []func([][]byte) form{syslog, table, page, elements} {
		if f := try(lines); f != nil {
			return f
		}
	}
	return nil
}

// Formed says whether lines are records of a form of their own: a table's rows,
// a page's, elements, or objects.
func Formed(lines [][]byte) bool {
	objects, all := 0, 0
	for _, l := range lines {
		if t := bytes.TrimSpace(l); len(t) > 0 {
			if all++; t[0] == '{' && t[len(t)-1] == '}' && bytes.Contains(t, []byte(`":`)) {
				objects++
			}
		}
	}
	return objects*2 > all || learn(lines) != nil
}

// agree says whether a form reads most of the lines that could be records of
// it; blank ones, remarks and elements that only hold others are not.
func agree(f form, lines [][]byte) bool {
	read, all := 0, 0
	for _, l := range lines {
		t := strings.TrimSpace(string(l))
		if t == "" || t[0] == '#' || t[0] == '<' && (!strings.Contains(t, "=") && strings.Count(t, "<") == 1 || strings.HasPrefix(t, "<?")) {
			continue
		}
		all++
		if _, ok := f(l); ok {
			read++
		}
	}
	return read >= 2 && read*2 >= all
}
