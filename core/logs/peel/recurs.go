// This file tells columns from first words: a column's names come again, and
// its times rise.

package peel

import (
	"bytes"
	"strings"
	"time"
)

// recurring is the share of lines of which another begins alike, from which on
// names are those of parts, and no words that happen to stand in front.
const recurring = 0.9

// fewLines are too few for every part to speak twice.
const fewLines = 12

// recurs says whether the names in a column come again and again, as those of
// parts do: keys in front of values do not. Of bare words the one behind must
// come again too, else they are verbs before names of files.
func (c Column) recurs(lines [][]byte) bool {
	names, pairs, taken, colons, sentences := map[string]int{}, map[string]int{}, 0, 0, 0
	seen := map[string]bool{}
	for _, l := range lines {
		v, rest, ok := c.take(l)
		if !ok || c.kind == leading && seen[string(l)] { // the same sentence again says nothing of its words
			continue
		}
		seen[string(l)] = true
		next, _, _ := strings.Cut(string(rest), " ")
		if bytes.HasPrefix(l[min(len(l), len(v.name)):], []byte(":")) {
			colons++
		}
		if bytes.Count(rest, []byte(" ")) >= sentence {
			sentences++
		}
		names[v.name]++
		pairs[v.name+" "+next]++
		taken++
	}
	again, both := 0, 0
	for _, n := range names {
		if n > 1 {
			again += n
		}
	}
	for _, n := range pairs {
		if n > 1 {
			both += n
		}
	}
	least := recurring
	switch {
	case c.kind != joined:
	case float64(sentences) > enough*float64(taken): // no values, which are of a word or two
		least = seldom
	case colons*2 < taken: // other signs do not stand between a key and its value
		least = enough
	}
	if len(names) < 2 || float64(again) < least*float64(taken) && taken > fewLines {
		return false
	}
	return c.kind == joined || taken > fewLines && float64(both) >= enough*float64(taken) && len(names)*4 < taken
}

// rises says whether the times of the column never fall from line to line, and
// rise at least once: else they are amounts, or versions.
func (c Column) rises(lines [][]byte) bool {
	last, rose := time.Duration(-1), false
	for _, l := range lines {
		if v, _, ok := c.off(l); ok {
			if v.at < last {
				return false
			}
			rose, last = rose || last >= 0 && v.at > last, v.at
		}
	}
	return rose
}
