package verdict

import (
	"context"
	_ "embed"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

//go:embed testdata/whole.txt
var wholeText string

// TestWholeLogs: short logs in layouts of no make, whose causes stand in counts,
// comparisons, results and records more often than in sentences, are told as
// somebody who reads them would.
func TestWholeLogs(t *testing.T) {
	n := 0
	for _, part := range strings.Split(wholeText, "\n=== ")[1:] {
		head, log, _ := strings.Cut(part, "\n")
		f := strings.Split(head, "|")
		for i := range f {
			f[i] = strings.TrimSpace(f[i])
		}
		n++
		_, v, err := ReachAll(context.Background(), []Input{{"x.log", strings.NewReader(log + "\n")}}, false, Options{})
		if err != nil {
			t.Errorf("%s: %v", f[0], err)
			continue
		}
		if !slices.Contains(strings.Split(f[1], "/"), string(v.Outcome)) {
			t.Errorf("%s: %s, want %s", f[0], v.Outcome, f[1])
			continue
		}
		if v.Outcome == story.Succeeded || v.Outcome == story.Restart {
			continue
		}
		class := "none"
		if v.Cause.Class != nil {
			class = *v.Cause.Class
		}
		if !slices.Contains(strings.Split(f[2], "/"), class) {
			t.Errorf("%s: told as %s with %.2f, want %s", f[0], class, v.Cause.Confidence, f[2])
			continue
		}
		if f[3] != "" && (v.Cause.Subject == nil || !strings.Contains(strings.ToLower(v.Cause.Subject.Name), strings.ToLower(f[3]))) {
			t.Errorf("%s: subject %+v, want %s", f[0], v.Cause.Subject, f[3])
		}
	}
	if n < 60 {
		t.Errorf("%d logs", n)
	}
}
