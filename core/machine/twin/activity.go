// This file is what runs on a twin: rows of its about-file that end when they
// are ended.

package twin

import (
	"context"
	"fmt"
	"io/fs"
	"net"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/machine"
)

// Processes are the running programs.
func (t *Twin) Processes() (list []machine.Process, err error) {
	for _, p := range t.about.Processes {
		list = append(list, machine.Process{ID: p.ID, Name: p.Name, User: p.User})
	}
	return list, nil
}

// Holders are the processes that keep one of the files open.
func (t *Twin) Holders(files ...string) (list []machine.Process, err error) {
	for _, p := range t.about.Processes {
		if slices.ContainsFunc(p.Files, func(f string) bool {
			return slices.ContainsFunc(files, func(o string) bool { return strings.EqualFold(f, o) })
		}) {
			list = append(list, machine.Process{ID: p.ID, Name: p.Name, User: p.User})
		}
	}
	return list, nil
}

// held says whether a process keeps a file open.
func (t *Twin) held(whole string) bool {
	list, _ := t.Holders(whole)
	return len(list) > 0
}

// EndProcess takes a process out of twin.yaml.
func (t *Twin) EndProcess(id int) error {
	for i, p := range t.about.Processes {
		if p.ID == id {
			return t.cutOf("processes", i)
		}
	}
	return fmt.Errorf("process %d on %s: %w", id, t.Name(), fs.ErrNotExist)
}

// Sessions are the users who are signed in; the program itself runs in the
// session of the twin's signed-in user.
func (t *Twin) Sessions() (list []machine.Session, err error) {
	for _, s := range t.about.Sessions {
		list = append(list, machine.Session{ID: s.ID, User: s.User, Active: s.State != "disconnected",
			Own: strings.EqualFold(s.User, t.about.SignedIn)})
	}
	return list, nil
}

// SignOut takes a session out of twin.yaml.
func (t *Twin) SignOut(id int) error {
	for i, s := range t.about.Sessions {
		if s.ID == id {
			return t.cutOf("sessions", i)
		}
	}
	return fmt.Errorf("session %d on %s: %w", id, t.Name(), fs.ErrNotExist)
}

// cutOf takes one entry out of a list of twin.yaml; an empty list goes with its
// name.
func (t *Twin) cutOf(list string, i int) error {
	for _, p := range t.self.pairs() {
		if p.key.Value != list || p.value.Kind != yaml.SequenceNode {
			continue
		}
		from, to, err := t.self.entryLines(p.value, i)
		if err != nil {
			return err
		}
		if len(p.value.Content) == 1 {
			from = p.key.Line - 1
		}
		if err := t.self.cutEntry(func() *yaml.Node { return find(t.self.doc, list) }, i, from, to); err != nil {
			return err
		}
		return t.selfChanged()
	}
	return fmt.Errorf("twin.yaml has no list %q", list)
}

// selfChanged writes twin.yaml and reads it anew, so that facts and file never
// differ.
func (t *Twin) selfChanged() error {
	if err := t.write(t.self.name, t.self.text); err != nil {
		return err
	}
	return t.aboutItself()
}

// SafeBoot says how the twin starts next time.
func (t *Twin) SafeBoot() (machine.SafeBoot, error) {
	switch s := machine.SafeBoot(t.about.SafeBoot); s {
	case "":
		return machine.SafeBootOff, nil
	case machine.SafeBootOff, machine.SafeBootMinimal, machine.SafeBootNetwork:
		return s, nil
	}
	return "", fmt.Errorf("twin.yaml: safe boot: %q is not off, minimal or network", t.about.SafeBoot)
}

// SetSafeBoot sets how the twin starts next time.
func (t *Twin) SetSafeBoot(to machine.SafeBoot) error {
	const key = "safe boot"
	n := find(t.self.doc, key)
	var err error
	switch {
	case n == nil:
		err = t.self.add(key, string(to))
	case to == machine.SafeBootOff && n.Value != string(machine.SafeBootOff) && n.Style == yaml.SingleQuotedStyle:
		err = t.self.remove(key) // we added it
	default:
		err = t.self.set(n, string(to))
	}
	if err != nil {
		return err
	}
	return t.selfChanged()
}

// Run answers as twin.yaml says that the program does. A command that it says
// nothing of is [machine.ErrUnsupported]: a stand-in does not guess what a
// program would do.
func (t *Twin) Run(_ context.Context, command []string, said func(string)) (int, error) {
	line := strings.Join(command, " ")
	for _, p := range t.about.Programs {
		if !strings.EqualFold(p.Run, line) {
			continue
		}
		for _, l := range p.Says {
			if said != nil {
				said(l)
			}
		}
		return p.Exit, nil
	}
	return 0, fmt.Errorf("a twin runs no programs, and %s does not say how %q would end: %w", t.Name(), line, machine.ErrUnsupported)
}

// Reaches tells what twin.yaml says about a host. A host that it does not name
// is [machine.ErrUnsupported], and not one that is out of reach.
func (t *Twin) Reaches(_ context.Context, host string, port int) error {
	names := []string{host}
	if port != 0 {
		names = append(names, net.JoinHostPort(host, strconv.Itoa(port)))
	}
	for known, answers := range t.about.Hosts {
		if !slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, known) }) {
			continue
		}
		if !answers {
			return fmt.Errorf("%s does not answer", known)
		}
		return nil
	}
	if slices.ContainsFunc(t.about.Unresolved, func(n string) bool { return strings.EqualFold(n, host) }) {
		return fmt.Errorf("%s: %w", host, machine.ErrNoName)
	}
	return fmt.Errorf("the twin does not say whether %s answers: %w", host, machine.ErrUnsupported)
}

// UserNames lists the users of twin.yaml.
func (t *Twin) UserNames() (names []string, err error) {
	for _, u := range t.about.Users {
		names = append(names, u.Name)
	}
	return names, nil
}

// LogonRights are the rights of rights.yaml.
func (t *Twin) LogonRights(account string) ([]string, error) {
	a, err := t.Account(account)
	if err != nil {
		return nil, err
	}
	if n := find(t.rights.doc, a.Name); n != nil {
		return strings.Fields(n.Value), nil
	}
	return nil, nil
}

// SetLogonRight gives an account a right, or takes it.
func (t *Twin) SetLogonRight(account, right string, held bool) error {
	a, err := t.Account(account)
	if err != nil {
		return err
	}
	has, err := t.LogonRights(account)
	if err != nil {
		return err
	}
	// A row without rights is taken out, so that undo leaves the file as it
	// was.
	rest := slices.DeleteFunc(slices.Clone(has), func(r string) bool { return strings.EqualFold(r, right) })
	if held && len(rest) < len(has) {
		return nil
	}
	if held {
		rest = append(rest, right)
	}
	n := find(t.rights.doc, a.Name)
	switch {
	case n == nil && len(rest) > 0:
		err = t.rights.add(a.Name, strings.Join(rest, " "))
	case n != nil && len(rest) == 0:
		err = t.rights.remove(a.Name)
	case n != nil:
		err = t.rights.set(n, strings.Join(rest, " "))
	}
	if err != nil {
		return err
	}
	return t.write(t.rights.name, t.rights.text)
}
