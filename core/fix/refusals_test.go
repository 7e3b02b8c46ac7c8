package fix

import (
	"errors"
	"strings"
	"testing"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/step"
)

// What each kind refuses, it refuses before anything is changed, and says which
// argument or thing is to blame.
func TestRefusals(t *testing.T) {
	m, _, folder := onTwin(t)
	before := allFiles(t, folder)
	const (
		temp = `C:\Users\mwhitlow\AppData\Local\Temp`
		old  = `C:\Program Files (x86)\Nine Fathom\Fairway Radio 1`
	)
	for _, tt := range []struct {
		model step.Model
		want  string
	}{
		// access
		{step.New("grant", "folder", temp, "account", "SYSTEM", "right", "own"), `the right "own" is not read, modify or full`},
		{step.New("grant", "folder", `C:\Windows`, "account", "SYSTEM", "right", "read"), "belongs to the whole system"},
		{step.New("grant", "folder", `C:\WINDOWS\System32\`, "account", "SYSTEM", "right", "read"), "belongs to the whole system"},
		{step.New("security", "folder", `C:\`, "sddl", "O:SYD:P"), "a whole drive"},
		{step.New("grant", "key", `HKLM\SOFTWARE`, "account", "SYSTEM", "right", "read"), "is a whole hive"},
		{step.New("security", "folder", temp, "sddl", "D:P(A;;FA;;;SY)"), "lacks the owner"},
		{step.New("security", "folder", temp, "sddl", "tide"), "sddl="},
		{step.New("owner", "folder", temp), "owner needs account"},
		{step.New("inherit", "folder", temp, "state", "maybe"), "is not on or off"},
		{step.New("revoke", "folder", temp, "account", "mwhitlow", "entries", "some"), "is not all, denied or allowed"},
		{step.New("grant", "folder", temp, "account", "nobody-here", "right", "read"), "nobody-here"},
		{step.New("grant", "folder", `C:\None\Such`, "account", "SYSTEM", "right", "read"), `C:\None\Such`},
		// services
		{step.New("remove-service", "name", "Spooler"), "a part of the OS"},
		{step.New("dependency", "name", "BerthSync", "on", "Spooler", "state", "maybe"), "is not present or absent"},
		{step.New("dependency", "name", "BerthSync", "state", "present"), "dependency needs on"},
		{step.New("dependency", "name", "Ghost", "on", "Spooler", "state", "present"), "Ghost"},
		{step.New("logon-right", "account", "svc-berth", "right", "SeFlyRight"), "is not one of"},
		{step.New("logon-right", "account", "svc-berth", "state", "perhaps"), "is not present or absent"},
		// registry
		{step.New("registry", "key", `HKLM\SOFTWARE`, "name", "x", "type", "dword", "value", "1"), "a whole hive"},
		{step.New("remove-key", "key", `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion`), "belongs to the whole system"},
		{step.New("remove-key", "key", `HKLM\SOFTWARE\Policies\`), "belongs to the whole system"},
		{step.New("policy", "name", "tide", "state", "on"), `the policy "tide" is not known`},
		{step.New("policy", "name", "sideloading", "state", "half"), "is not on or off"},
		{step.New("path-entry", "entry", `C:\A;C:\B`, "state", "present"), "is not one folder"},
		{step.New("path-entry", "entry", `C:\A`, "state", "there"), "is not present or absent"},
		{step.New("path-entry", "entry", `C:\A`, "state", "present", "at", "middle"), "is not front or end"},
		{step.New("path-entry", "entry", `C:\A`, "state", "present", "scope", "world"), "is not machine or user"},
		{step.New("path-entry", "entry", `.\tools`, "state", "present"), "no folder of this machine"},
		{step.New("path-entry", "entry", `\quay-fs\tools`, "state", "present", "at", "front"), "no folder of this machine"},
		{step.New("path-entry", "entry", `%SystemRoot%\System32\`, "state", "absent"), "is the OS's own"},
		{step.New("path-entry", "entry", `C:/WINDOWS`, "state", "absent"), "is the OS's own"},
		{step.New("restart", "command", "one\ntwo"), "must be one line"},
		{step.New("import", "from", "x.reg", "text", "Windows Registry Editor Version 5.00\n\n"), "names no key"},
		{step.New("import", "from", "x.reg",
			"text", "Windows Registry Editor Version 5.00\n\n[-HKEY_LOCAL_MACHINE\\SOFTWARE\\Classes]\n"), "is refused"},
		// files
		{step.New("quarantine", "path", `C:\Windows\System32\drivers`), "a part of the OS"},
		{step.New("quarantine", "path", `C:\Users\mwhitlow`), "a user's data"},
		{step.New("quarantine", "path", `C:\Users\mwhitlow\AppData\Local`), "a user's data"},
		{step.New("quarantine", "path", `C:\Users\mwhitlow\AppData\Local\..\Local`), "no plain path"},
		{step.New("free-space", "folder", `C:\Windows\Temp`, "older", "soon"), "is not a number of hours"},
		{step.New("folder", "folder", `C:\Deploy\readme.txt`), "is a file of"},
		// tasks and what runs
		{step.New("task", "path", `\No\Task`, "state", "off"), "there is no task"},
		{step.New("task", "path", `\Saltmarsh Quay\Tide Table Download`, "state", "sleepy"), "is not on or off"},
		{step.New("end-process", "process", "LSASS.exe"), "does not run without it"},
		{step.New("end-process", "process", "812"), "without which the OS does not run"}, // services.exe by its number
		{step.New("end-process", "process", "tide*.exe"), "a pattern could mean more than one"},
		{step.New("service", "name", "RpcSs", "state", "stopped"), "the OS does not run without it"},
		{step.New("service", "name", "rpcss", "start", "disabled"), "the OS does not run without it"},
		{step.New("service", "name", "WinDefend", "state", "stopped"), "it protects the machine"},
		{step.New("sign-out", "user", "*"), "a pattern could mean more than one"},
		{step.New("sign-out", "user", "mwhitlow"), "the one that this program runs in"},
		{step.New("safe-boot", "mode", "partly"), "not off, minimal or network"},
		// the model itself
		{step.New("grant", "account", "SYSTEM"), "grant needs folder or file or key, right"},
		{step.New("away", "file", old+`\relay.ini`, "colour", "red"), `takes no "colour"`},
		{step.Model{}, "an empty step"},
	} {
		_, err := Draft(m, "x", []step.Model{tt.model})
		if err == nil || !strings.Contains(err.Error(), tt.want) {
			t.Errorf("%v: %v; want %q", tt.model, err, tt.want)
		}
	}
	if allFiles(t, folder) != before {
		t.Error("a refusal changed the machine")
	}
}

// A state handed to a step of another family is no state of it, and a plan for
// another machine is not applied.
func TestWhatDoesNotFit(t *testing.T) {
	m, j, _ := onTwin(t)
	p, err := Draft(m, "x", []step.Model{step.New("service", "name", "TideClock", "start", "manual"),
		step.New("safe-boot", "mode", "minimal")})
	if err != nil {
		t.Fatal(err)
	}
	service, boot := p.Changes[0], p.Changes[1]
	if !service.Fits(&service.Before) || service.Fits(&boot.Before) || (*kinds.Step)(nil).Fits(&boot.Before) || boot.Fits(nil) {
		t.Error("a state of another family fits")
	}
	if service.Before.Equal(boot.Before) || service.Before.Between(service.Before, boot.Before) {
		t.Error("states of two families are equal")
	}
	p.Machine = "ELLERY-D08"
	if err := p.Apply(m, j); err == nil || !strings.Contains(err.Error(), "the plan is for ELLERY-D08") || len(j.Items()) != 0 {
		t.Errorf("%v; %d items", err, len(j.Items()))
	}
}

// Two steps on one thing are undone in turn, and the older one only when the
// newer is gone.
func TestTwoStepsOnOneThing(t *testing.T) {
	m, j, folder := onTwin(t)
	before := allFiles(t, folder)
	set := func(value string) int {
		t.Helper()
		p, err := Draft(m, "set "+value, []step.Model{step.New("registry", "key", berthKey, "name", "Slips", "type", "dword", "value", value)})
		if err == nil {
			err = p.Apply(m, j)
		}
		if err != nil {
			t.Fatal(err)
		}
		items := j.Items()
		return items[len(items)-1].Change
	}
	first, second := set("7"), set("8")
	if err := j.Undo(m, first, false); !errors.Is(err, ErrChanged) {
		t.Errorf("the older one first: %v", err)
	}
	for _, seq := range []int{second, first} {
		if err := j.Undo(m, seq, false); err != nil {
			t.Errorf("change %d: %v", seq, err)
		}
	}
	if allFiles(t, folder) != before {
		t.Error("something is left")
	}
	if err := j.Undo(m, first, false); err == nil {
		t.Error("undone twice")
	}
}

// The way back of a forced undo leads where the step began, whatever came
// since.
func TestForcedUndo(t *testing.T) {
	m, j, folder := onTwin(t)
	before := allFiles(t, folder)
	p, err := Draft(m, "x", []step.Model{step.New("service", "name", "TideClock", "start", "manual")})
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Apply(m, j); err != nil {
		t.Fatal(err)
	}
	if err := m.SetStartType("TideClock", "automatic"); err != nil {
		t.Fatal(err)
	}
	seq := j.Items()[0].Change
	if err := j.Undo(m, seq, false); !errors.Is(err, ErrChanged) {
		t.Errorf("somebody else's change was overwritten: %v", err)
	}
	if err := j.Undo(m, seq, true); err != nil {
		t.Error(err)
	}
	if allFiles(t, folder) != before {
		t.Error("something is left")
	}
}
