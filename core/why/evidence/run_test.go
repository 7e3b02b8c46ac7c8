package evidence

import (
	"testing"

	"hollowkey/core/logs/story"
)

// Of plain lines the one wins that is grave, near the end, names something,
// does not come again and again, and does not say that it does not matter.
func TestRating(t *testing.T) {
	a := &story.Attempt{Dialect: story.Generic, LastLine: 1000}
	r := ReadRun(a, nil)
	base := story.Message{Kind: story.KindError, Text: `cannot open 'C:\x'`, Place: story.Place{Line: 990}, Repeated: 1}
	rate := func(m *story.Message) float64 {
		l := r.alone(m)
		return r.rate(&l)
	}
	best := rate(&base)
	for name, change := range map[string]func(*story.Message){
		"a warning":              func(m *story.Message) { m.Kind = story.KindWarning },
		"says it is ignored":     func(m *story.Message) { m.Text += " (ignored)" },
		"comes all the time":     func(m *story.Message) { m.Repeated = 40 },
		"far from the end":       func(m *story.Message) { m.Line = 10 },
		"tells how, not why":     func(m *story.Message) { m.Verdict, m.Text = true, "the update failed" },
		"stands on the way back": func(m *story.Message) { m.Rollback = true },
		"remark of a programmer": func(m *story.Message) { m.Kind = story.KindText },
	} {
		m := base
		change(&m)
		if got := rate(&m); got >= best {
			t.Errorf("%s: %.2f is not less than %.2f", name, got, best)
		}
	}
}
