// This file reads brackets in front of lines, with whatever stands in them.

package peel

import (
	"bytes"
	"slices"
	"strconv"
	"strings"
	"time"
)

// grouped says whether the column is a bracket.
func (c Column) grouped() bool {
	return c.kind == stampGroup || c.kind == levelGroup || c.kind == priority || c.kind == group
}

// A bracketed is a bracket that a line begins with.
type bracketed struct {
	value
	rest     []byte // behind it
	priority bool   // it is <134>
}

// is says whether the bracket is of a kind of column.
func (g bracketed) is(kind atom) bool {
	switch kind {
	case stampGroup:
		return g.stamped
	case levelGroup:
		return g.level != "" && !g.stamped
	case priority:
		return g.priority
	}
	return !g.stamped
}

// groupAt reads a bracket.
func groupAt(line []byte) (g bracketed, ok bool) {
	if len(line) < 3 {
		return g, false
	}
	var closing byte
	switch line[0] {
	case '[':
		closing = ']'
	case '(':
		closing = ')'
	case '<':
		closing = '>'
	case '{':
		closing = '}'
	case '#', '~', '*': // only around a stamp
		closing = line[0]
	default:
		return g, false
	}
	// A bracket that closes far behind is one of the sentence.
	end := 1 + bytes.IndexByte(line[1:min(len(line), maxGroup+1)], closing)
	if end < 2 {
		return g, false
	}
	in := bytes.TrimSpace(line[1:end])
	if closing == line[0] {
		v := value{stamped: true}
		var n int
		if v.date, v.at, n = anyStamp(append(slices.Clone(in), " ."...)); n != len(in) {
			return g, false
		}
		return bracketed{value: v, rest: parted(line[end+1:])}, true
	}
	return bracketed{value: inside(in), rest: parted(line[end+1:]), priority: line[0] == '<' && digits(in) == len(in)}, true
}

// inside reads what a bracket holds: stamp, level, numbers and names in any
// order, parted by blanks, bars or colons:
// [7712:9034:0225/131433:ERROR:main.cc].
func inside(in []byte) (v value) {
	v = value{at: -1}
	if at, ok := sinceStart(in); ok {
		return value{stamped: true, at: at}
	}
	numbers := 0
	for len(in) > 0 {
		if date, at, n := anyStamp(in); n > 0 && !v.stamped {
			v.stamped, v.date, v.at, in = true, date, at, parted(in[n:])
			continue
		}
		n := bytes.IndexAny(in, " \t|:,;")
		if n < 0 {
			n = len(in)
		}
		w := string(in[:n])
		if thread, l, ok := strings.Cut(w, "/"); ok && v.level == "" && Level(l) != Unknown && len(l) > 1 { // [worker-2/ERROR]
			w, v.level = thread, l
		}
		switch {
		case v.level == "" && Level(w) != Unknown:
			v.level = w
		case n == 0:
		case digits(in[:n]) == n, strings.HasPrefix(w, "0x"):
			numbers++
		default:
			v.name = w
		}
		in = in[n:]
		if rest := parted(in); len(rest) < len(in) {
			in = rest
		} else if len(in) > 0 {
			in = in[1:]
		}
	}
	if numbers == 1 && !v.stamped && v.level == "" { // a process or a thread: [pid 4420]
		v.name = ""
	}
	return v
}

// sinceStart reads the seconds since a program's start, with a fraction:
// 74.803.
func sinceStart(in []byte) (time.Duration, bool) {
	whole, fraction, ok := bytes.Cut(in, []byte("."))
	if !ok || digits(whole) != len(whole) || digits(fraction) != len(fraction) || len(whole) == 0 ||
		len(whole) > 6 || len(fraction) < 3 || len(fraction) > 6 {
		return 0, false
	}
	f, err := strconv.ParseFloat(string(in), 64)
	return time.Duration(f * float64(time.Second)).Truncate(time.Millisecond), err == nil
}

// takeTag reads "name:" or "name[number]:" with a blank behind it.
func takeTag(line []byte) (v value, rest []byte, ok bool) {
	v.at = -1
	name := nameLen(line)
	n := name
	if n == 0 || n >= len(line) {
		return v, nil, false
	}
	if line[n] == '[' || line[n] == '(' {
		end := bytes.IndexAny(line[n:], "])")
		if end < 0 || end > maxWord {
			return v, nil, false
		}
		n += end + 1
	}
	if n+1 >= len(line) || line[n] != ':' || line[n+1] != ' ' {
		return v, nil, false
	}
	return named(line[:name]), line[n+1:], true
}

// stampedTag reads a name with a stamp or a number in a bracket: setup(04.05.
// 09:12:04).
func stampedTag(line []byte) (v value, rest []byte, ok bool) {
	w, n := nameAt(line)
	if w == "" || n >= len(line) {
		return v, nil, false
	}
	g, bracket := groupAt(line[n:])
	if !bracket {
		return v, nil, false
	}
	v = g.value
	v.name = w
	return v, g.rest, true
}
