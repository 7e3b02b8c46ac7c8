// This file asks the store about one cause, one machine, or two sets beside
// each other, and deletes what is personal.

package cli

import (
	"cmp"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"hollowkey/core/fleet/store"
)

type causeResult struct {
	Schema   string        `json:"schema"`   // names the shape
	Cause    store.Row     `json:"cause"`    // with how often it came
	Sample   *store.Seen   `json:"sample"`   // the surest attempt
	Machines []store.Count `json:"machines"` // that have it
	Products []store.Count `json:"products"` // of the attempts
	Builds   []store.Count `json:"builds"`   // of the OS
	Days     []store.Count `json:"days"`     // when
	Tried    []store.Trial `json:"tried"`    // remedies that were tried for it, in cases
	Next     []store.Count `json:"next"`     // causes that came later on the machines that had it
}

// newTriageCause is the command that tells of one cause.
func (a *app) newTriageCause() *cobra.Command {
	var opt triageOptions
	machines := false
	c := &cobra.Command{
		Use:   "cause ID",
		Short: "tells what one cause is: a sample with its line, products, builds, days, machines",
		Long: `Tells of one cause: the surest verdict with the line that proves it, the products and builds
of the OS that have it, and on which days, what was tried and how often it helped, and what
came next on the same machines. --machines lists the machines. The beginning of
an ID is enough.

It reads only. Exit status: 0 told, 1 could not, 2 wrong call, 3 there is no such cause.`,
		Example: "  hollowkey triage cause 3f2a --machines",
		Args:    cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return a.inStore(c.Context(), opt.store, func(s *store.Store) error {
				f := store.Filter{Cause: args[0]}
				rows, err := s.Top(c.Context(), f, 2)
				if err != nil {
					return err
				}
				switch {
				case len(rows) == 0:
					fmt.Fprintf(a.err, "There is no cause %s in %s.\n", clean(args[0]), clean(opt.store))
					return errNo
				case len(rows) > 1:
					return wrongCall("%q begins the IDs of several causes", args[0])
				}
				f.Cause = rows[0].ID
				res := causeResult{Schema: "hollowkey.triage.cause/1", Cause: rows[0]}
				samples, err := s.Attempts(c.Context(), f, true, 1)
				if err != nil {
					return err
				}
				if len(samples) > 0 {
					res.Sample = &samples[0]
				}
				for column, list := range map[string]*[]store.Count{"machine": &res.Machines,
					"product": &res.Products, "build": &res.Builds, "day": &res.Days} {
					if *list, err = s.By(c.Context(), f, column); err != nil {
						return err
					}
				}
				if res.Tried, err = s.Trials(c.Context(), f.Cause); err != nil {
					return err
				}
				if res.Next, err = s.Next(c.Context(), f.Cause, 5); err != nil {
					return err
				}
				if a.json {
					return printJSON(a.out, res)
				}
				if opt.csv {
					return a.printCSV(causeRows(res))
				}
				return a.causeText(res, machines, opt)
			})
		},
	}
	opt.bindStore(c)
	bindCSV(c, &opt.csv)
	c.Flags().BoolVar(&machines, "machines", false, "list the machines, too")
	return c
}

// causeRows are what is counted about a cause, a row for each value.
func causeRows(res causeResult) [][]string {
	rows := [][]string{{"of", "value", "machines", "attempts"}}
	for _, of := range []struct {
		name string
		list []store.Count
	}{{"machine", res.Machines}, {"product", res.Products}, {"build", res.Builds}, {"day", res.Days}, {"next", res.Next}} {
		for _, c := range of.list {
			rows = append(rows, []string{of.name, c.Value, fmt.Sprint(c.Machines), fmt.Sprint(c.Attempts)})
		}
	}
	for _, t := range res.Tried {
		rows = append(rows, []string{"helped", t.Remedy, fmt.Sprint(t.Helped), fmt.Sprint(t.Times)})
	}
	return rows
}

// causeText prints one cause: what it is about, how often and where it was
// seen, and what has helped against it.
func (a *app) causeText(res causeResult, machines bool, opt triageOptions) error {
	var b strings.Builder
	s := a.style
	row := func(name, text string) { item(&b, s, 0, 10, name, text) }
	fmt.Fprintf(&b, "%s\n\n", s.bold(strings.Join(wrap(res.Cause.Title, s.Width, 0, true), "\n")))
	row("cause", res.Cause.ID+", "+res.Cause.Class)
	row("about", res.Cause.Subject)
	row("seen", fmt.Sprintf("%s on %s, first %s, last %s", counted(res.Cause.Attempts, "attempt", "attempts"),
		counted(res.Cause.Machines, "machine", "machines"),
		res.Cause.First.Format("2006-01-02 15:04"), res.Cause.Last.Format("2006-01-02 15:04")))
	counts := func(name string, list []store.Count) {
		var parts []string
		for n, c := range list {
			if n == 8 {
				parts = append(parts, fmt.Sprintf("%d more", len(list)-n))
				break
			}
			parts = append(parts, fmt.Sprintf("%s (%d)", cmp.Or(c.Value, "not told"), c.Machines))
		}
		row(name, strings.Join(parts, ", "))
	}
	counts("products", res.Products)
	counts("builds", slices.DeleteFunc(slices.Clone(res.Builds), func(c store.Count) bool { return c.Value == "" }))
	counts("days", res.Days)
	if machines {
		var names []string
		for _, m := range res.Machines {
			names = append(names, cmp.Or(m.Value, "not told"))
		}
		row("machines", strings.Join(names, ", "))
	}
	for n, t := range res.Tried {
		text := fmt.Sprintf("%s: helped in %d of %d", t.Remedy, t.Helped, t.Times)
		if t.Moved > 0 {
			text += fmt.Sprintf("; in %d it came to %s (%s)", t.Moved, t.Toward, t.MovedTo)
		}
		row(map[bool]string{true: "tried"}[n == 0], text)
	}
	for n, next := range res.Next {
		row(map[bool]string{true: "came next"}[n == 0], fmt.Sprintf("%s, on %s", next.Value, counted(next.Machines, "machine", "machines")))
	}
	if res.Sample != nil {
		row("sample", res.Sample.Summary)
		if res.Sample.Line > 0 {
			row("proof", fmt.Sprintf("line %d: %s", res.Sample.Line, unstamped(res.Sample.Proof)))
		}
		row("log", res.Sample.Path)
		if !strings.Contains(res.Sample.Path, "!") { // one in a zip is not named to why
			fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey why "+quoteArgument(res.Sample.Path)))
		}
	}
	_, err := io.WriteString(a.out, b.String())
	return err
}

type machineResult struct {
	Schema   string       `json:"schema"`   // names the shape
	Machine  string       `json:"machine"`  // its name
	Attempts []store.Seen `json:"attempts"` // the newest first
}

// newTriageMachine is the command that tells what happened on one machine.
func (a *app) newTriageMachine() *cobra.Command {
	var opt triageOptions
	c := &cobra.Command{
		Use:   "machine NAME",
		Short: "lists what happened on one machine, the newest first",
		Long: "Lists the attempts on one machine with how each ended and why.\n\n" +
			"It reads only. Exit status: 0 listed, 1 could not, 2 wrong call, 3 nothing is known of it.",
		Example: "  hollowkey triage machine ELLERY-D07",
		Args:    cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return a.inStore(c.Context(), opt.store, func(s *store.Store) error {
				list, err := s.Attempts(c.Context(), store.Filter{Machine: args[0]}, false, 1000)
				if err != nil {
					return err
				}
				rows := [][]string{{"when (UTC)", "outcome", "product", "cause", "why"}}
				for _, t := range list {
					rows = append(rows,
						[]string{t.Happened.Format("2006-01-02 15:04"), t.Outcome, strings.TrimSpace(t.Product + " " + t.Version), t.Cause, t.Title})
				}
				switch {
				case a.json:
					err = printJSON(a.out, machineResult{"hollowkey.triage.machine/1", strings.ToLower(args[0]), list})
				case opt.csv:
					err = a.printCSV(rows)
				case len(list) > 0:
					err = a.printGrid(rows)
				}
				if err == nil && len(list) == 0 {
					fmt.Fprintf(a.err, "Nothing is known of %s.\n", clean(args[0]))
					return errNo
				}
				return err
			})
		},
	}
	opt.bindStore(c)
	bindCSV(c, &opt.csv)
	return c
}

// A compared cause is one in two sets.
type compared struct {
	ID    string `json:"id"`
	Class string `json:"class"`
	Title string `json:"title"`
	A     int    `json:"a"` // machines of the first set that have it
	B     int    `json:"b"` // of the second
}

type compareResult struct {
	Schema string     `json:"schema"` // names the shape
	A      store.Sum  `json:"a"`      // the first set
	B      store.Sum  `json:"b"`      // the second
	Causes []compared `json:"causes"` // what differs most first
}

// newTriageCompare is the command that sets two sets beside each other.
func (a *app) newTriageCompare() *cobra.Command {
	var opt triageOptions
	c := &cobra.Command{
		Use:   "compare A B",
		Short: "sets two weeks, products or builds beside each other: what rose, what is gone",
		Long: `Sets two sets of attempts beside each other. A and B are each a time (2026-05-04..2026-05-10,
or one day), product=NAME or build=NUMBER.

It reads only. Exit status: 0 compared, 1 could not, 2 wrong call, 3 there are no causes.`,
		Example: "  hollowkey triage compare 2026-04-27..2026-05-03 2026-05-04..2026-05-10\n  hollowkey triage compare build=19045 build=22631",
		Args:    cobra.ExactArgs(2),
		RunE: func(c *cobra.Command, args []string) error {
			return a.inStore(c.Context(), opt.store, func(s *store.Store) error {
				res := compareResult{Schema: "hollowkey.triage.compare/1"}
				at := map[string]int{}
				for n, text := range args {
					f, err := setOf(text)
					if err != nil {
						return err
					}
					sum, err := s.Total(c.Context(), f)
					if err != nil {
						return err
					}
					rows, err := s.Top(c.Context(), f, 1<<30)
					if err != nil {
						return err
					}
					for _, r := range rows {
						i, ok := at[r.ID]
						if !ok {
							i = len(res.Causes)
							at[r.ID] = i
							res.Causes = append(res.Causes, compared{ID: r.ID, Class: r.Class, Title: r.Title})
						}
						if n == 0 {
							res.Causes[i].A = r.Machines
						} else {
							res.Causes[i].B = r.Machines
						}
					}
					if n == 0 {
						res.A = sum
					} else {
						res.B = sum
					}
				}
				slices.SortStableFunc(res.Causes, func(x, y compared) int {
					return cmp.Or(cmp.Compare(max(y.B-y.A, y.A-y.B), max(x.B-x.A, x.A-x.B)), cmp.Compare(x.ID, y.ID))
				})
				return a.compareText(res, args, opt)
			})
		},
	}
	opt.bindStore(c)
	bindCSV(c, &opt.csv)
	return c
}

// setOf reads what one side of a comparison is.
func setOf(text string) (f store.Filter, err error) {
	if name, ok := strings.CutPrefix(text, "product="); ok {
		return store.Filter{Product: name}, nil
	}
	if number, ok := strings.CutPrefix(text, "build="); ok {
		return store.Filter{Build: number}, nil
	}
	from, to, ranged := strings.Cut(text, "..")
	if f.Since, err = dayOf(from, time.Time{}); err != nil || from == "" {
		return f, wrongCall("%q is neither days (2026-05-04..2026-05-10) nor product=NAME nor build=NUMBER", text)
	}
	last := f.Since
	if ranged {
		if last, err = dayOf(to, time.Time{}); err != nil {
			return f, err
		}
	}
	f.Before = last.AddDate(0, 0, 1)
	return f, nil
}

// compareText prints two groups side by side, in the form that was asked for.
func (a *app) compareText(res compareResult, names []string, opt triageOptions) error {
	rows := [][]string{{"cause", "class", names[0], names[1], "title"}}
	for _, c := range res.Causes {
		rows = append(rows, []string{c.ID, c.Class, fmt.Sprint(c.A), fmt.Sprint(c.B), c.Title})
	}
	var err error
	switch {
	case a.json:
		err = printJSON(a.out, res)
	case opt.csv:
		err = a.printCSV(rows)
	case len(res.Causes) > 0:
		head := fmt.Sprintf("Machines with each cause: %s of %s, and %s of %s.", counted(res.A.Machines, "machine", "machines"), clean(names[0]),
			counted(res.B.Machines, "machine", "machines"), clean(names[1]))
		a.say("%s\n\n", a.style.bold(strings.Join(wrap(head, a.style.Width, 0, true), "\n")))
		err = a.printGrid(rows)
	}
	if err == nil && len(res.Causes) == 0 {
		fmt.Fprintln(a.err, "No cause was found.")
		return errNo
	}
	return err
}

// newTriageForget is the command that deletes what is personal.
func (a *app) newTriageForget() *cobra.Command {
	var opt triageOptions
	var ok consent
	machine, before := "", ""
	c := &cobra.Command{
		Use:   "forget",
		Short: "deletes what the store has of a machine, or of the time before a day",
		Long: `Deletes attempts and the names of their files. Names of machines are personal data: keep
them as long as they are needed. The logs themselves stay; reading their place again brings
them back.

Shows first and asks. Exit status: 0 deleted or previewed, 1 could not, 2 wrong call, 3
nothing fits, or the answer was no.`,
		Example: "  hollowkey triage forget --before 2026-01-01\n  hollowkey triage forget --machine-name ELLERY-D07",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if machine == "" && before == "" {
				return wrongCall("--before or --machine-name is missing")
			}
			f := store.Filter{Machine: machine}
			if before != "" {
				day, err := dayOf(before, time.Time{})
				if err != nil {
					return err
				}
				f.Before = day
			}
			return a.inStore(c.Context(), opt.store, func(s *store.Store) error {
				sum, err := s.Total(c.Context(), f)
				if err != nil {
					return err
				}
				if sum.Attempts == 0 {
					fmt.Fprintln(a.err, "Nothing fits.")
					return errNo
				}
				a.say("%s on %s would be deleted from %s, for good.\n",
					counted(sum.Attempts, "attempt", "attempts"), counted(sum.Machines, "machine", "machines"), clean(opt.store))
				if ok.preview {
					return nil
				}
				if err := a.given(ok, "Delete them?"); err != nil {
					return err
				}
				n, err := s.Forget(c.Context(), machine, f.Before)
				if err != nil {
					return err
				}
				a.say("%s %s deleted.\n", a.style.good("DONE."), counted(int(n), "attempt", "attempts"))
				return nil
			})
		},
	}
	opt.bindStore(c)
	ok.bind(c)
	c.Flags().StringVar(&machine, "machine-name", "", "what is of this machine")
	c.Flags().StringVar(&before, "before", "", "what happened before this day, as 2026-05-04")
	return c
}
