// This file takes changes back, newest first, and tells of each thing what it
// was, is, and stays.

package cli

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
)

// undoOptions are what undo is called with.
type undoOptions struct {
	change     int  // its number; 0: the last plan
	all, force bool // every change; also what was changed since
	chose      bool // --change was given
	consent
}

// newUndo is the command that takes changes back.
func (a *app) newUndo() *cobra.Command {
	var opt undoOptions
	c := &cobra.Command{
		Use:   "undo",
		Short: "takes changes back, from the journal",
		Long: `Shows what would be undone, asks, and undoes it: the last plan, one change, or
all of them, newest first. With --case only what was done for that case. It refuses when
the machine is no longer as the change left it, unless --force is given. hollowkey
journal lists the changes.

It reads the journal and changes the machine. Exit status: 0 undone or previewed,
1 could not, 2 wrong call, 3 there is nothing to undo, or the answer was no.`,
		Example: "  hollowkey undo --machine ELLERY-D07\n  hollowkey undo --machine ELLERY-D07 --change 4 --yes",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			opt.chose = c.Flags().Changed("change")
			if opt.chose && opt.change < 1 {
				return wrongCall("--change %d: changes are counted from 1\nhint: to list them: hollowkey journal%s", opt.change, a.where())
			}
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error { return a.undoThese(m, j, opt) })
		},
	}
	c.Flags().IntVar(&opt.change, "change", 0, "undo only the change with this number")
	c.Flags().BoolVar(&opt.all, "all", false, "undo every change on this machine")
	c.Flags().BoolVar(&opt.force, "force", false, "set it back even if someone changed it since")
	opt.consent.bind(c)
	c.MarkFlagsMutuallyExclusive("change", "all")
	return c
}

// undoThese finds what to undo, shows it, asks, and does it.
func (a *app) undoThese(m machine.Machine, j *fix.Journal, opt undoOptions) error {
	items := j.LastPlan(m.Name())
	switch {
	case opt.chose:
		i, err := a.item(j, opt.change)
		if err != nil {
			return err
		}
		if i.Status != "done" {
			fmt.Fprintf(a.err, "Change %d is %s, so there is nothing to undo.\n", i.Change, clean(strings.TrimSuffix(i.Status+": "+i.Note, ": ")))
			return errNo
		}
		items = []fix.Item{i}
	case opt.all:
		items = j.InForce(m.Name())
	}
	if len(items) == 0 {
		fmt.Fprintln(a.err, "There is nothing to undo.")
		return errNo
	}
	if preview, err := a.undoAgreed(j, items, m, opt.consent); preview || err != nil {
		return err
	}
	return a.undo(m, j, items, opt.force)
}

// undoAgreed shows what would be undone, and asks. With preview that is all.
func (a *app) undoAgreed(j *fix.Journal, items []fix.Item, m machine.Machine, ok consent) (preview bool, err error) {
	if !ok.preview && ok.yes {
		return false, nil
	}
	if !a.json {
		if err := undoPreview(a.out, a.style, items, m); err != nil {
			return false, err
		}
	}
	if ok.preview {
		return true, a.undoPreviewed(j, items)
	}
	return false, a.given(ok, "Undo this on "+m.Name()+"?")
}

// undoPreviewed ends a preview.
func (a *app) undoPreviewed(j *fix.Journal, items []fix.Item) error {
	if a.json {
		return printJSON(a.out, journalJSON(j, items))
	}
	_, err := fmt.Fprintln(a.out, "\nNothing has been changed.")
	return err
}

// undoPreview shows what undoing would do.
func undoPreview(w io.Writer, s Style, items []fix.Item, m machine.Machine) error {
	var b strings.Builder
	for _, it := range items {
		fmt.Fprintf(&b, "%s %s\n", s.bold(fmt.Sprintf("Change %d back:", it.Change)),
			strings.Join(wrap(it.Step.Words(), s.Width, 16, true), "\n"))
		writeDiff(&b, s, it.After.Lines(m), it.Before.Lines(m))
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// undo takes the changes back, newest first, and tells of those that went back
// even when a later one could not.
func (a *app) undo(m machine.Machine, j *fix.Journal, items []fix.Item, force bool) error {
	var failed error
	if err := j.Hold(m); err != nil {
		return err
	}
	defer j.Release()
	// The first that cannot go back ends it: those before it may stand on it.
	for n, i := range items {
		if err := j.Undo(m, i.Change, force); err != nil {
			failed = fmt.Errorf("change %d, %s: %w", i.Change, i.Step.Words(), err)
			if errors.Is(err, fix.ErrChanged) {
				failed = fmt.Errorf("%w\nhint: look at it; --force sets it back all the same", failed)
			}
			items = items[:n]
			break
		}
	}
	if failed != nil && len(items) == 0 {
		return failed
	}
	var err error
	if a.json {
		err = printJSON(a.out, journalJSON(j, items))
	} else {
		err = undoText(a.out, a.style, items, m, failed == nil, force, j)
	}
	return errors.Join(failed, err)
}

// undoText tells what was undone, with each thing as it was and is, and what
// stays as it was changed.
func undoText(w io.Writer, s Style, items []fix.Item, m machine.Machine, all, forced bool, j *fix.Journal) error {
	var b strings.Builder
	for _, it := range items {
		fmt.Fprintf(&b, "%s\n%s\n", s.bold(fmt.Sprintf("Change %d undone:", it.Change)),
			strings.Join(wrap(it.Step.Words(), s.Width, 2, false), "\n"))
		writeDiff(&b, s, it.After.Lines(m), it.Before.Lines(m))
	}
	if all {
		fmt.Fprintf(&b, "\n%s %s\n", s.good("DONE."), strings.Join(wrap(undoEnd(m.Name(), j, forced), s.Width, 6, true), "\n"))
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// undoEnd is how the machine stands after undoing.
func undoEnd(name string, j *fix.Journal, forced bool) string {
	stays, final := j.Standing(name)
	text := ""
	switch {
	case stays > 0:
		text = counted(stays, "change that was made earlier stays", "changes that were made earlier stay") +
			" in force; the journal lists them."
	case final > 0:
		text = fmt.Sprintf("All that can be undone is undone; %s cannot.", counted(final, "change", "changes"))
	case forced:
		text = "It is set back by force; what somebody else had changed there since is gone."
	default:
		return name + " is as it was before."
	}
	if forced && stays+final > 0 {
		text += " What somebody else had changed there since is gone."
	}
	return text
}

// newJournal is the command that shows what was changed. It opens the machine
// only when one is named: a journal of a machine that is gone can still be
// read.
func (a *app) newJournal() *cobra.Command {
	last, asCSV := 0, false
	c := &cobra.Command{
		Use:   "journal",
		Short: "shows what was changed, and what has been undone",
		Long: `Lists the changes on a machine with their numbers, times and state. Give --machine,
or --case when the journal lies in a case.

It reads the journal; after a run that was cut off it looks at the machine and notes how it found it.
Exit status: 0 shown, 1 could not, 2 wrong call.`,
		Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if a.machine == "" && a.caseDir == "" {
				return wrongCall("--machine or --case is missing")
			}
			var j *fix.Journal
			var err error
			if a.machine != "" {
				m, closeMachine, bad := a.openMachine()
				if bad != nil {
					return bad
				}
				defer closeMachine()
				j, err = a.openJournal(m)
			} else {
				j, err = fix.ShowJournal(a.caseDir, a.now)
			}
			if err != nil {
				return err
			}
			items := j.Items()
			if last == 0 && !a.json && !asCSV {
				last = shownChanges
			}
			older := 0
			if last > 0 {
				older = max(0, len(items)-last)
			}
			if a.json {
				return printJSON(a.out, journalJSON(j, items[older:]))
			}
			if asCSV {
				rows := [][]string{{"change", "time", "machine", "status", "plan", "does", "note"}}
				for _, i := range items[older:] {
					rows = append(rows,
						[]string{fmt.Sprint(i.Change), i.Time.UTC().Format(time.RFC3339), i.Machine, i.Status, i.Title, i.Step.Words(), i.Note})
				}
				return a.printCSV(rows)
			}
			return journalText(a.out, a.style, items[older:], older)
		},
	}
	c.Flags().IntVar(&last, "last", 0, "the last so many changes (15 where nothing is said; all as JSON)")
	bindCSV(c, &asCSV)
	c.AddCommand(a.newJournalEmpty())
	return c
}

// shownChanges is how many changes fit a screen with what they did.
const shownChanges = 15

// newJournalEmpty is the command that deletes a change's quarantine for good.
// It takes one change by its number, never all, and asks: nothing brings them
// back.
func (a *app) newJournalEmpty() *cobra.Command {
	var change int
	var ok consent
	c := &cobra.Command{
		Use:   "empty --change NUMBER",
		Short: "deletes for good what a change put into quarantine",
		Long: "Deletes the files that a change moved into the case's quarantine. That frees their\n" +
			"space; the change cannot be undone any more.\n\nExit status: 0 deleted, 1 could not, 2 wrong call, 3 the answer was no.",
		Example: "  hollowkey journal empty --machine ELLERY-D07 --change 7 --yes",
		Args:    cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if change == 0 {
				return wrongCall("--change is missing\nhint: to list the changes: hollowkey journal%s", a.where())
			}
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error {
				i, err := a.item(j, change)
				if err != nil {
					return err
				}
				if !ok.yes {
					fmt.Fprintf(a.out, "Change %d: %s\n", change, clean(i.Step.Words()))
				}
				if ok.preview {
					fmt.Fprintln(a.out, "\nNothing has been changed.")
					return nil
				}
				if err := a.given(ok, fmt.Sprintf("Delete for good what change %d took away?", change)); err != nil {
					return err
				}
				if err := j.Empty(m, change); err != nil {
					return err
				}
				fmt.Fprintf(a.out, "%s What change %d took away is deleted.\n", a.style.good("DONE."), change)
				return nil
			})
		},
	}
	c.Flags().IntVar(&change, "change", 0, "the change with this number")
	ok.bind(c)
	return c
}

type journalItem struct {
	Change  int         `json:"change"`         // its number
	Time    string      `json:"time"`           // UTC
	Machine string      `json:"machine"`        // its name
	Plan    string      `json:"plan"`           // the plan's title
	Case    string      `json:"case,omitempty"` // the folder of the case it was made for; empty for the machine's own
	Words   string      `json:"words"`          // what the step does
	Step    kinds.Step  `json:"step"`           // as the journal has it
	Status  string      `json:"status"`         // done, undone, failed and so on
	Note    string      `json:"note,omitempty"` // what a person should know
	Before  kinds.State `json:"before"`         // as it was found
	After   kinds.State `json:"after"`          // as it was left
}

// journalJSON is the journal in its JSON shape. The state of each change is
// read anew, as a list made before an undo holds the old ones.
func journalJSON(j *fix.Journal, items []fix.Item) any {
	out := struct {
		Schema  string        `json:"schema"`
		Journal string        `json:"journal"`
		Changes []journalItem `json:"changes"`
	}{"hollowkey.journal/1", j.Path(), []journalItem{}}
	for _, now := range j.Items() {
		for _, i := range items {
			if i.Change == now.Change {
				out.Changes = append(out.Changes, journalItem{i.Change, i.Time.Format("2006-01-02T15:04:05Z"), i.Machine, i.Title, i.Case,
					i.Step.Words(), *i.Step, now.Status, now.Note, *i.Before, *i.After})
			}
		}
	}
	return out
}

// journalText lists the changes, with a note below those that have one.
func journalText(w io.Writer, s Style, items []fix.Item, older int) error {
	if len(items) == 0 {
		_, err := fmt.Fprintln(w, "Nothing has been changed yet.")
		return err
	}
	var b strings.Builder
	fmt.Fprintln(&b, s.bold("change  when (UTC)           state     what"))
	if older > 0 {
		fmt.Fprintln(&b, s.faint(fmt.Sprintf("%6s  %s; --last %d shows all", "…",
			counted(older, "earlier change", "earlier changes"), older+len(items))))
	}
	told := "" // the case of the changes before
	for _, i := range items {
		if i.Case != told {
			told = i.Case
			if told != "" {
				fmt.Fprintln(&b, s.faint("        "+s.fitMiddle("for the case "+told, s.Width-8)))
			} else {
				fmt.Fprintln(&b, s.faint("        for the machine itself"))
			}
		}
		text := wrap(i.Step.Words(), s.Width, 39, true)
		fmt.Fprintf(&b, "%6d  %s  %s %s\n", i.Change, i.Time.Format("2006-01-02 15:04:05"), pad(i.Status, 9), strings.Join(text, "\n"))
		if i.Note != "" {
			fmt.Fprintf(&b, "%s\n", strings.Join(wrap(i.Note, s.Width, 39, false), "\n"))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// item is a change of the journal by its number; of one that it has not, the
// error says how to see which there are.
func (a *app) item(j *fix.Journal, change int) (fix.Item, error) {
	i, err := j.Item(change)
	if errors.Is(err, fix.ErrNoChange) {
		err = fmt.Errorf("%w\nhint: to list them: hollowkey journal%s", err, a.where())
	}
	return i, err
}
