// This file has the step on a service's start type and state.

package kinds

import (
	"fmt"

	"hollowkey/core/fix/checkpoint"
	"hollowkey/core/machine"
)

// ServiceState is a service's start type and whether it runs.
type ServiceState struct {
	Start   machine.StartType `json:"start"`   // how the OS starts it
	Running bool              `json:"running"` // now
}

// serviceFamily has one row: a service's start type and whether it runs,
// together, since the one decides whether the other can be reached.
func serviceFamily() family {
	return define(func() *ServiceState { return &ServiceState{} },
		row[*ServiceState]{read: readService, write: writeService},
		row[*ServiceState]{name: "service", want: wantService, words: serviceWords})
}

func (*ServiceState) family() string { return "service" }

// plain gives the state as it is.
func (st *ServiceState) plain() Fact { return st }

// powerShell sets the start type first: a disabled service cannot be started.
func (st *ServiceState) powerShell(s Step, _ Fact) ([]string, error) {
	start, ok := map[machine.StartType]string{
		machine.StartAutomatic: "Automatic", machine.StartManual: "Manual", machine.StartDisabled: "Disabled",
	}[st.Start]
	if !ok {
		return nil, fmt.Errorf("PowerShell cannot set the start type %s", st.Start)
	}
	lines := []string{"Set-Service -Name " + PS(s.Target) + " -StartupType " + start}
	if st.Running {
		return append(lines, "Start-Service -Name "+PS(s.Target)), nil
	}
	return append([]string{"Stop-Service -Name " + PS(s.Target)}, lines...), nil
}

// command does the same with the service controller's own program.
func (st *ServiceState) command(s Step, _ Fact) ([]string, error) {
	target, err := CommandArgument(s.Target)
	if err != nil {
		return nil, err
	}
	lines := []string{"sc.exe config " + target + " start= " + scStart[st.Start] + orEnd}
	if st.Running {
		return append(lines, "net.exe start "+target+orEnd), nil
	}
	return append([]string{"net.exe stop " + target}, lines...), nil // it may not run at all
}

// readService reads start type and whether it runs; both are one state, since a
// disabled service must not be started.
func readService(m machine.Machine, s Step) (*ServiceState, error) {
	svc, err := m.Service(s.Target)
	return &ServiceState{svc.Start, svc.Running}, err
}

// wantService changes what the arguments name and leaves the other half.
func wantService(_ machine.Machine, s Step, now *ServiceState) (*ServiceState, error) {
	want := *now
	if t := s.Args["start"]; t != "" {
		start, err := machine.ParseStartType(t)
		if err != nil {
			return nil, err
		}
		want.Start = start
	}
	switch s.Args["state"] {
	case "":
	case "running":
		want.Running = true
	case "stopped":
		want.Running = false
	default:
		return nil, fmt.Errorf("the state %q is not running or stopped", s.Args["state"])
	}
	return &want, nil
}

// writeService stops before it changes the start type and starts after it: a
// service that is disabled first cannot be started any more, and one that runs
// while it is disabled confuses whoever looks.
func writeService(m machine.Machine, s Step, to *ServiceState) error {
	now, err := m.Service(s.Target)
	if err != nil {
		return err
	}
	if now.Running && !to.Running {
		if err := m.StopService(s.Target); err != nil {
			return err
		}
	}
	if now.Start != to.Start {
		if err := m.SetStartType(s.Target, to.Start); err != nil {
			return err
		}
		checkpoint.Reached("midway")
	}
	if !now.Running && to.Running {
		return m.StartService(s.Target)
	}
	return nil
}

// serviceWords says the step to a person: what is done to the service now, then
// how it starts from now on.
func serviceWords(s Step) string {
	verb := map[string]string{"running": "start", "stopped": "stop"}[s.Args["state"]]
	start := s.Args["start"]
	switch {
	case start == "":
		return verb + " the service " + s.Target
	case verb == "":
		return "set the start type of the service " + s.Target + " to " + start
	}
	return "set the start type of the service " + s.Target + " to " + start + " and " + verb + " it"
}

// Lines tells start type and state, one on a line, so that a preview marks only
// the one that changes.
func (st *ServiceState) Lines(_ machine.Accounts) []string {
	state := "stopped"
	if st.Running {
		state = "running"
	}
	return []string{"start type " + string(st.Start), state}
}
