// This file plays rounds of holding startup items until the one is found with
// which the setup fails. Between the rounds the machine restarts, so all that
// is known lies in the case.

package cli

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/startup"
	"hollowkey/core/machine"
)

type huntOptions struct {
	worked, failed, untested, stop bool     // how the round went, or that it ends
	exempt, with                   []string // IDs of items that are never held; of those that are only where they are named
	consent
}

// newStartupHunt is the command of the hunt: each call is one round, with
// restarts between them.
func (a *app) newStartupHunt() *cobra.Command {
	var opt huntOptions
	c := &cobra.Command{
		Use:   "hunt",
		Short: "finds the service or startup item that breaks a setup, by halving over restarts",
		Long: `Begins with everything held. Each round says what to do: restart, run the setup again,
and report the result (--worked, --failed, --could-not-test). It then holds another half,
until the culprit is known: one item, several each by itself, or several that break the
setup only together. The state is kept in the case, so a hunt goes on after any restart.
At the end everything is put back.

Exit status: 0 the round is laid out, or the culprit is found; 1 could not, 2 wrong call,
3 the setup fails with everything held: none of the items is to blame.`,
		Example: "  hollowkey startup hunt --machine ELLERY-D07\n  hollowkey startup hunt --machine ELLERY-D07 --failed --yes\n" +
			"  hollowkey startup hunt --machine ELLERY-D07 --stop",
		Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			return a.onMachine(func(m machine.Machine, j *fix.Journal) error { return a.hunt(m, j, opt) })
		},
	}
	c.Flags().BoolVar(&opt.worked, "worked", false, "the setup worked in this round")
	c.Flags().BoolVar(&opt.failed, "failed", false, "it failed as before")
	c.Flags().BoolVar(&opt.untested, "could-not-test", false, "it could not be tried")
	c.Flags().BoolVar(&opt.stop, "stop", false, "end the hunt and put everything back")
	c.Flags().StringArrayVar(&opt.exempt, "exempt", nil, "leave this item alone from the beginning, by its id (may be repeated)")
	c.Flags().StringArrayVar(&opt.with, "include", nil, "hold this item, too, though it is security software, "+
		"remote access or encryption (may be repeated)")
	opt.consent.bind(c)
	c.MarkFlagsMutuallyExclusive("worked", "failed", "could-not-test", "stop")
	return c
}

// outcome is how the person says that the round went; empty when they asked
// only where the hunt is.
func (o huntOptions) outcome() startup.Outcome {
	// A call begins a hunt, reports a round, or ends it; which of these, the
	// case's state says.
	switch {
	case o.worked:
		return startup.Worked
	case o.failed:
		return startup.Failed
	case o.untested:
		return startup.Untested
	}
	return ""
}

// huntStand is how a hunt stands, for JSON.
type huntStand struct {
	Schema  string           `json:"schema"`           // names the shape
	Machine string           `json:"machine"`          // its name
	Round   int              `json:"round"`            // from 1
	Items   []startup.Item   `json:"items"`            // all of them
	Off     []startup.Item   `json:"off"`              // held in this round
	Found   [][]startup.Item `json:"found"`            // sets that break it, once they are known
	Unsure  []startup.Item   `json:"unsure,omitempty"` // among which one breaks it
	Done    bool             `json:"done"`             // nothing is left to try
	None    bool             `json:"none_to_blame"`    // it fails with everything held
}

// hunt takes the round's outcome in, works the next one out, and holds the
// items that are to be off in it. The state is saved before anything is held: a
// crash in between leaves a hunt that can be called again.
func (a *app) hunt(m machine.Machine, j *fix.Journal, opt huntOptions) error {
	dir := a.caseFolder()
	c, err := startup.Load(dir)
	if err != nil {
		return err
	}
	outcome := opt.outcome()
	switch {
	case c == nil && (outcome != "" || opt.stop):
		return fmt.Errorf("no hunt is under way in %s\nhint: hollowkey startup hunt%s begins one", dir, a.where())
	case c != nil && c.Machine != m.Name():
		return fmt.Errorf("the hunt in %s is on %s, this is %s", dir, c.Machine, m.Name())
	case opt.stop:
		holds := j.Holds(m.Name(), startup.HoldName)
		if preview, err := a.undoAgreed(j, holds, m, opt.consent); preview || err != nil {
			return err
		}
		if _, err := startup.Release(m, j); err != nil {
			return err
		}
		a.say("%s The hunt is ended and everything is put back.\n", a.style.good("DONE."))
		return startup.End(dir)
	case c == nil:
		items, _, err := startup.Items(m)
		if err != nil {
			return err
		}
		items, alone, err := startup.Choose(items, startup.Wishes{Exempt: opt.exempt, With: opt.with})
		if err != nil {
			return a.noItem(err)
		}
		a.leftAlone(alone)
		if len(items) == 0 {
			return fmt.Errorf("nothing starts on %s that could be held", m.Name())
		}
		c = &startup.Case{Machine: m.Name(), Items: items}
	case outcome != "":
		c.Rounds = append(c.Rounds, startup.Round{On: c.Result().Next, Outcome: outcome})
	}
	if preview, err := a.huntAgreed(m, c, opt.consent); preview || err != nil {
		return err
	}
	return a.huntRound(m, j, c, dir)
}

// huntAgreed shows what the next round would hold, and asks.
func (a *app) huntAgreed(m machine.Machine, c *startup.Case, ok consent) (preview bool, err error) {
	if err := startup.MayHold(m); err != nil {
		return false, err
	}
	if ok.yes && !ok.preview {
		return false, nil
	}
	r := c.Result()
	question := fmt.Sprintf("Hold them on %s until the next round?", m.Name())
	if r.Done {
		question = fmt.Sprintf("End the hunt and put everything back on %s?", m.Name())
	}
	if !a.json {
		var b strings.Builder
		if r.Done {
			b.WriteString("Nothing is left to try; all that is held would be put back.\n")
		} else {
			off := c.Off(r.Next)
			fmt.Fprintf(&b, "%s\n",
				a.style.bold(fmt.Sprintf("Round %d would hold %d of %s, from the next restart on:", len(c.Rounds)+1,
					len(off), counted(len(c.Items), "item", "items"))))
			itemsText(&b, a.style, off)
		}
		if _, err := io.WriteString(a.out, b.String()); err != nil {
			return false, err
		}
	}
	if ok.preview {
		if !a.json {
			fmt.Fprintln(a.out, "\nNothing has been changed.")
		}
		return true, nil
	}
	return false, a.given(ok, question)
}

// huntRound brings the machine to where the hunt stands, and tells what to do.
// The state is written first: a crash in between is mended by calling again.
func (a *app) huntRound(m machine.Machine, j *fix.Journal, c *startup.Case, dir string) error {
	r := c.Result()
	// The state is on the disk before anything is held: a restart may come at
	// any time.
	if err := c.Save(dir); err != nil {
		return err
	}
	if _, err := startup.Release(m, j); err != nil {
		return err
	}
	stand := huntStand{Schema: "hollowkey.startup.hunt/1", Machine: m.Name(), Round: len(c.Rounds) + 1, Items: c.Items, Done: r.Done,
		None: r.Elsewhere, Found: [][]startup.Item{}}
	for _, set := range r.Culprits {
		var items []startup.Item
		for _, i := range set {
			items = append(items, c.Items[i])
		}
		stand.Found = append(stand.Found, items)
	}
	for _, i := range r.Unsure {
		stand.Unsure = append(stand.Unsure, c.Items[i])
	}
	if !r.Done {
		stand.Off = c.Off(r.Next)
		plan, left, err := startup.Hold(m, stand.Off)
		for _, l := range left {
			fmt.Fprintf(a.err, "Left out: %s\n", clean(l))
		}
		if err != nil {
			return err
		}
		if err := plan.Apply(m, j); err != nil {
			return err
		}
	} else if err := startup.End(dir); err != nil {
		return err
	}
	if a.json {
		if err := printJSON(a.out, stand); err != nil {
			return err
		}
	} else if _, err := io.WriteString(a.out, a.huntText(stand)); err != nil {
		return err
	}
	if r.Elsewhere {
		return errNo
	}
	return nil
}

// huntText tells what is held in this round and what the person does now.
func (a *app) huntText(h huntStand) string {
	var b strings.Builder
	s := a.style
	if h.Done {
		a.huntEnd(&b, h)
		return b.String()
	}
	fmt.Fprintf(&b, "%s\n", s.bold(fmt.Sprintf("Round %d of about %d: %d of %s held on %s.", h.Round,
		max(startup.Expected(len(h.Items)), h.Round), len(h.Off), counted(len(h.Items), "item is", "items are"), h.Machine)))
	itemsText(&b, s, h.Off)
	fmt.Fprintf(&b, "\n%s\n", s.bold("Now:"))
	b.WriteString("  1  restart the machine\n  2  run the setup again\n  3  report the result:\n")
	for _, answer := range []string{"worked", "failed", "could-not-test"} {
		fmt.Fprintf(&b, "     %s\n", s.key("hollowkey startup hunt"+a.where()+" --"+answer))
	}
	return b.String()
}

// huntEnd tells what the hunt found, with one command for each item that would
// keep it from starting.
func (a *app) huntEnd(b *strings.Builder, h huntStand) {
	s := a.style
	if h.None {
		fmt.Fprintf(b, "%s The setup fails with all %d items held, so none of them is to blame.\nEverything is put back.\n",
			s.mind("NOT AMONG THEM."), len(h.Items))
		return
	}
	fmt.Fprintf(b, "%s after %d rounds. Everything is put back.\n", s.good("FOUND"), h.Round-1)
	for _, set := range h.Found {
		if len(set) > 1 {
			fmt.Fprintf(b, "\n%s\n", s.bold("These break the setup only together:"))
		} else {
			fmt.Fprintf(b, "\n%s\n", s.bold("This breaks the setup:"))
		}
		itemsText(b, s, set)
	}
	if len(h.Unsure) > 0 {
		fmt.Fprintf(b, "\n%s\n", s.bold("One of these has to do with it; rounds that would tell could not be tested:"))
		itemsText(b, s, h.Unsure)
	}
	ids := []string{}
	for _, set := range h.Found {
		if len(set) > 0 {
			ids = append(ids, set[0].ID)
		}
	}
	if len(ids) > 0 {
		fmt.Fprintf(b, "\nTo run the setup without it, restart after:\n  %s\n", s.key("hollowkey startup hold"+repeated("only", ids)+a.where()))
	}
}
