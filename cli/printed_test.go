package cli_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"

	"hollowkey/demo/demotest"
)

// Every command that is printed can be pasted: the shell takes it, it is no
// wrong call, and what it names is there.
func TestPrintedCommandsRun(t *testing.T) {
	t.Parallel() // it takes long, and most of it is waiting for processes
	if runtime.GOOS == "windows" {
		t.Skip("a POSIX shell is needed")
	}
	dir := layOut(t)
	bin := filepath.Join(t.TempDir(), "bin")
	if err := os.Mkdir(bin, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink(program, filepath.Join(bin, "hollowkey")); err != nil {
		t.Fatal(err)
	}
	found := map[string]string{} // by command: the call that printed it
	var typed []string           // a case lists what was typed
	note := func(call []string, text string) {
		typed = append(typed, "hollowkey "+strings.Join(call, " "))
		for _, c := range demotest.Printed(text) {
			if found[c] == "" {
				found[c] = strings.Join(call, " ")
			}
		}
	}
	for _, call := range append(calls(t, dir), []string{"demo", "--into", "again"}, []string{"fix", "ledger.log", "--machine", "ELLERY-D07"}) {
		r := run(t, dir, nil, call...)
		note(call, r.out)
		note(call, r.err)
	}
	if len(found) < 25 {
		t.Fatalf("only %d commands were printed: %q", len(found), found)
	}
	commands := make([]string, 0, len(found))
	for c := range found {
		commands = append(commands, c)
	}
	slices.Sort(commands)
	for _, c := range commands {
		if slices.Contains(typed, c) {
			continue
		}
		sh := exec.Command("sh", "-c", c)
		sh.Dir = dir
		sh.Env = append(os.Environ(), "PATH="+bin+string(os.PathListSeparator)+os.Getenv("PATH"))
		out, err := sh.CombinedOutput()
		switch code := sh.ProcessState.ExitCode(); {
		case err != nil && code < 0:
			t.Errorf("%q, printed by %q: %v", c, found[c], err)
		case code == 2 || code == 127 || code > 3:
			t.Errorf("%q, printed by %q, ends with %d:\n%s", c, found[c], code, out)
		case strings.Contains(string(out), "is not there") && code == 1:
			t.Errorf("%q, printed by %q, names what is not there:\n%s", c, found[c], out)
		}
	}
}
