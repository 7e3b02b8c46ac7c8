package retry

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"golang.org/x/text/encoding/unicode"

	"hollowkey/core/logs/story"
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
