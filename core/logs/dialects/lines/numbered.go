// This file reads the engine's numbered messages, in whichever log they were
// copied.

package lines

import (
	"bytes"
	"strconv"
	"unicode"
	"unicode/utf8"
)

// Numbered reads "Error 1920. text" in any language: one or two words, a number
// of an engine message, a full stop or colon.
func Numbered(line []byte) (word []byte, number int, text []byte, ok bool) {
	i := 0
	for i < len(line) && i < 40 && (line[i] < '0' || line[i] > '9') {
		r, n := utf8.DecodeRune(line[i:])
		if !unicode.IsLetter(r) && r != ' ' && r != '\u00a0' && r != ':' {
			return nil, 0, nil, false
		}
		i += n
	}
	j := i
	for j < len(line) && j < i+6 && line[j] >= '0' && line[j] <= '9' {
		j++
	}
	if i == 0 || asciiLetter(line[i-1]) || j-i < 4 || j-i > 5 || j >= len(line) {
		return nil, 0, nil, false
	}
	rest := line[j:]
	switch {
	case rest[0] == '.' || rest[0] == ':':
		rest = rest[1:]
	case bytes.HasPrefix(rest, []byte("。")) || bytes.HasPrefix(rest, []byte("：")):
		rest = rest[len("。"):]
	default:
		return nil, 0, nil, false
	}
	number, _ = strconv.Atoi(string(line[i:j]))
	if number < 1100 || number > 32767 {
		return nil, 0, nil, false
	}
	return bytes.TrimSpace(line[:i]), number, bytes.TrimSpace(rest), true
}

// asciiLetter says whether b ends a word that a number belongs to, as in a
// file's name. In Chinese and Japanese the number stands right behind the word
// for an error.
func asciiLetter(b byte) bool { return b|0x20 >= 'a' && b|0x20 <= 'z' }
