// Package gatefix turns a verdict "the package refused" into remedies with
// steps: it finds the package on the machine, works its gates out there, and
// proposes the smallest change that lets the one that refused pass.
package gatefix

import (
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/alter"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// classes are the causes that a gate of the package can stand behind.
var classes = []string{"condition", "prerequisite", "custom-action", "platform", "leftover"}

// Concerns says whether a verdict may be about a gate of its package.
func Concerns(v *verdict.Verdict) bool {
	return !v.Worked() && v.Package != "" && v.Cause.Class != nil && (slices.Contains(classes, *v.Cause.Class) || len(v.Logs) == 0)
}

// Add puts remedies with steps in front of a verdict's own, when one of the gates of its
// package refused the machine. The finding says which.
func Add(v *verdict.Verdict, db *installdb.Database, m machine.Machine) {
	if !Concerns(v) {
		return
	}
	list, err := gates.Find(gates.NewWorld(db, m, nil))
	if err != nil {
		v.Machine = append(v.Machine, signs.Finding{Check: "package-gates", Answer: "unknown", Text: v.Package + ": " + err.Error()})
		return
	}
	g, ok := refused(v, list)
	if !ok {
		return
	}
	f := signs.Finding{Check: "package-gates", Answer: "yes", Text: finding(g, m.Name())}
	if len(v.Logs) == 0 { // only the gate tells what it is about
		f.Class = classOf(g)
		v.ShownBy(f, &signs.Subject{Kind: "condition", Name: name(g)})
	} else {
		v.Looked(f)
	}
	v.Remedies = append(remedies(v.Package, g, list), v.Remedies...)
}

// classOf is the class of a gate that refuses.
func classOf(g gates.Gate) string {
	switch g.Kind {
	case gates.Platform:
		return "platform"
	case gates.Upgrade:
		return "leftover"
	case gates.Program:
		return "custom-action"
	}
	return "condition"
}

// refused finds the gate that stopped the set-up: the one that the broken action
// is, or the failing launch condition whose message the log holds.
func refused(v *verdict.Verdict, list []gates.Gate) (gates.Gate, bool) {
	action := ""
	if v.BrokeAt.Action != nil {
		action = *v.BrokeAt.Action
	}
	var failing []gates.Gate
	for _, g := range list {
		switch {
		case len(v.Logs) == 0 && g.Answer == gates.Fails: // nothing else tells which
			return g, true
		case action != "" && g.Row == action && g.Answer != gates.Passes:
			return g, true
		case g.Kind == gates.Launch && g.Answer == gates.Fails && (action == "LaunchConditions" || action == ""):
			failing = append(failing, g)
		}
	}
	for _, g := range failing {
		if said(v, g.Says) {
			return g, true
		}
	}
	if len(failing) == 1 {
		return failing[0], true
	}
	return gates.Gate{}, false
}

// said says whether a gate's message stands in the lines that prove the verdict.
func said(v *verdict.Verdict, text string) bool {
	for _, l := range append(slices.Clone(v.Evidence), v.Chain...) {
		if text != "" && strings.Contains(l.Text, text) {
			return true
		}
	}
	return false
}

// finding says in one sentence why the gate refuses.
func finding(g gates.Gate, on string) string {
	for _, r := range g.Why {
		if r.Symbol == "" {
			continue
		}
		value := "is " + r.Value
		if r.Value == "" {
			value = "is not set"
		}
		if !r.Known {
			value = "is known at run time only"
		}
		return "the package's " + string(g.Kind) + " " + name(g) + " refuses " + on + ": " + r.Symbol + " " + value + " (" + r.Detail + ")"
	}
	return "the package's " + string(g.Kind) + " " + name(g) + " refuses " + on
}

// name is how a gate is called: a launch condition has only its condition.
func name(g gates.Gate) string {
	if g.Kind == gates.Launch {
		return `"` + g.Condition + `"`
	}
	return g.Row
}

// remedies are what lets a gate pass, the smallest change first: a property, a
// transform, an altered copy. The alterations cover every other gate that is
// sure to fail next.
func remedies(pack string, g gates.Gate, list []gates.Gate) (out []step.Remedy) {
	base := strings.TrimSuffix(pack, extension(pack))
	for _, way := range g.Ways {
		if way.Class == "property" {
			out = append(out, step.Remedy{Class: "condition", Title: way.Text, Target: pack, Undo: "delete the command file",
				Steps: []step.Model{{"command": {"out": base + "-install.cmd", "package": pack, "properties": way.Property}}}})
			break
		}
	}
	edits, others := alterations(g), 0
	for _, o := range list {
		if o.Answer == gates.Fails && (o.Kind != g.Kind || o.Row != g.Row) {
			more := alterations(o)
			if len(more) > 0 {
				others++
				edits = append(edits, more...)
			}
		}
	}
	if len(edits) == 0 {
		return out
	}
	text := alter.EditsText(edits)
	title := "let it pass with a transform, if the vendor's condition is out of date"
	if g.Kind != gates.Launch {
		title = "take " + g.Row + " out of the sequence with a transform, if it is of no use any more"
	}
	if others > 0 {
		title += "; another gate that would refuse next is covered too"
	}
	return append(out,
		step.Remedy{Class: "condition", Title: title, Target: pack, Undo: "delete the transform; the vendor's package is untouched",
			Steps: []step.Model{
				{"transform": {"out": base + ".mst", "package": pack, "edits": text}},
				{"command": {"out": base + "-install.cmd", "package": pack, "transforms": base + ".mst"}}}},
		step.Remedy{Class: "condition", Title: "or the same in an altered copy, which carries no signature", Target: pack,
			Undo:  "delete the copy",
			Steps: []step.Model{{"copy": {"out": base + "-altered" + extension(pack), "package": pack, "edits": text}}}})
}

// alterations are the edits of a gate's way that alters the package.
func alterations(g gates.Gate) (edits []alter.Edit) {
	for _, way := range g.Ways {
		if way.Class == "package" {
			for _, e := range way.Alter {
				edits = append(edits, alter.Edit{Kind: e.Option, Text: e.Value})
			}
		}
	}
	return edits
}

// extension is a file's extension with its point, of a Windows path.
func extension(path string) string {
	if i := strings.LastIndexByte(path, '.'); i > strings.LastIndexByte(path, '\\') {
		return path[i:]
	}
	return ""
}
