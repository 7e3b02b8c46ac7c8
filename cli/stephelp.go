// This file is the help of steps, from the one list of kinds that there is.

package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/step"
)

// stepHelp is the help of a step: of all kinds, or of one with its arguments.
func (a *app) stepHelp(name string) error {
	var b strings.Builder
	s := a.style
	if name == "help" {
		if a.json {
			return printJSON(a.out, struct {
				Schema string     `json:"schema"`
				Kinds  []stepKind `json:"kinds"`
			}{"hollowkey.step.help/1", stepKinds(step.Kinds())})
		}
		widest := 0
		for _, k := range step.Kinds() {
			widest = max(widest, len(k.Name))
		}
		for _, k := range step.Kinds() {
			item(&b, s, 0, widest+2, k.Name, k.Does())
		}
		fmt.Fprintf(&b, "\nThe arguments of one:  %s\n", s.key("hollowkey fix --step KIND --help"))
		_, err := fmt.Fprint(a.out, b.String())
		return err
	}
	k, ok := step.KindOf(name)
	if !ok {
		return callError{kinds.UnknownKind(name)}
	}
	if a.json {
		return printJSON(a.out, struct {
			Schema string     `json:"schema"`
			Kinds  []stepKind `json:"kinds"`
		}{"hollowkey.step.help/1", stepKinds([]step.Kind{k})})
	}
	fmt.Fprintf(&b, "%s  %s\n\n", s.bold(k.Name), k.Does())
	call := "hollowkey fix --step " + k.Name
	// The call that is shown holds all that is needed and nothing else.
	for _, arg := range k.Arguments() {
		means := arg.Means
		if arg.Needed && len(k.Target) > 1 && strings.Contains(strings.Join(k.Target, " "), arg.Name) {
			means += " (one of " + strings.Join(k.Target, ", ") + " is needed)"
		} else if arg.Needed {
			means += " (needed)"
			call += " --arg " + arg.Name + "=…"
		}
		item(&b, s, 2, 12, arg.Name, means)
	}
	if len(k.Target) > 1 {
		call = strings.Replace(call, " --arg", " --arg "+k.Target[0]+"=… --arg", 1)
	}
	fmt.Fprintf(&b, "\n%s\n", s.key(call+" --machine TWIN --preview"))
	if k.Effect != "" {
		item(&b, s, 0, 9, "warning:", k.Effect)
	}
	if k.OneWay != "" {
		item(&b, s, 0, 9, "no undo:", k.OneWay)
	}
	_, err := fmt.Fprint(a.out, b.String())
	return err
}

// A stepKind is a kind of step as JSON.
type stepKind struct {
	Name      string          `json:"name"`
	Does      string          `json:"does"`
	Arguments []step.Argument `json:"arguments"`
	Effect    string          `json:"effect"`
	NoUndo    string          `json:"no_undo"`
}

// stepKinds are the kinds of steps as JSON shows them; lists are never null
// there.
func stepKinds(list []step.Kind) (out []stepKind) {
	for _, k := range list {
		out = append(out, stepKind{k.Name, k.Does(), append([]step.Argument{}, k.Arguments()...), k.Effect, k.OneWay})
	}
	return out
}

// helpOfSteps lets --step KIND --help tell of the step in place of the command.
func (a *app) helpOfSteps(c *cobra.Command, name *string) {
	c.SetHelpFunc(func(c *cobra.Command, _ []string) {
		if *name == "" {
			a.help(c)
			return
		}
		a.style = newStyle(a.out, a.noColor, a.width)
		if err := a.stepHelp(*name); err != nil {
			a.complain(err)
		}
	})
	_ = c.RegisterFlagCompletionFunc("step", func(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
		return step.Names(), cobra.ShellCompDirectiveNoFileComp
	})
	_ = c.RegisterFlagCompletionFunc("arg", func(*cobra.Command, []string, string) (list []string, d cobra.ShellCompDirective) {
		if k, ok := step.KindOf(*name); ok {
			for _, a := range k.Args {
				list = append(list, a+"=")
			}
		}
		return list, cobra.ShellCompDirectiveNoSpace
	})
}
