package cli_test

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/demo"
)

const msi = demo.PlannerPackage

type gate struct {
	Kind, Row, Condition, Answer, Says, Note string
	Why                                      []struct{ Term, Holds, Symbol, Value, Origin, Detail string }
	Ways                                     []struct {
		Class, Text, Property string
		Alter                 []struct{ Option, Value string }
	}
}

func gatesOf(t *testing.T, dir string, code int, args ...string) []gate {
	t.Helper()
	return decode[struct{ Gates []gate }](t, mustRun(t, dir, code, append([]string{"package", "gates", msi, "--json"}, args...)...).out).Gates
}

func find(list []gate, row string) gate {
	for _, g := range list {
		if g.Row == row && g.Kind != "other version" {
			return g
		}
	}
	return gate{}
}

const xpOnly = "VersionNT >= 501 AND VersionNT < 600"

func TestGates(t *testing.T) {
	dir := layOut(t)
	list := gatesOf(t, dir, 3, "--machine", "ELLERY-D07")
	launch := find(list, xpOnly)
	if launch.Answer != "fails" || len(launch.Why) != 1 || launch.Why[0].Term != "VersionNT < 600" || launch.Why[0].Value != "603" ||
		launch.Why[0].Origin != "built-in" || !strings.Contains(launch.Why[0].Detail, "19045") {
		t.Errorf("the launch condition: %+v", launch)
	}
	if n := len(launch.Ways); n != 1 || launch.Ways[n-1].Alter[0].Option != "set-condition" ||
		!strings.HasSuffix(launch.Ways[n-1].Alter[0].Value, ",VersionNT >= 501") {
		t.Errorf("its ways: %+v", launch.Ways)
	}
	program := find(list, "RunChartRuntime")
	if program.Answer != "unknown" || program.Why[0].Origin != "AppSearch" ||
		!strings.Contains(program.Why[0].Detail, `WOW6432Node\Nine Fathom\Chart Runtime`) || program.Ways[0].Property != "CHARTRUNTIME=1" {
		t.Errorf("the prerequisite: %+v", program)
	}
	if g := find(gatesOf(t, dir, 3, "--machine", "ELLERY-D07", "--given", "CHARTRUNTIME=1"), "RunChartRuntime"); g.Answer != "passes" {
		t.Errorf("with its property given: %+v", g)
	}
	if g := find(gatesOf(t, dir, 0), xpOnly); g.Answer != "unknown" {
		t.Errorf("without a machine: %+v", g)
	}
	// What the search would find is what is found.
	reg := filepath.Join(dir, "ELLERY-D07", "registry", "machine.reg")
	b, err := os.ReadFile(reg)
	if err != nil {
		t.Fatal(err)
	}
	more := "\r\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\WOW6432Node\\Nine Fathom\\Chart Runtime]\r\n\"Version\"=dword:00000002\r\n"
	newer := `
[HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UpgradeCodes\71C4A9E2D5B0E8A46B1FC3D7E9A0B524]
"11111111111111111111111111111111"=""

[HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UserData\S-1-5-18\Products\11111111111111111111111111111111\InstallProperties]
"DisplayName"="Berthline Planner"
"DisplayVersion"="4.2.0"
`
	write(t, filepath.Dir(reg), "machine.reg", string(b)+more+newer)
	list = gatesOf(t, dir, 3, "--machine", "ELLERY-D07")
	if g := find(list, "RunChartRuntime"); g.Answer != "passes" || g.Why[0].Value != "#2" {
		t.Errorf("with the runtime there: %+v", g)
	}
	if g := find(list, "RefuseDowngrade"); g.Answer != "fails" ||
		!strings.Contains(g.Why[0].Detail, "Berthline Planner 4.2.0 is installed") ||
		g.Says != "A newer Berthline Planner is installed already." {
		t.Errorf("with a newer version there: %+v", g)
	}
	text := mustRun(t, dir, 3, "package", "gates", msi, "--machine", "ELLERY-D07").out
	for _, want := range []string{"2 gates fail", "FAILS  launch condition  " + xpOnly, "VersionNT < 600 is false: VersionNT is 603",
		`says    "Berthline Planner 3.1.0 runs on Windows XP only."`, "hollowkey package alter " + msi} {
		if !strings.Contains(text, want) {
			t.Errorf("the text lacks %q:\n%s", want, text)
		}
	}
}

func TestOverview(t *testing.T) {
	dir := layOut(t)
	o := decode[struct {
		Format, Product, Version, Vendor, Platform, Elevation string
		ProductCode                                           string `json:"product_code"`
		Schema_                                               int    `json:"-"`
		Signed                                                bool
		Files, Tables                                         int
		Cabinets                                              []struct {
			Name     string
			Embedded bool
		}
		Gates []gate
	}](t, mustRun(t, dir, 0, "package", "overview", msi, "--json").out)
	if o.Format != "package" || o.Product != "Berthline Planner" || o.Version != "3.1.0" || o.Platform != "Intel" || o.Files != 3 ||
		o.Signed || len(o.Gates) != 7 && len(o.Gates) != 6 || !o.Cabinets[0].Embedded ||
		o.ProductCode != "{7B3D1A60-52C4-4D0E-8F3A-91C2E6B7A031}" {
		t.Errorf("%+v", o)
	}
	text := mustRun(t, dir, 0, "package", "overview", msi, "--machine", "ELLERY-D07", "--width", "80").out
	for line := range strings.Lines(text) {
		if len([]rune(line)) > 81 {
			t.Errorf("a line of %d columns: %s", len([]rune(line)), line)
		}
	}
	if !strings.Contains(text, "FAILS        launch condition  "+xpOnly) {
		t.Errorf("the gate that fails is not told:\n%s", text)
	}
	if r := mustRun(t, dir, 1, "package", "overview", "planner31.log"); !strings.Contains(r.err, "no setup file") ||
		!strings.Contains(r.err, "hint:") {
		t.Errorf("of a log: %s", r.err)
	}
}

func TestRowsFindOrder(t *testing.T) {
	dir := layOut(t)
	rows := func(args ...string) []map[string]any {
		return decode[struct{ Rows []map[string]any }](t,
			mustRun(t, dir, 0, append([]string{"package", "rows", msi, "--json"}, args...)...).out).Rows
	}
	if r := rows("installexecutesequence", "--where", "Condition AND Sequence < 100", "--columns", "Action"); len(r) != 1 ||
		r[0]["Action"] != "RefuseDowngrade" || len(r[0]) != 1 {
		t.Errorf("where: %v", r)
	}
	if r := rows("InstallExecuteSequence", "--sort=-Sequence"); r[0]["Action"] != "InstallFinalize" ||
		r[len(r)-1]["Action"] != "FindRelatedProducts" {
		t.Errorf("sorted: %v", r[0])
	}
	if out := mustRun(t, dir, 0, "package", "rows", msi, "Property", "--where", `Property = "ALLUSERS"`,
		"--csv").out; out != "Property,Value\nALLUSERS,1\n" {
		t.Errorf("csv: %q", out)
	}
	mustRun(t, dir, 3, "package", "rows", msi, "Property", "--where", `Property = "Tide"`)
	if r := mustRun(t, dir, 2, "package", "rows", msi, "Property", "--where", "Depth > 1"); !strings.Contains(r.err,
		"it has Property, Value") {
		t.Error(r.err)
	}
	if r := mustRun(t, dir, 2, "package", "rows", msi, "Property", "--where", "Property >"); !strings.Contains(r.err, "column 11") {
		t.Error(r.err)
	}
	mustRun(t, dir, 1, "package", "rows", msi, "Berths")
	f := decode[struct {
		Rows []struct {
			Table, Key, Means string
			UsedBy            []struct{ Table, Key string } `json:"used_by"`
			Uses              []struct{ Table, Key string }
		}
		Streams []string
	}](t, mustRun(t, dir, 0, "package", "find", msi, "chartsetup", "--json").out)
	if len(f.Rows) != 2 || f.Rows[1].Table != "CustomAction" || f.Rows[1].UsedBy[0].Table != "InstallExecuteSequence" ||
		f.Rows[1].Uses[0].Table != "Binary" || !strings.Contains(f.Rows[1].Means, "a failure stops the setup") || len(f.Streams) != 1 {
		t.Errorf("%+v", f)
	}
	mustRun(t, dir, 3, "package", "find", msi, "nowhere at all")
	order := mustRun(t, dir, 0, "package", "order", msi, "--machine", "ELLERY-D07").out
	last := -1
	for _, want := range []string{"25    FindRelatedProducts", "75 *  RefuseDowngrade", "if NEWERPLANNER  → skipped",
		"100    LaunchConditions", "150 *  RunChartRuntime", `runs a program from the package's own "ChartSetup"`, "→ runs",
		"6600    InstallFinalize"} {
		at := strings.Index(order, want)
		if at < last {
			t.Errorf("%q is at %d, after %d:\n%s", want, at, last, order)
		}
		last = at
	}
	if tables := mustRun(t, dir, 0, "package", "tables", msi).out; !strings.Contains(tables,
		"LaunchCondition         2     *Condition Description") {
		t.Error(tables)
	}
}

func TestAlterWrites(t *testing.T) {
	dir := layOut(t)
	before := tree(t, dir)[msi]
	edit := []string{"--remove-row", "LaunchCondition," + xpOnly, "--set-condition",
		"InstallExecuteSequence,RunChartRuntime,CHARTRUNTIME AND NOT Installed", "--set-property", "INSTALLLEVEL=100", "--add-row",
		`Registry,r2,2,Software\Berthline,Site,"ELLERY, quay 2",Settings`, "--set-cell", "Media,1,DiskPrompt,Disk one"}
	alter := func(code int, args ...string) result {
		return mustRun(t, dir, code, append([]string{"package", "alter", msi}, args...)...)
	}
	alter(0, append(edit, "--out", "site.mst")...)
	alter(0, append(edit, "--copy", "--out", "copy.msi")...)
	if tree(t, dir)[msi] != before {
		t.Error("the vendor's file was changed")
	}
	type compared struct {
		Same bool
		Rows []struct {
			Table, Key, Change string
			After              map[string]string
		}
	}
	byTransform := decode[compared](t, mustRun(t, dir, 3, "package", "compare", msi, "site.mst", "--json").out)
	byCopy := decode[compared](t, mustRun(t, dir, 3, "package", "compare", msi, "copy.msi", "--json").out)
	if len(byTransform.Rows) != 5 || len(byCopy.Rows) != 5 || byTransform.Same {
		t.Errorf("%+v\n%+v", byTransform, byCopy)
	}
	at := slices.IndexFunc(byCopy.Rows, func(r struct {
		Table, Key, Change string
		After              map[string]string
	}) bool {
		return r.Table == "Registry"
	})
	if at < 0 || byCopy.Rows[at].After["Value"] != "ELLERY, quay 2" || byCopy.Rows[at].Change != "added" {
		t.Errorf("the new row: %+v", byCopy.Rows)
	}
	code := func(file string) string {
		return decode[struct {
			Code string `json:"package_code"`
		}](t, mustRun(t, dir, 0, "package", "overview", file, "--json").out).Code
	}
	if code("copy.msi") == code(msi) || len(code("copy.msi")) != 38 {
		t.Errorf("the copy's package code is %s", code("copy.msi"))
	}
	mustRun(t, dir, 0, "package", "compare", msi, "copy.msi", "--out", "again.mst")
	if again := decode[compared](t, mustRun(t, dir, 3, "package", "compare", msi, "again.mst", "--json").out); len(again.Rows) != 5 {
		t.Errorf("as transform: %+v", again)
	}
	mustRun(t, dir, 0, "package", "compare", msi, msi)
	if g := find(gatesOf(t, dir, 0, "--machine", "ELLERY-D07", "--transform", "site.mst"), xpOnly); g.Row != "" {
		t.Errorf("the gate is still there: %+v", g)
	}
	for name, c := range map[string]struct {
		code int
		args []string
		say  string
	}{
		"refers": {1, []string{"--remove-row", "CustomAction,RunChartRuntime"},
			"other rows refer to it: InstallExecuteSequence RunChartRuntime"},
		"no row":    {1, []string{"--remove-row", "CustomAction,Nobody"}, "no row with the key"},
		"no table":  {1, []string{"--remove-table", "Berths"}, "no such table"},
		"case":      {1, []string{"--remove-table", "launchcondition"}, "it is written LaunchCondition"},
		"syntax":    {1, []string{"--set-condition", "InstallExecuteSequence,RunChartRuntime,NOT AND"}, "column 5"},
		"number":    {1, []string{"--set-cell", "CustomAction,RunChartRuntime,Type,many"}, "whole number"},
		"there":     {1, []string{"--set-property", "A=1", "--out", "site.mst"}, "there already"},
		"itself":    {1, []string{"--set-property", "A=1", "--copy", "--out", msi}, "names the package itself"},
		"no edit":   {2, nil, "no edit is given"},
		"nothing":   {1, []string{"--set-property", "ALLUSERS=1", "--out", "n.mst"}, "change nothing"},
		"duplicate": {1, []string{"--add-row", "Property,ALLUSERS,2"}, "already"},
	} {
		if r := alter(c.code, c.args...); !strings.Contains(r.err, c.say) {
			t.Errorf("%s: %s", name, r.err)
		}
	}
	alter(1, "--set-property", "A=1", "--out", msi, "--replace")
	alter(1, "--set-property", "A=1", "--out", "site.mst", "--transform", "site.mst", "--replace")
	mustRun(t, dir, 1, "package", "compare", msi, "copy.msi", "--out", msi, "--replace")
	if tree(t, dir)[msi] != before {
		t.Error("a transform was written over the vendor's file")
	}
	alter(0, "--remove-row", "CustomAction,RunChartRuntime", "--along", "--out", "follow.mst")
	alter(0, "--set-property", "A=1", "--copy", "--out", msi, "--replace")
	if tree(t, dir)[msi] == before {
		t.Error("told by name, the package was not written")
	}
}

// A package on a read-only medium is altered: what is written goes elsewhere.
func TestAlterFromReadOnlyMedium(t *testing.T) {
	dir := layOut(t)
	medium := filepath.Join(t.TempDir(), "medium")
	if err := os.Mkdir(medium, 0o755); err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile(filepath.Join(dir, msi))
	if err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(medium, "old.msi")
	if err := os.WriteFile(path, b, 0o444); err != nil {
		t.Fatal(err)
	}
	if err := os.Chmod(medium, 0o555); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.Chmod(medium, 0o755) })
	mustRun(t, dir, 0, "package", "alter", path, "--set-property", "A=1")
	if _, err := os.Stat(filepath.Join(dir, "old.mst")); err != nil {
		t.Error(err)
	}
}

func TestUnpack(t *testing.T) {
	dir := layOut(t)
	mustRun(t, dir, 0, "package", "unpack", msi, "--into", "inside")
	files := tree(t, filepath.Join(dir, "inside"))
	if len(onlyFiles(files)) != 4 || files[filepath.FromSlash("files/ProgramFilesFolder/Saltmarsh Quay/Berthline/Read me.txt")] == "" ||
		!strings.HasPrefix(files[filepath.FromSlash("binary/ChartSetup.exe")], "MZ made-up") {
		t.Errorf("%d files: %v", len(files), files)
	}
	if r := mustRun(t, dir, 1, "package", "unpack", msi, "--into", "inside"); !strings.Contains(r.err, "there already") {
		t.Error(r.err)
	}
	mustRun(t, dir, 0, "package", "unpack", msi, "--only", "binary/*", "--into", "one")
	if n := len(onlyFiles(tree(t, filepath.Join(dir, "one")))); n != 1 {
		t.Errorf("--only: %d files", n)
	}
	mustRun(t, dir, 3, "package", "unpack", msi, "--only", "*.tide")
	mustRun(t, dir, 1, "package", "unpack", "berthline.log")
}

// A refusal of the old package leads to its gate, and the fix to a transform
// and back.
func TestFixOfAGate(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	if r := mustRun(t, dir, 3, "why", "planner31.log"); !strings.Contains(r.out,
		"next        hollowkey fix planner31.log --machine ELLERY-D07 --preview") {
		t.Error(r.out)
	}
	for remedy, file := range map[string]string{"1": "berthline-planner-3.1.mst", "2": "berthline-planner-3.1-altered.msi"} {
		mustRun(t, dir, 0, "fix", "planner31.log", "--machine", "ELLERY-D07", "--remedy", remedy, "--preview")
		if d := differs(before, tree(t, twin)); len(d) > 0 {
			t.Fatalf("the preview changed %v", d)
		}
		mustRun(t, dir, 0, "fix", "planner31.log", "--machine", "ELLERY-D07", "--remedy", remedy, "--yes")
		made := filepath.Join(twin, "disk", "C", "Deploy", file)
		if _, err := os.Stat(made); err != nil {
			t.Fatal(err)
		}
		if remedy == "1" {
			command := tree(t, twin)[filepath.FromSlash("disk/C/Deploy/berthline-planner-3.1-install.cmd")]
			if !strings.Contains(command, `msiexec /i "C:\Deploy\berthline-planner-3.1.msi" REBOOT="ReallySuppress" TRANSFORMS="C:\Deploy\berthline-planner-3.1.mst" /l*v "%TEMP%\berthline-planner-3.1.log"`) {
				t.Errorf("the command: %q", command)
			}
			if g := find(gatesOf(t, dir, 0, "--machine", "ELLERY-D07", "--transform", made), "VersionNT >= 501"); g.Answer != "passes" {
				t.Errorf("with the transform: %+v", g)
			}
		}
		mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
		if d := differs(before, tree(t, twin)); len(d) > 0 {
			t.Errorf("after undo these differ: %v", d)
		}
	}
}

func TestIniStep(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	deploy := filepath.Join(twin, "disk", "C", "Deploy")
	const ini = "; Pilot Roster\r\n[Gate]\r\nNewestBuild = 18363\r\n; the end"
	write(t, deploy, "setup.ini", ini)
	before := tree(t, twin)
	step := func(code int, more ...string) result {
		args := []string{"fix", "--machine", "ELLERY-D07", "--step", "ini", "--arg", `file=C:\Deploy\setup.ini`, "--arg", "section=Gate",
			"--arg", "key=NewestBuild", "--arg", "value=19045"}
		return mustRun(t, dir, code, append(args, more...)...)
	}
	if r := step(0, "--preview"); !strings.Contains(r.out, "- NewestBuild=18363") || !strings.Contains(r.out, "+ NewestBuild=19045") ||
		len(differs(before, tree(t, twin))) > 0 {
		t.Error(r.out)
	}
	step(0, "--yes")
	if got := tree(t, deploy)["setup.ini"]; got != strings.Replace(ini, "18363", "19045", 1) {
		t.Errorf("%q", got)
	}
	write(t, deploy, "setup.ini", ini+"changed since")
	if r := mustRun(t, dir, 1, "undo", "--yes", "--machine", "ELLERY-D07"); !strings.Contains(r.err, "changed since") {
		t.Error(r.err)
	}
	write(t, deploy, "setup.ini", strings.Replace(ini, "18363", "19045", 1))
	mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
	// Where the account may not write, a copy is altered.
	if r := step(1, "--arg", "account=mwhitlow-of-nowhere", "--preview"); r.err == "" {
		t.Error("an account that is not there is taken")
	}
	step(0, "--arg", `copy=C:\Windows\Temp\Roster`, "--yes")
	copied := tree(t, filepath.Join(twin, "disk", "C", "Windows", "Temp", "Roster"))
	if copied["setup.ini"] != strings.Replace(ini, "18363", "19045", 1) || copied[msi] != before[filepath.FromSlash("disk/C/Deploy/"+msi)] ||
		tree(t, deploy)["setup.ini"] != ini {
		t.Errorf("the copy: %d files, %q", len(onlyFiles(copied)), copied["setup.ini"])
	}
	mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after undo these differ: %v", d)
	}
	for _, bad := range [][]string{{"--step", "ini"}, {"--step", "tide"}, {"--step", "ini", "--arg", "file"},
		{"--step", "service", "--arg", "depth=1"}} {
		mustRun(t, dir, 2, append([]string{"fix", "--machine", "ELLERY-D07", "--preview"}, bad...)...)
	}
}

// A package that another program starts by its name is altered under that name
// in a copy of its whole folder; the setup works from there, and undo takes all
// of it away.
func TestFixInACopiedFolder(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	write(t, filepath.Join(twin, "disk", "C", "Deploy"), "setup.exe", "MZ starts the package by its name\n")
	before := tree(t, twin)
	call := []string{"fix", "planner31.log", "--machine", "ELLERY-D07", "--folder", `C:\Quay Copy`}
	if r := mustRun(t, dir, 0, append(call, "--preview")...); !strings.Contains(r.out, "are copied along") ||
		len(differs(before, tree(t, twin))) > 0 {
		t.Errorf("preview: %s", r.out)
	}
	mustRun(t, dir, 0, append(call, "--yes")...)
	for _, name := range []string{"setup.exe", "berthline-planner-3.1.msi"} {
		if _, err := os.Stat(filepath.Join(twin, "disk", "C", "Quay Copy", name)); err != nil {
			t.Error(err)
		}
	}
	mustRun(t, dir, 0, "retry", "planner31.log", "--machine", "ELLERY-D07")
	if r := mustRun(t, dir, 0, append(call, "--yes")...); !strings.Contains(r.out, "already in place") {
		t.Errorf("a second time: %s", r.out)
	}
	mustRun(t, dir, 0, "undo", "--machine", "ELLERY-D07", "--yes")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("undo left %v", d)
	}
	mustRun(t, dir, 2, "fix", "tidebook.log", "--machine", "ELLERY-D07", "--folder", `C:\Other`, "--preview")
}
