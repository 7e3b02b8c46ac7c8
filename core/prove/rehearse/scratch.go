// This file copies a twin, so that the rehearsal leaves it as it was.

package rehearse

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
)

// Scratch copies a twin into a folder of its own, so that a rehearsal leaves
// the twin as it is. done deletes the copy. It fails where the copy does, and
// leaves nothing behind then.
func Scratch(folder string) (copied *twin.Twin, done func(), err error) {
	temp, err := os.MkdirTemp("", "hollowkey-rehearsal-*")
	if err != nil {
		return nil, nil, err
	}
	at := filepath.Join(temp, "twin")
	if err = CopyTwin(folder, at); err == nil {
		copied, err = twin.Open(at)
	}
	if err != nil {
		os.RemoveAll(temp)
		return nil, nil, err
	}
	return copied, func() { copied.Close(); os.RemoveAll(temp) }, nil
}

// CopyTwin copies a twin's files; what leads out of its folder is left out.
func CopyTwin(from, to string) error {
	root, err := os.OpenRoot(from)
	if err != nil {
		return err
	}
	defer root.Close()
	return filepath.WalkDir(from, func(p string, e os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, err := filepath.Rel(from, p)
		if err != nil {
			return err
		}
		switch {
		case e.IsDir():
			return os.MkdirAll(filepath.Join(to, rel), 0o755)
		case !e.Type().IsRegular():
			return nil
		}
		return copyOut(root, rel, filepath.Join(to, rel))
	})
}

// copyOut copies a file out of a twin through its root, so that no link leads
// elsewhere.
func copyOut(root *os.Root, rel, to string) error {
	in, err := root.Open(rel)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.Create(to)
	if err != nil {
		return err
	}
	_, err = out.ReadFrom(in)
	if bad := out.Close(); err == nil {
		err = bad
	}
	return err
}

// broughtTo is the folder of a copy in which packages lie that were brought to
// it.
const broughtTo = `C:\Brought`

// mostBrought bounds what is brought with a package: cabinets beside it, in
// bytes.
const mostBrought = 4 << 30

// productCode is what a product is registered by, which can be named in the
// place of a package.
var productCode = lazy.MustCompile(`^\{[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}\}$`)

// Find gives a package's path as a rehearsal takes it: as it is on the machine,
// else that of a file here, which is brought to the copy. One that is in
// neither place is an error.
func Find(m machine.Machine, pack string) (string, error) {
	_, _, notThere := machine.SplitPath(pack)
	if notThere == nil {
		if _, err := m.Stat(pack); err == nil {
			return pack, nil
		}
	}
	if productCode.MatchString(pack) || strings.HasPrefix(pack, `\\`) {
		return pack, nil
	}
	if info, err := os.Stat(pack); err == nil && info.Mode().IsRegular() {
		return filepath.Abs(pack)
	}
	if notThere != nil {
		return "", fmt.Errorf("%s is neither here nor on %s\nhint: give the package's path here, or as it is on that machine", pack, m.Name())
	}
	return pack, There(m, pack)
}

// Brought is a package's path on a copy: a file of this computer is copied
// there first, with the cabinets that lie beside it. What cannot be copied is
// an error; what is not there stays as it is, and the engine tells.
func Brought(copied *twin.Twin, pack string) (string, error) {
	if _, _, err := machine.SplitPath(pack); err == nil {
		if _, err := copied.Stat(pack); err == nil {
			return pack, nil
		}
	}
	info, err := os.Stat(pack)
	if err != nil || !info.Mode().IsRegular() {
		return pack, nil // the engine tells
	}
	beside, err := os.ReadDir(filepath.Dir(pack))
	if err != nil {
		return "", err
	}
	if err := copied.MakeFolder(broughtTo); err != nil && !errors.Is(err, fs.ErrExist) {
		return "", err
	}
	// The cabinets beside a package belong to it; what else lies there does
	// not.
	total := int64(0)
	for _, e := range beside {
		own := e.Name() == filepath.Base(pack)
		if !e.Type().IsRegular() || !own && !strings.EqualFold(filepath.Ext(e.Name()), ".cab") {
			continue
		}
		if fi, err := e.Info(); err == nil {
			total += fi.Size()
		}
		if total > mostBrought && !own {
			continue
		}
		if err := bring(copied, filepath.Join(filepath.Dir(pack), e.Name()), broughtTo+`\`+e.Name()); err != nil {
			return "", err
		}
	}
	return broughtTo + `\` + filepath.Base(pack), nil
}

// BroughtAll is Brought for several files, such as transforms.
func BroughtAll(copied *twin.Twin, files []string) (there []string, err error) {
	for _, f := range files {
		at, err := Brought(copied, f)
		if err != nil {
			return nil, err
		}
		there = append(there, at)
	}
	return there, nil
}

// bring copies one file to a copy.
func bring(copied *twin.Twin, from, to string) error {
	f, err := os.Open(from)
	if err != nil {
		return err
	}
	defer f.Close()
	return copied.WriteFile(to, func(w *os.File) error {
		_, err := io.Copy(w, f)
		return err
	})
}
