//go:build !windows

package cli

// callingShell is the shell that printed commands are quoted for: outside
// Windows there is one family.
func callingShell() shell { return posix }
