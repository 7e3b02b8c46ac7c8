// This file asks whether the setup file itself is good: whole, for this
// machine, signed as it says.

package checks

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/package/apppack"
	"hollowkey/core/package/cached"
	"hollowkey/core/package/installdb"
)

// setupFile says what is wrong with the setup file itself.
func (l *look) setupFile() (all []Finding) {
	const name = "setup file"
	r := l.opt.File
	if r == nil {
		return nil
	}
	for _, f := range r.Faults {
		all = append(all, Finding{Name: name, Answer: Stop, Seen: f.Seen, Mend: "fetch it again from where it " +
			"comes, whole, and compare its size"})
	}
	for _, words := range r.Remarks {
		all = append(all, Finding{Name: name, Answer: Warn, Seen: words})
	}
	if len(r.Faults) == 0 {
		seen := fmt.Sprintf("it is whole, %d bytes", r.Bytes)
		if r.Signature != "" {
			seen += "; its signature: " + r.Signature
		}
		all = append(all, pass(name, "%s", seen))
	}
	return all
}

// mostStale bounds how many folders of a temporary folder are looked into.
const mostStale = 2000

// staleCopies looks for other packages of the same product that an earlier run
// unpacked into the temporary folder: a setup program may take such a one for
// its own.
func (l *look) staleCopies() (all []Finding) {
	const name = "copies of earlier runs"
	temp := l.temporary()
	if l.opt.Package == nil || temp == "" {
		return nil
	}
	own, err := l.opt.Package.Properties()
	if err != nil {
		return nil
	}
	code := ""
	if s, err := l.opt.Package.Summary(); err == nil {
		code = s.Text(installdb.SummaryRevision)
	}
	// Setup programs unpack into the temporary folder, or one level below it.
	folders := []string{temp}
	list, err := l.m.ReadDir(temp)
	if err != nil {
		return nil
	}
	for _, i := range list {
		if i.Folder && len(folders) < mostStale {
			folders = append(folders, i.Path)
		}
	}
	for _, folder := range folders {
		files, err := l.m.ReadDir(folder)
		if err != nil {
			continue
		}
		for _, f := range files {
			if f.Folder || !strings.HasSuffix(strings.ToLower(f.Path), ".msi") {
				continue
			}
			id, err := cached.IdentifyOn(l.m, f.Path)
			if err != nil || strings.EqualFold(id.Code, code) || !strings.EqualFold(id.Name, own["ProductName"]) {
				continue
			}
			all = append(all, Finding{Name: name, Answer: Warn, Seen: fmt.Sprintf("%s is another package of %s "+
				"(%s); a setup program that unpacks there may take it for its own", f.Path, id.Name, id.Code),
				Mend: "set it aside before the setup runs"})
		}
	}
	return all
}

// appPackage asks what an app package needs of the machine.
func (l *look) appPackage() (all []Finding) {
	p := l.opt.App
	if p == nil {
		return nil
	}
	all = append(all, l.appOS(p), l.appArchitecture(p), l.appSigner(p))
	installed := apppack.Of(l.m, "HKCU")
	all = append(all, l.appNeeds(p, installed)...)
	// An app package goes over an older one and over nothing else.
	for _, in := range installed {
		if !strings.EqualFold(in.Name, p.Name) {
			continue
		}
		f := pass("app package: installed", "%s %s is there; this one is newer", in.Name, in.Version)
		switch {
		case apppack.Less(p.Version, in.Version):
			f.Answer, f.Seen = Stop,
				fmt.Sprintf("%s %s is there and newer than this one, %s: it ends with 0x80073D06", in.Name, in.Version, p.Version)
			f.Mend = "keep the newer one, or remove it first (its data of this user go with it)"
		case !apppack.Less(in.Version, p.Version):
			f.Answer, f.Seen = Warn,
				fmt.Sprintf("%s %s is there already; another build of the same version ends with 0x80073CFB", in.Name, in.Version)
		}
		all = append(all, f)
		if holders := l.appRunning(in); len(holders) > 0 {
			all = append(all, Finding{Name: "app package: in use", Answer: Stop,
				Seen: fmt.Sprintf("%s runs: it ends with 0x80073D02", strings.Join(holders, ", ")), Mend: "close it first"})
		}
	}
	return all
}

// appOS compares the least version of the OS that a package takes with the
// machine's.
func (l *look) appOS(p *apppack.Package) Finding {
	const name = "app package: OS"
	os := l.m.Facts().OS
	if os.Build == 0 {
		return unknown(name, "the build of the OS is not known")
	}
	var seen []string
	for _, t := range p.Targets {
		seen = append(seen, t.Family+" from "+t.Least)
	}
	switch {
	case len(seen) == 0:
		return unknown(name, "it does not say which versions of the OS it takes")
	case p.TakesBuild(os.Build):
		return pass(name, "it takes %s; this is build %d", strings.Join(seen, ", "), os.Build)
	}
	return Finding{Name: name, Answer: Stop,
		Seen: fmt.Sprintf("it takes %s; this is build %d: it ends with 0x80073CFD", strings.Join(seen, ", "), os.Build),
		Mend: "update the OS, or fetch an older version of the package"}
}

// appArchitecture asks whether an app package is for this machine's processor.
// Of a machine whose processor nobody noted it is not known, and so does not
// fail.
func (l *look) appArchitecture(p *apppack.Package) Finding {
	const name = "app package: processor"
	os := l.m.Facts().OS
	switch {
	case os.Architecture == "":
		return unknown(name, "the machine's processor is not known")
	case p.RunsOn(os):
		return pass(name, "it is for %s; this is %s", p.Architecture, os.Architecture)
	}
	return Finding{Name: name, Answer: Stop,
		Seen: fmt.Sprintf("it is for %s, and this is %s: it ends with 0x80073D10", p.Architecture, os.Architecture),
		Mend: "fetch the one for " + os.Architecture}
}

// appSigner compares who signed a package with its publisher. Whether the
// signer is trusted here only the OS can say.
func (l *look) appSigner(p *apppack.Package) Finding {
	const name = "app package: signature"
	switch {
	case !p.Signed:
		return Finding{Name: name, Answer: Stop, Seen: "it is not signed: it ends with 0x800B0100, unless " +
			"developer mode takes it", Mend: "fetch a signed one"}
	case p.Signer == "":
		return unknown(name, "its signature could not be read")
	case !sameName(p.Signer, p.Publisher):
		return Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("its publisher is %s, and %s signed it: it "+
			"ends with 0x8007000B", p.Publisher, p.Signer), Mend: "fetch it from its publisher"}
	}
	return pass(name, "%s signed it; whether this machine trusts that is not looked at", p.Signer)
}

// sameName compares two names of certificates, whose parts may stand in either
// order and with blanks or without.
func sameName(a, b string) bool {
	parts := func(s string) []string {
		var out []string
		for p := range strings.SplitSeq(s, ",") {
			key, value, _ := strings.Cut(strings.TrimSpace(p), "=")
			if key = strings.ToUpper(strings.TrimSpace(key)); key == "S" { // one of two names of a state or province
				key = "ST"
			}
			out = append(out, key+"="+strings.Trim(strings.TrimSpace(value), `"`))
		}
		slices.Sort(out)
		return out
	}
	return slices.Equal(parts(a), parts(b))
}

// appNeeds asks for each package that one depends on.
func (l *look) appNeeds(p *apppack.Package, installed []apppack.Installed) (all []Finding) {
	for _, n := range p.Needs {
		f := Finding{Name: "app package: needs", Answer: Stop,
			Seen: fmt.Sprintf("%s from %s is not there: it ends with 0x80073CF3", n.Name, n.Least),
			Mend: "install " + n.Name + " " + n.Least + " or newer first; it often lies beside the package"}
		for _, in := range installed {
			if !strings.EqualFold(in.Name, n.Name) {
				continue
			}
			if !apppack.Less(in.Version, n.Least) {
				f = pass(f.Name, "%s %s is there", in.Name, in.Version)
				break
			}
			f.Seen = fmt.Sprintf("%s is there as %s, and %s is needed: it ends with 0x80073CF3", in.Name, in.Version, n.Least)
		}
		all = append(all, f)
	}
	return all
}

// appRunning names the programs of an installed package that run.
func (l *look) appRunning(in apppack.Installed) (names []string) {
	if in.Folder == "" {
		return nil
	}
	list, err := l.m.ReadDir(in.Folder)
	if err != nil {
		return nil
	}
	var files []string
	for _, i := range list {
		if !i.Folder && strings.HasSuffix(strings.ToLower(i.Path), ".exe") {
			files = append(files, i.Path)
		}
	}
	if len(files) == 0 {
		return nil
	}
	holders, err := l.m.Holders(files...)
	if err != nil {
		return nil
	}
	for _, h := range holders {
		names = append(names, fmt.Sprintf("%s (process %d)", h.Name, h.ID))
	}
	return names
}
