// This file drafts and applies a plan: a row of steps of which each is checked
// on the machine before the first is taken.

package fix

import (
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// A Plan is a row of changes that put one cause right. It is a value: it can be
// shown, refused and kept without touching the machine.
type Plan struct {
	Title   string   `json:"title"`          // what it fixes
	Machine string   `json:"machine"`        // the one that it was drafted for; no other takes it
	Hold    string   `json:"hold,omitempty"` // what is meant to be temporary
	Changes []Change `json:"changes"`        // in the order in which they are made
}

// A Change is a step with the state that it found and the one that it leads to.
type Change struct {
	kinds.Step
	Before kinds.State `json:"before"` // as the draft found it
	After  kinds.State `json:"after"`  // as it will be
}

// Done says whether the machine is as the step wants it already.
func (c Change) Done() bool { return c.Before.Equal(c.After) }

// Pending says whether anything is left to change.
func (p Plan) Pending() bool {
	return slices.ContainsFunc(p.Changes, func(c Change) bool { return !c.Done() })
}

// Draft reads the machine and works out what each step would change. Services
// that a started one depends on are started before it, as steps of their own.
// Nothing is changed.
func Draft(m machine.Machine, title string, models []step.Model) (Plan, error) {
	return draftAll(m, title, models, false)
}

// DraftNamed is [Draft] for steps that a person named in the call, with all
// that they are about: what no log may choose, such as a group in which
// everybody is, they may.
func DraftNamed(m machine.Machine, title string, models ...step.Model) (Plan, error) {
	return draftAll(m, title, models, true)
}

// draftAll makes a plan of steps for a machine: each is checked there, and what
// has to stop or start before it stands in front of it. byPerson says that a
// person named the step, who may do more than a remedy.
func draftAll(m machine.Machine, title string, models []step.Model, byPerson bool) (Plan, error) {
	p := Plan{Title: title, Machine: m.Name()}
	for _, model := range models {
		s, err := kinds.New(model)
		if err != nil {
			return p, err
		}
		for _, s := range slices.Concat(stoppedFirst(m, s), startedFirst(m, s, &[]string{}), []kinds.Step{s}) {
			err := s.Check(m, byPerson)
			var c Change
			if err == nil {
				c, err = p.draft(m, s)
			}
			if err == nil && !c.Done() && !slices.ContainsFunc(p.Changes, func(c Change) bool { return c.OfWhatIsThere() }) {
				err = s.Allowed(m) // an earlier step that gives rights may be what makes it possible
			}
			if err != nil {
				return p, fmt.Errorf("%s: %w", s.Words(), err)
			}
			p.Changes = append(p.Changes, c)
		}
	}
	return p, nil
}

// draft reads what a step would change and works out what it leads to. A step
// goes on from where an earlier one of the plan leaves the same target.
func (p Plan) draft(m machine.Machine, s kinds.Step) (Change, error) {
	before, err := s.Read(m)
	if err != nil {
		return Change{}, err
	}
	for _, c := range p.Changes {
		if s.GoesOn(c.Step) {
			before = c.After
		}
		s.Behind(&before, c.After)
	}
	after, err := s.Want(m, before)
	if err != nil {
		return Change{}, err
	}
	for _, c := range p.Changes {
		after.MadeBefore(c.After)
	}
	before.Remember(after) // undoing removes the keys and files that were made along with it
	return Change{Step: s, Before: before, After: after}, nil
}

// stoppedFirst gives the steps that stop what must not run any more: the
// services that depend on one that is stopped, the last in the row first, and a
// service itself before it is deleted.
func stoppedFirst(m machine.Machine, s kinds.Step) (steps []kinds.Step) {
	deleting := s.Kind == "remove-service" || s.Kind == "installer-service"
	if !deleting && (s.Kind != "service" || s.Args["state"] != "stopped") {
		return nil
	}
	svc, err := m.Service(s.Target)
	if err != nil || !svc.Running {
		return nil
	}
	if st, err := s.Read(m); err == nil {
		if want, err := s.Want(m, st); err != nil || st.Equal(want) {
			return nil
		}
	}
	for _, name := range machine.Dependents(m, svc.Name) {
		steps = append(steps, stopStep(name))
	}
	if deleting {
		steps = append(steps, stopStep(svc.Name))
	}
	return steps
}

// stopStep is the step that stops a service: it goes before one that needs its
// files or its entry.
func stopStep(name string) kinds.Step {
	return kinds.Step{Kind: "service", Target: name, Args: map[string]string{"name": name, "state": "stopped"}}
}

// maxStarts bounds a chain of services; the OS's longest has under ten.
const maxStarts = 30

// startedFirst gives the steps that start what a service to be started depends
// on; seen are those that are among them already.
func startedFirst(m machine.Machine, s kinds.Step, seen *[]string) (steps []kinds.Step) {
	if s.Kind != "service" || s.Args["state"] != "running" || len(*seen) > maxStarts {
		return nil
	}
	svc, err := m.Service(s.Target)
	if err != nil || svc.Running {
		return nil
	}
	for _, d := range svc.DependsOn {
		dep, err := m.Service(d)
		if err != nil || dep.Running || dep.Start == machine.StartDisabled || contains(*seen, dep.Name) {
			continue
		}
		*seen = append(*seen, dep.Name)
		need := kinds.Step{Kind: "service", Target: dep.Name, Args: map[string]string{"name": dep.Name, "state": "running"}}
		steps = append(append(steps, startedFirst(m, need, seen)...), need)
	}
	return steps
}

// contains says whether a name is in a list, letter case aside as the OS does.
func contains(list []string, s string) bool {
	for _, o := range list {
		if strings.EqualFold(o, s) {
			return true
		}
	}
	return false
}

// ErrOneWay says that a change cannot be undone.
var ErrOneWay = errors.New("it cannot be undone")

// ErrChanged says that the machine is not as it was when the plan was made, or
// as a step left it.
var ErrChanged = errors.New("the machine has changed since")

// goOn lets the changes that go on from where another leaves the same target
// begin at what was reached, where the machine keeps the nearest to what was
// planned.
func goOn(m machine.Machine, done Change, reached kinds.State, later []Change) error {
	for i := range later {
		c := &later[i]
		if !c.GoesOn(done.Step) || !c.Before.Equal(done.After) {
			continue
		}
		after, err := c.Want(m, reached)
		if err != nil {
			return err
		}
		c.Before, c.After = reached, after
		c.Before.Remember(after)
		break // the next one goes on from that
	}
	return nil
}

// Apply carries the plan out: for each step it checks that the machine is still
// as planned, writes the journal, changes, verifies, and writes the journal
// again. When a step fails, those before it are undone.
func (p Plan) Apply(m machine.Machine, j *Journal) error {
	if m.Name() != p.Machine {
		return fmt.Errorf("the plan is for %s, this is %s", p.Machine, m.Name())
	}
	if err := j.Hold(m); err != nil {
		return err
	}
	defer j.Release()
	id := newPlan()
	var made []int
	left := slices.Clone(p.Changes)
	for i := range left {
		c := left[i]
		if c.Done() {
			continue
		}
		number, err := 0, c.Check(m, true) // a link may have come in between
		if err == nil {
			var reached kinds.State
			if number, reached, err = j.apply(m, p, id, c); err == nil && !reached.Equal(p.Changes[i].After) {
				err = goOn(m, p.Changes[i], reached, left[i+1:])
			}
		}
		if err == nil {
			made = append(made, number)
			continue
		}
		err = fmt.Errorf("step %d of %d, %s: %w", i+1, len(p.Changes), c.Words(), err)
		// A plan is whole or not at all: half a fix is a state that nobody has
		// looked at.
		for k := len(made) - 1; k >= 0; k-- {
			if undone := j.Undo(m, made[k], false); undone != nil && !errors.Is(undone, ErrOneWay) {
				return errors.Join(err, fmt.Errorf("and change %d could not be undone: %w", made[k], undone))
			}
		}
		if len(made) > 0 {
			err = fmt.Errorf("%w; what was done before it has been undone", err)
		}
		return err
	}
	return nil
}

// newPlan is a name for the changes that are made as one; two plans may have
// the same title.
func newPlan() string {
	var b [6]byte
	_, _ = rand.Read(b[:]) // it never fails, says its package
	return hex.EncodeToString(b[:])
}

// OneWay says whether nothing of a plan can be undone once it is carried out.
func (p Plan) OneWay() bool {
	return !slices.ContainsFunc(p.Changes, func(c Change) bool { return !c.Done() && c.OneWay() == "" })
}

// change brings the machine from one state into another and looks whether it
// got there. It gives the state that was reached, which may be another one that
// does what the step is for.
func change(m machine.Machine, s kinds.Step, from, to kinds.State) (reached kinds.State, err error) {
	now, err := s.Read(m)
	if err != nil {
		return now, err
	}
	if !now.Equal(from) {
		return now, fmt.Errorf("%s is now %q, not %q: %w", s.Target, strings.Join(now.Lines(m), ", "),
			strings.Join(from.Lines(m), ", "), ErrChanged)
	}
	if err := s.Write(m, to); err != nil {
		return now, err
	}
	now, err = s.Read(m)
	if err != nil {
		return now, err
	}
	if !now.Equal(to) && !s.Suffices(m, from, now) {
		return now, fmt.Errorf("%s is now %q, though %q was set\nhint: something else may be putting it back, a policy for instance", s.Target,
			strings.Join(now.Lines(m), ", "), strings.Join(to.Lines(m), ", "))
	}
	return now, nil
}
