// This file makes, starts, stops and deletes services.

package rehearse

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"hollowkey/core/machine"
)

// The events of ServiceControl. Source: the platform SDK, "ServiceControl
// Table".
const (
	startAtInstall    = 0x001
	stopAtInstall     = 0x002
	deleteAtInstall   = 0x008
	startAtUninstall  = 0x010
	stopAtUninstall   = 0x020
	deleteAtUninstall = 0x080
)

// controls goes through the services that are to be controlled.
func (s *session) controls(install, uninstall int, do func(name string, wait bool)) error {
	list, err := s.rows("ServiceControl")
	if err != nil {
		return err
	}
	for _, r := range list {
		c, bits := s.comps[r.text("Component_")], r.number("Event")
		if c == nil || !(c.action == stateLocal && bits&install != 0 || c.action == stateAbsent && bits&uninstall != 0) {
			continue
		}
		do(s.format(r.text("Name")), r.number("Wait") != 0)
	}
	return nil
}

// startServices puts starts on the script. A failure stops the setup only where
// the package waits for the service.
func (s *session) startServices() error {
	return s.controls(startAtInstall, startAtUninstall, func(name string, wait bool) {
		started := false
		s.add(op{action: "StartServices", info: "Service: " + s.display(name),
			line: fmt.Sprintf("ServiceControl(,Name=%s,Action=1,Wait=1,)", name),
			do: func() error {
				svc, err := s.m.Service(name)
				if err == nil && svc.Running {
					return nil
				}
				if err == nil {
					err = s.startWith(svc, map[string]bool{})
				}
				// Only a start that is waited for can fail the setup.
				if err != nil && wait {
					return &stop{message: 1920, detail: "2: " + s.display(name) + " 3: " + name,
						text: fmt.Sprintf("Service '%s' (%s) failed to start.  Verify that you have sufficient privileges to start system services.",
							s.display(name), name)}
				}
				started = err == nil
				return nil
			},
			back: func() error {
				if !started {
					return nil
				}
				return s.m.StopService(name)
			}})
	})
}

// startWith starts a service after what it depends on, as the service manager
// does; seen are those that are on the way already.
func (s *session) startWith(svc machine.Service, seen map[string]bool) error {
	seen[svc.Name] = true
	for _, d := range svc.DependsOn {
		dep, err := s.m.Service(d)
		if err != nil || dep.Running || seen[dep.Name] {
			continue
		}
		if err := s.startWith(dep, seen); err != nil {
			return err
		}
	}
	return s.m.StartService(svc.Name)
}

// display is the name that the engine shows for a service.
func (s *session) display(name string) string {
	if svc, err := s.m.Service(name); err == nil && svc.Display != "" {
		return svc.Display
	}
	return name
}

// stopServices puts stops on the script; a service that did not run is not
// started by the rollback.
func (s *session) stopServices() error {
	return s.controls(stopAtInstall, stopAtUninstall, func(name string, wait bool) {
		stopped := false
		s.add(op{action: "StopServices", info: "Service: " + s.display(name),
			line: fmt.Sprintf("ServiceControl(,Name=%s,Action=2,Wait=1,)", name),
			do: func() error {
				svc, err := s.m.Service(name)
				// A service that is not there needs no stopping: packages stop
				// their own before they bring it.
				if err != nil || !svc.Running {
					return nil
				}
				if err := s.m.StopService(name); err != nil {
					if !wait {
						return nil
					}
					return &stop{message: 1921, detail: "2: " + s.display(name) + " 3: " + name,
						text: fmt.Sprintf("Service '%s' (%s) could not be stopped.  Verify that you have sufficient privileges to stop system services.",
							s.display(name), name)}
				}
				stopped = true
				return nil
			},
			back: func() error {
				if !stopped {
					return nil
				}
				return s.m.StartService(name)
			}})
	})
}

// deleteServices keeps the entry as it was, with a twin's own text, for the
// rollback.
func (s *session) deleteServices() error {
	return s.controls(deleteAtInstall, deleteAtUninstall, func(name string, _ bool) {
		var was machine.Service
		var section *machine.Section
		had := false
		s.add(op{action: "DeleteServices", info: "Service: " + s.display(name),
			line: fmt.Sprintf("ServiceControl(,Name=%s,Action=8,Wait=1,)", name),
			do: func() (err error) {
				was, err = s.m.Service(name)
				if err != nil {
					return ignoreAbsent(err)
				}
				// The entry as it is written is kept: a service that came back
				// with less than it had would not be undone.
				if v, ok := s.m.(machine.Verbatim); ok {
					section, _ = v.Section("service", name)
				}
				if was.Running {
					if err := s.m.StopService(name); err != nil {
						return &stop{message: 1922, detail: "2: " + name,
							text: fmt.Sprintf("Service '%s' (%s) could not be deleted.  Verify that you have sufficient privileges to remove system services.",
								s.display(name), name)}
					}
				}
				had = true
				return s.m.DeleteService(name)
			},
			back: func() error {
				v, ok := s.m.(machine.Verbatim)
				switch {
				case !had:
					return nil
				case ok && section != nil:
					return v.PutSection("service", *section)
				}
				return s.m.CreateService(was)
			}})
	})
}

// The start types of ServiceInstall. Source: the platform SDK, "ServiceInstall
// Table".
var startTypes = map[int]machine.StartType{0: machine.StartBoot, 1: machine.StartSystem, 2: machine.StartAutomatic,
	3: machine.StartManual, 4: machine.StartDisabled}

// installServices goes through the components that are installed.
func (s *session) installServices() error {
	list, err := s.rows("ServiceInstall")
	if err != nil {
		return err
	}
	for _, r := range list {
		c := s.comps[r.text("Component_")]
		if c == nil || c.action != stateLocal {
			continue
		}
		svc := machine.Service{Name: s.format(r.text("Name")), Display: s.format(r.text("DisplayName")),
			Start: startTypes[r.number("StartType")], Account: cmp.Or(s.format(r.text("StartName")), "LocalSystem"),
			Binary: strings.TrimSpace(`"` + s.symbol("#"+c.key) + `" ` + s.format(r.text("Arguments")))}
		for d := range strings.SplitSeq(s.format(r.text("Dependencies")), listMark) {
			if d = strings.TrimSpace(d); d != "" && !strings.HasPrefix(d, "+") {
				svc.DependsOn = append(svc.DependsOn, d)
			}
		}
		s.installService(svc)
	}
	return nil
}

// installService makes a service; one that is there keeps its settings on the
// twin, for what the engine changes of it the comparison of exit codes does not
// show.
func (s *session) installService(svc machine.Service) {
	made := false
	s.add(op{action: "InstallServices", info: "Service: " + svc.Display,
		line: fmt.Sprintf("ServiceInstall(Name=%s,DisplayName=%s,ImagePath=%s,ServiceType=16,StartType=2,ErrorControl=1,,)", svc.Name,
			svc.Display, svc.Binary),
		do: func() error {
			_, err := s.m.Service(svc.Name)
			if err == nil {
				return nil // its settings are renewed; the twin keeps its own
			}
			if !errors.Is(err, fs.ErrNotExist) {
				return err
			}
			// Whether the password is right, a twin cannot know; whether the
			// account exists, it can.
			if !machine.OwnAccount(svc.Account) {
				if _, err := s.m.Account(svc.Account); err != nil {
					return &stop{message: 1923, detail: "2: " + svc.Display + " 3: " + svc.Name,
						text: fmt.Sprintf("Service '%s' (%s) could not be installed.  Verify that you have sufficient privileges to install system "+
							"services.", svc.Display, svc.Name)}
				}
				s.assume("the password of %s, as which the service %s runs, is right", svc.Account, svc.Name)
				svc.Account = "LocalSystem"
			}
			made = true
			return s.m.CreateService(svc)
		},
		back: func() error {
			if !made {
				return nil
			}
			return s.m.DeleteService(svc.Name)
		}})
}
