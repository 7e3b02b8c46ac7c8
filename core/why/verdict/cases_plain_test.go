package verdict

import (
	"context"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

// debugLog puts lines between the usual head, noise and tail of a program's
// log. Each line is "level text".
func debugLog(lines ...string) string {
	var b strings.Builder
	second := 10
	put := func(line string) {
		level, text, _ := strings.Cut(line, " ")
		if level == "|" { // a line without a stamp
			b.WriteString(text + "\n")
			return
		}
		second++
		b.WriteString("[2026-05-04 09:12:" + string(rune('0'+second/10)) + string(rune('0'+second%10)) + ".100] [" + level + "] (setup) " +
			text + "\n")
	}
	put("info Tidebook Agent 4.1.0 setup starting")
	put("warn telemetry upload failed: ECONNREFUSED (ignored)")
	put("info space check: 46900 MB free, 655 MB wanted, ok")
	put("debug probing port COM1: error 2 (this is fine)")
	for _, l := range lines {
		put(l)
	}
	put("info rolling back")
	put("error setup failed, exit code 7")
	put("debug telemetry: EPERM, open 'C:\\x\\stats.tmp' (optional)")
	return b.String()
}

var debugScenarios = []scenario{
	{name: "Node, denied", lines: []string{`error Error: EACCES: permission denied, mkdir 'C:\Program Files\Quay\agent'`},
		class: "permission", subject: `C:\Program Files\Quay\agent`, remedy: "permission"},
	{name: "Node, held", lines: []string{`error Error: EBUSY: resource busy or locked, rename 'C:\Quay\agent.exe' -> 'C:\Quay\agent.old'`},
		class: "in-use", subject: `C:\Quay\agent.exe`},
	{name: "Node, no space", lines: []string{`error Error: ENOSPC: no space left on device, write`}, class: "space"},
	{name: "Node, host", lines: []string{`error Error: getaddrinfo ENOTFOUND updates.ellery.example`}, class: "network",
		subject: "updates.ellery.example", remedy: "network"},
	{name: "Node, refused", lines: []string{`error Error: connect ECONNREFUSED 10.0.0.7:443`}, class: "network"},
	{name: "Node, certificate",
		lines: []string{`error Error: unable to verify the first certificate, code: 'UNABLE_TO_VERIFY_LEAF_SIGNATURE'`}, class: "network"},
	{name: "Node, checksum", lines: []string{`error Error: sha512 checksum mismatch, expected 1f..., got 2c...`}, class: "corrupt"},
	{name: "Node, signature", lines: []string{`error Error: New version 4.1.0 is not signed by the application owner`}, class: "corrupt"},
	{name: "Node, program missing", lines: []string{`error Error: spawn powershell.exe ENOENT`}, class: "path"},
	{name: "blocker file", lines: []string{`debug mkdir C:\ProgramData\Quay\spool -> EEXIST: file already exists, mkdir 'C:\ProgramData\Quay\spool' (ignored)`, `error Error: ENOENT: no such file or directory, open 'C:\ProgramData\Quay\spool\q.idx'`},
		class: "path", subject: `C:\ProgramData\Quay\spool`, remedy: "file"},
	{name: ".NET, denied", lines: []string{"error unhandled",
		`| System.UnauthorizedAccessException: Access to the path 'C:\ProgramData\Quay\a.db' is denied.`, "|    at System.IO.File.Open()"},
		class: "permission", subject: "a.db"},
	{name: ".NET, held", lines: []string{"error unhandled",
		`| System.IO.IOException: The process cannot access the file 'C:\Quay\agent.exe' because it is being used by another process.`},
		class: "in-use", subject: "agent.exe"},
	{name: ".NET, wrong bitness", lines: []string{"error unhandled",
		"| System.BadImageFormatException: Could not load file or assembly 'Quay.Native'. An attempt was made to load a program with an incorrect format."}, class: "platform"},
	{name: ".NET, runtime", lines: []string{"error You must install or update .NET to run this application."}, class: "prerequisite"},
	{name: ".NET, inner exception", lines: []string{"error update could not be applied",
		"| System.AggregateException: One or more errors occurred.",
		"|  ---> System.Net.Http.HttpRequestException: No such host is known. (updates.ellery.example:443)"}, class: "network"},
	{name: "Java, denied", lines: []string{"error migration stopped", "| java.lang.RuntimeException: outer", "| \tat a.B.c(D.java:1)",
		`| Caused by: java.nio.file.AccessDeniedException: C:\ProgramData\Quay\x.db`}, class: "permission", subject: "x.db"},
	{name: "Java, certificate", lines: []string{"error cannot fetch",
		"| javax.net.ssl.SSLHandshakeException: PKIX path building failed: unable to find valid certification path to requested target"},
		class: "network"},
	{name: "Java, memory", lines: []string{"error stopped", "| java.lang.OutOfMemoryError: Java heap space"}, class: "space"},
	{name: "service disabled", lines: []string{"error StartService(BerthSync) failed: The service cannot be started, either because it is disabled or because it has no enabled devices associated with it. (1058)"}, class: "service"},
	{name: "service logon", lines: []string{"error StartService failed, error 1069"}, class: "service", message: 1069},
	{name: "service marked for deletion",
		lines: []string{"error CreateService BerthSync: The specified service has been marked for deletion."}, class: "service"},
	{name: "policy", lines: []string{"error This program is blocked by group policy. For more information, contact your system administrator. (0x800704EC)"}, class: "policy"},
	{name: "scripts off", lines: []string{`error File C:\Temp\a.ps1 cannot be loaded because running scripts is disabled on this system.`},
		class: "policy"},
	{name: "virus scanner", lines: []string{`error CreateProcess C:\Temp\agent.exe: Operation did not complete successfully because the file contains a virus or potentially unwanted software.`}, class: "security-software"},
	{name: "proxy", lines: []string{"error GET https://updates.ellery.example/a.zip: HTTP 407 Proxy Authentication Required"},
		class: "network"},
	{name: "not elevated", lines: []string{"error The requested operation requires elevation. (740)"}, class: "elevation"},
	{name: "OS gate", lines: []string{"error Windows build 15063 is not supported, minimum OS build is 17763"}, class: "condition"},
	{name: "registry", lines: []string{`error registry key HKLM\SOFTWARE\Quay\Agent does not exist`}, class: "registry",
		subject: `HKLM\SOFTWARE\Quay\Agent`},
	{name: "archive", lines: []string{"error cannot unpack: unexpected end of archive"}, class: "corrupt"},
	{name: "bare system error", lines: []string{`error CopyFile(C:\a, C:\b) failed, error 5`}, class: "permission"},
	{name: "bare HRESULT", lines: []string{"error IUpdate::Install returned 0x80070070"}, class: "space"},
	{name: "another setup", lines: []string{"error msiexec ended with 1618"}, class: "busy"},
	{name: "missing file", lines: []string{`error Error: ENOENT: no such file or directory, open 'C:\Quay\agent.json'`}, class: "path",
		subject: `C:\Quay\agent.json`},
	{name: "nothing known", lines: []string{"error the flux is out of tune"}, class: "unknown"},
}

func TestDebugLogScenarios(t *testing.T) {
	for _, s := range debugScenarios {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(debugLog(s.lines...))}, Options{})
		if err != nil {
			t.Errorf("%s: %v", s.name, err)
			continue
		}
		checkScenario(t, s, v)
		if v.ExitCode == nil || *v.ExitCode != 7 || *v.Product.Name != "Tidebook Agent" {
			t.Errorf("%s: exit code %v, product %v", s.name, v.ExitCode, v.Product.Name)
		}
		if v.Cause.Confidence >= 0.9 && s.class == "unknown" {
			t.Errorf("%s: unknown, and yet sure", s.name)
		}
	}
}

// The same log with a good end accuses nobody.
func TestGoodEndsAccuseNobody(t *testing.T) {
	for _, s := range debugScenarios {
		log := strings.Replace(debugLog(s.lines...), "[info] (setup) rolling back", "[info] (setup) tried again, all well", 1)
		log = strings.Replace(log, "[error] (setup) setup failed, exit code 7", "[info] (setup) setup completed successfully, exit code 0", 1)
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(log)}, Options{})
		if err != nil || !v.Worked() || v.Cause.Class != nil || len(v.Evidence) == 0 {
			t.Errorf("%s, then well: %s, %v, %v", s.name, v.Outcome, v.Cause, err)
		}
	}
}

// Servicing, driver setup and deployment, by the number they give.
func TestOSLogScenarios(t *testing.T) {
	cbs := func(code string) string {
		return "2026-05-04 09:12:01, Info                  CBS    Session: 31_1 initialized by client WU\n" +
			"2026-05-04 09:12:01, Info                  CBS    Warning: Unrecognized packageExtended attribute.\n" +
			"2026-05-04 09:12:02, Error                 CBS    Failed to perform operation.  [HRESULT = " + code + "]\n" +
			"2026-05-04 09:12:03, Info                  CBS    Exec: Processing complete.  Session: 31_1, Package: Package_for_KB5005565 [HRESULT = " + code + "]\n"
	}
	driver := func(line, code string) string {
		return ">>>  [SetupUOI - C:\\Deploy\\tidecard.inf]\n>>>  Section start 2026/05/04 09:12:01.000\n!    sto: optional file is missing\n!!!  " + line + "\n<<<  Section end 2026/05/04 09:12:02.000\n<<<  [Exit status: FAILURE(" + code + ")]\n"
	}
	app := func(code, text string) string {
		return "Add-AppxPackage : Deployment failed with HRESULT: " + code + ", " + text + "\nQuay.Tide_1.4.0.0_x64__8wekyb3d8bbwe\n"
	}
	for _, tt := range []struct{ log, class string }{
		{cbs("0x80073712"), "component-store"}, {cbs("0x800f081f"), "component-store"}, {cbs("0x800f0988"), "component-store"},
		{cbs("0x800f0906"), "network"},
		{cbs("0x800f0954"), "policy"}, {cbs("0x800f0823"), "prerequisite"}, {cbs("0x800f082f"), "busy"}, {cbs("0x800f0922"), "component-store"},
		{cbs("0x80070070"), "space"}, {cbs("0x80070005"), "permission"}, {cbs("0x80072ee7"), "network"},
		{driver("sto: Driver package failed signature verification. Error = 0xE0000247", "0xe0000247"), "policy"},
		{driver("sig: Verifying file against catalog failed. Error 0xe000024b: The hash for the file is not present in the specified catalog file.", "0xe000024b"), "corrupt"},
		{driver("inf: No applicable section found in INF for this platform.", "0xe0000101"), "platform"},
		{driver("cpy: Failed to copy file. Error = 0x00000005 access is denied", "0x00000005"), "permission"},
		{app("0x80073CF3", "dependency validation failed"), "prerequisite"}, {app("0x80073CFF", "sideloading is off"), "policy"},
		{app("0x80073D02", "in use"), "in-use"},
		{app("0x80073CFB", "already installed"), "leftover"}, {app("0x80073CFD", "OS version"), "condition"},
		{app("0x800B0109", "root not trusted"), "corrupt"},
		{app("0x80073CF0", "could not be opened"), "corrupt"}, {app("0x80073D10", "wrong architecture"), "platform"},
		{app("0x80073CF4", "disk full"), "space"},
	} {
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(tt.log)}, Options{})
		if err != nil {
			t.Errorf("%v\n%s", err, tt.log)
			continue
		}
		if v.Outcome != story.Failed || *v.Cause.Class != tt.class || len(v.Evidence) == 0 || len(v.Remedies) == 0 {
			t.Errorf("%s, %s (sign %s), want %s\n%s", v.Outcome, *v.Cause.Class, v.Sign, tt.class, tt.log)
		}
	}
}
