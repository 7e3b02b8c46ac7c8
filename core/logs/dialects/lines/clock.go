// This file reads stamps. It is asked of every line, so it looks at bytes and
// takes no expression.

package lines

import (
	"slices"
	"time"

	"hollowkey/core/logs/story"
)

// sortByLine puts messages in the order of their lines; of those of one line
// the order stays.
func sortByLine(ms []*story.Message) {
	slices.SortStableFunc(ms, func(a, b *story.Message) int { return a.Line - b.Line })
}

// noon is what a clock of twelve hours leaves out after midday.
const noon = 12 * time.Hour

// Stamp reads a date and time at the start of s: 2026-01-19T16:41:20,
// 2026/01/19 16:41:20.123, 19.01.2026 16:41:20 and the like, or a time alone.
// It gives the date as written, the time of day, and how many bytes it took; 0
// bytes when there is none.
func Stamp(s []byte) (date string, at time.Duration, n int) {
	i := 0
	digits := func(from int) int {
		j := from
		for j < len(s) && s[j] >= '0' && s[j] <= '9' {
			j++
		}
		return j
	}
	// The date: three numbers with the same sign between them.
	a := digits(0)
	if a > 0 && a <= 4 && a < len(s) && (s[a] == '-' || s[a] == '/' || s[a] == '.') {
		b := digits(a + 1)
		if b > a+1 && b-a <= 3 && b < len(s) && s[b] == s[a] {
			c := digits(b + 1)
			if c > b+1 && c-b <= 5 {
				date = string(s[:c])
				i = c
				for i < len(s) && (s[i] == 'T' || s[i] == ' ' || s[i] == ',') && i < c+3 {
					i++
				}
			}
		}
	}
	start := i
	h := digits(i)
	if h == i || h-i > 2 || h >= len(s) || s[h] != ':' {
		return "", -1, 0
	}
	m := digits(h + 1)
	if m-h != 3 || m >= len(s) || s[m] != ':' {
		return "", -1, 0
	}
	e := digits(m + 1)
	if e-m != 3 {
		return "", -1, 0
	}
	num := func(b []byte) (v int) {
		for _, c := range b {
			v = v*10 + int(c-'0')
		}
		return v
	}
	hh, mm, ss := num(s[start:h]), num(s[h+1:m]), num(s[m+1:e])
	if hh > 23 || mm > 59 || ss > 60 {
		return "", -1, 0
	}
	at = time.Duration(hh)*time.Hour + time.Duration(mm)*time.Minute + time.Duration(ss)*time.Second
	if e < len(s) && (s[e] == '.' || s[e] == ',' || s[e] == ':') {
		f := digits(e + 1)
		if f > e+1 && f-e <= 10 {
			frac := s[e+1 : min(f, e+4)]
			ms := num(frac)
			for k := len(frac); k < 3; k++ {
				ms *= 10
			}
			at += time.Duration(ms) * time.Millisecond
			e = f
		}
	}
	if e < len(s) && s[e] == 'Z' {
		e++
	} else if e+5 < len(s) && (s[e] == '+' || s[e] == '-') && s[e+1] >= '0' && s[e+1] <= '1' {
		z := digits(e + 1)
		if z < len(s) && s[z] == ':' {
			z = digits(z + 1)
		}
		e = z
	}
	if rest := s[e:]; len(rest) >= 3 && rest[0] == ' ' && (rest[1] == 'A' || rest[1] == 'P') && rest[2] == 'M' {
		if rest[1] == 'P' && hh < 12 {
			at += noon
		} else if rest[1] == 'A' && hh == 12 {
			at -= noon
		}
		e += 3
	}
	return date, at, e
}
