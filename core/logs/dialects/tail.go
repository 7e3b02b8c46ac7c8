// This file finds where another program's lines begin behind a log, in a sample
// of it: what a runner's console goes on to write says nothing of how the lines
// before it are built.

package dialects

import (
	"bytes"

	"hollowkey/core/logs/endings"
)

const (
	leastTail   = 20 // lines: fewer are a setup's last words
	tailShapes  = 6  // that they have at most: what goes on in many ways may be the setup's own
	tailOften   = 4  // times that each shape stands there in a sample
	tailNames   = 2  // names in front of them at least: a single one is a count of what goes on
	longestName = 24 // bytes of such a name
)

// tail is where such lines begin: a few shapes again and again, with names in
// front that nobody had before, up to the last line; len(lines) where there are
// none.
func tail(lines [][]byte) int {
	at, names, shapes, last := len(lines), map[string]bool{}, map[string]int{}, len(lines)
	for ; at > 0; at-- {
		l := lines[at-1]
		if len(l) == 0 {
			continue
		}
		name, ok := nameBefore(l)
		shape := shapeOf(l)
		if !ok || shapes[shape] == 0 && (len(shapes) == tailShapes || tells(shape)) {
			break
		}
		shapes[shape]++
		names[name], last = true, at-1
	}
	if at == 0 || len(names) < tailNames || len(lines)-last < leastTail {
		return len(lines)
	}
	for _, n := range shapes {
		if n < tailOften {
			return len(lines)
		}
	}
	for _, l := range lines[:at] {
		if name, ok := nameBefore(l); ok && names[name] {
			return len(lines)
		}
	}
	return last
}

// tells says whether a line tells how something went.
func tells(line string) bool {
	said := endings.Read(line)
	return said.Fails || said.Ends || said.Worked || said.GivesUp || said.Refuses || said.Exit != nil
}

// nameBefore is the name that stands in front of a line's words, with a colon
// behind it.
func nameBefore(line []byte) (string, bool) {
	i := bytes.Index(line[:min(len(line), longestName+2)], []byte(": "))
	if i <= 0 || bytes.ContainsAny(line[:i], " \t\\/[") {
		return "", false
	}
	return string(line[:i]), true
}

// shapeOf is a line without its numbers.
func shapeOf(line []byte) string {
	return string(bytes.Map(func(c rune) rune {
		if c >= '0' && c <= '9' {
			return -1
		}
		return c
	}, line))
}
