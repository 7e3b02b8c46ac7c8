// This file reads lines whose own values tell a cause: limits and what went
// beyond them.

package evidence

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/why/lexicon"
)

// Some lines tell a cause without a word for it: they only hold two values that
// do not agree, or one that is too long.

// comparedIn finds what the values of a line tell by themselves.
func comparedIn(text, lower string) (clues []Clue) {
	if c, ok := differentSums(lower); ok {
		clues = append(clues, c)
	}
	if c, ok := longPath(text, lower); ok {
		clues = append(clues, c)
	}
	looks := []func(string) (Clue, bool){ofWrongType, statedLength, otherArchitecture, emptyAnswer, ofUninstaller,
		ofConstraint, ofFullDrive, ofLostDrive, ofStartedService}
	for _, look := range looks {
		if c, ok := look(lower); ok {
			clues = append(clues, c)
		}
	}
	clues = append(clues, sidesOf(lower)...)
	if !twoNumbers(lower) { // as most lines
		return clues
	}
	for _, look := range []func(string) (Clue, bool){cutShort, belowLeast, differentSizes} {
		if c, ok := look(lower); ok {
			clues = append(clues, c)
		}
	}
	return clues
}

// twoNumbers says whether a text holds two numbers that could be compared.
func twoNumbers(s string) bool {
	runs, inside := 0, false
	for i := range len(s) {
		digit := s[i] >= '0' && s[i] <= '9'
		if digit && !inside {
			if runs++; runs > 1 {
				return true
			}
		}
		inside = digit
	}
	return false
}

var (
	// foundWanted is a number that was found and the least that will do:
	// "driver 472.12, minimum 551.0", "found 4.1 (needs 4.6)".
	foundWanted = lazy.MustCompile(`(\d+(?:\.\d+){0,3}) ?(?:[gmk]b)?[,;(/: ]{1,3}(?:minimum|min\.?|at least|least|supported (?:from|since)|supports(?: from)?|required|requires?|needs?|needed|wanted|wants?|expected|expects?|must be|should be|has to be|have to be|>=|≥|mindestens|benötigt|minimal|au moins|requis|mínimo|al menos|requerid[oa]|almeno|richiest[oa]|pelo menos|ten minste|vereist|co najmniej|wymagan[ey]|minst|krävs|en az|не ниже|требуется)(?: is| are| to be|:)?(?: at least| >=| ≥)? ?v?(\d+(?:\.\d+){0,3})\b`)
	// foundOrNewer is the same with the wish told by what stands behind it:
	// "2.9.14 (3.0+)", "found 4.1, 4.6 or newer".
	foundOrNewer = lazy.MustCompile(`(\d+(?:\.\d+){0,3})[,;(/: ]{1,3}(?:but |only )?v?(\d+(?:\.\d+){0,3})(?:\+|(?: or| and| oder| ou| o| of| lub) (?:later|newer|higher|above|up|greater|better|neuer|höher|plus récent|superior|successiva|nieuwer|nowsz\pL+)| upwards?)`)
	// wantedFound is the same the other way round.
	wantedFound = lazy.MustCompile(`(?:(?:minimum|minimal|min|least|required)\pL+|minimum|min\.?|at least|least|required|requires|needs|needed|wanted|wants|expected|expects|mindestens|benötigt|au moins|requis|mínimo|requerid[oa]|almeno|richiest[oa]|vereist|wymagan[ey])(?: is| are|:)? ?v?(\d+(?:\.\d+){0,3}) ?(?:[gmk]b)?[,;(/: ]{1,3}(?:found|actual|actually|only|is|has|have|present|installed|this is|got|here|gefunden|vorhanden|trouvé|encontrad[oa]|trovat[oa]|gevonden|znaleziono|nalezeno|hittade[ns]?)(?: is|:)? ?v?(\d+(?:\.\d+){0,3})\b`)
)

// wishing are the words of both, without their endings.
var wishing = sync.OnceValue(func() *pieces.Set {
	return pieces.New([]string{"min", "least", "requ", "support", "need", "want", "expect", "must be", "should be", "to be", "or newer", "or later", "or higher", "or above", "and up", "upward", "oder neuer", "oder höher", "benötigt", "au moins", "mínim", "al menos", "almeno",
		"richiest", "pelo menos", "vereist", "co najmniej", "wymagan", "krävs", "en az", "не ниже", "требуется"})
})

// counted are words by which numbers are counts and sizes, which tell of no
// gate.
var counted = lazy.MustCompile(`\b(?:schema|type|kind|bytes?|size|length|octets|files|parts|records|rows|lines|tries|attempts|seconds|ms|bajt\w*|größe|taille|tamaño)\b`)

// belowLeast says that a line holds a number that was found and a greater one
// that is wanted at least.
func belowLeast(lower string) (c Clue, ok bool) {
	if !strings.ContainsAny(lower, ",;(<") || !strings.ContainsAny(lower, "<>+≥") && !wishing().Any(lower) {
		return c, false
	}
	if summed.MatchString(lower) || counted.MatchString(lower) {
		return c, false
	}
	found, wanted := "", ""
	if m := foundWanted.FindStringSubmatch(lower); m != nil {
		found, wanted = m[1], m[2]
	} else if m := wantedFound.FindStringSubmatch(lower); m != nil {
		found, wanted = m[2], m[1]
	}
	if m := foundOrNewer.FindStringSubmatch(lower); m != nil && found == "" {
		found, wanted = m[1], m[2]
	}
	if found == "" {
		found, wanted = byThing(lower)
	}
	f, w := version(found), version(wanted)
	if len(f) == 0 || len(w) == 0 || slices.Compare(f, w) >= 0 {
		return c, false
	}
	class, thing := "condition", ""
	known := compares()
	for _, word := range strings.FieldsFunc(lower, func(r rune) bool { return !unicode.IsLetter(r) }) {
		if of, is := known.things[word]; is {
			class, thing = of, word
		}
		if strings.HasPrefix(word, "minimum") && strings.Contains(word, "disk") { // names of rules: MinimumFreeDiskSpaceInMB
			class = "space"
		}
	}
	if class != "condition" { // of space it is the drive, of a runtime its product
		thing = ""
	}
	return Clue{Class: class, Strength: lexicon.Root, What: found + ", and " + wanted + " is wanted", Name: thing}, true
}

// byThing reads what is wanted and what was found where the thing that was
// measured stands beside them: "16 GB RAM required, found 8 GB", "memory 8192 <
// 16384". Of two units there must be one, or none.
func byThing(lower string) (found, wanted string) {
	known := compares()
	if m := requiredFound.FindStringSubmatch(lower); m != nil && (m[2] == "" || m[5] == "" || m[2] == m[5]) && known.any.Any(lower) {
		return m[4], m[1]
	}
	if m := foundThen.FindStringSubmatch(lower); m != nil {
		return m[1], m[2]
	}
	if m := isBelow.FindStringSubmatch(lower); m != nil {
		if _, is := known.things[m[1]]; is {
			return m[2], m[3]
		}
	}
	return "", ""
}

var (
	// requiredFound is an amount of a thing that is wanted, and the one that is
	// there.
	requiredFound = lazy.MustCompile(`(\d+(?:\.\d+){0,3}) ?([gmkt]i?b)? ?(?:of )?([\pL ]{2,24}?) (?:is |are )?(?:required|needed|wanted|necessary|erforderlich|benötigt|nötig|requis|nécessaires?|necesari[oa]s?|requerid[oa]s?|richiest[oaie]|necessári[oa]s?|vereist|nodig|wymagane?|požadováno|krävs|gerekli)[,;:(. –-]{1,3}` +
		`(?:[\pL ]{0,16} )?(?:found|only|has|have|is|are|installed|available|got|detected|present|there|gefunden|vorhanden|hat|nur|trouvés?|encontrad[oa]s?|trovat[oaie]|gevonden|znaleziono|nalezeno|hittades|bulundu)[ :]{1,2}(?:only )?(\d+(?:\.\d+){0,3}) ?([gmkt]i?b)?\b`)
	// foundThen is a version that is there, and then the one that is wanted:
	// "14.0 found, 14.38 needed".
	foundThen = lazy.MustCompile(`\b(\d+(?:\.\d+){1,3}) (?:is |was )?(?:found|installed|present|there|here|detected|gefunden|installiert|vorhanden|trouvée?|installée?|encontrad[oa]|instalad[oa])[,;] (?:but )?(\d+(?:\.\d+){1,3}) (?:or (?:later|newer|higher) )?(?:is )?(?:needed|required|wanted|expected|necessary|benötigt|erforderlich|nötig|requise?|nécessaire|necesari[oa]|requerid[oa])\b`)
	// isBelow is a comparison that is written out.
	isBelow = lazy.MustCompile(`\b(\pL{2,14})[ :=]{1,2}(\d+(?:\.\d+){0,3}) ?(?:[gmkt]i?b)? ?(?:<|&lt;|is less than|is below|kleiner als|unter) ?(\d+(?:\.\d+){0,3})\b`)
)

var (
	// summed is a word for what a file's bytes add up to.
	summed = lazy.MustCompile(`\b(?:sha-?\d*|md5|crc(?:32)?|hash(?:es)?|checksum|digest|prüfsumme|empreinte|suma|somma|kontrolní součet)\b`)
	// hexSum is such a sum, maybe shortened: 3f11…, 0x8ac0d1f2.
	hexSum = lazy.MustCompile(`\b(?:0x)?([0-9a-f]{4,128})\b`)
)

// differentSums says that a line holds two sums of one file that are not the
// same: "sha256 is 3f11…, the manifest says 8ac0…".
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
	return Clue{Class: "corrupt", Strength: lexicon.Tells, Kind: "sums", What: "two sums that are not the same", At: at[0]}, true
}

// partOf is a number of bytes that was reached and how many there should have
// been, behind a word for ending: "ended after 11842112 of 48211233 bytes",
// "got 12 MB, expected 48 MB".
var partOf = lazy.MustCompile(`\b(?:ended|stopped|broke off|cut off|closed|aborted|interrupted|incomplete|only|got|received|read|size|abgebrochen|nur|interrompu\w*|seulement|solo|apenas)\b[^\d]{0,24}?(\d[\d.,]*) ?([kmg]?b|bytes?|octets|байт)?[, (]{1,3}(?:of|from|instead of|expected|wanted|should be|declared|announced|von|statt|erwartet|sur|de|attendu|atteso|esperado|из)\b[^\d]{0,12}?(\d[\d.,]*) ?([kmg]?b|bytes?|octets|байт)\b`)

// connections are the words for what carries a transfer, in small letters.
var connections = sync.OnceValue(func() *pieces.Set {
	return pieces.New([]string{"connection", "verbindung", "connexion", "conexión", "connessione", "conexão", "verbinding", "połącz", "spojení",
		"anslutning", "bağlantı", "соединен", "接続", "연결", "连接", "連線", "timeout", "timed out"})
})

// sizes are the units of which one at least must stand in such a line.
var sizes = sync.OnceValue(func() *pieces.Set {
	return pieces.New([]string{"byte", "octet", "байт", "kb", "mb", "gb", " b ", " b,", " b)"})
})

// cutShort says that a line tells of fewer bytes than there should be.
func cutShort(lower string) (c Clue, ok bool) {
	if !sizes().Any(lower) || connections().Any(lower) { // what broke the transfer off is told
		return c, false
	}
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
	return Clue{Class: "corrupt", Strength: lexicon.Tells, Kind: "cut-short", What: got + " of " + wanted + " bytes", At: m[0]}, true
}

// smaller compares two numbers as they are written, with or without marks
// between their digits.
func smaller(a, b string) bool {
	plain := func(s string) string { return strings.TrimLeft(strings.NewReplacer(".", "", ",", "").Replace(s), "0") }
	a, b = plain(a), plain(b)
	return len(a) < len(b) || len(a) == len(b) && a < b
}

// longestPath is how many letters a path has at most for programs that do not
// ask for more (MAX_PATH, with the NUL behind it).
const longestPath = 259

// fullPath is a path with what a path may hold.
var fullPath = lazy.MustCompile(`[A-Za-z]:\\[^<>|"*?\r\n\t:;]{240,}`)

// longPath says that a line names a path with more letters than most programs
// can use.
func longPath(text, lower string) (c Clue, ok bool) {
	if len(text) <= longestPath {
		return c, false
	}
	at := fullPath.FindStringIndex(text)
	if at == nil {
		return c, false
	}
	path := text[at[0]:at[1]]
	// The sentence may go on behind the path: it ends with the last stroke's
	// name.
	if stroke := strings.LastIndexByte(path, '\\'); stroke > 0 {
		if blank := strings.IndexByte(path[stroke:], ' '); blank > 0 {
			path = path[:stroke+blank]
		}
	}
	n := utf8.RuneCountInString(path)
	if n <= longestPath || strings.HasPrefix(text[max(0, at[0]-4):], `\\?\`) {
		return c, false
	}
	return Clue{Class: "path", Strength: lexicon.Tells, Kind: "length",
		What: fmt.Sprintf("a path of %d letters; %d are possible", n, longestPath), At: min(at[0], len(lower))}, true
}

// lengthTold is a length in letters that a line tells.
var lengthTold = lazy.MustCompile(`(?:length|len|länge|longueur|longitud|lunghezza|comprimento|lengte|długość|délka|längd|uzunluk|длина)(?: of| is|:|=)?[ :=]{0,2}(\d{3})(?: ?(characters|chars?|letters|zeichen|caractères|caracteres|caratteri|tekens|znaków|znaků|tecken|karakter|символов))?(?:[\s.,;)\]]|$)`)

// lengthHas is a length in letters that a path has: C:\Tide\… has 290
// characters.
var lengthHas = lazy.MustCompile(`(?:[a-z]:[\\/]|\\\\|\bpath|\bfolder|\bpfad|\bchemin|\bruta|\bpercorso|\bcaminho|\bpad\b|ścieżk|cest[aye]|sökväg|yol|путь).{0,300}? (?:(?:has|have|gets|reaches|is|with|of|hat|ist|mit|compte|fait|tiene|ha|tem|heeft|ma|má|har) |\()(\d{3}) ?(?:characters|chars?|letters|zeichen|caractères|caracteres|caratteri|tekens|znaków|znaků|tecken|karakter|символов)`)

// ofBytes are things whose length is counted in bytes, and others that no path
// is.
var ofBytes = map[string]bool{"content": true, "body": true, "payload": true, "buffer": true, "key": true, "data": true, "file": true, "header": true,
	"packet": true, "queue": true, "list": true, "record": true, "message": true, "chunk": true, "block": true, "string": true, "response": true}

// statedLength says that a line tells a length that most programs cannot use as
// a path's: right beside "could not be created" that is the reason.
func statedLength(lower string) (c Clue, ok bool) {
	for _, m := range lengthTold.FindAllStringSubmatchIndex(lower, mostNear) {
		before, spaced := strings.CutSuffix(lower[:m[0]], " ")
		of := before[strings.LastIndexFunc(before, func(r rune) bool { return !unicode.IsLetter(r) })+1:]
		if m[0] > 0 && (!spaced || of == "") || ofBytes[of] {
			continue
		}
		if n, _ := strconv.Atoi(lower[m[2]:m[3]]); n > longestPath {
			return tooLong(n, m[2]), true
		}
	}
	if m := lengthHas.FindStringSubmatchIndex(lower); m != nil {
		if n, _ := strconv.Atoi(lower[m[2]:m[3]]); n > longestPath {
			return tooLong(n, m[2]), true
		}
	}
	return c, false
}

// tooLong is the clue of a path of n letters, told at a place of the line.
func tooLong(n, at int) Clue {
	return Clue{Class: "path", Strength: lexicon.Tells, Quiet: true, Kind: "length", What: fmt.Sprintf("a length of %d; %d are possible", n, longestPath), At: at}
}

// ofProduct says that a clue is about what was to be installed itself: "Berth
// Sync was not installed" tells how the setup ended, not what it lacks; and so
// does a line that says that and nothing else.
func (c Clue) ofProduct(lower, product string) bool {
	if c.Class != "prerequisite" && c.Class != "leftover" || c.Code != nil || c.Strength == lexicon.Against {
		return false
	}
	words := strings.Fields(pieceBefore(lower, c.At))
	for len(words) > 0 && auxiliary[strings.Trim(words[len(words)-1], `"'.,:()[]`)] {
		words = words[:len(words)-1]
	}
	if len(words) == 0 {
		return endings.OnlyEnd(lower)
	}
	if c.Class == "leftover" {
		return false
	}
	for len(words) > 1 && strings.Trim(words[len(words)-1], "0123456789.v:,()") == "" { // its version
		words = words[:len(words)-1]
	}
	last := strings.Trim(words[len(words)-1], `"'.,:()[]`)
	for _, particle := range particles { // of scripts without blanks
		last = strings.TrimSuffix(last, particle)
	}
	if itself[last] || endings.IsSetup(last) {
		return true
	}
	low := strings.ToLower(product)
	return low != "" && strings.HasSuffix(" "+strings.Join(words, " "), " "+low) || len(last) >= leastWord && strings.Contains(" "+low+" ", " "+last+" ")
}

// pieceBefore is what stands before a byte of a text.
func pieceBefore(s string, at int) string { return s[:min(max(at, 0), len(s))] }

// auxiliary are words between what was not installed and that word.
var auxiliary = wordsIn("was were is has been be could wurde wurden ist sind konnte konnten est sont a ont été n'a n'est n'ont pas fue fueron ha han sido está " +
	"è stato stata sono stati state foi foram sido werd werden is zijn kon został została zostało zostały jest są byl byla bylo je jsou har blev blivit är " +
	"был была было были nothing nichts rien nada nulla niente niets nic inget hiçbir şey ничего 何も 아무것도")

// wordsIn is a set of the words of a list.
func wordsIn(list string) map[string]bool {
	m := map[string]bool{}
	for w := range strings.FieldsSeq(list) {
		m[w] = true
	}
	return m
}

// particles stand right behind a name in Japanese and Korean.
var particles = []string{"は", "が", "を", "も", "이", "가", "은", "는", "을", "를"}

// itself are words by which a setup calls what it brings.
var itself = map[string]bool{"product": true, "application": true, "software": true}

// payload is a file out of which a setup installs.
var payload = lazy.MustCompile(`(?i)\.(?:cab|ms[ipt]|zip|7z|tar|gz|msix|appx|nupkg|wim|esd|pak|pkg|bin)\b`)

// missingSource says that what a line cannot find is a file that is to be
// installed, and no path of the machine's.
func missingSource(text string, clues []Clue) []Clue {
	at := slices.IndexFunc(clues, func(c Clue) bool { return c.Class == "path" && c.Strength == lexicon.Echo })
	if at < 0 || !payload.MatchString(text) {
		return nil
	}
	return []Clue{{Class: "source", Strength: lexicon.Tells, What: "a file to install that is not there", At: clues[at].At}}
}
