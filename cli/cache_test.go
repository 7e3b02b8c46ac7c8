package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

type cacheEntry struct {
	Kind, Name, Code, State, Detail, File string
	PackageCode                           string `json:"package_code"`
}

func cacheOf(t *testing.T, dir string, code int) map[string]cacheEntry {
	t.Helper()
	m := map[string]cacheEntry{}
	for _, e := range decode[struct{ Entries []cacheEntry }](t,
		mustRun(t, dir, code, "cache", "--machine", "ELLERY-D07", "--json").out).Entries {
		m[e.Name] = e
	}
	return m
}

func TestCache(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	cached := filepath.Join(twin, "disk", "C", "Windows", "Installer")
	before := tree(t, twin)
	list := cacheOf(t, dir, 3)
	if e := list["Pilot Roster"]; e.State != "missing" || e.Code != "{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6B30}" ||
		e.PackageCode != "{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6BA2}" {
		t.Errorf("%+v", e)
	}
	if e := list["Wharfage Ledger"]; e.State != "good" {
		t.Errorf("%+v", e)
	}
	restore := func(code int, more ...string) result {
		return mustRun(t, dir, code, append([]string{"cache", "restore", "--from", "share", "--machine", "ELLERY-D07"}, more...)...)
	}
	restore(0, "--preview")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("the preview changed %v", d)
	}
	half, err := os.ReadFile(filepath.Join(cached, "2c71a.msi"))
	if err != nil {
		t.Fatal(err)
	}
	named := filepath.Join(dir, "share", "pilot-roster.msi")
	whole, err := os.ReadFile(named)
	if err != nil {
		t.Fatal(err)
	}
	write(t, dir, filepath.Join("share", "pilot-roster.msi"), string(half[:len(half)/2]))
	if r := mustRun(t, dir, 3, "cache", "restore", "--from", "share/pilot-roster.msi",
		"--machine", "ELLERY-D07"); !strings.Contains(strings.Join(strings.Fields(r.out), " "),
		"has the name of one that is looked for, and is damaged") {
		t.Errorf("a damaged file of that name is not told:\n%s", r.out)
	}
	write(t, dir, filepath.Join("share", "pilot-roster.msi"), string(whole))
	if r := restore(0, "--yes"); !strings.Contains(r.out, "inside: carried/at-547.msi") {
		t.Errorf("found by name, not by code:\n%s", r.out)
	}
	if e := cacheOf(t, dir, 0)["Pilot Roster"]; e.State != "good" {
		t.Errorf("restored: %+v", e)
	}
	mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after undo these differ: %v", d)
	}
	// Damage of other kinds; what is in the way comes back.
	ledger, err := os.ReadFile(filepath.Join(cached, "2c71a.msi"))
	if err != nil {
		t.Fatal(err)
	}
	write(t, cached, "4c1f0.msi", string(ledger))
	if e := cacheOf(t, dir, 3)["Pilot Roster"]; e.State != "wrong" || !strings.Contains(e.Detail, "Wharfage Ledger") {
		t.Errorf("another product's: %+v", e)
	}
	write(t, cached, "4c1f0.msi", "cut short")
	if e := cacheOf(t, dir, 3)["Pilot Roster"]; e.State != "damaged" {
		t.Errorf("cut short: %+v", e)
	}
	before = tree(t, twin)
	restore(0, "--yes")
	if e := cacheOf(t, dir, 0)["Pilot Roster"]; e.State != "good" {
		t.Errorf("restored over damage: %+v", e)
	}
	os.RemoveAll(filepath.Join(dir, "share")) // undoing needs no source
	mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after undo of a replacement these differ: %v", d)
	}
	if err := os.MkdirAll(filepath.Join(dir, "share"), 0o755); err != nil {
		t.Fatal(err)
	}
	write(t, filepath.Join(dir, "share"), "pilot-roster.msi", string(ledger))
	if r := restore(3, "--preview"); !strings.Contains(r.out,
		"fetch    pilot-roster.msi with the code {A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6BA2}") {
		t.Error(r.out)
	}
	mustRun(t, dir, 2, "cache", "restore", "--machine", "ELLERY-D07")
	mustRun(t, dir, 2, "cache", "tidy", "--machine", "ELLERY-D07")
}
