package cli

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"golang.org/x/term"
)

var errNobody = errors.New("nobody is there to be asked, so nothing was changed\n" +
	"hint: --yes applies it without asking, --preview only shows it")

// ask puts a yes-or-no question to a person; where there is none, the answer
// must come as a flag. Only a clear yes is one.
func (a *app) ask(question string) (bool, error) {
	f, ok := a.in.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		return false, errNobody
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

// line reads what a person types up to Enter. The key that interrupts a program ends
// the wait with [context.Canceled], and the end of the input is an empty line.
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
		return "", a.ctx.Err()
	case r := <-got:
		if r.err != nil && (r.err != io.EOF || r.text == "") {
			return "", errors.Join(errNo, r.err)
		}
		return strings.TrimSpace(r.text), nil
	}
}
