package verdict

import (
	"encoding/json"
	"fmt"
	"time"

	"hollowkey/core/logs/story"
)

func init() {
	words := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARNING", 'E': "ERROR"}
	numbers := map[byte]int{'D': 20, 'I': 30, 'W': 40, 'E': 50}
	spoken := map[byte]string{'D': "Verbose", 'I': "Information", 'W': "Warning", 'E': "Error"}
	signs := map[byte]string{'D': "  ", 'I': "  ", 'W': "? ", 'E': "! "}
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"signed dashes": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s [%-5s] %s - %s", at.Format("2006-01-02 15:04:05,000"), words[level], part, text)
		},
		"pino": func(at time.Time, level byte, part, text string) string {
			said, _ := json.Marshal(text) // a string can be written
			return fmt.Sprintf(`{"level":%d,"time":%d,"pid":4120,"name":"%s","msg":%s}`, numbers[level], at.UnixMilli(), part, said)
		},
		"daemon": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s DOCK-07 %s[2210]: %s: %s", at.Format("Jan 02 15:04:05"), part, spoken[level], text)
		},
		"bars": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("%s %10s | %s", at.Format("15:04:05"), part, text)
		},
		"lettered": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%c %s %s: %s", level, at.Format("2006/01/02 15:04:05"), part, text)
		},
		"tabbed": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s\t%s\t%s\t%s", at.Format("02/01/2006 15:04:05"), spoken[level], part, text)
		},
		"spoken": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%sZ %-7s %s %s", at.Format("2006-01-02T15:04:05.000"), words[level], part, text)
		},
		"lines only": func(_ time.Time, _ byte, _, text string) string { return text },
		"angles": func(at time.Time, level byte, _, text string) string {
			return fmt.Sprintf("<%s> %s%s", at.Format("15:04:05"), signs[level], text)
		},
		"functions": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s | %-8s | %s:run:%d - %s", at.Format("2006-01-02 15:04:05.000"), words[level], part, len(text), text)
		},
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// An eleventh set of made-up setups: what setups usually break of, in usual
// forms.
var eleventhVendors = []told{
	{name: "a runtime that is too old", layout: "signed dashes", class: "prerequisite command-line",
		subject: `Nautic Runtime 4.8|Nautic Runtime|HKLM\SOFTWARE\Nautic\Runtime\Release|/noprereq`, action: "Prereq|looking for Nautic Runtime", exit: 5100, lines: `
		I Bootstrap Wheatear Studio 5.3.0 installer started, user DOCK\lrose
		I Bootstrap mode: per machine
		#
		I Prereq looking for Nautic Runtime 4.8 or later
		D Prereq HKLM\SOFTWARE\Nautic\Runtime\Release = 394802
		W Prereq found 4.6.2
		#
		E Prereq Nautic Runtime 4.8 is required but not present, and the bundled installer was skipped by /noprereq
		I Bootstrap Installer finished with exit code 5100`},
	{name: "a service whose account may not", layout: "pino", class: "service permission policy",
		subject: `PipitSync|.\svc_pipit|svc_pipit`, action: "service|StartService|creating service", lines: `
		I installer starting install of Pipit Invoices 2.9
		#
		E telemetry request failed: getaddrinfo ENOTFOUND stats.pipit.example
		#
		I service creating service PipitSync
		E service StartService PipitSync failed: 1069 The service did not start due to a logon failure.
		I service account .\svc_pipit
		W service rolling back service
		I installer uninstalling partially installed files
		E installer install failed`},
	{name: "a clock of seven years ago", layout: "daemon", class: "network condition policy",
		subject: "repo.osier.example|https://repo.osier.example/osier-desk-11.2.pkg|mirror2.osier.example|https://mirror2.osier.example/osier-desk-11.2.pkg", action: "transaction|pkgd|GET|install", lines: `
		I pkgd transaction begin: install osier-desk 11.2
		#
		E pkgd GET https://repo.osier.example/osier-desk-11.2.pkg: x509: certificate has expired or is not yet valid: current time 2019-01-02T00:14:07Z is before 2026-02-01T00:00:00Z
		W pkgd will try mirror 2
		E pkgd GET https://mirror2.osier.example/osier-desk-11.2.pkg: x509: certificate has expired or is not yet valid: current time 2019-01-02T00:14:09Z is before 2026-02-01T00:00:00Z
		E pkgd transaction failed: no usable mirror`},
	{name: "a program that runs at the till", layout: "bars", outcome: story.Cancelled, class: "in-use cancelled",
		subject: `C:\Program Files\Redstart\cashier.exe|cashier.exe`, action: "files", lines: `
		I setup Redstart Cashier 8 Setup
		I setup language: en, machine: TILL-3
		#
		I files C:\Program Files\Redstart\cashier.exe
		I files cannot overwrite cashier.exe: sharing violation
		I files held by: cashier.exe (pid 5012, session 1, user till)
		I files retry 1 of 3
		I files retry 2 of 3
		I files retry 3 of 3
		I setup user chose Abort
		I setup done, nothing installed (2)`},
	{name: "a drive that is not there", layout: "lettered", class: "path command-line",
		subject: `D:\Apps\Brambleby|D:|/DIR`, action: "CreateDirectory|creating|main", exit: 3, lines: `
		I main Brambleby Survey Tools 1.4 setup
		D main args: /S /DIR=D:\Apps\Brambleby
		#
		I main creating D:\Apps\Brambleby
		E main CreateDirectory: The system cannot find the path specified. (3)
		D main drives: C: (fixed) E: (cd-rom)
		E main setup aborted, code 3`},
	{name: "no licence left, in Spanish", layout: "tabbed", class: "condition busy network",
		subject: "lic01.oficina.example", action: "Licencias|comprobando clave", exit: 17, lines: `
		I Core Instalación de Avutarda Contable 6.1
		I Core usuario: OFICINA\pbravo
		#
		I Licencias comprobando clave
		W Licencias servidor de licencias lic01.oficina.example: 7 de 7 puestos ocupados
		E Licencias no hay puestos libres
		E Core La instalación no pudo completarse. Código 17`},
	{name: "a page of the proxy in place of a package", layout: "spoken", class: "corrupt network", lines: `
		I updater update Sandpiper Notes 3.2.0 -> 3.3.0
		#
		I updater downloaded 88123904 bytes
		D updater expected sha512 9f31ac…77, got 0b77e1…f2
		W updater proxy replied with content-type text/html
		E updater checksum mismatch, update discarded
		I updater update finished with status failed`},
	{name: "a folder of somebody who is gone", layout: "signed dashes", class: "permission elevation",
		subject: `C:\ProgramData\Turnpike`, action: "Acl|setting rights", exit: 1, lines: `
		I Setup Turnpike Route Planner 4.0 Setup starts
		#
		I Acl setting rights on C:\ProgramData\Turnpike for Users
		E Acl System.UnauthorizedAccessException: Attempted to perform an unauthorized operation.
		D Acl owner of C:\ProgramData\Turnpike is S-1-5-21-99-88-77-1004 (unknown)
		W Setup undoing
		I Setup exit code 1`},
	{name: "ports that are taken", layout: "angles", class: "condition busy in-use network service",
		subject: "8443|port 8443|8444|port 8444", exit: 98, lines: `
		I x Ortolan Archive Server 12, setup program
		#
		I x testing port 8443
		W x port 8443 is taken by process 4 (System)
		I x testing port 8444
		W x port 8444 is taken by process 4 (System)
		E x no free port between 8443 and 8444 for the web console
		E x setup ended, return value 98`},
	{name: "a command that PATH does not find", layout: "functions", class: "path condition",
		subject: "setx|PATH", action: "env|appending|setx", exit: 9009, lines: `
		I install Installing kittiwake-lab 0.9.4
		#
		D env PATH has 2311 characters
		I env appending C:\Program Files\Kittiwake\bin to PATH
		W env 'setx' is not recognized as an internal or external command, operable program or batch file.
		E env could not extend PATH
		D env PATH starts with C:\Tools;C:\Users\ng\AppData\Local;
		E install Installation of kittiwake-lab failed (exit status 9009)`},
	{name: "a service that waits to be deleted, in German", layout: "tabbed", class: "service leftover in-use",
		subject: "RohrdommelAgent|mmc.exe", action: "Dienst|CreateService", exit: 1072, lines: `
		I Kern Einrichtung von Rohrdommel Lager 3.8 beginnt
		#
		I Dienst Dienst RohrdommelAgent wird angelegt
		E Dienst CreateService: Der angegebene Dienst wurde zum Löschen markiert. (1072)
		D Dienst offene Handles: mmc.exe (3204)
		E Kern Einrichtung abgebrochen, Rückgabe 1072`},
	{name: "application control", layout: "pino", class: "policy security-software",
		subject: `C:\ProgramData\Bittern\stage\helper.exe|helper.exe`, action: "exec|spawn", exit: 126, lines: `
		I setup Bittern Remote 2.2 setup
		#
		I av checking for product list
		D policy application control policy is enforced, id A244
		W exec spawn C:\ProgramData\Bittern\stage\helper.exe -> EPERM
		D exec event 3077 was written by code integrity
		E setup helper could not be started
		I setup exit 126`},
	{name: "a console without stamps on an old OS", layout: "lines only", class: "platform condition", exit: 1, lines: `
		I x Pochard Accounts 2026 installer, build 4410
		I x OS: 10.0.17763, x64
		I x Minimum: 10.0.19041
		#
		I x Checking requirements again for the optional cloud part
		I x This version of the operating system is not supported.
		I x Finished, code 1.`},
	{name: "a full drive", layout: "daemon", class: "space",
		subject: "C:|/cache/smew/blob-77aa", action: "rollout|write|smiled|unpack", exit: 28, lines: `
		I smiled begin rollout package smew-viewer 1.0.19
		#
		E smiled write /cache/smew/blob-77aa: no space left on device
		I smiled free on C: 41 MB, needed 610 MB
		W smiled purge of old packages freed 12 MB
		E smiled rollout failed, exit 28`},
	{name: "an answer file that cannot be read", layout: "spoken", class: "command-line corrupt path",
		subject: `C:\deploy\teal\answers.json|answers.json`, exit: 64, lines: `
		I main Teal Signage Player 9 setup, unattended
		D main answers: C:\deploy\teal\answers.json
		#
		E main answers.json line 14: Unexpected token } in JSON at position 402
		W main going on with defaults
		I main target folder: (none)
		E main a target folder is required in unattended mode
		I main setup exits with 64`},
	{name: "a driver without a signature, in French", layout: "signed dashes", class: "policy driver corrupt platform custom-action",
		subject: "garg-usb.inf", action: "Pilote|ajout du pilote", exit: -536870353, lines: `
		I Updater Garganey Drawing: installation de la version 5.1
		#
		I Pilote ajout du pilote garg-usb.inf
		E Pilote Le fichier INF tiers ne contient pas d'informations de signature numérique. (0xE000022F)
		W Updater annulation des modifications
		E Updater échec de l'installation, code 0xE000022F`},
	{name: "a library that another one needs", layout: "functions", class: "prerequisite custom-action",
		subject: "MSVCR120.dll|shoveler.ocx", exit: 126, lines: `
		I setup Shoveler Print Queue 4 setup
		#
		I com registering shoveler.ocx
		E com DllRegisterServer in shoveler.ocx failed: The specified module could not be found. (126)
		D com imports: KERNEL32.dll, MSVCR120.dll (not found), USER32.dll
		E setup setup failed with 126`},
	{name: "a share that went away", layout: "bars", class: "source network",
		subject: `\\brine-fs1\soft$\gadwall\data1.cab|brine-fs1|data1.cab`, action: "source|opening", exit: 64, lines: `
		I setup Gadwall Weather Station setup 2.0
		#
		I source opening \\brine-fs1\soft$\gadwall\data1.cab
		I source The specified network name is no longer available.
		I source waiting 5 s
		I source opening \\brine-fs1\soft$\gadwall\data1.cab
		I source The specified network name is no longer available.
		I setup giving up (64)`},
	{name: "an uninstaller that is gone", layout: "angles", class: "leftover registry path",
		subject: `C:\Program Files\Whimbrel\Tax25\uninst.exe|uninst.exe|Whimbrel Tax 25`, exit: 70, lines: `
		I x Whimbrel Tax 26 installer
		#
		I x an installation of Whimbrel Tax 25 was found
		I x running C:\Program Files\Whimbrel\Tax25\uninst.exe /quiet
		E x C:\Program Files\Whimbrel\Tax25\uninst.exe does not exist
		E x the old version must be removed first
		E x installer closed, status 70`},
	{name: "a key that may not be opened", layout: "tabbed", class: "permission elevation registry",
		subject: `HKLM\SOFTWARE\Curlew\Billing`, action: "reg|RegOpenKeyEx|opening", exit: 5, lines: `
		I main Curlew Billing 3 Setup
		#
		I reg opening HKLM\SOFTWARE\Curlew\Billing for writing
		E reg RegOpenKeyEx returned 5
		W main changes are taken back
		I main setup result: 5`},
	{name: "a proxy that asks who one is", layout: "pino", class: "network policy", lines: `
		I app Turnstone Sync client update 8.0 -> 8.1
		#
		I net CONNECT proxy.brine.example:3128
		E net tunneling socket could not be established, statusCode=407
		W net NTLM offered, no credentials for service account
		E app update failed: net::ERR_TUNNEL_CONNECTION_FAILED`},
	{name: "another setup at work", layout: "lettered", class: "busy",
		subject: `Global\_MSIExecute|_MSIExecute`, action: "main|waiting for the installer mutex", exit: 1618, lines: `
		I main Knot Timesheets 1.1 setup
		#
		I main waiting for the installer mutex
		W main Global\_MSIExecute is owned
		W main still waiting (60 s)
		W main still waiting (300 s)
		E main another installation is in progress, stopping with 1618`},
	{name: "virtual machines are switched off", layout: "spoken", class: "platform prerequisite condition",
		subject: "Microsoft-Hyper-V-All|virtualization|virtualization platform", exit: 12, lines: `
		I setup Merlin Lab Bench 14 setup
		#
		I vm checking virtualization platform
		D vm feature Microsoft-Hyper-V-All: state Disabled
		D vm firmware: virtualization not enabled
		E vm the virtualization platform is not available on this computer
		I setup finished: blocked (12)`},
}
