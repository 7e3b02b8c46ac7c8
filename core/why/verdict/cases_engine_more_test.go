package verdict

import (
	"context"
	"slices"
	"strings"
	"testing"
)

// moreEngineScenarios are what packages' own actions and the engine's rarer
// messages say.
var moreEngineScenarios = []scenario{
	{name: "a key that an action names", action: "RegisterCounters*", class: "permission", message: 5,
		subject: `HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows NT\CurrentVersion\Perflib`,
		lines: []string{`RegisterCounters:  running lodctr "C:\Program Files\Quay\quayperf.ini"`,
			`RegisterCounters:  Error 0x80070005: LoadPerfCounterTextStrings failed, HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Windows NT\CurrentVersion\Perflib`,
			ca("RegisterCounters", 1603)}},
	{name: "a service that an action looks for", action: "ExecServiceConfig*", class: "service", message: 1060, subject: "TideCore",
		lines: []string{`ExecServiceConfig:  Error 0x80070424: Cannot find service: TideCore`,
			`ExecServiceConfig:  Error 0x80070424: Failed to get service: TideCore`, ca("ExecServiceConfig", 1603)}},
	{name: "a file that an action opens", action: "ExecXmlFile*", class: "path", message: 3, subject: `C:\inetpub\quay\conf\web.config`,
		lines: []string{`ExecXmlFile:  Error 0x80070003: failed to load XML file: C:\inetpub\quay\conf\web.config`, ca("ExecXmlFile", 1603)}},
	{name: "an altered driver", action: "MsiInstallDrivers*", class: "corrupt", subject: `C:\Program Files\Quay\drv\tidecard.inf`,
		lines: []string{`DIFXAPP: ERROR:  PnP Install failed. The hash for the file is not present in the specified catalog file.`,
			`DIFXAPP: ERROR: encountered while installing driver package 'C:\Program Files\Quay\drv\tidecard.inf'`,
			`DIFXAPP: ERROR: InstallDriverPackages failed with error 0xE000024B`, ca("MsiInstallDrivers", 1603)}},
	{name: "no runtime for local databases", action: "InitDb*", class: "prerequisite", subject: "Local Database Runtime",
		lines: []string{`System.Data.SqlClient.SqlException: A network-related or instance-specific error occurred. (provider: SQL Network Interfaces, error: 52 - Unable to locate a Local Database Runtime installation.)`, ca("InitDb", 1603)}},
	{name: "programs that do not close", action: "InstallValidate", class: "in-use", message: 1611, subject: "Tide Tray",
		lines: []string{`RESTART MANAGER: Detected that application with id 7716, friendly name 'Tide Tray', of type RmUnknownApp and status 1 holds file[s] in use.`,
			`Error 1611. The setup was unable to automatically close all requested applications.`}},
	{name: "nothing to upgrade", action: "CCPSearch", class: "prerequisite", message: 1608,
		lines: []string{`Error 1608. Could not find any previously installed compliant products on the machine for installing this product.`}},
	{name: "the system's error before the file", action: "InstallFiles*", class: "permission", message: 1304, subject: `C:\Program Files\Quay\quay.hlp`,
		lines: []string{`Note: 1: 1304 2: 5 3: C:\Program Files\Quay\quay.hlp`, `Error 1304. Error writing to file C:\Program Files\Quay\quay.hlp.  Verify that you have access to that directory.`}},
	{name: "a file's name with figures", action: "InstallFiles*", exit: 1602, class: "cancelled", message: 1602,
		lines: []string{`InstallFiles: Datei: tidebook16382.dat,  Verzeichnis: C:\Program Files\Quay\,  Größe: 502612`}},
	{name: "a file that is not installed", action: "RunMonitor", class: "database", message: 2753, subject: "monitor.exe.141D29EC",
		lines: []string{`Note: 1: 2753 2: monitor.exe.141D29EC `, `DEBUG: Error 2753:  The File 'monitor.exe.141D29EC' is not marked for installation.`}},
	{name: "no source for a repair", action: "ResolveSource", class: "source", message: 1706, subject: "tidebook.msi",
		lines: []string{`Note: 1: 1706 2: -2147483647 3: tidebook.msi `, `Error 1706. No valid source could be found for product Tidebook Desk.  The Windows Installer cannot continue.`}},
	{name: "the folder of the system's own", action: "InstallFinalize", class: "permission", message: 2503, subject: `D:\Scratch`,
		lines: []string{`Note: 1: 1336 2: 5 3: D:\Scratch\ `, `DEBUG: Error 2503:  Called RunScript when not marked in progress`}},
	{name: "a transform that is not there", action: "LaunchConditions", exit: 1624, class: "source", subject: `C:\Deploy\port.mst`,
		lines: []string{`Note: 1: 2203 2: C:\Deploy\port.mst 3: -2147287038 `}},
	{name: "a patch for another version", action: "LaunchConditions", exit: 1642, class: "prerequisite",
		lines: []string{`Note: 1: 2749 2: C:\fix\tide.msp:430To431 3: C:\Windows\Installer\1a77c0.msi 4: 4.3.0 5: 4.2.0 `}},
	{name: "a file changed by others", action: "PatchFiles*", class: "prerequisite", message: 1328, subject: `C:\Program Files\Quay\quaycore.dll`,
		lines: []string{`Note: 1: 1328 2: C:\Program Files\Quay\quaycore.dll 3: -1072807676 `}},
	{name: "a protected file", action: "InstallFiles*", class: "component-store", message: 1931, subject: `C:\WINDOWS\system32\quartz.dll`,
		lines: []string{`InstallFiles: File: tide.dll,  Directory: C:\Program Files\Quay\,  Size: 1024`, `Error 1931. The Windows Installer service cannot update the system file C:\WINDOWS\system32\quartz.dll because the file is protected by Windows.`}},
	{name: "an account that is there", action: "CreateUser*", class: "leftover", message: 1316, subject: "tidesvc",
		lines: []string{`CreateUser:  Error 0x80070524: Failed to create user: tidesvc`, ca("CreateUser", 1603)}},
	{name: "a policy", action: "LaunchConditions", exit: 1625, class: "policy", message: 1625,
		lines: []string{`Note: 1: 1625 `, `The system administrator has set policies to prevent this installation.`}},
}

func TestMoreEngineScenarios(t *testing.T) {
	for _, s := range moreEngineScenarios {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(engineLog(s))}, Options{})
		if err != nil {
			t.Errorf("%s: %v", s.name, err)
			continue
		}
		if s.class != "cancelled" {
			checkScenario(t, s, v)
		} else if v.Cause.Message == nil || *v.Cause.Message != s.message {
			t.Errorf("%s: message %v, want %d", s.name, v.Cause.Message, s.message)
		}
	}
}

// What is being done is no proof of why it failed: actions write a line for
// each file.
func TestProofIsNotWhatIsDone(t *testing.T) {
	s := scenario{action: "InstallFiles*", lines: []string{
		`InstallFiles: File: a.dll,  Directory: C:\Program Files\Quay\,  Size: 761544`,
		`InstallFiles: File: b.dll,  Directory: C:\Program Files\Quay\,  Size: 157649`,
		`Error 1304. Error writing to file: C:\Program Files\Quay\b.dll.  System error 5.`}}
	v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(engineLog(s))}, Options{})
	if err != nil {
		t.Fatal(err)
	}
	if slices.ContainsFunc(v.Evidence, func(l Line) bool { return strings.Contains(l.Text, "InstallFiles: File") }) {
		t.Errorf("the proof is %+v", v.Evidence)
	}
}
