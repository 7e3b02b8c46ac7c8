package kinds

import (
	"encoding/json"
	"testing"

	"hollowkey/core/step"
)

// Every kind that core/step lists is carried out here, and no other; a row is
// whole.
func TestKindsAreWhole(t *testing.T) {
	table.once.Do(fill)
	for _, k := range step.Kinds() {
		row, ok := table.kinds[k.Name]
		if !ok {
			t.Errorf("core/step lists %q, which no family carries out", k.Name)
			continue
		}
		if row.read == nil || row.want == nil || row.write == nil || row.words == nil {
			t.Errorf("%s: its row lacks a part", k.Name)
		}
		if row.Size < 1 || row.Size > 8 {
			t.Errorf("%s has the size %d; sizes are 1 to 8", k.Name, row.Size)
		}
		if (row.run != nil) && row.OneWay == "" {
			t.Errorf("%s runs a program of the OS and claims a way back", k.Name)
		}
	}
	if len(table.kinds) != len(step.Kinds()) {
		t.Errorf("%d kinds are carried out, core/step lists %d", len(table.kinds), len(step.Kinds()))
	}
}

// Every family's fact reads back as it was written, and equals itself.
func TestStatesReadBack(t *testing.T) {
	for _, f := range families() {
		want := State{f.empty()}
		b, err := json.Marshal(want)
		if err != nil {
			t.Errorf("%s: %v", want.family(), err)
			continue
		}
		var got State
		if err := json.Unmarshal(b, &got); err != nil || !got.Equal(want) {
			t.Errorf("%s: %s reads back as %+v, %v", want.family(), b, got, err)
		}
		if !want.Between(want, want) && want.family() != "file" && want.family() != "held" {
			t.Errorf("%s: a state is not between itself and itself", want.family())
		}
		for _, s := range step.Kinds() {
			fits := (&Step{Kind: s.Name}).Fits(&got)
			if k, _ := kindOf(s.Name); fits != (k.tag == want.family()) {
				t.Errorf("a %s step fits a state of %s: %v", s.Name, want.family(), fits)
			}
		}
	}
	for _, bad := range []string{`{}`, `{"tide":{}}`, `{"service":{},"file":{}}`, `[]`, `{"service":7}`} {
		var s State
		if err := json.Unmarshal([]byte(bad), &s); err == nil {
			t.Errorf("%s is taken for a state", bad)
		}
	}
}
