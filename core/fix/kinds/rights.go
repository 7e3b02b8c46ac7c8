// This file says who may take a step, before it is tried and half done.

package kinds

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/guard"
	"hollowkey/core/machine/sddl"
)

// ErrNoRight says that whoever calls may not make a change.
var ErrNoRight = errors.New("not possible")

// needsElevation are the kinds of facts that only an administrator changes,
// whatever the access lists say.
var needsElevation = []string{"right", "boot", "entry", "service", "task", "ran"}

// Allowed says why whoever calls may not make a change; nil where they may, or
// where that is not known. It looks at elevation and at the access lists on the
// way.
func (s Step) Allowed(m machine.Machine) error {
	f := m.Facts()
	// Where it is not known who calls, the OS itself will say no.
	if !f.Elevated && f.Unknown["elevated"] != "" {
		return nil
	}
	who, err := m.Account(m.SignedIn())
	if err != nil { // the machine does not tell who calls
		return nil
	}
	c := caller{m: m, name: who.Name, elevated: f.Elevated, sids: callers(who, f.Elevated)}
	tag := s.kind().tag
	switch {
	case !f.Elevated && (slices.Contains(needsElevation, tag) || s.Kind == "sign-out"):
		return c.refused(s.Target, "it needs an administrator")
	case tag == "security" && f.Elevated: // an administrator takes ownership
		return nil
	case tag == "security" && isKey(s):
		return c.key(s.Target, sddl.WriteDAC)
	case tag == "security":
		return c.file(s.Target, sddl.WriteDAC)
	case tag == "registry", tag == "keys":
		return c.key(s.onKey(), sddl.KeyWrite&^sddl.ReadControl)
	}
	for _, p := range s.paths() {
		want := writeData
		if p.act == guard.Move {
			want = sddl.Delete
		}
		if err := c.file(p.path, want); err != nil {
			return err
		}
	}
	return nil
}

// onKey is the key that a step on the registry changes; empty for one of
// several.
func (s Step) onKey() string {
	if key := s.Args["key"]; key != "" {
		return key
	}
	if strings.HasPrefix(strings.ToUpper(s.Target), "HK") {
		return s.Target
	}
	return ""
}

// A caller is who would make a change.
type caller struct {
	m        machine.Machine
	name     string
	elevated bool
	sids     []sddl.SID
}

// callers are the security IDs that count for somebody who calls: without
// elevation those of an administrator do not.
func callers(who machine.Account, elevated bool) []sddl.SID {
	list := append(who.SIDs(), sddl.Everyone, sddl.AuthenticatedUsers, sddl.Users, sddl.Interactive)
	if elevated {
		return append(list, sddl.Administrators)
	}
	return slices.DeleteFunc(list, func(s sddl.SID) bool { return s == sddl.Administrators })
}

// refused is the error where the caller has no right to a change. The hint
// tells the one way out that there is: another prompt, a right given first, or,
// on a twin, another capture.
func (c caller) refused(target, why string) error {
	hint := "run it again from an elevated prompt (Run as administrator)"
	offline, ok := c.m.(interface{ Offline() bool })
	switch {
	case c.elevated:
		hint = "give the right first: hollowkey fix --step grant --help"
	case ok && offline.Offline():
		hint = "the machine's snapshot says that its prompt was not elevated; capture it from an elevated one (Run as administrator)"
	}
	return fmt.Errorf("%w: %s cannot change %s: %s\nhint: %s", ErrNoRight, c.name, target, why, hint)
}

// key asks for rights on a key, or on the nearest one above it that is there.
func (c caller) key(key string, want sddl.Mask) error {
	if key == "" || strings.HasPrefix(strings.ToUpper(key), "HKCU") {
		return nil
	}
	for at := key; at != ""; {
		there, err := c.m.KeyExists(at)
		if err != nil {
			return nil
		}
		if there {
			s, err := c.m.KeySecurity(at)
			return c.has(at, s, err, sddl.Key, want)
		}
		up := strings.LastIndexByte(at, '\\')
		at = at[:max(up, 0)]
	}
	return nil
}

// file asks for rights on a file or folder, or on the nearest folder above it
// that is there. Who may delete what is in a folder need not have the right on
// it.
func (c caller) file(path string, want sddl.Mask) error {
	drive, names, err := machine.SplitPath(path)
	if err != nil {
		return nil
	}
	// What is not there yet is made in the nearest folder above that is; its
	// list decides.
	for n := len(names); n > 0; n-- {
		at := drive + `:\` + strings.Join(names[:n], `\`)
		info, err := c.m.Stat(at)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			return nil
		}
		kind := sddl.File
		if info.Folder {
			kind = sddl.Folder
		}
		if n < len(names) && want == sddl.Delete { // what is to go is not there
			return nil
		}
		s, err := c.m.FileSecurity(at)
		denied := c.has(at, s, err, kind, want)
		// A file may go by its own list or by its folder's.
		if denied != nil && want == sddl.Delete {
			above := drive + `:\` + strings.Join(names[:n-1], `\`)
			if s, err := c.m.FileSecurity(above); err == nil && c.has(above, s, nil, sddl.Folder, deleteChild) == nil {
				return nil
			}
		}
		return denied
	}
	return nil
}

// Rights on files: to write, or in a folder to make files, and to delete what
// is in a folder. Source: [MS-SMB2] 2.2.13.1.
const (
	writeData   sddl.Mask = 0x2
	deleteChild sddl.Mask = 0x40
)

// has asks an access list; one that cannot be read says nothing.
func (c caller) has(what string, s machine.Security, err error, kind sddl.Kind, want sddl.Mask) error {
	if errors.Is(err, fs.ErrPermission) {
		return c.refused(what, "access to it is denied")
	}
	if err != nil {
		return nil
	}
	d, err := sddl.Parse(s.SDDL)
	if err != nil || d.Effective(kind, c.sids)&want == want {
		return nil
	}
	return c.refused(what, "its access list does not let "+c.name+" do that")
}
