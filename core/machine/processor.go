// This file says whether a setup is for a machine's processor.

package machine

import "strings"

// Runs says whether a setup for one of a list of processor types, parted by
// commas as a package's template has them, runs on this OS. Newer processors
// run what was made for older ones; none at all means Intel. Source: the
// platform SDK, "Template Summary property".
func (o OS) Runs(platforms string) bool {
	have := strings.ToLower(o.Architecture)
	for p := range strings.SplitSeq(platforms, ",") {
		switch strings.ToLower(strings.TrimSpace(p)) {
		case "", "intel", "x86":
			return true
		case "x64", "amd64":
			if have == "x64" || have == "amd64" || have == "arm64" {
				return true
			}
		case "arm64":
			if have == "arm64" {
				return true
			}
		}
	}
	return false
}

// Wide says whether the OS is a 64-bit one.
func (o OS) Wide() bool { return strings.Contains(o.Architecture, "64") }
