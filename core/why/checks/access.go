// This file asks who may write where. Of several accounts the one that lacks a
// right decides, and which accounts count depends on who works there: the user,
// or the engine's service.

package checks

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/guard"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/step"
)

// Writing is what the installer needs on a folder or file that it writes to: to
// make and change files there. To delete them it needs no right of its own,
// since who makes a file owns it; asking for it would call the OS's own
// temporary folders, where users may do just this much, unfit.
const Writing = sddl.FileRead | sddl.FileWrite

// writingKey is what it needs on a registry key.
const writingKey = sddl.KeyRead | sddl.KeyWrite

// MayWrite says whether an account may do there what a setup needs: on a key, a
// folder or a file. Rehearsal, signs and ready all mean this by it.
func MayWrite(d *sddl.Descriptor, kind sddl.Kind, a machine.Account) bool {
	want := need(kind)
	return d.Effective(kind, a.SIDs())&want == want
}

// need is what a setup needs on an object of a kind.
func need(kind sddl.Kind) sddl.Mask {
	if kind == sddl.Key {
		return writingKey
	}
	return Writing
}

// folderWritable asks whether SYSTEM and the user may write into a folder: the
// engine does most of its work as the one, and some as the other.
func (l *look) folderWritable(with arguments) Finding {
	return l.writable("folder-writable", with["folder"], l.accountsAt(with["folder"], with)...)
}

// fileWritable asks the same of a file.
func (l *look) fileWritable(with arguments) Finding {
	return l.writable("file-writable", with["file"], l.accountsAt(with["file"], with)...)
}

// keyWritable asks the same of a registry key, or of the nearest one above it.
func (l *look) keyWritable(with arguments) Finding {
	key := with["key"]
	if there, err := l.keyThere(key); err == nil && !there { // a value's name may stand behind it
		if at := strings.LastIndexByte(key, ' '); at > strings.LastIndexByte(key, '\\') {
			if there, err = l.keyThere(key[:at]); err == nil && there {
				key = key[:at]
			}
		}
	}
	for {
		s, err := l.m.KeySecurity(key)
		up := strings.LastIndexByte(key, '\\')
		if err == nil || !errors.Is(err, fs.ErrNotExist) || up < 0 {
			if err != nil {
				return l.cannot("key-writable", with["key"], err)
			}
			f := l.access("key-writable", key, s, sddl.Key, l.accounts(with)...)
			f.keep("key", key)
			return f
		}
		key = key[:up]
	}
}

// system does the work of a setup; the user is the one in whose name it is
// done.
const system = "SYSTEM"

// asUser is the argument by which a check is asked for the user alone: a
// program that is no package does all its work as whoever started it.
const asUser = "user"

// accountsAt are accounts, but for the engine's own folder, where its service
// alone writes.
func (l *look) accountsAt(path string, with arguments) []string {
	if within(path, enginesFolder) {
		return []string{system}
	}
	return l.accounts(with)
}

// accounts are those that must have a right: the user and SYSTEM, unless the
// question names one of them.
func (l *look) accounts(with arguments) []string {
	switch with["by"] {
	case asUser:
		return []string{l.opt.User}
	case system:
		return []string{system}
	}
	return []string{l.opt.User, system}
}

// existing gives what is there of a path: itself, or the nearest folder above
// it, in which it would be made.
func (l *look) existing(path string) (info machine.FileInfo, err error) {
	drive, names, err := machine.SplitPath(path)
	if err != nil {
		return info, err
	}
	for n := len(names); n >= 0; n-- {
		at := drive + `:\` + strings.Join(names[:n], `\`)
		info, err = l.m.Stat(at)
		if err == nil {
			info.Path = at
			return info, nil
		}
		if !errors.Is(err, fs.ErrNotExist) {
			return info, err
		}
	}
	return info, err
}

// writable asks whether accounts may write at a path. Of one that is not there
// the nearest folder above it counts.
func (l *look) writable(name, path string, accounts ...string) Finding {
	path = strings.TrimRight(path, `\`)
	info, err := l.existing(path)
	if err != nil {
		return l.cannot(name, path, err)
	}
	at := info.Path
	s, err := l.m.FileSecurity(at)
	if err != nil {
		return l.cannot(name, at, err)
	}
	kind := sddl.Folder
	if !info.Folder {
		kind = sddl.File
	}
	f := l.access(name, at, s, kind, accounts...)
	f.keep(target(kind), at)
	return f
}

// access looks for the accounts that lack a right. An entry that denies it is
// told as such, for a grant would not help.
func (l *look) access(name, what string, s machine.Security, kind sddl.Kind, accounts ...string) Finding {
	d, err := sddl.Parse(s.SDDL)
	if err != nil {
		return unknown(name, "the access list of %s cannot be read: %v", what, err)
	}
	var asked, lacking, seen, ordinary []string
	var steps []step.Model
	captures := map[string]string{}
	for _, who := range accounts {
		if who == "" || slices.Contains(asked, who) {
			continue
		}
		a, err := l.m.Account(who)
		if err != nil || guard.Broad(a.SID) { // nobody runs a setup as a group, whatever a log says
			continue
		}
		asked = append(asked, who)
		if MayWrite(d, kind, a) {
			continue
		}
		// An entry that denies counts before all that allow: a grant beside it
		// would not help.
		if e, denied := d.Denies(kind, a.SIDs(), need(kind)); denied {
			return l.denied(name, what, kind, e, a)
		}
		// Where only administrators write by design, nothing is broken: the
		// setup wants elevation.
		if !l.administers(a) && ofAdministrators(what) && MayWrite(d, kind, machine.Account{SID: sddl.Administrators}) {
			ordinary = append(ordinary, a.Name)
			continue
		}
		lacking = append(lacking, a.Name)
		seen = append(seen, fmt.Sprintf("%s %s %s", a.Name, onlyHas(kind, d.Effective(kind, a.SIDs())), what))
		steps = append(steps, step.New("grant", target(kind), what, "account", a.Name, "right", l.rightFor(kind, a)))
	}
	switch {
	case len(asked) == 0:
		return unknown(name, "neither the user nor SYSTEM is known on %s", l.m.Name())
	case lacking == nil && ordinary != nil && len(ordinary) == len(asked):
		return Finding{Name: name, Answer: Stop, Class: "elevation", Mend: "run the setup from an elevated prompt",
			Seen: fmt.Sprintf("only administrators may write to %s, and %s is none", what, ordinary[0])}
	case lacking == nil:
		return pass(name, "%s can write to %s", strings.Join(asked, " and "), what)
	}
	captures["lacking"], captures["right"] = listed(lacking), "full"
	if slices.ContainsFunc(steps, func(m step.Model) bool { return m["grant"]["right"] != "full" }) { // the least that all of them need
		captures["right"] = rightToChange
	}
	if !guardFree(what, kind) { // a person must look who took the right away there, but for the OS's own accounts
		steps = slices.DeleteFunc(steps, func(m step.Model) bool {
			a, err := l.m.Account(m["grant"]["account"])
			return err != nil || !guard.Restores(what, a.SID)
		})
	}
	if owner, foreign := l.foreignOwner(d.Owner); foreign {
		seen = append(seen, fmt.Sprintf("it belongs to %s, an account that %s does not know", owner, l.m.Name()))
	}
	return Finding{Name: name, Answer: Stop, Seen: strings.Join(seen, "; "), Steps: steps, Captures: captures,
		Mend: fmt.Sprintf("give %s the right to change %s", captures["lacking"], what)}
}

// rightToChange is the right of a grant that lets an account read and change.
const rightToChange = "modify"

// rightFor is the least right that an account needs for setups on an object of
// a kind. On keys SYSTEM and administrators get back what the OS gives them
// everywhere: programs open keys for more than they use.
func (l *look) rightFor(kind sddl.Kind, a machine.Account) string {
	if kind == sddl.Key && (l.administers(a) || a.SID == sddl.Administrators) {
		return "full"
	}
	return rightToChange
}

// administers says whether an account is an administrator's, or the OS's own.
func (l *look) administers(a machine.Account) bool {
	return a.SID == sddl.System || slices.Contains(a.Groups, sddl.Administrators)
}

// administratorPlaces are where the OS lets administrators write and nobody
// else; there, an ordinary user who may not lacks no entry but an
// administrator's account.
var administratorPlaces = []string{`c:\windows\`, `c:\program files\`, `c:\program files (x86)\`,
	`hkey_local_machine\software\`, `hkey_local_machine\system\`}

// ofAdministrators says whether a path or key is one of those places, or lies
// there.
func ofAdministrators(what string) bool {
	low := strings.ToLower(what) + `\`
	if machine.IsKey(what) {
		if long, err := machine.LongKey(what); err == nil {
			low = strings.ToLower(long) + `\`
		}
	}
	return !strings.HasPrefix(low, `c:\windows\temp\`) &&
		slices.ContainsFunc(administratorPlaces, func(p string) bool { return strings.HasPrefix(low, p) })
}

// foreignOwner says whether an owner is nobody whom the machine knows.
func (l *look) foreignOwner(sid sddl.SID) (name string, foreign bool) {
	if sid == "" || !strings.HasPrefix(string(sid), "S-1-5-21-") {
		return "", false
	}
	_, err := l.m.Account(string(sid))
	return string(sid), errors.Is(err, fs.ErrNotExist)
}

// denied tells of an entry that denies what is needed, and the place where it
// was set: what comes from above is taken away above.
func (l *look) denied(name, what string, kind sddl.Kind, e sddl.Entry, a machine.Account) Finding {
	// The entry is taken away where it is written: below, it only came down
	// from there.
	at, k := what, kind
	for e.Flags&sddl.Inherited != 0 {
		up := strings.LastIndexByte(at, '\\')
		if up < 0 {
			break
		}
		at, k = at[:up], above(kind)
		if len(at) == len("C:") && kind != sddl.Key {
			at += `\`
		}
		s, err := l.security(at, k)
		if err != nil {
			break
		}
		d, err := sddl.Parse(s.SDDL)
		if err != nil {
			break
		}
		o, there := d.Denies(k, []sddl.SID{e.SID}, need(k))
		if !there {
			break
		}
		e = o
	}
	f := Finding{Name: name, Answer: Stop, Captures: map[string]string{"denied": e.SID.Name()},
		Mend: fmt.Sprintf("take away the entry that denies %s the access to %s", e.SID.Name(), at),
		Seen: fmt.Sprintf("an entry for %s denies %s the access to %s", e.SID.Name(), a.Name, what)}
	if at != what {
		f.Seen += ", and comes from " + at
	}
	if guardFree(at, k) {
		f.Steps = []step.Model{step.New("revoke", target(k), at, "account", string(e.SID), "entries", "denied")}
	}
	return f
}

// guardFree says whether the guard lets steps change who may do what there.
func guardFree(what string, kind sddl.Kind) bool {
	if kind == sddl.Key {
		return guard.Key(guard.Open, what) == nil
	}
	return guard.File(guard.Open, what) == nil
}

// above is the kind of what lies above an object.
func above(kind sddl.Kind) sddl.Kind {
	if kind == sddl.Key {
		return sddl.Key
	}
	return sddl.Folder
}

// security is the access list of a key, a folder or a file.
func (l *look) security(what string, kind sddl.Kind) (machine.Security, error) {
	if kind == sddl.Key {
		return l.m.KeySecurity(what)
	}
	return l.m.FileSecurity(what)
}

// target is the argument by which a grant step takes an object of a kind.
func target(kind sddl.Kind) string {
	switch kind {
	case sddl.Key:
		return "key"
	case sddl.File:
		return "file"
	}
	return "folder"
}

// onlyHas says what somebody may do who lacks something.
func onlyHas(kind sddl.Kind, m sddl.Mask) string {
	if m == 0 {
		return "has no access to"
	}
	if name := sddl.RightsName(kind, m); strings.HasPrefix(name, "rights ") { // a mixture that has no name
		return "has only the " + name + " on"
	}
	return "can only " + sddl.RightsName(kind, m) + " in"
}

const (
	// The names under which these checks are asked for by signs and by a site's
	// needs.
	temporaryName = "temporary folder"
	windowsTemp   = `C:\Windows\Temp`
	cachedName    = "packages folder"
)

// temporaryFolders asks for the user's temporary folder, where setups unpack,
// and for the OS's own, which its services use; users need not read there.
func (l *look) temporaryFolders() Finding {
	temp := l.temporary()
	f := unknown(temporaryName, "TEMP is not known")
	if temp != "" {
		f = l.folderFit(temporaryName, temp, l.opt.User, system)
		f.keep("folder", temp)
	}
	if f.Answer == Stop {
		return f
	}
	own := l.writable(temporaryName, windowsTemp, system)
	own.keep("folder", windowsTemp)
	if own.Answer == Stop || temp == "" {
		return own
	}
	return f
}

// scriptsWritable asks for the folders in which the engine keeps the script of
// a run: the system's temporary folder and the user's.
func (l *look) scriptsWritable(arguments) Finding {
	const name = "scripts-writable"
	f := l.writable(name, windowsTemp, l.opt.User, system)
	if f.Answer == Stop {
		return f
	}
	if own := l.temporaryFolders(); own.Answer == Stop {
		own.Name = name
		return own
	}
	return f
}

// machineEnvironment is the key that holds the variables of the machine; each
// user's are in a key of theirs.
const machineEnvironment = `HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`

// environmentWritable asks for the keys that hold the environment, the
// machine's and the user's.
func (l *look) environmentWritable(arguments) Finding {
	const name = "environment-writable"
	f := l.keyWritable(arguments{"key": machineEnvironment})
	if a, err := l.m.Account(l.opt.User); f.Answer != Stop && err == nil {
		if own := l.keyWritable(arguments{"key": `HKU\` + string(a.SID) + `\Environment`, "by": asUser}); own.Answer == Stop {
			f = own
		}
	}
	f.Name = name
	return f
}

// keep adds a capture; a finding that has none yet gets its map here.
func (f *Finding) keep(name, value string) {
	if f.Captures == nil {
		f.Captures = map[string]string{}
	}
	f.Captures[name] = value
}

// TemporaryFolder is a user's temporary folder on a machine, empty when it is
// not known.
func TemporaryFolder(m machine.Machine, user string) string {
	if _, err := m.Account(user); err != nil {
		user = ""
	}
	return newLook(m, Options{User: user}).temporary()
}

// temporary is the user's temporary folder, empty when it is not known.
func (l *look) temporary() string {
	if t := l.environment("TEMP"); t != "" && !strings.Contains(t, "%") {
		return t
	}
	if a, err := l.m.Account(l.opt.User); err == nil && a.Profile != "" {
		return a.Profile + `\AppData\Local\Temp`
	}
	return ""
}

// cacheFolder asks for the engine's own folder of packages. Nothing is
// installed, repaired or removed without writing there.
func (l *look) cacheFolder() Finding { return l.folderFit(cachedName, enginesFolder, system) }

// enginesFolder is where the engine keeps its copies of packages.
const enginesFolder = `C:\Windows\Installer`

// driveGone says whether a path's drive is surely not there.
func (l *look) driveGone(path string) bool {
	facts := l.m.Facts()
	return len(facts.Drives) > 0 && len(path) > 1 && path[1] == ':' && !facts.HasDrive(path[:2])
}

// usualTemp is where the OS puts a user's temporary folder.
const usualTemp = `%USERPROFILE%\AppData\Local\Temp`

// temporaryElsewhere says that the user's temporary folder leads to a drive
// that is gone, and points the variables that lead there to the usual place.
func (l *look) temporaryElsewhere(folder string) Finding {
	f := Finding{Name: temporaryName, Answer: Stop, Class: "path",
		Seen: folder + ", the temporary folder, is not there, and nor is the drive " + folder[:2],
		Mend: "point TEMP and TMP to a folder that is there, and open a new window"}
	a, err := l.m.Account(l.opt.User)
	if err != nil {
		return f
	}
	key := `HKEY_USERS\` + string(a.SID) + `\Environment`
	values, err := l.m.Values(key)
	if err != nil {
		return f
	}
	// The OS's own place for it, relative to the profile.
	usual, kind := usualTemp, "expand"
	if a.Profile != "" { // said whole, no variable has to be known before it
		usual, kind = a.Profile+strings.TrimPrefix(usualTemp, "%USERPROFILE%"), "string"
	}
	for _, v := range values {
		if name := strings.ToUpper(v.Name); !v.Delete && (name == "TEMP" || name == "TMP") && l.driveGone(l.expand(v.Value.Words())) {
			f.Steps = append(f.Steps, step.New("registry", "key", key, "name", v.Name, "type", kind, "value", usual))
		}
	}
	if len(f.Steps) == 0 {
		return f
	}
	// A variable that leads nowhere again would be no fix.
	if err := l.there(usual); kind == "string" && errors.Is(err, fs.ErrNotExist) {
		f.Steps = append(f.Steps, step.New("folder", "folder", usual))
	}
	f.Mend = "point TEMP and TMP to their usual place, " + usual + "; then open a new window"
	return f
}

// folderFit asks whether a folder that must be there is, and may be written.
func (l *look) folderFit(name, folder string, accounts ...string) Finding {
	info, err := l.m.Stat(folder)
	switch {
	case errors.Is(err, fs.ErrNotExist) && name == temporaryName && l.driveGone(folder):
		return l.temporaryElsewhere(folder)
	case errors.Is(err, fs.ErrNotExist):
		return Finding{Name: name, Answer: Stop, Class: "path", Seen: folder + " is not there", Mend: "make the folder " + folder,
			Steps: []step.Model{step.New("folder", "folder", folder)}}
	case err != nil:
		return l.cannot(name, "", err)
	case !info.Folder:
		steps := []step.Model{step.New("folder", "folder", folder)}
		if info.Size > 0 {
			steps = []step.Model{step.New("quarantine", "path", folder)} // then nothing is in the way; the next check makes the folder
		}
		return Finding{Name: name, Answer: Stop, Class: "path", Seen: folder + " is a file where a folder must be",
			Mend: "take the file away and make the folder " + folder, Steps: steps}
	}
	return l.writable(name, folder, accounts...)
}
