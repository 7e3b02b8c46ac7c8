// This file draws the actions of a setup over time.

package report

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/logs/trail"
)

// Timeline is the picture of a setup: actions over time, where it broke, the
// way back.
type Timeline struct {
	Rows   []Bar  `json:"rows"`   // actions, in the order of the log
	Height int    `json:"height"` // of the picture
	Ticks  []Tick `json:"ticks"`  // of the scale
	Left   int    `json:"left"`   // of actions that are not shown
	Words  string `json:"words"`  // what the picture shows, for those who do not see it
}

// Bar is one action.
type Bar struct {
	Name     string  `json:"name"`      // of the action
	Y        int     `json:"y"`         // in the picture's own units
	TextY    int     `json:"text_y"`    // in the picture's own units
	X        int     `json:"x"`         // in the picture's own units
	Width    int     `json:"width"`     // in the picture's own units
	Class    string  `json:"class"`     // done, broke, back
	Note     string  `json:"note"`      // beside the bar
	NoteX    int     `json:"note_x"`    // where its note stands
	NoteLeft bool    `json:"note_left"` // the note stands left of the bar, as there is no room
	Inside   bool    `json:"inside"`    // the note stands in the bar
	Title    string  `json:"title"`     // all of it, for those who point at it
	Duration float64 `json:"duration"`  // seconds
	From     float64 `json:"from"`      // seconds
}

// Tick is a mark of the time axis.
type Tick struct {
	X    int    `json:"x"`    // in the picture's own units
	Text string `json:"text"` // a time of day or a duration
}

// The measures of the picture, in its own units.
const (
	pictureWidth = 960
	nameWidth    = 250
	rowHeight    = 20
	barHeight    = 12
	topHeight    = 26
	mostRows     = 26 // letters that fit [nameWidth] in the picture's type
	leastBar     = 3
	noteWidth    = 110

	leastTook = 0.05 // seconds: a shorter action is no bar, but a stroke
)

// timeline chooses the actions that tell most (the one that broke and what is
// around it, then the longest) and lays them out.
func timeline(t *trail.Trail, hide func(string) string) *Timeline {
	steps := slices.Clone(t.Steps)
	if len(steps) == 0 {
		return nil
	}
	all := len(steps)
	if t.Took >= 2 {
		steps = slices.DeleteFunc(steps, func(s trail.Step) bool {
			return s.Took < leastTook && !s.Broke && s.State != "failed" && s.Phase != "rollback"
		})
	}
	begins := seconds(t.Begins)
	total := t.Took
	byTime := total >= 2 // the log's clock ticks in seconds
	from := func(i int) float64 {
		if !byTime {
			return float64(i)
		}
		at := seconds(steps[i].At) - begins
		if at < 0 {
			at += 24 * 3600
		}
		return at
	}
	if !byTime {
		total = float64(len(steps))
	}
	chosen := choose(steps)
	out := &Timeline{Left: all - len(chosen), Height: topHeight + rowHeight*len(chosen) + 8, Words: "over time"}
	if !byTime {
		out.Words = "in their order; the whole took less than two seconds"
	}
	scale := float64(pictureWidth-nameWidth-20) / max(total, 1)
	for n, i := range chosen {
		st := steps[i]
		b := Bar{Name: hide(short(st.Name)), Y: topHeight + n*rowHeight, From: from(i), Duration: max(st.Took, 0), Class: "done"}
		if !byTime {
			b.Duration = 0.8
		}
		b.TextY = b.Y + barHeight - 2
		b.X = nameWidth + int(b.From*scale)
		b.Width = max(int(b.Duration*scale), leastBar)
		b.X = min(b.X, pictureWidth-leastBar-10)
		b.Width = min(b.Width, pictureWidth-b.X)
		switch {
		case st.Broke:
			b.Class, b.Note = "broke", "✕ failed here"
		case st.Phase == "rollback":
			b.Class, b.Note = "back", "rolled back"
		case st.State == "failed":
			b.Note = "failed with it"
		case st.Took >= 0.05:
			b.Note = fmt.Sprintf("%.1f s", st.Took)
		}
		b.NoteX = b.X + b.Width + 6
		switch {
		case b.NoteX <= pictureWidth-noteWidth:
		case b.Width > noteWidth:
			b.NoteX, b.NoteLeft, b.Inside = b.X+b.Width-8, true, true
		default:
			b.NoteX, b.NoteLeft = b.X-6, true
		}
		b.Title = fmt.Sprintf("%s, line %d", b.Name, st.Line)
		out.Rows = append(out.Rows, b)
	}
	if byTime {
		step := tickStep(total)
		for sec := 0.0; sec <= total; sec += step {
			text := fmt.Sprintf("+%.0f s", sec)
			if sec == 0 && t.Begins != "" {
				text, _, _ = strings.Cut(t.Begins, ".")
			}
			out.Ticks = append(out.Ticks, Tick{nameWidth + int(sec*scale), text})
		}
	}
	return out
}

// tickStep is a round number of seconds that gives the axis three to eight
// marks.
func tickStep(total float64) float64 {
	for _, step := range []float64{1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1200, 1800, 3600, 7200} {
		if total/step < 8 {
			return step
		}
	}
	return total / 4
}

// short cuts a name to what fits.
func short(name string) string {
	const most = 32 // letters that fit the column of names at the size they are drawn in
	if r := []rune(name); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return name
}

// choose gives the steps that are shown, in their order.
func choose(steps []trail.Step) (list []int) {
	if len(steps) <= mostRows {
		for i := range steps {
			list = append(list, i)
		}
		return list
	}
	weight := make([]float64, len(steps))
	broke := slices.IndexFunc(steps, func(s trail.Step) bool { return s.Broke })
	for i, s := range steps {
		weight[i] = max(s.Took, 0)
		if s.State == "failed" {
			weight[i] += 1e4
		}
		if s.Phase == "rollback" {
			weight[i] += 10
		}
		if d := i - broke; broke >= 0 && d >= -6 && d <= 6 {
			weight[i] += 1e6 - float64(d*d)
		}
		list = append(list, i)
	}
	slices.SortStableFunc(list, func(a, b int) int {
		switch {
		case weight[a] > weight[b]:
			return -1
		case weight[a] < weight[b]:
			return 1
		}
		return 0
	})
	list = list[:mostRows]
	slices.Sort(list)
	return list
}

// seconds reads a time of day.
func seconds(clock string) float64 {
	var h, m int
	var s float64
	if _, err := fmt.Sscanf(clock, "%d:%d:%f", &h, &m, &s); err != nil {
		return 0
	}
	return float64(h*3600+m*60) + s
}
