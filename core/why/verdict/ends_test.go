package verdict

import (
	"context"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

// What sounds like an end, or like a cause, and is none: nobody is told that a setup worked,
// or was stopped by somebody, where the log does not say so.
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

// A log that was cut while the setup still worked is unfinished, whatever went wrong before and
// did not stop it.
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
