// This file has the step that gives an account a right to log on.

package kinds

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/machine"
)

// RightState is whether an account was given a right to log on.
type RightState struct {
	Held bool `json:"held"` // by the account itself, not through a group
}

// logonRightFamily has one row: that an account holds a logon right, such as to
// log on as a service. The default row is empty, since nothing else reads or
// writes such a fact.
func logonRightFamily() family {
	return define(func() *RightState { return &RightState{} },
		row[*RightState]{}, row[*RightState]{name: "logon-right", read: readRight, want: wantRight, write: writeRight, words: rightWords})
}

func (*RightState) family() string { return "right" }

// plain gives the state as it is: the security policy's answer has no form that
// only one machine knows.
func (st *RightState) plain() Fact { return st }

// powerShell has no command for rights to log on.
func (st *RightState) powerShell(Step, Fact) ([]string, error) { return nil, errNoScript }

// command has no answer, since the command prompt has no program of the OS's
// that gives a single right and leaves the others.
func (st *RightState) command(Step, Fact) ([]string, error) { return nil, errNoCommand }

// logonRights are the rights that setups ask for. Source: the OS's account
// rights constants.
var logonRights = []string{"SeServiceLogonRight", "SeBatchLogonRight", "SeInteractiveLogonRight", "SeNetworkLogonRight"}

// logonRight is the right that a step is about; services are the usual case, so
// theirs is meant when none is named.
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

// readRight looks only at what the account was given itself. A right that comes
// by a group is not ours to take away again, and giving it twice does no harm.
func readRight(m machine.Machine, s Step) (*RightState, error) {
	right, err := logonRight(s)
	if err != nil {
		return nil, err
	}
	all, err := m.LogonRights(s.Target)
	return &RightState{slices.ContainsFunc(all, func(r string) bool { return strings.EqualFold(r, right) })}, err
}

// wantRight takes "present" for granted: setups fail for want of a right,
// hardly ever for having one.
func wantRight(_ machine.Machine, s Step, _ *RightState) (*RightState, error) {
	switch s.Args["state"] {
	case "", "present":
		return &RightState{true}, nil
	case "absent":
		return &RightState{false}, nil
	}
	return nil, fmt.Errorf("state=%q is not present or absent", s.Args["state"])
}

// writeRight gives or takes the right, whichever state is asked for.
func writeRight(m machine.Machine, s Step, to *RightState) error {
	right, err := logonRight(s)
	if err != nil {
		return err
	}
	return m.SetLogonRight(s.Target, right, to.Held)
}

// rightWords says the step to a person before it is taken: whose right, and
// which, in the policy's own term.
func rightWords(s Step) string {
	right, _ := logonRight(s)
	if s.Args["state"] == "absent" {
		return "take the right " + right + " from " + s.Target
	}
	return "give " + s.Target + " the right " + right
}

// Lines tells the state for a preview; the account stands in the step's own
// words above it.
func (st *RightState) Lines(_ machine.Accounts) []string {
	if st.Held {
		return []string{"the account was given the right"}
	}
	return []string{"the account was not given the right"}
}
