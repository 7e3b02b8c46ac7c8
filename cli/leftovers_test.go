package cli_test

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

type leftItem struct {
	Number            int
	Kind, Where, Sure string
	Why               string
	UserData          bool `json:"user_data"`
}

type leftReport struct {
	Items            []leftItem
	Notes, Installed []string
	Cleared          bool
}

const noOfItem = "10"

// What the old version left is found with its reasons, cleared without users'
// data, and brought back byte for byte.
func TestLeftovers(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	find := func(code int, args ...string) leftReport {
		t.Helper()
		return decode[leftReport](t, mustRun(t, dir, code, append([]string{"leftovers", "--machine", "ELLERY-D07", "--json"}, args...)...).out)
	}
	r := find(3, "Fairway Radio 1")
	kinds := map[string]string{}
	for _, i := range r.Items {
		kinds[i.Kind] += i.Sure + " "
		if i.Why == "" || strings.Contains(i.Where, `AppData\`) != i.UserData {
			t.Errorf("%+v", i)
		}
	}
	for kind, want := range map[string]string{"service": "certain ", "task": "certain ", "shortcut": "likely ", "registry value": "certain ",
		"registry key": "certain likely ", "folder": "certain likely likely likely "} {
		if kinds[kind] != want {
			t.Errorf("%s: %q, want %q", kind, kinds[kind], want)
		}
	}
	part := mustRun(t, dir, 3, "leftovers", "Fairway", "--machine", "ELLERY-D07").out
	for _, call := range []string{"clear Fairway --machine ELLERY-D07 --include 1 --preview", "leftovers 'Fairway Radio 1' --machine ELLERY-D07"} {
		if !strings.Contains(part, call) {
			t.Errorf("a part of the name leads not to %s:\n%s", call, part)
		}
	}
	if again := find(3, "{fairway}radio-1*"); len(again.Items) < len(r.Items)-3 {
		t.Errorf("by a pattern: %+v", again.Items)
	}
	if wide := find(3, "Fairway Radio"); slices.ContainsFunc(wide.Items,
		func(i leftItem) bool { return i.Kind == "registry key" && i.Sure == "certain" }) {
		t.Errorf("another version's entry is taken for the product's own: %+v", wide.Items)
	}
	mustRun(t, dir, 0, "leftovers", "clear", "Fairway Radio 1", "--machine", "ELLERY-D07", "--preview")
	if r := run(t, dir, nil, "leftovers", "clear", "Fairway Radio 1", "--machine", "ELLERY-D07", "--include", noOfItem,
		"--yes"); r.code != 2 || !strings.Contains(r.err, "its number is not enough") {
		t.Errorf("a user's data by its number: exit %d %s", r.code, r.err)
	}
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Fatalf("nothing was to be changed: %v", d)
	}
	find(0, "clear", "Fairway Radio 1", "--yes")
	left := find(3, "Fairway Radio 1")
	if len(left.Items) != 2 || !left.Items[0].UserData || !left.Items[1].UserData {
		t.Errorf("after clearing: %+v", left.Items)
	}
	find(0, "clear", "Fairway Radio 1", "--yes", "--only", left.Items[0].Where, "--only", left.Items[1].Where)
	find(0, "Fairway Radio 1")
	mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07", "--all")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after undo these differ: %v", d)
	}
	find(0, "clear", "Fairway Radio 1", "--yes", "--exempt", r.Items[0].Where, "--exempt", "2")
	mustRun(t, dir, 2, "leftovers", "abc", "--machine", "ELLERY-D07")
	mustRun(t, dir, 2, "leftovers", "***", "--machine", "ELLERY-D07")
	find(0, "No Such Product")
}

// A product that is registered with the engine is told to be uninstalled, and a
// quarantine can be emptied for good.
func TestLeftoversOfInstalled(t *testing.T) {
	dir := layOut(t)
	r := decode[leftReport](t, mustRun(t, dir, 3, "leftovers", "{C41F7E08-93B2-4D6A-8E15-70A2B9D3F644}", "--machine", "ELLERY-D07",
		"--json").out)
	if len(r.Items) != 3 || !strings.Contains(r.Items[1].Why, "the engine's registration") ||
		!strings.Contains(strings.Join(r.Notes, " "), "do that first") {
		t.Errorf("by its code: %+v", r)
	}
	r = decode[leftReport](t, mustRun(t, dir, 3, "leftovers", "Pilot Roster", "--machine", "ELLERY-D07", "--json").out)
	if notes := strings.Join(r.Notes, " "); !strings.Contains(notes, "cannot be uninstalled as it stands") ||
		strings.Contains(notes, "do that first") {
		t.Errorf("without its package: %q", notes)
	}
	mustRun(t, dir, 0, "leftovers", "clear", "Fairway Radio 1", "--machine", "ELLERY-D07", "--yes")
	if d, _ := filepath.Glob(filepath.Join(dir, "ELLERY-D07.case", "quarantine", "*")); len(d) != 3 {
		t.Errorf("in quarantine: %v", d)
	}
	j := decode[struct {
		Changes []struct {
			Change int
			Step   struct{ Kind string }
		}
	}](t, mustRun(t, dir, 0, "journal", "--machine", "ELLERY-D07", "--json").out)
	last := j.Changes[len(j.Changes)-1]
	number := fmt.Sprint(last.Change)
	mustRun(t, dir, 0, "journal", "empty", "--change", number, "--machine", "ELLERY-D07", "--yes")
	mustRun(t, dir, 3, "undo", "--yes", "--change", number, "--machine", "ELLERY-D07")
	if d, _ := filepath.Glob(filepath.Join(dir, "ELLERY-D07.case", "quarantine", "*")); len(d) != 2 {
		t.Errorf("in quarantine after one was emptied: %v", d)
	}
}
