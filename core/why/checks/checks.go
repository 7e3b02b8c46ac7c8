// Package checks looks at a machine whether what a log makes likely is really
// so. Each check answers yes, no or unknown, and may name what a fix needs: the
// account that lacks a right, the service that blocks another.
package checks

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/why/verdict"
)

// A Machine is what the checks need of one.
type Machine interface {
	Name() string
	Facts() machine.Facts
	machine.Accounts
	machine.Files
	machine.Registry
	machine.Services
}

// On gives the checks on one machine.
func On(m Machine) verdict.Checker { return checker{m} }

type checker struct{ m Machine }

// An answer is a finding without the check's name, with what it captured.
type answer struct {
	say      string // yes, no, unknown
	text     string
	captures map[string]string
}

func yes(captures map[string]string, format string, args ...any) answer {
	return answer{"yes", fmt.Sprintf(format, args...), captures}
}

func no(format string, args ...any) answer { return answer{"no", fmt.Sprintf(format, args...), nil} }

func unknown(format string, args ...any) answer {
	return answer{"unknown", fmt.Sprintf(format, args...), nil}
}

// Check answers one question.
func (c checker) Check(name string, with map[string]string) (verdict.Finding, map[string]string) {
	var a answer
	if _, asked := with["user"]; asked && with["user"] == "" {
		with["user"] = c.user()
	}
	switch name {
	case "folder-writable":
		a = c.writable(with["folder"], with["user"])
	case "file-writable":
		a = c.writable(with["file"], with["user"])
	case "key-writable":
		a = c.keyWritable(with["key"], with["user"])
	case "service-startable":
		a = c.startable(with["service"])
	case "shell-folder-drive":
		a = c.shellFolder(with["user"], func(value string) bool {
			return len(value) >= 2 && strings.EqualFold(value[:2], with["drive"])
		}, with["drive"])
	case "shell-folder-value":
		want := strings.TrimRight(with["value"], `\`)
		a = c.shellFolder(with["user"], func(value string) bool {
			return strings.EqualFold(strings.TrimRight(value, `\`), want)
		}, "")
	case "temp-writable":
		a = c.tempFolders()
	case "shell-folders":
		a = c.anyShellFolder()
	case "space":
		a = c.space()
	case "host-reachable":
		a = c.reachable(with["host"])
	case "file-in-the-way":
		a = c.inTheWay(with["folder"])
	case "path-variable":
		a = c.pathVariable()
	case "file-holder":
		a = c.fileHolder(with["file"])
	case "service-account":
		a = c.serviceAccount(with["service"])
	default:
		a = unknown("the check %q is not known here", name)
	}
	return verdict.Finding{Check: name, Answer: a.say, Text: a.text}, a.captures
}

// writing is what the installer needs in a folder that it writes to.
const writing = sddl.FileRead | sddl.FileWrite

// writable asks whether SYSTEM and the user may write at path.
func (c checker) writable(path, user string) answer {
	s, err := c.m.FileSecurity(strings.TrimRight(path, `\`))
	if err != nil {
		return c.cannot(path, err)
	}
	kind := sddl.Folder
	if info, err := c.m.Stat(path); err == nil && !info.Folder {
		kind = sddl.File
	}
	return c.access(path, s, kind, writing, user)
}

func (c checker) keyWritable(key, user string) answer {
	s, err := c.m.KeySecurity(key)
	if err != nil {
		return c.cannot(key, err)
	}
	return c.access(key, s, sddl.Key, sddl.KeyRead|sddl.KeyWrite, user)
}

func (c checker) cannot(what string, err error) answer {
	if errors.Is(err, fs.ErrNotExist) {
		return unknown("%s is not there on %s", what, c.m.Name())
	}
	return unknown("%s on %s: %v", what, c.m.Name(), err)
}

// onlyMay says what somebody may do who lacks something.
func onlyMay(kind sddl.Kind, m sddl.Mask) string {
	if m == 0 {
		return "do nothing"
	}
	return "only " + sddl.RightsName(kind, m)
}

// access looks for the account that lacks a right: SYSTEM, which does the work,
// or the user, in whose name it is done.
func (c checker) access(what string, s machine.Security, kind sddl.Kind, want sddl.Mask, user string) answer {
	d, err := sddl.Parse(s.SDDL)
	if err != nil {
		return unknown("the access list of %s cannot be read: %v", what, err)
	}
	var asked []string
	for _, name := range []string{user, "SYSTEM"} {
		if name == "" || slices.Contains(asked, name) {
			continue
		}
		a, err := c.m.Account(name)
		if err != nil {
			continue
		}
		asked = append(asked, name)
		has := d.Effective(kind, a.SIDs())
		if has&want == want {
			continue
		}
		if e, denied := d.Denies(kind, a.SIDs(), want); denied {
			return yes(map[string]string{"denied": e.SID.Name()}, "an entry for %s denies %s the access to %s", e.SID.Name(), a.Name, what)
		}
		return yes(map[string]string{"lacking": a.Name}, "%s may %s in %s", a.Name, onlyMay(kind, has), what)
	}
	if len(asked) == 0 {
		return unknown("neither the user nor SYSTEM is known on %s", c.m.Name())
	}
	return no("%s may write in %s", strings.Join(asked, " and "), what)
}

const maxDepth = 30 // of services that depend on each other

// startable looks for what keeps a service from starting: a disabled service on
// the way down its dependencies, the deepest first.
func (c checker) startable(name string) answer {
	s, err := c.m.Service(name)
	if err != nil {
		return unknown("%v", err)
	}
	if b, way, found := c.blocker(s, nil); found {
		caps := map[string]string{"blocker": b.Name, "mode": string(machine.StartManual)}
		if b.Name == s.Name {
			caps["because"] = "It is disabled."
			return yes(caps, "%s is disabled", s.Name)
		}
		caps["because"] = fmt.Sprintf("It depends on %s, which is disabled.", b.Name)
		return yes(caps, "%s is disabled, and %s depends on it", b.Name, strings.Join(way, " → "))
	}
	if s.Running {
		return no("%s runs", s.Name)
	}
	return unknown("neither %s nor what it depends on is disabled", s.Name)
}

func (c checker) blocker(s machine.Service, way []string) (machine.Service, []string, bool) {
	if slices.Contains(way, s.Name) || len(way) > maxDepth {
		return s, nil, false
	}
	way = append(way[:len(way):len(way)], s.Name)
	for _, d := range s.DependsOn {
		dep, err := c.m.Service(d)
		if err != nil {
			continue
		}
		if b, w, found := c.blocker(dep, way); found {
			return b, w, true
		}
	}
	if s.Start == machine.StartDisabled && !s.Running {
		return s, way[:max(len(way)-1, 1)], true
	}
	return s, nil, false
}

const shellFolders = `\Software\Microsoft\Windows\CurrentVersion\Explorer\User Shell Folders`

// defaultFolders are the values that the OS itself sets. Source: the OS's
// documentation of known folders.
var defaultFolders = map[string]string{
	"Personal": `%USERPROFILE%\Documents`, "My Pictures": `%USERPROFILE%\Pictures`, "My Music": `%USERPROFILE%\Music`,
	"My Video": `%USERPROFILE%\Videos`, "Desktop": `%USERPROFILE%\Desktop`, "Favorites": `%USERPROFILE%\Favorites`,
	"AppData": `%USERPROFILE%\AppData\Roaming`, "Local AppData": `%USERPROFILE%\AppData\Local`,
	"Start Menu": `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Start Menu`,
	"Programs":   `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Start Menu\Programs`,
	"Startup":    `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Start Menu\Programs\Startup`,
	"SendTo":     `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\SendTo`, "Recent": `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Recent`,
	"Templates": `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Templates`, "NetHood": `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Network Shortcuts`,
	"PrintHood": `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Printer Shortcuts`,
}

// shellFolder looks among the user's shell folders for one that leads to where
// the set-up failed. drive, when given, must be absent on the machine.
func (c checker) shellFolder(user string, is func(value string) bool, drive string) answer {
	if drive != "" && c.m.Facts().HasDrive(drive) {
		return no("the drive %s is there on %s", drive, c.m.Name())
	}
	a, err := c.m.Account(user)
	if err != nil {
		return unknown("%v", err)
	}
	key := `HKEY_USERS\` + string(a.SID) + shellFolders
	values, err := c.m.Values(key)
	if err != nil {
		return c.cannot(key, err)
	}
	for _, v := range values {
		where := v.Value.Words()
		if v.Delete || !is(where) {
			continue
		}
		caps := map[string]string{"shellfolder": v.Name, "default": defaultFolders[v.Name], "folder": where}
		if caps["default"] != "" {
			caps["shellkey"] = key
		}
		return yes(caps, "the shell folder %s of %s points to %s", v.Name, a.Name, where)
	}
	return unknown("no shell folder of %s leads there", a.Name)
}

// signedIn is the user who is signed in, where the machine can tell.
type signedIn interface{ SignedIn() string }

func (c checker) user() string {
	if s, ok := c.m.(signedIn); ok {
		return s.SignedIn()
	}
	return ""
}

// tempFolders asks whether the temporary folders of the system and of the user
// can be written.
func (c checker) tempFolders() answer {
	user := c.user()
	folders := []string{`C:\Windows\Temp`}
	if a, err := c.m.Account(user); err == nil && a.Profile != "" {
		folders = append(folders, a.Profile+`\AppData\Local\Temp`)
	}
	for _, f := range folders {
		who := user
		if f == folders[0] {
			who = "" // users need not read there
		}
		if a := c.writable(f, who); a.say == "yes" {
			a.captures["folder"] = f
			return a
		}
	}
	return no("the temporary folders can be written")
}

// anyShellFolder looks for a shell folder on a drive that is not there.
func (c checker) anyShellFolder() answer {
	facts := c.m.Facts()
	if len(facts.Drives) == 0 {
		return unknown("the drives of %s are not known", c.m.Name())
	}
	a := c.shellFolder(c.user(), func(value string) bool {
		return len(value) > 2 && value[1] == ':' && !facts.HasDrive(value[:2])
	}, "")
	if a.say == "unknown" {
		return no("all shell folders lead to drives that are there")
	}
	return a
}

const littleSpace = 2 << 30 // bytes free on the system drive below which set-ups fail

func (c checker) space() answer {
	for _, d := range c.m.Facts().Drives {
		if strings.EqualFold(d.Letter, "C:") && d.Size > 0 {
			if d.Free < littleSpace {
				return yes(nil, "the drive C: has only %.1f GB free", float64(d.Free)/(1<<30))
			}
			return no("the drive C: has %.0f GB free", float64(d.Free)/(1<<30))
		}
	}
	return unknown("the free space of %s is not known", c.m.Name())
}

func (c checker) reachable(host string) answer {
	m, ok := c.m.(interface {
		Reaches(ctx context.Context, host string, port int) error
	})
	if !ok {
		return unknown("whether %s answers is not known on %s", host, c.m.Name())
	}
	err := m.Reaches(context.Background(), host, 0)
	switch {
	case err == nil:
		return no("%s answers on %s", host, c.m.Name())
	case errors.Is(err, machine.ErrUnsupported):
		return unknown("whether %s answers is not known on %s", host, c.m.Name())
	case strings.Contains(err.Error(), "does not answer"):
		return yes(nil, "%s does not answer on %s", host, c.m.Name())
	}
	return yes(nil, "%s: %v", c.m.Name(), err)
}
