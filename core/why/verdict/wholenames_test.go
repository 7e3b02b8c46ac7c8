package verdict

import (
	"fmt"
	"strings"
	"testing"
)

// in is a log whose one telling line has a name in it.
func in(line string) string {
	return "2026-05-04 09:12:01 INFO Tidebook setup 2.8 started\n2026-05-04 09:12:02 DEBUG reading maps\n2026-05-04 09:12:03 ERROR " + line +
		"\n2026-05-04 09:12:04 INFO Rolling back\n2026-05-04 09:12:05 ERROR Installation failed with exit code 1603\n"
}

// Paths, keys, services and hosts are taken whole, with blanks, brackets,
// commas and dollar signs, whatever sentence they stand in.
func TestNamesInAnySentence(t *testing.T) {
	for _, of := range []struct {
		most             int // that may be taken otherwise: where no mark ends a name, a sentence may go on with the same signs
		names, sentences []string
	}{
		{3, []string{`C:\Program Files (x86)\Tidebook\bin\tide-core.v2.dll`, `C:\ProgramData\Saltmarsh, Ltd\Tidebook\licence.dat`, `C:\Users\Anna O'Neil\AppData\Local\Tidebook\settings.json`,
			`C:\Users\José Müller\AppData\Roaming\Tidebook\config.xml`, `D:\Data #1\maps\north.tif`, `\\ellery-fs\deploy$\Tidebook 2.8\setup.cab`, `C:\Tidebook\~tmp\tide.db`,
			`C:\Tidebook\.cache\.lock`, `C:\Tidebook\日本語\設定.ini`, `C:\Tidebook\{7A1B}\geo.dll`, `C:\Windows\Temp\{8f425050-fbed-361a-9378-15476d972262}\Tidebook.msi`, `C:\Tidebook\tide.tar.gz`,
			`C:\Users\pia\OneDrive - Port Ellery\tide.docx`, `C:\Tidebook\Tide(2)\data[1]\x.dll`, `C:\Tidebook\tide (1).dll`, `%LOCALAPPDATA%\Tidebook\cache\tide.db`},
			[]string{`Access to the path '%s' is denied.`, `Access denied: %s`, `Cannot write to %s: access denied`, `Could not open file %s (error 5)`, `%s: Permission denied`,
				`CreateFile(%s) failed: 5`, `Error 5 while deleting %s.`, `Failed to copy %s, access is denied.`}},
		{2, []string{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\{6F1B1F4C-7B1C-4E1E-9B7A-1A2B3C4D5E6F}`, `HKCU\Software\Saltmarsh, Ltd\Tidebook`,
			`HKEY_LOCAL_MACHINE\SOFTWARE\Tide & Co\Book (x64)\Main`, `HKLM\SOFTWARE\Saltmarsh Quay\Tidebook\Licences`, `HKCR\CLSID\{6F1B1F4C-7B1C-4E1E-9B7A-1A2B3C4D5E6F}\InprocServer32`},
			[]string{`Could not open key %s. System error 5.`, `Access denied: %s`, `RegOpenKeyEx(%s) failed: 5`, `RegCreateKeyEx failed for %s (5)`, `Error 5 while creating %s`,
				`unable to create [%s]: permission denied`}},
		{1, []string{"TideSync", "Tide Sync Service", "MSSQL$TIDE", "tide-agent", "Tide.Feed", "tidesvc", "TideBook_Updater"},
			[]string{`Service '%s' failed to start.`, `The service %s did not respond in a timely fashion (1053)`, `Could not start service %s: 1058`, `Failed to start %s: the service is disabled`,
				`OpenService(%s) failed: 1060`, `net start "%s": System error 1058 has occurred.`, `Cannot open %s service on computer '.'.`, `The %s service is marked for deletion (1072)`}},
		{1, []string{"updates.tidebook.example", "ellery-fs", "ELLERY-DC01", "FS01.PORT.LOCAL", "tide_db.example.org"},
			[]string{`Could not resolve host %s`, `Connection to %s timed out`, `No such host is known: '%s'`, `connect to %s port 443 failed: Connection refused`, `getaddrinfo ENOTFOUND %s`,
				`SSL handshake with %s failed`}},
	} {
		var wrong []string
		for _, name := range of.names {
			for _, sentence := range of.sentences {
				got := ""
				if s := reached(t, in(fmt.Sprintf(sentence, name))).Cause.Subject; s != nil {
					got = s.Name
				}
				if !strings.EqualFold(got, name) {
					wrong = append(wrong, fmt.Sprintf("%s: %q", fmt.Sprintf(sentence, name), got))
				}
			}
		}
		if len(wrong) > of.most {
			t.Errorf("%d of %d are taken otherwise:\n%s", len(wrong), len(of.names)*len(of.sentences), strings.Join(wrong, "\n"))
		}
	}
}

// A warning that says what makes up for it does not take the blame from the
// error behind it.
func TestWhatIsMadeUpForIsNotToBlame(t *testing.T) {
	for _, note := range []string{"service TideSync not found, will be created", "no such table: schema_version; running migrations", "service TideOld could not be stopped: it does not exist",
		"table Berths does not exist, creating it", "registry is damaged? no", "runtime was not found in C:\\Tide, using C:\\Program Files\\TideRT", "could not delete C:\\Tide\\old.dll: not there",
		"another instance is running: no", "dependencies not satisfied yet, sorting", "cache is corrupt; will be generated"} {
		for class, line := range map[string]string{"permission": `Access to the path 'C:\Tide\a.dll' is denied.`, "space": "There is not enough space on the disk.",
			"network": "Could not resolve host updates.tide.example", "elevation": "The requested operation requires elevation.", "custom-action": "custom action RegisterTide returned 17"} {
			log := strings.Replace(in(line), "DEBUG reading maps", "WARN "+note, 1)
			if v := reached(t, log); *v.Cause.Class != class {
				t.Errorf("%q takes the blame from %s: %s with %.2f", note, class, *v.Cause.Class, v.Cause.Confidence)
			}
		}
	}
}
