package verdict

import (
	"strings"
	"testing"
)

// mutes are ends that only tell that something of the setup's own gave up.
var mutes = map[string][]string{
	"a step":       {"!step 4 of 9 ended with result 7", "!setup ends with 7"},
	"an exception": {"!System.NullReferenceException: Object reference not set to an instance of an object.", "!installation did not complete"},
	"a stage":      {"!unexpected error in stage configure", "!Setup failed, see the log"},
	"nothing":      {"!Kelp could not be installed. Please contact your administrator.", "finished, rc=1603"},
}

// Where it broke says nothing, what was noted by the way is heard: the one trouble, and no harmless remark.
func TestNotesByTheWay(t *testing.T) {
	const sureOfNothing = 0.6 // what nobody can know is told as a guess at most
	heard, told := map[string]int{}, map[string]int{}
	for _, row := range oneLine(t, "notes.txt") {
		class, note, ok := strings.Cut(row, "|")
		if !ok {
			t.Fatalf("%q is no row", row)
		}
		for name, end := range mutes {
			texts := append([]string{"Kelp Chart 3.1 setup, build 4410", "copied tile00001.dll", "read page 12 of catalog", "theme Dune not found, default taken",
				"cache hit for item 4", note, "copied tile00002.dll", "module m7: ok", "locale table 12 loaded", "shortcut 3 written", "read page 13 of catalog",
				"copied tile00003.dll"}, end...)
			v := reached(t, logOf(lineLayouts["levels"], texts...))
			switch is := *v.Cause.Class; {
			case class != "-" && is != class:
				t.Errorf("%q, then %s: %s with %.2f", note, name, is, v.Cause.Confidence)
			case class != "-":
				heard[class]++
			case is != "unknown" && is != "custom-action" && v.Cause.Confidence >= sureOfNothing:
				t.Errorf("%q, then %s: harmless, and told as %s with %.2f", note, name, is, v.Cause.Confidence)
			case is != "unknown" && is != "custom-action":
				told[is]++
			}
		}
	}
	t.Logf("heard: %v; guessed of harmless ones: %v", heard, told)
}
