// This file writes a case's page, and the text for a ticket.

package cli

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"

	"github.com/spf13/cobra"

	"hollowkey/core/logs/mask"
	"hollowkey/core/record/casefile"
	"hollowkey/core/record/report"
)

type reportOptions struct {
	out      output // where it goes; empty: into the case
	markdown bool   // in place of HTML
	reader   string // whom it is for
	names    bool   // leave them in
}

// newCaseReport is the command that writes the case's page. Names are masked
// unless they are asked for, as the page is made to be handed on.
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
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) == 1 && casefile.Exists(args[0]) {
				return folderOfCase(c, args[0])
			}
			return a.report(c.Context(), args, opt)
		},
	}
	opt.out.bind(c, "write it to this file (else report.html or report.md in the case)")
	c.Flags().BoolVar(&opt.markdown, "markdown", false, "as Markdown")
	c.Flags().StringVar(&opt.reader, "for", forTechnician, "whom it is for: technician (all of it), person (what "+
		"they need to know), ticket (text to paste)")
	c.Flags().BoolVar(&opt.names, "names", false, "leave names in; for use within the house")
	return c
}

// Whom a page is for.
const (
	forTechnician = "technician"
	forPerson     = "person"
	forTicket     = "ticket"
)

// report collects and writes the page. It goes into the case, or where --out
// says.
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
	// One page for whoever works on it, one for the person who waits, and text
	// for a ticket.
	switch opt.reader {
	case forTechnician, "": // the demo names none
	case forPerson:
		p = p.ForPerson()
	case forTicket:
		return a.reportTicket(in, opt.out)
	default:
		return wrongCall("--for %q is none of technician, person and ticket", opt.reader)
	}
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

// reportTicket writes the verdict as text to paste, on standard output unless a
// file is named.
func (a *app) reportTicket(in report.Input, out output) error {
	if in.Verdict == nil {
		return errors.New("no log has been read yet in this case\nhint: hollowkey why LOG")
	}
	hidden := in.Mask
	if hidden == nil {
		hidden = mask.New(nil, nil)
	}
	if out.name == "" {
		return report.Ticket(a.out, in.Verdict, hidden)
	}
	if err := out.write(out.name, func(w io.Writer) error { return report.Ticket(w, in.Verdict, hidden) }); err != nil {
		return err
	}
	a.say("%s %s\n", a.style.good("WRITTEN"), out.name)
	return nil
}
