// This file packs what second-line support needs, with names masked. The
// preview comes from the same list as the zip, so that it cannot promise
// another one.

package cli

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"maps"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/bounded"
	"hollowkey/core/fix/checkpoint"
	"hollowkey/core/logs/mask"
	"hollowkey/core/logs/zipped"
	"hollowkey/core/machine"
	"hollowkey/core/record/gather"
	"hollowkey/core/why"
)

type gatherOptions struct {
	limit   int64    // MiB of logs of the machine; 0: all
	out     output   // where the zip goes
	preview bool     // list and write nothing
	names   []string // more names to mask
}

// newGather is the command that packs a zip for second-line support. --preview
// lists what would be in it, as nobody sends what they have not seen.
func (a *app) newGather() *cobra.Command {
	var opt gatherOptions
	c := &cobra.Command{
		Use:   "gather [LOG...]",
		Short: "packs logs, verdicts and facts into one zip, private data masked",
		Long: `Packs logs, and the case when one is named or there is one beside the twin, into a zip for
second-line support. With --machine logs may lie there (C:\Windows\Temp\setup.log, or a folder); without one
all logs that are found there are packed, with their folders: evidence, verdicts, journal, attempts, report, facts of the machine.
Users, machines, security IDs, mail addresses, serial numbers, passwords and tokens are
masked in all of it, the same one by the same token; UTF-16 logs stay UTF-16. A manifest
holds the hashes and what was masked, and, where a site's key is configured (site-key), a
pseudonym of the machine. Files that are no text are left out, and told.

Exit status: 0 written, 1 could not, 2 wrong call.`,
		Example: "  hollowkey gather setup.log --out support.zip\n  hollowkey gather --machine ELLERY-D07 --out support.zip",
		RunE:    func(c *cobra.Command, args []string) error { return a.gather(c.Context(), args, opt) },
	}
	opt.out.name = "hollowkey-gathered.zip"
	opt.out.bind(c, "the zip to write")
	c.Flags().BoolVar(&opt.preview, "preview", false, "only list what would be packed")
	c.Flags().Int64Var(&opt.limit, "limit", 0, "MiB of the machine's logs that are packed at most, the newest first (else all)")
	c.Flags().StringArrayVar(&opt.names, "hide", nil, "mask this name, too (may be repeated)")
	return c
}

// gather collects the names to be masked from machine and case first, and packs
// then, so that the first file is masked as well as the last one.
func (a *app) gather(ctx context.Context, logs []string, opt gatherOptions) error {
	m, done, err := a.openNamedMachine()
	if err != nil {
		return err
	}
	defer done()
	q := a.question(nil, whyOptions{}, m)
	here, there, folders, err := q.OnlyHere(logs)
	if err != nil {
		return err
	}
	names, _, err := why.Unfold(here)
	if err != nil {
		return err
	}
	// A zip's files were not masked by us, and to mask inside of it would be to
	// guess what it holds.
	for _, n := range names {
		if zip, _, is := zipped.Parts(n); is {
			return wrongCall("%s is a zip already\nhint: unpack it, and name the logs: they are masked one by one", zip)
		}
	}
	o := gather.Options{Logs: names, There: there, Machine: m, Now: a.now()}
	// Names are collected before anything is packed: one that only the last log
	// tells would else stand in the first.
	users, hosts := machine.PrivateNames(m)
	users = append(users, opt.names...)
	if a.caseDir != "" || a.machine != "" && a.machine != "live" {
		if _, err := os.Stat(a.caseFolder()); err == nil {
			o.Case = a.caseFolder()
		}
	}
	if m != nil && (len(logs) == 0 || len(folders) > 0) {
		found, err := why.Survey(ctx, why.DiskOf(m), folders, q)
		if err != nil {
			return err
		}
		for _, f := range found { // the newest first
			o.There = append(o.There, f.Path)
		}
		o.Limit = opt.limit << 20
	}
	if len(names)+len(o.There) == 0 && o.Case == "" {
		return wrongCall("there is nothing to pack\nhint: name logs, a machine with logs, or a case with --case")
	}
	if o.Key, err = siteKey(a.siteKey); err != nil {
		return err
	}
	if len(o.Key) > 0 {
		o.Name = a.ofMachine(ctx, m, append(slices.Clone(names), o.There...))
	}
	o.Mask = mask.New(users, hosts)
	if opt.preview {
		return a.gatherPreview(o)
	}
	var rep gather.Report
	err = opt.out.write(opt.out.name, func(w io.Writer) (err error) {
		rep, err = gather.Write(ctx, w, o)
		checkpoint.Reached("after-gather")
		return err
	})
	if err != nil {
		return err
	}
	if a.json {
		return printJSON(a.out, rep)
	}
	_, err = io.WriteString(a.out, a.gatherText(rep, opt.out.name))
	return err
}

// ofMachine is the name of the machine that logs are of: that of the machine at
// hand, else the one that a log tells.
func (a *app) ofMachine(ctx context.Context, m machine.Machine, logs []string) string {
	if m != nil {
		return m.Name()
	}
	for _, l := range logs[:min(len(logs), 20)] {
		if ans, err := why.Ask(ctx, a.question([]string{l}, whyOptions{}, m)); err == nil && ans.Verdict.Host.Name != "" {
			return ans.Verdict.Host.Name
		}
	}
	return ""
}

// leastKey is how many bytes a site's key has at least; a shorter one is
// guessed.
const leastKey = 16

// siteKey reads the key by which machines of a site get their pseudonyms; there
// may be none.
func siteKey(name string) ([]byte, error) {
	if name == "" {
		return nil, nil
	}
	b, err := bounded.ReadFile(name, 4<<10)
	if err != nil {
		return nil, fmt.Errorf("the site's key: %w", err)
	}
	if b = bytes.TrimSpace(b); len(b) < leastKey {
		return nil, fmt.Errorf("%s: a site's key has at least %d letters or figures that nobody guesses", name, leastKey)
	}
	return b, nil
}

// gatherPreview lists what would be packed and what would not, and writes
// nothing.
func (a *app) gatherPreview(o gather.Options) error {
	files, left, err := gather.Plan(o)
	if err != nil {
		return err
	}
	if a.json {
		return printJSON(a.out, gather.Report{Schema: gather.Schema, Made: o.Now, Files: files, LeftOut: left})
	}
	for _, f := range files {
		fmt.Fprintln(a.out, clean(f.Name))
	}
	for _, l := range left {
		fmt.Fprintf(a.out, "%s %s\n", a.style.mind("left out:"), clean(l))
	}
	return nil
}

// gatherText tells what was packed, what was masked and how often, and what was
// left out with its reason.
func (a *app) gatherText(r gather.Report, out string) string {
	var b strings.Builder
	s := a.style
	total := int64(0)
	for _, f := range r.Files {
		total += f.Size
	}
	fmt.Fprintf(&b, "%s %s: %s, %s before packing\n", s.good("WRITTEN"), out, counted(len(r.Files), "file", "files"), bytesText(total))
	if len(r.Masked) == 0 {
		b.WriteString("Nothing had to be masked.\n")
	} else {
		rows := [][]string{{"masked", "times"}}
		for _, k := range slices.Sorted(maps.Keys(r.Masked)) {
			rows = append(rows, []string{string(k), fmt.Sprint(r.Masked[k])})
		}
		b.WriteString("\n")
		grid(&b, s, 2, rows)
	}
	for _, l := range r.LeftOut {
		item(&b, s, 0, 10, "left out", l)
	}
	return b.String()
}
