package rehearse

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/package/compound"
	"hollowkey/core/package/installdb"
	"hollowkey/core/why/verdict"
	"hollowkey/demo"
)

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// desktop is the scenario's twin.
func desktop(t *testing.T) *twin.Twin {
	t.Helper()
	dir := filepath.Join(t.TempDir(), "d")
	must(t, demo.LayOut(dir))
	m, err := twin.Open(filepath.Join(dir, demo.Machine))
	must(t, err)
	t.Cleanup(func() { m.Close() })
	return m
}

// put saves a database on the twin.
func put(t *testing.T, m *twin.Twin, db *installdb.Database, name string) string {
	t.Helper()
	must(t, m.WriteFile(`C:\Deploy\`+name, func(f *os.File) error { return db.Write(f) }))
	return `C:\Deploy\` + name
}

func edited(t *testing.T, name string, cells [][2]string, rows ...[]any) *installdb.Database {
	t.Helper()
	db, err := demo.Package(name)
	must(t, err)
	for _, c := range cells {
		p, err := db.Table("Property")
		must(t, err)
		must(t, db.SetCell("Property", p.Find(c[0]), "Value", installdb.TextValue(c[1])))
	}
	for _, r := range rows {
		must(t, db.Insert(r[0].(string), r[1:]...))
	}
	return db
}

func runOn(t *testing.T, m *twin.Twin, req Request) (Result, string) {
	t.Helper()
	req.User, req.Started = "dpayne", time.Date(2026, 5, 4, 10, 0, 0, 0, time.UTC)
	var log bytes.Buffer
	res, err := Run(m, req, &log)
	must(t, err)
	return res, log.String()
}

func contents(m *twin.Twin, path string) string {
	f, err := m.Open(path)
	if err != nil {
		return ""
	}
	defer f.Close()
	var b bytes.Buffer
	b.ReadFrom(f)
	return b.String()
}

const (
	planner  = `C:\Program Files\Saltmarsh Quay\Planner\Planner.exe`
	oldCode  = "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C11}"
	newCode  = "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C99}"
	newBerth = `C:\Deploy\Berthline43.msi`
)

// A newer version removes the older one first; without its cached package it
// cannot, and what was there stays.
func TestOlderVersion(t *testing.T) {
	for _, cached := range []bool{true, false} {
		m := desktop(t)
		if r, _ := runOn(t, m, Request{Package: `C:\Deploy\Berthline.msi`, Mode: Install}); r.Exit != 0 {
			t.Fatalf("%+v", r)
		}
		// The Upgrade table of 4.3.0 must find 4.2.0.
		db := edited(t, "Berthline.msi", [][2]string{{"ProductVersion", "4.3.0"}, {"ProductCode", newCode}},
			[]any{"Upgrade", "{2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B43}", nil, "4.3.0", nil, 0, nil, "OLDER2"})
		put(t, m, db, "Berthline43.msi")
		if !cached {
			must(t, m.RemoveFile(cachedPackage(t, m, oldCode)))
		}
		r, log := runOn(t, m, Request{Package: newBerth, Mode: Install})
		if cached && (r.Exit != 0 || contents(m, planner) == "") {
			t.Errorf("with the cached package: %+v", r)
		}
		if !cached && (r.Exit != 1603 || r.Failed != "RemoveExistingProducts" || r.Message != 1714 || contents(m, planner) == "") {
			t.Errorf("without it: %+v", r)
		}
		v, err := verdict.Reach(context.Background(), verdict.Input{Name: "r.log", Text: strings.NewReader(log)}, verdict.Options{})
		must(t, err)
		if v.Worked() != cached {
			t.Errorf("the log's verdict: %s, %s", v.Outcome, v.Cause.Summary)
		}
		old := (&session{m: m}).isRegistered(oldCode)
		if old == cached {
			t.Errorf("the older version is registered: %v", old)
		}
	}
}

// cachedPackage is the cached package of a product.
func cachedPackage(t *testing.T, m *twin.Twin, code string) string {
	t.Helper()
	p, err := (&session{m: m}).registered(code)
	must(t, err)
	return p
}

// A patch changes the product that is there; another product's patch refuses.
func TestPatch(t *testing.T) {
	m := desktop(t)
	if r, _ := runOn(t, m, Request{Package: `C:\Deploy\Berthline.msi`, Mode: Install}); r.Exit != 0 {
		t.Fatalf("%+v", r)
	}
	was := edited(t, "Berthline.msi", nil)
	now := edited(t, "Berthline.msi", [][2]string{{"ProductVersion", "4.2.1"}},
		[]any{"Registry", "Patched", 2, `Software\Saltmarsh Quay\Planner`, "Patched", "[ProductVersion]", "Main"})
	d, err := installdb.Compare(was, now)
	must(t, err)
	mst, err := installdb.MakeTransform(d, 0, &installdb.Summary{})
	must(t, err)
	makePatch := func(name, target string) string {
		db := installdb.New(installdb.Patch, 0)
		s := &installdb.Summary{CodePage: 1252}
		s.SetText(installdb.SummaryRevision, "{11111111-0000-0000-0000-000000000001}")
		s.SetText(installdb.SummaryTemplate, target)
		s.SetText(installdb.SummaryLastAuthor, ":Fix.1")
		db.SetSummary(s)
		dir := t.TempDir()
		root, storage := copyRoot(t, dir, db), copyRoot(t, dir, mst)
		storage.Name = "Fix.1"
		root.Children = append(root.Children, storage)
		must(t, m.WriteFile(`C:\Deploy\`+name, func(f *os.File) error { return compound.Write(f, root, 3) }))
		return `C:\Deploy\` + name
	}
	if r, _ := runOn(t, m, Request{Package: makePatch("other.msp", "{00000000-1111-2222-3333-444444444444}"), Mode: Install}); r.Exit != 1642 {
		t.Errorf("another product's patch: %+v", r)
	}
	r, _ := runOn(t, m, Request{Package: makePatch("fix.msp", oldCode), Mode: Install})
	v, err := m.Value(`HKLM\SOFTWARE\Saltmarsh Quay\Planner`, "Patched")
	if r.Exit != 0 || err != nil || v.Words() != "4.2.1" {
		t.Errorf("%+v, %q, %v", r, v.Words(), err)
	}
	if there, _ := m.KeyExists(userData + `Patches\` + installdb.PackCode("{11111111-0000-0000-0000-000000000001}")); !there {
		t.Error("the patch is not registered")
	}
}

// copyRoot gives a database's storage as it is written.
func copyRoot(t *testing.T, dir string, db *installdb.Database) *compound.Node {
	t.Helper()
	f, err := os.CreateTemp(dir, "db")
	must(t, err)
	t.Cleanup(func() { f.Close() })
	must(t, db.Write(f))
	info, err := f.Stat()
	must(t, err)
	c, err := compound.Open(f, info.Size())
	must(t, err)
	root, err := c.Copy(c.Root)
	must(t, err)
	return root
}

// Tables beside files and registry: what is written is there, and gone again.
func TestTables(t *testing.T) {
	m := desktop(t)
	db := edited(t, "Berthline.msi", [][2]string{{"INSTALLLEVEL", "3"}},
		[]any{"IniFile", "Ini", "planner.ini", "TARGET", "Gate", "Site", "[SITE]", 0, "Main"},
		[]any{"Environment", "Home", "=-*PLANNERHOME", "[TARGET]", "Main"},
		[]any{"Environment", "Path", "=-*Path", "[~];[TARGET]bin", "Main"},
		[]any{"Registry", "Multi", 2, `Software\Saltmarsh Quay\Planner`, "Multi", "one[~]two", "Main"},
		[]any{"Registry", "User", 1, `Software\Saltmarsh Quay\Planner`, "Mine", "#7", "Main"},
		[]any{"Registry", "Bare", 2, `Software\Saltmarsh Quay\Planner\Bare`, "+", nil, "Main"},
		[]any{"ServiceInstall", "Watch", "TideWatch", "Tide Watch", 16, 3, 1, nil, nil, nil, nil, nil, "Main", nil},
		[]any{"ServiceControl", "WatchStart", "TideWatch", 1 | 32 | 128, nil, 1, "Main"},
		[]any{"Feature", "Rare", nil, "Rare", "", 3, 2, "TARGET", 0},
		[]any{"Component", "Extra", "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4CE1}", "TARGET", 0x104, nil, "Extra"},
		[]any{"FeatureComponents", "Rare", "Extra"}, []any{"Registry", "Extra", 2, `Software\Saltmarsh Quay\Extra`, "On", "1", "Extra"},
		[]any{"Condition", "Rare", 0, "NOT WIDE"},
		[]any{"CustomAction", "SetSite", 51, "SITE", "[ProductName]"}, []any{"InstallExecuteSequence", "SetSite", "NOT SITE", 1010},
		[]any{"CustomAction", "Later", 1024 + 50, "SITE", "later.exe"}, []any{"InstallExecuteSequence", "Later", nil, 5300},
	)
	path := put(t, m, db, "tables.msi")
	r, log := runOn(t, m, Request{Package: path, Mode: Install})
	if r.Exit != 0 || !slices.ContainsFunc(r.Assumed, func(a string) bool { return strings.Contains(a, "Later works") }) {
		t.Fatalf("%+v", r)
	}
	text := strings.ReplaceAll(log, "\x00", "")
	for _, want := range []string{"Doing action: SetSite", "PROPERTY CHANGE: Adding SITE property. Its value is 'Berthline Planner'.",
		"CustomActionSchedule(Action=Later", "MainEngineThread is returning 0"} {
		if !strings.Contains(text, want) {
			t.Errorf("the log lacks %q", want)
		}
	}
	value := func(key, name string) string {
		v, err := m.Value(key, name)
		if err != nil {
			return ""
		}
		return v.Words()
	}
	const key = `HKLM\SOFTWARE\Saltmarsh Quay\Planner`
	if !strings.Contains(contents(m, `C:\Program Files\Saltmarsh Quay\Planner\planner.ini`), "Site=Berthline Planner") ||
		value(key, "Multi") != "one\ntwo" ||
		value(environmentKey, "PLANNERHOME") != `C:\Program Files\Saltmarsh Quay\Planner\` ||
		!strings.HasSuffix(value(environmentKey, "Path"), `Planner\bin`) {
		t.Errorf("INI %q, values %q, %q, %q", contents(m, `C:\Program Files\Saltmarsh Quay\Planner\planner.ini`), value(key, "Multi"),
			value(environmentKey, "PLANNERHOME"), value(environmentKey, "Path"))
	}
	if s, err := m.Service("TideWatch"); err != nil || !s.Running || !strings.Contains(s.Binary, "Planner.exe") {
		t.Errorf("service: %+v, %v", s, err)
	}
	if there, _ := m.KeyExists(key + `\Bare`); !there {
		t.Error("the bare key is absent")
	}
	if there, _ := m.KeyExists(`HKLM\SOFTWARE\Saltmarsh Quay\Extra`); there {
		t.Error("the feature whose condition puts it to level 0 was installed")
	}
	if value(`HKU\S-1-5-21-2104885761-1177238915-682003330-1112\Software\Saltmarsh Quay\Planner`, "Mine") != "7" {
		t.Error("the user's value went elsewhere")
	}
	if r, _ := runOn(t, m, Request{Package: path, Mode: Uninstall}); r.Exit != 0 {
		t.Fatalf("uninstall: %+v", r)
	}
	if _, err := m.Service("TideWatch"); err == nil || value(environmentKey, "PLANNERHOME") != "" ||
		strings.Contains(value(environmentKey, "Path"), "Planner") || value(key, "Multi") != "" {
		t.Error("something stays after uninstalling")
	}
}

// A program that keeps a file open: the file is replaced at the restart.
func TestFileInUse(t *testing.T) {
	m := desktop(t)
	if r, _ := runOn(t, m, Request{Package: `C:\Deploy\Berthline.msi`, Mode: Install}); r.Exit != 0 {
		t.Fatalf("%+v", r)
	}
	must(t, m.WriteFile(planner, func(f *os.File) error { _, err := f.WriteString("an older file"); return err }))
	self := filepath.Join(m.Folder(), "twin.yaml")
	b, err := os.ReadFile(self)
	must(t, err)
	must(t, os.WriteFile(self, bytes.Replace(b, []byte("processes:\n"),
		[]byte("processes:\n  - { id: 99, name: planner.exe, user: dpayne, files: ['"+planner+"'] }\n"), 1), 0o644))
	again, err := twin.Open(m.Folder())
	must(t, err)
	defer again.Close()
	r, log := runOn(t, again, Request{Package: oldCode, Mode: Repair})
	if r.Exit != 3010 || !strings.Contains(strings.ReplaceAll(log, "\x00", ""),
		"being held in use by the following process: Name: planner, Id: 99") {
		t.Errorf("%+v", r)
	}
}

func FuzzFormat(f *testing.F) {
	f.Add("[ProductName] [%TEMP] [#File0] [[A]] [\\[] [~] []")
	f.Add(strings.Repeat("[", 60) + "A" + strings.Repeat("]", 60))
	f.Fuzz(func(t *testing.T, text string) {
		s := &session{props: map[string]string{"ProductName": "Planner", "A": "[B]", "B": "[A]"}, dirs: map[string]string{},
			comps: map[string]*component{}}
		s.world = newWorld(installdb.New(installdb.Package, 1252), nil, nil)
		s.db = installdb.New(installdb.Package, 1252)
		s.m = nothing{}
		if got := s.format(text); len(got) > len(text)*(maxFormat+1)+1000 {
			t.Errorf("%d bytes became %d", len(text), len(got))
		}
	})
}

// nothing is a machine of which only the facts are asked.
type nothing struct{ machine.Machine }

func (nothing) Facts() machine.Facts {
	return machine.Facts{Environment: map[string]string{"TEMP": "T"}}
}
func (nothing) Name() string { return "NOTHING" }
