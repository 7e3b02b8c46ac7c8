package cli_test

import (
	"path/filepath"
	"strings"
	"testing"
)

// The process is killed at every point between journal records, for every kind
// of step on files, values and services: the next call says how the target was
// found, and the machine can be brought back byte for byte.
func TestKilledBetweenRecords(t *testing.T) {
	const ini = "[Gate]\r\nNewest=1"
	calls := map[string][]string{
		"ini":     {"fix", "--step", "ini", "--arg", `file=C:\Deploy\setup.ini`, "--arg", "section=Gate", "--arg", "key=Newest", "--arg", "value=2", "--yes"},
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
			if r := run(t, dir, []string{"HOLLOWKEY_CRASH=" + point}, on...); r.code != 86 {
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
			back := []string{"undo"}
			if call[0] == "startup" {
				back = []string{"startup", "release"}
			}
			mustRun(t, dir, 0, append(back, "--machine", "ELLERY-D07")...)
			if d := differs(before, tree(t, twin)); len(d) > 0 {
				t.Errorf("%s, %s: after the way back these differ: %v", name, point, d)
			}
		}
	}
}

// A kill while a change is taken back is mended by taking it back again.
func TestKilledDuringUndo(t *testing.T) {
	for _, point := range []string{"after-undo-begin", "after-undo"} {
		dir := layOut(t)
		twin := filepath.Join(dir, "ELLERY-D07")
		before := tree(t, twin)
		mustRun(t, dir, 0, "cache", "restore", "--from", "share", "--machine", "ELLERY-D07", "--yes")
		if r := run(t, dir, []string{"HOLLOWKEY_CRASH=" + point}, "undo", "--machine", "ELLERY-D07"); r.code != 86 {
			t.Fatalf("%s: exit %d", point, r.code)
		}
		run(t, dir, nil, "undo", "--machine", "ELLERY-D07")
		if d := differs(before, tree(t, twin)); len(d) > 0 {
			t.Errorf("%s: these differ: %v", point, d)
		}
	}
}
