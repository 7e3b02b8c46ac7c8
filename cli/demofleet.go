// This file is the part of the demo about many logs.

package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/demo/fleetlogs"
)

// fleetMarker is the file by which a folder is known for a fleet's demo, which
// may replace it.
const fleetMarker = "made-by-hollowkey-demo-fleet.txt"

type fleetDemo struct {
	Schema string `json:"schema"` // names the shape
	Folder string `json:"folder"` // where it lies
	Logs   int    `json:"logs"`   // that were made
	Store  string `json:"store"`
	Page   string `json:"page"`
}

// newDemoFleet is the demo of many logs.
func (a *app) newDemoFleet() *cobra.Command {
	into := ""
	c := &cobra.Command{
		Use:   "fleet",
		Short: "makes the logs of forty made-up desktops, on which a rollout fails, and asks them",
		Long: `Makes some 300 logs of forty made-up desktops: two weeks as usual, and a rollout on a
Tuesday that fails on most of them. Reads them into a store, asks which causes there are and
what is new, learns from two cases what helped, and writes the page.

It writes only into the demo's own folder (--into), and replaces what an earlier demo left
there. Exit status: 0 done, 1 could not, 2 wrong call.`,
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if err := clearFleet(into); err != nil {
				return err
			}
			made, err := fleetlogs.Rollout(filepath.Join(into, "logs"))
			if err != nil {
				return err
			}
			d := fleetDemo{"hollowkey.demo.fleet/1", into, len(made), filepath.Join(into, "fleet.db"), filepath.Join(into, "fleet.html")}
			if err := a.askFleet(d, made); err != nil {
				return err
			}
			if a.json {
				return printJSON(a.out, d)
			}
			return nil
		},
	}
	c.Flags().StringVar(&into, "into", "hollowkey-fleet", "folder to lay it out in")
	return c
}

// clearFleet makes the demo's folder anew, and refuses one that is not its own.
func clearFleet(into string) error {
	entries, err := os.ReadDir(into)
	switch {
	case errors.Is(err, fs.ErrNotExist):
	case err != nil:
		return err
	case len(entries) > 0:
		if _, err := os.Stat(filepath.Join(into, fleetMarker)); err != nil {
			return fmt.Errorf("%s holds something else than a demo\nhint: name another folder: hollowkey demo fleet --into FOLDER", into)
		}
	}
	for _, name := range []string{"logs", "fleet.db", "fleet.db-wal", "fleet.db-shm", "fleet.html"} {
		if err := os.RemoveAll(filepath.Join(into, name)); err != nil {
			return err
		}
	}
	if err := os.MkdirAll(filepath.Join(into, "logs"), 0o755); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(into, fleetMarker), []byte("hollowkey demo fleet may replace what it made here\n"), 0o644)
}

// askFleet runs the commands that a person would type, and shows them.
func (a *app) askFleet(d fleetDemo, made []fleetlogs.Log) error {
	// One log of the week in question, to be asked about by itself.
	sample := ""
	for _, l := range made {
		if l.Day.Truncate(24*60*60*1e9).Equal(fleetlogs.Tuesday) && l.Cause != "" && !strings.Contains(l.Path, "!") {
			sample = filepath.Join(d.Folder, "logs", filepath.FromSlash(l.Path))
		}
	}
	tuesday := fleetlogs.Tuesday.Format("2006-01-02")
	out := a.out
	if a.json {
		out = a.err
	}
	for _, step := range []struct {
		what string
		args []string
	}{
		{"Forty desktops of Port Ellery; their logs lie in a folder or a zip each. All are read:",
			[]string{"triage", "add", filepath.Join(d.Folder, "logs"), "--store", d.Store}},
		{"What failed in the week, and on how many desktops?", []string{"triage", "top", "--days", "7", "--limit", "5", "--store", d.Store}},
		{"What is new since the rollout?", []string{"triage", "new", "--since", tuesday, "--store", d.Store}},
		{"One of these logs, with what is known here, and what helped in two cases:", []string{"why", sample, "--store", d.Store}},
		{"The page for the meeting:", []string{"triage", "page", "--days", "14", "--out", d.Page, "--replace", "--store", d.Store}},
	} {
		line := "hollowkey"
		for _, arg := range step.args {
			line += " " + quoteArgument(arg)
		}
		if a.json {
			step.args = append(step.args, "--quiet")
		} else {
			fmt.Fprintf(out, "%s\n%s\n\n", a.style.bold(step.what), a.style.key(line))
		}
		// The commands are run as a person would run them, through the
		// program's own entry.
		if code := Main(step.args, a.in, out, a.err); code != exitDone && code != exitAnswer {
			return fmt.Errorf("%s: exit status %d", line, code)
		}
		fmt.Fprintln(out)
	}
	return nil
}
