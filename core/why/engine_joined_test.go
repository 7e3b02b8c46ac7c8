package why_test

import (
	"maps"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/step"
	"hollowkey/core/why"
)

// engineLog is a short verbose log of the engine in which an action of the
// script broke over a message; ops are what it did before.
func engineLog(action, message string, ops ...string) string {
	const stamp = "MSI (s) (9C:E8) [09:12:01:180]: "
	text := "=== Verbose logging started: 5/4/2026  09:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\\Windows\\System32\\msiexec.exe ===\n" +
		stamp + "Grabbed execution mutex.\nAction start 09:12:01: INSTALL.\nAction start 09:12:01: InstallFinalize.\n" +
		stamp + "Executing op: ActionStart(Name=" + action + ",Description=x,,)\n"
	for _, op := range ops {
		text += stamp + "Executing op: " + op + "\n"
	}
	return text + message + "\n" + stamp + "Product: Kelp Chart -- " + message + "\n\nAction ended 09:12:01: InstallFinalize. Return value 3.\nAction ended 09:12:01: INSTALL. Return value 3.\n" +
		"Property(S): ProductName = Kelp Chart\nProperty(S): ProductVersion = 3.1.0\nProperty(S): Privileged = 1\nProperty(S): LogonUser = dpayne\n" +
		stamp + "MainEngineThread is returning 1603\n=== Logging stopped: 5/4/2026  09:12:01 ===\n"
}

// What the engine says in its own words, in several languages, meets the
// machine without the package: where something stands in the way or a right is
// lacking, the step is for that very place.
func TestTheEnginesWordsMeetTheMachine(t *testing.T) {
	const none = "O:SYG:SYD:PAI(A;OICI;0x1200a9;;;SY)(A;OICI;0x1200a9;;;BA)\n"
	files := maps.Clone(lacking(true))
	files["disk/C/Program Files/Kelp/plugins"] = ""
	files["disk/C/Program Files/Kelp/kelp.cfg/"] = ""
	files["disk/C/ProgramData/Menu/"] = ""
	files["disk/C/ProgramData/kelp.ini"] = "[a]\r\nb=c\r\n"
	files["access.yaml"] += "'C:\\ProgramData\\Menu': " + none + "'C:\\ProgramData\\kelp.ini': " + none + "'C:\\Users\\dpayne\\Temp': " + none +
		"'HKLM\\SOFTWARE\\Kelp Quay\\Chart': O:SYG:SYD:PAI(A;CI;KR;;;SY)(A;CI;KR;;;BA)\n'HKLM\\SYSTEM\\CurrentControlSet\\Control\\Session Manager\\Environment': O:SYG:SYD:PAI(A;CI;KR;;;SY)\n"
	files["registry/machine.reg"] += "\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\Kelp Quay\\Chart]\n\"a\"=\"b\"\n\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Session Manager\\Environment]\n\"TMP\"=\"C:\\\\Windows\\\\Temp\"\n"
	files["access.yaml"] = strings.Replace(files["access.yaml"], "'C:\\Users\\dpayne\\Temp': O:SYG:SYD:PAI(A;OICI;FA;;;S-1-5-21-1-2-3-1112)(A;OICI;FA;;;SY)\n", "", 1)
	m := twintest.Make(t, files)
	const unexpected = "The installer has encountered an unexpected error installing this package. This may indicate a problem with this package. The error code is "
	for _, tt := range []struct{ class, about, step, action, message, op string }{
		{"path", `C:\Program Files\Kelp\plugins\a.dll`, "folder", "InstallFiles", `Error 1310. Error writing to file: C:\Program Files\Kelp\plugins\a.dll.  System error 3.  Verify that you have access to that directory.`, ""},
		{"path", `C:\Program Files\Kelp\plugins`, "folder", "CreateFolders", `Fehler 1312. Das Verzeichnis 'C:\Program Files\Kelp\plugins' kann nicht erstellt werden. Eine Datei mit diesem Namen ist bereits vorhanden.`, ""},
		{"path", `C:\Program Files\Kelp\kelp.cfg`, "quarantine", "InstallFiles", `Error 1310. Error writing to file: C:\Program Files\Kelp\kelp.cfg.  System error 5.  Verify that you have access to that directory.`, ""},
		{"permission", `HKEY_LOCAL_MACHINE\SOFTWARE\Kelp Quay\Chart`, "grant", "WriteRegistryValues", `Error 1402. Could not open key: HKEY_LOCAL_MACHINE\SOFTWARE\Kelp Quay\Chart.  System error 5.  Verify that you have sufficient access to that key.`, ""},
		{"permission", `\SOFTWARE\Kelp Quay\Chart\Sub`, "grant", "WriteRegistryValues", `Error 1404. Could not delete key \SOFTWARE\Kelp Quay\Chart\Sub.  System error 5.`, ""},
		{"permission", `\SOFTWARE\Kelp Quay\Chart`, "grant", "WriteRegistryValues", `Fehler 1406. Der Wert Site konnte nicht in den Schlüssel \SOFTWARE\Kelp Quay\Chart geschrieben werden. Systemfehler 5.`, ""},
		{"permission", `\SOFTWARE\Kelp Quay\Chart`, "grant", "WriteRegistryValues", `Fout 1406. Kan de waarde Site niet schrijven naar sleutel \SOFTWARE\Kelp Quay\Chart. Systeemfout 5.`, ""},
		{"permission", `C:\Users\dpayne\Temp`, "grant", "InstallFiles", unexpected + "2503. The arguments are: , , ", ""},
		{"permission", `C:\Users\dpayne\Temp`, "grant", "InstallFiles", "DEBUG: Error 2502:  Called InstallFinalize when no install in progress", ""},
		{"permission", "KELP_HOME", "grant", "WriteEnvironmentStrings", "Error 1924. Could not update environment variable 'KELP_HOME'.  Verify that you have sufficient privileges to modify environment variables.", ""},
		{"permission", `C:\ProgramData\kelp.ini`, "grant", "WriteIniValues", `Error 1913. Could not update the INI file C:\ProgramData\kelp.ini[Site].  Verify that the file exists and that you can access it.`, ""},
		{"permission", "Chart.lnk", "grant", "CreateShortcuts", "Error 1909. Could not create shortcut Chart.lnk.  Verify that the destination folder exists and that you can access it.", `SetTargetFolder(Folder=C:\ProgramData\Menu\)`},
	} {
		var ops []string
		if tt.op != "" {
			ops = []string{tt.op}
		}
		log := write(t, "kelp.log", engineLog(tt.action, tt.message, ops...))
		v := ask(t, why.Question{Logs: []string{log}, Machine: m}).Verdict
		of := func(r step.Remedy) bool { return len(r.Steps) > 0 && r.Steps[0][tt.step] != nil }
		c := v.Cause
		if *c.Class != tt.class || c.Subject == nil || c.Subject.Name != tt.about || !slices.ContainsFunc(v.Remedies, of) {
			t.Errorf("%s: %s (%.2f) about %+v, seen %+v, remedies %+v; want %s about %s", tt.message, *c.Class, c.Confidence, c.Subject, v.Machine, v.Remedies, tt.class, tt.about)
		}
	}
}

// The engine tells its internal messages by their number in a sentence: that is
// the message, with what it is about.
func TestInternalMessagesInASentence(t *testing.T) {
	for said, want := range map[string]struct {
		message int
		class   string
	}{
		"The error code is 2350. The arguments are: , , ":                                      {2350, "corrupt"},
		`The error code is 2755. The arguments are: 3, C:\Deploy\kelp.msi, `:                   {2755, "permission"},
		"The error code is 2738. The arguments are: , , ":                                      {2738, "registry"},
		`The error code is 2203. The arguments are: C:\Windows\Installer\x.ipi, -2147287035, `: {2203, "permission"},
	} {
		log := write(t, "kelp.log", engineLog("InstallFiles", "The installer has encountered an unexpected error installing this package. This may indicate a problem with this package. "+said))
		v := ask(t, why.Question{Logs: []string{log}}).Verdict
		if v.Cause.Message == nil || *v.Cause.Message != want.message || *v.Cause.Class != want.class {
			t.Errorf("%s: message %v, %s; want %d, %s", said, v.Cause.Message, *v.Cause.Class, want.message, want.class)
		}
	}
}

// The same in other languages, known by its words for an unexpected error of a
// package and its form; no other number in a sentence is one.
func TestInternalMessagesInOtherLanguages(t *testing.T) {
	for said, message := range map[string]int{
		"Bei der Installation dieses Pakets ist ein unerwarteter Fehler aufgetreten. Der Fehlercode ist 2503. Argumente: , , ":                                     2503,
		"Le programme d'installation a rencontré une erreur inattendue lors de l'installation de ce package. Le code d'erreur est 2503. Les arguments sont : , , ": 2503,
		"Se encontró un error inesperado al instalar este paquete. El código de error es 2503. Los argumentos son: , , ":                                           2503,
		"Errore imprevisto durante l'installazione del pacchetto. Codice errore: 2503. Argomenti: , , ":                                                            2503,
		"Er is een onverwachte fout opgetreden tijdens de installatie van dit pakket. De foutcode is 2503. De argumenten zijn: , , ":                               2503,
		"Instalator napotkał nieoczekiwany błąd podczas instalacji tego pakietu. Kod błędu to 2503. Argumenty: , , ":                                               2503,
		"このパッケージのインストール中に予期しないエラーが発生しました。エラー コードは 2503 です。引数: , , ":                                                                                                2503,
		"Unexpected error in package step 12 of 2400, 2503 left":                                                                                                   0,
		"The package was made by an unexpected hand in room 3503":                                                                                                  0,
		"An unexpected answer came; the package has 2503 files and 2811 more are due":                                                                              0,
	} {
		log := write(t, "kelp.log", engineLog("InstallFiles", said))
		v := ask(t, why.Question{Logs: []string{log}}).Verdict
		got := 0
		if v.Cause.Message != nil {
			got = *v.Cause.Message
		}
		if got != message {
			t.Errorf("%s: message %d, want %d", said, got, message)
		}
	}
}

// An ordinary user gets the right to change a key, and not the right to give it
// away; SYSTEM gets back all that it has everywhere.
func TestAnOrdinaryUserGetsNoMoreThanNeeded(t *testing.T) {
	files := maps.Clone(lacking(true))
	files["twin.yaml"] = strings.Replace(files["twin.yaml"], "groups: [BA]", "groups: [BU]", 1)
	key := `HKEY_CURRENT_USER\Software\Kelp Quay`
	for who, right := range map[string]string{"S-1-5-21-1-2-3-1112": "modify", "SY": "full"} {
		left := map[string]string{"S-1-5-21-1-2-3-1112": "(A;CI;KA;;;SY)(A;CI;KR;;;S-1-5-21-1-2-3-1112)", "SY": "(A;CI;KA;;;S-1-5-21-1-2-3-1112)(A;CI;KR;;;SY)"}[who]
		own := maps.Clone(files)
		own["registry/user.reg"] += "\n[HKEY_USERS\\S-1-5-21-1-2-3-1112\\Software\\Kelp Quay]\n\"a\"=\"b\"\n"
		own["access.yaml"] += "'HKU\\S-1-5-21-1-2-3-1112\\Software\\Kelp Quay': O:SYG:SYD:PAI" + left + "\n"
		log := write(t, "kelp.log", engineLog("WriteRegistryValues", "Error 1402. Could not open key: "+key+".  System error 5.  Verify that you have sufficient access to that key."))
		v := ask(t, why.Question{Logs: []string{log}, Machine: twintest.Make(t, own)}).Verdict
		at := v.FirstWithSteps()
		if at < 0 || v.Remedies[at].Steps[0]["grant"]["right"] != right {
			t.Errorf("%s lacks the right: remedies %+v, want %s", who, v.Remedies, right)
		}
	}
}
