// Package ostexts finds the OS's own words for its system errors in a line, in
// the languages of texts.txt: a program that prints them names the number.
// Source of the numbers: the platform SDK, "System Error Codes".
package ostexts

import (
	_ "embed"
	"slices"
	"strconv"
	"strings"
	"sync"

	"hollowkey/core/logs/pieces"
)

//go:embed texts.txt
var text string

// A Said is one of those texts in a line: the number that it tells, and the
// bytes at which it begins and ends.
type Said struct{ Code, From, To int }

// table are all texts, the numbers that they tell, and the set that finds them.
var table = sync.OnceValue(func() (t struct {
	codes []int
	words []string
	set   *pieces.Set
}) {
	for code, words := range All() {
		for _, w := range words {
			w, _, _ = strings.Cut(w, " * ") // what it names stands between
			for _, way := range append(pieces.Unmarked(w), w) {
				t.words, t.codes = append(t.words, way), append(t.codes, code)
			}
		}
	}
	t.set = pieces.New(t.words)
	return t
})

// All gives the texts by their numbers, in small letters; " * " stands for what
// one names.
func All() map[int][]string {
	all := map[int][]string{}
	for line := range strings.Lines(text) {
		number, rest, ok := strings.Cut(strings.TrimSpace(line), " ")
		if code, err := strconv.Atoi(number); ok && err == nil {
			all[code] = append(all[code], strings.Split(rest, "|")...)
		}
	}
	return all
}

// In finds them in a line, given in small letters, in the order in which they
// begin. Of two that lie in each other the longer counts: "the system cannot
// open the device or file specified because it is locked".
func In(lower string) (all []Said) {
	t := table()
	t.set.Find(lower, func(k, end int) { all = append(all, Said{t.codes[k], end - len(t.words[k]), end}) })
	if len(all) < 2 {
		return all
	}
	found := slices.Clone(all)
	return slices.DeleteFunc(all, func(s Said) bool {
		return slices.ContainsFunc(found, func(o Said) bool { return o.From <= s.From && o.To >= s.To && o.To-o.From > s.To-s.From })
	})
}

// Any says whether a line, in small letters, holds one.
func Any(lower string) bool { return table().set.Any(lower) }
