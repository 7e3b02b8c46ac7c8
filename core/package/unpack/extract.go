package unpack

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path"
)

// maxBytes is how much is written at most: archives can promise any amount.
const maxBytes = 64 << 30

// Extract writes the items that want chooses below dir, which is made. Nothing
// that is there is overwritten, and no path leads out. progress hears of bytes as
// they are written.
func Extract(name, dir string, want func(Item) bool, progress func(n int64)) ([]Item, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, err
	}
	root, err := os.OpenRoot(dir)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	var done []Item
	total := int64(0)
	err = Walk(name, func(i Item) (io.WriteCloser, error) {
		if !want(i) {
			return nil, nil
		}
		if err := root.MkdirAll(path.Dir(i.Path), 0o755); err != nil {
			return nil, err
		}
		f, err := root.OpenFile(i.Path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
		if errors.Is(err, os.ErrExist) {
			return nil, fmt.Errorf("%s is there already\nhint: unpack into a new folder", i.Path)
		}
		if err != nil {
			return nil, err
		}
		done = append(done, i)
		return &counted{f, &total, progress}, nil
	})
	return done, err
}

// counted is not embedding the file on purpose: a file's own ReadFrom would copy
// past the count.
type counted struct {
	file     *os.File    // that is written
	total    *int64      // of all files together, in bytes
	progress func(int64) // hears of each write
}

// Write counts what is written.
func (c *counted) Write(p []byte) (int, error) {
	if *c.total += int64(len(p)); *c.total > maxBytes {
		return 0, fmt.Errorf("more than %d GiB were unpacked", maxBytes>>30)
	}
	c.progress(int64(len(p)))
	return c.file.Write(p)
}

// Close closes the file.
func (c *counted) Close() error { return c.file.Close() }

// List gives everything inside.
func List(name string) (list []Item, err error) {
	err = Walk(name, func(i Item) (io.WriteCloser, error) {
		list = append(list, i)
		return nil, nil
	})
	return list, err
}
