// Package cli is the command line of hollowkey: it reads flags, makes one call
// into the core, and prints what comes back.
package cli

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"hollowkey/core/bounded"
	"hollowkey/core/fix"
	"hollowkey/core/record/casefile"
	"hollowkey/core/why"
)

// The exit statuses; scripts depend on them.
const (
	exitDone    = 0
	exitCould   = 1   // could not do it
	exitCall    = 2   // wrong call
	exitAnswer  = 3   // done, and the answer is "no"
	exitStopped = 130 // interrupted, as shells have it
	hintPrefix  = "hint: "
	programName = "hollowkey"
)

// An app is one run of the program: its streams and what holds for every
// command.
type app struct {
	ctx      context.Context  // ends when the person interrupts the program
	in       io.Reader        // for answers, and for a log from a pipe
	typed    *bufio.Reader    // over in, for answers; nil before the first question
	out, err io.Writer        // results, and everything else
	now      func() time.Time // the clock, which tests set

	machine string // twin folder or "live"
	caseDir string // empty: beside the twin
	ofCase  bool   // the machine is the case's twin, so that --case names it too
	opened  bool   // this call opened that case

	misnamed error    // a call for help with a word that is no command
	json     bool     // results as JSON
	noColor  bool     // never colour
	width    int      // columns; 0: the terminal's
	quiet    bool     // errors alone
	written  *counter // what went out, where JSON is asked for
	style    Style    // made of the above

	cases    string    // folder in which cases lie; empty for none
	store    string    // of many logs, which learns from cases; empty for none
	siteKey  string    // file with the key of machines' pseudonyms; empty for none
	settings []setting // where each is from
}

// errNo says that a command did its work and the answer is "no".
var errNo = errors.New("the answer is no")

// A callError is a wrong call of a command.
type callError struct{ error }

// Unwrap gives what was wrong with the call.
func (e callError) Unwrap() error { return e.error }

// wrongCall makes an error of the wording of a call, which ends with 2.
func wrongCall(format string, args ...any) error { return callError{fmt.Errorf(format, args...)} }

// Main runs the program with the given arguments and gives its exit status.
func Main(args []string, in io.Reader, out, errOut io.Writer) int {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	a := &app{ctx: ctx, in: in, out: out, err: errOut, now: time.Now}
	root := a.root()
	root.SetArgs(numbersApart(args))
	err := cmp.Or(root.ExecuteContext(ctx), a.misnamed)
	a.remind()
	exit := a.status(err)
	a.tellNewCase(exit)
	if a.json || slices.Contains(args, "--json") && a.written == nil {
		if a.written == nil { // the call was wrong before anything began
			a.written = &counter{Writer: a.out}
		}
		a.endJSON(err, exit)
	}
	if dir, ok := a.openCase(); ok {
		if err := casefile.Record(dir, a.now(), args, exit); err != nil {
			a.complain(err)
		}
	}
	return exit
}

// opensCase are the commands that open the case which --case names where there
// is none yet; the others only look at one.
var opensCase = []string{"why", "fix", "retry", "ready", "guide", "rehearse"}

// openNewCase opens the case that a call names, so that nobody has to
// beforehand.
func (a *app) openNewCase(c *cobra.Command) error {
	first := strings.Fields(c.CommandPath())
	if a.caseDir == "" || casefile.Exists(a.caseDir) || len(first) < 2 || !slices.Contains(opensCase, first[1]) {
		return nil
	}
	if _, err := os.Stat(a.caseDir); err == nil { // a folder that is no case, such as a machine's own
		return nil
	}
	about := casefile.About{Title: filepath.Base(a.caseDir)}
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
	if _, err := casefile.Make(a.caseDir, about, a.now); err != nil {
		return err
	}
	a.opened = true
	return nil
}

// tellNewCase tells of a case that this call opened; a call that was wrong, or
// could do nothing, leaves none behind.
func (a *app) tellNewCase(exit int) {
	switch {
	case !a.opened:
	case (exit == exitCall || exit == exitCould) && casefile.Discard(a.caseDir):
	case !a.quiet && !a.json: // whoever reads JSON named the case
		fmt.Fprintf(a.err, "A case is opened: %s\n", clean(a.caseDir))
	}
}

// Commands are all commands, for whoever writes pages of them; calling one does
// nothing.
func Commands() *cobra.Command {
	return (&app{ctx: context.Background(), in: strings.NewReader(""), out: io.Discard, err: io.Discard, now: time.Now}).root()
}

// status turns the end of a command into its exit status, and tells of a
// failure. It is the only place that decides this.
func (a *app) status(err error) int {
	var call callError
	switch {
	case err == nil:
		return exitDone
	case errors.Is(err, errNo):
		return exitAnswer
	case errors.As(err, &call), errors.Is(err, why.ErrCall):
		a.complain(err)
		return exitCall
	case errors.Is(err, errStopped):
		fmt.Fprintln(a.err, "Stopped. Nothing was changed.")
		return exitStopped
	case errors.Is(err, context.Canceled):
		fmt.Fprintln(a.err, "Stopped.")
		return exitStopped
	}
	a.complain(err)
	return exitCould
}

// remind shows the holds that are in force, when the call named a machine or a
// case.
func (a *app) remind() {
	if a.quiet {
		return
	}
	var j *fix.Journal
	var err error
	switch {
	case a.machine != "":
		j, err = a.readJournal()
	case a.caseDir != "":
		j, err = fix.ShowJournal(a.caseDir, a.now)
	default:
		return
	}
	if err == nil {
		a.showHolds(j)
	}
}

// endJSON ends a call that printed no JSON, though it was asked for: an error,
// or a "no".
func (a *app) endJSON(err error, exit int) {
	if a.written == nil || a.written.n > 0 {
		return
	}
	if err == nil {
		if bad := printJSON(a.out, finished{"hollowkey.done/1", true}); bad != nil {
			a.complain(bad)
		}
		return
	}
	text, hint, _ := strings.Cut(bounded.Words(err), "\n"+hintPrefix)
	if bad := printJSON(a.out, failure{"hollowkey.error/1", clean(text), clean(hint), exit}); bad != nil {
		a.complain(bad)
	}
}

// A finished is the end of a call that has nothing to tell.
type finished struct {
	Schema string `json:"schema"` // names the shape
	Done   bool   `json:"done"`   // true
}

// say prints a text for people; where JSON is asked for it is left out.
func (a *app) say(format string, args ...any) {
	if !a.json {
		fmt.Fprintf(a.out, format, args...)
	}
}

// A failure is how a call ended that has nothing else to print.
type failure struct {
	Schema string `json:"schema"`      // names the shape
	Error  string `json:"error"`       // what, where, why
	Hint   string `json:"hint"`        // what to do next; may be empty
	Exit   int    `json:"exit_status"` // of the program
}

// A counter counts what is written through it.
type counter struct {
	io.Writer
	n int // bytes
}

// Write writes and counts.
func (c *counter) Write(p []byte) (int, error) {
	n, err := c.Writer.Write(p)
	c.n += n
	return n, err
}

// complain prints an error, and what to do about it on a line of its own.
func (a *app) complain(err error) {
	text, hint, _ := strings.Cut(bounded.Words(err), "\n"+hintPrefix)
	fmt.Fprintf(a.err, "%s: %s\n", programName, clean(text))
	if hint != "" {
		fmt.Fprintf(a.err, "%s%s\n", hintPrefix, clean(hint))
	}
}

// refuseWrongCalls makes what cobra refuses a wrong call: flags that it cannot
// read, arguments and groups of flags that do not fit.
func refuseWrongCalls(c *cobra.Command) {
	c.SetFlagErrorFunc(flagError)
	fits := c.Args
	if fits == nil {
		fits = cobra.ArbitraryArgs
	}
	c.Args = func(c *cobra.Command, args []string) error {
		for _, check := range []func() error{func() error { return countOfArguments(c, args) }, func() error { return optionsFit(c) }} {
			if err := check(); err != nil {
				return err
			}
		}
		for _, check := range []func() error{func() error { return fits(c, args) }, c.ValidateRequiredFlags, c.ValidateFlagGroups} {
			if err := check(); err != nil {
				return callError{err}
			}
		}
		return nil
	}
	for _, sub := range c.Commands() {
		refuseWrongCalls(sub)
	}
}

// inOurWords words the command that the package makes by itself as ours are.
func inOurWords(root *cobra.Command) {
	root.InitDefaultCompletionCmd()
	for _, c := range root.Commands() {
		if c.Name() != "completion" {
			continue
		}
		c.Short = "writes the script by which a shell completes commands, options and names"
		c.Long = "Prints the script for one shell; " + programName + " completion SHELL --help tells how to load it."
		for _, sub := range c.Commands() {
			sub.Short = "the script for " + sub.Name()
		}
	}
}

// root makes the command with all of its subcommands and the options that they
// share. Errors and usage are printed by us: the package's own way prints the
// whole usage after each error, so that the error scrolls off the screen.
func (a *app) root() *cobra.Command {
	cobra.MousetrapHelpText = "" // a double click in Explorer shows the help, too
	root := &cobra.Command{
		Use:   programName,
		Short: "says why a setup failed, and fixes it",
		Long: `Reads the log of a setup that failed, says what broke and why with the lines that
prove it, shows the smallest fix, applies it and can undo it.

Start with:  hollowkey why setup.log

Called alone on a terminal, it asks what failed and walks you through it.

To see it end to end on made-up data:  hollowkey demo`,
		SilenceErrors: true,
		SilenceUsage:  true,
		Args:          needSubcommand,
		Version:       versionText(),
		PersistentPreRunE: func(c *cobra.Command, _ []string) error {
			// Before anything else: what the call does not say comes from the
			// environment and the user's file.
			if err := a.settle(c); err != nil {
				return err
			}
			if a.width != 0 && (a.width < 40 || a.width > 400) {
				return wrongCall("--width %d is not between 40 and 400", a.width)
			}
			a.style = newStyle(a.out, a.noColor || a.json, a.width)
			if err := cmp.Or(a.openNewCase(c), a.takeFromCase(c)); err != nil {
				return err
			}
			if a.quiet && !a.json {
				a.out = io.Discard
			}
			// How much was written tells later whether an error still needs an
			// object of its own.
			if a.json {
				a.written = &counter{Writer: a.out}
				a.out = a.written
			} else { // JSON escapes what it must by itself
				a.out = &safe{w: a.out}
			}
			return nil
		},
		RunE: func(c *cobra.Command, _ []string) error {
			if a.onTerminal() {
				return a.guide(c.Context(), guideOptions{})
			}
			return c.Help()
		},
	}
	root.SetHelpFunc(func(c *cobra.Command, _ []string) {
		if words := c.Flags().Args(); c.HasSubCommands() && len(words) > 0 { // of a word that is no command there is no help
			a.misnamed = unknownCommand(c, words[0])
			return
		}
		a.help(c)
	})
	root.SetHelpCommand(&cobra.Command{Use: "help [COMMAND]...", Short: "explains a command", Hidden: true, RunE: func(_ *cobra.Command, words []string) error {
		c, rest, err := root.Find(words)
		if err == nil && len(rest) > 0 && c.HasSubCommands() {
			err = unknownCommand(c, rest[0])
		}
		if err != nil {
			return err
		}
		return c.Help()
	}})
	root.SetVersionTemplate("{{.Version}}\n")
	root.SetOut(a.out)
	root.SetErr(a.err)
	root.SetIn(a.in)
	flags := root.PersistentFlags()
	flags.StringVar(&a.machine, "machine", "", "the machine to look at or change: live, or a twin's folder")
	flags.StringVar(&a.caseDir, "case", "", "folder that keeps everything about this failed setup")
	flags.BoolVar(&a.json, "json", false, "print the result as JSON")
	flags.BoolVar(&a.quiet, "quiet", false, "print nothing but errors and questions; the exit status tells")
	flags.BoolVar(&a.noColor, "no-color", false, "no colours (as NO_COLOR does)")
	flags.IntVar(&a.width, "width", 0, "columns to use (40 to 400; else the terminal's, 100 at most)")
	root.AddCommand(a.newGuide(), a.newDemo(), a.newLogs(), a.newWhy(), a.newTrail(), a.newCode(), a.newSigns(),
		a.newPackage(), a.newFix(), a.newUndo(),
		a.newJournal(), a.newCapture(), a.newReady(), a.newProducts(), a.newCache(), a.newLeftovers(),
		a.newStartup(), a.newRehearse(), a.newRetry(), a.newCase(),
		a.newGather(), a.newTriage(), a.newConfig(), a.newVersion())
	a.completeAll(root)
	inOurWords(root)
	refuseWrongCalls(root)
	return root
}
