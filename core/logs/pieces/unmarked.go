package pieces

// Programs that write in the letters of ASCII alone leave the marks of Latin letters out, or
// write German ones as two.
var (
	withoutMarks = [0x180]string{'à': "a", 'á': "a", 'â': "a", 'ã': "a", 'ä': "a", 'å': "a", 'ą': "a", 'ç': "c", 'ć': "c", 'č': "c",
		'ď': "d", 'è': "e", 'é': "e", 'ê': "e", 'ë': "e", 'ę': "e", 'ě': "e", 'ğ': "g", 'ì': "i", 'í': "i", 'î': "i", 'ï': "i", 'ı': "i",
		'ł': "l", 'ñ': "n", 'ń': "n", 'ň': "n", 'ò': "o", 'ó': "o", 'ô': "o", 'õ': "o", 'ö': "o", 'ø': "o", 'ř': "r", 'ş': "s", 'ś': "s",
		'š': "s", 'ß': "ss", 'ť': "t", 'ù': "u", 'ú': "u", 'û': "u", 'ü': "u", 'ů': "u", 'ý': "y", 'ÿ': "y", 'ź': "z", 'ż': "z", 'ž': "z",
		'œ': "oe", 'æ': "ae"}
	asTwoLetters = [0x180]string{'ä': "ae", 'ö': "oe", 'ü': "ue", 'ß': "ss"}
)

// Unmarked gives a phrase in small letters as programs without marks on their letters write it,
// in each way that differs from it and is ASCII; none for a phrase without such letters.
func Unmarked(phrase string) (ways []string) {
	way, marked := spell(phrase, &withoutMarks)
	if !marked || way == "" {
		return nil
	}
	if two, _ := spell(phrase, &asTwoLetters); two != "" && two != way {
		return []string{way, two}
	}
	return []string{way}
}

// spell writes a text in ASCII by a table; nothing when the table lacks one of its letters.
// It says whether there was anything but ASCII in it.
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
