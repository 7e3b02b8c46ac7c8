package unpack

import (
	"archive/zip"
	"bytes"
	"errors"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/package/cabinet"
)

func save(t *testing.T, name string, contents []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	must(t, os.WriteFile(path, contents, 0o644))
	return path
}

func everything(Item) bool { return true }

// Nothing that is there is overwritten, and what was there stays.
func TestNothingIsOverwritten(t *testing.T) {
	name := save(t, "a.zip", zipOf(t, map[string]string{"read.txt": "new"}))
	into := t.TempDir()
	must(t, os.WriteFile(filepath.Join(into, "read.txt"), []byte("old"), 0o644))
	if _, err := Extract(name, into, everything, func(int64) {}); err == nil || !strings.Contains(err.Error(), "read.txt is there already") {
		t.Errorf("%v", err)
	}
	if b, _ := os.ReadFile(filepath.Join(into, "read.txt")); string(b) != "old" {
		t.Errorf("it holds %q now", b)
	}
}

// A link that leads out of the folder is not followed.
func TestLinksLeadNowhere(t *testing.T) {
	name := save(t, "a.zip", zipOf(t, map[string]string{"out/evil.txt": "evil"}))
	into, outside := t.TempDir(), t.TempDir()
	if err := os.Symlink(outside, filepath.Join(into, "out")); err != nil {
		t.Skip(err)
	}
	if _, err := Extract(name, into, everything, func(int64) {}); err == nil {
		t.Error("no error")
	}
	if list, _ := os.ReadDir(outside); len(list) != 0 {
		t.Errorf("%d files were written outside", len(list))
	}
}

// Only what is wanted is written, and progress hears of each byte of it.
func TestChosenItems(t *testing.T) {
	name := save(t, "a.zip", zipOf(t, map[string]string{"a.txt": "aaa", "b.txt": "bbbbb", "c/d.txt": "d"}))
	into := t.TempDir()
	heard := int64(0)
	done, err := Extract(name, into, func(i Item) bool { return strings.HasSuffix(i.Path, "b.txt") || i.Path == "c/d.txt" },
		func(n int64) { heard += n })
	must(t, err)
	if len(done) != 2 || heard != 6 {
		t.Errorf("%d items of %d bytes", len(done), heard)
	}
	if _, err := os.Stat(filepath.Join(into, "a.txt")); err == nil {
		t.Error("what nobody asked for was written")
	}
}

// A visitor whose place is full ends the walk with its error.
type full struct{}

func (full) Write([]byte) (int, error) { return 0, errFull }
func (full) Close() error              { return nil }

var errFull = errors.New("no space is left")

func TestAFullPlaceEndsTheWalk(t *testing.T) {
	cab, err := cabinet.Write([]cabinet.Item{{Name: "a.dat", Data: bytes.Repeat([]byte("a"), 5000)}})
	must(t, err)
	for name, contents := range map[string][]byte{"a.zip": zipOf(t, map[string]string{"a.dat": "aaa"}), "a.cab": cab} {
		err := Walk(save(t, name, contents), func(Item) (io.WriteCloser, error) { return full{}, nil })
		if !errors.Is(err, errFull) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// An archive within an archive is an item, to be looked into by itself: what a
// zip of zips promises is never unpacked on the way.
func TestArchivesWithin(t *testing.T) {
	inner := zipOf(t, map[string]string{"pearl.txt": "pearl"})
	list, err := List(save(t, "a.zip", zipOf(t, map[string]string{"next.zip": string(inner)})))
	must(t, err)
	if len(list) != 1 || list[0].Kind != ArchiveKind || list[0].Path != "next.zip" || list[0].Size != int64(len(inner)) {
		t.Errorf("%+v", list)
	}
}

// Files that are cut short, empty or none of ours say so, without a panic.
func TestWhatIsNoSource(t *testing.T) {
	whole := zipOf(t, map[string]string{"a.txt": strings.Repeat("a", 300)})
	msi := planner(t)
	for name, contents := range map[string][]byte{
		"empty.exe": nil, "text.exe": []byte("the lights are on"), "half.zip": whole[:len(whole)/2], "half.msi": msi[:len(msi)/3],
		"head.cab": []byte("MSCF\x00\x00\x00\x00"), "head.exe": []byte("MZ" + strings.Repeat("\x00", 58) + "\xff\xff\xff\x7f"),
	} {
		list, err := List(save(t, name, contents))
		if err == nil {
			t.Errorf("%s: %d items", name, len(list))
		}
	}
	if _, err := List(filepath.Join(t.TempDir(), "none.msi")); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("none: %v", err)
	}
}

// Two things of one name stay apart.
func TestNamesStayApart(t *testing.T) {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, text := range []string{"one", "two", "three"} {
		f, err := w.Create("same.txt")
		must(t, err)
		_, err = io.WriteString(f, text)
		must(t, err)
	}
	must(t, w.Close())
	into := t.TempDir()
	done, err := Extract(save(t, "a.zip", b.Bytes()), into, everything, func(int64) {})
	must(t, err)
	var got []string
	for _, i := range done {
		text, err := os.ReadFile(filepath.Join(into, i.Path))
		must(t, err)
		got = append(got, string(text))
	}
	slices.Sort(got)
	if strings.Join(got, " ") != "one three two" {
		t.Errorf("%q", got)
	}
}

// What a small file may hold is bounded by its size and by what is free, and
// marks of archives that are none cost nothing.
func TestBudget(t *testing.T) {
	name := save(t, "a.cab", []byte("MSCF"))
	most, err := budget(name, t.TempDir())
	if err != nil || most > always+4*maxRatio {
		t.Errorf("%d, %v", most, err)
	}
	c := counted{total: new(int64), most: 10, progress: func(int64) {}}
	if _, err := c.Write(make([]byte, 11)); !errors.Is(err, ErrTooMuch) {
		t.Errorf("%v", err)
	}
	marks := append([]byte("MZ"), bytes.Repeat([]byte("PK\x03\x04...."), 1<<20)...)
	if list, err := List(save(t, "marks.exe", marks)); !errors.Is(err, ErrNothing) || len(list) > 0 {
		t.Errorf("%d items, %v", len(list), err)
	}
}
