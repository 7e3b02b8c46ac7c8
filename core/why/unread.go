package why

import (
	"errors"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/package/compound"
	"hollowkey/core/package/installdb"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// noPackage are the results with which the OS and the engine say that the
// package is not there: file and path not found, a drive that is not ready, a
// network path, and "could not be opened". Source: the platform SDK, "System
// Error Codes".
var noPackage = []int{2, 3, 21, 53, 67, 1316, 1612, 1619}

// unread makes the cause of a package that cannot be read, where that is what
// the setup failed with: the file is not there, or is no whole package. It says
// whether it is.
func unread(v *verdict.Verdict, path string, err error) bool {
	f := signs.Finding{Check: "package-file", Answer: "yes"}
	damaged := errors.Is(err, installdb.ErrDamaged) || errors.Is(err, compound.ErrDamaged)
	foreign := errors.Is(err, installdb.ErrNoDatabase) || errors.Is(err, compound.ErrNotCompound)
	why := err.Error()
	why = why[strings.LastIndex(why, ": ")+1:]
	switch {
	case v.ExitCode == nil || *v.ExitCode == 0:
		return false
	case errors.Is(err, fs.ErrNotExist) && slices.Contains(noPackage, *v.ExitCode):
		f.Class, f.Text = "source", path+" is not there"
		f.Mend = "look at the spelling of " + path + ", or bring the package to where it is called"
	case damaged:
		f.Class, f.Text = "corrupt", path+" is damaged or not whole ("+strings.TrimSpace(why)+")"
		f.Mend = "get the package again, and compare its size with the original's"
	case foreign && slices.Contains(notOpened, *v.ExitCode):
		f.Class, f.Text = "corrupt", path+" is no installer package"
		f.Mend = "look what the file is, and get the package again: a sign-in page can stand in its place"
	default:
		return false
	}
	v.NotRead(f)
	return true
}

// notOpened are the engine's results for a file that is no package.
var notOpened = []int{1619, 1620}
