// This file has the guide's second half: remedies one after the other, the
// trial after each, the ticket where none helped.

package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/logs/mask"
	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
	"hollowkey/core/record/report"
	"hollowkey/core/why/verdict"
)

// guideRungs takes one remedy with steps after another, until the setup works,
// or nobody wants the next.
func (a *app) guideRungs(ctx context.Context, m machine.Machine, j *fix.Journal, v *verdict.Verdict, logs []string,
	opt guideOptions) error {
	taken := 0
	for at, r := range v.Remedies {
		if len(r.Steps) == 0 || r.OnlyNamed {
			continue
		}
		// The first fix is the one that was asked for; each further one is a
		// new decision.
		if taken > 0 {
			more, err := a.maybe(fmt.Sprintf("Go on with the next fix: %s?", r.Title), opt.next, "--next")
			if err != nil || !more {
				return errors.Join(err, errNo)
			}
		}
		taken++
		applied, err := a.guideFix(m, j, v, at, opt)
		if err != nil {
			return err
		}
		if !applied {
			continue
		}
		err = a.guideRetry(ctx, m, j, v, logs, opt)
		if !errors.Is(err, errNo) {
			return err
		}
	}
	if taken == 0 {
		fmt.Fprintf(a.out, "\n%s\n", a.style.bold("None of the remedies is a change that can be made from here; see the list above."))
	}
	return errNo
}

// guideFix shows a remedy's steps and applies them after a yes.
func (a *app) guideFix(m machine.Machine, j *fix.Journal, v *verdict.Verdict, at int, opt guideOptions) (bool, error) {
	plan, err := fix.Draft(m, v.Remedies[at].Title, v.Remedies[at].Steps)
	if err != nil {
		fmt.Fprintf(a.out, "\nNot possible: %s\n", clean(strings.ReplaceAll(err.Error(), "\n", "; ")))
		return false, nil
	}
	title := "The smallest fix:"
	if at != v.FirstWithSteps() {
		title = "The next fix:"
	}
	fmt.Fprintf(a.out, "\n%s\n", a.style.bold(title))
	if err := planText(a.out, a.style, plan, m); err != nil || !plan.Pending() {
		return false, err
	}
	fmt.Fprintln(a.out)
	// Steps that a file brought are not ours to take without a word.
	if from := v.Remedies[at].From; from != "" {
		if sure, err := a.ask(fmt.Sprintf("These steps come from %s, not from the program. Take them?", from)); err != nil || !sure {
			return false, err
		}
	}
	question := "Apply this to " + m.Name() + "? (undo takes it off again)"
	if plan.OneWay() {
		question = "Apply this to " + m.Name() + "? (it cannot be undone)"
	}
	sure, err := a.yes(question, opt.apply, "--apply")
	if err != nil || !sure {
		return false, err
	}
	if err := plan.Apply(m, j); err != nil {
		return false, err
	}
	if _, err := casefile.AddVerdict(a.caseFolder(), v); err != nil {
		return true, err
	}
	if plan.OneWay() {
		fmt.Fprintf(a.out, "%s\n", a.style.good("DONE."))
	} else {
		fmt.Fprintf(a.out, "%s To undo it:  %s\n", a.style.good("DONE."), a.style.key("hollowkey undo"+a.where()))
	}
	return true, nil
}

// guideRetry tries the setup again after a yes. What did not help is undone
// after another.
func (a *app) guideRetry(ctx context.Context, m machine.Machine, j *fix.Journal, v *verdict.Verdict, logs []string,
	opt guideOptions) error {
	if v.Package == "" || len(logs) == 0 {
		return errNo
	}
	question := "Run the setup again?"
	if a.machine != "live" {
		question = "Rehearse the setup on a copy of the twin?"
	}
	fmt.Fprintln(a.out)
	sure, err := a.yes(question, opt.retry, "--retry")
	if err != nil || !sure {
		return errors.Join(err, errNo)
	}
	err = a.retry(ctx, m, j, logs, retryOptions{yes: opt.retry != ""})
	if !errors.Is(err, errNo) {
		return err
	}
	back, asked := a.maybe("It did not work. Undo this fix?", opt.next, "--next")
	if asked != nil || !back {
		return errors.Join(asked, errNo)
	}
	return errors.Join(a.undo(m, j, j.LastPlan(m.Name()), false), errNo)
}

// guideTicket writes a ticket into the case after a yes.
func (a *app) guideTicket(v *verdict.Verdict, opt guideOptions) error {
	sure, err := a.maybe("Write a ticket to hand on?", opt.ticket, "--ticket")
	if err != nil || !sure {
		return err
	}
	at := filepath.Join(a.caseFolder(), "ticket.md")
	if err := os.MkdirAll(a.caseFolder(), 0o755); err != nil {
		return err
	}
	err = output{replace: true}.write(at, func(w io.Writer) error { return report.Ticket(w, v, mask.New(nil, nil)) })
	if err == nil {
		fmt.Fprintf(a.out, "%s %s\n", a.style.good("WRITTEN"), at)
	}
	return err
}
