package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// A case that a stranger sends, or that was damaged, says what is wrong and is
// not made worse.
func TestDamagedCases(t *testing.T) {
	for name, c := range map[string]struct {
		file, text string
		call       []string
		want       string
	}{
		"case.yaml":      {"case.yaml", "title: [\n", []string{"case"}, "case.yaml"},
		"an unknown key": {"case.yaml", "title: x\nstate: open\nopened: 2026-05-04T09:00:00Z\nmore: y\n", []string{"case"}, "more"},
		"journal":        {"journal.ndjson", "{\"seq\":1}\nrubbish\n{\"seq\":2}\n", []string{"case"}, "was not written here"},
		"journal's step": {"journal.ndjson", "{\"seq\":1,\"phase\":\"begin\",\"step\":{\"kind\":\"format-disk\",\"target\":\"C:\"}}\n",
			[]string{"undo", "--yes"}, "was not written here"},
		"journal's state": {"journal.ndjson", "{\"seq\":1,\"phase\":\"begin\",\"machine\":\"ELLERY-D07\",\"step\":{\"kind\":\"service\",\"target\":\"TideClock\"},\"before\":{\"service\":{}},\"after\":{\"service\":{}}}\n{\"seq\":2,\"phase\":\"found\",\"of\":1,\"title\":\"done\",\"after\":{\"held\":{}}}\n", []string{"undo", "--yes"}, "was not written here"},
		"attempt":         {"attempts/0001.json", "{", []string{"case"}, "0001.json"},
		"attempt outside": {"attempts/0001.json", "{\"number\":1,\"log\":\"/etc/passwd\"}", []string{"gather", "--out", "x.zip"}, ""},
		"verdict":         {"verdicts/0001.json", "[]", []string{"case", "report"}, "0001.json"},
		"hunt":            {"hunt.json", "{\"rounds\":[{\"on\":[7]}]}", []string{"startup", "hunt"}, "item 7 of 0"},
	} {
		dir := layOut(t)
		mustRun(t, dir, 0, "case", "open", "--machine", "ELLERY-D07")
		folder := filepath.Join(dir, "ELLERY-D07.case")
		if err := os.MkdirAll(filepath.Dir(filepath.Join(folder, c.file)), 0o755); err != nil {
			t.Fatal(err)
		}
		write(t, folder, c.file, c.text)
		before := tree(t, filepath.Join(dir, "ELLERY-D07"))
		r := run(t, dir, nil, append(c.call, "--machine", "ELLERY-D07")...)
		if c.want != "" && (r.code != 1 || !strings.Contains(r.err, c.want)) {
			t.Errorf("%s: exit %d, %q, want %q", name, r.code, r.err, c.want)
		}
		if strings.Contains(r.err, "panic") || strings.Contains(r.out, "root:x:0") {
			t.Errorf("%s: %s%s", name, r.out, r.err)
		}
		if d := differs(before, tree(t, filepath.Join(dir, "ELLERY-D07"))); len(d) > 0 {
			t.Errorf("%s: the twin was changed: %v", name, d)
		}
		if b, _ := os.ReadFile(filepath.Join(folder, c.file)); string(b) != c.text {
			t.Errorf("%s: %s was overwritten", name, c.file)
		}
	}
}

// What a case is asked without being one, and wrong calls.
func TestCaseCalls(t *testing.T) {
	dir := layOut(t)
	for _, c := range []struct {
		code int
		args []string
		want string
	}{
		{2, []string{"case"}, "--case is missing"},
		{1, []string{"case", "--case", "absent"}, "hollowkey case open"},
		{1, []string{"case", "note", "x", "--case", "absent"}, "is no case"},
		{2, []string{"case", "note", "--case", "x"}, "TEXT is missing"},
		{2, []string{"case", "frobnicate", "--case", "x"}, "unknown command"},
		{2, []string{"case", "close", "--machine", "ELLERY-D07"}, "--outcome is missing"},
		{1, []string{"case", "report", "--case", "absent"}, "hollowkey case open"},
		{2, []string{"rehearse", "x.msi"}, "a rehearsal needs a twin"},
		{2, []string{"rehearse", "x.msi", "--machine", "ELLERY-D07", "--given", "novalue"}, "is not NAME=VALUE"},
		{2, []string{"rehearse", "x.msi", "--machine", "ELLERY-D07", "--uninstall", "--repair"}, "do not go together"},
		{2, []string{"retry", "--machine", "ELLERY-D07"}, "nothing has been tried"},
		{1, []string{"retry", "absent.log", "--machine", "ELLERY-D07"}, "absent.log"},
		{2, []string{"fix", "--step", "grant", "--arg", "folder=C:\\Deploy", "--arg", "colour=red", "--machine", "ELLERY-D07"},
			"takes no \"colour\""},
		{1, []string{"gather", "absent.log"}, "absent.log"},
		{2, []string{"leftovers", "--machine", "ELLERY-D07"}, "is missing"},
		{2, []string{"journal", "empty", "--machine", "ELLERY-D07"}, "--change is missing"},
	} {
		if r := run(t, dir, nil, c.args...); r.code != c.code || !strings.Contains(r.err, c.want) {
			t.Errorf("%v: exit %d, %q; want %d, %q", c.args, r.code, r.err, c.code, c.want)
		}
	}
}
