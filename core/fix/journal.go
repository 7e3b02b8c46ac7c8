// This file writes the journal. A record is on the disk before the change that
// it tells of begins, so that a crash leaves a trace of both.

package fix

import (
	"context"
	"errors"
	"fmt"
	"hash"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"hollowkey/core/fix/checkpoint"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
)

// A Journal is the append-only record of every change of one machine, one JSON
// object a line: one record before a change and one after it, each on disk
// before the work goes on. Taking back reads it and nothing else. Each record
// carries a mark that only this machine's key can make and that the record
// before it goes into, so that one that was edited, left out, moved or written
// elsewhere is known.
type Journal struct {
	dir     string           // the machine's own folder
	now     func() time.Time // the clock, which tests set
	records []Record         // all that the file holds, oldest first
	text    string           // the last record's mark, which the next one goes on from
	read    int64            // bytes of the records that are whole
	unended bool             // the last record lacks its line end
	changes int              // the last change's number
	key     []byte           // makes the marks; nil while there is no record
	marker  hash.Hash        // with the key; made at the first mark
	shown   bool             // only read, for showing: marks were not looked at, nothing is written
	held    int              // how many of our own calls hold the lock
	lock    *os.File         // nil while it is free

	// Case is the folder of the case for which the changes are made; empty for
	// the machine's own. What is written about them is copied there.
	Case string
	// Make makes the machine's own folder; nil makes one that only the caller
	// may read.
	Make func() error
	// Said gets what a program of the OS prints while a step runs it; may be
	// nil.
	Said func(line string)
}

// A Record is one line of the journal.
type Record struct {
	Seq     int            `json:"seq"`               // its number
	Time    time.Time      `json:"time"`              // UTC
	Phase   Phase          `json:"phase"`             // what the record says: begun, done, failed, undone
	Of      int            `json:"of,omitempty"`      // the record of the change that this one is about
	Change  int            `json:"change,omitempty"`  // begin only: the change's number, from 1; undo and reports name it
	Plan    string         `json:"plan,omitempty"`    // begin only: which changes were made as one
	Machine string         `json:"machine,omitempty"` // begin only
	Case    string         `json:"case,omitempty"`    // begin only: the folder of the case it was made for
	Title   string         `json:"title,omitempty"`   // begin only: what the plan was for
	Hold    string         `json:"hold,omitempty"`    // a change that is meant to be temporary
	Step    *kinds.Step    `json:"step,omitempty"`    // begin only
	Before  *kinds.State   `json:"before,omitempty"`  // what the step found
	After   *kinds.State   `json:"after,omitempty"`   // what it leads to
	Kept    string         `json:"kept,omitempty"`    // the hash of the list of what was set aside, in hex
	Lists   []machine.List `json:"lists,omitempty"`   // begin only: what a twin was written down in, and since when
	Error   string         `json:"error,omitempty"`   // why it failed
}

// A Phase says what a record is about.
type Phase string

// The phases. A change is Begin, then Done or Failed; taking it back is
// UndoBegin, then Undone or UndoFailed. Found settles what a crash left open.
const (
	Begin      Phase = "begin"
	Done       Phase = "done"
	Failed     Phase = "failed"
	UndoBegin  Phase = "undo-begin"
	Undone     Phase = "undone"
	UndoFailed Phase = "undo-failed"
	Found      Phase = "found" // after a crash: Error says how the target was found
)

// Records are all records, oldest first.
func (j *Journal) Records() []Record { return j.records }

// Path is where the journal lies.
func (j *Journal) Path() string { return filepath.Join(j.dir, journalName) }

// apply makes one change under the journal's eyes and gives its number.
func (j *Journal) apply(m machine.Machine, p Plan, id string, c Change) (number int, reached kinds.State, err error) {
	if now, err := c.Read(m); err == nil && now.Equal(c.Before) {
		now.Remember(c.Before)
		c.Before = now // where its text stands now, after the plan's earlier steps
	}
	// On the disk before anything is changed: after a crash it says what was
	// meant.
	begin := Record{Phase: Begin, Change: j.changes + 1, Plan: id, Case: j.Case, Machine: m.Name(),
		Title: p.Title, Hold: p.Hold, Step: &c.Step,
		Before: &c.Before, After: &c.After}
	if twin, ok := m.(machine.Listed); ok {
		begin.Lists = twin.Lists()
	}
	r, err := j.write(begin)
	if err != nil {
		return 0, reached, fmt.Errorf("the journal cannot be written, so nothing is changed: %w", err)
	}
	if err := j.export(r.Change, c); err != nil {
		return r.Change, reached, j.fail(r.Seq, Failed, err)
	}
	c.Step.Keep = j.quarantine(r.Change)
	checkpoint.Reached("after-begin")
	// What runs a program of the OS's has no wanted state: it is done when it
	// has ended.
	if c.Runs() {
		ended, err := c.Run(context.Background(), m, j.Said)
		if err != nil {
			return r.Change, reached, j.fail(r.Seq, Failed, err)
		}
		checkpoint.Reached("after-change")
		_, err = j.write(Record{Phase: Done, Of: r.Seq, After: &ended})
		return r.Change, ended, err
	}
	reached, err = change(m, c.Step, c.Before, c.After)
	if err != nil {
		return r.Change, reached, j.fail(r.Seq, Failed, j.halfway(m, c, err))
	}
	checkpoint.Reached("after-change")
	done := Record{Phase: Done, Of: r.Seq, Kept: kinds.ListSum(c.Step.Keep)}
	if !reached.Equal(c.After) {
		done.After = &reached
	}
	_, err = j.write(done)
	return r.Change, reached, err
}

// quarantine is the folder that keeps what one change takes away.
func (j *Journal) quarantine(change int) string {
	return filepath.Join(j.dir, "quarantine", fmt.Sprintf("%04d", change))
}

// Empty deletes for good what a change put into quarantine; it cannot be taken
// back any more. It fails where the change is not in force, or has nothing in
// quarantine.
func (j *Journal) Empty(m machine.Machine, change int) error {
	if err := j.Hold(m); err != nil {
		return err
	}
	defer j.Release()
	i, err := j.Item(change)
	if err != nil {
		return err
	}
	if i.Status != "done" {
		return fmt.Errorf("change %d is %s, so it has nothing in quarantine", change, i.Status)
	}
	if _, err := os.Stat(j.quarantine(change)); err != nil {
		return fmt.Errorf("change %d has nothing in quarantine: %w", change, err)
	}
	if _, err := j.write(Record{Phase: Found, Of: i.Seq, Title: "final", Error: "what it took away was deleted for good"}); err != nil {
		return err
	}
	return kinds.Clear(j.quarantine(change))
}

// halfway undoes what a change that failed has done so far: a start type
// that was set before the service refused to start, for instance.
func (j *Journal) halfway(m machine.Machine, c Change, failure error) error {
	if errors.Is(failure, ErrChanged) {
		return failure
	}
	now, err := c.Read(m)
	if err != nil || now.Equal(c.Before) {
		return failure
	}
	if err := c.Write(m, c.Before); err != nil {
		return errors.Join(failure, fmt.Errorf("and it is left as %q: %w", strings.Join(now.Lines(m), ", "), err))
	}
	return failure
}

// fail writes a failure down and gives it back, with that of the writing.
func (j *Journal) fail(of int, phase Phase, err error) error {
	_, wrote := j.write(Record{Phase: phase, Of: of, Error: err.Error()})
	return errors.Join(err, wrote)
}

// export leaves the state before a registry step as standard registry text.
func (j *Journal) export(change int, c Change) error {
	text, err := c.Before.RegistryText(c.Step)
	if err != nil || text == nil {
		return err
	}
	return j.keep("registry", fmt.Sprintf("before-%04d.reg", change), text)
}

// Undo takes one change back. Unless force is set, it refuses when the machine
// is not as the change left it. Errors: [ErrNoChange], [ErrOneWay],
// [ErrChanged]; whatever else goes wrong is written into the journal before it
// is given.
func (j *Journal) Undo(m machine.Machine, number int, force bool) error {
	if err := j.Hold(m); err != nil {
		return err
	}
	defer j.Release()
	item, err := j.Item(number)
	switch {
	case err != nil:
		return err
	case item.Status == "final":
		return fmt.Errorf("change %d, %s: %w", number, item.Note, ErrOneWay)
	case item.Status != "done":
		return fmt.Errorf("change %d is %s, so there is nothing to undo", number, item.Status)
	case item.Machine != m.Name():
		return fmt.Errorf("change %d was made on %s, this is %s", number, item.Machine, m.Name())
	}
	// The guard is asked again: the way to the target may lead elsewhere by
	// now.
	if err := item.Step.Check(m, true); err != nil {
		return err
	}
	if _, err := j.write(Record{Phase: UndoBegin, Of: item.Seq}); err != nil {
		return fmt.Errorf("the journal cannot be written, so nothing is changed: %w", err)
	}
	checkpoint.Reached("after-undo-begin")
	item.Step.Keep, item.Step.List = j.quarantine(number), item.Kept
	from := *item.After
	// Whatever stands there now is replaced by what was there before.
	if force {
		now, err := item.Step.Read(m)
		if errors.Is(err, fs.ErrNotExist) && item.Step.OfWhatIsThere() { // it went with what it was about
			_, err = j.write(Record{Phase: Undone, Of: item.Seq})
			return err
		}
		if err != nil {
			return j.fail(item.Seq, UndoFailed, err)
		}
		from = now
	}
	if _, err := change(m, *item.Step, from, *item.Before); err != nil {
		return j.fail(item.Seq, UndoFailed, err)
	}
	late := retime(m, item.Lists) // the change is taken back all the same
	checkpoint.Reached("after-undo")
	_, err = j.write(Record{Phase: Undone, Of: item.Seq})
	return errors.Join(err, late)
}

// retime gives a twin's lists that read again as before a change the times that
// they had then.
func retime(m machine.Machine, was []machine.List) error {
	twin, ok := m.(machine.Listed)
	for _, l := range was {
		if ok {
			if err := twin.Retime(l); err != nil {
				return fmt.Errorf("%s is as it was, but of now: %w", l.Name, err)
			}
		}
	}
	return nil
}
