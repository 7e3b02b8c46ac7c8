package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

type rehearsal struct {
	Exit    int
	Failed  string `json:"failed_action"`
	Message int
	Assumed []string
}

func rehearseOn(t *testing.T, dir string, code int, machine, pack string, args ...string) rehearsal {
	t.Helper()
	return decode[rehearsal](t, mustRun(t, dir, code, append([]string{"rehearse", pack, "--machine", machine, "--json"}, args...)...).out)
}

// Each of the desktop's troubles stops the setup where the real engine would;
// the twin stays as it is.
func TestRehearsalHonoursTheMachine(t *testing.T) {
	t.Parallel()
	const tidebook = `C:\Deploy\Tidebook.msi`
	edit := func(name, old, new string) func(t *testing.T, twin string) {
		return func(t *testing.T, twin string) {
			b, err := os.ReadFile(filepath.Join(twin, name))
			if err != nil || !strings.Contains(string(b), old) {
				t.Fatalf("%s does not hold %q: %v", name, old, err)
			}
			write(t, twin, name, strings.Replace(string(b), old, new, 1))
		}
	}
	policy := func(text string) func(t *testing.T, twin string) {
		return edit(filepath.Join("registry", "machine.reg"), "[HKEY_LOCAL_MACHINE\\SOFTWARE\\WOW6432Node\\Nine Fathom]",
			text+"\r\n\r\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\WOW6432Node\\Nine Fathom]")
	}
	for name, c := range map[string]struct {
		pack, user string
		args       []string
		change     func(t *testing.T, twin string)
		exit       int
		failed     string
		message    int
	}{
		"temporary folder":    {`C:\Deploy\Berthline.msi`, "mwhitlow", nil, nil, 1603, "InstallInitialize", 2203},
		"another user":        {`C:\Deploy\Berthline.msi`, "dpayne", nil, nil, 0, "", 0},
		"disabled dependency": {tidebook, "dpayne", nil, nil, 1603, "StartServices", 1920},
		"missing drive":       {`C:\Deploy\Pilot Roster.msi`, "mwhitlow", nil, nil, 1603, "CostFinalize", 1327},
		"file in the way":     {`C:\Deploy\Ledger.msi`, "dpayne", nil, nil, 1603, "CreateFolders", 1312},
		"launch condition":    {`C:\Deploy\berthline-planner-3.1.msi`, "dpayne", nil, nil, 1603, "LaunchConditions", 0},
		"no product":          {"{00000000-1111-2222-3333-444444444444}", "dpayne", []string{"--uninstall"}, nil, 1605, "", 0},
		"cached package gone": {"{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6B30}", "dpayne", []string{"--uninstall"}, nil, 1612, "", 1706},
		"service disabled":    {tidebook, "dpayne", nil, edit("services.yaml", "start: manual", "start: disabled"), 1601, "", 0},
		"policy": {tidebook, "dpayne", nil,
			policy("[HKEY_LOCAL_MACHINE\\SOFTWARE\\Policies\\Microsoft\\Windows\\Installer]\r\n\"DisableMSI\"=dword:00000002"), 1625, "", 1625},
		"another setup": {tidebook, "dpayne", nil,
			policy("[HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\Installer\\InProgress]"), 1618, "", 1500},
		"no space":       {tidebook, "dpayne", nil, edit("twin.yaml", "free: 61 GB", "free: 0 KB"), 1603, "InstallValidate", 1601},
		"32-bit machine": {tidebook, "dpayne", nil, edit("twin.yaml", "architecture: x64", "architecture: x86"), 1633, "", 1633},
		"closed target": {tidebook, "dpayne", nil,
			edit("access.yaml", "'C:\\Windows':", "'C:\\Program Files': O:SYD:P(A;OICI;FR;;;BU)\n'C:\\Windows':"), 1603, "InstallFiles", 1303},
		"closed key": {`C:\Deploy\Berthline.msi`, "dpayne", nil,
			edit("access.yaml", "'HKLM\\SOFTWARE':", "'HKLM\\SOFTWARE\\Saltmarsh Quay': O:SYD:P(A;CI;KR;;;BU)\n'HKLM\\SOFTWARE':"), 1603,
			"WriteRegistryValues", 1401},
		"a program that fails": {`C:\Deploy\berthline-planner-3.1.msi`, "dpayne", []string{"--transform", `C:\Deploy\one.mst`},
			func(t *testing.T, twin string) {
				mustRun(t, twin, 0, "package", "alter", filepath.Join("disk", "C", "Deploy", "berthline-planner-3.1.msi"), "--set-condition",
					"LaunchCondition,VersionNT >= 501 AND VersionNT < 600,VersionNT >= 501", "--out",
					filepath.Join("disk", "C", "Deploy", "one.mst"))
				edit("twin.yaml", "programs:\n", "programs:\n  - { run: custom action RunChartRuntime, exit: 7 }\n")(t, twin)
			}, 1603, "RunChartRuntime", 1722},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			dir := layOut(t)
			twin := filepath.Join(dir, "ELLERY-D07")
			if c.change != nil {
				c.change(t, twin)
			}
			before := tree(t, twin)
			code := 3
			if c.exit == 0 {
				code = 0
			}
			r := rehearseOn(t, dir, code, "ELLERY-D07", c.pack, append([]string{"--user", c.user, "--out", "r.log", "--replace"}, c.args...)...)
			if r.Exit != c.exit || r.Failed != c.failed || r.Message != c.message {
				t.Errorf("%+v; want exit %d at %q with %d", r, c.exit, c.failed, c.message)
			}
			if d := differs(before, tree(t, twin)); len(d) > 0 {
				t.Errorf("the rehearsal changed %v", d)
			}
			v := decode[struct {
				Outcome string
				Exit    *int                     `json:"exit_code"`
				BrokeAt struct{ Action *string } `json:"broke_at"`
			}](t, run(t, dir, nil, "why", "r.log", "--json").out)
			if (v.Outcome == "succeeded") != (c.exit == 0) || v.Exit == nil || *v.Exit != c.exit {
				t.Errorf("the log tells %+v; want exit %d", v, c.exit)
			}
			if c.failed != "" && (v.BrokeAt.Action == nil || *v.BrokeAt.Action != c.failed) {
				t.Errorf("the log's verdict: %+v; want %s", v.BrokeAt, c.failed)
			}
		})
	}
}

// Install, repair, a newer version that removes the older one, and uninstall:
// what is left is what was there before.
func TestRehearsalRoundTrip(t *testing.T) {
	dir := layOut(t)
	before := tree(t, filepath.Join(dir, "ELLERY-D07"))
	const pack, code = `C:\Deploy\Berthline.msi`, "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C11}"
	rehearseOn(t, dir, 0, "ELLERY-D07", pack, "--user", "dpayne", "--keep", "after")
	after := tree(t, filepath.Join(dir, "after"))
	exe := filepath.Join("disk", "C", "Program Files", "Saltmarsh Quay", "Planner", "Planner.exe")
	if !strings.Contains(after[exe], "made-up file Planner.exe") {
		t.Errorf("not installed: %q", after[exe])
	}
	if out := mustRun(t, dir, 3, "cache", "--machine", "after", "--json").out; !strings.Contains(out, "Berthline Planner") {
		t.Errorf("the product is not registered: %s", out)
	}
	mustRun(t, dir, 2, "rehearse", pack, "--machine", "live")
	mustRun(t, dir, 1, "rehearse", pack, "--machine", "ELLERY-D07", "--user", "dpayne", "--keep", "after")
	// A file goes missing; the repair brings it back.
	if err := os.Remove(filepath.Join(dir, "after", exe)); err != nil {
		t.Fatal(err)
	}
	rehearseOn(t, dir, 0, "after", code, "--repair", "--user", "dpayne", "--keep", "repaired")
	if got := tree(t, filepath.Join(dir, "repaired"))[exe]; got != after[exe] {
		t.Errorf("after the repair: %q", got)
	}
	rehearseOn(t, dir, 0, "after", code, "--uninstall", "--user", "dpayne", "--keep", "gone")
	gone := tree(t, filepath.Join(dir, "gone"))
	for _, d := range differs(before, gone) {
		if !strings.HasPrefix(d, "registry") { // keys that became empty may stay
			t.Errorf("left after uninstalling: %s", d)
		}
	}
	if reg := gone[filepath.Join("registry", "machine.reg")]; strings.Contains(reg, "Planner") {
		t.Errorf("the registry still names it:\n%s", reg)
	}
}

// A rehearsal that fails in the middle of the script leaves nothing behind.
func TestRehearsalRollsBack(t *testing.T) {
	dir := layOut(t)
	before := tree(t, filepath.Join(dir, "ELLERY-D07"))
	rehearseOn(t, dir, 3, "ELLERY-D07", `C:\Deploy\Tidebook.msi`, "--user", "dpayne", "--keep", "after")
	for _, d := range differs(before, tree(t, filepath.Join(dir, "after"))) {
		t.Errorf("left after the rollback: %s", d)
	}
	r := mustRun(t, dir, 0, "fix", "tidebook.log", "--machine", "ELLERY-D07", "--rehearse")
	if !strings.Contains(r.out, "the failure is gone") && !strings.Contains(r.out, "The failure is gone") ||
		!strings.Contains(r.out, "The twin has not been changed") {
		t.Errorf("fix --rehearse:\n%s", r.out)
	}
	if d := differs(before, tree(t, filepath.Join(dir, "ELLERY-D07"))); len(d) > 0 {
		t.Errorf("fix --rehearse changed %v", d)
	}
}

// A package of this computer is brought to the copy and rehearsed there as one
// of the machine's own; the twin stays as it is.
func TestRehearsePackageOfThisComputer(t *testing.T) {
	dir := layOut(t)
	before := tree(t, filepath.Join(dir, "ELLERY-D07"))
	here := filepath.Join("share", "Berthline.msi")
	if err := os.MkdirAll(filepath.Join(dir, "share"), 0o755); err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile(filepath.Join(dir, "ELLERY-D07", "disk", "C", "Deploy", "Berthline.msi"))
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, here), b, 0o600); err != nil {
		t.Fatal(err)
	}
	own := rehearseOn(t, dir, 0, "ELLERY-D07", `C:\Deploy\Berthline.msi`, "--user", "dpayne")
	brought := rehearseOn(t, dir, 0, "ELLERY-D07", here, "--user", "dpayne")
	if own.Exit != brought.Exit || own.Failed != brought.Failed {
		t.Errorf("%+v, want as from the machine's own path: %+v", brought, own)
	}
	failed := mustRun(t, dir, 3, "rehearse", "berthline-planner-3.1.msi", "--machine", "ELLERY-D07")
	_, next, told := strings.Cut(failed.out, "Next: hollowkey ")
	if !told {
		t.Fatalf("no next call: %s", failed.out)
	}
	mustRun(t, dir, 3, strings.Fields(next)...)
	if out := mustRun(t, dir, 3, "why", "rehearsal.log", "--machine", "ELLERY-D07").out; !strings.Contains(out, "VersionNT") {
		t.Errorf("why: %s", out)
	}
	if r := mustRun(t, dir, 3, "retry", "berthline-planner-3.1.msi", "--machine", "ELLERY-D07"); !strings.Contains(r.out, "1603") {
		t.Errorf("retry: %s", r.out)
	}
	if r := mustRun(t, dir, 1, "rehearse", "nowhere.msi", "--machine", "ELLERY-D07"); !strings.Contains(r.err, "neither here nor on ELLERY-D07") {
		t.Errorf("a package that is nowhere: %s", r.err)
	}
	for _, d := range differs(before, tree(t, filepath.Join(dir, "ELLERY-D07"))) {
		t.Errorf("changed: %s", d)
	}
}
