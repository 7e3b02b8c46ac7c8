// This file takes up what lines tell of how a run went. The last that tells it
// counts, if nothing was done behind it.

package generic

import (
	"slices"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
)

// outcome takes what a line tells of how the run went; the last such line
// counts.
func (r *Reader) outcome(line int, e entry, m *story.Message, low string, found mark) {
	a := r.b.A
	e.text = e.text[:min(len(e.text), mostTold)]
	said := endings.Read(aboutSetup(e.told(), a.Product.Name))
	said.Passed = said.Passed || said.Again && !said.Firm
	if x := said.Exit; x != nil && !said.Passed && (*x != 0 || !e.level || e.kind <= story.KindInfo) && (said.Firm || !r.firm) {
		r.b.Exit(line, *x, m.Raw)
		r.said, r.firm = new(exitcode.Good(*x)), said.Firm
	}
	switch {
	case strings.HasPrefix(e.text, "*") && agentFailed.MatchString(e.text): // what the agent was asked for ended so
		r.tell(line, false)
	case said.Cancelled, found&cancelling != 0 && !said.Fails && cancelled.MatchString(e.text):
		a.Cancelled = true
		r.tell(line, false)
	case !said.Passed && (said.Failed || found&failed != 0 && failing.MatchString(e.text)) && !countsNoFailure(e.text):
		r.tell(line, false)
		if a.Rollback == 0 && strings.Contains(low, "rolling back") {
			a.Rollback = line
		}
		if e.kind > story.KindWarning {
			m.Kind = story.KindWarning
		}
		m.Verdict = true
	case e.kind > story.KindWarning && !said.Partly &&
		(said.Worked || said.Ready && names(low, a.Product.Name) || isReady(low, a.Product.Name) ||
			found&worked != 0 && working.MatchString(e.text)) && !endings.OtherStatus(e.text) &&
		!notReally.MatchString(e.text) && !failedBesideFields(e) && !endings.FieldsFail(e.text): // last: it looks through the whole line
		if x := a.Exit; x != nil && !exitcode.Good(x.Code) && line-x.Line <= r.paced(soon) && !strings.Contains(low, "succe") {
			break // it is over, and its number said how
		}
		r.tell(line, true)
		m.Verdict = true
	case said.Ends && endings.OtherStatus(e.text): // it is over, in a word of its own
		m.Verdict = true
	}
	if e.kind > story.KindError && said.Restart {
		a.Restart = true
	}
	failedBefore := r.said != nil && !*r.said && line-r.well[a] <= r.paced(soon)
	if e.kind > story.KindWarning && said.Instead && !said.Fails && failedBefore && a.Exit == nil {
		r.said, a.Success, r.other[a] = nil, nil, line // one way failed, and another is gone
	}
}

// failedBesideFields says whether the text of a record with further fields
// tells a failure: "nothing was installed".
func failedBesideFields(e entry) bool {
	return e.fields > 0 && endings.Read(e.text[:max(0, len(e.text)-e.fields)]).Failed
}

// countsNoFailure says whether the words for a failure stand in a record's
// values alone, which tell that there was none: failed_count=0.
func countsNoFailure(record string) bool {
	text := endings.BeforeFields(record)
	return text != record && text != "" && !endings.Read(text).Failed && !failing.MatchString(text)
}

// nowReady is all that a line says behind a product's name: "Tide Watch 4.4
// ready".
var nowReady = lazy.MustCompile(`^(?: v?[\d.]+)?(?: is| ist| est| está| è)?(?: now)? ?(?:ready|bereit|prête?|list[oa]|pront[oa]|klaar|gotow[ey]|hotovo|klar|hazır|готово?|の準備完了|已就绪|준비 완료)[.!]?$`)

// isReady says whether a line, in small letters, tells that a product is ready,
// and nothing else: who waits until it is says more.
func isReady(low, product string) bool {
	rest, ok := strings.CutPrefix(low, pieces.Lower(product))
	return ok && product != "" && nowReady.MatchString(rest)
}

// agentFailed is the end of an operation of the OS's update agent with an
// HRESULT that is a failure.
var agentFailed = lazy.MustCompile(`^\*{1,2} END \*{1,2} .*\b(?:hr|hResult|error)\s?[=:]\s?(?:0x)?8[0-9A-Fa-f]{7}\b`)

// told is what an entry says of an end: with the name of who says it, where
// that is a word for a setup and the rest is short: "setup" and "ended: 8".
func (e entry) told() string {
	if e.source != "" && strings.Count(strings.TrimRight(e.text, " ().:,-0123456789"), " ") < shortEnd && endings.IsSetup(strings.ToLower(e.source)) {
		return e.source + " " + e.text
	}
	return e.text
}

// aboutSetup reads a sentence that tells what became of the product as one
// about its setup: "Tide Watch 3.1 was not installed, 8". What else the product
// does, or does not, is no end.
func aboutSetup(text, product string) string {
	if len(product) < leastName || len(text) <= len(product) || !strings.EqualFold(text[:len(product)], product) || text[len(product)] != ' ' {
		return text
	}
	rest := text[len(product)+1:]
	if word, more, ok := strings.Cut(rest, " "); ok && strings.Trim(word, "v.0123456789") == "" {
		rest = more
	}
	if !becameOf.MatchString(rest) {
		return text
	}
	return "setup " + rest
}

// becameOf is what becomes of a product that is set up.
var becameOf = lazy.MustCompile(`(?i)^(?:(?:was|is|has|have|been|could|can|be|will|not|cannot) ){0,4}(?:installed|updated|upgraded|uninstalled|repaired|deployed)\b|` +
	`^(?:wurde|konnte|ist) (?:nicht )?(?:installiert|aktualisiert)|^n['’]a pas (?:été|pu être) (?:installée?|mise? à jour)|^no se (?:instaló|pudo instalar|actualizó)|` +
	`^non è stat[oa] (?:installat[oa]|aggiornat[oa])|^não foi (?:instalad[oa]|atualizad[oa])|^(?:is|werd) niet geïnstalleerd|^nie został[oa]? zainstalowan`)

// leastName is how many bytes of a name are no word of a sentence by chance.
const leastName = 5

// shortEnd is how many words such an end has at most; longer ones name what
// they are about.
const shortEnd = 3

// soon is how many lines behind an exit code words for an end still speak of
// the same run.
const soon = 12

// mostTold is how many bytes of a line are looked at for how the setup ended:
// who says it says it in a sentence, and some programs write whole lists on a
// line.
const mostTold = 2000

// tell notes that a line says how the setup ended. A good end takes back an
// exit code of something before it, which was tried again.
func (r *Reader) tell(line int, worked bool) {
	r.said = &worked
	r.b.A.Success = &worked
	if r.well == nil {
		r.well = map[*story.Attempt]int{}
	}
	r.well[r.b.A] = line
	if worked && r.b.A.Exit != nil && r.b.A.Exit.Code != 0 {
		r.b.A.Exit = nil // of something before that was tried again
	}
}

// Finish gives the attempts. Where nothing says how a run ended, errors near
// its end speak for failure.
func (r *Reader) Finish() []*story.Attempt {
	all := r.b.Finish()
	if len(all) > 0 {
		r.strangersLeft(all[len(all)-1])
	}
	for _, a := range all {
		if a.Success != nil && *a.Success && r.brokeAfter(a, r.well[a], r.ends[a]) {
			a.Success = nil
		}
		// That other way is no setup when nothing comes of it: it is back to
		// what was there before.
		if at := r.other[a]; at > 0 && at > r.ends[a]-r.paced(nearEnd) && a.Success == nil && a.Exit == nil {
			a.Success = new(false)
		}
		r.lastWord(a, r.ends[a])
		r.thrownLast(a)
		r.leftByPerson(a)
		oneSpeaker(a)
		worked := a.Success != nil && *a.Success
		if x := a.Exit; worked && x != nil && !exitcode.Good(x.Code) && x.Line > r.well[a] && r.firm { // the later word counts
			a.Success = new(false)
		}
		r.settle(a, r.ends[a])
		if a.Success != nil && !*a.Success && r.leveled && !r.grave {
			unlevel(a)
		}
		toldAtEnd(a)
	}
	// A run after the last one that tells anything is only the program's daily
	// work.
	for last := len(all) - 1; last > 0 && !ofSetup(all[last], all[last-1]) && tells(all[:last]); last-- {
		all = all[:last]
	}
	return all
}

// oneSpeaker leaves out who speaks where it is the product itself in all lines,
// and no part of it.
func oneSpeaker(a *story.Attempt) {
	const few = 4 // messages: of fewer it may be chance
	if len(a.Messages) < few || a.Messages[0].Source == "" ||
		!strings.HasPrefix(strings.ToLower(strings.ReplaceAll(a.Product.Name, " ", "")), strings.ToLower(a.Messages[0].Source)) {
		return
	}
	for _, m := range a.Messages {
		if m.Source != a.Messages[0].Source {
			return
		}
	}
	for _, m := range a.Messages {
		m.Source = ""
	}
}

// nearStop is how many messages before the last one may tell that a person
// stopped a run: what was done by then is taken back in between.
const nearStop = 12

// leftByPerson takes it that a person stopped a run whose last lines say so,
// when no failure stands near before it and none behind.
func (r *Reader) leftByPerson(a *story.Attempt) {
	if a.Cancelled || a.Success != nil && *a.Success {
		return
	}
	n := len(a.Messages)
	for i := n - 1; i >= max(0, n-nearStop); i-- {
		m := a.Messages[i]
		text, _, _ := strings.Cut(m.Text, "\n")
		if endings.ByPerson(text) {
			before := a.Messages[max(0, i-atEnd):i]
			if slices.ContainsFunc(before, func(m *story.Message) bool {
				well, _, alone := endings.AllDone(m.Text, a.Product.Name)
				return well && !alone
			}) { // it was there already, and only its window was closed
				a.Success, a.Loosely = new(true), true
				return
			}
			if !slices.ContainsFunc(before, func(m *story.Message) bool {
				return !endings.ByPerson(m.Text) && (m.Kind <= story.KindDebug || endings.Read(m.Text).Fails)
			}) {
				a.Cancelled, m.Verdict, m.Stopped = true, true, true
				a.Success = new(false)
			}
			return
		}
		if !m.Verdict && !endings.Unwinds(text) { // the run went on
			return
		}
	}
}

// hurt says whether an error near the end of an attempt ended it.
func (r *Reader) hurt(a *story.Attempt, end int) bool {
	return slices.ContainsFunc(a.Messages, func(m *story.Message) bool {
		return m.Kind <= story.KindDebug && m.Line > end-r.paced(nearEnd) && m.Repeated < often && !r.survived(m, end) && !r.madeGood(a, m)
	})
}

// unlevel takes the levels from a run that failed and has no line graver than
// info: whatever wrote it, or handed it on, gives all lines the same, so that
// their words have to tell.
func unlevel(a *story.Attempt) {
	for _, m := range a.Messages {
		if !m.Verdict && m.Kind > story.KindWarning {
			m.Kind = guess(m.Text)
		}
	}
}

// leastWork is how many entries a run has that does more than look whether
// there is something to do.
const leastWork = 30

// ofSetup says whether a run is one more of the setup before it: it tells an
// end, or names the same product as it begins and goes to work.
func ofSetup(a, before *story.Attempt) bool {
	return a.Success != nil || a.Exit != nil || a.Product.Name != "" && a.Product.Name == before.Product.Name && a.Entries >= leastWork
}

// tells says whether one of the attempts is told to have failed.
func tells(as []*story.Attempt) bool {
	for _, a := range as {
		if a.Success != nil && !*a.Success {
			return true
		}
	}
	return false
}

// paced is how many lines of the file so many that say something take.
func (r *Reader) paced(n int) int { return n * max(r.pace, 1) }

// nearEnd is how many lines before the end an error decides.
const nearEnd = 40

// refused says whether one of the last lines before a setup's end tells that
// the machine is refused: "Framework 4.8 or later is required", "setup ends".
func (r *Reader) refused(ms []*story.Message, end int) bool {
	const last = 3 // lines; a refusal stands right before "setup ends"
	return slices.ContainsFunc(ms[max(0, len(ms)-last):], func(m *story.Message) bool {
		return m.Line > end-r.paced(nearEnd) && endings.Read(m.Text).Refuses
	})
}

// givesUp says whether a log's last line tells that it was given up, in words
// that fail or that only stop where one before it failed: "files could not be
// transferred", "exiting".
func givesUp(last string, before []*story.Message) bool {
	const close = 3 // lines; more work between, and it is one more step that failed
	said := endings.Read(last)
	stops, firm := endings.Stops(last)
	could := endings.CouldNot(last)
	switch {
	case said.Passed || said.Again:
		return false
	case stops && (firm || said.Fails || said.Refuses || could):
		return true
	case stops: // as any run does in the end
		return len(before) > 0 && before[len(before)-1].Kind <= story.KindDebug && troubled(before, 1)
	}
	return (said.Fails || said.Refuses || could) && troubled(before, close)
}

// troubled says whether one of so many lines right before the last one is a
// failure: then a last word of failing is about all of it.
func troubled(ms []*story.Message, last int) bool {
	return slices.ContainsFunc(ms[max(0, len(ms)-last):], func(m *story.Message) bool {
		said := endings.Read(m.Text)
		return !said.Passed && (m.Kind <= story.KindWarning || said.Refuses || said.Fails)
	})
}

// brokeAfter says whether errors at the end of an attempt stand far behind the
// line that told that something worked: then that was a part of it.
func (r *Reader) brokeAfter(a *story.Attempt, well, end int) bool {
	return well > 0 && well < end-r.paced(nearEnd) && slices.ContainsFunc(a.Messages, func(m *story.Message) bool {
		return m.Kind <= story.KindError && m.Line > max(well, end-r.paced(nearEnd)) && m.Repeated < often && !r.survived(m, end)
	})
}

// names says whether a line, in small letters, names a product.
func names(low, product string) bool {
	return product != "" && strings.Contains(low, pieces.Lower(product))
}

// atEnd is how many lines before the exit code an error still says how the run
// ended.
const atEnd = 3

// errorAtEnd says whether a line right before the exit code is told as an
// error.
func (r *Reader) errorAtEnd(a *story.Attempt) bool {
	return slices.ContainsFunc(a.Messages, func(m *story.Message) bool {
		return m.Kind == story.KindError && m.Line < a.Exit.Line && a.Exit.Line-m.Line <= r.paced(atEnd) && !endings.Read(m.Text).Passed
	})
}

// often is from how many times on an error of one shape is noise: a setup that
// breaks says so once for each try, and tries three or four times.
const often = 5

// lastWords is how many lines from the end on nothing is said behind an error
// that it survived.
const lastWords = 2

// survived says whether an error ends nothing: it says that it does not matter
// or is tried another way, or the run went on for long behind another of its
// kind.
func (r *Reader) survived(m *story.Message, end int) bool {
	said := endings.Read(m.Text)
	return said.Passed || said.Again && !said.Firm || m.Since > 0 && m.Since < m.Line-r.paced(nearEnd) && m.Line < end-r.paced(lastWords)
}

// madeGood says whether what failed went well behind it, or was done another
// way by the same part of the program.
func (r *Reader) madeGood(a *story.Attempt, m *story.Message) bool {
	var things []string
	const soon = 3 // lines; further on "instead" is of something else
	for i, o := range a.Messages {
		if o.Line <= m.Line || o.Kind <= story.KindWarning {
			continue
		}
		other := o.Source == m.Source && o.Line-m.Line <= r.paced(soon) &&
			(endings.Read(o.Text).Instead || endings.Otherwise(pieces.Lower(o.Text)))
		if other && len(a.Messages)-i > soon { // not where it broke right behind
			return true
		}
		if !endings.WentWell(o.Text) {
			continue
		}
		if things == nil {
			things = endings.Things(m.Text)
		}
		if slices.ContainsFunc(endings.Things(o.Text), func(t string) bool { return slices.Contains(things, t) }) {
			return true
		}
	}
	return false
}

// settle decides how an attempt ended of which nothing says so.
func (r *Reader) settle(a *story.Attempt, end int) {
	if a.Success == nil && a.Exit != nil {
		a.Success = new(exitcode.Good(a.Exit.Code) && !(exitcode.Restart(a.Exit.Code) && r.errorAtEnd(a)))
	}
	if n := len(a.Messages); a.Success == nil && a.Restart && n > 0 && endings.OnlyRestart(a.Messages[n-1].Text, a.Product.Name) {
		a.Success = new(true)
	}
	// Steps that failed on the way were passed over, since the whole went well.
	if a.Success != nil && *a.Success {
		for _, x := range a.Actions {
			x.Failed = false
		}
		return
	}
	// Nothing tells the end outright: what stands last has to do.
	if a.Success == nil {
		if r.hurt(a, end) {
			a.Success = new(false)
		}
		if n := len(a.Messages); a.Success == nil && n > 1 && endings.Read(a.Messages[n-1].Text).Ends && r.refused(a.Messages[:n-1], end) {
			a.Success = new(false)
		}
	}
	if n := len(a.Messages); a.Success == nil && a.Exit == nil && n > 0 && a.Messages[n-1].Line >= end { // the last word
		if givesUp(a.Messages[n-1].Text, a.Messages[:n-1]) {
			a.Success = new(false)
		}
	}
	// A zero before the failure was some part's.
	if a.Success != nil && !*a.Success && a.Exit != nil && a.Exit.Code == 0 {
		a.Exit = nil
	}
}
