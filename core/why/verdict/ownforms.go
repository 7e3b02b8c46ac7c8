// This file learns from a log itself how it tells steps, where no known form
// fits.

package verdict

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/evidence"
)

// A program tells its steps in a form of its own, and keeps to it: ">> copy
// files", "<< copy files". The form is learned from the log: what changes from
// step to step is the step's name, whatever stands around it.

const (
	formBack   = 800 // messages before the failure that are looked at: the steps of a setup, not its whole life
	formBytes  = 120 // of a line; a step is not told in a paragraph
	formSide   = 4   // tokens that stand behind a name
	formLead   = 6   // and before it
	formWords  = 5   // of a name
	formClosed = 2   // so many steps that ended, or went well, show that a form is one
	formHeads  = 3   // so many steps in a form that tells no ends
	formAfter  = 6   // messages behind the failure in which its step is told to have failed
)

// A form is what stands before and behind a name.
type form struct{ head, tail string }

// A told form is one message read in a form.
type toldForm struct {
	form
	name   string
	number int // what counts in the head; 0 for none
	at     int // its place among the messages
}

// tokensOf parts a text into words and signs; the numbers that count are one
// sign.
func tokensOf(text string) (tokens []string) {
	for text != "" {
		c, n := utf8.DecodeRuneInString(text)
		switch {
		case unicode.IsSpace(c):
			text = text[n:]
			continue
		case unicode.IsLetter(c) || unicode.IsDigit(c) || c == '_':
			n = strings.IndexFunc(text, func(c rune) bool {
				return !unicode.IsLetter(c) && !unicode.IsDigit(c) && !strings.ContainsRune("_-.+&/", c)
			})
			if n < 0 {
				n = len(text)
			}
			n = len(strings.TrimRight(text[:n], ".-/"))
		default: // a run of one sign: ***, ...
			n = len(text) - len(strings.TrimLeft(text, string(c)))
		}
		tokens, text = append(tokens, text[:n]), text[n:]
	}
	return tokens
}

// formsOf lists the ways in which a text can be a name in a form.
func formsOf(text string, at int) (all []toldForm) {
	tokens := tokensOf(text)
	for from := 0; from <= min(formLead, len(tokens)-1); from++ {
		for to := len(tokens); to > from && to >= len(tokens)-formSide; to-- {
			if from == 0 && to == len(tokens) || to-from > formWords {
				continue
			}
			if name, ok := stepName(tokens[from:to]); ok {
				head, tail := tokens[:from], tokens[to:]
				all = append(all, toldForm{form{folded(head), folded(tail)}, name, cmp.Or(numberIn(head), numberIn(tail)), at})
			}
		}
	}
	return all
}

// folded joins the tokens of a form; what only counts is one sign, but for none
// at all: that is a result.
func folded(tokens []string) string {
	all := slices.Clone(tokens)
	for i, t := range all {
		if strings.Trim(t, "0123456789./") == "" && strings.ContainsAny(t, "0123456789") && t != "0" {
			all[i] = "#"
		}
	}
	return strings.Join(all, " ")
}

// numberIn is the first number among some tokens.
func numberIn(tokens []string) int {
	for _, t := range tokens {
		if n, err := strconv.Atoi(strings.TrimRight(t, ".")); err == nil {
			return n
		}
	}
	return 0
}

// stepName joins the words of a name. A sign within is none, and neither is a
// file, a path or a number.
func stepName(words []string) (name string, ok bool) {
	letters := 0
	for _, w := range words {
		if c, _ := utf8.DecodeRuneInString(w); !unicode.IsLetter(c) && !unicode.IsDigit(c) {
			return "", false
		}
		letters += strings.IndexFunc(w+" ", unicode.IsSpace)
	}
	first, _ := utf8.DecodeRuneInString(words[0])
	if name = strings.Join(words, " "); letters < 3 || !unicode.IsLetter(first) || len(names.In(name)) == 1 && isFile(name) {
		return "", false
	}
	return name, true
}

// toldForms are the messages before the failure, by the forms that they can be
// read in, and the place of the first that tells the failure; nil where there
// are none.
func (j *judge) toldForms() (by map[form][]toldForm, end int) {
	if len(j.anchor) == 0 {
		return nil, 0
	}
	end, found := slices.BinarySearchFunc(j.a.Messages, j.anchor[0].Line, func(m *story.Message, line int) int { return m.Line - line })
	if !found || end == 0 {
		return nil, 0
	}
	by = map[form][]toldForm{}
	for i := max(0, end-formBack); i < end; i++ {
		m := j.a.Messages[i]
		if text := formText(m); text != "" && m.Kind > story.KindWarning {
			for _, f := range formsOf(text, i) {
				by[f.form] = append(by[f.form], f)
			}
		}
	}
	return by, end
}

// ownForms is the step under way when a run broke, as the log's own forms tell
// its end or that it has none; empty where they do not.
func (j *judge) ownForms() string {
	by, end := j.toldForms()
	if by == nil {
		return ""
	}
	return cmp.Or(j.toldFailed(by, end), openStep(by))
}

// lastHead is the step whose head stands last before the failure, among several
// heads of one form; empty where there are none: "*** copy files ***", "3. copy
// files", "section copy files".
func (j *judge) lastHead() string {
	by, _ := j.toldForms()
	best := toldForm{at: -1}
	for f, all := range by {
		last := all[len(all)-1]
		if len(all) < formHeads || distinct(all) < len(all) || last.at < best.at || last.at == best.at && len(last.name) <= len(best.name) {
			continue
		}
		if rises(all) || apart(all) && (adorned(f) || headed(f.head) && strings.Trim(f.tail, " .…") == "") {
			best = last
		}
	}
	return best.name
}

// headed says whether a form's head is of words for what is done next.
func headed(head string) bool {
	words := strings.FieldsFunc(strings.ToLower(head), func(c rune) bool { return strings.ContainsRune(" :=->#[", c) })
	return len(words) > 0 && !slices.ContainsFunc(words, func(w string) bool { return !headNouns[w] })
}

// rises says whether each head counts one step more, or more of the way, than
// the one before.
func rises(all []toldForm) bool {
	for i, f := range all {
		if f.number == 0 || i > 0 && f.number <= all[i-1].number {
			return false
		}
	}
	return true
}

// apart says whether other messages stand between the heads: what stands one
// below the other is a list.
func apart(all []toldForm) bool {
	for i := 1; i < len(all); i++ {
		if all[i].at == all[i-1].at+1 {
			return false
		}
	}
	return true
}

// adorned says whether signs alone set a name off: "*** copy files ***", "---
// copy files".
func adorned(f form) bool {
	signs := f.head + f.tail
	return signs != "" && strings.Trim(signs, "*-=#~>+_ ") == "" || f.head == "" && (f.tail == ":" || f.tail == "{")
}

// headNouns are words before the name of what is done next.
var headNouns = wordSet(`section state now do doing area topic chapter routine procedure unit op operation activity block module part role layer
	target pass round item function subtask abschnitt teil bereich rubrik section partie sección sezione seção sectie sekcja sekce avsnitt bölüm раздел`)

// formText is the line that a message is read from; empty where it is none of a
// step.
func formText(m *story.Message) string {
	text := firstLine(m.Text)
	if len(text) > formBytes || goesOn(m) {
		return ""
	}
	if partOf(m) && len(strings.Fields(text)) <= formSide { // "[copy files] begin"
		return m.Source + ": " + text
	}
	return text
}

// goesOn says whether a message has further lines in the log; the fields of a
// record are none.
func goesOn(m *story.Message) bool {
	return slices.ContainsFunc(m.Further, func(line int) bool { return line != m.Line })
}

// openStep is the last step that began and did not end: of two forms in which
// the same names stand by turns the first begins, the second ends.
func openStep(by map[form][]toldForm) string {
	best := toldForm{at: -1}
	for opens, begun := range by {
		if len(begun) <= formClosed || begun[len(begun)-1].at < best.at {
			continue
		}
		last := begun[len(begun)-1]
		for closes, ended := range by {
			if closes == opens || len(ended) != len(begun)-1 || distinct(begun) < len(begun) { // a step is not done twice
				continue
			}
			if paired(begun, ended) && (last.at > best.at || last.at == best.at && len(last.name) > len(best.name)) {
				best = last
			}
		}
	}
	return best.name
}

// paired says whether each name that began in one form ended in another before
// the next began, but for the last.
func paired(begun, ended []toldForm) bool {
	for i, e := range ended {
		if e.name != begun[i].name || e.at <= begun[i].at || e.at > begun[i+1].at {
			return false
		}
	}
	return true
}

// toldFailed is the step that the lines at the failure tell to have failed, in
// a form in which others were told to have gone well: "unpack: ok", "register:
// failed".
func (j *judge) toldFailed(by map[form][]toldForm, from int) string {
	for i, seen := from, 0; i < len(j.a.Messages) && seen < formAfter; i++ {
		m := j.a.Messages[i]
		text := formText(m)
		if text == "" || m.Verdict || m.Rollback {
			continue
		}
		seen++
		if m.Kind <= story.KindError && text == firstLine(m.Text) && isStep(text) && listed(j.a.Messages[:from]) { // the level tells how it went
			return text
		}
		for _, f := range formsOf(text, i) {
			if numberIn(tokensOf(f.name)) > 0 { // the number of a step, which has a name elsewhere
				continue
			}
			for well, all := range by {
				before, behind := f.head != well.head, f.tail != well.tail
				if before == behind || distinct(all) < formClosed || slices.ContainsFunc(all, func(o toldForm) bool { return o.name == f.name }) {
					continue
				}
				other, was := f.tail, well.tail
				if before {
					other, was = f.head, well.head
				}
				if fails(other) && wentWell(was) || strings.HasSuffix(other, "= #") && was == strings.TrimSuffix(other, "#")+"0" {
					return f.name
				}
			}
		}
	}
	return ""
}

// isStep says whether a text is the name of a step, and nothing else.
func isStep(text string) bool {
	tokens := tokensOf(text)
	if len(tokens) == 0 || len(tokens) > formWords-1 {
		return false
	}
	_, ok := stepName(tokens)
	if c, _ := utf8.DecodeRuneInString(text); len(tokens) > 1 && unicode.IsLower(c) { // a remark
		return false
	}
	if last := strings.ToLower(tokens[len(tokens)-1]); wellSigns[last] || last == "installed" || last == "skipped" {
		return false
	}
	said := endings.Read(text)
	return ok && !signed(text, failSigns) && said.Exit == nil && !said.Fails && !said.Ends && len(evidence.CluesIn(strings.ToLower(text))) == 0
}

// listed says whether the last messages name steps and nothing else, so many at
// least as make a form.
func listed(before []*story.Message) bool {
	n := 0
	for i := len(before) - 1; i >= 0 && i >= len(before)-formBack && n < formClosed; i-- {
		if m := before[i]; m.Kind > story.KindWarning && isStep(m.Text) {
			n++
		}
	}
	return n >= formClosed
}

// fails says whether what stands beside a name tells that it failed, and
// wentWell that it did not: "failed after 3 s", "took 3 s".
func fails(side string) bool { return signed(side, failSigns) }

// wentWell says whether one side of a vendor's own form says that it went well.
func wentWell(side string) bool { return signed(side, wellSigns) }

// signed says whether what stands beside a name begins with one of some signs,
// and is no sentence.
func signed(side string, signs map[string]bool) bool {
	side = strings.TrimLeft(strings.ToLower(side), "[]() :.-=>")
	if at := strings.IndexAny(side, " ]):"); at >= 0 {
		if strings.Count(side, " ") >= formSide {
			return false
		}
		side = side[:at]
	}
	return signs[side]
}

// failSigns are what stands beside the name of a step that failed, and
// wellSigns beside one that went well.
var (
	failSigns = wordSet(`fail failed fails error err ko nok ! !! x ✗ ✘ × aborted abort fehler fehlgeschlagen abgebrochen broken stopped bad erreur échec
		échoué errore fallito erro falhou fallido falló fout mislukt błąd niepowodzenie chyba selhalo fel misslyckades hata başarısız ошибка сбой 失敗 失败 실패 错误 エラー`)
	wellSigns = wordSet(`ok okay done pass passed success succeeded successful completed complete finished + ✓ ✔ √ took in fertig erledigt erfolgreich beendet terminé
		terminée réussi réussie hecho correcto completado terminado fatto riuscito completato feito concluído concluída klaar gelukt voltooid gotowe zakończono wykonano
		hotovo dokončeno klar klart tamam tamamlandı готово выполнено выполнен успешно 完了 成功 完成 완료 성공`)
)

// wordSet is a set of the words of a list, parted by blanks.
func wordSet(words string) map[string]bool {
	m := map[string]bool{}
	for w := range strings.FieldsSeq(words) {
		m[w] = true
	}
	return m
}

// distinct counts the names among forms: one that came ten times is one form
// still.
func distinct(all []toldForm) int {
	seen := map[string]bool{}
	for _, f := range all {
		seen[f.name] = true
	}
	return len(seen)
}
