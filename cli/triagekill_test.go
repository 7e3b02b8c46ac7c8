//go:build unix

package cli_test

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib"

	"hollowkey/core/fleet/pgtest"
	"hollowkey/demo/fleetlogs"
)

const (
	killLogs = 2000
	kills    = 20
)

// smallFleet makes so many logs that are told apart, of the kinds that are
// short.
func smallFleet(t *testing.T, logs int) string {
	t.Helper()
	dir := t.TempDir()
	all, err := fleetlogs.Causes()
	if err != nil {
		t.Fatal(err)
	}
	p := fleetlogs.Plan{Machines: 200, Logs: logs, Zips: 20, Least: 500, Most: 4000,
		From: time.Date(2026, 5, 4, 0, 0, 0, 0, time.UTC), Days: 5, Seed: 3}
	for _, c := range all {
		if c.Form != "engine" {
			p.Causes = append(p.Causes, c)
		}
	}
	made, err := fleetlogs.Write(dir, p)
	if err != nil {
		t.Fatal(err)
	}
	if len(made) != logs {
		t.Fatalf("%d logs were made", len(made))
	}
	return dir
}

// A process is a call of the program that a test may kill.
type process struct {
	*exec.Cmd
	err  bytes.Buffer
	done chan struct{}
}

func begin(t *testing.T, dir string, args ...string) *process {
	t.Helper()
	p := &process{Cmd: exec.Command(program, args...), done: make(chan struct{})}
	p.Dir, p.Stderr = dir, &p.err
	if err := p.Start(); err != nil {
		t.Fatal(err)
	}
	go func() {
		_ = p.Wait() // it is killed
		close(p.done)
	}()
	return p
}

func (p *process) kill() {
	_ = p.Process.Kill() // it may have ended
	<-p.done
}

// totals are what a store has.
func totals(t *testing.T, dir, store string) (attempts, machines int) {
	t.Helper()
	var top struct {
		Total struct{ Attempts, Machines int }
	}
	if err := json.Unmarshal([]byte(mustRun(t, dir, 0, "triage", "top", "--json", "--store", store).out), &top); err != nil {
		t.Fatal(err)
	}
	return top.Total.Attempts, top.Total.Machines
}

// Two workers share the logs; one of them is killed again and again, and the
// server goes away and comes back: every log counts once, and what went wrong
// is told.
func TestWorkersAreKilled(t *testing.T) {
	t.Parallel() // it takes long, and most of it is waiting for processes
	if testing.Short() {
		t.Skip("it waits for work to be taken over")
	}
	pg := pgtest.Start(t)
	dir, store := t.TempDir(), pg.URL()
	logs := smallFleet(t, killLogs)
	mustRun(t, dir, 1, "triage", "top", "--store", store) // no tables yet
	mustRun(t, dir, 0, "triage", "make", "--store", store)
	mustRun(t, dir, 0, "triage", "make", "--store", store)
	mustRun(t, dir, 0, "triage", "add", logs, "--only-queue", "--store", store)
	mustRun(t, dir, 0, "triage", "add", logs, "--only-queue", "--store", store) // nothing is handed out twice
	work := []string{"triage", "work", "--store", store, "--rescue-after", "3s", "--jobs", "1"}
	steady := begin(t, dir, work...)
	said := ""
	for n := range kills {
		shaken := begin(t, dir, work...)
		time.Sleep(time.Duration(100+rand.IntN(250)) * time.Millisecond)
		shaken.kill()
		said += shaken.err.String()
		if n == kills/3 || n == 2*kills/3 {
			pg.Down()
			time.Sleep(time.Duration(rand.IntN(1200)) * time.Millisecond)
			pg.Up()
		}
	}
	mustRun(t, dir, 0, "triage", "work", "--store", store, "--rescue-after", "3s", "--until-empty")
	steady.kill()
	if attempts, machines := totals(t, dir, store); attempts != killLogs || machines != 200 {
		t.Errorf("%d attempts on %d machines; %d logs of 200 were made", attempts, machines, killLogs)
	}
	db, err := sql.Open("pgx", store)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	again := 0
	if err := db.QueryRow(`SELECT count(*) FROM river_job WHERE attempt > 1`).Scan(&again); err != nil || again == 0 {
		t.Errorf("no kill met a job: %v", err)
	}
	t.Logf("%d jobs were done again", again)
	if said += steady.err.String(); !strings.Contains(said, "does not answer") && !strings.Contains(said, "connect") {
		t.Errorf("that the server was away is not told:\n%s", said)
	}
	if r := mustRun(t, dir, 0, "triage", "add", logs, "--store", store, "--json"); !strings.Contains(r.out, `"jobs": 0`) {
		t.Errorf("what was read is read again: %s", r.out)
	}
}

// A run on a file that is killed again and again goes on where it was.
func TestAddIsKilled(t *testing.T) {
	t.Parallel() // it takes long, and most of it is waiting for processes
	dir := t.TempDir()
	logs := smallFleet(t, killLogs)
	for range kills {
		p := begin(t, dir, "triage", "add", logs)
		select {
		case <-p.done:
		case <-time.After(time.Duration(50+rand.IntN(250)) * time.Millisecond):
			p.kill()
		}
	}
	var wg sync.WaitGroup // two at once, on the same file
	for range 2 {
		wg.Go(func() { mustRun(t, dir, 0, "triage", "add", logs) })
	}
	wg.Wait()
	if attempts, machines := totals(t, dir, "hollowkey-triage.db"); attempts != killLogs || machines != 200 {
		t.Errorf("%d attempts on %d machines; %d logs of 200 were made", attempts, machines, killLogs)
	}
}

// Files that vanish while they are read are told, and the rest goes on.
func TestLogsVanish(t *testing.T) {
	dir := t.TempDir()
	logs := smallFleet(t, 600)
	go func() {
		folders, _ := filepath.Glob(filepath.Join(logs, "*"))
		for n, f := range folders {
			if n%3 == 0 {
				os.RemoveAll(f)
			}
		}
	}()
	r := run(t, dir, nil, "triage", "add", logs, "--json")
	var rep struct{ Files, Logs, Unread int }
	if err := json.Unmarshal([]byte(r.out), &rep); err != nil || r.code != 0 && r.code != 3 {
		t.Fatalf("%d %v\n%s%s", r.code, err, r.out, r.err)
	}
	if rep.Logs+rep.Unread == 0 || rep.Logs > 600 {
		t.Errorf("%+v", rep)
	}
}
