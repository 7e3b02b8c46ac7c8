package verdict

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

func result(n int) *int { return &n }

func attempt(change func(*story.Attempt)) *story.Attempt {
	a := &story.Attempt{Dialect: story.Engine, Properties: map[string]story.Property{}}
	change(a)
	return a
}

func TestOutcome(t *testing.T) {
	install := func(value int) func(*story.Attempt) {
		return func(a *story.Attempt) {
			a.Actions = []*story.Action{{Name: "INSTALL", Result: result(value), EndLine: 9, Failed: value == 3 || value == 2}}
		}
	}
	exit := func(n int) func(*story.Attempt) {
		return func(a *story.Attempt) { a.Exit = &story.Exit{Code: n} }
	}
	for _, tt := range []struct {
		name   string
		change func(*story.Attempt)
		want   story.Outcome
	}{
		{"0", exit(0), story.Succeeded}, {"0 with a restart due", func(a *story.Attempt) { exit(0)(a); a.Restart = true }, story.Restart},
		{"3010", exit(3010), story.Restart}, {"1641", exit(1641), story.Restart}, {"1602", exit(1602), story.Cancelled},
		{"1603", exit(1603), story.Failed}, {"-5", exit(-5), story.Failed},
		{"says that it worked", func(a *story.Attempt) { a.Success = new(true) }, story.Succeeded},
		{"says that it worked, restart", func(a *story.Attempt) { a.Success, a.Restart = new(true), true }, story.Restart},
		{"says that it failed", func(a *story.Attempt) { a.Success = new(false) }, story.Failed},
		{"somebody stopped it", func(a *story.Attempt) { a.Success, a.Cancelled = new(false), true }, story.Cancelled},
		{"failed, and the run ended with 2", func(a *story.Attempt) { a.Success = new(false); install(2)(a) }, story.Cancelled},
		{"the run ended with 1", install(1), story.Succeeded}, {"with 2", install(2), story.Cancelled}, {"with 3", install(3), story.Failed},
		{"with 4", install(4), story.Restart},
		{"it stops in the middle", func(a *story.Attempt) { a.Actions = []*story.Action{{Name: "INSTALL"}} }, story.Unfinished},
		{"it tells nothing", func(*story.Attempt) {}, story.Unknown},
	} {
		if got := outcome(attempt(tt.change)); got != tt.want {
			t.Errorf("%s: %s, want %s", tt.name, got, tt.want)
		}
	}
}

func TestBreaking(t *testing.T) {
	run := &story.Action{Name: "INSTALL", Failed: true, Result: result(3), EndLine: 90}
	fine := &story.Action{Name: "CostFinalize", Parent: run, Result: result(1), EndLine: 20}
	host := &story.Action{Name: "InstallFinalize", Parent: run, Failed: true, Result: result(3), EndLine: 80}
	ignored := &story.Action{Name: "SetRight", Parent: host, Phase: story.Deferred, Ignored: true, EndLine: 40}
	broke := &story.Action{Name: "StartServices", Parent: host, Phase: story.Deferred, Failed: true, Inferred: true, EndLine: 80}
	back := &story.Action{Name: "StopServices", Parent: host, Phase: story.Rollback, Failed: true, EndLine: 85}
	dialog := &story.Action{Name: "FatalError", Parent: run, Result: result(1), EndLine: 89}
	a := attempt(func(a *story.Attempt) { a.Actions = []*story.Action{run, fine, host, ignored, broke, back, dialog} })
	names := func(o story.Outcome) (s string) {
		for _, x := range breaking(a, o) {
			s += x.Name + " "
		}
		return s
	}
	if got := names(story.Failed); got != "INSTALL InstallFinalize StartServices " {
		t.Errorf("down to %q", got)
	}
	host.EndLine, broke.EndLine, run.EndLine = 0, 0, 0
	if got := names(story.Unfinished); got != "INSTALL InstallFinalize StartServices " {
		t.Errorf("in an unfinished log down to %q", got)
	}
}

func TestHarmless(t *testing.T) {
	note := func(number int, fields ...string) *story.Message {
		return &story.Message{Kind: story.KindNote, Number: number, Fields: append([]string{fmt.Sprint(number)}, fields...)}
	}
	for _, tt := range []struct {
		m    *story.Message
		want bool
	}{
		{note(2203, `C:\x.ipi`, "-2147287038"), true}, {note(2203, `C:\x.ipi`, "-2147287035"), false}, {note(1402, `HKLM\x`, "2"), true},
		{note(1402, `HKLM\x`, "5"), false},
		{note(2205), true}, {note(1303), false}, {note(1707), true}, {&story.Message{Kind: story.KindInfo}, true},
		{&story.Message{Kind: story.KindInfo, Number: 1603}, true},
		{&story.Message{Kind: story.KindDebug, Number: 2826}, true}, {&story.Message{Kind: story.KindDebug, Number: 2203}, false},
		{&story.Message{Kind: story.KindError, Number: 1303}, false},
	} {
		if got := harmless(tt.m); got != tt.want {
			t.Errorf("%s %d %v: %v, want %v", tt.m.Kind, tt.m.Number, tt.m.Fields, got, tt.want)
		}
	}
}

func TestReadText(t *testing.T) {
	for _, tt := range []struct {
		text, class string
		code        int
	}{
		{"Failed with 0x80070005", "permission", 5}, {"hr=0x80073712 while", "component-store", -2146498798 + 0},
		{"ended with 0xC0000135", "prerequisite", -1073741515},
		{"Error: ENOSPC: no space left on device", "space", 0}, {"EACCES, open", "permission", 0},
		{"java.net.UnknownHostException: x", "network", 0},
		{"System.BadImageFormatException", "platform", 0}, {"CopyFile: win32 error 32", "in-use", 32}, {"error code: 112", "space", 112},
		{"GLE=1058", "service", 1058},
		{"returned code -2147024891", "permission", -2147024891}, {"nothing of that sort", "", 0}, {"error 0", "", 0}, {"error 1", "", 0},
		{"exit code 1618", "busy", 1618},
	} {
		r, ok := readText(tt.text)
		code := 0
		if r.code != nil {
			code = *r.code
		}
		if r.class != tt.class || ok != (tt.class != "") || tt.code != 0 && tt.class != "component-store" && code != tt.code {
			t.Errorf("readText(%q) = %q %d, %v; want %q %d", tt.text, r.class, code, ok, tt.class, tt.code)
		}
	}
}

func TestFillFields(t *testing.T) {
	if got := fillFields("the service [2] ([3]) and [4]",
		[]string{"1920", "Berth Sync", "BerthSync"}); got != "the service Berth Sync (BerthSync) and …" {
		t.Errorf("got %q", got)
	}
}

func TestDataCaptures(t *testing.T) {
	for _, tt := range []struct{ text, name, want string }{
		{`CustomActionSchedule(Action=Host,ActionType=3090,Source=C:\Program Files\x\host.exe,Target=/r,)`, "program", "host.exe"},
		{"ServiceControl(,Name=BerthSync,Action=1,Wait=1,)", "service", "BerthSync"},
		{`RegOpenKey(Root=-2147483646,Key=SOFTWARE\Quay,,BinaryType=1,,)`, "key", `SOFTWARE\Quay`},
		{`FolderCreate(Folder=C:\Quay\,Foreign=0,,)`, "folder", `C:\Quay\`},
		{"FileCopy(SourceName=A~1.DLL|a.dll,DestName=a.dll,Attributes=512)", "file", "a.dll"},
		{"StartServices: Service: Berth Sync", "doing", "Berth Sync"},
		{"Service: Berth Sync", "doing", "Berth Sync"},
		{"InstallFiles: File: a.dll,  Directory: C:\\x\\,  Size: 5", "doing", "a.dll"},
		{`C:\Program Files\x.exe`, "doing", `C:\Program Files\x.exe`},
	} {
		caps := map[string]string{}
		if dataCaptures(tt.text, caps); caps[tt.name] != tt.want {
			t.Errorf("%q: %v, want %s=%q", tt.text, caps, tt.name, tt.want)
		}
	}
}

// machineStub answers checks as a test wants.
type machineStub map[string]string

func (m machineStub) Check(name string, with map[string]string) (signs.Finding, map[string]string) {
	return signs.Finding{Check: name, Answer: m[name], Text: "looked for " + with["service"]},
		map[string]string{"blocker": "TideClock", "mode": "manual", "because": "So it is."}
}

func TestTheMachineDecides(t *testing.T) {
	judge := func(answer string) *Verdict {
		t.Helper()
		var m signs.Checker
		if answer != "" {
			m = machineStub{"service-startable": answer}
		}
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(string(failedLog(t, 5)))}, Options{Machine: m})
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	alone, yes, no := judge(""), judge("yes"), judge("no")
	if yes.Cause.Confidence <= alone.Cause.Confidence || no.Cause.Confidence >= alone.Cause.Confidence {
		t.Errorf("sure alone %.2f, with a yes %.2f, with a no %.2f", alone.Cause.Confidence, yes.Cause.Confidence, no.Cause.Confidence)
	}
	if yes.FirstWithSteps() != 0 || yes.Remedies[0].Target != "TideClock" || len(yes.Machine) != 1 ||
		yes.Machine[0].Text != "looked for BerthSync" {
		t.Errorf("with a yes: %+v %+v", yes.Remedies, yes.Machine)
	}
	if alone.FirstWithSteps() != -1 {
		t.Errorf("without a machine there are steps: %+v", alone.Remedies)
	}
	if !strings.Contains(strings.Join(no.Remarks, " "), "does not show it now") {
		t.Errorf("with a no: %v", no.Remarks)
	}
}

// What no sign knows is told by the message's number, and then by nothing.
func TestWithoutASign(t *testing.T) {
	const frame = "Action 9:12:01: INSTALL. \nAction start 9:12:01: INSTALL.\nAction start 9:12:02: %s.\n%sAction ended 9:12:03: %[1]s. Return value 3.\nAction ended 9:12:03: INSTALL. Return value 3.\n"
	none := &signs.Pack{}
	for _, tt := range []struct {
		action, said, class string
		message             int
	}{
		{"CreateFolders", "Error 1312. Cannot create the directory 'C:\\x'.\n", "path", 1312},
		{"RunThing", "", "custom-action", 0},
		{"CostFinalize", "", "unknown", 0},
	} {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(fmt.Sprintf(frame, tt.action, tt.said))}, Options{Signs: none})
		if err != nil {
			t.Fatal(err)
		}
		message := 0
		if v.Cause.Message != nil {
			message = *v.Cause.Message
		}
		if *v.Cause.Class != tt.class || message != tt.message || v.Cause.Confidence > 0.65 || len(v.Remedies) == 0 ||
			*v.BrokeAt.Action != tt.action {
			t.Errorf("%s: %s, message %d at %.2f", tt.action, *v.Cause.Class, message, v.Cause.Confidence)
		}
	}
}

func TestEveryClassHasARemedy(t *testing.T) {
	for _, c := range signs.Classes {
		if m, ok := general[c]; !ok || m.Title == "" {
			t.Errorf("the class %s has no remedy", c)
		}
	}
}

// A cause that is known more closely than by its class is named so, and has a
// remedy of its own.
func TestSpecialCauses(t *testing.T) {
	seen := map[string]bool{}
	for log, kind := range map[string]string{
		"port-of-wrong-type": "value-type", "device-time-of-2019": "clock", "admin-group-deny-only": "token", "source-offline": "share-offline",
		"uninstaller-is-gone": "uninstaller", "runtime-of-other-bits": "bits", "longest-path-will-have": "length", "connector-for-nine": "version",
		"built-for-another-processor": "processor", "provider-absent-far-before": "runtime", "amd64-from-32-bits": "bits",
		"unspecified-devices-denied": "policy-value",
	} {
		v := reachFile(t, filepath.Join("labelled", "own-"+log+".log"))
		of := specials[kind]
		seen[kind] = true
		if v.Cause.Title != of.title || !strings.HasPrefix(v.Cause.Summary, of.title) || v.Remedies[0].Title != of.remedy.Title {
			t.Errorf("%s: %q, %q; want %q", log, v.Cause.Summary, v.Remedies[0].Title, of.title)
		}
	}
	for kind, of := range specials {
		if !slices.Contains([]string{"permission", "elevation", "service", "registry", "condition", "file", "cache", "environment", "startup",
			"restart", "package", "policy", "network", "repair", "advice"}, of.remedy.Class) || of.title == "" || of.remedy.Title == "" {
			t.Errorf("%s: %+v", kind, of)
		}
	}
	if len(seen) < len(specials)*2/3 {
		t.Errorf("%d of %d kinds are seen in the labelled logs", len(seen), len(specials))
	}
}
