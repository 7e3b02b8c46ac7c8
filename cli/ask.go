// This file has the questions that commands put to a person. They come from the
// terminal alone and never from a log, a package or a case, and where nobody is
// there the answer must stand in the call.

package cli

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

var errNobody = errors.New("no terminal to ask on, so nothing was changed\n" +
	"hint: use --yes to do it without asking, --preview to only show it")

// errStopped says that a person interrupted the program at a question.
var errStopped = fmt.Errorf("nothing was changed: %w", context.Canceled)

// A consent is how a person agrees to a change. One rule holds for every
// command that changes something: it shows, and asks, unless one of the two is
// given.
type consent struct {
	preview, yes bool // only show; do not ask
}

// bind gives a command the two options of everything that changes a machine.
func (o *consent) bind(c *cobra.Command) {
	c.Flags().BoolVar(&o.preview, "preview", false, "only show what would be changed")
	c.Flags().BoolVar(&o.yes, "yes", false, "do it without asking")
}

// given asks, unless the answer was given beforehand. A no is [errNo].
func (a *app) given(o consent, question string) error {
	if o.yes {
		return nil
	}
	if a.quiet || a.json { // what would be agreed to was not shown
		return wrongCall("with --quiet or --json nothing is shown, so nothing can be agreed to\n" +
			"hint: add --yes to do it, or --preview to only work it out")
	}
	sure, err := a.ask(question)
	if err == nil && !sure {
		err = errNo
	}
	return err
}

// ask puts a yes-or-no question to a person; where there is none, the answer
// must come as a flag. Only a clear yes is one.
func (a *app) ask(question string) (bool, error) {
	f, ok := a.in.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		return false, errNobody
	}
	if a.quiet || a.json {
		return false, fmt.Errorf("%w; --quiet and --json show nothing that could be agreed to", errNobody)
	}
	fmt.Fprintf(a.err, "\n%s [y/N] ", clean(question))
	line, err := a.line()
	if err != nil {
		return false, err
	}
	if answer := strings.ToLower(line); answer != "y" && answer != "yes" {
		fmt.Fprintln(a.err, "Nothing was changed.")
		return false, nil
	}
	return true, nil
}

// enter asks for a line.
func (a *app) enter(what string) (string, error) {
	fmt.Fprintf(a.out, "%s: ", what)
	return a.line()
}

// line reads what a person types up to Enter. The key that interrupts a program
// ends the wait with [context.Canceled], and the end of the input is an empty
// line.
func (a *app) line() (string, error) {
	if a.typed == nil {
		a.typed = bufio.NewReader(a.in)
	}
	type read struct {
		text string
		err  error
	}
	got := make(chan read, 1)
	go func() {
		text, err := a.typed.ReadString('\n')
		got <- read{text, err}
	}()
	select {
	case <-a.ctx.Done():
		fmt.Fprintln(a.err)
		return "", errStopped
	case r := <-got:
		if r.err != nil && (r.err != io.EOF || r.text == "") {
			return "", errors.Join(errNo, r.err)
		}
		return strings.TrimSpace(r.text), nil
	}
}
