// This file lists and extracts what is inside of a package or setup program,
// without running it.

package cli

import (
	"cmp"
	"fmt"
	"io"
	"path"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/package/unpack"
)

// newUnpack is the command that lists and extracts what is inside of a file.
func (a *app) newUnpack() *cobra.Command {
	var into string
	var only []string
	c := &cobra.Command{
		Use:   "unpack FILE|FOLDER",
		Short: "lists and extracts what is inside: files, streams, carried packages, patches",
		Long: `Lists what a package, patch, cabinet, zip, setup program or unpacked update folder
holds: files of embedded cabinets and of those beside it, Binary rows, embedded
transforms, packages and cabinets that a setup program carries. With --into it extracts
them into a folder; no path leads out of it, and nothing there is overwritten.

Exit status: 0 listed or extracted, 1 could not, 2 wrong call, 3 nothing is inside, or
nothing fits --only.`,
		Example: "  hollowkey package unpack planner.msi\n  hollowkey package unpack setup.exe --into inside\n" +
			"  hollowkey package unpack planner.msi --only 'binary/*' --into inside",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			for _, p := range only {
				if _, err := path.Match(p, ""); err != nil {
					return wrongCall("--only %q: %v", p, err)
				}
			}
			list, err := unpack.List(args[0])
			if err != nil {
				return err
			}
			want := func(i unpack.Item) bool { return wanted(i, only) }
			var chosen []unpack.Item
			total := int64(0)
			for _, i := range list {
				if want(i) {
					chosen = append(chosen, i)
					total += i.Size
				}
			}
			if into != "" && len(chosen) > 0 {
				p := a.progress(total)
				chosen, err = unpack.Extract(args[0], into, want, p.add)
				p.stop()
				if err != nil {
					return err
				}
			}
			if a.json {
				err = printJSON(a.out, struct {
					Schema string        `json:"schema"`
					File   string        `json:"file"`
					Into   string        `json:"into,omitempty"`
					Items  []unpack.Item `json:"items"`
				}{"hollowkey.package.unpack/1", args[0], into, append([]unpack.Item{}, chosen...)})
			} else {
				err = unpackText(a.out, a.style, chosen, args[0], into)
			}
			if err == nil && len(chosen) == 0 {
				return errNo
			}
			return err
		},
	}
	c.Flags().StringVar(&into, "into", "", "extract into this folder")
	c.Flags().StringArrayVar(&only, "only", nil, "only items whose path fits this pattern, such as 'binary/*' or '*.msi' (may be repeated)")
	return c
}

// wanted says whether an item fits one of the patterns: its whole path, its
// name, or a folder above it.
func wanted(i unpack.Item, only []string) bool {
	for _, p := range only {
		for at := i.Path; at != "." && at != "/"; at = path.Dir(at) {
			if ok, _ := path.Match(strings.ToLower(p), strings.ToLower(at)); ok {
				return true
			}
		}
		if ok, _ := path.Match(strings.ToLower(p), strings.ToLower(path.Base(i.Path))); ok {
			return true
		}
	}
	return len(only) == 0
}

// unpackText lists the items with their sizes and where they lie, then the sum.
func unpackText(w io.Writer, s Style, items []unpack.Item, file, into string) error {
	var b strings.Builder
	rows := [][]string{{"what", "size", "path", "where"}}
	total := int64(0)
	for _, i := range items {
		where := cmp.Or(i.About, i.Where)
		rows = append(rows, []string{string(i.Kind), bytesText(i.Size), i.Path, where})
		total += i.Size
	}
	if len(items) == 0 {
		b.WriteString("Nothing inside fits.\n")
	} else {
		grid(&b, s, 0, rows)
		fmt.Fprintf(&b, "\n%s, %s", count(len(items), "item"), bytesText(total))
		if into != "" {
			fmt.Fprintf(&b, ", extracted into %s\n", into)
		} else {
			fmt.Fprintf(&b, ". To extract:\n%s\n", s.key("  hollowkey package unpack "+quoteArgument(file)+" --into inside"))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}
