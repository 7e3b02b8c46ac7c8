// This file lets several machines share the reading through a store on a
// server.

package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"hollowkey/core/fleet/crew"
	"hollowkey/core/fleet/intake"
	"hollowkey/core/fleet/store"
)

// newTriageMake is the command that makes a store's tables on a server.
func (a *app) newTriageMake() *cobra.Command {
	var opt triageOptions
	c := &cobra.Command{
		Use:   "make",
		Short: "makes the tables of a store in a PostgreSQL database",
		Long: `Makes the tables that a store needs in a database that is there: those for logs and causes,
and those of the queue that hands out work. What is there already stays.

The password stands in a file: PGPASSFILE or PGSERVICEFILE names it.

Exit status: 0 made or there already, 1 could not, 2 wrong call.`,
		Example: "  hollowkey triage make --store postgres://triage@logs.example/triage",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			s, err := store.Open(c.Context(), opt.store, true)
			if err != nil {
				return err
			}
			defer s.Close()
			if err := crew.Make(c.Context(), s); err != nil {
				return fmt.Errorf("%s: %w", s.Name(), err)
			}
			return a.tended(s, "made", []string{}, 0, "%s The tables are in %s.\n\nNext: %s\n",
				a.style.good("DONE."), clean(s.Name()), a.style.key("hollowkey triage add PLACE"+inStoreOption(opt.store)))
		},
	}
	opt.bindStore(c)
	return c
}

// A tended store is one of which the tables or the causes were changed.
type tendedStore struct {
	Schema string   `json:"schema"` // names the shape
	Store  string   `json:"store"`  // its name
	Done   string   `json:"done"`   // made, joined, parted or folded
	Causes []string `json:"causes"` // IDs that were joined under the first, or what was parted; empty where none is meant
	Count  int      `json:"count"`  // causes or attempts that count otherwise now
}

// tended tells what was done to a store, in words or as an object.
func (a *app) tended(s *store.Store, done string, causes []string, count int, words string, args ...any) error {
	if a.json {
		return printJSON(a.out, tendedStore{"hollowkey.triage.tended/1", s.Name(), done, causes, count})
	}
	a.say(words, args...)
	return nil
}

// madeStore opens a store that has its tables; with create a file is made.
func madeStore(ctx context.Context, name string, create bool) (*store.Store, error) {
	s, err := store.Open(ctx, name, create)
	if err != nil {
		return nil, err
	}
	if !s.Made() {
		s.Close()
		return nil, fmt.Errorf("%s: %w\nhint: hollowkey triage make%s", s.Name(), store.ErrNotMade, inStoreOption(name))
	}
	return s, nil
}

// workOptions are how a worker works.
type workOptions struct {
	untilEmpty bool
	rescue     time.Duration
	jobs       int
}

// bind gives a worker its options.
func (o *workOptions) bind(c *cobra.Command) {
	c.Flags().DurationVar(&o.rescue, "rescue-after", crew.RescueAfter, "how long a worker may be silent before another takes its job")
	c.Flags().IntVar(&o.jobs, "jobs", 0, "jobs at once (0: one for each processor)")
}

// newTriageWork is the command of a worker.
func (a *app) newTriageWork() *cobra.Command {
	var opt triageOptions
	var work workOptions
	var why whyOptions
	c := &cobra.Command{
		Use:   "work",
		Short: "reads what triage add handed out in a store on a server",
		Long: `Reads the logs that were handed out, until it is stopped, or with --until-empty until
nothing is left. It may run on any number of machines that reach the logs by the same
paths, as a service or a scheduled task. Work of a machine that went away is done by
another; nothing is counted twice.

Exit status: 0 done, 1 could not, 2 wrong call, 3 some files could not be read.`,
		Example: "  hollowkey triage work --store postgres://triage@logs.example/triage --until-empty",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			s, err := madeStore(c.Context(), opt.store, false)
			if err != nil {
				return err
			}
			defer s.Close()
			roomy()
			return a.work(c.Context(), s, work, why)
		},
	}
	opt.bindStore(c)
	work.bind(c)
	c.Flags().BoolVar(&work.untilEmpty, "until-empty", false, "stop when nothing is handed out any more")
	why.bindReading(c)
	return c
}

type workResult struct {
	Schema string `json:"schema"` // names the shape
	Store  string `json:"store"`  // its name
	crew.Done
}

// work lets this machine do what is handed out.
func (a *app) work(ctx context.Context, s *store.Store, o workOptions, why whyOptions) error {
	reading, err := a.question(nil, why, nil).Options()
	if err != nil {
		return err
	}
	bar := a.progress(progressSize)
	var watch func(int)
	shown := false
	if bar.bar != nil {
		watch = func(left int) {
			shown = true
			fmt.Fprintf(a.err, "\r%s left   ", counted(left, "job", "jobs"))
		}
	}
	var mu sync.Mutex
	done, err := crew.Work(ctx, s, crew.Options{Reading: reading, Workers: o.jobs, UntilEmpty: o.untilEmpty,
		RescueAfter: o.rescue, Watch: watch, Told: func(what string) {
			mu.Lock()
			defer mu.Unlock()
			fmt.Fprintln(a.err, clean(what))
		}})
	if shown {
		fmt.Fprint(a.err, "\r\x1b[K")
	}
	if err != nil {
		return err
	}
	if a.json {
		if err := printJSON(a.out, workResult{"hollowkey.triage.work/1", s.Name(), done}); err != nil {
			return err
		}
	} else {
		a.say("%s %s in %s read by this worker, %d no setup logs, %d could not be read.\n", a.style.good("DONE."),
			counted(done.Logs, "log", "logs"), counted(done.Jobs, "job", "jobs"), done.Others, done.Unread)
		if done.GivenUp > 0 {
			a.say("%s\n", a.style.mind(counted(done.GivenUp, "job was", "jobs were")+" given up after too many attempts; add the place again."))
		}
	}
	if done.Unread > 0 || done.GivenUp > 0 {
		return errNo
	}
	return nil
}

// handOut finds the files of places and puts them into the queue; with
// onlyQueue others read them, else this machine does, too.
func (a *app) handOut(ctx context.Context, s *store.Store, places []string, onlyQueue bool, o workOptions,
	why whyOptions, opt triageOptions) error {
	// Other workers have another present folder.
	absolute, err := absolutePlaces(places)
	if err != nil {
		return err
	}
	watch, stop := a.rate()
	var problems [][2]string
	h, err := crew.Hand(ctx, s, absolute,
		intake.Options{Watch: watch, Problem: func(path, why string) { problems = append(problems, [2]string{path, why}) }})
	stop()
	if err != nil {
		return err
	}
	if onlyQueue {
		if !a.json {
			a.say("%s %s of %s handed out.\n\nNext: %s\n", a.style.good("ADDED."), counted(h.Jobs, "job", "jobs"),
				counted(h.Files-h.Known, "file", "files"),
				a.style.key("hollowkey triage work --until-empty"+inStoreOption(opt.store)))
			return nil
		}
		return a.added(h.Report, problems, opt)
	}
	for _, p := range problems {
		fmt.Fprintf(a.err, "%s: %s\n", clean(p[0]), clean(p[1]))
	}
	o.untilEmpty = true
	return a.work(ctx, s, o, why)
}

// absolutePlaces are places as other processes find them, too.
func absolutePlaces(places []string) (out []string, err error) {
	for _, p := range places {
		at, err := filepath.Abs(p)
		if err != nil {
			return nil, err
		}
		out = append(out, at)
	}
	return out, nil
}

// newTriageJoin is the command by which a person says that causes are one.
func (a *app) newTriageJoin() *cobra.Command {
	var opt triageOptions
	c := &cobra.Command{
		Use:   "join HEAD ID...",
		Short: "counts causes as one, under the first",
		Long: `Lets what failed from the other causes count for the first one, from now on, too. part undoes
it. The beginning of an ID is enough.

Exit status: 0 joined, 1 could not, 2 wrong call.`,
		Example: "  hollowkey triage join 3f2a 77c1",
		Args:    cobra.MinimumNArgs(2),
		RunE: func(c *cobra.Command, args []string) error {
			return a.inStore(c.Context(), opt.store, func(s *store.Store) error {
				var ids []string
				for _, text := range args {
					id, err := s.Cause(c.Context(), text)
					if err != nil {
						return err
					}
					ids = append(ids, id)
				}
				if err := s.Join(c.Context(), ids[0], ids[1:]); err != nil {
					return err
				}
				return a.tended(s, "joined", ids, len(ids)-1, "%s %s counts for %s, too.\n\nNext: %s\n",
					a.style.good("DONE."), strings.Join(ids[1:], ", "), ids[0],
					a.style.key("hollowkey triage cause "+ids[0]+inStoreOption(opt.store)))
			})
		},
	}
	opt.bindStore(c)
	return c
}

// newTriagePart is the command that takes a join back.
func (a *app) newTriagePart() *cobra.Command {
	var opt triageOptions
	c := &cobra.Command{
		Use:   "part ID",
		Short: "undoes that a cause counts for another, or all that count for this one",
		Long: `Lets a cause that was joined under another count for itself again; of a head, all that is
under it. No rule joins them again.

Exit status: 0 parted, 1 could not, 2 wrong call, 3 it is not joined with any.`,
		Example: "  hollowkey triage part 77c1",
		Args:    cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return a.inStore(c.Context(), opt.store, func(s *store.Store) error {
				id, err := s.Cause(c.Context(), args[0])
				if err != nil {
					return err
				}
				n, err := s.Part(c.Context(), id)
				if err != nil {
					return err
				}
				if n == 0 {
					fmt.Fprintf(a.err, "%s is not joined with any other.\n", id)
					return errNo
				}
				return a.tended(s, "parted", []string{id}, n, "%s %s for itself again.\n", a.style.good("DONE."),
					counted(n, "cause counts", "causes count"))
			})
		},
	}
	opt.bindStore(c)
	return c
}

// newTriageFold is the command that works causes out anew.
func (a *app) newTriageFold() *cobra.Command {
	var opt triageOptions
	rules := ""
	c := &cobra.Command{
		Use:   "fold",
		Short: "works the causes out anew, by a site's own rules behind the built-in ones",
		Long: `Works out anew what is one cause, without reading a log again: the store keeps what each log
told. --rules names a file of rules of the site, which the store keeps; without it the
store's own rules go, and only the built-in ones count. docs/fleet.md shows a rule.

Exit status: 0 done, 1 could not, 2 wrong call.`,
		Example: "  hollowkey triage fold --rules berths.yaml",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			text := ""
			if rules != "" {
				b, err := os.ReadFile(rules)
				if err != nil {
					return err
				}
				text = string(b)
			}
			return a.inStore(c.Context(), opt.store, func(s *store.Store) error {
				n, err := s.Refold(c.Context(), text)
				if err != nil {
					return err
				}
				return a.tended(s, "folded", []string{}, n, "%s The causes of %s were worked out anew, by %s.\n",
					a.style.good("DONE."), counted(n, "attempt", "attempts"),
					counted(len(s.Rules().Rules), "rule", "rules"))
			})
		},
	}
	opt.bindStore(c)
	c.Flags().StringVar(&rules, "rules", "", "a file of the site's own rules")
	return c
}
