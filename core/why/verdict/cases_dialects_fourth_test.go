package verdict

// A fourth set of them.
var fourthDialects = []written{
	{name: "bootstrapper: a package that the server has no more", class: "network source", subject: `https://get.ouzel.example/docs/OuzelDocs.msi|get.ouzel.example|OuzelDocs|OuzelDocs.msi`, log: `
[0A44:11F0][2026-05-11T07:40:02]i001: Engine v3.14.0, Windows v10.0 (Build 19045: Service Pack 0), path: C:\Windows\Temp\{8A1}\.cr\OuzelSuite.exe
[0A44:11F0][2026-05-11T07:40:02]i009: Command Line: '"-clean.room=C:\Setup\OuzelSuite.exe" /quiet'
[0A44:11F0][2026-05-11T07:40:02]i000: Setting string variable 'OuzelBundleName' to value 'Ouzel Suite'
[0A44:2210][2026-05-11T07:40:03]i100: Detect begin, 4 packages
[0A44:2210][2026-05-11T07:40:03]i101: Detected package: OuzelCore, state: Absent, cached: None
[0A44:11F0][2026-05-11T07:40:03]i101: Detected package: OuzelDocs, state: Absent, cached: None
[0A44:2210][2026-05-11T07:40:03]i199: Detect complete, result: 0x0
[0A44:2210][2026-05-11T07:40:04]i200: Plan begin, 4 packages, action: Install
[0A44:2210][2026-05-11T07:40:04]i201: Planned package: OuzelCore, state: Absent, default requested: Present, ba requested: Present, execute: Install, rollback: Uninstall, cache: Yes, uncache: No, dependency: Register
[0A44:11F0][2026-05-11T07:40:04]i299: Plan complete, result: 0x0
[0A44:2210][2026-05-11T07:40:04]i300: Apply begin
[0A44:11F0][2026-05-11T07:40:04]i338: Acquiring package: OuzelDocs, payload: OuzelDocs.msi, download from: https://get.ouzel.example/docs/OuzelDocs.msi
[0A44:11F0][2026-05-11T07:40:05]e000: Error 0x80190194: Failed to send request to URL: https://get.ouzel.example/docs/OuzelDocs.msi, trying to process HTTP status code anyway.
[0A44:11F0][2026-05-11T07:40:05]e000: Error 0x80190194: Unknown HTTP status code 404, returned from URL: https://get.ouzel.example/docs/OuzelDocs.msi
[0A44:2210][2026-05-11T07:40:05]e000: Error 0x80190194: Failed attempt to download URL: 'https://get.ouzel.example/docs/OuzelDocs.msi' to: 'C:\Users\lr\AppData\Local\Temp\{77}\OuzelDocs'
[0A44:11F0][2026-05-11T07:40:05]e000: Error 0x80190194: Failed to acquire payload from: 'https://get.ouzel.example/docs/OuzelDocs.msi' to working path: 'C:\Users\lr\AppData\Local\Temp\{77}\OuzelDocs'
[0A44:2210][2026-05-11T07:40:05]e313: Failed to acquire payload: OuzelDocs to working path: C:\Users\lr\AppData\Local\Temp\{77}\OuzelDocs, error: 0x80190194.
[0A44:11F0][2026-05-11T07:40:05]i351: Removing cached package: OuzelCore, from path: C:\ProgramData\Package Cache\{1}v1\
[0A44:2210][2026-05-11T07:40:05]i399: Apply complete, result: 0x80190194, restart: None, ba requested restart:  No
[0A44:2210][2026-05-11T07:40:06]i500: Shutting down, exit code: 0x80190194
`},
	{name: "servicing: no room where the machine starts from", class: "space component-store", log: `
2026-05-11 07:40:09, Info                  CBS    Appl: DetectUpdate, Package: Package_472_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:10, Info                  CBS    Exec: Resolving Package: Package_470_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:10, Info                  CBS    Exec: Resolving Package: Package_482_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:11, Info                  CBS    Appl: DetectUpdate, Package: Package_703_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:11, Info                  CBS    Appl: DetectUpdate, Package: Package_328_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:12, Info                  CBS    Exec: Resolving Package: Package_489_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:12, Info                  CBS    Session: 31099_8156 initialized by client WindowsUpdateAgent
2026-05-11 07:40:12, Info                  CBS    Appl: DetectUpdate, Package: Package_87_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:13, Info                  CBS    Appl: DetectUpdate, Package: Package_302_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:14, Info                  CBS    Exec: Resolving Package: Package_710_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:14, Info                  CBS    Exec: Resolving Package: Package_166_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:15, Info                  CBS    Session: 31099_1644 initialized by client WindowsUpdateAgent
2026-05-11 07:40:15, Info                  CBS    Appl: DetectUpdate, Package: Package_612_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:16, Info                  CBS    Appl: DetectUpdate, Package: Package_531_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:16, Info                  CBS    Appl: DetectUpdate, Package: Package_297_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:16, Info                  CBS    Session: 31099_8634 initialized by client WindowsUpdateAgent
2026-05-11 07:40:17, Info                  CBS    Exec: Resolving Package: Package_833_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:18, Info                  CBS    Session: 31099_6014 initialized by client WindowsUpdateAgent
2026-05-11 07:40:18, Info                  CBS    Session: 31099_5677 initialized by client WindowsUpdateAgent
2026-05-11 07:40:19, Info                  CBS    Appl: DetectUpdate, Package: Package_592_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:20, Info                  CBS    Exec: Processing started.  Session: 31099_4400, Controller: Trusted Installer, KB: KB5039999
2026-05-11 07:40:21, Info                  CBS    Exec: Resolving Package: Package_168_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:22, Info                  CBS    Exec: Resolving Package: Package_535_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:22, Info                  CBS    Session: 31099_7213 initialized by client WindowsUpdateAgent
2026-05-11 07:40:23, Info                  CBS    Exec: Resolving Package: Package_388_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:23, Info                  CBS    Session: 31099_2550 initialized by client WindowsUpdateAgent
2026-05-11 07:40:24, Info                  CBS    Exec: Resolving Package: Package_551_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:25, Info                  CBS    Exec: Resolving Package: Package_380_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:25, Info                  CBS    Appl: DetectUpdate, Package: Package_385_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:25, Info                  CBS    Appl: DetectUpdate, Package: Package_278_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:26, Info                  CBS    Exec: Resolving Package: Package_184_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:27, Info                  CBS    Session: 31099_2751 initialized by client WindowsUpdateAgent
2026-05-11 07:40:27, Info                  CBS    Session: 31099_1597 initialized by client WindowsUpdateAgent
2026-05-11 07:40:27, Info                  CBS    Session: 31099_3294 initialized by client WindowsUpdateAgent
2026-05-11 07:40:28, Info                  CBS    Appl: DetectUpdate, Package: Package_261_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:28, Info                  CBS    Exec: Resolving Package: Package_161_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:28, Info                  CBS    Appl: DetectUpdate, Package: Package_613_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:28, Info                  CBS    Session: 31099_6089 initialized by client WindowsUpdateAgent
2026-05-11 07:40:29, Info                  CBS    Session: 31099_6797 initialized by client WindowsUpdateAgent
2026-05-11 07:40:29, Info                  CBS    Exec: Resolving Package: Package_703_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:30, Info                  CBS    Session: 31099_4621 initialized by client WindowsUpdateAgent
2026-05-11 07:40:30, Info                  CSI    CSI    00000a11 Performing 1 operations as follows:  (0)  Install
2026-05-11 07:40:30, Info                  CBS    FOD: Boot servicing: BFSVC: BfspCopyFile(C:\Windows\boot\EFI\bootmgfw.efi, S:\EFI\Microsoft\Boot\bootmgfw.efi)
2026-05-11 07:40:31, Error                 CBS    BFSVC Error: Failed to copy C:\Windows\boot\EFI\bootmgfw.efi to \\?\GLOBALROOT\Device\HarddiskVolume1\EFI\Microsoft\Boot! Last Error = 0x70
2026-05-11 07:40:32, Error                 CBS    BFSVC: ServiceBootFiles failed. Last Error = 0x70
2026-05-11 07:40:32, Error                 CBS    Failed to update boot files. [HRESULT = 0x80070070 - ERROR_DISK_FULL]
2026-05-11 07:40:33, Info                  CBS    Exec: Failed during boot servicing, rolling back. [HRESULT = 0x800f0922 - CBS_E_INSTALLERS_FAILED]
2026-05-11 07:40:33, Info                  CBS    Session: 31099_4400 finalized. Reboot required: no [HRESULT = 0x800f0922 - CBS_E_INSTALLERS_FAILED]
2026-05-11 07:40:33, Info                  CBS    Ending TrustedInstaller finalization.
`},
	{name: "servicing: a package that the store lacks", class: "component-store", subject: `Package_3344_for_KB5017380~31bf3856ad364e35~amd64~~19041.2075.1.3`, log: `
2026-05-11 07:40:34, Info                  CBS    Appl: DetectUpdate, Package: Package_639_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:34, Info                  CBS    Exec: Resolving Package: Package_297_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:35, Info                  CBS    Appl: DetectUpdate, Package: Package_60_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:35, Info                  CBS    Session: 31099_6069 initialized by client WindowsUpdateAgent
2026-05-11 07:40:36, Info                  CBS    Exec: Resolving Package: Package_816_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:36, Info                  CBS    Appl: DetectUpdate, Package: Package_149_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:36, Info                  CBS    Appl: DetectUpdate, Package: Package_478_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:36, Info                  CBS    Session: 31099_8189 initialized by client WindowsUpdateAgent
2026-05-11 07:40:36, Info                  CBS    Session: 31099_1032 initialized by client WindowsUpdateAgent
2026-05-11 07:40:37, Info                  CBS    Exec: Resolving Package: Package_874_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:37, Info                  CBS    Exec: Resolving Package: Package_177_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:37, Info                  CBS    Appl: DetectUpdate, Package: Package_485_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:38, Info                  CBS    Exec: Resolving Package: Package_447_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:38, Info                  CBS    Appl: DetectUpdate, Package: Package_813_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:38, Info                  CBS    Session: 31099_2156 initialized by client WindowsUpdateAgent
2026-05-11 07:40:38, Info                  CBS    Exec: Processing started.  Session: 31099_5500, Controller: Trusted Installer, KB: KB5041111
2026-05-11 07:40:39, Info                  CBS    Session: 31099_1798 initialized by client WindowsUpdateAgent
2026-05-11 07:40:39, Info                  CBS    Appl: DetectUpdate, Package: Package_100_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:40, Info                  CBS    Session: 31099_7242 initialized by client WindowsUpdateAgent
2026-05-11 07:40:40, Info                  CBS    Exec: Resolving Package: Package_391_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:40, Info                  CBS    Appl: DetectUpdate, Package: Package_132_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:41, Info                  CBS    Exec: Resolving Package: Package_129_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:41, Info                  CBS    Appl: DetectUpdate, Package: Package_268_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:42, Info                  CBS    Appl: DetectUpdate, Package: Package_663_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:42, Info                  CBS    Exec: Resolving Package: Package_288_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:42, Info                  CBS    Appl: DetectUpdate, Package: Package_225_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:42, Info                  CBS    Appl: DetectUpdate, Package: Package_746_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:43, Info                  CBS    Appl: DetectUpdate, Package: Package_623_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:44, Info                  CBS    Appl: DetectUpdate, Package: Package_402_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:45, Info                  CBS    Appl: DetectUpdate, Package: Package_202_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1, Local Parent: Microsoft-Windows-Foundation-Package
2026-05-11 07:40:45, Info                  CBS    Exec: Resolving Package: Package_552_for_KB5039999~31bf3856ad364e35~amd64~~19041.4651.1.1
2026-05-11 07:40:45, Error                 CBS    Store corruption, manifest missing for package: Package_3344_for_KB5017380~31bf3856ad364e35~amd64~~19041.2075.1.3
2026-05-11 07:40:45, Error                 CBS    Failed to resolve package 'Package_3344_for_KB5017380~31bf3856ad364e35~amd64~~19041.2075.1.3' [HRESULT = 0x800f0831 - CBS_E_STORE_CORRUPTION]
2026-05-11 07:40:46, Info                  CBS    Mark store corruption flag because of package: Package_3344_for_KB5017380~31bf3856ad364e35~amd64~~19041.2075.1.3. [HRESULT = 0x800f0831 - CBS_E_STORE_CORRUPTION]
2026-05-11 07:40:47, Info                  CBS    Exec: Processing complete.  Session: 31099_5500, Package: Package_for_KB5041111~31bf3856ad364e35~amd64~~19041.4780.1.1, Identifier: KB5041111 [HRESULT = 0x800f0831 - CBS_E_STORE_CORRUPTION]
`},
	{name: "driver: not signed", class: "policy corrupt platform security-software", subject: `C:\Program Files\Smew Labs\driver\smewusb.inf|smewusb.inf|USB\VID_1209&PID_7714\0001`, log: `
[Device Install Log]
     OS Version = 10.0.19045
     Service Pack = 0.0
     ProductType = 1
     Architecture = amd64

[BeginLog]

[Boot Session: 2026/05/10 21:12:44.500]

>>>  [Device Install (DiInstallDriver) - C:\Program Files\Smew Labs\driver\smewusb.inf]
>>>  Section start 2026/05/11 07:41:10.220
      cmd: "C:\Setup\smew\setup.exe" /S
     ndv: Flags: 0x00000000
     ndv: INF path: C:\Program Files\Smew Labs\driver\smewusb.inf
     sto: {Setup Import Driver Package: C:\Program Files\Smew Labs\driver\smewusb.inf} 07:41:10.231
     sto:      Driver package already imported as 'oem41.inf'.
     sto: {Setup Import Driver Package - exit (0x00000000)} 07:41:10.300
     dvi: {Core Device Install} 07:41:11.010
     dvi:      Device Instance Id: USB\VID_1209&PID_7714\0001
     dvi:           Install Device: Restarting device completed. 07:41:12.331
!!!  dvi:           Device not started: Device has problem: 0x34 (CM_PROB_UNSIGNED_DRIVER), problem status: 0xc0000428.
     dvi: {Core Device Install - exit(0x00000000)} 07:41:12.340
!    ndv: Device 'USB\VID_1209&PID_7714\0001' required reboot.
<<<  Section end 2026/05/11 07:41:12.400
<<<  [Exit status: FAILURE(0xc0000428)]
`},
	{name: "update agent: the site's server is overloaded", class: "network service", log: `
2026/05/11 07:40:47.2890000 1172  4420  Agent           *** START *** Queueing Finding updates [CallerId = UpdateOrchestrator Id = 4]
2026/05/11 07:40:47.4710000 1172  4420  Agent           Added service 3DA21691 to sequential scan list
2026/05/11 07:40:47.7870000 1172  4420  IdleTimer       cookie refreshed 0
2026/05/11 07:40:47.8880000 1172  4420  IdleTimer       cookie refreshed 1
2026/05/11 07:40:48.0550000 1172  4420  IdleTimer       cookie refreshed 2
2026/05/11 07:40:48.3270000 1172  4420  IdleTimer       cookie refreshed 3
2026/05/11 07:40:48.4090000 1172  4420  IdleTimer       cookie refreshed 4
2026/05/11 07:40:48.7370000 1172  4420  IdleTimer       cookie refreshed 5
2026/05/11 07:40:49.0780000 1172  4420  IdleTimer       cookie refreshed 6
2026/05/11 07:40:49.3860000 1172  4420  IdleTimer       cookie refreshed 7
2026/05/11 07:40:49.8770000 1172  4420  ProtocolTalker  Got 0 endpoints from policy, WUServer=http://wsus02.brine.example:8530
2026/05/11 07:40:49.9810000 1172  4420  WebServices     WS error: There was an error communicating with the endpoint at 'http://wsus02.brine.example:8530/ClientWebService/client.asmx'.
2026/05/11 07:40:50.4500000 1172  4420  WebServices     WS error: The server returned HTTP status code '503 (0x1F7)' with text 'Service Unavailable'.
2026/05/11 07:40:50.4610000 1172  4420  WebServices     WS error: The service is temporarily overloaded.
2026/05/11 07:40:50.8910000 1172  4420  WebServices     *FAILED* [80244022] Web service call
2026/05/11 07:40:51.3900000 1172  4420  ProtocolTalker  *FAILED* [80244022] SyncUpdates_WithRecovery
2026/05/11 07:40:51.4160000 1172  4420  Agent           Exit code = 0x80244022
2026/05/11 07:40:51.7730000 1172  4420  Agent           *FAILED* [80244022] Scan with sequence completed
2026/05/11 07:40:51.9120000 1172  4420  Agent           *** END *** Finding updates CallerId = UpdateOrchestrator
`},
	{name: "agent: what it was to start is not there", class: "source path command-line", subject: `Deploy.cmd|C:\Windows\ccache\1f`, log: `
<![LOG[+++ Starting Install enforcement for App DT "Siskin Notes 4 - Script" ApplicationDeliveryType - ScopeId_A1/DeploymentType_9, Revision - 3, ContentPath - C:\Windows\ccache\1f, Execution Context - System]LOG]!><time="07:40:57.818-120" date="05-11-2026" component="AppEnforce" context="" type="1" thread="5608" file="appenforce.cpp:629">
<![LOG[    Performing detection of app deployment type Siskin Notes 4 - Script]LOG]!><time="07:40:57.342-120" date="05-11-2026" component="AppEnforce" context="" type="1" thread="4120" file="appenforce.cpp:782">
<![LOG[    App enforcement environment: Context: Machine, Command line: Deploy.cmd /q]LOG]!><time="07:40:57.964-120" date="05-11-2026" component="AppEnforce" context="" type="1" thread="5608" file="appenforce.cpp:704">
<![LOG[    Prepared working directory: C:\Windows\ccache\1f]LOG]!><time="07:40:57.590-120" date="05-11-2026" component="AppEnforce" context="" type="1" thread="5608" file="appenforce.cpp:398">
<![LOG[    Working directory C:\Windows\ccache\1f]LOG]!><time="07:40:58.211-120" date="05-11-2026" component="AppEnforce" context="" type="1" thread="5608" file="appenforce.cpp:63">
<![LOG[    Executable file name 'Deploy.cmd' not found in content folder]LOG]!><time="07:40:58.661-120" date="05-11-2026" component="AppEnforce" context="" type="2" thread="4120" file="appenforce.cpp:695">
<![LOG[    Prepared command line: Deploy.cmd /q]LOG]!><time="07:40:58.262-120" date="05-11-2026" component="AppEnforce" context="" type="1" thread="5608" file="appenforce.cpp:518">
<![LOG[CreateProcess failed (0x80070002) for "Deploy.cmd" /q]LOG]!><time="07:40:59.254-120" date="05-11-2026" component="AppEnforce" context="" type="3" thread="5608" file="appenforce.cpp:150">
<![LOG[++++++ Failed to enforce app. Error 0x80070002. ++++++]LOG]!><time="07:40:59.950-120" date="05-11-2026" component="AppEnforce" context="" type="3" thread="5608" file="appenforce.cpp:333">
<![LOG[CommenceEnforcement failed with error 0x80070002.]LOG]!><time="07:41:00.599-120" date="05-11-2026" component="AppEnforce" context="" type="3" thread="5608" file="appenforce.cpp:318">
<![LOG[Method CommenceEnforcement failed with error code 80070002]LOG]!><time="07:41:00.510-120" date="05-11-2026" component="AppEnforce" context="" type="3" thread="5608" file="appenforce.cpp:705">
<![LOG[++++++ Failed to enforce app. Error 0x80070002. ++++++]LOG]!><time="07:41:00.914-120" date="05-11-2026" component="AppEnforce" context="" type="3" thread="4120" file="appenforce.cpp:584">
`},
	{name: "events: an assembly that a program needs", class: "prerequisite custom-action", subject: `Nautic.VC90.CRT|C:\Program Files\Avocet\avocet-reg.exe|avocet-reg.exe`, log: `
<Events>
<Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="MsiInstaller"/><EventID>1040</EventID><Level>4</Level><TimeCreated SystemTime="2026-05-11T07:41:03.000Z"/><Channel>Application</Channel><Computer>DOCK-19</Computer></System><EventData><Data>Beginning a Windows Installer transaction: C:\Deploy\avocet.msi. Client Process Id: 4120.</Data></EventData></Event>
<Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="SideBySide"/><EventID>33</EventID><Level>2</Level><TimeCreated SystemTime="2026-05-11T07:41:04.000Z"/><Channel>Application</Channel><Computer>DOCK-19</Computer></System><EventData><Data>Activation context generation failed for "C:\Program Files\Avocet\avocet-reg.exe". Dependent Assembly Nautic.VC90.CRT,processorArchitecture="x86",type="win32",version="9.0.21022.8" could not be found. Please use sxstrace.exe for detailed diagnosis.</Data></EventData></Event>
<Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="MsiInstaller"/><EventID>11721</EventID><Level>2</Level><TimeCreated SystemTime="2026-05-11T07:41:06.000Z"/><Channel>Application</Channel><Computer>DOCK-19</Computer></System><EventData><Data>Product: Avocet Planner -- Error 1721. There is a problem with this Windows Installer package. A program required for this install to complete could not be run. Action: RegisterAvocet, location: C:\Program Files\Avocet\avocet-reg.exe, command: /i</Data></EventData></Event>
<Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="MsiInstaller"/><EventID>11708</EventID><Level>4</Level><TimeCreated SystemTime="2026-05-11T07:41:06.000Z"/><Channel>Application</Channel><Computer>DOCK-19</Computer></System><EventData><Data>Product: Avocet Planner -- Installation failed.</Data></EventData></Event>
<Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="MsiInstaller"/><EventID>1033</EventID><Level>4</Level><TimeCreated SystemTime="2026-05-11T07:41:07.000Z"/><Channel>Application</Channel><Computer>DOCK-19</Computer></System><EventData><Data>Windows Installer installed the product. Product Name: Avocet Planner. Product Version: 2.1.0. Product Language: 1033. Manufacturer: Avocet. Installation success or error status: 1603.</Data></EventData></Event>
<Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="MsiInstaller"/><EventID>1042</EventID><Level>4</Level><TimeCreated SystemTime="2026-05-11T07:41:07.000Z"/><Channel>Application</Channel><Computer>DOCK-19</Computer></System><EventData><Data>Ending a Windows Installer transaction: C:\Deploy\avocet.msi. Client Process Id: 4120.</Data></EventData></Event>
</Events>
`},
}
