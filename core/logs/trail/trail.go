// Package trail makes of a story what a person walks along: a summary, and the
// actions as a tree with times, durations and results.
package trail

import (
	"path"
	"strings"
	"time"

	"hollowkey/core/logs/story"
)

// Schema names the shape of a trail's JSON.
const Schema = "hollowkey.trail/1"

// A Trail is one attempt, to be walked along.
type Trail struct {
	Schema   string         `json:"schema"`
	Log      string         `json:"log"`                     // file name
	Dialect  story.Dialect  `json:"dialect"`                 // whose words it is written in
	Lines    int            `json:"lines"`                   // how many it has
	Product  story.Identity `json:"product"`                 // what was installed
	Outcome  story.Outcome  `json:"outcome"`                 // as the verdict has it
	ExitCode *int           `json:"exit_code"`               // nil where the log does not tell
	Date     string         `json:"date,omitempty"`          // of the beginning: 2026-05-04, or as the log has it where day and month stay unclear
	Begins   string         `json:"begins,omitempty"`        // time of day
	Took     float64        `json:"took_seconds"`            // from the first to the last line with a time
	Attempts int            `json:"attempts"`                // how many the log holds; the last one is shown
	Rollback int            `json:"rollback_line,omitempty"` // where the way back begins
	BrokeAt  story.BrokeAt  `json:"broke_at"`                // as the verdict has it
	Slowest  []Step         `json:"slowest,omitempty"`       // longest first
	Gaps     []Gap          `json:"gaps,omitempty"`          // silences, longest first
	Actions  int            `json:"actions"`                 // how many there are, shown or not
	Steps    []Step         `json:"steps"`                   // in the order of the log
	Values   []Property     `json:"properties,omitempty"`    // those that were asked for
}

// A Step is an action.
type Step struct {
	Name     string  `json:"action"`             // as the log writes it
	Depth    int     `json:"depth"`              // 0 for the outermost
	Line     int     `json:"line"`               // where it begins, from 1
	EndLine  int     `json:"end_line,omitempty"` // where it ends
	At       string  `json:"at,omitempty"`       // time of day it began
	Took     float64 `json:"took_seconds"`       // -1 when it is not known
	Result   *int    `json:"result,omitempty"`   // as the engine counts: 1 worked, 3 failed
	Code     *int    `json:"code,omitempty"`     // what a custom action returned
	State    string  `json:"state"`              // done, failed, ignored, open, rolled back
	Phase    string  `json:"phase"`              // immediate, deferred, rollback
	Custom   bool    `json:"custom"`             // the vendor's, not the engine's
	Broke    bool    `json:"broke,omitempty"`    // the verdict names it
	Messages []Said  `json:"messages,omitempty"` // only of one that failed
}

// Said is a line that was kept of a step that failed.
type Said struct {
	Line int    `json:"line"` // from 1
	Kind string `json:"kind"` // error, warning, note or other
	Text string `json:"text"` // without the line's end
}

// A Gap is a silence.
type Gap struct {
	After int     `json:"after_line"` // the line before the silence
	Took  float64 `json:"seconds"`    // seconds
}

// A Property is a name with its last value.
type Property struct {
	Name  string `json:"name"`  // as the log writes it
	Value string `json:"value"` // as the log shows it
	Line  int    `json:"line"`  // where it was last told
}

// Options choose what is shown.
type Options struct {
	Failed     bool   // only what failed and what is around it
	Properties string // pattern of property names (* and ?), shown too
}

var phases = [...]string{"immediate", "deferred", "rollback"}

// An Ending is what a verdict knows of a story as a whole.
type Ending struct {
	Product  story.Identity // as the verdict has it
	Outcome  story.Outcome  // as the verdict has it
	ExitCode *int           // as the verdict has it
	BrokeAt  story.BrokeAt  // as the verdict has it
}

// Of makes the trail of a story's last attempt, which ended as v says.
func Of(s *story.Story, v Ending, opt Options) *Trail {
	a := s.Last()
	t := &Trail{Schema: Schema, Log: s.Sources[0].Name, Dialect: s.Dialect, Lines: s.Sources[0].Lines, Outcome: v.Outcome,
		ExitCode: v.ExitCode,
		Product:  v.Product, Attempts: len(s.Attempts), BrokeAt: v.BrokeAt, Steps: []Step{}}
	if a == nil {
		return t
	}
	t.Date, t.Rollback, t.Actions = a.Date, a.Rollback, len(a.Actions)
	if began, ok := a.Began(time.Time{}); ok {
		t.Date = began.Format(time.DateOnly)
	}
	if a.FirstTime >= 0 {
		t.Begins, t.Took = clock(a.FirstTime), (a.LastTime - a.FirstTime).Seconds()
	}
	for _, g := range a.Gaps {
		t.Gaps = append(t.Gaps, Gap{g.After, g.Length.Seconds()})
	}
	said := map[*story.Action][]Said{}
	for _, m := range a.Messages {
		if m.Action != nil && m.Kind <= story.KindNote {
			said[m.Action] = append(said[m.Action], Said{m.Line, m.Kind.String(), m.Text})
		}
	}
	for _, x := range a.Actions {
		st := step(x)
		st.Broke = v.BrokeAt.Action != nil && x.Name == *v.BrokeAt.Action && x.Failed && x.Phase != story.Rollback && lowest(a.Actions, x)
		if x.Failed || x.Ignored {
			st.Messages = said[x]
		}
		if opt.Failed && st.State != "failed" && st.State != "ignored" && st.State != "open" {
			continue
		}
		t.Steps = append(t.Steps, st)
	}
	t.Slowest = slowest(t.Steps)
	if opt.Properties != "" {
		t.Values = properties(a, opt.Properties)
	}
	return t
}

// lowest says whether no failed action of that name runs inside x.
func lowest(all []*story.Action, x *story.Action) bool {
	for _, y := range all {
		if y != x && y.Failed && y.Name == x.Name && y.Within(x) {
			return false
		}
	}
	return true
}

// step makes of an action what is shown. A time that is not known is -1, since
// 0 is one.
func step(x *story.Action) Step {
	s := Step{Name: x.Name, Depth: x.Depth(), Line: x.Line, EndLine: x.EndLine, Took: -1, Result: x.Result, Code: x.Code, State: "done",
		Phase: phases[x.Phase], Custom: x.Custom}
	if x.Start >= 0 {
		s.At = clock(x.Start)
		if x.End >= x.Start {
			s.Took = (x.End - x.Start).Seconds()
		}
	}
	switch {
	case x.Phase == story.Rollback:
		s.State = "rolled back"
	case x.Ignored:
		s.State = "ignored"
	case x.Failed:
		s.State = "failed"
	case x.EndLine == 0:
		s.State = "open"
	}
	return s
}

// clock writes a time of day.
func clock(d time.Duration) string {
	return time.Unix(0, 0).UTC().Add(d).Format("15:04:05")
}

// maxSlowest steps are told: where time went is seldom in more places.
const maxSlowest = 3

// slowest are the steps that took longest, of the innermost ones.
func slowest(steps []Step) []Step {
	var out []Step
	for i, s := range steps {
		inner := i+1 >= len(steps) || steps[i+1].Depth <= s.Depth
		if !inner || s.Took < 1 {
			continue
		}
		at := len(out)
		for at > 0 && out[at-1].Took < s.Took {
			at--
		}
		out = append(out[:at], append([]Step{s}, out[at:]...)...)
		out = out[:min(len(out), maxSlowest)]
	}
	return out
}

// properties are those that a pattern with stars fits, letter case aside.
func properties(a *story.Attempt, pattern string) (out []Property) {
	for name, p := range a.Properties {
		if ok, _ := path.Match(strings.ToLower(pattern), strings.ToLower(name)); ok {
			out = append(out, Property{name, p.Value, p.Line})
		}
	}
	sortProperties(out)
	return out
}
