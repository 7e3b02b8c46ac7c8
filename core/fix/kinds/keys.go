// This file has the steps on whole registry keys.

package kinds

import (
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"reflect"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
)

// keysFamily has the rows about whole registry keys with all that lies below
// them, as one fact: half a tree that came back would be worse than none.
func keysFamily() family {
	return define(func() *KeysState { return &KeysState{} },
		row[*KeysState]{write: writeKeys},
		row[*KeysState]{name: "key", read: readNewKey, want: wantNewKey, words: newKeyWords},
		row[*KeysState]{name: "remove-key", read: readTree, want: wantNoTree, words: noTreeWords},
		row[*KeysState]{name: "import", prepare: prepareImport, read: readImport, want: wantImport, words: importWords})
}

const (
	maxKeysKept = 5000 // keys that one step takes away; a product's own have hundreds
	maxKeyDepth = 64   // below the key named; products nest fewer than ten, the OS allows 512
)

// KeysState is a row of registry keys, outermost first.
type KeysState struct {
	Keys []KeyState `json:"keys"` // from above to below
}

// KeyState is one key: all of its values, or those that a step is about.
type KeyState struct {
	Key      string            `json:"key"`                // long form, HKEY_LOCAL_MACHINE\…
	There    bool              `json:"there"`              // false: no such key
	Values   []KeyValue        `json:"values,omitempty"`   // in the order of the registry
	Section  *machine.Section  `json:"section,omitempty"`  // of a twin's file
	Security *machine.Security `json:"security,omitempty"` // where the key has its own
}

// KeyValue is a value of a key; nil when it is absent.
type KeyValue struct {
	Name  string         `json:"name"`            // empty for the key's default value
	Value *regfile.Value `json:"value,omitempty"` // nil: to be taken away
	Next  string         `json:"next,omitempty"`  // the value behind it
}

// flat are the keys and values that are there, by name.
func (k *KeysState) flat() map[string]any {
	out := map[string]any{}
	for _, s := range k.Keys {
		if !s.There {
			continue
		}
		out[strings.ToLower(s.Key)] = true
		for _, v := range s.Values {
			if v.Value != nil {
				out[strings.ToLower(s.Key+"\x00"+v.Name)] = *plainValue(v.Value)
			}
		}
	}
	return out
}

func (*KeysState) family() string { return "keys" }

// plain leaves out what is kept to put the keys back: their text in the twin's
// file and their access lists.
func (k *KeysState) plain() Fact {
	out := &KeysState{}
	for _, s := range k.Keys {
		s.Section, s.Security = nil, nil
		s.Values = slices.Clone(s.Values)
		for i, v := range s.Values {
			s.Values[i] = KeyValue{Name: v.Name, Value: plainValue(v.Value)}
		}
		out.Keys = append(out.Keys, s)
	}
	return out
}

// keysText writes keys as registry text; merging it brings them into the state.
func keysText(keys *KeysState) []byte {
	var list []regfile.KeyEntries
	for _, k := range keys.Keys {
		e := regfile.KeyEntries{Key: k.Key, Absent: !k.There}
		for _, v := range k.Values {
			if v.Value == nil {
				e.Values = append(e.Values, regfile.Entry{Name: v.Name, Delete: true})
			} else {
				e.Values = append(e.Values, regfile.Entry{Name: v.Name, Value: *v.Value})
			}
		}
		list = append(list, e)
	}
	return regfile.ExportKeys(list)
}

// between compares key by key and value by value: a key that was begun has some
// of its values.
func (k *KeysState) between(a, b Fact) bool {
	return partOf(k.flat(), a.(*KeysState).flat(), b.(*KeysState).flat())
}

// registryText gives the keys as the text that the OS's registry editor merges;
// keys that are absent stand in it as removals.
func (k *KeysState) registryText(Step) ([]byte, error) { return keysText(k), nil }

// powerShell imports the keys as registry text, out of a temporary file.
func (k *KeysState) powerShell(Step, Fact) ([]string, error) {
	text := base64.StdEncoding.EncodeToString(keysText(k))
	return []string{"$reg = [IO.Path]::GetTempFileName()", "[IO.File]::WriteAllBytes($reg, [Convert]::FromBase64String('" + text + "'))",
		"& reg.exe import $reg" + throws, "Remove-Item -LiteralPath $reg"}, nil
}

// command has no answer: a tree of any size is merged from a text instead,
// which the caller asks for.
func (k *KeysState) command(Step, Fact) ([]string, error) { return nil, errNoCommand }

// A new key, with those above it that are missing.

// readNewKey looks at every key from the hive down, so that undoing removes
// those that were made on the way and no others. The first two levels are the
// hive itself.
func readNewKey(m machine.Machine, s Step) (*KeysState, error) {
	key, err := machine.LongKey(s.Target)
	if err != nil {
		return nil, err
	}
	st := &KeysState{}
	parts := strings.Split(key, `\`)
	for n := 3; n <= len(parts); n++ {
		k := strings.Join(parts[:n], `\`)
		there, err := m.KeyExists(k)
		if err != nil {
			return nil, err
		}
		st.Keys = append(st.Keys, KeyState{Key: k, There: there})
	}
	return st, nil
}

// wantNewKey wants the key and all that are missing above it.
func wantNewKey(_ machine.Machine, _ Step, now *KeysState) (*KeysState, error) {
	st := &KeysState{}
	for _, k := range now.Keys {
		st.Keys = append(st.Keys, KeyState{Key: k.Key, There: true})
	}
	return st, nil
}

// newKeyWords says the step to a person, with the root in its short form as
// technicians write it.
func newKeyWords(s Step) string { return "make the registry key " + shortKey(s.Target) }

// A key with all below it.

// readTree reads a key with all below it, since deleting takes it all.
func readTree(m machine.Machine, s Step) (*KeysState, error) {
	keys, err := subtree(m, s.Target)
	return &KeysState{keys}, err
}

// subtree reads a key with all below it; of an absent one only that.
func subtree(m machine.Machine, key string) (list []KeyState, err error) {
	root, err := machine.LongKey(key)
	if err != nil {
		return nil, err
	}
	there, err := m.KeyExists(root)
	if err != nil || !there {
		return []KeyState{{Key: root}}, err
	}
	var walk func(k string, depth int) error
	walk = func(k string, depth int) error {
		st, err := wholeKey(m, k)
		if err != nil {
			return err
		}
		list = append(list, st)
		if len(list) > maxKeysKept || depth > maxKeyDepth {
			return fmt.Errorf("%s has more than %d keys below it, which the journal does not keep", root, maxKeysKept)
		}
		below, err := m.Subkeys(k)
		if err != nil {
			return err
		}
		for _, b := range below {
			if err := walk(k+`\`+b, depth+1); err != nil {
				return err
			}
		}
		return nil
	}
	return list, walk(root, 0)
}

// wholeKey reads one key with its values. Of a twin the section's text goes
// along, of a live machine the access list where the key has its own; both come
// back with the key.
func wholeKey(m machine.Machine, k string) (KeyState, error) {
	st := KeyState{Key: k, There: true}
	values, err := m.Values(k)
	if err != nil && !errors.Is(err, fs.ErrNotExist) { // a key that only leads to others
		return st, err
	}
	for _, v := range values {
		st.Values = append(st.Values, KeyValue{Name: v.Name, Value: plainValue(&v.Value)})
	}
	if v, ok := m.(machine.Verbatim); ok {
		st.Section, err = v.Section("key", k)
		return st, err
	}
	sec, err := m.KeySecurity(k)
	if err == nil && sec.Own {
		st.Security = &sec
	}
	return st, nil
}

// wantNoTree names the root alone: when it is gone all below it is.
func wantNoTree(_ machine.Machine, _ Step, now *KeysState) (*KeysState, error) {
	return &KeysState{[]KeyState{{Key: now.Keys[0].Key}}}, nil
}

// noTreeWords says the step to a person, and that all below the key goes with
// it.
func noTreeWords(s Step) string {
	return "delete the registry key " + shortKey(s.Target) + " with all below it"
}

// writeKeys brings keys into a state. Keys to be deleted go with all below
// them; a row is told by what it holds, so the same code makes and undoes.
func writeKeys(m machine.Machine, s Step, to *KeysState) error {
	keys := to.Keys
	// First what goes, from below, then what comes, from above.
	for _, k := range slices.Backward(keys) {
		if k.There {
			continue
		}
		remove := deleteTree
		if s.made(k.Key) {
			remove = func(m machine.Machine, _ string) error { return deleteMade(m, k) }
		}
		if err := remove(m, k.Key); err != nil {
			return err
		}
	}
	// A twin puts keys back where they stood in its file; the OS has no such
	// order.
	v, verbatim := m.(machine.Verbatim)
	var sections []machine.Section
	for _, k := range keys {
		there, err := m.KeyExists(k.Key)
		switch {
		case err != nil:
			return err
		case !k.There:
			continue
		case !there && verbatim && k.Section != nil:
			sections = append(sections, *k.Section)
			continue
		case verbatim && k.Section != nil && !hasSection(v, k.Key):
			sections = append(sections, *k.Section)
			continue
		case !there && verbatim && len(k.Values) == 0 && keyBelow(to.Keys, k.Key):
			continue // it stood in no line of its own: it is there because of those below it
		case !there:
			if err := m.CreateKey(k.Key); err != nil {
				return err
			}
		}
		if err := writeValues(m, k); err != nil {
			return err
		}
	}
	slices.SortStableFunc(sections, func(a, b machine.Section) int { return a.At - b.At })
	for _, s := range sections {
		if err := v.PutSection("key", s); err != nil {
			return err
		}
	}
	return nil
}

// hasSection says whether a twin's file has a section of its own for a key.
// Keys that only lead to others often have none.
func hasSection(v machine.Verbatim, key string) bool {
	s, err := v.Section("key", key)
	return err == nil && s != nil
}

// keyBelow says whether one of some keys that stand in a twin's file lies below
// another.
func keyBelow(keys []KeyState, key string) bool {
	return slices.ContainsFunc(keys, func(k KeyState) bool {
		return k.There && k.Section != nil && len(k.Key) > len(key) && strings.EqualFold(k.Key[:len(key)+1], key+`\`)
	})
}

// writeValues brings a key's values into a state. A value that has the wanted
// data already is left in the words in which a twin's file writes it.
func writeValues(m machine.Machine, k KeyState) error {
	before, ordered := m.(interface {
		SetValueBefore(key, name, next string, v regfile.Value) error
	})
	values := slices.Clone(k.Values)
	if slices.ContainsFunc(values, func(v KeyValue) bool { return v.Next != "" }) {
		slices.Reverse(values) // each then finds the one that it stands before
	}
	stand := KeysState{Keys: []KeyState{{Key: k.Key, There: true}}}
	if now, err := m.Values(k.Key); err == nil {
		for _, v := range now {
			stand.Keys[0].Values = append(stand.Keys[0].Values, KeyValue{Name: v.Name, Value: plainValue(&v.Value)})
		}
	}
	// What stands there already in its own words is left: writing it again
	// would change the words.
	is := stand.flat()
	for _, v := range values {
		var err error
		switch {
		case v.Value != nil && reflect.DeepEqual(is[strings.ToLower(k.Key+"\x00"+v.Name)], *plainValue(v.Value)):
			// it stands already, in its own words
		case v.Value == nil:
			if err = m.DeleteValue(k.Key, v.Name); errors.Is(err, fs.ErrNotExist) {
				err = nil
			}
		case ordered:
			err = before.SetValueBefore(k.Key, v.Name, v.Next, *v.Value)
		default:
			err = m.SetValue(k.Key, v.Name, *v.Value)
		}
		if err != nil {
			return err
		}
	}
	if k.Security != nil {
		return m.SetKeySecurity(k.Key, *k.Security)
	}
	return nil
}

// made says whether a key that is to be absent is one that the step itself
// made.
func (s Step) made(key string) bool {
	if s.Kind != "import" {
		return s.Kind == "key"
	}
	f, err := importText(s)
	return err == nil && !slices.ContainsFunc(f.Keys(), func(k *regfile.Key) bool { return k.Delete && under(key, k.Path) })
}

// deleteMade takes away a key that a step made, unless somebody put something
// else into it since.
func deleteMade(m machine.Machine, k KeyState) error {
	if there, err := m.KeyExists(k.Key); err != nil || !there {
		return err
	}
	if err := writeValues(m, k); err != nil {
		return err
	}
	below, err := m.Subkeys(k.Key)
	if err != nil || len(below) > 0 {
		return err
	}
	if values, err := m.Values(k.Key); err != nil || len(values) > 0 {
		return err
	}
	return m.DeleteKey(k.Key)
}

// deleteTree deletes a key with all below it, the innermost first.
func deleteTree(m machine.Machine, key string) error {
	all, err := subtree(m, key)
	if err != nil {
		return err
	}
	for _, k := range slices.Backward(all) {
		if !k.There {
			continue
		}
		if err := m.DeleteKey(k.Key); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

// maxKeyLines of a preview are read; the rest is counted.
const maxKeyLines = 12

// Lines tells the keys and their values for a preview, one on a line, in the
// order in which they were read.
func (st *KeysState) Lines(_ machine.Accounts) (lines []string) {
	for _, k := range st.Keys {
		if !k.There {
			lines = append(lines, shortKey(k.Key)+" is absent")
			continue
		}
		lines = append(lines, shortKey(k.Key))
		for _, v := range k.Values {
			name := v.Name
			if name == "" {
				name = "(default)"
			}
			if v.Value == nil {
				lines = append(lines, "  "+name+" is absent")
			} else {
				lines = append(lines, "  "+name+" = "+strings.ReplaceAll(v.Value.Words(), "\n", ", "))
			}
		}
	}
	if n := len(lines); n > maxKeyLines {
		lines = append(lines[:maxKeyLines:maxKeyLines], fmt.Sprintf("… and %d lines more", n-maxKeyLines))
	}
	return lines
}
