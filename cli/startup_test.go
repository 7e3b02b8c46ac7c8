package cli_test

import (
	"path/filepath"
	"strings"
	"testing"
)

type hunting struct {
	Round int
	Off   []struct{ ID string }
	Found [][]struct{ ID string }
	Done  bool
	None  bool `json:"none_to_blame"`
}

func TestStartupHold(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	list := mustRun(t, dir, 0, "startup", "--machine", "ELLERY-D07").out
	for _, want := range []string{"service:FairwayRadio", "run:Tide Widget", "run:32:Ledger Reminder", "file:Harbour Clock.lnk",
		"8 items start", "task:Tide Table Download"} {
		if !strings.Contains(list, want) {
			t.Errorf("the list lacks %q:\n%s", want, list)
		}
	}
	if strings.Contains(list, "Spooler") || strings.Contains(list, "SecurityHealth") {
		t.Errorf("the OS's own parts are listed:\n%s", list)
	}
	mustRun(t, dir, 0, "startup", "hold", "--machine", "ELLERY-D07", "--preview")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("the preview changed %v", d)
	}
	if r := mustRun(t, dir, 0, "startup", "hold", "--machine", "ELLERY-D07", "--exempt", "service:QuayWatch",
		"--yes"); !strings.Contains(r.err, "hold in force: startup items off") {
		t.Errorf("no word of the hold: %s", r.err)
	}
	held := mustRun(t, dir, 0, "startup", "--machine", "ELLERY-D07").out
	if !strings.Contains(held, "1 item starts") || !strings.Contains(held, "service:QuayWatch") {
		t.Errorf("held:\n%s", held)
	}
	mustRun(t, dir, 0, "startup", "release", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after the release these differ: %v", d)
	}
	mustRun(t, dir, 3, "startup", "release", "--machine", "ELLERY-D07")
	mustRun(t, dir, 2, "startup", "hold", "--machine", "ELLERY-D07", "--exempt", "service:Nobody")
}

// A whole hunt on the twin, for one culprit, for two that count only together,
// and for none.
func TestStartupHunt(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	hunt := func(code int, args ...string) hunting {
		return decode[hunting](t, mustRun(t, dir, code, append([]string{"startup", "hunt", "--machine", "ELLERY-D07", "--json"}, args...)...).out)
	}
	for _, culprits := range [][]string{{"service:FairwayRadio"}, {"file:Harbour Clock.lnk"}, {"run:Tide Widget", "service:QuayWatch"}} {
		h := hunt(0)
		if len(h.Off) != 8 || h.Round != 1 {
			t.Fatalf("the first round: %+v", h)
		}
		for rounds := 0; !h.Done; rounds++ {
			if rounds > 20 {
				t.Fatal("no end")
			}
			broken := true
			for _, c := range culprits {
				for _, o := range h.Off {
					broken = broken && o.ID != c
				}
			}
			if h = hunt(0, map[bool]string{true: "--failed", false: "--worked"}[broken]); h.Done {
				break
			}
			if again := hunt(0); again.Round != h.Round || len(again.Off) != len(h.Off) {
				t.Errorf("called again the round is another: %+v, %+v", again, h)
			}
		}
		found := map[string]bool{}
		for _, i := range h.Found[0] {
			found[i.ID] = true
		}
		if len(h.Found) != 1 || len(found) != len(culprits) || !found[culprits[0]] {
			t.Errorf("culprits %v: found %+v", culprits, h.Found)
		}
		if d := differs(before, tree(t, twin)); len(d) > 0 {
			t.Errorf("after the hunt these differ: %v", d)
		}
	}
	hunt(0)
	if h := hunt(3, "--failed"); !h.None || !h.Done {
		t.Errorf("with everything held it fails: %+v", h)
	}
	hunt(0)
	mustRun(t, dir, 0, "startup", "hunt", "--machine", "ELLERY-D07", "--stop")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after the stop these differ: %v", d)
	}
	if r := mustRun(t, dir, 1, "startup", "hunt", "--machine", "ELLERY-D07", "--worked"); !strings.Contains(r.err, "no hunt is under way") {
		t.Error(r.err)
	}
}
