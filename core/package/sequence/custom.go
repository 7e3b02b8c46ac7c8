// This file puts custom actions into plain words.

package sequence

import (
	"fmt"
	"strings"
)

// The parts of a custom action's type. Source: the platform SDK's installer
// documentation, "Custom Action Types" and the pages below it.
const (
	baseMask      = 0x3F
	flagContinue  = 0x40   // its result is ignored
	flagAsync     = 0x80   // nobody waits for it
	passMask      = 0x300  // how often, or in which script
	flagInScript  = 0x400  // deferred
	flagNoImperso = 0x800  // as SYSTEM
	flag64Script  = 0x1000 // a script for a 64-bit host
	flagHidden    = 0x2000 // its data is kept out of the log
	flagTSAware   = 0x4000
)

// When says in which way a custom action runs.
type When string

// The ways.
const (
	Immediate When = "immediate"
	Deferred  When = "deferred"
	Rollback  When = "rollback"
	Commit    When = "commit"
)

// A Custom is a custom action in plain words.
type Custom struct {
	Type    int    `json:"type"`             // as the table has it
	Does    string `json:"does"`             // what is run, and from where
	When    When   `json:"when"`             // immediate, deferred, rollback, commit
	As      string `json:"as"`               // whose rights it has
	Waits   bool   `json:"waits"`            // the setup waits for its end
	Ignored bool   `json:"ignored"`          // its failure is ignored
	Hidden  bool   `json:"hidden,omitempty"` // its data is kept out of the log
	Once    string `json:"once,omitempty"`   // how often, where it is in both sequences
	Program bool   `json:"program"`          // runs a program or another setup
	Error   bool   `json:"error"`            // stops the setup with a message (type 19)
	Sets    string `json:"sets,omitempty"`   // the property or folder that it sets
	Source  string `json:"source,omitempty"` // as the table has it: a row, a folder, a property
	Target  string `json:"target,omitempty"` // as the table has it: a command line, an entry, a text

	From string `json:"from,omitempty"` // the table that holds what is run: Binary, File, Directory, Property
}

// Decode puts a row of the CustomAction table into words.
func Decode(kind int, source, target string) Custom {
	c := Custom{Type: kind, Source: source, Target: target, When: Immediate, Waits: kind&flagAsync == 0, Ignored: kind&flagContinue != 0}
	c.Hidden = kind&flagHidden != 0
	c.what(kind & baseMask)
	pass := kind & passMask
	switch {
	case kind&flagInScript == 0:
		c.As = "the user who runs the setup"
		c.Once = map[int]string{0x100: "skipped in the execute sequence if it ran in the interface sequence", 0x200: "once in each process",
			0x300: "in the execute sequence only if the interface sequence ran"}[pass]
	default:
		c.When = map[int]When{0: Deferred, 0x100: Rollback, 0x200: Commit, 0x300: Deferred}[pass]
		c.As = "the user who runs the setup"
		if kind&flagNoImperso != 0 {
			c.As = "SYSTEM"
		}
	}
	if !c.Waits && c.Ignored && c.Program {
		c.Once = "may go on running after the setup has ended"
	}
	return c
}

// what tells what is run. kind is the base type.
func (c *Custom) what(kind int) {
	from := func(table, words string) { c.From, c.Does = table, words }
	binary, file := fmt.Sprintf("from the package's own %q", c.Source), fmt.Sprintf("from the installed file %q", c.Source)
	with := ""
	if c.Target != "" {
		with = " with " + quote(c.Target)
	}
	switch kind {
	case 1:
		from("Binary", fmt.Sprintf("calls %s in a DLL %s", c.Target, binary))
	case 17:
		from("File", fmt.Sprintf("calls %s in a DLL %s", c.Target, file))
	case 2:
		from("Binary", "runs a program "+binary+with)
	case 18:
		from("File", "runs a program "+file+with)
	case 34:
		from("Directory", fmt.Sprintf("runs %s in the folder [%s]", quote(c.Target), c.Source))
	case 50:
		from("Property", fmt.Sprintf("runs the program that [%s] names%s", c.Source, with))
	case 5, 6:
		from("Binary", fmt.Sprintf("runs a %s %s%s", scriptKind(kind), binary, call(c.Target)))
	case 21, 22:
		from("File", fmt.Sprintf("runs a %s %s%s", scriptKind(kind), file, call(c.Target)))
	case 37, 38:
		from("", fmt.Sprintf("runs a %s that stands in the table", scriptKind(kind)))
	case 53, 54:
		from("Property", fmt.Sprintf("runs a %s that the property %s holds%s", scriptKind(kind), c.Source, call(c.Target)))
	case 19:
		from("", "stops the setup and says: "+quote(c.Target))
		c.Error = true
	case 35:
		from("Directory", fmt.Sprintf("sets the folder %s to %s", c.Source, quote(c.Target)))
		c.Sets = c.Source
	case 51:
		from("", fmt.Sprintf("sets the property %s to %s", c.Source, quote(c.Target)))
		c.Sets = c.Source
	case 7, 23, 39:
		from("", fmt.Sprintf("runs another setup, %q%s", c.Source, with))
	default:
		from("", fmt.Sprintf("is of type %d, which is not documented", kind))
	}
	switch kind {
	case 2, 18, 34, 50, 7, 23, 39:
		c.Program = true
	}
}

// scriptKind is the language of a script action. Source: the platform SDK,
// "Summary List of All Custom Action Types".
func scriptKind(kind int) string {
	if kind%16 == 5 {
		return "JScript"
	}
	return "VBScript"
}

// call names the function that is called, where the action names one.
func call(function string) string {
	if function == "" {
		return ""
	}
	return ", function " + function
}

// quote puts a text in quotation marks, on one line.
func quote(t string) string { return `"` + strings.ReplaceAll(t, "\n", " ") + `"` }

// Manner says when it runs, as whom, and what comes of a failure, in one
// phrase.
func (c Custom) Manner() string {
	if c.Error || c.Sets != "" && c.When == Immediate {
		return string(c.When)
	}
	parts := []string{string(c.When), "as " + c.As}
	switch {
	case !c.Waits:
		parts = append(parts, "not waited for")
	case c.Ignored:
		parts = append(parts, "a failure is ignored")
	default:
		parts = append(parts, "a failure stops the setup")
	}
	if c.When == Rollback {
		parts = []string{"only when the setup is rolled back", "as " + c.As}
	}
	if c.Once != "" {
		parts = append(parts, c.Once)
	}
	return strings.Join(parts, ", ")
}
