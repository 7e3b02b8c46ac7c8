package verdict

import (
	"context"
	"strings"
	"testing"
)

// Logs that name no product, and that nothing links, are of setups of their own
// when each tells its own cause; the newest stands first. What one of them
// leads to, or what tells no cause, is of the same.
func TestUnnamedLogsApart(t *testing.T) {
	const right = "2026-05-04 08:00:01 INFO installer starts\n2026-05-04 08:00:02 ERROR cannot write C:\\Tide\\a.dll: access is denied (5)\n" +
		"2026-05-04 08:00:03 ERROR install failed, exit code 7\n"
	const room = "2026-05-04 07:00:01 INFO installer starts\n2026-05-04 07:00:02 ERROR not enough space on the disk D:\n" +
		"2026-05-04 07:00:03 ERROR install failed, exit code 9\n"
	const outer = "2026-05-04 07:59:58 INFO rollout starts\n2026-05-04 07:59:59 INFO running setup, log inner.log\n" +
		"2026-05-04 08:00:04 ERROR timed out waiting for the server depot-1\n2026-05-04 08:00:05 ERROR rollout failed, exit code 7\n"
	for name, c := range map[string]struct {
		logs  []Input
		first string
		more  int
	}{
		"two setups": {[]Input{{Name: "room.log", Text: strings.NewReader(room)}, {Name: "right.log", Text: strings.NewReader(right)}},
			"permission", 1},
		"one leads to the other": {[]Input{{Name: "outer.log", Text: strings.NewReader(outer)}, {Name: "inner.log", Text: strings.NewReader(right)}},
			"", 0},
		"the same failure twice": {[]Input{{Name: "a.log", Text: strings.NewReader(right)}, {Name: "b.log", Text: strings.NewReader(right)}},
			"permission", 0},
	} {
		_, v, err := ReachAll(context.Background(), c.logs, false, Options{})
		if err != nil {
			t.Fatal(err)
		}
		if len(v.More) != c.more || c.first != "" && *v.Cause.Class != c.first {
			t.Errorf("%s: %s and %d more, want %s and %d", name, *v.Cause.Class, len(v.More), c.first, c.more)
		}
	}
}
