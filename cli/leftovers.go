// This file lists and clears what an install left. Nothing is cleared while the
// product can still be uninstalled in the usual way.

package cli

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/leftovers"
	"hollowkey/core/machine"
)

type clearOptions struct {
	consent
	only, include, exempt []string // numbers or places
}

// newLeftovers is the command that looks for what an install left.
func (a *app) newLeftovers() *cobra.Command {
	c := &cobra.Command{
		Use:   "leftovers NAME|CODE|PATTERN|FOLDER",
		Short: "finds what an earlier install left behind",
		Long: `Looks for what belongs to a product: folders, registry keys of both views and of each
user, services, tasks, startup items and shortcuts. Each comes with why it is thought to
belong, and how sure that is: certain (the product's own registration names it), likely
(it has exactly its name), perhaps (its name holds it). NAME may hold stars; a product
code is written in braces; a FOLDER finds what still points into it.

It reads only; leftovers clear takes away what was found. Exit status: 0 nothing is left,
1 could not, 2 wrong call, 3 something is left.`,
		Example: "  hollowkey leftovers \"Fairway Radio 1\" --machine ELLERY-D07\n" +
			"  hollowkey leftovers clear \"Fairway Radio 1\" --machine ELLERY-D07 --preview",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, _ *fix.Journal) error { return a.leftovers(m, args[0]) })
		},
	}
	c.AddCommand(a.newLeftoversClear())
	return c
}

// newLeftoversClear is the command that clears what an install left.
func (a *app) newLeftoversClear() *cobra.Command {
	var opt clearOptions
	c := &cobra.Command{
		Use:   "clear NAME|CODE|PATTERN|FOLDER",
		Short: "clears what an earlier install left behind: previewed, with undo",
		Long: `Takes away what is certain or likely of what leftovers finds: files go into the case's
quarantine, all else into the journal; undo brings them back. Users' data is named and
left alone, unless --include or --only names its place. While the product can still be
uninstalled, nothing is cleared but what --only or --include names.

Shows first and asks. Exit status: 0 cleared, previewed, or nothing was left, 1 could not,
2 wrong call, 3 nothing was changed.`,
		Example: "  hollowkey leftovers clear \"Fairway Radio 1\" --machine ELLERY-D07 --preview\n" +
			"  hollowkey leftovers clear \"Fairway Radio 1\" --machine ELLERY-D07 --exempt 3",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, _ *fix.Journal) error { return a.clearLeftovers(m, args[0], opt) })
		},
	}
	c.Flags().StringArrayVar(&opt.only, "only", nil, "clear only this one, by its number or place (may be repeated)")
	c.Flags().StringArrayVar(&opt.include, "include", nil, "clear this one, too (may be repeated)")
	c.Flags().StringArrayVar(&opt.exempt, "exempt", nil, "leave this one (may be repeated)")
	opt.consent.bind(c)
	return c
}

// leftoversResult is what leftovers prints as JSON.
type leftoversResult struct {
	Schema  string `json:"schema"`  // names the shape
	Machine string `json:"machine"` // its name
	leftovers.Report
	Plan    *fix.Plan `json:"plan,omitempty"` // nil when nothing is to be cleared
	Cleared bool      `json:"cleared"`        // it was carried out
}

// leftovers lists what is found.
func (a *app) leftovers(m machine.Machine, query string) error {
	rep, err := leftovers.Find(m, query)
	if err != nil {
		return callError{err}
	}
	if a.json {
		err = printJSON(a.out, leftoversResult{Schema: "hollowkey.leftovers/1", Machine: m.Name(), Report: rep})
	} else {
		err = leftoversText(a.out, a.style, rep, m.Name(), "hollowkey leftovers clear "+quoteArgument(query)+a.where())
	}
	if err == nil && len(rep.Items) > 0 {
		err = errNo
	}
	return err
}

// clearLeftovers goes the way of all plans with what was chosen: shown, asked,
// applied.
func (a *app) clearLeftovers(m machine.Machine, query string, opt clearOptions) error {
	rep, err := leftovers.Find(m, query)
	if err != nil {
		return callError{err}
	}
	res := leftoversResult{Schema: "hollowkey.leftovers/1", Machine: m.Name(), Report: rep}
	items, err := rep.Choose(opt.only, opt.include, opt.exempt)
	if err != nil {
		return callError{err}
	}
	if len(items) == 0 && len(rep.Working) > 0 {
		return a.leftoversStay(res)
	}
	plan, err := leftovers.Clear(m, query, items)
	if err != nil {
		return err
	}
	res.Plan = &plan
	again := "hollowkey leftovers clear " + quoteArgument(query) + a.where() + repeated("only", opt.only) +
		repeated("include", opt.include) + repeated("exempt", opt.exempt)
	res.Cleared, err = a.carryOut(m, plan, planHow{consent: opt.consent, again: again, after: "Now run the setup again."})
	if a.json && err == nil {
		err = printJSON(a.out, res)
	}
	return err
}

// leftoversStay says that nothing is cleared while the product's own uninstall
// is there.
func (a *app) leftoversStay(res leftoversResult) error {
	if a.json {
		if err := printJSON(a.out, res); err != nil {
			return err
		}
		return errNo
	}
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", a.style.bold(strings.Join(res.Working, ", ")+" is installed. Nothing was changed."))
	for _, n := range res.Notes {
		item(&b, a.style, 0, 6, "note", n)
	}
	b.WriteString(strings.Join(wrap("To clear one of its things all the same, name it: --only NUMBER", a.style.Width, 0, true), "\n") + "\n")
	if _, err := io.WriteString(a.out, b.String()); err != nil {
		return err
	}
	return errNo
}

// leftoversText lists what is left by what it is, each with the evidence first,
// then how sure that makes it.
func leftoversText(w io.Writer, s Style, r leftovers.Report, on, again string) error {
	var b strings.Builder
	if len(r.Items) == 0 {
		fmt.Fprintf(&b, "%s\n", s.good(fmt.Sprintf("Nothing of %q was found on %s.", r.Query, on)))
	} else {
		is, are := " is left", " are left"
		if len(r.Working) > 0 {
			is, are = " is there", " are there"
		}
		fmt.Fprintf(&b, "%s\n", s.bold(fmt.Sprintf("%s on %s.",
			counted(len(r.Items), "thing of "+r.Query+is, "things of "+r.Query+are), on)))
	}
	looked := "Looked for: " + strings.Join(slices.Concat(r.Names, r.Codes, r.Folders), ", ")
	b.WriteString(strings.Join(wrap(looked, s.Width, 0, true), "\n") + "\n")
	clearable, perhaps := 0, 0
	// By kind: that is how a person looks them over.
	for _, kind := range leftovers.Kinds {
		first := true
		for _, i := range r.Items {
			if i.Kind != kind {
				continue
			}
			if first {
				fmt.Fprintf(&b, "\n%s\n", s.bold(kindHeading(kind)))
				first = false
			}
			if !i.UserData && i.Sure != leftovers.Perhaps && len(r.Working) == 0 {
				clearable++
			}
			if perhaps == 0 && i.Sure == leftovers.Perhaps {
				perhaps = i.Number
			}
			fmt.Fprintf(&b, "%3d  %s\n", i.Number, strings.Join(wrap(i.Where, s.Width, 5, true), "\n"))
			b.WriteString(s.faint(strings.Join(wrap(evidence(i), s.Width, 9, false), "\n")) + "\n")
		}
	}
	for _, n := range r.Notes {
		item(&b, s, 0, 6, "note", n)
	}
	if perhaps > 0 {
		stays := "Those marked perhaps stay. To clear one of them too, give its number:"
		fmt.Fprintf(&b, "\n%s\n%s\n", strings.Join(wrap(stays, s.Width, 0, true), "\n"), s.key(fmt.Sprintf("  %s --include %d --preview", again, perhaps)))
	}
	if len(r.Meant) > 0 && clearable == 0 {
		fmt.Fprintf(&b, "\n%s\n", map[bool]string{true: "A product whose name holds it may be meant:", false: "One of these products may be meant:"}[len(r.Meant) == 1])
		for _, name := range r.Meant {
			b.WriteString(s.key("  "+strings.Replace(again, "leftovers clear "+quoteArgument(r.Query), "leftovers "+quoteArgument(name), 1)) + "\n")
		}
	}
	if clearable > 0 {
		fmt.Fprintf(&b, "\nTo see what clearing %s would do:\n%s\n", map[bool]string{true: "it", false: "them"}[clearable == 1],
			s.key("  "+again+" --preview"))
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// kindHeading heads the things of one kind.
func kindHeading(k leftovers.Kind) string {
	return map[leftovers.Kind]string{leftovers.Service: "Services", leftovers.Task: "Scheduled tasks",
		leftovers.Startup:  "What starts by itself",
		leftovers.Shortcut: "Shortcuts", leftovers.Value: "Registry values", leftovers.Key: "Registry keys",
		leftovers.File: "Files", leftovers.Folder: "Folders"}[k]
}

// evidence says by what a thing is thought to belong, and what follows for
// clearing.
func evidence(i leftovers.Item) string {
	follows := map[leftovers.Sureness]string{leftovers.Certain: "certain", leftovers.Likely: "likely",
		leftovers.Perhaps: "perhaps"}[i.Sure]
	return i.Why + ": " + follows
}
