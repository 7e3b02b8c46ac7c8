package verdict

import (
	"context"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/story"
)

// A label is what an expert would answer.
type label struct {
	Outcome story.Outcome `json:"outcome"`
	Class   *string       `json:"cls"`
	Action  string        `json:"action"`
	Message int           `json:"message"`
	Subject string        `json:"subject"`
}

func readLabels(t *testing.T) map[string]label {
	t.Helper()
	b, err := os.ReadFile(filepath.Join("testdata", "labelled", "labels.json"))
	if err != nil {
		t.Fatal(err)
	}
	labels := map[string]label{}
	if err := json.Unmarshal(b, &labels); err != nil {
		t.Fatal(err)
	}
	return labels
}

func reachFile(t *testing.T, names ...string) *Verdict {
	t.Helper()
	var ins []Input
	for _, n := range names {
		f, err := os.Open(filepath.Join("testdata", n))
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		ins = append(ins, Input{n, f})
	}
	_, v, err := ReachAll(context.Background(), ins, false, Options{})
	if err != nil {
		t.Fatalf("%v: %v", names, err)
	}
	return v
}

// Every labelled log gets the right outcome, class, action, message and
// subject; of the verdicts that claim to be sure, at least 95 of 100 must be
// right, and no good setup may be accused.
func TestLabelledLogs(t *testing.T) {
	sure, sureRight := 0, 0
	for name, want := range readLabels(t) {
		v := reachFile(t, filepath.Join("labelled", name))
		class := ""
		if v.Cause.Class != nil {
			class = *v.Cause.Class
		}
		subject := ""
		if v.Cause.Subject != nil {
			subject = v.Cause.Subject.Name
		}
		right := v.Outcome == want.Outcome && (want.Class == nil || class == *want.Class)
		if v.Worked() && class != "" {
			t.Errorf("%s: a good setup is accused of %s", name, class)
		}
		if want.Action != "" && (v.BrokeAt.Action == nil || *v.BrokeAt.Action != want.Action) ||
			want.Message != 0 && (v.Cause.Message == nil || *v.Cause.Message != want.Message) ||
			want.Subject != "" && !strings.Contains(strings.ToLower(subject), strings.ToLower(want.Subject)) {
			right = false
		}
		if !right {
			t.Errorf("%s: %s, class %q, broke at %v, subject %q (sign %s, %.2f); want %+v", name, v.Outcome, class, v.BrokeAt, subject, v.Sign,
				v.Cause.Confidence, want)
		}
		if v.Cause.Confidence >= 0.9 {
			sure++
			if right {
				sureRight++
			}
		}
	}
	if sure < 20 || sureRight*100 < sure*95 {
		t.Errorf("of %d sure verdicts %d are right", sure, sureRight)
	}
}

func TestJoinedLogs(t *testing.T) {
	for _, order := range [][]string{{"joined/bundle.log", "joined/RadioDesk.log"}, {"joined/RadioDesk.log", "joined/bundle.log"}} {
		v := reachFile(t, order...)
		if v.Outcome != story.Failed || *v.Product.Name != "Fairway Radio" || *v.ExitCode != 1603 {
			t.Errorf("outcome, product and number are not the outer log's: %s %v %v", v.Outcome, *v.Product.Name, *v.ExitCode)
		}
		if *v.Cause.Class != "service" || *v.BrokeAt.Action != "StartServices" || v.BrokeAt.File != "joined/RadioDesk.log" ||
			v.Cause.Subject.Name != "BerthSync" {
			t.Errorf("the cause is not the inner log's: %+v at %+v", v.Cause, v.BrokeAt)
		}
		if v.Next(false) != NextFix {
			t.Errorf("the sign of the inner log has steps, but next is %d", v.Next(false))
		}
		if first, last := v.Chain[0], v.Chain[len(v.Chain)-1]; first.File != "joined/bundle.log" || last.File != "joined/RadioDesk.log" {
			t.Errorf("the chain leads from %s to %s", first.File, last.File)
		}
	}
	// A log of another time does not belong to it.
	v := reachFile(t, "joined/bundle.log", "labelled/setupapi.dev.log")
	if *v.Cause.Class == "policy" {
		t.Errorf("a foreign log gave the cause: %+v", v.Cause)
	}
}

func TestSaid(t *testing.T) {
	exit := func(n int) *int { return &n }
	for _, tt := range []struct {
		text  string
		exit  *int
		class string
		least float64
		most  float64
	}{
		{`Error 1327. Invalid Drive: Z:\`, nil, "path", 0.7, 0.85},
		{"Fehler 1920. Der Dienst 'Berth Sync' (BerthSync) konnte nicht gestartet werden.", nil, "service", 0.7, 0.85},
		{"", exit(1618), "busy", 0.7, 0.85},
		{"", exit(1602), "cancelled", 0.7, 0.85},
		{"", exit(1603), "unknown", 0.1, 0.3},
		{"You must be an administrator to install this program.", exit(1603), "elevation", 0.7, 0.85},
		{"something went wrong", nil, "unknown", 0, 0.4}, {"hello world", nil, "unknown", 0, 0.4},
	} {
		v, err := Said(tt.text, tt.exit, Options{})
		if err != nil {
			t.Fatal(err)
		}
		if *v.Cause.Class != tt.class || v.Cause.Confidence < tt.least || v.Cause.Confidence > tt.most || len(v.Remedies) == 0 {
			t.Errorf("said %q, exit %v: %s at %.2f, %d remedies; want %s between %.2f and %.2f", tt.text, tt.exit, *v.Cause.Class,
				v.Cause.Confidence, len(v.Remedies), tt.class, tt.least, tt.most)
		}
	}
	v, _ := Said("", exit(1603), Options{})
	for i := 1; i < len(v.Others); i++ {
		if v.Others[i].Confidence > v.Others[i-1].Confidence {
			t.Errorf("the suspects are not in order: %v", v.Others)
		}
	}
	if v, _ := Said("", exit(3010), Options{}); v.Outcome != story.Restart {
		t.Errorf("3010: %s", v.Outcome)
	}
}

// A long silence before somebody cancelled is told.
func TestHangIsTold(t *testing.T) {
	log := "=== Verbose logging started: 5/4/2026  9:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: x ===\n" +
		"Action 9:12:01: INSTALL. \nAction start 9:12:01: INSTALL.\nAction start 9:12:02: WaitForBerth.\n" +
		"MSI (s) (A4:10) [09:55:04:000]: Note: 1: 1602 \nAction ended 9:55:04: WaitForBerth. Return value 2.\nAction ended 9:55:04: INSTALL. Return value 2.\n" +
		"MSI (s) (A4:10) [09:55:04:000]: MainEngineThread is returning 1602\n"
	v, err := Reach(context.Background(), Input{"hang.log", strings.NewReader(log)}, Options{})
	if err != nil || v.Outcome != story.Cancelled || !strings.Contains(strings.Join(v.Remarks, " "), "WaitForBerth") ||
		!strings.Contains(strings.Join(v.Remarks, " "), "43 minutes") {
		t.Errorf("%v: %s %q", err, v.Outcome, v.Remarks)
	}
}

// Hostile logs do no harm: they end, in bounded memory, without a panic.
func TestHostileLogs(t *testing.T) {
	for name, text := range map[string]string{
		"NUL bytes":         strings.Repeat("\x00", 100_000),
		"half characters":   strings.Repeat("MSI (s) (A4:10) [09:12:02:000]: \xe3\x80 Note: 1: 1303 2: \xff\n", 2000),
		"one line of 8 MB":  "Action start 9:12:02: X.\n" + strings.Repeat("x", 8<<20) + "\nAction ended 9:12:03: X. Return value 3.\n",
		"two million lines": "Action 9:12:01: INSTALL. \nAction start 9:12:01: INSTALL.\n" + strings.Repeat("a\n", 2_000_000),
		"deep nesting":      strings.Repeat("Action start 9:12:02: X.\nMSI (s) (A4:10) [09:12:02:000]: ******* RunEngine:\n", 20_000),
		"a log of a log":    strings.Repeat("[2026-05-04 09:12:01.100] [info] MSI (s) (A4:10) [09:12:02:000]: Note: 1: 1303 2: C:\\x\n", 5000),
		"many properties": "Action start 9:12:01: INSTALL.\nAction ended 9:12:01: INSTALL. Return value 3.\n" +
			strings.Repeat("Property(S): A"+strings.Repeat("b", 50)+" = c\n", 50_000),
		"many different ones": manyShapes(60_000),
		"braces":              strings.Repeat(`{"level":"error","msg":`+strings.Repeat("[", 500)+"\n", 500),
	} {
		v, err := Reach(context.Background(), Input{"hostile.log", strings.NewReader(text)}, Options{})
		if err == nil && len(v.Evidence) > maxEvidence {
			t.Errorf("%s: %d lines of evidence", name, len(v.Evidence))
		}
		if err != nil && !errors.Is(err, dialects.ErrBinary) && !errors.Is(err, dialects.ErrEmpty) && !errors.Is(err, dialects.ErrNoLog) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func manyShapes(n int) string {
	var b strings.Builder
	for i := range n {
		b.WriteString("2026-05-04 09:12:01,001 ERROR quay - ")
		for k := i; k > 0; k /= 7 {
			b.WriteByte(byte('a' + k%7))
		}
		b.WriteString(" failed\n")
	}
	return b.String()
}

func TestStoryIsBounded(t *testing.T) {
	s, err := dialects.Read(context.Background(), "x", strings.NewReader(manyShapes(60_000)), Options{}.Reading)
	if err != nil {
		t.Fatal(err)
	}
	if n := len(s.Last().Messages); n > story.MaxMessages {
		t.Errorf("%d messages are kept", n)
	}
}
