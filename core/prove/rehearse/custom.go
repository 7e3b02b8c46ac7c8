// This file carries out what can be carried out without the vendor's code, and
// says of the rest that it was assumed.

package rehearse

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/sequence"
)

// custom gives what a custom action does; ok is false when the name is none.
func (s *session) custom(name string) (do func() error, ok bool, err error) {
	list, err := s.rows("CustomAction")
	if err != nil {
		return nil, false, err
	}
	for _, r := range list {
		if r.text("Action") == name {
			c := sequence.Decode(r.number("Type"), r.text("Source"), r.text("Target"))
			return func() error { return s.runCustom(name, c) }, true, nil
		}
	}
	return nil, false, nil
}

// runCustom carries out what can be carried out without the vendor's code:
// messages, properties, folders. Programs, scripts and DLLs are taken to work,
// and the result says so.
func (s *session) runCustom(name string, c sequence.Custom) error {
	switch {
	case c.Error:
		return s.said(s.format(s.errorText(c.Target)))
	case c.Sets != "":
		value := s.format(c.Target)
		if _, isFolder := s.dirs[c.Sets]; isFolder {
			value = strings.TrimRight(value, `\`) + `\`
			s.dirs[c.Sets] = value
		}
		s.set(c.Sets, value)
		return nil
	case c.When == sequence.Rollback, c.When == sequence.Commit:
		s.assume("the %s action %s works", c.When, name)
		return nil
	}
	if c.When == sequence.Deferred {
		target := s.format(c.Target)
		s.add(op{action: name, line: fmt.Sprintf("CustomActionSchedule(Action=%s,ActionType=%d,Source=%s,Target=%s,)", name, c.Type, c.Source,
			target),
			do: func() error { return s.program(name, c, target) }})
		return nil
	}
	return s.program(name, c, s.format(c.Target))
}

// errorText is the text of a type 19 action: its own, or that of a row of the
// Error table.
func (s *session) errorText(target string) string {
	list, err := s.rows("Error")
	if err != nil {
		return target
	}
	for _, r := range list {
		if fmt.Sprint(r.number("Error")) == target {
			return r.text("Message")
		}
	}
	return target
}

// program asks the twin what a program, DLL or script ends with: by the
// action's name ("custom action NAME") or by its command line. What the twin
// does not say is taken to work.
func (s *session) program(name string, c sequence.Custom, target string) error {
	// A twin may say what an action ends with, by its name or by its command;
	// what it does not say is assumed to work, and said to be assumed.
	code, err := s.m.Run(context.Background(), strings.Fields("custom action "+name), func(line string) { s.log.raw("%s: %s", name, line) })
	if errors.Is(err, machine.ErrUnsupported) && target != "" {
		code, err = s.m.Run(context.Background(), strings.Fields(target), nil)
	}
	switch {
	case errors.Is(err, machine.ErrUnsupported):
		s.assume("the custom action %s works (%s)", name, c.Does)
		return nil
	case err != nil:
		return err
	case code == 0 || c.Ignored || !c.Waits:
		if code != 0 {
			s.log.raw("CustomAction %s returned actual error code %d but will be translated to success due to continue marking", name, code)
		}
		return nil
	}
	s.log.raw("CustomAction %s returned actual error code %d (note this may not be 100%% accurate if translation happened inside sandbox)",
		name, code)
	// The engine has two messages for it: one for libraries, one for programs.
	if !c.Program {
		return &stop{message: 1723, detail: "2: " + name,
			text: fmt.Sprintf("There is a problem with this Windows Installer package. A DLL required for this install to complete could not be "+
				"run. Contact your support personnel or package vendor.  Action %s, entry: %s, library: %s ", name, target, c.Source)}
	}
	return &stop{message: 1722, detail: "2: " + name,
		text: fmt.Sprintf("There is a problem with this Windows Installer package. A program run as part of the setup did not finish as "+
			"expected. Contact your support personnel or package vendor.  Action %s, location: %s, command: %s ", name, c.Source, target)}
}
