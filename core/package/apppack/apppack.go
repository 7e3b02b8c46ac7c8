// Package apppack reads app packages and bundles of them: identity, what they
// need of the OS and of other packages, and who signed them.
//
// Source: the OS's documentation of the app package manifest (schema
// "foundation" and "bundle") and of the package's parts.
package apppack

import (
	"archive/zip"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"hollowkey/core/machine"
)

const (
	// The three parts that an app package or a bundle is known by.
	manifestName = "AppxManifest.xml"
	bundleName   = "AppxMetadata/AppxBundleManifest.xml"
	signName     = "AppxSignature.p7x"
	maxManifest  = 4 << 20 // bytes; real ones have a few ten thousand
)

// ErrNoPackage says that an archive holds no manifest of an app package.
var ErrNoPackage = errors.New("the archive holds no app package's manifest")

// A Needed is another package that one depends on.
type Needed struct {
	Name      string `json:"name"`      // of the package
	Least     string `json:"least"`     // version
	Publisher string `json:"publisher"` // as certificates write it
}

// A Target is a family of devices that a package is for.
type Target struct {
	Family string `json:"family"` // Windows.Desktop and others
	Least  string `json:"least"`  // version of the OS
}

// A Package is an app package, or a bundle of them.
type Package struct {
	Name         string   `json:"name"`         // of the identity
	Display      string   `json:"display_name"` // for people, where it is no reference to a resource
	Version      string   `json:"version"`      // four numbers
	Publisher    string   `json:"publisher"`    // as certificates write it
	Architecture string   `json:"architecture"` // x64, x86, arm64, arm, neutral; of a bundle all, with commas
	Bundle       bool     `json:"bundle"`       // it holds packages
	Targets      []Target `json:"targets"`      // the least versions of the OS
	Needs        []Needed `json:"needs"`        // packages that must be there
	Signed       bool     `json:"signed"`       // a signature is in it
	Signer       string   `json:"signer"`       // subject of the certificate that signed it; empty where it cannot be read
}

type identity struct {
	Name         string `xml:",attr"`
	Version      string `xml:",attr"`
	Publisher    string `xml:",attr"`
	Architecture string `xml:"ProcessorArchitecture,attr"`
}

type manifest struct {
	Identity   identity
	Properties struct{ DisplayName string }
	Targets    []struct {
		Name       string `xml:",attr"`
		MinVersion string `xml:",attr"`
	} `xml:"Dependencies>TargetDeviceFamily"`
	Needs []struct {
		Name       string `xml:",attr"`
		MinVersion string `xml:",attr"`
		Publisher  string `xml:",attr"`
	} `xml:"Dependencies>PackageDependency"`
	Prerequisites struct{ OSMinVersion string }
}

type bundleManifest struct {
	Identity identity
	Packages []struct {
		Type         string `xml:",attr"`
		Version      string `xml:",attr"`
		Architecture string `xml:",attr"`
		FileName     string `xml:",attr"`
	} `xml:"Packages>Package"`
}

// Open reads an app package or a bundle. Of a bundle the first application
// package in it is read for what it needs. It fails for what is no zip, has no
// manifest, or holds more than such a package may.
func Open(r io.ReaderAt, size int64) (*Package, error) {
	z, err := zip.NewReader(r, size)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return nil, err
	}
	var p *Package
	switch {
	case find(z, bundleName) != nil:
		p, err = readBundle(z, r)
	case find(z, manifestName) != nil:
		p, err = readPackage(z)
	default:
		return nil, ErrNoPackage
	}
	if err != nil {
		return nil, err
	}
	if f := find(z, signName); f != nil {
		p.Signed = true
		if b, err := content(f); err == nil {
			p.Signer = signer(b)
		}
	}
	return p, nil
}

// find is a file of the archive, nil where it is not there. Names are compared
// as the OS does, and some tools write them with the other stroke.
func find(z *zip.Reader, name string) *zip.File {
	for _, f := range z.File {
		if strings.EqualFold(strings.ReplaceAll(f.Name, `\`, "/"), name) {
			return f
		}
	}
	return nil
}

// content reads a small entry.
func content(f *zip.File) ([]byte, error) {
	in, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer in.Close()
	b, err := io.ReadAll(io.LimitReader(in, maxManifest+1))
	if err == nil && len(b) > maxManifest {
		err = fmt.Errorf("%s has more than %d bytes", f.Name, maxManifest)
	}
	return b, err
}

// readPackage reads what one package says of itself in its manifest.
func readPackage(z *zip.Reader) (*Package, error) {
	b, err := content(find(z, manifestName))
	if err != nil {
		return nil, err
	}
	var m manifest
	if err := xml.Unmarshal(b, &m); err != nil {
		return nil, fmt.Errorf("%s: %w", manifestName, err)
	}
	p := &Package{Name: m.Identity.Name, Version: m.Identity.Version, Publisher: m.Identity.Publisher,
		Architecture: strings.ToLower(m.Identity.Architecture),
		Targets:      []Target{}, Needs: []Needed{}}
	if p.Name == "" {
		return nil, fmt.Errorf("%s names no package", manifestName)
	}
	if p.Architecture == "" {
		p.Architecture = "neutral"
	}
	if !strings.HasPrefix(m.Properties.DisplayName, "ms-resource:") {
		p.Display = m.Properties.DisplayName
	}
	for _, t := range m.Targets {
		p.Targets = append(p.Targets, Target{t.Name, t.MinVersion})
	}
	if len(p.Targets) == 0 && m.Prerequisites.OSMinVersion != "" {
		p.Targets = append(p.Targets, Target{"Windows.Universal", m.Prerequisites.OSMinVersion})
	}
	for _, n := range m.Needs {
		p.Needs = append(p.Needs, Needed{n.Name, n.MinVersion, n.Publisher})
	}
	return p, nil
}

// readBundle reads a bundle's manifest, and one of its packages for the rest.
func readBundle(z *zip.Reader, r io.ReaderAt) (*Package, error) {
	b, err := content(find(z, bundleName))
	if err != nil {
		return nil, err
	}
	var m bundleManifest
	if err := xml.Unmarshal(b, &m); err != nil {
		return nil, fmt.Errorf("%s: %w", bundleName, err)
	}
	p := &Package{Name: m.Identity.Name, Version: m.Identity.Version, Publisher: m.Identity.Publisher, Bundle: true,
		Targets: []Target{}, Needs: []Needed{}}
	if p.Name == "" {
		return nil, fmt.Errorf("%s names no package", bundleName)
	}
	var kinds []string
	for _, one := range m.Packages {
		if !strings.EqualFold(one.Type, "application") {
			continue
		}
		kinds = append(kinds, strings.ToLower(one.Architecture))
		f := find(z, one.FileName)
		if f == nil || len(p.Targets) > 0 || f.Method != zip.Store { // packages in bundles are stored
			continue
		}
		at, err := f.DataOffset()
		if err != nil {
			return nil, err
		}
		size := int64(f.UncompressedSize64)
		inner, err := zip.NewReader(io.NewSectionReader(r, at, size), size)
		if err != nil || find(inner, manifestName) == nil {
			continue
		}
		if in, err := readPackage(inner); err == nil {
			p.Targets, p.Needs, p.Display = in.Targets, in.Needs, in.Display
		}
	}
	p.Architecture = strings.Join(kinds, ", ")
	return p, nil
}

// Less says whether a version of up to four numbers is older than another; what
// is no number counts as 0.
func Less(a, b string) bool {
	x, y := numbers(a), numbers(b)
	for i := range x {
		if x[i] != y[i] {
			return x[i] < y[i]
		}
	}
	return false
}

// numbers are the four parts of a version; what is missing or no number counts
// as zero, as the OS has it.
func numbers(version string) (n [4]uint64) {
	for i, part := range strings.SplitN(version, ".", len(n)) {
		n[i], _ = strconv.ParseUint(strings.TrimSpace(part), 10, 64)
	}
	return n
}

// RunsOn says whether a package, or one of a bundle, runs on an OS's processor.
func (p *Package) RunsOn(os machine.OS) bool {
	for a := range strings.SplitSeq(p.Architecture, ", ") {
		if a == "neutral" || a != "arm" && os.Runs(a) || a == "arm" && strings.EqualFold(os.Architecture, "arm64") {
			return true
		}
	}
	return false
}

// TakesBuild says whether a package takes desktops of a build of the OS; one
// that names no version takes all.
func (p *Package) TakesBuild(build int) bool {
	have := fmt.Sprintf("10.0.%d.65535", build)
	for _, t := range p.Targets {
		if (strings.EqualFold(t.Family, "Windows.Desktop") || strings.EqualFold(t.Family, "Windows.Universal")) && !Less(have, t.Least) {
			return true
		}
	}
	return len(p.Targets) == 0
}
