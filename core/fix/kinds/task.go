// This file has the steps on scheduled tasks.

package kinds

import (
	"errors"
	"fmt"
	"strings"

	"hollowkey/core/machine"
)

// TaskState is a task of the scheduler, or its absence.
type TaskState struct {
	There   bool             `json:"there"`             // false: no such task
	Task    machine.Task     `json:"task"`              // all that makes it again
	Section *machine.Section `json:"section,omitempty"` // of a twin's file
}

// taskFamily has the rows about one scheduled task: whether it is switched on,
// and whether it is there at all.
func taskFamily() family {
	return define(func() *TaskState { return &TaskState{} },
		row[*TaskState]{read: readTask, write: writeTask},
		row[*TaskState]{name: "task", want: wantTask, words: taskWords},
		row[*TaskState]{name: "remove-task", want: wantNoTask, words: noTaskWords})
}

func (*TaskState) family() string { return "task" }

// plain leaves out the definition as it stands in a twin's file.
func (st *TaskState) plain() Fact {
	p := *st
	p.Section = nil
	return &p
}

// powerShell deletes, makes or switches the task. A task of which the
// definition was not read cannot be made again, and that is an error, not a
// task with less in it.
func (st *TaskState) powerShell(s Step, from Fact) ([]string, error) {
	folder, name := s.Target[:strings.LastIndexByte(s.Target, '\\')+1], baseOf(s.Target)
	which := " -TaskPath " + PS(folder) + " -TaskName " + PS(name)
	there := from.(*TaskState).There
	switch {
	case !st.There:
		return []string{"Unregister-ScheduledTask" + which + " -Confirm:$false"}, nil
	case !there && st.Task.Definition == "":
		return nil, errors.New("the task's definition is not known, so a script cannot make it again")
	case !there:
		return []string{"[void](Register-ScheduledTask" + which + " -Xml " + PS(st.Task.Definition) + ")"}, nil
	case st.Task.Enabled:
		return []string{"[void](Enable-ScheduledTask" + which + ")"}, nil
	}
	return []string{"[void](Disable-ScheduledTask" + which + ")"}, nil
}

// command deletes or switches a task; making one again needs its definition,
// which a command file cannot carry.
func (st *TaskState) command(s Step, from Fact) ([]string, error) {
	switch {
	case !st.There:
		return cmdCall("schtasks.exe /Delete /F /TN", s.Target)
	case from.(*TaskState).There:
		return cmdCall("schtasks.exe /Change /TN", s.Target, map[bool]string{true: "/ENABLE", false: "/DISABLE"}[st.Task.Enabled])
	}
	return nil, errNoCommand
}

// readTask finds a task by its path; of a twin its text goes along, so that a
// task that was deleted comes back to the byte.
func readTask(m machine.Machine, s Step) (*TaskState, error) {
	all, err := m.Tasks()
	if err != nil {
		return nil, err
	}
	st := &TaskState{}
	for _, t := range all {
		if !strings.EqualFold(t.Path, s.Target) {
			continue
		}
		st.There, st.Task = true, t
		if v, ok := m.(machine.Verbatim); ok {
			if st.Section, err = v.Section("task", t.Path); err != nil {
				return nil, err
			}
		}
	}
	return st, nil
}

// wantTask switches a task. Its definition names the switch as well and is not
// compared afterwards: what the OS will write there is its own affair.
func wantTask(_ machine.Machine, s Step, now *TaskState) (*TaskState, error) {
	if !now.There {
		return nil, fmt.Errorf("there is no task %s", s.Target)
	}
	want := *now
	want.Section = nil
	switch s.Args["state"] {
	case "on":
		want.Task.Enabled = true
	case "off":
		want.Task.Enabled = false
	default:
		return nil, fmt.Errorf("state=%q is not on or off", s.Args["state"])
	}
	if want.Task.Enabled == now.Task.Enabled {
		return now, nil
	}
	// The definition names the switch, too; what it will say is for the OS.
	want.Task.Definition = ""
	return &want, nil
}

// wantNoTask refuses the OS's own tasks, which stand below one folder.
func wantNoTask(_ machine.Machine, s Step, now *TaskState) (*TaskState, error) {
	if strings.HasPrefix(strings.ToLower(s.Target), `\microsoft\windows\`) {
		return nil, fmt.Errorf("the task %s is a part of the OS, so it is not deleted", s.Target)
	}
	return &TaskState{}, nil
}

// writeTask deletes, switches or makes the task, as its state asks.
func writeTask(m machine.Machine, s Step, to *TaskState) error {
	now, err := readTask(m, s)
	if err != nil {
		return err
	}
	switch {
	case !to.There && now.There:
		return m.DeleteTask(s.Target)
	case to.There && now.There:
		return m.SetTaskEnabled(s.Target, to.Task.Enabled)
	case !to.There:
		return nil
	}
	if v, ok := m.(machine.Verbatim); ok && to.Section != nil {
		return v.PutSection("task", *to.Section)
	}
	return m.CreateTask(to.Task)
}

// taskWords says the step to a person: on or off.
func taskWords(s Step) string { return "switch the task " + s.Target + " " + s.Args["state"] }

// noTaskWords says the step to a person, with the task's whole path in the
// library.
func noTaskWords(s Step) string { return "delete the task " + s.Target }

// Lines tells the task for a preview: what it runs first, since its name seldom
// says it.
func (st *TaskState) Lines(_ machine.Accounts) []string {
	if !st.There {
		return []string{"the task is absent"}
	}
	on := "off"
	if st.Task.Enabled {
		on = "on"
	}
	return []string{"runs " + st.Task.Runs, "switched " + on}
}
