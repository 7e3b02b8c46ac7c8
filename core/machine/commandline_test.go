package machine_test

import (
	"strings"
	"testing"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/twin/twintest"
)

// ferry is a machine with one program's folder, a user, and the OS's own
// folders.
func ferry(t testing.TB) machine.Machine {
	t.Helper()
	files := map[string]string{
		"twin.yaml": "name: D1\nos: { name: Windows, version: '10.0', build: 19045, architecture: x64 }\n" +
			"drives: [{ letter: 'C:', kind: fixed, size: 100 GB, free: 50 GB }]\n" +
			"users: [{ name: tess, sid: S-1-5-21-1-2-3-1001, profile: 'C:\\Users\\tess' }]\nenvironment: { ROOM: '%LOFT%\\Ferry', LOFT: '%ProgramFiles%' }\n",
		"access.yaml":          "'C:\\': O:SYG:SYD:(A;OICI;FA;;;WD)\n",
		"registry/machine.reg": twintest.Registry("[HKEY_USERS\\S-1-5-21-1-2-3-1001\\Environment]\n"),
		"disk/C/Windows/keep":  "", "disk/C/Users/tess/AppData/Local/Ferry/up.exe": "", "disk/C/Windows/SysWOW64/narrow.exe": "",
		"disk/C/Program Files/Ferry.exe tools/un.exe": "", "disk/C/Windows/System32/keep": "",
	}
	for _, f := range []string{"un.exe", "un.dll", "un.cmd", "un.ps1", "un.vbs", "bin/un.exe"} {
		files["disk/C/Program Files/Ferry/"+f] = ""
	}
	return twintest.Make(t, files)
}

// What a command line runs in the end, in the forms in which setups register
// it.
func TestWhatACommandLineRuns(t *testing.T) {
	m := ferry(t)
	const f = `C:\Program Files\Ferry\`
	for line, want := range map[string]string{
		`"C:\Program Files\Ferry\un.exe" /S`: f + `un.exe`, `C:\Program Files\Ferry\un.exe /S /all`: f + `un.exe`,
		`C:/Program Files/Ferry/un.exe`: f + `un.exe`, `C:\Program Files\\Ferry\\un.exe -x`: f + `un.exe`,
		`"\\?\C:\Program Files\Ferry\un.exe"`: f + `un.exe`, `\??\C:\Program Files\Ferry\un.exe`: f + `un.exe`,
		`"%ProgramFiles%\Ferry\un.exe"`: f + `un.exe`, `%ROOM%\un.exe /u`: f + `un.exe`, `"C:\Program Files\Ferry\un"`: f + `un.exe`,
		`C:\Program Files\Ferry\un.cmd /q`: f + `un.cmd`, `""C:\Program Files\Ferry\un.exe" /x"`: f + `un.exe`,
		`rundll32.exe "C:\Program Files\Ferry\un.dll",Remove`:                   f + `un.dll`,
		`C:\Windows\System32\rundll32.exe C:\Program Files\Ferry\un.dll,Remove`: f + `un.dll`,
		`cmd.exe /c "C:\Program Files\Ferry\un.cmd"`:                            f + `un.cmd`,
		`cmd /c start "" "C:\Program Files\Ferry\un.exe"`:                       f + `un.exe`,
		`cmd /c ""C:\Program Files\Ferry\un.exe" /x"`:                           f + `un.exe`,
		`powershell -WindowStyle Hidden -File "C:\Program Files\Ferry\un.ps1"`:  f + `un.ps1`,
		`powershell.exe -Command "& 'C:\Program Files\Ferry\un.ps1'"`:           f + `un.ps1`,
		`wscript.exe //B "C:\Program Files\Ferry\un.vbs"`:                       f + `un.vbs`,
		`C:\Program Files\Ferry.exe tools\un.exe /S`:                            `C:\Program Files\Ferry.exe tools\un.exe`,
		`%LOCALAPPDATA%\Ferry\up.exe --uninstall`:                               `C:\Users\tess\AppData\Local\Ferry\up.exe`,
		`C:\Windows\..\Program Files\Ferry\bin\..\un.exe`:                       f + `un.exe`,
		`un.exe /S`:                      f + `un.exe`,
		`C:\Windows\System32\narrow.exe`: `C:\Windows\SysWOW64\narrow.exe`,
	} {
		got, there := machine.CommandLine{Text: line, User: "tess", Folder: f[:len(f)-1], Narrow: true}.Runs(m)
		if got != want || there != machine.Present {
			t.Errorf("%s runs %q, %v; want %s", line, got, there, want)
		}
	}
	for line, want := range map[string]machine.Presence{
		`"C:\Program Files\Ferry\gone.exe" /S`: machine.Absent, `rundll32 C:\Program Files\Ferry\gone.dll,X`: machine.Absent,
		`"%ProgramFiles%\Ferry\gone.exe"`: machine.Absent, `C:\Gone\un.exe`: machine.Absent,
		`"D:\Apps\un.exe"`: machine.Untold, `"\\ellery-fs\apps\un.exe"`: machine.Untold, `https://ellery.example/remove`: machine.Untold,
		`"%NOWHERE%\un.exe"`: machine.Untold, `wusa.exe /uninstall /kb:5000001`: machine.Untold, ``: machine.Untold,
		`C:\PROGRA~1\Ferry\un.exe`: machine.Untold, `MsiExec.exe /X{1A2B3C4D-0001-4000-8000-00000000A001}`: machine.Untold,
		`rundll32 shell32.dll,Control_RunDLL`: machine.Untold,
	} {
		if got, there := (machine.CommandLine{Text: line, User: "tess"}).Runs(m); there != want {
			t.Errorf("%s runs %q, %v; want %v", line, got, there, want)
		}
	}
}

// A user's own variables go before the machine's; what is not set stays; what
// leads to itself ends.
func TestExpand(t *testing.T) {
	m := ferry(t)
	for name, value := range map[string]string{"LOFT": `D:\Loft`, "ROUND": "%ROUND%%ROUND%", "MANY": strings.Repeat("%ROUND%", 1000)} {
		v, err := regfile.Make(regfile.String, value)
		if err == nil {
			err = m.SetValue(`HKEY_USERS\S-1-5-21-1-2-3-1001\Environment`, name, v)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range []struct{ text, user, want string }{
		{`%room%\x`, "", `C:\Program Files\Ferry\x`}, {`%ROOM%\x`, "tess", `D:\Loft\Ferry\x`}, {`100 % of %NONE%`, "", `100 % of %NONE%`},
		{`%APPDATA%`, "tess", `C:\Users\tess\AppData\Roaming`}, {`%APPDATA%`, "", `%APPDATA%`}, {`50%%SystemDrive%\`, "", `50%C:\`},
	} {
		if got := machine.Expand(m, c.text, c.user); got != c.want {
			t.Errorf("%s for %q is %s, want %s", c.text, c.user, got, c.want)
		}
	}
	if got := machine.Expand(m, "%MANY%", "tess"); len(got) > 1<<20 {
		t.Errorf("%d bytes", len(got))
	}
}

func FuzzCommandLine(f *testing.F) {
	for _, s := range []string{`"C:\a b\c.exe" /x`, `cmd /c start "" 'x'`, `%A%\..\..\x.dll,y`, `rundll32 cmd /c powershell`} {
		f.Add(s)
	}
	m := ferry(f)
	f.Fuzz(func(t *testing.T, line string) {
		program, there := machine.CommandLine{Text: line, User: "tess", Folder: `C:\Windows`}.Runs(m)
		if there == machine.Present {
			if _, err := m.Stat(program); err != nil {
				t.Errorf("%q runs %q: %v", line, program, err)
			}
		}
		if code := machine.EngineCode(line); code != "" && !strings.Contains(strings.ToUpper(line), code) {
			t.Errorf("%q is not in %q", code, line)
		}
	})
}
