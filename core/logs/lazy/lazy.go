// Package lazy has patterns that are compiled when they are first used: a hundred of them
// take longer than most calls of the program, which need none.
package lazy

import (
	"regexp"
	"slices"
	"strings"
	"sync"

	"hollowkey/core/logs/pieces"
)

// A Regexp is a pattern of [regexp], compiled when it is first used.
type Regexp struct {
	source string
	once   sync.Once
	re     *regexp.Regexp
	looked sync.Once
	needs  [][]string // sets of texts, of each of which every match holds one
}

// MustCompile makes a pattern. One that is wrong is found out by whoever first uses it: each
// has a test.
func MustCompile(source string) *Regexp { return &Regexp{source: source} }

// Compiled is the pattern itself.
func (r *Regexp) Compiled() *regexp.Regexp {
	r.once.Do(func() { r.re = regexp.MustCompile(r.source) })
	return r.re
}

// MatchString is as of [regexp.Regexp], and so are the others. It looks for the plain pieces
// of the pattern first, which most texts lack.
func (r *Regexp) MatchString(s string) bool {
	return r.possible(s) && r.Compiled().MatchString(s)
}

// possible says whether a text holds what no match can do without.
func (r *Regexp) possible(s string) bool {
	r.looked.Do(func() { r.needs = pieces.Needs(r.source, false) })
	for _, set := range r.needs {
		if !slices.ContainsFunc(set, func(piece string) bool { return strings.Contains(s, piece) }) {
			return false
		}
	}
	return true
}

// Match is as of [regexp.Regexp].
func (r *Regexp) Match(b []byte) bool { return r.Compiled().Match(b) }

// FindString is as of [regexp.Regexp].
func (r *Regexp) FindString(s string) string {
	if !r.possible(s) {
		return ""
	}
	return r.Compiled().FindString(s)
}

// FindStringIndex is as of [regexp.Regexp].
func (r *Regexp) FindStringIndex(s string) []int {
	if !r.possible(s) {
		return nil
	}
	return r.Compiled().FindStringIndex(s)
}

// FindStringSubmatch is as of [regexp.Regexp].
func (r *Regexp) FindStringSubmatch(s string) []string {
	if !r.possible(s) {
		return nil
	}
	return r.Compiled().FindStringSubmatch(s)
}

// FindStringSubmatchIndex is as of [regexp.Regexp].
func (r *Regexp) FindStringSubmatchIndex(s string) []int {
	if !r.possible(s) {
		return nil
	}
	return r.Compiled().FindStringSubmatchIndex(s)
}

// FindAllString is as of [regexp.Regexp].
func (r *Regexp) FindAllString(s string, n int) []string {
	if !r.possible(s) {
		return nil
	}
	return r.Compiled().FindAllString(s, n)
}

// FindAllStringIndex is as of [regexp.Regexp].
func (r *Regexp) FindAllStringIndex(s string, n int) [][]int {
	if !r.possible(s) {
		return nil
	}
	return r.Compiled().FindAllStringIndex(s, n)
}

// FindAllStringSubmatch is as of [regexp.Regexp].
func (r *Regexp) FindAllStringSubmatch(s string, n int) [][]string {
	if !r.possible(s) {
		return nil
	}
	return r.Compiled().FindAllStringSubmatch(s, n)
}

// FindAllStringSubmatchIndex is as of [regexp.Regexp].
func (r *Regexp) FindAllStringSubmatchIndex(s string, n int) [][]int {
	if !r.possible(s) {
		return nil
	}
	return r.Compiled().FindAllStringSubmatchIndex(s, n)
}

// ReplaceAllString is as of [regexp.Regexp].
func (r *Regexp) ReplaceAllString(s, by string) string { return r.Compiled().ReplaceAllString(s, by) }

// ReplaceAllStringFunc is as of [regexp.Regexp].
func (r *Regexp) ReplaceAllStringFunc(s string, by func(string) string) string {
	return r.Compiled().ReplaceAllStringFunc(s, by)
}

// FindSubmatch is as of [regexp.Regexp].
func (r *Regexp) FindSubmatch(b []byte) [][]byte { return r.Compiled().FindSubmatch(b) }
