// This file takes the engine's lines apart by their stamps and marks.

package engine

import (
	"bytes"
	"strconv"
	"time"
)

// prefixed takes a line of the form
//
//	MSI (s) (E0:E4) [06:12:57:486]: text
//
// apart: the side that wrote it (c client, s server, a custom action server, N
// nested), the time of day (-1 when it cannot be read) and the text.
func prefixed(line []byte) (side byte, at time.Duration, text []byte, ok bool) {
	if len(line) < 10 || line[0] != 'M' || line[1] != 'S' || line[2] != 'I' || line[3] != ' ' || line[4] != '(' || line[6] != ')' {
		return 0, 0, nil, false
	}
	head := line
	if len(head) > 48 {
		head = head[:48]
	}
	open := bytes.IndexByte(head, '[')
	if open < 0 {
		return 0, 0, nil, false
	}
	end := bytes.IndexByte(head[open:], ']')
	if end < 0 || open+end+1 >= len(line) || line[open+end+1] != ':' {
		return 0, 0, nil, false
	}
	at = clock(head[open+1 : open+end])
	text = line[open+end+2:]
	if len(text) > 0 && text[0] == ' ' {
		text = text[1:]
	}
	return line[5], at, text, true
}

// clock reads H:MM:SS or H:MM:SS:mmm as time of day, -1 when it is neither.
func clock(b []byte) time.Duration {
	if at, ok := fullClock(b); ok {
		return at
	}
	var part [4]int
	n, digits := 0, 0
	for _, c := range b {
		switch {
		case c >= '0' && c <= '9':
			part[n] = part[n]*10 + int(c-'0')
			if digits++; digits > 3 {
				return -1
			}
		case (c == ':' || c == '.' || c == ',') && digits > 0 && n < 3:
			n, digits = n+1, 0
		default:
			return -1
		}
	}
	if n < 2 || digits == 0 || part[0] > 23 || part[1] > 59 || part[2] > 60 {
		return -1
	}
	return time.Duration(part[0])*time.Hour + time.Duration(part[1])*time.Minute +
		time.Duration(part[2])*time.Second + time.Duration(part[3])*time.Millisecond
}

// fullClock reads HH:MM:SS:mmm, as nearly all lines have it.
func fullClock(b []byte) (at time.Duration, ok bool) {
	if len(b) != len("09:12:01:100") || b[2] != ':' || b[5] != ':' || b[8] != ':' {
		return 0, false
	}
	bad := byte(0)
	two := func(i int) int {
		tens, ones := b[i]-'0', b[i+1]-'0'
		bad |= tens/10 | ones/10 // not zero where one is no digit
		return int(tens)*10 + int(ones)
	}
	h, m, s, ms := two(0), two(3), two(6), two(9)*10+int(b[11]-'0')
	if bad |= (b[11] - '0') / 10; bad != 0 || h > 23 || m > 59 || s > 60 {
		return 0, false
	}
	return time.Duration((h*60+m)*60+s)*time.Second + time.Duration(ms)*time.Millisecond, true
}

type markKind uint8

const (
	markNone  markKind = iota
	markPlain          // Action 6:59:05: INSTALL. Description
	markStart          // Action start 6:59:05: INSTALL.
	markEnd            // Action ended 6:59:05: INSTALL. Return value 1.
)

// An actionMark is one of the engine's three lines about an action.
type actionMark struct {
	kind   markKind      // start, end, or a result
	prefix []byte        // the words before the time
	at     time.Duration // time of day; -1 where the line has none
	name   []byte        // of the action, within the line
	text   []byte        // description of a plain mark
	value  int           // return value of an end mark
}

const maxActionPrefix = 60 // bytes; the longest known are Russian, two bytes a letter

// parseMark reads an action mark by its structure alone, since its words are in
// the language of the machine:
//
//	words H:MM:SS: NAME.
//	words H:MM:SS: NAME. description
//	words H:MM:SS: NAME. words N.
func parseMark(line []byte) (m actionMark, ok bool) {
	limit := min(len(line), maxActionPrefix)
	i := 0
	// "Action 9:12:01: Name. Text": the words differ by language, the form does
	// not.
	for i < limit && (line[i] < '0' || line[i] > '9') {
		if c := line[i]; c == '\\' || c == '=' || c == '[' || c == '{' || c == '(' || c == '"' || c == ',' || c == ';' || c == ':' {
			return m, false
		}
		i++
	}
	if i == 0 || i >= limit {
		return m, false
	}
	j := i
	for j < len(line) && j < i+9 && (line[j] == ':' || line[j] >= '0' && line[j] <= '9') {
		j++
	}
	stamp := line[i:j]
	stamp = bytes.TrimRight(stamp, ":")
	if len(stamp) < 7 {
		return m, false
	}
	if m.at = clock(stamp); m.at < 0 {
		return m, false
	}
	rest := line[i+len(stamp):]
	rest, ok = cutColon(rest)
	if !ok || len(rest) == 0 {
		return m, false
	}
	m.prefix = bytes.TrimSpace(line[:i])
	name, tail, stop := sentence(rest)
	if !stop || !actionName(name) {
		return m, false
	}
	m.name = name
	if len(tail) == 0 {
		m.kind = markStart
		return m, true
	}
	text := bytes.TrimSpace(tail)
	if len(text) == 0 {
		m.kind = markPlain
		return m, true
	}
	// Only the end of an action closes with a number.
	if v, ok := trailingValue(text); ok {
		m.kind, m.value = markEnd, v
		return m, true
	}
	m.kind, m.text = markPlain, text
	return m, true
}

// cutColon drops the colon after the time, with the blanks that some languages
// put around it.
func cutColon(b []byte) ([]byte, bool) {
	b = bytes.TrimLeft(b, " \u00a0\u202f")
	switch {
	case len(b) > 0 && b[0] == ':':
		b = b[1:]
	case bytes.HasPrefix(b, []byte("：")):
		b = b[len("："):]
	default:
		return nil, false
	}
	return bytes.TrimLeft(b, " \u00a0"), true
}

// sentence splits b behind its first full stop that ends a word; tail keeps the
// blank that follows, so that "NAME." and "NAME. " can be told apart.
func sentence(b []byte) (head, tail []byte, ok bool) {
	for i := 0; i < len(b); i++ {
		if b[i] == '.' && (i+1 == len(b) || b[i+1] == ' ') {
			return b[:i], b[i+1:], true
		}
		if b[i] == 0xE3 && bytes.HasPrefix(b[i:], []byte("。")) {
			return b[:i], b[i+len("。"):], true
		}
	}
	return nil, nil, false
}

// actionName says whether bytes can be an action's name: any without blanks and
// path signs; the table allows names of 72 letters, some tools write longer
// ones.
func actionName(b []byte) bool {
	if len(b) == 0 || len(b) > 128 {
		return false
	}
	for _, c := range b {
		if c <= ' ' || c == ':' || c == '\\' || c == '/' || c == '"' || c == ',' {
			return false
		}
	}
	return true
}

// trailingValue reads the return value at the end of "Return value 3.".
func trailingValue(text []byte) (int, bool) {
	text = bytes.TrimRight(text, " .")
	text = bytes.TrimSuffix(text, []byte("。"))
	n := len(text)
	if n < 2 || text[n-1] < '0' || text[n-1] > '5' || text[n-2] >= '0' && text[n-2] <= '9' {
		return 0, false
	}
	for _, c := range text[:n-1] {
		if c >= '0' && c <= '9' {
			return 0, false
		}
	}
	return int(text[n-1] - '0'), true
}

// record reads "1: 1722 2: InstallScannerHost 3: C:\x.exe 4: /quiet ", the way
// in which the engine writes the fields of a message.
func record(text []byte) []string {
	if !bytes.HasPrefix(text, []byte("1:")) {
		return nil
	}
	var fields []string
	rest := text[2:]
	for n := 2; n < 100; n++ {
		mark := []byte(" " + strconv.Itoa(n) + ":")
		at := bytes.Index(rest, mark)
		if at < 0 {
			break
		}
		fields = append(fields, string(bytes.TrimSpace(rest[:at])))
		rest = rest[at+len(mark):]
	}
	return append(fields, string(bytes.TrimSpace(rest)))
}

// opArgument is the value of name in an executed operation such as
// ActionStart(Name=StartServices,Description=…,Template=…).
func opArgument(op []byte, name string) []byte {
	for from := 0; ; {
		at := bytes.Index(op[from:], []byte(name+"="))
		if at < 0 {
			return nil
		}
		at += from
		if at > 0 && (op[at-1] == '(' || op[at-1] == ',') {
			v := op[at+len(name)+1:]
			if end := bytes.IndexByte(v, ','); end >= 0 {
				v = v[:end]
			}
			return bytes.TrimSuffix(v, []byte(")"))
		}
		from = at + 1
	}
}

// quoted is the text between the first pair of single quotes.
func quoted(b []byte) ([]byte, bool) {
	_, b, ok := bytes.Cut(b, []byte("'"))
	if !ok {
		return nil, false
	}
	at := bytes.LastIndexByte(b, '\'')
	if at < 0 {
		return nil, false
	}
	return b[:at], true
}
