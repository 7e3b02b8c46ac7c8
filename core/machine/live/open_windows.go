// This file is this computer as a machine.

package live

import (
	"errors"
	"fmt"
	"os"
	"syscall"

	"golang.org/x/sys/windows"

	"hollowkey/core/machine"
)

// A Machine is this computer.
type Machine struct{ name string } // the computer's name

// Open gives the computer that the program runs on.
func Open() (machine.Machine, error) {
	name, err := os.Hostname()
	if err != nil {
		return nil, err
	}
	return &Machine{name}, nil
}

// Name is the computer's name.
func (m *Machine) Name() string { return m.name }

var (
	// Two calls that golang.org/x/sys does not wrap.
	advapi32          = windows.NewLazySystemDLL("advapi32.dll")
	regSetValueEx     = advapi32.NewProc("RegSetValueExW")
	getServiceKeyName = advapi32.NewProc("GetServiceKeyNameW")
)

// told adds what was tried to an error of the OS, and what to do about a lack
// of rights.
func told(err error, format string, args ...any) error {
	if err == nil {
		return nil
	}
	err = fmt.Errorf(format+": %w", append(args, err)...)
	if errors.Is(err, windows.ERROR_ACCESS_DENIED) {
		err = fmt.Errorf("%w\nhint: run it again from an elevated prompt", err)
	}
	return err
}

// number is the OS's number of an error, 0 when it has none.
func number(err error) int {
	var e syscall.Errno
	if errors.As(err, &e) {
		return int(e)
	}
	return 0
}
