package checks

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/step"
)

// Needs are a site's own needs: a small YAML file. docs/ready.md has an example.
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
		Absent bool   `yaml:"absent"` // it must not be there
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
	d.KnownFields(true)
	if err := d.Decode(&n); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	for _, p := range n.Products {
		switch {
		case p.Name == "":
			return nil, fmt.Errorf("%s: products: one of them has no name", name)
		case p.Absent && p.Least+p.Most != "":
			return nil, fmt.Errorf("%s: products: %s must be absent, so no version of it can be asked for", name, p.Name)
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

// siteOS compares the OS with the site's range of builds, processors and rings. A
// build that is not known passes no range.
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

// siteService asks for a service that must run. Where it only has stopped, starting
// it is a step; where it is missing something must be installed.
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

// siteProducts compares what is installed with the products that the site wants there, or
// not there.
func (l *look) siteProducts() (all []Finding) {
	const name = "site: product"
	want := l.opt.Needs.Products
	if len(want) == 0 {
		return nil
	}
	versions, err := l.installed()
	if err != nil {
		return []Finding{l.cannot(name, "", err)}
	}
	for _, p := range want {
		found, there := versions[strings.ToLower(p.Name)]
		seen := p.Name + " " + strings.Join(found, ", ")
		fits := slices.ContainsFunc(found, func(v string) bool {
			return (p.Least == "" || compareVersions(v, p.Least) >= 0) && (p.Most == "" || compareVersions(v, p.Most) <= 0)
		})
		switch {
		case p.Absent && there:
			all = append(all, Finding{Name: name, Answer: Stop, Seen: seen + " is installed, and must not be", Mend: "uninstall it first"})
		case p.Absent:
			all = append(all, pass(name, "%s is not installed", p.Name))
		case !there:
			all = append(all, Finding{Name: name, Answer: Stop, Seen: p.Name + " is not installed", Mend: "install it first"})
		case !fits:
			all = append(all, Finding{Name: name, Answer: Stop, Seen: seen + " is installed; the site requires " + bounds(p.Least, p.Most),
				Mend: "bring it to such a version"})
		default:
			all = append(all, pass(name, "%s", seen))
		}
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

// installed are the versions of all programs in the lists of installed ones, by their
// names in small letters.
func (l *look) installed() (map[string][]string, error) {
	versions := map[string][]string{}
	for _, root := range append(slices.Clone(uninstallKeys), `HKCU\Software\Microsoft\Windows\CurrentVersion\Uninstall\`) {
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
			versions[strings.ToLower(name)] = append(versions[strings.ToLower(name)], v)
		}
	}
	return versions, nil
}

// compareVersions compares versions number by number; a missing number is 0, and so is
// what is none.
func compareVersions(a, b string) int {
	x, y := strings.Split(a, "."), strings.Split(b, ".")
	for i := range max(len(x), len(y)) {
		var m, n int
		if i < len(x) {
			m, _ = strconv.Atoi(x[i])
		}
		if i < len(y) {
			n, _ = strconv.Atoi(y[i])
		}
		if m != n {
			return m - n
		}
	}
	return 0
}

// older compares versions number by number; what is no number counts as 0.
func older(v, least string) bool {
	a, b := strings.Split(v, "."), strings.Split(least, ".")
	for i := range b {
		if i >= len(a) {
			return false
		}
		x, _ := strconv.Atoi(a[i])
		y, _ := strconv.Atoi(b[i])
		if x != y {
			return x < y
		}
	}
	return false
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
			stop("%s is not there", which)
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
