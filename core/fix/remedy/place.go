package remedy

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
// quarantine and comes back when the step is taken back. States are told by the
// hash.

func placeSource(s Step) cached.Source {
	return cached.Source{Path: s.Args["from"], Inside: s.Args["inside"]}
}

func hashOf(r io.Reader) (string, error) {
	h := sha256.New()
	_, err := io.Copy(h, r)
	return "sha256 " + hex.EncodeToString(h.Sum(nil)), err
}

func readPlace(m machine.Machine, s Step) (State, error) {
	f, err := m.Open(s.Target)
	if errors.Is(err, fs.ErrNotExist) {
		return State{File: &FileState{}}, nil
	}
	if err != nil {
		return State{}, err
	}
	defer f.Close()
	code, err := hashOf(f)
	return State{File: &FileState{There: true, Code: code}}, err
}

func wantPlace(_ machine.Machine, s Step, _ State) (State, error) {
	f, err := placeSource(s).Open()
	if err != nil {
		return State{}, err
	}
	defer f.Close()
	code, err := hashOf(io.NewSectionReader(f, 0, f.Size))
	if err == nil && s.Args["sha256"] != "" && code != "sha256 "+s.Args["sha256"] {
		err = fmt.Errorf("%s has changed since it was chosen: its hash is %s", s.Args["from"], code)
	}
	return State{File: &FileState{There: true, Code: code}}, err
}

func writePlace(m machine.Machine, s Step, to State) error {
	now, err := readPlace(m, s)
	if err != nil {
		return err
	}
	want, err := wantPlace(m, s, State{})
	forward := err == nil && to.File.There && want.File.Code == to.File.Code
	switch {
	case forward && now.File.There:
		info, err := m.Stat(s.Target)
		if err != nil {
			return err
		}
		if _, err := keepAll(m, s.keep, []machine.FileInfo{info}); err != nil {
			return err
		}
	case !forward && to.File.There: // back to the file that was set aside
		if now.File.There {
			if err := m.RemoveFile(s.Target); err != nil {
				return err
			}
		}
		return bringBack(m, s)
	case !to.File.There:
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

func placeWords(s Step) string {
	from := s.Args["from"]
	if i := s.Args["inside"]; i != "" {
		from += " (inside: " + i + ")"
	}
	return fmt.Sprintf("put %s in place as %s", from, s.Target)
}

func placeLines(st State, _ machine.Accounts) []string {
	if !st.File.There {
		return []string{"the file is absent"}
	}
	return []string{"file, " + st.File.Code}
}
