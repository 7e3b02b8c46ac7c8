package checks_test

import (
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/twin"
	"hollowkey/core/why/checks"
	"hollowkey/core/why/signs"
	"hollowkey/demo"
)

const user = "mwhitlow"

func onTwin(t *testing.T) (*twin.Twin, signs.Checker) {
	t.Helper()
	dir := filepath.Join(t.TempDir(), "d")
	if err := demo.LayOut(dir); err != nil {
		t.Fatal(err)
	}
	m, err := twin.Open(filepath.Join(dir, demo.Machine))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { m.Close() })
	return m, checks.On(m, false)
}

func TestEachCheck(t *testing.T) {
	_, c := onTwin(t)
	for _, tt := range []struct {
		check  string
		with   map[string]string
		answer string
		text   string
		caps   string // name=value
	}{
		{"folder-writable", map[string]string{"folder": `C:\Users\mwhitlow\AppData\Local\Temp\`, "user": user}, "yes", "SYSTEM has no access",
			"lacking=SYSTEM"},
		{"folder-writable", map[string]string{"folder": `C:\Users\mwhitlow\AppData\Local\Temp\`, "user": ""}, "yes", "SYSTEM has no access",
			"lacking=SYSTEM"},
		{"folder-writable", map[string]string{"folder": `C:\Deploy`, "user": user}, "no", "can write", ""},
		{"folder-writable", map[string]string{"folder": `C:\Nowhere\below`, "user": user}, "no", `can write to C:\`, ""},
		{"folder-writable", map[string]string{"folder": `relative`, "user": user}, "unknown", "no path", ""},
		{"file-writable", map[string]string{"file": `C:\Users\mwhitlow\AppData\Local\Temp\berth-notes.tmp`, "user": user}, "yes", "SYSTEM",
			"lacking=SYSTEM"},
		{"key-writable", map[string]string{"key": `HKEY_LOCAL_MACHINE64\SOFTWARE\Saltmarsh Quay\Berthline`, "user": user}, "no", "can write", ""},
		{"key-writable", map[string]string{"key": `HKLM\SOFTWARE\Nothing\below`, "user": user}, "no", `can write to HKLM\SOFTWARE`, ""},
		{"service-startable", map[string]string{"service": "BerthSync"}, "yes", "TideClock is disabled, and BerthSync depends on it",
			"blocker=TideClock"},
		{"service-startable", map[string]string{"service": "tideclock"}, "yes", "TideClock is disabled", "blocker=TideClock"},
		{"service-startable", map[string]string{"service": "Spooler"}, "no", "Spooler runs", ""},
		{"service-startable", map[string]string{"service": "msiserver"}, "unknown", "neither msiserver nor", ""},
		{"service-startable", map[string]string{"service": "Ghost"}, "unknown", "is not there on", ""},
		{"shell-folder-drive", map[string]string{"drive": "Z:", "user": user}, "yes", `Personal of mwhitlow points to Z:\Documents`,
			"shellfolder=Personal"},
		{"shell-folder-drive", map[string]string{"drive": "Y:", "user": user}, "unknown", "no shell folder", ""},
		{"shell-folder-drive", map[string]string{"drive": "C:", "user": user}, "no", "is there", ""},
		{"shell-folder-value", map[string]string{"value": `z:\documents\`, "user": user}, "yes", "points to", `default=%USERPROFILE%\Documents`},
		{"host-reachable", map[string]string{"host": "charts.ellery.example"}, "no", "answers", ""},
		{"host-reachable", map[string]string{"host": "other.example"}, "unknown", "not known", ""},
		{"temp-writable", nil, "yes", "SYSTEM has no access", `folder=C:\Users\mwhitlow\AppData\Local\Temp`},
		{"shell-folders", nil, "yes", "Personal", "shellfolder=Personal"},
		{"space", nil, "no", "61.0 GiB free", ""},
		{"tide-table", nil, "unknown", "is not known here", ""},
	} {
		f, caps := c.Check(tt.check, tt.with)
		name, value, _ := strings.Cut(tt.caps, "=")
		if f.Check != tt.check || f.Answer != tt.answer || !strings.Contains(f.Text, tt.text) || caps[name] != value {
			t.Errorf("%s %v: %s %q %v; want %s %q %s", tt.check, tt.with, f.Answer, f.Text, caps, tt.answer, tt.text, tt.caps)
		}
	}
}

// An entry that denies is told as such: a grant would not help.
func TestDenied(t *testing.T) {
	m, c := onTwin(t)
	if err := m.SetFileSecurity(`C:\Deploy`,
		machine.Security{SDDL: "O:SYD:(D;;FW;;;WD)(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)", Own: true}); err != nil {
		t.Fatal(err)
	}
	f, caps := c.Check("folder-writable", map[string]string{"folder": `C:\Deploy`, "user": user})
	if f.Answer != "yes" || caps["denied"] != "Everyone" || caps["lacking"] != "" {
		t.Errorf("%s %q %v", f.Answer, f.Text, caps)
	}
}

// Once the cause is gone each check says so.
func TestAfterTheFix(t *testing.T) {
	m, c := onTwin(t)
	v, _ := regfile.Make(regfile.Expand, `%USERPROFILE%\Documents`)
	if err := m.SetValue(`HKCU\Software\Microsoft\Windows\CurrentVersion\Explorer\User Shell Folders`, "Personal", v); err != nil {
		t.Fatal(err)
	}
	if f, _ := c.Check("shell-folders", nil); f.Answer != "no" {
		t.Errorf("shell folders: %+v", f)
	}
	if err := m.SetStartType("TideClock", machine.StartAutomatic); err != nil {
		t.Fatal(err)
	}
	if f, _ := c.Check("service-startable", map[string]string{"service": "BerthSync"}); f.Answer != "unknown" {
		t.Errorf("the service: %+v", f)
	}
	if err := m.SetFileSecurity(`C:\Users\mwhitlow\AppData\Local\Temp`, machine.Security{}); err != nil {
		t.Fatal(err)
	}
	if f, _ := c.Check("temp-writable", nil); f.Answer != "no" {
		t.Errorf("temporary folders: %+v", f)
	}
}
