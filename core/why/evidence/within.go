package evidence

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/why/lexicon"
)

// Some lines tell a cause without a word for it: they only hold two values that do
// not agree, or one that is too long.

// comparedIn finds what the values of a line tell by themselves.
func comparedIn(text, lower string) (clues []Clue) {
	if c, ok := differentSums(lower); ok {
		clues = append(clues, c)
	}
	if c, ok := longPath(text, lower); ok {
		clues = append(clues, c)
	}
	if c, ok := cutShort(lower); ok {
		clues = append(clues, c)
	}
	return clues
}

var (
	// summed is a word for what a file's bytes add up to.
	summed = lazy.MustCompile(`\b(?:sha-?\d*|md5|crc(?:32)?|hash(?:es)?|checksum|digest|prüfsumme|empreinte|suma|somma|kontrolní součet)\b`)
	// hexSum is such a sum, maybe shortened: 3f11…, 0x8ac0d1f2.
	hexSum = lazy.MustCompile(`\b(?:0x)?([0-9a-f]{4,128})\b`)
)

// differentSums says that a line holds two sums of one file that are not the same: "sha256
// is 3f11…, the manifest says 8ac0…".
func differentSums(lower string) (c Clue, ok bool) {
	at := summed.FindStringIndex(lower)
	if at == nil {
		return c, false
	}
	var sums []string
	for _, m := range hexSum.FindAllStringSubmatch(lower[at[1]:], 4) {
		if strings.ContainsAny(m[1], "0123456789") { // "dead" and "face" are words
			sums = append(sums, m[1])
		}
	}
	if len(sums) < 2 {
		return c, false
	}
	short, long := sums[0], sums[1]
	if len(short) > len(long) {
		short, long = long, short
	}
	if strings.HasPrefix(long, short) || len(long) != len(short) && len(short) > 8 {
		return c, false // the same, or sums of two kinds
	}
	return Clue{Class: "corrupt", Strength: lexicon.Tells, What: "two sums that are not the same", At: at[0]}, true
}

// partOf is a number of bytes that was reached and how many there should have been, behind a
// word for ending: "ended after 11842112 of 48211233 bytes", "got 12 MB, expected 48 MB".
var partOf = lazy.MustCompile(`\b(?:ended|stopped|broke off|cut off|closed|aborted|interrupted|incomplete|only|got|received|read|size|abgebrochen|nur|interrompu\w*|seulement|solo|apenas)\b[^\d]{0,24}?(\d[\d.,]*) ?([kmg]?b|bytes?|octets|байт)?[, (]{1,3}(?:of|from|instead of|expected|wanted|should be|declared|announced|von|statt|erwartet|sur|de|attendu|atteso|esperado|из)\b[^\d]{0,12}?(\d[\d.,]*) ?([kmg]?b|bytes?|octets|байт)\b`)

// cutShort says that a line tells of fewer bytes than there should be.
func cutShort(lower string) (c Clue, ok bool) {
	m := partOf.FindStringSubmatchIndex(lower)
	if m == nil {
		return c, false
	}
	text := func(i int) string {
		if m[2*i] < 0 {
			return ""
		}
		return lower[m[2*i]:m[2*i+1]]
	}
	got, wanted := text(1), text(3)
	if text(2) != "" && text(2) != text(4) || !smaller(got, wanted) {
		return c, false
	}
	return Clue{Class: "corrupt", Strength: lexicon.Tells, What: got + " of " + wanted + " bytes", At: m[0]}, true
}

// smaller compares two numbers as they are written, with or without marks between their
// digits.
func smaller(a, b string) bool {
	plain := func(s string) string { return strings.TrimLeft(strings.NewReplacer(".", "", ",", "").Replace(s), "0") }
	a, b = plain(a), plain(b)
	return len(a) < len(b) || len(a) == len(b) && a < b
}

// longestPath is how many letters a path has at most for programs that do not ask for
// more (MAX_PATH, with the NUL behind it).
const longestPath = 259

// fullPath is a path with what a path may hold.
var fullPath = lazy.MustCompile(`[A-Za-z]:\\[^<>|"*?\r\n\t:;]{240,}`)

// longPath says that a line names a path with more letters than most programs can use.
func longPath(text, lower string) (c Clue, ok bool) {
	if len(text) <= longestPath {
		return c, false
	}
	at := fullPath.FindStringIndex(text)
	if at == nil {
		return c, false
	}
	path := text[at[0]:at[1]]
	// The sentence may go on behind the path: it ends with the last stroke's name.
	if stroke := strings.LastIndexByte(path, '\\'); stroke > 0 {
		if blank := strings.IndexByte(path[stroke:], ' '); blank > 0 {
			path = path[:stroke+blank]
		}
	}
	n := utf8.RuneCountInString(path)
	if n <= longestPath || strings.HasPrefix(text[max(0, at[0]-4):], `\\?\`) {
		return c, false
	}
	return Clue{Class: "path", Strength: lexicon.Tells,
		What: fmt.Sprintf("a path of %d letters; %d are possible", n, longestPath), At: min(at[0], len(lower))}, true
}

// ofProduct says that a clue is about what was to be installed itself: "Berth Sync was
// not installed" tells how the setup ended, not what it lacks.
func (c Clue) ofProduct(lower, product string) bool {
	if c.Class != "prerequisite" || c.Code != nil || c.Strength == lexicon.Against {
		return false
	}
	words := strings.Fields(pieceBefore(lower, c.At))
	for len(words) > 0 && auxiliary[words[len(words)-1]] {
		words = words[:len(words)-1]
	}
	if len(words) == 0 {
		return false
	}
	for len(words) > 1 && strings.Trim(words[len(words)-1], "0123456789.v:,()") == "" { // its version
		words = words[:len(words)-1]
	}
	last := strings.Trim(words[len(words)-1], `"'.,:()[]`)
	if itself[last] || endings.IsSetup(last) {
		return true
	}
	return len(last) >= leastWord && strings.Contains(" "+strings.ToLower(product)+" ", " "+last+" ")
}

// pieceBefore is what stands before a byte of a text.
func pieceBefore(s string, at int) string { return s[:min(max(at, 0), len(s))] }

// auxiliary are words between what was not installed and that word.
var auxiliary = map[string]bool{"was": true, "were": true, "is": true, "has": true, "been": true, "be": true, "could": true}

// itself are words by which a setup calls what it brings.
var itself = map[string]bool{"product": true, "application": true, "software": true}
