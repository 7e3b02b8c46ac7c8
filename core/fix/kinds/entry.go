// This file has the steps on a service's entry: whether there is one, and on
// what it depends.

package kinds

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
)

// EntryState is a service's entry with the service manager, or its absence.
type EntryState struct {
	There   bool             `json:"there"`             // false: no such service, and the rest is empty
	Service machine.Service  `json:"service"`           // all that makes it again
	Section *machine.Section `json:"section,omitempty"` // of a twin's file
}

// entryFamily has the rows about a service's entry in the service database:
// whether it is there, and on what it depends. Whether it runs is another
// family, since that changes by itself.
func entryFamily() family {
	return define(func() *EntryState { return &EntryState{} },
		row[*EntryState]{read: readEntry, write: writeEntry},
		row[*EntryState]{name: "dependency", want: wantDependency, words: dependencyWords},
		row[*EntryState]{name: "remove-service", want: wantNoService, words: noServiceWords},
		row[*EntryState]{name: "installer-service", prepare: prepareInstaller, want: wantInstaller, words: installerWords})
}

// prepareInstaller gives the step its fixed target: there is one such service,
// and no argument may point the step at another.
func prepareInstaller(s *Step) error {
	s.Target = "msiserver"
	return nil
}

func (*EntryState) family() string { return "entry" }

// plain leaves out the definition as it stands in a twin's file.
func (st *EntryState) plain() Fact {
	p := *st
	p.Section = nil
	return &p
}

// powerShell makes, deletes or changes the service with the service
// controller's own program; PowerShell's own commands cannot set what it
// depends on.
func (st *EntryState) powerShell(s Step, from Fact) (lines []string, err error) {
	was := from.(*EntryState)
	deps := strings.Join(st.Service.DependsOn, "/")
	if deps == "" {
		deps = "/" // none
	}
	switch {
	case !st.There:
		return psCall("sc.exe", "delete", s.Target)
	// Only the dependencies differ, and those alone are set.
	case was.There && was.Service.Binary == st.Service.Binary:
		return psCall("sc.exe", "config", s.Target, "depend=", deps)
	}
	start, ok := scStart[st.Service.Start]
	if !ok {
		return nil, fmt.Errorf("the start type %q is not known", st.Service.Start)
	}
	if was.There {
		if lines, err = psCall("sc.exe", "delete", s.Target); err != nil {
			return nil, err
		}
	}
	args := []string{"sc.exe", "create", s.Target, "binPath=", st.Service.Binary, "DisplayName=", st.Service.Display, "start=", start,
		"depend=", deps}
	if st.Service.Account != "" {
		args = append(args, "obj=", st.Service.Account)
	}
	made, err := psCall(args...)
	return append(lines, made...), err
}

// command only deletes; making one again takes more than a command file can
// check.
func (st *EntryState) command(s Step, _ Fact) ([]string, error) {
	if st.There {
		return nil, errNoCommand
	}
	return cmdCall("sc.exe delete", s.Target)
}

// readEntry reads what the service manager has of a service. Whether it runs is
// left out: that is the service step's matter, and a stop or start between
// preview and change must not look like somebody else's change. Of a twin the
// entry's own text is kept, so that putting it back restores it to the byte.
func readEntry(m machine.Machine, s Step) (*EntryState, error) {
	svc, err := m.Service(s.Target)
	if errors.Is(err, fs.ErrNotExist) {
		return &EntryState{}, nil
	}
	if err != nil {
		return nil, err
	}
	e := &EntryState{There: true, Service: svc}
	e.Service.Running = false // another step's matter
	if v, ok := m.(machine.Verbatim); ok {
		if e.Section, err = v.Section("service", svc.Name); err != nil {
			return nil, err
		}
	}
	return e, nil
}

// writeEntry changes no more than it must: where only the dependencies differ
// they alone are set, for deleting and making a service anew loses its security
// list and its failure actions. A service that is put back comes back stopped.
func writeEntry(m machine.Machine, s Step, to *EntryState) error {
	now, err := readEntry(m, s)
	if err != nil {
		return err
	}
	was, want := now, to
	onlyDeps := was.Service
	onlyDeps.DependsOn = want.Service.DependsOn
	switch {
	case was.There && want.There && fmt.Sprint(onlyDeps) == fmt.Sprint(want.Service):
		return m.SetDependencies(s.Target, want.Service.DependsOn)
	case was.There:
		if err := m.DeleteService(was.Service.Name); err != nil || !want.There {
			return err
		}
	case !want.There:
		return nil
	}
	// On a twin the entry comes back in the very lines that it had, so that
	// nothing but the change shows.
	if v, ok := m.(machine.Verbatim); ok && want.Section != nil {
		if err := v.PutSection("service", *want.Section); err != nil {
			return err
		}
		if svc, err := m.Service(s.Target); err != nil || !svc.Running {
			return err
		}
		return m.StopService(s.Target) // as it was when it was deleted; starting it is a step of its own
	}
	return m.CreateService(want.Service)
}

// Lines tells the entry for a preview: what it runs first, since by that a
// technician knows a service.
func (st *EntryState) Lines(_ machine.Accounts) []string {
	e := st
	if !e.There {
		return []string{"the service is absent"}
	}
	lines := []string{"runs " + e.Service.Binary, "start type " + string(e.Service.Start)}
	if e.Service.Account != "" {
		lines = append(lines, "as "+e.Service.Account)
	}
	if len(e.Service.DependsOn) > 0 {
		lines = append(lines, "depends on "+strings.Join(e.Service.DependsOn, ", "))
	}
	return lines
}

// Deleting a leftover service.

// wantNoService refuses services of the OS, and those that run as a person:
// their password is not known, so the way back would end in a service that
// cannot log on.
func wantNoService(_ machine.Machine, s Step, now *EntryState) (*EntryState, error) {
	if now.There && partOfOS(now.Service.Binary) {
		return nil, fmt.Errorf("the service %s is a part of the OS (%s), so it is not deleted", s.Target, now.Service.Binary)
	}
	if now.There && !machine.OwnAccount(now.Service.Account) {
		return nil, fmt.Errorf("the service %s runs as %s; its password is not known, so it could not be put back\n"+
			"hint: set its start type to disabled instead", s.Target, now.Service.Account)
	}
	return &EntryState{}, nil
}

// partOfOS tells a service of the OS by where its program lies, in any of the
// spellings that the service manager keeps.
func partOfOS(binary string) bool {
	b := strings.ToLower(strings.Trim(binary, `"`))
	for _, start := range []string{`c:\windows\`, `%systemroot%`, `%windir%`, `\systemroot\`} {
		if strings.HasPrefix(b, start) {
			return true
		}
	}
	return false
}

// noServiceWords says the step to a person, with the name that commands take,
// not the title.
func noServiceWords(s Step) string { return "delete the service " + s.Target }

// The installer's own service, as the OS registers it.

// wantInstaller compares only what decides whether the engine can be reached:
// the program, its switch, the account and the one dependency. Start type and
// shown name are left as they are found.
func wantInstaller(_ machine.Machine, s Step, now *EntryState) (*EntryState, error) {
	svc := machine.Service{Name: s.Target, Display: "Windows Installer", Binary: `%systemroot%\system32\msiexec.exe /V`,
		Start: machine.StartManual, Account: "LocalSystem", DependsOn: []string{"rpcss"}}
	if e := now; e.There {
		binary := strings.ToLower(e.Service.Binary)
		right := strings.Contains(binary, `\system32\msiexec`) && strings.Contains(binary, "/v") &&
			strings.EqualFold(e.Service.Account, svc.Account) &&
			slices.ContainsFunc(e.Service.DependsOn, func(d string) bool { return strings.EqualFold(d, "rpcss") })
		if right {
			return now, nil // its start type is another step's matter
		}
		svc.Display = e.Service.Display
	}
	return &EntryState{There: true, Service: svc}, nil
}

// installerWords says the step to a person. It is about one service only, so it
// needs no target.
func installerWords(Step) string {
	return "register the installer's service (msiserver) as the OS does"
}

// Dependencies.

// wantDependency adds or takes away one name and leaves the others, in their
// order: the service manager shows them so, and a person compares them by eye.
func wantDependency(_ machine.Machine, s Step, now *EntryState) (*EntryState, error) {
	if !now.There {
		return nil, fmt.Errorf("the service %s: %w", s.Target, fs.ErrNotExist)
	}
	want := *now
	want.Section = nil
	deps := slices.DeleteFunc(slices.Clone(want.Service.DependsOn), func(d string) bool { return strings.EqualFold(d, s.Args["on"]) })
	had := len(deps) < len(want.Service.DependsOn)
	switch s.Args["state"] {
	case "present":
		if had {
			return now, nil
		}
		deps = append(deps, s.Args["on"])
	case "absent":
		if !had {
			return now, nil
		}
	default:
		return nil, fmt.Errorf("state=%q is not present or absent", s.Args["state"])
	}
	if s.Args["on"] == "" {
		return nil, errors.New("a dependency step needs on=SERVICE")
	}
	want.Service.DependsOn = deps
	return &want, nil
}

// dependencyWords says the step to a person: which service waits for which.
func dependencyWords(s Step) string {
	if s.Args["state"] == "absent" {
		return fmt.Sprintf("let the service %s no longer depend on %s", s.Target, s.Args["on"])
	}
	return fmt.Sprintf("let the service %s depend on %s", s.Target, s.Args["on"])
}
