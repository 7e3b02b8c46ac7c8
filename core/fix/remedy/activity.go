package remedy

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"strconv"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// RunningState are the processes or sessions that a step ends.
type RunningState struct {
	Who []string `json:"who"`
	IDs []int    `json:"ids"`
}

// readProcess finds the one program by its file name or number.
func readProcess(m machine.Machine, s Step) (State, error) {
	all, err := m.Processes()
	if err != nil {
		return State{}, err
	}
	st := &RunningState{Who: []string{}, IDs: []int{}}
	for _, p := range all {
		if strings.EqualFold(p.Name, s.Target) || strconv.Itoa(p.ID) == s.Target {
			if s.Target != p.Name && refuse(Step{Kind: "end-process", Target: p.Name}) != nil {
				return State{}, fmt.Errorf("process %d is %s, without which the OS does not run", p.ID, p.Name)
			}
			st.Who = append(st.Who, strings.TrimSpace(fmt.Sprintf("%s, process %d, of %s", p.Name, p.ID, orSome(p.User))))
			st.IDs = append(st.IDs, p.ID)
		}
	}
	return State{Running: st}, nil
}

func orSome(user string) string {
	if user == "" {
		return "some account"
	}
	return user
}

func wantNobody(machine.Machine, Step, State) (State, error) {
	return State{Running: &RunningState{Who: []string{}, IDs: []int{}}}, nil
}

func writeProcess(m machine.Machine, s Step, _ State) error {
	now, err := readProcess(m, s)
	if err != nil {
		return err
	}
	for _, id := range now.Running.IDs {
		if err := m.EndProcess(id); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

func processWords(s Step) string { return "end the program " + s.Target }

func readSession(m machine.Machine, s Step) (State, error) {
	all, err := m.Sessions()
	if err != nil {
		return State{}, err
	}
	st := &RunningState{Who: []string{}, IDs: []int{}}
	for _, o := range all {
		if !strings.EqualFold(o.User, s.Target) {
			continue
		}
		if o.Own {
			return State{}, fmt.Errorf("session %d of %s is the one that this program runs in", o.ID, o.User)
		}
		state := "in the background"
		if o.Active {
			state = "active"
		}
		st.Who = append(st.Who, fmt.Sprintf("%s, session %d, %s", o.User, o.ID, state))
		st.IDs = append(st.IDs, o.ID)
	}
	return State{Running: st}, nil
}

func writeSession(m machine.Machine, s Step, _ State) error {
	now, err := readSession(m, s)
	if err != nil {
		return err
	}
	for _, id := range now.Running.IDs {
		if err := m.SignOut(id); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

func sessionWords(s Step) string { return "sign " + s.Target + " out" }

func runningLines(st State, _ machine.Accounts) []string {
	if len(st.Running.Who) == 0 {
		return []string{"does not run"}
	}
	return st.Running.Who
}

// RanState is a program of the OS that is run, and how it ended.
type RanState struct {
	Command []string `json:"command"`
	Done    bool     `json:"done"`
	Exit    int      `json:"exit"`
	Said    string   `json:"said,omitempty"` // its last lines
}

const saidLines = 6

// ranKind is a step that runs one of the OS's own repairs.
func ranKind(args []string, target string, words func(Step) string, command func(Step) ([]string, error), c Cost) kind {
	state := func(s Step) (State, error) {
		line, err := command(s)
		return State{Ran: &RanState{Command: line}}, err
	}
	return kind{args: args, target: []string{target}, words: words, lines: ranLines, fits: func(s State) bool { return s.Ran != nil }, Cost: c,
		oneWay: "the OS keeps no way back of its own here",
		read:   func(_ machine.Machine, s Step) (State, error) { return state(s) },
		want: func(_ machine.Machine, s Step, _ State) (State, error) {
			st, err := state(s)
			if err == nil {
				st.Ran.Done = true
			}
			return st, err
		},
		run: func(ctx context.Context, m machine.Machine, s Step, said func(string)) (State, error) {
			line, err := command(s)
			if err != nil {
				return State{}, err
			}
			var last []string
			code, err := m.Run(ctx, line, func(l string) {
				if said != nil {
					said(l)
				}
				if last = append(last, l); len(last) > saidLines {
					last = last[1:]
				}
			})
			st := State{Ran: &RanState{Command: line, Done: true, Exit: code, Said: strings.Join(last, "\n")}}
			if err == nil && !goodExit(code) {
				err = fmt.Errorf("%s ended with %d\nhint: hollowkey code %d says what that means", line[0], code, code)
			}
			return st, err
		}}
}

// goodExit says whether an exit code means done, with or without a restart due.
func goodExit(code int) bool { return code == 0 || code == 3010 || code == 1641 }

func ranLines(st State, _ machine.Accounts) []string {
	r := st.Ran
	lines := []string{"run " + strings.Join(r.Command, " ")}
	if r.Done {
		lines = []string{fmt.Sprintf("it ran and ended with %d", r.Exit)}
	}
	if r.Said != "" {
		lines = append(lines, strings.Split(r.Said, "\n")...)
	}
	return lines
}

func repairWords(s Step) string {
	switch s.Target {
	case "component-store":
		return "let the OS repair its component store"
	case "system-files":
		return "let the OS check its system files and put them right"
	}
	return "let the installer engine repair the product " + s.Target
}

// repairCommand is the OS's documented command for a repair.
func repairCommand(s Step) ([]string, error) {
	switch s.Target {
	case "component-store":
		return []string{"dism.exe", "/Online", "/Cleanup-Image", "/RestoreHealth"}, nil
	case "system-files":
		return []string{"sfc.exe", "/scannow"}, nil
	}
	if !productCode.MatchString(s.Target) {
		return nil, fmt.Errorf("what=%q is not component-store, system-files or a product code in braces", s.Target)
	}
	return []string{"msiexec.exe", "/fomus", s.Target, "/qn", "/norestart"}, nil
}

func restorePointWords(s Step) string { return "let the OS take a restore point: " + s.Target }

func restorePointCommand(s Step) ([]string, error) {
	if strings.ContainsAny(s.Target, "\"\r\n") {
		return nil, errors.New("the title of a restore point must be plain text")
	}
	return []string{"powershell.exe", "-NoProfile", "-NonInteractive", "-Command", "Checkpoint-Computer -Description " + ps(s.Target) + " -RestorePointType MODIFY_SETTINGS"}, nil
}

var productCode = regexp.MustCompile(`^\{[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}\}$`)

// RestorePoint lets the OS take a restore point, and writes that down.
func RestorePoint(m machine.Machine, j *Journal, title string) error {
	title = strings.Map(func(r rune) rune {
		if r < ' ' || r == '"' {
			return ' '
		}
		return r
	}, title)
	p, err := Draft(m, "restore point", []step.Model{{"restore-point": {"title": "Before: " + title}}})
	if err != nil {
		return err
	}
	return p.Apply(m, j)
}
