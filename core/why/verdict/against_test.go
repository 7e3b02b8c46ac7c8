package verdict

import (
	"bytes"
	"context"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
	"hollowkey/demo/enginelog"
)

func storyOf(t *testing.T, log string) *story.Story {
	t.Helper()
	s, err := Read(context.Background(), Input{"x.log", strings.NewReader(log)}, textfile.Options{})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func engineRun(t *testing.T, f enginelog.Failure) string {
	t.Helper()
	var b bytes.Buffer
	err := enginelog.Write(&b, enginelog.Setup{Product: "Wharfage Ledger", Folder: "Wharfage", Files: 20, Failure: f,
		Started: time.Date(2026, 5, 4, 9, 12, 1, 0, time.UTC), Services: []enginelog.Service{{Name: "BerthSync", Display: "Berth Sync"}}})
	if err != nil {
		t.Fatal(err)
	}
	return b.String()
}

func TestPartsAtTheActionThatFailed(t *testing.T) {
	bad := storyOf(t, engineRun(t, enginelog.Failure{Action: "StartServices",
		Lines: []string{"Error 1920. Service 'Berth Sync' (BerthSync) failed to start."}}))
	good := storyOf(t, engineRun(t, enginelog.Failure{}))
	v, err := Judge(bad, Options{})
	if err != nil {
		t.Fatal(err)
	}
	p := v.Against(bad, good)
	if p.At == nil || p.At.Action != "StartServices" || p.At.Line == 0 || p.At.GoodLine == 0 {
		t.Errorf("parted at %+v", p.At)
	}
	if same := v.Against(bad, bad); len(same.Differences) > 0 {
		t.Errorf("a log differs from itself: %+v", same.Differences)
	}
}

// What the two were given differently is told, what the verdict speaks of
// first; times, IDs and counters are no differences.
func TestDifferencesOfForeignLogs(t *testing.T) {
	run := func(temp, drive, end string) string {
		return "2026-05-04 09:12:01 INFO Tide Watch 3.1 setup starting, pid=" + drive[:1] + "12\n" +
			"2026-05-04 09:12:01 INFO temp=" + temp + " colour=blue build=19045\n" +
			"2026-05-04 09:12:02 INFO staging to " + drive + "\n" + end
	}
	bad := storyOf(t, run(`R:\stage`, "R:", "2026-05-04 09:12:03 ERROR WriteFile R:\\stage\\a.pak: 112 not enough space\n"+
		"2026-05-04 09:12:04 ERROR setup failed, exit code 17\n"))
	good := storyOf(t, run(`C:\stage`, "C:", "2026-05-04 09:12:03 INFO written\n2026-05-04 09:12:04 INFO setup completed, exit code 0\n"))
	v, err := Judge(bad, Options{})
	if err != nil {
		t.Fatal(err)
	}
	p := v.Against(bad, good)
	if p.At == nil || p.At.Line != 4 || !p.Explains {
		t.Fatalf("%+v at %+v", p, p.At)
	}
	if d := p.Differences[0]; d.Name != "temp" || d.Here != `R:\stage` || d.There != `C:\stage` || !d.Tells {
		t.Errorf("first: %+v", d)
	}
	for _, d := range p.Differences {
		if d.Name == "colour" || d.Name == "build" {
			t.Errorf("no difference: %+v", d)
		}
	}
}
