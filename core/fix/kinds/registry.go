// This file has the steps that end in one registry value.

package kinds

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
)

// ValueState is a registry value, or its absence.
type ValueState struct {
	KeyThere bool           `json:"key_there"`       // the key; it can be there without the value
	There    bool           `json:"there"`           // the value
	Value    *regfile.Value `json:"value,omitempty"` // nil when it is not there
	Made     []string       `json:"made,omitempty"`  // keys that were made on the way, outermost first
	Next     string         `json:"next,omitempty"`  // the value that stands behind it, where order is kept
}

// valueFamily has the rows that end in one registry value. Policies, PATH and
// the commands of a restart are such values too; they only find key, name and
// contents themselves.
func valueFamily() family {
	return define(func() *ValueState { return &ValueState{} },
		row[*ValueState]{read: readValue, want: wantValue, write: writeValue},
		row[*ValueState]{name: "registry", words: valueWords},
		row[*ValueState]{name: "unset", want: wantUnset, words: unsetWords},
		row[*ValueState]{name: "policy", prepare: preparePolicy, words: policyWords},
		row[*ValueState]{name: "path-entry", prepare: preparePath, want: wantPath, words: pathWords},
		row[*ValueState]{name: "restart", prepare: prepareRestart, words: restartWords})
}

func (*ValueState) family() string { return "registry" }

// plain leaves out how the value was written down in a file.
func (st *ValueState) plain() Fact {
	return &ValueState{KeyThere: st.KeyThere, There: st.There, Value: plainValue(st.Value)}
}

// plainValue is a value without the words that a file wrote it in.
func plainValue(v *regfile.Value) *regfile.Value {
	if v == nil {
		return nil
	}
	p := *v
	p.Text = ""
	return &p
}

// remember notes the keys that the step makes, for the way back to take away.
func (st *ValueState) remember(after Fact) { st.Made = after.(*ValueState).Made }

// Behind takes in what an earlier step of a plan leaves: the key of a value is
// there then that the earlier one made.
func (s Step) Behind(before *State, earlier State) {
	st, ok := before.Fact.(*ValueState)
	made, is := earlier.Fact.(*ValueState)
	if !ok || !is || st.KeyThere {
		return
	}
	if key, err := machine.LongKey(s.Args["key"]); err == nil && holds(made.Made, key) {
		st.KeyThere = true
	}
}

// MadeBefore leaves out the keys that an earlier step of a plan makes: taking
// that one back takes them away.
func (st *State) MadeBefore(earlier State) {
	after, ok := st.Fact.(*ValueState)
	made, is := earlier.Fact.(*ValueState)
	if ok && is {
		after.Made = slices.DeleteFunc(after.Made, func(k string) bool { return holds(made.Made, k) })
	}
}

// holds says whether a key is among keys, as the registry compares them:
// without regard to case.
func holds(keys []string, key string) bool {
	return slices.ContainsFunc(keys, func(k string) bool { return strings.EqualFold(k, key) })
}

// registryText leaves the value as it is, or takes away the keys that the step
// is going to make.
func (st *ValueState) registryText(s Step) ([]byte, error) {
	key, err := machine.LongKey(s.Args["key"])
	if err != nil {
		return nil, err
	}
	if !st.KeyThere && len(st.Made) > 0 {
		return regfile.Export(st.Made[0], nil, true), nil
	}
	e := regfile.Entry{Name: s.Args["name"], Delete: !st.There}
	if st.Value != nil {
		e.Value = *st.Value
	}
	return regfile.Export(key, []regfile.Entry{e}, false), nil
}

// wantUnset wants the value gone and its key as it is.
func wantUnset(_ machine.Machine, _ Step, now *ValueState) (*ValueState, error) {
	return &ValueState{KeyThere: now.KeyThere}, nil
}

// unsetWords says the step to a person; the key stays, even where it was the
// last value.
func unsetWords(s Step) string {
	return fmt.Sprintf("take the value %s of %s away", s.Args["name"], shortKey(s.Args["key"]))
}

// readValue reads a value and, where a twin keeps an order, the one behind it:
// that is where it goes back to.
func readValue(m machine.Machine, s Step) (*ValueState, error) {
	st := &ValueState{}
	there, err := m.KeyExists(s.Args["key"])
	if err != nil {
		return nil, err
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
		return nil, err
	}
	return st, nil
}

// wantValue notes which keys are missing on the way, the outermost first.
// Taking back removes just those.
func wantValue(m machine.Machine, s Step, now *ValueState) (*ValueState, error) {
	t, err := regfile.ParseType(s.Args["type"])
	if err != nil {
		return nil, err
	}
	v, err := regfile.Make(t, s.Args["value"])
	if err != nil {
		return nil, err
	}
	want := &ValueState{KeyThere: true, There: true, Value: &v}
	key, err := machine.LongKey(s.Args["key"])
	if err != nil {
		return nil, err
	}
	for k := key; strings.Count(k, `\`) > 1; k = k[:strings.LastIndexByte(k, '\\')] {
		there, err := m.KeyExists(k)
		if err != nil {
			return nil, err
		}
		if there {
			break
		}
		want.Made = append([]string{k}, want.Made...)
	}
	return want, nil
}

// writeValue sets or deletes the value. Keys that the step made go with it,
// unless somebody has put something into them since.
func writeValue(m machine.Machine, s Step, to *ValueState) error {
	key, name, r := s.Args["key"], s.Args["name"], to
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
		// On a twin a value comes back in its old place among the others.
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

// valueWords says the step to a person. The value without a name is called as
// the registry editor calls it.
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

// Lines tells whether it is the value or its key that is absent; the fix for
// the one may surprise where the other was meant.
func (st *ValueState) Lines(_ machine.Accounts) []string {
	switch {
	case !st.KeyThere:
		return []string{"the key is absent"}
	case !st.There:
		return []string{"the value is absent"}
	}
	return []string{st.Value.Type.String() + " " + strings.ReplaceAll(st.Value.Words(), "\n", ", ")}
}
