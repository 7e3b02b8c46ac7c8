// This file asks what a site itself wants of its machines before a setup, from
// a file that it writes.

package checks

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/step"
)

// Needs are a site's own needs: a small YAML file. docs/ready.md has an
// example.
type Needs struct {
	OS struct {
		LeastBuild    int      `yaml:"least build"`
		MostBuild     int      `yaml:"most build"`
		Architectures []string `yaml:"architectures"`
		Rings         []string `yaml:"rings"`
	} `yaml:"os"`
	Free     string   `yaml:"free"`     // on C:, such as "20 GB"
	Hosts    []string `yaml:"hosts"`    // that must answer
	Services []string `yaml:"services"` // that must run
	Files    []string `yaml:"files"`    // that must be there
	Runtimes []struct {
		Name  string `yaml:"name"`
		Least string `yaml:"least"` // version
	} `yaml:"runtimes"`
	Products []struct {
		Name   string `yaml:"name"`   // as the list of installed programs has it
		Absent bool   `yaml:"absent"` // it must not be there; with least or most only such a version
		Least  string `yaml:"least"`  // version, itself included
		Most   string `yaml:"most"`   // version, itself included
	} `yaml:"products"`
	Registry []struct {
		Key   string `yaml:"key"`
		Name  string `yaml:"name"`
		Least *int64 `yaml:"least"` // for numbers
		Is    string `yaml:"is"`
	} `yaml:"registry"`

	free int64 // bytes, read from the text
}

// MaxNeeds is how large a needs file may be, in bytes; one that lists thousands
// of files has less.
const MaxNeeds = 1 << 20

// ReadNeeds reads a needs file. An unknown key is an error with its line.
func ReadNeeds(name string, b []byte) (*Needs, error) {
	if len(b) > MaxNeeds {
		return nil, fmt.Errorf("%s: larger than 1 MiB", name)
	}
	var n Needs
	d := yaml.NewDecoder(bytes.NewReader(b))
	// A field that is misspelt would else be a need that nobody checks.
	d.KnownFields(true)
	if err := d.Decode(&n); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	for _, p := range n.Products {
		switch {
		case p.Name == "":
			return nil, fmt.Errorf("%s: products: one of them has no name", name)
		case p.Least != "" && versionParts(p.Least) == nil, p.Most != "" && versionParts(p.Most) == nil:
			return nil, fmt.Errorf("%s: products: %s: least and most are versions such as \"4.0\"", name, p.Name)
		}
	}
	if n.Free != "" {
		number, unit, _ := strings.Cut(strings.TrimSpace(n.Free), " ")
		v, err := strconv.ParseFloat(number, 64)
		scale := map[string]float64{"MB": 1 << 20, "GB": 1 << 30, "TB": 1 << 40}[strings.ToUpper(unit)]
		if err != nil || scale == 0 || v < 0 {
			return nil, fmt.Errorf("%s: free: %q is not an amount such as 20 GB", name, n.Free)
		}
		n.free = int64(v * scale)
	}
	return &n, nil
}

// siteNeeds compares the machine with what the site requires.
func (l *look) siteNeeds() (all []Finding) {
	n := l.opt.Needs
	if n == nil {
		return nil
	}
	all = append(all, l.siteOS())
	for _, h := range n.Hosts {
		all = append(all, l.host("site: host", h))
	}
	all = append(all, l.siteRuntimes()...)
	all = append(all, l.siteProducts()...)
	for _, name := range n.Services {
		all = append(all, l.siteService(name))
	}
	for _, f := range n.Files {
		all = append(all, l.siteFile(f))
	}
	return append(all, l.siteRegistry()...)
}

// siteOS compares the OS with the site's range of builds, processors and rings.
// A build that is not known passes no range.
func (l *look) siteOS() Finding {
	const name = "site: OS"
	want, os := l.opt.Needs.OS, l.m.Facts().OS
	seen := fmt.Sprintf("%s %s build %d, %s", os.Name, os.Version, os.Build, os.Architecture)
	listed := func(list []string, v string) bool {
		return len(list) == 0 || slices.ContainsFunc(list, func(o string) bool { return strings.EqualFold(o, v) })
	}
	stop := func(seen, mend string) Finding { return Finding{Name: name, Answer: Stop, Seen: seen, Mend: mend} }
	switch {
	case os.Build == 0 && want.LeastBuild+want.MostBuild > 0:
		return unknown(name, "%s", seen)
	case want.LeastBuild > os.Build:
		return stop(fmt.Sprintf("%s; the site requires build %d at least", seen, want.LeastBuild), "update the OS")
	case want.MostBuild > 0 && want.MostBuild < os.Build:
		return stop(fmt.Sprintf("%s; the site requires build %d at most", seen, want.MostBuild), "take the version for this OS")
	case !listed(want.Architectures, os.Architecture):
		return stop(seen+"; the site requires "+strings.Join(want.Architectures, ", "), "take the version for this architecture")
	case !listed(want.Rings, os.Ring):
		return stop(seen+", ring "+os.Ring+"; the site requires "+strings.Join(want.Rings, ", "), "leave the preview ring")
	}
	return pass(name, "%s", seen)
}

// siteService asks for a service that must run. Where it only has stopped,
// starting it is a step; where it is missing something must be installed.
func (l *look) siteService(service string) Finding {
	const name = "site: service"
	s, err := l.m.Service(service)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return Finding{Name: name, Answer: Stop, Seen: service + " is not there", Mend: "install what brings it"}
	case err != nil:
		return l.cannot(name, "", err)
	case !s.Running:
		return Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("%s is stopped (start type %s)", s.Name, s.Start), Mend: "start it",
			Steps: []step.Model{step.New("service", "name", s.Name, "start", "automatic", "state", "running")}}
	}
	return pass(name, "%s runs", s.Name)
}

// siteFile asks for a file; what brings it, the site knows.
func (l *look) siteFile(path string) Finding {
	const name = "site: file"
	path = l.expand(path)
	_, err := l.m.Stat(path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return Finding{Name: name, Answer: Stop, Seen: path + " is not there"}
	case err != nil:
		return l.cannot(name, "", err)
	}
	return pass(name, "%s", path)
}

// siteRuntimes asks whether one of the versions that are there is new enough.
// Several may stand side by side.
func (l *look) siteRuntimes() (all []Finding) {
	const name = "site: runtime"
	found, err := l.runtimes()
	for _, r := range l.opt.Needs.Runtimes {
		versions := found[r.Name]
		enough := slices.ContainsFunc(versions, func(v string) bool { return !older(v, r.Least) })
		seen := strings.Join(versions, ", ")
		switch {
		case enough:
			all = append(all, pass(name, "%s %s", r.Name, seen))
		case err != nil:
			all = append(all, l.cannot(name, "", err))
		case versions == nil:
			all = append(all, Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("%s is not there; the site requires %s", r.Name, r.Least),
				Mend: "install it"})
		default:
			all = append(all, Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("%s is %s; the site requires %s", r.Name, seen, r.Least),
				Mend: "update it"})
		}
	}
	return all
}

// siteProducts compares what is installed with the products that the site wants
// there, or not there.
func (l *look) siteProducts() (all []Finding) {
	const name = "site: product"
	want := l.opt.Needs.Products
	if len(want) == 0 {
		return nil
	}
	programs, err := l.installed()
	if err != nil {
		return []Finding{l.cannot(name, "", err)}
	}
	for _, p := range want {
		var seen []string // of that name
		// Several versions may be there: one that fits is enough, and one of
		// which the version is not known makes a no impossible.
		fits, untold := false, false
		for _, i := range programs {
			if !i.called(p.Name) {
				continue
			}
			as := strings.TrimSpace(i.name + " " + i.version)
			if strings.HasSuffix(i.name, " "+i.version) {
				as = i.name
			}
			seen = append(seen, as)
			known := len(versionParts(i.version)) > 0 || p.Least+p.Most == ""
			untold = untold || !known
			fits = fits || known && (p.Least == "" || compareVersions(i.version, p.Least) >= 0) &&
				(p.Most == "" || compareVersions(i.version, p.Most) <= 0)
		}
		are := strings.Join(seen, ", ")
		f := Finding{Name: name, Answer: Stop}
		switch {
		case p.Absent && fits && p.Least+p.Most != "":
			f.Seen, f.Mend = are+" is installed; "+bounds(p.Least, p.Most)+" must not be", "uninstall it first"
		case p.Absent && fits:
			f.Seen, f.Mend = are+" is installed, and must not be", "uninstall it first"
		case p.Absent && untold:
			f = unknown(name, "%s is installed, and its version is not registered", are)
		case p.Absent && seen != nil:
			f = pass(name, "%s is installed; only %s must not be", are, bounds(p.Least, p.Most))
		case p.Absent:
			f = pass(name, "%s is not installed", p.Name)
		case seen == nil:
			f.Seen, f.Mend = p.Name+" is not installed", "install it first"
		case fits:
			f = pass(name, "%s", are)
		case untold:
			f = unknown(name, "%s is installed, and its version is not registered", are)
		default:
			f.Seen, f.Mend = are+" is installed; the site requires "+bounds(p.Least, p.Most), "bring it to such a version"
		}
		all = append(all, f)
	}
	return all
}

// bounds writes a range of versions in words.
func bounds(least, most string) string {
	switch {
	case least == "":
		return most + " at most"
	case most == "":
		return least + " at least"
	}
	return least + " to " + most
}

// A program is one in the lists of installed ones, as it is entered there.
type program struct{ name, version string }

// called says whether a program is the one of a name: by the whole name, by one
// with stars, or by a name that goes on with nothing but its version, processor
// or year, which many setups write behind it. "Planner Help Pack" is no
// "Planner".
func (p program) called(name string) bool {
	if strings.ContainsAny(name, "*?") {
		return wildName(name).MatchString(p.name)
	}
	return strings.EqualFold(p.name, name) || strings.EqualFold(bareName(p.name), bareName(name)) && versioned(name, p.version)
}

// versioned says that a name that ends in a version is not asked for by another
// one.
func versioned(name, version string) bool {
	return bareName(name) == marks.Replace(name) || strings.Contains(name, version) && version != ""
}

var (
	marks = strings.NewReplacer("®", "", "™", "", "©", "", "(R)", "", "(TM)", "")
	// What stands behind a name: a version, with a word before it, and the
	// processor or the language in brackets.
	behindName = lazy.MustCompile(`(?i)(?:[ ,-]+(?:version|v|ver|release|r)?\.?[ ]*[0-9][0-9.,]*|[ ]+(?:x64|x86|64-?bit|32-?bit)|[ ]*\((?:x64|x86|arm64|64-?bit|32-?bit|[a-z]{2}-[a-z]{2})\))+$`)
)

// bareName is a program's name without what many setups write behind it.
func bareName(name string) string {
	name = strings.TrimSpace(marks.Replace(name))
	if at := behindName.FindStringIndex(name); at != nil && at[0] > 0 {
		name = name[:at[0]]
	}
	return name
}

// wildName is an expression for a whole name with stars and question marks.
func wildName(name string) *regexp.Regexp {
	return regexp.MustCompile(`(?i)^` + strings.NewReplacer(`\*`, ".*", `\?`, ".").Replace(regexp.QuoteMeta(name)) + `$`)
}

// installed are all programs in the lists of installed ones: of both views, and
// of the users whose registry is loaded.
func (l *look) installed() (list []program, err error) {
	roots := append(slices.Clone(uninstallKeys), `HKCU\Software\Microsoft\Windows\CurrentVersion\Uninstall\`)
	for _, root := range roots {
		root = strings.TrimRight(root, `\`)
		names, err := l.m.Subkeys(root)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			return nil, err
		}
		for _, n := range names {
			name, there, err := l.text(root+`\`+n, "DisplayName")
			if err != nil || !there {
				continue
			}
			v, _, _ := l.text(root+`\`+n, "DisplayVersion")
			list = append(list, program{strings.TrimSpace(name), strings.TrimSpace(v)})
		}
	}
	return list, nil
}

// versionParts are the numbers of a version: v4.5, "4, 5, 0, 1" and 4.5-beta2
// have some; a text that begins with none has none.
func versionParts(v string) (parts []int) {
	v = strings.ReplaceAll(strings.TrimLeft(strings.ToLower(v), "v. "), ",", ".")
	for p := range strings.SplitSeq(v, ".") {
		p = strings.TrimSpace(p)
		end := strings.IndexFunc(p, func(r rune) bool { return r < '0' || r > '9' })
		if end < 0 {
			end = len(p)
		}
		n, err := strconv.Atoi(p[:end])
		if err != nil {
			break
		}
		parts = append(parts, n)
		if end < len(p) {
			break
		}
	}
	return parts
}

// compareVersions compares versions number by number; a missing number is 0.
func compareVersions(a, b string) int {
	x, y := versionParts(a), versionParts(b)
	for i := range max(len(x), len(y)) {
		var m, n int
		if i < len(x) {
			m = x[i]
		}
		if i < len(y) {
			n = y[i]
		}
		if m != n {
			return m - n
		}
	}
	return 0
}

// older compares versions number by number, as far as both have numbers. A
// version without any is the oldest.
func older(v, least string) bool {
	a, b := versionParts(v), versionParts(least)
	if a == nil {
		a = []int{0}
	}
	n := min(len(a), len(b))
	return slices.Compare(a[:n], b[:n]) < 0
}

// otherView says that a value is there for programs of 32 bits only, or for
// those of 64.
func (l *look) otherView(key, name string) string {
	const narrow, wide = `\SOFTWARE\WOW6432Node\`, `\SOFTWARE\`
	other, which := strings.Replace(key, narrow, wide, 1), "64"
	if other == key {
		other, which = strings.Replace(key, wide, narrow, 1), "32"
	}
	if _, there, err := l.text(other, name); other == key || err != nil || !there {
		return ""
	}
	return "; programs of " + which + " bits have it: " + other
}

// siteRegistry compares values: numbers with a least, texts as they are.
func (l *look) siteRegistry() (all []Finding) {
	const name = "site: registry"
	stop := func(format string, args ...any) {
		all = append(all, Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf(format, args...)})
	}
	for _, r := range l.opt.Needs.Registry {
		which := r.Key + ", " + r.Name
		v, there, err := l.text(r.Key, r.Name)
		number, bad := strconv.ParseInt(v, 10, 64)
		switch {
		case err != nil:
			all = append(all, l.cannot(name, "", err))
		case !there:
			stop("%s is not there%s", which, l.otherView(r.Key, r.Name))
		case r.Least != nil && (bad != nil || number < *r.Least):
			stop("%s is %s; the site requires at least %d", which, v, *r.Least)
		case r.Is != "" && r.Is != v:
			stop("%s is %q; the site requires %q", which, v, r.Is)
		default:
			all = append(all, pass(name, "%s is %s", which, v))
		}
	}
	return all
}
