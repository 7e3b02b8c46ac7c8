// This file works out which installed products a package finds.

package gates

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/package/installdb"
)

// The bits of Upgrade.Attributes. Source: the platform SDK, "Upgrade Table".
const (
	upgradeOnlyDetect = 0x002
	upgradeMinIn      = 0x100
	upgradeMaxIn      = 0x200
)

// related works out what FindRelatedProducts puts into a property; ok is false
// when no row of the Upgrade table is for it.
func (w *World) related(property string) (Known, bool) {
	t := w.table("Upgrade")
	out, any := Known{Origin: Related}, false
	for _, r := range t.Rows {
		if t.Get(r, "ActionProperty").Text != property {
			continue
		}
		k := w.relatedRow(t, r)
		if k.Text != "" || k.Unknown || !any {
			out = k
		}
		any = true
		if k.Text != "" || k.Unknown {
			break
		}
	}
	return out, any
}

// A product is one that the engine has registered.
type product struct{ code, name, version string } // as it is registered on the machine

// relatedRow finds the installed products that a row of the Upgrade table is
// about.
func (w *World) relatedRow(t *installdb.Table, r installdb.Row) Known {
	code := t.Get(r, "UpgradeCode").Text
	if w.m == nil {
		return unknown(Related, "products with the upgrade code "+code+"; name a machine with --machine")
	}
	list, err := w.installed(code)
	if err != nil {
		return unknown(Related, "the registered products cannot be read: "+bounded.Words(err))
	}
	least, most := t.Get(r, "VersionMin").Text, t.Get(r, "VersionMax").Text
	bits := int(t.Get(r, "Attributes").Int)
	own, _ := w.stored("ProductCode")
	// A row is about other products: the one that is being set up never counts.
	for _, p := range list {
		if strings.EqualFold(p.code, own) {
			continue
		}
		// The bits say whether the bounds themselves are in the range.
		low, high := compareVersions(p.version, least), compareVersions(p.version, most)
		if least != "" && (low < 0 || low == 0 && bits&upgradeMinIn == 0) || most != "" && (high > 0 || high == 0 && bits&upgradeMaxIn == 0) {
			continue
		}
		return known(p.code, Related, fmt.Sprintf("%s %s is installed on %s", p.name, p.version, w.m.Name()))
	}
	what := "such version"
	if ours, _ := w.stored("UpgradeCode"); !strings.EqualFold(ours, code) {
		what = "product with the upgrade code " + code
		if least != "" {
			what += ", version " + least + " or later,"
		}
	}
	return Known{Origin: Related, Detail: fmt.Sprintf("no %s is installed on %s", what, w.m.Name())}
}

// installed lists the products registered under an upgrade code.
func (w *World) installed(upgrade string) (list []product, err error) {
	const root = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\`
	codes, err := w.m.Values(root + `Installer\UpgradeCodes\` + installdb.PackCode(upgrade))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	for _, v := range codes {
		p := product{code: installdb.UnpackCode(v.Name)}
		key := root + `Installer\UserData\S-1-5-18\Products\` + v.Name + `\InstallProperties`
		if n, err := w.m.Value(key, "DisplayName"); err == nil {
			p.name = n.Words()
		}
		if n, err := w.m.Value(key, "DisplayVersion"); err == nil {
			p.version = n.Words()
		}
		list = append(list, p)
	}
	return list, nil
}

// compareVersions compares the first three parts of versions, as the engine
// does.
func compareVersions(a, b string) int {
	part := func(s string) []int {
		var n [3]int
		for i, p := range strings.SplitN(s, ".", 4) {
			if i < 3 {
				n[i], _ = strconv.Atoi(p)
			}
		}
		return n[:]
	}
	return slices.Compare(part(a), part(b))
}
