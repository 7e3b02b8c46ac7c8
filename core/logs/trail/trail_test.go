package trail

import (
	"context"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

func sample() (*story.Story, Ending) {
	sec := time.Second
	value := func(n int) *int { return &n }
	run := &story.Action{Name: "INSTALL", Start: 0, End: 90 * sec, EndLine: 90, Failed: true, Result: value(3), Place: story.Place{Line: 1}}
	cost := &story.Action{Name: "CostFinalize", Parent: run, Start: sec, End: 3 * sec, EndLine: 10, Result: value(1),
		Place: story.Place{Line: 5}}
	right := &story.Action{Name: "SetRight", Parent: run, Start: 3 * sec, End: 4 * sec, EndLine: 20, Ignored: true, Code: value(5),
		Place: story.Place{Line: 11}, Custom: true}
	start := &story.Action{Name: "StartServices", Parent: run, Start: 4 * sec, End: 64 * sec, EndLine: 80, Failed: true,
		Phase: story.Deferred, Place: story.Place{Line: 21}}
	back := &story.Action{Name: "StopServices", Parent: run, Start: 65 * sec, End: -1, Phase: story.Rollback, Place: story.Place{Line: 81}}
	a := &story.Attempt{
		Date: "5/4/2026", FirstTime: 9 * time.Hour, LastTime: 9*time.Hour + 90*sec, Rollback: 81,
		Actions:    []*story.Action{run, cost, right, start, back},
		Properties: map[string]story.Property{"ProductName": {Value: "Tidebook"}, "ProductCode": {Value: "{x}"}, "UILevel": {Value: "2"}},
		Messages: []*story.Message{
			{Place: story.Place{Line: 30}, Kind: story.KindError, Text: "Error 1920.", Action: start},
			{Place: story.Place{Line: 31}, Kind: story.KindText, Text: "chatter", Action: start},
			{Place: story.Place{Line: 12}, Kind: story.KindResult, Text: "returned 5", Action: right},
		},
		Gaps: []story.Gap{{After: 29, Length: 55 * sec}},
	}
	s := &story.Story{Dialect: story.Engine, Sources: []story.Source{{Name: "x.log", Lines: 100}}, Attempts: []*story.Attempt{a}}
	return s, Ending{Outcome: story.Failed, BrokeAt: story.BrokeAt{Action: &start.Name}}
}

func TestOf(t *testing.T) {
	s, v := sample()
	tr := Of(s, v, Options{Properties: "product*"})
	var got []string
	for _, st := range tr.Steps {
		mark := ""
		if st.Broke {
			mark = "!"
		}
		got = append(got, strings.Repeat(">", st.Depth)+st.Name+" "+st.State+mark)
	}
	if want := "INSTALL failed, >CostFinalize done, >SetRight ignored, >StartServices failed!, >StopServices rolled back"; strings.Join(got,
		", ") != want {
		t.Errorf("steps: %s", strings.Join(got, ", "))
	}
	st := tr.Steps[3]
	if st.Took != 60 || st.Phase != "deferred" || len(st.Messages) != 1 || st.Messages[0].Line != 30 || tr.Steps[4].Took != -1 {
		t.Errorf("the step that broke: %+v", st)
	}
	if len(tr.Slowest) != 3 || tr.Slowest[0].Name != "StartServices" || tr.Slowest[1].Name != "CostFinalize" {
		t.Errorf("slowest: %+v", tr.Slowest)
	}
	if tr.Begins != "09:00:00" || tr.Took != 90 || tr.Rollback != 81 || tr.Actions != 5 || tr.Gaps[0] != (Gap{29, 55}) {
		t.Errorf("summary: %+v", tr)
	}
	if len(tr.Values) != 2 || tr.Values[0].Name != "ProductCode" || tr.Values[1].Value != "Tidebook" {
		t.Errorf("properties: %+v", tr.Values)
	}
	failed := Of(s, v, Options{Failed: true})
	if len(failed.Steps) != 3 || failed.Actions != 5 {
		t.Errorf("only failed: %d steps of %d", len(failed.Steps), failed.Actions)
	}
}

func TestOfNothing(t *testing.T) {
	tr := Of(&story.Story{Sources: []story.Source{{Name: "x"}}}, Ending{}, Options{})
	if len(tr.Steps) != 0 || tr.Steps == nil {
		t.Errorf("%+v", tr)
	}
}

func TestAround(t *testing.T) {
	text := strings.Repeat("line\n", 20)
	for _, tt := range []struct{ line, before, after, first, n int }{{10, 2, 3, 8, 6}, {1, 5, 1, 1, 2}, {20, 1, 9, 19, 2}, {40, 1, 1, 0, 0}} {
		lines, err := Around(context.Background(), strings.NewReader(text), textfile.Options{}, tt.line, tt.before, tt.after)
		if err != nil || len(lines) != tt.n || tt.n > 0 && lines[0].Line != tt.first {
			t.Errorf("around %d: %v, %v", tt.line, lines, err)
		}
	}
}

// The date has the year first where the log tells which number is the month: by
// the user's language, or as it can be nothing else.
func TestDates(t *testing.T) {
	for _, c := range []struct{ date, language, want string }{
		{"5/4/2026", "1033", "2026-05-04"}, {"5/4/2026", "2057", "2026-04-05"}, {"25/4/2026", "", "2026-04-25"}, {"5/4/2026", "", "5/4/2026"},
		{"04.05.2026", "", "2026-05-04"},
	} {
		s, v := sample()
		a := s.Last()
		a.Date = c.date
		a.Properties["UserLanguageID"] = story.Property{Value: c.language}
		if tr := Of(s, v, Options{}); tr.Date != c.want {
			t.Errorf("%s in %s: %s, want %s", c.date, c.language, tr.Date, c.want)
		}
	}
}
