package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// A path that logs --machine prints is taken by every command that reads a log.
func TestLogsOnTheMachine(t *testing.T) {
	dir := layOut(t)
	const log = `C:\Windows\Temp\tidebook.log`
	mustRun(t, dir, 0, "case", "open", "--case", "of-paths", "--title", "paths")
	mustRun(t, dir, 0, "case", "add", log, "--case", "of-paths", "--machine", "ELLERY-D07")
	kept, err := os.ReadFile(filepath.Join(dir, "of-paths", "evidence", "tidebook.log"))
	if err != nil {
		t.Fatal(err)
	}
	there, err := os.ReadFile(filepath.Join(dir, "ELLERY-D07", "disk", "C", "Windows", "Temp", "tidebook.log"))
	if err != nil || string(kept) != string(there) {
		t.Errorf("the copy in the case differs: %v", err)
	}
	for _, c := range []struct {
		want string
		args []string
	}{
		{"logs/C/Windows/Temp/tidebook.log", []string{"gather", log, "--preview"}},
		{"logs/C/Windows/Temp/ledger.log", []string{"gather", `C:\Windows\Temp`, "--preview"}},
		{"class: service", []string{"signs", "draft", log, "--line", "2442"}},
		{"StartServices", []string{"trail", log, "--failed"}},
		{"BerthSync", []string{"why", log}},
	} {
		r := run(t, dir, nil, append(c.args, "--machine", "ELLERY-D07")...)
		if !strings.Contains(r.out, c.want) {
			t.Errorf("%v: %d, %s%s; want %q", c.args, r.code, r.out, r.err, c.want)
		}
	}
	for _, command := range []string{"gather", "why", "trail", "case add"} {
		args := append(strings.Fields(command), `C:\Windows\Temp\nowhere.log`, "--machine", "ELLERY-D07", "--case", "of-paths")
		if r := run(t, dir, nil, args...); r.code != 1 || !strings.Contains(r.err, "neither here nor on ELLERY-D07") {
			t.Errorf("%s of what is nowhere: %d, %s", command, r.code, r.err)
		}
	}
}
