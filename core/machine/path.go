package machine

import (
	"fmt"
	"strings"
)

// SplitPath checks a Windows path and splits it: drive letter and the names below.
// Relative paths, ".." and what no file can be called are errors.
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
		default:
			names = append(names, name)
		}
	}
	return strings.ToUpper(p[:1]), names, nil
}
