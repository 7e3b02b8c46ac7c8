// Package sequence tells in which order a package's actions run, what each of
// them does, and on which condition.
package sequence

import (
	_ "embed"
	"slices"
	"strings"
	"sync"

	"hollowkey/core/package/condition"
	"hollowkey/core/package/installdb"
)

//go:embed actions.txt
var actionsText string

// standard are the engine's own actions with their phrases.
var standard = sync.OnceValue(func() map[string]string {
	m := map[string]string{}
	for line := range strings.Lines(actionsText) {
		if name, phrase, ok := strings.Cut(strings.TrimSpace(line), "\t"); ok {
			m[name] = phrase
		}
	}
	return m
})

// Phrase says what one of the engine's own actions does; empty for another.
func Phrase(action string) string { return standard()[action] }

// The sequence tables, in the order in which an install goes through them.
const (
	Interface = "InstallUISequence"
	Execute   = "InstallExecuteSequence"
)

// An Action is one row of a sequence.
type Action struct {
	Table     string         `json:"table"`               // of the sequence
	Name      string         `json:"name"`                // as the table has it
	Number    int            `json:"number"`              // where it stands; below 0 ends the interface
	Kind      string         `json:"kind"`                // standard, custom, dialog, unknown
	Does      string         `json:"does"`                // of the engine's own, in a phrase
	Custom    *Custom        `json:"custom,omitempty"`    // nil for one of the engine's own
	Condition string         `json:"condition,omitempty"` // as the table has it
	Answer    string         `json:"answer"`              // runs, skipped, unknown, at the end, never
	Problem   string         `json:"problem,omitempty"`   // why the condition cannot be read
	expr      condition.Expr // nil stands for true
}

// Expr is the action's condition; nil is true.
func (a Action) Expr() condition.Expr { return a.expr }

// ends are what negative numbers stand for.
var ends = map[int]string{-1: "when the setup has succeeded", -2: "when the user cancels", -3: "when the setup has failed",
	-4: "when the setup is suspended"}

// Read gives the actions of a sequence table in their order, with their
// conditions worked out. Rows without a number never run and come last.
func Read(db *installdb.Database, table string, lookup condition.Lookup) ([]Action, error) {
	t, err := db.TableOrEmpty(table)
	if err != nil {
		return nil, err
	}
	customs, err := db.TableOrEmpty("CustomAction")
	if err != nil {
		return nil, err
	}
	byName := map[string]installdb.Row{}
	for _, r := range customs.Rows {
		byName[customs.Get(r, "Action").Text] = r
	}
	dialogs, err := db.TableOrEmpty("Dialog")
	if err != nil {
		return nil, err
	}
	isDialog := map[string]bool{}
	for _, r := range dialogs.Rows {
		isDialog[dialogs.Get(r, "Dialog").Text] = true
	}
	var list []Action
	for _, r := range t.Rows {
		a := Action{Table: table, Name: t.Get(r, "Action").Text, Number: int(t.Get(r, "Sequence").Int), Condition: t.Get(r, "Condition").Text}
		if c, ok := byName[a.Name]; ok {
			d := Decode(int(customs.Get(c, "Type").Int), customs.Get(c, "Source").Text, customs.Get(c, "Target").Text)
			a.Kind, a.Custom, a.Does = "custom", &d, d.Does
		} else if p := Phrase(a.Name); p != "" {
			a.Kind, a.Does = "standard", p
		} else if isDialog[a.Name] {
			a.Kind, a.Does = "dialog", "shows a dialog"
		} else {
			a.Kind, a.Does, a.Problem = "unknown", "nothing in the package says", "no custom action, dialog or action of the engine has this name"
		}
		a.decide(lookup)
		list = append(list, a)
	}
	slices.SortStableFunc(list, func(a, b Action) int { return place(a) - place(b) })
	return list, nil
}

// place orders actions: by number, then those at the end, then those that never
// run.
func place(a Action) int {
	switch {
	case a.Number > 0:
		return a.Number
	case a.Number < 0:
		return 1_000_000 - a.Number
	}
	return 2_000_000
}

// decide works an action's condition out; what only the run can tell stays
// open.
func (a *Action) decide(lookup condition.Lookup) {
	expr, err := condition.Parse(a.Condition)
	if err != nil {
		a.Problem = err.Error()
		a.Answer = "unknown"
		return
	}
	a.expr = expr
	answer := condition.Eval(expr, lookup)
	switch {
	case a.Number == 0:
		a.Answer = "never"
	case answer == condition.False:
		a.Answer = "skipped"
	case answer == condition.CannotTell:
		a.Answer = "unknown"
	case a.Number < 0:
		a.Answer = "at the end"
		a.Does += ", " + ends[a.Number]
	default:
		a.Answer = "runs"
	}
}
