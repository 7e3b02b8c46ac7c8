// This file runs a package: a rehearsal on a twin, the OS's engine on a live
// machine.

package retry

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"hollowkey/core/fix/checkpoint"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/prove/rehearse"
	"hollowkey/core/record/casefile"
)

// A Request is a setup to be run again.
type Request struct {
	Dir        string              // the case's folder
	Package    string              // path on the machine
	Altered    string              // an altered copy of it that is run in its place; empty for none
	Switches   string              // of a program, quoted as they were given
	Properties []string            // NAME=VALUE
	Transforms []string            // paths on the machine
	User       string              // as whom; empty: whoever runs it
	Changes    []int               // of the journal that are in force
	Now        time.Time           // of the attempt
	Progress   func(action string) // may be nil
}

// runs is the package that is run: an altered copy in place of the vendor's.
func (r Request) runs() string { return cmp.Or(r.Altered, r.Package) }

// attempt is what a case keeps of the request.
func (r Request) attempt(m machine.Machine, rehearsal bool) casefile.Attempt {
	return casefile.Attempt{Time: r.Now.UTC().Truncate(time.Second), Rehearsal: rehearsal, Machine: m.Name(),
		Package: r.Package, Switches: r.Switches,
		Properties: r.Properties, Transforms: r.Transforms, User: r.User, Changes: r.Changes}
}

// Run runs the setup: on a twin as a rehearsal on a copy of it, else with the
// engine of the OS. The attempt is in the case before it begins; the caller
// ends it.
func Run(ctx context.Context, m machine.Machine, r Request) (*casefile.Attempt, error) {
	t, isTwin := m.(*twin.Twin)
	a, err := casefile.BeginAttempt(r.Dir, r.attempt(m, isTwin))
	if err != nil {
		return nil, err
	}
	checkpoint.Reached("after-attempt-begin")
	if isTwin {
		err = rehearsal(t, r, a)
	} else {
		err = forReal(ctx, m, r, a)
	}
	checkpoint.Reached("after-attempt-run")
	return a, err
}

// rehearsal runs the setup on a copy of the twin, at the twin's own time: its
// log would else be dated after the machine's files.
func rehearsal(t *twin.Twin, r Request, a *casefile.Attempt) error {
	m, done, err := rehearse.Scratch(t.Folder())
	if err != nil {
		return err
	}
	defer done()
	given := map[string]string{}
	for _, p := range r.Properties {
		name, value, _ := strings.Cut(p, "=")
		given[name] = value
	}
	f, err := os.OpenFile(a.LogPath(r.Dir), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644) // no link that waits there is followed
	if err != nil {
		return err
	}
	started := m.Facts().Time
	if started.IsZero() {
		started = r.Now
	}
	mode := rehearse.Install
	if strings.EqualFold(given["REMOVE"], "ALL") {
		mode = rehearse.Uninstall
		delete(given, "REMOVE")
	}
	pack, err := rehearse.Brought(m, r.runs())
	with, bad := rehearse.BroughtAll(m, r.Transforms)
	if err = errors.Join(err, bad); err != nil {
		return errors.Join(err, f.Close())
	}
	res, err := rehearse.Run(m, rehearse.Request{Package: pack, Transforms: with, Properties: given,
		Mode: mode, User: r.User, Started: started}, f)
	a.Exit, a.Assumed = res.Exit, res.Assumed
	return errors.Join(err, f.Close())
}

// A Runner is a live machine that can start the engine with a command line as
// it stands.
type Runner interface {
	RunLine(ctx context.Context, program, line string) (exitCode int, err error)
}

// forReal lets the OS's engine run the setup. It refuses without elevation: the
// attempt would fail for another reason than the one before, and mislead.
func forReal(ctx context.Context, m machine.Machine, r Request, a *casefile.Attempt) error {
	live, ok := m.(Runner)
	if !ok {
		return fmt.Errorf("%s cannot run a setup: %w", m.Name(), machine.ErrUnsupported)
	}
	if f := m.Facts(); !f.Elevated {
		return errors.New("this prompt is not elevated, so the setup would not run as it should\nhint: run it again from an elevated prompt")
	}
	// The engine's service has a present folder of its own.
	log, err := filepath.Abs(a.LogPath(r.Dir))
	if err != nil {
		return err
	}
	line, err := r.Command()
	if err != nil {
		return err
	}
	stop := follow(log, r.Progress)
	defer stop()
	a.Exit, err = live.RunLine(ctx, "msiexec.exe", strings.TrimPrefix(line, "msiexec ")+` /l*v "`+log+`"`)
	return err
}

const (
	lookEvery = 300 * time.Millisecond // a log grows by lines; a person sees no difference
	maxLine   = 1 << 20                // bytes; a longer line is a property dump, which names no action
)

// follow reads a log that grows and tells each action that begins.
func follow(log string, progress func(string)) (stop func()) {
	if progress == nil {
		return func() {}
	}
	end := make(chan struct{})
	over := make(chan struct{})
	go func() {
		defer close(over)
		seen := int64(0)
		for {
			select {
			case <-end:
				newActions(log, seen, progress)
				return
			case <-time.After(lookEvery):
				seen = newActions(log, seen, progress)
			}
		}
	}()
	return func() { close(end); <-over }
}

// newActions tells the actions of what was written since; it gives how far it
// read, at the end of a line.
func newActions(log string, from int64, progress func(string)) int64 {
	f, err := textfile.Open(log)
	if err != nil {
		return from
	}
	defer f.Close()
	var head [2]byte
	if n, err := f.ReadAt(head[:], 0); n < len(head) {
		return from
	} else if err != nil && !errors.Is(err, io.EOF) {
		return from
	}
	if _, err := f.Seek(from, io.SeekStart); err != nil {
		return from
	}
	lines, wide := bufio.NewScanner(f), head == [2]byte{0xFF, 0xFE}
	if wide {
		lines = bufio.NewScanner(transform.NewReader(f, unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewDecoder()))
	}
	lines.Buffer(nil, maxLine)
	for lines.Scan() {
		if _, name, ok := strings.Cut(lines.Text(), "Action start "); ok {
			if _, name, ok = strings.Cut(name, ": "); ok {
				progress(strings.TrimRight(strings.TrimSpace(name), "."))
			}
		}
	}
	at, err := f.Seek(0, io.SeekCurrent)
	if err != nil {
		return from
	}
	if wide {
		at &^= 1
	}
	return at
}
