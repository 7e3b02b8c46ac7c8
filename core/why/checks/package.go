// This file asks what one package needs of the machine, and whether it is there
// already.

package checks

import (
	"cmp"
	"fmt"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/cached"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/targets"
	"hollowkey/core/step"
)

// What a package is going to touch, against what is there. Without a package
// these checks find nothing.

// packageTargets looks at the folders and files that the package writes.
func (l *look) packageTargets() []Finding {
	if l.opt.Package == nil {
		return nil
	}
	files, folders, err := targets.Files(l.opt.Package, l.m)
	if err != nil {
		return []Finding{l.cannot("package: folders", "", err)}
	}
	all := append([]Finding{l.blockers(folders)}, l.spaceFor(files)...)
	return append(all, l.holders(files))
}

// blockers finds files where the package needs a folder, and drives that are
// not there.
func (l *look) blockers(folders []string) Finding {
	const name = "package: folders"
	var seen []string
	var steps []step.Model
	told := map[string]bool{}
	// Many folders of a package lie below the same obstacle; it is told once.
	tell := func(text string) (first bool) {
		if first = !told[text]; first {
			told[text] = true
			seen = append(seen, text)
		}
		return first
	}
	facts := l.m.Facts()
	var unread error
	for _, f := range folders {
		drive, _, err := machine.SplitPath(f)
		if err != nil {
			continue
		}
		if !facts.HasDrive(drive + ":") {
			tell("the drive " + drive + ": is not there")
			continue
		}
		file, _, found, err := l.inTheWay(f)
		if err != nil {
			unread = err
		}
		if found && tell(fmt.Sprintf("%s is a file of %d bytes", file.Path, file.Size)) {
			steps = append(steps, clearTheWay(file))
		}
	}
	switch {
	case seen != nil:
		return Finding{Name: name, Answer: Stop, Seen: strings.Join(seen, "; ") + ", where a folder must be",
			Mend: "make the folder in its place", Steps: steps}
	case unread != nil:
		return l.cannot(name, "", unread)
	}
	return pass(name, "nothing stands in the way of %s", counted(len(folders), "folder"))
}

// counted writes a number with its word.
func counted(n int, thing string) string {
	if n == 1 {
		return "1 " + thing
	}
	return fmt.Sprintf("%d %ss", n, thing)
}

// maxAsked is how many files are asked for at once; the OS's restart manager
// slows down far beyond it, and a product seldom keeps more in one folder.
const maxAsked = 2000

// holders finds programs that keep the package's files open.
func (l *look) holders(files map[string]int64) Finding {
	const name = "package: files in use"
	var there []string
	// Only so many are asked about: the question goes to the OS, with all names
	// at once.
	for path := range files {
		if len(there) < maxAsked {
			if _, err := l.m.Stat(path); err == nil {
				there = append(there, path)
			}
		}
	}
	if len(there) == 0 {
		return pass(name, "none of its files is there yet")
	}
	list, err := l.m.Holders(there...)
	if err != nil {
		return l.cannot(name, "", err)
	}
	if len(list) == 0 {
		return pass(name, "%s of its own are there, none is open", counted(len(there), "file"))
	}
	var who []string
	var steps []step.Model
	for _, p := range list {
		who = append(who, fmt.Sprintf("%s (process %d)", p.Name, p.ID))
		steps = append(steps, step.New("end-process", "process", p.Name))
	}
	return Finding{Name: name, Answer: Warn, Seen: "its files are open in " + strings.Join(who, ", "), Mend: "close these programs first",
		Steps: steps}
}

// cachedPackages looks at the engine's copies of what is installed.
func (l *look) cachedPackages() Finding {
	const name = "cached packages"
	list, err := cached.Read(l.m)
	if err != nil {
		return l.cannot(name, "", err)
	}
	var bad []string
	for _, e := range list {
		if !e.Fine() {
			bad = append(bad, fmt.Sprintf("%s (%s)", cmp.Or(e.Name, e.Code), e.State))
		}
	}
	if bad != nil {
		return Finding{Name: name, Answer: Warn, Seen: strings.Join(bad, ", "), Command: []string{"cache", "restore", "--from", "FOLDER"}}
	}
	return pass(name, "%d, all good", len(list))
}

// cachedCopies asks the same of a machine on which a repair, an update or an
// uninstall did not find its package.
func (l *look) cachedCopies(arguments) Finding {
	f := l.cachedPackages()
	f.Name = "cached-copies"
	if f.Answer == Warn {
		f.Answer, f.Class = Stop, "cached-package"
		f.Seen = "the OS's copies of these are not good: " + f.Seen
		f.Mend = "put the very same package back: hollowkey cache restore --from FOLDER"
	}
	return f
}

// uninstallKeys are where products are listed for people, for both widths.
var uninstallKeys = []string{
	`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\`, `HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall\`,
}

// packageRegistrations looks whether the product is there already, and whether
// what the engine keeps of it and of its older versions is whole.
func (l *look) packageRegistrations() []Finding {
	const name = "package: registrations"
	if l.opt.Package == nil {
		return nil
	}
	property, err := l.opt.Package.Properties()
	if err != nil {
		return []Finding{l.cannot(name, "", err)}
	}
	code, product := property["ProductCode"], property["ProductName"]
	list, err := cached.Read(l.m)
	if err != nil {
		return []Finding{l.cannot(name, "", err)}
	}
	for _, e := range list {
		// The same code is this product, the same name with another code an
		// older one.
		same := strings.EqualFold(e.Code, code)
		if !same && (e.Kind != cached.Product || !strings.EqualFold(e.Name, product)) {
			continue
		}
		what := "this very product is registered"
		if !same {
			what = "an older one is registered: " + e.Name + " " + e.Version
		}
		if !e.Fine() {
			return []Finding{{Name: name, Answer: Stop, Seen: fmt.Sprintf("%s, and its cached package is %s", what, e.State),
				Command: []string{"cache", "restore", "--from", "FOLDER"}}}
		}
		return []Finding{{Name: name, Answer: Warn, Seen: what, Mend: "repair it, or uninstall it first"}}
	}
	for _, root := range uninstallKeys {
		there, err := l.keyThere(root + code)
		switch {
		case err != nil:
			return []Finding{l.cannot(name, "", err)}
		case there:
			return []Finding{{Name: name, Answer: Warn, Seen: "it is listed as installed, but the engine does not know it",
				Command: []string{"leftovers", code}}}
		}
	}
	return []Finding{pass(name, "neither it nor an older one is registered")}
}

// packagePlatform compares the package's processor type with the machine's.
func (l *look) packagePlatform() []Finding {
	const name = "package: platform"
	if l.opt.Package == nil {
		return nil
	}
	s, err := l.opt.Package.Summary()
	if err != nil {
		return []Finding{l.cannot(name, "", err)}
	}
	os := l.m.Facts().OS
	platform := cmp.Or(s.Platform(), "Intel")
	switch {
	case os.Architecture == "" || !knownPlatform(platform):
		return []Finding{unknown(name, "package %q, machine %q", platform, os.Architecture)}
	case !os.Runs(platform):
		return []Finding{{Name: name, Answer: Stop, Seen: fmt.Sprintf("the package is for %s, the machine is %s", platform, os.Architecture),
			Mend: "take the vendor's package for " + os.Architecture}}
	}
	return []Finding{pass(name, "%s on %s", platform, os.Architecture)}
}

// knownPlatform says whether a processor type is one of those that this OS has:
// others are of old servers.
func knownPlatform(platform string) bool {
	return machine.OS{Architecture: "arm64"}.Runs(platform)
}

// OfPackage begins the names of the checks that are gates of a package.
const OfPackage = "package: "

// packageGates works out all that can stop the package on this machine.
func (l *look) packageGates() (all []Finding) {
	if l.opt.Package == nil {
		return nil
	}
	list, err := gates.Find(gates.NewWorld(l.opt.Package, l.m, nil))
	if err != nil {
		return []Finding{l.cannot("the package's gates", "", err)}
	}
	passes := 0
	for _, g := range list {
		name := OfPackage + string(g.Kind)
		switch g.Answer {
		case gates.Passes:
			passes++
		case gates.Fails:
			mend := ""
			if len(g.Ways) > 0 {
				mend = g.Ways[0].Text
			}
			all = append(all, Finding{Name: name, Answer: Stop, Seen: gateSeen(g), Mend: mend})
		default:
			all = append(all, unknown(name, "%s", gateSeen(g)))
		}
	}
	return append(all, pass(OfPackage+"other gates", "%d pass", passes))
}

// gateSeen says what a gate looks at, and the value that it saw.
func gateSeen(g gates.Gate) string {
	text := g.Condition
	if g.Kind != gates.Launch && g.Kind != gates.Platform {
		text = g.Row
	}
	for _, r := range g.Why {
		if r.Symbol == "" {
			continue
		}
		value := r.Value
		switch {
		case !r.Known:
			value = "not known"
		case value == "":
			value = "not set"
		}
		return text + ": " + r.Symbol + " is " + value
	}
	return strings.TrimSpace(text + " " + g.Note)
}
