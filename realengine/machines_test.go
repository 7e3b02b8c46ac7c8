//go:build unix

package realengine

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/package/installdb"
)

const (
	vendorFolder = `C:\Program Files\Saltmarsh Quay`
	wideKey      = `HKLM\Software\Saltmarsh Quay`
	vendorKey    = `HKLM\Software\Wow6432Node\Saltmarsh Quay`
)

// tidy takes away what a case left.
func (b *bench) tidy(pack string) {
	b.Helper()
	b.install("tidy.log", "/x", pack)
	for _, at := range []string{b.on(vendorFolder), b.on(`C:\ProgramData\Saltmarsh Quay`)} {
		_ = filepath.WalkDir(at, func(p string, d os.DirEntry, err error) error {
			if d != nil && d.IsDir() {
				_ = os.Chmod(p, 0o755)
			}
			return nil
		})
		os.RemoveAll(at)
	}
	for _, key := range []string{vendorKey, `HKLM\Software\Saltmarsh Quay`, `HKCU\Software\Saltmarsh Quay`,
		`HKLM\Software\Classes\berthline.plan`,
		`HKLM\System\CurrentControlSet\Services\EventLog\Berthline`} {
		b.run("reg", "delete", key, "/f")
	}
	os.RemoveAll(filepath.Join(b.dir, "case"))
	os.RemoveAll(b.on(`C:\ProgramData\Hollow Key`))
}

// compiled is a program of testdata, built for the machine.
func (b *bench) compiled(source string) []byte {
	b.Helper()
	out := filepath.Join(b.dir, strings.TrimSuffix(source, ".c")+".exe")
	if text, err := exec.Command("x86_64-w64-mingw32-gcc", "-O", "-o", out,
		filepath.Join("testdata", source), "-ladvapi32").CombinedOutput(); err != nil {
		b.Fatalf("%v\n%s", err, text)
	}
	data, err := os.ReadFile(out)
	must(b.T, err)
	return data
}

// loose takes the package's files out of its cabinet, and puts them into one
// beside the package, or beside it as they are.
func cabinetBeside(t *testing.T, db *installdb.Database) {
	t.Helper()
	must(t, db.SetCell("Media", 0, "Cabinet", installdb.TextValue("planner.cab")))
}

func looseFiles(t *testing.T, db *installdb.Database) {
	t.Helper()
	files, err := db.Table("File")
	must(t, err)
	for i := range files.Rows {
		must(t, db.SetCell("File", i, "Attributes", installdb.IntValue(0x2000)))
	}
}

// dataFolder lets the package make a folder of data.
var dataFolder = insert([]any{"Directory", "CommonAppDataFolder", "TARGETDIR", "."},
	[]any{"Directory", "VDATA", "CommonAppDataFolder", "Saltmarsh Quay"}, []any{"Directory", "LDATA", "VDATA", "Ledger"},
	[]any{"CreateFolder", "LDATA", "Main"})

// temporaries are the variables of the temporary folder.
var temporaries = []string{"TEMP", "TMP"}

const programsKey = `HKLM\Software\Microsoft\Windows\CurrentVersion`

const environment = `HKLM\System\CurrentControlSet\Control\Session Manager\Environment`

const chartsKey = `HKLM\SOFTWARE\Wow6432Node\Nine Fathom\Charts`

// A broken machine and how it is put right.
type broken struct {
	name    string
	edit    packageEdit    // of the scenario's planner package
	breaks  func(b *bench) // may be nil: the package itself is what does not fit
	class   string
	subject string // a part of it
	by      string // who fixes it: program or person
	noUndo  string // why taking it back cannot be shown on this engine
	mends   func(b *bench)
	args    []string // of the call
}

func starts(name string) packageEdit {
	return insert([]any{"ServiceControl", "StartTide", name, 1, nil, 1, "Main"})
}

// refuseKey makes a key that nobody may write; allowKey opens it again.
func (b *bench) refuseKey(key string) {
	b.Helper()
	b.step("registry", "key="+key, "name=Kept", "type=string", "value=by another") // so that uninstalling leaves the key
	b.step("revoke", "key="+key, "account=Administrators")
}

func (b *bench) allowKey(key string) {
	b.hollowkey("fix", "--step", "grant", "--arg", "key="+key, "--arg", "account=Administrators", "--arg", "right=full", "--yes")
}

// deniedKey is a machine on which a key may not be written.
func deniedKey(name, key string, edit packageEdit) broken {
	return broken{name: name, edit: edit, class: "permission", subject: key[strings.LastIndexByte(key, '\\'):], by: "program",
		breaks: func(b *bench) { b.refuseKey(key) }, mends: func(b *bench) { b.allowKey(key) }}
}

// runs lets the package run a program that ends with 7.
func runs(when string) packageEdit {
	return func(t *testing.T, db *installdb.Database) {
		t.Helper()
		insert([]any{"Binary", "Fails", failing}, []any{"CustomAction", "RunRuntime", 2, "Fails", "/quiet"},
			[]any{"InstallExecuteSequence", "RunRuntime", when, 1450})(t, db)
	}
}

// narrow lets the package write for programs of 32 bits.
func narrow(t *testing.T, db *installdb.Database) {
	t.Helper()
	components, err := db.Table("Component")
	must(t, err)
	i := components.Find("Main")
	flags := components.Get(components.Rows[i], "Attributes").Int
	must(t, db.SetCell("Component", i, "Attributes", installdb.IntValue(flags&^256)))
}

// calls lets the package run a tool of the OS.
func calls(tool, line string) packageEdit {
	return insert([]any{"CustomAction", "SetTool", 51, "TOOL", `C:\windows\system32\` + tool}, []any{"CustomAction", "Prepare", 50, "TOOL", line},
		[]any{"InstallExecuteSequence", "SetTool", nil, 1440}, []any{"InstallExecuteSequence", "Prepare", "NOT Installed", 1450})
}

// failing is a program that ends with 7.
var failing []byte

// newer registers a newer version of the product, and lets the package refuse
// it.
var refuseOlder = insert([]any{"Upgrade", "{2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B43}", "9.0.0", nil, nil, 2, nil, "NEWERPLANNER"},
	[]any{"CustomAction", "RefuseOlder", 19, nil, "A newer one is there."},
	[]any{"InstallExecuteSequence", "RefuseOlder", "NEWERPLANNER AND NOT Installed", 1450})

var machines = []broken{
	{name: "the vendor's folder may not be written", breaks: func(b *bench) { b.closed(vendorFolder) },
		class: "permission", subject: "Saltmarsh Quay", by: "program", noUndo: noLists},
	{name: "the product's folder may not be written",
		breaks: func(b *bench) { b.closed(vendorFolder + `\Planner`) }, class: "permission", subject: `\Planner`, by: "program", noUndo: noLists},
	{name: "an empty file where the product's folder must be",
		breaks: func(b *bench) { b.file(vendorFolder+`\Planner`, "") }, class: "path", subject: `\Planner`, by: "program"},
	{name: "a file with contents where the product's folder must be",
		breaks: func(b *bench) { b.file(vendorFolder+`\Planner`, "notes of somebody\n") }, class: "path", subject: `\Planner`, by: "program"},
	{name: "a folder where a file must be",
		breaks: func(b *bench) { b.file(vendorFolder+`\Planner\Planner.exe\x.txt`, "x") }, class: "path", subject: "Planner.exe", by: "program"},
	{name: "the engine's own folder may not be written", breaks: func(b *bench) {
		must(b.T, os.MkdirAll(b.on(`C:\windows\Installer`), 0o755))
		b.ours(`C:\windows\Installer`)
		must(b.T, os.Chmod(b.on(`C:\windows\Installer`), 0o555))
	}, class: "permission", subject: "", by: "program", noUndo: noLists,
		mends: func(b *bench) { _ = os.Chmod(b.on(`C:\windows\Installer`), 0o755) }},
	{name: "the temporary folder may not be written",
		breaks: func(b *bench) { must(b.T, os.Chmod(b.temp(), 0o555)) }, class: "permission", subject: "", by: "program", noUndo: noLists,
		mends: func(b *bench) { _ = os.Chmod(b.temp(), 0o755) }},
	{name: "the temporary folder is gone", breaks: func(b *bench) { must(b.T, os.RemoveAll(b.temp())) },
		class: "path", subject: "", by: "program",
		mends: func(b *bench) { _ = os.MkdirAll(b.temp(), 0o755); _ = os.Chown(b.temp(), nobody, nobody) }},
	{name: "an empty file stands for the temporary folder", breaks: func(b *bench) {
		must(b.T, os.RemoveAll(b.temp()))
		must(b.T, os.WriteFile(b.temp(), nil, 0o644))
		_ = os.Chown(b.temp(), nobody, nobody)
	}, class: "path", subject: "", by: "program", mends: func(b *bench) {
		os.RemoveAll(b.temp())
		_ = os.MkdirAll(b.temp(), 0o755)
		_ = os.Chown(b.temp(), nobody, nobody)
	}},
	{name: "the temporary folder is on a drive that is gone", breaks: func(b *bench) {
		for _, name := range temporaries {
			b.run("reg", "add", `HKCU\Environment`, "/v", name, "/d", `Q:\Temp`, "/f")
		}
	}, class: "path", subject: `Q:\Temp`, by: "program", mends: func(b *bench) {
		for _, name := range temporaries {
			b.run("reg", "delete", `HKCU\Environment`, "/v", name, "/f")
		}
	}},
	{name: "two folders, one in the other, may not be written", breaks: func(b *bench) {
		b.closed(vendorFolder + `\Planner`)
		b.closed(vendorFolder)
	}, class: "permission", subject: "Saltmarsh Quay", by: "program", noUndo: noLists},
	{name: "a folder of data and one of programs may not be written", edit: dataFolder, breaks: func(b *bench) {
		b.closed(`C:\ProgramData\Saltmarsh Quay`)
		b.closed(vendorFolder)
	}, class: "permission", subject: "Saltmarsh Quay", by: "program", noUndo: noLists},
	{name: "a key and a folder may not be written", breaks: func(b *bench) {
		b.refuseKey(wideKey + `\Planner`)
		b.closed(vendorFolder)
	}, class: "permission", subject: "", by: "program", noUndo: noLists, mends: func(b *bench) { b.allowKey(wideKey + `\Planner`) }},
	deniedKey("the vendor's key may not be written", wideKey, nil),
	deniedKey("the product's key may not be written", wideKey+`\Planner`, nil),
	deniedKey("a key for programs of 32 bits may not be written", vendorKey, narrow),
	deniedKey("a key of the user's may not be written", `HKCU\Software\Saltmarsh Quay`,
		insert([]any{"Registry", "Own", 1, `Software\Saltmarsh Quay\Planner`, "On", "1", "Main"})),
	deniedKey("a key of class registrations may not be written", `HKLM\Software\Classes\berthline.plan`,
		insert([]any{"Registry", "Class", 0, `berthline.plan\shell`, "On", "1", "Main"})),
	{name: "a service that is started is disabled", edit: starts("Spooler"),
		breaks: func(b *bench) { b.step("service", "name=Spooler", "start=disabled", "state=stopped") },
		class:  "service", subject: "Spooler", by: "program", mends: func(b *bench) { b.step("service", "name=Spooler", "start=manual") }},
	{name: "a service that is started is not there", edit: starts("TideClock"), class: "service", subject: "TideClock", by: "person"},
	{name: "a service whose program is none",
		edit: insert([]any{"ServiceInstall", "Sync", "BerthSync", "Berth Sync", 16, 3, 1, nil, nil, nil, nil, nil, "Main", nil},
			[]any{"ServiceControl", "StartSync", "BerthSync", 1 | 2 | 32 | 128, nil, 1, "Main"}), class: "service", subject: "Berth", by: "person"},
	{name: "the cabinet is not beside the package", edit: cabinetBeside, class: "source", subject: "planner.cab", by: "person",
		breaks: func(b *bench) { os.Remove(filepath.Join(b.dir, "planner.cab")) }},
	{name: "the cabinet is damaged", edit: cabinetBeside, class: "corrupt", subject: "planner.cab", by: "person",
		breaks: func(b *bench) {
			must(b.T, os.WriteFile(filepath.Join(b.dir, "planner.cab"), []byte("MSCF and no more of it than this"), 0o644))
		}},
	{name: "the cabinet is a page of a network's sign-in", edit: cabinetBeside, class: "corrupt", subject: "planner.cab", by: "person",
		breaks: func(b *bench) {
			must(b.T, os.WriteFile(filepath.Join(b.dir, "planner.cab"), []byte("<html><title>Sign in</title></html>"), 0o644))
		}},
	{name: "the cabinet is empty", edit: cabinetBeside, class: "corrupt", subject: "planner.cab", by: "person",
		breaks: func(b *bench) { must(b.T, os.WriteFile(filepath.Join(b.dir, "planner.cab"), nil, 0o644)) }},
	{name: "a loose file of the source is missing", edit: looseFiles, class: "source", subject: "Planner.exe", by: "person"},
	{name: "a search finds a folder on a drive that is gone",
		edit: insert([]any{"AppSearch", "TARGET", "OldPlace"}, []any{"RegLocator", "OldPlace", 2, `SOFTWARE\Saltmarsh Quay\Old`, "Path", 2}),
		breaks: func(b *bench) {
			b.step("registry", "key="+vendorKey+`\Old`, "name=Path", "type=string", `value=Q:\Planner\`)
		}, class: "path", subject: `Q:\Planner`, by: "program"},
	{name: "a search finds the folder above on a drive that is gone",
		edit: insert([]any{"AppSearch", "VENDOR", "OldPlace"}, []any{"RegLocator", "OldPlace", 2, `SOFTWARE\Saltmarsh Quay\Old`, "Root", 2}),
		breaks: func(b *bench) {
			b.step("registry", "key="+vendorKey+`\Old`, "name=Root", "type=string", `value=Q:\Quay\`)
		}, class: "path", subject: `Q:\Quay`, by: "program"},
	{name: "a launch condition refuses the OS",
		edit:  insert([]any{"LaunchCondition", "VersionNT < 600 OR Installed", "For older releases only."}),
		class: "condition", subject: "", by: "program"},
	{name: "a launch condition wants a value of the registry",
		edit: insert([]any{"AppSearch", "CHARTS", "ChartsKey"}, []any{"RegLocator", "ChartsKey", 2, `SOFTWARE\Nine Fathom\Charts`, "Version", 2},
			[]any{"LaunchCondition", "CHARTS OR Installed", "Needs the charts."}), class: "condition", subject: "", by: "person"},
	{name: "a launch condition wants a newer one than is there",
		edit: insert([]any{"AppSearch", "CHARTS", "ChartsKey"}, []any{"RegLocator", "ChartsKey", 2, `SOFTWARE\Nine Fathom\Charts`, "Version", 2},
			[]any{"LaunchCondition", `CHARTS >= "3" OR Installed`, "Needs charts 3."}), breaks: func(b *bench) {
			b.step("registry", "key="+chartsKey, "name=Version", "type=string", "value=2.1")
		}, class: "condition", subject: "", by: "person", mends: func(b *bench) { b.run("reg", "delete", chartsKey, "/f") }},
	{name: "an error action refuses the machine",
		edit: insert([]any{"CustomAction", "Refuse", 19, nil, "Not on [ComputerName]."},
			[]any{"InstallExecuteSequence", "Refuse", "NOT DESK AND NOT Installed", 1450}),
		class: "condition", subject: "", by: "program"},
	{name: "two gates refuse, one after the other",
		edit: both(insert([]any{"LaunchCondition", "VersionNT < 600 OR Installed", "For older releases only."}),
			insert([]any{"CustomAction", "Refuse", 19, nil, "Not here."},
				[]any{"InstallExecuteSequence", "Refuse", "VersionNT AND NOT Installed", 1450})), class: "condition", subject: "", by: "program"},
	{name: "a program of the package's fails", edit: runs("NOT Installed"), class: "custom-action", subject: "RunRuntime", by: "program"},
	{name: "a program of the package's fails where a property is not given",
		edit: runs("NOT SKIPRUNTIME AND NOT Installed"), class: "custom-action", subject: "RunRuntime", by: "program"},
	{name: "a folder that a program of the package's writes into may not be written",
		edit: insert([]any{"CustomAction", "SetShell", 51, "SHELL", `C:\windows\system32\cmd.exe`},
			[]any{"CustomAction", "MakePlans", 50, "SHELL", `/c mkdir "C:\ProgramData\Saltmarsh Quay\plans"`},
			[]any{"InstallExecuteSequence", "SetShell", nil, 1440}, []any{"InstallExecuteSequence", "MakePlans", "NOT Installed", 1450}),
		breaks: func(b *bench) { b.closed(`C:\ProgramData\Saltmarsh Quay`) }, class: "permission", subject: `C:\ProgramData\Saltmarsh Quay`,
		by: "program", noUndo: noLists},
	{name: "a key that a program of the package's writes may not be written", edit: calls("reg.exe", `add "HKLM\Software\Saltmarsh Quay\Sync" /v Mode /d 1 /f`),
		breaks: func(b *bench) { b.refuseKey(wideKey + `\Sync`) }, mends: func(b *bench) { b.allowKey(wideKey + `\Sync`) },
		class: "permission", subject: `\Sync`, by: "program"},
	{name: "a service that a program of the package's starts is disabled", edit: calls("net.exe", "start Spooler"),
		breaks: func(b *bench) { b.step("service", "name=Spooler", "start=disabled", "state=stopped") },
		mends:  func(b *bench) { b.step("service", "name=Spooler", "start=manual") }, class: "service", subject: "Spooler", by: "program"},
	{name: "a service that a program of the package's sets is not there", edit: calls("sc.exe", "config TideClock start= auto"),
		class: "service", subject: "TideClock", by: "person"},
	{name: "a file that a program of the package's reads is not there", edit: calls("cmd.exe", `/c type "C:\ProgramData\Saltmarsh Quay\licence.dat"`),
		class: "path", subject: "licence.dat", by: "person"},
	{name: "a library that a program of the package's registers is not there",
		edit:  calls("regsvr32.exe", `/s "C:\Program Files\Common Files\Quay\quay.dll"`),
		class: "path", subject: "quay.dll", by: "person"},
	{name: "a value that a program of the package's asks for is not there",
		edit:  calls("reg.exe", `query "HKLM\Software\Nine Fathom\Charts" /v Version`),
		class: "registry", subject: "Charts", by: "person"},
	{name: "an account under which a service is to run is not there",
		edit: insert([]any{"ServiceInstall", "Sync", "BerthSync", "Berth Sync", 16, 3, 1, nil, nil, `.\quaysync`, nil, nil, "Main", nil},
			[]any{"ServiceControl", "StartSync", "BerthSync", 1 | 2 | 32 | 128, nil, 1, "Main"}),
		class: "service", subject: `.\quaysync`, by: "person"},
	{name: "a service that one of the package's depends on is not there",
		edit: insert([]any{"ServiceInstall", "Sync", "BerthSync", "Berth Sync", 16, 3, 1, nil, "TideClock[~]", nil, nil, nil, "Main", nil},
			[]any{"ServiceControl", "StartSync", "BerthSync", 1 | 2 | 32 | 128, nil, 1, "Main"}),
		class: "service", subject: "TideClock", by: "person"},
	{name: "a variable that a program of the package's uses is not set", edit: calls("cmd.exe", `/c cd /d "%QUAYHOME%" || exit 3`), class: "path",
		subject: "QUAYHOME", by: "person"},
	{name: "a program that the package calls by its name is nowhere", edit: calls("cmd.exe", "/c quaytool --register"),
		class: "path", subject: "quaytool", by: "person"},
	{name: "the folder for programs is on a drive that is gone", breaks: func(b *bench) {
		b.run("reg", "add", programsKey, "/v", "ProgramFilesDir", "/d", `Q:\Program Files`, "/f")
	}, mends: func(b *bench) {
		b.run("reg", "add", programsKey, "/v", "ProgramFilesDir", "/d", `C:\Program Files`, "/f")
	},
		class: "path", subject: `Q:\Program Files`, by: "program"},
	{name: "the folder that the call names is a file of the OS", args: []string{`TARGET=C:\windows\win.ini`},
		class: "path", subject: "win.ini", by: "program", noUndo: "without the property the setup works"},
	{name: "two launch conditions refuse", edit: both(insert([]any{"LaunchCondition", "VersionNT < 600 OR Installed", "For older releases only."}),
		insert([]any{"LaunchCondition", "DESKROLE OR Installed", "Give the role."})), class: "condition", subject: "", by: "program"},
	{name: "the second cabinet is missing", edit: func(t *testing.T, db *installdb.Database) {
		t.Helper()
		must(t, db.SetCell("Media", 0, "LastSequence", installdb.IntValue(2)))
		must(t, db.Insert("Media", 2, 3, "Planner disk 2", "disk2.cab", "PLANNER2", nil))
	}, class: "source", subject: "disk2.cab", by: "person"},
	{name: "the key of the environment may not be written", edit: insert([]any{"Environment", "Home", "=-*QUAY_HOME", "[TARGET]", "Main"}),
		breaks: func(b *bench) { b.step("revoke", "key="+environment, "account=Administrators") }, mends: func(b *bench) { b.allowKey(environment) },
		class: "permission", subject: "Environment", by: "program"},
	{name: "the package is not whole", breaks: func(b *bench) {
		list, _ := filepath.Glob(filepath.Join(b.dir, "case*.msi"))
		last := list[len(list)-1]
		data, err := os.ReadFile(last)
		must(b.T, err)
		must(b.T, os.WriteFile(last, data[:len(data)/3], 0o644))
	}, class: "corrupt", subject: ".msi", by: "person"},
	{name: "the cabinet inside the package is gone", edit: func(t *testing.T, db *installdb.Database) {
		t.Helper()
		must(t, db.SetCell("Media", 0, "Cabinet", installdb.TextValue("#other.cab")))
	}, class: "corrupt", subject: ".msi", by: "person"},
	{name: "a search in an INI file finds nothing", edit: insert([]any{"AppSearch", "PORT", "IniPort"},
		[]any{"IniLocator", "IniPort", "quay.ini", "Port", "Code", nil, 2}, []any{"LaunchCondition", "PORT OR Installed", "Needs the port's code."}),
		class: "condition", subject: "PORT", by: "person"},
	{name: "a search finds nothing, and the package has a value for that",
		edit: insert([]any{"Property", "QUAYTOOL", "0"}, []any{"AppSearch", "QUAYTOOL", "ToolFile"},
			[]any{"Signature", "ToolFile", "quaytool.exe", nil, nil, nil, nil, nil, nil, nil},
			[]any{"DrLocator", "ToolFile", nil, `C:\ProgramData\Quay`, 0}, []any{"LaunchCondition", `QUAYTOOL <> "0" OR Installed`, "Needs the tool."}),
		class: "condition", subject: "QUAYTOOL", by: "person"},
	{name: "a key of an INI file has another value", edit: insert([]any{"AppSearch", "PORT", "IniPort"},
		[]any{"IniLocator", "IniPort", "quay.ini", "Port", "Code", nil, 2}, []any{"LaunchCondition", `PORT = "17" OR Installed`, "Needs port 17."}),
		breaks: func(b *bench) { b.file(`C:\windows\quay.ini`, "[Port]\r\nCode=16\r\n") },
		mends:  func(b *bench) { os.Remove(b.on(`C:\windows\quay.ini`)) }, class: "condition", subject: "PORT", by: "person"},
	{name: "a program copies to a drive that is gone", edit: calls("cmd.exe", `/c copy C:\windows\win.ini Q:\Quay\win.ini`),
		class: "path", subject: `Q:`, by: "person"},
	{name: "a program copies a file that is not there", edit: calls("xcopy.exe", `"C:\Deploy\maps\base.map" "C:\ProgramData\Saltmarsh Quay\" /y`),
		class: "path", subject: "maps", by: "person"},
	{name: "a program reads registry text that is not there", edit: calls("reg.exe", `import "C:\Deploy\quay.reg"`),
		class: "path", subject: "quay.reg", by: "person"},
	{name: "a search finds a folder that may not be written",
		edit: insert([]any{"AppSearch", "TARGET", "OldPlace"}, []any{"RegLocator", "OldPlace", 2, `SOFTWARE\Saltmarsh Quay\Old`, "Path", 2}),
		breaks: func(b *bench) {
			b.step("registry", "key="+vendorKey+`\Old`, "name=Path", "type=string", `value=C:\ProgramData\Saltmarsh Quay\Planner\`)
			b.closed(`C:\ProgramData\Saltmarsh Quay`)
		}, class: "permission", subject: `C:\ProgramData\Saltmarsh Quay`, by: "program", noUndo: noLists},
	{name: "the cabinet may not be read", edit: cabinetBeside, class: "permission", subject: "planner.cab", by: "person", breaks: func(b *bench) {
		cab := filepath.Join(b.dir, "planner.cab")
		must(b.T, os.WriteFile(cab, []byte("MSCF"), 0o644))
		_ = os.Chown(cab, nobody, nobody)
		must(b.T, os.Chmod(cab, 0))
	}, mends: func(b *bench) { os.Remove(filepath.Join(b.dir, "planner.cab")) }},
	{name: "the package sets a folder on a drive that is gone", edit: insert([]any{"CustomAction", "SetVendor", 51, "VENDOR", `Q:\Quay\`},
		[]any{"InstallExecuteSequence", "SetVendor", nil, 990}), class: "path", subject: `Q:\Quay`, by: "program"},
	{name: "a value that nobody gave", edit: insert([]any{"LaunchCondition", "SITECODE OR Installed", "Give SITECODE."}),
		class: "condition", subject: "SITECODE", by: "person"},
	{name: "a switch that nobody gave", edit: insert([]any{"LaunchCondition", `DESKREADY = "1" OR Installed`, "Give DESKREADY."}),
		class: "condition", subject: "DESKREADY", by: "program"},
	{name: "a licence that nobody accepted", edit: insert([]any{"LaunchCondition", `ACCEPTEULA = "1" OR Installed`, "Accept the licence."}),
		class: "condition", subject: "ACCEPTEULA", by: "person"},
	{name: "a launch condition wants a server", edit: insert([]any{"LaunchCondition", "MsiNTProductType = 3 OR Installed", "For servers only."}),
		class: "condition", subject: "MsiNTProductType", by: "person"},
	{name: "the folder that the call names is on a drive that is gone", args: []string{`TARGET=Q:\Quay`}, class: "path", subject: `Q:\Quay`,
		by: "program", noUndo: "without the property the setup works"},
	{name: "another product that the package looks for is not there",
		edit: insert([]any{"Upgrade", "{2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B44}", "1.0.0", nil, nil, 2, nil, "CHARTSFOUND"},
			[]any{"LaunchCondition", "CHARTSFOUND OR Installed", "Needs the charts."}), class: "condition", subject: "CHARTSFOUND", by: "person"},
	{name: "a file stands where a program of the package's makes a folder", edit: calls("cmd.exe", `/c mkdir "C:\ProgramData\Saltmarsh Quay\plans"`),
		breaks: func(b *bench) { b.file(`C:\ProgramData\Saltmarsh Quay\plans`, "") }, class: "path", subject: "plans", by: "program",
		noUndo: "the folder is the program's, and stays"},
	{name: "a program that a line of the package ends does not run", edit: calls("taskkill.exe", `/f /im quaytray.exe`), class: "custom-action",
		subject: "quaytray.exe", by: "person"},
	{name: "a folder that a program of the package's makes is there", edit: calls("cmd.exe", `/c mkdir "C:\ProgramData\Saltmarsh Quay\plans"`),
		breaks: func(b *bench) { b.file(`C:\ProgramData\Saltmarsh Quay\plans\old.txt`, "old") }, class: "custom-action", subject: "plans", by: "person"},
	{name: "a file that a line of the package's wants is not there",
		edit: calls("cmd.exe", `/c if not exist "C:\ProgramData\Nine Fathom\licence.dat" exit 5`), class: "path", subject: "licence.dat", by: "person"},
	{name: "a key that a program of the package's deletes is not there", edit: calls("reg.exe", `delete "HKLM\Software\Nine Fathom\Old" /f`),
		class: "registry", subject: "Old", by: "person"},
	{name: "a share that a program of the package's connects", edit: calls("net.exe", `use S: \\harbour-files\apps`),
		class: "custom-action", subject: "Prepare", by: "person"},
	{name: "the key of the user's environment may not be written", edit: insert([]any{"Environment", "Home", "=-QUAY_HOME", "[TARGET]", "Main"}),
		breaks: func(b *bench) { b.step("revoke", `key=HKCU\Environment`, "account=Administrators") },
		mends:  func(b *bench) { b.allowKey(`HKCU\Environment`) }, class: "permission", subject: "Environment", by: "program"},
	{name: "a newer version is there", edit: refuseOlder, breaks: func(b *bench) {
		newer := b.edited("newer.msi", func(t *testing.T, db *installdb.Database) {
			t.Helper()
			for name, value := range map[string]string{"ProductVersion": "9.5.0", "ProductCode": "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C99}"} {
				table, err := db.Table("Property")
				must(t, err)
				must(t, db.SetCell("Property", table.Find(name), "Value", installdb.TextValue(value)))
			}
		})
		if code := b.install("newer.log", "/i", windowsPath(newer)); code != 0 {
			b.Fatalf("the newer one: %d", code)
		}
	}, class: "condition", subject: "", by: "person",
		mends: func(b *bench) { b.install("tidy.log", "/x", windowsPath(filepath.Join(b.dir, "newer.msi"))) }},
}

// temp is the user's temporary folder on this disk.
func (b *bench) temp() string {
	b.Helper()
	if b.temporary == "" {
		out := ""
		for try := 0; out == "" && try < 3; try++ { // of a shell that is called while the machine still starts nothing may come
			_, out = b.run("cmd", "/c", "echo %TEMP%")
			out = strings.TrimSpace(out)
		}
		if !strings.HasPrefix(out, `C:\`) || strings.ContainsAny(out, "\r\n") {
			b.Fatalf("the temporary folder there: %q", out)
		}
		b.temporary = b.on(out)
	}
	return b.temporary
}
