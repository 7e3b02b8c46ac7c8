package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"regexp"
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
	if strings.Contains(text, "time: ") {
		return ofGo.ReplaceAllString(text, ": a time is wanted, such as 30s or 5m")
	}
	return ofGo.ReplaceAllString(text, ": a number is wanted")
}

// ofGo is how the standard library complains of a number.
var ofGo = regexp.MustCompile(`: (?:strconv\.\w+|time): (?:parsing|invalid duration|unknown unit)? ?.*?(?:: (?:invalid syntax|value out of range)|$)`)

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

// flagError adds to an error of an option which one may have been meant.
func flagError(c *cobra.Command, err error) error {
	if wrong, ok := strings.CutPrefix(err.Error(), "unknown flag: --"); ok {
		if near := step.Nearest(wrong, flagNames(c)); near != "" {
			err = fmt.Errorf("%w\nhint: did you mean --%s? %s --help lists the options", err, near, c.CommandPath())
		} else {
			err = fmt.Errorf("%w\nhint: %s --help lists the options", err, c.CommandPath())
		}
	}
	return callError{err}
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
