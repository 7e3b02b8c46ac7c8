// This file writes a product's entry in the engine's list out of its own
// package, where that entry was lost.

package products

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/package/installdb"
)

// What the engine writes of each product into the list by which it finds it
// again. Source: what a real engine wrote after installing, compared value by
// value.
const (
	assignedToMachine = "1"
	advertiseFlags    = "388" // features and their files may be asked for
	deployFlags       = "3"   // installed, for the whole machine
	absentFeature     = "\x06"
)

// advertise writes the list's entry of a product from its own package, for whom
// the engine's data of it is.
func (l *List) advertise(p *Product, db *installdb.Database, at string, md *Mending) error {
	props, err := db.Properties()
	if err != nil {
		return err
	}
	sum, err := db.Summary()
	if err != nil {
		return err
	}
	packed := installdb.PackCode(p.Code)
	// For each user for whom the engine's own data has it: the list is one for
	// everybody, or one of the user's.
	for _, data := range p.data {
		sid, _, _ := strings.Cut(strings.TrimPrefix(data, userData+`\`), `\`)
		root, assignment := classesEngine, assignedToMachine
		if sid != everyoneSID {
			root, assignment = `HKU\`+sid+userEngine, "0"
		}
		key := root + `\Products\` + packed
		put := func(key, name string, t regfile.Type, words string) {
			md.Steps = append(md.Steps, valueStep(key, name, t, words))
		}
		put(key, "ProductName", regfile.String, cmp.Or(props["ProductName"], p.Name))
		put(key, "PackageCode", regfile.String, installdb.PackCode(sum.Text(installdb.SummaryRevision)))
		put(key, "Language", regfile.DWord, cmp.Or(props["ProductLanguage"], "0"))
		version, err := versionNumber(props["ProductVersion"])
		if err != nil {
			return err
		}
		put(key, "Version", regfile.DWord, version)
		put(key, "Assignment", regfile.DWord, assignment)
		put(key, "AdvertiseFlags", regfile.DWord, advertiseFlags)
		put(key, "InstanceType", regfile.DWord, "0")
		put(key, "AuthorizedLUAApp", regfile.DWord, "0")
		put(key, "DeploymentFlags", regfile.DWord, deployFlags)
		put(key, "Clients", regfile.MultiStr, ":")
		// Where the package came from is known from the product's own data, or
		// from its entry.
		source := machine.TextOf(l.m, data, "InstallSource")
		if !strings.HasSuffix(source, `\`) {
			source += `\`
		}
		name := cmp.Or(p.SourceName, machine.TextOf(l.m, data, "PackageName"), at[strings.LastIndexByte(at, '\\')+1:])
		put(key+`\SourceList`, "PackageName", regfile.String, name)
		put(key+`\SourceList`, "LastUsedSource", regfile.Expand, "n;1;"+source)
		put(key+`\SourceList\Net`, "1", regfile.Expand, source)
		put(key+`\SourceList\Media`, "1", regfile.String, ";")
		if err := l.features(db, data, func(name, words string) { put(root+`\Features\`+packed, name, regfile.String, words) }); err != nil {
			return err
		}
		if code := props["UpgradeCode"]; code != "" {
			put(root+`\UpgradeCodes\`+installdb.PackCode(code), packed, regfile.String, "")
		}
	}
	return nil
}

// features gives each feature with its parent, marked where the engine's own
// data has it as absent.
func (l *List) features(db *installdb.Database, data string, put func(name, words string)) error {
	t, err := db.TableOrEmpty("Feature")
	if err != nil {
		return err
	}
	installed := strings.TrimSuffix(data, `\InstallProperties`) + `\Features`
	for _, r := range t.Rows {
		name, words := t.Get(r, "Feature").Text, t.Get(r, "Feature_Parent").Text
		if strings.HasPrefix(machine.TextOf(l.m, installed, name), absentFeature) {
			words = absentFeature + words
		}
		put(name, words)
	}
	return nil
}

// versionNumber is a version as the engine keeps it: eight bits, eight bits,
// sixteen.
func versionNumber(version string) (string, error) {
	var n [3]uint64
	for i, part := range strings.SplitN(version, ".", 4) {
		if i == len(n) {
			break
		}
		v, err := strconv.ParseUint(part, 10, 16)
		if err != nil {
			return "", fmt.Errorf("the version %q of the package: %w", version, err)
		}
		n[i] = v
	}
	return strconv.FormatUint(n[0]<<24|n[1]<<16|n[2], 10), nil
}
