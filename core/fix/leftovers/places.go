// This file looks in folders and keys where programs put theirs. What several
// products share is nobody's leftover.

package leftovers

import (
	"bytes"
	"fmt"
	"io"
	"slices"
	"strings"

	"golang.org/x/text/encoding/unicode"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// base is the last part of a path.
func base(path string) string { return path[strings.LastIndexByte(path, '\\')+1:] }

// folders looks in the places where programs put theirs, two levels deep: a
// folder of the product's name, or one below a vendor's.
func (s *search) folders() {
	for _, f := range s.rep.Folders {
		if info, err := s.m.Stat(f); err == nil && info.Folder {
			why := "the product's registration names it as its folder"
			if f == s.asked {
				why = "it is the folder that was asked for"
			}
			s.folder(info, Certain, why, false)
		}
	}
	for _, root := range []string{`C:\Program Files`, `C:\Program Files (x86)`, `C:\Program Files\Common Files`,
		`C:\Program Files (x86)\Common Files`, `C:\ProgramData`, `C:\Windows\Temp`} {
		s.below(root, 2, false)
	}
	for _, p := range s.profiles {
		s.below(p.folder+`\AppData\Local\Temp`, 1, false)
		for _, f := range []string{`\AppData\Local`, `\AppData\LocalLow`, `\AppData\Roaming`, `\AppData\Local\Programs`, `\Documents`} {
			s.below(p.folder+f, 2, true)
		}
	}
}

// skipped are folders that hold what belongs to the OS or to everybody.
var skipped = []string{"microsoft", "windows", "temp", "packages", "common files", "windowsapps", "start menu", "package cache"}

// below looks at folders so many levels down: a product's own stands at most
// below its vendor's.
func (s *search) below(root string, levels int, user bool) {
	list, err := s.m.ReadDir(root)
	if s.absent(root, err) {
		return
	}
	for _, i := range list {
		name := base(i.Path)
		if !i.Folder || slices.Contains(skipped, strings.ToLower(name)) {
			continue
		}
		if sure, why := s.match(name); sure != "" {
			s.folder(i, sure, why, user)
		} else if levels > 1 {
			s.below(i.Path, levels-1, user)
		}
	}
}

// folder takes a folder in, unless it is that of a product that is installed.
func (s *search) folder(i machine.FileInfo, sure Sureness, why string, user bool) {
	if f, ok := s.lives(i.Path); ok {
		s.note("%s holds the program of a service that runs or is needed (%s); it is left alone", i.Path, f)
		return
	}
	if sure == Likely && s.vendors(i.Path) {
		sure, why = Perhaps, why+"; it holds folders of several products"
	}
	if name, ok := s.foreign(i.Path); ok {
		s.note("%s belongs to %s, which is installed; it is left alone", i.Path, name)
		return
	}
	if user {
		why += "; a user's data, which stays unless you name its place"
	}
	if sure == Likely && !slices.ContainsFunc(s.rep.Folders, func(f string) bool { return strings.EqualFold(f, i.Path) }) {
		s.rep.Folders = append(s.rep.Folders, i.Path) // what points into it belongs, too
	}
	s.add(Folder, i.Path, sure, why, user, step.New("quarantine", "path", i.Path))
}

const (
	startMenu   = `C:\ProgramData\Microsoft\Windows\Start Menu\Programs`
	userMenu    = `\AppData\Roaming\Microsoft\Windows\Start Menu\Programs`
	maxShortcut = 1 << 20 // bytes
	maxMenu     = 4       // levels
)

// shortcuts looks through start menus, startup folders and desktops.
func (s *search) shortcuts() {
	s.menu(startMenu, 0)
	s.menu(`C:\Users\Public\Desktop`, maxMenu)
	for _, p := range s.profiles {
		s.menu(p.folder+userMenu, 0)
		s.menu(p.folder+`\Desktop`, maxMenu)
	}
}

// menu looks for shortcuts, which say by their target whose they are.
func (s *search) menu(folder string, depth int) {
	list, err := s.m.ReadDir(folder)
	if s.absent(folder, err) {
		return
	}
	for _, i := range list {
		name := base(i.Path)
		if i.Folder {
			if sure, why := s.match(name); sure == Likely {
				s.add(Folder, i.Path, sure, "in the start menu: "+why, false, step.New("quarantine", "path", i.Path))
			} else if depth < maxMenu {
				s.menu(i.Path, depth+1)
			}
			continue
		}
		stem, isLink := strings.CutSuffix(strings.ToLower(name), ".lnk")
		if !isLink {
			continue
		}
		kind := Shortcut
		if strings.Contains(strings.ToLower(folder), `\startup`) {
			kind = Startup
		}
		sure, why := s.match(stem)
		if f, ok := s.pointsInto(i.Path); ok {
			sure, why = Certain, "it leads into "+f
		}
		if sure != "" {
			s.add(kind, i.Path, sure, why, false, step.New("quarantine", "path", i.Path))
		}
	}
}

// pointsInto says which of the product's folders a shortcut's file names. The
// path stands in it as text, in one byte a letter or two.
func (s *search) pointsInto(path string) (string, bool) {
	f, err := s.m.Open(path)
	if err != nil {
		return "", false
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxShortcut))
	if err != nil {
		return "", false
	}
	b = bytes.ToLower(b)
	for _, folder := range s.rep.Folders {
		text := strings.ToLower(folder) + `\`
		wide, err := unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewEncoder().String(text)
		if bytes.Contains(b, []byte(text)) || err == nil && bytes.Contains(b, []byte(wide)) {
			return folder, true
		}
	}
	return "", false
}

// keys looks for vendor keys, in both views and of each user.
func (s *search) keys() {
	roots := []string{`HKLM\SOFTWARE`, `HKLM\SOFTWARE\WOW6432Node`}
	for _, p := range s.profiles {
		if there, err := s.m.KeyExists(p.hive); err == nil && !there {
			s.note("the registry of %s is not loaded, so it was not looked into; it is while they are signed in", p.user)
		}
		roots = append(roots, p.hive+`\Software`)
	}
	for _, r := range roots {
		s.keysBelow(r, 2)
	}
	for _, r := range s.views(`Microsoft\Windows\CurrentVersion\App Paths`) {
		names, err := s.m.Subkeys(r)
		if s.absent(r, err) {
			continue
		}
		for _, n := range names {
			if f, ok := s.leads(machine.TextOf(s.m, r+`\`+n, ""), s.userOf(r)); ok {
				s.add(Key, r+`\`+n, Certain, "its program lies in "+f, false, step.New("remove-key", "key", r+`\`+n))
			}
		}
	}
}

// Keys below a hive's SOFTWARE that are the OS's own or hold everybody's, so
// that no name below them tells of one product.
var skippedKeys = []string{"microsoft", "classes", "policies", "wow6432node", "clients", "registeredapplications"}

// keysBelow looks at keys so many levels down, without those that hold every
// program's settings.
func (s *search) keysBelow(root string, levels int) {
	names, err := s.m.Subkeys(root)
	if s.absent(root, err) {
		return
	}
	for _, n := range names {
		if slices.Contains(skippedKeys, strings.ToLower(n)) {
			continue
		}
		k := root + `\` + n
		if sure, why := s.match(n); sure != "" {
			if below, err := s.m.Subkeys(k); err == nil && len(below) > 0 && sure == Likely && levels > 1 && !s.registeredName(n) {
				sure, why = Perhaps, why+"; there stand vendors' keys, with those of all their products"
			}
			s.add(Key, k, sure, why, false, step.New("remove-key", "key", k))
		} else if levels > 1 {
			s.keysBelow(k, levels-1)
		}
	}
}

// values looks for Run values and PATH entries that lead into the product's
// folders.
func (s *search) values() {
	const below = `Microsoft\Windows\CurrentVersion\`
	for _, k := range slices.Concat(s.views(below+"Run"), s.views(below+"RunOnce")) {
		values, err := s.m.Values(k)
		if s.absent(k, err) {
			continue
		}
		for _, v := range values {
			if f, ok := s.leads(v.Value.Words(), s.userOf(k)); ok {
				s.add(Startup, k+" : "+v.Name, Certain, "it runs a program in "+f, false, step.New("unset", "key", k, "name", v.Name))
			}
		}
	}
	// The count is of the file's users; with the product gone nobody uses it.
	for _, k := range s.views(below + "SharedDLLs") {
		values, err := s.m.Values(k)
		if s.absent(k, err) {
			continue
		}
		for _, v := range values {
			if f, ok := s.owned(machine.CleanPath(v.Name)); ok {
				s.add(Value, k+" : "+v.Name, Certain, "it counts who uses a file in "+f, false, step.New("unset", "key", k, "name", v.Name))
			}
		}
	}
	path := machine.TextOf(s.m, `HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`, "Path")
	for e := range strings.SplitSeq(path, ";") {
		if f, ok := s.owned(machine.FolderOf(s.m, e, "")); ok {
			s.add(Value, "PATH : "+e, Certain, "the entry leads to "+f, false, step.New("path-entry", "entry", e, "state", "absent"))
		}
	}
}

// views are the places of a key of programs' settings: both views, and each
// user's.
func (s *search) views(key string) []string {
	list := []string{`HKLM\SOFTWARE\` + key, `HKLM\SOFTWARE\WOW6432Node\` + key}
	for _, p := range s.profiles {
		list = append(list, p.hive+`\Software\`+key)
	}
	return list
}

// classes looks for what others call by a class: COM servers, and the commands
// of file types, whose program lies in the product's folders. Nothing is looked
// for where no folder is known: there are ten thousand classes.
func (s *search) classes() {
	if len(s.rep.Folders) == 0 {
		return
	}
	for _, root := range s.views("Classes") {
		for _, id := range s.subkeys(root + `\CLSID`) {
			k := root + `\CLSID\` + id
			for _, server := range []string{"InprocServer32", "LocalServer32"} {
				if f, ok := s.leads(machine.TextOf(s.m, k+`\`+server, ""), s.userOf(k)); ok {
					s.add(Key, k, Certain, "the COM server lies in "+f, false, step.New("remove-key", "key", k))
				}
			}
		}
		for _, kind := range s.subkeys(root) {
			k := root + `\` + kind
			if strings.EqualFold(kind, "CLSID") || strings.EqualFold(kind, "Installer") || strings.EqualFold(kind, "WOW6432Node") {
				continue
			}
			if f, ok := s.leads(machine.TextOf(s.m, k+`\shell\open\command`, ""), s.userOf(k)); ok {
				s.add(Key, k, Certain, "the type's files are opened by a program in "+f, false, step.New("remove-key", "key", k))
				s.endings(root, kind)
			}
		}
	}
}

// endings looks for the endings of files that lead to a type of the product's.
func (s *search) endings(root, kind string) {
	for _, n := range s.subkeys(root) {
		if k := root + `\` + n; strings.HasPrefix(n, ".") && strings.EqualFold(machine.TextOf(s.m, k, ""), kind) {
			s.add(Value, k+" : (default)", Certain, "files of this ending are of the type "+kind, false, step.New("unset", "key", k, "name", ""))
		}
	}
}

// subkeys lists a key's keys; what cannot be read is noted.
func (s *search) subkeys(key string) []string {
	names, err := s.m.Subkeys(key)
	s.absent(key, err)
	return names
}

// firewallRules is where the OS keeps them, one value each: fields between
// bars.
const firewallRules = `HKLM\SYSTEM\CurrentControlSet\Services\SharedAccess\Parameters\FirewallPolicy\FirewallRules`

// firewall looks for rules that let a program in the product's folders through.
func (s *search) firewall() {
	values, err := s.m.Values(firewallRules)
	if s.absent(firewallRules, err) {
		return
	}
	for _, v := range values {
		if !strings.Contains(v.Value.Words(), "|Action=Allow|") { // one that blocks harms nobody
			continue
		}
		for field := range strings.SplitSeq(v.Value.Words(), "|") {
			program, is := strings.CutPrefix(field, "App=")
			if f, ok := s.owned(machine.CleanPath(machine.Expand(s.m, program, ""))); is && ok {
				s.add(Value, firewallRules+" : "+v.Name, Certain, "the firewall's rule is for a program in "+f, false,
					step.New("unset", "key", firewallRules, "name", v.Name))
			}
		}
	}
}

// alive notes the folders of what lives: programs of services that run, and of
// those that a running one depends on.
func (s *search) alive() {
	names, err := s.m.ServiceNames()
	if err != nil {
		return
	}
	needed := map[string]bool{}
	all := map[string]machine.Service{}
	for _, n := range names {
		svc, err := s.m.Service(n)
		if err != nil {
			continue
		}
		all[strings.ToLower(n)] = svc
		if svc.Running {
			for _, d := range svc.DependsOn {
				needed[strings.ToLower(d)] = true
			}
		}
	}
	// What runs, or is needed by what runs, is alive: whatever it is called, it
	// is no leftover.
	for name, svc := range all {
		program, there := machine.ServiceProgram(s.m, svc)
		if there != machine.Present || !svc.Running && !needed[name] || s.byRegistration(program) {
			continue
		}
		s.living = append(s.living, strings.ToLower(program))
	}
	slices.Sort(s.living)
}

// lives says whether a path is the program of something that lives, or a folder
// that holds one.
func (s *search) lives(path string) (program string, ok bool) {
	low := strings.ToLower(strings.TrimRight(path, `\`))
	for _, p := range s.living {
		if p == low || strings.HasPrefix(p, low+`\`) {
			return p, true
		}
	}
	return "", false
}

// partNames are what folders of a product's parts are called, in small letters;
// one of another name, in a folder that is registered, may be a neighbour's.
var partNames = lazy.MustCompile(`^(?:bin|x64|x86|amd64|arm64|win32|win64|services?|server|agent|client|tools|lib|libs|app|apps|program|core|current|common|system|runtime|main|v?\d[\d._-]*)$`)

// byRegistration says whether a path lies in a folder that the product's own
// registration names, or in one of its parts.
func (s *search) byRegistration(path string) bool {
	low := strings.ToLower(path)
	return slices.ContainsFunc(s.own, func(f string) bool {
		rest, in := strings.CutPrefix(low, strings.ToLower(f)+`\`)
		if !in {
			return false
		}
		between := strings.Split(rest, `\`)
		return !slices.ContainsFunc(between[:len(between)-1], func(n string) bool { return !partNames.MatchString(n) && !s.ownName(n) })
	})
}

// ownName says whether a folder has the product's name.
func (s *search) ownName(folder string) bool {
	sure, _ := s.match(folder)
	return sure == Likely
}

// vendors says whether a folder only holds folders, as those of vendors do: not
// all of them need be the product's.
func (s *search) vendors(path string) bool {
	list, err := s.m.ReadDir(path)
	return err == nil && len(list) > 1 && !slices.ContainsFunc(list, func(i machine.FileInfo) bool { return !i.Folder })
}

// registeredName says whether a name is that of a registration of the product's
// own.
func (s *search) registeredName(name string) bool {
	return slices.ContainsFunc(s.rep.Names, func(n string) bool { return n != s.rep.Query && plain(n) == plain(name) })
}

// services looks for services by their program first and their name then: a
// name is chosen freely, the program is what runs.
func (s *search) services() {
	names, err := s.m.ServiceNames()
	if s.absent("the list of services", err) {
		return
	}
	for _, n := range names {
		svc, err := s.m.Service(n)
		if err != nil {
			continue
		}
		program, there := machine.ServiceProgram(s.m, svc)
		sure, why := s.match(svc.Display)
		if byName, w := s.match(svc.Name); sure == "" {
			sure, why = byName, w
		}
		if f, ok := s.owned(program); ok {
			sure, why = Certain, "its program lies in "+f
		}
		if sure == "" {
			continue
		}
		if f, ok := s.lives(program); ok {
			s.note("the service %s runs, or is needed by one that runs (%s); it is left alone", svc.Name, f)
			continue
		}
		if there == machine.Absent {
			why += fmt.Sprintf("; the program %s is gone", base(program))
		}
		if svc.Running {
			why += "; it runs"
		}
		s.add(Service, svc.Name, sure, why, false, step.New("remove-service", "name", svc.Name))
	}
}

// tasks looks for tasks by what they run and by their name.
func (s *search) tasks() {
	all, err := s.m.Tasks()
	if s.absent("the scheduler's tasks", err) {
		return
	}
	for _, t := range all {
		sure, why := s.match(base(t.Path))
		if f, ok := s.leads(t.Runs, ""); ok {
			sure, why = Certain, "its program lies in "+f
		}
		if sure != "" {
			s.add(Task, t.Path, sure, why, false, step.New("remove-task", "path", t.Path))
		}
	}
}
