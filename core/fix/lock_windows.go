//go:build windows

// This file locks one byte far behind the file's end, so that others can still
// read who holds the lock.

package fix

import (
	"errors"
	"os"

	"golang.org/x/sys/windows"
)

// lockedByte is the byte that stands for the file; it lies behind all that is
// written, since the OS lets nobody read what another one has locked.
const lockedByte = 1 << 30

// tryLock takes the file's lock when nobody has it.
func tryLock(f *os.File) (got bool, err error) {
	err = windows.LockFileEx(windows.Handle(f.Fd()), windows.LOCKFILE_EXCLUSIVE_LOCK|windows.LOCKFILE_FAIL_IMMEDIATELY, 0, 1, 0,
		&windows.Overlapped{Offset: lockedByte})
	if errors.Is(err, windows.ERROR_LOCK_VIOLATION) || errors.Is(err, windows.ERROR_IO_PENDING) {
		return false, nil
	}
	return err == nil, err
}

// unlock gives the lock back before the file is closed, so that whoever waits
// need not wait for that too.
func unlock(f *os.File) { // closing it does the same
	_ = windows.UnlockFileEx(windows.Handle(f.Fd()), 0, 1, 0, &windows.Overlapped{Offset: lockedByte})
}
