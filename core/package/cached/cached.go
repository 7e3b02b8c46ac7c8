// Package cached checks the copies of packages and patches that the installer
// engine keeps for repair and uninstall, and finds the very same files again
// elsewhere.
package cached

import (
	"cmp"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/machine"
	"hollowkey/core/package/installdb"
)

// A Machine is what the cache needs of one.
type Machine interface {
	Name() string
	machine.Files
	machine.Registry
}

// Kind is what is cached.
type Kind string

// The kinds.
const (
	Product Kind = "product"
	Patch   Kind = "patch"
)

// State is how a cached file was found.
type State string

// The states.
const (
	Good         State = "good"
	Missing      State = "missing"
	Unreadable   State = "unreadable"   // the OS refuses it
	Damaged      State = "damaged"      // no package or patch any more
	Wrong        State = "wrong"        // another product's, or another package of it
	Unregistered State = "unregistered" // the registration names no file
	NotTaken     State = "not known"    // it is there; a captured twin has no contents
)

// An Entry is one registered product or patch with its cached file.
type Entry struct {
	Kind        Kind   `json:"kind"`                   // product or patch
	Name        string `json:"name"`                   // as it is registered
	Version     string `json:"version,omitempty"`      // as it is registered
	Code        string `json:"code"`                   // product code or patch code
	PackageCode string `json:"package_code,omitempty"` // of the product's package; the patch code of a patch
	Of          string `json:"of,omitempty"`           // of a patch: the product
	User        string `json:"user"`                   // security ID of the registration; S-1-5-18 for all users
	File        string `json:"file,omitempty"`         // the cached file
	Source      string `json:"source,omitempty"`       // where it was last installed from
	SourceName  string `json:"source_name,omitempty"`  // the file's name there
	Info        string `json:"info,omitempty"`         // the vendor's address for it, as it is registered
	Superseded  bool   `json:"superseded,omitempty"`   // of a patch: a later one does its work, so that nothing asks for this one
	State       State  `json:"state"`                  // how its cached file was found
	Detail      string `json:"detail,omitempty"`       // why, where it is not good
}

// States of a patch. Source: the platform SDK, MSIPATCHSTATE.
const (
	patchSuperseded = "2"
	patchObsolete   = "4"
)

const (
	// Below it stand the accounts that installed something; all-users products
	// stand under the system's own.
	userData   = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UserData`
	classes    = `HKLM\SOFTWARE\Classes\Installer\`
	allUsers   = "S-1-5-18"
	maxEntries = 20_000 // products and patches; a desktop has hundreds
)

// Read lists all registered products and patches with the state of their cached
// files. A cached file that lacks or is damaged is a state and no error.
func Read(m Machine) ([]Entry, error) {
	users, err := subkeys(m, userData)
	if err != nil {
		return nil, err
	}
	var list []Entry
	for _, user := range users {
		products, err := readProducts(m, user)
		if err != nil {
			return nil, err
		}
		patches, err := readPatches(m, user, products)
		if err != nil {
			return nil, err
		}
		if list = append(append(list, products...), patches...); len(list) > maxEntries {
			return nil, fmt.Errorf("more than %d products and patches are registered on %s", maxEntries, m.Name())
		}
	}
	return list, nil
}

// subkeys lists a key's keys in their order; an absent key has none.
func subkeys(m Machine, key string) ([]string, error) {
	names, err := m.Subkeys(key)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	slices.Sort(names)
	return names, err
}

// readProducts reads a user's products. The registration (UserData) names the
// cached file, the advertisement (Classes) the package code and the source;
// either may be missing.
func readProducts(m Machine, user string) (list []Entry, err error) {
	root := userData + `\` + user + `\Products`
	names, err := subkeys(m, root)
	if err != nil {
		return nil, err
	}
	for _, packed := range names {
		at := root + `\` + packed + `\InstallProperties`
		if there, err := m.KeyExists(at); err != nil || !there {
			continue // only advertised, or a shared part
		}
		e := Entry{Kind: Product, Name: machine.TextOf(m, at, "DisplayName"),
			Version: machine.TextOf(m, at, "DisplayVersion"), Code: installdb.UnpackCode(packed),
			User: user,
			File: machine.TextOf(m, at, "LocalPackage"), Source: machine.TextOf(m, at, "InstallSource")}
		class := classes + `Products\` + packed
		if code := machine.TextOf(m, class, "PackageCode"); code != "" {
			e.PackageCode = installdb.UnpackCode(code)
		}
		e.SourceName = machine.TextOf(m, class+`\SourceList`, "PackageName")
		if last := lastSource(machine.TextOf(m, class+`\SourceList`, "LastUsedSource")); last != "" {
			e.Source = last
		}
		for _, name := range []string{"URLInfoAbout", "HelpLink", "URLUpdateInfo"} {
			e.Info = cmp.Or(e.Info, machine.TextOf(m, at, name))
		}
		check(m, &e)
		list = append(list, e)
	}
	return list, nil
}

// lastSource takes the folder out of "n;1;folder".
func lastSource(s string) string {
	parts := strings.SplitN(s, ";", 3)
	return parts[len(parts)-1]
}

// readPatches reads a user's patches. A patch's name and product stand with the
// product that it was applied to.
func readPatches(m Machine, user string, products []Entry) (list []Entry, err error) {
	root := userData + `\` + user + `\Patches`
	names, err := subkeys(m, root)
	if err != nil {
		return nil, err
	}
	for _, packed := range names {
		code := installdb.UnpackCode(packed)
		e := Entry{Kind: Patch, Code: code, PackageCode: code, User: user, File: machine.TextOf(m, root+`\`+packed, "LocalPackage")}
		for _, p := range products {
			at := userData + `\` + user + `\Products\` + installdb.PackCode(p.Code) + `\Patches\` + packed
			if there, err := m.KeyExists(at); err == nil && there {
				e.Name, e.Of = machine.TextOf(m, at, "DisplayName"), strings.TrimSpace(p.Name+" "+p.Version+" "+p.Code)
				e.Info = machine.TextOf(m, at, "MoreInfoURL")
				state := machine.TextOf(m, at, "State")
				e.Superseded = state == patchSuperseded || state == patchObsolete
			}
		}
		list0 := classes + `Patches\` + packed + `\SourceList`
		e.SourceName, e.Source = machine.TextOf(m, list0, "PackageName"), lastSource(machine.TextOf(m, list0, "LastUsedSource"))
		check(m, &e)
		list = append(list, e)
	}
	return list, nil
}

// check looks at the cached file of an entry.
func check(m Machine, e *Entry) {
	if e.File == "" {
		e.State, e.Detail = Unregistered, "the registration names no cached file"
		return
	}
	id, err := IdentifyOn(m, e.File)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		e.State = Missing
	case errors.Is(err, machine.ErrUnsupported):
		e.State, e.Detail = NotTaken, bounded.Words(err)
	case errors.Is(err, fs.ErrPermission):
		e.State, e.Detail = Unreadable, bounded.Words(err)
	case err != nil:
		e.State, e.Detail = Damaged, bounded.Words(err)
	default:
		e.State, e.Detail = id.fits(*e)
	}
}

// An Identity is what a package or patch file is.
type Identity struct {
	Kind    Kind   // package or patch
	Code    string // package code or patch code
	Product string // product code of a package
	Name    string // as the file tells it
}

// fits says whether a file is the very one of an entry.
func (id Identity) fits(e Entry) (State, string) {
	switch {
	case id.Kind != e.Kind:
		return Wrong, "it is a " + string(id.Kind)
	case e.Kind == Product && !strings.EqualFold(id.Product, e.Code):
		return Wrong, "it belongs to " + id.Name + " " + id.Product
	case e.PackageCode != "" && !strings.EqualFold(id.Code, e.PackageCode):
		return Wrong, "it is another package of the product: " + id.Code
	}
	return Good, ""
}

// Identify reads what a package or patch is. It fails for what is neither.
func Identify(r io.ReaderAt, size int64) (Identity, error) {
	db, err := installdb.Open(r, size)
	if err != nil {
		return Identity{}, err
	}
	s, err := db.Summary()
	if err != nil {
		return Identity{}, err
	}
	id := Identity{Kind: Product, Code: strings.ToUpper(s.Text(installdb.SummaryRevision)), Name: s.Text(installdb.SummarySubject)}
	if db.Format == installdb.Patch {
		p, err := db.PatchInfo()
		return Identity{Kind: Patch, Code: p.Code, Name: cmp.Or(s.Text(installdb.SummaryTitle), id.Name)}, err
	}
	all, err := db.Properties()
	id.Product, id.Name = strings.ToUpper(all["ProductCode"]), cmp.Or(all["ProductName"], id.Name)
	return id, err
}

// IdentifyOn reads what a file on a machine is.
func IdentifyOn(m machine.Files, path string) (Identity, error) {
	info, err := m.Stat(path)
	if err != nil {
		return Identity{}, err
	}
	f, err := m.Open(path)
	if err != nil {
		return Identity{}, err
	}
	defer f.Close()
	at, ok := f.(io.ReaderAt)
	if !ok {
		return Identity{}, machine.ErrUnsupported
	}
	return Identify(at, info.Size)
}

// Fine says that nothing is wrong with an entry, as far as can be told.
func (e Entry) Fine() bool { return e.State == Good || e.State == NotTaken }
