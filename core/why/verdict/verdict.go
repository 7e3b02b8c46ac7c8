// Package verdict works out of a story how a setup ended, what broke first and
// made the rest fail, why, and what would put it right. It says only what the
// evidence shows.
//
// To read it: reach.go is the way from a story to a verdict; cause.go settles
// on the cause in the engine's logs, together.go in all others; subject.go says
// what the cause is about, ask.go what the machine knows of it. The other files
// are what these ask.
//
// How a verdict is reached is told in docs/verdicts.md.
package verdict

import (
	"errors"
	"fmt"
	"slices"

	"hollowkey/core/logs/story"
	"hollowkey/core/step"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/signs"
)

// Schema names the shape of a verdict's JSON.
const Schema = "hollowkey.why/1"

// A Verdict is the answer to "why?".
type Verdict struct {
	Schema   string          `json:"schema"`                     // names the shape
	Outcome  story.Outcome   `json:"outcome"`                    // how it ended
	ExitCode *int            `json:"exit_code"`                  // nil where the log does not tell
	Product  story.Identity  `json:"product"`                    // what was installed
	Package  string          `json:"package,omitempty"`          // path of the package on the machine, where the log says
	Given    []string        `json:"given,omitempty"`            // properties that it was called with, NAME=VALUE
	With     []string        `json:"with,omitempty"`             // transforms that it was called with, by their paths
	User     string          `json:"user,omitempty"`             // who ran it, where the log says
	BrokeAt  story.BrokeAt   `json:"broke_at"`                   // action and line
	Cause    Cause           `json:"cause"`                      // the first one, not what followed from it
	Chain    []Line          `json:"chain"`                      // from symptom to root
	Evidence []Line          `json:"evidence"`                   // the lines that prove it
	Remedies []step.Remedy   `json:"remedies"`                   // the best first
	Machine  []signs.Finding `json:"machine,omitempty"`          // what the machine answered
	Attempts []Past          `json:"earlier_attempts,omitempty"` // those before in the same log
	Remarks  []string        `json:"remarks,omitempty"`          // what to know about the evidence itself
	Logs     []Log           `json:"logs"`                       // that were read, the main one first
	Sign     string          `json:"sign,omitempty"`             // the sign that decided
	Host     Host            `json:"host,omitzero"`              // the machine, where the log tells it
	// when the attempt began by the machine's clock, ISO 8601; with a zone
	// where the log has one
	Began  string `json:"began,omitempty"`
	Result *int   `json:"result,omitempty"` // what the action that broke returned
	Server string `json:"server,omitempty"` // that did not answer, or has the share that is missing
	Said   string `json:"said,omitempty"`   // the package's own words of refusal

	Captures map[string]string `json:"captures,omitempty"`    // what the sign read from its lines, by name
	Others   []Other           `json:"others,omitempty"`      // other causes that were seen
	More     []Setup           `json:"more_setups,omitempty"` // further setups that the logs of one call are of, newest first

	Here *Here `json:"here,omitempty"` // what the site's store of logs knows of the cause; nil where none was asked

	Hypotheses []evidence.Hypothesis `json:"-"` // all causes that were weighed, the likeliest first; none for logs with numbered messages

	checkable bool // a look at the machine could tell more
	unread    bool // its package cannot be read
	mayStep   bool // and then there may be steps
	vague     bool // it says only that something else failed
}

// Here is what a site's store of logs knows of a cause.
type Here struct {
	Store    string    `json:"store"`             // that was asked
	Cause    string    `json:"cause"`             // its ID there
	Machines int       `json:"machines"`          // that had it; 0: it was never seen
	Attempts int       `json:"attempts"`          // that failed so
	First    string    `json:"first,omitempty"`   // day on which it was first seen
	Last     string    `json:"last,omitempty"`    // and last
	Tried    []Tried   `json:"tried,omitempty"`   // what was tried for it, what helped most often first
	Earlier  []Earlier `json:"earlier,omitempty"` // failures of the same machine, the newest first
}

// Tried is what came of one remedy.
type Tried struct {
	Remedy int    `json:"remedy"` // its number in the verdict; 0: none of them
	Title  string `json:"title"`  // without what is of one machine
	Times  int    `json:"times"`  // that it was tried
	Helped int    `json:"helped"` // of them
}

// Earlier is one failure of the same machine.
type Earlier struct {
	Happened string `json:"happened"` // day
	Same     bool   `json:"same"`     // from the same cause
	Title    string `json:"title"`    // of its cause
	Product  string `json:"product"`
	Log      string `json:"log"` // where the store found it
}

// A Setup is what was found about another setup whose log was named in the same
// call.
type Setup struct {
	Product  story.Identity `json:"product"`   // what was installed
	Outcome  story.Outcome  `json:"outcome"`   // how it ended
	ExitCode *int           `json:"exit_code"` // nil where the log does not tell
	Class    *string        `json:"class"`     // of the cause; nil when nothing is wrong
	Summary  string         `json:"summary"`   // whole sentences
	Logs     []Log          `json:"logs"`      // that tell of it
}

// Cause is why it broke. Class is null when nothing is wrong.
type Cause struct {
	Class      *string        `json:"class"`           // nil when none was found
	Message    *int           `json:"message"`         // engine message or system error
	Subject    *signs.Subject `json:"subject"`         // nil where it names nothing
	Title      string         `json:"title,omitempty"` // one phrase
	Summary    string         `json:"summary"`         // whole sentences
	Confidence float64        `json:"confidence"`      // 0 to 1; 0.9 and more: the log proves it
}

// A Line is a line of a log.
type Line struct {
	File string `json:"file"` // as it was given
	Line int    `json:"line"` // from 1; 0 where there is no log
	Text string `json:"text"` // without the line's end
}

// FirstWithSteps is the index of the first remedy that has steps, and need not
// be named by a person; -1 when all
// are advice.
func (v *Verdict) FirstWithSteps() int {
	return slices.IndexFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) > 0 && !r.OnlyNamed })
}

// FirstNamed is the index of the first remedy with steps that a person must
// name; -1 when there is none.
func (v *Verdict) FirstNamed() int {
	return slices.IndexFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) > 0 && r.OnlyNamed })
}

// ErrAdvice says that a remedy is for a person, and has no steps.
var ErrAdvice = errors.New("it has no steps")

// ErrNoSuchRemedy says that a verdict has no remedy of that number.
var ErrNoSuchRemedy = errors.New("no such remedy")

// Choose gives the index of the remedy to take: the one of a number, counted
// from 1, or for 0 the first that has steps; -1 when none has.
func (v *Verdict) Choose(number int) (int, error) {
	switch {
	case number == 0:
		return v.FirstWithSteps(), nil
	case number < 1 || number > len(v.Remedies):
		return -1, fmt.Errorf("%w: --remedy %d, and the list ends at %d", ErrNoSuchRemedy, number, len(v.Remedies))
	case len(v.Remedies[number-1].Steps) == 0:
		return -1, fmt.Errorf("remedy %d is advice for a person: %s: %w", number, v.Remedies[number-1].Title, ErrAdvice)
	}
	return number - 1, nil
}

// Worked says whether the setup did its work, with or without a restart due.
func (v *Verdict) Worked() bool { return v.Outcome.Worked() }

// Past is an attempt before the last one in the same log.
type Past struct {
	Line     int           `json:"line"`           // where it begins
	Date     string        `json:"date,omitempty"` // year-month-day; empty where the log does not tell
	Outcome  story.Outcome `json:"outcome"`        // how it ended
	ExitCode *int          `json:"exit_code"`      // nil where the log does not tell
}

// A Log is a file that was read.
type Log struct {
	File     string        `json:"file"`     // as it was given
	Dialect  story.Dialect `json:"dialect"`  // whose words it is written in
	Encoding string        `json:"encoding"` // as it was found out
	Lines    int           `json:"lines"`    // how many it has
	Bytes    int64         `json:"bytes"`    // size of the file
}

// Other is a cause that was seen as well but counts less.
type Other struct {
	Class      string  `json:"class"`          // of the cause
	Title      string  `json:"title"`          // one phrase
	Confidence float64 `json:"confidence"`     // 0 to 1
	Line       int     `json:"line,omitempty"` // that speaks for it
}
