package inquiry_test

import (
	"cmp"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/twin"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
	"hollowkey/demo"
	"hollowkey/demo/demotest"
)

// silent is a log in which an action fails and nothing says why, as one engine
// writes it.
func silent(action string) string {
	return "=== Verbose logging started: 5/4/2026  09:12:01  Build type: SHIP UNICODE 5.00.10011.00 ===\n" +
		"MSI (c) (B4:5C) [09:12:01:004]: ******* RunEngine:\n           ******* Product: C:\\Deploy\\Quay.msi\n           ******* Action: \n" +
		"Action start 9:12:01: INSTALL.\nAction start 9:12:02: " + action + ".\nAction ended 9:12:03: " + action + ". Return value 3.\n" +
		"Action ended 9:12:03: INSTALL. Return value 3.\nProperty(S): ProductName = Berthline Planner\nProperty(S): ProductVersion = 4.2.0\n" +
		"MSI (c) (B4:5C) [09:12:03:400]: MainEngineThread is returning 1603\n=== Verbose logging stopped: 5/4/2026  09:12:03 ===\n"
}

// onTwin lays out the demo's machine with one of its packages, changed, as
// C:\Deploy\Quay.msi.
func onTwin(t *testing.T, rows ...[]any) *twin.Twin {
	t.Helper()
	_, m := demotest.LayOut(t)
	db, err := demo.Package("Berthline.msi")
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range rows {
		if r[0] == "Cabinet" {
			if err := db.SetCell("Media", 0, "Cabinet", installdb.TextValue(r[1].(string))); err != nil {
				t.Fatal(err)
			}
			continue
		}
		if err := db.Insert(r[0].(string), r[1:]...); err != nil {
			t.Fatal(err)
		}
	}
	if err := m.WriteFile(`C:\Deploy\Quay.msi`, func(f *os.File) error { return db.Write(f) }); err != nil {
		t.Fatal(err)
	}
	return m
}

func ask(t *testing.T, m machine.Machine, log string) *verdict.Verdict {
	t.Helper()
	q := why.Question{Machine: m, Package: `C:\Deploy\Quay.msi`}
	if log == "" {
		q.Exit = new(1603)
	} else {
		name := filepath.Join(t.TempDir(), "quay.log")
		if err := os.WriteFile(name, []byte(log), 0o644); err != nil {
			t.Fatal(err)
		}
		q.Logs = []string{name}
	}
	ans, err := why.Ask(t.Context(), q)
	if err != nil {
		t.Fatal(err)
	}
	return ans.Verdict
}

// Where a log names an action and no reason, the package and the machine tell
// it, and what was looked at becomes the step's target.
func TestTheLogIsSilent(t *testing.T) {
	const nobody = "O:S-1-5-21-9-9-9-1099D:P(A;OICI;FA;;;S-1-5-21-9-9-9-1099)(A;OICI;0x1200a9;;;BU)"
	file := func(path, text string) func(*testing.T, *twin.Twin) {
		return func(t *testing.T, m *twin.Twin) {
			t.Helper()
			for i := range path {
				if i > 2 && path[i] == '\\' {
					_ = m.MakeFolder(path[:i])
				}
			}
			if err := m.WriteFile(path, func(f *os.File) error { _, err := f.WriteString(text); return err }); err != nil {
				t.Fatal(err)
			}
		}
	}
	closed := func(path string) func(*testing.T, *twin.Twin) {
		return func(t *testing.T, m *twin.Twin) {
			t.Helper()
			file(path+`\old.txt`, "old")(t, m)
			if err := m.SetFileSecurity(path, machine.Security{SDDL: nobody, Own: true}); err != nil {
				t.Fatal(err)
			}
		}
	}
	command := func(tool, line string) [][]any {
		return [][]any{{"CustomAction", "Run", 50, "TOOL", line}, {"Property", "TOOL", `C:\windows\system32\` + tool}}
	}
	data := func(row ...any) [][]any {
		return [][]any{{"Directory", "CommonAppDataFolder", "TARGETDIR", "."}, {"Directory", "VDATA", "CommonAppDataFolder", "Tides"}, row}
	}
	for _, tt := range []struct {
		name    string
		rows    [][]any
		breaks  func(*testing.T, *twin.Twin)
		action  string // "" is no log at all
		class   string
		subject string
		step    string // its kind; "" where a person must do it
	}{
		{"a folder that SYSTEM may not write", nil, closed(`C:\Program Files\Saltmarsh Quay`), "InstallFiles",
			"permission", `Saltmarsh Quay`, "grant"},
		{"the temporary folder, without a log", nil, nil, "", "permission", "", "grant"}, // the demo's machine
		{"an empty file for a folder", nil, file(`C:\Program Files\Saltmarsh Quay\Planner`, ""), "InstallFiles", "path", `\Planner`, "folder"},
		{"a file with contents for the folder above", [][]any{{"Directory", "TIDE", "ProgramFiles64Folder", "Tide"},
			{"Directory", "SUB", "TIDE", "Sub"}, {"CreateFolder", "SUB", "Main"}}, file(`C:\Program Files\Tide`, "notes"),
			"CreateFolders", "path", `Tide`, "quarantine"},
		{"a folder for a file", nil, file(`C:\Program Files\Saltmarsh Quay\Planner\Planner.exe\x`, "x"),
			"InstallFiles", "path", `Planner.exe`, "quarantine"},
		{"a key that SYSTEM may not write", nil, func(t *testing.T, m *twin.Twin) {
			t.Helper()
			if err := m.CreateKey(`HKLM\SOFTWARE\Saltmarsh Quay`); err != nil {
				t.Fatal(err)
			}
			if err := m.SetKeySecurity(`HKLM\SOFTWARE\Saltmarsh Quay`, machine.Security{SDDL: "O:BAD:P(A;CI;KR;;;BU)", Own: true}); err != nil {
				t.Fatal(err)
			}
		}, "WriteRegistryValues", "permission", `Saltmarsh Quay`, "grant"},
		{"a service that is disabled", [][]any{{"ServiceControl", "S", "TideClock", 1, nil, 1, "Main"}}, nil,
			"StartServices", "service", "TideClock", "service"},
		{"an account of a service that is not there", [][]any{{"ServiceInstall", "S", "QuayClock", "Quay Clock", 16, 3, 1, nil, nil, `.\quayclock`, nil, nil, "Main", nil},
			{"ServiceControl", "C", "QuayClock", 1, nil, 1, "Main"}}, nil, "StartServices", "service", `.\quayclock`, ""},
		{"a variable that a program uses is not set", [][]any{{"CustomAction", "Run", 50, "SHELL", `/c cd /d "%QUAYHOME%" || exit 3`},
			{"Property", "SHELL", `C:\windows\system32\cmd.exe`}}, nil, "Run", "path", "QUAYHOME", ""},
		{"a service that is not there", [][]any{{"ServiceControl", "S", "QuayClock", 1, nil, 1, "Main"}}, nil,
			"StartServices", "service", "QuayClock", ""},
		{"a cabinet that is not there", [][]any{{"Cabinet", "quay.cab"}}, nil, "InstallFiles", "source", "quay.cab", ""},
		{"a cabinet that is damaged", [][]any{{"Cabinet", "quay.cab"}},
			file(`C:\Deploy\quay.cab`, "MSCF and no more"), "InstallFiles", "corrupt", "quay.cab", ""},
		{"a folder that a program is called with", [][]any{{"CustomAction", "RunInit", 50, "TOOL", `/c mkdir C:\ProgramData\Tides\plan || exit 5`},
			{"InstallExecuteSequence", "RunInit", "NOT Installed", 1450}}, closed(`C:\ProgramData\Tides`), "RunInit", "permission", `C:\ProgramData\Tides`, "grant"},
		{"a file that a program is called with", [][]any{{"CustomAction", "RunInit", 34, "TARGET", `init.exe --data "C:\ProgramData\Tides\quay.db"`},
			{"InstallExecuteSequence", "RunInit", "NOT Installed", 1450}}, closed(`C:\ProgramData\Tides`), "RunInit", "permission", `C:\ProgramData\Tides`, "grant"},
		{"a cabinet that is not inside", [][]any{{"Cabinet", "#quay.cab"}}, nil, "InstallFiles", "corrupt", ".msi", ""},
		{"a file where a program makes a folder", command("cmd.exe", `/c mkdir "C:\ProgramData\Tides\plan"`), file(`C:\ProgramData\Tides\plan`, ""),
			"Run", "path", `\plan`, "quarantine"},
		{"a folder that a program makes is there", command("cmd.exe", `/c md C:\ProgramData\Tides\plan`), file(`C:\ProgramData\Tides\plan\x.txt`, "x"),
			"Run", "custom-action", `\plan`, ""},
		{"a file that a line wants", command("cmd.exe", `/c if not exist "C:\ProgramData\Tides\licence.dat" exit 5`), nil, "Run", "path", "licence.dat", ""},
		{"a file that a line refuses", command("cmd.exe", `/c if exist C:\ProgramData\Tides\lock.txt exit 5`), file(`C:\ProgramData\Tides\lock.txt`, "x"),
			"Run", "custom-action", "lock.txt", ""},
		{"a share that a program connects", command("net.exe", `use S: \\licences.ellery.example\apps`), nil, "Run", "network", "licences.ellery.example", ""},
		{"a host that a program fetches from", command("curl.exe", `-o C:\x.zip https://licences.ellery.example/x.zip`), nil, "Run", "network",
			"licences.ellery.example", ""},
		{"a service that PowerShell starts", command(`WindowsPowerShell\v1.0\powershell.exe`, `-Command "Start-Service TideClock"`), nil, "Run",
			"service", "TideClock", "service"},
		{"a service that a program makes is there", command("sc.exe", `create TideClock binPath= C:\Quay\x.exe`), nil, "Run", "leftover", "TideClock", ""},
		{"a task that is not there", command("schtasks.exe", `/delete /tn "Quay Nightly" /f`), nil, "Run", "custom-action", "Quay Nightly", ""},
		{"a program that a line ends does not run", command("taskkill.exe", `/f /im quaytray.exe`), nil, "Run", "custom-action", "quaytray.exe", ""},
		{"a service that answers a tool", command("netsh.exe", `advfirewall firewall add rule name=Quay dir=in action=allow`), func(t *testing.T, m *twin.Twin) {
			t.Helper()
			if err := m.CreateService(machine.Service{Name: "MpsSvc", Display: "Firewall", Binary: `C:\Windows\system32\svchost.exe -k fw`, Start: machine.StartDisabled}); err != nil {
				t.Fatal(err)
			}
		}, "Run", "service", "MpsSvc", "service"},
		{"an account that a line names", command("net.exe", `localgroup Users quaysync /add`), nil, "Run", "custom-action", "quaysync", ""},
		{"an account that a line makes", command("net.exe", `user mwhitlow Secret1! /add`), nil, "Run", "leftover", "mwhitlow", ""},
		{"a product that a program uninstalls", command("msiexec.exe", `/x {2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B44} /qn`), nil, "Run",
			"custom-action", "{2E9A4C17", ""},
		{"a file that a script writes", [][]any{{"CustomAction", "Run", 38, nil, `Set f = fso.CreateTextFile("C:\ProgramData\Tides\mode.txt", True)`}},
			closed(`C:\ProgramData\Tides`), "Run", "permission", `Tides`, "grant"},
		{"a value that a script reads", [][]any{{"Binary", "Prep", []byte("x = s.RegRead(\"HKLM\\SOFTWARE\\Tides\\Site\")\r\n")}, {"CustomAction", "Run", 6, "Prep", nil}},
			func(t *testing.T, m *twin.Twin) {
				t.Helper()
				if err := m.CreateKey(`HKLM\SOFTWARE\Tides`); err != nil {
					t.Fatal(err)
				}
			}, "Run", "registry", `Tides\Site`, ""},
		{"an INI file in a folder that may not be written", data("IniFile", "I", "quay.ini", "VDATA", "Port", "Code", "17", 0, "Main"),
			closed(`C:\ProgramData\Tides`), "WriteIniValues", "permission", `Tides`, "grant"},
		{"a folder where an INI file must be", data("IniFile", "I", "quay.ini", "VDATA", "Port", "Code", "17", 0, "Main"),
			file(`C:\ProgramData\Tides\quay.ini\x`, "x"), "WriteIniValues", "path", "quay.ini", "quarantine"},
		{"a folder of the menu", [][]any{{"Directory", "VMENU", "ProgramMenuFolder", "Tides"},
			{"Shortcut", "S", "VMENU", "Planner", "Main", "[TARGET]Planner.exe", nil, nil, nil, nil, nil, nil}},
			closed(`C:\ProgramData\Microsoft\Windows\Start Menu\Programs\Tides`), "CreateShortcuts", "permission", `Programs\Tides`, "grant"},
		{"a folder that files are copied to", data("DuplicateFile", "D", "Main", "PlannerExe", "copy.exe", "VDATA"), closed(`C:\ProgramData\Tides`),
			"DuplicateFiles", "permission", `Tides`, "grant"},
		{"a folder that files are removed from", nil, closed(`C:\Program Files\Saltmarsh Quay\Planner`), "RemoveFiles", "permission", `\Planner`, "grant"},
		{"a drive that a search found",
			[][]any{{"AppSearch", "TARGET", "Old"}, {"RegLocator", "Old", 2, `SOFTWARE\Quay\Old`, "Path", 18}}, func(t *testing.T, m *twin.Twin) {
				t.Helper()
				v, err := regfile.Make(regfile.String, `Q:\Planner\`)
				if err == nil {
					err = m.CreateKey(`HKLM\SOFTWARE\Quay\Old`)
				}
				if err == nil {
					err = m.SetValue(`HKLM\SOFTWARE\Quay\Old`, "Path", v)
				}
				if err != nil {
					t.Fatal(err)
				}
			}, "InstallFiles", "path", `Q:\Planner`, "unset"},
	} {
		t.Run(tt.name, func(t *testing.T) {
			m := onTwin(t, tt.rows...)
			if tt.breaks != nil {
				tt.breaks(t, m)
			}
			log := ""
			if tt.action != "" {
				log = silent(tt.action)
			}
			v := ask(t, m, log)
			subject, step := "", ""
			if v.Cause.Subject != nil {
				subject = v.Cause.Subject.Name
			}
			if at := v.FirstWithSteps(); at >= 0 {
				for kind := range v.Remedies[at].Steps[0] {
					step = kind
				}
			}
			if *v.Cause.Class != tt.class || !strings.Contains(subject, tt.subject) || step != tt.step {
				t.Errorf("%s about %q, step %q (%.2f): %s", *v.Cause.Class, subject, step, v.Cause.Confidence, v.Cause.Summary)
			}
			if least := map[bool]float64{true: 0.6, false: 0.75}[tt.action == ""]; !v.Shown() || v.Cause.Confidence < least {
				t.Errorf("sure %.2f, shown %v", v.Cause.Confidence, v.Shown())
			}
		})
	}
}

// Nothing is made up where the machine shows nothing, and a log that says why
// is not talked over.
func TestNothingIsMadeUp(t *testing.T) {
	m := onTwin(t)
	if v := ask(t, m, silent("WriteIniValues")); v.Shown() || v.FirstWithSteps() >= 0 || v.Cause.Confidence >= 0.75 {
		t.Errorf("%+v, %+v", v.Cause, v.Machine)
	}
	told := strings.Replace(silent("InstallFiles"), "Action ended 9:12:03: InstallFiles", "Error 1309. Error reading from file: C:\\Deploy\\quay.dat. System error 2. Verify that the file exists and that you can access it.\nAction ended 9:12:03: InstallFiles", 1)
	if v := ask(t, m, told); *v.Cause.Class != "source" && *v.Cause.Class != "path" {
		t.Errorf("%s: %s", *v.Cause.Class, v.Cause.Summary)
	}
}

// What a program of the package's works on is as it should be: nothing is told
// of it. A service that is to be stopped may be disabled, and what a line does
// in passing decides nothing.
func TestWhatIsWellIsNotTold(t *testing.T) {
	for _, line := range []string{`cmd.exe /c mkdir C:\ProgramData\Tides`, `cmd.exe /c if exist C:\Quay\lock.txt exit 5`,
		`cmd.exe /c mkdir C:\Deploy & net stop TideClock`, `net.exe use S: \\charts.ellery.example\apps`, `curl.exe -O https://charts.ellery.example/x.zip`,
		`sc.exe create QuayClock binPath= C:\Quay\x.exe`, `net.exe stop TideClock`, `msiexec.exe /x {C41F7E08-93B2-4D6A-8E15-70A2B9D3F644} /qn`,
		`powershell.exe -Command "Start-Service TideClock -ErrorAction SilentlyContinue"`, `sc.exe start Spooler`,
		`reg.exe query HKLM\SOFTWARE\Tides\Deck /v Site`} { // of which a twin need not know
		tool, args, _ := strings.Cut(line, " ")
		m := onTwin(t, []any{"CustomAction", "Run", 50, "TOOL", args}, []any{"Property", "TOOL", `C:\windows\system32\` + tool})
		if v := ask(t, m, silent("Run")); v.Shown() || v.Cause.Confidence >= 0.75 {
			t.Errorf("%s: %.2f %s", line, v.Cause.Confidence, v.Cause.Summary)
		}
	}
	for _, event := range []int{2, 8, 32, 2 | 8 | 32 | 128} {
		m := onTwin(t, []any{"ServiceControl", "S", "TideClock", event, nil, 1, "Main"})
		for _, action := range []string{"StopServices", "DeleteServices"} {
			if v := ask(t, m, silent(action)); v.FirstWithSteps() >= 0 {
				t.Errorf("%s, %d: %s: %v", action, event, v.Cause.Summary, v.Remedies[v.FirstWithSteps()])
			}
		}
	}
}

// A product that the package looks for by its upgrade code and that is not
// there comes first, and to pretend it last.
func TestAnotherProductIsMissing(t *testing.T) {
	for _, condition := range []string{"CHARTSFOUND OR Installed", `CHARTSFOUND <> "" OR Installed`} {
		m := onTwin(t, []any{"Upgrade", "{2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B44}", "1.0.0", nil, nil, 2, nil, "CHARTSFOUND"},
			[]any{"LaunchCondition", condition, "Needs the charts."})
		v := ask(t, m, "")
		if *v.Cause.Class != "condition" || v.FirstWithSteps() >= 0 || !strings.Contains(v.Remedies[0].Title, "{2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B44}") {
			t.Errorf("%s: %s: %+v", condition, v.Cause.Summary, v.Remedies)
		}
	}
}

// What would stop the setup next for the same reason is in the same plan; what
// somebody may have wanted so is not.
func TestWhatStopsItNext(t *testing.T) {
	m := onTwin(t, []any{"ServiceControl", "S", "TideClock", 1, nil, 1, "Main"}) // which is disabled there
	const key = `HKLM\SOFTWARE\Saltmarsh Quay`
	if err := m.CreateKey(key); err != nil {
		t.Fatal(err)
	}
	if err := m.SetKeySecurity(key, machine.Security{SDDL: "O:BAD:P(A;CI;KR;;;BU)", Own: true}); err != nil {
		t.Fatal(err)
	}
	if err := m.SetFileSecurity(`C:\Program Files\Saltmarsh Quay`, machine.Security{
		SDDL: "O:S-1-5-21-9-9-9-1099D:P(A;OICI;FA;;;S-1-5-21-9-9-9-1099)(A;OICI;0x1200a9;;;BU)", Own: true}); err != nil {
		t.Fatal(err)
	}
	v := ask(t, m, silent("InstallFiles"))
	at := v.FirstWithSteps()
	if at < 0 {
		t.Fatalf("no steps: %+v", v.Remedies)
	}
	want := map[string]bool{"the folder": false, "the key": false}
	for _, s := range v.Remedies[at].Steps {
		want["the folder"] = want["the folder"] || strings.HasSuffix(s["grant"]["folder"], "Saltmarsh Quay")
		want["the key"] = want["the key"] || strings.HasSuffix(s["grant"]["key"], "Saltmarsh Quay")
		if s["service"] != nil {
			t.Errorf("a service that no line speaks of is changed: %v", s)
		}
	}
	for what, is := range want {
		if !is {
			t.Errorf("%s is not in the plan: %s: %v", what, v.Remedies[at].Title, v.Remedies[at].Steps)
		}
	}
	if !strings.Contains(v.Remedies[at].Title, "would stop it next") {
		t.Errorf("the title does not say so: %s", v.Remedies[at].Title)
	}
}

// A log that stops in the middle names no package; the one with its product
// code that lies in its folder is taken, and no other.
func TestThePackageBesideTheLog(t *testing.T) {
	const log = "=== Logging started: 11/29/2026  5:59:27 ===\nAction 5:59:27: INSTALL. \nAction start 5:59:27: INSTALL.\n" +
		"1: Berthline Planner 2: {0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C11} \nAction 5:59:27: CreateFolders. Creating folders\n" +
		"Action start 5:59:27: CreateFolders.\nFolder: LDATA\n"
	_, m := demotest.LayOut(t)
	if err := m.WriteFile(`C:\ProgramData\Saltmarsh Quay`, func(*os.File) error { return nil }); err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	name := filepath.Join(dir, "quay.log")
	if err := os.WriteFile(name, []byte(log), 0o644); err != nil {
		t.Fatal(err)
	}
	ask := func(file string, pack string, rows ...[]any) *verdict.Verdict {
		t.Helper()
		db, err := demo.Package(pack)
		for _, r := range rows {
			err = cmp.Or(err, db.Insert(r[0].(string), r[1:]...))
		}
		if err != nil {
			t.Fatal(err)
		}
		f, err := os.Create(filepath.Join(dir, file))
		if err == nil {
			err = errors.Join(db.Write(f), f.Close())
		}
		if err != nil {
			t.Fatal(err)
		}
		ans, err := why.Ask(t.Context(), why.Question{Machine: m, Logs: []string{name}})
		if err != nil {
			t.Fatal(err)
		}
		return ans.Verdict
	}
	if v := ask("other.msi", "Tidebook.msi"); v.Package != "" || *v.Cause.Class == "path" {
		t.Errorf("another product's package was taken: %s, %s", v.Package, *v.Cause.Class)
	}
	v := ask("quay.msi", "Berthline.msi", []any{"Directory", "CommonAppDataFolder", "TARGETDIR", "."},
		[]any{"Directory", "VDATA", "CommonAppDataFolder", "Saltmarsh Quay"}, []any{"Directory", "LDATA", "VDATA", "Ledger"},
		[]any{"CreateFolder", "LDATA", "Main"})
	if filepath.Base(v.Package) != "quay.msi" || *v.Cause.Class != "path" || v.Cause.Subject == nil ||
		!strings.Contains(v.Cause.Subject.Name, `C:\ProgramData\Saltmarsh Quay`) || v.FirstWithSteps() < 0 {
		t.Errorf("%q: %s about %+v: %s\n%+v", v.Package, *v.Cause.Class, v.Cause.Subject, v.Cause.Summary, v.Machine)
	}
}

// A path that a program was called with and that everybody has as usual is no
// reason.
func TestAUsualPathIsNoReason(t *testing.T) {
	for _, path := range []string{`C:\Program Files\Saltmarsh Quay\Planner\quay.ini`, `C:\ProgramData\Quay\quay.db`, `C:\Windows\Temp\quay.txt`,
		`C:\Users\mwhitlow\Documents\quay.txt`, `C:\Deploy\quay.cfg`} {
		m := onTwin(t, []any{"CustomAction", "RunInit", 50, "TOOL", `/init "` + path + `"`}, []any{"InstallExecuteSequence", "RunInit", "NOT Installed", 1450})
		for at := range path {
			if at > 2 && path[at] == '\\' {
				_ = m.MakeFolder(path[:at])
			}
		}
		if err := m.WriteFile(path, func(*os.File) error { return nil }); err != nil {
			t.Fatal(err)
		}
		usual := machine.Security{SDDL: "O:SYG:SYD:P(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)(A;OICI;0x1200a9;;;BU)", Own: true}
		if err := m.SetFileSecurity(path[:strings.LastIndexByte(path, '\\')], usual); err != nil {
			t.Fatal(err)
		}
		if v := ask(t, m, silent("RunInit")); *v.Cause.Class == "permission" {
			t.Errorf("%s: %s", path, v.Cause.Summary)
		}
		ordinary := silent("RunInit") + "Property(S): LogonUser = svc-berth\n"
		if v := ask(t, m, ordinary); *v.Cause.Class == "permission" || v.User != "svc-berth" {
			t.Errorf("%s, for %s: %s", path, v.User, v.Cause.Summary)
		}
	}
}

// A value that the package has for what a search does not find is no value:
// what is missing comes first, and to pretend it last.
func TestASearchWithAValueForNothing(t *testing.T) {
	m := onTwin(t, []any{"Property", "QUAYTOOL", "0"}, []any{"AppSearch", "QUAYTOOL", "ToolFile"},
		[]any{"Signature", "ToolFile", "quaytool.exe", nil, nil, nil, nil, nil, nil, nil},
		[]any{"DrLocator", "ToolFile", nil, `C:\ProgramData\Quay`, 0}, []any{"LaunchCondition", `QUAYTOOL <> "0" OR Installed`, "Needs the tool."})
	v := ask(t, m, "")
	if *v.Cause.Class != "condition" || !strings.Contains(v.Cause.Summary, "quaytool.exe") {
		t.Errorf("%+v", v.Cause)
	}
	if first := v.Remedies[0]; len(first.Steps) > 0 || !strings.Contains(first.Title, "install what the package asks for") {
		t.Errorf("first: %+v", first)
	}
	for _, r := range v.Remedies {
		if len(r.Steps) > 0 && !r.OnlyNamed {
			t.Errorf("a way that pretends is taken by itself: %+v", r)
		}
	}
}

// A key of an INI file that has another value than the package wants can be
// set, by whoever names that remedy.
func TestAnIniKeyOfAnotherValue(t *testing.T) {
	m := onTwin(t, []any{"AppSearch", "PORT", "IniPort"}, []any{"IniLocator", "IniPort", "quay.ini", "Port", "Code", nil, 2},
		[]any{"LaunchCondition", `PORT = "17" OR Installed`, "Needs port 17."})
	err := m.WriteFile(`C:\Windows\quay.ini`, func(f *os.File) error { _, err := f.WriteString("[Port]\r\nCode=16\r\nName=Ellery\r\n"); return err })
	if err != nil {
		t.Fatal(err)
	}
	v := ask(t, m, "")
	i := slices.IndexFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) == 1 && r.Steps[0]["ini"] != nil })
	if i < 0 || !v.Remedies[i].OnlyNamed {
		t.Fatalf("%+v", v.Remedies)
	}
	set := v.Remedies[i].Steps[0]["ini"]
	if set["file"] != `C:\Windows\quay.ini` || set["section"] != "Port" || set["key"] != "Code" || set["value"] != "17" {
		t.Errorf("%v", set)
	}
	if _, err := fix.Draft(m, v.Remedies[i].Title, v.Remedies[i].Steps); err != nil {
		t.Error(err)
	}
}

// A cabinet beside the package that the user may not read is told by that
// right, which fix gives.
func TestACabinetThatMayNotBeRead(t *testing.T) {
	m := onTwin(t, []any{"Cabinet", "planner.cab"})
	cab := filepath.Join(m.Folder(), "disk", "C", "Deploy", "planner.cab")
	if err := os.WriteFile(cab, []byte("MSCF"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := m.SetFileSecurity(`C:\Deploy\planner.cab`, machine.Security{SDDL: "O:SYG:SYD:PAI(A;;FA;;;SY)", Own: true}); err != nil {
		t.Fatal(err)
	}
	log := "=== Verbose logging started: 5/11/2026  7:40:02  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\\Windows\\System32\\msiexec.exe ===\n" +
		"Property(S): USERNAME = mwhitlow\nProperty(S): LogonUser = mwhitlow\nAction start 7:40:12: InstallFiles.\nAction ended 7:40:20: InstallFiles. Return value 3.\n" +
		"MSI (s) (D4:38) [07:40:15:861]: MainEngineThread is returning 1603\n"
	v := ask(t, m, log)
	if *v.Cause.Class != "permission" || v.Cause.Subject == nil || !strings.Contains(v.Cause.Subject.Name, "planner.cab") {
		t.Fatalf("%+v, about %+v, of %q", v.Cause, v.Cause.Subject, v.User)
	}
	if grant := v.Remedies[0].Steps; len(grant) == 0 || grant[0]["grant"]["right"] != "read" || grant[0]["grant"]["account"] != "mwhitlow" {
		t.Errorf("%+v", v.Remedies[0])
	}
}

// Where the log does not say which launch condition refused, and all pass on
// the machine but one that the run itself decides, it is that one.
func TestTheConditionThatTheRunDecides(t *testing.T) {
	for i, c := range []struct {
		rows    [][]any
		subject string
		first   string
	}{
		{nil, `"Privileged"`, "elevated prompt"}, // the package's own
		{[][]any{{"LaunchCondition", "AdminUser OR Installed", "Needs an administrator."}}, "", "elevated prompt"},
		{[][]any{{"LaunchCondition", "PhysicalMemory >= 65536 OR Installed", "Needs 64 GB."}}, "LaunchConditions", "meet the condition"}, // or that
		{[][]any{{"LaunchCondition", "VersionNT < 600 OR Installed", "For older ones."}}, "VersionNT", "transform"},
	} {
		v := ask(t, onTwin(t, c.rows...), silent("LaunchConditions"))
		if v.Cause.Subject == nil || !strings.Contains(v.Cause.Subject.Name, c.subject) || !strings.Contains(v.Remedies[0].Title, c.first) {
			t.Errorf("%d: about %+v, first %q", i, v.Cause.Subject, v.Remedies[0].Title)
		}
	}
}
