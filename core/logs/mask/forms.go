// This file has the ways in which a name is written again: parts of it, without
// its marks, in base64.

package mask

import (
	"encoding/base64"
	"encoding/hex"
	"net/url"
	"strings"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"hollowkey/core/logs/pieces"
)

// leastEncoded is how long a name is that is looked for in encodings: of a
// shorter one so little is left there that it stands in any data.
const leastEncoded = 5

// formsOf are the ways in which a name is written: with its letters composed or
// not, as part of an address, and within base64 and hex of both usual
// encodings.
func formsOf(name, token string) (all []form) {
	seen := map[string]bool{}
	add := func(text string, exact, whole bool) {
		low := pieces.Lower(text)
		if text == "" || seen[low] {
			return
		}
		seen[low] = true
		f := form{text: low, token: token, whole: whole}
		if exact {
			f.exact = text
		}
		all = append(all, f)
	}
	// A letter with a mark is written as one sign or as two.
	for _, form := range []norm.Form{norm.NFC, norm.NFD} {
		add(form.String(name), false, true)
	}
	add(name, false, true)
	add(url.PathEscape(name), false, true)
	add(strings.ReplaceAll(name, " ", "+"), false, true)
	if utf8.RuneCountInString(name) < leastEncoded {
		return all
	}
	// Encoded text is written from bytes of either width, and may begin at any
	// of three places in base64.
	for _, wide := range []bool{false, true} {
		for _, n := range []string{name, strings.ToLower(name), strings.ToUpper(name)} {
			b := []byte(n)
			if wide {
				b = wideBytes(n)
			}
			for shift := range 3 {
				add(inBase64(b, shift), true, false)
			}
			h := hex.EncodeToString(b)
			add(h, false, false)
			var parted []string
			for i := 0; i+2 <= len(h); i += 2 {
				parted = append(parted, h[i:i+2])
			}
			add(strings.Join(parted, ","), false, false) // as registry text has it
			add(strings.Join(parted, " "), false, false)
		}
	}
	return all
}

// wideBytes are the bytes of a text with two bytes a letter, the low one first.
func wideBytes(s string) (b []byte) {
	for _, u := range utf16.Encode([]rune(s)) {
		b = append(b, byte(u), byte(u>>8))
	}
	return b
}

// inBase64 is what of some bytes is the same in base64 whatever stands around
// them, when so many bytes stand before them in their group.
func inBase64(b []byte, shift int) string {
	text := base64.RawStdEncoding.EncodeToString(append(make([]byte, shift), b...))
	if shift > 0 {
		text = text[shift+1:]
	}
	if (len(b)+shift)%3 != 0 && text != "" { // the last sign has bits of what follows
		text = text[:len(text)-1]
	}
	if len(text) < leastEncoded {
		return ""
	}
	return text
}

// insideWord says whether a name that begins at i is only the end of a longer
// word. Marks part words, also those that programs put between: PC_MWHITLOW.
func insideWord(s string, i int) bool {
	r, n := utf8.DecodeLastRuneInString(s[:i])
	return n > 0 && letter(r)
}

// goesOnAt says whether a word goes on at a place: a letter, a figure, or a
// mark that belongs to the letter before.
func goesOnAt(s string, i int) bool {
	r, n := utf8.DecodeRuneInString(s[i:])
	return n > 0 && (letter(r) || unicode.Is(unicode.Mn, r))
}

// letter says whether a rune is one of a word, in any script.
func letter(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }
