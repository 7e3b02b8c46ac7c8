// Package capture takes a twin of a machine: what diagnosis needs of its facts,
// registry, services, access lists and files, with private names masked on
// request. File contents are not taken.
package capture

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/mask"
)

// Options say what is taken besides the usual.
type Options struct {
	Keys    []string // further registry keys, with all below them
	Folders []string // further folders: their access lists and file facts
	Mask    bool     // user names, the machine's name and domain IDs become tokens
}

// A Report is what was taken, and what could not be read.
type Report struct {
	Keys, Values, Services, Folders, Files int
	Skipped                                []string // why, one a line
	Masked                                 map[string]int
}

// A part is a key that is taken; deep ones with all below.
type part struct {
	key  string
	deep bool
}

var parts = []part{
	{`HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion`, false}, {`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer`, true},
	{`HKLM\SOFTWARE\Classes\Installer`, true}, {`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall`, true},
	{`HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall`, true}, {`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Run`, false},
	{`HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Run`, false}, {`HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`, true},
	{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager`, false}, {`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`, false},
	{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Power`, false}, {`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\RebootPending`, false},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\WindowsUpdate\Auto Update\RebootRequired`, false}, {`HKLM\SOFTWARE\Microsoft\NET Framework Setup\NDP`, true},
	{`HKCU\Software\Microsoft\Windows\CurrentVersion\Explorer\User Shell Folders`, false}, {`HKCU\Software\Microsoft\Windows\CurrentVersion\Explorer\Shell Folders`, false},
	{`HKCU\Software\Microsoft\Windows\CurrentVersion\Run`, false}, {`HKCU\Software\Microsoft\Windows\CurrentVersion\Internet Settings`, false},
	{`HKLM\SOFTWARE\Policies\Microsoft\Windows\Appx`, false}, {`HKLM\SOFTWARE\Policies\Microsoft\Windows\Safer\CodeIdentifiers`, false},
	{`HKLM\SOFTWARE\Policies\Microsoft\Windows\SrpV2\Msi`, false}, {`HKLM\SOFTWARE\Policies\Microsoft\Windows\SrpV2\Exe`, false},
	{`HKLM\SOFTWARE\Policies\Microsoft\Windows\SrpV2\Script`, false}, {`HKLM\SOFTWARE\dotnet\Setup\InstalledVersions`, true},
	{`HKLM\SOFTWARE\Microsoft\VisualStudio\14.0\VC\Runtimes`, true}, {`HKLM\SOFTWARE\WOW6432Node\Microsoft\VisualStudio\14.0\VC\Runtimes`, true},
}

const (
	maxDepth  = 16
	maxKeys   = 200_000
	maxValue  = 64 << 10 // bytes of a value that is taken
	maxFiles  = 20_000
	bytesUnit = 1 << 20
)

type capture struct {
	m      machine.Machine
	opt    Options
	rep    Report
	mask   *regexp.Regexp    // private names, in any letter case; nil without --mask
	tokens map[string]string // what stands for each, by the name in small letters
	user   machine.Account
	out    *os.Root
}

// Take writes the twin into a new folder.
func Take(m machine.Machine, folder string, opt Options) (Report, error) {
	if err := os.MkdirAll(filepath.Dir(folder), 0o755); err != nil {
		return Report{}, err
	}
	if err := os.Mkdir(folder, 0o755); err != nil {
		return Report{}, fmt.Errorf("%w\nhint: a twin is taken into a new folder", err)
	}
	root, err := os.OpenRoot(folder)
	if err != nil {
		return Report{}, err
	}
	defer root.Close()
	c := &capture{m: m, opt: opt, out: root, rep: Report{Masked: map[string]int{}}}
	if s, ok := m.(interface{ SignedIn() string }); ok {
		if c.user, err = m.Account(s.SignedIn()); err != nil {
			c.skip("the signed-in user", err)
		}
	}
	c.masks()
	for _, take := range []func() error{c.facts, c.services, c.registry, c.files} {
		if err := take(); err != nil {
			return c.rep, err
		}
	}
	return c.rep, nil
}

func (c *capture) skip(what string, err error) {
	c.rep.Skipped = append(c.rep.Skipped, what+": "+err.Error())
}

// masks lists what is replaced.
func (c *capture) masks() {
	if !c.opt.Mask {
		return
	}
	c.tokens = map[string]string{}
	var names []string
	add := func(kind, text, token string) {
		if len(text) >= 3 {
			names = append(names, regexp.QuoteMeta(text))
			c.tokens[strings.ToLower(text)] = token
			c.rep.Masked[kind]++
		}
	}
	domains := 0
	for n, name := range c.people() {
		add("user", name, fmt.Sprintf("user%d", n+1))
		a, err := c.m.Account(name)
		sid := string(a.SID)
		if err != nil || !strings.HasPrefix(sid, "S-1-5-21-") {
			continue
		}
		prefix := sid[:strings.LastIndexByte(sid, '-')]
		if c.tokens[strings.ToLower(prefix)] == "" {
			domains++
			add("security ID", prefix, fmt.Sprintf("S-1-5-21-%d-%d-%d", domains, domains, domains))
		}
	}
	add("machine", c.m.Name(), "PC1")
	if names != nil {
		slices.SortStableFunc(names, func(a, b string) int { return len(b) - len(a) })
		c.mask = regexp.MustCompile("(?i)" + strings.Join(names, "|"))
	}
}

// people are all users that the machine tells of, the signed-in one first.
func (c *capture) people() (names []string) {
	add := func(name string) {
		if _, short, ok := strings.Cut(name, `\`); ok {
			name = short
		}
		if name != "" && !mask.Everybodys(name) && !strings.HasSuffix(name, "$") && !slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, name) }) {
			names = append(names, name)
		}
	}
	add(c.user.Name)
	if list, err := c.m.UserNames(); err == nil {
		for _, n := range list {
			add(n)
		}
	}
	if list, err := c.m.Sessions(); err == nil {
		for _, s := range list {
			add(s.User)
		}
	}
	if list, err := c.m.Processes(); err == nil {
		for _, p := range list {
			add(p.User)
		}
	}
	return names
}

// hide puts tokens in the place of private names.
func (c *capture) hide(text string) string {
	if c.mask == nil {
		return text
	}
	return c.mask.ReplaceAllStringFunc(text, func(name string) string { return c.tokens[strings.ToLower(name)] })
}

// write writes a file of the twin, masked.
func (c *capture) write(name string, b []byte) error {
	text := c.hide(string(b))
	if dir := filepath.Dir(name); dir != "." {
		if err := c.out.MkdirAll(dir, 0o755); err != nil {
			return err
		}
	}
	return c.out.WriteFile(name, []byte(text), 0o644)
}

func (c *capture) yaml(name string, v any) error {
	b, err := yaml.Marshal(v)
	if err != nil {
		return err
	}
	return c.write(name, b)
}

func (c *capture) facts() error {
	f := c.m.Facts()
	type drive struct{ Letter, Kind, Size, Free string }
	type user struct {
		Name, SID string
		Groups    []string `yaml:",omitempty"`
		Profile   string   `yaml:",omitempty"`
	}
	type session struct {
		ID          int
		User, State string
	}
	type process struct {
		ID   int
		Name string
		User string `yaml:",omitempty"`
	}
	size := func(n int64) string { return fmt.Sprintf("%d MB", n/bytesUnit) }
	about := struct {
		Name string
		OS   struct {
			Name, Version               string
			Build                       int
			Edition, Ring, Architecture string
		}
		Drives      []drive
		Users       []user            `yaml:",omitempty"`
		SignedIn    string            `yaml:"signed in,omitempty"`
		Environment map[string]string `yaml:",omitempty"`
		Hosts       map[string]bool   `yaml:",omitempty"`
		Elevated    *bool             `yaml:",omitempty"`
		Time        *time.Time        `yaml:",omitempty"`
		Booted      *time.Time        `yaml:",omitempty"`
		SafeBoot    string            `yaml:"safe boot,omitempty"`
		Sessions    []session         `yaml:",omitempty"`
		Processes   []process         `yaml:",omitempty"`
	}{Name: c.m.Name(), SignedIn: c.user.Name, Environment: f.Environment, Hosts: f.Hosts}
	o := f.OS
	about.OS.Name, about.OS.Version, about.OS.Build, about.OS.Edition, about.OS.Ring, about.OS.Architecture = o.Name, o.Version, o.Build, o.Edition, o.Ring, o.Architecture
	for _, d := range f.Drives {
		about.Drives = append(about.Drives, drive{d.Letter, d.Kind, size(d.Size), size(d.Free)})
	}
	if c.user.Name != "" {
		u := user{Name: c.user.Name, SID: string(c.user.SID), Profile: c.user.Profile}
		for _, g := range c.user.Groups {
			u.Groups = append(u.Groups, string(g))
		}
		about.Users = []user{u}
	}
	if f.Unknown["elevated"] == "" {
		about.Elevated = &f.Elevated
	}
	if !f.Time.IsZero() {
		about.Time = &f.Time
	}
	if !f.Booted.IsZero() {
		about.Booted = &f.Booted
	}
	if b, err := c.m.SafeBoot(); err != nil {
		c.skip("safe mode", err)
	} else if b != machine.SafeBootOff {
		about.SafeBoot = string(b)
	}
	sessions, err := c.m.Sessions()
	if err != nil {
		c.skip("the sessions", err)
	}
	for _, s := range sessions {
		state := "disconnected"
		if s.Active {
			state = "active"
		}
		about.Sessions = append(about.Sessions, session{s.ID, s.User, state})
	}
	processes, err := c.m.Processes()
	if err != nil {
		c.skip("the processes", err)
	}
	for _, p := range processes {
		about.Processes = append(about.Processes, process{p.ID, p.Name, p.User})
	}
	return errors.Join(c.yaml("twin.yaml", about), c.tasks())
}

// tasks takes what the scheduler runs beside the OS's own tasks.
func (c *capture) tasks() error {
	all, err := c.m.Tasks()
	if err != nil {
		c.skip("the scheduler's tasks", err)
		return nil
	}
	type task struct {
		Path, Runs string
		Author     string `yaml:",omitempty"`
		AtLogon    bool   `yaml:"at logon"`
		Enabled    bool
	}
	var list []task
	for _, t := range all {
		if !strings.HasPrefix(strings.ToLower(t.Path), `\microsoft\`) {
			list = append(list, task{t.Path, t.Runs, t.Author, t.AtLogon, t.Enabled})
		}
	}
	if list == nil {
		return nil
	}
	return c.yaml("tasks.yaml", list)
}

func (c *capture) services() error {
	names, err := c.m.ServiceNames()
	if err != nil {
		c.skip("the services", err)
		return nil
	}
	type service struct {
		Name, Display, Binary, Start, Account string
		Depends                               []string `yaml:"depends on,omitempty"`
		State                                 string
	}
	var list []service
	for _, n := range names {
		s, err := c.m.Service(n)
		if err != nil {
			c.skip("service "+n, err)
			continue
		}
		state := "stopped"
		if s.Running {
			state = "running"
		}
		list = append(list, service{s.Name, s.Display, s.Binary, string(s.Start), s.Account, s.DependsOn, state})
	}
	c.rep.Services = len(list)
	return c.yaml("services.yaml", list)
}

func (c *capture) registry() error {
	hives := map[string]*strings.Builder{"registry/machine.reg": {}, "registry/user.reg": {}}
	all := slices.Clone(parts)
	for _, k := range c.opt.Keys {
		all = append(all, part{k, true})
	}
	seen := map[string]bool{}
	for _, p := range all {
		key, err := machine.LongKey(p.key)
		if err != nil {
			return err
		}
		if err := c.key(hives, key, p.deep, 0, seen); err != nil {
			return err
		}
	}
	if err := c.drivers(hives, seen); err != nil {
		return err
	}
	for name, b := range hives {
		if err := c.write(name, []byte("Windows Registry Editor Version 5.00\r\n"+b.String())); err != nil {
			return err
		}
	}
	return nil
}

// drivers takes the drivers that scan files, and the key above them, so that
// their absence can be told from not having looked.
func (c *capture) drivers(hives map[string]*strings.Builder, seen map[string]bool) error {
	const services = `HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Services`
	names, err := c.m.Subkeys(services)
	if err != nil || len(names) == 0 {
		return nil
	}
	hives["registry/machine.reg"].WriteString("\r\n" + regfile.KeyText(services+`\msiserver`, nil))
	for _, n := range names {
		if g, err := c.m.Value(services+`\`+n, "Group"); err == nil && strings.EqualFold(g.Words(), "FSFilter Anti-Virus") {
			if err := c.key(hives, services+`\`+n, false, 0, seen); err != nil {
				return err
			}
		}
	}
	return nil
}

// key takes one key, and with deep those below it.
func (c *capture) key(hives map[string]*strings.Builder, key string, deep bool, depth int, seen map[string]bool) error {
	if seen[strings.ToLower(key)] {
		return nil
	}
	values, err := c.m.Values(key)
	if errors.Is(err, fs.ErrNotExist) { // a key that only leads to others may have no entry of its own
		if below, err := c.m.Subkeys(key); err != nil || len(below) == 0 || !deep {
			return nil
		}
		err = nil
	}
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		c.skip(key, err)
		return nil
	}
	seen[strings.ToLower(key)] = true
	if c.rep.Keys++; c.rep.Keys > maxKeys {
		return fmt.Errorf("more than %d registry keys", maxKeys)
	}
	at, b := key, hives["registry/machine.reg"]
	if rest, ok := strings.CutPrefix(key, "HKEY_CURRENT_USER"); ok {
		if c.user.SID == "" {
			return nil
		}
		at, b = `HKEY_USERS\`+string(c.user.SID)+rest, hives["registry/user.reg"]
	}
	values = slices.DeleteFunc(values, func(e regfile.Entry) bool { return len(e.Value.Data) > maxValue })
	values = c.masked(values)
	c.rep.Values += len(values)
	b.WriteString("\r\n" + regfile.KeyText(at, values))
	if !deep || depth >= maxDepth {
		return nil
	}
	below, err := c.m.Subkeys(key)
	if err != nil {
		c.skip(key, err)
		return nil
	}
	slices.Sort(below)
	for _, name := range below {
		if err := c.key(hives, key+`\`+name, true, depth+1, seen); err != nil {
			return err
		}
	}
	return nil
}

// masked masks texts inside of values, which registry text may hold as bytes in
// hex. A value of bytes in which a private name stands is left out.
func (c *capture) masked(values []regfile.Entry) (out []regfile.Entry) {
	if c.mask == nil {
		return values
	}
	for _, e := range values {
		switch e.Value.Type {
		case regfile.String, regfile.Expand, regfile.MultiStr:
			if words := c.hide(e.Value.Words()); words != e.Value.Words() {
				v, err := regfile.Make(e.Value.Type, words)
				if err != nil {
					continue
				}
				e.Value = v
			}
		case regfile.DWord, regfile.QWord:
		default:
			wide := strings.ReplaceAll(string(e.Value.Data), "\x00", "") // UTF-16 of plain letters
			if c.hide(wide) != wide {
				c.rep.Masked["value left out"]++
				continue
			}
		}
		out = append(out, e)
	}
	return out
}

// files takes access lists of folders and the facts of the files in them.
func (c *capture) files() error {
	folders := append([]string{`C:\`, `C:\Windows`, `C:\Windows\Temp`, `C:\Windows\Installer`, `C:\Program Files`, `C:\Program Files (x86)`, `C:\ProgramData`,
		`C:\ProgramData\Microsoft\Windows\Start Menu\Programs\StartUp`}, c.opt.Folders...)
	if p := c.user.Profile; p != "" {
		folders = append(folders, p, p+`\AppData\Local`, p+`\AppData\Local\Temp`, p+`\AppData\Roaming`)
	}
	access := map[string]string{}
	type stub struct {
		Size int64 `yaml:"size"`
	}
	disk := map[string]stub{}
	for _, f := range folders {
		info, err := c.m.Stat(f)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			c.skip(f, err)
			continue
		}
		if !info.Folder {
			disk[info.Path] = stub{info.Size}
			continue
		}
		sec, err := c.m.FileSecurity(f)
		if err == nil {
			_, err = sddl.Parse(sec.SDDL)
		}
		if err != nil {
			c.skip("the access list of "+f, err)
		} else {
			access[strings.TrimRight(info.Path, `\`)] = sec.SDDL
			if len(f) <= len(`C:\`) {
				delete(access, strings.TrimRight(info.Path, `\`))
				access[`C:\`] = sec.SDDL
			}
		}
		c.rep.Folders++
		if len(f) <= len(`C:\`) || strings.EqualFold(f, c.user.Profile) {
			continue // what lies there is the user's own
		}
		list, err := c.m.ReadDir(f)
		if err != nil {
			continue // named by its access list only
		}
		for _, i := range list {
			if !i.Folder && len(disk) < maxFiles {
				disk[i.Path] = stub{i.Size}
			}
		}
	}
	c.rep.Files = len(disk)
	return errors.Join(c.yaml("access.yaml", access), c.yaml("disk.yaml", disk))
}
