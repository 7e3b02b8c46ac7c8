package realengine

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/package/alter"
	"hollowkey/core/package/compound"
	"hollowkey/core/package/installdb"
	"hollowkey/demo"
	"hollowkey/realengine/ask"
)

// planner saves the demo's old package, with a prerequisite that really fails.
func planner(t *testing.T) string {
	t.Helper()
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	program := filepath.Join(t.TempDir(), "fails.exe")
	if out, err := exec.Command("x86_64-w64-mingw32-gcc", "-o", program, "testdata/fails.c").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	b, err := os.ReadFile(program)
	must(t, err)
	db, err := demo.Planner()
	must(t, err)
	binary, err := db.Table("Binary")
	must(t, err)
	must(t, db.SetCell("Binary", binary.Find("ChartSetup"), "Data", installdb.Value{Stream: compound.Bytes(b)}))
	return save(t, db, "planner.msi")
}

// install runs the engine's setup and gives its exit code.
func install(t *testing.T, args ...string) int {
	t.Helper()
	return engine(t, ask.Request{Run: append([]string{"msiexec"}, args...)}).Exit
}

// altered carries edits out, and saves a transform and a copy.
func altered(t *testing.T, path string, edits ...alter.Edit) (transform, copied string) {
	t.Helper()
	db := open(t, path)
	_, err := alter.Apply(db, edits, false)
	must(t, err)
	mst, _, err := alter.Transform(open(t, path), db)
	must(t, err)
	transform = save(t, mst, "planner.mst")
	_, err = alter.FreshCode(db)
	must(t, err)
	return transform, save(t, db, "copy.msi")
}

var (
	dropCondition = alter.Edit{Kind: "remove-row", Text: "LaunchCondition,VersionNT >= 501 AND VersionNT < 600"}
	dropProgram   = alter.Edit{Kind: "remove-row", Text: "InstallExecuteSequence,RunChartRuntime"}
)

func TestInstallsOnceAltered(t *testing.T) {
	path := planner(t)
	folder := filepath.Join(prefix, "drive_c", "Program Files (x86)", "Saltmarsh Quay", "Berthline")
	there := func() bool {
		_, err := os.Stat(filepath.Join(folder, "Berth.exe"))
		return err == nil
	}
	if code := install(t, "/i", windowsPath(path), "/qn"); code != 1603 || there() {
		t.Fatalf("untouched: exit %d, installed %v; want the launch condition to refuse with 1603", code, there())
	}
	condition, _ := altered(t, path, dropCondition)
	if code := install(t, "/i", windowsPath(path), "/qn", "TRANSFORMS="+windowsPath(condition)); code == 0 || there() {
		t.Fatalf("without the launch condition: exit %d, installed %v; want the prerequisite to fail", code, there())
	}
	both, copied := altered(t, path, dropCondition, dropProgram)
	loose, _ := altered(t, path, alter.Edit{Kind: "set-condition",
		Text: "LaunchCondition,VersionNT >= 501 AND VersionNT < 600,VersionNT >= 501"},
		alter.Edit{Kind: "set-condition", Text: "InstallExecuteSequence,RunChartRuntime,0"},
		alter.Edit{Kind: "set-property", Text: "ChartRuntimeVersion=9.9 of the transform"})
	for name, args := range map[string][]string{
		"transform":               {"/i", windowsPath(path), "/qn", "TRANSFORMS=" + windowsPath(both)},
		"transform of conditions": {"/i", windowsPath(path), "/qn", "TRANSFORMS=" + windowsPath(loose)},
		"copy":                    {"/i", windowsPath(copied), "/qn"},
	} {
		if code := install(t, args...); code != 0 || !there() {
			t.Fatalf("%s: exit %d, installed %v", name, code, there())
		}
		for _, f := range []string{"tides.dat", "Read me.txt"} {
			if b, err := os.ReadFile(filepath.Join(folder, f)); err != nil || !strings.Contains(string(b), "Port Ellery") {
				t.Errorf("%s: %s was not copied from the cabinet: %v", name, f, err)
			}
		}
		if name == "transform of conditions" {
			out, err := wine("wine", "reg", "query", `HKLM\Software\Wow6432Node\Saltmarsh Quay\Berthline`, "/v", "Edition").CombinedOutput()
			if err != nil || !strings.Contains(string(out), "9.9 of the transform") {
				t.Errorf("the property that the transform sets did not reach the registry: %v\n%s", err, out)
			}
		}
		// The engine here forgets a product's transforms, so that they are
		// named again.
		if code := install(t, append([]string{"/x"}, args[1:]...)...); code != 0 || there() {
			t.Fatalf("%s: uninstall ends with %d, still there %v", name, code, there())
		}
	}
}

// A transform of ours does to a database in the engine's hands what Apply does
// in ours.
func TestEngineAppliesOurTransforms(t *testing.T) {
	for page, word := range map[int]string{1252: "Grüße", 932: "桟橋", 65001: "причал ü"} {
		from := save(t, everything(t, page, word), "from.msi")
		db := open(t, from)
		set := func(table, key, column string, v installdb.Value) {
			tb, err := db.Table(table)
			must(t, err)
			must(t, db.SetCell(table, tb.Find(key), column, v))
		}
		set("Berths", "North\t1", "Depth", installdb.IntValue(-12))
		set("Berths", "North\t1", "Note", installdb.Value{})
		set("Berths", "North\t2", "Label", installdb.TextValue(word+word))
		set("Berths", "North\t2", "Small", installdb.IntValue(32767))
		set("Berths", "East\t-32767", "Long", installdb.TextValue(strings.Repeat("now longer ", 8000)))
		set("Property", "ProductName", "Value", installdb.TextValue(word))
		must(t, db.Insert("Berths", "Pier", 9, 3, nil, word, nil, 5, []byte("plan of the pier"), "x"))
		must(t, db.Insert("Property", "NEWPROPERTY", "of the transform"))
		must(t, db.Insert("LaunchCondition", "VersionNT", word))
		b, err := db.Table("Berths")
		must(t, err)
		must(t, db.DeleteRow("Berths", b.Find("South\t32767")))
		must(t, db.DropTable("Empty_Table.With.Odd_Name12"))
		mst, _, err := alter.Transform(open(t, from), db)
		must(t, err)
		path := save(t, mst, "ours.mst")

		same(t, db, engine(t, ask.Request{Database: windowsPath(from), Apply: windowsPath(path), Dump: true}))

		again := open(t, from)
		changes, err := installdb.ReadTransform(open(t, path), again.Columns)
		must(t, err)
		must(t, again.Apply(changes))
		if d, err := installdb.Compare(db, again); err != nil || !d.Empty() {
			t.Errorf("code page %d: read back and applied, the transform gives something else: %v, %d changes", page, err, len(d.Changes))
		}
	}
}
