package remedy

import (
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
)

// Script writes the changes of a plan as a script for where this program cannot
// run, and a second one that takes them back. shell is "ps1" or "cmd". A step
// that the shell cannot take is an error that says so.
func (p Plan) Script(shell string) (forward, back string, err error) {
	write, ok := map[string]func(Change, State) ([]string, error){"ps1": powerShell, "cmd": commandShell}[shell]
	if !ok {
		return "", "", fmt.Errorf("the shell %q is not ps1 or cmd", shell)
	}
	remark := map[string]string{"ps1": "# ", "cmd": "rem "}[shell]
	head := func(what string) []string {
		lines := []string{remark + plainLine(p.Title) + ", on " + plainLine(p.Machine) + " " + what, remark + "Read it before you run it, elevated."}
		if shell == "ps1" {
			return append(lines, "$ErrorActionPreference = 'Stop'")
		}
		return append([]string{"@echo off"}, lines...)
	}
	f, b := head(""), head("(takes it back)")
	for i, c := range p.Changes {
		if c.Done() {
			continue
		}
		to, err := write(c, c.After)
		if err != nil {
			return "", "", fmt.Errorf("step %d, %s: %w", i+1, c.Words(), err)
		}
		f = append(append(f, "", remark+plainLine(c.Words())), to...)
	}
	for i := len(p.Changes) - 1; i >= 0; i-- {
		c := p.Changes[i]
		if c.Done() {
			continue
		}
		from, err := write(c, c.Before)
		if err != nil {
			return "", "", fmt.Errorf("step %d, %s: %w", i+1, c.Words(), err)
		}
		b = append(append(b, "", remark+"back: "+plainLine(c.Words())), from...)
	}
	end := "\r\n"
	return strings.Join(f, end) + end, strings.Join(b, end) + end, nil
}

// plainLine takes out of a text for a remark what would end the line, and what
// the command shell acts on even there.
func plainLine(t string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r < ' ' || r == 0x7F || r == 0x2028 || r == 0x2029:
			return ' '
		case r == '%' || r == '&' || r == '|' || r == '<' || r == '>' || r == '^':
			return '_'
		}
		return r
	}, t)
}

// ps quotes a text for PowerShell; the typographic quotes end one there, too.
func ps(t string) string {
	for _, q := range []string{"'", "‘", "’", "‚", "‛"} {
		t = strings.ReplaceAll(t, q, q+q)
	}
	return "'" + t + "'"
}

func psKey(key string) (string, error) {
	long, err := machine.LongKey(key)
	return ps("Registry::" + long), err
}

// psTypes are PowerShell's names of value types.
var psTypes = map[regfile.Type]string{regfile.String: "String", regfile.Expand: "ExpandString", regfile.DWord: "DWord", regfile.QWord: "QWord", regfile.MultiStr: "MultiString", regfile.Binary: "Binary"}

func powerShell(c Change, to State) ([]string, error) {
	switch {
	case to.Security != nil:
		path := ps(c.Target)
		if isKey(c.Step) {
			var err error
			if path, err = psKey(c.Target); err != nil {
				return nil, err
			}
		}
		if !to.Security.Own {
			return []string{"$acl = Get-Acl -LiteralPath " + path, "$acl.SetAccessRuleProtection($false, $false)",
				"$acl.Access | Where-Object { -not $_.IsInherited } | ForEach-Object { [void]$acl.RemoveAccessRuleSpecific($_) }", "Set-Acl -LiteralPath " + path + " -AclObject $acl"}, nil
		}
		return []string{"$acl = Get-Acl -LiteralPath " + path, "$acl.SetSecurityDescriptorSddlForm(" + ps(to.Security.SDDL) + ")", "Set-Acl -LiteralPath " + path + " -AclObject $acl"}, nil
	case to.Service != nil:
		start, ok := map[machine.StartType]string{machine.StartAutomatic: "Automatic", machine.StartManual: "Manual", machine.StartDisabled: "Disabled"}[to.Service.Start]
		if !ok {
			return nil, fmt.Errorf("PowerShell cannot set the start type %s", to.Service.Start)
		}
		lines := []string{"Set-Service -Name " + ps(c.Target) + " -StartupType " + start}
		if to.Service.Running {
			return append(lines, "Start-Service -Name "+ps(c.Target)), nil
		}
		return append([]string{"Stop-Service -Name " + ps(c.Target)}, lines...), nil
	case to.Registry != nil:
		return psValue(c, to.Registry)
	case to.File != nil && to.File.There && to.File.Contents == nil:
		return nil, fmt.Errorf("the file is too large for a script")
	case to.File != nil && to.File.There && c.Args["copy"] != "":
		return nil, fmt.Errorf("a copy of a folder does not fit a script")
	case to.File != nil && to.File.There:
		return []string{"[IO.File]::WriteAllBytes(" + ps(c.Target) + ", [Convert]::FromBase64String('" + base64.StdEncoding.EncodeToString(to.File.Contents) + "'))"}, nil
	case to.File != nil:
		return []string{"Remove-Item -LiteralPath " + ps(c.Target)}, nil
	}
	return powerShellMore(c, to)
}

func psValue(c Change, v *ValueState) ([]string, error) {
	key, err := psKey(c.Args["key"])
	if err != nil {
		return nil, err
	}
	name := ps(c.Args["name"])
	if c.Args["name"] == "" {
		name = "'(default)'"
	}
	if !v.There {
		lines := []string{"Remove-ItemProperty -LiteralPath " + key + " -Name " + name}
		for i := len(v.Made) - 1; i >= 0; i-- {
			made, err := psKey(v.Made[i])
			if err != nil {
				return nil, err
			}
			lines = append(lines, "if (-not (Get-ChildItem -LiteralPath "+made+") -and -not (Get-Item -LiteralPath "+made+").Property) { Remove-Item -LiteralPath "+made+" }")
		}
		return lines, nil
	}
	kind, ok := psTypes[v.Value.Type]
	if !ok {
		return nil, fmt.Errorf("PowerShell has no value type %s", v.Value.Type)
	}
	words := ps(v.Value.Words())
	switch v.Value.Type {
	case regfile.DWord, regfile.QWord:
		words = v.Value.Words()
	case regfile.MultiStr:
		var parts []string
		for s := range strings.SplitSeq(v.Value.Words(), "\n") {
			parts = append(parts, ps(s))
		}
		words = "@(" + strings.Join(parts, ", ") + ")"
	case regfile.Binary:
		var parts []string
		for _, b := range v.Value.Data {
			parts = append(parts, fmt.Sprintf("0x%02x", b))
		}
		words = "([byte[]]@(" + strings.Join(parts, ", ") + "))"
	}
	return []string{"if (-not (Test-Path -LiteralPath " + key + ")) { [void](New-Item -Path " + key + " -Force) }",
		"[void](New-ItemProperty -LiteralPath " + key + " -Name " + name + " -PropertyType " + kind + " -Value " + words + " -Force)"}, nil
}

// cmd quotes an argument for a program that is called from a command file; what
// cannot stand there safely is an error.
func cmd(t string) (string, error) {
	// The shell knows nothing of \", so behind one it would act on its own signs.
	if strings.ContainsAny(t, "\r\n\x00!") || strings.Contains(t, `"`) && strings.ContainsAny(t, "&|<>^()") {
		return "", fmt.Errorf("%.60q cannot stand in a command file\nhint: --script ps1 can", t)
	}
	t = strings.ReplaceAll(strings.ReplaceAll(t, "%", "%%"), `"`, `\"`)
	if strings.HasSuffix(t, `\`) {
		t += `\`
	}
	return `"` + t + `"`, nil
}

const orEnd = " || exit /b 1"

func commandShell(c Change, to State) ([]string, error) {
	target, err := cmd(c.Target)
	if err != nil {
		return nil, err
	}
	switch {
	case to.Service != nil:
		start := map[machine.StartType]string{machine.StartAutomatic: "auto", machine.StartManual: "demand", machine.StartDisabled: "disabled", machine.StartBoot: "boot", machine.StartSystem: "system"}[to.Service.Start]
		lines := []string{"sc.exe config " + target + " start= " + start + orEnd}
		if to.Service.Running {
			return append(lines, "net.exe start "+target+orEnd), nil
		}
		return append([]string{"net.exe stop " + target}, lines...), nil
	case to.Registry != nil:
		key, err := cmd(c.Args["key"])
		if err != nil {
			return nil, err
		}
		name := "/ve"
		if n := c.Args["name"]; n != "" {
			quoted, err := cmd(n)
			if err != nil {
				return nil, err
			}
			name = "/v " + quoted
		}
		if !to.Registry.There {
			return []string{"reg.exe delete " + key + " " + name + " /f" + orEnd}, nil
		}
		v := to.Registry.Value
		kind, ok := map[regfile.Type]string{regfile.String: "REG_SZ", regfile.Expand: "REG_EXPAND_SZ", regfile.DWord: "REG_DWORD", regfile.QWord: "REG_QWORD", regfile.MultiStr: "REG_MULTI_SZ", regfile.Binary: "REG_BINARY"}[v.Type]
		if !ok {
			return nil, fmt.Errorf("reg.exe has no value type %s", v.Type)
		}
		words := strings.ReplaceAll(v.Words(), "\n", `\0`)
		if v.Type == regfile.Binary {
			words = hex.EncodeToString(v.Data)
		}
		data, err := cmd(words)
		if err != nil {
			return nil, err
		}
		return []string{"reg.exe add " + key + " " + name + " /t " + kind + " /d " + data + " /f" + orEnd}, nil
	case to.File != nil && !to.File.There:
		return []string{"del " + target + orEnd}, nil
	}
	return commandShellMore(c, to)
}
