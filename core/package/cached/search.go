// This file looks for the very file of an entry, by what it holds and not by
// its name.

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

	"hollowkey/core/bounded"
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
// that was found, by its code; skipped tells of files that could not be read,
// and of those that have the name of one that is looked for and are damaged.
// watch is told how many bytes there are, and gives what hears of those that
// were looked at; it may be nil.
func Search(from []string, wanted []Entry,
	watch func(total int64) (add func(n int64), stop func())) (found map[string]Source, skipped []string, err error) {
	s := &search{wanted: wanted, found: map[string]Source{}}
	var files []file
	total := int64(0)
	for _, root := range from {
		if _, err := os.Stat(root); err != nil {
			return nil, nil, fmt.Errorf("%w\nhint: name a folder or file that can be searched", err)
		}
		err := filepath.WalkDir(root, func(p string, d fs.DirEntry, err error) error {
			if err != nil {
				s.skipped = append(s.skipped, bounded.Words(err))
				return nil
			}
			if len(files) >= maxFiles {
				return fmt.Errorf("%s holds more than %d files\nhint: name a folder below it", root, maxFiles)
			}
			if d.Type().IsRegular() && endings[strings.ToLower(filepath.Ext(p))] {
				size := int64(0)
				if info, err := d.Info(); err == nil {
					size = info.Size()
				}
				files = append(files, file{p, size})
				total += size
			}
			return nil
		})
		if err != nil {
			return nil, s.skipped, err
		}
	}
	add := func(int64) {}
	if watch != nil && len(wanted) > 0 {
		var stop func()
		add, stop = watch(total)
		defer stop()
	}
	for _, f := range files {
		if len(s.found) == len(wanted) {
			break
		}
		if err := s.look(f.path); err != nil {
			return nil, s.skipped, err
		}
		add(f.size)
	}
	return s.found, s.skipped, nil
}

// A file is one to look at.
type file struct {
	path string
	size int64 // bytes
}

// endings are those of the files that are looked at: packages, patches, and
// what carries them. Updates that were unpacked have files without one.
var endings = map[string]bool{".msi": true, ".msp": true, "": true, ".exe": true, ".cab": true, ".zip": true}

type search struct {
	wanted  []Entry           // those to be found
	found   map[string]Source // by code
	skipped []string          // what could not be read, and why
}

// look looks at one file; trouble with it is noted, not fatal.
func (s *search) look(p string) error {
	switch strings.ToLower(filepath.Ext(p)) {
	case ".msi", ".msp", "":
		f, err := os.Open(p)
		if err != nil {
			s.skipped = append(s.skipped, bounded.Words(err))
			return nil
		}
		defer f.Close()
		info, err := f.Stat()
		if err != nil {
			return err
		}
		id, err := Identify(f, info.Size())
		if err != nil { // no package, or one that cannot be read
			if s.named(p) {
				s.skipped = append(s.skipped, fmt.Sprintf("%s has the name of one that is looked for, and is damaged: %v", p, err))
			}
			return nil
		}
		return s.take(id, Source{Path: p, Size: info.Size(), Code: id.Code})
	case ".exe", ".cab", ".zip":
		return s.lookInside(p)
	}
	return nil
}

// named says whether a file has the name that one which is looked for had where
// it was last installed from.
func (s *search) named(p string) bool {
	for _, e := range s.wanted {
		if _, done := s.found[e.Code]; !done && e.SourceName != "" && strings.EqualFold(filepath.Base(p), e.SourceName) {
			return true
		}
	}
	return false
}

// lookInside takes the packages out of a wrapper, one by one, into a temporary
// file.
func (s *search) lookInside(p string) error {
	list, err := unpack.List(p)
	if err != nil {
		if !errors.Is(err, unpack.ErrNothing) {
			s.skipped = append(s.skipped, bounded.Words(err))
		}
		return nil
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

// take notes a source for every entry that is still missing one and that it
// fits, with the hash by which it is known again when it is copied.
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
