// This file brings signs, words and numbers to one cause.

package verdict

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/signs"
)

// fromAll settles on the cause for which most speaks when signs, words and
// numbers are taken together.
func (j *judge) fromAll(hits []signs.Hit) {
	proposals := proposed(hits)
	for i := range proposals {
		if len(proposals[i].Lines) == 0 { // by the exit code alone, which in a program of a vendor's is its own
			proposals[i].Says = evidence.Echo
			if e := j.a.Exit; e != nil && e.Code > 0 && e.Code < evidence.LeastEngineExit && j.a.Dialect == story.Generic && !hits[i].Sign.Own() {
				proposals[i].Score *= ownFactor
			}
		}
	}
	hs := j.said.Weigh(proposals)
	j.v.Hypotheses = hs
	// In this order: a number of the program's own, a program that failed
	// without saying why, nothing that is known, a sign, and last the words
	// alone.
	top := hs[0]
	if j.byOwnNumber(hs) {
		hs = slices.DeleteFunc(slices.Clone(hs), func(h evidence.Hypothesis) bool { return h.Class != "unknown" })
	} else if onlyHearsay(top) && j.v.Outcome == story.Failed && j.fromProgram(top) {
		j.v.Sign = ""
	} else if top.Class == "unknown" {
		j.unknown()
		j.anchor = j.said.Broke()
		if j.v.Cause.Subject == nil && len(j.anchor) > 0 {
			j.v.Cause.Subject = j.subject("unknown")
		}
	} else if k := heaviest(proposals, top.Class); k >= 0 {
		hits = slices.Clone(hits)
		hits[0], hits[k] = hits[k], hits[0]
		j.fromHit(hits)
		j.wholePaths()
		j.fromPoints(top)
		j.fromExit(hits[0])
	} else {
		j.fromWords(top)
		j.fromPoints(top)
	}
	if (top.Class != "unknown" || j.v.Outcome != story.Cancelled) && *j.v.Cause.Class == top.Class {
		j.v.Cause.Confidence = evidence.Confidence(hs)
		if j.said.Aside(top) {
			j.v.Cause.Confidence = min(j.v.Cause.Confidence, surestAside)
		}
	}
	// a site knows its own programs
	if k := slices.IndexFunc(hits, func(h signs.Hit) bool { return h.Sign.ID == j.v.Sign && h.Sign.Own() }); k >= 0 {
		j.v.Cause.Confidence = max(j.v.Cause.Confidence, hits[k].Score)
	}
	if j.v.Outcome == story.Unfinished {
		j.v.Cause.Confidence *= cutLogFactor
	}
	j.v.Cause.Confidence = round(min(j.v.Cause.Confidence, surest))
}

// surestAside is how sure a cause is at most that nothing in the lines in which
// it broke speaks for: somebody else may have read the same notes in good runs.
const surestAside = 0.75

// fromExit hangs a verdict that the exit code alone gave on the line that tells
// it, and takes what it is about from the call right before.
func (j *judge) fromExit(h signs.Hit) {
	if len(h.Lines) > 0 || j.a.Exit == nil || len(j.anchor) > 0 {
		return
	}
	at := slices.IndexFunc(j.a.Messages, func(m *story.Message) bool { return m.Line >= j.a.Exit.Line })
	if at < 0 || (j.a.Messages[at].Line-j.a.Exit.Line)/max(j.a.Pace, 1) > 1 {
		return
	}
	j.anchor = []*story.Message{j.a.Messages[at]}
	if s := j.v.Cause.Subject; s == nil || !j.named(s.Name) || j.a.Product.Name != "" && strings.EqualFold(s.Name, j.a.Product.Name) {
		if found := j.subject(h.Sign.Class); found != nil {
			j.v.Cause.Subject = found
		}
	}
}

// ownFactor is what is left of a sign that an exit code below the engine's
// shows: half of the vendors count their own reasons.
const ownFactor = 0.5

// nearness is what signs' data call it.
var nearness = map[string]evidence.Nearness{"nothing": evidence.Nothing, "echo": evidence.Echo, "tells": evidence.Tells}

// heaviest is the sign that speaks most for a class, -1 when none does that
// says more than that something failed.
func heaviest(proposals []evidence.Proposal, class string) int {
	best := -1
	for i, p := range proposals {
		if p.Class == class && p.Says != evidence.Nothing && p.Score >= leastSure && (best < 0 || p.Weight() > proposals[best].Weight()) {
			best = i
		}
	}
	return best
}

// proposed are the causes that signs propose.
func proposed(hits []signs.Hit) (all []evidence.Proposal) {
	for _, h := range hits {
		title, _ := signs.Fill(h.Sign.Title, h.Captures)
		all = append(all, evidence.Proposal{Class: h.Sign.Class, ID: h.Sign.ID, Title: title, Score: h.Score,
			Says: nearness[h.Sign.Says], Lines: h.Lines})
	}
	return all
}

// fromWords makes a cause of what the log's own words and numbers say.
func (j *judge) fromWords(top evidence.Hypothesis) {
	first := top.Points[0]
	c := Cause{Class: new(top.Class), Title: titles[top.Class]}
	kind := first.Kind
	if kind == "" && top.Class == "permission" && first.Line != nil && readOnly.MatchString(firstLine(first.Line.Text)) {
		kind = "read-only"
	}
	if of, known := specials[kind]; known {
		c.Title, j.special = of.title, &of
	}
	c.Summary = c.Title
	switch {
	case first.Line != nil && first.Code == nil && first.Compared:
		c.Summary += ": " + first.What
	case first.Line != nil:
		c.Summary += fmt.Sprintf(": %s", story.Clip(strings.TrimSpace(firstLine(first.Line.Text)), 200))
	}
	for _, p := range top.Points {
		if p.Code != nil {
			c.Message = p.Code
			break
		}
	}
	j.v.Cause, j.v.Sign = c, ""
}

// mostAnchors is how many lines a verdict hangs on; a person reads as many.
const mostAnchors = 4

// fromPoints adds the lines that speak most for the cause, those in which it
// broke, and what they name.
func (j *judge) fromPoints(top evidence.Hypothesis) {
	least := top.Points[0].Weight / 3
	if j.compared = top.Points[0].Compared; j.compared { // where it was found wanting is said in fewer words
		least /= 2
	}
	add := func(m *story.Message) {
		if m != nil && len(j.anchor) < mostAnchors && !slices.Contains(j.anchor, m) {
			j.anchor = append(j.anchor, m)
		}
	}
	// The last line only says again what one before it told in words.
	first, e := top.Points[0], j.a.Exit
	ofEnd := len(j.anchor) == 1 && e != nil && j.anchor[0].Line == e.Line
	if ofEnd && first.Root && first.Line != nil && first.Line.Line < e.Line {
		j.anchor = []*story.Message{first.Line}
	} else if m := j.toldBefore(); m != nil {
		j.anchor = append([]*story.Message{m}, slices.DeleteFunc(j.anchor, func(a *story.Message) bool { return a == m })...)
	}
	for _, p := range top.Points {
		if p.Weight >= least {
			add(p.Line)
		}
	}
	// Beside errors, a warning that speaks for no cause proves nothing.
	errs := len(j.anchor) > 0 && j.anchor[0].Kind <= story.KindDebug
	for _, m := range j.said.Broke() {
		if m.Kind <= story.KindDebug || j.bearsOn(m, errs) {
			add(m)
		}
	}
	if sub := j.v.Cause.Subject; sub == nil || !j.named(sub.Name) || names.IsCall(sub.Name) ||
		j.broke != nil && j.a.Dialect == story.Generic && strings.EqualFold(sub.Name, j.broke.Name) ||
		j.a.Product.Name != "" && strings.EqualFold(sub.Name, j.a.Product.Name) {
		if found := j.subject(top.Class); found != nil {
			j.v.Cause.Subject = found
		} else if sub == nil && top.Class == "command-line" { // what else speaks for it may name the answer file
			var lines []*story.Message
			for _, p := range top.Points {
				if p.Line != nil {
					lines = append(lines, p.Line)
				}
			}
			j.v.Cause.Subject = j.subjectIn(lines, []names.Kind{names.Path, names.File}, anything)
		}
	}
}

// fewWords is how many words a line has that says a number and nothing of it.
const fewWords = 3

// toldBefore is the error that told in words the number that the telling line
// only says once more; nil where none did.
func (j *judge) toldBefore() *story.Message {
	if len(j.anchor) == 0 || len(strings.Fields(j.anchor[0].Text)) > fewWords {
		return nil
	}
	number := wholeNumber.FindString(j.anchor[0].Text)
	at := slices.IndexFunc(j.a.Messages, func(m *story.Message) bool {
		return number != "" && (m.Kind <= story.KindWarning || slices.Contains(j.anchor, m)) && strings.Contains(m.Text, number)
	})
	if at < 0 || j.a.Messages[at].Line >= j.anchor[0].Line {
		return nil
	}
	return j.a.Messages[at]
}

// bearsOn says whether a warning among the lines in which it broke has to do
// with the cause: it speaks for one, or, where no error is told, is by who told
// it.
func (j *judge) bearsOn(m *story.Message, errs bool) bool {
	return len(evidence.CluesIn(strings.ToLower(m.Text))) > 0 ||
		!errs && (!speaks(m) || slices.ContainsFunc(j.anchor, func(a *story.Message) bool { return a.Source == m.Source || !speaks(a) }))
}

// wholePaths puts the whole of a path in place of the part before its first
// blank that an expression caught.
func (j *judge) wholePaths() {
	sub := j.v.Cause.Subject
	if sub == nil || len(sub.Name) < 3 {
		return
	}
	for _, m := range j.anchor {
		for _, n := range names.In(m.Text) {
			if (n.Kind == names.Path || n.Kind == names.Key) && len(n.Text) > len(sub.Name) && strings.EqualFold(n.Text[:len(sub.Name)], sub.Name) {
				whole := strings.TrimRight(n.Text, `\/`)
				for k, v := range j.caps {
					if v == sub.Name {
						j.caps[k] = whole
					}
				}
				j.v.Cause.Title = strings.ReplaceAll(j.v.Cause.Title, sub.Name, whole)
				j.v.Cause.Summary = strings.ReplaceAll(j.v.Cause.Summary, sub.Name, whole)
				sub.Name = whole
				return
			}
		}
	}
}

// named says whether a name stands in the lines that the verdict hangs on; a
// name that a sign only fills in, such as the product's, says less than theirs.
func (j *judge) named(name string) bool {
	if name = strings.ToLower(name); strings.Trim(name, "0123456789.-x") == "" { // a number is no name
		return false
	}
	return slices.ContainsFunc(j.a.Messages, func(m *story.Message) bool {
		near := slices.ContainsFunc(j.anchor, func(a *story.Message) bool { n := j.a.Apart(a, m); return n <= around && -n <= around })
		return near && strings.Contains(strings.ToLower(unescape(m.Text)), name)
	})
}

// titles are the causes in a few words where no sign has better ones.
var titles = map[string]string{
	"permission": "Access was refused", "elevation": "The setup lacks the rights of an administrator",
	"service": "A service does not start, or is not there", "registry": "A key of the registry cannot be used",
	"condition": "The machine does not meet what the setup asks for", "prerequisite": "Something that must be there first is missing",
	"custom-action": "A program of the setup's own failed", "source": "What is to be installed cannot be reached",
	"cached-package": "The OS's copy of the package is missing", "corrupt": "A file of the setup is damaged",
	"in-use": "A file is held by a program that runs", "busy": "Another installation is under way, or a restart has to come first", "space": "There is too little space",
	"path": "A path leads nowhere, or is not valid", "policy": "A policy forbids it",
	"installer-service": "The installer service does not work",
	"component-store":   "The OS's component store is damaged", "security-software": "Protection software stepped in",
	"network": "A server cannot be reached as it should be", "platform": "This is not for this processor type or OS",
	"leftover": "Something that an earlier setup left is in the way", "command-line": "The setup was called wrongly",
	"database": "The package or a database of its own is wrong", "cancelled": "Somebody stopped it",
}
