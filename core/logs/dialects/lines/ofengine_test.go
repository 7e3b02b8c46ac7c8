package lines

import (
	"slices"
	"strings"
	"testing"
)

// Each text of the list is found with its number, and what it names is its
// fields.
func TestTextsOfTheEngine(t *testing.T) {
	n := 0
	for line := range strings.Lines(engineText) {
		number, rest, ok := strings.Cut(strings.TrimSpace(line), "|")
		if !ok || strings.HasPrefix(line, "#") {
			continue
		}
		for text := range strings.SplitSeq(rest, "|") {
			n++
			if number == "0" { // the text names the number itself
				if got, fields := OfEngine("10:02 " + strings.ReplaceAll(text, "*", "2755") + "."); got != 2755 || len(fields) != 1 {
					t.Errorf("%q: %d %q, want 2755 alone", text, got, fields)
				}
				continue
			}
			got, fields := OfEngine("10:02 " + strings.ReplaceAll(text, "*", `C:\Tide\a b.dll`))
			if want := 1 + strings.Count(text, "*"); len(fields) != want || fields[0] != number {
				t.Errorf("%q: %d %q, want %s and %d fields", text, got, fields, number, want)
			} else if slices.ContainsFunc(fields[1:], func(f string) bool { return f != `C:\Tide\a b.dll` }) {
				t.Errorf("%q: %q", text, fields)
			}
		}
	}
	if n < 100 {
		t.Errorf("%d texts", n)
	}
}

func TestOfEngine(t *testing.T) {
	for text, want := range map[string][]string{
		"Service 'Berth Sync' (BerthSync) failed to start. Verify that you have sufficient privileges.": {"1920", "Berth Sync", "BerthSync"},
		`Fehler 1303. Der Installer verfügt nicht über ausreichende Berechtigungen für den Zugriff auf dieses Verzeichnis: C:\Tide. Die Installation wird abgebrochen.`: {
			"1303", `C:\Tide`},
		`Error writing to file: C:\Tide\a.dll.  Verify that you have access to that directory.`: {"1304", `C:\Tide\a.dll`},
		`Invalid Drive: Z:\`:          {"1327", `Z:\`},
		"service BerthSync failed":    nil,
		"the service failed to start": nil,
	} {
		number, fields := OfEngine(text)
		if !slices.Equal(fields, want) {
			t.Errorf("%q: %d %q, want %q", text, number, fields, want)
		}
	}
}
