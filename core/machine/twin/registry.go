// This file is a twin's registry, in texts of the registry editor's form.

package twin

import (
	"fmt"
	"io/fs"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/sddl"
)

// A twin has the hives of all users: which one this leads to follows from the
// acting account.
const currentUser = "HKEY_CURRENT_USER"

// key writes a key as the twin's files do: the user who is signed in has no
// root of its own but a key below HKEY_USERS.
func (t *Twin) key(key string) (string, error) {
	k, err := machine.LongKey(key)
	if err != nil {
		return "", err
	}
	if rest, ok := strings.CutPrefix(k, currentUser); ok && t.about.SignedIn != "" {
		a, err := t.Account(t.about.SignedIn)
		if err != nil {
			return "", err
		}
		return `HKEY_USERS\` + string(a.SID) + rest, nil
	}
	if rest, ok := strings.CutPrefix(k, "HKEY_CLASSES_ROOT"); ok {
		return `HKEY_LOCAL_MACHINE\SOFTWARE\Classes` + rest, nil
	}
	return k, nil
}

// hive finds the file that holds a key.
func (t *Twin) hive(key string) (h *hive, there bool) {
	for _, f := range t.registry {
		if k := f.file.Key(key); k != nil && !k.Delete {
			return f, true
		}
	}
	return nil, false
}

// nearest is the file that holds a key's neighbours.
func (t *Twin) nearest(key string) (h *hive) {
	longest := -1
	for _, f := range t.registry {
		for _, k := range f.file.Keys() {
			if n := common(k.Path, key); n > longest && !k.Delete {
				h, longest = f, n
			}
		}
	}
	return h
}

// below says whether a path lies below a key, which ends in a stroke.
func below(path, key string) bool {
	return len(path) > len(key) && strings.EqualFold(path[:len(key)], key)
}

// common counts the first letters that two keys share.
func common(a, b string) int {
	a, b = strings.ToLower(a), strings.ToLower(b)
	n := 0
	for n < len(a) && n < len(b) && a[n] == b[n] {
		n++
	}
	return n
}

// KeyExists says whether a key is there, by itself or because one below it is.
func (t *Twin) KeyExists(key string) (bool, error) {
	k, err := t.key(key)
	if err != nil {
		return false, err
	}
	if _, there := t.hive(k); there {
		return true, nil
	}
	for _, f := range t.registry {
		for _, o := range f.file.Keys() {
			if !o.Delete && below(o.Path, k+`\`) {
				return true, nil
			}
		}
	}
	return false, nil
}

// CreateKey adds a key to the file that holds its neighbours.
func (t *Twin) CreateKey(key string) error {
	k, err := t.key(key)
	if err != nil {
		return err
	}
	if _, there := t.hive(k); there {
		return nil
	}
	h := t.nearest(k)
	if h == nil {
		return fmt.Errorf("the twin %s has no registry file that %s could be put into", t.Name(), k)
	}
	if err := h.file.AddKey(k); err != nil {
		return err
	}
	return t.write(h.name, h.file.Bytes())
}

// DeleteKey takes a key out that has none below it.
func (t *Twin) DeleteKey(key string) error {
	k, err := t.key(key)
	if err != nil {
		return err
	}
	h, there := t.hive(k)
	if !there {
		return fmt.Errorf("key %s: %w", k, fs.ErrNotExist)
	}
	if sub, err := t.Subkeys(key); err != nil || len(sub) > 0 {
		return fmt.Errorf("key %s has %d keys below it", k, len(sub))
	}
	if err := h.file.RemoveKey(k); err != nil {
		return err
	}
	return t.write(h.name, h.file.Bytes())
}

// Subkeys are the names of the keys one level below.
func (t *Twin) Subkeys(key string) ([]string, error) {
	k, err := t.key(key)
	if err != nil {
		return nil, err
	}
	var names []string
	seen := map[string]bool{}
	for _, f := range t.registry {
		for _, o := range f.file.Keys() {
			if o.Delete || !below(o.Path, k+`\`) {
				continue
			}
			name, _, _ := strings.Cut(o.Path[len(k)+1:], `\`)
			if low := strings.ToLower(name); !seen[low] {
				seen[low] = true
				names = append(names, name)
			}
		}
	}
	return names, nil
}

// Values are all values of a key.
func (t *Twin) Values(key string) ([]regfile.Entry, error) {
	k, err := t.key(key)
	if err != nil {
		return nil, err
	}
	h, there := t.hive(k)
	if !there {
		return nil, fmt.Errorf("key %s: %w", k, fs.ErrNotExist)
	}
	return h.file.Key(k).Values, nil
}

// Value is one value; fs.ErrNotExist when it or its key is absent.
func (t *Twin) Value(key, name string) (regfile.Value, error) {
	k, err := t.key(key)
	if err != nil {
		return regfile.Value{}, err
	}
	if h, there := t.hive(k); there {
		if e, ok := h.file.Key(k).Value(name); ok {
			return e.Value, nil
		}
	}
	return regfile.Value{}, fmt.Errorf("value %q of %s: %w", name, k, fs.ErrNotExist)
}

// SetValue sets a value of a key that is there.
func (t *Twin) SetValue(key, name string, v regfile.Value) error {
	return t.change(key, func(f *regfile.File, k string) error { return f.SetValue(k, name, v) })
}

// SetValueBefore puts a value that was taken out back into its place, in front
// of the one called next.
func (t *Twin) SetValueBefore(key, name, next string, v regfile.Value) error {
	return t.change(key, func(f *regfile.File, k string) error { return f.SetValueBefore(k, name, next, v) })
}

// DeleteValue takes a value out.
func (t *Twin) DeleteValue(key, name string) error {
	return t.change(key, func(f *regfile.File, k string) error { return f.RemoveValue(k, name) })
}

// change finds the file that holds a key, changes it and writes it; a key that
// no file holds is fs.ErrNotExist.
func (t *Twin) change(key string, do func(*regfile.File, string) error) error {
	k, err := t.key(key)
	if err != nil {
		return err
	}
	h, there := t.hive(k)
	if !there {
		return fmt.Errorf("key %s: %w", k, fs.ErrNotExist)
	}
	if err := do(h.file, k); err != nil {
		return err
	}
	return t.write(h.name, h.file.Bytes())
}

// KeySecurity is the entry of access.yaml for the key, or what the nearest one
// above passes down. access.yaml may name keys by their long or short root.
func (t *Twin) KeySecurity(key string) (machine.Security, error) {
	k, err := t.listed(key)
	if err != nil {
		return machine.Security{}, err
	}
	if ok, err := t.KeyExists(key); err != nil || !ok {
		return machine.Security{}, fmt.Errorf("key %s: %w", k, fs.ErrNotExist)
	}
	return t.security(k, sddl.Key, sddl.Key)
}

// SetKeySecurity writes the entry of access.yaml, or takes it out.
func (t *Twin) SetKeySecurity(key string, s machine.Security) error {
	k, err := t.listed(key)
	if err != nil {
		return err
	}
	return t.setSecurity(k, s)
}

// listed writes a key as access.yaml does: with a short root when its roots are
// short.
func (t *Twin) listed(key string) (string, error) {
	k, err := t.key(key)
	if err != nil {
		return "", err
	}
	for _, r := range []struct{ long, short string }{{"HKEY_LOCAL_MACHINE", "HKLM"}, {"HKEY_USERS", "HKU"}} {
		if rest, ok := strings.CutPrefix(k, r.long); ok {
			for _, e := range t.access.pairs() {
				if root, _, _ := strings.Cut(e.key.Value, `\`); strings.EqualFold(root, r.short) {
					return r.short + rest, nil
				}
			}
		}
	}
	return k, nil
}
