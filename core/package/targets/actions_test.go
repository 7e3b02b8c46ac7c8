package targets_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/package/installdb"
	"hollowkey/core/package/targets"
	"hollowkey/demo"
	"hollowkey/demo/demotest"
)

// changed is one of the scenario's packages with more rows.
func changed(t *testing.T, name string, rows ...[]any) *installdb.Database {
	t.Helper()
	db, err := demo.Package(name)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range rows {
		if err := db.Insert(r[0].(string), r[1:]...); err != nil {
			t.Fatal(err)
		}
	}
	return db
}

// What each action works on follows from the tables, resolved for the run and
// the machine.
func TestOfActions(t *testing.T) {
	_, m := demotest.LayOut(t)
	planner := changed(t, "Berthline.msi", []any{"CreateFolder", "TARGET", "Main"},
		[]any{"Component", "Left", "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4CE5}", "TARGET", 0, "DESK", nil},
		[]any{"Registry", "LeftOut", 2, `Software\Left Out`, "A", "1", "Left"},
		[]any{"Registry", "User", 1, `Software\Quay\[ProductVersion]`, "A", "1", "Main"},
		[]any{"Registry", "Class", 0, `quay.plan`, "", "1", "Main"},
		[]any{"AppSearch", "TARGET", "Old"}, []any{"RegLocator", "Old", 2, `SOFTWARE\Quay\Old`, "Path", 18},
		[]any{"CustomAction", "RunPlanner", 18, "File0", "/register"},
		[]any{"CustomAction", "RunTool", 34, "TARGET", `"C:\Tools\quay tool.exe" /q`},
		[]any{"Environment", "Var", "=-*QUAY", "1", "Main"})
	tidebook := changed(t, "Tidebook.msi", []any{"ServiceControl", "Other", "QuayWatch", 1, nil, 1, "Main"})
	const folder = `C:\Program Files\Saltmarsh Quay\Planner`
	for _, tt := range []struct {
		db     *installdb.Database
		action string
		want   []string // kind and a part of the name
	}{
		{planner, "CreateFolders", []string{"folder " + folder}},
		{planner, "InstallFiles", []string{"folder " + folder, "file " + folder + `\Planner.exe`}},
		{planner, "WriteRegistryValues",
			[]string{`key HKEY_CURRENT_USER\Software\Quay\4.2.0`,
				`key HKEY_LOCAL_MACHINE\SOFTWARE\Classes\quay.plan`, `key HKEY_LOCAL_MACHINE\Software\Saltmarsh Quay\Planner`}},
		{planner, "WriteEnvironmentStrings", []string{`key HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`}},
		{planner, "InstallInitialize", []string{"engine temporary folder", "engine own folder"}},
		{planner, "RunPlanner", nil}, // the package brings it, and a setup that failed takes it away again
		{planner, "RunTool", []string{`program C:\Tools\quay tool.exe`}},
		{tidebook, "StartServices", []string{"service BerthSync", "needed TideClock", "needed QuayWatch"}},
		{planner, "NoSuchAction", nil},
	} {
		list, err := targets.Of(tt.db, m, targets.Run{Package: `C:\Deploy\Berthline.msi`}, tt.action)
		if err != nil {
			t.Errorf("%s: %v", tt.action, err)
		}
		var got []string
		for _, x := range list {
			got = append(got, fmt.Sprintf("%s %s", x.Kind, x.Name))
			if x.Words() == "" {
				t.Errorf("%+v has no words", x)
			}
		}
		for _, w := range tt.want {
			if !slices.ContainsFunc(got, func(g string) bool { return strings.EqualFold(g, w) }) {
				t.Errorf("%s: %q lacks %q", tt.action, got, w)
			}
		}
		if tt.want == nil && len(got) > 0 || strings.Contains(strings.Join(got, " "), "Left Out") {
			t.Errorf("%s: %q", tt.action, got)
		}
	}
	if list, err := targets.Of(planner, m, targets.Run{}, ""); err != nil || len(list) < 8 {
		t.Errorf("of all actions: %d targets, %v", len(list), err)
	}
}

// Sources lie beside the package: cabinets, and loose files below the names of
// their folders there.
func TestSources(t *testing.T) {
	_, m := demotest.LayOut(t)
	db := changed(t, "Berthline.msi")
	if err := db.SetCell("Media", 0, "Cabinet", installdb.TextValue("planner.cab")); err != nil {
		t.Fatal(err)
	}
	if err := db.SetCell("File", 1, "Attributes", installdb.IntValue(0x2000)); err != nil {
		t.Fatal(err)
	}
	list, err := targets.Of(db, m, targets.Run{Package: `D:\Quay\Berthline.msi`}, "InstallFiles")
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, x := range list {
		if x.Kind == targets.Cabinet || x.Kind == targets.Source {
			got = append(got, string(x.Kind)+" "+x.Name)
		}
	}
	if len(got) != 2 || got[0] != `cabinet D:\Quay\planner.cab` || !strings.HasPrefix(got[1], `source D:\Quay\`) ||
		!strings.HasSuffix(got[1], `\berths.dat`) {
		t.Errorf("%q", got)
	}
}
