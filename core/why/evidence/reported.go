// This file takes the reason that a report of names and values gives outright.

package evidence

import (
	"hollowkey/core/logs/story"
)

// reasonKeys are names under which a report says why a setup failed, often
// behind its result.
var reasonKeys = map[string]bool{"reason": true, "cause": true, "error": true, "error text": true, "errortext": true, "last error": true, "lasterror": true,
	"error message": true, "errormessage": true, "failure": true, "failure reason": true, "details": true, "detail": true, "explanation": true, "problem": true,
	"grund": true, "ursache": true, "fehler": true, "fehlertext": true, "letzter fehler": true, "raison": true, "motif": true, "erreur": true, "motivo": true,
	"causa": true, "errore": true, "erro": true, "reden": true, "oorzaak": true, "fout": true, "przyczyna": true, "błąd": true, "důvod": true, "příčina": true,
	"chyba": true, "orsak": true, "fel": true, "neden": true, "hata": true, "причина": true, "ошибка": true, "理由": true, "原因": true, "エラー": true, "이유": true,
	"원인": true, "오류": true, "错误": true}

// IsReason says whether a name is one under which a report says why a setup
// failed.
func IsReason(name string) bool { return reasonKeys[lower(name)] }

// reasonsBehind is how many lines behind the result of a report its reason
// stands at most.
const reasonsBehind = 12

// reasons makes failures of what a report of names and values says to be the
// reason, wherever its result stands.
func (r *Run) reasons() {
	for i := range r.lines {
		l := &r.lines[i]
		if !IsReason(l.Source) || r.a.Success == nil || *r.a.Success || l.Kind <= story.KindWarning && l.pos <= r.end {
			continue
		}
		if l.pos-r.end <= reasonsBehind {
			l.reason = true
			r.end = max(r.end, l.pos)
		}
	}
}
