// This file is the one way in which anything is changed: show, ask, apply, say
// how to undo. Commands differ in how they come to a plan, never in this.

package cli

import (
	"errors"
	"fmt"
	"io"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
)

// planHow says how a plan is carried out: only shown, or without a question.
// again is the call that comes to the same plan, after what to do next.
type planHow struct {
	consent
	restorePoint bool   // asks the OS for one before the change
	again, after string // the command to call again, and what to do after it
	from         string // the file of a site's own sign that names the steps; empty for the program's own
	trusted      bool   // --site-steps: they need no question of their own
}

// carryOut shows a plan, asks, applies it, and tells how to undo it.
func (a *app) carryOut(m machine.Machine, plan fix.Plan, how planHow) (applied bool, err error) {
	if !a.json {
		if err := planText(a.out, a.style, plan, m); err != nil {
			return false, err
		}
	}
	if how.preview || !plan.Pending() {
		if !a.json && plan.Pending() {
			fmt.Fprintf(a.out, "\nNothing has been changed. To apply it:\n%s\n", a.style.key("  "+how.again+" --yes"))
		}
		return false, nil
	}
	// A site's sign may have come from anywhere; --yes agrees to our steps
	// alone.
	if how.from != "" && !how.trusted {
		sure, err := a.ask(fmt.Sprintf("These steps come from %s, not from the program. Take them?", how.from))
		if errors.Is(err, errNobody) {
			err = fmt.Errorf("the steps come from %s, not from the program, so nothing was changed\nhint: --site-steps takes them", how.from)
		}
		if err != nil {
			return false, err
		}
		if !sure {
			return false, errNo
		}
	}
	if err := a.given(how.consent, "Apply this to "+m.Name()+"?"); err != nil {
		return false, err
	}
	j, err := a.openJournal(m)
	if err != nil {
		return false, err
	}
	if !a.json {
		j.Said = func(line string) { fmt.Fprintf(a.err, "  %s\n", clean(line)) }
	}
	// A machine without restore points can still be mended, and undone by the
	// journal.
	if how.restorePoint {
		if err := fix.RestorePoint(m, j, plan.Title); err != nil {
			fmt.Fprintf(a.err, "No restore point was taken: %s\n", clean(strings.ReplaceAll(err.Error(), "\n", "; ")))
		}
	}
	if err := plan.Apply(m, j); err != nil {
		return false, err
	}
	if !a.json {
		fmt.Fprintf(a.out, "\n%s Each step was checked after the change.\n", a.style.good("DONE."))
		if plan.OneWay() {
			fmt.Fprintln(a.out, "This cannot be undone.\n"+how.after)
		} else {
			fmt.Fprintf(a.out, "To undo it:  %s\n%s\n", a.style.key("hollowkey undo"+a.where()), how.after)
		}
	}
	return true, nil
}

// planText shows each change as before and after.
func planText(w io.Writer, s Style, p fix.Plan, who machine.Accounts) error {
	var b strings.Builder
	told := map[string]bool{} // what was said once is not said again
	for i, c := range p.Changes {
		fmt.Fprintf(&b, "\n%s %s\n", s.bold(fmt.Sprintf("Step %d:", i+1)), strings.Join(wrap(c.Words(), s.Width, 8, true), "\n"))
		if c.Done() {
			b.WriteString("  already in place\n")
			continue
		}
		writeDiff(&b, s, c.Before.Lines(who), c.After.Lines(who))
		if text := priceText(s, c.Step); !told[text] {
			b.WriteString(text)
			told[text] = true
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// priceText tells what a step asks of people and machine; empty when nothing.
func priceText(s Style, st kinds.Step) string {
	var b strings.Builder
	p := st.Price()
	note := func(name, text string) {
		fmt.Fprintf(&b, "  %s%s\n", s.faint(name+" "), strings.Join(wrap(text, s.Width, 3+len(name), true), "\n"))
	}
	if p.Effect != "" {
		note("warning:", p.Effect)
	}
	if p.Restart {
		note("restart:", "it counts from the next restart on")
	}
	if p.Minutes > 0 {
		note("time:", fmt.Sprintf("about %d minutes", p.Minutes))
	}
	if why := st.OneWay(); why != "" {
		note("no undo:", "this step cannot be undone: "+why)
	}
	return b.String()
}

// writeDiff shows what goes (-), what comes (+) and what stays.
func writeDiff(b *strings.Builder, s Style, before, after []string) {
	// Lines stand for facts and not for places, so their order says nothing.
	count := func(list []string, t string) (n int) {
		for _, o := range list {
			if o == t {
				n++
			}
		}
		return n
	}
	line := func(mark, t string, set func(string) string) {
		indent := len(t) - len(strings.TrimLeft(t, " ")) // what lies below something else
		for i, part := range wrap(t, s.Width, 4+indent, true) {
			if i == 0 {
				part = "  " + mark + " " + strings.Repeat(" ", indent) + part
			}
			fmt.Fprintf(b, "%s\n", set(part))
		}
	}
	for _, t := range before {
		if count(after, t) == 0 {
			line("-", t, s.bad)
		}
	}
	for _, t := range after {
		if count(before, t) == 0 {
			line("+", t, s.good)
		}
	}
	for _, t := range before {
		if count(after, t) > 0 {
			line(" ", t, s.faint)
		}
	}
}
