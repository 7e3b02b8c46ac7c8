// This file writes into a case's folder, along no link and over nothing else.

package casefile

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"hollowkey/core/bounded"
)

// A case's folder may come from anybody, with links in it to what an
// administrator can write. Nothing is written through one.

// inside opens a folder that lies in a case, or the case's own, and makes it
// where there is none.
func inside(dir string) (*os.Root, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, err
	}
	info, err := os.Lstat(dir)
	if err != nil {
		return nil, err
	}
	if !info.IsDir() {
		return nil, fmt.Errorf("%s is a link or no folder", dir)
	}
	return os.OpenRoot(dir)
}

// replaceFile puts a file in place, whole or not at all: through one of a name
// that nobody can guess, which replaces a link and does not follow it.
func replaceFile(path string, write func(io.Writer) error) error {
	root, err := inside(filepath.Dir(path))
	if err != nil {
		return err
	}
	defer root.Close()
	base := filepath.Base(path)
	temp, err := os.CreateTemp(root.Name(), "hollowkey-*.new")
	if err != nil {
		return err
	}
	err = errors.Join(write(temp), temp.Chmod(0o644), temp.Sync(), temp.Close())
	if err == nil {
		err = root.Rename(filepath.Base(temp.Name()), base)
	}
	if err != nil {
		_ = root.Remove(filepath.Base(temp.Name()))
	}
	return err
}

// appendTo opens a file of a case to write at its end.
func appendTo(path string) (*os.File, error) {
	root, err := inside(filepath.Dir(path))
	if err != nil {
		return nil, err
	}
	defer root.Close()
	return bounded.Plain(root, filepath.Base(path), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
}

// bytesOf is what writes some bytes.
func bytesOf(b []byte) func(io.Writer) error {
	return func(w io.Writer) error {
		_, err := w.Write(b)
		return err
	}
}

// Put keeps a file of a few pages in a case's folder, whole or not at all; name
// is a bare one.
func Put(dir, name string, contents []byte) error {
	return replaceFile(filepath.Join(dir, filepath.Base(name)), bytesOf(contents))
}
