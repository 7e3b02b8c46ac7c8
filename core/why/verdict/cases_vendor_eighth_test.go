package verdict

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"hollowkey/core/logs/story"
)

func init() {
	words := map[byte]string{'D': "debug", 'I': "info", 'W': "warning", 'E': "error"}
	german := map[byte]string{'D': "Detail", 'I': "Hinweis", 'W': "Warnung", 'E': "Fehler"}
	french := map[byte]string{'D': "détail", 'I': "info", 'W': "attention", 'E': "erreur"}
	severe := map[byte]string{'D': "FINE", 'I': "INFO", 'W': "WARNING", 'E': "SEVERE"}
	signs := map[byte]string{'D': "..", 'I': "--", 'W': "!!", 'E': "##"}
	upper := func(level byte) string { return strings.ToUpper(words[level]) }
	begun := time.Date(2026, 5, 4, 9, 12, 0, 0, time.UTC)
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"angled": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s <%s> %c | %s", at.Format("15:04:05.000"), part, level, text)
		},
		"dated": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s %-8s%-14s%s", at.Format("02-Jan-2006 15:04:05"), upper(level), part, text)
		},
		"rounded": func(_ time.Time, _ byte, part, text string) string { return "(" + part + ") " + text },
		"joined": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s;%c;%s;%s", at.Format("20060102-150405"), level, part, text)
		},
		"Hinweise": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("[%s] %-8s %s: %s", at.Format("02.01.2006 15:04:05"), german[level], part, text)
		},
		"sev": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf(`ts=%s sev=%s mod=%s text="%s"`, at.Format("2006-01-02T15:04:05Z"), words[level], part, text)
		},
		"dashed": func(at time.Time, _ byte, part, text string) string {
			return at.Format("01/02/06 03:04:05 PM") + " - " + part + " - " + text
		},
		"ranks": func(at time.Time, level byte, part, text string) string {
			v, _ := json.Marshal(struct {
				When string `json:"when"`
				Rank string `json:"rank"`
				Unit string `json:"unit"`
				Note string `json:"note"`
			}{at.Format("2006-01-02T15:04:05.000000"), words[level], part, text})
			return string(v)
		},
		"right": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s %10s %c -- %s", at.Format("2006-01-02 15:04:05,000"), part, level, text)
		},
		"entries": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf(`<entry t="%s" l="%s" by="%s">%s</entry>`, at.Format("2006-01-02T15:04:05"), words[level], part, strings.ReplaceAll(text, "&", "&amp;"))
		},
		"détails": func(at time.Time, level byte, part, text string) string {
			return at.Format("02/01/2006;15:04:05;") + part + ";" + french[level] + ";" + text
		},
		"quoting": func(_ time.Time, _ byte, part, text string) string { return part + "> " + text },
		"syslog7": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("%s ward-07 %s[%d]: %s", at.Format("Jan 02 15:04:05"), part, 1000+at.Second(), text)
		},
		"doubled": func(at time.Time, level byte, part, text string) string {
			return signs[level] + " " + at.Format("150405") + " " + part + " " + text
		},
		"dotted": func(at time.Time, level byte, part, text string) string {
			return strings.Join([]string{at.Format("2006.01.02-15.04.05"), part, words[level], text}, "\t")
		},
		"elapsed": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("+%5ds [%s:%s] %s", int(at.Sub(begun).Seconds()), part, words[level], text)
		},
		"twofold": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s org.brine.%s run\n%s: %s", at.Format("Jan 2, 2006 3:04:05 PM"), part, severe[level], text)
		},
		"hyphens": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s - %s - %s - %s", at.Format("2006-01-02 15:04:05,000"), part, upper(level), text)
		},
		"glog": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%c%s 7120 %s.cc:%d] %s", strings.Replace(string(level), "D", "I", 1)[0], at.Format("0102 15:04:05.000000"), part, 100+at.Second(), text)
		},
		"bracketed": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%-7s [%s] %s : %s", upper(level), part, at.Format("15:04:05"), text)
		},
		"rust": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s %5s %s: %s", at.Format("2006-01-02T15:04:05.000000Z"), strings.Replace(upper(level), "WARNING", "WARN", 1), part, text)
		},
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// An eighth set of made-up setups, most with causes that are set down by the
// way.
var eighthVendors = []told{
	{name: "a probe that gave 5, at debug level", layout: "angled", class: "permission elevation",
		subject: `C:\Program Files\Osprey\Ledger|C:\Program Files\Osprey\Ledger\~t1`, exit: 12, lines: `
		I boot Osprey Ledger 7.2.1 setup, build 4410
		I boot user DESK-19\mira, integrity medium
		#
		D fs probe write C:\Program Files\Osprey\Ledger\~t1 -> 5
		#
		I pack laying down binaries
		#
		E pack target not usable, giving up on stage binaries
		I boot leaving with 12`},
	{name: "a bus that is disabled, told when dependencies are listed", layout: "dated", class: "service",
		subject: "CorncrakeBus|CorncrakeCore", exit: 3, lines: `
		I Setup Corncrake Scheduler 3.0 (x64) installation begins
		I Setup operating system 10.0.19045
		#
		I Services creating service CorncrakeCore
		I Services CorncrakeCore depends on: RpcSs, CorncrakeBus
		D Services CorncrakeBus: start=disabled, state=stopped
		#
		I Services requesting start of CorncrakeCore
		W Services start of CorncrakeCore returned 1068
		E Services CorncrakeCore is not running
		E Setup installation is being reversed
		#
		I Setup finished, code 3`},
	{name: "a proxy that wants a name, as an object with unknown keys", layout: "ranks", class: "network",
		action: "net|requesting|base tiles|fetch", exit: 21, lines: `
		I main Harrier Maps Desktop 12.4 install run
		D env proxy from system: http://gate.brine.example:3128
		#
		I net requesting https://tiles.brine.example/base/12.4/index
		D net HTTP/1.1 407, via gate.brine.example
		D net retry in 4 s
		D net HTTP/1.1 407, via gate.brine.example
		W net base tiles not fetched
		#
		E main a required part is absent: base tiles
		E main run ends (status 21)`},
	{name: "a disc that cannot be written", layout: "rounded", class: "path permission command-line",
		subject: `D:\Apps\Dabchick\dabchick.exe|D:\Apps\Dabchick|D:`, action: `unpack|writing D:\Apps\Dabchick\dabchick.exe`, exit: 7, lines: `
		I start Dabchick Notes 2.9 - setup without dialogs
		I start arguments: /quiet /dir=D:\Apps\Dabchick
		#
		I volume D: serial 0000-0000, kind: optical
		I unpack writing D:\Apps\Dabchick\dabchick.exe
		I unpack write refused: media is write protected (19)
		#
		I stop nothing was installed
		I stop return value 7`},
	{name: "a driver without a section for the machine", layout: "joined", class: "platform",
		subject: "fulmarprn.inf|arm64", action: "drv|preparing print driver package", exit: 44, lines: `
		I init Fulmar Invoicing 5.5.0
		I init host=BRN-204 arch=arm64 os=10.0.26100
		#
		I drv preparing print driver package fulmarprn.inf
		D drv sections: [NTamd64]
		#
		E drv no section for this machine in fulmarprn.inf
		E init setup cannot go on
		I init rc=44`},
	{name: "a library that a client holds, in German", layout: "Hinweise", class: "in-use",
		subject: "lagerkern.dll|lagerclient.exe", action: "Programmdateien|Dateien", exit: 18, lines: `
		I Start Rohrdommel Lagerverwaltung 8.1 wird eingerichtet
		D Start Konto: KONTOR\lindgren
		#
		D Sperre lagerkern.dll: gehalten von PID 4120 (lagerclient.exe)
		I Dateien lagerkern.dll wird ersetzt
		W Dateien lagerkern.dll: Ersetzen verschoben, Versuch 1 von 3
		W Dateien lagerkern.dll: Ersetzen verschoben, Versuch 2 von 3
		W Dateien lagerkern.dll: Ersetzen verschoben, Versuch 3 von 3
		E Dateien Schritt "Programmdateien" nicht abgeschlossen
		I Start Einrichtung beendet mit Rückgabewert 18`},
	{name: "less room than is needed, and a short write", layout: "sev", class: "space",
		subject: "C:|core", action: "extracting core|fs", exit: 9, lines: `
		I main Redshank CAD Viewer 2026.1 installer
		I main temp=C:\Users\jo\AppData\Local\Temp
		#
		D disk C: free 212 MB
		D disk need 1480 MB for core, 220 MB for help
		#
		I fs extracting core
		#
		W fs short write at 211 MB
		E fs core incomplete
		E main result=9`},
	{name: "an engine that is too old and says 1638", layout: "console", class: "prerequisite leftover", lines: `
		I x Setting up Turnstone Reader 1.18
		I x
		#
		I x Looking for Turnstone Text Engine 4 or later
		I x   found 3.7 in C:\Program Files (x86)\Turnstone\Text
		I x   too old, installer will bring its own
		I x   running texteng4.exe /s
		I x   texteng4.exe came back with 1638
		I x Turnstone Text Engine is not there
		I x Setup of Turnstone Reader was not completed.`},
	{name: "a component that nobody knows", layout: "dashed", class: "command-line",
		subject: "dialler|/COMPONENTS=core,dialler|COMPONENTS", exit: 2, lines: `
		I Main Whimbrel Phone Link 6.0 Setup
		I Main Command line: "WPLSetup.exe" /VERYQUIET /COMPONENTS=core,dialler
		#
		I Main Unknown component: dialler
		I Main Valid components: core, dialer, skins
		I Main Setup will exit
		I Main Exit: 2`},
	{name: "a lock of an agent that is gone", layout: "angled", class: "leftover in-use busy",
		subject: `C:\ProgramData\Lapwing\agent.lock|agent.lock`, exit: 6, lines: `
		I boot Lapwing Backup Agent 4.4 update from 4.3
		#
		D lic state file C:\ProgramData\Lapwing\agent.lock from 2025-11-02, owner pid 988 (gone)
		#
		I stop waiting for the running agent to finish
		D stop agent.lock still there
		D stop agent.lock still there
		D stop agent.lock still there
		E stop gave up waiting after 120 s
		E boot update abandoned
		I boot code 6`},
	{name: "no helper with rights", layout: "dated", outcome: story.Failed, class: "elevation cancelled",
		action: "Rights|asking for an elevated helper", exit: 5, lines: `
		I Init Whinchat Kiosk 1.2 setup for all users
		D Init token elevated=no type=limited
		#
		I Rights asking for an elevated helper
		W Rights helper not started: 1223
		E Rights no helper, no machine-wide setup
		I Init exit status 5`},
	{name: "a server that is too old for a function", layout: "sev", class: "database",
		subject: "0042_slots.sql|STRING_AGG|sql01.brine.example|sql01.brine.example:1433", action: "0042_slots.sql|running 0042_slots.sql|db|database part", exit: 31, lines: `
		I main Avocet Booking Server 3.3 installer
		I db server sql01.brine.example:1433, version 13.0.1601
		#
		I db running 0042_slots.sql
		W db Msg 195, Level 15: 'STRING_AGG' is not a recognized built-in function name.
		E db 0042_slots.sql stopped
		E main database part failed, rolling back
		#
		I main exit=31`},
	{name: "a payload that is shorter than its catalogue says", layout: "joined", class: "corrupt source",
		subject: "garganey.pak|scenes/atrium.scn", action: "unpacking scenes|unz", exit: 70, lines: `
		I init Garganey Studio 9.0 setup
		I init payload garganey.pak 734003200 bytes, catalogue says 851443712
		#
		I unz unpacking scenes
		D unz scenes/atrium.scn: stream ends early
		E unz scenes not unpacked
		I init rc=70`},
	{name: "a policy set down in the head", layout: "Hinweise", class: "policy",
		subject: `Software\Policies\Kiebitz\AllowInstall|AllowInstall|Software\Policies\Kiebitz`, exit: 13, lines: `
		I Start Kiebitz Zeiterfassung 2.0 Installation
		D Start Richtlinie Software\Policies\Kiebitz\AllowInstall = 0
		#
		I Start Voraussetzungen geprüft
		E Start Installation ist auf diesem Gerät nicht vorgesehen
		I Start Ende mit 13`},
	{name: "a clock seven years behind", layout: "angled", class: "network platform condition",
		subject: "cdn.shoveler.example|https://cdn.shoveler.example/tax/2026", action: "opening|net|handshake", exit: 4, lines: `
		I boot Shoveler Tax 2026 web setup
		D clk machine 2019-01-01T03:12, server 2026-05-11T07:40
		#
		I net opening https://cdn.shoveler.example/tax/2026
		E net handshake refused: certificate not yet valid
		D net again
		E net handshake refused: certificate not yet valid
		E boot no payload
		I boot leaving with 4`},
	{name: "a file that vanishes after a look", layout: "ranks", class: "security-software",
		subject: `codec64.dll|C:\Program Files\Smew\codec64.dll`, exit: 2, lines: `
		I main Smew Player 3 installs
		#
		D put writing C:\Program Files\Smew\codec64.dll
		D put closed codec64.dll
		D put opening codec64.dll for signature check: 225
		W put codec64.dll vanished
		#
		E main codec64.dll: cannot find the file (2)
		E main setup did not finish, code 2`},
	{name: "a home that is not where it is said to be", layout: "console", class: "path prerequisite",
		subject: `C:\Java\jre8_101\bin\java|JAVA_HOME|C:\Java\jre8_101`, exit: 9009, lines: `
		I x Pintail Gateway installation script
		I x reading pintail.conf
		I x   INSTALL_HOME = C:\Pintail Gateway\
		I x   JAVA_HOME    = C:\Java\jre8_101
		#
		I x calling C:\Java\jre8_101\bin\java -jar setup-core.jar
		I x 'C:\Java\jre8_101\bin\java' is not recognized as an internal or external command,
		I x operable program or batch file.
		I x step core: errorlevel 9009
		I x stopped.`},
	{name: "an OS that is too old", layout: "dated", class: "platform condition", exit: 20, lines: `
		I Setup Bittern Radiology 11 setup
		D Setup Windows 10 Enterprise LTSC 2016 build 14393
		D Setup least build 17763
		#
		E Setup this edition of the operating system is not supported
		I Setup ended: 20`},
	{name: "a mutex of another copy", layout: "dashed", class: "busy",
		subject: `Global\SandpiperSetup`, action: "Prereq|Checking for another setup", exit: 11, lines: `
		I Main Sandpiper Fleet Tracker 2.2 Setup
		#
		I Prereq Checking for another setup
		I Prereq Mutex Global\SandpiperSetup exists
		I Prereq Waiting... 30
		I Prereq Waiting... 60
		I Prereq Another copy of this setup is open
		I Main Exit: 11`},
	{name: "a value of another type than wanted", layout: "sev", class: "registry leftover",
		subject: `HKLM\SOFTWARE\Godwit\Queues|Count|HKLM\SOFTWARE\Godwit\Queues\Count`, action: "reg|settings", exit: 15, lines: `
		I main Godwit Print Manager 5 installer
		#
		D reg open HKLM\SOFTWARE\Godwit\Queues
		D reg value Count: type 1, wanted 4
		W reg Queues is not as expected
		#
		E main settings of the former version cannot be read
		E main result=15`},
	{name: "a setup that went well beside troubles", layout: "angled", outcome: story.Succeeded, lines: `
		I boot Wigeon Mail 8 setup
		#
		W fs C:\Program Files\Wigeon\old.dat cannot be deleted, left in place
		#
		E net telemetry endpoint unreachable
		#
		I boot shortcuts made
		I boot Wigeon Mail 8 is installed
		I boot leaving with 0`},
	{name: "two widths", layout: "dated", class: "platform condition prerequisite",
		action: "Office|looking for the host program", exit: 8, lines: `
		I Setup Gadwall Office Connector 4 setup
		#
		I Office looking for the host program
		D Office host: 64-bit
		D Office this package: 32-bit
		#
		E Office bitness differs, add-in not registered
		E Setup failed
		I Setup ended: 8`},
	{name: "a session that was lost, behind names in brackets", layout: "rounded", class: "source network",
		subject: `\\store04\packages\pochard\vault.cab|vault.cab|store04`, action: "copy|reading", exit: 25, lines: `
		I setup Pochard Vault 3.1
		#
		I copy reading \\store04\packages\pochard\vault.cab
		I copy session to store04 lost
		I copy again in 10 s
		I copy network name is gone (64)
		#
		I setup vault.cab not read
		I setup finish 25`},
	{name: "a script that would need rights", layout: "joined", class: "elevation custom-action permission",
		subject: "post-install.cmd|netsh", action: "post-install.cmd|script", exit: 1, lines: `
		I init Eider Survey 6 setup
		#
		I script post-install.cmd begins
		D script > netsh advfirewall firewall add rule name=Eider
		D script < The requested operation requires elevation (Run as administrator).
		D script post-install.cmd gave 1
		E init post-install.cmd failed
		I init rc=1`},
	{name: "a log that stops when a service starts", layout: "ranks", outcome: story.Unfinished, lines: `
		I main Brambling Sync 2.0 installs
		#
		I svc registering BramblingSync
		I svc starting BramblingSync
		#`},
	{name: "a share that refuses the machine", layout: "right", class: "permission source network",
		subject: `\\ward-files\soft\sable\models.pak|models.pak|WARD-07$`, action: "share|copying", exit: 30, lines: `
		I setup Sable Annotator 2.3.1
		D setup account SYSTEM, session 0
		#
		I share copying \\ward-files\soft\sable\models.pak
		D share logon as WARD-07$
		W share models.pak: refused by the other side
		#
		E setup models are missing, nothing to run with
		I setup left with 30`},
	{name: "an account that cannot be found, as elements", layout: "entries", class: "service permission",
		subject: `MartenSpool|BRINE\svc-marten`, exit: 14, lines: `
		I boot Marten Spooler 5 installation
		#
		I svc registering MartenSpool
		I svc account for MartenSpool: BRINE\svc-marten
		D svc granting logon right
		W svc right not granted: BRINE\svc-marten cannot be resolved (1332)
		I svc starting MartenSpool
		E svc MartenSpool did not start: 1069
		E boot installation undone
		I boot result 14`},
	{name: "a component that is too old, in French", layout: "d\u00e9tails", class: "prerequisite condition",
		action: "moteur|recherche du composant", exit: 17, lines: `
		I démarrage Installation de Belette Comptabilité 6.2
		#
		I moteur recherche du composant Belette Calcul 3 ou plus
		D moteur trouvé : 2.8
		W moteur composant trop ancien
		#
		E démarrage conditions non réunies, l'installation s'arrête
		I démarrage code de sortie 17`},
	{name: "a helper with an exception", layout: "quoting", class: "custom-action", subject: "setup-hlp.exe|helper", lines: `
		I deploy Polecat Viewer 1.9 rollout on WS-118
		#
		I deploy running helper setup-hlp.exe
		I deploy   helper says: object reference not set to an instance of an object
		I deploy   helper ended, -532462766
		I deploy rollout failed`},
	{name: "a screen that is too small", layout: "syslog7", class: "condition", exit: 5, lines: `
		I setup Ermine Label Printer 3.4 setup
		I setup requires at least 1024x768
		I setup screen is 800x600
		#
		I setup this computer does not qualify
		I setup bye (5)`},
	{name: "a scratch drive that is not there", layout: "doubled", class: "path space",
		subject: `Q:\scratch\wcr|Q:\scratch|TEMP|Q:`, exit: 3, lines: `
		I start Weasel Chart Reader 7 begins its setup
		D start TEMP=Q:\scratch
		#
		I unp unpacking to Q:\scratch\wcr
		W unp Q:\scratch\wcr: the system cannot find the path specified
		E unp no place to unpack
		E start given up
		I start rc 3`},
	{name: "a key whose owner let nobody in", layout: "dotted", class: "permission registry",
		subject: `HKEY_LOCAL_MACHINE\SOFTWARE\Badger\Licence`, action: "reg|writing licence key", exit: 22, lines: `
		I main Badger Timesheets 10.1 setup
		#
		I reg writing licence key
		D reg HKEY_LOCAL_MACHINE\SOFTWARE\Badger\Licence owner S-1-5-21-1004 no rights for SYSTEM
		W reg licence key not written
		E main licensing is incomplete
		I main end, code=22`},
	{name: "a page in place of a payload", layout: "elapsed", class: "network corrupt source",
		subject: "get.fisher.example|base.bin|https://get.fisher.example/rec/4.0/base.bin", exit: 19, lines: `
		I main Fisher Cat Recorder 4.0 setup
		#
		I dl fetching https://get.fisher.example/rec/4.0/base.bin
		D dl answer 200 text/html 4812 bytes
		W dl base.bin begins with "<!DOCTYPE"
		E main base.bin is no package
		I main code 19`},
	{name: "a cached package that is gone", layout: "right", class: "cached-package source",
		subject: `C:\Windows\Installer\4f1a22.msi`, action: "cache|looking for the package", exit: 1612, lines: `
		I setup Stoat Scheduler 12 update 12.4
		#
		I cache looking for the package of 12.3
		D cache C:\Windows\Installer\4f1a22.msi not there
		W cache the old version cannot be taken off
		#
		E setup update not possible
		I setup exit 1612`},
	{name: "a component store that needs repair", layout: "doubled", class: "component-store", subject: "NetFx3", lines: `
		I start Otter Desk 3 set-up
		#
		D comp enabling feature NetFx3
		W comp component store needs repair
		W comp 0x80073712
		E comp NetFx3 stays off
		E start stopped
		I start status: 41`},
	{name: "a firewall that is off", layout: "syslog7", class: "service",
		subject: "firewall|mink.exe|firewall service", action: "fw|adding rule", exit: 27, lines: `
		I setup Mink Remote Assistance 2.1 setup
		#
		I fw adding rule for mink.exe
		I fw firewall service does not answer: The service cannot be started, either because it is disabled (1058)
		I fw rule not added
		I setup done with errors, the product will not work
		I setup exit=27`},
	{name: "somebody pressed stop", layout: "dotted", outcome: story.Cancelled, class: "cancelled", exit: 2, lines: `
		I main Coypu Archive 1.0 setup
		#
		I main user pressed stop
		#
		I main cleaning up
		I main end, code=2`},
	{name: "all in place beside troubles", layout: "elapsed", outcome: story.Succeeded, lines: `
		I main Marmot Wallet 5.2 setup
		#
		W fs wallet.dll is 3 days older than the one in place, left as it is
		W net no news from https://news.marmot.example
		#
		I main everything in place
		I main code 0`},
	{name: "a log that stops while files are placed", layout: "right", outcome: story.Unfinished, lines: `
		I setup Vole Inventory 9.9 setup
		#
		I fs placing 48 files
		#`},
	{name: "a program that holds itself, in French", layout: "d\u00e9tails", class: "in-use",
		subject: "devis.exe", exit: 33, lines: `
		I démarrage Installation de Loutre Devis 2.0
		#
		I fichiers remplacement de devis.exe
		W fichiers devis.exe : utilisé par devis.exe (PID 5120)
		W fichiers nouvel essai
		W fichiers devis.exe : utilisé par devis.exe (PID 5120)
		E démarrage devis.exe n'a pas été remplacé
		I démarrage code de sortie 33`},
	{name: "a verdict of a policy", layout: "doubled", class: "policy security-software", subject: "dormouse.exe", exit: 9, lines: `
		I start Dormouse Alarm 6 setup
		D start SmartScreen verdict for dormouse.exe: warn, policy: block
		#
		E start dormouse.exe may not run here
		I start rc 9`},
	{name: "memory that was refused", layout: "dotted", class: "space condition",
		action: "model|compiling speech model", exit: 12, lines: `
		I main Hedgehog Dictate 3.3 setup
		#
		D mem working set 3.9 GB
		I model compiling speech model
		W model allocation of 2147483648 bytes refused
		E model speech model not compiled
		E main setup failed
		I main end, code=12`},
	{name: "a class of version 1", layout: "elapsed", class: "leftover condition registry",
		subject: `shrew1.dll|C:\Old\shrew1.dll|HKCR\CLSID\{5B1A0C11-0000-4000-8000-00A0C91BC942}|{5B1A0C11-0000-4000-8000-00A0C91BC942}`, action: "reg", exit: 23, lines: `
		I main Shrew Connector 2 setup
		#
		D reg HKCR\CLSID\{5B1A0C11-0000-4000-8000-00A0C91BC942} points to C:\Old\shrew1.dll
		W reg shrew1.dll of version 1 is still registered
		E main version 1 must be removed completely before version 2
		I main code 23`},
	{name: "a chain that has expired", layout: "right", class: "corrupt policy network source",
		subject: "trader.cab", action: "sig|checking trader.cab", exit: 8, lines: `
		I setup Lemming Trader 4 setup
		#
		I sig checking trader.cab
		D sig chain ends at "Lemming Root 2015", expired 2025-12-31
		E sig trader.cab not trusted
		E setup will not go on
		I setup left with 8`},
	{name: "a port in words", layout: "syslog7", class: "command-line",
		subject: "PORT|PORT=eighty|eighty", action: "conf", exit: 2, lines: `
		I setup Numbat Courier 3.0 setup
		I setup called with SERVER=courier.brine.example PORT=eighty
		#
		I conf PORT must be a number, got "eighty"
		I setup bye (2)`},
	{name: "a driver that memory integrity keeps out", layout: "doubled", class: "policy security-software platform",
		subject: "quollaud.sys", exit: 37, lines: `
		I start Quoll Messenger 6 setup
		#
		I drv loading quollaud.sys
		W drv quollaud.sys blocked from loading: memory integrity
		E drv driver not running
		E start setup rolled back
		I start rc 37`},
	{name: "a database of a newer server", layout: "dotted", class: "database", action: "db|attaching", exit: 6, lines: `
		I main Zorilla Index 2 setup
		#
		I db attaching C:\ProgramData\Zorilla\index.mdf
		W db file is version 904, this server reads 869 and older
		E db index not attached
		E main setup failed
		I main end, code=6`},
	{name: "a library of a newer OS", layout: "elapsed", class: "prerequisite platform",
		subject: "api-ms-win-core-path-l1-1-0.dll|civetcore.dll", exit: 44, lines: `
		I main Civet Scanner Tools 1.4 setup
		D main loader: api-ms-win-core-path-l1-1-0.dll absent
		#
		E main civetcore.dll not loaded: 126
		I main code 44`},
	{name: "a junction to a drive that is not ready", layout: "right", class: "path source",
		subject: `E:\Genet|E:|C:\Program Files\Genet|forms.exe`, action: "fs", exit: 21, lines: `
		I setup Genet Forms 8 setup
		#
		D fs C:\Program Files\Genet is a junction to E:\Genet
		D fs E: not ready
		E fs forms.exe could not be put in place
		E setup will not go on
		I setup left with 21`},
	{name: "no right in a database, two lines a record", layout: "twofold", class: "permission database",
		subject: "billing|billing_setup", action: "Db|creating schema|org.brine.Db", exit: 3, lines: `
		I Main Caracal Billing 4.2 installer starting
		#
		I Db creating schema
		W Db user billing_setup: CREATE permission denied in database 'billing'
		E Db schema not created
		E Main installation failed
		I Main exit 3`},
	{name: "a certificate of their own", layout: "hyphens", class: "network", exit: 4, lines: `
		I setup Serval Photo Suite 11 setup started
		#
		I net downloading catalogue
		W net [SSL: CERTIFICATE_VERIFY_FAILED] certificate verify failed: self-signed certificate in certificate chain (_ssl.c:1006)
		E net catalogue not available
		E setup setup failed
		I setup exit code 4`},
	{name: "a delta for other bytes", layout: "glog", class: "corrupt leftover condition",
		subject: "margay.exe|margay-2.6-2.7.delta", exit: 12, lines: `
		I setup_main Margay Editor 2.7 updater
		#
		I patcher applying delta margay-2.6-2.7.delta
		W patcher source margay.exe: expected sha256 9f31aa02, have 77c01be4
		E patcher delta not applicable
		E setup_main update failed
		I setup_main exit code: 12`},
	{name: "a file that is read-only", layout: "console", class: "permission path leftover",
		subject: `C:\Program Files\Kodkod\kodkod.ini`, lines: `
		I x Kodkod Terminal 5.0 Setup
		I x Install folder: C:\Program Files\Kodkod
		#
		I x Could not write: C:\Program Files\Kodkod\kodkod.ini (file is read-only)
		I x Abort, Retry, Ignore -> Abort
		I x Setup aborted`},
	{name: "a port that is taken, found in the service's own log", layout: "bracketed", class: "in-use service",
		subject: "8443|PampasSvc|port 8443", exit: 15, lines: `
		I Bootstrap Pampas Ledger 9 installer
		D Bootstrap user language: pt-BR
		#
		I Service installing PampasSvc
		I Service waiting for PampasSvc
		W Service PampasSvc stopped again after 2 s, exit 1067
		D Service event 7034
		D Service PampasSvc.log: port 8443 is taken by pid 912
		E Service PampasSvc is not up
		E Bootstrap installation rolled back
		I Bootstrap return code 15`},
	{name: "a stage that is full", layout: "rust", class: "space",
		subject: `D:\stage\relay.bin|D:|D:\stage`, action: `staging|disk|staging to D:\stage|cat::disk`, lines: `
		I cat::main Iriomote Relay 0.9 installer
		#
		I cat::disk staging to D:\stage
		W cat::disk write D:\stage\relay.bin: There is not enough space on the disk. (os error 112)
		E cat::main aborted: There is not enough space on the disk. (os error 112)`},
	{name: "no administrator, and a key", layout: "hyphens", class: "elevation permission",
		action: "reg|writing", exit: 5, lines: `
		I setup Flathead Mixer 3.2 setup started
		I setup admin: False
		#
		I reg writing HKEY_LOCAL_MACHINE\SOFTWARE\Flathead
		E reg PermissionError: [WinError 5] Access is denied: 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Flathead'
		E setup setup failed
		I setup exit code 5`},
	{name: "a runtime of another version", layout: "glog", class: "prerequisite network",
		subject: "desktop runtime 8.0.4|8.0.4|dotnet-host-8.0.4.exe|desktop runtime", action: "running dotnet-host-8.0.4.exe|runtime|dotnet-host-8.0.4.exe", exit: 7, lines: `
		I setup_main Andean Notes 8.1 setup
		#
		I runtime checking for the desktop runtime 8.0.4
		I runtime found: 6.0.28, 7.0.17
		W runtime no match for 8.0.4
		I runtime running dotnet-host-8.0.4.exe /quiet
		E runtime dotnet-host-8.0.4.exe: This operation returned because the timeout period expired.
		E setup_main cannot go on
		I setup_main exit code: 7`},
	{name: "a task that may not be made", layout: "hyphens", class: "permission service elevation",
		action: "task|creating task", exit: 9, lines: `
		I setup Geoffroy Kiosk 2 setup started
		#
		I task creating task \Geoffroy\Nightly
		W task schtasks: ERROR: The user account is unknown, the password is incorrect, or the user account does not have permission to create this task.
		E setup setup failed
		I setup exit code 9`},
	{name: "consent that was denied", layout: "bracketed", class: "cancelled elevation",
		exit: 1223, lines: `
		I Bootstrap Rusty Spotted 4.4 installer
		#
		I Rights asking the user for consent
		W Rights consent denied
		I Bootstrap nothing was changed
		I Bootstrap return code 1223`},
	{name: "a name found at the second try", layout: "twofold", outcome: story.Succeeded, lines: `
		I Main Sunda Archive 6 installer starting
		#
		I Net resolving archive.brine.example
		W Net java.net.UnknownHostException: archive.brine.example
		I Net again in 5 s
		I Net resolving archive.brine.example
		I Net 10.4.0.9
		#
		I Main installation complete
		I Main exit 0`},
	{name: "a former version that is no longer there, in German", layout: "console", class: "leftover", lines: `
		I x Marbled Deck 1.1 installieren
		I x Rechner: LAGER-02, Windows 11 Pro, 64 Bit
		#
		I x   -   Altes Marbled Deck 1.0 wird entfernt
		I x   !   Deinstallation 1.0 meldet 1605
		I x   !   Altes Programm steht noch in der Liste, ist aber nicht mehr da
		I x Abbruch`},
	{name: "an item that was removed", layout: "glog", class: "security-software",
		subject: `C:\Program Files\Clouded\viewer.exe|viewer.exe`, exit: 3, lines: `
		I setup_main Clouded Viewer 2.2 setup
		#
		I scan verifying installed files
		W scan viewer.exe: GetFileAttributes: 2
		W scan quarantine report: Trojan-like behaviour, item removed: C:\Program Files\Clouded\viewer.exe
		E setup_main viewer.exe missing after copy
		I setup_main exit code: 3`},
	{name: "a restart that is wanted first", layout: "bracketed", class: "condition busy",
		action: "Pre|checking for pending restart", exit: 3010, lines: `
		I Bootstrap Kaffir Payroll 7 installer
		#
		I Pre checking for pending restart
		D Pre PendingFileRenameOperations: 3 entries
		W Pre a restart is pending
		E Bootstrap restart first
		I Bootstrap return code 3010`},
	{name: "a class that is not registered", layout: "hyphens", class: "prerequisite registry component-store",
		action: "iis|creating application pool", exit: 6, lines: `
		I setup Lynx Ordering 5.5 setup started
		#
		I iis creating application pool LynxPool
		W iis Retrieving the COM class factory for component with CLSID {688EEEE5-6A7E-422F-B2E1-6AF00DC944A6} failed due to the following error: 80040154 Class not registered
		E iis is the web server role installed?
		E setup setup failed
		I setup exit code 6`},
	{name: "a service marked for deletion", layout: "rust", class: "service leftover",
		subject: "BobcatGw", action: "CreateServiceW|creating service|svc", lines: `
		I cat::main Bobcat Gateway 2.0 installer
		#
		I cat::svc creating service BobcatGw
		E cat::svc CreateServiceW: The specified service has been marked for deletion. (os error 1072)
		E cat::main aborted`},
	{name: "a section that is misspelt", layout: "console", class: "command-line condition",
		subject: `C:\deploy\seal.ini|seal.ini|[Compnents]|Compnents`, exit: 2, lines: `
		I x Leopard Seal Tools 3.0 unattended setup
		I x reading answer file C:\deploy\seal.ini
		I x seal.ini line 14: section [Compnents] ignored
		#
		I x no components selected
		I x nothing to do
		I x setup returned 2`},
}
