package intake

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"sync/atomic"
	"time"

	"hollowkey/core/fleet/store"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/record/gather"
)

// Limits of a zip: more is no collection of logs.
const (
	mostEntries = 20_000
	mostRatio   = 300     // unpacked to packed; text packs to a tenth
	mostZip     = 8 << 30 // bytes unpacked, of one zip
)

// A walk finds the files of places.
type walk struct {
	ctx   context.Context
	known map[string]store.File
	out   chan<- Ref
	done  chan<- store.Found // for what needs no reading
	found *atomic.Int64      // how many files there are so far
}

func (w *walk) all(places []string) error {
	for _, p := range places {
		names := []string{p}
		if strings.ContainsAny(p, "*?[") {
			var err error
			if names, err = filepath.Glob(p); err != nil {
				return fmt.Errorf("%s: %w", p, err)
			}
			if len(names) == 0 {
				return fmt.Errorf("nothing is like %s", p)
			}
		}
		for _, n := range names {
			if err := w.place(n); err != nil {
				return err
			}
		}
	}
	return nil
}

// place walks through one place. What lies below it and cannot be read is told and passed
// over; a place itself must be there.
func (w *walk) place(root string) error {
	if _, err := os.Stat(root); err != nil {
		return err
	}
	return filepath.WalkDir(root, func(name string, d fs.DirEntry, err error) error {
		if w.ctx.Err() != nil {
			return fs.SkipAll
		}
		if err != nil {
			return w.tell(store.File{Path: name, State: store.Unread, Reason: reason(err)})
		}
		if !d.Type().IsRegular() {
			return nil
		}
		info, err := d.Info()
		if err != nil { // gone since it was listed
			return w.tell(store.File{Path: name, State: store.Unread, Reason: reason(err)})
		}
		below := filepath.Join(filepath.Base(root), strings.TrimPrefix(name, root))
		if strings.EqualFold(filepath.Ext(name), ".zip") {
			return w.zip(name, below, info)
		}
		if ofCase(below) {
			return nil
		}
		if d.Name() == caseName {
			return w.file(Ref{Path: name, Bytes: info.Size(), Changed: caseChanged(filepath.Dir(name), info.ModTime()), Case: true})
		}
		return w.file(Ref{Path: name, Machine: machineOf(below), Bytes: info.Size(), Changed: info.ModTime().UTC()})
	})
}

// caseName is the file by which a folder is known for a case.
const caseName = "case.yaml"

const (
	manifestName = "manifest.json" // the list of what a zip of ours holds
	mostManifest = 8 << 20         // bytes
)

// gathered says whether a zip was packed by us, in which names are masked, and gives the
// pseudonym of its machine.
func gathered(z *zip.ReadCloser) (ours bool, pseudonym string) {
	for _, f := range z.File {
		if f.Name != manifestName {
			continue
		}
		in, err := f.Open()
		if err != nil {
			return false, ""
		}
		defer in.Close()
		b, err := io.ReadAll(io.LimitReader(in, mostManifest))
		var rep gather.Report
		if err != nil || json.Unmarshal(b, &rep) != nil || rep.Schema != gather.Schema {
			return false, ""
		}
		return true, rep.Machine
	}
	return false, ""
}

// ofCase says whether a file is one in which a case keeps its own records: they tell of logs,
// and are none.
func ofCase(name string) bool {
	name = filepath.ToSlash(name)
	dir, base := path.Base(path.Dir(name)), path.Base(name)
	switch base {
	case "journal.ndjson", "commands.ndjson", "ready.json", "changes.ndjson":
		return true
	}
	return (dir == "verdicts" || dir == "attempts") && numbered.MatchString(base)
}

// numbered is how a case names its verdicts and attempts.
var numbered = lazy.MustCompile(`^\d{4,}\.json$`)

// caseChanged is when a case was changed last: what is tried in it is kept in files of its own.
func caseChanged(dir string, last time.Time) time.Time {
	for _, name := range []string{"attempts", "verdicts", "journal.ndjson"} {
		if info, err := os.Stat(filepath.Join(dir, name)); err == nil && info.ModTime().After(last) {
			last = info.ModTime()
		}
	}
	return last.UTC()
}

// tell hands over a file that needs no reading.
func (w *walk) tell(f store.File) error {
	w.found.Add(1)
	select {
	case w.done <- store.Found{File: f}:
	case <-w.ctx.Done():
	}
	return nil
}

// file hands over a file to be read, unless it was read before and is the same.
func (w *walk) file(i Ref) error {
	if k, ok := w.known[i.Path]; ok && k.State != store.Unread && k.Bytes == i.Bytes && k.Changed.Equal(i.Changed) {
		return w.tell(store.File{Path: i.Path})
	}
	w.found.Add(1)
	select {
	case w.out <- i:
	case <-w.ctx.Done():
	}
	return nil
}

// zip hands over what is in a zip. One that cannot be read, or promises too much, is told.
func (w *walk) zip(name, below string, info fs.FileInfo) error {
	bad := func(err error) error {
		return w.tell(store.File{Path: name, Bytes: info.Size(), Changed: info.ModTime().UTC(), State: store.Unread, Reason: reason(err)})
	}
	z, err := zip.OpenReader(name)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return bad(err)
	}
	total := uint64(0)
	for _, f := range z.File {
		total += f.UncompressedSize64
	}
	ours, pseudonym := gathered(z)
	list := z.File
	z.Close()
	switch {
	case len(list) > mostEntries:
		return bad(fmt.Errorf("it has %d entries; at most %d are read", len(list), mostEntries))
	case total > mostZip, total > 1<<20 && total/uint64(max(info.Size(), 1)) > mostRatio:
		return bad(fmt.Errorf("%d bytes would come out of it", total))
	}
	for n, f := range list {
		if f.FileInfo().IsDir() {
			continue
		}
		changed := f.Modified.UTC()
		if changed.Year() < 1981 { // the form keeps nothing before; no time was noted
			changed = info.ModTime().UTC()
		}
		inside := strings.ReplaceAll(f.Name, `\`, "/")
		at := Ref{Path: name + "!" + inside, Machine: machineOf(filepath.Join(below, inside)),
			Bytes: int64(min(f.UncompressedSize64, 1<<62)), Changed: changed.Truncate(time.Second),
			Zip: name, Entry: n, Masked: ours, Case: strings.HasSuffix(inside, "/"+caseName) || inside == caseName}
		if ofCase(inside) || ours && (inside == manifestName || strings.HasPrefix(inside, "machine/")) {
			continue
		}
		if ours {
			at.Machine = firstOf(pseudonym, machineOf(filepath.Base(name)+"/x"))
		}
		if f.Flags&1 != 0 { // [APPNOTE] 4.4.4
			if err := w.tell(store.File{Path: at.Path, Bytes: at.Bytes, Changed: at.Changed, State: store.Unread,
				Reason: "it is encrypted"}); err != nil {
				return err
			}
			continue
		}
		if err := w.file(at); err != nil {
			return err
		}
	}
	return nil
}

// entry is one of a zip, which is closed with it.
type entry struct {
	io.Reader
	closers []io.Closer
}

// Close closes entry and zip.
func (e entry) Close() error {
	var err error
	for _, c := range e.closers {
		err = errors.Join(err, c.Close())
	}
	return err
}

// openEntry opens an entry for a reader of its own. It gives no more than it promised.
func openEntry(name string, n int) (io.ReadCloser, error) {
	z, err := zip.OpenReader(name)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return nil, err
	}
	if n >= len(z.File) {
		z.Close()
		return nil, errors.New("it has changed while it was read")
	}
	f := z.File[n]
	in, err := f.Open()
	if err != nil {
		z.Close()
		return nil, err
	}
	return entry{io.LimitReader(in, int64(min(f.UncompressedSize64, mostLog))), []io.Closer{in, z}}, nil
}
