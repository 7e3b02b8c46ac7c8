package cli

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
	"hollowkey/core/prove/retry"
)

// fixCall prints how to start the set-up: of a package that is named, or of the
// one that the logs speak of, with what their remedy needs.
func (a *app) fixCall(ctx context.Context, m machine.Machine, args []string, opt fixOptions) error {
	path, given, with := "", slices.Clone(opt.given), slices.Clone(opt.with)
	if len(args) == 1 && retry.SetupFile(args[0]) {
		path = args[0]
	} else {
		v, err := a.judge(ctx, args, opt.whyOptions, m)
		if err != nil {
			return err
		}
		if v.Package == "" {
			return fmt.Errorf("the log does not say which package was run\nhint: hollowkey fix --command PACKAGE")
		}
		path = v.Package
		if at := v.FirstWithSteps(); at >= 0 {
			for _, s := range v.Remedies[at].Steps {
				if c, ok := s["command"]; ok {
					given = append(given, strings.FieldsFunc(c["properties"], func(r rune) bool { return r == '\n' })...)
					with = append(with, strings.FieldsFunc(c["transforms"], func(r rune) bool { return r == ';' })...)
				}
			}
		}
	}
	call, err := kinds.MakeCall(path, given, with)
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
