// This file puts letters into small ones without moving them, so that places
// hold in both texts.

package pieces

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Lower is strings.ToLower, made for logs: it looks a letter up only where its
// script has small and large ones. Chinese, Japanese and Korean have none, and
// are most of what a log in them says.
func Lower(s string) string {
	at := 0
	for at < len(s) && (s[at] < 'A' || s[at] > 'Z' && s[at] < utf8.RuneSelf) {
		at++
	}
	if at == len(s) {
		return s
	}
	var b strings.Builder
	b.Grow(len(s))
	b.WriteString(s[:at])
	for at < len(s) {
		c := s[at]
		switch {
		case c >= 'A' && c <= 'Z':
			b.WriteByte(c | 0x20)
			at++
		case c < utf8.RuneSelf:
			b.WriteByte(c)
			at++
		case c >= 0xe3 && c <= 0xed && c != 0xea && at+3 <= len(s) && s[at+1]&0xc0 == 0x80 &&
			s[at+2]&0xc0 == 0x80 && (c != 0xed || s[at+1] < 0xa0):
			b.WriteString(s[at : at+3])
			at += 3
		default:
			r, n := utf8.DecodeRuneInString(s[at:])
			b.WriteRune(unicode.ToLower(r)) // what is no letter becomes U+FFFD, as in strings.ToLower
			at += n
		}
	}
	return b.String()
}
