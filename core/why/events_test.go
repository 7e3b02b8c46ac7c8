package why_test

import (
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/evtx/evtxtest"
	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/why"
)

// quiet is a log that says where a setup broke and not why.
const quiet = `2026-05-04 09:12:01 INFO  Tidebook Desk 4.2 setup starts
2026-05-04 09:12:04 INFO  files copied
2026-05-04 09:12:06 ERROR step Register failed
2026-05-04 09:12:06 ERROR setup failed, exit code 7
`

// TestEventLogsOfTheMachine: what the machine's own event logs hold of the time
// of a setup decides where the log does not say why, and nothing else does.
func TestEventLogsOfTheMachine(t *testing.T) {
	zone := time.FixedZone("", 2*60*60)
	at := time.Date(2026, 5, 4, 9, 12, 5, 0, zone)
	blocked := evtxtest.Event{Provider: "Microsoft-Windows-Windows Defender", ID: 1116, Level: 3, Time: at,
		Channel: "Defender", Computer: "ELLERY-D11",
		Data: []string{`Malware was detected; C:\Program Files\Tidebook\tide.dll was quarantined`}}
	for name, c := range map[string]struct {
		event func(e evtxtest.Event) evtxtest.Event
		log   string
		class string
		read  bool
	}{
		"at the time":          {func(e evtxtest.Event) evtxtest.Event { return e }, quiet, "security-software", true},
		"an hour before":       {func(e evtxtest.Event) evtxtest.Event { e.Time = e.Time.Add(-time.Hour); return e }, quiet, "unknown", false},
		"the same time in UTC": {func(e evtxtest.Event) evtxtest.Event { e.Time = e.Time.Add(2 * time.Hour); return e }, quiet, "unknown", false},
		"another program's":    {func(e evtxtest.Event) evtxtest.Event { e.Provider = "Chart Printer"; return e }, quiet, "unknown", false},
		"no warning":           {func(e evtxtest.Event) evtxtest.Event { e.Level = 4; return e }, quiet, "unknown", false},
		"beside a log that tells": {func(e evtxtest.Event) evtxtest.Event { return e },
			strings.Replace(quiet, "step Register failed", "There is not enough space on the disk (112)", 1), "space", false},
		"beside one that worked": {func(e evtxtest.Event) evtxtest.Event { return e },
			strings.Replace(quiet, "ERROR setup failed, exit code 7", "INFO setup completed successfully", 1), "", false},
	} {
		t.Run(name, func(t *testing.T) {
			m := twintest.Make(t, map[string]string{
				"twin.yaml": "name: ELLERY-D11\ntime: 2026-05-04T09:31:00+02:00\n",
				"disk/C/Windows/System32/winevt/Logs/Microsoft-Windows-Windows Defender%4Operational.evtx": string(evtxtest.Log([]evtxtest.Event{c.event(blocked)}, 10)),
			})
			log := write(t, "tidebook.log", c.log)
			ans := ask(t, why.Question{Logs: []string{log}, Machine: m})
			v := ans.Verdict
			if class := v.Cause.Class; c.class == "" && class != nil || c.class != "" && (class == nil || *class != c.class) {
				t.Errorf("the cause is %+v, want %q", v.Cause, c.class)
			}
			if told := strings.Contains(strings.Join(v.Remarks, "\n"), "read beside the log"); told != c.read {
				t.Errorf("remarks %q", v.Remarks)
			}
		})
	}
}
