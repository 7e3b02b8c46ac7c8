package readiness

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/cached"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
)

// What a package is going to touch, against what is there.

// targets are the files that a package puts on the machine, with their sizes.
func targets(db *installdb.Database, m machine.Machine) (files map[string]int64, folders []string, err error) {
	world := gates.NewWorld(db, m, nil)
	components, err := db.TableOrEmpty("Component")
	if err != nil {
		return nil, nil, err
	}
	where := map[string]string{}
	for _, r := range components.Rows {
		if path, ok := world.Folder(components.Get(r, "Directory_").Text); ok {
			path = strings.TrimRight(path, `\`)
			where[components.Get(r, "Component").Text] = path
			if !slices.Contains(folders, path) {
				folders = append(folders, path)
			}
		}
	}
	t, err := db.TableOrEmpty("File")
	if err != nil {
		return nil, nil, err
	}
	files = map[string]int64{}
	for _, r := range t.Rows {
		name := t.Get(r, "FileName").Text
		if _, long, ok := strings.Cut(name, "|"); ok {
			name = long
		}
		if folder := where[t.Get(r, "Component_").Text]; folder != "" {
			files[folder+`\`+name] += int64(t.Get(r, "FileSize").Int)
		}
	}
	return files, folders, errors.Join(err, world.Err())
}

func (l *look) targets() {
	if l.opt.Package == nil {
		return
	}
	files, folders, err := targets(l.opt.Package, l.m)
	if err != nil {
		l.add("package: folders", CannotTell, err.Error(), "")
		return
	}
	l.blockers(folders)
	l.targetSpace(files)
	l.holders(files)
}

// blockers finds files where the package needs a folder.
func (l *look) blockers(folders []string) {
	var seen []string
	var steps []step.Model
	facts := l.m.Facts()
	for _, f := range folders {
		drive, names, err := machine.SplitPath(f)
		if err != nil {
			continue
		}
		if !facts.HasDrive(drive + ":") {
			seen = append(seen, "the drive "+drive+": is not there")
			continue
		}
		for i := range names {
			at := drive + `:\` + strings.Join(names[:i+1], `\`)
			info, err := l.m.Stat(at)
			if err != nil || info.Folder {
				continue
			}
			if text := fmt.Sprintf("%s is a file of %d bytes", at, info.Size); !slices.Contains(seen, text) {
				seen = append(seen, text)
				if info.Size == 0 {
					steps = append(steps, step.New("folder", "folder", at))
				} else {
					steps = append(steps, step.New("quarantine", "path", at))
				}
			}
			break
		}
	}
	if seen != nil {
		l.add("package: folders", Stop, strings.Join(seen, "; ")+", where a folder must be", "make the folder in its place", steps...)
		return
	}
	l.add("package: folders", Pass, fmt.Sprintf("nothing stands in the way of %d folders", len(folders)), "")
}

func (l *look) targetSpace(files map[string]int64) {
	need := map[string]int64{}
	for path, size := range files {
		need[strings.ToUpper(path[:2])] += size
	}
	for _, d := range l.m.Facts().Drives {
		n, wanted := need[d.Letter]
		if !wanted || d.Letter == "C:" { // C: has a check of its own
			continue
		}
		seen := fmt.Sprintf("%s has %.1f GiB free, the package's files have %.1f GiB", d.Letter, float64(d.Free)/bytesGiB, float64(n)/bytesGiB)
		if d.Free < n {
			l.add("free space on "+d.Letter, Stop, seen, "free space on "+d.Letter)
		} else {
			l.add("free space on "+d.Letter, Pass, seen, "")
		}
	}
}

const maxAsked = 2000 // files that are asked for

// holders finds programs that keep the package's files open.
func (l *look) holders(files map[string]int64) {
	var there []string
	for path := range files {
		if len(there) < maxAsked {
			if _, err := l.m.Stat(path); err == nil {
				there = append(there, path)
			}
		}
	}
	if len(there) == 0 {
		l.add("package: files in use", Pass, "none of its files is there yet", "")
		return
	}
	list, err := l.m.Holders(there...)
	switch {
	case err != nil:
		l.add("package: files in use", CannotTell, err.Error(), "")
	case len(list) > 0:
		var who []string
		var steps []step.Model
		for _, p := range list {
			who = append(who, fmt.Sprintf("%s (process %d)", p.Name, p.ID))
			steps = append(steps, step.New("end-process", "process", p.Name))
		}
		l.add("package: files in use", Warn, "its files are open in "+strings.Join(who, ", "), "close these programs first", steps...)
	default:
		l.add("package: files in use", Pass, fmt.Sprintf("%d of its files are there, none is open", len(there)), "")
	}
}

// registered looks whether the product is there already, and whether what the
// engine keeps of it and of its older versions is whole.
func (l *look) registered() {
	if l.opt.Package == nil {
		return
	}
	t, err := l.opt.Package.TableOrEmpty("Property")
	if err != nil {
		l.add("package: registrations", CannotTell, err.Error(), "")
		return
	}
	property := func(name string) string {
		for _, r := range t.Rows {
			if t.Get(r, "Property").Text == name {
				return t.Get(r, "Value").Text
			}
		}
		return ""
	}
	code, name := property("ProductCode"), property("ProductName")
	list, err := cached.Read(l.m)
	if err != nil {
		l.add("package: registrations", CannotTell, err.Error(), "")
		return
	}
	for _, e := range list {
		same := strings.EqualFold(e.Code, code)
		if !same && (e.Kind != cached.Product || !strings.EqualFold(e.Name, name)) {
			continue
		}
		what := "this very product is registered"
		if !same {
			what = "an older one is registered: " + e.Name + " " + e.Version
		}
		if e.State != cached.Good && e.State != cached.NotTaken {
			l.add("package: registrations", Stop, fmt.Sprintf("%s, and its cached package is %s", what, e.State), "hollowkey cache restore --from FOLDER")
		} else {
			l.add("package: registrations", Warn, what, "repair it, or uninstall it first")
		}
		return
	}
	for _, root := range []string{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\`, `HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall\`} {
		if there, err := l.m.KeyExists(root + code); err == nil && there {
			l.add("package: registrations", Warn, "it is listed as installed, but the engine does not know it", "hollowkey leftovers "+code)
			return
		}
	}
	l.add("package: registrations", Pass, "neither it nor an older one is registered", "")
}

// platform compares the package's with the machine's.
func (l *look) platform() {
	if l.opt.Package == nil {
		return
	}
	s, err := l.opt.Package.Summary()
	if err != nil {
		l.add("package: platform", CannotTell, err.Error(), "")
		return
	}
	platform, _, _ := strings.Cut(s.Text(installdb.SummaryTemplate), ";")
	arch := strings.ToLower(l.m.Facts().OS.Architecture)
	ok := map[string][]string{"": {"x86", "x64", "arm64"}, "intel": {"x86", "x64", "arm64"}, "x64": {"x64", "arm64"}, "amd64": {"x64", "arm64"}, "arm64": {"arm64"}}
	fits, known := ok[strings.ToLower(platform)]
	switch {
	case !known || arch == "":
		l.add("package: platform", CannotTell, fmt.Sprintf("package %q, machine %q", platform, arch), "")
	case !slices.Contains(fits, arch):
		l.add("package: platform", Stop, fmt.Sprintf("the package is for %s, the machine is %s", platform, arch), "take the vendor's package for "+arch)
	default:
		l.add("package: platform", Pass, fmt.Sprintf("%s on %s", first(platform, "Intel"), arch), "")
	}
}

// blockingFiles looks at the usual places for an empty file in the way of a
// folder, which breaks set-ups of any vendor.
func (l *look) blockingFiles() {
	var seen []string
	var steps []step.Model
	for _, root := range []string{`C:\`, `C:\ProgramData`, `C:\Program Files`, `C:\Program Files (x86)`, `C:\Program Files\Common Files`, `C:\Program Files (x86)\Common Files`} {
		list, err := l.m.ReadDir(root)
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			l.add("files in the way", CannotTell, err.Error(), "")
			return
		}
		for _, i := range list {
			name := i.Path[strings.LastIndexByte(i.Path, '\\')+1:]
			if !i.Folder && i.Size == 0 && !strings.Contains(name, ".") {
				seen = append(seen, i.Path)
				steps = append(steps, step.New("folder", "folder", i.Path))
			}
		}
	}
	if seen != nil {
		l.add("files in the way", Warn, "empty files without an ending, where programs make folders: "+strings.Join(seen, ", "), "hollowkey fix --step folder --arg folder='"+seen[0]+"'", steps...)
		return
	}
	l.add("files in the way", Pass, "none", "")
}
