// This file knows the properties that the engine sets itself, and what their
// values stand for.

package gates

import (
	"fmt"
	"strconv"
	"strings"

	"hollowkey/core/package/condition"
)

// The engine tells packages of no newer OS than this: on Windows 10 and 11 too
// VersionNT is 603 and WindowsBuild 9600. Source: the platform SDK, "VersionNT
// Property".
const (
	newestVersion = 603
	newestBuild   = 9600
)

// systems are what values of VersionNT stand for.
var systems = map[int]string{
	400: "Windows NT 4", 500: "Windows 2000", 501: "Windows XP", 502: "Windows Server 2003", 600: "Windows Vista",
	601: "Windows 7", 602: "Windows 8", 603: "Windows 8.1, 10 and 11",
}

// perRun are properties that only a running setup has; they hold something.
var perRun = set("SourceDir", "OriginalDatabase", "DATABASE", "ProductState", "Date", "Time", "LogonUser", "UserSID", "ComputerName",
	"PhysicalMemory", "VirtualMemory", "ScreenX", "ScreenY", "ColorBits", "UserLanguageID", "SystemLanguageID", "TTCSupport",
	"MsiLogFileLocation",
	"PackageCode", "ClientProcessId", "MsiNetAssemblySupport", "RemoteAdminTS", "TerminalServer", "MsiRunningElevated", "OLEAdvtSupport",
	"ShellAdvtSupport", "GPTSupport")

// unset are properties that a first install on a present OS does not have.
var unset = set("Installed", "REMOVE", "REINSTALL", "PATCH", "RESUME", "Preselected", "UPGRADINGPRODUCTCODE", "Version9X",
	"MsiSystemRebootPending",
	"AFTERREBOOT", "ReplacedInUseFiles", "RollbackDisabled", "NOUSERNAME", "MsiRestartManagerSessionKey", "MsiPatchRemovalList",
	"MsiUISourceResOnly", "Alpha", "RemoteAdminTS")

// settable are public properties of the engine that a command line may set.
var settable = set("ALLUSERS", "INSTALLLEVEL", "REBOOT", "ADDLOCAL", "REMOVE", "REINSTALL", "TRANSFORMS", "TARGETDIR",
	"ARPSYSTEMCOMPONENT", "MSIINSTALLPERUSER")

// set makes a set of names.
func set(names ...string) map[string]bool {
	m := make(map[string]bool, len(names))
	for _, n := range names {
		m[n] = true
	}
	return m
}

// folders are the engine's own folders, where the machine has its usual ones.
var folders = map[string]string{
	"ProgramFilesFolder": `C:\Program Files (x86)\`, "ProgramFiles64Folder": `C:\Program Files\`,
	"CommonFilesFolder":   `C:\Program Files (x86)\Common Files\`,
	"CommonFiles64Folder": `C:\Program Files\Common Files\`, "WindowsFolder": `C:\Windows\`, "SystemFolder": `C:\Windows\SysWOW64\`,
	"System64Folder": `C:\Windows\System32\`, "WindowsVolume": `C:\`, "TempFolder": `C:\Windows\Temp\`, "FontsFolder": `C:\Windows\Fonts\`,
	"CommonAppDataFolder": `C:\ProgramData\`, "ROOTDRIVE": `C:\`,
}

// everybodys are the shell's folders of a setup for all users, where the
// machine has its usual ones. Source: the platform SDK, "ALLUSERS Property" and
// "System Folder Properties".
var everybodys = map[string]string{
	"StartMenuFolder": `C:\ProgramData\Microsoft\Windows\Start Menu\`, "DesktopFolder": `C:\Users\Public\Desktop\`,
	"ProgramMenuFolder": `C:\ProgramData\Microsoft\Windows\Start Menu\Programs\`,
	"StartupFolder":     `C:\ProgramData\Microsoft\Windows\Start Menu\Programs\StartUp\`,
	"AdminToolsFolder":  `C:\ProgramData\Microsoft\Windows\Start Menu\Programs\Administrative Tools\`,
	"TemplateFolder":    `C:\ProgramData\Microsoft\Windows\Templates\`,
}

// builtIn gives the properties that the engine itself sets. Without a machine
// those that depend on it cannot be told.
func (w *World) builtIn(name string) (Known, bool) {
	is := func(text, detail string) (Known, bool) {
		return known(text, BuiltIn, detail), true
	}
	// What holds for the run that is asked about: a first install, elevated,
	// with dialogs.
	switch name {
	case "Privileged", "AdminUser":
		return is("1", "as run by an administrator, elevated")
	case "UILevel":
		return is("5", "full interface; 2 when silent (/qn)")
	case "ACTION":
		return is("INSTALL", "a first install")
	case "VersionMsi":
		return is("5.00", "the engine's version")
	case "NTProductType", "MsiNTProductType", "VersionNT", "VersionNT64", "WindowsBuild", "ServicePackLevel", "ServicePackLevelMinor",
		"Intel", "Intel64", "MsiAMD64", "Msix64", "Arm64":
		return w.osProperty(name), true
	}
	if perRun[name] {
		return unknown(BuiltIn, "the engine sets it when the setup runs"), true
	}
	if unset[name] {
		return Known{Origin: BuiltIn, Detail: "not set at a first install"}, true
	}
	if path, ok := folders[name]; ok {
		// A 32-bit OS has one of each folder.
		if w.m != nil && !w.m.Facts().OS.Wide() {
			path = strings.ReplaceAll(strings.ReplaceAll(path, " (x86)", ""), "SysWOW64", "System32")
			if strings.Contains(name, "64") {
				return Known{Origin: BuiltIn, Detail: "not set on a 32-bit OS"}, true
			}
		}
		return is(path, "the usual folder")
	}
	if path, ok := everybodys[name]; ok && w.Know(condition.Symbol{Name: "ALLUSERS"}).Text == "1" {
		return is(path, "the usual folder of all users")
	}
	if strings.HasSuffix(name, "Folder") && !w.has("Directory", "Directory", name) {
		return unknown(BuiltIn, "a folder of the machine"), true
	}
	return Known{}, false
}

// osProperty is a property that follows from the OS. Versions are capped as the
// engine caps them: a package is never told what the machine really is.
func (w *World) osProperty(name string) Known {
	if w.m == nil {
		return unknown(BuiltIn, "the machine's OS; name one with --machine")
	}
	os := w.m.Facts().OS
	is := func(text, detail string) Known { return known(text, BuiltIn, detail) }
	// The engine tells a package no newer version than it knows itself,
	// whatever the machine is.
	version := versionNT(os.Version)
	told := os.Name + " " + os.Version
	if os.Build > 0 {
		told += fmt.Sprintf(" build %d", os.Build)
	}
	switch name {
	case "VersionNT":
		if version == 0 {
			return unknown(BuiltIn, "the twin does not say its OS version")
		}
		return is(strconv.Itoa(min(version, newestVersion)), capped(told, version, newestVersion))
	case "VersionNT64":
		if !w.m.Facts().OS.Wide() {
			return is("", "not set: a 32-bit OS")
		}
		return is(strconv.Itoa(min(version, newestVersion)), capped(told, version, newestVersion))
	case "WindowsBuild":
		return is(strconv.Itoa(min(os.Build, newestBuild)), capped(told, os.Build, newestBuild))
	case "ServicePackLevel", "ServicePackLevelMinor":
		return is("0", told)
	case "NTProductType", "MsiNTProductType":
		if strings.Contains(strings.ToLower(os.Edition+os.Name), "server") {
			return is("3", "a server")
		}
		return is("1", "a workstation")
	case "Intel":
		if strings.EqualFold(os.Architecture, "arm64") {
			return is("", "not an Intel processor")
		}
		return is("6", "processor "+os.Architecture)
	case "MsiAMD64", "Msix64":
		if strings.EqualFold(os.Architecture, "x64") || strings.EqualFold(os.Architecture, "amd64") {
			return is("6", "processor "+os.Architecture)
		}
		return is("", "processor "+os.Architecture)
	case "Arm64":
		if strings.EqualFold(os.Architecture, "arm64") {
			return is("6", "processor "+os.Architecture)
		}
	}
	return is("", "processor "+os.Architecture)
}

// capped tells of the cap where it applies; it explains conditions that refuse
// an OS that is newer than they say.
func capped(told string, real, newest int) string {
	if real > newest {
		return fmt.Sprintf("%s; Windows reports at most %d", told, newest)
	}
	return told
}

// versionNT makes 603 of "6.3" and 1000 of "10.0.19045".
func versionNT(version string) int {
	major, rest, _ := strings.Cut(version, ".")
	minor, _, _ := strings.Cut(rest, ".")
	m, err := strconv.Atoi(strings.TrimSpace(major))
	if err != nil {
		return 0
	}
	n, _ := strconv.Atoi(minor)
	return 100*m + n
}
