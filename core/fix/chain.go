// This file reads the journal back and looks whether it is the one that was
// written: each record is marked with a key that only this machine's program
// has, over all that came before.

package fix

import (
	"bufio"
	"bytes"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"sync"
	"time"

	"hollowkey/core/bounded"
)

const (
	// The records, one a line, and the key by which each is authenticated; the
	// key never leaves the case.
	journalName = "journal.ndjson"
	keyName     = "journal.key"
	keyBytes    = 32       // as long as the mark that it makes; RFC 2104 asks for no less
	markBytes   = 16       // of a mark that are kept; half of SHA-256's, which RFC 2104 allows at least
	maxRecord   = 64 << 20 // bytes of one record: the largest state is that of a whole key with everything below it
)

// ErrForeign says that a journal has a record that this machine's program did
// not write there.
var ErrForeign = errors.New("it was not written here, or was changed since")

// OpenJournal opens a machine's journal in its own folder, which is made when a
// change is written. now gives the time that records carry. The error is an
// [ErrForeign] when a record cannot be trusted.
func OpenJournal(dir string, now func() time.Time) (*Journal, error) {
	j := &Journal{dir: dir, now: now}
	return j, j.load()
}

// ShowJournal reads a journal, or a case's copy of one, for showing what it
// tells. Nothing is made sure of, and nothing can be written or undone.
func ShowJournal(dir string, now func() time.Time) (*Journal, error) {
	j := &Journal{dir: dir, now: now, shown: true}
	return j, j.load()
}

// load reads the records that were written since it was last called.
func (j *Journal) load() error {
	root, err := os.OpenRoot(j.dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer root.Close()
	f, err := bounded.Plain(root, journalName, os.O_RDONLY, 0)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer f.Close()
	// To show a journal no key is needed; to go on writing it, it must be ours.
	if !j.shown {
		j.marker = nil // it is of the key that was there before
		if j.key, err = readKey(root); errors.Is(err, fs.ErrNotExist) {
			return fmt.Errorf("%s: %w: the key that its records are marked with is not there\n"+
				"hint: nothing is changed on its word; move it away to begin a new one, what it tells stays readable",
				j.Path(), ErrForeign)
		} else if err != nil {
			return err
		}
	}
	if _, err := f.Seek(j.read, io.SeekStart); err != nil {
		return err
	}
	if info, err := f.Stat(); err == nil {
		j.records = slices.Grow(j.records, int(min((info.Size()-j.read)/shortRecord, mostAtOnce)))
	}
	// Decoding runs ahead while marks are checked: a long journal takes both.
	stop := make(chan struct{})
	defer close(stop)
	for b := range batches(bufio.NewReaderSize(f, 1<<16), stop) {
		for _, l := range b.lines {
			if l.blank {
				j.read += int64(len(l.text))
			} else if err := j.take(l); err != nil {
				return err
			}
		}
		if b.bad != nil {
			return fmt.Errorf("%s:%d: %w", j.Path(), len(j.records)+1, b.bad)
		}
	}
	return nil
}

// shortRecord is how many bytes a record has on average at least: room for all
// of a long journal's is made at once.
const shortRecord = 300

// mostAtOnce is how many records that is at most: a file of somebody else's is
// not trusted with more.
const mostAtOnce = 1 << 17

// A batch is some lines of a journal, decoded.
type batch struct {
	lines []*written
	bad   error // why no more could be read
}

// batches reads a journal ahead of whoever looks at the marks, until the file
// ends or stop is closed.
func batches(r *bufio.Reader, stop <-chan struct{}) <-chan batch {
	all := make(chan batch, 1)
	go func() {
		defer close(all)
		for {
			lines, ends, bad := nextLines(r)
			decode(lines)
			select {
			case all <- batch{lines, bad}:
			case <-stop:
				return
			}
			if ends || bad != nil {
				return
			}
		}
	}()
	return all
}

// A written is one line of the journal's file.
type written struct {
	text   []byte // with its end
	whole  bool   // it has one
	blank  bool   // nothing stands on it
	signed []byte // what its mark is made of
	mark   string
	record Record
	err    error // of decoding it
}

// together is how many records are decoded together: to read them is most of
// the time that a long journal takes, and the marks must be looked at one after
// another.
const together = 1024

// nextLines reads up to a batch of lines. ends says that the file does, bad why
// no more could be read.
func nextLines(r *bufio.Reader) (lines []*written, ends bool, bad error) {
	for len(lines) < together {
		text, whole, err := nextLine(r)
		if err != nil {
			return lines, false, err
		}
		blank := len(bytes.TrimSpace(text)) == 0
		if blank && !whole {
			return lines, true, nil
		}
		if lines = append(lines, &written{text: text, whole: whole, blank: blank}); !whole {
			return lines, true, nil
		}
	}
	return lines, false, nil
}

// decode reads the records of some lines, on all processors.
func decode(lines []*written) {
	workers := min(runtime.GOMAXPROCS(0), len(lines)/64+1) // a short journal needs no more than one
	var all sync.WaitGroup
	for n := range workers {
		all.Go(func() {
			for i := n; i < len(lines); i += workers {
				l := lines[i]
				l.signed, l.mark = parted(bytes.TrimRight(l.text, "\r\n"))
				if !l.blank {
					l.err = json.Unmarshal(l.signed, &l.record)
				}
			}
		})
	}
	all.Wait()
}

// nextLine reads a line with its end; whole says whether it has one.
func nextLine(r *bufio.Reader) (line []byte, whole bool, err error) {
	for {
		part, err := r.ReadSlice('\n')
		line = append(line, part...)
		switch {
		case errors.Is(err, bufio.ErrBufferFull) && len(line) < maxRecord:
		case errors.Is(err, bufio.ErrBufferFull):
			return nil, false, fmt.Errorf("it is over %d bytes", maxRecord)
		case errors.Is(err, io.EOF):
			return line, false, nil
		default:
			return line, true, err
		}
	}
}

// take takes one record of the file. The last one may be cut off in the middle:
// a crash while it was written, and the next one takes its place.
func (j *Journal) take(l *written) error {
	bad := func(format string, args ...any) error {
		return fmt.Errorf("%s:%d: %w", j.Path(), len(j.records)+1, fmt.Errorf(format, args...))
	}
	// A last line without an end is what a crash left, and is written over; any
	// other is somebody's hand.
	if l.err != nil {
		if !l.whole {
			return nil
		}
		return bad("%w\nhint: the journal was changed by hand; put the record right or move the file away", l.err)
	}
	r := l.record
	if !j.shown {
		want := j.mark(l.signed)
		if !hmac.Equal([]byte(l.mark), []byte(want)) {
			return bad("change record %d: %w\nhint: nothing is changed on its word; move the file away to begin "+
				"a new journal, what it tells stays readable", r.Seq, ErrForeign)
		}
		j.text = want
	}
	// A record that is marked rightly can still come of another version of the
	// program.
	if r.Phase == Begin && (!r.Step.Fits(r.Before) || !r.Step.Fits(r.After)) {
		return bad("the change lacks its step or a state")
	}
	if r.Phase != Begin && r.After != nil {
		i, there := slices.BinarySearchFunc(j.records, r.Of, func(o Record, seq int) int { return o.Seq - seq })
		if there && j.records[i].Step != nil && !j.records[i].Step.Fits(r.After) {
			return bad("the state is none of a %s step", j.records[i].Step.Kind)
		}
	}
	j.changes = max(j.changes, r.Change)
	j.records = append(j.records, r)
	j.read += int64(len(l.text))
	j.unended = !l.whole
	return nil
}

// parted takes a record's line apart: what the mark is made of, and the mark.
func parted(line []byte) (signed []byte, mark string) {
	const open, close = `,"mark":"`, `"}`
	i := len(line) - len(close) - 2*markBytes - len(open)
	if i < 0 || !bytes.HasPrefix(line[i:], []byte(open)) || !bytes.HasSuffix(line, []byte(close)) {
		return line, ""
	}
	mark = string(line[i+len(open) : len(line)-len(close)])
	line[i] = '}' // in place of the comma
	return line[:i+1], mark
}

// mark is made of a record and of the mark before it.
func (j *Journal) mark(signed []byte) string {
	if j.marker == nil {
		j.marker = hmac.New(sha256.New, j.key)
	}
	j.marker.Reset()
	io.WriteString(j.marker, j.text) // a hash takes all
	j.marker.Write([]byte{'\n'})
	j.marker.Write(signed)
	return hex.EncodeToString(j.marker.Sum(nil)[:markBytes])
}

// readKey reads the key that marks are made with.
func readKey(root *os.Root) ([]byte, error) {
	f, err := bounded.Plain(root, keyName, os.O_RDONLY, 0)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, keyBytes+1))
	if err == nil && len(b) != keyBytes {
		err = fmt.Errorf("%s is no key", keyName)
	}
	return b, err
}

// makeKey makes a key, or reads the one that another run made in the meantime.
func makeKey(root *os.Root) ([]byte, error) {
	f, err := root.OpenFile(keyName, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if errors.Is(err, fs.ErrExist) {
		return readKey(root)
	}
	if err != nil {
		return nil, err
	}
	key := make([]byte, keyBytes)
	_, _ = rand.Read(key) // it never fails, says its package
	_, err = f.Write(key)
	return key, errors.Join(err, f.Sync(), f.Close())
}

// write appends a record and has it on disk when it returns.
func (j *Journal) write(r Record) (Record, error) {
	switch {
	case j.shown:
		return r, errors.New("this journal was opened for reading only")
	case j.held == 0:
		return r, errors.New("the journal is not held")
	}
	root, err := j.root()
	if err != nil {
		return r, err
	}
	defer root.Close()
	if j.key == nil {
		if j.key, err = makeKey(root); err != nil {
			return r, err
		}
	}
	r.Seq, r.Time = 1, j.now().UTC().Truncate(time.Second)
	if n := len(j.records); n > 0 {
		r.Seq = j.records[n-1].Seq + 1
	}
	// The mark goes over the record as it is written, and over the mark before
	// it: so none can be left out.
	signed, err := json.Marshal(r)
	if err != nil {
		return r, err
	}
	mark := j.mark(signed)
	line := append(signed[:len(signed)-1:len(signed)-1], `,"mark":"`+mark+"\"}\n"...)
	f, err := bounded.Plain(root, journalName, os.O_WRONLY|os.O_CREATE, 0o600)
	if err != nil {
		return r, err
	}
	text, at := line, j.read
	if j.unended {
		text = append([]byte{'\n'}, line...)
	}
	// What a crash cut off behind the last whole record goes; then ours is
	// written where that one ends.
	if err = f.Truncate(at); err == nil {
		_, err = f.WriteAt(text, at)
	}
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return r, err
	}
	j.records, j.text, j.read, j.unended = append(j.records, r), mark, at+int64(len(text)), false
	j.changes = max(j.changes, r.Change)
	return r, j.copyToCase(r, line)
}

// copyToCase appends what is written about a case's change to the copy that
// lies in the case, from which it is told where the machine is not at hand.
func (j *Journal) copyToCase(r Record, line []byte) error {
	dir := r.Case
	for i := len(j.records) - 1; i >= 0 && dir == "" && r.Phase != Begin; i-- {
		if o := j.records[i]; o.Seq == r.Of {
			dir = o.Case
			break
		}
	}
	if dir == "" {
		return nil
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	root, err := os.OpenRoot(dir)
	if err != nil {
		return err
	}
	defer root.Close()
	f, err := bounded.Plain(root, journalName, os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o600)
	if err != nil {
		return fmt.Errorf("the case's copy of the journal: %w", err)
	}
	_, err = f.Write(line)
	return errors.Join(err, f.Close())
}

// root opens the journal's folder, and makes it where there is none.
func (j *Journal) root() (*os.Root, error) {
	makes := j.Make
	if makes == nil {
		makes = func() error { return os.MkdirAll(j.dir, 0o700) }
	}
	if err := makes(); err != nil {
		return nil, err
	}
	return os.OpenRoot(j.dir)
}

// keep puts a file beside the journal: in a folder of it, whole or not at all.
func (j *Journal) keep(folder, name string, text []byte) error {
	root, err := j.root()
	if err != nil {
		return err
	}
	defer root.Close()
	if err := root.Mkdir(folder, 0o700); err != nil && !errors.Is(err, fs.ErrExist) {
		return err
	}
	at := filepath.Join(folder, name)
	if info, err := root.Lstat(at); err == nil && info.Mode().IsRegular() { // of a run that was cut off
		if err := root.Remove(at); err != nil {
			return err
		}
	}
	f, err := root.OpenFile(at, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return err
	}
	_, err = f.Write(text)
	return errors.Join(err, f.Close())
}
