package realengine

import (
	"bytes"
	"context"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"hollowkey/core/machine/twin"
	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/package/installdb"
	"hollowkey/core/prove/rehearse"
	"hollowkey/core/why/verdict"
	"hollowkey/demo"
)

// plainTwin is a machine on which nothing is wrong, as the real engine's is.
func plainTwin(t *testing.T) *twin.Twin {
	t.Helper()
	return twintest.Make(t, map[string]string{
		"twin.yaml": "name: PLAIN\nos: { name: Windows, version: '10.0', build: 19043, architecture: x64 }\ndrives: [{ letter: 'C:', kind: fixed, size: 200 GB, free: 100 GB }]\n" +
			"users: [{ name: tester, sid: S-1-5-21-1-2-3-1000, groups: [BA], profile: 'C:\\Users\\tester' }]\nsigned in: tester\nenvironment: { TEMP: 'C:\\Users\\tester\\Temp' }\n",
		"access.yaml":                "'C:\\': O:SYG:SYD:(A;OICI;FA;;;WD)\n'HKLM\\SOFTWARE': O:SYG:SYD:(A;CI;KA;;;WD)\n",
		"services.yaml":              "- name: msiserver\n  binary: C:\\Windows\\system32\\msiexec.exe /V\n  start: manual\n  account: LocalSystem\n  state: stopped\n- name: OffDuty\n  binary: C:\\off.exe\n  start: disabled\n  account: LocalSystem\n  state: stopped\n",
		"registry/machine.reg":       "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_LOCAL_MACHINE\\SOFTWARE]\r\n\r\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Session Manager\\Environment]\r\n\"A\"=\"1\"\r\n",
		"disk/C/Users/tester/Temp/x": "",
		"disk/C/Windows/Installer/x": "",
		"disk/C/Program Files/x":     "",
		"disk/C/ProgramData/x":       "",
	})
}

// below lists the files under a folder with their contents.
func below(dir string) map[string]string {
	out := map[string]string{}
	filepath.WalkDir(dir, func(p string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			b, _ := os.ReadFile(p)
			rel, _ := filepath.Rel(dir, p)
			out[rel] = string(b)
		}
		return nil
	})
	return out
}

func brokeAt(t *testing.T, log []byte) string {
	t.Helper()
	v, err := verdict.Reach(context.Background(), verdict.Input{Name: "x.log", Text: bytes.NewReader(log)}, verdict.Options{})
	if err != nil || v.BrokeAt.Action == nil {
		return ""
	}
	return *v.BrokeAt.Action
}

// An edit makes a package of its own out of one of the scenario's.
type packageEdit func(t *testing.T, db *installdb.Database)

func insert(rows ...[]any) packageEdit {
	return func(t *testing.T, db *installdb.Database) {
		t.Helper()
		for _, r := range rows {
			must(t, db.Insert(r[0].(string), r[1:]...))
		}
	}
}

// rare adds a feature of a level, with a component of its own.
func rare(level int) packageEdit {
	return insert([]any{"Feature", "Rare", nil, "Rare", "", 3, level, "TARGET", 0},
		[]any{"Component", "Extra", "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4CE2}", "TARGET", 0x104, nil, "Extra"},
		[]any{"FeatureComponents", "Rare", "Extra"}, []any{"Registry", "Extra", 2, `Software\Saltmarsh Quay\Extra`, "On", "1", "Extra"})
}

func both(a, b packageEdit) packageEdit {
	return func(t *testing.T, db *installdb.Database) { t.Helper(); a(t, db); b(t, db) }
}

// The stand-in and the real engine agree: how a setup ends, which action
// breaks, which files and values it leaves, and that uninstalling takes them.
func TestRehearsalAgrees(t *testing.T) {
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	vendor := filepath.Join("Program Files", "Saltmarsh Quay")
	programs := filepath.Join(prefix, "drive_c", vendor)
	const key = `HKLM\Software\Saltmarsh Quay`
	hkValue := regexp.MustCompile(`(?m)^ +(\S+) +REG_\w+ +(.*?)\s*$`)
	for _, c := range []struct {
		name   string
		edit   packageEdit
		args   []string // properties
		exit   int
		action string
		stays  string // what the engine here leaves after uninstalling, and the rehearsal does not
	}{
		{name: "all goes well"},
		{name: "a property on the command line",
			edit: insert([]any{"Registry", "Desk", 2, `Software\Saltmarsh Quay\Planner`, "Desk", "[DESK] of [ProductName]", "Main"}),
			args: []string{"DESK=seven"}},
		{name: "values of all kinds", edit: insert([]any{"Registry", "Bin", 2, `Software\Saltmarsh Quay\Planner`, "Bin", "#x00ff7f", "Main"},
			[]any{"Registry", "Hash", 2, `Software\Saltmarsh Quay\Planner`, "Hash", "##5", "Main"},
			[]any{"Registry", "Expand", 2, `Software\Saltmarsh Quay\Planner`, "Expand", "#%of ~ProductVersion~", "Main"},
			[]any{"Registry", "File", 2, `Software\Saltmarsh Quay\Planner`, "File", "[#File1]", "Main"})},
		{name: "a launch condition", edit: insert([]any{"LaunchCondition", "VersionNT > 9999", "Only for machines of the future."}), exit: 1603,
			action: "LaunchConditions"},
		{name: "an error action", edit: insert([]any{"CustomAction", "Refuse", 19, nil, "Not on [ComputerName]."},
			[]any{"InstallExecuteSequence", "Refuse", "NOT DESK", 1450}), exit: 1603, action: "Refuse"},
		{name: "an error action that is passed",
			edit: insert([]any{"CustomAction", "Refuse", 19, nil, "Not here."}, []any{"InstallExecuteSequence", "Refuse", "NOT DESK", 1450}),
			args: []string{"DESK=1"}},
		{name: "a set property", edit: insert([]any{"CustomAction", "SetDesk", 51, "DESK", "[ProductVersion]-x"},
			[]any{"InstallExecuteSequence", "SetDesk", nil, 1010},
			[]any{"Registry", "Desk", 2, `Software\Saltmarsh Quay\Planner`, "Desk", "[DESK]", "Main"})},
		{name: "a component that is left out",
			edit: insert([]any{"Component", "Extra", "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4CE1}", "TARGET", 0x104, "DESK", "Extra"},
				[]any{"FeatureComponents", "Complete", "Extra"},
				[]any{"Registry", "Extra", 2, `Software\Saltmarsh Quay\Extra`, "On", "1", "Extra"})},
		{name: "a feature above the level", edit: rare(9)},
		{name: "an INI file", stays: filepath.Join("Planner", "planner.ini"),
			edit: insert([]any{"IniFile", "Ini", "planner.ini", "TARGET", "Gate", "Site", "[ProductName]", 0, "Main"},
				[]any{"IniFile", "Ini2", "planner.ini", "TARGET", "Gate", "Slips", "42", 0, "Main"})},
		{name: "a feature by name", edit: rare(9), args: []string{"ADDLOCAL=Rare"}},
		{name: "a feature of a level that is asked for", edit: rare(5), args: []string{"INSTALLLEVEL=5"}},
		{name: "what is asked of features", edit: both(rare(9),
			insert([]any{"CustomAction", "SetDesk", 51, "DESK", "rare [ProductVersion]"},
				[]any{"InstallExecuteSequence", "SetDesk", "&Rare = 3 AND !Rare = 2 AND $Extra = 3", 1010},
				[]any{"Registry", "Desk", 2, `Software\Saltmarsh Quay\Planner`, "Desk", "is [DESK]", "Main"})), args: []string{"ADDLOCAL=ALL"}},
		{name: "what is not asked of features",
			edit: both(rare(9), insert([]any{"CustomAction", "SetDesk", 51, "DESK", "rare"},
				[]any{"InstallExecuteSequence", "SetDesk", "&Rare = 3", 1010},
				[]any{"Registry", "Desk", 2, `Software\Saltmarsh Quay\Planner`, "Desk", "is [DESK]", "Main"}))},
		{name: "a condition that moves a feature's level", edit: both(rare(9), insert([]any{"Condition", "Rare", 1, "DESK"})),
			args: []string{"DESK=1"}},
		{name: "a search", edit: insert([]any{"AppSearch", "FOUND", "Sig"}, []any{"RegLocator", "Sig", 2, `Software\Nobody\Ever`, "X", 2},
			[]any{"Registry", "Desk", 2, `Software\Saltmarsh Quay\Planner`, "Desk", "found [FOUND]", "Main"})},
		{name: "actions that are skipped", edit: insert([]any{"CustomAction", "SetA", 51, "A", "one"},
			[]any{"InstallExecuteSequence", "SetA", "0", 1010}, []any{"CustomAction", "SetB", 51, "B", "[A]two"},
			[]any{"InstallExecuteSequence", "SetB", "NOT Installed", 1020},
			[]any{"Registry", "Desk", 2, `Software\Saltmarsh Quay\Planner`, "Desk", "[B]", "Main"})},
		{name: "a cabinet that is not there", edit: func(t *testing.T, db *installdb.Database) {
			must(t, db.SetCell("Media", 0, "Cabinet", installdb.TextValue("absent.cab")))
		}, exit: 1603, action: "InstallFiles"},
	} {
		db, err := demo.Package("Berthline.msi")
		must(t, err)
		if c.edit != nil {
			c.edit(t, db)
		}
		path := save(t, db, "agree.msi")
		real := func() (map[string]string, map[string]string) {
			out, _ := wine("wine", "reg", "query", key, "/s").CombinedOutput()
			values := map[string]string{}
			for _, m := range hkValue.FindAllStringSubmatch(string(out), -1) {
				values[m[1]] = m[2]
			}
			return below(programs), values
		}
		os.RemoveAll(programs)
		logPath := filepath.Join(t.TempDir(), "real.log")
		call := append([]string{"/i", windowsPath(path), "/qn", "/l*v", windowsPath(logPath)}, c.args...)
		exit := install(t, call...)
		files, values := real()
		log, _ := os.ReadFile(logPath)

		m := plainTwin(t)
		b, err := os.ReadFile(path)
		must(t, err)
		disk := filepath.Join(m.Folder(), "disk", "C")
		must(t, os.MkdirAll(filepath.Join(disk, "Deploy"), 0o755))
		must(t, os.WriteFile(filepath.Join(disk, "Deploy", "agree.msi"), b, 0o644))
		given := map[string]string{}
		for _, a := range c.args {
			name, value, _ := strings.Cut(a, "=")
			given[name] = value
		}
		var rehearsed bytes.Buffer
		res, err := rehearse.Run(m, rehearse.Request{Package: `C:\Deploy\agree.msi`, Properties: given, Mode: rehearse.Install,
			Started: time.Unix(0, 0).UTC()}, &rehearsed)
		must(t, err)

		if exit != c.exit || res.Exit != c.exit {
			t.Errorf("%s: the engine ends with %d, the rehearsal with %d (%s); want %d", c.name, exit, res.Exit, res.Failed, c.exit)
		}
		if c.action != "" {
			if a, b := brokeAt(t, log), brokeAt(t, rehearsed.Bytes()); a != b || b != c.action {
				t.Errorf("%s: the engine broke at %q, the rehearsal at %q; want %q", c.name, a, b, c.action)
			}
		}
		if mine := below(filepath.Join(disk, vendor)); !sameMap(mine, files) {
			t.Errorf("%s: files\n engine    %q\n rehearsal %q", c.name, files, mine)
		}
		for name, v := range values {
			got, err := valueBelow(m, `HKLM\SOFTWARE\Saltmarsh Quay`, name)
			if err != nil || !strings.EqualFold(strings.TrimPrefix(v, "0x"), strings.TrimSpace(got)) {
				t.Errorf("%s: the value %s is %q for the engine, %q in the rehearsal (%v)", c.name, name, v, got, err)
			}
		}
		if n := countValues(m, `HKLM\SOFTWARE\Saltmarsh Quay`); n != len(values) {
			t.Errorf("%s: %d values for the engine, %d in the rehearsal", c.name, len(values), n)
		}
		if exit == 0 {
			if code := install(t, append([]string{"/x", windowsPath(path), "/qn"}, c.args...)...); code != 0 {
				t.Errorf("%s: the engine uninstalls with %d", c.name, code)
			}
			files, values = real()
			delete(files, c.stays)
			un, err := rehearse.Run(m, rehearse.Request{Package: `C:\Deploy\agree.msi`, Properties: given, Mode: rehearse.Uninstall,
				Started: time.Unix(0, 0).UTC()}, &bytes.Buffer{})
			must(t, err)
			if un.Exit != 0 || !sameMap(below(filepath.Join(disk, vendor)), files) || countValues(m, `HKLM\SOFTWARE\Saltmarsh Quay`) != len(values) {
				t.Errorf("%s: after uninstalling (%d): files %v and %v, values %v and %d", c.name, un.Exit, files, below(filepath.Join(disk, vendor)),
					values, countValues(m, `HKLM\SOFTWARE\Saltmarsh Quay`))
			}
		}
		os.RemoveAll(programs)
		wine("wine", "reg", "delete", key, "/f").Run()
	}
}

func sameMap(a, b map[string]string) bool {
	if len(a) != len(b) {
		return false
	}
	for k, v := range a {
		if b[k] != v {
			return false
		}
	}
	return true
}

// valueBelow finds a value by its name under a key, numbers in hex as the
// engine's side shows them.
func valueBelow(m *twin.Twin, key, name string) (string, error) {
	values, err := m.Values(key)
	if err == nil {
		for _, v := range values {
			if v.Name != name {
				continue
			}
			if len(v.Value.Data) == 4 && v.Value.Type == 4 {
				return strings.TrimLeft(hexOf(v.Value.Data), "0"), nil
			}
			return v.Value.Words(), nil
		}
	}
	sub, err := m.Subkeys(key)
	for _, k := range sub {
		if v, err := valueBelow(m, key+`\`+k, name); err == nil {
			return v, nil
		}
	}
	if err == nil {
		err = fs.ErrNotExist
	}
	return "", err
}

func hexOf(b []byte) string {
	const digits = "0123456789abcdef"
	var out []byte
	for _, c := range slices.Backward(b) {
		out = append(out, digits[c>>4], digits[c&15])
	}
	return string(out)
}

func countValues(m *twin.Twin, key string) (n int) {
	if values, err := m.Values(key); err == nil {
		n = len(values)
	}
	sub, _ := m.Subkeys(key)
	for _, k := range sub {
		n += countValues(m, key+`\`+k)
	}
	return n
}
