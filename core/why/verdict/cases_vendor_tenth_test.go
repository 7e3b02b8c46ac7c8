package verdict

import (
	"fmt"
	"strings"
	"time"

	"hollowkey/core/logs/story"
)

func init() {
	words := map[byte]string{'D': "debug", 'I': "info", 'W': "warn", 'E': "error"}
	short := map[byte]string{'D': "trace", 'I': "info", 'W': "warn", 'E': "err"}
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"suffixed": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s+02:00 %s.%s %s", at.Format("2006-01-02T15:04:05"), part, words[level], text)
		},
		"hashed": func(at time.Time, level byte, _, text string) string {
			if level == 'W' || level == 'E' {
				text = "*** " + text
			}
			return "#" + at.Format("150405") + "# " + text
		},
		"paragraphs": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf(`<p class="%s"><b>%s</b> <i>%s</i> %s</p>`, words[level], at.Format("15:04:05"), part, strings.ReplaceAll(text, "<", "&lt;"))
		},
		"records4": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("time: %s\nlevel: %s\npart: %s\ntext: %s\n", at.Format("15:04:05"), words[level], part, text)
		},
		"source": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf(`%s %s\%s.cpp(%d) : %s : %s`, at.Format("15:04:05"), part, part, 100+at.Second(), short[level], text)
		},
		"figures": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s %d %-8s%s", at.Format("20060102 150405"), strings.IndexByte("DIWE", level), part, text)
		},
		"pids": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("%s\t%d\t%s\t%s", at.Format("2006-01-02 15:04:05"), 4120+len(part), part, text)
		},
		"parts": func(_ time.Time, _ byte, part, text string) string { return "[" + part + "] " + text },
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// A tenth set of made-up setups.
var tenthVendors = []told{
	{name: "a font of the OS that may not be replaced", layout: "suffixed", class: "permission in-use leftover",
		subject: `C:\Windows\Fonts\gannet.ttf|gannet.ttf|C:\Windows\Fonts`, action: "fonts|installing Gannet Sans", exit: 19, lines: `
		I setup Gannet Report Designer 4.0 installation started by NT AUTHORITY\SYSTEM
		#
		I fonts installing Gannet Sans to C:\Windows\Fonts
		W fonts AddFontResource gave 0
		D fonts C:\Windows\Fonts\gannet.ttf exists with attributes R, owner TrustedInstaller
		E fonts Gannet Sans could not be replaced
		E setup installation stopped, result 19`},
	{name: "a helper of the other width", layout: "hashed", class: "platform prerequisite corrupt",
		subject: "dlsetup64.exe", exit: 23, lines: `
		I x Dunlin Dictionary 7.5 Setup
		#
		I x starting helper "dlsetup64.exe"
		W x dlsetup64.exe: The application was unable to start correctly (0xc000007b)
		W x helper did not run
		I x Setup ends here, 23`},
	{name: "a configuration that is no XML", layout: "paragraphs", class: "corrupt leftover condition",
		subject: `C:\ProgramData\Knot\planner.xml|planner.xml`, exit: 5, lines: `
		I setup Knot Planner 3.2 installer report
		#
		I conf reading C:\ProgramData\Knot\planner.xml
		E conf planner.xml: '<' is an unexpected token. The expected token is '='. Line 14, position 9.
		E setup Knot Planner was not installed
		I setup exit status 5`},
	{name: "a network that may not register", layout: "records4", class: "network policy",
		action: "net|registering device", exit: 12, lines: `
		I setup Sanderling Telemetry 9 install
		#
		I net registering device at https://reg.sanderling.example/v2
		W net 403 Forbidden: this network is not allowed (egress 10.3.0.0/16)
		E net device not registered
		E setup cannot continue without registration
		I setup exit: 12`},
	{name: "a graphics driver that is too old", layout: "source", class: "prerequisite condition",
		action: "gpu|driver check", exit: 31, lines: `
		I main Phalarope Modeller 2.8 setup
		#
		I gpu driver 452.06, compute 11.0
		I gpu Phalarope needs driver 525 or later
		E gpu driver check failed
		I main return 31`},
	{name: "smart cards are off", layout: "figures", class: "service", action: "card|smart card service asked", exit: 55, lines: `
		I setup Curlew Bank Client 5 setup
		#
		I card smart card service asked
		W card SCardSvr: stopped, start type 4
		E card no reader can be used
		E setup setup broken off
		I setup code 55`},
	{name: "a local engine without its profile", layout: "pids", class: "database path service prerequisite", exit: 17, lines: `
		I setup Tattler Alarm Server 6.6 setup
		#
		I db starting local engine
		I db localengine create tattler
		W db localengine: Unexpected error occurred inside a local instance call (C:\Users\svc is a roaming profile path that does not exist)
		E db local engine is not available
		I setup ended with result 17`},
	{name: "a closing quotation mark that is missing", layout: "parts", class: "path command-line",
		action: "args|fs", exit: 3, lines: `
		I setup Stilt Weather 2.2
		I setup switches: -q -target "E:\Stilt Weather
		#
		I args missing closing quote, taking the rest: E:\Stilt Weather
		I fs E: is not a drive of this machine
		I setup nothing done
		I setup exit 3`},
	{name: "installed for another user", layout: "source", class: "leftover condition permission",
		subject: `C:\Users\mira\AppData\Local\Jacana|jacana.exe|S-1-5-21-9-8-7-1004`, action: "upd", exit: 44, lines: `
		I main Jacana Reader 1 setup
		#
		I upd old version 0.9 found in C:\Users\mira\AppData\Local\Jacana
		W upd jacana.exe 0.9 is installed for another user (S-1-5-21-9-8-7-1004), cannot remove from here
		E main refusing to install beside 0.9
		I main return 44`},
	{name: "quiet hours", layout: "figures", class: "policy condition",
		subject: "quiet hours", action: "task|checking install window", exit: 70, lines: `
		I setup Oriole Signage 2 setup
		#
		I task checking install window
		W task now 07:40, allowed 22:00 to 04:00 (site policy "quiet hours")
		E setup postponed by policy
		I setup code 70`},
	{name: "put on the computer beside troubles", layout: "parts", outcome: story.Succeeded, lines: `
		I setup Vireo Chat 11.0
		#
		I net update feed unreachable, using the bundled one
		I fs shortcut on desktop skipped (locked down)
		#
		I setup Vireo Chat 11.0 has been put on this computer
		I setup exit 0`},
	{name: "a log that stops at two of three", layout: "pids", outcome: story.Unfinished, lines: `
		I setup Tanager Music 3.0 setup
		#
		I fs unpacking 2 of 3
		#`},
	{name: "too little free, in German", layout: "hashed", class: "space", subject: "C:", exit: 9, lines: `
		I x Zaunkönig Gartenplaner 4.1 Einrichtung
		#
		I x Laufwerk C: 1,1 GB frei, Gartenplaner braucht 3,4 GB
		W x zu wenig frei
		I x Einrichtung beendet, Ergebnis 9`},
	{name: "no snapshot", layout: "records4", class: "service custom-action prerequisite", exit: 18, lines: `
		I setup Shrike Backup 5.5 install
		#
		I vss creating a snapshot first
		W vss VSS_E_WRITER_INFRASTRUCTURE (0x80042318), no snapshot
		E setup a snapshot is required before the update
		I setup exit: 18`},
	{name: "an address that belongs to another account", layout: "suffixed", class: "leftover in-use condition permission",
		action: "web|urlacl", exit: 183, lines: `
		I setup Bulbul Forms Server 3 installation started by BRINE\forms
		#
		I web urlacl http://+:8080/forms
		W web url reservation 8080/forms belongs to BRINE\oldforms
		E web url cannot be reserved (183)
		E setup installation stopped, result 183`},
	{name: "removed by a scan of what is read", layout: "figures", class: "security-software",
		subject: `C:\Program Files\Nuthatch\nuthatch.exe|nuthatch.exe`, action: "av", exit: 2, lines: `
		I setup Nuthatch CRM 12 setup
		#
		I av exclusion asked
		W av C:\Program Files\Nuthatch\nuthatch.exe removed by on-access scan 2 s after copy
		E setup nuthatch.exe is gone
		I setup code 2`},
	{name: "an earlier restart that is due", layout: "parts", class: "condition busy",
		subject: "tcvpn.inf", action: "drv|installing tcvpn.inf|device install", exit: 3011, lines: `
		I setup Treecreeper VPN 4.4
		#
		I drv installing tcvpn.inf
		I drv device install: The driver being added requires a restart before it can be used; an earlier restart is still due
		I setup restart this computer, then start setup again
		I setup exit 3011`},
	{name: "an object whose program is gone", layout: "pids", class: "leftover path registry service",
		subject: `C:\Old Siskin\link.exe|Siskin.Link`, exit: 26, lines: `
		I setup Siskin Payroll Link 2.1 setup
		#
		I com creating object Siskin.Link
		W com Siskin.Link: server execution failed (0x80080005)
		D com LocalServer32 is "C:\Old Siskin\link.exe", missing
		E setup payroll link cannot be tested
		I setup ended with result 26`},
	{name: "an answer file without an answer", layout: "hashed", class: "command-line path condition",
		subject: `MapDir|C:\deploy\gc.rsp|gc.rsp`, exit: 4, lines: `
		I x Goldcrest Maps 8 Setup
		#
		I x answer file: C:\deploy\gc.rsp
		I x gc.rsp: MapDir= (empty)
		W x a folder for the maps is needed
		I x Setup ends here, 4`},
	{name: "a licence for another version", layout: "suffixed", class: "condition", exit: 61, lines: `
		I setup Linnet Lab 6 installation started by BRINE\lab
		#
		I lic dongle driver present
		W lic no dongle with Linnet Lab 6 on it (found: Linnet Lab 4)
		E setup licence does not cover this version
		E setup installation stopped, result 61`},
	{name: "a temporary profile", layout: "source", class: "condition path registry", action: "cfg", exit: 29, lines: `
		I main Brambling Kiosk 9 setup
		#
		I cfg profile of user kiosk: C:\Users\kiosk.BRINE.000
		W cfg a temporary profile is loaded, HKCU changes would be lost
		E main will not install into a temporary profile
		I main return 29`},
	{name: "a path of 312 letters", layout: "figures", class: "path",
		subject: `page0001.tif|C:\Archive\2026\clients\north\harbour\ferries\correspondence\incoming\scans\may\raw\page0001.tif`, exit: 206, lines: `
		I setup Serin Archive 2 setup
		#
		I fs long path C:\Archive\2026\clients\north\harbour\ferries\correspondence\incoming\scans\may\raw\page0001.tif
		I fs 312 characters with the target in front
		E fs page0001.tif not written (206)
		E setup setup broken off
		I setup code 206`},
}
