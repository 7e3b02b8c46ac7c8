package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"hollowkey/core/step"
)

// plainError is an error in words without names of our language: what, where, why.
func plainError(err error) string {
	text := err.Error()
	var path *fs.PathError
	if errors.As(err, &path) {
		text = strings.ReplaceAll(text, path.Error(), reason(path.Path, path.Err))
	}
	var link *os.LinkError
	if errors.As(err, &link) {
		text = strings.ReplaceAll(text, link.Error(), reason(link.New, link.Err))
	}
	return text
}

// reason says why a file could not be used.
func reason(name string, err error) string {
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return name + " is not there"
	case errors.Is(err, fs.ErrPermission):
		return "access to " + name + " is denied"
	case errors.Is(err, fs.ErrExist):
		return name + " is there already"
	}
	return name + ": " + err.Error()
}

// flagError puts what the library says of an option into our words, and adds which one may have been
// meant.
func flagError(c *cobra.Command, err error) error {
	lists := c.CommandPath() + " --help lists the options"
	var unknown *pflag.NotExistError
	var value *pflag.InvalidValueError
	switch {
	case errors.As(err, &unknown):
		if near := step.Nearest(unknown.GetSpecifiedName(), flagNames(c)); near != "" && unknown.GetSpecifiedShortnames() == "" {
			err = fmt.Errorf("%w\nhint: did you mean --%s? %s", err, near, lists)
		} else {
			err = fmt.Errorf("%w\nhint: %s", err, lists)
		}
	case errors.As(err, &value):
		err = fmt.Errorf("invalid argument %q for --%s: %s", value.GetValue(), value.GetFlag().Name, wantedOf(value))
	}
	return callError{err}
}

// wantedOf is what an option wants in the place of a value that it cannot read.
func wantedOf(e *pflag.InvalidValueError) string {
	switch e.GetFlag().Value.Type() {
	case "duration":
		return "a time is wanted, such as 30s or 5m"
	case "int", "int64", "uint", "uint64", "float64":
		return "a number is wanted"
	case "bool":
		return "true or false is wanted"
	}
	return e.Unwrap().Error() // of a kind of our own, which says it itself
}

func flagNames(c *cobra.Command) (names []string) {
	add := func(f *pflag.Flag) {
		if !f.Hidden {
			names = append(names, f.Name)
		}
	}
	c.Flags().VisitAll(add)
	c.InheritedFlags().VisitAll(add)
	return names
}

// unknownCommand is an error of a word that is no command of c.
func unknownCommand(c *cobra.Command, word string) error {
	hint := c.CommandPath() + " --help lists the commands"
	var names []string
	for _, sub := range c.Commands() {
		if sub.IsAvailableCommand() {
			names = append(names, sub.Name())
		}
	}
	if near := step.Nearest(word, names); near != "" {
		hint = "did you mean " + c.CommandPath() + " " + near + "? " + hint
	}
	return wrongCall("unknown command %q for %q\nhint: %s", word, c.CommandPath(), hint)
}
