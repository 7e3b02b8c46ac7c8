package verdict

import (
	"context"
	"slices"
	"strings"
	"testing"
)

// Whole logs of programs that update or install themselves, in the forms that
// loggers write.
var programLogs = []struct {
	name, log, product, class, subject string
	message, line                      int // a line of the evidence
}{
	{name: "Python trace", class: "permission", subject: `C:\Program Files\Tide Table\tide.dll`, line: 7,
		log: `2026-05-04 09:12:01,101 INFO  installer: Starting Tide Table 2.2.0 installer
2026-05-04 09:12:02,101 INFO  installer: unpacking 312 files
2026-05-04 09:12:03,101 ERROR installer: installation failed
Traceback (most recent call last):
  File "setup/run.py", line 88, in main
    shutil.copy(src, dst)
PermissionError: [WinError 5] Access is denied: 'C:\\Program Files\\Tide Table\\tide.dll'
2026-05-04 09:12:03,201 INFO  installer: exit code 1
`},
	{name: "end and reason in one line", class: "permission", subject: `TideWatch\packages`, line: 4,
		log: `[21/11/26 09:12:01] info: Program: Starting updater: --install .
[21/11/26 09:12:02] info: CheckForUpdateImpl: Reading RELEASES file
[21/11/26 09:12:04] warn: DownloadReleasesImpl: retry
[21/11/26 09:12:05] fatal: Finished with unhandled exception: System.AggregateException: One or more errors occurred. ---> System.UnauthorizedAccessException: Access to the path 'C:\Users\mwhitlow\AppData\Local\TideWatch\packages' is denied.
   at System.IO.__Error.WinIOError(Int32 errorCode, String maybeFullPath)
`},
	{name: "module of the program", class: "path", subject: "main.js", line: 2,
		log: `2026-05-04T09:12:01.523Z [INFO] [updater] Found version 3.2.1 (url: TideWatch-Setup-3.2.1.exe)
2026-05-04T09:12:05.523Z [ERROR] [updater] Error: Cannot find module 'C:\Program Files\TideWatch\resources\app.asar\main.js'
2026-05-04T09:12:05.623Z [INFO] [updater] quit
`},
	{name: "named values", product: "Tide Watch", class: "leftover", message: 1073, subject: "TideSync", line: 3,
		log: `level=info ts=2026-05-04T09:12:01Z msg="install start" app="Tide Watch" version=3.1
level=error ts=2026-05-04T09:12:05Z msg="msi failed" err="exit status 1603" log="C:\\x.log"
level=error ts=2026-05-04T09:12:05Z msg="service create failed" err="The specified service already exists." code=1073 service=TideSync
level=info ts=2026-05-04T09:12:06Z msg="rollback done"
level=fatal ts=2026-05-04T09:12:06Z msg="install failed" exit_code=1
`},
	{name: "JSON lines", product: "Mooring Desk", class: "permission", message: 5, line: 3,
		log: `{"time":"2026-05-04T09:12:01Z","level":"info","msg":"setup start","product":"Mooring Desk","version":"5.0.1"}
{"time":"2026-05-04T09:12:02Z","level":"warn","msg":"registry key HKLM\\SOFTWARE\\Quay\\Old not found, skipping"}
{"time":"2026-05-04T09:12:03Z","level":"error","msg":"cannot create key","key":"HKLM\\SOFTWARE\\Quay\\Mooring","error":"Access is denied.","code":5}
{"time":"2026-05-04T09:12:04Z","level":"error","msg":"setup failed","exitCode":1}
`},
	{name: "features from a local update server", class: "policy", line: 2, log: `2026-05-04 09:12:03, Info                  DISM   DISM Package Manager: PID=5120 TID=4432 Processing the top level command token(enable-feature). - CPackageManagerCLIHandler::Private_ValidateCmdLine
2026-05-04 09:12:09, Error                 DISM   DISM Package Manager: PID=5120 TID=4432 Failed finalizing changes. - CDISMPackageManager::Internal_Finalize(hr:0x800f0954)
2026-05-04 09:12:09, Error                 DISM   DISM.EXE: DISM Package Manager processed the command line but failed. HRESULT=800F0954
2026-05-04 09:12:10, Info                  DISM   DISM.EXE: <----- Ending Dism.exe session ----->
`},
	{name: "event log, newest first", product: "Berthline", class: "service", message: 1920, subject: "BerthSync",
		line: 16, log: `Log Name:      Application
Source:        MsiInstaller
Date:          5/4/2026 9:12:11 AM
Event ID:      1033
Level:         Information
Description:
Windows Installer installed the product. Product Name: Berthline. Product Version: 4.2.0. Product Language: 1033. Manufacturer: Saltmarsh Quay Software. Installation success or error status: 1603.

Log Name:      Application
Source:        MsiInstaller
Date:          5/4/2026 9:12:09 AM
Event ID:      11920
Level:         Error
Computer:      ELLERY-D07
Description:
Product: Berthline -- Error 1920. Service 'Berthline Sync' (BerthSync) failed to start.  Verify that you have sufficient privileges to start system services.
`},
}

func TestProgramLogs(t *testing.T) {
	for _, s := range programLogs {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(s.log)}, Options{})
		if err != nil {
			t.Errorf("%s: %v", s.name, err)
			continue
		}
		checkScenario(t, scenario{name: s.name, class: s.class, subject: s.subject, message: s.message}, v)
		if s.product != "" && (v.Product.Name == nil || *v.Product.Name != s.product) {
			t.Errorf("%s: product %v, want %s", s.name, v.Product.Name, s.product)
		}
		if s.product == "" && v.Product.Name != nil && strings.HasPrefix(*v.Product.Name, "Found") {
			t.Errorf("%s: %q is no product", s.name, *v.Product.Name)
		}
		if !slices.ContainsFunc(v.Evidence, func(l Line) bool { return l.Line == s.line }) {
			t.Errorf("%s: line %d is not in the evidence %v", s.name, s.line, v.Evidence)
		}
	}
}

// Whatever a log holds, there is a verdict or an error, and it is not sure of a
// cause without evidence.
func FuzzReach(f *testing.F) {
	// Small seeds, each of another dialect: judging is the slow part, and what
	// matters is how lines of different kinds come together.
	f.Add(scriptLog("Message box (OK):", "| Pilot Roster needs the .NET Desktop Runtime 8.0, which is not installed."))
	f.Add(programLogs[0].log)
	f.Add(engineLog(engineScenarios[0]))
	f.Add("Log Name:      Application\nSource: MsiInstaller\nEvent ID: 11708\nLevel: Error\nDescription:\nProduct: A -- failed")
	f.Fuzz(func(t *testing.T, log string) {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(log)}, Options{})
		if err != nil {
			return
		}
		if v.Worked() != (v.Cause.Class == nil) {
			t.Fatalf("%s, and the class is %v", v.Outcome, v.Cause.Class)
		}
		if v.Cause.Confidence < 0 || v.Cause.Confidence > 1 || v.Cause.Confidence >= 0.9 && v.Cause.Class != nil && len(v.Evidence) == 0 {
			t.Fatalf("sure to %v with evidence %v", v.Cause.Confidence, v.Evidence)
		}
	})
}
