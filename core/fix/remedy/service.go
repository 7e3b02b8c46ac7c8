package remedy

import (
	"fmt"

	"hollowkey/core/machine"
)

func readService(m machine.Machine, s Step) (State, error) {
	svc, err := m.Service(s.Target)
	return State{Service: &ServiceState{svc.Start, svc.Running}}, err
}

func wantService(_ machine.Machine, s Step, now State) (State, error) {
	want := *now.Service
	if t := s.Args["start"]; t != "" {
		start, err := machine.ParseStartType(t)
		if err != nil {
			return State{}, err
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
		return State{}, fmt.Errorf("the state %q is not running or stopped", s.Args["state"])
	}
	return State{Service: &want}, nil
}

func writeService(m machine.Machine, s Step, to State) error {
	now, err := m.Service(s.Target)
	if err != nil {
		return err
	}
	if now.Running && !to.Service.Running {
		if err := m.StopService(s.Target); err != nil {
			return err
		}
	}
	if now.Start != to.Service.Start {
		if err := m.SetStartType(s.Target, to.Service.Start); err != nil {
			return err
		}
		crashPoint("midway")
	}
	if !now.Running && to.Service.Running {
		return m.StartService(s.Target)
	}
	return nil
}

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

func serviceLines(st State, _ machine.Accounts) []string {
	state := "stopped"
	if st.Service.Running {
		state = "running"
	}
	return []string{"start type " + string(st.Service.Start), state}
}
