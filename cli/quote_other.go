//go:build !windows

package cli

func callingShell() shell { return posix }
