package cli_test

import (
	"archive/zip"
	"errors"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"
)

// The process is killed at every point between journal records, for every kind
// of step on files, values and services: the next call says how the target was
// found, and the machine can be brought back byte for byte.
func TestKilledBetweenRecords(t *testing.T) {
	const ini = "[Gate]\r\nNewest=1"
	calls := map[string][]string{
		"ini": {"fix", "--step", "ini", "--arg", `file=C:\Deploy\setup.ini`, "--arg", "section=Gate", "--arg", "key=Newest", "--arg",
			"value=2", "--yes"},
		"place":   {"cache", "restore", "--from", "share", "--yes"},
		"unset":   {"startup", "hold", "--only", "run:Tide Widget", "--yes"},
		"away":    {"startup", "hold", "--only", "file:Harbour Clock.lnk", "--yes"},
		"service": {"startup", "hold", "--only", "service:QuayWatch", "--yes"},
		"gate":    {"fix", "planner31.log", "--yes"},
	}
	for name, call := range calls {
		for _, point := range []string{"after-begin", "after-change"} {
			dir := layOut(t)
			twin := filepath.Join(dir, "ELLERY-D07")
			write(t, filepath.Join(twin, "disk", "C", "Deploy"), "setup.ini", ini)
			before := tree(t, twin)
			on := append(call[:len(call):len(call)], "--machine", "ELLERY-D07")
			if r := crash(t, dir, point, on...); r.code != crashed {
				t.Fatalf("%s, %s: exit %d, the process was not killed\n%s%s", name, point, r.code, r.out, r.err)
			}
			r := run(t, dir, nil, "journal", "--machine", "ELLERY-D07")
			if !strings.Contains(r.err, "an earlier run was cut off at change") {
				t.Errorf("%s, %s: no word of the crash: %s%s", name, point, r.out, r.err)
			}
			if point == "after-begin" {
				if d := differs(before, tree(t, twin)); len(d) > 0 {
					t.Errorf("%s, %s: changed all the same: %v", name, point, d)
				}
				continue
			}
			back := []string{"undo", "--yes"}
			if call[0] == "startup" {
				back = []string{"startup", "release", "--yes"}
			}
			mustRun(t, dir, 0, append(back, "--machine", "ELLERY-D07")...)
			if d := differs(before, tree(t, twin)); len(d) > 0 {
				t.Errorf("%s, %s: after the way back these differ: %v", name, point, d)
			}
		}
	}
}

// A kill while a change is undone is mended by taking it back again.
func TestKilledDuringUndo(t *testing.T) {
	for _, point := range []string{"after-undo-begin", "after-undo"} {
		dir := layOut(t)
		twin := filepath.Join(dir, "ELLERY-D07")
		before := tree(t, twin)
		mustRun(t, dir, 0, "cache", "restore", "--from", "share", "--machine", "ELLERY-D07", "--yes")
		if r := crash(t, dir, point, "undo", "--yes", "--machine", "ELLERY-D07"); r.code != crashed {
			t.Fatalf("%s: exit %d", point, r.code)
		}
		run(t, dir, nil, "undo", "--yes", "--machine", "ELLERY-D07")
		if d := differs(before, tree(t, twin)); len(d) > 0 {
			t.Errorf("%s: these differ: %v", point, d)
		}
	}
}

// A step of two writes that was killed between them is told as done in part,
// and undone without force.
func TestKilledMidway(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	if r := crash(t, dir, "midway", "fix", "tidebook.log", "--machine", "ELLERY-D07", "--yes"); r.code != crashed {
		t.Fatalf("exit %d\n%s%s", r.code, r.out, r.err)
	}
	if d := differs(before, tree(t, twin)); len(d) == 0 {
		t.Fatal("nothing was written before the kill")
	}
	if r := mustRun(t, dir, 0, "journal", "--machine", "ELLERY-D07"); !strings.Contains(r.err,
		"it was done in part (start type manual, stopped)") {
		t.Errorf("%s%s", r.out, r.err)
	}
	if r := mustRun(t, dir, 0, "case", "--machine", "ELLERY-D07"); !strings.Contains(r.out, "hollowkey undo --machine ELLERY-D07") {
		t.Errorf("what is next: %s", r.out)
	}
	mustRun(t, dir, 0, "undo", "--yes", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after the way back these differ: %v", d)
	}
}

// killed runs the program and kills it from outside after a while; it says
// whether the program was still at work.
func killed(t *testing.T, dir string, after time.Duration, args ...string) bool {
	t.Helper()
	cmd := exec.Command(program, args...)
	cmd.Dir = dir
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	timer := time.AfterFunc(after, func() { cmd.Process.Kill() })
	defer timer.Stop()
	cmd.Wait() // its end is told by the state
	return !cmd.ProcessState.Exited()
}

// often is how many times something is tried at random: a few in each run of
// the tests, as many as HOLLOWKEY_TRIES says for one that shall find what is
// rare.
func often(few int) int {
	if n, err := strconv.Atoi(os.Getenv("HOLLOWKEY_TRIES")); err == nil && n > 0 {
		return n
	}
	return few
}

// The program is killed at any moment, wherever it then is. What differs on the
// machine stands in the journal, and can be brought back byte for byte; the
// case opens; a zip is whole or not there.
func TestKilledAnywhere(t *testing.T) {
	t.Parallel()
	moments := often(10)
	on := func(args ...string) []string { return append(args, "--machine", "ELLERY-D07") }
	hold, release := on("startup", "hold", "--yes"), on("startup", "release", "--yes")
	fix, undo := on("fix", "tidebook.log", "--yes"), on("undo", "--yes")
	for name, c := range map[string]struct {
		first, call, back []string
	}{
		"fix":     {nil, fix, undo},
		"undo":    {fix, undo, undo},
		"clear":   {nil, on("leftovers", "clear", "Fairway Radio 1", "--yes"), undo},
		"hold":    {nil, hold, release},
		"release": {hold, release, release},
		"retry":   {nil, on("retry", "tidebook.log"), nil},
		"gather":  {nil, on("gather", "tidebook.log", "--out", "s.zip"), nil},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			before, caught := map[string]string(nil), 0
			lasts := time.Duration(0) // of a run that nobody kills
			for i := range moments + 1 {
				dir := layOut(t)
				twin := filepath.Join(dir, "ELLERY-D07")
				before = tree(t, twin)
				mustRun(t, dir, 0, on("case", "open")...)
				if c.first != nil {
					mustRun(t, dir, 0, c.first...)
				}
				if i == 0 {
					began := time.Now()
					run(t, dir, nil, c.call...)
					lasts = time.Since(began)
					continue
				}
				if killed(t, dir, lasts*time.Duration(i)/time.Duration(moments), c.call...) {
					caught++
				}
				mustRun(t, dir, 0, on("case")...)
				said := run(t, dir, nil, on("journal")...)
				if differ := differs(before, tree(t, twin)); len(differ) > 0 && !strings.Contains(said.out, "1") {
					t.Errorf("moment %d: %v differ, and the journal tells nothing: %s%s", i, differ, said.out, said.err)
				}
				if c.back != nil {
					run(t, dir, nil, c.back...) // there may be nothing to undo
				}
				if differ := differs(before, tree(t, twin)); len(differ) > 0 {
					t.Errorf("moment %d: after the way back these differ: %v\n%s%s", i, differ, said.out, said.err)
				}
				if z, err := zip.OpenReader(filepath.Join(dir, "s.zip")); err == nil {
					z.Close()
				} else if !errors.Is(err, fs.ErrNotExist) {
					t.Errorf("moment %d: a zip that is not whole: %v", i, err)
				}
			}
			if caught == 0 {
				t.Error("no run was caught at work")
			}
			t.Logf("%d of %d runs were caught at work, within %v", caught, moments, lasts)
		})
	}
}

// A kill in the middle of many files: of what is copied, set aside, taken away
// or brought back. The way back needs no force, and nothing of the run stays
// anywhere.
func TestKilledAmongFiles(t *testing.T) {
	t.Parallel()
	on := func(args ...string) []string { return append(args, "--machine", "ELLERY-D07") }
	copied := on("fix", "--step", "ini", "--arg", `file=C:\Deploy\media\setup.ini`, "--arg", "section=Gate",
		"--arg", "key=Newest", "--arg", "value=2", "--arg",
		`copy=C:\Deploy\copy`, "--yes")
	away := on("fix", "--step", "quarantine", "--arg", "path="+oldRadio, "--yes")
	for _, c := range []struct {
		point       string
		first, call []string
	}{
		{"within-copy", nil, copied}, {"within-keep", nil, away}, {"within-removal", nil, away},
		{"within-return", away, on("undo", "--yes")},
	} {
		dir := layOut(t)
		twin := filepath.Join(dir, "ELLERY-D07")
		media := filepath.Join(twin, "disk", "C", "Deploy", "media")
		if err := os.MkdirAll(media, 0o755); err != nil {
			t.Fatal(err)
		}
		for _, name := range []string{"setup.ini", "a.cab", "z.cab"} {
			write(t, media, name, "[Gate]\r\nNewest=1")
		}
		before := tree(t, twin)
		if c.first != nil {
			mustRun(t, dir, 0, c.first...)
		}
		if r := crash(t, dir, c.point, c.call...); r.code != crashed {
			t.Fatalf("%s: exit %d\n%s%s", c.point, r.code, r.out, r.err)
		}
		run(t, dir, nil, on("undo", "--yes")...)
		if d := differs(before, tree(t, twin)); len(d) > 0 {
			t.Errorf("%s: after the way back these differ: %v", c.point, d)
		}
		left, err := filepath.Glob(filepath.Join(twin+".case", "quarantine", "*"))
		if err != nil || len(left) > 0 {
			t.Errorf("%s: %v stays in quarantine, %v", c.point, left, err)
		}
		if c.first == nil { // and it can be done again
			mustRun(t, dir, 0, c.call...)
			mustRun(t, dir, 0, on("undo", "--yes")...)
		}
	}
}
