// This file reads how a run ended out of the further values of a record: "end
// status=failed code=31".

package endings

import (
	"strings"
	"unicode"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/pieces"
)

var (
	// pairOf is a further value of a record.
	pairOf = lazy.MustCompile(`(?:^|[\s{(,;|"'])([\pL][\w.-]*)["']?(?:=|: ?)("[^"]*"|'[^']*'|[^\s,;})]*)`)
	// ofResult is the name of a value that is a result, in small letters.
	ofResult = lazy.MustCompile(`^(?:[\w.-]*(?:exit|code|result|return|errorlevel)[\w.-]*|rc|ret|rv|retval|final|status|err|errno|error|level|hr|hres|scode|win32|winerr|nt|ntstatus)$`)
)

// LastFields reads the number with which a setup ended out of the further
// values of a record whose words tell an end and nothing else: "end
// status=failed code=31". It is meant for the last record of a log.
func LastFields(record, product string) (code int, ok bool) {
	low := pieces.Lower(record)
	if len(low) > maxLine || !strings.ContainsAny(low, "=:") {
		return 0, false
	}
	text := low
	if at := pairOf.FindStringIndex(low); at != nil {
		text = low[:at[0]]
	}
	if strings.ContainsFunc(text, unicode.IsDigit) || !onlyOfEnds(strings.Replace(text, pieces.Lower(product), " ", 1)) {
		return 0, false
	}
	for _, m := range pairOf.FindAllStringSubmatch(low[len(text):], mostPairs) {
		if value, is := exitNumber(strings.Trim(m[2], `"'`)); is && ofResult.MatchString(m[1]) {
			return value, true
		}
	}
	return 0, false
}

// BeforeFields is a record's text without its further values, where none of
// those counts a failure.
func BeforeFields(record string) string {
	low := pieces.Lower(record)
	at := pairOf.FindStringIndex(low)
	if at == nil || len(low) > maxLine || len(low) != len(record) || !paired(low[at[0]:at[1]]) || fieldsFail(low[at[0]:]) {
		return record
	}
	return strings.TrimRight(record[:at[0]], " |;,({[")
}

// TellsEnd says whether a text holds words for an end and nothing else, or
// nothing but a product's name beside them: its values tell how it went.
func TellsEnd(text, product string) bool {
	low := pieces.Lower(text)
	return low != "" && (onlyOfEnds(low) || len(low) < lastWordRoom && ofWhole(low, product)) && endWord.MatchString(low)
}

// endWord is a word for the end of a whole.
var endWord = lazy.MustCompile(`\b(?:end(?:s|ed)?|over|finish\w*|done|complete\w*|stop\w*|clos\w+|exit\w*|quit\w*|result|outcome|summary|final\w*|ende|fertig|beendet|fin|terminé\w*|fine|finito|einde|koniec|konec|slut|son)\b|конец|завершен|終了|完了|종료|完成|结束|結束`)

// FieldsFail says whether the further values of a record tell a failure: "setup
// finished status=error result_code=31".
func FieldsFail(record string) bool {
	low := pieces.Lower(record)
	if len(low) > maxLine {
		return false
	}
	text, below, _ := strings.Cut(low, "\n")
	at := pairOf.FindStringIndex(text)
	return fieldsFail(below) || at != nil && paired(text[at[0]:at[1]]) && fieldsFail(text[at[0]:])
}

// FieldsWell says whether a record whose words are none tells as its first value
// that all of it went well: "result=ok reboot=yes".
func FieldsWell(record string) bool {
	low := pieces.Lower(record)
	if len(low) > maxLine || fieldsFail(low) {
		return false
	}
	for name, value := range names.Fields(low, 1) {
		return ofState.MatchString(name) && goodStatus.MatchString(value) || ofWell.MatchString(name) && pieces.IsYes(value)
	}
	return false
}

// paired says whether a match is a value of a record, and no text: "success:
// no".
func paired(pair string) bool {
	return strings.Contains(pair, "=") || strings.Contains(pair, `":`) || strings.HasPrefix(pair, "{")
}

// fieldsFail says it of the values alone, in small letters.
func fieldsFail(low string) bool {
	for name, value := range names.Fields(low, mostPairs) {
		none := value == "" || value == "0" || value == "-" || pieces.IsNo(value) || goodWord.MatchString(value) && !badWord.MatchString(value)
		switch {
		case ofWell.MatchString(name):
			if pieces.IsNo(value) || value == "0" {
				return true
			}
		case ofTrouble.MatchString(name):
			if !none && !goodValues[value] && !strings.HasPrefix(value, "0 ") {
				return true
			}
		case ofNumber.MatchString(name):
			if n, is := exitNumber(value); is && n != 0 && n != 3010 && n != 1641 || !none && badWord.MatchString(value) {
				return true
			}
		case ofState.MatchString(name):
			if !none && badValues[value] || badWord.MatchString(value) && !NoErrors.MatchString(value) {
				return true
			}
		}
	}
	return false
}

// The names of a record's values by what they tell, in small letters: that it
// went well, what went wrong, a number, how it went.
var (
	ofWell    = lazy.MustCompile(`^(?:[\w.-]*succe[\w.-]*|ok|installed|is_?ok|passed|completed|erfolg\w*|réussi)$`)
	ofTrouble = lazy.MustCompile(`^(?:[\w.-]*(?:errors?|fail\w*|exception|fehler|erreur|errore|fault)(?:_?(?:message|text|msg|count))?)$`)
	ofNumber  = lazy.MustCompile(`^(?:[\w.-]*(?:rc|exit\w*|code|ret\w*|hresult|errorlevel|errno)|hr|hres|win32|winerr|ntstatus)$`)
	ofState   = lazy.MustCompile(`^(?:[\w.-]*(?:status|state|result|outcome|verdict|reason|cause|details?|conclusion|ergebnis|résultat|resultado|risultato|esito))$`)
	// goodWord is in a value that tells of none: error="The operation completed
	// successfully."
	goodWord = lazy.MustCompile(`succe(?:ss|ed)|completed|^0x0+$|^ok\b|^done\b|\bnot (?:required|needed|necessary)\b|^none\b|^no errors?\b`)
	// badWord is in a value that tells of a failure.
	badWord = lazy.MustCompile(`fail|fault|\berr|error|abort|cancel|roll(?:ed|ing)?[ _-]?back|unsuccess|incomplete|\bpartial|denied|refused|broken|timed?[ _-]?out|\bnot (?:ok|installed|complete\w*|successful\w*|done|finished|met)\b|fehl|abgebrochen|échec|erreur|fallid|errore`)
)

// mostPairs is how many further values of a record are looked at.
const mostPairs = 12
