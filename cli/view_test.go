package cli

import (
	"context"
	"fmt"
	"strings"
	"testing"

	tea "charm.land/bubbletea/v2"

	"hollowkey/core/logs/paged"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/logs/trail"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// The keys of the view lead where they say, and each line of the screen fits.
func TestView(t *testing.T) {
	var b strings.Builder
	for i := 1; i <= 900; i++ {
		fmt.Fprintf(&b, "line %d about %s\n", i, map[bool]string{true: "BerthSync", false: "tides"}[i%300 == 0])
	}
	pages, err := paged.Copy(context.Background(), strings.NewReader(b.String()), textfile.Options{})
	if err != nil {
		t.Fatal(err)
	}
	defer pages.Close()
	broke := 700
	tr := &trail.Trail{Outcome: "failed", Took: 40, Gaps: []trail.Gap{{After: 500, Took: 20}, {After: 100, Took: 3}}, Steps: []trail.Step{
		{Name: "INSTALL", Line: 10, Took: 40, State: "failed"}, {Name: "InstallFiles", Depth: 1, Line: 200, Took: 5, State: "done"},
		{Name: "StartServices", Depth: 1, Line: broke, Took: 30, State: "failed", Broke: true},
		{Name: "Rollback", Line: 800, State: "rolled back"}}}
	tr.BrokeAt.Line = &broke
	v := &verdict.Verdict{Chain: []verdict.Line{{Line: 850}, {Line: 720}, {Line: 700}}}
	v.Cause.Subject = &signs.Subject{Kind: "service", Name: "BerthSync"}
	m := newView(Style{}, "logs/setup.log", tr, v, pages)
	press := func(keys ...string) {
		for _, k := range keys {
			key := tea.Key{Text: k, Code: []rune(k)[0]}
			if code, ok := map[string]rune{"enter": tea.KeyEnter, "up": tea.KeyUp, "down": tea.KeyDown,
				"tab": tea.KeyTab, "end": tea.KeyEnd, "home": tea.KeyHome,
				"right": tea.KeyRight, "backspace": tea.KeyBackspace, "pgup": tea.KeyPgUp}[k]; ok {
				key = tea.Key{Code: code}
			}
			m.Update(tea.KeyPressMsg(key))
		}
	}
	m.Update(tea.WindowSizeMsg{Width: 70, Height: 24})
	at := func(what string, line int) {
		t.Helper()
		if m.mark != line {
			t.Errorf("%s: line %d, want %d (%s)", what, m.mark, line, m.said)
		}
	}
	at("it begins where it broke", broke)
	press("e")
	at("the echo", 720)
	press("e", "e")
	at("the echo, from the start again", 700)
	press("g")
	at("the silence, from the start again", 100)
	press("g")
	at("the next silence", 500)
	press("s")
	at("the subject", 600)
	press("s", "s")
	at("the subject, from the start again", 300)
	press("/", "l", "i", "n", "e", " ", "4", "2", "x", "backspace", "enter")
	at("a word", 420)
	press("N")
	at("backwards", 42)
	press("r", "up")
	at("the action above", 200)
	press("up", "enter")
	if got := len(m.shown); got != 2 {
		t.Errorf("folded: %d actions", got)
	}
	press("enter", "tab", "end")
	if m.line != 900-m.below()+1 {
		t.Errorf("the end of the lines: %d", m.line)
	}
	press("right", "y")
	if m.said != "copied setup.log:10" {
		t.Errorf("the place: %q", m.said)
	}
	screen := m.draw()
	if n := strings.Count(screen, "\n") + 1; n > 24 {
		t.Errorf("%d lines on a screen of 24", n)
	}
	for line := range strings.Lines(screen) {
		if n := len([]rune(strings.TrimRight(line, "\n"))); n > 70 {
			t.Errorf("%d columns: %s", n, line)
		}
	}
	if _, cmd := m.Update(tea.KeyPressMsg(tea.Key{Text: "q", Code: 'q'})); cmd == nil {
		t.Error("q does not end it")
	}
}
