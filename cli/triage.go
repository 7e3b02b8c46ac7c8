// This file has the commands of many logs: read them, list their causes.

package cli

import (
	"context"
	"fmt"
	"io"
	"runtime/debug"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"hollowkey/core/fleet/intake"
	"hollowkey/core/fleet/store"
)

// storeName is the file where nobody names another.
const storeName = "hollowkey-triage.db"

// triageOptions are what all questions to a store take.
type triageOptions struct {
	store                 string
	days                  int
	product, class, build string
	most                  int
	csv                   bool
}

// bindStore gives a command the option that names the store.
func (o *triageOptions) bindStore(c *cobra.Command) {
	c.Flags().StringVar(&o.store, "store", storeName, "the file that keeps what was read, or postgres://USER@HOST/DATABASE")
}

// bindFilter gives a command the options that say which part of the store
// counts.
func (o *triageOptions) bindFilter(c *cobra.Command) {
	o.bindStore(c)
	c.Flags().IntVar(&o.days, "days", 0, "only the last so many days of what is in the store (0: all)")
	c.Flags().StringVar(&o.product, "product", "", "only this product (may hold stars)")
	c.Flags().StringVar(&o.class, "class", "", "only causes of this class")
	c.Flags().StringVar(&o.build, "build", "", "only this build of the OS")
	c.Flags().IntVar(&o.most, "limit", 20, "at most so many rows")
	bindCSV(c, &o.csv)
}

// filter is the options as the store takes them. Days count back from the
// newest attempt: a store may be looked at long after its logs were written.
func (o triageOptions) filter(newest time.Time) store.Filter {
	f := store.Filter{Product: o.product, Class: o.class, Build: o.build}
	if o.days > 0 && !newest.IsZero() {
		day := newest.UTC().Truncate(24 * time.Hour)
		f.Since = day.AddDate(0, 0, 1-o.days)
	}
	return f
}

// newTriage is the command of many logs.
func (a *app) newTriage() *cobra.Command {
	c := &cobra.Command{
		Use:   "triage",
		Short: "thousands of logs by cause: which causes, on which machines, since when",
		Long: `Reads many logs into one file, and says which causes there are, on which machines, since
when, and what is new. add reads; top, new, cause, machine and compare ask; forget deletes.
One cause on many machines is one row: what is of one machine alone is folded out of names.`,
		Example: "  hollowkey triage add //files/logs\n  hollowkey triage top --days 7\n  hollowkey triage new --since 2026-05-04",
		Args:    needSubcommand,
		RunE:    func(c *cobra.Command, _ []string) error { return c.Help() },
	}
	c.AddCommand(a.newTriageAdd(), a.newTriageTop(), a.newTriageNew(), a.newTriageCause(), a.newTriageMachine(),
		a.newTriageCompare(), a.newTriagePage(), a.newTriageForget(),
		a.newTriageJoin(), a.newTriagePart(), a.newTriageFold(), a.newTriageMake(), a.newTriageWork())
	return c
}

// roomy lets memory be cleared less often where thousands of logs are read: a
// quarter of the time goes into it otherwise. Source: measured,
// docs/performance.md.
func roomy() {
	const (
		percent = 600     // of what is in use, before it is cleared; the runtime takes 100
		most    = 1 << 30 // bytes, from which on it is cleared as often as it takes
	)
	debug.SetGCPercent(percent)
	debug.SetMemoryLimit(most)
}

// inStore opens a store for one piece of work.
func (a *app) inStore(ctx context.Context, name string, do func(*store.Store) error) error {
	s, err := madeStore(ctx, name, false)
	if err != nil {
		return err
	}
	defer s.Close()
	return do(s)
}

// newTriageAdd is the command that reads logs.
func (a *app) newTriageAdd() *cobra.Command {
	var opt triageOptions
	var why whyOptions
	var work workOptions
	onlyQueue := false
	c := &cobra.Command{
		Use:   "add PLACE...",
		Short: "reads the logs of folders, zips and names with stars into the store",
		Long: `Reads all setup logs below the places, also those in zips, and keeps what each tells. What
was read before and has not changed is skipped, so that an interrupted run goes on where it
stopped. What cannot be read is listed with the reason, and never stops the rest. The
machine is named by the log, else by the folder that it lies in.

In a store on a server the files are handed out in jobs, which this machine works on together
with all that run triage work; with --only-queue it leaves them to those.

Exit status: 0 read, 1 could not, 2 wrong call, 3 some files could not be read.`,
		Example: "  hollowkey triage add //files/logs --store week.db\n  hollowkey triage add 'collected/*.zip'",
		Args:    cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			s, err := madeStore(c.Context(), opt.store, true)
			if err != nil {
				return err
			}
			defer s.Close()
			roomy()
			if s.IsServer() {
				return a.handOut(c.Context(), s, args, onlyQueue, work, why, opt)
			}
			reading, err := a.question(nil, why, nil).Options()
			if err != nil {
				return err
			}
			watch, stop := a.rate()
			var problems [][2]string
			rep, err := intake.Add(c.Context(), s, args, intake.Options{Reading: reading, Watch: watch,
				Problem: func(path, why string) { problems = append(problems, [2]string{path, why}) }})
			stop()
			if err != nil {
				return err
			}
			return a.added(rep, problems, opt)
		},
	}
	opt.bindStore(c)
	work.bind(c)
	c.Flags().BoolVar(&onlyQueue, "only-queue", false, "in a store on a server: hand out, and leave the reading to others")
	why.bindReading(c)
	return c
}

type addResult struct {
	Schema string `json:"schema"` // names the shape
	Store  string `json:"store"`  // its file
	intake.Report
	Problems []problem `json:"problems"` // files that could not be read
}

type problem struct {
	Path string `json:"path"` // of the file
	Why  string `json:"why"`  // it could not be read
}

// added tells what became of the files that were given: how many were read,
// known already, or of no use.
func (a *app) added(rep intake.Report, problems [][2]string, opt triageOptions) error {
	res := addResult{Schema: "hollowkey.triage.add/1", Store: opt.store, Report: rep}
	for _, p := range problems {
		res.Problems = append(res.Problems, problem{p[0], p[1]})
	}
	if a.json {
		if err := printJSON(a.out, res); err != nil {
			return err
		}
	} else {
		var b strings.Builder
		fmt.Fprintf(&b, "%s %s read, %d known before, %d no setup logs.\n", a.style.good("ADDED."),
			counted(rep.Logs, "log", "logs"), rep.Known, rep.Others)
		if rep.Cases > 0 {
			fmt.Fprintf(&b, "Cases: %d, with %s.\n", rep.Cases, counted(rep.Tried, "tried remedy", "tried remedies"))
		}
		if rep.Unread > 0 {
			fmt.Fprintf(&b, "%s\n", a.style.mind(counted(rep.Unread, "file", "files")+" could not be read:"))
		}
		for n, p := range res.Problems {
			if n == 10 && len(res.Problems) > 11 {
				fmt.Fprintf(&b, "  … %d more; --json lists them\n", len(res.Problems)-n)
				break
			}
			item(&b, a.style, 2, 0, "", p.Path+": "+p.Why)
		}
		fmt.Fprintf(&b, "\nNext: %s\n", a.style.key("hollowkey triage top"+inStoreOption(opt.store)))
		if _, err := io.WriteString(a.out, b.String()); err != nil {
			return err
		}
	}
	if rep.Unread > 0 {
		return errNo
	}
	return nil
}

// inStoreOption names the store in a printed command, where it is not the usual
// one.
func inStoreOption(name string) string {
	if name == storeName {
		return ""
	}
	return " --store " + quoteArgument(name)
}

// inDays is inStore with when the newest attempt of the store happened, from
// which days are counted back.
func (a *app) inDays(ctx context.Context, name string, do func(s *store.Store, newest time.Time) error) error {
	return a.inStore(ctx, name, func(s *store.Store) error {
		list, err := s.Attempts(ctx, store.Filter{}, false, 1)
		if err != nil {
			return err
		}
		newest := time.Time{}
		if len(list) > 0 {
			newest = list[0].Happened
		}
		return do(s, newest)
	})
}

type topResult struct {
	Schema string      `json:"schema"` // names the shape
	Since  *time.Time  `json:"since"`  // null: all that is in the store
	Total  store.Sum   `json:"total"`  // of what was chosen
	Causes []store.Row `json:"causes"` // those on most machines first
}

// newTriageTop is the command that lists causes.
func (a *app) newTriageTop() *cobra.Command {
	var opt triageOptions
	c := &cobra.Command{
		Use:   "top",
		Short: "lists the causes, those on most machines first",
		Long: `Lists the causes with how many machines and attempts each has, its share, how many machines
had it in the time of the same length before, when it was first and last seen, and a log.

It reads only. Exit status: 0 listed, 1 could not, 2 wrong call, 3 there is none.`,
		Example: "  hollowkey triage top --days 7\n  hollowkey triage top --product 'Tidebook*' --csv",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return a.inDays(c.Context(), opt.store, func(s *store.Store, last time.Time) (err error) {
				f := opt.filter(last)
				res := topResult{Schema: "hollowkey.triage.top/1"}
				if !f.Since.IsZero() {
					res.Since = &f.Since
				}
				if res.Total, err = s.Total(c.Context(), f); err != nil {
					return err
				}
				if res.Causes, err = s.Top(c.Context(), f, opt.most); err != nil {
					return err
				}
				return a.causes(res, opt)
			})
		},
	}
	opt.bindFilter(c)
	return c
}

// newTriageNew is the command that lists what was not there before.
func (a *app) newTriageNew() *cobra.Command {
	var opt triageOptions
	since := ""
	c := &cobra.Command{
		Use:   "new",
		Short: "lists the causes that were never seen before a day",
		Long: `Lists the causes that were seen for the first time since a day; without --since since the
day of the newest attempt in the store.

It reads only. Exit status: 0 listed, 1 could not, 2 wrong call, 3 nothing is new.`,
		Example: "  hollowkey triage new --since 2026-05-04",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return a.inDays(c.Context(), opt.store, func(s *store.Store, last time.Time) (err error) {
				day, err := dayOf(since, last)
				if err != nil {
					return err
				}
				res := topResult{Schema: "hollowkey.triage.top/1", Since: &day}
				if res.Total, err = s.Total(c.Context(), store.Filter{Since: day}); err != nil {
					return err
				}
				if res.Causes, err = s.New(c.Context(), day); err != nil {
					return err
				}
				return a.causes(res, opt)
			})
		},
	}
	opt.bindStore(c)
	bindCSV(c, &opt.csv)
	c.Flags().StringVar(&since, "since", "", "a day, as 2026-05-04, today or yesterday")
	return c
}

// dayOf reads a day; today and yesterday are those of the newest attempt.
func dayOf(text string, last time.Time) (time.Time, error) {
	day := last.UTC().Truncate(24 * time.Hour)
	switch text {
	case "", "today":
		return day, nil
	case "yesterday":
		return day.AddDate(0, 0, -1), nil
	}
	t, err := time.Parse("2006-01-02", text)
	if err != nil {
		return t, wrongCall("%q is no day\nhint: write it as 2026-05-04", text)
	}
	return t, nil
}

// causes shows rows of causes.
func (a *app) causes(res topResult, opt triageOptions) error {
	var err error
	switch {
	case a.json:
		err = printJSON(a.out, res)
	case opt.csv:
		rows := [][]string{{"cause", "class", "title", "subject", "product", "machines", "attempts", "before", "first", "last", "example"}}
		for _, r := range res.Causes {
			rows = append(rows, []string{r.ID, r.Class, r.Title, r.Subject, r.Product, fmt.Sprint(r.Machines),
				fmt.Sprint(r.Attempts), fmt.Sprint(r.Before),
				r.First.Format(time.RFC3339), r.Last.Format(time.RFC3339), r.Example})
		}
		err = a.printCSV(rows)
	default:
		err = a.causesText(res, opt)
	}
	if err == nil && len(res.Causes) == 0 {
		fmt.Fprintln(a.err, "No cause was found.")
		return errNo
	}
	return err
}

// causesText prints the causes as a table, the most frequent first, and the
// call that shows the first of them whole.
func (a *app) causesText(res topResult, opt triageOptions) error {
	if len(res.Causes) == 0 {
		return nil
	}
	var b strings.Builder
	s := a.style
	since := ""
	if res.Since != nil {
		since = " since " + res.Since.Format("2006-01-02")
	}
	fmt.Fprintf(&b, "%s\n\n", s.bold(fmt.Sprintf("%s on %s%s; %d failed, for %s.", counted(res.Total.Attempts, "attempt", "attempts"),
		counted(res.Total.Machines, "machine", "machines"), since, res.Total.Failed, counted(res.Total.Causes, "cause", "causes"))))
	fmt.Fprintf(&b, "%s\n", s.faint("machines  share  before  last        cause"))
	for _, r := range res.Causes {
		before := "     -"
		if res.Since != nil {
			before = fmt.Sprintf("%6d", r.Before)
		}
		share := 100 * float64(r.Attempts) / float64(max(res.Total.Failed, 1))
		const indent = 36 // the numbers before the title
		title := strings.TrimSuffix(sentence(r.Title), ".")
		if r.Subject != "" && !strings.Contains(strings.ToLower(title), r.Subject) {
			title += ": " + r.Subject
		}
		fmt.Fprintf(&b, "%8d  %3.0f %%  %s  %s  %s\n", r.Machines, share, before, r.Last.Format("2006-01-02"),
			strings.Join(wrap(title, s.Width, indent, true), "\n"))
		fmt.Fprintf(&b, "%s%s\n", strings.Repeat(" ", indent),
			s.faint(r.ID+"  "+r.Class+map[bool]string{true: "  " + r.Product}[r.Product != ""]))
	}
	fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey triage cause "+res.Causes[0].ID+inStoreOption(opt.store)))
	_, err := io.WriteString(a.out, b.String())
	return err
}

// rate shows how many files are done, with how fast it goes and how long it
// takes.
func (a *app) rate() (watch func(done, found int64), stop func()) {
	bar := a.progress(progressSize) // shown where a terminal is there
	if bar.bar == nil {
		return nil, func() {}
	}
	began, told := time.Now(), time.Time{}
	return func(done, found int64) {
			if time.Since(told) < 200*time.Millisecond || time.Since(began) < progressAfter {
				return
			}
			told = time.Now()
			perSecond := float64(done) / time.Since(began).Seconds()
			left := time.Duration(float64(found-done)/max(perSecond, 1)) * time.Second
			fmt.Fprintf(a.err, "\r%d of %d files, %.0f a second, %s left   ", done, found, perSecond, left)
		}, func() {
			if !told.IsZero() {
				fmt.Fprint(a.err, "\r\x1b[K")
			}
		}
}
