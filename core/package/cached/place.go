// This file puts a found file into the engine's cache.

package cached

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
)

// cacheFolder is where the engine keeps its copies.
const cacheFolder = `C:\Windows\Installer\`

// Steps put the very file of an entry, which was found, into the cache. A file
// that is a good package of something else is never written over: then, and
// where the registration names no file, the copy gets a name of its own, and
// the registration is corrected.
func (e Entry) Steps(m Machine, all []Entry, src Source) ([]step.Model, error) {
	out := e.File
	corrected := out == "" || e.State == Wrong || e.shared(all)
	if corrected {
		var err error
		if out, err = freeName(m, e, src); err != nil {
			return nil, err
		}
	}
	steps := []step.Model{step.New("place", "out", out, "from", src.Path, "inside", src.Inside, "sha256", src.Hash)}
	if corrected {
		steps = append(steps, step.New("registry", "key", e.Key(), "name", "LocalPackage", "type", "string", "value", out))
	}
	return steps, nil
}

// shared says whether the registration of something else names the same file.
func (e Entry) shared(all []Entry) bool {
	for _, o := range all {
		if strings.EqualFold(o.File, e.File) && (!strings.EqualFold(o.Code, e.Code) || o.User != e.User) {
			return true
		}
	}
	return false
}

// Key is where the registration of an entry names its cached file.
func (e Entry) Key() string {
	packed := installdb.PackCode(e.Code)
	if e.Kind == Patch {
		return userData + `\` + e.User + `\Patches\` + packed
	}
	return userData + `\` + e.User + `\Products\` + packed + `\InstallProperties`
}

// freeName is a name in the cache that nothing has, as the engine makes them: a
// few digits in hex.
func freeName(m Machine, e Entry, src Source) (string, error) {
	ext := ".msi"
	if e.Kind == Patch {
		ext = ".msp"
	}
	const digits = 6 // as the engine names its copies: few hexadecimal digits
	for at := 0; at+digits <= len(src.Hash); at++ {
		name := cacheFolder + src.Hash[at:at+digits] + ext
		if _, err := m.Stat(name); errors.Is(err, fs.ErrNotExist) {
			return name, nil
		}
	}
	return "", fmt.Errorf("no name is free for the package of %s in %s", e.Name, cacheFolder)
}
