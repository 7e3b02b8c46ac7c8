// This file has the step that merges a text of the registry editor's.

package kinds

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/guard"
	"hollowkey/core/machine/regfile"
)

// Registry text that is merged.

// importWords says the step to a person; which keys the text touches, the
// preview lists.
func importWords(s Step) string { return "merge the registry text " + s.Target }

// prepareImport takes the text into the step, so that the journal has it.
func prepareImport(s *Step) error {
	b := []byte(s.Args["text"])
	if len(b) == 0 {
		f, err := os.Open(s.Target)
		if err != nil {
			return err
		}
		defer f.Close()
		if b, err = io.ReadAll(io.LimitReader(f, maxKept+1)); err != nil {
			return err
		}
	}
	if len(b) > maxKept {
		return fmt.Errorf("%s: larger than %d bytes, so the journal cannot keep it", s.Target, maxKept)
	}
	f, err := regfile.Parse(b)
	if err != nil {
		return fmt.Errorf("%s: %w", s.Target, err)
	}
	if len(f.Keys()) == 0 {
		return fmt.Errorf("%s names no key", s.Target)
	}
	// The text is looked at line by line before any of it is merged: one
	// refused key refuses all.
	for _, k := range f.Keys() {
		act := guard.Make
		if k.Delete {
			act = guard.Move
		}
		if err := guard.Key(act, k.Path); err != nil {
			return fmt.Errorf("%s: %w", s.Target, err)
		}
		for _, e := range k.Values {
			if err := guard.Value(k.Path, e.Name, !e.Delete); err != nil {
				return fmt.Errorf("%s: %w", s.Target, err)
			}
		}
	}
	s.Args["text"] = f.Text()
	return nil
}

// importText parses the text that prepareImport has checked already; the
// journal may have been edited since, so an error is possible.
func importText(s Step) (*regfile.File, error) { return regfile.Parse([]byte(s.Args["text"])) }

// readImport takes of each key that the file names the values that it names,
// and of a key that is to be deleted all below it. What the file does not speak
// of is neither kept nor compared: others may change it meanwhile.
func readImport(m machine.Machine, s Step) (*KeysState, error) {
	f, err := importText(s)
	if err != nil {
		return nil, err
	}
	st := &KeysState{}
	for _, k := range f.Keys() {
		if k.Delete {
			tree, err := subtree(m, k.Path)
			if err != nil {
				return nil, err
			}
			st.Keys = append(st.Keys, tree...)
			continue
		}
		up, err := readNewKey(m, Step{Target: k.Path})
		if err != nil {
			return nil, err
		}
		for _, o := range up.Keys {
			if !slices.ContainsFunc(st.Keys, func(have KeyState) bool { return have.Key == o.Key }) {
				st.Keys = append(st.Keys, o)
			}
		}
		// Of a key that is only added to, the values that the text names are
		// enough to take it back.
		at := slices.IndexFunc(st.Keys, func(have KeyState) bool { return strings.EqualFold(have.Key, up.Keys[len(up.Keys)-1].Key) })
		if st.Keys[at].Values, err = touched(m, k); err != nil {
			return nil, err
		}
	}
	return st, nil
}

// touched are the values of a key that a file names, as they are now.
func touched(m machine.Machine, k *regfile.Key) (list []KeyValue, err error) {
	all, err := m.Values(k.Path)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	for _, e := range k.Values {
		v := KeyValue{Name: e.Name}
		for i, have := range all {
			if strings.EqualFold(have.Name, e.Name) {
				v.Value = &all[i].Value // with the words of a twin's file
				if i+1 < len(all) {
					v.Next = all[i+1].Name
				}
			}
		}
		list = append(list, v)
	}
	return list, nil
}

// wantImport lays the file over what is there. Keys below a deleted one leave
// the state altogether; the deleted one itself stays in it as absent.
func wantImport(_ machine.Machine, s Step, now *KeysState) (*KeysState, error) {
	f, err := importText(s)
	if err != nil {
		return nil, err
	}
	st := &KeysState{}
	for _, have := range now.Keys {
		gone := slices.ContainsFunc(f.Keys(), func(k *regfile.Key) bool { return k.Delete && under(have.Key, k.Path) })
		root := slices.ContainsFunc(f.Keys(), func(k *regfile.Key) bool { return k.Delete && sameKey(have.Key, k.Path) })
		if gone && !root {
			continue
		}
		k := KeyState{Key: have.Key, There: !gone}
		if k.There {
			for _, v := range have.Values {
				k.Values = append(k.Values, KeyValue{Name: v.Name, Value: imported(f, have.Key, v.Name)})
			}
		}
		st.Keys = append(st.Keys, k)
	}
	return st, nil
}

// imported is the value that the file gives a name, nil when it deletes it.
func imported(f *regfile.File, key, name string) *regfile.Value {
	for _, k := range f.Keys() {
		if !k.Delete && sameKey(key, k.Path) {
			if e, ok := k.Value(name); ok {
				return plainValue(&e.Value)
			}
		}
	}
	return nil
}

// sameKey compares a key in its long form with one in any spelling.
func sameKey(a, b string) bool {
	long, err := machine.LongKey(b)
	return err == nil && strings.EqualFold(a, long)
}

// under says whether a key is another one or lies below it.
func under(key, top string) bool {
	long, err := machine.LongKey(top)
	return err == nil && (strings.EqualFold(key, long) || strings.HasPrefix(strings.ToLower(key), strings.ToLower(long)+`\`))
}
