package verdict

import "hollowkey/core/logs/story"

// A third set of made-up setups, written after what the first two taught was in
// place.
var thirdVendors = []told{
	{name: "hash told as digest", layout: "page", class: "corrupt", subject: "voices.pak", lines: `
		I main Fairway Radio 2.2 setup
		#
		W get voices.pak digest 91ab02 listed as 77fe10, fetching once more
		E get voices.pak digest 91ab02 listed as 77fe10
		E main setup gave up`},
	{name: "TLS too old", layout: "tabs", class: "network", subject: "api.saltmarsh.example", lines: `
		I main Tidebook Desk 4.5 installer
		#
		E web api.saltmarsh.example: the server wants TLS 1.2, this machine offers TLS 1.0
		E main installer failed`},
	{name: "the wrong account for the service", layout: "json", class: "service", subject: "svc-berth|BerthSync", lines: `
		I main Berthline Server 9.1 setup
		#
		I svc creating service BerthSync to run as ELLERY\svc-berth
		E svc CreateService: 1057
		E main setup failed`},
	{name: "a service that hangs at its start", layout: "syslog", class: "service", subject: "BerthSync", lines: `
		I main Berthline Server 9.1 setup
		#
		I svc starting BerthSync
		E svc BerthSync still START_PENDING after 30 s
		E main setup failed, status 7`, exit: 7},
	{name: "read-only database file", layout: "columns", class: "permission", subject: "notes.db", lines: `
		I main Quay agent 5.4 upgrade
		#
		E db attempt to write a readonly database: C:\ProgramData\Quay\notes.db
		E main upgrade failed`},
	{name: "no right to make a link", layout: "brackets", class: "permission elevation", lines: `
		I main Chart Server 2027 setup
		#
		E link CreateSymbolicLink C:\Charts\current: 1314
		E main setup failed`},
	{name: "an anti-malware interface", layout: "pipes", class: "security-software", subject: "post.ps1", lines: `
		I main Quay Tools 2.0 install
		#
		I run post.ps1
		E run This script contains malicious content and has been blocked by your antivirus software.
		E main install failed`},
	{name: "an allow list", layout: "blocks", class: "policy", subject: "tideupd.exe", lines: `
		I main Tidebook Desk 4.5 update
		#
		E run tideupd.exe: program is blocked by an application control policy (0x800711C7)
		E main update failed`},
	{name: "a disk that is read badly", layout: "letters", class: "corrupt", lines: `
		I main Chart Library 2026 setup from D:
		#
		E copy D:\data\north.pak: Data error (cyclic redundancy check). (23)
		E main setup stopped`},
	{name: "the media is not in", layout: "nested", class: "source", subject: "D:|disk 2", lines: `
		I main Chart Library 2026 setup
		#
		I media disk 2 wanted in D:
		E media the device is not ready
		E main setup stopped`},
	{name: "a wrong key for the encryption of the settings", layout: "table", class: "unknown corrupt custom-action", lines: `
		I main Quay agent 5.4 install
		#
		E cfg settings.bin: padding is invalid and cannot be removed
		E main install failed`},
	{name: "port taken by a named program", layout: "console", class: "in-use network service", subject: "harbourd.exe|8443", lines: `
		I x Chart Server 2027 setup
		I x Checking ports
		#
		E x Port 8443 is used by harbourd.exe (pid 3312)
		E x Setup cannot continue`},
	{name: "group policy keeps device drivers out", layout: "logfmt", class: "policy", lines: `
		I main Tide Card driver kit 2.1
		#
		E drv 0xe0000248 installation of this device is forbidden by system policy
		E main kit failed`},
	{name: "the session has no desktop", layout: "page", class: "unknown custom-action elevation condition", lines: `
		I main Pilot Roster 7 setup, session 0
		#
		E ui no interactive window station
		E main setup failed`},
	{name: "the person's folder is redirected to a server that is off", layout: "bare",
		class: "path network source", subject: `\\ellery-fs2\home\dpayne|ellery-fs2`, lines: `
		I main Pilot Roster 7 per-user setup
		#
		E x Documents folder \\ellery-fs2\home\dpayne\Documents: The network path was not found.
		E x per-user setup failed`},
	{name: "downgrade", layout: "tabs", class: "condition leftover", subject: "", lines: `
		I main Tidebook Desk 4.1.0 setup
		#
		I old installed version is 4.5.2
		E old a downgrade is not possible
		E main setup ends with 12`, exit: 12},
	{name: "32-bit only", layout: "columns", class: "platform condition", lines: `
		I main Old Harbour Maps 3 setup
		#
		E main this program is for 32-bit systems only, this system is 64-bit
		E main setup ends`},
	{name: "timeout of a proxy", layout: "json", class: "network", subject: "cdn.saltmarsh.example|proxy", lines: `
		I main Tidebook updater 9.3
		#
		W net GET https://cdn.saltmarsh.example/td/4.6/full.pkg: 504 Gateway Time-out
		E net no more mirrors
		E main update failed`},
	{name: "an INI value", layout: "syslog", class: "condition unknown command-line", lines: `
		I main Berth Sync connector 3 setup
		#
		D ini C:\Deploy\site.ini: [Site] Code=
		E ini Site.Code must not be empty
		E main connector setup failed`},
	{name: "a trace with the root at its end", layout: "letters", class: "permission", subject: `C:\Windows\Temp\quay`, lines: `
		I main Quay agent 5.5 install
		#
		E run installer raised an exception
		| System.TypeInitializationException: The type initializer for 'Quay.Store' threw an exception.
		|  ---> System.UnauthorizedAccessException: Access to the path 'C:\Windows\Temp\quay' is denied.
		|    at System.IO.Directory.CreateDirectory()
		E main install failed`},
	{name: "Spanish, policy", layout: "blocks", class: "policy", lines: `
		I main Instalador de Libro de Muelles 8.1
		#
		E exe El programa está bloqueado por una directiva de grupo. Póngase en contacto con el administrador del sistema.
		E main La instalación ha fallado`},
	{name: "French, the cable", layout: "table", class: "network", subject: "maj.chenal.example", lines: `
		I main Mise à jour de Radio Chenal 3.1
		#
		E reseau maj.chenal.example : délai d'attente dépassé
		E main mise à jour interrompue`},
	{name: "Polish, elevation", layout: "console", class: "elevation", lines: `
		I x Instalator Mapy Portu 4
		#
		E x Instalator musi zostać uruchomiony jako administrator
		E x Instalacja przerwana`},
	{name: "Japanese, space", layout: "nested", class: "space", lines: `
		I main 潮汐手帳 4.2 インストーラー
		#
		E 展開 ディスクの空き容量が足りません (C:)
		E main インストールに失敗しました`},
	{name: "Italian, damaged", layout: "brackets", class: "corrupt", subject: "dati.arc", lines: `
		I main Installazione di Registro Porto 3
		#
		E arc dati.arc: archivio danneggiato
		E main installazione fallita`},
	{name: "Dutch, missing runtime", layout: "letters", class: "prerequisite condition", subject: "Nautic Runtime", lines: `
		I main Installatie van Havenlijst 3
		#
		E prereq Nautic Runtime 4.6 ontbreekt
		E main installatie mislukt`},
	{name: "Czech, the service", layout: "pipes", class: "service", subject: "BerthSync", lines: `
		I main Instalace Přístavní kniha 4
		#
		E svc službu BerthSync nelze spustit: služba je zakázána
		E main instalace selhala`},
	{name: "Swedish, in use", layout: "page", class: "in-use", subject: "hamn.dll", lines: `
		I main Uppdatering av Hamnbok 6
		#
		E filer hamn.dll används av en annan process
		E main uppdateringen misslyckades`},
	{name: "a mirror that failed and one that did not", layout: "columns", outcome: story.Succeeded, lines: `
		I main Tidebook Desk 4.6 setup
		#
		E net mirror a: 503
		I net mirror b: 200, 48 MB
		#
		I main Tidebook Desk 4.6 was installed`},
	{name: "nothing but a stop", layout: "json", class: "unknown custom-action", lines: `
		I main Quay Tools 2.1 install
		#
		E main stopped, see the vendor's page for code QT-77`},
}
