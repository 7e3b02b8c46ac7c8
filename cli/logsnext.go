// This file makes the next run tell more: levels of logging, and old logs set
// aside.

package cli

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/logging"
	"hollowkey/core/machine"
	"hollowkey/core/why"
)

// newLogsLevel is the command that makes programs write more.
func (a *app) newLogsLevel() *cobra.Command {
	var ok consent
	var from string
	c := &cobra.Command{
		Use:   "level [NAME|off]",
		Short: "raises the log level of a program, as a hold",
		Long: `Makes a program write more into its log: values in its INI file or in the registry, as a
hold that is shown after every command until "level off" undoes it. Known are parts of the
OS, and what a site's own file says of its programs (docs/logs.md). Without NAME it lists
them; NAME may hold stars.

Exit status: 0 listed, raised, previewed or undone, 1 could not, 2 wrong call, 3 no such
name, no such hold, or the answer was no.`,
		Example: "  hollowkey logs level --machine ELLERY-D07\n  hollowkey logs level 'device setup' --machine ELLERY-D07 --preview\n" +
			"  hollowkey logs level off --machine ELLERY-D07",
		Args: cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			list, err := logging.Levels(from)
			if err != nil {
				return err
			}
			if len(args) == 0 {
				return a.levels(list)
			}
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error {
				if args[0] == "off" {
					return a.levelsOff(m, j, ok)
				}
				named := logging.Named(list, args[0])
				if len(named) == 0 {
					fmt.Fprintf(a.err, "No log level of %q is known.\n", clean(args[0]))
					return errNo
				}
				plan, err := logging.Raise(m, named)
				if err != nil {
					return err
				}
				again := "hollowkey logs level " + quoteArgument(args[0]) + a.where()
				if from != "" {
					again += " --from " + quoteArgument(from)
				}
				_, err = a.carryOut(m, plan, planHow{consent: ok, again: again,
					after: "Run the setup again, then: hollowkey logs" + a.where() + "\nTo lower it again: hollowkey logs level off" + a.where()})
				return err
			})
		},
	}
	c.Flags().StringVar(&from, "from", "", "a site's own file of log levels (else "+logging.StandingFile()+" where it is there)")
	ok.bind(c)
	return c
}

// levels lists what is known.
func (a *app) levels(list []logging.Level) error {
	if a.json {
		return printJSON(a.out, struct {
			Schema string          `json:"schema"`
			Levels []logging.Level `json:"levels"`
		}{"hollowkey.logs.level/1", list})
	}
	var b strings.Builder
	rows := [][]string{{"name", "log", "from"}}
	for _, l := range list {
		rows = append(rows, []string{l.Name, l.Log, map[bool]string{true: "the site", false: "built in"}[l.Site]})
	}
	grid(&b, a.style, 0, rows)
	_, err := io.WriteString(a.out, b.String())
	return err
}

// levelsOff puts the OS's logging back to what it was before the hold.
func (a *app) levelsOff(m machine.Machine, j *fix.Journal, ok consent) error {
	holds := j.Holds(m.Name(), fix.LogLevels)
	if len(holds) == 0 {
		fmt.Fprintln(a.err, "There is no such hold to release.")
		return errNo
	}
	if preview, err := a.undoAgreed(j, holds, m, ok); preview || err != nil {
		return err
	}
	return a.undo(m, j, newestFirst(holds), false)
}

// newestFirst is the order in which changes are undone.
func newestFirst(items []fix.Item) (out []fix.Item) {
	for i := range items {
		out = append(out, items[len(items)-1-i])
	}
	return out
}

// newLogsFresh is the command that sets old logs aside.
func (a *app) newLogsFresh() *cobra.Command {
	var ok consent
	c := &cobra.Command{
		Use:   "fresh [FOLDER...]",
		Short: "sets old logs aside, so that the next run leaves only new ones",
		Long: `Finds the logs as logs does, in the folders that are named or wherever they are known to
lie, and moves them into the case's quarantine; undo brings them back. The OS's own logs
stay, for other programs write into them.

Shows first and asks. Exit status: 0 done or previewed, 1 could not, 2 wrong call, 3 no log
was found, or the answer was no.`,
		Example: "  hollowkey logs fresh --machine ELLERY-D07 --preview",
		RunE: func(c *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, _ *fix.Journal) error {
				found, err := why.Survey(c.Context(), why.DiskOf(m), args, a.question(nil, whyOptions{}, m))
				if err != nil {
					return err
				}
				plan, left, err := logging.Fresh(m, found)
				if err != nil {
					return err
				}
				for _, l := range left {
					fmt.Fprintf(a.err, "Left: %s\n", clean(l))
				}
				if len(plan.Changes) == 0 {
					fmt.Fprintln(a.err, "No log was found that could be set aside.")
					return errNo
				}
				_, err = a.carryOut(m, plan, planHow{consent: ok, again: "hollowkey logs fresh" + quoteAll(args) + a.where(),
					after: "Run the setup again, then: hollowkey logs" + a.where()})
				return err
			})
		},
	}
	ok.bind(c)
	return c
}
