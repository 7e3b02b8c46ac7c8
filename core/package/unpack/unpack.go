// Package unpack lists and extracts what packages, cabinets, archives and
// setup programs carry: files, streams, and further packages.
package unpack

import (
	"archive/zip"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"

	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/compound"
	"hollowkey/core/package/installdb"
)

// Kind says what an item is.
type Kind string

// The kinds of items.
const (
	PackageKind Kind = "package"
	PatchKind   Kind = "patch"
	MstKind     Kind = "transform"
	CabinetKind Kind = "cabinet"
	ArchiveKind Kind = "archive"
	FileKind    Kind = "file"
	StreamKind  Kind = "stream"
	ProgramKind Kind = "program"
)

// An Item is one thing inside.
type Item struct {
	Path  string `json:"path"`            // below the folder to unpack into, parted by slashes, safe
	Kind  Kind   `json:"kind"`            // what it is
	Size  int64  `json:"size"`            // unpacked, in bytes
	Where string `json:"where,omitempty"` // in what it lies, and at which byte
	About string `json:"about,omitempty"` // of packages and patches: what they are for
}

// Visit takes an item, and gives where its contents go; nil passes it over.
type Visit func(Item) (io.WriteCloser, error)

const (
	maxItems = 300_000 // over all depths; the largest archives of setups have tens of thousands
	maxDeep  = 4       // packages within archives within programs …
)

// ErrNothing says that nothing was found inside.
var ErrNothing = errors.New("nothing was found inside")

// A walk goes through one source.
type walk struct {
	visit Visit          // takes the items
	items int            // how many so far
	used  map[string]int // paths given already, in small letters
}

// Walk goes through everything inside a file or an unpacked folder. An error of
// visit ends it and is given; damage inside of one item is told with that item.
func Walk(name string, visit Visit) error {
	w := &walk{visit: visit, used: map[string]int{}}
	info, err := os.Stat(name)
	if err != nil {
		return err
	}
	if info.IsDir() {
		err = w.folder(name)
	} else {
		err = w.open(name, info.Size(), "", "")
	}
	if err == nil && w.items == 0 {
		err = fmt.Errorf("%s: %w", name, ErrNothing)
	}
	return err
}

// open looks into a file of this computer.
func (w *walk) open(name string, size int64, prefix, where string) error {
	f, err := os.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	return w.inside(f, size, prefix, where, filepath.Base(name), 0)
}

// A source is what can be looked into: a file, or a part of one.
type source interface {
	io.ReaderAt
}

// inside looks into size bytes of r by what they begin with.
func (w *walk) inside(r source, size int64, prefix, where, name string, depth int) error {
	head := make([]byte, 8)
	if n, err := r.ReadAt(head, 0); err != nil && err != io.EOF {
		return err
	} else if n < 4 {
		return nil
	}
	switch {
	case string(head) == compound.Signature:
		return w.database(r, size, prefix, where)
	case string(head[:4]) == cabinet.Signature:
		return w.cabinet(r, size, prefix, name, nil)
	case string(head[:2]) == "MZ":
		return w.program(r, size, prefix, depth)
	case string(head[:4]) == "PK\x03\x04":
		return w.archive(r, size, prefix, name, depth)
	}
	return fmt.Errorf("%s: %w\nhint: it is no package, patch, cabinet, zip or program", name, ErrNothing)
}

// put visits an item and copies its contents where the visitor wants them.
func (w *walk) put(i Item, contents func() (io.Reader, error)) error {
	out, err := w.take(i)
	if err != nil || out == nil {
		return err
	}
	r, err := contents()
	if err != nil {
		return errors.Join(err, out.Close())
	}
	_, err = io.Copy(out, r)
	return errors.Join(err, out.Close())
}

// take visits an item under a safe path of its own.
func (w *walk) take(i Item) (io.WriteCloser, error) {
	if w.items++; w.items > maxItems {
		return nil, fmt.Errorf("more than %d items are inside", maxItems)
	}
	i.Path = SafePath(i.Path)
	folded := strings.ToLower(i.Path)
	if n := w.used[folded]; n > 0 {
		ext := path.Ext(i.Path)
		i.Path = fmt.Sprintf("%s (%d)%s", strings.TrimSuffix(i.Path, ext), n+1, ext)
	}
	w.used[folded]++
	return w.visit(i)
}

// SafePath makes a path that stays below its folder on every OS out of any
// name.
func SafePath(name string) string {
	var parts []string
	for part := range strings.FieldsFuncSeq(name, func(r rune) bool { return r == '/' || r == '\\' }) {
		part = strings.Map(func(r rune) rune {
			if r < ' ' || r == 0x7F || strings.ContainsRune(`<>:"|?*`, r) {
				return '_'
			}
			return r
		}, part)
		part = strings.TrimRight(part, ". ")
		base, _, _ := strings.Cut(part, ".")
		switch upper := strings.ToUpper(strings.TrimSpace(base)); {
		case part == "":
			part = "_"
		case upper == "CON", upper == "PRN", upper == "AUX", upper == "NUL",
			len(upper) == 4 && (strings.HasPrefix(upper, "COM") || strings.HasPrefix(upper, "LPT")) && upper[3] >= '0' && upper[3] <= '9':
			part = "_" + part
		}
		if r := []rune(part); len(r) > 120 {
			part = string(r[:60]) + "~" + string(r[len(r)-59:])
		}
		parts = append(parts, part)
	}
	if len(parts) == 0 {
		return "_"
	}
	return strings.Join(parts, "/")
}

// cabinet goes through a cabinet. names gives the items' paths, nil those of
// the cabinet.
func (w *walk) cabinet(r source, size int64, prefix, name string, names func(string) string) error {
	c, err := cabinet.Open(r, size)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	var open io.WriteCloser
	finish := func() error {
		if open == nil {
			return nil
		}
		err := open.Close()
		open = nil
		return err
	}
	err = c.Extract(func(f cabinet.File) (io.Writer, error) {
		if err := finish(); err != nil {
			return nil, err
		}
		at := path.Join(prefix, f.Name)
		if names != nil {
			at = path.Join(prefix, names(f.Name))
		}
		out, err := w.take(Item{Path: at, Kind: kindOf(f.Name), Size: f.Size, Where: "cabinet " + name})
		if err != nil || out == nil {
			return nil, err
		}
		open = out
		return out, nil
	})
	err = errors.Join(err, finish())
	if err != nil {
		return fmt.Errorf("cabinet %s: %w", name, err)
	}
	return nil
}

// kindOf tells an item's kind from its name.
func kindOf(name string) Kind {
	switch strings.ToLower(path.Ext(name)) {
	case ".msi", ".msm":
		return PackageKind
	case ".msp":
		return PatchKind
	case ".mst":
		return MstKind
	case ".cab":
		return CabinetKind
	case ".zip":
		return ArchiveKind
	case ".exe":
		return ProgramKind
	}
	return FileKind
}

// archive goes through a zip.
func (w *walk) archive(r source, size int64, prefix, name string, depth int) error {
	z, err := zip.NewReader(r, size)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return fmt.Errorf("archive %s: %w", name, err)
	}
	for _, f := range z.File {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		i := Item{Path: path.Join(prefix, f.Name), Kind: kindOf(f.Name), Size: int64(f.UncompressedSize64), Where: "archive " + name}
		if err := w.put(i, func() (io.Reader, error) { return f.Open() }); err != nil {
			return fmt.Errorf("archive %s, %q: %w", name, f.Name, err)
		}
	}
	return nil
}

// About says what a package or patch is, for lists.
func About(r io.ReaderAt, size int64) (Kind, string, error) {
	db, err := installdb.Open(r, size)
	if err != nil {
		return "", "", err
	}
	s, err := db.Summary()
	if err != nil {
		return "", "", err
	}
	switch db.Format {
	case installdb.Patch:
		p, err := db.PatchInfo()
		return PatchKind, fmt.Sprintf("patch %s for %s", p.Code, strings.Join(p.Targets, ", ")), err
	case installdb.Transform:
		return MstKind, "a transform", nil
	}
	text := s.Text(installdb.SummarySubject)
	if values, err := db.Properties(); err == nil && values["ProductName"] != "" {
		text = strings.TrimSpace(values["ProductName"] + " " + values["ProductVersion"] + " " + values["ProductCode"])
	}
	return PackageKind, text, nil
}

// folder goes through an unpacked folder: its packages, patches, cabinets and
// programs are items, and are not looked into.
func (w *walk) folder(dir string) error {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return err
	}
	defer root.Close()
	return fs.WalkDir(root.FS(), ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || !d.Type().IsRegular() || kindOf(p) == FileKind {
			return err
		}
		f, err := root.Open(p)
		if err != nil {
			return err
		}
		defer f.Close()
		info, err := f.Stat()
		if err != nil {
			return err
		}
		i := Item{Path: p, Kind: kindOf(p), Size: info.Size(), Where: "folder"}
		if kind, about, err := About(f, info.Size()); err == nil {
			i.Kind, i.About = kind, about
		}
		return w.put(i, func() (io.Reader, error) { return io.NewSectionReader(f, 0, info.Size()), nil })
	})
}
