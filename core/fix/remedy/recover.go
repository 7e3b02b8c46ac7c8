package remedy

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"

	"hollowkey/core/machine"
)

// A Recovery tells how a change was found that a crash had left open.
type Recovery struct {
	Item
	Found string
}

// Recover looks at what a crash left between two records, says how the target
// is found now, and writes that down. No more is done to the machine than that
// files which were begun beside their place are removed.
func (j *Journal) Recover(m machine.Machine) ([]Recovery, error) {
	var found []Recovery
	for _, i := range j.Items() {
		if i.Status != "open" && i.Status != "undo open" || i.Machine != m.Name() {
			continue
		}
		now, err := i.Step.kind().read(m, *i.Step)
		if err != nil {
			return found, err
		}
		undo := i.Status == "undo open"
		r := Recovery{Item: i}
		status := ""
		var left *State
		switch {
		case i.Step.kind().run != nil:
			status, r.Found = "failed", "whether the OS's program came to its end is not known; it may be run again"
		case equal(now, *i.After) && undo:
			status, r.Found = "done", "taking it back had not begun; the change is still in force"
		case equal(now, *i.After):
			status, r.Found = "done", "the change had been made; it can be taken back"
		case equal(now, *i.Before) && undo:
			status, r.Found = "undone", "it had been taken back"
		case equal(now, *i.Before):
			status, r.Found = "failed", "the change had not been made; nothing needs to be taken back"
		case between(now, *i.Before, *i.After):
			status, r.Found, left = "done", fmt.Sprintf("it was done in part (%s); it can be taken back", strings.Join(i.Step.Lines(now, m), ", ")), &now
			if now.Registry != nil && i.After.Registry != nil {
				now.Registry.Made = i.After.Registry.Made
			}
		default:
			status, r.Found = "done", fmt.Sprintf("the target is in neither state but %q; hollowkey undo --force --change %d sets it back", strings.Join(i.Step.Lines(now, m), ", "), i.Seq)
		}
		if t, ok := m.(interface{ Tidy() error }); ok {
			if err := t.Tidy(); err != nil {
				return found, err
			}
		}
		if _, err := j.write(Record{Phase: Found, Of: i.Seq, Title: status, After: left, Error: "an earlier run was cut off: " + r.Found}); err != nil {
			return found, err
		}
		r.Status = status
		found = append(found, r)
	}
	return found, nil
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
