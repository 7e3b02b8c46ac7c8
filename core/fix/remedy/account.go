package remedy

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// RightState is whether an account was given a right to log on.
type RightState struct {
	Held bool `json:"held"`
}

// logonRights are the rights that set-ups ask for. Source: the OS's account
// rights constants.
var logonRights = []string{"SeServiceLogonRight", "SeBatchLogonRight", "SeInteractiveLogonRight", "SeNetworkLogonRight"}

func logonRight(s Step) (string, error) {
	if s.Args["right"] == "" {
		return logonRights[0], nil
	}
	for _, r := range logonRights {
		if strings.EqualFold(r, s.Args["right"]) {
			return r, nil
		}
	}
	return "", fmt.Errorf("right=%q is not one of %s", s.Args["right"], strings.Join(logonRights, ", "))
}

func readRight(m machine.Machine, s Step) (State, error) {
	right, err := logonRight(s)
	if err != nil {
		return State{}, err
	}
	all, err := m.LogonRights(s.Target)
	return State{Right: &RightState{slices.ContainsFunc(all, func(r string) bool { return strings.EqualFold(r, right) })}}, err
}

func wantRight(_ machine.Machine, s Step, _ State) (State, error) {
	switch s.Args["state"] {
	case "", "present":
		return State{Right: &RightState{true}}, nil
	case "absent":
		return State{Right: &RightState{false}}, nil
	}
	return State{}, fmt.Errorf("state=%q is not present or absent", s.Args["state"])
}

func writeRight(m machine.Machine, s Step, to State) error {
	right, err := logonRight(s)
	if err != nil {
		return err
	}
	return m.SetLogonRight(s.Target, right, to.Right.Held)
}

func rightWords(s Step) string {
	right, _ := logonRight(s)
	if s.Args["state"] == "absent" {
		return "take the right " + right + " from " + s.Target
	}
	return "give " + s.Target + " the right " + right
}

func rightLines(st State, _ machine.Accounts) []string {
	if st.Right.Held {
		return []string{"the account was given the right"}
	}
	return []string{"the account was not given the right"}
}

// SafeBootHold is the hold that makes the OS start with few parts.
const SafeBootHold = "safe boot"

func readBoot(m machine.Machine, _ Step) (State, error) {
	b, err := m.SafeBoot()
	return State{Boot: b}, err
}

func wantBoot(_ machine.Machine, s Step, _ State) (State, error) {
	switch b := machine.SafeBoot(s.Target); b {
	case machine.SafeBootOff, machine.SafeBootMinimal, machine.SafeBootNetwork:
		return State{Boot: b}, nil
	}
	return State{}, errors.New("mode is not off, minimal or network")
}

func writeBoot(m machine.Machine, _ Step, to State) error { return m.SetSafeBoot(to.Boot) }

func bootWords(s Step) string { return "let the OS start in safe mode next time: " + s.Target }

func bootLines(st State, _ machine.Accounts) []string {
	return []string{"safe mode " + string(st.Boot)}
}

// DraftSafeBoot drafts the hold that makes the OS start in safe mode, with the
// installer's service allowed there.
func DraftSafeBoot(m machine.Machine, mode string) (Plan, error) {
	kind := map[string]string{"minimal": "Minimal", "network": "Network"}[mode]
	if kind == "" {
		return Plan{}, fmt.Errorf("the mode %q is not minimal, network or off", mode)
	}
	p, err := Draft(m, "start in safe mode", []step.Model{
		{"registry": {"key": `HKLM\SYSTEM\CurrentControlSet\Control\SafeBoot\` + kind + `\MSIServer`, "name": "", "type": "string", "value": "Service"}},
		{"safe-boot": {"mode": mode}},
	})
	p.Hold = SafeBootHold
	return p, err
}
