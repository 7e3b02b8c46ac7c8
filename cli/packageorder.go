// This file shows in which order a package acts.

package cli

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/package/installdb"
	"hollowkey/core/package/sequence"
)

// newOrder is the command that shows the sequences. --own leaves the engine's
// own actions out: what breaks a setup is most often the vendor's.
func (a *app) newOrder() *cobra.Command {
	var opt packageOptions
	var which string
	var own bool
	c := &cobra.Command{
		Use:   "order PACKAGE",
		Short: "what runs when: the sequences in order, actions in plain words, conditions worked out",
		Long: `Shows the sequences as they run: sorted, the engine's own actions in a phrase, custom
actions decoded (what is run, from where, when, as whom, and what comes of a failure),
conditions worked out for a machine and given properties.

It reads only. Exit status: 0 shown, 1 the package cannot be read, 2 wrong call.`,
		Example: "  hollowkey package order planner.msi --own\n" +
			"  hollowkey package order planner.msi --sequence interface --machine ELLERY-D07\n" +
			"  hollowkey package order planner.msi --given SITECODE=ELLERY",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			tables, ok := map[string][]string{"execute": {sequence.Execute}, "interface": {sequence.Interface},
				"both": {sequence.Interface, sequence.Execute}}[which]
			if !ok {
				return wrongCall("--sequence %q is not execute, interface or both", which)
			}
			return a.onPackage(args[0], opt, func(db *installdb.Database, _ int64) error {
				if err := needPackage(db, args[0]); err != nil {
					return err
				}
				w, on, done, err := a.world(db, opt)
				if err != nil {
					return err
				}
				defer done()
				var all []sequence.Action
				for _, t := range tables {
					list, err := sequence.Read(db, t, w.Lookup)
					if err != nil {
						return fmt.Errorf("%s: %w", args[0], err)
					}
					all = append(all, list...)
				}
				if err := w.Err(); err != nil {
					return err
				}
				if a.json {
					return printJSON(a.out, struct {
						Schema  string            `json:"schema"`
						Machine string            `json:"machine,omitempty"`
						Actions []sequence.Action `json:"actions"`
					}{"hollowkey.package.order/2", on, append([]sequence.Action{}, all...)})
				}
				return orderText(a.out, a.style, all, tables, own)
			})
		},
	}
	c.Flags().StringVar(&which, "sequence", "execute", "execute, interface or both")
	c.Flags().BoolVar(&own, "own", false, "only what the vendor added, with the action of the engine before it")
	opt.bindWith(c)
	opt.bindGiven(c)
	return c
}

// orderText writes each sequence as a list with numbers, names, conditions and
// what an action does.
func orderText(w io.Writer, s Style, all []sequence.Action, tables []string, own bool) error {
	var b strings.Builder
	for i, t := range tables {
		if i > 0 {
			b.WriteString("\n")
		}
		var list []sequence.Action
		custom, names := 0, 0
		for _, x := range all {
			if x.Table == t {
				list = append(list, x)
				if x.Kind != "custom" {
					names = max(names, len(x.Name)+columnGap)
				}
				if x.Kind == "custom" {
					custom++
				}
			}
		}
		fmt.Fprintf(&b, "%s\n", s.bold(fmt.Sprintf("%s: %s, %d of the package's own (*)", t, count(len(list), "action"), custom)))
		if t == sequence.Interface {
			b.WriteString(s.faint("  only with the full interface, before the execute sequence") + "\n")
		}
		var before *sequence.Action
		for i, x := range list {
			// Where only the package's own actions are asked for, the engine's
			// one before tells where they run.
			if own && x.Kind == "standard" {
				before = &list[i]
				continue
			}
			if own && before != nil {
				fmt.Fprintln(&b, s.faint(fmt.Sprintf("%6d    after %s", before.Number, before.Name)))
				before = nil
			}
			actionText(&b, s, x, names)
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// orderIndent is a column for the sequence number, six digits, and its blanks.
const orderIndent = 10

// actionText tells one action: in short for the engine's own, in full for the
// package's. names is the width of the engine's names.
func actionText(b *strings.Builder, s Style, x sequence.Action, names int) {
	mark := " "
	if x.Kind == "custom" {
		mark = "*"
	}
	name := x.Name
	if x.Kind == "custom" {
		name = s.bold(x.Name)
	}
	number := fmt.Sprint(x.Number)
	if x.Number == 0 {
		number = "-"
	}
	head := fmt.Sprintf("%6s %s  ", number, mark)
	if x.Kind != "custom" {
		text := strings.Join(wrap(x.Does, s.Width, orderIndent+names, true), "\n")
		line := head + pad(x.Name, names) + s.faint(text)
		if x.Answer == "skipped" || x.Answer == "never" {
			line = s.faint(head + pad(x.Name, names) + text)
		}
		fmt.Fprintln(b, line)
	} else {
		fmt.Fprintln(b, head+name)
		item(b, s, orderIndent, 0, "", x.Does)
		item(b, s, orderIndent, 0, "", x.Custom.Manner())
	}
	if x.Condition != "" || x.Answer == "never" {
		answer := map[string]string{"runs": s.good("runs"), "at the end": s.good("at the end"), "skipped": s.faint("skipped"),
			"never": s.faint("never: it has no number"), "unknown": s.mind("unknown")}[x.Answer]
		lead := strings.Repeat(" ", orderIndent)
		if x.Condition == "" {
			fmt.Fprintf(b, "%s%s\n", lead, answer)
		} else {
			plain := wrap("if "+x.Condition, s.Width-14, orderIndent, true)
			fmt.Fprintf(b, "%s%s  → %s\n", lead, s.faint(strings.Join(plain, "\n")), answer)
		}
	}
	if x.Problem != "" {
		item(b, s, orderIndent, 0, "", "note: "+x.Problem)
	}
}
