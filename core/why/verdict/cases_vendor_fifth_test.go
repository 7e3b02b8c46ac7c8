package verdict

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"hollowkey/core/logs/story"
)

// Layouts of programs of all sorts: by class and thread, by relative time, by
// signs, by figures that count down, without any head at all.
func init() {
	words := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARN", 'E': "ERROR"}
	of := func(level byte, debug, info, warning, failure string) string {
		return map[byte]string{'D': debug, 'I': info, 'W': warning, 'E': failure}[level]
	}
	title := func(s string) string { return strings.ToUpper(s[:1]) + s[1:] }
	add := func(name string, f func(at time.Time, level byte, part, text string) string) {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return f(at, level, part, text) + "\n" }
	}
	add("iso", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s %5s [%s] (w-%d) %s", at.Format("2006-01-02T15:04:05.000Z"), words[level], part, len(text)%4, text)
	})
	add("logcat", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s  4120  4124 %c %-9s: %s", at.Format("01-02 15:04:05.000"), level, part, text)
	})
	add("status", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s |-%s in net.quay.%s - %s", at.Format("15:04:05,000"), words[level], title(part), text)
	})
	add("glog", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s%s  4120 %s.cc:%d] %s", of(level, "I", "I", "W", "E"), at.Format("0102 15:04:05.000000"), part, 40+len(text), text)
	})
	add("servlet", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s %s [main] org.quay.%s %s", at.Format("02-Jan-2006 15:04:05.000"), of(level, "FINE", "INFO", "WARNING", "SEVERE"),
			title(part), text)
	})
	add("twolines", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s org.quay.%s run\n%s: %s", at.Format("Jan 02, 2006 3:04:05 PM"), title(part),
			of(level, "FINE", "INFO", "WARNING", "SEVERE"), text)
	})
	add("protocol", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("<%s>1 %s ELLERY-D14 %s 4120 - - %s", of(level, "15", "14", "12", "11"), at.Format(time.RFC3339), part, text)
	})
	add("relative", func(at time.Time, level byte, part, text string) string {
		since := at.Sub(time.Date(2026, 5, 4, 9, 12, 0, 0, time.UTC)).Seconds()
		return fmt.Sprintf("+%08.3fs  %-5s %s: %s", since, strings.ToLower(words[level]), part, text)
	})
	add("envelope", func(at time.Time, level byte, part, text string) string {
		b, _ := json.Marshal(map[string]any{"@t": at, "lvl": title(strings.ToLower(words[level])), "src": map[string]any{"mod": part, "pid": 4120},
			"data": map[string]string{"text": text}})
		return string(b)
	})
	add("quoted", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%q,%q,%q,\"%s\"", at.Format("2006-01-02 15:04:05"), of(level, "DBG", "INF", "WRN", "ERR"), part,
			strings.ReplaceAll(text, `"`, `""`))
	})
	add("threads", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("[%s] [Thread-%d/%s] [%s]: %s", at.Format("15:04:05"), len(text)%5, words[level], part, text)
	})
	add("colons", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s :: %s :: %s :: %s", at.Format(time.DateTime), words[level], part, text)
	})
	add("hex", func(at time.Time, level byte, _, text string) string {
		return fmt.Sprintf("0x1018 %s %s %s", at.Format("15:04:05.000"), of(level, "---", "---", "WRN", "ERR"), text)
	})
	add("ticks", func(at time.Time, level byte, _, text string) string {
		return at.Format("15:04:05") + " " + of(level, "·", "✔", "!", "✖") + " " + text
	})
	add("stars", func(at time.Time, _ byte, _, text string) string {
		return "*** " + at.Format("02/01/06 15:04:05") + " *** " + text
	})
	add("none", func(_ time.Time, _ byte, _, text string) string { return text })
	add("levelfirst", func(at time.Time, level byte, _, text string) string {
		return fmt.Sprintf("[%-7s] %s  %s", of(level, "DEBUG", "INFO", "WARNING", "ERROR"), at.Format("02.01.2006 15:04:05"), text)
	})
	add("tabcells", func(at time.Time, level byte, part, text string) string {
		return strings.Join([]string{at.Format("2006/01/02"), at.Format("15:04:05"), string(level), part, text}, "\t")
	})
	add("dashes", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s - %s - %s - %s", at.Format("2006-01-02 15:04:05,000"), part, words[level], text)
	})
	add("bars", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s|%c|%-8s|%s", at.Format("15:04:05"), level, part, text)
	})
	add("sincestart", func(at time.Time, level byte, _, text string) string {
		since := at.Sub(time.Date(2026, 5, 4, 9, 12, 0, 0, time.UTC)).Seconds()
		return fmt.Sprintf("[%9.3f] %s %s", since, of(level, "   ", " i ", " ! ", " X "), text)
	})
	add("units", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("ts=%s severity=%s unit=%s text=%q", at.Format(time.RFC3339), strings.ToLower(words[level]), part, text)
	})
	add("figures", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("<e time=%q level=%q part=%q>%s</e>", at.Format("15:04:05"), of(level, "4", "3", "2", "1"), part,
			strings.NewReplacer("&", "&amp;", "<", "&lt;").Replace(text))
	})
	add("semicolons", func(at time.Time, level byte, part, text string) string {
		return strings.Join([]string{at.Format("02.01.2006 15:04:05"), of(level, "Debug", "Info", "Warnung", "Fehler"), part, text}, ";")
	})
	add("signs", func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s %s(%d) %s %s", at.Format("20060102-150405"), part, len(text)%9, of(level, ".", "-", "w", "e"), text)
	})
	add("american", func(at time.Time, _ byte, _, text string) string {
		return at.Format("01/02/2006 03:04:05 PM") + " - " + text
	})
	add("four", func(_ time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%-5s%s: %s", of(level, "DEBU", "INFO", "WARN", "ERRO"), part, text)
	})
	add("filled", func(at time.Time, _ byte, part, text string) string {
		return fmt.Sprintf("%7d %-6s %s", at.Sub(time.Date(2026, 5, 4, 9, 12, 0, 0, time.UTC)).Milliseconds(), part, text)
	})
	add("arrows", func(at time.Time, level byte, _, text string) string {
		return at.Format("15:04:05") + " " + of(level, "   ", "-->", "-w>", "-!>") + " " + text
	})
}

// A fifth set of made-up setups: roots that stand quietly, layouts of many
// programs.
var fifthVendors = []told{
	{name: "a policy value read long before", layout: "iso", class: "policy", subject: `AllowSideload|HKLM\SOFTWARE\Policies\Quayline\AllowSideload|HKLM\SOFTWARE\Policies\Quayline`, action: "RegisterExtension|extension|register-extension", lines: `
		I setup Quayline Atlas 7.2.0 setup, build 7204
		#
		I policy read HKLM\SOFTWARE\Policies\Quayline\AllowSideload = 0
		I stage >> stage CopyPayload
		I stage << stage CopyPayload ok
		I stage >> stage RegisterExtension
		W ext extension host declined registration of atlas.shell (not permitted by configuration)
		E stage << stage RegisterExtension failed: result 12
		I setup undoing CopyPayload
		#
		E setup Quayline Atlas 7.2.0 was not set up (12)`},
	{name: "room wanted and free on two lines", layout: "logcat", class: "space", subject: "D:", action: "unpack|unpack|extract", lines: `
		I boot Tidewright Studio installer 2026.1 starting
		#
		I plan target volume D:, required 48 211 MB (sample library full)
		I plan free on D: 12 907 MB; user chose to go on
		I unpack begin unpack samples.tw
		E unpack FileStream.Write returned 0 of 1048576 bytes
		E unpack unpack aborted at 61 %
		#
		E boot Installation did not complete. See above.`},
	{name: "a dependency that is off, by number", layout: "status", class: "service", subject: "HarbourGate|W32Time|Harbour Gate", action: "start-services|start services|services", lines: `
		I main Net Harbour Gateway 3.9 installation
		#
		D svc dependency W32Time: start type DISABLED, state STOPPED
		I task task install-services
		I task task install-services: done
		I task task start-services
		W svc StartService(HarbourGate) -> 1068
		I svc waiting 5 s before next try
		W svc StartService(HarbourGate) -> 1068
		E task task start-services: gave up after 2 tries
		#
		E main setup failed, see support code NHG-31`},
	{name: "an issuer nobody trusts, at debug level", layout: "glog", class: "network", subject: "sync.fellwater.example", action: "fetch_manifest|fetch manifest|fetch", lines: `
		I main Fellwater Chart Sync bootstrap 1.4.2
		#
		D tls peer sync.fellwater.example:443 issuer CN=Ellery Web Gateway Root
		W tls verify error 19: self signed certificate in certificate chain
		E fetch fetch_manifest: attempt 1 of 3 unsuccessful
		W tls verify error 19: self signed certificate in certificate chain
		E fetch fetch_manifest: attempt 3 of 3 unsuccessful
		#
		E main cannot continue without manifest; exiting`},
	{name: "a library held by a tray program", layout: "servlet", class: "in-use", subject: `berthdesk.jar|C:\Program Files\Berthing Desk\lib\berthdesk.jar|BerthTray.exe|BerthTray`, action: "replaceLibraries|replace libraries", lines: `
		I Installer.main Berthing Desk 5.5.1 update
		#
		I Proc.list running: explorer.exe(3120) BerthTray.exe(9044) svchost.exe(812)
		I Phase.begin replaceLibraries
		W Files.move C:\Program Files\Berthing Desk\lib\berthdesk.jar: The process cannot access the file because it is being used by another process
		W Files.move retry 1 for berthdesk.jar
		W Files.move retry 2 for berthdesk.jar
		E Phase.end replaceLibraries: IOException
		#
		E Installer.main Update rolled back`},
	{name: "a folder with a blank and no marks of quotation", layout: "levelfirst", class: "command-line path", subject: `/TARGET|/TARGET=C:\Program|C:\Program|Files\Saltpan`, lines: `
		I main Saltpan Ledger Setup 10.0.3
		#
		I main argv: /quiet /TARGET=C:\Program Files\Saltpan /norestart
		I main option TARGET = C:\Program
		W main unexpected positional argument: Files\Saltpan
		E main invalid invocation, nothing was done
		#
		I main exit 87`},
	{name: "a DLL for 32 bits, by its header", layout: "relative", class: "platform prerequisite", subject: `lk_usb.dll|C:\Windows\SysWOW64\lk_usb.dll`, action: "register-codec", lines: `
		I main Lanternkit Driver Pack 2.2 (x64) setup
		#
		D pe lk_usb.dll: machine 0x014C, characteristics 0x2102
		I step register-codec begin
		E ldr LoadLibrary(lk_usb.dll) = 193
		E step register-codec end: error
		#
		E main setup ended with errors`},
	{name: "a lock of a run that ended", layout: "envelope", class: "leftover busy", subject: `install.lock|C:\ProgramData\Ropewalk\install.lock`, action: "acquire-lock|acquire lock|lock", lines: `
		I main Ropewalk Planner installer 4.0.1 (silent)
		#
		I lock acquire-lock C:\ProgramData\Ropewalk\install.lock
		W lock C:\ProgramData\Ropewalk\install.lock is from pid 5512 (2026-03-30), no such process
		E lock refusing to touch lock of another run
		#
		E main Installation stopped. Code 4`},
	{name: "German, the service's account", layout: "quoted", class: "service", subject: `KajenDienst|svc-kajen|ELLERY\svc-kajen`, action: "Dienst starten|Dienste starten", lines: `
		I main Kajenplan Server 8.1 – Installation
		#
		I schritt Schritt 4 von 6: Dateien kopieren
		D dienst Konto ELLERY\svc-kajen: Kennwort vor 91 Tagen geändert, LogonUser liefert 1326
		I schritt Schritt 5 von 6: Dienst starten
		E dienst Der Dienst KajenDienst wurde wegen einer fehlerhaften Anmeldung nicht gestartet (Anmeldefehler)
		E schritt Schritt 5 wurde nicht abgeschlossen
		I main Alle Änderungen werden zurückgenommen
		#
		E main Die Installation ist gescheitert.`},
	{name: "loud trouble that does not matter", layout: "threads", outcome: story.Succeeded, lines: `
		I Main Gullwatch Viewer 3.3.3 installer
		#
		E Telemetry could not send usage data: connect ETIMEDOUT 203.0.113.9:443
		W Net proxy autodetect failed (12180), going direct
		E Shortcut desktop shortcut skipped: access is denied (5)
		I Main All 214 files verified
		#
		I Main Gullwatch Viewer is ready to use`},
	{name: "a native module without its compiler's language", layout: "ticks", class: "prerequisite", subject: "python3|python|Python|cl.exe", action: "rebuild native module|native module|rebuild", lines: `
		I main windrow-agent install 0.19.2
		#
		I main fetch prebuilt binding
		W main no prebuilt binding for abi 127 win32-x64, building from source
		I main rebuild native module
		D main tried python3: command not found
		E main Could not find any Python installation to use
		E main rebuild native module
		#
		E main install script exited with status 1`},
	{name: "a profile on a server that is gone", layout: "colons", class: "path source network", subject: `\\ELLERY-FS9\home$\tpellow|ELLERY-FS9|\\ELLERY-FS9\home$\tpellow\Moorline`, action: "create profile store|profile", lines: `
		I main Moorline Mail client setup 11.0
		#
		D env APPDATA resolves to \\ELLERY-FS9\home$\tpellow\AppData\Roaming
		I job job create profile store
		E fs mkdir \\ELLERY-FS9\home$\tpellow\AppData\Roaming\Moorline: The network path was not found
		E job job create profile store aborted
		#
		E main Moorline Mail client setup 11.0 could not finish (53)`},
	{name: "renames that wait for a restart", layout: "hex", class: "busy", action: "preflight|PreflightChecks|preflight checks", lines: `
		I main Foghorn Control Suite 6 installer on ELLERY-D14
		#
		I main preflight: begin
		D main PendingFileRenameOperations holds 4 entries
		W main preflight: item 7 not satisfied
		E main preflight: result 1 of 11 items not satisfied
		#
		I main Nothing was installed`},
	{name: "a certificate chain that cannot be built", layout: "protocol", class: "corrupt policy network", subject: "kelp-core.pkg", action: "verify|verify package", lines: `
		I kelp Kelp Reader 2.0 install begins
		#
		I kelp verify kelp-core.pkg
		E kelp WinVerifyTrust(kelp-core.pkg) = 0x800B010A
		E kelp package rejected
		#
		E kelp install of Kelp Reader ended: 3`},
	{name: "a database that refuses the login", layout: "dashes", class: "database permission custom-action network condition", subject: "ELLERY-SQL2|wharfage|svc-bill|sa|WHARFAGE", action: "migrate|migrate_schema|migrate schema", lines: `
		I installer Wharfage Billing 4.4 deployment
		#
		I step migrate_schema: connecting to ELLERY-SQL2
		E db Login failed for user 'svc-bill'. (18456)
		E step migrate_schema: not done
		#
		E installer deployment terminated`},
	{name: "a quota on a profile", layout: "tabcells", class: "space policy", action: "write settings|settings", lines: `
		I main Driftnet Notes 1.12 per-user setup
		#
		W fw firewall rule not added (5) - optional, continuing
		I act write settings
		E fs WriteFile settings.db: 1295
		E act write settings: rolled back
		#
		E main setup result: failure`},
	{name: "French, no administrator", layout: "none", class: "elevation permission", lines: `
		I main Installation de Journal de quai 2.7
		#
		I main Utilisateur : ELLERY\cmoreau (pas administrateur, jeton limité)
		I main Création du dossier C:\Program Files\Journal de quai ...
		E main Accès refusé.
		E main L'installation a été interrompue.
		#
		I main Code de retour : 5`},
	{name: "a clock that is years behind", layout: "twolines", class: "network corrupt", subject: "keys.anchor.example", action: "enrol|enrolment|enrol device", lines: `
		I main Anchor Keys 2.5 setup
		#
		I clock local time is 2019-01-01T00:03:11Z
		I enrol enrol device at https://keys.anchor.example
		W enrol java.security.cert.CertificateNotYetValidException: NotBefore: Mon Mar 02 00:00:00 UTC 2026
		E enrol enrol device: SSLHandshakeException
		#
		E main Setup ended unsuccessfully`},
	{name: "a value that says where the base program is", layout: "stars", class: "registry prerequisite leftover", subject: `HKLM\SOFTWARE\WOW6432Node\Helm\Core|InstallDir|HKLM\SOFTWARE\WOW6432Node\Helm\Core\InstallDir`, action: "locate core|LocateCore", lines: `
		I main Helm Plotter add-on 1.1
		#
		I main locate core: reading HKLM\SOFTWARE\WOW6432Node\Helm\Core, value InstallDir
		I main locate core: value InstallDir is not set (2)
		I main cannot tell where the base program lives
		#
		I main add-on was not installed`},
	{name: "a file that vanished after it was written", layout: "iso", class: "security-software", subject: `tp_hook.dll|C:\Program Files\Tidepool\tp_hook.dll`, action: "InstallHooks|install hooks", lines: `
		I setup Tidepool Inspector 9.0 installation
		#
		I copy wrote C:\Program Files\Tidepool\tp_hook.dll (48 KB)
		I stage >> stage InstallHooks
		W ldr C:\Program Files\Tidepool\tp_hook.dll vanished 400 ms after it was written
		E ldr LoadLibraryEx: 225
		E stage << stage InstallHooks failed
		#
		E setup Tidepool Inspector 9.0 was not installed`},
	{name: "cut in a download", layout: "logcat", outcome: story.Unfinished, lines: `
		I boot Estuary Map setup 1.9 started
		#
		W net mirror 1 answered 503, trying mirror 2
		I net mirror 2 ok
		I dl download tiles.pak 12 of 640 MB
		#
		I dl download tiles.pak 88 of 640 MB`},
	{name: "Portuguese, cancelled", layout: "quoted", outcome: story.Cancelled, class: "cancelled", lines: `
		I main Porto Diário 3.0 - instalação
		#
		I passo A copiar ficheiros
		W ui O utilizador premiu Cancelar
		I main A desfazer alterações
		#
		I main Instalação cancelada pelo utilizador`},
	{name: "a lower version than the installed one", layout: "status", class: "leftover condition", action: "detect|detect-existing", lines: `
		I main Net Harbour Gateway 3.9 installation
		#
		I task task detect-existing
		I det found 4.1.0 at C:\Program Files\NHG
		W det this installer carries 3.9.0, which is lower
		E task task detect-existing: will not proceed
		#
		E main setup failed, see support code NHG-07`},
	{name: "scripts must be signed", layout: "relative", class: "policy", subject: `post-install.ps1|C:\Temp\lk\post-install.ps1|AllSigned`, action: "post-install", lines: `
		I main Lanternkit Driver Pack 2.3 setup
		#
		D ps effective execution policy: AllSigned (MachinePolicy)
		I step post-install begin
		E ps C:\Temp\lk\post-install.ps1 cannot be loaded. The file is not digitally signed.
		E step post-install end: error
		#
		E main setup ended with errors`},
	{name: "a port that a print server has", layout: "servlet", class: "in-use network service", subject: "8443|port 8443|0.0.0.0:8443", action: "startConnector|start connector", lines: `
		I Installer.main Berthing Server 5.5.1
		#
		I Phase.begin startConnector
		D Net.list LISTEN 0.0.0.0:8443 pid 2210 printhub.exe
		E Connector.start java.net.BindException: Address already in use: bind
		E Phase.end startConnector
		#
		E Installer.main Installation did not succeed`},
	{name: "Japanese, the host's name", layout: "tabcells", class: "network", subject: "koshin.minato.example", action: "更新の取得|更新", lines: `
		I main 港湾台帳 3.1 セットアップを開始します
		#
		I step 手順 2: 更新の取得
		E net リモート名を解決できませんでした: koshin.minato.example
		E step 手順 2 は完了しませんでした
		#
		E main セットアップは失敗しました`},
	{name: "a driver that memory integrity refuses", layout: "glog", class: "policy corrupt security-software", subject: "sndcrd.sys", action: "load_driver|load driver", lines: `
		I main Sounding Card driver package 4.0
		#
		D sys HVCI: running
		I drv load_driver sndcrd.sys
		E drv NtLoadDriver sndcrd.sys -> 577
		E drv load_driver: unsuccessful
		#
		E main driver package not installed`},
	{name: "a folder without an entry for SYSTEM", layout: "colons", class: "permission elevation", subject: `C:\ProgramData\Moorline\queue`, action: "set up queue folder|queue", lines: `
		I main Moorline Server setup 11.0
		#
		I main running as NT AUTHORITY\SYSTEM, elevated: yes
		I job job set up queue folder
		D acl C:\ProgramData\Moorline\queue: owner S-1-5-21-1004-1, SYSTEM has no entry
		E job System.UnauthorizedAccessException: Access to the path is denied.
		|    at System.IO.Directory.Create()
		|    at Moorline.Setup.Queue.Run()
		E job job set up queue folder aborted
		#
		E main Moorline Server setup 11.0 could not finish`},
	{name: "the second disc", layout: "stars", class: "source", subject: `HELM_2|E:|volume HELM_2|E:\`, action: "copy charts", lines: `
		I main Helm Charts World 2026 full installation
		#
		I main copy charts: volume HELM_1 done
		I main copy charts: waiting for volume HELM_2 in E:
		I main copy charts: volume in E: is labelled BACKUP7
		I main copy charts: no answer for 600 s
		#
		I main full installation given up`},
	{name: "a settings file that cannot be read", layout: "dashes", class: "corrupt condition command-line", subject: `site.toml|C:\Deploy\site.toml`, action: "load_config|load config", lines: `
		I installer Wharfage Agent 1.0 rollout
		#
		I step load_config: C:\Deploy\site.toml
		E step load_config: tomllib.TOMLDecodeError: Expected ']' at the end of a table declaration (at line 14, column 9)
		#
		E installer rollout terminated`},
	{name: "a program that crashed", layout: "envelope", class: "custom-action unknown", subject: "rwdbinit.exe", action: "init-store|init store", lines: `
		I main Ropewalk Server installer 4.0.1
		#
		I step init-store: starting rwdbinit.exe --create
		E step init-store: rwdbinit.exe ended with 3221225477
		#
		E main Installation stopped. Code 9`},
	{name: "Spanish, a runtime", layout: "levelfirst", class: "prerequisite condition", lines: `
		I main Bitácora Marina 5 - instalador
		#
		I main Comprobación de requisitos
		I main   Windows 10 o posterior: sí
		W main   .NET Desktop Runtime 8.0: no encontrado
		#
		E main Faltan requisitos. No se instaló nada.`},
	{name: "an exception with its reason in brackets", layout: "threads", class: "permission in-use", subject: `gull.ini|C:\ProgramData\Gullwatch\gull.ini`, action: "WriteConfig|write config", lines: `
		I Main Gullwatch Server 3.3.3 installer
		#
		D Attr C:\ProgramData\Gullwatch\gull.ini: attributes R--A
		I Main WriteConfig
		E Main java.io.FileNotFoundException: C:\ProgramData\Gullwatch\gull.ini (Access is denied)
		E Main WriteConfig threw, stopping
		#
		E Main Gullwatch Server could not be installed`},
	{name: "a path too long, after a failure made good", layout: "iso", class: "path", action: "CopyPayload", lines: `
		I setup Quayline Atlas 7.3.0 setup, build 7311
		#
		W net download part 3: connection reset, resumed
		I net download complete
		I stage >> stage CopyPayload
		D fs target path has 278 characters, long paths disabled
		E fs CreateFile failed with 206
		E stage << stage CopyPayload failed: result 7
		#
		E setup Quayline Atlas 7.3.0 was not set up (7)`},
	{name: "Russian, the registry", layout: "relative", class: "permission registry elevation", subject: `HKLM\SOFTWARE\Stvor`, action: "запись реестра|реестр", lines: `
		I main Установка «Створ» 2.2
		#
		I step Шаг 3: запись реестра
		E reg RegCreateKeyEx HKLM\SOFTWARE\Stvor: Отказано в доступе (5)
		E step Шаг 3 прерван
		#
		E main Установка не выполнена`},
	{name: "reboot to finish", layout: "ticks", outcome: story.Restart, lines: `
		I main windrow-agent install 0.20.0
		#
		W main windrow.sys is loaded, replacement queued for next boot
		I main service registered
		#
		I main installed; reboot to finish`},
	{name: "a feature of the OS", layout: "hex", class: "component-store prerequisite", action: "enable feature|enable|enable IIS-WebServerRole|features", lines: `
		I main Foghorn Control Suite 6 installer on ELLERY-D14
		#
		I main enable feature IIS-WebServerRole
		E main dism.exe returned 0x80073712
		E main enable feature: cannot continue
		#
		I main Foghorn Control Suite 6 was not installed`},
	{name: "the engine's mutex is held", layout: "protocol", class: "busy", subject: "msiexec|kelp-core.msi", lines: `
		I kelp Kelp Reader 2.1 install begins
		#
		I kelp install core: msiexec /i kelp-core.msi /qn
		D kelp mutex Global\_MSIExecute is held
		E kelp install core: child returned 1618
		#
		E kelp install of Kelp Reader ended: 1618`},
	{name: "the management repository", layout: "twolines", class: "registry component-store service prerequisite unknown", lines: `
		I main Anchor Inventory 1.5 setup
		#
		I hw query hardware via root\cimv2
		E hw ConnectServer(root\cimv2) 0x8004100E
		#
		E main Setup ended unsuccessfully`},
	{name: "a licence server's name", layout: "envelope", class: "network", subject: "lic01|lic01.fellwater.local|lic01.fellwater.local:27000", action: "check-licence|licence|check licence", lines: `
		I main Ropewalk Planner installer 4.0.2 (silent)
		#
		I lic check-licence 27000@lic01.fellwater.local
		W lic getaddrinfo lic01.fellwater.local 11001
		E lic check-licence: no answer from any server
		#
		E main Installation stopped. Code 6`},
}
