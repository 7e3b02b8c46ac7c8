package dialects

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// lastLineOf reads a text and gives where its last attempt ends.
func lastLineOf(t *testing.T, text string) int {
	t.Helper()
	s, err := Read(context.Background(), "kelp.log", strings.NewReader(text), textfile.Options{})
	if err != nil {
		t.Fatal(err)
	}
	return s.Last().LastLine
}

// linesLike are so many lines, of which a figure rises.
func linesLike(n int, forms ...string) (out []string) {
	for i := range n {
		out = append(out, fmt.Sprintf(forms[i%len(forms)], i))
	}
	return out
}

// What another program writes behind a log is no part of it; what a setup does
// that hangs is, and what is like the log's own lines.
func TestLinesBehindALog(t *testing.T) {
	log := []string{"Kelp Chart 3.1 setup started"}
	for i := range 40 {
		log = append(log, fmt.Sprintf("copied file%c%c.dll", 'a'+i%26, 'a'+i/26))
	}
	running := append(append([]string{}, log...), "starting service KelpSvc")
	ended := append(append([]string{}, log...), "cannot start service KelpSvc: access is denied", "Setup failed, exit code 3")
	stamped := func(ls []string) (out []string) {
		for i, l := range ls {
			out = append(out, fmt.Sprintf("2026-05-04 09:%02d:%02d INFO core - %s", i/60, i%60, l))
		}
		return out
	}
	agent := linesLike(60, "08:00:01 agent[77] heartbeat %d", "08:00:01 agent[77] queue %d")
	for name, c := range map[string]struct {
		log, behind []string
		kept        bool
	}{
		"a runner's console":             {ended, linesLike(60, "deploy: step %d of 400 prepared", "inventory: %d components seen"), false},
		"a runner's, of a run not ended": {running, linesLike(60, "copy: block %d", "hash: block %d"), true},
		"an agent's stamps":              {running, agent, false},
		"an agent's behind stamps":       {stamped(running), agent, false},
		"unstamped behind stamps":        {stamped(running), linesLike(60, "deploy: step %d", "inventory: %d"), false},
		"it waits":                       {running, linesLike(60, "waiting for service KelpSvc, %d s", "status of KelpSvc: %d"), true},
		"it waits, with stamps":          {stamped(running), stamped(linesLike(60, "waiting for service KelpSvc, %d s", "status of KelpSvc: %d")), true},
		"it counts":                      {running, linesLike(60, "progress: %d %%"), true},
		"an agent's that tells an end":   {running, append(linesLike(60, "08:00:01 agent[77] heartbeat %d"), "08:00:09 agent[77] setup failed"), true},
	} {
		whole := append(append([]string{}, c.log...), c.behind...)
		want := len(c.log)
		if c.kept {
			want = len(whole)
		}
		if got := lastLineOf(t, strings.Join(whole, "\n")+"\n"); got != want {
			t.Errorf("%s: the log ends at line %d, want %d of %d", name, got, want, len(whole))
		}
	}
}

// Records whose own levels differ are not taken apart: the text in them tells
// less.
func TestRecordsWithLevels(t *testing.T) {
	var b strings.Builder
	b.WriteString(`{"level":"info","message":"2026-05-04 09:00:00 Kelp Chart 3.1 setup started"}` + "\n")
	for i := range 20 {
		fmt.Fprintf(&b, `{"level":"info","message":"2026-05-04 09:00:%02d copied tide%d.dll"}`+"\n", i, i)
	}
	b.WriteString(`{"level":"error","message":"2026-05-04 09:01:00 chart.db is held"}` + "\n")
	b.WriteString(`{"level":"info","message":"2026-05-04 09:01:02 setup failed, exit code 3"}` + "\n")
	s, err := Read(context.Background(), "kelp.log", strings.NewReader(b.String()), textfile.Options{})
	if err != nil {
		t.Fatal(err)
	}
	grave := 0
	for _, m := range s.Last().Messages {
		if m.Kind == story.KindError && strings.Contains(m.Text, "chart.db") {
			grave++
		}
	}
	if grave != 1 {
		t.Errorf("%d records are errors, want the one that says so", grave)
	}
}
