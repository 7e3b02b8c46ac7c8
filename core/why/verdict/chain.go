// This file follows servicing and nested packages from the line that hands an
// error on to the one in which it came up.

package verdict

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/step"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/lexicon"
	"hollowkey/core/why/signs"
)

const (
	maxEvidence = 8  // lines shown as proof: a third of a screen
	maxChain    = 10 // links from the first cause to the exit code that a person follows
)

// place says where it broke: the action, and the line that shows it best.
func (j *judge) place() {
	b := &j.v.BrokeAt
	j.fromFirst()
	if j.broke != nil {
		b.Action, b.File = &j.broke.Name, j.broke.File
		line := j.broke.EndLine
		if line == 0 {
			line = j.broke.Line
		}
		b.Line = &line
	}
	if j.foreign() { // of several steps that failed, the one in which the cause stands
		if i := slices.IndexFunc(j.anchor, func(m *story.Message) bool { return m.Action != nil && m.Action.Failed }); i >= 0 {
			b.Action = &j.anchor[i].Action.Name
		}
	}
	if len(j.anchor) > 0 && j.anchor[0].Line > 0 {
		b.Line, b.File = &j.anchor[0].Line, j.anchor[0].File
	}
	if c := &j.v.Cause; c.Message == nil && j.said != nil && c.Class != nil && *c.Class != "cancelled" {
		c.Message = j.serverNumber(0)
		if c.Message == nil {
			j.numberOf(j.anchor)
		}
		if c.Message == nil {
			j.numberOf(j.said.Broke())
		}
		if c.Message == nil {
			c.Message = j.serverNumber(nearby)
		}
		if c.Message == nil {
			c.Message = j.echoNumber(*c.Class)
		}
		if c.Message == nil && j.a.Dialect == story.Events { // the engine's own, in which the cause showed
			if i := slices.IndexFunc(j.a.Messages, func(m *story.Message) bool { return m.Number != 0 && m.Kind <= story.KindDebug }); i >= 0 {
				c.Message = &j.a.Messages[i].Number
			}
		}
	}
	j.ofItsWords()
	j.packageName()
	j.ordered()
	if sub := j.v.Cause.Subject; j.a.Dialect == story.Servicing && (sub == nil || sub.Name == j.a.Product.Name) {
		another := func(n names.Name) bool { return sub == nil || !strings.Contains(n.Text, sub.Name) }
		if found := j.subjectIn(j.anchor, []names.Kind{names.Package}, another); found != nil {
			j.v.Cause.Subject = found // what the update's package lacks
		} else if sub == nil || !j.named(sub.Name) {
			j.v.Cause.Subject = cmp.Or(j.subjectIn(j.before(), []names.Kind{names.Package}, anything), sub)
		}
	}
	if j.a.Dialect == story.Servicing && b.Action != nil && *b.Action == wholeSession {
		if said := j.failedTo(); said != "" {
			b.Action = &said
		}
	}
	if j.a.Dialect == story.Servicing {
		if named := j.operation(); named != "" {
			b.Action = &named
		}
	}
	if b.Action == nil && j.said != nil { // a log without actions still says what was done
		b.Action = j.acting()
	}
}

// resultName is an HRESULT as the OS's servicing writes it, by its number or
// its name.
var resultName = lazy.MustCompile(`0x[0-9A-Fa-f]{8}|\b[A-Z]{2,}(?:_[A-Z0-9]+){2,}\b`)

// day is the date with which a line of a servicing log begins: 2026-02-27.
func day(m *story.Message) string { return m.Raw[:min(len(m.Raw), len(time.DateOnly))] }

// longestSession is how long before a session's end what ends it can have come
// up: a cumulative update takes an hour on an old disk.
const longestSession = 2 * time.Hour

// fromFirst leads from the line in which servicing hands an error on to those
// in which it came up: "Failed to perform operation" ends every session with
// the number that an earlier line explains.
func (j *judge) fromFirst() {
	if j.a.Dialect != story.Servicing || len(j.anchor) == 0 {
		return
	}
	told := resultName.FindAllString(firstLine(j.anchor[0].Text), -1)
	end := j.anchor[0]
	at := slices.IndexFunc(j.a.Messages, func(m *story.Message) bool {
		long := day(m) != day(end) || end.At-m.At > longestSession // of another update, which failed alike
		return !long && m.Kind <= story.KindDebug && slices.ContainsFunc(told, func(name string) bool { return strings.Contains(m.Text, name) })
	})
	if at < 0 || j.a.Messages[at].Line >= j.anchor[0].Line {
		return
	}
	var first []*story.Message
	for _, m := range j.a.Messages[at:min(len(j.a.Messages), at+around)] {
		if m.Kind <= story.KindDebug && len(first) < mostAnchors-1 && m != j.anchor[0] {
			first = append(first, m)
		}
	}
	j.anchor = append(first, j.anchor...)
}

// ofItsWords takes from the words of a package's own action, in an engine's
// log, what the cause is about and its number, where only the action itself was
// named so far.
func (j *judge) ofItsWords() {
	c := &j.v.Cause
	if j.a.Dialect != story.Engine || c.Class == nil || *c.Class == "cancelled" {
		return
	}
	if e := j.a.Exit; c.Message == nil && j.broke == nil && e != nil && exitcode.Telling(e.Code) {
		c.Message = &e.Code
	}
	if j.broke == nil || !j.broke.Custom {
		return
	}
	if c.Message == nil {
		j.numberOf(j.anchor)
	}
	if *c.Class == "custom-action" { // the action is what it is about
		return
	}
	if c.Subject == nil || c.Subject.Name == "" || c.Subject.Name == j.broke.Name {
		kinds := slices.Concat(wanted[*c.Class], []names.Kind{names.Key, names.Path, names.Service, names.Account})
		another := func(n names.Name) bool { return n.Kind != names.Unsure && n.Text != j.broke.Name }
		if found := j.subjectIn(j.anchor, kinds, another); found != nil {
			c.Subject = found
		}
	}
}

// serverMessage is how a database server tells its own numbers: Msg 262, Level
// 14, State 1; error 18456, severity 14.
var serverMessage = lazy.MustCompile(`(?i)\b(?:msg|error|fehler|erreur)[: ]{1,2}(\d{2,6}),? (?:level|state|severity|schweregrad|status|niveau)\b`)

// serverNumber is the number that a database server told in a line of the
// cause, or so many lines beside one at most; nil where none did.
func (j *judge) serverNumber(apart int) *int {
	beside := func(m *story.Message) bool {
		return slices.ContainsFunc(j.anchor, func(a *story.Message) bool { n := j.a.Apart(a, m); return n <= apart && -n <= apart })
	}
	for _, m := range j.a.Messages {
		if !beside(m) {
			continue
		}
		if f := serverMessage.FindStringSubmatch(m.Text); f != nil {
			if n, err := strconv.Atoi(f[1]); err == nil {
				return &n
			}
		}
	}
	return nil
}

// leastEcho is what a number must weigh to be the one in which a cause shows.
const leastEcho = 0.3

// echoNumber is the number with which the OS told what a cause led to: what
// protection software stops is told as 5. nil where none was told.
func (j *judge) echoNumber(class string) (code *int) {
	most := leastEcho
	for _, h := range j.v.Hypotheses {
		if !slices.Contains(evidence.Echoes(class), h.Class) {
			continue
		}
		for _, p := range h.Points {
			if p.Code != nil && p.Weight > most {
				code, most = p.Code, p.Weight
			}
		}
	}
	return code
}

// numberOf takes the first number that some messages tell as the cause's.
func (j *judge) numberOf(ms []*story.Message) {
	for _, whole := range []bool{false, true} { // what stands below a first line is more about something else
		for _, m := range ms {
			text := strings.ToLower(m.Text)
			if !whole {
				text = firstLine(text)
			}
			code, ok := evidence.CodeIn(text)
			if !ok {
				code, ok = evidence.CodeOfText(text, *j.v.Cause.Class)
			}
			if ok && !(*j.v.Cause.Class != "network" && isStatus(text, code)) {
				j.v.Cause.Message = &code
				return
			}
		}
	}
}

// isStatus says whether a number in a line, in small letters, is what a web
// server answered, which tells of the network alone.
func isStatus(text string, code int) bool {
	return slices.ContainsFunc(evidence.Numbers(text), func(n evidence.Number) bool { return n.Kind == evidence.HTTP && int(n.Value) == code })
}

// orderedName is what an agent was told to install, in quotation marks behind
// the word for the order.
var orderedName = lazy.MustCompile(`(?i)\b(?:deployment|job(?: \d+)?|order(?: \d+)?|assignment|picked|chose|enforcing|enforcement of|installing|installation of|install of|bereitstellung|auftrag)[ :=]{1,3}["'«“„]([^"'»”“\\/=]{3,60})["'»”“]`)

// orderedLines is how many messages before the failure are searched for such an
// order: an agent does other work meanwhile.
const orderedLines = 400

// ordered takes for the product what an agent was last told to install before
// it broke: its log speaks of many products.
func (j *judge) ordered() {
	if j.said == nil || j.a.Dialect != story.Generic || len(j.anchor) == 0 {
		return
	}
	if j.v.Product.Name != nil && j.v.Product.Version != nil { // it told at its head what it is: no agent
		return
	}
	at := slices.IndexFunc(j.a.Messages, func(m *story.Message) bool { return m.Line >= j.anchor[0].Line })
	for i, seen := at, 0; i >= 0 && seen < orderedLines; i, seen = i-1, seen+1 {
		if m := orderedName.FindStringSubmatch(firstLine(j.a.Messages[i].Text)); m != nil && strings.Contains(m[1], " ") {
			if j.v.Product.Name == nil || !strings.EqualFold(*j.v.Product.Name, m[1]) {
				j.v.Product.Name, j.v.Product.Version = &m[1], nil
			}
			return
		}
	}
}

// packageName takes the app package that the telling lines name for the
// product, where the log names none, or names others first.
func (j *judge) packageName() {
	if j.said == nil || j.v.Product.Name != nil && j.a.Dialect != story.AppPackage {
		return
	}
	for _, m := range j.anchor {
		for _, n := range names.In(m.Text) {
			if n.Kind == names.Package {
				parts := strings.SplitN(n.Text, "_", 3)
				j.v.Product.Name, j.v.Product.Version = &parts[0], &parts[1]
				if sub := j.v.Cause.Subject; j.a.Dialect == story.AppPackage && (sub == nil || !j.named(sub.Name)) {
					j.v.Cause.Subject = &signs.Subject{Kind: "package", Name: n.Text}
				}
				return
			}
		}
	}
}

// chain leads from the symptom down to the root; evidence is what proves it.
func (j *judge) chain() {
	v := j.v
	add := func(l Line) {
		if l.Line > 0 && len(v.Chain) < maxChain &&
			!slices.ContainsFunc(v.Chain, func(o Line) bool { return o.File == l.File && o.Line == l.Line }) {
			v.Chain = append(v.Chain, l)
		}
	}
	if e := j.a.Exit; e != nil {
		add(Line{e.File, e.Line, e.Text})
	}
	// From the outside in: each action that ended badly hands the failure on to
	// the one around it.
	for _, x := range j.trail {
		switch {
		case x.EndText != "":
			add(Line{x.File, x.EndLine, x.EndText})
		case x == j.broke:
			add(Line{x.File, x.Line, fmt.Sprintf("%s (runs here when it fails)", x.Name)})
		}
	}
	for _, m := range j.anchor {
		if m.Line == 0 {
			continue
		}
		add(lineOf(m))
		v.Evidence = append(v.Evidence, lineOf(m))
		if l, ok := tellingPart(m); ok {
			v.Evidence = append(v.Evidence, l)
		}
	}
	// Further lines of the action are shown only where those of the cause say
	// nothing, or say more.
	silent := !slices.ContainsFunc(j.anchor, func(m *story.Message) bool { return m.Kind != story.KindResult && tells(m) })
	for _, l := range j.scene.Lines {
		if len(v.Evidence) >= maxEvidence {
			break
		}
		if l.Weight > loud && l.Action != nil && l.Action == j.broke && l.Kind != story.KindInfo && (silent || tells(l.Message)) {
			v.Evidence = append(v.Evidence, lineOf(l.Message))
		}
	}
	// Nothing was said at all: then what the action worked on last is the best
	// that there is.
	if j.broke != nil && len(v.Evidence) == 0 {
		for _, d := range j.broke.Data {
			v.Evidence = append(v.Evidence, Line{d.File, d.Line, d.Text})
		}
		if j.broke.EndText != "" {
			v.Evidence = append(v.Evidence, Line{j.broke.File, j.broke.EndLine, j.broke.EndText})
		}
	}
	if e := j.a.Exit; e != nil && e.Line > 0 && len(v.Evidence) == 0 {
		v.Evidence = append(v.Evidence, Line{e.File, e.Line, e.Text})
	}
	if n := len(j.a.Messages); n > 0 && v.Outcome == story.Unfinished && *v.Cause.Class == "unknown" && len(v.Evidence) < maxEvidence {
		v.Evidence = append(v.Evidence, lineOf(j.a.Messages[n-1])) // the last thing that is known of it
	}
	v.Evidence = firstLines(v.Evidence, maxEvidence)
}

// tells says whether a line speaks of a failure, in place of what is being
// done: actions write a line for each file and key.
func tells(m *story.Message) bool {
	text := strings.ToLower(m.Text)
	if _, ok := evidence.CodeIn(text); ok || m.Number != 0 || m.Kind != story.KindText {
		return true
	}
	return endings.Read(m.Text).Failed || len(evidence.CluesIn(text)) > 0
}

// tellingPart is the line of a message of several lines, a stack trace for
// instance, that names a code, an errno or an exception best.
func tellingPart(m *story.Message) (Line, bool) {
	parts := strings.Split(m.Text, "\n")
	if len(parts) != len(m.Further)+1 {
		return Line{}, false
	}
	best, _ := readText(parts[0])
	at := 0
	for i, p := range parts {
		if r, ok := readText(p); ok && r.sure > best.sure {
			best, at = r, i
		}
	}
	if at == 0 && best.sure == 0 { // no code anywhere: the words that tell most
		most := telling(parts[0])
		for i, p := range parts {
			if n := telling(p); n > most {
				at, most = i, n
			}
		}
	}
	if at == 0 || m.Further[at-1] == m.Line {
		return Line{}, false
	}
	return Line{m.File, m.Further[at-1], parts[at]}, true
}

// telling is how much the words of a line tell: 2 for one that names the cause
// itself, 1 for one that speaks of it.
func telling(text string) (most int) {
	for _, c := range evidence.CluesIn(strings.ToLower(text)) {
		switch {
		case c.Strength == lexicon.Root && !c.Thing:
			most = max(most, 2)
		case c.Strength != lexicon.Against:
			most = max(most, 1)
		}
	}
	return most
}

// firstLines puts lines in order, each once, and keeps at most n.
func firstLines(lines []Line, n int) []Line {
	slices.SortStableFunc(lines, func(a, b Line) int {
		if a.File != b.File {
			return 0
		}
		return a.Line - b.Line
	})
	lines = slices.CompactFunc(lines, func(a, b Line) bool { return a.File == b.File && a.Line == b.Line })
	return lines[:min(len(lines), n)]
}

// remedy fills a model; one that needs a capture that is missing is left out.
func (j *judge) remedy(m step.Remedy) []step.Remedy {
	// Without the one thing that it is about, the advice would be about
	// nothing.
	if m.Needs != "" && j.caps[m.Needs] == "" {
		return nil
	}
	r := step.Remedy{Class: m.Class}
	r.Title, _ = signs.Fill(m.Title, j.caps)
	if target := m.Target; target != "" {
		r.Target, _ = signs.Fill(target, j.caps)
	} else if j.v.Cause.Subject != nil {
		r.Target = j.v.Cause.Subject.Name
	}
	r.Undo, _ = signs.Fill(m.Undo, j.caps)
	for _, s := range m.Steps {
		filled, ok := fillStep(s, j.caps)
		// One step that cannot be filled makes the rest pointless: it stays
		// advice.
		if !ok {
			r.Steps = nil
			break
		}
		r.Steps = append(r.Steps, filled)
	}
	if m.Needs != "" {
		r.Steps = j.forAll(r.Steps)
	}
	if r.Undo == "" {
		r.Undo = "nothing is changed by this advice"
		if len(r.Steps) > 0 {
			r.Undo = "hollowkey undo"
		}
	}
	return []step.Remedy{r}
}

// forAll are the steps of the look that a sign's steps need, where it found
// more that lacks the same than the one that the sign names.
func (j *judge) forAll(steps []step.Model) []step.Model {
	for _, f := range j.v.Machine {
		if f.Answer == "yes" && len(f.Steps) > len(steps) || f.Answer == "yes" && len(f.Steps) == len(steps) && !sameKinds(f.Steps, steps) {
			return f.Steps
		}
	}
	return steps
}

// sameKinds says whether two rows of steps are of the same kinds.
func sameKinds(a, b []step.Model) bool {
	return slices.EqualFunc(a, b, func(x, y step.Model) bool {
		return slices.Equal(slices.Sorted(maps.Keys(x)), slices.Sorted(maps.Keys(y)))
	})
}

// fillStep puts what a sign captured into a step's arguments; false where one
// is missing, since a step with a gap in it is not to be offered.
func fillStep(model step.Model, caps map[string]string) (step.Model, bool) {
	out := step.Model{}
	for kind, args := range model {
		out[kind] = map[string]string{}
		for k, text := range args {
			v, missing := signs.Fill(text, caps)
			if len(missing) > 0 {
				return nil, false
			}
			out[kind][k] = v
		}
	}
	return out, true
}

// remedies adds what a cause class always leaves to try.
func (j *judge) remedies() {
	if len(j.v.Remedies) > 0 || j.v.Cause.Class == nil {
		return
	}
	m, ok := general[*j.v.Cause.Class]
	if !ok {
		m = general["unknown"]
	}
	if j.special != nil {
		m = j.special.remedy
	}
	j.v.Remedies = j.remedy(m)
}
