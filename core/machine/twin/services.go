// This file is a twin's service manager.

package twin

import (
	"fmt"
	"io/fs"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/machine"
	"hollowkey/core/machine/twinfile"
)

// System errors that starting and stopping a service give.
const (
	errDependencyRuns   = 1051
	errAlreadyRunning   = 1056
	errDisabled         = 1058
	errNotActive        = 1062
	errDependencyFailed = 1068
	errNoDependency     = 1075
)

// allServices reads services.yaml.
func (t *Twin) allServices() ([]twinfile.Service, error) {
	var all []twinfile.Service
	if t.services.doc == nil {
		return nil, nil
	}
	if err := t.services.doc.Decode(&all); err != nil {
		return nil, fmt.Errorf("services.yaml: %w", err)
	}
	for i, s := range all {
		if _, err := machine.ParseStartType(s.Start); s.Name == "" || err != nil {
			return nil, fmt.Errorf("services.yaml:%d: service %q: %v", t.services.doc.Content[i].Line, s.Name, err)
		}
		if s.State != "running" && s.State != "stopped" {
			return nil, fmt.Errorf("services.yaml:%d: service %q: the state %q is not running or stopped", t.services.doc.Content[i].Line, s.Name,
				s.State)
		}
	}
	return all, nil
}

// entry finds a service and its place in the file.
func (t *Twin) entry(name string) (twinfile.Service, *yaml.Node, error) {
	all, err := t.allServices()
	if err != nil {
		return twinfile.Service{}, nil, err
	}
	for i, s := range all {
		if strings.EqualFold(s.Name, name) {
			return s, t.services.doc.Content[i], nil
		}
	}
	for i, s := range all {
		if s.Display != "" && strings.EqualFold(s.Display, name) {
			return s, t.services.doc.Content[i], nil
		}
	}
	return twinfile.Service{}, nil, fmt.Errorf("service %.80q on %s: %w", name, t.Name(), fs.ErrNotExist)
}

// ServiceNames lists the services of services.yaml.
func (t *Twin) ServiceNames() (names []string, err error) {
	all, err := t.allServices()
	for _, s := range all {
		names = append(names, s.Name)
	}
	return names, err
}

// Service finds a service by its name or display name.
func (t *Twin) Service(name string) (machine.Service, error) {
	s, _, err := t.entry(name)
	return machine.Service{
		Name: s.Name, Display: s.Display, Binary: s.Binary, Account: s.Account, Start: machine.StartType(s.Start), Delayed: s.Delayed,
		DependsOn: s.Depends, Running: s.State == "running",
	}, err
}

// setService changes one field of a service in place.
func (t *Twin) setService(name, field, value string) error {
	_, node, err := t.entry(name)
	if err != nil {
		return err
	}
	n := find(node, field)
	if n == nil {
		return fmt.Errorf("services.yaml:%d: service %s has no %s", node.Line, name, field)
	}
	if err := t.services.set(n, value); err != nil {
		return err
	}
	return t.write(t.services.name, t.services.text)
}

// SetStartType sets when a service starts.
func (t *Twin) SetStartType(name string, s machine.StartType) error {
	return t.setService(name, "start", string(s))
}

// StartService starts a service as the OS would: not when it is disabled, and
// not before what it depends on runs.
func (t *Twin) StartService(name string) error {
	s, _, err := t.entry(name)
	if err != nil {
		return err
	}
	fail := func(code int) error {
		return machine.SystemError{Code: code, What: fmt.Sprintf("service %s on %s does not start", s.Name, t.Name())}
	}
	// In the order in which the OS's service manager refuses.
	switch {
	case s.State == "running":
		return fail(errAlreadyRunning)
	case s.Start == string(machine.StartDisabled):
		return fail(errDisabled)
	}
	for _, d := range s.Depends {
		dep, _, err := t.entry(d)
		if err != nil {
			return fail(errNoDependency)
		}
		if dep.State != "running" {
			return fail(errDependencyFailed)
		}
	}
	if s.AtStart != 0 {
		return fail(s.AtStart)
	}
	return t.setService(s.Name, "state", "running")
}

// StopService stops a service that no running service depends on.
func (t *Twin) StopService(name string) error {
	s, _, err := t.entry(name)
	if err != nil {
		return err
	}
	fail := func(code int) error {
		return machine.SystemError{Code: code, What: fmt.Sprintf("service %s on %s does not stop", s.Name, t.Name())}
	}
	if s.State != "running" {
		return fail(errNotActive)
	}
	all, err := t.allServices()
	if err != nil {
		return err
	}
	for _, o := range all {
		for _, d := range o.Depends {
			if strings.EqualFold(d, s.Name) && o.State == "running" {
				return fail(errDependencyRuns)
			}
		}
	}
	return t.setService(s.Name, "state", "stopped")
}
