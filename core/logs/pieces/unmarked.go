// This file writes phrases as programs do that have ASCII alone.

package pieces

import (
	"slices"
	"strings"
)

// Programs that write in the letters of ASCII alone leave the marks of Latin
// letters out, or write German ones as two.
var (
	withoutMarks = [0x180]string{'à': "a", 'á': "a", 'â': "a", 'ã': "a", 'ä': "a", 'å': "a", 'ą': "a", 'ç': "c", 'ć': "c", 'č': "c",
		'ď': "d", 'è': "e", 'é': "e", 'ê': "e", 'ë': "e", 'ę': "e", 'ě': "e", 'ğ': "g", 'ì': "i", 'í': "i", 'î': "i", 'ï': "i", 'ı': "i",
		'ł': "l", 'ñ': "n", 'ń': "n", 'ň': "n", 'ò': "o", 'ó': "o", 'ô': "o", 'õ': "o", 'ö': "o", 'ø': "o", 'ř': "r", 'ş': "s", 'ś': "s",
		'š': "s", 'ß': "ss", 'ť': "t", 'ù': "u", 'ú': "u", 'û': "u", 'ü': "u", 'ů': "u", 'ý': "y", 'ÿ': "y", 'ź': "z", 'ż': "z", 'ž': "z",
		'œ': "oe", 'æ': "ae"}
	asTwoLetters = [0x180]string{'ä': "ae", 'ö': "oe", 'ü': "ue", 'ß': "ss"}
)

// Unmarked gives a phrase in small letters in the other ways in which programs
// write it: without marks on its letters, in ASCII, and with the other
// apostrophe; none for a phrase without such letters.
func Unmarked(phrase string) (ways []string) {
	if way, marked := spell(phrase, &withoutMarks); marked && way != "" {
		ways = append(ways, way)
		if two, _ := spell(phrase, &asTwoLetters); two != "" && two != way {
			ways = append(ways, two)
		}
	}
	switch {
	case strings.Contains(phrase, "'"):
		ways = append(ways, strings.ReplaceAll(phrase, "'", "’"))
	case strings.Contains(phrase, "’"):
		if way := strings.ReplaceAll(phrase, "’", "'"); !slices.Contains(ways, way) {
			ways = append(ways, way)
		}
	}
	return ways
}

// spell writes a text in ASCII by a table; nothing when the table lacks one of
// its letters. It says whether there was anything but ASCII in it.
func spell(s string, table *[0x180]string) (way string, marked bool) {
	first := 0
	for first < len(s) && s[first] < 0x80 {
		first++
	}
	if first == len(s) {
		return s, false
	}
	b := append(make([]byte, 0, len(s)+1), s[:first]...)
	for _, r := range s[first:] {
		switch {
		case r < 0x80:
			b = append(b, byte(r))
		case r == '’' && table == &withoutMarks:
			b = append(b, '\'')
		case int(r) < len(table) && table[r] != "":
			b = append(b, table[r]...)
		default:
			return "", true
		}
	}
	return string(b), true
}
