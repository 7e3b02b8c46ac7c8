// This file asks what the computer is.

package live

import (
	"fmt"
	"os"
	"strings"
	"time"

	"golang.org/x/sys/windows"

	"hollowkey/core/machine"
)

const versionKey = `HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion`

// Facts are what the computer is and has. What cannot be read is left empty.
func (m *Machine) Facts() machine.Facts {
	v := windows.RtlGetVersion()
	f := machine.Facts{OS: machine.OS{
		Name: "Windows", Version: fmt.Sprintf("%d.%d", v.MajorVersion, v.MinorVersion), Build: int(v.BuildNumber),
		Edition: m.text(versionKey, "EditionID"), Ring: m.text(`HKLM\SOFTWARE\Microsoft\WindowsSelfHost\Applicability`, "Ring"),
		Architecture: architecture(),
	}, Drives: drives(), Environment: map[string]string{},
		Elevated: windows.GetCurrentProcessToken().IsElevated(), Time: time.Now(), Unknown: map[string]string{}}
	f.Booted = f.Time.Add(-windows.DurationSinceBoot()).Truncate(time.Second)
	if f.Drives == nil {
		f.Unknown["drives"] = "the OS gives none"
	}
	if v.ProductType != 1 { // VER_NT_WORKSTATION
		f.OS.Name = "Windows Server"
	}
	for _, e := range os.Environ() {
		if name, value, ok := strings.Cut(e, "="); ok && name != "" {
			f.Environment[name] = value
		}
	}
	return f
}

// text reads a value as text; an absent one is empty.
func (m *Machine) text(key, name string) string {
	v, err := m.Value(key, name)
	if err != nil {
		return ""
	}
	return v.Words()
}

// The machine types of images. Source: the PE format's specification, "Machine
// Types".
var architectures = map[uint16]string{0x014c: "x86", 0x8664: "x64", 0xAA64: "arm64"}

// architecture asks for the machine's own type, not for that which this process
// is shown: a 32-bit build on a 64-bit OS is told a lie.
func architecture() string {
	var process, native uint16
	if err := windows.IsWow64Process2(windows.CurrentProcess(), &process, &native); err == nil && architectures[native] != "" {
		return architectures[native]
	}
	switch strings.ToUpper(os.Getenv("PROCESSOR_ARCHITECTURE")) {
	case "AMD64":
		return "x64"
	case "ARM64":
		return "arm64"
	}
	return "x86"
}

var driveKinds = map[uint32]string{windows.DRIVE_FIXED: "fixed", windows.DRIVE_REMOVABLE: "removable", windows.DRIVE_REMOTE: "network",
	windows.DRIVE_CDROM: "optical"}

// drives lists the mounted letters. A drive that does not answer, an empty card
// reader for instance, is listed without its size.
func drives() (list []machine.Drive) {
	mask, err := windows.GetLogicalDrives()
	if err != nil {
		return nil
	}
	for i := range 26 {
		if mask&(1<<i) == 0 {
			continue
		}
		d := machine.Drive{Letter: string(rune('A'+i)) + ":"}
		root, err := windows.UTF16PtrFromString(d.Letter + `\`)
		if err != nil {
			continue
		}
		d.Kind = driveKinds[windows.GetDriveType(root)]
		var free, total uint64
		if windows.GetDiskFreeSpaceEx(root, &free, &total, nil) == nil { // an empty drive has none
			d.Free, d.Size = int64(free), int64(total)
		}
		list = append(list, d)
	}
	return list
}
