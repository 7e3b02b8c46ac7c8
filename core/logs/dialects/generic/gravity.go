// This file tells how grave a line is where no level says it.

package generic

import (
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/ostexts"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
)

// longestLevel is the length of the longest word for a level, in bytes.
const longestLevel = 30

// levelMarks are signs with which a console shows how grave a line is.
var levelMarks = map[string]peel.Gravity{"(x)": peel.Error, "(X)": peel.Error, "(!)": peel.Warning, "(i)": peel.Info,
	"!!": peel.Error, "!!!": peel.Error, "[!!]": peel.Error, "✗": peel.Error, "✘": peel.Error,
	"❌": peel.Error, "✖": peel.Error, "⚠": peel.Warning, "[!]": peel.Warning, "✔": peel.Info, "✓": peel.Info, "✅": peel.Info,
	"!": peel.Warning, "X": peel.Error, "x": peel.Error, "i": peel.Info}

// plainLevels are words for how grave a line is that no sentence begins with.
var plainLevels = map[string]bool{"ERR": true, "WRN": true, "INF": true, "DBG": true, "FTL": true, "TRC": true, "VRB": true, "CRIT": true,
	"ERRO": true, "DEBU": true, "FATA": true, "ERROR": true, "WARN": true, "WARNING": true, "INFO": true, "DEBUG": true, "TRACE": true, "FATAL": true}

// levelWord reads a word for how grave a line is that it begins with, behind a
// number that counts the lines: "Hata: …", "[WARN] …", "327 verbose …".
func levelWord(text string) (g peel.Gravity, rest string) {
	for mark, g := range levelMarks {
		if rest, ok := strings.CutPrefix(strings.TrimLeft(text, " "), mark+" "); ok {
			return g, strings.TrimLeft(rest, " ")
		}
	}
	t := strings.TrimLeft(text, "0123456789 ")
	if len(t) != len(text) && !strings.HasPrefix(text[:len(text)-len(t)], " ") && !strings.HasSuffix(text[:len(text)-len(t)], " ") {
		return peel.Unknown, text
	}
	t = strings.TrimLeft(t, "[(<")
	end := strings.IndexAny(t, ":])> ")
	if wide := strings.Index(t, "："); wide >= 0 && (end < 0 || wide < end) {
		end = wide
	}
	if end < 3 || end > longestLevel {
		return peel.Unknown, text
	}
	w := t[:end]
	if t[end] == ' ' && plainLevels[w] && len(t) > end+1 && !(t[end+1] >= '0' && t[end+1] <= '9') { // "ERROR 5" names a number
		return peel.Level(w), strings.TrimLeft(t[end:], " ")
	}
	if t[end] == ' ' && len(t) >= len(text) { // a word of the sentence, unless a number or a bracket set it off
		return peel.Unknown, text
	}
	return peel.Level(w), strings.TrimLeft(t[end:], " :])>：")
}

// guess tells the kind of an entry without a level by its words.
func guess(text string) story.Kind {
	low := pieces.Lower(text)
	if endings.NoErrors.MatchString(low) {
		low = endings.NoErrors.ReplaceAllString(low, " ")
		text = low
	}
	said := endings.Read(text)
	if said.Fails || errorSet.Any(low) && !countsNone(low) {
		if said.Passed || said.Again || strings.Contains(low, "0 failed") || strings.Contains(low, "no error") {
			return story.KindText // not Info: that would tell that the log has levels
		}
		return story.KindError
	}
	if warningSet.Any(low) || ostexts.Any(low) {
		return story.KindWarning
	}
	if strings.ContainsAny(low, "0123456789") && strings.IndexByte(low, '.') > 0 {
		if m := programEnded.FindStringSubmatch(low); m != nil {
			if n, number := exitcode.Parse(m[1]); number && !exitcode.Good(n) {
				return story.KindWarning
			}
		}
	}
	// A value under the name of an error: "Fehler=1073".
	if name, value, ok := pair(text); ok && peel.Level(name) == peel.Error && !noError(strings.ToLower(value)) {
		return story.KindError
	}
	return story.KindText
}

// programEnded is a program by its file and what it gave back, in small
// letters: "vcredist_x64.exe returned 1603".
var programEnded = lazy.MustCompile(`[\pL\d_)+-]\.(?:exe|cmd|bat|com|ms[ip]|ps1|vbs|js|py|sh)["'”»]?(?: /\S+| -\S+)*[,:]? (?:->|=>|=|has |was )?\s?(?:returned|returns|ended with|ended|exited with|exits with|exit code|exited|gave back|gave|came back with|failed with|terminated with|finished with|left with|rc|result|liefert|endete mit|ergab|beendet mit|a rendu|a renvoyé|s'est terminé avec|se termine avec|devolvió|terminó con|ha restituito|terminato con|retornou|terminou com|gaf|eindigde met|zwrócił|zakończył się kodem|vrátil|skončil s|gav|avslutades med|döndürdü|вернул|завершился с кодом)?(?: (?:exit )?(?:code|result|status|value|kod|kód|code|código|codice|код))?\s?[:=]?\s?(-?\d{1,10}|0x[0-9a-f]{1,8})[.!)]?$`)

// countsNone says whether a line tells that there are no errors: "errors: 0".
func countsNone(low string) bool {
	for _, piece := range errorPieces {
		if at := strings.Index(low, piece); at >= 0 && !pieces.IsNo(pieces.ValueBehind(strings.TrimRight(low[at:], " "))) {
			return false
		}
	}
	return true
}

// noError says whether a value under the name of an error says that there is
// none.
func noError(value string) bool { return pieces.IsNo(value) || value == "ok" }

// What makes an error, or a warning, of a line without a level.
var (
	errorPieces = []string{"fatal", "error:", "error ", "exception", "failed", "failure", "panic", "traceback", "fehler:", "erreur", "errore", "ошибка", "エラー", "오류", "错误", "錯誤", "chyba:", "błąd", "hata:",
		"fehler in ", "fehler bei", "fehler während", "fout in ", "fout bij", "fout tijdens", "chyba v ", "chyba při", "fel i ", "fel vid", "erro no ", "erro na ", "erro ao ",
		"erro durante", "returned an error"}
	warningPieces = []string{"warn", "does not match", "mismatch", "denied", "could not", "cannot ", "unable", "refused", "not found", "missing",
		"requires elevation", "konnte nicht", "impossible", "no se pudo", "impossibile", "não foi possível", "kan niet", "nie można", "nelze",
		"kunde inte", "не удалось", "できません", "없습니다", "无法", "無法",
		// does not match
		"stimmt nicht", "ne correspond pas", "no coincide", "non corrisponde", "não corresponde", "komt niet overeen", "nie zgadza", "nesouhlasí",
		"stämmer inte", "eşleşmiyor", "не совпадает", "一致しません", "일치하지", "不匹配", "不一致",
		// denied
		"verweigert", "refusé", "denegado", "accesso negato", "acesso negado", "geweigerd", "odmowa", "odepřen", "nekad", "engellendi", "отказано",
		"拒否", "거부", "拒绝", "拒絕",
		// not found, missing
		"nicht gefunden", "introuvable", "no encontrad", "non trovat", "não encontrad", "niet gevonden", "nie znaleziono", "nenalezen",
		"hittades inte", "bulunamadı", "не найден", "見つかりません", "찾을 수 없", "找不到", "manquant", "ontbreekt", "brakuje", "chybí", "saknas",
		"отсутствует", "缺少",
		// was not done
		"non è riuscit", "не выполнен", "adımında hata"}

	errorSet, warningSet = pieces.New(errorPieces), pieces.New(warningPieces)
)
