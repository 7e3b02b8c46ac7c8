// This file sets help texts at the width of the terminal.

package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"
)

// help writes what a command is, how it is called, and what its options are, at
// the width of whoever reads it: the examples first, since most look for the
// one to copy.
func (a *app) help(c *cobra.Command) {
	s := newStyle(a.out, a.noColor, a.width)
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n", strings.Join(wrap(s.bold(c.CommandPath())+": "+c.Short, s.Width, 2, true), "\n"))
	// Examples stand first: they are what is read.
	if c.Example != "" {
		b.WriteString("\n" + s.bold("Examples:") + "\n")
		for line := range strings.Lines(c.Example) {
			b.WriteString(s.key(strings.TrimRight(line, "\n")) + "\n")
		}
	}
	b.WriteString("\n" + s.bold("Usage:") + "\n")
	if c.Runnable() {
		fmt.Fprintf(&b, "  %s\n", c.UseLine())
	}
	if c.HasAvailableSubCommands() {
		fmt.Fprintf(&b, "  %s COMMAND\n", c.CommandPath())
	}
	if c.Long != "" {
		b.WriteString("\n" + reflow(c.Long, s.Width))
	}
	if c.HasAvailableSubCommands() {
		b.WriteString("\n" + s.bold("Commands:") + "\n")
		widest := 0
		for _, sub := range c.Commands() {
			widest = max(widest, len(sub.Name()))
		}
		for _, sub := range c.Commands() {
			if sub.IsAvailableCommand() {
				item(&b, s, 2, widest+2, sub.Name(), sub.Short)
			}
		}
	}
	for _, f := range []struct {
		title string
		text  string
	}{{"Options:", c.LocalFlags().FlagUsagesWrapped(s.Width)}, {"Options of every command:", c.InheritedFlags().FlagUsagesWrapped(s.Width)}} {
		if strings.TrimSpace(f.text) != "" {
			fmt.Fprintf(&b, "\n%s\n%s", s.bold(f.title), f.text)
		}
	}
	fmt.Fprint(a.out, b.String())
}

// reflow sets paragraphs anew for a width; what is indented stays as it is.
func reflow(text string, width int) string {
	var b strings.Builder
	var paragraph []string
	flush := func() {
		if len(paragraph) > 0 {
			b.WriteString(strings.Join(wrap(strings.Join(paragraph, " "), width, 0, true), "\n") + "\n")
			paragraph = nil
		}
	}
	for line := range strings.SplitSeq(text, "\n") {
		switch {
		case line == "", strings.HasPrefix(line, "  "):
			flush()
			b.WriteString(line + "\n")
		default:
			paragraph = append(paragraph, line)
		}
	}
	flush()
	return b.String()
}
