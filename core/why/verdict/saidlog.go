// This file judges lines of which nobody knows whose they are by their words
// alone.

package verdict

import (
	"context"
	"slices"
	"strings"

	"hollowkey/core/logs/story"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
)

// What a dialog says in words of its own, or an action of a package prints
// before it fails, is read as a log would be that ends with it.

const (
	mostSaid    = 4096 // bytes of a text that are read so; a dialog says less
	mostPrinted = 40   // lines of an action, the last ones: what it says of its end
)

// plainly judges lines by their words alone, as those of a setup that failed
// behind the last of them. at is the line, from 1 on, that tells the cause; ok
// says whether any does.
// With failing, each line tells of a failure, as what somebody copied from a
// dialog does; else their words show which does.
func plainly(lines []string, failing bool, opt Options) (v *Verdict, at int, ok bool) {
	first, each := "00:00:00 ", "00:00:01 "
	if failing {
		first, each = "2026-05-04 09:12:01 [INFO] ", "2026-05-04 09:12:02 [ERROR] "
	}
	var log strings.Builder
	log.WriteString(first + "setup begins\n")
	for _, l := range lines {
		log.WriteString(each + l + "\n")
	}
	log.WriteString(strings.Replace(each, ":01 ", ":02 ", 1) + "setup failed\n")
	v, err := Reach(context.Background(), Input{"what was said", strings.NewReader(log.String())}, opt)
	if err != nil || v.Outcome != story.Failed || v.Cause.Class == nil || *v.Cause.Class == "unknown" {
		return nil, 0, false
	}
	if l := v.ProofLine().Line - 1; l >= 1 && l <= len(lines) {
		at = l
	}
	return v, at, true
}

// fromWordsSaid judges a text that no sign knows, by its words; it says whether
// they name a cause.
func (j *judge) fromWordsSaid(text string) bool {
	lines := saidLines(text)
	if lines == nil {
		return false
	}
	of, _, ok := plainly(lines, true, j.opt)
	if ok && len(of.Hypotheses) > 0 && of.Hypotheses[0].OnlyMentioned() { // words that tell of no failure only mention something
		of, _, ok = plainly(lines, false, j.opt)
	}
	if !ok {
		return false
	}
	v := j.v
	v.Cause, v.Sign, v.Hypotheses, v.Machine = of.Cause, of.Sign, of.Hypotheses, of.Machine
	v.Cause.Confidence = round(of.Cause.Confidence * saidFactor)
	v.Remedies = append([]step.Remedy{}, of.Remedies...)
	v.checkable, v.mayStep = of.checkable, of.mayStep
	return true
}

// saidLines are the lines of a text that somebody gives for what a dialog said;
// nil where it is longer than any dialog.
func saidLines(text string) (lines []string) {
	if len(text) > mostSaid {
		return nil
	}
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line != "" {
			lines = append(lines, line)
		}
	}
	return lines
}

// subjectSaid is what a text is about whose cause a sign knows that names
// nothing, where its words say the same cause.
func subjectSaid(text, class string, opt Options) *signs.Subject {
	opt.Machine = nil // it is asked of the whole verdict
	of, _, ok := plainly(saidLines(text), true, opt)
	if !ok || *of.Cause.Class != class {
		return nil
	}
	return of.Cause.Subject
}

// ownSentences is the cause that the package's own action printed in words
// before it failed, where it printed no code that names one.
func (j *judge) ownSentences() (Cause, bool) {
	switch {
	case j.a.Dialect == story.Response:
	case j.broke == nil, j.a.Dialect != story.Chain && (j.a.Dialect != story.Engine || !j.broke.Custom):
		return Cause{}, false
	}
	// Only what the action itself printed: the engine's own lines say that it
	// failed, not why.
	var printed []*story.Message
	for _, l := range j.scene.Lines {
		text := firstLine(l.Text)
		spoken := l.Kind == story.KindText || l.Kind == story.KindInfo || j.a.Dialect != story.Engine && l.Kind <= story.KindWarning
		inside := j.a.Dialect == story.Response || l.Action != nil && l.Action.Within(j.broke)
		if spoken && inside && l.Weight >= besideWeight && l.Number == 0 && !engineResult.MatchString(text) && strings.TrimSpace(text) != "" {
			printed = append(printed, l.Message)
		}
	}
	// The last lines before it failed tell why; a program may print thousands
	// before.
	slices.SortFunc(printed, func(a, b *story.Message) int { return a.Line - b.Line })
	printed = printed[max(0, len(printed)-mostPrinted):]
	if len(printed) == 0 {
		return Cause{}, false
	}
	var lines []string
	for _, m := range printed {
		text := strings.TrimSpace(firstLine(m.Text))
		if _, value, ok := strings.Cut(text, "="); ok && j.a.Dialect == story.Response {
			text = strings.TrimSpace(value)
		}
		lines = append(lines, text)
	}
	opt := j.opt
	opt.Machine = nil // it is asked of the whole verdict
	of, at, ok := plainly(lines, false, opt)
	least := leastPrinted
	if ok && *of.Cause.Class == "path" { // what is not there is spoken of all the time
		least = surelyPrinted
	}
	if !ok || *of.Cause.Class == "custom-action" || *of.Cause.Class == "cancelled" || at == 0 || of.Cause.Confidence < least {
		return Cause{}, false
	}
	c := of.Cause
	c.Confidence *= printedFactor
	if j.a.Dialect == story.Engine {
		c.Summary = j.broke.Name + ", an action of the package's own, failed and said: " + strings.TrimRight(story.Clip(lines[at-1], 160), ".")
	}
	j.anchor = append(j.anchor, printed[at-1])
	return c, true
}

// How sure such a verdict is at least that goes before "the package's own
// action failed": a guess does not.
const (
	leastPrinted  = 0.33
	surelyPrinted = 0.55
)

// printedFactor is what is left of such a verdict: the action may have failed
// of something else than what it speaks of.
const printedFactor = 0.9
