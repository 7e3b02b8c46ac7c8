package cached_test

import (
	"archive/zip"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/package/cached"
	"hollowkey/demo/demotest"
)

const installer = `C:\Windows\Installer\`

func read(t *testing.T, m cached.Machine) map[string]cached.Entry {
	t.Helper()
	list, err := cached.Read(m)
	if err != nil {
		t.Fatal(err)
	}
	byName := map[string]cached.Entry{}
	for _, e := range list {
		byName[e.Name] = e
	}
	return byName
}

func put(t *testing.T, m *twin.Twin, path string, contents []byte) {
	t.Helper()
	err := m.WriteFile(path, func(f *os.File) error {
		_, err := f.Write(contents)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// Whatever lies where a cached package should be, the entry says what it is.
func TestStates(t *testing.T) {
	folder, m := demotest.LayOut(t)
	right, err := os.ReadFile(filepath.Join(folder, "share", "pilot-roster.msi"))
	if err != nil {
		t.Fatal(err)
	}
	ledger, err := os.ReadFile(filepath.Join(folder, "ELLERY-D07", "disk", "C", "Windows", "Installer", "2c71a.msi"))
	if err != nil {
		t.Fatal(err)
	}
	roster := read(t, m)["Pilot Roster"]
	if roster.State != cached.Missing || roster.Fine() || roster.Code == "" || roster.File == "" {
		t.Fatalf("%+v", roster)
	}
	for _, tt := range []struct {
		name string
		is   []byte
		want cached.State
		say  string
	}{
		{"another product's", ledger, cached.Wrong, "Wharfage Ledger"},
		{"another package of it", right, cached.Wrong, "another package of the product"},
		{"cut short", ledger[:700], cached.Damaged, ""},
		{"empty", nil, cached.Damaged, ""},
		{"no package", []byte("the lights are on"), cached.Damaged, "not a compound file"},
	} {
		put(t, m, roster.File, tt.is)
		e := read(t, m)["Pilot Roster"]
		if tt.name == "another package of it" && e.State == cached.Good { // the share holds the very one
			continue
		}
		if e.State != tt.want || e.Fine() || !strings.Contains(e.Detail, tt.say) {
			t.Errorf("%s: %s, %q", tt.name, e.State, e.Detail)
		}
	}
	if e := read(t, m)["Wharfage Ledger"]; e.State != cached.Good || !e.Fine() || e.Detail != "" {
		t.Errorf("the one beside it: %+v", e)
	}
}

// A machine that refuses to have files read.
type locked struct {
	*twin.Twin
	err error
}

func (l locked) Open(path string) (io.ReadCloser, error) {
	if strings.HasPrefix(path, installer) {
		return nil, fmt.Errorf("%s: %w", path, l.err)
	}
	return l.Twin.Open(path)
}

// What cannot be looked at is not called damaged.
func TestWhatCannotBeRead(t *testing.T) {
	_, m := demotest.LayOut(t)
	for _, tt := range []struct {
		err  error
		want cached.State
		fine bool
	}{{fs.ErrPermission, cached.Unreadable, false}, {machine.ErrUnsupported, cached.NotTaken, true}} {
		if e := read(t, locked{m, tt.err})["Wharfage Ledger"]; e.State != tt.want || e.Fine() != tt.fine || e.Detail == "" {
			t.Errorf("%v: %+v", tt.err, e)
		}
	}
}

// A registration without a file is told as one; a key that holds no product is
// passed over.
func TestRegistrations(t *testing.T) {
	_, m := demotest.LayOut(t)
	const products = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UserData\S-1-5-18\Products\`
	before := len(read(t, m))
	if err := m.CreateKey(products + `0123456789ABCDEF0123456789ABCDEF\Features`); err != nil {
		t.Fatal(err)
	}
	if n := len(read(t, m)); n != before {
		t.Errorf("%d entries; a key without a product made one of %d", n, before)
	}
	names, err := m.Subkeys(products[:len(products)-1])
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range names {
		_ = m.DeleteValue(products+n+`\InstallProperties`, "LocalPackage") // some have none
	}
	for name, e := range read(t, m) {
		if e.Kind == cached.Product && (e.State != cached.Unregistered || e.Fine()) {
			t.Errorf("%s: %+v", name, e)
		}
	}
	if err := m.DeleteKey(products[:len(products)-1]); err == nil {
		t.Error("a key with others below it was deleted")
	}
}

// The search goes by codes alone: a file of another name is found, inside of an
// archive too; one of the same name that is another package is not.
func TestSearch(t *testing.T) {
	folder, m := demotest.LayOut(t)
	roster := read(t, m)["Pilot Roster"]
	share := filepath.Join(folder, "share")
	found, skipped, err := cached.Search([]string{share}, []cached.Entry{roster}, nil)
	if err != nil || len(skipped) != 0 {
		t.Fatal(err, skipped)
	}
	src, ok := found[roster.Code]
	if !ok || src.Code != roster.PackageCode || len(src.Hash) != 64 {
		t.Fatalf("%+v", found)
	}
	f, err := src.Open()
	if err != nil {
		t.Fatal(err)
	}
	contents, err := io.ReadAll(f)
	if err != nil || int64(len(contents)) != f.Size {
		t.Errorf("%d bytes of %d, %v", len(contents), f.Size, err)
	}
	taken := f.Name()
	if err := f.Close(); err != nil {
		t.Error(err)
	}
	if _, err := os.Stat(taken); src.Inside != "" && err == nil {
		t.Errorf("%s is left", taken)
	}

	other := t.TempDir()
	if err := os.WriteFile(filepath.Join(other, "tides"), contents, 0o644); err != nil { // no extension at all
		t.Fatal(err)
	}
	if found, _, err := cached.Search([]string{other}, []cached.Entry{roster}, nil); err != nil || found[roster.Code].Hash != src.Hash {
		t.Errorf("under another name: %+v, %v", found, err)
	}
	zipped := t.TempDir()
	z, err := os.Create(filepath.Join(zipped, "old.zip"))
	if err != nil {
		t.Fatal(err)
	}
	w := zip.NewWriter(z)
	in, err := w.Create("deep/in/roster.msi")
	if err == nil {
		_, err = in.Write(contents)
	}
	if err != nil || w.Close() != nil || z.Close() != nil {
		t.Fatal(err)
	}
	if found, _, err := cached.Search([]string{zipped}, []cached.Entry{roster}, nil); err != nil ||
		found[roster.Code].Inside != "deep/in/roster.msi" {
		t.Errorf("in an archive: %+v, %v", found, err)
	}
	wrong := roster
	wrong.PackageCode = "{00000000-0000-0000-0000-000000000001}"
	if found, _, err := cached.Search([]string{share, other, zipped}, []cached.Entry{wrong}, nil); err != nil || len(found) != 0 {
		t.Errorf("another package was taken for it: %+v, %v", found, err)
	}
	unknown := roster
	unknown.PackageCode = ""
	if found, _, err := cached.Search([]string{share}, []cached.Entry{unknown}, nil); err != nil || len(found) != 0 {
		t.Errorf("a package was found for an entry that names none: %+v, %v", found, err)
	}
	gone := cached.Source{Path: filepath.Join(zipped, "old.zip"), Inside: "deep/other.msi"}
	if _, err := gone.Open(); err == nil || !strings.Contains(err.Error(), "holds no deep/other.msi any more") {
		t.Errorf("an item that is gone: %v", err)
	}
}
