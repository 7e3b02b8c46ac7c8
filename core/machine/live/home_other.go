//go:build !windows

// This file stands in elsewhere than on Windows.

package live

// Home is the folder in which this computer's journal lies; elsewhere than on
// Windows there is none.
func Home() (string, error) { return "", ErrNotWindows }

// MakeHome makes it.
func MakeHome() error { return ErrNotWindows }
