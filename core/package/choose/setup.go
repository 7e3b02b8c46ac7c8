// This file opens what somebody points at as what it is.

package choose

import (
	"errors"
	"io"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/apppack"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/whole"
)

// A Setup is what somebody points at to be set up, opened as what it is.
type Setup struct {
	Path     string              // of the setup file
	Others   []Candidate         // of the folder that was pointed at, the chosen first; empty for a file
	Whole    *whole.Report       // what is wrong with the file
	Database *installdb.Database // nil where it is no package, or one that cannot be read
	App      *apppack.Package    // nil where it is no app package
	close    []io.Closer
}

// Close closes what is open.
func (s *Setup) Close() error {
	var err error
	for _, c := range s.close {
		err = errors.Join(err, c.Close())
	}
	return err
}

// Open opens a setup for a machine, which may be nil: a file, or a folder, of
// which the setup for that machine is taken. A file that is damaged is no
// error: its report says so. Of a large file the sums over all contents are
// compared only where it is to be looked at deep.
func Open(path string, m machine.Machine, deep bool) (*Setup, error) {
	s := &Setup{Path: path}
	folder, err := isFolder(path, m)
	if err != nil {
		return nil, err
	}
	if folder {
		if s.Others, err = From(path, m); err != nil {
			return nil, err
		}
		s.Path = s.Others[0].Path
	}
	at := placeOf(s.Path, m)
	f, err := at.open(s.Path)
	if err != nil {
		return nil, err
	}
	s.close = append(s.close, f)
	s.Whole = whole.Read(s.Path, f, f.size, func(name string) (io.ReaderAt, int64, func(), error) {
		b, err := at.open(at.beside(s.Path, name))
		if err != nil {
			return nil, 0, nil, err
		}
		return b, b.size, func() { b.Close() }, nil
	}, deep || f.size <= whole.Shallow)
	s.Whole.Marked()
	switch s.Whole.Kind {
	case whole.Database: // one that cannot be opened has its fault in the report
		s.Database = s.Whole.Database()
	case whole.Archive:
		p, err := apppack.Open(f, f.size)
		switch {
		case err == nil:
			s.App = p
		case isApp(s.Path) && s.Whole.Whole():
			s.Whole.Damage("its manifest cannot be read: %v", err)
		}
	}
	if s.App == nil && (s.Whole.Kind == whole.Program || s.Whole.Kind == whole.Archive) && s.Whole.Whole() &&
		(deep || f.size <= whole.Shallow) {
		err = s.carried()
	}
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// isFolder says whether a path is a folder, on the machine where it is one of
// the machine's.
func isFolder(path string, m machine.Machine) (bool, error) { return placeOf(path, m).folder(path) }

// Path is a setup file itself, or the one for a machine of the folder that path
// is. A path that is not there stays as it is, for whoever opens it to say so.
func Path(path string, m machine.Machine) (string, error) {
	if folder, err := isFolder(path, m); err != nil || !folder {
		return path, nil
	}
	list, err := From(path, m)
	if err != nil {
		return "", err
	}
	return list[0].Path, nil
}

// isApp says whether a file's name is one of an app package.
func isApp(path string) bool {
	low := strings.ToLower(path)
	for _, ending := range []string{".msix", ".appx", ".msixbundle", ".appxbundle"} {
		if strings.HasSuffix(low, ending) {
			return true
		}
	}
	return false
}
