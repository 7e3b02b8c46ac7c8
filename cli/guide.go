package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"hollowkey/core/fix"
	"hollowkey/core/logs/finder"
	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
)

// guideOptions are the answers that can be given beforehand.
type guideOptions struct {
	log, said, apply, retry string // answers given beforehand; empty: to be asked
}

// newGuide is the command that asks. Each question has an option that answers it
// beforehand, so that the same way can be gone by a script.
func (a *app) newGuide() *cobra.Command {
	var opt guideOptions
	c := &cobra.Command{
		Use:   "guide",
		Short: "asks what failed, and leads through why, fix and retry",
		Long: `Asks what failed and walks you through it: it looks for logs, says why, shows the smallest fix,
applies it after a yes, and tries again. The program called alone on a terminal does the
same. Each question can be answered beforehand by its option; where there is no terminal
to ask on, all that are needed must be.

It changes the machine only after a yes (or with --apply yes). Exit status: 0 the setup
works in the end, 1 could not, 2 wrong call, 3 it does not work yet.`,
		Example: "  hollowkey guide --machine ELLERY-D07\n  hollowkey guide --machine ELLERY-D07 --log tidebook.log --apply yes --retry yes",
		Args:    cobra.NoArgs,
		RunE:    func(c *cobra.Command, _ []string) error { return a.guide(c.Context(), opt) },
	}
	c.Flags().StringVar(&opt.log, "log", "", "the log of the setup that failed")
	c.Flags().StringVar(&opt.said, "said", "", "what it said, where there is no log")
	c.Flags().StringVar(&opt.apply, "apply", "", "apply the first fix: yes or no")
	c.Flags().StringVar(&opt.retry, "retry", "", "run the setup again afterwards: yes or no")
	return c
}

// onTerminal says whether a person can be asked.
func (a *app) onTerminal() bool {
	in, ok := a.in.(*os.File)
	w := a.out
	if s, is := w.(*safe); is {
		w = s.w
	}
	out, alsoOK := w.(*os.File)
	return ok && alsoOK && term.IsTerminal(int(in.Fd())) && term.IsTerminal(int(out.Fd()))
}

// An answer is one of a question's answers: what is shown, and what it means.
type answer struct{ shown, means string } // what a person reads, and what it stands for

// choose puts a question with a few answers; where nobody is there, flag says
// which option would have answered it.
func (a *app) choose(title, flag string, answers []answer) (string, error) {
	if !a.onTerminal() {
		return "", fmt.Errorf("no terminal to ask on: %s\nhint: answer it with %s", strings.ToLower(title), flag)
	}
	fmt.Fprintf(a.out, "\n%s\n", a.style.bold(title))
	for i, o := range answers {
		fmt.Fprintf(a.out, "  %d  %s\n", i+1, a.style.fit(clean(o.shown), a.style.Width-8))
	}
	for {
		said, err := a.enter(fmt.Sprintf("1 to %d", len(answers)))
		if err != nil {
			return "", err
		}
		if n, err := strconv.Atoi(said); err == nil && n >= 1 && n <= len(answers) {
			return answers[n-1].means, nil
		}
	}
}

// yes answers a yes-or-no question, from its option when that was given.
func (a *app) yes(title, given, flag string) (bool, error) {
	switch strings.ToLower(given) {
	case "yes":
		return true, nil
	case "no":
		return false, nil
	case "":
	default:
		return false, wrongCall("%s %q is not yes or no", flag, given)
	}
	if !a.onTerminal() {
		return false, fmt.Errorf("no terminal to ask on: %s\nhint: answer it with %s", strings.ToLower(title), flag)
	}
	return a.ask(title)
}

// guide leads through why, fix and retry. It ends early when the log says that the
// setup worked.
func (a *app) guide(ctx context.Context, opt guideOptions) error {
	if err := a.guideMachine(); err != nil {
		return err
	}
	return a.onMachine(func(m machine.Machine, j *fix.Journal) error {
		said := whyOptions{said: opt.said}
		logs, err := a.guideLog(ctx, m, opt, &said)
		if err != nil {
			return err
		}
		v, err := a.judge(ctx, logs, said, m)
		if err != nil {
			return err
		}
		if err := verdictText(a.out, a.style, v, nil); err != nil || v.Worked() {
			return err
		}
		applied, err := a.guideFix(m, j, v, opt)
		if err != nil {
			return err
		}
		return a.guideRetry(ctx, m, j, v, logs, applied, opt)
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
		return wrongCall("--machine is missing\nhint: name a twin's folder; hollowkey demo lays one out")
	}
	if picked == "live" {
		a.machine = "live"
		return nil
	}
	folder, err := a.enter("the twin's folder (hollowkey demo lays one out)")
	a.machine = strings.TrimSpace(folder)
	if err == nil && a.machine == "" {
		err = errNo
	}
	return err
}

const mostLogs = 8 // that are offered

// guideLog asks which setup failed: one of the logs on the machine, another
// file, or a message without a log. A log of the machine is copied into the
// case.
func (a *app) guideLog(ctx context.Context, m machine.Machine, opt guideOptions, told *whyOptions) ([]string, error) {
	switch {
	case opt.log != "":
		return []string{opt.log}, nil
	case opt.said != "":
		return nil, nil
	}
	found, err := why.Survey(ctx, why.DiskOf(m), nil, a.question(nil, *told, m))
	if err != nil {
		return nil, err
	}
	var options []answer
	for i, f := range found {
		if i == mostLogs {
			break
		}
		name := filepath.Base(strings.ReplaceAll(f.Path, `\`, "/"))
		options = append(options, answer{strings.TrimPrefix(fmt.Sprintf("%s %s: %s, %s", pad(f.Product, 20), f.Outcome, name,
			f.Time.Format("2006-01-02 15:04")), " "), f.Path})
	}
	options = append(options, answer{"another log file", "file"}, answer{"there is no log, only a message or an exit code", "said"})
	picked, err := a.choose("What failed?", "--log or --said", options)
	switch {
	case err != nil:
		return nil, err
	case picked == "file":
		name, err := a.enter("the log file")
		return []string{strings.TrimSpace(name)}, err
	case picked == "said":
		told.said, err = a.enter("what it said: the words of the message, or the code")
		return nil, err
	}
	name, err := a.fetch(m, picked)
	return []string{name}, err
}

// fetch copies a log of the machine into the case.
func (a *app) fetch(m machine.Machine, path string) (string, error) {
	in, err := m.Open(path)
	if err != nil {
		return "", err
	}
	defer in.Close()
	dir, err := os.MkdirTemp("", "hollowkey-log-*")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(dir)
	at := filepath.Join(dir, path[strings.LastIndexByte(path, '\\')+1:])
	f, err := os.Create(at)
	if err != nil {
		return "", err
	}
	_, err = io.Copy(f, in)
	if err = errors.Join(err, f.Close()); err != nil {
		return "", err
	}
	return casefile.AddEvidence(a.caseFolder(), at)
}

// guideFix shows the first remedy that has steps and applies it after a yes.
func (a *app) guideFix(m machine.Machine, j *fix.Journal, v *verdict.Verdict, opt guideOptions) (bool, error) {
	at := v.FirstWithSteps()
	if at < 0 {
		fmt.Fprintf(a.out, "\n%s\n", a.style.bold("None of the remedies is a change that can be made from here; see the list above."))
		if len(v.Logs) > 0 {
			fmt.Fprintf(a.out, "All that could help, in order:  %s\n", a.style.key("hollowkey fix "+quoteArgument(v.Logs[0].File)+a.where()+" --ladder --preview"))
		}
		return false, nil
	}
	plan, err := fix.Draft(m, v.Remedies[at].Title, v.Remedies[at].Steps)
	if err != nil {
		return false, err
	}
	fmt.Fprintf(a.out, "\n%s\n", a.style.bold("The smallest fix:"))
	if err := planText(a.out, a.style, plan, m); err != nil || !plan.Pending() {
		return false, err
	}
	fmt.Fprintln(a.out)
	if from := v.Remedies[at].From; from != "" {
		if sure, err := a.ask(fmt.Sprintf("These steps come from %s, not from the program. Take them?", from)); err != nil || !sure {
			return false, err
		}
	}
	question := "Apply this to " + m.Name() + "? (undo undoes it)"
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

// guideRetry tries the setup again after a yes.
func (a *app) guideRetry(ctx context.Context, m machine.Machine, j *fix.Journal, v *verdict.Verdict, logs []string, applied bool,
	opt guideOptions) error {
	if !applied || v.Package == "" || len(logs) == 0 {
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
	return a.retry(ctx, m, j, logs, retryOptions{})
}
