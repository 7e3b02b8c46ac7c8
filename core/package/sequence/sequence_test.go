package sequence

import (
	"strings"
	"testing"

	"hollowkey/core/package/condition"
	"hollowkey/core/package/installdb"
)

func TestDecode(t *testing.T) {
	for _, c := range []struct {
		kind           int
		source, target string
		does, manner   string
		program, err   bool
	}{
		{1, "Helper", "Check", `calls Check in a DLL from the package's own "Helper"`,
			"immediate, as the user who runs the setup, a failure stops the setup", false, false},
		{2, "Setup", "/q", `runs a program from the package's own "Setup" with "/q"`,
			"immediate, as the user who runs the setup, a failure stops the setup", true, false},
		{2 + 64, "Setup", "", `runs a program`, "a failure is ignored", true, false},
		{2 + 128, "Setup", "", `runs a program`, "not waited for", true, false},
		{2 + 192, "Setup", "", `runs a program`, "not waited for, may go on running after the setup has ended", true, false},
		{18, "BerthExe", "/reg", `runs a program from the installed file "BerthExe"`, "immediate", true, false},
		{34, "INSTALLDIR", "x.exe", `runs "x.exe" in the folder [INSTALLDIR]`, "immediate", true, false},
		{50, "CMD", "/c", `runs the program that [CMD] names with "/c"`, "immediate", true, false},
		{3072 + 1, "Helper", "Do", "calls Do", "deferred, as SYSTEM, a failure stops the setup", false, false},
		{1024 + 1, "Helper", "Do", "calls Do", "deferred, as the user who runs the setup", false, false},
		{1024 + 256 + 2048 + 1, "Helper", "Undo", "calls Undo", "only when the setup is rolled back, as SYSTEM", false, false},
		{1024 + 512 + 2048 + 1, "Helper", "End", "calls End", "commit, as SYSTEM", false, false},
		{19, "", "No!", `stops the setup and says: "No!"`, "immediate", false, true},
		{51, "SITE", "[X]", `sets the property SITE to "[X]"`, "immediate", false, false},
		{35, "INSTALLDIR", "[X]", `sets the folder INSTALLDIR to "[X]"`, "immediate", false, false},
		{38, "", "x = 1", "runs a VBScript that stands in the table", "immediate", false, false},
		{5, "S", "main", `runs a JScript from the package's own "S", function main`, "immediate", false, false},
		{53, "S", "", "runs a JScript that the property S holds", "immediate", false, false},
		{1 + 256, "Helper", "Check", "calls Check", "skipped in the execute sequence if it ran in the interface sequence", false, false},
		{23, "x.msi", "", `runs another setup, "x.msi"`, "immediate", true, false},
		{60, "", "", "is of type 60, which is not documented", "immediate", false, false},
	} {
		d := Decode(c.kind, c.source, c.target)
		if !strings.Contains(d.Does, c.does) || !strings.Contains(d.Manner(), c.manner) || d.Program != c.program || d.Error != c.err {
			t.Errorf("type %d: %q, %q, %+v", c.kind, d.Does, d.Manner(), d)
		}
	}
}

func TestRead(t *testing.T) {
	db := installdb.New(installdb.Package, 1252)
	for _, r := range [][]any{
		{"CustomAction", "Check", 1, "H", "Check"},
		{"Dialog", "Welcome", 50, 50, 300, 200, 3, nil, "Next"}, {"Dialog", "Fatal", 50, 50, 300, 200, 3, nil, "Next"},
		{"InstallUISequence", "Fatal", nil, -3}, {"InstallUISequence", "CostFinalize", nil, 1000},
		{"InstallUISequence", "Check", "SITE AND LATER", 900},
		{"InstallUISequence", "Welcome", "NOT Installed", 1100}, {"InstallUISequence", "Nobody", nil, 50},
		{"InstallUISequence", "AppSearch", nil, nil},
		{"InstallUISequence", "LaunchConditions", "SITE AND", 100}, {"InstallUISequence", "CostInitialize", "SITE", 800},
	} {
		if err := db.Insert(r[0].(string), r[1:]...); err != nil {
			t.Fatal(err)
		}
	}
	list, err := Read(db, Interface, func(s condition.Symbol) condition.Value { return condition.Value{Unknown: s.Name == "LATER"} })
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, a := range list {
		got = append(got, a.Name+" "+a.Kind+" "+a.Answer)
	}
	want := "Nobody unknown runs, LaunchConditions standard unknown, CostInitialize standard skipped, Check custom skipped, CostFinalize standard runs, Welcome dialog runs, Fatal dialog at the end, AppSearch standard never"
	if strings.Join(got, ", ") != want {
		t.Errorf("%s\nwant %s", strings.Join(got, ", "), want)
	}
	if list[0].Problem == "" || !strings.Contains(list[1].Problem, "column 9") {
		t.Errorf("problems: %q, %q", list[0].Problem, list[1].Problem)
	}
	if none, err := Read(db, Execute, nil); err != nil || len(none) != 0 {
		t.Errorf("a missing sequence: %v, %v", none, err)
	}
}
