// Package choose picks, out of a folder with several setups of one product, the
// one for a machine: by processor, by what it demands of the OS, by language,
// and by version.
package choose

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/apppack"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
)

// ErrNone says that a folder has no setup at all.
var ErrNone = errors.New("no package lies there")

// most bounds how many files of a folder are opened.
const most = 500

// A Candidate is one setup of a folder.
type Candidate struct {
	Path     string   `json:"path"`     // of this computer
	Product  string   `json:"product"`  // its name
	Version  string   `json:"version"`  // of the product
	Platform string   `json:"platform"` // as it says itself
	Fits     bool     `json:"fits"`     // nothing speaks against it on this machine
	Against  []string `json:"against"`  // what does
	For      []string `json:"for"`      // what sets it before others
	native   bool     // of the machine's own processor
	language int      // 2: the machine's, 1: neutral, 0: another
}

// From looks at the packages and app packages of a folder, the one to take
// first. Those that do not fit come last.
func From(folder string, m machine.Machine) ([]Candidate, error) {
	at := placeOf(folder, m)
	list, err := at.list(folder)
	if err != nil {
		return nil, err
	}
	var all []Candidate
	var bad error // the first file that could not be read
	for _, path := range list {
		if len(all) >= most {
			break
		}
		read := ofPackage
		switch {
		case isApp(path):
			read = ofApp
		case !strings.HasSuffix(strings.ToLower(path), ".msi"):
			continue
		}
		f, err := at.open(path)
		if err == nil {
			var c Candidate
			if c, err = read(f, path, m); err == nil {
				all = append(all, c)
			}
			f.Close()
		}
		if err != nil && bad == nil {
			bad = fmt.Errorf("%s: %w", path, err)
		}
	}
	if len(all) == 0 {
		return nil, errors.Join(fmt.Errorf("%s: %w", folder, ErrNone), bad)
	}
	slices.SortStableFunc(all, func(a, b Candidate) int {
		return cmp.Or(-compare(a.Fits, b.Fits), -compare(a.native, b.native), cmp.Compare(b.language, a.language),
			older(a.Version, b.Version), cmp.Compare(a.Path, b.Path))
	})
	return all, oneProduct(all)
}

// ErrSeveral says that the setups of a folder are of several products.
var ErrSeveral = errors.New("setups of several products lie there")

// oneProduct refuses setups of several products that fit: which of them is
// meant, only a person knows.
func oneProduct(all []Candidate) error {
	for _, c := range all {
		if c.Fits && !strings.EqualFold(c.Product, all[0].Product) {
			return fmt.Errorf("%w: %s (%s) and %s (%s)\nhint: name the file", ErrSeveral, all[0].Path, all[0].Product, c.Path, c.Product)
		}
	}
	return nil
}

// compare puts what is true behind what is not, for a sort.
func compare(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return 1
	}
	return -1
}

// older puts the newer version first.
func older(a, b string) int {
	switch {
	case apppack.Less(a, b):
		return 1
	case apppack.Less(b, a):
		return -1
	}
	return 0
}

// ofPackage is what an installer package offers this machine: its product, and
// what speaks for and against it there.
func ofPackage(f file, path string, m machine.Machine) (c Candidate, err error) {
	db, err := installdb.Open(f, f.size)
	if err != nil {
		return c, err
	}
	props, err := db.Properties()
	if err != nil {
		return c, err
	}
	sum, err := db.Summary()
	if err != nil {
		return c, err
	}
	c = Candidate{Path: path, Product: props["ProductName"], Version: props["ProductVersion"],
		Platform: sum.Platform(), Against: []string{}, For: []string{}}
	if m != nil {
		c.processor(m, m.Facts().OS.Runs(c.Platform))
		c.demands(db, m)
		c.languages(sum.Languages(), m)
	}
	c.Fits = len(c.Against) == 0
	return c, nil
}

// processor notes whether a package runs on the machine's processor, and is
// made for it.
func (c *Candidate) processor(m machine.Machine, runs bool) {
	have := strings.ToLower(m.Facts().OS.Architecture)
	if !runs {
		c.Against = append(c.Against, fmt.Sprintf("it is for %s, and this machine is %s", c.Platform, have))
		return
	}
	low := strings.ToLower(c.Platform)
	c.native = have != "" && (low == have || low == "intel" && have == "x86" || low == "x64" && have == "amd64" || strings.Contains(low, have))
	if c.native {
		c.For = append(c.For, "it is made for this machine's processor, "+have)
	}
}

// demands notes the package's own conditions that fail here.
func (c *Candidate) demands(db *installdb.Database, m machine.Machine) {
	list, err := gates.Find(gates.NewWorld(db, m, nil))
	if err != nil {
		c.Against = append(c.Against, "its conditions cannot be worked out: "+err.Error())
		return
	}
	for _, g := range list {
		if g.Kind == gates.Launch && g.Answer == gates.Fails {
			c.Against = append(c.Against, fmt.Sprintf("its condition %q fails here (%s)", g.Condition, g.Says))
		}
	}
}

// languages compares a package's languages with the machine's.
func (c *Candidate) languages(list []string, m machine.Machine) {
	have := Language(m)
	for _, l := range list {
		n, err := strconv.Atoi(strings.TrimSpace(l))
		switch {
		case err == nil && n == 0:
			c.language = max(c.language, 1)
		case err == nil && have != 0 && (n == have || n&primary == have&primary):
			c.language = 2
		}
	}
	if c.language == 2 {
		c.For = append(c.For, fmt.Sprintf("it has this machine's language, %d", have))
	}
}

// primary are the bits of a language number that leave the country out.
const primary = 0x3FF

// Language is the number of the language of a machine's OS; 0 where it is not
// known.
func Language(m machine.Registry) int {
	text := machine.TextOf(m, `HKLM\SYSTEM\CurrentControlSet\Control\Nls\Language`, "InstallLanguage")
	n, err := strconv.ParseUint(text, 16, 16)
	if err != nil {
		return 0
	}
	return int(n)
}

// ofApp is the same of an app package. Without a machine to ask each one fits.
func ofApp(f file, path string, m machine.Machine) (c Candidate, err error) {
	p, err := apppack.Open(f, f.size)
	if err != nil {
		return c, err
	}
	c = Candidate{Path: path, Product: p.Name, Version: p.Version, Platform: p.Architecture, Against: []string{}, For: []string{}}
	if m == nil {
		c.Fits = true
		return c, nil
	}
	c.processor(m, p.RunsOn(m.Facts().OS))
	if build := m.Facts().OS.Build; build > 0 && !p.TakesBuild(build) {
		c.Against = append(c.Against, fmt.Sprintf("it takes later versions of the OS than build %d", build))
	}
	c.Fits = len(c.Against) == 0
	return c, nil
}
