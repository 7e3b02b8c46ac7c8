// This file is the command that changes a machine. It drafts a plan, shows it,
// asks, and goes the way that all plans go (plan.go); which remedy is meant,
// core/why has settled.

package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/prove/retry"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why/verdict"
)

type fixOptions struct {
	whyOptions
	remedy int // number of the remedy; 0: the first with steps
	consent
	point   bool // a restore point before the change
	trusted bool // steps of a site's own sign need no question of their own
	ladder  bool // climb all remedies, one after another
	// afterLogon lets the ladder go on by itself after a restart.
	afterLogon bool
	step       string   // one named step in place of a verdict's
	args       []string // its arguments, NAME=VALUE
	folder     string   // alter the package in a copy of its whole folder
	script     string   // write a script for this shell in place of applying
	trial      bool     // try it on a copy of the twin first
	command    bool     // only print how to start the setup
	given      []string // properties for it, NAME=VALUE
	with       []string // transforms for it
}

// newFix is the command that shows and applies a remedy. Its options are those
// of why, as it reaches the verdict again: a verdict kept in a file might be
// about a machine that has changed since.
func (a *app) newFix() *cobra.Command {
	var opt fixOptions
	c := &cobra.Command{
		Use:   "fix [LOG|FOLDER...]",
		Short: "shows and applies the smallest change that puts the cause right",
		Long: `Reaches the verdict as why does, looks at the machine whether it is so, lists the
remedies, and shows the steps of one of them: what is there now and what it will be.
Then it asks, applies, verifies, and writes a journal from which undo works.

With --step it takes one named step in place of a verdict's (docs/steps.md lists them);
--arg gives its arguments. With --command it prints how to start the setup. With --ladder
it goes through all that could help, the likeliest and cheapest first: it takes one,
tries the setup again, undoes what did not help, and goes on.

It reads the log and the machine, and changes the machine only after a yes (or with
--yes). The journal goes to --case, else to a folder beside the twin, TWIN.case.
Exit status: 0 applied, previewed, or nothing to do, 1 could not do it, 2 wrong call,
3 the verdict has no step that this machine could take, or the answer was no.`,
		Example: "  hollowkey fix setup.log --machine ELLERY-D07 --preview\n  hollowkey fix setup.log --machine ELLERY-D07 --yes\n" +
			"  hollowkey fix --said 'Error 1327. Invalid Drive: Z:' --machine ELLERY-D07 --preview\n" +
			"  hollowkey fix --step ini --arg 'file=C:\\Deploy\\setup.ini' --arg section=Gate --arg key=NewestBuild --arg value=19045 --machine " +
			"ELLERY-D07 --preview",
		RunE: func(c *cobra.Command, args []string) error { return a.fix(c, args, opt) },
	}
	opt.whyOptions.bind(c)
	c.Flags().IntVar(&opt.remedy, "remedy", 0, "take this remedy of the list, not the first that has steps")
	c.Flags().BoolVar(&opt.afterLogon, "after-logon", false, "with --ladder: where a rung needs a restart, go on "+
		"by itself after the next sign-in")
	c.Flags().BoolVar(&opt.ladder, "ladder", false, "all that could help, in order: take one, try the setup again, undo what did not help")
	c.Flags().StringVar(&opt.step, "step", "", "take this one step; help lists the kinds, KIND --help the arguments of one")
	c.Flags().StringArrayVar(&opt.args, "arg", nil, "an argument of --step, NAME=VALUE (may be repeated)")
	c.Flags().StringVar(&opt.folder, "folder", "", "alter the package under its old name in a copy of its whole "+
		"folder, for a program that starts it by that name: a folder on the machine that is not there yet")
	c.Flags().StringVar(&opt.script, "script", "",
		"change nothing; write hollowkey-fix and hollowkey-fix-undo as a script instead: ps1 or cmd")
	c.Flags().BoolVar(&opt.trial, "rehearse", false, "change nothing; apply it to a copy of the twin and rehearse the setup there")
	c.Flags().BoolVar(&opt.command, "command", false, "change nothing; print how to start the setup: quoted, elevated, with a log")
	c.Flags().StringArrayVar(&opt.given, "given", nil, "with --command: a property, NAME=VALUE (may be repeated)")
	c.Flags().StringArrayVar(&opt.with, "transform", nil, "with --command: a transform (may be repeated)")
	opt.consent.bind(c)
	c.Flags().BoolVar(&opt.point, "restore-point", false, "let the OS take a restore point before the change, where it can")
	c.Flags().BoolVar(&opt.trusted, "site-steps", false, "take steps that a site's own sign names without asking for them apart")
	a.helpOfSteps(c, &opt.step)
	return c
}

// again are the options that a repeated call needs to come to the same plan.
func (o fixOptions) again() string {
	if o.step != "" {
		text := " --step " + o.step
		for _, a := range o.args {
			text += " --arg " + quoteArgument(a)
		}
		return text
	}
	if o.remedy == 0 {
		return o.whyOptions.again()
	}
	return o.whyOptions.again() + fmt.Sprintf(" --remedy %d", o.remedy)
}

// fixResult is what fix prints as JSON.
type fixResult struct {
	Schema   string           `json:"schema"`              // names the shape
	Machine  string           `json:"machine"`             // its name
	Verdict  *verdict.Verdict `json:"verdict,omitempty"`   // nil for a step by name
	Remedy   int              `json:"remedy"`              // from 1; 0 when none has steps
	Plan     *fix.Plan        `json:"plan"`                // nil where nothing can be done by a program
	Applied  bool             `json:"applied"`             // it was carried out
	UndoWith string           `json:"undo_with,omitempty"` // the command that undoes it
	Change   retry.Change     `json:"rehearsed,omitempty"` // what would become of the failure
}

// from is the file of the site's own sign that names the chosen steps.
func (r fixResult) from() string {
	if r.Verdict == nil || r.Remedy == 0 {
		return ""
	}
	return r.Verdict.Remedies[r.Remedy-1].From
}

// fix drafts the plan that the options ask for: a remedy of the verdict, a step
// by name, or only the command line. Everything after the draft is the way of
// all plans.
func (a *app) fix(c *cobra.Command, logs []string, opt fixOptions) error {
	if opt.step == "help" {
		return a.stepHelp(opt.step)
	}
	if opt.step == "" {
		var err error
		if logs, err = a.logsOf(logs, opt.whyOptions); err != nil {
			return err
		}
	}
	// To print a call needs no machine.
	if opt.command && a.machine == "" {
		return a.fixCall(c.Context(), nil, logs, opt)
	}
	m, closeMachine, err := a.openMachine()
	if err != nil {
		return err
	}
	defer closeMachine()
	if opt.command {
		return a.fixCall(c.Context(), m, logs, opt)
	}
	if opt.ladder {
		return a.fixLadder(c.Context(), m, logs, opt)
	}
	res := fixResult{Schema: "hollowkey.fix/1", Machine: m.Name()}
	var plan fix.Plan
	if opt.step != "" {
		plan, err = namedStep(m, logs, opt)
	} else {
		plan, err = a.remedyPlan(c.Context(), m, logs, opt, &res)
	}
	if err != nil {
		return err
	}
	if plan.Machine == "" { // all is advice
		return a.fixEnd(res, errNo)
	}
	res.Plan = &plan
	res.UndoWith = "hollowkey undo" + a.where()
	if opt.trial {
		return a.fixRehearse(c.Context(), m, res)
	}
	if opt.script != "" {
		return a.fixScript(m, res, opt.script)
	}
	// Where the package is known, the trial is a command of ours too.
	after := "Now run the setup again."
	if len(logs) == 1 && res.Verdict != nil && res.Verdict.Package != "" {
		after = "To try again:     " + a.style.key("hollowkey retry"+quoteAll(logs)+a.where())
	}
	applied, err := a.carryOut(m, plan,
		planHow{consent: opt.consent, restorePoint: opt.point, again: "hollowkey fix" + quoteAll(logs) + a.where() + opt.again(),
			after: after, from: res.from(), trusted: opt.trusted})
	res.Applied = applied
	if applied && res.Verdict != nil { // as it was before the change; a later look finds it mended
		if _, bad := casefile.AddVerdict(a.caseFolder(), res.Verdict); bad != nil {
			return bad
		}
	}
	if err != nil && !errors.Is(err, errNo) && !errors.Is(err, errNobody) {
		return err
	}
	return a.fixEnd(res, err)
}

// fixScript shows the plan and writes it as a script, with the way back beside.
func (a *app) fixScript(m machine.Machine, res fixResult, shell string) error {
	forward, back, err := res.Plan.Script(shell)
	if errors.Is(err, fix.ErrShell) {
		return callError{err}
	}
	if err != nil {
		return err
	}
	if !a.json {
		if err := planText(a.out, a.style, *res.Plan, m); err != nil {
			return err
		}
	}
	// Never over a script that is there: somebody may have looked it over
	// already.
	for name, text := range map[string]string{"hollowkey-fix." + shell: forward, "hollowkey-fix-undo." + shell: back} {
		f, err := os.OpenFile(name, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
		if err != nil {
			return fmt.Errorf("%w\nhint: move the earlier script away first", err)
		}
		if shell == "ps1" {
			text = "\uFEFF" + text // without the mark letters beyond ASCII are misread
		}
		if _, err := f.WriteString(text); err != nil {
			f.Close()
			return err
		}
		if err := f.Close(); err != nil {
			return err
		}
	}
	if !a.json {
		fmt.Fprintf(a.out, "\n%s hollowkey-fix.%s, and hollowkey-fix-undo.%s, which undoes it. Nothing has been changed.\n",
			a.style.good("Written:"), shell, shell)
	}
	return a.fixEnd(res, nil)
}

// remedyPlan reaches the verdict, shows its remedies, and drafts the chosen
// one; the plan is empty when none has steps.
func (a *app) remedyPlan(ctx context.Context, m machine.Machine, logs []string, opt fixOptions, res *fixResult) (fix.Plan, error) {
	v, err := a.judge(ctx, logs, opt.whyOptions, m)
	if err != nil {
		return fix.Plan{}, err
	}
	at, err := v.Choose(opt.remedy)
	if errors.Is(err, verdict.ErrNoSuchRemedy) {
		return fix.Plan{}, callError{err}
	}
	// There is something to do, and a person has to do it: that is no error.
	if errors.Is(err, verdict.ErrAdvice) {
		a.complain(err)
		return fix.Plan{}, nil
	}
	if err != nil {
		return fix.Plan{}, err
	}
	if opt.folder != "" {
		if at, err = inFolder(v, opt.folder); err != nil {
			return fix.Plan{}, err
		}
	}
	res.Verdict, res.Remedy = v, at+1
	if !a.json {
		if err := fixHead(a.out, a.style, v, at, m.Name()); err != nil {
			return fix.Plan{}, err
		}
	}
	if at < 0 {
		return fix.Plan{}, nil
	}
	r := &v.Remedies[at]
	// On a twin several rights can be tried one by one; the fewest that help
	// are given.
	if t, ok := m.(*twin.Twin); ok {
		if fewer := retry.Smallest(ctx, t, r.Steps, v, a.inForce(m), a.now); len(fewer) < len(r.Steps) {
			r.Steps, r.Title = fewer, "give "+fewer[0]["grant"]["account"]+" the right to change "+step.TargetOf(fewer[0])
			if !a.json {
				fmt.Fprintln(a.out, "Rehearsed one by one: this one right is enough.")
			}
		}
	}
	return fix.Draft(m, r.Title, r.Steps)
}

// inFolder turns the remedy with an altered copy into one that alters a copy of
// the whole folder.
func inFolder(v *verdict.Verdict, folder string) (at int, err error) {
	for i := range v.Remedies {
		r := &v.Remedies[i]
		for _, s := range r.Steps {
			if c := s["copy"]; c != nil {
				r.Steps = []step.Model{step.New("copy", "package", c["package"], "edits", c["edits"], "folder", folder)}
				r.Title = "let it pass in a copy of its whole folder, and start from there the program that starts it"
				r.OnlyNamed = false
				return i, nil
			}
		}
	}
	return 0, wrongCall("--folder is for a package that is altered, and no remedy here alters one")
}

// namedStep drafts the one step that the call names.
func namedStep(m machine.Machine, logs []string, opt fixOptions) (fix.Plan, error) {
	if len(logs) > 0 {
		return fix.Plan{}, wrongCall("--step takes no log; what the step acts on goes as --arg NAME=VALUE\nhint: to list the arguments: hollowkey fix --step %s --help", opt.step)
	}
	args := map[string]string{}
	for _, a := range opt.args {
		name, value, ok := strings.Cut(a, "=")
		if !ok {
			return fix.Plan{}, wrongCall("--arg %q is not NAME=VALUE", a)
		}
		args[name] = value
	}
	model := step.Model{opt.step: args}
	s, err := kinds.New(model)
	if err != nil {
		return fix.Plan{}, callError{err}
	}
	return fix.DraftNamed(m, s.Words(), model)
}

// fixEnd prints the result as JSON, also of a plan that failed: what was done
// before it must be told.
func (a *app) fixEnd(res fixResult, err error) error {
	if a.json {
		if bad := printJSON(a.out, res); bad != nil {
			return bad
		}
	}
	return err
}

// fixHead tells the cause and what was seen of it on the machine, before the
// list of remedies: whoever says yes must know to what.
func fixHead(w io.Writer, s Style, v *verdict.Verdict, at int, on string) error {
	var b strings.Builder
	if v.Worked() {
		fmt.Fprintf(&b, "%s  %s\n", outcomeWord(s, v.Outcome), sentence(v.Cause.Summary))
	} else {
		fmt.Fprintln(&b, strings.Join(wrap(sentence(v.Cause.Summary), s.Width, 0, true), "\n"))
		for _, f := range v.Machine {
			if f.Answer == "yes" {
				seen := "Seen on " + on + ":"
				lines := wrap(seen+" "+f.Text+".", s.Width, 0, true)
				lines[0] = s.good(seen) + strings.TrimPrefix(lines[0], seen)
				fmt.Fprintln(&b, strings.Join(lines, "\n"))
			}
		}
		b.WriteString("\n")
	}
	for i, r := range v.Remedies {
		// The arrow marks the remedy that the plan below is of.
		mark := "  "
		if i == at {
			mark = s.bold("→ ")
		}
		kind := "manual"
		if len(r.Steps) > 0 {
			kind = fmt.Sprintf("%d step", len(r.Steps))
			if len(r.Steps) > 1 {
				kind += "s"
			}
		}
		title := r.Title
		if r.From != "" {
			title += " (by " + r.From + ")"
		}
		text := wrap(title, s.Width, 15, true)
		fmt.Fprintf(&b, "%s%d  %s%s\n", mark, i+1, s.faint(pad(kind, 10)), strings.Join(text, "\n"))
		if len(r.Steps) > 0 {
			words := step.Price(r.Steps).Words()
			if r.OnlyNamed {
				words = fmt.Sprintf("only with --remedy %d; ", i+1) + words
			}
			fmt.Fprintf(&b, "%s\n", s.faint(strings.Join(wrap("("+words+")", s.Width, 15, false), "\n")))
		}
	}
	// Nothing is taken unasked: the call says how to ask for it.
	if at < 0 && len(v.Remedies) > 0 {
		if named := v.FirstNamed(); named >= 0 {
			more := fmt.Sprintf("None of these is done unasked. Add --remedy %d to the call to take that one, with --preview to only see it.", named+1)
			b.WriteString("\n" + strings.Join(wrap(more, s.Width, 0, true), "\n") + "\n")
		} else {
			b.WriteString("\nNone of these is a change that can be made on this machine from here.\n")
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}
