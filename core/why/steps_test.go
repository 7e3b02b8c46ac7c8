package why_test

import (
	"strings"
	"testing"

	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/why"
)

// broken is a machine on which one thing of each kind is wrong; healthy is the
// same one with nothing wrong.
func broken(healthy bool) map[string]string {
	access := "O:SYG:SYD:PAI(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)(A;OICI;0x1200a9;;;BU)"
	start, path, client, free := "disabled", `C:\Quay\bin`, "disk/C/Program Files/Quay/Client", "90 MB"
	if healthy {
		access = "O:SYG:SYD:PAI(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)(A;OICI;FA;;;BU)"
		start, path, client, free = "manual",
			`C:\Windows\system32;C:\Windows;C:\Windows\System32\Wbem;C:\Windows\System32\WindowsPowerShell\v1.0`,
			"disk/C/Program Files/Quay/Client/a.txt", "61 GB"
	}
	return map[string]string{
		"twin.yaml": "name: ELLERY-D11\nos: { name: Windows, version: \"10.0\", build: 19045, architecture: x64 }\ndrives:\n  - { letter: \"C:\", kind: fixed, size: 237 GB, free: " + free + " }\n" +
			"users:\n  - { name: dpayne, sid: S-1-5-21-1-2-3-1112, groups: [BU], profile: 'C:\\Users\\dpayne' }\nsigned in: dpayne\n" +
			"environment: { TEMP: 'C:\\Users\\dpayne\\Temp', PATH: '" + path + "' }\nelevated: false\ntime: 2026-05-04T09:31:00Z\n",
		"access.yaml": "'C:\\ProgramData\\Quay': " + access +
			"\n'C:\\Users\\dpayne': O:SYG:SYD:PAI(A;OICI;FA;;;SY)(A;OICI;FA;;;S-1-5-21-1-2-3-1112)\n",
		"services.yaml": "- { name: BerthSync, display: Berth Sync, binary: 'C:\\Quay\\b.exe', start: automatic, account: LocalSystem, depends on: [TideClock], state: stopped }\n" +
			"- { name: TideClock, display: Tide Clock, binary: 'C:\\Quay\\t.exe', start: " + start + ", account: LocalSystem, state: stopped }\n" +
			"- { name: LedgerUpdate, display: Ledger Update, binary: 'C:\\Quay\\l.exe', start: " + start +
			", account: LocalSystem, state: stopped }\n",
		"registry/machine.reg": "Windows Registry Editor Version 5.00\n\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Session Manager\\Environment]\n\"Path\"=\"" +
			strings.ReplaceAll(path, `\`, `\\`) + "\"\n",
		client: "", "disk/C/ProgramData/Quay/plugins/base.plg": "x", "disk/C/Users/dpayne/Temp/old.tmp": "x",
	}
}

// Logs of any program and language lead to the step where the machine shows
// what they complain of, and to none where it does not.
func TestPlainLogsReachSteps(t *testing.T) {
	bad, good := twintest.Make(t, broken(false)), twintest.Make(t, broken(true))
	for _, tt := range []struct{ said, class, step string }{
		{`System.UnauthorizedAccessException: Access to the path 'C:\ProgramData\Quay\plugins\a.dll' is denied.`, "permission", "grant"},
		{`PermissionError: [Errno 13] Permission denied: 'C:\\ProgramData\\Quay\\plugins\\a.dll'`, "permission", "grant"},
		{`Error: EACCES: permission denied, mkdir 'C:\ProgramData\Quay\plugins\x'`, "permission", "grant"},
		{`java.nio.file.AccessDeniedException: C:\ProgramData\Quay\plugins\a.jar`, "permission", "grant"},
		{`Zugriff verweigert: C:\ProgramData\Quay\plugins\a.dll (Fehler 5)`, "permission", "grant"},
		{`Accès refusé : C:\ProgramData\Quay\plugins\a.dll`, "permission", "grant"},
		{`could not open C:\ProgramData\Quay\plugins\a.dat for writing`, "permission", "grant"},
		{`mkdir C:\Program Files\Quay\Client: a file with that name already exists`, "path", "folder"},
		{`Error: EEXIST: file already exists, mkdir 'C:\Program Files\Quay\Client'`, "path", "folder"},
		{`System.IO.IOException: Cannot create 'C:\Program Files\Quay\Client' because a file or directory with the same name already exists.`, "path", "folder"},
		{`CreateDirectoryW("C:\Program Files\Quay\Client") failed: 183`, "path", "folder"},
		{`StartService LedgerUpdate failed with 1058`, "service", "service"},
		{`[SC] StartService FAILED 1058: LedgerUpdate`, "service", "service"},
		{`net start BerthSync: system error 1068 has occurred. The dependency service or group failed to start.`, "service", "service"},
		{`Der Dienst LedgerUpdate konnte nicht gestartet werden (Fehler 1058)`, "service", "service"},
		{`'regsvr32' is not recognized as an internal or external command, operable program or batch file.`, "path", "registry"},
		{`Error: spawn reg ENOENT`, "path", "registry"},
		{`There is not enough space on the disk (112): C:\Users\dpayne\Temp\x.bin`, "space", "free-space"},
		{`OSError: [Errno 28] No space left on device: 'C:\\Users\\dpayne\\Temp\\x.bin'`, "space", "free-space"},
	} {
		log := write(t, "quay.log",
			"2026-05-04 09:12:01 INFO Quay Planner 3.1 setup starts\n2026-05-04 09:12:02 INFO files unpacked\n2026-05-04 09:12:03 ERROR "+tt.said+
				"\n2026-05-04 09:12:04 ERROR setup failed, exit code 7\n")
		v := ask(t, why.Question{Logs: []string{log}, Machine: bad}).Verdict
		step := ""
		if at := v.FirstWithSteps(); at >= 0 {
			for kind := range v.Remedies[at].Steps[0] {
				step = kind
			}
		}
		if *v.Cause.Class != tt.class || step != tt.step || v.Cause.Confidence < 0.8 {
			t.Errorf("%s: %s (%.2f), step %q, seen %+v; want %s, %s", tt.said, *v.Cause.Class, v.Cause.Confidence,
				step, v.Machine, tt.class, tt.step)
		}
		w := ask(t, why.Question{Logs: []string{log}, Machine: good}).Verdict
		if w.FirstWithSteps() >= 0 || w.Cause.Confidence >= v.Cause.Confidence || w.Shown() {
			t.Errorf("%s: on a healthy machine %s (%.2f), %+v, %+v", tt.said, *w.Cause.Class, w.Cause.Confidence, w.Machine, w.Remedies)
		}
	}
}
