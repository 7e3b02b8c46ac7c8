package targets_test

import (
	"strings"
	"testing"

	"hollowkey/core/package/targets"
	"hollowkey/demo/demotest"
)

// What a program is called with says what it works on, where the OS's own tools
// are known; what the package itself brings is none of it.
func TestCalls(t *testing.T) {
	const shell, posh = `C:\windows\system32\cmd.exe`, `C:\windows\system32\WindowsPowerShell\v1.0\powershell.exe`
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
		{shell, `/c copy \\quay-files\pack\tides.dat C:\ProgramData\tides.dat`, `share \\quay-files\pack\tides.dat`}, // what goes to a place need not be there
		{shell, `/c copy "%QUAYHOME%\tides.dat" C:\ProgramData\tides.dat`, `variable QUAYHOME`},
		{shell, `/c copy Q:\plans\*.dat C:\new`, `read Q:\plans`},
		{shell, `/c "set QUAYHOME=C:\Quay&& cd /d %QUAYHOME%"`, ``},
		{shell, `/c cd /d "%ProgramData:~0,2%" || exit 3`, `variable ProgramData`},
		{shell, `/c quaytool --register`, `tool quaytool`},
		{shell, `/c if exist C:\x del C:\x`, ``},
		{shell, `/c echo net start Spooler`, ``},
		{shell, `/c Planner /register`, ``},
		{shell, `/c mkdir C:\Quay`, `made C:\Quay`},
		{shell, `/c md "C:\ProgramData\Quay\plans" 2>nul`, `made C:\ProgramData\Quay\plans`},
		{shell, `/c md plans`, ``},
		{shell, `/c mkdir "C:\Program Files\Saltmarsh Quay\Planner\plans"`, ``},
		{shell, `/c mkdir C:\Quay & net start Spooler`, `needed Spooler`},
		{shell, `/c if not exist "C:\ProgramData\Nine Fathom\licence.dat" exit 5`, `read C:\ProgramData\Nine Fathom\licence.dat`},
		{shell, `/c if NOT exist C:\Quay\ring.ini exit /b 1`, `read C:\Quay\ring.ini`},
		{shell, `/c if exist C:\Quay\lock.txt exit 1`, `refused C:\Quay\lock.txt`},
		{shell, `/c if exist C:\Quay\done.txt exit 0`, ``},
		{shell, `/c if not exist C:\Quay mkdir C:\Quay`, ``},
		{shell, `/c if not exist "%QUAYHOME%\x" exit 3`, `variable QUAYHOME`},
		{`C:\windows\system32\net.exe`, `use S: \\harbour-files\apps /persistent:no`, `serving LanmanWorkstation, share \\harbour-files\apps`},
		{`C:\windows\system32\net.exe`, `use S: /delete`, `serving LanmanWorkstation`},
		{shell, `/c pushd \\harbour-files\apps && call setup.cmd`, `share \\harbour-files\apps`},
		{posh, `-NoProfile -Command "Start-Service TideClock"`, `needed TideClock`},
		{posh, `-c Start-Service -Name 'Quay Watch'`, `needed Quay Watch`},
		{posh, `-Command "Start-Service TideClock -ErrorAction SilentlyContinue"`, ``},
		{posh, `-Command "Start-Service TideClock; exit 0; Write-Host done"`, ``}, // only the last decides
		{posh, `-Command "$ErrorActionPreference='Stop'; Start-Service TideClock; Write-Host done"`, `needed TideClock`},
		{posh, `-Command "Stop-Service -Name TideClock -ErrorAction Stop; Write-Host done"`, `present TideClock`},
		{posh, `-Command "Get-Service -ComputerName other TideClock"`, ``},
		{posh, `-Command "Get-ItemProperty 'HKLM:\SOFTWARE\Nine Fathom' -Name Site"`, `asked HKLM\SOFTWARE\Nine Fathom|Site`},
		{posh, `-Command "New-ItemProperty -Path Registry::HKEY_LOCAL_MACHINE\SOFTWARE\Tides -Name Mode -Value 1"`, `key HKEY_LOCAL_MACHINE\SOFTWARE\Tides`},
		{posh, `-Command "Remove-Item HKLM:\SOFTWARE\Tides -Recurse"`, `asked HKLM\SOFTWARE\Tides`},
		{posh, `-Command "Copy-Item -LiteralPath 'C:\Quay\x.dat' -Destination 'C:\y.dat'"`, `read C:\Quay\x.dat`},
		{posh, `-Command "Get-Content $env:ProgramData\x.txt"`, ``},
		{posh, `-Command "& { Start-Service TideClock }"`, `needed TideClock`},
		{shell, `/c powershell -Command "Start-Service TideClock"`, `tool powershell, needed TideClock`},
		{`C:\windows\system32\wbem\wmic.exe`, `service where name="TideClock" call startservice`, `serving Winmgmt, needed TideClock`},
		{`C:\windows\system32\wbem\wmic.exe`, `service where "name='TideClock'" call stopservice`, `serving Winmgmt, present TideClock`},
		{`C:\windows\system32\wbem\wmic.exe`, `/node:other service where name="TideClock" call startservice`, ``},
		{`C:\windows\system32\wbem\wmic.exe`, `product where name="Tidebook" call uninstall`, `serving Winmgmt`},
		{`C:\windows\system32\schtasks.exe`, `/delete /tn "Quay\Nightly" /f`, `serving Schedule, task \Quay\Nightly`},
		{`C:\windows\system32\schtasks.exe`, `/create /tn "Quay Nightly" /tr C:\x.exe /sc daily`, `serving Schedule`},
		{`C:\windows\system32\schtasks.exe`, `/run /s other /tn "Quay Nightly"`, ``},
		{`C:\windows\system32\sc.exe`, `create TideClock binPath= C:\Quay\x.exe`, `new TideClock`},
		{`C:\windows\system32\msiexec.exe`, `/x {2e9a4c17-0b5d-4a8e-b6f1-3c7d9e0a5b44} /qn`, `product {2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B44}`},
		{`C:\windows\system32\msiexec.exe`, `/x{2e9a4c17-0b5d-4a8e-b6f1-3c7d9e0a5b44}`, `product {2E9A4C17-0B5D-4A8E-B6F1-3C7D9E0A5B44}`},
		{`C:\windows\system32\msiexec.exe`, `/i C:\Deploy\charts.msi /qn`, `read C:\Deploy\charts.msi`},
		{`C:\windows\system32\dism.exe`, `/online /enable-feature /featurename:NetFx3 /source:C:\Deploy\sxs`, `serving TrustedInstaller, read C:\Deploy\sxs`},
		{`C:\windows\system32\dism.exe`, `/online /cleanup-image /restorehealth`, `serving TrustedInstaller`},
		{`C:\windows\system32\reg.exe`, `add HKLM\SOFTWARE\Tides /v Mode /d 1 /f /reg:32`, `key HKLM32\SOFTWARE\Tides`},
		{`C:\windows\system32\curl.exe`, `-o C:\x.zip https://updates.harbour.example:8443/x.zip`, `host updates.harbour.example:8443`},
		{`C:\windows\system32\ping.exe`, `-n 1 harbour-files`, `host harbour-files`},
		{posh, `-NoProfile -File "C:\Quay\set up.ps1"`, `read C:\Quay\set up.ps1`},
		{`C:\Quay\own.exe`, `start Spooler`, ``},
		{`C:\windows\system32\taskkill.exe`, `/f /im quaytray.exe /t`, `ended quaytray.exe`},
		{`C:\windows\system32\taskkill.exe`, `/f /im quay*`, ``},
		{`C:\windows\system32\taskkill.exe`, `/pid 4711 /f`, ``},
		{`C:\windows\system32\taskkill.exe`, `/s other /im quaytray.exe`, ``},
		{shell, `/c taskkill /im quaytray.exe & exit 0`, ``}, // what fails first is passed over
		{posh, `-Command "Stop-Process -Name quaytray -Force"`, `ended quaytray.exe`},
		{posh, `-Command "Stop-Process -Name quaytray -ErrorAction SilentlyContinue"`, ``},
		{`C:\windows\system32\net.exe`, `user quaysync Secret1! /add /expires:never`, `newcomer quaysync`},
		{`C:\windows\system32\net.exe`, `user quaysync /active:yes`, `person quaysync`},
		{`C:\windows\system32\net.exe`, `user quaysync`, ``},
		{`C:\windows\system32\net.exe`, `user quaysync /delete /domain`, ``},
		{`C:\windows\system32\net.exe`, `localgroup Users quaysync /add`, `person quaysync`},
		{`C:\windows\system32\net.exe`, `localgroup Quays`, ``},
		{`C:\windows\system32\netsh.exe`, `advfirewall firewall add rule name=Quay dir=in action=allow`, `serving MpsSvc`},
		{`C:\windows\system32\netsh.exe`, `interface show interface`, ``},
		{`C:\windows\system32\icacls.exe`, `"C:\ProgramData\Quay" /grant quaysync:(OI)(CI)M /t`, `person quaysync, read C:\ProgramData\Quay`},
		{`C:\windows\system32\icacls.exe`, `"C:\ProgramData\Quay" /grant *S-1-5-32-545:M`, `read C:\ProgramData\Quay`},
		{`C:\windows\system32\reg.exe`, `load HKLM\Offline C:\Quay\ntuser.dat`, `read C:\Quay\ntuser.dat`},
		{posh, `-Command "New-NetFirewallRule -DisplayName Quay -Direction Inbound"`, `serving MpsSvc`},
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

// A script says what it works on where it calls the OS's objects with a text
// that stands there, and would end where that fails.
func TestScripts(t *testing.T) {
	_, m := demotest.LayOut(t)
	const visual, java = 38, 37
	for i, c := range []struct {
		kind       int
		text, want string
	}{
		{visual, `CreateObject("WScript.Shell").RegWrite "HKLM\SOFTWARE\Tides\Mode", 1, "REG_DWORD"`, `key HKLM\SOFTWARE\Tides`},
		{visual, "Set s = CreateObject(\"WScript.Shell\")\r\nx = s.RegRead(\"HKLM\\SOFTWARE\\Tides\\Site\")\r\n", `asked HKLM\SOFTWARE\Tides|Site`},
		{visual, `s.RegRead "HKLM\SOFTWARE\Tides\"`, `asked HKLM\SOFTWARE\Tides`},
		{visual, `s.RegRead("HKLM\SOFTWARE\Saltmarsh Quay\Planner\Site")`, ``}, // the package's own
		{visual, "On Error Resume Next\r\ns.RegDelete \"HKLM\\SOFTWARE\\Tides\\\"", ``},
		{visual, `' s.RegRead("HKLM\SOFTWARE\Tides\Site")`, ``},
		{visual, `s.RegRead("HKLM\SOFTWARE\Tides\" & name)`, ``}, // put together while it runs
		{visual, `Set o = CreateObject("QuayCharts.Document")`, `class QuayCharts.Document`},
		{visual, `Set f = fso.OpenTextFile("C:\Quay\x.txt", 8, True)`, ``},
		{visual, `fso.CopyFile "C:\Quay\x.txt", "C:\y.txt"`, `read C:\Quay\x.txt`},
		{visual, `Set d = fso.CreateFolder("C:\Quay\plans")`, `made C:\Quay\plans`},
		{visual, `s.Run "net start TideClock", 0, True`, `needed TideClock`},
		{visual, `MyRun "net start TideClock"`, ``},
		{java, `var o = new ActiveXObject("QuayCharts.Document");`, `class QuayCharts.Document`},
		{java, `new ActiveXObject('WScript.Shell').RegRead('HKLM\\SOFTWARE\\Tides\\Site');`, `asked HKLM\SOFTWARE\Tides|Site`},
		{java, `try { o.RegRead('HKLM\\SOFTWARE\\Tides\\Site'); } catch (e) {}`, ``},
	} {
		for _, in := range []string{"table", "property", "binary"} {
			rows := [][]any{{"CustomAction", "Run", c.kind, nil, c.text}}
			switch in {
			case "property":
				rows = [][]any{{"Property", "PREP", c.text}, {"CustomAction", "Run", c.kind + 16, "PREP", nil}}
			case "binary":
				rows = [][]any{{"Binary", "Prep", []byte(c.text)}, {"CustomAction", "Run", c.kind - 32, "Prep", nil}}
			}
			list, err := targets.Of(changed(t, "Berthline.msi", rows...), m, targets.Run{Package: `C:\Deploy\Berthline.msi`}, "Run")
			if err != nil {
				t.Fatal(err)
			}
			var got []string
			for _, x := range list {
				got = append(got, string(x.Kind)+" "+x.Name)
			}
			if strings.Join(got, ", ") != c.want {
				t.Errorf("%d, in a %s: %s: %q, want %q", i, in, c.text, got, c.want)
			}
		}
	}
}
