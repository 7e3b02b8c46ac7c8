package readiness

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
	Free     string   `yaml:"free"` // on C:, such as "20 GB"
	Hosts    []string `yaml:"hosts"`
	Services []string `yaml:"services"` // that must run
	Files    []string `yaml:"files"`    // that must be there
	Runtimes []struct {
		Name  string `yaml:"name"`
		Least string `yaml:"least"` // version
	} `yaml:"runtimes"`
	Registry []struct {
		Key   string `yaml:"key"`
		Name  string `yaml:"name"`
		Least *int64 `yaml:"least"` // for numbers
		Is    string `yaml:"is"`
	} `yaml:"registry"`

	free int64
}

const maxNeeds = 1 << 20 // bytes

// ReadNeeds reads a needs file. An unknown key is an error with its line.
func ReadNeeds(name string, b []byte) (*Needs, error) {
	if len(b) > maxNeeds {
		return nil, fmt.Errorf("%s: larger than 1 MiB", name)
	}
	var n Needs
	d := yaml.NewDecoder(bytes.NewReader(b))
	d.KnownFields(true)
	if err := d.Decode(&n); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
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

func (l *look) siteNeeds() {
	n := l.opt.Needs
	if n == nil {
		return
	}
	os := l.m.Facts().OS
	seen := fmt.Sprintf("%s %s build %d, %s", os.Name, os.Version, os.Build, os.Architecture)
	listed := func(list []string, v string) bool {
		return len(list) == 0 || slices.ContainsFunc(list, func(o string) bool { return strings.EqualFold(o, v) })
	}
	switch {
	case n.OS.LeastBuild > os.Build:
		l.add("site: OS", Stop, fmt.Sprintf("%s; build %d is the least", seen, n.OS.LeastBuild), "update the OS")
	case n.OS.MostBuild > 0 && n.OS.MostBuild < os.Build:
		l.add("site: OS", Stop, fmt.Sprintf("%s; build %d is the most", seen, n.OS.MostBuild), "take the version for this OS")
	case !listed(n.OS.Architectures, os.Architecture):
		l.add("site: OS", Stop, seen+"; wanted "+strings.Join(n.OS.Architectures, ", "), "take the version for this architecture")
	case !listed(n.OS.Rings, os.Ring):
		l.add("site: OS", Stop, seen+", ring "+os.Ring+"; wanted "+strings.Join(n.OS.Rings, ", "), "leave the preview ring")
	default:
		l.add("site: OS", Pass, seen, "")
	}
	for _, h := range n.Hosts {
		l.host(h)
	}
	l.siteRuntimes()
	for _, name := range n.Services {
		s, err := l.m.Service(name)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			l.add("site: service", Stop, name+" is not there", "install what brings it")
		case err != nil:
			l.add("site: service", CannotTell, err.Error(), "")
		case !s.Running:
			l.add("site: service", Stop, fmt.Sprintf("%s is stopped (start type %s)", s.Name, s.Start), "start it", step.New("service", "name", s.Name, "start", "automatic", "state", "running"))
		default:
			l.add("site: service", Pass, s.Name+" runs", "")
		}
	}
	for _, f := range n.Files {
		_, err := l.m.Stat(f)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			l.add("site: file", Stop, f+" is not there", "")
		case err != nil:
			l.add("site: file", CannotTell, err.Error(), "")
		default:
			l.add("site: file", Pass, f, "")
		}
	}
	l.siteRegistry()
}

func (l *look) siteRuntimes() {
	found := l.runtimes()
	for _, r := range l.opt.Needs.Runtimes {
		versions := found[r.Name]
		enough := slices.ContainsFunc(versions, func(v string) bool { return !older(v, r.Least) })
		switch {
		case enough:
			l.add("site: runtime", Pass, r.Name+" "+strings.Join(versions, ", "), "")
		case versions == nil:
			l.add("site: runtime", Stop, r.Name+" is not there; wanted "+r.Least, "install it")
		default:
			l.add("site: runtime", Stop, fmt.Sprintf("%s is %s; wanted %s", r.Name, strings.Join(versions, ", "), r.Least), "update it")
		}
	}
}

// older compares versions number by number.
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

func (l *look) siteRegistry() {
	for _, r := range l.opt.Needs.Registry {
		name := r.Key + ", " + r.Name
		v, there, err := l.text(r.Key, r.Name)
		number, bad := strconv.ParseInt(v, 10, 64)
		switch {
		case err != nil:
			l.add("site: registry", CannotTell, err.Error(), "")
		case !there:
			l.add("site: registry", Stop, name+" is not there", "")
		case r.Least != nil && (bad != nil || number < *r.Least):
			l.add("site: registry", Stop, fmt.Sprintf("%s is %s, wanted at least %d", name, v, *r.Least), "")
		case r.Is != "" && r.Is != v:
			l.add("site: registry", Stop, fmt.Sprintf("%s is %q, wanted %q", name, v, r.Is), "")
		default:
			l.add("site: registry", Pass, name+" is "+v, "")
		}
	}
}
