package intake

import (
	"context"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/fleet/store"
)

// lines that fail, by cause: {u} a user, {m} the machine, {p} a process, {g} a
// GUID, {t} a temporary name, {k} a key, {n} a small number.
var ofAnotherMake = map[string]string{
	"lock":      `The process cannot access the file 'C:\Program Files\Tidebook\tide.dll' because it is being used by another process (pid {p}).`,
	"settings":  `Access to the path 'C:\Users\{u}\AppData\Roaming\Tidebook\settings.xml' is denied.`,
	"payload":   `Could not write C:\Users\{u}\AppData\Local\Temp\{t}\payload.cab: Access is denied. (5)`,
	"space":     `There is not enough space on the disk. Required 8{p} MB, available {n} MB on C:.`,
	"host":      `Could not resolve host updates.tidebook.example (attempt {n})`,
	"expired":   `The certificate of updates.tidebook.example has expired`,
	"proxy":     `The remote server returned an error: (407) Proxy Authentication Required. proxy proxy{n}.ellery.example:8080`,
	"missing":   `GET https://dl.tidebook.example/2.8/tide.msi?sig={g} failed: 404 Not Found`,
	"overload":  `GET https://dl.tidebook.example/2.8/tide.msi?sig={g} failed: 503 Service Unavailable`,
	"disabled":  `Cannot start service TideFeed: the service is disabled. (1058) after {p} ms`,
	"instance":  `Could not stop service MSSQL$TIDE{n}: access is denied (5)`,
	"framework": `.NET Framework 4.8 or later is required; found 4.{n}`,
	"runtime":   `The program can't start because VCRUNTIME140_1.dll was not found. session {n}`,
	"hive":      `RegCreateKeyEx HKEY_USERS\S-1-5-21-{p}-{p}-{p}-1001\Software\Saltmarsh\Tidebook failed: 5`,
	"restart":   `A restart is pending: PendingFileRenameOperations has {n} entries. Please restart the computer and run the setup again.`,
	"other":     `Another installation is already in progress (msiexec.exe, process {p}).`,
	"scanner":   `Operation did not complete successfully because the file C:\Users\{u}\AppData\Local\Temp\{{g}}\tidehook.dll contains a virus or potentially unwanted software. (225)`,
	"driver":    `Driver package oem{n}.inf could not be installed: the third-party INF does not contain digital signature information (0xE000022F)`,
	"sign-in":   `Login failed for user 'ELLERY\{u}'. (18456) on {m}\TIDEDB`,
	"key":       `Licence key {k} is not valid for this edition`,
	"class":     `CoCreateInstance({6F1B1F4C-7B1C-4E1E-9B7A-1A2B3C4D5E6F}) failed: 0x80040154 Class not registered`,
	"engine":    `CoCreateInstance({0A1B2C3D-7B1C-4E1E-9B7A-1A2B3C4D5E6F}) failed: 0x80040154 Class not registered`,
	"import":    `System.NullReferenceException: Object reference not set to an instance of an object. at Tide.Setup.ImportSettings.Run() in C:\build\{n}\s\Import.cs:line 44`,
	"shortcut":  `System.NullReferenceException: Object reference not set to an instance of an object. at Tide.Setup.WriteShortcut.Run() in C:\build\{n}\s\Shortcut.cs:line 81`,
	"cache":     `PermissionError: [Errno 13] Permission denied: 'C:/Users/{u}/AppData/Local/Tidebook/cache/{p}.lock'`,
	"natives":   `java.lang.UnsatisfiedLinkError: C:\Users\{u}\.tide\natives\{g}\tidegl.dll: %1 is not a valid Win32 application`,
	"dienst":    `Der Dienst TideSync konnte nicht gestartet werden. Systemfehler 1069. Versuch {n}`,
	"elevation": `The requested operation requires elevation (740), user {m}\{u}`,
}

// The same cause on many machines is one, also in a fleet whose logs are of
// other programs than those that the rules were made with: other layouts, and
// before the failure on each machine other steps.
func TestAFleetOfAnotherMake(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	guid := func() string {
		return fmt.Sprintf("%08x-%04x-%04x-%04x-%012x", r.Uint32(), r.IntN(1<<16), r.IntN(1<<16), r.IntN(1<<16), r.Int64N(1<<48))
	}
	layouts := []func(m, level, text string, n int) string{
		func(m, level, text string, n int) string {
			return fmt.Sprintf("2026-05-04 09:12:%02d %-5s %s", n, level, text)
		},
		func(m, level, text string, n int) string {
			return fmt.Sprintf("[09:12:%02d][%s] %s: %s", n, m, level, text)
		},
		func(m, level, text string, n int) string {
			return fmt.Sprintf(`{"ts":"2026-05-04T09:12:%02d","lvl":%q,"host":%q,"msg":%q}`, n, strings.ToLower(level), m, text)
		},
		func(m, level, text string, n int) string { return fmt.Sprintf("%s: %s", level, text) },
	}
	dir, truth, kind := t.TempDir(), map[string]string{}, 0
	for cause, line := range ofAnotherMake {
		layout := layouts[kind%len(layouts)]
		kind++
		for n := range 8 {
			user := pick("pia", "owen", "Nils Hagen", "josé", "svc-deploy", "a.weber") + pick("", fmt.Sprint(r.IntN(900)))
			machine := pick(fmt.Sprintf("PE-%04d", r.IntN(9999)), fmt.Sprintf("desk%d", 100+r.IntN(900)),
				fmt.Sprintf("LT%06X", r.IntN(1<<24)), "DESKTOP-7"+pick("G4K", "AAB", "QZ2")+fmt.Sprint(r.IntN(99)))
			text := strings.NewReplacer("{u}", user, "{m}", machine, "{p}", fmt.Sprint(1000+r.IntN(30000)), "{g}", guid(), "{n}", fmt.Sprint(1+r.IntN(9)),
				"{t}", pick("is-"+guid()[:5]+".tmp", "{"+guid()+"}", "7z"+guid()[:8], fmt.Sprintf("tb%d", r.IntN(99999))),
				"{k}", strings.ToUpper(guid()[9:13]+"-"+guid()[9:13]+"-"+guid()[9:13]+"-"+guid()[9:13])).Replace(line)
			lines := []string{layout(machine, "INFO", "Tidebook setup 2.8 started by "+user+" on "+machine, 1)}
			steps := []string{"maps", "fonts", "atlas", "tables", "help"}
			r.Shuffle(len(steps), func(i, j int) { steps[i], steps[j] = steps[j], steps[i] })
			for k, s := range steps[:3] {
				lines = append(lines, layout(machine, "DEBUG", "Reading component "+s, 2+k))
			}
			lines = append(lines, layout(machine, "ERROR", text, 6), layout(machine, "INFO", "Rolling back", 7),
				layout(machine, "ERROR", "Installation failed with exit code 1603", 8))
			path := filepath.Join(dir, machine, fmt.Sprintf("setup-%s-%d.log", cause, n))
			write(t, path, []byte(strings.Join(lines, "\n")+"\n"))
			truth[path] = cause
		}
	}
	s := open(t, t.TempDir())
	if rep, err := Add(context.Background(), s, []string{dir}, Options{}); err != nil || rep.Logs != len(truth) {
		t.Fatalf("%+v %v", rep, err)
	}
	list, err := s.Attempts(context.Background(), store.Filter{}, false, 1<<20)
	if err != nil {
		t.Fatal(err)
	}
	precision, recall := pairs(list, truth)
	t.Logf("precision %.3f, recall %.3f, causes %d", precision, recall, len(ofAnotherMake))
	if precision < 0.99 || recall < 0.95 {
		for _, a := range list {
			t.Logf("%s %s %s <- %s", truth[a.Path], a.Cause, a.Title, a.Proof)
		}
		t.Errorf("precision %.3f and recall %.3f", precision, recall)
	}
}

// What a folder is called tells the machine, and not when or what for logs were
// collected.
func TestMachineOfAFolder(t *testing.T) {
	for name, want := range map[string]string{"PE-0417": "PE-0417", "DESKTOP-7G4K2LQ": "DESKTOP-7G4K2LQ", "LT4804DC": "LT4804DC", "desk951": "desk951",
		"week12": "", "logs2": "", "v2": "", "2026-05-04": "", "setup1": "", "Tidebook": "", "collected-3": "", "a-name-that-is-too-long-for-1": ""} {
		if got := machineOf(filepath.Join(name, "setup.log")); got != want {
			t.Errorf("%s: %q, want %q", name, got, want)
		}
	}
	if got := machineOf(filepath.Join("PE-0417", "week12", "setup.log")); got != "PE-0417" {
		t.Error(got)
	}
}
