// This file finds the numbers that a listing puts in front of the lines of a
// text, with or without the name of its file: setup.log:12: …, 12: …, and the
// count of an editor or a viewer.

package peel

import "bytes"

const (
	// leastListed is how many lines a listing has at least: fewer may be a list
	// of steps, whose numbers are the log's own.
	leastListed = 12
	allListed   = 0.97 // share of its lines that have a number
	byOne       = 0.8  // share of the steps from one number to the next that are 1; blank lines may lack theirs
	longestFile = 120  // bytes of the file's name
)

// Listed finds such numbers; nil where there are none.
func Listed(lines [][]byte) Columns {
	var told [][]byte
	for _, l := range lines {
		if len(bytes.TrimSpace(l)) > 0 {
			told = append(told, l)
		}
	}
	if len(told) < leastListed {
		return nil
	}
	for _, c := range []Column{{kind: counter}, {kind: counter, word: fileOf(told[len(told)/2])}} {
		has, steps, last := 0, 0, -1
		for _, l := range told {
			n, _, ok := c.count(l)
			if !ok {
				continue
			}
			has++
			if n == last+1 {
				steps++
			}
			if n <= last { // it never goes back
				has = -len(told)
				break
			}
			last = n
		}
		if float64(has) >= allListed*float64(len(told)) && float64(steps) >= byOne*float64(len(told)-1) {
			return Columns{c}
		}
	}
	return nil
}

// fileOf is what a listing writes before a line's number: all up to a colon
// behind which figures and another colon stand; empty where nothing does.
func fileOf(line []byte) string {
	head := line[:min(len(line), longestFile)]
	for i := 1; i < len(head); i++ {
		if head[i] == ':' {
			if n := digits(head[i+1:]); n > 0 && i+1+n < len(head) && head[i+1+n] == ':' {
				return string(head[:i+1])
			}
		}
	}
	return ""
}

// count takes a listing's number off a line, with the blank behind it.
func (c Column) count(line []byte) (number int, rest []byte, ok bool) {
	rest, ok = bytes.CutPrefix(line, []byte(c.word))
	if !ok {
		return 0, nil, false
	}
	rest = bytes.TrimLeft(rest, " ")
	n := digits(rest)
	if n == 0 || n > len("99999999") || n > 1 && rest[0] == '0' && rest[1] == 'x' {
		return 0, nil, false
	}
	number = figures(rest[:n])
	if rest = rest[n:]; len(rest) == 0 { // a blank line's
		return number, rest, true
	}
	switch rest[0] {
	case ':', '|', '\t', ',', ')':
	case '.':
		if len(rest) > 1 && rest[1] != ' ' {
			return 0, nil, false
		}
	default:
		return 0, nil, false
	}
	sep := rest[0]
	if rest = rest[1:]; sep != '\t' && sep != ',' && len(rest) > 0 && rest[0] == ' ' {
		rest = rest[1:]
	}
	return number, rest, true
}
