// This file asks an INI file by which a setup judged the machine.

package checks

import (
	"fmt"
	"io"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/machine/inifile"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/step"

	"hollowkey/core/machine"
)

// maxINI is how many bytes of an INI file are read; those of setups have a few
// pages.
const maxINI = 1 << 20

// iniGate asks an INI file that a setup read whether the key by which it
// refused the machine is as the log says. With bound it is the key that holds
// this value. The step sets what lets the machine pass: what it has, or that
// something is allowed.
func (l *look) iniGate(with arguments) Finding {
	const name = "ini-gate"
	file, section, key := with["file"], with["section"], with["key"]
	r, err := l.m.Open(file)
	if err != nil {
		return l.cannot(name, file, err)
	}
	defer r.Close()
	b, err := io.ReadAll(io.LimitReader(r, maxINI))
	if err != nil {
		return l.cannot(name, file, err)
	}
	ini, err := inifile.Parse(b)
	if err != nil {
		return unknown(name, "%s: %v", file, err)
	}
	// A log that names no key tells the bound: the key that holds it is the
	// one.
	if key == "" {
		section, key = holding(ini, with["bound"])
	} else if section == "" {
		section = sectionOf(ini, key)
	}
	if section == "" || key == "" {
		return unknown(name, "%s has no key that the log speaks of", file)
	}
	now, there := ini.Get(section, key)
	value := opening(ini, section, key, now, with["found"])
	place := fmt.Sprintf("%s in section [%s] of %s", key, section, file)
	switch {
	case value == "":
		return unknown(name, "%s is %q, and which value would let this machine pass is not known", place, now)
	case there && strings.EqualFold(now, value):
		return pass(name, "%s is %s already", place, now)
	}
	f := Finding{Name: name, Answer: Stop, Class: "condition", Seen: place + " is not set",
		Mend:  fmt.Sprintf("set %s in section [%s] of %s to %s, if the vendor's gate is out of date", key, section, base(file), value),
		Steps: []step.Model{step.New("ini", "file", file, "section", section, "key", key, "value", value)}}
	if there {
		f.Seen = place + " is " + now
	}
	// A vendor's medium may be read-only on purpose; then a copy of its folder
	// is altered.
	if sec, err := l.m.FileSecurity(file); err == nil {
		if d, err := sddl.Parse(sec.SDDL); err == nil && !MayWrite(d, sddl.File, machine.Account{SID: sddl.Administrators}) {
			f.Seen += "; administrators may not write that file"
			f.Mend, f.Steps = "have "+key+" set in "+file+" by whoever may write it, or alter a copy of its "+
				"folder: hollowkey fix --step ini with copy=FOLDER", nil
		}
	}
	return f
}

// holding is the key whose value is a bound that the log told.
func holding(ini *inifile.File, bound string) (section, key string) {
	if bound == "" {
		return "", ""
	}
	for _, s := range ini.Sections() {
		for _, p := range ini.Keys(s) {
			if v, _ := ini.Get(s, p.Key); v == bound || strings.HasPrefix(v, bound+" ") {
				return s, p.Key
			}
		}
	}
	return "", ""
}

// sectionOf is the one section that has a key, or would: one whose other keys
// are of the same kind. Empty where several have it.
func sectionOf(ini *inifile.File, key string) (section string) {
	for _, s := range ini.Sections() {
		if _, there := ini.Get(s, key); there {
			if section != "" {
				return ""
			}
			section = s
		}
	}
	return section
}

var (
	// A key that allows something is opened by a yes; "NoUpdates" and the like
	// count here too, since the value tells.
	allows = lazy.MustCompile(`(?i)^(?:allow|enable|skip|ignore|force|bypass|permit|accept|override|no|disable)[A-Z_]?`)
	// A key that sets a bound is opened by moving the bound, and never by a
	// yes.
	limits = lazy.MustCompile(`(?i)max|min|newest|oldest|least|most|highest|lowest|latest|earliest|upto|from|until`)
)

// opening is the value with which a gate's key lets the machine pass: yes in
// the words of the file, or what the machine has.
func opening(ini *inifile.File, section, key, now, found string) string {
	switch {
	case limits.MatchString(key) && found != "":
		return found
	case !allows.MatchString(key):
		return ""
	}
	for _, words := range [][2]string{{"true", "false"}, {"yes", "no"}, {"on", "off"}} {
		for _, p := range append(ini.Keys(section), inifile.Pair{Key: key, Value: now}) {
			v := strings.ToLower(strings.TrimSpace(p.Value))
			if v == words[0] || v == words[1] {
				return words[0]
			}
		}
	}
	return "1"
}
