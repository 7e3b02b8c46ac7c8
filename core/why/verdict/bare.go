// This file takes a cause from a number or an action alone, where no sign and
// no words tell one.

package verdict

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/codes"
	"hollowkey/core/why/signs"
)

// bare is the cause that the best message, the exit code or the action give
// without a sign.
func (j *judge) bare() (Cause, bool) {
	var best *signs.Weighed
	for i, l := range j.scene.Lines {
		if l.Number == 0 || l.Kind == story.KindInfo || best != nil && l.Weight <= best.Weight+0.001 {
			continue
		}
		if e, ok := codes.EngineMessage(l.Number); !ok || e.Class == "" {
			continue
		}
		best = &j.scene.Lines[i]
	}
	if best != nil && best.Weight > leastSure {
		return j.fromMessage(best), true
	}
	// Elsewhere no message has a number, and the line with the plainest error
	// has to do.
	if j.a.Dialect != story.Engine {
		if c, ok := j.mostTelling(); ok {
			return c, true
		}
	}
	// 1603 with an action that broke says less than the action does.
	if e := j.a.Exit; e != nil && (j.broke == nil || e.Code != 1603) {
		if x, ok := codes.ExitCode(e.Code); ok && x.Class != "" {
			j.anchor = append(j.anchor, &story.Message{Place: e.Place, Raw: e.Text, Text: e.Text, Number: e.Code})
			return Cause{Class: &x.Class, Message: &e.Code, Title: x.Meaning, Confidence: bareExit,
				Summary: fmt.Sprintf("the setup ended with %d: %s; usual: %s", e.Code, x.Meaning, x.Causes)}, true
		}
	}
	if j.broke != nil && j.broke.Custom && j.a.Dialect == story.Engine {
		c := Cause{Class: new("custom-action"), Title: "an action of the package's own failed", Confidence: bareCustom,
			Subject: &signs.Subject{Kind: "program", Name: j.broke.Name},
			Summary: fmt.Sprintf("%s is an action of the package's own; it failed, and the log does not say why", j.broke.Name)}
		// Packages name their checks after what they check, and the log has its
		// value.
		if name, value, ok := j.checked(); ok {
			c.Class, c.Title = new("condition"), "a check of the package's own refused"
			c.Subject = &signs.Subject{Kind: "property", Name: name}
			c.Summary = fmt.Sprintf("%s, a check in the package, failed without a message; the property %s is %q", j.broke.Name, name, value)
		}
		// The action did not fail: it was running when the log was taken.
		if j.v.Outcome == story.Unfinished {
			c.Summary = fmt.Sprintf("the log stops while %s, an action of the package's own, was running", j.broke.Name)
			c.Title, c.Class = "the log stops while an action was running", new("unknown")
		}
		return c, true
	}
	return Cause{}, false
}

// checkAction is how the package's own checks are named: a verb and what it
// looks at.
var checkAction = lazy.MustCompile(`^_?(?:CA_?)?(?:Check|Verify|Validate|Require|Test|Need|Is|Ensure|Assert)_?(\w{3,})$`)

// checked is the property that the action that broke looks at, as its name
// says.
func (j *judge) checked() (name, value string, ok bool) {
	m := checkAction.FindStringSubmatch(j.broke.Name)
	if m == nil {
		return "", "", false
	}
	name = strings.ToUpper(m[1])
	p, ok := j.a.Properties[name]
	return name, p.Value, ok
}

// fromMessage takes the cause from an engine message that no sign knows: its
// number tells the class, its fields what it is about. That is less than a sign
// tells, and weighs less.
func (j *judge) fromMessage(l *signs.Weighed) Cause {
	e, _ := codes.EngineMessage(l.Number)
	fields := l.Fields
	for _, o := range j.scene.Lines { // the note of the same message has its fields apart
		if len(fields) == 0 && o.Number == l.Number {
			fields = o.Fields
		}
	}
	c := Cause{Class: new(e.Class), Message: new(l.Number), Confidence: bareMessage * l.Weight}
	c.Title = fillFields(e.Meaning, fields)
	c.Summary = c.Title + "; usual: " + e.Causes
	if kind, at, ok := strings.Cut(e.Subject, ":"); ok {
		n, err := strconv.Atoi(at)
		if err == nil && n <= len(fields) {
			name := fields[n-1]
			if figures(name) { // some write the system's error in the place of the thing
				name = strings.Join(slices.DeleteFunc(slices.Clone(fields[1:]), figures), " ")
			}
			if name != "" {
				c.Subject = &signs.Subject{Kind: kind, Name: strings.TrimRight(name, `\/`)}
			}
		}
	}
	j.anchor = append(j.anchor, l.Message)
	for _, o := range j.scene.Lines {
		if o.Number == l.Number && o.Message != l.Message && o.Weight > leastSure && len(j.anchor) < 4 {
			j.anchor = append(j.anchor, o.Message)
		}
	}
	return c
}

// figures says whether a field is a number alone.
func figures(field string) bool { return strings.Trim(field, "-0123456789") == "" }

// fillFields puts a record's fields where "[n]" stands; "it" where they are
// not known.
func fillFields(text string, fields []string) string {
	for n := 1; n <= 9; n++ {
		mark := "[" + strconv.Itoa(n) + "]"
		if !strings.Contains(text, mark) {
			continue
		}
		v := "…"
		if n <= len(fields) && fields[n-1] != "" {
			v = fields[n-1]
		}
		text = strings.ReplaceAll(text, mark, v)
	}
	return text
}

// stopped is the cause of a setup that was cancelled.
func stopped() Cause {
	return Cause{Class: new("cancelled"), Title: "the setup was cancelled", Confidence: 0.9,
		Summary: "somebody or the calling program stopped the setup"}
}

// unknown says where it broke, and no more.
func (j *judge) unknown() {
	c := Cause{Class: new("unknown"), Title: "the log does not say why", Confidence: 0.3}
	switch {
	case j.v.Outcome == story.Cancelled:
		c = stopped()
	case j.v.Outcome == story.Unfinished && j.broke != nil:
		c.Title = "the log stops in the middle"
		c.Summary = fmt.Sprintf("the log stops at line %d while %s was running: the setup was ended, hangs, or still runs", j.a.LastLine,
			j.broke.Name)
	case j.v.Outcome == story.Unfinished:
		c.Title = "the log stops without an end"
		c.Summary = fmt.Sprintf("the log stops at line %d, and no line tells an end: the setup was ended, hangs, or still runs", j.a.LastLine)
	case j.broke != nil:
		c.Summary = fmt.Sprintf("%s failed at line %d, and no line says why", j.broke.Name, j.broke.EndLine)
	case j.v.Outcome == story.Unknown:
		c.Summary = "the log does not say how the setup ended"
	default:
		c.Summary = "the setup failed, and no line says where or why"
	}
	j.v.Cause = c
}
