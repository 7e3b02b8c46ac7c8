package realengine

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/demo/demotest"
)

// Every command that the Windows program prints can be pasted into cmd, in a
// folder whose name is as awkward as people's: the shell takes it, it is no
// wrong call, and what it names is there.
func TestPrintedCommandsInTheShell(t *testing.T) {
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	bin := t.TempDir()
	must(t, os.Rename(build(t, "build", "hollowkey/cmd/hollowkey"), filepath.Join(bin, "hollowkey.exe")))
	dir := filepath.Join(t.TempDir(), "Port Ellery & (old) logs")
	must(t, os.Mkdir(dir, 0o755))
	// A command file holds one line as it was printed; what it ends with is the
	// program's.
	shell := func(line string) (int, string) {
		t.Helper()
		script := filepath.Join(bin, "pasted.cmd")
		must(t, os.WriteFile(script, []byte("@"+line+"\r\n@exit %errorlevel%\r\n"), 0o600))
		for try := 0; ; try++ {
			c := wine("wine", "cmd.exe", "/c", windowsPath(script))
			c.Dir = dir
			c.Env = append(c.Environ(), "WINEPATH="+windowsPath(bin))
			said, err := c.CombinedOutput()
			if wineFell(string(said)) && try == 0 {
				continue
			}
			var failed *exec.ExitError
			if err != nil && !errors.As(err, &failed) {
				t.Fatal(err)
			}
			return c.ProcessState.ExitCode(), string(said)
		}
	}
	on := " --machine " + `"demo day\ELLERY-D07"`
	found, typed := map[string]string{}, []string{}
	for _, call := range []string{
		`demo --into "demo day"`, `why "demo day\tidebook.log"`, `why "demo day\berthline.log"` + on, `fix "demo day\ledger.log"` + on,
		`fix "demo day\tidebook.log" --yes` + on, `journal` + on, `package overview "demo day\berthline-planner-3.1.msi"`,
		`package gates "demo day\berthline-planner-3.1.msi"` + on, `package unpack "demo day\berthline-planner-3.1.msi"`, `ready` + on, `products` + on,
		`leftovers "Fairway Radio 1"` + on, `cache` + on, `startup hold --preview` + on, `logs` + on, `case list "demo day"`, `signs list service`,
		`code 1603`, `retry "demo day\tidebook.log"` + on, `case` + on, `trail "demo day\roster.log"`, `triage add "demo day" --store fleet.db`, `triage top --store fleet.db`,
	} {
		typed = append(typed, "hollowkey "+call)
		code, said := shell("hollowkey " + call)
		if code > 3 || code == 2 {
			t.Fatalf("%s: %d\n%s", call, code, said)
		}
		for _, c := range demotest.Printed(said) {
			if found[c] == "" {
				found[c] = call
			}
		}
	}
	if len(found) < 12 {
		t.Fatalf("only %d commands were printed: %q", len(found), found)
	}
	commands := make([]string, 0, len(found))
	for c := range found {
		commands = append(commands, c)
	}
	slices.Sort(commands)
	ran := 0
	for _, c := range commands {
		if slices.Contains(typed, c) {
			continue
		}
		ran++
		code, said := shell(c)
		// The program as it runs on the machine itself; the demo's package is
		// not on this one.
		elsewhere := strings.HasSuffix(c, " --machine live") && code == 1
		if code == 2 || code > 3 || code == 1 && !elsewhere && (strings.Contains(said, "is not there") || strings.Contains(said, "Can't recognize")) {
			t.Errorf("%s\nprinted by %q, ends with %d:\n%s", c, found[c], code, fmt.Sprintf("%.1500s", said))
		}
	}
	t.Logf("%d commands pasted", ran)
	// Called from PowerShell, which this engine has not, it prints what that
	// one takes: a program under its name is told apart by that name.
	if text, err := exec.Command("x86_64-w64-mingw32-gcc", "-O", "-o", filepath.Join(bin, "powershell.exe"),
		filepath.Join("testdata", "calls.c")).CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	c := wine("wine", windowsPath(filepath.Join(bin, "powershell.exe")), windowsPath(filepath.Join(bin, "hollowkey.exe")),
		"package", "unpack", "planner,old.msi")
	c.Dir = filepath.Join(dir, "demo day")
	must(t, os.Rename(filepath.Join(c.Dir, "berthline-planner-3.1.msi"), filepath.Join(c.Dir, "planner,old.msi")))
	said, err := c.CombinedOutput()
	must(t, err)
	if !strings.Contains(string(said), `package unpack 'planner,old.msi'`) {
		t.Errorf("called from PowerShell it prints:\n%s", said)
	}
}
