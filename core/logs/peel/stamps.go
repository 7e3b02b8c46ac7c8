// This file reads times in the forms that are written beside the usual ones.

package peel

import (
	"bytes"
	"fmt"
	"strconv"
	"time"

	"hollowkey/core/logs/dialects/lines"
)

// Stamp reads a date and time at the beginning of s in any of the forms that
// are written. It gives the date as written, the time of day, and how many
// bytes it took; 0 bytes when there is none.
func Stamp(s []byte) (date string, at time.Duration, n int) { return anyStamp(s) }

// anyStamp reads a stamp in any of the forms that are written: those of
// lines.Stamp, "Feb 19 08:40:31", "12/May/2026:08:40:31", "0225/131433",
// "20260225 13:14:33", "2026年5月4日 09時14分03秒", seconds since 1970 with a
// fraction.
func anyStamp(s []byte) (date string, at time.Duration, n int) {
	if len(s) < 6 || s[0] == ' ' {
		return "", -1, 0
	}
	if date, at, n = lines.Stamp(s); n > 0 {
		return date, at, n
	}
	if date, at, k := written(s); k > 0 {
		return date, at, k
	}
	if at, k := compact(s); k > 0 {
		return "", at, k
	}
	if k := monthDay(s); k > 0 {
		rest := bytes.TrimLeft(s[k:], " ,:T")
		if _, at, m := lines.Stamp(rest); m > 0 {
			return string(bytes.TrimRight(s[:k], " ,")), at, len(s) - len(rest) + m
		}
	}
	if at, k := plainClock(s); k > 0 {
		return "", at, k
	}
	if at, k := sinceBegin(s); k > 0 {
		return "", at, k
	}
	if date, at, k := sinceEpoch(s); k > 0 {
		return date, at, k
	}
	if k := digits(s); k == 6 && s[1] != 'x' && k+1 < len(s) && s[k] == ' ' { // 260224 19:05:11
		if _, at, m := lines.Stamp(s[k+1:]); m > 0 {
			return "20" + string(s[:2]) + "-" + string(s[2:4]) + "-" + string(s[4:6]), at, k + 1 + m
		}
	}
	if date, at, k := unparted(s); k > 0 {
		return date, at, k
	}
	if k := digits(s); k == 8 && s[0] == '2' && k+1 < len(s) { // 20260225
		rest := bytes.TrimLeft(s[k:], " T-_")
		if _, at, m := lines.Stamp(rest); m > 0 {
			return string(s[:k]), at, len(s) - len(rest) + m
		}
	}
	return "", -1, 0
}

// plainClock reads a time of six figures without colons and without a date,
// with or without thousandths: 074002, 074002.117.
func plainClock(s []byte) (time.Duration, int) {
	if digits(s) != 6 || s[1] == 'x' {
		return -1, 0
	}
	end, ms := 6, 0
	if len(s) > 10 && (s[6] == '.' || s[6] == ',') && digits(s[7:]) == 3 {
		end, ms = 10, figures(s[7:10])
	}
	if len(s) < end+2 || s[end] != ' ' || s[end+1] == ' ' {
		return -1, 0
	}
	if _, _, m := lines.Stamp(s[end+1:]); m > 0 { // it is the date before a time
		return -1, 0
	}
	h, m, sec := figures(s[:2]), figures(s[2:4]), figures(s[4:6])
	if h > 23 || m > 59 || sec > 59 {
		return -1, 0
	}
	return time.Duration(h)*time.Hour + time.Duration(m)*time.Minute + time.Duration(sec)*time.Second + time.Duration(ms)*time.Millisecond, end
}

// sinceBegin reads the seconds since a program's start with a sign before or a
// unit behind them: +0001.137s, T+12.3, 12.345s, + 12s, +00:05.123.
func sinceBegin(s []byte) (time.Duration, int) {
	rest := bytes.TrimPrefix(s, []byte("T"))
	signed := rest[0] == '+'
	if signed {
		rest = bytes.TrimLeft(rest[1:], " ")
		if at, n := clockSince(rest); n > 0 {
			return at, len(s) - len(rest) + n
		}
	}
	whole := digits(rest)
	if whole == 0 || whole > maxWhole || len(rest) < 2 || rest[1] == 'x' || whole+1 >= len(rest) {
		return -1, 0
	}
	if signed && rest[whole] == 's' && rest[whole+1] == ' ' {
		return time.Duration(figures(rest[:whole])) * time.Second, len(s) - len(rest) + whole + 1
	}
	if rest[whole] != '.' {
		return -1, 0
	}
	n := whole + 1 + digits(rest[whole+1:])
	if n == whole+1 || n > whole+1+maxFraction {
		return -1, 0
	}
	f, err := strconv.ParseFloat(string(rest[:n]), 64)
	unit := n < len(rest) && rest[n] == 's'
	if unit {
		n++
	}
	if err != nil || !unit && !signed || n < len(rest) && bytes.IndexByte([]byte(" \t|:,]"), rest[n]) < 0 {
		return -1, 0
	}
	return time.Duration(f * float64(time.Second)).Truncate(time.Millisecond), len(s) - len(rest) + n
}

// clockSince reads such a time as minutes and seconds, or hours, minutes and
// seconds, with thousandths or without: 00:05.123, 1:02:03.
func clockSince(s []byte) (at time.Duration, n int) {
	parts := 0
	for n < len(s) && parts < 3 {
		k := digits(s[n:])
		if k == 0 || k > 3 || parts > 0 && k != 2 || k > 1 && s[n+1] == 'x' {
			return -1, 0
		}
		at = at*60 + time.Duration(figures(s[n:n+k]))*time.Second
		if n, parts = n+k, parts+1; n >= len(s) || s[n] != ':' {
			break
		}
		n++
	}
	if parts < 2 || n >= len(s) {
		return -1, 0
	}
	if k := 0; s[n] == '.' || s[n] == ',' {
		if k = digits(s[n+1:]); k == 0 || k > maxFraction {
			return -1, 0
		}
		f, err := strconv.ParseFloat("0."+string(s[n+1:n+1+k]), 64)
		if err != nil {
			return -1, 0
		}
		at, n = at+time.Duration(f*float64(time.Second)).Truncate(time.Millisecond), n+1+k
	}
	if n < len(s) && bytes.IndexByte([]byte(" \t|;,]"), s[n]) < 0 {
		return -1, 0
	}
	return at, n
}

// plainSeconds reads seconds with three or six figures behind the point and no
// sign or unit: 11.738.
func plainSeconds(s []byte) (time.Duration, int) {
	whole := digits(s)
	if whole == 0 || whole > maxWhole || whole >= len(s) || s[whole] != '.' || len(s) > 1 && s[1] == 'x' {
		return -1, 0
	}
	k := digits(s[whole+1:])
	n := whole + 1 + k
	if k != 3 && k != 6 || n >= len(s) || bytes.IndexByte([]byte(" \t|;,]"), s[n]) < 0 {
		return -1, 0
	}
	f, err := strconv.ParseFloat(string(s[:n]), 64)
	if err != nil {
		return -1, 0
	}
	return time.Duration(f * float64(time.Second)).Truncate(time.Millisecond), n
}

// How many figures such a time has at most before and behind its point: ten
// days, and a millionth of a second.
const (
	maxWhole    = 6
	maxFraction = 6
)

// unparted reads a date and a time of which one at least has no colons:
// 20260225131433, 20260225-131433, 2026-02-25_13-14-33, 2026.02.25-13.14.33.
func unparted(s []byte) (date string, at time.Duration, n int) {
	k := digits(s)
	var y, m, d int
	switch {
	case (k == 8 || k == 14) && s[0] == '2':
		y, m, d, n = figures(s[:4]), figures(s[4:6]), figures(s[6:8]), 8
	case k == 4 && s[0] == '2' && len(s) > 10 &&
		(s[4] == '-' || s[4] == '.' || s[4] == '_') && s[7] == s[4] && digits(s[5:]) == 2 && digits(s[8:]) == 2:
		y, m, d, n = figures(s[:4]), figures(s[5:7]), figures(s[8:10]), 10
	default:
		return "", -1, 0
	}
	if y < 2000 || y > 2099 || m < 1 || m > 12 || d < 1 || d > 31 {
		return "", -1, 0
	}
	if n < len(s) && bytes.IndexByte([]byte("T-_ ."), s[n]) >= 0 {
		n++
	}
	rest := s[n:]
	var h, mi, sec int
	switch {
	case digits(rest) >= 6 && digits(rest) <= 9 && digits(rest) != 8 && k != 4: // with milliseconds, maybe
		h, mi, sec = figures(rest[:2]), figures(rest[2:4]), figures(rest[4:6])
		n += digits(rest)
	case len(rest) >= 8 && digits(rest) == 2 &&
		(rest[2] == '-' || rest[2] == '.') && rest[5] == rest[2] && digits(rest[3:]) == 2 && digits(rest[6:]) == 2:
		h, mi, sec = figures(rest[:2]), figures(rest[3:5]), figures(rest[6:8])
		n += 8
	default:
		return "", -1, 0
	}
	if h > 23 || mi > 59 || sec > 60 {
		return "", -1, 0
	}
	if n < len(s) && (s[n] == '.' || s[n] == ',') && digits(s[n+1:]) > 0 {
		n += 1 + digits(s[n+1:])
	}
	if n < len(s) && s[n] == 'Z' {
		n++
	}
	if n < len(s) && (s[n] >= '0' && s[n] <= '9' || s[n] >= 'a' && s[n] <= 'z' || s[n] >= 'A' && s[n] <= 'Z') { // a number or a name
		return "", -1, 0
	}
	return fmt.Sprintf("%04d-%02d-%02d", y, m, d),
		time.Duration(h)*time.Hour + time.Duration(mi)*time.Minute + time.Duration(sec)*time.Second, n
}

// figures reads decimal digits.
func figures(b []byte) (v int) {
	for _, c := range b {
		v = v*10 + int(c-'0')
	}
	return v
}

// sinceEpoch reads seconds since 1970, with a fraction, or milliseconds.
func sinceEpoch(s []byte) (date string, at time.Duration, n int) {
	k := digits(s)
	if k != 10 && k != 13 || s[0] != '1' || s[1] < '4' {
		return "", -1, 0
	}
	n = k
	if k == 10 && n < len(s) && s[n] == '.' {
		n += 1 + digits(s[n+1:])
	}
	if n < len(s) && s[n] != ' ' && s[n] != '\t' && s[n] != '|' && s[n] != ']' && s[n] != ',' {
		return "", -1, 0
	}
	f, err := strconv.ParseFloat(string(s[:n]), 64)
	if err != nil {
		return "", -1, 0
	}
	if k == 13 {
		f /= 1000
	}
	t := time.UnixMilli(int64(f * 1000)).UTC()
	return t.Format(time.DateOnly), t.Sub(t.Truncate(24 * time.Hour)), n
}

// compact reads month and day, a stroke or blank, and the time without colons:
// 0225/131433.
func compact(s []byte) (time.Duration, int) {
	if len(s) < 11 || digits(s) != 4 || s[4] != '/' && s[4] != '-' || digits(s[5:]) != 6 {
		return -1, 0
	}
	two := func(i int) time.Duration { return time.Duration(s[i]-'0')*10 + time.Duration(s[i+1]-'0') }
	h, m, sec := two(5), two(7), two(9)
	if h > 23 || m > 59 || sec > 60 {
		return -1, 0
	}
	n := 11
	if n < len(s) && (s[n] == '.' || s[n] == ',') {
		n += 1 + digits(s[n+1:])
	}
	return h*time.Hour + m*time.Minute + sec*time.Second, n
}

// wholeDate is how many numbers make a date that needs no month's word.
const wholeDate = 3

// monthDay is the length of a date with its month as a word: "Feb 19",
// "12/May/2026", "Wed Feb 11", "5 Mai 2026". Months are known by their form
// alone, three or four letters beside a day's number, so that other languages'
// are, too.
func monthDay(s []byte) int {
	n, words, numbers := 0, 0, 0
	for n < len(s) && words+numbers < 4 {
		k := 0
		for n+k < len(s) && (s[n+k] >= 'a' && s[n+k] <= 'z' || s[n+k] >= 'A' && s[n+k] <= 'Z' || s[n+k] >= 0x80) {
			k++
		}
		switch d := digits(s[n:]); {
		case k >= 3 && k <= 9:
			if numbers == wholeDate || Level(string(s[n:n+k])) != Unknown { // a level between a date and its time
				return 0
			}
			words++
			n += k
		case d == 1 || d == 2 || d == 4:
			if n+d < len(s) && s[n+d] == ':' && d != 4 && numbers > 0 {
				return n // the time begins
			}
			numbers++
			n += d
		default:
			return 0
		}
		if words > 0 && numbers > 0 && n < len(s) && s[n] == ':' {
			return n
		}
		for n < len(s) && bytes.IndexByte([]byte(" /-.,"), s[n]) >= 0 {
			n++
		}
		if words > 0 && numbers > 0 {
			if _, _, m := lines.Stamp(s[n:]); m > 0 {
				return n
			}
		}
	}
	return 0
}
