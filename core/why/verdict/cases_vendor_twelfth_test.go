package verdict

import (
	"encoding/json"
	"fmt"
	"time"
)

func init() {
	short := map[byte]string{'D': "DBG", 'I': "INF", 'W': "WRN", 'E': "ERR"}
	words := map[byte]string{'D': "debug", 'I': "info", 'W': "warning", 'E': "error"}
	large := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARN", 'E': "ERROR"}
	prefix := map[byte]string{'W': "WARNING: ", 'E': "ERROR: "}
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"offset": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s+02:00 [%s] (%s) %s", at.Format("2006-01-02T15:04:05.000"), short[level], part, text)
		},
		"cells3": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("%s\t%s\t%s", at.Format("15:04:05.000"), part, text)
		},
		"dotted keys": func(at time.Time, level byte, part, text string) string {
			said, _ := json.Marshal(text) // a string can be written
			return fmt.Sprintf(`{"@timestamp":"%s","log.level":"%s","log.logger":"setup.%s","message":%s}`,
				at.Format("2006-01-02T15:04:05.000Z"), words[level], part, said)
		},
		"prefixed": func(_ time.Time, level byte, _, text string) string { return prefix[level] + text },
		"slashes": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("[%s] [%s/%s]: %s", at.Format("01/02/2006 15:04:05"), part, large[level], text)
		},
		"short years": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s %c:%s: %s", at.Format("02-01-06 15:04"), level, part, text)
		},
		"logfmt2": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf(`time="%s" level=%s msg="%s" component=%s`, at.Format("2006-01-02T15:04:05"), words[level], text, part)
		},
		"dated points": func(at time.Time, _ byte, _, text string) string {
			return at.Format("2006.01.02 15:04:05") + ": " + text
		},
		"asctime": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("%s %s: %s", at.Format(time.ANSIC), part, text)
		},
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// A twelfth set of made-up setups.
var twelfthVendors = []told{
	{name: "a runtime whose setup fails", layout: "offset", class: "prerequisite",
		subject: "WebRuntimeSetup.exe|web view runtime", action: "runtime|starting WebRuntimeSetup.exe|WebRuntimeSetup.exe", lines: `
		I main Lupinfield CAD 2026.1 installer session 7714
		#
		I runtime web view runtime: not installed
		I runtime starting WebRuntimeSetup.exe /silent /install
		W runtime WebRuntimeSetup.exe returned 0x80040C01
		E runtime web view runtime could not be installed
		E main session 7714 ended: failure`},
	{name: "a spooler that is off", layout: "cells3", class: "service", subject: "Spooler|Foxtail Receipt", exit: 1722, lines: `
		I setup Foxtail Till 4.4 Setup log opened
		#
		I printers adding printer Foxtail Receipt
		I printers AddPrinter: The RPC server is unavailable. (1722)
		I printers service Spooler is stopped, start type disabled
		I setup Setup is leaving with 1722`},
	{name: "a cloud folder", layout: "prefixed", class: "path source service condition permission network", exit: 362, lines: `
		I x Installing Teasel Reader 3.3
		#
		I x Checking C:\Users\ivo\Cloud of Brine\Documents
		E x The cloud file provider is not running.
		W x 'C:\Users\ivo\Cloud of Brine\Documents\Teasel' could not be created
		E x Installation of Teasel Reader did not complete (362)`},
	{name: "a processor that lacks instructions", layout: "slashes", class: "platform condition",
		action: "cpu|checking instruction sets", exit: 14, lines: `
		I main Burdock Lab 2.0 setup
		#
		I cpu checking instruction sets
		D cpu SSE4.2 yes, AVX no
		E cpu this build needs AVX
		E main setup stopped, 14`},
	{name: "a service that is too slow, in German", layout: "short years", class: "service prerequisite custom-action",
		subject: "SchafgarbeSync|sync.core", action: "dienst|Dienst SchafgarbeSync wird gestartet", lines: `
		I haupt Schafgarbe Praxis 11.2 Installation
		#
		I dienst Dienst SchafgarbeSync wird gestartet
		W dienst Start dauert ungewöhnlich lange (30 s)
		E dienst Fehler 1053: Der Dienst antwortete nicht rechtzeitig auf die Start- oder Steuerungsanforderung.
		D dienst Ereignis 1026: System.IO.FileLoadException: sync.core, Version=4.0.0.0
		E haupt Installation fehlgeschlagen`},
	{name: "a firewall that is off", layout: "logfmt2", class: "service policy custom-action path",
		subject: "MpsSvc|netsh|teazle-agent-in", exit: 1, lines: `
		I boot teazle-agent 0.44.1 install begin
		#
		I fw adding rule teazle-agent-in
		E fw netsh: The following command was not found: advfirewall firewall add rule.
		D fw MpsSvc: STOPPED (disabled by policy)
		E boot install aborted: exit status 1`},
	{name: "a driver of the other width", layout: "asctime", class: "platform prerequisite registry", exit: 12, lines: `
		I setup Yarrow Accounts client 5.6 install
		#
		I odbc creating DSN YarrowLive (64-bit)
		W odbc SQLConfigDataSource: component not found in the registry
		D odbc drivers present: SQL Server (32-bit only)
		E odbc DSN not created
		I setup end, status 12`},
	{name: "a filter that opens what is sealed", layout: "slashes", class: "network security-software policy",
		subject: "cdn.comfrey.example|https://cdn.comfrey.example/7.0/core.zip|Brine Web Filter CA", action: "dl|GET", lines: `
		I main Comfrey Invoicing 7 Setup
		#
		I dl GET https://cdn.comfrey.example/7.0/core.zip
		E dl javax.net.ssl.SSLHandshakeException: PKIX path building failed: unable to find valid certification path to requested target
		D dl issuer: CN=Brine Web Filter CA
		E main setup failed`},
	{name: "a write filter", layout: "cells3", class: "condition permission policy path",
		subject: `C:\Windows\twain_32\Mallow|mallow.ds|unified write filter`, action: "twain|copying mallow.ds", exit: 19, lines: `
		I setup Mallow Scan 3.2 Setup
		#
		I twain copying mallow.ds to C:\Windows\twain_32\Mallow
		I twain mallow.ds: 19 kept, the file is write-protected
		I twain volume C: mounted read-only? no
		I twain unified write filter is on
		I setup Setup ends with 19`},
	{name: "settings of another type", layout: "dotted keys", class: "corrupt custom-action leftover",
		action: "migrate|migrating profile", exit: 65, lines: `
		I main Vervain Notes 2.0.3 setup
		#
		I migrate migrating profile
		E migrate json: cannot unmarshal string into Go value of type int (settings.json, key window.width)
		W main migration failed, profile kept
		I main writing version
		E main exit 65`},
	{name: "roots that only policy adds", layout: "short years", class: "policy permission elevation",
		subject: `HKLM\SOFTWARE\Policies\Microsoft\SystemCertificates\Root\ProtectedRoots|hyssop-root.cer|LocalMachine\Root`, exit: 5, lines: `
		I main Hyssop Warehouse 8.8 setup
		#
		I cert importing hyssop-root.cer into LocalMachine\Root
		E cert certutil: -addstore command FAILED: 0x80070005 (WIN32: 5 ERROR_ACCESS_DENIED)
		D cert key HKLM\SOFTWARE\Policies\Microsoft\SystemCertificates\Root\ProtectedRoots Flags=1
		E main setup stops: 5`},
	{name: "a folder that somebody looks at", layout: "logfmt2", class: "in-use",
		subject: `C:\Program Files\Borage\app|explorer.exe|cmd.exe`, action: "swap|rename", lines: `
		I boot borage-sync 3.1 upgrade from 3.0
		#
		I swap rename C:\Program Files\Borage\app -> C:\Program Files\Borage\app.old
		E swap rename failed: The process cannot access the file because it is being used by another process.
		D swap handles: explorer.exe (preview), cwd of cmd.exe (7716)
		W boot rolling back upgrade
		E boot upgrade failed`},
	{name: "too large for 32 bits", layout: "prefixed", class: "platform condition space corrupt unknown",
		subject: "voices.cab", exit: 8, lines: `
		I x Samphire Hill Timetables 2.2 Setup
		#
		I x Out of memory while expanding voices.cab (needs 3.1 GB address space)
		W x This is the 32-bit edition of the setup
		E x Setup was terminated, error 8`},
	{name: "a computer that is not on the list, in French", layout: "dated points", class: "condition policy permission",
		subject: `C:\ProgramData\Mauve\site.ini|site.ini|LYON-22`, exit: 77, lines: `
		I x Installation de Mauve Cabinet 4.1
		#
		I x Lecture de C:\ProgramData\Mauve\site.ini, section [Postes]
		I x Poste LYON-22 non autorisé par site.ini
		I x L'installation s'arrête, résultat 77`},
	{name: "a temporary folder on a drive that is gone", layout: "slashes", class: "path",
		subject: `R:\Temp|TEMP|R:`, action: "path", exit: 3, lines: `
		I main Betony Fleet 12.0.1 setup
		#
		I path TEMP=R:\Temp
		E path java.io.IOException: The system cannot find the path specified
		D path java.io.tmpdir=R:\Temp\
		E main Setup failed to start its engine, exit code 3`},
	{name: "an object that is not registered", layout: "offset", class: "registry prerequisite leftover platform",
		subject: `{0A29FF9E-7F9C-4437-8B11-F424491E3931}|C:\Program Files (x86)\Clary\old\link.dll|link.dll`, action: "com|CoCreateInstance", lines: `
		I main Clary Ledger 6.0 setup
		#
		I com CoCreateInstance {0A29FF9E-7F9C-4437-8B11-F424491E3931}
		E com 0x80040154 Class not registered
		D com InprocServer32 = C:\Program Files (x86)\Clary\old\link.dll
		E main setup failed: 0x80040154`},
	{name: "a version that is listed and not there", layout: "asctime", class: "leftover registry",
		subject: `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\Lovage2|{B1D0A5C4-1F10-4D0C-9E6A-77A1C0FE2210}|Lovage Payroll 2`, action: "old|removing Lovage Payroll 2|removing", exit: 1605, lines: `
		I setup Lovage Payroll 3 uninstall then install
		#
		I old removing Lovage Payroll 2
		I old msiexec /x {B1D0A5C4-1F10-4D0C-9E6A-77A1C0FE2210} /qn -> 1605
		I old Lovage Payroll 2 still listed, HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\Lovage2
		E old cannot remove the old version
		I setup setup quits (1605)`},
	{name: "a quota", layout: "logfmt2", class: "space condition policy",
		subject: `C:\ProgramData\chervil\layers\a1f0|svc-deploy|C:`, action: "disk|write|deploy", exit: 1816, lines: `
		I boot chervil 2.7.0 deploy
		#
		I disk quota of user svc-deploy: 2000 MB, used 1998 MB
		E disk write C:\ProgramData\chervil\layers\a1f0: There is not enough quota available to process this command. (1816)
		E boot deploy failed (1816)`},
	{name: "terms that nobody accepted", layout: "cells3", class: "command-line",
		subject: `/accepteula|licence|C:\deploy\dittany.xml`, action: `setup|reading C:\deploy\dittany.xml`, exit: 1639, lines: `
		I setup Dittany Viewer 5 Setup (quiet)
		#
		I setup reading C:\deploy\dittany.xml
		I setup element <licence> is empty
		I setup /accepteula not given
		I setup the licence terms must be accepted
		I setup Setup is leaving with 1639`},
	{name: "a file that is called a virus", layout: "short years", class: "security-software",
		subject: "angelica.exe|Harbour Shield", exit: 225, lines: `
		I main Angelica Suite 10 setup
		#
		I av real-time protection: on (Harbour Shield)
		I files angelica.exe copied
		E files angelica.exe: Operation did not complete successfully because the file contains a virus or potentially unwanted software. (225)
		E main setup aborted, 225`},
	{name: "a restart that is still due", layout: "dated points", class: "busy condition",
		subject: "KB5034441|PendingFileRenameOperations", exit: 3017, lines: `
		I x Rue Street Planner 2 setup
		#
		I x Restart Manager: session 1, 0 files in use
		I x removing 2 temporary folders
		I x a reboot is still pending from KB5034441 (PendingFileRenameOperations)
		I x please restart and run setup once more
		I x Setup exits: 3017`},
}
