// Package lazy has patterns that are compiled when they are first used: a
// hundred of them take longer than most calls of the program, which need none.
// And they are tried only where a match can begin: at every letter of a line an
// expression takes a hundred times as long as the look for plain texts that
// tells where. What is found is the same, but for the long s of old print,
// which to [regexp] is an s where the size of letters does not count.
package lazy

import (
	_ "embed"
	"regexp"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"hollowkey/core/logs/pieces"
)

// A Regexp is a pattern of [regexp], compiled when it is first used.
type Regexp struct {
	source string
	re     func() *regexp.Regexp

	looked sync.Once
	plan   pieces.Plan
	heads  *pieces.Set           // with which every match begins; nil when that is not known
	rest   func() *regexp.Regexp // a match from its head on
	before func() *regexp.Regexp // a match from the sign in front of its head on; nil where it begins with the head
	quick  [][]string            // what no match can do without, of that which is looked for faster than the expression is tried at a head
}

// made are the patterns that the program's packages begin with, for whoever
// lists their plans.
var made []*Regexp

// MustCompile makes a pattern of a package, before anything runs. One that is
// wrong is found out by whoever first uses it: each has a test.
func MustCompile(source string) *Regexp {
	r := OfData(source)
	made = append(made, r)
	return r
}

// OfData makes a pattern that stands in data, at any time.
func OfData(source string) *Regexp { return &Regexp{source: source, re: once(source)} }

// once compiles a pattern when it is first asked for.
func once(source string) func() *regexp.Regexp {
	return sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(source) })
}

// Compiled is the pattern itself.
func (r *Regexp) Compiled() *regexp.Regexp { return r.re() }

// plansText lists the plans of the program's patterns, since to parse an
// expression takes a hundred times as long as to read its plan: in each line a
// pattern, and its plan behind a tab. One that is not listed, such as one that
// a test makes, is parsed.
//
//go:generate go run ../../../scripts/plans
//go:embed plans.txt
var plansText string

// plans are the lines of plansText by their patterns.
var plans = sync.OnceValue(func() map[string]string {
	known := make(map[string]string, strings.Count(plansText, "\n"))
	for line := range strings.SplitSeq(plansText, "\n") {
		source, plan, _ := strings.Cut(line, "\t")
		known[source] = plan
	}
	return known
})

// Plans writes the list of all patterns that were made by now, sorted.
func Plans() []byte {
	var lines []string
	for _, r := range made {
		p := pieces.PlanOf(r.source)
		if plan := p.Line(); plan != "" && !strings.ContainsAny(r.source, "\t\n") {
			lines = append(lines, r.source+"\t"+plan+"\n")
		}
	}
	slices.Sort(lines)
	return []byte(strings.Join(slices.Compact(lines), ""))
}

// look makes what a line is looked through for before the pattern itself is
// tried, from the plans that were made ahead where the pattern is among them.
func (r *Regexp) look() {
	plan, listed := pieces.Listed(plans()[r.source])
	if r.plan = plan; !listed {
		r.plan = pieces.PlanOf(r.source)
	}
	if len(r.plan.Heads) == 0 {
		return
	}
	r.heads = pieces.New(r.plan.Heads)
	for _, set := range r.plan.Needs {
		if len(set) <= mostQuick {
			r.quick = append(r.quick, set)
		}
	}
	r.rest = once(r.plan.AtHead(r.source))
	if r.plan.Front != "" {
		r.before = once(r.plan.AtFront(r.source))
	}
}

// A way is how a pattern is looked for in one text.
type way byte

const (
	nowhere    way = iota // what no match can do without is not there
	atHeads               // where one of the heads stands
	everywhere            // at every letter
)

// in gives the way to look for the pattern, and the text as heads are looked
// for in it.
func (r *Regexp) in(s string) (low string, w way) {
	r.looked.Do(r.look)
	low = s
	if r.plan.Small {
		if r.plan.First {
			low = low[:min(len(low), longestHead)]
		}
		low = pieces.Lower(low)
	}
	switch {
	case r.plan.First && !r.heads.Begin(low):
		return low, nowhere
	case r.plan.First:
		return low, everywhere // there is but one place
	case r.heads != nil && len(low) == len(s): // with another length, the places differ
		return low, atHeads
	case r.heads == nil && !r.possible(low):
		return low, nowhere
	}
	return low, everywhere
}

// longestHead is how many bytes a head has, at most; a letter that is cut there
// is of no head.
const longestHead = 256

// each calls found with the places of each match and of its groups, until that
// says to stop.
func (r *Regexp) each(s, low string, found func(loc []int) bool) {
	behind, tried := 0, -1 // where the next match may begin; where one was tried last
	r.heads.Each(low, func(head, end int) bool {
		at := end - len(r.plan.Heads[head])
		if at < behind || at == tried || r.plan.Edge && wordAt(s, at-1) == wordAt(s, at) {
			return true
		}
		if tried < 0 && !holdsOf(low, r.quick) {
			return false
		}
		tried = at
		re := r.rest
		if r.before != nil && at > 0 {
			re = r.before
			_, sign := utf8.DecodeLastRuneInString(s[:at])
			if at -= sign; at < behind {
				return true
			}
		}
		loc := re().FindStringSubmatchIndex(s[at:])
		if loc == nil {
			return true
		}
		for i := range loc {
			if loc[i] >= 0 {
				loc[i] += at
			}
		}
		behind = loc[1]
		return found(loc)
	})
}

// wordAt says whether the byte at i of a text is one of a word, as \b means it
// (RE2 syntax).
func wordAt(s string, i int) bool {
	if i < 0 || i >= len(s) {
		return false
	}
	c := s[i]
	return c == '_' || c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z'
}

// mostQuick is how many texts are looked for, at most, before an expression is
// tried at the first head of a line. Source: measured on the labelled logs;
// with ten the looks take what they save.
const mostQuick = 6

// possible says whether a text holds what no match can do without.
func (r *Regexp) possible(s string) bool { return holdsOf(s, r.plan.Needs) }

// holdsOf says whether a text holds one of each of some sets.
func holdsOf(s string, sets [][]string) bool {
	for _, set := range sets {
		if !slices.ContainsFunc(set, func(piece string) bool { return strings.Contains(s, piece) }) {
			return false
		}
	}
	return true
}

// MatchString is as of [regexp.Regexp], and so are the others.
func (r *Regexp) MatchString(s string) (found bool) {
	switch low, w := r.in(s); w {
	case atHeads:
		r.each(s, low, func([]int) bool {
			found = true
			return false
		})
	case everywhere:
		return r.Compiled().MatchString(s)
	}
	return found
}

// Match is as of [regexp.Regexp].
func (r *Regexp) Match(b []byte) bool { return r.Compiled().Match(b) }

// FindString is as of [regexp.Regexp].
func (r *Regexp) FindString(s string) string {
	if loc := r.FindStringSubmatchIndex(s); loc != nil {
		return s[loc[0]:loc[1]]
	}
	return ""
}

// FindStringIndex is as of [regexp.Regexp].
func (r *Regexp) FindStringIndex(s string) []int {
	if loc := r.FindStringSubmatchIndex(s); loc != nil {
		return loc[:2]
	}
	return nil
}

// FindStringSubmatch is as of [regexp.Regexp].
func (r *Regexp) FindStringSubmatch(s string) []string {
	if loc := r.FindStringSubmatchIndex(s); loc != nil {
		return texts(s, loc)
	}
	return nil
}

// FindStringSubmatchIndex is as of [regexp.Regexp].
func (r *Regexp) FindStringSubmatchIndex(s string) (first []int) {
	switch low, w := r.in(s); w {
	case atHeads:
		r.each(s, low, func(loc []int) bool {
			first = loc
			return false
		})
	case everywhere:
		return r.Compiled().FindStringSubmatchIndex(s)
	}
	return first
}

// FindAllString is as of [regexp.Regexp].
func (r *Regexp) FindAllString(s string, n int) (all []string) {
	for _, loc := range r.FindAllStringSubmatchIndex(s, n) {
		all = append(all, s[loc[0]:loc[1]])
	}
	return all
}

// FindAllStringIndex is as of [regexp.Regexp].
func (r *Regexp) FindAllStringIndex(s string, n int) (all [][]int) {
	for _, loc := range r.FindAllStringSubmatchIndex(s, n) {
		all = append(all, loc[:2])
	}
	return all
}

// FindAllStringSubmatch is as of [regexp.Regexp].
func (r *Regexp) FindAllStringSubmatch(s string, n int) (all [][]string) {
	for _, loc := range r.FindAllStringSubmatchIndex(s, n) {
		all = append(all, texts(s, loc))
	}
	return all
}

// FindAllStringSubmatchIndex is as of [regexp.Regexp].
func (r *Regexp) FindAllStringSubmatchIndex(s string, n int) (all [][]int) {
	if n == 0 {
		return nil
	}
	switch low, w := r.in(s); w {
	case atHeads:
		r.each(s, low, func(loc []int) bool {
			all = append(all, loc)
			return len(all) != n
		})
	case everywhere:
		return r.Compiled().FindAllStringSubmatchIndex(s, n)
	}
	return all
}

// texts are what stands at the places of a match and of its groups.
func texts(s string, loc []int) []string {
	all := make([]string, len(loc)/2)
	for i := range all {
		if loc[2*i] >= 0 {
			all[i] = s[loc[2*i]:loc[2*i+1]]
		}
	}
	return all
}

// ReplaceAllString is as of [regexp.Regexp].
func (r *Regexp) ReplaceAllString(s, by string) string { return r.Compiled().ReplaceAllString(s, by) }

// ReplaceAllStringFunc is as of [regexp.Regexp].
func (r *Regexp) ReplaceAllStringFunc(s string, by func(string) string) string {
	return r.Compiled().ReplaceAllStringFunc(s, by)
}

// FindSubmatch is as of [regexp.Regexp].
func (r *Regexp) FindSubmatch(b []byte) [][]byte { return r.Compiled().FindSubmatch(b) }
