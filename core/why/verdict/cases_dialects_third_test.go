package verdict

// A third set of logs of the OS's own parts, agents, bootstrappers and shells.
var thirdDialects = []written{
	{name: "servicing: a driver of another processor", class: "platform condition command-line", log: `
2026-05-11 07:41:10, Info                  DISM   DISM.EXE: <----- Starting DISM.EXE session ----->
2026-05-11 07:41:10, Info                  DISM   DISM.EXE: Host machine information: OS Version=10.0.19045, Running architecture=amd64, Number of processors=8
2026-05-11 07:41:10, Info                  DISM   DISM.EXE: Executing command line: dism /image:C:\mount /add-driver /driver:D:\drv\brnscan.inf
2026-05-11 07:41:12, Info                  DISM   DISM Driver Manager: PID=5140 TID=5144 Signature status of driver D:\drv\brnscan.inf is: SIGNED - CDriverPackage::InitSignatureStatus
2026-05-11 07:41:12, Info                  DISM   DISM Driver Manager: PID=5140 TID=5144 Driver architecture arm64 does not match image architecture amd64
2026-05-11 07:41:12, Error                 DISM   DISM Driver Manager: PID=5140 TID=5144 Failed to add driver package 'D:\drv\brnscan.inf' - CDriverManager::AddDriver(hr:0x80070032)
2026-05-11 07:41:13, Error                 DISM   DISM.EXE: DISM Driver Manager processed the command line but failed. HRESULT=80070032
2026-05-11 07:41:13, Info                  DISM   DISM.EXE: <----- Ending DISM.EXE session ----->
`},
	{name: "bootstrapper: a program that ended with a file in use", class: "in-use leftover", log: `
[1544:1A40][2026-05-11T07:40:02]i001: Engine v3.14.1, Windows v10.0 (Build 19045: Service Pack 0), path: C:\Deploy\SorrelDesk.exe
[1544:1A40][2026-05-11T07:40:02]i000: Initializing string variable 'SorrelBundleName' to value 'Sorrel Desk'
[1544:1A40][2026-05-11T07:40:03]i100: Detect begin, 2 packages
[1544:1A40][2026-05-11T07:40:03]i101: Detected package: SorrelRuntime, state: Present, cached: Complete
[1544:1A40][2026-05-11T07:40:03]i101: Detected package: SorrelMain, state: Absent, cached: None
[1544:1A40][2026-05-11T07:40:04]i199: Detect complete, result: 0x0
[1544:1A40][2026-05-11T07:40:04]i200: Plan begin, 2 packages, action: Install
[1544:1A40][2026-05-11T07:40:05]i300: Apply begin
[1544:1A40][2026-05-11T07:40:07]i301: Applying execute package: SorrelMain, action: Install, path: C:\ProgramData\Package Cache\9F\sorrel.exe, arguments: '"C:\ProgramData\Package Cache\9F\sorrel.exe" /q'
[1544:1A40][2026-05-11T07:40:19]i000: sorrel: replacing C:\Program Files\Sorrel\desk.exe
[1544:1A40][2026-05-11T07:40:21]e000: Error 0x80070020: Process returned error: 0x80070020
[1544:1A40][2026-05-11T07:40:21]e000: Error 0x80070020: Failed to execute EXE package.
[1544:1A40][2026-05-11T07:40:21]e000: Error 0x80070020: Failed to configure per-machine EXE package.
[1544:1A40][2026-05-11T07:40:21]i319: Applied execute package: SorrelMain, result: 0x80070020, restart: None
[1544:1A40][2026-05-11T07:40:22]i399: Apply complete, result: 0x80070020, restart: None, ba requested restart:  No
[1544:1A40][2026-05-11T07:40:22]i500: Shutting down, exit code: 0x80070020
`},
	{name: "app package: sideloading is off", class: "policy permission", subject: `Brine.Charts|AllowAllTrustedApps|Brine.Charts_4.1.0.0_x64__b1x9q2m7n4c6e`, log: `
TimeCreated                     Id LevelDisplayName Message
-----------                     -- ---------------- -------
11/05/2026 07:40:02            607 Information      Deployment Add operation with target volume C: on Package Brine.Charts_4.1.0.0_x64__b1x9q2m7n4c6e from:  (charts.msix)  started
11/05/2026 07:40:03            620 Information      Staging package Brine.Charts_4.1.0.0_x64__b1x9q2m7n4c6e
11/05/2026 07:40:04            465 Error            error 0x80073CFF: Deployment of package Brine.Charts_4.1.0.0_x64__b1x9q2m7n4c6e was blocked because sideloading is not turned on (AllowAllTrustedApps).
11/05/2026 07:40:04            404 Error            AppX Deployment operation failed for package Brine.Charts_4.1.0.0_x64__b1x9q2m7n4c6e with error 0x80073CFF.
`},
	{name: "agent: the engine said 1625", class: "policy", log: `
<![LOG[+++ Starting Install enforcement for App DT "Comfrey Agent 7.2" ApplicationDeliveryType - ScopeId_A/DeploymentType_9, Revision - 2, ContentPath - C:\Windows\ccache\11, Execution Context - System]LOG]!><time="07:40:02.118-000" date="05-11-2026" component="AppEnforce" context="" type="1" thread="7720" file="appprovider.cpp:1702">
<![LOG[    Prepared working directory: C:\Windows\ccache\11]LOG]!><time="07:40:02.120-000" date="05-11-2026" component="AppEnforce" context="" type="1" thread="7720" file="appcontext.cpp:189">
<![LOG[    Prepared command line: "C:\Windows\system32\msiexec.exe" /i comfrey.msi /qn]LOG]!><time="07:40:02.131-000" date="05-11-2026" component="AppEnforce" context="" type="1" thread="7720" file="appcontext.cpp:338">
<![LOG[    Waiting for process 6120 to finish.  Timeout = 60 minutes.]LOG]!><time="07:40:02.190-000" date="05-11-2026" component="AppEnforce" context="" type="1" thread="7720" file="appexcnlib.cpp:1983">
<![LOG[    Process 6120 terminated with exitcode: 1625]LOG]!><time="07:40:04.022-000" date="05-11-2026" component="AppEnforce" context="" type="1" thread="7720" file="appexcnlib.cpp:1991">
<![LOG[    Looking for exit code 1625 in exit codes table...]LOG]!><time="07:40:04.023-000" date="05-11-2026" component="AppEnforce" context="" type="1" thread="7720" file="appexcnlib.cpp:505">
<![LOG[    Unmatched exit code (1625) is considered an execution failure.]LOG]!><time="07:40:04.024-000" date="05-11-2026" component="AppEnforce" context="" type="2" thread="7720" file="appexcnlib.cpp:648">
<![LOG[++++++ App enforcement completed (2 seconds) for App DT "Comfrey Agent 7.2" [ScopeId_A/DeploymentType_9], Revision: 2, User SID: ] ++++++]LOG]!><time="07:40:04.101-000" date="05-11-2026" component="AppEnforce" context="" type="1" thread="7720" file="appprovider.cpp:2457">
`},
	{name: "upgrade: a service's program is held", class: "in-use service condition", log: `
2026-05-11 07:40:02, Info                  MOUPG  SetupHost::Initialize: CmdLine = [/Auto Upgrade /Quiet]
2026-05-11 07:40:02, Info                  MOUPG  Host OS 10.0.19045, target 10.0.22631
2026-05-11 07:40:22, Info                  SP     Executing operation: Migrate shutdown services
2026-05-11 07:41:22, Warning               MIG    Could not move C:\Program Files\Yarrow\yarrowd.exe, the file is in use[gle=0x00000020]
2026-05-11 07:42:22, Error                 MIG    Error 32 while gathering object C:\Program Files\Yarrow\yarrowd.exe. Shell application requested abort![gle=0x00000020]
2026-05-11 07:42:22, Error                 SP     Operation failed: Migrate shutdown services. Error: 0x80070020[gle=0x000000b7]
2026-05-11 07:42:23, Error                 MOUPG  CSetupManager::ExecuteInstallMode(824): Result = 0x80070020
2026-05-11 07:42:23, Info                  MOUPG  SetupHost: exit code 0x80070020
`},
	{name: "events: an internal error that is about a service", class: "service", subject: `Betony Spooler|BetonySpool`, log: `
Log Name:      Application
Source:        MsiInstaller
Date:          11/05/2026 07:40:12
Event ID:      10005
Level:         Error
Computer:      ELLERY-D11
Description:
Product: Betony Print Suite -- Error 1920. Service 'Betony Spooler' (BetonySpool) failed to start.  Verify that you have sufficient privileges to start system services.

Log Name:      System
Source:        Service Control Manager
Date:          11/05/2026 07:40:11
Event ID:      7009
Level:         Error
Computer:      ELLERY-D11
Description:
A timeout was reached (30000 milliseconds) while waiting for the Betony Spooler service to connect.

Log Name:      Application
Source:        MsiInstaller
Date:          11/05/2026 07:40:20
Event ID:      11708
Level:         Information
Computer:      ELLERY-D11
Description:
Product: Betony Print Suite -- Installation failed.

Log Name:      Application
Source:        MsiInstaller
Date:          11/05/2026 07:40:20
Event ID:      1033
Level:         Information
Computer:      ELLERY-D11
Description:
Windows Installer installed the product. Product Name: Betony Print Suite. Product Version: 3.1.0. Product Language: 1033. Manufacturer: Brine. Installation success or error status: 1603.
`},
	{name: "a task whose script may not run", class: "policy", log: `
[07:40:02] task "Fennel Client 3.0" starts on ELLERY-D03
[07:40:02] powershell.exe -NonInteractive -File C:\Deploy\Install-Fennel.ps1
[07:40:03] File C:\Deploy\Install-Fennel.ps1 cannot be loaded because running scripts is disabled on this system. For more information, see about_Execution_Policies.
[07:40:03]     + CategoryInfo          : SecurityError: (:) [], ParentContainsErrorRecordException
[07:40:03]     + FullyQualifiedErrorId : UnauthorizedAccess
[07:40:03] process ended, exit code 1
[07:40:03] task failed
`},
	{name: "update agent: a download that timed out", class: "network", subject: `dl.update.brine.example|http://dl.update.brine.example/c/msdownload/kb5041111.cab`, log: `
2026/05/11 07:40:02.1180000 4120  5544  Agent           *FAILED* [00000000] IsUpdateManager
2026/05/11 07:40:02.2180000 4120  5544  Agent           WU client version 10.0.19041.4474
2026/05/11 07:40:03.0000000 4120  5544  DownloadManager BITS job {7A1B} created, url http://dl.update.brine.example/c/msdownload/kb5041111.cab
2026/05/11 07:41:03.0000000 4120  5544  Misc            WinHttp: SendRequestUsingProxy failed for <http://dl.update.brine.example/c/msdownload/kb5041111.cab>. error 0x80072ee2
2026/05/11 07:41:03.0100000 4120  5544  DownloadManager Error 0x80072ee2 occurred while downloading update; notifying dependent calls.
2026/05/11 07:41:03.0200000 4120  5544  Agent           Exit code = 0x80072EE2
`},
	{name: "a registration that wants administrative credentials", class: "elevation permission", log: `
Mallow Tools 1.3 post install, started by ELLERY\c.byrne
copying 41 files ... ok
registering Mallow.Interop.dll
Microsoft .NET Framework Assembly Registration Utility version 4.8.9037.0
RegAsm : error RA0000 : An error occurred while writing the registration information to the registry. You must have administrative credentials to perform this task. Contact your system administrator for assistance
RegAsm ended with 100
post install failed
`},
	{name: "a repair without its source", class: "cached-package source", log: `
07:40:02 rollout> product {1D2C3B4A-0000-4000-8000-00000000AB12} "Sage Hen Office 2" repair requested
07:40:02 rollout> msiexec /f {1D2C3B4A-0000-4000-8000-00000000AB12} /qn
07:40:09 rollout> Warning 1706. No valid source could be found for product Sage Hen Office 2.
07:40:09 rollout> cached database missing, source sagehen.msi unavailable
07:40:10 rollout> msiexec returned 1612
07:40:10 rollout> repair failed
`},
	{name: "driver: no signature in the catalog", class: "corrupt policy", subject: `brnfax.inf|brnfax.cat|C:\drv\brnfax.inf`, log: `
>>>  [Setup Import Driver Package - C:\drv\brnfax.inf]
>>>  Section start 2026/05/11 07:40:02.118
      cmd: "C:\drv\setup.exe" /s
     sto: {Setup Import Driver Package: C:\drv\brnfax.inf} 07:40:02.120
     sto:      Provider: Brine
     sto:      Driver Version: 03/01/2026,2.0.0.0
     sig:      {_VERIFY_FILE_SIGNATURE} 07:40:02.301
     sig:           Key      = brnfax.inf
     sig:           Catalog  = C:\drv\brnfax.cat
!    sig:           Verifying file against specific (valid) catalog failed.
!    sig:           Error 0xe000022f: The third-party INF does not contain digital signature information.
     sig:      {_VERIFY_FILE_SIGNATURE exit(0xe000022f)} 07:40:02.330
!!!  sto:      Driver package failed signature validation. Error = 0xE000022F
     sto: {Setup Import Driver Package - exit (0xe000022f)} 07:40:02.402
<<<  Section end 2026/05/11 07:40:02.410
<<<  [Exit status: FAILURE(0xe000022f)]
`},
}
