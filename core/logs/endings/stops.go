// This file reads last clauses that say that it goes no further.

package endings

import (
	"strings"
	"sync"
	"unicode"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// Stops says whether the last clause of a line tells that whoever writes it
// goes no further, and nothing else: "exiting", "the media is damaged, not
// continuing". By itself such a clause is no failure, unless firm is set: it
// says that nothing was done, or that it cannot go on. It is meant for the last
// line of a log.
func Stops(line string) (stops, firm bool) {
	low := strings.TrimRight(strings.TrimSpace(pieces.Lower(line)), " .!…。！")
	if len(low) > maxLine {
		return false, false
	}
	low = strings.TrimSpace(inBrackets.ReplaceAllString(low, "")) // "nothing done (bad configuration)"
	if at := strings.IndexFunc(low, unicode.IsLetter); at > 0 && !strings.ContainsFunc(low[:at], unicode.IsDigit) {
		low = low[at:] // "=> stop"
	}
	words := stopWords()
	if cuts := stopsBehind.FindAllStringIndex(low, -1); cuts != nil {
		if _, is := words[low[:cuts[0][0]]]; is && low[cuts[0][0]] == '.' { // "stopping. Remove one by hand first"
			return true, false
		}
		low = low[cuts[len(cuts)-1][1]:]
	}
	for _, first := range []string{"and ", "so ", "now ", "und ", "et ", "y ", "e ", "en ", "i ", "a ", "och ", "ve ", "и ", "the ", "setup ", "installation ", "installer ",
		"update ", "upgrade ", "program ", "it ", "is "} {
		low = strings.TrimPrefix(low, first)
	}
	if f, is := words[strings.TrimSpace(low)]; is {
		return true, f
	}
	if first, rest, more := strings.Cut(low, " "); more && IsSetup(first) {
		if f, is := words[strings.TrimSpace(rest)]; is {
			return true, f
		}
	}
	return goesNoFurther.MatchString(low), true
}

// Closes says whether a line closes a log and tells nothing: "exiting", "log
// closed", "終了します". How it went stands before it.
func Closes(line string) bool {
	stops, firm := Stops(line)
	return stops && !firm || logClosed.MatchString(pieces.Lower(line))
}

// logClosed is a line that ends a log, in small letters.
var logClosed = lazy.MustCompile(`^\W*(?:(?:the )?log(?:ging|file| file)? (?:is |was )?(?:closed|ends?|ended|stopped|finished)|closing (?:the )?log(?: ?file)?|end of (?:the )?(?:log|report|protocol|session|file)|(?:ende (?:des|vom) )?(?:protokolls?|logs?) ?(?:ende|geschlossen|beendet)?|protokollende|fin (?:du journal|du rapport|del registro|del informe)|fine (?:del )?(?:registro|rapporto|log)|fim (?:do )?(?:registo|registro|relatório)|einde (?:van het )?(?:logboek|verslag)|koniec (?:dziennika|raportu)|konec (?:protokolu|záznamu)|slut på (?:loggen|rapporten)|slut|günlük sonu|конец (?:журнала|отчёта|отчета)|ログ(?:終了|の終わり)|로그 (?:끝|종료)|日志(?:结束|已关闭)|日誌結束)\W*$`)

// inBrackets is why, behind what a last clause says.
var inBrackets = lazy.MustCompile(` [(\[][^()\[\]]{1,60}[)\]]$`)

// stopsBehind parts clauses, and columns of who speaks from what is said.
var stopsBehind = lazy.MustCompile(`[.,;:!] |[。，；：！]| [-–—] |\t| {2,}`)

// stopWords are such clauses in all languages; the value says whether one tells
// a failure by itself.
var stopWords = sync.OnceValue(func() map[string]bool {
	words := map[string]bool{}
	for p := range wordsOf("leaving") {
		words[p] = false
	}
	for p := range wordsOf("undone") {
		words[p] = true
	}
	return words
})

// endWords are phrases that tell that it did not work or goes no further, in
// all languages.
var endWords = sync.OnceValue(func() map[string]bool {
	words := map[string]bool{}
	for _, kind := range []string{"failed", "quits", "bad", "leaving", "undone", "halted"} {
		for p := range wordsOf(kind) {
			words[strings.Trim(p, " ,")] = true
		}
	}
	return words
})

// OnlyEnd says whether a line is such a phrase and nothing else, but for a word
// for the setup before or behind it: "nicht installiert", "installation
// interrompue".
func OnlyEnd(line string) bool {
	low := strings.TrimSpace(strings.TrimRight(strings.TrimSpace(pieces.Lower(line)), " .!…。！"))
	if len(low) > maxLine {
		return false
	}
	words := endWords()
	if words[low] {
		return true
	}
	first, behind, more := strings.Cut(low, " ")
	if more && IsSetup(first) && words[strings.TrimSpace(behind)] {
		return true
	}
	at := strings.LastIndexByte(low, ' ')
	return at > 0 && IsSetup(low[at+1:]) && words[strings.TrimSpace(low[:at])]
}

// goesNoFurther is such a clause that names what is not gone on with: "cannot
// continue unattended", "stopping before any change".
var goesNoFurther = lazy.MustCompile(`^(?:(?:the )?(?:set-?up|installation|installer|update|upgrade|deployment|program|it|we|i) )?(?:` +
	`(?:cannot|can not|can't|could not|couldn't|will not|won't|is unable to|unable to|not able to|do(?:es)? not|refus(?:es|ing|ed) to) (?:be )?(?:continued?|proceed(?:ed)?|go on|carry on|carried on|start(?:ed)?|run|begin|install(?:ed)?)\b.{0,40}` +
	`|(?:stopping|exiting|quitting|leaving|ending|aborting|terminating|closing|giving up|bailing out|stopped|aborted|ended) (?:here|now|early|before .{3,40}|without .{3,40}|because .{3,60}|due to .{3,60}|on (?:the )?(?:first )?error\b.{0,30}|after (?:the )?(?:first |this )?(?:error|failure)\b.{0,30}))$`)

// couldNotBe is a sentence that tells that something could not be done, in
// whatever words: "files could not be transferred".
var couldNotBe = lazy.MustCompile(`(?:^|[^\pL])(?:(?:could|can|may) ?not|cannot|couldn['’]t|can['’]t|(?:is |was |were )?(?:unable|not able) to|(?:is|was) (?:impossible|not possible)|impossible to|konnten? .{0,60}nicht|kann .{0,60}nicht|` +
	`n['’]a(?:i|ont)? pas pu|n['’]ont pas pu|impossible d|ne peut pas|no se (?:pudo|pudieron|puede|ha podido|han podido)|imposible|non è (?:stato )?possibile|impossibile|non (?:può|possono)|não foi possível|não pôde|impossível|` +
	`(?:kon|kan|konden|kunnen) .{0,60}niet|nie (?:można|udało się|mógł|mogła)|nelze|nepodařilo|nebylo možné|(?:kunde|kan) .{0,30}(?:inte|ej)|mümkün değil|(?:alına|yapıla|edile|yazıla|açıla|oluşturula|kopyalana|kurula)madı|` +
	`не удалось|невозможно|не может|не смог)(?:$|[^\pL])|\b(?:refused|rejected|denied|invalid|broken|damaged|blocked|missing|incomplete|not (?:met|fulfilled|satisfied|done|made|reached|obtained|available))[.!]?$|できません|できなかった|できませんでした|(?:할|될) 수 없|하지 못|无法|無法|不能|未能`)

// CouldNot says whether a line tells that something could not be done. It is
// meant for the last line of a log.
func CouldNot(line string) bool {
	return len(line) <= maxLine && couldNotBe.MatchString(pieces.Lower(line))
}
