package cli

import (
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/bounded"
	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/step"
	"hollowkey/core/why/checks"
)

type readyOptions struct {
	needs, user, save  string // file of a site's needs, as whom, where the result goes
	mend, preview, yes bool   // take the steps, show only, do not ask
}

// newReady is the command that checks a machine before a setup.
func (a *app) newReady() *cobra.Command {
	var opt readyOptions
	c := &cobra.Command{
		Use:   "ready [PACKAGE]",
		Short: "checks the machine before a set-up, and says what would mend it",
		Long: `Checks whether a machine is fit for a set-up: pending restart, another installation, the
installer service, free space, folders and their rights, PATH, shell folders, policies,
cached packages. With a package also its gates and the space that it needs; with --needs
a site's own needs. Each check is pass, warn, stop or unknown, with the value seen.

--mend takes the steps that put right what stops, as fix does: previewed, with undo. Else
it reads only. Exit status: 0 ready, 1 could not, 2 wrong call, 3 something stops.`,
		Example: "  hollowkey ready --machine ELLERY-D07\n  hollowkey ready planner.msi --machine ELLERY-D07 --needs site.yaml\n" +
			"  hollowkey ready --machine ELLERY-D07 --mend --preview",
		Args: cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, _ *fix.Journal) error { return a.ready(m, args, opt) })
		},
	}
	c.Flags().StringVar(&opt.needs, "needs", "", "a site's needs, a YAML file")
	c.Flags().StringVar(&opt.user, "user", "", "whose folders and rights count (else the user who is signed in)")
	c.Flags().StringVar(&opt.save, "save", "", "write the details as JSON into this file, too")
	c.Flags().BoolVar(&opt.mend, "mend", false, "take the steps that put right what stops")
	c.Flags().BoolVar(&opt.preview, "preview", false, "with --mend: only show what would be changed")
	c.Flags().BoolVar(&opt.yes, "yes", false, "with --mend: apply without asking")
	return c
}

type readyResult struct {
	Schema  string           `json:"schema"`            // names the shape
	Machine string           `json:"machine"`           // its name
	Ready   bool             `json:"ready"`             // nothing stops
	Checks  []checks.Finding `json:"checks"`            // in the order in which they were asked
	Plan    *fix.Plan        `json:"plan,omitempty"`    // nil without --mend, or where no step is known
	Applied bool             `json:"applied,omitempty"` // it was carried out
}

// ready asks all checks, and with --mend takes the steps of those that stop. Steps
// of a mere warning are not taken: a machine that is ready is left alone.
func (a *app) ready(m machine.Machine, args []string, opt readyOptions) error {
	o := checks.Options{User: opt.user}
	if opt.needs != "" {
		b, err := bounded.ReadFile(opt.needs, checks.MaxNeeds)
		if err != nil {
			return err
		}
		if o.Needs, err = checks.ReadNeeds(opt.needs, b); err != nil {
			return err
		}
	}
	if len(args) > 0 {
		db, _, done, err := a.openPackage(args[0], packageOptions{})
		if err != nil {
			return err
		}
		defer done()
		o.Package = db
	}
	res := readyResult{Schema: "hollowkey.ready/1", Machine: m.Name(), Ready: true, Checks: checks.Ready(m, o)}
	var steps []step.Model
	for _, c := range res.Checks {
		if c.Answer == checks.Stop {
			res.Ready = false
			steps = append(steps, c.Steps...)
		}
	}
	if !a.json {
		if err := a.readyText(res, args, opt, len(steps)); err != nil {
			return err
		}
	}
	if opt.mend && len(steps) > 0 {
		plan, err := fix.Draft(m, "make the machine ready", steps)
		if err != nil {
			return err
		}
		res.Plan = &plan
		if res.Applied, err = a.carryOut(m, plan,
			planHow{preview: opt.preview, yes: opt.yes, again: "hollowkey ready" + quoteAll(args) + a.readyAgain(opt) + " --mend",
				after: "Now check again: hollowkey ready" + quoteAll(args) + a.readyAgain(opt)}); err != nil {
			return err
		}
	}
	if opt.save != "" {
		f, err := os.Create(opt.save)
		if err != nil {
			return err
		}
		defer f.Close()
		if err := printJSON(f, res); err != nil {
			return err
		}
	}
	if a.json {
		if err := printJSON(a.out, res); err != nil {
			return err
		}
	}
	if !res.Ready && !res.Applied {
		return errNo
	}
	return nil
}

// readyAgain are the options that this call had, for the command printed next.
func (a *app) readyAgain(opt readyOptions) (text string) {
	text = a.where()
	if opt.needs != "" {
		text += " --needs " + quoteArgument(opt.needs)
	}
	if opt.user != "" {
		text += " --user " + quoteArgument(opt.user)
	}
	return text
}

// readyText tells the sum first and then the checks, those that stop before all
// others, each with what mends it.
func (a *app) readyText(res readyResult, args []string, opt readyOptions, steps int) error {
	var b strings.Builder
	s := a.style
	n := map[checks.State]int{}
	widest := 0
	for _, c := range res.Checks {
		n[c.Answer]++
		widest = max(widest, len(c.Name))
	}
	word := s.good("READY")
	if !res.Ready {
		word = s.bad("NOT READY")
	}
	sum := fmt.Sprintf("%s: %d blocking, %s, %d unknown, %d passed.", res.Machine, n[checks.Stop],
		counted(n[checks.Warn], "warning", "warnings"), n[checks.Unknown], n[checks.Pass])
	fmt.Fprintf(&b, "%s  %s\n\n", word, s.bold(sum))
	const words = 9
	gates := false
	for _, answer := range []checks.State{checks.Stop, checks.Warn, checks.Unknown, checks.Pass} {
		set := map[checks.State]func(string) string{checks.Stop: s.bad, checks.Warn: s.mind, checks.Unknown: s.mind, checks.Pass: s.good}[answer]
		for _, c := range res.Checks {
			if c.Answer != answer {
				continue
			}
			name := string(answer)
			if answer == checks.Stop {
				name = "STOP"
			}
			lines := wrap(c.Seen, s.Width, words+widest+2, true)
			fmt.Fprintf(&b, "%s%s  %s\n", set(pad(name, words)), pad(c.Name, widest), strings.Join(lines, "\n"))
			if c.Mend != "" {
				for _, l := range wrap("→ "+c.Mend, s.Width, words+widest+2, false) {
					fmt.Fprintln(&b, s.faint(l))
				}
			}
			if c.Command != nil { // never wrapped, so that it can be pasted
				fmt.Fprintf(&b, "  %s\n", s.key(programName+quoteAll(c.Command)+a.where()))
			}
			gates = gates || answer == checks.Stop && strings.HasPrefix(c.Name, checks.OfPackage)
		}
	}
	if gates {
		fmt.Fprintf(&b, "\nAll ways to let the package pass: %s\n", s.key("hollowkey package gates"+quoteAll(args)+a.where()))
	}
	if steps > 0 && !opt.mend {
		fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey ready"+quoteAll(args)+a.readyAgain(opt)+" --mend --preview"))
	}
	_, err := io.WriteString(a.out, b.String())
	return err
}
