// This file reads a log's last line that parts what ended from how it went by a
// sign, or counts what went well and what did not.

package endings

import (
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// Many a log closes with a form in place of a sentence: `workflow "x" ->
// FAILURE`, "deploy ended, hr 0x80073CFF", "finished: broken=1", "5 of 6 steps
// done". What stands before the sign has to be about the whole: else it is a
// part, behind which the log was cut.

// A Closing is what such a line tells.
type Closing struct {
	Exit *int // the number that it ended with
	Well bool // all of it went well
	Bad  bool // it did not
}

var (
	// saidBehind is a value behind a sign, or a number behind its name, at the
	// end of a line in small letters.
	saidBehind = lazy.MustCompile(`^(.*?)(?:\s*(?:[:=]|->|=>|→|\.{3,}|…)\s*|\s*[,;]\s+|\s+[(\[]|\s+(?:-|–|—)\s+)` +
		`(?:` + codeName + `(?:\s?[:=]\s?|\s))?["'(\[]?(-?(?:0x[0-9a-f]{1,8}|\d{1,10})|[\pL_][\pL_' -]{0,40})["')\].!;,\s]*$`)
	// codeBehind is a number behind its name, where no sign parts the two from
	// what ended: "deploy ended hr=0x80070005", "task result 0x0".
	codeBehind = lazy.MustCompile(`^(.*?)\s(` + codeName + `)\s?[:=]?\s?["'(\[]?(-?(?:0x[0-9a-f]{1,8}|\d{1,10}))["')\].!;,\s]*$`)
	// saidBefore is how it went, in front: "[KO] quay setup", "FAIL quay setup".
	saidBefore = lazy.MustCompile(`^\W*(fail(?:ed|ure)?|error|ko|nok|not ok|ok|success|abort(?:ed)?|succeeded|fehler|fehlgeschlagen|échec|erfolg|succès)\W+(.+?)\W*$`)
	// notDone is what was not possible, and the number of why: "cannot patch,
	// 1612".
	notDone = lazy.MustCompile(`^\W*(?:cannot|can ?not|can't|could not|unable to|failed to|impossible de|kann nicht|no se pudo|impossibile|não foi possível) [\pL ]{3,40}[,:;(] ?(-?(?:0x[0-9a-f]{1,8}|\d{1,10}))[).\s]*$`)
	// knownCode is a number of the engine's own at the very end, whatever words
	// lead to it: "queue: out of patience, 1618". Source: WinError.h, "Windows
	// Installer errors".
	knownCode = lazy.MustCompile(`^[^\d]*(?:, |(?:set-?up|install\w*|セットアップ|インストール|설치|安装|安裝|einrichtung|установк\pL+|kurulum)[^\d]* ?\()(16[0-5]\d)\)?[.\s]*$`)
	// handedOn is a number that whoever called the setup is given.
	handedOn = lazy.MustCompile(`^\W*(?:returning|returns|returned|handing|hands|handed|giving|gives|gave|passing|passes|passed|(?:the )?(?:caller|parent|agent|host) (?:gets|got|receives|received|is given))(?: back)? (?:code |result )?(-?(?:0x[0-9a-f]{1,8}|\d{1,10}))(?: (?:back )?to (?:the |its |our )?(?:caller|parent|agent|host|shell))?[.\s]*$`)
	// oldStays is the version that was there before, told to go on being there.
	oldStays = lazy.MustCompile(`^\W*(?:keeping|keep|staying (?:at|on|with)|still (?:at|on)|back (?:at|to|on)) (?:\pL+ ){0,4}v?\d+(?:\.\d+)+[.!\s]*$|^\W*(?:(?:\pL+ ){1,5}v?\d+(?:\.\d+)*|v?\d+(?:\.\d+)+) (?:stays|remains|is kept|kept|bleibt|reste|se mantiene|rimane|permanece|blijft|pozostaje|zůstává)\b[^;:]{0,20}$`)
	// decidedNo is a decision against it.
	decidedNo = lazy.MustCompile(`^\W*(?:the )?(?:decision|verdict|conclusion|entscheidung|décision|decisión|decisione|decisão|besluit|decyzja|rozhodnutí|beslut|karar|решение)(?: is)?\W{1,30}(?:no (?:upgrade|update|install\w*|set-?up|\S+ fits)|not (?:possible|allowed|suitable|met)|cannot|refus|reject|den(?:y|ied)|stop|abort|ablehn|rechaz|rifiut|recus|odmow|odmít|отказ)`)
	// endedOver is an end with why it came to it in a bracket.
	endedOver = lazy.MustCompile(`\b(?:ended|ends|stopped|stops|over|closed|quit|quits|left|out|beendet|terminé|finalizado|terminato)\s*\((?:[^()]*\b)?(?:missing|fail\w*|refus\w+|denied|error\w*|time(?:d)? ?out|lost|invalid|broken|damaged|blocked|incomplete|absent|fehl\w+|manquant\w*|falta\w*|manca\w*)\b[^()]*\)[.\s]*$`)
	// allOf counts what was done of all: "5 of 6 steps done", "step 6 of 6 not
	// done".
	allOf = lazy.MustCompile(`^\W*(?:only |just )?(\d{1,6})(?: (?:of|von|sur|de|di|van|z|av|из) |/)(\d{1,6}) (?:steps?|stages?|phases?|tasks?|parts?|packages?|features?|components?|items?|actions?|products?|schritte?n?|pakete?n?|étapes?|pasos|passi|passos|stappen|kroków|kroků|steg|шагов)(?: (?:were|was|are|is|have been|wurden|sind))? ` +
		`(?:done|enabled|installed|completed?|finished|applied|ok|succeeded|passed|erledigt|installiert|abgeschlossen|terminées?|completados|completati|concluídos|voltooid|выполнено)\b`)
	// notThat is a step of all that was not done.
	notThat = lazy.MustCompile(`^\W*(?:step|stage|phase|task|schritt|étape|paso|passo|stap) \d{1,4} (?:of|von|sur|de|di|van) \d{1,4} (?:is |was |ist |wurde )?(?:not|never|nicht) \pL+\W*$`)
	// quotedName is a name that the run was given.
	quotedName = lazy.MustCompile(`"[^"]{1,60}"|'[^']{1,60}'|«[^»]{1,60}»`)
)

// codeName is what a number is called that something ended with.
const codeName = `(?:exit |return |end |final |last )?(?:run )?(?:code|rc|result|res|ret|hr|hresult|scode|status|error|err|win32|winerr|errorlevel|exit|retval)`

// wholes are further words for the whole of a run, or beside such.
var wholes = set("block blocked blocking refuse refused refusing deny denied reject rejected agent workflow outcome job run session overall all total totals everything rollout deploy deployment sequence plan chain process program tool task mission operation procedure " +
	"state status verdict outcome result results summary end log caller returning return closing closed over finished done ended installation state final last we are here with")

// counters are words of which one stands before the counts of a whole.
var counters = set("finished done end ended summary total totals result results completed overall over all fertig ergebnis zusammenfassung terminé résumé resumen riepilogo resumo")

// Close reads such a line.
func Close(line, product string) (c Closing) {
	low := strings.TrimSpace(strings.ReplaceAll(pieces.Lower(clockBefore.ReplaceAllString(line, "")), "_", " "))
	if len(low) > lastWordRoom || low == "" {
		return c
	}
	if m := notDone.FindStringSubmatch(low); m != nil {
		return closedWith(m[1])
	}
	if m := knownCode.FindStringSubmatch(low); m != nil {
		return closedWith(m[1])
	}
	if m := handedOn.FindStringSubmatch(low); m != nil {
		return closedWith(m[1])
	}
	if NotInstalled(low, product) {
		return Closing{Bad: true}
	}
	clause := low[strings.LastIndexAny(low, ",;:")+1:]
	if stays(low) || oldStays.MatchString(low) || oldStays.MatchString(clause) || endedOver.MatchString(low) || decidedNo.MatchString(low) {
		return Closing{Bad: true}
	}
	if c = countedSo(low); c != (Closing{}) {
		return c
	}
	if clause != low && IsSetup(firstWord(clause)) { // "pack 2 skipped, setup incomplete"
		if _, bad, _ := AllDone(clause, product); bad {
			return Closing{Bad: true}
		}
	}
	if wellIs.MatchString(low) { // "end ok=0"
		return Closing{Bad: fieldsFail(low)}
	}
	if m := codeBehind.FindStringSubmatch(low); m != nil && ofWhole(m[1], product) {
		return closedWith(m[3])
	}
	if m := saidBehind.FindStringSubmatch(low); m != nil && ofWhole(m[1], product) {
		if n := closedWith(m[2]); n.Exit != nil {
			return n
		}
		return saidSo(m[2]).of(m[1])
	}
	if m := saidBefore.FindStringSubmatch(low); m != nil && ofWhole(m[2], product) {
		return saidSo(m[1]).of(m[2])
	}
	return c
}

// aPart is a word for a part of a run, which may go well while the rest does
// not.
var aPart = lazy.MustCompile(`\b(?:tasks?|steps?|stages?|phases?|files?|folders?|packages?|parts?|components?|features?|items?|actions?|process|tools?|operations?|checks?|precheck|values?|keys?|services?|download|scripts?)\b`)

// of is a closing as far as what ended can tell it: a part that went well says
// nothing of the whole.
func (c Closing) of(ended string) Closing {
	c.Well = c.Well && !aPart.MatchString(ended)
	return c
}

// firstWord is the first word of a clause.
func firstWord(clause string) string {
	first, _, _ := strings.Cut(strings.TrimSpace(clause), " ")
	return first
}

// staying are the phrases that tell that nothing new is there, and the set that
// finds them.
var staying = sync.OnceValue(func() (t struct {
	phrases []string
	set     *pieces.Set
}) {
	for p := range wordsOf("stays") {
		t.phrases = append(t.phrases, p)
	}
	slices.Sort(t.phrases)
	t.set = pieces.New(t.phrases)
	return t
})

// stays says whether a line, in small letters, tells that nothing new is there.
func stays(low string) (found bool) {
	t := staying()
	t.set.Find(low, func(k, stop int) {
		at := stop - len(t.phrases[k])
		found = found || pieces.Begins(low, at) && pieces.Ends(low, stop) && !notSo.MatchString(low[:at])
	})
	return found
}

// clockBefore is a time of day in front of a line, where the log's lines have
// too little in common for it to be taken off.
var clockBefore = lazy.MustCompile(`^\s*\[?\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d{1,6})?\]?[\s|-]+`)

// closedWith is a closing with a number, where a text is one.
func closedWith(text string) (c Closing) {
	if n, ok := exitNumber(text); ok {
		c.Exit, c.Well, c.Bad = &n, n == 0, n != 0
	}
	return c
}

// saidSo is a closing with the word for how it went.
func saidSo(word string) Closing {
	word = strings.TrimPrefix(strings.TrimSpace(word), "with ")
	if noMatter.MatchString(word) {
		return Closing{}
	}
	good := goodStatus.MatchString(word)
	return Closing{Well: good, Bad: !good && badStatus.MatchString(word)}
}

// noMatter is a word that makes neither a good nor a bad end.
var noMatter = lazy.MustCompile(`^not (?:needed|required|necessary|applicable|used)|^no (?:reboot|restart)`)

// givenUp is that a count is all that was done.
var givenUp = lazy.MustCompile(`^\W*(?:only|just)\b|\b(?:stop\w*|gave up|giving up|abort\w*|failed|broke off)\b`)

// countedSo is a closing of counts.
func countedSo(low string) (c Closing) {
	if m := allOf.FindStringSubmatch(low); m != nil {
		done, _ := strconv.Atoi(m[1])
		all, _ := strconv.Atoi(m[2])
		return Closing{Well: done == all && all > 0, Bad: done < all && givenUp.MatchString(low)}
	}
	if notThat.MatchString(low) {
		return Closing{Bad: true}
	}
	head := low[:len(low)-len(strings.TrimLeftFunc(low, unicode.IsLetter))]
	if !counters[head] {
		return c
	}
	told := false
	for _, part := range partsOf(low[len(head):]) {
		name, n := part, ""
		if m := countPart.FindStringSubmatch(part); m != nil {
			name, n = m[1]+m[4], m[2]+m[3]
		}
		switch {
		case n == "": // "summary: finished"
			return c
		case troubles[name]:
			if n != "0" && n != "no" {
				return Closing{Bad: true}
			}
			told = true
		case !harmless[name]:
			return c
		}
	}
	return Closing{Well: told}
}

// partsOf are the parts of a list of counts.
func partsOf(list string) (parts []string) {
	split := func(c rune) bool { return strings.ContainsRune(",;|/()", c) }
	if strings.Contains(list, "=") {
		split = func(c rune) bool { return strings.ContainsRune(",;|/() ", c) }
	}
	for _, p := range strings.FieldsFunc(strings.ReplaceAll(list, " and ", ", "), split) {
		if p = strings.TrimPrefix(strings.Trim(p, " :-.!\t"), "with "); p != "" {
			parts = append(parts, p)
		}
	}
	return parts
}

// countPart is a count behind its name or in front of it.
var countPart = lazy.MustCompile(`^(?:(\pL[\pL -]{1,20}?)\s?[=:]?\s?(\d{1,6})|(\d{1,6}|no) (\pL[\pL -]{1,20}))$`)

// troubles are what counts of a whole are called that went wrong, and harmless
// those of what did not.
var (
	troubles = set("bad broken failed failure failures error errors problem problems issue issues ko nok faulty missed unsuccessful fehlgeschlagen fehler échecs erreurs errores errori erros fouten", "not ok")
	harmless = set("good ok okay passed installed done succeeded success successful applied skipped warning warnings total steps unchanged updated copied up files packages changed retried erfolgreich installiert")
)

// ofWhole says whether a text, in small letters, is about the whole of a run:
// all of its words are of the vocabulary of last lines, or the product's name.
func ofWhole(head, product string) bool {
	head = quotedName.ReplaceAllString(head, " ")
	whole := false
	if product != "" {
		if cut := strings.Replace(head, pieces.Lower(product), " ", 1); cut != head {
			head, whole = cut, true
		}
	}
	head = versions.ReplaceAllString(head, " ")
	if strings.ContainsFunc(head, unicode.IsDigit) {
		return false
	}
	known, longest := lastVocabulary(), longestLast()
	for at, words := 0, 0; at < len(head); {
		r, size := utf8.DecodeRuneInString(head[at:])
		if !unicode.IsLetter(r) {
			at += size
			continue
		}
		w := longestWord(head[at:], longest, func(w string) bool { _, in := known[w]; return in || wholes[w] || besideDone[w] })
		if words++; w == "" || words > lastWordCount {
			return false
		}
		whole = whole || known[w] || wholes[w] || setupWords()[w]
		at += len(w)
	}
	return whole
}
