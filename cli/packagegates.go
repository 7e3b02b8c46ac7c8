// This file shows what can stop a setup on a machine, and the smallest changes
// that would let it pass.

package cli

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
)

// newGates is the command that works the gates out. Its exit status says
// whether one fails, for a script that wants to know before it installs.
func (a *app) newGates() *cobra.Command {
	var opt packageOptions
	c := &cobra.Command{
		Use:   "gates PACKAGE",
		Short: "everything that can stop this package: passes, fails, why, and what lets it pass",
		Long: `Works out every condition that can stop a package on a machine: launch conditions,
custom actions that refuse with a message, programs that must succeed, other versions,
platform. For one that fails it names the term that decided, the value it saw and where
that value comes from, and the smallest changes that would let it pass.

It reads only. Without --machine, what depends on the machine is unknown. Exit status:
0 none fails, 1 the package cannot be read, 2 wrong call, 3 a gate fails.`,
		Example: "  hollowkey package gates planner.msi --machine ELLERY-D07\n" +
			"  hollowkey package gates planner.msi --machine ELLERY-D07 --given SITECODE=ELLERY\n" +
			"  hollowkey package gates planner.msi --machine ELLERY-D07 --transform planner.mst",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onPackage(args[0], opt, func(db *installdb.Database, _ int64) error {
				if err := needPackage(db, args[0]); err != nil {
					return err
				}
				w, on, done, err := a.world(db, opt)
				if err != nil {
					return err
				}
				defer done()
				list, err := gates.Find(w)
				if err != nil {
					return fmt.Errorf("%s: %w", args[0], err)
				}
				if a.json {
					err = printJSON(a.out, struct {
						Schema  string       `json:"schema"`
						File    string       `json:"file"`
						Machine string       `json:"machine"`
						Gates   []gates.Gate `json:"gates"`
					}{"hollowkey.package.gates/2", args[0], on, append([]gates.Gate{}, list...)})
				} else {
					err = gatesText(a.out, a.style, list, args[0], on, opt)
				}
				if err == nil && slices.ContainsFunc(list, func(g gates.Gate) bool { return g.Answer == gates.Fails }) {
					err = errNo
				}
				return err
			})
		},
	}
	opt.bindWith(c)
	opt.bindGiven(c)
	return c
}

// gateIndent is the width of the longest word, "fails", and two blanks.
const gateIndent = 7

// gatesText lists the gates with those that fail first, as that is what was
// asked.
func gatesText(w io.Writer, s Style, list []gates.Gate, file, on string, opt packageOptions) error {
	var b strings.Builder
	n := map[gates.Answer]int{}
	for _, g := range list {
		n[g.Answer]++
	}
	where := ""
	if on != "" {
		where = " on " + on
	}
	fmt.Fprintf(&b, "%s\n", s.bold(fmt.Sprintf("%s%s: %s, %d unknown, %d pass.", file, where,
		counted(n[gates.Fails], "gate fails", "gates fail"), n[gates.CannotTell], n[gates.Passes])))
	sorted := slices.Clone(list)
	// The ones that refuse come first and whole, those that pass in a line
	// each.
	slices.SortStableFunc(sorted, func(x, y gates.Gate) int { return gateRank(x) - gateRank(y) })
	passes := 0
	for _, g := range sorted {
		if g.Answer == gates.Passes {
			if passes++; passes == 1 {
				b.WriteString("\n")
			}
			fmt.Fprintf(&b, "%s%s%s\n", s.good(pad("passes", gateIndent+1)), pad(string(g.Kind), 18), s.fit(gateName(g), s.Width-gateIndent-19))
			continue
		}
		gateText(&b, s, g, file, opt)
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// counted writes a number with its word in the right form.
func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// gateText tells one gate in full.
func gateText(b *strings.Builder, s Style, g gates.Gate, file string, opt packageOptions) {
	word := s.bad("FAILS")
	if g.Answer == gates.CannotTell {
		word = s.mind("unknown")
	}
	name := g.Condition
	if g.Kind != gates.Launch && g.Kind != gates.Platform {
		name = g.Row
	}
	fmt.Fprintf(b, "\n%s  %s  %s\n", word, g.Kind,
		s.bold(strings.Join(wrap(strings.ReplaceAll(name, "\t", " "), s.Width, gateIndent, true), "\n")))
	row := func(name, text string) { item(b, s, 2, gateIndent-2+3, name, text) }
	if g.Kind != gates.Launch {
		row("if", g.Condition)
	}
	if g.Kind == gates.Launch || g.Kind == gates.Refusal {
		row("says", `"`+g.Says+`"`)
	} else {
		row("does", g.Says)
	}
	row("note", g.Note)
	for i, r := range g.Why {
		name := "why"
		if i > 0 {
			name = ""
		}
		row(name, reasonText(r))
	}
	row("first", g.Person)
	for i, way := range g.Ways {
		name := ""
		if i == 0 {
			name = "to pass"
		}
		row(name, fmt.Sprintf("%d  %s", i+1, way.Text))
		if command := wayCommand(way, file, opt); command != "" {
			fmt.Fprintf(b, "%s%s\n", strings.Repeat(" ", gateIndent), s.key(command)) // in one line, so that it can be pasted
		}
	}
}

// reasonText says which term decided, what was seen, and where that comes from.
func reasonText(r gates.Reason) string {
	value := fmt.Sprintf("%s is %s", r.Symbol, r.Value)
	switch {
	case r.Symbol == "":
		return fmt.Sprintf("%s is %s", r.Term, r.Holds)
	case !r.Known:
		value = r.Symbol + " is not known"
	case r.Value == "":
		value = r.Symbol + " is not set"
	}
	text := value
	if r.Holds != "" && r.Term != r.Symbol {
		text = fmt.Sprintf("%s is %s: %s", r.Term, r.Holds, value)
	}
	return fmt.Sprintf("%s (%s: %s)", text, r.Origin, r.Detail)
}

// wayCommand is what to type for a way that a command goes.
func wayCommand(way gates.Way, file string, opt packageOptions) string {
	if len(way.Alter) == 0 {
		return ""
	}
	command := "hollowkey package alter " + quoteArgument(file)
	for _, e := range way.Alter {
		command += " --" + e.Option + " " + quoteArgument(e.Value)
	}
	for _, t := range opt.with {
		command += " --transform " + quoteArgument(t)
	}
	return command
}
