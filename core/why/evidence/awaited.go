// This file gives a wait that was in vain the class of what was waited for.

package evidence

import (
	"slices"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
)

// A program that waits says for what when it begins, and that its time was up
// when it gives up: "waiting for Global\TideState", "timed out after 60 s". The
// second line alone sounds like a connection.

var (
	// timeUp is a word for that, in small letters.
	timeUp = lazy.MustCompile(`\b(?:timed? ?-?out|time is up|gave up waiting|zeitüberschreitung|zeitlimit|wartezeit|délai (?:d'attente )?(?:dépassé|expiré)|tiempo de espera|tempo scaduto|tempo limite|tempo esgotado|time-?out)|przekroczono|vypršel|tidsgräns|zaman aşımı|истекло|превышено|タイムアウト|시간 초과|超时|逾時`)
	// waits is a word for waiting, in small letters.
	waits = lazy.MustCompile(`\b(?:waiting|waits|wait) (?:for|on|until)\b|\bwarte(?:t|n)? auf\b|\ben attente d|\battend |\besperando\b|\bin attesa\b|\baguardando\b|\bwacht(?:en)? op\b|\boczekiwanie\b|\bčekání\b|\bväntar på\b|bekleniyor|ожидание|待機|기다|等待`)
)

// waitLines is how many lines before the end of a wait its begin stands at
// most.
const waitLines = 40

// awaited gives what a line tells of a wait that was in vain the class of what
// was waited for.
func (r *Run) awaited() {
	for i := range r.lines {
		l := &r.lines[i]
		ofNetwork := func(c Clue) bool { return c.Class == "network" && c.Code == nil }
		if !slices.ContainsFunc(l.clues, ofNetwork) || !timeUp.MatchString(l.lower) || hostIn(l.Text) {
			continue
		}
		of, ok := r.waitedFor(i)
		for k := range l.clues {
			if c := &l.clues[k]; ok && ofNetwork(*c) {
				c.Class, c.Name = of.Class, of.Name
			}
		}
	}
}

// waitedFor finds what the same part of the program began to wait for before a
// line.
func (r *Run) waitedFor(at int) (c Clue, ok bool) {
	p := allPairs()
	for i := at - 1; i >= max(0, at-waitLines); i-- {
		l := &r.lines[i]
		if l.Source != r.lines[at].Source || !waits.MatchString(l.lower) {
			continue
		}
		if hostIn(l.Text) {
			return c, false
		}
		if c, ok = p.first(p.awaits, l.lower, "what was waited for"); ok {
			if m := p.shapes[p.names["globalname"]].FindStringIndex(l.lower); m != nil && len(l.lower) == len(l.Text) {
				c.Name = l.Text[m[0]:m[1]]
			}
		}
		return c, ok
	}
	return c, false
}

// hostIn says whether a line names a host or an address of the network.
func hostIn(text string) bool {
	for _, n := range names.In(text) {
		if n.Kind == names.Host || n.Kind == names.URL {
			return true
		}
	}
	return false
}
