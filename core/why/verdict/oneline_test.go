package verdict

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// oneLine are the rows of a file of lines that each stand for many logs.
func oneLine(t *testing.T, name string) (rows []string) {
	t.Helper()
	b, err := os.ReadFile(filepath.Join("testdata", "oneline", name))
	if err != nil {
		t.Fatal(err)
	}
	for row := range strings.Lines(string(b)) {
		if row = strings.TrimRight(row, "\n"); !strings.HasPrefix(row, "# ") {
			rows = append(rows, row)
		}
	}
	if len(rows) < 40 {
		t.Fatalf("%s has %d rows", name, len(rows))
	}
	return rows
}

// A lineLayout writes a line of a log.
type lineLayout func(second int, level, text string) string

var lineLayouts = map[string]lineLayout{
	"levels": func(s int, level, text string) string {
		return "2026-03-04 10:00:" + strconv.Itoa(10+s) + ",100 " + level + " " + text
	},
	"times": func(s int, _, text string) string { return "10:00:" + strconv.Itoa(10+s) + " " + text },
	"bare":  func(_ int, _, text string) string { return text },
	"records": func(s int, level, text string) string {
		record, err := json.Marshal(map[string]any{"time": "2026-03-04T10:00:" + strconv.Itoa(10+s) + "Z", "level": strings.TrimSpace(level), "msg": text,
			"host": "TILL-04", "run": "a81f"})
		if err != nil {
			panic(err) // of strings alone
		}
		return string(record)
	},
}

// logOf writes a log: lines of info, but those that begin with "!", which are
// errors.
func logOf(write lineLayout, texts ...string) string {
	var b strings.Builder
	for i, text := range texts {
		level := "INFO "
		if rest, ok := strings.CutPrefix(text, "!"); ok {
			level, text = "ERROR", rest
		}
		b.WriteString(write(i, level, text) + "\n")
	}
	return b.String()
}

const (
	lineRefused = `!cannot write C:\Kelp\b.ttf: access is denied`
	lineFailed  = "!setup failed, exit code 23"
)

// Whatever a setup calls itself in its first line, its name is read.
func TestProductsInTheFirstLine(t *testing.T) {
	for _, row := range oneLine(t, "heads.txt") {
		for layout, write := range lineLayouts {
			v := reached(t, logOf(write, strings.ReplaceAll(row, "@", "Kelp Chart"), "machine TILL-04, 8192 MB memory", "checking 14 files", "copied a.ttf",
				lineRefused, "removing a.ttf", lineFailed))
			if v.Product.Name == nil || *v.Product.Name != "Kelp Chart" {
				t.Errorf("%s: %q: %v", layout, row, v.Product)
			}
		}
	}
}

// A line in which all is well is no cause, be it a warning, in any language.
func TestHarmlessLines(t *testing.T) {
	for _, row := range oneLine(t, "harmless.txt") {
		for layout, write := range lineLayouts {
			v := reached(t, logOf(write, "Kelp Chart 4.2 setup", "checking 14 files", row, "copied c.ttf", lineRefused, "removing a.ttf", lineFailed))
			if *v.Cause.Class != "permission" {
				t.Errorf("%s: %q is told as %s with %.2f", layout, row, *v.Cause.Class, v.Cause.Confidence)
			}
		}
	}
}

// Whatever a setup calls its steps, the one that broke is named, be it the
// second or the fourth of its kind.
func TestStepsByTheirFirstLines(t *testing.T) {
	names := []string{"stop agent", "check space", "unpack core", "copy fonts"}
	did := []string{"agent is down", "12 GB free", "core.pak is whole", "copied a.ttf"}
	for _, row := range oneLine(t, "steps.txt") {
		for layout, write := range lineLayouts {
			for from := range 3 {
				texts := []string{"Kelp Chart 4.2 setup"}
				for i := from; i < len(names); i++ {
					step := strings.NewReplacer("@", names[i], "#", strconv.Itoa(i-from+1)).Replace(row[1:])
					texts = append(texts, step, did[i])
				}
				v := reached(t, logOf(write, append(texts, lineRefused, "removing a.ttf", lineFailed)...))
				if v.BrokeAt.Action == nil || !strings.HasSuffix(*v.BrokeAt.Action, "copy fonts") {
					t.Errorf("%s, %d steps: %q: broke at %v", layout, len(names)-from, row[1:], actionOf(v))
				}
			}
		}
	}
}

func actionOf(v *Verdict) string {
	if v.BrokeAt.Action == nil {
		return "nothing"
	}
	return *v.BrokeAt.Action
}

// Whatever words a setup ends with, the number in them is its exit code, and no
// cause.
func TestNumbersInTheLastLine(t *testing.T) {
	for _, row := range oneLine(t, "ends.txt") {
		for layout, write := range lineLayouts {
			v := reached(t, logOf(write, "Kelp Chart 4.2 setup", "checking space", "copied a.ttf", "copied c.ttf", lineRefused, "removing a.ttf",
				strings.ReplaceAll(row[1:], "@", "23")))
			if v.ExitCode == nil || *v.ExitCode != 23 || *v.Cause.Class != "permission" || v.Outcome != "failed" {
				t.Errorf("%s: %q: %s, %v, %s", layout, row[1:], v.Outcome, v.ExitCode, *v.Cause.Class)
			}
		}
	}
}

// What a telling line is about is what it names, and nothing that other lines
// name.
func TestSubjectsOfOneLine(t *testing.T) {
	for _, row := range oneLine(t, "about.txt") {
		f := strings.SplitN(row, "|", 3)
		classes, subjects := strings.Split(f[0], ";"), strings.Split(f[1], ";")
		for layout, write := range lineLayouts {
			v := reached(t, logOf(write, "Kelp Chart 4.2 setup", `running from C:\dl\kit, log C:\Temp\kelp.log`, "step 2: apply changes", "copied 14 files",
				"!"+f[2], "undoing step 2", "!setup failed, exit code 50"))
			if !slices.Contains(classes, *v.Cause.Class) {
				t.Errorf("%s: %q is told as %s, want %s", layout, f[2], *v.Cause.Class, f[0])
			}
			if f[1] == "*" {
				continue
			}
			name := ""
			if s := v.Cause.Subject; s != nil {
				name = strings.ToLower(s.Name)
			}
			if !slices.ContainsFunc(subjects, func(s string) bool {
				s = strings.ToLower(s)
				return name != "" && (strings.Contains(name, s) || strings.Contains(s, name))
			}) {
				t.Errorf("%s: %q is about %q, want %s", layout, f[2], name, f[1])
			}
		}
	}
}

// Whatever words tell that all went well, they are understood, with trouble
// before them that did not matter; where they stand in the middle of a log that
// is cut they tell nothing of its end.
func TestLastLinesOfGoodRuns(t *testing.T) {
	for _, row := range oneLine(t, "well.txt") {
		text := strings.ReplaceAll(row, "@", "Kelp Chart")
		for layout, write := range lineLayouts {
			texts := []string{"Kelp Chart 4.2 setup", "checking space", "mirror 1 did not answer, using mirror 2", "copied a.dat", "copied b.dat",
				"!usage report not sent: connection refused (ignored)", "registered b.dat", "shortcuts written", text}
			if v := reached(t, logOf(write, texts...)); v.Outcome != "succeeded" {
				t.Errorf("%s: %q: %s", layout, text, v.Outcome)
			}
		}
	}
	for _, cut := range []string{"step 3 of 7: copy fonts\ncopied a.ttf", "copy fonts: done\nregister parts", "unpacked a.pak\ndone\nunpacked b.pak\ndone",
		"step 3 of 7: copy fonts\nok", "copied 14 of 80 files"} {
		if v := reached(t, "Kelp Chart 4.2 setup\nchecking space\n"+cut+"\n"); v.Outcome == "succeeded" {
			t.Errorf("%q is told to have worked", cut)
		}
	}
}

// Whatever words tell that it failed are understood without a number and
// without an error before them.
func TestLastLinesOfBadRuns(t *testing.T) {
	for _, row := range oneLine(t, "failed.txt") {
		text := strings.ReplaceAll(row, "@", "Kelp Chart")
		for layout, write := range lineLayouts {
			v := reached(t, logOf(write, "Kelp Chart 4.2 setup", "checking space", "copied a.dat", "opening b.dat", "a.dat deleted", text))
			if v.Outcome != "failed" {
				t.Errorf("%s: %q: %s", layout, text, v.Outcome)
			}
		}
	}
}

// A script that ends with "Done." whatever became of what it called is not
// believed where a line tells a failure.
func TestDoneAfterAFailure(t *testing.T) {
	for _, layout := range []string{"times", "bare"} {
		all, believed := 0, 0
		for _, row := range oneLine(t, "about.txt") {
			line := row[strings.LastIndexByte(row[:strings.LastIndexByte(row, '|')+1], '|')+1:]
			all++
			v := reached(t, logOf(lineLayouts[layout], "Kelp Chart 4.2 setup", "checking", "copied 14 files", line, "shortcuts written", "Done."))
			if v.Outcome == "succeeded" {
				believed++
			}
		}
		if believed*100 > all*10 {
			t.Errorf("%s: %d of %d are told to have worked", layout, believed, all)
		}
		t.Logf("%s: %d of %d are told to have worked", layout, believed, all)
	}
}

// What a program prints between its stamped lines, a licence or another
// program's summary, fails nothing by its words.
func TestPrintedTextIsNoFailure(t *testing.T) {
	const log = "2026-03-04 10:00:01,100 INFO  Kelp Chart 4.2 setup\n2026-03-04 10:00:02,100 INFO  licence:\n" +
		"Kelp Chart is provided as is. If an error occurs the maker is not liable for any failure of the system.\n" +
		"You may not copy it. Access is denied to those who do not agree.\n2026-03-04 10:00:03,100 INFO  output of the tool:\n" +
		"checking drive D: error rate is low\n0 files failed, access denied: none\n2026-03-04 10:00:04,100 INFO  copied 14 files\n"
	if v := reached(t, log); v.Outcome != "unfinished" {
		t.Errorf("a log without an end is %s", v.Outcome)
	}
	if v := reached(t, log+"2026-03-04 10:00:05,100 INFO  all done\n"); v.Outcome != "succeeded" {
		t.Errorf("a log with a good end is %s", v.Outcome)
	}
}

// What a dialog said is as good as a number: its cause is found by its words,
// in any language, and words that name none are told as unknown.
func TestDialogs(t *testing.T) {
	for _, row := range oneLine(t, "said.txt") {
		f := strings.SplitN(row, "|", 3)
		v, err := Said(f[2], nil, Options{})
		if err != nil {
			t.Fatal(err)
		}
		if *v.Cause.Class != f[0] {
			t.Errorf("%q: %s, want %s", f[2], *v.Cause.Class, f[0])
		}
		if f[1] != "*" && (v.Cause.Subject == nil || v.Cause.Subject.Name != f[1]) {
			t.Errorf("%q: about %v, want %s", f[2], v.Cause.Subject, f[1])
		}
	}
}

// What the OS's tools and runtimes print when they fail, and what setups say of
// a thing in a few words, is understood in a log of any form.
func TestShortFailures(t *testing.T) {
	for _, row := range append(oneLine(t, "tools.txt"), oneLine(t, "things.txt")...) {
		f := strings.SplitN(row, "|", 3)
		for _, layout := range []string{"levels", "times", "bare"} {
			v := reached(t, logOf(lineLayouts[layout], "setup of Kelp Chart 3.1 begins", "checking 14 files", "copied a.ttf", "copied b.ttf", "!"+f[2],
				"removing a.ttf", "!setup failed"))
			if *v.Cause.Class != f[0] {
				t.Errorf("%s: %q: %s, want %s", layout, f[2], *v.Cause.Class, f[0])
			}
			if f[1] != "*" && (v.Cause.Subject == nil || v.Cause.Subject.Name != f[1]) {
				t.Errorf("%s: %q: about %v, want %s", layout, f[2], v.Cause.Subject, f[1])
			}
		}
	}
}

// A year is a part of a product's name, and no version.
func TestYearsInNames(t *testing.T) {
	for _, row := range []string{"Kelp Chart 2026 setup", "Kelp Chart 2026 installer", "deployment of Kelp Chart 2026"} {
		v := reached(t, logOf(lineLayouts["levels"], row, "checking 14 files", "copied a.ttf", lineRefused, lineFailed))
		if v.Product.Name == nil || *v.Product.Name != "Kelp Chart 2026" {
			t.Errorf("%q: %v", row, v.Product)
		}
	}
}

// Words that a dialog would mean are facts in a line that tells of no failure:
// they take the place of no cause.
func TestWordsOfDialogsAsFacts(t *testing.T) {
	for _, fact := range []string{"source language pack not available, using English", "data source TideDB is not available yet, will be made",
		"a restart is pending: no", "no program must be closed for this update", "if Kelp Viewer is open, it will be closed",
		"must be restarted before first use: false", "older version of Kelp Chart was not removed completely, cleaning up",
		"verify that you have access to this location if asked", "smartscreen reputation: known", "16 GB of RAM, 8 cores",
		"this version of windows: 10.0.22631, supported", "script execution is disabled for guests only",
		"optional: install it first for better speed", "listening: no listener on 8080, free", "another program is being installed: no",
		"you cancelled nothing", `source S:\extras is not available, skipped (optional)`} {
		for failure, class := range map[string]string{lineRefused: "permission", "!certificate of cdn.kelp.example has expired": "network",
			"!service KelpSync could not be started (1069)": "service", "!step register failed": "unknown"} {
			v := reached(t, logOf(lineLayouts["levels"], "setup of Kelp Chart 3.1 begins", "checking 14 files", fact, "copied a.ttf", "copied c.ttf",
				"step register", failure, "removing a.ttf", lineFailed))
			if *v.Cause.Class != class {
				t.Errorf("%q, then %q: %s with %.2f, want %s", fact, failure, *v.Cause.Class, v.Cause.Confidence, class)
			}
		}
	}
}

// A line that names a cause and says behind a mark, or in front of it, that all
// is well with it is no cause, be it a warning.
func TestSettledLines(t *testing.T) {
	for _, fact := range []string{"program requires administrator rights: granted", "reboot pending: none found", "a restart was pending, now cleared",
		"component store corruption: none detected", "disk is full: resolved", "newer version is already installed? no",
		"no newer version is already installed", "certificate has expired, but has already been fixed", "files in use: none found",
		"blocked by policy: none found", "service could not be started (restored)", "hash mismatch - corrected",
		"Administratorrechte erforderlich: erteilt, ok", "Neustart ausstehend: keine gefunden", "espace insuffisant : résolu",
		"sharing violation: handled", "the path is too long for the old shell, using the long form", "AppLocker denied: suppressed",
		"dry run: file is in use", "would fail with: disk is full", "Simulation: Neustart ausstehend"} {
		for _, level := range []string{"INFO ", "WARN "} {
			for failure, class := range map[string]string{"cannot write C:\\Kelp\\b.ttf: access is denied": "permission",
				"service KelpSync could not be started (1069)": "service"} {
				log := ""
				for i, line := range []string{"INFO  setup of Kelp Chart 3.1 begins", "INFO  checking 14 files", level + " " + fact, "INFO  copied a.ttf",
					"INFO  copied c.ttf", "INFO  step register", "ERROR " + failure, "INFO  removing a.ttf", "ERROR setup failed, exit code 23"} {
					log += fmt.Sprintf("2026-03-04 10:00:%02d,100 %s\n", 10+i, line)
				}
				if v := reached(t, log); *v.Cause.Class != class {
					t.Errorf("%s%q, then %q: %s with %.2f", level, fact, failure, *v.Cause.Class, v.Cause.Confidence)
				}
			}
		}
	}
}
