// This file has the steps that run a tool of the OS's.

package kinds

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/machine"
)

// RanState is a program of the OS that is run, and how it ended.
type RanState struct {
	Command []string `json:"command"`        // program and arguments, unquoted
	Done    bool     `json:"done"`           // it ran, whatever it ended with
	Exit    int      `json:"exit"`           // its exit code
	Said    string   `json:"said,omitempty"` // its last lines
}

// saidLines of a program are kept: its summary, not its progress.
const saidLines = 6

// ranFamily has the rows that run one of the OS's own tools. What such a run
// changes is the tool's, so the fact is only that it ran, and undo says so.
func ranFamily() family {
	return define(func() *RanState { return &RanState{} },
		row[*RanState]{want: wantRan, write: writeRan},
		ranRow("restore-point", restorePointWords, restorePointCommand),
		ranRow("repair", repairWords, repairCommand))
}

// ranRow is a step that runs one of the OS's own repairs.
func ranRow(name string, words func(Step) string, command func(Step) ([]string, error)) row[*RanState] {
	return row[*RanState]{
		name: name, words: words,
		read: func(_ machine.Machine, s Step) (*RanState, error) {
			line, err := command(s)
			return &RanState{Command: line}, err
		},
		run: func(ctx context.Context, m machine.Machine, s Step, said func(string)) (*RanState, error) {
			line, err := command(s)
			if err != nil {
				return &RanState{}, err
			}
			return runCommand(ctx, m, line, said)
		},
	}
}

// wantRan wants that the program has run; how it ends it will say itself.
func wantRan(_ machine.Machine, _ Step, now *RanState) (*RanState, error) {
	want := *now
	want.Done = true
	return &want, nil
}

// writeRan is never called: such a step is run, and has no way back.
func writeRan(machine.Machine, Step, *RanState) error { return machine.ErrUnsupported }

// runCommand runs a program and keeps the last that it said.
func runCommand(ctx context.Context, m machine.Machine, line []string, said func(string)) (*RanState, error) {
	var last []string
	code, err := m.Run(ctx, line, func(l string) {
		if said != nil {
			said(l)
		}
		if last = append(last, l); len(last) > saidLines {
			last = last[1:]
		}
	})
	if err == nil && !exitcode.Good(code) {
		err = fmt.Errorf("%s ended with %d\nhint: for what that means: hollowkey code %d", line[0], code, code)
	}
	return &RanState{Command: line, Done: true, Exit: code, Said: strings.Join(last, "\n")}, err
}

func (*RanState) family() string { return "ran" }

// plain gives the state as it is; the command in it is already whole.
func (st *RanState) plain() Fact { return st }

// powerShell runs the program and stops at an exit code that is not good.
func (st *RanState) powerShell(Step, Fact) ([]string, error) {
	args, err := psArguments(st.Command)
	return []string{"&" + args + throwsUnlessGood()}, err
}

// command is the tool's own call, each argument quoted as the OS parts them
// again.
func (st *RanState) command(Step, Fact) ([]string, error) {
	line := st.Command[0]
	for _, a := range st.Command[1:] {
		quoted, err := CommandArgument(a)
		if err != nil {
			return nil, err
		}
		line += " " + quoted
	}
	return []string{line}, nil
}

// Lines tells the call, or how it ended, and what the tool said.
func (st *RanState) Lines(_ machine.Accounts) []string {
	r := st
	lines := []string{"run " + strings.Join(r.Command, " ")}
	if r.Done {
		lines = []string{fmt.Sprintf("it ran and ended with %d", r.Exit)}
	}
	if r.Said != "" {
		lines = append(lines, strings.Split(r.Said, "\n")...)
	}
	return lines
}

// repairWords tells the repairs by what they do, since their programs' names
// say little.
func repairWords(s Step) string {
	switch s.Target {
	case "component-store":
		return "let the OS repair its component store"
	case "system-files":
		return "let the OS check its system files and repair them"
	case "network":
		return "let the OS reset its network stack (counts after a restart)"
	}
	if name, ok := strings.CutPrefix(s.Target, "register:"); ok {
		return "register the app package " + name + " again for this user"
	}
	if name, ok := strings.CutPrefix(s.Target, "reset:"); ok {
		return "reset the app package " + name + ": its settings and data of this user are lost"
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
	case "network":
		return []string{"netsh.exe", "winsock", "reset"}, nil
	}
	if line, ok := appPackage(s.Target); ok {
		return []string{"powershell.exe", "-NoProfile", "-NonInteractive", "-Command", line}, nil
	}
	if !productCode.MatchString(s.Target) {
		return nil, fmt.Errorf("what=%q is not component-store, system-files, network, register:NAME or "+
			"reset:NAME of an app package, or a product code in braces", s.Target)
	}
	return []string{"msiexec.exe", "/fomus", s.Target, "/qn", "/norestart"}, nil
}

// appName is the name of an app package as its manifest has it: nothing else
// goes into a command line. Source: the OS's documentation, "Identity" of the
// package manifest.
var appName = lazy.MustCompile(`^[A-Za-z0-9][A-Za-z0-9.-]{2,49}$`)

// appPackage is the OS's documented way to register or reset an app package.
func appPackage(what string) (line string, ok bool) {
	kind, name, found := strings.Cut(what, ":")
	if !found || !appName.MatchString(name) {
		return "", false
	}
	switch kind {
	case "register":
		return "Get-AppxPackage -Name " + PS(name) + " | ForEach-Object { Add-AppxPackage " +
			"-DisableDevelopmentMode -Register (Join-Path $_.InstallLocation 'AppxManifest.xml') }", true
	case "reset":
		return "Get-AppxPackage -Name " + PS(name) + " | Reset-AppxPackage", true
	}
	return "", false
}

// restorePointWords says the step to a person, with the name under which the OS
// lists the point.
func restorePointWords(s Step) string { return "let the OS take a restore point: " + s.Target }

// restorePointCommand has no quotation mark in the title: it goes through a
// shell on its way to the OS.
func restorePointCommand(s Step) ([]string, error) {
	if strings.ContainsAny(s.Target, "\"\r\n") {
		return nil, errors.New("the title of a restore point must be plain text")
	}
	return []string{"powershell.exe", "-NoProfile", "-NonInteractive", "-Command",
		"Checkpoint-Computer -Description " + PS(s.Target) + " -RestorePointType MODIFY_SETTINGS"}, nil
}

var productCode = lazy.MustCompile(`^\{[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}\}$`)
