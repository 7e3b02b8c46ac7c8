// This file registers products, features and components.

package rehearse

import (
	"cmp"
	"fmt"
	"hash/fnv"
	"io"
	"os"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/package/installdb"
)

// What the engine keeps of products. Source: the keys that its own interface
// reads; see core/package/cached.
const (
	userData  = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UserData\S-1-5-18\`
	products  = `HKLM\SOFTWARE\Classes\Installer\Products\`
	upgrades  = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UpgradeCodes\`
	uninstall = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\`
	cacheRoot = `C:\Windows\Installer\`
)

// isRegistered asks for the product as the engine does: by its properties for
// the whole machine. A per-user registration is another one's.
func (s *session) isRegistered(code string) bool {
	there, err := s.m.KeyExists(userData + `Products\` + installdb.PackCode(code) + `\InstallProperties`)
	return err == nil && there
}

// registeredPackage is the package code of a registered product.
func (s *session) registeredPackage(code string) string {
	if p := machine.TextOf(s.m, products+installdb.PackCode(code), "PackageCode"); p != "" {
		return installdb.UnpackCode(p)
	}
	return ""
}

// registered gives the cached package of a product.
func (s *session) registered(code string) (string, error) {
	if !s.isRegistered(code) {
		return "", &stop{exit: exitUnknownProduct, text: "This action is only valid for products that are currently installed."}
	}
	cached := machine.TextOf(s.m, userData+`Products\`+installdb.PackCode(code)+`\InstallProperties`, "LocalPackage")
	if _, err := s.m.Stat(cached); cached == "" || err != nil {
		source := machine.TextOf(s.m, products+installdb.PackCode(code)+`\SourceList`, "PackageName")
		return "", &stop{exit: exitNoSource, message: 1706, detail: "2: -2147483647 3: " + source,
			text: "No valid source could be found for product " +
				machine.TextOf(s.m, userData+`Products\`+installdb.PackCode(code)+`\InstallProperties`, "DisplayName") +
				".  The Windows Installer cannot continue."}
	}
	return cached, nil
}

// installedComponents are the components that the product has on the machine.
func (s *session) installedComponents() map[string]bool {
	out := map[string]bool{}
	product := installdb.PackCode(s.props["ProductCode"])
	list, err := s.m.Subkeys(userData + "Components")
	if err != nil {
		return out
	}
	for _, c := range list {
		if machine.TextOf(s.m, userData+`Components\`+c, product) != "" {
			out[strings.ToUpper(installdb.UnpackCode(c))] = true
		}
	}
	return out
}

// text makes a registry value of a text.
func text(t string) *regfile.Value {
	v, _ := regfile.Make(regfile.String, t)
	return &v
}

// processComponents records which product uses which component, with its key
// path; by this the engine knows what a later removal may take away.
func (s *session) processComponents() error {
	product := installdb.PackCode(s.props["ProductCode"])
	for _, c := range s.each(stateLocal) {
		if c.id == "" {
			continue
		}
		path := cmp.Or(s.symbol("#"+c.key), s.dirs[c.dir])
		s.setValue("ProcessComponents", userData+`Components\`+installdb.PackCode(c.id), product, text(path))
	}
	for _, c := range s.each(stateAbsent) {
		if c.id != "" {
			s.dropValue("ProcessComponents", userData+`Components\`+installdb.PackCode(c.id), product)
		}
	}
	return nil
}

// registerProduct enters the product among the installed programs, or takes it
// out.
func (s *session) registerProduct() error {
	code := s.props["ProductCode"]
	entry := uninstall + code
	// A 32-bit package is listed in the 32-bit view, on a machine that has two.
	if sum, err := s.db.Summary(); err == nil && !strings.Contains(sum.Platform(), "64") &&
		strings.Contains(s.m.Facts().OS.Architecture, "64") {
		entry = strings.Replace(entry, `SOFTWARE\`, `SOFTWARE\WOW6432Node\`, 1)
	}
	own := userData + `Products\` + installdb.PackCode(code) + `\InstallProperties`
	if s.req.Mode == Uninstall {
		if cached := machine.TextOf(s.m, own, "LocalPackage"); cached != "" {
			s.editFile("RegisterProduct", cached, fmt.Sprintf("ProductUnregister(UpgradeCode=%s)", s.props["UpgradeCode"]),
				func([]byte) ([]byte, error) { return nil, nil })
		}
		for _, k := range []string{entry, own} {
			values, err := s.m.Values(k)
			if err != nil {
				continue
			}
			for _, v := range values {
				s.dropValue("RegisterProduct", k, v.Name)
			}
		}
		return nil
	}
	cached := machine.TextOf(s.m, own, "LocalPackage")
	// A name that stays the same for the same package, so that two rehearsals
	// of one setup write one log.
	if cached == "" {
		h := fnv.New32a()
		h.Write([]byte(code + s.props["OriginalDatabase"]))
		cached = fmt.Sprintf(`%s%x.msi`, cacheRoot, h.Sum32()&0xFFFFFF)
	}
	s.cachePackage(cached)
	for _, k := range []string{entry, own} {
		for _, v := range [][2]string{{"DisplayName", s.props["ProductName"]}, {"DisplayVersion", s.props["ProductVersion"]},
			{"Publisher", s.props["Manufacturer"]}, {"InstallSource", s.source},
			{"InstallLocation", s.props["ARPINSTALLLOCATION"]}, {"UninstallString", "MsiExec.exe /X" + code}} {
			s.setValue("RegisterProduct", k, v[0], text(v[1]))
		}
	}
	s.setValue("RegisterProduct", own, "LocalPackage", text(cached))
	return nil
}

// cachePackage copies the package into the engine's folder.
func (s *session) cachePackage(cached string) {
	s.makeFolder("RegisterProduct", cacheRoot)
	s.copyOnMachine("RegisterProduct", s.props["OriginalDatabase"], cached)
}

// copyOnMachine copies a file of the machine to a place where none is yet.
func (s *session) copyOnMachine(action, from, to string) {
	made := false
	s.add(op{action: action, line: fmt.Sprintf("DatabaseCopy(DatabasePath=%s,ProductCode=%s,,,)", from, s.props["ProductCode"]),
		do: func() error {
			if _, err := s.m.Stat(to); err == nil {
				return nil
			}
			in, err := s.m.Open(from)
			if err != nil {
				return err
			}
			defer in.Close()
			made = true
			return s.m.WriteFile(to, func(out *os.File) error {
				_, err := io.Copy(out, in)
				return err
			})
		},
		back: func() error {
			if !made {
				return nil
			}
			return ignoreAbsent(s.m.RemoveFile(to))
		}})
}

// publishProduct writes what lets the engine find the product again: its names,
// its package, where it came from, and its place under the upgrade code.
// Removing it takes the same values away, and keys only when nothing else is
// left in them.
func (s *session) publishProduct() error {
	code := s.props["ProductCode"]
	packed := installdb.PackCode(code)
	key, upgrade := products+packed, upgrades+installdb.PackCode(s.props["UpgradeCode"])
	if s.req.Mode == Uninstall {
		for _, k := range []string{key + `\SourceList`, key} {
			if values, err := s.m.Values(k); err == nil {
				for _, v := range values {
					s.dropValue("PublishProduct", k, v.Name)
				}
			}
		}
		// The list of an upgrade code is by what a later version finds this
		// one.
		if s.props["UpgradeCode"] != "" {
			s.dropValue("PublishProduct", upgrade, packed)
		}
		return nil
	}
	sum, err := s.db.Summary()
	if err != nil {
		return err
	}
	file := s.props["OriginalDatabase"]
	s.setValue("PublishProduct", key, "ProductName", text(s.props["ProductName"]))
	s.setValue("PublishProduct", key, "PackageCode", text(installdb.PackCode(sum.Text(installdb.SummaryRevision))))
	s.setValue("PublishProduct", key+`\SourceList`, "PackageName", text(file[strings.LastIndexByte(file, '\\')+1:]))
	s.setValue("PublishProduct", key+`\SourceList`, "LastUsedSource", text("n;1;"+s.source))
	if s.props["UpgradeCode"] != "" {
		s.setValue("PublishProduct", upgrade, packed, text(""))
	}
	s.publishPatch()
	return nil
}

// removeExisting removes the older versions that were found, each as a run of
// its own within this one.
func (s *session) removeExisting() error {
	list, err := s.rows("Upgrade")
	if err != nil {
		return err
	}
	for _, r := range list {
		const onlyDetect, ignoreFailure = 0x002, 0x004
		if r.number("Attributes")&onlyDetect != 0 {
			continue
		}
		for code := range strings.SplitSeq(s.props[r.text("ActionProperty")], ";") {
			if code == "" {
				continue
			}
			if err := s.removeOld(code, r.number("Attributes")&ignoreFailure != 0); err != nil {
				return err
			}
		}
	}
	return nil
}

// removeOld removes an older version as a setup within this one. Where the new
// package says that failures are ignored, they are told and passed over.
func (s *session) removeOld(code string, ignore bool) error {
	if s.depth+1 >= maxDepth {
		return fmt.Errorf("removals within one another, more than %d deep", maxDepth)
	}
	inner := &session{m: s.m, log: s.log, depth: s.depth + 1,
		req: Request{Package: code, Mode: Uninstall, User: s.req.User, Started: s.log.now,
			Properties: map[string]string{"UPGRADINGPRODUCTCODE": s.props["ProductCode"]}}}
	s.log.server("Resetting cached policy values")
	name := machine.TextOf(s.m, userData+`Products\`+installdb.PackCode(code)+`\InstallProperties`, "DisplayName")
	res, err := inner.run()
	s.res.Assumed = append(s.res.Assumed, res.Assumed...)
	if err != nil {
		return err
	}
	switch {
	case res.Exit == exitRestart:
		s.restart = true
	case res.Exit != 0 && !ignore:
		return &stop{message: 1714, detail: fmt.Sprintf("2: %s 3: %d", name, res.Exit),
			text: fmt.Sprintf("The older version of %s cannot be removed.  Contact your technical support group.  System Error %d.", name,
				res.Exit)}
	}
	return nil
}
