// This file lists what is installed, with what is broken about it, and mends
// one registration at a time.

package cli

import (
	"cmp"
	"encoding/csv"
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix"
	"hollowkey/core/fix/products"
	"hollowkey/core/machine"
	"hollowkey/core/package/cached"
)

// newProducts is the command that lists what is installed; below it is the one
// that mends a registration.
func (a *app) newProducts() *cobra.Command {
	var all, broken, asCSV bool
	c := &cobra.Command{
		Use:   "products [PRODUCT]",
		Short: "lists what is installed and what is broken about it; mends a registration",
		Long: `Reads all places in which installed products are written down: the list of installed
programs of both views and of each user, the installer engine's products, patches,
features, components and upgrade codes, and app packages. One row each, with its health:
whether these places agree with each other and with the disk.

PRODUCT is a product code in braces, a name, a name with stars, or a part of a name; one
product is shown whole, with the evidence.

It reads only. Exit status: 0 all that is listed is sound, 1 could not, 2 wrong call,
3 something is broken or nothing is meant by PRODUCT.`,
		Example: "  hollowkey products --machine ELLERY-D07\n  hollowkey products \"Tidebook Desk\" --machine ELLERY-D07\n" +
			"  hollowkey products mend \"Tidebook Desk\" --machine ELLERY-D07 --preview",
		Args: cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			m, done, err := a.openMachine()
			if err != nil {
				return err
			}
			defer done()
			l, err := products.Read(m)
			if err != nil {
				return err
			}
			list := l.Products
			if len(args) == 1 {
				if list = l.Meant(args[0]); list == nil {
					return a.noProduct(args[0], m)
				}
			}
			return a.products(m, l, list, productsHow{one: len(args) == 1 && len(list) == 1, all: all, broken: broken, csv: asCSV})
		},
	}
	c.Flags().BoolVar(&all, "all", false, "show those that the OS hides from its list, too")
	c.Flags().BoolVar(&broken, "broken", false, "only those that are not sound")
	bindCSV(c, &asCSV)
	c.AddCommand(a.newProductsMend(), a.newProductsStop())
	return c
}

// noProduct says that nothing is meant by a word, and how to see what there is.
func (a *app) noProduct(word string, m machine.Machine) error {
	if a.json {
		if err := printJSON(a.out, productsResult{"hollowkey.products/1", m.Name(), []*products.Product{}, []string{}}); err != nil {
			return err
		}
		return errNo
	}
	fmt.Fprintf(a.out, "No product on %s has the name or code %q.\nTo see all:  %s\n"+
		"To look for what one left behind:  %s\n", m.Name(), clean(word),
		a.style.key("hollowkey products"+a.where()), a.style.key("hollowkey leftovers "+quoteArgument(word)+a.where()))
	return errNo
}

type productsResult struct {
	Schema   string              `json:"schema"`   // names the shape
	Machine  string              `json:"machine"`  // its name
	Products []*products.Product `json:"products"` // by name
	Notes    []string            `json:"notes"`    // what could not be looked at
}

// productsHow says how products are listed.
type productsHow struct{ one, all, broken, csv bool }

func (a *app) products(m machine.Machine, l *products.List, list []*products.Product, how productsHow) error {
	shown, hidden, bad := []*products.Product{}, 0, 0
	for _, p := range list {
		if !p.Sound() {
			bad++
		}
		switch {
		case how.broken && p.Sound():
		// The OS hides parts of other products from people; a broken one is
		// shown all the same.
		case p.Hidden && p.Sound() && !how.all && !how.one && !a.json:
			hidden++
		default:
			shown = append(shown, p)
		}
	}
	var err error
	switch {
	case a.json:
		err = printJSON(a.out, productsResult{"hollowkey.products/1", m.Name(), shown, append([]string{}, l.Notes...)})
	case how.csv:
		err = productsCSV(a.out, shown)
	case how.one:
		_, err = io.WriteString(a.out, a.productText(shown[0]))
	default:
		_, err = io.WriteString(a.out, a.productsText(m.Name(), shown, len(list), bad, hidden, l.Notes))
	}
	if err == nil && bad > 0 {
		err = errNo
	}
	return err
}

// productsText lists products, those that are broken first, each with what it
// is.
func (a *app) productsText(on string, list []*products.Product, of, bad, hidden int, notes []string) string {
	var b strings.Builder
	s := a.style
	fmt.Fprintf(&b, "%s\n", s.bold(fmt.Sprintf("%s: %s; %s.", on, counted(of, "product", "products"), map[bool]string{true: "all are sound",
		false: counted(bad, "is not sound", "are not sound")}[bad == 0])))
	rows := func(title string, want func(p *products.Product) bool) {
		cells := [][]string{{"name", "version", "for", "health"}}
		for _, p := range list {
			if want(p) {
				cells = append(cells, []string{p.Name, p.Version, strings.Join(p.For, ", "), string(p.Health)})
			}
		}
		if len(cells) > 1 {
			fmt.Fprintf(&b, "\n%s\n", title)
			grid(&b, s, 2, cells)
		}
	}
	rows(s.bad("Broken"), func(p *products.Product) bool { return !p.Sound() })
	rows(s.good("Sound"), func(p *products.Product) bool { return p.Health == products.Sound })
	rows("Sound, but the folder is gone that it came from", func(p *products.Product) bool { return p.Health == products.SourceGone })
	if hidden > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.faint(fmt.Sprintf("%d more are sound, and the OS does not list them for people; --all shows them.", hidden)))
	}
	for _, n := range notes {
		item(&b, s, 0, 6, "note", n)
	}
	for _, p := range list {
		if !p.Sound() {
			fmt.Fprintf(&b, "\nTo see what is wrong with one, and how to fix it:\n  %s\n",
				s.key("hollowkey products "+quoteArgument(cmp.Or(p.Code, p.Name))+a.where()))
			break
		}
	}
	return b.String()
}

// productText shows one product: what is wrong first, then where that is seen,
// then what is known of it.
func (a *app) productText(p *products.Product) string {
	var b strings.Builder
	s := a.style
	word := s.good("SOUND")
	if !p.Sound() {
		word = s.bad(strings.ToUpper(string(p.Health)))
	}
	fmt.Fprintf(&b, "%s  %s\n", word, s.bold(strings.TrimSpace(p.Name+" "+p.Version)))
	for _, f := range p.Faults {
		b.WriteString("\n" + strings.Join(wrap(sentence(f.Seen), s.Width, 2, false), "\n") + "\n")
		if f.At != "" && !strings.Contains(f.Seen, f.At) {
			b.WriteString(s.faint(strings.Join(wrap("seen at "+f.At, s.Width, 4, false), "\n")) + "\n")
		}
	}
	b.WriteString("\n")
	row := func(name, text string) { item(&b, s, 2, 16, name, text) }
	row("code", p.Code)
	row("publisher", p.Publisher)
	row("came by", map[products.Kind]string{products.Package: "the installer engine", products.Program: "a setup program of its own",
		products.App: "app deployment"}[p.Kind])
	row("for", strings.Join(p.For, ", "))
	row("installed", p.Installed)
	row("folder", p.Folder)
	row("uninstall", p.Uninstall)
	row("cached package", p.Cached)
	row("came from", strings.TrimRight(p.Source, `\`)+backslash(p.SourceName))
	row("features", strings.Join(p.Features, ", "))
	if p.Components > 0 {
		row("components", fmt.Sprint(p.Components))
	}
	row("upgrade code", strings.Join(p.Upgrade, ", "))
	for _, u := range p.Patches {
		row("patch", strings.TrimSpace(u.Name+" "+u.Code)+", its copy is "+string(u.State))
	}
	row("services", strings.Join(p.Services, ", "))
	if !p.Sound() {
		fmt.Fprintf(&b, "\nNext: %s\n", s.key("hollowkey products mend "+quoteArgument(cmp.Or(p.Code, p.Name))+a.where()+" --preview"))
	}
	return b.String()
}

// newProductsMend is the command that mends one registration.
func (a *app) newProductsMend() *cobra.Command {
	var from []string
	var whole bool
	var ok consent
	c := &cobra.Command{
		Use:   "mend PRODUCT",
		Short: "mends what is broken of one product's registration, and nothing else",
		Long: `Mends the part that is broken: the path to a cached package that lies under another
name, a cached package or patch that --from finds by its code, an entry among the
installed programs that nothing stands behind, one that is missing, the engine's list,
or rows of a product that nothing else knows. With --whole the whole registration goes,
for a product that can neither be repaired nor uninstalled.

Shows each change, asks, and can be undone. Exit status: 0 mended, previewed, or sound
already; 1 could not; 2 wrong call; 3 nothing or not all can be mended from here.`,
		Example: "  hollowkey products mend \"Tidebook Desk\" --machine ELLERY-D07 --preview\n" +
			"  hollowkey products mend \"Tidebook Desk\" --from share --machine ELLERY-D07 --yes",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return a.onMachine(func(m machine.Machine, _ *fix.Journal) error {
				again := "hollowkey products mend " + quoteArgument(args[0]) + repeated("from", from)
				if whole {
					again += " --whole"
				}
				return a.productsMend(m, args[0], from, whole, planHow{consent: ok, again: again + a.where(),
					after: "Then look again:  hollowkey products " + quoteArgument(args[0]) + a.where()})
			})
		},
	}
	c.Flags().StringArrayVar(&from, "from", nil, "folder or file to search for its package and patches (may be repeated)")
	c.Flags().BoolVar(&whole, "whole", false, "clear its whole registration")
	ok.bind(c)
	return c
}

type mendResult struct {
	Schema  string            `json:"schema"`  // names the shape
	Machine string            `json:"machine"` // its name
	Product *products.Product `json:"product"` // as it was found
	products.Mending
	Plan    fix.Plan `json:"plan"`    // of the steps
	Applied bool     `json:"applied"` // it was carried out
}

// oneProduct is the product that a word means, among all that are there.
func (a *app) oneProduct(m machine.Machine, word string) (l *products.List, p *products.Product, err error) {
	if l, err = products.Read(m); err != nil {
		return nil, nil, err
	}
	switch list := l.Meant(word); {
	case list == nil:
		return nil, nil, a.noProduct(word, m)
	case len(list) > 1:
		return nil, nil, severalProducts(word, list)
	default:
		return l, list[0], nil
	}
}

// productsMend drafts what mends a product and goes the way of all plans.
func (a *app) productsMend(m machine.Machine, word string, from []string, whole bool, how planHow) error {
	l, p, err := a.oneProduct(m, word)
	if err != nil {
		return err
	}
	res := mendResult{Schema: "hollowkey.products.mend/1", Machine: m.Name(), Product: p}
	if whole {
		res.Mending, err = l.Clear(p)
	} else {
		var found map[string]cached.Source
		if wanted := l.Wanted(p); len(from) > 0 && len(wanted) > 0 {
			if found, _, err = cached.Search(from, wanted, a.search); err != nil {
				return err
			}
		}
		res.Mending, err = l.Mend(p, found)
	}
	if err != nil {
		return err
	}
	if res.Plan, err = fix.DraftNamed(m, res.Title, res.Steps...); err != nil {
		return err
	}
	if !a.json {
		a.mendText(p, res.Mending)
	}
	if len(res.Steps) > 0 {
		if res.Applied, err = a.carryOut(m, res.Plan, how); err != nil {
			return err
		}
	}
	if a.json {
		if err := printJSON(a.out, res); err != nil {
			return err
		}
	}
	if len(res.Needs) > 0 && !p.Sound() && !whole {
		return errNo
	}
	return nil
}

// severalProducts names those that a word means, with their codes.
func severalProducts(word string, list []*products.Product) error {
	var names []string
	for i, p := range list {
		if i == 8 {
			names = append(names, fmt.Sprintf("and %d more", len(list)-i))
			break
		}
		names = append(names, strings.TrimSpace(p.Name+" "+p.Version)+" "+p.Code)
	}
	return wrongCall("%q means several products: %s\n"+
		"hint: name one by its code in braces, or by its whole name", word, strings.Join(names, "; "))
}

// mendText says what is done for each fault, and what a person must bring.
func (a *app) mendText(p *products.Product, md products.Mending) {
	var b strings.Builder
	s := a.style
	if p.Health == products.Sound && len(md.Steps) == 0 {
		fmt.Fprintf(&b, "%s is sound; there is nothing to mend.\n", s.bold(strings.TrimSpace(p.Name+" "+p.Version)))
	} else {
		fmt.Fprintf(&b, "%s  %s\n", s.bad(strings.ToUpper(string(p.Health))), s.bold(strings.TrimSpace(p.Name+" "+p.Version)))
	}
	for _, d := range md.Does {
		b.WriteString(strings.Join(wrap(sentence(d), s.Width, 2, false), "\n") + "\n")
	}
	for _, n := range md.Needs {
		b.WriteString(strings.Join(wrap(s.mind("For a person:")+" "+n.Words+".", s.Width, 2, false), "\n") + "\n")
		if len(n.Call) > 0 {
			fmt.Fprintf(&b, "    %s\n", s.key("hollowkey"+quoteAll(n.Call)+a.where()))
		}
	}
	io.WriteString(a.out, b.String())
}

// productsCSV writes one row for each product.
func productsCSV(to io.Writer, list []*products.Product) error {
	w := csv.NewWriter(to)
	_ = w.Write([]string{"name", "version", "publisher", "kind", "product_code", "for", "installed", "source",
		"cached_package", "health", "seen"})
	for _, p := range list {
		var seen []string
		for _, f := range p.Faults {
			seen = append(seen, f.Seen)
		}
		_ = w.Write([]string{p.Name, p.Version, p.Publisher, string(p.Kind), p.Code, strings.Join(p.For, "; "), p.Installed, p.Source, p.Cached,
			string(p.Health), strings.Join(seen, "; ")})
	}
	w.Flush()
	return w.Error()
}
