package cli

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"path/filepath"

	"github.com/spf13/cobra"

	"hollowkey/core/record/report"
)

type reportOptions struct {
	out      output // where it goes; empty: into the case
	markdown bool   // in place of HTML
	names    bool   // leave them in
}

// newCaseReport is the command that writes the case's page. Names are masked unless
// they are asked for, as the page is made to be handed on.
func (a *app) newCaseReport() *cobra.Command {
	var opt reportOptions
	c := &cobra.Command{
		Use:   "report [LOG]",
		Short: "writes the page of the case, to be handed on",
		Long: `Writes report.html into the case: three plain sentences for the person who asked, verdict
and evidence, a picture of the setup over time, attempts side by side, every change with
before and after, holds still in force, facts of the machine. One file, no scripts; it
prints well. Users, machines, security IDs, mail addresses and secrets are masked; --names
leaves names in. Without attempts or verdicts in the case, name the LOG.

Exit status: 0 written, 1 could not, 2 wrong call.`,
		Example: "  hollowkey case report --machine ELLERY-D07\n" +
			"  hollowkey case report tidebook.log --machine ELLERY-D07 --markdown --out tidebook.md",
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error { return a.report(c.Context(), args, opt) },
	}
	opt.out.bind(c, "write it to this file (else report.html or report.md in the case)")
	c.Flags().BoolVar(&opt.markdown, "markdown", false, "as Markdown")
	c.Flags().BoolVar(&opt.names, "names", false, "leave names in; for use within the house")
	return c
}

// report collects and writes the page. It goes into the case, or where --out says.
func (a *app) report(ctx context.Context, args []string, opt reportOptions) error {
	m, done, err := a.openNamedMachine()
	if err != nil {
		return err
	}
	defer done()
	st, err := a.caseStand(m)
	if err != nil {
		return err
	}
	r := report.Request{Stand: st, Question: a.question(nil, whyOptions{}, m), Names: opt.names, Made: a.now()}
	if len(args) > 0 {
		r.Log = args[0]
	}
	in, err := report.Collect(ctx, r)
	if err != nil {
		return err
	}
	name := cmp.Or(opt.out.name, filepath.Join(st.Folder, map[bool]string{true: "report.md", false: "report.html"}[opt.markdown]))
	p := report.Make(in)
	write := report.HTML
	if opt.markdown {
		write = report.Markdown
	}
	opt.out.replace = opt.out.replace || opt.out.name == "" // the case's own page is made anew
	if err := opt.out.write(name, func(w io.Writer) error { return write(w, p) }); err != nil {
		return err
	}
	if a.json {
		return printJSON(a.out, struct {
			Schema string `json:"schema"`
			File   string `json:"file"`
			report.Page
		}{"hollowkey.report/2", name, p})
	}
	fmt.Fprintf(a.out, "%s %s\n", a.style.good("WRITTEN"), name)
	return nil
}
