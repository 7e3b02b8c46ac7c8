package verdict

import (
	"encoding/json"
	"fmt"
	"time"
)

func init() {
	words := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARN", 'E': "ERROR"}
	small := map[byte]string{'D': "debug", 'I': "info", 'W': "warn", 'E': "error"}
	spoken := map[byte]string{'W': "warning: ", 'E': "error: "}
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"levels in front": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s %s [%s] %s", at.Format("2006-01-02 15:04:05"), words[level], part, text)
		},
		"colons": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("%s %s: %s", at.Format("15:04:05"), part, text)
		},
		"short keys": func(at time.Time, level byte, part, text string) string {
			said, _ := json.Marshal(text) // a string can be written
			return fmt.Sprintf(`{"t":"%s","lvl":"%s","src":"%s","m":%s}`, at.Format("2006-01-02T15:04:05"), small[level], part, said)
		},
		"parts in brackets": func(_ time.Time, level byte, part, text string) string {
			return fmt.Sprintf("[%s] %s%s", part, spoken[level], text)
		},
		"commas": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s,%c,%s,%s", at.Format("02.01.06 15:04:05"), level, part, text)
		},
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// A fourteenth set of made-up setups.
var fourteenthVendors = []told{
	{name: "a runtime of which older ones are there", layout: "levels in front", class: "prerequisite",
		subject: ".NET Desktop Runtime 8.0.6|.NET Desktop Runtime|8.0.6|.NET Desktop Runtime 8.0", action: "dotnet|looking for .NET Desktop Runtime", exit: 9002, lines: `
		I setup Albatross Fleet 8.2 setup started
		#
		I dotnet looking for .NET Desktop Runtime 8.0.6 or later
		I dotnet found: 6.0.36, 7.0.20
		E dotnet required runtime is not installed
		I setup setup ended with exit code 9002`},
	{name: "graphics that are not enough", layout: "colons", class: "condition platform prerequisite",
		action: "D3D11CreateDevice|gpu|creating device", exit: 34, lines: `
		I setup Shearwater Maps 5 setup
		#
		I gpu creating device
		I gpu D3D11CreateDevice returned 0x887A0004 (feature level not supported)
		I gpu adapter: Basic Display Adapter
		I setup this computer's graphics are not sufficient
		I setup setup closes, code 34`},
	{name: "a menu that only administrators may change", layout: "parts in brackets", class: "elevation permission", exit: 5, lines: `
		I setup Bonxie Books 2.2 Setup
		#
		I shortcut C:\ProgramData\Microsoft\Windows\Start Menu\Programs\Bonxie.lnk
		E shortcut could not save the shortcut: 0x80070005
		I setup run as administrator? no
		E setup Setup could not be completed (5)`},
	{name: "a service that does not stop", layout: "commas", class: "service",
		subject: "CormorantSvc", action: "svc|stopping CormorantSvc", exit: 1053, lines: `
		I setup Cormorant Dispatch 11 upgrade
		#
		I svc stopping CormorantSvc
		W svc CormorantSvc is STOP_PENDING since 120 s
		E svc gave up waiting for CormorantSvc to stop (1053)
		I setup upgrade aborted: 1053`},
	{name: "a transfer that is broken off", layout: "levels in front", class: "network",
		subject: "files.pelican.example|https://files.pelican.example/1.9/pelican.cab|pelican.cab", action: "dl|downloading|download", lines: `
		I setup Pelican Reader 1.9 setup
		#
		I dl downloading https://files.pelican.example/1.9/pelican.cab
		W dl got 12,288 of 48,120,332 bytes, connection closed by peer
		I dl resuming at 12,288
		W dl got 12,288 of 48,120,332 bytes, connection closed by peer
		E dl three attempts failed
		E setup Setup failed: download`},
	{name: "fonts that policy blocks", layout: "short keys", class: "policy security-software",
		subject: "skua-mono.ttf|MitigationOptions_FontBlocking", action: "fonts|registering skua-mono.ttf|AddFontResourceEx", lines: `
		I setup Skua Terminal 6.1 setup
		#
		I fonts registering skua-mono.ttf
		D fonts policy MitigationOptions_FontBlocking=1000000000000
		W fonts AddFontResourceEx: 0, GetLastError 0
		E fonts untrusted fonts are blocked on this computer
		E setup setup failed`},
	{name: "a configuration in another encoding", layout: "colons", class: "corrupt condition registry",
		subject: `C:\ProgramData\Tern\tern.xml|tern.xml`, action: `cfg|reading C:\ProgramData\Tern\tern.xml|reading`, exit: 87, lines: `
		I setup Tern Payroll 26.1 setup
		#
		I cfg reading C:\ProgramData\Tern\tern.xml
		I cfg line 40: 'ü' is an invalid character for encoding UTF-8
		I cfg configuration cannot be used
		I setup setup stops with 87`},
	{name: "a repository that contradicts itself", layout: "commas", class: "component-store service corrupt condition registry unknown",
		action: "wmi|querying Win32_ComputerSystem", exit: -2147217389, lines: `
		I setup Dotterel Scan 4.4 Setup
		#
		I wmi querying Win32_ComputerSystem
		E wmi 0x80041013 provider load failure
		D wmi winmgmt /verifyrepository: WMI repository is inconsistent
		I setup Setup finished unsuccessfully, result -2147217389`},
	{name: "a name with letters that were lost", layout: "levels in front", class: "path",
		action: "fs|extracting", exit: 123, lines: `
		I setup Fulmar Clinic 9.0 installer
		#
		I fs extracting to C:\Users\Zoë\AppData\Local\Temp\fulmar
		E fs zip entry not created: C:\Users\Zo?\AppData\Local\Temp\fulmar\a.dat: The filename, directory name, or volume label syntax is incorrect
		E setup installer ended, 123`},
	{name: "a program of the setup's that may not log on", layout: "parts in brackets", class: "custom-action permission service condition",
		subject: `dbinit.exe|C:\Program Files\Guillemot\dbinit.exe|ledger`, action: "run|dbinit.exe", lines: `
		I setup Guillemot Post 3 Setup
		#
		I run C:\Program Files\Guillemot\dbinit.exe --create
		I run dbinit.exe: fatal: password for user "ledger" rejected
		E run dbinit.exe ended with 2
		E setup rolling back
		E setup Setup failed`},
	{name: "signed by another", layout: "commas", class: "corrupt policy security-software",
		action: "sig|verifying razorbill.msi|verifying", exit: 21, lines: `
		I setup Razorbill Studio 7 setup
		#
		I sig verifying razorbill.msi
		E sig signer is "Brine Test CA", expected "Razorbill Ltd"
		I setup stopped: 21`},
	{name: "a registry that may not be read", layout: "colons", class: "permission registry elevation",
		subject: `HKLM\SOFTWARE\Auk|auk.reg`, action: "reg|importing auk.reg", exit: 1, lines: `
		I setup Auk Tickets 5.5 setup
		#
		I reg importing auk.reg
		I reg ERROR: Error accessing the registry. (HKLM\SOFTWARE\Auk)
		I setup registry settings could not be written
		I setup ends: 1`},
	{name: "a runtime of which another version is there", layout: "levels in front", class: "leftover prerequisite",
		subject: `runtime.msi|C:\Setup\runtime.msi`, action: `msi|running C:\Setup\runtime.msi|running`, lines: `
		I setup Dovekie Lab 1.2 setup
		#
		I msi running C:\Setup\runtime.msi
		W msi runtime.msi -> 1638
		I msi another version of this product is already installed
		E setup runtime could not be installed, result 1638`},
	{name: "a task that cannot be made", layout: "parts in brackets", class: "custom-action condition corrupt command-line registry unknown", lines: `
		I setup Noddy Charts 4 setup
		#
		I task creating scheduled task "Noddy Update"
		E task 0x80041318: (8,42):LogonType:INTERACTIVE
		E task the task XML contains a value which is incorrectly formatted or out of range
		E setup setup failed`},
}
