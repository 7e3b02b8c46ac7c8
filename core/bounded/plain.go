package bounded

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
)

// Plain opens a file of a folder that may come from a stranger: one that is a
// link or a device is refused, and one that is made was not there a moment
// before.
func Plain(root *os.Root, name string, how int, mode fs.FileMode) (*os.File, error) {
	info, err := root.Lstat(name)
	switch {
	case err == nil && !info.Mode().IsRegular():
		return nil, fmt.Errorf("%s is a link or no plain file", filepath.Join(root.Name(), name))
	case err != nil && (!errors.Is(err, fs.ErrNotExist) || how&os.O_CREATE == 0):
		return nil, err
	case err != nil: // where there was none, there must be none still
		how |= os.O_EXCL
	}
	return root.OpenFile(name, how, mode)
}
