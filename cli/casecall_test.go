package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// What a case knows need not be said again: --case alone names its logs and its
// machine.
func TestCaseNamesLogAndMachine(t *testing.T) {
	dir := layOut(t)
	log := "o'log (1) & 2.log"
	if err := os.Rename(filepath.Join(dir, "tidebook.log"), filepath.Join(dir, log)); err != nil {
		t.Fatal(err)
	}
	mustRun(t, dir, 3, "why", log, "--machine", "ELLERY-D07", "--case", "berth-17")
	os.Remove(filepath.Join(dir, log)) // the case has its own

	if r := run(t, dir, nil, "case", "--case", "berth-17"); !strings.Contains(r.out, "  hollowkey fix --case berth-17 --preview\n") {
		t.Errorf("the next command: %q", r.out)
	}
	for _, c := range []struct {
		code int
		want string
		args []string
	}{
		{3, "machine     TideClock is disabled", []string{"why"}},
		{3, "FAILED", []string{"why", "berth-17"}},
		{0, "Nothing has been changed", []string{"fix", "--preview"}},
		{0, "StartServices", []string{"trail"}},
		{0, "", []string{"fix", "--yes"}},
		{0, "done      set the start type", []string{"journal"}},
		{0, "WORKS", []string{"retry"}},
		{0, "", []string{"undo", "--yes"}},
		{0, "report.html", []string{"case", "report"}},
	} {
		if r := run(t, dir, nil, append(c.args, "--case", "berth-17")...); r.code != c.code || !strings.Contains(r.out, c.want) {
			t.Errorf("%v: %d, want %d and %q\n%s%s", c.args, r.code, c.code, c.want, r.out, r.err)
		}
	}

	// The case moves to another place with its twin, and then alone.
	to := t.TempDir()
	for _, name := range []string{"berth-17", "ELLERY-D07", "ELLERY-D07.case"} {
		if err := os.Rename(filepath.Join(dir, name), filepath.Join(to, name)); err != nil {
			t.Fatal(err)
		}
	}
	if r := run(t, to, nil, "fix", "--case", "berth-17", "--preview"); r.code != 0 {
		t.Errorf("moved: %d %s", r.code, r.err)
	}
	if err := os.RemoveAll(filepath.Join(to, "ELLERY-D07")); err != nil {
		t.Fatal(err)
	}
	if r := run(t, to, nil, "fix", "--case", "berth-17", "--preview"); r.code != 2 || !strings.Contains(r.err, "--machine is missing") {
		t.Errorf("without its twin: %d %s", r.code, r.err)
	}
}

// A stranger's case names neither a machine that is not its own, nor this
// computer.
func TestStrangersCaseNamesNoMachine(t *testing.T) {
	dir := layOut(t)
	for name, about := range map[string]string{
		"another name": "machine: ELLERY-D08\nplace: ELLERY-D07\n",
		"this one":     "machine: ELLERY-D07\nplace: live\n",
		"no name":      "place: ELLERY-D07\n",
		"no twin":      "machine: ELLERY-D07\nplace: /\n",
		"elsewhere":    "machine: ELLERY-D07\nplace: //stranger/ELLERY-D07\n",
		"a path":       "machine: ../ELLERY-D07\nplace: live\n",
	} {
		folder := filepath.Join(t.TempDir(), "case")
		if err := os.Mkdir(folder, 0o755); err != nil {
			t.Fatal(err)
		}
		write(t, folder, "case.yaml", "title: x\n"+about+"state: open\nopened: 2026-05-04T09:00:00Z\n")
		r := run(t, dir, nil, "fix", "tidebook.log", "--case", folder, "--yes")
		if r.code != 2 || !strings.Contains(r.err, "--machine is missing") {
			t.Errorf("%s: %d %s%s", name, r.code, r.out, r.err)
		}
	}
}

// The program's own records in a folder are no logs, and neither is a twin.
func TestOwnRecordsAreNoLogs(t *testing.T) {
	dir := layOut(t)
	mustRun(t, dir, 0, "case", "open", "--case", "empty")
	for range 3 {
		run(t, dir, nil, "why", "--case", "empty") // fails, which is noted in the case
	}
	for _, c := range []struct{ arg, want string }{
		{"empty", "keeps no log yet"},
		{"ELLERY-D07", "this is a twin"},
	} {
		r := run(t, dir, nil, "why", c.arg)
		if r.code != 1 || !strings.Contains(r.err, c.want) || !strings.Contains(r.err, "\nhint: ") {
			t.Errorf("%s: %d %s%s", c.arg, r.code, r.out, r.err)
		}
	}
	if r := run(t, dir, nil, "case", "report", "empty"); r.code != 2 || !strings.Contains(r.err, "hollowkey case report --case empty\n") {
		t.Errorf("a case's folder as an argument: %d %s", r.code, r.err)
	}
}

// What a stranger's case keeps as evidence is read in the case, and nowhere
// else.
func TestStrangersCaseLeadsNowhere(t *testing.T) {
	dir, outside := t.TempDir(), t.TempDir()
	write(t, outside, "setup.log", "Heron setup 5.2\nnot enough space on drive C:\nsetup failed\n")
	write(t, dir, "case.yaml", "title: x\nstate: open\nopened: 2026-05-04T09:00:00Z\n")
	if err := os.Mkdir(filepath.Join(dir, "verdicts"), 0o755); err != nil {
		t.Fatal(err)
	}
	write(t, dir, "verdicts/0001.json", `{"schema":"hollowkey.why/1","outcome":"failed","logs":[{"file":"setup.log"}]}`)
	if err := os.Symlink(outside, filepath.Join(dir, "evidence")); err != nil {
		t.Skip(err)
	}
	for _, call := range [][]string{{"why", "--case", dir}, {"why", dir}, {"fix", "--case", dir}, {"trail", "--case", dir}} {
		if r := run(t, dir, nil, call...); r.code == 0 || r.code == 3 || strings.Contains(r.out+r.err, "space") {
			t.Errorf("%v: %d %s%s", call, r.code, r.out, r.err)
		}
	}
}
