// This file reads and changes files. Each path is checked and followed to its
// end first.

package live

import (
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"
	"unsafe"

	"golang.org/x/sys/windows"

	"hollowkey/core/machine"
)

// path checks a path and writes it in one form.
func path(p string) (string, error) {
	drive, names, err := machine.SplitPath(p)
	if err != nil {
		return "", err
	}
	return drive + `:\` + strings.Join(names, `\`), nil
}

// info is what the OS told about a file, as all machines tell it.
func info(p string, fi os.FileInfo) machine.FileInfo {
	return machine.FileInfo{Path: p, Folder: fi.IsDir(), Size: fi.Size(), Time: fi.ModTime()}
}

// Stat looks at a file or folder. Errors wrap [fs.ErrNotExist] and
// [fs.ErrPermission].
func (m *Machine) Stat(p string) (machine.FileInfo, error) {
	at, err := path(p)
	if err != nil {
		return machine.FileInfo{}, err
	}
	fi, err := os.Stat(at)
	if err != nil {
		return machine.FileInfo{}, err
	}
	return info(at, fi), nil
}

// ReadDir lists a folder. What cannot be looked at is left out.
func (m *Machine) ReadDir(p string) ([]machine.FileInfo, error) {
	at, err := path(p)
	if err != nil {
		return nil, err
	}
	entries, err := os.ReadDir(at)
	if err != nil {
		return nil, err
	}
	var list []machine.FileInfo
	for _, e := range entries {
		if fi, err := e.Info(); err == nil && (e.IsDir() || e.Type().IsRegular()) {
			list = append(list, info(strings.TrimRight(at, `\`)+`\`+e.Name(), fi))
		}
	}
	return list, nil
}

// Open opens a file for reading; others may go on writing and deleting it.
func (m *Machine) Open(p string) (io.ReadCloser, error) {
	at, err := path(p)
	if err != nil {
		return nil, err
	}
	return os.Open(at)
}

// WriteFile writes through a new file beside the old one. Where writing fails
// the old file is as it was, and the new one is gone.
func (m *Machine) WriteFile(p string, write func(*os.File) error) error {
	at, err := path(p)
	if err != nil {
		return err
	}
	f, err := os.CreateTemp(filepath.Dir(at), begun)
	if err != nil {
		return told(err, "write %s", p)
	}
	err = errors.Join(write(f), f.Sync(), f.Close())
	if err == nil {
		err = swap(f.Name(), at)
	}
	if err != nil {
		os.Remove(f.Name())
	}
	return told(err, "write %s", p)
}

// swap puts a new file in the place of an old one, which hands on its owner,
// access list, attributes and streams; or where none was.
func swap(fresh, at string) error {
	if _, err := os.Lstat(at); err != nil {
		return os.Rename(fresh, at)
	}
	from, err := windows.UTF16PtrFromString(fresh)
	if err != nil {
		return err
	}
	to, err := windows.UTF16PtrFromString(at)
	if err != nil {
		return err
	}
	if ok, _, err := replaceFile.Call(uintptr(unsafe.Pointer(to)), uintptr(unsafe.Pointer(from)), 0, 0, 0, 0); ok == 0 {
		return err
	}
	return nil
}

// replaceFile is documented with the OS's file functions.
var replaceFile = windows.NewLazySystemDLL("kernel32.dll").NewProc("ReplaceFileW")

// Traits are the times and attributes of a file or folder.
func (m *Machine) Traits(p string) (t machine.Traits, err error) {
	at, err := path(p)
	if err != nil {
		return t, err
	}
	err = withHandle(at, windows.FILE_READ_ATTRIBUTES, func(h windows.Handle) error {
		var i windows.ByHandleFileInformation
		if err := windows.GetFileInformationByHandle(h, &i); err != nil {
			return err
		}
		t.Modified, t.Created = time.Unix(0, i.LastWriteTime.Nanoseconds()).UTC(), time.Unix(0, i.CreationTime.Nanoseconds()).UTC()
		t.Attributes = i.FileAttributes
		return nil
	})
	return t, told(err, "the times of %s", p)
}

// settable are the attributes that a program may set; the others are the file
// system's.
const settable = windows.FILE_ATTRIBUTE_READONLY | windows.FILE_ATTRIBUTE_HIDDEN | windows.FILE_ATTRIBUTE_SYSTEM |
	windows.FILE_ATTRIBUTE_ARCHIVE | windows.FILE_ATTRIBUTE_TEMPORARY | windows.FILE_ATTRIBUTE_OFFLINE |
	windows.FILE_ATTRIBUTE_NOT_CONTENT_INDEXED

// SetTraits sets them, the times first: a read-only file takes none.
func (m *Machine) SetTraits(p string, t machine.Traits) error {
	at, err := path(p)
	if err != nil {
		return err
	}
	err = withHandle(at, windows.FILE_WRITE_ATTRIBUTES, func(h windows.Handle) error {
		modified := windows.NsecToFiletime(t.Modified.UnixNano())
		created := &windows.Filetime{}
		if *created = windows.NsecToFiletime(t.Created.UnixNano()); t.Created.IsZero() {
			created = nil
		}
		return windows.SetFileTime(h, created, nil, &modified)
	})
	if name, bad := windows.UTF16PtrFromString(at); err == nil && bad == nil && t.Attributes&settable != 0 {
		err = windows.SetFileAttributes(name, t.Attributes&settable)
	}
	return told(err, "set the times of %s", p)
}

// withHandle opens a file or folder for one piece of work; others may go on
// using it.
func withHandle(at string, access uint32, do func(windows.Handle) error) error {
	name, err := windows.UTF16PtrFromString(at)
	if err != nil {
		return err
	}
	h, err := windows.CreateFile(name, access,
		windows.FILE_SHARE_READ|windows.FILE_SHARE_WRITE|windows.FILE_SHARE_DELETE, nil, windows.OPEN_EXISTING,
		windows.FILE_FLAG_BACKUP_SEMANTICS|windows.FILE_FLAG_OPEN_REPARSE_POINT, 0)
	if err != nil {
		return err
	}
	defer windows.CloseHandle(h)
	return do(h)
}

// RemoveFile deletes a file or an empty folder. A folder with something in it
// is an error, as is a file in use.
func (m *Machine) RemoveFile(p string) error {
	at, err := path(p)
	if err != nil {
		return err
	}
	if len(at) <= len(`C:\`) {
		return errors.New(at + " is a drive, not a file")
	}
	return told(os.Remove(at), "delete %s", p)
}

// MakeFolder makes a folder.
func (m *Machine) MakeFolder(p string) error {
	at, err := path(p)
	if err != nil {
		return err
	}
	return told(os.Mkdir(at, 0o755), "make %s", p)
}

// FileSecurity is the owner and access list of a file or folder.
func (m *Machine) FileSecurity(p string) (machine.Security, error) {
	at, err := path(p)
	if err != nil {
		return machine.Security{}, err
	}
	d, err := windows.GetNamedSecurityInfo(at, windows.SE_FILE_OBJECT, windows.OWNER_SECURITY_INFORMATION|windows.DACL_SECURITY_INFORMATION)
	if err != nil {
		return machine.Security{}, told(err, "the access list of %s", at)
	}
	return securityOf(d), nil
}

// SetFileSecurity sets owner and access list of a file or folder. It takes
// ownership where that is needed and the caller may, and fails where they may
// not.
func (m *Machine) SetFileSecurity(p string, s machine.Security) error {
	at, err := path(p)
	if err != nil {
		return err
	}
	before, err := m.FileSecurity(p)
	if err != nil {
		return err
	}
	set, err := descriptor(before, s)
	if err != nil {
		return err
	}
	return withPrivileges(ownerPrivileges, func() error {
		return told(windows.SetNamedSecurityInfo(at, windows.SE_FILE_OBJECT, set.info, set.owner, nil, set.dacl, nil),
			"set the access list of %s", at)
	})
}

// FinalPath asks the OS what a path leads to, by a handle: links and junctions
// are followed and short names written out. Of what is not there yet the folder
// above is asked.
func (m *Machine) FinalPath(p string) (string, error) {
	at, err := path(p)
	if err != nil {
		return "", err
	}
	rest := ""
	for {
		final, err := finalPath(at)
		if err == nil {
			return strings.TrimRight(final, `\`) + rest, nil
		}
		above := filepath.Dir(at)
		if !errors.Is(err, fs.ErrNotExist) || above == at {
			return "", told(err, "look where %s leads", p)
		}
		rest, at = `\`+filepath.Base(at)+rest, above
	}
}

// finalPath is where a path really leads, with all links followed, as the OS
// itself says it.
func finalPath(at string) (string, error) {
	name, err := windows.UTF16PtrFromString(at)
	if err != nil {
		return "", err
	}
	h, err := windows.CreateFile(name, 0,
		windows.FILE_SHARE_READ|windows.FILE_SHARE_WRITE|windows.FILE_SHARE_DELETE, nil, windows.OPEN_EXISTING,
		windows.FILE_FLAG_BACKUP_SEMANTICS, 0)
	if err != nil {
		return "", err
	}
	defer windows.CloseHandle(h)
	buf := make([]uint16, windows.MAX_LONG_PATH)
	n, err := windows.GetFinalPathNameByHandle(h, &buf[0], uint32(len(buf)), 0)
	if err != nil {
		return "", err
	}
	final := strings.TrimPrefix(windows.UTF16ToString(buf[:n]), `\\?\`)
	if strings.HasPrefix(final, `UNC\`) {
		return "", errors.New("the way leads to another machine")
	}
	return final, nil
}

// Tidy removes files that a run which was cut off had begun to write, beside a
// path and below it. Call it only while no other run changes the machine.
func (m *Machine) Tidy(p string) error {
	at, err := path(p)
	if err != nil { // a step on something else
		return nil
	}
	beside, err := filepath.Glob(filepath.Join(filepath.Dir(at), begun))
	err = errors.Join(err, filepath.WalkDir(at, func(name string, d fs.DirEntry, err error) error {
		if is, _ := filepath.Match(begun, filepath.Base(name)); err == nil && is && d.Type().IsRegular() {
			beside = append(beside, name)
		}
		return nil
	}))
	for _, name := range beside {
		err = errors.Join(err, os.Remove(name))
	}
	return told(err, "remove what an earlier run had begun to write beside %s", p)
}

// begun is what a file is called while it is written.
const begun = "hollowkey-*.new"
