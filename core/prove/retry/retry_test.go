package retry

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"golang.org/x/text/encoding/unicode"

	"hollowkey/core/logs/story"
	"hollowkey/core/record/casefile"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

func failed(action, class, subject string) *verdict.Verdict {
	v := &verdict.Verdict{Outcome: story.Failed}
	if action != "" {
		v.BrokeAt.Action = &action
	}
	if class != "" {
		v.Cause.Class = &class
	}
	if subject != "" {
		v.Cause.Subject = &signs.Subject{Kind: "folder", Name: subject}
	}
	return v
}

func TestCompare(t *testing.T) {
	order := func(a string) int {
		return map[string]int{"CostFinalize": 1000, "InstallFiles": 4000, "StartServices": 5900}[a]
	}
	worked := &verdict.Verdict{Outcome: story.Succeeded}
	restart := &verdict.Verdict{Outcome: story.Restart}
	a := failed("InstallFiles", "permission", `C:\A\`)
	for _, c := range []struct {
		before, after *verdict.Verdict
		want          Change
	}{
		{nil, worked, Works}, {a, worked, Gone}, {a, restart, Gone}, {worked, worked, Works},
		{nil, a, First}, {worked, a, Back},
		{a, failed("installfiles", "permission", `c:\a`), Same},
		{a, failed("InstallFiles", "space", `C:\A`), Moved},
		{a, failed("InstallFiles", "permission", `C:\B`), Moved},
		{a, failed("StartServices", "service", ""), Further},
		{a, failed("CostFinalize", "path", ""), Earlier},
		{a, failed("Unheard", "path", ""), Moved}, {a, failed("", "", ""), Moved},
	} {
		if got := Compare(c.before, c.after, order); got != c.want {
			t.Errorf("from %+v to %+v: %s, want %s", c.before, c.after, got, c.want)
		}
		if words := Words(c.want, c.before, c.after); words == "" {
			t.Errorf("%s has no words", c.want)
		}
	}
	if got := Compare(a, failed("StartServices", "service", ""), nil); got != Moved {
		t.Errorf("without an order: %s", got)
	}
}

// The actions of a log that grows are told once each, in either encoding.
func TestFollowingALog(t *testing.T) {
	wide := func(s string) string {
		out, err := unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewEncoder().String(s)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	for name, enc := range map[string]func(string) string{"8 bits": func(s string) string { return s }, "UTF-16": wide} {
		log := filepath.Join(t.TempDir(), "x.log")
		var seen []string
		tell := func(a string) { seen = append(seen, a) }
		if at := newActions(log, 0, tell); at != 0 || seen != nil {
			t.Errorf("%s: no log yet: %d %v", name, at, seen)
		}
		f, err := os.Create(log)
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		if name == "UTF-16" {
			f.WriteString("\xFF\xFE")
		}
		f.WriteString(enc("=== started ===\r\nAction start 9:12:01: INSTALL.\r\nMSI (s): Doing action: AppSearch\r\nAction start 9:12:02: AppSearch.\r\n"))
		at := newActions(log, 0, tell)
		f.WriteString(enc("Action ended 9:12:02: AppSearch. Return value 1.\r\nAction start 9:12:03: CostFinalize.\r\n"))
		at = newActions(log, at, tell)
		newActions(log, at, tell)
		if got := strings.Join(seen, " "); got != "INSTALL AppSearch CostFinalize" {
			t.Errorf("%s: %s", name, got)
		}
	}
}

// What another program wrote while a vendor's setup ran is not read as its own:
// it says the contrary of the exit code, and is of another product.
func TestLogsOfThisRun(t *testing.T) {
	const (
		worked = "2026-05-04 09:12:01 INFO  Sounder 3.1 setup starts\n2026-05-04 09:12:03 INFO  setup completed successfully, exit code 0\n"
		broke  = "2026-05-04 09:12:01 INFO  Sounder 3.1 setup starts\n" +
			"2026-05-04 09:12:03 ERROR There is not enough space on the disk (112)\n2026-05-04 09:12:03 ERROR setup failed, exit code 23\n"
		other = "2026-05-04 09:12:01 INFO  Tide Atlas 2.0 setup starts\n" +
			"2026-05-04 09:12:02 ERROR atlas.dll is in use by another program\n2026-05-04 09:12:03 ERROR setup failed\n"
		part = "2026-05-04 09:12:02 ERROR tide.example could not be reached: 12007\n2026-05-04 09:12:03 ERROR download failed\n"
	)
	for _, c := range []struct {
		name, own, beside string
		exit              int
		class             string // of the verdict, empty for a good end
		strange           bool
	}{
		{"a failure of another product beside a good run", worked, other, 0, "", true},
		{"a good end of another product beside a failure", broke, strings.ReplaceAll(worked, "Sounder", "Tide Atlas"), 23, "space", true},
		{"a part's log that fails, too", "2026-05-04 09:12:01 INFO Sounder 3.1 setup starts\n2026-05-04 09:12:03 ERROR setup failed, exit code 23\n",
			part, 23, "network", false},
		{"no log agrees", broke, other, 0, "", false},
	} {
		dir, at := t.TempDir(), t.TempDir()
		logs := []string{filepath.Join(at, "own.log"), filepath.Join(at, "beside.log")}
		for i, text := range []string{c.own, c.beside} {
			if err := os.WriteFile(logs[i], []byte(text), 0o644); err != nil {
				t.Fatal(err)
			}
		}
		a := &casefile.Attempt{Number: 1, Exit: c.exit, Log: "0001.log"}
		if err := (Wish{}).judgeProgram(t.Context(), dir, logs, a); err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		left := slices.ContainsFunc(a.Verdict.Remarks, func(r string) bool { return strings.Contains(r, "another setup") })
		class := ""
		if a.Verdict.Cause.Class != nil {
			class = *a.Verdict.Cause.Class
		}
		if left != c.strange || c.name != "no log agrees" && class != c.class || c.strange && a.Verdict.Outcome.Worked() != (c.exit == 0) {
			t.Errorf("%s: %s, class %q, remarks %q", c.name, a.Verdict.Outcome, class, a.Verdict.Remarks)
		}
	}
}
