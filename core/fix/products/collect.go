// This file gathers what the many places say into products. One product has up
// to five registrations, and a broken one lacks some of them.

package products

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/machine"
	"hollowkey/core/package/apppack"
	"hollowkey/core/package/cached"
	"hollowkey/core/package/installdb"
)

// Where registrations stand. Source: the OS's documentation of its uninstall
// entries and of the installer engine's contexts (per machine, per user,
// managed).
const (
	uninstallBelow = `Microsoft\Windows\CurrentVersion\Uninstall`
	engineKey      = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer`
	userData       = engineKey + `\UserData`
	managed        = engineKey + `\Managed`
	classesEngine  = `HKLM\SOFTWARE\Classes\Installer`
	userEngine     = `\Software\Microsoft\Installer`

	everyone    = "everyone"
	everyoneSID = "S-1-5-18"

	// nobodysCode stands for components that stay whatever is uninstalled.
	nobodysCode = "00000000000000000000000000000000"

	// most bounds how many rows a list may have: real machines have a few
	// hundred products.
	most = 50_000
)

var codePattern = lazy.MustCompile(`^\{[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}\}$`)

// A collector gathers registrations into products.
type collector struct {
	m      machine.Machine
	list   []*Product
	byCode map[string]*Product
	hives  []hive
	cache  []cached.Entry
	notes  []string
}

// A hive is a user's registry, where it is loaded.
type hive struct{ user, sid string }

// collect asks each place that knows of products, in an order in which later
// ones add to what earlier ones found. It ends where a machine tells of more
// products than any has, which is a sign of a damaged registry.
func (c *collector) collect() error {
	c.users()
	var err error
	if c.cache, err = cached.Read(c.m); err != nil {
		return err
	}
	for _, look := range []func(){c.entries, c.engineData, c.adverts, c.copies, c.upgrades, c.components, c.apps, c.services} {
		look()
		if len(c.list) > most {
			return fmt.Errorf("more than %d products are registered on %s", most, c.m.Name())
		}
	}
	return nil
}

// keys lists a key's keys in their order; what cannot be read is noted.
func (c *collector) keys(key string) []string {
	names, err := c.m.Subkeys(key)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		c.notes = append(c.notes, fmt.Sprintf("%s cannot be read: %v", key, err))
	}
	slices.Sort(names)
	return names
}

// text is a registry value as text, empty where it cannot be read: of a
// product's many values some are always missing.
func (c *collector) text(key, name string) string { return machine.TextOf(c.m, key, name) }

// users notes whose registries are to be looked at. Accounts that the machine
// names but cannot resolve are passed over: their registry is not loaded
// either.
func (c *collector) users() {
	names, err := c.m.UserNames()
	if err != nil {
		c.notes = append(c.notes, "the list of users cannot be read: "+bounded.Words(err))
	}
	for _, n := range names {
		if a, err := c.m.Account(n); err == nil {
			c.hives = append(c.hives, hive{a.Name, string(a.SID)})
		}
	}
}

// who is for whom a registration of a security ID is.
func (c *collector) who(sid string) string {
	if sid == everyoneSID {
		return everyone
	}
	for _, h := range c.hives {
		if strings.EqualFold(h.sid, sid) {
			return h.user
		}
	}
	return sid
}

// of is the product of a code, made where it is new.
func (c *collector) of(code string, kind Kind) *Product {
	code = strings.ToUpper(code)
	p := c.byCode[code]
	if p == nil {
		p = newProduct(kind)
		p.Code = code
		c.byCode[code] = p
		c.list = append(c.list, p)
	}
	if p.Kind == Unknown {
		p.Kind = kind
	}
	return p
}

// newProduct has lists that are empty rather than nil, since JSON would say
// null.
func newProduct(kind Kind) *Product {
	return &Product{Kind: kind, For: []string{}, Features: []string{}, Patches: []Patch{}, Upgrade: []string{},
		Services: []string{}, Faults: []Fault{}}
}

// known takes in what one registration says, where none before it did.
func (p *Product) known(who, name, version, publisher string) {
	if who != "" && !slices.Contains(p.For, who) {
		p.For = append(p.For, who)
	}
	for _, v := range []struct {
		to   *string
		text string
	}{{&p.Name, name}, {&p.Version, version}, {&p.Publisher, publisher}} {
		if *v.to == "" {
			*v.to = strings.TrimSpace(v.text)
		}
	}
}

// entries reads the list of installed programs: both views, and each user's.
func (c *collector) entries() {
	roots := []struct{ key, who string }{{`HKLM\SOFTWARE\` + uninstallBelow, everyone},
		{`HKLM\SOFTWARE\WOW6432Node\` + uninstallBelow, everyone}}
	for _, h := range c.hives {
		roots = append(roots, struct{ key, who string }{`HKU\` + h.sid + `\Software\` + uninstallBelow, h.user})
	}
	for _, r := range roots {
		for _, n := range c.keys(r.key) {
			c.entry(r.key+`\`+n, n, r.who)
		}
	}
}

// entry reads one of the installed programs. An update's entry belongs to the
// program that it names as its parent, and one without a name is none.
func (c *collector) entry(key, leaf, who string) {
	name, command := c.text(key, "DisplayName"), c.text(key, "UninstallString")
	if name == "" || c.text(key, "ParentKeyName") != "" {
		return
	}
	byEngine := codePattern.MatchString(leaf) && (c.text(key, "WindowsInstaller") == "1" ||
		strings.EqualFold(machine.EngineCode(command), leaf) || command == "" && c.engineHas(leaf))
	var p *Product
	if byEngine {
		p = c.of(leaf, Package)
	} else {
		p = newProduct(Program)
		c.list = append(c.list, p)
	}
	p.known(who, name, c.text(key, "DisplayVersion"), c.text(key, "Publisher"))
	p.entries = append(p.entries, key)
	p.more(c, key)
	p.Hidden = c.text(key, "SystemComponent") == "1"
	if p.Kind == Program {
		p.remover, p.removable = machine.CommandLine{Text: command, User: c.userOf(key), Folder: p.Folder,
			Narrow: strings.Contains(key, `\WOW6432Node\`)}.Runs(c.m)
	}
}

// engineHas says whether the engine keeps data of a product code, for whomever.
func (c *collector) engineHas(code string) bool {
	packed := installdb.PackCode(code)
	return slices.ContainsFunc(c.keys(userData), func(sid string) bool {
		there, err := c.m.KeyExists(userData + `\` + sid + `\Products\` + packed)
		return err == nil && there
	})
}

// more takes in what an entry and the engine's data tell alike.
func (p *Product) more(c *collector, key string) {
	if p.Folder == "" {
		p.Folder = machine.FolderOf(c.m, c.text(key, "InstallLocation"), c.userOf(key))
	}
	if p.Uninstall == "" {
		p.Uninstall = c.text(key, "UninstallString")
	}
	if p.Source == "" {
		p.Source = c.text(key, "InstallSource")
	}
	const digits = len("20261128") // year, month, day, as the engine writes them; vendors also write other forms
	if d := c.text(key, "InstallDate"); p.Installed == "" && len(d) == digits && strings.Trim(d, "0123456789") == "" {
		p.Installed = d[:4] + "-" + d[4:6] + "-" + d[6:]
	}
}

// userOf is whose hive a key stands in; empty for the machine's.
func (c *collector) userOf(key string) string {
	for _, h := range c.hives {
		if strings.HasPrefix(key, `HKU\`+h.sid+`\`) {
			return h.user
		}
	}
	return ""
}

// engineData reads what the engine keeps of products that are installed.
func (c *collector) engineData() {
	for _, sid := range c.keys(userData) {
		root := userData + `\` + sid + `\Products`
		for _, packed := range c.keys(root) {
			at := root + `\` + packed + `\InstallProperties`
			if there, err := c.m.KeyExists(at); err != nil || !there {
				continue // advertised only, or a shared part
			}
			p := c.of(installdb.UnpackCode(packed), Package)
			p.known(c.who(sid), c.text(at, "DisplayName"), c.text(at, "DisplayVersion"), c.text(at, "Publisher"))
			p.data = append(p.data, at)
			p.more(c, at)
			if p.Cached == "" {
				p.Cached = c.text(at, "LocalPackage")
			}
		}
	}
}

// adverts reads the lists by which the engine finds products again.
func (c *collector) adverts() {
	type root struct{ key, who string }
	// The list has three places: for everybody, for a user, and for a user by
	// an administrator's leave.
	roots := []root{{classesEngine, everyone}}
	for _, h := range c.hives {
		roots = append(roots, root{`HKU\` + h.sid + userEngine, h.user})
	}
	for _, sid := range c.keys(managed) {
		roots = append(roots, root{managed + `\` + sid + `\Installer`, c.who(sid)})
	}
	for _, r := range roots {
		for _, packed := range c.keys(r.key + `\Products`) {
			key := r.key + `\Products\` + packed
			p := c.of(installdb.UnpackCode(packed), Package)
			p.known(r.who, c.text(key, "ProductName"), "", "")
			p.adverts = append(p.adverts, key)
			if last := c.text(key+`\SourceList`, "LastUsedSource"); last != "" {
				// "n;1;\\share\setup\": the kind of source, its number, and
				// where it is.
				parts := strings.SplitN(last, ";", 3)
				p.Source = parts[len(parts)-1]
			}
			if p.SourceName == "" {
				p.SourceName = c.text(key+`\SourceList`, "PackageName")
			}
			if values, err := c.m.Values(r.key + `\Features\` + packed); err == nil {
				for _, v := range values {
					if v.Name != "" && !slices.Contains(p.Features, v.Name) {
						p.Features = append(p.Features, v.Name)
					}
				}
			}
		}
	}
}

// copies gives each product its cached packages and patches.
func (c *collector) copies() {
	for _, e := range c.cache {
		if e.Kind == cached.Product {
			p := c.of(e.Code, Package)
			p.copies = append(p.copies, e)
			continue
		}
		for _, o := range c.cache {
			at := userData + `\` + o.User + `\Products\` + installdb.PackCode(o.Code) + `\Patches\` + installdb.PackCode(e.Code)
			if o.Kind != cached.Product || o.User != e.User {
				continue
			}
			if there, err := c.m.KeyExists(at); err == nil && there {
				p := c.of(o.Code, Package)
				p.Patches = append(p.Patches, Patch{Code: e.Code, Name: e.Name, File: e.File, State: e.State})
			}
		}
	}
}

// upgrades reads under which upgrade codes products stand.
func (c *collector) upgrades() {
	lists := []string{classesEngine + `\UpgradeCodes`, engineKey + `\UpgradeCodes`}
	for _, h := range c.hives {
		lists = append(lists, `HKU\`+h.sid+userEngine+`\UpgradeCodes`)
	}
	for _, l := range lists {
		for _, packed := range c.keys(l) {
			values, err := c.m.Values(l + `\` + packed)
			if err != nil {
				continue
			}
			upgrade := installdb.UnpackCode(packed)
			for _, v := range values {
				if code := installdb.UnpackCode(v.Name); codePattern.MatchString(code) {
					if p := c.of(code, Unknown); !slices.Contains(p.Upgrade, upgrade) {
						p.Upgrade = append(p.Upgrade, upgrade)
					}
				}
			}
		}
	}
}

// components counts each product's components, and takes the files in by which
// they are known. A value that begins with digits and a colon is a registry
// key.
func (c *collector) components() {
	for _, sid := range c.keys(userData) {
		root := userData + `\` + sid + `\Components`
		for _, packed := range c.keys(root) {
			values, err := c.m.Values(root + `\` + packed)
			if err != nil {
				continue
			}
			for _, v := range values {
				code := installdb.UnpackCode(v.Name)
				if v.Name == nobodysCode || !codePattern.MatchString(code) {
					continue
				}
				p := c.of(code, Unknown)
				p.Components++
				if path := strings.Replace(v.Value.Words(), "?", ":", 1); len(path) > 3 && path[1:3] == `:\` {
					p.keyPaths = append(p.keyPaths, path)
				}
			}
		}
	}
}

// apps reads the app packages of each user.
func (c *collector) apps() {
	seen := map[string]*Product{}
	for _, h := range c.hives {
		for _, in := range apppack.Of(c.m, `HKU\`+h.sid) {
			p := seen[in.Full]
			if p == nil {
				p = newProduct(App)
				p.Folder = in.Folder
				seen[in.Full] = p
				c.list = append(c.list, p)
			}
			p.known(h.user, in.Name, in.Version, in.PublisherID)
		}
	}
}

// services gives each product the services whose program lies in its folders.
func (c *collector) services() {
	names, err := c.m.ServiceNames()
	if err != nil {
		c.notes = append(c.notes, "the services cannot be read: "+bounded.Words(err))
	}
	for _, n := range names {
		s, err := c.m.Service(n)
		if err != nil {
			continue
		}
		program, _ := machine.ServiceProgram(c.m, s)
		program = strings.ToLower(program)
		for _, p := range c.list {
			if p.owns(program) && !neighbours(c.list, p, program) {
				p.Services = append(p.Services, s.Name)
			}
		}
	}
}

// neighbours says whether a path, in small letters, lies in the folder of
// another product within this one's: some setups register their vendor's folder
// as theirs.
func neighbours(list []*Product, p *Product, path string) bool {
	return slices.ContainsFunc(list, func(o *Product) bool {
		return o != p && len(o.Folder) > len(p.Folder) && strings.HasPrefix(path+`\`, strings.ToLower(o.Folder)+`\`) &&
			!slices.ContainsFunc(p.keyPaths, func(f string) bool { return strings.EqualFold(f, path) })
	})
}

// owns says whether a program, in small letters, lies in the product's folder
// or is one of its components' files.
func (p *Product) owns(program string) bool {
	if len(p.Folder) > len(`C:\`) && strings.HasPrefix(program, strings.ToLower(p.Folder)+`\`) {
		return true
	}
	return slices.ContainsFunc(p.keyPaths, func(f string) bool {
		return strings.HasPrefix(program, strings.ToLower(f)) && !strings.HasSuffix(f, `\`)
	})
}
