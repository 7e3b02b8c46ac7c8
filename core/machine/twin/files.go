// This file is a twin's disk: real files below one folder, and lists of those
// that were not taken along.

package twin

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
)

// clean is [machine.SplitPath].
func clean(p string) (drive string, names []string, err error) { return machine.SplitPath(p) }

// windowsPath writes a path in the one form that is compared here.
func windowsPath(drive string, names []string) string {
	return drive + `:\` + strings.Join(names, `\`)
}

// Stat looks into disk/, and takes what access.yaml names for there.
func (t *Twin) Stat(p string) (machine.FileInfo, error) {
	drive, names, err := clean(p)
	if err != nil {
		return machine.FileInfo{}, err
	}
	whole := windowsPath(drive, names)
	info := machine.FileInfo{Path: whole}
	if _, fi, err := t.walk(drive, names); err == nil {
		info.Folder, info.Size, info.Time = fi.IsDir(), fi.Size(), fi.ModTime()
		return info, nil
	}
	if s, ok := t.stubs[strings.ToLower(whole)]; ok {
		info.Size = s.Size
		return info, nil
	}
	for _, e := range t.access.pairs() {
		listed := strings.ToLower(e.key.Value)
		if listed == strings.ToLower(whole) || strings.HasPrefix(listed, strings.ToLower(strings.TrimRight(whole, `\`))+`\`) {
			info.Folder = true
			return info, nil
		}
	}
	return info, fmt.Errorf("%s on %s: %w", whole, t.Name(), fs.ErrNotExist)
}

// ReadDir lists a folder below disk/. What was only listed is among it, with
// its size.
func (t *Twin) ReadDir(p string) ([]machine.FileInfo, error) {
	drive, names, err := clean(p)
	if err != nil {
		return nil, err
	}
	// Files that were listed and not taken along are there as well.
	out := t.stubsIn(windowsPath(drive, names))
	real, fi, err := t.walk(drive, names)
	if err != nil || !fi.IsDir() {
		if out != nil {
			return out, nil
		}
		return nil, fmt.Errorf("%s on %s: %w", p, t.Name(), fs.ErrNotExist)
	}
	entries, err := fs.ReadDir(t.root.FS(), real)
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		info, err := e.Info()
		if err != nil || !e.IsDir() && !e.Type().IsRegular() {
			continue
		}
		out = append(out, machine.FileInfo{Path: windowsPath(drive, append(names[:len(names):len(names)], e.Name())), Folder: e.IsDir(),
			Size: info.Size(), Time: info.ModTime()})
	}
	return out, nil
}

// stubsIn lists the files of disk.yaml that lie in a folder, by name.
func (t *Twin) stubsIn(folder string) (list []machine.FileInfo) {
	for _, s := range t.stubsBelow[strings.ToLower(strings.TrimRight(folder, `\`))] {
		list = append(list, machine.FileInfo{Path: s.path, Size: s.Size})
	}
	slices.SortFunc(list, func(a, b machine.FileInfo) int { return strings.Compare(a.Path, b.Path) })
	return list
}

// Open opens a file below disk/. Of a file that was only listed the contents
// are not there: [machine.ErrUnsupported].
func (t *Twin) Open(p string) (io.ReadCloser, error) {
	drive, names, err := clean(p)
	if err != nil {
		return nil, err
	}
	real, fi, err := t.walk(drive, names)
	if err != nil || fi.IsDir() {
		if _, ok := t.stubs[strings.ToLower(windowsPath(drive, names))]; ok && err != nil {
			return nil, fmt.Errorf("%s on %s: its contents were not taken: %w", p, t.Name(), machine.ErrUnsupported)
		}
		return nil, fmt.Errorf("%s on %s: %w", p, t.Name(), fs.ErrNotExist)
	}
	return t.root.Open(real)
}

// WriteFile writes below disk/ through a new file beside the old one. Nothing
// outside of that folder can be written, whatever links lead there.
func (t *Twin) WriteFile(p string, write func(*os.File) error) error {
	at, err := t.place(p)
	if err != nil {
		return err
	}
	if err := t.free(p); err != nil {
		return err
	}
	// Beside it first, then in its place: a reader never sees half a file.
	temp := at + newFile
	f, err := t.root.Create(temp)
	if err != nil {
		return err
	}
	if was, there := t.root.Stat(at); there == nil { // who may read it stays as it was
		err = f.Chmod(was.Mode().Perm())
	}
	err = errors.Join(err, write(f), f.Sync(), f.Close())
	if err == nil {
		err = t.root.Rename(temp, at)
	}
	if err != nil {
		t.root.Remove(temp)
		return err
	}
	t.came(at)
	return nil
}

// Traits are the times and the mode of what lies below disk/.
func (t *Twin) Traits(p string) (machine.Traits, error) {
	drive, names, err := clean(p)
	if err != nil {
		return machine.Traits{}, err
	}
	_, fi, err := t.walk(drive, names)
	if err != nil {
		return machine.Traits{}, fmt.Errorf("%s on %s: %w", p, t.Name(), err)
	}
	return machine.Traits{Modified: fi.ModTime().UTC(), Mode: uint32(fi.Mode().Perm())}, nil
}

// SetTraits sets them.
func (t *Twin) SetTraits(p string, to machine.Traits) error {
	drive, names, err := clean(p)
	if err != nil {
		return err
	}
	at, _, err := t.walk(drive, names)
	if err != nil {
		return fmt.Errorf("%s on %s: %w", p, t.Name(), err)
	}
	if to.Mode != 0 {
		err = t.root.Chmod(at, fs.FileMode(to.Mode).Perm())
	}
	return errors.Join(err, t.root.Chtimes(at, to.Modified, to.Modified))
}

// RemoveFile deletes below disk/.
func (t *Twin) RemoveFile(p string) error {
	drive, names, err := clean(p)
	if err != nil {
		return err
	}
	if len(names) == 0 {
		return fmt.Errorf("%s is a drive, not a file", p)
	}
	real, _, err := t.walk(drive, names)
	if err != nil {
		return fmt.Errorf("%s on %s: %w", p, t.Name(), err)
	}
	if err := t.free(p); err != nil {
		return err
	}
	if err := t.root.Remove(real); err != nil {
		return err
	}
	t.went(real)
	return nil
}

// errSharingViolation is what the OS answers; a twin answers alike. Source:
// winerror.h.
const errSharingViolation = 32

// free says no when a process keeps the file open.
func (t *Twin) free(p string) error {
	drive, names, err := clean(p)
	if err == nil && t.held(windowsPath(drive, names)) {
		return machine.SystemError{Code: errSharingViolation, What: p + " is open in another program"}
	}
	return err
}

// MakeFolder makes a folder below disk/.
func (t *Twin) MakeFolder(p string) error {
	at, err := t.place(p)
	if err != nil {
		return err
	}
	if err := t.root.Mkdir(at, 0o755); err != nil {
		return err
	}
	t.came(at)
	return nil
}

// place finds where a file is or would be: its folder must be there.
func (t *Twin) place(p string) (string, error) {
	drive, names, err := clean(p)
	if err != nil {
		return "", err
	}
	if len(names) == 0 {
		return "", fmt.Errorf("%s is a drive, not a file", p)
	}
	if real, _, err := t.walk(drive, names); err == nil {
		return real, nil
	}
	folder, fi, err := t.walk(drive, names[:len(names)-1])
	if err != nil || !fi.IsDir() {
		return "", fmt.Errorf("the folder of %s on %s: %w", p, t.Name(), fs.ErrNotExist)
	}
	return path.Join(folder, names[len(names)-1]), nil
}

// FileSecurity is the entry of access.yaml for the path, or what the nearest
// entry above it passes down.
func (t *Twin) FileSecurity(p string) (machine.Security, error) {
	info, err := t.Stat(p)
	if err != nil {
		return machine.Security{}, err
	}
	kind := sddl.Folder
	if !info.Folder {
		kind = sddl.File
	}
	return t.security(info.Path, kind, sddl.Folder)
}

// security is the object's own entry, or what the nearest entry above passes
// down level by level; a twin lists only objects that have a list of their own.
func (t *Twin) security(whole string, kind, above sddl.Kind) (machine.Security, error) {
	if n := find(t.access.doc, whole); n != nil {
		return machine.Security{SDDL: n.Value, Own: true}, nil
	}
	// What is not listed takes its list from the nearest folder above that is,
	// handed down level by level.
	levels := 0
	for up := parent(whole); ; up = parent(up) {
		levels++
		n := find(t.access.doc, up)
		if n == nil && strings.HasSuffix(up, ":") {
			n = find(t.access.doc, up+`\`)
		}
		if n == nil {
			if up == parent(up) {
				return machine.Security{}, fmt.Errorf("access.yaml of %s names neither %s nor anything above it", t.Name(), whole)
			}
			continue
		}
		d, err := sddl.Parse(n.Value)
		if err != nil {
			return machine.Security{}, err
		}
		for range levels - 1 {
			d = d.Child(above)
		}
		return machine.Security{SDDL: d.Child(kind).String()}, nil
	}
}

// parent is the path one level up; of the outermost level itself.
func parent(p string) string {
	if i := strings.LastIndexByte(strings.TrimRight(p, `\`), '\\'); i > 0 {
		return p[:i]
	}
	return strings.TrimRight(p, `\`)
}

// SetFileSecurity writes the entry of access.yaml, or takes it out.
func (t *Twin) SetFileSecurity(p string, s machine.Security) error {
	info, err := t.Stat(p)
	if err != nil {
		return err
	}
	return t.setSecurity(info.Path, s)
}

// setSecurity writes, changes or takes out the line of access.yaml.
func (t *Twin) setSecurity(whole string, s machine.Security) error {
	if s.Own {
		if _, err := sddl.Parse(s.SDDL); err != nil {
			return err
		}
	}
	n := find(t.access.doc, whole)
	var err error
	switch {
	case !s.Own && n == nil:
		return nil // all comes from above already
	case !s.Own:
		err = t.access.remove(whole)
	case n != nil:
		err = t.access.set(n, s.SDDL)
	default:
		err = t.access.add(whole, s.SDDL)
	}
	if err != nil {
		return err
	}
	return t.write(t.access.name, t.access.text)
}
