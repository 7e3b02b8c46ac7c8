package verdict

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/story"
)

// A layout writes one line of a program's log: when, how grave (D I W E), which
// part of the program, what. Each is one that somebody once found a good idea.
type layout func(at time.Time, level byte, part, text string) string

var layouts = map[string]layout{
	"columns": func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s %-5s %-14s %s\n", at.Format("15:04:05.000"),
			map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARN", 'E': "ERROR"}[level], part, text)
	},
	"letters": func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%c/%s(%s) %s\n", level, part, at.Format("02.01. 15:04:05"), text)
	},
	"logfmt": func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("ts=%s lvl=%s unit=%s note=%q\n", at.Format(time.RFC3339),
			map[byte]string{'D': "dbg", 'I': "inf", 'W': "wrn", 'E': "err"}[level], part, text)
	},
	"json": func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("{\"when\":%q,\"sev\":%q,\"src\":%q,\"body\":%q}\n", at.Format(time.RFC3339Nano),
			map[byte]string{'D': "trace", 'I': "information", 'W': "warning", 'E': "critical"}[level], part, text)
	},
	"console": func(_ time.Time, level byte, _, text string) string {
		return map[byte]string{'D': "    ", 'I': "==> ", 'W': " ?? ", 'E': " !! "}[level] + text + "\n"
	},
	"table": func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s;%s;%d;%s;%s\n", at.Format("2006-01-02"), at.Format("15:04:05"),
			strings.IndexByte("EWID", level)+1, part, strings.ReplaceAll(text, ";", ","))
	},
	"pipes": func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s | %c | %-10s | %s\n", at.Format("Jan _2 15:04:05"), level, part, text)
	},
	"records": func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("<e t=\"%s\" k=\"%c\" m=\"%s\">%s</e>\n", at.Format("2006-01-02T15:04:05"), level, part,
			strings.NewReplacer("&", "&amp;", "<", "&lt;").Replace(text))
	},
}

func init() {
	words := map[byte]string{'D': "DEBUG", 'I': "INFO", 'W': "WARNING", 'E': "ERROR"}
	layouts["syslog"] = func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s ELLERY-D07 %s[3320]: <%s> %s\n", at.Format("Jan _2 15:04:05"), part, strings.ToLower(words[level]), text)
	}
	layouts["brackets"] = func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("[7712:9034:%s:%s:%s.cc(41)] %s\n", at.Format("0102/150405.000"), words[level], part, text)
	}
	layouts["blocks"] = func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("Time: %s\nLevel: %s\nSource: %s\nText: %s\n----\n", at.Format("02.01.2006 15:04:05"), words[level], part, text)
	}
	layouts["page"] = func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("<tr class=\"%c\"><td>%s</td><td>%s</td><td>%s</td></tr>\n", level|0x20, at.Format("15:04:05.000"), part,
			strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;").Replace(text))
	}
	layouts["nested"] = func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("{\"meta\":{\"time\":%q,\"level\":%q},\"data\":{\"component\":%q,\"message\":%q}}\n", at.Format(time.RFC3339),
			words[level], part, text)
	}
	layouts["bare"] = func(at time.Time, _ byte, _, text string) string { return at.Format("15:04:05") + " " + text + "\n" }
	layouts["tabs"] = func(at time.Time, level byte, part, text string) string {
		return fmt.Sprintf("%s\t%s\t%s\t%s\n", at.Format(time.RFC3339), part, words[level][:3], text)
	}
}

// What every program's log is full of, and what never is the cause.
var chatter = []string{
	"D cfg reading settings from defaults", "D net keep-alive sent", "I copy file 118 of 410", "D reg query of 3 values",
	"W net telemetry upload failed: timeout (will be sent later)", "D ui page 2 shown", "I copy file 119 of 410",
	"D cfg value 'proxy.host' is empty, going direct", "W fonts font cache is older than 30 days", "D hash 41 ms for 12 files",
	"D disk 118 GB free on C:", "I copy file 120 of 410", "W shell overlay slot taken by another program", "D sched next check in 3600 s",
}

// Chatter that sounds like a cause, and is none: it was made good, does not
// matter, is of something else, or is looked for in vain on every machine.
var harsh = []string{
	"D reg RegOpenKeyEx HKCU\\Software\\Quay\\Recent: 2", "I copy file 118 of 410", "W cache entry 14 was damaged and has been rebuilt",
	"D svc Spooler is running", "W net mirror 2 is slow, mirror 3 used", "E ui icon resource 14 missing, default used",
	"D lic trial, 14 days left", "I copy file 119 of 410", "W perms cannot read C:\\ProgramData\\Quay\\usage.dat: access denied (not needed)",
	"D net proxy: none", "D disk T: 3 GB free, C: 118 GB free", "I copy file 120 of 410", "W plugin charts-extra not found, optional",
	"D probe COM1: error 2 (expected)", "W upd last check failed with 12007, will be repeated tomorrow", "I hash 12 files ok",
	"D av scan of 12 files: no threats found", "W fonts font 'Tide Sans' is in use, kept until restart",
	"D env TEMP=C:\\Users\\dpayne\\AppData\\Local\\Temp",
}

// told is a made-up setup: its lines "LEVEL part text", where # stands for some
// of the chatter, and what somebody who knows the trade says of it.
type told struct {
	name, layout, lines string
	outcome             story.Outcome // failed where it is empty
	class               string        // several, parted by blanks, where the border is thin
	subject, action     string        // several, parted by |; "" is not asked
	exit                int           // 0 is not asked
}

func (c told) log(chatter []string) string {
	var b strings.Builder
	at, n := time.Date(2026, 5, 4, 9, 12, 1, 0, time.UTC), 0
	put := func(line string) {
		head, text, _ := strings.Cut(line, " ")
		part, text, _ := strings.Cut(text, " ")
		at = at.Add(137 * time.Millisecond)
		b.WriteString(layouts[c.layout](at, head[0], part, text))
	}
	for line := range strings.Lines(c.lines) {
		line = strings.TrimSpace(line)
		switch {
		case line == "":
		case line == "#":
			for range 23 {
				put(chatter[n%len(chatter)])
				n++
			}
		case strings.HasPrefix(line, "| "): // without head, as a stack or a child's output
			b.WriteString(line[2:] + "\n")
		default:
			put(line)
		}
	}
	return b.String()
}

var vendors = []told{
	{name: "a folder nobody may write", layout: "columns", class: "permission",
		subject: `C:\ProgramData\Saltmarsh Quay\Ledger`, action: "prepare data folder", exit: 21, lines: `
		I setup Wharfage Ledger 3.2.0 setup
		#
		I stage begin: prepare data folder
		D files ensure C:\ProgramData\Saltmarsh Quay\Ledger
		E files cannot create C:\ProgramData\Saltmarsh Quay\Ledger\journal: Access is denied.
		I stage end: prepare data folder (failed)
		#
		I setup undoing 14 changes
		E setup Setup did not complete. Code 21.`},
	{name: "the service's dependency is off", layout: "pipes", class: "service", subject: "TideClock|BerthSync",
		action: "start services|StartService", lines: `
		I setup Tidebook Desk 4.1.0, build 4471
		#
		I svc step 6 of 9: start services
		D svc BerthSync depends on TideClock
		D svc TideClock: start type is disabled
		#
		E svc StartService(BerthSync): 1058
		E setup step 6 failed, giving up
		I setup rolled back`},
	{name: "a proxy asks who it is", layout: "logfmt", class: "network",
		subject: "proxy.portellery.example|cdn.saltmarsh.example", action: "download payload|fetch", lines: `
		I main Tidebook Desk updater 4.2.0 starting
		#
		I fetch download payload https://cdn.saltmarsh.example/td/4.2.0/full.pkg
		D fetch via proxy.portellery.example:8080
		W fetch answer 407, negotiate offered, no credentials in service session
		#
		E fetch payload not available after 3 tries
		E main update failed`},
	{name: "the temporary drive is full", layout: "json", class: "space", subject: `T:\|T:\Temp|T:`, lines: `
		I boot Fairway Radio 2.0.1 installer
		D boot scratch is T:\Temp\fr2
		#
		I unpack extracting channels.arc (1.2 GB)
		E unpack write of 65536 bytes to T:\Temp\fr2\channels.arc.part stopped after 221 MB: disk is full
		E boot installer ends with 4`, exit: 4},
	{name: "quarantined at debug level", layout: "columns", class: "security-software",
		subject: "lockwrite.dll|C:\\Program Files\\Pilot Roster\\lockwrite.dll", lines: `
		I setup Pilot Roster 5.0 Setup
		#
		D files copied lockwrite.dll (311 KB)
		#
		D guard event from endpoint protection: C:\Program Files\Pilot Roster\lockwrite.dll moved to quarantine (Heur.Packed)
		#
		E load LoadLibrary(lockwrite.dll) failed: 126
		E setup the writer could not be initialised
		E setup Setup failed`},
	{name: "an older runtime than wanted", layout: "letters", class: "prerequisite condition", subject: "Nautic Runtime|runtime", lines: `
		I main Hafenbuch 7.3 Installation
		#
		I prereq Nautic Runtime: gefunden 4.1, benötigt 4.6 oder neuer
		E prereq Voraussetzung nicht erfüllt
		E main Installation abgebrochen, Rückgabewert 12`, exit: 12},
	{name: "held by a process", layout: "table", class: "in-use",
		subject: "tide.exe|C:\\Program Files\\Tidebook\\tide.exe|4120|BerthSync.exe", lines: `
		I main Tidebook Desk 4.1.0 update
		#
		I swap replacing C:\Program Files\Tidebook\tide.exe
		W swap MoveFileEx: 32, trying again (1/3)
		W swap MoveFileEx: 32, trying again (2/3)
		D swap holders: BerthSync.exe (pid 4120)
		W swap MoveFileEx: 32, trying again (3/3)
		E swap giving up on tide.exe
		E main update failed`},
	{name: "another setup holds the installer", layout: "console", class: "busy", lines: `
		I x Wharfage Ledger 3.2.0
		I x Installing ledger-core.msi
		#
		E x msiexec returned 1618
		E x Stopped. Nothing further was installed.`},
	{name: "scripts are forbidden", layout: "pipes", class: "policy", subject: "AllSigned|post.ps1|MachinePolicy", lines: `
		I main Berthline Planner 3.1 deployment
		#
		I run powershell -File C:\Deploy\bp\post.ps1
		D run effective execution policy: AllSigned (scope MachinePolicy)
		E run C:\Deploy\bp\post.ps1 is not digitally signed. The script will not execute on the system.
		E main deployment of Berthline Planner failed: post-install script`},
	{name: "made for another processor", layout: "records", class: "platform", subject: "tidecard.sys|arm64|x64", lines: `
		I main Tide Card driver kit 1.9
		D env processor arm64, OS 22631
		#
		I drv adding tidecard.sys (x64)
		E drv not a valid image for this architecture
		E main kit failed`},
	{name: "a path that is too long", layout: "letters", class: "path", subject: "", lines: `
		I main Chart Library 2026 setup
		#
		E copy destination path has 274 characters, 259 are possible: C:\Users\mwhitlow\AppData\Local\Saltmarsh Quay\Chart Library\packages\north-sea-and-baltic-coastal-charts-with-soundings\2026-q2-release-candidate-with-corrections\resources\images\symbols\beacons-and-buoys-high-resolution\lateral\starboard-hand\lit\green-conical.svg
		I copy rolling back
		E main setup ended with errors`},
	{name: "a value of the registry is missing", layout: "columns", class: "registry",
		subject: `HKLM\SOFTWARE\Saltmarsh Quay\Site|SiteCode`, lines: `
		I main Berth Sync connector 2.2
		#
		D reg open HKLM\SOFTWARE\Saltmarsh Quay\Site: ok
		D reg value SiteCode: not found
		E main cannot continue without SiteCode
		E main connector was not installed`},
	{name: "nobody said yes to elevation", layout: "json", outcome: story.Cancelled, class: "elevation cancelled", lines: `
		I main Pilot Roster 5.1 per-machine setup
		#
		I shell relaunching with verb runas
		E shell ShellExecuteEx failed: 1223 The operation was canceled by the user.
		E main setup cannot go on without administrative rights`},
	{name: "the person stopped it", layout: "console", outcome: story.Cancelled, class: "cancelled", lines: `
		I x Fairway Radio 2.0.1
		I x Copying files
		#
		W x Cancel pressed by user on page 'Progress'
		I x Undoing changes
		I x Setup was cancelled.`},
	{name: "an option nobody knows", layout: "letters", class: "command-line", subject: "/silnt", lines: `
		I main Tidebook Desk 4.1.0 setup, arguments: /silnt /log C:\Temp\t.log
		E args unknown option: /silnt
		E main exit 87`, exit: 87},
	{name: "the store of components is damaged", layout: "pipes", class: "component-store", subject: "NetFx3", lines: `
		I main Port Office prerequisites 1.0
		#
		I feat enabling NetFx3
		E feat 0x800f081f: the source files could not be found
		E main feature NetFx3 could not be enabled, stopping`},
	{name: "the installer's service is off", layout: "table", class: "installer-service", subject: "msiserver", lines: `
		I main Wharfage Ledger 3.2.0 bootstrap
		#
		D scm QueryServiceConfig(msiserver): start=disabled
		E msi MsiInstallProduct: 1601
		E main bootstrap stopped`},
	{name: "a host that nobody knows", layout: "records", class: "network", subject: "updates.saltmarsh.example", lines: `
		I main Tidebook updater 9
		#
		D dns updates.saltmarsh.example: no such host
		W net attempt 1 failed
		D dns updates.saltmarsh.example: no such host
		W net attempt 2 failed
		E net giving up after 2 attempts
		E main update not installed`},
	{name: "a clock that is wrong breaks the certificate", layout: "columns", class: "network", subject: "", lines: `
		I main Fairway Radio online installer
		#
		D clock local 2019-01-01T00:03:11Z
		E tls licence.fairway.example: certificate is not yet valid (valid from 2026-01-10)
		E main installer could not reach the licence server
		E main installation failed`},
	{name: "what was loaded is not what was meant", layout: "logfmt", class: "corrupt", subject: "core.pkg", lines: `
		I main Berthline agent 11.0 install
		#
		I get core.pkg 48211233 bytes
		E get core.pkg: sha256 is 3f11..., manifest says 8ac0...
		W get fetching core.pkg again
		E get core.pkg: sha256 is 3f11..., manifest says 8ac0...
		E main install aborted`},
	{name: "a lock of a run that is gone", layout: "pipes", class: "leftover",
		subject: `setup.lock|C:\ProgramData\Saltmarsh Quay\setup.lock`, lines: `
		I main Pilot Roster 5.2 update
		#
		D lock C:\ProgramData\Saltmarsh Quay\setup.lock exists, owner pid 8812 from 2026-04-29
		D lock pid 8812 does not exist
		W lock waiting for the other update to finish
		E lock still there after 120 s
		E main update failed`},
	{name: "remains of an older version", layout: "letters", class: "leftover", subject: "", lines: `
		I main Hafenbuch 7.3 Installation
		#
		W old Version 6.9 wurde unvollständig entfernt: Eintrag vorhanden, Dateien fehlen
		E old Reste der Vorversion 6.9 können nicht entfernt werden
		E main Installation abgebrochen`},
	{name: "French, no right", layout: "columns", class: "permission", subject: `C:\Program Files\Radio Chenal|freq.db`, lines: `
		I main Installation de Radio Chenal 2.4
		#
		E fichiers Impossible d'écrire C:\Program Files\Radio Chenal\freq.db : accès refusé
		I main annulation des modifications
		E main L'installation a échoué`},
	{name: "Spanish, no space", layout: "console", class: "space", lines: `
		I x Instalador de Libro de Muelles 8.0
		#
		E x No hay suficiente espacio en el disco C: (faltan 812 MB)
		E x La instalación no se completó`},
	{name: "Polish, in use", layout: "table", class: "in-use", subject: "mapa.dll", lines: `
		I main Instalator Mapy Portu 3
		#
		E pliki nie można zastąpić mapa.dll: plik jest używany przez inny proces
		E main instalacja nie powiodła się`},
	{name: "Japanese, service", layout: "pipes", class: "service", subject: "BerthSync", lines: `
		I main 潮汐手帳 4.1 セットアップ
		#
		E svc サービス BerthSync を開始できませんでした。ログオンに失敗しました (1069)
		E main セットアップは失敗しました`},
	{name: "Russian, damaged", layout: "columns", class: "corrupt", subject: "data1.pak", lines: `
		I main Установка Журнал причалов 2.1
		#
		E arc архив data1.pak повреждён: неверная контрольная сумма
		E main установка прервана`},
	{name: "a wish that the machine does not fulfil", layout: "json", class: "condition platform", subject: "", lines: `
		I main Chart Server 2026 setup
		#
		I gate memory wanted 16384 MB, found 8192 MB
		E gate requirement not met
		E main setup ends, code 3`, exit: 3},
	{name: "the licence has run out", layout: "logfmt", class: "condition unknown custom-action", lines: `
		I main Fairway Radio server 3 setup
		#
		I lic checking subscription SQ-0042
		E lic subscription ended on 2026-03-31
		E main setup refused`},
	{name: "a failure that was made good", layout: "columns", outcome: story.Succeeded, lines: `
		I main Tidebook Desk 4.1.0 setup
		#
		E files cannot replace tide.dll: Access is denied.
		I files tide.dll replaced after restart of the shell
		#
		I main Setup completed successfully.`},
	{name: "cut in the middle", layout: "pipes", outcome: story.Unfinished, lines: `
		I main Tidebook Desk 4.1.0 setup
		#
		I files step 3 of 9: copy
		#`},
	{name: "a child's stack", layout: "logfmt", class: "permission", subject: `C:\ProgramData\Quay\store.db|store.db`, lines: `
		I main Quay agent 4.0 install
		#
		I run migrating the store
		E run child ended with 1, its output follows
		| Traceback (most recent call last):
		|   File "migrate.py", line 41, in <module>
		|     open(r"C:\ProgramData\Quay\store.db", "r+b")
		| PermissionError: [Errno 13] Permission denied: 'C:\\ProgramData\\Quay\\store.db'
		E main install failed`},
	{name: "a database server that does not answer", layout: "records", class: "network service",
		subject: "ellery-sql1|ellery-sql1:1433|1433", lines: `
		I main Chart Server 2026 setup
		#
		I db connecting to ellery-sql1:1433
		E db connection refused
		E db schema 2026.2 was not created
		E main Setup failed`},
	{name: "an installer that says nothing", layout: "console", class: "unknown custom-action", exit: 9, lines: `
		I x Quay Tools 1.1
		#
		E x Helper finished with 9.
		E x Installation failed.`},
	{name: "a device that a policy keeps out", layout: "columns", class: "policy", subject: "", lines: `
		I main Tide Card driver kit 1.9
		#
		D drv device class {4d36e972-e325-11ce-bfc1-08002be10318} is on the list of prevented classes
		E drv installation of USB\VID_1D6B&PID_0104 is forbidden by policy on this computer
		E main kit failed`},
	{name: "a newer one is there", layout: "json", class: "condition leftover", subject: "", lines: `
		I main Wharfage Ledger 3.2.0 setup
		#
		I detect installed: Wharfage Ledger 3.4.1
		E detect a newer version is already installed, downgrade is not supported
		E main setup ends`},
}

// allVendors are the made-up setups of all sets.
func allVendors() []told {
	return slices.Concat(vendors, moreVendors, thirdVendors, fourthVendors, fifthVendors, sixthVendors, seventhVendors, eighthVendors,
		ninthVendors, tenthVendors, eleventhVendors, twelfthVendors, thirteenthVendors, fourteenthVendors, fifteenthVendors, sixteenthVendors,
		seventeenthVendors, eighteenthVendors)
}

func TestVendorsLogs(t *testing.T) {
	for _, c := range allVendors() {
		t.Run(c.name, func(t *testing.T) {
			log := c.log(chatter)
			v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(log)}, Options{})
			if err != nil {
				t.Fatalf("%v\n%s", err, log)
			}
			checkTold(t, c, v)
		})
	}
}

// The same setups among chatter that sounds like causes: the class stays, or is
// not known; nobody is sure of another one.
func TestVendorsLogsAmongHarshChatter(t *testing.T) {
	right, all := 0, 0
	for _, c := range allVendors() {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(c.log(harsh))}, Options{})
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		class := ""
		if v.Cause.Class != nil {
			class = *v.Cause.Class
		}
		all++
		if want := cmp.Or(c.outcome, story.Failed); v.Outcome == want && (c.class == "" || slices.Contains(strings.Fields(c.class), class)) {
			right++
		} else {
			t.Logf("%s: %s, %s with %.2f (%s); want %s", c.name, v.Outcome, class, v.Cause.Confidence, v.Sign, c.class)
			if v.Cause.Confidence >= 0.75 {
				t.Errorf("%s: sure of %s with %.2f", c.name, class, v.Cause.Confidence)
			}
		}
	}
	t.Logf("%d of %d are right", right, all)
	if right*100 < all*94 {
		t.Errorf("%d of %d are right", right, all)
	}
}

// checkTold holds a verdict against what is wanted, and shows what it hangs on
// where it is another.
func checkTold(t *testing.T, c told, v *Verdict) {
	t.Helper()
	if want := cmp.Or(c.outcome, story.Failed); v.Outcome != want {
		t.Errorf("outcome %s, want %s", v.Outcome, want)
	}
	class := ""
	if v.Cause.Class != nil {
		class = *v.Cause.Class
	}
	if c.class != "" && !slices.Contains(strings.Fields(c.class), class) {
		t.Errorf("class %s with %.2f (%s), want %s", class, v.Cause.Confidence, v.Sign, c.class)
		if v.Cause.Confidence >= 0.9 {
			t.Error("and it is sure of it")
		}
	}
	if c.exit != 0 && (v.ExitCode == nil || *v.ExitCode != c.exit) {
		t.Errorf("exit code %v, want %d", v.ExitCode, c.exit)
	}
	subject := ""
	if v.Cause.Subject != nil {
		subject = v.Cause.Subject.Name
	}
	if !oneOf(subject, c.subject) {
		t.Errorf("subject %q, want %s", subject, c.subject)
	}
	action := ""
	if v.BrokeAt.Action != nil {
		action = *v.BrokeAt.Action
	}
	if !oneOf(action, c.action) {
		t.Errorf("action %q, want %s", action, c.action)
	}
	if t.Failed() {
		for _, e := range v.Evidence {
			t.Logf("%d %s", e.Line, e.Text)
		}
	}
}

// oneOf reports whether a name holds, or is held by, one of those wanted.
func oneOf(name, wanted string) bool {
	if wanted == "" {
		return true
	}
	return slices.ContainsFunc(strings.Split(wanted, "|"), func(w string) bool {
		a, b := strings.ToLower(name), strings.ToLower(w)
		return a != "" && (strings.Contains(a, b) || strings.Contains(b, a))
	})
}
