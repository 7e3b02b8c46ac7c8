// This file opens the machine, the case and the journal that a call means. All
// commands go through here, so that none can forget to settle what a crash
// left.

package cli

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/machine/live"
	"hollowkey/core/machine/twin"
	"hollowkey/core/machine/twinfile"
)

// openMachine opens the machine that --machine names.
func (a *app) openMachine() (machine.Machine, func(), error) {
	switch a.machine {
	case "":
		return nil, nil, wrongCall("--machine is missing\nhint: name a twin's folder, or live for this Windows computer; to lay a twin out: " +
			"hollowkey demo")
	case "live":
		m, err := live.Open()
		if err != nil {
			return nil, nil, callError{err}
		}
		return m, func() {}, nil
	}
	t, err := twin.Open(a.machine)
	if errors.Is(err, twin.ErrNoTwin) {
		return nil, nil, callError{err}
	}
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

// whereToLook are the options of this call's machine for a command to be run
// next. Where none was named it is this computer, if there the program can look
// at it, or the one twin that lies in the present folder.
func (a *app) whereToLook() string {
	switch {
	case a.machine != "":
	case runtime.GOOS == "windows":
		return " --machine live" + a.where()
	default:
		if found, err := filepath.Glob(filepath.Join("*", twinfile.AboutName)); err == nil && len(found) == 1 {
			return " --machine " + quoteArgument(filepath.Dir(found[0])) + a.where()
		}
	}
	return a.where()
}

// caseFolder is where evidence, verdicts and attempts go: --case, or the
// machine's own folder.
func (a *app) caseFolder() string {
	if a.caseDir != "" {
		return a.caseDir
	}
	home, _ := a.home() // whoever writes a change there asks for the error
	return home
}

// home is the machine's own folder: beside a twin, or in the OS's fixed place
// for programs' data. The journal of all its changes lies there, for whichever
// case they were made.
func (a *app) home() (string, error) {
	if a.machine == "live" {
		return live.Home()
	}
	return strings.TrimRight(filepath.Clean(a.machine), string(os.PathSeparator)) + ".case", nil
}

// openJournal opens the machine's journal and first settles what a crash left
// open.
func (a *app) openJournal(m machine.Machine) (*fix.Journal, error) {
	j, err := a.readJournal()
	if err != nil {
		return nil, err
	}
	found, err := j.Recover(m)
	for _, r := range found {
		fmt.Fprintf(a.err, "note: an earlier run was cut off at change %d (%s): %s\n", r.Change, clean(r.Step.Words()), clean(r.Found))
	}
	return j, err
}

// readJournal opens the machine's journal as it is, for the case of the call.
func (a *app) readJournal() (*fix.Journal, error) { return a.journalFor(a.caseDir) }

// journalFor opens the machine's journal for a case; empty for the machine's
// own.
func (a *app) journalFor(dir string) (*fix.Journal, error) {
	home, err := a.home()
	if err != nil {
		return nil, err
	}
	j, err := fix.OpenJournal(home, a.now)
	if err != nil {
		return nil, err
	}
	if a.machine == "live" {
		j.Make = live.MakeHome
	}
	if dir != "" {
		if j.Case, err = filepath.Abs(dir); err != nil {
			return nil, err
		}
		if own, err := filepath.Abs(home); err == nil && own == j.Case {
			j.Case = ""
		}
	}
	return j, nil
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
	if a.machine != "" && !a.ofCase {
		options += " --machine " + quoteArgument(a.machine)
	}
	if a.caseDir != "" {
		options += " --case " + quoteArgument(a.caseDir)
	}
	return options
}
