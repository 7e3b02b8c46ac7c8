// This file finds the word that somebody meant.

package step

import "strings"

// Nearest is the known word that somebody who wrote another one may have meant:
// the one with the fewest letters to insert, delete or change; empty where none
// is near.
func Nearest(word string, known []string) string {
	const share = 3 // one letter of three may be wrong
	best, least := "", len(word)/share+1
	for _, k := range known {
		if d := distance(strings.ToLower(word), strings.ToLower(k)); d < least || d == least && best == "" {
			best, least = k, d
		}
	}
	return best
}

// distance counts the letters to insert, delete, change or swap between a and
// b.
func distance(a, b string) int {
	var older []int
	before := make([]int, len(b)+1)
	for j := range before {
		before[j] = j
	}
	for i := range len(a) {
		now := make([]int, len(b)+1)
		now[0] = i + 1
		for j := range len(b) {
			d := before[j]
			if a[i] != b[j] {
				d++
			}
			now[j+1] = min(d, before[j+1]+1, now[j]+1)
			if i > 0 && j > 0 && a[i] == b[j-1] && a[i-1] == b[j] {
				now[j+1] = min(now[j+1], older[j-1]+1)
			}
		}
		older, before = before, now
	}
	return before[len(b)]
}
