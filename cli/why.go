// This file is the command that says why. It reads options and hands the
// question to core/why.

package cli

import (
	"context"
	"fmt"
	"io"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fleet/intake"
	"hollowkey/core/fleet/learn"
	"hollowkey/core/logs/mask"
	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
	"hollowkey/core/record/report"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
)

// whyOptions are what why and fix need to reach a verdict.
type whyOptions struct {
	store    string      // of many logs; empty: none is asked
	signs    string      // folder of the site's own
	encoding string      // of the logs
	said     string      // what a dialog said
	reach    bool        // ask hosts that the log names
	pack     string      // the package that was set up
	exit     int         // what the setup ended with
	hasExit  func() bool // --exit was given, which may be 0
}

// bindReading binds what says how logs are read.
func (o *whyOptions) bindReading(c *cobra.Command) {
	c.Flags().StringVar(&o.signs, "signs", "", "folder with the site's own signs, read beside the built-in ones")
	c.Flags().StringVar(&o.encoding, "encoding", why.DetectEncoding, "encoding of the log, if detected wrongly: UTF-8, UTF-16LE, CP1252 …")
}

// bind binds the options of why. Whether --exit was given has to be asked of
// the flag itself: 0 is a number that a setup can end with.
func (o *whyOptions) bind(c *cobra.Command) {
	o.bindReading(c)
	c.Flags().StringVar(&o.store, "store", "", "a store of many logs (see triage): how often this was seen here, and what helped")
	c.Flags().BoolVar(&o.reach, "reach", false, "on the live machine, ask hosts that the log names whether they answer")
	c.Flags().StringVar(&o.said, "said", "", "what a dialog said, word for word; without a log, or beside one")
	c.Flags().IntVar(&o.exit, "exit", 0, "the number that the setup ended with; without a log, or beside one")
	c.Flags().StringVar(&o.pack, "package", "", "the package that was set up, where no log names it: a file here, or a path on the machine")
	o.hasExit = func() bool { return c.Flags().Changed("exit") }
}

// again are the options that a repeated call needs to come to the same verdict.
func (o whyOptions) again() (options string) {
	if o.signs != "" {
		options += " --signs " + quoteArgument(o.signs)
	}
	if o.encoding != "" && o.encoding != why.DetectEncoding {
		options += " --encoding " + quoteArgument(o.encoding)
	}
	if o.reach {
		options += " --reach"
	}
	if o.store != "" {
		options += " --store " + quoteArgument(o.store)
	}
	if o.pack != "" {
		options += " --package " + quoteArgument(o.pack)
	}
	if o.said != "" {
		options += " --said " + quoteArgument(o.said)
	}
	if o.hasExit != nil && o.hasExit() {
		options += fmt.Sprintf(" --exit %d", o.exit)
	}
	return options
}

// newWhy is the command that says why. It is the one to type first, so its help
// names every way of giving it what one has.
func (a *app) newWhy() *cobra.Command {
	var opt whyOptions
	var shown whyShown
	c := &cobra.Command{
		Use:   "why [LOG|FOLDER|ZIP...]",
		Short: "says why the setup failed, with the lines that prove it",
		Long: `Reads the log of a setup and says how it ended, what broke first, why, which lines
prove it, and how to fix it. With --machine it also looks there whether the
cause is really so. Several logs, a folder or a zip are taken for the logs of one attempt
(a bootstrapper's and those of its packages, for instance) and judged together; logs of
setups that have nothing to do with each other are told apart, the newest first.

It changes nothing. Exit status: 0 the setup worked (a restart may be due), 1 the
file could not be read or is no setup log, 2 wrong call, 3 the setup did not work.`,
		Example: "  hollowkey why setup.log\n  hollowkey why setup.log --machine ELLERY-D07\n  hollowkey why setup.log --json\n" +
			"  hollowkey why bundle.log package.log\n  hollowkey why --said 'Error 1327. Invalid Drive: Z:' --machine ELLERY-D07\n" +
			"  hollowkey why --exit 1603",
		RunE: func(c *cobra.Command, args []string) error {
			m, closeMachine, err := a.openNamedMachine()
			if err != nil {
				return err
			}
			defer closeMachine()
			if args, err = a.logsOf(args, opt); err != nil {
				return err
			}
			ans, err := a.answer(c.Context(), args, opt, m)
			if err != nil {
				return err
			}
			v := ans.Verdict
			var parting *verdict.Parting
			if shown.against != "" {
				p, err := ans.Against(c.Context(), a.question(args, opt, m), shown.against)
				if err != nil {
					return err
				}
				parting = &p
			}
			err = a.show(v, parting, shown, a.nextCommands(v, args, opt))
			if err == nil && !v.Worked() {
				return errNo
			}
			return err
		},
	}
	opt.bind(c)
	c.Flags().BoolVar(&shown.explain, "explain", false, "all causes that were weighed, with what speaks for and against each")
	c.Flags().BoolVar(&shown.ticket, "ticket", false, "the verdict as Markdown for a ticket or a chat, names of persons and machines masked")
	c.Flags().StringVar(&shown.against, "against", "", "log of the same setup where it worked: where the two part, and what differed")
	return c
}

// whyShown is in which form a verdict is shown.
type whyShown struct {
	explain bool   // all causes that were weighed
	ticket  bool   // as Markdown
	against string // log of the same setup where it worked
}

// show writes a verdict in the form that was asked for.
func (a *app) show(v *verdict.Verdict, parting *verdict.Parting, shown whyShown, next []string) error {
	switch {
	case a.json:
		var weighed []verdict.Weighed
		if shown.explain {
			weighed = v.Explained()
		}
		return printJSON(a.out, struct {
			*verdict.Verdict
			Hypotheses []verdict.Weighed `json:"hypotheses,omitempty"`
			Parted     *verdict.Parting  `json:"parted,omitempty"`
		}{v, weighed, parting})
	case shown.ticket:
		return report.Ticket(a.out, v, mask.New(nil, nil))
	case shown.explain:
		return explainText(a.out, a.style, v)
	}
	if err := verdictText(a.out, a.style, v, next); err != nil || parting == nil {
		return err
	}
	return partingText(a.out, a.style, shown.against, parting)
}

// question is what a call asks of core/why.
func (a *app) question(logs []string, opt whyOptions, m machine.Machine) why.Question {
	q := why.Question{Logs: logs, Said: opt.said, Signs: opt.signs, Encoding: opt.encoding, Machine: m,
		Reach: opt.reach, Stdin: a.in, Watch: a.watch, Package: opt.pack}
	if opt.hasExit != nil && opt.hasExit() {
		q.Exit = &opt.exit
	}
	return q
}

// judge reaches the verdict, and keeps it in the case when one is open.
func (a *app) judge(ctx context.Context, logs []string, opt whyOptions, m machine.Machine) (*verdict.Verdict, error) {
	ans, err := a.answer(ctx, logs, opt, m)
	if err != nil {
		return nil, err
	}
	return ans.Verdict, nil
}

// answer is judge with what the verdict was reached from.
func (a *app) answer(ctx context.Context, logs []string, opt whyOptions, m machine.Machine) (*why.Answer, error) {
	ans, err := why.Ask(ctx, a.question(logs, opt, m))
	if err != nil {
		return nil, err
	}
	a.consult(ctx, ans.Verdict, opt.store, m)
	if dir, ok := a.openCase(); ok && len(ans.Logs) > 0 {
		kept, err := a.keepable(ans.Logs, opt, m)
		if err != nil {
			return nil, err
		}
		err = casefile.Keep(dir, kept, ans.Verdict)
		return ans, err
	}
	return ans, nil
}

// consult asks the site's store, where one is named. What it does not tell is a
// remark: the verdict stands without it.
func (a *app) consult(ctx context.Context, v *verdict.Verdict, name string, m machine.Machine) {
	if name == "" {
		return
	}
	s, err := madeStore(ctx, name, false)
	if err == nil {
		defer s.Close()
		on := ""
		if m != nil {
			on = m.Name()
		}
		err = learn.Consult(ctx, s, v, on)
	}
	if err != nil {
		text, _, _ := strings.Cut(err.Error(), "\n")
		v.Remarks = append(v.Remarks, "the store of logs could not be asked: "+text)
	}
}

// teach puts what was tried in a case into the site's store, where one is
// configured. That it could not is told, and nothing more: the case itself has
// it.
func (a *app) teach(ctx context.Context, dir string) {
	if a.store == "" || !casefile.Exists(dir) {
		return
	}
	s, err := madeStore(ctx, a.store, true)
	if err == nil {
		defer s.Close()
		at := ""
		if at, err = filepath.Abs(filepath.Join(dir, "case.yaml")); err == nil {
			_, err = intake.Add(ctx, s, []string{at}, intake.Options{})
		}
	}
	if err != nil {
		text, _, _ := strings.Cut(err.Error(), "\n")
		fmt.Fprintf(a.err, "The store of logs did not take what was tried: %s\n", clean(text))
	}
}

// keepable are logs as a case can keep them: those that lie on the machine are
// copied into it first.
func (a *app) keepable(logs []string, opt whyOptions, m machine.Machine) (kept []string, err error) {
	q := a.question(nil, opt, m)
	for _, l := range logs {
		if !q.OnMachine(l) {
			kept = append(kept, l)
			continue
		}
		at, err := a.fetch(m, l)
		if err != nil {
			return nil, err
		}
		kept = append(kept, at)
	}
	return kept, nil
}

// openCase is the folder of the case that was opened for this call's case or
// twin.
func (a *app) openCase() (dir string, ok bool) {
	if a.caseDir == "" && (a.machine == "" || a.machine == "live") {
		return "", false
	}
	dir = a.caseFolder()
	return dir, casefile.Exists(dir)
}

// watch shows how far the reading of logs is.
func (a *app) watch(total int64) (count func(io.Reader) io.Reader, stop func()) {
	bar := a.progress(total)
	return bar.reader, bar.stop
}
