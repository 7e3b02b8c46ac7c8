// This file has the step that lets the OS start in safe mode.

package kinds

import (
	"errors"

	"hollowkey/core/machine"
)

// BootState is how the OS starts next time.
type BootState machine.SafeBoot

// bootFamily has one row: in which mode the OS starts next time. It is a fact
// of the whole machine, so a step's target only tells the mode.
func bootFamily() family {
	return define(func() *BootState { return new(BootState) },
		row[*BootState]{}, row[*BootState]{name: "safe-boot", read: readBoot, want: wantBoot, write: writeBoot, words: bootWords})
}

func (*BootState) family() string { return "boot" }

// plain gives the state as it is: the three modes have the same names on every
// machine.
func (st *BootState) plain() Fact { return st }

// powerShell calls the OS's own boot editor, since PowerShell has no cmdlet for
// the boot store.
func (st *BootState) powerShell(Step, Fact) ([]string, error) {
	if machine.SafeBoot(*st) == machine.SafeBootOff {
		return psCall("bcdedit.exe", "/deletevalue", "{current}", "safeboot")
	}
	return psCall("bcdedit.exe", "/set", "{current}", "safeboot", string(*st))
}

// command does the same from a batch file, and ends it where the boot store
// could not be written: what follows relies on the mode.
func (st *BootState) command(Step, Fact) ([]string, error) {
	if machine.SafeBoot(*st) == machine.SafeBootOff {
		return []string{"bcdedit.exe /deletevalue {current} safeboot" + orEnd}, nil
	}
	return []string{"bcdedit.exe /set {current} safeboot " + string(*st) + orEnd}, nil
}

// readBoot asks the OS's boot entry, not what the OS runs in at the moment: the
// flag counts from the next start on.
func readBoot(m machine.Machine, _ Step) (*BootState, error) {
	b, err := m.SafeBoot()
	st := BootState(b)
	return &st, err
}

// wantBoot knows the three modes that the OS offers; another one would leave a
// machine that does not start.
func wantBoot(_ machine.Machine, s Step, _ *BootState) (*BootState, error) {
	switch b := machine.SafeBoot(s.Target); b {
	case machine.SafeBootOff, machine.SafeBootMinimal, machine.SafeBootNetwork:
		st := BootState(b)
		return &st, nil
	}
	return nil, errors.New("mode is not off, minimal or network")
}

// writeBoot hands the mode to the machine, which alone knows how its boot store
// is written.
func writeBoot(m machine.Machine, _ Step, to *BootState) error {
	return m.SetSafeBoot(machine.SafeBoot(*to))
}

// bootWords says the step to a person, with the mode in the OS's own word.
func bootWords(s Step) string { return "let the OS start in safe mode next time: " + s.Target }

// Lines says how the OS starts.
func (st *BootState) Lines(machine.Accounts) []string { return []string{"safe mode " + string(*st)} }
