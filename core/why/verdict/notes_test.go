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
	"advice":       {"!Setup failed. Please check your network connection and try again."},
	"guesses":      {"!Kelp could not be installed. Another program may be using its files, or you may not have the rights.", "finished, rc=1603"},
	"a timeout":    {"!timeout while waiting for step configure", "!setup aborted"},
}

// Where it broke says nothing, what was noted by the way is heard: the one
// trouble, and no harmless remark.
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

// What a setup tells in one line and in any language is heard too where it
// stands at info level, far from where it broke, and the end of the log says
// nothing.
func TestToldByTheWay(t *testing.T) {
	all, right, sure := 0, 0, 0
	const surely = 0.75 // a note far from the end is no proof
	for row := range strings.Lines(toldText) {
		class, line, ok := strings.Cut(strings.TrimSpace(row), "|")
		if !ok || class == "unknown" {
			continue
		}
		v := reached(t, logOf(lineLayouts["levels"], "Kelp Chart 3.1 setup, build 4410", "copied tile00001.dll", line, "copied tile00002.dll", "module m7: ok",
			"locale table 12 loaded", "shortcut 3 written", "read page 13 of catalog", "copied tile00003.dll", "module m8: ok", "shortcut 4 written",
			"!unexpected error in step 4", "!setup failed"))
		switch all++; {
		case *v.Cause.Class == class:
			right++
		case *v.Cause.Class != "unknown" && *v.Cause.Class != "custom-action" && v.Cause.Confidence >= surely:
			sure++
			t.Logf("%q: %s with %.2f, and it is %s", line, *v.Cause.Class, v.Cause.Confidence, class)
		}
	}
	t.Logf("%d of %d are heard", right, all)
	if right*100 < all*80 || sure*1000 > all*5 {
		t.Errorf("%d of %d are heard, %d are told wrong with %.2f and more", right, all, sure, surely)
	}
}

// A failure in which other causes show is told by the cause where a note
// elsewhere tells one, and by itself where the note is harmless.
func TestWhatIsBehindAFailure(t *testing.T) {
	for _, row := range oneLine(t, "deeper.txt") {
		f := strings.Split(row, "|")
		if len(f) != 3 {
			t.Fatalf("%q is no row", row)
		}
		v := reached(t, logOf(lineLayouts["levels"], "Kelp Chart 3.1 setup, build 4410", "copied tile00001.dll", f[1], "copied tile00002.dll", "module m7: ok",
			"locale table 12 loaded", "shortcut 3 written", "read page 13 of catalog", "copied tile00003.dll", "module m8: ok", "shortcut 4 written",
			"!"+f[2], "!setup failed"))
		if want := strings.TrimPrefix(f[0], "-"); *v.Cause.Class != want {
			t.Errorf("%q, then %q: %s with %.2f, want %s", f[1], f[2], *v.Cause.Class, v.Cause.Confidence, want)
		}
	}
}
