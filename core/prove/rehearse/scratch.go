package rehearse

import (
	"os"
	"path/filepath"

	"hollowkey/core/machine/twin"
)

// Scratch copies a twin into a folder of its own, so that a rehearsal leaves the
// twin as it is. done deletes the copy.
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
