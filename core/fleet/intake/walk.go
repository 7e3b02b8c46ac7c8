// This file finds the files of places, in folders and zips, with limits for
// what a place may hold.

package intake

import (
	"context"
	"encoding/json"
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
	"hollowkey/core/logs/zipped"
	"hollowkey/core/record/gather"
	"hollowkey/core/why"
)

// A walk finds the files of places.
type walk struct {
	ctx   context.Context
	known map[string]store.File
	out   chan<- Ref
	done  chan<- store.Found // for what needs no reading
	found *atomic.Int64      // how many files there are so far
}

// all looks at each place: a file, a folder, or a form with stars, which not
// every shell resolves itself.
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

// place walks through one place. What lies below it and cannot be read is told
// and passed over; a place itself must be there.
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
		// The folders below the place often name the machine.
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

// gathered says whether a zip was packed by us, in which names are masked, and
// gives the pseudonym of its machine.
func gathered(name string, list []zipped.Entry) (ours bool, pseudonym string) {
	for _, e := range list {
		if e.Name != manifestName {
			continue
		}
		in, err := zipped.Open(name, e.Number, mostManifest)
		if err != nil {
			return false, ""
		}
		defer in.Close()
		b, err := io.ReadAll(in)
		var rep gather.Report
		if err != nil || json.Unmarshal(b, &rep) != nil || rep.Schema != gather.Schema {
			return false, ""
		}
		return true, rep.Machine
	}
	return false, ""
}

// ofCase says whether a file is one in which a case keeps its own records: they
// tell of logs, and are none.
func ofCase(name string) bool {
	name = filepath.ToSlash(name)
	dir, base := path.Base(path.Dir(name)), path.Base(name)
	return base != caseName && why.OwnRecord(base) || (dir == "verdicts" || dir == "attempts") && numbered.MatchString(base)
}

// numbered is how a case names its verdicts and attempts.
var numbered = lazy.MustCompile(`^\d{4,}\.json$`)

// caseChanged is when a case was changed last: what is tried in it is kept in
// files of its own.
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

// zip hands over what is in a zip. One that cannot be read, or promises too
// much, is told.
func (w *walk) zip(name, below string, info fs.FileInfo) error {
	list, err := zipped.List(name)
	if err != nil {
		return w.tell(store.File{Path: name, Bytes: info.Size(), Changed: info.ModTime().UTC(), State: store.Unread, Reason: reason(err)})
	}
	// A zip of ours has its names masked, and a pseudonym for the machine.
	ours, pseudonym := gathered(name, list)
	for _, e := range list {
		changed := e.Changed
		if changed.IsZero() {
			changed = info.ModTime().UTC().Truncate(time.Second)
		}
		at := Ref{Path: name + zipped.Sign + e.Name, Machine: machineOf(filepath.Join(below, e.Name)), Bytes: e.Bytes, Changed: changed,
			Zip: name, Entry: e.Number, Masked: ours, Case: strings.HasSuffix(e.Name, "/"+caseName) || e.Name == caseName}
		if ofCase(e.Name) || ours && (e.Name == manifestName || strings.HasPrefix(e.Name, "machine/")) {
			continue
		}
		if ours {
			at.Machine = firstOf(pseudonym, machineOf(filepath.Base(name)+"/x"))
		}
		if e.Encrypted {
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
