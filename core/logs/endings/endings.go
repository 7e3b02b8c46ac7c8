// Package endings reads how a setup says that it ended: with which number, that
// it worked, failed or was stopped, and that some failure does not matter. It
// knows the words for that in the languages of endings.txt.
package endings

import (
	_ "embed"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

//go:embed endings.txt
var text string

// What a phrase says.
type says uint32

const (
	exit says = 1 << iota
	number
	end
	setup
	failed
	worked
	cancel
	passed
	refuse
	again
	way
	advice
	restart
	gives
	well
	quits
	instead
	ill
	due
	nobody
	button
	pressed
	asked
	halted
)

var kinds = map[string]says{"exit": exit, "number": number, "end": end, "setup": setup, "failed": failed, "worked": worked,
	"cancel": cancel, "passed": passed, "refuse": refuse, "again": again, "way": way, "advice": advice, "restart": restart,
	"gives": gives, "well": well, "quits": quits, "instead": instead, "ill": ill, "due": due, "nobody": nobody, "button": button, "pressed": pressed, "asked": asked, "halted": halted}

// A phrase is one of the words of endings.txt.
type phrase struct {
	text  string
	says  says
	plain bool // it has a word for a code: the number behind it is one whatever follows
}

// A table is all phrases, and the set that finds them.
type table struct {
	phrases []phrase
	set     *pieces.Set
}

// weakExit are words for an end behind which a number may count something.
var weakExit = map[string]bool{"left with": true, "leaves with": true, "came back with": true, "came back as": true, "bye": true, "goodbye": true,
	"quit with": true, "quits with": true, "stopping with": true, "stops with": true, "stopped with": true,
	"ende mit": true, "kam zurück mit": true, "kam zurueck mit": true, "kam zuruck mit": true}

// phrases are those of endings.txt.
var phrases = sync.OnceValue(func() (t table) {
	var texts []string
	for line := range strings.Lines(text) {
		if strings.HasPrefix(line, "#") {
			continue
		}
		kind, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		_, rest, _ = strings.Cut(rest, " ") // the language is for people
		if kinds[kind] == 0 {               // of the last lines alone
			continue
		}
		for p := range strings.SplitSeq(rest, "|") {
			if p != "" {
				for _, way := range append(pieces.Unmarked(p), p) {
					t.phrases = append(t.phrases, phrase{way, kinds[kind], !weakExit[way]})
					texts = append(texts, way)
				}
			}
		}
	}
	t.set = pieces.New(texts)
	return t
})

// A Reading is what a line says of an end.
type Reading struct {
	Exit      *int // the number that the setup, or a part of it, ended with
	Firm      bool // the line speaks of the setup's or the program's own end
	Fails     bool // it has a word for failing, whatever failed
	Failed    bool // a setup failed
	Worked    bool // a setup worked
	Partly    bool // it tells a share of the way: a step of it
	Ready     bool // something is ready to use: a setup worked, where it is the product
	Cancelled bool // somebody stopped it
	Passed    bool // the line says that its failure does not matter
	Again     bool // what failed is tried again, or otherwise
	Instead   bool // it is done another way
	Restart   bool // a restart is due
	Advises   bool // it tells a person what to do
	GivesUp   bool // the run is given up, or rolled back
	Ends      bool // a setup is over, whichever way
	Refuses   bool // the machine, or what is on it, is refused
}

// setupWords are the words for a setup and what is done with it.
var setupWords = sync.OnceValue(func() map[string]bool {
	words := map[string]bool{}
	for _, p := range phrases().phrases {
		if p.says == setup {
			words[p.text] = true
		}
	}
	return words
})

// IsSetup says whether a word, in small letters, is one for a setup or for what
// is done with it.
func IsSetup(word string) bool { return setupWords()[word] }

// maxLine is how many bytes of a line are read: who says how it ended says it
// in a sentence.
const maxLine = 600

// couldNot stands in front of what was tried, and is no advice: "could not
// contact the server".
var couldNot = lazy.MustCompile(`(?:n['’]t|not|cannot|unable to|failed to|trying to|impossibile|non è stato possibile|inte|无法|無法|не удалось|impossible de|nelze|nie można|no se pudo) ?$`)

var (
	// notSoFar ends what stands before a word for success that is denied, with
	// at most three words between that say how: "did not complete
	// successfully", "n'a pas été effectuée correctement", "nebyla úspěšně
	// dokončena", "не была завершена".
	notSoFar = lazy.MustCompile(`(?:(?:^|[^\pL])(?:not|never|(?:did|has|have|was|were|could|is|are)n['’]?t|cannot|nicht|nie|niemals|(?:ne|n['’]\pL*)(?: \pL+)? (?:pas|jamais|point)|n['’]\pL+ pas|non|no (?:se|ha|han|fue|fueron|pudo|finali\pL+|termin\pL+|complet\pL+|conclu\pL+)|não|niet|nie|nebyl[aoiy]?|není|inte|ej|icke|не)(?: (?:been|be|yet|fully|completely|correctly|properly|successfully|entirely|complete|finish|succeed|installed|completed|finished|erfolgreich|vollständig|korrekt|ordnungsgemäß|richtig|ganz|été|effectuée?|terminée?|achevée?|correctement|bien|encore|entièrement|sido|correctamente|con|è|stata|stato|andata|andato|terminata|terminato|correttamente|ancora|foi|teve|concluída|corretamente|ainda|is|goed|volledig|succesvol|correct|została|zostało|został|się|pomyślnie|prawidłowo|byla|bylo|byl|úspěšně|správně|zcela|helt|korrekt|была|было|был|успешно|полностью|корректно)){0,3}|(?:未|没有|没|沒有|沒|不|未能|没能|並未|并未|尚未)(?:能|成功|正常|正确|全部|被)?) ?$`)
	// notSoBehind begins what stands behind such a word: "lyckades inte",
	// "完了していません", "성공하지 못했습니다".
	notSoBehind = lazy.MustCompile(`^(?: (?:olmadı|olamadı|değil|sayılmaz)(?:$|[^\pL])| (?:inte|ej|icke|nicht|niet|not)\b| ?(?:し|され|して|できて|でき)?(?:ません|ない|なかった|いません|いない)| ?(?:되|하|되지|하지)?(?:지 (?:않|못)| ?않| ?못))`)
)

// Denied says whether a word for success, in small letters, is denied by what
// stands before and behind it in its clause.
func Denied(before, behind string) bool {
	if f := notSoFar.FindString(before); f != "" && !joins.MatchString(f) { // "did not need it and completed" denies the first
		return true
	}
	return notSoBehind.MatchString(behind)
}

// joins are words that begin another statement.
var joins = lazy.MustCompile(` (?:and|but|yet|so|then|only|und|aber|sondern|et|mais|y|pero|e|ma|mas|en|maar|i|ale|a|och|men|и|но|а) `)

// Read reads a line.
func Read(line string) (r Reading) {
	if len(line) > maxLine {
		line = line[:maxLine]
	}
	low := pieces.Lower(line)
	if len(low) != len(line) { // letters whose small form has another length: places would differ
		line = low
	}
	var all says
	exitAt, numberAt, givesAt, failedAt, wayAt := -1, -1, -1, -1, -1
	var over []int // where words for an end stop, behind which stands how it went
	alone := false // a word for failing is all that the line says: "Aborted"
	first := false // the exit's word begins the line: nothing else is spoken of
	t := phrases()
	t.set.Find(low, func(k, stop int) {
		p := t.phrases[k]
		i := stop - len(p.text)
		if low[i] != ',' && !pieces.Begins(low, i) || !pieces.Ends(low, stop) {
			return
		}
		if p.says == passed && (takenBack(low[:i]) || ofItsOwn.MatchString(low[:i]) || p.text == "verschoben" && movedTo.MatchString(low[:i])) {
			return
		}
		const spoken = failed | ill | cancel | worked | refuse
		if no := pieces.ValueBehind(low[stop:]); p.says&spoken != 0 && pieces.IsNo(no) {
			none := no == "0" && p.says&failed != 0 && countHead.MatchString(p.text) // "failed: 0"
			if none || !isFigure(no) {                                               // "cancelled: no"
				return
			}
		}
		if p.says == failed && notSo.MatchString(low[:i]) || p.says == advice && couldNot.MatchString(low[:i]) {
			return
		}
		if p.says == restart && (noRestart.MatchString(low[:i]) || noRestartBehind.MatchString(low[stop:]) ||
			ofServices.MatchString(low[stop:]) ||
			pieces.IsNo(pieces.ValueBehind(low[stop:]))) || p.says == due && !pieces.IsYes(pieces.ValueBehind(low[stop:])) {
			return
		}
		if p.says == quits && (strings.TrimRight(low[stop:], ".!…。 ") != "" || !endsWithSetup(low[:i])) {
			return
		}
		if p.says == failed && p.text == "abbruch" && strings.ContainsFunc(low[:i]+low[stop:], unicode.IsLetter) { // "Abbruch mit ESC möglich" offers it
			return
		}
		if p.says == exit && p.countsHere(low, i, stop) || p.says == cancel && nothing.MatchString(low[stop:]) { // "you have cancelled nothing"
			return
		}
		if p.says&(ill|failed) != 0 && counted.MatchString(p.text) && noneOf.MatchString(low[stop:]) { // "with errors: 0"
			return
		}
		if p.says == ill && !slices.ContainsFunc(over, func(e int) bool { return e <= i && strings.Trim(low[e:i], resultMarks) == "" }) {
			return
		}
		if p.says&(worked|well) != 0 && Denied(low[:i], low[stop:]) { // "was not completed successfully"
			all, failedAt = all|failed, max(failedAt, stop)
			return
		}
		if p.says == end || p.says == worked || p.says == number || p.says == gives && doneWord.MatchString(p.text) {
			over = append(over, stop)
		}
		all |= p.says
		alone = alone || p.says == failed && i == 0 && (strings.TrimRight(low[stop:], ".!…。 ") == "" || numbered.MatchString(low[stop:]))
		if p.says == exit {
			exitAt, first = max(exitAt, stop), first || i == 0
		} else if p.says == number {
			numberAt = max(numberAt, stop)
		} else if p.says == gives && (endsWithSetup(low[:i]) || ofSetup(low)) {
			givesAt = max(givesAt, stop)
		} else if p.says == failed || p.says == ill {
			failedAt = max(failedAt, stop)
		} else if p.says == way {
			wayAt = max(wayAt, stop)
		}
	})
	leaves := strings.HasSuffix(strings.TrimRight(low, ".! "), "ing") && leaving.MatchString(low)
	if all == 0 {
		r.Failed = leaves || isBadResult(low)
		r.Fails, r.Worked = r.Failed, isGoodResult(low)
		return r
	}
	r.Passed = all&passed != 0
	r.Restart = all&(restart|due) != 0
	r.Advises = all&advice != 0
	r.GivesUp = all&way != 0
	r.Again = all&(again|instead) != 0
	r.Instead = all&instead != 0
	r.Refuses = all&refuse != 0
	r.Cancelled = (all&cancel != 0 || all&button != 0 && all&pressed != 0 || all&asked != 0 && all&halted != 0) && all&nobody == 0
	itself := all&cancel != 0 && all&nobody != 0 // the program cancelled it, which is no person's wish
	r.Fails = all&(failed|quits|ill) != 0 || itself
	r.Failed = leaves || all&setup != 0 && itself || all&setup != 0 && all&(failed|ill) != 0 || alone || all&quits != 0 || isBadResult(low)
	r.Ends = all&setup != 0 && all&end != 0
	r.Partly = partly.MatchString(low)
	r.Worked = isGoodResult(low) || all&setup != 0 && all&worked != 0 && all&(failed|ill) == 0 && !r.Partly
	r.Ready = all&well != 0 && all&(failed|ill) == 0
	said, isSaid := numberAfter(low, numberAt)
	if n, ok := numberAfter(low, exitAt); ok {
		r.Exit, r.Firm = &n, all&(setup|end) != 0 || first
	} else if isSaid && (all&(end|failed) != 0 && all&(setup|end) != 0 || bare(low)) {
		r.Exit, r.Firm = &said, true
	} else if isSaid && alone { // "nothing was installed (code 9)"
		r.Exit, r.Firm = &said, true
	} else if n, ok := numberAfter(low, pastWords(low, givesAt)); ok &&
		(closes(low, pastWords(low, givesAt)) || closesInHex(low, givesAt)) { // "QuaySetup ends, -8"
		r.Exit, r.Firm = &n, true
	} else if n, ok := numberAfter(low, failedAt); ok && r.Failed && behindFailed(low[failedAt:]) { // "Setup failed (37)"
		r.Exit, r.Firm = &n, true
	} else if n, ok := numberAfter(low, failedAt); ok && all&(setup|number) != 0 && setOff(low, failedAt) { // "result: not installed, 21"
		r.Exit, r.Firm = &n, true
	} else if n, ok := numberAfter(low, wayAt); ok && strings.HasPrefix(low[wayAt:], " (") && closes(low, wayAt) { // "giving up (64)"
		r.Exit = &n
	} else if n, ok := numberAfter(low, wayAt); ok && all&setup != 0 && setOff(low, wayAt) { // "installation given up, 64"
		r.Exit, r.Firm = &n, true
	} else if n, ok := inBracketAtEnd(low); ok && all&setup != 0 && all&refuse != 0 &&
		strings.Count(low, " ") <= shortRefusal { // "setup cannot be installed here (17)"
		r.Exit = &n
	} else if n, ok := inBracketAtEnd(low); ok && all&setup != 0 && itself {
		r.Exit, r.Firm = &n, true
	} else if r.Restart && strings.Contains(low, "3010") { // "restart to finish (3010)"
		r.Exit, r.Firm = new(3010), true
	} else if isSaid && all&setup != 0 && closes(low, numberAt) { // "update result 9"
		r.Exit = &said
	}
	r.withStatus(low, all&setup != 0)
	return r
}

// movedTo ends what stands before the German word for both postponed and moved,
// where something was moved.
var movedTo = lazy.MustCompile(`(?:^| )(?:in|nach|auf|unter|ins) (?:(?:die|den|das|einen|eine) )?\S+ $`)

// numbered is a number in brackets behind a word for failing, and nothing else:
// "nothing was installed (code 9)".
var numbered = lazy.MustCompile(`^ ?\((?:(?:exit |error |return )?(?:code|status|error|result|rc) ?[=:]? ?)?-?(?:0x[0-9a-f]+|\d{1,10})\)[.!]?$`)

// leaving ends a line on what was not possible with that the program leaves:
// "could not be enabled, stopping".
var leaving = lazy.MustCompile(`\b(?:could not|cannot|can not|can't|unable|failed|fails|no |not )\b.{2,}[,;:] ?(?:now )?(?:stopping|exiting|aborting|quitting|leaving|bailing out|terminating)[.! ]*$`)

// badValues and goodValues are the values that the two expressions below know.
var (
	badValues = set("fail failure failed error ko nok unsuccessful aborted broken refused rejected unmet unsatisfied fehler fehlgeschlagen échec errore erro fallido fallito falhou fout mislukt błąd chyba fel hata ошибка 失敗 실패 失败 incomplete partial unvollständig incomplète incomplet incompleto onvolledig niekompletny neúplný ofullständig eksik неполный 不完全 불완전 不完整 "+
		"false no 0 nein non nie ne nej nee não hayır нет いいえ 아니요 否", "not ok")
	goodValues = set("true yes ja oui sí sì sim ok success successful succeeded passed good installed 0")
)

// set makes a set of the words of a text and of further phrases.
func set(words string, phrases ...string) map[string]bool {
	all := map[string]bool{}
	for _, w := range append(strings.Fields(words), phrases...) {
		all[w] = true
	}
	return all
}

// counted are words for failing that are also heads of counts, and noneOf a
// count that is none.
var (
	counted = lazy.MustCompile(`^(?:with (?:errors|problems|failures)|not installed|mit fehlern|avec des erreurs|con errores|con errori|com erros|met fouten)$`)
	noneOf  = lazy.MustCompile(`^\s?[:=]?\s?0(?:$|[\s,;.)])`)
)

// countsHere says whether the number behind a word for an end is none that a
// run ended with: it counts something, "left with 3 warnings", or is another
// run's.
func (p phrase) countsHere(low string, at, stop int) bool {
	return !p.plain && !closes(low, stop) || endedWith[p.text] && countsThings.MatchString(low[stop:]) || ofEarlier.MatchString(low[:at])
}

// endedWith are words for an end behind which a number counts things where a
// word stands behind it, and countsThings is such a number: "worker 4 ended
// with 12 files".
var (
	endedWith = map[string]bool{"ended with": true, "ends with": true, "finished with": true, "finishes with": true, "terminated with": true, "exits with": true,
		"exited with": true, "beendet mit": true, "endet mit": true}
	countsThings = lazy.MustCompile(`^ \d{1,6} \pL{3,}`)
)

// ofEarlier ends what stands before the number with which another run ended:
// "last run ended with 9".
var ofEarlier = lazy.MustCompile(`\b(?:last|previous|earlier|former|prior|letzter|letzte|voriger|vorige|dernière?|précédente?|última?|anterior|ultimo|ultima|precedente|vorige|laatste|poprzedni[ae]?|ostatni[ae]?|předchozí|poslední|förra|senaste|önceki|son|предыдущ\pL+|прошл\pL+|последн\pL+) (?:run|setup|install\pL*|update|attempt|try|time|session|start|lauf|versuch|exécution|tentative|ejecución|intento|esecuzione|tentativo|execução|poging|próba|pokus|försök|deneme|запуск\pL*|попытк\pL*)\b[^.;]{0,20}$|前回の|上次|지난 `)

// nothing begins what stands behind a word for cancelling where nothing was.
var nothing = lazy.MustCompile(`^ (?:nothing|none|no |not |nichts|keine|rien|nada|nulla|niets|nic |ingenting|ничего)`)

// ofServices begins what stands behind the words for a restart that a service
// needs, and no machine.
var ofServices = lazy.MustCompile(`^ (?:of the |of |des |du |del |dello |do |van de )(?:service|dienst|server|agent|program|app|browser|servi\pL+|explorer|spooler|sync)`)

// resultMarks are what stands between the word for an end and how it went:
// "finished: blocked".
const resultMarks = " \t:=–—-"

// partly is a share of the way: "installation 40 % completed".
var partly = lazy.MustCompile(`(?:^|[^\d.,])\d{1,2}(?:[.,]\d+)? ?%`)

// behindFailed says whether what stands behind a word for failing leads to a
// number of the setup's own: in a bracket, or "with 64" at the end.
func behindFailed(rest string) bool {
	return strings.HasPrefix(rest, " (") || strings.HasPrefix(rest, " with ") && closes(rest, len(" with "))
}

// shortRefusal is how many blanks a line has at most that tells a refusal and
// its number, and nothing of what is wrong.
const shortRefusal = 6

// inBracketAtEnd reads the number in a bracket with which a line ends.
func inBracketAtEnd(line string) (int, bool) {
	at := strings.LastIndexByte(line, '(')
	if at < 0 || strings.TrimRight(line[at:], "-(0123456789") != ")" && strings.Trim(line[at:], "-()0123456789. ") != "" {
		return 0, false
	}
	return numberAfter(line, at)
}

// setOff says whether a number, set off by a sign, is all that stands behind a
// word: ", 21".
func setOff(line string, at int) bool {
	rest := strings.TrimLeft(line[at:], " ")
	for _, sign := range []string{", ", "; ", "- ", "– ", "— ", ": "} {
		if strings.HasPrefix(rest, sign) {
			return closes(line, at)
		}
	}
	return false
}

// ofSetup says whether a line begins by naming the setup of something: "install
// of Tide Watch ended: 3".
func ofSetup(line string) bool {
	word, rest, _ := strings.Cut(strings.TrimLeft(line, "-=*#> "), " ")
	return IsSetup(word) && (strings.HasPrefix(rest, "of ") || strings.HasPrefix(rest, "for "))
}

// endsWithSetup says whether a text ends with a word for a setup, alone or as
// the end of a name, or with the part of one that runs it: "QuaySetup",
// "installer host".
func endsWithSetup(before string) bool {
	before = strings.TrimRight(before, " :")
	word := lastWord(before)
	if runsIt[word] {
		word = lastWord(strings.TrimRight(strings.TrimSuffix(before, word), " -_"))
	}
	for w := range setupWords() {
		if strings.HasSuffix(word, w) {
			return true
		}
	}
	return false
}

// runsIt are words for the part of a setup that does the work.
var runsIt = set("host engine agent process program runner launcher core session job task wizard worker service script")

// lastWord is what stands behind a text's last blank.
func lastWord(s string) string { return s[strings.LastIndexByte(s, ' ')+1:] }

// ofItsOwn is the begin of a clause that tells of another thing what became of
// it: "the runtime is missing, and its setup was skipped".
var ofItsOwn = lazy.MustCompile(`\band (?:the|its|this|a|an) [\w .-]{2,40} (?:was|were|is|are|had been|has been) $`)

// takenBack says whether a text ends with a word that makes the opposite of the
// next, or a wish of it: "will not be ignored", "close it before continuing".
func takenBack(before string) bool {
	for _, w := range []string{"not be ", "not ", "nicht ", "cannot be ", "never ", "non ", "ne pas ", "не ", "before ", "avant de ", "antes de ", "prima di "} {
		if strings.HasSuffix(before, w) {
			return true
		}
	}
	return false
}

// numberWords are words before an exit's number that say only that it is one.
var numberWords = []string{"error ", "code ", "result ", "status ", "exit code ", "error code ", "fehler ", "erreur ", "errore ", "erro ", "with ", "mit "}

// pastWords is the place behind such a word, where one stands behind a word for
// an end: "was terminated, error 8". It is the place itself where none does.
func pastWords(line string, at int) int {
	if at < 0 {
		return at
	}
	for _, w := range numberWords {
		if rest, ok := strings.CutPrefix(strings.TrimLeft(line[at:], " \t:,;(–—-"), w); ok {
			return len(line) - len(rest) - 1 // the blank stays
		}
	}
	return at
}

// closes says whether the number behind a word is the last thing on the line.
func closes(line string, at int) bool {
	return strings.TrimLeft(line[at:], " \t:=-,(0123456789).") == ""
}

// closesInHex is closes for a number in hexadecimal behind a word for an end, in
// small letters. Behind one for failing it is a step's as often.
func closesInHex(low string, at int) bool {
	hex, ok := strings.CutPrefix(strings.TrimLeft(low[max(at, 0):], " \t:=-,("), "0x")
	return ok && at > 0 && !strings.HasSuffix(low[:at], "failed") && strings.TrimLeft(hex, "0123456789abcdef).") == ""
}

// bare says whether a line is one word and a number, and nothing else:
// "result=5".
func bare(line string) bool {
	line = strings.TrimSpace(line)
	name, value, ok := strings.Cut(line, "=")
	if !ok {
		name, value, ok = strings.Cut(line, ": ")
	}
	if !ok {
		name, value, ok = strings.Cut(line, " ")
	}
	name = strings.TrimRight(name, ".")
	_, err := strconv.ParseInt(strings.TrimSpace(value), 0, 64) // an HRESULT, too
	return ok && err == nil && !strings.Contains(strings.TrimSpace(name), " ")
}

// linkingWords may stand between a word and its number: "exit code was 5".
var linkingWords = []string{" was ", " is ", " of ", " with ", " ist ", " war ", " est ", " es ", " è "}

// maxBetween is how many bytes may stand between a word and its number: a
// colon, an equals sign, a bracket, a quotation mark, blanks.
const maxBetween = 4

// numberAfter reads the number behind a word, decimal or hexadecimal, as a
// signed one of 32 bits.
func numberAfter(s string, at int) (int, bool) {
	if at < 0 {
		return 0, false
	}
	rest := s[at:]
	for _, w := range linkingWords {
		if strings.HasPrefix(rest, w) {
			rest = rest[len(w)-1:]
			break
		}
	}
	trimmed := strings.TrimLeft(rest, " \t:=,(\"'`：（")
	if dots := strings.TrimLeft(rest, "."); len(rest)-len(dots) > maxBetween { // "result..........: 104"
		rest, trimmed = dots, strings.TrimLeft(dots, " \t:=")
	}
	if len(rest)-len(trimmed) > maxBetween+utf8.UTFMax || len(rest) == len(trimmed) && at < len(s) && s[at-1] < 0x80 {
		return 0, false
	}
	n := 0
	for n < len(trimmed) && (trimmed[n] == '-' && n == 0 || trimmed[n] >= '0' && trimmed[n] <= '9' || trimmed[n] == 'x' && n == 1 ||
		strings.HasPrefix(trimmed, "0x") && trimmed[n] >= 'a' && trimmed[n] <= 'f') {
		n++
	}
	if n == 0 || n < len(trimmed) && (trimmed[n] == '.' && n+1 < len(trimmed) && trimmed[n+1] >= '0' && trimmed[n+1] <= '9' ||
		trimmed[n] == '%' || trimmed[n] == '/' || trimmed[n] == ':') { // a version, a share, a ratio, a time
		return 0, false
	}
	v, err := strconv.ParseInt(trimmed[:n], 0, 64)
	if err != nil || v > 1<<32 || v < -1<<31 {
		return 0, false
	}
	return int(int32(v)), true
}
