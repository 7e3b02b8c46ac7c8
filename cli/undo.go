package cli

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
)

// newUndo is the command that takes changes back.
func (a *app) newUndo() *cobra.Command {
	var change int
	var all, force bool
	c := &cobra.Command{
		Use:   "undo",
		Short: "takes changes back, from the journal",
		Long: `Takes back what fix did: the last plan, one change, or all of them, newest first.
It refuses when the machine is no longer as the change left it, unless --force is
given. hollowkey journal lists the changes.

It reads the journal and changes the machine. Exit status: 0 taken back, 1 could not,
2 wrong call, 3 there is nothing to take back.`,
		Example: "  hollowkey undo --machine ELLERY-D07\n  hollowkey undo --machine ELLERY-D07 --change 4",
		Args:    cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error {
				items := j.LastPlan(m.Name())
				if all || change != 0 {
					items = j.InForce(m.Name())
				}
				if change != 0 {
					items = slices.DeleteFunc(items, func(i fix.Item) bool { return i.Seq != change })
				}
				if len(items) == 0 {
					fmt.Fprintln(a.err, "There is nothing to take back.")
					return errNo
				}
				return a.undo(m, j, items, force)
			})
		},
	}
	c.Flags().IntVar(&change, "change", 0, "take back only the change with this number")
	c.Flags().BoolVar(&all, "all", false, "take back every change on this machine")
	c.Flags().BoolVar(&force, "force", false, "set it back even if someone changed it since")
	return c
}

// undo takes the changes back, newest first, and tells of those that went back
// even when a later one could not.
func (a *app) undo(m machine.Machine, j *fix.Journal, items []fix.Item, force bool) error {
	var failed error
	for n, i := range items {
		if err := j.Undo(m, i.Seq, force); err != nil {
			failed = fmt.Errorf("change %d, %s: %w\nhint: look at it; --force sets it back all the same", i.Seq, i.Step.Words(), err)
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
		err = undoText(a.out, a.style, items, m, failed == nil)
	}
	return errors.Join(failed, err)
}

// undoText tells what was taken back, with each thing as it was and is.
func undoText(w io.Writer, s Style, items []fix.Item, m machine.Machine, all bool) error {
	var b strings.Builder
	for _, it := range items {
		fmt.Fprintf(&b, "%s\n%s\n", s.bold(fmt.Sprintf("Change %d taken back:", it.Seq)),
			strings.Join(wrap(it.Step.Words(), s.Width, 2, false), "\n"))
		writeDiff(&b, s, it.After.Lines(m), it.Before.Lines(m))
	}
	if all {
		fmt.Fprintf(&b, "\n%s %s is as it was before.\n", s.good("DONE."), m.Name())
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// newJournal is the command that shows what was changed. It opens the machine only
// when one is named: a journal of a machine that is gone can still be read.
func (a *app) newJournal() *cobra.Command {
	last := 0
	c := &cobra.Command{
		Use:   "journal",
		Short: "shows what was changed, and what has been taken back",
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
				j, err = fix.OpenJournal(a.caseDir, a.now)
			}
			if err != nil {
				return err
			}
			items := j.Items()
			if last > 0 {
				items = items[max(0, len(items)-last):]
			}
			if a.json {
				return printJSON(a.out, journalJSON(j, items))
			}
			return journalText(a.out, a.style, items)
		},
	}
	c.Flags().IntVar(&last, "last", 0, "only the last so many changes")
	c.AddCommand(a.newJournalEmpty())
	return c
}

// newJournalEmpty is the command that deletes a change's quarantine for good. It
// takes one change by its number, never all, and asks: nothing brings them back.
func (a *app) newJournalEmpty() *cobra.Command {
	var change int
	var yes bool
	c := &cobra.Command{
		Use:   "empty --change NUMBER",
		Short: "deletes for good what a change put into quarantine",
		Long: "Deletes the files that a change moved into the case's quarantine. That frees their\n" +
			"space; the change cannot be taken back any more.\n\nExit status: 0 deleted, 1 could not, 2 wrong call, 3 the answer was no.",
		Example: "  hollowkey journal empty --machine ELLERY-D07 --change 7 --yes",
		Args:    cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if change == 0 {
				return wrongCall("--change is missing\nhint: hollowkey journal lists the changes")
			}
			return a.onMachine(func(_ machine.Machine, j *fix.Journal) error {
				if !yes {
					sure, err := a.ask(fmt.Sprintf("Delete for good what change %d took away?", change))
					if err != nil {
						return err
					}
					if !sure {
						return errNo
					}
				}
				if err := j.Empty(change); err != nil {
					return err
				}
				fmt.Fprintf(a.out, "%s What change %d took away is deleted.\n", a.style.good("DONE."), change)
				return nil
			})
		},
	}
	c.Flags().IntVar(&change, "change", 0, "the change with this number")
	c.Flags().BoolVar(&yes, "yes", false, "delete without asking")
	return c
}

type journalItem struct {
	Change  int         `json:"change"`         // its number
	Time    string      `json:"time"`           // UTC
	Machine string      `json:"machine"`        // its name
	Plan    string      `json:"plan"`           // the plan's title
	Words   string      `json:"words"`          // what the step does
	Step    kinds.Step  `json:"step"`           // as the journal has it
	Status  string      `json:"status"`         // done, undone, failed and so on
	Note    string      `json:"note,omitempty"` // what a person should know
	Before  kinds.State `json:"before"`         // as it was found
	After   kinds.State `json:"after"`          // as it was left
}

// journalJSON is the journal in its JSON shape. The state of each change is read
// anew, as a list made before an undo holds the old ones.
func journalJSON(j *fix.Journal, items []fix.Item) any {
	out := struct {
		Schema  string        `json:"schema"`
		Journal string        `json:"journal"`
		Changes []journalItem `json:"changes"`
	}{"hollowkey.journal/1", j.Path(), []journalItem{}}
	for _, now := range j.Items() {
		for _, i := range items {
			if i.Seq == now.Seq {
				out.Changes = append(out.Changes, journalItem{i.Seq, i.Time.Format("2006-01-02T15:04:05Z"), i.Machine, i.Title,
					i.Step.Words(), *i.Step, now.Status, now.Note, *i.Before, *i.After})
			}
		}
	}
	return out
}

// journalText lists the changes, with a note below those that have one.
func journalText(w io.Writer, s Style, items []fix.Item) error {
	if len(items) == 0 {
		_, err := fmt.Fprintln(w, "Nothing has been changed yet.")
		return err
	}
	var b strings.Builder
	fmt.Fprintln(&b, s.bold("change  when (UTC)           state     what"))
	for _, i := range items {
		text := wrap(i.Step.Words(), s.Width, 39, true)
		fmt.Fprintf(&b, "%6d  %s  %s %s\n", i.Seq, i.Time.Format("2006-01-02 15:04:05"), pad(i.Status, 9), strings.Join(text, "\n"))
		if i.Note != "" {
			fmt.Fprintf(&b, "%s\n", strings.Join(wrap(i.Note, s.Width, 39, false), "\n"))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}
