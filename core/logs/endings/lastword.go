// This file reads a line by which a text ends: that all went well, or did not,
// in few words of a small vocabulary.

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

// A log's last line often holds words for an end and a number, and nothing
// else: "fin, code 3", "end of run (3)", "コード 3 で終了しました". No order of words is
// asked for, only that none of them speaks of another thing.

// lastWordRoom is how many bytes such a line has at most, and lastWordCount how
// many words: more of them make a sentence, which the phrases are for.
const (
	lastWordRoom  = 90
	lastWordCount = 9
)

// lastVocabulary is what such a line is made of: the words for ends, setups and
// numbers of endings.txt. The value says whether a word tells an end or a
// result by itself.
var lastVocabulary = sync.OnceValue(func() map[string]bool {
	words := map[string]bool{}
	for _, all := range []map[string]bool{doneWords(), badWords()} {
		for w := range all {
			words[w] = false
		}
	}
	for line := range strings.Lines(text) {
		kind, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		_, rest, _ = strings.Cut(rest, " ")
		tells := false
		switch kind {
		case "last", "exit", "end", "failed", "quits", "gives":
			tells = true
		case "also", "setup", "number", "ill", "way":
		default:
			continue
		}
		for p := range strings.SplitSeq(rest, "|") {
			words[p] = words[p] || tells
		}
	}
	delete(words, "")
	return words
})

// doneWords are the words with which a last line tells that all went well, and
// badWords those with which it tells that it did not.
var (
	doneWords = sync.OnceValue(func() map[string]bool { return wordsOf("all") })
	badWords  = sync.OnceValue(func() map[string]bool { return wordsOf("bad", "failed", "ill", "quits", "way") })
)

// wordsOf are the phrases of some kinds in all languages.
func wordsOf(kinds ...string) map[string]bool {
	words := map[string]bool{}
	for line := range strings.Lines(text) {
		kind, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		if _, rest, _ = strings.Cut(rest, " "); slices.Contains(kinds, kind) {
			for p := range strings.SplitSeq(rest, "|") {
				words[p] = true
			}
		}
	}
	return words
}

// longestLast is how many bytes the longest word or phrase of the vocabulary
// has.
var longestLast = sync.OnceValue(func() (most int) {
	for w := range lastVocabulary() {
		most = max(most, len(w))
	}
	return most
})

// longestWord is the longest beginning of a text that is a word of a vocabulary
// and ends as a word does; empty where there is none.
func longestWord(text string, longest int, in func(string) bool) string {
	for n := min(len(text), longest); n > 0; n-- {
		if in(text[:n]) && pieces.Ends(text, n) {
			return text[:n]
		}
	}
	return ""
}

// exitNumber reads a number of 32 bits, decimal or with 0x, as a signed one.
func exitNumber(text string) (int, bool) {
	digits, hex := strings.CutPrefix(strings.TrimPrefix(text, "-"), "0x")
	base := 10
	if hex {
		base = 16
	}
	v, err := strconv.ParseInt(digits, base, 64)
	if err != nil || v > 1<<32-1 {
		return 0, false
	}
	if strings.HasPrefix(text, "-") {
		v = -v
	}
	return int(int32(v)), true
}

// LastWord reads the number with which a setup ended out of a line that holds
// nothing else. It is meant for the last lines of a log: anywhere else such
// words speak of a part.
func LastWord(line string) (code int, ok bool) {
	return lastClause(strings.TrimSpace(pieces.Lower(line)))
}

// onlyOfEnds says whether a text, in small letters, holds words for ends,
// setups and results and nothing else, one of them for an end.
func onlyOfEnds(low string) bool {
	known, longest, words, tells := lastVocabulary(), longestLast(), 0, false
	for at := 0; at < len(low); {
		r, size := utf8.DecodeRuneInString(low[at:])
		if !unicode.IsLetter(r) {
			at += size
			continue
		}
		w := longestWord(low[at:], longest, func(w string) bool { _, in := known[w]; return in || besideDone[w] || setupWords()[w] })
		if words++; w == "" || words > lastWordCount {
			return false
		}
		tells, at = tells || known[w] || doneWords()[w], at+len(w)
	}
	return tells
}

// LastClause reads such a number out of a line of which only one clause tells
// it, whatever it is that ended: "onboarding ended with 17: the list is empty".
// It is meant for the last line of a run. Unless it is known that the run
// failed, the number has a word that leads to it: "timer stopped 1200" ends
// nothing.
func LastClause(line string, failed bool) (code int, ok bool) {
	low := strings.TrimSpace(pieces.Lower(line))
	if len(low) > maxLine || !strings.ContainsFunc(low, unicode.IsDigit) {
		return 0, false
	}
	for from := 0; from < len(low); {
		stop := len(low)
		if at := clauseEnd.FindStringIndex(low[from:]); at != nil {
			stop = from + at[1]
		}
		// In writing without blanks the words stand in any order; elsewhere a
		// clause is often about something else.
		clause := strings.TrimRight(low[from:stop], "。，；：！ ")
		if code, ok := lastClause(clause); ok && strings.ContainsAny(low[from:stop], "。，；：！") {
			return code, true
		}
		from = stop
	}
	return endOfClause(low, failed)
}

// clauseEnd is what parts a line's clauses.
var clauseEnd = lazy.MustCompile(`[.,;:!] |[。，；：！]| [-–—] `)

// overWords are the words for an end with which the clause of a last line ends
// but for its number, and the set that finds them.
var overWords = sync.OnceValue(func() (t struct {
	words []string
	set   *pieces.Set
}) {
	for w := range wordsOf("over") {
		t.words = append(t.words, w)
	}
	t.set = pieces.New(t.words)
	return t
})

// mostBefore is how many words may stand before such a word in its clause: what
// it was that ended. More of them make a sentence about something else.
const mostBefore = 5

// clauseNumber is a number that closes a clause, and words that only lead to
// it.
var clauseNumber = lazy.MustCompile(`^[ :=,–—-]{1,3}(?:(?:with|at|as|exit|return|error|code|status|result|rc|mit|fehler|avec|le|con|com|met|med|с|z|s|kod|kodem|kód|kódem|kode?|código|codice|кодом|код|コード|코드|代码|代碼)[ :=]+){0,3}` +
	`[(（]?(-?\d{1,10}|0x[0-9a-f]{1,8})[)）]?(?:$|[.,;:!] |[.!。，；：]$|[。，；：！]| [-–—] )`)

// ofAPart are words for what ends by itself while the setup goes on.
var ofAPart = lazy.MustCompile(`\b(?:services?|processe?s?|child|helper|worker|thread|download|request|query|phase|action|component|dienst|prozess|hilfsprogramm|vorgang|service|processus|servicio|proceso|servizio|processo|serviço|usługa|proces|služba|tjänst|hizmet)\b|служба|процесс|サービス|プロセス|서비스|프로세스|服务|服務|进程|程序|\.exe\b|\.dll\b|\.msi\b|\.ps1\b|\.cmd\b|\.bat\b`)

// endOfClause reads the number behind a word for an end that closes a clause,
// whatever it is that ended; also one without a word that leads to it where
// bare is set.
func endOfClause(low string, bare bool) (code int, ok bool) {
	over := overWords()
	over.set.Find(low, func(k, stop int) {
		word := over.words[k]
		if ok || !pieces.Begins(low, stop-len(word)) || !pieces.Ends(low, stop) || !bare && !strings.Contains(word, " ") {
			return
		}
		before := low[:stop-len(word)]
		if cuts := clauseEnd.FindAllStringIndex(before, -1); cuts != nil {
			before = before[cuts[len(cuts)-1][1]:]
		}
		if strings.ContainsFunc(before, unicode.IsDigit) || len(strings.Fields(before)) > mostBefore || ofAPart.MatchString(before) {
			return
		}
		if m := clauseNumber.FindStringSubmatch(low[stop:]); m != nil {
			code, ok = exitNumber(m[1])
		}
	})
	return code, ok
}

// lastClause reads such a number out of a text that holds words for an end and
// the number, and nothing else.
func lastClause(low string) (code int, ok bool) {
	if len(low) > lastWordRoom || !strings.ContainsFunc(low, func(r rune) bool { return r >= '0' && r <= '9' }) {
		return 0, false
	}
	if m := stoppedAt.FindStringSubmatch(low); m != nil {
		return exitNumber(m[1] + m[2])
	}
	known, longest := lastVocabulary(), longestLast()
	tells, found, words := false, false, 0
	if wellIs.MatchString(low) { // "end ok=0"
		return 0, false
	}
	before := "" // the word right before a number, with nothing but blanks between
	for at := 0; at < len(low); {
		r, size := utf8.DecodeRuneInString(low[at:])
		switch {
		case strings.HasPrefix(low[at:], "->") || strings.HasPrefix(low[at:], "=>"):
			tells = true
			at += len("->")
		case r == '→':
			tells = true
			at += size
		case r >= '0' && r <= '9':
			if found || counts[before] {
				return 0, false
			}
			n := at
			for n < len(low) && (low[n] >= '0' && low[n] <= '9' || low[n] >= 'a' && low[n] <= 'f' || low[n] == 'x') {
				n++
			}
			from := at
			if at > 0 && low[at-1] == '-' && (at == 1 || low[at-2] != '-') {
				from--
			}
			var fits bool
			if code, fits = exitNumber(low[from:n]); !fits || measured(low[n:]) {
				return 0, false
			}
			found, at = true, n
		case unicode.IsLetter(r):
			before = longestWord(low[at:], longest, func(w string) bool { _, in := known[w]; return in })
			size, tells = len(before), tells || known[before]
			if words++; size == 0 || words > lastWordCount {
				return 0, false
			}
			at += size
		case r == ' ':
			at += size
		default:
			before = ""
			at += size
		}
	}
	if words == 1 && countHead.MatchString(low) && !strings.ContainsAny(low, "(,") {
		return 0, false
	}
	return code, found && tells
}

// wellIs is a value that says whether it went well, and no number of an end.
var wellIs = lazy.MustCompile(`\b(?:ok|success|succeeded|good|well|passed|installed|erfolgreich|réussi)["']?[=:] ?-?\d`)

// countHead is a word for failing that heads a count in a summary, where it
// stands alone: "failed: 3".
var countHead = lazy.MustCompile(`fail|fehlgeschlagen|echou|^not |nicht|gescheitert|échou|fallid|fallit|falló|falh|non |não |^no |mislukt|niet |nie |selhal|misslyck|inte |başarısız|^не |失敗|실패|失败|未`)

// besideDone are words that may stand beside those in such a line.
var besideDone = set("a all everything components files packages parts products features now at version v from to the is are been was were has have and of with warnings " +
	"warning unchanged machine after attempts exit code result status outcome success ergebnis résultat resultado risultato esito resultaat wynik alles job task run session process exiting leaving ending proceso die der das ist sind alle von auf version le la les est sont tous de du à el los las todos está il lo sono tutti o os as todos está " +
	"alle is zijn van naar wszystkie do všechny på och är tüm все " +
	"gesamtergebnis endergebnis wynik výsledek resultat sonuç результат итог 結果 결과 结果 final finale global overall total")

// andRestart ends such a line, where a restart is due or is advised behind what
// is done.
var andRestart = lazy.MustCompile(`[,;.(–-] ?(?:(?:a|ein|un|une|een|en) )?(?:system )?(?:restart|reboot|neustart|redémarrage|reinicio|riavvio|reinicialização|reinício|herstart|omstart|yeniden başlatma|перезагрузка|再起動|重启|重新啟動)` +
	`(?: (?:is|ist|est|es|è|é))? ?(?:required|recommended|needed|advised|suggested|due|pending|erforderlich|empfohlen|nötig|notwendig|recommandé|nécessaire|requis|recomendado|necesario|requerido|consigliato|necessario|richiesto|` +
	`recomendada|necessária|aanbevolen|vereist|nodig|rekommenderas|krävs|zalecany|wymagany|doporučen|nutný|önerilir|gerekli|рекомендуется|требуется|推奨|必要|建议)\)?[.! ]*$`)

// countedDone is a count in such a line: of what was done, or of what did not
// fail.
var countedDone = lazy.MustCompile(`\b(?:0|no|zero) (?:errors?|failed|failures?|warnings?|fehler|erreurs?|errores|errori|erros|fouten)\b|\b(?:errors?|failed|failures?|fehler)[:=]? 0\b|\b\d+ (?:of \d+ )?(?:warnings?|files?|components?|packages?|parts?|products?|features?)\b|\b\d+/\d+\b|\b(?:installed|updated|copied|succeeded)[:=]? \d+\b|\b\d+ (?:installed|updated|succeeded|ok)\b`)

// AllDone says whether a line, the last of a log, tells that all of it is done,
// and nothing else: "Tide Watch 4.2 installed", "all done", "fertig"; and bad
// whether it tells that it went wrong: "finished with errors", "all changes
// undone". alone is of lines that hold a single word for it, which may be about
// a part.
func AllDone(line, product string) (well, bad, alone bool) {
	low := strings.TrimSpace(pieces.Lower(line))
	if len(low) > lastWordRoom {
		return false, false, false
	}
	if isBadResult(low) || isGoodResult(low) {
		return isGoodResult(low), isBadResult(low), false
	}
	low = andRestart.ReplaceAllString(low, "")
	if product != "" {
		low = strings.Replace(low, pieces.Lower(product), " \u2007 ", 1) // no word, and yet something
	}
	named := strings.Contains(low, "\u2007")
	if partBehindSign(low) {
		return false, false, false
	}
	if notAllOf(low) {
		return false, countedBad.MatchString(low), false
	}
	low = versions.ReplaceAllString(low, " ")
	counted := countedDone.MatchString(low)
	low = countedDone.ReplaceAllString(low, " ")
	if clean := NoErrors.ReplaceAllString(low, " "); clean != low {
		low, counted = clean, true
	}
	if troubles := countedBad.ReplaceAllString(low, " "); troubles != low {
		low, bad = troubles, true
	}
	if strings.ContainsFunc(low, unicode.IsDigit) {
		return false, false, false
	}
	done, wrong, longest, words := doneWords(), badWords(), longestLast(), 0
	several := false // "all steps completed" is of more than one of them
	for at := 0; at < len(low); {
		r, size := utf8.DecodeRuneInString(low[at:])
		if !unicode.IsLetter(r) {
			at += size
			continue
		}
		w := longestWord(low[at:], longest, func(w string) bool { return done[w] || wrong[w] || setupWords()[w] || besideDone[w] })
		if words++; w == "" || words > lastWordCount {
			return false, false, false
		}
		well, bad, at = well || done[w], bad || wrong[w], at+len(w)
		several = several || strings.Contains(strings.TrimSpace(w), " ")
	}
	return (well || counted && words == 0) && !bad, bad, words == 1 && !several && !named && !counted
}

// partBehindSign says whether a line parts how it went, by a sign, from a part of
// the run: "task files -> success".
func partBehindSign(low string) bool {
	at := strings.IndexAny(low, ":=>")
	return at > 0 && aPart.MatchString(low[:at]) && !ofAll.MatchString(low[:at])
}

// ofAll is a word for all of the parts, or for the run.
var ofAll = lazy.MustCompile(`\b(?:all|every|each|total|overall|everything|alle[rs]?|sämtliche|toutes?|tous|tod[oa]s|tutt[ei]|wszystkie|všechny|alla|tüm|все|set-?up|install\w*|update|upgrade|deployment)\b|すべて|全|모든|모두`)

// shareOf is how many of all there are.
var shareOf = lazy.MustCompile(`\b(\d{1,9}) ?(?:of|/|von|sur|de|di|van|z|av|из) ?(\d{1,9})\b`)

// notAllOf says whether a line, in small letters, counts less than all of
// something: "188 of 310 files".
func notAllOf(low string) bool {
	m := shareOf.FindStringSubmatch(low)
	if m == nil {
		return false
	}
	n, _ := strconv.Atoi(m[1])
	all, _ := strconv.Atoi(m[2])
	return n < all
}

var (
	// installedSo is a last line by which all is done but the restart:
	// "installed; reboot to finish".
	installedSo = lazy.MustCompile(`\b(?:installed|updated|upgraded|deployed|applied|completed?|done)\b.{0,60}\b(?:restart|reboot)`)
	// notOurs is a restart that must come first, or that another setup left
	// behind.
	notOurs = lazy.MustCompile(`\b(?:before|again|first|pending|previous|earlier|other|another|not|cannot|must be)\b`)
	// toUse is a restart that must come before the product is used, in small
	// letters: "restart before you can use it".
	toUse = lazy.MustCompile(`\b(?:before|prior to) (?:you can |you |it can be |the program can be )?(?:us(?:e|ed|ing)|start(?:ing)? the program|working with)\b|\bto (?:use|start using) (?:the|your|it)\b|` +
		`vor der (?:ersten )?benutzung|bevor (?:sie|du) .{0,30}(?:benutz|verwend|nutz)|avant d['’](?:utiliser|employer)|antes de (?:usar|utilizar)|prima di (?:usare|utilizzare)|voordat (?:u|je) .{0,30}gebruik|przed (?:użyciem|uruchomieniem programu)|` +
		`před (?:použitím|prvním použitím)|innan .{0,30}(?:användas|använda)|kullanmadan önce|перед использованием|使用する前に|お使いになる前に|사용하기 전에|使用.{0,12}前`)
	// sentenceEnd parts the sentences of a last line.
	sentenceEnd = lazy.MustCompile(`[.!;,:] |[。！；，、：]| [-–—] `)
)

// OnlyRestart says whether the last line of a log tells that nothing but a
// restart is missing: "installed; reboot to finish", "Die Installation ist
// abgeschlossen. Bitte starten Sie den Computer neu".
func OnlyRestart(line, product string) bool {
	low := pieces.Lower(line)
	if len(low) > maxLine || !Read(line).Restart {
		return false
	}
	if installedSo.MatchString(low) && !notOurs.MatchString(low) || toUse.MatchString(low) {
		return true
	}
	done := false
	for from := 0; from < len(low); {
		stop, next := len(low), len(low)
		if at := sentenceEnd.FindStringIndex(low[from:]); at != nil {
			stop, next = from+at[0], from+at[1]
		}
		if sentence := low[from:stop]; !Read(sentence).Restart {
			well, bad, _ := AllDone(sentence, product)
			said := Read(sentence)
			if bad || said.Fails || !well && !said.Worked {
				return false
			}
			done = true
		}
		from = next
	}
	return done
}

// NoErrors says, in small letters, that there were none.
var NoErrors = lazy.MustCompile(`(?:^|[^\pL])(?:ohne|sans|sin|senza|sem|zonder|bez|utan|without|no|0|keine|aucune?|ningún|nessun|nenhum|geen|inga?|brak|žádn[éá]|żadnych|inget) (?:any )?(?:fehler\pL*|erreurs?|error(?:es|i|s|e)?|erros?|fouten|błęd\pL+|chyb\pL*|fel)\b|без ошибок|ошибок нет|нет ошибок|hatasız|hata yok|エラー(?:なし|はありません|は発生しませんでした)|(?:无|沒有|没有|無)(?:任何)?(?:错误|錯誤)|未发现错误|오류 ?(?:가 )?없(?:이|음|습니다)|\bfail(?:ed|ures?)[:=]? ?0\b`)

// countedBad is a count of what went wrong: "2 errors", "1 of 7 steps failed",
// "step 4 failed".
var countedBad = lazy.MustCompile(`\b[1-9]\d* (?:of \d+ )?(?:(?:steps?|parts?|files?|components?|packages?|actions?|tasks?) )?(?:errors?|failed|failures?|fehler|erreurs?|errores|errori|erros|fouten)\b|\b(?:errors?|failures?|fehler)[:=] ?[1-9]\d*\b|\b(?:step|stage|phase|task|action) \d+ failed\b|\b(?:gave up|giving up|failed) after \d+ (?:attempts?|tries)\b`)

// versions are those in such a line, and numbers with a year's length.
var versions = lazy.MustCompile(`\bv?\d+(?:\.\d+)+\b|\b20\d\d\b`)

// stoppedAt is a line that begins with a word for an end, says where, and
// closes with the number: "stopped at step 2, code 23". Words for failing do
// not begin it: behind them may stand the code of what failed.
var stoppedAt = lazy.MustCompile(`^\W*(?:stopped|stops|stopping|ended|ends|ending|quit|quits|quitting|aborted|aborting|terminated|leaving|exiting|abgebrochen|beendet|ende|arrêté|arrêtée|arrêt|fin|detenido|detenida|interrotto|interrotta|interrompido|gestopt|afgebroken|przerwano|přerušeno|avbruten|durduruldu|остановлено|прервано) [\pL\d ."'«»“”/\\:_-]{2,50}?(?:[,;:] ?(?:code|rc|result|status|kod|kód|código|codice|код) ?[:=]? ?(-?\d{1,10})| \((-?\d{1,10})\))[.!]?$`)

// counts are words that have a number of their own: "session 7714 ended".
var counts = set("session run job task script agent program process step phase stage package pkg deployment chain bundle server server setup update lauf auftrag " +
	"vorgang tâche tarea attività tarefa taak zadania úlohy jobbet görev задача タスク 任务 任務 작업")

// measured says whether what stands right behind a number makes it a share, a
// time, a version or an amount.
func measured(rest string) bool {
	if rest == "" {
		return false
	}
	if rest[0] == '%' || rest[0] == ' ' && len(rest) > 1 && rest[1] == '%' {
		return true
	}
	return (rest[0] == '.' || rest[0] == ':' || rest[0] == '/' || rest[0] == ',') && len(rest) > 1 && rest[1] >= '0' && rest[1] <= '9'
}
