package checks

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/machine/twin"
	"hollowkey/core/machine/twin/twintest"
	"hollowkey/demo"
)

// The looks around a setup, on the scenario's desktop and on one that is well.
func TestAround(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "d")
	if err := demo.LayOut(dir); err != nil {
		t.Fatal(err)
	}
	folder := filepath.Join(dir, demo.Machine)
	b, err := os.ReadFile(filepath.Join(folder, "services.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	text := strings.Replace(string(b), "NT AUTHORITY\\LocalService", "PORT\\svc-berth", 1)
	if err := os.WriteFile(filepath.Join(folder, "services.yaml"), []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	m, err := twin.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	defer m.Close()
	for _, c := range []struct {
		check       string
		with        map[string]string
		answer      string
		text        string
		name, value string // a capture
	}{
		{"file-in-the-way", map[string]string{"folder": `C:\ProgramData\Saltmarsh Quay\Ledger`}, "yes", "is an empty file", "folder",
			`C:\ProgramData\Saltmarsh Quay`},
		{"file-in-the-way", map[string]string{"folder": `C:\Deploy\readme.txt\x`}, "yes", "look what it is before you move it", "folder", ""},
		{"file-in-the-way", map[string]string{"folder": `C:\Deploy`}, "no", "is a folder", "", ""},
		{"file-in-the-way", map[string]string{"folder": `C:\Nothing\here`}, "no", "nothing stands at C:\\Nothing", "", ""},
		{"file-in-the-way", map[string]string{"folder": `relative`}, "unknown", "", "", ""},
		{"path-variable", nil, "yes", `lacks C:\Windows\system32, C:\Windows, `, "entry",
			`C:\Windows\system32, C:\Windows, C:\Windows\System32\Wbem and C:\Windows\System32\WindowsPowerShell\v1.0`},
		{"tool-in-path", map[string]string{"tool": `REG.exe`}, "yes", "so reg is not found by its name", "", ""},
		{"tool-in-path", map[string]string{"tool": `quaytool`}, "unknown", "where quaytool lies is not known", "", ""},
		{"path-usable", map[string]string{"path": `C:\ProgramData\Saltmarsh Quay\Ledger\x.dat`, "what": "file"},
			"yes", "is an empty file", "folder",
			`C:\ProgramData\Saltmarsh Quay`},
		{"path-usable", map[string]string{"path": `Q:\Ledger`}, "yes", "the drive Q: is not there", "", ""},
		{"path-usable", map[string]string{"path": `C:\Nothing\here`}, "no", "nothing stands at C:\\Nothing", "", ""},
		{"path-usable", map[string]string{"path": `C:\` + strings.Repeat(`abcdefghi\`, 27)}, "yes", "most programs take 259", "", ""},
		{"space-at", map[string]string{"path": `C:\Nothing`}, "no", "GiB free", "", ""},
		{"space-at", map[string]string{"path": `Q:\Nothing`}, "unknown", "is not known", "", ""},
		{"file-holder", map[string]string{"file": `c:\program files\nine fathom\fairway radio\CHANNELS.dll`}, "yes",
			"dispatch.exe (process 4120, of SYSTEM)", "holder", "dispatch.exe"},
		{"file-holder", map[string]string{"file": `C:\Deploy\readme.txt`}, "unknown", "nothing holds", "", ""},
		{"file-holder", map[string]string{"file": ""}, "unknown", "is not known", "", ""},
		{"folder-missing", map[string]string{"path": `C:\Nothing\here\a.dat`, "what": "file"}, "yes", `the folder C:\Nothing\here is not there`, "", ""},
		{"folder-missing", map[string]string{"path": `C:\Deploy\a.dat`, "what": "file"}, "no", `C:\Deploy is there`, "", ""},
		{"drive-there", map[string]string{"path": `Q:\Ledger`}, "yes", "the drive Q: is not there", "", ""},
		{"drive-there", map[string]string{"path": `C:\Ledger`}, "no", "is there", "", ""},
		{"program-running", map[string]string{"program": "dispatch"}, "yes", "dispatch.exe (process 4120, of SYSTEM) runs", "holder", "dispatch.exe"},
		{"program-running", map[string]string{"program": "nobody.exe"}, "no", "no program nobody.exe runs", "", ""},
		{"lock-left", map[string]string{"file": `C:\Deploy\readme.txt`, "process": "99999"}, "yes", "the process 99999, which the log names, is not there", "", ""},
		{"lock-left", map[string]string{"file": `C:\Deploy\readme.txt`, "process": "4120"}, "no", "the process 4120", "", ""},
		{"lock-left", map[string]string{"file": `C:\Nothing\x.lock`}, "no", "is not there now", "", ""},
		{"service-running", map[string]string{"service": "Spooler"}, "no", "Spooler runs", "", ""},
		{"service-left", map[string]string{"service": "Nobody"}, "no", "there is no service Nobody now", "", ""},
		{"service-left", map[string]string{"service": "Spooler"}, "yes", "the service Spooler is there", "", ""},
		{"service-account", map[string]string{"service": "MooringLights"}, "yes", "was not given the right", "account", `PORT\svc-berth`},
		{"service-account", map[string]string{"service": "BerthSync"}, "no", "needs no such right", "", ""},
		{"service-stoppable", map[string]string{"service": "Spooler"}, "yes", "Spooler runs", "running", "Spooler"},
		{"service-stoppable", map[string]string{"service": "RpcSs"}, "unknown", "the OS does not run without it", "running", ""},
		{"service-stoppable", map[string]string{"service": "msiserver"}, "no", "does not run now", "", ""},
		{"service-stoppable", map[string]string{"service": "Nobody"}, "unknown", "is not there on", "", ""},
		{"service-account", map[string]string{"service": "Nobody"}, "unknown", "is not there on", "", ""},
	} {
		f, caps := On(m, false).Check(c.check, c.with)
		if f.Answer != c.answer || !strings.Contains(f.Text, c.text) || c.name != "" && caps[c.name] != c.value {
			t.Errorf("%s %v: %s, %q, %v; want %s, %q, %s=%q", c.check, c.with, f.Answer, f.Text, caps, c.answer, c.text, c.name, c.value)
		}
	}
	if err := m.SetLogonRight("svc-berth", "SeServiceLogonRight", true); err != nil {
		t.Fatal(err)
	}
	if f, _ := On(m, false).Check("service-account", map[string]string{"service": "MooringLights"}); f.Answer != "no" {
		t.Errorf("with the right: %+v", f)
	}
}

// Where the guard lets nobody take or make anything, a look offers no step.
func TestLooksOfferNothingThatIsRefused(t *testing.T) {
	m := twintest.Make(t, map[string]string{"twin.yaml": "name: ELLERY-D13\nos: { name: Windows, version: \"10.0\", build: 19045, architecture: x64 }\ndrives:\n  - { letter: \"C:\", kind: fixed, size: 237 GB, free: 61 GB }\n",
		"disk/C/Windows/System32/config/sam.lock": "1", "disk/C/ProgramData/Kelp/update.lock": "1"})
	for _, c := range []struct {
		check string
		with  map[string]string
		steps int
	}{
		{"lock-left", map[string]string{"file": `C:\Windows\System32\config\sam.lock`, "process": "99999"}, 0},
		{"lock-left", map[string]string{"file": `C:\ProgramData\Kelp\update.lock`, "process": "99999"}, 1},
		{"folder-missing", map[string]string{"path": `C:\Windows\System32\drivers\quay\a.dat`, "what": "file"}, 0},
		{"folder-missing", map[string]string{"path": `C:\ProgramData\Kelp\in\a.dat`, "what": "file"}, 1},
	} {
		if f, _ := On(m, false).Check(c.check, c.with); f.Answer != "yes" || len(f.Steps) != c.steps || f.Mend == "" {
			t.Errorf("%s %v: %+v; want %d steps", c.check, c.with, f, c.steps)
		}
	}
}

// A driver, a group and what the registry knows are no services that a list
// would have: none of them is told as missing.
func TestDependenciesThatNoListHas(t *testing.T) {
	service := func(name, depends string) string {
		return "- { name: " + name + ", display: " + name + ", binary: 'C:\\Kelp\\k.exe', start: manual, account: LocalSystem, state: stopped, depends on: [" + depends + "] }\n"
	}
	m := twintest.Make(t, map[string]string{"twin.yaml": "name: ELLERY-D14\nos: { name: Windows, version: \"10.0\", build: 19045, architecture: x64 }\n",
		"services.yaml":        service("KelpNet", "Afd, Tcpip, '+NetworkProvider', KelpDriver") + service("KelpSync", "Afd, GoneSvc"),
		"registry/machine.reg": "Windows Registry Editor Version 5.00\n\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Services\\KelpDriver]\n\"Type\"=dword:00000001\n"})
	for name, want := range map[string]string{"KelpNet": "unknown", "KelpSync": "yes"} {
		for _, check := range []string{"service-dependency", "service-startable"} {
			f, _ := On(m, false).Check(check, map[string]string{"service": name})
			if check == "service-startable" {
				want = "unknown"
			}
			if f.Answer != want || want == "yes" && !strings.Contains(f.Text, "GoneSvc") {
				t.Errorf("%s %s: %+v, not %s", check, name, f, want)
			}
		}
	}
}
