package verdict

import (
	"context"
	"strings"
	"testing"
)

// What was being done when it broke, where the log says it in passing: in the
// engine's messages among events, in the causes below an error, in what the
// OS's setup calls an operation, and in the first of several sections that
// failed.
func TestWhatWasDone(t *testing.T) {
	event := func(source, id, level, text string) string {
		return `<Event xmlns='http://schemas.microsoft.com/win/2004/08/events/event'><System><Provider Name='` + source + `'/><EventID Qualifiers='0'>` + id +
			`</EventID><Level>` + level + `</Level><TimeCreated SystemTime='2026-05-04T09:12:07.0000000Z'/><Computer>ELLERY-D07</Computer></System>` +
			`<RenderingInfo Culture='en-US'><Message>` + text + "</Message></RenderingInfo></Event>\n"
	}
	failed := event("MsiInstaller", "1033", "4", "Windows Installer installed the product. Product Name: Tidebook Desk. Product Version: 2.8.1. Product Language: 1033. "+
		"Manufacturer: Saltmarsh Quay Software. Installation success or error status: 1603.")
	driver := func(parts ...string) string {
		text := "[Device Install Log]\n     OS Version = 10.0.19045\n\n"
		for i, p := range parts {
			name, rest, _ := strings.Cut(p, "|")
			body, status, _ := strings.Cut(rest, "|")
			stamp := "2026/05/04 09:12:0" + string(rune('1'+i)) + ".000"
			text += ">>>  [" + name + "]\n>>>  Section start " + stamp + "\n      cmd: C:\\Deploy\\drvsetup.exe\n" + body + "\n<<<  Section end " + stamp +
				"\n<<<  [Exit status: " + status + "]\n\n"
		}
		return text
	}
	const oldGone = `SetupUninstallOEMInf - oem31.inf|!!!  inf: Opened INF: C:\WINDOWS\INF\oem31.inf not found. Error 0x00000002: The system cannot find the file specified.|FAILURE(0x00000002)`
	const wow = `DiInstallDriver - C:\Deploy\tidecard.inf|!!!  ndv: DiInstallDriver: Error 0xe0000235: This operation can not be performed from a 32-bit process on a 64-bit system (ERROR_IN_WOW64).|FAILURE(0xe0000235)`
	for _, c := range []struct{ name, log, action, subject string }{
		{"an own action, Spanish", event("MsiInstaller", "11721", "2", `Producto: Tidebook Desk -- Error 1721. Hay un problema con este paquete. No se pudo ejecutar un programa necesario. Acción: RegistrarMareas, ubicación: C:\Program Files\Tidebook\mareas.exe, comando: /r`) + failed, "RegistrarMareas", ""},
		{"an own action, German", event("MsiInstaller", "11722", "2", `Produkt: Tidebook Desk -- Fehler 1722. Es liegt ein Problem mit diesem Paket vor. Aktion TideEintragen, Pfad: C:\Program Files\Tidebook\tide.exe, Befehl: /r`) + failed, "TideEintragen", ""},
		{"an own action, French", event("MsiInstaller", "11722", "2", `Produit : Tidebook Desk -- Erreur 1722. Un programme ne s'est pas terminé comme prévu. Action InscrireMarees, emplacement: C:\Program Files\Tidebook\marees.exe, commande: /r`) + failed, "InscrireMarees", ""},
		{"a service", event("MsiInstaller", "11920", "2", "Product: Tidebook Desk -- Error 1920. Service 'Berth Sync' (BerthSync) failed to start.  Verify that you have sufficient privileges to start system services.") + failed, "StartServices", "BerthSync"},
		{"a font", event("MsiInstaller", "11907", "2", "Product: Tidebook Desk -- Error 1907. Could not register font Tide.ttf. Verify that you have sufficient permissions to install fonts.") + failed, "RegisterFonts", ""},
		{"the first of two sections", driver(wow, oldGone), "DiInstallDriver - C:\\Deploy\\tidecard.inf", "tidecard.inf"},
		{"clearing up before it", driver(oldGone, wow), "DiInstallDriver - C:\\Deploy\\tidecard.inf", "tidecard.inf"},
		{"and others that went well", driver(wow, oldGone, `SetupCopyOEMInf - winch.inf|     sto: copied|SUCCESS`), "DiInstallDriver - C:\\Deploy\\tidecard.inf", "tidecard.inf"},
		{"the stage among causes", `2026-05-04T09:12:01.000000Z  INFO tide_update: starting update 2.1.0
2026-05-04T09:12:02.000000Z  INFO tide_update::plan: 14 files
2026-05-04T09:12:09.000000Z ERROR tide_update: update failed

Caused by:
    0: step swap_folders
    1: could not rename C:\Program Files\Tide\bin
    2: C:\Program Files\Tide\bin: Access is denied. (os error 5)
2026-05-04T09:12:09.500000Z  WARN tide_update: exit status 11
`, "swap_folders", `C:\Program Files\Tide\bin`},
	} {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(c.log)}, Options{})
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		action, subject := "", ""
		if v.BrokeAt.Action != nil {
			action = *v.BrokeAt.Action
		}
		if v.Cause.Subject != nil {
			subject = v.Cause.Subject.Name
		}
		if !strings.Contains(action, c.action) || !strings.Contains(subject, c.subject) {
			t.Errorf("%s: broke at %q about %q, want %q about %q (%s, %s)", c.name, action, subject, c.action, c.subject, v.Outcome, *v.Cause.Class)
		}
	}
}
