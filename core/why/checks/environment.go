// This file asks for the variables and shell folders that setups take for
// granted.

package checks

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/logs/names"
	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/step"
)

// What stands around a setup in the user's and the machine's environment.

// environment is a variable of the machine, whatever its letters' case.
func (l *look) environment(name string) string {
	for k, v := range l.m.Facts().Environment {
		if strings.EqualFold(k, name) {
			return l.expand(v)
		}
	}
	return ""
}

// expand puts the variables of the machine and the user into a path.
func (l *look) expand(v string) string { return machine.Expand(l.m, v, l.opt.User) }

const (
	// The check's name; the key is where the machine's own part of PATH is
	// kept.
	pathName       = "PATH"
	environmentKey = `HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`
	maxPath        = 2047 // characters of PATH that every program can take: older ones read it into 2 KiB
)

// systemFolders must stand in PATH: setups call the OS's programs and its
// PowerShell by their names alone.
var systemFolders = []string{`C:\Windows\system32`, `C:\Windows`, `C:\Windows\System32\Wbem`, `C:\Windows\System32\WindowsPowerShell\v1.0`}

// toolInPath asks whether PATH is why a program was not found: it lies in one
// of the OS's folders, and that folder is not in PATH. That another folder is
// missing says nothing.
func (l *look) toolInPath(with arguments) Finding {
	const name = "tool-in-path"
	tool := strings.ToLower(strings.Trim(with["tool"], `"' `))
	tool = strings.TrimSuffix(strings.TrimSuffix(tool[strings.LastIndexAny(tool, `\/`)+1:], ".exe"), ".com")
	folder := names.ToolFolder(tool)
	if tool == "" { // which program was not found is not told
		return l.pathVariable()
	}
	if folder == "" {
		return unknown(name, "where %s lies is not known, so neither is whether PATH hides it", with["tool"])
	}
	f := l.pathVariable()
	f.Name = name
	if f.Answer == Unknown {
		return f
	}
	if !slices.ContainsFunc(f.lost, func(e string) bool { return strings.EqualFold(e, folder) }) {
		return pass(name, "%s, where %s lies, is in PATH of %s", folder, tool, l.m.Name())
	}
	f.Seen = fmt.Sprintf("%s, so %s is not found by its name", f.Seen, tool)
	return f
}

// pathVariable looks at the machine's PATH: the OS's folders are there, no
// entry is dead, it is not too long.
func (l *look) pathVariable() Finding {
	v, err := l.m.Value(environmentKey, "Path")
	value, stored := v.Words(), err == nil
	switch {
	// A twin may have the variable without the key behind it.
	case errors.Is(err, fs.ErrNotExist):
		if value = l.environment("PATH"); value == "" {
			return unknown(pathName, "it is not known")
		}
	case err != nil:
		return l.cannot(pathName, "", err)
	}
	var dead, lost []string
	for e := range strings.SplitSeq(value, ";") {
		folder := l.entry(e)
		if folder == "" || strings.Contains(folder, "%") ||
			strings.HasPrefix(strings.ToLower(folder), `c:\windows`) { // a twin seldom has the OS's own
			continue
		}
		if _, err := l.m.Stat(folder); errors.Is(err, fs.ErrNotExist) {
			dead = append(dead, strings.Trim(strings.TrimSpace(e), `"`))
		}
	}
	for _, want := range systemFolders {
		if !l.hasEntry(value, want) {
			lost = append(lost, want)
		}
	}
	f := Finding{Name: pathName}
	switch {
	// What is lost stops setups; a long or untidy PATH only may.
	case lost != nil:
		f.Answer, f.Seen, f.Mend = Stop, fmt.Sprintf("PATH of %s lacks %s", l.m.Name(), listed(lost)),
			"put "+listed(lost)+" back into the machine's PATH"
		f.keep("entry", listed(lost))
		f.lost = lost
		if stored {
			f.Steps = []step.Model{restorePath(v, lost)}
		}
	case len(value) > maxPath:
		f.Answer, f.Seen, f.Mend = Warn, fmt.Sprintf("it has %d characters; some programs take %d", len(value), maxPath),
			"remove entries that nobody needs"
	case dead != nil:
		f.Answer, f.Seen, f.Mend = Warn, "these folders are not there: "+strings.Join(dead, ", "), "remove them"
	default:
		return pass(pathName, "PATH of %s holds the OS's folders, and all of its %d folders are there", l.m.Name(), strings.Count(value, ";")+1)
	}
	return f
}

// restorePath is the step that puts lost folders in front of PATH, as the OS
// itself writes them; all else of it stays as it is.
func restorePath(v regfile.Value, lost []string) step.Model {
	if len(lost) == 1 {
		return step.New("path-entry", "entry", lost[0], "state", "present", "at", "front")
	}
	entries, kind := slices.Clone(lost), v.Type.String()
	if kind == "expand" || !strings.Contains(v.Words(), "%") { // variables count in values of this type only
		kind = "expand"
		for i, e := range entries {
			entries[i] = `%SystemRoot%` + e[len(`C:\Windows`):]
		}
	}
	return step.New("registry", "key", environmentKey, "name", "Path", "type", kind, "value", strings.Join(append(entries, v.Words()), ";"))
}

// entry is an entry of PATH as a plain folder.
func (l *look) entry(e string) string {
	return strings.TrimRight(l.expand(strings.Trim(strings.TrimSpace(e), `"`)), `\`)
}

// hasEntry compares folders, not texts: with variables put in, without quotes
// and without a backslash at the end.
func (l *look) hasEntry(path, folder string) bool {
	for e := range strings.SplitSeq(path, ";") {
		if strings.EqualFold(l.entry(e), folder) {
			return true
		}
	}
	return false
}

const (
	// The check's name; the key is kept for each user, and relative to the
	// user's hive.
	shellName    = "shell folders"
	shellFolders = `\Software\Microsoft\Windows\CurrentVersion\Explorer\User Shell Folders`
)

// defaultFolders are the values that the OS itself sets. Source: the OS's
// documentation of known folders.
var defaultFolders = map[string]string{
	"Personal": `%USERPROFILE%\Documents`, "My Pictures": `%USERPROFILE%\Pictures`, "My Music": `%USERPROFILE%\Music`,
	"My Video": `%USERPROFILE%\Videos`, "Desktop": `%USERPROFILE%\Desktop`, "Favorites": `%USERPROFILE%\Favorites`,
	"AppData": `%USERPROFILE%\AppData\Roaming`, "Local AppData": `%USERPROFILE%\AppData\Local`,
	"Start Menu": `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Start Menu`,
	"Programs":   `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Start Menu\Programs`,
	"Startup":    `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Start Menu\Programs\Startup`,
	"SendTo":     `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\SendTo`,
	"Recent":     `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Recent`,
	"Templates":  `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Templates`,
	"NetHood":    `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Network Shortcuts`,
	"PrintHood":  `%USERPROFILE%\AppData\Roaming\Microsoft\Windows\Printer Shortcuts`,
}

// shellFolders looks for shell folders of the user on drives that are not
// there.
func (l *look) shellFolders() Finding {
	facts := l.m.Facts()
	if len(facts.Drives) == 0 {
		return unknown(shellName, "the drives of %s are not known", l.m.Name())
	}
	return l.shellFolder(shellName, func(path string) bool {
		return len(path) > 2 && path[1] == ':' && !facts.HasDrive(path[:2])
	}, pass(shellName, "all shell folders lead to drives that are there"))
}

// shellFolderOnDrive asks whether a drive that a setup missed is one that a
// shell folder leads to. With the drive there, the log is of another time.
func (l *look) shellFolderOnDrive(with arguments) Finding {
	const name = "shell-folder-drive"
	drive := with["drive"]
	if l.m.Facts().HasDrive(drive) {
		return pass(name, "the drive %s is there on %s", drive, l.m.Name())
	}
	return l.shellFolder(name, func(path string) bool { return len(path) >= 2 && strings.EqualFold(path[:2], drive) },
		unknown(name, "no shell folder of %s leads there", l.opt.User))
}

// shellFolderWithValue asks whether the path that a setup failed at is a shell
// folder's.
func (l *look) shellFolderWithValue(with arguments) Finding {
	const name = "shell-folder-value"
	want := strings.TrimRight(with["value"], `\`)
	return l.shellFolder(name, func(path string) bool { return strings.EqualFold(strings.TrimRight(path, `\`), want) },
		unknown(name, "no shell folder of %s leads there", l.opt.User))
}

// shellFolder looks among the user's shell folders for those that lead where
// they should not; none is what there is to say when none does.
func (l *look) shellFolder(name string, is func(path string) bool, none Finding) Finding {
	a, err := l.m.Account(l.opt.User)
	if err != nil {
		return unknown(name, "whose shell folders are meant is not known: %v", err)
	}
	key := `HKEY_USERS\` + string(a.SID) + shellFolders
	values, err := l.m.Values(key)
	if err != nil {
		return l.cannot(name, key, err)
	}
	f := Finding{Name: name, Answer: Stop, Mend: "point them to their usual place"}
	var seen []string
	for _, v := range values {
		where := v.Value.Words()
		if v.Delete || !is(l.expand(where)) {
			continue
		}
		seen = append(seen, fmt.Sprintf("the shell folder %s of %s points to %s", v.Name, a.Name, where))
		usual := defaultFolders[v.Name]
		// Signs have room for one value; the steps are for all.
		if len(seen) == 1 {
			f.Captures = map[string]string{"shellfolder": v.Name, "default": usual, "folder": where}
			if usual != "" {
				f.Captures["shellkey"] = key
			}
		}
		if usual != "" {
			f.Steps = append(f.Steps, step.New("registry", "key", key, "name", v.Name, "type", "expand", "value", usual))
		}
	}
	if seen == nil {
		return none
	}
	f.Seen = strings.Join(seen, "; ")
	return f
}

// listed writes names one after the other, as in a sentence.
func listed(names []string) string {
	if n := len(names) - 1; n > 0 {
		return strings.Join(names[:n], ", ") + " and " + names[n]
	}
	return strings.Join(names, "")
}
