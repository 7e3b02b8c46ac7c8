// This file tries signs on the lines that may tell why.

package signs

import (
	"maps"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/story"
)

// A Scene is what signs are matched against: the lines that may tell why an
// attempt failed, each with how much it counts, and the facts around them.
type Scene struct {
	Attempt *story.Attempt // the one that is judged
	Broke   *story.Action  // nil when no action is known to have broken
	Lines   []Weighed      // in the order of the log
	Quiet   bool           // the action that broke left no message of its own
	Refusal *Weighed       // the package's own words of refusal, nil when it gave none
}

// A Weighed line is a message with a weight from 0 (surely an echo) to 1 (said
// by the action that broke).
type Weighed struct {
	*story.Message
	Weight float64 // 1 for the action that broke, less elsewhere
}

// A Hit is a sign that was seen.
type Hit struct {
	Sign     *Sign             // that was seen
	Score    float64           // strength of the sign times weight of the line
	Captures map[string]string // of its patterns, by name
	Lines    []*story.Message  // what showed it, the telling one first
	Told     map[string]string // captures as the log has them, where a machine was asked since; else nil
}

// Match finds the signs that the scene shows, the surest first. Of two equally
// sure ones the one that shows earlier in the log comes first.
func (p *Pack) Match(sc Scene) []Hit {
	m := matcher{scene: sc, index: p.indexed(), lower: make([]string, len(sc.Lines))}
	for i, l := range sc.Lines {
		m.lower[i] = strings.ToLower(l.Text)
	}
	m.where = m.index.lines(m.lower)
	var hits []Hit
	for _, s := range p.Signs {
		if h, ok := m.sign(s); ok {
			s.read()
			hits = append(hits, h)
		}
	}
	slices.SortStableFunc(hits, func(a, b Hit) int {
		switch {
		case a.Score > b.Score+1e-9:
			return -1
		case b.Score > a.Score+1e-9:
			return 1
		}
		return a.line() - b.line()
	})
	return hits
}

// line is where the hit begins; one without lines comes last.
func (h Hit) line() int {
	if len(h.Lines) == 0 {
		return 1 << 30
	}
	return h.Lines[0].Line
}

type matcher struct {
	scene Scene     // what is looked at
	lower []string  // the lines in small letters, made once
	index *index    // of the pack's patterns by their pieces
	where [][]int32 // by a pattern's number in the index, the lines that hold one of its pieces
}

// sign gives the best way in which s is seen.
func (m *matcher) sign(s *Sign) (best Hit, ok bool) {
	for _, w := range s.Seen {
		strength := w.Strength
		if strength == 0 {
			strength = s.Strength
		}
		if h, seen := m.seen(&w, strength); seen && (!ok || h.Score > best.Score) {
			best, ok = h, true
		}
	}
	best.Sign = s
	return best, ok
}

// seen says whether everything that one way asks for holds, cheapest questions
// first, and gives what was captured.
func (m *matcher) seen(w *Seen, strength float64) (Hit, bool) {
	a := m.scene.Attempt
	h := Hit{Captures: map[string]string{}}
	switch {
	case len(w.Dialect) > 0 && !slices.Contains(w.Dialect, a.Dialect),
		w.Quiet && !m.scene.Quiet,
		len(w.Exit) > 0 && (a.Exit == nil || !slices.Contains(w.Exit, a.Exit.Code)),
		!w.Action.IsZero() && !m.action(w.Action, h.Captures),
		len(w.Result) > 0 && !m.result(w.Result),
		!w.Product.IsZero() && a.Product.Name != "" && !w.Product.find(a.Product.Name, strings.ToLower(a.Product.Name), nil),
		!valuesMatch(w.Property, a.Properties, h.Captures),
		!valuesMatch(w.Policy, a.Policies, h.Captures):
		return h, false
	}
	for _, p := range w.Not {
		if _, found := m.line(p, nil, 0); found {
			return h, false
		}
	}
	weight := 1.0
	switch {
	case len(w.Message) > 0:
		i, ok := m.message(w, h.Captures)
		if !ok {
			return h, false
		}
		weight = m.scene.Lines[i].Weight
		h.Lines = append(h.Lines, m.scene.Lines[i].Message)
		m.companions(w, i, &h)
		if len(w.Text) > 0 {
			if j, ok := m.anyOf(w.Text, h.Captures); ok {
				h.Lines = append(h.Lines, m.scene.Lines[j].Message)
			} else {
				return h, false
			}
		}
	case len(w.Text) > 0:
		i, ok := m.anyOf(w.Text, h.Captures)
		if !ok {
			return h, false
		}
		weight = m.scene.Lines[i].Weight
		h.Lines = append(h.Lines, m.scene.Lines[i].Message)
	}
	if len(w.Refusal) > 0 {
		r := m.scene.Refusal
		if r == nil || !slices.ContainsFunc(w.Refusal, func(p Pattern) bool { return p.find(r.Text, strings.ToLower(r.Text), h.Captures) }) {
			return h, false
		}
		h.Captures["said"] = r.Text
		h.Lines = append(h.Lines, r.Message)
	}
	for _, p := range w.Also {
		i, found := m.line(p, h.Captures, 0)
		if !found {
			return h, false
		}
		h.Lines = append(h.Lines, m.scene.Lines[i].Message)
	}
	if len(w.Exit) > 0 { // what the setup ended with says it; the lines say of what
		weight = 1
	}
	h.Score = strength * weight
	return h, true
}

// action says whether the action that broke has a fitting name.
func (m *matcher) action(p Pattern, caps map[string]string) bool {
	if m.scene.Broke == nil {
		return false
	}
	name := m.scene.Broke.Name
	return p.find(name, strings.ToLower(name), caps)
}

// result says whether the program of the action that broke returned one of
// these.
func (m *matcher) result(codes []int) bool {
	b := m.scene.Broke
	return b != nil && b.Code != nil && slices.Contains(codes, *b.Code)
}

// valuesMatch says whether all named values are there and fit.
func valuesMatch(want map[string]Pattern, have map[string]story.Property, caps map[string]string) bool {
	for name, p := range want {
		v, ok := have[name]
		if !ok || !p.find(v.Value, strings.ToLower(v.Value), caps) {
			return false
		}
	}
	return true
}

// message finds the weightiest line with one of the numbers whose fields or
// text are as wanted.
func (m *matcher) message(w *Seen, caps map[string]string) (best int, ok bool) {
	if m.recordsDeny(w) {
		return 0, false
	}
	for i, l := range m.scene.Lines {
		if !slices.Contains(w.Message, l.Number) || ok && l.Weight <= m.scene.Lines[best].Weight {
			continue
		}
		got := map[string]string{}
		if !m.fits(w, i, got) {
			continue
		}
		maps.Copy(caps, got)
		best, ok = i, true
	}
	return best, ok
}

// recordsDeny says whether there are records of the message and none has the
// wanted fields; then what its text could mean does not count.
func (m *matcher) recordsDeny(w *Seen) bool {
	records := false
	for i, l := range m.scene.Lines {
		if len(w.Fields) == 0 || len(l.Fields) == 0 || l.Weight < recordWeight || !slices.Contains(w.Message, l.Number) {
			continue
		}
		if m.fits(w, i, map[string]string{}) {
			return false
		}
		records = true
	}
	return records
}

// recordWeight is the least weight of a record that decides over words.
const recordWeight = 0.5

// fits tells whether fields or text of line i are as wanted.
func (m *matcher) fits(w *Seen, i int, caps map[string]string) bool {
	l := m.scene.Lines[i]
	if len(w.Fields) == 0 && len(w.Said) == 0 {
		return true
	}
	if len(w.Fields) > 0 && len(l.Fields) > 0 && (len(w.Said) == 0 || !w.lacks(l.Fields)) {
		for n, p := range w.Fields {
			f := l.Field(n)
			if !p.find(f, strings.ToLower(f), caps) {
				return false
			}
		}
		return true
	}
	for _, p := range w.Said {
		if p.find(l.Text, m.lower[i], caps) {
			return true
		}
	}
	return false
}

// lacks says whether fields end before those that are looked at: words that
// another program hands on name things, and not the number of the system's
// error behind them.
func (w *Seen) lacks(fields []string) bool {
	for n := range w.Fields {
		if n > len(fields) {
			return true
		}
	}
	return false
}

// maxCompanions are lines beside the first that are shown as proof of a sign.
const maxCompanions = 4

// companions adds the other lines about the same message, and what only they
// name.
func (m *matcher) companions(w *Seen, at int, h *Hit) {
	for i, l := range m.scene.Lines {
		if i == at || l.Number != m.scene.Lines[at].Number || l.Weight < m.scene.Lines[at].Weight/2 || len(h.Lines) > maxCompanions {
			continue
		}
		got := map[string]string{}
		if !m.fits(w, i, got) {
			if len(l.Fields) > 0 {
				continue // about something else
			}
			got = nil
		}
		h.Lines = append(h.Lines, l.Message)
		for k, v := range got {
			if h.Captures[k] == "" || len(l.Fields) > 0 { // the record's fields are surer than words
				h.Captures[k] = v
			}
		}
	}
}

// anyOf finds the weightiest line that matches one of the patterns.
func (m *matcher) anyOf(ps []Pattern, caps map[string]string) (best int, ok bool) {
	var bestCaps map[string]string
	for _, p := range ps {
		least := 0.0
		if ok {
			least = m.scene.Lines[best].Weight
		}
		got := map[string]string{}
		if i, found := m.line(p, got, least); found {
			best, ok, bestCaps = i, true, got
		}
	}
	maps.Copy(caps, bestCaps)
	return best, ok
}

// line finds the weightiest line over least that matches p; of several the
// first.
func (m *matcher) line(p Pattern, caps map[string]string, least float64) (best int, ok bool) {
	try := func(i int) {
		l := m.scene.Lines[i]
		if l.Weight <= least {
			return
		}
		got := map[string]string{}
		if p.possible(m.lower[i]) && p.match(l.Text, got) {
			best, ok, least = i, true, l.Weight
			if caps != nil {
				maps.Copy(caps, got)
			}
		}
	}
	if n, held := m.index.number[p.source]; held {
		for _, i := range m.where[n] {
			try(int(i))
		}
		return best, ok
	}
	for i := range m.scene.Lines {
		try(i)
	}
	return best, ok
}

// Fill puts captures into a text: "{name}", or "{name|words}" where the words
// stand when nothing was captured. missing lists the names without either.
func Fill(text string, caps map[string]string) (filled string, missing []string) {
	var b strings.Builder
	for {
		open := strings.IndexByte(text, '{')
		if open < 0 {
			break
		}
		end := closing(text, open)
		if end < 0 {
			break
		}
		name, words, given := strings.Cut(text[open+1:end], "|")
		if !isName(name) { // a GUID or other text in braces
			b.WriteString(text[:open+1])
			text = text[open+1:]
			continue
		}
		b.WriteString(text[:open])
		switch v := caps[name]; {
		case v != "":
			b.WriteString(v)
		case given:
			inner, gaps := Fill(words, caps)
			b.WriteString(inner)
			missing = append(missing, gaps...)
		default:
			missing = append(missing, name)
			b.WriteString("?")
		}
		text = text[end+1:]
	}
	b.WriteString(text)
	return b.String(), missing
}

// closing finds the brace that closes the one at open, -1 when there is none.
func closing(text string, open int) int {
	depth := 0
	for i := open; i < len(text); i++ {
		switch text[i] {
		case '{':
			depth++
		case '}':
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return -1
}

// isName says whether what stands in braces is a capture's name; a GUID or
// other text is none.
func isName(s string) bool {
	if s == "" {
		return false
	}
	if _, err := strconv.Atoi(s); err == nil {
		return false
	}
	for _, c := range s {
		if (c < 'a' || c > 'z') && c != '_' {
			return false
		}
	}
	return true
}
