// This file plays the whole way on made-up machines, so that a stranger sees in
// a minute what the program does.

package cli

import (
	"fmt"
	"io"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/demo"
)

// newDemo is the command that runs the whole way on made-up data. It writes
// into a folder of its own and replaces only what an earlier demo left there,
// which it tells by a marker file.
func (a *app) newDemo() *cobra.Command {
	var into string
	c := &cobra.Command{
		Use:   "demo",
		Short: "lays out made-up setups that failed, and runs through them end to end",
		Long: `Lays out the twin of one made-up desktop and the logs of five setups that failed on
it, and for each says why, rehearses the setup, applies the fix, rehearses it again, takes
the fix back, and writes a report. Then it looks
into the package of the last one (find, gates, alter), checks and mends the desktop,
restores a cached package, clears an old version's leftovers, and hunts for the service
that breaks a setup.

It writes only into the demo's own folder (--into), and replaces what an earlier demo
left there. Exit status: 0 done, 1 could not, 2 wrong call.`,
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if err := demo.LayOut(into); err != nil {
				return err
			}
			a.machine = filepath.Join(into, demo.Machine)
			told, err := a.demoCases(c.Context(), into)
			if err != nil {
				return err
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
	c.AddCommand(a.newDemoFleet())
	return c
}

// demoText tells the demo's cases one after the other: what the person said,
// what the log says, what was changed, how the setup went before and after.
func demoText(w io.Writer, s Style, told []demoCase, pack demoPackage, around []demoTask, machine string) error {
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", s.bold("The harbour office of Port Ellery, desktop "+demo.Machine+": five setups failed."))
	b.WriteString(strings.Join(wrap("All of it is made up. Each log is read, the cause is looked up on the desktop's twin (a folder that "+
		"stands in for it), the smallest fix is applied, the setup is rehearsed before and after it, "+
		"and the fix is undone.", s.Width, 0, true), "\n") + "\n")
	for i, t := range told {
		fmt.Fprintf(&b, "\n%s %s\n", s.bold(fmt.Sprintf("%d.", i+1)), s.bold(t.Told+"."))
		v := t.Verdict
		row := func(name, text string) {
			fmt.Fprintf(&b, "   %s%s\n", s.faint(pad(name, 7)), strings.Join(wrap(text, s.Width, 10, true), "\n"))
		}
		row("log", fmt.Sprintf("%s, %d lines", t.Log, v.Logs[0].Lines))
		row("why", sentence(v.Cause.Summary))
		for _, e := range v.Evidence[:min(1, len(v.Evidence))] {
			row("proof", fmt.Sprintf("line %d: %s", e.Line, unstamped(e.Text)))
		}
		for _, f := range v.Machine {
			if f.Answer == "yes" {
				row("twin", sentence(f.Text))
			}
		}
		// Each step with what it changes, as the preview of a fix shows it.
		for k, c := range t.Plan.Changes {
			row("fix", sentence(c.Words()))
			for line := range strings.Lines(t.diff[k]) {
				b.WriteString("        " + line)
			}
		}
		row("before", rehearsed(t.Before))
		row("after", rehearsed(t.After))
		row("undo", fmt.Sprintf("%s undone: %s", count(t.Undone, "change"), rehearsed(t.Again)))
		row("report", t.Report)
	}
	demoPackageText(&b, s, pack, len(told)+1)
	for i, t := range around {
		demoTaskText(&b, s, t, len(told)+2+i)
	}
	first := quoteArgument(told[0].Log)
	fmt.Fprintf(&b, "\n%s\n", s.bold("Try it yourself:"))
	// Whole calls, to be pasted: the demo's folder is in them.
	for _, line := range []string{
		"hollowkey why " + first,
		"hollowkey fix " + first + " --machine " + quoteArgument(machine) + " --preview",
		"hollowkey fix " + first + " --machine " + quoteArgument(machine) + " --yes",
		"hollowkey retry " + first + " --machine " + quoteArgument(machine),
		"hollowkey undo --machine " + quoteArgument(machine),
		"hollowkey package gates " + quoteArgument(filepath.Join(filepath.Dir(machine), demo.PlannerPackage)) + " --machine " +
			quoteArgument(machine),
		"hollowkey ready --machine " + quoteArgument(machine),
		"hollowkey leftovers \"Fairway Radio 1\" --machine " + quoteArgument(machine),
		"hollowkey code 1603 0x80070643",
	} {
		fmt.Fprintf(&b, "  %s\n", s.key(line))
	}
	_, err := io.WriteString(w, b.String())
	return err
}
