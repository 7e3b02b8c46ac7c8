// This file finds the logs that setups left, for somebody who does not know
// where they lie.

package cli

import (
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"hollowkey/core/logs/finder"
	"hollowkey/core/logs/story"
	"hollowkey/core/machine"
	"hollowkey/core/why"
)

// newLogs is the command that finds logs. On a Windows computer it looks at its
// own disk without --machine, because that is where a technician stands.
func (a *app) newLogs() *cobra.Command {
	var opt whyOptions
	var asCSV bool
	c := &cobra.Command{
		Use:   "logs [FOLDER...]",
		Short: "finds setup logs, newest first, with what each is and how it ended",
		Long: `Looks where the OS and setups leave their logs, on the machine (--machine) or on the
Windows computer that it runs on, or in the folders that are named, reads what it
finds, and lists it newest first.

It reads only. Exit status: 0 listed, 1 could not, 2 wrong call, 3 no log was found.`,
		Example: "  hollowkey logs --machine ELLERY-D07\n  hollowkey logs collected\n  hollowkey logs verbose on --machine ELLERY-D07",
		RunE: func(c *cobra.Command, args []string) error {
			var disk finder.Disk = finder.Local{}
			var on machine.Machine
			here := a.machine == "live" || a.machine == ""
			switch {
			case !here:
				m, closeMachine, err := a.openMachine()
				if err != nil {
					return err
				}
				defer closeMachine()
				disk, on = why.DiskOf(m), m
			case len(args) == 0 && !(finder.Local{}).Known():
				return wrongCall("name a folder, or a machine with --machine\nhint: without either it looks at the Windows computer that it runs on")
			default:
				for _, f := range args {
					if info, err := os.Stat(f); err != nil || !info.IsDir() {
						return fmt.Errorf("%s: there is no such folder", f)
					}
				}
			}
			found, err := why.Survey(c.Context(), disk, args, a.question(nil, opt, on))
			if err != nil {
				return err
			}
			if a.json {
				err = printJSON(a.out, struct {
					Schema string      `json:"schema"`
					Logs   []why.Found `json:"logs"`
				}{"hollowkey.logs/1", append([]why.Found{}, found...)})
			} else if asCSV {
				err = a.printCSV(logRows(found))
			} else {
				err = logsText(a.out, a.style, found)
			}
			if err == nil && len(found) == 0 {
				fmt.Fprintln(a.err, "No setup log was found.")
				return errNo
			}
			return err
		},
	}
	opt.bindReading(c)
	bindCSV(c, &asCSV)
	c.AddCommand(a.newLogsVerbose(), a.newLogsLevel(), a.newLogsFresh())
	return c
}

// logRows are the logs as rows, with their heading.
func logRows(found []why.Found) [][]string {
	rows := [][]string{{"changed", "bytes", "kind", "outcome", "exit_code", "product", "cause", "path"}}
	for _, f := range found {
		exit := ""
		if f.ExitCode != nil {
			exit = fmt.Sprint(*f.ExitCode)
		}
		rows = append(rows, []string{f.Time.UTC().Format(time.RFC3339), fmt.Sprint(f.Size), string(f.Dialect),
			string(f.Outcome), exit, f.Product, f.Cause, f.Path})
	}
	return rows
}

// logsText lists the logs in columns, the newest first: it is the one that was
// just made.
func logsText(w io.Writer, s Style, found []why.Found) error {
	if len(found) == 0 {
		return nil
	}
	var b strings.Builder
	fmt.Fprintln(&b, s.bold("changed (UTC)        size  kind        outcome       product"))
	for _, f := range found {
		outcome := pad(string(f.Outcome), 12)
		switch f.Outcome {
		case story.Failed:
			outcome = s.bad(outcome)
		case story.Succeeded:
			outcome = s.good(outcome)
		default:
			outcome = s.mind(outcome)
		}
		product := f.Product
		if product == "" {
			product = "-"
		}
		if f.Cause != "" {
			product += ": " + f.Cause
		}
		fmt.Fprintf(&b, "%s %8s  %s %s  %s\n", f.Time.UTC().Format("2006-01-02 15:04"), bytesText(f.Size), pad(string(f.Dialect), 11), outcome,
			s.fit(product, s.Width-54))
		fmt.Fprintf(&b, "    %s\n", s.faint(f.Path)) // whole, so that it can be pasted
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// bytesText writes a size for reading.
func bytesText(n int64) string {
	switch {
	case n < 1<<10:
		return fmt.Sprintf("%d B", n)
	case n < 1<<20:
		return fmt.Sprintf("%.0f KB", float64(n)/(1<<10))
	}
	return fmt.Sprintf("%.1f MB", float64(n)/(1<<20))
}
