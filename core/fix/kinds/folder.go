// This file has the step that makes a folder with those above it.

package kinds

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strings"

	"hollowkey/core/machine"
)

// folderFamily has one row: that a folder is there. Undo takes it away only
// while it is empty, which the writer looks at.
func folderFamily() family {
	return define(func() *PlaceState { return &PlaceState{} },
		row[*PlaceState]{}, row[*PlaceState]{name: "folder", read: readFolder, want: wantFolder, write: writeFolder, words: folderWords})
}

func (*PlaceState) family() string { return "place" }

// plain gives the state as it is: there, or not there.
func (st *PlaceState) plain() Fact { return st }

// powerShell makes the folders from above, or undoes those that were made.
func (st *PlaceState) powerShell(s Step, from Fact) (lines []string, err error) {
	was := from.(*PlaceState)
	paths, err := levels(s.Target)
	if err != nil {
		return nil, err
	}
	for i := len(paths) - 1; i >= 0; i-- {
		if was.Levels[i] != levelAbsent && was.Levels[i] != st.Levels[i] {
			lines = append(lines, "Remove-Item -LiteralPath "+PS(paths[i]))
		}
	}
	for i, p := range paths {
		switch {
		case was.Levels[i] == st.Levels[i]:
		case st.Levels[i] == levelFolder:
			lines = append(lines, "[void](New-Item -ItemType Directory -Path "+PS(p)+")")
		case st.Levels[i] == levelEmpty:
			lines = append(lines, "[IO.File]::WriteAllBytes("+PS(p)+", [byte[]]@())")
		}
	}
	return lines, nil
}

// command has no answer; a script for PowerShell makes the folder.
func (st *PlaceState) command(Step, Fact) ([]string, error) { return nil, errNoCommand }

// PlaceState is what stands at a path, and at those above it.
type PlaceState struct {
	Levels []string `json:"levels"` // absent, folder, or empty file; the outermost first
}

const (
	// What stood at a folder's place before the step: undo puts exactly that
	// back.
	levelAbsent = "absent"
	levelFolder = "folder"
	levelEmpty  = "empty file"
)

// levels are the paths from the first folder below the drive down to the
// target.
func levels(target string) (paths []string, err error) {
	drive, names, err := machine.SplitPath(target)
	for i := range names {
		paths = append(paths, drive+`:\`+strings.Join(names[:i+1], `\`))
	}
	return paths, err
}

// readFolder looks at every level, for the file in the way may stand above the
// target. One with contents stops the step: somebody may need it, and the
// quarantine step is there for it.
func readFolder(m machine.Machine, s Step) (*PlaceState, error) {
	paths, err := levels(s.Target)
	if err != nil {
		return nil, err
	}
	st := &PlaceState{}
	for _, p := range paths {
		info, err := m.Stat(p)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			st.Levels = append(st.Levels, levelAbsent)
		case err != nil:
			return nil, err
		case info.Folder:
			st.Levels = append(st.Levels, levelFolder)
		case info.Size > 0:
			return nil, fmt.Errorf("%s is a file of %d bytes, not a folder\n"+
				"hint: look what it is; the step quarantine path=%s moves it into the case", p, info.Size, p)
		default:
			st.Levels = append(st.Levels, levelEmpty)
		}
	}
	return st, nil
}

// wantFolder wants a folder at each level; which of them are made and which
// empty files give way follows from what was found.
func wantFolder(_ machine.Machine, _ Step, now *PlaceState) (*PlaceState, error) {
	st := &PlaceState{}
	for range now.Levels {
		st.Levels = append(st.Levels, levelFolder)
	}
	return st, nil
}

// writeFolder goes down to the innermost level before it takes anything away,
// then up again: at no moment does a folder stand inside a file that is to go.
func writeFolder(m machine.Machine, s Step, to *PlaceState) error {
	now, err := readFolder(m, s)
	if err != nil {
		return err
	}
	paths, err := levels(s.Target)
	if err != nil {
		return err
	}
	if len(paths) != len(to.Levels) {
		return fmt.Errorf("%s: the state has %d levels", s.Target, len(to.Levels))
	}
	for i := len(paths) - 1; i >= 0; i-- { // what is in the way goes, the innermost first
		if is := now.Levels[i]; is != levelAbsent && is != to.Levels[i] {
			if err := m.RemoveFile(paths[i]); err != nil {
				return err
			}
		}
	}
	for i, p := range paths {
		if now.Levels[i] == to.Levels[i] {
			continue
		}
		var err error
		switch to.Levels[i] {
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

// folderWords says the step to a person, with the whole path.
func folderWords(s Step) string {
	return "make the folder " + s.Target
}

// Lines tells the innermost level, and how many above it are in the way as
// well.
func (st *PlaceState) Lines(_ machine.Accounts) []string {
	last := st.Levels[len(st.Levels)-1]
	missing, empty := 0, false
	for _, l := range st.Levels[:len(st.Levels)-1] {
		missing += map[bool]int{true: 1}[l == levelAbsent]
		empty = empty || l == levelEmpty
	}
	switch {
	case empty:
		return []string{"an empty file stands where a folder above it must be"}
	case missing == 1:
		return []string{"nothing is there, and the folder above it is not there either"}
	case missing > 1:
		return []string{fmt.Sprintf("nothing is there, and %d folders above it are not there either", missing)}
	case last == levelAbsent:
		return []string{"nothing is there"}
	}
	return []string{"a" + map[bool]string{true: "n", false: ""}[last == levelEmpty] + " " + last}
}
