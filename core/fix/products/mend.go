// This file drafts what mends a product, fault by fault, and says what only a
// person can bring.

package products

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/fix/leftovers"
	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/package/cached"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
)

// A Mending is what mends a product: steps for the parts that are broken, and
// what they leave.
type Mending struct {
	Title string       `json:"title"` // in one phrase
	Steps []step.Model `json:"steps"` // none where nothing can be done from here
	Does  []string     `json:"does"`  // what they do, one sentence for each fault
	Needs []Need       `json:"needs"` // what a person must bring or do for the rest
}

// A Need is what only a person can do.
type Need struct {
	Words string   `json:"words"` // in one sentence
	Call  []string `json:"call"`  // the arguments of the program's command that goes on from there; FOLDER is the person's
}

// Wanted are the registered packages and patches of a product whose copies are
// not good, to be searched for.
func (l *List) Wanted(p *Product) (list []cached.Entry) {
	for _, e := range l.cache {
		mine := e.Kind == cached.Product && strings.EqualFold(e.Code, p.Code) ||
			e.Kind == cached.Patch && slices.ContainsFunc(p.Patches, func(o Patch) bool { return strings.EqualFold(o.Code, e.Code) })
		if mine && !e.Fine() {
			list = append(list, e)
		}
	}
	return list
}

// Mend drafts what mends a product, fault by fault. found are packages and
// patches that were found for those [List.Wanted], by their codes. What only a
// person can bring is in its needs, and no error; that comes where the machine
// cannot be read.
func (l *List) Mend(p *Product, found map[string]cached.Source) (Mending, error) {
	md := Mending{Title: "mend the registration of " + p.Name, Steps: []step.Model{}, Does: []string{}, Needs: []Need{}}
	done := map[Health]bool{}
	for _, f := range p.Faults {
		// One cure for each kind of fault, however often it was seen.
		if done[f.Health] {
			continue
		}
		done[f.Health] = true
		var err error
		switch f.Health {
		case OrphanEntry:
			for _, k := range p.entries {
				md.Steps = append(md.Steps, step.New("remove-key", "key", k))
			}
			md.does("its entry among the installed programs goes; nothing stands behind it")
		case HalfRemoved:
			err = l.mendHalf(p, &md)
		case WrongPath, CopyMissing, CopyDamaged, CopyOther, PatchMissing:
			if !done["copies"] {
				done["copies"] = true
				err = l.mendCopies(p, found, &md)
			}
		case FilesGone:
			switch {
			case p.Kind == Package:
				md.needs("files are gone: let the engine put them back", "fix", "--step", "repair", "what="+p.Code)
			case p.Kind == App:
				md.needs("its folder is gone: install the app package again")
			default:
				md.needs("its folder is gone: run its setup again, or its uninstall")
			}
		case OnlyUpgrade, OnlyRows:
			if !done["rows"] {
				done["rows"] = true
				if err = l.clear(p, &md); err == nil {
					md.does("the rows that name it in the engine's lists go; other products' rows in the same keys stay")
				}
			}
		}
		if err != nil {
			return md, err
		}
	}
	return md, nil
}

// Clear drafts the removal of the whole registration of a product, for one that
// can neither be repaired nor uninstalled. Its files and its cached package
// stay.
func (l *List) Clear(p *Product) (Mending, error) {
	md := Mending{Title: "clear the registration of " + p.Name, Steps: []step.Model{}, Does: []string{}, Needs: []Need{}}
	if p.Code == "" {
		for _, k := range p.entries {
			md.Steps = append(md.Steps, step.New("remove-key", "key", k))
		}
	} else if err := l.clear(p, &md); err != nil {
		return md, err
	}
	md.does("all that the engine and the list of installed programs hold of it goes, as after an uninstall; its " +
		"files, services and shortcuts stay")
	md.needs("look what it leaves beside its registration", "leftovers", p.Name)
	return md, nil
}

// does notes in a sentence what mending will do.
func (md *Mending) does(format string, args ...any) {
	md.Does = append(md.Does, fmt.Sprintf(format, args...))
}

// needs notes what a person has to bring first, and the call that they can type
// where there is one.
func (md *Mending) needs(words string, call ...string) {
	md.Needs = append(md.Needs, Need{words, append([]string{}, call...)})
}

// clear adds the steps that take the product's registration away. What could be
// read goes even where the rest could not: the error comes with it.
func (l *List) clear(p *Product, md *Mending) error {
	items, err := leftovers.Registration(l.m, p.Code)
	for _, i := range items {
		md.Steps = append(md.Steps, i.Step)
	}
	return err
}

// mendHalf puts the missing part of a registration back, where the rest holds
// all that it needs; else what is left of it goes.
func (l *List) mendHalf(p *Product, md *Mending) error {
	switch {
	case p.Kind == Program:
		md.needs("what would uninstall it is gone: run its setup again, then uninstall; or look what can be cleared", "leftovers", p.Name)
	// The engine's own data is gone: nothing could ever uninstall it.
	case len(p.data) == 0:
		if err := l.clear(p, md); err != nil {
			return err
		}
		md.does("what is left of its registration goes; a setup then installs it as new")
	case len(p.entries) == 0:
		for _, at := range p.data {
			if err := l.enter(p, at, md); err != nil {
				return err
			}
		}
		md.does("it is entered among the installed programs again, with what the engine's own data says")
	default:
		db, at, err := l.ownPackage(p)
		if err != nil {
			return err
		}
		if db == nil {
			md.needs("the engine's list can be written anew from its very package only, and that is nowhere in "+
				"the cache: put it back first", "products", "mend", p.Code, "--from", "FOLDER")
			return nil
		}
		defer db.Close()
		if err := l.advertise(p, db.Database, at, md); err != nil {
			return err
		}
		md.does("the engine's list has it again, written from its own package %s", at)
	}
	return nil
}

// enter writes an entry among the installed programs from the engine's data,
// which has the same values. The view of the registry is that of the package's
// processor, which the folder tells where the package cannot.
func (l *List) enter(p *Product, data string, md *Mending) error {
	values, err := l.m.Values(data)
	if err != nil {
		return err
	}
	sid, _, _ := strings.Cut(strings.TrimPrefix(data, userData+`\`), `\`)
	key := `HKLM\SOFTWARE\` + uninstallBelow + `\` + p.Code
	switch {
	case sid != everyoneSID:
		key = `HKU\` + sid + `\Software\` + uninstallBelow + `\` + p.Code
	case l.narrow(p):
		key = `HKLM\SOFTWARE\WOW6432Node\` + uninstallBelow + `\` + p.Code
	}
	for _, v := range values {
		if v.Name != "LocalPackage" && v.Name != "" {
			md.Steps = append(md.Steps, valueStep(key, v.Name, v.Value.Type, v.Value.Words()))
		}
	}
	return nil
}

// narrow says whether a product is one of 32 bits on an OS of 64.
func (l *List) narrow(p *Product) bool {
	if !strings.Contains(l.m.Facts().OS.Architecture, "64") {
		return false
	}
	if db, _, err := l.ownPackage(p); err == nil && db != nil {
		defer db.Close()
		if s, err := db.Summary(); err == nil {
			return !strings.Contains(s.Platform(), "64")
		}
	}
	return slices.ContainsFunc(append(slices.Clone(p.keyPaths), p.Folder), func(f string) bool {
		return strings.Contains(strings.ToLower(f), `\program files (x86)\`)
	})
}

// valueStep is the step that sets a registry value of a type.
func valueStep(key, name string, t regfile.Type, words string) step.Model {
	return step.New("registry", "key", key, "name", name, "type", t.String(), "value", words)
}

// An openPackage is a package that is open on the machine.
type openPackage struct {
	*installdb.Database
	file io.Closer
}

// Close closes the file below the package.
func (o *openPackage) Close() error { return o.file.Close() }

// ownPackage opens the engine's copy of a product's package; nil where none is
// good.
func (l *List) ownPackage(p *Product) (*openPackage, string, error) {
	d := doctor{List: l}
	// Its cached package, or the same one under another name in the cache.
	for _, e := range p.copies {
		at := e.File
		if e.State != cached.Good {
			at = d.elsewhere(e)
		}
		if at == "" {
			continue
		}
		info, err := l.m.Stat(at)
		if err != nil {
			return nil, "", err
		}
		f, err := l.m.Open(at)
		if errors.Is(err, fs.ErrNotExist) || errors.Is(err, machine.ErrUnsupported) {
			continue
		}
		if err != nil {
			return nil, "", err
		}
		content, ok := f.(io.ReaderAt)
		if !ok {
			f.Close()
			continue
		}
		db, err := installdb.Open(content, info.Size)
		if err != nil {
			f.Close()
			return nil, "", err
		}
		return &openPackage{db, f}, at, nil
	}
	return nil, "", nil
}

// mendCopies corrects the path of a package that lies elsewhere in the cache,
// and puts back what was found.
func (l *List) mendCopies(p *Product, found map[string]cached.Source, md *Mending) error {
	d := doctor{List: l}
	for _, e := range l.Wanted(p) {
		src, there := found[e.Code]
		switch at := d.elsewhere(e); {
		case e.Kind == cached.Product && at != "":
			md.Steps = append(md.Steps, valueStep(e.Key(), "LocalPackage", regfile.String, at))
			md.does("the recorded path leads to its package, %s", at)
		case there:
			steps, err := e.Steps(l.m, l.cache, src)
			if err != nil {
				return err
			}
			md.Steps = append(md.Steps, steps...)
			md.does("its %s comes back from %s; no file of another product is written over", kindWords(e), src.Path)
		default:
			md.needs("fetch "+packageWords(e)+" with the code "+codeOf(e)+", then look for it there", "products", "mend", p.Code, "--from", "FOLDER")
		}
	}
	return nil
}

// kindWords names what a cached file is in a sentence: of patches a product has
// several, of packages one.
func kindWords(e cached.Entry) string {
	if e.Kind == cached.Patch {
		return "patch " + e.Code
	}
	return "package"
}

// packageWords is the name under which a person looks for a package: that of
// the file it was set up from.
func packageWords(e cached.Entry) string {
	if e.SourceName != "" {
		return e.SourceName
	}
	return "the " + string(e.Kind)
}

// codeOf is the code by which the right file is known: the package's own, as
// other packages of the same product do not fit.
func codeOf(e cached.Entry) string {
	if e.PackageCode != "" {
		return e.PackageCode
	}
	return e.Code
}
