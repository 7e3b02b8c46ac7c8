package evidence

import (
	"testing"

	"hollowkey/core/logs/story"
)

// The result with which a setup ended leads to the lines that tell it; another
// one that was told long before counts less, one right before as much as ever.
func TestOwnResult(t *testing.T) {
	text := map[int]string{
		1:  "Error 0x80072efd: failed to connect to get.quay.example",
		50: "Error 0x80070005: cannot read the hash list",
		52: "Error 0x80091007: hash mismatch of core.pak",
		53: "setup failed, exit code 0x80091007",
	}
	a := &story.Attempt{Dialect: story.Generic, Place: story.Place{Line: 1}, LastLine: 53, Success: new(false)}
	for line := 1; line <= 53; line++ {
		m := &story.Message{Kind: story.KindInfo, Text: "copied a file", Place: story.Place{Line: line}, Repeated: 1}
		if text[line] != "" {
			m.Kind, m.Text = story.KindError, text[line]
		}
		a.Messages = append(a.Messages, m)
	}
	plain := ReadRun(a, nil)
	code := uint32(0x80091007)
	a.Exit = &story.Exit{Place: story.Place{Line: 53}, Code: int(int32(code))}
	own := ReadRun(a, nil)
	if got := own.lines[51].linked; got < linkedSame {
		t.Errorf("the line with the same result is linked by %.2f", got)
	}
	if was, is := plain.lines[0].linked, own.lines[0].linked; is > was*otherResult+0.01 {
		t.Errorf("another result long before counts %.2f, without the exit code %.2f", is, was)
	}
	if was, is := plain.lines[49].linked, own.lines[49].linked; is < was-0.01 {
		t.Errorf("another result right before counts %.2f, without the exit code %.2f", is, was)
	}
}
