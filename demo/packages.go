package demo

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/installdb"
)

// pack is one of the scenario's packages of today: what it installs, in one
// feature.
type pack struct {
	file, product, version, code, packageCode, upgrade, vendor string   // of the package
	folder                                                     string   // below the vendor's
	rows                                                       [][]any  // beside the usual ones
	files                                                      []string // names; the texts are made up
	personal                                                   bool     // it has a folder below the user's documents
}

// order is the execute sequence of all of them.
var order = []struct {
	name   string
	number int
}{
	{"FindRelatedProducts", 25}, {"AppSearch", 50}, {"LaunchConditions", 100}, {"ValidateProductID", 700}, {"CostInitialize", 800},
	{"FileCost", 900}, {"CostFinalize", 1000},
	{"InstallValidate", 1400}, {"InstallInitialize", 1500}, {"RemoveExistingProducts", 1510}, {"ProcessComponents", 1600},
	{"UnpublishFeatures", 1800}, {"StopServices", 1900}, {"DeleteServices", 2000},
	{"RemoveRegistryValues", 2600}, {"RemoveIniValues", 2700}, {"RemoveShortcuts", 3200}, {"RemoveEnvironmentStrings", 3300},
	{"RemoveFiles", 3500}, {"RemoveFolders", 3600}, {"CreateFolders", 3700},
	{"InstallFiles", 4000}, {"CreateShortcuts", 4500}, {"WriteRegistryValues", 5000}, {"WriteIniValues", 5100},
	{"WriteEnvironmentStrings", 5200}, {"InstallServices", 5800}, {"StartServices", 5900},
	{"RegisterUser", 6000}, {"RegisterProduct", 6100}, {"PublishFeatures", 6300}, {"PublishProduct", 6400}, {"InstallFinalize", 6600},
}

// packs are the packages of the setups that fail on the desktop.
func packs() []pack {
	return []pack{
		{file: "Berthline.msi", product: "Berthline Planner", version: "4.2.0", code: "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C11}",
			packageCode: "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4CA1}",
			upgrade:     "{2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B43}", vendor: "Saltmarsh Quay", folder: "Planner",
			files: []string{"Planner.exe", "berths.dat", "tides.dat"}, rows: [][]any{
				{"Registry", "PlannerSite", 2, `Software\Saltmarsh Quay\Planner`, "Site", "Port Ellery", "Main"},
				{"Registry", "PlannerSlips", 2, `Software\Saltmarsh Quay\Planner`, "Slips", "#42", "Main"},
				{"Shortcut", "PlannerLink", "ProgramMenuFolder", "PLANNER|Berthline Planner", "Main", "Complete"},
			}},
		{file: "Tidebook.msi", product: "Tidebook Desk", version: "2.8.1", code: "{5D0B1C77-2E9A-4B6B-8C35-0A6C2E5F7D22}",
			packageCode: "{5D0B1C77-2E9A-4B6B-8C35-0A6C2E5F7DA2}",
			upgrade:     "{5D0B1C77-2E9A-4B6B-8C35-0A6C2E5F7DB2}", vendor: "Saltmarsh Quay", folder: "Tidebook",
			files: []string{"BerthSync.exe", "tides.dat"}, rows: [][]any{
				{"ServiceInstall", "Sync", "BerthSync", "Berth Sync", 16, 2, 1, nil, "TideClock[~][~]", nil, nil, nil, "Main", nil},
				{"ServiceControl", "StartSync", "BerthSync", 1 | 2 | 32 | 128, nil, 1, "Main"},
				{"IniFile", "SyncHost", "sync.ini", "TARGET", "Sync", "Host", "charts.ellery.example", 0, "Main"},
				{"Environment", "SyncPath", "*=-TIDEBOOK", "[TARGET]", "Main"},
			}},
		{file: "Pilot Roster.msi", product: "Pilot Roster", version: "5.1.3", code: "{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6B33}",
			packageCode: "{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6BA3}",
			upgrade:     "{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6BB3}", vendor: "Nine Fathom", folder: "Pilot Roster", files: []string{"Roster.exe"},
			personal: true, rows: [][]any{{"CreateFolder", "ROSTERDOCS", "Main"}}},
		{file: "Ledger.msi", product: "Wharfage Ledger", version: "2.5.0", code: "{C41F7E08-93B2-4D6A-8E15-70A2B9D3F645}",
			packageCode: "{C41F7E08-93B2-4D6A-8E15-70A2B9D3F6A5}",
			upgrade:     "{C41F7E08-93B2-4D6A-8E15-70A2B9D3F6B5}", vendor: "Saltmarsh Quay", folder: "Ledger",
			files: []string{"Ledger.exe", "rates.dat"}, rows: [][]any{
				{"Directory", "CommonAppDataFolder", "TARGETDIR", "."}, {"Directory", "VENDORDATA", "CommonAppDataFolder", "SALTMA~1|Saltmarsh Quay"},
				{"Directory", "LEDGERDATA", "VENDORDATA", "Ledger"},
				{"CreateFolder", "LEDGERDATA", "Main"},
			}},
	}
}

// component is the code of a package's one component.
func (p pack) component() string { return p.code[:len(p.code)-3] + "C1}" }

// database is the package as tables, with no more in it than an installer
// engine asks for.
func (p pack) database() (*installdb.Database, error) {
	db := installdb.New(installdb.Package, 1252)
	rows := [][]any{
		{"Property", "ProductName", p.product}, {"Property", "ProductVersion", p.version}, {"Property", "Manufacturer", p.vendor + " Software"},
		{"Property", "ProductCode", p.code},
		{"Property", "UpgradeCode", p.upgrade}, {"Property", "ProductLanguage", "1033"}, {"Property", "INSTALLLEVEL", "1"},
		{"Property", "ALLUSERS", "1"}, {"Property", "SecureCustomProperties", "OLDER"},
		{"Directory", "TARGETDIR", nil, "SourceDir"}, {"Directory", "ProgramFiles64Folder", "TARGETDIR", "."},
		{"Directory", "VENDOR", "ProgramFiles64Folder", p.vendor},
		{"Directory", "TARGET", "VENDOR", p.folder}, {"Directory", "ProgramMenuFolder", "TARGETDIR", "."},
		{"Component", "Main", p.component(), "TARGET", 0x100, nil, "File0"},
		{"Feature", "Complete", nil, p.product, "All of it", 1, 1, "TARGET", 0}, {"FeatureComponents", "Complete", "Main"},
		{"LaunchCondition", "Privileged", "[ProductName] needs an administrator."},
		{"Upgrade", p.upgrade, nil, p.version, nil, 0, nil, "OLDER"},
		{"Media", 1, len(p.files), nil, "#files.cab"},
	}
	if p.personal {
		rows = append(rows, []any{"Directory", "PersonalFolder", "TARGETDIR", "."}, []any{"Directory", "ROSTERDOCS", "PersonalFolder", "Rosters"})
	}
	var items []cabinet.Item
	for i, name := range p.files {
		text := "MZ made-up file " + name + " of " + p.product + " " + p.version + "\n"
		key := fmt.Sprintf("File%d", i)
		rows = append(rows, []any{"File", key, "Main", short(name), len(text), nil, nil, 512, i + 1})
		items = append(items, cabinet.Item{Name: key, Data: []byte(text)})
	}
	for _, a := range order {
		rows = append(rows, []any{"InstallExecuteSequence", a.name, nil, a.number})
	}
	for _, r := range append(rows, p.rows...) {
		if err := db.Insert(r[0].(string), r[1:]...); err != nil {
			return nil, fmt.Errorf("the package %s, %v: %w", p.file, r, err)
		}
	}
	cab, err := cabinet.Write(items)
	if err != nil {
		return nil, err
	}
	db.AddStream("files.cab", cab)
	s := &installdb.Summary{CodePage: 1252}
	s.SetText(installdb.SummarySubject, p.product+" "+p.version)
	s.SetText(installdb.SummaryTemplate, "x64;1033")
	s.SetText(installdb.SummaryRevision, p.packageCode)
	s.SetNumber(installdb.SummaryPages, 200)
	s.SetNumber(installdb.SummaryWords, 2)
	db.SetSummary(s)
	return db, nil
}

// Package makes one of the packages of today.
func Package(name string) (*installdb.Database, error) {
	for _, p := range packs() {
		if p.file == name {
			return p.database()
		}
	}
	return nil, fmt.Errorf("the scenario has no package %s", name)
}

// writePackages puts all packages of today into a folder.
func writePackages(folder string) error {
	for _, p := range packs() {
		db, err := p.database()
		if err != nil {
			return err
		}
		f, err := os.Create(filepath.Join(folder, p.file))
		if err != nil {
			return err
		}
		if err := errors.Join(db.Write(f), f.Close()); err != nil {
			return err
		}
	}
	return nil
}
