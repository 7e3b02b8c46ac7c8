// This file takes a twin of this computer, on which all other commands then
// work without touching it.

package cli

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/machine/capture"
)

// newCapture is the command that takes a twin. It is the only one whose machine
// is most often live, so what it could not read is told at once, not later on a
// computer that cannot reach the machine any more.
func (a *app) newCapture() *cobra.Command {
	var opt capture.Options
	c := &cobra.Command{
		Use:   "capture FOLDER",
		Short: "takes a twin of a machine, for work elsewhere",
		Long: `Takes what diagnosis needs of a machine into a new folder: facts, services, the registry
parts that setups touch, access lists, names and sizes of files (not their contents).
The twin opens with every command. --mask replaces the user's name, the machine's name
and the domain's security ID by tokens, the same everywhere.

It reads the machine only. What cannot be read is told, and the rest goes on. Exit status:
0 taken, 1 could not, 2 wrong call.`,
		Example: "  hollowkey capture ELLERY-D07 --machine live\n" +
			"  hollowkey capture masked --machine live --mask --key 'HKLM\\SOFTWARE\\Saltmarsh Quay'",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			m, done, err := a.openMachine()
			if err != nil {
				return err
			}
			defer done()
			rep, err := capture.Take(m, args[0], opt)
			if err != nil {
				return err
			}
			if a.json {
				return printJSON(a.out, struct {
					Schema string         `json:"schema"`
					Twin   string         `json:"twin"`
					Report capture.Report `json:"report"`
				}{"hollowkey.capture/2", args[0], rep})
			}
			var b strings.Builder
			s := a.style
			fmt.Fprintf(&b, "%s %s: %d registry keys with %d values, %d services, %d folders, %d file names.\n", s.good("TAKEN"), args[0],
				rep.Keys, rep.Values, rep.Services, rep.Folders, rep.Files)
			for kind, n := range rep.Masked {
				fmt.Fprintf(&b, "  masked: %s (%d)\n", kind, n)
			}
			for i, t := range rep.Skipped {
				if i == 8 {
					fmt.Fprintf(&b, "  … %d more could not be read\n", len(rep.Skipped)-i)
					break
				}
				item(&b, s, 2, 9, "skipped", t)
			}
			fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey ready --machine "+quoteArgument(args[0])))
			_, err = io.WriteString(a.out, b.String())
			return err
		},
	}
	c.Flags().StringArrayVar(&opt.Keys, "key", nil, "also this registry key with all below it (may be repeated)")
	c.Flags().StringArrayVar(&opt.Folders, "folder", nil, "also this folder's access list and file names (may be repeated)")
	c.Flags().BoolVar(&opt.Mask, "mask", false, "replace private names by tokens")
	return c
}
