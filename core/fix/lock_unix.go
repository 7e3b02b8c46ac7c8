//go:build !windows

// This file locks the file as Unix does; the OS frees it when the process ends,
// however that is.

package fix

import (
	"errors"
	"os"

	"golang.org/x/sys/unix"
)

// tryLock takes the file's lock when nobody has it.
func tryLock(f *os.File) (got bool, err error) {
	err = unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB)
	if errors.Is(err, unix.EWOULDBLOCK) {
		return false, nil
	}
	return err == nil, err
}

// unlock gives the lock back before the file is closed, so that whoever waits
// need not wait for that too.
func unlock(f *os.File) { _ = unix.Flock(int(f.Fd()), unix.LOCK_UN) } // closing it does the same
