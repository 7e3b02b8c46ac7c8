// This file tells a phrase that is denied by the value behind it.

package pieces

import (
	"slices"
	"strings"
	"unicode"
)

// noes are the values, in small letters, that say that there is nothing, or
// that it is not so.
var noes = map[string]bool{"0": true, "none": true, "no": true, "false": true, "off": true, "-": true, "null": true, "nil": true,
	"0x0": true, "0x00000000": true,
	"keine": true, "keiner": true, "keines": true, "nein": true, "aus": true, "aucune": true, "aucun": true, "non": true,
	"ninguno": true, "ninguna": true, "nessuno": true, "nessuna": true, "nenhum": true, "nenhuma": true, "não": true,
	"geen": true, "nee": true, "brak": true, "nie": true, "ne": true, "nej": true, "žádná": true, "žádný": true, "žádné": true,
	"inga": true, "ingen": true, "inget": true, "yok": true, "hayır": true,
	"нет": true, "なし": true, "いいえ": true, "없음": true, "아니요": true, "无": true, "無": true, "否": true}

// yeses are those that say that it is so.
var yeses = map[string]bool{"1": true, "yes": true, "true": true, "on": true, "0x1": true, "0x00000001": true,
	"ja": true, "oui": true, "sí": true, "si": true, "sì": true, "sim": true, "tak": true, "ano": true, "evet": true, "да": true,
	"はい": true, "예": true, "是": true}

// IsNo says whether a value, in small letters, says that there is nothing or
// that it is not so.
func IsNo(value string) bool { return noes[value] }

// IsYes says whether a value, in small letters, says that it is so.
func IsYes(value string) bool { return yeses[value] }

// Denied says whether a phrase, in small letters, is set to no by what stands
// behind it: "reboot pending" and ": no". Behind what finds fault with a value
// stands that value: "invalid value: no".
func Denied(phrase, behind string) bool {
	for _, w := range faults {
		if strings.Contains(phrase, w) {
			return false
		}
	}
	return IsNo(ValueBehind(behind)) || countsNone(behind) || NoneFound(behind) || emptyList(behind)
}

// lists are words for what counts what a name says, with a word for empty
// behind; a folder or a value that is empty may be the trouble.
var lists = []string{"list is empty", "list: empty", "list (empty)", "queue is empty", "history is empty", "log is empty"}

// emptyList says whether what stands behind a name is that the list of it is
// empty: "quarantine list is empty".
func emptyList(behind string) bool {
	behind = strings.TrimLeft(strings.TrimLeftFunc(behind, unicode.IsLetter), " ")
	return slices.ContainsFunc(lists, func(w string) bool { return strings.HasPrefix(behind, w) })
}

// NoneFound says whether what stands behind a name tells that there is none of
// it: ": none found".
func NoneFound(behind string) bool {
	behind = strings.TrimLeft(strings.TrimLeftFunc(behind, unicode.IsLetter), " ")
	rest := strings.TrimLeft(behind, ":=：?？-–—→> ")
	if len(rest) == len(behind) {
		return false
	}
	none, rest, _ := strings.Cut(rest, " ")
	if !noes[none] {
		return false
	}
	for _, how := range foundSo {
		if strings.HasPrefix(rest, how) {
			return true
		}
	}
	return false
}

// foundSo are the beginnings of words for how something would be there, were it
// not for the word for none in front of them.
var foundSo = []string{"found", "detected", "seen", "present", "listed", "pending", "active", "running", "open", "reported", "there", "in use", "in the way", "rule", "polic", "entr", "item", "restriction", "hit", "match", "threat", "conflict", "portal", "error",
	"gefunden", "vorhanden", "erkannt", "trouvé", "détecté", "encontrad", "detectad", "trovat", "rilevat", "gevonden", "znalezion", "wykryt", "nalezen",
	"zjištěn", "hittad", "upptäckt", "bulun", "найден", "обнаружен"}

// countsNone says whether what stands behind a name counts things, and there
// are none: ": 0 files".
func countsNone(behind string) bool {
	behind = strings.TrimLeft(strings.TrimLeftFunc(behind, unicode.IsLetter), " ")
	rest := strings.TrimLeft(behind, ":=：")
	if len(rest) == len(behind) {
		return false
	}
	rest, ok := strings.CutPrefix(strings.TrimLeft(rest, " "), "0 ")
	if !ok {
		return false
	}
	for _, unit := range counted {
		if strings.HasPrefix(rest, unit) {
			return true
		}
	}
	return false
}

// counted are the beginnings of words for what is counted; of sizes none is no
// good sign.
var counted = []string{"file", "item", "object", "entr", "threat", "process", "program", "error", "time", "dateien", "prozess", "einträge", "fichier",
	"élément", "processus", "archivo", "elemento", "proceso", "processi", "arquivo", "bestand", "plik", "soubor", "filer", "dosya", "файл"}

// faults are words that find fault with what is named behind them.
var faults = []string{"invalid", "unknown", "unexpected", "unsupported", "missing", "wrong", "illegal", "incorrect", "unrecogni", "not "}

// mostWords is how many bytes of further words may stand between a phrase and
// its value: "other installation under way: no".
const mostWords = 32

// ValueBehind is the one word that a name is set to, given what stands behind
// the name: `" = 0, …` is "0". Further words of the name are passed over. Empty
// where no value stands there, or one of several words, as in `: 0 bytes`.
func ValueBehind(s string) string {
	at := strings.IndexFunc(s, func(c rune) bool { return !unicode.IsLetter(c) && !strings.ContainsRune(` "'-_`, c) })
	if at < 0 || at > mostWords {
		return ""
	}
	rest := strings.TrimLeft(s[at:], ":=：?？")
	if len(rest) == len(s)-at {
		return ""
	}
	rest = strings.TrimLeft(rest, `"' `)
	end := strings.IndexAny(rest, " \t\r\n,;|.)]}\"'、。，")
	if end < 0 {
		return rest
	}
	behind := strings.TrimLeft(rest[end:], `"'`)
	if behind != "" && behind[0] == '.' && len(behind) > 1 && behind[1] != ' ' { // 0.5
		return ""
	}
	if len(behind) > 1 && behind[0] == ' ' && behind[1] != ' ' && behind[1] != '(' {
		return ""
	}
	return rest[:end]
}

// nones are words that say that there is none of what stands right behind them,
// and denials those that take it back otherwise.
var (
	nones = []string{" no", " without", " kein", " keine", " keinen", " ohne", " aucun", " aucune", " sans", " sin", " ningún", " ninguna", " senza",
		" nessun", " nessuna", " sem", " nenhum", " nenhuma", " geen", " zonder", " brak", " bez", " žádný", " žádná", " ingen", " inga", " utan", " без"}
	denials = []string{" not", " never", " nicht", " 0"}
)

// NoneOf says whether a text, in small letters, ends with a word that says that
// there is none of what comes next.
func NoneOf(before string) bool { return endsWith(before, nones) }

// Undone says whether a text, in small letters, ends with any word that undoes
// what comes next.
func Undone(before string) bool { return endsWith(before, nones) || endsWith(before, denials) }

// endsWith says whether a text ends with one of the words, blanks behind it
// aside; the words begin with the blank that parts them.
func endsWith(before string, words []string) bool {
	before = " " + strings.TrimRight(before, " ")
	return slices.ContainsFunc(words, func(w string) bool { return strings.HasSuffix(before, w) })
}
