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
	return l.writable("folder-writable", with["folder"], l.opt.User, system)
}

// fileWritable asks the same of a file.
func (l *look) fileWritable(with arguments) Finding {
	return l.writable("file-writable", with["file"], l.opt.User, system)
}

// keyWritable asks the same of a registry key.
func (l *look) keyWritable(with arguments) Finding {
	key := with["key"]
	s, err := l.m.KeySecurity(key)
	if err != nil {
		return l.cannot("key-writable", key, err)
	}
	return l.access("key-writable", key, s, sddl.Key, l.opt.User, system)
}

// system does the work of a setup; the user is the one in whose name it is done.
const system = "SYSTEM"

// writable asks whether accounts may write at a path that is there.
func (l *look) writable(name, path string, accounts ...string) Finding {
	path = strings.TrimRight(path, `\`)
	s, err := l.m.FileSecurity(path)
	if err != nil {
		return l.cannot(name, path, err)
	}
	kind := sddl.Folder
	if info, err := l.m.Stat(path); err == nil && !info.Folder {
		kind = sddl.File
	}
	return l.access(name, path, s, kind, accounts...)
}

// access looks for the accounts that lack a right. An entry that denies it is
// told as such, for a grant would not help.
func (l *look) access(name, what string, s machine.Security, kind sddl.Kind, accounts ...string) Finding {
	d, err := sddl.Parse(s.SDDL)
	if err != nil {
		return unknown(name, "the access list of %s cannot be read: %v", what, err)
	}
	var asked, lacking, seen []string
	var steps []step.Model
	captures := map[string]string{}
	for _, who := range accounts {
		if who == "" || slices.Contains(asked, who) {
			continue
		}
		a, err := l.m.Account(who)
		if err != nil || guard.Broad(a.SID) { // nobody runs a set-up as a group, whatever a log says
			continue
		}
		asked = append(asked, who)
		if MayWrite(d, kind, a) {
			continue
		}
		if e, denied := d.Denies(kind, a.SIDs(), need(kind)); denied {
			captures["denied"] = e.SID.Name()
			return Finding{Name: name, Answer: Stop, Captures: captures, Mend: "remove the entry that denies it",
				Seen: fmt.Sprintf("an entry for %s denies %s the access to %s", e.SID.Name(), a.Name, what)}
		}
		lacking = append(lacking, a.Name)
		seen = append(seen, fmt.Sprintf("%s %s %s", a.Name, onlyHas(kind, d.Effective(kind, a.SIDs())), what))
		steps = append(steps, step.New("grant", target(kind), what, "account", a.Name, "right", "modify"))
	}
	switch {
	case len(asked) == 0:
		return unknown(name, "neither the user nor SYSTEM is known on %s", l.m.Name())
	case lacking == nil:
		return pass(name, "%s can write to %s", strings.Join(asked, " and "), what)
	}
	captures["lacking"] = lacking[0]
	return Finding{Name: name, Answer: Stop, Seen: strings.Join(seen, "; "), Mend: "grant the right", Steps: steps, Captures: captures}
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
	return "can only " + sddl.RightsName(kind, m) + " in"
}

const (
	temporaryName = "temporary folder"
	windowsTemp   = `C:\Windows\Temp`
	cachedName    = "packages folder"
)

// temporaryFolders asks for the user's temporary folder, where setups unpack, and
// for the OS's own, which its services use; users need not read there.
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

// keep adds a capture; a finding that has none yet gets its map here.
func (f *Finding) keep(name, value string) {
	if f.Captures == nil {
		f.Captures = map[string]string{}
	}
	f.Captures[name] = value
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

// cacheFolder asks for the engine's own folder of packages. Nothing is installed,
// repaired or removed without writing there.
func (l *look) cacheFolder() Finding { return l.folderFit(cachedName, `C:\Windows\Installer`, system) }

// folderFit asks whether a folder that must be there is, and may be written.
func (l *look) folderFit(name, folder string, accounts ...string) Finding {
	info, err := l.m.Stat(folder)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return Finding{Name: name, Answer: Stop, Seen: folder + " is not there", Mend: "make the folder",
			Steps: []step.Model{step.New("folder", "folder", folder)}}
	case err != nil:
		return l.cannot(name, "", err)
	case !info.Folder:
		steps := []step.Model{step.New("folder", "folder", folder)}
		if info.Size > 0 {
			steps = []step.Model{step.New("quarantine", "path", folder)} // then nothing is in the way; the next check makes the folder
		}
		return Finding{Name: name, Answer: Stop, Seen: folder + " is a file where a folder must be",
			Mend: "take the file away and make the folder", Steps: steps}
	}
	return l.writable(name, folder, accounts...)
}
