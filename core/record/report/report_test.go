package report

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/logs/mask"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/trail"
	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

func verdictOf(outcome story.Outcome) *verdict.Verdict {
	name, class, action, line := "Tidebook Desk", "service", "StartServices", 41
	v := &verdict.Verdict{Outcome: outcome, Product: story.Identity{Name: &name}}
	if outcome == story.Failed {
		v.Cause = verdict.Cause{Class: &class, Summary: "The service BerthSync of wendeline did not start",
			Subject: &signs.Subject{Kind: "service", Name: "BerthSync"}, Confidence: 0.97}
		v.BrokeAt = story.BrokeAt{Action: &action, Line: &line}
		v.Evidence = []verdict.Line{{File: `C:\logs\t.log`, Line: 41, Text: strings.Repeat("long ", 200)}}
		v.Remedies = []step.Remedy{{Title: "start it", Steps: []step.Model{{"service": {"name": "BerthSync", "state": "running"}}}}}
	}
	return v
}

func steps(n int, second bool) *trail.Trail {
	t := &trail.Trail{Begins: "09:00:00", Took: 0.4}
	if second {
		t.Took = float64(n)
	}
	for i := range n {
		st := trail.Step{Name: fmt.Sprintf("Action%d", i), Line: i + 1, At: fmt.Sprintf("09:%02d:%02d", i/60, i%60), Took: 1,
			Phase: "immediate", State: "done"}
		if !second {
			st.At, st.Took = "09:00:00", 0
		}
		if i == n-3 {
			st.Broke, st.State = true, "failed"
		}
		if i > n-3 {
			st.Phase = "rollback"
		}
		t.Steps = append(t.Steps, st)
	}
	return t
}

// The picture shows the action that broke and what is around it, however many
// there are, and stays within its frame.
func TestTimeline(t *testing.T) {
	for _, n := range []int{3, 5, 26, 27, 400} {
		for _, second := range []bool{true, false} {
			tl := timeline(steps(n, second), func(s string) string { return s })
			broke, back := 0, 0
			for _, b := range tl.Rows {
				if b.X < nameWidth || b.X+b.Width > pictureWidth || b.Y+barHeight > tl.Height || b.Width < 1 {
					t.Errorf("%d actions: a bar leaves the picture: %+v", n, b)
				}
				switch b.Class {
				case "broke":
					broke++
				case "back":
					back++
				}
			}
			if len(tl.Rows) > mostRows || len(tl.Rows)+tl.Left != n || broke != 1 || back != 2 {
				t.Errorf("%d actions, by seconds %v: %d rows, %d left out, %d broke, %d rolled back", n, second, len(tl.Rows), tl.Left, broke, back)
			}
			if second != (tl.Ticks != nil) {
				t.Errorf("%d actions, by seconds %v: ticks %v", n, second, tl.Ticks)
			}
		}
	}
	if tl := timeline(&trail.Trail{}, nil); tl != nil {
		t.Errorf("of nothing: %+v", tl)
	}
	midnight := &trail.Trail{Begins: "23:59:58", Took: 10,
		Steps: []trail.Step{{Name: "A", At: "23:59:58", Took: 1}, {Name: "B", At: "00:00:03", Took: 5}}}
	if tl := timeline(midnight, func(s string) string { return s }); tl.Rows[1].X <= tl.Rows[0].X || tl.Rows[1].From != 5 {
		t.Errorf("over midnight: %+v", tl.Rows)
	}
}

func change(seq int, status string) fix.Item {
	st := &kinds.Step{Kind: "service", Target: "TideClock", Args: map[string]string{"name": "TideClock", "start": "manual"}}
	return fix.Item{Record: fix.Record{Seq: seq, Time: time.Unix(0, 0), Step: st,
		Before: &kinds.State{Fact: &kinds.ServiceState{Start: machine.StartDisabled}},
		After:  &kinds.State{Fact: &kinds.ServiceState{Start: machine.StartManual, Running: true}}}, Status: status}
}

// Three plain sentences say what was wrong, what was done, and how it stands.
func TestPlainSentences(t *testing.T) {
	worked, failed := &casefile.Attempt{Done: true, Verdict: verdictOf(story.Succeeded)},
		&casefile.Attempt{Done: true, Verdict: verdictOf(story.Failed), Rehearsal: true}
	cut := &casefile.Attempt{}
	for _, c := range []struct {
		in   Input
		want [3]string
	}{
		{Input{}, [3]string{"has not been read yet", "Nothing on the machine is changed", "has not been tried again yet"}},
		{Input{Verdict: verdictOf(story.Succeeded)}, [3]string{"nothing is wrong", "Nothing", "not been tried"}},
		{Input{Verdict: verdictOf(story.Failed), Changes: []fix.Item{change(1, "done")}, Attempts: []*casefile.Attempt{worked}},
			[3]string{"Tidebook Desk could not be set up: The service", "One thing was changed: set the start type",
				"Tidebook Desk works now; it was tried on the machine."}},
		{Input{Verdict: verdictOf(story.Failed), Changes: []fix.Item{change(1, "done"), change(3, "final"), change(5, "undone")},
			Attempts: []*casefile.Attempt{worked, failed}},
			[3]string{"could not", "2 things were changed", "does not work yet; it was tried on a copy"}},
		{Input{Verdict: verdictOf(story.Failed), Changes: []fix.Item{change(1, "undone")}, Attempts: []*casefile.Attempt{worked, cut}},
			[3]string{"could not", "Nothing", "worked with the change, which is undone now"}},
	} {
		got := Make(c.in).Plain
		for i, w := range c.want {
			if len(got) != 3 || !strings.Contains(got[i], w) {
				t.Errorf("sentence %d of %q lacks %q", i, got, w)
			}
		}
	}
}

// The page is well formed, says all there is, and holds no private name.
func TestPages(t *testing.T) {
	about := &casefile.About{Title: "Tidebook & co <b>", Told: "wendeline says it stops", State: casefile.Open,
		Notes: []casefile.Note{{Text: "call wendeline back | at two"}}}
	facts := &machine.Facts{OS: machine.OS{Name: "Windows", Version: "10.0", Build: 19045},
		Drives: []machine.Drive{{Letter: "C:", Kind: "fixed", Size: 100 << 30, Free: 5 << 30}}}
	hold := change(7, "done")
	hold.Hold, hold.Machine = fix.VerboseLogging, "TIDEHOUSE-9"
	in := Input{Title: about.Title, About: about, Verdict: verdictOf(story.Failed), Trail: steps(40, true),
		Changes: []fix.Item{change(1, "done"), change(3, "undone")}, Holds: []fix.Item{hold},
		Attempts: []*casefile.Attempt{{Number: 1, Done: true, Verdict: verdictOf(story.Failed), Compared: "same",
			Assumed: []string{"wendeline's tool works"}}, {Number: 2}},
		Facts: facts, Machine: "TIDEHOUSE-9", Made: time.Unix(0, 0), Mask: mask.New([]string{"wendeline"}, []string{"TIDEHOUSE-9"})}
	p := Make(in)
	var html, md bytes.Buffer
	if err := HTML(&html, p); err != nil {
		t.Fatal(err)
	}
	if err := Markdown(&md, p); err != nil {
		t.Fatal(err)
	}
	d := xml.NewDecoder(strings.NewReader(strings.NewReplacer("<!DOCTYPE html>", "", `<meta charset="utf-8">`, "",
		`<meta name="viewport" content="width=device-width, initial-scale=1">`, "", "<br>", "<br/>", `px">`, `px"/>`, `50%">`, `50%"/>`,
		"<col>", "<col/>").Replace(html.String())))
	for {
		if _, err := d.Token(); err == io.EOF {
			break
		} else if err != nil {
			t.Fatalf("the page is not well formed: %v", err)
		}
	}
	for name, text := range map[string]string{"HTML": html.String(), "Markdown": md.String()} {
		for _, want := range []string{"StartServices", "user1", "host1", "cut off", "start type disabled", "start type manual",
			"5 GB free of 100 GB", "verbose logging policy", "t.log:41", "Masked:"} {
			if !strings.Contains(strings.ReplaceAll(text, `\`, ""), want) {
				t.Errorf("%s lacks %q", name, want)
			}
		}
		for _, no := range []string{"wendeline", "TIDEHOUSE", "<b>", strings.Repeat("long ", 100)} {
			if strings.Contains(text, no) {
				t.Errorf("%s holds %q", name, no)
			}
		}
	}
}
