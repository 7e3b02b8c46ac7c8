// This file has changes that are meant to be temporary, each with the call that
// releases it.

package fix

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// VerboseLogging is the hold that makes the installer engine log every setup.
const VerboseLogging = "verbose logging policy"

// StartupHold is the hold that keeps services and startup items from starting.
const StartupHold = "startup items off"

// SafeBootHold is the hold that makes the OS start with few parts.
const SafeBootHold = "safe boot"

// LogLevels is the hold that makes programs write more into their logs.
const LogLevels = "log levels raised"

// DraftHold drafts the change that a hold consists of. It fails where the hold
// is none that is known, or the machine does not allow the change.
func DraftHold(m machine.Machine, hold string) (Plan, error) {
	if hold != VerboseLogging {
		return Plan{}, errors.New("no such hold: " + hold)
	}
	p, err := Draft(m, "switch verbose logging on", []step.Model{{"registry": {
		"key": kinds.LoggingKey, "name": kinds.LoggingValue, "type": "string", "value": kinds.LoggingAll,
	}}})
	p.Hold = hold
	return p, err
}

// LoggingPolicy is the policy's present value, empty when it is not set.
func LoggingPolicy(m machine.Machine) (string, error) {
	v, err := m.Value(kinds.LoggingKey, kinds.LoggingValue)
	if errors.Is(err, fs.ErrNotExist) {
		return "", nil
	}
	return v.Words(), err
}

// Holds are the changes in force that are meant to be temporary: of one machine
// and one kind, or of all when these are empty.
func (j *Journal) Holds(machine, hold string) (items []Item) {
	for _, i := range j.all() {
		if i.Status == "done" && i.Hold != "" && (machine == "" || i.Machine == machine) && (hold == "" || i.Hold == hold) {
			items = append(items, i)
		}
	}
	return items
}

// ReleaseCommand is what to type to release a hold.
func ReleaseCommand(hold string) string {
	if hold == VerboseLogging {
		return "hollowkey logs verbose off"
	}
	if hold == StartupHold {
		return "hollowkey startup release"
	}
	if hold == LogLevels {
		return "hollowkey logs level off"
	}
	if hold == SafeBootHold {
		return "hollowkey startup safe off"
	}
	return "hollowkey undo"
}

// DraftSafeBoot drafts the hold that makes the OS start in safe mode, with the
// installer's service allowed there.
func DraftSafeBoot(m machine.Machine, mode string) (Plan, error) {
	kind := map[string]string{"minimal": "Minimal", "network": "Network"}[mode]
	if kind == "" {
		return Plan{}, fmt.Errorf("the mode %q is not minimal, network or off", mode)
	}
	p, err := Draft(m, "start in safe mode", []step.Model{
		{"registry": {"key": `HKLM\SYSTEM\CurrentControlSet\Control\SafeBoot\` + kind + `\MSIServer`, "name": "", "type": "string",
			"value": "Service"}},
		{"safe-boot": {"mode": mode}},
	})
	p.Hold = SafeBootHold
	return p, err
}

// RestorePoint lets the OS take a restore point, and writes that down. It fails
// where the machine keeps none, which is no reason not to go on: the journal
// can undo as well.
func RestorePoint(m machine.Machine, j *Journal, title string) error {
	title = strings.Map(func(r rune) rune {
		if r < ' ' || r == '"' {
			return ' '
		}
		return r
	}, title)
	p, err := Draft(m, "restore point", []step.Model{{"restore-point": {"title": "Before: " + title}}})
	if err != nil {
		return err
	}
	return p.Apply(m, j)
}
