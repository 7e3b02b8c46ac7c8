package verdict

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

// A scenario is a failure as an engine log shows it, and what an expert says.
type scenario struct {
	name    string
	action  string   // that fails; one with a * is carried out from the script
	lines   []string // said there
	props   string   // of the list at the end, "Name = Value" parted by |
	exit    int      // 1603 when 0
	class   string
	message int
	subject string
	remedy  string
}

// engineLog writes the verbose log of a scenario, with the noise that every log
// has: an ignored action that failed, harmless notes, and a failing way back.
func engineLog(s scenario) string {
	var b strings.Builder
	stamp := func(format string, args ...any) {
		fmt.Fprintf(&b, "MSI (s) (A4:10) [09:12:02:100]: "+format+"\n", args...)
	}
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	line(`=== Verbose logging started: 5/4/2026  9:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\Windows\System32\msiexec.exe ===`)
	stamp("******* RunEngine:")
	stamp(`Note: 1: 2203 2: C:\Windows\Installer\inprogressinstallinfo.ipi 3: -2147287038 `)
	line("Action 9:12:02: INSTALL. ")
	line("Action start 9:12:02: INSTALL.")
	line("Action start 9:12:02: AppSearch.")
	stamp(`Note: 1: 1402 2: HKEY_LOCAL_MACHINE\SOFTWARE\Quay 3: 2 `)
	line("Action ended 9:12:02: AppSearch. Return value 1.")
	action, script := strings.CutSuffix(s.action, "*")
	if script {
		line("Action start 9:12:03: InstallFinalize.")
		stamp("Executing op: Header(Signature=1,ScriptType=1)")
		stamp("Executing op: ActionStart(Name=OpenFirewall,,)")
		line("OpenFirewall: netsh: Error 0x80070005: access is denied")
		line("CustomAction OpenFirewall returned actual error code 1603 but will be translated to success due to continue marking")
		stamp("Executing op: ActionStart(Name=%s,,)", action)
	} else {
		line("Action start 9:12:03: %s.", action)
	}
	for _, l := range s.lines {
		if strings.HasPrefix(l, "Note: ") || strings.HasPrefix(l, "Product: ") || strings.HasPrefix(l, "Executing op: ") ||
			strings.HasPrefix(l, "SOFTWARE ") {
			stamp("%s", l)
		} else {
			line("%s", l)
		}
	}
	if script {
		line("Action ended 9:12:09: InstallFinalize. Return value 3.")
		stamp("Executing op: Header(Signature=1,ScriptType=2)")
		stamp("Executing op: ActionStart(Name=%s,,)", action)
		line("Error 1922. Service 'Rollback Noise' (RollbackNoise) could not be deleted.")
	} else {
		line("Action ended 9:12:09: %s. Return value 3.", action)
	}
	line("Action ended 9:12:09: INSTALL. Return value 3.")
	line("Property(S): ProductName = Tidebook Desk")
	line("Property(S): LogonUser = mwhitlow")
	for p := range strings.SplitSeq(s.props, "|") {
		if p != "" {
			line("Property(S): %s", p)
		}
	}
	exit := s.exit
	if exit == 0 {
		exit = 1603
	}
	stamp("Note: 1: 1708 ")
	stamp("MainEngineThread is returning %d", exit)
	line("=== Verbose logging stopped: 5/4/2026  9:12:10 ===")
	return b.String()
}

var engineScenarios = []scenario{
	{name: "folder, English", action: "CreateFolders*",
		lines: []string{`Error 1303. The installer has insufficient privileges to access this directory: C:\ProgramData\Quay. The installation cannot continue.`},
		class: "permission", message: 1303, subject: `C:\ProgramData\Quay`, remedy: "permission"},
	{name: "folder, by its record", action: "CreateFolders*",
		lines: []string{`Note: 1: 1303 2: \\ellery-fs\home\mwhitlow `,
			`Fehler 1303. Das Installationsprogramm verfügt nicht über ausreichende Rechte.`},
		class: "permission", message: 1303, subject: `\\ellery-fs\home\mwhitlow`},
	{name: "registry, system error 5", action: "WriteRegistryValues*",
		lines: []string{`Note: 1: 1406 2: Path 3: \SOFTWARE\Quay\Tide 4: 5 `,
			`Error 1406. Could not write value Path to key \SOFTWARE\Quay\Tide.  System error 5.  Verify that you have sufficient access to that key, or contact your support personnel.`},
		class: "permission", message: 1406, subject: `\SOFTWARE\Quay\Tide`, remedy: "permission"},
	{name: "registry, key deleted", action: "WriteRegistryValues*",
		lines: []string{`Note: 1: 1401 2: HKEY_LOCAL_MACHINE\SOFTWARE\Quay 3: 1009 `,
			`Error 1401. Could not create key: HKEY_LOCAL_MACHINE\SOFTWARE\Quay.  System error 1009.`},
		class: "registry", message: 1401, subject: `SOFTWARE\Quay`},
	{name: "write, disk full", action: "InstallFiles*",
		lines: []string{`Note: 1: 1304 2: C:\Program Files\Quay\a.dll 3: 112 `,
			`Error 1304. Error writing to file: C:\Program Files\Quay\a.dll.  System error 112.`},
		class: "space", message: 1304},
	{name: "write, sharing violation", action: "InstallFiles*",
		lines: []string{`Error 1310. Error writing to file: C:\Program Files\Quay\tide.exe.  System error 32.  Verify that you have access to that directory.`},
		class: "in-use", message: 1310, subject: `tide.exe`},
	{name: "write, virus scanner", action: "InstallFiles*",
		lines: []string{`Error 1310. Error writing to file: C:\Program Files\Quay\tide.exe.  System error 225.  Verify that you have access to that directory.`},
		class: "security-software", message: 1310},
	{name: "source file missing", action: "InstallFiles*",
		lines: []string{`Note: 1: 1311 2: \\ellery-fs\apps\tide\data1.cab `,
			`Error 1311. Source file not found: \\ellery-fs\apps\tide\data1.cab.  Verify that the file exists and that you can access it.`},
		class: "source", message: 1311, subject: "data1.cab", remedy: "file"},
	{name: "cabinet by number only", action: "InstallFiles*",
		lines: []string{`DEBUG: Error 2350:  FDI server error`,
			`The installer has encountered an unexpected error installing this package. The error code is 2350. The arguments are: , , `},
		class: "corrupt", message: 2350},
	{name: "a file stands there", action: "CreateFolders*",
		lines: []string{`Note: 1: 1312 2: C:\ProgramData\Quay\spool `,
			`Error 1312. Cannot create the directory 'C:\ProgramData\Quay\spool'.  A file with this name already exists.`},
		class: "path", message: 1312, subject: `C:\ProgramData\Quay\spool`, remedy: "file"},
	{name: "drive of a shell folder", action: "CostFinalize", lines: []string{`Note: 1: 1327 2: U:\ `, `Error 1327. Invalid Drive: U:\`},
		props: `PersonalFolder = U:\Documents\`,
		class: "path", message: 1327, subject: "U:", remedy: "registry"},
	{name: "network location", action: "CostFinalize",
		lines: []string{`Error 1606. Could not access network location \\ellery-fs\home\mwhitlow\Desktop.`},
		class: "path", message: 1606, subject: `\\ellery-fs\home\mwhitlow\Desktop`},
	{name: "older version without its package", action: "RemoveExistingProducts",
		lines: []string{`Note: 1: 1714 2: Tidebook Desk 3: 1612 `,
			"Error 1714. The older version of Tidebook Desk cannot be removed.  Contact your technical support group.  System Error 1612."},
		class: "cached-package", message: 1714, remedy: "cache"},
	{name: "older version will not go", action: "RemoveExistingProducts",
		lines: []string{"Error 1714. The older version of Tidebook Desk cannot be removed.  Contact your technical support group.  System Error 1603."},
		class: "leftover", message: 1714},
	{name: "no source at all", action: "ResolveSource",
		lines: []string{"Error 1706. No valid source could be found for product Tidebook Desk.  The Windows Installer cannot continue."},
		class: "source", message: 1706},
	{name: "installer service", action: "ExecuteAction", lines: []string{"Error 1719. The Windows Installer Service could not be accessed."},
		class: "installer-service", message: 1719, subject: "msiserver", remedy: "service"},
	{name: "service, French", action: "StartServices*",
		lines: []string{`Note: 1: 1920 2: Synchronisation 3: BerthSync `,
			"Erreur 1920. Le service « Synchronisation » (BerthSync) n’a pas pu démarrer."}, class: "service",
		message: 1920, subject: "BerthSync",
		remedy: "service"},
	{name: "service disabled", action: "StartServices*",
		lines: []string{"BerthSync: StartService failed: 1058", "Error 1920. Service 'Berth Sync' (BerthSync) failed to start."},
		class: "service", message: 1920, subject: "BerthSync"},
	{name: "service exists", action: "InstallServices*",
		lines: []string{"Error 1923. Service 'Berth Sync' (BerthSync) could not be installed.  Verify that you have sufficient privileges to install system services."}, class: "service", message: 1923, subject: "BerthSync"},
	{name: "service will not stop", action: "StopServices",
		lines: []string{"Error 1921. Service 'Berth Sync' (BerthSync) could not be stopped."}, class: "service", message: 1921,
		subject: "BerthSync"},
	{name: "not elevated", action: "InstallInitialize",
		lines: []string{"Error 1925. You do not have sufficient privileges to complete this installation for all users of the machine.  Log on as administrator and then retry this installation."}, class: "elevation", message: 1925, remedy: "elevation"},
	{name: "not elevated, in its own words", action: "LaunchConditions",
		lines: []string{"Product: Tidebook Desk -- Sie müssen über Administratorrechte verfügen."}, class: "elevation"},
	{name: "runtime, in its own words", action: "LaunchConditions",
		lines: []string{"Product: Tidebook Desk -- This application requires the Visual C++ 2015-2022 Redistributable (x64)."},
		class: "prerequisite", remedy: "package"},
	{name: "OS, in its own words", action: "LaunchConditions",
		lines: []string{"Product: Tidebook Desk -- Cette application n'est pas compatible avec votre système d'exploitation."},
		class: "condition", remedy: "package"},
	{name: "preview build", action: "CheckBuild", lines: []string{"Product: Tidebook Desk -- Preview builds (26120) are not supported."},
		class: "condition"},
	{name: "bitness", action: "LaunchConditions",
		lines: []string{"Product: Tidebook Desk -- The 32-bit version cannot be installed on this 64-bit computer."}, class: "platform"},
	{name: "newer version", action: "StopDowngrade",
		lines: []string{"Product: Tidebook Desk -- Eine neuere Version ist bereits installiert."}, class: "leftover"},
	{name: "restart first", action: "CheckReboot", lines: []string{"Product: Tidebook Desk -- Ein Neustart des Computers steht noch aus."},
		class: "busy", remedy: "restart"},
	{name: "another setup", action: "LaunchConditions", lines: nil, exit: 1618, class: "busy", message: 1618},
	{name: "policy", action: "LaunchConditions",
		lines: []string{`SOFTWARE RESTRICTION POLICY: C:\Deploy\tide.msi is not permitted to run at the 'unrestricted' authorization level.`},
		exit:  1625, class: "policy"},
	{name: "processor", action: "LaunchConditions", exit: 1633, class: "platform"},
	{name: "other version", action: "LaunchConditions", exit: 1638, class: "leftover"},
	{name: "command line", action: "LaunchConditions", exit: 1639, class: "command-line"},
	{name: "exe that says nothing", action: "RegisterHost*",
		lines: []string{`Executing op: CustomActionSchedule(Action=RegisterHost,ActionType=3090,Source=C:\Program Files\Quay\host.exe,Target=/r,)`, "CustomAction RegisterHost returned actual error code 64 (note this may not be 100% accurate if translation happened inside sandbox)",
			`Note: 1: 1722 2: RegisterHost 3: C:\Program Files\Quay\host.exe 4: /r `,
			`Error 1722. There is a problem with this Windows Installer package. A program run as part of the setup did not finish as expected.  Action RegisterHost, location: C:\Program Files\Quay\host.exe, command: /r`},
		class: "custom-action", message: 1722, subject: "host.exe", remedy: "advice"},
	{name: "exe that was denied", action: "ImportData*",
		lines: []string{`ImportData: System.UnauthorizedAccessException: Access to the path 'C:\ProgramData\Quay\berths.db' is denied.`,
			"ImportData:    at System.IO.File.Open()", "CustomAction ImportData returned actual error code 1603",
			`Note: 1: 1722 2: ImportData 3: C:\x\import.exe 4:  `, "Error 1722. There is a problem with this Windows Installer package."},
		class: "permission", subject: `berths.db`},
	{name: "exe without network", action: "Activate*",
		lines: []string{"Activate: Unable to connect to the remote server", "CustomAction Activate returned actual error code 1603"},
		class: "network"},
	{name: "exe with a TLS fault", action: "Activate*",
		lines: []string{"Activate: The request was aborted: Could not create SSL/TLS secure channel.",
			"CustomAction Activate returned actual error code 1603"}, class: "network"},
	{name: "exe without its runtime", action: "RunTool*",
		lines: []string{"RunTool: The code execution cannot proceed because VCRUNTIME140.dll was not found. Reinstalling the program may fix this problem.", "CustomAction RunTool returned actual error code -1073741515"}, class: "prerequisite"},
	{name: "script engine", action: "RunVbs",
		lines: []string{"DEBUG: Error 2738:  Could not access VBScript run time for custom action RunVbs."}, class: "registry", message: 2738},
	{name: "script", action: "RunVbs", lines: []string{"Error 1720. There is a problem with this Windows Installer package. A script required for this install to complete could not be run. Contact your support personnel or package vendor. Custom action RunVbs script error -2147024894, : Line 12, Column 3,"}, class: "custom-action", message: 1720},
	{name: "module", action: "SelfRegModules*",
		lines: []string{`Error 1904. Module C:\Program Files\Quay\charts.ocx failed to register.  HRESULT -2147010895.  Contact your support personnel.`}, class: "prerequisite", message: 1904, subject: "charts.ocx"},
	{name: "assembly", action: "MsiPublishAssemblies*",
		lines: []string{`Error 1935. An error occurred during the installation of assembly 'Quay.Charts,version="2.1.0.0"'. Please refer to Help and Support for more information. HRESULT: 0x80070BC9.`}, class: "component-store", message: 1935, remedy: "repair"},
	{name: "temporary folder", action: "InstallInitialize",
		lines: []string{`DEBUG: Error 2203:  Database: C:\Windows\TEMP\4f.ipi. Cannot open database file. System error -2147287035`},
		class: "permission", message: 2203, subject: `C:\Windows\TEMP`},
	{name: "temporary drive gone", action: "InstallInitialize",
		lines: []string{`Note: 1: 1336 2: 3 3: R:\Temp\ `,
			"Error 1336. There was an error creating a temporary file that is needed to complete this installation.  Folder: R:\\Temp\\. System error code: 3"}, class: "path", message: 1336, subject: `R:\Temp`},
	{name: "2503", action: "InstallFinalize", lines: []string{"DEBUG: Error 2503:  Called RunScript when not marked in progress"},
		class: "permission", message: 2503},
	{name: "tables", action: "CostFinalize",
		lines: []string{"DEBUG: Error 2727:  The directory entry 'QUAYDIR' does not exist in the Directory table"}, class: "database",
		message: 2727},
	{name: "edited dialog", action: "WelcomeDlg",
		lines: []string{"DEBUG: Error 2819:  Control Path on dialog InstallDirDlg needs a property linked to it"}, class: "database",
		message: 2819},
	{name: "space, by volume", action: "InstallValidate",
		lines: []string{"Error 1601. Out of disk space -- Volume: 'D:'; required space: 812,004 KB; available space: 20,112 KB."},
		class: "space", message: 1601, subject: "D:"},
	{name: "unknown group", action: "InstallFinalize",
		lines: []string{"Error 1609. An error occurred while applying security settings. Portgroup is not a valid user or group.  This could be a problem with the package, or a problem connecting to a domain controller on the network."}, class: "permission", message: 1609},
	{name: "database server", action: "CreateTables*",
		lines: []string{"CreateTables: [SQL Server]Cannot open database \"berths\" requested by the login.",
			"CustomAction CreateTables returned actual error code 1603"}, class: "custom-action"},
	{name: "shortcut", action: "CreateShortcuts*",
		lines: []string{"Error 1909. Could not create shortcut Tidebook.lnk. Verify that the destination folder exists and that you can access it."}, class: "permission", message: 1909},
	{name: "protected file", action: "InstallFiles*",
		lines: []string{`Error 1931. The Windows Installer service cannot update the system file C:\Windows\System32\quay.dll because the file is protected by Windows.`}, class: "component-store", message: 1931},
	{name: "patch of another version", action: "LaunchConditions", exit: 1642, class: "prerequisite"},
	{name: "signature of a cabinet", action: "InstallFiles*",
		lines: []string{"Error 1330. A file that is required cannot be installed because the cabinet file C:\\Deploy\\tide.cab has an invalid digital signature.  This may indicate that the cabinet file is corrupt."}, class: "corrupt", message: 1330, subject: "tide.cab"},
	{name: "nothing said", action: "SetLicence*",
		lines: []string{"CustomAction SetLicence returned actual error code 1603 (note this may not be 100% accurate if translation happened inside sandbox)"}, class: "custom-action"},
	{name: "licence server", action: "CheckLicence",
		lines: []string{"CheckLicence: licence server berth-lic01 did not answer: 0x80072EE7", ca("CheckLicence", 1603)}, class: "network",
		message: 12007},
	{name: "own words beat 1722", action: "OpenStore*",
		lines: []string{`OpenStore: could not write D:\Harbour\store.db, error 112`, ca("OpenStore", 1),
			`Note: 1: 1722 2: OpenStore 3: C:\x\store.exe 4:  `, "Error 1722. There is a problem with this Windows Installer package."},
		class: "space", subject: "D:"},
	{name: "a tolerated word is no cause", action: "OpenStore*",
		lines: []string{"OpenStore: proxy lookup failed: 0x80072EE7 (ignored)", ca("OpenStore", 1603)}, class: "custom-action"},
	{name: "file shared", action: "SwapFiles*",
		lines: []string{"SwapFiles:  Error 0x80070020: failed to replace C:\\Program Files\\Quay\\tide.dll", ca("SwapFiles", 1603)},
		class: "in-use", subject: "tide.dll"},
	{name: "firewall rule", action: "ExecFirewall*",
		lines: []string{"ExecFirewall:  Error 0x800706d9: failed to add the rule: there are no more endpoints", ca("ExecFirewall", 1603)},
		class: "service"},
	{name: "schedule", action: "MakeTask*",
		lines: []string{"MakeTask: schtasks: ERROR: The task image is corrupt or has been tampered with.", ca("MakeTask", 1603)},
		class: "custom-action"},
	{name: "port taken", action: "StartBroker*",
		lines: []string{"StartBroker: System.Net.Sockets.SocketException: Only one usage of each socket address (protocol/network address/port) is normally permitted 0.0.0.0:8085", ca("StartBroker", 1603)}, class: "in-use"},
	{name: "performance counters", action: "InstallPerf*",
		lines: []string{"InstallPerf:  Error 0x80070002: failed to register the counters", ca("InstallPerf", 1603)}, class: "custom-action"},
	{name: "group of another language", action: "CreateUser*",
		lines: []string{"CreateUser:  Error 0x80070534: failed to look up the account Users", ca("CreateUser", 1603)}, class: "permission"},
	{name: "password policy", action: "CreateUser*",
		lines: []string{"CreateUser:  Error 0x800708c5: failed to create user: tidesvc", ca("CreateUser", 1603)}, class: "policy"},
	{name: "share gone", action: "CopyCharts*",
		lines: []string{"CopyCharts: copy of \\\\ellery-fs1\\charts\\north.dat failed, error 53", ca("CopyCharts", 1603)}, class: "network"},
	{name: "script denied", action: "RunPs*",
		lines: []string{"RunPs: powershell : File C:\\ProgramData\\Quay\\setup.ps1 cannot be loaded because running scripts is disabled on this system.", ca("RunPs", 1)}, class: "policy"},
	{name: "check by name", action: "CheckBerthcode", props: "BERTHCODE = 0", class: "condition", subject: "BERTHCODE"},
}

// ca is the engine's line about a custom action's end.
func ca(name string, result int) string {
	return fmt.Sprintf("CustomAction %s returned actual error code %d (note this may not be 100%% accurate if translation happened inside sandbox)", name, result)
}

func TestEngineScenarios(t *testing.T) {
	for _, s := range engineScenarios {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(engineLog(s))}, Options{})
		if err != nil {
			t.Errorf("%s: %v", s.name, err)
			continue
		}
		checkScenario(t, s, v)
		if want := strings.TrimSuffix(s.action, "*"); v.BrokeAt.Action == nil || *v.BrokeAt.Action != want {
			t.Errorf("%s: broke at %v, want %s", s.name, v.BrokeAt.Action, want)
		}
	}
}

func checkScenario(t *testing.T, s scenario, v *Verdict) {
	t.Helper()
	message, subject := 0, ""
	if v.Cause.Message != nil {
		message = *v.Cause.Message
	}
	if v.Cause.Subject != nil {
		subject = v.Cause.Subject.Name
	}
	if v.Outcome != story.Failed || *v.Cause.Class != s.class || s.message != 0 && message != s.message ||
		!strings.Contains(strings.ToLower(subject), strings.ToLower(s.subject)) {
		t.Errorf("%s: %s, %s, message %d, subject %q (sign %s, %.2f); want %s, %d, %q", s.name, v.Outcome, *v.Cause.Class, message, subject,
			v.Sign, v.Cause.Confidence, s.class, s.message, s.subject)
	}
	if s.remedy != "" && (len(v.Remedies) == 0 || v.Remedies[0].Class != s.remedy) {
		t.Errorf("%s: remedies %+v, want %s first", s.name, v.Remedies, s.remedy)
	}
	if len(v.Evidence) == 0 {
		t.Errorf("%s: no evidence", s.name)
	}
}
