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
	Log      string         `json:"log"`
	Dialect  story.Dialect  `json:"dialect"`
	Lines    int            `json:"lines"`
	Product  story.Identity `json:"product"`
	Outcome  story.Outcome  `json:"outcome"`
	ExitCode *int           `json:"exit_code"`
	Date     string         `json:"date,omitempty"`
	Begins   string         `json:"begins,omitempty"` // time of day
	Took     float64        `json:"took_seconds"`
	Attempts int            `json:"attempts"`
	Rollback int            `json:"rollback_line,omitempty"`
	BrokeAt  story.BrokeAt  `json:"broke_at"`
	Slowest  []Step         `json:"slowest,omitempty"`
	Gaps     []Gap          `json:"gaps,omitempty"`
	Actions  int            `json:"actions"` // how many there are, shown or not
	Steps    []Step         `json:"steps"`
	Values   []Property     `json:"properties,omitempty"`
}

// A Step is an action.
type Step struct {
	Name     string  `json:"action"`
	Depth    int     `json:"depth"`
	Line     int     `json:"line"`
	EndLine  int     `json:"end_line,omitempty"`
	At       string  `json:"at,omitempty"`
	Took     float64 `json:"took_seconds"` // -1 when it is not known
	Result   *int    `json:"result,omitempty"`
	Code     *int    `json:"code,omitempty"` // what a custom action returned
	State    string  `json:"state"`          // done, failed, ignored, open, taken back
	Phase    string  `json:"phase"`          // immediate, deferred, rollback
	Custom   bool    `json:"custom"`
	Broke    bool    `json:"broke,omitempty"`
	Messages []Said  `json:"messages,omitempty"`
}

// Said is a line that was kept of a step that failed.
type Said struct {
	Line int    `json:"line"`
	Kind string `json:"kind"`
	Text string `json:"text"`
}

// A Gap is a silence.
type Gap struct {
	After int     `json:"after_line"`
	Took  float64 `json:"seconds"`
}

// A Property is a name with its last value.
type Property struct {
	Name  string `json:"name"`
	Value string `json:"value"`
	Line  int    `json:"line"`
}

// Options choose what is shown.
type Options struct {
	Failed     bool   // only what failed and what is around it
	Properties string // pattern of property names (* and ?), shown too
}

var phases = [...]string{"immediate", "deferred", "rollback"}

// An Ending is what a verdict knows of a story as a whole.
type Ending struct {
	Product  story.Identity
	Outcome  story.Outcome
	ExitCode *int
	BrokeAt  story.BrokeAt
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

// step makes of an action what is shown. A time that is not known is -1, since 0 is
// one.
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
		s.State = "taken back"
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
