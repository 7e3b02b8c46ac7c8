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

// serviceStartable looks for what keeps a service from starting: a disabled
// service on the way down its dependencies, the deepest first.
func (l *look) serviceStartable(with arguments) Finding {
	const name = "service-startable"
	s, err := l.m.Service(with["service"])
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
	return unknown(name, "neither %s nor what it depends on is disabled", s.Name)
}

// serviceStoppable looks whether a service runs that a setup could not stop, and what depends on it and runs too.
func (l *look) serviceStoppable(with arguments) Finding {
	const name = "service-stoppable"
	s, err := l.m.Service(with["service"])
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

// blocker finds the deepest disabled service below s. A service that was seen before is
// not gone into again: services may depend on each other.
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
	s, err := l.m.Service(with["service"])
	if err != nil {
		return l.cannot(name, "the service "+with["service"], err)
	}
	if machine.OwnAccount(s.Account) {
		return pass(name, "%s runs as %s, which needs no such right", s.Name, s.Account)
	}
	rights, err := l.m.LogonRights(s.Account)
	if err != nil {
		return l.cannot(name, "", err)
	}
	if slices.Contains(rights, "SeServiceLogonRight") {
		return pass(name, "%s, the account of %s, has the right to log on as a service", s.Account, s.Name)
	}
	return Finding{Name: name, Answer: Stop, Captures: map[string]string{"account": s.Account},
		Seen: fmt.Sprintf("%s, the account of %s, was not given the right to log on as a service", s.Account, s.Name)}
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
