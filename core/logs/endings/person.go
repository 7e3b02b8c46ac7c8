// This file tells that a person stopped what ran, and what only tidies up
// behind a failure.

package endings

import (
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// That a person stopped a setup is told in few words that mean something else
// anywhere but near its end: "closed by the operator", "answer: no", "^C".

var (
	// personDid is somebody, and what stops a setup, in this order; byPerson is
	// the other way round.
	personDid = lazy.MustCompile(`\b(?:user|operator|technician|admin|administrator|customer|person(?: at the \pL+)?|you|somebody|someone|benutzer|anwender|bediener|techniker|utilisateur|opérateur|technicien|usuario|operador|técnico|utente|operatore|tecnico|usuário|utilizador|gebruiker|użytkownik|operator|uživatel|användaren?|kullanıcı)` +
		`(?:(?: hat| heeft)? (?:das|die|den|het|de) (?:fenster|setup|installation|dialog|venster|installatie)| pencereyi| kurulumu)?(?: (?:has|have|had|did|does|chose|wants?|wanted|hat|haben|a|ha|heeft|hat den|har|at|with|to|then|just|not)){0,3} ["'“]?(?:cancell?\w*|abort\w*|(?:stop\w*|clos(?:ed|es|ing)|exit\w*|left|leaves|ended)(?: (?:the |this )?(?:wizard|set-?up|window|dialog|install\w*|program|page|session|update\w*|form|application|process|deployment)\b|["'”]?[.!)]?$|[,;:])|quits?|abandon\w*|dismiss\w*|declin\w*|refus\w*|reject\w*|interrupt\w*|terminat\w*|kill\w*|back(?:s|ed) out|gave up|gives up|withdr\w+|pressed (?:esc|escape|cancel|ctrl)\w*|hit (?:esc|escape|cancel|ctrl)\w*|said no|answer\w* no|answer\w* with no|do(?:es)? not continue|` +
		`abgebrochen|bricht ab|brach ab|beendet|geschlossen|abgelehnt|annulé|interrompu|quitté|fermé|refusé|cancel(?:ó|ado)|cerró|interrumpió|rechazó|annullato|interrotto|chiuso|rifiutato|cancelou|fechou|interrompeu|recusou|geannuleerd|afgebroken|gesloten|geweigerd|anulował|przerwał|zamknął|odrzucił|zrušil|přerušil|zavřel|odmítl|avbröt|stängde|nekade|iptal etti|kapattı|reddetti)`)
	byPerson = lazy.MustCompile(`\b(?:cancell?ed|cancellation|aborted?|stopped|stop|closed?|quit|exit\w*|left|ended|dismissed|declined|refused|rejected|interrupted|terminated|killed|abandoned|shutdown|abgebrochen|beendet|geschlossen|abgelehnt|gestoppt|annulée?|interrompue?|fermée?|refusée?|arrêtée?|cancelad[oa]|cerrad[oa]|interrumpid[oa]|detenid[oa]|annullat[oa]|chius[oa]|interrott[oa]|fechad[oa]|interrompid[oa]|geannuleerd|afgebroken|gesloten|anulowan[oae]|przerwan[oae]|zamknięt[oae]|zrušen[oa]|přerušen[oa]|zavřen[oa]|avbruten|avbröts|stängd)\b` +
		`[^.;]{0,40}?\b(?:by|from|at|on request of|requested by|vom|von|durch den|durch|par|por|da|dal|dall['’]|door|przez|av)\b ?(?:the |an? |l['’]|le |la |el |o |de |het )?(?:user|operator|technician|admin|administrator|customer|person|console|keyboard|tray icon|benutzer|anwender|bediener|techniker|utilisateur|opérateur|usuario|operador|utente|operatore|usuário|utilizador|gebruiker|użytkownika|operatora|användaren)(?:["'”]?[.,;:!)\]]|$| (?:in|at|on|from|while|during|with|after|before|request)\b)|` +
		`(?:fermé|annulé|interrompu|arrêté|refusé)e? par (?:l['’]utilisateur|l['’]opérateur|l['’]administrateur)|(?:cancelad|fechad|interrompid|encerrad)[oa] pel[oa] (?:usuári|utilizador|operador|técnic)|(?:stängt|avbrutet|avbrutits) av |abbruch durch (?:den |die )?(?:benutzer|anwender|bediener|techniker)|` +
		`\b(?:zrušen[oa]|přerušen[oa]|zavřen[oa]) uživatelem\b|\bkullanıcı tarafından (?:iptal|durduruldu|kapatıldı)|(?:отменен[оа]?|отменён|прерван[оа]?|закрыт[оа]?) (?:пользователем|оператором)|(?:пользователь|оператор) (?:отменил|прервал|закрыл|отказался)|ユーザーが.{0,12}(?:閉じ|中止|中断|キャンセル|終了)|사용자가.{0,8}(?:닫|취소|중단|중지|종료)|(?:用户|使用者)(?:已)?(?:关闭|關閉|取消|中止|退出|拒绝|拒絕)`)
	// answeredNo is what was answered, chosen or pressed, at the end of a line.
	answeredNo = lazy.MustCompile(`(?:\b(?:answer|answered|reply|response|choice|selection|selected|chosen|buttons?|clicked|pressed|chose|antwort|auswahl|schaltfläche|réponse|choix|bouton|respuesta|elección|botón|risposta|scelta|pulsante|resposta|escolha|botão|antwoord|keuze|knop|odpowiedź|wybór|odpověď|volba|svar|val|yanıt|seçim)\b|odpowiedź|odpověď|réponse|elección|botón|ответ|выбор|кнопка|\[y/n\]|\(y/n\)|\[j/n\]|\[o/n\]|\[s/n\]|\[ja/nein\]|回答|応答|選択|选择|選擇|응답|선택)` +
		`[ :=.→>(\["'“0-9：＝「]{1,8}(?:with )?["'“]?(?:cancel|abort|quit|exit|stop|no?|idcancel|idno|idabort|idclose|decline|reject|refuse|abbrechen|abbruch|nein|annuler|non|cancelar|anular|annulla|annuleren|nee|anuluj|nie|zrušit|ne|avbryt|nej|iptal|hayır|отмена|нет|キャンセル|中止|いいえ|취소|아니요|取消|否|不|não)["'”.)\]」。]{0,2}$|\b(?:result|dialogresult|messagebox\w*|input|decision|returned)\b[ :=.→>(\["'“0-9：＝「]{1,8}(?:cancel|abort|idcancel|idno|idabort|idclose|abbrechen|annuler|cancelar|annulla)["'”.)\]]{0,2}$`)
	// interruptedBy is what a program gets when somebody stops it from outside.
	interruptedBy = lazy.MustCompile(`^\W*\^c\b|\bsigint\b|\bkeyboardinterrupt\b|\bctrl[-+ ]?c\b|\bstrg[-+]c\b|\bctrl_(?:c|break|close|logoff|shutdown)_event\b|\bwm_(?:close|quit|endsession|queryendsession)\b|\besc(?:ape)? (?:was )?(?:pressed|hit)\b|` +
		`\b(?:cancel(?:lation)?|abort|stop) (?:was |is )?requested\b|\brequest(?:ed)? to (?:cancel|abort|stop)\b|\bcancell?ed from (?:the )?tray\b|\bcancel button(?:$|[.,;:!)])|\b(?:logoff|log off|user logged off|session end(?:ed|ing)) (?:during|while|in the middle)\b|` +
		`\buser[ _-]?(?:exit|abort|cancel|quit|stop|break)(?:$|[.,;:!)])|\b(?:user|operator|customer|you) (?:did|does|has|have)(?: not|n['’]t) (?:accept|agree|confirm)\w*|\buser requested (?:cancel|abort|stop)\w*|\b(?:licen[cs]e|terms|eula|agreement)(?: agreement| terms| conditions)?(?: was| were| has been)? (?:declined|refused)\b|\b(?:uac|elevation)(?: prompt| request| dialog)?\b[\pL ]{0,24}\b(?:declined|refused|denied by|dismissed|answered with no|answered no|cancelled)\b`)
	// reallyYes is the question whether somebody really wants to stop, and that
	// the answer was yes; or that a window was closed, or its button pressed.
	reallyYes = lazy.MustCompile(`(?:->|=>|→|[:=]|\b(?:chose|chosen|clicked|pressed|selected|answer(?:ed)?|gewählt|choisi|elegido|scelto)\b) ?["'“«„]?(?:i (?:do not|don['’]t) (?:agree|accept)|i (?:decline|disagree|refuse)|ich (?:lehne ab|stimme nicht zu|akzeptiere nicht)|je n['’]accepte pas|je refuse|no acepto|no estoy de acuerdo|non accetto|não (?:aceito|concordo)|ik ga niet akkoord|nie (?:akceptuję|zgadzam się)|nesouhlasím|nepřijímám|jag (?:accepterar|godkänner) inte|kabul etmiyorum|(?:я )?не (?:принимаю|согласен)|同意しません|同意しない|동의하지 않|不同意|不接受)|` +
		`\b(?:really|are you sure|sure you want|wirklich|voulez-vous vraiment|vraiment|realmente|de verdad|davvero|sicuro di|tem certeza|weet u zeker|czy na pewno|opravdu|vill du verkligen|emin misiniz)\b.{0,60}[?？]["'”»]?[ :=.→>(\[-]{1,6}["'“]?(?:yes|y|ja|j|oui|o|sí|si|sì|s|sim|tak|ano|evet|ok|idyes|да|はい|예|是)["'”.)\]]{0,2}$|(?:действительно|вы уверены).{0,60}\?["»]?[ :=.→>-]{1,6}да|` +
		`^(?:the )?(?:x|cross|close button|close box|red x|window close|title ?bar x) (?:was |is )?(?:clicked|pressed|hit|used)\b|\b(?:clicked|pressed|hit) (?:on )?(?:the )?(?:x|cross|red x|close button|close box)\b|\bwindow (?:was )?closed (?:by|via|with) (?:the )?(?:x|cross|user|close button|alt.?f4)\b|\balt[ +-]?f4\b|` +
		`^(?:\[?(?:ui|gui|dialog|wizard|page|form|window)\]?[ :>-]{1,3})?(?:cancel|idcancel|abbrechen|annuler|cancelar|annulla|annuleren|anuluj|zrušit|avbryt|iptal|отмена|キャンセル|취소|取消)[.!]?$|` +
		`\b(?:button|btn|key|knopf|schaltfläche|bouton|botón|pulsante|botão|knop|przycisk|tlačítko|knapp|düğme)[ :=#]{1,3}\d{0,4} ?[("'\[]?(?:id)?(?:cancel|abort|abbrechen|annuler|cancelar|annulla|annuleren|anuluj|zrušit|avbryt|iptal)[)"'\]]?[.!]?$|` +
		`\b(?:button|btn|schaltfläche|bouton|botón|pulsante|botão|knop|przycisk|tlačítko|knapp|düğme)[ :=]{1,2}["'„“«‹](?:cancel|abort|abbrechen|annuler|cancelar|annulla|annuleren|anuluj|zrušit|avbryt|iptal)["'“”»›]|` +
		`\b(?:wizard|dialog|set-?up|window|installer) (?:was )?(?:left|quit|abandoned|dismissed|cancell?ed)(?: (?:on|at|in|from) (?:the )?(?:page|step|screen|panel|dialog)\b.{0,30})?$|\b(?:stop|cancel|abort|quit) (?:was )?(?:asked for|wanted|wished)\b|\b(?:abort|cancel|quit|stop|exit)(?: \pL+){0,3}\? ?[:=>-]{0,2} ?(?:y|yes|ja|oui|si|sí|sim)[.!]?$`)
	// noPerson is what such words are of, too: what did not happen, what is
	// asked of a person, and what the program did by itself.
	noPerson = lazy.MustCompile(`\b(?:not|never|no one|nobody|without|if|unless|when|until|may|can|cannot|could|would|should|must|please|before|press|click|timed? ?out|unattended|silent|quiet|suppressed|default|auto\w*|non-?interactive|handler|hook|installed|registered|enabled|disabled|ignored|splash|tooltip|help|readme|notepad|browser|file|folder|connection|socket|log)\b.{0,40}\b(?:clos|cancel|stop|abort|answer|press|exit|sigint|ctrl)|\bby (?:an? |the )?(?:setup|installer|program|script|timeout|default|watchdog|rule|check|policy|condition|requirement|time limit)\b|\bmay not\b|\b(?:handler|hook)\b|\bno (?:user|operator|person)\b|\b(?:restart|reboot)|neustart|redémarr|reinici|riavvi|herstart|uruchom\w* ponownie|restartov|starta om|yeniden başlat|перезагруз|再起動|재시작|重启|重新启动`)
)

// ByPerson says whether a line tells that a person stopped what ran. It is
// meant for the last lines of a run: anywhere else such words are about a part.
func ByPerson(line string) bool {
	low := strings.TrimSpace(pieces.Lower(line))
	if len(low) > maxLine || noPerson.MatchString(low) {
		return false
	}
	for _, x := range []*lazy.Regexp{personDid, byPerson, answeredNo, interruptedBy, reallyYes} {
		if x.MatchString(low) {
			return true
		}
	}
	return false
}

// unwinds begins a line that tells that something is taken back or tidied up.
var unwinds = lazy.MustCompile(`^\W*(?:gone[.!]?$|(?:all )?(?:\d+ |the )?(?:(?:files?|folders?|entries|items?|keys?|values?|changes?|things|components?|parts?|services?|shortcuts?) )?(?:(?:was|were|is|are|have been|has been) )?(?:taken (?:away|back|out)|removed|deleted|undone|reverted|rolled back|put back|cleared)\b|(?:(?:step|action) )?(?:tak(?:ing|en|e|es) back|took back|remov\w+|delet\w+|clean\w*|tidy\w*|undo\w*|undid|revert\w*|restor\w+|roll\w*|unregister\w*|uninstall\w*|discard\w*|drop\w*|unwind\w*|back(?:ing|ed) out|put(?:ting)? back|temporary|leav\w+|clos\w+|` +
	`zurück\w*|entfern\w+|lösch\w+|gelöscht|aufräum\w*|rückgängig|wiederher\w+|annulation|suppression|supprim\w+|restaur\w+|nettoy\w+|retour|desha\w+|revirt\w+|elimin\w+|limpi\w+|restaur\w+|annull\w+|rimoz\w+|rimoss\w+|ripristin\w+|pulizia|desfa\w+|remoç\w+|remov\w+|` +
	`terugdraai\w*|verwijder\w*|opruim\w*|herstel\w*|wycof\w+|usuw\w+|usuni\w+|przywrac\w+|vrací\w*|odstra\w+|obnov\w+|återställ\w*|ta(?:r|git)? bort|geri al\w*|sil(?:in|iy)\w*|откат|удал\pL+|восстан\pL+|ロールバック|元に戻|削除|복원|롤백|삭제|回滚|撤销|还原|删除))`)

// Unwinds says whether a line is one of those behind the place where a run was
// given up: that it ends, or what is taken back.
func Unwinds(line string) bool {
	low := strings.TrimSpace(pieces.Lower(line))
	if len(low) > maxLine {
		return false
	}
	said := Read(line)
	return said.GivesUp || said.Ends || said.Exit != nil || said.Failed || said.Cancelled || onlyOfEnds(low) || unwinds.MatchString(low)
}
