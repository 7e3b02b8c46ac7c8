package names

import (
	"strings"
	"testing"
)

func said(text string) string {
	kinds := [...]string{"", "path ", "file ", "drive ", "key ", "host ", "url ", "service ", "account ", "function ", "package "}
	var out []string
	for _, n := range In(text) {
		out = append(out, kinds[n.Kind]+n.Text)
	}
	return strings.Join(out, "; ")
}

func TestNames(t *testing.T) {
	for _, tt := range []struct{ text, want string }{
		{`Access to the path 'C:\Program Files\Fairway\bridge\fairway.dll' is denied.`, `path C:\Program Files\Fairway\bridge\fairway.dll`},
		{`copy C:\Program Files (x86)\Tidebook Desk\tide.exe to D:\Backup failed`,
			`path C:\Program Files (x86)\Tidebook Desk\tide.exe; path D:\Backup`},
		{`WriteFile R:\stage\pak08.part off 115343360 len 1048576: 112`, `function WriteFile; path R:\stage\pak08.part`},
		{`open C:\\ProgramData\\Berthline\\spool\\queue.idx: EACCES`, `path C:\ProgramData\Berthline\spool\queue.idx; EACCES`},
		{`cannot open \\?\C:\Users\o'neil\x.cfg`, `path C:\Users\o'neil\x.cfg`},
		{`Access to the path 'C:\Users\o'hara\AppData\Local\Tidebook\config.xml' is denied.`,
			`path C:\Users\o'hara\AppData\Local\Tidebook\config.xml`},
		{`writing C:\Users\tess moor\AppData\Local\Tidebook\config.xml failed`, `path C:\Users\tess moor\AppData\Local\Tidebook\config.xml`},
		{`cannot create C:\Users\anna d'arcy lee\Desktop`, `path C:\Users\anna d'arcy lee\Desktop`},
		{`could not read "\\ellery-fs1\home$\tess moor\Documents\plan.dat": 5`, `path \\ellery-fs1\home$\tess moor\Documents\plan.dat`},
		{`source \\ellery-fs1\apps$\roster\roster.msi is not there`, `path \\ellery-fs1\apps$\roster\roster.msi`},
		{`QFile::open C:/Users/pilot/Documents/maps.lock: denied (5)`, `function QFile::open; path C:/Users/pilot/Documents/maps.lock`},
		{`writing %ProgramData%\Berthline\x.ini failed`, `path %ProgramData%\Berthline\x.ini`},
		{`key HKLM\SOFTWARE\Policies\Nine Fathom Systems\Radio: DenyAll=1`, `key HKLM\SOFTWARE\Policies\Nine Fathom Systems\Radio`},
		{`HKEY_LOCAL_MACHINE\Software\Quay cannot be opened`, `key HKEY_LOCAL_MACHINE\Software\Quay`},
		{`Post "https://join.quay.example/v1/enroll": tls failed`, `url https://join.quay.example/v1/enroll; host join.quay.example`},
		{`connect lic.quay.example:27017 (198.51.100.44) timed out`, `host lic.quay.example:27017; host 198.51.100.44`},
		{`version 10.0.19045.1 of tide.dll`, `file tide.dll`},
		{`[Quay.Setup.Copy] QueryServiceStatus(BerthSync): state=1`, `Quay.Setup.Copy; function QueryServiceStatus; BerthSync`},
		{`QueryServiceStatus(Spooler): state=1`, `function QueryServiceStatus; Spooler`},
		{`DeletePrinterDriverEx(Berth T60 v6) = 3001`, `function DeletePrinterDriverEx; Berth T60 v6`},
		{`Failed to create service 'TideIO'.`, `service TideIO`},
		{`cannot start service=BerthSync code=5`, `service BerthSync`},
		{`could not start the Berth Sync Agent service on Local Computer`, `service Berth Sync Agent`},
		{`The BerthSync service terminated unexpectedly.`, `BerthSync`},
		{`CreateDirectory("E:Berth\Data\2026") failed`, `function CreateDirectory; path E:Berth\Data\2026`},
		{`WinHttpSendRequest to dl.berth.example: 12007`, `function WinHttpSendRequest; host dl.berth.example`},
		{`CreateService TideIO: 1072`, `function CreateService; TideIO`},
		{`cannot install Quay.Desk_4.0.1.0_x64__8wekyb3d8bbwe, it is in use`, `package Quay.Desk_4.0.1.0_x64__8wekyb3d8bbwe`},
		{`it can't be; the "Berth label" is not there`, `Berth label`},
		{`account ELLERY\svc-berth cannot log on`, `account ELLERY\svc-berth`},
		{`algo\lungs.dat: CRC error, reading again`, `file algo\lungs.dat`},
		{`drive S: is not there`, `drive S:`},
		{`SOFTWARE\WOW6432Node\Quay\Labels, value Version: not found`, `key SOFTWARE\WOW6432Node\Quay\Labels`},
		{`open System\CurrentControlSet\Services\QuayIO: 5`, `key System\CurrentControlSet\Services\QuayIO`},
		{`D:\SOFTWARE\Quay\quay.exe`, `path D:\SOFTWARE\Quay\quay.exe`},
		{`próba uruchomienia usługi msiserver z argumentami "Brak"`, `service msiserver; Brak`},
		{`CheckSeal tide-7.arc -> 0x80096010`, `function CheckSeal; file tide-7.arc`},
		{`at 09:12:01 the service could not be started.`, ``},
		{`file "Tide Book.xml" is damaged`, `file Tide Book.xml`},
		{`die Datei „D:\Häfen\Liegeplätze Süd\plan.dat“ fehlt`, `path D:\Häfen\Liegeplätze Süd\plan.dat`},
	} {
		if got := said(tt.text); got != tt.want {
			t.Errorf("%s\n names %s\n want  %s", tt.text, got, tt.want)
		}
	}
}

func TestLimits(t *testing.T) {
	long := strings.Repeat("FairwayRadio0 ", 1000)
	if got := In(long); len(got) != maxNames {
		t.Errorf("%d names", len(got))
	}
	if got := In(`C:\` + strings.Repeat(`deep\`, 300)); len(got) != 0 {
		t.Errorf("a name of %d bytes", len(got[0].Text))
	}
}

// A name stands in its line where it says, and has no mark at its end.
func FuzzIn(f *testing.F) {
	f.Add(`Access to 'C:\Program Files\x.dll' is denied, \\host\share %TEMP%\y`)
	f.Add(`HKLM\Software\A b\c: https://a.example/x?y fe80::1 «C:/é»`)
	f.Fuzz(func(t *testing.T, text string) {
		for _, n := range In(text) {
			if n.At < 0 || n.At >= len(text) || n.Text == "" || strings.HasSuffix(n.Text, " ") {
				t.Fatalf("%+v", n)
			}
		}
	})
}
