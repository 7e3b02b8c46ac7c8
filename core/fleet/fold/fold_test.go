package fold

import "testing"

// What is of one machine folds to one name; what names a thing stays.
func TestName(t *testing.T) {
	same := [][2]string{
		{`C:\Users\mwhitlow\AppData\Local\Temp\4c1f0.ipi`, `C:\Users\Anna O'Neil Smith\AppData\Local\Temp\77ab2.ipi`},
		{`C:\Users\mwhitlow\AppData\Local\Temp\{0A1B2C3D-0000-1111-2222-333344445555}\setup.exe`, `c:\users\x\appdata\local\temp\{FFFFFFFF-0000-1111-2222-333344445555}\setup.exe`},
		{`HKU\S-1-5-21-1-2-3-1001\Software\Nine Fathom`, `HKEY_USERS\S-1-5-21-9-8-7-2002\Software\Nine Fathom`},
		{`\\files\deploy\ELLERY-D07\setup.msi`, `\\files\deploy\ellery-d08\setup.msi`},
		{`D:\Logs\2026-05-04_091202\app.dll`, `D:\Logs\2026-06-11_170000\app.dll`},
		{`BerthSync (2)`, `BerthSync (11)`},
		{`process 4412`, `process 88`},
	}
	hosts := [2]string{"ELLERY-D07", "ELLERY-D08"}
	for _, c := range same {
		if a, b := Name(c[0], hosts[0], "mwhitlow"), Name(c[1], hosts[1], "x"); a != b {
			t.Errorf("%q and %q differ: %q, %q", c[0], c[1], a, b)
		}
	}
	for _, c := range [][2]string{
		{`C:\ProgramData\Saltmarsh Quay`, `C:\ProgramData\Nine Fathom`}, {`BerthSync`, `BerthSync2`}, {`tides.dll`, `winds.dll`},
		{`{C41F7E08-93B2-4D6A-8E15-70A2B9D3F644}`, `{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6B30}`}, {`1603`, `1619`}, {`Z:`, `Y:`},
	} {
		if a, b := Name(c[0], "H", "u"), Name(c[1], "H", "u"); a == b {
			t.Errorf("%q and %q are one: %q", c[0], c[1], a)
		}
	}
	if got := Name(`\\ELLERY-D07X\share`, "ELLERY-D07", ""); got != `\\ellery-d07x\share` {
		t.Errorf("a longer name was folded: %q", got)
	}
}
