package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"github.com/spf13/cobra"

	"hollowkey/core/logs/mask"
	"hollowkey/core/logs/trail"
	"hollowkey/core/machine"
	"hollowkey/core/record/report"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
)

type reportOptions struct {
	out      string
	markdown bool
	names    bool
}

func (a *app) newCaseReport() *cobra.Command {
	var opt reportOptions
	c := &cobra.Command{
		Use:   "report [LOG]",
		Short: "writes the page of the case, to be handed on",
		Long: `Writes report.html into the case: three plain sentences for the person who asked, verdict
and evidence, a picture of the set-up over time, attempts side by side, every change with
before and after, holds still in force, facts of the machine. One file, no scripts; it
prints well. Users, machines, security IDs, mail addresses and secrets are masked; --names
leaves names in. Without attempts or verdicts in the case, name the LOG.

Exit status: 0 written, 1 could not, 2 wrong call.`,
		Example: "  hollowkey case report --machine ELLERY-D07\n  hollowkey case report tidebook.log --machine ELLERY-D07 --markdown --out tidebook.md",
		Args:    cobra.MaximumNArgs(1),
		RunE:    func(c *cobra.Command, args []string) error { return a.report(c.Context(), args, opt) },
	}
	c.Flags().StringVar(&opt.out, "out", "", "write it to this file (else report.html or report.md in the case)")
	c.Flags().BoolVar(&opt.markdown, "markdown", false, "as Markdown")
	c.Flags().BoolVar(&opt.names, "names", false, "leave names in; for use within the house")
	return c
}

func (a *app) report(ctx context.Context, args []string, opt reportOptions) error {
	st, err := a.caseStand()
	if err != nil {
		return err
	}
	in := report.Input{Title: filepath.Base(st.Folder), About: st.About, Attempts: st.Attempts, Changes: st.journal.Items(), Holds: st.journal.Holds("", ""), Made: a.now()}
	if st.About != nil {
		in.Title = st.About.Title
	}
	var m machine.Machine
	if a.machine != "" {
		open, done, err := a.openMachine()
		if err != nil {
			return err
		}
		defer done()
		facts := open.Facts()
		m, in.Facts, in.Machine, in.Who = open, &facts, open.Name(), open
	}
	log, err := a.reportVerdict(ctx, &in, st, args, m)
	if err != nil {
		return err
	}
	if in.Trail, err = a.reportTrail(ctx, log, in.Verdict); err != nil {
		return err
	}
	if st.About == nil && in.Verdict != nil && in.Verdict.Product.Name != nil {
		in.Title = *in.Verdict.Product.Name
		if !in.Verdict.Worked() {
			in.Title += " does not install"
		}
	}
	if !opt.names {
		in.Mask = a.masker(m, st, log)
	}
	name := first(opt.out, filepath.Join(st.Folder, map[bool]string{true: "report.md", false: "report.html"}[opt.markdown]))
	f, err := os.Create(name + ".new")
	if err != nil {
		return err
	}
	p := report.Make(in)
	if opt.markdown {
		err = report.Markdown(f, p)
	} else {
		err = report.HTML(f, p)
	}
	if err = errors.Join(err, f.Close()); err != nil {
		os.Remove(name + ".new")
		return err
	}
	if err := os.Rename(name+".new", name); err != nil {
		return err
	}
	if a.json {
		return printJSON(a.out, struct {
			Schema string `json:"schema"`
			File   string `json:"file"`
			report.Page
		}{"hollowkey.report/1", name, p})
	}
	fmt.Fprintf(a.out, "%s %s\n", a.style.good("WRITTEN"), name)
	return nil
}

// reportVerdict finds the verdict that the page is about: of the log that is
// named, the case's last one, or that of the first attempt that failed.
func (a *app) reportVerdict(ctx context.Context, in *report.Input, st caseStand, args []string, m machine.Machine) (log string, err error) {
	if len(args) > 0 {
		for _, v := range st.Verdicts { // as it was reached before anything was changed
			if len(v.Logs) > 0 && filepath.Base(v.Logs[0].File) == filepath.Base(args[0]) {
				in.Verdict = v
				return args[0], nil
			}
		}
		in.Verdict, err = a.judge(ctx, args, whyOptions{}, m)
		return args[0], err
	}
	if n := len(st.Verdicts); n > 0 {
		in.Verdict = st.Verdicts[n-1]
		for _, v := range slices.Backward(st.Verdicts) {
			if !v.Worked() {
				in.Verdict = v
				break
			}
		}
		if len(in.Verdict.Logs) > 0 {
			log = in.Verdict.Logs[0].File
			if kept := filepath.Join(st.Folder, "evidence", filepath.Base(log)); fileThere(kept) {
				log = kept
			}
		}
		return log, nil
	}
	for _, t := range slices.Backward(st.Attempts) {
		if t.Verdict != nil && (in.Verdict == nil || in.Verdict.Worked()) {
			in.Verdict, log = t.Verdict, t.LogPath(st.Folder)
		}
	}
	return log, nil
}

func fileThere(name string) bool {
	_, err := os.Stat(name)
	return err == nil
}

// reportTrail walks along the log; a log that is not there any more gives none.
func (a *app) reportTrail(ctx context.Context, log string, v *verdict.Verdict) (*trail.Trail, error) {
	if log == "" || v == nil {
		return nil, nil
	}
	if !fileThere(log) {
		return nil, nil
	}
	return why.TrailOf(ctx, log, v, trail.Options{})
}

// masker knows the names that the machine and the case's logs tell.
func (a *app) masker(m machine.Machine, st caseStand, logs ...string) *mask.Masker {
	var users, hosts []string
	if m != nil {
		hosts = append(hosts, m.Name())
		if list, err := m.UserNames(); err == nil {
			users = append(users, list...)
		}
	}
	if st.About != nil {
		hosts = append(hosts, st.About.Machine)
	}
	for _, t := range st.Attempts {
		logs = append(logs, t.LogPath(st.Folder))
		hosts, users = append(hosts, t.Machine), append(users, t.User)
	}
	k := mask.New(users, hosts)
	for _, l := range logs {
		if f, err := os.Open(l); err == nil {
			_ = k.LearnFrom(f) // what cannot be read adds no names
			f.Close()
		}
	}
	return k
}
