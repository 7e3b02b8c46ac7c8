package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// Nobody is asked to agree to what was not shown.
func TestNothingIsAgreedToUnseen(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	for _, option := range []string{"--quiet", "--json"} {
		for _, call := range [][]string{{"fix", "tidebook.log"}, {"ready", "mend"},
			{"leftovers", "clear", "Fairway Radio 1"}, {"startup", "hold"}, {"startup", "hunt"}, {"logs", "verbose", "on"}} {
			if r := mustRun(t, dir, 2, append(call, option, "--machine", "ELLERY-D07")...); !strings.Contains(r.err, "add --yes") {
				t.Errorf("%v %s: %s", call, option, r.err)
			}
		}
	}
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("these changed: %v", d)
	}
}

// What somebody may do is known before a step is shown: by elevation and by
// access lists.
func TestRightsAreCheckedFirst(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	about, err := os.ReadFile(filepath.Join(twin, "twin.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	access, err := os.ReadFile(filepath.Join(twin, "access.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	locked := filepath.Join(twin, "disk", "C", "ProgramData", "Nine Fathom", "Locked")
	if err := os.MkdirAll(locked, 0o755); err != nil {
		t.Fatal(err)
	}
	write(t, locked, "tides.txt", "tides")
	write(t, twin, "access.yaml", string(access)+"'C:\\ProgramData\\Nine Fathom\\Locked': 'O:SYG:SYD:P(A;OICI;FA;;;SY)'\n")
	step := func(code int, kind string, args ...string) string {
		t.Helper()
		call := []string{"fix", "--step", kind, "--machine", "ELLERY-D07", "--preview"}
		for _, a := range args {
			call = append(call, "--arg", a)
		}
		return mustRun(t, dir, code, call...).err
	}
	steps := map[string][]string{
		"service":  {"name=BerthSync", "start=disabled"},
		"registry": {`key=HKLM\SOFTWARE\Nine Fathom Systems`, "name=A", "type=string", "value=b"},
		"folder":   {`folder=C:\Program Files\Nine Fathom\New`}, "safe-boot": {"mode=minimal"}, "policy": {"name=logging", "state=on"},
	}
	for kind, args := range steps {
		step(0, kind, args...)
	}
	if said := step(1, "folder", `folder=C:\ProgramData\Nine Fathom\Locked\New`); !strings.Contains(said,
		"its access list") || !strings.Contains(said, "give the right first") {
		t.Errorf("an administrator whom the list leaves out: %s", said)
	}
	step(0, "grant", `folder=C:\ProgramData\Nine Fathom\Locked`, "account=Administrators", "right=modify") // an administrator takes ownership
	write(t, twin, "twin.yaml", strings.Replace(string(about), "elevated: true", "elevated: false", 1))
	for kind, args := range steps {
		if said := step(1, kind, args...); !strings.Contains(said, "not possible: mwhitlow cannot change") ||
			!strings.Contains(said, "elevated") {
			t.Errorf("%s without elevation: %s", kind, said)
		}
	}
	step(0, "registry", `key=HKCU\Software\Nine Fathom Systems`, "name=A", "type=string", "value=b")
	step(0, "folder", `folder=C:\Users\mwhitlow\New`)
}
