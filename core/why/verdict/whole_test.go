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

// TestWholeLogsCut: a log that was cut anywhere before its end was not, by its
// last line, one of a run that went well.
func TestWholeLogsCut(t *testing.T) {
	n := 0
	for _, part := range strings.Split(wholeText, "\n=== ")[1:] {
		head, log, _ := strings.Cut(part, "\n")
		if f := strings.Split(head, "|"); strings.TrimSpace(f[1]) != "failed" {
			continue
		}
		lines := strings.SplitAfter(log, "\n")
		for k := 2; k < len(lines)-1; k++ {
			_, v, err := ReachAll(context.Background(), []Input{{"x.log", strings.NewReader(strings.Join(lines[:k], ""))}}, false, Options{})
			if n++; err == nil && v.Outcome.Worked() {
				t.Errorf("%s, cut behind %q: %s", head, lines[k-1], v.Outcome)
			}
		}
	}
	if n < 300 {
		t.Errorf("%d cuts", n)
	}
}

// TestDriverSectionUnderWay: a section of the OS's log of devices that the text
// does not end is under way, however those before it went.
func TestDriverSectionUnderWay(t *testing.T) {
	const log = ">>>  [Device Install (Hardware initiated) - USB\\VID_1209&PID_0001\\1]\n>>>  Section start 2026/10/12 08:00:00.101\n" +
		"     dvi: {Install DEVICE} 08:00:00.220\n     dvi: {Install DEVICE exit (0x00000000)}\n<<<  Section end 2026/10/12 08:00:01.100\n<<<  [Exit status: SUCCESS]\n"
	if v := reached(t, log); v.Outcome != story.Succeeded {
		t.Errorf("whole: %s", v.Outcome)
	}
	const next = ">>>  [Device Install (Hardware initiated) - USB\\VID_1209&PID_0002\\1]\n>>>  Section start 2026/10/12 08:01:00.101\n" +
		"     dvi: {Install DEVICE} 08:01:00.220\n!!!  dvi:      Device not started: Device has problem: 0x34 (CM_PROB_UNSIGNED_DRIVER), problem status: 0xc0000428.\n"
	if v := reached(t, log+next); v.Outcome != story.Unfinished {
		t.Errorf("cut in the second: %s", v.Outcome)
	}
}

// TestReportCut: a report in one JSON value that was cut tells no end, and still
// what went wrong by then.
func TestReportCut(t *testing.T) {
	const log = `{
  "run": {
    "product": "Kelp Desk",
    "events": [
      {
        "time": "2026-11-12T08:00:00Z",
        "level": "info",
        "message": "Installing Kelp Desk 5.2, setup begins"
      },
      {
        "time": "2026-11-12T08:00:01Z",
        "level": "info",
        "message": "setup unpacks C:\\\\Temp\\\\kelp.cab for the installation"
      },
      {
        "time": "2026-11-12T08:00:02Z",
        "level": "error",
        "message": "There is not enough space on the disk D:"
      },
      {
        "time": "2026-11-12T08:00:03Z",
        "level": "info",
        "message": "cache looked at"
      }`
	if v := reached(t, log+"\n    ],\n    \"result\": \"failed\"\n  }\n}\n"); v.Outcome != story.Failed || *v.Cause.Class != "space" {
		t.Errorf("whole: %s, %s", v.Outcome, *v.Cause.Class)
	}
	if v := reached(t, log+",\n"); v.Outcome != story.Unfinished || *v.Cause.Class != "space" {
		t.Errorf("cut: %s, %s", v.Outcome, *v.Cause.Class)
	}
}
