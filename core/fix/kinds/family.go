// This file is the table of all kinds. A kind is one row, with its reader, its
// wish and its words; what rows share is their family's.

package kinds

import (
	"context"
	"sync"

	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// A Fact is what a step's target is like at one moment, the target's absence
// included. Each family of kinds has a type of its own.
type Fact interface {
	// Lines shows the fact to a person, for a preview. who gives security IDs
	// the names of their accounts; it may be nil.
	Lines(who machine.Accounts) []string
	// family is the name of the fact's family, as the journal writes it.
	family() string
	// plain is the fact without what is kept only to show it, or to put it back
	// in its old place: facts are the same when their plain ones are.
	plain() Fact
	// powerShell and command write the lines of a script that bring the step's
	// target from another fact of the family into this one.
	powerShell(s Step, from Fact) ([]string, error)
	command(s Step, from Fact) ([]string, error)
}

// A rememberer keeps things for the way back that only the state after a change
// knows: keys and files that were made along with it.
type rememberer interface{ remember(after Fact) }

// A partial fact decides itself whether it lies between two others: a step of
// several writes that was cut off leaves such a one.
type partial interface{ between(a, b Fact) bool }

// A registryFact can be left as registry text, for a person to merge by hand.
type registryFact interface {
	registryText(s Step) ([]byte, error)
}

// A family is the kinds of steps that change one sort of thing, with what they
// share. Each stands whole in a file of its own: fact, reading, writing, words,
// equality, script forms.
type family struct {
	empty func() Fact // to read a fact back into
	kinds []kind      // in the order in which they are defined
}

// A kind is one row of a family.
type kind struct {
	step.Kind
	tag string // of its family
	// prepare completes a step from its arguments; may be nil.
	prepare func(*Step) error
	// read gives the target's present fact.
	read func(machine.Machine, Step) (Fact, error)
	// want gives the fact that the step leads to, from the present one.
	want func(machine.Machine, Step, Fact) (Fact, error)
	// write brings the target into a fact, whichever it is in.
	write func(machine.Machine, Step, Fact) error
	words func(Step) string // what the step does, in one phrase
	// run does a step whose result shows only in how it ends, in place of
	// write.
	run func(context.Context, machine.Machine, Step, func(string)) (Fact, error)
}

// A row is a kind in the terms of its family's fact; what it leaves nil it has
// from its family.
type row[F Fact] struct {
	name    string                                                                // as core/step lists it
	prepare func(*Step) error                                                     // settles the arguments before the step is known; may be nil
	read    func(machine.Machine, Step) (F, error)                                // the target's present state
	want    func(machine.Machine, Step, F) (F, error)                             // what the step leads to; it may refuse
	write   func(machine.Machine, Step, F) error                                  // brings the target into a state, whichever it is in
	words   func(Step) string                                                     // what the step does, in one phrase
	run     func(context.Context, machine.Machine, Step, func(string)) (F, error) // for steps that a program of the OS carries out; else nil
}

// define makes a family of rows; shared holds what they have in common.
func define[F Fact](empty func() F, shared row[F], rows ...row[F]) family {
	f := family{empty: func() Fact { return empty() }}
	for _, r := range rows {
		f.kinds = append(f.kinds, r.over(shared).kind(f.empty().family()))
	}
	return f
}

// over fills in what a row has from its family.
func (r row[F]) over(shared row[F]) row[F] {
	if r.prepare == nil {
		r.prepare = shared.prepare
	}
	if r.read == nil {
		r.read = shared.read
	}
	if r.want == nil {
		r.want = shared.want
	}
	if r.write == nil {
		r.write = shared.write
	}
	if r.run == nil {
		r.run = shared.run
	}
	return r
}

// kind takes the fact's type away, so that all kinds stand in one table. A nil
// pointer beside an error never becomes a fact.
func (r row[F]) kind(tag string) kind {
	known, _ := step.KindOf(r.name)
	known.Name = r.name
	k := kind{Kind: known, tag: tag, prepare: r.prepare, words: r.words}
	k.read = func(m machine.Machine, s Step) (Fact, error) { return orNone(r.read(m, s)) }
	k.want = func(m machine.Machine, s Step, now Fact) (Fact, error) { return orNone(r.want(m, s, now.(F))) }
	k.write = func(m machine.Machine, s Step, to Fact) error { return r.write(m, s, to.(F)) }
	if r.run != nil {
		k.run = func(ctx context.Context, m machine.Machine, s Step, said func(string)) (Fact, error) {
			f, err := r.run(ctx, m, s, said)
			return f, err // how it ended counts even when it failed
		}
	}
	return k
}

// orNone drops the typed nil that a failed read returns. Kept, it would make a
// Fact that is not nil and holds nothing.
func orNone[F Fact](f F, err error) (Fact, error) {
	if err != nil {
		return nil, err
	}
	return f, nil
}

// families are all families of kinds, in the order of docs/steps.md.
func families() []family {
	return []family{
		securityFamily(), serviceFamily(), entryFamily(), logonRightFamily(), valueFamily(), keysFamily(),
		fileFamily(), folderFamily(), heldFamily(), taskFamily(), bootFamily(), runningFamily(), ranFamily(),
	}
}

// table is made when the first step is, not at each start of the program.
var table struct {
	once  sync.Once
	kinds map[string]kind
	empty map[string]func() Fact
}

// fill makes the table of all kinds. Nothing of it is needed by commands that
// take no step, so it waits for the first one that does.
func fill() {
	table.kinds, table.empty = map[string]kind{}, map[string]func() Fact{}
	for _, f := range families() {
		table.empty[f.empty().family()] = f.empty
		for _, k := range f.kinds {
			table.kinds[k.Name] = k
		}
	}
}

// kindOf finds a kind by the name that plans and journals have it by. The table
// is made at the first call: most runs of the program take no step.
func kindOf(name string) (kind, bool) {
	table.once.Do(fill)
	k, ok := table.kinds[name]
	return k, ok
}
