// This file checks a machine before a setup runs. Its findings have the same
// thresholds as the verdict's, since one room asks both.

package cli

import (
	"bytes"
	"cmp"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/bounded"
	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/package/choose"
	"hollowkey/core/record/casefile"
	"hollowkey/core/record/readiness"
	"hollowkey/core/step"
	"hollowkey/core/why/checks"
)

type readyOptions struct {
	needs, user string // file of a site's needs, as whom
	reader      string // of the page that is written
	out         output // the page
	all         bool   // the checks that pass, too
}

// bind gives the command its options.
func (o *readyOptions) bind(c *cobra.Command) {
	c.Flags().StringVar(&o.needs, "needs", "", "a site's needs, a YAML file")
	c.Flags().StringVar(&o.user, "user", "", "whose folders and rights count (else the user who is signed in)")
}

// newReady is the command that checks a machine before a setup.
func (a *app) newReady() *cobra.Command {
	var opt readyOptions
	c := &cobra.Command{
		Use:   "ready [SETUP]",
		Short: "checks the machine before a setup, and says what would fix it",
		Long: `Checks whether a machine is fit for a setup: pending restart, another installation, the
installer service, free space, folders and their rights, PATH, shell folders, policies,
cached packages. With a setup also whether its file is whole, its conditions, and the
space that it needs; of a folder with several the one for this machine is picked. With
--needs a site's own needs. Each check is pass, warn, stop or unknown, with the value seen.

It reads only; ready mend fixes what stops. --out writes a page: .html, .md or .json.
Exit status: 0 ready, 1 could not, 2 wrong call, 3 something stops.`,
		Example: "  hollowkey ready --machine ELLERY-D07\n  hollowkey ready planner.msi --machine ELLERY-D07 --needs site.yaml\n" +
			"  hollowkey ready --machine ELLERY-D07 --for user --out ready.html\n  hollowkey ready mend --machine ELLERY-D07 --preview",
		Args: cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			if !slices.Contains(readiness.Readers, readiness.For(opt.reader)) {
				return wrongCall("--for %q is neither user nor administrator", opt.reader)
			}
			return a.onMachine(func(m machine.Machine, _ *fix.Journal) error {
				res, steps, err := a.checked(m, args, opt)
				if err != nil {
					return err
				}
				return a.ready(res, args, opt, len(steps))
			})
		},
	}
	opt.bind(c)
	c.Flags().BoolVar(&opt.all, "all", false, "show the checks that pass, too")
	c.Flags().StringVar(&opt.reader, "for", string(readiness.Administrator), "whom the page is for: user or administrator")
	opt.out.bind(c, "write a page to this file: .html, .md or .json")
	c.AddCommand(a.newReadyMend())
	return c
}

// newReadyMend is the command that fixes what stops.
func (a *app) newReadyMend() *cobra.Command {
	var opt readyOptions
	var ok consent
	c := &cobra.Command{
		Use:   "mend [SETUP]",
		Short: "fixes what stops, as far as steps are known: previewed, with undo",
		Long: `Makes the checks of ready, and takes the steps that fix those that stop. What is a mere
warning is left as it is. Shows the steps first and asks.

Exit status: 0 ready, or fixed, 1 could not, 2 wrong call, 3 something still stops.`,
		Example: "  hollowkey ready mend --machine ELLERY-D07 --preview\n  hollowkey ready mend planner.msi --machine ELLERY-D07",
		Args:    cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, _ *fix.Journal) error {
				res, steps, err := a.checked(m, args, opt)
				if err != nil {
					return err
				}
				return a.readyMend(m, res, args, opt, steps, planHow{consent: ok})
			})
		},
	}
	opt.bind(c)
	ok.bind(c)
	return c
}

type readyResult struct {
	Schema  string             `json:"schema"`            // names the shape
	Machine string             `json:"machine"`           // its name
	Ready   bool               `json:"ready"`             // nothing stops
	File    string             `json:"file,omitempty"`    // the setup file that was looked at
	Others  []choose.Candidate `json:"setups"`            // of the folder that was given, the chosen first
	Checks  []checks.Finding   `json:"checks"`            // in the order in which they were asked
	Plan    *fix.Plan          `json:"plan,omitempty"`    // of mend; null where no step is known
	Applied bool               `json:"applied,omitempty"` // it was carried out
}

// checked asks all checks, and gives the steps that would fix those that stop.
// Steps of a mere warning are not among them: a machine that is ready is left
// alone.
func (a *app) checked(m machine.Machine, args []string, opt readyOptions) (res readyResult, steps []step.Model, err error) {
	o := checks.Options{User: opt.user}
	res = readyResult{Schema: "hollowkey.ready/2", Machine: m.Name(), Ready: true, Others: []choose.Candidate{}}
	if opt.needs != "" {
		b, err := bounded.ReadFile(opt.needs, checks.MaxNeeds)
		if err != nil {
			return res, nil, err
		}
		if o.Needs, err = checks.ReadNeeds(opt.needs, b); err != nil {
			return res, nil, err
		}
	}
	if len(args) > 0 {
		setup, err := choose.Open(args[0], m, true)
		if err != nil {
			return res, nil, err
		}
		defer setup.Close()
		o.Setup(setup)
		res.File = setup.Path
		res.Others = append(res.Others, setup.Others...)
	}
	res.Checks = checks.Ready(m, o)
	// Only what stops a setup is mended; warnings are a person's to weigh.
	for _, c := range res.Checks {
		if c.Answer == checks.Stop {
			res.Ready = false
			steps = append(steps, c.Steps...)
		}
	}
	return res, steps, a.keepReady(res)
}

// keepReady keeps the result in the case, when one is open.
func (a *app) keepReady(res readyResult) error {
	dir, ok := a.openCase()
	if !ok {
		return nil
	}
	var b bytes.Buffer
	if err := printJSON(&b, res); err != nil {
		return err
	}
	return casefile.Put(dir, "ready.json", b.Bytes())
}

// ready shows the checks, and writes the page.
func (a *app) ready(res readyResult, args []string, opt readyOptions, steps int) error {
	if opt.out.name != "" {
		if err := a.readyPage(res, opt); err != nil {
			return err
		}
	}
	var err error
	switch {
	case a.json:
		err = printJSON(a.out, res)
	default:
		err = a.readyText(res, args, opt, steps)
	}
	if err == nil && opt.out.name != "" && !a.json {
		fmt.Fprintf(a.out, "\n%s %s\n", a.style.good("WRITTEN"), opt.out.name)
	}
	if err == nil && !res.Ready {
		return errNo
	}
	return err
}

// readyPage writes the page in the form that its ending names.
func (a *app) readyPage(res readyResult, opt readyOptions) error {
	page := readiness.Make(readiness.Input{Machine: res.Machine, Setup: res.File, Checks: res.Checks,
		Made: a.now()}, readiness.For(opt.reader))
	forms := map[string]func(io.Writer) error{
		".html": func(w io.Writer) error { return readiness.HTML(w, page) },
		".md":   func(w io.Writer) error { return readiness.Markdown(w, page) },
		".json": func(w io.Writer) error { return printJSON(w, res) },
	}
	form := forms[strings.ToLower(filepath.Ext(opt.out.name))]
	if form == nil {
		return wrongCall("--out %s: its ending is none of .html, .md and .json", opt.out.name)
	}
	return opt.out.write(opt.out.name, form)
}

// readyMend takes the steps.
func (a *app) readyMend(m machine.Machine, res readyResult, args []string, opt readyOptions, steps []step.Model, how planHow) error {
	again := quoteAll(args) + a.readyAgain(opt)
	if !a.json {
		if err := a.readyText(res, args, opt, 0); err != nil {
			return err
		}
	}
	if len(steps) > 0 {
		plan, err := fix.Draft(m, "make the machine ready", steps)
		if err != nil {
			return err
		}
		res.Plan = &plan
		how.again, how.after = "hollowkey ready mend"+again, "Now check again: hollowkey ready"+again
		if res.Applied, err = a.carryOut(m, plan, how); err != nil {
			return err
		}
	}
	if a.json {
		if err := printJSON(a.out, res); err != nil {
			return err
		}
	}
	if !res.Ready && !res.Applied {
		return errNo
	}
	return nil
}

// readyAgain are the options that this call had, for the command printed next.
func (a *app) readyAgain(opt readyOptions) (text string) {
	text = a.where()
	if opt.needs != "" {
		text += " --needs " + quoteArgument(opt.needs)
	}
	if opt.user != "" {
		text += " --user " + quoteArgument(opt.user)
	}
	return text
}

// readyText tells the sum first and then the checks, those that stop before all
// others, each with what mends it.
func (a *app) readyText(res readyResult, args []string, opt readyOptions, steps int) error {
	var b strings.Builder
	s := a.style
	n := map[checks.State]int{}
	widest := 0
	for _, c := range res.Checks {
		n[c.Answer]++
		widest = max(widest, len(c.Name))
	}
	word := s.good("READY")
	if !res.Ready {
		word = s.bad("NOT READY")
	}
	sum := fmt.Sprintf("%s: %d blocking, %s, %d unknown, %d passed.", res.Machine, n[checks.Stop],
		counted(n[checks.Warn], "warning", "warnings"), n[checks.Unknown], n[checks.Pass])
	fmt.Fprintf(&b, "%s  %s\n\n", word, s.bold(sum))
	readySetups(&b, s, res.Others)
	const words = 9 // columns: "unknown", the longest answer, and two blanks
	gates := false
	// What stops comes first; what passed is counted, and shown on request.
	for _, answer := range []checks.State{checks.Stop, checks.Warn, checks.Unknown, checks.Pass} {
		set := map[checks.State]func(string) string{checks.Stop: s.bad, checks.Warn: s.mind, checks.Unknown: s.mind, checks.Pass: s.good}[answer]
		for _, c := range res.Checks {
			if c.Answer != answer || answer == checks.Pass && !opt.all {
				continue
			}
			name := string(answer)
			if answer == checks.Stop {
				name = "STOP"
			}
			lines := wrap(c.Seen, s.Width, words+widest+2, true)
			fmt.Fprintf(&b, "%s%s  %s\n", set(pad(name, words)), pad(c.Name, widest), strings.Join(lines, "\n"))
			if c.Mend != "" {
				for _, l := range wrap("→ "+c.Mend, s.Width, words+widest+2, false) {
					fmt.Fprintln(&b, s.faint(l))
				}
			}
			if c.Command != nil { // never wrapped, so that it can be pasted
				fmt.Fprintf(&b, "  %s\n", s.key(programName+quoteAll(c.Command)+a.where()))
			}
			gates = gates || answer == checks.Stop && strings.HasPrefix(c.Name, checks.OfPackage)
		}
	}
	if gates {
		fmt.Fprintf(&b, "\nAll ways to let the package pass: %s\n", s.key("hollowkey package gates "+quoteArgument(res.File)+a.where()))
	}
	if steps > 0 {
		fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey ready mend"+quoteAll(args)+a.readyAgain(opt)+" --preview"))
	}
	_, err := io.WriteString(a.out, b.String())
	return err
}

// readySetups tells which of a folder's setups was picked and why, and what
// speaks against each of the others.
func readySetups(b *strings.Builder, s Style, list []choose.Candidate) {
	if len(list) == 0 {
		return
	}
	const names = 9 // columns of the heading before each file's name
	name := func(c choose.Candidate) string { return c.Path[strings.LastIndexAny(c.Path, `\/`)+1:] }
	why := strings.Join(slices.Concat(list[0].Against, list[0].For), "; ")
	if why == "" {
		why = "the newest that nothing speaks against"
	}
	item(b, s, 0, names, "picked", name(list[0])+": "+why)
	for _, c := range list[1:] {
		why := strings.Join(c.Against, "; ")
		if c.Fits {
			why = cmp.Or(strings.Join(c.For, "; "), "it would do, too") + ", " + c.Version
		}
		item(b, s, 0, names, "not", name(c)+": "+why)
	}
	b.WriteString("\n")
}
