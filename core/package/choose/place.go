// This file is where setups lie: this computer, or a machine.

package choose

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"hollowkey/core/machine"
)

// A file is open for reading anywhere in it.
type file struct {
	io.ReaderAt
	io.Closer
	size int64
}

// A place is where setups lie: on this computer or on a machine.
type place struct {
	folder func(path string) (bool, error)
	list   func(folder string) ([]string, error) // paths of the files
	open   func(path string) (file, error)
	beside func(path, name string) string // a file of the same folder
}

// placeOf tells paths of a machine from those of this computer, as every
// command does: a drive letter or a share is the machine's.
func placeOf(path string, m machine.Machine) place {
	if _, _, bad := machine.SplitPath(path); bad == nil && m != nil {
		return onMachine(m)
	}
	return place{
		folder: func(p string) (bool, error) {
			info, err := os.Stat(p)
			return err == nil && info.IsDir(), err
		},
		list: func(folder string) (files []string, err error) {
			list, err := os.ReadDir(folder)
			for _, e := range list {
				if !e.IsDir() {
					files = append(files, filepath.Join(folder, e.Name()))
				}
			}
			return files, err
		},
		open: func(p string) (file, error) {
			f, err := os.Open(p)
			if err != nil {
				return file{}, err
			}
			info, err := f.Stat()
			if err != nil {
				f.Close()
				return file{}, err
			}
			return file{f, f, info.Size()}, nil
		},
		beside: func(p, name string) string { return filepath.Join(filepath.Dir(p), filepath.Base(name)) },
	}
}

// onMachine is a place that lies on a machine, live or a twin.
func onMachine(m machine.Machine) place {
	return place{
		folder: func(p string) (bool, error) {
			info, err := m.Stat(p)
			return info.Folder, err
		},
		list: func(folder string) (files []string, err error) {
			list, err := m.ReadDir(folder)
			for _, i := range list {
				if !i.Folder {
					files = append(files, i.Path)
				}
			}
			return files, err
		},
		open: func(p string) (file, error) {
			info, err := m.Stat(p)
			if err != nil {
				return file{}, err
			}
			f, err := m.Open(p)
			if err != nil {
				return file{}, err
			}
			at, ok := f.(io.ReaderAt)
			if !ok {
				f.Close()
				return file{}, fmt.Errorf("%s: %w", p, machine.ErrUnsupported)
			}
			return file{at, f, info.Size}, nil
		},
		beside: func(p, name string) string {
			return p[:strings.LastIndexByte(p, '\\')+1] + name[strings.LastIndexAny(name, `\/`)+1:]
		},
	}
}
