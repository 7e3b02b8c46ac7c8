package alter

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/package/installdb"
	"hollowkey/demo"
)

func planner(t *testing.T) *installdb.Database {
	t.Helper()
	db, err := demo.Planner()
	if err != nil {
		t.Fatal(err)
	}
	return db
}

func TestEdits(t *testing.T) {
	for name, c := range map[string]struct {
		edit        Edit
		table, key  string
		column, now string // empty column: the row must be gone
	}{
		"row":        {Edit{"remove-row", "InstallExecuteSequence,RunChartRuntime"}, "InstallExecuteSequence", "RunChartRuntime", "", ""},
		"key of two": {Edit{"remove-row", "FeatureComponents,Complete,Settings"}, "FeatureComponents", "Complete\tSettings", "", ""},
		"key with commas": {Edit{"set-condition", "LaunchCondition,VersionNT >= 501 AND VersionNT < 600,VersionNT"}, "LaunchCondition",
			"VersionNT", "Description", "[ProductName] [ProductVersion] runs on Windows XP only."},
		"condition": {Edit{"set-condition", "InstallExecuteSequence,RunChartRuntime,A = \"x, y\""}, "InstallExecuteSequence",
			"RunChartRuntime", "Condition", `A = "x, y"`},
		"no condition": {Edit{"set-condition", "InstallExecuteSequence,RunChartRuntime,"}, "InstallExecuteSequence", "RunChartRuntime",
			"Condition", ""},
		"cell":               {Edit{"set-cell", "CustomAction,RunChartRuntime,Type,66"}, "CustomAction", "RunChartRuntime", "Type", "66"},
		"cell with a comma":  {Edit{"set-cell", "Registry,SiteValue,Value,a,b"}, "Registry", "SiteValue", "Value", "a,b"},
		"property":           {Edit{"set-property", "INSTALLLEVEL=100"}, "Property", "INSTALLLEVEL", "Value", "100"},
		"new property":       {Edit{"set-property", `SITE=a "b", c`}, "Property", "SITE", "Value", `a "b", c`},
		"row of a new table": {Edit{"add-row", "UIText,AbsentPath,none"}, "UIText", "AbsentPath", "Text", "none"},
	} {
		db := planner(t)
		done, err := Apply(db, []Edit{c.edit}, false)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		table, err := db.Table(c.table)
		if err != nil {
			t.Fatal(err)
		}
		at := table.Find(c.key)
		switch {
		case c.column == "" && at >= 0:
			t.Errorf("%s: the row is still there", name)
		case c.column != "" && (at < 0 || table.Get(table.Rows[at], c.column).String() != c.now):
			t.Errorf("%s: row %d", name, at)
		}
		if done[0].Words == "" || len(done[0].Before)+len(done[0].After) == 0 {
			t.Errorf("%s: nothing is told: %+v", name, done[0])
		}
	}
}

func TestReferencesAreKept(t *testing.T) {
	for edit, refers := range map[string]string{
		"Binary,ChartSetup": "CustomAction RunChartRuntime", "CustomAction,RefuseDowngrade": "InstallUISequence RefuseDowngrade",
		"Component,Planner": "FeatureComponents Complete, Planner", "Directory,INSTALLDIR": "Component Planner",
		"File,BerthExe":              "Component Planner",
		"RegLocator,ChartRuntimeKey": "AppSearch CHARTRUNTIME, ChartRuntimeKey", "Feature,Complete": "FeatureComponents Complete",
	} {
		_, err := Apply(planner(t), []Edit{{"remove-row", edit}}, false)
		if err == nil || !strings.Contains(err.Error(), refers) {
			t.Errorf("%s: %v; want a word of %s", edit, err, refers)
		}
	}
	db := planner(t)
	done, err := Apply(db, []Edit{{"remove-row", "Binary,ChartSetup"}}, true)
	if err != nil || len(done[0].Also) != 2 {
		t.Fatalf("along: %v, %+v", err, done)
	}
	if table, _ := db.Table("InstallExecuteSequence"); table.Find("RunChartRuntime") >= 0 {
		t.Error("the sequence still starts what is gone")
	}
	done, err = Apply(planner(t), []Edit{{"remove-table", "Binary"}}, false)
	if err != nil || len(done[0].Dangling) != 1 {
		t.Errorf("a table that is referred to: %v, %+v", err, done)
	}
	if _, err := Apply(planner(t), []Edit{{"remove-row", "Property,INSTALLLEVEL"}}, false); err != nil {
		t.Errorf("a property that nothing names: %v", err)
	}
}

func TestSave(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "x.msi")
	if err := Save(planner(t), path, false); err != nil {
		t.Fatal(err)
	}
	before, _ := os.ReadFile(path)
	if err := Save(planner(t), path, false); err == nil {
		t.Error("a file that is there is written over")
	}
	bad := planner(t)
	if err := bad.Insert("Property", "X", "причал"); err != nil { // not in code page 1252
		t.Fatal(err)
	}
	if err := Save(bad, path, true); err == nil {
		t.Error("letters that the code page lacks are taken")
	}
	after, _ := os.ReadFile(path)
	if string(before) != string(after) {
		t.Error("a write that failed changed the file")
	}
	if entries, _ := os.ReadDir(dir); len(entries) != 1 {
		t.Errorf("something is left over: %v", entries)
	}
	code, err := DerivedCode(planner(t), "x")
	again, _ := DerivedCode(planner(t), "x")
	other, _ := DerivedCode(planner(t), "y")
	if err != nil || code != again || code == other || len(code) != 38 {
		t.Errorf("codes %s %s %s, %v", code, again, other, err)
	}
	fresh, err := FreshCode(planner(t))
	if err != nil || fresh == code {
		t.Errorf("%s, %v", fresh, err)
	}
}
