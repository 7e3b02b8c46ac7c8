// This file puts wrong calls into our words. The library's own messages name
// its parts; ours name what to type instead.

package cli

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
)

// flagError puts what the library says of an option into our words, and adds
// which one may have been meant.
func flagError(c *cobra.Command, err error) error {
	lists := "to list the options: " + c.CommandPath() + " --help"
	var unknown *pflag.NotExistError
	var value *pflag.InvalidValueError
	var bare *pflag.ValueRequiredError
	switch {
	case errors.As(err, &unknown):
		if near := step.Nearest(unknown.GetSpecifiedName(), flagNames(c)); near != "" && unknown.GetSpecifiedShortnames() == "" {
			err = fmt.Errorf("%w\nhint: did you mean --%s? %s", err, near, lists)
		} else {
			err = fmt.Errorf("%w\nhint: %s", err, lists)
		}
	case errors.As(err, &bare):
		err = fmt.Errorf("--%s needs a value: %s\nhint: %s", bare.GetSpecifiedName(), bare.GetFlag().Usage, lists)
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

// countOfArguments refuses a call with too few or too many arguments, as the
// command's usage tells them: in brackets those that may be left out, with dots
// those that may come again.
func countOfArguments(c *cobra.Command, args []string) error {
	_, usage, named := strings.Cut(c.Use, " ")
	if c.HasSubCommands() && !named && len(args) > 0 { // a word of a group's
		return unknownCommand(c, args[0])
	}
	if c.HasSubCommands() && !named || c.Args == nil {
		return nil
	}
	path := strings.TrimPrefix(c.CommandPath(), programName+" ")
	var wanted []string
	most := 0
	// The usage line says which arguments there are; brackets mark those that
	// may be missing, dots those that may come again.
	for word := range strings.FieldsSeq(usage) {
		if strings.HasPrefix(word, "--") { // options and their values end a usage
			break
		}
		if most++; strings.Contains(word, "...") {
			most = len(args) + 1
		}
		if !strings.HasPrefix(word, "[") {
			wanted = append(wanted, strings.TrimRight(word, "."))
		}
	}
	switch {
	case len(args) < len(wanted):
		return wrongCall("%s is missing\nhint: %s", wanted[len(args)], forExample(c))
	case len(args) > most && casefile.Exists(args[most]):
		return folderOfCase(c, args[most])
	case len(args) > most && most == 0:
		return wrongCall("%s takes no argument, and got %q\nhint: %s", path, args[0], forExample(c))
	case len(args) > most:
		return wrongCall("%s takes no further argument, and got %q\nhint: %s", path, args[most], forExample(c))
	}
	for _, word := range args {
		if len(c.ValidArgs) > 0 && !slices.Contains(c.ValidArgs, word) {
			return wrongCall("%s knows no %q\nhint: it takes one of %s", path, word, strings.Join(c.ValidArgs, ", "))
		}
	}
	return nil
}

// How the package notes, at an option, that it must be given, and with which
// others it does not go together: the names of each such group with blanks
// between. Source: github.com/spf13/cobra, flag_groups.go; a test finds a
// change of it.
const (
	mustBeGiven = cobra.BashCompOneRequiredFlag
	oneAtMost   = "cobra_annotation_mutually_exclusive"
)

// folderOfCase is an error of a case's folder in the place of an argument.
func folderOfCase(c *cobra.Command, dir string) error {
	return wrongCall("%s is the folder of a case\nhint: it is named so: %s --case %s", dir, c.CommandPath(), quoteArgument(dir))
}

// optionsFit refuses a call without an option that must be given, or with two
// that do not go together.
func optionsFit(c *cobra.Command) error {
	var missing, both []string
	c.Flags().VisitAll(func(f *pflag.Flag) {
		if need := f.Annotations[mustBeGiven]; len(need) > 0 && need[0] == "true" && !f.Changed {
			missing = append(missing, "--"+f.Name)
		}
		if len(f.Annotations[oneAtMost]) > 0 && f.Changed {
			both = append(both, "--"+f.Name)
		}
	})
	switch {
	case len(missing) > 0:
		return wrongCall("%s is missing\nhint: %s", missing[0], forExample(c))
	case len(both) > 1:
		return wrongCall("%s do not go together\nhint: leave one of them out", strings.Join(both, " and "))
	}
	return nil
}

// forExample is how a command is called: by its first example, or its usage.
func forExample(c *cobra.Command) string {
	for line := range strings.Lines(c.Example) {
		if line = strings.TrimSpace(line); strings.HasPrefix(line, programName) {
			return "for example: " + line
		}
	}
	return "it is called so: " + c.UseLine()
}

// flagNames are the options that a command takes, its parents' too, without
// those that help does not show.
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
	hint := "to list the commands: " + c.CommandPath() + " --help"
	var names []string
	for _, sub := range c.Commands() {
		if sub.IsAvailableCommand() {
			names = append(names, sub.Name())
		}
	}
	if near := step.Nearest(word, names); near != "" {
		hint = "did you mean this? " + c.CommandPath() + " " + near
	}
	if casefile.Exists(word) {
		return folderOfCase(c, word)
	}
	return wrongCall("unknown command %q for %q\nhint: %s", word, c.CommandPath(), hint)
}
