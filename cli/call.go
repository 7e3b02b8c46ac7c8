// This file prints how a setup is started, quoted for two shells. It starts
// nothing: fix and retry do, each with its own question.

package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
	"hollowkey/core/prove/retry"
)

// there says whether a setup is on the machine, where one is named.
func there(m machine.Machine, path string) error {
	if m == nil {
		return nil
	}
	if _, _, err := machine.SplitPath(path); err != nil { // on a share, or relative to a folder that nobody knows
		return nil
	}
	_, err := m.Stat(path)
	if errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("%s is not there on %s\nhint: look at the spelling", path, m.Name())
	}
	return err
}

// fixCall prints how to start the setup: of a package that is named, or of the
// one that the logs speak of, with what their remedy needs.
func (a *app) fixCall(ctx context.Context, m machine.Machine, args []string, opt fixOptions) error {
	path, given, with := "", slices.Clone(opt.given), slices.Clone(opt.with)
	var switches string
	if len(args) == 1 {
		path, switches = retry.Program(args[0])
	}
	// A package or program that is named; without one it is the package that
	// the log was of, with what it was given then.
	if path != "" {
		if err := there(m, path); err != nil {
			return err
		}
	} else {
		v, err := a.judge(ctx, args, opt.whyOptions, m)
		if err != nil {
			return err
		}
		if v.Package == "" {
			return fmt.Errorf("the log does not say which package was run\nhint: hollowkey fix --command PACKAGE")
		}
		path = v.Package
		given, with = append(slices.Clone(v.Given), given...), append(slices.Clone(v.With), with...)
		// A remedy that writes a command file knows properties that the setup
		// needs.
		if at := v.FirstWithSteps(); at >= 0 {
			for _, s := range v.Remedies[at].Steps {
				if c, ok := s["command"]; ok {
					given = append(given, strings.FieldsFunc(c["properties"], func(r rune) bool { return r == '\n' })...)
					with = append(with, strings.FieldsFunc(c["transforms"], func(r rune) bool { return r == ';' })...)
				}
			}
		}
	}
	call, err := kinds.MakeCall(path, switches, given, with)
	if err != nil {
		return callError{err}
	}
	if a.json {
		return printJSON(a.out, struct {
			Schema  string `json:"schema"`
			Package string `json:"package"`
			kinds.Call
		}{"hollowkey.fix.command/1", path, call})
	}
	fmt.Fprintf(a.out, "In an elevated command prompt:\n  %s\n\nIn PowerShell, which asks for elevation:\n  %s\n",
		a.style.key(clean(call.Prompt)), a.style.key(clean(call.PowerShell)))
	if call.Log != "" {
		fmt.Fprintf(a.out, "\nThen: hollowkey why %s\n", clean(quoteArgument(call.Log)))
	}
	return nil
}
