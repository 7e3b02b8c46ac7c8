// This file lists the cases of a folder, for somebody who looks after many
// machines.

package cli

import (
	"cmp"
	"fmt"

	"github.com/spf13/cobra"

	"hollowkey/core/record/casefile"
)

// A listedCase is one row of case list.
type listedCase struct {
	Folder string `json:"folder"`
	casefile.About
}

// newCaseList is the command that lists the cases of a folder.
func (a *app) newCaseList() *cobra.Command {
	var asCSV bool
	c := &cobra.Command{
		Use:   "list [FOLDER]",
		Short: "lists the cases in a folder, the open ones first",
		Long: `Lists the cases that lie in FOLDER, else in the folder that the settings name, else in the
present one.

It reads only. Exit status: 0 listed, 1 could not, 2 wrong call, 3 there are none.`,
		Example: "  hollowkey case list cases",
		Args:    cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			root := cmp.Or(append(args, a.cases, ".")...)
			list, broken, err := casefile.List(root, a.now)
			if err != nil {
				return err
			}
			for _, b := range broken {
				a.complain(b)
			}
			out := []listedCase{}
			rows := [][]string{{"state", "opened (UTC)", "case", "machine", "about", "outcome"}}
			for _, c := range list {
				out = append(out, listedCase{c.Dir, c.About})
				rows = append(rows, []string{c.State, c.Opened.UTC().Format("2006-01-02 15:04"), c.Dir, c.Machine, c.Title, c.Outcome})
			}
			switch {
			case a.json:
				err = printJSON(a.out, struct {
					Schema string       `json:"schema"`
					Cases  []listedCase `json:"cases"`
				}{"hollowkey.case.list/1", out})
			case asCSV:
				err = a.printCSV(rows)
			case len(list) > 0:
				err = a.printGrid(rows)
			}
			if err == nil && len(list) == 0 {
				fmt.Fprintf(a.err, "There is no case in %s.\n", clean(root))
				return errNo
			}
			return err
		},
	}
	bindCSV(c, &asCSV)
	return c
}
