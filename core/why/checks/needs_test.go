package checks_test

import (
	"strings"
	"testing"

	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/why/checks"
)

// Products that a site wants there, in a range of versions, or not there at
// all.
func TestProductsOfASite(t *testing.T) {
	entry := func(name, version string) string {
		return "\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\Uninstall\\" + name + version +
			"]\n\"DisplayName\"=\"" + name + "\"\n\"DisplayVersion\"=\"" + version + "\"\n"
	}
	for _, tt := range []struct {
		there, needs string
		answer       checks.State
		seen         string
	}{
		{entry("Quay Planner", "4.2.0"), `{ name: quay planner, least: "4.0", most: "4.9" }`, checks.Pass, "Quay Planner 4.2.0"},
		{entry("Quay Planner", "4.9"), `{ name: Quay Planner, most: "4.9.0" }`, checks.Pass, "4.9"},
		{entry("Quay Planner", "4.10"), `{ name: Quay Planner, most: "4.9" }`, checks.Stop, "4.9 at most"},
		{entry("Quay Planner", "3.9.1"), `{ name: Quay Planner, least: "4" }`, checks.Stop, "4 at least"},
		{entry("Quay Planner", "5.0"), `{ name: Quay Planner, least: "4", most: "4.9" }`, checks.Stop, "4 to 4.9"},
		{entry("Quay Planner", "3.0") + entry("Quay Planner", "4.1"), `{ name: Quay Planner, least: "4" }`, checks.Pass, "Quay Planner 3.0, Quay Planner 4.1"},
		{entry("Quay Suite", "1"), `{ name: Quay Planner }`, checks.Stop, "is not installed"},
		{entry("Quay Suite", "1"), `{ name: Quay Suite, absent: true }`, checks.Stop, "must not be"},
		{"", `{ name: Quay Suite, absent: true }`, checks.Pass, "is not installed"},
		{entry("Quay Planner", "v4.5"), `{ name: Quay Planner, least: "4.0", most: "4.9" }`, checks.Pass, "v4.5"},
		{entry("Quay Planner", "4, 5, 0, 1"), `{ name: Quay Planner, least: "4.5.0.2" }`, checks.Stop, "at least"},
		{entry("Quay Planner", "4.5-beta2 (build 17)"), `{ name: Quay Planner, least: "4.5" }`, checks.Pass, ""},
		{entry("Quay Planner", ""), `{ name: Quay Planner, least: "4.5" }`, checks.Unknown, "not registered"},
		{entry("Quay Planner", ""), `{ name: Quay Planner }`, checks.Pass, ""},
		{entry("Quay Planner 4.5 (64-bit)", "4.5"), `{ name: Quay Planner, least: "4.5" }`, checks.Pass, "(64-bit)"},
		{entry("Quay® Planner x64", "4.5"), `{ name: Quay Planner, absent: true }`, checks.Stop, "must not be"},
		{entry("Quay Suite 2019", "16.0"), `{ name: Quay Suite, absent: true }`, checks.Stop, "Quay Suite 2019"},
		{entry("Quay Planner Help Pack", "4.5"), `{ name: Quay Planner }`, checks.Stop, "is not installed"},
		{entry("Sync for Quay Planner", "4.5"), `{ name: Quay Planner, absent: true }`, checks.Pass, ""},
		{entry("Radio 11", "11.0"), `{ name: Radio 1 }`, checks.Stop, "is not installed"},
		{entry("Quay Suite 2019", "16.0"), `{ name: "quay*", absent: true }`, checks.Stop, "must not be"},
		{entry("Outer Quay", "1"), `{ name: "Quay*", absent: true }`, checks.Pass, ""},
		{entry("Quay Suite", "2.0"), `{ name: Quay Suite, absent: true, most: "3" }`, checks.Stop, "3 at most must not be"},
		{entry("Quay Suite", "4.0"), `{ name: Quay Suite, absent: true, most: "3" }`, checks.Pass, "is installed; only"},
	} {
		m := twintest.Make(t, map[string]string{"twin.yaml": "name: T\n",
			"registry/machine.reg": "Windows Registry Editor Version 5.00\n" + tt.there})
		needs, err := checks.ReadNeeds("needs.yaml", []byte("products: ["+tt.needs+"]\n"))
		if err != nil {
			t.Fatal(err)
		}
		found := false
		for _, f := range checks.Ready(m, checks.Options{Needs: needs}) {
			if f.Name == "site: product" {
				found = true
				if f.Answer != tt.answer || !strings.Contains(f.Seen, tt.seen) {
					t.Errorf("%s: %s, %q; want %s, %q", tt.needs, f.Answer, f.Seen, tt.answer, tt.seen)
				}
			}
		}
		if !found {
			t.Errorf("%s: nothing was asked", tt.needs)
		}
	}
	for _, bad := range []string{"products: [{ absent: true }]", "products: [{ name: X, least: new }]"} {
		if _, err := checks.ReadNeeds("needs.yaml", []byte(bad)); err == nil {
			t.Errorf("%s: no error", bad)
		}
	}
}
