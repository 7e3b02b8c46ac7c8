// This file climbs from remedy to remedy, each tried before the next is taken.
// A rung that needs a restart ends the call; the next call goes on there.

package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"runtime"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/prove/ladder"
	"hollowkey/core/prove/retry"
)

// fixLadder shows all that could mend a setup, in order, and climbs it: each
// rung is shown and asked for, the setup is tried again, and what did not help
// is undone.
func (a *app) fixLadder(ctx context.Context, m machine.Machine, logs []string, opt fixOptions) error {
	v, err := a.judge(ctx, logs, opt.whyOptions, m)
	if err != nil {
		return err
	}
	of := strings.Join(logs, " ")
	if of == "" {
		of = v.Package
	}
	l := ladder.Build(v, of, m)
	dir := a.caseFolder()
	// Rungs of an earlier call keep what came of them.
	if err := l.GoOn(dir); err != nil {
		return err
	}
	if opt.preview || v.Worked() {
		if a.json {
			return printJSON(a.out, l)
		}
		a.ladderText(a.out, l)
		if !v.Worked() && l.Next() >= 0 {
			fmt.Fprintf(a.out, "\nNothing has been changed. To climb it, with a question at each rung:\n  %s\n",
				a.style.key("hollowkey fix"+quoteAll(logs)+a.where()+opt.again()+" --ladder"))
		}
		return nil
	}
	j, err := a.openJournal(m)
	if err != nil {
		return err
	}
	c := ladder.Climber{Machine: m, Journal: j, Dir: dir}
	if opt.afterLogon {
		c.Again = thisProgram() + " fix" + quoteAll(logs) + a.where() + opt.again() + " --ladder --after-logon"
	}
	// Without a package nothing can be tried; then a person says how it went.
	if v.Package != "" {
		c.Try = func() (*retry.Result, error) {
			w := retry.Wish{Dir: dir, Question: a.question(nil, opt.whyOptions, m), Now: a.now(),
				Ask: func(command string) error { return a.mayRun(m.Name(), command, opt.yes) }}
			if len(logs) == 1 {
				w.Of = logs[0]
			} else {
				w.Of = v.Package
			}
			return retry.Again(ctx, m, j, w)
		}
	}
	if !a.json {
		a.ladderText(a.out, l)
	}
	err = a.climb(&l, c, m, opt)
	if a.json {
		if bad := printJSON(a.out, l); bad != nil {
			return bad
		}
	}
	return err
}

// climb takes rung after rung until the setup works, nothing is left, or the
// person stops.
func (a *app) climb(l *ladder.Ladder, c ladder.Climber, m machine.Machine, opt fixOptions) error {
	// Each rung is judged before the next is taken: two fixes at once would not
	// tell which one helped.
	for at := l.Next(); at >= 0; at = l.Next() {
		r := &l.Rungs[at]
		if r.State == ladder.Taken {
			if err := a.judgeRung(l, c, at, opt); err != nil {
				return err
			}
		} else if err := a.takeRung(l, c, m, at, opt); err != nil {
			return err
		}
		if r.Came != "" && !a.json {
			fmt.Fprintf(a.out, "%s\n",
				strings.Join(wrap(fmt.Sprintf("Rung %d: %s. %s", at+1, r.State, sentence(r.Came)), a.style.Width, 2, true), "\n"))
		}
		if r.State == ladder.Taken { // what follows needs a restart, or a person
			return a.pause(at, r, c.Again != "")
		}
	}
	for _, r := range l.Rungs {
		if r.State == ladder.Helped {
			if !a.json {
				fmt.Fprintf(a.out, "\n%s %s\n", a.style.good("WORKS."), "To undo the rung:  "+a.style.key("hollowkey undo"+a.where()))
			}
			return nil
		}
	}
	if !a.json {
		fmt.Fprintf(a.out, "\nNo rung is left that can be taken from here. Those for a person stand in the list: %s\n",
			a.style.key("hollowkey case report"+a.where()))
	}
	return errNo
}

// takeRung shows a rung's plan, asks, and takes it.
func (a *app) takeRung(l *ladder.Ladder, c ladder.Climber, m machine.Machine, at int, opt fixOptions) error {
	r := &l.Rungs[at]
	// A rung that cannot be drafted here is no reason to stop.
	plan, err := c.Draft(*r)
	if err != nil {
		r.State, r.Came = ladder.Refused, strings.ReplaceAll(err.Error(), "\n", "; ")
		return l.Save(c.Dir)
	}
	if !a.json {
		fmt.Fprintf(a.out, "\n%s %s\n", a.style.bold(fmt.Sprintf("Rung %d:", at+1)), strings.Join(wrap(r.Title, a.style.Width, 8, true), "\n"))
		if err := planText(a.out, a.style, plan, m); err != nil {
			return err
		}
	}
	if plan.Pending() && !(opt.yes && !r.OneWay) { // what cannot be undone is asked for in any case
		sure, err := a.ask(fmt.Sprintf("Take rung %d on %s?", at+1, m.Name()))
		if errors.Is(err, errNobody) && opt.yes {
			r.State, r.Came = ladder.Left, "it cannot be undone, and there was no terminal to ask on"
			return l.Save(c.Dir)
		}
		if err != nil {
			return err
		}
		if !sure {
			r.State = ladder.Left
			return l.Save(c.Dir)
		}
	}
	if opt.point {
		if err := fix.RestorePoint(m, c.Journal, plan.Title); err != nil {
			fmt.Fprintf(a.err, "No restore point was taken: %s\n", clean(strings.ReplaceAll(err.Error(), "\n", "; ")))
		}
		opt.point = false
	}
	err = c.Take(l, at, plan)
	if err != nil && r.State == ladder.Refused { // the next one may go
		fmt.Fprintf(a.err, "%s\n", clean(err.Error()))
		return nil
	}
	return err
}

// thisProgram is how the program is called again by the OS: with its folder on
// the machine that it runs on, since nobody knows where a command of the OS
// starts.
func thisProgram() string {
	if path, err := os.Executable(); err == nil && runtime.GOOS == "windows" {
		return quoteArgument(path)
	}
	return "hollowkey"
}

// judgeRung says whether a rung that was taken before helped: by trying the
// setup again, or by asking the person.
func (a *app) judgeRung(l *ladder.Ladder, c ladder.Climber, at int, opt fixOptions) error {
	if c.Try != nil {
		return c.Judge(l, at)
	}
	helped, err := a.ask("Does the setup, or the program, work now?")
	if err != nil {
		return err
	}
	return c.Told(l, at, helped)
}

// pause says what a person has to do before the ladder goes on.
func (a *app) pause(at int, r *ladder.Rung, byItself bool) error {
	if a.json {
		return nil
	}
	what := "Try the setup again"
	if r.Price.Restart {
		what = "Restart the machine"
	}
	if r.Price.Restart && byItself {
		fmt.Fprintf(a.out, "\n%s: after the next sign-in it goes on from rung %d by itself.\n", what, at+1)
		return nil
	}
	fmt.Fprintf(a.out, "\n%s, then call this again: it goes on from rung %d.\n", what, at+1)
	return nil
}

// ladderText lists the rungs with what speaks for each and what it asks.
func (a *app) ladderText(w io.Writer, l ladder.Ladder) {
	s := a.style
	fmt.Fprintf(w, "%s  %d rungs, the likeliest and cheapest first\n\n", s.bold("LADDER"), len(l.Rungs))
	for i, r := range l.Rungs {
		state := ""
		if r.State != ladder.Waiting {
			state = string(r.State) + ": "
		}
		const indent = 12 // number and likelihood before the words
		fmt.Fprintf(w, "%3d  %3.0f %%  %s\n", i+1, r.Likely*100, strings.Join(wrap(state+r.Title, s.Width, indent, true), "\n"))
		words := r.Why
		if len(r.Steps) > 0 {
			words += "; " + r.Price.Words()
		}
		fmt.Fprintf(w, "%s\n", s.faint(strings.Join(wrap("("+words+")", s.Width, indent, false), "\n")))
		if r.Command != nil { // never wrapped, so that it can be pasted
			fmt.Fprintf(w, "      %s\n", s.key(programName+quoteAll(r.Command)+a.where()))
		}
	}
}
