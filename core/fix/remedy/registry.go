package remedy

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
)

func readValue(m machine.Machine, s Step) (State, error) {
	st := &ValueState{}
	there, err := m.KeyExists(s.Args["key"])
	if err != nil {
		return State{}, err
	}
	st.KeyThere = there
	v, err := m.Value(s.Args["key"], s.Args["name"])
	switch {
	case err == nil:
		st.There, st.Value = true, &v
		if all, err := m.Values(s.Args["key"]); err == nil {
			at := slices.IndexFunc(all, func(e regfile.Entry) bool { return strings.EqualFold(e.Name, s.Args["name"]) })
			if at >= 0 && at+1 < len(all) {
				st.Next = all[at+1].Name
			}
		}
	case !errors.Is(err, fs.ErrNotExist):
		return State{}, err
	}
	return State{Registry: st}, nil
}

func wantValue(m machine.Machine, s Step, now State) (State, error) {
	t, err := regfile.ParseType(s.Args["type"])
	if err != nil {
		return State{}, err
	}
	v, err := regfile.Make(t, s.Args["value"])
	if err != nil {
		return State{}, err
	}
	want := &ValueState{KeyThere: true, There: true, Value: &v}
	key, err := machine.LongKey(s.Args["key"])
	if err != nil {
		return State{}, err
	}
	for k := key; strings.Count(k, `\`) > 1; k = k[:strings.LastIndexByte(k, '\\')] {
		there, err := m.KeyExists(k)
		if err != nil {
			return State{}, err
		}
		if there {
			break
		}
		want.Made = append([]string{k}, want.Made...)
	}
	return State{Registry: want}, nil
}

func writeValue(m machine.Machine, s Step, to State) error {
	key, name, r := s.Args["key"], s.Args["name"], to.Registry
	if r.There {
		there, err := m.KeyExists(key)
		if err != nil {
			return err
		}
		if !there {
			for _, k := range r.Made {
				if err := m.CreateKey(k); err != nil {
					return err
				}
			}
			if err := m.CreateKey(key); err != nil {
				return err
			}
		}
		if p, ok := m.(interface {
			SetValueBefore(key, name, next string, v regfile.Value) error
		}); ok {
			return p.SetValueBefore(key, name, r.Next, *r.Value)
		}
		return m.SetValue(key, name, *r.Value)
	}
	there, err := m.KeyExists(key)
	if err != nil || !there {
		return err
	}
	if err := m.DeleteValue(key, name); err != nil {
		return err
	}
	for i := len(r.Made) - 1; i >= 0; i-- { // keys that the step made go, unless they were filled since
		if sub, err := m.Subkeys(r.Made[i]); err != nil || len(sub) > 0 {
			break
		}
		if vals, err := m.Values(r.Made[i]); err != nil || len(vals) > 0 {
			break
		}
		if err := m.DeleteKey(r.Made[i]); err != nil {
			return err
		}
	}
	return nil
}

func valueWords(s Step) string {
	name := s.Args["name"]
	if name == "" {
		name = "(default)"
	}
	return fmt.Sprintf("set the value %s of %s to %s", name, shortKey(s.Args["key"]), s.Args["value"])
}

// shortKey writes the root of a key in its short form.
func shortKey(key string) string {
	return strings.NewReplacer("HKEY_LOCAL_MACHINE", "HKLM", "HKEY_CURRENT_USER", "HKCU", "HKEY_USERS", "HKU").Replace(key)
}

func valueLines(st State, _ machine.Accounts) []string {
	switch {
	case !st.Registry.KeyThere:
		return []string{"the key is absent"}
	case !st.Registry.There:
		return []string{"the value is absent"}
	}
	return []string{st.Registry.Value.Type.String() + " " + strings.ReplaceAll(st.Registry.Value.Words(), "\n", ", ")}
}
