// This file makes a story of a dialog's words or a number, with no log at all.

package engine

import (
	"strings"
	"time"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/story"
)

// Said makes a story of what a dialog said, or of the number that a setup ended
// with, when that is all there is. exit may be nil.
func Said(text string, exit *int) *story.Story {
	a := &story.Attempt{
		Place: story.Place{File: "what was said"}, Dialect: story.Engine, FirstTime: -1, LastTime: -1,
		Properties: map[string]story.Property{}, Policies: map[string]story.Property{}, Success: new(false),
	}
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		kind := story.KindProduct
		if word, number, _, ok := lines.Numbered([]byte(line)); ok {
			kind = level(word, number)
		}
		m := message(&slot{line: i + 1, at: time.Duration(-1), kind: kind, text: []byte(line)})
		if m.File = "what was said"; m.Number == 0 {
			m.Number, m.Fields = lines.OfEngine(line)
		}
		if kind == story.KindProduct {
			m.Kind = story.KindText
		}
		a.Messages = append(a.Messages, m)
		a.LastLine = i + 1
	}
	if exit != nil {
		a.Exit = &story.Exit{Place: story.Place{File: "what was said"}, Code: *exit}
		a.Success = nil
	}
	return &story.Story{Dialect: story.Engine, Attempts: []*story.Attempt{a},
		Sources: []story.Source{{Name: "what was said", Dialect: story.Engine, Lines: a.LastLine}}}
}
