// This file sets the engine's logging policy for a time, as a hold.

package cli

import (
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
)

// newLogsVerbose is the command for the engine's logging policy.
func (a *app) newLogsVerbose() *cobra.Command {
	var ok consent
	c := &cobra.Command{
		Use:   "verbose on|off|show",
		Short: "sets the installer engine's verbose logging policy, as a hold",
		Long: `on makes the installer engine write a verbose log of every setup (MSI*.LOG in the
temporary folder), as a hold: it is shown after every command until off releases it.

` + switchesText(kinds.LoggingAll) + `

It changes one registry value, with journal and undo. Exit status: 0 done, 1 could
not, 2 wrong call, 3 there is no such hold.`,
		Example:   "  hollowkey logs verbose on --machine ELLERY-D07\n  hollowkey logs verbose off --machine ELLERY-D07",
		Args:      cobra.MatchAll(cobra.ExactArgs(1), cobra.OnlyValidArgs),
		ValidArgs: []string{"on", "off", "show"},
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error {
				switch args[0] {
				case "on":
					return a.verboseOn(m, j, ok)
				case "off":
					return a.verboseOff(m, j, ok)
				}
				return a.verboseShow(m, j)
			})
		},
	}
	ok.bind(c)
	return c
}

// verboseOn sets the engine's logging policy as a hold: it makes every setup
// slower and leaves logs behind, so it must not be forgotten.
func (a *app) verboseOn(m machine.Machine, j *fix.Journal, ok consent) error {
	plan, err := fix.DraftHold(m, fix.VerboseLogging)
	if err != nil {
		return err
	}
	if !a.json {
		if err := planText(a.out, a.style, plan, m); err != nil {
			return err
		}
	}
	if ok.preview || !plan.Pending() {
		return a.verboseEnd(m, j, "")
	}
	if err := a.given(ok, "Apply this to "+m.Name()+"?"); err != nil {
		return err
	}
	if err := plan.Apply(m, j); err != nil {
		return err
	}
	if !a.json {
		fmt.Fprintln(a.out)
	}
	return a.verboseEnd(m, j, "Verbose logging is on. Run the setup again, then: hollowkey logs"+a.where())
}

// verboseOff takes the hold back.
func (a *app) verboseOff(m machine.Machine, j *fix.Journal, ok consent) error {
	holds := j.Holds(m.Name(), fix.VerboseLogging)
	if len(holds) == 0 {
		fmt.Fprintln(a.err, "There is no such hold to release.")
		return errNo
	}
	if preview, err := a.undoAgreed(j, holds, m, ok); preview || err != nil {
		return err
	}
	for _, h := range holds {
		if err := j.Undo(m, h.Change, false); err != nil {
			return err
		}
	}
	return a.verboseEnd(m, j, "Verbose logging is as it was before.")
}

// verboseShow tells what the policy is, and what its letters mean.
func (a *app) verboseShow(m machine.Machine, j *fix.Journal) error {
	if a.json {
		return a.verboseEnd(m, j, "")
	}
	v, err := fix.LoggingPolicy(m)
	if err != nil {
		return err
	}
	text := "The policy is not set: the engine logs only when a call asks for it (/l*v)."
	if v != "" {
		text = fmt.Sprintf("The policy of %s is %q. %s", m.Name(), clean(v), switchesText(v))
	}
	_, err = io.WriteString(a.out, text+"\n")
	return err
}

// verboseEnd says how the policy stands now: as JSON, or in one sentence.
func (a *app) verboseEnd(m machine.Machine, j *fix.Journal, done string) error {
	if a.json {
		v, err := fix.LoggingPolicy(m)
		if err != nil {
			return err
		}
		return printJSON(a.out, struct {
			Schema  string `json:"schema"`
			Machine string `json:"machine"`
			Policy  string `json:"policy"` // empty when it is not set
			Held    bool   `json:"held"`
		}{"hollowkey.verbose/1", m.Name(), v, len(j.Holds(m.Name(), fix.VerboseLogging)) > 0})
	}
	if done == "" {
		return nil
	}
	_, err := fmt.Fprintf(a.out, "%s %s\n", a.style.good("DONE."), done)
	return err
}

// switchesText explains the switches of a policy value.
func switchesText(policy string) string {
	var b strings.Builder
	b.WriteString("The switches of the policy value:\n")
	for _, r := range policy {
		meaning := kinds.LoggingSwitches[r]
		if meaning == "" {
			meaning = "not a switch that the engine knows"
		}
		fmt.Fprintf(&b, "  %s  %s\n", clean(string(r)), meaning)
	}
	return strings.TrimRight(b.String(), "\n")
}

// showHolds reminds of what is meant to be temporary, on standard error.
func (a *app) showHolds(j *fix.Journal) {
	type group struct {
		hold  string    // its name in the journal
		since time.Time // of its first change
		n     int       // changes of it
	}
	var groups []group // changes of one hold are told together
	for _, h := range j.Holds("", "") {
		at := slices.IndexFunc(groups, func(g group) bool { return g.hold == h.Hold })
		if at < 0 {
			groups = append(groups, group{hold: h.Hold, since: h.Time})
			at = len(groups) - 1
		}
		groups[at].n++
	}
	for _, g := range groups {
		name := g.hold
		if g.n > 1 {
			name += fmt.Sprintf(" (%d of them)", g.n)
		}
		fmt.Fprintf(a.err, "hold in force: %s, since %s\n  release it with: %s\n", clean(name), g.since.Format("2006-01-02 15:04"),
			fix.ReleaseCommand(g.hold)+a.where())
	}
}
