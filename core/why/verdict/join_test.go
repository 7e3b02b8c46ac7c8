package verdict

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/story"
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

// Texts that no word of theirs calls setup logs are read when several of them
// are named, or one beside a log that does not say why; not where the logs say
// enough, and never out of a folder.
func TestNamedBesideLogs(t *testing.T) {
	const vague = "2026-05-04 08:14:00 INFO Setup of Tidebook Desk 2.8.1 started\n2026-05-04 08:14:03 ERROR Installation failed, see the other log\n" +
		"2026-05-04 08:14:03 INFO exit code 1\n"
	const plain = "2026-05-04 08:14:00 INFO Setup of Tidebook Desk 2.8.1 started\n2026-05-04 08:14:03 ERROR There is not enough space on the disk C:\n" +
		"2026-05-04 08:14:03 ERROR Installation failed\n2026-05-04 08:14:03 INFO exit code 112\n"
	const good = "2026-05-04 08:14:00 INFO Setup of Tidebook Desk 2.8.1 started\n2026-05-04 08:14:03 INFO Installation completed successfully, exit code 0\n"
	const service = "service BerthSync could not be started: error 1058\ngiving up\n"
	const letter = "Dear all, the meeting is on Tuesday. Please bring the drawings of the new quay.\n"
	for name, c := range map[string]struct {
		texts   []string
		folder  bool
		outcome story.Outcome
		class   string // empty: none of them is a log
		passed  bool   // some were passed over
	}{
		"two of them":              {[]string{service, service}, false, story.Failed, "service", false},
		"one and a letter":         {[]string{service, letter}, false, story.Failed, "service", true},
		"beside a vague log":       {[]string{vague, service}, false, story.Failed, "service", false},
		"a letter beside it":       {[]string{vague, letter}, false, story.Failed, "unknown", true},
		"beside one that says why": {[]string{plain, service}, false, story.Failed, "space", true},
		"beside a good one":        {[]string{good, service}, false, story.Succeeded, "", true},
		"two letters":              {[]string{letter, letter}, false, "", "", false},
		"out of a folder":          {[]string{service, letter}, true, "", "", false},
	} {
		var ins []Input
		for i, text := range c.texts {
			ins = append(ins, Input{Name: fmt.Sprintf("%c.txt", 'a'+i), Text: strings.NewReader(text)})
		}
		_, v, err := ReachAll(context.Background(), ins, c.folder, Options{})
		if c.outcome == "" {
			if !errors.Is(err, dialects.ErrNoLog) {
				t.Errorf("%s: %v, %+v; want that none is a log", name, err, v)
			}
			continue
		}
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		class := ""
		if v.Cause.Class != nil {
			class = *v.Cause.Class
		}
		passed := slices.ContainsFunc(v.Remarks, func(r string) bool { return strings.Contains(r, "passed over") })
		if v.Outcome != c.outcome || class != c.class || passed != c.passed || len(v.More) > 0 {
			t.Errorf("%s: %s, %q, %v; want %s, %q", name, v.Outcome, class, v.Remarks, c.outcome, c.class)
		}
	}
}
