package cli

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/package/targets"
	"hollowkey/core/prove/retry"
	"hollowkey/core/record/casefile"
	"hollowkey/core/why/verdict"
)

type retryOptions struct {
	given, with []string
	user        string
	undoFirst   bool
}

func (a *app) newRetry() *cobra.Command {
	var opt retryOptions
	c := &cobra.Command{
		Use:   "retry [LOG|PACKAGE]",
		Short: "runs the set-up again and says what has become of the failure",
		Long: `Runs the set-up again: on the live machine with the OS's engine, with verbose logging to
a fresh file in the case; on a twin as a rehearsal on a copy of it. Then it compares with
the attempt before: the failure is gone, the same, has moved, comes further or earlier.

A LOG says which package was run, and is the attempt to compare with; without one the last
attempt of the case is. Properties and transforms of the steps in force are handed on.

On the live machine the set-up does what it does; undo takes back the steps, not the
set-up. Exit status: 0 the set-up worked, 1 could not, 2 wrong call, 3 it failed.`,
		Example: "  hollowkey retry tidebook.log --machine ELLERY-D07\n  hollowkey retry --machine ELLERY-D07\n  hollowkey retry 'C:\\Deploy\\Tidebook.msi' --machine ELLERY-D07 --user dpayne",
		Args:    cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error { return a.retry(c.Context(), m, j, args, opt) })
		},
	}
	c.Flags().StringArrayVar(&opt.given, "given", nil, "a property for the set-up, NAME=VALUE (may be repeated)")
	c.Flags().StringArrayVar(&opt.with, "with", nil, "a transform for it, by its path on the machine (may be repeated)")
	c.Flags().StringVar(&opt.user, "user", "", "who runs it (else who ran it before; on a twin only)")
	c.Flags().BoolVar(&opt.undoFirst, "undo-first", false, "first take back the last plan, which did not help")
	return c
}

// retryResult is what retry prints as JSON.
type retryResult struct {
	Schema  string            `json:"schema"`
	Attempt *casefile.Attempt `json:"attempt"`
	Change  retry.Change      `json:"change"`
	Words   string            `json:"words"`
	Since   []journalItem     `json:"since"` // changes that the attempt before did not have
	before  *verdict.Verdict
}

func (a *app) retry(ctx context.Context, m machine.Machine, j *fix.Journal, args []string, opt retryOptions) error {
	if opt.undoFirst {
		for _, i := range j.LastPlan(m.Name()) {
			if err := j.Undo(m, i.Seq, false); err != nil {
				return err
			}
			fmt.Fprintf(a.err, "Change %d taken back: %s\n", i.Seq, clean(i.Step.Words()))
		}
	}
	res, req, err := a.retryPlan(ctx, m, j, args, opt)
	if err != nil {
		return err
	}
	if !a.json {
		req.Progress = func(action string) { fmt.Fprintf(a.err, "  %s\n", clean(action)) }
	}
	attempt, err := retry.Run(ctx, m, req)
	if err != nil {
		return err
	}
	if attempt.Verdict, err = a.verdict(ctx, []string{attempt.LogPath(req.Dir)}, whyOptions{encoding: detectEncoding}, m); err != nil {
		return err
	}
	res.Attempt, res.Change = attempt, retry.Compare(res.before, attempt.Verdict, a.orderOf(m, req.Package))
	res.Words = retry.Words(res.Change, res.before, attempt.Verdict)
	attempt.Compared = string(res.Change)
	if err := attempt.End(req.Dir); err != nil {
		return err
	}
	if a.json {
		err = printJSON(a.out, res)
	} else {
		_, err = io.WriteString(a.out, a.retryText(res, req.Dir))
	}
	if err == nil && !attempt.Verdict.Worked() {
		err = errNo
	}
	return err
}

// retryPlan works out which set-up is run again, as whom and with what, and
// which attempt it is compared with.
func (a *app) retryPlan(ctx context.Context, m machine.Machine, j *fix.Journal, args []string, opt retryOptions) (res retryResult, req retry.Request, err error) {
	res = retryResult{Schema: "hollowkey.retry/1", Since: []journalItem{}}
	req = retry.Request{Dir: a.caseFolder(), Properties: opt.given, Transforms: opt.with, User: opt.user, Now: a.now()}
	past, err := casefile.Attempts(req.Dir)
	if err != nil {
		return res, req, err
	}
	past = slices.DeleteFunc(past, func(p *casefile.Attempt) bool { return !p.Done || p.Verdict == nil })
	var known []int
	switch {
	case len(args) == 1 && !setupFile(args[0]):
		if res.before, err = a.verdict(ctx, args, whyOptions{encoding: detectEncoding}, m); err != nil {
			return res, req, err
		}
		req.Package = res.before.Package
		if _, err := m.Account(res.before.User); err == nil && req.User == "" {
			req.User = res.before.User
		}
		if last := len(past) - 1; last >= 0 && strings.EqualFold(past[last].Package, req.Package) { // tried since
			res.before, known = past[last].Verdict, past[last].Changes
		}
	case len(past) > 0 && (len(args) == 0 || strings.EqualFold(past[len(past)-1].Package, args[0])):
		last := past[len(past)-1]
		res.before, known, req.Package = last.Verdict, last.Changes, last.Package
		req.User = first(req.User, last.User)
		if len(opt.given)+len(opt.with) == 0 {
			req.Properties, req.Transforms = byHand(j, last)
		}
	case len(args) == 1:
		req.Package = args[0]
	default:
		return res, req, wrongCall("nothing has been tried in %s yet\nhint: name the log of the set-up that failed, or its package", req.Dir)
	}
	if req.Package == "" {
		return res, req, fmt.Errorf("the log does not say which package was run\nhint: hollowkey retry PACKAGE%s", a.where())
	}
	for _, i := range j.InForce(m.Name()) {
		req.Changes = append(req.Changes, i.Seq)
		if !slices.Contains(known, i.Seq) {
			res.Since = append(res.Since, journalItem{Change: i.Seq, Plan: i.Title, Words: i.Step.Words(), Step: *i.Step, Status: i.Status, Before: *i.Before, After: *i.After})
		}
		if s := i.Step; s.Kind == "command" && strings.EqualFold(s.Args["package"], req.Package) {
			req.Properties = append(req.Properties, strings.FieldsFunc(s.Args["properties"], func(r rune) bool { return r == '\n' })...)
			req.Transforms = append(req.Transforms, strings.FieldsFunc(s.Args["transforms"], func(r rune) bool { return r == ';' })...)
		}
	}
	slices.Sort(req.Properties)
	slices.Sort(req.Transforms)
	req.Properties, req.Transforms = slices.Compact(req.Properties), slices.Compact(req.Transforms)
	slices.Reverse(res.Since)
	return res, req, nil
}

// byHand are the properties and transforms of an attempt that no step brought:
// those of steps count only while the step is in force.
func byHand(j *fix.Journal, last *casefile.Attempt) (properties, transforms []string) {
	var stepped []string
	for _, i := range j.Items() {
		if i.Step.Kind == "command" {
			stepped = append(stepped, strings.Split(i.Step.Args["properties"], "\n")...)
			stepped = append(stepped, strings.Split(i.Step.Args["transforms"], ";")...)
		}
	}
	mine := func(list []string) []string {
		return slices.DeleteFunc(slices.Clone(list), func(x string) bool { return slices.Contains(stepped, x) })
	}
	return mine(last.Properties), mine(last.Transforms)
}

// orderOf gives the places of actions in a package on the machine.
func (a *app) orderOf(m machine.Machine, pack string) func(string) int {
	db, f, err := targets.Open(m, pack)
	if err != nil {
		return nil
	}
	defer f.Close()
	return retry.Order(db)
}

func (a *app) retryText(r retryResult, dir string) string {
	var b strings.Builder
	s := a.style
	t := r.Attempt
	plainWord := map[retry.Change]string{retry.Same: "SAME", retry.Further: "FURTHER", retry.Earlier: "EARLIER", retry.Moved: "MOVED", retry.First: "FAILED", retry.Back: "BACK"}[r.Change]
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
	if t.Rehearsal {
		how = "rehearsed on a copy of " + t.Machine + "; the twin is as it was"
	}
	item(&b, s, 0, 10, "attempt", fmt.Sprintf("%d, %s", t.Number, how))
	item(&b, s, 0, 10, "package", t.Package)
	item(&b, s, 0, 10, "with", strings.Join(append(slices.Clone(t.Properties), t.Transforms...), ", "))
	item(&b, s, 0, 10, "as", t.User)
	item(&b, s, 0, 10, "exit code", fmt.Sprint(t.Exit))
	item(&b, s, 0, 10, "log", t.LogPath(dir))
	for _, x := range t.Assumed {
		item(&b, s, 0, 10, "assumed", x)
	}
	if len(r.Since) > 0 {
		title := "Changed since the attempt before:"
		if r.Change == retry.Gone {
			title = "This made the difference:"
		}
		fmt.Fprintf(&b, "\n%s\n", s.bold(title))
		for _, i := range r.Since {
			fmt.Fprintf(&b, "%s\n", strings.Join(wrap(fmt.Sprintf("change %d: %s", i.Change, i.Words), s.Width, 2, false), "\n"))
		}
	}
	b.WriteString("\n" + s.bold("Next:") + "\n")
	log := quoteArgument(t.LogPath(dir))
	switch {
	case r.Change == retry.Gone && t.Rehearsal:
		fmt.Fprintf(&b, "  the same fix on the machine itself, then  %s\n", s.key("hollowkey retry --machine live"))
	case t.Verdict.Worked():
	case r.Change == retry.Same && len(r.Since) > 0:
		fmt.Fprintf(&b, "  that did not help; take it back:  %s\n", s.key("hollowkey undo"+a.where()))
		fmt.Fprintf(&b, "  see the other remedies:           %s\n", s.key("hollowkey fix "+log+a.where()+" --preview"))
	default:
		fmt.Fprintf(&b, "  %s\n", s.key("hollowkey why "+log+a.where()))
		fmt.Fprintf(&b, "  %s\n", s.key("hollowkey fix "+log+a.where()+" --preview"))
	}
	fmt.Fprintf(&b, "  %s\n", s.key("hollowkey case report"+a.where()))
	return b.String()
}
