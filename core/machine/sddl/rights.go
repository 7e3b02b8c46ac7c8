// This file has access rights, and what generic ones mean for each kind of
// object.

package sddl

import (
	"fmt"
	"slices"
)

// A Mask is a set of access rights. Source: [MS-DTYP] 2.4.3.
type Mask uint32

// Generic and standard rights, and the sets that files and keys use.
const (
	GenericAll     Mask = 1 << 28
	GenericExecute Mask = 1 << 29
	GenericWrite   Mask = 1 << 30
	GenericRead    Mask = 1 << 31
	Delete         Mask = 1 << 16
	ReadControl    Mask = 1 << 17
	WriteDAC       Mask = 1 << 18
	WriteOwner     Mask = 1 << 19

	FileAll     Mask = 0x1F01FF
	FileRead    Mask = 0x120089
	FileWrite   Mask = 0x120116
	FileExecute Mask = 0x1200A0
	FileModify  Mask = 0x1301BF // read, write, execute, delete

	// AnyWrite are the rights by each of which a file, a folder or what is in
	// it can be changed, deleted, or taken over.
	AnyWrite = 0x2 | 0x4 | 0x10 | 0x40 | 0x100 | Delete | WriteDAC | WriteOwner | GenericWrite | GenericAll

	KeyAll   Mask = 0xF003F
	KeyRead  Mask = 0x20019
	KeyWrite Mask = 0x20006
)

// The two-letter names of rights for files, keys and services alike. [MS-DTYP]
// 2.5.1.1
var rightNames = map[string]Mask{
	"GA": GenericAll, "GX": GenericExecute, "GW": GenericWrite, "GR": GenericRead,
	"SD": Delete, "RC": ReadControl, "WD": WriteDAC, "WO": WriteOwner,
	"FA": FileAll, "FR": FileRead, "FW": FileWrite, "FX": FileExecute,
	"KA": KeyAll, "KR": KeyRead, "KW": KeyWrite, "KX": KeyRead,
	"CC": 1, "DC": 2, "LC": 4, "SW": 8, "RP": 0x10, "WP": 0x20, "DT": 0x40, "LO": 0x80, "CR": 0x100,
	"NR": 0x2, "NW": 0x1, "NX": 0x4,
}

// String writes a mask by the name of a whole set, or as a number.
func (m Mask) String() string {
	for _, n := range []string{"FA", "KA", "GA", "FR", "FW", "FX", "KR", "KW", "GR", "GW", "GX"} {
		if rightNames[n] == m {
			return n
		}
	}
	return fmt.Sprintf("0x%x", uint32(m))
}

// Allows says whether an entry gives rights.
func (e Entry) Allows() bool { return e.Type == "A" || e.Type == "OA" || e.Type == "XA" }

// A Kind is what a descriptor guards; it decides what generic rights mean.
type Kind uint8

// The kinds.
const (
	File Kind = iota
	Folder
	Key
)

// expand puts specific rights in place of generic ones.
func (k Kind) expand(m Mask) Mask {
	all, read, write, exec := FileAll, FileRead, FileWrite, FileExecute
	if k == Key {
		all, read, write, exec = KeyAll, KeyRead, KeyWrite, KeyRead
	}
	for _, g := range []struct{ generic, specific Mask }{{GenericAll, all}, {GenericRead, read}, {GenericWrite, write},
		{GenericExecute, exec}} {
		if m&g.generic != 0 {
			m = m&^g.generic | g.specific
		}
	}
	return m
}

// RightsName says in words what a mask allows.
func RightsName(k Kind, m Mask) string {
	m = k.expand(m)
	sets := []struct {
		mask Mask
		name string
	}{{FileAll, "full access"}, {FileModify, "change files"}, {FileRead | FileExecute | FileWrite, "read and write"},
		{FileRead | FileExecute, "read"}, {FileRead, "read"}, {FileWrite, "write"}}
	if k == Key {
		sets = append(sets[:0], []struct {
			mask Mask
			name string
		}{{KeyAll, "full access"}, {KeyRead | KeyWrite, "read and write"}, {KeyRead, "read"}, {KeyWrite, "write"}}...)
	}
	for _, s := range sets {
		if m&s.mask == s.mask {
			return s.name
		}
	}
	if m == 0 {
		return "nothing"
	}
	return fmt.Sprintf("rights 0x%x", uint32(m))
}

// Effective works out what somebody with these security IDs (the account's own
// and its groups') may do. Entries are taken in their order, the first that
// decides a right wins; the owner may always read and change the list, unless
// entries for OWNER RIGHTS say otherwise. Source: [MS-DTYP] 2.5.3.2.
func (d *Descriptor) Effective(k Kind, sids []SID) Mask {
	if d.DACL == nil || d.DACL.Null {
		return k.expand(GenericAll)
	}
	var allowed, denied Mask
	owner := d.Owner != "" && slices.Contains(sids, d.Owner)
	ownerRights := slices.ContainsFunc(d.DACL.Entries, func(e Entry) bool { return e.SID == OwnerRights && e.Flags&InheritOnly == 0 })
	if owner && !ownerRights {
		allowed = ReadControl | WriteDAC
	}
	for _, e := range d.DACL.Entries {
		if e.Flags&InheritOnly != 0 || !slices.Contains(sids, e.SID) && !(owner && e.SID == OwnerRights) {
			continue
		}
		m := k.expand(e.Mask)
		switch e.Type {
		case "A", "OA":
			allowed |= m &^ denied
		case "D", "OD":
			denied |= m &^ allowed
		}
	}
	return allowed
}

// Child is the descriptor that a new object below one with d gets by
// inheritance.
func (d *Descriptor) Child(k Kind) *Descriptor {
	c := &Descriptor{Owner: d.Owner, Group: d.Group}
	if d.DACL == nil {
		return c
	}
	c.DACL = &List{Flags: "AI", Null: d.DACL.Null}
	for _, e := range d.DACL.Entries {
		if in, ok := e.inherit(k, d.Owner); ok {
			c.DACL.Entries = append(c.DACL.Entries, in)
		}
	}
	return c
}

// inherit works out what an entry becomes on an object below, and whether it
// becomes anything. Rights of the creator turn into the owner's. Source:
// [MS-DTYP] 2.5.3.4.
func (e Entry) inherit(k Kind, owner SID) (Entry, bool) {
	container := k != File
	passes := e.Flags&ContainerInherit != 0
	if !container {
		passes = e.Flags&ObjectInherit != 0
	}
	through := container && k == Folder && e.Flags&ObjectInherit != 0 && e.Flags&NoPropagate == 0
	if !passes && !through {
		return e, false
	}
	in := e
	in.Flags |= Inherited
	switch {
	case !passes: // only files further down are meant
		in.Flags |= InheritOnly
	case e.Flags&NoPropagate != 0 || !container:
		in.Flags &^= ObjectInherit | ContainerInherit | NoPropagate | InheritOnly
	default:
		in.Flags &^= InheritOnly
	}
	if in.SID == CreatorOwner && in.Flags&InheritOnly == 0 && owner != "" {
		in.SID = owner
	}
	return in, true
}

// Grant gives sid the rights in addition to what it has: an entry of its own in
// the place that the canonical order wants (deny before allow, own before
// inherited). An allow entry with the same flags is widened. d is not changed.
func (d *Descriptor) Grant(k Kind, sid SID, m Mask) *Descriptor {
	out := *d
	list := List{}
	if d.DACL != nil {
		list = *d.DACL
	}
	list.Entries = slices.Clone(list.Entries)
	var flags Flags
	switch k {
	case Folder:
		flags = ObjectInherit | ContainerInherit
	case Key:
		flags = ContainerInherit
	}
	out.DACL = &list
	for i, e := range list.Entries {
		if e.Type == "A" && e.SID == sid && e.Flags == flags && e.Extra == "" {
			list.Entries[i].Mask |= m
			return &out
		}
	}
	at := len(list.Entries)
	for i, e := range list.Entries {
		if e.Flags&Inherited != 0 {
			at = i
			break
		}
	}
	list.Entries = slices.Insert(list.Entries, at, Entry{Type: "A", Flags: flags, Mask: m, SID: sid})
	return &out
}

// Denies says whether an entry denies one of these security IDs one of the
// rights; a grant would not help then.
func (d *Descriptor) Denies(k Kind, sids []SID, want Mask) (Entry, bool) {
	if d.DACL == nil {
		return Entry{}, false
	}
	for _, e := range d.DACL.Entries {
		if (e.Type == "D" || e.Type == "OD") && e.Flags&InheritOnly == 0 && slices.Contains(sids, e.SID) && k.expand(e.Mask)&want != 0 {
			return e, true
		}
	}
	return Entry{}, false
}
