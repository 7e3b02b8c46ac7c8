// This file shows and holds what starts with the machine, safe mode included. A
// hold is meant to be temporary, and says how it is released.

package cli

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/startup"
	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// newStartup is the command of what starts with the machine.
func (a *app) newStartup() *cobra.Command {
	var asCSV bool
	c := &cobra.Command{
		Use:   "startup",
		Short: "starts a machine with few services and startup items; finds the one in conflict",
		Long: `Lists what starts with the machine beside the OS's own parts: services, Run keys, startup
folders, logon tasks. hold keeps them from starting, release puts them back exactly, hunt finds the
one that breaks a setup, by halving over restarts.

It reads only. Exit status: 0 listed, 1 could not, 2 wrong call.`,
		Example: "  hollowkey startup --machine ELLERY-D07\n  hollowkey startup hold --machine ELLERY-D07 --preview\n" +
			"  hollowkey startup hunt --machine ELLERY-D07",
		Args: needSubcommand,
		RunE: func(*cobra.Command, []string) error {
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error {
				items, notes, err := startup.Items(m)
				if err != nil {
					return err
				}
				if a.json {
					return printJSON(a.out, struct {
						Schema  string         `json:"schema"`
						Machine string         `json:"machine"`
						Items   []startup.Item `json:"items"`
						Notes   []string       `json:"notes"`
					}{"hollowkey.startup/1", m.Name(), append([]startup.Item{}, items...), notes})
				}
				if asCSV {
					rows := [][]string{{"id", "kind", "name", "runs", "where", "concern"}}
					for _, i := range items {
						rows = append(rows, []string{i.ID, string(i.Kind), i.Name, i.Runs, i.Where, string(i.Concern)})
					}
					return a.printCSV(rows)
				}
				var b strings.Builder
				fmt.Fprintf(&b, "%s\n", a.style.bold(fmt.Sprintf("%s: %s with it beside the OS's own parts.", m.Name(),
					counted(len(items), "item starts", "items start"))))
				itemsText(&b, a.style, items)
				for _, n := range notes {
					item(&b, a.style, 0, 6, "note", n)
				}
				_, err = io.WriteString(a.out, b.String())
				return err
			})
		},
	}
	bindCSV(c, &asCSV)
	c.AddCommand(a.newStartupHold(), a.newStartupRelease(), a.newStartupHunt(), a.newStartupSafe())
	return c
}

// itemsText lists items by their kind and the ID to name them by.
func itemsText(b *strings.Builder, s Style, items []startup.Item) {
	if len(items) == 0 {
		return
	}
	rows := [][]string{{"kind", "id", "runs"}}
	for _, i := range items {
		rows = append(rows, []string{string(i.Kind), i.ID, i.Runs})
	}
	grid(b, s, 2, rows)
}

// leftAlone tells what is not held unless somebody asks for it, and what
// holding it would mean.
func (a *app) leftAlone(items []startup.Item) {
	for _, i := range items {
		fmt.Fprintf(a.err, "Left alone: %s, %s\n", clean(i.ID), i.Concern.Means())
	}
	if len(items) > 0 {
		fmt.Fprintf(a.err, "To hold one of them, too, add: --include %s\n", quoteArgument(items[0].ID))
	}
}

// newStartupHold is the command that holds items. What protects a machine, or
// lets somebody reach it, is held only when it is named.
func (a *app) newStartupHold() *cobra.Command {
	var exempt, only, with []string
	var ok consent
	c := &cobra.Command{
		Use:   "hold",
		Short: "keeps services and startup items from starting, until they are released",
		Long: "Sets the start type of the services to disabled and takes Run values and startup files\n" +
			"away, all with what is needed to put them back. It counts from the next restart on.\n\n" +
			"Exit status: 0 held or previewed, 1 could not, 2 wrong call, 3 the answer was no.",
		Example: "  hollowkey startup hold --machine ELLERY-D07 --exempt service:BerthSync --preview\n" +
			"  hollowkey startup hold --machine ELLERY-D07 --yes",
		Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			return a.onMachine(func(m machine.Machine, _ *fix.Journal) error {
				items, _, err := startup.Items(m)
				if err != nil {
					return err
				}
				items, alone, err := startup.Choose(items, startup.Wishes{Exempt: exempt, With: with, Only: only})
				if err != nil {
					return a.noItem(err)
				}
				a.leftAlone(alone)
				plan, left, err := startup.Hold(m, items)
				if err != nil {
					return err
				}
				for _, l := range left {
					fmt.Fprintf(a.err, "Left out: %s\n", clean(l))
				}
				applied, err := a.carryOut(m, plan, planHow{consent: ok,
					again: "hollowkey startup hold" + repeated("exempt", exempt) + repeated("include", with) + repeated("only", only) + a.where(),
					after: "Restart the machine now. To put all back: hollowkey startup release" + a.where()})
				if a.json && err == nil {
					err = printJSON(a.out, struct {
						Schema  string   `json:"schema"`
						Plan    fix.Plan `json:"plan"`
						Applied bool     `json:"applied"`
					}{"hollowkey.startup.hold/1", plan, applied})
				}
				return err
			})
		},
	}
	c.Flags().StringArrayVar(&exempt, "exempt", nil, "leave this item alone, by its id (may be repeated)")
	c.Flags().StringArrayVar(&with, "include", nil, "hold this item, too, though it is security software, remote "+
		"access or encryption (may be repeated)")
	c.Flags().StringArrayVar(&only, "only", nil, "hold only this item, by its id (may be repeated)")
	ok.bind(c)
	return c
}

// newStartupRelease is the command that puts a hold back.
func (a *app) newStartupRelease() *cobra.Command {
	var ok consent
	c := &cobra.Command{
		Use:   "release",
		Short: "puts everything back that a hold took away",
		Long: "Undoes the startup hold, exactly: start types, values and files as they were before.\n\n" +
			"Exit status: 0 released or previewed, 1 could not, 2 wrong call, 3 nothing is held, or the\nanswer was no.",
		Example: "  hollowkey startup release --machine ELLERY-D07",
		Args:    cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error { return a.release(m, j, ok) })
		},
	}
	ok.bind(c)
	return c
}

// noItem is the error where an ID is none, with the call that lists them.
func (a *app) noItem(err error) error {
	return callError{fmt.Errorf("%w\nhint: to see them with their IDs: hollowkey startup%s", err, a.where())}
}

// release takes every hold on startup items back, once a person has agreed to
// the list of changes.
func (a *app) release(m machine.Machine, j *fix.Journal, ok consent) error {
	holds := j.Holds(m.Name(), startup.HoldName)
	if len(holds) > 0 {
		if preview, err := a.undoAgreed(j, holds, m, ok); preview || err != nil {
			return err
		}
	}
	n, err := startup.Release(m, j)
	if err != nil {
		return err
	}
	if a.json {
		err = printJSON(a.out, struct {
			Schema   string `json:"schema"`
			Released int    `json:"released"`
		}{"hollowkey.startup.release/1", n})
	} else if n > 0 {
		fmt.Fprintf(a.out, "%s %s put back; it counts from the next restart on.\n", a.style.good("DONE."), counted(n, "item is", "items are"))
	}
	if err == nil && n == 0 {
		fmt.Fprintln(a.err, "Nothing is held.")
		return errNo
	}
	return err
}

// safeOff ends safe mode, whoever set it: a hold or a step of ours is undone, a
// flag that somebody else set is taken away.
func (a *app) safeOff(m machine.Machine, j *fix.Journal, how planHow) error {
	items := j.Holds(m.Name(), fix.SafeBootHold)
	if len(items) == 0 {
		for _, i := range j.InForce(m.Name()) {
			if i.Step.Kind == "safe-boot" && i.Step.Args["mode"] != "off" {
				items = append(items, i)
			}
		}
		if len(items) > 0 {
			return a.safeUndo(m, j, items, how.consent)
		}
		plan, err := fix.Draft(m, "end safe mode", []step.Model{step.New("safe-boot", "mode", "off")})
		if err != nil {
			return err
		}
		if !plan.Pending() {
			fmt.Fprintln(a.err, "The machine is not set to start in safe mode.")
			return errNo
		}
		_, err = a.carryOut(m, plan, how)
		return err
	}
	slices.Reverse(items)
	return a.safeUndo(m, j, items, how.consent)
}

// safeUndo undoes items after a person agreed to the list of them.
func (a *app) safeUndo(m machine.Machine, j *fix.Journal, items []fix.Item, ok consent) error {
	if preview, err := a.undoAgreed(j, items, m, ok); preview || err != nil {
		return err
	}
	return a.undo(m, j, items, false)
}

// newStartupSafe is the command for safe mode. It is a hold like the others, so
// that it is shown under every command until it is undone.
func (a *app) newStartupSafe() *cobra.Command {
	var ok consent
	c := &cobra.Command{
		Use:   "safe minimal|network|off",
		Short: "lets the OS start in safe mode until it is released",
		Long: `Sets the OS's flag for safe mode, as a hold: it is shown under every command until
"safe off" undoes it. In minimal safe mode the installer's service is not started,
unless the registry allows it; that is set, too.

Exit status: 0 done or previewed, 1 could not, 2 wrong call, 3 the answer was no, or
nothing is held.`,
		Example: "  hollowkey startup safe minimal --machine ELLERY-D07 --preview\n  hollowkey startup safe off --machine ELLERY-D07",
		Args:    cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error {
				if args[0] == "off" {
					return a.safeOff(m, j,
						planHow{consent: ok, again: "hollowkey startup safe off" + a.where(), after: "Restart the machine when it suits."})
				}
				if err := startup.MayHold(m); err != nil {
					return err
				}
				plan, err := fix.DraftSafeBoot(m, args[0])
				if err != nil {
					return callError{err}
				}
				applied, err := a.carryOut(m, plan, planHow{consent: ok, again: "hollowkey startup safe " + args[0] + a.where(),
					after: "Restart the machine now. To end it: hollowkey startup safe off" + a.where()})
				if a.json && err == nil {
					err = printJSON(a.out, struct {
						Schema  string   `json:"schema"`
						Plan    fix.Plan `json:"plan"`
						Applied bool     `json:"applied"`
					}{"hollowkey.startup.safe/1", plan, applied})
				}
				return err
			})
		},
	}
	ok.bind(c)
	return c
}
