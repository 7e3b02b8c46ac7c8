package readiness

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine/sddl"
	"hollowkey/core/package/cached"
	"hollowkey/core/step"
)

// writable looks whether accounts may change what is in a folder; without rights
// it names the step that grants them.
func (l *look) writable(name, folder string, accounts ...string) {
	info, err := l.m.Stat(folder)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		l.add(name, Stop, folder+" is not there", "make the folder")
		return
	case err != nil:
		l.add(name, CannotTell, err.Error(), "")
		return
	case !info.Folder:
		steps := []step.Model{step.New("folder", "folder", folder)}
		if info.Size > 0 {
			steps = []step.Model{step.New("quarantine", "path", folder)} // then there is nothing in the way; the next check makes the folder
		}
		l.add(name, Stop, folder+" is a file where a folder must be", "take the file away and make the folder", steps...)
		return
	}
	sec, err := l.m.FileSecurity(folder)
	if err != nil {
		l.add(name, CannotTell, err.Error(), "")
		return
	}
	d, err := sddl.Parse(sec.SDDL)
	if err != nil {
		l.add(name, CannotTell, err.Error(), "")
		return
	}
	var lack []string
	var steps []step.Model
	for _, who := range accounts {
		a, err := l.m.Account(who)
		if who == "" || err != nil {
			continue
		}
		if d.Effective(sddl.Folder, a.SIDs())&sddl.FileModify != sddl.FileModify {
			lack = append(lack, who)
			steps = append(steps, step.New("grant", "folder", folder, "account", who, "right", "modify"))
		}
	}
	if lack == nil {
		l.add(name, Pass, folder, "")
		return
	}
	l.add(name, Stop, fmt.Sprintf("%s may not be changed by %s", folder, strings.Join(lack, " and ")), "grant the right", steps...)
}

// environment is a variable of the machine, whatever its letters' case.
func (l *look) environment(name string) string {
	for k, v := range l.m.Facts().Environment {
		if strings.EqualFold(k, name) {
			return l.expand(v)
		}
	}
	return ""
}

// expand puts the variables that every machine has into a path.
func (l *look) expand(v string) string {
	profile := ""
	if a, err := l.m.Account(l.opt.User); err == nil {
		profile = a.Profile
	}
	for name, value := range map[string]string{"%USERPROFILE%": profile, "%SYSTEMROOT%": `C:\Windows`, "%WINDIR%": `C:\Windows`, "%SYSTEMDRIVE%": "C:"} {
		for value != "" {
			at := strings.Index(strings.ToUpper(v), name)
			if at < 0 {
				break
			}
			v = v[:at] + value + v[at+len(name):]
		}
	}
	return v
}

func (l *look) temporary() {
	folder := l.environment("TEMP")
	if folder == "" || strings.Contains(folder, "%") {
		l.add("temporary folder", CannotTell, "TEMP is "+first(folder, "not known"), "")
		return
	}
	l.writable("temporary folder", folder, l.opt.User, "SYSTEM")
}

func first(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

func (l *look) cacheFolder() { l.writable("packages folder", `C:\Windows\Installer`, "SYSTEM") }

const (
	environmentKey = `HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`
	maxPath        = 2047 // characters that every program can take
)

// path looks at the machine's PATH: system folders present, no dead entries, not
// too long, no quotation marks.
func (l *look) path() {
	value, stored, err := l.text(environmentKey, "Path")
	if err != nil {
		l.add("PATH", CannotTell, err.Error(), "")
		return
	}
	if !stored {
		for k, v := range l.m.Facts().Environment {
			if strings.EqualFold(k, "PATH") {
				value = v
			}
		}
	}
	if value == "" {
		l.add("PATH", CannotTell, "it is not known", "")
		return
	}
	var keep, dead []string
	for e := range strings.SplitSeq(value, ";") {
		plain := l.expand(strings.Trim(strings.TrimSpace(e), `"`))
		if plain == "" {
			continue
		}
		// A twin seldom has the OS's own folders.
		if _, err := l.m.Stat(plain); errors.Is(err, fs.ErrNotExist) && !strings.Contains(plain, "%") && !strings.HasPrefix(strings.ToLower(plain), `c:\windows`) {
			dead = append(dead, plain)
			continue
		}
		keep = append(keep, strings.Trim(strings.TrimSpace(e), `"`))
	}
	has := func(folder string) bool {
		return slices.ContainsFunc(strings.Split(value, ";"), func(e string) bool {
			return strings.EqualFold(strings.TrimRight(l.expand(strings.Trim(strings.TrimSpace(e), `"`)), `\`), folder)
		})
	}
	var lost []string
	for _, folder := range []string{`C:\Windows\system32`, `C:\Windows`} {
		if !has(folder) {
			lost = append(lost, folder)
		}
	}
	mended := strings.Join(append(slices.Clone(lost), keep...), ";")
	var steps []step.Model
	if stored {
		steps = append(steps, step.New("registry", "key", environmentKey, "name", "Path", "type", "expand", "value", mended))
	}
	switch {
	case lost != nil:
		l.add("PATH", Stop, "it lacks "+strings.Join(lost, " and "), "put them back in front", steps...)
	case len(value) > maxPath:
		l.add("PATH", Warn, fmt.Sprintf("it has %d characters; some programs take %d", len(value), maxPath), "take entries out that nobody needs")
	case dead != nil:
		l.add("PATH", Warn, "these folders are not there: "+strings.Join(dead, ", "), "take them out", steps...)
	default:
		l.add("PATH", Pass, fmt.Sprintf("%d folders, all there", len(keep)), "")
	}
}

const shellFolders = `HKCU\Software\Microsoft\Windows\CurrentVersion\Explorer\User Shell Folders`

// usual are the user's folders where they are when nobody moved them.
var usual = map[string]string{"Personal": `%USERPROFILE%\Documents`, "Desktop": `%USERPROFILE%\Desktop`, "AppData": `%USERPROFILE%\AppData\Roaming`,
	"Local AppData": `%USERPROFILE%\AppData\Local`, "My Pictures": `%USERPROFILE%\Pictures`, "My Music": `%USERPROFILE%\Music`, "My Video": `%USERPROFILE%\Videos`,
	"Favorites": `%USERPROFILE%\Favorites`}

func (l *look) shellFolders() {
	values, err := l.m.Values(shellFolders)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		l.add("shell folders", CannotTell, err.Error(), "")
		return
	}
	facts := l.m.Facts()
	var lost []string
	var steps []step.Model
	for _, v := range values {
		path := l.expand(v.Value.Words())
		if len(path) > 1 && path[1] == ':' && !facts.HasDrive(path[:2]) {
			lost = append(lost, v.Name+" points to "+path)
			if to := usual[v.Name]; to != "" {
				steps = append(steps, step.New("registry", "key", shellFolders, "name", v.Name, "type", "expand", "value", to))
			}
		}
	}
	if lost != nil {
		l.add("shell folders", Stop, strings.Join(lost, "; ")+": that drive is not there", "point them to the usual place", steps...)
		return
	}
	l.add("shell folders", Pass, "all on drives that are there", "")
}

func (l *look) cache() {
	list, err := cached.Read(l.m)
	if err != nil {
		l.add("cached packages", CannotTell, err.Error(), "")
		return
	}
	var bad []string
	for _, e := range list {
		if e.State != cached.Good && e.State != cached.NotTaken {
			bad = append(bad, first(e.Name, e.Code)+" ("+string(e.State)+")")
		}
	}
	if bad != nil {
		l.add("cached packages", Warn, strings.Join(bad, ", "), "hollowkey cache restore --from FOLDER")
		return
	}
	l.add("cached packages", Pass, fmt.Sprintf("%d, all good", len(list)), "")
}
