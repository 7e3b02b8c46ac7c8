package evidence

import (
	"testing"

	"hollowkey/core/logs/story"
)

// That time is up is about what was waited for.
func TestWhatWasWaitedFor(t *testing.T) {
	for waits, want := range map[string]string{
		"waiting for KelpSvc to stop": "service", `waiting for lock file C:\ProgramData\Kelp\db.lock`: "in-use", `waiting for Global\KelpState`: "in-use",
		"waiting for kelp.example to answer": "network", "waiting for another installation to finish": "busy", "warte auf den Dienst Kelp": "service",
		"copying kelp.dll": "network", "waiting for kelp-updater.exe to end": "in-use", "waiting until the connection is there": "network",
	} {
		a := &story.Attempt{Dialect: story.Generic, LastLine: 4}
		for i, text := range []string{"Kelp 3.1 setup", waits, "timed out after 60 s", "setup failed"} {
			kind := story.KindInfo
			if i > 1 {
				kind = story.KindError
			}
			a.Messages = append(a.Messages, &story.Message{Place: story.Place{Line: i + 1}, Kind: kind, Text: text, Raw: text})
		}
		r := ReadRun(a, nil)
		got := ""
		for _, c := range r.lines[2].clues {
			got = c.Class
		}
		if got != want {
			t.Errorf("%s: %q, want %q", waits, got, want)
		}
	}
}
