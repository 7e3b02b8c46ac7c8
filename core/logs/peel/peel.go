// Package peel takes off what stands in front of the words of a log: stamps,
// levels, threads, loggers, another program's prefix. It does not know formats
// by name. It learns the columns from the lines themselves, by what most of
// them have at the same place.
package peel

import (
	"bytes"
	"slices"
	"strings"
	"time"
)

// A Column is one thing that the lines of a text have in front of their words.
type Column struct {
	kind atom
	word string // of a word that is the same on all lines
	end  byte   // of a cell: what ends it, a bar, a tab or a semicolon; of a column filled up with blanks: how wide it is
}

// Columns are those of a text, the outermost first.
type Columns []Column

const (
	maxColumns = 10  // no logger that we have seen writes more; each costs one pass over the sample
	most       = 0.8 // share of the lines that must agree for a column to be one
	// enough is the share of all lines that must still be in for another
	// column: below it, what is peeled is the beginning of some lines' words.
	enough = 0.5
	// always is the share for a word that is to be the same on all lines: what
	// most lines of one text begin with may be words ("part 11 done"), a
	// computer's name stands on every one.
	always    = 0.95
	leastLine = 2 // lines without which nothing can be learned
)

// Learn finds the columns of the lines. Lines that do not fit are those of a
// record with several lines, or another program's; they do not vote on.
func Learn(lines [][]byte) Columns {
	var rests [][]byte
	for _, l := range lines {
		if len(bytes.TrimSpace(l)) > 0 {
			rests = append(rests, l)
		}
	}
	least := enough * float64(len(rests))
	var found Columns
	for len(found) < maxColumns && len(rests) >= leastLine {
		best, n := Column{}, 0
		for c, k := range votesOf(rests, found) {
			if (c.kind == word || c.kind == sign) && float64(k) < always*float64(len(rests)) {
				continue
			}
			if (c.kind == joined || c.kind == leading) && (float64(k) < most*float64(len(rests)) || !c.recurs(rests)) {
				continue
			}
			if c.kind == elapsed && (float64(k) < most*float64(len(rests)) || !c.rises(rests)) {
				continue
			}
			if c.kind == mark && k*3 > len(rests) { // further blanks behind it are the line's own
				k = fits(c, rests)
			}
			if k > n || k == n && c.kind < best.kind {
				best, n = c, k
			}
		}
		if float64(n) < most*float64(len(rests)) || float64(n) < least {
			width := filledUp(rests)
			if width == 0 {
				break
			}
			best = Column{kind: padded, end: width}
		}
		kept := rests[:0:0]
		for _, r := range rests {
			if _, rest, ok := best.take(r); ok {
				kept = append(kept, rest)
			}
		}
		if best.constant() && same(kept, rests) || mostlyNothing(kept) { // nothing was taken, or all of what the lines say
			break
		}
		found, rests = append(found, best), kept
	}
	return found
}

// votesOf counts the lines that begin with each column. One that too many lines
// lack to be chosen is not asked for on the others: most kinds are given up
// after a fifth of the lines.
func votesOf(rests [][]byte, found Columns) map[Column]int {
	votes := map[Column]int{}
	asked := candidatesBehind(found)
	lacking := make([]int, len(asked))
	for _, r := range rests {
		g, bracket := groupAt(r)
		kept := 0
		for i, c := range asked {
			ok := bracket && g.is(c.kind)
			if !c.grouped() {
				_, _, ok = c.off(r)
			}
			if ok {
				votes[c]++
			} else if lacking[i]++; float64(len(rests)-lacking[i]) < most*float64(len(rests)) {
				delete(votes, c)
				continue
			}
			asked[kept], lacking[kept] = c, lacking[i]
			kept++
		}
		asked = asked[:kept]
		if w := firstWord(r); w != "" {
			votes[Column{kind: word, word: w}]++
		}
		if m := firstMark(r); m != "" {
			votes[Column{kind: mark, word: m}]++
		}
	}
	return votes
}

// mostlyNothing says whether more than half of the lines have nothing left.
func mostlyNothing(rests [][]byte) bool {
	n := 0
	for _, r := range rests {
		if len(bytes.TrimSpace(r)) == 0 {
			n++
		}
	}
	return n*2 > len(rests)
}

// SetOff finds what the lines are set off with, as in a mail or a listing: the
// same signs or blanks in front of most of them. A reader that looks for words
// only would not mind them, and take them for a part of what is said.
func SetOff(lines [][]byte) Columns {
	var marks []string
	n, stamps := 0, 0
	for _, l := range lines {
		if len(bytes.TrimSpace(l)) > 0 {
			n++
			if m := firstMark(l); m != "" {
				marks = append(marks, m)
			}
			if g, bracket := groupAt(l); bracket && g.stamped {
				stamps++
			}
		}
	}
	if float64(stamps) >= most*float64(n) { // #09:12:04# is no mark of quoting
		return nil
	}
	// What stands behind the mark may be blanks of the text's own: the longest
	// mark that the first and nearly all lines begin with is taken, sign by
	// sign.
	shared := ""
	for len(shared) < maxWord {
		votes := map[byte]int{}
		for _, m := range marks {
			if len(m) > len(shared) && m[:len(shared)] == shared {
				votes[m[len(shared)]]++
			}
		}
		next, k := byte(0), 0
		for c, v := range votes {
			if v > k {
				next, k = c, v
			}
		}
		if float64(k) < most*float64(n) || len(marks) > 0 && !strings.HasPrefix(marks[0], shared+string(next)) {
			break
		}
		shared += string(next)
	}
	if shared == "" || n < leastLine {
		return nil
	}
	return Columns{{kind: mark, word: shared}}
}

// Indent is the part of a mark that is blanks; nil where it begins with others.
func (cs Columns) Indent() Columns {
	if len(cs) != 1 || cs[0].kind != mark {
		return nil
	}
	word := cs[0].word
	if n := len(word) - len(strings.TrimLeft(word, " \t")); n > 0 {
		return Columns{{kind: mark, word: word[:n]}}
	}
	return nil
}

// fits counts the lines that have a column.
func fits(c Column, lines [][]byte) (n int) {
	for _, l := range lines {
		if _, _, ok := c.take(l); ok {
			n++
		}
	}
	return n
}

// same says whether peeling left the lines as they were.
func same(a, b [][]byte) bool {
	return len(a) > 0 && len(b) > 0 && len(a[0]) == len(b[0])
}

// A Front is what stood in front of a line's words.
type Front struct {
	Date   string        // as the line writes it, empty when there is none
	At     time.Duration // time of day; -1 when there is none
	Level  string        // the level's word
	Source string        // the last name: logger, module or program
	Figure string        // a number of one digit behind the time, which may be a level
}

// Take peels the columns off a line. ok is false when the line lacks one of
// them: it goes on with what the line before said, or is somebody else's.
func (cs Columns) Take(line []byte) (f Front, rest []byte, ok bool) {
	if len(cs) == 0 {
		return Front{At: -1}, line, true
	}
	if f, rest, ok = cs.take(line); ok {
		return f, rest, ok
	}
	behind := cs // what stands behind a level that only lines have on which something is wrong
	if cs[0].kind == mark && strings.TrimSpace(cs[0].word) == "" {
		behind = cs[1:]
	}
	if len(behind) == 0 || behind[0].kind != stamp && behind[0].kind != stampGroup {
		return f, rest, false
	}
	if level, after, flagged := flag(line); flagged {
		if told, words, fits := behind.take(after); fits {
			told.Level = level
			return told, words, true
		}
	}
	return f, rest, false
}

// longestFlag is how many bytes a level before a stamp has, with its brackets.
const longestFlag = 9

// flag takes a word or a sign for how grave a line is off its beginning: "[X]
// ", "(!) ", "ERR ".
func flag(line []byte) (level string, rest []byte, ok bool) {
	n := bytes.IndexByte(line[:min(len(line), longestFlag)], ' ')
	if n <= 0 {
		return "", nil, false
	}
	token := strings.Trim(string(line[:n]), "[](){}<>:|")
	if token = strings.TrimRight(token, ":"); token == "" {
		return "", nil, false
	}
	if level = token; Level(token) == Unknown {
		level = signs[token[0]]
		if strings.Trim(token, token[:1]) != "" { // not one sign, maybe doubled
			level = ""
		}
	}
	return level, bytes.TrimLeft(line[n:], " "), level != ""
}

// take is Take without a level in front.
func (cs Columns) take(line []byte) (f Front, rest []byte, ok bool) {
	f.At, rest = -1, line
	for _, c := range cs {
		v, behind, fits := c.take(rest)
		if !fits && c.kind == sign { // a line without one still says something
			ok = true
			continue
		}
		if rest, ok = behind, fits; !ok {
			return Front{At: -1}, line, false
		}
		if v.stamped && v.date == "" {
			f.At = v.at // its day stood in a column before
		} else if v.stamped {
			f.Date, f.At = v.date, v.at
		} else if v.date != "" {
			f.Date = v.date
		}
		if f.Level == "" {
			f.Level = v.level
		}
		if v.name != "" {
			f.Source = v.name
		}
		if f.Figure == "" && f.At >= 0 {
			f.Figure = v.figure
		}
	}
	return f, rest, true
}

// Strip is Take for those who want the words alone; a line that does not fit
// stays as it is.
func (cs Columns) Strip(line []byte) []byte {
	_, rest, ok := cs.Take(line)
	if !ok {
		return line
	}
	return rest
}

// longestAlone is how many bytes a line of columns alone has at most.
const longestAlone = 160

// Alone says whether a line has the columns and nothing behind them, as a blank
// line behind another program's stamp. Blanks at its end may be lost.
func (cs Columns) Alone(line []byte) bool {
	if len(cs) == 0 || len(line) > longestAlone {
		return false
	}
	if _, _, ok := cs[:1].take(line); !ok && len(cs) > 1 {
		return false
	}
	for _, behind := range []string{" x", "\tx", " | x"} {
		if _, rest, ok := cs.take(append(bytes.TrimRight(bytes.Clone(line), " \t|"), behind...)); ok && string(bytes.TrimSpace(rest)) == "x" {
			return true
		}
	}
	return false
}

// Peeled are the lines without the first k columns, by k: what Strip of those
// gives, for each number of them. The columns are taken off one after the
// other, so that no line is read more than once.
func (cs Columns) Peeled(lines [][]byte) [][][]byte {
	all := make([][][]byte, len(cs)+1)
	all[0] = lines
	for k := range cs {
		all[k+1] = make([][]byte, len(lines))
	}
	for i, line := range lines {
		rest, straight := line, true
		for k, c := range cs {
			if straight {
				if _, behind, fits := c.take(rest); fits {
					rest = behind
				} else {
					straight = c.kind == sign // a line without one still says something
				}
			}
			if all[k+1][i] = rest; !straight {
				all[k+1][i] = cs[:k+1].Strip(line)
			}
		}
	}
	return all
}

// named says whether any column holds a name: another bare word is then the
// first of a sentence.
func (cs Columns) named() bool {
	return slices.ContainsFunc(cs, func(c Column) bool {
		return slices.Contains([]atom{tag, cell, group, logger, numbered, padded, speaker, suffixed, place, joined}, c.kind)
	})
}

// Outer is how many of the columns another program wrote in front of a line that
// has a stamp of its own: those before the second stamp. level is how many stand
// before a level that is among them, where none stands behind that stamp: it may
// be the line's. It is 0 where there are not two.
func (cs Columns) Outer() (all, level int) {
	first := -1
	level = -1
	for i, c := range cs {
		switch {
		case c.kind.stamps() && first < 0:
			first = i
		case c.kind.stamps():
			if level < 0 || slices.ContainsFunc(cs[i:], func(c Column) bool { return c.kind.levels() }) {
				level = i
			}
			return i, level
		case c.kind.levels() && first >= 0 && level < 0:
			level = i
		}
	}
	return 0, 0
}

// Stamped says whether any column tells the time.
func (cs Columns) Stamped() bool {
	return slices.ContainsFunc(cs, func(c Column) bool { return c.kind.stamps() })
}

// Told says whether any column tells a time or a level: only then are the lines
// records of a log.
func (cs Columns) Told() bool {
	for _, c := range cs {
		if c.kind == stamp || c.kind == level || c.kind == levelGroup || c.kind == stampGroup || c.kind == levelTag {
			return true
		}
	}
	return false
}
