package verdict

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

// stamped puts the stamp of a chain log before each line.
func stamped(lines ...string) string {
	var b strings.Builder
	for i, l := range lines {
		fmt.Fprintf(&b, "[0A10:0B20][2026-05-04T09:12:%02d]%s\n", i%60, l)
	}
	return b.String()
}

// chainLog writes a bootstrapper's log in which the package RadioDesk ends with
// a result; lines are what is said before that.
func chainLog(result string, lines ...string) string {
	all := []string{
		`i001: Engine v3.14, Windows v10.0 (Build 19045: Service Pack 0), path: C:\Users\mwhitlow\Downloads\fairway.exe`,
		"i000: Setting string variable 'FairwayBundleName' to value 'Fairway Radio'",
		"i000: Setting version variable 'FairwayBundleVersion' to value '3.2.0'",
		"i100: Detect begin, 2 packages", "i101: Detected package: TideRuntime, state: Present, cached: Complete",
		"i101: Detected package: RadioDesk, state: Absent, cached: None", "i199: Detect complete, result: 0x0",
		"i200: Plan begin, 2 packages, action: Install", "i299: Plan complete, result: 0x0", "i300: Apply begin",
		"w363: Could not create system restore point, error: 0x80070422. Continuing...",
		`i301: Applying execute package: RadioDesk, action: Install, path: C:\ProgramData\Package Cache\x\RadioDesk.msi, arguments: '...'`,
	}
	all = append(all, lines...)
	all = append(all, "i319: Applied execute package: RadioDesk, result: "+result+", restart: None",
		"i399: Apply complete, result: "+result+", restart: None, ba requested restart:  No",
		"i500: Shutting down, exit code: "+result, "i007: Exit code: "+result+", restarting: No")
	return stamped(all...)
}

var chainScenarios = []struct {
	name, log, class, subject string
	message                   int
}{
	{"package failed", chainLog("0x80070643", "e000: Error 0x80070643: Failed to install MSI package.",
		"e000: Error 0x80070643: Failed to execute MSI package."), "custom-action unknown", "RadioDesk", 1603},
	{"another setup runs", chainLog("0x80070652", "e000: Error 0x80070652: Failed to install MSI package."), "busy", "", 1618},
	{"newer version there", chainLog("0x80070666", "e000: Error 0x80070666: Failed to install MSI package."), "leftover", "", 1638},
	{"source gone", chainLog("0x80070002", `e000: Error 0x80070002: Failed to resolve source for file: C:\Users\mwhitlow\Downloads\RadioDesk.msi, error: 0x80070002.`), "source", "RadioDesk.msi", 0},
	{"certificate", chainLog("0x800b0109", `e000: Error 0x800b0109: Failed authenticode verification of payload: C:\ProgramData\Package Cache\.unverified\RadioDesk`), "corrupt", "", 0},
	{"download cut", chainLog("0x80072efe",
		"e000: Error 0x80072efe: Failed to send request to URL: https://updates.ellery.example/radio.msi"), "network",
		"updates.ellery.example", 0},
	{"proxy", chainLog("0x80190197", "e000: Error 0x80190197: Failed to send request to URL: https://updates.ellery.example/radio.msi, proxy authentication required"), "network", "", 0},
	{"no space",
		chainLog("0x80070070",
			`e000: Error 0x80070070: Failed to extract payload: C:\ProgramData\Package Cache\.unverified\RadioDesk`), "space", "", 0},
	{"elevation refused", chainLog("0x800704c7",
		"e000: Error 0x800704c7: Failed to launch elevated child process: C:\\Users\\mwhitlow\\Downloads\\fairway.exe",
		"e000: Error 0x800704c7: Failed to elevate."), "elevation cancelled", "", 0},
	{"policy", chainLog("0x80070659", "e000: Error 0x80070659: Failed to install MSI package."), "policy", "", 1625},
	{"service is off", chainLog("0x80070641", "e000: Error 0x80070641: Failed to install MSI package."), "installer-service", "", 1601},
	{"package held", chainLog("0x80070020",
		`e000: Error 0x80070020: Failed to move C:\ProgramData\Package Cache\.unverified\RadioDesk to C:\ProgramData\Package Cache\x\RadioDesk.msi`), "in-use", "", 0},
	{"cache denied", chainLog("0x80070005", `e000: Error 0x80070005: Failed to create directory: C:\ProgramData\Package Cache\x`),
		"permission", `C:\ProgramData\Package Cache`, 0},
	{"restart pending", chainLog("0x80070bc9", "e000: Error 0x80070bc9: Failed to execute MSU package."), "busy", "", 0},
	{"update does not apply", chainLog("0x80240017", "e000: Error 0x80240017: Failed to execute MSU package."),
		"platform prerequisite", "", 0},
	{"crash of a program", chainLog("0xc0000005", "e000: Error 0xc0000005: Failed to run EXE process",
		"e000: Error 0xc0000005: Failed to configure per-machine EXE package."), "custom-action", "RadioDesk", 0},
}

func TestChainScenarios(t *testing.T) {
	for _, s := range chainScenarios {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(s.log)}, Options{})
		if err != nil {
			t.Errorf("%s: %v", s.name, err)
			continue
		}
		subject := ""
		if v.Cause.Subject != nil {
			subject = v.Cause.Subject.Name
		}
		if v.Outcome != story.Failed && v.Outcome != story.Cancelled || !strings.Contains(" "+s.class+" ", " "+*v.Cause.Class+" ") ||
			!strings.Contains(subject, s.subject) {
			t.Errorf("%s: %s, %s, subject %q (sign %s, %.2f); want %s, %q", s.name, v.Outcome, *v.Cause.Class, subject, v.Sign, v.Cause.Confidence,
				s.class, s.subject)
		}
		if s.message != 0 && (v.Cause.Message == nil || *v.Cause.Message != s.message) {
			t.Errorf("%s: message %v, want %d", s.name, v.Cause.Message, s.message)
		}
		if v.Product.Name == nil || *v.Product.Name != "Fairway Radio" || len(v.Evidence) == 0 {
			t.Errorf("%s: product %v, evidence %v", s.name, v.Product.Name, v.Evidence)
		}
		if v.BrokeAt.Action == nil || *v.BrokeAt.Action != "RadioDesk" {
			t.Errorf("%s: broke at %v", s.name, v.BrokeAt.Action)
		}
	}
}

// What stops a chain before any package is touched.
func TestChainRefusals(t *testing.T) {
	head := []string{`i001: Engine v3.14, Windows v10.0 (Build 19045: Service Pack 0), path: C:\Users\mwhitlow\Downloads\fairway.exe`,
		"i000: Setting string variable 'FairwayBundleName' to value 'Fairway Radio'", "i100: Detect begin, 1 packages",
		"i199: Detect complete, result: 0x0"}
	for _, tt := range []struct{ line, code, class string }{
		{"e000: Bundle condition evaluated to false: VersionNT64 AND VersionNT >= v10.0", "0x81f40001", "condition"},
		{"i052: Condition 'NETFRAMEWORK48 >= 528040' evaluates to false.", "0x81f40001", "condition prerequisite"},
		{"e000: Error 0x800704c7: User cancelled.", "0x642", "cancelled"},
	} {
		log := stamped(append(head, tt.line, "i500: Shutting down, exit code: "+tt.code, "i007: Exit code: "+tt.code+", restarting: No")...)
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(log)}, Options{})
		if err != nil || v.Worked() || !strings.Contains(" "+tt.class+" ", " "+*v.Cause.Class+" ") {
			t.Errorf("%s: %s, %+v, %v", tt.line, v.Outcome, v.Cause, err)
		}
	}
}

// scriptLog writes the log of a script-driven setup that stops after the lines.
func scriptLog(lines ...string) string {
	var b strings.Builder
	n := 0
	put := func(l string) {
		if text, ok := strings.CutPrefix(l, "| "); ok {
			b.WriteString(text + "\n")
			return
		}
		n++
		fmt.Fprintf(&b, "2026-05-04 09:12:%02d.%03d   %s\n", n/10, n, l)
	}
	for _, l := range []string{"Log opened. (Time zone: UTC+00:00)", "Setup version: 6.2.2",
		`Original Setup EXE: C:\Users\mwhitlow\Downloads\roster-setup.exe`, "Setup command line: /SILENT /LOG",
		"Windows version: 10.0.19045  (NT platform: Yes)", "User privileges: Administrative",
		"[code] port check: error 2 on COM1 (this is fine)", "Starting the installation process.",
		`Directory for uninstall files: C:\Program Files\Pilot Roster`, "-- File entry --",
		`Dest filename: C:\Program Files\Pilot Roster\r0.dll`, "Installing the file.", "Successfully installed the file."} {
		put(l)
	}
	for _, l := range lines {
		put(l)
	}
	for _, l := range []string{"Rolling back changes.", "Starting the uninstallation process.",
		`Deleting file: C:\Program Files\Pilot Roster\r0.dll`, "Failed to delete directory (145). Will retry later.",
		"Uninstallation process succeeded.", "Deinitializing Setup.", "Log closed."} {
		put(l)
	}
	return b.String()
}

func TestScriptScenarios(t *testing.T) {
	file := []string{"-- File entry --", `Dest filename: C:\Program Files\Pilot Roster\tide.dll`, "Installing the file."}
	after := func(lines ...string) string { return scriptLog(append(file, lines...)...) }
	for _, s := range []struct {
		name, log, class, subject string
	}{
		{"file held", after("Defaulting to Abort for suppressed message box (Abort/Retry/Ignore):", `| C:\Program Files\Pilot Roster\tide.dll`,
			"| ", "| An error occurred while trying to replace the existing file:", "| DeleteFile failed; code 5.", "| Access is denied."),
			"permission in-use", "tide.dll"},
		{"file shared", after("Message box (Abort/Retry/Ignore):", `| C:\Program Files\Pilot Roster\tide.dll`, "| ",
			"| MoveFile failed; code 32.", "| The process cannot access the file because it is being used by another process.",
			"User chose Abort.", "User canceled the installation process."), "in-use", "tide.dll"},
		{"no space", after("Message box (Abort/Retry/Ignore):", "| There is not enough space on the disk. (112)", "User chose Abort."), "space",
			""},
		{"source damaged", after("Fatal exception during installation process (EFCreateError):", "| The source file is corrupted"), "corrupt",
			""},
		{"source missing", after("Message box (Abort/Retry/Ignore):", `| The source file "C:\Users\mwhitlow\Downloads\data.bin" does not exist`,
			"User chose Abort."), "source", "data.bin"},
		{"program not elevated", scriptLog("-- Run entry --", "Run as: Current user", `Filename: C:\Program Files\Pilot Roster\agent.exe`,
			"CreateProcess failed; code 740.", "Message box (OK):", "| Unable to execute file:", `| C:\Program Files\Pilot Roster\agent.exe`,
			"| CreateProcess failed; code 740.", "| The requested operation requires elevation."), "elevation", ""},
		{"program missing", scriptLog("-- Run entry --", `Filename: C:\Program Files\Pilot Roster\agent.exe`, "Message box (OK):",
			"| Unable to execute file:", `| C:\Program Files\Pilot Roster\agent.exe`, "| CreateProcess failed; code 2.",
			"| The system cannot find the file specified."), "path source", "agent.exe"},
		{"module", after("Registering 32-bit DLL/OCX: C:\\Program Files\\Pilot Roster\\chart.ocx", "Registration failed:",
			"| Unable to register the DLL/OCX: LoadLibrary failed; code 126.", "| The specified module could not be found.",
			"Defaulting to Abort for suppressed message box (Abort/Retry/Ignore):",
			"| Unable to register the DLL/OCX: LoadLibrary failed; code 126."), "prerequisite", ""},
		{"drive not ready", scriptLog("Message box (OK):",
			`| The drive or UNC share you selected does not exist or is not accessible. Please select another.`), "path", ""},
		{"registry", scriptLog("-- Registry entry --", "Defaulting to Abort for suppressed message box (Abort/Retry/Ignore):",
			"| Error creating registry key:", `| HKEY_LOCAL_MACHINE\SOFTWARE\Nine Fathom`, "| ", "| RegCreateKeyEx failed; code 5.",
			"| Access is denied."), "permission", `HKEY_LOCAL_MACHINE\SOFTWARE\Nine Fathom`},
	} {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(s.log)}, Options{})
		if err != nil {
			t.Errorf("%s: %v", s.name, err)
			continue
		}
		subject := ""
		if v.Cause.Subject != nil {
			subject = v.Cause.Subject.Name
		}
		if v.Worked() || v.Outcome == story.Unknown || !strings.Contains(" "+s.class+" ", " "+*v.Cause.Class+" ") ||
			!strings.Contains(subject, s.subject) {
			t.Errorf("%s: %s, %s, subject %q (sign %s, %.2f); want %s, %q", s.name, v.Outcome, *v.Cause.Class, subject, v.Sign, v.Cause.Confidence,
				s.class, s.subject)
		}
	}
}

// A script that refuses before it starts says so in a message box.
func TestScriptRefusals(t *testing.T) {
	head := "2026-05-04 09:12:01.024   Log opened. (Time zone: UTC+00:00)\n2026-05-04 09:12:01.053   Setup version: 6.2.2\n2026-05-04 09:12:01.057   Original Setup EXE: C:\\Users\\mwhitlow\\Downloads\\roster-setup.exe\n"
	for text, class := range map[string]string{
		"This program requires Windows 10 version 1809 or newer.":                                                                                           "condition",
		"This program can only be installed on versions of Windows designed for the following processor architectures:\n\nArm64":                            "platform",
		"You must be logged in as an administrator when installing this program.":                                                                           "elevation",
		"Setup has detected that Pilot Roster is currently running.\n\nPlease close all instances of it now, then click OK to continue, or Cancel to exit.": "in-use",
		"Pilot Roster needs the .NET Desktop Runtime 8.0, which is not installed.":                                                                          "prerequisite",
		"You need to restart your computer before Pilot Roster can be installed.":                                                                           "busy",
	} {
		log := head + "2026-05-04 09:12:01.100   Message box (OK):\n" + text +
			"\n2026-05-04 09:12:03.100   User chose OK.\n2026-05-04 09:12:03.110   InitializeSetup returned False; aborting.\n2026-05-04 09:12:03.111   Got EAbort exception.\n2026-05-04 09:12:03.120   Deinitializing Setup.\n2026-05-04 09:12:03.130   Log closed.\n"
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(log)}, Options{})
		if err != nil || v.Worked() || v.Cause.Class == nil || *v.Cause.Class != class {
			t.Errorf("%q: %+v %v", text, v.Cause, err)
			if v.Cause.Class != nil {
				t.Errorf("  it is %s (sign %s), want %s", *v.Cause.Class, v.Sign, class)
			}
		}
	}
}
