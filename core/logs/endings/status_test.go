package endings

import "testing"

// That a setup finished does not say how: the word of its status does, and one
// that nobody knows leaves it open.
func TestEndsWithAStatus(t *testing.T) {
	for want, lines := range map[string][]string{
		"good": {"Setup finished with status OK", "Setup completed. Result: restart required", "Setup finished with state INSTALLED",
			"Setup beendet mit Status OK", "Installation terminée avec statut succès", "Instalación terminada con resultado: correcto",
			"Installazione completata, esito: positivo", "Setup done - result: no changes needed", "Setup finished with exit status success",
			"Setup finished with result up to date", "Setup finished with status code ERROR_SUCCESS",
			"Setup finished with status Applied", "Setup finished with state Ready", "Setup ended with result registered"},
		"bad": {"Setup finished with status ABORT", "Setup finished: ABORT", "Setup finished with verdict NO", "Setup finished with result code E_ABORT",
			"Setup completed (status: rolled back)", "Setup finished with status TIMEOUT", "Installation abgeschlossen, Ergebnis: Abbruch",
			"Installation terminée, résultat : annulée", "La instalación finalizó con estado ERROR", "Installazione terminata con esito negativo",
			"Instalace dokončena se stavem CHYBA", "Setup finished with return value ERROR_INSTALL_FAILURE", "Setup ended with status: unsuccessful",
			"tide-setup: abort", "Installer host ended: 1603"},
		"cancelled": {"Setup completed with status: CANCELLED", "Setup finished with result canceled"},
		"open": {"Setup finished with status KAPUTT", `Setup finished with status "disk full"`, "Setup completed with verdict: machine refused",
			"Setup finished with status running"},
	} {
		for _, line := range lines {
			r, got := Read(line), "open"
			switch {
			case r.Cancelled:
				got = "cancelled"
			case r.Failed || r.Fails || r.Exit != nil && *r.Exit == 1603:
				got = "bad"
			case r.Worked:
				got = "good"
			}
			if got != want {
				t.Errorf("%q: %s, want %s: %+v", line, got, want, r)
			}
			if open := want == "open"; open && !OtherStatus(line) {
				t.Errorf("%q: its status is taken for a good one", line)
			}
		}
	}
	for _, line := range []string{"Setup finished: 12 files", "Setup completed with 3 warnings", "Setup is complete. Thank you", "Setup finished"} {
		if OtherStatus(line) {
			t.Errorf("%q: has no status", line)
		}
	}
}
