// Package gatefix turns a verdict "the package refused" into remedies with
// steps: it finds the package on the machine, works its gates out there, and
// proposes the smallest change that lets the one that refused pass.
package gatefix

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/machine"
	"hollowkey/core/package/alter"
	"hollowkey/core/package/condition"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
	"hollowkey/core/why/checks"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// classes are the causes that a gate of the package can stand behind.
var classes = []string{"condition", "prerequisite", "custom-action", "platform", "leftover"}

// launchAction is the action that looks at the launch conditions.
const launchAction = "LaunchConditions"

// surelyTold is the confidence from which on a log has said by itself what
// refused.
const surelyTold = 0.85

// Concerns says whether a verdict may be about a gate of its package.
func Concerns(v *verdict.Verdict) bool {
	return !v.Worked() && v.Package != "" && v.Cause.Class != nil && (slices.Contains(classes, *v.Cause.Class) || len(v.Logs) == 0)
}

// Add puts remedies with steps in front of a verdict's own, when one of the
// gates of its package refused the machine. The finding says which.
func Add(v *verdict.Verdict, db *installdb.Database, m machine.Machine) {
	if !Concerns(v) {
		return
	}
	given := map[string]string{}
	for _, p := range v.Given {
		name, value, _ := strings.Cut(p, "=")
		given[name] = value
	}
	list, err := gates.Find(gates.NewWorld(db, m, given))
	if err != nil {
		v.Machine = append(v.Machine, signs.Finding{Check: "package-gates", Answer: "unknown", Text: v.Package + ": " + bounded.Words(err)})
		return
	}
	g, ok := refused(v, list)
	if !ok {
		suspect(v, list)
		return
	}
	f := signs.Finding{Check: "package-gates", Answer: "yes", Text: finding(g, m.Name()), Class: classOf(g)}
	if c := *v.Cause.Class; len(v.Logs) > 0 &&
		(c == "prerequisite" || g.Kind == gates.Program || c == f.Class && v.Cause.Confidence >= surelyTold) {
		v.Looked(f) // the log says it better
	} else {
		v.ShownBy(f, &signs.Subject{Kind: "condition", Name: name(g)})
	}
	v.Remedies = call{v, m}.remedies(g, list, v.Remedies)
}

// suspect names the one launch condition that can have refused, where what
// decides it is known at run time only: all others pass.
func suspect(v *verdict.Verdict, list []gates.Gate) {
	if v.BrokeAt.Action == nil || *v.BrokeAt.Action != launchAction || len(v.Logs) == 0 ||
		v.Cause.Subject != nil && v.Cause.Subject.Name != launchAction { // the log has said it

		return
	}
	var open []gates.Gate
	for _, g := range list {
		if g.Kind == gates.Launch && (g.Answer == gates.CannotTell || g.Answer == gates.Passes && asks(g, "Privileged", "AdminUser", "MsiSystemRebootPending")) {
			open = append(open, g)
		}
	}
	other := func(g gates.Gate) bool { return !asks(g, "Privileged", "AdminUser") }
	if len(open) == 0 || len(open) > 1 && slices.ContainsFunc(open, other) {
		return
	}
	g := open[0]
	v.Cause.Subject = &signs.Subject{Kind: "condition", Name: name(g)}
	v.Looked(signs.Finding{Check: "package-gates", Answer: "unknown", Text: "all launch conditions of the package but " + name(g) + " let this machine pass"})
	var first step.Remedy
	switch {
	case asks(g, "Privileged", "AdminUser"):
		first = step.Remedy{Class: "elevation", Title: "run the setup from an elevated prompt, or as an account that is an administrator"}
	case asks(g, "MsiSystemRebootPending"):
		first = step.Remedy{Class: "restart", Title: "restart the machine, then run the setup again"}
	default:
		return
	}
	first.Target, first.Undo = v.Package, "nothing is changed by this advice"
	v.Remedies = slices.Insert(v.Remedies, 0, first)
}

// asks says whether a property stands in a gate's condition.
func asks(g gates.Gate, properties ...string) bool {
	e, err := condition.Parse(g.Condition)
	if err != nil {
		return false
	}
	return slices.ContainsFunc(condition.Symbols(e), func(s condition.Symbol) bool {
		return s.Kind == condition.Property && slices.Contains(properties, s.Name)
	})
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

// refused finds the gate that stopped the setup: the one that the broken action
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
		case g.Kind == gates.Launch && g.Answer == gates.Fails && (action == launchAction || action == ""):
			failing = append(failing, g)
		}
	}
	for _, g := range failing {
		if said(v, g.Says) {
			return g, true
		}
	}
	if len(failing) > 0 { // which of them spoke first makes no difference: each refuses
		return failing[0], true
	}
	return gates.Gate{}, false
}

// said says whether a gate's message stands in the lines that prove the
// verdict.
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

// A call is how the package was called; what is written for the next one goes
// on from it.
type call struct {
	v *verdict.Verdict
	m machine.Machine
}

// base is the path that files for the next call begin with: beside the package,
// or, where nothing can be written beside it, in the temporary folder.
func (c call) base() string {
	base := strings.TrimSuffix(c.v.Package, extension(c.v.Package))
	for _, d := range c.m.Facts().Drives {
		if len(base) > 2 && strings.EqualFold(d.Letter, base[:2]) && (d.Kind == "fixed" || d.Kind == "removable") {
			return base
		}
	}
	if len(c.m.Facts().Drives) == 0 { // not known
		return base
	}
	name := base[strings.LastIndexByte(base, '\\')+1:]
	if temp := checks.TemporaryFolder(c.m, c.v.User); temp != "" {
		return temp + `\` + name
	}
	return `C:\Windows\Temp\` + name
}

// command is the step that writes the call, with all that the failed one had.
func (c call) command(base, property, transform string) step.Model {
	args := map[string]string{"out": base + "-install.cmd", "package": c.v.Package}
	properties := slices.Clone(c.v.Given)
	if name, _, ok := strings.Cut(property, "="); ok {
		properties = append(slices.DeleteFunc(properties, func(p string) bool { return strings.HasPrefix(p, name+"=") }), property)
	}
	if len(properties) > 0 {
		args["properties"] = strings.Join(properties, "\n")
	}
	transforms := slices.Clone(c.v.With)
	if transform != "" {
		transforms = append(transforms, transform)
	}
	if len(transforms) > 0 {
		args["transforms"] = strings.Join(transforms, ";")
	}
	return step.Model{"command": args}
}

// remedies are what lets a gate pass, the smallest change first: a property, a
// transform, an altered copy. The alterations cover every other gate that is
// sure to fail next. Where the gate asks for something that is not there, they
// only pretend that it is, and come behind the verdict's own.
func (c call) remedies(g gates.Gate, list []gates.Gate, own []step.Remedy) []step.Remedy {
	ways := c.ways(g, list)
	missing, other, related := asksFor(g)
	pretends, first := "; that only pretends it is there, and what needs it may fail later", "install what the package asks for first ("+missing+")"
	if missing == "" && other != "" {
		pretends = "; that only pretends the right one is there, and what needs it may fail later"
		first = "install the version that the package asks for first (here is " + other + ")"
	}
	asked := slices.IndexFunc(c.v.Machine, func(f signs.Finding) bool { return f.Answer == "unknown" && onNetwork[f.Check] })
	if g.Kind == gates.Program && asked >= 0 { // the program works on what nobody has looked at yet
		for i := range ways {
			ways[i].OnlyNamed = true
		}
		look := step.Remedy{Class: "advice", Title: "see whether what the program connects to answers: " + c.v.Machine[asked].Text, Target: c.v.Package,
			Undo: "nothing is changed by this advice"}
		return slices.Concat([]step.Remedy{look}, own, ways)
	}
	if g.Person != "" && missing == "" && other == "" && related == "" {
		for i := range ways {
			ways[i].OnlyNamed = true
		}
		first := step.Remedy{Class: "package", Title: g.Person, Target: c.v.Package, Undo: "nothing is changed by this advice"}
		return slices.Concat([]step.Remedy{first}, own, ways)
	}
	iniSet := slices.ContainsFunc(g.Ways, func(w gates.Way) bool { return w.Ini != nil })
	if missing == "" && iniSet { // a setting is no version of anything
		first = "find out whether this machine is to have another value there (here is " + other + ")"
	}
	switch {
	case related != "":
		for i := range ways {
			ways[i].OnlyNamed = true
		}
		keep := step.Remedy{Class: "package", Title: "keep the version that is there, or uninstall it first: " +
			related, Target: c.v.Package, Undo: "nothing is changed by this advice"}
		return slices.Concat([]step.Remedy{keep}, own, ways)
	case missing != "" || other != "":
		for i := range ways {
			ways[i].OnlyNamed = true
			if ways[i].Class != "file" {
				ways[i].Title += pretends
			}
		}
		if !slices.ContainsFunc(own, func(r step.Remedy) bool { return r.Class == "package" }) {
			own = append([]step.Remedy{{Class: "package", Title: first + ", then run the setup again", Target: c.v.Package,
				Undo: "nothing is changed by this advice"}}, own...)
		}
		return append(own, ways...)
	}
	return append(ways, own...)
}

// onNetwork are the findings about what a program of the package's reaches on
// the network.
var onNetwork = map[string]bool{"package-share": true, "package-host": true}

// asksFor says what a gate looks for that is not on the machine, what it found
// there that will not do, or which other version of the product it refuses; all
// empty for others.
func asksFor(g gates.Gate) (missing, other, related string) {
	if g.Kind == gates.Program {
		return "", "", ""
	}
	for _, r := range g.Why {
		switch {
		case r.Origin == gates.Related && r.Value != "":
			return "", "", r.Detail
		case r.Origin == gates.Related && r.Known: // another product, by which it was to be found
			missing = r.Detail
		case r.Origin == gates.Searched && r.Known && (r.Value == "" || r.Missed):
			missing = r.Detail
		case r.Origin == gates.Searched && r.Known:
			other = r.Value + ", " + r.Detail
		}
	}
	return missing, other, ""
}

// ways are the changes that let a gate pass.
func (c call) ways(g gates.Gate, list []gates.Gate) (out []step.Remedy) {
	pack, base := c.v.Package, c.base()
	for _, way := range g.Ways {
		if way.Class == "property" {
			out = append(out, step.Remedy{Class: "condition", Title: way.Text, Target: pack, Undo: "delete the command file",
				Steps: []step.Model{c.command(base, way.Property, "")}})
			break
		}
	}
	for _, way := range g.Ways {
		if i := way.Ini; i != nil {
			out = append(out, step.Remedy{Class: "file", Title: fmt.Sprintf("set %s in section %s of %s to %s, if that is right for this machine", i.Key, i.Section, i.File, i.Value),
				Target: i.File, Undo: "the old value is put back",
				Steps: []step.Model{step.New("ini", "file", i.File, "section", i.Section, "key", i.Key, "value", i.Value)}})
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
			Steps: []step.Model{{"transform": {"out": base + ".mst", "package": pack, "edits": text}}, c.command(base, "", base+".mst")}},
		step.Remedy{Class: "condition", Title: "or the same in an altered copy, which loses the signature", Target: pack,
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
