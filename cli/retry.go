// This file runs the setup again and says what has become of the failure. It is
// the proof of each fix.

package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/prove/retry"
	"hollowkey/core/record/casefile"
)

type retryOptions struct {
	why         whyOptions // how the new log is judged
	given, with []string   // properties and transforms
	user        string     // as whom
	undoFirst   bool       // take the last plan back before
	yes         bool       // run it without asking
}

// newRetry is the command that tries again.
func (a *app) newRetry() *cobra.Command {
	var opt retryOptions
	c := &cobra.Command{
		Use:   "retry [LOG|PACKAGE|PROGRAM]",
		Short: "runs the setup again and says what has become of the failure",
		Long: `Runs the setup again: on the live machine with the OS's engine, with verbose logging to
a fresh file in the case; on a twin as a rehearsal on a copy of it. Then it compares with
the attempt before: the failure is gone, the same, has moved, comes further or earlier.

A vendor's PROGRAM is run on the live machine only: in its own folder, with the switches
that stand behind it in the same argument; all that it starts is followed to the end, and
the logs that appear or grow meanwhile are read with its exit code.

A LOG says which package was run, and is the attempt to compare with; without one the last
attempt of the case is, else the log that the case keeps. Properties and transforms of the steps in force are handed on.

On the live machine it shows the whole command and asks. A package that only a log or a
case names is not run from a share, or from where ordinary users can write: name it in the
call. The setup does what it does; undo undoes the steps, not the setup. Exit status: 0 the setup worked, 1 could not, 2 wrong call, 3 it failed, or
the answer was no.`,
		Example: "  hollowkey retry tidebook.log --machine ELLERY-D07\n  hollowkey retry --machine ELLERY-D07\n" +
			"  hollowkey retry 'C:\\Deploy\\Tidebook.msi' --machine ELLERY-D07 --user dpayne\n" +
			"  hollowkey retry 'C:\\Deploy\\setup.exe /s' --machine live",
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error { return a.retry(c.Context(), m, j, args, opt) })
		},
	}
	opt.why.bindReading(c)
	c.Flags().StringArrayVar(&opt.given, "given", nil, "a property for the setup, NAME=VALUE (may be repeated)")
	c.Flags().StringArrayVar(&opt.with, "transform", nil, "a transform for it, by its path on the machine (may be repeated)")
	c.Flags().StringVar(&opt.user, "user", "", "who runs it (else who ran it before; on a twin only)")
	c.Flags().BoolVar(&opt.yes, "yes", false, "run it without asking")
	c.Flags().BoolVar(&opt.undoFirst, "undo-first", false, "first undo the last plan, which did not help")
	return c
}

// retryResult is what retry prints as JSON.
type retryResult struct {
	Schema  string            `json:"schema"`  // names the shape
	Attempt *casefile.Attempt `json:"attempt"` // as it is kept in the case
	Change  retry.Change      `json:"change"`  // what became of the failure
	Words   string            `json:"words"`   // the same in a sentence
	Since   []journalItem     `json:"since"`   // changes that the attempt before did not have
	Matters bool              `json:"matters"` // one of them is about what broke then
}

// retry runs the setup again and compares. With --undo-first the last plan is
// taken back before it, so that "did the fix do it" can be answered both ways.
func (a *app) retry(ctx context.Context, m machine.Machine, j *fix.Journal, args []string, opt retryOptions) error {
	// Whether the fix did it is known only when the setup fails again without
	// it.
	if opt.undoFirst {
		for _, i := range j.LastPlan(m.Name()) {
			if err := j.Undo(m, i.Change, false); err != nil {
				return err
			}
			fmt.Fprintf(a.err, "Change %d undone: %s\n", i.Change, clean(i.Step.Words()))
		}
	}
	w := retry.Wish{Dir: a.caseFolder(), Given: opt.given, With: opt.with, User: opt.user, Question: a.question(nil, opt.why, m), Now: a.now()}
	if len(args) == 1 {
		w.Of = args[0]
	} else if st, err := casefile.StandOf(w.Dir, j, a.now); err != nil {
		return err
	} else if logs := st.Input(); len(st.Attempts) == 0 && len(logs) > 0 { // the setup that the case is about
		w.Of = logs[0]
	}
	w.Ask = func(command string) error { return a.mayRun(m.Name(), command, opt.yes) }
	if !a.json {
		w.Progress = func(action string) { fmt.Fprintf(a.err, "  %s\n", clean(action)) }
	}
	done, err := retry.Again(ctx, m, j, w)
	switch {
	case errors.Is(err, retry.ErrNothingTried):
		return wrongCall("nothing has been tried in %s yet\nhint: name the log of the setup that failed, or its package", w.Dir)
	case errors.Is(err, retry.ErrNoPackage):
		return fmt.Errorf("%w\nhint: hollowkey retry PACKAGE%s", err, a.where())
	case err != nil:
		return err
	}
	a.teach(ctx, w.Dir)
	res := retryResult{Schema: "hollowkey.retry/1", Attempt: done.Attempt, Change: done.Change, Words: done.Words,
		Since: []journalItem{}, Matters: done.Matters()}
	for _, i := range done.Since {
		res.Since = append(res.Since, journalItem{Change: i.Change, Plan: i.Title, Words: i.Step.Words(), Step: *i.Step, Status: i.Status,
			Before: *i.Before, After: *i.After})
	}
	if a.json {
		err = printJSON(a.out, res)
	} else {
		_, err = io.WriteString(a.out, a.retryText(res, w.Dir))
	}
	if err == nil && !done.Attempt.Verdict.Worked() {
		err = errNo
	}
	return err
}

// mayRun shows a command and asks whether it may be run.
func (a *app) mayRun(machine, command string, yes bool) error {
	fmt.Fprintf(a.err, "This is run on %s with your rights:\n  %s\n", clean(machine), clean(command))
	if yes {
		return nil
	}
	sure, err := a.ask("Run it?")
	if err == nil && !sure {
		err = errNo
	}
	return err
}

// retryText tells what has become of the failure in one word, the changes since
// the attempt before, and what to do next: for a failure that went, nothing.
func (a *app) retryText(r retryResult, dir string) string {
	var b strings.Builder
	s := a.style
	t := r.Attempt
	plainWord := map[retry.Change]string{retry.Same: "SAME", retry.Further: "FURTHER", retry.Earlier: "EARLIER", retry.Moved: "MOVED",
		retry.First: "FAILED", retry.Back: "BACK"}[r.Change]
	word := s.bad(plainWord)
	switch {
	case t.Verdict.Worked():
		plainWord = "WORKS"
		word = s.good(plainWord)
	case r.Change == retry.Further || r.Change == retry.Moved:
		word = s.mind(plainWord)
	}
	fmt.Fprintf(&b, "%s  %s\n\n", word, strings.Join(wrap(sentence(r.Words), s.Width, 2+len(plainWord), true), "\n"))
	how := "run with the OS's engine on " + t.Machine
	if retry.IsProgram(t.Package) {
		how = "run on " + t.Machine
	}
	if t.Rehearsal {
		how = "rehearsed on a copy of " + t.Machine + "; the twin is as it was"
	}
	item(&b, s, 0, 10, "attempt", fmt.Sprintf("%d, %s", t.Number, how))
	item(&b, s, 0, 10, "package", t.Package)
	item(&b, s, 0, 10, "with", strings.Trim(t.Switches+", "+strings.Join(append(slices.Clone(t.Properties), t.Transforms...), ", "), ", "))
	item(&b, s, 0, 10, "as", t.User)
	item(&b, s, 0, 10, "exit code", fmt.Sprint(t.Exit))
	log := t.LogPath(dir)
	if len(t.Verdict.Logs) == 0 {
		log = "the setup wrote none; its exit code alone is judged"
	}
	item(&b, s, 0, 10, "log", log)
	for _, x := range t.Assumed {
		item(&b, s, 0, 10, "assumed", x)
	}
	if len(r.Since) > 0 {
		title := "Changed since the attempt before:"
		if r.Change == retry.Gone {
			if title = "This made the difference:"; len(r.Since) > 1 {
				title = "One of these, or all of them, made the difference:"
			}
		}
		fmt.Fprintf(&b, "\n%s\n", s.bold(title))
		for _, i := range r.Since {
			fmt.Fprintf(&b, "%s\n", strings.Join(wrap(fmt.Sprintf("change %d: %s", i.Change, i.Words), s.Width, 2, false), "\n"))
		}
	}
	b.WriteString("\n" + s.bold("Next:") + "\n")
	log = quoteArgument(t.LogPath(dir))
	if len(t.Verdict.Logs) == 0 {
		if log = fmt.Sprintf("--exit %d", t.Exit); !retry.IsProgram(t.Package) {
			log = "--package " + quoteArgument(t.Package) + " " + log
		}
	}
	switch {
	case r.Change == retry.Gone && t.Rehearsal:
		again := "hollowkey retry " + quoteArgument(t.Package) + repeated("given", t.Properties) + repeated("transform", t.Transforms)
		fmt.Fprintf(&b, "  the same fix on the machine itself, then:\n  %s\n", s.key(again+" --machine live"))
	case t.Verdict.Worked():
	// A change about the very thing that broke is kept, though it was not
	// enough; another one is taken back.
	case r.Change == retry.Same && r.Matters:
		fmt.Fprintf(&b, "  that is not enough; see what is left:  %s\n", s.key("hollowkey fix "+log+a.where()+" --preview"))
	case r.Change == retry.Same && len(r.Since) > 0:
		fmt.Fprintf(&b, "  that did not help; undo it:  %s\n", s.key("hollowkey undo"+a.where()))
		fmt.Fprintf(&b, "  see the other remedies:           %s\n", s.key("hollowkey fix "+log+a.where()+" --preview"))
	default:
		fmt.Fprintf(&b, "  %s\n", s.key("hollowkey why "+log+a.where()))
		fmt.Fprintf(&b, "  %s\n", s.key("hollowkey fix "+log+a.where()+" --preview"))
		fmt.Fprintf(&b, "  %s\n", s.key("hollowkey fix "+log+a.where()+" --ladder --preview"))
	}
	fmt.Fprintf(&b, "  %s\n", s.key("hollowkey case report"+a.where()))
	return b.String()
}
