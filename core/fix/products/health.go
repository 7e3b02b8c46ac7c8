// This file looks at what is wrong with a product.

package products

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/machine"
	"hollowkey/core/package/cached"
)

// A doctor examines products.
type doctor struct {
	*List
	inCache []found // the packages in the engine's folder, read once when first asked for
	looked  bool
}

// found is a package that lies in the engine's folder.
type found struct {
	path string
	id   cached.Identity
}

// cacheFolder is where the engine keeps its copies.
const cacheFolder = `C:\Windows\Installer`

// examine looks at what can be wrong with a product of its kind. Each kind has
// other witnesses: the engine's registrations, a program's own command, the
// packages of an app.
func (d *doctor) examine(p *Product) {
	switch p.Kind {
	case Package:
		d.registrations(p)
		d.copies(p)
		d.files(p)
	case Program:
		d.program(p)
	case App:
		if p.Folder != "" && gone(d.m, p.Folder) {
			p.fault(FilesGone, p.Folder, "its folder is gone")
		}
	case Unknown:
		if len(p.Upgrade) > 0 {
			p.fault(OnlyUpgrade, strings.Join(p.Upgrade, ", "), "the engine lists it under an upgrade code, and "+
				"nothing else knows it: a new version looks for it and does not find it")
		}
		if p.Components > 0 {
			p.fault(OnlyRows, "", "%d components count it among their users, and nothing else knows it", p.Components)
		}
	}
	d.source(p)
	// The gravest names the product's health; the others stand below it.
	slices.SortStableFunc(p.Faults, func(a, b Fault) int { return slices.Index(severity, a.Health) - slices.Index(severity, b.Health) })
	p.Health = Sound
	if len(p.Faults) > 0 {
		p.Health = p.Faults[0].Health
	}
}

// fault notes what is wrong, and where it was seen, so that a person can look
// there too.
func (p *Product) fault(h Health, at, format string, args ...any) {
	p.Faults = append(p.Faults, Fault{Health: h, Seen: fmt.Sprintf(format, args...), At: at})
}

// registrations compares the three places in which a package is registered.
func (d *doctor) registrations(p *Product) {
	entry, data, advert := len(p.entries) > 0, len(p.data) > 0, len(p.adverts) > 0
	switch {
	case entry && !data && !advert:
		p.fault(OrphanEntry, p.entries[0], "it stands among the installed programs, and the engine knows nothing "+
			"of it: uninstalling ends with 1605")
	case data && advert && !entry:
		p.fault(HalfRemoved, p.data[0], "the engine has it, and it does not stand among the installed programs, so nobody can uninstall it there")
	case data && !advert && d.loaded(p.data):
		p.fault(HalfRemoved, p.data[0], "the engine's data of it is there, and the list by which the engine "+
			"finds products does not have it: repair and uninstall end with 1605")
	case advert && !data:
		words := "only advertised, never finished or half removed"
		if entry {
			words = "it stands among the installed programs, and the engine's data of it is gone"
		}
		p.fault(HalfRemoved, p.adverts[0], "the engine's list has it, and no data of it: %s", words)
	}
}

// loaded says whether the registry is loaded of all users for whom a product is
// registered; those of others cannot be looked at.
func (d *doctor) loaded(data []string) bool {
	for _, key := range data {
		sid, _, _ := strings.Cut(strings.TrimPrefix(key, userData+`\`), `\`)
		if sid == everyoneSID {
			continue
		}
		if there, err := d.m.KeyExists(`HKU\` + sid); err != nil || !there {
			return false
		}
	}
	return true
}

// copies says what is wrong with the engine's copies of its package and
// patches.
func (d *doctor) copies(p *Product) {
	for _, e := range p.copies {
		other := ""
		if e.State != cached.Good && e.State != cached.NotTaken {
			other = d.elsewhere(e)
		}
		switch {
		case other != "":
			p.fault(WrongPath, other, "%s is recorded; its package lies at %s", cmpFile(e.File), other)
		case e.State == cached.Missing:
			p.fault(CopyMissing, e.File, "%s is recorded and not there: repair and uninstall ask for the "+
				"package, and often end with 1612 or 1714", e.File)
		case e.State == cached.Unregistered:
			p.fault(CopyMissing, "", "no cached package is recorded")
		case e.State == cached.Damaged || e.State == cached.Unreadable:
			p.fault(CopyDamaged, e.File, "%s is %s: %s", e.File, e.State, e.Detail)
		case e.State == cached.Wrong:
			p.fault(CopyOther, e.File, "%s is recorded: %s", e.File, e.Detail)
		}
	}
	for _, patch := range p.Patches {
		if patch.State != cached.Good && patch.State != cached.NotTaken {
			p.fault(PatchMissing, patch.File, "the copy of its patch %s %s is %s", patch.Name, patch.Code, patch.State)
		}
	}
}

// cmpFile is a recorded file in words.
func cmpFile(file string) string {
	if file == "" {
		return "no cached package"
	}
	return file
}

// elsewhere is where in the engine's folder the very package of an entry lies;
// empty when nowhere.
func (d *doctor) elsewhere(e cached.Entry) string {
	if !d.looked {
		d.looked = true
		list, err := d.m.ReadDir(cacheFolder)
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			d.Notes = append(d.Notes, cacheFolder+" cannot be read: "+bounded.Words(err))
		}
		for _, f := range list {
			if low := strings.ToLower(f.Path); !f.Folder && strings.HasSuffix(low, ".msi") {
				if id, err := cached.IdentifyOn(d.m, f.Path); err == nil {
					d.inCache = append(d.inCache, found{f.Path, id})
				}
			}
		}
	}
	for _, f := range d.inCache {
		if strings.EqualFold(f.id.Product, e.Code) && e.PackageCode != "" &&
			strings.EqualFold(f.id.Code, e.PackageCode) && !strings.EqualFold(f.path, e.File) {
			return f.path
		}
	}
	return ""
}

// files looks whether the files are there by which its components are known.
// Whether the rest is there only the engine's repair finds out.
func (d *doctor) files(p *Product) {
	if len(p.Faults) > 0 && (p.Faults[0].Health == OrphanEntry || len(p.data) == 0) {
		return
	}
	var lost []string
	for _, f := range p.keyPaths {
		if gone(d.m, strings.TrimRight(f, `\`)) {
			lost = append(lost, f)
		}
	}
	switch {
	case len(lost) > 0:
		p.fault(FilesGone, lost[0], "%d of the %d files and folders that its components are known by are gone", len(lost), len(p.keyPaths))
	case p.Folder != "" && len(p.keyPaths) == 0 && gone(d.m, p.Folder):
		p.fault(FilesGone, p.Folder, "its folder is gone")
	}
}

// program examines one that the engine knows nothing of: what would uninstall
// it, and its folder.
func (d *doctor) program(p *Product) {
	command, lost := p.remover, p.removable == machine.Absent
	if code := machine.EngineCode(p.Uninstall); code != "" {
		if !slices.ContainsFunc(d.Products, func(o *Product) bool { return o.Code == code && len(o.data)+len(o.adverts) > 0 }) {
			p.fault(OrphanEntry, p.entries[0], "its uninstall has the engine remove %s, of which the engine knows nothing: it ends with 1605", code)
		}
		return
	}
	switch noFolder := p.Folder != "" && gone(d.m, p.Folder); {
	case lost && (noFolder || p.Folder == ""):
		p.fault(OrphanEntry, p.entries[0], "%s would uninstall it and is gone", command)
	case lost:
		p.fault(HalfRemoved, command, "its folder is there, and %s, which would uninstall it, is gone", command)
	case noFolder:
		p.fault(FilesGone, p.Folder, "its folder is gone")
	}
}

// source says that the folder is gone which a package came from: a repair that
// needs files asks for it.
func (d *doctor) source(p *Product) {
	folder := strings.TrimRight(p.Source, `\`)
	if p.Kind != Package || len(p.data) == 0 || len(folder) < len(`C:\`) || folder[1] != ':' || !fixedDrive(d.m, folder[:2]) {
		return
	}
	if gone(d.m, folder) {
		p.fault(SourceGone, folder, "%s, where it was installed from, is gone; only a repair that needs files "+
			"from there would ask for it", folder)
	}
}

// fixedDrive says whether a letter is a disk of this machine: a file that lacks
// on a removed drive or a share is no fault of the product's.
func fixedDrive(m machine.Machine, letter string) bool {
	return slices.ContainsFunc(m.Facts().Drives,
		func(d machine.Drive) bool { return strings.EqualFold(d.Letter, letter) && d.Kind == "fixed" })
}

// gone says that something is not on the machine, where that can be told.
func gone(m machine.Files, path string) bool { return machine.WhetherThere(m, path) == machine.Absent }
