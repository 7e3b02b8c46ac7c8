// This file is a line without its values, by which lines of one sort are told.

package evidence

import (
	"strings"

	"hollowkey/core/logs/story"
)

// words are those that many lines of a log have in common. Others are names,
// numbers and what else changes from line to line.
type words map[string]int

const (
	shapeBytes = 160 // of a line make its shape
	commonIn   = 4   // lines that hold a word make it a common one
	leastWords = 2   // common words make a shape, or half of all: with fewer, unlike lines would look alike
)

// commonWords counts in how many lines each word stands.
func (r *Run) commonWords() words {
	in := words{}
	last := map[string]int{}
	for i := range r.lines {
		for w := range strings.FieldsSeq(clipped(r.lines[i].Text)) {
			if at, ok := last[w]; !ok || at != i {
				last[w] = i
				in[w]++
			}
		}
	}
	return in
}

// clipped is the first line of a text, so short that two of them can be
// compared quickly.
func clipped(s string) string {
	s, _, _ = strings.Cut(s, "\n")
	return story.Clip(s, shapeBytes)
}

// shape is a line's text with only the words and values that other lines have
// too.
func (in words) shape(m *story.Message) string {
	var b strings.Builder
	b.WriteString(m.Source)
	common, all := 0, 0
	text := clipped(m.Text)
	for w := range strings.FieldsSeq(text) {
		name, _, isValue := strings.Cut(w, "=")
		all++
		switch {
		case isValue && len(name) > 0:
			if b.WriteString(" " + name + "="); in[w] >= commonIn { // a state, such as status=407
				b.WriteString(w[len(name)+1:])
			}
			common++
		case strings.ContainsAny(w, "0123456789\\/") || in[w] < commonIn:
			b.WriteString(" #")
		default:
			b.WriteString(" " + w)
			common++
		}
	}
	if common < leastWords && common*2 < all {
		return m.Source + " " + strings.Map(func(c rune) rune {
			if c >= '0' && c <= '9' {
				return '#'
			}
			return c
		}, text)
	}
	return b.String()
}
