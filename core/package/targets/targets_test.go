package targets_test

import (
	"errors"
	"io"
	"io/fs"
	"strings"
	"testing"

	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/targets"
	"hollowkey/demo"
	"hollowkey/demo/demotest"
)

// A package is opened where it lies, whatever the case of its path; what is not
// one is named.
func TestOpen(t *testing.T) {
	_, m := demotest.LayOut(t)
	for _, path := range []string{demo.PlannerPath, strings.ToUpper(demo.PlannerPath)} {
		db, f, err := targets.Open(m, path)
		if err != nil {
			t.Fatal(err)
		}
		if all, err := db.Properties(); err != nil || all["ProductName"] != "Berthline Planner" {
			t.Errorf("%s: %q, %v", path, all["ProductName"], err)
		}
		if err := f.Close(); err != nil {
			t.Error(err)
		}
	}
	if _, _, err := targets.Open(m, `C:\Deploy\none.msi`); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("none: %v", err)
	}
	if _, _, err := targets.Open(m, `C:\Deploy\readme.txt`); err == nil || !strings.Contains(err.Error(), `C:\Deploy\readme.txt: `) {
		t.Errorf("a text: %v", err)
	}
	if _, _, err := targets.Open(pipes{m}, demo.PlannerPath); !errors.Is(err, machine.ErrUnsupported) {
		t.Errorf("a machine that only reads forward: %v", err)
	}
}

// A machine that gives files from their beginning to their end only.
type pipes struct{ *twin.Twin }

func (p pipes) Open(path string) (io.ReadCloser, error) {
	f, err := p.Twin.Open(path)
	return struct{ io.ReadCloser }{f}, err
}

// The files of a package stand below its folders, with their sizes; each folder
// once.
func TestFiles(t *testing.T) {
	_, m := demotest.LayOut(t)
	db, err := demo.Planner()
	if err != nil {
		t.Fatal(err)
	}
	files, folders, err := targets.Files(db, m)
	if err != nil {
		t.Fatal(err)
	}
	table, err := db.TableOrEmpty("File")
	if err != nil {
		t.Fatal(err)
	}
	sum, want := int64(0), int64(0)
	for path, size := range files {
		sum += size
		if !strings.HasPrefix(path, `C:\`) || strings.Contains(path, `\\`) || strings.Contains(path, "|") {
			t.Errorf("the path %q", path)
		}
	}
	for _, r := range table.Rows {
		want += int64(table.Get(r, "FileSize").Int)
	}
	if sum != want || len(files) == 0 {
		t.Errorf("%d files of %d bytes; the table has %d rows of %d", len(files), sum, len(table.Rows), want)
	}
	seen := map[string]bool{}
	for _, f := range folders {
		if seen[f] || strings.HasSuffix(f, `\`) {
			t.Errorf("the folder %q is there twice or ends in a stroke", f)
		}
		seen[f] = true
	}
}

// A package without files touches none, and one whose folder nobody knows
// leaves those files out.
func TestNothingToPut(t *testing.T) {
	_, m := demotest.LayOut(t)
	db, err := demo.Planner()
	if err != nil {
		t.Fatal(err)
	}
	components, err := db.TableOrEmpty("Component")
	if err != nil || len(components.Rows) == 0 {
		t.Fatal(err)
	}
	for i := range components.Rows {
		if err := db.SetCell("Component", i, "Directory_", installdb.TextValue("NOWHERE")); err != nil {
			t.Fatal(err)
		}
	}
	files, folders, err := targets.Files(db, m)
	if len(files)+len(folders) != 0 {
		t.Errorf("%v, %v, %v", files, folders, err)
	}
}
