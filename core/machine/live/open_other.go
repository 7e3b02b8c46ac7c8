//go:build !windows

// This file stands in elsewhere than on Windows.

package live

import "hollowkey/core/machine"

// Open gives the computer that the program runs on; elsewhere than on Windows
// it is [ErrNotWindows].
func Open() (machine.Machine, error) { return nil, ErrNotWindows }
