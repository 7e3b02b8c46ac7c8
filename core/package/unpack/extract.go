// This file writes items to a folder, never outside of it and never more than
// there is room for.

package unpack

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path"
)

// How much is written at most: archives can promise any amount. What a setup
// holds is packed to a fifth at best, but for empty files.
const (
	maxBytes = 64 << 30
	maxRatio = 50      // bytes that come out of one that is read
	always   = 1 << 30 // bytes that come out of however little
	spared   = 1 << 30 // bytes of the drive that stay free: the OS needs some
)

// ErrTooMuch says that more would be written than there is room for, or than
// such a file is known to hold.
var ErrTooMuch = errors.New("too much would be unpacked")

// budget is how many bytes may be written from a file into a folder.
func budget(name, dir string) (int64, error) {
	info, err := os.Stat(name)
	if err != nil {
		return 0, err
	}
	most := min(maxBytes, info.Size()*maxRatio+always)
	if free, known := freeBytes(dir); known {
		if free <= spared {
			return 0, fmt.Errorf("%w: only %d MB are free where %s lies\nhint: unpack into a folder on another drive", ErrTooMuch, free>>20, dir)
		}
		most = min(most, free-spared)
	}
	return most, nil
}

// Extract writes the items that want chooses below dir, which is made. Nothing
// that is there is overwritten, and no path leads out. progress hears of bytes
// as they are written.
func Extract(name, dir string, want func(Item) bool, progress func(n int64)) ([]Item, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, err
	}
	root, err := os.OpenRoot(dir)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	most, err := budget(name, dir)
	if err != nil {
		return nil, err
	}
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
		return &counted{f, &total, most, progress}, nil
	})
	return done, err
}

// counted is not embedding the file on purpose: a file's own ReadFrom would
// copy past the count.
type counted struct {
	file     *os.File    // that is written
	total    *int64      // of all files together, in bytes
	most     int64       // that they may be
	progress func(int64) // hears of each write
}

// Write counts what is written.
func (c *counted) Write(p []byte) (int, error) {
	if *c.total += int64(len(p)); *c.total > c.most {
		return 0, fmt.Errorf("%w: more than %d MB come out of it\n"+
			"hint: a damaged or hostile file promises any amount; name what you need with --only", ErrTooMuch, c.most>>20)
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
