// This file sums a file up: what it is, for whom, whether it is whole. It is
// what somebody asks first of an unknown file.

package cli

import (
	"cmp"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/machine"
	"hollowkey/core/package/apppack"
	"hollowkey/core/package/choose"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/overview"
	"hollowkey/core/package/whole"
)

// newOverview is the command that sums a file up. It is the first thing to call
// on a file that nobody knows.
func (a *app) newOverview() *cobra.Command {
	var opt packageOptions
	c := &cobra.Command{
		Use:   "overview FILE",
		Short: "summarizes a setup file: product, codes, needs, contents, conditions, and whether it is whole",
		Long: `Says what a package, transform, patch or app package is: product and version, codes,
platform and languages, signature, what it installs, and the conditions that can stop it.
With --machine they are evaluated for that machine. Of any setup file, also a cabinet, a
zip or a program with what it carries, it says whether it is whole: cut short, a web page,
an unfinished download, changed since it was signed.

It reads only. Exit status: 0 told, 1 the file cannot be read, 2 wrong call, 3 it is not
whole.`,
		Example: "  hollowkey package overview planner.msi\n  hollowkey package overview planner.msi --machine ELLERY-D07\n" +
			"  hollowkey package overview update.msp --json",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error { return a.overview(args[0], opt) },
	}
	opt.bindWith(c)
	opt.bindGiven(c)
	return c
}

// overviewResult is what overview prints as JSON.
type overviewResult struct {
	Schema string           `json:"schema"` // names the shape
	File   string           `json:"file"`   // as it was given
	Whole  *whole.Report    `json:"whole"`  // what is wrong with it
	App    *apppack.Package `json:"app"`    // null where it is no app package
	*overview.Overview
}

// overview sums a file up. One that is damaged is summed up as far as it can be
// read.
func (a *app) overview(file string, opt packageOptions) error {
	var from machine.Machine // only for a path that is the machine's
	if a.onTheMachine(file) {
		m, closeMachine, err := a.openMachine()
		if err != nil {
			return err
		}
		defer closeMachine()
		from = m
	}
	setup, err := choose.Open(file, from, false)
	if err != nil {
		return err
	}
	defer setup.Close()
	// Neither a setup nor a damaged one.
	if setup.Whole.Kind == whole.Other && setup.Whole.Whole() {
		return fmt.Errorf("%s is no setup file: no package, patch, transform, cabinet, zip, app package or "+
			"program\nhint: a log is read by: hollowkey why %s", file, quoteArgument(file))
	}
	res := overviewResult{Schema: "hollowkey.package.overview/2", File: file, Whole: setup.Whole, App: setup.App}
	on := ""
	if setup.Database != nil {
		for _, t := range opt.with {
			if err := a.applyTransform(setup.Database, t); err != nil {
				return err
			}
		}
		w, name, done, err := a.world(setup.Database, opt)
		if err != nil {
			return err
		}
		defer done()
		o, err := overview.Of(setup.Database, setup.Whole.Bytes, w)
		switch {
		case err == nil:
			res.Overview, on = &o, name
		// Of a damaged package as much is told as can be read.
		case setup.Whole.Whole():
			return fmt.Errorf("%s: %w", file, err)
		}
	}
	if a.json {
		err = printJSON(a.out, res)
	} else {
		err = overviewText(a.out, a.style, res, on, a.whereToLook())
	}
	if err == nil && !setup.Whole.Whole() {
		return errNo
	}
	return err
}

// overviewText sums up in rows.
func overviewText(w io.Writer, s Style, res overviewResult, on, where string) error {
	var b strings.Builder
	const names = 12 // the longest name, "Transforms", and two blanks
	row := func(name, text string) { item(&b, s, 0, names, name, text) }
	switch {
	case res.Overview != nil:
		overviewRows(&b, s, *res.Overview, res.File, row)
	case res.App != nil:
		appRows(&b, s, *res.App, row)
	default:
		fmt.Fprintf(&b, "%s\n", s.bold(kindWords(res.Whole.Kind)))
	}
	if res.Overview == nil {
		row("file", fmt.Sprintf("%s, %s", res.File, bytesText(res.Whole.Bytes)))
	}
	wholeRows(s, res.Whole, row)
	if res.Overview != nil && len(res.Gates) > 0 {
		overviewGates(&b, s, *res.Overview, on)
		fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey package gates "+quoteArgument(res.File)+where))
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// kindWords heads the overview of a file that is neither package nor app
// package.
func kindWords(k whole.Kind) string {
	return map[whole.Kind]string{whole.Database: "A package that cannot be read", whole.Cabinet: "A cabinet", whole.Archive: "An archive",
		whole.Program: "A program", whole.Other: "No setup file"}[k]
}

// wholeRows say what is wrong with a file, or that nothing is.
func wholeRows(s Style, r *whole.Report, row func(name, text string)) {
	if r.Signature != "" {
		row("signature", r.Signature)
	}
	for _, f := range r.Faults {
		row(s.bad("NOT WHOLE"), f.Seen)
	}
	for _, words := range r.Remarks {
		row("note", words)
	}
	if r.Whole() {
		row("whole", "yes, as far as can be told without running it")
		return
	}
	row("to do", "fetch it again from where it comes, and compare its size")
}

// appRows sum an app package up.
func appRows(b *strings.Builder, s Style, p apppack.Package, row func(name, text string)) {
	fmt.Fprintf(b, "%s\n", s.bold(strings.TrimSpace(cmp.Or(p.Display, p.Name)+" "+p.Version)))
	row("name", p.Name)
	row("publisher", p.Publisher)
	row("platform", p.Architecture+map[bool]string{true: " (a bundle)"}[p.Bundle])
	for _, t := range p.Targets {
		row("takes", t.Family+" from "+t.Least)
	}
	for _, n := range p.Needs {
		row("needs", n.Name+" "+n.Least)
	}
	switch {
	case !p.Signed:
		row("signature", "none")
	case p.Signer == "":
		row("signature", "there is one, and it cannot be read")
	default:
		row("signature", "by "+p.Signer+"; whether a machine trusts it is not checked here")
	}
}

// overviewRows sum a database up; what does not apply to the file's format is
// left out rather than shown as empty.
func overviewRows(b *strings.Builder, s Style, o overview.Overview, file string, row func(name, text string)) {
	switch o.Format {
	case installdb.Patch:
		fmt.Fprintf(b, "%s\n", s.bold(cmp.Or(o.Patch.Name, o.Title, "A patch")))
		row("for", o.Product)
		row("vendor", o.Vendor)
		row("patch code", o.Patch.Code)
		row("targets", strings.Join(o.Patch.Targets, " "))
		row("replaces", strings.Join(o.Patch.Obsoletes, " "))
		row("family", strings.Join(o.Patch.Family, ", "))
		row("transforms", strings.Join(o.Patch.Transforms, ", "))
	case installdb.Transform:
		fmt.Fprintf(b, "%s\n", s.bold("A transform"))
		row("for", o.PackageCode)
		row("platform", o.Platform)
		for _, c := range o.Changes {
			row("changes", transformChange(c))
		}
	default:
		fmt.Fprintf(b, "%s\n", s.bold(strings.TrimSpace(cmp.Or(o.Product, o.Title, "A package")+" "+o.Version)))
		row("vendor", o.Vendor)
		row("product", o.ProductCode)
		row("upgrade", o.UpgradeCode)
		row("package", o.PackageCode)
		row("platform", platformWords(o))
		row("installs", contentWords(o))
		row("services", strings.Join(o.Services, ", "))
		row("cabinets", cabinetWords(o))
		row("embedded", strings.Join(o.Embedded, ", "))
		row("needs", needWords(o))
	}
	row("comments", o.Comments)
	signature := "none"
	if o.Signed {
		signature = "there is one (not checked here); an altered copy loses it, a transform leaves it"
	}
	row("signature", signature)
	row("file", fmt.Sprintf("%s, %s, %s, %d tables, code page %d", file, o.Format, bytesText(o.Size), o.Tables, o.CodePage))
}

// transformChange is what a transform does to one table, in words.
func transformChange(c overview.TableChange) string {
	var parts []string
	for _, p := range []struct {
		n    int
		word string
	}{{c.Put, "added or overwritten"}, {c.Changed, "changed"}, {c.Removed, "removed"}} {
		if p.n > 0 {
			parts = append(parts, count(p.n, "row")+" "+p.word)
		}
	}
	if c.Note != "" {
		parts = append([]string{"the table is " + c.Note}, parts...)
	}
	return c.Table + ": " + strings.Join(parts, ", ")
}

// platformWords tells platform, languages and the engine's least version.
// "Intel" is said to be 32-bit, as many take it for the maker.
func platformWords(o overview.Overview) string {
	text := cmp.Or(o.Platform, "not said")
	if o.Platform == "Intel" {
		text = "Intel (32-bit)"
	}
	if len(o.Languages) > 0 {
		text += ", languages " + strings.Join(o.Languages, " ")
	}
	if v := overview.SchemaWords(o.Schema); v != "" {
		text += ", engine " + v + " or later"
	}
	return text
}

// needWords tells who may install it, and which properties have to be given.
func needWords(o overview.Overview) string {
	text := o.Elevation
	if len(o.Needs) > 0 {
		text += "; on the command line " + strings.Join(o.Needs, ", ")
	}
	return text
}

// contentWords counts what the package brings; kinds that it has none of are
// left out.
func contentWords(o overview.Overview) string {
	var parts []string
	add := func(n int, one, many string) {
		switch {
		case n == 1:
			parts = append(parts, "1 "+one)
		case n > 1:
			parts = append(parts, fmt.Sprintf("%d %s", n, many))
		}
	}
	add(o.Features, "feature", "features")
	add(o.Components, "component", "components")
	if o.Files > 0 {
		add(o.Files, "file", "files")
		parts[len(parts)-1] += " of " + bytesText(o.FileBytes)
	}
	add(o.Registry, "registry value", "registry values")
	add(o.Custom, "custom action", "custom actions")
	return strings.Join(parts, ", ")
}

// cabinetWords tells where the files lie. A cabinet that is named but missing
// is the usual reason for a source that is asked for in the middle of a setup.
func cabinetWords(o overview.Overview) string {
	var parts []string
	for _, c := range o.Cabinets {
		switch {
		case c.Missing:
			parts = append(parts, c.Name+" (named, but not in the package)")
		case c.Embedded:
			parts = append(parts, fmt.Sprintf("%s (inside, %s)", c.Name, bytesText(c.Size)))
		default:
			parts = append(parts, c.Name+" (beside the package)")
		}
	}
	return strings.Join(parts, ", ")
}

// overviewGates lists the gates in a line each, those that fail first.
func overviewGates(b *strings.Builder, s Style, o overview.Overview, on string) {
	where := "without a machine"
	if on != "" {
		where = "on " + on
	}
	fmt.Fprintf(b, "\n%s\n", s.bold(fmt.Sprintf("%s, %s:", count(len(o.Gates), "gate"), where)))
	sorted := slices.Clone(o.Gates)
	slices.SortStableFunc(sorted, func(x, y gates.Gate) int { return gateRank(x) - gateRank(y) })
	for _, g := range sorted {
		fmt.Fprintf(b, "  %s%s%s\n", gateWord(s, g.Answer), pad(string(g.Kind), 18), s.fit(gateName(g), s.Width-33))
	}
}

// gateRank sorts gates: those that fail first, then those that cannot be told.
func gateRank(g gates.Gate) int {
	return map[gates.Answer]int{gates.Fails: 0, gates.CannotTell: 1, gates.Passes: 2}[g.Answer]
}

// gateWord is a gate's answer in its colour; the word says it without one, too.
func gateWord(s Style, a gates.Answer) string {
	word := pad(string(a), 13)
	switch a {
	case gates.Fails:
		return s.bad(pad("FAILS", 13))
	case gates.CannotTell:
		return s.mind(word)
	}
	return s.good(word)
}

// gateName is what a gate is about in one line.
func gateName(g gates.Gate) string {
	switch g.Kind {
	case gates.Launch:
		return g.Condition
	case gates.Upgrade, gates.Platform, gates.Engine:
		return g.Says
	}
	text := g.Row
	if g.Condition != "" {
		text += " if " + g.Condition
	}
	return text
}

// count writes a number with its word, for words that form the plural with an
// s.
func count(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}
