// This file asks what keeps a service from starting, stopping or being made.

package checks

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/guard"
	"hollowkey/core/step"
)

// maxDepth is how many services may depend on each other in a row; real chains
// have fewer than ten.
const maxDepth = 30

// service finds a service by its name, or by the title that the OS shows for
// it.
func (l *look) service(name string) (machine.Service, error) {
	s, err := l.m.Service(name)
	if !errors.Is(err, fs.ErrNotExist) {
		return s, err
	}
	all, unread := l.m.ServiceNames()
	if unread != nil {
		return s, err
	}
	for _, n := range all {
		if o, bad := l.m.Service(n); bad == nil && o.Display != "" && strings.EqualFold(o.Display, name) {
			return o, nil
		}
	}
	return s, err
}

// serviceStartable looks for what keeps a service from starting: a disabled
// service on the way down its dependencies, the deepest first.
func (l *look) serviceStartable(with arguments) Finding {
	const name = "service-startable"
	s, err := l.service(with["service"])
	if err != nil {
		return l.cannot(name, "the service "+with["service"], err)
	}
	if b, way, found := l.blocker(s, nil, map[string]bool{}); found {
		f := Finding{Name: name, Answer: Stop, Mend: "set " + b.Name + " to start on demand", Seen: s.Name + " is disabled",
			Captures: map[string]string{"blocker": b.Name, "mode": string(machine.StartManual), "because": "It is disabled."},
			Steps:    []step.Model{step.New("service", "name", b.Name, "start", string(machine.StartManual))}}
		if b.Name != s.Name {
			f.Captures["because"] = fmt.Sprintf("It depends on %s, which is disabled.", b.Name)
			f.Seen = fmt.Sprintf("%s is disabled, and %s depends on it", b.Name, strings.Join(way, " → "))
		}
		return f
	}
	if s.Running {
		return pass(name, "%s runs", s.Name)
	}
	if program := l.expand(programOf(s.Binary)); program != "" && strings.Contains(program, `\`) {
		// A twin may hold nothing of the folder; where the folder is there, so
		// should the program be.
		if l.there(program[:strings.LastIndexByte(program, '\\')]) == nil && errors.Is(l.there(program), fs.ErrNotExist) {
			return Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("the program of %s, %s, is not there", s.Name, program),
				Mend: "repair or install again what brought " + s.Name}
		}
	}
	return unknown(name, "neither %s nor what it depends on is disabled", s.Name)
}

// serviceDependency asks for what a service depends on and is not there.
// Drivers are services too, which no list of services has: those of the OS, and
// groups, are passed over, and so is what the registry knows.
func (l *look) serviceDependency(with arguments) Finding {
	const name = "service-dependency"
	s, err := l.service(with["service"])
	if err != nil {
		return l.cannot(name, "the service "+with["service"], err)
	}
	for _, d := range s.DependsOn {
		if strings.HasPrefix(d, "+") || osDrivers[strings.ToLower(d)] {
			continue
		}
		if _, err := l.m.Service(d); !errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if there, err := l.keyThere(`HKLM\SYSTEM\CurrentControlSet\Services\` + d); err == nil && there {
			continue
		}
		return Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("%s depends on %s, which is not there", s.Name, d),
			Mend:  fmt.Sprintf("install what brings %s again, or take it from what %s depends on", d, s.Name),
			Steps: []step.Model{step.New("dependency", "name", s.Name, "on", d, "state", "absent")}}
	}
	return unknown(name, "nothing that %s depends on is known to be missing", s.Name)
}

// osDrivers are drivers of the OS that services depend on. Source: the OS's
// services of an installation, by their type.
var osDrivers = map[string]bool{"afd": true, "tcpip": true, "tcpip6": true, "tdx": true, "nsi": true, "nsiproxy": true, "http": true, "mup": true, "mrxsmb": true,
	"mrxsmb10": true, "mrxsmb20": true, "rdbss": true, "ndis": true, "ndisuio": true, "netbt": true, "fltmgr": true, "ksecdd": true, "wfplwfs": true, "srv": true,
	"srv2": true, "srvnet": true, "bowser": true, "nativewifip": true, "vwififlt": true, "vwifibus": true, "ipsec": true, "mpsdrv": true, "luafv": true,
	"storflt": true, "vmbus": true, "hvsocketcontrol": true, "wudfpf": true, "wudfrd": true, "usbhub": true, "bthport": true, "condrv": true, "winquic": true,
	"lxcore": true, "p9rdr": true, "wcifs": true, "bindflt": true, "vmswitch": true, "vfpext": true, "rasacd": true, "ndistapi": true, "pcw": true}

// serviceRunning asks whether a service runs that must, and what keeps it from
// it where it does not.
func (l *look) serviceRunning(with arguments) Finding {
	const name = "service-running"
	f := l.serviceStartable(with)
	if f.Name = name; f.Answer != Unknown || f.unread {
		return f
	}
	s, err := l.service(with["service"])
	if err != nil {
		return l.cannot(name, "the service "+with["service"], err)
	}
	return Finding{Name: name, Answer: Stop, Seen: s.Name + " does not run", Mend: "start " + s.Name,
		Steps: []step.Model{step.New("service", "name", s.Name, "state", "running")}}
}

// serviceLeft asks whether a service that a setup wants to make is there
// already, and whether its program still is.
func (l *look) serviceLeft(with arguments) Finding {
	const name = "service-left"
	s, err := l.service(with["service"])
	if errors.Is(err, fs.ErrNotExist) {
		return pass(name, "there is no service %s now", with["service"])
	}
	if err != nil {
		return l.cannot(name, "the service "+with["service"], err)
	}
	f := Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("the service %s is there (%s)", s.Name, s.Binary),
		Mend: "remove the version that brought " + s.Name + " first"}
	refused := (guard.Refused{})
	if program := programOf(s.Binary); program != "" && !s.Running && !errors.As(guard.Service(s.Name), &refused) {
		if err := l.there(l.expand(program)); errors.Is(err, fs.ErrNotExist) {
			f.Seen = fmt.Sprintf("the service %s is there, and its program %s is not", s.Name, program)
			f.Mend = "remove the service " + s.Name + ", which an earlier version left"
			f.Steps = []step.Model{step.New("remove-service", "name", s.Name)}
		}
	}
	return f
}

// programOf is the program's file in a service's command line; empty where it
// cannot be told.
func programOf(command string) string {
	if rest, quoted := strings.CutPrefix(command, `"`); quoted {
		program, _, _ := strings.Cut(rest, `"`)
		return program
	}
	if at := strings.Index(strings.ToLower(command), ".exe"); at >= 0 {
		return command[:at+len(".exe")]
	}
	return ""
}

// serviceStoppable looks whether a service runs that a setup could not stop,
// and what depends on it and runs too.
func (l *look) serviceStoppable(with arguments) Finding {
	const name = "service-stoppable"
	s, err := l.service(with["service"])
	if err != nil {
		return l.cannot(name, "the service "+with["service"], err)
	}
	if !s.Running {
		return pass(name, "%s does not run now", s.Name)
	}
	if refused := (guard.Refused{}); errors.As(guard.Service(s.Name), &refused) {
		f := unknown(name, "%s runs, and is not stopped from here: %s", s.Name, refused.Why)
		f.unread = true // that it runs is as it should be
		return f
	}
	f := Finding{Name: name, Answer: Stop, Mend: "stop " + s.Name + " before the setup runs", Seen: s.Name + " runs",
		Captures: map[string]string{"running": s.Name, "dependents": ""},
		Steps:    []step.Model{step.New("service", "name", s.Name, "state", "stopped")}}
	if others := machine.Dependents(l.m, s.Name); len(others) > 0 {
		f.Captures["dependents"] = strings.Join(others, ", ")
		f.Seen = fmt.Sprintf("%s runs, and so do %s, which depend on it", s.Name, f.Captures["dependents"])
		if len(others) == 1 {
			f.Seen = fmt.Sprintf("%s runs, and so does %s, which depends on it", s.Name, others[0])
		}
	}
	return f
}

// blocker finds the deepest disabled service below s. A service that was seen
// before is not gone into again: services may depend on each other.
func (l *look) blocker(s machine.Service, way []string, seen map[string]bool) (machine.Service, []string, bool) {
	if seen[s.Name] || len(way) > maxDepth {
		return s, nil, false
	}
	seen[s.Name] = true
	way = append(way[:len(way):len(way)], s.Name)
	for _, d := range s.DependsOn {
		dep, err := l.m.Service(d)
		if err != nil {
			continue
		}
		if b, w, found := l.blocker(dep, way, seen); found {
			return b, w, true
		}
	}
	if s.Start == machine.StartDisabled && !s.Running {
		return s, way[:max(len(way)-1, 1)], true
	}
	return s, nil, false
}

// serviceAccount asks whether a service's account may log on as one.
func (l *look) serviceAccount(with arguments) Finding {
	const name = "service-account"
	s, err := l.service(with["service"])
	if err != nil {
		return l.cannot(name, "the service "+with["service"], err)
	}
	if machine.OwnAccount(s.Account) {
		return pass(name, "%s runs as %s, which needs no such right", s.Name, s.Account)
	}
	account := strings.TrimPrefix(s.Account, `.\`) // of this machine, which looks for a bare name among its own first
	rights, err := l.m.LogonRights(account)
	if err != nil {
		return l.cannot(name, "", err)
	}
	if slices.Contains(rights, "SeServiceLogonRight") {
		return pass(name, "%s, the account of %s, has the right to log on as a service", s.Account, s.Name)
	}
	return Finding{Name: name, Answer: Stop, Captures: map[string]string{"account": account},
		Seen:  fmt.Sprintf("%s, the account of %s, was not given the right to log on as a service", s.Account, s.Name),
		Mend:  "give " + account + " the right to log on as a service",
		Steps: []step.Model{step.New("logon-right", "account", account, "right", "SeServiceLogonRight")}}
}

// installerService looks at the service of the OS's own installer engine.
func (l *look) installerService() Finding {
	const name = "installer service"
	again := []step.Model{step.New("installer-service")}
	s, err := l.m.Service("msiserver")
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return Finding{Name: name, Answer: Stop, Seen: "it is not registered", Mend: "register it again", Steps: again}
	case err != nil:
		return l.cannot(name, "", err)
	case s.Start == machine.StartDisabled:
		return Finding{Name: name, Answer: Stop, Seen: "its start type is disabled", Mend: "set it to manual",
			Steps: []step.Model{step.New("service", "name", "msiserver", "start", string(machine.StartManual))}}
	case !strings.Contains(strings.ToLower(s.Binary), "msiexec"):
		return Finding{Name: name, Answer: Stop, Seen: "it is registered with another program: " + s.Binary, Mend: "register it again",
			Steps: again}
	}
	return pass(name, "start type %s", s.Start)
}
