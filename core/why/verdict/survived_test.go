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

//go:embed testdata/consequences.txt
var consequencesText string

// A toldBlock is some lines with a head.
type toldBlock struct {
	head  []string
	lines [][3]string // how grave, who says it, and what
}

func toldBlocks(text string) (all []toldBlock) {
	for line := range strings.Lines(text) {
		line = strings.TrimRight(line, "\n")
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case strings.HasPrefix(line, "= "):
			all = append(all, toldBlock{head: strings.Split(line[2:], " | ")})
		default:
			f := strings.SplitN(line, "|", 3)
			b := &all[len(all)-1]
			b.lines = append(b.lines, [3]string{f[0], f[1], f[2]})
		}
	}
	return all
}

// laidOut writes lines in a layout.
func laidOut(all [][3]string, layout string) string {
	var b strings.Builder
	grave := map[string]string{"I": "INFO", "W": "WARN", "E": "ERROR", "D": "DEBUG"}
	for n, l := range all {
		switch layout {
		case "levels":
			fmt.Fprintf(&b, "2026-11-24 09:12:%02d,123 [%-5s] %s: %s\n", n, grave[l[0]], l[1], l[2])
		case "sources":
			fmt.Fprintf(&b, "09:12:%02d %-6s %s\n", n, l[1], l[2])
		case "bare":
			b.WriteString(l[2] + "\n")
		}
	}
	return b.String()
}

// What a setup survived is not what it broke over, however it is worded: a
// trouble that was made good, done another way, or found harmless, then a cause.
func TestWhatWasSurvived(t *testing.T) {
	blocks := map[string][]toldBlock{}
	for _, b := range toldBlocks(survivedText) {
		blocks[b.head[0]] = append(blocks[b.head[0]], b)
	}
	if len(blocks["survived"]) < 20 || len(blocks["broke"]) < 20 {
		t.Fatalf("%d and %d blocks", len(blocks["survived"]), len(blocks["broke"]))
	}
	ends := [][][3]string{{{"I", "boot", "rolling back"}, {"E", "boot", "Setup of Marlin 4.2 failed"}},
		{{"E", "boot", "installation aborted, nothing was changed"}}, {{"I", "boot", "exit code 1"}}}
	for i, s := range blocks["survived"] {
		for k, c := range blocks["broke"] {
			if s.head[1] != c.head[1] {
				continue
			}
			all := [][3]string{{"I", "boot", "Marlin 4.2 setup started"}, {"D", "core", "cache entry 7 fresh"}, {"D", "core", "rule 31 of 412 evaluated"}}
			all = append(all, s.lines...)
			for n := range 4 + (i+k)%5 {
				all = append(all, [3]string{"D", "core", fmt.Sprintf(besideThem[n%len(besideThem)], n*17+k)})
			}
			all = append(all, [3]string{"I", "files", "folders made"}, [3]string{"I", "pre", "plan has 7 steps"})
			all = append(append(all, c.lines...), ends[(i+k)%len(ends)]...)
			text := laidOut(all, []string{"levels", "sources"}[(i+k)%2])
			t.Run(s.head[2]+" "+c.head[2], func(t *testing.T) {
				t.Parallel()
				_, v, err := ReachAll(context.Background(), []Input{{Name: "marlin.log", Text: strings.NewReader(text)}}, false, Options{})
				if err != nil {
					t.Fatalf("%v\n%s", err, text)
				}
				if v.Outcome != story.Failed || v.Cause.Class == nil || *v.Cause.Class != c.head[2] {
					t.Errorf("%s, %v (%.2f), want %s\n%s", v.Outcome, *v.Cause.Class, v.Cause.Confidence, c.head[2], text)
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

// A run that went well is told so, whatever it survived, in words that say so
// outright or by its last word.
func TestWhatWasSurvivedWell(t *testing.T) {
	for i, s := range toldBlocks(survivedText) {
		if s.head[0] != "survived" {
			continue
		}
		for k, end := range []string{"Setup of Marlin 4.2 completed successfully", "exit code 0", "Marlin 4.2 installed", "all steps completed", "setup ended with result: success"} {
			all := append([][3]string{{"I", "boot", "Marlin 4.2 setup started"}}, s.lines...)
			for n := range (i + k) % 4 {
				all = append(all, [3]string{"D", "core", fmt.Sprintf(besideThem[n], n*17+k)})
			}
			all = append(all, [3]string{"I", "files", "1204 files copied"}, [3]string{"I", "reg", "42 values written"}, [3]string{"I", "boot", end})
			text := laidOut(all, "levels")
			t.Run(s.head[2]+" "+end, func(t *testing.T) {
				t.Parallel()
				_, v, err := ReachAll(context.Background(), []Input{{Name: "marlin.log", Text: strings.NewReader(text)}}, false, Options{})
				if err != nil || v.Outcome != story.Succeeded && v.Outcome != story.Restart {
					t.Errorf("%v, %+v\n%s", err, v, text)
				}
			})
		}
	}
}

// The first of several failures is the cause, not what came of it, near or far
// from it and in any layout.
func TestConsequences(t *testing.T) {
	for i, c := range toldBlocks(consequencesText) {
		for k, layout := range []string{"levels", "sources", "bare"} {
			all := append([][3]string{{"I", "boot", "Marlin 4.2 setup started"}, {"I", "boot", "plan has 7 steps"}}, c.lines[0])
			for n := range (i + k) % 3 * 5 {
				if layout != "bare" {
					all = append(all, [3]string{"D", "core", fmt.Sprintf(besideThem[n%len(besideThem)], n*17+i)})
				}
			}
			text := laidOut(append(all, c.lines[1:]...), layout)
			t.Run(fmt.Sprintf("%d %s %s", i, c.head[0], layout), func(t *testing.T) {
				t.Parallel()
				_, v, err := ReachAll(context.Background(), []Input{{Name: "marlin.log", Text: strings.NewReader(text)}}, false, Options{})
				if err != nil || v.Outcome != story.Failed || *v.Cause.Class != c.head[0] {
					t.Errorf("%v, %s (%.2f), want %s\n%s", err, *v.Cause.Class, v.Cause.Confidence, c.head[0], text)
				}
			})
		}
	}
}
