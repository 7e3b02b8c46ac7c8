// This file has the words that lines share, without those that any line has.

package evidence

import (
	_ "embed"
	"iter"
	"strings"
	"sync"
	"unicode"
)

// headOf are the first two words of a text, when both are letters alone: "probe
// runtime".
func headOf(lower string) string {
	first, rest, ok := strings.Cut(lower, " ")
	second, _, _ := strings.Cut(rest, " ")
	second = strings.TrimRight(second, ":,;.")
	other := func(c rune) bool { return !unicode.IsLetter(c) && c != '-' && c != '_' }
	if !ok || len(first) < leastHead || len(second) < leastHead || strings.IndexFunc(first+second, other) >= 0 {
		return ""
	}
	return first + " " + second
}

// leastHead is how many bytes each word of a head has; shorter ones begin any
// sentence.
const leastHead = 4

// hasWord says whether a text has one of some words.
func hasWord(text string, words map[string]bool) bool {
	if len(words) == 0 {
		return false
	}
	for w := range wordsOf(text) {
		if words[w] {
			return true
		}
	}
	return false
}

// leastWord is the length of words that are compared, in bytes: shorter ones
// are of the sentence.
const leastWord = 5

// wordsOf gives the longer words of a text's first line, each once, but those
// that any failure is told with.
func wordsOf(text string) iter.Seq[string] {
	return func(yield func(string) bool) {
		text, _, _ := strings.Cut(text, "\n")
		seen := map[string]bool{}
		for w := range strings.FieldsFuncSeq(text, func(c rune) bool { return !unicode.IsLetter(c) }) {
			if len(w) < leastWord || seen[w] || plainWords()[w] {
				continue
			}
			seen[w] = true
			if !yield(w) {
				return
			}
		}
	}
}

//go:embed plain.txt
var plainText string

// plainWords are those of plain.txt.
var plainWords = sync.OnceValue(func() map[string]bool {
	m := map[string]bool{}
	for w := range strings.FieldsSeq(plainText) {
		m[w] = true
	}
	return m
})
