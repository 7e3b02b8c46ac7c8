// This file compares what a run wished with what it found, where a log tells
// both in values of its own names.

package evidence

import (
	_ "embed"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// A setup often writes down what it wants and what it found at different
// places, and never that the two do not fit. This compares them.

//go:embed compare.txt
var compareText string

// comparing is compare.txt: what is measured, by word; and words that make a
// name one of a wish, by whether they give the least ('>'), the most ('<'), or
// both ('=').
type comparing struct {
	things map[string]string // word → class of the cause when the wish is not met
	wishes map[string]byte
	any    *pieces.Set // what is measured; a line without any is not looked at
}

var compares = sync.OnceValue(func() comparing {
	c := comparing{things: map[string]string{}, wishes: map[string]byte{}}
	for line := range strings.Lines(compareText) {
		f := strings.Fields(line)
		if len(f) < 2 || f[0] == "#" {
			continue
		}
		for _, w := range f[1:] {
			switch f[0] {
			case "least":
				c.wishes[w] = '>'
			case "most":
				c.wishes[w] = '<'
			case "wanted":
				c.wishes[w] = '='
			default:
				c.things[w] = f[0]
			}
		}
	}
	c.any = pieces.New(slices.Collect(maps.Keys(c.things)))
	return c
})

// A measure is a number or a range that a line gives a name:
// "LeastBuild=18363", "allowed_build: 18362-22000", "build=25398".
type measure struct {
	thing    string // the word of what is measured
	class    string
	wish     byte // 0 for what was found
	from, to []int
	unit     bool   // it is one of bytes
	name     string // as it is written
	text     string // and with what follows
	line     int    // by its place in the run's lines
}

var (
	// measured is a name with a number or version, a range of them, or a bound.
	measured = lazy.MustCompile(`([\pL][\pL\d]*(?:[._ -]?[\pL\d]+){0,4})\s?(?:=|:|is)\s?(>=|<=|>|<|≥|≤)?\s?v?(\d+(?:\.\d+){0,3})(?:\s?(?:-|–|\.\.|to|bis)\s?v?(\d+(?:\.\d+){0,3}))?(\+)?(?:\s?((?i:[kmgt]i?b|[kmgt]o|[кмгт]б)))?`)
	// mostMeasures is how many of a run are looked at; a log that measures all
	// the time measures something else.
	mostMeasures = 400
)

// ofWindows begins the version of every Windows since the tenth; its third
// number is the build that setups ask for. Source: the OS's "Operating System
// Version" table.
const ofWindows = "10.0."

// osVersion is that version in a line that speaks of the OS.
var osVersion = lazy.MustCompile(`(?i)\b(?:windows|win|os)\b[^=<>]{0,40}?\b(10\.0\.(\d{5}))\b`)

// compare finds the wishes of a run that what was found does not meet, and
// makes each a clue of the line with the wish.
func (r *Run) compare() {
	known := compares()
	var wishes, found []measure
	for i := range r.lines {
		l := &r.lines[i]
		if l.Kind <= story.KindDebug || l.noise || !strings.ContainsAny(l.Text, "0123456789") ||
			!known.any.Any(l.lower) && !strings.Contains(l.lower, ofWindows) {
			continue
		}
		if f := osVersion.FindStringSubmatch(l.Text); f != nil {
			found = append(found, measure{thing: "build", line: i, from: version(f[2]), text: f[1]})
		}
		for _, m := range known.in(l.Text, i) {
			if m.wish != 0 {
				wishes = append(wishes, m)
			} else {
				found = append(found, m)
			}
		}
		if len(wishes)+len(found) > mostMeasures {
			return
		}
	}
	for _, w := range wishes {
		if w.isMet(found) { // then the words for it speak of nothing
			l := &r.lines[w.line]
			l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool { return c.Class == w.class && c.Code == nil })
		}
		if f := w.unmet(found); f != nil {
			l := &r.lines[w.line]
			c := Clue{Class: w.class, Strength: lexicon.Root, Compared: true,
				What: fmt.Sprintf("%s, and it is %s (line %d)", w.text, f.text, r.lines[f.line].Line)}
			if w.class == "condition" { // of space it is the drive, of a runtime its product
				c.Name = w.name
			}
			l.clues = append(l.clues, c)
			l.linked = max(l.linked, linkedName)
		}
	}
}

// unmet is what was found and is not as wished, nil when anything of the kind
// is.
func (w measure) unmet(found []measure) (is *measure) {
	for i, f := range found {
		switch {
		case f.thing != w.thing || f.unit != w.unit || len(f.from) != len(w.from) || f.to != nil || w.to != nil && len(w.to) != len(f.from):
			// not to be compared: another thing, or a build and a whole version
		case w.met(f):
			return nil
		case is == nil:
			is = &found[i]
		}
	}
	return is
}

// isMet says whether something that was found is as wished.
func (w measure) isMet(found []measure) bool {
	return slices.ContainsFunc(found, func(f measure) bool {
		alike := f.thing == w.thing && f.unit == w.unit && len(f.from) == len(w.from) && f.to == nil && (w.to == nil || len(w.to) == len(f.from))
		return alike && w.met(f)
	})
}

// in finds the measures of a line.
func (c comparing) in(text string, line int) (all []measure) {
	for _, m := range measured.FindAllStringSubmatch(text, 8) {
		one := measure{line: line, from: version(m[3]), to: version(m[4]), name: strings.TrimSpace(m[1]), text: strings.TrimSpace(m[0])}
		// Amounts are compared as bytes: one side is often in another unit.
		if unit := strings.ToLower(m[6]); unit != "" {
			one.unit = true
			shift := 10 * (1 + strings.IndexRune("kmgt", latin(unit)))
			for _, v := range [][]int{one.from, one.to} {
				if len(v) > 0 {
					v[0] <<= shift // a fraction is left out
				}
			}
			one.from, one.to = whole(one.from), whole(one.to)
		}
		for _, w := range parted(m[1]) {
			if class, is := c.things[w]; is {
				one.thing, one.class = w, class
			}
			if kind, is := c.wishes[w]; is {
				one.wish = kind
			}
		}
		switch {
		// A "build" may be a product's own; only numbers that the OS has had
		// are of the OS.
		case one.thing == "" || strings.HasSuffix(one.thing, "build") && len(one.from) == 1 &&
			(one.from[0] < oldestBuild || one.from[0] > newestBuild):
			continue
		case m[2] != "":
			one.wish = map[string]byte{">=": '>', ">": '>', "≥": '>', "<=": '<', "<": '<', "≤": '<'}[m[2]]
		case m[5] != "":
			one.wish = '>'
		case one.to != nil && one.wish == 0: // a range is no find
			continue
		}
		all = append(all, one)
	}
	return all
}

// Builds of the OS that setups may ask for; a number beyond them is a product's
// own.
const oldestBuild, newestBuild = 2000, 60000

// met says whether what was found meets the wish; both are of one form.
func (w measure) met(f measure) bool {
	switch {
	case w.to != nil:
		return slices.Compare(f.from, w.from) >= 0 && slices.Compare(f.from, w.to) <= 0
	case w.wish == '<':
		return slices.Compare(f.from, w.from) <= 0
	}
	return slices.Compare(f.from, w.from) >= 0 // a wanted version is the oldest that does
}

// latin is the first letter of a unit of bytes as it is written in English.
func latin(unit string) rune {
	first, _ := utf8.DecodeRuneInString(unit)
	if at := slices.Index([]rune("кмгт"), first); at >= 0 {
		return rune("kmgt"[at])
	}
	return first
}

// whole is the first part of a version: what a text that gives one number only
// can be compared with.
func whole(v []int) []int { return v[:min(len(v), 1)] }

// version parts a version at its dots; nil for what is none, and for a part
// that is no number, since "2.x" cannot be compared.
func version(s string) (v []int) {
	if s == "" {
		return nil
	}
	for part := range strings.SplitSeq(s, ".") {
		n, err := strconv.Atoi(part)
		if err != nil {
			return nil
		}
		v = append(v, n)
	}
	return v
}

// parted are the words of a name, in small letters: minOsBuild, min_os_build,
// "Minimum OS build".
func parted(name string) (words []string) {
	start := 0
	runes := []rune(name)
	take := func(end int) {
		if end > start {
			words = append(words, strings.ToLower(string(runes[start:end])))
		}
		start = end
	}
	for i, c := range runes {
		switch {
		case strings.ContainsRune("._- ", c):
			take(i)
			start = i + 1
		case i > 0 && unicode.IsUpper(c) && !unicode.IsUpper(runes[i-1]):
			take(i)
		}
	}
	take(len(runes))
	return words
}
