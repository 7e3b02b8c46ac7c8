//go:build !windows

// This file asks for free space as Unix tells it.

package unpack

import "golang.org/x/sys/unix"

// freeBytes is what is free where a folder lies.
func freeBytes(dir string) (free int64, known bool) {
	var s unix.Statfs_t
	if err := unix.Statfs(dir, &s); err != nil {
		return 0, false
	}
	return int64(s.Bavail) * int64(s.Bsize), true
}
