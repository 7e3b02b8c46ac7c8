// This file knows where the OS keeps its own programs.

package names

import (
	"slices"
	"strings"
)

// toolFolders are where the OS keeps the programs that setups call by name, but
// for those in system32. Source: the OS itself.
var toolFolders = map[string]string{
	"explorer": `C:\Windows`, "regedit": `C:\Windows`, "notepad": `C:\Windows`, "hh": `C:\Windows`,
	"winhlp32": `C:\Windows`, "write": `C:\Windows`,
	"wmic": `C:\Windows\System32\Wbem`, "mofcomp": `C:\Windows\System32\Wbem`, "winmgmt": `C:\Windows\System32\Wbem`,
	"powershell": `C:\Windows\System32\WindowsPowerShell\v1.0`, "powershell_ise": `C:\Windows\System32\WindowsPowerShell\v1.0`,
	"ssh": `C:\Windows\System32\OpenSSH`, "scp": `C:\Windows\System32\OpenSSH`,
}

// systemTools are the OS's programs in system32 that setups call.
var systemTools = strings.Fields(`attrib bcdedit bitsadmin cacls certreq certutil chcp chkdsk choice cleanmgr clip cmd cmdkey comp compact control convert cscript curl
	dism diskpart driverquery eventcreate eventvwr expand fc find findstr fltmc fondue forfiles fsutil ftp getmac gpresult gpupdate hostname icacls ipconfig label
	lodctr lpksetup makecab manage-bde mklink more mountvol msg mshta msiexec mstsc net net1 netsh netstat nslookup odbcconf openfiles pathping ping pkgmgr pnputil
	powercfg print qprocess query quser reagentc reg regini regsvr32 replace robocopy route runas rundll32 sc schtasks sdbinst secedit setx sfc shutdown sort subst
	systeminfo takeown tar taskkill tasklist timeout tpmtool tracert tree typeperf tzutil unlodctr vssadmin w32tm wbadmin wevtutil where whoami wscript wusa xcopy`)

// ToolFolder is where the OS keeps a program of its own that setups call by its
// name alone; empty for any other.
func ToolFolder(name string) string {
	name = strings.TrimSuffix(strings.TrimSuffix(strings.ToLower(name), ".exe"), ".com")
	if folder := toolFolders[name]; folder != "" {
		return folder
	}
	if slices.Contains(systemTools, name) {
		return `C:\Windows\system32`
	}
	return ""
}
