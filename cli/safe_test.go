package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// What a stranger wrote into a twin, a log or a case shows on the terminal as
// signs, and in JSON as numbers.
func TestNothingForTheTerminal(t *testing.T) {
	t.Parallel()
	const evil = "\x1b]0;owned\x07\x1b[8m\u202egnp.exe\u2066\u009b2J\x7f"
	dir := layOut(t)
	services := filepath.Join(dir, twinName, "services.yaml")
	b, err := os.ReadFile(services)
	if err != nil {
		t.Fatal(err)
	}
	write(t, filepath.Dir(services), "services.yaml", strings.Replace(string(b), "display: Ellery Tide Clock",
		"display: \"B\\e]0;owned\\a\\e[8m\\u202Egnp\\u009B2J\\x7F\"", 1))
	write(t, dir, "evil.log", "2026-05-04 09:00:00 [Info] setup of "+evil+
		" starts\n2026-05-04 09:00:01 [Error] cannot open C:\\"+evil+
		"\\x.dll: access denied\n2026-05-04 09:00:02 [Error] setup of "+evil+" failed, exit code 9\n")
	mustRun(t, dir, 0, "case", "open", "--machine", twinName, "--title", evil)
	mustRun(t, dir, 0, "case", "note", "--machine", twinName, evil)
	for _, call := range [][]string{
		{"why", "evil.log"}, {"why", "evil.log", "--explain"}, {"why", "evil.log", "--ticket"}, {"trail", "evil.log"}, {"why", "--said", evil},
		{"case"}, {"case", "report"}, {"startup"}, {"ready"}, {"journal"}, {"fix", "evil.log", "--preview"},
		{"why", "evil.log", "--json"}, {"case", "--json"}, {"startup", "--json"},
	} {
		r := run(t, dir, nil, append(call, "--machine", twinName)...)
		if i := strings.IndexAny(r.out+r.err, "\x1b\x07\x7f\u009b\u202e\u2066"); i >= 0 {
			t.Errorf("%v: %.80q", call, (r.out + r.err)[max(0, i-20):])
		}
	}
}
