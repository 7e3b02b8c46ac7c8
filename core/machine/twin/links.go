// This file follows links on a twin's disk as the OS would, and never out of
// its folder.

package twin

import (
	"fmt"
	"io/fs"
	"path"
	"strings"
)

const mostLinks = 40 // on one way; the OS follows 63, a real one has one or two

// FinalPath follows the links below disk/ on the way to a path. What they lead
// to must lie there as well. One that leads out of it is an error.
func (t *Twin) FinalPath(p string) (string, error) {
	drive, names, err := clean(p)
	if err != nil {
		return "", err
	}
	for range mostLinks {
		at, rest, target, err := t.firstLink(drive, names)
		if err != nil {
			return "", err
		}
		if target == "" {
			return windowsPath(drive, names), nil
		}
		parts := strings.Split(path.Join(path.Dir(at), target), "/")
		if path.IsAbs(target) || len(parts) < 2 || parts[0] != "disk" || len(parts[1]) != 1 {
			return "", fmt.Errorf("%s: a link on the way leads out of the twin", p)
		}
		drive, names = strings.ToUpper(parts[1]), append(parts[2:len(parts):len(parts)], rest...)
	}
	return "", fmt.Errorf("%s: more than %d links on the way", p, mostLinks)
}

// firstLink finds the first link on the way to a path: where it lies, the names
// behind it, and what it says. A short name of what is not there could be
// anything's.
func (t *Twin) firstLink(drive string, names []string) (at string, rest []string, target string, err error) {
	at = "disk"
	for i, name := range append([]string{drive}, names...) {
		written, is, err := t.named(at, name)
		if err != nil || !is {
			if err == nil && shortName(name) && i > 0 {
				err = fmt.Errorf("%s is a short name\nhint: name it in full", name)
			}
			return "", nil, "", err
		}
		at = path.Join(at, written)
		info, err := t.root.Lstat(at)
		if err != nil {
			return "", nil, "", err
		}
		if info.Mode()&fs.ModeSymlink != 0 {
			target, err := t.root.Readlink(at)
			return at, names[i:], target, err
		}
		if !info.IsDir() { // nothing lies below a file
			break
		}
	}
	return at, nil, "", nil
}

// shortName says whether a name has the form that the OS gives long ones for
// old programs: PROGRA~1.
func shortName(name string) bool {
	base, _, _ := strings.Cut(name, ".")
	i := strings.IndexByte(base, '~')
	return i > 0 && i < len(base)-1 && strings.Trim(base[i+1:], "0123456789") == "" && len(base) <= 8
}
