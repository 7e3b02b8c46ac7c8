package cli

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/machine/live"
	"hollowkey/core/machine/twin"
)

// openMachine opens the machine that --machine names.
func (a *app) openMachine() (machine.Machine, func(), error) {
	switch a.machine {
	case "":
		return nil, nil, wrongCall("--machine is missing\nhint: name a twin's folder, or live for this Windows computer; hollowkey demo lays " +
			"a twin out")
	case "live":
		m, err := live.Open()
		if err != nil {
			return nil, nil, callError{err}
		}
		return m, func() {}, nil
	}
	t, err := twin.Open(a.machine)
	if err != nil {
		return nil, nil, err
	}
	return t, func() { t.Close() }, nil
}

// openNamedMachine opens the machine when the call names one; without one there
// is none, and that is well.
func (a *app) openNamedMachine() (machine.Machine, func(), error) {
	if a.machine == "" {
		return nil, func() {}, nil
	}
	return a.openMachine()
}

// caseFolder is where journal and copies go: --case, or a folder beside the
// twin.
func (a *app) caseFolder() string {
	if a.caseDir != "" {
		return a.caseDir
	}
	return strings.TrimRight(filepath.Clean(a.machine), string(os.PathSeparator)) + ".case"
}

// openJournal opens the journal for the machine and first settles what a crash
// left open.
func (a *app) openJournal(m machine.Machine) (*fix.Journal, error) {
	j, err := fix.OpenJournal(a.caseFolder(), a.now)
	if err != nil {
		return nil, err
	}
	found, err := j.Recover(m)
	for _, r := range found {
		fmt.Fprintf(a.err, "note: an earlier run was cut off at change %d (%s): %s\n", r.Seq, clean(r.Step.Words()), clean(r.Found))
	}
	return j, err
}

// onMachine opens the machine and its journal for one piece of work.
func (a *app) onMachine(do func(machine.Machine, *fix.Journal) error) error {
	m, closeMachine, err := a.openMachine()
	if err != nil {
		return err
	}
	defer closeMachine()
	j, err := a.openJournal(m)
	if err != nil {
		return err
	}
	return do(m, j)
}

// where are the options that say on which machine and in which case.
func (a *app) where() (options string) {
	if a.machine != "" {
		options += " --machine " + quoteArgument(a.machine)
	}
	if a.caseDir != "" {
		options += " --case " + quoteArgument(a.caseDir)
	}
	return options
}
