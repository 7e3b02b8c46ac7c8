// This file is the workshop for what is known about failures, the site's own
// signs above all.

package cli

import (
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/step"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/workshop"
)

// newSigns is the workshop for what is known about failures: to read it, to try
// a site's own, and to begin a new one.
func (a *app) newSigns() *cobra.Command {
	c := &cobra.Command{
		Use:   "signs",
		Short: "what is known about failures: list, show, test, draft",
		Long: `A sign is one piece of knowledge about failures: by what it is seen, what it means,
and how to fix it. A site can have its own in a folder of YAML files, beside the
built-in ones: named with --signs, in the environment variable ` + signs.FolderVariable + `,
or lying in the standing folder
  ` + signs.StandingFolder() + `

docs/signs.md shows what a sign looks like, and a plain list of a vendor's numbers.`,
	}
	c.AddCommand(a.newSignsList(), a.newSignsShow(), a.newSignsTest(), a.newSignsDraft())
	return c
}

// knowledge reads the built-in signs and those of the site.
func knowledge(folder string) ([]*signs.Sign, error) {
	base, err := signs.BuiltIn()
	if err != nil {
		return nil, err
	}
	if folder = signs.Folder(folder); folder == "" {
		return base.Signs, nil
	}
	site, err := signs.WithSite(folder)
	if err != nil {
		return nil, err
	}
	own := slices.DeleteFunc(slices.Clone(site.Signs), func(s *signs.Sign) bool { return !s.Own() })
	return append(own, slices.DeleteFunc(base.Signs, func(s *signs.Sign) bool {
		return slices.ContainsFunc(own, func(o *signs.Sign) bool { return o.ID == s.ID })
	})...), nil
}

// A signLine is a sign in a list.
type signLine struct {
	ID    string `json:"id"`
	Class string `json:"class"`
	Title string `json:"title"`
	From  string `json:"from"` // its file, or that it is built in
}

// lineOfSign is a row of the list: what a title takes from a log is shown as an
// ellipsis there.
func lineOfSign(s *signs.Sign) signLine {
	title, _ := signs.Fill(s.Title, nil)
	return signLine{s.ID, s.Class, strings.ReplaceAll(title, "?", "…"), s.From()}
}

// newSignsList is the command that lists what is known.
func (a *app) newSignsList() *cobra.Command {
	var folder string
	c := &cobra.Command{
		Use:   "list [WORD...]",
		Short: "lists what is known, the site's own first",
		Long: `Lists all signs, or those in whose ID, class, title or patterns all the words stand.

It reads and changes nothing. Exit status: 0 listed, 3 none fits.`,
		Example: "  hollowkey signs list\n  hollowkey signs list service logon",
		RunE: func(_ *cobra.Command, words []string) error {
			all, err := knowledge(folder)
			if err != nil {
				return err
			}
			found := []signLine{}
			for _, s := range all {
				if text := strings.ToLower(s.Text()); !slices.ContainsFunc(words,
					func(w string) bool { return !strings.Contains(text, strings.ToLower(w)) }) {
					found = append(found, lineOfSign(s))
				}
			}
			if a.json {
				err = printJSON(a.out, struct {
					Schema string     `json:"schema"`
					Signs  []signLine `json:"signs"`
				}{"hollowkey.signs/1", found})
			} else {
				err = a.signTable(found, len(all))
			}
			if err == nil && len(found) == 0 {
				return errNo
			}
			return err
		},
	}
	c.Flags().StringVar(&folder, "signs", "", "folder with the site's own signs")
	return c
}

// signTable prints the list as a table; the site's own signs are marked, since
// they go before ours.
func (a *app) signTable(found []signLine, all int) error {
	var b strings.Builder
	rows := [][]string{{"sign", "cause", "what it says"}}
	for _, s := range found {
		title := s.Title
		if s.From != "built in" {
			title = "(" + s.From + ") " + title
		}
		rows = append(rows, []string{s.ID, s.Class, title})
	}
	if len(found) > 0 {
		grid(&b, a.style, 0, rows)
		b.WriteString("\n")
	}
	fmt.Fprintf(&b, "%d of %d signs; one of them whole: %s signs show ID\n", len(found), all, programName)
	_, err := a.out.Write([]byte(b.String()))
	return err
}

// newSignsShow is the command that shows one sign whole.
func (a *app) newSignsShow() *cobra.Command {
	var folder string
	c := &cobra.Command{
		Use:   "show ID",
		Short: "shows one sign whole: by what it is seen, and on what it was tried",
		Long: `Shows a sign as it is written, in YAML: patterns, checks, remedies, and the excerpts
that it must match and must not match.

It reads and changes nothing. Exit status: 0 shown, 1 there is no such sign.`,
		Example: "  hollowkey signs show shell-folder-drive-missing",
		Args:    cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			all, err := knowledge(folder)
			if err != nil {
				return err
			}
			i := slices.IndexFunc(all, func(s *signs.Sign) bool { return strings.EqualFold(s.ID, args[0]) })
			if i < 0 {
				hint := programName + " signs list WORD finds signs by their words"
				var ids []string
				for _, s := range all {
					ids = append(ids, s.ID)
				}
				if near := step.Nearest(args[0], ids); near != "" {
					hint = "did you mean " + near + "? " + hint
				}
				return fmt.Errorf("there is no sign %q\nhint: %s", args[0], hint)
			}
			if a.json {
				return printJSON(a.out, struct {
					Schema string      `json:"schema"`
					From   string      `json:"from"`
					Sign   *signs.Sign `json:"sign"`
				}{"hollowkey.sign/1", all[i].From(), all[i]})
			}
			text, err := all[i].YAML()
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(a.out, "# %s\n%s", all[i].From(), cleanLines(text))
			return err
		},
	}
	c.Flags().StringVar(&folder, "signs", "", "folder with the site's own signs")
	return c
}

// cleanLines is clean for a text of several lines.
func cleanLines(text string) string {
	lines := strings.SplitAfter(text, "\n")
	for i, l := range lines {
		body, ended := strings.CutSuffix(l, "\n")
		if lines[i] = clean(body); ended {
			lines[i] += "\n"
		}
	}
	return strings.Join(lines, "")
}

// newSignsTest is the command that tries a site's signs before they are used.
func (a *app) newSignsTest() *cobra.Command {
	return &cobra.Command{
		Use:   "test FOLDER",
		Short: "tries the signs of a folder on their excerpts, as strictly as ours",
		Long: `Shows each sign of the folder what it must match and what it must not, beside all
built-in signs, and looks whether the checks and steps that it names exist and what they
are filled with.

It changes nothing. Exit status: 0 all is well, 1 the folder cannot be read, 3 a sign
fails.`,
		Example: "  hollowkey signs test ./port-signs",
		Args:    cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			trials, err := workshop.TryFolder(c.Context(), args[0])
			if err != nil {
				return err
			}
			bad := 0
			for _, t := range trials {
				if len(t.Faults) > 0 {
					bad++
				}
			}
			if a.json {
				err = printJSON(a.out, struct {
					Schema string           `json:"schema"`
					Failed int              `json:"failed"`
					Signs  []workshop.Trial `json:"signs"`
				}{"hollowkey.signs-test/1", bad, trials})
			} else {
				err = a.trialText(trials, bad)
			}
			if err == nil && bad > 0 {
				return errNo
			}
			return err
		},
	}
}

// trialText prints how each sign fared; a fault stands below the sign that has
// it.
func (a *app) trialText(trials []workshop.Trial, bad int) error {
	var b strings.Builder
	for _, t := range trials {
		state := a.style.good("ok    ")
		if len(t.Faults) > 0 {
			state = a.style.bad("FAILS ")
		}
		fmt.Fprintf(&b, "%s %s\n", state, a.style.fit(fmt.Sprintf("%s  (%s, %d excerpts)", t.ID, t.From, t.Tries), a.style.Width-7))
		for _, f := range t.Faults {
			b.WriteString("       " + strings.Join(wrap(clean(f), a.style.Width, 7, true), "\n") + "\n")
		}
	}
	fmt.Fprintf(&b, "\n%d signs, %d fail\n", len(trials), bad)
	_, err := a.out.Write([]byte(b.String()))
	return err
}

// newSignsDraft is the command that begins a sign from a line.
func (a *app) newSignsDraft() *cobra.Command {
	var line int
	var out string
	c := &cobra.Command{
		Use:   "draft LOG --line N",
		Short: "begins a sign from a line of a log",
		Long: `Writes a sign for one line of a log, as YAML to standard output or into a new file: its
words as a pattern, what it names as captures, the line as what must match, and another
line of the log as what must not. What it means, and how to fix it, is yours to write.

Exit status: 0 written, 1 the line tells nothing, or the file is there already.`,
		Example: "  hollowkey signs draft setup.log --line 812 --out port-signs/licence.yaml",
		Args:    cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			m, done, err := a.openNamedMachine()
			if err != nil {
				return err
			}
			defer done()
			f, err := a.question(nil, whyOptions{}, m).Open(args[0])
			if err != nil {
				return err
			}
			defer f.Close()
			text, err := workshop.Draft(c.Context(), args[0], f, line)
			if err != nil {
				return err
			}
			if out == "" {
				_, err = fmt.Fprint(a.out, text)
				return err
			}
			return writeNew(out, text)
		},
	}
	c.Flags().IntVar(&line, "line", 0, "the line's number, as why and trail show it")
	c.Flags().StringVar(&out, "out", "", "new file to write, instead of standard output")
	if err := c.MarkFlagRequired("line"); err != nil {
		panic(err) // the flag stands two lines above
	}
	return c
}

// writeNew writes a file that is not there yet.
func writeNew(name, text string) error {
	f, err := os.OpenFile(name, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return fmt.Errorf("%w\nhint: name a file that is not there yet, in a folder that is", err)
	}
	if _, err = f.WriteString(text); err != nil {
		f.Close()
		return err
	}
	return f.Close()
}
