package generic

import (
	"fmt"
	"testing"

	"hollowkey/core/logs/story"
)

// What a level's figure means is told by which is written most.
func TestScaleOf(t *testing.T) {
	for _, tt := range []struct {
		name   string
		levels string // of the lines, a figure each
		figure string
		kind   story.Kind
	}{
		{"agents", "1111211131", "3", story.KindError},
		{"down from error", "4434434414", "1", story.KindError},
		{"a system logger's", "6667666376", "3", story.KindError},
		{"a system logger's notices", "6667656376", "5", story.KindInfo},
		{"up from trace", "1121211142", "4", story.KindError},
	} {
		var head [][]byte
		for i, c := range tt.levels {
			head = append(head, fmt.Appendf(nil, `{"time":"2026-05-04T09:12:%02dZ","level":%c,"message":"line %d"}`, i, c, i))
		}
		s := NewLearned("x", nil, head).scale
		if s == nil || s[tt.figure] != tt.kind {
			t.Errorf("%s: %v", tt.name, s)
		}
	}
	if s := NewLearned("x", nil, [][]byte{[]byte(`{"level":1,"message":"a"}`)}).scale; s != nil {
		t.Errorf("one line tells %v", s)
	}
}
