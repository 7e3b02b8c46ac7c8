// This file writes the page of a store.

package cli

import (
	"io"
	"time"

	"github.com/spf13/cobra"

	"hollowkey/core/fleet/page"
	"hollowkey/core/fleet/store"
)

// newTriagePage is the command that writes the page of a store.
func (a *app) newTriagePage() *cobra.Command {
	var opt triageOptions
	var out output
	names := false
	c := &cobra.Command{
		Use:   "page",
		Short: "writes one page: figures, causes day by day, what is new, products and builds",
		Long: `Writes one HTML file with nothing from outside: the figures that matter, the causes with how
they came day by day, which are new, a sample of each, products and builds of the OS. Names
of machines become tokens, the same for the same machine; --names leaves them in.

Exit status: 0 written, 1 could not, 2 wrong call.`,
		Example: "  hollowkey triage page --days 14 --out week.html",
		Args:    cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return a.inDays(c.Context(), opt.store, func(s *store.Store, last time.Time) (err error) {
				p, err := page.Collect(c.Context(), s, page.Options{Filter: opt.filter(last), Names: names, Most: opt.most, Made: a.now()})
				if err != nil {
					return err
				}
				if err := out.write(out.name, func(w io.Writer) error { return page.HTML(w, p) }); err != nil {
					return err
				}
				a.say("%s %s\n", a.style.good("WRITTEN"), out.name)
				return nil
			})
		},
	}
	opt.bindFilter(c)
	out.name = "triage.html"
	out.bind(c, "the file to write")
	c.Flags().BoolVar(&names, "names", false, "leave names of machines in; for use within the house")
	return c
}
