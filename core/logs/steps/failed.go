// This file finds the step that a line says failed, by forms in many languages.

package steps

import (
	"cmp"
	"slices"
	"strings"
	"sync"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// A step that no line began may still be named by the one that says that it
// failed: "unexpected error in stage configure", "Schritt configure
// fehlgeschlagen", "configure ended with error 5".

// How a name stands in such a line.
const (
	quotedName = `["'«“„‘(\[]\s?([^"'»”“’)\]\\]{2,60}?)\s?["'»”“’)\]]`
	plainName  = `(\pL[\pL\d_-]*(?:[. ]\pL[\pL\d_-]*){0,2}?)`
	// howMany is a step's number, and of how many it is one.
	howMany = `(?: ?#?\d{1,3}(?: ?(?:/|of|von|de|di|z|av|из|sur|van) ?\d{1,3})?)?`
	// behindName is what ends a name: a mark, or the begin of what became of
	// it.
	behindName = `(?:$|[:,;!(\[]|\.(?:$|\s)|\s(?:->|=>|→|-|–|—|failed|fails|fail|has|have|had|was|is|could|did|does|ended|ends|returned|returns|exited|exits|stopped|aborted|gave|broke|` +
		`reported|crashed|timed|threw|with|because|due|after|on|while|error|` +
		`fehlgeschlagen|schlug|ist|wurde|hat|konnte|abgebrochen|gescheitert|scheiterte|endete|mit|a|est|n'a|s'est|avec|ha|se|no|falló|terminó|con|por|è|non|fallit[oa]|terminat[oa]|` +
		`falhou|foi|não|terminou|com|werd|mislukt|met|afgebroken|nie|został[ao]?|zakończył[ao]?|selhal[ao]?|se|byl[ao]?|skončil[ao]?|misslyckades|kunde|avbröts|slutade|med|` +
		`başarısız|tamamlanamadı|не|завершил\pL*|прерван\pL*)(?:\s|$|[.:,;!]))`
)

// ofAll are words for a step with which the OS and others speak of whatever was
// asked for: "the requested operation requires elevation".
var ofAll = wordsOf(`op operation opération operación operacion operazione operação bewerking operacja operace işlem операция procedure routine activity process
	vorgang 操作 処理 작업 과정`)

// broken is a word for a failure in the languages of the forms.
var broken = lazy.MustCompile(`(?i)fail|error|abort|exception|crash|stopped|broke|could not|cannot|can't|unable|timed out|returned|ended with|exited|fehl|gescheit|abgebroch|konnte|échou|échec|erreur|` +
	`fall|erro|falh|non è riuscit|mislukt|fout|błąd|nie powi|chyb|selh|\bfel\b|misslyck|hata|başarısız|tamamlanamad|ошибк|не выполн|прерван|失敗|失败|エラー|错误|錯誤|出错|出錯|오류|실패`)

// levelCut begins a text of which the word for an error was taken as its level:
// "error in step configure".
var levelCut = lazy.MustCompile(`^(?:in|at|during|while|executing|running|bei|beim|en|al|durante|nel|no|na|w|v|i|lors|à|на|при) `)

// A failedForm is a way to name such a step; one of its words, in small
// letters, stands in every line of the form.
type failedForm struct {
	needs []string
	form  *lazy.Regexp
}

// nouns are the words for a step, the longest first.
var nouns = sync.OnceValue(func() (w struct{ spaced, unspaced []string }) {
	for word, is := range words().of {
		switch r := []rune(word)[0]; {
		case is&noun == 0 || ofAll[word]:
		case isUnspaced(r):
			w.unspaced = append(w.unspaced, word)
		default:
			w.spaced = append(w.spaced, word)
		}
	}
	w.spaced = append(w.spaced, "hook", "kroku", "etapie", "fazie", "zadaniu", "fázi", "úloze", "шаге", "этапе")
	for _, all := range [][]string{w.spaced, w.unspaced} {
		slices.SortFunc(all, func(a, b string) int { return cmp.Or(len(b)-len(a), strings.Compare(a, b)) })
	}
	return w
})

// failedForms are the ways to name such a step, the last ones by its name
// alone.
var failedForms = sync.OnceValue(func() []failedForm {
	w := nouns()
	return []failedForm{
		{w.spaced, lazy.OfData(`(?i)(?:^|[^\pL\d-])(?:` + strings.Join(w.spaced, "|") + `)` + howMany + `(?: ?[:#]? ?` + quotedName + `|[ :#]{1,3}` + plainName + behindName + `)`)},
		{[]string{"단계", "작업", "과정"}, lazy.OfData(`(?:^|[ :：])([A-Za-z\d_.-]+(?: [A-Za-z\d_.-]+){0,3}) (?:단계|작업|과정)(?:에서|가|이|을|를)?(?: |$)`)},
		{w.unspaced, lazy.OfData(`(?:` + strings.Join(w.unspaced, "|") + `)\s*[「『"“]?\s*([\pL\d_.-]+(?: [\pL\d_.-]+){0,3}?)\s*[」』"”]?\s*(?:で|に|が|を|の|失败|失敗|出错|发生|發生|错误|錯誤|執行|执行|未|$)`)},
		{[]string{"executing", "running", "performing", "during"}, lazy.OfData(`(?i)\b(?:errors?|exception|failure|problem|failed|aborted|stopped|broke|crashed|died) (?:while |when )?(?:executing|running|performing|during)(?: the| step| stage| phase| task| action)? ["']?` + plainName + `["']?` + behindName)},
		{[]string{"complete", "finish", "execute", "perform", "run"}, lazy.OfData(`(?i)\b(?:could not|cannot|can't|unable to|failed to) (?:complete|finish|execute|perform|run) (?:the )?["']?` + plainName + `["']?` + behindName)},
		{[]string{"fehler", "erreur", "error", "erro ", "fout", "błąd", "chyba", "fel ", "ошибка"}, lazy.OfData(`(?i)\b(?:fehler (?:bei|beim|während|in)|erreur (?:lors de|pendant|durant)|error (?:al ejecutar|durante)|errore (?:durante|in)|erro (?:ao executar|durante)|fout (?:tijdens|bij)|błąd podczas|chyba (?:při|během)|fel (?:vid|under)|ошибка (?:при|во время)) ` +
			`(?:der |des |dem |la |l'|el |il |o |a )?["'«„“]?` + plainName + `["'»”“]?` + behindName)},
		{[]string{"result of", "outcome of", "status of"}, lazy.OfData(`(?i)^(?:the )?(?:result|outcome|status) of ["']?` + plainName + `["']?: ?(?:failed|failure|error)`)},
		{[]string{" step ", " stage ", " phase ", " task ", " action ", "adım", "aşama"}, lazy.OfData(`(?i)^(?:the )?["']?(\pL[\pL\d_.-]*(?: [\pL\d_.-]+){0,2}?["']? (?:step|stage|phase|task|action)|\pL[\pL\d_.-]*(?: [\pL\d_.-]+){0,2}? (?:adım|aşama))\pL* (?:failed|has failed|was aborted|ended with|returned|exited|hata|başarısız|tamamlanamadı)`)},
		{[]string{"ended", "finished", "completed", "exited", "terminated", "returned", "came back"}, lazy.OfData(`(?i)^["'\[]?(\pL[\pL\d_-]*(?:[. ]\pL[\pL\d_-]*){0,2}?)["'\]]? (?:ended|finished|completed|exited|terminated|returned|came back)(?: with)? (?:an? )?(?:error|failure|(?:exit |error |return )?(?:code|status|result) ?-?\d|-?\d)`)},
		{[]string{"failed"}, lazy.OfData(`^["'\[]?(\pL[\pL\d_-]*(?:[. ]\pL[\pL\d_-]*){0,2}?)["'\]]?\s*(?:->|=>|→|:|\.{3,}|-|–)?\s*(?:FAILED|failed|Failed)(?:$|[\s:,;.!(])`)},
	}
})

// Failed is the step that a line which tells of a failure names as the one that
// failed; empty where it names none. With bare, no word for a step has to stand
// by the name: "configure failed".
func Failed(text string, bare bool) string {
	text, _, _ = strings.Cut(text, "\n")
	if text = strings.TrimSpace(text); len(text) < 3 || len(text) > lineRoom*2 {
		return ""
	}
	if low := pieces.Lower(text); strings.Contains(low, "scheduled task") || strings.Contains(low, "geplante aufgabe") { // of the OS's
		return ""
	}
	if levelCut.MatchString(text) {
		text = "error " + text
	}
	if !broken.MatchString(text) {
		return ""
	}
	forms := failedForms()
	if forms = forms[:len(forms)-bareForms]; bare {
		forms = failedForms()[len(forms):]
	}
	low := pieces.Lower(text)
	for _, f := range forms {
		if !slices.ContainsFunc(f.needs, func(word string) bool { return strings.Contains(low, word) }) {
			continue
		}
		for _, m := range f.form.FindAllStringSubmatch(text, mostNamed) {
			for _, name := range m[1:] {
				if name = strings.TrimSpace(name); name != "" && isName(name, true) && !aboutIt(name) {
					return name
				}
			}
		}
	}
	return ""
}

// bareForms are how many of the forms, the last ones, hold no word for a step
// in front of the name.
const bareForms = 3

// mostNamed is how many words for a step of one line are looked behind.
const mostNamed = 4

// fillers are words of a sentence about a step, or of what failed in general,
// and no names.
var fillers = wordsOf(`the a an this that its it one another some any all no which what who current last next previous same failed failure error errors unexpected
	internal unknown general fatal critical unspecified invalid something everything nothing unable unhandled update request result results command service server
	connection download access file files folder registry der die das ein eine dieser diese le la les un une el los las il lo i gli o os as het een en det att
	ta bir bu ten ta to тот это`)

// wordsOf is a set of the words of a text.
func wordsOf(s string) map[string]bool {
	all := map[string]bool{}
	for _, w := range strings.Fields(s) {
		all[w] = true
	}
	return all
}

// aboutIt says whether a name is no name but the begin of a sentence.
func aboutIt(name string) bool {
	first, _, _ := strings.Cut(pieces.Lower(name), " ")
	return fillers[first] || words().of[first]&noun != 0 && !strings.Contains(name, "_")
}
