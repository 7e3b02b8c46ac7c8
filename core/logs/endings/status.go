// This file reads the word behind "finished with status": that it finished does
// not say how.

package endings

import (
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// endedSo is an end with the status that it had, in words, at the end of a
// line: "setup finished with status abort", "completed (state: rejected)".
var endedSo = lazy.MustCompile(`\b(?:finish(?:ed|es)?|complete[ds]?|ended|ends|done|closed|beendet|abgeschlossen|terminée?|achevée?|finalizad[ao]|finaliz[oó]|terminad[ao]|termin[oó]|complet[oó]|terminou|concluiu|endete|terminat[ao]|completat[ao]|concluíd[ao]|voltooid|beëindigd|zakończon[ao]|dokončen[ao]?|avslutad|slutförd)` +
	`["']?[\s,.;:(\[-]{1,4}(?:(?:with|in|mit|im|avec|con|com|met|z|ze|s|se|med) )?(?:(?:the|a|an|dem|der|le|el|lo|o|de) )?(?:(?:final|overall|exit|end|return|result) )?` +
	`(?:status|state|result|outcome|verdict|value|code|zustand|ergebnis|état|statut|résultat|estado|resultado|stato|risultato|esito|toestand|resultaat|stan(?:em)?|wynik(?:iem)?|stav(?:em)?|výsledek|výsledkem|tillstånd|resultat)(?: code| value)?` +
	`["']?\s?[:=]?\s?["'([]?([\pL_][\pL_-]*(?: [\pL-]+){0,2})["')\].!;,\s]*$`)

// endedBadly is an end with a bad word right behind it: "setup finished:
// abort".
var endedBadly = lazy.MustCompile(`\b(?:finish(?:ed|es)?|complete[ds]?|ended|done|closed|beendet|abgeschlossen)["']?\s?(?:[:=]|->|-|\()\s?["'(\[]?([\pL_]+)["')\].!\s]*$`)

// The words of a status. What is in neither list says nothing: the line then
// tells of an end, and not how it went.
var (
	goodStatus = lazy.MustCompile(`^(?:ok|okay|success\w*|succeeded|pass(?:ed)?|done|good|fine|green|complete[d]?|finished|installed|updated|upgraded|removed|uninstalled|repaired|configured|applied|deployed|registered|activated|enabled|verified|ready|valid|healthy|positive|unchanged|up[- ]to[- ]date|already \w+|nothing to (?:do|install|change)|no changes?|positiv[oa]|current|true|yes|ja|oui|sí|sì|sim|normal(?:ly)?|clean(?:ly)?|null|none|no (?:errors?|problems?|failures?|issues?)|(?:with )?warnings?|s_ok|error_success|(?:error_success_)?(?:reboot|restart)(?:_required|_initiated| required| needed| pending)?|erfolg\w*|réussie?|succès|éxito|exitos[ao]|correct[ao]?|successo|riuscit[ao]|sucesso|geslaagd|gelukt|sukces|powodzenie|úspěch|úspěšně|lyckad\w*|klar[ta]?)\b`)
	badStatus  = lazy.MustCompile(`^(?:abort\w*|bad|no|nok|ko|not \w+|un(?:success\w*|finished|usable|met)|stop(?:ped)?|halt(?:ed)?|block(?:ed)?|kill(?:ed)?|crash(?:ed)?|time(?:d)?[ _-]?out|den(?:y|ied)|refused?|reject(?:ed)?|declined|invalid|broken|incomplete|partial(?:ly)?|roll(?:ed)?[ _-]?back|reverted|undone|fail\w*|fatal\w*|faulted|error(?:s|ed)?|e_\w+|error_\w+|red|critical|fehl\w*|abbruch|abgebrochen|gescheitert|échec|échouée?|erreur|annulée?|fallid[ao]|error|abortad[ao]|fallit[ao]|errore|interrott[ao]|falh\w+|erro|mislukt|fout|afgebroken|błąd|niepowodzenie|przerwan[ao]|chyba|selhal[ao]?|přerušen[ao]?|fel|misslyckad\w*|avbruten)$`)
)

// saidStatus is the word behind an end of a line in small letters, and whether
// it tells a good end, a bad one, or neither. Empty where no word stands there.
func saidStatus(low string) (word string, good, bad bool) {
	if len(low) > maxLine {
		return "", false, false
	}
	if f := endedSo.FindStringSubmatch(low); f != nil {
		word = f[1]
		good = goodStatus.MatchString(word)
		return word, good, !good && badStatus.MatchString(word)
	}
	if f := endedBadly.FindStringSubmatch(low); f != nil && badStatus.MatchString(f[1]) {
		return f[1], false, true
	}
	return "", false, false
}

// OtherStatus says whether a line tells of an end with a status that is no good
// one: a bad one, or one that nobody knows.
func OtherStatus(line string) bool {
	word, good, _ := saidStatus(pieces.Lower(line))
	return word != "" && !good
}

// withStatus corrects what a line says by the word of its status: a good one
// makes the end of a setup a good one, a bad one a failure, and one that nobody
// knows leaves open how it went.
func (r *Reading) withStatus(low string, ofSetup bool) {
	word, good, bad := saidStatus(low)
	if word == "" {
		return
	}
	if good {
		r.Worked = r.Worked || ofSetup && !r.Fails && !r.Cancelled
		return
	}
	r.Worked, r.Ready, r.Passed = false, false, false
	switch {
	case strings.HasPrefix(word, "cancel"):
		r.Cancelled = true
	case bad:
		r.Fails, r.Failed = true, r.Failed || ofSetup
	}
}
