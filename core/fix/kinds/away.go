// This file has the step that takes one file away; the journal keeps it whole.

package kinds

import (
	"fmt"

	"hollowkey/core/machine"
)

// A file that is taken away; the journal keeps its contents.

// readAway keeps the whole file, for the journal is all that can bring it back;
// the preview tells its size, not its contents.
func readAway(m machine.Machine, s Step) (*FileState, error) {
	st, err := readFile(m, s)
	if err == nil && st.There {
		st.Show = []string{fmt.Sprintf("file of %d bytes", len(st.Contents))}
	}
	return st, err
}

// wantAway is the state of a file that is not there: what undo has to know is
// in the state that was read before.
func wantAway(machine.Machine, Step, *FileState) (*FileState, error) { return &FileState{}, nil }

// awayWords says the step to a person. Where the file is kept meanwhile is the
// journal's concern.
func awayWords(s Step) string { return "take " + s.Target + " away" }
