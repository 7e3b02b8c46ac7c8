package remedy

import (
	"fmt"
	"strings"

	"hollowkey/core/machine"
)

// TaskState is a task of the scheduler, or its absence.
type TaskState struct {
	There   bool             `json:"there"`
	Task    machine.Task     `json:"task"`
	Section *machine.Section `json:"section,omitempty"` // of a twin's file
}

func readTask(m machine.Machine, s Step) (State, error) {
	all, err := m.Tasks()
	if err != nil {
		return State{}, err
	}
	st := &TaskState{}
	for _, t := range all {
		if !strings.EqualFold(t.Path, s.Target) {
			continue
		}
		st.There, st.Task = true, t
		if v, ok := m.(machine.Verbatim); ok {
			if st.Section, err = v.Section("task", t.Path); err != nil {
				return State{}, err
			}
		}
	}
	return State{Task: st}, nil
}

func wantTask(_ machine.Machine, s Step, now State) (State, error) {
	if !now.Task.There {
		return State{}, fmt.Errorf("there is no task %s", s.Target)
	}
	want := *now.Task
	want.Section = nil
	switch s.Args["state"] {
	case "on":
		want.Task.Enabled = true
	case "off":
		want.Task.Enabled = false
	default:
		return State{}, fmt.Errorf("state=%q is not on or off", s.Args["state"])
	}
	if want.Task.Enabled == now.Task.Task.Enabled {
		return now, nil
	}
	// The definition names the switch, too; what it will say is for the OS.
	want.Task.Definition = ""
	return State{Task: &want}, nil
}

func wantNoTask(_ machine.Machine, s Step, now State) (State, error) {
	if strings.HasPrefix(strings.ToLower(s.Target), `\microsoft\windows\`) {
		return State{}, fmt.Errorf("the task %s is a part of the OS, so it is not deleted", s.Target)
	}
	return State{Task: &TaskState{}}, nil
}

func writeTask(m machine.Machine, s Step, to State) error {
	now, err := readTask(m, s)
	if err != nil {
		return err
	}
	switch {
	case !to.Task.There && now.Task.There:
		return m.DeleteTask(s.Target)
	case to.Task.There && now.Task.There:
		return m.SetTaskEnabled(s.Target, to.Task.Task.Enabled)
	case !to.Task.There:
		return nil
	}
	if v, ok := m.(machine.Verbatim); ok && to.Task.Section != nil {
		return v.PutSection("task", *to.Task.Section)
	}
	return m.CreateTask(to.Task.Task)
}

func taskWords(s Step) string   { return "switch the task " + s.Target + " " + s.Args["state"] }
func noTaskWords(s Step) string { return "delete the task " + s.Target }

func taskLines(st State, _ machine.Accounts) []string {
	if !st.Task.There {
		return []string{"the task is absent"}
	}
	on := "off"
	if st.Task.Task.Enabled {
		on = "on"
	}
	return []string{"runs " + st.Task.Task.Runs, "switched " + on}
}
