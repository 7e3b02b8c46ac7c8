// This file takes out of the last lines of a log how the run went.

package generic

import (
	"slices"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/story"
)

// lastWord takes out of the last line the exit code, where it holds words for
// an end and a number and nothing else, "stopped: 21", or that all went well:
// "all done".
func (r *Reader) lastWord(a *story.Attempt, end int) {
	n := len(a.Messages)
	if n == 0 || a.Exit != nil {
		return
	}
	m := a.Messages[n-1]
	if m.Line < a.LastLine && (len(m.Further) == 0 || m.Further[len(m.Further)-1] < a.LastLine) {
		return
	}
	r.wordOf(a, m, end)
	// What only closes the log stands behind the line that tells it.
	for back := 1; back <= mostClosers && back < n && a.Success == nil && a.Exit == nil && !m.Verdict && endings.Closes(m.Text); back++ {
		m = a.Messages[n-1-back]
		r.wordOf(a, m, end)
	}
}

// wordOf takes it out of one of the last lines.
func (r *Reader) wordOf(a *story.Attempt, m *story.Message, end int) {
	if a.Success != nil && *a.Success && endings.FieldsFail(m.Text) { // its words tell an end, and its values which
		a.Success = new(false)
	}
	text, _, _ := strings.Cut(m.Text, "\n") // without a record's further fields
	code, isCode := endings.LastWord(text)
	if !isCode {
		record := m.Text
		if m.Source != "" && endings.BeforeFields(text) == "" { // its words stand where others name themselves
			record, text = m.Source+" "+record, m.Source+" "+text
		}
		code, isCode = endings.LastFields(record, a.Product.Name)
		well, _, alone := endings.AllDone(endings.BeforeFields(text), a.Product.Name)
		if isCode && code == 0 && a.Success == nil && well && !alone { // of all of it, whatever failed before
			a.Exit, m.Verdict = &story.Exit{Place: m.Place, Code: code, Text: m.Raw}, true
			return
		}
	}
	if !isCode {
		code, isCode = endings.LastClause(text, r.hurt(a, end) || a.Success != nil && !*a.Success)
	}
	agrees := a.Success == nil && (code != 0 || !r.hurt(a, end)) || a.Success != nil && *a.Success == exitcode.Good(code)
	if isCode && agrees {
		a.Exit, m.Verdict = &story.Exit{Place: m.Place, Code: code, Text: m.Raw}, true
		return
	}
	if a.Success != nil {
		return
	}
	// One word alone is about the step under way, or about each, where there
	// are some.
	well, bad, alone := endings.AllDone(endings.BeforeFields(text), a.Product.Name)
	switch {
	case (well || bad) && endings.FieldsFail(m.Text):
		a.Success, m.Verdict = new(false), true
	case alone && (m.Repeated > 1 || well && len(a.Actions) > 0):
	case bad:
		a.Success, m.Verdict = new(false), true
	case well && m.Kind > story.KindError &&
		(!r.hurt(a, end) || (!alone || endings.IsSetup(strings.ToLower(m.Source))) && workedOn(a, m)):
		a.Success, a.Loosely, m.Verdict = new(true), !r.leveled && !r.grave, true
	default:
		r.closed(a, m, end)
	}
}

// closed takes out of the last line how it went where a sign parts that from
// what ended, or counts tell it.
func (r *Reader) closed(a *story.Attempt, m *story.Message, end int) {
	text, _, _ := strings.Cut(m.Text, "\n")
	c := endings.Close(text, a.Product.Name)
	if v := a.Product.Version; c.Bad && c.Exit == nil && v != "" && strings.Contains(text, " "+v) { // the new one stays
		c = endings.Closing{}
	}
	said := endings.BeforeFields(text)
	if said == "" && m.Source == "" && c == (endings.Closing{}) {
		c.Bad = endings.FieldsFail(text)
	}
	if said == "" {
		said, c.Well = m.Source, c.Well || m.Source == "" && m.Repeated <= 1 && endings.FieldsWell(text)
	}
	if c == (endings.Closing{}) && endings.TellsEnd(said, a.Product.Name) {
		c.Bad = endings.FieldsFail(m.Text)
	}
	switch {
	case c.Bad, c.Well && m.Kind > story.KindError && (!r.hurt(a, end) || workedOn(a, m)):
	default:
		return
	}
	if m.Verdict = true; c.Exit != nil {
		a.Exit = &story.Exit{Place: m.Place, Code: *c.Exit, Text: m.Raw}
		return
	}
	a.Success, a.Loosely = &c.Well, c.Well && !r.leveled && !r.grave
}

// mostClosers is how many lines stand at most behind the one that tells how it
// went, and close the log: "exiting", "log closed".
const mostClosers = 2

// goneOn is how many lines of work behind an error show that the run went on.
const goneOn = 3

// workedOn says whether the run did other things between its last error and a
// message.
func workedOn(a *story.Attempt, m *story.Message) bool {
	n := 0
	for i := slices.Index(a.Messages, m) - 1; i >= 0; i-- {
		o := a.Messages[i]
		said := endings.Read(o.Text)
		if o.Kind <= story.KindError {
			return n >= goneOn
		}
		if said.Fails || said.GivesUp || said.Cancelled || endings.Unwinds(o.Text) {
			return false
		}
		n++
	}
	return false
}
