// This file reads lines that give the result of the whole under a name.

package endings

import (
	"strings"

	"hollowkey/core/logs/lazy"
)

// isBadResult says whether a line, in small letters, is a result and nothing
// else, and a bad one.
func isBadResult(low string) bool { return badValues[resultValue(low)] && badResult.MatchString(low) }

// isGoodResult says whether a line, in small letters, is how all of it went and
// nothing else, and it went well.
func isGoodResult(low string) bool {
	return goodValues[resultValue(low)] && goodResult.MatchString(low)
}

// resultValue is what stands behind the last colon or equals sign of a short
// line; empty for others, which are nearly all, so that the expressions seldom
// run.
func resultValue(low string) string {
	if len(low) > longestResult {
		return ""
	}
	at := strings.LastIndexAny(low, ":=：")
	if at < 0 {
		return ""
	}
	return strings.Trim(low[at:], " :=：\"'.!,;\t\r")
}

// goodResult is such a line: "success: true", "overall result: ok". A bare
// "status: ok" may be a part's.
var goodResult = lazy.MustCompile(`^\W*(?:(?:the )?(?:setup|installation|install|installer|update|upgrade) (?:has )?(?:ended|finished|completed|ends|finishes) (?:with )?(?:the )?(?:result|status|outcome)["']?\s?[:=]\s?["']?(?:ok|success|successful|succeeded|good|0)|(?:(?:setup|installation|install|update)[ _-])?(?:success|succeeded|successful|erfolgreich|succès|éxito|successo|sucesso)["']?\s?[:=]\s?["']?(?:true|yes|ja|oui|sí|sì|sim)|` +
	`(?:overall|final|setup|installation|install|update|total)[ _-]?(?:result|outcome|status|state)["']?\s?[:=]\s?["']?(?:ok|success|successful|succeeded|passed|good|installed|0))["'.!,;]*\s*$`)

// longestResult is how many bytes such a line has at most: two words and their
// marks.
const longestResult = 60

// badResult is a line that gives how all of it went under a name, and nothing
// else: "Result = FAIL", "success: false". A bare "status: error" may be a
// part's, and "installed: no" what was looked for.
var badResult = lazy.MustCompile(`^\W*(?:(?:(?:overall|final|setup|installation|install|update|total)[ _-]?)?(?:result|outcome|ergebnis|résultat|resultado|risultato|esito|resultaat|wynik|výsledek|resultat|sonuç|результат|結果|결과|结果|(?:overall|final|setup|installation|install|update|total)[ _-]?(?:status|state))["']?\s?[:=：]\s?["']?(?:fail|failure|failed|error|ko|nok|not ok|unsuccessful|aborted|fehler|fehlgeschlagen|échec|error|errore|erro|fallido|fallito|falhou|fout|mislukt|błąd|chyba|fel|hata|ошибка|失敗|실패|失败|incomplete|partial|unvollständig|incomplète|incomplet|incompleto|onvolledig|niekompletny|neúplný|ofullständig|eksik|неполный|不完全|불완전|不完整)|` +
	`(?:success|succeeded|successful|erfolg|erfolgreich|succès|éxito|successo|sucesso|succes|sukces|úspěch|başarı|успех|成功|성공)["']?\s?[:=：]\s?["']?(?:false|no|0|nein|non|nie|ne|nej|nee|não|hayır|нет|いいえ|아니요|否))["'.!,;]*\s*$`)

// notSo ends what stands before a word for failing when nothing failed: "was
// not interrupted", "no installation was abandoned".
var notSo = lazy.MustCompile(`(?:^|[^\pL])(?:(?:not|never|nicht|nie|no|non|não|niet|ne|inte|не)(?: been)?|` +
	`(?:no|keine?|aucune?|ninguna?|nessuna?|nenhuma?|geen|ingen) [\pL-]+ (?:was|were|has been|wurde|a été|fue|è stat[ao]|foi|werd))\s$`)

// isFigure says whether a value begins with a figure: behind a word for failing
// it may be the code.
func isFigure(value string) bool { return value != "" && value[0] >= '0' && value[0] <= '9' }

// noRestart ends what stands before the words for a restart when none is due:
// "no restart needed".
var noRestart = lazy.MustCompile(`\b(?:no|without|kein|keine|keinen|ohne|aucun|sans|ningún|sin|nessun|senza|nenhum|sem|geen|zonder|ingen|bez|pas de|pas besoin de|pas nécessaire de|no se requiere|no es necesario|no hace falta|non è necessario|non occorre|não é necessário|não é preciso|nie trzeba|není třeba|не требуется|not need to|not necessary to|no se|no es|non è|non|não é|não|n'est pas|nicht|niet|nie jest|nie|není|не)(?: (?:further|system|computer|weiterer))? $`)

// noRestartBehind begins what stands behind the word for a restart that is not
// needed: "opnieuw opstarten is niet nodig", "omstart krävs inte",
// "перезагрузка не требуется".
var noRestartBehind = lazy.MustCompile(`^(?: (?:inte|ej|icke|niet|nicht|не)\b|\pL* ?(?:is |was )?(?:not (?:required|needed|necessary)|niet (?:nodig|vereist)|ist nicht (?:nötig|erforderlich)|n'est pas nécessaire|no es necesario|non è necessario|não é necessário|nie jest (?:wymagane|konieczne|potrzebne)|není (?:nutný|potřeba|nutné)|(?:krävs|behövs) (?:inte|ej)|не (?:требуется|нужна)|gerekli değil|gerekmiyor| ?(?:は|の)?必要(?:は|が)?(?:ありません|ない)| ?(?:할|이|가)? ?필요(?:가|는)? ?없))`)

// doneWord is a word for an end behind which stands how it went; "returned"
// leads to what it gave.
var doneWord = lazy.MustCompile(`^(?:is |was )?(?:done|finish(?:ed|es)?|completed?)$`)
