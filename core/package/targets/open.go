// Package targets says what a package touches on a machine: the folders and
// files of its tables, resolved for that machine.
package targets

import (
	"fmt"
	"io"

	"hollowkey/core/machine"
	"hollowkey/core/package/installdb"
)

// Open opens a package on a machine. The error wraps [machine.ErrUnsupported]
// where the machine cannot read at a place.
func Open(m machine.Files, path string) (*installdb.Database, io.Closer, error) {
	info, err := m.Stat(path)
	if err != nil {
		return nil, nil, err
	}
	f, err := m.Open(path)
	if err != nil {
		return nil, nil, err
	}
	at, ok := f.(io.ReaderAt)
	if !ok {
		f.Close()
		return nil, nil, fmt.Errorf("%s: %w", path, machine.ErrUnsupported)
	}
	db, err := installdb.Open(at, info.Size)
	if err != nil {
		f.Close()
		return nil, nil, fmt.Errorf("%s: %w", path, err)
	}
	return db, f, nil
}
