// This file reads entries whose first line is a head and whose words stand
// below.

package generic

import (
	"bytes"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/textfile"
)

// Some loggers write each record on two lines: when and who on the first, how
// grave and what on the second.
//
//	May 11, 2026 7:40:02 AM org.tide.setup.Copy run
//	WARNING: tide.dll is in use
//
// Others put what is known of the record on the first, and what it says on the
// second, set in:
//
//	fail: Tide.Setup.Copy[3]
//	      tide.dll is in use

// caller is what such a first line has behind its stamp: a class or logger, and
// maybe a method.
var caller = lazy.MustCompile(`^(?:[\w$]+\.)+[\w$<>]+(?: [\w$<>]+)?$`)

// category is how the other kind of first line goes: a level, a logger, and the
// number of the event.
var category = lazy.MustCompile(`(?:^|[ \]])([A-Za-z]{3,11}): ((?:[\w$+<>-]+\.)*[\w$+<>-]+)\[\d+\]\s*$`)

// shortLevels are levels that are written with four letters in such lines.
var shortLevels = map[string]peel.Gravity{"trce": peel.Debug, "dbug": peel.Debug, "fail": peel.Error, "crit": peel.Error}

// categoryLine reads such a first line.
func categoryLine(line []byte) (e entry, ok bool) {
	m := category.FindStringSubmatchIndex(string(line))
	if m == nil {
		return e, false
	}
	word := strings.ToLower(string(line[m[2]:m[3]]))
	g, short := shortLevels[word]
	if !short {
		g = peel.Level(word)
	}
	if g == peel.Unknown {
		return e, false
	}
	e.at = -1
	if m[2] > 0 {
		date, at, n := peel.Stamp(line[:m[2]])
		if n == 0 {
			return e, false
		}
		e.date, e.at = date, at
	}
	who := string(line[m[4]:m[5]])
	e.kind, e.level, e.source = ofGravity[g], true, who[strings.LastIndexByte(who, '.')+1:]
	return e, true
}

// leastHeaded is the share of lines that must be first lines, out of a half.
const leastHeaded = 0.35

// isHeaded says whether records have two lines.
func isHeaded(lines [][]byte) bool {
	pairs, all := 0, 0
	for i, l := range lines {
		if len(bytes.TrimSpace(l)) == 0 {
			continue
		}
		all++
		if i+1 < len(lines) {
			if _, ok := categoryLine(l); ok && indent(lines[i+1]) > 0 {
				pairs++
			} else if _, ok := headLine(l); ok {
				if g, _ := levelWord(string(lines[i+1])); g != peel.Unknown {
					pairs++
				}
			}
		}
	}
	return pairs > 1 && float64(pairs) >= leastHeaded*float64(all)
}

// headLine reads a record's first line.
func headLine(line []byte) (e entry, ok bool) {
	date, at, n := peel.Stamp(line)
	if n == 0 {
		return e, false
	}
	who := strings.TrimSpace(string(line[n:]))
	for _, half := range []string{"AM ", "PM "} {
		who = strings.TrimPrefix(who, half)
	}
	if !caller.MatchString(who) {
		return e, false
	}
	who, _, _ = strings.Cut(who, " ")
	return entry{date: date, at: at, source: who[strings.LastIndexByte(who, '.')+1:]}, true
}

// headed takes a line of a log whose records have two; not when it is neither
// of them.
func (r *Reader) headed(l textfile.Line) bool {
	if e, ok := categoryLine(l.Text); ok {
		r.head = &e
		return true
	}
	if e, ok := headLine(l.Text); ok {
		r.head = &e
		return true
	}
	if r.head != nil && r.head.level {
		e := *r.head
		r.head = nil
		e.text = strings.TrimSpace(string(l.Text))
		r.entry(l, e)
		return true
	}
	g, text := levelWord(string(l.Text))
	if r.head == nil || g == peel.Unknown {
		return false
	}
	e := *r.head
	r.head = nil
	e.kind, e.level, e.text = ofGravity[g], true, text
	r.entry(l, e)
	return true
}
