package cli

import (
	"fmt"
	"io"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/machine/twin"
	"hollowkey/core/remedy"
	"hollowkey/core/verdict"
	"hollowkey/demo"
)

func (a *app) newDemo() *cobra.Command {
	var into string
	c := &cobra.Command{
		Use:   "demo",
		Short: "lays out made-up set-ups that failed, and runs the whole way on them",
		Long: `Lays out the twin of one made-up desktop and the logs of five set-ups that failed on
it, and for each says why, shows and applies the fix, and takes it back. Then it looks
into the package of the last one (find, gates, alter), checks and mends the desktop,
restores a cached package, clears an old version's leftovers, and hunts for the service
that breaks a set-up.

It writes only into the demo's own folder (--into), and replaces what an earlier demo
left there. Exit status: 0 done, 1 could not, 2 wrong call.`,
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if err := demo.LayOut(into); err != nil {
				return err
			}
			a.machine = filepath.Join(into, demo.Machine)
			var told []demoCase
			for _, d := range demo.Cases() {
				t, err := a.demoCase(c, d, filepath.Join(into, d.Log))
				if err != nil {
					return fmt.Errorf("%s: %w", d.Log, err)
				}
				told = append(told, t)
			}
			pack, err := a.demoPackage(into)
			if err != nil {
				return err
			}
			around, err := a.demoAround(into)
			if err != nil {
				return err
			}
			if a.json {
				return printJSON(a.out, struct {
					Schema  string      `json:"schema"`
					Folder  string      `json:"folder"`
					Cases   []demoCase  `json:"cases"`
					Package demoPackage `json:"package"`
					Around  []demoTask  `json:"around"`
				}{"hollowkey.demo/1", into, told, pack, around})
			}
			return demoText(a.out, a.style, told, pack, around, a.machine)
		},
	}
	c.Flags().StringVar(&into, "into", "hollowkey-demo", "folder to lay it out in")
	return c
}

// demoCase is one case with all that was done on it.
type demoCase struct {
	Log     string           `json:"log"`
	Told    string           `json:"told"`
	Verdict *verdict.Verdict `json:"verdict"`
	Plan    remedy.Plan      `json:"plan"`
	Undone  int              `json:"undone"` // changes made and taken back
	diff    []string
}

// demoCase goes the whole way for one case: why, fix, undo.
func (a *app) demoCase(c *cobra.Command, d demo.Case, log string) (demoCase, error) {
	out := demoCase{Log: log, Told: d.Told}
	m, err := twin.Open(a.machine)
	if err != nil {
		return out, err
	}
	defer m.Close()
	if out.Verdict, err = a.verdict(c.Context(), []string{log}, whyOptions{encoding: detectEncoding}, m); err != nil {
		return out, err
	}
	at := out.Verdict.FirstWithSteps()
	if at < 0 {
		return out, fmt.Errorf("no remedy of this verdict has steps")
	}
	r := out.Verdict.Remedies[at]
	if out.Plan, err = remedy.Draft(m, r.Title, r.Steps); err != nil {
		return out, err
	}
	for _, c := range out.Plan.Changes {
		var b strings.Builder
		writeDiff(&b, Style{Color: a.style.Color, Width: a.style.Width - 8}, c.Lines(c.Before, m), c.Lines(c.After, m))
		out.diff = append(out.diff, b.String())
	}
	j, err := a.openJournal(m)
	if err != nil {
		return out, err
	}
	if err := out.Plan.Apply(m, j); err != nil {
		return out, err
	}
	for _, i := range j.LastPlan(m.Name()) {
		if err := j.Undo(m, i.Seq, false); err != nil {
			return out, err
		}
		out.Undone++
	}
	return out, nil
}

func demoText(w io.Writer, s Style, told []demoCase, pack demoPackage, around []demoTask, machine string) error {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", s.bold("The harbour office of Port Ellery, desktop "+demo.Machine+": five set-ups failed."))
	b.WriteString(strings.Join(wrap("All of it is made up. Each log is read, the cause is looked up on the desktop's twin (a folder that stands in for it), the smallest fix is applied, and taken back.", s.Width, 0, true), "\n") + "\n")
	for i, t := range told {
		fmt.Fprintf(&b, "\n%s %s\n", s.bold(fmt.Sprintf("%d.", i+1)), s.bold(t.Told+"."))
		v := t.Verdict
		row := func(name, text string) {
			fmt.Fprintf(&b, "   %s%s\n", s.faint(pad(name, 7)), strings.Join(wrap(text, s.Width, 10, true), "\n"))
		}
		row("log", fmt.Sprintf("%s, %d lines", t.Log, v.Logs[0].Lines))
		row("why", sentence(v.Cause.Summary))
		for _, e := range v.Evidence[:min(1, len(v.Evidence))] {
			row("proof", fmt.Sprintf("line %d: %s", e.Line, fit(unstamped(e.Text), s.Width-24)))
		}
		for _, f := range v.Machine {
			if f.Answer == "yes" {
				row("twin", sentence(f.Text))
			}
		}
		for k, c := range t.Plan.Changes {
			row("fix", sentence(c.Words()))
			for line := range strings.Lines(t.diff[k]) {
				b.WriteString("        " + line)
			}
		}
		row("undo", fmt.Sprintf("%s taken back; the twin is as it was.", count(t.Undone, "change")))
	}
	demoPackageText(&b, s, pack, len(told)+1)
	for i, t := range around {
		demoTaskText(&b, s, t, len(told)+2+i)
	}
	first := quoteArgument(told[0].Log)
	fmt.Fprintf(&b, "\n%s\n", s.bold("Now type yourself:"))
	for _, line := range []string{
		"hollowkey why " + first,
		"hollowkey fix " + first + " --machine " + quoteArgument(machine) + " --preview",
		"hollowkey fix " + first + " --machine " + quoteArgument(machine) + " --yes",
		"hollowkey undo --machine " + quoteArgument(machine),
		"hollowkey package gates " + quoteArgument(filepath.Join(filepath.Dir(machine), demo.PlannerPackage)) + " --machine " + quoteArgument(machine),
		"hollowkey ready --machine " + quoteArgument(machine),
		"hollowkey leftovers \"Fairway Radio 1\" --machine " + quoteArgument(machine),
		"hollowkey code 1603 0x80070643",
	} {
		fmt.Fprintf(&b, "  %s\n", s.key(line))
	}
	_, err := io.WriteString(w, b.String())
	return err
}
