package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

const portNumbers = `# What the numbers of the updater mean.
program: Berthline updater
product: Berthline
codes:
  - number: 44
    meaning: the update feed is switched off by a policy
    class: policy
    remedies: [{ class: policy, title: switch the feed on again }]
  - number: -191
    meaning: the package store cannot be written
    class: permission
    subject: { kind: folder, name: 'C:\ProgramData\Fathom\Packages' }
    confirm: [{ check: folder-writable, with: { folder: 'C:\ProgramData\Fathom\Packages' } }]
    remedies: [{ class: advice, title: ask who owns the store }]
`

const portSign = `- id: berth-licence
  title: No licence is left on {host|the server}
  class: condition
  seen: [{ text: ['no berth licence left for (?P<host>\S+)'] }]
  explanation: All licences of the server {host} are taken.
  remedies: [{ class: advice, title: free a licence }]
  tests: { match: ['CheckLicence: no berth licence left for ELLERY-D07'], nearMiss: ['CheckLicence: 3 berth licences left'] }
`

// siteFolder makes a site's folder of signs.
func siteFolder(t *testing.T, files map[string]string) string {
	t.Helper()
	dir := t.TempDir()
	for name, text := range files {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	return dir
}

// TestSignsOfASite: a site's numbers and signs are known to why and code, named
// or by the environment, and tried like ours.
func TestSignsOfASite(t *testing.T) {
	site := siteFolder(t, map[string]string{"updater.yaml": portNumbers, "port.yaml": portSign})
	log := filepath.Join(t.TempDir(), "update.log")
	text := "Berthline Updater 3.1\n12:00:01 INFO start\n12:00:02 INFO copied 44 files\n12:00:03 ERROR feed: failed with code 44\n12:00:04 ERROR updater ends, exit code 1\n"
	if err := os.WriteFile(log, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	verdict := decode[struct {
		Cause struct {
			Class   string
			Message int
		}
	}](t, run(t, "", nil, "why", log, "--signs", site, "--json").out)
	if verdict.Cause.Class != "policy" || verdict.Cause.Message != 44 {
		t.Errorf("the site's number 44 gives %+v", verdict)
	}
	if r := run(t, "", nil, "why", log, "--json"); strings.Contains(r.out, "switched off by a policy") {
		t.Error("without the site's folder its number is known")
	}
	env := []string{"HOLLOWKEY_SIGNS=" + site}
	for call, want := range map[string]string{
		"why --exit 44":            "switched off by a policy",
		"why --exit -191":          "the package store cannot be written",
		"code 44":                  "of Berthline updater",
		"code -191":                "ask who owns the store",
		"signs list licence":       "berth-licence",
		"signs list store":         "berthline-updater--191",
		"signs show BERTH-LICENCE": "no berth licence left for",
	} {
		if r := run(t, "", env, strings.Fields(call)...); !strings.Contains(r.out, want) {
			t.Errorf("%s lacks %q:\n%s%s", call, want, r.out, r.err)
		}
	}
	if r := mustRun(t, "", 0, "signs", "test", site); !strings.Contains(r.out, "3 signs, 0 fail") {
		t.Errorf("signs test:\n%s", r.out)
	}
}

// TestSignsThatFail: what would never be seen, is seen too often, or names what
// nobody knows is told.
func TestSignsThatFail(t *testing.T) {
	for fault, change := range map[string][2]string{
		"it is not seen":                         {"no berth licence left for (?P<host>", "no licence at all for (?P<host>"},
		"near miss 1 is taken for it":            {"CheckLicence: 3 berth licences left", "no berth licence left for X"},
		`the check "moon-phase" is not known`:    {"  remedies:", "  confirm: [{ check: moon-phase, with: { a: b } }]\n  remedies:"},
		`the check folder-writable takes folder`: {"  remedies:", "  confirm: [{ check: folder-writable, with: { path: b } }]\n  remedies:"},
		`the step "polish" is not known`:         {"title: free a licence", "title: free a licence, steps: [{ polish: { folder: x } }]"},
		`the step grant is filled with {where}`: {"title: free a licence",
			"title: free a licence, steps: [{ grant: { folder: '{where}', account: SYSTEM, right: modify } }]"},
		`the step grant takes folder, file, key`:      {"title: free a licence", "title: free a licence, steps: [{ grant: { path: x } }]"},
		`a capture is missing in "No licence is left`: {"{host|the server}", "{berth}"},
	} {
		bad := strings.Replace(portSign, change[0], change[1], 1)
		if bad == portSign {
			t.Fatalf("%q changes nothing", change[0])
		}
		r := run(t, "", nil, "signs", "test", siteFolder(t, map[string]string{"port.yaml": bad}), "--width", "200")
		if r.code != 3 || !strings.Contains(r.out, fault) {
			t.Errorf("want %q, got %d\n%s%s", fault, r.code, r.out, r.err)
		}
	}
	for want, list := range map[string]string{
		"program or codes is missing":          "program: X\ncodes: []\n",
		"number or meaning is missing":         "program: X\ncodes: [{ number: 4 }]\n",
		`the class "weather" is not one`:       strings.Replace(portNumbers, "class: policy", "class: weather", 1),
		`the ID "berthline-updater-44" stands`: strings.Replace(portNumbers, "number: -191", "number: 44", 1),
		`the key "meanin" is not known`:        strings.Replace(portNumbers, "meaning", "meanin", 1),
		"remedies is missing":                  "program: X\ncodes: [{ number: 4, meaning: a, class: space }]\n",
	} {
		if r := run(t, "", nil, "signs", "test",
			siteFolder(t, map[string]string{"updater.yaml": list})); r.code != 1 || !strings.Contains(r.err, want) {
			t.Errorf("want %q, got %d: %s", want, r.code, r.err)
		}
	}
}

// TestSignsDraft: a draft is a sign at once, sees its own line and no other,
// and captures what the line names.
func TestSignsDraft(t *testing.T) {
	log := filepath.Join(t.TempDir(), "setup.log")
	text := `2026-05-04 09:12:01 INFO  Tidebook Desk 4.2 setup starts
2026-05-04 09:12:02 INFO  ledger: opening C:\ProgramData\Quay\harbour.db
2026-05-04 09:12:03 ERROR ledger: "C:\ProgramData\Quay\ledger.db" is sealed by berth 17, code 8812
2026-05-04 09:12:04 ERROR setup failed, exit code 7
`
	if err := os.WriteFile(log, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	draft := filepath.Join(dir, "sealed.yaml")
	mustRun(t, "", 0, "signs", "draft", log, "--line", "3", "--out", draft)
	b, err := os.ReadFile(draft)
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{`(?P<file>`, `berth \d+, code 8812`, `kind: file`, "opening C:"} {
		if !strings.Contains(string(b), want) {
			t.Errorf("the draft lacks %q:\n%s", want, b)
		}
	}
	if r := run(t, "", nil, "signs", "test", dir); r.code != 0 {
		t.Errorf("the draft does not work: %s%s\n%s", r.out, r.err, b)
	}
	other := strings.ReplaceAll(strings.Replace(text, "ledger.db", "berths.db", 1), "berth 17", "berth 4")
	if err := os.WriteFile(log, []byte(other), 0o600); err != nil {
		t.Fatal(err)
	}
	if r := run(t, "", nil, "why", log, "--signs", dir); !strings.Contains(r.out, `C:\ProgramData\Quay\berths.db`) {
		t.Errorf("the draft does not see another file:\n%s", r.out)
	}
	if r := mustRun(t, "", 1, "signs", "draft", log, "--line", "3", "--out", draft); !strings.Contains(r.err, "hint:") {
		t.Errorf("a file that is there was written over: %s", r.err)
	}
	if r := mustRun(t, "", 1, "signs", "draft", log, "--line", "99"); !strings.Contains(r.err, "line 99") {
		t.Errorf("a line that is not there: %s", r.err)
	}
	mustRun(t, "", 2, "signs", "draft", log)
}

// Steps that a site's own sign names are told as such, and a yes to the
// program's own does not take them.
func TestSiteSteps(t *testing.T) {
	dir := layOut(t)
	if err := os.MkdirAll(filepath.Join(dir, "own"), 0o755); err != nil {
		t.Fatal(err)
	}
	write(t, filepath.Join(dir, "own"), "port.yaml", `- id: berth-gate
  title: The gate is shut
  class: condition
  strength: 0.99
  seen: [{ text: ['the gate is shut'] }]
  subject: { kind: value, name: Gate }
  explanation: The gate is shut.
  remedies: [{ class: registry, title: open the gate, steps: [{ registry: { key: 'HKLM\SOFTWARE\Berth Gate', name: Open, type: dword, value: '1' } }] }]
  tests: { match: ['the gate is shut'], nearMiss: ['the gate is open'] }
`)
	write(t, dir, "gate.log", "2026-05-04 09:00:00 [Info] Berth setup starts\n2026-05-04 09:00:01 [Error] the gate is shut\n2026-05-04 09:00:02 [Error] setup failed, exit code 9\n")
	before := tree(t, filepath.Join(dir, twinName))
	call := []string{"fix", "gate.log", "--machine", twinName, "--signs", "own"}
	if r := mustRun(t, dir, 0, append(call, "--preview")...); !strings.Contains(r.out, "port.yaml") {
		t.Errorf("the preview does not say whose steps these are:\n%s", r.out)
	}
	if r := mustRun(t, dir, 1, append(call, "--yes")...); !strings.Contains(r.err, "not from the program") {
		t.Errorf("%s%s", r.out, r.err)
	}
	if d := differs(before, tree(t, filepath.Join(dir, twinName))); len(d) > 0 {
		t.Errorf("--yes took them: %v", d)
	}
	mustRun(t, dir, 0, append(call, "--yes", "--site-steps")...)
	if len(differs(before, tree(t, filepath.Join(dir, twinName)))) == 0 {
		t.Error("--site-steps did not")
	}
}
