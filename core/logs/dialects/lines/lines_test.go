package lines

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/story"
)

func at(h, m, s, ms int) time.Duration {
	return time.Duration(h)*time.Hour + time.Duration(m)*time.Minute + time.Duration(s)*time.Second + time.Duration(ms)*time.Millisecond
}

func TestStamp(t *testing.T) {
	for _, tt := range []struct {
		in   string
		date string
		at   time.Duration
		rest string
	}{
		{"2026-01-19T16:41:20 text", "2026-01-19", at(16, 41, 20, 0), " text"},
		{"2026-01-19T16:41:20Z text", "2026-01-19", at(16, 41, 20, 0), " text"},
		{"2026-01-19T16:41:20.123456789Z] x", "2026-01-19", at(16, 41, 20, 123), "] x"},
		{"2026-01-19T16:41:20+02:00 x", "2026-01-19", at(16, 41, 20, 0), " x"},
		{"2026-01-19T16:41:20-0800 x", "2026-01-19", at(16, 41, 20, 0), " x"},
		{"2026-01-19 16:41:20,5 x", "2026-01-19", at(16, 41, 20, 500), " x"},
		{"2026-01-19 16:41:20:042 x", "2026-01-19", at(16, 41, 20, 42), " x"},
		{"2026/01/19 16:41:20.1 x", "2026/01/19", at(16, 41, 20, 100), " x"},
		{"19.01.2026 16:41:20 x", "19.01.2026", at(16, 41, 20, 0), " x"},
		{"1/9/2026 4:41:20 PM x", "1/9/2026", at(16, 41, 20, 0), " x"},
		{"1/9/2026 12:41:20 AM x", "1/9/2026", at(0, 41, 20, 0), " x"},
		{"2026-01-19, 16:41:20, Info", "2026-01-19", at(16, 41, 20, 0), ", Info"},
		{"16:41:20 x", "", at(16, 41, 20, 0), " x"},
		{"6:41:20.250 x", "", at(6, 41, 20, 250), " x"},
	} {
		date, got, n := Stamp([]byte(tt.in))
		if n == 0 || date != tt.date || got != tt.at || tt.in[n:] != tt.rest {
			t.Errorf("Stamp(%q) = %q, %v, rest %q; want %q, %v, %q", tt.in, date, got, tt.in[n:], tt.date, tt.at, tt.rest)
		}
	}
	for _, in := range []string{"", "x", "2026", "2026-01-19", "2026-01-19 x", "99:10:10", "10:99:10", "10:10", "10:10:1", "1234:10:10",
		"version 1.2.3", "10-10-10 10.10.10"} {
		if _, _, n := Stamp([]byte(in)); n != 0 {
			t.Errorf("Stamp(%q) took %d bytes", in, n)
		}
	}
}

func FuzzStamp(f *testing.F) {
	f.Add([]byte("2026-01-19T16:41:20.123Z x"))
	f.Add([]byte("1/9/2026 4:41:20 PM x"))
	f.Fuzz(func(t *testing.T, in []byte) {
		_, d, n := Stamp(in)
		if n < 0 || n > len(in) || n > 0 && (d < 0 || d > 25*time.Hour) {
			t.Errorf("Stamp(%q) = %v, %d", in, d, n)
		}
	})
}

func entry(line int, text string) Entry {
	return Entry{Line: line, At: -1, Kind: story.KindError, Text: text, Raw: text}
}

func TestRepeatedShapes(t *testing.T) {
	b := New("x.log", story.Generic)
	for i := 1; i <= 500; i++ {
		b.Add(entry(i, fmt.Sprintf(`EPERM: open 'C:\ProgramData\stats\a%d.tmp' (%d)`, i, i*7)))
	}
	b.Add(entry(501, `ENOENT: open 'C:\ProgramData\spool\queue.idx'`))
	a := b.Finish()[0]
	if n := len(a.Messages); n != shapeKept+1 {
		t.Errorf("%d messages are kept, want %d of the noise and the one that differs", n, shapeKept)
	}
	if m := a.Messages[0]; m.Repeated != 500 || m.Line != 1 {
		t.Errorf("the first of the noise: line %d, repeated %d", m.Line, m.Repeated)
	}
	if m := a.Messages[len(a.Messages)-1]; m.Repeated != 1 || m.Line != 501 {
		t.Errorf("the one that differs: line %d, repeated %d", m.Line, m.Repeated)
	}
	if m := a.Messages[len(a.Messages)-2]; m.Line != 500 {
		t.Errorf("the last of the noise is line %d, want 500", m.Line)
	}
}

func TestKeptIsBoundedAndInOrder(t *testing.T) {
	b := New("x.log", story.Generic)
	words := []string{"tide", "quay", "berth", "pilot", "wharf", "buoy", "lock", "crane"}
	for i := 1; i <= 6000; i++ {
		name := ""
		for k := i; k > 0; k /= len(words) {
			name += words[k%len(words)] + " "
		}
		b.Add(entry(i, name))
	}
	a := b.Finish()[0]
	if n := len(a.Messages); n > headKept+tailKept {
		t.Errorf("%d messages are kept", n)
	}
	for i := 1; i < len(a.Messages); i++ {
		if a.Messages[i].Line <= a.Messages[i-1].Line {
			t.Fatalf("line %d comes after line %d", a.Messages[i].Line, a.Messages[i-1].Line)
		}
	}
	if first, last := a.Messages[0].Line, a.Messages[len(a.Messages)-1].Line; first != 1 || last != 6000 {
		t.Errorf("from line %d to %d, want 1 to 6000", first, last)
	}
}

func TestTimesAndGaps(t *testing.T) {
	b := New("x.log", story.Generic)
	b.Ensure(1)
	b.Stamp(1, at(23, 58, 0, 0), "2026-05-04")
	b.Stamp(2, at(0, 1, 0, 0), "2026-05-05")
	b.Stamp(3, at(0, 31, 0, 0), "2026-05-05")
	if g := b.Gap(at(0, 32, 0, 0), "2026-05-05"); g != time.Minute {
		t.Errorf("Gap = %v, want 1 m", g)
	}
	if g := b.Gap(at(0, 32, 0, 0), "2026-05-09"); g < 20*time.Hour {
		t.Errorf("another day: Gap = %v", g)
	}
	a := b.Finish()[0]
	if a.LastTime-a.FirstTime != 33*time.Minute || a.Date != "2026-05-04" {
		t.Errorf("from %v to %v on %s", a.FirstTime, a.LastTime, a.Date)
	}
	if len(a.Gaps) != 2 || a.Gaps[0].Length != 30*time.Minute || a.Gaps[0].After != 2 {
		t.Errorf("gaps: %v", a.Gaps)
	}
	// Without dates midnight shows by the clock going back.
	b = New("y.log", story.Generic)
	b.Ensure(1)
	b.Stamp(1, at(23, 59, 59, 0), "")
	b.Stamp(2, at(0, 0, 1, 0), "")
	if a := b.Finish()[0]; a.LastTime-a.FirstTime != 2*time.Second {
		t.Errorf("over midnight: %v", a.LastTime-a.FirstTime)
	}
}

func TestActionsNest(t *testing.T) {
	b := New("x.log", story.Chain)
	outer := b.Start(1, "Apply", nil)
	inner := b.Start(2, "Package", outer)
	m := b.Add(entry(3, "went wrong"))
	code := 5
	b.End(inner, 4, true, &code, "ended badly")
	if m.Action != inner || b.Action() != outer || !inner.Failed || inner.EndText != "ended badly" || *inner.Code != 5 || inner.Depth() != 1 {
		t.Errorf("inner %+v, message in %v, now in %v", inner, m.Action, b.Action())
	}
	b.End(nil, 5, false, nil, "") // ending nothing does nothing
	b.More(6, "a second line")
	if !strings.HasSuffix(m.Text, "\na second line") {
		t.Errorf("more: %q", m.Text)
	}
	b.Exit(7, 3010, "exit code 3010")
	if a := b.Finish()[0]; !a.Restart || a.LastLine != 7 || len(a.Actions) != 2 {
		t.Errorf("%+v", a)
	}
}
