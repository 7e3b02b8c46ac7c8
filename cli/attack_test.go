package cli_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
)

// grantCall gives a right on a folder of the desktop.
func grantCall(folder string) []string {
	return []string{"fix", "--machine", twinName, "--step", "grant", "--arg", "folder=" + folder,
		"--arg", "account=svc-berth", "--arg", "right=modify", "--yes"}
}

// A record that was edited, swapped, repeated, left out or written elsewhere is
// told by its line, and nothing is changed on its word.
func TestForeignJournal(t *testing.T) {
	t.Parallel()
	dir := layOut(t)
	twin, journal := filepath.Join(dir, twinName), filepath.Join(dir, twinName+".case", "journal.ndjson")
	for i := range 3 {
		at := fmt.Sprintf("Attack%d", i)
		if err := os.MkdirAll(filepath.Join(twin, "disk", "C", "Deploy", at), 0o755); err != nil {
			t.Fatal(err)
		}
		mustRun(t, dir, 0, grantCall(`C:\Deploy\`+at)...)
	}
	good, err := os.ReadFile(journal)
	if err != nil {
		t.Fatal(err)
	}
	lines := bytes.SplitAfter(good, []byte("\n"))
	join := func(ls ...[]byte) []byte { return bytes.Join(ls, nil) }
	changed := tree(t, twin)
	other := layOut(t)
	if err := os.MkdirAll(filepath.Join(other, twinName, "disk", "C", "Deploy", "Attack0"), 0o755); err != nil {
		t.Fatal(err)
	}
	mustRun(t, other, 0, grantCall(`C:\Deploy\Attack0`)...)
	foreign, err := os.ReadFile(filepath.Join(other, twinName+".case", "journal.ndjson"))
	if err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		text []byte
		line int
	}{
		"edited":           {bytes.Replace(good, []byte(`Attack1`), []byte(`Windows`), -1), 3},
		"swapped":          {join(lines[0], lines[1], lines[4], lines[5], lines[2], lines[3]), 3},
		"repeated":         {join(lines[0], lines[1], lines[1], lines[2]), 3},
		"left out":         {join(lines[0], lines[2], lines[3]), 2},
		"from before":      {join(lines[2:]...), 1},
		"foreign":          {foreign, 1},
		"added":            {append(bytes.Clone(good), `{"seq":9,"time":"2026-05-04T09:00:00Z","phase":"undone","of":1}`+"\n"...), 7},
		"without its mark": {fmt.Appendf(join(lines[:5]...), "%s}\n", lines[5][:bytes.LastIndex(lines[5], []byte(`,"mark"`))]), 6},
	} {
		write(t, filepath.Dir(journal), filepath.Base(journal), string(c.text))
		for _, call := range [][]string{{"undo", "--all", "--yes"}, {"journal"}, {"undo", "--preview"}} {
			r := mustRun(t, dir, 1, append(call, "--machine", twinName)...)
			if !strings.Contains(r.err, fmt.Sprintf("journal.ndjson:%d:", c.line)) || !strings.Contains(r.err, "not written here") {
				t.Errorf("%s, %v: %s", name, call, r.err)
			}
		}
		if d := differs(changed, tree(t, twin)); len(d) > 0 {
			t.Fatalf("%s: %v was changed", name, d)
		}
	}
	for name, text := range map[string][]byte{"as it was": good,
		"without its last line end": bytes.TrimRight(good, "\n"), "cut in its last record": good[:len(good)-30]} {
		write(t, filepath.Dir(journal), filepath.Base(journal), string(text))
		if r := run(t, dir, nil, "undo", "--preview", "--machine", twinName); r.code != 0 || !strings.Contains(r.out, "Attack2") {
			t.Errorf("%s: %s%s", name, r.out, r.err)
		}
	}
}

// A journal, a lock or a quarantine that is a link leads nowhere.
func TestLinksInTheOwnFolder(t *testing.T) {
	t.Parallel()
	for _, name := range []string{"journal.ndjson", "journal.key", "journal.lock"} {
		dir := layOut(t)
		own, victim := filepath.Join(dir, twinName+".case"), filepath.Join(dir, "victim.txt")
		if err := os.MkdirAll(own, 0o755); err != nil {
			t.Fatal(err)
		}
		write(t, dir, "victim.txt", "mine")
		if err := os.Symlink(victim, filepath.Join(own, name)); err != nil {
			t.Skip(err)
		}
		before := tree(t, filepath.Join(dir, twinName))
		r := mustRun(t, dir, 1, "fix", "tidebook.log", "--machine", twinName, "--yes")
		if b, _ := os.ReadFile(victim); string(b) != "mine" || !strings.Contains(r.err, "link") {
			t.Errorf("%s: %q; %s", name, b, r.err)
		}
		if d := differs(before, tree(t, filepath.Join(dir, twinName))); len(d) > 0 {
			t.Errorf("%s: %v was changed", name, d)
		}
	}
	dir := layOut(t) // a link below the disk leads to what the guard keeps
	if err := os.Symlink(filepath.Join("..", "Windows"), filepath.Join(dir, twinName, "disk", "C", "Deploy", "way")); err != nil {
		t.Skip(err)
	}
	for _, path := range []string{`C:\Deploy\way`, `C:\Deploy\way\System32`, `C:\Deploy\WAY.`} {
		if r := run(t, dir, nil, grantCall(path)...); r.code != 1 || !strings.Contains(r.err, "refused") {
			t.Errorf("%s: exit %d, %s%s", path, r.code, r.out, r.err)
		}
	}
}

// Many runs at once on one machine: each change is made whole or not at all and
// told so, no record is lost, and all can be undone.
func TestManyAtOnce(t *testing.T) {
	t.Parallel()
	const at = 8
	rounds := often(6)
	dir := layOut(t)
	twin := filepath.Join(dir, twinName)
	for i := range at {
		if err := os.MkdirAll(filepath.Join(twin, "disk", "C", "Deploy", fmt.Sprintf("Many%d", i)), 0o755); err != nil {
			t.Fatal(err)
		}
	}
	before := tree(t, twin)
	for round := range rounds {
		var all sync.WaitGroup
		results := make([]result, at)
		for i := range at {
			all.Go(func() {
				call := grantCall(fmt.Sprintf(`C:\Deploy\Many%d`, i))
				if round%2 == 1 && i%2 == 1 {
					call = []string{"undo", "--machine", twinName, "--yes"}
				}
				results[i] = run(t, dir, nil, call...)
			})
		}
		all.Wait()
		for i, r := range results {
			if r.code != 0 && r.err == "" {
				t.Errorf("round %d, run %d: exit %d without a word", round, i, r.code)
			}
		}
	}
	r := mustRun(t, dir, 0, "journal", "--machine", twinName, "--json")
	var j struct {
		Changes []struct {
			Change int
			Status string
		}
	}
	if err := json.Unmarshal([]byte(r.out), &j); err != nil {
		t.Fatal(err)
	}
	for i, c := range j.Changes {
		if c.Change != i+1 || c.Status == "open" || c.Status == "undo open" {
			t.Errorf("change %d has the number %d and is %s", i+1, c.Change, c.Status)
		}
	}
	run(t, dir, nil, "undo", "--all", "--yes", "--machine", twinName)
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after all is undone these differ: %v", d)
	}
	t.Logf("%d changes", len(j.Changes))
}
