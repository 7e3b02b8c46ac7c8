//go:build unix

package store_test

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fleet/crew"
	"hollowkey/core/fleet/fold"
	"hollowkey/core/fleet/pgtest"
	"hollowkey/core/fleet/store"
)

var ctx = context.Background()

// onBoth runs a test on a file and on a server: they must answer alike.
func onBoth(t *testing.T, test func(t *testing.T, s *store.Store)) {
	t.Run("file", func(t *testing.T) {
		test(t, open(t, filepath.Join(t.TempDir(), "logs.db")))
	})
	t.Run("server", func(t *testing.T) {
		test(t, open(t, pgtest.Start(t).URL()))
	})
}

func open(t *testing.T, name string) *store.Store {
	t.Helper()
	s, err := store.Open(ctx, name, true)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	if err := crew.Make(ctx, s); err != nil {
		t.Fatal(err)
	}
	return s
}

var monday = time.Date(2026, 5, 4, 9, 0, 0, 0, time.UTC)

// failed is the n-th attempt, on a day, that fails from a service.
func failed(n, day int, machine, service string) store.Attempt {
	return store.Attempt{ID: fmt.Sprintf("%024d", n), Path: fmt.Sprintf("/logs/%s/%d.log", machine, n),
		Machine: machine, Build: "22631", Product: "Tidebook Desk", Version: "2.8.1",
		Outcome: "failed", Exit: new(1603), Happened: monday.AddDate(0, 0, day), Confidence: 0.9,
		Summary: "a service did not start", Line: 7, Proof: "Error 1920.",
		Facts: &fold.Facts{Class: "service", Sign: "s", Kind: "service", Subject: service, Message: 1920,
			Action: "StartServices", Title: "the service did not start", Host: machine}}
}

func add(t *testing.T, s *store.Store, list ...store.Attempt) {
	t.Helper()
	var found []store.Found
	for _, a := range list {
		found = append(found, store.Found{File: store.File{Path: a.Path, Bytes: 1, Changed: a.Happened, Hash: a.ID,
			State: store.Log}, Attempts: []store.Attempt{a}})
	}
	if err := s.Add(ctx, found); err != nil {
		t.Fatal(err)
	}
	if err := s.Settle(ctx); err != nil {
		t.Fatal(err)
	}
}

// lines are the rows of Top, a line each.
func lines(t *testing.T, s *store.Store, f store.Filter) string {
	t.Helper()
	rows, err := s.Top(ctx, f, 100)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, r := range rows {
		out = append(out, fmt.Sprintf("%s %d/%d/%d %s", r.Subject, r.Machines, r.Attempts, r.Before, r.First.Format("01-02")))
	}
	return strings.Join(out, "; ")
}

func TestAsking(t *testing.T) {
	onBoth(t, func(t *testing.T, s *store.Store) {
		worked := failed(9, 1, "ellery-d01", "")
		worked.Outcome, worked.Facts = "succeeded", nil
		add(t, s, failed(1, 0, "ellery-d01", "BerthSync"), failed(2, 0, "ellery-d02", "BerthSync"),
			failed(3, 8, "ellery-d01", "BerthSync"), failed(4, 8, "ellery-d03", "TideClock"), worked)
		add(t, s, failed(1, 0, "ellery-d01", "BerthSync")) // again
		if got := lines(t, s, store.Filter{}); got != "berthsync 2/3/0 05-04; tideclock 1/1/0 05-12" {
			t.Error(got)
		}
		if got := lines(t, s, store.Filter{Since: monday.AddDate(0, 0, 7)}); got != "berthsync 1/1/0 05-04; tideclock 1/1/0 05-12" {
			t.Error(got)
		}
		sum, err := s.Total(ctx, store.Filter{})
		if err != nil || sum != (store.Sum{Attempts: 5, Failed: 4, Machines: 3, Causes: 2}) {
			t.Errorf("%+v %v", sum, err)
		}
		fresh, err := s.New(ctx, monday.AddDate(0, 0, 5))
		if err != nil || len(fresh) != 1 || fresh[0].Subject != "tideclock" {
			t.Errorf("%+v %v", fresh, err)
		}
		for column, want := range map[string]string{"machine": "ellery-d01:3 ellery-d02:1 ellery-d03:1",
			"product": "Tidebook Desk 2.8.1:5", "day": "2026-05-04:2 2026-05-05:1 2026-05-12:2", "outcome": "failed:4 succeeded:1"} {
			list, err := s.By(ctx, store.Filter{}, column)
			if err != nil {
				t.Fatal(err)
			}
			var got []string
			for _, c := range list {
				got = append(got, fmt.Sprintf("%s:%d", c.Value, c.Attempts))
			}
			if strings.Join(got, " ") != want {
				t.Errorf("by %s: %v", column, got)
			}
		}
		if _, err := s.By(ctx, store.Filter{}, "path; DROP TABLE attempt"); err == nil {
			t.Error("anything is a column")
		}
		if list, err := s.Attempts(ctx, store.Filter{Class: "serv*", Product: "tide*", Machine: "ELLERY-D03"},
			true, 5); err != nil || len(list) != 1 || list[0].Proof != "Error 1920." || *list[0].ExitCode != 1603 {
			t.Errorf("%+v %v", list, err)
		}
		if n, err := s.Forget(ctx, "ellery-d01", time.Time{}); err != nil || n != 3 {
			t.Errorf("%d %v", n, err)
		}
		if got := lines(t, s, store.Filter{}); got != "berthsync 1/1/0 05-04; tideclock 1/1/0 05-12" {
			t.Error(got)
		}
	})
}

// A bootstrapper's log and those of its packages are one attempt, with the
// package's cause.
func TestParts(t *testing.T) {
	onBoth(t, func(t *testing.T, s *store.Store) {
		outer := failed(1, 0, "ellery-d01", "")
		outer.Path, outer.Facts = "/logs/D01/Suite.log",
			&fold.Facts{Class: "prerequisite", Kind: "package", Subject: "Planner", Title: "a package failed"}
		outer.Refers = []string{store.Place(`/logs/D01/suite_000_planner.log`)}
		inner := failed(2, 0, "ellery-d01", "BerthSync")
		inner.Path = "/logs/D01/Suite_000_Planner.log"
		other := failed(3, 0, "ellery-d02", "BerthSync")
		other.Path = "/logs/D02/Suite_000_Planner.log"
		add(t, s, inner)
		add(t, s, outer, other)
		sum, err := s.Total(ctx, store.Filter{})
		if err != nil || sum.Attempts != 2 || sum.Causes != 1 {
			t.Errorf("%+v %v: %s", sum, err, lines(t, s, store.Filter{}))
		}
		if got := lines(t, s, store.Filter{}); got != "berthsync 2/2/0 05-04" {
			t.Error(got)
		}
	})
}

// What differs in one piece that takes many values comes under a head; people
// join and part.
func TestHeads(t *testing.T) {
	onBoth(t, func(t *testing.T, s *store.Store) {
		var list []store.Attempt
		for n := range 8 {
			list = append(list, failed(n, 0, fmt.Sprintf("ellery-d%02d", n), fmt.Sprintf("Relay_x%dz", 11+n)))
		}
		for n := range 8 { // a thing's name, though it has a figure: on many machines each
			for k := range 4 {
				list = append(list, failed(100+10*n+k, 0, fmt.Sprintf("ellery-d%02d", 10*n+k), fmt.Sprintf("Tide%d", 1+n)))
			}
		}
		add(t, s, list...)
		got := lines(t, s, store.Filter{})
		if !strings.HasPrefix(got, "relay_* 8/8/0 05-04; tide") || strings.Count(got, "4/4/0") != 8 {
			t.Fatal(got)
		}
		rows, err := s.Top(ctx, store.Filter{}, 100)
		if err != nil {
			t.Fatal(err)
		}
		if err := s.Join(ctx, rows[1].ID, []string{rows[2].ID, rows[3].ID}); err != nil {
			t.Fatal(err)
		}
		if got := lines(t, s, store.Filter{}); strings.Count(got, "/12/0") != 1 || strings.Count(got, "4/4/0") != 5 {
			t.Error(got)
		}
		// Under another one, which then is made a head itself: each attempt
		// counts for one of them.
		if err := s.Join(ctx, rows[2].ID, []string{rows[4].ID}); err != nil {
			t.Fatal(err)
		}
		if got := lines(t, s, store.Filter{}); strings.Count(got, "/8/0") != 3 || strings.Count(got, "4/4/0") != 4 {
			t.Error(got)
		}
		if err := s.Join(ctx, rows[1].ID, []string{rows[2].ID}); err != nil {
			t.Fatal(err)
		}
		if got := lines(t, s, store.Filter{}); strings.Count(got, "/16/0") != 1 {
			t.Error(got)
		}
		if n, err := s.Part(ctx, rows[4].ID); err != nil || n != 1 {
			t.Errorf("%d %v", n, err)
		}
		if n, err := s.Part(ctx, rows[2].ID); err != nil || n != 1 {
			t.Errorf("%d %v", n, err)
		}
		if n, err := s.Part(ctx, rows[0].ID); err != nil || n != 8 {
			t.Errorf("%d %v", n, err)
		}
		if err := s.Settle(ctx); err != nil {
			t.Fatal(err)
		}
		if got := lines(t, s, store.Filter{}); strings.Count(got, "relay_x") != 8 {
			t.Errorf("what was parted was joined again: %s", got)
		}
		if _, err := s.Cause(ctx, rows[0].ID[:8]); err != nil {
			t.Error(err)
		}
		if _, err := s.Cause(ctx, "zz"); err == nil {
			t.Error("anything is a cause")
		}
	})
}

// Other rules make other causes of what is there, and stay with the store.
func TestRefold(t *testing.T) {
	onBoth(t, func(t *testing.T, s *store.Store) {
		add(t, s, failed(1, 0, "ellery-d01", "Relay North"), failed(2, 0, "ellery-d02", "Relay South"))
		if got := lines(t, s, store.Filter{}); strings.Count(got, "relay") != 2 {
			t.Fatal(got)
		}
		if n, err := s.Refold(ctx, "rules: [{name: side, what: 'north|south', by: '{side}'}]"); err != nil || n != 2 {
			t.Fatal(n, err)
		}
		if got := lines(t, s, store.Filter{}); got != "relay {side} 2/2/0 05-04" {
			t.Error(got)
		}
		add(t, s, failed(3, 0, "ellery-d03", "Relay South"))
		if got := lines(t, s, store.Filter{}); got != "relay {side} 3/3/0 05-04" {
			t.Error(got)
		}
		if _, err := s.Refold(ctx, "rules: [{name: side, what: '('}]"); err == nil {
			t.Error("rules that are none were taken")
		}
		if _, err := s.Refold(ctx, ""); err != nil {
			t.Fatal(err)
		}
		if got := lines(t, s, store.Filter{}); strings.Count(got, "relay") != 2 {
			t.Error(got)
		}
	})
}

// A password in the name is refused, and the server's tables must be made.
func TestServersName(t *testing.T) {
	for _, name := range []string{"postgres://a:b@127.0.0.1/x", "postgres://127.0.0.1/x?password=b"} {
		if _, err := store.Open(ctx, name, false); err == nil || !strings.Contains(err.Error(), "PGPASSFILE") {
			t.Errorf("%s: %v", name, err)
		}
	}
	s, err := store.Open(ctx, pgtest.Start(t).URL(), false)
	if err != nil || s.Made() {
		t.Fatalf("%v %v", s, err)
	}
	s.Close()
	if _, err := store.Open(ctx, filepath.Join(t.TempDir(), "none.db"), false); err == nil || !strings.Contains(err.Error(), "triage add") {
		t.Errorf("%v", err)
	}
}

// What is no store, or one of another version, is told; one that may only be
// read is asked.
func TestOtherFiles(t *testing.T) {
	dir := t.TempDir()
	for name, bytes := range map[string]string{"text.db": "no database at all, but a text of some length that is none", "cut.db": "SQLite format 3\x00"} {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(bytes), 0o644); err != nil {
			t.Fatal(err)
		}
		if s, err := store.Open(ctx, path, true); err == nil {
			s.Close()
			t.Errorf("%s is taken for a store", name)
		}
	}
	old := filepath.Join(dir, "old.db")
	db, err := sql.Open("sqlite", old)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec(`CREATE TABLE attempt (id TEXT)`); err != nil {
		t.Fatal(err)
	}
	db.Close()
	if _, err := store.Open(ctx, old, true); err == nil || !strings.Contains(err.Error(), "earlier version") {
		t.Errorf("an old one: %v", err)
	}
	path := filepath.Join(dir, "good.db")
	s := open(t, path)
	add(t, s, failed(1, 0, "ellery-d01", "BerthSync"))
	s.Close()
	if err := os.Chmod(path, 0o444); err != nil {
		t.Fatal(err)
	}
	again, err := store.Open(ctx, path, false)
	if err != nil {
		t.Fatal(err)
	}
	defer again.Close()
	if got := lines(t, again, store.Filter{}); got != "berthsync 1/1/0 05-04" {
		t.Error(got)
	}
}
