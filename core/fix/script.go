// This file writes a plan as a script, for machines on which this program may
// not run.

package fix

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/fix/kinds"
)

// ErrShell says that there are no scripts for a shell.
var ErrShell = errors.New("is not ps1 or cmd")

// Script writes the changes of a plan as a script for where this program cannot
// run, and a second one that takes them back. shell is "ps1" or "cmd". A step
// that the shell cannot take is an error that says so.
func (p Plan) Script(shell string) (forward, back string, err error) {
	write, ok := map[string]func(s kinds.Step, from, to kinds.State) ([]string, error){"ps1": kinds.Step.PowerShell,
		"cmd": kinds.Step.Command}[shell]
	if !ok {
		return "", "", fmt.Errorf("the shell %q %w", shell, ErrShell)
	}
	remark := map[string]string{"ps1": "# ", "cmd": "rem "}[shell]
	head := func(what string) []string {
		lines := []string{remark + kinds.PlainLine(p.Title) + ", on " + kinds.PlainLine(p.Machine) + " " + what,
			remark + "Read it before you run it, elevated."}
		if shell == "ps1" {
			return append(lines, "$ErrorActionPreference = 'Stop'")
		}
		return append([]string{"@echo off"}, lines...)
	}
	f, b := head(""), head("(undoes it)")
	for i, c := range p.Changes {
		if c.Done() {
			continue
		}
		to, err := write(c.Step, c.Before, c.After)
		if err != nil {
			return "", "", fmt.Errorf("step %d, %s: %w", i+1, c.Words(), err)
		}
		f = append(append(f, "", remark+kinds.PlainLine(c.Words())), to...)
	}
	for i := len(p.Changes) - 1; i >= 0; i-- {
		c := p.Changes[i]
		if c.Done() {
			continue
		}
		from, err := write(c.Step, c.After, c.Before)
		if err != nil {
			return "", "", fmt.Errorf("step %d, %s: %w", i+1, c.Words(), err)
		}
		b = append(append(b, "", remark+"back: "+kinds.PlainLine(c.Words())), from...)
	}
	if shell == "cmd" {
		f, b = withPage(f), withPage(b)
	}
	end := "\r\n"
	return strings.Join(f, end) + end, strings.Join(b, end) + end, nil
}

// withPage puts the line for the code page behind the first one, where it is
// needed.
func withPage(lines []string) []string {
	if page := kinds.CodePage(strings.Join(lines, "")); page != "" {
		return slices.Insert(lines, 1, page)
	}
	return lines
}
