// This file keeps two runs of the program from changing one machine at a time.

package fix

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/user"
	"strings"
	"time"

	"hollowkey/core/bounded"
	"hollowkey/core/machine"
)

const (
	// Held as long as the process lives: its content only says who it is.
	lockName = "journal.lock"
	patience = 5 * time.Second       // another run is seldom at work for longer; one that asks somebody holds nothing
	between  = 40 * time.Millisecond // two looks whether it is done
	maxAbout = 4 << 10               // bytes of what a lock says of its holder
)

// ErrBusy says that another run changes the machine.
var ErrBusy = errors.New("another run of the program changes it")

// A holder is who has the lock, as it writes down.
type holder struct {
	PID   int       `json:"pid"`
	User  string    `json:"user"`
	Call  string    `json:"call"`  // the command and its action
	Since time.Time `json:"since"` // UTC
}

// Hold makes this run the only one that changes the machine, until
// [Journal.Release]; the OS ends it when the process dies. What other runs did
// in the meantime is read, of the machine as well. It may be called again while
// it lasts. The error is an [ErrBusy] that says who holds it since when.
func (j *Journal) Hold(m machine.Machine) error { return j.hold(m, patience) }

// hold locks the journal and the machine for this process; calls may be nested,
// and only the outermost locks. It waits as long as it is told, then says who
// holds the lock.
func (j *Journal) hold(m machine.Machine, wait time.Duration) error {
	if j.shown {
		return errors.New("this journal was opened for reading only")
	}
	if j.held > 0 {
		j.held++
		return nil
	}
	root, err := j.root()
	if err != nil {
		return fmt.Errorf("the machine's own folder cannot be made: %w", err)
	}
	f, err := bounded.Plain(root, lockName, os.O_RDWR|os.O_CREATE, 0o600)
	if errors.Is(err, os.ErrExist) { // another run made it just now
		f, err = bounded.Plain(root, lockName, os.O_RDWR, 0)
	}
	root.Close()
	if err != nil {
		return err
	}
	// Another run is short, mostly; to wait a little is what a person would do.
	for until := time.Now().Add(wait); ; time.Sleep(between) {
		got, err := tryLock(f)
		if err != nil {
			f.Close()
			return err
		}
		if got {
			break
		}
		if time.Now().After(until) {
			defer f.Close()
			return busy(f)
		}
	}
	j.lock, j.held = f, 1
	j.sayWho()
	// Whoever had the lock may have written: journal and twin are read again.
	if err := j.load(); err != nil {
		j.Release()
		return err
	}
	if t, ok := m.(interface{ Reload() error }); ok {
		if err := t.Reload(); err != nil {
			j.Release()
			return err
		}
	}
	return nil
}

// sayWho writes down who holds the lock; that it cannot is no reason to do
// nothing.
func (j *Journal) sayWho() {
	h := holder{PID: os.Getpid(), Since: time.Now().UTC().Truncate(time.Second)}
	if u, err := user.Current(); err == nil {
		h.User = u.Username
	}
	for _, a := range os.Args[1:] {
		if strings.HasPrefix(a, "-") || len(strings.Fields(h.Call)) == 2 {
			break
		}
		h.Call = strings.TrimSpace(h.Call + " " + a)
	}
	if b, err := json.Marshal(h); err == nil && j.lock.Truncate(0) == nil {
		_, _ = j.lock.WriteAt(b, 0)
	}
}

// busy tells who holds a lock.
func busy(f *os.File) error {
	var h holder
	if b, err := io.ReadAll(io.NewSectionReader(f, 0, maxAbout)); err != nil || json.Unmarshal(b, &h) != nil {
		return fmt.Errorf("%w; nothing was changed here\nhint: try again when it is done", ErrBusy)
	}
	return fmt.Errorf("%w: %q of %s, process %d, since %s UTC; nothing was changed here\nhint: try again when it is done",
		ErrBusy, h.Call, h.User, h.PID, h.Since.Format("15:04:05"))
}

// Release gives up what [Journal.Hold] took; the last one lets others at the
// machine.
func (j *Journal) Release() {
	if j.held--; j.held > 0 {
		return
	}
	unlock(j.lock)
	j.lock.Close()
	j.lock = nil
}
