// This file learns from a product's entries by which names and folders it is
// known elsewhere.

package leftovers

import (
	"errors"
	"io/fs"
	"maps"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
)

// A registration is one entry of "installed programs".
type registration struct {
	key, name, folder, uninstall, code string // code is empty for a program that no package installed
	program                            string // the file that would uninstall it
	present                            bool   // that is there, or it cannot be told
	untold                             bool   // it cannot be told
}

var uninstallKeys = []string{
	`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall`, `HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall`,
}

// uninstallRoots are the lists of installed programs: both views, and each
// user's.
func (s *search) uninstallRoots() []string {
	keys := slices.Clone(uninstallKeys)
	for _, p := range s.profiles {
		keys = append(keys, p.hive+`\Software\Microsoft\Windows\CurrentVersion\Uninstall`)
	}
	return keys
}

// registrations reads the entries of installed programs, learns from the
// product's own, and keeps the others apart.
func (s *search) registrations() error {
	for _, k := range s.uninstallRoots() {
		names, err := s.m.Subkeys(k)
		if s.absent(k, err) {
			continue
		}
		for _, n := range names {
			r := s.registration(k+`\`+n, n)
			sure, why := s.match(r.name)
			if byName, w := s.match(n); sure == "" && byName == Likely {
				sure, why = byName, w
			}
			meant := slices.Contains(s.rep.Codes, r.code) && r.code != ""
			if meant {
				sure, why = Certain, "its key is the product code"
			}
			if s.asked != "" && s.inQuery(r) {
				sure, why, meant = Certain, "it leads to "+s.asked, true
			}
			if sure == Perhaps && r.name != "" && !slices.Contains(s.rep.Meant, r.name) {
				s.rep.Meant = append(s.rep.Meant, r.name)
			}
			// Only an entry that is surely meant teaches names and folders;
			// what is perhaps meant is listed, and no more.
			switch {
			case sure == Perhaps && !r.present:
				s.add(Key, r.key, sure, "entry of the installed programs: "+why, false, step.New("remove-key", "key", r.key))
			case sure == "" || sure == Perhaps && r.present:
				s.others = append(s.others, r)
			case r.present && s.pattern == nil && !meant && plain(r.name) != plain(s.rep.Query):
				s.others = append(s.others, r)
			default:
				s.learn(r, sure, why)
			}
		}
	}
	return nil
}

// inQuery says whether a registration is of the folder that was asked for.
func (s *search) inQuery(r registration) bool {
	low := strings.ToLower(s.asked) + `\`
	return strings.HasPrefix(strings.ToLower(r.folder)+`\`, low) || strings.HasPrefix(strings.ToLower(r.program), low)
}

// learn takes a registration's names, codes and folder in, to look for them
// everywhere else. One that can still be uninstalled is told first: clearing by
// hand what its own uninstall would clear leaves more behind.
func (s *search) learn(r registration, sure Sureness, why string) {
	// Its own uninstall does less harm than anything here.
	if r.present {
		s.rep.Installed = append(s.rep.Installed, r.name)
		switch lost := s.lostPackage(r.code); {
		case lost != "":
			s.note("%s cannot be uninstalled as it stands, since its cached package %s is gone; put that back "+
				"first (hollowkey products mend), uninstall, then look again", r.name, lost)
		case r.untold:
			s.rep.Working = append(s.rep.Working, r.name)
			s.note("whether %s can still be uninstalled (%s) cannot be told from here; try that first, then look again", r.name, r.uninstall)
		default:
			s.rep.Working = append(s.rep.Working, r.name)
			s.note("%s can still be uninstalled (%s); do that first, then look again", r.name, r.uninstall)
		}
	}
	if r.name != "" && !slices.Contains(s.rep.Names, r.name) {
		s.rep.Names = append(s.rep.Names, r.name)
	}
	if r.folder != "" && !slices.Contains(s.rep.Folders, r.folder) && ownFolder(r.folder) == nil {
		s.rep.Folders = append(s.rep.Folders, r.folder)
	}
	if r.code != "" && !slices.Contains(s.rep.Codes, r.code) {
		s.rep.Codes = append(s.rep.Codes, r.code)
	}
	if sure == Likely {
		sure = Certain
	}
	s.add(Key, r.key, sure, "entry of the installed programs: "+why, false, step.New("remove-key", "key", r.key))
}

// registration reads one entry of the list of installed programs.
func (s *search) registration(key, leaf string) registration {
	user := s.userOf(key)
	r := registration{key: key, name: machine.TextOf(s.m, key, "DisplayName"), uninstall: machine.TextOf(s.m, key, "UninstallString"),
		folder: machine.FolderOf(s.m, machine.TextOf(s.m, key, "InstallLocation"), user)}
	calls := machine.EngineCode(r.uninstall)
	if codePattern.MatchString(leaf) {
		r.code = strings.ToUpper(leaf)
	}
	there := machine.Absent
	if r.uninstall != "" && calls == "" {
		r.program, there = machine.CommandLine{Text: r.uninstall, User: user, Folder: r.folder,
			Narrow: strings.Contains(key, `\WOW6432Node\`)}.Runs(s.m)
	}
	if r.folder == "" {
		r.folder = s.folderBy(key, r.name, r.program)
	}
	if there == machine.Untold && r.folder != "" && machine.WhetherThere(s.m, r.folder) == machine.Absent {
		there = machine.Absent // nothing is left that it could uninstall
	}
	r.present, r.untold = there != machine.Absent, there == machine.Untold
	if calls != "" {
		r.present, r.untold = s.registered(calls), false
	}
	return r
}

// userOf is whose hive a key stands in; empty for the machine's.
func (s *search) userOf(key string) string {
	for _, p := range s.profiles {
		if strings.HasPrefix(key, p.hive+`\`) {
			return p.user
		}
	}
	return ""
}

// folderBy is a product's folder where its entry names none: the one that its
// icon or its uninstall program lies in, or lay in, if it has the product's
// name; empty for others, which may be a vendor's or shared.
func (s *search) folderBy(key, name, uninstall string) string {
	icon, _, _ := strings.Cut(strings.Trim(machine.TextOf(s.m, key, "DisplayIcon"), `" `), ",")
	for _, p := range []string{machine.CleanPath(machine.Expand(s.m, icon, s.userOf(key))), uninstall} {
		at := strings.LastIndexByte(p, '\\')
		if at < 0 || len(p) < 3 || p[1] != ':' {
			continue
		}
		folder := p[:at]
		if b := strings.ToLower(base(folder)); b == "bin" || b == "uninstall" || b == "uninst" {
			folder = folder[:max(0, strings.LastIndexByte(folder, '\\'))]
		}
		own, is := plain(base(folder)), plain(name)
		if own != "" && is != "" && strings.Count(folder, `\`) > 1 &&
			(strings.Contains(own, is) || strings.Contains(is, own) && len(own) >= shortestFolder) {
			return folder
		}
	}
	return ""
}

// shortestFolder is how many letters a folder's name has at least that may be a
// part of a product's.
const shortestFolder = 5

// lostPackage is the cached package of a product that is recorded and not
// there; empty where it is there, or the product has none.
func (s *search) lostPackage(code string) string {
	owners, err := s.m.Subkeys(userData)
	if code == "" || err != nil {
		return ""
	}
	for _, o := range owners {
		file := machine.TextOf(s.m, userData+`\`+o+`\Products\`+installdb.PackCode(code)+`\InstallProperties`, "LocalPackage")
		if _, err := s.m.Stat(file); file != "" && errors.Is(err, fs.ErrNotExist) {
			return file
		}
	}
	return ""
}

// registered says whether the engine finds a product: one for all users, or for
// a user.
func (s *search) registered(code string) bool {
	packed := installdb.PackCode(code)
	keys := []string{`HKLM\SOFTWARE\Classes\Installer\Products\` + packed}
	for _, p := range s.profiles {
		keys = append(keys, p.hive+`\Software\Microsoft\Installer\Products\`+packed)
	}
	for _, owner := range s.subkeys(managedKey) {
		keys = append(keys, managedKey+`\`+owner+`\Installer\Products\`+packed)
	}
	return slices.ContainsFunc(keys, func(k string) bool {
		there, err := s.m.KeyExists(k)
		return err == nil && there
	})
}

// managedKey is where the engine keeps what administrators installed for a
// user.
const managedKey = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\Managed`

// userData is where the engine keeps what it knows of products, by whom they
// are for.
const userData = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UserData`

// engine looks for what the installer engine keeps of the product codes:
// registrations, and the rows of shared lists that name them.
func (s *search) engine() {
	if len(s.rep.Codes) == 0 {
		return
	}
	owners, err := s.m.Subkeys(userData)
	s.absent(userData, err)
	for _, code := range s.rep.Codes {
		packed := installdb.PackCode(code)
		keys := []string{`HKLM\SOFTWARE\Classes\Installer\Products\` + packed, `HKLM\SOFTWARE\Classes\Installer\Features\` + packed}
		for _, o := range owners {
			keys = append(keys, userData+`\`+o+`\Products\`+packed)
		}
		for _, p := range s.profiles {
			keys = append(keys, p.hive+`\Software\Microsoft\Installer\Products\`+packed, p.hive+`\Software\Microsoft\Installer\Features\`+packed)
		}
		for _, k := range keys {
			if there, err := s.m.KeyExists(k); err == nil && there {
				s.add(Key, k, Certain, "the engine's registration of "+code, false, step.New("remove-key", "key", k))
			} else if err != nil && !errors.Is(err, fs.ErrNotExist) {
				s.note("%s cannot be read: %v", k, err)
			}
		}
	}
	s.patches(owners)
	lists := []string{`HKLM\SOFTWARE\Classes\Installer\UpgradeCodes`, `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UpgradeCodes`}
	for _, o := range owners {
		lists = append(lists, userData+`\`+o+`\Components`)
	}
	for _, l := range lists {
		s.rows(l)
	}
}

// patches looks for patches that no other product has: their own registration
// goes with the product's.
func (s *search) patches(owners []string) {
	ours, others := map[string][]string{}, map[string]bool{} // whose registrations name a patch
	for _, o := range owners {
		root := userData + `\` + o
		all, err := s.m.Subkeys(root + `\Products`)
		if s.absent(root, err) {
			continue
		}
		for _, packed := range all {
			list, err := s.m.Subkeys(root + `\Products\` + packed + `\Patches`)
			if err != nil {
				continue
			}
			mine := slices.ContainsFunc(s.rep.Codes, func(c string) bool { return strings.EqualFold(installdb.PackCode(c), packed) })
			for _, patch := range list {
				if mine {
					ours[patch] = append(ours[patch], root)
				} else {
					others[patch] = true
				}
			}
		}
	}
	for _, patch := range slices.Sorted(maps.Keys(ours)) {
		keys := []string{`HKLM\SOFTWARE\Classes\Installer\Patches\` + patch}
		for _, root := range ours[patch] {
			keys = append(keys, root+`\Patches\`+patch)
		}
		for _, k := range keys {
			if there, err := s.m.KeyExists(k); err == nil && there && !others[patch] {
				s.add(Key, k, Certain, "the engine's registration of its patch "+installdb.UnpackCode(patch), false, step.New("remove-key", "key", k))
			}
		}
	}
}

// rows looks through a list of the engine's, whose keys are shared between
// products: each has a value of a product's packed code. Only the product's
// values are taken in; a key that has no other goes with it.
func (s *search) rows(list string) {
	names, err := s.m.Subkeys(list)
	if s.absent(list, err) {
		return
	}
	for _, n := range names {
		k := list + `\` + n
		values, err := s.m.Values(k)
		if err != nil {
			continue
		}
		for _, v := range values {
			at := slices.IndexFunc(s.rep.Codes, func(c string) bool { return strings.EqualFold(installdb.PackCode(c), v.Name) })
			if at < 0 {
				continue
			}
			why := "the engine counts " + s.rep.Codes[at] + " there"
			if len(values) == 1 {
				s.add(Key, k, Certain, why, false, step.New("remove-key", "key", k))
			} else {
				s.add(Value, k+" : "+v.Name, Certain, why, false, step.New("unset", "key", k, "name", v.Name))
			}
		}
	}
}
