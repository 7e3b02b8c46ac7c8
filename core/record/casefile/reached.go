// This file says how a call names the case's machine from here.

package casefile

import (
	"os"
	"path/filepath"
	"runtime"
	"strings"

	"hollowkey/core/machine/twin"
)

// Reached is the case's machine as a call can name it from here: [Live], where
// the case was opened on this computer, or the folder of a twin of that name,
// where it was or beside the case. Empty where none is found. A case may be a
// stranger's, so no other machine is asked, and none that has another name.
func (c *Case) Reached() string {
	if c.Machine == "" || !filepath.IsLocal(c.Machine) {
		return ""
	}
	if c.Place == Live {
		if name, err := os.Hostname(); err == nil && runtime.GOOS == "windows" && strings.EqualFold(name, c.Machine) {
			return Live
		}
		return ""
	}
	for _, at := range []string{c.Place, filepath.Join(filepath.Dir(c.Dir), c.Machine)} {
		if at == "" || strings.HasPrefix(filepath.ToSlash(at), "//") { // on another machine, which would be told the person's name
			continue
		}
		t, err := twin.Open(at)
		if err != nil {
			continue
		}
		name := t.Name()
		if t.Close(); name == c.Machine {
			return at
		}
	}
	return ""
}
