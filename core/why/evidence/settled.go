// This file takes lines out that name a trouble and say that it is settled.

package evidence

import (
	_ "embed"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
)

//go:embed settled.txt
var settledText string

// settledWords are those of settled.txt: with which a line ends that is fine,
// and which may stand before such a word.
var settledWords = sync.OnceValue(func() (w struct{ fine, before map[string]bool }) {
	w.fine, w.before = map[string]bool{}, map[string]bool{}
	for line := range strings.Lines(settledText) {
		f := strings.Fields(line)
		if len(f) == 0 || f[0] == "#" {
			continue
		}
		into := w.fine
		if f[0] == "before" {
			into = w.before
		}
		for _, word := range f[1:] {
			into[word] = true
		}
	}
	return w
})

// onlyTried begins a line that tells what a trial run would do: "dry run: file
// is in use".
var onlyTried = lazy.MustCompile(`^\W*(?:dry[- ]?run|simulat(?:ing|ion|ed)|would (?:warn|fail|be|have|copy|install|write|stop|remove|delete|set|ask)|probelauf|trockenlauf|würde (?:warnen|scheitern)|essai à blanc|simulación|simulacro|simulazione|simulação|proefrun|próba na sucho)\b`)

// insteadOf is what is taken in place of what could not be had, behind a mark:
// "port 8080 is in use, taking 8081".
var insteadOf = lazy.MustCompile(`[,;(–—-] ?(?:so )?(?:now )?(?:(?:using|taking|trying|switching to|switched to|falling back (?:to|on)|reverting to|defaulting to|es gilt|nehme|verwende|utilisation d|usando|utilizando) \S|(?:removed|created|deleted|recreated|reset|replaced|renamed)(?: it)?[.)]?$)`)

var (
	// goesOnWith is what makes up for it, behind a mark: "table does not exist,
	// creating it", "not found; will be created", "locked, opening it shared".
	// To go on without it, to try again, or to assume another value, does not:
	// that may be the cause of all.
	goesOnWith = lazy.MustCompile(`[,;(–—] ?(?:so |therefore |now |then )?(?:(?:re-?)?(?:creat|mak|install|download|fetch|copy|us|append|generat|initiali[sz]|build|repair|restor|sort|open|load)ing\b|running migrations\b|(?:it )?(?:will|to) be (?:created|made|installed|added|downloaded|fetched|copied|replaced|generated|initiali[sz]ed|used|skipped|ignored|retried|repaired)\b|` +
		`[\pL ]{0,20}\baccepted (?:without (?:it|them|one)|anyway|all the same|as (?:it )?is)\b|nothing to (?:do|stop|remove|delete|uninstall|clean|close|undo|migrate|copy)\b|(?:wird|werden) (?:angelegt|erstellt|übersprungen|ignoriert|neu (?:angelegt|erstellt)|heruntergeladen|installiert)\b|versuche erneut\b|nouvelle tentative\b|sera (?:créé|ignoré|téléchargé)|se (?:creará|omitirá|ignorará)|verrà (?:creat|ignorat))`)
	// takingAway is that what is to be stopped or removed is not there: all the
	// better.
	takingAway = lazy.MustCompile(`\b(?:stop|delet|remov|clos|kill|terminat|unregister|stopp|lösch|entfern|beend)\pL*\b.{0,80}(?:does not exist|doesn't exist|did not exist|not there|was not there|not installed|not registered|not running|was not running|already (?:gone|stopped|removed|deleted|closed)|not started|existiert nicht|nicht vorhanden|läuft nicht|nicht installiert)\W*$`)
	// isNot ends a question or a check with no: "registry is damaged? no", "an
	// instance is running: no".
	isNot = lazy.MustCompile(`(?:\?|\b(?:is|are|was|were|running|pending|found|present|detected|needed|required|installed|damaged|locked|missing|blocked|codes?|errors?|warnings?|conflicts?)[^:?]{0,20}:) ?(?:no|none|nein|keine?r?|non|ninguno|nessuno|nenhum)\W*$`)
)

// allTheSame says whether a line, in small letters, tells of what is done in
// spite of what it names, or that nothing needs to be.
func allTheSame(lower string) bool {
	return goesOnWith.MatchString(lower) || takingAway.MatchString(lower) || isNot.MatchString(lower)
}

// longestFine is how many bytes the last word of a line has that may say that
// all is well.
const longestFine = 24

// mostBefore is how many words stand between a mark and that word: "but has
// already been".
const mostBefore = 4

// settled says whether a line, in small letters, names something and says
// behind a mark that all is well with it: "program requires administrator
// rights: granted", "a restart was pending, now cleared".
func settled(lower string) bool {
	if onlyTried.MatchString(lower) || insteadOf.MatchString(lower) || allTheSame(lower) {
		return true
	}
	rest := strings.TrimRight(lower, " \t\r\n.!)]}\"'。")
	words := settledWords()
	rest, word := lastWord(rest)
	if word == "" || len(word) > longestFine || !words.fine[word] {
		return false
	}
	for range mostBefore + 1 {
		rest = strings.TrimRight(rest, " ")
		if rest == "" {
			return false
		}
		if last, _ := utf8.DecodeLastRuneInString(rest); strings.ContainsRune(":=?,;–—>-→(：，？", last) {
			return true
		}
		if rest, word = lastWord(rest); !words.before[word] {
			return false
		}
	}
	return false
}

// lastWord parts a text from the letters that it ends with.
func lastWord(s string) (rest, word string) {
	rest = strings.TrimRightFunc(s, func(c rune) bool { return unicode.IsLetter(c) })
	return rest, s[len(rest):]
}

// passes says whether a line says of itself that what it tells does not matter:
// in words, or, below an error, since it is settled.
func passes(m *story.Message, lower string, said endings.Reading) bool {
	return said.Passed || m.Kind >= story.KindWarning && settled(lower)
}
