package choose_test

import (
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/machine/twin"
	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/package/choose"
	"hollowkey/core/package/installdb"
)

// a setup of a folder: what its summary and tables say.
type setup struct{ file, product, version, template, condition string }

// pack writes a package.
func pack(t *testing.T, s setup) []byte {
	t.Helper()
	db := installdb.New(installdb.Package, 1252)
	for _, r := range [][2]string{{"ProductName", s.product}, {"ProductVersion", s.version}, {"Manufacturer", "Nine Fathom Systems"},
		{"ProductCode", "{1A2B3C4D-0001-4000-8000-00000000A001}"}, {"ProductLanguage", "1033"}} {
		if err := db.Insert("Property", r[0], r[1]); err != nil {
			t.Fatal(err)
		}
	}
	if s.condition != "" {
		if err := errors.Join(db.Insert("LaunchCondition", s.condition, "This OS is too old."),
			db.Insert("InstallExecuteSequence", "LaunchConditions", nil, 100)); err != nil {
			t.Fatal(err)
		}
	}
	sum := &installdb.Summary{CodePage: 1252}
	sum.SetText(installdb.SummaryTemplate, s.template)
	sum.SetText(installdb.SummaryRevision, "{1A2B3C4D-0001-4000-8000-00000000B001}")
	db.SetSummary(sum)
	f, err := os.Create(filepath.Join(t.TempDir(), "p.msi"))
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if err := db.Write(f); err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile(f.Name())
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// desk makes a machine with these setups in C:\Deploy, and the same ones in a
// folder of this computer.
func desk(t *testing.T, architecture, language string, build string, setups ...setup) (*twin.Twin, string) {
	t.Helper()
	files := map[string]string{
		"twin.yaml":                "name: D\nos: { name: Windows, version: '10.0', build: " + build + ", architecture: " + architecture + " }\n",
		"registry/machine.reg":     twintest.Registry("[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Nls\\Language]\n\"InstallLanguage\"=\"" + language + "\"\n"),
		"disk/C/Deploy/readme.txt": "read me",
	}
	here := t.TempDir()
	for _, s := range setups {
		b := pack(t, s)
		files["disk/C/Deploy/"+s.file] = string(b)
		if err := os.WriteFile(filepath.Join(here, s.file), b, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	return twintest.Make(t, files), here
}

// The setup for a machine is the first; what does not fit comes last, with its
// reason.
func TestTheOneForThisMachine(t *testing.T) {
	all := []setup{
		{"a-x86.msi", "Chart Library", "2.1.0", "Intel;1033", ""},
		{"b-x64.msi", "Chart Library", "2.1.0", "x64;1033", ""},
		{"c-arm.msi", "Chart Library", "2.1.0", "Arm64;1033", ""},
		{"d-x64-german.msi", "Chart Library", "2.1.0", "x64;1031", ""},
		{"e-x64-newer.msi", "Chart Library", "2.10.0", "x64;1033", ""},
		{"f-x64-newest.msi", "Chart Library", "3.0.0", "x64;1033", "VersionNT >= 700"},
	}
	for _, tt := range []struct {
		name, architecture, language, build string
		first                               string
		against                             map[string]string // file → a part of what speaks against it
	}{
		{"64 bits, English", "x64", "0409", "19045", "e-x64-newer.msi",
			map[string]string{"c-arm.msi": "is for Arm64", "f-x64-newest.msi": "condition"}},
		{"64 bits, German", "x64", "0407", "19045", "d-x64-german.msi", map[string]string{"c-arm.msi": "is for Arm64"}},
		{"64 bits, Austrian: the same language", "x64", "0c07", "19045", "d-x64-german.msi", nil},
		{"32 bits", "x86", "0409", "19045", "a-x86.msi", map[string]string{"b-x64.msi": "is for x64", "c-arm.msi": "is for Arm64"}},
		{"ARM", "arm64", "0409", "22631", "c-arm.msi", nil},
	} {
		m, here := desk(t, tt.architecture, tt.language, tt.build, all...)
		for _, folder := range []string{`C:\Deploy`, here} {
			got, err := choose.From(folder, m)
			if err != nil {
				t.Fatalf("%s: %v", tt.name, err)
			}
			if len(got) != len(all) || base(got[0].Path) != tt.first || !got[0].Fits || len(got[0].For) == 0 {
				t.Errorf("%s: %d setups, %s first (%v); want %s", tt.name, len(got), got[0].Path, got[0].For, tt.first)
			}
			if !slices.IsSortedFunc(got,
				func(a, b choose.Candidate) int { return len(a.Against)*len(b.For) - len(b.Against)*len(a.For) }) && got[len(got)-1].Fits {
				t.Errorf("%s: one that fits stands last", tt.name)
			}
			for _, c := range got {
				if want, is := tt.against[base(c.Path)]; is && (c.Fits || !strings.Contains(strings.Join(c.Against, "; "), want)) {
					t.Errorf("%s: %s fits: %v, against it %q; want %q", tt.name, c.Path, c.Fits, c.Against, want)
				}
			}
		}
	}
}

func base(path string) string { return path[strings.LastIndexAny(path, `\/`)+1:] }

// Without a machine all fit, and the newest is the first.
func TestWithoutAMachine(t *testing.T) {
	_, here := desk(t, "x64", "0409", "19045", setup{"a.msi", "Chart Library", "2.9.0", "x64;1033", ""},
		setup{"b.msi", "Chart Library", "2.10.0", "Intel;1033", "VersionNT >= 700"})
	got, err := choose.From(here, nil)
	if err != nil || len(got) != 2 || base(got[0].Path) != "b.msi" || !got[0].Fits || !got[1].Fits {
		t.Errorf("%+v, %v", got, err)
	}
}

// Which of two products is meant, only a person knows; a folder without any
// says so, and what could not be read is told.
func TestFoldersThatDoNotTell(t *testing.T) {
	m, here := desk(t, "x64", "0409", "19045", setup{"a.msi", "Chart Library", "2.9.0", "x64;1033", ""},
		setup{"b.msi", "Pilot Roster", "5.0.0", "x64;1033", ""})
	if _, err := choose.From(here, m); !errors.Is(err, choose.ErrSeveral) || !strings.Contains(err.Error(), "Pilot Roster") {
		t.Errorf("two products: %v", err)
	}
	empty := t.TempDir()
	if _, err := choose.From(empty, m); !errors.Is(err, choose.ErrNone) {
		t.Errorf("an empty folder: %v", err)
	}
	if err := os.WriteFile(filepath.Join(empty, "broken.msi"), []byte("not a package"), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := choose.From(empty, m); !errors.Is(err, choose.ErrNone) || !strings.Contains(err.Error(), "broken.msi") {
		t.Errorf("a broken package: %v", err)
	}
	if _, err := choose.From(filepath.Join(empty, "none"), m); err == nil {
		t.Error("a folder that is not there is no error")
	}
	if n := choose.Language(m); n != 0x0409 {
		t.Errorf("the machine's language is %#x", n)
	}
}
