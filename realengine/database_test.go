package realengine

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/package/installdb"
	"hollowkey/realengine/ask"
)

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// save writes a database into a file and gives its path.
func save(t *testing.T, db *installdb.Database, name string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	f, err := os.Create(path)
	must(t, err)
	defer f.Close()
	must(t, db.Write(f))
	return path
}

func open(t *testing.T, path string) *installdb.Database {
	t.Helper()
	f, err := os.Open(path)
	must(t, err)
	t.Cleanup(func() { f.Close() })
	info, err := f.Stat()
	must(t, err)
	db, err := installdb.Open(f, info.Size())
	must(t, err)
	return db
}

// same compares what we read with what the engine tells, table by table.
func same(t *testing.T, db *installdb.Database, a ask.Answer) {
	t.Helper()
	var theirs []string
	for name := range a.Tables {
		theirs = append(theirs, name)
	}
	slices.Sort(theirs)
	if !slices.Equal(db.Tables(), theirs) {
		t.Errorf("tables: %v, the engine has %v", db.Tables(), theirs)
	}
	for _, name := range theirs {
		if !db.Has(name) {
			continue
		}
		table, err := db.Table(name)
		must(t, err)
		var columns, types []string
		for _, c := range table.Columns {
			columns, types = append(columns, c.Name), append(types, c.Shape())
		}
		if !slices.Equal(columns, a.Tables[name].Columns) || !slices.Equal(types, a.Tables[name].Types) {
			t.Errorf("table %s: columns %v %v, the engine has %v %v", name, columns, types, a.Tables[name].Columns, a.Tables[name].Types)
		}
		var ours, want []string
		for _, r := range table.Rows {
			line := ""
			for _, v := range r {
				line += cellText(t, v) + "|"
			}
			ours = append(ours, line)
		}
		for _, r := range a.Tables[name].Rows {
			line := ""
			for _, c := range r {
				switch {
				case c.Hash != "":
					line += fmt.Sprintf("%d:%s|", c.Size, c.Hash)
				default:
					line += c.Text + "|"
				}
			}
			want = append(want, line)
		}
		slices.Sort(ours)
		slices.Sort(want)
		for i := range max(len(ours), len(want)) {
			if i >= len(ours) || i >= len(want) || ours[i] != want[i] {
				t.Errorf("table %s: %d rows, the engine has %d; row %d:\n%.300s\n%.300s", name, len(ours), len(want), i+1, at(ours, i), at(want, i))
				break
			}
		}
	}
}

func at(list []string, i int) string {
	if i < len(list) {
		return list[i]
	}
	return "(none)"
}

func cellText(t *testing.T, v installdb.Value) string {
	if v.Stream == nil {
		return v.String()
	}
	h := sha256.New()
	n, err := io.Copy(h, v.Stream.Reader())
	must(t, err)
	return fmt.Sprintf("%d:%s", n, hex.EncodeToString(h.Sum(nil)))
}

// everything is a database with every column type, NULLs, long texts, streams
// small and large, and the texts of one code page.
func everything(t *testing.T, page int, word string) *installdb.Database {
	t.Helper()
	db := installdb.New(installdb.Package, page)
	columns := func(list ...string) (out []installdb.Column) {
		for i := 0; i < len(list); i += 2 {
			c, err := installdb.ParseShape(list[i], list[i+1])
			must(t, err)
			out = append(out, c)
		}
		return out
	}
	must(t, db.AddTable("Berths", columns("Berth", "*s72", "Quay", "*i2", "Depth", "i4", "Note", "S0", "Label", "L64", "Small", "I2",
		"Large", "I4", "Plan", "V0", "Long", "s0")))
	must(t, db.Insert("Berths", "North", 1, 7, word, word+" label", -5, -70000, []byte("plan of the north quay"),
		strings.Repeat("long text. ", 9000)))
	must(t, db.Insert("Berths", "North", 2, 2147483647, nil, nil, nil, nil, nil, "x"))
	must(t, db.Insert("Berths", "South", 32767, -2147483647, nil, word, 32767, 0, slices.Repeat([]byte{1, 2, 3, 250}, 5000),
		strings.Repeat(word, 3)))
	must(t, db.Insert("Berths", "East", -32767, 0, nil, nil, -32767, 1, []byte{}, strings.Repeat("a", 65535)))
	must(t, db.Insert("Berths", "West", 0, 0, nil, nil, 0, 1, nil, strings.Repeat("b", 65536)))
	must(t, db.Insert("Berths", "Mole", 0, 0, nil, nil, 0, 1, nil, strings.Repeat("c", 200000)))
	must(t, db.Insert("Property", "ProductName", "Berthline Planner"))
	must(t, db.Insert("Property", "Word", word))
	must(t, db.AddTable("Empty_Table.With.Odd_Name12", columns("A", "*i2", "B", "V0")))
	s := &installdb.Summary{CodePage: 1252}
	s.SetText(installdb.SummaryTitle, "Installation Database")
	s.SetText(installdb.SummarySubject, "Berthline Planner")
	s.SetText(installdb.SummaryTemplate, "x64;1033,1031")
	s.SetText(installdb.SummaryRevision, "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C99}")
	s.SetNumber(installdb.SummaryPages, 200)
	s.SetNumber(installdb.SummaryWords, 2)
	db.SetSummary(s)
	return db
}

var words = map[int]string{0: "quay", 1252: "Grüße café", 1250: "Łódź přístav", 1251: "причал", 932: "桟橋の名前",
	949: "부두", 950: "碼頭",
	936: "码头", 65001: "Ł причал 桟橋 ü"}

func TestEngineReadsWhatWeWrite(t *testing.T) {
	for page, word := range words {
		t.Run(fmt.Sprint(page), func(t *testing.T) {
			path := save(t, everything(t, page, word), "berths.msi")
			a := engine(t, ask.Request{Database: windowsPath(path), Dump: true})
			db := open(t, path)
			same(t, db, a)
			s, err := db.Summary()
			must(t, err)
			for id, want := range a.Summary {
				got := s.Text(installdb.Property(id))
				if got == "" {
					got = fmt.Sprint(s.Number(installdb.Property(id)))
				}
				if id == 1 {
					got = fmt.Sprint(s.CodePage)
				}
				if got != want {
					t.Errorf("summary %d: %q, the engine has %q", id, got, want)
				}
			}
			if len(a.Summary) < 6 {
				t.Errorf("the engine sees %d summary properties", len(a.Summary))
			}
		})
	}
}

func TestLargePool(t *testing.T) {
	db := installdb.New(installdb.Package, 1252)
	must(t, db.Insert("Property", "ProductName", "Berthline Planner"))
	fill(t, db)
	path := save(t, db, "large.msi")
	same(t, open(t, path), engine(t, ask.Request{Database: windowsPath(path), Dump: true}))
	// The other way: the pool crosses the limit while a package is altered.
	small := installdb.New(installdb.Package, 1252)
	must(t, small.Insert("Property", "ProductName", "Berthline Planner"))
	must(t, small.Insert("Registry", "r1", 2, "Software\\Berthline", "Site", "ELLERY", "Main"))
	grown := open(t, save(t, small, "small.msi"))
	fill(t, grown)
	path = save(t, grown, "grown.msi")
	same(t, open(t, path), engine(t, ask.Request{Database: windowsPath(path), Dump: true}))
}

// fill adds so many properties that references need 3 bytes.
func fill(t *testing.T, db *installdb.Database) {
	t.Helper()
	var changes []installdb.Change
	for i := range 40000 {
		changes = append(changes, installdb.Change{Table: "Property", Op: installdb.Put, Row: installdb.Row{
			installdb.TextValue(fmt.Sprintf("key%05d", i)), installdb.TextValue(fmt.Sprintf("value %d", i))}})
	}
	must(t, db.Apply(&installdb.TransformFile{Changes: changes}))
}
