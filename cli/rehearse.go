// This file rehearses a package on a copy of a twin, and writes the log that
// the engine would.

package cli

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/machine/twin"
	"hollowkey/core/prove/rehearse"
)

type rehearseOptions struct {
	uninstall, repair bool     // neither: install
	given, with       []string // properties and transforms
	user, keep        string   // as whom, and where the copy goes
	out               output   // the log
}

// newRehearse is the command that rehearses a package. It takes twins only: the
// stand-in would write on a live machine what the engine should.
func (a *app) newRehearse() *cobra.Command {
	var opt rehearseOptions
	c := &cobra.Command{
		Use:   "rehearse PACKAGE --machine TWIN",
		Short: "runs a package on a copy of a twin with a stand-in of the installer engine",
		Long: `Runs a package as the installer engine would, on a copy of the twin: search, conditions,
costing, the execute sequence, files, registry, services, registration, rollback. It
honours the twin's access lists, services, drives and policies, writes a verbose log, and
ends with the engine's exit code. The twin itself is not changed; --keep saves the copy.

PACKAGE is a path on the twin (C:\Deploy\setup.msi), a file of this computer, which is
brought to the copy with the cabinets beside it, or the product code of a product that is
registered there. Exit status: 0 the setup worked, 1 could not, 2 wrong call,
3 the setup failed.`,
		Example: "  hollowkey rehearse 'C:\\Deploy\\Tidebook.msi' --machine ELLERY-D07\n" +
			"  hollowkey rehearse 'C:\\Deploy\\Tidebook.msi' --machine ELLERY-D07 --out rehearsal.log --keep after",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error { return a.rehearse(args[0], opt) },
	}
	c.Flags().BoolVar(&opt.uninstall, "uninstall", false, "remove the product")
	c.Flags().BoolVar(&opt.repair, "repair", false, "repair it")
	c.Flags().StringArrayVar(&opt.given, "given", nil, "a property as on the command line, NAME=VALUE (may be repeated)")
	c.Flags().StringArrayVar(&opt.with, "transform", nil, "a transform, on the twin or here (may be repeated)")
	c.Flags().StringVar(&opt.user, "user", "", "who runs it (else the user who is signed in)")
	opt.out.bind(c, "write the log to this file")
	c.Flags().StringVar(&opt.out.name, "log", "", "the same, as it was called before")
	_ = c.Flags().MarkHidden("log") // it is there
	c.Flags().StringVar(&opt.keep, "keep", "", "save the twin as it is afterwards in this new folder")
	c.MarkFlagsMutuallyExclusive("uninstall", "repair")
	return c
}

// mode is what is rehearsed; installing is the default.
func (o rehearseOptions) mode() rehearse.Mode {
	switch {
	case o.uninstall:
		return rehearse.Uninstall
	case o.repair:
		return rehearse.Repair
	}
	return rehearse.Install
}

// properties splits NAME=VALUE.
func properties(list []string) (map[string]string, error) {
	out := map[string]string{}
	for _, p := range list {
		name, value, ok := strings.Cut(p, "=")
		if !ok || name == "" {
			return nil, wrongCall("%q is not NAME=VALUE", p)
		}
		out[name] = value
	}
	return out, nil
}

// twinOnly opens the twin of a call that works on twins alone.
func (a *app) twinOnly() error {
	if a.machine == "" || a.machine == "live" {
		return wrongCall("a rehearsal needs a twin\nhint: name one with --machine FOLDER; to take one of a live machine: hollowkey capture TWIN --machine live")
	}
	return nil
}

// rehearse runs the package on a scratch copy of the twin and leaves the log
// where --out says, so that why can be tried on it.
func (a *app) rehearse(pack string, opt rehearseOptions) error {
	if err := a.twinOnly(); err != nil {
		return err
	}
	given, err := properties(opt.given)
	if err != nil {
		return err
	}
	m, done, err := rehearse.Scratch(a.machine)
	if err != nil {
		return err
	}
	defer done()
	// A package may be named by its path on the twin, by a path of this
	// computer, or by a product's code.
	found, err := rehearse.Find(m, pack)
	if err != nil {
		return err
	}
	there, err := rehearse.Brought(m, found)
	if err != nil {
		return err
	}
	with, err := rehearse.BroughtAll(m, opt.with)
	if err != nil {
		return err
	}
	res, err := a.rehearseOn(m, rehearse.Request{Package: there, Transforms: with, Properties: given, Mode: opt.mode(), User: opt.user},
		opt.out)
	if err != nil {
		return err
	}
	if opt.keep != "" {
		if err := keepTwin(m, opt.keep); err != nil {
			return err
		}
	}
	if a.json {
		err = printJSON(a.out, struct {
			Schema  string `json:"schema"`
			Machine string `json:"machine"`
			Package string `json:"package"`
			rehearse.Result
		}{"hollowkey.rehearse/1", m.Name(), pack, res})
	} else {
		_, err = io.WriteString(a.out, a.rehearseText(res, pack, m.Name(), opt))
	}
	if err == nil && !exitcode.Good(res.Exit) {
		err = errNo
	}
	return err
}

// rehearseOn runs a request and writes its log to a file, when one is named.
func (a *app) rehearseOn(m *twin.Twin, req rehearse.Request, log output) (rehearse.Result, error) {
	if req.Started = m.Facts().Time; req.Started.IsZero() {
		req.Started = a.now()
	}
	if log.name == "" {
		return rehearse.Run(m, req, io.Discard)
	}
	var res rehearse.Result
	err := log.write(log.name, func(w io.Writer) (err error) {
		res, err = rehearse.Run(m, req, w)
		return err
	})
	return res, err
}

// keepTwin saves the copy as it was left, for a look at what the setup wrote.
func keepTwin(m *twin.Twin, to string) error {
	if _, err := os.Stat(to); err == nil {
		return fmt.Errorf("%s is there already\nhint: --keep wants a new folder", to)
	}
	return rehearse.CopyTwin(m.Folder(), to)
}

// rehearseText tells how it ended, where it broke, and what was only assumed:
// what a stand-in cannot know, such as what a program of the package would do.
func (a *app) rehearseText(r rehearse.Result, pack, on string, opt rehearseOptions) string {
	var b strings.Builder
	s := a.style
	what := strings.TrimSpace(r.Product + " " + r.Version)
	word := s.good("WORKED")
	switch {
	case !exitcode.Good(r.Exit):
		word = s.bad("FAILED")
	case r.Exit != 0:
		word = s.mind("WORKED, restart due")
	}
	fmt.Fprintf(&b, "%s  %s on a copy of %s; exit code %d.\n", word, s.bold(what), on, r.Exit)
	if r.Failed != "" {
		text := r.Failed
		if r.Message != 0 {
			text += fmt.Sprintf(", message %d", r.Message)
		}
		item(&b, s, 0, 9, "broke at", text)
	}
	for _, t := range r.Assumed {
		item(&b, s, 0, 9, "assumed", t)
	}
	switch {
	case opt.out.name == "" && !exitcode.Good(r.Exit): // the log tells why
		fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey rehearse "+quoteArgument(pack)+a.where()+" --out rehearsal.log"))
	case opt.out.name != "":
		fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey why "+quoteArgument(opt.out.name)+a.where()))
	}
	if opt.keep != "" {
		fmt.Fprintf(&b, "The twin afterwards: %s\n", filepath.Clean(opt.keep))
	}
	return b.String()
}
