package fleetlogs

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why/verdict"
	"hollowkey/demo/enginelog"
)

// Tuesday is the day of the demo's rollout.
var Tuesday = time.Date(2026, 5, 5, 0, 0, 0, 0, time.UTC)

// What the demo's rollout is of, and what it fails from on most desktops.
const (
	RolledOut = "Berthline Planner"
	rolledBad = "service-will-not-start"
	desktops  = 40
)

// Rollout makes the logs of the demo's fleet: two weeks as usual, and a rollout
// on a Tuesday that fails on most desktops; with two cases in which a desktop
// was mended.
func Rollout(dir string) ([]Log, error) {
	all, err := Causes()
	if err != nil {
		return nil, err
	}
	usual := slices.DeleteFunc(slices.Clone(all), func(c Cause) bool { return c.Name == rolledBad || len(c.Name)%3 != 0 })
	bad := slices.DeleteFunc(slices.Clone(all), func(c Cause) bool { return c.Name != rolledBad })
	made, err := Write(dir, Plan{Machines: desktops, Logs: 150, Worked: 35, Zips: 25, Least: 20_000, Most: 60_000,
		From: Tuesday.AddDate(0, 0, -14), Days: 18, Seed: 4, Causes: usual})
	if err != nil {
		return nil, err
	}
	rolled, err := Write(dir, Plan{Machines: desktops, Logs: 150, Worked: 30, Least: 20_000, Most: 60_000,
		From: Tuesday, Days: 1, Seed: 8, Causes: bad, Product: RolledOut, Name: "rollout"})
	if err != nil {
		return nil, err
	}
	for n, desk := range []int{4, 11} {
		if err := mended(filepath.Join(dir, fmt.Sprintf("case-%d", n+1)), deskOf(desk), bad[0],
			Tuesday.Add(time.Duration(15+n)*time.Hour)); err != nil {
			return nil, err
		}
	}
	return append(made, rolled...), nil
}

// mended makes a case in which a desktop's setup failed, the first remedy with
// steps was applied, and the setup worked.
func mended(dir string, d desk, c Cause, at time.Time) error {
	clock := func() time.Time { return at }
	if _, err := casefile.Make(dir, casefile.About{Title: RolledOut + " does not install", Machine: d.name}, clock); err != nil {
		return err
	}
	judged := func(failure enginelog.Failure) (*verdict.Verdict, error) {
		p := productOf(RolledOut)
		var b bytes.Buffer
		if err := enginelog.Write(&b, enginelog.Setup{Product: p.name, Version: p.version, Code: p.code,
			Manufacturer: p.maker, Folder: p.folder, User: d.user, SID: d.sid, Computer: d.name,
			Build: d.build, Started: at, Files: 20,
			Services: []enginelog.Service{{Name: "BerthSync", Display: "Berth Sync"}}, Failure: failure}); err != nil {
			return nil, err
		}
		return verdict.Reach(context.Background(), verdict.Input{Name: "setup.log", Text: &b}, verdict.Options{})
	}
	before, err := judged(enginelog.Failure{Action: c.Action, Lines: c.Lines})
	if err != nil {
		return err
	}
	after, err := judged(enginelog.Failure{})
	if err != nil {
		return err
	}
	// On the desktop itself the cause was looked up, which brings the remedy
	// with steps.
	before.Remedies = slices.Insert(before.Remedies, 0,
		step.Remedy{Class: "service", Title: "let BerthSync start on demand again", Target: "BerthSync"})
	if _, err := casefile.AddVerdict(dir, before); err != nil {
		return err
	}
	line, err := json.Marshal(fix.Record{Seq: 1, Time: at, Phase: fix.Begin, Change: 1, Plan: "1", Machine: d.name,
		Case: dir, Title: before.Remedies[0].Title})
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "journal.ndjson"), append(line, '\n'), 0o644); err != nil {
		return err
	}
	a, err := casefile.BeginAttempt(dir,
		casefile.Attempt{Time: at.Add(10 * time.Minute), Machine: d.name, Changes: []int{1}, Verdict: after, Compared: "gone"})
	if err != nil {
		return err
	}
	if err := a.End(dir); err != nil {
		return err
	}
	kept, err := casefile.Load(dir, clock)
	if err != nil {
		return err
	}
	return kept.Close("the service starts again")
}
