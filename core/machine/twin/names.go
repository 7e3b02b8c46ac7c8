// This file finds names whatever the case of their letters, on disks that mind
// it.

package twin

import (
	"io/fs"
	"os"
	"path"
	"strings"
	"time"
)

// Names below disk/, whatever the case of their letters: the machine does not
// mind it, the disk that the twin lies on may.

// A listing is what a folder of the twin held when it was last read or changed.
type listing struct {
	changed time.Time         // the folder's own time then
	names   map[string]string // in small letters → as they are written
}

// named gives a name in a folder as it is written there; ok is false when there
// is none. The written name is asked for first; listing a folder for each of
// its files would take time in the square of their number, so a listing is used
// again for as long as the folder has not changed.
func (t *Twin) named(folder, name string) (written string, ok bool, err error) {
	if _, err := t.root.Lstat(path.Join(folder, name)); err == nil {
		return name, true, nil
	}
	fi, err := t.root.Stat(folder)
	if err != nil {
		return "", false, err
	}
	l := t.listings[folder]
	if l == nil || !l.changed.Equal(fi.ModTime()) {
		entries, err := fs.ReadDir(t.root.FS(), folder)
		if err != nil {
			return "", false, err
		}
		l = &listing{changed: fi.ModTime(), names: make(map[string]string, len(entries))}
		for _, e := range entries {
			l.names[strings.ToLower(e.Name())] = e.Name()
		}
		if t.listings == nil {
			t.listings = map[string]*listing{}
		}
		t.listings[folder] = l
	}
	written, ok = l.names[strings.ToLower(name)]
	return written, ok, nil
}

// came and went keep a listing true to a change of our own.
func (t *Twin) came(at string) { t.note(at, true) }

// went notes that a file or folder is gone, so that its folder's list of names
// need not be read from the disk again.
func (t *Twin) went(at string) { t.note(at, false) }

// note keeps a listing in step, and takes the folder's new time for its own.
func (t *Twin) note(at string, there bool) {
	folder, name := path.Dir(at), path.Base(at)
	delete(t.listings, at) // of a folder that is gone, or new
	l := t.listings[folder]
	if l == nil {
		return
	}
	if there {
		l.names[strings.ToLower(name)] = name
	} else {
		delete(l.names, strings.ToLower(name))
	}
	if fi, err := t.root.Stat(folder); err == nil {
		l.changed = fi.ModTime()
	}
}

// walk finds a path below disk/. The error is fs.ErrNotExist where a name is
// missing.
func (t *Twin) walk(drive string, names []string) (string, os.FileInfo, error) {
	at := "disk"
	for _, name := range append([]string{drive}, names...) {
		written, ok, err := t.named(at, name)
		if err != nil {
			return "", nil, err
		}
		if !ok {
			return "", nil, fs.ErrNotExist
		}
		at = path.Join(at, written)
	}
	fi, err := t.root.Stat(at)
	return at, fi, err
}
