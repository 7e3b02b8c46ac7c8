package verdict

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"hollowkey/core/logs/story"
)

func init() {
	three := map[byte]string{'D': "DBG", 'I': "INF", 'W': "WRN", 'E': "ERR"}
	words := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARN", 'E': "ERROR"}
	french := map[byte]string{'D': "Détail    ", 'I': "Info      ", 'W': "Attention ", 'E': "Erreur    "}
	graver := map[byte]string{'D': "FINE", 'I': "INFO", 'W': "WARNING", 'E': "SEVERE"}
	wide := func(part string, width int) string {
		return part + strings.Repeat(" ", max(width-len([]rune(part)), 1))
	}
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"three letters": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s [%s] <%s> %s", at.Format("2006/01/02 15:04:05.000"), three[level], part, text)
		},
		"severities": func(at time.Time, level byte, part, text string) string {
			said, _ := json.Marshal(text) // a string can be written
			return fmt.Sprintf(`{"@timestamp": "%s", "severity": "%s", "component": "%s", "message": %s}`,
				at.Format("2006-01-02T15:04:05.000Z"), words[level], part, said)
		},
		"columns with accents": func(at time.Time, level byte, part, text string) string {
			return at.Format("02/01/2006 15:04:05 ") + french[level] + wide(part, 14) + text
		},
		"a letter before the stamp": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%c%s  4412 %s] %s", level, at.Format("0102 15:04:05.000000"), part, text)
		},
		"a part and a bar": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("[%s] %10s | %s", at.Format("15:04:05"), part, text)
		},
		"tabs and zones": func(at time.Time, level byte, part, text string) string {
			return at.Format("2006-01-02T15:04:05+02:00\t") + graver[level] + "\t" + part + "\t" + text
		},
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// A fifteenth set of made-up setups.
var fifteenthVendors = []told{
	{name: "a Java that is too old for its class", layout: "three letters", class: "prerequisite",
		subject: `Java Runtime|jre1.8.0_202|C:\Program Files\Java\jre1.8.0_202|java|61.0|com/kestrel/Config|kestrel-config.jar|Java`, action: "config|starting configurator|configurator|kestrel-config.jar", exit: 12, lines: `
		I launcher Kestrel Charts 5.4.1 setup, build 9921
		I launcher arguments: /quiet /dir "D:\Kestrel"
		#
		I javacheck JAVA_HOME=C:\Program Files\Java\jre1.8.0_202
		I config starting configurator: java -jar kestrel-config.jar --init
		E config Exception in thread "main" java.lang.UnsupportedClassVersionError: com/kestrel/Config has been compiled by a more recent version of the Java Runtime (class file version 61.0), this version of the Java Runtime only recognizes class file versions up to 52.0
		E config process ended with 1
		#
		W launcher cleaning up
		E launcher setup failed, exit code 12`},
	{name: "a page in the place of a file", layout: "severities", class: "network corrupt",
		subject: "dl.osprey.example|osprey-3.2.0.exe|https://dl.osprey.example/win/osprey-3.2.0.exe", action: "updater|GET", lines: `
		I updater Osprey Notes 3.1.0 -> 3.2.0
		I updater GET https://dl.osprey.example/win/osprey-3.2.0.exe
		I updater 200 text/html; charset=utf-8, 4312 bytes
		#
		E updater sha512 mismatch for osprey-3.2.0.exe: expected 9f1c44 got 01aa20
		W updater retry 1
		E updater sha512 mismatch for osprey-3.2.0.exe: expected 9f1c44 got 01aa20
		E updater update failed: checksum
		I app staying on 3.1.0`},
	{name: "room on another drive", layout: "columns with accents", class: "space",
		subject: `E:|E:\Paie`, action: "Disques", exit: 28, lines: `
		I Accueil Programme d'installation de Martinet Paie 12.0
		#
		I Disques C: 81,2 Go libres ; E: 310 Mo libres
		I Disques dossier choisi E:\Paie, 1,9 Go nécessaires
		E Disques espace disque insuffisant sur E:
		W Accueil abandon
		E Accueil L'installation a échoué (code 28)`},
	{name: "a link that needs a right", layout: "a letter before the stamp", class: "elevation permission",
		subject: `C:\Program Files\Redstart\current|C:\Program Files\Redstart\2.0`, action: "CreateSymbolicLink|links.cc|creating symlink|links.cc:93", exit: 3, lines: `
		I main.cc:31 Redstart Studio 2.0 installer
		#
		I links.cc:88 creating symlink C:\Program Files\Redstart\current -> C:\Program Files\Redstart\2.0
		E links.cc:93 CreateSymbolicLink failed: 1314 A required privilege is not held by the client.
		W main.cc:120 rolling back 1 of 14 steps
		E main.cc:131 install finished with status 3`},
	{name: "a database that may not be made", layout: "a part and a bar", class: "permission custom-action",
		subject: `master|SISKIN|PORT-DB1\SISKIN|create.sql|.\SISKIN`, action: "db|sqlcmd|create.sql|CREATE DATABASE", exit: 7, lines: `
		I setup Siskin Server 4.4 setup begins
		#
		I db sqlcmd -S .\SISKIN -i create.sql
		E db Msg 262, Level 14, State 1, Server PORT-DB1\SISKIN, Line 1
		E db CREATE DATABASE permission denied in database 'master'.
		E db sqlcmd ended with 1
		I setup undo
		E setup Setup failed: database (errorlevel 7)`},
	{name: "a feature of the OS that is off", layout: "tabs and zones", class: "prerequisite condition platform",
		action: "prereq|WslRegisterDistribution|checking virtual machine platform", exit: 55, lines: `
		I boot Dipper Agent 7.1 deployment
		#
		I prereq checking virtual machine platform
		W prereq WslRegisterDistribution failed with error: 0x80370102
		I prereq The virtual machine could not be started because a required feature is not installed.
		#
		E boot deployment of Dipper Agent ended: failed, 55`},
	{name: "a program that holds its own file", layout: "three letters", class: "in-use",
		subject: `C:\Wheatear\till.exe|till.exe|5520`, action: "files|MoveFileEx|replacing", exit: 4, lines: `
		I setup Wheatear Till 9 update
		#
		I svc stop WheatearTill
		I svc stopped
		I files replacing C:\Wheatear\till.exe
		E files MoveFileEx C:\Wheatear\till.exe -> 32
		D files holders: till.exe (pid 5520, session 2), explorer.exe (pid 900)
		E files gave up after 5 tries
		I svc start WheatearTill
		E setup update not installed (result 4)`},
	{name: "a helper that protection took", layout: "a part and a bar", class: "security-software",
		subject: `nhhelper.exe|C:\Users\kit\AppData\Local\Temp\nh61\nhhelper.exe|Defender`, action: "run|CreateProcess|nhhelper.exe", lines: `
		I start Nuthatch Reader 6.0.2
		#
		I unpack nhhelper.exe (412160 bytes)
		#
		I run C:\Users\kit\AppData\Local\Temp\nh61\nhhelper.exe /register
		E run CreateProcess: 2
		D run dir C:\Users\kit\AppData\Local\Temp\nh61: 52 files, nhhelper.exe not among them
		I run Defender: threat removed, nhhelper.exe
		E end not installed, 21`},
	{name: "an uninstaller that is gone", layout: "a letter before the stamp", class: "leftover",
		subject: `C:\Program Files (x86)\Dotterel\uninst.exe|Dotterel Suite 2024.3|uninst.exe`, action: "old.cc|uninst.exe|old.cc:51|running|cannot start the uninstaller", exit: 1638, lines: `
		I setup.cc:12 Dotterel Suite 2026.1 setup
		#
		I old.cc:40 found Dotterel Suite 2024.3
		I old.cc:44 running "C:\Program Files (x86)\Dotterel\uninst.exe" /S
		E old.cc:51 cannot start the uninstaller: The system cannot find the file specified. (2)
		E old.cc:58 the earlier version could not be removed
		W setup.cc:90 stopping here
		E setup.cc:99 exit 1638`},
	{name: "a service that may not log on", layout: "severities", class: "service permission",
		subject: `GodwitGw|.\svc_godwit|svc_godwit`, action: "service|StartService|start GodwitGw", exit: 69, lines: `
		I setup Godwit Gateway 1.9 installing
		#
		I config writing C:\ProgramData\Godwit\gateway.yaml
		I service create GodwitGw as .\svc_godwit
		I service start GodwitGw
		E service StartService GodwitGw: 1069 (logon failure)
		#
		I service delete GodwitGw
		E setup install failed rc=69`},
	{name: "a driver without a signature", layout: "three letters", class: "policy corrupt",
		subject: `C:\Program Files\Whimbrel\drv\whcap.inf|whcap.inf`, action: "SetupCopyOEMInf|drv|driver step|installing whcap.inf", exit: 8, lines: `
		I setup Whimbrel Capture 3.3
		#
		I drv installing whcap.inf
		E drv SetupCopyOEMInf(C:\Program Files\Whimbrel\drv\whcap.inf) = 0xE000022F
		D drv The third-party INF does not contain digital signature information.
		I drv machine has secure boot on, test signing off
		E setup driver step failed
		E setup Whimbrel Capture was not installed, 8`},
	{name: "a port that is taken", layout: "tabs and zones", class: "in-use busy",
		subject: "0.0.0.0:8443|8443|System", action: "net|bind|probing listen address", exit: 10048, lines: `
		I host Curlew Broker 2.2 setup
		#
		I net probing listen address 0.0.0.0:8443
		E net bind: Only one usage of each socket address (protocol/network address/port) is normally permitted. (10048)
		D net owner of 8443: process 4, System
		W host undoing
		E host setup failed: 10048`},
	{name: "a driver for another processor", layout: "a part and a bar", class: "platform",
		action: "pack|dpinst", exit: 6, lines: `
		I setup Turnstone POS 5.5 client
		#
		I os Windows 10.0.19045 ARM64
		I pack file turnstone-drv-x64.cab
		E pack dpinst: the driver is not for this processor (0xE0000240)
		E setup finished with errors (6)`},
	{name: "a restart that is due", layout: "columns with accents", class: "busy",
		subject: "PendingFileRenameOperations", action: "Préparation", exit: 350, lines: `
		I Préparation Installateur Avocette 8.1
		#
		I Préparation redémarrage en attente : PendingFileRenameOperations (14 entrées)
		E Préparation un redémarrage est nécessaire avant l'installation
		E Préparation Arrêt, code 350`},
	{name: "a length that is told", layout: "three letters", class: "path",
		subject: `puffer-orchestral-strings-violins-section-sustain-vibrato-fortissimo-long-rr3.wav|286|C:\Users\anne-kathrin.von-der-heide\AppData\Local\Programs\Puffer Music\|sounds\instruments\orchestral\strings\violins\section\sustain\vibrato\senza\fortissimo\long\round-robin\mic-position-decca-tree\velocity-layer-09\puffer-orchestral-strings-violins-section-sustain-vibrato-fortissimo-long-rr3.wav`, action: "copy", exit: 3, lines: `
		I setup Puffer Music 4 setup
		#
		I paths target C:\Users\anne-kathrin.von-der-heide\AppData\Local\Programs\Puffer Music\
		I copy sounds\instruments\orchestral\strings\violins\section\sustain\vibrato\senza\fortissimo\long\round-robin\mic-position-decca-tree\velocity-layer-09\puffer-orchestral-strings-violins-section-sustain-vibrato-fortissimo-long-rr3.wav
		E copy could not be created, 3
		D copy length 286
		#
		E setup failed (3)`},
	{name: "a value of another type", layout: "a letter before the stamp", class: "registry",
		subject: `HKLM\SOFTWARE\Sanderling\Fleet\Port|Port|HKLM\SOFTWARE\Sanderling\Fleet`, action: "reg.cc|reading|reg.cc:24", exit: 23, lines: `
		I setup.cc:10 Sanderling Fleet 1.4
		#
		I reg.cc:20 reading HKLM\SOFTWARE\Sanderling\Fleet\Port
		E reg.cc:24 value Port has type REG_SZ, REG_DWORD expected
		E setup.cc:80 configuration unreadable
		E setup.cc:99 exit 23`},
	{name: "a good end behind bad lines", layout: "three letters", outcome: story.Succeeded, lines: `
		I setup Shoveler Office 11 setup
		#
		W net mirror 1 unreachable (10060), trying mirror 2
		I net mirror 2 ok
		E fonts could not install WadeSans.ttf: access denied, skipped
		#
		I setup rebooting is not needed
		I setup Shoveler Office 11 installed successfully
		I setup exit code 0`},
	{name: "a button that was pressed", layout: "a part and a bar", outcome: story.Cancelled, class: "cancelled",
		exit: 2, lines: `
		I setup Pintail Draw 7
		#
		I ui page: licence
		I ui page: folder
		I ui button Cancel pressed
		I ui asked: really? yes
		I setup removing what was copied
		I setup ended, 2`},
	{name: "a program that policy blocks", layout: "severities", class: "policy",
		subject: `C:\Windows\Temp\smew\smew-svc.exe|smew-svc.exe`, action: "gpo|CreateProcess|AppLocker check", exit: 1260, lines: `
		I setup Smew Monitor 2.8 install
		#
		I gpo AppLocker check for C:\Windows\Temp\smew\smew-svc.exe
		E gpo CreateProcess C:\Windows\Temp\smew\smew-svc.exe: This program is blocked by group policy. For more information, contact your system administrator. (1260)
		E setup aborted, code 1260`},
	{name: "a clock that is years ahead", layout: "tabs and zones", class: "network condition corrupt",
		subject: "hub.tropic.example|2031-07-14 03:12:55|clock|local time", exit: 14, lines: `
		I host Tropic Sync 3.0 setup
		#
		I certs importing root into LocalMachine\Root
		I certs tls handshake with hub.tropic.example
		E certs SEC_E_CERT_EXPIRED (0x80090328): the certificate valid to 2026-03-01
		D certs local time 2031-07-14 03:12:55
		W host giving up
		E host Tropic Sync setup failed with 14`},
}
