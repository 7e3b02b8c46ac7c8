package pieces

import "strings"

// Programs that write in the letters of ASCII alone leave the marks of Latin letters out, or
// write German ones as two.
var (
	withoutMarks = strings.NewReplacer("à", "a", "á", "a", "â", "a", "ã", "a", "ä", "a", "å", "a", "ą", "a", "ç", "c", "ć", "c", "č", "c",
		"ď", "d", "è", "e", "é", "e", "ê", "e", "ë", "e", "ę", "e", "ě", "e", "ğ", "g", "ì", "i", "í", "i", "î", "i", "ï", "i", "ı", "i",
		"ł", "l", "ñ", "n", "ń", "n", "ň", "n", "ò", "o", "ó", "o", "ô", "o", "õ", "o", "ö", "o", "ø", "o", "ř", "r", "ş", "s", "ś", "s",
		"š", "s", "ß", "ss", "ť", "t", "ù", "u", "ú", "u", "û", "u", "ü", "u", "ů", "u", "ý", "y", "ÿ", "y", "ź", "z", "ż", "z", "ž", "z",
		"œ", "oe", "æ", "ae", "’", "'")
	asTwoLetters = strings.NewReplacer("ä", "ae", "ö", "oe", "ü", "ue", "ß", "ss")
)

// Unmarked gives a phrase in small letters as programs without marks on their letters write it,
// in each way that differs from it and is ASCII; none for a phrase without such letters.
func Unmarked(phrase string) (ways []string) {
	if ascii(phrase) {
		return nil
	}
	for _, r := range []*strings.Replacer{withoutMarks, asTwoLetters} {
		if way := r.Replace(phrase); ascii(way) && (len(ways) == 0 || ways[0] != way) {
			ways = append(ways, way)
		}
	}
	return ways
}

func ascii(s string) bool {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}
