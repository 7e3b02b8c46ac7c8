package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why/checks"
	"hollowkey/core/why/gatefix"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

const detectEncoding = "detect"

// whyOptions are what why and fix need to reach a verdict.
type whyOptions struct {
	signs    string
	encoding string
	said     string // what a dialog said
	exit     int    // what the set-up ended with
	hasExit  func() bool
}

func (o *whyOptions) bind(c *cobra.Command) {
	c.Flags().StringVar(&o.signs, "signs", "", "folder with the site's own signs, read beside the built-in ones")
	c.Flags().StringVar(&o.encoding, "encoding", detectEncoding, "encoding of the log, when it is told wrongly: UTF-8, UTF-16LE, CP1252 …")
	c.Flags().StringVar(&o.said, "said", "", "what a dialog said, word for word; without a log, or beside one")
	c.Flags().IntVar(&o.exit, "exit", 0, "the number that the set-up ended with; without a log, or beside one")
	o.hasExit = func() bool { return c.Flags().Changed("exit") }
}

// again are the options that a repeated call needs to come to the same verdict.
func (o whyOptions) again() (options string) {
	if o.signs != "" {
		options += " --signs " + quoteArgument(o.signs)
	}
	if o.encoding != detectEncoding {
		options += " --encoding " + quoteArgument(o.encoding)
	}
	if o.said != "" {
		options += " --said " + quoteArgument(o.said)
	}
	if o.hasExit != nil && o.hasExit() {
		options += fmt.Sprintf(" --exit %d", o.exit)
	}
	return options
}

func (a *app) newWhy() *cobra.Command {
	var opt whyOptions
	c := &cobra.Command{
		Use:   "why [LOG|FOLDER...]",
		Short: "says why the set-up failed, with the lines that prove it",
		Long: `Reads the log of a set-up and says how it ended, what broke first, why, which lines
prove it, and what puts it right. With --machine it also looks there whether the
cause is really so. Several logs, or a folder, are taken for the logs of one attempt
(a bootstrapper's and those of its packages, for instance) and judged together.

It changes nothing. Exit status: 0 the set-up worked (a restart may be due), 1 the
file could not be read or is no set-up log, 2 wrong call, 3 the set-up did not work.`,
		Example: "  hollowkey why setup.log\n  hollowkey why setup.log --machine ELLERY-D07\n  hollowkey why setup.log --json\n  hollowkey why bundle.log package.log\n  hollowkey why --said 'Error 1327. Invalid Drive: Z:' --machine ELLERY-D07\n  hollowkey why --exit 1603",
		RunE: func(c *cobra.Command, args []string) error {
			var m machine.Machine
			if a.machine != "" {
				var closeMachine func()
				var err error
				if m, closeMachine, err = a.openMachine(); err != nil {
					return err
				}
				defer closeMachine()
			}
			v, err := a.judge(c.Context(), args, opt, m)
			if err != nil {
				return err
			}
			if a.json {
				err = printJSON(a.out, v)
			} else {
				err = verdictText(a.out, a.style, v, a.nextCommands(v, args, opt))
			}
			if err == nil && !v.Worked() {
				return errNo
			}
			return err
		},
	}
	opt.bind(c)
	return c
}

// judge reaches a verdict from logs, from what was said, or from both.
func (a *app) judge(ctx context.Context, logs []string, opt whyOptions, m machine.Machine) (*verdict.Verdict, error) {
	var exit *int
	if opt.hasExit() {
		exit = &opt.exit
	}
	told := opt.said != "" || exit != nil
	switch {
	case len(logs) == 0 && !told:
		return nil, wrongCall("requires at least 1 arg: a log, or --said or --exit\nhint: hollowkey logs finds logs")
	case len(logs) == 0:
		o, err := opt.verdictOptions(m)
		if err != nil {
			return nil, err
		}
		v, err := verdict.Said(opt.said, exit, o)
		if err == nil {
			step.Order(v.Remedies)
		}
		return v, err
	}
	v, err := a.verdict(ctx, logs, opt, m)
	if err == nil && told {
		v.Compare(opt.said, exit)
	}
	return v, err
}

// verdictOptions are the options as the core takes them.
func (o whyOptions) verdictOptions(m machine.Machine) (out verdict.Options, err error) {
	if out.Reading.Encoding, err = textfile.ParseEncoding(o.encoding); err != nil {
		return out, callError{err}
	}
	if m != nil {
		out.Machine = checks.On(m)
	}
	if o.signs != "" {
		out.Signs, err = signs.WithSite(o.signs)
	}
	return out, err
}

// verdict reads the logs and judges them, on a machine if one is named.
func (a *app) verdict(ctx context.Context, logs []string, opt whyOptions, m machine.Machine) (*verdict.Verdict, error) {
	o, err := opt.verdictOptions(m)
	if err != nil {
		return nil, err
	}
	names, folder, err := expandLogs(logs)
	if err != nil {
		return nil, err
	}
	ins, closeAll, err := a.openLogs(names)
	if err != nil {
		return nil, err
	}
	defer closeAll()
	var v *verdict.Verdict
	if len(ins) == 1 && !folder {
		v, err = verdict.Reach(ctx, ins[0], o)
	} else {
		v, err = verdict.ReachAll(ctx, ins, folder, o)
	}
	if err == nil && m != nil {
		gatefix.Add(v, m)
	}
	if err == nil {
		step.Order(v.Remedies)
		err = a.keepInCase(names, v)
	}
	return v, explainNoLog(err)
}

// openCase is the folder of the case that was opened for this call's case or
// twin.
func (a *app) openCase() (dir string, ok bool) {
	if a.caseDir == "" && (a.machine == "" || a.machine == "live") {
		return "", false
	}
	dir = a.caseFolder()
	return dir, casefile.Exists(dir)
}

// keepInCase copies logs and verdict into the case, when one is open. What
// lies in the case is kept already, and its verdict with the attempt.
func (a *app) keepInCase(logs []string, v *verdict.Verdict) error {
	dir, ok := a.openCase()
	if !ok {
		return nil
	}
	for _, l := range logs {
		if rel, err := filepath.Rel(dir, l); err == nil && filepath.IsLocal(rel) || l == "-" {
			continue // it lies in the case
		}
		if _, err := casefile.AddEvidence(dir, l); err != nil {
			return err
		}
	}
	_, err := casefile.AddVerdict(dir, v)
	return err
}

const maxLogs = 200 // files of a folder that are looked into

// expandLogs puts the files of a folder in its place.
func expandLogs(args []string) (names []string, folder bool, err error) {
	for _, arg := range args {
		info, err := os.Stat(arg)
		if err != nil || !info.IsDir() {
			names = append(names, arg)
			continue
		}
		folder = true
		entries, err := os.ReadDir(arg)
		if err != nil {
			return nil, true, err
		}
		for _, e := range entries {
			if e.Type().IsRegular() && !strings.HasPrefix(e.Name(), ".") {
				names = append(names, filepath.Join(arg, e.Name()))
			}
		}
		if len(entries) == 0 {
			return nil, true, fmt.Errorf("%s: the folder is empty", arg)
		}
	}
	if len(names) > maxLogs {
		return nil, folder, fmt.Errorf("%d files are more than the %d that are read together\nhint: name the logs of one attempt", len(names), maxLogs)
	}
	return names, folder, nil
}

// openLogs opens the logs, with a progress bar over all of them.
func (a *app) openLogs(names []string) (ins []verdict.Input, closeAll func(), err error) {
	var files []*os.File
	total := int64(0)
	closeAll = func() {
		for _, f := range files {
			f.Close()
		}
	}
	for _, n := range names {
		f, err := openLog(n)
		if err != nil {
			closeAll()
			return nil, nil, err
		}
		if info, err := f.Stat(); err == nil {
			total += info.Size()
		}
		files = append(files, f)
	}
	bar := a.progress(total)
	for i, f := range files {
		ins = append(ins, verdict.Input{Name: names[i], Text: bar.reader(f)})
	}
	closing := closeAll
	closeAll = func() { bar.stop(); closing() }
	return ins, closeAll, nil
}

// openLog opens a log; a folder or a missing file is said to be one.
func openLog(name string) (*os.File, error) {
	f, err := os.Open(name)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return nil, fmt.Errorf("%s: there is no such file\nhint: look at the spelling, or at which folder you are in", name)
	case errors.Is(err, fs.ErrPermission):
		return nil, fmt.Errorf("%s: access is denied\nhint: copy the log to a folder of your own, or use an elevated prompt", name)
	case err != nil:
		return nil, err
	}
	if info, err := f.Stat(); err == nil && info.IsDir() {
		f.Close()
		return nil, fmt.Errorf("%s: this is a folder", name)
	}
	return f, nil
}

// explainNoLog adds what to do when a file is no set-up log.
func explainNoLog(err error) error {
	const verbose = "make a verbose log with: msiexec /i PACKAGE /l*v setup.log"
	switch {
	case errors.Is(err, dialects.ErrEmpty):
		return fmt.Errorf("%w\nhint: the set-up may still run, or may have had no right to write it; %s", err, verbose)
	case errors.Is(err, dialects.ErrBinary):
		return fmt.Errorf("%w\nhint: name the log that the set-up wrote, not the package; %s", err, verbose)
	case errors.Is(err, dialects.ErrNoLog):
		return fmt.Errorf("%w\nhint: %s", err, verbose)
	}
	return err
}
