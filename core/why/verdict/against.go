// This file compares a setup that failed with the same one where it worked.

package verdict

import (
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
)

// A Parting is where a setup that failed parts from the same one where it
// worked.
type Parting struct {
	At          *PartedAt    `json:"at"`          // nil when both go the same way as far as they are kept
	Differences []Difference `json:"differences"` // of what was given before it
	Explains    bool         `json:"explains"`    // one of them is what the verdict is about
}

// A PartedAt is the first step that the good log has not, or has with another
// end.
type PartedAt struct {
	Action   string `json:"action,omitempty"`    // the step, where the log names steps
	Line     int    `json:"line"`                // in the log of the one that failed
	Text     string `json:"text,omitempty"`      // of that line
	GoodLine int    `json:"good_line,omitempty"` // of the same step in the good log; 0 where it has none
}

// A Difference is something that the two were given differently.
type Difference struct {
	Kind  string `json:"kind"`  // property, policy, value or version
	Name  string `json:"name"`  // of it
	Here  string `json:"here"`  // where it failed; empty where it is not given
	There string `json:"there"` // where it worked
	Tells bool   `json:"tells"` // the verdict speaks of it
}

const (
	mostDifferences = 40  // that are told; those that the verdict speaks of come first
	longestValue    = 200 // bytes of a value that are compared
)

// Against compares the setup that failed, told by bad, with the same one where
// it worked.
func (v *Verdict) Against(bad, good *story.Story) Parting {
	p := Parting{Differences: []Difference{}}
	a, b := bad.Last(), good.Last()
	if a == nil || b == nil {
		return p
	}
	if p.At = v.partedAction(a, b); p.At == nil {
		p.At = partedLine(a, b)
	}
	// What only one side has counts for policies in any case; a property that
	// the good run lacks is mostly one that came of the failure itself.
	add := func(kind string, here, there map[string]story.Property) {
		for name, x := range here {
			if y, ok := there[name]; differs(x.Value, y.Value) && !moving(name) && (ok || kind == "policy") {
				p.Differences = append(p.Differences, Difference{Kind: kind, Name: name, Here: x.Value, There: y.Value})
			}
		}
		for name, y := range there {
			if _, ok := here[name]; !ok && !moving(name) && y.Value != "" {
				p.Differences = append(p.Differences, Difference{Kind: kind, Name: name, There: y.Value})
			}
		}
	}
	add("property", a.Properties, b.Properties)
	add("policy", a.Policies, b.Policies)
	if a.Product.Version != b.Product.Version {
		p.Differences = append(p.Differences,
			Difference{Kind: "version", Name: a.Product.Name, Here: a.Product.Version, There: b.Product.Version})
	}
	if a.Dialect != story.Engine {
		add("value", valuesBefore(a, p.At), valuesBefore(b, nil))
	}
	said := ""
	if s := v.Cause.Subject; s != nil {
		said = strings.ToLower(s.Name)
	}
	for _, l := range v.Evidence {
		said += " " + strings.ToLower(l.Text)
	}
	for i := range p.Differences {
		d := &p.Differences[i]
		// Versions and names are told apart in every comparison; a difference
		// explains the failure only where the failing lines speak of it.
		d.Tells = d.Name != "ProductName" && d.Kind != "version" && (spokenOf(said, d.Name) || spokenOf(said, d.Here))
		p.Explains = p.Explains || d.Tells
	}
	// The ones that explain it go first, so that the limit cuts the others.
	slices.SortStableFunc(p.Differences, func(x, y Difference) int {
		if x.Tells != y.Tells {
			if x.Tells {
				return -1
			}
			return 1
		}
		return strings.Compare(x.Kind+x.Name, y.Kind+y.Name)
	})
	p.Differences = p.Differences[:min(len(p.Differences), mostDifferences)]
	return p
}

// partedAction is the action that broke here, with its like in the good log;
// nil when the log names none.
func (v *Verdict) partedAction(a, b *story.Attempt) *PartedAt {
	if v.BrokeAt.Action == nil {
		return nil
	}
	name := *v.BrokeAt.Action
	of := func(x *story.Attempt) *story.Action {
		at := slices.IndexFunc(x.Actions, func(y *story.Action) bool { return y.Name == name && y.Phase != story.Rollback })
		if at < 0 {
			return nil
		}
		return x.Actions[at]
	}
	here := of(a)
	if here == nil {
		return nil
	}
	at := &PartedAt{Action: name, Line: here.Line, Text: here.EndText}
	if l := v.ProofLine(); l.Line > 0 {
		at.Line, at.Text = l.Line, l.Text
	}
	if good := of(b); good != nil {
		at.GoodLine = good.Line
	}
	return at
}

// partedLine finds the first warning or error here whose like the good log has
// not.
func partedLine(a, b *story.Attempt) *PartedAt {
	seen := map[string]int{}
	for _, m := range b.Messages {
		seen[like(m.Text)] = m.Line
	}
	for _, m := range a.Messages {
		if m.Kind <= story.KindWarning && seen[like(m.Text)] == 0 {
			return &PartedAt{Line: m.Line, Text: firstLine(m.Text)}
		}
	}
	return nil
}

// changing is what differs between two runs of the same: numbers, IDs, times.
var changing = lazy.MustCompile(`\{[0-9A-Fa-f-]{36}\}|0x[0-9A-Fa-f]+|\d+`)

// like is a text without what differs between two runs.
func like(text string) string { return changing.ReplaceAllString(firstLine(text), "#") }

// differs says whether two values differ in more than what changes from run to
// run.
func differs(x, y string) bool {
	if len(x) > longestValue || len(y) > longestValue {
		return x != y
	}
	return x != y && (like(x) != like(y) || !strings.Contains(x, `\`) && changing.ReplaceAllString(x, "") == "")
}

// moving says whether a property is another in every run.
func moving(name string) bool {
	switch strings.ToLower(name) {
	case "date", "time", "clientprocessid", "logontime", "msicurrenttime", "physicalmemory", "virtualmemory",
		"computername", "originaldatabase",
		"database", "sourcedir", "userssid", "usersid", "msilogfilelocation", "packagecode", "primaryvolumespaceavailable",
		"primaryvolumespacerequired", "primaryvolumespaceremaining", "screenx", "screeny", "outofdiskspace":
		return true
	}
	return strings.HasPrefix(name, "log of ")
}

// given is a name with its value as foreign logs tell what they found:
// name=value, "name: value".
var given = lazy.MustCompile(`([A-Za-z][\w.-]{2,40})\s?(?:=|: )\s?"?([^\s",;=]{1,80})`)

// mostGiven is how many values of a foreign log are compared.
const mostGiven = 2000

// valuesBefore are the values that a log tells before it parts.
func valuesBefore(a *story.Attempt, at *PartedAt) map[string]story.Property {
	values := map[string]story.Property{}
	for _, m := range a.Messages {
		if at != nil && m.Line > at.Line || len(values) >= mostGiven {
			break
		}
		for _, g := range given.FindAllStringSubmatch(firstLine(m.Text), 8) {
			if _, known := values[g[1]]; !known {
				values[g[1]] = story.Property{Place: m.Place, Value: g[2]}
			}
		}
	}
	return values
}

// spokenOf says whether a text, in small letters, speaks of a name of some
// length.
func spokenOf(said, name string) bool {
	const telling = 3 // shorter ones stand in any text
	name = strings.ToLower(strings.TrimRight(name, `\/`))
	return len(name) >= telling && strings.Contains(said, name)
}
