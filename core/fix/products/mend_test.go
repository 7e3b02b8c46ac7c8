package products_test

import (
	"maps"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/fix/products"
	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/package/installdb"
)

// half is a machine with one product, of whose registration a part was taken
// away.
func half(t *testing.T, without ...string) (files map[string]string, code string) {
	t.Helper()
	s := &shop{t: t, files: map[string]string{}, away: t.TempDir()}
	s.product(1, products.Sound)
	text := s.reg.String()
	for _, gone := range without {
		var kept []string
		for block := range strings.SplitSeq(text, "\n\n") {
			if !strings.HasPrefix(block, "["+gone) {
				kept = append(kept, block)
			}
		}
		text = strings.Join(kept, "\n\n")
	}
	s.files["twin.yaml"] = "name: D32\nos: { name: Windows, version: '10.0', build: 19045, architecture: x64 }\ndrives: [{ letter: 'C:', kind: fixed, size: 100 GB, free: 50 GB }]\nelevated: true\n"
	s.files["registry/machine.reg"] = twintest.Registry(text)
	s.files["disk/C/Deploy/tool.msi"] = s.files[cacheDir+"a0001.msi"]
	return s.files, s.made[0].code
}

// The engine's list is written from the product's own package with the values
// that a real engine writes, and undo takes every one of them back.
func TestTheEnginesListIsWrittenAnew(t *testing.T) {
	files, code := half(t, classes)
	m := twintest.Make(t, files)
	before := disk(t, m)
	list, err := products.Read(m)
	must(t, err)
	p := list.Meant(code)
	if len(p) != 1 || p[0].Health != products.HalfRemoved {
		t.Fatalf("%+v", p)
	}
	md, err := list.Mend(p[0], nil)
	must(t, err)
	plan, err := fix.DraftNamed(m, md.Title, md.Steps...)
	must(t, err)
	j, err := fix.OpenJournal(filepath.Join(t.TempDir(), "case"), func() time.Time { return time.Date(2026, 5, 4, 10, 0, 0, 0, time.UTC) })
	must(t, err)
	must(t, plan.Apply(m, j))

	packed := installdb.PackCode(code)
	key := `HKLM\SOFTWARE\Classes\Installer\Products\` + packed
	for at, want := range map[string]string{
		key + "|ProductName": "Harbour Tool 1", key + "|Language": "1033", key + "|Version": "16908291", // 1.2.3
		key + "|PackageCode": installdb.PackCode("{1A2B3C4D-0001-4000-8000-00000000B001}"),
		key + "|Assignment":  "1", key + "|AdvertiseFlags": "388", key + "|InstanceType": "0", key + "|DeploymentFlags": "3",
		key + `\SourceList|LastUsedSource`: `n;1;C:\Deploy\`, key + `\SourceList\Net|1`: `C:\Deploy\`, key + `\SourceList\Media|1`: ";",
		`HKLM\SOFTWARE\Classes\Installer\Features\` + packed + "|Main": "",
	} {
		place, name, _ := strings.Cut(at, "|")
		v, err := m.Value(place, name)
		if err != nil || v.Words() != want {
			t.Errorf("%s: %q, %v; want %q", at, v.Words(), err, want)
		}
	}
	upgrade := `HKLM\SOFTWARE\Classes\Installer\UpgradeCodes\` + installdb.PackCode("{0F0F0F0F-1111-4222-8333-444455556666}")
	if _, err := m.Value(upgrade, packed); err != nil {
		t.Errorf("the upgrade code does not lead to it: %v", err)
	}
	again, err := products.Read(m)
	must(t, err)
	if p := again.Meant(code); len(p) != 1 || p[0].Health != products.Sound {
		t.Errorf("after mending: %+v", p)
	}
	for _, i := range j.LastPlan(m.Name()) {
		must(t, j.Undo(m, i.Change, false))
	}
	if now := disk(t, m); !maps.Equal(now, before) {
		t.Error("undo leaves something")
	}
}

// What is entered among the installed programs is what the engine's own data
// says, in the view of the package's processor.
func TestEnteredAgain(t *testing.T) {
	for template, key := range map[string]string{"x64;1033": `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\`,
		"Intel;1033": `HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall\`} {
		files, code := half(t, entryKey)
		files[cacheDir+"a0001.msi"] = ofTemplate(t, code, template)
		m := twintest.Make(t, files)
		list, err := products.Read(m)
		must(t, err)
		md, err := list.Mend(list.Meant(code)[0], nil)
		must(t, err)
		names := map[string]string{}
		for _, s := range md.Steps {
			value := s["registry"]
			if value["key"] != key+code {
				t.Errorf("%s: writes %s, want %s", template, value["key"], key+code)
			}
			names[value["name"]] = value["value"]
		}
		if names["DisplayName"] != "Harbour Tool 1" || names["DisplayVersion"] != "1.2.3" || names["LocalPackage"] != "" {
			t.Errorf("%s: %v", template, names)
		}
	}
}

// ofTemplate is the shop's package with another processor.
func ofTemplate(t *testing.T, code, template string) string {
	t.Helper()
	s := &shop{t: t, template: template}
	return s.pack("Harbour Tool 1", code, strings.Replace(code, "A001}", "B001}", 1))
}

// Without the very package nothing is made up: the package is asked for.
func TestNothingIsMadeUp(t *testing.T) {
	files, code := half(t, classes)
	delete(files, cacheDir+"a0001.msi")
	delete(files, "disk/C/Deploy/tool.msi")
	m := twintest.Make(t, files)
	list, err := products.Read(m)
	must(t, err)
	md, err := list.Mend(list.Meant(code)[0], nil)
	must(t, err)
	if len(md.Steps) != 0 || len(md.Needs) == 0 {
		t.Errorf("%d steps, needs %v", len(md.Steps), md.Needs)
	}
}
