package cli_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
	"hollowkey/core/why/verdict"
)

func TestDemoTellsTheWholeWay(t *testing.T) {
	t.Parallel() // it takes long, and most of it is waiting for processes
	dir := t.TempDir()
	r := mustRun(t, dir, 0, "demo")
	for _, want := range []string{"SYSTEM has no access", "TideClock is disabled", `points to Z:\Documents`, "Try it yourself",
		"hollowkey why hollowkey-demo/berthline.log"} {
		if !strings.Contains(r.out, want) {
			t.Errorf("demo does not say %q", want)
		}
	}
	mustRun(t, dir, 0, "demo") // over its own folder
	if err := os.MkdirAll(filepath.Join(dir, "mine"), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, "mine", "thesis.txt"), []byte("x"), 0o600); err != nil {
		t.Fatal(err)
	}
	if r := mustRun(t, dir, 1, "demo", "--into", "mine"); !strings.Contains(r.err, "was not made by the demo") {
		t.Errorf("a foreign folder: %s", r.err)
	}
}

func TestVerdictOfEachDemoCase(t *testing.T) {
	dir := layOut(t)
	for _, tt := range []struct {
		log, action, class, subject string
		message, line               int
	}{
		{"berthline.log", "InstallInitialize", "permission", `C:\Users\mwhitlow\AppData\Local\Temp`, 2203, 2046},
		{"tidebook.log", "StartServices", "service", "BerthSync", 1920, 2442},
		{"roster.log", "CostFinalize", "path", "Z:", 1327, 2077},
	} {
		r := mustRun(t, dir, 3, "why", "--json", tt.log)
		v := decode[verdict.Verdict](t, r.out)
		if v.Schema != "hollowkey.why/1" || v.Outcome != story.Failed || *v.ExitCode != 1603 || *v.BrokeAt.Action != tt.action ||
			*v.Cause.Class != tt.class || *v.Cause.Message != tt.message || v.Cause.Subject.Name != tt.subject || v.Cause.Confidence < 0.9 {
			t.Errorf("%s: %s", tt.log, r.out)
		}
		if len(v.Evidence) == 0 || len(v.Chain) < 3 || v.Chain[0].Line < v.Chain[len(v.Chain)-1].Line {
			t.Errorf("%s: evidence %v, chain %v", tt.log, v.Evidence, v.Chain)
		}
		if *v.BrokeAt.Line < 2000 {
			t.Errorf("%s: broke at line %d; the log is shorter than real ones are", tt.log, *v.BrokeAt.Line)
		}
		text := mustRun(t, dir, 3, "why", tt.log, "--width", "80")
		checkScreen(t, tt.log, text.out)
		for _, want := range []string{"FAILED", tt.action, tt.class, "hollowkey fix " + tt.log} {
			if !strings.Contains(text.out, want) {
				t.Errorf("%s: the text lacks %q:\n%s", tt.log, want, text.out)
			}
		}
		checkScreen(t, tt.log, mustRun(t, dir, 3, "why", tt.log, "--machine", "ELLERY-D07", "--width", "80").out)
	}
}

// checkScreen wants a text that fits on 80 columns and 24 lines.
func checkScreen(t *testing.T, what, text string) {
	t.Helper()
	lines := strings.Split(strings.TrimRight(text, "\n"), "\n")
	if len(lines) > 23 {
		t.Errorf("%s: %d lines are more than a screen:\n%s", what, len(lines), text)
	}
	for _, l := range lines {
		if n := len([]rune(l)); n > 80 && !strings.Contains(l, "hollowkey fix") {
			t.Errorf("%s: %d columns: %s", what, n, l)
		}
	}
}

// What is no setup log gets no verdict.
func TestNoVerdictForNoLog(t *testing.T) {
	dir := t.TempDir()
	write := func(name, text string) {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	write("empty.log", "")
	write("poem.txt", "The tide comes in, the tide goes out,\nand nobody is told about it.\n")
	write("prog.exe", "MZ\x90\x00\x03\x00\x00\x00\x04\x00\x00\x00\xff\xff\x00\x00"+strings.Repeat("\x00\x01\x02\xfe", 4000))
	write("minutes.txt", "Meeting at 9:12:01: Harbour.\nAction: none.\n")
	for _, tt := range []struct {
		args []string
		code int
		want string
	}{
		{[]string{"why", "empty.log"}, 1, "empty.log: the file is empty"},
		{[]string{"why", "poem.txt"}, 1, "no setup log"},
		{[]string{"why", "minutes.txt"}, 1, "no setup log"},
		{[]string{"why", "prog.exe"}, 1, "this is no log, but a program"},
		{[]string{"why", "nothing.log"}, 1, "there is no such file"},
		{[]string{"why", "."}, 1, "is a setup log"},
		{[]string{"why"}, 2, "a log is missing"},
		{[]string{"why", "poem.txt", "--encoding", "klingon"}, 2, "is not known; one of"},
		{[]string{"why", "poem.txt", "--width", "7"}, 2, "is not between 40 and 400"},
		{[]string{"wy"}, 2, `unknown command "wy"`},
		{[]string{"why", "--colour"}, 2, "unknown flag"},
		{[]string{"code", "twelve"}, 2, "is no number"},
		{[]string{"fix", "poem.txt"}, 2, "--machine is missing"},
		{[]string{"fix", "poem.txt", "--machine", "no-such-twin"}, 2, "there is no such folder"},
		{[]string{"fix", "poem.txt", "--machine", "."}, 2, "this is no twin"},
		{[]string{"journal"}, 2, "--machine or --case is missing"},
	} {
		r := run(t, dir, nil, tt.args...)
		if r.code != tt.code || r.out != "" || !strings.Contains(r.err, tt.want) {
			t.Errorf("hollowkey %s: status %d, out %q, err %q; want %d with %q", strings.Join(tt.args, " "), r.code, r.out, r.err, tt.code, tt.want)
		}
	}
}

// A log may hold what a terminal would obey; none of it may come out.
func TestNothingForTheTerminalToObey(t *testing.T) {
	dir := t.TempDir()
	log := "=== Verbose logging started: 5/4/2026  9:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: x ===\n" +
		"Action 9:12:01: INSTALL. \nAction start 9:12:01: INSTALL.\nAction start 9:12:02: StartServices.\n" +
		"Error 1920. Service '\x1b]0;owned\x07\x1b[2J' (Evil\x1b[31m\u202eName) failed to start.\n" +
		"Action ended 9:12:03: StartServices. Return value 3.\nAction ended 9:12:03: INSTALL. Return value 3.\n" +
		"MSI (s) (A4:10) [09:12:04:000]: MainEngineThread is returning 1603\n"
	if err := os.WriteFile(filepath.Join(dir, "evil.log"), []byte(log), 0o600); err != nil {
		t.Fatal(err)
	}
	r := mustRun(t, dir, 3, "why", "evil.log")
	if strings.ContainsAny(r.out, "\x1b\x07\u202e") || !strings.Contains(r.out, "1920") {
		t.Errorf("control characters came through:\n%q", r.out)
	}
}

func TestHelpAndCompletion(t *testing.T) {
	dir := t.TempDir()
	for _, c := range []string{"why", "trail", "logs", "code", "fix", "undo", "journal", "demo"} {
		r := mustRun(t, dir, 0, c, "--help")
		if !strings.Contains(r.out, "Exit status:") {
			t.Errorf("%s --help does not tell its exit status:\n%s", c, r.out)
		}
	}
	for _, shell := range []string{"bash", "zsh", "fish", "powershell"} {
		if r := mustRun(t, dir, 0, "completion", shell); len(r.out) < 1000 {
			t.Errorf("completion %s gives %d bytes", shell, len(r.out))
		}
	}
	if r := mustRun(t, dir, 0, "__complete", "j"); !strings.Contains(r.out, "journal") {
		t.Errorf("completing j: %s", r.out)
	}
	if r := mustRun(t, dir, 0, "version"); !strings.HasPrefix(r.out, "hollowkey ") {
		t.Errorf("version: %s", r.out)
	}
}

// What is typed next depends on what is known: no fix is offered where there is
// only advice, and the options of the call are kept.
func TestNextCommand(t *testing.T) {
	dir := layOut(t)
	write(t, dir, "advice.log", "=== Verbose logging started: 02/03/2026  9:00:00  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\\Windows\\system32\\msiexec.exe ===\r\nAction start 9:00:01: InstallFiles.\r\nError 1335. The cabinet file 'data1.cab' required for this installation is corrupt and cannot be used.\r\nAction ended 9:00:02: InstallFiles. Return value 3.\r\nMSI (s) (10:20) [09:00:02:500]: MainEngineThread is returning 1603\r\n")
	for _, tt := range []struct {
		want string
		args []string
	}{
		{"hollowkey fix roster.log --machine ELLERY-D07 --preview", []string{"why", "roster.log"}},
		{"hollowkey fix roster.log --machine ELLERY-D07 --case kept --preview",
			[]string{"why", "roster.log", "--machine", twinName, "--case", "kept"}},
		{"hollowkey fix --machine ELLERY-D07 --exit 1603 --preview", []string{"why", "--exit", "1603", "--machine", twinName}},
		{"hollowkey trail advice.log --around 3", []string{"why", "advice.log"}},
		{"msiexec /i PACKAGE /l*v setup.log\nthen        hollowkey why setup.log", []string{"why", "--said", "Something broke."}},
	} {
		r := mustRun(t, dir, 3, tt.args...)
		_, next, _ := strings.Cut(r.out, "\nnext ")
		if got := strings.TrimSpace(next); got != tt.want {
			t.Errorf("%v: next is %q, want %q", tt.args, got, tt.want)
		}
	}
	if r := mustRun(t, t.TempDir(), 3, "why", "--said", "Service 'Tide' (TideSync) failed to start."); strings.Contains(r.out, "hollowkey trail") ||
		!strings.Contains(r.out, "next        msiexec /i PACKAGE /l*v setup.log\nthen        hollowkey why setup.log\n") {
		t.Errorf("what was said is no file to look into:\n%s", r.out)
	}
	if r := mustRun(t, dir, 0, "fix", "roster.log", "--machine", twinName, "--remedy", "1", "--preview"); !strings.Contains(r.out,
		"hollowkey fix roster.log --machine ELLERY-D07 --remedy 1 --yes") {
		t.Errorf("the call to apply it lost an option:\n%s", r.out)
	}
}

func TestFixOfWhatADialogSaid(t *testing.T) {
	dir := layOut(t)
	before := tree(t, filepath.Join(dir, twinName))
	mustRun(t, dir, 0, "fix", "--said", `Error 1327. Invalid Drive: Z:\`, "--machine", twinName, "--yes")
	if differs(before, tree(t, filepath.Join(dir, twinName))) == nil {
		t.Error("nothing was changed")
	}
	mustRun(t, dir, 0, "undo", "--yes", "--machine", twinName)
	if d := differs(before, tree(t, filepath.Join(dir, twinName))); d != nil {
		t.Errorf("after undo %v differ", d)
	}
	mustRun(t, dir, 2, "fix", "--machine", twinName)
}

// Whatever advice names a command, the program has it.
func TestAdviceNamesCommandsThatExist(t *testing.T) {
	help := mustRun(t, t.TempDir(), 0, "--help").out
	named := regexp.MustCompile(`hollowkey ([a-z]+)`)
	looked := 0
	see := func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || strings.HasSuffix(path, "_test.go") || strings.Contains(path, "testdata") {
			return err
		}
		b, err := os.ReadFile(path)
		for _, m := range named.FindAllStringSubmatch(string(b), -1) {
			looked++
			if !strings.Contains(help, "\n  "+m[1]+" ") {
				t.Errorf("%s names %q, which is no command", path, m[0])
			}
		}
		return err
	}
	for _, folder := range []string{"../core", "."} {
		if err := filepath.WalkDir(folder, see); err != nil || looked == 0 {
			t.Errorf("%s: %d mentions seen, %v", folder, looked, err)
		}
	}
}

// An export of the event log that was cut off before any setup is told as that,
// by every command that reads logs.
func TestLogWithoutASetUp(t *testing.T) {
	dir := layOut(t)
	write(t, dir, "events.txt", "Log Name:      Application")
	for _, args := range [][]string{{"why"}, {"why", "--json"}, {"why", "--exit", "1603"}, {"fix", "--machine", twinName, "--preview"}} {
		r := run(t, dir, nil, append(args, "events.txt")...)
		if r.code != 3 && r.code != 1 || strings.Contains(r.err, "panic") || strings.Contains(r.out, "sure ") {
			t.Errorf("%v: exit %d\n%s%s", args, r.code, r.out, r.err)
		}
	}
}
