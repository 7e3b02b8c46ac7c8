// This file says how much each message of the engine's counts.

package verdict

import (
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/signs"
)

const (
	besideWeight   = 0.7  // said by an action around the one that broke
	outsideWeight  = 0.65 // said outside of all actions
	ignoredWeight  = 0.5  // said by an action whose failure was ignored
	elsewhere      = 0.3  // said by another action that failed
	harmlessWeight = 0.1  // of a kind that is known to be there in good runs, too
	loud           = 0.85 // a line over this weight means that the action did speak
)

// weigh gives each line its weight.
func (j *judge) weigh() {
	quiet := true
	if j.a.Dialect != story.Engine {
		j.said = evidence.ReadRun(j.a, j.broke)
	}
	for i, m := range j.a.Messages {
		var w float64
		switch {
		case j.said != nil:
			if w = j.said.Weight(i); j.foreign() {
				w = j.said.Counted(i)
			}
		case harmless(m):
			w = evidence.KindWeight[m.Kind] * j.placeWeight(m) * harmlessWeight
		default:
			w = evidence.KindWeight[m.Kind] * j.placeWeight(m)
		}
		if w > loud && m.Kind != story.KindData {
			quiet = false
		}
		j.scene.Lines = append(j.scene.Lines, signs.Weighed{Message: m, Weight: w})
	}
	j.scene.Attempt, j.scene.Broke, j.scene.Quiet = j.a, j.broke, quiet
	j.scene.Refusal = j.refusal()
}

// foreign says whether the log is of a program whose words nobody here knows
// beforehand: all that its lines say is weighed together.
func (j *judge) foreign() bool {
	return j.a.Dialect == story.Generic || j.a.Dialect == story.Script || j.a.Dialect == story.Events
}

// refusal finds the words with which a launch condition, or an action that only
// shows an error, stopped the setup: a line about the product without a
// number, in an action without a numbered error or a program's result.
func (j *judge) refusal() *signs.Weighed {
	if j.a.Dialect == story.Script {
		return j.lastBox()
	}
	if j.broke == nil || j.broke.Code != nil {
		return nil
	}
	var found *signs.Weighed
	for i, l := range j.scene.Lines {
		if l.Weight < loud || !l.Action.Within(j.broke) {
			continue
		}
		switch {
		case l.Number != 0 && l.Kind <= story.KindDebug:
			return nil
		case l.Kind == story.KindProduct && l.Number == 0 && found == nil:
			found = &j.scene.Lines[i]
		}
	}
	return found
}

// lastBox gives the words of the last message box of a script-driven setup that
// went no further than its questions.
func (j *judge) lastBox() *signs.Weighed {
	if len(j.a.Actions) > 0 {
		return nil
	}
	var box *signs.Weighed
	for i, m := range j.a.Messages {
		if !boxHead.MatchString(m.Text) {
			continue
		}
		var words []string
		for _, next := range j.a.Messages[i+1:] {
			if next.Kind != m.Kind || boxHead.MatchString(next.Text) {
				break
			}
			words = append(words, next.Text)
		}
		if len(words) > 0 {
			said := *j.a.Messages[i+1]
			said.Text = strings.Join(words, " ")
			box = &signs.Weighed{Message: &said, Weight: 1}
		}
	}
	return box
}

// boxHead begins what a script-driven setup shows in a window.
var boxHead = lazy.MustCompile(`^(?:Message box|Defaulting to \w+ for suppressed message box)`)

// placeWeight says how much a message counts by where it stands: in the action
// that failed most, in others less, and in the rollback least, since what
// breaks there does so because something broke before.
func (j *judge) placeWeight(m *story.Message) float64 {
	switch {
	case m.Rollback:
		return evidence.RollbackWeight
	case m.Action == nil && j.broke == nil:
		return 1
	case m.Action == nil:
		return outsideWeight
	case j.broke == nil:
		return besideWeight
	case m.Action.Within(j.broke):
		if m.Action.Ignored {
			return ignoredWeight
		}
		return 1
	case j.broke.Within(m.Action):
		// The script's host: what it says while the script's action runs is
		// about it.
		if m.Line >= j.broke.Line && (j.broke.EndLine == 0 || m.Line <= j.broke.EndLine) {
			return 1
		}
		return besideWeight
	case m.Action.Ignored:
		return ignoredWeight
	}
	return elsewhere
}

// harmlessNotes are the engine's remarks that stand in logs of good setups.
var harmlessNotes = map[int]bool{
	2205: true, 2228: true, 2262: true, 2265: true, 2769: true, 2826: true, 2835: true, 2836: true, 2898: true, 2899: true,
	1707: true, 1708: true, 1729: true, 1725: true, 1728: true, 1724: true, 1709: true, 2767: true, 1903: true, 1902: true,
	2729: true, 1325: true,
}

// harmless says whether a line stands in logs of good setups too.
func harmless(m *story.Message) bool {
	switch m.Kind {
	case story.KindNote:
		switch m.Number {
		case 2203:
			return m.Field(3) == "-2147287038"
		case 1402, 1406, 1404:
			last := m.Fields[len(m.Fields)-1]
			return last == "2" || last == "1018"
		}
		return harmlessNotes[m.Number]
	case story.KindDebug:
		return m.Number == 2898 || m.Number == 2826 || m.Number == 2769 || m.Number == 2836 ||
			m.Number == 2835 && !strings.Contains(m.Text, "control")
	case story.KindInfo:
		return m.Number == 0 || m.Number == 1603
	}
	return false
}
