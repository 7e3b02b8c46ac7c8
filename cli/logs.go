package cli

import (
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/logfinder"
	"hollowkey/core/remedy"
	"hollowkey/core/verdict"
)

func (a *app) newLogs() *cobra.Command {
	c := &cobra.Command{
		Use:   "logs [FOLDER...]",
		Short: "finds set-up logs, newest first, with what each is and how it ended",
		Long: `Looks where the OS and set-ups leave their logs on the machine (--machine), or in the
folders that are named, reads what it finds, and lists it newest first.

It reads only. Exit status: 0 listed, 1 could not, 2 wrong call, 3 no log was found.`,
		Example: "  hollowkey logs --machine ELLERY-D07\n  hollowkey logs collected\n  hollowkey logs verbose on --machine ELLERY-D07",
		RunE: func(c *cobra.Command, args []string) error {
			var disk logfinder.Disk = logfinder.Local{}
			if a.machine != "" {
				m, closeMachine, err := a.openMachine()
				if err != nil {
					return err
				}
				defer closeMachine()
				disk = m
			} else if len(args) == 0 {
				return wrongCall("name a folder, or a machine with --machine")
			} else {
				for _, f := range args {
					if info, err := os.Stat(f); err != nil || !info.IsDir() {
						return fmt.Errorf("%s: there is no such folder", f)
					}
				}
			}
			found, err := logfinder.Find(c.Context(), disk, args, verdict.Options{})
			if err != nil {
				return err
			}
			if a.json {
				err = printJSON(a.out, struct {
					Schema string            `json:"schema"`
					Logs   []logfinder.Found `json:"logs"`
				}{"hollowkey.logs/1", append([]logfinder.Found{}, found...)})
			} else {
				err = logsText(a.out, a.style, found)
			}
			if err == nil && len(found) == 0 {
				fmt.Fprintln(a.err, "No set-up log was found.")
				return errNo
			}
			return err
		},
	}
	c.AddCommand(a.newLogsVerbose())
	return c
}

func logsText(w io.Writer, s Style, found []logfinder.Found) error {
	if len(found) == 0 {
		return nil
	}
	var b strings.Builder
	fmt.Fprintln(&b, s.bold("changed (UTC)        size  kind        outcome       product"))
	for _, f := range found {
		outcome := pad(string(f.Outcome), 12)
		switch f.Outcome {
		case verdict.Failed:
			outcome = s.bad(outcome)
		case verdict.Succeeded:
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
		fmt.Fprintf(&b, "%s %8s  %s %s  %s\n", f.Time.UTC().Format("2006-01-02 15:04"), bytesText(f.Size), pad(string(f.Dialect), 11), outcome, fit(product, s.Width-54))
		fmt.Fprintf(&b, "    %s\n", s.faint(fitMiddle(f.Path, s.Width-4)))
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

func (a *app) newLogsVerbose() *cobra.Command {
	var yes bool
	c := &cobra.Command{
		Use:   "verbose on|off|show",
		Short: "sets the installer engine's verbose logging policy, as a hold",
		Long: `on makes the installer engine write a verbose log of every set-up (MSI*.LOG in the
temporary folder), as a hold: it is shown after every command until off releases it.

` + loggingHelp() + `

It changes one registry value, with journal and undo. Exit status: 0 done, 1 could
not, 2 wrong call, 3 there is no such hold.`,
		Args:      cobra.MatchAll(cobra.ExactArgs(1), cobra.OnlyValidArgs),
		ValidArgs: []string{"on", "off", "show"},
		RunE: func(_ *cobra.Command, args []string) error {
			m, closeMachine, err := a.openMachine()
			if err != nil {
				return err
			}
			defer closeMachine()
			j, err := a.openJournal(m)
			if err != nil {
				return err
			}
			switch args[0] {
			case "on":
				plan, err := remedy.DraftHold(m, remedy.VerboseLogging)
				if err != nil {
					return err
				}
				if !plan.Pending() {
					fmt.Fprintln(a.out, "Verbose logging is on already.")
					return nil
				}
				if err := plan.Apply(m, j); err != nil {
					return err
				}
				fmt.Fprintf(a.out, "%s Verbose logging is on. Run the set-up again, then: hollowkey logs --machine %s\n", a.style.good("DONE."), quoteArgument(a.machine))
				return nil
			case "off":
				holds := j.Holds(m.Name(), remedy.VerboseLogging)
				if len(holds) == 0 {
					fmt.Fprintln(a.err, "There is no such hold to release.")
					return errNo
				}
				for _, h := range holds {
					if err := j.Undo(m, h.Seq, false); err != nil {
						return err
					}
				}
				fmt.Fprintf(a.out, "%s Verbose logging is as it was before.\n", a.style.good("DONE."))
				return nil
			}
			v, err := remedy.LoggingPolicy(m)
			if err != nil {
				return err
			}
			if v == "" {
				fmt.Fprintln(a.out, "The policy is not set: the engine logs only when a call asks for it (/l*v).")
				return nil
			}
			fmt.Fprintf(a.out, "The policy is %q:\n", clean(v))
			for _, r := range v {
				fmt.Fprintf(a.out, "  %c  %s\n", r, remedy.LoggingSwitches[r])
			}
			return nil
		},
	}
	c.Flags().BoolVar(&yes, "yes", false, "accepted for scripts; this change is small and is not asked about")
	return c
}

func loggingHelp() string {
	var b strings.Builder
	b.WriteString("The switches of the policy value:\n")
	for _, r := range remedy.LoggingAll {
		fmt.Fprintf(&b, "  %c  %s\n", r, remedy.LoggingSwitches[r])
	}
	return strings.TrimRight(b.String(), "\n")
}

// where are the options that say on which machine and in which case.
func (a *app) where() (options string) {
	if a.machine != "" {
		options += " --machine " + quoteArgument(a.machine)
	}
	if a.caseDir != "" {
		options += " --case " + quoteArgument(a.caseDir)
	}
	return options
}

// showHolds reminds of what is meant to be temporary, on standard error.
func (a *app) showHolds(j *remedy.Journal) {
	for _, h := range j.Holds("", "") {
		fmt.Fprintf(a.err, "hold in force: %s, since %s\n  release it with: %s\n", clean(h.Hold), h.Time.Format("2006-01-02 15:04"), remedy.ReleaseCommand(h.Hold)+a.where())
	}
}
