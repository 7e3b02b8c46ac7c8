package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// The call of a setup, quoted for two shells; of a log with what its remedy
// brings.
func TestFixCommand(t *testing.T) {
	dir := layOut(t)
	type call struct{ Package, Prompt, PowerShell, Log string }
	of := func(args ...string) call {
		t.Helper()
		return decode[call](t, mustRun(t, dir, 0, append([]string{"fix", "--command", "--json"}, args...)...).out)
	}
	for _, c := range []struct {
		args         []string
		prompt, posh string
	}{
		{[]string{`C:\My Setups\a b.msi`, "--given", "SITE=Port \"E\"", "--transform", `C:\x y.mst`},
			`msiexec /i "C:\My Setups\a b.msi" SITE="Port ""E""" TRANSFORMS="C:\x y.mst" /l*v "%TEMP%\a b.log"`,
			`Start-Process -Verb RunAs -Wait -FilePath msiexec.exe -ArgumentList ('/i "C:\My Setups\a b.msi" SITE="Port ""E""" TRANSFORMS="C:\x y.mst" /l*v "' + $env:TEMP + '\a b.log"')`},
		{[]string{`C:\O'Hara\fix.msp`}, `msiexec /p "C:\O'Hara\fix.msp" /l*v "%TEMP%\fix.log"`, `'/p "C:\O''Hara\fix.msp" /l*v "'`},
		{[]string{`C:\Deploy\setup program.exe`}, `"C:\Deploy\setup program.exe"`, `-FilePath 'C:\Deploy\setup program.exe'`},
		{[]string{`C:\Deploy\app.msix`}, `Add-AppxPackage -Path 'C:\Deploy\app.msix'`, `Add-AppxPackage -Path 'C:\Deploy\app.msix'`},
		{[]string{"berthline.log"}, `msiexec /i "C:\Deploy\Berthline.msi"`, "Start-Process"},
		{[]string{"planner31.log", "--machine", "ELLERY-D07"}, `TRANSFORMS="C:\Deploy\berthline-planner-3.1.mst"`, "berthline-planner-3.1.mst"},
	} {
		if got := of(c.args...); !strings.Contains(got.Prompt, c.prompt) || !strings.Contains(got.PowerShell, c.posh) {
			t.Errorf("%v:\n%s\n%s\nwant\n%s\n%s", c.args, got.Prompt, got.PowerShell, c.prompt, c.posh)
		}
	}
	for _, bad := range [][]string{{`C:\a.exe`, "--given", "A=1"}, {"C:\\a\"b.msi"}, {`C:\a.msi`, "--given", "lower=1"},
		{`C:\a.msi`, "--given", "NOVALUE"}} {
		if r := run(t, dir, nil, append([]string{"fix", "--command"}, bad...)...); r.code != 2 {
			t.Errorf("%v: exit %d %s", bad, r.code, r.out)
		}
	}
	if r := mustRun(t, dir, 0, "fix", "--command", `C:\a.msi`); !strings.Contains(r.out, "In an elevated command prompt:") ||
		!strings.Contains(r.out, "hollowkey why %TEMP%") {
		t.Errorf("%s", r.out)
	}
}

// Remedies come with their price, the smallest change first, and numbers that
// why and fix share.
func TestRemediesTellTheirPrice(t *testing.T) {
	dir := layOut(t)
	r := mustRun(t, dir, 0, "fix", "planner31.log", "--machine", "ELLERY-D07", "--preview")
	first, second := strings.Index(r.out, "→ 1  2 steps"), strings.Index(r.out, "2  1 step")
	if first < 0 || second < first || !strings.Contains(r.out, "(larger change; no restart)") ||
		!strings.Contains(r.out, "the copy lacks the") {
		t.Errorf("%s", r.out)
	}
	if r := mustRun(t, dir, 0, "fix", "--step", "safe-boot", "--arg", "mode=minimal", "--machine", "ELLERY-D07",
		"--preview"); !strings.Contains(r.out, "restart: it counts from the next restart on") {
		t.Errorf("%s", r.out)
	}
	if r := mustRun(t, dir, 0, "fix", "--step", "repair", "--arg", "what=system-files", "--machine", "ELLERY-D07",
		"--preview"); !strings.Contains(r.out, "time: about 15 minutes") {
		t.Errorf("%s", r.out)
	}
}

// What the machine shows leads to the step: a file in the way, a broken PATH, a
// program that holds a file, an account without its right.
func TestMachineLeadsToTheStep(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	b, err := os.ReadFile(filepath.Join(twin, "services.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	write(t, twin, "services.yaml", strings.Replace(string(b),
		"  display: Berth Sync\n  binary: C:\\Program Files\\Saltmarsh Quay\\Tidebook\\BerthSync.exe\n  start: automatic\n  account: LocalSystem", "  display: Berth Sync\n  binary: C:\\Program Files\\Saltmarsh Quay\\Tidebook\\BerthSync.exe\n  start: automatic\n  account: svc-berth", 1))
	for _, c := range []struct{ said, machine, step, target string }{
		{`Error 1312. Cannot create the directory 'C:\ProgramData\Saltmarsh Quay'.  A file with this name already exists.`,
			"is an empty file, not a folder", "folder", `C:\ProgramData\Saltmarsh Quay`},
		{`'powershell' is not recognized as an internal or external command,`, `PATH of ELLERY-D07 lacks C:\Windows\system32`, "registry",
			`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`},
		{`Error 1306. Another application has exclusive access to the file 'C:\Program Files\Nine Fathom\Fairway Radio\channels.dll'.  Please shut down all other applications, then click Retry.`, "dispatch.exe (process 4120, of SYSTEM) holds", "end-process", "dispatch.exe"},
		{`The BerthSync service failed to start due to the following error: The service did not start due to a logon failure. (1069)`,
			"svc-berth, the account of BerthSync, was not given the right", "logon-right", "svc-berth"},
	} {
		v := decode[struct {
			Machine  []struct{ Answer, Text string }
			Remedies []struct {
				Steps []map[string]map[string]string
			}
		}](t, run(t, dir, nil, "why", "--said", c.said, "--machine", "ELLERY-D07", "--json").out)
		seen := false
		for _, m := range v.Machine {
			seen = seen || m.Answer == "yes" && strings.Contains(m.Text, c.machine)
		}
		found := false
		for _, r := range v.Remedies {
			for _, s := range r.Steps {
				for _, value := range s[c.step] {
					found = found || value == c.target
				}
			}
		}
		if !seen || !found {
			t.Errorf("%s:\nseen %v, step %v: %+v", c.said, seen, found, v)
		}
	}
}

// Safe mode is a hold: told under every command, and released exactly.
func TestSafeMode(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	mustRun(t, dir, 3, "startup", "safe", "off", "--machine", "ELLERY-D07")
	mustRun(t, dir, 2, "startup", "safe", "sometimes", "--machine", "ELLERY-D07")
	if r := mustRun(t, dir, 0, "startup", "safe", "minimal", "--machine", "ELLERY-D07", "--preview"); !strings.Contains(r.out,
		"+ safe mode minimal") || !strings.Contains(r.out, "+ string Service") {
		t.Errorf("%s", r.out)
	}
	if r := mustRun(t, dir, 0, "startup", "safe", "minimal", "--machine", "ELLERY-D07", "--yes"); !strings.Contains(r.err,
		"hold in force: safe boot") || !strings.Contains(r.err, "hollowkey startup safe off") {
		t.Errorf("%s", r.err)
	}
	if r := mustRun(t, dir, 0, "code", "1603", "--machine", "ELLERY-D07"); !strings.Contains(r.err, "hold in force: safe boot") {
		t.Errorf("not told under another command: %s", r.err)
	}
	mustRun(t, dir, 3, "undo", "--yes", "--machine", "ELLERY-D07") // holds have a release of their own
	mustRun(t, dir, 0, "startup", "safe", "off", "--yes", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after the release these differ: %v", d)
	}
}

// A logon task is held and released with the rest.
func TestTasksAreHeld(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	mustRun(t, dir, 0, "startup", "hold", "--only", "task:Tide Table Download", "--machine", "ELLERY-D07", "--yes")
	if got := tree(t, twin)["tasks.yaml"]; strings.Count(got, "enabled: false") != 2 {
		t.Errorf("%s", got)
	}
	if r := mustRun(t, dir, 0, "startup", "--machine", "ELLERY-D07"); strings.Contains(r.out, "Tide Table") {
		t.Errorf("a held task still starts: %s", r.out)
	}
	mustRun(t, dir, 0, "startup", "release", "--yes", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("these differ: %v", d)
	}
}

// The installer's service that is gone, or points to another program, is
// registered as the OS does, and undone.
func TestInstallerService(t *testing.T) {
	for name, change := range map[string]func(string) string{
		"gone": func(s string) string {
			from, to := strings.Index(s, "- name: msiserver"), strings.Index(s, "- name: rpcss")
			return s[:from] + s[to:]
		},
		"another program": func(s string) string {
			return strings.Replace(s, `C:\Windows\system32\msiexec.exe /V`, `C:\Temp\other.exe`, 1)
		},
	} {
		dir := layOut(t)
		twin := filepath.Join(dir, "ELLERY-D07")
		b, err := os.ReadFile(filepath.Join(twin, "services.yaml"))
		if err != nil {
			t.Fatal(err)
		}
		write(t, twin, "services.yaml", change(string(b)))
		before := tree(t, twin)
		if c := readyOf(t, dir, 3)["installer service"]; c.Answer != "stop" {
			t.Errorf("%s: %+v", name, c)
		}
		mustRun(t, dir, 0, "fix", "--step", "installer-service", "--machine", "ELLERY-D07", "--yes")
		if c := readyOf(t, dir, 3)["installer service"]; c.Answer != "pass" {
			t.Errorf("%s, registered anew: %+v", name, c)
		}
		mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
		if d := differs(before, tree(t, twin)); len(d) > 0 {
			t.Errorf("%s: after undo these differ: %v", name, d)
		}
	}
	dir := layOut(t)
	if r := mustRun(t, dir, 0, "fix", "--step", "installer-service", "--machine", "ELLERY-D07", "--yes"); !strings.Contains(r.out,
		"already in place") {
		t.Errorf("a good registration is changed: %s", r.out)
	}
}
