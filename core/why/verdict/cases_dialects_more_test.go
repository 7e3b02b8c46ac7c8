package verdict

import "hollowkey/core/logs/story"

// A second set of logs of the OS's own parts, agents, bootstrappers and shells.
var moreDialects = []written{
	{name: "bootstrapper: a host that is not found", class: "network", subject: "dl.saltmarsh.example", action: "ChartsPack|acquire|download", exit: 12007, log: `
[1A2C:0B10][2026-05-04T09:12:00]i001: Engine v3.14.0, Windows v10.0 (Build 22631: Service Pack 0), path: C:\Deploy\TidebookSuite.exe
[1A2C:0B10][2026-05-04T09:12:00]i000: Initializing string variable 'TidebookBundleName' to value 'Tidebook Suite'
[1A2C:0B10][2026-05-04T09:12:01]i100: Detect begin, 2 packages
[1A2C:0B10][2026-05-04T09:12:01]i101: Detected package: TidebookCore, state: Absent, cached: None
[1A2C:0B10][2026-05-04T09:12:01]i101: Detected package: ChartsPack, state: Absent, cached: None
[1A2C:0B10][2026-05-04T09:12:02]i200: Plan begin, 2 packages, action: Install
[1A2C:0B10][2026-05-04T09:12:05]i300: Apply begin
[1A2C:0F44][2026-05-04T09:12:06]i305: Verified acquired payload: TidebookCore at path: C:\ProgramData\Package Cache\.unverified\TidebookCore, moving to: C:\ProgramData\Package Cache\{A1}v1\core.msi.
[1A2C:0F44][2026-05-04T09:12:07]w343: Prompt for source of package: ChartsPack, payload: ChartsPack, path: C:\Deploy\charts.msi
[1A2C:0F44][2026-05-04T09:12:09]i338: Acquiring package: ChartsPack, payload: ChartsPack, download from: https://dl.saltmarsh.example/charts.msi
[1A2C:0F44][2026-05-04T09:12:12]e000: Error 0x80072ee7: Failed to send request to URL: https://dl.saltmarsh.example/charts.msi
[1A2C:0F44][2026-05-04T09:12:12]e000: Error 0x80072ee7: Failed while reading from internet and writing to: C:\Users\tess\AppData\Local\Temp\ChartsPack
[1A2C:0B10][2026-05-04T09:12:12]e313: Failed to acquire payload: ChartsPack to working path: C:\Users\tess\AppData\Local\Temp\ChartsPack, error: 0x80072ee7.
[1A2C:0B10][2026-05-04T09:12:13]i399: Apply complete, result: 0x80072ee7, restart: None, ba requested restart:  No
[1A2C:0B10][2026-05-04T09:12:13]i500: Shutting down, exit code: 0x80072ee7
`},
	{name: "bootstrapper: somebody cancelled", outcome: story.Cancelled, class: "cancelled", exit: 1602, log: `
[1A2C:0B10][2026-05-04T09:12:00]i001: Engine v3.14.0, Windows v10.0 (Build 22631: Service Pack 0), path: C:\Deploy\TidebookSuite.exe
[1A2C:0B10][2026-05-04T09:12:00]i000: Initializing string variable 'TidebookBundleName' to value 'Tidebook Suite'
[1A2C:0B10][2026-05-04T09:12:05]i300: Apply begin
[1A2C:0F44][2026-05-04T09:12:06]i301: Applying execute package: TidebookCore, action: Install, path: C:\ProgramData\Package Cache\{A1}v1\core.msi, arguments: ''
[1A2C:0F44][2026-05-04T09:12:30]e000: Error 0x80070642: Failed to install MSI package.
[1A2C:0F44][2026-05-04T09:12:30]i319: Applied execute package: TidebookCore, result: 0x80070642, restart: None
[1A2C:0B10][2026-05-04T09:12:30]e000: Error 0x80070642: Failed to execute MSI package.
[1A2C:0B10][2026-05-04T09:12:31]i399: Apply complete, result: 0x80070642, restart: None, ba requested restart:  No
[1A2C:0B10][2026-05-04T09:12:31]i500: Shutting down, exit code: 0x642
`},
	{name: "servicing: no room to stage", class: "space component-store", subject: "KB5041000|Package_for_KB5041000~31bf3856ad364e35~amd64~~22621.1.1|C:", action: "Stage|staging|stage|Session", log: `
2026-05-04 09:12:00, Info                  CBS    TI: --- Initializing Trusted Installer ---
2026-05-04 09:12:01, Info                  CBS    Session: 31210000_77 initialized by client WindowsUpdateAgent, external staging directory: (null), external registry directory: (null)
2026-05-04 09:12:02, Info                  CBS    Exec: Staging package: Package_for_KB5041000~31bf3856ad364e35~amd64~~22621.1.1, update: 5041000-1_neutral
2026-05-04 09:12:04, Info                  CBS    Exec: Not enough disk space to stage: required 2312441856, available 912261120
2026-05-04 09:12:04, Error                 CBS    Failed to stage package Package_for_KB5041000~31bf3856ad364e35~amd64~~22621.1.1 [HRESULT = 0x80070070 - ERROR_DISK_FULL]
2026-05-04 09:12:04, Info                  CBS    Session: 31210000_77 finalized. Reboot required: no [HRESULT = 0x80070070 - ERROR_DISK_FULL]
`},
	{name: "transcript: the update service is off", class: "service policy", subject: "wuauserv", action: "Install-Update|Start-Service|update", log: `
**********************
Windows PowerShell transcript start
Start time: 20260504091201
Username: ELLERY\adm
Machine: ELLERY-D07 (Microsoft Windows NT 10.0.22631.0)
**********************
Installing update 3 of 3
Start-Service : Failed to start service 'Windows Update (wuauserv)'.
At C:\Deploy\Install-Update.ps1:18 char:1
+ Start-Service wuauserv
+ ~~~~~~~~~~~~~~~~~~~~~~
    + CategoryInfo          : OpenError: (System.ServiceProcess.ServiceController:ServiceController) [Start-Service], ServiceCommandException
    + FullyQualifiedErrorId : CouldNotStartService,Microsoft.PowerShell.Commands.StartServiceCommand
Update search failed: 0x80070422
Installation ended with errors
**********************
Windows PowerShell transcript end
End time: 20260504091209
**********************
`},
	{name: "management agent: a number of the setup's own, and an end", class: "prerequisite condition", subject: ".NET|.NET Framework 4.8|NetFx48|.NET Framework", exit: 5100, log: `
<![LOG[Evaluating requirement rules for Wharfage Ledger 3.2]LOG]!><time="09:12:01.100+000" date="05-04-2026" component="AppDiscovery" context="" type="1" thread="4120" file="a.cpp:11">
<![LOG[Executing Command line: "C:\Windows\Cache\3a\setup.exe" /q with user context]LOG]!><time="09:12:02.100+000" date="05-04-2026" component="AppEnforce" context="" type="1" thread="4120" file="a.cpp:41">
<![LOG[Setup output: .NET Framework 4.8 not found on this computer]LOG]!><time="09:12:05.100+000" date="05-04-2026" component="AppEnforce" context="" type="1" thread="4120" file="a.cpp:51">
<![LOG[Process 8844 terminated with exitcode: 5100]LOG]!><time="09:12:05.500+000" date="05-04-2026" component="AppEnforce" context="" type="1" thread="4120" file="a.cpp:71">
<![LOG[Unmatched exit code (5100) is considered an execution failure.]LOG]!><time="09:12:05.600+000" date="05-04-2026" component="AppEnforce" context="" type="2" thread="4120" file="a.cpp:81">
<![LOG[++++++ App enforcement completed (4 seconds) for App DT "Wharfage Ledger 3.2" ++++++]LOG]!><time="09:12:05.700+000" date="05-04-2026" component="AppEnforce" context="" type="1" thread="4120" file="a.cpp:91">
`},
	{name: "script-driven setup: a file that cannot be replaced", class: "permission in-use", subject: `C:\Program Files\Fairway Radio\radio.exe`, action: "Installing the file|install|-- File entry --", log: `
2026-05-04 09:12:00.101   Log opened. (Time zone: UTC+02:00)
2026-05-04 09:12:00.101   Setup version: script setup version 6.2.2
2026-05-04 09:12:00.102   Original Setup EXE: C:\Deploy\fairway-setup.exe
2026-05-04 09:12:00.102   Setup command line: /SL5="$50A,1,2,C:\Deploy\fairway-setup.exe" /SILENT
2026-05-04 09:12:00.102   Windows version: 10.0.22631  (NT platform: Yes)
2026-05-04 09:12:00.102   User privileges: Administrative
2026-05-04 09:12:01.201   Starting the installation process.
2026-05-04 09:12:01.401   -- File entry --
2026-05-04 09:12:01.401   Dest filename: C:\Program Files\Fairway Radio\radio.exe
2026-05-04 09:12:01.402   Existing file is protected by nothing. Installing the file.
2026-05-04 09:12:01.403   The existing file appears to be in use (5). Retrying.
2026-05-04 09:12:02.404   The existing file appears to be in use (5). Retrying.
2026-05-04 09:12:06.408   Defaulting to Abort for suppressed message box (Abort/Retry/Ignore):
                          C:\Program Files\Fairway Radio\radio.exe

                          An error occurred while trying to replace the existing file:
                          DeleteFile failed; code 5.
                          Access is denied.
2026-05-04 09:12:06.409   User canceled the installation process.
2026-05-04 09:12:06.410   Rolling back changes.
2026-05-04 09:12:06.501   Deinitializing Setup.
2026-05-04 09:12:06.502   Log closed.
`},
	{name: "events: an assembly that is missing", class: "prerequisite platform", subject: "tidebook.exe|VCRUNTIME140.dll|Microsoft.VC90.CRT|tidebook", log: `
Level,Date and Time,Source,Event ID,Task Category
Error,5/4/2026 9:13:05 AM,SideBySide,33,None,"Activation context generation failed for ""C:\Program Files\Tidebook\tidebook.exe"". Dependent Assembly Microsoft.VC90.CRT,processorArchitecture=""amd64"",version=""9.0.21022.8"" could not be found. Please use sxstrace.exe for detailed diagnosis."
Error,5/4/2026 9:13:05 AM,MsiInstaller,11722,None,"Product: Tidebook Desk -- Error 1722. There is a problem with this Windows Installer package. A program run as part of the setup did not finish as expected. Action RunTidebook, location: C:\Program Files\Tidebook\tidebook.exe, command: /register"
Information,5/4/2026 9:13:06 AM,MsiInstaller,1033,None,Windows Installer installed the product. Product Name: Tidebook Desk. Product Version: 4.1.0. Product Language: 1033. Manufacturer: Saltmarsh Quay. Installation success or error status: 1603.
`},
	{name: "device setup: no signature", class: "corrupt policy", subject: "lkusb.inf|lkusb.cat", action: "Import Driver Package|Setup Import Driver Package|Stage|sto", log: `
>>>  [Stage Driver - C:\Drv\lkusb.inf]
>>>  Section start 2026/05/04 09:12:01.113
      cmd: pnputil /add-driver C:\Drv\lkusb.inf /install
     sto: {Setup Import Driver Package: C:\Drv\lkusb.inf} 09:12:01.201
     inf:      Driver Store location: C:\Windows\System32\DriverStore
     sto:      {Stage Driver Package: C:\Drv\lkusb.inf} 09:12:01.260
     sig:                {_VERIFY_FILE_SIGNATURE} 09:12:01.310
     sig:                     Key      = lkusb.inf
     sig:                     Catalog  = C:\Drv\lkusb.cat
!    sig:                     Verifying file against specific (valid) catalog failed! (0x800b0100)
!    sig:                     Error 0x800b0100: No signature was present in the subject.
     sig:                {_VERIFY_FILE_SIGNATURE exit(0x800b0100)} 09:12:01.400
!!!  sto:           Driver package failed signature verification. Error = 0xE0000247
     sto:      {Stage Driver Package: exit(0xe0000247)} 09:12:01.410
     sto: {Setup Import Driver Package - exit (0xe0000247)} 09:12:01.420
<<<  Section end 2026/05/04 09:12:01.500
<<<  [Exit status: FAILURE(0xe0000247)]
`},
	{name: "app deployment: a framework", class: "prerequisite condition platform", subject: "Microsoft.VCLibs.140.00.UWPDesktop|NineFathom.Tideboard", action: "Add-AppxPackage", log: `
PS C:\Deploy> Add-AppxPackage -Path .\Tideboard.msix
Add-AppxPackage : Deployment failed with HRESULT: 0x80073CF3, Package failed updates, dependency or conflict validation.
Windows cannot install package NineFathom.Tideboard_3.0.0.0_x64__k3w8wekyb3d8a because this package depends on a framework that could not be found. Provide the framework "Microsoft.VCLibs.140.00.UWPDesktop" published by "CN=Windows", with neutral or x64 processor architecture and minimum version 14.0.33519.0, along with this package to install. The frameworks with name "Microsoft.VCLibs.140.00.UWPDesktop" currently installed are: {}
NOTE: For additional information, look for [ActivityId] 00000000-1111 in the Event Log or use the command line Get-AppPackageLog
At line:1 char:1
+ Add-AppxPackage -Path .\Tideboard.msix
+ ~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~
`},
	{name: "cloud agent: scripts are off", class: "policy", subject: `setup.ps1|C:\Cache\setup.ps1`, action: "install|Execution|powershell", log: `
2026-05-04T09:12:01.101Z [Info ] [App] === Step=InstallBehavior RegisteredApp: Pilot Roster 5.2, id 41a2 ===
2026-05-04T09:12:02.101Z [Info ] [App] CMD: powershell.exe -file C:\Cache\setup.ps1
2026-05-04T09:12:03.201Z [Warn ] [App] stderr: C:\Cache\setup.ps1 cannot be loaded because running scripts is disabled on this system.
2026-05-04T09:12:03.301Z [Info ] [App] lpExitCode 1
2026-05-04T09:12:03.302Z [Info ] [App] lpExitCode is defined as Failed
2026-05-04T09:12:03.400Z [Error] [App] Pilot Roster 5.2 installation result is Failed
`},
	{name: "update agent: another installation", class: "busy", action: "Install|installing", log: `
2026/05/04 09:12:01.1010101 1044  5120  Agent           *START* Installing updates CallerId = UpdateOrchestrator
2026/05/04 09:12:01.2010101 1044  5120  Agent           Updates to install = 1
2026/05/04 09:12:01.3010101 1044  5120  Agent             Title = 2026-05 Cumulative Update (KB5041001)
2026/05/04 09:12:02.3010101 1044  5120  Handler         Install call failed: another installation was in progress, 0x80240016
2026/05/04 09:12:02.4010101 1044  5120  Agent           WARNING: Install failed, hr = 0x80240016
2026/05/04 09:12:02.5010101 1044  5120  Agent           *END* Installing updates CallerId = UpdateOrchestrator, exit code = 0x80240016
`},
	{name: "feature upgrade: a hard block for a program", class: "condition platform leftover", subject: "Harbour Guard 3|Harbour Guard", action: "Compat scan|compat|SP", log: `
2026-05-04 09:12:00, Info                  MOUPG  SetupHost::Initialize: CmdLine = [/auto upgrade /quiet]
2026-05-04 09:12:04, Info                  SP     CSetupPlatform: Compat scan started
2026-05-04 09:12:30, Info                  CONX   Found application: Harbour Guard 3, BlockingType="Hard", DisplayName="Harbour Guard 3"
2026-05-04 09:12:31, Error                 CONX   Hard Block found for program Harbour Guard 3
2026-05-04 09:12:31, Error                 MOUPG  CDlpActionCompat::Scan: compat issues that block the upgrade, hr = 0xC1900208
2026-05-04 09:12:32, Error                 MOUPG  SetupManager: Quitting the upgrade. Result = 0xC1900208
`},
	{name: "console: elevation and its number", class: "elevation", exit: 740, log: `
C:\Users\dpayne>chartlib-setup.exe /quiet
The requested operation requires elevation.
C:\Users\dpayne>echo %ERRORLEVEL%
740
`},
	{name: "engine: its working file", class: "permission path space corrupt database", subject: `C:\Windows\Installer\inprogressinstallinfo.ipi|C:\Windows\Installer`, action: "InstallInitialize", exit: 1603, log: `
=== Verbose logging started: 5/4/2026  09:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\Windows\system32\msiexec.exe ===
MSI (s) (A4:5C) [09:12:01:004]: ******* RunEngine:
           ******* Product: C:\Deploy\ledger.msi
           ******* Action: 
Action start 9:12:01: INSTALL.
Action start 9:12:02: InstallInitialize.
MSI (s) (A4:5C) [09:12:02:304]: Note: 1: 2203 2: C:\Windows\Installer\inprogressinstallinfo.ipi 3: -2147287035 
DEBUG: Error 2203:  Database: C:\Windows\Installer\inprogressinstallinfo.ipi. Cannot open database file. System error -2147287035
Action ended 9:12:02: InstallInitialize. Return value 3.
Action ended 9:12:03: INSTALL. Return value 3.
Property(S): ProductName = Wharfage Ledger
Property(S): ProductVersion = 3.2.0
MSI (s) (A4:5C) [09:12:03:400]: MainEngineThread is returning 1603
=== Verbose logging stopped: 5/4/2026  09:12:03 ===
`},
	{name: "console manager: a wrong checksum", class: "corrupt network", subject: "roster-5.3.0.msi", log: `
Resolving pilot-roster 5.3.0
Fetching https://repo.quay.example/roster-5.3.0.msi
  100% [========================] 41.8 MB
error: checksum of roster-5.3.0.msi is wrong (sha256 88ab01.. instead of 51cc9f..)
error: pilot-roster 5.3.0 not installed
`},
	{name: "engine, German: held, and the log ends early", class: "in-use", subject: `planner.exe|PLANNER.EXE|C:\Program Files\Saltmarsh Quay\Planner\planner.exe`, action: "InstallFiles", exit: 1603, log: `
=== Protokollierung gestartet: 04.05.2026  09:12:01 ===
Aktion gestartet um 09:12:01: INSTALL.
Aktion gestartet um 09:12:02: InstallFiles.
MSI (s) (A4:5C) [09:12:03:304]: Product: Berthline Planner -- Fehler 1306. Eine andere Anwendung hat exklusiven Zugriff auf die Datei C:\Program Files\Saltmarsh Quay\Planner\planner.exe. Beenden Sie alle anderen Anwendungen und klicken Sie dann auf Wiederholen.
Fehler 1306. Eine andere Anwendung hat exklusiven Zugriff auf die Datei C:\Program Files\Saltmarsh Quay\Planner\planner.exe. Beenden Sie alle anderen Anwendungen und klicken Sie dann auf Wiederholen.
Aktion beendet um 09:12:05: InstallFiles. Rückgabewert 3.
Aktion beendet um 09:12:06: INSTALL. Rückgabewert 3.
MSI (s) (A4:5C) [09:12:06:400]: MainEngineThread is returning 1603
=== Protokollierung beendet: 04.05.2026  09:12:06 ===
`},
	{name: "image tool: a policy keeps features from the update server", class: "component-store source network policy", subject: "Rsat.Dns.Tools~~~~0.0.1.0|Rsat.Dns.Tools", log: `
2026-05-04 09:12:00, Info                  DISM   DISM.EXE: Executing command line: dism /online /add-capability /capabilityname:Rsat.Dns.Tools~~~~0.0.1.0
2026-05-04 09:12:01, Info                  DISM   DISM Package Manager: PID=4120 TID=4124 Processing the top level command token(add-capability). - CPackageManagerCLIHandler::Private_ValidateCmdLine
2026-05-04 09:12:09, Error                 DISM   DISM Package Manager: PID=4120 TID=4124 Failed finalizing changes. - CDISMPackageManager::Internal_Finalize(hr:0x800f0954)
2026-05-04 09:12:09, Error                 DISM   DISM Package Manager: PID=4120 TID=4124 Failed while processing command add-capability. - CPackageManagerCLIHandler::ExecuteCmdLine(hr:0x800f0954)
2026-05-04 09:12:10, Info                  DISM   DISM.EXE: Image session has been closed. Reboot required=no.
`},
	{name: "events as text: a service that did not answer", outcome: story.Unknown, class: "service", subject: "BerthSync|Berth Sync", action: "start|Service Control Manager|StartServices", log: `
Log Name:      System
Source:        Service Control Manager
Date:          5/4/2026 9:13:04 AM
Event ID:      7009
Level:         Error
Computer:      ELLERY-D07
Description:
A timeout was reached (30000 milliseconds) while waiting for the Berth Sync service to connect.

Log Name:      System
Source:        Service Control Manager
Date:          5/4/2026 9:13:04 AM
Event ID:      7000
Level:         Error
Computer:      ELLERY-D07
Description:
The Berth Sync service failed to start due to the following error: 
The service did not respond to the start or control request in a timely fashion.
`},
}
