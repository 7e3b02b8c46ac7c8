package endings

import "testing"

// A code behind words for an end closes the line in either notation, whoever of
// the setup ended.
func TestCodeClosesTheLine(t *testing.T) {
	for line, want := range map[string]int{
		"Installer host ended: 0x800704EC": -2147023636, "Setup host exits: 0x80070005": -2147024891,
		"Installer ended: 0x00000BC2": 3010, "KelpSetup ended: 5": 5, "Setup engine stopped (0x643)": 1603,
	} {
		if r := Read(line); r.Exit == nil || *r.Exit != want || !r.Firm {
			t.Errorf("%q: exit %v, firm %v; want %d", line, r.Exit, r.Firm, want)
		}
	}
	for _, line := range []string{"Installer ended: 0x5 files were left", "Installer host ended the service", "The disk ended at 0x643"} {
		if r := Read(line); r.Exit != nil && r.Firm {
			t.Errorf("%q: exit %d, want none", line, *r.Exit)
		}
	}
}

// A setup that crashed failed; words for it about another thing tell no end.
func TestCrashed(t *testing.T) {
	for _, line := range []string{"Installer crashed", "Das Setup ist abgestürzt", "L'installation a planté", "安装程序崩溃", "Установка аварийно завершена"} {
		if !Read(line).Failed {
			t.Errorf("%q is no failed setup", line)
		}
	}
	for _, line := range []string{"installer crashed last week, files of it are left", "crash reporter set up", "viewer crashed"} {
		if Read(line).Failed {
			t.Errorf("%q is a failed setup", line)
		}
	}
}
