// This file says where words begin and end.

package pieces

import (
	"unicode"
	"unicode/utf8"
)

// firstUnspaced is the first byte of the scripts that put no blanks between
// words, in UTF-8: from the kana on. There a word may begin and end anywhere.
const firstUnspaced = 0xE3

// Begins says whether a word begins at byte i of s.
func Begins(s string, i int) bool {
	if !utf8.RuneStart(s[i]) {
		return false
	}
	if i == 0 || s[i] >= firstUnspaced {
		return true
	}
	before, _ := utf8.DecodeLastRuneInString(s[:i])
	return !unicode.IsLetter(before) && !unicode.IsDigit(before)
}

// Ends says whether a word ends before byte i of s.
func Ends(s string, i int) bool {
	if i >= len(s) || s[i-1] >= utf8.RuneSelf && s[i] >= firstUnspaced {
		return true
	}
	after, _ := utf8.DecodeRuneInString(s[i:])
	return !unicode.IsLetter(after) || after >= 0x3040 // the kana, and all behind them
}
