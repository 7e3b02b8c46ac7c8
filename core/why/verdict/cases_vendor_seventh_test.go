package verdict

import (
	"fmt"
	"time"

	"hollowkey/core/logs/story"
)

func init() {
	words := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARN", 'E': "ERROR"}
	layouts["program"] = func(at time.Time, _ byte, part, text string) string {
		return at.Format("2006/01/02 15:04:05") + " " + part + ": " + text + "\n"
	}
	layouts["targets"] = func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s %5s quay_setup::%s: %s\n", at.Format("2006-01-02T15:04:05.000000Z"), words[level], part, text)
	}
	layouts["epoch"] = func(at time.Time, level byte, _, text string) string {
		return fmt.Sprintf("%d %c %s\n", at.UnixMilli(), level, text)
	}
	layouts["rotating"] = func(at time.Time, level byte, _, text string) string {
		return fmt.Sprintf("[%s] [%s]  %s\n", at.Format("2006-01-02 15:04:05.000"),
			map[byte]string{'D': "debug", 'I': "info", 'W': "warn", 'E': "error"}[level], text)
	}
}

// A seventh set of made-up setups.
var seventhVendors = []told{
	{name: "a part that worked, and errors at the end", layout: "iso", class: "permission", subject: `C:\ProgramData\Tern\queue`, lines: `
		I main Tern Relay 4.1 setup
		I part installation of Tern Runtime completed successfully
		#
		#
		#
		E files C:\ProgramData\Tern\queue: access is denied
		E main no queue, no relay`},
	{name: "a whole that worked, and an error behind it", layout: "iso", outcome: story.Succeeded, lines: `
		I main Tern Relay 4.1 setup
		#
		#
		I main installation completed successfully
		E tidy C:\Temp\tern could not be removed`},
	{name: "a rename that another process stops", layout: "program", class: "in-use", subject: `C:\Program Files\Tern\tern.exe`, action: "replace binary|install|replace", lines: `
		I main tern-agent 0.44.1 install
		#
		I install replace binary
		E install install: replace binary: rename C:\Program Files\Tern\tern.exe.new C:\Program Files\Tern\tern.exe: The process cannot access the file because it is being used by another process.
		#
		E main exit status 1`},
	{name: "causes in a numbered list", layout: "targets", class: "permission service elevation", lines: `
		I main Kestrel Sync 1.3.0 setup
		#
		I service installing service KestrelSync
		E main failed to install service
		| Caused by:
		|     0: open service manager
		|     1: Access is denied. (os error 5)
		E main setup aborted`},
	{name: "a digest that differs", layout: "rotating", class: "corrupt network", subject: "puffin-9.1.0-full.nupkg|9.1.0", action: "verify|download|Verifying", lines: `
		I main Puffin Chat 9.0.2 looking for updates
		#
		I main Found version 9.1.0 (url: puffin-9.1.0-full.nupkg)
		I main Downloading update from puffin-9.1.0-full.nupkg
		I main Verifying update
		E main Error: sha512 of puffin-9.1.0-full.nupkg does not match: got 3fA1, expected 77bC
		#
		E main Cannot update to 9.1.0`},
	{name: "a port that refuses", layout: "epoch", class: "network", subject: "box.smew.example|box.smew.example:443", action: "register box|register", lines: `
		I main Smew Telemetry Box 1.1 first run
		#
		I main register box at box.smew.example:443
		E main register box: No connection could be made because the target machine actively refused it. box.smew.example:443
		#
		E main first run not completed`},
	{name: "German, not elevated, at debug level", layout: "semicolons", class: "elevation permission", action: "Ordner anlegen|Ordner", lines: `
		I Start Deichwart 4.4 Installation
		#
		D Umgebung Prozess läuft nicht erhöht, Benutzer ist kein Administrator
		I Schritt Ordner anlegen: C:\Program Files\Deichwart
		E Schritt Ordner anlegen: Zugriff verweigert
		#
		E Start Installation nicht durchgeführt`},
	{name: "a database that is locked", layout: "status", class: "in-use", subject: `nhg.db|C:\ProgramData\NHG\nhg.db`, action: "migrate-db|migrate", lines: `
		I main Net Harbour Gateway 4.1 installation
		#
		I task task migrate-db
		D db opening C:\ProgramData\NHG\nhg.db
		E db database is locked
		E task task migrate-db: did not end well
		#
		E main setup failed, see support code NHG-12`},
	{name: "an older version half removed", layout: "tabcells", class: "leftover", subject: `C:\Program Files\Curlew Forms 9|Curlew Forms 9`, action: "look for older versions|older", lines: `
		I main Curlew Forms 11.0 setup
		#
		I act look for older versions
		W det C:\Program Files\Curlew Forms 9 is there, its uninstaller is not: half removed
		E act look for older versions: cannot go on
		#
		E main setup failed`},
	{name: "a graphics driver that is too old", layout: "relative", class: "condition platform prerequisite", action: "check-gpu|gpu", lines: `
		I main Lanternkit Vision 1.0 setup
		#
		I step check-gpu begin
		I gpu graphics driver 472.12, minimum 551.0
		E step check-gpu end: not fulfilled
		#
		E main setup ended with errors`},
	{name: "application control", layout: "dashes", class: "policy", subject: `wharfage.exe|C:\ProgramData\Wharfage\wharfage.exe`, action: "launch_agent|launch agent", lines: `
		I installer Wharfage Agent 1.1 rollout
		#
		I step launch_agent C:\ProgramData\Wharfage\wharfage.exe
		E step launch_agent: An Application Control policy has blocked this file.
		#
		E installer rollout terminated`},
	{name: "a bad sector of a payload", layout: "glog", class: "corrupt", subject: "north.pak", action: "unpack_charts|unpack", lines: `
		I main Fellwater Chart Sync bootstrap 1.5.0
		#
		I arc unpack_charts north.pak
		E arc read north.pak at 120586240: Data error (cyclic redundancy check).
		E arc unpack_charts: unsuccessful
		#
		E main cannot continue; exiting`},
	{name: "a service that is there already", layout: "stars", class: "service", action: "register service|service", lines: `
		I main Helm Tide Service 1.0 installation
		#
		I main register service: HelmTide
		I main register service: CreateService gave 1073
		#
		I main installation broken off`},
	{name: "no payload for this machine", layout: "threads", class: "platform", action: "PickPayload|payload", lines: `
		I Main Gullwatch AR 1.0.0 installer
		#
		D Main native machine 0xAA64 (ARM64), payloads: x64
		I Main PickPayload
		E Main PickPayload: nothing fits
		#
		E Main Gullwatch AR could not be installed`},
	{name: "a language's cabinet", layout: "colons", class: "source", subject: `lang_de.cab|C:\Deploy\moorline\lang_de.cab`, action: "add language|language", lines: `
		I main Moorline Server setup 11.2
		#
		I job job add language de
		E job C:\Deploy\moorline\lang_de.cab: The system cannot find the file specified.
		E job job add language de aborted
		#
		E main Moorline Server setup 11.2 could not finish`},
	{name: "a clock a year behind", layout: "hex", class: "network", action: "activate|activation", lines: `
		I main Foghorn Control Suite 6.2 installer on ELLERY-D14
		#
		I main activate: licence.foghorn.example
		D main server date 2026-04-12, local date 2025-04-12
		W main activate: token not valid before server date, clock skew 365 d
		E main activate: rejected
		#
		I main Nothing was installed`},
	{name: "a value that is missing", layout: "iso", class: "registry", subject: `LastUsedProfile|HKCU\Software\Quayline\Atlas|HKCU\Software\Quayline\Atlas\LastUsedProfile`, action: "MigrateProfile|migrate", lines: `
		I setup Quayline Atlas 7.4.0 setup, build 7402
		#
		I stage >> stage MigrateProfile
		W reg HKCU\Software\Quayline\Atlas: value LastUsedProfile is missing
		E stage << stage MigrateProfile failed: result 9
		#
		E setup Quayline Atlas 7.4.0 was not set up (9)`},
	{name: "German, a crash by its number", layout: "quoted", class: "custom-action unknown", subject: "kpinit.exe", action: "Datenbank vorbereiten|Datenbank", lines: `
		I main Kajenplan Server 8.2 – Installation
		#
		I schritt Schritt 3 von 6: Datenbank vorbereiten
		E prozess kpinit.exe wurde mit -1073740791 beendet
		E schritt Schritt 3 wurde nicht abgeschlossen
		#
		E main Die Installation ist gescheitert.`},
	{name: "an old protocol at debug level", layout: "sincestart", class: "network", subject: "link.fenmark.example", action: "pair device|pair", lines: `
		I main Fenmark Cloud Link 1.0 setup
		#
		I main pair device with link.fenmark.example
		D main client offers TLS 1.0 only, server wants 1.2
		E main pair device: handshake ended by peer
		#
		E main setup ended with result 1`},
	{name: "classes for a newer runtime", layout: "twolines", class: "prerequisite condition", subject: "Java|class file version 65|JRE|java", lines: `
		I main Anchor Bridge 3.1 setup
		#
		I bridge start bridge for a first test
		E bridge java.lang.UnsupportedClassVersionError: org/quay/Bridge has been compiled by a more recent version of the Java Runtime (class file version 65.0)
		#
		E main Setup ended unsuccessfully`},
	{name: "a temporary folder that is too small", layout: "levelfirst", class: "space condition", subject: `TEMP|C:|C:\Windows\Temp|C:\`, action: "unpack to temporary folder|unpack", lines: `
		I main Saltpan Ledger Setup 10.2.0
		#
		I main unpack to temporary folder: 812 MB needed
		I main C:\Windows\Temp: 96 MB available
		E main unpack to temporary folder: stopped
		#
		E main Setup could not continue`},
	{name: "an owner told at debug level", layout: "arrows", class: "permission", subject: `C:\Windows\System32\spool\drivers|TrustedInstaller`, action: "copy driver files|driver files", lines: `
		I main Avocet Print Server 2.3 setup
		#
		I main copy driver files
		D main C:\Windows\System32\spool\drivers: owner TrustedInstaller, SYSTEM may read
		E main copy driver files did not work
		#
		E main setup stopped`},
	{name: "protection that took the file", layout: "units", class: "security-software", subject: "skerry-shell.dll", action: "load shell extension|shell extension", lines: `
		I main Skerry Cloud Agent 1.21.0 installation
		#
		I shell load shell extension skerry-shell.dll
		D env real-time protection: on, engine 4.18
		E shell load shell extension: file was removed after creation
		#
		E main installation unsuccessful`},
}

// Logs in forms of their own: reports, documents, traces.
var ownForms = []written{
	{name: "steps of a container-like build", class: "network", subject: "pkgs.heron.example", action: "restore packages|Step 3/5|step 3|restore", log: `
Heron Toolkit 2.0 provisioning
Step 1/5 : create folders
 ---> done
Step 2/5 : write settings
 ---> done
Step 3/5 : restore packages
 Retrying (1/3) https://pkgs.heron.example/index.json - The operation timed out
 Retrying (3/3) https://pkgs.heron.example/index.json - The operation timed out
 ---> failed
Provisioning stopped at step 3
`},
	{name: "a record of a shell's error", class: "permission elevation registry", subject: `HKLM:\SOFTWARE\Heron|HKEY_LOCAL_MACHINE\SOFTWARE\Heron|HKLM\SOFTWARE\Heron`, action: "Set-ItemProperty|registry", log: `
PS C:\Deploy> .\Install-Heron.ps1
Heron Toolkit 2.0
Copying files ... done
Writing registry ...
Set-ItemProperty : Requested registry access is not allowed.
At C:\Deploy\Install-Heron.ps1:41 char:5
+     Set-ItemProperty -Path 'HKLM:\SOFTWARE\Heron' -Name 'Path' -Value $t
+     ~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~
    + CategoryInfo          : PermissionDenied: (HKEY_LOCAL_MACHINE\SOFTWARE\Heron:String) [Set-ItemProperty], SecurityException
    + FullyQualifiedErrorId : System.Security.SecurityException,Microsoft.PowerShell.Commands.SetItemPropertyCommand
Installation failed.
`},
	{name: "a trace with a second one behind it", class: "prerequisite", action: "self test|self-test|import", log: `
2026-04-12 08:31:07,101 INFO  Bittern Lab 3.2 post-install
2026-04-12 08:31:07,310 INFO  unpacking wheels
2026-04-12 08:31:09,522 INFO  self test
2026-04-12 08:31:09,911 ERROR self test failed
Traceback (most recent call last):
  File "C:\Program Files\Bittern\selftest.py", line 12, in <module>
    import bittern_core
  File "C:\Program Files\Bittern\bittern_core\__init__.py", line 3, in <module>
    from . import _native
ImportError: DLL load failed while importing _native: The specified module could not be found.

During handling of the above exception, another exception occurred:

Traceback (most recent call last):
  File "C:\Program Files\Bittern\selftest.py", line 15, in <module>
    raise SystemExit("numpy could not be used")
SystemExit: numpy could not be used
2026-04-12 08:31:09,915 ERROR post-install ended with exit code 1
`},
	{name: "an aggregate of exceptions", class: "permission", subject: `C:\Program Files\Corncrake\addin.manifest`, action: "WriteManifest|Manifest", log: `
[2026-04-12 08:31:07] INFO  Corncrake Office Add-in 4.0.1 installer
[2026-04-12 08:31:08] INFO  WriteManifest
[2026-04-12 08:31:08] ERROR Unhandled exception. System.AggregateException: One or more errors occurred. (Access to the path 'C:\Program Files\Corncrake\addin.manifest' is denied.)
 ---> System.UnauthorizedAccessException: Access to the path 'C:\Program Files\Corncrake\addin.manifest' is denied.
   at Microsoft.Win32.SafeHandles.SafeFileHandle.CreateFile(String fullPath)
   at Corncrake.Setup.ManifestWriter.Write() in D:\build\ManifestWriter.cs:line 88
   --- End of inner exception stack trace ---
   at Corncrake.Setup.Program.Main(String[] args)
[2026-04-12 08:31:08] INFO  exit code 3
`},
	{name: "a run told as one document", class: "space", subject: `E:|E:\`, action: "extract-library", log: `
{
 "app": "Lapwing Studio",
 "version": "5.0.3",
 "run": {
  "started": "2026-04-12T08:31:07Z",
  "steps": [
   {
    "name": "check-system",
    "result": "ok",
    "ms": 120
   },
   {
    "name": "extract-library",
    "result": "error",
    "ms": 88122,
    "error": {
     "code": "ENOSPC",
     "path": "E:\\Lapwing\\lib\\pads.bin",
     "message": "no space left on device, write"
    }
   },
   {
    "name": "finish",
    "result": "skipped"
   }
  ],
  "result": "failed",
  "exitCode": 9
 }
}`},
	{name: "a report in sections", class: "service", subject: "SandTime", action: "StartService|Step4|Start service", log: `
[Setup]
Product=Sandpiper Time
Version=2.4
Started=2026-04-12 08:31:07

[Step1]
Name=Copy files
Result=ok

[Step2]
Name=Write settings
Result=ok

[Step4]
Name=Start service
Service=SandTime
Error=1069
Result=failed

[End]
Result=failed
Code=4
`},
	{name: "a second attempt that worked", outcome: story.Succeeded, log: `
08:31:07 Dotterel Sync 1.8 setup, attempt 1
08:31:09 ERROR could not stop DotterelSvc (1061), setup failed
08:36:12 Dotterel Sync 1.8 setup, attempt 2
08:36:13 service stopped
08:36:20 files copied
08:36:21 service started
08:36:21 setup completed successfully
`},
	{name: "a compiler that PATH lacks", class: "path prerequisite custom-action", subject: "nmake", action: "Compiling driver shim|driver shim", exit: 9009, log: `
Whimbrel Build 1.1 install.cmd
Copying payload
        14 file(s) copied.
Compiling driver shim
'nmake' is not recognized as an internal or external command,
operable program or batch file.
ERRORLEVEL=9009
install.cmd failed
`},
	{name: "the second package of three", class: "busy", action: "Ptarmigan Core|core.msi|package 2 of 3", exit: 1618, log: `
2026-04-12 08:31:07 Ptarmigan Suite 6.2 - 3 packages
2026-04-12 08:31:07 package 1 of 3: Ptarmigan Runtime
2026-04-12 08:31:21   msiexec exit code 0
2026-04-12 08:31:21 package 2 of 3: Ptarmigan Core
2026-04-12 08:31:22   msiexec exit code 1618
2026-04-12 08:31:22 suite setup ends with 1618
`},
}
