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

	"hollowkey/core/confirm"
	"hollowkey/core/machine"
	"hollowkey/core/signs"
	"hollowkey/core/story/dialects"
	"hollowkey/core/textfile"
	"hollowkey/core/verdict"
)

// whyOptions are what why and fix need to reach a verdict.
type whyOptions struct {
	signs    string
	encoding string
}

func (o *whyOptions) bind(c *cobra.Command) {
	c.Flags().StringVar(&o.signs, "signs", "", "folder with the site's own signs, read beside the built-in ones")
	c.Flags().StringVar(&o.encoding, "encoding", "detect", "encoding of the log, when it is told wrongly: UTF-8, UTF-16LE, CP1252 …")
}

func (a *app) newWhy() *cobra.Command {
	var opt whyOptions
	var said string
	var exit int
	c := &cobra.Command{
		Use:   "why LOG|FOLDER...",
		Short: "says why the set-up failed, with the lines that prove it",
		Long: `Reads the log of a set-up and says how it ended, what broke first, why, which lines
prove it, and what puts it right. With --machine it also looks there whether the
cause is really so. Several logs, or a folder, are taken for the logs of one attempt
(a bootstrapper's and those of its packages, for instance) and judged together.

It changes nothing. Exit status: 0 the set-up worked (a restart may be due), 1 the
file could not be read or is no set-up log, 2 wrong call, 3 the set-up did not work.`,
		Example: "  hollowkey why setup.log\n  hollowkey why setup.log --machine ELLERY-D07\n  hollowkey why setup.log --json\n  hollowkey why bundle.log package.log\n  hollowkey why --said 'Error 1327. Invalid Drive: Z:' --machine ELLERY-D07\n  hollowkey why --exit 1603",
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) == 0 && said == "" && !c.Flags().Changed("exit") {
				return wrongCall("requires at least 1 arg: a log, or --said or --exit\nhint: hollowkey logs finds logs")
			}
			var m machine.Machine
			if a.machine != "" {
				var closeMachine func()
				var err error
				if m, closeMachine, err = a.openMachine(); err != nil {
					return err
				}
				defer closeMachine()
			}
			var v *verdict.Verdict
			var err error
			if len(args) == 0 {
				v, err = a.saidVerdict(said, exitOption(c, exit), opt, m)
			} else {
				v, err = a.verdict(c.Context(), args, opt, m)
			}
			if err != nil {
				return err
			}
			if len(args) > 0 && (said != "" || c.Flags().Changed("exit")) {
				v.Compare(said, exitOption(c, exit))
			}
			if a.json {
				err = printJSON(a.out, v)
			} else {
				err = verdictText(a.out, a.style, v, a.nextCommands(v, args))
			}
			if err == nil && !v.Worked() {
				return errNo
			}
			return err
		},
	}
	opt.bind(c)
	c.Flags().StringVar(&said, "said", "", "what a dialog said, word for word; without a log, or beside one")
	c.Flags().IntVar(&exit, "exit", 0, "the number that the set-up ended with; without a log, or beside one")
	return c
}

func exitOption(c *cobra.Command, exit int) *int {
	if !c.Flags().Changed("exit") {
		return nil
	}
	return &exit
}

// saidVerdict judges without a log.
func (a *app) saidVerdict(said string, exit *int, opt whyOptions, m machine.Machine) (*verdict.Verdict, error) {
	o := verdict.Options{}
	var err error
	if m != nil {
		o.Machine = confirm.On(m)
	}
	if opt.signs != "" {
		if o.Signs, err = signs.WithSite(opt.signs); err != nil {
			return nil, err
		}
	}
	return verdict.Said(said, exit, o)
}

// verdict reads the logs and judges them, on a machine if one is named.
func (a *app) verdict(ctx context.Context, logs []string, opt whyOptions, m machine.Machine) (*verdict.Verdict, error) {
	enc, err := textfile.ParseEncoding(opt.encoding)
	if err != nil {
		return nil, callError{err}
	}
	o := verdict.Options{Reading: textfile.Options{Encoding: enc}}
	if m != nil {
		o.Machine = confirm.On(m)
	}
	if opt.signs != "" {
		if o.Signs, err = signs.WithSite(opt.signs); err != nil {
			return nil, err
		}
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
	if len(ins) == 1 && !folder {
		v, err := verdict.Reach(ctx, ins[0], o)
		return v, explainNoLog(err)
	}
	v, err := verdict.ReachAll(ctx, ins, folder, o)
	return v, explainNoLog(err)
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
		return fmt.Errorf("%w\nhint: if it is a package, see hollowkey package; %s", err, verbose)
	case errors.Is(err, dialects.ErrNoLog):
		return fmt.Errorf("%w\nhint: %s", err, verbose)
	}
	return err
}
