package evidence

import (
	"strings"
	"testing"
)

// Notes by the way tell a cause only in the forms that mean one.
func TestNotesByTheWay(t *testing.T) {
	for line, want := range map[string]string{
		`token: ELLERY\finn, integrity medium, admin group deny-only`: "elevation",
		`IsElevated=false, session 2`:                                 "elevation",
		`is admin: no`:                                                "elevation",
		`TokenElevationTypeLimited`:                                   "elevation",
		`elevated=true`:                                               "",
		`admin page opened, medium zoom`:                              "",
		`integrity of the archive: ok`:                                "",
		`source \\fs07\deploy\quay\12, state offline`:                 "source",
		`\\fs1\setup is disconnected`:                                 "source",
		`\\fs1\setup (not connected)`:                                 "source",
		`\\fs1\setup is online`:                                       "",
		`offline mode is off`:                                         "",
		`probing MSOLEDBSQL: absent`:                                  "prerequisite",
		`look for WebView2 -> none`:                                   "prerequisite",
		`Java 17: not found`:                                          "prerequisite",
		`Berth Runtime 6: missing`:                                    "prerequisite",
		`java settings: none changed`:                                 "",
		`old java runtime: 1.8, not touched`:                          "",
	} {
		got := ""
		for _, c := range quietIn(line, strings.ToLower(line)) {
			got = c.Class
		}
		if got != want {
			t.Errorf("%s: %q, want %q", line, got, want)
		}
	}
	for line, want := range map[string]bool{
		`C:\Program Files\Vellum 9\unins000.exe: no such file`: true,
		`the uninstall string of 9.8 is not there`:             true,
		`uninstaller of the old version not found`:             true,
		`uninstall entry of 4.x not present`:                   false,
		`uninstaller written`:                                  false,
		`uninstalling what is missing in 10`:                   false,
	} {
		if _, got := ofUninstaller(strings.ToLower(line)); got != want {
			t.Errorf("%s: %v", line, got)
		}
	}
	for line, want := range map[string]bool{
		`device time 2019-01-01T00:07:11, server time 2026-11-02T09:14:30`: true,
		`local clock 2026-11-02 09:14:30, server 2026-11-02 09:14:41`:      false,
		`local clock 2026-11-02 09:14:30, server 2026-11-02 18:14:30`:      false, // another zone
		`server started 2019-01-01 00:07, finished 2026-11-02 09:14`:       false, // no clock
		`time of the server: 2026-11-02 09:14:30`:                          false,
	} {
		if _, got := twoClocks(strings.ToLower(line)); got != want {
			t.Errorf("%s: %v", line, got)
		}
	}
}

// What was found is compared with what another line wants of the same thing.
func TestUnfitting(t *testing.T) {
	for _, c := range []struct{ found, wanted, class string }{
		{"8.1.4", " 9.0 up to 9.9", "prerequisite"},
		{"9.4", " 9.0 up to 9.9", ""},
		{"10.1", " 9.0 up to 9.9", "prerequisite"},
		{"9.12.1", " 9.3 or later", ""},
		{"4.5", ": 4.8", "prerequisite"},
		{"kelp runtime (x86) 6.1", ": x64 6.0 or later", "platform"},
		{"kelp runtime x64 6.1", ": 64-bit 6.0", ""},
		{"kelp runtime", ": 6.0", ""},
		{"9.0", " 9.0.4410 was built from it", ""},
	} {
		if got, _ := unfitting(c.found, c.wanted); got != c.class {
			t.Errorf("%s, wanted%s: %q, want %q", c.found, c.wanted, got, c.class)
		}
	}
	for line, near := range map[string]bool{
		`connector works with @9.0 up to 9.9`:                                  true,
		`@ wanted: x64 6.0 or later`:                                           true,
		`@5.0 or later is needed`:                                              true,
		`@5.0 belongs to this and will, after the restart of all, be required`: false,
	} {
		if before, behind, _ := strings.Cut(line, "@"); wishNear(before, behind) != near {
			t.Errorf("%s: %v", line, !near)
		}
	}
	for line, none := range map[string]bool{
		`needs database engine 12.0 or later: ok`:       true,
		`agent 5.0 is part of this setup, and required`: true,
		`needs crm client 9.0`:                          false,
	} {
		if notWanted.MatchString(line) != none {
			t.Errorf("%s: %v", line, !none)
		}
	}
	for line, name := range map[string]string{
		`crm client on this machine: 8.1.4`:          "crm client",
		`runtime found: c:\program files\kelp 6.1`:   "runtime",
		`odbc driver is installed: 17.4`:             "odbc driver",
		`berth sync vorhanden: 3.1`:                  "berth sync",
		`port 8443 is in use`:                        "",
		`found a problem with the settings: 1.0 was`: "",
	} {
		got := ""
		if m := foundOf.FindStringSubmatch(line); m != nil {
			got = m[1]
		}
		if got != name {
			t.Errorf("%s: %q, want %q", line, got, name)
		}
	}
}
