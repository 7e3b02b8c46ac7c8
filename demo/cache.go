package demo

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"

	"hollowkey/core/package/installdb"
)

// Share is the folder in which the harbour office keeps setups.
const Share = "share"

// Two installed products, as the twin's registry names them.
const (
	ledgerCode, ledgerPackage = "{C41F7E08-93B2-4D6A-8E15-70A2B9D3F644}", "{C41F7E08-93B2-4D6A-8E15-70A2B9D3F6A1}"
	rosterCode, rosterPackage = "{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6B30}", "{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6BA2}"
)

// small makes a package with no more than what says which one it is.
func small(product, version, code, packageCode string) ([]byte, error) {
	db := installdb.New(installdb.Package, 1252)
	for _, r := range [][2]string{{"ProductName", product}, {"ProductVersion", version}, {"ProductCode", code},
		{"Manufacturer", "Nine Fathom Systems"}, {"ProductLanguage", "1033"}} {
		if err := db.Insert("Property", r[0], r[1]); err != nil {
			return nil, err
		}
	}
	s := &installdb.Summary{CodePage: 1252}
	s.SetText(installdb.SummarySubject, product+" "+version)
	s.SetText(installdb.SummaryTemplate, "x64;1033")
	s.SetText(installdb.SummaryRevision, packageCode)
	s.SetNumber(installdb.SummaryPages, 200)
	db.SetSummary(s)
	f, err := os.CreateTemp("", "hollowkey-demo-*")
	if err != nil {
		return nil, err
	}
	defer os.Remove(f.Name())
	defer f.Close()
	if err := db.Write(f); err != nil {
		return nil, err
	}
	return os.ReadFile(f.Name())
}

// writeCache lays out the engine's cache on the twin, in which one package is
// missing, and the share: a later issue of that package under the same name,
// and the old setup program that carries the very one.
func writeCache(folder string) error {
	ledger, err := small("Wharfage Ledger", "2.4.0", ledgerCode, ledgerPackage)
	if err != nil {
		return err
	}
	roster, err := small("Pilot Roster", "5.0.2", rosterCode, rosterPackage)
	if err != nil {
		return err
	}
	reissued, err := small("Pilot Roster", "5.0.2", rosterCode, "{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6BFF}")
	if err != nil {
		return err
	}
	cache := filepath.Join(folder, Machine, "disk", "C", "Windows", "Installer")
	share := filepath.Join(folder, Share)
	for _, dir := range []string{cache, filepath.Join(share, "old")} {
		if err := os.MkdirAll(dir, 0o755); err != nil {
			return err
		}
	}
	program := append([]byte("MZ made-up setup program of Pilot Roster 5.0.2\n"), bytes.Repeat([]byte{0}, 500)...)
	for name, b := range map[string][]byte{
		filepath.Join(cache, "2c71a.msi"):                     ledger,
		filepath.Join(share, "pilot-roster.msi"):              reissued,
		filepath.Join(share, "old", "pilot-roster-setup.exe"): append(program, roster...),
	} {
		if err := os.WriteFile(name, b, 0o644); err != nil {
			return fmt.Errorf("the demo's cache: %w", err)
		}
	}
	return nil
}
