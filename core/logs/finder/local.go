// This file is this computer's disk, as the finder asks it.

package finder

import (
	"io"
	"os"
	"path/filepath"
	"runtime"
)

// Local is the disk of the computer that the program runs on.
type Local struct{}

// Known says whether the known places are those of this computer's OS.
func (Local) Known() bool { return runtime.GOOS == "windows" }

// ReadDir lists a folder.
func (Local) ReadDir(p string) ([]File, error) {
	entries, err := os.ReadDir(p)
	var out []File
	for _, e := range entries {
		if info, err := e.Info(); err == nil && (e.IsDir() || e.Type().IsRegular()) {
			out = append(out, File{Path: filepath.Join(p, e.Name()), Folder: e.IsDir(), Size: info.Size(), Time: info.ModTime()})
		}
	}
	return out, err
}

// Open opens a file.
func (Local) Open(p string) (io.ReadCloser, error) { return os.Open(p) }
