package remedy

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strings"

	"hollowkey/core/machine"
)

// PlaceState is what stands at a path, and at those above it.
type PlaceState struct {
	Levels []string `json:"levels"` // absent, folder, or empty file; the outermost first
}

const (
	levelAbsent = "absent"
	levelFolder = "folder"
	levelEmpty  = "empty file"
)

// levels are the paths from the first folder below the drive down to the target.
func levels(target string) (paths []string, err error) {
	drive, names, err := machine.SplitPath(target)
	for i := range names {
		paths = append(paths, drive+`:\`+strings.Join(names[:i+1], `\`))
	}
	return paths, err
}

func readFolder(m machine.Machine, s Step) (State, error) {
	paths, err := levels(s.Target)
	if err != nil {
		return State{}, err
	}
	st := &PlaceState{}
	for _, p := range paths {
		info, err := m.Stat(p)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			st.Levels = append(st.Levels, levelAbsent)
		case err != nil:
			return State{}, err
		case info.Folder:
			st.Levels = append(st.Levels, levelFolder)
		case info.Size > 0:
			return State{}, fmt.Errorf("%s is a file of %d bytes, not a folder\nhint: look what it is; the step quarantine path=%s moves it into the case", p, info.Size, p)
		default:
			st.Levels = append(st.Levels, levelEmpty)
		}
	}
	return State{Place: st}, nil
}

func wantFolder(_ machine.Machine, _ Step, now State) (State, error) {
	st := &PlaceState{}
	for range now.Place.Levels {
		st.Levels = append(st.Levels, levelFolder)
	}
	return State{Place: st}, nil
}

func writeFolder(m machine.Machine, s Step, to State) error {
	now, err := readFolder(m, s)
	if err != nil {
		return err
	}
	paths, err := levels(s.Target)
	if err != nil {
		return err
	}
	if len(paths) != len(to.Place.Levels) {
		return fmt.Errorf("%s: the state has %d levels", s.Target, len(to.Place.Levels))
	}
	for i := len(paths) - 1; i >= 0; i-- { // what is in the way goes, the innermost first
		if is := now.Place.Levels[i]; is != levelAbsent && is != to.Place.Levels[i] {
			if err := m.RemoveFile(paths[i]); err != nil {
				return err
			}
		}
	}
	for i, p := range paths {
		if now.Place.Levels[i] == to.Place.Levels[i] {
			continue
		}
		var err error
		switch to.Place.Levels[i] {
		case levelFolder:
			err = m.MakeFolder(p)
		case levelEmpty:
			err = m.WriteFile(p, func(*os.File) error { return nil })
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func folderWords(s Step) string {
	return "make the folder " + s.Target + " (an empty file in its place goes away)"
}

func folderLines(st State, _ machine.Accounts) []string {
	last := st.Place.Levels[len(st.Place.Levels)-1]
	missing := 0
	for _, l := range st.Place.Levels[:len(st.Place.Levels)-1] {
		if l != levelFolder {
			missing++
		}
	}
	switch {
	case missing > 0:
		return []string{fmt.Sprintf("%s; %d folders above it are no folders either", last, missing)}
	case last == levelAbsent:
		return []string{"nothing is there"}
	}
	return []string{"a" + map[bool]string{true: "n", false: ""}[last == levelEmpty] + " " + last}
}
