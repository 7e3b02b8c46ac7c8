package checks

import (
	"errors"
	"slices"
	"testing"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
)

// Every check that a built-in sign asks is known, and is given what it takes.
func TestSignsAskKnownChecks(t *testing.T) {
	pack, err := signs.BuiltIn()
	if err != nil {
		t.Fatal(err)
	}
	asked := 0
	for _, s := range pack.Signs {
		for _, c := range s.Confirm {
			asked++
			takes, ok := Takes(c.Check)
			if !ok {
				t.Errorf("%s asks the check %q, which nobody knows", s.ID, c.Check)
			}
			for name := range c.With {
				if !slices.Contains(takes, name) {
					t.Errorf("%s gives %q to %s, which takes %v", s.ID, name, c.Check, takes)
				}
			}
		}
	}
	if asked == 0 {
		t.Error("no sign asks anything")
	}
	seen := map[string]bool{}
	for _, c := range registry() {
		if seen[c.name] {
			t.Errorf("%s stands twice in the registry", c.name)
		}
		seen[c.name] = true
	}
}

// An unreadable is a machine whose registry, files and services refuse to be
// read.
type unreadable struct{ machine.Machine }

var errRefused = errors.New("access is denied")

func (unreadable) KeyExists(string) (bool, error)                      { return false, errRefused }
func (unreadable) Value(string, string) (v regfile.Value, err error)   { return v, errRefused }
func (unreadable) Values(string) ([]regfile.Entry, error)              { return nil, errRefused }
func (unreadable) Subkeys(string) ([]string, error)                    { return nil, errRefused }
func (unreadable) KeySecurity(string) (s machine.Security, err error)  { return s, errRefused }
func (unreadable) FileSecurity(string) (s machine.Security, err error) { return s, errRefused }
func (unreadable) Stat(string) (i machine.FileInfo, err error)         { return i, errRefused }
func (unreadable) ReadDir(string) ([]machine.FileInfo, error)          { return nil, errRefused }
func (unreadable) Service(string) (s machine.Service, err error)       { return s, errRefused }
func (unreadable) ServiceNames() ([]string, error)                     { return nil, errRefused }
func (unreadable) Sessions() ([]machine.Session, error)                { return nil, errRefused }
func (unreadable) Holders(...string) ([]machine.Process, error)        { return nil, errRefused }
func (unreadable) LogonRights(string) ([]string, error)                { return nil, errRefused }
func (unreadable) Facts() machine.Facts {
	return machine.Facts{Unknown: map[string]string{"elevated": "x", "time": "x"}}
}
func (unreadable) SafeBoot() (b machine.SafeBoot, err error) { return b, errRefused }
func (unreadable) SignedIn() string                          { return "mwhitlow" }

// What cannot be read is never taken for a pass, nor for a stop.
func TestNothingReadableIsUnknown(t *testing.T) {
	m := unreadable{twintest.Make(t,
		map[string]string{"twin.yaml": "name: T\nusers: [{ name: mwhitlow, sid: S-1-5-21-1-2-3-1001, groups: [Administrators] }]\n"})}
	for _, f := range Ready(m, Options{}) {
		if f.Answer != Unknown {
			t.Errorf("%s: %s, %q; want unknown", f.Name, f.Answer, f.Seen)
		}
	}
	with := map[string]string{"folder": `C:\x`, "file": `C:\x`, "key": `HKLM\x`, "service": "x", "drive": "Z:", "value": "x",
		"host": "x.example", "user": "mwhitlow"}
	for _, c := range registry() {
		if !c.ready {
			if f := Ask(m, c.name, with); f.Answer != Unknown {
				t.Errorf("%s: %s, %q; want unknown", c.name, f.Answer, f.Seen)
			}
		}
	}
}

// Steps that a check offers are ones that can be taken.
func TestStepsOfChecksExist(t *testing.T) {
	m := withAccess(t, "'C:\\': O:SYG:SYD:P(A;OICI;FR;;;WD)\n")
	seen := 0
	for _, f := range append(Ready(m, Options{User: "SYSTEM"}), Ask(m, "folder-writable", map[string]string{"folder": `C:\Windows\Temp`})) {
		for _, s := range f.Steps {
			for kind, args := range s {
				seen++
				k, ok := step.KindOf(kind)
				if !ok {
					t.Errorf("%s offers a %q step", f.Name, kind)
				}
				for a := range args {
					if !slices.Contains(k.Args, a) {
						t.Errorf("%s gives a %s step %q", f.Name, kind, a)
					}
				}
			}
		}
	}
	if seen == 0 {
		t.Error("no check offers a step on a machine on which nobody may write")
	}
}

// Two checks of one thing have one meaning: a folder in which SYSTEM may only
// read is unfit by name and for ready.
func TestOneMeaningOfWriting(t *testing.T) {
	for _, tt := range []struct {
		rights string
		want   State
	}{{"FR", Stop}, {"FW", Stop}, {"0x12019F", Pass}, {"FA", Pass}} { // 0x12019F is read and write, without delete
		m := withAccess(t, "'C:\\Windows\\Installer': O:SYG:SYD:P(A;OICI;"+tt.rights+";;;SY)\n")
		byName := Ask(m, "folder-writable", map[string]string{"folder": `C:\Windows\Installer`, "user": "SYSTEM"})
		byReady := Ask(m, "cache-writable", nil)
		if byName.Answer != tt.want || byReady.Answer != tt.want {
			t.Errorf("SYSTEM has %s: %s by name, %s for ready; want %s", tt.rights, byName.Answer, byReady.Answer, tt.want)
		}
	}
}

// One threshold: just below it no setup is well, at it any is.
func TestLittleSpace(t *testing.T) {
	for free, want := range map[string]State{"2047 MB": Stop, "2048 MB": Pass} {
		m := twintest.Make(t, map[string]string{"twin.yaml": "name: T\ndrives: [{ letter: 'C:', kind: fixed, size: 90 GB, free: " + free +
			" }]\n"})
		if f := Ask(m, "space", nil); f.Answer != want {
			t.Errorf("%s free: %s, %q; want %s", free, f.Answer, f.Seen, want)
		}
	}
}

func withAccess(t *testing.T, access string) machine.Machine {
	t.Helper()
	return twintest.Make(t, map[string]string{
		"twin.yaml":                              "name: T\nenvironment: { TEMP: 'C:\\Windows\\Temp' }\ndrives: [{ letter: 'C:', kind: fixed, size: 90 GB, free: 50 GB }]\n",
		"access.yaml":                            access,
		"disk/C/Windows/Temp/keep.tmp":           "x",
		"disk/C/Windows/Installer/SourceHash":    "x",
		"disk/C/ProgramData/Saltmarsh Quay Data": "",
	})
}
