package verdict

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
)

// checkForms are ways of writing a list of checks.
var checkForms = map[string]func(name, mark string) string{
	"dots":   func(n, m string) string { return n + " " + strings.Repeat(".", max(3, 50-len(n))) + " " + m },
	"colons": func(n, m string) string { return "  " + n + ": " + m },
	"before": func(n, m string) string { return "[" + m + "] " + n },
	"arrows": func(n, m string) string { return "check: " + n + " -> " + m },
	"bars":   func(n, m string) string { return fmt.Sprintf("| %-50s | %-8s |", n, m) },
	"blanks": func(n, m string) string { return fmt.Sprintf("%-52s%s", n, m) },
}

// TestTheCheckThatFailed holds that the row of a list of checks whose mark
// differs is where a setup broke, and what it is about.
func TestTheCheckThatFailed(t *testing.T) {
	checks := []struct{ class, name string }{
		{"condition platform", "Windows edition (needs Professional or Enterprise)"}, {"condition", "Memory (needs 4096 MB)"}, {"condition", "Domain member"},
		{"space", "Free disk space"}, {"elevation", "Administrator rights"}, {"prerequisite", ".NET 8 Desktop Runtime"}, {"platform condition", "64-bit processor"},
		{"service", "Print spooler running"}, {"network", "Licence server reachable"}, {"condition", "No pending restart"}, {"in-use", "No running Kelp programs"},
		{"permission", `Write access to C:\Program Files\Kelp`}, {"policy", "Script execution allowed"}, {"prerequisite", "ODBC driver"},
		{"leftover", "No older version installed"}, {"source", "Installation media complete"}, {"corrupt", "Package signature"}, {"network", "Internet connection"},
	}
	marks := [][2]string{{"PASS", "FAIL"}, {"ok", "not ok"}, {"✓", "✗"}, {"yes", "no"}, {"present", "missing"}}
	for _, form := range slices.Sorted(maps.Keys(checkForms)) {
		for i, c := range checks {
			m := marks[i%len(marks)]
			write := checkForms[form]
			list := []string{write("Processor", m[0]), write("Time zone", m[0]), write(c.name, m[1]), write("Language pack", m[0])}
			v := reached(t, strings.Join(slices.Concat([]string{"Kelp Desk 4.1 setup", "checks on ELLERY-D07", ""}, list,
				[]string{"", "Setup cannot continue.", "ExitCode=1", ""}), "\n"))
			if !slices.Contains(strings.Fields(c.class), classOf(v)) || v.BrokeAt.Line == nil || *v.BrokeAt.Line != 6 {
				t.Errorf("%s: %s %s is told as %s, or elsewhere, want %s", form, c.name, m[1], classOf(v), c.class)
			}
		}
	}
}

// TestATableOfChecks holds that a table with what was found and what is wanted
// is such a list.
func TestATableOfChecks(t *testing.T) {
	v := reached(t, `Compatibility report for Berthline Planner 8
--------------------------------------------
item                 found              wanted             verdict
os build             22631              19045              ok
memory               32 GB              8 GB               ok
time zone data       2021a              2024a              too old
edition              Pro                Pro/Enterprise     ok
--------------------------------------------
1 item not satisfied, installation not started (code 40)
`)
	if s := v.Cause.Subject; classOf(v) != "condition" || s == nil || s.Name != "time zone data" || v.ExitCode == nil || *v.ExitCode != 40 {
		t.Errorf("told as %s about %v", classOf(v), s)
	}
}

// TestListsOfFactsAreNoChecks holds that a list of what is and is not there,
// before a failure that has nothing to do with it, is not what it broke of.
func TestListsOfFactsAreNoChecks(t *testing.T) {
	for _, list := range [][]string{
		{"environment", "  64-bit: yes", "  domain member: no", "  laptop: yes", "  proxy: no"},
		{"system information", "silent: yes", "internet connection: yes", "antivirus: no", "restart pending: no"},
		{"requirements check", "memory ............ ok", "disk ............ ok", "domain ............ no", "language ....... ok"},
		{"detected software", "viewer: yes", "java: no", "odbc driver: no", "older version: no"},
		{"cleanup check", "old version present: no", "leftover service: no", "leftover files: no", "registry keys: yes"},
	} {
		v := reached(t, strings.Join(slices.Concat([]string{"Kelp Desk 4.1 setup"}, list,
			[]string{"unpacking payload", "212 files", "replacing kelp.dll", "kelp.dll is in use by another process", "setup failed, exit code 9", ""}), "\n"))
		if classOf(v) != "in-use" {
			t.Errorf("%v: told as %s", list, classOf(v))
		}
	}
}
