package gates

import (
	"slices"
	"strings"
	"testing"

	"hollowkey/core/machine/twin"
	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/package/condition"
	"hollowkey/core/package/installdb"
)

// desktop is a twin with what the searches of the tests look for.
func desktop(t *testing.T, os_ string) *twin.Twin {
	t.Helper()
	return twintest.Make(t, map[string]string{
		"twin.yaml": "name: ELLERY-D09\nos: " + os_ +
			"\ndrives: [{ letter: 'C:', kind: fixed, size: 100 GB, free: 50 GB }]\nenvironment: { TIDE: ebb }\n",
		"registry/machine.reg": "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\WOW6432Node\\Quay]\r\n\"Version\"=\"2.1\"\r\n\"Count\"=dword:00000007\r\n\"Hash\"=\"#3\"\r\n" +
			"\r\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\Quay]\r\n\"Folder\"=\"C:\\\\Quay\"\r\n\"Gone\"=\"C:\\\\Gone\"\r\n",
		"disk/C/Quay/berth.exe":   "x",
		"disk/C/Windows/quay.ini": "[Site]\r\nCode=ELLERY, 7\r\n",
		"services.yaml":           "",
		"access.yaml":             "'C:\\': 'D:(A;OICI;FA;;;BA)'\n",
	})
}

const windows11 = "{ name: Windows, version: '10.0', build: 22631, edition: Pro, architecture: x64 }"

func database(t *testing.T, rows ...[]any) *installdb.Database {
	t.Helper()
	db := installdb.New(installdb.Package, 1252)
	for _, r := range rows {
		if err := db.Insert(r[0].(string), r[1:]...); err != nil {
			t.Fatal(err)
		}
	}
	s := &installdb.Summary{}
	s.SetText(installdb.SummaryTemplate, "x64;1033")
	db.SetSummary(s)
	return db
}

// Where values come from, and what they are.
func TestKnow(t *testing.T) {
	db := database(t,
		[]any{"AppSearch", "QUAYVERSION", "S1"}, []any{"RegLocator", "S1", 2, `SOFTWARE\Quay`, "Version", 2},
		[]any{"AppSearch", "COUNT", "S2"}, []any{"RegLocator", "S2", 2, `Software\Quay`, "Count", 2},
		[]any{"AppSearch", "HASH", "S3"}, []any{"RegLocator", "S3", 2, `SOFTWARE\Quay`, "Hash", 2},
		[]any{"AppSearch", "FOLDER64", "S4"}, []any{"RegLocator", "S4", 2, `SOFTWARE\Quay`, "Folder", 16},
		[]any{"AppSearch", "GONE", "S5"}, []any{"RegLocator", "S5", 2, `SOFTWARE\Quay`, "Gone", 16},
		[]any{"AppSearch", "MISSING", "S6"}, []any{"RegLocator", "S6", 2, `SOFTWARE\Nowhere`, "X", 2},
		[]any{"AppSearch", "SITE", "S7"}, []any{"IniLocator", "S7", "QUAY.INI|quay.ini", "Site", "Code", 2, 2},
		[]any{"AppSearch", "BERTH", "S8"}, []any{"Signature", "S8", "berth.exe"}, []any{"DrLocator", "S8", nil, `C:\Quay`, 0},
		[]any{"AppSearch", "NOBERTH", "S9"}, []any{"Signature", "S9", "mole.exe"}, []any{"DrLocator", "S9", "S4", "", 0},
		[]any{"AppSearch", "COMPONENT", "S10"}, []any{"CompLocator", "S10", "{5A1E7C30-9D24-4B6F-A0C8-17E3D5F2B601}", 1},
		[]any{"Property", "STORED", "x"}, []any{"Property", "MISSING", "stored all the same"}, []any{"Property", "SETBYACTION", "before"},
		[]any{"CustomAction", "SetIt", 51, "SETBYACTION", "[STORED]-[%TIDE]"}, []any{"InstallExecuteSequence", "SetIt", nil, 10},
		[]any{"CustomAction", "SetRuntime", 51, "RUNTIME", "[LogonUser]"}, []any{"InstallExecuteSequence", "SetRuntime", nil, 11},
		[]any{"CustomAction", "SetNever", 51, "NEVER", "y"}, []any{"InstallExecuteSequence", "SetNever", "Installed", 12},
		[]any{"CustomAction", "SetCircle", 51, "CIRCLE", "[CIRCLE]x"}, []any{"InstallExecuteSequence", "SetCircle", "CIRCLE", 13},
		[]any{"Feature", "Main", nil, nil, nil, 1, 1, nil, 0}, []any{"Feature", "Side", nil, nil, nil, 1, 200, nil, 0},
		[]any{"Component", "MainExe", nil, "D", 0}, []any{"FeatureComponents", "Main", "MainExe"},
	)
	w := NewWorld(db, desktop(t, windows11), map[string]string{"GIVEN": "5", "QUAYVERSION": "given"})
	for name, want := range map[string]struct {
		value  string
		origin Origin
	}{
		"QUAYVERSION": {"2.1", Searched}, "COUNT": {"#7", Searched}, "HASH": {"##3", Searched}, "FOLDER64": {`C:\Quay`, Searched},
		"GONE":    {"", Searched},
		"MISSING": {"stored all the same", Searched}, "SITE": {"7", Searched}, "BERTH": {`C:\Quay`, Searched}, "NOBERTH": {"", Searched},
		"COMPONENT": {"", Searched},
		"GIVEN":     {"5", Given}, "STORED": {"x", Stored}, "SETBYACTION": {"x-ebb", ByAction}, "RUNTIME": {"?", ByAction},
		"NEVER":     {"", Nowhere},
		"CIRCLE":    {"?", ByAction},
		"VersionNT": {"603", BuiltIn}, "VersionNT64": {"603", BuiltIn}, "WindowsBuild": {"9600", BuiltIn}, "Msix64": {"6", BuiltIn},
		"Arm64": {"", BuiltIn}, "MsiNTProductType": {"1", BuiltIn},
		"Privileged": {"1", BuiltIn}, "Installed": {"", BuiltIn}, "LogonUser": {"?", BuiltIn},
		"ProgramFilesFolder": {`C:\Program Files (x86)\`, BuiltIn}, "NOTHING": {"", Nowhere},
	} {
		k := w.Know(condition.Symbol{Name: name})
		got := k.Text
		if k.Unknown {
			got = "?"
		}
		if got != want.value || k.Origin != want.origin || k.Detail == "" {
			t.Errorf("%s is %q (%s: %s), want %q (%s)", name, got, k.Origin, k.Detail, want.value, want.origin)
		}
	}
	for symbol, want := range map[condition.Symbol]string{
		{Kind: condition.FeatureAction, Name: "Main"}: "3", {Kind: condition.FeatureAction, Name: "Side"}: "-1",
		{Kind: condition.FeatureState, Name: "Main"}:       "2",
		{Kind: condition.ComponentAction, Name: "MainExe"}: "3", {Kind: condition.ComponentState, Name: "Nobody"}: "",
		{Kind: condition.Environment, Name: "tide"}:   "ebb",
		{Kind: condition.Environment, Name: "NOTSET"}: "",
	} {
		if got := w.Lookup(symbol).Text; got != want {
			t.Errorf("%s is %q, want %q", symbol, got, want)
		}
	}
	if w.Err() != nil {
		t.Error(w.Err())
	}
}

func TestOldAndSmallMachines(t *testing.T) {
	for os, want := range map[string]map[string]string{
		"{ name: Windows, version: '6.1', build: 7601, edition: Enterprise, architecture: x86 }": {"VersionNT": "601", "VersionNT64": "",
			"WindowsBuild": "7601", "ProgramFilesFolder": `C:\Program Files\`, "ProgramFiles64Folder": ""},
		"{ name: Windows Server, version: '10.0', build: 20348, edition: Standard, architecture: x64 }": {"MsiNTProductType": "3",
			"VersionNT": "603"},
		"{ name: Windows, version: '10.0', build: 26100, edition: Pro, architecture: arm64 }": {"Arm64": "6", "Intel": "",
			"Msix64": "", "VersionNT64": "603"},
	} {
		w := NewWorld(database(t), desktop(t, os), nil)
		for name, value := range want {
			if got := w.Lookup(condition.Symbol{Name: name}).Text; got != value {
				t.Errorf("%s: %s is %q, want %q", os, name, got, value)
			}
		}
	}
}

func TestGatesOfEveryKind(t *testing.T) {
	db := database(t,
		[]any{"LaunchCondition", "SITECODE", "Give a site code."}, []any{"LaunchCondition", "VersionNT >= 1000", "Windows 10 or later."},
		[]any{"LaunchCondition", "A AND", "broken"}, []any{"LaunchCondition", "(X = 1 OR Y = 2) AND VersionNT AND LATER", "late"},
		[]any{"InstallUISequence", "LaunchConditions", nil, 100},
		[]any{"CustomAction", "Always", 19, nil, "Never installs."}, []any{"InstallExecuteSequence", "Always", nil, 10},
		[]any{"CustomAction", "RunGone", 34, "TOOLS", "gone.exe /q"}, []any{"InstallExecuteSequence", "RunGone", nil, 20},
		[]any{"Directory", "TARGETDIR", nil, "SourceDir"}, []any{"Directory", "TOOLS", "WINVOL", "QUAY~1|Quay"},
		[]any{"Directory", "WINVOL", "WindowsVolume", "."}, []any{"Directory", "WindowsVolume", "TARGETDIR", "."},
		[]any{"CustomAction", "RunThere", 50, "TOOL", "/q"}, []any{"InstallExecuteSequence", "RunThere", nil, 30},
		[]any{"Property", "TOOL", `C:\Quay\berth.exe`},
		[]any{"CustomAction", "RunNothing", 2, "NotInBinary", nil}, []any{"InstallExecuteSequence", "RunNothing", nil, 40},
		[]any{"CustomAction", "Ignored", 2 + 64, "NotInBinary", nil}, []any{"InstallExecuteSequence", "Ignored", nil, 50},
		[]any{"CustomAction", "SetLater", 51, "LATER", "[Date]"}, []any{"InstallExecuteSequence", "SetLater", nil, 5},
	)
	list, err := Find(NewWorld(db, desktop(t, strings.Replace(windows11, "x64", "x86", 1)), nil))
	if err != nil {
		t.Fatal(err)
	}
	by := map[string]Gate{}
	for _, g := range list {
		by[g.Row] = g
	}
	for row, want := range map[string]Answer{
		"SITECODE": Fails, "VersionNT >= 1000": Fails, "A AND": CannotTell, "(X = 1 OR Y = 2) AND VersionNT AND LATER": Fails,
		"Always": Fails, "RunGone": Fails, "RunThere": CannotTell, "RunNothing": Fails, "template": Fails,
	} {
		if by[row].Answer != want {
			t.Errorf("%s: %s, want %s: %+v", row, by[row].Answer, want, by[row])
		}
	}
	if _, ok := by["Ignored"]; ok {
		t.Error("a program whose failure is ignored is a gate")
	}
	for row, want := range map[string]string{
		"VersionNT >= 1000":                        "which no Windows tells a package: the newest says 603",
		"(X = 1 OR Y = 2) AND VersionNT AND LATER": "remove the condition from the package", "template": "the vendor's package for x86",
	} {
		found := false
		for _, way := range by[row].Ways {
			found = found || strings.Contains(way.Text, want)
		}
		if !found && row[0] != '(' {
			t.Errorf("%s: no way %q in %+v", row, want, by[row].Ways)
		}
	}
	if !strings.Contains(by["SITECODE"].Note, "silent") || !strings.Contains(by["A AND"].Note, "column 6") ||
		!strings.Contains(by["RunGone"].Note, `C:\Quay\gone.exe`) {
		t.Errorf("notes: %q, %q, %q", by["SITECODE"].Note, by["A AND"].Note, by["RunGone"].Note)
	}
}

// What a gate asks for is a person's to see to, unless it does not know of a
// machine so new, or only a switch is missing.
func TestWhoseGate(t *testing.T) {
	search := []any{"AppSearch", "CHARTV", "Cv"}
	at := []any{"RegLocator", "Cv", 2, `SOFTWARE\Nine Fathom\Charts`, "Version", 18}
	for i, c := range []struct{ condition, says, want string }{
		{"VersionNT >= 1000 OR Installed", "Needs Windows 10.", ""},
		{"VersionNT = 601 OR Installed", "Needs Windows 7.", ""},
		{"VersionNT < 600 OR Installed", "For older ones only.", ""},
		{"VersionNT >= 1100 OR Installed", "Needs a newer one.", "update the OS"},
		{"WindowsBuild >= 22000 OR Installed", "Needs Windows 11.", ""},
		{"WindowsBuild >= 30000 OR Installed", "Needs a newer one.", "update the OS"},
		{"WindowsBuild <= 9200 OR Installed", "For older ones only.", ""},
		{"NOT VersionNT64 OR Installed", "For 32 bits.", "take the edition"},
		{"Arm64 OR Installed", "For ARM.", "take the edition"},
		{"MsiNTProductType = 3 OR Installed", "For servers.", "take the edition"},
		{`ACCEPTEULA = "1" OR Installed`, "Accept it.", "read what is agreed to by ACCEPTEULA"},
		{"LICENCE_OK = 1", "Accept it.", "see to the licence"},
		{"LICENSE_SERVER", "Give it.", "LICENSE_SERVER=VALUE"},
		{"USERNAME", "Give it.", "USERNAME=VALUE"},
		{"NODENAME", "Give it.", "NODENAME=VALUE"},
		{"TERMSERVER", "Give it.", "TERMSERVER=VALUE"},
		{"NO_SITE_CHECK", "Not here.", ""},
		{"ALLOWSERVER", "Not on servers.", ""},
		{"DESKREADY", "Close planner.exe first.", ""}, // which prepares nothing
		{"PIDKEY", "Give the key.", "PIDKEY=VALUE"},
		{`DBSERVER <> ""`, "Give the server.", "DBSERVER=VALUE"},
		{`DBSERVER = "quay"`, "Give the server.", ""}, // the value stands there
		{"SKIPUSERCHECK", "Not here.", ""},
		{"DESKREADY", "Not ready.", ""},
		{"%QUAY_HOME OR Installed", "Set it.", "set the variable QUAY_HOME"},
		{"CHARTSFOUND OR Installed", "Needs the charts.", "install what the package asks for first"},
		{"CHARTSOK OR Installed", "Needs the charts.", `HKLM\SOFTWARE\Nine Fathom\Charts`},
		{`FROMSETUP = "1" OR Installed`, "Run Setup.exe instead.", "start Setup.exe"},
	} {
		db := database(t, []any{"LaunchCondition", c.condition, c.says}, []any{"InstallExecuteSequence", "LaunchConditions", nil, 100},
			search, at, []any{"CustomAction", "SetOk", 51, "CHARTSOK", "1"}, []any{"InstallExecuteSequence", "SetOk", "CHARTV", 60})
		list, err := Find(NewWorld(db, desktop(t, windows11), nil))
		if err != nil {
			t.Fatal(err)
		}
		for _, g := range list {
			if g.Kind != Launch {
				continue
			}
			if g.Answer != Fails || (c.want == "") != (g.Person == "") || !strings.Contains(g.Person, c.want) {
				t.Errorf("%d: %s: %s, %q, want %q", i, c.condition, g.Answer, g.Person, c.want)
			}
			if strings.HasSuffix(g.Person, "=VALUE") && slices.ContainsFunc(g.Ways, func(w Way) bool { return w.Class == "property" }) {
				t.Errorf("%s: any value is offered: %+v", c.condition, g.Ways)
			}
		}
	}
}
