package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// A site tells how its program writes more; the hold is undone exactly.
func TestLogLevels(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	ini := filepath.Join(twin, "disk", "C", "ProgramData", "Nine Fathom")
	if err := os.MkdirAll(ini, 0o755); err != nil {
		t.Fatal(err)
	}
	write(t, ini, "radio.ini", "[Log]\r\nLevel=warn\r\n")
	write(t, dir, "levels.yaml", `- name: Fairway Radio
  log: 'C:\ProgramData\Nine Fathom\radio.log'
  steps:
    - ini: { file: 'C:\ProgramData\Nine Fathom\radio.ini', section: Log, key: Level, value: debug }
    - registry: { key: 'HKLM\SOFTWARE\Nine Fathom Systems\Radio', name: Trace, type: dword, value: "1" }
`)
	before := tree(t, twin)
	level := func(code int, args ...string) result {
		t.Helper()
		return mustRun(t, dir, code, append([]string{"logs", "level", "--machine", "ELLERY-D07", "--from", "levels.yaml"}, args...)...)
	}
	if r := level(0); !strings.Contains(r.out, "Fairway Radio") || !strings.Contains(r.out, "device setup") {
		t.Error(r.out)
	}
	level(0, "fairway*", "--preview")
	level(3, "unknown", "--yes")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("the preview changed %v", d)
	}
	if r := level(0, "fairway*", "--yes"); !strings.Contains(r.err, "hold in force: log levels raised") ||
		!strings.Contains(r.err, "logs level off") {
		t.Errorf("the hold is not told: %s", r.err)
	}
	if b, err := os.ReadFile(filepath.Join(ini, "radio.ini")); err != nil || !strings.Contains(string(b), "Level=debug") {
		t.Errorf("%s %v", b, err)
	}
	mustRun(t, dir, 0, "logs", "level", "off", "--machine", "ELLERY-D07", "--yes")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after the release these differ: %v", d)
	}
	mustRun(t, dir, 3, "logs", "level", "off", "--machine", "ELLERY-D07", "--yes")
	for bad, want := range map[string]string{
		"- name: A\n  steps: [ { command: { out: 'C:\\a.cmd', package: 'C:\\a.msi' } } ]\n": "neither ini nor registry",
		"- name: A\n": "no name or no steps",
		"- name: A\n  steps: [ { registry: { key: 'HKLM\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\Run', name: a, type: string, value: b } } ]\n": "refused",
	} {
		write(t, dir, "levels.yaml", bad)
		if r := level(1, "A", "--yes"); !strings.Contains(r.err, want) {
			t.Errorf("%s: %s", bad, r.err)
		}
	}
}

// Old logs go aside and come back; those of the OS stay.
func TestFreshLogs(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	cbs := filepath.Join(twin, "disk", "C", "Windows", "Logs", "CBS")
	if err := os.MkdirAll(cbs, 0o755); err != nil {
		t.Fatal(err)
	}
	write(t, cbs, "CBS.log", "2026-05-04 09:12:00, Info                  CBS    Starting TrustedInstaller initialization.\n2026-05-04 09:12:01, Info                  CBS    Session: 30_1 initialized by client WindowsUpdateAgent.\n"+
		"2026-05-04 09:12:02, Error                 CBS    Failed to perform operation.  [HRESULT = 0x80070002 - ERROR_FILE_NOT_FOUND]\n2026-05-04 09:12:02, Error                 CBS    Failed to resolve package [HRESULT = 0x80070002]\n")
	before := tree(t, twin)
	mustRun(t, dir, 0, "logs", "fresh", "--machine", "ELLERY-D07", "--preview")
	mustRun(t, dir, 1, "logs", "fresh", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("without a yes these changed: %v", d)
	}
	if r := mustRun(t, dir, 0, "logs", "fresh", "--machine", "ELLERY-D07", "--yes"); !strings.Contains(r.err, "1 of the OS's own stay") {
		t.Error(r.err)
	}
	if r := mustRun(t, dir, 0, "logs", "--machine", "ELLERY-D07"); !strings.Contains(r.out, "CBS.log") ||
		strings.Contains(r.out, "roster.log") {
		t.Errorf("what is found afterwards:\n%s", r.out)
	}
	mustRun(t, dir, 0, "undo", "--machine", "ELLERY-D07", "--yes")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after undo these differ: %v", d)
	}
}
