package remedy

import (
	"encoding/base64"
	"errors"
	"fmt"
	"strings"

	"hollowkey/core/machine"
)

// Steps other than rights, values, services and small files, as script.

const throws = "; if ($LASTEXITCODE) { throw \"it ended with $LASTEXITCODE\" }"

// psCall calls a program and ends the script when it fails.
func psCall(command ...string) string {
	line := "& " + ps(command[0])
	for _, a := range command[1:] {
		line += " " + ps(a)
	}
	return line + throws
}

// from is the state that a script's step finds.
func (c Change) from(to State) State {
	if equal(to, c.After) {
		return c.Before
	}
	return c.After
}

func powerShellMore(c Change, to State) ([]string, error) {
	switch {
	case to.Entry != nil:
		return psEntry(c, to.Entry, c.from(to).Entry)
	case to.Task != nil:
		return psTask(c, to.Task, c.from(to).Task)
	case to.Place != nil:
		return psFolder(c, to.Place, c.from(to).Place)
	case to.Keys != nil:
		text := base64.StdEncoding.EncodeToString(keysText(to.Keys))
		return []string{"$reg = [IO.Path]::GetTempFileName()", "[IO.File]::WriteAllBytes($reg, [Convert]::FromBase64String('" + text + "'))",
			"& reg.exe import $reg" + throws, "Remove-Item -LiteralPath $reg"}, nil
	case to.Held != nil && c.Kind == "quarantine":
		keep := "(Join-Path $PSScriptRoot " + ps("hollowkey-quarantine-"+baseOf(c.Target)) + ")"
		if to.Held.There {
			return []string{"Move-Item -LiteralPath " + keep + " -Destination " + ps(c.Target)}, nil
		}
		return []string{"Move-Item -LiteralPath " + ps(c.Target) + " -Destination " + keep}, nil
	case to.Boot == machine.SafeBootOff:
		return []string{psCall("bcdedit.exe", "/deletevalue", "{current}", "safeboot")}, nil
	case to.Boot != "":
		return []string{psCall("bcdedit.exe", "/set", "{current}", "safeboot", string(to.Boot))}, nil
	case c.OneWay() != "" && equal(to, c.Before):
		return []string{"# nothing: " + plainLine(c.OneWay())}, nil
	case to.Running != nil:
		program := map[string]string{"end-process": "taskkill.exe", "sign-out": "logoff.exe"}[c.Kind]
		var lines []string
		for _, id := range c.Before.Running.IDs {
			args := []string{program, fmt.Sprint(id)}
			if c.Kind == "end-process" {
				args = []string{program, "/F", "/PID", fmt.Sprint(id)}
			}
			lines = append(lines, psCall(args...))
		}
		return lines, nil
	case to.Ran != nil:
		return []string{"& " + ps(to.Ran.Command[0]) + psArguments(to.Ran.Command[1:]) + "; if ($LASTEXITCODE -notin 0, 1641, 3010) { throw \"it ended with $LASTEXITCODE\" }"}, nil
	}
	return nil, errors.New("a script has no command for it; take this step on the machine itself: hollowkey fix")
}

func psArguments(args []string) (line string) {
	for _, a := range args {
		line += " " + ps(a)
	}
	return line
}

func psEntry(c Change, to, from *EntryState) ([]string, error) {
	deps := strings.Join(to.Service.DependsOn, "/")
	if deps == "" {
		deps = "/" // none
	}
	switch {
	case !to.There:
		return []string{psCall("sc.exe", "delete", c.Target)}, nil
	case from.There && from.Service.Binary == to.Service.Binary:
		return []string{psCall("sc.exe", "config", c.Target, "depend=", deps)}, nil
	}
	start, ok := map[machine.StartType]string{machine.StartAutomatic: "auto", machine.StartManual: "demand", machine.StartDisabled: "disabled", machine.StartBoot: "boot", machine.StartSystem: "system"}[to.Service.Start]
	if !ok {
		return nil, fmt.Errorf("the start type %q is not known", to.Service.Start)
	}
	var lines []string
	if from.There {
		lines = append(lines, psCall("sc.exe", "delete", c.Target))
	}
	args := []string{"sc.exe", "create", c.Target, "binPath=", to.Service.Binary, "DisplayName=", to.Service.Display, "start=", start, "depend=", deps}
	if to.Service.Account != "" {
		args = append(args, "obj=", to.Service.Account)
	}
	for _, a := range args {
		if strings.Contains(a, `"`) { // the shell loses quotation marks within an argument
			return nil, fmt.Errorf("%s cannot be handed to sc.exe from a script", a)
		}
	}
	return append(lines, psCall(args...)), nil
}

func psTask(c Change, to, from *TaskState) ([]string, error) {
	folder, name := c.Target[:strings.LastIndexByte(c.Target, '\\')+1], baseOf(c.Target)
	which := " -TaskPath " + ps(folder) + " -TaskName " + ps(name)
	switch {
	case !to.There:
		return []string{"Unregister-ScheduledTask" + which + " -Confirm:$false"}, nil
	case !from.There && to.Task.Definition == "":
		return nil, errors.New("the task's definition is not known, so a script cannot make it again")
	case !from.There:
		return []string{"[void](Register-ScheduledTask" + which + " -Xml " + ps(to.Task.Definition) + ")"}, nil
	case to.Task.Enabled:
		return []string{"[void](Enable-ScheduledTask" + which + ")"}, nil
	}
	return []string{"[void](Disable-ScheduledTask" + which + ")"}, nil
}

func psFolder(c Change, to, from *PlaceState) (lines []string, err error) {
	paths, err := levels(c.Target)
	if err != nil {
		return nil, err
	}
	for i := len(paths) - 1; i >= 0; i-- {
		if from.Levels[i] != levelAbsent && from.Levels[i] != to.Levels[i] {
			lines = append(lines, "Remove-Item -LiteralPath "+ps(paths[i]))
		}
	}
	for i, p := range paths {
		switch {
		case from.Levels[i] == to.Levels[i]:
		case to.Levels[i] == levelFolder:
			lines = append(lines, "[void](New-Item -ItemType Directory -Path "+ps(p)+")")
		case to.Levels[i] == levelEmpty:
			lines = append(lines, "[IO.File]::WriteAllBytes("+ps(p)+", [byte[]]@())")
		}
	}
	return lines, nil
}

func commandShellMore(c Change, to State) ([]string, error) {
	target, err := cmd(c.Target)
	if err != nil {
		return nil, err
	}
	switch {
	case to.Entry != nil && !to.Entry.There:
		return []string{"sc.exe delete " + target + orEnd}, nil
	case to.Task != nil && to.Task.There && c.from(to).Task.There:
		how := map[bool]string{true: "/ENABLE", false: "/DISABLE"}[to.Task.Task.Enabled]
		return []string{"schtasks.exe /Change /TN " + target + " " + how + orEnd}, nil
	case to.Task != nil && !to.Task.There:
		return []string{"schtasks.exe /Delete /F /TN " + target + orEnd}, nil
	case to.Boot == machine.SafeBootOff:
		return []string{"bcdedit.exe /deletevalue {current} safeboot" + orEnd}, nil
	case to.Boot != "":
		return []string{"bcdedit.exe /set {current} safeboot " + string(to.Boot) + orEnd}, nil
	case c.OneWay() != "" && equal(to, c.Before):
		return []string{"rem nothing: " + plainLine(c.OneWay())}, nil
	case to.Ran != nil:
		line := to.Ran.Command[0]
		for _, a := range to.Ran.Command[1:] {
			quoted, err := cmd(a)
			if err != nil {
				return nil, err
			}
			line += " " + quoted
		}
		return []string{line}, nil
	}
	return nil, errors.New("a command file cannot do that\nhint: --script ps1 can")
}
