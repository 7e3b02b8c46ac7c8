// This file has the steps that set values with a meaning: policies, PATH, what
// runs after a restart.

package kinds

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
)

// Registry values that have a meaning of their own.

// Where the policy stands that makes the installer engine log every setup.
const (
	LoggingKey   = `HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`
	LoggingValue = "Logging"
)

// LoggingAll are the switches that the hold sets, in the order of the OS's
// documentation.
const LoggingAll = "voicewarmupx"

// LoggingSwitches say what each switch of the policy value logs.
var LoggingSwitches = map[rune]string{
	'v': "verbose: every detail", 'o': "out-of-space messages", 'i': "status messages", 'c': "first parameters of the user interface",
	'e': "all error messages", 'w': "warnings that are not fatal", 'a': "start-up of actions", 'r': "records of single actions",
	'm': "out-of-memory and fatal messages", 'u': "requests of the user", 'p': "properties of the terminal session",
	'x': "extra debugging details",
}

// policies are the switches that concern setups, with what they hold for on
// and for off.
var policies = map[string]struct{ key, name, kind, on, off, words string }{
	"sideloading": {`HKLM\SOFTWARE\Policies\Microsoft\Windows\Appx`, "AllowAllTrustedApps", "dword", "1", "0",
		"packages from outside the store"},
	"fast-startup": {`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Power`, "HiberbootEnabled", "dword", "1", "0", "fast startup"},
	"setups":       {`HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`, "DisableMSI", "dword", "0", "2", "setups by the installer engine"},
	"logging":      {LoggingKey, LoggingValue, "string", LoggingAll, "", "verbose logging of setups"},
}

// preparePolicy turns the switch of a known policy into the value that it
// stands for. Others are refused, however they are spelled: a policy step is
// for what is written down here.
func preparePolicy(s *Step) error {
	p, ok := policies[s.Target]
	if !ok {
		return fmt.Errorf("the policy %q is not known; known are sideloading, fast-startup, setups, logging", s.Target)
	}
	value := map[string]string{"on": p.on, "off": p.off}[s.Args["state"]]
	if s.Args["state"] != "on" && s.Args["state"] != "off" {
		return fmt.Errorf("state=%q is not on or off", s.Args["state"])
	}
	s.Args["policy"], s.Args["key"], s.Args["name"], s.Args["type"], s.Args["value"] = s.Target, p.key, p.name, p.kind, value
	return nil
}

// policyWords says the step to a person. A policy reads as something allowed or
// forbidden, but for the two that are mere switches.
func policyWords(s Step) string {
	verb := "allow "
	if s.Args["state"] == "off" {
		verb = "forbid "
	}
	if s.Args["policy"] == "fast-startup" || s.Args["policy"] == "logging" {
		verb = "switch " + s.Args["state"] + " "
	}
	return verb + policies[s.Args["policy"]].words
}

const (
	// PATH has two parts: the machine's and the user's; a step changes one of
	// them.
	machinePath = `HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`
	userPath    = `HKCU\Environment`
)

// preparePath refuses what would be more than one folder, or end the value
// early.
func preparePath(s *Step) error {
	key := machinePath
	switch s.Args["scope"] {
	case "", "machine":
	case "user":
		key = userPath
	default:
		return fmt.Errorf("scope=%q is not machine or user", s.Args["scope"])
	}
	if strings.ContainsAny(s.Args["entry"], ";\"\r\n") {
		return fmt.Errorf("entry=%q is not one folder", s.Args["entry"])
	}
	s.Args["key"], s.Args["name"] = key, "Path"
	return nil
}

// wantPath adds a folder to PATH or takes it out; the rest stays as it is
// written.
func wantPath(_ machine.Machine, s Step, now *ValueState) (*ValueState, error) {
	var entries []string
	kind := regfile.Expand
	if now.There {
		entries, kind = strings.Split(now.Value.Words(), ";"), now.Value.Type
	}
	// Entries are compared as folders: quotes, blanks and a last stroke make no
	// other entry.
	same := func(e string) bool {
		return strings.EqualFold(strings.TrimRight(strings.Trim(e, `" `), `\`), strings.TrimRight(s.Args["entry"], `\`))
	}
	has := slices.ContainsFunc(entries, same)
	switch {
	case s.Args["state"] == "absent" && !has, s.Args["state"] == "present" && has:
		return now, nil
	case s.Args["state"] == "absent":
		entries = slices.DeleteFunc(entries, same)
	case s.Args["state"] != "present":
		return nil, fmt.Errorf("state=%q is not present or absent", s.Args["state"])
	case s.Args["at"] == "front":
		entries = slices.Insert(entries, 0, s.Args["entry"])
	case s.Args["at"] == "" || s.Args["at"] == "end":
		if n := len(entries); n > 0 && entries[n-1] == "" {
			entries = entries[:n-1]
		}
		entries = append(entries, s.Args["entry"])
	default:
		return nil, fmt.Errorf("at=%q is not front or end", s.Args["at"])
	}
	if !now.KeyThere {
		return nil, errors.New("the key " + s.Args["key"] + " is absent, so there is no PATH to change")
	}
	v, err := regfile.Make(kind, strings.Join(entries, ";"))
	return &ValueState{KeyThere: true, There: true, Value: &v}, err
}

// pathWords says the step to a person, and whose PATH it is: the user's is put
// behind the machine's.
func pathWords(s Step) string {
	whose := "the machine's PATH"
	if s.Args["scope"] == "user" {
		whose = "the user's PATH"
	}
	if s.Args["state"] == "absent" {
		return fmt.Sprintf("take %s out of %s", s.Args["entry"], whose)
	}
	return fmt.Sprintf("put %s into %s", s.Args["entry"], whose)
}

// A restart marker: at the next sign-in the OS runs the command once, so that
// the work is picked up where it was.

// prepareRestart puts the command where the OS runs it once at the next sign-in
// and then forgets it.
func prepareRestart(s *Step) error {
	if strings.ContainsAny(s.Args["command"], "\r\n") {
		return errors.New("the command of a restart step must be one line")
	}
	s.Args["key"], s.Args["name"], s.Args["type"], s.Args["value"] = `HKCU\Software\Microsoft\Windows\CurrentVersion\RunOnce`, "HollowKey",
		"string", s.Args["command"]
	return nil
}

// restartWords says the step to a person. The command is run by the OS, once,
// with the rights of whoever signs in.
func restartWords(s Step) string {
	return "run " + s.Args["command"] + " once after the restart that is due now"
}
