// This file gives shells the words that only a machine, a journal or a package
// knows. It stays silent about whatever cannot be read: an error in the middle
// of typing helps nobody.

package cli

import (
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix/products"
	"hollowkey/core/fix/startup"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twinfile"
)

// A completer gives the words that could stand at a place of a call.
type completer func() []string

// complete makes a completer one of cobra's. What cannot be found out completes
// nothing.
func complete(words completer) func(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
	return func(_ *cobra.Command, _ []string, typed string) (list []string, d cobra.ShellCompDirective) {
		for _, w := range words() {
			if strings.HasPrefix(strings.ToLower(w), strings.ToLower(typed)) {
				list = append(list, w)
			}
		}
		return list, cobra.ShellCompDirectiveNoFileComp
	}
}

// completeAll lets shells complete what only a machine, a journal or a package
// knows.
func (a *app) completeAll(root *cobra.Command) {
	_ = root.RegisterFlagCompletionFunc("machine", complete(twins))
	options := map[string]completer{"only": a.startupIDs, "exempt": a.startupIDs, "include": a.startupIDs, "change": a.changeNumbers}
	arguments := map[string]completer{"hollowkey products": a.productNames,
		"hollowkey products mend": a.productNames, "hollowkey products stop": a.productNames,
		"hollowkey leftovers": a.productNames, "hollowkey leftovers clear": a.productNames, "hollowkey signs show": signIDs}
	var walk func(c *cobra.Command)
	walk = func(c *cobra.Command) {
		for name, words := range options {
			// Options of one name mean different things in different commands.
			ofStartup := strings.HasPrefix(c.CommandPath(), "hollowkey startup")
			if c.Flags().Lookup(name) != nil && (ofStartup || name == "change") {
				_ = c.RegisterFlagCompletionFunc(name, complete(words))
			}
		}
		if words := arguments[c.CommandPath()]; words != nil {
			c.ValidArgsFunction = complete(words)
		}
		if c.CommandPath() == "hollowkey package rows" {
			c.ValidArgsFunction = func(_ *cobra.Command, args []string, typed string) ([]string, cobra.ShellCompDirective) {
				if len(args) != 1 {
					return nil, cobra.ShellCompDirectiveDefault
				}
				return complete(func() []string { return a.tableNames(args[0]) })(nil, nil, typed)
			}
		}
		for _, sub := range c.Commands() {
			walk(sub)
		}
	}
	walk(root)
}

// twins are the twins that lie in the present folder, and this computer.
func twins() []string {
	found, err := filepath.Glob(filepath.Join("*", twinfile.AboutName))
	if err != nil {
		return nil
	}
	list := []string{"live"}
	for _, f := range found {
		list = append(list, filepath.Dir(f))
	}
	return list
}

// asked gives what the machine of a call says; nothing where none is named.
func (a *app) asked(tell func(machine.Machine) []string) []string {
	if a.machine == "" {
		return nil
	}
	m, done, err := a.openMachine()
	if err != nil {
		return nil
	}
	defer done()
	return tell(m)
}

// startupIDs are the IDs of startup items on the machine of the call, for the
// shell's completion; none where it cannot be read.
func (a *app) startupIDs() []string {
	return a.asked(func(m machine.Machine) (list []string) {
		items, _, err := startup.Items(m)
		if err != nil {
			return nil
		}
		for _, i := range items {
			list = append(list, i.ID)
		}
		return list
	})
}

// productNames are the names of products on the machine of the call, for the
// shell's completion.
func (a *app) productNames() []string {
	return a.asked(func(m machine.Machine) (list []string) {
		found, err := products.Read(m)
		if err != nil {
			return nil
		}
		for _, p := range found.Products {
			list = append(list, p.Name)
		}
		return list
	})
}

// changeNumbers are the changes in the journal of the call, for the shell's
// completion. Without a machine or case in the call there is no journal to ask,
// and this computer's is not guessed.
func (a *app) changeNumbers() (list []string) {
	if a.machine == "" && a.caseDir == "" {
		return nil
	}
	j, err := a.readJournal()
	if err != nil {
		return nil
	}
	for _, i := range j.Items() {
		list = append(list, strconv.Itoa(i.Change)+"\t"+i.Step.Words())
	}
	return list
}

// signIDs are the IDs of the built-in signs, for the shell's completion.
func signIDs() (list []string) {
	all, err := knowledge("")
	if err != nil {
		return nil
	}
	for _, s := range all {
		list = append(list, s.ID)
	}
	return list
}

// tableNames are the tables of a package that stands in the call already, for
// the shell's completion.
func (a *app) tableNames(file string) []string {
	db, _, done, err := a.openPackage(file, packageOptions{})
	if err != nil {
		return nil
	}
	defer done()
	return db.Tables()
}
