package remedy

import (
	"fmt"

	"hollowkey/core/machine"
)

// Steps that take something away; the journal keeps what is needed to put it
// back.

func wantUnset(_ machine.Machine, _ Step, now State) (State, error) {
	return State{Registry: &ValueState{KeyThere: now.Registry.KeyThere}}, nil
}

func unsetWords(s Step) string {
	return fmt.Sprintf("take the value %s of %s away", s.Args["name"], shortKey(s.Args["key"]))
}

func wantAway(machine.Machine, Step, State) (State, error) { return State{File: &FileState{}}, nil }

func awayWords(s Step) string { return "take " + s.Target + " away" }

func awayLines(st State, _ machine.Accounts) []string {
	if !st.File.There {
		return []string{"the file is absent"}
	}
	return []string{fmt.Sprintf("file of %d bytes", len(st.File.Contents))}
}
