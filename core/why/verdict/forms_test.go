package verdict

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

// A document says by yes or no how all of it went; of a step that says nothing
// of the whole.
func TestADocumentSaysHowItWent(t *testing.T) {
	for name, want := range map[string]string{"ok": "failed", "success": "failed", "done": "failed", "installed": "failed", "completed": "failed"} {
		for _, worked := range []bool{false, true} {
			b, err := json.MarshalIndent(map[string]any{"run": map[string]string{"tool": "heron-setup", "version": "5.2.0"},
				"steps": []map[string]any{{"name": "extract", "ok": true}, {"name": "place", "ok": worked, "detail": "placing 14 files"}},
				name:    worked}, "", "  ")
			if err != nil {
				t.Fatal(err)
			}
			v := reached(t, string(b))
			if wanted := map[bool]string{false: want, true: "succeeded"}[worked]; string(v.Outcome) != wanted {
				t.Errorf("%s %v: %s", name, worked, v.Outcome)
			}
		}
	}
}

// An event of a vendor's setup that says that the product was not installed
// tells how it ended; one of another program does not.
func TestAnEventOfAVendorsSetup(t *testing.T) {
	const event = "Log Name:      Application\nSource:        %s\nDate:          5/4/2026 9:00:12 AM\nEvent ID:      300\nTask Category: None\n" +
		"Level:         %s\nUser:          N/A\nComputer:      ELLERY-D07\nDescription:\n%s\n"
	for _, c := range []struct{ source, level, text, want string }{
		{"HeronSetup", "Error", "Heron 5.2 could not be installed because the disk is full", "failed"},
		{"Heron Updater", "Error", "Update of Heron failed: access denied to C:\\Heron\\x.dll", "failed"},
		{"HeronSetup", "Error", "telemetry setup failed (ignored)", "unknown"},
		{"HeronSync", "Error", "The note could not be updated in the store", "unknown"},
	} {
		if v := reached(t, fmt.Sprintf(event, c.source, c.level, c.text)); string(v.Outcome) != c.want {
			t.Errorf("%s: %s: %s, want %s", c.source, c.text, v.Outcome, c.want)
		}
	}
}

// A runtime in a row of what is looked for is what is missing, in whatever
// language, and not the line above it.
func TestARuntimeInARow(t *testing.T) {
	for _, head := range []string{"Checking prerequisites of Heron 5", "Comprobando requisitos previos de Heron 5", "Vérification des prérequis de Heron 5"} {
		for row, want := range map[string]string{"  .NET Desktop Runtime 8 (x64): no encontrado": ".NET Desktop Runtime 8",
			"  Visual C++ 2022 (x64) ... missing": "Visual C++ 2022", "  WebView2 Runtime ....... fehlt": "WebView2 Runtime"} {
			v := reached(t, head+"\n"+row+"\nThe installation cannot continue\n")
			if *v.Cause.Class != "prerequisite" || v.Cause.Subject == nil || !strings.HasPrefix(v.Cause.Subject.Name, want) {
				t.Errorf("%s, %s: %s about %+v", head, row, *v.Cause.Class, v.Cause.Subject)
			}
		}
	}
	v := reached(t, "2026-05-04 09:00:01 INFO Heron setup 5.2 starts\n2026-05-04 09:00:02 INFO Visual C++ 2022 (x64): missing\n"+
		"2026-05-04 09:00:09 INFO Visual C++ 2022 (x64) installed\n2026-05-04 09:00:12 ERROR not enough space on drive C:\n2026-05-04 09:00:13 ERROR setup failed\n")
	if *v.Cause.Class != "space" {
		t.Errorf("what was put right is the cause: %s", v.Cause.Summary)
	}
}
