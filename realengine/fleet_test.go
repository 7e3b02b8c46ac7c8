package realengine

import (
	"encoding/json"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/demo/fleetlogs"
)

// The Windows build reads many logs, with those in zips, into its file, and
// asks it.
func TestTriageOnWindows(t *testing.T) {
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	program := build(t, "build", "hollowkey/cmd/hollowkey")
	dir := t.TempDir()
	made, err := fleetlogs.Write(dir,
		fleetlogs.Plan{Machines: 12, Logs: 40, Zips: 30, Least: 1000, Most: 5000,
			From: time.Date(2026, 5, 4, 0, 0, 0, 0, time.UTC), Days: 3, Seed: 2})
	must(t, err)
	run := func(args ...string) string {
		t.Helper()
		return expect(t, t.TempDir(), program, 0, args...)
	}
	store := windowsPath(filepath.Join(t.TempDir(), "logs.db"))
	if out := run("triage", "add", windowsPath(dir), "--store", store); !strings.Contains(out, "40 logs read") {
		t.Fatal(out)
	}
	if out := run("triage", "add", windowsPath(dir), "--store", store); !strings.Contains(out, "0 logs read, 40 known before") {
		t.Error(out)
	}
	var top struct {
		Total struct{ Attempts, Machines, Causes int }
	}
	must(t, json.Unmarshal([]byte(run("triage", "top", "--json", "--store", store)), &top))
	causes := map[string]bool{}
	for _, l := range made {
		if l.Cause != "" {
			causes[l.Cause] = true
		}
	}
	if top.Total.Attempts != 40 || top.Total.Machines != 12 || top.Total.Causes < len(causes)*8/10 {
		t.Errorf("%+v; %d causes were made", top, len(causes))
	}
	if out := run("triage", "page", "--out", windowsPath(filepath.Join(t.TempDir(), "page.html")),
		"--store", store); !strings.Contains(out, "WRITTEN") {
		t.Error(out)
	}
}
