// This file reads and mends the engine's copies of what is installed. What is
// put back is found by its content, so a person may point at a whole share and
// need not know file names.

package cli

import (
	"cmp"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/package/cached"
	"hollowkey/core/step"
)

// newCache is the command that reads the engine's cache. It lists only what is
// not good, since a healthy machine has hundreds of entries that nobody asked
// for; --all shows them too.
func (a *app) newCache() *cobra.Command {
	var all, asCSV bool
	c := &cobra.Command{
		Use:   "cache",
		Short: "finds missing or damaged cached packages and patches, and restores them",
		Long: `Reads which products and patches the installer engine has registered, and looks at the
copy of each that it keeps for repair and uninstall: there, readable, the very package or
patch. Those that are not good are listed with what to look for.

It reads only. Exit status: 0 all are good, 1 could not, 2 wrong call, 3 some are not.`,
		Example: "  hollowkey cache --machine ELLERY-D07\n  hollowkey cache restore --from share --machine ELLERY-D07 --preview",
		Args:    needSubcommand,
		RunE: func(*cobra.Command, []string) error {
			m, done, err := a.openMachine()
			if err != nil {
				return err
			}
			defer done()
			list, err := cached.Read(m)
			if err != nil {
				return err
			}
			if a.json {
				err = printJSON(a.out, struct {
					Schema  string         `json:"schema"`
					Machine string         `json:"machine"`
					Entries []cached.Entry `json:"entries"`
				}{"hollowkey.cache/1", m.Name(), append([]cached.Entry{}, list...)})
			} else if asCSV {
				rows := [][]string{{"state", "kind", "name", "version", "code", "package_code", "file", "source", "detail"}}
				for _, e := range list {
					rows = append(rows,
						[]string{string(e.State), string(e.Kind), e.Name, e.Version, e.Code, e.PackageCode, e.File,
							strings.TrimRight(e.Source, `\`) + backslash(e.SourceName), e.Detail})
				}
				err = a.printCSV(rows)
			} else {
				err = a.cacheText(list, m.Name(), all)
			}
			if err == nil && len(bad(list)) > 0 {
				err = errNo
			}
			return err
		},
	}
	c.Flags().BoolVar(&all, "all", false, "show the good ones, too")
	bindCSV(c, &asCSV)
	c.AddCommand(a.newCacheRestore())
	return c
}

// bad are the entries whose cached file is not good.
func bad(list []cached.Entry) (out []cached.Entry) {
	for _, e := range list {
		if !e.Fine() {
			out = append(out, e)
		}
	}
	return out
}

// cacheText tells how many are registered and how many are not good, each of
// those with what a person would look for: codes first, as names lie.
func (a *app) cacheText(list []cached.Entry, on string, all bool) error {
	var b strings.Builder
	s := a.style
	missing := bad(list)
	fmt.Fprintf(&b, "%s\n", s.bold(fmt.Sprintf("%s: %s registered; %s.", on,
		counted(len(list), "product or patch is", "products and patches are"),
		counted(len(missing), "cached file is not good", "cached files are not good"))))
	for _, e := range list {
		if e.State == cached.Good && !all {
			continue
		}
		cacheEntry(&b, s, e)
	}
	if len(missing) > 0 {
		fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey cache restore --from FOLDER"+a.where()+" --preview"))
	}
	_, err := io.WriteString(a.out, b.String())
	return err
}

// cacheEntry writes one product or patch. The source is shown even where it is
// gone: it says which share to ask for.
func cacheEntry(b *strings.Builder, s Style, e cached.Entry) {
	word := s.bad(strings.ToUpper(string(e.State)))
	if e.State == cached.Good {
		word = s.good(string(e.State))
	}
	fmt.Fprintf(b, "\n%s  %s  %s\n", word, e.Kind, s.bold(s.fit(strings.TrimSpace(cmp.Or(e.Name, e.Code)+" "+e.Version), s.Width-24)))
	row := func(name, text string) { item(b, s, 2, 14, name, text) }
	row("of", e.Of)
	row("why", e.Detail)
	row("cached file", e.File)
	row("code", e.Code)
	if e.Kind == cached.Product {
		row("package code", e.PackageCode)
	}
	row("information", e.Info)
	if e.Superseded {
		row("needed", "hardly: a later patch does its work; only removing that one would ask for it")
	}
	row("came from", strings.TrimRight(e.Source, `\`)+backslash(e.SourceName))
}

// backslash puts a stroke before a name, so that an absent one leaves none
// behind the folder.
func backslash(name string) string {
	if name == "" {
		return ""
	}
	return `\` + name
}

type restoreResult struct {
	Schema  string                   `json:"schema"`            // names the shape
	Machine string                   `json:"machine"`           // its name
	Found   map[string]cached.Source `json:"found"`             // by product or patch code
	Still   []cached.Entry           `json:"still_missing"`     // those that are still not good
	Skipped []string                 `json:"skipped,omitempty"` // files that could not be read, and why
	Plan    fix.Plan                 `json:"plan"`              // one copy for each file that was found
	Applied bool                     `json:"applied"`           // it was carried out
}

// newCacheRestore is the command that puts packages back. --from has no
// default: the place that the engine last installed from may hold another
// package of the same name.
func (a *app) newCacheRestore() *cobra.Command {
	var from, only []string
	var ok consent
	c := &cobra.Command{
		Use:   "restore --from FOLDER...",
		Short: "puts the very same packages and patches back into the cache",
		Long: `Searches folders and files for the packages and patches whose cached copy is not good:
by package code and patch code, never by name alone; setup programs, cabinets and zips
are looked into. Shows what it found, asks, copies, and looks again. What is in the way is
set aside and comes back with undo.

Exit status: 0 restored or previewed, 1 could not, 2 wrong call, 3 some are still missing.`,
		Example: "  hollowkey cache restore --from share --machine ELLERY-D07 --preview\n" +
			"  hollowkey cache restore --from updates --from setup.exe --machine ELLERY-D07 --yes",
		Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if len(from) == 0 {
				return wrongCall("--from is missing\nhint: name the folder or file to search")
			}
			m, done, err := a.openMachine()
			if err != nil {
				return err
			}
			defer done()
			return a.restore(m, from, only, planHow{consent: ok,
				again: "hollowkey cache restore" + repeated("from", from) + repeated("code", only) + a.where(),
				after: "Now run the repair, update or uninstall again."})
		},
	}
	c.Flags().StringArrayVar(&from, "from", nil, "folder or file to search (may be repeated)")
	c.Flags().StringArrayVar(&only, "code", nil, "only the product or patch with this code (may be repeated)")
	ok.bind(c)
	return c
}

// repeated writes an option once for each of its values, for the command that
// is printed to be run next.
func repeated(name string, values []string) (text string) {
	for _, v := range values {
		text += " --" + name + " " + quoteArgument(v)
	}
	return text
}

// restore finds the files, drafts one copy for each entry and goes the way of
// all plans. What was not found is told and makes the exit status 3, even where
// other files were restored.
func (a *app) restore(m machine.Machine, from, only []string, how planHow) error {
	list, err := cached.Read(m)
	if err != nil {
		return err
	}
	wanted := bad(list)
	if len(only) > 0 {
		wanted = slices.DeleteFunc(wanted, func(e cached.Entry) bool {
			return !slices.ContainsFunc(only, func(c string) bool { return strings.EqualFold(c, e.Code) })
		})
	}
	res := restoreResult{Schema: "hollowkey.cache.restore/1", Machine: m.Name()}
	if res.Found, res.Skipped, err = cached.Search(from, wanted, a.search); err != nil {
		return err
	}
	var steps []step.Model
	for _, e := range wanted {
		src, ok := res.Found[e.Code]
		if !ok {
			res.Still = append(res.Still, e)
			continue
		}
		own, err := e.Steps(m, list, src)
		if err != nil {
			return err
		}
		steps = append(steps, own...)
	}
	if !a.json {
		a.restoreText(res, wanted)
	}
	if res.Plan, err = fix.Draft(m, "restore cached packages", steps); err != nil {
		return err
	}
	if len(steps) > 0 {
		if res.Applied, err = a.carryOut(m, res.Plan, how); err != nil {
			return err
		}
	}
	// What is left is read from the machine again, not worked out from the
	// plan.
	if res.Applied {
		again, err := cached.Read(m)
		if err != nil {
			return err
		}
		res.Still = bad(again)
	}
	if a.json {
		if err := printJSON(a.out, res); err != nil {
			return err
		}
	}
	if len(res.Still) > 0 {
		return errNo
	}
	return nil
}

// restoreText tells what was found and what is still to be fetched.
func (a *app) restoreText(res restoreResult, wanted []cached.Entry) {
	var b strings.Builder
	s := a.style
	if len(wanted) == 0 {
		b.WriteString("Every cached file is good; there is nothing to restore.\n")
	}
	for _, e := range wanted {
		src, ok := res.Found[e.Code]
		name := strings.TrimSpace(cmp.Or(e.Name, e.Code) + " " + e.Version)
		if !ok {
			fmt.Fprintf(&b, "%s  %s %s\n", s.mind("not found"), e.Kind, s.bold(s.fit(name, s.Width-24)))
			item(&b, s, 2, 9, "fetch", strings.TrimSpace(cmp.Or(e.SourceName, "the "+string(e.Kind))+" with the code "+
				cmp.Or(e.PackageCode, e.Code)))
			continue
		}
		fmt.Fprintf(&b, "%s      %s %s\n", s.good("found"), e.Kind, s.bold(s.fit(name, s.Width-24)))
		at := src.Path
		if src.Inside != "" {
			at += ", inside: " + src.Inside
		}
		item(&b, s, 2, 9, "at", fmt.Sprintf("%s, %s", at, bytesText(src.Size)))
		item(&b, s, 2, 9, "code", src.Code)
		item(&b, s, 2, 9, "sha256", src.Hash)
		item(&b, s, 2, 9, "proof", "not proven to be the vendor's: its codes fit, which anybody can write; its signature is not looked at")
	}
	// A share has many files that cannot be read; a few show what is meant.
	for i, t := range res.Skipped {
		if i == 5 {
			fmt.Fprintf(&b, "  … %d more could not be read\n", len(res.Skipped)-i)
			break
		}
		item(&b, s, 2, 9, "skipped", t)
	}
	io.WriteString(a.out, b.String())
}
