// This file has the steps on owners and access lists.

package kinds

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
)

// SecurityState is an object's owner and access list.
type SecurityState struct{ machine.Security }

// securityFamily has the rows about the owner and access list of a file, folder
// or key, as one fact: each row changes a part of it, and undo puts the whole
// back.
func securityFamily() family {
	return define(func() *SecurityState { return &SecurityState{} },
		row[*SecurityState]{read: readSecurity, write: writeSecurity},
		row[*SecurityState]{name: "grant", want: wantGrant, words: grantWords},
		row[*SecurityState]{name: "revoke", want: wantRevoke, words: revokeWords},
		row[*SecurityState]{name: "security", want: wantSecurity, words: securityWords},
		row[*SecurityState]{name: "owner", want: wantOwner, words: ownerWords},
		row[*SecurityState]{name: "inherit", want: wantInherit, words: inheritWords})
}

func (*SecurityState) family() string { return "security" }

// plain writes the list in its usual form: the OS may write back an equal list
// in other words.
func (st *SecurityState) plain() Fact {
	p := *st
	if d, err := sddl.Parse(p.SDDL); err == nil {
		p.SDDL = d.String()
	}
	return &p
}

// powerShell reads the list, changes it as an object and sets it, as an
// administrator would by hand. Text forms of lists are not given to it: what a
// shell makes of quotes in them is no risk to take with rights.
func (st *SecurityState) powerShell(s Step, _ Fact) ([]string, error) {
	path := PS(s.Target)
	if isKey(s) {
		var err error
		if path, err = psKey(s.Target); err != nil {
			return nil, err
		}
	}
	get, set := "$acl = Get-Acl -LiteralPath "+path, "Set-Acl -LiteralPath "+path+" -AclObject $acl"
	if !st.Own {
		return []string{get, "$acl.SetAccessRuleProtection($false, $false)",
			"$acl.Access | Where-Object { -not $_.IsInherited } | ForEach-Object { [void]$acl.RemoveAccessRuleSpecific($_) }", set}, nil
	}
	return []string{get, "$acl.SetSecurityDescriptorSddlForm(" + PS(st.SDDL) + ")", set}, nil
}

// command has no answer: the OS's tool for access lists keeps no order of the
// entries, and so cannot put a list back as it was.
func (st *SecurityState) command(Step, Fact) ([]string, error) { return nil, errNoCommand }

// rights are the words that a grant takes.
var rights = map[string]struct{ file, key sddl.Mask }{
	"read":   {sddl.FileRead | sddl.FileExecute, sddl.KeyRead},
	"modify": {sddl.FileModify, sddl.KeyRead | sddl.KeyWrite},
	"full":   {sddl.FileAll, sddl.KeyAll},
}

// isKey says whether the object is a registry key; files and keys have their
// rights from different bits.
func isKey(s Step) bool { return s.Args["key"] != "" }

// readSecurity reads owner and list as they are in force, entries from above
// included.
func readSecurity(m machine.Machine, s Step) (*SecurityState, error) {
	var sec machine.Security
	var err error
	if isKey(s) {
		sec, err = m.KeySecurity(s.Target)
	} else {
		sec, err = m.FileSecurity(s.Target)
	}
	return &SecurityState{sec}, err
}

// Suffices says whether a state that differs from the wanted one does what a
// step is for. A file system that keeps no lists of its own answers a grant
// with the nearest that it has: the right is there, and nobody else gained one.
func (s Step) Suffices(m machine.Machine, from, now State) bool {
	if s.Kind != "grant" {
		return false
	}
	was, is := from.Fact.(*SecurityState), now.Fact.(*SecurityState)
	a, err := m.Account(s.Args["account"])
	if err != nil {
		return false
	}
	before, err1 := sddl.Parse(was.SDDL)
	after, err2 := sddl.Parse(is.SDDL)
	if err1 != nil || err2 != nil || before.DACL == nil || after.DACL == nil || after.DACL.Null {
		return false
	}
	k, mask := sddl.Folder, rights[s.Args["right"]].file
	if isKey(s) {
		k, mask = sddl.Key, rights[s.Args["right"]].key
	}
	// Somebody else may have given the right meanwhile, to the account or to a
	// member of it; more than that nobody may have gained.
	has := after.Effective(k, a.SIDs())&mask == mask
	for _, e := range after.DACL.Entries {
		gained := after.Effective(k, []sddl.SID{e.SID}) &^ before.Effective(k, []sddl.SID{e.SID})
		if gained == 0 || e.SID == a.SID {
			continue
		}
		member, err := m.Account(string(e.SID))
		if err != nil || !slices.Contains(member.Groups, a.SID) {
			return false
		}
		has = has || after.Effective(k, member.SIDs())&mask == mask
	}
	return has
}

// wantGrant gives one right and no more. Where an entry denies it the step is
// refused, for denials win over what is allowed; where the account has the
// right already, by a group for instance, nothing changes.
func wantGrant(m machine.Machine, s Step, now *SecurityState) (*SecurityState, error) {
	d, err := sddl.Parse(now.SDDL)
	if err != nil {
		return nil, fmt.Errorf("the access list of %s: %w", s.Target, err)
	}
	a, err := m.Account(s.Args["account"])
	if err != nil {
		return nil, err
	}
	r, ok := rights[s.Args["right"]]
	if !ok {
		return nil, fmt.Errorf("the right %q is not read, modify or full", s.Args["right"])
	}
	k, mask := sddl.Folder, r.file
	if isKey(s) {
		k, mask = sddl.Key, r.key
	} else if info, err := m.Stat(s.Target); err == nil && !info.Folder {
		k = sddl.File
	}
	if e, denied := d.Denies(k, a.SIDs(), mask); denied {
		return nil, fmt.Errorf("an entry denies %s the access to %s, so a grant would not help: %s\nhint: that entry must go first",
			e.SID.Name(), s.Target, e)
	}
	if d.Effective(k, a.SIDs())&mask == mask {
		return now, nil
	}
	return &SecurityState{machine.Security{SDDL: d.Grant(k, a.SID, mask).String(), Own: true}}, nil
}

// writeSecurity sets the descriptor; one that is not the object's own is taken
// away again.
func writeSecurity(m machine.Machine, s Step, to *SecurityState) error {
	if isKey(s) {
		return m.SetKeySecurity(s.Target, to.Security)
	}
	return m.SetFileSecurity(s.Target, to.Security)
}

// grantWords says the step to a person in what the account may do afterwards,
// not in the bits of its mask.
func grantWords(s Step) string {
	what := map[string]string{"read": "read", "modify": "read and change", "full": "do everything with"}[s.Args["right"]]
	return fmt.Sprintf("let %s %s %s", s.Args["account"], what, s.Target)
}

// Lines tells each entry in words, in the order in which the OS goes through
// them. A mask that only keys have is told in a key's words.
func (st *SecurityState) Lines(who machine.Accounts) []string {
	d, err := sddl.Parse(st.SDDL)
	if err != nil || d.DACL == nil {
		return []string{st.SDDL}
	}
	var lines []string
	if d.Owner != "" {
		lines = append(lines, "owner "+nameOf(d.Owner, who))
	}
	for _, e := range d.DACL.Entries {
		verb := "may"
		if strings.HasSuffix(e.Type, "D") {
			verb = "is denied to"
		}
		where := ""
		if e.Flags&sddl.Inherited != 0 {
			where = " (from above)"
		}
		kind := sddl.Folder
		if e.Mask&^sddl.KeyAll == 0 && e.Mask&sddl.FileExecute != sddl.FileExecute {
			kind = sddl.Key
		}
		lines = append(lines, fmt.Sprintf("%s %s %s%s", nameOf(e.SID, who), verb, rightVerb(sddl.RightsName(kind, e.Mask)), where))
	}
	return lines
}

// nameOf is the name of an account, or its security ID.
func nameOf(sid sddl.SID, who machine.Accounts) string {
	if name := sid.Name(); name != string(sid) || who == nil {
		return name
	}
	if a, err := who.Account(string(sid)); err == nil {
		return a.Name
	}
	return string(sid)
}

// rightVerb makes the name of a set of rights fit behind "may".
func rightVerb(name string) string {
	switch {
	case name == "full access":
		return "do everything"
	case strings.HasPrefix(name, "rights "):
		return "use the " + name
	}
	return name
}

// Taking entries away.

// wantRevoke removes the entries of one account. Those that come from above
// cannot be removed here; the error says where.
func wantRevoke(m machine.Machine, s Step, now *SecurityState) (*SecurityState, error) {
	d, a, err := listFor(m, s, now)
	if err != nil {
		return nil, err
	}
	which := s.Args["entries"]
	if which != "" && which != "all" && which != "denied" && which != "allowed" {
		return nil, fmt.Errorf("entries=%q is not all, denied or allowed", which)
	}
	// Entries that come from above cannot be taken here.
	list := *d.DACL
	inherited := false
	list.Entries = slices.DeleteFunc(slices.Clone(list.Entries), func(e sddl.Entry) bool {
		denied := strings.HasSuffix(e.Type, "D")
		if e.SID != a.SID || which == "denied" && !denied || which == "allowed" && denied {
			return false
		}
		if e.Flags&sddl.Inherited != 0 {
			inherited = true
			return false
		}
		return true
	})
	if len(list.Entries) == len(d.DACL.Entries) {
		if inherited {
			return nil, fmt.Errorf("the entries of %s on %s come from above\nhint: take them away there, or set inherit state=off first", a.Name,
				s.Target)
		}
		return now, nil
	}
	out := *d
	out.DACL = &list
	return own(&out), nil
}

// own is the state that a descriptor stands for: the object's own when an entry
// does not come from above, or none may.
func own(d *sddl.Descriptor) *SecurityState {
	its := d.DACL.Protected() || slices.ContainsFunc(d.DACL.Entries, func(e sddl.Entry) bool { return e.Flags&sddl.Inherited == 0 })
	return &SecurityState{machine.Security{SDDL: d.String(), Own: its}}
}

// listFor is the descriptor that a step changes. An object without a list lets
// everybody in, and adding an entry would shut everybody else out.
func listFor(m machine.Machine, s Step, now *SecurityState) (*sddl.Descriptor, machine.Account, error) {
	d, err := sddl.Parse(now.SDDL)
	if err != nil {
		return nil, machine.Account{}, fmt.Errorf("the access list of %s: %w", s.Target, err)
	}
	if d.DACL == nil || d.DACL.Null {
		return nil, machine.Account{}, fmt.Errorf("%s has no access list: everybody may do everything there", s.Target)
	}
	if s.Args["account"] == "" {
		return d, machine.Account{}, nil
	}
	a, err := m.Account(s.Args["account"])
	return d, a, err
}

// revokeWords says the step to a person; entries that deny are told apart,
// since taking them gives access.
func revokeWords(s Step) string {
	what := map[string]string{"denied": "entries that deny access", "allowed": "entries that allow access"}[s.Args["entries"]]
	if what == "" {
		what = "entries"
	}
	return fmt.Sprintf("take the %s of %s on %s away", what, s.Args["account"], s.Target)
}

// Restoring a list.

// wantSecurity takes a descriptor as it is given. Owner and list must both be
// there: a part would be filled up by the OS in ways that nobody previewed.
func wantSecurity(_ machine.Machine, s Step, _ *SecurityState) (*SecurityState, error) {
	d, err := sddl.Parse(s.Args["sddl"])
	if err != nil {
		return nil, fmt.Errorf("sddl=%.80q: %w", s.Args["sddl"], err)
	}
	if d.DACL == nil || d.Owner == "" {
		return nil, errors.New("sddl lacks the owner (O:) or the access list (D:)")
	}
	return own(d), nil
}

// securityWords says the step to a person. The list itself is in the preview,
// entry by entry.
func securityWords(s Step) string {
	return "set owner and access list of " + s.Target + " to the ones given"
}

// Ownership.

// wantOwner changes the owner and leaves the list. An owner may always change
// the list, which is why this costs more than it looks.
func wantOwner(m machine.Machine, s Step, now *SecurityState) (*SecurityState, error) {
	d, a, err := listFor(m, s, now)
	if err != nil {
		return nil, err
	}
	if a.SID == "" {
		return nil, errors.New("an owner step needs account=NAME")
	}
	if d.Owner == a.SID {
		return now, nil
	}
	out := *d
	out.Owner = a.SID
	return &SecurityState{machine.Security{SDDL: out.String(), Own: true}}, nil
}

// ownerWords says the step to a person.
func ownerWords(s Step) string {
	return fmt.Sprintf("make %s the owner of %s", s.Args["account"], s.Target)
}

// Inheritance.

// wantInherit closes or opens the list to what comes from above. Closing keeps
// the entries that are in force as the object's own: nobody gains or loses a
// right by it.
func wantInherit(m machine.Machine, s Step, now *SecurityState) (*SecurityState, error) {
	d, _, err := listFor(m, s, now)
	if err != nil {
		return nil, err
	}
	list := *d.DACL
	list.Entries = slices.Clone(list.Entries)
	switch s.Args["state"] {
	case "on":
		if !list.Protected() {
			return now, nil
		}
		above, err := inherited(m, s)
		if err != nil {
			return nil, err
		}
		// P: takes no entries from above; AI: those that it has were handed
		// down.
		list.Flags = strings.ReplaceAll(strings.Replace(list.Flags, "P", "", 1), "AI", "") + "AI"
		list.Entries = append(list.Entries, above...)
	case "off":
		if list.Protected() {
			return now, nil
		}
		list.Flags = "P" + list.Flags
		for i := range list.Entries { // what came from above stays, as its own
			list.Entries[i].Flags &^= sddl.Inherited
		}
	default:
		return nil, fmt.Errorf("state=%q is not on or off", s.Args["state"])
	}
	out := *d
	out.DACL = &list
	return own(&out), nil
}

// inherited are the entries that the folder or key above passes down.
func inherited(m machine.Machine, s Step) ([]sddl.Entry, error) {
	at := strings.LastIndexByte(s.Target, '\\')
	if at < 0 {
		return nil, fmt.Errorf("nothing is above %s", s.Target)
	}
	var sec machine.Security
	var err error
	kind := sddl.Folder
	if isKey(s) {
		kind = sddl.Key
		sec, err = m.KeySecurity(s.Target[:at])
	} else {
		if info, err := m.Stat(s.Target); err == nil && !info.Folder {
			kind = sddl.File
		}
		above := s.Target[:at]
		if len(above) == 2 {
			above += `\`
		}
		sec, err = m.FileSecurity(above)
	}
	if err != nil {
		return nil, err
	}
	d, err := sddl.Parse(sec.SDDL)
	if err != nil {
		return nil, err
	}
	return d.Child(kind).DACL.Entries, nil
}

// inheritWords says the step to a person in both directions, since neither is
// plain from the word inheritance alone.
func inheritWords(s Step) string {
	if s.Args["state"] == "off" {
		return "let " + s.Target + " take no entries from above; those that it has become its own"
	}
	return "let " + s.Target + " take entries from above again"
}
