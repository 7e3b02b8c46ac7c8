package remedy

import (
	"encoding/json"
	"reflect"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/sddl"
)

// A State is what a step's target is like: the one field for its kind is set.
type State struct {
	Security *machine.Security `json:"security,omitempty"`
	Service  *ServiceState     `json:"service,omitempty"`
	Registry *ValueState       `json:"registry,omitempty"`
	File     *FileState        `json:"file,omitempty"`
	Keys     *KeysState        `json:"keys,omitempty"`
	Entry    *EntryState       `json:"entry,omitempty"`
	Task     *TaskState        `json:"task,omitempty"`
	Place    *PlaceState       `json:"place,omitempty"`
	Held     *HeldState        `json:"held,omitempty"`
	Right    *RightState       `json:"right,omitempty"`
	Boot     machine.SafeBoot  `json:"boot,omitempty"`
	Running  *RunningState     `json:"running,omitempty"`
	Ran      *RanState         `json:"ran,omitempty"`
}

// ServiceState is a service's start type and whether it runs.
type ServiceState struct {
	Start   machine.StartType `json:"start"`
	Running bool              `json:"running"`
}

// ValueState is a registry value, or its absence.
type ValueState struct {
	KeyThere bool           `json:"key_there"`
	There    bool           `json:"there"`
	Value    *regfile.Value `json:"value,omitempty"`
	Made     []string       `json:"made,omitempty"` // keys that were made on the way, outermost first
	Next     string         `json:"next,omitempty"` // the value that stands behind it, where order is kept
}

// equal says whether two states are the same as far as the machine goes: not in
// what is kept only to show it, or to put it back in its old place.
func equal(a, b State) bool { return norm(a) == norm(b) }

func norm(s State) string {
	if s.Registry != nil {
		r := *s.Registry
		r.Made, r.Next, r.Value = nil, "", plainValue(r.Value)
		s.Registry = &r
	}
	if s.File != nil {
		f := *s.File
		f.Made, f.Show = nil, nil
		s.File = &f
	}
	if s.Security != nil {
		sec := *s.Security
		if d, err := sddl.Parse(sec.SDDL); err == nil {
			sec.SDDL = d.String()
		}
		s.Security = &sec
	}
	if s.Keys != nil {
		s.Keys = s.Keys.plain()
	}
	if s.Entry != nil {
		e := *s.Entry
		e.Section = nil
		s.Entry = &e
	}
	if s.Task != nil {
		t := *s.Task
		t.Section = nil
		s.Task = &t
	}
	if s.Held != nil {
		h := *s.Held
		h.Show = nil
		s.Held = &h
	}
	b, _ := json.Marshal(s)
	return string(b)
}

// between says whether a state is made of parts of two others: a step of several
// writes that was cut off leaves such a one.
func between(now, a, b State) bool {
	if now.File != nil { // written whole or not at all: what is neither is somebody else's
		return false
	}
	if now.Held != nil { // all is kept before the first is taken away, and what stands is left
		most := max(a.Held.Files, b.Held.Files)
		return now.Held.There && now.Held.Files <= most && now.Held.Bytes <= max(a.Held.Bytes, b.Held.Bytes)
	}
	if now.Keys != nil && a.Keys != nil && b.Keys != nil {
		return partOf(now.Keys.flat(), a.Keys.flat(), b.Keys.flat())
	}
	var parts [3]any
	for i, s := range []State{now, a, b} {
		if json.Unmarshal([]byte(norm(s)), &parts[i]) != nil {
			return false
		}
	}
	return partOf(parts[0], parts[1], parts[2])
}

func partOf(now, a, b any) bool {
	if reflect.DeepEqual(now, a) || reflect.DeepEqual(now, b) {
		return true
	}
	switch n := now.(type) {
	case map[string]any:
		am, isA := a.(map[string]any)
		bm, isB := b.(map[string]any)
		if !isA || !isB {
			return false
		}
		for _, m := range []map[string]any{n, am, bm} {
			for name := range m {
				if !partOf(n[name], am[name], bm[name]) {
					return false
				}
			}
		}
		return true
	case []any:
		as, isA := a.([]any)
		bs, isB := b.([]any)
		if !isA || !isB || len(n) != len(as) || len(n) != len(bs) {
			return false
		}
		for i := range n {
			if !partOf(n[i], as[i], bs[i]) {
				return false
			}
		}
		return true
	}
	return false
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
