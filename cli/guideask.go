// This file has the guide's questions, each with the option that answers it
// beforehand.

package cli

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"golang.org/x/term"

	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
)

// onTerminal says whether a person can be asked.
func (a *app) onTerminal() bool {
	in, ok := a.in.(*os.File)
	w := a.out
	if s, is := w.(*safe); is {
		w = s.w
	}
	out, alsoOK := w.(*os.File)
	return ok && alsoOK && term.IsTerminal(int(in.Fd())) && term.IsTerminal(int(out.Fd()))
}

// An answer is one of a question's answers: what is shown, and what it means.
type answer struct{ shown, means string } // what a person reads, and what it stands for

// choose puts a question with a few answers; where nobody is there, flag says
// which option would have answered it.
func (a *app) choose(title, flag string, answers []answer) (string, error) {
	if !a.onTerminal() {
		return "", fmt.Errorf("no terminal to ask on: %s\nhint: answer it with %s", strings.ToLower(title), flag)
	}
	fmt.Fprintf(a.out, "\n%s\n", a.style.bold(title))
	for i, o := range answers {
		fmt.Fprintf(a.out, "  %d  %s\n", i+1, a.style.fit(clean(o.shown), a.style.Width-8))
	}
	for {
		said, err := a.enter(fmt.Sprintf("1 to %d", len(answers)))
		if err != nil {
			return "", err
		}
		if n, err := strconv.Atoi(strings.TrimRight(said, ".)")); err == nil && n >= 1 && n <= len(answers) {
			return answers[n-1].means, nil
		}
		fmt.Fprintf(a.out, "%q is none of them; type its number, or press Ctrl-C to stop.\n", clean(said))
	}
}

// yes answers a yes-or-no question, from its option when that was given.
func (a *app) yes(title, given, flag string) (bool, error) {
	switch strings.ToLower(given) {
	case "yes":
		return true, nil
	case "no":
		return false, nil
	case "":
	default:
		return false, wrongCall("%s %q is not yes or no", flag, given)
	}
	if !a.onTerminal() {
		return false, fmt.Errorf("no terminal to ask on: %s\nhint: answer it with %s", strings.ToLower(title), flag)
	}
	return a.ask(title)
}

// maybe is [app.yes] for a question that may stay unanswered: where there is no
// terminal to ask on, the answer is no.
func (a *app) maybe(title, given, flag string) (bool, error) {
	if given == "" && !a.onTerminal() {
		return false, nil
	}
	return a.yes(title, given, flag)
}

// fetch copies a log of the machine into the case.
func (a *app) fetch(m machine.Machine, path string) (string, error) {
	in, err := m.Open(path)
	if err != nil {
		return "", err
	}
	defer in.Close()
	dir, err := os.MkdirTemp("", "hollowkey-log-*")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(dir)
	at := filepath.Join(dir, path[strings.LastIndexByte(path, '\\')+1:])
	f, err := os.Create(at)
	if err != nil {
		return "", err
	}
	_, err = io.Copy(f, in)
	if err = errors.Join(err, f.Close()); err != nil {
		return "", err
	}
	return casefile.AddEvidence(a.caseFolder(), at)
}
