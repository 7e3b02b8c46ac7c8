// This file cuts a text at a whole character.

package story

import "unicode/utf8"

// Clip gives at most n bytes of s as a string of whole characters, with an
// ellipsis where something is missing.
func Clip[T ~string | ~[]byte](s T, n int) string {
	if len(s) <= n {
		return string(s)
	}
	for n > 0 && !utf8.RuneStart(s[n]) {
		n--
	}
	return string(s[:n]) + "…"
}
