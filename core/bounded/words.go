package bounded

import (
	"errors"
	"io/fs"
	"os"
	"strings"
)

// Words is an error in words without names of our language: what, where, why.
func Words(err error) string {
	text := err.Error()
	var path *fs.PathError
	if errors.As(err, &path) {
		text = strings.ReplaceAll(text, path.Error(), reason(path.Path, path.Err))
	}
	var link *os.LinkError
	if errors.As(err, &link) {
		text = strings.ReplaceAll(text, link.Error(), reason(link.New, link.Err))
	}
	return text
}

// reason says why a file could not be used.
func reason(name string, err error) string {
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return name + " is not there"
	case errors.Is(err, fs.ErrPermission):
		return "access to " + name + " is denied"
	case errors.Is(err, fs.ErrExist):
		return name + " is there already"
	}
	return name + ": " + err.Error()
}
