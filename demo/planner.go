package demo

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/installdb"
)

// PlannerPackage is the name of the old package that refuses the machine.
const PlannerPackage = "berthline-planner-3.1.msi"

// PlannerPath is where it lies on the desktop.
const PlannerPath = `C:\Deploy\` + PlannerPackage

// chartSetup stands in for the obsolete prerequisite's setup program.
const chartSetup = "MZ made-up program: Chart Runtime 2.0 setup, of no use on any OS of today\n"

// plannerFiles are what the package installs.
var plannerFiles = []struct{ key, name, text string }{
	{"BerthExe", "Berth.exe", "MZ made-up program: Berthline Planner 3.1\n"},
	{"TideTable", "tides.dat", strings.Repeat("Port Ellery 04:12 3.1 m 10:31 0.9 m\n", 300)},
	{"ReadMe", "Read me.txt", "Berthline Planner 3.1 for the harbour office of Port Ellery.\n"},
}

// Planner makes the old Berthline Planner package: a launch condition refuses
// every OS that is in use, and the sequence starts an obsolete prerequisite.
func Planner() (*installdb.Database, error) {
	db := installdb.New(installdb.Package, 1252)
	var items []cabinet.Item
	rows := [][]any{
		{"Property", "ProductName", "Berthline Planner"}, {"Property", "ProductVersion", "3.1.0"},
		{"Property", "Manufacturer", "Saltmarsh Quay Software"},
		{"Property", "ProductCode", "{7B3D1A60-52C4-4D0E-8F3A-91C2E6B7A031}"},
		{"Property", "UpgradeCode", "{2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B42}"},
		{"Property", "ProductLanguage", "1033"}, {"Property", "INSTALLLEVEL", "3"}, {"Property", "ALLUSERS", "1"},
		{"Property", "SecureCustomProperties", "CHARTRUNTIME;NEWERPLANNER;OLDERPLANNER"}, {"Property", "ARPNOREPAIR", "1"},
		{"Property", "ChartRuntimeVersion", "2.0"},

		{"Directory", "TARGETDIR", nil, "SourceDir"}, {"Directory", "ProgramFilesFolder", "TARGETDIR", "."},
		{"Directory", "VENDORDIR", "ProgramFilesFolder", "SALTMA~1|Saltmarsh Quay"},
		{"Directory", "INSTALLDIR", "VENDORDIR", "BERTHL~1|Berthline"},
		{"Component", "Planner", "{5A1E7C30-9D24-4B6F-A0C8-17E3D5F2B601}", "INSTALLDIR", 0, nil, "BerthExe"},
		{"Component", "Settings", "{5A1E7C30-9D24-4B6F-A0C8-17E3D5F2B602}", "INSTALLDIR", 4, nil, "SiteValue"},
		{"Feature", "Complete", nil, "Berthline Planner", "The planner with its tide table", 1, 1, "INSTALLDIR", 0},
		{"FeatureComponents", "Complete", "Planner"}, {"FeatureComponents", "Complete", "Settings"},
		{"Registry", "SiteValue", 2, `Software\Saltmarsh Quay\Berthline`, "Edition",
			"[ProductVersion] with Chart Runtime [ChartRuntimeVersion]", "Settings"},

		{"AppSearch", "CHARTRUNTIME", "ChartRuntimeKey"},
		{"RegLocator", "ChartRuntimeKey", 2, `SOFTWARE\Nine Fathom\Chart Runtime`, "Version", 2},
		{"LaunchCondition", "Privileged", "[ProductName] needs an administrator."},
		{"LaunchCondition", "VersionNT >= 501 AND VersionNT < 600", "[ProductName] [ProductVersion] runs on Windows XP only."},
		{"Upgrade", "{2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B42}", nil, "3.1.0", nil, 0, nil, "OLDERPLANNER"},
		{"Upgrade", "{2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B42}", "3.1.0", nil, nil, 2, nil, "NEWERPLANNER"},

		{"Binary", "ChartSetup", []byte(chartSetup)},
		{"CustomAction", "RunChartRuntime", 2, "ChartSetup", "/quiet /site:[SITECODE]"},
		{"CustomAction", "RefuseDowngrade", 19, nil, "A newer [ProductName] is installed already."},
		{"CustomAction", "SetBerthFolder", 51, "ARPINSTALLLOCATION", "[INSTALLDIR]"},
		{"Media", 1, len(plannerFiles), nil, "#planner.cab"},
	}
	for i, f := range plannerFiles {
		rows = append(rows, []any{"File", f.key, "Planner", short(f.name), len(f.text), nil, nil, 512, i + 1})
		items = append(items, cabinet.Item{Name: f.key, Data: []byte(f.text)})
	}
	for _, a := range plannerOrder {
		var when any
		if a.when != "" {
			when = a.when
		}
		rows = append(rows, []any{"InstallExecuteSequence", a.name, when, a.number})
	}
	for _, a := range plannerOrder[:4] {
		var when any
		if a.when != "" {
			when = a.when
		}
		rows = append(rows, []any{"InstallUISequence", a.name, when, a.number})
	}
	rows = append(rows, []any{"InstallUISequence", "CostInitialize", nil, 800}, []any{"InstallUISequence", "FileCost", nil, 900},
		[]any{"InstallUISequence", "CostFinalize", nil, 1000}, []any{"InstallUISequence", "ExecuteAction", nil, 1300})
	for _, r := range rows {
		if err := db.Insert(r[0].(string), r[1:]...); err != nil {
			return nil, fmt.Errorf("the planner package: %w", err)
		}
	}
	cab, err := cabinet.Write(items)
	if err != nil {
		return nil, err
	}
	db.AddStream("planner.cab", cab)
	s := &installdb.Summary{CodePage: 1252}
	s.SetText(installdb.SummaryTitle, "Installation Database")
	s.SetText(installdb.SummarySubject, "Berthline Planner 3.1")
	s.SetText(installdb.SummaryAuthor, "Saltmarsh Quay Software")
	s.SetText(installdb.SummaryTemplate, "Intel;1033")
	s.SetText(installdb.SummaryRevision, "{7B3D1A60-52C4-4D0E-8F3A-91C2E6B7A0C1}")
	s.SetNumber(installdb.SummaryPages, 200)
	s.SetNumber(installdb.SummaryWords, 2) // files are in a cabinet
	db.SetSummary(s)
	return db, nil
}

// plannerOrder is the execute sequence.
var plannerOrder = []struct {
	name, when string
	number     int
}{
	{"FindRelatedProducts", "", 25}, {"AppSearch", "", 50}, {"RefuseDowngrade", "NEWERPLANNER", 75}, {"LaunchConditions", "", 100},
	{"RunChartRuntime", "NOT CHARTRUNTIME AND NOT Installed", 150}, {"ValidateProductID", "", 700},
	{"CostInitialize", "", 800}, {"FileCost", "", 900}, {"CostFinalize", "", 1000}, {"SetBerthFolder", "NOT Installed", 1010},
	{"InstallValidate", "", 1400},
	{"InstallInitialize", "", 1500}, {"RemoveExistingProducts", "", 1510}, {"ProcessComponents", "", 1600}, {"UnpublishFeatures", "", 1800},
	{"RemoveRegistryValues", "", 2600}, {"RemoveFiles", "", 3500}, {"RemoveFolders", "", 3600}, {"CreateFolders", "", 3700},
	{"InstallFiles", "", 4000},
	{"WriteRegistryValues", "", 5000}, {"RegisterUser", "", 6000}, {"RegisterProduct", "", 6100}, {"PublishFeatures", "", 6300},
	{"PublishProduct", "", 6400}, {"InstallFinalize", "", 6600},
}

// short writes a file name as SHORT|long.
func short(name string) string {
	base, ext, _ := strings.Cut(strings.ToUpper(strings.ReplaceAll(name, " ", "")), ".")
	return base[:min(8, len(base))] + "." + ext + "|" + name
}

// writePlanner puts the package into a folder.
func writePlanner(folder string) error {
	db, err := Planner()
	if err != nil {
		return err
	}
	f, err := os.Create(filepath.Join(folder, PlannerPackage))
	if err != nil {
		return err
	}
	defer f.Close()
	return db.Write(f)
}
