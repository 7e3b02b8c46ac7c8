// This file keeps a hunt in the case over restarts.

package startup

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"hollowkey/core/bounded"
)

// A Case is a hunt under way, kept in the case's folder over restarts.
type Case struct {
	Machine string  `json:"machine"` // the hunt is on this one alone
	Items   []Item  `json:"items"`   // in the order of the hunt
	Rounds  []Round `json:"rounds"`  // oldest first
}

const (
	// The hunt goes over several logons: what was held and what was found is
	// kept here between them.
	stateName = "hunt.json"
	maxState  = 16 << 20 // bytes: some thousand items with their places, and a hundred rounds
)

// Load reads the hunt of a case; nil when there is none. It fails where the
// file is there and is none of ours, rather than begin anew over it.
func Load(dir string) (*Case, error) {
	b, err := bounded.ReadFile(filepath.Join(dir, stateName), maxState)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var c Case
	if err := json.Unmarshal(b, &c); err != nil {
		return nil, fmt.Errorf("%s: %w\nhint: the hunt was changed by hand; delete the file to begin anew", filepath.Join(dir, stateName), err)
	}
	for _, r := range c.Rounds {
		for _, i := range r.On {
			if i < 0 || i >= len(c.Items) {
				return nil, fmt.Errorf("%s: a round names item %d of %d", filepath.Join(dir, stateName), i, len(c.Items))
			}
		}
	}
	return &c, nil
}

// Save writes the hunt, whole or not at all.
func (c *Case) Save(dir string) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	b, err := json.MarshalIndent(c, "", "  ")
	if err != nil {
		return err
	}
	temp := filepath.Join(dir, stateName+".new")
	if err := os.Remove(temp); err != nil && !errors.Is(err, fs.ErrNotExist) { // of a run that was cut off, or a link
		return err
	}
	if err := writeNew(temp, b); err != nil {
		return err
	}
	return os.Rename(temp, filepath.Join(dir, stateName))
}

// End removes the hunt from the case.
func End(dir string) error {
	err := os.Remove(filepath.Join(dir, stateName))
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// Result is what the hunt knows now.
func (c *Case) Result() Result { return Hunt(len(c.Items), c.Rounds) }

// Off are the items that a round holds back.
func (c *Case) Off(on []int) (items []Item) {
	is := map[int]bool{}
	for _, i := range on {
		is[i] = true
	}
	for i, item := range c.Items {
		if !is[i] {
			items = append(items, item)
		}
	}
	return items
}

// writeNew writes a file that is not there yet.
func writeNew(name string, b []byte) error {
	f, err := os.OpenFile(name, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	_, err = f.Write(b)
	return errors.Join(err, f.Close())
}
