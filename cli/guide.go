// This file walks somebody who types no options through why, fix and retry.
// Each answer can be given as an option instead, so that the walk can be tested
// and repeated.

package cli

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/logs/finder"
	"hollowkey/core/machine"
	"hollowkey/core/why"
)

// guideOptions are the answers that can be given beforehand; what is empty is
// asked.
type guideOptions struct {
	log, said, setup   string // what somebody has
	check              bool   // only the machine
	apply, retry, next string // yes or no: take the fix, run the setup again, take the next fix
	ticket             string // yes or no
}

// newGuide is the command that asks. Each question has an option that answers
// it beforehand, so that the same way can be gone by a script.
func (a *app) newGuide() *cobra.Command {
	var opt guideOptions
	c := &cobra.Command{
		Use:   "guide",
		Short: "asks what you have, and walks you through why, fix and retry",
		Long: `Asks what you have: a log, a message or code, a setup that is still to be run, or only
this machine. It finds logs, says why, shows the smallest fix, applies it after a yes, tries
again, goes on with the next fix, and writes a ticket. The program called alone on a
terminal does the same. Each question can be answered beforehand by its option; where there
is no terminal to ask on, all that are needed must be.

It changes the machine only after a yes (or with --apply yes). Exit status: 0 the setup
works in the end, or the machine is ready; 1 could not, 2 wrong call, 3 not yet.`,
		Example: "  hollowkey guide --machine ELLERY-D07\n  hollowkey guide --machine ELLERY-D07 --log tidebook.log --apply yes --retry yes\n" +
			"  hollowkey guide --machine ELLERY-D07 --setup planner.msi",
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error { return a.guide(c.Context(), opt) },
	}
	c.Flags().StringVar(&opt.log, "log", "", "the log of the setup that failed")
	c.Flags().StringVar(&opt.said, "said", "", "what it said, where there is no log: a message or a code")
	c.Flags().StringVar(&opt.setup, "setup", "", "a setup that is still to be run: is the machine ready for it")
	c.Flags().BoolVar(&opt.check, "check", false, "only check this machine")
	c.Flags().StringVar(&opt.apply, "apply", "", "apply the fix: yes or no")
	c.Flags().StringVar(&opt.retry, "retry", "", "run the setup again afterwards: yes or no")
	c.Flags().StringVar(&opt.next, "next", "", "go on with the next fix where one did not help: yes or no")
	c.Flags().StringVar(&opt.ticket, "ticket", "", "write a ticket at the end where it does not work: yes or no")
	c.MarkFlagsMutuallyExclusive("log", "said", "setup", "check")
	return c
}

// guide walks through why, fix and retry. It ends early when the log says that
// the setup worked.
func (a *app) guide(ctx context.Context, opt guideOptions) error {
	if err := a.guideMachine(); err != nil {
		return err
	}
	return a.onMachine(func(m machine.Machine, j *fix.Journal) error {
		said := whyOptions{said: opt.said}
		have, err := a.guideHave(opt)
		if err != nil {
			return err
		}
		var logs []string
		// What somebody has decides the way: a log, a message, a setup to come,
		// or only a machine.
		switch have {
		case haveSetup, haveMachine:
			return a.guideReady(m, have, opt)
		case haveWords:
			if said.said == "" {
				if said.said, err = a.enter("what it said: the words of the message, or the code"); err != nil {
					return err
				}
			}
		case haveLog:
			if logs, err = a.guideLog(ctx, m, opt, said); err != nil {
				return err
			}
		}
		v, err := a.judge(ctx, logs, said, m)
		if err != nil {
			return err
		}
		if err := verdictText(a.out, a.style, v, nil); err != nil || v.Worked() {
			return err
		}
		err = a.guideRungs(ctx, m, j, v, logs, opt)
		if errors.Is(err, errNo) {
			err = errors.Join(a.guideTicket(v, opt), err)
		}
		return err
	})
}

// guideMachine asks which machine is meant, when no option says it.
func (a *app) guideMachine() error {
	if a.machine != "" {
		return nil
	}
	picked := "twin"
	if (finder.Local{}).Known() {
		var err error
		if picked, err = a.choose("Which machine is it?", "--machine",
			[]answer{answer{"this computer", "live"}, answer{"a twin, in a folder", "twin"}}); err != nil {
			return err
		}
	} else if !a.onTerminal() {
		return wrongCall("--machine is missing\nhint: name a twin's folder; to lay one out: hollowkey demo")
	}
	if picked == "live" {
		a.machine = "live"
		return nil
	}
	folder, err := a.enter("the twin's folder (to lay one out: hollowkey demo)")
	a.machine = strings.TrimSpace(folder)
	if err == nil && a.machine == "" {
		err = errNo
	}
	return err
}

// What somebody has.
const (
	haveLog     = "log"
	haveWords   = "words"
	haveSetup   = "setup"
	haveMachine = "machine"
)

// guideHave asks what somebody has, when no option says it.
func (a *app) guideHave(opt guideOptions) (string, error) {
	switch {
	case opt.log != "":
		return haveLog, nil
	case opt.said != "":
		return haveWords, nil
	case opt.setup != "":
		return haveSetup, nil
	case opt.check:
		return haveMachine, nil
	}
	return a.choose("What do you have?", "--log, --said, --setup or --check", []answer{
		{"a log of a setup that failed, or a setup that left one here", haveLog}, {"only a message, or a code", haveWords},
		{"a setup that is still to be run", haveSetup}, {"only this machine: is it fit for setups?", haveMachine}})
}

const mostLogs = 8 // that are offered

// guideLog asks which setup failed: one of the logs on the machine, or another
// file. A log of the machine is copied into the case.
func (a *app) guideLog(ctx context.Context, m machine.Machine, opt guideOptions, told whyOptions) ([]string, error) {
	if opt.log != "" {
		return []string{opt.log}, nil
	}
	found, err := why.Survey(ctx, why.DiskOf(m), nil, a.question(nil, told, m))
	if err != nil {
		return nil, err
	}
	var options []answer
	// The newest first, and few: a person looks for what they did just now.
	for i, f := range found {
		if i == mostLogs {
			break
		}
		name := filepath.Base(strings.ReplaceAll(f.Path, `\`, "/"))
		options = append(options, answer{strings.TrimPrefix(fmt.Sprintf("%s %s: %s, %s", pad(f.Product, 20), f.Outcome, name,
			f.Time.Format("2006-01-02 15:04")), " "), f.Path})
	}
	options = append(options, answer{"another log file", "file"})
	picked, err := a.choose("Which one failed?", "--log", options)
	switch {
	case err != nil:
		return nil, err
	case picked == "file":
		name, err := a.enter("the log file")
		return []string{strings.TrimSpace(name)}, err
	}
	name, err := a.fetch(m, picked)
	return []string{name}, err
}

// guideReady checks the machine, for a setup or for any, and fixes what stops
// after a yes.
func (a *app) guideReady(m machine.Machine, have string, opt guideOptions) error {
	var args []string
	if have == haveSetup {
		setup := opt.setup
		if setup == "" {
			var err error
			if setup, err = a.enter("the setup: a file, or a folder with several"); err != nil {
				return err
			}
		}
		args = []string{setup}
	}
	res, steps, err := a.checked(m, args, readyOptions{})
	if err != nil {
		return err
	}
	if res.Ready || len(steps) == 0 {
		return a.ready(res, args, readyOptions{}, 0)
	}
	yes, preview, err := a.beforehand("--apply", opt.apply)
	if err != nil {
		return err
	}
	return a.readyMend(m, res, args, readyOptions{}, steps, planHow{consent: consent{yes: yes, preview: preview}})
}

// beforehand reads a yes or no that was given as an option; neither where none
// was.
func (a *app) beforehand(flag, given string) (yes, no bool, err error) {
	switch strings.ToLower(given) {
	case "yes":
		return true, false, nil
	case "no":
		return false, true, nil
	case "":
		return false, false, nil
	}
	return false, false, wrongCall("%s %q is not yes or no", flag, given)
}
