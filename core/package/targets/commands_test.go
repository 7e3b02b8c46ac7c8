package targets_test

import (
	"strings"
	"testing"

	"hollowkey/core/package/targets"
	"hollowkey/demo/demotest"
)

// What a program is called with says what it works on, where the OS's own tools are known; what the package itself
// brings is none of it.
func TestCalls(t *testing.T) {
	const shell = `C:\windows\system32\cmd.exe`
	_, m := demotest.LayOut(t)
	for i, c := range []struct{ program, call, want string }{
		{`C:\windows\system32\reg.exe`, `add "HKLM\Software\Quay Tools\Sync" /v Mode /d 1 /f`, `key HKLM\Software\Quay Tools\Sync`},
		{`C:\windows\system32\reg.exe`, `query "HKLM\Software\Nine Fathom\Charts" /v Version`, `asked HKLM\Software\Nine Fathom\Charts|Version`},
		{`C:\windows\system32\reg.exe`, `delete HKLM\Software\Old /f`, `asked HKLM\Software\Old`},
		{`C:\windows\system32\reg.exe`, `delete "HKLM\Software\Saltmarsh Quay\Planner" /f`, ``}, // the package's own
		{`C:\windows\system32\net.exe`, `start Spooler`, `needed Spooler`},
		{`C:\windows\system32\net.exe`, `stop "Quay Watch"`, `present Quay Watch`},
		{`C:\windows\system32\sc.exe`, `config TideClock start= auto`, `present TideClock`},
		{`C:\windows\system32\sc.exe`, `\\other config TideClock start= auto`, ``},
		{`C:\windows\system32\regsvr32.exe`, `/s "C:\Program Files\Quay Tools\quay.dll"`, `read C:\Program Files\Quay Tools\quay.dll`},
		{`C:\windows\system32\regsvr32.exe`, `/s "C:\Program Files\Saltmarsh Quay\Planner\quay.dll"`, ``},
		{`C:\windows\system32\rundll32.exe`, `C:\Quay\set.dll,Configure`, `read C:\Quay\set.dll`},
		{shell, `/c net start Spooler || exit 2`, `tool net, needed Spooler`},
		{shell, `/c "sc start Spooler && reg add HKLM\Software\Quay /f"`, `needed Spooler, key HKLM\Software\Quay`},
		{shell, `/c "rd /s /q C:\Old & reg add HKLM\Software\Quay /f"`, `key HKLM\Software\Quay`}, // what fails first is passed over
		{shell, `/c rd /s /q C:\Old & net start Spooler`, `needed Spooler`},
		{shell, `/c net start Spooler >nul 2>&1`, `tool net, needed Spooler`},
		{shell, `/c type C:\Old\in.txt | find "x"`, ``},
		{shell, `/c copy Q:\plans\old.dat C:\new.dat`, `read Q:\plans\old.dat`},
		{shell, `/c type "C:\ProgramData\Quay\licence.dat"`, `read C:\ProgramData\Quay\licence.dat`},
		{shell, `/c copy \\quay-files\pack\tides.dat C:\ProgramData\tides.dat`, ``}, // what goes to a place need not be there
		{shell, `/c copy "%QUAYHOME%\tides.dat" C:\ProgramData\tides.dat`, `variable QUAYHOME`},
		{shell, `/c copy Q:\plans\*.dat C:\new`, `read Q:\plans`},
		{shell, `/c "set QUAYHOME=C:\Quay&& cd /d %QUAYHOME%"`, ``},
		{shell, `/c cd /d "%ProgramData:~0,2%" || exit 3`, `variable ProgramData`},
		{shell, `/c quaytool --register`, `tool quaytool`},
		{shell, `/c if exist C:\x del C:\x`, ``},
		{shell, `/c echo net start Spooler`, ``},
		{shell, `/c Planner /register`, ``},
		{shell, `/c mkdir C:\Quay`, ``},
		{`C:\windows\system32\WindowsPowerShell\v1.0\powershell.exe`, `-NoProfile -File "C:\Quay\set up.ps1"`, `read C:\Quay\set up.ps1`},
		{`C:\Quay\own.exe`, `start Spooler`, ``},
	} {
		db := changed(t, "Berthline.msi", []any{"CustomAction", "SetTool", 51, "TOOL", c.program}, []any{"CustomAction", "Run", 50, "TOOL", c.call},
			[]any{"Property", "TOOL", c.program})
		list, err := targets.Of(db, m, targets.Run{Package: `C:\Deploy\Berthline.msi`}, "Run")
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, x := range list {
			switch x.Kind {
			case targets.Program, targets.Named:
			default:
				got = append(got, string(x.Kind)+" "+x.Name)
			}
		}
		if strings.Join(got, ", ") != c.want {
			t.Errorf("%d: %s: %q, want %q", i, c.call, got, c.want)
		}
	}
}
