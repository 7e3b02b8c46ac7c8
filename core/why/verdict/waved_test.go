package verdict

import (
	"fmt"
	"strings"
	"testing"
)

// A failure that the next line waves off is not the cause, in whichever words;
// one of which the next line speaks otherwise, or of which it says that it does
// matter, still is.
func TestWavedOff(t *testing.T) {
	log := func(note, end string) string {
		return strings.Join([]string{"Kelp Chart 3.1 setup", "[1/4] Copying files", "60 File(s) copied", "[2/4] Checking font server",
			"System error 67 has occurred.", "", "The network name cannot be found.", "", note, "[3/4] Removing fonts", "12 File(s) removed", end,
			"Setup failed, exit code 3", ""}, "\n")
	}
	const denied = `cannot write C:\ProgramData\Kelp\chart.cfg: Access is denied.`
	for _, note := range []string{"(font server is optional)", "ignored", "-> not fatal, going on", "never mind", "(not needed on this machine)",
		"  optional, skipped", "continuing without the font server", "wird ignoriert", "facultatif, ignoré", "se ignora", "si prosegue",
		"não importa", "wordt overgeslagen", "pominięto", "nevadí, pokračuje se", "ignoreras", "önemli değil", "не критично, продолжаем", "無視します", "무시합니다", "已忽略"} {
		if v := reached(t, log(note, denied)); *v.Cause.Class != "permission" {
			t.Errorf("%q: %s, want permission", note, *v.Cause.Class)
		}
	}
	for _, note := range []string{"this must not be ignored", "the share is not optional", "telemetry is optional", "optional fonts selected",
		"skipped 3 files", "kann nicht ignoriert werden", "n'est pas facultatif"} {
		if v := reached(t, log(note, "12 File(s) registered")); *v.Cause.Class != "source" && *v.Cause.Class != "network" {
			t.Errorf("%q: %s, want source", note, *v.Cause.Class)
		}
	}
	// What a program notes again and again is about nothing in particular.
	var often strings.Builder
	for i := range 30 {
		fmt.Fprintf(&often, "09:00:%02d INFO core unknown setting ignored\n", i)
	}
	text := "08:59:00 INFO core Kelp Chart 3.1 setup\n" + often.String() + "09:01:00 ERROR core " + denied +
		"\n09:01:01 INFO core unknown setting ignored\n09:01:02 INFO core removing files\n09:01:03 ERROR core setup failed, exit code 3\n"
	if v := reached(t, text); *v.Cause.Class != "permission" || v.Cause.Confidence < 0.6 {
		t.Errorf("behind a note that comes again and again: %s %.2f", *v.Cause.Class, v.Cause.Confidence)
	}
}
