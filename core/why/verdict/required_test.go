package verdict

import (
	"fmt"
	"os"
	"strings"
	"testing"
)

// leastRequired is how many of a hundred lines of required.txt are told, as an
// error and at info level before an end that says nothing. Those that are not
// are advice, or begin with what a condition begins with.
const leastRequired = 94

// TestProductsThatMustBeThereFirst holds the share of the lines of required.txt
// that are told as a prerequisite.
func TestProductsThatMustBeThereFirst(t *testing.T) {
	text, err := os.ReadFile("testdata/oneline/required.txt")
	if err != nil {
		t.Fatal(err)
	}
	right, all := 0, 0
	for line := range strings.Lines(string(text)) {
		if line = strings.TrimSpace(line); line == "" || line[0] == '#' {
			continue
		}
		for _, level := range []string{"ERROR", "INFO "} {
			end := map[string]string{"ERROR": "INFO  taking back", "INFO ": "ERROR setup cannot go on"}[level]
			v := reached(t, timed("INFO  setup of Kelp Chart 4.1 begins", "INFO  unpacked 212 files", level+" "+line, end, "INFO  setup ends, exit code 9"))
			if all++; classOf(v) == "prerequisite" || classOf(v) == "component-store" {
				right++
			} else {
				t.Logf("%s %s: %s", level, line, classOf(v))
			}
		}
	}
	if right*100 < all*leastRequired {
		t.Errorf("%d of %d are told", right, all)
	}
}

// TestWishesByTheWayAreNoCause holds that such lines before a failure of
// another kind, with work between, do not become its cause.
func TestWishesByTheWayAreNoCause(t *testing.T) {
	for _, line := range []string{"this pack is for Quayline Draft 23 and 24", "Draft is not on this machine, skipping the add-in", "no older version found",
		"could not find an installation of Kelp Chart, installing it anew", "looking for other instances ... none", "IIS is not enabled, web part skipped",
		"update channel: stable, needs 4.0", "JAVA_HOME is not set, using the built-in one", "the language pack fits version 4.1"} {
		v := reached(t, timed("INFO  setup of Kelp Chart 4.1 begins", "INFO  "+line, "INFO  unpacking", "INFO  copying core.dll",
			"ERROR kelp.dll is in use by another process", "INFO  setup ends, exit code 9"))
		if classOf(v) != "in-use" {
			t.Errorf("%s: told as %s", line, classOf(v))
		}
	}
}

// timed gives lines times.
func timed(lines ...string) string {
	var b strings.Builder
	for i, l := range lines {
		fmt.Fprintf(&b, "2026-03-04 10:00:%02d %s\n", i, l)
	}
	return b.String()
}
