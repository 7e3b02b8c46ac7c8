// This file checks paths before anything is done with them: no devices, no ways
// out.

package machine

import (
	"fmt"
	"strings"
)

// SplitPath checks a Windows path and splits it: drive letter and the names
// below. Relative paths, ".." and what no file can be called are errors; dots
// and blanks at the end of a name are left out, as the OS does.
func SplitPath(p string) (drive string, names []string, err error) {
	p = strings.ReplaceAll(strings.TrimSpace(p), "/", `\`)
	if len(p) < 2 || p[1] != ':' || (p[0]|0x20) < 'a' || (p[0]|0x20) > 'z' {
		return "", nil, fmt.Errorf("%.120q is no path with a drive letter", p)
	}
	for name := range strings.SplitSeq(p[2:], `\`) {
		switch {
		case name == "" || name == ".":
		case name == "..", strings.ContainsAny(name, "\x00:*?\"<>|"):
			return "", nil, fmt.Errorf("%.120q is no plain path: %q", p, name)
		case device(name):
			return "", nil, fmt.Errorf("%.120q is no plain path: %q is a device", p, name)
		default:
			if name = strings.TrimRight(name, ". "); name == "" {
				return "", nil, fmt.Errorf("%.120q is no plain path: a name of dots and blanks", p)
			}
			names = append(names, name)
		}
	}
	return strings.ToUpper(p[:1]), names, nil
}

// device says whether a name is that of a device of the OS, with or without an
// extension, in whichever folder it stands. Source: the OS's documentation on
// naming files.
func device(name string) bool {
	name, _, _ = strings.Cut(strings.ToUpper(strings.TrimRight(name, " ")), ".")
	switch name = strings.TrimRight(name, " "); name {
	case "CON", "PRN", "AUX", "NUL", "CONIN$", "CONOUT$":
		return true
	}
	number := strings.TrimPrefix(strings.TrimPrefix(name, "COM"), "LPT")
	return len(number) < len(name) &&
		(len(number) == 1 && number[0] >= '0' && number[0] <= '9' || number == "¹" || number == "²" || number == "³")
}
