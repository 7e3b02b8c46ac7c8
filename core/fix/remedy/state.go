package remedy

import (
	"encoding/json"

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

// plainValue is a value without the words that a file wrote it in.
func plainValue(v *regfile.Value) *regfile.Value {
	if v == nil {
		return nil
	}
	p := *v
	p.Text = ""
	return &p
}
