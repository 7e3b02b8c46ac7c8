package verdict

import (
	"encoding/json"
	"fmt"
	"time"

	"hollowkey/core/logs/story"
)

func init() {
	severity := map[byte]int{'D': 7, 'I': 6, 'W': 4, 'E': 3}
	figure := map[byte]int{'D': 20, 'I': 30, 'W': 40, 'E': 50}
	words := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARNING", 'E': "ERROR"}
	japanese := map[byte]string{'D': "詳細", 'I': "情報", 'W': "警告", 'E': "エラー"}
	german := map[byte]string{'D': "Detail", 'I': "Hinweis", 'W': "Warnung", 'E': "Fehler"}
	polish := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "OSTRZ", 'E': "BŁĄD"}
	korean := map[byte]string{'D': "상세", 'I': "정보", 'W': "경고", 'E': "오류"}
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"a sign behind the part": func(at time.Time, _ byte, part, text string) string {
			return at.Format("15:04:05.000 ") + part + "> " + text
		},
		"seconds and severities": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%d.%03d %d %s %s", at.Unix(), at.Nanosecond()/1e6, severity[level], part, text)
		},
		"Japanese times": func(at time.Time, level byte, part, text string) string {
			return at.Format("2006年01月02日 15時04分05秒 ") + japanese[level] + " " + part + "：" + text
		},
		"colons without blanks": func(_ time.Time, level byte, part, text string) string {
			return words[level] + ":" + part + ":" + text
		},
		"a system log of the new form": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("<14>1 %s PE-D14 %s 4120 - - %s", at.Format("2006-01-02T15:04:05.000000Z"), part, text)
		},
		"scopes and events": func(at time.Time, level byte, part, text string) string {
			said, _ := json.Marshal(text) // a string can be written
			return fmt.Sprintf(`{"ts": %d, "lvl": %d, "scope": "%s", "event": %s}`, at.UnixMilli(), figure[level], part, said)
		},
		"dots between columns": func(at time.Time, level byte, part, text string) string {
			return at.Format("02.01.2006 15:04:05 · ") + german[level] + " · " + part + " · " + text
		},
		"semicolons in Polish": func(at time.Time, level byte, part, text string) string {
			return at.Format("2006-01-02 15:04:05,000;") + polish[level] + ";" + part + ";" + text
		},
		"months and numbers": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("[%s +0100] %s[%d] %c %s", at.Format("02/Jan/2006:15:04:05"), part, 1200+len(part), level, text)
		},
		"a level between date and time": func(at time.Time, level byte, part, text string) string {
			return at.Format("2006/01/02 ") + korean[level] + at.Format(" 15:04:05 ") + "[" + part + "] " + text
		},
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// A sixteenth set of made-up setups, in layouts that join their columns by few
// signs.
var sixteenthVendors = []told{
	{name: "a service of that name, by its number alone", layout: "a sign behind the part", class: "leftover service", subject: `RuddySync|C:\Program Files\Ruddy\rsync.exe`, exit: 21, lines: `
		I launch Ruddy Ledger 8.2 setup, build 8.2.0.118, elevated
		#
		I service creating RuddySync (C:\Program Files\Ruddy\rsync.exe)
		D service OpenSCManager ok
		E service CreateService RuddySync: 1073
		W service taking back 1 of 40 steps
		#
		I launch result: not installed, 21`},
	{name: "a number of its own, told twice", layout: "seconds and severities", class: "unknown custom-action network", exit: 80391, lines: `
		I main Teal Crane Survey 3.0 installation, user GREBE\svc-deploy
		#
		I act activation against lic.tealcrane.example:8443
		E act answer 0x00013A07 after 2100 ms
		D act no text for 0x00013A07
		#
		E main installation given up, 80391`},
	{name: "a runtime that is asked for, in Japanese", layout: "Japanese times", class: "prerequisite", action: "前提|確認", exit: 14, lines: `
		I 管理 あおさぎ会計 6.1 セットアップを開始
		#
		I 前提 .NET ランタイム 8 を確認
		E 前提 必要な .NET ランタイム 8.0 が見つかりません（検出: 6.0.21）
		I 管理 セットアップを中止しました。終了コード 14`},
	{name: "a build that a gate refuses", layout: "colons without blanks", class: "condition", subject: "min_build|22000|19044|build", action: "inst.gate|gate|host", exit: 9, lines: `
		I inst.main Godwit SCADA view 2.7 provisioning
		D inst.host build=19044 arch=AMD64 admin=1
		#
		D inst.cfg min_build=22000
		#
		I inst.gate host accepted: no
		E inst.run [Errno 2] No such file or directory: 'C:\\godwit\\node.cfg'
		E inst.main provisioning failed, exit 9`},
	{name: "a file that a tray holds", layout: "a system log of the new form", class: "in-use", subject: `C:\Program Files\Dotterel\core.dll|core.dll|DotterelTray.exe`, action: "files|replacing", exit: 32, lines: `
		I setup Dotterel Desk 4.0.2 setup started
		#
		I files replacing C:\Program Files\Dotterel\core.dll
		W files core.dll is held by DotterelTray.exe (pid 5120), waiting 30 s
		W files core.dll is held by DotterelTray.exe (pid 5120), waiting 30 s
		E files giving up on core.dll
		E setup Dotterel Desk was not updated (code 32)`},
	{name: "no room, by its name", layout: "scopes and events", class: "space", subject: `D:|D:\Atlas\data.pak`, action: "apply|extracting|write", lines: `
		I boot Plover Atlas 5.5.0 updater
		#
		I apply extracting atlas-5.5.0.nupkg
		E apply ENOSPC: no space left on device, write 'D:\\Atlas\\data.pak'
		I boot staying on 5.4.9
		E boot update failed`},
	{name: "a store of certificates, dots between columns", layout: "dots between columns", class: "permission elevation", subject: `LocalMachine\Root|kiebitz-ca.cer`, action: "Zertifikat|importiere", exit: 17, lines: `
		I Start Kiebitz Kasse 9.1 Installation beginnt
		#
		I Zertifikat importiere kiebitz-ca.cer in LocalMachine\Root
		E Zertifikat Zugriff verweigert (0x80070005) beim Öffnen des Speichers
		W Start Schritte werden zurückgenommen
		E Start Installation abgebrochen, Rückgabewert 17`},
	{name: "a database host that refuses, in Polish", layout: "semicolons in Polish", class: "network", subject: "10.2.0.15|10.2.0.15:1433", action: "baza|łączenie", exit: 23, lines: `
		I start Rybołów Magazyn 4.0 instalacja
		#
		I baza łączenie z 10.2.0.15:1433
		E baza Nie można nawiązać połączenia: host odmówił (10061)
		I baza próba 2 z 3
		E baza Nie można nawiązać połączenia: host odmówił (10061)
		E start Instalacja nie powiodła się, kod 23`},
	{name: "a driver whose hash is not in its catalog", layout: "months and numbers", class: "corrupt security-software policy", subject: `wpscan.inf|C:\Whimbrel\drv\wpscan.inf`, action: "driver|pnputil|add driver package", exit: 40, lines: `
		I setupd Whimbrel POS 7.7 set up on TILL-9
		#
		I driver pnputil /add-driver C:\Whimbrel\drv\wpscan.inf /install
		E driver Failed to add driver package: The hash for the file is not present in the specified catalog file. The file is likely corrupt or the victim of tampering.
		E driver pnputil.exe exited with code -536870353
		E setupd aborted, exit status 40`},
	{name: "a key that is denied, in Korean, date and time apart", layout: "a level between date and time", class: "permission", subject: `HKLM\SOFTWARE\Gamawooji`, action: "레지스트리", exit: 8, lines: `
		I 설치 가마우지 회계 5.2 설치 시작
		#
		I 레지스트리 HKLM\SOFTWARE\Gamawooji 쓰기
		E 레지스트리 액세스가 거부되었습니다. (5)
		I 설치 설치를 취소하고 되돌립니다
		E 설치 설치 실패 - 종료 코드 8`},
	{name: "a share that is gone behind an old service that is", layout: "months and numbers", class: "source network", subject: `\\files9\apps\knot\data.cab|files9|data.cab`, action: "share|opening", exit: 13, lines: `
		I setupd Knot Retail 3.3 setup begins
		#
		I cleanup sc delete KnotOld
		W cleanup [SC] OpenService FAILED 1060
		#
		I share opening \\files9\apps\knot\data.cab
		E share \\files9\apps\knot\data.cab: 53 The network path was not found.
		E setupd Knot Retail was not installed, status 13`},
	{name: "a certificate behind a proxy that accepted", layout: "seconds and severities", class: "network", subject: "pkg.shoveler.example|https://pkg.shoveler.example/kiosk.bin", action: "tls|GET", exit: 35, lines: `
		I main Shoveler Kiosk 1.2 setup
		#
		E font font Arvo missing, using another
		I web proxy answered 407 once, then accepted
		#
		I tls GET https://pkg.shoveler.example/kiosk.bin
		E tls certificate verify failed: unable to get local issuer certificate
		E main setup failed, 35`},
	{name: "a good end behind a service that was not there", layout: "colons without blanks", outcome: story.Succeeded, lines: `
		I inst.main Eider Watch 9 provisioning
		#
		W inst.old sc stop EiderOld -> 1060
		#
		I inst.main provisioning finished, exit 0
		E stats.post Retrying after timeout (stats)`},
	{name: "ready to use behind refusals that were none", layout: "a sign behind the part", outcome: story.Succeeded, lines: `
		I launch Gadwall Forms 2.0 setup
		#
		I net mirror 2 refused, then accepted
		W net terminal 4 does not answer, will be connected later
		#
		I launch Gadwall Forms 2.0 is ready to use`},
}
