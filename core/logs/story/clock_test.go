package story

import (
	"testing"
	"time"
)

// The longest silence is kept however many come after it.
func TestTheLongestGapStays(t *testing.T) {
	a := &Attempt{}
	c := ClockFor(a)
	at := time.Hour
	for line := 1; line <= 200; line++ {
		c.Stamp(line, at, "")
		at += LongGap + time.Second
		if line == 3 {
			at += 40 * time.Minute
		}
	}
	if len(a.Gaps) != maxGaps || a.Gaps[0].After != 3 || a.Gaps[0].Length < 40*time.Minute {
		t.Errorf("gaps: %v", a.Gaps)
	}
}

func TestMidnight(t *testing.T) {
	const late, early = 23*time.Hour + 59*time.Minute, time.Minute
	for _, tt := range []struct {
		name        string
		dates       [2]string
		first, then time.Duration
		want        time.Duration
	}{
		{"without dates", [2]string{"", ""}, late, early, 2 * time.Minute},
		{"with dates", [2]string{"2026-05-04", "2026-05-05"}, late, early, 2 * time.Minute},
		{"a date that begins midway", [2]string{"", "2026-05-04"}, time.Hour, 2 * time.Hour, time.Hour},
		{"a clock that is set back an hour", [2]string{"", ""}, 3 * time.Hour, 2 * time.Hour, -time.Hour},
	} {
		a := &Attempt{}
		c := ClockFor(a)
		c.Stamp(1, tt.first, tt.dates[0])
		if got := c.Since(tt.then, tt.dates[1]); tt.dates[0] == tt.dates[1] && tt.want < 0 && got != tt.want {
			t.Errorf("%s: since is %v", tt.name, got)
		}
		c.Stamp(2, tt.then, tt.dates[1])
		if got := a.LastTime - a.FirstTime; got != tt.want {
			t.Errorf("%s: it took %v; want %v", tt.name, got, tt.want)
		}
	}
	c := ClockFor(&Attempt{})
	c.Stamp(1, -1, "")
	if c.Now() != -1 || c.Since(time.Hour, "") != 0 {
		t.Error("a line without a time moved the clock")
	}
}
