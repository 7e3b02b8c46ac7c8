package cli_test

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

type check struct{ Name, Answer, Seen, Mend string }

func readyOf(t *testing.T, dir string, code int, args ...string) map[string]check {
	t.Helper()
	m := map[string]check{}
	for _, c := range decode[struct{ Checks []check }](t,
		mustRun(t, dir, code, append([]string{"ready", "--machine", "ELLERY-D07", "--json"}, args...)...).out).Checks {
		m[c.Name] = c
	}
	return m
}

func TestReady(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	list := readyOf(t, dir, 3)
	for name, want := range map[string]string{
		"temporary folder": "stop", "shell folders": "stop", "cached packages": "warn", "verbose logging": "warn", "installer service": "pass",
		"pending restart": "pass", "other installation": "pass", "free space": "pass", "packages folder": "pass", "PATH": "stop",
		"administrator": "pass", "clock": "pass", "OS": "pass", "other users": "warn", "files in the way": "warn", "app sideloading": "pass",
		"software restriction": "pass", "security software": "pass", "runtimes": "unknown", "installer policy": "pass", "fast startup": "pass",
	} {
		if list[name].Answer != want {
			t.Errorf("%s: %+v, want %s", name, list[name], want)
		}
	}
	if !strings.Contains(list["temporary folder"].Seen, "SYSTEM has no access to") ||
		!strings.Contains(list["shell folders"].Seen, `Z:\Documents`) {
		t.Errorf("what was seen: %+v", list)
	}
	if p := readyOf(t, dir, 3, msi)["package: launch condition"]; p.Answer != "stop" || !strings.Contains(p.Seen, "VersionNT is 603") {
		t.Errorf("the package's gate: %+v", p)
	}
	mustRun(t, dir, 3, "ready", "mend", "--machine", "ELLERY-D07", "--preview")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("the preview changed %v", d)
	}
	mustRun(t, dir, 0, "ready", "mend", "--machine", "ELLERY-D07", "--yes")
	if r := mustRun(t, dir, 0, "ready", "--machine", "ELLERY-D07", "--out", "ready.json"); !strings.HasPrefix(r.out, "READY") {
		t.Error(r.out)
	}
	if b, err := os.ReadFile(filepath.Join(dir, "ready.json")); err != nil || !strings.Contains(string(b), "hollowkey.ready/2") {
		t.Errorf("saved: %v", err)
	}
	mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after undo these differ: %v", d)
	}
}

// Machines that are not fit, each in its way; what is wrong with PATH and a
// blocking file is mended, and undone.
func TestUnfitMachines(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	reg := filepath.Join(twin, "registry")
	b, err := os.ReadFile(filepath.Join(reg, "machine.reg"))
	if err != nil {
		t.Fatal(err)
	}
	more := `
[HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Control\Session Manager]
"PendingFileRenameOperations"=hex(7):5c,00,3f,00,3f,00,5c,00,61,00,00,00,00,00,00,00

[HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Control\Session Manager\Power]
"HiberbootEnabled"=dword:00000001

[HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\InProgress]

[HKEY_LOCAL_MACHINE\SOFTWARE\Policies\Microsoft\Windows\Installer]
"DisableMSI"=dword:00000002

[HKEY_LOCAL_MACHINE\SOFTWARE\Policies\Microsoft\Windows\Appx]
"AllowAllTrustedApps"=dword:00000000

[HKEY_LOCAL_MACHINE\SOFTWARE\Policies\Microsoft\Windows\SrpV2\Msi]
"EnforcementMode"=dword:00000001

[HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Services\QuayScan]
"Group"="FSFilter Anti-Virus"

[HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Services\HarbourScan]
"Group"="FSFilter Anti-Virus"
`
	b = bytes.Replace(b, []byte(`"Path"="C:\\Program Files\\Nine Fathom\\Fairway Radio;`), []byte(`"Path"="C:\\Windows;\"C:\\Gone Quay\";`), 1)
	if strings.Contains(string(b), "\r\n") {
		more = strings.ReplaceAll(more, "\n", "\r\n")
	}
	write(t, reg, "machine.reg", string(b)+more)
	services := filepath.Join(twin, "services.yaml")
	s, err := os.ReadFile(services)
	if err != nil {
		t.Fatal(err)
	}
	write(t, twin, "services.yaml", strings.Replace(string(s), "start: manual", "start: disabled", 1))
	temp := filepath.Join(twin, "disk", "C", "Users", "mwhitlow", "AppData", "Local", "Temp")
	if err := os.RemoveAll(temp); err != nil {
		t.Fatal(err)
	}
	write(t, filepath.Dir(temp), "Temp", "")
	self, err := os.ReadFile(filepath.Join(twin, "twin.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	write(t, twin, "twin.yaml", strings.NewReplacer("elevated: true", "elevated: false", "ring: general", "ring: preview",
		"time: 2026-05-04", "time: 2016-05-04").Replace(string(self)))
	list := readyOf(t, dir, 3)
	for name, want := range map[string]string{"administrator": "not elevated", "OS": "preview ring", "app sideloading": "store only",
		"software restriction": "packages run only", "security software": "several"} {
		if list[name].Answer != "warn" || !strings.Contains(list[name].Seen, want) {
			t.Errorf("%s: %+v, want %q", name, list[name], want)
		}
	}
	for name, want := range map[string]string{
		"clock": "2016-05-04", "pending restart": "files are to be replaced", "PATH": `lacks C:\Windows\system32`,
		"other installation": "under way", "installer policy": "DisableMSI is 2",
		"installer service": "disabled", "temporary folder": "is a file where a folder must be",
	} {
		if list[name].Answer != "stop" || !strings.Contains(list[name].Seen, want) {
			t.Errorf("%s: %+v, want %q", name, list[name], want)
		}
	}
	if list["fast startup"].Answer != "warn" {
		t.Errorf("fast startup: %+v", list["fast startup"])
	}
	if r := mustRun(t, dir, 1, "ready", "mend", "--machine", "ELLERY-D07", "--yes"); !strings.Contains(r.err, "needs an administrator") {
		t.Errorf("mended by somebody who may not: %s", r.err)
	}
	write(t, twin, "twin.yaml", string(self))
	before := tree(t, twin)
	mustRun(t, dir, 0, "ready", "mend", "--machine", "ELLERY-D07", "--yes")
	list = readyOf(t, dir, 3)
	if list["PATH"].Answer == "stop" || list["installer service"].Answer != "pass" || list["installer policy"].Answer != "pass" ||
		strings.Contains(list["temporary folder"].Seen, "is a file") {
		t.Errorf("mended: %+v", list)
	}
	mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
	after := tree(t, twin)
	if d := differs(before, after); len(d) > 0 {
		t.Errorf("after undo these differ: %v", d)
	}
}

// Every place where a due restart shows, one by one.
func TestPendingRestart(t *testing.T) {
	t.Parallel()
	const control = "HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\"
	for name, text := range map[string]string{
		"files are to be replaced":        "[" + control + "Session Manager]\r\n\"PendingFileRenameOperations2\"=hex(7):61,00,00,00,00,00",
		"components wait to be installed": "[HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\Component Based Servicing\\PackagesPending]",
		"an update waits":                 "[HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\WindowsUpdate\\Auto Update\\RebootRequired]",
		"an update is half done":          "[HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Updates]\r\n\"UpdateExeVolatile\"=dword:00000001",
		"a setup asked for a restart":     "[HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\RunOnce]\r\n\"DVDRebootSignal\"=\"1\"",
		"the machine is joining a domain": "[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Services\\Netlogon]\r\n\"JoinDomain\"=\"x\"",
		"the machine is to be called D08": "[" + control + "ComputerName\\ActiveComputerName]\r\n\"ComputerName\"=\"D07\"\r\n\r\n[" + control +
			"ComputerName\\ComputerName]\r\n\"ComputerName\"=\"D08\"",
	} {
		dir := layOut(t)
		reg := filepath.Join(dir, "ELLERY-D07", "registry")
		b, err := os.ReadFile(filepath.Join(reg, "machine.reg"))
		if err != nil {
			t.Fatal(err)
		}
		write(t, reg, "machine.reg", string(b)+"\r\n"+text+"\r\n")
		if c := readyOf(t, dir, 3)["pending restart"]; c.Answer != "stop" || !strings.Contains(c.Seen, name) {
			t.Errorf("%s: %+v", name, c)
		}
	}
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	b, err := os.ReadFile(filepath.Join(twin, "twin.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	write(t, twin, "twin.yaml", strings.NewReplacer("TEMP: '%USERPROFILE%\\AppData\\Local\\Temp'", `TEMP: 'E:\Temp'`, "users:\n",
		"  - { letter: 'E:', kind: fixed, size: 8 GB, free: 100 MB }\nusers:\n").Replace(string(b)))
	if c := readyOf(t, dir, 3)["free space on E:"]; c.Answer != "stop" ||
		!strings.Contains(c.Seen, "where the temporary folder lies, has 0.1 GiB free") {
		t.Errorf("a full drive for temporary files: %+v", c)
	}
}

// What a package is going to touch: a file in the way, a program that keeps its
// file open, a registration whose cached package is missing, a clock before it
// was written.
func TestReadyForPackage(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	berth := filepath.Join(twin, "disk", "C", "Program Files (x86)", "Saltmarsh Quay", "Berthline")
	if err := os.MkdirAll(berth, 0o755); err != nil {
		t.Fatal(err)
	}
	write(t, berth, "Berth.exe", "MZ")
	self, err := os.ReadFile(filepath.Join(twin, "twin.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	write(t, twin, "twin.yaml", strings.Replace(string(self), "processes:\n",
		"processes:\n  - { id: 77, name: berth.exe, user: dpayne, files: ['C:\\Program Files (x86)\\Saltmarsh Quay\\Berthline\\Berth.exe'] }\n",
		1))
	list := readyOf(t, dir, 3, msi)
	if c := list["package: files in use"]; c.Answer != "warn" || !strings.Contains(c.Seen, "berth.exe (process 77)") {
		t.Errorf("%+v", c)
	}
	if c := list["package: platform"]; c.Answer != "pass" || c.Seen != "Intel on x64" {
		t.Errorf("%+v", c)
	}
	if err := os.RemoveAll(filepath.Dir(berth)); err != nil {
		t.Fatal(err)
	}
	write(t, filepath.Dir(filepath.Dir(berth)), "Saltmarsh Quay", "")
	if c := readyOf(t, dir, 3, msi)["package: folders"]; c.Answer != "stop" || !strings.Contains(c.Seen, "is a file of 0 bytes") {
		t.Errorf("%+v", c)
	}
	mustRun(t, dir, 0, "ready", "mend", msi, "--machine", "ELLERY-D07", "--yes")
	if c := readyOf(t, dir, 3, msi)["package: folders"]; c.Answer != "pass" {
		t.Errorf("mended: %+v", c)
	}
	if c := readyOf(t, dir, 3, filepath.Join("share", "pilot-roster.msi"))["package: registrations"]; c.Answer != "stop" ||
		!strings.Contains(c.Seen, "its cached package is missing") {
		t.Errorf("%+v", c)
	}
}

func TestNeeds(t *testing.T) {
	dir := layOut(t)
	write(t, dir, "site.yaml", `
os: { least build: 19044, architectures: [x64], rings: [general] }
free: 20 GB
hosts: [charts.ellery.example, tides.ellery.example]
services: [BerthSync, Spooler, Nobody]
runtimes: [{ name: .NET Framework, least: "4.8" }]
files: ['C:\Deploy\readme.txt', 'C:\Deploy\licence.txt']
registry:
  - { key: 'HKLM\SOFTWARE\Saltmarsh Quay\Berthline', name: Slips, least: 40 }
  - { key: 'HKLM\SOFTWARE\Saltmarsh Quay\Berthline', name: Site, is: Elsewhere }
`)
	var stops, unknown, passes int
	for _, c := range decode[struct{ Checks []check }](t,
		mustRun(t, dir, 3, "ready", "--machine", "ELLERY-D07", "--needs", "site.yaml", "--json").out).Checks {
		if !strings.HasPrefix(c.Name, "site: ") {
			continue
		}
		switch c.Answer {
		case "stop":
			stops++
		case "unknown":
			unknown++
		case "pass":
			passes++
		}
	}
	if stops != 5 || unknown != 1 || passes != 5 {
		t.Errorf("%d stop, %d unknown, %d pass; want 5, 1, 5", stops, unknown, passes)
	}
	write(t, dir, "bad.yaml", "os:\n  least bild: 3\n")
	if r := mustRun(t, dir, 1, "ready", "--machine", "ELLERY-D07", "--needs", "bad.yaml"); !strings.Contains(r.err, "line 2") {
		t.Error(r.err)
	}
	write(t, dir, "bad.yaml", "free: many\n")
	mustRun(t, dir, 1, "ready", "--machine", "ELLERY-D07", "--needs", "bad.yaml")
}

// Each command that mends something runs as it is printed, once the words in
// capitals are filled in.
func TestPrintedMendsRun(t *testing.T) {
	dir := layOut(t)
	r := mustRun(t, dir, 3, "ready", "--machine", "ELLERY-D07")
	type check struct {
		Name    string
		Command []string
	}
	seen := 0
	for _, c := range decode[struct{ Checks []check }](t, mustRun(t, dir, 3, "ready", "--machine", "ELLERY-D07", "--json").out).Checks {
		if c.Command == nil {
			continue
		}
		seen++
		if !strings.Contains(r.out, "hollowkey "+c.Command[0]+" ") {
			t.Errorf("%s: its command is not printed:\n%s", c.Name, r.out)
		}
		call := append(c.Command, "--machine", "ELLERY-D07", "--preview")
		for i, arg := range call {
			call[i] = strings.NewReplacer("FOLDER", "share", "NAME", "dpayne").Replace(arg)
		}
		mustRun(t, dir, 0, call...)
	}
	if seen < 3 {
		t.Errorf("%d checks give a command", seen)
	}
}
