package cli_test

import (
	"encoding/csv"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// Lists come as CSV, too, with as many cells in each row as the heading has.
func TestCSV(t *testing.T) {
	dir := layOut(t)
	mustRun(t, dir, 0, "fix", "tidebook.log", "--machine", "ELLERY-D07", "--yes")
	mustRun(t, dir, 0, "case", "open", "--case", "berth-17")
	for call, code := range map[string]int{"logs": 0, "startup": 0, "cache": 3, "products": 3, "journal": 0} {
		r := mustRun(t, dir, code, call, "--csv", "--machine", "ELLERY-D07")
		rows, err := csv.NewReader(strings.NewReader(r.out)).ReadAll()
		if err != nil || len(rows) < 2 {
			t.Errorf("%s: %d rows, %v", call, len(rows), err)
		}
	}
	if rows, err := csv.NewReader(strings.NewReader(mustRun(t, dir, 0, "case", "list",
		".", "--csv").out)).ReadAll(); err != nil || len(rows) < 2 {
		t.Errorf("cases: %q %v", rows, err)
	}
}

// What only a machine, a journal or a package knows is completed.
func TestCompletion(t *testing.T) {
	dir := layOut(t)
	mustRun(t, dir, 0, "fix", "tidebook.log", "--machine", "ELLERY-D07", "--yes")
	for _, c := range []struct {
		call []string
		want string
	}{
		{[]string{"why", "--machine", ""}, "ELLERY-D07"},
		{[]string{"fix", "--step", "reg"}, "registry"},
		{[]string{"fix", "--step", "grant", "--arg", ""}, "account="},
		{[]string{"startup", "hold", "--machine", "ELLERY-D07", "--only", "service:Q"}, "service:QuayWatch"},
		{[]string{"undo", "--machine", "ELLERY-D07", "--change", ""}, "1"},
		{[]string{"signs", "show", "shell-folder-d"}, "shell-folder-drive-missing"},
		{[]string{"products", "mend", "--machine", "ELLERY-D07", "Pilot"}, "Pilot Roster"},
		{[]string{"package", "rows", msi, "Launch"}, "LaunchCondition"},
		{[]string{"prod"}, "products"},
	} {
		r := mustRun(t, dir, 0, append([]string{"__complete"}, c.call...)...)
		if !strings.Contains("\n"+r.out, "\n"+c.want) {
			t.Errorf("%v: %q", c.call, r.out)
		}
	}
}

// A package is named by a path here or on the machine.
func TestPathsOfTheMachine(t *testing.T) {
	dir := layOut(t)
	const there = `C:\Deploy\berthline-planner-3.1.msi`
	for _, call := range [][]string{{"package", "overview", there}, {"package", "tables", there},
		{"package", "find", there, "ChartRuntime"}, {"why", `C:\Windows\Temp\roster.log`},
		{"trail", `C:\Windows\Temp\roster.log`, "--failed"}, {"ready", there}} {
		r := run(t, dir, nil, append(call, "--machine", "ELLERY-D07")...)
		if r.code != 0 && r.code != 3 || r.out == "" {
			t.Errorf("%v: exit %d %s", call, r.code, r.err)
		}
	}
	if r := mustRun(t, dir, 1, "package", "overview", `C:\Deploy\none.msi`, "--machine", "ELLERY-D07"); !strings.Contains(r.err, "none.msi") {
		t.Error(r.err)
	}
}

// A case is told in the form that its reader needs.
func TestReportForms(t *testing.T) {
	dir := layOut(t)
	if r := mustRun(t, dir, 2, "fix", "tidebook.log", "--step", "service", "--case", "berth-17",
		"--machine", "ELLERY-D07"); strings.Contains(r.err, "is opened") || !strings.Contains(r.err, "fix --step service --help") {
		t.Errorf("a wrong call: %s", r.err)
	}
	if _, err := os.Stat(filepath.Join(dir, "berth-17")); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("a wrong call left a case: %v", err)
	}
	if r := mustRun(t, dir, 3, "why", "tidebook.log", "--case", "berth-17",
		"--machine", "ELLERY-D07"); !strings.Contains(r.err, "A case is opened: berth-17") {
		t.Errorf("the case was not opened: %s", r.err)
	}
	if r := mustRun(t, dir, 3, "why", "tidebook.log", "--case", "berth-17"); strings.Contains(r.err, "is opened") {
		t.Errorf("opened again: %s", r.err)
	}
	mustRun(t, dir, 0, "case", "report", "--case", "berth-17", "--for", "person", "--out", "person.html")
	b, err := os.ReadFile(filepath.Join(dir, "person.html"))
	if err != nil || !strings.Contains(string(b), "your administrator applies the fix") || strings.Contains(string(b), "<h2>The verdict") {
		t.Errorf("for a person: %v %s", err, b)
	}
	if r := mustRun(t, dir, 0, "case", "report", "--case", "berth-17", "--for", "ticket"); !strings.Contains(r.out, "## Tidebook Desk") {
		t.Errorf("for a ticket: %s", r.out)
	}
	mustRun(t, dir, 2, "case", "report", "--case", "berth-17", "--for", "nobody")
	if r := mustRun(t, dir, 2, "case", "report", "--case", "berth-17", "--out", "person.html"); !strings.Contains(r.err, "--replace") {
		t.Errorf("written over: %s", r.err)
	}
	mustRun(t, dir, 0, "case", "report", "--case", "berth-17", "--out", "person.html", "--replace")
}
