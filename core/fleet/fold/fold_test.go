package fold

import (
	"strings"
	"testing"
)

func name(text, host, user string) string {
	return builtin().Name(text, Facts{Host: host, User: user})
}

// What is of one machine folds to one name; what names a thing stays.
func TestName(t *testing.T) {
	same := [][2]string{
		{`C:\Users\mwhitlow\AppData\Local\Temp\4c1f0.ipi`, `C:\Users\Anna O'Neil Smith\AppData\Local\Temp\77ab2.ipi`},
		{`C:\Users\mwhitlow\AppData\Local\Temp\{0A1B2C3D-0000-1111-2222-333344445555}\setup.exe`,
			`c:\users\x\appdata\local\temp\{FFFFFFFF-0000-1111-2222-333344445555}\setup.exe`},
		{`HKU\S-1-5-21-1-2-3-1001\Software\Nine Fathom`, `HKEY_USERS\S-1-5-21-9-8-7-2002\Software\Nine Fathom`},
		{`\\files\deploy\ELLERY-D07\setup.msi`, `\\files\deploy\ellery-d08\setup.msi`},
		{`D:\Logs\2026-05-04_091202\app.dll`, `D:\Logs\2026-06-11_170000\app.dll`},
		{`BerthSync (2)`, `BerthSync (11)`},
		{`process 4412`, `process 88`},
		{`AB12-CD34-EF56-0789`, `ZZ99-A1B2-C3D4-E5F6`},
		{`C:\Users\x\AppData\Local\Temp\is-4F2A1.tmp\core.dll`, `C:\Users\y\AppData\Local\Temp\7z0BC1\core.dll`},
		{`C:\Windows\Temp\{0a1b2c3d-0000-1111-2222-333344445555}\core.dll`, `C:\Users\y\AppData\Local\Temp\tb4711\core.dll`},
		{`C:\Users\x\AppData\Local\Tide\cache-4711`, `C:\Users\y\AppData\Local\Tide\cache-900023`},
	}
	hosts := [2]string{"ELLERY-D07", "ELLERY-D08"}
	for _, c := range same {
		if a, b := name(c[0], hosts[0], "mwhitlow"), name(c[1], hosts[1], "x"); a != b {
			t.Errorf("%q and %q differ: %q, %q", c[0], c[1], a, b)
		}
	}
	for _, c := range [][2]string{
		{`C:\ProgramData\Saltmarsh Quay`, `C:\ProgramData\Nine Fathom`}, {`BerthSync`, `BerthSync2`}, {`tides.dll`, `winds.dll`},
		{`{C41F7E08-93B2-4D6A-8E15-70A2B9D3F644}`, `{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6B30}`}, {`1603`, `1619`}, {`Z:`, `Y:`},
		{`tide-sync-core-main`, `tide-sync-core-help`}, {`C:\Tide\kb-5012`, `C:\Tide\kb-5013`},
		{`{20260504-6C1D-4E58-B1F0-3D9C8E7A6B30}`, `{20260505-6C1D-4E58-B1F0-3D9C8E7A6B30}`},
	} {
		if a, b := name(c[0], "H", "u"), name(c[1], "H", "u"); a == b {
			t.Errorf("%q and %q are one: %q", c[0], c[1], a)
		}
	}
	if got := name(`\\ELLERY-D07X\share`, "ELLERY-D07", ""); got != `\\ellery-d07x\share` {
		t.Errorf("a longer name was folded: %q", got)
	}
}

// What is part of the key, and what is not.
func TestCause(t *testing.T) {
	result := 1
	base := Facts{Class: "service", Sign: "service-start", Kind: "service", Subject: "BerthSync", Message: 1920,
		Action: "StartServices", Product: "Tidebook Desk", Host: "ELLERY-D07", User: "mwhitlow"}
	of := func(change func(*Facts)) string {
		f := base
		change(&f)
		return builtin().Cause(f).ID
	}
	for what, change := range map[string]func(*Facts){
		"another machine": func(f *Facts) { f.Host = "ELLERY-D08" },
		"another product": func(f *Facts) { f.Product = "Pilot Roster" },
		"another letter":  func(f *Facts) { f.Subject = "BERTHSYNC" },
		"an instance":     func(f *Facts) { f.Subject = "BerthSync" },
	} {
		if of(change) != of(func(*Facts) {}) {
			t.Errorf("%s is another cause", what)
		}
	}
	for what, change := range map[string]func(*Facts){
		"another service": func(f *Facts) { f.Subject = "TideClock" },
		"another message": func(f *Facts) { f.Message = 1921 },
		"another class":   func(f *Facts) { f.Class = "permission" },
		"another action":  func(f *Facts) { f.Action = "StopServices" },
	} {
		if of(change) == of(func(*Facts) {}) {
			t.Errorf("%s is the same cause", what)
		}
	}
	own := func(f *Facts) { f.Class = "custom-action"; f.Product = "A" }
	if of(own) == of(func(f *Facts) { own(f); f.Product = "B" }) || of(own) == of(func(f *Facts) { own(f); f.Result = &result }) {
		t.Error("where the package is at fault, product and result are part of the key")
	}
	guess := func(f *Facts) { f.Inferred = true }
	if of(guess) != of(func(f *Facts) { guess(f); f.Subject = "TideClock" }) {
		t.Error("a subject that nobody named is part of the key")
	}
	media := func(f *Facts) { f.Class, f.Kind = "source", "file"; f.Subject = `D:\media\one.cab` }
	if of(media) != of(func(f *Facts) { media(f); f.Subject = `E:\media\one.cab` }) {
		t.Error("the drive of media is part of the key")
	}
	drive := func(f *Facts) { f.Class, f.Kind = "path", "drive"; f.Subject = `P:\` }
	if of(drive) == of(func(f *Facts) { drive(f); f.Subject = `Q:\` }) {
		t.Error("a drive that is gone is not part of the key")
	}
}

// A site's own rules fold behind ours, and are told where they are wrong.
func TestSite(t *testing.T) {
	r, err := Load("rules:\n  - {name: berth, what: 'berth-\\d+', by: '{berth}'}\n")
	if err != nil {
		t.Fatal(err)
	}
	if got := r.Name(`C:\Quay\Berth-12\a.dat`, Facts{}); got != `c:\quay\{berth}\a.dat` {
		t.Error(got)
	}
	f := Facts{Class: "path", Subject: `C:\Quay\Berth-12\a.dat`}
	if r.Cause(f).ID == builtin().Cause(f).ID {
		t.Error("other rules give the same ID")
	}
	for _, bad := range []string{"rules: [{name: a, what: '('}]", "rules: 7", strings.Repeat("#", mostRuleSet+1)} {
		if _, err := Load(bad); err == nil {
			t.Errorf("%.20q was taken", bad)
		}
	}
}
