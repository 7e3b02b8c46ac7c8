// This file makes a transform or an altered copy of a package, after showing
// what else refers to the rows. The vendor's file is never written.

package cli

import (
	"cmp"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/package/alter"
	"hollowkey/core/package/installdb"
)

type alterOptions struct {
	packageOptions
	edits   []alter.Edit // in the order in which they were typed
	copy    bool         // a copy, not a transform
	out     output       // where the result goes
	preview bool         // show and write nothing
	along   bool         // take along what refers to removed rows
}

// An editFlag collects edits of one kind in the order of the command line.
type editFlag struct {
	kind, shape string        // the option, and what its value looks like
	into        *[]alter.Edit // the list that all kinds write into
}

// String is asked for by the flag package; an edit has no default to show.
func (f editFlag) String() string { return "" }

// Type is the shape of the option's value, for the help.
func (f editFlag) Type() string { return f.shape }

// Set adds one edit. All kinds of edits write into one list, so that they are
// carried out in the order in which they were typed.
func (f editFlag) Set(v string) error {
	*f.into = append(*f.into, alter.Edit{Kind: f.kind, Text: v})
	return nil
}

// newAlter is the command that makes a transform or an altered copy. A
// transform is the default, as the vendor's file keeps its signature then.
func (a *app) newAlter() *cobra.Command {
	var opt alterOptions
	c := &cobra.Command{
		Use:   "alter PACKAGE",
		Short: "makes a transform, or an altered copy, that lets a package pass",
		Long: `Checks references to the rows, then applies the edits to the package in memory, and
writes a transform beside which the vendor's file and its signature stay untouched. With
--copy it writes an altered copy, which gets a package code of its own and loses the
signature. The edits are applied in their order; keys of several columns are written
with commas between.

It never writes over a file that is there unless --replace is given and the file is named.
Exit status: 0 written or previewed, 1 could not, 2 wrong call.`,
		Example: "  hollowkey package alter planner.msi --remove-row 'InstallExecuteSequence,RunChartRuntime'\n" +
			"  hollowkey package alter planner.msi --set-condition 'LaunchCondition,VersionNT < 600,VersionNT' --preview\n" +
			"  hollowkey package alter planner.msi --set-property SITECODE=ELLERY --copy --out planner-ellery.msi",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error { return a.alter(args[0], opt) },
	}
	for _, k := range alter.Kinds {
		c.Flags().Var(editFlag{k.Name, k.Shape, &opt.edits}, k.Name, k.Help)
	}
	opt.out.bind(c, "write to this file (else PACKAGE.mst, or PACKAGE-altered.msi, in the present folder)")
	c.Flags().BoolVar(&opt.copy, "copy", false, "write an altered copy in place of a transform")
	c.Flags().BoolVar(&opt.preview, "preview", false, "only show what would be changed")
	c.Flags().BoolVar(&opt.along, "along", false, "remove rows that refer to a removed row along with it")
	opt.bindWith(c)
	return c
}

// alterResult is what alter prints as JSON.
type alterResult struct {
	Schema      string       `json:"schema"`                 // names the shape
	File        string       `json:"file"`                   // as it was given
	Edits       []alter.Done `json:"edits"`                  // with what came along
	Written     string       `json:"written,omitempty"`      // where the result lies; empty for a preview
	Kind        string       `json:"kind"`                   // transform, copy
	PackageCode string       `json:"package_code,omitempty"` // of a copy
	Signature   string       `json:"signature"`              // none, kept, dropped
	Command     string       `json:"command,omitempty"`      // that installs with it
}

// alter carries the edits out in memory and tells what else refers to the rows,
// before anything is written.
func (a *app) alter(path string, opt alterOptions) error {
	if len(opt.edits) == 0 {
		return wrongCall("no edit is given\nhint: --remove-row, --add-row, --set-cell, --set-property, --set-condition, --remove-table")
	}
	db, _, done, err := a.openPackage(path, opt.packageOptions)
	if err != nil {
		return err
	}
	defer done()
	// Opened twice: what was and what is to be are compared.
	original, _, done2, err := a.openPackage(path, opt.packageOptions)
	if err != nil {
		return err
	}
	defer done2()
	if err := needPackage(db, path); err != nil {
		return err
	}
	res := alterResult{Schema: "hollowkey.package.alter/1", File: path, Kind: "transform", Signature: "none"}
	if res.Edits, err = alter.Apply(db, opt.edits, opt.along); err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	if db.Signed() {
		res.Signature = "kept"
	}
	if opt.copy {
		err = a.alterCopy(&res, db, opt, func() { done(); done2() })
	} else {
		err = a.alterTransform(&res, original, db, opt)
	}
	if err != nil {
		return err
	}
	if a.json {
		return printJSON(a.out, res)
	}
	return alterText(a.out, a.style, res, opt)
}

// alterTransform writes the difference as a transform. Edits that change
// nothing are an error: a transform without contents would be taken for a
// remedy.
func (a *app) alterTransform(res *alterResult, from, to *installdb.Database, opt alterOptions) error {
	t, d, err := alter.Transform(from, to)
	if err != nil {
		return fmt.Errorf("%s: %w", res.File, err)
	}
	if d.Empty() {
		return errors.New("the edits change nothing, so there is nothing to write")
	}
	name := cmp.Or(opt.out.name, alter.TransformName(res.File))
	if err := notOver(name, append([]string{res.File}, opt.with...)); err != nil {
		return err
	}
	transforms := append(append([]string{}, opt.with...), name)
	for i, t := range transforms { // the engine finds one by its name alone in the present folder
		if abs, err := filepath.Abs(t); err == nil && filepath.Base(t) != t {
			transforms[i] = abs
		}
	}
	res.Command = fmt.Sprintf(`msiexec /i "%s" TRANSFORMS="%s" /l*v setup.log`, res.File, strings.Join(transforms, ";"))
	if opt.preview {
		return nil
	}
	res.Written = name
	return alter.Save(t, name, opt.out.replace)
}

// alterCopy writes an altered copy. It gets a package code of its own, since
// two files of one code make the engine take the cached one for the other.
func (a *app) alterCopy(res *alterResult, db *installdb.Database, opt alterOptions, release func()) error {
	res.Kind = "copy"
	if res.Signature == "kept" {
		res.Signature = "dropped"
	}
	code, err := alter.FreshCode(db)
	if err != nil {
		return err
	}
	res.PackageCode = code
	name := cmp.Or(opt.out.name, alter.CopyName(res.File))
	res.Command = fmt.Sprintf(`msiexec /i "%s" /l*v setup.log`, name)
	if opt.preview {
		return nil
	}
	if err := notOver(name, opt.with); err != nil {
		return err
	}
	// The vendor's package is written over only when the call says so twice.
	if same(res.File, name) {
		if !opt.out.replace {
			return fmt.Errorf("--out names the package itself\nhint: give another name; --replace would write over the vendor's file")
		}
		res.Written = name
		return alter.SaveOver(db, name, release)
	}
	res.Written = name
	return alter.Save(db, name, opt.out.replace)
}

// notOver refuses an output that is one of the files that are read; --replace
// does not change that.
func notOver(out string, inputs []string) error {
	for _, in := range inputs {
		if same(in, out) {
			return fmt.Errorf("%s is read here, so it is not written over\nhint: give another name", out)
		}
	}
	return nil
}

// same says whether two names lead to one file, through links too.
func same(a, b string) bool {
	x, err := os.Stat(a)
	y, err2 := os.Stat(b)
	return err == nil && err2 == nil && os.SameFile(x, y)
}

// alterText tells each edit with its rows before and after, the rows that refer
// to what went, and the command that installs with the result.
func alterText(w io.Writer, s Style, res alterResult, opt alterOptions) error {
	var b strings.Builder
	for i, d := range res.Edits {
		fmt.Fprintf(&b, "%s %s\n", s.bold(fmt.Sprintf("Edit %d:", i+1)), strings.Join(wrap(d.Words, s.Width, 8, true), "\n"))
		writeDiff(&b, s, d.Before, d.After)
		for _, t := range d.Also {
			fmt.Fprintf(&b, "  %s\n", "along with it: "+s.fit(t, s.Width-18))
		}
		if len(d.Dangling) > 0 {
			item(&b, s, 2, 0, "", "note: these rows refer to it and now find nothing: "+useList(d.Dangling))
		}
	}
	b.WriteString("\n")
	switch {
	case opt.preview:
		b.WriteString("Nothing has been written.\n")
	case res.Kind == "transform":
		fmt.Fprintf(&b, "%s %s. The vendor's file is untouched.\n", s.good("Written:"), res.Written)
	default:
		fmt.Fprintf(&b, "%s %s, with a package code of its own: %s\n", s.good("Written:"), res.Written, res.PackageCode)
	}
	if res.Signature == "dropped" {
		b.WriteString(s.mind("The copy loses the signature:") + " where policy wants one, use a transform.\n")
	}
	fmt.Fprintf(&b, "To install with it:\n")
	for _, line := range wrap(res.Command, s.Width, 2, false) {
		fmt.Fprintln(&b, s.key(line))
	}
	_, err := io.WriteString(w, b.String())
	return err
}
