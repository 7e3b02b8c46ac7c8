// Package remedy carries out what puts a cause right: typed steps, previewed,
// checked again before the change, written to a journal, verified, and taken
// back from the journal alone.
package remedy

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// A Step is one typed, reversible change of one thing.
type Step struct {
	Kind   string            `json:"kind"` // one of kinds
	Target string            `json:"target"`
	Args   map[string]string `json:"args"`

	keep string // folder of this change's quarantine; the journal names it
}

// Kinds lists the names of all kinds of steps.
func Kinds() []string { return slices.Sorted(maps.Keys(kinds())) }

// NewStep makes a step out of a sign's model and checks its arguments.
func NewStep(model step.Model) (Step, error) {
	for name, args := range model {
		k, ok := kinds()[name]
		if !ok {
			return Step{}, fmt.Errorf("the step kind %q is not known", name)
		}
		s := Step{Kind: name, Args: args}
		for a := range args {
			if !slices.Contains(k.args, a) {
				return s, fmt.Errorf("a %s step takes no %q; it takes %s", name, a, strings.Join(k.args, ", "))
			}
		}
		for _, a := range k.target {
			if s.Target == "" && args[a] != "" {
				s.Target = strings.TrimRight(args[a], `\`)
			}
		}
		if s.Target == "" && len(k.target) > 0 {
			return s, fmt.Errorf("a %s step needs a target: %s", name, strings.Join(k.target, ", "))
		}
		if k.prepare != nil {
			s.Args = maps.Clone(args)
			if err := k.prepare(&s); err != nil {
				return s, err
			}
		}
		return s, refuse(s)
	}
	return Step{}, errors.New("an empty step")
}

func (s Step) kind() kind { return kinds()[s.Kind] }

// OneWay says why a step cannot be taken back; empty when it can.
func (s Step) OneWay() string { return s.kind().oneWay }

// Words says what the step does.
func (s Step) Words() string { return s.kind().words(s) }

// Lines shows a state of this step's kind for a person. who gives security IDs
// the names of their accounts; it may be nil.
func (s Step) Lines(st State, who machine.Accounts) []string { return s.kind().lines(st, who) }

// fits says whether a state is one of this step's kind.
func (s *Step) fits(st *State) bool {
	if s == nil || st == nil {
		return false
	}
	k, ok := kinds()[s.Kind]
	return ok && k.fits(*st)
}
