// Package whole says whether a setup file is whole: not cut short, not a page
// or a part of a download that has its name, not changed since it was signed;
// and whether what lies in it and beside it is whole, too.
package whole

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/compound"
	"hollowkey/core/package/installdb"
)

// Kind is what a setup file is, by what it begins with.
type Kind string

// The kinds.
const (
	Database Kind = "package, patch or transform"
	Cabinet  Kind = "cabinet"
	Archive  Kind = "archive"
	Program  Kind = "program"
	Other    Kind = "no setup file"
)

// What is wrong with a file.
const (
	Empty      = "empty"
	Download   = "unfinished download"
	Page       = "a web page"
	Cut        = "cut short"
	Damaged    = "damaged"
	Changed    = "changed since it was signed"
	NoCabinet  = "cabinet missing"
	OtherSize  = "cabinet of another build"
	OtherMatch = "not what its name says"
)

// A Fault is one thing that is wrong.
type Fault struct {
	What string `json:"what"` // one of the words above
	Seen string `json:"seen"` // in one sentence
	Part string `json:"part"` // the cabinet or stream that it is about; empty for the file itself
}

// A Report says what a file is and what is wrong with it.
type Report struct {
	Path      string   `json:"path"`      // as it was given
	Kind      Kind     `json:"kind"`      // by its first bytes
	Bytes     int64    `json:"bytes"`     // its size
	Signature string   `json:"signature"` // of a program: none, fits, or does not; else empty
	Faults    []Fault  `json:"faults"`    // none: nothing is wrong, as far as can be told without running it
	Remarks   []string `json:"remarks"`   // what is no fault

	deep bool                // sums are compared
	db   *installdb.Database // nil where it is none, or cannot be read
}

// Database is the package, patch or transform that was looked at; nil where it
// is none, or one that cannot be read.
func (r *Report) Database() *installdb.Database { return r.db }

// Whole says that nothing was found wrong.
func (r *Report) Whole() bool { return len(r.Faults) == 0 }

// Words sums the faults up in one sentence; empty without any.
func (r *Report) Words() string {
	var out []string
	for _, f := range r.Faults {
		out = append(out, f.Seen)
	}
	return strings.Join(out, "; ")
}

// Damage notes what another reader of the file stumbled over.
func (r *Report) Damage(format string, args ...any) { r.fault(Damaged, "", format, args...) }

// Carry notes the faults of a file that lies inside.
func (r *Report) Carry(name string, in *Report) {
	for _, f := range in.Faults {
		r.fault(f.What, name, "%s, which it carries: %s", name, f.Seen)
	}
}

// fault notes what is not whole, and in which part.
func (r *Report) fault(what, part, format string, args ...any) {
	r.Faults = append(r.Faults, Fault{What: what, Seen: fmt.Sprintf(format, args...), Part: part})
}

// Marked notes that the OS marked a file of this computer as come from the
// internet.
func (r *Report) Marked() {
	if text, err := os.ReadFile(r.Path + zoneStream); err == nil && bytes.Contains(text, []byte("ZoneId=3")) {
		r.Remarks = append(r.Remarks, "the OS has marked it as come from the internet, and may warn of it or "+
			"hold it back (unblock it in its properties)")
	}
}

// zoneStream is the alternate stream in which the OS marks where a file came
// from.
const zoneStream = ":Zone.Identifier"

// Opener opens a file that lies beside the one that is looked at.
type Opener func(name string) (r io.ReaderAt, size int64, done func(), err error)

// Shallow is how large a file may be to be read whole where speed counts, in
// bytes; sums over it take some hundredths of a second.
const Shallow = 32 << 20

// Read looks at a file of size bytes; beside may be nil. Deep compares also the
// sums of all contents, which reads all of it.
func Read(path string, f io.ReaderAt, size int64, beside Opener, deep bool) *Report {
	r := &Report{Path: path, Kind: Other, Bytes: size, Faults: []Fault{}, Remarks: []string{}, deep: deep}
	if !deep {
		r.Remarks = append(r.Remarks, "it is large, so the sums over its contents were not compared; hollowkey ready does that")
	}
	name := filepath.Base(strings.ReplaceAll(path, `\`, "/"))
	ending := strings.ToLower(filepath.Ext(name))
	if slices.Contains(unfinished, ending) {
		r.fault(Download, "", "its name ends in %s, as a download does that goes on or broke off", ending)
	}
	if size == 0 {
		r.fault(Empty, "", "it is empty")
		return r
	}
	head := make([]byte, min(size, headBytes))
	if _, err := f.ReadAt(head, 0); err != nil && err != io.EOF {
		r.fault(Damaged, "", "it cannot be read: %v", err)
		return r
	}
	switch {
	case bytes.HasPrefix(head, []byte(compound.Signature)):
		r.Kind = Database
		r.database(f, size, beside)
	case bytes.HasPrefix(head, []byte(cabinet.Signature)):
		r.Kind = Cabinet
		r.cabinet("", f, size, nil)
	case bytes.HasPrefix(head, []byte("PK\x03\x04")) || bytes.HasPrefix(head, []byte("PK\x05\x06")):
		r.Kind = Archive
		r.archive(f, size)
	case bytes.HasPrefix(head, []byte("MZ")):
		r.Kind = Program
		r.program(f, size)
	case isPage(head):
		r.fault(Page, "", "it is a web page%s: a sign-in or error page was saved under its name", titleOf(head))
	case len(bytes.Trim(head, "\x00")) == 0:
		r.fault(Damaged, "", "it begins with zeros only: the download reserved its place and did not fill it")
	case wanted[ending] != "":
		r.fault(OtherMatch, "", "it does not begin as %s does", wanted[ending])
	}
	return r
}

// headBytes are read to see what a file is.
const headBytes = 4096

// unfinished are endings that programs give to a download until it is whole.
var unfinished = []string{".crdownload", ".part", ".partial", ".download", ".opdownload", ".tmp"}

// wanted is what files of an ending are.
var wanted = map[string]string{".msi": "a package", ".msp": "a patch", ".mst": "a transform", ".cab": "a cabinet", ".exe": "a program",
	".zip": "an archive", ".msix": "an app package", ".appx": "an app package", ".msixbundle": "an app bundle", ".appxbundle": "an app bundle"}

// isPage says whether a file begins as a web page does: the commonest thing
// that is saved under a package's name by mistake.
func isPage(head []byte) bool {
	low := bytes.ToLower(bytes.TrimLeft(head, "\xef\xbb\xbf \t\r\n"))
	return bytes.HasPrefix(low, []byte("<!doctype html")) || bytes.HasPrefix(low, []byte("<html")) ||
		bytes.HasPrefix(low, []byte("<?xml")) && bytes.Contains(low, []byte("<html"))
}

// A page that was saved in a setup's place says in its title what went wrong:
// "Sign in", "404 Not Found".
var pageTitle = lazy.MustCompile(`(?is)<title>(.*?)</title>`)

// titleOf is a page's title, in quotes.
func titleOf(head []byte) string {
	m := pageTitle.FindSubmatch(head)
	if m == nil {
		return ""
	}
	title := []rune(strings.Join(strings.Fields(string(m[1])), " "))
	const longest = 60 // letters; a page's title can be a paragraph, and it stands in a sentence
	if len(title) > longest {
		title = append(title[:longest], '…')
	}
	return fmt.Sprintf(" (%q)", string(title))
}

// database looks at a package, patch or transform, its streams and its
// cabinets.
func (r *Report) database(f io.ReaderAt, size int64, beside Opener) {
	c, err := compound.Open(f, size)
	if err != nil {
		r.fault(Cut, "", "it is cut short or damaged: %v", err)
		return
	}
	if need, err := c.Reach(); err == nil && need > size {
		r.fault(Cut, "", "it has %d bytes, and its container says that %d are in use: %d are missing", size, need, need-size)
		return
	}
	db, err := installdb.In(c)
	switch {
	case errors.Is(err, installdb.ErrNoDatabase):
		r.Remarks = append(r.Remarks, "it is a container of another kind than a package")
		return
	case err != nil:
		r.fault(Damaged, "", "its tables cannot be read: %v", err)
		return
	}
	for _, name := range db.Tables() {
		if !r.deep {
			break // whoever looks into them finds out
		}
		if _, err := db.Table(name); err != nil {
			r.fault(Damaged, name, "its table %s cannot be read: %v", name, err)
			return
		}
	}
	r.db = db
	if db.Format == installdb.Package {
		r.media(db, beside)
	}
}

// Inside looks at the cabinets that a package carries, and tells what is wrong
// with them.
func Inside(db *installdb.Database) []Fault {
	r := Report{deep: true}
	r.media(db, nil)
	return r.Faults
}

// media looks at each cabinet of a package: in it or beside it, whole, and of
// the sizes that the package's own list of files has.
func (r *Report) media(db *installdb.Database, beside Opener) {
	media, err := db.TableOrEmpty("Media")
	if err != nil {
		return
	}
	sizes, sequence := fileSizes(db)
	for _, row := range media.Rows {
		name := media.Get(row, "Cabinet").Text
		if name == "" {
			continue
		}
		last := media.Get(row, "LastSequence").Int
		check := func(key string) (int64, bool) {
			size, listed := sizes[key]
			return size, listed && sequence[key] <= last
		}
		if inner, embedded := strings.CutPrefix(name, "#"); embedded && !r.deep {
			if !slices.ContainsFunc(db.Streams(), func(s installdb.StreamInfo) bool { return s.Name == inner }) {
				r.fault(NoCabinet, name, "its cabinet %s is not in it", name)
			}
			continue
		} else if embedded {
			s, err := db.Stream(inner)
			at, ok := s.(io.ReaderAt)
			if err != nil || !ok {
				r.fault(NoCabinet, name, "its cabinet %s is not in it", name)
				continue
			}
			r.cabinet(inner, at, s.Size(), check)
			continue
		}
		if beside == nil {
			continue
		}
		f, size, done, err := beside(name)
		if err != nil {
			r.fault(NoCabinet, name, "its cabinet %s is not beside it", name)
			continue
		}
		r.cabinet(name, f, size, check)
		done()
	}
}

// fileSizes are the sizes and places of the files of a package, by their keys,
// which are their names in the cabinets.
func fileSizes(db *installdb.Database) (sizes map[string]int64, sequence map[string]int32) {
	sizes, sequence = map[string]int64{}, map[string]int32{}
	t, err := db.TableOrEmpty("File")
	if err != nil {
		return sizes, sequence
	}
	for _, row := range t.Rows {
		key := t.Get(row, "File").Text
		sizes[key], sequence[key] = int64(t.Get(row, "FileSize").Int), t.Get(row, "Sequence").Int
	}
	return sizes, sequence
}

// cabinet looks at a cabinet, its blocks' sums, and what a package says of its
// files.
func (r *Report) cabinet(part string, f io.ReaderAt, size int64, want func(key string) (int64, bool)) {
	it := "it"
	if part != "" {
		it = "the cabinet " + part
	}
	if says, ok := cabinet.Says(f); ok && says > size {
		r.fault(Cut, part, "%s has %d bytes, and its header says %d: %d are missing", it, size, says, says-size)
		return
	}
	c, err := cabinet.Open(f, size)
	if err == nil && r.deep {
		err = c.Check()
	}
	if err != nil {
		r.fault(Damaged, part, "%s is not whole: %v", it, err)
		return
	}
	if want == nil {
		return
	}
	for _, file := range c.Files {
		if size, listed := want(file.Name); listed && size != file.Size {
			r.fault(OtherSize, part, "%s has %s with %d bytes, and the package expects %d: it is of another build", it, file.Name, file.Size, size)
			return
		}
	}
}

// archive looks at a zip: its directory stands at its end, and each entry must
// lie before it.
func (r *Report) archive(f io.ReaderAt, size int64) {
	z, err := zip.NewReader(f, size)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		r.fault(Cut, "", "the directory at its end is missing or does not fit (%v): it is cut short", err)
		return
	}
	for _, e := range z.File {
		at, err := e.DataOffset()
		if err == nil && at+int64(e.CompressedSize64) > size {
			err = errors.New("it reaches behind the end")
		}
		if err != nil {
			r.fault(Damaged, e.Name, "the entry %q cannot be read: %v", e.Name, err)
			return
		}
	}
}
