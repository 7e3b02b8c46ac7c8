package verdict

import "hollowkey/core/logs/story"

// More made-up setups, told as other programs would.
var moreVendors = []told{
	{name: "a share that is not there any more", layout: "syslog", class: "source network", subject: `\\ellery-fs1\deploy|ellery-fs1`, lines: `
		I setup Wharfage Ledger 3.2.0 deployment begins
		#
		I copy fetching \\ellery-fs1\deploy\wl\core.cab
		E copy open \\ellery-fs1\deploy\wl\core.cab: error 53
		E setup deployment of Wharfage Ledger 3.2.0 failed`},
	{name: "an old driver is still loaded", layout: "brackets", class: "in-use", subject: "tidecard.sys", lines: `
		I main Tide Card driver kit 2.0 setup
		#
		W drv cannot unload tidecard.sys: 3 open handles
		E drv the driver is still loaded, the new one cannot take its place
		E main setup failed with code 41`, exit: 41},
	{name: "no more space after unpacking", layout: "blocks", class: "space", subject: "D:", lines: `
		I main Chart Library 2026 Setup
		#
		I unpack unpacking charts.pak to D:\Charts
		E unpack WriteFile D:\Charts\soundings.bin: 112
		E main Setup was not completed`},
	{name: "a service that nobody knows", layout: "page", class: "service", subject: "BerthSync", lines: `
		I main Tidebook Desk 4.1.0 update
		#
		I svc stopping BerthSync
		E svc OpenService(BerthSync) = 1060
		E main update aborted`},
	{name: "a service's password has run out", layout: "nested", class: "service", subject: "svc-berth|BerthSync", lines: `
		I main Berthline Server 9 installer
		#
		I svc logging on as ELLERY\svc-berth
		E svc StartService BerthSync -> 1069 the service did not start due to a logon failure
		E main installer ends with status 5`},
	{name: "a gate of the operating system's build", layout: "bare", class: "condition platform", subject: "", lines: `
		I main Pilot Roster 6 Setup
		#
		I x OS build 18363
		I x this release needs build 19045 or later
		E x Setup cannot continue.`},
	{name: "a file of the package is missing", layout: "tabs", class: "source path", subject: "lights.dat", lines: `
		I main Fairway Radio 2.0.1 setup
		#
		I copy source folder E:\setup
		E copy E:\setup\data\lights.dat: No such file or directory
		E main setup failed`},
	{name: "a certificate that nobody trusts", layout: "syslog", class: "network", subject: "licence.fairway.example", lines: `
		I main Fairway Radio activation and setup
		#
		E https licence.fairway.example: certificate verify failed: unable to get local issuer certificate
		W https is there a proxy that opens TLS?
		E main setup could not be completed`},
	{name: "a DLL of another processor", layout: "brackets", class: "platform", subject: "charts.dll", lines: `
		I main Chart Server 2026 setup
		#
		E load charts.dll: 193
		E main self check failed
		E main setup rolled back`},
	{name: "a script host that is not there", layout: "blocks", class: "path prerequisite", subject: "pwsh", lines: `
		I main Quay Tools 1.2 install
		#
		I run pwsh -NoProfile -File post.ps1
		E run 'pwsh' is not recognized as an internal or external command, operable program or batch file.
		E main install failed, errorlevel 9009`},
	{name: "protection that says so", layout: "nested", class: "security-software", subject: "updater.exe", lines: `
		I main Tidebook Desk 4.3.0 update
		#
		E run CreateProcess updater.exe: 225
		E main update failed`},
	{name: "a policy against the package", layout: "bare", class: "policy", lines: `
		I main Pilot Roster 6 deployment
		I x running msiexec /i C:\Deploy\pr6.msi /qn
		E x The system administrator has set policies to prevent this installation. (1625)
		E x deployment failed`},
	{name: "not an administrator", layout: "page", class: "elevation", lines: `
		I main Berthline Planner 3.1 Setup
		D env user dpayne, member of Administrators: no
		#
		E reg writing to HKLM\SOFTWARE\Berthline refused
		E main this setup has to be run by an administrator
		E main Setup ends`},
	{name: "an answer that is no file but a page", layout: "tabs", class: "network corrupt",
		subject: "cdn.saltmarsh.example|full.pkg|portal.ellery.example", lines: `
		I main Tidebook updater 9.1
		#
		I get https://cdn.saltmarsh.example/td/full.pkg
		D get redirected to https://portal.ellery.example/login?next=cdn.saltmarsh.example
		D get 14 KB of text/html
		E unpack full.pkg is not an archive
		E main update failed`},
	{name: "a folder where a file should be", layout: "syslog", class: "path", subject: `C:\ProgramData\Quay\agent.cfg`, lines: `
		I main Quay agent 5 install
		#
		E cfg cannot write C:\ProgramData\Quay\agent.cfg: is a directory
		E main install failed`},
	{name: "a drive that is not there", layout: "brackets", class: "path", subject: `H:|H:\Profile\mwhitlow`, lines: `
		I main Pilot Roster 6.1 per-user setup
		#
		D env APPDATA is H:\Profile\mwhitlow\AppData
		E dirs could not create H:\Profile\mwhitlow\AppData\Roaming\Pilot: The system cannot find the path specified.
		E main per-user setup failed`},
	{name: "a key that may not be written", layout: "tabs", class: "permission registry", subject: `HKLM\SOFTWARE\Saltmarsh Quay`, lines: `
		I main Berth Sync connector 2.3 setup
		#
		E reg RegSetValueEx HKLM\SOFTWARE\Saltmarsh Quay\Site\Code: 5
		E main connector setup failed`},
	{name: "an uninstaller that is gone", layout: "nested", class: "leftover path", subject: "uninst.exe|Fairway Radio 1", lines: `
		I main Fairway Radio 2.1 setup
		#
		I old version 1.4 found, removing it first
		E old C:\Program Files\Fairway Radio 1\uninst.exe does not exist
		E old the old version cannot be removed
		E main setup stopped`},
	{name: "a restart is due before", layout: "bare", class: "busy", lines: `
		I main Chart Server 2026.1 setup
		I x PendingFileRenameOperations has 14 entries
		E x A restart is needed before this setup can go on.
		I x Setup ends.`},
	{name: "a port that somebody has", layout: "blocks", class: "in-use network service", lines: `
		I main Chart Server 2026.1 setup
		#
		E web cannot listen on 8443: address already in use
		E main Chart Server was not installed`},
	{name: "a licence that does not fit", layout: "page", class: "condition unknown custom-action", lines: `
		I main Fairway Radio server 4 setup
		#
		E lic key FR4-**** is for edition Harbour, this is edition Coast
		E main setup refused`},
	{name: "a config that cannot be parsed", layout: "tabs", class: "corrupt", subject: "site.json", lines: `
		I main Quay agent 5.1 install
		#
		E cfg site.json:14: unexpected token '}' 
		E main install aborted`},
	{name: "a module that Python misses", layout: "bare", class: "prerequisite", subject: "cryptography", lines: `
		I main Quay Tools 1.3 install
		I x running setup.py
		| Traceback (most recent call last):
		|   File "setup.py", line 3, in <module>
		|     import cryptography
		| ModuleNotFoundError: No module named 'cryptography'
		E x install failed`},
	{name: "German, the path is wrong", layout: "syslog", class: "path", subject: `Z:\Vorlagen|Z:`, lines: `
		I main Hafenbuch 8.0 Installation
		#
		E kopie Zielordner Z:\Vorlagen konnte nicht angelegt werden: Das System kann den angegebenen Pfad nicht finden
		E main Die Installation ist fehlgeschlagen (Code 3)`},
	{name: "German, the certificate", layout: "blocks", class: "network", subject: "dienst.hafen.example", lines: `
		I main Hafenbuch 8.0 Aktualisierung
		#
		E netz dienst.hafen.example: Zertifikat abgelaufen
		E main Aktualisierung nicht möglich`},
	{name: "French, the service", layout: "nested", class: "service", subject: "SyncQuai", lines: `
		I main Mise à jour de Radio Chenal 3.0
		#
		E service Le service SyncQuai n'a pas pu démarrer : il est désactivé
		E main La mise à jour a échoué`},
	{name: "Italian, the network", layout: "page", class: "network", subject: "aggiornamenti.porto.example", lines: `
		I main Aggiornamento di Registro Porto 2
		#
		E rete aggiornamenti.porto.example: nome host non trovato
		E main aggiornamento non riuscito`},
	{name: "Portuguese, no rights", layout: "tabs", class: "permission", subject: `C:\Programas\Livro`, lines: `
		I main Instalação do Livro de Cais 4
		#
		E arquivos não foi possível gravar em C:\Programas\Livro\dados.db: acesso negado
		E main a instalação falhou`},
	{name: "Dutch, the file is held", layout: "syslog", class: "in-use", subject: "havenlijst.db", lines: `
		I main Installatie van Havenlijst 2.2
		#
		E bestanden havenlijst.db wordt gebruikt door een ander proces
		E main installatie mislukt`},
	{name: "Czech, the space", layout: "brackets", class: "space", lines: `
		I main Instalace Přístavní kniha 3
		#
		E soubory nedostatek místa na disku C:
		E main instalace selhala`},
	{name: "Swedish, the older runtime", layout: "bare", class: "prerequisite condition", subject: "Nautic Runtime", lines: `
		I main Installation av Hamnbok 5
		E x Nautic Runtime 4.6 krävs, 4.1 hittades
		E x Installationen misslyckades`},
	{name: "Turkish, the rights", layout: "blocks", class: "permission", subject: `C:\ProgramData\Liman`, lines: `
		I main Liman Defteri 2.0 kurulumu
		#
		E dosya C:\ProgramData\Liman\kayit.db yazılamadı: erişim engellendi
		E main kurulum başarısız oldu`},
	{name: "Korean, the hash", layout: "tabs", class: "corrupt", subject: "core.pkg", lines: `
		I main 항만 수첩 3.0 설치
		#
		E 파일 core.pkg 해시가 일치하지 않습니다
		E main 설치에 실패했습니다`},
	{name: "Chinese, the service", layout: "nested", class: "service", subject: "BerthSync", lines: `
		I main 潮汐手册 4.0 安装程序
		#
		E 服务 无法启动服务 BerthSync：服务已被禁用
		E main 安装失败`},
	{name: "Russian, the host", layout: "page", class: "network", subject: "obnov.port.example", lines: `
		I main Обновление Журнал причалов 2.2
		#
		E сеть obnov.port.example: не удалось разрешить имя узла
		E main обновление не установлено`},
	{name: "debug names a code, the error another", layout: "brackets", class: "permission",
		subject: `C:\Program Files\Quay\agent.exe|agent.exe`, lines: `
		I main Quay agent 5.2 update
		D reg open HKLM\SOFTWARE\Quay\Old: 2
		#
		E swap replacing agent.exe failed: 5
		E swap C:\Program Files\Quay\agent.exe keeps its old version
		E main update failed`},
	{name: "all well in the end", layout: "nested", outcome: story.Succeeded, lines: `
		I main Tidebook Desk 4.4.0 setup
		#
		E net mirror 1 not reachable
		I net mirror 2 used
		#
		I main setup finished, code 0`},
	{name: "a restart at the end", layout: "blocks", outcome: story.Restart, lines: `
		I main Tidebook Desk 4.4.0 setup
		#
		I main setup finished, code 3010, restart required`},
	{name: "time ran out", layout: "tabs", class: "unknown custom-action service busy", lines: `
		I main Quay agent 5.3 install
		#
		E run helper did not answer within 600 s, it was ended
		E main install failed`},
	{name: "a data base that is too old", layout: "page", class: "condition database prerequisite", lines: `
		I main Chart Server 2026.2 upgrade
		#
		E db schema is 2021.1, an upgrade is possible from 2024.0 on
		E main upgrade refused`},
}
