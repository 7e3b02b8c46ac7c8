package retry

import (
	"testing"

	"hollowkey/core/signs"
	"hollowkey/core/verdict"
)

func failed(action, class, subject string) *verdict.Verdict {
	v := &verdict.Verdict{Outcome: verdict.Failed}
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
	worked := &verdict.Verdict{Outcome: verdict.Succeeded}
	restart := &verdict.Verdict{Outcome: verdict.Restart}
	a := failed("InstallFiles", "permission", `C:\A\`)
	for _, c := range []struct {
		before, after *verdict.Verdict
		want          Change
	}{
		{nil, worked, Gone}, {a, worked, Gone}, {a, restart, Gone}, {worked, worked, Gone},
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
