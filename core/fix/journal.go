package fix

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"hollowkey/core/fix/checkpoint"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
)

const (
	journalName = "journal.ndjson"
	maxJournal  = 64 << 20 // bytes
)

// A Journal is the append-only record of every change, one JSON object a line:
// one record before a change and one after it, each on disk before the work
// goes on. Taking back reads it and nothing else.
type Journal struct {
	dir     string           // the case's folder
	now     func() time.Time // the clock, which tests set
	records []Record         // all that the file holds, oldest first
	whole   int64            // bytes of the records that are whole
	torn    bool             // the last line was cut off
	// Said gets what a program of the OS prints while a step runs it; may be nil.
	Said func(line string)
}

// A Record is one line of the journal.
type Record struct {
	Seq     int          `json:"seq"`               // its number; undo and reports name it
	Time    time.Time    `json:"time"`              // UTC
	Phase   Phase        `json:"phase"`             // what the record says: begun, done, failed, undone
	Of      int          `json:"of,omitempty"`      // the record of the change that this one is about
	Machine string       `json:"machine,omitempty"` // begin only: a journal may hold changes of several
	Title   string       `json:"title,omitempty"`   // begin only: what the plan was for
	Hold    string       `json:"hold,omitempty"`    // a change that is meant to be temporary
	Step    *kinds.Step  `json:"step,omitempty"`    // begin only
	Before  *kinds.State `json:"before,omitempty"`  // what the step found
	After   *kinds.State `json:"after,omitempty"`   // what it leads to
	Error   string       `json:"error,omitempty"`   // why it failed
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

// OpenJournal opens the journal in a folder, which is made when a change is
// written. now gives the time that records carry.
func OpenJournal(dir string, now func() time.Time) (*Journal, error) {
	j := &Journal{dir: dir, now: now}
	f, err := os.Open(filepath.Join(dir, journalName))
	if errors.Is(err, fs.ErrNotExist) {
		return j, nil
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	r := bufio.NewReader(io.LimitReader(f, maxJournal))
	steps := map[int]*kinds.Step{}
	for line := 1; ; line++ {
		text, err := r.ReadString('\n')
		if err != nil && strings.TrimSpace(text) == "" {
			return j, nil
		}
		var rec Record
		if bad := json.Unmarshal([]byte(text), &rec); bad != nil {
			if err != nil { // the last line, without its end: a crash while writing
				j.torn = true
				return j, nil
			}
			return nil, fmt.Errorf("%s:%d: %w\nhint: the journal was changed by hand; put the line right or move the file away",
				filepath.Join(dir, journalName), line, bad)
		}
		if rec.Phase == Begin && (!rec.Step.Fits(rec.Before) || !rec.Step.Fits(rec.After)) {
			return nil, fmt.Errorf("%s:%d: the record of a change lacks its step or a state", filepath.Join(dir, journalName), line)
		}
		if rec.Phase == Begin {
			steps[rec.Seq] = rec.Step
		} else if step := steps[rec.Of]; step != nil && rec.After != nil && !step.Fits(rec.After) {
			return nil, fmt.Errorf("%s:%d: the state is none of a %s step", filepath.Join(dir, journalName), line, step.Kind)
		}
		j.records, j.whole = append(j.records, rec), j.whole+int64(len(text))
		if err != nil {
			return j, nil
		}
	}
}

// Records are all records, oldest first.
func (j *Journal) Records() []Record { return j.records }

// Path is where the journal lies.
func (j *Journal) Path() string { return filepath.Join(j.dir, journalName) }

// write appends a record and has it on disk when it returns.
func (j *Journal) write(r Record) (int, error) {
	if err := os.MkdirAll(j.dir, 0o755); err != nil {
		return 0, err
	}
	r.Seq, r.Time = 1, j.now().UTC().Truncate(time.Second)
	if n := len(j.records); n > 0 {
		r.Seq = j.records[n-1].Seq + 1
	}
	b, err := json.Marshal(r)
	if err != nil {
		return 0, err
	}
	f, err := os.OpenFile(j.Path(), os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o644)
	if err != nil {
		return 0, err
	}
	line := append(b, '\n')
	if j.torn { // begin a new line behind what the crash cut off
		err := f.Truncate(j.whole)
		if err != nil {
			f.Close()
			return 0, err
		}
		j.torn = false
	}
	_, err = f.Write(line)
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return 0, err
	}
	j.records, j.whole = append(j.records, r), j.whole+int64(len(line))
	return r.Seq, nil
}

// apply makes one change under the journal's eyes and gives its number.
func (j *Journal) apply(m machine.Machine, p Plan, c Change) (int, error) {
	if now, err := c.Read(m); err == nil && now.Equal(c.Before) {
		now.Remember(c.Before)
		c.Before = now // where its text stands now, after the plan's earlier steps
	}
	seq, err := j.write(Record{Phase: Begin, Machine: m.Name(), Title: p.Title, Hold: p.Hold, Step: &c.Step, Before: &c.Before,
		After: &c.After})
	if err != nil {
		return 0, fmt.Errorf("the journal cannot be written, so nothing is changed: %w", err)
	}
	if err := j.export(seq, c); err != nil {
		return seq, j.fail(seq, Failed, err)
	}
	c.Step.Keep = j.quarantine(seq)
	checkpoint.Reached("after-begin")
	if c.Runs() {
		ended, err := c.Run(context.Background(), m, j.Said)
		if err != nil {
			return seq, j.fail(seq, Failed, err)
		}
		checkpoint.Reached("after-change")
		_, err = j.write(Record{Phase: Done, Of: seq, After: &ended})
		return seq, err
	}
	if err := change(m, c.Step, c.Before, c.After); err != nil {
		return seq, j.fail(seq, Failed, j.halfway(m, c, err))
	}
	checkpoint.Reached("after-change")
	_, err = j.write(Record{Phase: Done, Of: seq})
	return seq, err
}

// quarantine is the folder that keeps what one change takes away.
func (j *Journal) quarantine(seq int) string {
	return filepath.Join(j.dir, "quarantine", fmt.Sprintf("%04d", seq))
}

// Empty deletes for good what a change put into quarantine; it cannot be taken
// back any more.
func (j *Journal) Empty(seq int) error {
	for _, i := range j.Items() {
		if i.Seq != seq || i.Status != "done" {
			continue
		}
		if _, err := os.Stat(j.quarantine(seq)); err != nil {
			return fmt.Errorf("change %d has nothing in quarantine: %w", seq, err)
		}
		if _, err := j.write(Record{Phase: Found, Of: seq, Title: "final", Error: "what it took away was deleted for good"}); err != nil {
			return err
		}
		return kinds.Clear(j.quarantine(seq))
	}
	return fmt.Errorf("the journal has no change %d in force", seq)
}

// halfway takes back what a change that failed has done so far: a start type
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
func (j *Journal) export(seq int, c Change) error {
	text, err := c.Before.RegistryText(c.Step)
	if err != nil || text == nil {
		return err
	}
	dir := filepath.Join(j.dir, "registry")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, fmt.Sprintf("before-%04d.reg", seq)), text, 0o644)
}

// An Item is one change as the journal tells of it.
type Item struct {
	Record        // its Begin record
	Status string // done, final (it cannot be taken back), undone, failed, open, undo open
	Note   string // what a person should know, such as how a crash left it
	InPart bool   // a run that was cut off did only some of it
}

// Items are the changes, oldest first.
func (j *Journal) Items() []Item {
	var items []Item
	at := map[int]int{}
	for _, r := range j.records {
		if r.Phase == Begin {
			at[r.Seq] = len(items)
			items = append(items, Item{Record: r, Status: "open"})
			continue
		}
		i, ok := at[r.Of]
		if !ok {
			continue
		}
		switch r.Phase {
		case Done:
			items[i].Status = "done"
			if items[i].Step.OneWay() != "" {
				items[i].Status, items[i].Note = "final", items[i].Step.OneWay()
			}
			if r.After != nil {
				items[i].After = r.After
			}
		case Failed:
			items[i].Status, items[i].Note = "failed", r.Error
		case UndoBegin:
			items[i].Status = "undo open"
		case Undone:
			items[i].Status = "undone"
		case UndoFailed:
			items[i].Status, items[i].Note = "done", r.Error
		case Found:
			items[i].Status, items[i].Note = r.Title, r.Error
			if r.After != nil {
				items[i].After, items[i].InPart = r.After, true
			}
			if r.Title == "done" && items[i].Step.OneWay() != "" {
				items[i].Status = "final"
			}
		}
	}
	return items
}

// LastPlan are the changes of the newest plan that is in force on a machine,
// newest first: the order to take them back in.
func (j *Journal) LastPlan(machine string) (items []Item) {
	for _, i := range j.InForce(machine) {
		if i.Hold != "" {
			continue // released by its own command
		}
		if len(items) > 0 && items[0].Title != i.Title {
			break
		}
		items = append(items, i)
	}
	return items
}

// InForce are all changes on a machine that have not been taken back, newest
// first.
func (j *Journal) InForce(machine string) (items []Item) {
	for _, i := range slices.Backward(j.Items()) {
		if i.Status == "done" && i.Machine == machine {
			items = append(items, i)
		}
	}
	return items
}

// Undo takes one change back. Unless force is set, it refuses when the machine
// is not as the change left it.
func (j *Journal) Undo(m machine.Machine, seq int, force bool) error {
	var item *Item
	for _, i := range j.Items() {
		if i.Seq == seq {
			item = &i
		}
	}
	switch {
	case item == nil:
		return fmt.Errorf("the journal has no change %d", seq)
	case item.Status == "final":
		return fmt.Errorf("change %d, %s: %w", seq, item.Note, ErrOneWay)
	case item.Status != "done":
		return fmt.Errorf("change %d is %s, so there is nothing to take back", seq, item.Status)
	case item.Machine != m.Name():
		return fmt.Errorf("change %d was made on %s, this is %s", seq, item.Machine, m.Name())
	}
	if _, err := j.write(Record{Phase: UndoBegin, Of: seq}); err != nil {
		return fmt.Errorf("the journal cannot be written, so nothing is changed: %w", err)
	}
	checkpoint.Reached("after-undo-begin")
	item.Step.Keep = j.quarantine(seq)
	from := *item.After
	if force {
		now, err := item.Step.Read(m)
		if err != nil {
			return j.fail(seq, UndoFailed, err)
		}
		from = now
	}
	if err := change(m, *item.Step, from, *item.Before); err != nil {
		return j.fail(seq, UndoFailed, err)
	}
	checkpoint.Reached("after-undo")
	_, err := j.write(Record{Phase: Undone, Of: seq})
	return err
}
