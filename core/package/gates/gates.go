// This file finds what can stop a setup, and works each gate out on a machine.

package gates

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/condition"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/sequence"
)

// Kind is what a gate is.
type Kind string

// The kinds of gates.
const (
	Launch   Kind = "launch condition"
	Refusal  Kind = "error action" // a type 19 custom action
	Program  Kind = "program"      // a prerequisite or helper that must succeed
	Upgrade  Kind = "other version"
	Platform Kind = "platform"
	Engine   Kind = "engine version"
)

// Answer is what a gate does on the machine.
type Answer string

// The answers.
const (
	Passes     Answer = "passes"
	Fails      Answer = "fails"
	CannotTell Answer = "unknown"
)

// A Gate is one thing that can stop the setup.
type Gate struct {
	Kind      Kind     `json:"kind"`                // which table or rule it comes from
	Table     string   `json:"table,omitempty"`     // empty for a rule of the engine
	Row       string   `json:"row,omitempty"`       // its key
	Condition string   `json:"condition,omitempty"` // as the package has it
	Says      string   `json:"says,omitempty"`      // what the user reads, or what it does
	Answer    Answer   `json:"answer"`              // worked out for the machine
	Note      string   `json:"note,omitempty"`      // what else a person should know
	Why       []Reason `json:"why,omitempty"`       // the terms that decided
	Ways      []Way    `json:"ways,omitempty"`      // what would let it pass, the smallest change first
	Person    string   `json:"person,omitempty"`    // what somebody has to see to first; empty where the gate alone is at fault
}

// A Reason is one term that decided, with the values that were seen.
type Reason struct {
	Term   string `json:"term"`             // as it stands in the condition
	Holds  string `json:"holds"`            // true, false, unknown
	Symbol string `json:"symbol,omitempty"` // empty for a constant
	Value  string `json:"value"`            // its value there
	Known  bool   `json:"known"`            // false: run time decides
	Origin Origin `json:"origin,omitempty"` // where the value comes from
	Detail string `json:"detail,omitempty"` // the place in words
	Missed bool   `json:"missed,omitempty"` // a search found nothing, and the value is the package's own for that
}

// Find lists the gates of a package, worked out in the world. What cannot be
// worked out is a gate that cannot tell; an error means that the package cannot
// be read.
func Find(w *World) ([]Gate, error) {
	var list []Gate
	list = append(list, w.platform()...)
	list = append(list, w.launchConditions()...)
	for _, table := range []string{sequence.Execute, sequence.Interface} {
		actions, err := sequence.Read(w.db, table, w.Lookup)
		if err != nil {
			return nil, err
		}
		for _, a := range actions {
			if g, ok := w.actionGate(a); ok && !slices.ContainsFunc(list,
				func(o Gate) bool { return o.Kind == g.Kind && o.Row == g.Row && o.Condition == g.Condition }) {
				list = append(list, g)
			}
		}
	}
	return append(list, w.upgrades()...), w.err
}

// launchConditions judges the package's launch conditions. They are looked at
// only where the sequence has the action, under its condition.
func (w *World) launchConditions() (list []Gate) {
	t := w.table("LaunchCondition")
	where := w.scheduled("LaunchConditions")
	for _, r := range t.Rows {
		text := t.Get(r, "Condition").Text
		g := Gate{Kind: Launch, Table: t.Name, Row: text, Condition: text, Says: w.spoken(t.Get(r, "Description").Text)}
		w.judge(&g, text, true)
		switch {
		case len(where) == 0:
			g.Answer, g.Note = Passes, "no sequence runs LaunchConditions, so this is never checked"
			g.Ways = nil
		case !slices.Contains(where, sequence.Execute):
			g.Note = strings.TrimPrefix(g.Note+"; only the interface sequence checks it: a silent setup (/qn) passes", "; ")
		}
		list = append(list, g)
	}
	return list
}

// scheduled lists the sequences that run an action.
func (w *World) scheduled(action string) (tables []string) {
	for _, name := range []string{sequence.Execute, sequence.Interface} {
		t := w.table(name)
		for _, r := range t.Rows {
			if t.Get(r, "Action").Text != action || t.Get(r, "Sequence").Int <= 0 {
				continue
			}
			if e, err := condition.Parse(t.Get(r, "Condition").Text); err != nil || condition.Eval(e, w.Lookup) != condition.False {
				tables = append(tables, name)
			}
		}
	}
	return tables
}

// spoken is a message as the user sees it.
func (w *World) spoken(text string) string {
	if out, ok := w.Format(text); ok {
		return out
	}
	return text
}

// judge works a condition out and says why it came out so. wanted is the truth
// that lets the setup pass.
func (w *World) judge(g *Gate, text string, wanted bool) {
	e, err := condition.Parse(text)
	if err != nil {
		g.Answer, g.Note = CannotTell, err.Error()
		return
	}
	g.Answer = CannotTell
	switch condition.Eval(e, w.Lookup) {
	case condition.True:
		g.Answer = map[bool]Answer{true: Passes, false: Fails}[wanted]
	case condition.False:
		g.Answer = map[bool]Answer{true: Fails, false: Passes}[wanted]
	}
	seen := map[string]bool{}
	// Only the terms that decided are told: the others would not have changed
	// anything.
	for _, t := range condition.Deciders(e, w.Lookup) {
		if !seen[t.String()] {
			seen[t.String()] = true
			g.Why = append(g.Why, w.reasons(t)...)
		}
	}
	if g.Answer != Passes {
		g.Ways = w.ways(e, wanted, g)
	}
	if g.Answer == Fails && w.m != nil {
		if g.Person = w.person(e, wanted, g); strings.HasSuffix(g.Person, anyValue) {
			g.Ways = slices.DeleteFunc(g.Ways, func(way Way) bool { return way.Class == "property" })
		}
	}
}

// reasons tells a term with the value of each symbol in it.
func (w *World) reasons(term condition.Expr) (list []Reason) {
	holds := condition.Eval(term, w.Lookup).String()
	for _, s := range condition.Symbols(term) {
		k := w.Know(s)
		list = append(list, Reason{Term: term.String(), Holds: holds, Symbol: s.String(), Value: k.Text, Known: !k.Unknown, Origin: k.Origin,
			Missed: k.Missed, Detail: k.Detail})
	}
	if len(list) == 0 {
		list = append(list, Reason{Term: term.String(), Holds: holds, Known: true})
	}
	return list
}

// actionGate tells whether an action is there only to refuse: an error action,
// or a check that ends the setup by what it returns.
func (w *World) actionGate(a sequence.Action) (Gate, bool) {
	if a.Custom == nil || a.Number <= 0 {
		return Gate{}, false
	}
	g := Gate{Table: a.Table, Row: a.Name, Condition: a.Condition}
	switch {
	case a.Custom.Error:
		g.Kind, g.Says = Refusal, w.spoken(a.Custom.Target)
		w.judge(&g, a.Condition, false)
		if a.Condition == "" {
			g.Note = "it has no condition, so it always stops the setup"
		}
	case a.Custom.Program && a.Custom.Waits && !a.Custom.Ignored && a.Custom.When != sequence.Rollback:
		g.Kind, g.Says = Program, a.Does
		w.judge(&g, a.Condition, false)
		w.judgeProgram(&g, a)
	default:
		return Gate{}, false
	}
	return g, true
}

// judgeProgram refines what is known of a program that runs: it stops the
// setup for sure only when it is missing.
func (w *World) judgeProgram(g *Gate, a sequence.Action) {
	if g.Answer != Fails {
		if g.Answer == Passes {
			g.Note = "it is not run"
		}
		return
	}
	g.Answer, g.Note = CannotTell, "it is run, and stops the setup unless it ends with 0"
	path := ""
	// Where the program lies decides whether it can be looked for: in the
	// package, in a folder, or by a property.
	switch a.Custom.From {
	case "Property":
		path = w.Know(condition.Symbol{Name: a.Custom.Source}).Text
	case "Directory":
		if command, ok := w.Format(a.Custom.Target); ok {
			path = machine.ProgramOf(command)
			if folder, ok := w.Folder(a.Custom.Source); ok && !strings.Contains(path, ":") {
				path = folder + path
			}
		}
	case "Binary":
		if s, err := w.db.Stream("Binary." + a.Custom.Source); err == nil && s == nil {
			g.Answer, g.Note = Fails, fmt.Sprintf("it is to be run from Binary %q, which the package does not have", a.Custom.Source)
		}
		return
	}
	if len(path) > 2 && path[1] == ':' {
		if there, sure := w.there(path); sure && !there {
			g.Answer, g.Note = Fails, "it is run, and "+path+" is not on "+w.m.Name()
		}
	}
}

// upgrades tells which installed versions the package removes first, and which
// it only looks for.
func (w *World) upgrades() (list []Gate) {
	t := w.table("Upgrade")
	for _, r := range t.Rows {
		property := t.Get(r, "ActionProperty").Text
		g := Gate{Kind: Upgrade, Table: t.Name, Row: t.Key(r), Says: "versions " + versionRange(t, r) + " are removed first"}
		if t.Get(r, "Attributes").Int&upgradeOnlyDetect != 0 {
			g.Says = fmt.Sprintf("versions %s set %s", versionRange(t, r), property)
		}
		k := w.relatedRow(t, r)
		switch {
		case k.Unknown:
			g.Answer = CannotTell
		default:
			g.Answer = Passes
		}
		g.Note = k.Detail
		list = append(list, g)
	}
	return list
}

// versionRange puts the bounds of an Upgrade row into words.
func versionRange(t *installdb.Table, r installdb.Row) string {
	least, most, bits := t.Get(r, "VersionMin").Text, t.Get(r, "VersionMax").Text, t.Get(r, "Attributes").Int
	switch {
	case least == "" && most == "":
		return "of any number"
	case most == "" && bits&upgradeMinIn != 0:
		return least + " and newer"
	case most == "":
		return "newer than " + least
	case least == "" && bits&upgradeMaxIn != 0:
		return "up to " + most
	case least == "":
		return "older than " + most
	}
	return "from " + least + " to " + most
}

// newestEngine is the schema that the engine of present OS versions reads.
const newestEngine = 500

// platform judges what the summary information asks for.
func (w *World) platform() (list []Gate) {
	s, err := w.db.Summary()
	if err != nil {
		w.err = err
		return nil
	}
	want := s.Platform()
	g := Gate{Kind: Platform, Table: "summary", Row: "template", Condition: want, Answer: CannotTell}
	switch {
	// Packages for 32 bits run on all that is in use.
	case want == "" || strings.EqualFold(want, "Intel"):
		g.Answer, g.Says = Passes, "for every Windows on Intel processors and their successors"
	case w.m == nil:
		g.Says = "for " + want + " only"
	default:
		have := w.m.Facts().OS.Architecture
		g.Says = "for " + want + " only"
		g.Why = []Reason{{Term: "processor " + want, Symbol: "processor", Value: have, Known: true, Origin: BuiltIn,
			Detail: "architecture of " + w.m.Name()}}
		g.Answer = Fails
		if w.m.Facts().OS.Runs(want) {
			g.Answer = Passes
		} else {
			g.Ways = []Way{{Text: "take the vendor's package for " + have}}
		}
	}
	list = append(list, g)
	if n := s.Number(installdb.SummaryPages); n > newestEngine {
		list = append(list, Gate{Kind: Engine, Table: "summary", Row: "page count", Condition: strconv.Itoa(n), Answer: Fails,
			Says: "asks for a newer engine than there is"})
	}
	return list
}
