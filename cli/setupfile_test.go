package cli_test

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/installdb"
	"hollowkey/demo"
)

// zipped is an archive of names and contents, in pairs, stored.
func zipped(t testing.TB, pairs ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for i := 0; i < len(pairs); i += 2 {
		f, err := w.CreateHeader(&zip.FileHeader{Name: pairs[i], Method: zip.Store})
		if err != nil {
			t.Fatal(err)
		}
		f.Write([]byte(pairs[i+1]))
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// manifestOf is an app package's manifest.
func manifestOf(version, architecture, least, needs string) string {
	return fmt.Sprintf(`<?xml version="1.0" encoding="utf-8"?><Package xmlns="http://schemas.microsoft.com/appx/manifest/foundation/windows10">
<Identity Name="NineFathom.Tideboard" Version="%s" Publisher="CN=Nine Fathom Systems" ProcessorArchitecture="%s"/>
<Properties><DisplayName>Tideboard</DisplayName></Properties><Dependencies><TargetDeviceFamily Name="Windows.Desktop" MinVersion="%s" MaxVersionTested="10.0.26100.0"/>%s</Dependencies></Package>`,
		version, architecture, least, needs)
}

// program is a program whose one section has size bytes, followed by rest.
func programOf(size int, rest []byte) []byte {
	const head = 512
	b := make([]byte, head)
	copy(b, "MZ")
	binary.LittleEndian.PutUint32(b[0x3C:], 128)
	copy(b[128:], "PE\x00\x00")
	binary.LittleEndian.PutUint16(b[128+6:], 1)    // sections
	binary.LittleEndian.PutUint16(b[128+20:], 224) // optional header
	binary.LittleEndian.PutUint16(b[152:], 0x10B)
	section := b[152+224:]
	copy(section, ".rsrc")
	binary.LittleEndian.PutUint32(section[16:], uint32(size))
	binary.LittleEndian.PutUint32(section[20:], head)
	return append(b, rest...)
}

type wholeness struct {
	Whole struct {
		Kind      string
		Signature string
		Faults    []struct{ What, Seen, Part string }
		Remarks   []string
	}
	App *struct{ Name, Version, Architecture string }
}

// Setup files that are damaged each in its way, and the same ones whole.
func TestDamagedSetupFiles(t *testing.T) {
	dir := layOut(t)
	pack, err := os.ReadFile(filepath.Join(dir, msi))
	if err != nil {
		t.Fatal(err)
	}
	cab, err := cabinet.Write([]cabinet.Item{{Name: "tides.dat", Data: bytes.Repeat([]byte("tides "), 500)}, {Name: "b", Data: []byte("b")}})
	if err != nil {
		t.Fatal(err)
	}
	flipped := bytes.Clone(cab)
	flipped[len(flipped)-9] ^= 0xFF
	archive := zipped(t, "setup/planner.msi", string(pack), "read me.txt", "hello")
	inside := zipped(t, "setup/planner.msi", string(pack[:len(pack)/2]))
	manifest := manifestOf("2.1.0.0", "x64", "10.0.17763.0", "")
	for name, c := range map[string]struct {
		content []byte
		what    string // empty: whole
		seen    string
	}{
		"whole.msi":                {pack, "", ""},
		"half.msi":                 {pack[:len(pack)/2], "cut short", "cut short"},
		"most.msi":                 {pack[:len(pack)-600], "cut short", ""},
		"planner.msi.crdownload":   {pack, "unfinished download", ".crdownload"},
		"planner.msi.part":         {pack[:4000], "unfinished download", ".part"},
		"page.msi":                 {[]byte("<!DOCTYPE html><html><head><title>Sign in to Ellery</title>"), "a web page", `"Sign in to Ellery"`},
		"zeros.exe":                {make([]byte, 20000), "damaged", "zeros"},
		"empty.msi":                {nil, "empty", "empty"},
		"text.msi":                 {[]byte("404 not found, sorry\r\n"), "not what its name says", "a package"},
		"whole.cab":                {cab, "", ""},
		"half.cab":                 {cab[:len(cab)-100], "cut short", "100 are missing"},
		"flipped.cab":              {flipped, "damaged", "not whole"},
		"whole.zip":                {archive, "", ""},
		"half.zip":                 {archive[:len(archive)-30], "cut short", "directory"},
		"inside.zip":               {inside, "cut short", "which it carries"},
		"whole.exe":                {programOf(len(pack), pack), "", ""},
		"half.exe":                 {programOf(len(pack), pack[:len(pack)-10]), "cut short", "10 are missing"},
		"tideboard.msix":           {zipped(t, "AppxManifest.xml", manifest), "", ""},
		"half.msix":                {zipped(t, "AppxManifest.xml", manifest)[:300], "cut short", ""},
		"other.msix":               {zipped(t, "readme.txt", "x"), "damaged", "manifest"},
		"tideboard.msixbundle":     {bundle(t), "", ""},
		"tideboard.msixbundle.tmp": {bundle(t), "unfinished download", ".tmp"},
	} {
		t.Run(name, func(t *testing.T) {
			write(t, dir, name, string(c.content))
			code := map[bool]int{true: 0, false: 3}[c.what == ""]
			w := decode[wholeness](t, mustRun(t, dir, code, "package", "overview", name, "--json").out)
			if c.what == "" {
				if len(w.Whole.Faults) > 0 {
					t.Errorf("taken for damaged: %+v", w.Whole)
				}
			} else if len(w.Whole.Faults) == 0 || w.Whole.Faults[0].What != c.what || !strings.Contains(w.Whole.Faults[0].Seen, c.seen) {
				t.Errorf("%+v", w.Whole)
			}
			r := mustRun(t, dir, code, "package", "overview", name)
			if strings.Contains(r.out, "NOT WHOLE") == (c.what == "") {
				t.Error(r.out)
			}
			checked := readyOf(t, dir, 3, name)["setup file"]
			if (checked.Answer == "stop") == (c.what == "") {
				t.Errorf("ready: %+v", checked)
			}
		})
	}
	if w := decode[wholeness](t, mustRun(t, dir, 0, "package", "overview",
		"tideboard.msixbundle", "--json").out); w.App == nil || w.App.Architecture != "x86, x64" {
		t.Errorf("the bundle: %+v", w.App)
	}
}

// bundle is an app bundle for two processors.
func bundle(t *testing.T) []byte {
	list := ""
	var pairs []string
	for _, a := range []string{"x86", "x64"} {
		file := "tideboard_" + a + ".msix"
		list += fmt.Sprintf(`<Package Type="application" Version="2.1.0.0" Architecture="%s" FileName="%s"/>`, a, file)
		pairs = append(pairs, file, string(zipped(t, "AppxManifest.xml", manifestOf("2.1.0.0", a, "10.0.17763.0", ""))))
	}
	return zipped(t, append(pairs, "AppxMetadata/AppxBundleManifest.xml", `<Bundle xmlns="http://schemas.microsoft.com/appx/2013/bundle"><Identity Name="NineFathom.Tideboard" Version="2.1.0.0" Publisher="CN=Nine Fathom Systems"/><Packages>`+list+`</Packages></Bundle>`)...)
}

// A cabinet beside a package is missing, or of another build.
func TestCabinetsBesideAPackage(t *testing.T) {
	dir := layOut(t)
	db, err := demo.Planner()
	if err != nil {
		t.Fatal(err)
	}
	if err := db.SetCell("Media", 0, "Cabinet", installdb.TextValue("Data1.cab")); err != nil {
		t.Fatal(err)
	}
	f, err := os.Create(filepath.Join(dir, "beside.msi"))
	if err != nil {
		t.Fatal(err)
	}
	if err := db.Write(f); err != nil {
		t.Fatal(err)
	}
	f.Close()
	fault := func() string {
		w := decode[wholeness](t, mustRun(t, dir, 3, "package", "overview", "beside.msi", "--json").out)
		return w.Whole.Faults[0].What
	}
	if got := fault(); got != "cabinet missing" {
		t.Error(got)
	}
	files, err := db.Table("File")
	if err != nil {
		t.Fatal(err)
	}
	other, err := cabinet.Write([]cabinet.Item{{Name: files.Get(files.Rows[0], "File").Text, Data: []byte("of another build")}})
	if err != nil {
		t.Fatal(err)
	}
	write(t, dir, "Data1.cab", string(other))
	if got := fault(); got != "cabinet of another build" {
		t.Error(got)
	}
}

// What an app package needs of the machine.
func TestAppPackageOnAMachine(t *testing.T) {
	dir := layOut(t)
	needs := `<PackageDependency Name="NineFathom.Charts" MinVersion="4.0.0.0" Publisher="CN=Nine Fathom Systems"/>`
	for name, c := range map[string]struct {
		manifest string
		stops    map[string]string // check: a word of it
		passes   []string
	}{
		"good.msix": {manifestOf("2.1.0.0", "x64", "10.0.17763.0", ""),
			map[string]string{"signature": "0x800B0100"}, []string{"OS", "processor"}},
		"new.msix": {manifestOf("2.1.0.0", "x64", "10.0.26100.0", ""), map[string]string{"OS": "0x80073CFD"}, []string{"processor"}},
		"arm.msix": {manifestOf("2.1.0.0", "arm64", "10.0.17763.0", ""), map[string]string{"processor": "0x80073D10"}, []string{"OS"}},
		"needs.msix": {manifestOf("2.1.0.0", "neutral", "10.0.17763.0", needs),
			map[string]string{"needs": "NineFathom.Charts"}, []string{"OS", "processor"}},
	} {
		write(t, dir, name, string(zipped(t, "AppxManifest.xml", c.manifest)))
		list := readyOf(t, dir, 3, name)
		for check, word := range c.stops {
			if f := list["app package: "+check]; f.Answer != "stop" || !strings.Contains(f.Seen, word) {
				t.Errorf("%s, %s: %+v", name, check, f)
			}
		}
		for _, check := range c.passes {
			if f := list["app package: "+check]; f.Answer != "pass" {
				t.Errorf("%s, %s: %+v", name, check, f)
			}
		}
	}
}

// Of several setups of one product the one for the machine is picked, and each
// other one has its reason.
func TestTheSetupForThisMachine(t *testing.T) {
	dir := layOut(t)
	for name, change := range map[string]func(*installdb.Database) error{
		"a-arm64.msi": func(db *installdb.Database) error { return platform(db, "Arm64;1033") },
		"b-x86.msi":   func(db *installdb.Database) error { return platform(db, "Intel;1033") },
		"c-x64.msi":   func(db *installdb.Database) error { return platform(db, "x64;1033") },
		"d-x64-de.msi": func(db *installdb.Database) error {
			return platform(db, "x64;1031")
		},
	} {
		db, err := demo.Planner()
		if err != nil {
			t.Fatal(err)
		}
		if err := change(db); err != nil {
			t.Fatal(err)
		}
		if err := db.DropTable("LaunchCondition"); err != nil { // the demo's machine does not fit it
			t.Fatal(err)
		}
		if err := os.MkdirAll(filepath.Join(dir, "setups"), 0o755); err != nil {
			t.Fatal(err)
		}
		f, err := os.Create(filepath.Join(dir, "setups", name))
		if err != nil {
			t.Fatal(err)
		}
		if err := db.Write(f); err != nil {
			t.Fatal(err)
		}
		f.Close()
	}
	type picked struct {
		File   string
		Setups []struct {
			Path         string
			Fits         bool
			Against, For []string
		}
	}
	r := decode[picked](t, mustRun(t, dir, 3, "ready", "setups", "--machine", "ELLERY-D07", "--json").out)
	if filepath.Base(r.File) != "c-x64.msi" || len(r.Setups) != 4 || r.Setups[3].Fits || !strings.Contains(r.Setups[3].Against[0], "Arm64") {
		t.Errorf("%+v", r)
	}
	if text := mustRun(t, dir, 3, "ready", "setups", "--machine", "ELLERY-D07").out; !strings.Contains(text,
		"picked   c-x64.msi: it is made for this machine's processor") {
		t.Error(text)
	}
	verdict := decode[struct{ Package string }](t,
		mustRun(t, dir, 3, "why", "--exit", "1603", "--package", "setups", "--machine", "ELLERY-D07", "--json").out)
	if verdict.Package != "setups" {
		t.Errorf("%+v", verdict)
	}
	if err := os.Mkdir(filepath.Join(dir, "none"), 0o755); err != nil {
		t.Fatal(err)
	}
	if r := mustRun(t, dir, 1, "ready", "none", "--machine", "ELLERY-D07"); !strings.Contains(r.err, "no package lies there") {
		t.Error(r.err)
	}
}

func platform(db *installdb.Database, template string) error {
	s, err := db.Summary()
	if err == nil {
		s.SetText(installdb.SummaryTemplate, template)
		db.SetSummary(s)
	}
	return err
}
