package verdict

import (
	"context"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

// written is a log as one of the OS's own parts, a management agent, a
// bootstrapper or a shell writes it, with what somebody who knows the trade
// says of it.
type written struct {
	name, log       string
	outcome         story.Outcome // failed where it is empty
	class           string        // several, parted by blanks, where the border is thin
	subject, action string        // several, parted by |; "" is not asked
	exit            int           // 0 is not asked
}

var dialectCases = []written{
	{name: "servicing: a package that does not apply", class: "condition platform prerequisite", subject: "KB5099001", log: `
2026-05-04 09:12:00, Info                  CBS    TI: --- Initializing Trusted Installer ---
2026-05-04 09:12:01, Info                  CBS    Session: 31210000_1 initialized by client WindowsUpdateAgent, external staging directory: (null), external registry directory: (null)
2026-05-04 09:12:02, Info                  CBS    Appl: Evaluating package applicability for package Package_for_KB5099001~31bf3856ad364e35~amd64~~26100.1.1.0, applicable state: Absent
2026-05-04 09:12:02, Info                  CBS    Package: Package_for_KB5099001~31bf3856ad364e35~amd64~~26100.1.1.0 is not applicable to this image
2026-05-04 09:12:03, Error                 CBS    Failed to process single phase execution. [HRESULT = 0x800f081e - CBS_E_NOT_APPLICABLE]
2026-05-04 09:12:03, Info                  CBS    Exec: Processing complete.  Session: 31210000_1, Package: Package_for_KB5099001~31bf3856ad364e35~amd64~~26100.1.1.0 [HRESULT = 0x800f081e - CBS_E_NOT_APPLICABLE]
`},
	{name: "servicing: a manifest is missing", class: "component-store", log: `
2026-05-04 09:12:01, Info                  CBS    Session: 31210000_2 initialized by client DISM Package Manager Provider
2026-05-04 09:12:04, Info                  CSI    00000012 Opened store
2026-05-04 09:12:05, Error                 CSI    00000013 (F) STATUS_OBJECT_NAME_NOT_FOUND #4412# from CCSDirectTransaction::OperateEnding at index 0 of 1 operations, disposition 2[gle=0xd0000034]
2026-05-04 09:12:05, Error                 CSI    00000014 (F) HRESULT_FROM_WIN32(14098) #4410# from Windows::ServicingAPI::CCSITransaction::ICSITransaction_PinDeployment(Flags = 0, a = tide-x64)[gle=0x80073712]
2026-05-04 09:12:06, Error                 CBS    Failed to pin deployment while resolving Update: tide-x64 [HRESULT = 0x80073712 - ERROR_SXS_COMPONENT_STORE_CORRUPT]
2026-05-04 09:12:06, Info                  CBS    Exec: Processing complete. Session: 31210000_2 [HRESULT = 0x80073712 - ERROR_SXS_COMPONENT_STORE_CORRUPT]
`},
	{name: "image tool: no source for the feature", class: "component-store source policy", subject: "NetFx3", log: `
2026-05-04 09:12:00, Info                  DISM   DISM.EXE: Executing command line: dism  /online /enable-feature /featurename:NetFx3 /all
2026-05-04 09:12:01, Info                  DISM   DISM Package Manager: PID=4120 TID=4124 Processing the top level command token(enable-feature). - CPackageManagerCLIHandler::Private_ValidateCmdLine
2026-05-04 09:12:09, Error                 DISM   DISM Package Manager: PID=4120 TID=4124 Failed finalizing changes. - CDISMPackageManager::Internal_Finalize(hr:0x800f0950)
2026-05-04 09:12:09, Error                 DISM   DISM Package Manager: PID=4120 TID=4124 The source files could not be downloaded. - GetCbsErrorMsg
2026-05-04 09:12:09, Error                 DISM   DISM Package Manager: PID=4120 TID=4124 Failed while processing command enable-feature. - CPackageManagerCLIHandler::ExecuteCmdLine(hr:0x800f0950)
2026-05-04 09:12:10, Info                  DISM   DISM.EXE: Image session has been closed. Reboot required=no.
`},
	{name: "device setup: a driver without a signature", class: "policy corrupt", subject: "tidecard.inf", log: `
>>>  [Device Install (DiInstallDriver) - C:\Deploy\tidecard\tidecard.inf]
>>>  Section start 2026/05/04 09:12:01.113
      cmd: "C:\Deploy\tidecard\setup.exe" /quiet
     inf: Provider: Saltmarsh Quay
     sto: {Setup Import Driver Package: C:\Deploy\tidecard\tidecard.inf} 09:12:01.201
     sig:                {_VERIFY_FILE_SIGNATURE} 09:12:01.310
     sig:                     Key      = tidecard.inf
     sig:                     FilePath = C:\Windows\System32\DriverStore\Temp\{41}\tidecard.inf
!    sig:                     Verifying file against specific (valid) catalog failed! (0x800b0109)
!    sig:                     Error 0x800b0109: A certificate chain processed, but terminated in a root certificate which is not trusted by the trust provider.
     sig:                {_VERIFY_FILE_SIGNATURE exit(0x800b0109)} 09:12:01.400
!!!  sto:           Driver package failed signature validation. Error = 0xE0000247
     sto: {Setup Import Driver Package - exit (0xe0000247)} 09:12:01.420
!!!  ndv: Driver package import failed for device.
<<<  Section end 2026/05/04 09:12:01.500
<<<  [Exit status: FAILURE(0xe0000247)]
`},
	{name: "device setup: the service is still there", class: "service leftover busy", subject: "tidecard", log: `
>>>  [Device Install (UpdateDriverForPlugAndPlayDevices) - USB\VID_1D6B&PID_0104]
>>>  Section start 2026/05/04 09:14:01.113
     dvi: {Core Device Install} 09:14:01.200
     dvi:      Install Device: Starting device 'USB\VID_1D6B&PID_0104\1'. 09:14:01.300
!!!  inf:      Failed to install service: tidecard
!!!  inf:      Error 1072: The specified service has been marked for deletion.
!!!  dvi:      Cannot install device: error 1072
     dvi: {Core Device Install - exit(0x00000430)} 09:14:01.500
<<<  Section end 2026/05/04 09:14:01.510
<<<  [Exit status: FAILURE(0x00000430)]
`},
	{name: "app deployment: in use", class: "in-use", subject: "NineFathom.Tideboard", log: `
PS C:\> Add-AppxPackage .\tideboard_2.1.0.0_x64.msix
Add-AppxPackage : Deployment failed with HRESULT: 0x80073D02, The package could not be installed because resources it modifies are currently in use.
error 0x80073D02: Unable to install because the following apps need to be closed NineFathom.Tideboard_2.0.0.0_x64__k3w8wekyb3d8b.
NOTE: For additional information, look for [ActivityId] 0f0e in the Event Log.
At line:1 char:1
`},
	{name: "app deployment: the certificate", class: "corrupt policy", log: `
AppXDeployment operation Add on package NineFathom.Tideboard_2.1.0.0_x64__k3w8wekyb3d8b started 2026-05-04T09:12:01Z
error 0x800B0109: Opening the package from location tideboard_2.1.0.0_x64.msix failed.
Deployment Add operation with target volume C: on Package NineFathom.Tideboard_2.1.0.0_x64__k3w8wekyb3d8b failed with error 0x800B0109. See http://go.microsoft.com/fwlink/?LinkId=235160 for help diagnosing app deployment issues.
`},
	{name: "bootstrapper: the package of an outer program failed by a service", class: "service", subject: "BerthSync", log: `
[0F10:0F14][2026-05-04T09:12:01]i001: Engine v3.14, Windows v10.0 (Build 22631: Service Pack 0), path: C:\Deploy\tidebook-setup.exe
[0F10:0F14][2026-05-04T09:12:01]i000: Initializing string variable 'TidebookBundleName' to value 'Tidebook Desk'
[0F10:0F14][2026-05-04T09:12:02]i101: Detected package: TidebookCore, state: Absent, cached: None
[0F10:0F14][2026-05-04T09:12:03]i200: Plan begin, 1 packages, action: Install
[0F10:0F18][2026-05-04T09:12:05]i301: Applying execute package: TidebookCore, action: Install, path: C:\ProgramData\Package Cache\x\tidebook-core.msi, arguments: ' ARPSYSTEMCOMPONENT="1"'
[0F10:0F18][2026-05-04T09:13:05]e000: Error 0x80070643: Failed to install MSI package.
[0F10:0F18][2026-05-04T09:13:05]e000: Error 1920. Service 'Berth Sync' (BerthSync) failed to start. Verify that you have sufficient privileges to start system services.
[0F10:0F14][2026-05-04T09:13:06]i319: Applied execute package: TidebookCore, result: 0x80070643, restart: None
[0F10:0F14][2026-05-04T09:13:06]e000: Error 0x80070643: Failed to execute MSI package.
[0F10:0F14][2026-05-04T09:13:07]i399: Apply complete, result: 0x80070643, restart: None, ba requested restart:  No
[0F10:0F14][2026-05-04T09:13:07]i007: Exit code: 0x643, restarting: No
`},
	{name: "management agent: another setup was running", class: "busy", log: `
<![LOG[Executing program as a script]LOG]!><time="09:12:01.100+000" date="05-04-2026" component="Execution" context="" type="1" thread="4120" file="exec.cpp:41">
<![LOG[Command line: msiexec.exe /i "wharfage-ledger-3.2.0.msi" /qn]LOG]!><time="09:12:01.200+000" date="05-04-2026" component="Execution" context="" type="1" thread="4120" file="exec.cpp:61">
<![LOG[Process 7712 terminated with exitcode: 1618]LOG]!><time="09:12:09.200+000" date="05-04-2026" component="Execution" context="" type="1" thread="4120" file="exec.cpp:99">
<![LOG[Matched exit code 1618 to a FastRetry entry in exit codes table.]LOG]!><time="09:12:09.300+000" date="05-04-2026" component="Execution" context="" type="2" thread="4120" file="exec.cpp:120">
<![LOG[Execution status: Failed]LOG]!><time="09:12:09.400+000" date="05-04-2026" component="Execution" context="" type="3" thread="4120" file="exec.cpp:130">
`, exit: 1618},
	{name: "management agent: not detected afterwards", class: "condition unknown custom-action", log: `
<![LOG[Starting install of app 'Pilot Roster' 5.1]LOG]!><time="09:12:01.100+000" date="05-04-2026" component="AppEnforce" context="" type="1" thread="4120" file="a.cpp:41">
<![LOG[Process exit code 0 mapped to success]LOG]!><time="09:13:01.100+000" date="05-04-2026" component="AppEnforce" context="" type="1" thread="4120" file="a.cpp:81">
<![LOG[Performing detection of app deployment type Pilot Roster 5.1]LOG]!><time="09:13:02.100+000" date="05-04-2026" component="AppEnforce" context="" type="1" thread="4120" file="a.cpp:85">
<![LOG[Application not detected after enforcement. Registry value HKLM\SOFTWARE\Pilot Roster\Version is 5.0, wanted 5.1]LOG]!><time="09:13:03.100+000" date="05-04-2026" component="AppEnforce" context="" type="3" thread="4120" file="a.cpp:90">
<![LOG[App enforcement failed with error 0x87D00324]LOG]!><time="09:13:03.200+000" date="05-04-2026" component="AppEnforce" context="" type="3" thread="4120" file="a.cpp:95">
`},
	{name: "events: a service logon", class: "service", subject: "BerthSync|Berth Sync", log: `
Level,Date and Time,Source,Event ID,Task Category
Error,5/4/2026 9:13:05 AM,MsiInstaller,10005,None,Product: Tidebook Desk -- Error 1920. Service 'Berth Sync' (BerthSync) failed to start.  Verify that you have sufficient privileges to start system services.
Error,5/4/2026 9:13:04 AM,Service Control Manager,7000,None,"The Berth Sync service failed to start due to the following error: 
The service did not start due to a logon failure."
Error,5/4/2026 9:13:04 AM,Service Control Manager,7038,None,"The BerthSync service was unable to log on as ELLERY\svc-berth with the currently configured password due to the following error: 
The user name or password is incorrect."
Information,5/4/2026 9:13:06 AM,MsiInstaller,1033,None,Windows Installer installed the product. Product Name: Tidebook Desk. Product Version: 4.1.0. Product Language: 1033. Manufacturer: Saltmarsh Quay. Installation success or error status: 1603.
Information,5/4/2026 9:12:01 AM,MsiInstaller,1040,None,Beginning a Windows Installer transaction: C:\Deploy\tidebook.msi. Client Process Id: 4120.
`, exit: 1603},
	{name: "shell: PATH lacks a tool", class: "path prerequisite", subject: "sqlcmd", log: `
C:\Deploy>call make-db.cmd
C:\Deploy>sqlcmd -S ellery-sql1 -i schema.sql
'sqlcmd' is not recognized as an internal or external command,
operable program or batch file.
C:\Deploy>if errorlevel 1 exit /b 12
C:\Deploy>exit /b 12
`, exit: 12},
	{name: "PowerShell transcript: access denied by the registry", class: "permission registry elevation",
		subject: `HKEY_LOCAL_MACHINE\SOFTWARE\Saltmarsh Quay`, log: `
**********************
Windows PowerShell transcript start
Start time: 20260504091201
Username: ELLERY\mwhitlow
Machine: ELLERY-D07 (Microsoft Windows NT 10.0.22631.0)
**********************
PS C:\Deploy> .\install-connector.ps1
Installing Berth Sync connector 2.3
New-Item : Requested registry access is not allowed.
At C:\Deploy\install-connector.ps1:41 char:5
+     New-Item -Path 'HKLM:\SOFTWARE\Saltmarsh Quay' -Force
+     ~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~
    + CategoryInfo          : PermissionDenied: (HKEY_LOCAL_MACHINE\SOFTWARE\Saltmarsh Quay:String) [New-Item], SecurityException
    + FullyQualifiedErrorId : System.Security.SecurityException,Microsoft.PowerShell.Commands.NewItemCommand
Install failed.
**********************
Windows PowerShell transcript end
End time: 20260504091203
**********************
`},
	{name: "PowerShell transcript: a module", class: "prerequisite", subject: "QuayTools", log: `
**********************
PowerShell transcript start
Start time: 20260504091201
**********************
Deploying Quay agent 5.1
Import-Module : The specified module 'QuayTools' was not loaded because no valid module file was found in any module directory.
At C:\Deploy\deploy.ps1:3 char:1
+ CategoryInfo          : ResourceUnavailable: (QuayTools:String) [Import-Module], FileNotFoundException
Deployment failed, exit code 1
**********************
PowerShell transcript end
**********************
`},
	{name: "script-driven setup: a file in use", class: "in-use", subject: `channels.dll`, log: `
2026-05-04 09:12:01.100   Log opened. (Time zone: UTC+01:00)
2026-05-04 09:12:01.101   Setup version: Script setup 6.2.2
2026-05-04 09:12:01.102   Original Setup EXE: C:\Deploy\fairway-2.0.1.exe
2026-05-04 09:12:03.200   Starting the installation process.
2026-05-04 09:12:04.200   Dest filename: C:\Program Files\Fairway Radio\channels.dll
2026-05-04 09:12:04.201   Existing file is in use by another process (5). Retrying.
2026-05-04 09:12:08.201   The existing file appears to be in use (5). Will retry.
2026-05-04 09:12:12.300   Message box (Abort/Retry/Ignore):
                          C:\Program Files\Fairway Radio\channels.dll
                          An error occurred while trying to replace the existing file:
                          DeleteFile failed; code 5.
                          Access is denied.
2026-05-04 09:12:20.300   User chose Abort.
2026-05-04 09:12:20.400   Rolling back changes.
2026-05-04 09:12:21.400   Installation process failed.
2026-05-04 09:12:21.500   Log closed.
`},
	{name: "update agent: no such host", class: "network", subject: "wsus.ellery.example|ellery", log: `
2026/05/04 09:12:01.1000000 4120  5204  Agent           *FAILED* [8024402C] Method failed [CUpdateServiceClient::SyncUpdates]
2026/05/04 09:12:01.1100000 4120  5204  WebServices     WS error: The host http://wsus.ellery.example:8530/ClientWebService/client.asmx could not be reached: name not resolved
2026/05/04 09:12:01.1200000 4120  5204  ProtocolTalker  *FAILED* [8024402C] SyncUpdates_WithRecovery failed
2026/05/04 09:12:01.1300000 4120  5204  Agent           Exit code = 0x8024402C
2026/05/04 09:12:01.1400000 4120  5204  Agent           * END * Finding updates CallerId = setup  Id = 4
`},
	{name: "feature upgrade: a blocking program", class: "condition", subject: "Harbour Guard", log: `
2026-05-04 09:12:01, Info                  MOUPG  SetupHost: Setup is launched with command line [/auto upgrade /quiet]
2026-05-04 09:12:31, Info                  MOUPG  Compat: running compatibility scan
2026-05-04 09:13:01, Warning               MOUPG  Compat: hard block: program 'Harbour Guard 2.1' has to be removed before the upgrade
2026-05-04 09:13:02, Error                 MOUPG  CDlpActionCompat::ExecuteInternal failed, result = 0xC1900208
2026-05-04 09:13:03, Error                 MOUPG  CSetupHost::Execute result = 0xC1900208
2026-05-04 09:13:04, Info                  MOUPG  SetupHost: Setup ends with 0xC1900208
`},
	{name: "console manager: a hash that is not the listed one", class: "corrupt", subject: "", log: `
Found Wharfage Ledger [SaltmarshQuay.Wharfage] Version 3.2.0
This application is licensed to you by its owner.
Downloading https://cdn.saltmarsh.example/wl/3.2.0/wharfage.exe
  ██████████████████████████████  48.2 MB / 48.2 MB
Installer hash does not match; this cannot be overridden when running as admin
`},
	{name: "console manager: the setup's own code", class: "cached-package source", exit: 1612, log: `
Found Pilot Roster [SaltmarshQuay.PilotRoster] Version 5.1.0
Successfully verified installer hash
Starting package install...
Installer failed with exit code: 1612
`},
	{name: "answers file: the folder is refused", class: "command-line path", log: `
[ResponseResult]
ResultCode=-5
[Application]
Name=Chart Library
Version=2026
Company=Saltmarsh Quay
`, exit: -5},
}

func TestDialectsLogs(t *testing.T) {
	for _, c := range slices.Concat(dialectCases, ownForms, moreDialects, thirdDialects, fourthDialects, rareForms) {
		t.Run(c.name, func(t *testing.T) {
			v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(strings.TrimPrefix(c.log, "\n"))}, Options{})
			if err != nil {
				t.Fatal(err)
			}
			checkTold(t, told{outcome: c.outcome, class: c.class, subject: c.subject, action: c.action, exit: c.exit}, v)
		})
	}
}

// Every line that a verdict points at is one of the log, and is quoted as it
// stands there.
func TestEvidenceStandsInTheLog(t *testing.T) {
	for _, c := range slices.Concat(vendors, moreVendors, thirdVendors, fourthVendors, fifthVendors, sixthVendors,
		seventhVendors, eighthVendors, ninthVendors, tenthVendors, eleventhVendors, twelfthVendors, thirteenthVendors) {
		log := strings.Split(c.log(chatter), "\n")
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(strings.Join(log, "\n"))}, Options{})
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range v.Evidence {
			if e.Line < 1 || e.Line > len(log) {
				t.Errorf("%s: line %d of %d", c.name, e.Line, len(log))
			}
		}
	}
}
