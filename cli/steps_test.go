package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// A stepCase is one kind of step on the demo's twin.
type stepCase struct {
	kind string
	args []string // NAME=VALUE
	show string   // what the preview must say
	then []string // another step on the same target: the way back must refuse then
}

const (
	tempFolder = `C:\Users\mwhitlow\AppData\Local\Temp`
	oldRadio   = `C:\Program Files (x86)\Nine Fathom\Fairway Radio 1`
	oldKey     = `HKLM\SOFTWARE\WOW6432Node\Nine Fathom\Fairway Radio 1`
)

var stepCases = []stepCase{
	{"grant", []string{"folder=" + tempFolder, "account=SYSTEM", "right=modify"}, "+ SYSTEM may change",
		[]string{"grant", "folder=" + tempFolder, "account=svc-berth", "right=read"}},
	{"revoke", []string{"folder=" + tempFolder, "account=mwhitlow"}, "- mwhitlow may do everything",
		[]string{"grant", "folder=" + tempFolder, "account=SYSTEM", "right=read"}},
	{"security", []string{"folder=" + tempFolder, "sddl=O:SYD:P(A;OICI;FA;;;SY)"}, "+ owner SYSTEM",
		[]string{"grant", "folder=" + tempFolder, "account=mwhitlow", "right=read"}},
	{"owner", []string{"folder=" + tempFolder, "account=BA"}, "+ owner Administrators",
		[]string{"owner", "folder=" + tempFolder, "account=SYSTEM"}},
	{"inherit", []string{"folder=" + tempFolder, "state=on"}, "+ SYSTEM may do everything (from above)",
		[]string{"grant", "folder=" + tempFolder, "account=svc-berth", "right=read"}},
	{"grant", []string{`key=HKLM\SOFTWARE\WOW6432Node\Nine Fathom`, "account=svc-berth", "right=full"}, "+ svc-berth may do everything", nil},
	{"service", []string{"name=TideClock", "start=manual", "state=running"}, "+ running",
		[]string{"service", "name=TideClock", "state=stopped"}},
	{"dependency", []string{"name=BerthSync", "on=Spooler", "state=present"}, "+ depends on TideClock, Spooler",
		[]string{"dependency", "name=BerthSync", "on=rpcss", "state=present"}},
	{"remove-service", []string{"name=FairwayRelay"}, "+ the service is absent", nil},
	{"remove-service", []string{"name=MooringLights"}, "Step 2:", nil}, // runs, so it is stopped first
	{"logon-right", []string{"account=svc-berth"}, "+ the account was given the right",
		[]string{"logon-right", "account=svc-berth", "state=absent"}},
	{"registry", []string{"key=" + oldKey, "name=Serial", "type=string", "value=none"}, "- string PE-0000-1111",
		[]string{"unset", "key=" + oldKey, "name=Serial"}},
	{"unset", []string{"key=" + oldKey, "name=Serial"}, "+ the value is absent",
		[]string{"registry", "key=" + oldKey, "name=Serial", "type=string", "value=x"}},
	{"policy", []string{"name=sideloading", "state=on"}, "+ dword 1", []string{"policy", "name=sideloading", "state=off"}},
	{"policy", []string{"name=fast-startup", "state=on"}, "+ dword 1", nil},
	{"path-entry", []string{`entry=C:\Windows\system32`, "state=present", "at=front"}, `+ string C:\Windows\system32;C:\Program`,
		[]string{"path-entry", `entry=C:\Windows`, "state=present"}},
	{"path-entry", []string{"entry=" + oldRadio, "state=absent"}, `+ string C:\Program Files\Nine Fathom\Fairway Radio`, nil},
	{"restart", []string{"command=hollowkey journal --machine live"}, "+ string hollowkey journal", nil},
	{"key", []string{`key=HKLM\SOFTWARE\Nine Fathom\Roster\Sites`}, "- HKLM\\SOFTWARE\\Nine Fathom is absent", nil},
	{"remove-key", []string{"key=" + oldKey}, "-   Serial = PE-0000-1111", []string{"key", "key=" + oldKey}},
	{"import", []string{"from=change.reg"}, "-   Serial = PE-0000-1111",
		[]string{"registry", `key=HKLM\SOFTWARE\Nine Fathom\New`, "name=A", "type=string", "value=other"}},
	{"ini", []string{`file=` + oldRadio + `\relay.ini`, "section=relay", "key=port", "value=6000"}, "+ port=6000", nil},
	{"away", []string{`file=` + oldRadio + `\relay.ini`}, "+ the file is absent", nil},
	{"folder", []string{`folder=C:\ProgramData\Saltmarsh Quay\Ledger`}, "an empty file stands where a folder above it must be", nil},
	{"folder", []string{`folder=C:\ProgramData\Saltmarsh Quay`}, "- an empty file", nil},
	{"quarantine", []string{"path=" + oldRadio}, "- 2 files", nil},
	{"free-space", []string{`folder=C:\Windows\Temp`, "older=0"}, "1 skipped as in use", nil},
	{"place", []string{`out=` + oldRadio + `\relay.ini`, "from=change.reg"}, "+ file, sha256", nil},
	{"command", []string{`out=C:\Deploy\run.cmd`, `package=C:\Deploy\berthline-planner-3.1.msi`, "properties=SITE=ELLERY"}, "msiexec", nil},
	{"transform", []string{`out=C:\Deploy\t.mst`, `package=C:\Deploy\berthline-planner-3.1.msi`, "edits=set-property SITE=ELLERY"}, "+ ", nil},
	{"copy", []string{`out=C:\Deploy\t.msi`, `package=C:\Deploy\berthline-planner-3.1.msi`, "edits=set-property SITE=ELLERY"},
		"+ package code {", nil},
	{"task", []string{`path=\Saltmarsh Quay\Tide Table Download`, "state=off"}, "+ switched off",
		[]string{"remove-task", `path=\Saltmarsh Quay\Tide Table Download`}},
	{"remove-task", []string{`path=\Nine Fathom\Fairway Update`}, "+ the task is absent", nil},
	{"safe-boot", []string{"mode=minimal"}, "+ safe mode minimal", []string{"safe-boot", "mode=network"}},
}

const changeReg = "Windows Registry Editor Version 5.00\r\n\r\n[-HKEY_LOCAL_MACHINE\\SOFTWARE\\WOW6432Node\\Nine Fathom\\Fairway Radio 1\\Relay]\r\n\r\n" +
	"[HKEY_LOCAL_MACHINE\\SOFTWARE\\WOW6432Node\\Nine Fathom\\Fairway Radio 1]\r\n\"Serial\"=-\r\n\"Path\"=\"C:\\\\New\"\r\n\r\n" +
	"[HKEY_LOCAL_MACHINE\\SOFTWARE\\Nine Fathom\\New]\r\n\"A\"=\"1\"\r\n\"B\"=dword:00000002\r\n"

func stepCall(kind string, args []string, more ...string) []string {
	call := []string{"fix", "--machine", "ELLERY-D07", "--step", kind}
	for _, a := range args {
		call = append(call, "--arg", a)
	}
	return append(call, more...)
}

// Each kind of step: the preview changes nothing, apply and undo restore byte
// for byte, a target that was changed since is refused, and a kill at each
// point loses nothing.
func TestEveryStep(t *testing.T) {
	t.Parallel()
	for _, c := range stepCases {
		t.Run(c.kind+" "+c.args[0], func(t *testing.T) {
			t.Parallel()
			dir := layOut(t)
			write(t, dir, "change.reg", changeReg)
			twin := filepath.Join(dir, "ELLERY-D07")
			before := tree(t, twin)
			same := func(when string) {
				t.Helper()
				if d := differs(before, tree(t, twin)); len(d) > 0 {
					t.Fatalf("%s: these differ: %v", when, d)
				}
			}
			if r := mustRun(t, dir, 0, stepCall(c.kind, c.args, "--preview", "--width", "200")...); !strings.Contains(r.out, c.show) {
				t.Errorf("the preview lacks %q:\n%s", c.show, r.out)
			}
			same("after the preview")
			mustRun(t, dir, 0, stepCall(c.kind, c.args, "--yes")...)
			if len(differs(before, tree(t, twin))) == 0 {
				t.Error("nothing was changed")
			}
			if r := run(t, dir, nil, stepCall(c.kind, c.args, "--preview")...); !strings.Contains(r.out, "already in place") &&
				!strings.Contains(r.err, "does not exist") {
				t.Errorf("the step a second time:\n%s", r.out)
			}
			mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
			same("after undo")
			for _, point := range []string{"after-begin", "after-change"} {
				if r := crash(t, dir, point, stepCall(c.kind, c.args, "--yes")...); r.code != crashed {
					t.Fatalf("%s: exit %d\n%s%s", point, r.code, r.out, r.err)
				}
				if r := run(t, dir, nil, "journal", "--machine", "ELLERY-D07"); !strings.Contains(r.err, "an earlier run was cut off at change") {
					t.Errorf("%s: no word of the kill: %s%s", point, r.out, r.err)
				}
				run(t, dir, nil, "undo", "--yes", "--machine", "ELLERY-D07", "--all")
				same("killed " + point + ", after the way back")
			}
			for _, point := range []string{"after-undo-begin", "after-undo"} {
				mustRun(t, dir, 0, stepCall(c.kind, c.args, "--yes")...)
				if r := crash(t, dir, point, "undo", "--yes", "--machine", "ELLERY-D07"); r.code != crashed {
					t.Fatalf("%s: exit %d\n%s%s", point, r.code, r.out, r.err)
				}
				run(t, dir, nil, "undo", "--yes", "--machine", "ELLERY-D07", "--all")
				same("killed " + point + ", after the way back")
			}
			if c.then == nil {
				return
			}
			mustRun(t, dir, 0, stepCall(c.kind, c.args, "--yes", "--case", "mine")...)
			mustRun(t, dir, 0, stepCall(c.then[0], c.then[1:], "--yes", "--case", "other")...)
			changed := tree(t, twin)
			if r := mustRun(t, dir, 1, "undo", "--yes", "--machine", "ELLERY-D07", "--case", "mine"); !strings.Contains(r.err, "changed since") {
				t.Errorf("a target that was changed since: %s%s", r.out, r.err)
			}
			if d := differs(changed, tree(t, twin)); len(d) > 0 {
				t.Errorf("the refusal changed %v", d)
			}
		})
	}
}

// Steps without a way back say so, and undo leaves them alone.
func TestOneWaySteps(t *testing.T) {
	dir := layOut(t)
	for _, c := range []struct {
		kind, arg, show, after string
	}{
		{"end-process", "process=tidebook.exe", "- tidebook.exe, process 5204, of dpayne", "+ does not run"},
		{"sign-out", "user=dpayne", "- dpayne, session 3, in the background", "+ does not run"},
		{"repair", "what=component-store", "run dism.exe /Online /Cleanup-Image /RestoreHealth", ""},
		{"repair", "what=system-files", "run sfc.exe /scannow", ""},
		{"repair", "what={C41F7E08-93B2-4D6A-8E15-70A2B9D3F644}", "run msiexec.exe /fomus", ""},
	} {
		args := []string{c.arg}
		if r := mustRun(t, dir, 0, stepCall(c.kind, args, "--preview")...); !strings.Contains(r.out, c.show) ||
			!strings.Contains(r.out, c.after) || !strings.Contains(r.out, "cannot be undone") {
			t.Errorf("%s %s:\n%s", c.kind, c.arg, r.out)
		}
		mustRun(t, dir, 0, stepCall(c.kind, args, "--yes")...)
	}
	if r := mustRun(t, dir, 0, "journal", "--machine", "ELLERY-D07"); strings.Count(r.out, "final") != 5 {
		t.Errorf("journal:\n%s", r.out)
	}
	mustRun(t, dir, 3, "undo", "--yes", "--machine", "ELLERY-D07", "--all")
	for _, c := range []struct{ kind, arg, want string }{
		{"end-process", "process=tide*.exe", "a pattern could mean more than one"},
		{"end-process", "process=lsass.exe", "does not run without it"},
		{"end-process", "process=812", "without which the OS does not run"},
		{"sign-out", "user=mwhitlow", "the one that this program runs in"},
		{"restore-point", "title=before the fix", "a twin runs no programs"},
		{"repair", "what=everything", "not component-store"},
	} {
		if r := run(t, dir, nil, stepCall(c.kind, []string{c.arg}, "--yes")...); r.code == 0 || !strings.Contains(r.err, c.want) {
			t.Errorf("%s %s: exit %d, %q, want %q", c.kind, c.arg, r.code, r.err, c.want)
		}
	}
}

// Dangerous or malformed steps are refused, and change nothing.
func TestRefusedSteps(t *testing.T) {
	dir := layOut(t)
	write(t, dir, "bad.reg", "REGEDIT4\n[HKLM\\x\n\"a\"=1\n")
	write(t, dir, "hive.reg", "REGEDIT4\n\n[-HKEY_LOCAL_MACHINE\\SOFTWARE]\n")
	before := tree(t, filepath.Join(dir, "ELLERY-D07"))
	for _, c := range []struct {
		kind string
		args []string
		want string
	}{
		{"security", []string{"folder=" + tempFolder, "sddl=O:BAD:(A;;"}, "not a security descriptor"},
		{"security", []string{"folder=" + tempFolder, "sddl=D:(A;;FA;;;SY)"}, "lacks the owner"},
		{"owner", []string{`folder=C:\Windows`, "account=mwhitlow"}, "belongs to the whole system"},
		{"inherit", []string{`folder=C:\`, "state=off"}, "belongs to the whole system"},
		{"revoke", []string{"folder=" + oldRadio, "account=SYSTEM"}, "come from above"},
		{"quarantine", []string{`path=C:\Windows\System32\drivers`}, "part of the OS"},
		{"quarantine", []string{`path=C:\Users\mwhitlow`}, "all of a user's data"},
		{"quarantine", []string{`path=C:\..\x`}, "no plain path"},
		{"remove-key", []string{`key=HKLM\SOFTWARE\Microsoft`}, "belongs to the whole system"},
		{"remove-key", []string{`key=HKLM\SYSTEM`}, "whole hive"},
		{"import", []string{"from=bad.reg"}, "bad.reg: line 2"},
		{"import", []string{"from=hive.reg"}, "is refused"},
		{"import", []string{"from=absent.reg"}, "is not there"},
		{"remove-service", []string{"name=Spooler"}, "part of the OS"},
		{"remove-task", []string{`path=\Microsoft\Windows\Defrag\ScheduledDefrag`}, "part of the OS"},
		{"path-entry", []string{"entry=a;b", "state=present"}, "not one folder"},
		{"policy", []string{"name=anything", "state=on"}, "is not known"},
		{"safe-boot", []string{"mode=sometimes"}, "not off, minimal or network"},
		{"free-space", []string{`folder=C:\Windows\Temp`, "older=soon"}, "not a number of hours"},
		{"logon-right", []string{"account=svc-berth", "right=SeEverything"}, "is not one of"},
		{"dependency", []string{"name=Nobody", "on=x", "state=present"}, "file does not exist"},
		{"end-process", []string{"process="}, "end-process needs process"},
	} {
		if r := run(t, dir, nil, stepCall(c.kind, c.args, "--yes")...); r.code == 0 || !strings.Contains(r.err, c.want) {
			t.Errorf("%s %v: exit %d, %q, want %q", c.kind, c.args, r.code, r.err, c.want)
		}
	}
	if d := differs(before, tree(t, filepath.Join(dir, "ELLERY-D07"))); len(d) > 0 {
		t.Errorf("refused, and yet these differ: %v", d)
	}
}

// Where the OS takes no restore point that is said, and the fix goes on.
func TestRestorePoint(t *testing.T) {
	dir := layOut(t)
	if r := mustRun(t, dir, 0, "fix", "roster.log", "--machine", "ELLERY-D07", "--restore-point", "--yes"); !strings.Contains(r.err,
		"No restore point was taken: ") || !strings.Contains(r.out, "DONE.") {
		t.Errorf("%s%s", r.out, r.err)
	}
}

// A twin that comes from a stranger leads nowhere out of its folder, and says
// what is wrong with it.
func TestTwinsOfStrangers(t *testing.T) {
	for name, c := range map[string]struct {
		file, text, want string
	}{
		"stub outside":   {"disk.yaml", "'C:\\..\\x': { size: 1 }\n", "no plain path"},
		"absolute stub":  {"disk.yaml", "'/etc/passwd': { size: 1 }\n", "no path with a drive letter"},
		"access list":    {"access.yaml", "'C:\\': 'D:(A;;'\n", "access.yaml:1"},
		"services":       {"services.yaml", "- name: A\n  start: sometimes\n  state: running\n", "services.yaml:1"},
		"tasks":          {"tasks.yaml", "- path: x\n  enabled: true\n", "tasks.yaml:1"},
		"yaml":           {"twin.yaml", "name: [\n", "twin.yaml"},
		"registry":       {"registry/machine.reg", "rubbish", "registry/machine.reg: line 1"},
		"nameless":       {"twin.yaml", "os: { build: 1 }\n", "name is missing"},
		"unknown state":  {"services.yaml", "- name: A\n  start: manual\n  state: asleep\n", "asleep"},
		"security ID":    {"twin.yaml", "name: X\nusers: [{ name: u, sid: S-1-x }]\n", "twin.yaml: user"},
		"disk not a map": {"disk.yaml", "[1, 2]\n", "disk.yaml"},
	} {
		dir := layOut(t)
		write(t, dir, filepath.Join("ELLERY-D07", c.file), c.text)
		if r := run(t, dir, nil, "ready", "--machine", "ELLERY-D07"); r.code != 1 || !strings.Contains(r.err, c.want) {
			t.Errorf("%s: exit %d, %q, want %q", name, r.code, r.err, c.want)
		}
	}
	dir := layOut(t)
	outside := filepath.Join(dir, "secret.txt")
	write(t, dir, "secret.txt", "outside")
	disk := filepath.Join(dir, "ELLERY-D07", "disk", "C", "Deploy")
	if err := os.Symlink(outside, filepath.Join(disk, "link.txt")); err != nil {
		t.Skip(err)
	}
	if err := os.Symlink(dir, filepath.Join(disk, "out")); err != nil {
		t.Fatal(err)
	}
	for _, path := range []string{`C:\Deploy\link.txt`, `C:\Deploy\out\secret.txt`} {
		run(t, dir, nil, stepCall("away", []string{"file=" + path}, "--yes")...)
		run(t, dir, nil, stepCall("quarantine", []string{"path=" + path}, "--yes")...)
		if r := run(t, dir, nil, stepCall("place", []string{"out=" + path, "from=berthline.log"}, "--yes")...); r.code == 0 &&
			path != `C:\Deploy\link.txt` {
			t.Errorf("%s was written: %s", path, r.out)
		}
		if b, err := os.ReadFile(outside); err != nil || string(b) != "outside" {
			t.Fatalf("%s led out of the twin: %q, %v", path, b, err)
		}
	}
}
