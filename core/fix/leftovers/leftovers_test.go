package leftovers

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/machine/twin"
	"hollowkey/core/machine/twin/twintest"
)

const sid = "S-1-5-21-1-2-3-1000"

// machineOf makes a twin out of files; registry text comes without its header.
func machineOf(t *testing.T, registry string, files map[string]string) *twin.Twin {
	t.Helper()
	all := map[string]string{
		"twin.yaml": "name: T\ndrives: [{ letter: 'C:', kind: fixed, size: 9 GB, free: 5 GB }]\nusers: [{ name: pilot, sid: " + sid +
			", profile: 'C:\\Users\\pilot' }]\n",
		"access.yaml":          "'C:\\': O:SYG:SYD:(A;OICI;FA;;;WD)\n",
		"registry/machine.reg": twintest.Registry(registry),
	}
	maps.Copy(all, files)
	return twintest.Make(t, all)
}

func find(t *testing.T, m *twin.Twin, query string) (Report, map[string]Item) {
	t.Helper()
	r, err := Find(m, query)
	if err != nil {
		t.Fatal(err)
	}
	items := map[string]Item{}
	for _, i := range r.Items {
		items[i.Where] = i
	}
	return r, items
}

const uninstallKey = `HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\`

func TestNames(t *testing.T) {
	for _, c := range []struct {
		product, name string
		want          Sureness
	}{
		{"Fairway Radio", "Fairway Radio", Likely}, {"Fairway Radio", "fairway-radio", Likely}, {"Fairway Radio", "FairwayRadio", Likely},
		{"Fairway Radio", "Fairway Radio 2", Perhaps}, {"Fairway Radio", "My Fairway Radio Files", Perhaps}, {"Fairway Radio", "Fairway", ""},
		{"Fairway Radio", "Radio", ""},
		{"Radio 1", "Radio 11", ""}, {"Radio 1", "Radio 1.5", ""}, {"Radio 1", "Radio 1 Help", Perhaps}, {"Pilot*", "Pilot Roster", Perhaps},
		{"*Roster", "Pilot Roster 5", ""},
	} {
		s := &search{}
		s.rep.Query, s.rep.Names = c.product, []string{c.product}
		if strings.Contains(c.product, "*") {
			r, err := Find(machineOf(t, "", nil), c.product)
			if err != nil {
				t.Fatal(err)
			}
			s.rep.Names = r.Names
			s.pattern = patternOf(c.product)
		}
		if got, _ := s.match(c.name); got != c.want {
			t.Errorf("%q against %q: %q, want %q", c.product, c.name, got, c.want)
		}
	}
}

// pointers are what leads into the product's folder from the OS's own lists,
// each beside one that leads elsewhere.
const pointers = `
[HKEY_LOCAL_MACHINE\SOFTWARE\Classes\CLSID\{0A1B2C3D-1111-4222-8333-444455556666}\InprocServer32]
@="C:\\Apps\\Roster\\grid view.dll"

[HKEY_LOCAL_MACHINE\SOFTWARE\Classes\CLSID\{0A1B2C3D-1111-4222-8333-444455557777}\LocalServer32]
@="\"C:\\Apps\\RosterPlus\\x.exe\" /automation"

[HKEY_LOCAL_MACHINE\SOFTWARE\Classes\Roster.Duty\shell\open\command]
@="\"C:\\Apps\\Roster\\roster.exe\" \"%1\""

[HKEY_LOCAL_MACHINE\SOFTWARE\Classes\.duty]
@="Roster.Duty"

[HKEY_LOCAL_MACHINE\SOFTWARE\Classes\.txt]
@="txtfile"

[HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Services\SharedAccess\Parameters\FirewallPolicy\FirewallRules]
"Roster-In"="v2.30|Action=Allow|Active=TRUE|Dir=In|Protocol=6|App=C:\\Apps\\Roster\\roster.exe|Name=Roster|"
"Other-In"="v2.30|Action=Allow|Active=TRUE|Dir=In|Protocol=6|App=C:\\Apps\\Other\\x.exe|Name=Roster|"
`

// What leads into a folder is found by the folder alone, after somebody deleted
// it by hand; a folder of the OS's or of everybody's is refused.
func TestByFolder(t *testing.T) {
	m := machineOf(t, pointers[1:], nil)
	r, items := find(t, m, `C:\Apps\Roster`)
	if len(items) != 4 || len(r.Notes) > 1 {
		t.Errorf("%+v; %q", items, r.Notes)
	}
	for _, folder := range []string{`C:\Windows\System32`, `C:\Program Files`, `C:\Program Files\Common Files`, `C:\`, `C:\Apps`} {
		if r, err := Find(m, folder); err == nil {
			t.Errorf("%s is taken for a product's: %d items", folder, len(r.Items))
		}
	}
}

// Each user's keys, Run values, App Paths, 32-bit keys, start menu and
// shortcuts that lead into the product's folder.
func TestEveryPlace(t *testing.T) {
	m := machineOf(t, `[`+uninstallKey+`Roster]
"DisplayName"="Pilot Roster"
"InstallLocation"="C:\\Apps\\Roster\\"
"UninstallString"="C:\\Apps\\Roster\\un.exe /x"

[HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\App Paths\roster.exe]
@="C:\\Apps\\Roster\\roster.exe"

[HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Run]
"RosterTray"="\"C:\\Apps\\Roster\\tray.exe\" /min"
"Other"="C:\\Apps\\Other\\x.exe"

[HKEY_USERS\`+sid+`\Software\Microsoft\Windows\CurrentVersion\Run]
"Mine"="C:\\Apps\\Roster\\mine.exe"

[HKEY_USERS\`+sid+`\Software\Nine Fathom\Pilot Roster]
"Last"="x"

[HKEY_LOCAL_MACHINE\SOFTWARE\WOW6432Node\PilotRoster]
"A"="1"

[HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Pilot Roster]
"not"="ours"
`+pointers, map[string]string{
		"disk/C/Apps/Roster/readme.txt": "x",
		"disk/C/ProgramData/Microsoft/Windows/Start Menu/Programs/Nine Fathom/Roster.lnk":                   "..C:\\Apps\\Roster\\roster.exe..",
		"disk/C/ProgramData/Microsoft/Windows/Start Menu/Programs/Nine Fathom/Wide.lnk":                     "C\x00:\x00\\\x00A\x00p\x00p\x00s\x00\\\x00R\x00o\x00s\x00t\x00e\x00r\x00\\\x00",
		"disk/C/Users/pilot/Desktop/Pilot Roster.lnk":                                                       "nothing",
		"disk/C/Users/pilot/AppData/Roaming/Microsoft/Windows/Start Menu/Programs/Startup/Pilot Roster.lnk": "nothing",
		"disk/C/Users/pilot/Documents/Pilot Roster/own.txt":                                                 "mine",
		"disk/C/Program Files/Pilot Roster Viewer/x.txt":                                                    "another product",
		"services.yaml": "- name: rostersvc\n  display: Duty\n  binary: '\"C:\\Apps\\Roster\\svc.exe\"'\n  start: automatic\n  account: LocalSystem\n  state: running\n",
		"tasks.yaml":    "- path: \\Duty\n  runs: C:\\Apps\\Roster\\duty.exe /now\n  at logon: true\n  enabled: true\n",
	})
	r, items := find(t, m, "Pilot Roster")
	for where, want := range map[string]Item{
		`C:\Apps\Roster`: {Kind: Folder, Sure: Certain},
		`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\Roster`:                               {Kind: Key, Sure: Certain},
		`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\App Paths\roster.exe`:                           {Kind: Key, Sure: Certain},
		`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Run : RosterTray`:                               {Kind: Startup, Sure: Certain},
		`HKU\` + sid + `\Software\Microsoft\Windows\CurrentVersion\Run : Mine`:                          {Kind: Startup, Sure: Certain},
		`HKU\` + sid + `\Software\Nine Fathom\Pilot Roster`:                                             {Kind: Key, Sure: Likely},
		`HKLM\SOFTWARE\WOW6432Node\PilotRoster`:                                                         {Kind: Key, Sure: Likely},
		`C:\ProgramData\Microsoft\Windows\Start Menu\Programs\Nine Fathom\Roster.lnk`:                   {Kind: Shortcut, Sure: Certain},
		`C:\ProgramData\Microsoft\Windows\Start Menu\Programs\Nine Fathom\Wide.lnk`:                     {Kind: Shortcut, Sure: Certain},
		`C:\Users\pilot\Desktop\Pilot Roster.lnk`:                                                       {Kind: Shortcut, Sure: Likely},
		`C:\Users\pilot\AppData\Roaming\Microsoft\Windows\Start Menu\Programs\Startup\Pilot Roster.lnk`: {Kind: Startup, Sure: Likely},
		`C:\Users\pilot\Documents\Pilot Roster`: {Kind: Folder, Sure: Likely,
			UserData: true},
		`C:\Program Files\Pilot Roster Viewer`:                               {Kind: Folder, Sure: Perhaps},
		`HKLM\SOFTWARE\Classes\CLSID\{0A1B2C3D-1111-4222-8333-444455556666}`: {Kind: Key, Sure: Certain},
		`HKLM\SOFTWARE\Classes\Roster.Duty`:                                  {Kind: Key, Sure: Certain},
		`HKLM\SOFTWARE\Classes\.duty : (default)`:                            {Kind: Value, Sure: Certain},
		firewallRules + ` : Roster-In`:                                       {Kind: Value, Sure: Certain},
		`rostersvc`:                                                          {Kind: Service, Sure: Certain},
		`\Duty`:                                                              {Kind: Task, Sure: Certain},
	} {
		if got := items[where]; got.Kind != want.Kind || got.Sure != want.Sure || got.UserData != want.UserData || got.Why == "" {
			t.Errorf("%s: %+v, want %+v", where, got, want)
		}
		delete(items, where)
	}
	if len(items) > 0 {
		t.Errorf("found besides: %+v", items)
	}
	chosen, err := r.Choose(nil, nil, nil)
	if err != nil || slices.ContainsFunc(chosen, func(i Item) bool { return i.UserData || i.Sure == Perhaps }) ||
		len(chosen) != len(r.Items)-2 {
		t.Errorf("chosen: %d of %d, %v", len(chosen), len(r.Items), err)
	}
	if plan, err := Clear(m, "Pilot Roster", chosen); err != nil ||
		len(plan.Changes) != len(chosen)+1 { // the running service is stopped first
		t.Errorf("%d changes for %d, %v", len(plan.Changes), len(chosen), err)
	}
	if _, err := r.Choose([]string{"no such thing"}, nil, nil); err == nil {
		t.Error("an unknown choice is taken")
	}
}

// What belongs to a product that is installed is left alone; one that can still
// be uninstalled is told.
func TestInstalledProducts(t *testing.T) {
	m := machineOf(t, `[`+uninstallKey+`Radio2]
"DisplayName"="Fairway Radio 2"
"InstallLocation"="C:\\Program Files\\Fairway Radio"
"UninstallString"="C:\\Program Files\\Fairway Radio\\un.exe"

[`+uninstallKey+`Radio]
"DisplayName"="Fairway Radio"
"UninstallString"="C:\\Gone\\un.exe"
`, map[string]string{"disk/C/Program Files/Fairway Radio/un.exe": "MZ"})
	r, items := find(t, m, "Fairway Radio")
	if _, found := items[`C:\Program Files\Fairway Radio`]; found ||
		!slices.ContainsFunc(r.Notes, func(n string) bool { return strings.Contains(n, "belongs to Fairway Radio 2, which is installed") }) {
		t.Errorf("%+v", r)
	}
	r, _ = find(t, m, "Fairway Radio 2")
	if !slices.Contains(r.Installed, "Fairway Radio 2") ||
		!slices.ContainsFunc(r.Notes, func(n string) bool { return strings.Contains(n, "can still be uninstalled") }) {
		t.Errorf("%+v", r)
	}
	for _, bad := range []string{"", "ab", "***", "r*"} {
		if _, err := Find(m, bad); err == nil {
			t.Errorf("%q is looked for", bad)
		}
	}
}

// What points into the product's folder is found however it names its program;
// what only hands a file of it to another's program, or lies beside it, is not.
func TestPointersInAnyForm(t *testing.T) {
	const folder = `C:\Program Files\Grebe Ferry`
	forms := []string{`"` + folder + `\tide.exe" /tray`, folder + `\tide.exe -q`, `"%ProgramFiles%\Grebe Ferry\tide.exe"`,
		`C:\Windows\System32\rundll32.exe ` + folder + `\tide.dll,Start`, `cmd /c start "" "` + folder + `\tide.exe"`,
		`powershell -WindowStyle Hidden -File "` + folder + `\t.ps1"`, `"C:/Program Files/Grebe Ferry/tide.exe"`, `\??\` + folder + `\tide.exe`}
	others := []string{`"C:\Program Files\Grebe Ferry Classic\tide.exe"`, `"C:\Program Files\Mast\m.exe" "` + folder + `\data.ini"`,
		`C:\Tools\Grebe Ferry\tide.exe`, `rundll32 shell32.dll,Run`}
	value := func(s string) string { return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(s) + `"` }
	const run = `HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Run`
	reg := "[" + uninstallKey + "Grebe]\n\"DisplayName\"=\"Grebe Ferry\"\n\"InstallLocation\"=" + value(folder) + "\n\n[" + run + "]\n"
	services, tasks := "", ""
	for n, form := range append(forms, others...) {
		reg += fmt.Sprintf("\"Q%d\"=%s\n", n, value(form))
		services += fmt.Sprintf("- { name: Q%d, display: Z, binary: '%s', start: automatic, state: stopped, account: LocalSystem }\n", n, form)
		tasks += fmt.Sprintf("- { path: '\\Q%d', runs: '%s', author: x, at logon: true, enabled: true }\n", n, form)
	}
	_, items := find(t, machineOf(t, reg, map[string]string{"services.yaml": services, "tasks.yaml": tasks,
		"disk/C/Program Files/Mast/m.exe": "", "disk/C/Program Files/Grebe Ferry Classic/tide.exe": ""}), "Grebe Ferry")
	for n, form := range append(forms, others...) {
		for _, where := range []string{fmt.Sprintf(`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Run : Q%d`, n), fmt.Sprintf(`Q%d`, n), fmt.Sprintf(`\Q%d`, n)} {
			if i, is := items[where]; is != (n < len(forms)) || is && i.Sure != Certain {
				t.Errorf("%s: %s found: %v %s", where, form, is, i.Sure)
			}
		}
	}
}

// While a product can still be uninstalled, or nobody can tell, nothing of it
// is cleared that was not named.
func TestNothingOfAWorkingProductIsCleared(t *testing.T) {
	const dir = "disk/C/Program Files/Grebe Ferry/"
	for command, working := range map[string]bool{
		`\"C:\\Program Files\\Grebe Ferry\\un.exe\"`: true, `C:\\Program Files\\Grebe Ferry\\un.cmd /q`: true, `%ProgramFiles%\\Grebe Ferry\\un.exe`: true,
		`rundll32.exe \"C:\\Program Files\\Grebe Ferry\\un.dll\",Remove`: true, `https://ellery.example/remove`: true, `wusa /uninstall /kb:1`: true,
		`\\\\ellery-fs\\apps\\un.exe`: true, `\"C:\\Program Files\\Grebe Ferry\\gone.exe\"`: false, `rundll32 C:\\Gone\\un.dll,x`: false,
		`MsiExec.exe /X{1A2B3C4D-0001-4000-8000-00000000A001}`: false,
	} {
		r, items := find(t, machineOf(t, "["+uninstallKey+"Grebe]\n\"DisplayName\"=\"Grebe Ferry\"\n\"UninstallString\"=\""+command+"\"\n"+
			"\"InstallLocation\"=\"C:\\\\Program Files\\\\Grebe Ferry\"\n",
			map[string]string{dir + "un.exe": "", dir + "un.cmd": "", dir + "un.dll": ""}), "Grebe Ferry")
		chosen, err := r.Choose(nil, nil, nil)
		if err != nil || (len(r.Working) > 0) != working || (len(chosen) == 0) != working {
			t.Errorf("%s: working %q, %d chosen, %v", command, r.Working, len(chosen), err)
		}
		named, err := r.Choose([]string{`C:\Program Files\Grebe Ferry`}, nil, nil)
		if err != nil || len(named) != 1 || items[`C:\Program Files\Grebe Ferry`].Kind != Folder {
			t.Errorf("%s: what is named is not cleared: %v, %v", command, named, err)
		}
	}
}

// A setup that registered its vendor's folder as its own leaves what is another
// product's alone: one that is installed, one that only runs, and one of the
// same name that works.
func TestNeighboursAreSpared(t *testing.T) {
	const vendor, tide = `C:\Program Files\Saltmarsh`, `C:\Program Files\Saltmarsh\Tidebook\tide.exe`
	value := func(s string) string { return `"` + strings.ReplaceAll(s, `\`, `\\`) + `"` }
	entry := func(leaf, name, folder string) string {
		return "[" + uninstallKey + leaf + "]\n\"DisplayName\"=\"" + name + "\"\n\"UninstallString\"=" + value(folder+`\un.exe`) + "\n\"InstallLocation\"=" + value(folder) + "\n\n"
	}
	old := strings.Replace(entry("Old", "Saltmarsh Viewer", vendor), `un.exe`, `gone.exe`, 1)
	points := `[HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\Run]` + "\n\"Tray\"=" + value(tide) + "\n\n" +
		`[HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows\CurrentVersion\SharedDLLs]` + "\n" + value(vendor+`\Tidebook\shared.dll`) + "=dword:1\n\n" +
		`[HKEY_LOCAL_MACHINE\SOFTWARE\Classes\CLSID\{AAAA}\LocalServer32]` + "\n@=" + value(tide) + "\n\n"
	service := "- { name: TideSvc, display: Z, binary: '" + tide + "', start: automatic, state: STATE, account: LocalSystem }\n"
	files := func(state string) map[string]string {
		return map[string]string{"services.yaml": strings.Replace(service, "STATE", state, 1), "tasks.yaml": "- { path: '\\TideUp', runs: '" + tide + "', author: x, at logon: true, enabled: true }\n",
			"disk/C/Program Files/Saltmarsh/Tidebook/tide.exe": "", "disk/C/Program Files/Saltmarsh/Tidebook/un.exe": "", "disk/C/Program Files/Saltmarsh/viewer.ini": ""}
	}
	for name, c := range map[string]struct {
		reg, state string
	}{"installed": {old + entry("Tide", "Tidebook", vendor+`\Tidebook`) + points, "stopped"}, "only runs": {old + points, "running"}} {
		r, _ := find(t, machineOf(t, c.reg, files(c.state)), "Saltmarsh Viewer")
		chosen, err := r.Choose(nil, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, i := range chosen {
			if i.Where != `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\Old` {
				t.Errorf("%s: %s %s would go: %s", name, i.Kind, i.Where, i.Why)
			}
		}
	}
}
