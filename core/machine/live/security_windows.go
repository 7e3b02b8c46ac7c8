// This file reads and sets owners and access lists.

package live

import (
	"strings"

	"golang.org/x/sys/windows"

	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
)

// securityOf writes a descriptor as text. It is the object's own when an entry
// of its list does not come from above, or when it takes none from there.
func securityOf(d *windows.SECURITY_DESCRIPTOR) machine.Security {
	s := machine.Security{SDDL: d.String()}
	p, err := sddl.Parse(s.SDDL)
	if err != nil || p.DACL == nil {
		s.Own = true
		return s
	}
	s.Own = strings.Contains(p.DACL.Flags, "P")
	for _, e := range p.DACL.Entries {
		s.Own = s.Own || e.Flags&sddl.Inherited == 0
	}
	return s
}

// A change is what is to be set of a descriptor.
type change struct {
	info  windows.SECURITY_INFORMATION // which parts are to be set
	owner *windows.SID                 // nil: stays
	dacl  *windows.ACL                 // nil: everybody may do everything
}

// descriptor works out what must be set to come from one state to another. The
// owner is set only when it differs, as that takes a privilege.
func descriptor(before, to machine.Security) (change, error) {
	text := to.SDDL
	if !to.Own {
		text = "D:" // an empty list of its own: all comes from above
	}
	d, err := windows.SecurityDescriptorFromString(text)
	if err != nil {
		return change{}, told(err, "the access list %s", text)
	}
	c := change{info: windows.DACL_SECURITY_INFORMATION}
	if c.dacl, _, err = d.DACL(); err != nil {
		return change{}, told(err, "the access list %s", text)
	}
	control, _, err := d.Control()
	if err != nil {
		return change{}, err
	}
	// Said in either direction: left out, the OS would keep what it has.
	if control&windows.SE_DACL_PROTECTED != 0 {
		c.info |= windows.PROTECTED_DACL_SECURITY_INFORMATION
	} else {
		c.info |= windows.UNPROTECTED_DACL_SECURITY_INFORMATION
	}
	old, err := sddl.Parse(before.SDDL)
	if err != nil {
		return c, nil
	}
	if now, err := sddl.Parse(to.SDDL); err == nil && now.Owner != "" && now.Owner != old.Owner {
		if c.owner, err = windows.StringToSid(string(now.Owner)); err != nil {
			return c, told(err, "the owner %s", now.Owner)
		}
		c.info |= windows.OWNER_SECURITY_INFORMATION
	}
	return c, nil
}
