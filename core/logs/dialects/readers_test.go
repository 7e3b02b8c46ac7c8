package dialects

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

func last(t *testing.T, log string) *story.Attempt {
	t.Helper()
	s, err := Read(context.Background(), "x.log", strings.NewReader(log), textfile.Options{})
	if err != nil {
		t.Fatalf("%v\n%s", err, log)
	}
	return s.Last()
}

// told sums an attempt up in one line: outcome, number, product, failed
// actions.
func told(a *story.Attempt) string {
	var parts []string
	switch {
	case a.Success == nil:
		parts = append(parts, "unknown")
	case *a.Success:
		parts = append(parts, "worked")
	default:
		parts = append(parts, "failed")
	}
	if a.Exit != nil {
		parts = append(parts, fmt.Sprint(a.Exit.Code))
	}
	if a.Cancelled {
		parts = append(parts, "cancelled")
	}
	if a.Restart {
		parts = append(parts, "restart")
	}
	parts = append(parts, a.Product.Name)
	for _, x := range a.Actions {
		switch {
		case x.Failed:
			parts = append(parts, "!"+x.Name)
		case x.Ignored:
			parts = append(parts, "~"+x.Name)
		}
	}
	return strings.Join(parts, " ")
}

type telling struct{ name, log, want string }

func check(t *testing.T, tests []telling) {
	t.Helper()
	for _, tt := range tests {
		if got := told(last(t, tt.log)); got != tt.want {
			t.Errorf("%s: %q, want %q", tt.name, got, tt.want)
		}
	}
}

func TestChain(t *testing.T) {
	line := func(s string) string { return "[0A10:0B20][2026-05-04T09:12:01]" + s + "\n" }
	start := line("i001: Engine v3") + line("i000: Setting string variable 'PortBundleName' to value 'Fairway Radio'") +
		line("i300: Apply begin")
	apply := func(name, result string) string {
		return line("i301: Applying execute package: "+name+", action: Install, path: C:\\x") +
			line("i319: Applied execute package: "+name+", result: "+result+", restart: None")
	}
	end := func(result string) string {
		return line("i399: Apply complete, result: "+result+", restart: None") + line("i007: Exit code: "+result+", restarting: No")
	}
	check(t, []telling{
		{"all well", start + apply("A", "0x0") + end("0x0"), "unknown 0 Fairway Radio"},
		{"a package fails", start + apply("A", "0x0") + apply("B", "0x80070643") + end("0x80070643"), "unknown 1603 Fairway Radio !Apply !B"},
		{"a package may fail", start + apply("A", "0x80070643") + apply("B", "0x0") + end("0x0"), "unknown 0 Fairway Radio"},
		{"restart", start + apply("A", "0xbc2") + end("0xbc2"), "unknown 3010 restart Fairway Radio"},
		{"a number that is no system error", start + apply("A", "0x81f40001") + end("0x81f40001"), "unknown -2114715647 Fairway Radio !Apply !A"},
		{"a payload cannot be had", start + line("i338: Acquiring package: Charts, payload: Charts, download from: https://x.example/c.cab") +
			line("e313: Failed to acquire payload: Charts to working path: C:\\x, error: 0x80072ee7.") + end("0x80072ee7"),
			"unknown 12007 Fairway Radio !Apply !Charts"},
		{"two runs in one file", start + apply("A", "0x80070643") + end("0x80070643") + start + apply("A", "0x0") + end("0x0"),
			"unknown 0 Fairway Radio"},
	})
	a := last(t, start+line("i000: Setting string variable 'PortBundleLog_Radio' to value 'C:\\t\\radio.log'")+
		line("e000: Error 0x80070002: gone")+"  and a second line of it\n"+end("0x80070002"))
	if p := a.Properties["log of Radio"]; p.Value != `C:\t\radio.log` {
		t.Errorf("the log of a package: %+v", a.Properties)
	}
	if m := a.Messages[len(a.Messages)-1]; m.Kind == story.KindError && !strings.Contains(m.Text, "second line") {
		t.Errorf("a text of two lines: %q", m.Text)
	}
}

func TestScript(t *testing.T) {
	line := func(s string) string { return "2026-05-04 09:12:01.024   " + s + "\n" }
	start := line("Log opened. (Time zone: UTC+00:00)") + line("Setup version: 6") +
		line("Directory for uninstall files: C:\\Program Files\\Pilot Roster") + line("Starting the installation process.")
	check(t, []telling{
		{"all well", start + line("Installation process succeeded.") + line("Log closed."), "worked Pilot Roster"},
		{"restart", start + line("Installation process succeeded.") + line("Need to restart Windows? Yes"), "worked restart Pilot Roster"},
		{"a program that may fail", start + line("-- Run entry --") + line("Filename: C:\\x.exe") + line("Process exit code: 3") +
			line("Installation process succeeded."), "worked Pilot Roster ~Run entry"},
		{"an exception", start + line("-- File entry --") + line("Fatal exception during installation process (Exception):") + "x\n" +
			line("Rolling back changes.") + line("Log closed."), "failed Pilot Roster !Installation !File entry"},
		{"an abort that nobody chose", start + line("Defaulting to Abort for suppressed message box (Abort/Retry/Ignore):") + "x\n" +
			line("User canceled the installation process.") + line("Rolling back changes."), "failed Pilot Roster !Installation"},
		{"cancelled", start + line("User canceled the installation process.") + line("Rolling back changes."),
			"failed cancelled Pilot Roster !Installation"},
		{"a refusal before it begins", line("Log opened.") + line("Setup version: 6") + line("Message box (OK):") +
			"This program needs a tide.\n" + line("Log closed."), "failed "},
		{"cut off", start + line("-- File entry --"), "unknown Pilot Roster"},
	})
	a := last(t, line("Log opened.")+line("Original Setup EXE: C:\\r.exe")+line("Setup command line: /SILENT")+line("User privileges: None")+
		line("Log closed."))
	if a.Package != `C:\r.exe` || a.Command != "/SILENT" || a.Elevated == nil || *a.Elevated {
		t.Errorf("the head: %+v", a)
	}
}

func TestServicing(t *testing.T) {
	line := func(level, part, s string) string {
		return "2026-05-04 09:12:01, " + level + "                  " + part + "    " + s + "\n"
	}
	start := line("Info", "CBS", "Session: 31_1 initialized by client X") +
		line("Info", "CBS", "Exec: Package: Package_for_KB5005565~31bf, state")
	check(t, []telling{
		{"all well", start + line("Info", "CBS", "Exec: Processing complete.  Session: 31_1 [HRESULT = 0x00000000 - S_OK]"),
			"worked 0 Package_for_KB5005565~31bf"},
		{"failed", start + line("Error", "CBS", "Failed to perform operation.  [HRESULT = 0x800f0988]") +
			line("Info", "CBS", "Exec: Processing complete.  Session: 31_1 [HRESULT = 0x800f0988]"),
			"failed -2146498168 Package_for_KB5005565~31bf !Session"},
		{"failed, then repaired", start + line("Error", "CBS", "Failed to perform operation.  [HRESULT = 0x800f0988]") +
			line("Info", "CBS", "The operation completed successfully."), "worked Package_for_KB5005565~31bf !Session"},
		{"an exit code", line("Info", "DISM", "DISM.EXE: Executing command line: dism /online") +
			line("Info", "DISM", "DISM.EXE: Exiting with exit code 50"), "failed 50 "},
		{"restart", start + line("Info", "CBS", "Reboot required: Yes") +
			line("Info", "CBS", "Exec: Processing complete.  Session: 31_1 [HRESULT = 0x00000000]"), "worked 0 restart Package_for_KB5005565~31bf"},
		{"no restart", start + line("Info", "CBS", "Reboot required: no") +
			line("Info", "CBS", "Exec: Processing complete.  Session: 31_1 [HRESULT = 0x00000000]"), "worked 0 Package_for_KB5005565~31bf"},
	})
}

func TestDriver(t *testing.T) {
	section := func(name, body, status string) string {
		return ">>>  [" + name + "]\n>>>  Section start 2026/05/04 09:12:01.000\n" + body +
			"<<<  Section end 2026/05/04 09:12:02.000\n<<<  [Exit status: " + status + "]\n"
	}
	bad := section("SetupUOI - C:\\tide.inf", "!!!  sto: Failed. Error = 0xE0000247\n", "FAILURE(0xe0000247)")
	check(t, []telling{
		{"all well", section("A - a.inf", "     inf: {done}\n", "SUCCESS"), "worked "},
		{"failed", section("A - a.inf", "", "SUCCESS") + bad, "failed -536870329  !SetupUOI - C:\\tide.inf"},
		{"failed, then others went well", bad + section("B - b.inf", "", "SUCCESS"), "failed -536870329  !SetupUOI - C:\\tide.inf"},
		{"failed, then tried again", bad + section("SetupUOI - C:\\tide.inf", "", "SUCCESS"), "worked  ~SetupUOI - C:\\tide.inf"},
	})
	if m := last(t, bad).Messages[0]; m.Kind != story.KindError || m.Source != "sto" || m.Text != "Failed. Error = 0xE0000247" {
		t.Errorf("an error line: %+v", m)
	}
}

func TestOthers(t *testing.T) {
	const engineEvents = "Level,Date and Time,Source,Event ID,Task Category\n"
	csvLine := func(level, clock, id, text string) string {
		return level + ",5/4/2026 " + clock + ",MsiInstaller," + id + ",None,\"" + text + "\"\n"
	}
	begin := csvLine("Information", "9:12:01 AM", "1040", `Beginning a Windows Installer transaction: C:\t.msi. Client Process Id: 5.`)
	end := func(code string) string {
		return csvLine("Information", "9:13:01 AM", "1033",
			"Windows Installer installed the product. Product Name: Tidebook. Product Version: 2. Product Language: 1033. Manufacturer: Q. Installation success or error status: "+code+".")
	}
	check(t, []telling{
		{"a result file", "[ResponseResult]\nResultCode=-3\n[Application]\nName=Roster\n", "unknown -3 Roster !ResponseResult"},
		{"a good one", "[ResponseResult]\nResultCode=0\n[Application]\nName=Roster\n", "unknown 0 Roster"},
		{"deployment", "Add-AppxPackage : Deployment failed with HRESULT: 0x80073CF3, x\nQuay.Tide_1.4.0.0_x64__8wekyb3d8bbwe\n",
			"failed -2147009293 Quay.Tide !Add-AppxPackage"},
		{"deployment that worked", "Deployment Register operation on Package Quay.Tide_1.4.0.0_x64__8wekyb3d8bbwe finished successfully. ActivityId 1\n", "worked Quay.Tide"},
		{"events, oldest first", engineEvents + begin +
			csvLine("Error", "9:13:00 AM", "11920", "Product: Tidebook -- Error 1920. Service 'B' (B) failed to start.") + end("1603"),
			"unknown 1603 Tidebook"},
		{"events, newest first", engineEvents + end("0") + begin, "unknown 0 Tidebook"},
		{"events as text", "Log Name:      Application\nSource:        MsiInstaller\nDate:          5/4/2026 9:13:01 AM\nEvent ID:      11708\nLevel:         Information\nDescription:\nProduct: Tidebook -- Installation failed.\n\nLog Name:      Application\nSource:        X\n", "failed Tidebook"},
	})
	a := last(t, engineEvents+begin+csvLine("Error", "9:13:00 AM", "11920", "Product: Tidebook -- Error 1920. A text\nof two lines.")+
		end("1603"))
	for _, m := range a.Messages {
		if m.Number == 1920 && (m.Kind != story.KindError || !strings.Contains(m.Text, "of two lines") || m.Line != 3) {
			t.Errorf("an event of two lines: %+v", m)
		}
	}
}
