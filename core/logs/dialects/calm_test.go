package dialects

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// copied is a log in which one sentence is said n times, with what put says in
// place of the line at some of them.
func copied(n int, put map[int]string) string {
	var b strings.Builder
	at := time.Date(2026, 5, 4, 9, 12, 1, 0, time.UTC)
	for i := range n {
		stamp := at.Add(time.Duration(i) * 20 * time.Millisecond).Format("2006-01-02 15:04:05,000")
		text := fmt.Sprintf(`INFO  [main] quay.copy - tile%05d.dll copied to C:\Quay\Tidebook (%d bytes)`, i, 4000+i)
		if p, ok := put[i]; ok {
			text = p
		}
		fmt.Fprintf(&b, "%s %s\n", stamp, text)
	}
	return b.String()
}

func read(t testing.TB, log string) *story.Attempt {
	t.Helper()
	s, err := Read(context.Background(), "quay.log", strings.NewReader(log), textfile.Options{})
	if err != nil {
		t.Fatal(err)
	}
	return s.Last()
}

// TestCalm: what says nothing new is left out, and nothing else is.
func TestCalm(t *testing.T) {
	a := read(t, copied(60000, map[int]string{
		40000: `ERROR [main] quay.copy - There is not enough space on the disk`,
		40001: `INFO  [main] quay.tool - ended with code 0`,
		50000: `INFO  [main] quay.tool - ended with code 1632`,
	}))
	if a.Entries < 59000 || a.LastLine != 60000 {
		t.Errorf("%d entries to line %d: want all 60000 counted, but for the few still held back", a.Entries, a.LastLine)
	}
	kept := map[int]string{}
	for _, m := range a.Messages {
		kept[m.Line] = m.Text
	}
	for line, why := range map[int]string{1: "the first", 40001: "an error", 40002: "an end",
		50001: "an end with another code", 60000: "the last"} {
		if kept[line] == "" {
			t.Errorf("line %d is not kept: %s", line, why)
		}
	}
	if len(a.Messages) > 2000 {
		t.Errorf("%d messages are kept of one sentence", len(a.Messages))
	}
}

// TestCalmKeepsSilence: a silence between two lines that say the same is not
// lost.
func TestCalmKeepsSilence(t *testing.T) {
	log := copied(5000, nil)
	lines := strings.SplitAfter(log, "\n")
	for i := 3000; i < len(lines); i++ {
		lines[i] = strings.Replace(lines[i], "2026-05-04 09:", "2026-05-04 10:", 1)
	}
	a := read(t, strings.Join(lines, ""))
	if len(a.Gaps) == 0 || a.Gaps[0].Length < 59*time.Minute || a.Gaps[0].Length > time.Hour+time.Second {
		t.Fatalf("the silence of an hour is told as %+v", a.Gaps)
	}
}

// TestSentence: what changes from one occurrence to the next does not count,
// and what tells something does.
func TestSentence(t *testing.T) {
	same := [][2]string{
		{`copied tile1.dll (4 bytes)`, `copied desk22.dll (99812 bytes)`},
		{`from C:\Quay\a\b.dll`, `from C:\Desk\c.dll`},
		{`version 10.0.1`, `version 9.12`},
		{`hr = 0x80070005`, `hr = 0x80070002`},
		{`{"ts":"2026-05-04T12:12:18.340Z","msg":"done"}`, `{"ts":"2026-05-04T12:12:19.001Z","msg":"done"}`},
	}
	for _, c := range same {
		if sentence([]byte(c[0]))[0] != sentence([]byte(c[1]))[0] {
			t.Errorf("%q and %q are two sentences", c[0], c[1])
		}
	}
	differ := [][2]string{{`result 0`, `result 5`}, {`GET /a.cab 200 312`, `GET /b.cab 407 312`}, {`hr = 0x00000000`, `hr = 0x80070002`},
		{`state: Present`, `state: Absent`}, {`a b`, `ab`}, {`a: 1`, `a= 1`}}
	for _, c := range differ {
		if sentence([]byte(c[0]))[0] == sentence([]byte(c[1]))[0] {
			t.Errorf("%q and %q are one sentence", c[0], c[1])
		}
	}
	for _, c := range [][2]string{{`2026-05-04 09:12:01 x`, `2026-05-04 09:12:31 x`},
		{`2026-05-04 09:12:01 x`, `2026-05-05 09:12:01 x`}, {`{"t":1777885998123}`, `{"t":1777886998123}`}} {
		a, b := sentence([]byte(c[0]))[1], sentence([]byte(c[1]))[1]
		if a == b || a == 0 {
			t.Errorf("%q and %q are one moment", c[0], c[1])
		}
	}
}

func BenchmarkCalm(b *testing.B) {
	log := copied(60000, nil)
	b.SetBytes(int64(len(log)))
	for b.Loop() {
		read(b, log)
	}
}
