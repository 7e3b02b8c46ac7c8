package remedy

import (
	"errors"
	"io/fs"

	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// VerboseLogging is the hold that makes the installer engine log every set-up.
const VerboseLogging = "verbose logging policy"

// StartupHold is the hold that keeps services and startup items from starting.
const StartupHold = "startup items off"

const (
	loggingKey   = `HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`
	loggingValue = "Logging"
)

// LoggingAll are the switches that the hold sets, in the order of the OS's
// documentation.
const LoggingAll = "voicewarmupx"

// LoggingSwitches say what each switch of the policy value logs.
var LoggingSwitches = map[rune]string{
	'v': "verbose: every detail", 'o': "out-of-space messages", 'i': "status messages", 'c': "first parameters of the user interface",
	'e': "all error messages", 'w': "warnings that are not fatal", 'a': "start-up of actions", 'r': "records of single actions",
	'm': "out-of-memory and fatal messages", 'u': "requests of the user", 'p': "properties of the terminal session", 'x': "extra debugging details",
}

// DraftHold drafts the change that a hold consists of.
func DraftHold(m machine.Machine, hold string) (Plan, error) {
	if hold != VerboseLogging {
		return Plan{}, errors.New("no such hold: " + hold)
	}
	p, err := Draft(m, "switch verbose logging on", []step.Model{{"registry": {
		"key": loggingKey, "name": loggingValue, "type": "string", "value": LoggingAll,
	}}})
	p.Hold = hold
	return p, err
}

// LoggingPolicy is the policy's present value, empty when it is not set.
func LoggingPolicy(m machine.Machine) (string, error) {
	v, err := m.Value(loggingKey, loggingValue)
	if errors.Is(err, fs.ErrNotExist) {
		return "", nil
	}
	return v.Words(), err
}

// Holds are the changes in force that are meant to be temporary: of one machine
// and one kind, or of all when these are empty.
func (j *Journal) Holds(machine, hold string) (items []Item) {
	for _, i := range j.Items() {
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
	if hold == SafeBootHold {
		return "hollowkey startup safe off"
	}
	return "hollowkey undo"
}
