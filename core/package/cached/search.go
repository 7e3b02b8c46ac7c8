package cached

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"hollowkey/core/package/unpack"
)

// A Source is where the very file of an entry was found: a file of this
// computer, or something inside of it.
type Source struct {
	Path   string `json:"path"`             // of this computer
	Inside string `json:"inside,omitempty"` // path of the item that a wrapper carries
	Size   int64  `json:"size"`             // bytes
	Hash   string `json:"sha256"`           // of the contents, in hex
	Code   string `json:"code"`             // package code or patch code
}

const maxFiles = 200_000 // files of the folders that are searched

// Search looks through folders and files of this computer for the files of
// entries: never by name alone, but by package code and patch code. Programs,
// cabinets and archives are looked into. The result has a source for each entry
// that was found, by its code; skipped tells of files that could not be read.
func Search(from []string, wanted []Entry) (found map[string]Source, skipped []string, err error) {
	s := &search{wanted: wanted, found: map[string]Source{}}
	for _, root := range from {
		err := filepath.WalkDir(root, func(p string, d fs.DirEntry, err error) error {
			if err != nil {
				s.skipped = append(s.skipped, err.Error())
				return nil
			}
			if s.files++; s.files > maxFiles {
				return fmt.Errorf("%s holds more than %d files\nhint: name a folder below it", root, maxFiles)
			}
			if !d.Type().IsRegular() || len(s.found) == len(wanted) {
				return nil
			}
			return s.look(p)
		})
		if err != nil {
			return nil, s.skipped, err
		}
	}
	return s.found, s.skipped, nil
}

type search struct {
	wanted  []Entry           // those to be found
	found   map[string]Source // by code
	skipped []string          // what could not be read, and why
	files   int               // looked at so far
}

// look looks at one file; trouble with it is noted, not fatal.
func (s *search) look(p string) error {
	switch strings.ToLower(filepath.Ext(p)) {
	case ".msi", ".msp", "":
		f, err := os.Open(p)
		if err != nil {
			s.skipped = append(s.skipped, err.Error())
			return nil
		}
		defer f.Close()
		info, err := f.Stat()
		if err != nil {
			return err
		}
		id, err := Identify(f, info.Size())
		if err != nil {
			return nil // no package
		}
		return s.take(id, Source{Path: p, Size: info.Size(), Code: id.Code})
	case ".exe", ".cab", ".zip":
		return s.lookInside(p)
	}
	return nil
}

// lookInside takes the packages out of a wrapper, one by one, into a temporary
// file.
func (s *search) lookInside(p string) error {
	list, err := unpack.List(p)
	if err != nil {
		return nil // nothing inside that we read
	}
	for _, i := range list {
		if i.Kind != unpack.PackageKind && i.Kind != unpack.PatchKind {
			continue
		}
		src := Source{Path: p, Inside: i.Path, Size: i.Size}
		f, err := src.Open()
		if err != nil {
			s.skipped = append(s.skipped, fmt.Sprintf("%s, %s: %v", p, i.Path, err))
			continue
		}
		id, err := Identify(f, f.Size)
		if err == nil {
			src.Code, src.Size = id.Code, f.Size
			err = s.take(id, src)
		}
		f.Close()
		if err != nil {
			s.skipped = append(s.skipped, fmt.Sprintf("%s, %s: %v", p, i.Path, err))
		}
	}
	return nil
}

// take notes a source for every entry that is still missing one and that it fits,
// with the hash by which it is known again when it is copied.
func (s *search) take(id Identity, src Source) error {
	for _, e := range s.wanted {
		if _, done := s.found[e.Code]; done || e.PackageCode == "" {
			continue
		}
		if state, _ := id.fits(e); state == Good {
			f, err := src.Open()
			if err != nil {
				return err
			}
			h := sha256.New()
			_, err = io.Copy(h, io.NewSectionReader(f, 0, f.Size))
			f.Close()
			if err != nil {
				return err
			}
			src.Hash = hex.EncodeToString(h.Sum(nil))
			s.found[e.Code] = src
		}
	}
	return nil
}

// An OpenSource is a source that is open for reading.
type OpenSource struct {
	*os.File
	Size int64 // bytes
	temp bool  // it was taken out of a wrapper and goes with Close
}

// Close closes the file, and deletes it when it was taken out of a wrapper.
func (f OpenSource) Close() error {
	err := f.File.Close()
	if f.temp {
		err = errors.Join(err, os.Remove(f.Name()))
	}
	return err
}

// Open opens a source; what is inside of a wrapper is taken out first.
func (src Source) Open() (OpenSource, error) {
	if src.Inside == "" {
		f, err := os.Open(src.Path)
		if err != nil {
			return OpenSource{}, err
		}
		info, err := f.Stat()
		if err != nil {
			f.Close()
			return OpenSource{}, err
		}
		return OpenSource{f, info.Size(), false}, nil
	}
	out, err := os.CreateTemp("", "hollowkey-*")
	if err != nil {
		return OpenSource{}, err
	}
	taken := false
	err = unpack.Walk(src.Path, func(i unpack.Item) (io.WriteCloser, error) {
		if i.Path != src.Inside {
			return nil, nil
		}
		taken = true
		return keepOpen{out}, nil
	})
	info, err2 := out.Stat()
	_, err3 := out.Seek(0, io.SeekStart)
	if err = errors.Join(err, err2, err3); err == nil && !taken {
		err = fmt.Errorf("%s holds no %s any more", src.Path, src.Inside)
	}
	if err != nil {
		out.Close()
		os.Remove(out.Name())
		return OpenSource{}, err
	}
	return OpenSource{out, info.Size(), true}, nil
}

type keepOpen struct{ io.Writer }

// Close leaves the file open: whoever made it reads it next.
func (keepOpen) Close() error { return nil }
