// Package kinds is what each kind of step does to a machine: how its target is
// read, what it is to become, how that is written and undone, how it is told
// and how it looks as a script. A kind is a row of its family; each family
// stands in a file of its own, and core/step lists what all kinds cost.
package kinds

import (
	"context"
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
	Kind   string            `json:"kind"`   // one of step.Kinds
	Target string            `json:"target"` // what it changes, as it is shown
	Args   map[string]string `json:"args"`   // by name; step.Kinds says which each kind takes

	Keep string `json:"-"` // the folder of this change's quarantine; the journal names it
	List string `json:"-"` // the hash of the list in it, as the journal keeps it; empty where it does not
}

// New makes a step out of a model and checks its arguments. It fails for a kind
// or argument that is not known, for one that lacks, and for a target that no
// step may touch; the step so far comes with the error, so that it can be told
// what was meant.
func New(model step.Model) (Step, error) {
	// A step is written as an object with one field, its kind.
	for name, args := range model {
		k, ok := kindOf(name)
		if !ok {
			return Step{}, UnknownKind(name)
		}
		s := Step{Kind: name, Args: args}
		for a := range args {
			if !slices.Contains(k.Args, a) {
				return s, fmt.Errorf("a %s step takes no %q; it takes %s", name, a, strings.Join(k.Args, ", "))
			}
		}
		for _, a := range k.Kind.Target {
			if s.Target == "" && args[a] != "" {
				s.Target = strings.TrimRight(args[a], `\`)
			}
		}
		if missing := k.missing(s); len(missing) > 0 {
			return s, fmt.Errorf("the step %s needs %s\n"+
				"hint: for what each is: hollowkey fix --step %s --help", name, strings.Join(missing, ", "), name)
		}
		if k.prepare != nil {
			s.Args = maps.Clone(args)
			if err := k.prepare(&s); err != nil {
				return s, err
			}
		}
		return s, s.refuse()
	}
	return Step{}, errors.New("an empty step")
}

// UnknownKind says that there is no such kind of step, and which may have been
// meant.
func UnknownKind(name string) error {
	hint := "to list them: hollowkey fix --step help"
	if near := step.Nearest(name, step.Names()); near != "" {
		hint = "did you mean " + near + "? " + hint
	}
	return fmt.Errorf("the step kind %q is not known\nhint: %s", name, hint)
}

// missing are the arguments that a step needs and does not have, as they are
// written.
func (k kind) missing(s Step) (list []string) {
	if s.Target == "" && len(k.Kind.Target) > 0 {
		list = append(list, strings.Join(k.Kind.Target, " or "))
	}
	for _, a := range k.Kind.Needs {
		if _, there := s.Args[a]; !there {
			list = append(list, a)
		}
	}
	return list
}

// kind is the row of the step's kind. A step that came from outside was looked
// at before, so an unknown one is the zero row.
func (s Step) kind() kind {
	k, _ := kindOf(s.Kind)
	return k
}

// OneWay says why a step cannot be undone; empty when it can.
func (s Step) OneWay() string { return s.kind().OneWay }

// GoesOn says whether the step changes the very fact that an earlier one
// changes: two accounts' rights on one folder, a service's start type and then
// its state.
func (s Step) GoesOn(earlier Step) bool {
	tag := s.kind().tag
	return tag == earlier.kind().tag && (tag == "security" || tag == "service") && strings.EqualFold(s.Target, earlier.Target)
}

// OfWhatIsThere says whether the step changes something about a target that
// another one made, so that there is nothing to undo once the target is gone:
// who may do what there.
func (s Step) OfWhatIsThere() bool { return s.kind().tag == "security" }

// Price is what a step costs.
func (s Step) Price() step.Cost { return s.kind().Cost }

// Words says what the step does.
func (s Step) Words() string { return s.kind().words(s) }

// Fits says whether a state is one of this step's kind.
func (s *Step) Fits(st *State) bool {
	if s == nil || st == nil {
		return false
	}
	k, ok := kindOf(s.Kind)
	return ok && st.Fact != nil && k.tag == st.family()
}

// Read gives the target's present state.
func (s Step) Read(m machine.Machine) (State, error) { return s.state(s.kind().read(m, s)) }

// Want gives the state that the step leads to, from the present one.
func (s Step) Want(m machine.Machine, now State) (State, error) {
	return s.state(s.kind().want(m, s, now.Fact))
}

// Write brings the target into a state, whichever it is in.
func (s Step) Write(m machine.Machine, to State) error { return s.kind().write(m, s, to.Fact) }

// Runs says whether the step runs a program of the OS, whose result shows only
// in how it ends.
func (s Step) Runs() bool { return s.kind().run != nil }

// Run lets the OS's program do the step; said gets what it prints. The state
// says how it ended, with an error too.
func (s Step) Run(ctx context.Context, m machine.Machine, said func(string)) (State, error) {
	f, err := s.kind().run(ctx, m, s, said)
	return State{f}, err
}

// state wraps a fact as it comes from a reader; it takes its error too, so that
// calls can be nested.
func (s Step) state(f Fact, err error) (State, error) {
	if err != nil {
		return State{}, err
	}
	return State{f}, nil
}
