package enginelog

import "cmp"

// properties writes the list of all properties at the end of a run.
func (l *log) properties() {
	s := l.s
	for _, p := range [][2]string{
		{"UpgradeCode", "{36C0E8F4-CAF8-406F-90AD-6273175B67B1}"}, {"ARPHELPLINK", "https://support.example/"}, {"ErrorDialog", "SetupError"},
		{"PROMPTROLLBACKCOST", "P"}, {"ApplicationUsers", "AllUsers"}, {"INSTALLLEVEL", "100"}, {"ALLUSERS", "1"},
		{"ProgramFiles64Folder", `C:\Program Files\`}, {"INSTALLDIR", l.folder()}, {"PersonalFolder", l.personal()},
		{"Manufacturer", s.Manufacturer}, {"ProductCode", s.Code}, {"ProductLanguage", "1033"}, {"ProductName", s.Product},
		{"ProductVersion", s.Version}, {"MsiLogFileLocation", `C:\Windows\Temp\setup.log`}, {"REBOOT", "ReallySuppress"},
		{"CLIENTUILEVEL", "3"}, {"VersionDatabase", "500"}, {"MsiRunningElevated", "1"}, {"Privileged", "1"}, {"USERNAME", s.User},
		{"DATABASE", `C:\Windows\Installer\5f1c2a.msi`}, {"OriginalDatabase", s.Package}, {"UILevel", "2"}, {"ACTION", "INSTALL"},
		{"VersionNT", "603"}, {"VersionNT64", "603"}, {"WindowsBuild", cmp.Or(s.Build, "19045")},
		{"ServicePackLevel", "0"}, {"MsiNTProductType", "1"},
		{"WindowsFolder", `C:\Windows\`}, {"System64Folder", `C:\Windows\system32\`}, {"SystemFolder", `C:\Windows\SysWOW64\`},
		{"TempFolder", `C:\Users\` + s.User + `\AppData\Local\Temp\`}, {"AppDataFolder", `C:\Users\` + s.User + `\AppData\Roaming\`},
		{"LocalAppDataFolder", `C:\Users\` + s.User + `\AppData\Local\`}, {"CommonAppDataFolder", `C:\ProgramData\`},
		{"MsiAMD64", "6"}, {"Msix64", "6"}, {"PhysicalMemory", "16204"}, {"VirtualMemory", "11504"}, {"AdminUser", "1"},
		{"LogonUser", s.User}, {"UserSID", s.SID}, {"UserLanguageID", "1033"}, {"ComputerName", s.Computer}, {"SystemLanguageID", "1033"},
		{"ScreenX", "1920"}, {"ScreenY", "1080"}, {"Date", s.Started.Format("1/2/2006")}, {"MsiNetAssemblySupport", "4.8.9037.0"},
		{"ROOTDRIVE", `C:\`}, {"CostingComplete", "1"}, {"OutOfDiskSpace", "0"}, {"SOURCEDIR", `C:\Deploy\`}, {"ProductToBeRegistered", "1"},
	} {
		l.raw("Property(S): %s = %s", p[0], p[1])
	}
}

// end writes the last lines of a run.
func (l *log) end(ok bool) {
	s := l.s
	word, number := "Installation failed.", 1708
	if ok {
		word, number = "Installation completed successfully.", 1707
	}
	l.server("Note: 1: %d ", number)
	l.server("Product: %s -- %s", s.Product, word)
	l.raw("")
	l.server("Windows Installer installed the product. Product Name: %s. Product Version: %s. Product Language: 1033. Manufacturer: %s. "+
		"Installation success or error status: %d.", s.Product, s.Version, s.Manufacturer, l.code)
	l.raw("")
	l.server("Deferring clean up of packages/files, if any exist")
	l.server("MainEngineThread is returning %d", l.code)
	l.server("RESTART MANAGER: Session closed.")
	l.server("No System Restore sequence number for this installation.")
	date := l.now.Format("1/2/2006  15:04:05")
	l.raw("=== Logging stopped: %s ===", date)
	l.server("Decrementing counter to disable shutdown. If counter >= 0, shutdown will be denied.  Counter after decrement: -1")
	l.client("Decrementing counter to disable shutdown. If counter >= 0, shutdown will be denied.  Counter after decrement: -1")
	l.client("MainEngineThread is returning %d", l.code)
	l.raw("=== Verbose logging stopped: %s ===", date)
}
