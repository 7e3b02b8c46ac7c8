// This file has the step that puts a file in place that was found elsewhere.

package kinds

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"

	"hollowkey/core/machine"
	"hollowkey/core/package/cached"
)

// A "place" step puts a file of this computer, or one that a wrapper carries,
// into its place on the machine. A file that is there goes into the case's
// quarantine and comes back when the step is undone. States are told by the
// hash.

// placeSource is the file that is put in place: on this computer, or inside a
// package or setup program there.
func placeSource(s Step) cached.Source {
	return cached.Source{Path: s.Args["from"], Inside: s.Args["inside"]}
}

// hashMark begins the code of a file that is told by its hash.
const hashMark = "sha256 "

// hashOf reads to the end and gives the code by which a placed file is told.
func hashOf(r io.Reader) (string, error) {
	h := sha256.New()
	_, err := io.Copy(h, r)
	return hashMark + hex.EncodeToString(h.Sum(nil)), err
}

// readPlace tells what stands at the target by its hash; contents of cached
// packages run to hundreds of megabytes, more than a journal should hold.
func readPlace(m machine.Machine, s Step) (*FileState, error) {
	f, err := m.Open(s.Target)
	if errors.Is(err, fs.ErrNotExist) {
		return &FileState{}, nil
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	code, err := hashOf(f)
	return &FileState{There: true, Code: code}, err
}

// wantPlace hashes the source again at the last moment. A source that has
// changed since it was chosen is not the file that was shown.
func wantPlace(_ machine.Machine, s Step, _ *FileState) (*FileState, error) {
	f, err := placeSource(s).Open()
	if err != nil {
		return nil, err
	}
	defer f.Close()
	code, err := hashOf(io.NewSectionReader(f, 0, f.Size))
	if err == nil && s.Args["sha256"] != "" && code != hashMark+s.Args["sha256"] {
		err = fmt.Errorf("%s has changed since it was chosen: its hash is %s", s.Args["from"], code)
	}
	return &FileState{There: true, Code: code}, err
}

// writePlace works for both directions: it asks whether the wanted state is the
// source's, and else brings back what was set aside, or takes the file away.
func writePlace(m machine.Machine, s Step, to *FileState) error {
	now, err := readPlace(m, s)
	if err != nil {
		return err
	}
	want, err := wantPlace(m, s, nil)
	// By its contents it is told whether this is the way there or the way back.
	forward := err == nil && to.There && want.Code == to.Code
	switch {
	case forward && now.There:
		info, err := m.Stat(s.Target)
		if err != nil {
			return err
		}
		if _, err := keepAll(m, s.Keep, []machine.FileInfo{info}); err != nil {
			return err
		}
	case !forward && to.There: // back to the file that was set aside
		if now.There {
			if err := m.RemoveFile(s.Target); err != nil {
				return err
			}
		}
		return bringBack(m, s)
	case !to.There:
		return m.RemoveFile(s.Target)
	}
	f, err := placeSource(s).Open()
	if err != nil {
		return err
	}
	defer f.Close()
	return m.WriteFile(s.Target, func(out *os.File) error {
		_, err := io.Copy(out, io.NewSectionReader(f, 0, f.Size))
		return err
	})
}

// placeWords says the step to a person: from which file, or from inside which
// archive, it is put where.
func placeWords(s Step) string {
	from := s.Args["from"]
	if i := s.Args["inside"]; i != "" {
		from += " (inside: " + i + ")"
	}
	return fmt.Sprintf("put %s in place as %s", from, s.Target)
}
