// This file tells by the parent program which shell called, on Windows.

package cli

import (
	"os"
	"strings"
	"unsafe"

	"golang.org/x/sys/windows"
)

// callingShell is told by the name of the program that started this one.
func callingShell() shell {
	switch strings.ToLower(parentProgram()) {
	case "powershell.exe", "powershell_ise.exe":
		return oldPowerShell
	case "pwsh.exe":
		return openPowerShell
	case "bash.exe", "sh.exe":
		return posix
	}
	return commandPrompt
}

// parentProgram is the file name of the program that started this one; empty
// where it has ended.
func parentProgram() string {
	list, err := windows.CreateToolhelp32Snapshot(windows.TH32CS_SNAPPROCESS, 0)
	if err != nil {
		return ""
	}
	defer windows.CloseHandle(list)
	names, parent := map[uint32]string{}, uint32(0)
	entry := windows.ProcessEntry32{Size: uint32(unsafe.Sizeof(windows.ProcessEntry32{}))}
	for err = windows.Process32First(list, &entry); err == nil; err = windows.Process32Next(list, &entry) {
		names[entry.ProcessID] = windows.UTF16ToString(entry.ExeFile[:])
		if entry.ProcessID == uint32(os.Getpid()) {
			parent = entry.ParentProcessID
		}
	}
	return names[parent]
}
