// This file asks of one thing that a package will touch whether it can be
// touched, by the check of its kind. Nothing here has a threshold of its own.

package checks

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/logs/names"
	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/targets"
	"hollowkey/core/step"
)

// What an action of a package works on, asked of a machine.

// OfTarget asks whether a target can be used for what a package does with it.
// user is in whose name it is installed; by is as for the checks of rights. The
// class of a finding that stops is that of the cause.
func OfTarget(m machine.Machine, t targets.Target, user, by string, reach bool) Finding {
	l := newLook(m, Options{User: user})
	with := arguments{"user": user, "by": by}
	f := Finding{}
	if host := targets.HostOf(t); host != "" {
		if asked := (checker{m, reach}).notAsked("host-reachable", arguments{"host": host}); asked != nil {
			f = *asked
		} else if f = l.hostReachable(arguments{"host": host}); f.Answer == Stop {
			f.Class, f.Seen = "network", t.Name+" is not to be had: "+f.Seen
			if t.Kind == targets.Host {
				f.Seen = strings.TrimPrefix(f.Seen, t.Name+" is not to be had: ")
			}
		}
	} else {
		f = l.target(t, with)
	}
	f.Name = "package-" + string(t.Kind)
	if t.Row != "" && f.Answer == Stop {
		f.Seen += " (" + t.Row + " of the package)"
	}
	return f
}

// target asks whether what a package will touch can be touched: one thing of
// the machine, with the check of its kind. A finding without a class takes the
// one that is usual for the kind.
func (l *look) target(t targets.Target, with arguments) Finding {
	classed := func(class string, f Finding) Finding {
		if f.Class == "" {
			f.Class = class
		}
		return f
	}
	switch t.Kind {
	case targets.Folder:
		with["path"], with["folder"] = t.Name, t.Name
		if f := l.pathUsable(with); f.Answer == Stop {
			// The package took the folder from what an earlier installation
			// left: that value is the cause, not the folder.
			if s := t.Found; s != nil {
				f.Seen += "; the package takes it from " + s.Detail
				f.Mend = fmt.Sprintf("take away the value %s of %s, which an earlier installation left, so that "+
					"the usual folder is taken", s.Name, s.Key)
				f.Steps = []step.Model{step.New("unset", "key", s.Key, "name", s.Name)}
			}
			return classed("path", f)
		}
		return classed("permission", l.folderWritable(with))
	case targets.File:
		return l.fileTarget(t, with, classed)
	case targets.Key:
		with["key"] = t.Name
		return classed("permission", l.keyWritable(with))
	case targets.Service:
		with["service"] = t.Name
		if f := l.serviceStartable(with); f.Answer == Stop {
			return classed("service", f)
		}
		return classed("service", l.serviceAccount(with))
	case targets.Needed:
		_, err := l.m.Service(t.Name)
		if errors.Is(err, fs.ErrNotExist) {
			return Finding{Answer: Stop, Class: "service", Seen: fmt.Sprintf("the service %s, which the package needs, is not there", t.Name),
				Mend: "install what brings the service " + t.Name + " first"}
		}
		with["service"] = t.Name
		return classed("service", l.serviceStartable(with))
	case targets.Cabinet:
		return l.cabinetTarget(t, with)
	case targets.Inside:
		return Finding{Answer: Stop, Class: "corrupt", Seen: "the package " + t.Name + " is damaged: " + t.Fault,
			Mend: "fetch the package again from where it comes, whole, and compare its size"}
	case targets.Source:
		return l.sourceTarget(t, with)
	case targets.Program:
		if err := l.there(t.Name); errors.Is(err, fs.ErrNotExist) {
			if within(t.Name, `C:\Windows`) && errors.Is(l.there(anyOfOS), fs.ErrNotExist) { // a twin has few of the OS's files
				return unknown("", "whether the OS's program %s is there", t.Name)
			}
			return Finding{Answer: Stop, Class: "custom-action", Seen: "the program " + t.Name + " is not there"}
		}
		return pass("", "the program %s is there", t.Name)
	case targets.Named:
		return l.namedTarget(t, with, classed)
	case targets.Read:
		return classed("path", l.readTarget(t, with))
	case targets.Made:
		return classed("path", l.madeTarget(t, with))
	case targets.Refused:
		if err := l.there(t.Name); err == nil {
			return Finding{Answer: Stop, Class: "custom-action", Seen: t.Name + " is there, and with it the package's line ends in failure",
				Mend: "look what " + t.Name + " is of; where it is left from an earlier installation, move it away"}
		}
		return pass("", "%s is not there", t.Name)
	case targets.Class:
		return l.classTarget(t)
	case targets.New:
		if s, err := l.m.Service(t.Name); err == nil {
			return Finding{Answer: Stop, Class: "leftover", Seen: "the service " + s.Name + " is there already, and the package's program, which makes it, takes that for a failure",
				Mend: "look whose service " + s.Name + " is; of an earlier installation it can be removed when nothing else needs it"}
		}
		return pass("", "there is no service %s", t.Name)
	case targets.Product:
		return l.productTarget(t)
	case targets.Task:
		return l.taskTarget(t)
	case targets.Asked:
		return l.askedTarget(t)
	case targets.Present:
		if _, err := l.m.Service(t.Name); errors.Is(err, fs.ErrNotExist) {
			return Finding{Answer: Stop, Class: "service", Seen: fmt.Sprintf("the service %s is not there", t.Name),
				Mend: "install what brings the service " + t.Name + " first"}
		}
		return pass("", "the service %s is there", t.Name)
	case targets.Tool:
		return l.toolTarget(t)
	case targets.Variable:
		return l.variableTarget(t)
	case targets.Account:
		return l.accountTarget(t)
	case targets.Ended:
		return l.endedTarget(t)
	case targets.Serving:
		if _, err := l.m.Service(t.Name); errors.Is(err, fs.ErrNotExist) { // a twin may not have it, nor an OS without that part
			return unknown("", "whether the service %s, which answers the package's line, is there", t.Name)
		}
		with["service"] = t.Name
		return classed("service", l.serviceStartable(with))
	case targets.Person, targets.Newcomer:
		return l.personTarget(t)
	case targets.Engine:
		if t.Name == "own folder" {
			return classed("permission", l.ownFolder())
		}
		return classed("permission", l.temporaryFolders())
	case targets.Cached:
		return l.cachedTarget(t)
	}
	return unknown("", "nothing is known of %s", t.Words())
}

// anyOfOS is a file that every OS has: where it is not, the OS's files were not
// captured.
const anyOfOS = `C:\Windows\System32\kernel32.dll`

// given are variables that a process always has, set by the OS or by the shell
// itself. Source: the OS's "Windows commands", set, and "Recognized environment
// variables".
var given = func() map[string]bool {
	m := map[string]bool{}
	for w := range strings.FieldsSeq(`allusersprofile appdata cd clientname cmdcmdline cmdextversion commonprogramfiles commonprogramfiles(x86)
		commonprogramw6432 computername comspec date driverdata errorlevel highestnumanodenumber homedrive homepath localappdata logonserver
		number_of_processors onedrive os path pathext processor_architecture processor_architew6432 processor_identifier processor_level
		processor_revision programdata programfiles programfiles(x86) programw6432 prompt psmodulepath public random sessionname systemdrive
		systemroot temp time tmp userdnsdomain userdomain userdomain_roamingprofile username userprofile windir`) {
		m[w] = true
	}
	return m
}()

// variableTarget asks for a variable that a shell's line of the package uses:
// of one that is not set the shell leaves the name in its place.
func (l *look) variableTarget(t targets.Target) Finding {
	set := given[strings.ToLower(t.Name)]
	for k := range l.m.Facts().Environment {
		set = set || strings.EqualFold(k, t.Name)
	}
	if a, err := l.m.Account(l.opt.User); err == nil && !set {
		set = machine.TextOf(l.m, `HKEY_USERS\`+string(a.SID)+`\Environment`, t.Name) != ""
	}
	if set {
		return pass("", "the variable %s is set", t.Name)
	}
	return Finding{Answer: Stop, Class: "path", Seen: fmt.Sprintf("the variable %s of the environment, which the package's program uses, is not set", t.Name),
		Mend: "set the variable " + t.Name + " for the machine to what the vendor's manual says, then run the setup again"}
}

// accountTarget asks for the account under which a service of the package is to
// run. One of a domain is not looked up: the answer would say only that the
// domain is out of reach.
func (l *look) accountTarget(t targets.Target) Finding {
	name, local := strings.CutPrefix(t.Name, `.\`)
	if domain, rest, ok := strings.Cut(t.Name, `\`); ok && !local {
		if own, _, _ := l.text(computerName+"ComputerName", "ComputerName"); !strings.EqualFold(domain, own) {
			return pass("", "the account %s is not of this machine", t.Name)
		}
		name = rest
	}
	if !local && name == t.Name {
		return pass("", "the account %s is one of the OS's", t.Name)
	}
	if _, err := l.m.Account(name); errors.Is(err, fs.ErrNotExist) {
		return Finding{Answer: Stop, Class: "service", Seen: fmt.Sprintf("the account %s, under which the package's service is to run, is not there", t.Name),
			Mend: "make the account " + name + " on the machine, with the right to log on as a service, or give the setup another one"}
	}
	return pass("", "the account %s is there", t.Name)
}

// endedTarget asks for a program that a line of the package ends: without one
// the line ends with a number other than 0.
func (l *look) endedTarget(t targets.Target) Finding {
	list, err := l.m.Processes()
	if err != nil {
		return l.cannot("", t.Name, err)
	}
	if len(list) == 0 {
		return unknown("", "whether %s runs", t.Name)
	}
	if slices.ContainsFunc(list, func(p machine.Process) bool { return strings.EqualFold(p.Name, t.Name) }) {
		return pass("", "%s runs", t.Name)
	}
	return Finding{Answer: Stop, Class: "custom-action",
		Seen: t.Name + " does not run now, and the package's line, which ends it, takes that for a failure (128)",
		Mend: "start " + t.Name + " before the setup, or let the vendor have the setup pass over it"}
}

// personTarget asks for an account that a line of the package names, or makes.
func (l *look) personTarget(t targets.Target) Finding {
	_, err := l.m.Account(t.Name)
	absent := errors.Is(err, fs.ErrNotExist)
	if known, ok := l.m.(interface {
		NameKnown(name string) (bool, error)
	}); ok { // as the OS has it, in its own language
		var is bool
		is, err = known.NameKnown(t.Name)
		absent = err == nil && !is
	} else if users, _ := l.m.UserNames(); absent && len(users) < leastUsers {
		return unknown("", "whether %s has the account %s, since little is known of its accounts", l.m.Name(), t.Name)
	}
	switch {
	case err != nil && !absent:
		return l.cannot("", t.Name, err)
	case t.Kind == targets.Newcomer && !absent:
		return Finding{Answer: Stop, Class: "leftover", Seen: "the account " + t.Name + " is there already, and the package's line, which makes it, takes that for a failure",
			Mend: "look whose account " + t.Name + " is; of an earlier installation it can be removed when nothing else needs it"}
	case t.Kind == targets.Newcomer:
		return pass("", "there is no account %s", t.Name)
	case absent:
		return Finding{Answer: Stop, Class: "custom-action",
			Seen: fmt.Sprintf("%s knows no account of the name %s, which the package's line uses; names of groups differ by the OS's language", l.m.Name(), t.Name),
			Mend: "make the account " + t.Name + ", or let the vendor name the group by its security ID"}
	}
	return pass("", "the account %s is there", t.Name)
}

// leastUsers is how many users a machine names at least that tells of its
// accounts: a twin that was taken has the one who was signed in.
const leastUsers = 2

// ownFolder asks for the engine's own folder. Administrators may write there,
// too, and where SYSTEM may it is they who lack it.
func (l *look) ownFolder() Finding {
	f := l.cacheFolder()
	a, err := l.m.Account(l.opt.User)
	if f.Answer != Pass || err != nil || !l.administers(a) {
		return f
	}
	s, err := l.m.FileSecurity(enginesFolder)
	if err != nil {
		return f
	}
	d, err := sddl.Parse(s.SDDL)
	if err != nil || MayWrite(d, sddl.Folder, a) {
		return f
	}
	return Finding{Answer: Stop, Seen: fmt.Sprintf("%s, an administrator, %s %s", a.Name,
		onlyHas(sddl.Folder, d.Effective(sddl.Folder, a.SIDs())), enginesFolder),
		Mend:  "give Administrators the right to change " + enginesFolder,
		Steps: []step.Model{step.New("grant", "folder", enginesFolder, "account", string(sddl.Administrators), "right", "modify")}}
}

// namedTarget asks for a path that a program of a package is called with.
// Whether it is read or written nobody says; where those who set products up
// may not write outside of the OS's own folder, that is rare enough to be the
// reason.
func (l *look) namedTarget(t targets.Target, with arguments, classed func(string, Finding) Finding) Finding {
	drive, _, err := machine.SplitPath(t.Name)
	if err != nil || within(t.Name, `C:\Windows`) {
		return pass("", "%s is not looked at", t.Name)
	}
	facts := l.m.Facts()
	for _, d := range facts.Drives {
		if strings.EqualFold(d.Letter, drive+":") && d.Kind != "" && d.Kind != "fixed" {
			return pass("", "%s lies on a drive of another kind", t.Name)
		}
	}
	with["path"] = t.Name
	if len(facts.Drives) > 0 && !facts.HasDrive(drive+":") {
		return classed("path", l.pathUsable(with))
	}
	// An ordinary user who may only read outside of the own profile has what is
	// usual there.
	if a, err := l.m.Account(l.opt.User); err == nil && !l.administers(a) && (a.Profile == "" || !within(t.Name, a.Profile)) {
		with["by"] = system
	}
	at := strings.TrimRight(t.Name, `\`)
	for info, err := l.m.Stat(at); err != nil || !info.Folder; info, err = l.m.Stat(at) {
		if err == nil { // a file
			with["file"] = at
			return classed("permission", l.fileWritable(with))
		}
		up := strings.LastIndexByte(at, '\\')
		if !errors.Is(err, fs.ErrNotExist) || up < 0 {
			return l.cannot("", at, err)
		}
		at = at[:up]
	}
	if slices.ContainsFunc(usualParents, func(p string) bool { return strings.EqualFold(strings.TrimRight(p, `\`), at) }) {
		return pass("", "%s is nobody's own", at)
	}
	with["folder"] = at
	return classed("permission", l.folderWritable(with))
}

// readTarget asks for a file or folder that a program of a package reads or
// runs.
func (l *look) readTarget(t targets.Target, with arguments) Finding {
	with["path"] = t.Name
	if drive, _, err := machine.SplitPath(t.Name); err == nil {
		if facts := l.m.Facts(); len(facts.Drives) > 0 && !facts.HasDrive(drive+":") {
			return l.pathUsable(with)
		}
	}
	switch err := l.there(t.Name); {
	case within(t.Name, `C:\Windows`): // of the OS's own a twin holds a part
		return pass("", "%s is not looked at", t.Name)
	case errors.Is(err, fs.ErrNotExist):
		return Finding{Answer: Stop, Seen: t.Name + " is not there", Mend: "bring " + t.Name + " there: the setup reads it, and does not bring it"}
	case err != nil:
		return l.cannot("", t.Name, err)
	}
	return pass("", "%s is there", t.Name)
}

// classTarget asks whether a class is registered of which a script makes an
// object. A twin has few of them.
func (l *look) classTarget(t targets.Target) Finding {
	if o, is := l.m.(interface{ Offline() bool }); is && o.Offline() {
		return unknown("", "whether the class %s is registered", t.Name)
	}
	for _, root := range []string{`HKLM\SOFTWARE\Classes\`, `HKLM32\SOFTWARE\Classes\`, `HKCU\SOFTWARE\Classes\`} {
		if _, err := l.m.Values(root + t.Name); !errors.Is(err, fs.ErrNotExist) {
			return pass("", "the class %s is registered", t.Name)
		}
	}
	return Finding{Answer: Stop, Class: "prerequisite", Seen: "the class " + t.Name + ", of which the package's script makes an object, is not registered",
		Mend: "install what brings " + t.Name + " first, in the processor's kind that the package has"}
}

// productTarget asks whether a product is installed that a program of the
// package's uninstalls.
func (l *look) productTarget(t targets.Target) Finding {
	const uninstall = `\Microsoft\Windows\CurrentVersion\Uninstall\`
	for _, key := range []string{`HKLM\SOFTWARE` + uninstall + t.Name, `HKLM32\SOFTWARE` + uninstall + t.Name,
		`HKLM\SOFTWARE\Classes\Installer\Products\` + installdb.PackCode(t.Name), `HKCU\SOFTWARE\Microsoft\Installer\Products\` + installdb.PackCode(t.Name)} {
		if _, err := l.m.Values(key); !errors.Is(err, fs.ErrNotExist) {
			return pass("", "the product %s is installed", t.Name)
		}
	}
	return Finding{Answer: Stop, Class: "custom-action", Seen: "the product " + t.Name +
		", which the package's program uninstalls, is not installed, and it takes that for a failure (1605)",
		Mend: "let the vendor have the setup pass over it"}
}

// taskTarget asks for a task of the scheduler.
func (l *look) taskTarget(t targets.Target) Finding {
	list, err := l.m.Tasks()
	if err != nil {
		return l.cannot("", "the scheduler's tasks", err)
	}
	if slices.ContainsFunc(list, func(o machine.Task) bool { return strings.EqualFold(o.Path, t.Name) }) {
		return pass("", "the task %s is there", t.Name)
	}
	return Finding{Answer: Stop, Class: "custom-action", Seen: "the task " + t.Name + " is not there, and the package's program takes that for a failure",
		Mend: "install what makes the task " + t.Name + ", or let the vendor have the setup pass over it"}
}

// madeTarget asks whether a shell's command can make a folder: it cannot where
// a file has that name, and neither where the folder is there already.
func (l *look) madeTarget(t targets.Target, with arguments) Finding {
	with["path"], with["what"], with["made"] = t.Name, "folder", "yes"
	if f := l.pathUsable(with); f.Answer == Stop {
		if info, err := l.m.Stat(t.Name); err == nil && !info.Folder && len(f.Steps) > 0 { // the folder is the program's to make
			f.Mend, f.Steps = "set the file "+t.Name+" aside", []step.Model{step.New("quarantine", "path", t.Name)}
		}
		return f
	}
	if info, err := l.m.Stat(t.Name); err == nil && info.Folder {
		return Finding{Answer: Stop, Class: "custom-action",
			Seen: "the folder " + t.Name + " is there already, and the package's line, which makes it, takes that for a failure",
			Mend: "look what is in " + t.Name + ", and move it away before the setup runs again"}
	}
	delete(with, "what")
	delete(with, "made")
	return l.namedTarget(t, with, func(class string, f Finding) Finding {
		f.Class = cmp.Or(f.Class, class)
		return f
	})
}

// askedTarget asks for a key, or its value, that a program of a package asks
// for.
func (l *look) askedTarget(t targets.Target) Finding {
	key, value, asked := strings.Cut(t.Name, "|")
	var err error
	if asked {
		_, err = l.m.Value(key, value)
	} else {
		_, err = l.m.Values(key)
	}
	what := key
	if asked {
		what = "the value " + value + " of " + key
	}
	switch {
	case errors.Is(err, fs.ErrNotExist) && !l.holds(key):
		return unknown("", "whether %s is there, since a twin holds a part of the registry", what)
	case errors.Is(err, fs.ErrNotExist):
		return Finding{Answer: Stop, Class: "registry", Seen: what + " is not there", Mend: "install what writes " + what + " first"}
	case err != nil:
		return l.cannot("", what, err)
	}
	return pass("", "%s is there", what)
}

// collections are keys that many vendors have keys in.
var collections = map[string]bool{"software": true, "microsoft": true, "classes": true, "wow6432node": true, "policies": true, "windows": true,
	"currentversion": true, "windows nt": true, "services": true, "control": true, "currentcontrolset": true, "system": true}

// holds says whether a machine that has no key of that name tells by that that
// it is not there: a twin does where it has the key in which it would stand,
// and that is one vendor's.
func (l *look) holds(key string) bool {
	if o, is := l.m.(interface{ Offline() bool }); !is || !o.Offline() {
		return true
	}
	if _, err := l.m.Values(key); err == nil { // a value of it is asked for
		return true
	}
	at := strings.LastIndexByte(key, '\\')
	if at < 0 {
		return false
	}
	_, err := l.m.Values(key[:at])
	return err == nil && !collections[strings.ToLower(key[strings.LastIndexByte(key[:at], '\\')+1:at])]
}

// toolTarget asks whether a program is found by its name, as the shell looks
// for it: in the OS's folders and in those of PATH.
func (l *look) toolTarget(t targets.Target) Finding {
	name := strings.ToLower(t.Name)
	if names.ToolFolder(name) != "" {
		return l.toolInPath(arguments{"tool": t.Name})
	}
	v, err := l.m.Value(environmentKey, "Path")
	if err != nil {
		return unknown("", "where %s is looked for is not known", t.Name)
	}
	endings := []string{""}
	if !strings.Contains(name, ".") {
		endings = []string{".exe", ".cmd", ".bat", ".com"}
	}
	// In the order in which the OS looks. One folder that cannot be looked into
	// leaves it open.
	folders := append([]string{`C:\Windows\system32`, `C:\Windows`}, strings.Split(v.Words(), ";")...)
	for _, folder := range folders {
		folder = strings.TrimRight(l.entry(folder), `\`)
		if _, _, bad := machine.SplitPath(folder); bad != nil {
			continue
		}
		if err := l.there(folder); err != nil { // a twin may not hold it
			return unknown("", "whether %s lies in %s is not known", t.Name, folder)
		}
		for _, e := range endings {
			err := l.there(folder + `\` + name + e)
			if err == nil {
				return pass("", "%s lies in %s", t.Name, folder)
			}
			if !errors.Is(err, fs.ErrNotExist) {
				return unknown("", "whether %s lies in %s is not known: %v", t.Name, folder, err)
			}
		}
	}
	return Finding{Answer: Stop, Class: "path", Seen: fmt.Sprintf("no folder of PATH holds %s", t.Name),
		Mend: "install what brings " + t.Name + ", or add its folder to PATH"}
}

// base is the last name of a path.
func base(path string) string { return path[strings.LastIndexByte(path, '\\')+1:] }
