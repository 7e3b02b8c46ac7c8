// This file reads times that are written with signs or words for their parts.

package peel

import (
	"bytes"
	"fmt"
	"time"

	"hollowkey/core/logs/dialects/lines"
)

// A unit is the sign behind a number that says what it counts, as Chinese,
// Japanese and Korean write it: 2026年05月04日 09時14分03秒, 2026년 5월 4일 9시 14분.
type unit []string

var (
	yearSign   = unit{"年", "년"}
	monthSign  = unit{"月", "월"}
	daySign    = unit{"日", "일", "號", "号"}
	hourSign   = unit{"時", "时", "시", "點", "点"}
	minuteSign = unit{"分", "분"}
	secondSign = unit{"秒", "초"}
	forenoon   = unit{"午前", "上午", "오전"}
	afternoon  = unit{"午後", "下午", "오후"}
)

// count reads a number of at most so many digits and the sign behind it.
func (u unit) count(s []byte, most int) (v int, rest []byte, ok bool) {
	n := digits(s)
	if n == 0 || n > most || s[min(1, n-1)] == 'x' {
		return 0, s, false
	}
	rest, ok = u.cut(s[n:])
	return figures(s[:n]), rest, ok
}

// cut takes the sign off, and the blanks behind it.
func (u unit) cut(s []byte) (rest []byte, ok bool) {
	for _, sign := range u {
		if rest, ok := bytes.CutPrefix(s, []byte(sign)); ok {
			return bytes.TrimLeft(rest, " "), true
		}
	}
	return s, false
}

// leastWritten is how many bytes such a time has at least: three signs of three
// bytes, three digits.
const leastWritten = 12

// written reads a time whose numbers have signs for what they count, a time of
// twelve hours with the half of the day in front, or both, with or without a
// date: 2026/5/4 下午 01:14:03.
func written(s []byte) (date string, at time.Duration, n int) {
	if len(s) < leastWritten || bytes.IndexFunc(s[:leastWritten], func(r rune) bool { return r >= 0x80 }) < 0 {
		return "", -1, 0
	}
	rest := s
	if y, r, ok := yearSign.count(rest, 4); ok {
		m, r, ok := monthSign.count(r, 2)
		d, r, ok2 := daySign.count(r, 2)
		if !ok || !ok2 || m < 1 || m > 12 || d < 1 || d > 31 {
			return "", -1, 0
		}
		date, rest = fmt.Sprintf("%04d-%02d-%02d", y, m, d), withoutWeekday(r)
	} else if k := numericDate(rest); k > 0 {
		date, rest = string(s[:k]), withoutWeekday(bytes.TrimLeft(rest[k:], " "))
	}
	half := time.Duration(0)
	if r, ok := forenoon.cut(rest); ok {
		rest = r
	} else if r, ok := afternoon.cut(rest); ok {
		half, rest = 12*time.Hour, r
	}
	if _, clock, k := lines.Stamp(rest); k > 0 && (date != "" || len(rest) < len(s)) {
		if clock >= 12*time.Hour { // 午後12:05, or 24 hours beside the half
			half = 0
		}
		return date, clock + half, len(s) - len(rest) + k
	}
	h, r, ok := hourSign.count(rest, 2)
	mi, r, ok2 := minuteSign.count(r, 2)
	if !ok || !ok2 || h > 23 || mi > 59 {
		return "", -1, 0
	}
	sec, behind, ok := secondSign.count(r, 2)
	if ok {
		r = behind
	}
	if half > 0 && h >= 12 {
		half = 0
	}
	at = time.Duration(h)*time.Hour + time.Duration(mi)*time.Minute + time.Duration(min(sec, 60))*time.Second + half
	return date, at, len(s) - len(r) - blanksBefore(s, r)
}

// numericDate is the length of three numbers with the same sign between them:
// 2026/3/2.
func numericDate(s []byte) int {
	y := digits(s)
	if y != 4 || y >= len(s) || bytes.IndexByte([]byte("-/."), s[y]) < 0 {
		return 0
	}
	m := digits(s[y+1:])
	if m == 0 || m > 2 || y+1+m >= len(s) || s[y+1+m] != s[y] {
		return 0
	}
	d := digits(s[y+m+2:])
	if d == 0 || d > 2 {
		return 0
	}
	return y + m + 2 + d
}

// withoutWeekday is what stands behind a day of the week, in a bracket or by
// its word: （月） 星期一 월요일.
func withoutWeekday(s []byte) []byte {
	for _, pair := range [][2]string{{"(", ")"}, {"（", "）"}} {
		if rest, ok := bytes.CutPrefix(s, []byte(pair[0])); ok {
			if i := bytes.Index(rest[:min(len(rest), maxWord)], []byte(pair[1])); i > 0 {
				return bytes.TrimLeft(rest[i+len(pair[1]):], " ")
			}
		}
	}
	word, rest, ok := bytes.Cut(s[:min(len(s), maxWord)], []byte(" "))
	if ok && (bytes.HasPrefix(word, []byte("星期")) || bytes.HasSuffix(word, []byte("曜日")) || bytes.HasSuffix(word, []byte("요일"))) {
		return bytes.TrimLeft(s[len(s[:min(len(s), maxWord)])-len(rest):], " ")
	}
	return s
}

// blanksBefore is how many blanks stand right before the rest of s.
func blanksBefore(s, rest []byte) int {
	end := len(s) - len(rest)
	return end - len(bytes.TrimRight(s[:end], " "))
}
