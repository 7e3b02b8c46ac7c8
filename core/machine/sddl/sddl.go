// Package sddl reads and writes security descriptors in their text form, and
// works out what an account may do under one.
//
// Source: [MS-DTYP] 2.5.1, "Security Descriptor Definition Language".
package sddl

import (
	"errors"
	"fmt"
	"strconv"
	"strings"
)

// Limits of a descriptor, which may come from anywhere.
const (
	maxLength  = 64 << 10 // bytes of text; a binary list has at most 64 KB
	maxEntries = 1820     // entries of the shortest kind that fit in a list
)

// ErrSyntax is wrapped by every error about text that is no descriptor.
var ErrSyntax = errors.New("not a security descriptor")

// A Descriptor is an owner, a group and the two access lists.
type Descriptor struct {
	Owner, Group SID   // empty when not given
	DACL, SACL   *List // nil where the text has none
}

// A List is an access list. A descriptor without a DACL lets everybody in; one
// with an empty DACL nobody.
type List struct {
	Flags   string  // P protected, AR, AI inherited automatically
	Null    bool    // NO_ACCESS_CONTROL: as if there were none
	Entries []Entry // in their order, which counts
}

// Protected says whether the list takes nothing over from above.
func (l *List) Protected() bool { return l != nil && strings.Contains(l.Flags, "P") }

// An Entry is one access entry.
type Entry struct {
	Type     string // A allow, D deny, OA, OD, AU audit …
	Flags    Flags  // what it is handed on to
	Mask     Mask   // the rights as bits
	mnemonic string // the rights as they were written
	Object   string // GUID of an object entry
	Inherit  string // of an object entry; empty otherwise
	SID      SID    // whom it is about
	Extra    string // a condition or resource attribute, kept as it is
}

// Flags say how an entry passes down.
type Flags uint16

// The flags. Source: [MS-DTYP] 2.4.4.1.
const (
	ObjectInherit    Flags = 1 << iota // OI: files below
	ContainerInherit                   // CI: folders or keys below
	NoPropagate                        // NP: one level only
	InheritOnly                        // IO: not this object itself
	Inherited                          // ID: came from above
	_
	SuccessAudit // SA
	FailureAudit // FA
)

// Inheritance of an entry, in the order in which the OS writes the letters.
// [MS-DTYP] 2.5.1.1
var flagNames = []struct {
	name string
	flag Flags
}{
	{"OI", ObjectInherit}, {"CI", ContainerInherit}, {"NP", NoPropagate}, {"IO", InheritOnly}, {"ID", Inherited},
	{"SA", SuccessAudit}, {"FA", FailureAudit},
}

// String writes the flags as they stand in the text form.
func (f Flags) String() string {
	var b strings.Builder
	for _, n := range flagNames {
		if f&n.flag != 0 {
			b.WriteString(n.name)
		}
	}
	return b.String()
}

// Parse reads a descriptor. Errors name the part of the text that is none.
func Parse(text string) (*Descriptor, error) {
	fail := func(at int, format string, args ...any) (*Descriptor, error) {
		return nil, fmt.Errorf("character %d: %s: %w", at+1, fmt.Sprintf(format, args...), ErrSyntax)
	}
	if len(text) > maxLength {
		return fail(maxLength, "longer than %d bytes", maxLength)
	}
	d := &Descriptor{}
	seen := map[byte]bool{}
	for at := 0; at < len(text); {
		if text[at] == ' ' || text[at] == '\t' {
			at++
			continue
		}
		if at+1 >= len(text) || text[at+1] != ':' {
			return fail(at, "want O:, G:, D: or S:, found %.12q", text[at:])
		}
		part := text[at] &^ 0x20
		if seen[part] {
			return fail(at, "%c: stands twice", part)
		}
		seen[part] = true
		at += 2
		end := at + partEnd(text[at:])
		var err error
		switch part {
		case 'O':
			d.Owner, err = ParseSID(strings.TrimSpace(text[at:end]))
		case 'G':
			d.Group, err = ParseSID(strings.TrimSpace(text[at:end]))
		case 'D':
			d.DACL, err = parseList(text[at:end])
		case 'S':
			d.SACL, err = parseList(text[at:end])
		default:
			return fail(at-2, "want O:, G:, D: or S:, found %.12q", text[at-2:])
		}
		if err != nil {
			return fail(at, "%v", err)
		}
		at = end
	}
	if len(seen) == 0 {
		return fail(0, "empty")
	}
	return d, nil
}

// partEnd finds where the next part begins: a letter and a colon outside of all
// parentheses.
func partEnd(t string) int {
	depth := 0
	for i := 0; i < len(t); i++ {
		switch t[i] {
		case '(':
			depth++
		case ')':
			depth--
		case ':':
			if depth == 0 && i > 0 {
				return i - 1
			}
		}
	}
	return len(t)
}

// parseList reads the flags and entries of one list.
func parseList(t string) (*List, error) {
	l := &List{}
	open := strings.IndexByte(t, '(')
	flags := t
	if open >= 0 {
		flags = t[:open]
	}
	flags = strings.ToUpper(strings.TrimSpace(flags))
	if strings.Contains(flags, "NO_ACCESS_CONTROL") {
		l.Null = true
		flags = strings.ReplaceAll(flags, "NO_ACCESS_CONTROL", "")
	}
	rest := flags
	for rest != "" {
		switch {
		case strings.HasPrefix(rest, "AR"), strings.HasPrefix(rest, "AI"):
			rest = rest[2:]
		case rest[0] == 'P':
			rest = rest[1:]
		default:
			return nil, fmt.Errorf("the list's flags %.12q are not known", rest)
		}
	}
	l.Flags = flags
	for open >= 0 && open < len(t) {
		t = t[open:]
		end := entryEnd(t)
		if end < 0 {
			return nil, fmt.Errorf("the entry %.24q has no end", t)
		}
		e, err := parseEntry(t[1:end])
		if err != nil {
			return nil, err
		}
		if l.Entries = append(l.Entries, e); len(l.Entries) > maxEntries {
			return nil, fmt.Errorf("more than %d entries", maxEntries)
		}
		t = strings.TrimLeft(t[end+1:], " \t\r\n")
		if t == "" {
			break
		}
		if t[0] != '(' {
			return nil, fmt.Errorf("want (, found %.12q", t)
		}
		open = 0
	}
	return l, nil
}

// entryEnd finds the bracket that closes an entry; conditions of callback
// entries hold brackets of their own.
func entryEnd(t string) int {
	depth := 0
	for i := range len(t) {
		switch t[i] {
		case '(':
			depth++
		case ')':
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return -1
}

// The letters of all kinds of entries; others are a fault of the text. Allowing
// and denying ones are weighed, the rest is kept as it is. [MS-DTYP] 2.5.1.1
var entryTypes = map[string]bool{
	"A": true, "D": true, "OA": true, "OD": true, "AU": true, "AL": true, "OU": true, "OL": true, "ML": true,
	"XA": true, "XD": true, "RA": true, "SP": true, "XU": true, "ZA": true, "TL": true, "FL": true,
}

// parseEntry reads one entry. Its rights are kept in the letters in which they
// were written, so that a descriptor that nobody changed is written back the
// same.
func parseEntry(t string) (Entry, error) {
	parts := strings.SplitN(t, ";", 7)
	if len(parts) < 6 {
		return Entry{}, fmt.Errorf("the entry %.40q has %d parts, want 6", t, len(parts))
	}
	e := Entry{Type: strings.ToUpper(strings.TrimSpace(parts[0])), Object: parts[3], Inherit: parts[4]}
	if !entryTypes[e.Type] {
		return e, fmt.Errorf("the entry type %.8q is not known", parts[0])
	}
	flags := strings.ToUpper(strings.TrimSpace(parts[1]))
	for len(flags) >= 2 {
		known := false
		for _, n := range flagNames {
			if flags[:2] == n.name {
				e.Flags |= n.flag
				known = true
			}
		}
		if !known && flags[:2] != "CR" && flags[:2] != "TP" {
			return e, fmt.Errorf("the entry flag %.8q is not known", flags)
		}
		flags = flags[2:]
	}
	if flags != "" {
		return e, fmt.Errorf("the entry flag %.8q is not known", flags)
	}
	var err error
	if e.Mask, err = parseRights(strings.TrimSpace(parts[2])); err != nil {
		return e, err
	}
	e.mnemonic = strings.TrimSpace(parts[2])
	if e.SID, err = ParseSID(strings.TrimSpace(parts[5])); err != nil {
		return e, err
	}
	if len(parts) == 7 {
		e.Extra = parts[6]
	}
	return e, nil
}

// String writes the descriptor; rights stay as they were written.
func (d *Descriptor) String() string {
	var b strings.Builder
	if d.Owner != "" {
		b.WriteString("O:" + d.Owner.String())
	}
	if d.Group != "" {
		b.WriteString("G:" + d.Group.String())
	}
	for _, l := range []struct {
		name string
		list *List
	}{{"D:", d.DACL}, {"S:", d.SACL}} {
		if l.list == nil {
			continue
		}
		b.WriteString(l.name + l.list.Flags)
		if l.list.Null {
			b.WriteString("NO_ACCESS_CONTROL")
		}
		for _, e := range l.list.Entries {
			b.WriteString(e.String())
		}
	}
	return b.String()
}

// String writes the entry as it was read where it can: rights written as
// letters stay letters, so that a list that is put back has its old text.
func (e Entry) String() string {
	rights := e.mnemonic
	if m, err := parseRights(rights); rights == "" && e.Mask != 0 || err != nil || m != e.Mask {
		rights = e.Mask.String()
	}
	s := "(" + e.Type + ";" + e.Flags.String() + ";" + rights + ";" + e.Object + ";" + e.Inherit + ";" + e.SID.String()
	if e.Extra != "" {
		s += ";" + e.Extra
	}
	return s + ")"
}

// parseRights reads rights as a number or as letters, two for each.
func parseRights(t string) (Mask, error) {
	if t == "" {
		return 0, nil
	}
	if t[0] >= '0' && t[0] <= '9' {
		v, err := strconv.ParseUint(t, 0, 32)
		if err != nil {
			return 0, fmt.Errorf("the rights %.16q are no number", t)
		}
		return Mask(v), nil
	}
	var m Mask
	for up := strings.ToUpper(t); up != ""; up = up[2:] {
		if len(up) < 2 {
			return 0, fmt.Errorf("the right %.8q is not known", up)
		}
		r, ok := rightNames[up[:2]]
		if !ok {
			return 0, fmt.Errorf("the right %.8q is not known", up)
		}
		m |= r
	}
	return m, nil
}
