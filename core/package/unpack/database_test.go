package unpack

import (
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/compound"
	"hollowkey/core/package/installdb"
)

// media writes a package with two files in a cabinet, which lies beside it or
// in it, and rows of Binary.
func media(t *testing.T, dir, cab string) string {
	t.Helper()
	db := installdb.New(installdb.Package, 1252)
	for _, r := range [][]any{
		{"Directory", "TARGETDIR", nil, "SourceDir"}, {"Directory", "APP", "TARGETDIR", "QUAY~1|Saltmarsh Quay"},
		{"Component", "Main", "{1A2B3C4D-0001-4000-8000-00000000C001}", "APP", 0, nil, "tide"},
		{"File", "tide", "Main", "TIDE~1.DLL|tide book.dll", 5, nil, nil, 512, 1}, {"File", "notes", "Main", "notes.txt", 4, nil, nil, 512, 2},
		{"Media", 1, 2, nil, cab, nil, nil},
	} {
		must(t, db.Insert(r[0].(string), r[1:]...))
	}
	must(t, db.Insert("Binary", "helper", []byte("MZ a program")))
	must(t, db.Insert("Binary", "banner.bmp", []byte("BM a picture")))
	must(t, db.Insert("Binary", "raw", []byte("nothing that is known")))
	sum := &installdb.Summary{CodePage: 1252}
	sum.SetText(installdb.SummaryTemplate, "x64;1033")
	sum.SetText(installdb.SummaryRevision, "{1A2B3C4D-0001-4000-8000-00000000B001}")
	db.SetSummary(sum)
	if inner, embedded := strings.CutPrefix(cab, "#"); embedded {
		b, err := cabinet.Write([]cabinet.Item{{Name: "tide", Data: []byte("tides")}, {Name: "notes", Data: []byte("note")}})
		must(t, err)
		db.AddStream(inner, b)
	}
	name := filepath.Join(dir, "quay.msi")
	f, err := os.Create(name)
	must(t, err)
	defer f.Close()
	must(t, db.Write(f))
	return name
}

// taken unpacks a file and reads what came out, by its path with strokes
// forward.
func taken(t *testing.T, name string) map[string]string {
	t.Helper()
	out := t.TempDir()
	_, err := Extract(name, out, everything, func(int64) {})
	must(t, err)
	got := map[string]string{}
	must(t, filepath.WalkDir(out, func(p string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		rel, _ := filepath.Rel(out, p)
		got[filepath.ToSlash(rel)] = string(b)
		return err
	}))
	return got
}

// Files come out under the folders and names that they get on a machine, rows
// of Binary under their own, with the ending that their first bytes tell.
func TestPackageWithItsCabinet(t *testing.T) {
	want := map[string]string{"files/Saltmarsh Quay/tide book.dll": "tides", "files/Saltmarsh Quay/notes.txt": "note",
		"binary/helper.exe": "MZ a program", "binary/banner.bmp": "BM a picture", "binary/raw": "nothing that is known"}
	within := taken(t, media(t, t.TempDir(), "#data1"))
	if !maps.Equal(within, want) {
		t.Errorf("embedded: %v", within)
	}
	dir := t.TempDir()
	name := media(t, dir, "data1.cab")
	if _, err := Extract(name, t.TempDir(), everything, func(int64) {}); err == nil ||
		!strings.Contains(err.Error(), "data1.cab should lie beside") &&
			!strings.Contains(err.Error(), `"data1.cab"`) {
		t.Errorf("without its cabinet: %v", err)
	}
	b, err := cabinet.Write([]cabinet.Item{{Name: "tide", Data: []byte("tides")}, {Name: "notes", Data: []byte("note")}})
	must(t, err)
	must(t, os.WriteFile(filepath.Join(dir, "data1.cab"), b, 0o644))
	if beside := taken(t, name); !maps.Equal(beside, want) {
		t.Errorf("beside: %v", beside)
	}
}

// A transform that a package holds comes out as a file that is one.
func TestEmbeddedTransform(t *testing.T) {
	dir := t.TempDir()
	name := media(t, dir, "#data1")
	f, err := os.Open(name)
	must(t, err)
	defer f.Close()
	info, err := f.Stat()
	must(t, err)
	whole, err := compound.Open(f, info.Size())
	must(t, err)
	root, err := whole.Copy(whole.Root)
	must(t, err)
	within, err := whole.Copy(whole.Root)
	must(t, err)
	within.Name = "Site"
	root.Children = append(root.Children, within)
	outer, err := os.Create(filepath.Join(dir, "outer.msi"))
	must(t, err)
	must(t, compound.Write(outer, root, 3))
	must(t, outer.Close())

	list, err := List(outer.Name())
	must(t, err)
	at := slices.IndexFunc(list, func(i Item) bool { return i.Kind == MstKind })
	if at < 0 || list[at].Path != "storages/Site.mst" || list[at].Size == 0 {
		t.Fatalf("%+v", list)
	}
	got := taken(t, outer.Name())["storages/Site.mst"]
	inner := strings.NewReader(got)
	again, err := compound.Open(inner, inner.Size())
	if err != nil {
		t.Fatal(err)
	}
	node, err := again.Copy(again.Root)
	must(t, err)
	if contentSize(node) != contentSize(within) {
		t.Errorf("%d bytes came out, %d were in", contentSize(node), contentSize(within))
	}
}

// What a temporary file held is read once, and then it is gone.
func TestTemporaryFilesGo(t *testing.T) {
	f, err := os.CreateTemp(t.TempDir(), "x")
	must(t, err)
	_, err = f.WriteString("tide")
	must(t, err)
	_, err = f.Seek(0, io.SeekStart)
	must(t, err)
	b, err := io.ReadAll(&fading{f})
	if _, gone := os.Stat(f.Name()); string(b) != "tide" || err != nil || !os.IsNotExist(gone) {
		t.Errorf("%q, %v; the file: %v", b, err, gone)
	}
}
