package readiness

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"hollowkey/core/why/checks"
)

// A person reads what a person can do, an administrator reads all.
func TestTwoReaders(t *testing.T) {
	in := Input{Machine: "ELLERY-D07", Setup: `C:\Deploy\Tide|book.msi`,
		Made: time.Date(2026, 5, 4, 9, 14, 0, 0, time.UTC), Checks: []checks.Finding{
			{Name: "pending restart", Answer: checks.Stop, Seen: "files are to be replaced"},
			{Name: "temporary folder", Answer: checks.Stop, Seen: "SYSTEM has no access to <it>", Mend: "give SYSTEM access"},
			{Name: "other users", Answer: checks.Warn, Seen: "dpayne", Mend: "ask them, or:", Command: []string{"fix", "--step", "sign-out"}},
			{Name: "free space on D:", Answer: checks.Warn, Seen: "tight"},
			{Name: "OS", Answer: checks.Pass, Seen: "fits"},
		}}
	p := Make(in, Person)
	if p.Ready || len(p.Tasks) != 2 || !strings.HasPrefix(p.Tasks[0].Do, "Restart the computer") ||
		!strings.Contains(p.Tasks[1].Seen, "dpayne") ||
		p.Other != "Your administrator takes care of one thing more." || len(p.Rows) != 0 {
		t.Errorf("for a person: %+v", p)
	}
	a := Make(in, Administrator)
	if len(a.Rows) != 5 || a.Rows[4].Answer != checks.Pass || a.Rows[2].Mend != "ask them; hollowkey fix --step sign-out" ||
		a.Sum != "2 blocking, 2 warnings, 0 unknown, 1 passed." || a.Tasks[1].Do != "temporary folder: give SYSTEM access" {
		t.Errorf("for an administrator: %+v", a)
	}
	var b bytes.Buffer
	if err := HTML(&b, a); err != nil || strings.Contains(b.String(), "<it>") || strings.Contains(b.String(), "<script") {
		t.Error(err, b.String())
	}
	b.Reset()
	if err := Markdown(&b, a); err != nil || strings.Contains(b.String(), "Tide|book") || !strings.Contains(b.String(), "## All checks") {
		t.Error(err, b.String())
	}
	if p := Make(Input{Checks: in.Checks[4:]}, Person); !p.Ready || p.Sum != "You need to do nothing." {
		t.Errorf("nothing to do: %+v", p)
	}
}
