package guard

import (
	"testing"

	"hollowkey/core/machine/sddl"
)

// What holds the whole machine is refused in all spellings of its place, and
// what setups need is let pass.
func TestFile(t *testing.T) {
	for _, tt := range []struct {
		act    Act
		path   string
		passes bool
	}{
		{Open, `C:\Windows`, false}, {Open, `C:\windows.`, false}, {Open, `c:/WINDOWS/system32/`, false}, {Open, `C:\Windows \System32`, false},
		{Write, `C:\Windows\System32\drivers\x.sys`, false}, {Write, `C:\Windows\System32\x.ini`, false}, {Write, `C:\Windows\win.ini`, false},
		{Write, `C:\Windows\quay.ini`, true}, {Move, `C:\Windows\quay.ini`, false}, {Write, `C:\Windows\quay.ini:hidden`, false},
		{Open, `C:\Windows\Temp`, true}, {Move, `C:\Windows\Temp`, false}, {Move, `C:\Windows\Temp\old\x.tmp`, true},
		{Move, `C:\`, false}, {Open, `D:\`, false}, {Write, `C:\CON`, false}, {Write, `C:\Quay\nul.txt`, false}, {Write, `C:\Quay\COM1`, false},
		{Write, `C:\Quay\com¹.log`, false}, {Write, `C:\Quay\common.log`, true},
		{Write, `C:\Quay\..\Windows\x`, false}, {Write, `\\?\C:\Windows\x`, false},
		{Write, `\\quay-fs\share\x`, false}, {Write, `C:\ ..\x`, false},
		{Move, `C:\Windows\Installer\3f9c1b.msi`, false}, {Move, `C:\ProgramData\Package Cache\{1}\x.msi`, false},
		{Move, `C:\Users\mwhitlow`, false}, {Move, `C:\Users\mwhitlow\AppData\Local`, false}, {Move, `C:\Users\mwhitlow\Documents`, false},
		{Move, `C:\Users\mwhitlow\OneDrive - Quay`, false}, {Move, `C:\Users\mwhitlow\AppData\Local\Quay`, true},
		{Write, `C:\Users\mwhitlow\AppData\Roaming\Microsoft\Windows\Start Menu\Programs\Startup\x.cmd`, false},
		{Move, `C:\bootmgr`, false}, {Write, `C:\pagefile.sys`, false}, {Move, `C:\Users\mwhitlow\NTUSER.DAT.LOG1`, false}, {Open, `C:\Users\mwhitlow\ntuser.dat`, false},
		{Move, `C:\ProgramData\Microsoft`, false}, {Move, `C:\ProgramData\Microsoft\Windows\Start Menu\Programs\StartUp`, false},
		{Move, `C:\ProgramData\Microsoft\Windows\Start Menu\Programs\StartUp\quay.lnk`, true},
		{Open, `C:\Program Files`, false}, {Open, `C:\Program Files\Quay`, true}, {Open, `C:\Program Files\WindowsApps\Quay`, false},
		{Move, `C:\Program Files (x86)\Common Files`, false}, {Write, `C:\ProgramData\Hollow Key\journal.ndjson`, false}, {Open, `C:\Quay`, true},
	} {
		if err := File(tt.act, tt.path); (err == nil) != tt.passes {
			t.Errorf("act %d on %s: %v", tt.act, tt.path, err)
		}
	}
}

func TestKeys(t *testing.T) {
	for _, tt := range []struct {
		act    Act
		key    string
		passes bool
	}{
		{Open, `HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion\Winlogon`, false},
		{Open, `HKEY_LOCAL_MACHINE32\SOFTWARE\Microsoft\Windows NT\CurrentVersion\Winlogon\x`, false},
		{Open, `HKEY_LOCAL_MACHINE64\SOFTWARE\Policies\Quay`, false}, {Move, `\SOFTWARE\Policies`, false},
		{Move, `HKLM\SOFTWARE\\Policies`, false},
		{Move, `HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion\Image File Execution Options\quay.exe`, false},
		{Move, `HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows NT\CurrentVersion\Image File Execution Options`, false},
		{Open, `HKLM\SYSTEM\CurrentControlSet\Services\QuaySync`, false}, {Open, `HKLM\SYSTEM\ControlSet002\Services\QuaySync`, false},
		{Move, `HKLM\SYSTEM\CurrentControlSet\Control\Lsa\x`, false}, {Move, `HKLM\SAM\SAM`, false},
		{Move, `HKLM\SOFTWARE`, false}, {Move, `HKLM`, false},
		{Move, `HKU\S-1-5-21-1-2-3-1001\Software\Policies\x`, false}, {Move, `HKCR\CLSID`, false}, {Move, `HKCR\CLSID\{1}`, true},
		{Open, `HKLM\SOFTWARE\Quay`, true}, {Move, `HKLM\SOFTWARE\WOW6432Node\Quay\Desk`, true}, {Make, `HKLM\SOFTWARE\Quay`, true},
		{Move, `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall\{1}`, true},
		{Move, `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall`, false},
		{Move, `HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall`, false}, {Move, `HKLM32\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer`, false},
		{Move, `HKLM\SOFTWARE\WOW6432Node\WOW6432Node\Microsoft\Windows NT\CurrentVersion\Winlogon`, false}, {Move, `HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall\Quay`, true},
		{Move, `\REGISTRY\MACHINE\SOFTWARE\Policies`, false}, {Open, `\registry\user\S-1-5-21-1-2-3-1001\Software\Policies\x`, false}, {Open, `\REGISTRY\MACHINE\SOFTWARE\Quay`, true},
		{Move, `HKLM\SYSTEM\CurrentControlSet\Control\Session Manager`, false}, {Move, `HKLM\SYSTEM\ControlSet001\Control\Session Manager\Memory Management`, false},
		{Move, `HKLM\SYSTEM\CurrentControlSet\Control\Print`, false}, {Open, `HKLM\SYSTEM\CurrentControlSet\Enum\ROOT`, false}, {Move, `HKLM\SYSTEM\CurrentControlSet\Control`, false},
		{Open, `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Authentication\Credential Providers`, false}, {Open, `HKLM\SOFTWARE\Microsoft\Netsh`, false},
		{Open, `HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion\Svchost`, false}, {Move, `HKLM\SOFTWARE\Microsoft\Ole`, false}, {Move, `HKLM\SOFTWARE\Microsoft\COM3`, false},
		{Move, `HKCR\exefile`, false}, {Open, `HKCR\.exe`, false}, {Move, `HKLM\SOFTWARE\Classes\Directory\shell`, false}, {Move, `HKCR\Quay.Chart`, true}, {Move, `HKCR\.qchart`, true},
		{Move, `HKLM\SOFTWARE\Microsoft\VisualQuay`, false}, {Move, `HKLM\SOFTWARE\Microsoft\VisualQuay\9.0`, true},
	} {
		if err := Key(tt.act, tt.key); (err == nil) != tt.passes {
			t.Errorf("act %d on %s: %v", tt.act, tt.key, err)
		}
	}
	for _, tt := range []struct {
		key, name   string
		set, passes bool
	}{
		{`HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion\Winlogon`, "Shell", true, false},
		{`HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion\Windows`, "AppInit_DLLs", true, false},
		{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Run`, "Quay", true, false},
		{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Run`, "Quay", false, true},
		{`HKCU\Software\Microsoft\Windows\CurrentVersion\RunOnce`, "Quay", true, false},
		{`HKLM\SYSTEM\CurrentControlSet\Services\QuaySync`, "ImagePath", true, false},
		{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager`, "BootExecute", true, false},
		{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager`, "PendingFileRenameOperations", false, true},
		{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`, "Path", true, true},
		{`HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`, "Logging", true, true},
		{`HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`, "AlwaysInstallElevated", true, false},
		{`HKLM\SYSTEM\CurrentControlSet\Services\SharedAccess\Parameters\FirewallPolicy\FirewallRules`, "Quay-In", false, true},
		{`HKLM\SYSTEM\CurrentControlSet\Services\SharedAccess\Parameters\FirewallPolicy\FirewallRules`, "Quay-In", true, false},
		{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion`, "ProgramFilesDir", true, false}, {`HKLM\SOFTWARE\Classes\exefile\shell\open\command`, "", true, false},
		{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\SharedDLLs`, `C:\Quay\x.dll`, false, true}, {`HKLM\SOFTWARE\Microsoft\Netsh`, "quay", true, false},
		{`HKLM\SYSTEM\ControlSet001\Control\Session Manager`, "BootExecute", true, false}, {`HKLM\SOFTWARE`, "x", true, false}, {`HKLM\SOFTWARE\Quay`, "x", true, true},
	} {
		if err := Value(tt.key, tt.name, tt.set); (err == nil) != tt.passes {
			t.Errorf("%s of %s, set %v: %v", tt.name, tt.key, tt.set, err)
		}
	}
}

func TestBroad(t *testing.T) {
	for sid, broad := range map[sddl.SID]bool{sddl.Everyone: true, sddl.Users: true, sddl.AuthenticatedUsers: true,
		"S-1-5-7": true, "S-1-5-2": true,
		"S-1-5-32-546": true, "S-1-5-21-1-2-3-513": true, "S-1-5-21-1-2-3-1001": false, sddl.System: false,
		sddl.Administrators: false, sddl.NetworkService: false} {
		if Broad(sid) != broad {
			t.Errorf("%s: %v", sid, !broad)
		}
	}
}

func TestTemporary(t *testing.T) {
	for path, want := range map[string]bool{
		`C:\Windows\Temp`: true, `c:\windows\temp\x`: true, `C:\Users\tess\AppData\Local\Temp`: true, `C:\Users\tess\Temp\a`: true, `D:\Temp`: true, `C:\tmp\x`: true,
		`C:\`: false, `C:`: false, `C:\Windows`: false, `C:\Windows\Installer`: false,
		`C:\Program Files\Quay\Temp`: false, `C:\Users`: false, `C:\Users\tess`: false,
		`C:\Users\tess\Documents\Temp`: false, `C:\Templates`: false, `relative\Temp`: false,
	} {
		if got := Temporary(path); got != want {
			t.Errorf("%s: %v", path, got)
		}
	}
}

func TestVitalServices(t *testing.T) {
	for name, passes := range map[string]bool{"RpcSs": false, "windefend": false, "BFE ": false, "LSM": false, "EventLog": false,
		"Spooler": true, "BerthSync": true, "wuauserv": true, "": true} {
		if err := Service(name); (err == nil) != passes {
			t.Errorf("%s: %v", name, err)
		}
	}
}
