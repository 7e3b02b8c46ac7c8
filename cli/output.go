// This file writes what goes into a file named by --out: whole, or not at all,
// and over nothing without leave.

package cli

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"

	"github.com/spf13/cobra"
)

// An output is a file that a command writes, named by --out.
type output struct {
	name    string // empty: none was named
	replace bool   // a file that is there may be overwritten
}

// bind binds the two options; what is said of the file.
func (o *output) bind(c *cobra.Command, what string) {
	c.Flags().StringVar(&o.name, "out", o.name, what)
	c.Flags().BoolVar(&o.replace, "replace", false, "overwrite the file that --out names")
}

// write writes the file whole or not at all.
func (o output) write(name string, fill func(io.Writer) error) error {
	if !o.replace {
		if _, err := os.Lstat(name); !errors.Is(err, fs.ErrNotExist) {
			if err != nil {
				return err
			}
			return wrongCall("%s is there already\nhint: name another file, or add --replace", name)
		}
	}
	temp := name + ".new"
	if err := os.Remove(temp); err != nil && !errors.Is(err, fs.ErrNotExist) { // of a run that was cut off, or a link
		return err
	}
	f, err := os.OpenFile(temp, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("%s cannot be written: its folder is not there", name)
	}
	if err != nil {
		return err
	}
	w := bufio.NewWriter(f)
	if err := errors.Join(fill(w), w.Flush(), f.Sync(), f.Close()); err != nil {
		return errors.Join(err, os.Remove(temp))
	}
	return os.Rename(temp, name)
}
