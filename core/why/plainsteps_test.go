package why_test

import (
	"slices"
	"strings"
	"testing"

	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/step"
	"hollowkey/core/why"
)

// lacking is a machine on which services, a key, the temporary folder and a
// policy are not as they should be, and a program holds a file; fine is the
// same one as it should be.
func lacking(fine bool) map[string]string {
	key, spooler, state, depends, temp, policy, processes := "KR", "disabled", "stopped", "GoneSvc", `T:\Temp`, "2",
		"processes:\n  - { id: 777, name: kelpview.exe, user: dpayne, files: ['C:\\Program Files\\Kelp\\tide.dll'] }\n"
	rights, own := "", ""
	if fine {
		own = "(A;OICI;FA;;;SY)"
		key, spooler, state, depends, temp, policy, processes = "KA", "automatic", "running", "KelpBase", `C:\Users\dpayne\Temp`, "0", ""
		rights = "svc-berth: SeServiceLogonRight\n"
	}
	service := func(name, start, account, state, binary, depends string) string {
		return "- { name: " + name + ", display: " + name + ", binary: '" + binary + "', start: " + start + ", account: '" + account + "', state: " + state + ", depends on: [" + depends + "] }\n"
	}
	const there = `C:\Program Files\Kelp\kelp.exe`
	files := map[string]string{
		"twin.yaml": "name: ELLERY-D12\nos: { name: Windows, version: \"10.0\", build: 19045, architecture: x64 }\ndrives:\n  - { letter: \"C:\", kind: fixed, size: 237 GB, free: 61 GB }\n" +
			"users:\n  - { name: dpayne, sid: S-1-5-21-1-2-3-1112, groups: [BA], profile: 'C:\\Users\\dpayne' }\n  - { name: svc-berth, sid: S-1-5-21-1-2-3-1140 }\nsigned in: dpayne\n" +
			"environment: { TEMP: '" + temp + "', PATH: 'C:\\Windows\\system32;C:\\Windows' }\nelevated: true\ntime: 2026-05-04T09:31:00Z\n" + processes,
		"access.yaml": "'HKLM\\SOFTWARE\\Kelp': O:SYG:SYD:PAI(A;CI;" + key + ";;;SY)(A;CI;" + key + ";;;BA)(A;CI;KR;;;BU)\n'C:\\Program Files\\Kelp': O:SYG:SYD:PAI(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)\n'C:\\Users\\dpayne\\Temp': O:SYG:SYD:PAI(A;OICI;FA;;;S-1-5-21-1-2-3-1112)" + own + "\n",
		"services.yaml": service("KelpBase", "automatic", "LocalSystem", state, there, "") + service("KelpSync", "manual", "LocalSystem", "stopped", there, depends) +
			service("KelpTask", "manual", `.\svc-berth`, "stopped", there, "") + service("Spooler", spooler, "LocalSystem", "stopped", `C:\Windows\System32\spoolsv.exe`, ""),
		"rights.yaml":                        rights,
		"registry/machine.reg":               "Windows Registry Editor Version 5.00\n\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\Kelp]\n\"a\"=\"b\"\n\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\Policies\\Microsoft\\Windows\\Installer]\n\"DisableMSI\"=dword:0000000" + policy + "\n",
		"registry/user.reg":                  "Windows Registry Editor Version 5.00\n\n[HKEY_USERS\\S-1-5-21-1-2-3-1112\\Environment]\n\"TEMP\"=\"" + strings.ReplaceAll(temp, `\`, `\\`) + "\"\n",
		"disk/C/Program Files/Kelp/tide.dll": "x", "disk/C/Program Files/Kelp/kelp.exe": "x", "disk/C/Users/dpayne/Temp/old.tmp": "x", "disk/C/Windows/System32/spoolsv.exe": "x",
	}
	if fine {
		files["disk/C/ProgramData/Kelp/in/b.dat"] = "x"
	} else {
		files["disk/C/ProgramData/Kelp/update.lock"] = "9120\n"
		files["services.yaml"] += service("KelpOld", "manual", "LocalSystem", "stopped", `C:\Gone\old.exe`, "")
		delete(files, "rights.yaml")
	}
	return files
}

// What the machine shows of a plain log's complaint is put right by a step of
// its kind, which waits to be named where something may be lost by it; on a
// machine that does not show it there is none.
func TestPlainLogsReachFurtherSteps(t *testing.T) {
	bad, good := twintest.Make(t, lacking(false)), twintest.Make(t, lacking(true))
	for _, tt := range []struct {
		kind  string
		named bool // it is taken only by its number
		said  string
	}{
		{"service", false, "service KelpBase is not running|cannot talk to KelpBase: the service is stopped|Dienst KelpBase läuft nicht|the KelpBase service has not been started"},
		{"dependency", true, "service KelpSync could not be started: 1075|StartService KelpSync failed, error 1075"},
		{"service", false, "AddPrinterDriverEx -> 1722|AddPrinter failed: RPC server is unavailable|Die Druckwarteschlange ist deaktiviert"},
		{"end-process", true, `cannot replace C:\Program Files\Kelp\tide.dll: it is being used by another process|DeleteFile C:\Program Files\Kelp\tide.dll -> 32|kelpview.exe is still running`},
		{"remove-service", true, "CreateService KelpOld -> 1073|service KelpOld already exists|The specified service already exists: KelpOld"},
		{"logon-right", false, "StartService KelpTask: 1069, the user has not been granted the requested logon type (1385)|KelpTask: Logon failure: the user has not been granted the requested logon type at this computer."},
		{"grant", false, `could not write HKLM\SOFTWARE\Kelp: access denied|RegSetValueEx HKLM\SOFTWARE\Kelp -> 5|Access to the registry key 'HKEY_LOCAL_MACHINE\SOFTWARE\Kelp' is denied.`},
		{"registry", false, `cannot create temporary file in T:\Temp: The system cannot find the path specified|temp folder T:\Temp does not exist|mkdtemp T:\Temp: ENOENT`},
		{"away", true, `C:\ProgramData\Kelp\update.lock exists (pid 9120): another update seems to be running|cannot get lock C:\ProgramData\Kelp\update.lock: File exists`},
		{"folder", false, `cannot write C:\ProgramData\Kelp\in\a.dat: The system cannot find the path specified|DirectoryNotFoundException: Could not find a part of the path 'C:\ProgramData\Kelp\in\a.dat'.|` +
			`ENOENT: no such file or directory, open 'C:\ProgramData\Kelp\in\a.dat'`},
		{"grant", false, `cannot create C:\Users\dpayne\Temp\k1.tmp: access is denied|could not write to the temporary folder C:\Users\dpayne\Temp (5)`},
		{"registry", true, "msiexec /i kelp.msi ended with 1625|This installation is forbidden by system policy. Contact your system administrator."},
	} {
		for said := range strings.SplitSeq(tt.said, "|") {
			log := write(t, "kelp.log", "2026-05-04 09:12:01 INFO Kelp Chart 3.1 setup starts\n2026-05-04 09:12:02 INFO running as SYSTEM\n2026-05-04 09:12:03 INFO step Configure\n2026-05-04 09:12:04 ERROR "+
				said+"\n2026-05-04 09:12:05 ERROR setup failed, exit code 9\n")
			v := ask(t, why.Question{Logs: []string{log}, Machine: bad}).Verdict
			of := func(r step.Remedy) bool {
				return len(r.Steps) > 0 && r.Steps[0][tt.kind] != nil && r.OnlyNamed == tt.named
			}
			if !slices.ContainsFunc(v.Remedies, of) || !v.Shown() {
				t.Errorf("%s: %s (%.2f) about %+v, seen %+v, remedies %+v; want %s", said, *v.Cause.Class, v.Cause.Confidence, v.Cause.Subject, v.Machine, v.Remedies, tt.kind)
			}
			if w := ask(t, why.Question{Logs: []string{log}, Machine: good}).Verdict; slices.ContainsFunc(w.Remedies, of) {
				t.Errorf("%s: on a machine as it should be: %+v, %+v", said, w.Machine, w.Remedies)
			}
		}
	}
}

// Who runs the setup is told by words that say so, and by none that only hold
// the word.
func TestWhoRunsTheSetup(t *testing.T) {
	bad := twintest.Make(t, lacking(false))
	for said, system := range map[string]bool{"running as SYSTEM": true, `user: NT AUTHORITY\SYSTEM`: true, "account=LocalSystem": true, "started under the local system": true,
		"running system check": false, "account of the file system service": false, "user: dpayne, system drive C:": false, "identity of the operating system: Windows": false,
		"executed on a system with 8 GB": false} {
		log := write(t, "kelp.log", "2026-05-04 09:12:01 INFO Kelp Chart 3.1 setup starts\n2026-05-04 09:12:02 INFO "+said+"\n2026-05-04 09:12:04 ERROR could not write C:\\Program Files\\Kelp\\tide.dll: access is denied\n"+
			"2026-05-04 09:12:05 ERROR setup failed, exit code 9\n")
		v := ask(t, why.Question{Logs: []string{log}, Machine: bad}).Verdict
		about := len(v.Machine) > 0 && strings.HasPrefix(v.Machine[0].Text, "SYSTEM")
		if about != system {
			t.Errorf("%q: asked for SYSTEM first %v, seen %+v", said, about, v.Machine)
		}
	}
}
