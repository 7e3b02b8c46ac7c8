package fix

import (
	"strings"
	"testing"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/step"
	"hollowkey/demo"
)

// Each step stands in the script, quoted so that nothing in it is run, and the
// second script leads back.
func TestScript(t *testing.T) {
	m, _, _ := onTwin(t)
	p, err := Draft(m, "Pilot's fix\n& del *", []step.Model{
		step.New("grant", "folder", `C:\Users\mwhitlow\AppData\Local\Temp`, "account", "SYSTEM", "right", "modify"),
		step.New("service", "name", "TideClock", "start", "manual", "state", "running"),
		step.New("registry", "key", `HKLM\SOFTWARE\Saltmarsh Quay\O'Hara`, "name", "It's", "type", "string", "value", "a'; Remove-Item C:\\ #"),
		step.New("registry", "key", `HKLM\SOFTWARE\Saltmarsh Quay\Berthline`, "name", "List", "type", "multi", "value", "one\ntwo’s"),
		step.New("unset", "key", `HKLM\SOFTWARE\Saltmarsh Quay\Berthline`, "name", "Slips"),
		step.New("command", "out", `C:\Deploy\run it.cmd`, "package", demo.PlannerPath, "properties", "A=1"),
	})
	if err != nil {
		t.Fatal(err)
	}
	forward, back, err := p.Script("ps1")
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{
		"# Pilot's fix _ del *, on ELLERY-D07", "$ErrorActionPreference = 'Stop'",
		`Get-Acl -LiteralPath 'C:\Users\mwhitlow\AppData\Local\Temp'`, "SetSecurityDescriptorSddlForm('",
		"Set-Service -Name 'TideClock' -StartupType Manual", "Start-Service -Name 'TideClock'",
		`-LiteralPath 'Registry::HKEY_LOCAL_MACHINE\SOFTWARE\Saltmarsh Quay\O''Hara' -Name 'It''s' -PropertyType String -Value 'a''; Remove-Item C:\ #' -Force`,
		"-PropertyType MultiString -Value @('one', 'two’’s')",
		"Remove-ItemProperty -LiteralPath 'Registry::HKEY_LOCAL_MACHINE\\SOFTWARE\\Saltmarsh Quay\\Berthline' -Name 'Slips'",
		"  '@echo off',\r\n", `[IO.File]::WriteAllText('C:\Deploy\run it.cmd', ($lines -join `,
	} {
		if !strings.Contains(forward, want) {
			t.Errorf("the script lacks %q:\n%s", want, forward)
		}
	}
	for _, want := range []string{"-StartupType Disabled", "Stop-Service -Name 'TideClock'", "-Name 'Slips' -PropertyType DWord -Value 42",
		`Remove-Item -LiteralPath 'C:\Deploy\run it.cmd'`,
		`Remove-Item -LiteralPath 'Registry::HKEY_LOCAL_MACHINE\SOFTWARE\Saltmarsh Quay\O''Hara'`} {
		if !strings.Contains(back, want) {
			t.Errorf("the way back lacks %q:\n%s", want, back)
		}
	}
	if strings.Index(back, "run it.cmd") > strings.Index(back, "Set-Service") {
		t.Error("the way back goes forward")
	}
	for _, line := range strings.Split(forward, "\r\n") {
		if strings.ContainsAny(line, "\r\n") {
			t.Errorf("a line is broken: %q", line)
		}
	}
	if _, _, err := p.Script("cmd"); err == nil || !strings.Contains(err.Error(), "--script ps1 can") {
		t.Errorf("cmd: %v", err)
	}
	q, err := Draft(m, "x", []step.Model{
		step.New("service", "name", "TideClock", "start", "manual"),
		step.New("registry", "key", `HKLM\SOFTWARE\Saltmarsh Quay\Berthline`, "name", "100%", "type", "expand", "value", `a & del %TEMP%\`),
	})
	if err != nil {
		t.Fatal(err)
	}
	forward, back, err = q.Script("cmd")
	if err != nil || !strings.Contains(forward, `sc.exe config "TideClock" start= demand || exit /b 1`) ||
		!strings.Contains(forward, `reg.exe add "HKLM\SOFTWARE\Saltmarsh Quay\Berthline" /v "100%%" /t REG_EXPAND_SZ /d "a & del %%TEMP%%\\" /f`) || !strings.Contains(back, "start= disabled") || !strings.Contains(back, `reg.exe delete`) {
		t.Errorf("%v\n%s\n%s", err, forward, back)
	}
	q.Changes[1].After.Fact.(*kinds.ValueState).Value.Data = []byte("\"\x00&\x00\x00\x00")
	if _, _, err := q.Script("cmd"); err == nil {
		t.Error("a quotation mark beside what the shell acts on")
	}
	if _, _, err := q.Script("sh"); err == nil {
		t.Error("a shell that is none")
	}
}

// Steps on entries, tasks, folders, keys, quarantine, safe mode and the OS's
// own programs, forward and back.
func TestScriptOfOtherSteps(t *testing.T) {
	m, _, _ := onTwin(t)
	const old = `C:\Program Files (x86)\Nine Fathom\Fairway Radio 1`
	for _, c := range []struct {
		model                 step.Model
		shell, forth, wayBack string
	}{
		{step.New("remove-service", "name", "FairwayRelay"), "ps1", "& 'sc.exe' 'delete' 'FairwayRelay'; if ($LASTEXITCODE) { throw",
			`'binPath=' '` + old + `\relay.exe'`},
		{step.New("remove-service", "name", "FairwayRelay"), "cmd", "", ""}, // no way back there
		{step.New("dependency", "name", "BerthSync", "on", "Spooler", "state", "present"), "ps1", `'depend=' 'TideClock/Spooler'`,
			`'depend=' 'TideClock'`},
		{step.New("task", "path", `\Saltmarsh Quay\Tide Table Download`, "state", "off"), "ps1",
			`Disable-ScheduledTask -TaskPath '\Saltmarsh Quay\' -TaskName 'Tide Table Download'`, "Enable-ScheduledTask"},
		{step.New("task", "path", `\Saltmarsh Quay\Tide Table Download`, "state", "off"), "cmd",
			`schtasks.exe /Change /TN "\Saltmarsh Quay\Tide Table Download" /DISABLE`, "/ENABLE"},
		{step.New("folder", "folder", `C:\ProgramData\Saltmarsh Quay`), "ps1", `Remove-Item -LiteralPath 'C:\ProgramData\Saltmarsh Quay'`,
			"WriteAllBytes('C:\\ProgramData\\Saltmarsh Quay', [byte[]]@())"},
		{step.New("remove-key", "key", `HKLM\SOFTWARE\WOW6432Node\Nine Fathom\Fairway Radio 1`), "ps1", "& reg.exe import $reg",
			"& reg.exe import $reg"},
		{step.New("quarantine", "path", old), "ps1",
			`Move-Item -LiteralPath '` + old + `' -Destination (Join-Path $PSScriptRoot 'hollowkey-quarantine-Fairway Radio 1')`,
			`-Destination '` + old + `'`},
		{step.New("safe-boot", "mode", "network"), "ps1", `& 'bcdedit.exe' '/set' '{current}' 'safeboot' 'network'`,
			"'/deletevalue' '{current}' 'safeboot'"},
		{step.New("safe-boot", "mode", "network"), "cmd", "bcdedit.exe /set {current} safeboot network || exit /b 1", "/deletevalue"},
		{step.New("end-process", "process", "tidebook.exe"), "ps1", `& 'taskkill.exe' '/F' '/PID' '5204'`, "# nothing: a program that was ended"},
		{step.New("repair", "what", "component-store"), "ps1",
			`& 'dism.exe' '/Online' '/Cleanup-Image' '/RestoreHealth'; if ($LASTEXITCODE -notin 0`, "# nothing: the OS keeps no way back"},
		{step.New("repair", "what", "system-files"), "cmd", `sfc.exe "/scannow"`, "rem nothing"},
		{step.New("logon-right", "account", "svc-berth"), "ps1", "", ""},
		{step.New("free-space", "folder", `C:\Windows\Temp`, "older", "0"), "ps1", "", ""},
	} {
		p, err := Draft(m, "a fix", []step.Model{c.model})
		if err != nil {
			t.Fatal(err)
		}
		forth, back, err := p.Script(c.shell)
		switch {
		case c.forth == "" && err == nil:
			t.Errorf("%v as %s: no error\n%s\n%s", c.model, c.shell, forth, back)
		case c.forth != "" && (err != nil || !strings.Contains(forth, c.forth) || !strings.Contains(back, c.wayBack)):
			t.Errorf("%v as %s: %v\n%s\n%s", c.model, c.shell, err, forth, back)
		}
	}
}
