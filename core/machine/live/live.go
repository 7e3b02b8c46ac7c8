// Package live is the Windows computer that the program runs on, through the
// OS's documented calls. What the account may not read or change gives the
// error of the OS; the rest goes on.
package live

import "errors"

// ErrNotWindows says that there is no live machine here.
var ErrNotWindows = errors.New("--machine live works on Windows only\nhint: name a twin's folder")
