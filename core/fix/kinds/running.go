// This file has the steps that end programs and sessions.

package kinds

import (
	"errors"
	"fmt"
	"io/fs"
	"strconv"
	"strings"

	"hollowkey/core/machine"
)

// RunningState are the processes or sessions that a step ends.
type RunningState struct {
	Who []string `json:"who"` // in words, for the preview
	IDs []int    `json:"ids"` // process or session numbers; empty: nobody
}

// runningFamily has the rows that end something which runs: a program or a
// session. Undo cannot bring either back, and says so.
func runningFamily() family {
	return define(func() *RunningState { return &RunningState{} },
		row[*RunningState]{want: wantNobody},
		row[*RunningState]{name: "end-process", read: readProcess, write: writeProcess, words: processWords},
		row[*RunningState]{name: "sign-out", read: readSession, write: writeSession, words: sessionWords})
}

func (*RunningState) family() string { return "running" }

// plain gives the state as it is: whoever runs, by name and number.
func (st *RunningState) plain() Fact { return st }

// powerShell ends those that were found, by their numbers.
func (st *RunningState) powerShell(s Step, from Fact) (lines []string, err error) {
	for _, id := range from.(*RunningState).IDs {
		command := []string{"logoff.exe", fmt.Sprint(id)}
		if s.Kind == "end-process" {
			command = []string{"taskkill.exe", "/F", "/PID", fmt.Sprint(id)}
		}
		call, err := psCall(command...)
		if err != nil {
			return nil, err
		}
		lines = append(lines, call...)
	}
	return lines, nil
}

// command has no answer: a number of a process is another process's by the time
// that a script runs.
func (st *RunningState) command(Step, Fact) ([]string, error) { return nil, errNoCommand }

// readProcess finds the one program by its file name or number.
func readProcess(m machine.Machine, s Step) (*RunningState, error) {
	all, err := m.Processes()
	if err != nil {
		return nil, err
	}
	st := &RunningState{Who: []string{}, IDs: []int{}}
	for _, p := range all {
		if strings.EqualFold(p.Name, s.Target) || strconv.Itoa(p.ID) == s.Target {
			if s.Target != p.Name && (Step{Kind: "end-process", Target: p.Name}).refuse() != nil {
				return nil, fmt.Errorf("process %d is %s, without which the OS does not run", p.ID, p.Name)
			}
			st.Who = append(st.Who, strings.TrimSpace(fmt.Sprintf("%s, process %d, of %s", p.Name, p.ID, orSome(p.User))))
			st.IDs = append(st.IDs, p.ID)
		}
	}
	return st, nil
}

// orSome stands in where the OS does not say whose a process is: another
// session's, seen without elevation.
func orSome(user string) string {
	if user == "" {
		return "some account"
	}
	return user
}

// wantNobody wants that none runs.
func wantNobody(machine.Machine, Step, *RunningState) (*RunningState, error) {
	return &RunningState{Who: []string{}, IDs: []int{}}, nil
}

// writeProcess asks again who runs and ends those. One that is gone meanwhile
// is what was wanted.
func writeProcess(m machine.Machine, s Step, _ *RunningState) error {
	now, err := readProcess(m, s)
	if err != nil {
		return err
	}
	for _, id := range now.IDs {
		if err := m.EndProcess(id); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

// processWords says the step to a person, with the program's name and number.
func processWords(s Step) string { return "end the program " + s.Target }

// readSession finds the sessions of a user. The one that this program runs in
// is refused: signing it out would end the work in the middle.
func readSession(m machine.Machine, s Step) (*RunningState, error) {
	all, err := m.Sessions()
	if err != nil {
		return nil, err
	}
	st := &RunningState{Who: []string{}, IDs: []int{}}
	for _, o := range all {
		if !strings.EqualFold(o.User, s.Target) {
			continue
		}
		if o.Own {
			return nil, fmt.Errorf("session %d of %s is the one that this program runs in", o.ID, o.User)
		}
		state := "in the background"
		if o.Active {
			state = "active"
		}
		st.Who = append(st.Who, fmt.Sprintf("%s, session %d, %s", o.User, o.ID, state))
		st.IDs = append(st.IDs, o.ID)
	}
	return st, nil
}

// writeSession signs the sessions out that are there now.
func writeSession(m machine.Machine, s Step, _ *RunningState) error {
	now, err := readSession(m, s)
	if err != nil {
		return err
	}
	for _, id := range now.IDs {
		if err := m.SignOut(id); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

// sessionWords says the step to a person, by the account's name.
func sessionWords(s Step) string { return "sign " + s.Target + " out" }

// Lines tells who runs; nobody is told too, since that is what the step is to
// reach.
func (st *RunningState) Lines(_ machine.Accounts) []string {
	if len(st.Who) == 0 {
		return []string{"does not run"}
	}
	return st.Who
}
