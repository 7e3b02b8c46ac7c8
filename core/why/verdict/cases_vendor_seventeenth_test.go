package verdict

import (
	"fmt"
	"time"

	"hollowkey/core/logs/story"
)

func init() {
	words := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARN", 'E': "ERROR"}
	small := map[byte]string{'D': "trace", 'I': "info", 'W': "warning", 'E': "error"}
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"a colon without a blank": func(at time.Time, level byte, part, text string) string {
			return at.Format("2006-01-02 15:04:05 ") + words[level] + " " + part + ":" + text
		},
		"a thread and no part": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("%s %d %s", at.Format("15:04:05.000"), 1+len(part)%4, text)
		},
		"dashes between columns": func(at time.Time, _ byte, part, text string) string {
			return at.Format("02/01/2006 15:04:05 - ") + part + " - " + text
		},
		"a level and a bar": func(_ time.Time, level byte, part, text string) string {
			return "[" + small[level] + "] " + part + " | " + text
		},
		"a letter behind the part": func(at time.Time, level byte, part, text string) string {
			return fmt.Sprintf("%s %s[%d] %c %s", at.Format("2006-01-02T15:04:05Z"), part, 3000+len(part), level, text)
		},
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// A seventeenth set of made-up setups, with what looks like a cause and is
// none.
var seventeenthVendors = []told{
	{name: "a helper that ends with 3 as it should", layout: "a colon without a blank", class: "permission", subject: `C:\ProgramData\Brambling\stock.db|stock.db`, action: "db", exit: 11, lines: `
		I setup Brambling Stock 4.1 setup
		#
		I tools helper.exe ended, exit code 3
		I tools helper.exe: 3 means nothing to migrate
		#
		E db cannot open C:\ProgramData\Brambling\stock.db: Access is denied. (5)
		E setup Brambling Stock setup failed, exit code 11`},
	{name: "a number that is a count", layout: "a thread and no part", outcome: story.Succeeded, lines: `
		I main Linnet Rota 2.2 installer
		#
		I main worker 3: moved 80391 records
		#
		I main Linnet Rota 2.2 installed successfully`},
	{name: "a build that is new enough before a lost connection", layout: "dashes between columns", class: "network", subject: "tiles.twite.example|https://tiles.twite.example/base.pak|base.pak", action: "net|GET", exit: 9, lines: `
		I setup Twite Maps 6.0 setup
		I setup Windows 11 Pro 10.0.22631 x64
		I req MinBuild=19045
		#
		I net GET https://tiles.twite.example/base.pak
		E net connection reset by peer (10054)
		E net giving up after 3 tries
		E setup setup failed: 9`},
	{name: "an old service that may not be deleted", layout: "a level and a bar", class: "permission elevation service", subject: "DunnockSvc", exit: 5, lines: `
		I setup Dunnock Forms 5 setup
		#
		I old sc delete DunnockSvc
		E old [SC] DeleteService FAILED 5: Access is denied.
		E setup setup stopped (5)`},
	{name: "a good end behind a number of its own", layout: "a letter behind the part", outcome: story.Succeeded, lines: `
		I setup Wryneck Viewer 1.8 setup
		#
		W lic licence server answered 0x1F40, using the grace period
		#
		I setup Wryneck Viewer 1.8 installed, exit 0
		E stat upload failed 0x1F40`},
	{name: "a full drive behind troubles that passed", layout: "a colon without a blank", class: "space", subject: `D:|D:\x\core.dll|core.dll`, action: "fs|CopyFile", exit: 4, lines: `
		I setup Crossbill Desk 9.1 setup
		#
		W proxy proxy answered 407 once, then accepted
		W net terminal 4 does not answer, connected later
		#
		E fs CopyFile D:\x\core.dll -> 112
		E setup rolling back
		E setup setup failed (exit code 4)`},
	{name: "the second of three packages", layout: "dashes between columns", class: "corrupt policy security-software", subject: "hfscan.inf", action: "Hawfinch Drivers|inst", exit: 21, lines: `
		I setup Hawfinch Lab 3.0 setup
		#
		I inst package 1 of 3: Hawfinch Core done
		I inst package 2 of 3: Hawfinch Drivers
		E inst hfscan.inf: the third-party INF does not contain digital signature information (0xE0000247)
		I inst package 3 of 3: Hawfinch Help done
		E setup finished with errors, 21`},
	{name: "a job called after its product that goes well", layout: "a letter behind the part", outcome: story.Succeeded, lines: `
		I setup Serin Studio 7.4 setup
		#
		I job task "Serin Studio 7.4" accepted
		#
		I run setup.exe /S
		I run still running, limit of 3600 s not reached
		I run setup.exe ended, exit code 0
		I setup Serin Studio installed`},
	{name: "a policy by its value", layout: "a level and a bar", class: "policy", subject: "DisableMSI", action: "msi|msiexec", exit: 1625, lines: `
		I setup Chaffinch Books 12 update
		#
		I policy Policy: DisableMSI = 1
		E msi msiexec ended with 1625
		E setup update not installed (1625)`},
	{name: "rows that are there already behind an old version that is gone", layout: "dashes between columns", class: "custom-action database unknown corrupt leftover", subject: "payslips|pk_payslips", exit: 77, lines: `
		I setup Stonechat Wages 6.6 Setup
		#
		I old previous version 5.9 in C:\Apps\Stonechat removed
		#
		I db migrating 12 tables
		E db table payslips: duplicate key value violates unique constraint "pk_payslips"
		E setup migration failed; setup stopped with 77`},
	{name: "a firewall that is off", layout: "a letter behind the part", class: "service", subject: "MpsSvc", action: "fw|netsh|add rule", exit: 6, lines: `
		I setup Whinchat Sync 3.1 setup
		#
		I fw netsh advfirewall add rule name=Whinchat
		E fw The service has not been started. (1062)
		D fw MpsSvc: start type disabled
		E setup giving up (code 6)`},
	{name: "an adapter that is too old", layout: "a colon without a blank", class: "platform prerequisite condition", subject: "feature level 12_0|adapter|D3D12CreateDevice|12_0", action: "gpu|D3D12CreateDevice", lines: `
		I setup Ortolan View 2.5 setup
		#
		I plan step 1 failed, doing it the other way
		I plan step 1 done
		E gpu D3D12CreateDevice 0x887A0004
		E gpu no adapter supports feature level 12_0
		E setup cannot be installed here (17)`},
	{name: "what cannot be installed has not worked", layout: "a colon without a blank", class: "condition unknown platform", exit: 17, lines: `
		I setup Garganey Rota 2.1 setup
		#
		E setup Setup cannot be installed on this version
		E setup exit code 17`},
	{name: "a check that ended with 1 long before", layout: "a colon without a blank", class: "unknown", exit: 4, lines: `
		I setup Garganey Rota 2.1 setup
		I pre check.exe ended, exit code 1
		#
		E setup something went wrong here
		E setup setup failed, exit code 4`},
}
