package verdict

import (
	_ "embed"
	"strings"
	"testing"
)

//go:embed testdata/oneline/outcomes.txt
var outcomesText string

// How a run ended is told by its last line, in each language, also where it
// denies that all went well, or that a restart is due.
func TestOutcomesInOneLine(t *testing.T) {
	n := 0
	for row := range strings.Lines(outcomesText) {
		want, line, ok := strings.Cut(strings.TrimSpace(row), "|")
		if !ok {
			continue
		}
		n++
		for _, head := range []string{"2026-05-04 09:12:0# INFO ", "[09:12:0#] "} {
			log := ""
			for i, text := range []string{"Tidebook setup 2.8 started", "reading maps", "copying files", "registering", line} {
				log += strings.Replace(head, "#", string(rune('1'+i)), 1) + text + "\n"
			}
			if v := reached(t, log); string(v.Outcome) != want {
				t.Errorf("%q is told as %s, want %s", line, v.Outcome, want)
			}
		}
	}
	if n < 150 {
		t.Errorf("%d lines", n)
	}
}
