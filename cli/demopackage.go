// This file is the part of the demo about a package that refuses by a condition
// of its own.

package cli

import (
	"fmt"
	"path/filepath"
	"strings"

	"hollowkey/core/package/alter"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/references"
	"hollowkey/demo"
)

// demoPackage is what the demo did on the old package: find, gates, alter.
type demoPackage struct {
	Find      string       `json:"find"`         // the word that was looked for
	Hits      []string     `json:"hits"`         // rows that hold it
	Before    []gates.Gate `json:"gates_before"` // worked out without the transform
	Edits     []alter.Done `json:"edits"`        // that the transform holds
	Transform string       `json:"transform"`    // where it lies
	After     []gates.Gate `json:"gates_after"`  // worked out with it
}

// demoPackage looks a word of the message up, works the gates out, and writes
// the transform that lets the package pass.
func (a *app) demoPackage(into string) (out demoPackage, err error) {
	path := filepath.Join(into, demo.PlannerPackage)
	out.Find = "Windows XP"
	db, _, done, err := a.openPackage(path, packageOptions{})
	if err != nil {
		return out, err
	}
	defer done()
	graph, err := references.Read(db)
	if err != nil {
		return out, err
	}
	found, err := graph.Find(out.Find, findLimit)
	if err != nil {
		return out, err
	}
	for _, h := range found.Hits {
		out.Hits = append(out.Hits, h.Place.String())
	}
	if out.Before, err = a.demoGates(path, packageOptions{}); err != nil {
		return out, err
	}
	// A runtime that the old package brings and no machine needs any more, and
	// whatever would open the gate that refuses.
	edits := []alter.Edit{{Kind: "remove-row", Text: "InstallExecuteSequence,RunChartRuntime"}}
	for _, g := range out.Before {
		if g.Kind == gates.Launch && g.Answer == gates.Fails {
			for _, w := range g.Ways {
				for _, e := range w.Alter {
					edits = append(edits, alter.Edit{Kind: e.Option, Text: e.Value})
				}
			}
		}
	}
	// A transform is the difference of two, so the package is opened twice.
	original, _, done2, err := a.openPackage(path, packageOptions{})
	if err != nil {
		return out, err
	}
	defer done2()
	if out.Edits, err = alter.Apply(db, edits, false); err != nil {
		return out, err
	}
	t, _, err := alter.Transform(original, db)
	if err != nil {
		return out, err
	}
	out.Transform = filepath.Join(into, alter.TransformName(path))
	if err := alter.Save(t, out.Transform, true); err != nil {
		return out, err
	}
	out.After, err = a.demoGates(path, packageOptions{with: []string{out.Transform}})
	return out, err
}

// demoGates works the gates of the demo's package out, with or without a
// transform.
func (a *app) demoGates(path string, opt packageOptions) ([]gates.Gate, error) {
	db, _, done, err := a.openPackage(path, opt)
	if err != nil {
		return nil, err
	}
	defer done()
	w, _, closeMachine, err := a.world(db, opt)
	if err != nil {
		return nil, err
	}
	defer closeMachine()
	return gates.Find(w)
}

// demoPackageText tells what was looked up in the package: only the gates that
// refuse or run a program, since those that pass are of no interest here.
func demoPackageText(b *strings.Builder, s Style, p demoPackage, number int) {
	fmt.Fprintf(b, "\n%s %s\n", s.bold(fmt.Sprintf("%d.", number)), s.bold("Its package, "+demo.PlannerPackage+", looked into."))
	row := func(name, text string) { item(b, s, 3, 7, name, text) }
	row("find", fmt.Sprintf("%q: %s", p.Find, strings.Join(p.Hits, "; ")))
	for _, g := range p.Before {
		if g.Answer != gates.Fails && g.Kind != gates.Program {
			continue
		}
		text := gateName(g)
		if len(g.Why) > 0 {
			text += ": " + reasonText(g.Why[0])
		}
		row("gate", string(g.Answer)+", "+string(g.Kind)+" "+text)
	}
	for _, d := range p.Edits {
		row("alter", d.Words)
	}
	open := 0
	for _, g := range p.After {
		if g.Answer != gates.Passes {
			open++
		}
	}
	row("then", fmt.Sprintf("with %s %d of %s pass; the vendor's file is untouched.", filepath.Base(p.Transform), len(p.After)-open,
		count(len(p.After), "gate")))
}
