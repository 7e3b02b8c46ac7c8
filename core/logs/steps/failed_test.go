package steps

import "testing"

// A line that says that a step failed names it, whichever way it is put; what
// is no step's name is passed over.
func TestFailed(t *testing.T) {
	for text, want := range map[string]string{
		"unexpected error in stage configure":                      "configure",
		"error during copy fonts: access is denied":                "copy fonts",
		"phase register-services ended with error 5":               "register-services",
		"step 4 of 9 (Write settings): error 5":                    "Write settings",
		"step #4 \"CreateFolders\" failed":                         "CreateFolders",
		"the action CreateFolders ended with 3":                    "CreateFolders",
		"error in action CreateFolders":                            "CreateFolders",
		"in step configure: access is denied":                      "configure", // the word for an error was read as its level
		"could not complete step configure":                        "configure",
		"failed while running schema_upgrade":                      "schema_upgrade",
		"result of configure: failed":                              "configure",
		"hook post-install exited with code 3":                     "post-install",
		"Fehler in Schritt configure":                              "configure",
		"Schritt Dienste anmelden fehlgeschlagen":                  "Dienste anmelden",
		"Fehler während der Aktion configure":                      "configure",
		"l'étape CopierFichiers a échoué":                          "CopierFichiers",
		"échec de l'étape CopierFichiers":                          "CopierFichiers",
		"error en el paso CopiarArchivos":                          "CopiarArchivos",
		"il passaggio configure non è riuscito":                    "configure",
		"erro no passo configure":                                  "configure",
		"stap configure is mislukt":                                "configure",
		"błąd w kroku configure":                                   "configure",
		"krok configure nie powiódł się":                           "configure",
		"chyba v kroku configure":                                  "configure",
		"fel i steg configure":                                     "configure",
		"ошибка на шаге configure":                                 "configure",
		"手順 configure でエラーが発生しました":                                 "configure",
		"configure 단계에서 오류":                                        "configure",
		"步骤 configure 失败":                                          "configure",
		"the requested operation requires elevation":               "",
		"the operation could not be completed":                     "",
		"step failed":                                              "",
		"this step could not be completed":                         "",
		"error in the last step":                                   "",
		"an error occurred while performing the requested action":  "",
		"action required: restart the computer after an error":     "",
		"the scheduled task KelpUpdate failed with 5":              "",
		"Hard block found, action: ManualUninstall":                "",
		"job is still running after an error":                      "",
		"Setup failed in step C:\\Kelp\\setup.exe":                 "",
		"could not run C:\\Kelp\\kelpcfg.exe: file not found":      "",
		"no action was taken because of errors":                    "",
		"task: yes, errors: 0":                                     "",
		"copy of kelp.dll failed":                                  "",
		"configure failed":                                         "", // no word for a step
		"failed to process package changes with code 0x800f0922":   "",
		"error executing SELECT name FROM settings: no such table": "",
	} {
		if got := Failed(text, false); got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
	for text, want := range map[string]string{
		"configure failed":                 "configure",
		"configure: FAILED":                "configure",
		"CreateFolders -> failed":          "CreateFolders",
		"[register-services] failed":       "register-services",
		"configure ended with error 5":     "configure",
		"configure returned an error":      "configure",
		"Framework step failed":            "Framework step",
		"configure adımında hata":          "configure adım",
		"it failed":                        "",
		"something failed":                 "",
		"C:\\Kelp\\kelpcfg.exe failed":     "",
		"The update failed":                "",
		"setup failed":                     "",
		"Everything failed. Please reboot": "",
	} {
		if got := Failed(text, true); got != want {
			t.Errorf("alone: %q: %q, want %q", text, got, want)
		}
	}
}
