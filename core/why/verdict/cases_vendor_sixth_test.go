package verdict

import "hollowkey/core/logs/story"

// A sixth set, written after what the fifth taught was in place.
var sixthVendors = []told{
	{name: "an account that may read only", layout: "bars", class: "permission", subject: `D:\Vault\store|svc_vault|ELLERY\svc_vault`, action: "prepare store|store", lines: `
		I setup Cinder Vault 6.0.2 (build 611) - new installation
		#
		I setup prepare store in D:\Vault\store
		D acl access test for ELLERY\svc_vault: read yes, write no
		E setup prepare store: cannot create header (5)
		#
		E setup Cinder Vault was not installed`},
	{name: "a DLL that a DLL needs", layout: "sincestart", class: "prerequisite", subject: "concrt140.dll|fmscan.dll", action: "register fmscan.dll|register", lines: `
		I main Fenmark Scanner Suite 2.8 setup
		#
		D main imports of fmscan.dll: kernel32.dll ok, concrt140.dll NOT FOUND
		I main register fmscan.dll
		E main register fmscan.dll: 126
		#
		E main setup ended with result 1`},
	{name: "a proxy that asks who it is, found by script", layout: "units", class: "network", subject: "api.skerry.example", lines: `
		I main Skerry Cloud Agent 1.20.1 bootstrap
		#
		D http CONNECT api.skerry.example:443 via wpad proxy px2.ellery.example:3128
		W http proxy answered 407
		E enroll enroll: giving up after 4 tries
		#
		E main bootstrap unsuccessful`},
	{name: "the engine works on something else", layout: "figures", class: "busy", action: "CheckInstaller", lines: `
		I boot Tarn Reports 12 Setup
		#
		I phase CheckInstaller
		W phase msiexec.exe (pid 6120) is working on another package since 08:02
		E phase CheckInstaller: waited 600 s, giving up
		#
		E boot Setup ended, code 30`},
	{name: "German, a sum that deviates", layout: "semicolons", class: "corrupt", subject: "Daten2.pak", action: "Archiv prüfen|Prüfen|Archiv", lines: `
		I Start Deichwart 4.2 Installation
		#
		I Schritt Archiv prüfen: Daten1.pak
		I Schritt Archiv prüfen: Daten2.pak
		E Schritt Archiv prüfen: Prüfsumme von Daten2.pak weicht ab
		#
		E Start Installation nicht durchgeführt`},
	{name: "a service that hangs at its start, by number", layout: "signs", class: "service", subject: "BeaconRelay", action: "svc start|start service|start|svc", lines: `
		I main Beacon Relay 3.3.0 installer
		#
		I svc svc start BeaconRelay
		D svc state START_PENDING, checkpoint 0, wait hint 0
		D svc state START_PENDING, checkpoint 0, wait hint 0
		E svc svc start BeaconRelay -> 1053
		E main unwinding 14 operations
		#
		E main Beacon Relay 3.3.0: not installed`},
	{name: "room that ran out while unpacking", layout: "american", class: "space", subject: `C:|C:\`, lines: `
		I main Dunlin Plan Viewer 2026 SP1 Setup Log
		#
		I main Extracting data package 3 of 9
		I main Only 118 MB left on C:
		I main Extracting data package 4 of 9
		I main WriteFile failed, GetLastError=112
		#
		I main Installation will be rolled back`},
	{name: "a build that is too old, on two lines", layout: "four", class: "condition platform", action: "gate|requirements", lines: `
		I main Sandreed Field Kit 8.0 setup
		#
		D gate build on this computer: 19045
		D gate build wanted: 22621 and up
		E gate gate closed
		#
		E main setup quits`},
	{name: "a driver still loaded", layout: "filled", class: "in-use", subject: "gannet.sys|gannetd.exe", action: "swap driver|swap", lines: `
		I main Gannet Dictation 5.1 updater
		#
		I drv swap driver: stop gannet
		W drv swap driver: gannet.sys still loaded, 2 handles open by gannetd.exe
		E drv swap driver: cannot replace file
		#
		E main updater result: 11`},
	{name: "an argument that is no number", layout: "arrows", class: "command-line", subject: "SERVERPORT|SERVERPORT=80a|80a", lines: `
		I main Avocet Print Server 2.1 unattended setup
		#
		I main read arguments: SERVERPORT=80a LANGUAGE=en
		E main SERVERPORT: "80a" is not a number
		#
		E main unattended setup stopped before anything was changed`},
	{name: "a helper that a group policy blocks", layout: "iso", class: "policy", subject: `quaysync.exe|C:\Users\tpellow\AppData\Local\Temp\qs\quaysync.exe`, action: "LaunchHelper|launch helper", lines: `
		I setup Quayline Sync 3.1.0 setup
		#
		I stage >> LaunchHelper
		E proc CreateProcess C:\Users\tpellow\AppData\Local\Temp\qs\quaysync.exe: 1260
		E stage << LaunchHelper: not run
		#
		E setup Quayline Sync 3.1.0: setup has been undone`},
	{name: "a limited token", layout: "threads", class: "elevation permission", subject: `C:\Program Files\Turnstone`, action: "CreateTarget|create target", lines: `
		I Main Turnstone Codec Pack 1.9 installer
		#
		D Main token: S-1-5-21-77-1101, elevation type limited
		I Main CreateTarget
		E Main CreateDirectory C:\Program Files\Turnstone = 5
		E Main CreateTarget failed
		#
		E Main Turnstone Codec Pack could not be installed`},
	{name: "a value of the wrong type", layout: "tabcells", class: "registry", subject: `HKLM\SOFTWARE\Curlew\Forms\Paths|Templates|HKLM\SOFTWARE\Curlew\Forms`, action: "read paths|paths", lines: `
		I main Curlew Forms 10.4 maintenance
		#
		I act read paths
		W reg HKLM\SOFTWARE\Curlew\Forms\Paths: value Templates has type REG_DWORD, REG_SZ expected
		E act read paths: cannot go on
		#
		E main maintenance failed`},
	{name: "a share's name", layout: "dashes", class: "source network path", subject: `\\ELLERY-FS2\deploy$\wharfage\client.cab`, action: "copy_payload|copy payload", lines: `
		I installer Wharfage Client 4.4 deployment
		#
		I step copy_payload: \\ELLERY-FS2\deploy$\wharfage\client.cab
		E step copy_payload: [WinError 67] The network name cannot be found
		#
		E installer deployment terminated`},
	{name: "a library for another machine", layout: "twolines", class: "platform", lines: `
		I main Anchor Bridge 3.0 setup
		#
		I native load native library anchorjni.dll
		E native java.lang.UnsatisfiedLinkError: Can't load AMD 64-bit .dll on a IA 32-bit platform
		#
		E main Setup ended unsuccessfully`},
	{name: "a file that is gone at once", layout: "ticks", class: "security-software", subject: `windrow-hook.node|C:\Program Files\windrow\windrow-hook.node`, lines: `
		I main windrow-agent install 0.21.0
		#
		I main copy windrow-hook.node
		I main verify files
		E main C:\Program Files\windrow\windrow-hook.node is gone (it was there 2 s ago)
		#
		E main install script exited with status 3`},
	{name: "a service marked for deletion, by number", layout: "colons", class: "service leftover", subject: "MoorlineQueue", action: "recreate service|service", lines: `
		I main Moorline Server setup 11.1
		#
		I job job recreate service
		D svc DeleteService(MoorlineQueue) ok
		E svc CreateService(MoorlineQueue): 1072
		E job job recreate service aborted
		#
		E main Moorline Server setup 11.1 could not finish`},
	{name: "declined at the licence", layout: "hex", outcome: story.Cancelled, class: "cancelled", lines: `
		I main Foghorn Control Suite 6.1 installer on ELLERY-D14
		#
		I main licence page shown
		I main licence page: declined
		I main cancelled at the licence page
		#
		I main Nothing was installed`},
	{name: "a cache that was rebuilt", layout: "envelope", outcome: story.Succeeded, lines: `
		I main Ropewalk Planner installer 4.1.0 (silent)
		#
		W net update check: 503 from updates.ropewalk.example
		E tile thumbnail cache: access denied, rebuilding
		I tile thumbnail cache rebuilt
		#
		I main Installation finished. Code 0`},
	{name: "a drive that is none", layout: "levelfirst", class: "path source", subject: `Q:|Q:\Ledger|Q:\`, action: "prepare data folder|data folder", lines: `
		I main Saltpan Ledger Setup 10.1.0
		#
		I main prepare data folder Q:\Ledger
		D main GetDriveType(Q:) = 1
		E main prepare data folder: no root directory
		#
		E main Setup could not continue`},
	{name: "a configurator that says nothing", layout: "status", class: "custom-action unknown", subject: "nhgcfg.exe", action: "configure|task configure|run-configurator", lines: `
		I main Net Harbour Gateway 4.0 installation
		#
		I task task run-configurator
		E proc nhgcfg.exe --first-run returned 70, no output
		E task task run-configurator: stopped
		#
		E main setup failed, see support code NHG-55`},
	{name: "a feature without its source", layout: "glog", class: "component-store", action: "enable_feature|enable feature", lines: `
		I main Fellwater Web Parts 2.0
		#
		I feat enable_feature IIS-ASPNET45
		E feat DismEnableFeature(IIS-ASPNET45) 0x800f081f
		E feat enable_feature: unsuccessful
		#
		E main setup cannot continue`},
	{name: "a name of the OS's headers", layout: "stars", class: "network", subject: "wx.helm.example", action: "fetch forecast index|fetch", lines: `
		I main Helm Weather 3.0 installation
		#
		I main fetch forecast index: http://wx.helm.example/index.bin
		I main fetch forecast index: WSAHOST_NOT_FOUND
		I main fetch forecast index: WSAHOST_NOT_FOUND
		#
		I main installation broken off`},
	{name: "a runtime, least and found", layout: "protocol", class: "prerequisite", subject: "WebView2|Edge WebView2 Runtime|WebView2 Runtime|webview2", action: "probe runtime|probe", lines: `
		I kelp Kelp Reader 2.2 install begins
		#
		I kelp probe runtime webview2: least 120, found none
		E kelp probe runtime: not satisfied
		#
		E kelp install of Kelp Reader ended: 7`},
	{name: "Portuguese, held by another process", layout: "quoted", class: "in-use", subject: `diario.db|C:\ProgramData\Porto\diario.db`, action: "Atualizar base|base", lines: `
		I main Porto Diário 3.1 - atualização
		#
		I passo Passo 3: Atualizar base
		E db O processo não pode acessar o arquivo C:\ProgramData\Porto\diario.db porque ele está sendo usado por outro processo
		E passo Passo 3 não concluído
		#
		E main A atualização falhou`},
	{name: "a chain of certificates in Java", layout: "servlet", class: "network", subject: "repo.berthing.example", action: "resolveBundles|resolve bundles", lines: `
		I Installer.main Berthing Server 5.6.0
		#
		I Phase.begin resolveBundles
		E Repo.fetch repo.berthing.example: sun.security.validator.ValidatorException: PKIX path building failed
		E Phase.end resolveBundles
		#
		E Installer.main Installation did not succeed`},
	{name: "devices that a policy denies", layout: "relative", class: "policy elevation permission", subject: `lk_stor.inf|HKLM\SOFTWARE\Policies\Microsoft\Windows\DeviceInstall\Restrictions`, action: "install-device|device", lines: `
		I main Lanternkit USB Tools 3.0 setup
		#
		D pol DenyDeviceIDs has 4 entries
		I step install-device lk_stor.inf begin
		E drv UpdateDriver lk_stor.inf: 0xE0000248
		E step install-device end: error
		#
		E main setup ended with errors`},
	{name: "an account that is no account for services", layout: "iso", class: "service", subject: "QuayIndex|NTDS|svc-quay|LocalService", action: "InstallServices|install services", lines: `
		I setup Quayline Atlas Server 7.2.0 setup, build 7204
		#
		I stage >> stage InstallServices
		E svc CreateService QuayIndex as ELLERY\svc-quay -> 1057
		E stage << stage InstallServices failed: result 22
		#
		E setup Quayline Atlas Server 7.2.0 was not set up (22)`},
	{name: "German, room wanted and free", layout: "semicolons", class: "space", subject: `C:|C:\`, action: "Platz prüfen|Platz", lines: `
		I Start Deichwart 4.3 Installation
		#
		I Schritt Platz prüfen: benötigt 18,4 GB
		I Schritt Platz prüfen: frei auf C: 9,1 GB
		E Schritt Platz prüfen: Bedingung nicht erfüllt
		#
		E Start Installation nicht durchgeführt`},
	{name: "the old version's package is gone", layout: "american", class: "cached-package source", lines: `
		I main Dunlin Plan Viewer 2026 SP2 Setup Log
		#
		I main Removing previous version 2026 SP1
		I main msiexec /x {4E0A} returned 1612
		#
		I main Previous version could not be removed, setup stops`},
	{name: "a schema from the future", layout: "bars", class: "database corrupt custom-action", action: "upgrade schema|schema", lines: `
		I setup Cinder Vault 6.1.0 (build 640) - upgrade
		#
		I setup upgrade schema of D:\Vault\store\vault.db
		D db schema 41, this build knows up to 39
		E setup upgrade schema: refused
		#
		E setup Cinder Vault was not upgraded`},
	{name: "a restart that an update wants", layout: "threads", class: "busy", action: "CheckReboot|reboot", lines: `
		I Main Gullwatch Server 3.4.0 installer
		#
		I Main CheckReboot
		D Reg HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\WindowsUpdate\Auto Update\RebootRequired exists
		E Main CheckReboot: machine is not in a state to be changed
		#
		E Main Gullwatch Server could not be installed`},
	{name: "a service's key that may not be written", layout: "signs", class: "permission", subject: `HKLM\SYSTEM\CurrentControlSet\Services\BeaconRelay\Parameters`, action: "write parameters|parameters", lines: `
		I main Beacon Relay 3.4.0 installer
		#
		I reg write parameters
		E reg RegSetValueEx HKLM\SYSTEM\CurrentControlSet\Services\BeaconRelay\Parameters\Port -> 5
		E reg write parameters: failed
		#
		E main Beacon Relay 3.4.0: not installed`},
	{name: "a file for the next boot", layout: "sincestart", outcome: story.Restart, lines: `
		I main Fenmark Scanner Suite 2.9 setup
		#
		W main fmscan.sys in use, will be replaced at next boot
		I main all components installed
		#
		I main setup ended with result 3010`},
	{name: "an archive without its end", layout: "tabcells", class: "corrupt network", subject: `forms.zip|C:\Temp\curlew\forms.zip`, action: "unpack forms.zip|unpack", lines: `
		I main Curlew Forms 10.5 setup
		#
		I act unpack forms.zip
		E zip end of central directory record not found
		E act unpack forms.zip: aborted
		#
		E main setup failed`},
	{name: "a sign-in page in place of a package", layout: "envelope", class: "network", subject: "cdn.ropewalk.example", action: "download-assets|download assets", lines: `
		I main Ropewalk Planner installer 4.2.0 (silent)
		#
		I dl download-assets https://cdn.ropewalk.example/a.pak
		D dl content-type text/html, 4 211 bytes, title Sign in to Ellery Guest Wi-Fi
		E dl download-assets: not a package
		#
		E main Installation stopped. Code 6`},
	{name: "an add-on to an older base", layout: "four", class: "condition leftover prerequisite", action: "find base|base", lines: `
		I main Sandreed Field Kit 8.0 add-on
		#
		I base find base: Sandreed Base 7.1
		E base find base: add-on wants Sandreed Base 8.0 or newer
		#
		E main add-on quits`},
	{name: "silence in the middle", layout: "filled", outcome: story.Unfinished, lines: `
		I main Gannet Dictation 5.2 updater
		#
		I model train acoustic model: pass 1 of 3
		#
		I model train acoustic model: pass 2 of 3`},
	{name: "the spooler is off", layout: "arrows", class: "service prerequisite", subject: "Spooler|Print Spooler", action: "add printer port|printer port", lines: `
		I main Avocet Print Server 2.2 setup
		#
		I main add printer port AVOCET1
		D main QueryServiceConfig(Spooler): start type 4
		E main AddPort: StartService(Spooler) gave 1058
		E main add printer port AVOCET1 did not work
		#
		E main setup stopped`},
	{name: "a tool that PATH does not find", layout: "figures", class: "path", subject: "sqlcmd|sqlcmd.exe", action: "CreateSchema|create schema", lines: `
		I boot Tarn Reports 12.1 Setup
		#
		I phase CreateSchema
		E phase CreateProcess(sqlcmd -i schema.sql): 2
		E phase CreateSchema: 1 of 1 statements files not run
		#
		E boot Setup ended, code 31`},
}
