package verdict

// A fourth set of made-up setups, written after what the first three taught was
// in place.
var fourthVendors = []told{
	{name: "no right to log on as a service", layout: "brackets", class: "service", subject: "svc-berth|BerthSync", lines: `
		I main Berthline Server 9.2 setup
		#
		I svc start BerthSync as ELLERY\svc-berth
		E svc start refused, 1385: Logon failure: the user has not been granted the requested logon type at this computer.
		E main setup failed`},
	{name: "the remote procedure call server", layout: "columns", class: "service", lines: `
		I main Pilot Roster 8 setup
		#
		E spool AddPrinter: 1722 The RPC server is unavailable.
		E main setup failed`},
	{name: "a quota", layout: "json", class: "space", subject: "", lines: `
		I main Chart Library 2027 per-user setup
		#
		E copy writing north.pak stopped: not enough quota is available to process this command
		E main setup ends with an error`},
	{name: "a variable that nobody replaced", layout: "tabs", class: "path command-line", subject: "%DEPLOYROOT%", lines: `
		I main Quay agent 6 install
		#
		E src %DEPLOYROOT%\agent\core.cab: The filename, directory name, or volume label syntax is incorrect.
		E main install failed`},
	{name: "a drive that only the person has", layout: "syslog", class: "source path", subject: `P:`, lines: `
		I main Wharfage Ledger 3.3 setup, elevated
		#
		E src P:\setups\ledger\core.cab: the drive P: is not mapped in this session
		E main setup failed`},
	{name: "the certificate is somebody else's", layout: "page", class: "network", subject: "cdn.saltmarsh.example", lines: `
		I main Tidebook updater 9.5
		#
		E tls cdn.saltmarsh.example: certificate is for *.portellery.example
		E main update not installed`},
	{name: "forbidden", layout: "blocks", class: "network", subject: "cdn.saltmarsh.example", lines: `
		I main Tidebook updater 9.5
		#
		E web GET https://cdn.saltmarsh.example/td/9.5/full.pkg gave 403 Forbidden
		E main update failed`},
	{name: "a firewall", layout: "letters", class: "network", subject: "ellery-sql1", lines: `
		I main Chart Server 2027 setup
		#
		E db ellery-sql1 port 1433: no route, is a firewall in between?
		E main setup failed`},
	{name: "an edition that will not do", layout: "nested", class: "condition platform", lines: `
		I main Harbour Guard 2 setup
		D env edition Home
		#
		E gate this product runs on Pro, Enterprise and Education only
		E main setup ends`},
	{name: "a framework", layout: "table", class: "prerequisite condition", subject: "Framework|.NET", lines: `
		I main Berthline Planner 3.2 setup
		#
		E prereq .NET Framework 4.8 or later is required
		E main setup ends`},
	{name: "a runtime's DLL", layout: "console", class: "prerequisite", subject: "VCRUNTIME140_1.dll", lines: `
		I x Chart Server 2027
		#
		E x charts.exe: VCRUNTIME140_1.dll was not found
		E x Setup failed`},
	{name: "a download that ended early", layout: "logfmt", class: "corrupt network", subject: "full.pkg", lines: `
		I main Tidebook updater 9.6
		#
		E get full.pkg ended after 11842112 of 48211233 bytes
		E main update failed`},
	{name: "another update runs", layout: "pipes", class: "busy", lines: `
		I main Tidebook updater 9.6
		#
		W lock the updater is already running (pid 4120)
		E main update not started: another update is running`},
	{name: "a mark of the web", layout: "bare", class: "policy", subject: "post.ps1", lines: `
		I main Quay Tools 2.2 install
		I x running post.ps1
		E x post.ps1 came from another computer and is blocked
		E x install failed`},
	{name: "an argument that is needed", layout: "letters", class: "command-line", subject: "--site", lines: `
		I main Berth Sync connector 3.1 setup
		E args --site is needed and was not given
		E main setup failed with 64`, exit: 64},
	{name: "an unknown time zone", layout: "columns", class: "unknown custom-action condition registry", lines: `
		I main Tide Watch 4 setup
		#
		E tz the time zone "Ellery Standard Time" is not known here
		E main setup failed`},
	{name: "the printer's driver is by another", layout: "syslog", class: "policy leftover unknown corrupt", lines: `
		I main Harbour Label 5 printer setup
		#
		E drv the driver package is not trusted: publisher Nine Fathom Systems
		E main printer setup failed`},
	{name: "a link that leads nowhere", layout: "brackets", class: "path", subject: `C:\Charts\current`, lines: `
		I main Chart Server 2027 update
		#
		E link C:\Charts\current leads to D:\Charts\2026, which is not there
		E main update failed`},
	{name: "a bad sector", layout: "json", class: "corrupt", lines: `
		I main Chart Library 2027 setup
		#
		E copy reading E:\data\south.pak: unrecoverable read error at 91122176
		E main setup ends`},
	{name: "signed by nobody", layout: "tabs", class: "corrupt policy", subject: "tide.pkg", lines: `
		I main Tidebook updater 9.7
		#
		E sig tide.pkg carries no signature
		E main update refused`},
	{name: "German, the account", layout: "pipes", class: "service", subject: "HafenSync", lines: `
		I main Hafenbuch Server 3 Installation
		#
		E dienst HafenSync konnte nicht starten: Anmeldung des Dienstkontos fehlgeschlagen
		E main Installation fehlgeschlagen`},
	{name: "German, a restart first", layout: "columns", class: "busy", lines: `
		I main Hafenbuch 9 Installation
		#
		E main Ein Neustart steht noch aus, bitte zuerst neu starten
		E main Installation wird beendet`},
	{name: "French, the hash", layout: "json", class: "corrupt", subject: "noyau.pkg", lines: `
		I main Installation de Radio Chenal 3.2
		#
		E paquet noyau.pkg : l'empreinte ne correspond pas
		E main l'installation a échoué`},
	{name: "Spanish, the key", layout: "page", class: "permission registry", subject: `HKLM\SOFTWARE\Libro`, lines: `
		I main Instalador de Libro de Muelles 8.2
		#
		E reg HKLM\SOFTWARE\Libro: acceso denegado
		E main la instalación falló`},
	{name: "Chinese, the space", layout: "syslog", class: "space", lines: `
		I main 潮汐手册 4.1 安装程序
		#
		E 复制 磁盘空间不足，需要 812 MB
		E main 安装失败`},
}
