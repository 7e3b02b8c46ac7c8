package verdict

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"hollowkey/core/logs/story"
)

func init() {
	upper := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARN", 'E': "ERROR"}
	marks := map[byte]string{'D': "   ", 'I': "   ", 'W': "(!)", 'E': "(x)"}
	stars := map[byte]string{'D': "  *", 'I': "  *", 'W': " !!", 'E': " !!"}
	faults := map[byte]string{'D': "TRACE", 'I': "NOTE", 'W': "CAUTION", 'E': "FAULT"}
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"slashed": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("[%s] [%s/%s]: %s", at.Format("15:04:05"), part, upper[level], text)
		},
		"barred": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s | %-5s | %-12s | %s", at.Format("2006-01-02 15:04:05.000"), upper[level], part, text)
		},
		"shouted": func(_ time.Time, _ byte, part, text string) string { return strings.ToUpper(part) + ": " + text },
		"ctime": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s [%c] %s: %s", at.Format("Mon Jan 02 15:04:05 2006"), level, part, text)
		},
		"marked": func(at time.Time, level byte, _, text string) string {
			return at.Format("15:04:05.000") + "  " + marks[level] + " " + text
		},
		"ecs": func(at time.Time, level byte, part, text string) string {
			type log struct {
				Level  string `json:"level"`
				Logger string `json:"logger"`
			}
			v, _ := json.Marshal(struct {
				Time string `json:"@timestamp"`
				Log  log    `json:"log"`
				Text string `json:"message"`
			}{at.Format("2006-01-02T15:04:05.000000Z"), log{strings.ToLower(upper[level]), part}, text})
			return string(v)
		},
		"minutes": func(at time.Time, _ byte, part, text string) string {
			return at.Format("02.01.06 15:04") + " " + part + " - " + text
		},
		"starred": func(_ time.Time, level byte, _, text string) string { return stars[level] + " " + text },
		"faults": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s(%s) %s> %s", faults[level], part, at.Format("15:04:05"), text)
		},
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// A ninth set of made-up setups.
var ninthVendors = []told{
	{name: "an operation that is not permitted for an account", layout: "slashed", class: "permission elevation",
		subject: `C:\Program Files\Alder\plugins`, action: "fs|creating|mkdir", exit: 17, lines: `
		I main Alder Timesheet Client 3.6 setup starting
		I main install dir C:\Program Files\Alder, user BRINE\k.osei
		#
		I fs creating C:\Program Files\Alder\plugins
		W fs mkdir C:\Program Files\Alder\plugins: operation not permitted for this account
		I fs trying once more
		W fs mkdir C:\Program Files\Alder\plugins: operation not permitted for this account
		E main plugins folder missing, cannot proceed
		I main setup exits (code 17)`},
	{name: "a licence server without a route", layout: "barred", class: "network",
		subject: "licence.rowan.example:27000|licence.rowan.example|10.2.0.14|10.2.0.14:27000", action: "license|contacting licence.rowan.example", exit: 61, lines: `
		I setup Rowan Statistics 14.1 (build 2211) installer
		#
		I license contacting licence.rowan.example:27000
		D license connect 10.2.0.14:27000 ... no route
		W license licence server did not answer in 30 s
		E setup no licence, no installation
		I setup finished with status 61`},
	{name: "less memory than is needed", layout: "shouted", class: "condition space", exit: 8, lines: `
		I setup Hazel Recorder 2 - unattended
		I check free memory 912 MB
		I check need at least 2048 MB
		#
		I setup not enough memory in this machine, ending
		I setup exit 8`},
	{name: "a driver that services depend on and that is off", layout: "ctime", class: "service",
		subject: "http|Spooler", action: "starting Spooler|svc|StartService", exit: 1068, lines: `
		I setup Birch Terminal Server Add-on 1.5 install
		#
		I svc stopping Spooler
		I svc replacing printfilter.dll
		I svc starting Spooler
		E svc StartService(Spooler): the dependency service or group failed to start
		D svc Spooler depends on RPCSS http
		D svc http: disabled by administrator
		E setup print spooler is down, rolling back
		I setup rc=1068`},
	{name: "a control that does not register", layout: "marked", class: "custom-action registry prerequisite",
		subject: "juniper.ocx", action: "registering juniper.ocx|DllRegisterServer|registration of juniper.ocx|juniper.ocx", exit: -2147220992, lines: `
		I x Juniper Forms 6.1 setup
		#
		I x registering juniper.ocx
		E x juniper.ocx: DllRegisterServer returned 0x80040200
		E x registration of juniper.ocx gave an error
		I x result 0x80040200`},
	{name: "an entry with another sum, nested objects", layout: "ecs", class: "corrupt",
		subject: "larch.pak|core/engine.bin", exit: 9, lines: `
		I boot Larch Mobile Sync 8.0.1 install
		#
		I fs extracting payload larch.pak
		E fs larch.pak: entry 118 (core/engine.bin): CRC 9a11 expected, 73fe computed
		E boot payload is not usable
		I boot exit code 9`},
	{name: "a program that runs on, German without its letters", layout: "minutes", class: "in-use",
		subject: "fb_rechnung.exe", action: "Prüfung|suche laufende Programme", exit: 14, lines: `
		I Start Fichtenberg Rechnungen 12.0 - Einrichtung
		#
		I Prüfung suche laufende Programme
		I Prüfung fb_rechnung.exe (PID 3384, Sitzung 2, K.Lindqvist)
		I Prüfung bitte schliessen - keine Antwort im stillen Betrieb
		I Prüfung fb_rechnung.exe laeuft noch
		I Start Einrichtung wird beendet
		I Start Code 14`},
	{name: "a denial by control of applications", layout: "starred", class: "policy security-software",
		subject: `C:\ProgramData\Maple\stub.exe|stub.exe`, lines: `
		| === Maple Kiosk 4 deployment ===
		I x target: KIOSK-17
		#
		W x Windows Defender Application Control denied C:\ProgramData\Maple\stub.exe
		W x stub.exe did not run
		| === deployment failed ===`},
	{name: "a service that is a must", layout: "faults", class: "prerequisite condition",
		action: "prereq|looking for Cedar Index Service", exit: 1, lines: `
		I setup Cedar Archive Reader 5.5 setup
		#
		I prereq looking for Cedar Index Service 2.x
		D prereq HKLM\SOFTWARE\Cedar\Index not there
		W prereq Cedar Index Service is a must, and it is not on this machine
		E setup stopped before any change
		I setup leaving, 1`},
	{name: "a port that is bound to another site", layout: "barred", class: "in-use leftover condition",
		action: "iis|binding", exit: 183, lines: `
		I setup Spruce Ledger Web 3 installer
		#
		I iis binding *:443 to site Spruce
		E iis Cannot create a file when that file already exists. (0x800700B7)
		D iis *:443 is bound to site "Default Portal"
		E setup could not set up the site
		I setup finished with status 183`},
	{name: "old settings that end too early", layout: "slashed", class: "corrupt leftover",
		subject: `C:\Users\k.osei\AppData\Roaming\Poplar\settings.xml|settings.xml`, exit: 4, lines: `
		I main Poplar Dispatch 9 setup starting
		#
		I main migrating settings of Poplar Dispatch 8
		W main C:\Users\k.osei\AppData\Roaming\Poplar\settings.xml: unexpected end of file, line 1
		W main old settings cannot be read
		E main migration failed, nothing was installed
		I main setup exits (code 4)`},
	{name: "set up beside troubles", layout: "ctime", outcome: story.Succeeded, lines: `
		I setup Willow Survey 2.0 install
		#
		W net proxy discovery failed, going direct
		W fs 3 fonts left in place
		#
		I setup Willow Survey 2.0 was set up. Enjoy!
		I setup rc=0`},
	{name: "a log that stops beside an optional failure", layout: "faults", outcome: story.Unfinished, lines: `
		I setup Aspen Relay 1 setup
		#
		E net cannot reach stats.aspen.example (optional)
		I fs placing files
		#`},
	{name: "an adapter below the level", layout: "marked", class: "condition platform prerequisite", exit: 3, lines: `
		I x Hornbeam Video 4.4 setup
		#
		I x checking graphics
		I x adapter: Basic Display Adapter, feature level 9_3
		E x feature level 11_0 or better is needed
		I x result 3`},
	{name: "no room left, in French", layout: "minutes", class: "space", subject: "base.dat|C:", exit: 28, lines: `
		I Début Installation de Charme Facture 3.1
		#
		I Disque volume C: 98 % occupé
		I Copie base.dat (2,1 Go)
		I Copie base.dat interrompue à 640 Mo : plus de place
		I Début l'installation est annulée
		I Début code 28`},
	{name: "a module of the other width", layout: "barred", class: "platform",
		action: "tapi|registering provider", exit: 193, lines: `
		I setup Linden Telephony 7.7 installer
		#
		I tapi registering provider linden.tsp
		W tapi linden.tsp is a 32-bit module, the telephony service is 64-bit
		E tapi provider refused: not a valid Win32 application
		E setup installation failed
		I setup finished with status 193`},
	{name: "a language without strings", layout: "slashed", class: "command-line", exit: 2, lines: `
		I main Sycamore Vault 5 setup starting
		I main parameters: /S /D=C:\Sycamore Vault /LANG=xx
		#
		E main language "xx" has no strings
		I main setup exits (code 2)`},
	{name: "a version that cannot be removed", layout: "ecs", class: "leftover path cached-package",
		subject: `C:\Program Files\Walnut15\unins.exe|unins.exe|Walnut Office Tools 15`, exit: 13, lines: `
		I boot Walnut Office Tools 16 install
		#
		I ups uninstalling Walnut Office Tools 15
		W ups C:\Program Files\Walnut15\unins.exe not found
		E ups version 15 cannot be removed
		E boot both versions cannot live side by side
		I boot exit code 13`},
	{name: "a hash that is not in the catalogue", layout: "ctime", class: "corrupt policy",
		subject: "elmbar.inf", action: "pnputil|drv|pnputil /add-driver elmbar.inf /install", exit: 30, lines: `
		I setup Elm Barcode Reader 2.4 install
		#
		I drv pnputil /add-driver elmbar.inf /install
		D drv Adding driver package: elmbar.inf
		E drv Failed to add driver package: The hash for the file is not present in the specified catalog file. The file is likely corrupt or the victim of tampering.
		E setup driver not installed
		I setup rc=30`},
	{name: "a rule of the firewall without rights", layout: "faults", class: "elevation permission custom-action",
		action: "fw|netsh|netsh advfirewall firewall add rule", exit: 5, lines: `
		I setup Beech Messenger 10 setup
		I setup started by: BEECH\helpdesk (not elevated)
		#
		I fw netsh advfirewall firewall add rule name="Beech"
		E fw netsh ended with 1
		E setup firewall rule missing
		I setup leaving, 5`},
	{name: "a source that wants another password", layout: "shouted", class: "source permission network",
		subject: `\\depot-2\apps\chestnut\data7.cab|data7.cab|\\depot-2\apps\chestnut|depot-2`, exit: 1326, lines: `
		I setup Chestnut Catalog 8 - unattended
		I source \\depot-2\apps\chestnut
		#
		I copy \\depot-2\apps\chestnut\data7.cab: the user name or password is incorrect
		I setup source lost
		I setup exit 1326`},
	{name: "a serial port that is open elsewhere", layout: "slashed", class: "in-use permission",
		subject: "COM4|ashlegacy.exe", action: "com|opening COM4", exit: 6, lines: `
		I main Ash Weather Station 3 setup starting
		#
		I com opening COM4
		W com COM4: Access is denied
		D com COM4 is open in ashlegacy.exe
		E main station not found
		I main setup exits (code 6)`},
	{name: "the engine's service out of reach", layout: "barred", class: "installer-service",
		action: "msi|waiting for the installer service", exit: 1601, lines: `
		I setup Holly Signage 2 installer
		I setup pending operations: none
		#
		I msi waiting for the installer service
		W msi 1601: the installer service could not be accessed
		E setup package holly.msi was not run
		I setup finished with status 1601`},
	{name: "a path variable beyond its limit", layout: "marked", class: "path", exit: 5, lines: `
		I x Hawthorn Studio 11 setup
		#
		I x writing environment
		E x PATH would be 33012 characters long, 32767 is the limit
		E x environment not written
		I x result 5`},
	{name: "a password that ran out, in German", layout: "minutes", class: "database permission network service",
		action: "Datenbank|Verbindung", exit: 40, lines: `
		I Start Ulmenhof Inventur 5.0 wird installiert
		#
		I Datenbank Verbindung zu SRV-DB2\INVENTUR
		I Datenbank Anmeldung als sa: Kennwort abgelaufen
		I Datenbank keine Verbindung
		I Start Installation nicht möglich
		I Start Code 40`},
}
