// This file keeps the journal's folder for administrators alone.

package live

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"unsafe"

	"golang.org/x/sys/windows"

	"hollowkey/core/machine/sddl"
)

// homeAccess lets the OS and its administrators at the journal and nobody else;
// what is put there later gets the same, and nothing comes from above.
const homeAccess = "O:BAG:BAD:P(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)"

// Home is the folder in which this computer's journal lies. It need not be
// there yet. The error says when somebody else made it, or may write there: a
// journal that an ordinary user can write would let them choose what an
// administrator changes.
func Home() (string, error) {
	above, err := windows.KnownFolderPath(windows.FOLDERID_ProgramData, 0)
	if err != nil {
		return "", told(err, "the folder for programs' data")
	}
	at := filepath.Join(above, "Hollow Key")
	info, err := os.Lstat(at)
	if errors.Is(err, fs.ErrNotExist) {
		return at, nil
	}
	if err != nil {
		return "", told(err, "%s", at)
	}
	if !info.IsDir() {
		return "", fmt.Errorf("%s is a link or no folder\nhint: an administrator should look who made it, and remove it", at)
	}
	return at, ours(at)
}

// ours says whether only the OS and its administrators own a folder and may
// write in it.
func ours(at string) error {
	d, err := windows.GetNamedSecurityInfo(at, windows.SE_FILE_OBJECT, windows.OWNER_SECURITY_INFORMATION|windows.DACL_SECURITY_INFORMATION)
	if err != nil {
		return told(err, "the access list of %s", at)
	}
	s, err := sddl.Parse(d.String())
	if err != nil {
		return err
	}
	us := hosted()
	trusted := func(sid sddl.SID) bool {
		return sid == sddl.System || sid == sddl.Administrators || us != "" && sid == us
	}
	if !trusted(s.Owner) {
		return fmt.Errorf("%s belongs to %s, so what lies there is not trusted\n"+
			"hint: an administrator should look at it, and remove it", at, s.Owner.Name())
	}
	if s.DACL == nil {
		return fmt.Errorf("everybody may write in %s, so what lies there is not trusted\n"+
			"hint: an administrator should look at it, and remove it", at)
	}
	// What ordinary users can write must not tell this program what to undo.
	for _, e := range s.DACL.Entries {
		if e.Allows() && e.Mask&sddl.AnyWrite != 0 && !trusted(e.SID) {
			return fmt.Errorf("%s may write in %s, so what lies there is not trusted\n"+
				"hint: an administrator should look at it, and remove it", e.SID.Name(), at)
		}
	}
	return nil
}

// hosted is the account that owns all files where the OS's functions run on
// another OS: its owners cannot be set. Empty on Windows itself, which lacks
// the function.
func hosted() sddl.SID {
	if windows.NewLazySystemDLL("ntdll.dll").NewProc("wine_get_version").Find() != nil {
		return ""
	}
	u, err := windows.GetCurrentProcessToken().GetTokenUser()
	if err != nil {
		return ""
	}
	return sddl.SID(u.User.Sid.String())
}

// MakeHome makes the folder of [Home] where there is none, for administrators
// and the OS from its first moment on.
func MakeHome() error {
	at, err := Home()
	if err != nil {
		return err
	}
	d, err := windows.SecurityDescriptorFromString(homeAccess)
	if err != nil {
		return err
	}
	name, err := windows.UTF16PtrFromString(at)
	if err != nil {
		return err
	}
	sa := windows.SecurityAttributes{SecurityDescriptor: d}
	sa.Length = uint32(unsafe.Sizeof(sa))
	err = withPrivileges(ownerPrivileges, func() error { return windows.CreateDirectory(name, &sa) })
	if errors.Is(err, windows.ERROR_ALREADY_EXISTS) {
		err = nil
	}
	if err != nil {
		return told(err, "make %s", at)
	}
	return ours(at)
}
