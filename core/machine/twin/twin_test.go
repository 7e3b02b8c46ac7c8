package twin

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/machine"
	"hollowkey/core/machine/machinetest"
	"hollowkey/core/machine/regfile"
	"hollowkey/demo"
)

func open(t *testing.T) (*Twin, string) {
	t.Helper()
	dir := t.TempDir()
	if err := demo.LayOut(filepath.Join(dir, "d")); err != nil {
		t.Fatal(err)
	}
	folder := filepath.Join(dir, "d", demo.Machine)
	tw, err := Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { tw.Close() })
	return tw, folder
}

func snapshot(t *testing.T, folder string) string {
	t.Helper()
	var b bytes.Buffer
	for _, name := range []string{"access.yaml", "services.yaml", "registry/user.reg", "registry/machine.reg"} {
		text, err := os.ReadFile(filepath.Join(folder, name))
		if err != nil {
			t.Fatal(err)
		}
		b.Write(text)
	}
	return b.String()
}

func TestTwinPassesTheSuite(t *testing.T) {
	tw, folder := open(t)
	before := snapshot(t, folder)
	machinetest.Run(t, tw, machinetest.Fixture{
		Key: `HKCU\Software\Microsoft\Windows\CurrentVersion\Explorer\Shell Folders`, Folder: `C:\Users\mwhitlow\AppData\Local\Temp`,
		Service: "TideClock", Account: "mwhitlow", NoFolder: `C:\Nothing`,
	})
	if after := snapshot(t, folder); after != before {
		t.Error("the suite left traces in the twin")
	}
}

func TestSecurityComesFromAbove(t *testing.T) {
	tw, folder := open(t)
	before := snapshot(t, folder)
	const path = `C:\Users\mwhitlow\AppData\Local\Temp\berth-notes.tmp`
	s, err := tw.FileSecurity(path)
	if err != nil || s.Own || !strings.Contains(s.SDDL, "(A;ID;FA;;;S-1-5-21-") || strings.Contains(s.SDDL, ";SY)") {
		t.Errorf("a file's inherited list: %+v, %v", s, err)
	}
	if err := tw.SetFileSecurity(path, machine.Security{SDDL: "O:SYD:P(A;;FA;;;SY)", Own: true}); err != nil {
		t.Fatal(err)
	}
	if got, _ := tw.FileSecurity(path); got.SDDL != "O:SYD:P(A;;FA;;;SY)" || !got.Own {
		t.Errorf("after setting: %+v", got)
	}
	if err := tw.SetFileSecurity(path, machine.Security{Own: false}); err != nil || snapshot(t, folder) != before {
		t.Errorf("taking it away left traces (%v)", err)
	}
	if err := tw.SetFileSecurity(path, machine.Security{SDDL: "rubbish", Own: true}); err == nil || snapshot(t, folder) != before {
		t.Errorf("rubbish was written (%v)", err)
	}
	if s, err := tw.FileSecurity(`C:\Deploy`); err != nil || !strings.Contains(s.SDDL, "(A;OICIID;0x1200a9;;;BU)") {
		t.Errorf("a folder below the root: %+v, %v", s, err)
	}
}

func TestStartingWhatDependsOnOthers(t *testing.T) {
	tw, _ := open(t)
	for _, step := range []struct {
		do   func() error
		want string
	}{
		{func() error { return tw.StartService("BerthSync") }, "system error 1068"},
		{func() error { return tw.SetStartType("TideClock", machine.StartManual) }, ""},
		{func() error { return tw.StartService("Ellery Tide Clock") }, ""},
		{func() error { return tw.StartService("BerthSync") }, ""},
		{func() error { return tw.StartService("BerthSync") }, "system error 1056"},
		{func() error { return tw.StopService("TideClock") }, "system error 1051"},
		{func() error { return tw.StopService("BerthSync") }, ""},
		{func() error { return tw.StopService("BerthSync") }, "system error 1062"},
	} {
		err := step.do()
		if (err == nil) != (step.want == "") || err != nil && !strings.Contains(err.Error(), step.want) {
			t.Errorf("got %v, want %q", err, step.want)
		}
	}
}

func TestNewKeyGoesToItsNeighbours(t *testing.T) {
	tw, folder := open(t)
	if err := tw.CreateKey(`HKLM\SOFTWARE\Nine Fathom\Roster`); err != nil {
		t.Fatal(err)
	}
	v, _ := regfile.Make(regfile.String, "x")
	if err := tw.SetValue(`HKLM\SOFTWARE\Nine Fathom\Roster`, "", v); err != nil {
		t.Fatal(err)
	}
	again, err := Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	defer again.Close()
	if got, err := again.Value(`HKEY_LOCAL_MACHINE\software\nine fathom\roster`, ""); err != nil || got.Words() != "x" {
		t.Errorf("after opening it again: %q, %v", got.Words(), err)
	}
	if b, _ := os.ReadFile(filepath.Join(folder, "registry", "machine.reg")); !bytes.Contains(b, []byte("Nine Fathom")) {
		t.Error("the key of the machine went into another file")
	}
}

func FuzzSheet(f *testing.F) {
	f.Add("'C:\\': O:SYD:P # comment\n\"b\": \"x\\\\y\"\nplain: value\n", "O:BAD:P(A;;FA;;;SY)")
	f.Add("a: b", "c")
	f.Fuzz(func(t *testing.T, text, value string) {
		s := &sheet{name: "fuzz.yaml", text: []byte(text)}
		if s.parse() != nil || strings.ContainsAny(value, "\n\r\x00#:'\"{}[],&*!|>%@`\\ \t") || value == "" {
			return
		}
		for _, p := range s.pairs() {
			was := p.value.Value
			if p.value.Kind != 8 || strings.ContainsAny(was, "\n\r") { // scalars of one line
				continue
			}
			if s.set(p.value, value) != nil {
				if string(s.text) != text {
					t.Fatalf("a refused change left %q of %q", s.text, text)
				}
				return
			}
			if n := find(s.doc, p.key.Value); n == nil {
				t.Fatalf("%q: the key is gone after set:\n%s", p.key.Value, s.text)
			}
			return
		}
	})
}

// Tasks, rights, sessions and dependencies are changed in place, and changed
// back leave no trace.
func TestOtherEntries(t *testing.T) {
	tw, folder := open(t)
	read := func(name string) string {
		b, _ := os.ReadFile(filepath.Join(folder, name))
		return string(b)
	}
	tasks, services, self := read("tasks.yaml"), read("services.yaml"), read("twin.yaml")
	const task = `\Nine Fathom\Fairway Update`
	if err := tw.SetTaskEnabled(strings.ToUpper(task), true); err != nil || strings.Count(read("tasks.yaml"), "enabled: true") != 2 {
		t.Errorf("%v\n%s", err, read("tasks.yaml"))
	}
	if err := tw.SetTaskEnabled(task, false); err != nil || read("tasks.yaml") != tasks {
		t.Errorf("%v\n%s", err, read("tasks.yaml"))
	}
	for _, kind := range []struct {
		kind, name string
		remove     func(string) error
		file       string
	}{{"task", task, tw.DeleteTask, "tasks.yaml"}, {"service", "TideClock", tw.DeleteService, "services.yaml"}} {
		before := read(kind.file)
		sec, err := tw.Section(kind.kind, kind.name)
		if err != nil || sec == nil {
			t.Fatalf("%v %v", sec, err)
		}
		if err := kind.remove(kind.name); err != nil || read(kind.file) == before {
			t.Errorf("%s was not deleted: %v", kind.name, err)
		}
		if again, err := tw.Section(kind.kind, kind.name); err != nil || again != nil {
			t.Errorf("the section of a deleted %s: %v %v", kind.kind, again, err)
		}
		if err := tw.PutSection(kind.kind, *sec); err != nil || read(kind.file) != before {
			t.Errorf("%s was not put back: %v", kind.name, err)
		}
	}
	if err := tw.DeleteService("Spooler"); err == nil || !strings.Contains(err.Error(), "stop it first") {
		t.Errorf("a running service: %v", err)
	}
	if err := tw.SetDependencies("BerthSync", []string{"TideClock", "rpcss"}); err != nil ||
		!strings.Contains(read("services.yaml"), "depends on: [TideClock, rpcss]") {
		t.Errorf("%v", err)
	}
	if err := tw.SetDependencies("BerthSync", []string{"TideClock"}); err != nil || read("services.yaml") != services {
		t.Errorf("%v\n%s", err, read("services.yaml"))
	}
	if err := tw.SetDependencies("FairwayRadio", []string{"rpcss"}); err == nil {
		t.Error("a service without the list was changed in place")
	}
	if err := tw.SetLogonRight("svc-berth", "SeServiceLogonRight", true); err != nil {
		t.Error(err)
	}
	if err := tw.SetLogonRight("svc-berth", "SeBatchLogonRight", true); err != nil {
		t.Error(err)
	}
	if got, err := tw.LogonRights("S-1-5-21-2104885761-1177238915-682003330-1140"); err != nil || len(got) != 2 {
		t.Errorf("%v %v", got, err)
	}
	for _, r := range []string{"SeBatchLogonRight", "SeServiceLogonRight"} {
		if err := tw.SetLogonRight("svc-berth", r, false); err != nil {
			t.Error(err)
		}
	}
	if _, err := os.Stat(filepath.Join(folder, "rights.yaml")); err == nil {
		t.Error("an empty rights.yaml stays")
	}
	for _, to := range []machine.SafeBoot{machine.SafeBootMinimal, machine.SafeBootNetwork, machine.SafeBootOff} {
		if err := tw.SetSafeBoot(to); err != nil {
			t.Error(err)
		}
		if got, err := tw.SafeBoot(); err != nil || got != to {
			t.Errorf("%s, %v; want %s", got, err, to)
		}
	}
	if read("twin.yaml") != self {
		t.Error("safe mode left a trace")
	}
	if err := tw.SignOut(3); err != nil {
		t.Error(err)
	}
	if s, err := tw.Sessions(); err != nil || len(s) != 1 || !s[0].Own {
		t.Errorf("%+v %v", s, err)
	}
	const held = `C:\Windows\Temp\tidebook-dump.tmp`
	var no machine.SystemError
	if err := tw.RemoveFile(held); !errors.As(err, &no) || no.Code != 32 {
		t.Errorf("a file that is held: %v", err)
	}
	if list, err := tw.Holders(strings.ToUpper(held)); err != nil || len(list) != 1 || list[0].ID != 5204 {
		t.Errorf("%+v %v", list, err)
	}
	if err := errors.Join(tw.EndProcess(5204), tw.RemoveFile(held)); err != nil {
		t.Error(err)
	}
}

// Lists that are written in one line are not cut to pieces.
func TestListsInOneLine(t *testing.T) {
	dir := t.TempDir()
	text := "name: X\nsessions: [{ id: 1, user: a }, { id: 2, user: b }]\nprocesses: [{ id: 5, name: x.exe }]\n"
	if err := os.WriteFile(filepath.Join(dir, "twin.yaml"), []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	tw, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer tw.Close()
	if err := tw.SignOut(1); err == nil || !strings.Contains(err.Error(), "lines of their own") {
		t.Errorf("%v", err)
	}
	if err := tw.EndProcess(5); err != nil {
		t.Error(err)
	}
	b, _ := os.ReadFile(filepath.Join(dir, "twin.yaml"))
	if got := string(b); got != "name: X\nsessions: [{ id: 1, user: a }, { id: 2, user: b }]\n" {
		t.Errorf("%q", got)
	}
}

// Whatever the list, an entry that can be cut out leaves the others, and goes
// back to the byte.
func FuzzEntries(f *testing.F) {
	f.Add("- path: a\n  runs: x\n- path: b # c\n  d: |\n    two\n    lines\n- {e: 1}\n")
	f.Add("# head\n- 'a\n  b'\n- c\n\n- d")
	f.Fuzz(func(t *testing.T, text string) {
		s := &sheet{name: "fuzz.yaml", text: []byte(text)}
		if len(text) > 1<<14 || s.parse() != nil || s.doc == nil || s.doc.Kind != yaml.SequenceNode || len(s.doc.Content) == 0 {
			return
		}
		for i := range s.doc.Content {
			n := len(s.doc.Content)
			from, to, err := s.entryLines(s.doc, i)
			if err != nil {
				continue
			}
			lines := s.lines(from, to)
			if s.cutEntry(func() *yaml.Node { return s.doc }, i, from, to) != nil {
				if string(s.text) != text {
					t.Fatalf("a refused cut left %q of %q", s.text, text)
				}
				continue
			}
			left := 0
			if s.doc != nil {
				left = len(s.doc.Content)
			}
			if left != n-1 && left != 0 {
				t.Fatalf("%d entries of %d are left in %q of %q", left, n, s.text, text)
			}
			if err := s.put(lines, from); err != nil || string(s.text) != text {
				t.Fatalf("%v: came back as %q, was %q", err, s.text, text)
			}
		}
	})
}
