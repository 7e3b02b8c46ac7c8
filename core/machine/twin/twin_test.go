package twin

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

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
