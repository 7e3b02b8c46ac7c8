// This file ends what of a product runs, in two plans: what can be undone, and
// what cannot.

package cli

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/products"
	"hollowkey/core/machine"
)

// newProductsStop is the command that ends what of a product runs.
func (a *app) newProductsStop() *cobra.Command {
	var ok consent
	c := &cobra.Command{
		Use:   "stop PRODUCT",
		Short: "shows what of a product runs now, and stops it",
		Long: `Looks which services of a product run and who depends on them, which programs have its
files open and whose they are, and which of the scheduler's tasks start it. Services are
stopped in order and come back with undo; programs are ended, which cannot be undone:
unsaved work in them is lost. Asks for each of the two.

Exit status: 0 stopped, previewed, or nothing runs; 1 could not; 2 wrong call; 3 said no.`,
		Example: "  hollowkey products stop \"Fairway Radio 1\" --machine ELLERY-D07 --preview",
		Args:    cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, _ *fix.Journal) error {
				return a.productsStop(m, args[0], planHow{consent: ok,
					again: "hollowkey products stop " + quoteArgument(args[0]) + a.where()})
			})
		},
	}
	ok.bind(c)
	return c
}

type stopResult struct {
	Schema  string `json:"schema"`  // names the shape
	Machine string `json:"machine"` // its name
	Product string `json:"product"` // its name
	products.Running
	Plans   []fix.Plan `json:"plans"`   // services first, programs then
	Applied bool       `json:"applied"` // all of them were carried out
}

// productsStop goes the way of all plans twice: what can be undone is apart
// from what cannot.
func (a *app) productsStop(m machine.Machine, word string, how planHow) error {
	l, p, err := a.oneProduct(m, word)
	if err != nil {
		return err
	}
	r, err := l.Running(p)
	if err != nil {
		return err
	}
	res := stopResult{Schema: "hollowkey.products.stop/1", Machine: m.Name(), Product: p.Name, Running: r, Plans: []fix.Plan{}}
	if !a.json {
		a.runningText(p, r)
	}
	// Two plans: services can be started again, programs that were ended
	// cannot.
	services, err := fix.DraftNamed(m, "stop the services of "+p.Name, r.StopServices()...)
	if err != nil {
		return err
	}
	programs, err := fix.DraftNamed(m, "end the programs of "+p.Name, r.EndProcesses()...)
	if err != nil {
		return err
	}
	res.Applied = true
	for _, plan := range []fix.Plan{services, programs} {
		if len(plan.Changes) == 0 {
			continue
		}
		res.Plans = append(res.Plans, plan)
		done, err := a.carryOut(m, plan, how)
		if err != nil {
			return err
		}
		res.Applied = res.Applied && done
	}
	res.Applied = res.Applied && len(res.Plans) > 0
	if a.json {
		return printJSON(a.out, res)
	}
	return nil
}

// runningText tells what of a product runs.
func (a *app) runningText(p *products.Product, r products.Running) {
	var b strings.Builder
	s := a.style
	if r.Nothing() {
		fmt.Fprintf(&b, "Nothing of %s runs now.\n", s.bold(p.Name))
	} else {
		fmt.Fprintf(&b, "%s runs now:\n", s.bold(p.Name))
	}
	row := func(name, text string) { item(&b, s, 2, 14, name, text) }
	row("services", strings.Join(r.Services, ", "))
	row("with them", strings.Join(r.Others, ", "))
	for _, one := range r.Processes {
		row("program", fmt.Sprintf("%s, process %d, of %s", one.Name, one.ID, orNobody(one.User)))
	}
	for _, one := range r.Namesakes {
		row("same name", fmt.Sprintf("%s, process %d, of %s: where it runs from is not "+
			"known, so it is left alone", one.Name, one.ID, orNobody(one.User)))
	}
	for _, t := range r.Tasks {
		row("task", t+" starts it")
	}
	io.WriteString(a.out, b.String())
}

// orNobody is a user's name for a sentence; of a session that just began the OS
// knows none yet.
func orNobody(user string) string {
	if user == "" {
		return "an account that is not known"
	}
	return user
}
