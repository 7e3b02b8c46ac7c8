// Package startup knows what starts with a machine beside the OS's own parts,
// holds it back and puts it back exactly, and hunts for the one that breaks a
// setup by halving.
package startup

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// Kind is how an item is started.
type Kind string

// The kinds.
const (
	Service Kind = "service"
	RunKey  Kind = "run key"
	Folder  Kind = "startup folder"
	Task    Kind = "logon task"
)

// An Item is one thing that starts with the machine or with the user.
type Item struct {
	ID    string `json:"id"`              // to name it by
	Kind  Kind   `json:"kind"`            // how it is started
	Name  string `json:"name"`            // as a person knows it
	Runs  string `json:"runs"`            // the program or file
	On    bool   `json:"on"`              // it starts now
	Where string `json:"where,omitempty"` // key or folder
	// Concern is why it is held only where it is named; empty for most.
	Concern Concern `json:"concern"`
}

// HoldName names the hold in the journal.
const HoldName = fix.StartupHold

// Where the OS looks for what it starts at logon; both views, since 32-bit
// setups write into the second.
var runKeys = []string{
	`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Run`,
	`HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Run`,
	`HKCU\Software\Microsoft\Windows\CurrentVersion\Run`,
}

const (
	commonStartup = `C:\ProgramData\Microsoft\Windows\Start Menu\Programs\StartUp`
	userStartup   = `\AppData\Roaming\Microsoft\Windows\Start Menu\Programs\Startup`
)

// Items lists what starts beside the OS's own parts, services first. notes tell
// what could not be read, and what is never held. It fails only where the
// services cannot be listed.
func Items(m machine.Machine) (items []Item, notes []string, err error) {
	names, err := m.ServiceNames()
	if err != nil {
		return nil, nil, err
	}
	slices.Sort(names)
	for _, n := range names {
		s, err := m.Service(n)
		if err != nil {
			notes = append(notes, fmt.Sprintf("the service %s cannot be read: %v", n, err))
			continue
		}
		if s.Start != machine.StartAutomatic {
			continue
		}
		if program, _ := machine.ServiceProgram(m, s); inOS(program) {
			continue
		}
		items = append(items, Item{ID: "service:" + s.Name, Kind: Service, Name: cmp.Or(s.Display, s.Name), Runs: s.Binary, On: true})
	}
	who := m.SignedIn()
	for _, k := range runKeys {
		values, err := m.Values(k)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			notes = append(notes, fmt.Sprintf("%s cannot be read: %v", k, err))
			continue
		}
		for _, v := range values {
			if v.Name != "" && !ofTheOS(m, v.Value.Words(), who) {
				items = append(items, Item{ID: "run:" + shortRun(k) + v.Name, Kind: RunKey, Name: v.Name, Runs: v.Value.Words(), On: true, Where: k})
			}
		}
	}
	folders := []string{commonStartup}
	if who != "" {
		if a, err := m.Account(who); err == nil && a.Profile != "" {
			folders = append(folders, a.Profile+userStartup)
		}
	}
	for _, f := range folders {
		list, err := m.ReadDir(f)
		if err != nil {
			if !errors.Is(err, fs.ErrNotExist) {
				notes = append(notes, fmt.Sprintf("%s cannot be read: %v", f, err))
			}
			continue
		}
		for _, i := range list {
			name := i.Path[strings.LastIndexByte(i.Path, '\\')+1:]
			if !i.Folder && !strings.EqualFold(name, "desktop.ini") {
				items = append(items, Item{ID: "file:" + name, Kind: Folder, Name: name, Runs: i.Path, On: true, Where: f})
			}
		}
	}
	tasks, err := m.Tasks()
	if err != nil {
		notes = append(notes, fmt.Sprintf("the scheduler's tasks cannot be read, so none is held: %v", err))
	}
	for _, t := range tasks {
		if t.AtLogon && t.Enabled && !ofTheOS(m, t.Runs, who) && !strings.HasPrefix(strings.ToLower(t.Path), `\microsoft\`) {
			id := "task:" + t.Path[strings.LastIndexByte(t.Path, '\\')+1:]
			if slices.ContainsFunc(items, func(o Item) bool { return o.ID == id }) {
				id = "task:" + t.Path
			}
			items = append(items, Item{ID: id, Kind: Task, Name: t.Path, Runs: t.Runs, On: true, Where: t.Path})
		}
	}
	concerns(m, items)
	return items, append(notes, "drivers and what policies start are not held"), nil
}

// shortRun tells values of one name in different keys apart.
func shortRun(key string) string {
	switch {
	case strings.Contains(key, "WOW6432Node"):
		return "32:"
	case strings.HasPrefix(key, "HKCU"):
		return "user:"
	}
	return ""
}

// osFolders are the OS's own, where only the OS and administrators write; its
// scanner has one beside the programs' data. Drivers are named below them
// without a drive.
var osFolders = []string{`c:\programdata\microsoft\windows defender\platform\`, `c:\program files\windows defender`, `c:\windows\`,
	`\systemroot\`, `system32\`}

// notOS are folders below the OS's where others put what they run.
var notOS = []string{`c:\windows\temp\`, `c:\windows\installer\`}

// ofTheOS says whether what a command line runs in the end is the OS's own: the
// library that the OS's host loads counts, and not the host.
func ofTheOS(m machine.Machine, line, user string) bool {
	program, _ := machine.CommandLine{Text: line, User: user}.Runs(m)
	if !strings.Contains(program, `\`) { // a host that is told no file, or a name that PATH leads to
		program = machine.CleanPath(machine.ProgramOf(machine.Expand(m, line, user)))
	}
	return inOS(program)
}

// inOS says whether a program lies where the OS keeps its own. The folders
// there to which anybody may add do not count.
func inOS(program string) bool {
	in := func(folders []string) bool {
		return slices.ContainsFunc(folders, func(f string) bool { return strings.HasPrefix(strings.ToLower(program), f) })
	}
	return in(osFolders) && !in(notOS)
}

// ErrNotElevated says that whoever calls may not change what starts with the
// machine.
var ErrNotElevated = errors.New("services and startup items of the machine can be held only by an administrator, from an elevated prompt")

// MayHold says whether what starts with a machine can be changed from here. One
// that does not tell is taken to let it.
func MayHold(m machine.Machine) error {
	if f := m.Facts(); !f.Elevated && f.Unknown["elevated"] == "" {
		return fmt.Errorf("%w; %s on %s is none", ErrNotElevated, cmp.Or(m.SignedIn(), "whoever is signed in"), m.Name())
	}
	return nil
}

// Hold drafts the plan that keeps items from starting. Services only get
// another start type: those that run go on until the next restart. What cannot
// be held is left out and told.
func Hold(m machine.Machine, items []Item) (p fix.Plan, left []string, err error) {
	if err := MayHold(m); err != nil {
		return p, nil, err
	}
	var steps []step.Model
	for _, i := range items {
		var s step.Model
		switch i.Kind {
		case Service:
			s = step.New("service", "name", strings.TrimPrefix(i.ID, "service:"), "start", string(machine.StartDisabled))
		case RunKey:
			s = step.New("unset", "key", i.Where, "name", i.Name)
		case Task:
			s = step.New("task", "path", i.Name, "state", "off")
		case Folder:
			s = step.New("away", "file", i.Runs)
		}
		if _, err := fix.Draft(m, "hold "+i.Name, []step.Model{s}); err != nil {
			why, _, _ := strings.Cut(err.Error(), "\n")
			left = append(left, fmt.Sprintf("%s cannot be held: %s", i.ID, why))
			continue
		}
		steps = append(steps, s)
	}
	p, err = fix.Draft(m, "hold startup items", steps)
	p.Hold = HoldName
	return p, left, err
}

// Release takes every startup hold in force back, the newest first. It stops at
// the first that cannot be taken back, and gives how many went before it.
func Release(m machine.Machine, j *fix.Journal) (n int, err error) {
	holds := j.Holds(m.Name(), HoldName)
	for _, h := range slices.Backward(holds) {
		if err := j.Undo(m, h.Change, false); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}
