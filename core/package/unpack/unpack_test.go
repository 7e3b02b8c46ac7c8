package unpack

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"io"
	"os"
	"path"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/package/cabinet"
	"hollowkey/demo"
)

func must(t testing.TB, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func planner(t *testing.T) []byte {
	t.Helper()
	db, err := demo.Planner()
	must(t, err)
	f, err := os.Create(filepath.Join(t.TempDir(), "p.msi"))
	must(t, err)
	defer f.Close()
	must(t, db.Write(f))
	b, err := os.ReadFile(f.Name())
	must(t, err)
	return b
}

func zipOf(t *testing.T, files map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for name, text := range files {
		f, err := w.Create(name)
		must(t, err)
		io.WriteString(f, text)
	}
	must(t, w.Close())
	return b.Bytes()
}

// setupProgram is a program with a package in its resources, a cabinet in a
// section of its own, and a zip behind its end.
func setupProgram(t *testing.T, msi, cab, archive []byte) []byte {
	t.Helper()
	const head = 1024
	b := make([]byte, head)
	copy(b, "MZ")
	binary.LittleEndian.PutUint32(b[0x3C:], 128)
	copy(b[128:], "PE\x00\x00")
	binary.LittleEndian.PutUint16(b[128+6:], 2)
	section := func(i int, name string, begin, size int) {
		s := b[128+24+40*i:]
		copy(s, name)
		binary.LittleEndian.PutUint32(s[16:], uint32(size))
		binary.LittleEndian.PutUint32(s[20:], uint32(begin))
	}
	noise := []byte("PK\x03\x04 this is no zip, MSCF\x00\x00\x00\x00 no cabinet, \xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1 no package")
	section(0, ".rsrc", head, len(noise)+len(msi))
	section(1, ".cargo", head+len(noise)+len(msi), len(cab))
	return bytes.Join([][]byte{b, noise, msi, cab, archive}, nil)
}

func TestProgram(t *testing.T) {
	msi := planner(t)
	cab, err := cabinet.Write([]cabinet.Item{{Name: "tides.dat", Data: []byte("tides")}, {Name: `..\..\evil.txt`, Data: []byte("evil")}})
	must(t, err)
	archive := zipOf(t, map[string]string{"read me.txt": "hello", "../../out.txt": "out", "CON.txt": "x"})
	dir := t.TempDir()
	name := filepath.Join(dir, "setup.exe")
	must(t, os.WriteFile(name, setupProgram(t, msi, cab, archive), 0o644))
	list, err := List(name)
	must(t, err)
	where := map[Kind]string{}
	for _, i := range list {
		if where[i.Kind] == "" {
			where[i.Kind] = i.Where + "; " + i.About
		}
		if strings.Contains(i.Path, "..") || path.IsAbs(i.Path) {
			t.Errorf("the path %q leads out", i.Path)
		}
	}
	if !strings.HasPrefix(where[PackageKind], "resources, byte") ||
		!strings.Contains(where[PackageKind], "Berthline Planner 3.1.0 {7B3D1A60") || !strings.HasPrefix(where[CabinetKind], "section .cargo") {
		t.Errorf("where: %v", where)
	}
	into := filepath.Join(dir, "deep", "inside")
	done, err := Extract(name, into, func(Item) bool { return true }, func(int64) {})
	must(t, err)
	found := map[string]string{}
	for _, i := range done {
		b, err := os.ReadFile(filepath.Join(into, filepath.FromSlash(i.Path)))
		must(t, err)
		found[path.Base(i.Path)] = string(b)
		if i.Kind == PackageKind && !bytes.Equal(b, msi) {
			t.Errorf("the package came out with %d bytes, not %d", len(b), len(msi))
		}
	}
	for n, want := range map[string]string{"tides.dat": "tides", "evil.txt": "evil", "read me.txt": "hello", "out.txt": "out",
		"_CON.txt": "x"} {
		if found[n] != want {
			t.Errorf("%s holds %q; there are %d items", n, found[n], len(done))
		}
	}
	if entries, _ := os.ReadDir(filepath.Join(dir, "deep")); len(entries) != 1 {
		t.Errorf("something was written outside: %v", entries)
	}
}

func TestFolderOfUpdates(t *testing.T) {
	dir := t.TempDir()
	must(t, os.MkdirAll(filepath.Join(dir, "x64"), 0o755))
	must(t, os.WriteFile(filepath.Join(dir, "x64", "planner.msi"), planner(t), 0o644))
	must(t, os.WriteFile(filepath.Join(dir, "notes.txt"), []byte("x"), 0o644))
	must(t, os.WriteFile(filepath.Join(dir, "broken.msp"), []byte("x"), 0o644))
	list, err := List(dir)
	must(t, err)
	if len(list) != 2 || list[0].Path != "broken.msp" || list[0].About != "" || list[1].Path != "x64/planner.msi" ||
		!strings.Contains(list[1].About, "Berthline Planner") {
		t.Errorf("%+v", list)
	}
}

func TestSafePath(t *testing.T) {
	for in, want := range map[string]string{
		`..\..\x`: "_/_/x", "/etc/passwd": "etc/passwd", `C:\x`: "C_/x", "a/./b": "a/_/b", "nul": "_nul", "com1.txt": "_com1.txt",
		"a<b>|?*\"": "a_b_____", "": "_", "...": "_", "name. ": "name", "tab\there": "tab_here",
		strings.Repeat("x", 200): strings.Repeat("x", 60) + "~" + strings.Repeat("x", 59),
	} {
		if got := SafePath(in); got != want {
			t.Errorf("%q gives %q, want %q", in, got, want)
		}
	}
}

func FuzzSafePath(f *testing.F) {
	f.Add(`..\..\x`)
	f.Fuzz(func(t *testing.T, in string) {
		p := SafePath(in)
		if !filepath.IsLocal(filepath.FromSlash(p)) || strings.ContainsAny(p, "\\:\x00") || SafePath(p) != p {
			t.Errorf("%q gives %q, and that %q", in, p, SafePath(p))
		}
	})
}

func FuzzInside(f *testing.F) {
	cab, _ := cabinet.Write([]cabinet.Item{{Name: "a", Data: []byte("b")}})
	f.Add(append([]byte("MZ program "), cab...))
	f.Fuzz(func(t *testing.T, b []byte) {
		if len(b) > 1<<16 {
			return
		}
		w := &walk{used: map[string]int{}, visit: func(Item) (io.WriteCloser, error) { return nil, nil }}
		w.inside(bytes.NewReader(b), int64(len(b)), "", "", "x", 0)
	})
}
