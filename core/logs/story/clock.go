// This file makes times of day into a time that only rises, over midnight.

package story

import (
	"slices"
	"time"
)

const (
	// LongGap is a silence worth telling: steps of setups log something within
	// seconds, the largest copies within a minute.
	LongGap = 2 * time.Minute
	// maxGaps of an attempt are kept, the longest: a person looks at three.
	maxGaps = 5
	// halfDay is how far a clock may seem to go back before midnight is the
	// reason: shifts for summer time and between time servers are shorter.
	halfDay = 12 * time.Hour
	day     = 24 * time.Hour // what a clock that went round is behind
)

// A Clock follows the times of day in the lines of one attempt: it adds a day
// when midnight is passed, and notes first and last time and the long silences
// in the attempt.
type Clock struct {
	a     *Attempt      // its gaps and times are noted there
	last  time.Duration // of the line before, with days added; -1 when there was none
	days  time.Duration // midnights passed, in days
	date  string        // as the log wrote it last
	after int           // the line before
}

// ClockFor begins the clock of an attempt that has no times yet.
func ClockFor(a *Attempt) Clock {
	a.FirstTime, a.LastTime = -1, -1
	return Clock{a: a, last: -1}
}

// Now is the time of the last line that had one, days added; -1 when none had.
func (c *Clock) Now() time.Duration { return c.last }

// Stamp takes the time of day of a line, and its date where the log writes one;
// a negative time is none.
func (c *Clock) Stamp(line int, at time.Duration, date string) {
	if at < 0 {
		return
	}
	if date != "" {
		if c.date != "" && date != c.date && c.last >= 0 {
			c.days += day
		}
		c.date = date
		if c.a.Date == "" {
			c.a.Date = date
		}
	}
	at += c.days
	if date == "" && c.last >= 0 && at < c.last-halfDay {
		c.days += day
		at += day
	}
	if c.last >= 0 && at-c.last >= LongGap {
		c.gap(Gap{After: c.after, Length: at - c.last})
	}
	if c.a.FirstTime < 0 {
		c.a.FirstTime = at
	}
	c.last, c.after, c.a.LastTime = at, line, at
}

// gap keeps the longest silences, the longest first.
func (c *Clock) gap(g Gap) {
	gaps := append(c.a.Gaps, g)
	slices.SortStableFunc(gaps, func(a, b Gap) int { return int(b.Length - a.Length) })
	c.a.Gaps = gaps[:min(len(gaps), maxGaps)]
}

// Since is how long before a time of day the last line was, 0 when either is
// not known. Another date counts as a whole day.
func (c *Clock) Since(at time.Duration, date string) time.Duration {
	if at < 0 || c.last < 0 {
		return 0
	}
	if date != "" && c.date != "" && date != c.date {
		return day
	}
	return at + c.days - c.last
}
