// This file asks for free space as Windows tells it.

package unpack

import "golang.org/x/sys/windows"

// freeBytes is what is free where a folder lies.
func freeBytes(dir string) (free int64, known bool) {
	name, err := windows.UTF16PtrFromString(dir)
	if err != nil {
		return 0, false
	}
	var n uint64
	if err := windows.GetDiskFreeSpaceEx(name, &n, nil, nil); err != nil {
		return 0, false
	}
	return int64(min(n, 1<<62)), true
}
