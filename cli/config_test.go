package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// An option wins over a variable, a variable over the file, and each setting
// tells where it is from.
func TestSettings(t *testing.T) {
	dir := layOut(t)
	write(t, dir, "config.yaml", "machine: ELLERY-D07\nwidth: 60\ncases: cases\n")
	env := append(os.Environ(), "HOLLOWKEY_CONFIG="+filepath.Join(dir, "config.yaml"))
	settings := func(env []string, args ...string) map[string][2]string {
		t.Helper()
		r := run(t, dir, env, append([]string{"config", "--json"}, args...)...)
		if r.code != 0 {
			t.Fatal(r.err)
		}
		m := map[string][2]string{}
		for _, s := range decode[struct {
			Settings []struct{ Name, Value, From string }
		}](t, r.out).Settings {
			m[s.Name] = [2]string{s.Value, filepath.Base(s.From)}
		}
		return m
	}
	s := settings(env)
	if s["machine"] != [2]string{"ELLERY-D07", "config.yaml"} || s["width"] != [2]string{"60", "config.yaml"} {
		t.Errorf("%v", s)
	}
	s = settings(append(env, "HOLLOWKEY_WIDTH=72"), "--machine", "OTHER")
	if s["machine"] != [2]string{"OTHER", "--machine"} || s["width"] != [2]string{"72", "HOLLOWKEY_WIDTH"} {
		t.Errorf("%v", s)
	}
	if r := run(t, dir, env, "ready"); r.code != 3 || !strings.Contains(r.out, "ELLERY-D07") {
		t.Errorf("the machine of the file: %d %s", r.code, r.err)
	}
	for l := range strings.Lines(run(t, dir, env, "why", "tidebook.log").out) {
		if n := len([]rune(strings.TrimRight(l, "\n"))); n > 60 && !strings.Contains(l, "hollowkey ") {
			t.Errorf("%d columns: %s", n, l)
		}
	}
	write(t, dir, "config.yaml", "machin: ELLERY-D07\n")
	if r := run(t, dir, env, "ready"); r.code != 2 || !strings.Contains(r.err, "machin") {
		t.Errorf("a wrong name: %d %s", r.code, r.err)
	}
	if r := mustRun(t, dir, 3, "ready", "--machine", "ELLERY-D07", "--quiet"); r.out != "" || r.err != "" {
		t.Errorf("quiet: %q %q", r.out, r.err)
	}
	if r := mustRun(t, dir, 0, "--version"); !strings.HasPrefix(r.out, "hollowkey ") {
		t.Errorf("version: %q", r.out)
	}
}

// The cases of a folder, the open ones first.
func TestCaseList(t *testing.T) {
	dir := layOut(t)
	root := filepath.Join(dir, "cases")
	if err := os.Mkdir(root, 0o755); err != nil {
		t.Fatal(err)
	}
	mustRun(t, dir, 3, "case", "list", "cases")
	env := append(os.Environ(), "HOLLOWKEY_CASES="+root)
	for _, name := range []string{"berth-17", "berth-18"} {
		if r := run(t, dir, env, "case", "open", "--case", name, "--title", "Tidebook Desk"); r.code != 0 {
			t.Fatal(r.err)
		}
	}
	if r := run(t, dir, env, "case", "close", "--case", "berth-18", "--outcome", "solved"); r.code != 0 {
		t.Fatal(r.err)
	}
	list := decode[struct {
		Cases []struct{ Folder, State, Outcome string }
	}](t, mustRun(t, dir, 0, "case", "list", "cases", "--json").out).Cases
	if len(list) != 2 || list[0].State != "open" || filepath.Base(list[1].Folder) != "berth-18" || list[1].Outcome != "solved" {
		t.Errorf("%+v", list)
	}
	if r := mustRun(t, dir, 1, "case", "list", "nowhere"); !strings.Contains(r.err, "nowhere is not there") {
		t.Error(r.err)
	}
}
