// Package zipped reads what is in zips: the logs that somebody sent in one, or
// that were collected. It knows neither logs nor cases; it bounds what a zip
// may hold, and gives no more of an entry than that promises.
package zipped

import (
	"archive/zip"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"
)

// Limits of a zip: more is no collection of logs.
const (
	mostEntries = 20_000
	mostRatio   = 300     // unpacked to packed; text packs to a tenth
	mostBytes   = 8 << 30 // unpacked, of one zip
	small       = 1 << 20 // bytes unpacked, below which the ratio says nothing
)

// Sign stands between a zip's name and that of an entry:
// "collected.zip!logs/setup.log".
const Sign = "!"

// An Entry is a file in a zip.
type Entry struct {
	Number    int       // by which it is opened
	Name      string    // with slashes
	Bytes     int64     // unpacked, as the zip promises
	Changed   time.Time // in UTC, to the second; zero where the zip noted none
	Encrypted bool      // it cannot be read
}

// Is says whether a name is that of a zip, by its ending.
func Is(name string) bool { return len(name) > 4 && strings.EqualFold(name[len(name)-4:], ".zip") }

// List gives the files of a zip, without its folders. One that promises too
// much is refused. It fails for what is no zip, and for more entries or bytes
// than a set of logs has.
func List(name string) (list []Entry, err error) {
	info, err := os.Stat(name)
	if err != nil {
		return nil, err
	}
	z, err := open(name)
	if err != nil {
		return nil, err
	}
	defer z.Close()
	return filesOf(&z.Reader, info.Size())
}

// filesOf is List of a zip of so many bytes.
func filesOf(z *zip.Reader, packed int64) (list []Entry, err error) {
	total := uint64(0)
	for _, f := range z.File {
		total += f.UncompressedSize64
	}
	switch {
	case len(z.File) > mostEntries:
		return nil, fmt.Errorf("it has %d entries; at most %d are read", len(z.File), mostEntries)
	case total > mostBytes, total > small && total/uint64(max(packed, 1)) > mostRatio:
		return nil, fmt.Errorf("%d bytes would come out of it", total)
	}
	for n, f := range z.File {
		if f.FileInfo().IsDir() {
			continue
		}
		e := Entry{Number: n, Name: strings.ReplaceAll(f.Name, `\`, "/"), Bytes: int64(min(f.UncompressedSize64, 1<<62)),
			Encrypted: f.Flags&1 != 0} // [APPNOTE] 4.4.4
		if changed := f.Modified.UTC(); changed.Year() >= 1981 { // the form keeps nothing before
			e.Changed = changed.Truncate(time.Second)
		}
		list = append(list, e)
	}
	return list, nil
}

// open opens a zip. Names that lead out of a folder do no harm here: nothing is
// unpacked.
func open(name string) (*zip.ReadCloser, error) {
	z, err := zip.OpenReader(name)
	if errors.Is(err, zip.ErrInsecurePath) {
		err = nil
	}
	return z, err
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

// Open opens an entry for a reader of its own. It gives no more than it
// promised, and no more than most bytes.
func Open(name string, number int, most int64) (io.ReadCloser, error) {
	z, err := open(name)
	if err != nil {
		return nil, err
	}
	if number < 0 || number >= len(z.File) {
		z.Close()
		return nil, errors.New("it has changed while it was read")
	}
	f, in, err := bounded(z.File[number], most)
	if err != nil {
		z.Close()
		return nil, err
	}
	return entry{f, []io.Closer{in, z}}, nil
}

// bounded opens an entry; f gives no more than it promised.
func bounded(e *zip.File, most int64) (f io.Reader, in io.Closer, err error) {
	r, err := e.Open()
	if err != nil {
		return nil, nil, err
	}
	return io.LimitReader(r, int64(min(e.UncompressedSize64, uint64(most)))), r, nil
}

// Parts are the names of a zip and of an entry in it, of a name as [Sign] joins
// them; ok is false for other names.
func Parts(name string) (zipName, inside string, ok bool) {
	for from := 0; ; {
		at := strings.Index(name[from:], Sign)
		if at < 0 {
			return "", "", false
		}
		at += from
		if Is(name[:at]) {
			return name[:at], name[at+len(Sign):], true
		}
		from = at + len(Sign)
	}
}

// Find opens an entry by its name. An error where it is not there; of several
// with one name it is the first.
func Find(name, inside string, most int64) (f io.ReadCloser, size int64, err error) {
	list, err := List(name)
	if err != nil {
		return nil, 0, err
	}
	for _, e := range list {
		if e.Name == inside {
			f, err = Open(name, e.Number, most)
			return f, e.Bytes, err
		}
	}
	return nil, 0, fmt.Errorf("%s has no %s", name, inside)
}
