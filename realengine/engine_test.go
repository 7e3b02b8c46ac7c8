// Package realengine checks what we read, write and work out against a real
// installer engine, the one of Debian's wine. Without wine the tests skip,
// unless HOLLOWKEY_ENGINE is "required"; they skip with "off", too.
package realengine

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/realengine/ask"
)

var (
	prefix  string // of wine
	host    string // the program that asks the engine
	absent  string // why there is no engine
	scratch string
)

func TestMain(m *testing.M) {
	var err error
	if scratch, err = os.MkdirTemp("", "hollowkey-engine-"); err != nil {
		panic(err)
	}
	if os.Getenv("HOLLOWKEY_ENGINE") == "off" {
		absent = "HOLLOWKEY_ENGINE is off"
	} else if err := startEngine(); err != nil {
		absent = err.Error()
	}
	code := 0
	if absent != "" && os.Getenv("HOLLOWKEY_ENGINE") == "required" {
		fmt.Println("FAIL: the real engine is required here and is not there:", absent)
		code = 1
	} else {
		code = m.Run()
	}
	if prefix != "" {
		wine("wineserver", "-k").Run() // ends the programs of our own prefix only
	}
	os.RemoveAll(scratch)
	os.Exit(code)
}

// startEngine makes a wine prefix of our own and puts into it what programs
// built with Go need there.
func startEngine() error {
	for _, tool := range []string{"wine", "wineserver", "x86_64-w64-mingw32-gcc"} {
		if _, err := exec.LookPath(tool); err != nil {
			return fmt.Errorf("%s is not installed", tool)
		}
	}
	prefix = filepath.Join(scratch, "prefix")
	host = filepath.Join(scratch, "host.exe")
	build := exec.Command("go", "build", "-o", host, "hollowkey/realengine/host")
	build.Env = append(os.Environ(), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
	system := filepath.Join(prefix, "drive_c", "windows", "system32")
	for _, c := range []*exec.Cmd{
		build, wine("wine", "wineboot", "-i"), wine("wine", "winecfg", "-v", "win10"),
		exec.Command("x86_64-w64-mingw32-gcc", "-shared", "-o", filepath.Join(system, "bcryptprimitives.dll"), "testdata/prng.c", "-ladvapi32"),
	} {
		if out, err := c.CombinedOutput(); err != nil {
			return fmt.Errorf("%s: %v\n%s", strings.Join(c.Args, " "), err, out)
		}
	}
	// A server that stays, and its services: each call would pay for a cold
	// start otherwise. They would hold a pipe open, so they get none.
	wine("wineserver", "-k").Run()
	wine("wineserver", "-w").Run()
	if err := wine("wineserver", "--persistent").Run(); err != nil {
		return err
	}
	return wine("wine", "net", "start", "msiserver").Run()
}

func wine(args ...string) *exec.Cmd {
	c := exec.Command(args[0], args[1:]...)
	c.Env = append(os.Environ(), "WINEPREFIX="+prefix, "WINEDEBUG=-all", "WINEDLLOVERRIDES=mscoree,mshtml=", "LC_ALL=C.UTF-8")
	return c
}

// wineFell says that wine itself fell, as it does now and then on a busy
// machine: its loader by a page fault, which a program built with Go answers
// itself, or its line to the server. Nothing of ours prints these words.
func wineFell(out string) bool {
	for _, words := range []string{"Unhandled page fault", "recvmsg: ", "wine client error", "msiexec.exe: Internal error."} {
		if strings.Contains(out, words) {
			return true
		}
	}
	return false
}

// ours runs our own program there, and once more where wine fell: that is also
// where it failed without a word, which it never does by itself.
func ours(dir, program string, args ...string) (code int, said string) {
	for try := 0; ; try++ {
		c := wine(append([]string{"wine", program}, args...)...)
		c.Dir = dir
		out, _ := c.CombinedOutput()
		code, said = c.ProcessState.ExitCode(), string(out)
		if fell := wineFell(said) || code != 0 && strings.TrimSpace(said) == ""; !fell || try > 0 {
			return code, said
		}
	}
}

// expect gives what our program prints there; the test ends where it ends with
// another exit code.
func expect(t *testing.T, dir, program string, want int, args ...string) string {
	t.Helper()
	code, said := ours(dir, program, args...)
	if code != want {
		t.Fatalf("%v: exit %d, want %d\n%s", args, code, want, said)
	}
	return said
}

// engine asks the engine one thing; the test skips where there is none.
func engine(t *testing.T, q ask.Request) ask.Answer {
	t.Helper()
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	dir := t.TempDir()
	in, out := filepath.Join(dir, "ask.json"), filepath.Join(dir, "answer.json")
	b, err := json.Marshal(q)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(in, b, 0o644); err != nil {
		t.Fatal(err)
	}
	once := func() (a ask.Answer, said string) {
		text, err := wine("wine", host, windowsPath(in), windowsPath(out)).CombinedOutput()
		if wineFell(string(text)) {
			return a, string(text)
		}
		if err != nil {
			t.Fatalf("the engine's host: %v\n%s", err, text)
		}
		if b, err = os.ReadFile(out); err == nil {
			err = json.Unmarshal(b, &a)
		}
		if err != nil {
			t.Fatal(err)
		}
		return a, a.Error
	}
	a, said := once()
	if wineFell(said) {
		t.Logf("wine fell, once more: %s", said)
		a, said = once()
	}
	if a.Error == "" && said != "" {
		a.Error = said
	}
	if a.Error != "" {
		t.Fatalf("the engine says: %s", a.Error)
	}
	return a
}

// windowsPath is a path of ours as programs under wine see it.
func windowsPath(p string) string { return "Z:" + strings.ReplaceAll(p, "/", `\`) }
