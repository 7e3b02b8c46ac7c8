package overview_test

import (
	"bytes"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/machine"
	"hollowkey/core/package/alter"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/overview"
	"hollowkey/demo"
	"hollowkey/demo/demotest"
)

// of sums the demo's planner up, on its desktop or on none.
func of(t *testing.T, m machine.Machine) overview.Overview {
	t.Helper()
	db, err := demo.Planner()
	if err != nil {
		t.Fatal(err)
	}
	var on gates.Machine
	if m != nil {
		on = m
	}
	o, err := overview.Of(db, 4711, gates.NewWorld(db, on, nil))
	if err != nil {
		t.Fatal(err)
	}
	return o
}

// The counts are those of the tables, and the codes those of the package.
func TestOfAPackage(t *testing.T) {
	db, err := demo.Planner()
	if err != nil {
		t.Fatal(err)
	}
	o := of(t, nil)
	for name, got := range map[string]int{"Feature": o.Features, "Component": o.Components, "File": o.Files,
		"Registry": o.Registry, "CustomAction": o.Custom} {
		table, err := db.TableOrEmpty(name)
		if err != nil || got != len(table.Rows) {
			t.Errorf("%s: %d; the table has %d rows, %v", name, got, len(table.Rows), err)
		}
	}
	property, err := db.Properties()
	if err != nil {
		t.Fatal(err)
	}
	if o.Product != property["ProductName"] || o.Version != property["ProductVersion"] || o.ProductCode != property["ProductCode"] ||
		o.UpgradeCode != property["UpgradeCode"] || o.Vendor != property["Manufacturer"] {
		t.Errorf("%+v", o)
	}
	if o.Format != installdb.Package || o.Size != 4711 || o.PackageCode == "" || o.Tables != len(db.Tables()) ||
		o.Elevation != "administrator" {
		t.Errorf("%+v", o)
	}
	sum := int64(0)
	files, _ := db.TableOrEmpty("File")
	for _, r := range files.Rows {
		sum += int64(files.Get(r, "FileSize").Int)
	}
	if o.FileBytes != sum || sum == 0 {
		t.Errorf("%d bytes of files; want %d", o.FileBytes, sum)
	}
}

// On a machine the gates are worked out; without one those that ask for it stay
// open.
func TestGatesNeedAMachine(t *testing.T) {
	_, m := demotest.LayOut(t)
	count := func(o overview.Overview, a gates.Answer) (n int) {
		for _, g := range o.Gates {
			if g.Answer == a {
				n++
			}
		}
		return n
	}
	with, without := of(t, m), of(t, nil)
	if count(with, gates.Fails) == 0 || count(without, gates.Fails) != 0 || count(without, gates.CannotTell) <= count(with, gates.CannotTell) {
		t.Errorf("on the desktop %d fail and %d are open, without %d and %d", count(with, gates.Fails), count(with, gates.CannotTell),
			count(without, gates.Fails), count(without, gates.CannotTell))
	}
}

// A transform is told by what it does to each table.
func TestOfATransform(t *testing.T) {
	open := func() *installdb.Database {
		db, err := demo.Planner()
		if err != nil {
			t.Fatal(err)
		}
		path := filepath.Join(t.TempDir(), "p.msi")
		f, err := os.Create(path)
		if err != nil {
			t.Fatal(err)
		}
		if err := db.Write(f); err != nil {
			t.Fatal(err)
		}
		info, err := f.Stat()
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { f.Close() })
		again, err := installdb.Open(f, info.Size())
		if err != nil {
			t.Fatal(err)
		}
		return again
	}
	was, now := open(), open()
	if _, err := alter.Apply(now, []alter.Edit{{Kind: "set-property", Text: "SITECODE=ELLERY"},
		{Kind: "remove-row", Text: "InstallExecuteSequence,RunChartRuntime"}}, true); err != nil {
		t.Fatal(err)
	}
	mst, _, err := alter.Transform(was, now)
	if err != nil {
		t.Fatal(err)
	}
	b, err := alter.Bytes(mst, 1<<20)
	if err != nil {
		t.Fatal(err)
	}
	saved, err := installdb.Open(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	o, err := overview.Of(saved, int64(len(b)), nil)
	if err != nil || o.Format != installdb.Transform {
		t.Fatalf("%s, %v", o.Format, err)
	}
	at := func(table string) overview.TableChange {
		i := slices.IndexFunc(o.Changes, func(c overview.TableChange) bool { return c.Table == table })
		if i < 0 {
			return overview.TableChange{}
		}
		return o.Changes[i]
	}
	if c := at("Property"); c.Put+c.Changed != 1 || c.Removed != 0 {
		t.Errorf("Property: %+v", c)
	}
	if c := at("InstallExecuteSequence"); c.Removed != 1 {
		t.Errorf("InstallExecuteSequence: %+v", c)
	}
	if len(o.Changes) != 2 || strings.Contains(o.Title, "\x00") {
		t.Errorf("%+v", o.Changes)
	}
}
