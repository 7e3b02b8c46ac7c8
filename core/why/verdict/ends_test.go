package verdict

import (
	"context"
	_ "embed"
	"fmt"
	"strconv"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

// What sounds like an end, or like a cause, and is none: nobody is told that a
// setup worked, or was stopped by somebody, where the log does not say so.
func TestNoEndIsMadeUp(t *testing.T) {
	for _, c := range []struct {
		lines   string // "LEVEL text", parted by bars
		outcome story.Outcome
	}{
		{"WARN 4 files wait for a restart|INFO please restart the computer and run this setup again", story.Unfinished},
		{"INFO an earlier update is not finished, reboot required before setup", story.Failed},
		{"INFO Voraussetzung: Neustart ausstehend|INFO bitte starten Sie den Computer neu", story.Unfinished},
		{"INFO the driver cannot be used after a restart unless signed", story.Unfinished},
		{"INFO files copied|INFO installed; reboot to finish", story.Restart},
		{"INFO the previous version is ready to use|INFO copying files", story.Unfinished},
		{"INFO network adapter is ready for use|INFO copying files", story.Unfinished},
		{"INFO 디스크를 사용할 수 있습니다|INFO 파일 복사 중", story.Unfinished},
		{"INFO files copied|INFO Tide Watch is ready to use", story.Succeeded},
		{"INFO Installation 40 % fertig|INFO Installation 55 % abgeschlossen", story.Unfinished},
		{"INFO install 40% completed", story.Unfinished},
		{"ERROR license not accepted, give ACCEPT=1 in the call|INFO setup ends with 5", story.Failed},
		{"INFO request 4 cancelled before the answer came|INFO setup completed successfully|INFO update settings not changed", story.Succeeded},
		{"WARN left with 3 warnings about fonts|INFO service refusing to talk, will try again|INFO restart put off until tonight|INFO Setup completed successfully", story.Succeeded},
		{`INFO Software\Policies\Tide\AllowTelemetry = 0|INFO host: 64-bit|INFO package: 32-bit|INFO probe write C:\Windows\~t -> 5, using the user folder|INFO installation finished, exit code 0`, story.Succeeded},
		{"INFO command line: /S /COLOR=blue|INFO unknown option COLOR ignored|INFO locked by pid 42, replaced after the program closed|INFO bye|INFO exit 0", story.Succeeded},
		{"INFO Abbruch mit ESC moeglich|INFO alter Dienst laeuft noch, wird beendet|INFO Einrichtung erfolgreich abgeschlossen", story.Succeeded},
		{"ERROR optional codec pack: signature not trusted, skipped|INFO download 407 of 980 bytes so far|INFO Tide Watch 3.1 is ready to use|INFO exit code 0", story.Succeeded},
		{"INFO old version 1.1 cannot be removed while it runs, closing it|INFO old version removed|INFO installation successful|INFO return 0", story.Succeeded},
		{"INFO a restart is pending from before, going on|INFO finished with 2 notes|INFO Setup was successful", story.Succeeded},
		{"INFO Abbruch der Einrichtung mit ESC möglich|INFO Dateien werden kopiert", story.Unfinished},
		{"INFO update of the help postponed until tomorrow|INFO copying files", story.Unfinished},
		{"INFO Abbruch", story.Failed},
		{"INFO files copied|INFO setup finished: blocked (12)", story.Failed},
		{"INFO files copied|INFO Installation abgeschlossen: mit Fehlern", story.Failed},
		{"INFO files copied|INFO setup finished: ok", story.Succeeded},
		{"INFO files copied|INFO update completed: 3 refused connections", story.Succeeded},
		{"INFO stopped with 3 warnings|INFO copying files", story.Unfinished},
		{"INFO giving up on the mirror (3 attempts)|INFO setup completed successfully", story.Succeeded},
		{"ERROR restart first|INFO return code 3010", story.Failed},
		{"INFO files copied|INFO return code 3010", story.Restart},
		{"INFO process 88 terminated with exit code 5100|INFO ++++ app enforcement completed (4 seconds) ++++", story.Failed},
	} {
		log := "2026-05-04 09:12:01 INFO Tide Watch 3.1 setup\n"
		for line := range strings.SplitSeq(c.lines, "|") {
			log += "2026-05-04 09:12:02 " + line + "\n"
		}
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(log)}, Options{})
		if err != nil {
			t.Errorf("%s: %v", c.lines, err)
		} else if v.Outcome != c.outcome {
			t.Errorf("%s: %s (%.2f), want %s", c.lines, v.Outcome, v.Cause.Confidence, c.outcome)
		}
	}
}

// A log that was cut while the setup still worked is unfinished, whatever went
// wrong before and did not stop it.
func TestCutWhileItWorks(t *testing.T) {
	work := func(n int) string {
		return strings.Repeat("2026-05-04 09:12:03 INFO chunk 17 written\n", n)
	}
	const title = "2026-05-04 09:12:01 INFO Tide Watch 3.1 setup starting\n"
	for name, c := range map[string]struct {
		log     string
		outcome story.Outcome
	}{
		"another way": {title + work(9) + "2026-05-04 09:12:02 ERROR Delta update failed with 0x80070570\n" +
			"2026-05-04 09:12:02 INFO Falling back to full package\n" + work(60), story.Unfinished},
		"another way, German": {title + work(9) + "2026-05-04 09:12:02 ERROR Installation der Teilpakete fehlgeschlagen\n" +
			"2026-05-04 09:12:02 INFO weiche aus auf das ganze Paket\n" + work(60), story.Unfinished},
		"back to what was there": {title + "2026-05-04 09:12:02 INFO Installation failed\n" +
			"2026-05-04 09:12:02 INFO switching to the previous version\n", story.Failed},
		"the same again, and nothing behind it": {title + "2026-05-04 09:12:02 ERROR the service Quay does not answer\n" + work(60) +
			"2026-05-04 09:14:02 ERROR the service Quay does not answer\n", story.Failed},
		"no other way": {title + work(9) + "2026-05-04 09:12:02 ERROR Delta update failed with 0x80070570\n" +
			"2026-05-04 09:12:02 INFO sending the report\n" + work(4), story.Failed},
		"the same as before": {title + "2026-05-04 09:12:02 ERROR post failed: 503\n" + work(60) +
			"2026-05-04 09:14:02 ERROR post failed: 503\n" + work(5), story.Unfinished},
		"asked for again": {title + work(9) + "2026-05-04 09:12:02 ERROR checksum 3C83790F, requeue\n" + work(3), story.Unfinished},
		"a second run": {title + work(9) + "2026-05-04 09:12:09 ERROR setup failed, exit code 5\n" +
			strings.ReplaceAll(title+work(60), "05-04", "05-05"), story.Unfinished},
		"a second look": {title + work(9) + "2026-05-04 09:12:09 ERROR setup failed, exit code 5\n" +
			strings.ReplaceAll(title+work(3), "05-04", "05-05"), story.Failed},
		"a repair of the store": {strings.Repeat("2026-05-04 09:12:01, Info                  DISM   DISM Package Manager: PID=4 TID=5 Restore health: checking Quay-Package - CDISM\n", 20) +
			"2026-05-04 09:12:02, Error                 DISM   DISM Package Manager: PID=4 TID=5 Failed to open the package. - CDISMPackageManager::Internal_OpenPackage(hr:0x800f0805)\n" +
			strings.Repeat("2026-05-04 09:12:03, Info                  DISM   DISM Package Manager: PID=4 TID=5 Progress: 17\n", 90), story.Unknown},
	} {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(c.log)}, Options{})
		if err != nil {
			t.Errorf("%s: %v", name, err)
		} else if v.Outcome != c.outcome {
			t.Errorf("%s: %s (%.2f), want %s", name, v.Outcome, v.Cause.Confidence, c.outcome)
		}
	}
}

//go:embed testdata/ends.txt
var endsText string

// begun is how the logs of the next two tests begin, and more what follows in
// them.
const (
	begun = "INFO Lumen Desk 4.1\nINFO lumen1.dll 977\nINFO lumen2.dll 1954\nINFO lumen3.dll 2931\nINFO lumen4.dll 3908\nINFO lumen5.dll 4885\n"
	more  = "INFO lumen6.dll 5862\nINFO lumen7.dll 6839\nINFO lumen8.dll 7816\n"
)

// ended gives the outcome and the exit code that a log of lines "LEVEL text"
// tells, with the levels or without.
func ended(t *testing.T, log string, leveled bool) (story.Outcome, *int) {
	var out strings.Builder
	second := 0
	for line := range strings.Lines(log) {
		level, text, _ := strings.Cut(strings.TrimSpace(line), " ")
		if second++; leveled {
			fmt.Fprintf(&out, "2026-05-04 09:12:%02d,100 %-5s %s\n", second, level, text)
		} else {
			fmt.Fprintf(&out, "09:12:%02d %s\n", second, text)
		}
	}
	v := reached(t, out.String())
	return v.Outcome, v.ExitCode
}

// The last line tells in its language how it ended, with levels and without.
func TestEndsInManyLanguages(t *testing.T) {
	n := 0
	for row := range strings.Lines(endsText) {
		f := strings.SplitN(strings.TrimSpace(row), "|", 3)
		if len(f) < 3 || strings.HasPrefix(row, "#") {
			continue
		}
		n++
		want, number, _ := strings.Cut(f[1], " ")
		log := begun + "INFO " + f[2] + "\n"
		if want == "failed" {
			log = begun + "ERROR lumen.cab: 0x80070005\nERROR " + f[2] + "\n"
		}
		for _, leveled := range []bool{true, false} {
			got, code := ended(t, log, leveled)
			if string(got) != want || number != "" && (code == nil || strconv.Itoa(*code) != number) {
				t.Errorf("%s, levels %v: %q is %s, not %s", f[0], leveled, f[2], got, f[1])
			}
		}
	}
	if n < 200 {
		t.Errorf("%d lines", n)
	}
}

// What sounds like an end in the middle of a log is none: it ends as its last
// line says, or not at all.
func TestNoEndInTheMiddle(t *testing.T) {
	for _, line := range []string{"log written at the user's request", "журнал создан по запросу пользователя", "Protokoll auf Wunsch des Benutzers erstellt",
		"réglage modifié à la demande de l'utilisateur", "checking whether a restart is needed before the update: no", "ein Neustart ist nicht erforderlich",
		"aucun redémarrage n'est requis", "task list: setup is done when all services are up", "the old version has been installed on 2025-01-04",
		"Program wordpad was installed by the OS", "download 3 cancelled, trying the mirror", "worker 4 ended with 12 files", "phase copy ended: 12 files",
		"no errors in part 2", "keine Fehler in Teil 2", "errors so far: 0", "last run ended with 9", "previous setup: return value 9",
		"changes take effect after a restart of the service", "the user pressed Next", "the user chose Custom, cancelled nothing",
		"das Programm wurde zuletzt am 3. Mai installiert", `El programa anterior se ha instalado en C:\Viejo`, "ダウンロードをキャンセルしました。ミラーを試します",
		"다운로드를 취소했습니다. 다시 시도합니다", "取消旧任务", "restart your computer later if asked", "up and running: spooler", "all set for phase two", "готово: шаг 2"} {
		for end, want := range map[string]story.Outcome{"INFO Installation completed successfully, exit code 0\n": story.Succeeded,
			"ERROR lumen.cab: access is denied\nERROR Installation failed, exit code 30\n": story.Failed, "": story.Unfinished} {
			for _, leveled := range []bool{true, false} {
				if got, _ := ended(t, begun+"INFO "+line+"\n"+more+end, leveled); got != want {
					t.Errorf("levels %v, end %q: %q makes it %s", leveled, end, line, got)
				}
			}
		}
	}
	for _, line := range []string{"A restart is needed before setup can continue.", "Vor der Installation muss der Rechner neu gestartet werden.",
		"Please restart your computer and run setup again.", "Another installation needs a restart first.", "Redémarrez l'ordinateur avant l'installation."} {
		if got, _ := ended(t, begun+more+"INFO "+line+"\n", true); got == story.Succeeded || got == story.Restart {
			t.Errorf("%q makes it %s", line, got)
		}
	}
}
