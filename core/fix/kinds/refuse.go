// This file refuses what no step may touch, whoever asks: it is asked when a
// step is drafted, and again when it is taken.

package kinds

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/machine"
	"hollowkey/core/machine/guard"
	"hollowkey/core/machine/sddl"
)

// Check refuses a step that the guard does not let pass on a machine: by the
// final path that its target leads to, and by the account that it gives rights.
// A broad group may write only where a person names both in the call; text from
// a log never chooses it.
func (s Step) Check(m machine.Machine, byPerson bool) error {
	if err := s.refuse(); err != nil {
		return err
	}
	for _, p := range s.paths() {
		// Where the path really leads counts, not how it is written.
		final, err := m.FinalPath(p.path)
		if err != nil {
			return fmt.Errorf("%s: %w", p.path, err)
		}
		// The OS's own accounts may be given back what is theirs.
		if s.Kind == "grant" && guard.Restores(final, sddl.System) {
			if a, err := m.Account(s.Args["account"]); err == nil && guard.Restores(final, a.SID) {
				continue
			}
		}
		if err := guard.File(p.act, final); err != nil {
			return err
		}
		if p.act == guard.Move && !byPerson && guard.Documents(final) {
			return guard.Refused{Target: s.Target, Why: "it is among a user's documents",
				Hint: "name it in a call of your own: hollowkey fix --step quarantine --arg path=…"}
		}
	}
	if s.kind().tag != "security" && s.Kind != "logon-right" || s.Kind == "revoke" || s.Kind == "inherit" || s.Args["right"] == "read" {
		return nil
	}
	return s.checkAccounts(m, byPerson)
}

// checkAccounts refuses rights that write, and ownership, for groups in which
// everybody is.
func (s Step) checkAccounts(m machine.Machine, byPerson bool) error {
	broad := func(sid sddl.SID) error {
		if byPerson && s.Kind != "owner" && s.Kind != "logon-right" || !guard.Broad(sid) {
			return nil
		}
		return guard.Refused{Target: s.Target, Why: sid.Name() + " is a group in which everybody is, and could then change it",
			Hint: "give the right to the very account that lacks it"}
	}
	// A step names one account, or a whole list of which each entry is looked
	// at.
	if name := s.Args["account"]; name != "" {
		a, err := m.Account(name)
		if err != nil {
			return err
		}
		return broad(a.SID)
	}
	d, err := sddl.Parse(s.Args["sddl"])
	if err != nil || d.DACL == nil { // what is wrong with it is told when it is to be set
		return nil
	}
	for _, e := range d.DACL.Entries {
		if e.Allows() && e.Mask&sddl.AnyWrite != 0 {
			if err := broad(e.SID); err != nil {
				return err
			}
		}
	}
	return nil
}

// An onPath is a path that a step acts on.
type onPath struct {
	path string
	act  guard.Act
}

// paths are the files and folders that a step changes.
func (s Step) paths() []onPath {
	switch {
	case s.kind().tag == "security" && !isKey(s):
		return []onPath{{s.Target, guard.Open}}
	case s.Kind == "quarantine", s.Kind == "away":
		return []onPath{{s.Target, guard.Move}}
	case s.Kind == "folder":
		return []onPath{{s.Target, guard.Make}}
	case s.Kind == "ini", s.Kind == "transform", s.Kind == "copy", s.Kind == "command":
		return []onPath{{s.Target, guard.Write}}
	}
	if s.Kind == "free-space" { // what lies in it goes, not the folder itself
		return []onPath{{s.Target + `\file`, guard.Move}}
	}
	if s.Kind == "place" && !cachePlace.MatchString(s.Target) {
		return []onPath{{s.Target, guard.Write}}
	}
	return nil
}

// refuse keeps steps away from what holds the whole machine, by what they name.
func (s Step) refuse() error {
	for _, p := range s.paths() {
		if s.Kind == "grant" && guard.Restores(p.path, sddl.System) { // Check looks at the account
			continue
		}
		if err := guard.File(p.act, p.path); err != nil {
			return err
		}
	}
	switch k := s.kind(); {
	case s.Kind == "free-space" && !guard.Temporary(s.Target):
		return guard.Refused{Target: s.Target, Why: "it is no folder for temporary files",
			Hint: "name a temporary folder, as C:\\Windows\\Temp or a user's own"}
	case s.Kind == "remove-key":
		return guard.Key(guard.Move, s.Target)
	case k.tag == "security" && isKey(s):
		return guard.Key(guard.Open, s.Target)
	case s.Kind == "key":
		return guard.Key(guard.Make, s.Target)
	case s.Kind == "registry", s.Kind == "unset":
		return guard.Value(s.Args["key"], s.Args["name"], s.Kind == "registry")
	case s.Kind == "service" && (s.Args["state"] == "stopped" || s.Args["start"] == string(machine.StartDisabled)):
		return guard.Service(s.Target)
	case s.Kind == "path-entry":
		return refusePath(s.Args["entry"], s.Args["state"] == "absent")
	case s.Kind == "end-process" && slices.Contains(vital, strings.ToLower(s.Target)):
		return fmt.Errorf("%s is not ended: the OS does not run without it", s.Target)
	case (s.Kind == "end-process" || s.Kind == "sign-out") && strings.ContainsAny(s.Target, "*?"):
		return fmt.Errorf("%q is refused: a pattern could mean more than one; name the very one", s.Target)
	}
	return nil
}

// systemPath are the OS's entries in PATH, with the variable in the drive's
// place.
var systemPath = []string{`\system32`, ``, `\system32\wbem`, `\system32\windowspowershell\v1.0`}

// refusePath keeps what every program finds by its name what it is: the OS's
// folders stay in PATH, and nothing is put there that could be anywhere, or on
// another machine.
func refusePath(entry string, absent bool) error {
	bad := func(why string) error {
		return guard.Refused{Target: "PATH", Why: why, Hint: "name the whole path of the folder, with its drive"}
	}
	low := strings.ToLower(machine.CleanPath(entry))
	for _, root := range []string{`%systemroot%`, `%windir%`} {
		low = strings.Replace(low, root, `c:\windows`, 1)
	}
	if rest, is := strings.CutPrefix(low, `c:\windows`); is && absent && slices.Contains(systemPath, rest) {
		return bad(entry + " is the OS's own, and setups call its programs by their names")
	}
	if _, _, err := machine.SplitPath(entry); !absent && err != nil && !strings.HasPrefix(low, "%") {
		return bad(entry + " is no folder of this machine")
	}
	return nil
}

// cachePlace is where the engine keeps the packages of what it has set up.
var cachePlace = lazy.MustCompile(`(?i)^c:\\windows\\installer\\[0-9a-z]+\.ms[ip]$`)

// vital are processes without which the OS stops or loses what it does.
var vital = []string{"system", "smss.exe", "csrss.exe", "wininit.exe", "winlogon.exe", "services.exe", "lsass.exe", "svchost.exe",
	"dwm.exe", "0", "4"}
