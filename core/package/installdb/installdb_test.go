package installdb

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/package/compound"
)

func must(t testing.TB, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// sample is a small package with all that packages have.
func sample(t testing.TB) *Database {
	t.Helper()
	db := New(Package, 1252)
	for i := range 50 {
		must(t, db.Insert("Property", fmt.Sprintf("Quay%02d", i), fmt.Sprintf("value %d", i%7)))
	}
	must(t, db.Insert("Binary", "Setup", bytes.Repeat([]byte("MZ program "), 900)))
	must(t, db.Insert("Binary", "Small", []byte("x")))
	must(t, db.Insert("LaunchCondition", "VersionNT >= 600", "Größe"))
	must(t, db.Insert("Media", 1, 5, nil, "#quay.cab"))
	must(t, db.Insert("CustomAction", "RunSetup", 2, "Setup", "/quiet"))
	must(t, db.Insert("InstallExecuteSequence", "RunSetup", "NOT Installed", 150))
	db.AddStream("quay.cab", bytes.Repeat([]byte("cab"), 5000))
	s := &Summary{CodePage: 1252}
	s.SetText(SummarySubject, "Berthline Planner")
	s.SetText(SummaryTemplate, "x64;1033,1031")
	s.SetText(SummaryRevision, "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C99}")
	s.SetNumber(SummaryPages, 500)
	db.SetSummary(s)
	return db
}

func save(t testing.TB, db *Database) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "file.msi")
	f, err := os.Create(path)
	must(t, err)
	defer f.Close()
	must(t, db.Write(f))
	return path
}

func load(t testing.TB, path string) *Database {
	t.Helper()
	f, err := os.Open(path)
	must(t, err)
	t.Cleanup(func() { f.Close() })
	info, err := f.Stat()
	must(t, err)
	db, err := Open(f, info.Size())
	must(t, err)
	return db
}

func TestReadWriteRead(t *testing.T) {
	first := sample(t)
	once := load(t, save(t, first))
	if d, err := Compare(first, once); err != nil || !d.Empty() {
		t.Fatalf("written and read: %v, %+v", err, d.Changes)
	}
	twice := load(t, save(t, once))
	if d, err := Compare(first, twice); err != nil || !d.Empty() {
		t.Fatalf("twice: %v", err)
	}
	s, err := twice.Summary()
	must(t, err)
	if s.Platform() != "x64" || !slices.Equal(s.Languages(), []string{"1033", "1031"}) || s.Number(SummaryPages) != 500 || s.CodePage != 1252 {
		t.Errorf("summary: %+v", s)
	}
	if twice.Format != Package || twice.RowCount("Property") != 50 || twice.CodePage() != 1252 {
		t.Errorf("%s with %d properties, code page %d", twice.Format, twice.RowCount("Property"), twice.CodePage())
	}
}

// Streams and tables that an alteration does not touch come out byte for byte.
func TestUntouchedStreams(t *testing.T) {
	path := save(t, sample(t))
	db := load(t, path)
	table, err := db.Table("LaunchCondition")
	must(t, err)
	must(t, db.SetCell("LaunchCondition", 0, "Description", TextValue("a text that is new")))
	must(t, db.DeleteRow("LaunchCondition", table.Find("VersionNT >= 600")))
	must(t, db.Insert("LaunchCondition", "VersionNT", "another"))
	after := save(t, db)
	streams := func(path string) map[string]string {
		f := load(t, path).file
		m := map[string]string{}
		for _, e := range f.Root.Children {
			b, err := f.ReadAll(e, 1<<20)
			must(t, err)
			m[e.Name] = string(b)
		}
		return m
	}
	was, now := streams(path), streams(after)
	changed := map[string]bool{encodeName("LaunchCondition", true): true, encodeName("_StringPool", true): true,
		encodeName("_StringData", true): true, encodeName("_Columns", true): true, encodeName("_Tables", true): true}
	for name := range was {
		if !changed[name] && was[name] != now[name] {
			n, _ := decodeName(name)
			t.Errorf("the stream %q changed", n)
		}
	}
	if len(was) != len(now) {
		t.Errorf("%d streams, before %d", len(now), len(was))
	}
	if strings.Contains(now[encodeName("_StringData", true)], "VersionNT >= 600") {
		t.Error("a string that nothing uses is still in the pool")
	}
}

func TestSignatureIsDroppedFromCopies(t *testing.T) {
	path := save(t, sample(t))
	f := load(t, path).file
	root, err := f.Copy(f.Root)
	must(t, err)
	root.Children = append(root.Children, &compound.Node{Name: "\x05DigitalSignature", Content: compound.Bytes("signature")})
	out, err := os.Create(filepath.Join(t.TempDir(), "signed.msi"))
	must(t, err)
	must(t, compound.Write(out, root, 4))
	must(t, out.Close())
	db := load(t, out.Name())
	if !db.Signed() {
		t.Fatal("the signature is not noticed")
	}
	if load(t, save(t, db)).Signed() {
		t.Error("an altered copy carries the old signature")
	}
}

// Both readings of long strings are understood.
func TestLongStrings(t *testing.T) {
	long := strings.Repeat("quay ", 40000) // 200,000 bytes
	for name, entry := range map[string][4]uint16{"high half in the first": {0, 3, 3392, 1}, "high half in the second": {0, 1, 3392, 3}} {
		index := binary.LittleEndian.AppendUint32(nil, 1252)
		for _, u := range entry {
			index = binary.LittleEndian.AppendUint16(index, u)
		}
		index = append(index, 4, 0, 1, 0) // "next", used once
		p, err := ReadPool(index, []byte(long+"next"))
		must(t, err)
		if s, _ := p.At(1); s != long {
			t.Errorf("%s: string 1 has %d bytes", name, len(s))
		}
		if s, _ := p.At(2); s != "next" {
			t.Errorf("%s: string 2 is %q", name, s)
		}
	}
}

func TestStreamNames(t *testing.T) {
	for _, name := range []string{"Property", "_StringPool", "Binary.Chart Setup-1", "a", "ab", "abc", "Ünüsual", "!x.y_z"} {
		for _, table := range []bool{true, false} {
			if got, is := decodeName(encodeName(name, table)); got != name || is != table {
				t.Errorf("%q comes back as %q, table %v", name, got, is)
			}
		}
	}
}

func TestEditsAreChecked(t *testing.T) {
	db := sample(t)
	for name, err := range map[string]error{
		"a key twice":        db.Insert("Property", "Quay01", "x"),
		"a text in a number": db.Insert("InstallExecuteSequence", "X", nil, "seven"),
		"no such table":      db.Insert("Berths", "x"),
		"a table twice":      db.AddTable("Property", StandardColumns("Property")),
		"too many cells":     db.Insert("Property", "a", "b", "c"),
		"a key cell":         db.SetCell("Property", 0, "Property", TextValue("x")),
		"a null in a number": db.Insert("CustomAction", "X", nil, "s"),
		"no such column":     db.SetCell("Property", 0, "Depth", TextValue("x")),
	} {
		if err == nil {
			t.Errorf("%s is taken", name)
		}
	}
	odd := New(Package, 932)
	must(t, odd.Insert("Property", "A", "Łódź"))
	if err := odd.Write(mustCreate(t)); err == nil || !strings.Contains(err.Error(), "code page 932") {
		t.Errorf("letters that the code page lacks: %v", err)
	}
	for _, v := range []struct{ shape, text string }{{"i2", "40000"}, {"i4", "x"}, {"s4", "five5"}, {"v0", "x"}, {"i2", ""}} {
		c, err := ParseShape("C", v.shape)
		must(t, err)
		if _, err := c.ParseValue(v.text); err == nil {
			t.Errorf("%q fits %s", v.text, v.shape)
		}
	}
	for _, shape := range []string{"", "x2", "i3", "s256", "*"} {
		if _, err := ParseShape("C", shape); err == nil {
			t.Errorf("the shape %q is taken", shape)
		}
	}
}

func mustCreate(t *testing.T) *os.File {
	f, err := os.Create(filepath.Join(t.TempDir(), "x"))
	must(t, err)
	t.Cleanup(func() { f.Close() })
	return f
}

// altered is the sample with every kind of change.
func altered(t testing.TB, db *Database) *Database {
	t.Helper()
	table, err := db.Table("Property")
	must(t, err)
	must(t, db.DeleteRow("Property", table.Find("Quay07")))
	must(t, db.SetCell("Property", table.Find("Quay08"), "Value", TextValue("other")))
	must(t, db.Insert("Property", "NEW", "Tor"))
	must(t, db.Insert("Binary", "More", []byte("more")))
	must(t, db.DropTable("LaunchCondition"))
	must(t, db.Insert("UIText", "AbsentPath", nil))
	return db
}

func TestTransformRoundTrip(t *testing.T) {
	path := save(t, sample(t))
	want := altered(t, load(t, path))
	d, err := Compare(load(t, path), want)
	must(t, err)
	mst, err := MakeTransform(d, 1252, &Summary{})
	must(t, err)
	db := load(t, path)
	changes, err := ReadTransform(load(t, save(t, mst)), db.Columns)
	must(t, err)
	if !slices.Equal(changes.Dropped, []string{"LaunchCondition"}) || changes.Added["UIText"] == nil {
		t.Errorf("tables that come and go: %v, %v", changes.Dropped, changes.Added)
	}
	must(t, db.Apply(changes))
	if d, err := Compare(want, db); err != nil || !d.Empty() {
		t.Errorf("applied: %v, %+v", err, d.Changes)
	}
	if s, err := db.Stream("Binary.More"); err != nil || s == nil || s.Size() != 4 {
		t.Errorf("the stream that the transform brings: %v, %v", s, err)
	}
	again := load(t, save(t, db))
	if d, err := Compare(want, again); err != nil || !d.Empty() {
		t.Errorf("applied, written and read: %v", err)
	}
	if _, err := ReadTransform(load(t, save(t, mst)), func(string) []Column { return nil }); !errors.Is(err, ErrNoTable) {
		t.Errorf("a transform for a package without its tables: %v", err)
	}
}

func TestPatchInfo(t *testing.T) {
	db := New(Patch, 0)
	must(t, db.Insert("MsiPatchSequence", "BerthFamily", nil, "3.1.2", 1))
	s := &Summary{CodePage: 1252}
	s.SetText(SummaryRevision, "{11111111-0000-0000-0000-000000000001}{22222222-0000-0000-0000-000000000002}")
	s.SetText(SummaryTemplate, "{7b3d1a60-52c4-4d0e-8f3a-91c2e6b7a031};{33333333-0000-0000-0000-000000000003}")
	s.SetText(SummaryLastAuthor, ":RTM.1;:#RTM.1")
	db.SetSummary(s)
	f := load(t, save(t, db)).file
	root, err := f.Copy(f.Root)
	must(t, err)
	// A transform in a storage of its own, as patches carry them.
	inner := New(Transform, 0)
	inner.SetSummary(&Summary{})
	d, err := Compare(New(Package, 0), New(Package, 0))
	must(t, err)
	mst, err := MakeTransform(d, 0, &Summary{})
	must(t, err)
	g := load(t, save(t, mst)).file
	storage, err := g.Copy(g.Root)
	must(t, err)
	storage.Name = "RTM.1"
	root.Children = append(root.Children, storage)
	out := mustCreate(t)
	must(t, compound.Write(out, root, 3))
	msp := load(t, out.Name())
	p, err := msp.PatchInfo()
	must(t, err)
	if msp.Format != Patch || p.Code != "{11111111-0000-0000-0000-000000000001}" || len(p.Obsoletes) != 1 || len(p.Targets) != 2 ||
		p.Targets[0] != "{7B3D1A60-52C4-4D0E-8F3A-91C2E6B7A031}" || !slices.Equal(p.Transforms, []string{"RTM.1", "#RTM.1"}) {
		t.Errorf("%s %+v", msp.Format, p)
	}
	in, err := msp.Storage("RTM.1")
	if err != nil || in.Format != Transform {
		t.Errorf("the storage: %v, %v", in, err)
	}
}

func TestCodes(t *testing.T) {
	const code, packed = "{7B3D1A60-52C4-4D0E-8F3A-91C2E6B7A031}", "06A1D3B74C25E0D4F8A3192C6E7B0A13"
	if got := PackCode(code); got != packed {
		t.Errorf("packed %s, want %s", got, packed)
	}
	if got := UnpackCode(packed); got != code {
		t.Errorf("unpacked %s", got)
	}
}

// The tables that describe the others can be read like any.
func TestCatalogue(t *testing.T) {
	db := load(t, save(t, sample(t)))
	names, err := db.Table("_Tables")
	must(t, err)
	columns, err := db.Table("_Columns")
	must(t, err)
	if len(names.Rows) != len(db.Tables()) || names.Find("Property") < 0 || columns.Find("Property\t2") < 0 ||
		columns.Find("Property\t3") >= 0 {
		t.Errorf("%d tables, %d columns", len(names.Rows), len(columns.Rows))
	}
	if _, err := db.Table("_Nothing"); !errors.Is(err, ErrNoTable) {
		t.Errorf("a table that is not there: %v", err)
	}
}

func TestStandardTables(t *testing.T) {
	if n := len(standardTables()); n < 75 {
		t.Errorf("%d tables", n)
	}
	for name, columns := range standardTables() {
		if !columns[0].Key() {
			t.Errorf("%s does not begin with its key", name)
		}
	}
}

// readAll reads everything of a database and ends.
func readAll(b []byte) {
	db, err := Open(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return
	}
	db.Summary()
	db.PatchInfo()
	for _, name := range db.Tables() {
		if t, err := db.Table(name); err == nil {
			for _, r := range t.Rows {
				for _, v := range r {
					if v.Stream != nil {
						io.Copy(io.Discard, io.LimitReader(v.Stream.Reader(), 1<<16))
					}
				}
			}
		}
	}
	ReadTransform(db, StandardColumns)
}

func FuzzDatabase(f *testing.F) {
	msi, err := os.ReadFile(save(f, sample(f)))
	must(f, err)
	f.Add(msi)
	path := save(f, sample(f))
	d, err := Compare(load(f, path), altered(f, load(f, path)))
	must(f, err)
	mst, err := MakeTransform(d, 1252, &Summary{})
	must(f, err)
	b, err := os.ReadFile(save(f, mst))
	must(f, err)
	f.Add(b)
	f.Fuzz(func(t *testing.T, b []byte) { readAll(b) })
}

// FuzzStreams puts any bytes into the streams of a sound container, where the
// fuzzing of whole files seldom gets.
func FuzzStreams(f *testing.F) {
	f.Add([]byte("\xE4\x04\x00\x00\x05\x00\x01\x00"), []byte("Quay1"), []byte{1, 0}, []byte{1, 0, 1, 0x80, 1, 0, 0x48, 0x2d},
		[]byte{1, 0, 0, 0})
	out, err := os.CreateTemp(f.TempDir(), "x") // one for all executions of a worker
	must(f, err)
	f.Cleanup(func() { out.Close() })
	f.Fuzz(func(t *testing.T, pool, data, tables, columns, rows []byte) {
		root := &compound.Node{Class: classOf(Package)}
		if len(rows)%2 == 1 {
			root.Class = classOf(Transform)
		}
		for name, b := range map[string][]byte{"_StringPool": pool, "_StringData": data, "_Tables": tables, "_Columns": columns,
			"Property": rows} {
			root.Children = append(root.Children, &compound.Node{Name: encodeName(name, true), Content: compound.Bytes(b)})
		}
		root.Children = append(root.Children, &compound.Node{Name: summaryStream, Content: compound.Bytes(rows)})
		must(t, out.Truncate(0))
		must(t, compound.Write(out, root, 3))
		b, err := os.ReadFile(out.Name())
		must(t, err)
		readAll(b)
	})
}

func FuzzPool(f *testing.F) {
	f.Add([]byte("\xE4\x04\x00\x00\x05\x00\x01\x00\x00\x00\x01\x00\x04\x00\x01\x00"), []byte("Quay1next"))
	f.Fuzz(func(t *testing.T, index, data []byte) {
		p, err := ReadPool(index, data)
		if err != nil {
			return
		}
		total := 0
		for i := range p.Len() + 2 {
			s, _ := p.At(uint32(i))
			total += len(s)
		}
		if total > 3*len(data) {
			t.Errorf("%d bytes of text out of %d", total, len(data))
		}
	})
}

func FuzzSummary(f *testing.F) {
	s := &Summary{CodePage: 1252}
	s.SetText(SummarySubject, "Größe")
	s.SetNumber(SummaryPages, 200)
	b, err := s.Write()
	must(f, err)
	f.Add(b)
	f.Fuzz(func(t *testing.T, b []byte) {
		s, err := ReadSummary(b)
		if err != nil {
			return
		}
		if again, err := s.Write(); err == nil {
			if _, err := ReadSummary(again); err != nil {
				t.Errorf("written again it cannot be read: %v", err)
			}
		}
	})
}
