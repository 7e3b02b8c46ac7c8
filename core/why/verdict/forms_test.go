package verdict

import (
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

// TestClosingForms: a last line that parts what ended from how it went by a
// sign, or counts what went well and what did not, tells the end.
func TestClosingForms(t *testing.T) {
	const before = "2026-11-04 10:00:00 Rail 4.4 setup begins\n2026-11-04 10:00:01 unpacking 44 files\n2026-11-04 10:00:03 writing registry values\n2026-11-04 10:00:05 "
	bad := []string{
		`workflow "curlew-9" -> FAILURE`,
		`install -> FAILED`,
		`overall: FAILURE`,
		`status: error`,
		`status = failed`,
		`state=error`,
		`finished: broken=1`,
		`finished: failed=2 ok=5`,
		`finished with 3 errors`,
		`finished, 1 problem`,
		`done: 5 ok, 1 bad`,
		`summary: ok=5 failed=1`,
		`summary: 5 passed, 1 failed`,
		`totals: installed 0, failed 1`,
		`cannot patch, 1612`,
		`cannot install, 1603`,
		`deploy ended hr=0x80073CFF`,
		`deploy ended, hr 0x80073CFF`,
		`ended hresult=0x80070005`,
		`session over, hr=0x80070005`,
		`setup over (rc 5)`,
		`exit status 2`,
		`exited: 2`,
		`Rail 4.4 Setup: -1`,
		`Rail setup: 1603`,
		`rail-setup = 1603`,
		`RESULT -1`,
		`RESULT: NOK`,
		`verdict: not ok`,
		`not installed.`,
		`Rail is not installed`,
		`Rail could not be put on this machine`,
		`setup gave up`,
		`setup broke off`,
		`setup stops here`,
		`setup quits`,
		`stop: error`,
		`we are done here, with errors`,
		`job failed`,
		`job state: Failed`,
		`task result 0x80070005`,
		`last run result 0x1`,
		`installation state: broken`,
		`the installation is incomplete`,
		`incomplete installation, stopping`,
		`installation left incomplete`,
		`end (error)`,
		`end (failed)`,
		`end: ko`,
		`KO`,
		`[KO] rail setup`,
		`FAIL rail setup`,
		`rail setup ... FAIL`,
		`rail setup ........ failed`,
		`rail setup => failed`,
		`rail setup => error 5`,
		`setup terminated abnormally`,
		`abnormal end`,
		`abend`,
		`setup died`,
		`setup aborted itself`,
		`fatal, leaving`,
		`leaving (fatal)`,
		`bailing out`,
		`quitting with code 2`,
		`returning 2 to the caller`,
		`return code to caller: 2`,
		`caller gets 2`,
		`process will exit with 2`,
		`exit=2`,
		`%ERRORLEVEL% is 2`,
		`errorlevel=2`,
		`errorlevel 2`,
		`last error level: 2`,
		`final code: 2`,
		`final result code 2`,
		`closing log, code 2`,
		`log closed (2)`,
		`bye (2)`,
		`bye, result 53`,
		`end of setup, 53`,
		`setup finished unsuccessfully`,
		`unsuccessful`,
		`did not complete`,
		`setup never completed`,
		`completed with failures`,
		`completed with 1 error(s)`,
		`5 of 6 steps done; stopped`,
		`step 6 of 6 not done`,
		`only 5 of 6 steps were done`,
		`1 of 2 features enabled; stopping`,
		`everything was undone`,
		`all changes taken back`,
		`changes reverted, nothing installed`,
		`nothing was installed`,
		`Rail 4.3 stays`,
		`the old version stays`,
		`keeping Rail 4.3`,
	}
	for _, line := range bad {
		if v := reached(t, before+line+"\n"); v.Outcome != story.Failed {
			t.Errorf("%q: %s", line, v.Outcome)
		}
	}
	good := []string{
		`workflow "curlew-9" -> SUCCESS`,
		`overall: OK`,
		`status: ok`,
		`state=done`,
		`finished: broken=0`,
		`finished: failed=0 ok=5`,
		`finished with 0 errors`,
		`finished, no problems`,
		`done: 6 ok, 0 bad`,
		`summary: ok=5 failed=0`,
		`summary: 5 passed, 0 failed`,
		`totals: installed 1, failed 0`,
		`deploy ended hr=0x00000000`,
		`deploy ended, hr 0x0`,
		`setup over (rc 0)`,
		`exit status 0`,
		`Rail 4.4 Setup: 0`,
		`Rail setup: 0`,
		`RESULT 0`,
		`RESULT: OK`,
		`verdict: ok`,
		`Rail is installed`,
		`job state: Succeeded`,
		`task result 0x0`,
		`installation state: complete`,
		`end (ok)`,
		`end: ok`,
		`[OK] rail setup`,
		`rail setup ... OK`,
		`rail setup => ok`,
		`quitting with code 0`,
		`returning 0 to the caller`,
		`final code: 0`,
		`closing log, code 0`,
		`log closed (0)`,
		`bye (0)`,
		`bye, result 0`,
		`end of setup, 0`,
		`6 of 6 steps done`,
		`2 of 2 features enabled; stopping`,
		`Rail is on this machine now`,
	}
	for _, line := range good {
		if v := reached(t, before+line+"\n"); v.Outcome != story.Succeeded {
			t.Errorf("%q: %s", line, v.Outcome)
		}
	}
}

// TestSomebodyLeft: what somebody pressed or answered cancels a run, whatever is
// tidied up behind it.
func TestSomebodyLeft(t *testing.T) {
	const before = "12:01:00 [ui] welcome\n12:01:04 [ui] licence: agreed\n12:01:12 [work] 1 of 310 files\n12:01:30 [work] 188 of 310 files\n12:01:31 "
	behind := []string{
		"12:01:32 [work] stop requested\n12:01:33 [work] 188 files taken away\n12:01:34 [ui] closed\n",
		"12:01:32 [work] cleaning up\n12:01:33 [main] end\n",
		"12:01:32 [work] undo 188 files\n12:01:33 [work] undo done\n12:01:34 [main] exit 2\n",
		"12:01:32 [main] setup ended, code 1602\n",
	}
	left := []string{
		`[ui] X clicked, "Really leave?" -> yes`,
		`[ui] close button clicked`,
		`[ui] clicked the cross, asked, answered yes`,
		`[ui] "Are you sure you want to quit Setup?" = Yes`,
		`[ui] question "Setup wirklich beenden?" -> Ja`,
		`[ui] Alt+F4`,
		`[ui] cancel`,
		`[ui] Cancel pressed by FEN\\lena`,
		`[ui] button 2 (Cancel)`,
		`[ui] wizard left on page 3`,
		`[ui] stop asked for`,
		`[ui] abort? y`,
		`[ui] Annuler`,
		`[ui] button=cancel`,
		`[ui] IDCANCEL`,
		`[ui] dialog returned Cancel`,
		`[ui] WM_CLOSE received`,
	}
	for _, line := range left {
		for _, end := range behind {
			if v := reached(t, before+line+"\n"+end); v.Outcome != story.Cancelled {
				t.Errorf("%q, then %q: %s", line, end, v.Outcome)
			}
		}
	}
	// A run that went on was cancelled by nobody.
	for _, line := range left {
		if strings.Contains(line, "pressed by") { // in so many words: it is not doubted
			continue
		}
		v := reached(t, before+line+"\n12:01:40 [ui] goes on\n12:01:41 [work] 250 of 310 files\n12:01:50 [work] 310 of 310 files\n12:01:51 [main] setup finished successfully\n")
		if v.Outcome != story.Succeeded {
			t.Errorf("%q, and it went on: %s", line, v.Outcome)
		}
	}
}

// TestOwnScripts: a script that ended with a number of its own is what the run
// broke at, where nothing was done behind it.
func TestOwnScripts(t *testing.T) {
	lines := []string{
		`running postinst.cmd ... ended with code 1`,
		`running postinst.cmd: exit 1`,
		`postinst.cmd came back with 1`,
		`postinst.cmd -> 1`,
		`step hook: postinst.cmd returned 1`,
		`calling postinst.cmd (rc=1)`,
		`hook postinst.cmd: rc 1`,
		`postinst.cmd finished with errorlevel 1`,
		`script postinst.cmd reported 1`,
		`executing C:\T\postinst.ps1 ..... result 1`,
		`ejecutando postinst.cmd .... terminó con código 1`,
		`exécution de postinst.cmd ... code de retour 1`,
		`postinst.cmd wird ausgeführt ... Rückgabewert 1`,
		`postinst.cmd endete mit 1`,
		`esecuzione di postinst.cmd: terminato con codice 1`,
		`a executar postinst.cmd ... terminou com o código 1`,
		`postinst.cmd uitgevoerd, afsluitcode 1`,
		`uruchamianie postinst.cmd ... kod wyjścia 1`,
		`spuštění postinst.cmd ... návratový kód 1`,
		`kör postinst.cmd ... avslutades med kod 1`,
		`postinst.cmd çalıştırılıyor ... çıkış kodu 1`,
		`запуск postinst.cmd ... код завершения 1`,
		`postinst.cmd を実行しています ... 終了コード 1`,
		`postinst.cmd 실행 ... 종료 코드 1`,
		`正在运行 postinst.cmd ... 退出代码 1`,
	}
	for _, line := range lines {
		v := reached(t, "10:00:00 Curlew ERP 6 setup\n10:00:01 copying files ... ok\n10:00:04 "+line+"\n10:00:05 undoing ... ok\n10:00:06 setup did not complete\n")
		if *v.Cause.Class != "custom-action" || v.Cause.Subject == nil || !strings.Contains(v.Cause.Subject.Name, "postinst") {
			t.Errorf("%q: %s, %+v", line, *v.Cause.Class, v.Cause.Subject)
		}
		// Where the run went on and failed elsewhere, the script is no cause.
		v = reached(t, "10:00:00 Curlew ERP 6 setup\n10:00:04 "+line+"\n10:00:05 copying 40 files ... ok\n10:00:06 writing 12 values ... ok\n"+
			"10:00:07 There is not enough space on the disk C:\n10:00:08 setup did not complete\n")
		if *v.Cause.Class != "space" {
			t.Errorf("%q, and no space: %s", line, *v.Cause.Class)
		}
	}
}

// TestChoices: what a machine is told to be is compared with the kinds that a
// setup allows.
func TestChoices(t *testing.T) {
	for _, tt := range []struct {
		is, allowed string
		class       string // empty where it is among them
	}{
		{"Edition: Home", "Editions that will do: Pro, Enterprise, Education", "condition"},
		{"edition ..... Home", "supported editions: Pro or Enterprise", "condition"},
		{"Detected language: fr-FR", "Allowed languages = en-US, de-DE", "condition"},
		{"cpu: ARM64", "supported cpu: x64", "platform"},
		{"architecture = ARM64", "architecture must be x64 or x86", "platform"},
		{"region: EU", "expected region: US or CA", "condition"},
		{"OS: Windows 8.1", "Supported OS: Windows 10, Windows 11", "condition"},
		{"OS: Windows 10 Pro", "Supported OS: Windows 10, Windows 11", ""},
		{"Edition: Pro", "Editions that will do: Pro, Enterprise", ""},
		{"language: de-DE", "supported languages: de, en", ""},
		{"channel: beta", "valid channels: stable, beta", ""},
	} {
		for name, front := range map[string]string{"without stamps": "", "with times": "10:00:00 [chk] ", "with levels": "2026-10-12 09:00:00 INFO "} {
			log := front + "Gadwall Control 5 setup\n" + front + tt.is + "\n" + front + "disk ok\n" + front + tt.allowed + "\n" + front + "Leaving.\n"
			v := reached(t, log)
			told := v.Cause.Class != nil && (*v.Cause.Class == "condition" || *v.Cause.Class == "platform")
			if tt.class != "" && (v.Outcome != story.Failed || *v.Cause.Class != tt.class) || tt.class == "" && told {
				t.Errorf("%s, %q and %q: %s, %v", name, tt.is, tt.allowed, v.Outcome, v.Cause.Class)
			}
		}
	}
}

// TestIntroductions: a log's first lines tell whose setup it is in many ways.
func TestIntroductions(t *testing.T) {
	lines := []string{
		`Setup of Wigeon Archive`,
		`Setup for Wigeon Archive 4.2`,
		`Wigeon Archive setup`,
		`Wigeon Archive Setup 4.2`,
		`Wigeon Archive 4.2 setup started`,
		`Installing Wigeon Archive`,
		`Installing Wigeon Archive 4.2 ...`,
		`Installation of Wigeon Archive begins`,
		`begin install of Wigeon Archive`,
		`Installer for Wigeon Archive, version 4.2`,
		`Wigeon Archive installer`,
		`Wigeon Archive installer (build 77)`,
		`Wigeon Archive 4.2 (build 77) - installation log`,
		`Product: Wigeon Archive`,
		`product = Wigeon Archive`,
		`ProductName: Wigeon Archive 4.2`,
		`plan: install Wigeon Archive 4.2`,
		`going to install Wigeon Archive 4.2`,
		`updating Wigeon Archive 4.1 -> 4.2`,
		`Wigeon Archive: 4.1 -> 4.2`,
		`update Wigeon Archive from 4.1 to 4.2`,
		`target product Wigeon Archive`,
		`package Wigeon Archive 4.2 (x64)`,
		`Welcome to the Wigeon Archive Setup Wizard`,
		`This will install Wigeon Archive on your computer`,
		`Einrichtung von Wigeon Archive`,
		`Installation von Wigeon Archive 4.2`,
		`Wigeon Archive wird installiert`,
		`Installation de Wigeon Archive`,
		`Instalación de Wigeon Archive`,
		`Installazione di Wigeon Archive`,
		`rollout "Wigeon Archive" started`,
		`deploying Wigeon Archive to FEN-W1`,
		`Wigeon Archive deployment started`,
		`app: Wigeon Archive`,
		`START Wigeon Archive 4 -> 5`,
		`Wigeon Archive 4.2 wants to be installed`,
		`job 12: Wigeon Archive`,
	}
	for _, line := range lines {
		v := reached(t, "2026-11-04 10:00:00 "+line+"\n2026-11-04 10:00:01 checking disk\n2026-11-04 10:00:02 copying 44 files\n"+
			"2026-11-04 10:00:03 copying failed: access is denied to C:\\Program Files\\WA\\x.dll\n2026-11-04 10:00:04 installation failed, exit code 5\n")
		if v.Product.Name == nil || *v.Product.Name != "Wigeon Archive" {
			t.Errorf("%q: %v", line, v.Product.Name)
		}
	}
}

// TestNoClosingForms: what a line counts, measures or keeps ends nothing.
func TestNoClosingForms(t *testing.T) {
	const before = "2026-11-04 10:00:00 Rail 4.4 setup begins\n2026-11-04 10:00:01 unpacking 44 files\n2026-11-04 10:00:05 "
	for _, line := range []string{"files: 1620", "free memory: 1612", "rows copied: 1650", "listening on localhost (1633)", "elapsed ms: 1604", "build (1601)",
		"already up to date, finished without changes", "checked 12 parts, without changes", "configuration stays as it is", "shortcut is not on this machine",
		"old logs half done", "Rail 4.4 stays", "keeping 4.4.0", "3 of 12 components installed", "download ended (no more files)", "stage closed (not needed)",
		"scan over (no threats)", "verdict: not needed", "decision: no restart needed", "result: nothing to update", "outcome: no reboot"} {
		if v := reached(t, before+line+"\n"); v.Outcome == story.Failed {
			t.Errorf("%q: %s", line, v.Outcome)
		}
	}
}
