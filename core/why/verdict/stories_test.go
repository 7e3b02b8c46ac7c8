package verdict

import (
	"context"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"

	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/story"
)

//go:embed testdata/stories.txt
var storiesText string

// A told is one setup of stories.txt.
type toldStory struct {
	name, outcome, class, subject string
	lines                         [][3]string
}

func toldStories(t *testing.T) (all []toldStory) {
	t.Helper()
	for line := range strings.Lines(storiesText) {
		line = strings.TrimRight(line, "\n")
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case strings.HasPrefix(line, "= "):
			f := strings.Split(line[2:], " | ")
			if len(f) != 4 {
				t.Fatalf("the head %q has %d parts", line, len(f))
			}
			all = append(all, toldStory{f[0], f[1], f[2], strings.TrimSpace(f[3]), nil})
		default:
			f := strings.SplitN(line, "|", 3)
			s := &all[len(all)-1]
			s.lines = append(s.lines, [3]string{f[0], f[1], f[2]})
		}
	}
	return all
}

// besideThem is what other parts of a program say meanwhile.
var besideThem = []string{"cache entry %d is fresh", "evaluated rule %d of 412", "free handles %d", "checkpoint %d", "settings page read, %d values"}

// inLayout writes a setup's lines in one of several layouts.
func inLayout(s toldStory, layout string) string {
	var b strings.Builder
	grave := map[string]string{"I": "INFO", "W": "WARN", "E": "ERROR", "D": "DEBUG"}
	n := 0
	write := func(level, source, text string) {
		n++
		stamp := fmt.Sprintf("2026-11-24 09:%02d:%02d", n/60, n%60)
		switch layout {
		case "bare":
			b.WriteString(text + "\n")
		case "levels":
			fmt.Fprintf(&b, "%s,123 [%-5s] %s: %s\n", stamp, grave[level], source, text)
		case "sources":
			fmt.Fprintf(&b, "%s.123 %-9s %s\n", stamp[11:], source, text)
		case "json":
			line, _ := json.Marshal(map[string]string{"ts": strings.Replace(stamp, " ", "T", 1) + "Z", "level": strings.ToLower(grave[level]), "logger": source, "msg": text})
			b.WriteString(string(line) + "\n")
		}
	}
	for i, l := range s.lines {
		for k := range i * 7 % 5 {
			if layout != "bare" && i > 0 {
				write("D", "core", fmt.Sprintf(besideThem[(i+k)%len(besideThem)], i*31+k*7))
			}
		}
		write(l[0], l[1], l[2])
	}
	return b.String()
}

// The same setup is told the same way whatever its log looks like.
func TestToldStories(t *testing.T) {
	for _, s := range toldStories(t) {
		for _, layout := range []string{"bare", "levels", "sources", "json"} {
			t.Run(s.name+" "+layout, func(t *testing.T) {
				t.Parallel()
				text := inLayout(s, layout)
				_, v, err := ReachAll(context.Background(), []Input{{Name: "told.log", Text: strings.NewReader(text)}}, false, Options{})
				if err != nil {
					t.Fatalf("%v\n%s", err, text)
				}
				class, subject := "", ""
				if v.Cause.Class != nil {
					class = *v.Cause.Class
				}
				if v.Cause.Subject != nil {
					subject = v.Cause.Subject.Name
				}
				if string(v.Outcome) != s.outcome || class != s.class || !strings.Contains(strings.ToLower(subject), strings.ToLower(s.subject)) {
					t.Errorf("%s, class %q, subject %q, %.2f; want %s, %q, %q\n%s", v.Outcome, class, subject, v.Cause.Confidence, s.outcome, s.class, s.subject, text)
				}
			})
		}
	}
}

// A text that nobody wrote of a setup is none, even when it is named.
func TestNamedTexts(t *testing.T) {
	for name, text := range map[string]string{
		"shopping":   "milk\nbread\n2 apples\nerror in the bill, ask\n",
		"a game":     "connected to server\nplayer joined\nplayer left\nconnection lost, reconnecting\nconnected\nround over\n",
		"a ping":     "PING ellery-dp2 (10.0.0.2) 56(84) bytes of data.\nRequest timed out.\nReply from 10.0.0.2: bytes=32 time=3ms TTL=64\n4 packets transmitted, 2 received\n",
		"mail":       "From: a@ellery.example\nSubject: access\n\nHello,\ncould you give me access to the share? I get access denied.\nThanks\n",
		"tests":      "=== RUN TestA\n--- PASS: TestA\n=== RUN TestB\n--- FAIL: TestB\nFAIL\nexit status 1\n",
		"a compiler": "main.c:12:5: error: expected ; before return\nmain.c:20:1: warning: control reaches end\nmake: *** [main.o] Error 1\n",
		"printing":   "job 12 queued\njob 12 printing\nprinter offline\njob 12 held\n",
		"a table":    "name,age,city\nann,31,ellery\nbob,25,ellery\n",
		"a backup":   "backup of D: started\nfile locked: mail.pst skipped\n1 file skipped\nbackup finished\n",
		"a listing":  "total 12\ndrwxr-xr-x 2 a a 4096 Nov 24 09:12 bin\n-rw-r--r-- 1 a a 120 Nov 24 09:12 setup.ini\n",
		"settings":   "[main]\nlang=en\nport=8080\nservice=off\n",
		"a chat":     "[09:12] nwills: planner says access denied\n[09:13] tkarim: try again\n[09:14] nwills: same\n",
	} {
		_, v, err := ReachAll(context.Background(), []Input{{Name: name, Text: strings.NewReader(text)}}, false, Options{})
		if !errors.Is(err, dialects.ErrNoLog) {
			t.Errorf("%s: %v, %+v; want that it is no setup log", name, err, v)
		}
	}
}

// A program that says that it leaves tells no failure by that, where what
// failed before did not stop it.
func TestLeavingIsNoFailure(t *testing.T) {
	for _, text := range []string{
		"2026-11-24 09:12:01 INFO setup: Tidebook 2.8 setup\n2026-11-24 09:12:02 INFO copy: 211 files\n" +
			"2026-11-24 09:12:03 WARN copy: 2 files in use, replaced at restart\n2026-11-24 09:12:04 INFO setup: closing\n",
		"2026-11-24 09:12:01 INFO setup: Tidebook 2.8 setup\n2026-11-24 09:12:02 INFO copy: 211 files\n" +
			"2026-11-24 09:12:03 WARN net: news feed not reachable\n2026-11-24 09:12:03 INFO reg: 12 values\n2026-11-24 09:12:04 INFO setup: exiting\n",
		"Tidebook 2.8 setup\ncopied 211 files\ncould not reach the news feed\nregistered\nexit\n",
		"Tidebook 2.8 setup\ncopied 211 files\nold key not there, ignored\nregistered\nexiting\n",
		"Tidebook 2.8 setup\nversion 2.8 found, nothing to do\nclosing\n",
		"Tidebook 2.8 setup\nTidebook 2.8 is there already\nnothing was changed\n",
		"Tidebook 2.8 setup\ncopied 211 files\nregistered\nnews feed not reachable: connection refused\nplease check your network settings\n",
		"Tidebook 2.8 setup\ncopied 211 files\nservice TideSync is disabled\nplease enable it when it suits you\n",
		"Tidebook Desk 6.4\nTideSync not installed, nothing to stop\n1204 files written\nfinished; please restart the computer to complete the installation\n",
	} {
		_, v, err := ReachAll(context.Background(), []Input{{Name: "left.log", Text: strings.NewReader(text)}}, false, Options{})
		if err != nil || v.Outcome == story.Failed {
			t.Errorf("%v, %+v\n%s", err, v, text)
		}
	}
}
