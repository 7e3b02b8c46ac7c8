// This file keeps facts in the journal, and tells whether two are the same.

package kinds

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
)

// A State is a step's fact as the journal keeps it: one object with one field,
// named after the family.
type State struct{ Fact }

// MarshalJSON writes {"registry": {…}} and the like.
func (s State) MarshalJSON() ([]byte, error) {
	return json.Marshal(map[string]Fact{s.family(): s.Fact})
}

// UnmarshalJSON reads it back. A family that is not known is an error, and so
// is more than one.
func (s *State) UnmarshalJSON(b []byte) error {
	if s.only(b) {
		return nil
	}
	var raw map[string]json.RawMessage
	if err := json.Unmarshal(b, &raw); err != nil {
		return err
	}
	if len(raw) != 1 {
		return fmt.Errorf("a state names %d facts in place of one", len(raw))
	}
	table.once.Do(fill)
	for tag, fact := range raw {
		empty, ok := table.empty[tag]
		if !ok {
			return fmt.Errorf("a state of the unknown kind %q", tag)
		}
		f := empty()
		if err := json.Unmarshal(fact, f); err != nil {
			return err
		}
		s.Fact = f
	}
	return nil
}

// only reads a state as we write it, {"tag":{…}}, in one go: a long journal
// holds many. It leaves alone what does not look so.
func (s *State) only(b []byte) bool {
	rest, ok := bytes.CutPrefix(b, []byte(`{"`))
	tag, fact, parted := bytes.Cut(rest, []byte(`":`))
	if !ok || !parted || len(fact) < 2 {
		return false
	}
	table.once.Do(fill)
	empty, known := table.empty[string(tag)]
	if !known {
		return false
	}
	f := empty()
	if json.Unmarshal(fact[:len(fact)-1], f) != nil { // or another fact stands behind it
		return false
	}
	s.Fact = f
	return true
}

// sameFamily says whether two states can be compared at all.
func (s State) sameFamily(o State) bool {
	return s.Fact != nil && o.Fact != nil && s.family() == o.family()
}

// Equal says whether two states are the same as far as the machine goes.
func (s State) Equal(o State) bool { return s.sameFamily(o) && norm(s.Fact) == norm(o.Fact) }

// norm is the text that decides whether two facts are the same.
func norm(f Fact) string {
	if f == nil {
		return ""
	}
	b, _ := json.Marshal(f.plain())
	return string(b)
}

// Remember takes over from the state after a change what the way back needs:
// the keys and files that were made along with it.
func (s State) Remember(after State) {
	if r, ok := s.Fact.(rememberer); ok && s.sameFamily(after) {
		r.remember(after.Fact)
	}
}

// Between says whether a state is made of parts of two others: a step of
// several writes that was cut off leaves such a one.
func (s State) Between(a, b State) bool {
	if !s.sameFamily(a) || !s.sameFamily(b) {
		return false
	}
	if p, ok := s.Fact.(partial); ok {
		return p.between(a.Fact, b.Fact)
	}
	var parts [3]any
	for i, f := range []Fact{s.Fact, a.Fact, b.Fact} {
		if json.Unmarshal([]byte(norm(f)), &parts[i]) != nil {
			return false
		}
	}
	return partOf(parts[0], parts[1], parts[2])
}

// partOf walks down three values at once and asks of each piece whether it is
// one of the two. Lists must have the same length: a missing entry is
// somebody's change, not half of ours.
func partOf(now, a, b any) bool {
	if reflect.DeepEqual(now, a) || reflect.DeepEqual(now, b) {
		return true
	}
	// Each part of the present state must be as before or as wanted: then a
	// crash explains it, and nobody else's hand is in it.
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

// RegistryText is the state as registry text that a person could merge by hand;
// nil when it is about something else.
func (s State) RegistryText(of Step) ([]byte, error) {
	if r, ok := s.Fact.(registryFact); ok {
		return r.registryText(of)
	}
	return nil, nil
}
