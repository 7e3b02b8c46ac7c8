// Package products lists what is installed on a machine, from all places where
// the OS and its installer engine write it down, says of each whether these
// places agree with each other and with the disk, and drafts what mends the
// part that does not.
package products

import (
	"cmp"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/cached"
)

// Kind is how a product came onto the machine.
type Kind string

// The kinds.
const (
	Package Kind = "package"     // by the installer engine
	Program Kind = "program"     // by a program of its own, which entered it among the installed programs
	App     Kind = "app package" // by the OS's app deployment
	Unknown Kind = "unknown"     // only a product code is left of it
)

// Health is whether a product's registrations are whole, or which part of them
// is not.
type Health string

// The states of health, the worst first: a product with several faults has the
// first.
const (
	OrphanEntry  Health = "orphan entry"                   // among the installed programs, with nothing behind it
	HalfRemoved  Health = "half removed"                   // a part of the engine's data, without the rest
	CopyMissing  Health = "cached copy missing"            // of its package
	CopyDamaged  Health = "cached copy damaged"            // it is no package any more, or cannot be read
	WrongPath    Health = "wrong path"                     // its package lies in the cache under another name
	CopyOther    Health = "cached copy is another's"       // the recorded file belongs to something else
	PatchMissing Health = "cached patch missing"           // or damaged, or another's
	FilesGone    Health = "files gone"                     // that its components are known by
	OnlyUpgrade  Health = "upgrade code without product"   // a row of a product that nothing else knows
	OnlyRows     Health = "component rows without product" // the same, in the list of components
	SourceGone   Health = "source gone"                    // the folder that it came from
	Sound        Health = "sound"                          // nothing of all this
)

// Of several faults of one product the row shows the first of these: what stops
// an uninstall comes before what only looks odd.
var severity = []Health{OrphanEntry, HalfRemoved, CopyMissing, CopyDamaged, WrongPath, CopyOther, PatchMissing,
	FilesGone, OnlyUpgrade, OnlyRows, SourceGone, Sound}

// A Fault is one thing that is not as it should be, with where that is seen.
type Fault struct {
	Health Health `json:"health"`       // which fault it is
	Seen   string `json:"seen"`         // in one sentence
	At     string `json:"at,omitempty"` // key or file
}

// A Patch is one patch of a product.
type Patch struct {
	Code  string       `json:"patch_code"`            // in braces
	Name  string       `json:"name"`                  // as it is registered
	File  string       `json:"cached_file,omitempty"` // the engine's copy
	State cached.State `json:"state"`                 // of that copy
}

// A Product is one row of what is installed.
type Product struct {
	Name       string   `json:"name"`                     // as it is registered; its code where nothing names it
	Version    string   `json:"version"`                  // as it is registered
	Publisher  string   `json:"publisher"`                // as it is registered
	Kind       Kind     `json:"kind"`                     // how it came
	Code       string   `json:"product_code,omitempty"`   // in braces; empty for programs
	For        []string `json:"for"`                      // "everyone", or users by name
	Installed  string   `json:"installed,omitempty"`      // 2026-11-28
	Source     string   `json:"source,omitempty"`         // folder or address that it came from last
	SourceName string   `json:"source_package,omitempty"` // the package's name there
	Cached     string   `json:"cached_package,omitempty"` // the engine's copy
	Folder     string   `json:"folder,omitempty"`         // where it is installed
	Uninstall  string   `json:"uninstall,omitempty"`      // the registered command
	Features   []string `json:"features"`                 // names, of a package
	Patches    []Patch  `json:"patches"`                  // of a package
	Components int      `json:"components"`               // how many the engine counts for it
	Upgrade    []string `json:"upgrade_codes"`            // under which it stands
	Services   []string `json:"services"`                 // whose program lies in its folders
	Hidden     bool     `json:"hidden"`                   // the OS does not list it for people
	Health     Health   `json:"health"`                   // the worst of its faults
	Faults     []Fault  `json:"faults"`                   // the worst first

	entries  []string       // keys among the installed programs
	data     []string       // keys of the engine's own data (…\InstallProperties)
	adverts  []string       // keys by which the engine finds it (…\Installer\Products\…)
	copies   []cached.Entry // its registered packages, one for each user
	keyPaths []string       // files by which its components are known

	remover   string           // the file that would uninstall a program
	removable machine.Presence // whether that is there
}

// A List is all that is installed.
type List struct {
	Products []*Product `json:"products"` // by name
	Notes    []string   `json:"notes"`    // what could not be looked at

	m     machine.Machine
	cache []cached.Entry // all registered packages and patches
}

// Read lists what is installed. Nothing is changed. What cannot be read of a
// single product is among its notes; an error means that the lists themselves
// cannot be.
func Read(m machine.Machine) (*List, error) {
	c := collector{m: m, byCode: map[string]*Product{}}
	if err := c.collect(); err != nil {
		return nil, err
	}
	l := &List{Products: c.list, Notes: c.notes, m: m, cache: c.cache}
	d := doctor{List: l}
	for _, p := range l.Products {
		d.examine(p)
		p.Name = cmp.Or(p.Name, p.Code)
	}
	slices.SortStableFunc(l.Products, func(a, b *Product) int {
		return cmp.Or(cmp.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)),
			cmp.Compare(a.Version, b.Version), cmp.Compare(a.Code, b.Code))
	})
	return l, nil
}

// Sound says that nothing of a product needs mending: a source that is gone is
// normal, as long as the rest is there.
func (p *Product) Sound() bool { return p.Health == Sound || p.Health == SourceGone }

// Meant are the products that a word names: a product code, a name, a name with
// stars, or a part of a name. The narrowest reading that finds any counts.
func (l *List) Meant(word string) []*Product {
	low := strings.ToLower(strings.TrimSpace(word))
	for _, fits := range []func(p *Product) bool{
		func(p *Product) bool { return strings.EqualFold(p.Code, low) },
		func(p *Product) bool { return strings.EqualFold(p.Name, low) },
		func(p *Product) bool { return strings.EqualFold(strings.TrimSpace(p.Name+" "+p.Version), low) },
		func(p *Product) bool { return strings.ContainsAny(low, "*?") && wild(low, strings.ToLower(p.Name)) },
		func(p *Product) bool { return low != "" && strings.Contains(strings.ToLower(p.Name), low) },
	} {
		var found []*Product
		for _, p := range l.Products {
			if fits(p) {
				found = append(found, p)
			}
		}
		if found != nil {
			return found
		}
	}
	return nil
}

// wild matches a whole name with stars (any letters) and question marks (one
// letter). A star takes as little as it can, and gives way at most once for
// each letter.
func wild(pattern, name string) bool {
	p, n, star, mark := 0, 0, -1, 0
	for n < len(name) {
		switch {
		case p < len(pattern) && (pattern[p] == '?' || pattern[p] == name[n]):
			p, n = p+1, n+1
		case p < len(pattern) && pattern[p] == '*':
			star, mark, p = p, n, p+1
		case star >= 0:
			mark++
			p, n = star+1, mark
		default:
			return false
		}
	}
	return strings.Trim(pattern[p:], "*") == ""
}
