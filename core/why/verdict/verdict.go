// Package verdict works out of a story how a set-up ended, what broke first and
// made the rest fail, why, and what would put it right. It says only what the
// evidence shows.
//
// How a verdict is reached is told in docs/verdicts.md.
package verdict

import (
	"errors"
	"fmt"
	"slices"

	"hollowkey/core/logs/story"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
)

// Schema names the shape of a verdict's JSON.
const Schema = "hollowkey.why/1"

// A Verdict is the answer to "why?".
type Verdict struct {
	Schema   string          `json:"schema"`
	Outcome  story.Outcome   `json:"outcome"`
	ExitCode *int            `json:"exit_code"`
	Product  story.Identity  `json:"product"`
	Package  string          `json:"package,omitempty"` // path of the package on the machine, where the log says
	User     string          `json:"user,omitempty"`    // who ran it, where the log says
	BrokeAt  story.BrokeAt   `json:"broke_at"`
	Cause    Cause           `json:"cause"`
	Chain    []Line          `json:"chain"`    // from symptom to root
	Evidence []Line          `json:"evidence"` // the lines that prove it
	Remedies []step.Remedy   `json:"remedies"` // the best first
	Machine  []signs.Finding `json:"machine,omitempty"`
	Attempts []Past          `json:"earlier_attempts,omitempty"`
	Remarks  []string        `json:"remarks,omitempty"` // what to know about the evidence itself
	Logs     []Log           `json:"logs"`
	Sign     string          `json:"sign,omitempty"` // the sign that decided
	Others   []Other         `json:"others,omitempty"`

	checkable bool // a look at the machine could tell more
	mayStep   bool // and then there may be steps
}

// Cause is why it broke. Class is null when nothing is wrong.
type Cause struct {
	Class      *string        `json:"class"`
	Message    *int           `json:"message"` // engine message or system error
	Subject    *signs.Subject `json:"subject"`
	Title      string         `json:"title,omitempty"`
	Summary    string         `json:"summary"`
	Confidence float64        `json:"confidence"`
}

// A Line is a line of a log.
type Line struct {
	File string `json:"file"`
	Line int    `json:"line"`
	Text string `json:"text"`
}

// FirstWithSteps is the index of the first remedy that has steps, -1 when all
// are advice.
func (v *Verdict) FirstWithSteps() int {
	return slices.IndexFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) > 0 })
}

// ErrNoSuchRemedy says that a verdict has no remedy of that number.
var ErrNoSuchRemedy = errors.New("no such remedy")

// Choose gives the index of the remedy to take: the one of a number, counted
// from 1, or for 0 the first that has steps; -1 when none has.
func (v *Verdict) Choose(number int) (int, error) {
	switch {
	case number == 0:
		return v.FirstWithSteps(), nil
	case number < 1 || number > len(v.Remedies):
		return -1, fmt.Errorf("--remedy %d: the verdict has %d remedies: %w", number, len(v.Remedies), ErrNoSuchRemedy)
	case len(v.Remedies[number-1].Steps) == 0:
		return -1, fmt.Errorf("remedy %d is advice for a person: %s", number, v.Remedies[number-1].Title)
	}
	return number - 1, nil
}

// Worked says whether the set-up did its work, with or without a restart due.
func (v *Verdict) Worked() bool { return v.Outcome.Worked() }

// Past is an attempt before the last one in the same log.
type Past struct {
	Line     int           `json:"line"`
	Date     string        `json:"date,omitempty"`
	Outcome  story.Outcome `json:"outcome"`
	ExitCode *int          `json:"exit_code"`
}

// A Log is a file that was read.
type Log struct {
	File     string        `json:"file"`
	Dialect  story.Dialect `json:"dialect"`
	Encoding string        `json:"encoding"`
	Lines    int           `json:"lines"`
	Bytes    int64         `json:"bytes"`
}

// Other is a cause that was seen as well but counts less.
type Other struct {
	Class      string  `json:"class"`
	Title      string  `json:"title"`
	Confidence float64 `json:"confidence"`
	Line       int     `json:"line,omitempty"`
}
