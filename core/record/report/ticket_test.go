package report

import (
	"strings"
	"testing"

	"hollowkey/core/logs/mask"
	"hollowkey/core/logs/story"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

func ticket(t *testing.T, v *verdict.Verdict) string {
	t.Helper()
	var b strings.Builder
	if err := Ticket(&b, v, mask.New(nil, nil)); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

func TestTicket(t *testing.T) {
	name, version, class, action, line := "Tide Watch", "3.1", "permission", "CreateFolders", 41
	v := &verdict.Verdict{Outcome: story.Failed, ExitCode: new(1603), Product: story.Identity{Name: &name, Version: &version},
		BrokeAt: story.BrokeAt{Action: &action, Line: &line},
		Cause: verdict.Cause{Class: &class, Message: new(1303), Confidence: 0.95, Summary: `SYSTEM may not write C:\Users\wendeline\Quay`,
			Subject: &signs.Subject{Kind: "folder", Name: `C:\Users\wendeline\Quay`}},
		Evidence: []verdict.Line{{File: "x.log", Line: 41, Text: "Error 1303.\x1b[31m for C:\\Users\\wendeline\\Quay ``` x"}},
		Remedies: []step.Remedy{{Title: "give SYSTEM the right"}},
		Logs:     []verdict.Log{{File: `C:\Users\wendeline\x.log`, Lines: 99}}}
	got := ticket(t, v)
	for _, want := range []string{"## Tide Watch 3.1: failed\n", "- exit code: 1603\n",
		"**permission**, number 1303, folder", "(confidence 95 %)",
		"`CreateFolders` line 41", "\n    41  Error 1303.", "1. give SYSTEM the right\n", "`x.log` (99 lines)"} {
		if !strings.Contains(got, want) {
			t.Errorf("it lacks %q:\n%s", want, got)
		}
	}
	for _, never := range []string{"wendeline", "\x1b", "``` x"} {
		if strings.Contains(got, never) {
			t.Errorf("it holds %q:\n%s", never, got)
		}
	}
}

// However much there is to tell, a ticket stays short.
func TestTicketIsShort(t *testing.T) {
	v := &verdict.Verdict{Outcome: story.Failed}
	for i := range 200 {
		v.Evidence = append(v.Evidence, verdict.Line{Line: i, Text: strings.Repeat("a line ", 100)})
		v.Remedies = append(v.Remedies, step.Remedy{Title: "one more"})
		v.More = append(v.More, verdict.Setup{Outcome: story.Failed, Summary: "and another"})
		v.Logs = append(v.Logs, verdict.Log{File: "a.log"})
	}
	if n := strings.Count(ticket(t, v), "\n"); n > ticketLines {
		t.Errorf("%d lines", n)
	}
}
