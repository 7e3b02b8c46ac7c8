package verdict

import (
	"context"
	_ "embed"
	"fmt"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

//go:embed testdata/survived.txt
var survivedText string

// What a setup survived is not what it broke over, however it is worded: a
// trouble that was made good, done another way, or found harmless, then a cause.
func TestWhatWasSurvived(t *testing.T) {
	type block struct {
		part, name string
		lines      [][3]string
	}
	blocks := map[string][]block{}
	kind := ""
	for line := range strings.Lines(survivedText) {
		line = strings.TrimRight(line, "\n")
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case strings.HasPrefix(line, "= "):
			f := strings.Split(line[2:], " | ")
			kind = f[0]
			blocks[kind] = append(blocks[kind], block{part: f[1], name: f[2]})
		default:
			f := strings.SplitN(line, "|", 3)
			b := &blocks[kind][len(blocks[kind])-1]
			b.lines = append(b.lines, [3]string{f[0], f[1], f[2]})
		}
	}
	if len(blocks["survived"]) < 20 || len(blocks["broke"]) < 20 {
		t.Fatalf("%d and %d blocks", len(blocks["survived"]), len(blocks["broke"]))
	}
	ends := [][][3]string{{{"I", "boot", "rolling back"}, {"E", "boot", "Setup of Marlin 4.2 failed"}},
		{{"E", "boot", "installation aborted, nothing was changed"}}, {{"I", "boot", "exit code 1"}}}
	for i, s := range blocks["survived"] {
		for k, c := range blocks["broke"] {
			if s.part != c.part {
				continue
			}
			all := [][3]string{{"I", "boot", "Marlin 4.2 setup started"}, {"D", "core", "cache entry 7 fresh"}, {"D", "core", "rule 31 of 412 evaluated"}}
			all = append(all, s.lines...)
			for n := range 4 + (i+k)%5 {
				all = append(all, [3]string{"D", "core", fmt.Sprintf(besideThem[n%len(besideThem)], n*17+k)})
			}
			all = append(all, [3]string{"I", "files", "folders made"}, [3]string{"I", "pre", "plan has 7 steps"})
			all = append(append(all, c.lines...), ends[(i+k)%len(ends)]...)
			var b strings.Builder
			grave := map[string]string{"I": "INFO", "W": "WARN", "E": "ERROR", "D": "DEBUG"}
			for n, l := range all {
				if levels := (i+k)%2 == 0; levels {
					fmt.Fprintf(&b, "2026-11-24 09:12:%02d,123 [%-5s] %s: %s\n", n, grave[l[0]], l[1], l[2])
				} else {
					fmt.Fprintf(&b, "09:12:%02d %-6s %s\n", n, l[1], l[2])
				}
			}
			t.Run(s.name+" "+c.name, func(t *testing.T) {
				t.Parallel()
				_, v, err := ReachAll(context.Background(), []Input{{Name: "marlin.log", Text: strings.NewReader(b.String())}}, false, Options{})
				if err != nil {
					t.Fatalf("%v\n%s", err, b.String())
				}
				if v.Outcome != story.Failed || v.Cause.Class == nil || *v.Cause.Class != c.name {
					t.Errorf("%s, %v (%.2f), want %s\n%s", v.Outcome, *v.Cause.Class, v.Cause.Confidence, c.name, b.String())
				}
			})
		}
	}
}

// What only looks as if it had been survived is still what broke it.
func TestWhatWasNotSurvived(t *testing.T) {
	for text, class := range map[string]string{
		"ERROR dl: download of extras.pk2 failed: connection reset\nINFO dl: attempt 2 of 2\nERROR dl: download of extras.pk2 failed: connection reset": "network",
		"ERROR dl: download of extras.pk2 failed: connection reset\nINFO dl: base.pk2 complete":                                                         "network",
		"ERROR db: cannot open quay.sdb: file is locked by quayd.exe\nINFO db: using defaults":                                                          "in-use",
		"INFO svc: stopping QuaySync\nERROR svc: QuaySync did not stop (1053)":                                                                          "service",
		"ERROR files: cannot write C:\\Program Files\\Quay\\a.dll: Access is denied.\nINFO files: copying to the user folder instead":                   "permission",
		"ERROR dl: download of extras.pk2 failed: connection reset\nINFO dl: extras.pk2 complete\nERROR pkg: extras.pk2: hash mismatch":                 "corrupt",
		"WARN sig: timestamp server not reachable, signature accepted without it\nERROR sig: base.pk2: signature invalid":                               "corrupt",
	} {
		log := ""
		for i, l := range strings.Split("INFO boot: Quay 4.2 setup started\nINFO boot: plan has 7 steps\n"+text+"\nERROR boot: Setup failed", "\n") {
			log += fmt.Sprintf("2026-11-24 09:12:%02d %s\n", i, l)
		}
		_, v, err := ReachAll(context.Background(), []Input{{Name: "quay.log", Text: strings.NewReader(log)}}, false, Options{})
		if err != nil || *v.Cause.Class != class {
			t.Errorf("%v, %s (%.2f), want %s\n%s", err, *v.Cause.Class, v.Cause.Confidence, class, log)
		}
	}
}
