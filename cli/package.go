// This file opens packages for the commands that read them, from this computer
// or out of a machine, with transforms and properties as a call gives them.

package cli

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/machine"
	"hollowkey/core/package/compound"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
)

// packageOptions say how a package is looked at.
type packageOptions struct {
	with  []string // transforms
	given []string // NAME=VALUE
}

// newPackage is the command of all that reads packages. None of its subcommands
// opens the vendor's file for writing.
func (a *app) newPackage() *cobra.Command {
	c := &cobra.Command{
		Use:   "package",
		Short: "reads installer packages: tables, order, gates; alters a copy or makes a transform",
		Long: `Looks into packages (.msi), transforms (.mst) and patches (.msp) without opening them
for writing: what is in them, in which order they do what, what can stop them on a
machine and why, and makes the transform that lets them pass.

Nothing here changes the vendor's file.`,
		Example: "  hollowkey package overview planner.msi\n  hollowkey package find planner.msi ChartRuntime\n" +
			"  hollowkey package gates planner.msi --machine ELLERY-D07\n" +
			"  hollowkey package alter planner.msi --remove-row 'LaunchCondition,VersionNT < 600'",
		Args: needSubcommand,
		RunE: func(c *cobra.Command, _ []string) error { return c.Help() },
	}
	c.AddCommand(a.newOverview(), a.newTables(), a.newRows(), a.newFind(), a.newOrder(), a.newGates(), a.newAlter(), a.newCompare(),
		a.newUnpack())
	return c
}

// needSubcommand refuses words that are no subcommand.
func needSubcommand(c *cobra.Command, args []string) error {
	if len(args) > 0 {
		return unknownCommand(c, args[0])
	}
	return nil
}

// bindWith binds the option for transforms, which are applied in their order.
func (o *packageOptions) bindWith(c *cobra.Command) {
	c.Flags().StringArrayVar(&o.with, "transform", nil, "look at it with this transform applied (may be repeated)")
}

// bindGiven binds the option for properties of the command line.
func (o *packageOptions) bindGiven(c *cobra.Command) {
	c.Flags().StringArrayVar(&o.given, "given", nil, "a property as on the command line, NAME=VALUE (may be repeated)")
}

// properties are the given properties.
func (o packageOptions) properties() (map[string]string, error) {
	m := map[string]string{}
	for _, g := range o.given {
		name, value, ok := strings.Cut(g, "=")
		if !ok || name == "" {
			return nil, wrongCall("--given %q is not NAME=VALUE", g)
		}
		if name != strings.ToUpper(name) {
			return nil, wrongCall("--given %s: only properties in capitals can stand on the command line", name)
		}
		m[name] = value
	}
	return m, nil
}

// openPackage opens a database file, with the transforms of the options
// applied.
func (a *app) openPackage(path string, o packageOptions) (*installdb.Database, int64, func(), error) {
	f, size, done, err := a.openFile(path)
	if err != nil {
		return nil, 0, nil, err
	}
	db, err := installdb.Open(f, size)
	if err != nil {
		err = fmt.Errorf("%s: %w%s", path, err, packageHint(err, size))
	}
	for _, t := range o.with {
		if err == nil {
			err = a.applyTransform(db, t)
		}
	}
	if err != nil {
		done()
		return nil, 0, nil, err
	}
	return db, size, done, nil
}

// onTheMachine says whether a path is one of the machine's that this call
// names, and of nothing here.
func (a *app) onTheMachine(path string) bool {
	if _, _, bad := machine.SplitPath(path); bad != nil || a.machine == "" {
		return false
	}
	_, err := os.Stat(path)
	return err != nil
}

// openFile opens a file of this computer, or of the machine.
func (a *app) openFile(path string) (io.ReaderAt, int64, func(), error) {
	// One path, two meanings: the machine's own where it has the form of one
	// and a machine is named.
	if a.onTheMachine(path) {
		m, closeMachine, err := a.openMachine()
		if err != nil {
			return nil, 0, nil, err
		}
		info, err := m.Stat(path)
		var f io.ReadCloser
		if err == nil {
			f, err = m.Open(path)
		}
		if err != nil {
			closeMachine()
			return nil, 0, nil, err
		}
		done := func() { f.Close(); closeMachine() }
		at, ok := f.(io.ReaderAt)
		if !ok {
			done()
			return nil, 0, nil, fmt.Errorf("%s cannot be read on %s", path, m.Name())
		}
		return at, info.Size, done, nil
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, 0, nil, err
	}
	info, err := f.Stat()
	if err == nil && info.IsDir() {
		err = fmt.Errorf("%s is a folder, not a package", path)
	}
	if err != nil {
		f.Close()
		return nil, 0, nil, err
	}
	return f, info.Size(), func() { f.Close() }, nil
}

// packageHint says what to do about a file that cannot be read as a package.
func packageHint(err error, size int64) string {
	switch {
	case errors.Is(err, compound.ErrNotCompound), errors.Is(err, installdb.ErrNoDatabase):
		return "\nhint: a package, transform or patch is wanted; for a setup program: hollowkey package unpack"
	case errors.Is(err, compound.ErrDamaged), errors.Is(err, installdb.ErrDamaged):
		return fmt.Sprintf("\nhint: the file may be cut short or altered; compare its size, %d bytes, with the vendor's", size)
	}
	return ""
}

// applyTransform applies a transform in memory, as the engine does at its
// start.
func (a *app) applyTransform(db *installdb.Database, path string) error {
	t, _, done, err := a.openPackage(path, packageOptions{})
	if err != nil {
		return err
	}
	// The transform's streams are read when they are needed, so its file stays
	// open as long as the program runs.
	_ = done
	if t.Format != installdb.Transform {
		return fmt.Errorf("%s is a %s, not a transform", path, t.Format)
	}
	changes, err := installdb.ReadTransform(t, db.Columns)
	if err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	return db.Apply(changes)
}

// needPackage refuses transforms and patches.
func needPackage(db *installdb.Database, path string) error {
	if db.Format == installdb.Transform || db.Format == installdb.Patch {
		return fmt.Errorf("%s is a %s, and a package is wanted\nhint: a transform is looked at together with its package: --transform %s", path,
			db.Format, quoteArgument(path))
	}
	return nil
}

// world is what conditions of a package are worked out in.
func (a *app) world(db *installdb.Database, o packageOptions) (*gates.World, string, func(), error) {
	given, err := o.properties()
	if err != nil {
		return nil, "", nil, err
	}
	if a.machine == "" {
		return gates.NewWorld(db, nil, given), "", func() {}, nil
	}
	m, done, err := a.openMachine()
	if err != nil {
		return nil, "", nil, err
	}
	return gates.NewWorld(db, m, given), m.Name(), done, nil
}

// onPackage opens a package for one piece of work.
func (a *app) onPackage(path string, o packageOptions, do func(*installdb.Database, int64) error) error {
	db, size, done, err := a.openPackage(path, o)
	if err != nil {
		return err
	}
	defer done()
	return do(db, size)
}
