// This file asks for rights to log on, which the security policy keeps.

package live

import (
	"slices"
	"strings"
	"unsafe"

	"golang.org/x/sys/windows"
)

// The local security authority keeps the rights to log on. Source: [MS-LSAD]
// and the OS's documentation of the Lsa functions.
var (
	lsaOpenPolicy    = advapi32.NewProc("LsaOpenPolicy")
	lsaClose         = advapi32.NewProc("LsaClose")
	lsaFreeMemory    = advapi32.NewProc("LsaFreeMemory")
	lsaEnumerate     = advapi32.NewProc("LsaEnumerateAccountRights")
	lsaAdd           = advapi32.NewProc("LsaAddAccountRights")
	lsaRemove        = advapi32.NewProc("LsaRemoveAccountRights")
	lsaNtStatusToWin = advapi32.NewProc("LsaNtStatusToWinError")
)

// Rights to the OS's policy object. Source: ntlsa.h.
const (
	policyLookupNames   = 0x800
	policyCreateAccount = 0x10
	policyView          = 0x1
	objectNameNotFound  = 0xC0000034 // STATUS_OBJECT_NAME_NOT_FOUND
)

type lsaAttributes struct {
	length     uint32                   // of this structure
	root       windows.Handle           // not used
	name       *windows.NTUnicodeString // not used
	attributes uint32                   // not used
	security   uintptr                  // not used
	quality    uintptr                  // not used
}

// lsaError turns a status of the security policy's calls into a system error.
func lsaError(status uintptr, what string) error {
	if status == 0 {
		return nil
	}
	code, _, _ := lsaNtStatusToWin.Call(status)
	return told(windows.Errno(code), "%s", what)
}

// withPolicy opens the machine's security policy for one piece of work.
func withPolicy(access uint32, do func(policy uintptr) error) error {
	a := lsaAttributes{length: uint32(unsafe.Sizeof(lsaAttributes{}))}
	var policy uintptr
	if st, _, _ := lsaOpenPolicy.Call(0, uintptr(unsafe.Pointer(&a)), uintptr(access), uintptr(unsafe.Pointer(&policy))); st != 0 {
		return lsaError(st, "the security policy")
	}
	defer lsaClose.Call(policy)
	return do(policy)
}

// sid looks an account's security ID up, in the form that the OS's calls take.
func (m *Machine) sid(account string) (*windows.SID, error) {
	a, err := m.Account(account)
	if err != nil {
		return nil, err
	}
	return windows.StringToSid(string(a.SID))
}

// LogonRights are the rights that an account was given itself.
func (m *Machine) LogonRights(account string) (list []string, err error) {
	sid, err := m.sid(account)
	if err != nil {
		return nil, err
	}
	err = withPolicy(policyLookupNames|policyView, func(policy uintptr) error {
		var first *windows.NTUnicodeString
		var n uint32
		st, _, _ := lsaEnumerate.Call(policy, uintptr(unsafe.Pointer(sid)), uintptr(unsafe.Pointer(&first)), uintptr(unsafe.Pointer(&n)))
		if uint32(st) == objectNameNotFound {
			return nil
		}
		if st != 0 {
			return lsaError(st, "the rights of "+account)
		}
		defer lsaFreeMemory.Call(uintptr(unsafe.Pointer(first)))
		for _, r := range unsafe.Slice(first, n) {
			if name := r.String(); strings.HasSuffix(name, "LogonRight") {
				list = append(list, name)
			}
		}
		return nil
	})
	slices.Sort(list)
	return list, err
}

// SetLogonRight gives an account a right, or takes it.
func (m *Machine) SetLogonRight(account, right string, held bool) error {
	sid, err := m.sid(account)
	if err != nil {
		return err
	}
	name, err := windows.NewNTUnicodeString(right)
	if err != nil {
		return err
	}
	return withPolicy(policyLookupNames|policyCreateAccount, func(policy uintptr) error {
		var st uintptr
		if held {
			st, _, _ = lsaAdd.Call(policy, uintptr(unsafe.Pointer(sid)), uintptr(unsafe.Pointer(name)), 1)
		} else {
			st, _, _ = lsaRemove.Call(policy, uintptr(unsafe.Pointer(sid)), 0, uintptr(unsafe.Pointer(name)), 1)
		}
		return lsaError(st, "the right "+right+" of "+account)
	})
}

// UserNames lists those who have a profile.
func (m *Machine) UserNames() (names []string, err error) {
	sids, err := m.Subkeys(strings.TrimSuffix(profileList, `\`))
	for _, s := range sids {
		if !strings.HasPrefix(s, "S-1-5-21-") {
			continue
		}
		if a, err := m.Account(s); err == nil {
			names = append(names, a.Name)
		}
	}
	return names, err
}

// withPrivileges switches privileges on that an elevated token has, for as long
// as do takes; a token without them goes on without.
func withPrivileges(names []string, do func() error) error {
	var token windows.Token
	if err := windows.OpenProcessToken(windows.CurrentProcess(), windows.TOKEN_ADJUST_PRIVILEGES|windows.TOKEN_QUERY, &token); err != nil {
		return do()
	}
	defer token.Close()
	for _, n := range names {
		p := windows.Tokenprivileges{PrivilegeCount: 1}
		name, err := windows.UTF16PtrFromString(n)
		if err != nil || windows.LookupPrivilegeValue(nil, name, &p.Privileges[0].Luid) != nil {
			continue
		}
		p.Privileges[0].Attributes = windows.SE_PRIVILEGE_ENABLED
		var was windows.Tokenprivileges
		var size uint32
		if windows.AdjustTokenPrivileges(token, false, &p, uint32(unsafe.Sizeof(was)), &was, &size) == nil && was.PrivilegeCount == 1 {
			defer windows.AdjustTokenPrivileges(token, false, &was, 0, nil, nil)
		}
	}
	return do()
}

// ownerPrivileges let an administrator set any owner and reach any object.
var ownerPrivileges = []string{"SeTakeOwnershipPrivilege", "SeRestorePrivilege"}
