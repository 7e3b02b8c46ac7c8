// This file asks for accounts and their groups.

package live

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"golang.org/x/sys/windows"

	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
)

// everybody are the groups that each user who is signed in is in.
var everybody = []sddl.SID{sddl.Everyone, sddl.AuthenticatedUsers, sddl.Interactive, sddl.Users}

// One key for each user who has signed in here, named by the identifier; it
// holds the profile's folder.
const profileList = `HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion\ProfileList\`

// Account finds an account by its name or security ID. The groups of the user
// who runs the program come from the token; of other users those are known that
// every user is in.
func (m *Machine) Account(name string) (machine.Account, error) {
	if sid, err := sddl.ParseSID(name); err == nil && sid.Name() != string(sid) {
		a := machine.Account{Name: sid.Name(), SID: sid, Groups: []sddl.SID{sddl.Everyone, sddl.AuthenticatedUsers}}
		if sid == sddl.System {
			a.Groups = append(a.Groups, sddl.Administrators)
		}
		return a, nil
	}
	var sid *windows.SID
	var err error
	if strings.HasPrefix(strings.ToUpper(name), "S-1-") {
		sid, err = windows.StringToSid(name)
	} else {
		sid, _, _, err = windows.LookupSID("", name)
	}
	if err != nil {
		return machine.Account{}, fmt.Errorf("the account %.60q is not known on %s: %w", name, m.name, fs.ErrNotExist)
	}
	a := machine.Account{Name: name, SID: sddl.SID(sid.String()), Groups: everybody}
	if account, _, _, err := sid.LookupAccount(""); err == nil {
		a.Name = account
	}
	// Of another user's groups the OS tells only when that user signs in; those
	// that everybody is in are certain.
	if groups, ok := tokenGroups(sid); ok {
		a.Groups = groups
	}
	if v, err := m.Value(profileList+sid.String(), "ProfileImagePath"); err == nil {
		a.Profile = v.Words()
	}
	return a, nil
}

// tokenGroups are the groups of the user who runs the program, when it is that
// one.
func tokenGroups(sid *windows.SID) (list []sddl.SID, ok bool) {
	token := windows.GetCurrentProcessToken()
	user, err := token.GetTokenUser()
	if err != nil || !user.User.Sid.Equals(sid) {
		return nil, false
	}
	groups, err := token.GetTokenGroups()
	if err != nil {
		return nil, false
	}
	for _, g := range groups.AllGroups() {
		if g.Attributes&windows.SE_GROUP_ENABLED != 0 {
			list = append(list, sddl.SID(g.Sid.String()))
		}
	}
	return list, true
}

// SignedIn is the user who runs the program.
func (m *Machine) SignedIn() string {
	user, err := windows.GetCurrentProcessToken().GetTokenUser()
	if err != nil {
		return ""
	}
	account, _, _, err := user.User.Sid.LookupAccount("")
	if err != nil {
		return user.User.Sid.String()
	}
	return account
}

// NameKnown says whether the OS itself resolves the name of an account or
// group: those of groups are in its language.
func (m *Machine) NameKnown(name string) (bool, error) {
	_, _, _, err := windows.LookupSID("", name)
	if errors.Is(err, windows.ERROR_NONE_MAPPED) {
		return false, nil
	}
	return err == nil, err
}
