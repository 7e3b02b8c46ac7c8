package products_test

import (
	"cmp"
	"fmt"
	"io/fs"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/fix/products"
	"hollowkey/core/machine/twin"
	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/package/cached"
	"hollowkey/core/package/installdb"
)

const (
	entryKey  = `HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\`
	userData  = `HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UserData\S-1-5-18\`
	classes   = `HKEY_LOCAL_MACHINE\SOFTWARE\Classes\Installer\`
	cacheDir  = "disk/C/Windows/Installer/"
	vendorDir = "disk/C/Program Files/Nine Fathom/"
)

// A shop makes machines with many products, each broken in a way of its own.
type shop struct {
	t     *testing.T
	rand  *rand.Rand
	files map[string]string
	reg   strings.Builder
	away  string // a folder with the packages that are not in the cache
	// of its packages; x64;1033 where it is empty
	template string
	made     []made
}

type made struct {
	name, code, packed string
	want               products.Health
	mendable           bool // from the machine and the folder alone
}

func code(n int, tail string) string {
	return fmt.Sprintf("{1A2B3C4D-%04X-4000-8000-0000000%s}", n, tail)
}

func (s *shop) key(key string, values ...string) {
	fmt.Fprintf(&s.reg, "[%s]\n", key)
	for i := 0; i+1 < len(values); i += 2 {
		fmt.Fprintf(&s.reg, "\"%s\"=\"%s\"\n", values[i], strings.ReplaceAll(values[i+1], `\`, `\\`))
	}
	s.reg.WriteString("\n")
}

// pack writes a package and gives its bytes.
func (s *shop) pack(name, code, packageCode string) string {
	s.t.Helper()
	db := installdb.New(installdb.Package, 1252)
	for _, r := range [][2]string{{"ProductName", name}, {"ProductVersion", "1.2.3"}, {"ProductCode", code},
		{"Manufacturer", "Nine Fathom Systems"},
		{"ProductLanguage", "1033"}, {"UpgradeCode", "{0F0F0F0F-1111-4222-8333-444455556666}"}} {
		must(s.t, db.Insert("Property", r[0], r[1]))
	}
	must(s.t, db.Insert("Feature", "Main", nil, "Main", "", 1, 1, nil, 0))
	sum := &installdb.Summary{CodePage: 1252}
	sum.SetText(installdb.SummaryTemplate, cmp.Or(s.template, "x64;1033"))
	sum.SetText(installdb.SummaryRevision, packageCode)
	db.SetSummary(sum)
	f, err := os.Create(filepath.Join(s.t.TempDir(), "p.msi"))
	must(s.t, err)
	defer f.Close()
	must(s.t, db.Write(f))
	b, err := os.ReadFile(f.Name())
	must(s.t, err)
	return string(b)
}

// product adds one, whole, and then breaks it.
func (s *shop) product(n int, fault products.Health) {
	name := fmt.Sprintf("Harbour Tool %d", n)
	p, pc := code(n, "0A001"), code(n, "0B001")
	packed := installdb.PackCode(p)
	file := fmt.Sprintf("%x.msi", 0xa0000+n)
	own := s.pack(name, p, pc)
	m := made{name: name, code: p, packed: packed, want: fault, mendable: true}
	entry, data, advert := true, true, true
	recorded := `C:\Windows\Installer\` + file
	s.files[cacheDir+file] = own
	s.files[vendorDir+name+"/tool.exe"] = "program " + name
	switch fault {
	case products.OrphanEntry:
		data, advert = false, false
		delete(s.files, cacheDir+file)
	case products.HalfRemoved:
		switch s.rand.IntN(4) {
		case 0:
			entry = false
		case 1:
			advert = false
		case 2:
			data = false
		default:
			data, entry = false, false
		}
	case products.CopyMissing:
		delete(s.files, cacheDir+file)
		must(s.t, os.WriteFile(filepath.Join(s.away, file), []byte(own), 0o644))
	case products.CopyDamaged:
		s.files[cacheDir+file] = own[:700]
		must(s.t, os.WriteFile(filepath.Join(s.away, file), []byte(own), 0o644))
	case products.WrongPath:
		recorded = `C:\Windows\Installer\` + fmt.Sprintf("%x.msi", 0xf0000+n)
	case products.CopyOther:
		delete(s.files, cacheDir+file)
		must(s.t, os.WriteFile(filepath.Join(s.away, file), []byte(own), 0o644))
		recorded = `C:\Windows\Installer\shared.msi`
	case products.FilesGone:
		delete(s.files, vendorDir+name+"/tool.exe")
		m.mendable = false
	case products.OnlyRows, products.OnlyUpgrade:
		entry, data, advert = false, false, false
		delete(s.files, cacheDir+file)
	}
	if entry {
		s.key(entryKey+p, "DisplayName", name, "DisplayVersion", "1.2.3", "UninstallString", "MsiExec.exe /X"+p)
	}
	if data {
		s.key(userData+`Products\`+packed+`\InstallProperties`, "DisplayName", name, "DisplayVersion", "1.2.3",
			"LocalPackage", recorded, "InstallSource", `C:\Deploy\`)
	}
	if advert {
		s.key(classes+`Products\`+packed, "ProductName", name, "PackageCode", installdb.PackCode(pc))
		s.key(classes+`Products\`+packed+`\SourceList`, "PackageName", "tool.msi", "LastUsedSource", `n;1;C:\Deploy\`)
		s.key(classes+`Features\`+packed, "Main", "")
	}
	s.made = append(s.made, m)
}

var allFaults = []products.Health{products.Sound, products.OrphanEntry, products.HalfRemoved, products.CopyMissing, products.CopyDamaged,
	products.WrongPath, products.CopyOther, products.FilesGone, products.OnlyRows, products.OnlyUpgrade}

// machine makes one with n products, all of which share a component and an
// upgrade code.
func machine(t *testing.T, seed uint64, n int, faults ...products.Health) (*twin.Twin, *shop) {
	t.Helper()
	s := &shop{t: t, rand: rand.New(rand.NewPCG(seed, 1)), files: map[string]string{}, away: t.TempDir()}
	for i := range n {
		s.product(i+1, faults[s.rand.IntN(len(faults))])
	}
	s.files[cacheDir+"shared.msi"] = s.pack("Everybody's", code(0xffff, "0A001"), code(0xffff, "0B001"))
	var rows, upgrades, own []string
	for _, m := range s.made {
		if m.want == products.OrphanEntry {
			continue
		}
		if m.want != products.OnlyUpgrade {
			rows = append(rows, m.packed, `C:\Program Files\Nine Fathom\Common\shared.dll`)
		}
		if m.want != products.OnlyRows {
			upgrades = append(upgrades, m.packed, "")
		}
		if m.want == products.FilesGone || m.want == products.Sound {
			own = append(own, m.packed, m.name)
		}
	}
	s.files[vendorDir+"Common/shared.dll"] = "shared"
	s.key(userData+`Components\`+installdb.PackCode(code(0, "0C001")), rows...)
	s.key(`HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UpgradeCodes\`+
		installdb.PackCode("{0F0F0F0F-1111-4222-8333-444455556666}"), upgrades...)
	s.key(classes+`UpgradeCodes\`+installdb.PackCode("{0F0F0F0F-1111-4222-8333-444455556666}"), upgrades...)
	for i := 0; i < len(own); i += 2 {
		s.key(userData+`Components\`+installdb.PackCode(code(i, "0C002")), own[i], `C:\Program Files\Nine Fathom\`+own[i+1]+`\tool.exe`)
	}
	s.files["disk/C/Deploy/readme.txt"] = "x"
	s.files["twin.yaml"] = "name: D31\nos: { name: Windows, version: '10.0', build: 19045, architecture: x64 }\ndrives: [{ letter: 'C:', kind: fixed, size: 100 GB, free: 50 GB }]\nelevated: true\n"
	s.files["registry/machine.reg"] = twintest.Registry(s.reg.String())
	return twintest.Make(t, s.files), s
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// disk is all that a twin consists of.
func disk(t *testing.T, m *twin.Twin) map[string]string {
	t.Helper()
	all := map[string]string{}
	must(t, filepath.WalkDir(m.Folder(), func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		all[strings.TrimPrefix(p, m.Folder())] = string(b)
		return err
	}))
	return all
}

// registered is all of a machine's registry that speaks of each product, by its
// code, whatever the order of the keys.
func (s *shop) registered(reg string) map[string]string {
	of := map[string]string{} // how a product is written, to its code
	for _, m := range s.made {
		of[m.packed], of[m.code] = m.code, m.code
	}
	lines := map[string]map[string]bool{}
	key := ""
	for line := range strings.SplitSeq(reg, "\r\n") {
		if strings.HasPrefix(line, "[") {
			key = line
		}
		for _, word := range codes.FindAllString(key+line, -1) {
			if code := of[word]; code != "" {
				if lines[code] == nil {
					lines[code] = map[string]bool{}
				}
				lines[code][key+line] = true
			}
		}
	}
	out := map[string]string{}
	for code, l := range lines {
		out[code] = strings.Join(slices.Sorted(maps.Keys(l)), "\n")
	}
	return out
}

var codes = regexp.MustCompile(`\{[0-9A-F-]{36}\}|\b[0-9A-F]{32}\b`)

// Whatever is mended on machines with hundreds of products: its fault is seen
// and goes, every other product's registration, cached package and files stay
// as they are, and undo brings back the machine byte for byte.
func TestMendingSparesTheOthers(t *testing.T) {
	const count = 200
	for seed := range uint64(2) {
		m, s := machine(t, seed, count, allFaults...)
		before := disk(t, m)
		list, err := products.Read(m)
		must(t, err)
		health := map[string]products.Health{}
		for _, p := range list.Products {
			health[p.Code] = p.Health
		}
		for _, w := range s.made {
			if health[w.code] != w.want {
				t.Fatalf("seed %d: %s is %q, want %q", seed, w.name, health[w.code], w.want)
			}
		}
		j, err := fix.OpenJournal(filepath.Join(t.TempDir(), "case"), func() time.Time { return time.Date(2026, 5, 4, 10, 0, 0, 0, time.UTC) })
		must(t, err)
		for _, n := range s.rand.Perm(count)[:12] {
			w := s.made[n]
			mendOne(t, m, s, j, w, health, before)
		}
	}
}

func mendOne(t *testing.T, m *twin.Twin, s *shop, j *fix.Journal, w made, health map[string]products.Health, before map[string]string) {
	t.Helper()
	list, err := products.Read(m)
	must(t, err)
	p := list.Meant(w.code)
	if len(p) != 1 {
		t.Fatalf("%s: %d products", w.name, len(p))
	}
	found, _, err := cached.Search([]string{s.away}, list.Wanted(p[0]), nil)
	must(t, err)
	md, err := list.Mend(p[0], found)
	must(t, err)
	if (len(md.Steps) > 0) != (w.mendable && w.want != products.Sound) {
		t.Fatalf("%s, %s: %d steps, needs %v", w.name, w.want, len(md.Steps), md.Needs)
	}
	if len(md.Steps) == 0 {
		return
	}
	plan, err := fix.DraftNamed(m, md.Title, md.Steps...)
	must(t, err)
	must(t, plan.Apply(m, j))
	after := disk(t, m)
	const reg = "/registry/machine.reg"
	was, is := s.registered(before[reg]), s.registered(after[reg])
	for _, o := range s.made {
		if a, b := was[o.code], is[o.code]; a != b && o.code != w.code {
			t.Fatalf("mending %s (%s) changed the registration of %s:\n%s\n--\n%s", w.name, w.want, o.name, a, b)
		}
	}
	for name, b := range before {
		if a, there := after[name]; a != b && !strings.HasPrefix(name, "/registry/") &&
			(w.want != products.CopyDamaged || !there || !strings.Contains(name, "Installer")) {
			t.Fatalf("mending %s (%s) changed %s", w.name, w.want, name)
		}
	}
	again, err := products.Read(m)
	must(t, err)
	for _, p := range again.Products {
		want := health[p.Code]
		if p.Code == w.code {
			want = products.Sound
		}
		if p.Health != want {
			t.Fatalf("after mending %s (%s) %s is %q, not %q: %+v", w.name, w.want, p.Name, p.Health, want, p.Faults)
		}
	}
	for _, i := range j.LastPlan(m.Name()) {
		must(t, j.Undo(m, i.Change, false))
	}
	if now := disk(t, m); !maps.Equal(now, before) {
		for n, b := range before {
			if now[n] != b {
				t.Errorf("undo of %s (%s): %s differs: %s", w.name, w.want, n, firstDifference(b, now[n]))
			}
		}
		t.FailNow()
	}
}

// firstDifference shows two texts around the place where they part.
func firstDifference(a, b string) string {
	i := 0
	for i < len(a) && i < len(b) && a[i] == b[i] {
		i++
	}
	from := max(0, i-200)
	return fmt.Sprintf("\n%q\n%q", a[from:min(len(a), i+200)], b[from:min(len(b), i+200)])
}

// Clearing a whole registration leaves no word of the product, and all of the
// others.
func TestClearingSparesTheOthers(t *testing.T) {
	m, s := machine(t, 7, 120, allFaults...)
	before := s.registered(disk(t, m)["/registry/machine.reg"])
	j, err := fix.OpenJournal(filepath.Join(t.TempDir(), "case"), time.Now)
	must(t, err)
	for _, w := range s.made[:15] {
		list, err := products.Read(m)
		must(t, err)
		md, err := list.Clear(list.Meant(w.code)[0])
		must(t, err)
		plan, err := fix.DraftNamed(m, md.Title, md.Steps...)
		must(t, err)
		must(t, plan.Apply(m, j))
		now := s.registered(disk(t, m)["/registry/machine.reg"])
		if left := now[w.code]; left != "" {
			t.Errorf("of %s is left: %s", w.name, left)
		}
		for _, o := range s.made[15:] {
			if before[o.code] != now[o.code] {
				t.Fatalf("clearing %s changed %s", w.name, o.name)
			}
		}
	}
}

// A word means the narrowest that it can.
func TestMeant(t *testing.T) {
	m, _ := machine(t, 1, 12, products.Sound)
	list, err := products.Read(m)
	must(t, err)
	for _, c := range []struct {
		word string
		n    int
	}{{"Harbour Tool 1", 1}, {"harbour tool 1", 1}, {"HARBOUR*1", 2}, {"harbour tool ?", 9}, {"tool 1", 4},
		{code(3, "0A001"), 1}, {"", 0}, {"Nothing", 0}, {"*nothing*", 0}} {
		if got := list.Meant(c.word); len(got) != c.n {
			t.Errorf("%q means %d products, want %d", c.word, len(got), c.n)
		}
	}
}

// What only a captured twin does not know is no fault.
func TestWhatWasNotTakenIsNotGone(t *testing.T) {
	m := twintest.Make(t, map[string]string{
		"twin.yaml":   "name: D40\nos: { name: Windows, version: '10.0', build: 19045, architecture: x64 }\ndrives: [{ letter: 'C:', kind: fixed, size: 100 GB, free: 50 GB }]\nusers: [{ name: tess, sid: S-1-5-21-1-2-3-1001, groups: [], profile: 'C:\\Users\\tess' }]\n",
		"access.yaml": "'C:\\Program Files': O:SYG:SYD:(A;OICI;FA;;;SY)\n'C:\\Windows\\Installer': O:SYG:SYD:(A;OICI;FA;;;SY)\n",
		"disk.yaml":   "'C:\\Windows\\Installer\\a1.msi': { size: 40960 }\n",
		"registry/machine.reg": twintest.Registry("[" + entryKey + "{1A2B3C4D-0001-4000-8000-00000000A001}]\n\"DisplayName\"=\"Tide Tool\"\n\"UninstallString\"=\"MsiExec.exe /X{1A2B3C4D-0001-4000-8000-00000000A001}\"\n\n" +
			"[" + userData + `Products\` + installdb.PackCode("{1A2B3C4D-0001-4000-8000-00000000A001}") + "\\InstallProperties]\n\"DisplayName\"=\"Tide Tool\"\n\"LocalPackage\"=\"C:\\\\Windows\\\\Installer\\\\a1.msi\"\n\"InstallLocation\"=\"C:\\\\Program Files\\\\Tide\"\n\n" +
			"[" + classes + `Products\` + installdb.PackCode("{1A2B3C4D-0001-4000-8000-00000000A001}") + "]\n\"ProductName\"=\"Tide Tool\"\n\n" +
			"[" + entryKey + "Pilot]\n\"DisplayName\"=\"Pilot\"\n\"UninstallString\"=\"\\\"C:\\\\Program Files\\\\Pilot\\\\un.exe\\\"\"\n\n" +
			`[HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UserData\S-1-5-21-9-9-9-1002\Products\` + installdb.PackCode("{1A2B3C4D-0002-4000-8000-00000000A001}") + "\\InstallProperties]\n\"DisplayName\"=\"Somebody's\"\n\"LocalPackage\"=\"C:\\\\Windows\\\\Installer\\\\a1.msi\"\n\n" +
			"[" + entryKey + "{1A2B3C4D-0002-4000-8000-00000000A001}]\n\"DisplayName\"=\"Somebody's\"\n"),
	})
	list, err := products.Read(m)
	must(t, err)
	if len(list.Products) != 3 {
		t.Fatalf("%d products", len(list.Products))
	}
	for _, p := range list.Products {
		if !p.Sound() {
			t.Errorf("%s: %+v", p.Name, p.Faults)
		}
	}
}
