// This file has the kinds of columns that lines can begin with, and takes one
// off a line.

package peel

import (
	"bytes"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
)

// An atom is a kind of thing that a line can begin with. Where two fit as many
// lines, the one that is named first says more.
type atom uint8

const (
	stamp      atom = iota // a date, a time, or both
	stampGroup             // a bracket that begins with one
	level                  // a word for how grave the line is
	levelGroup             // a bracket that holds one alone
	levelTag               // a letter for how grave it is before a name or a stamp: E/setup:, E/setup(412), E0511 07:40:18
	priority               // <134>
	day                    // a date whose time stands in another column: 2026/05/11 error 07:40:02
	tag                    // a name with a colon behind it, maybe with a number: setup[3320]:
	cell                   // a name that ends at a bar, a tab, a semicolon or a comma
	number                 // digits, or 0x and digits
	elapsed                // seconds since the program's start without a sign or unit, which rise from line to line:    0.551
	group                  // any other bracket
	logger                 // a name with a dash behind it, or two colons, between blanks
	numbered               // a name with a number in a bracket behind it, and no colon: reg(3)
	sign                   // one letter or sign of its own, maybe doubled: e, w, !, --
	padded                 // a name with blanks up to where all lines go on
	word                   // the very same word on all lines
	speaker                // a name before a level's word or letter
	suffixed               // a name that ends with a level: setup.info
	place                  // where in its source the program speaks: copy.cpp(118)
	mark                   // the very same sign: > or " or blanks
	joined                 // a name that a sign joins to the words, behind a stamp or a level: files> copied, app.copy:12 files
	counter                // the number of the line in its file, which a listing wrote, behind the file's name or without: 12: …
	leading                // a bare word for the part that speaks, behind a stamp or a level: fs copied base.dll
)

// stamps says whether a kind of column tells the time.
func (a atom) stamps() bool { return a == stamp || a == stampGroup }

// levels says whether a kind of column tells how grave a line is.
func (a atom) levels() bool {
	return a == level || a == levelGroup || a == levelTag || a == suffixed
}

// A value is what a column held on one line.
type value struct {
	stamped bool
	date    string
	at      time.Duration
	level   string
	name    string
	figure  string // a number of one digit, which may be a level
}

const (
	maxGroup = 60 // bytes in a bracket; a longer one is a part of the words
	maxName  = 60 // bytes of a name
	maxWord  = 24 // bytes of a word that is the same on all lines, such as a computer's name
)

// candidatesBehind are the kinds of columns that may stand behind those that
// were found.
func candidatesBehind(found Columns) []Column {
	all := slices.Clone(candidates)
	if found.Told() && !found.named() {
		all = append(all, behindTold[0])
		if found[len(found)-1].kind == number { // of a level that is a figure, where all columns are bare
			all = append(all, behindTold[1:]...)
		}
	}
	return all
}

var candidates = []Column{
	{kind: stamp}, {kind: stampGroup}, {kind: level}, {kind: levelGroup}, {kind: levelTag}, {kind: priority}, {kind: tag},
	{kind: cell, end: '|'}, {kind: cell, end: '\t'}, {kind: cell, end: ';'}, {kind: cell, end: ','},
	{kind: number}, {kind: elapsed}, {kind: group}, {kind: logger},
	{kind: numbered}, {kind: speaker}, {kind: suffixed}, {kind: place}, {kind: sign}, {kind: day},
}

// behindTold are further ones, that only lines have of which time or level is
// told, and no name yet: else any first word with a colon would be one.
var behindTold = []Column{{kind: joined}, {kind: leading}}

// signs are levels that are told by a sign.
var signs = map[byte]string{'!': "warning", 'x': "error", 'X': "error", '*': "info"}

// Of a column of names that blanks fill up: it is so wide at most, and no name
// stands on more than this share of the lines, else it is the first word of
// what they say.
const (
	widest   = 24   // letters and blanks; longer columns of names are parted by signs
	oneName  = 0.95 // of the lines: some part of a program says its name in nearly all of them
	agreeing = 0.9  // of the lines have the column: the rest are lines that go on
	// two names, or names of one length, make such a column where so many
	// blanks stand behind each, on so many lines: nobody writes words so
	wideGap, fewestWide = 2, 8
)

// filledUp is how wide the column of names is that lines begin with, each
// filled up with blanks; 0 where they begin with no such column.
func filledUp(lines [][]byte) byte {
	type field struct {
		name     string
		from, to int // behind the name, and where the blanks behind it end, by letters
	}
	var fields []field
	widths := map[int]bool{}
	for _, l := range lines {
		w, n := nameAt(l)
		at := n
		for at < len(l) && l[at] == ' ' {
			at++
		}
		more := n - utf8.RuneCountInString(w) // they stand in line by letters
		if w == "" || at == n || at == len(l) {
			continue
		}
		fields = append(fields, field{w, n - more, at - more})
		widths[at-more] = at-more <= widest
	}
	for _, at := range slices.Sorted(maps.Keys(widths)) {
		names, lengths := map[string]int{}, map[int]bool{}
		k, often, gap := 0, 0, at
		for _, f := range fields {
			if f.from < at && at <= f.to { // what a line says may be set in further
				k++
				gap = min(gap, at-f.from)
				names[f.name]++
				lengths[len(f.name)], often = true, max(often, names[f.name])
			}
		}
		agree := float64(k) >= agreeing*float64(len(lines)) && float64(often) <= oneName*float64(k)
		wide := gap >= wideGap && k >= fewestWide
		if widths[at] && agree && (len(lengths) > 1 && len(names) > 2 || len(names) > 1 && wide) {
			return byte(at)
		}
	}
	return 0
}

// constant says whether the column is the same text on every line.
func (c Column) constant() bool { return c.kind == word || c.kind == mark }

// take reads the column off a line; rest is what stands behind it and behind
// the blanks and signs that part columns.
func (c Column) take(line []byte) (v value, rest []byte, ok bool) {
	v, rest, ok = c.off(line)
	if ok && c.kind != mark && c.kind != counter && c.kind != numbered && !c.grouped() { // those keep what stands behind, or have parted it
		rest = parted(rest)
	}
	return v, rest, ok
}

// off is take with rest as it stands right behind the column.
func (c Column) off(line []byte) (v value, rest []byte, ok bool) {
	v.at = -1
	switch c.kind {
	case word, mark:
		rest, ok = bytes.CutPrefix(line, []byte(c.word))
	case counter:
		_, rest, ok = c.count(line)
	case stamp:
		var n int
		if v.date, v.at, n = anyStamp(line); n > 0 {
			v.stamped, rest, ok = true, line[n:], true
		}
	case stampGroup, levelGroup, priority, group:
		if g, bracket := groupAt(line); bracket && g.is(c.kind) {
			return g.value, g.rest, true
		}
		return v, nil, false
	case level:
		n := nameLen(line)
		if levelOf(line[:n]) != Unknown && (n > 1 || n < len(line) && line[n] != ' ') {
			v.level, rest, ok = string(line[:n]), line[n:], true
			if len(rest) > 2 && rest[0] == ':' && rest[1] > ' ' && rest[1] != ':' { // and who speaks: E:files: …
				rest = rest[1:]
			}
		}
	case tag:
		v, rest, ok = takeTag(line)
	case cell:
		if i := bytes.IndexByte(line, c.end); i >= 0 && i <= maxName && !openedBy(line[:i]) && (c.end != ',' || ofOneWord(line, i)) {
			if v, rest, ok = named(line[:i]), line[i:], true; i == 1 && digits(line[:i]) == 1 {
				v.figure = string(line[:i])
			} else if seconds := bytes.Trim(line[:i], " "); len(seconds) > 0 && seconds[len(seconds)-1] <= '9' {
				if at, n := plainSeconds(append(bytes.Clone(seconds), ' ')); n == len(seconds) {
					v = value{at: at, stamped: true}
				}
			}
		}
	case number:
		line = bytes.TrimLeft(line, " ") // they may stand in line by their last figure
		n := digits(line)
		if n > 0 && n <= maxWord && n < len(line) && parts(line[n]) {
			if rest, ok = line[n:], true; n == 1 {
				v.figure = string(line[:1])
			}
		}
	case elapsed:
		line = bytes.TrimLeft(line, " ")
		if at, n := plainSeconds(line); n > 0 {
			v.at, v.stamped, rest, ok = at, true, line[n:], true
		}
	case levelTag:
		if len(line) > 4 && line[1] == '/' && levelOf(line[:1]) != Unknown {
			if v, rest, ok = takeTag(line[2:]); !ok {
				v, rest, ok = stampedTag(line[2:])
			}
			if ok {
				v.level = string(line[:1])
			}
		} else if v, rest, ok = letterStamp(line); ok {
			break
		}
	case numbered:
		if n := nameLen(line); n > 0 && n < len(line) && (line[n] == '(' || line[n] == '[') {
			k := digits(line[n+1:])
			if end := n + 1 + k; k > 0 && end+1 < len(line) && (line[end] == ')' || line[end] == ']') && line[end+1] == ' ' {
				return named(line[:n]), bytes.TrimLeft(line[end+1:], " "), true // a dash behind it is a sign
			}
		}
	case speaker:
		n := nameLen(line)
		behind := bytes.TrimLeft(line[n:], " ")
		k := nameLen(behind)
		if n > 1 && k > 0 && n < len(line) && line[n] == ' ' && levelOf(behind[:k]) != Unknown && levelOf(line[:n]) == Unknown {
			v, rest, ok = named(line[:n]), line[n:], true
		}
	case suffixed:
		if n := nameLen(line); n > 0 && n < len(line) && (line[n] == ' ' || line[n] == ':') {
			at := max(bytes.LastIndexByte(line[:n], '.'), bytes.LastIndexByte(line[:n], '/'))
			if at > 0 && n-at > 2 && levelOf(line[at+1:n]) != Unknown {
				v.name, v.level, rest, ok = string(line[:at]), string(line[at+1:n]), bytes.TrimPrefix(line[n:], []byte(":")), true
			}
		}
	case place:
		head := line[:min(len(line), maxGroup)]
		if i := bytes.IndexAny(head, "(:"); i <= 0 || bytes.IndexByte(head[:i], ' ') >= 0 { // as most lines
			break
		}
		m := inSource.FindSubmatch(head)
		if m == nil {
			m = inFunction.FindSubmatch(head)
		}
		if m != nil {
			v.name, rest, ok = string(m[1]), line[len(m[0]):], true
		}
	case sign:
		if n := doubled(line); n > 1 && n < len(line)-1 && line[n] == ' ' {
			if rest, ok = line[n:], true; line[0] == '!' { // other signs in a row only set off
				v.level = signs['!']
			}
		} else if len(line) > 2 && line[1] == ' ' && line[0] > ' ' && line[0] < 0x80 && (line[0] < '0' || line[0] > '9') {
			v.level, rest, ok = signs[line[0]], line[1:], true
			if v.level == "" && Level(string(line[:1])) != Unknown {
				v.level = string(line[:1])
			}
		}
	case padded:
		n := nameLen(line)
		end := int(c.end) + n - utf8.RuneCount(line[:n])
		if n > 0 && n < end && len(line) > end && len(bytes.TrimLeft(line[n:end], " ")) == 0 {
			v, rest, ok = named(line[:n]), line[end:], true
		}
	case day:
		if n := dayAt(line); n > 0 && n < len(line) && parts(line[n]) {
			v.date, rest, ok = string(line[:n]), line[n:], true
		}
	case joined:
		if w, n := nameAt(line); n > 0 {
			if i := strings.IndexAny(w, "：»›"); i > 0 { // letters to nameAt
				w, n = w[:i], i
			}
			v.name = w
			if rest, ok = behindJoint(line[n:]); !isPart(w) {
				ok = false
			}
		}
	case leading:
		if n := nameLen(line); n == 0 || n > longestLeading || n+1 >= len(line) || line[n] != ' ' { // as most lines
			break
		}
		if w, n := nameAt(line); isPart(w) && w == strings.ToLower(w) && n+1 < len(line) && line[n] == ' ' &&
			line[n+1] > ' ' {
			v.name, rest, ok = w, line[n:], true
		}
	case logger:
		n := nameLen(line)
		if r := bytes.TrimLeft(line[n:], " "); n > 1 && len(r) > 1 && (r[0] == '-' && r[1] == ' ' || len(r) < len(line[n:]) && dotted(r)) {
			v.name, rest, ok = string(line[:n]), r, true
		} else if after, two := bytes.CutPrefix(r, []byte(":: ")); n > 1 && two && len(r) < len(line[n:]) {
			v.name, rest, ok = string(line[:n]), after, true
		}
	}
	return v, rest, ok
}

// dayAt is the length of a date that a line begins with, of three numbers with
// the same sign between them, of which the first or the last is a year.
func dayAt(line []byte) int {
	if n := numericDate(line); n > 0 {
		return n
	}
	const form = "11.05.2026"
	if len(line) < len(form) || digits(line) != 2 || digits(line[3:]) != 2 || digits(line[6:]) != 4 || line[2] != line[5] ||
		bytes.IndexByte([]byte("./-"), line[2]) < 0 {
		return 0
	}
	return len(form)
}

// isPart says whether a name can be that of a program's part: it has two
// letters, and is no level.
func isPart(w string) bool {
	letters := 0
	for _, r := range w {
		if unicode.IsLetter(r) {
			letters++
		}
	}
	return letters > 1 && Level(w) == Unknown
}

// longestLeading is how many bytes a bare word for a part has at most: programs
// write them short.
const longestLeading = 10

// joints are the signs that join a name to the words, each with whether a blank
// must follow.
var joints = []struct {
	sign  string
	blank bool
}{{">", true}, {"：", false}, {"»", false}, {"›", false}, {"~", true}, {":", false}}

// behindJoint is what stands behind a sign that joins a name to a line's words.
// A colon before a stroke is that of an address or a drive, one before a blank
// is a tag's.
func behindJoint(line []byte) (rest []byte, ok bool) {
	for _, j := range joints {
		rest, ok = bytes.CutPrefix(line, []byte(j.sign))
		if ok && len(rest) > 0 && (!j.blank || rest[0] == ' ') && (j.sign != ":" || bytes.IndexByte([]byte(` \/:`), rest[0]) < 0) {
			return rest, true
		}
	}
	return nil, false
}

// Of names in front of sentences fewer need to come again; a sentence has so
// many blanks at least.
const (
	seldom   = 0.3
	sentence = 2
)

// dotted says whether a line begins with a sign that some programs put between
// columns, and a blank.
func dotted(line []byte) bool {
	for _, sign := range []string{"· ", "• ", "¦ ", "~ "} {
		if bytes.HasPrefix(line, []byte(sign)) {
			return true
		}
	}
	return false
}

// doubled is how often the sign that a line begins with is repeated there, when
// it is one that stands for a level: !!, .., ##.
func doubled(line []byte) (n int) {
	if len(line) == 0 || bytes.IndexByte([]byte("!.-#*+>~@"), line[0]) < 0 {
		return 0
	}
	for n < len(line) && n < widestSign && line[n] == line[0] {
		n++
	}
	return n
}

// widestSign is how many signs in a row stand for one level at most; more are a
// rule.
const widestSign = 3

// letterStamp reads a letter for how grave a line is with month, day and time
// right behind it: E0511 07:40:18.813000.
func letterStamp(line []byte) (v value, rest []byte, ok bool) {
	const head = len("E0511 ")
	v.at = -1
	if len(line) < head+len("7:40") || Level(string(line[:1])) == Unknown || digits(line[1:]) != head-2 ||
		line[head-1] != ' ' && line[head-1] != '/' {
		return v, nil, false
	}
	_, at, n := anyStamp(line[head:])
	if n == 0 || at < 0 {
		return v, nil, false
	}
	return value{stamped: true, at: at, level: string(line[:1])}, line[head+n:], true
}

// inSource is a source file, maybe with its folders, and a line of it.
var inSource = lazy.MustCompile(`^(?:[\w.-]+[\\/])*([\w-]+)\.(?:c|cc|cpp|cxx|cs|h|hpp|go|rs|py|java|kt|js|ts|pas|vb|swift|pl)(?:\(\d{1,5}\):?|:\d{1,5}:?)`)

// inFunction is a module, a function of it, and a line: env:run:92.
var inFunction = lazy.MustCompile(`^([A-Za-z_][\w.]{1,40}):[\w<>.]{1,40}:\d{1,5}\b`)

// ofOneWord says whether a cell that ends at a comma is one word, and the next
// follows without a blank: other commas part what a sentence says.
func ofOneWord(line []byte, comma int) bool {
	_, n := nameAt(line)
	return n > 0 && n == comma && comma+1 < len(line) && line[comma+1] != ' '
}

// openedBy says whether what stands before a bar is two columns, of which the
// first is a bracket: <files> D | copied.
func openedBy(cell []byte) bool {
	g, bracket := groupAt(cell)
	return bracket && len(g.rest) > 0
}

// named is a name, or a level.
func named(b []byte) (v value) {
	v.at = -1
	b = bytes.TrimSpace(b)
	w := string(b)
	switch {
	case levelOf(b) != Unknown:
		v.level = w
	case w != "" && w[len(w)-1] == '>': // a prompt: rollout>
		v.name = w[:len(w)-1]
	case digits(b) != len(b): // a number is a thread's or a process's
		v.name = w
	}
	return v
}

// ofName are the bytes that names of programs and loggers have: letters, digits
// and some signs.
var ofName = func() (t [256]bool) {
	for c := range t {
		t[c] = c >= 0x80 || c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || strings.IndexByte("._$-/@#", byte(c)) >= 0
	}
	return t
}()

// nameLen is how many bytes the name has that a line begins with; 0 for one
// that is too long.
func nameLen(line []byte) (n int) {
	for n < len(line) && ofName[line[n]] {
		n++
	}
	if n > maxName {
		return 0
	}
	return n
}

// nameAt is the name that a line begins with, and how long it is.
func nameAt(line []byte) (string, int) {
	n := nameLen(line)
	return string(line[:n]), n
}

// digits is the length of the number that a line begins with.
func digits(line []byte) (n int) {
	hex := bytes.HasPrefix(line, []byte("0x"))
	if hex {
		n = 2
	}
	for n < len(line) && (line[n] >= '0' && line[n] <= '9' || hex && (line[n]|0x20 >= 'a' && line[n]|0x20 <= 'f')) {
		n++
	}
	if hex && n == 2 {
		return 0
	}
	return n
}

// parts says whether a byte parts columns.
func parts(b byte) bool { return bytes.IndexByte([]byte(" \t|;,]"), b) >= 0 }

// parted is a line behind the blanks and the one sign that part two columns.
func parted(line []byte) []byte {
	for len(line) > 0 && (line[0] == ' ' || line[0] == '\t') {
		line = line[1:]
	}
	if len(line) == 0 || ofName[line[0]] && line[0] < 0x80 && line[0] != '-' { // as before most words
		return line
	}
	for _, sign := range []string{"|", ";", "- ", "– ", "-- ", "— ", ",", ": ", "· ", "• ", "¦ ", "~ ", "» ", "› "} {
		if rest, ok := bytes.CutPrefix(line, []byte(sign)); ok {
			return bytes.TrimLeft(rest, " \t")
		}
	}
	return line
}

// firstWord is a line's first word, when it may be a column: what comes first
// in words changes from line to line.
func firstWord(line []byte) string {
	n := bytes.IndexByte(line, ' ')
	if n <= 0 || n > maxWord || line[n-1] == '.' {
		return ""
	}
	return string(line[:n])
}

// firstMark is what a line is set off with: blanks, or signs of quoting.
func firstMark(line []byte) string {
	n := len(line) - len(bytes.TrimLeft(line, " \t>|#*\""))
	if n == 0 || n > maxWord {
		return ""
	}
	return string(line[:n])
}
