// This file has the commands of a case: open, add, note, close. What a case is,
// and how it is kept whole, core/record knows.

package cli

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/prove/ladder"
	"hollowkey/core/record/casefile"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
)

// newCase is the command of the case; alone it shows where one was, since that
// is what is asked after a restart.
func (a *app) newCase() *cobra.Command {
	c := &cobra.Command{
		Use:   "case",
		Short: "keeps everything about one failed setup in a folder; shows where one was",
		Long: `A case is a folder that can be read without this program: case.yaml, evidence, verdicts,
the journal of changes, attempts with their logs, what was typed, quarantine, the report.
Without a subcommand it tells where one was: after a restart, or a run that was cut off.

The folder is --case, else TWIN.case beside the twin. Once a case is open, commands that
name it record themselves there. Exit status: 0 shown, 1 could not, 2 wrong call.`,
		Example: "  hollowkey case open --case berth-17 --title \"Tidebook Desk on D07\"\n  hollowkey case --case berth-17\n" +
			"  hollowkey case close --case berth-17 --outcome solved",
		Args: needSubcommand,
		RunE: func(*cobra.Command, []string) error { return a.caseShow() },
	}
	c.AddCommand(a.newCaseOpen(), a.newCaseAdd(), a.newCaseNote(), a.newCaseClose(), a.newCaseReport(), a.newCaseList())
	return c
}

// needCase gives the case's folder; without one the call is wrong.
func (a *app) needCase() (string, error) {
	if a.caseDir == "" && (a.machine == "" || a.machine == "live") {
		return "", wrongCall("--case is missing\nhint: name the case's folder, or a twin with --machine")
	}
	return a.caseFolder(), nil
}

// newCaseOpen is the command that opens a case. A machine is looked at only for
// its name, so that a case can be opened before anything else is known.
func (a *app) newCaseOpen() *cobra.Command {
	var about casefile.About
	c := &cobra.Command{
		Use:     "open",
		Short:   "opens a case",
		Long:    "Opens a case in a folder, which is made. Exit status: 0 opened, 1 could not, 2 wrong call.",
		Example: "  hollowkey case open --case berth-17 --title \"Tidebook Desk on D07\" --told \"it stops at starting services\"",
		Args:    cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			dir, err := a.needCase()
			if err != nil {
				return err
			}
			if about.Title == "" {
				about.Title = filepath.Base(dir)
			}
			if a.machine != "" {
				m, done, err := a.openMachine()
				if err != nil {
					return err
				}
				err = a.aboutMachine(&about, m)
				done()
				if err != nil {
					return err
				}
			}
			if _, err := casefile.Make(dir, about, a.now); err != nil {
				return err
			}
			a.say("%s %s\nNext: %s\n", a.style.good("OPEN"), dir, a.style.key("hollowkey why LOG --case "+quoteArgument(dir)))
			return nil
		},
	}
	c.Flags().StringVar(&about.Title, "title", "", "what it is about")
	c.Flags().StringVar(&about.Told, "told", "", "what the person said")
	return c
}

// inCase opens the case for one piece of work.
func (a *app) inCase(do func(*casefile.Case) error) error {
	dir, err := a.needCase()
	if err != nil {
		return err
	}
	c, err := casefile.Load(dir, a.now)
	if err != nil {
		return err
	}
	return do(c)
}

// newCaseAdd is the command that copies evidence in: copied and not moved,
// because a log may still be written to.
func (a *app) newCaseAdd() *cobra.Command {
	return &cobra.Command{
		Use:     "add FILE...",
		Short:   "copies evidence into the case",
		Long:    "Copies files into the case's evidence folder. Exit status: 0 copied, 1 could not, 2 wrong call.",
		Example: "  hollowkey case add setup.log screenshot.png --case berth-17",
		Args:    cobra.MinimumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.inCase(func(c *casefile.Case) error {
				m, done, err := a.openNamedMachine()
				if err != nil {
					return err
				}
				defer done()
				q := a.question(nil, whyOptions{}, m)
				var files []string
				for _, name := range args {
					at, err := addEvidence(c.Dir, name, q)
					if err != nil {
						return err
					}
					a.say("%s\n", at)
					files = append(files, at)
				}
				if a.json {
					return printJSON(a.out, struct {
						Schema string   `json:"schema"`
						Files  []string `json:"files"` // as they lie in the case
					}{"hollowkey.case.add/1", files})
				}
				return nil
			})
		},
	}
}

// addEvidence copies a file into a case: one of this computer, or of the
// machine's own.
func addEvidence(dir, name string, q why.Question) (string, error) {
	if !q.OnMachine(name) {
		return casefile.AddEvidence(dir, name)
	}
	f, err := q.Open(name)
	if err != nil {
		return "", err
	}
	defer f.Close()
	return casefile.AddFrom(dir, name[strings.LastIndexByte(name, '\\')+1:], f)
}

// newCaseNote is the command that writes a note down.
func (a *app) newCaseNote() *cobra.Command {
	return &cobra.Command{
		Use:     "note TEXT",
		Short:   "writes a note into the case",
		Long:    "Writes a note with the time into case.yaml. Exit status: 0 written, 1 could not, 2 wrong call.",
		Example: "  hollowkey case note \"the user will be back at two\" --case berth-17",
		Args:    cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.inCase(func(c *casefile.Case) error { return c.Note(args[0]) })
		},
	}
}

// newCaseClose is the command that closes a case. Holds in force do not keep it
// from closing, but are told: a machine left in safe mode is found out weeks
// later.
func (a *app) newCaseClose() *cobra.Command {
	var outcome string
	c := &cobra.Command{
		Use:     "close --outcome TEXT",
		Short:   "closes the case with an outcome",
		Long:    "Closes the case. Holds that are still in force are told. Exit status: 0 closed, 1 could not, 2 wrong call.",
		Example: "  hollowkey case close --case berth-17 --outcome solved",
		Args:    cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if outcome == "" {
				return wrongCall("--outcome is missing\nhint: %s", a.suggestedOutcome())
			}
			return a.inCase(func(c *casefile.Case) error {
				if err := c.Close(outcome); err != nil {
					return err
				}
				a.teach(a.ctx, c.Dir)
				a.say("%s %s: %s\nTo hand it over: %s\n", a.style.good("CLOSED"), c.Title, outcome,
					a.style.key("hollowkey case report"+a.where()))
				return nil
			})
		},
	}
	c.Flags().StringVar(&outcome, "outcome", "", "how it ended: solved, unsolved, or a few words")
	return c
}

// suggestedOutcome says how a case seems to have ended.
func (a *app) suggestedOutcome() string {
	const any = "solved, unsolved, or a few words"
	dir, err := a.needCase()
	if err != nil {
		return any
	}
	attempts, err := casefile.Attempts(dir)
	switch {
	case err != nil || len(attempts) == 0:
		return any
	case attempts[len(attempts)-1].Verdict.Worked():
		return "--outcome solved, as the last attempt worked; or unsolved, or a few words"
	}
	return "--outcome unsolved, as the last attempt did not work; or solved, or a few words"
}

// caseResult is what case prints as JSON.
type caseResult struct {
	Schema   string              `json:"schema"`   // names the shape
	Folder   string              `json:"folder"`   // of the case
	About    *casefile.About     `json:"about"`    // nil when none was opened
	Verdicts []*verdict.Verdict  `json:"verdicts"` // oldest first
	Attempts []*casefile.Attempt `json:"attempts"` // oldest first
	Changes  any                 `json:"changes"`  // as journal --json has them
	Holds    []string            `json:"holds"`    // still in force
	Commands []casefile.Command  `json:"commands"` // as they were typed
	Next     string              `json:"next"`     // the command to type next
}

// caseStand reads the case; opening its journal on the machine settles what a
// crash left open.
func (a *app) caseStand(m machine.Machine) (casefile.Stand, error) {
	dir, err := a.needCase()
	if err != nil {
		return casefile.Stand{}, err
	}
	if _, err := os.Stat(dir); err != nil {
		return casefile.Stand{}, fmt.Errorf("%w\nhint: hollowkey case open --case %s", err, quoteArgument(dir))
	}
	var j *fix.Journal
	if m != nil {
		j, err = a.openJournal(m)
	} else {
		j, err = fix.ShowJournal(dir, a.now)
	}
	if err != nil {
		return casefile.Stand{}, err
	}
	return casefile.StandOf(dir, j, a.now)
}

// caseNext says what to type next.
func (a *app) caseNext(st casefile.Stand) string {
	where := a.where()
	if st.About != nil && st.About.State == casefile.Closed {
		return ""
	}
	// In this order: what is half done is settled before anything new begins.
	if st.CutOff() {
		return "hollowkey undo" + where
	}
	if l, err := ladder.Kept(st.Folder); err == nil &&
		slices.ContainsFunc(l.Rungs, func(r ladder.Rung) bool { return r.State == ladder.Taken }) {
		return "hollowkey fix " + quoteArgument(l.Of) + where + " --ladder"
	}
	// An attempt says more than a verdict: it is what happens on this machine
	// now.
	if n := len(st.Attempts); n > 0 {
		last := st.Attempts[n-1]
		switch {
		case !last.Done:
			return "hollowkey retry" + where
		case last.Verdict != nil && last.Verdict.Worked():
			return "hollowkey case close --outcome solved" + a.where()
		}
		return "hollowkey fix" + where + " --preview"
	}
	switch {
	case slices.ContainsFunc(st.Journal.Items(),
		func(i fix.Item) bool { return i.Status == "done" || i.Status == "final" }) && len(st.Verdicts) > 0:
		return "hollowkey retry" + where
	case len(st.Verdicts) > 0 && st.Verdicts[len(st.Verdicts)-1].Worked():
		return "hollowkey case close --outcome solved" + a.where()
	case len(st.Verdicts) > 0 && st.Log() != "" && a.machine == "":
		return "hollowkey why" + a.whereToLook()
	case len(st.Verdicts) > 0 && st.Log() != "":
		return "hollowkey fix" + where + " --preview"
	}
	return "hollowkey why LOG" + where
}

// caseShow shows the stand of the case. The machine is only opened to settle
// what a crash left open, and a case without one is shown all the same.
func (a *app) caseShow() error {
	m, done, err := a.openNamedMachine()
	if err != nil {
		return err
	}
	defer done()
	st, err := a.caseStand(m)
	if err != nil {
		return err
	}
	if a.json {
		return printJSON(a.out, caseResult{"hollowkey.case/1", st.Folder, st.About, st.Verdicts, st.Attempts,
			journalJSON(st.Journal, st.Journal.Items()), st.Holds(), st.Commands, a.caseNext(st)})
	}
	_, err = io.WriteString(a.out, a.caseText(st))
	return err
}

// caseText is the stand in words, with what is to be done next as its last
// line.
func (a *app) caseText(st casefile.Stand) string {
	var b strings.Builder
	s := a.style
	title := filepath.Base(st.Folder)
	if st.About != nil {
		title = st.About.Title
		state := s.mind("OPEN")
		if st.About.State == casefile.Closed {
			state = s.good("CLOSED")
		}
		fmt.Fprintf(&b, "%s  %s\n", state, s.bold(title))
		item(&b, s, 0, 9, "told", st.About.Told)
		item(&b, s, 0, 9, "opened", st.About.Opened.Format("2006-01-02 15:04 UTC"))
		if st.About.Outcome != "" {
			item(&b, s, 0, 9, "outcome", st.About.Outcome)
		}
		for _, n := range st.About.Notes {
			item(&b, s, 0, 9, "note", n.Time.Format("15:04")+"  "+n.Text)
		}
	} else {
		fmt.Fprintf(&b, "%s\n", s.bold(title))
	}
	if n := len(st.Verdicts); n > 0 {
		v := st.Verdicts[n-1]
		fmt.Fprintf(&b, "\n%s\n", s.bold("The verdict"))
		b.WriteString(strings.Join(wrap(sentence(v.Cause.Summary), s.Width, 2, false), "\n") + "\n")
	}
	if len(st.Attempts) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("Attempts"))
		for _, t := range st.Attempts {
			b.WriteString(attemptLine(s, t))
		}
	}
	if items := st.Journal.Items(); len(items) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("Changes"))
		// What was taken back is of no more interest than that it was.
		if gone := len(items); gone > mostChanges {
			items = slices.DeleteFunc(items, func(i fix.Item) bool { return i.Status == "undone" })
			if gone -= len(items); gone > 0 {
				fmt.Fprintf(&b, "      %s undone: hollowkey journal%s\n", counted(gone, "change is", "changes are"), a.where())
			}
		}
		for _, i := range items {
			fmt.Fprintf(&b, "%4d  %s  %s\n", i.Change, pad(i.Status, 8), strings.Join(wrap(i.Step.Words(), s.Width, 16, true), "\n"))
			if i.Note != "" {
				b.WriteString(s.faint(strings.Join(wrap(i.Note, s.Width, 16, false), "\n")) + "\n")
			}
		}
	}
	if l, err := ladder.Kept(st.Folder); err == nil && len(l.Rungs) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("Ladder"))
		for i, r := range l.Rungs {
			if r.State != ladder.Waiting && r.State != ladder.Person {
				fmt.Fprintf(&b, "%4d  %s\n", i+1, strings.Join(wrap(string(r.State)+": "+r.Title, s.Width, 6, true), "\n"))
			}
		}
	}
	if n := len(st.Commands); n > 0 {
		last := st.Commands[n-1]
		fmt.Fprintf(&b, "\n%s %s, %s\n", s.faint("last typed:"), last.Time.Format("2006-01-02 15:04 UTC"),
			s.fit("hollowkey "+strings.Join(last.Args, " "), s.Width-36))
	}
	// The last line of the screen is the one that is read.
	if next := a.caseNext(st); next != "" {
		fmt.Fprintf(&b, "\n%s\n  %s\n", s.bold("Next:"), s.key(next))
	}
	return b.String()
}

// mostChanges is how many changes of a case are all listed; of more those that
// were undone are only counted.
const mostChanges = 8

// attemptLine is one attempt in one line. One that was cut off has no end, and
// is not called failed.
func attemptLine(s Style, t *casefile.Attempt) string {
	how := "on " + t.Machine
	if t.Rehearsal {
		how = "rehearsed"
	}
	switch {
	case !t.Done:
		return fmt.Sprintf("%4d  %s  %s, %s: it was cut off, its end is not known\n", t.Number, s.mind(pad("?", 8)), t.Time.Format("15:04"), how)
	case t.Verdict != nil && t.Verdict.Worked():
		return fmt.Sprintf("%4d  %s  %s, %s: exit code %d\n", t.Number, s.good(pad("worked", 8)), t.Time.Format("15:04"), how, t.Exit)
	}
	where := ""
	if t.Verdict != nil && t.Verdict.BrokeAt.Action != nil {
		where = " at " + *t.Verdict.BrokeAt.Action
	}
	return fmt.Sprintf("%4d  %s  %s, %s: exit code %d%s (%s)\n", t.Number, s.bad(pad("failed", 8)), t.Time.Format("15:04"), how, t.Exit,
		where, t.Compared)
}
