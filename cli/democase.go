// This file is the part of the demo about failed setups, each from its log to
// the page of its case.

package cli

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/machine/twin"
	"hollowkey/core/prove/retry"
	"hollowkey/core/record/casefile"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
	"hollowkey/demo"
)

// demoCase is one case with all that was done on it.
type demoCase struct {
	Log     string            `json:"log"`     // where it lies
	Told    string            `json:"told"`    // what the person said
	Verdict *verdict.Verdict  `json:"verdict"` // on the twin
	Plan    fix.Plan          `json:"plan"`    // that was applied
	Before  *casefile.Attempt `json:"before"`  // rehearsed without the fix
	After   *casefile.Attempt `json:"after"`   // with it
	Again   *casefile.Attempt `json:"again"`   // after it was undone
	Undone  int               `json:"undone"`  // changes made and undone
	Report  string            `json:"report"`  // where it lies
	dir     string            // of the case
	diff    []string          // lines of what the plan changes
}

// demoCases goes the whole way for each case. A fix stays in force for the
// cases after it, as on a desktop with several troubles; at the end all are
// taken back.
func (a *app) demoCases(ctx context.Context, into string) (told []demoCase, err error) {
	m, err := twin.Open(a.machine)
	if err != nil {
		return nil, err
	}
	defer m.Close()
	for _, d := range demo.Cases() {
		t, err := a.demoCase(ctx, m, d, into)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", d.Log, err)
		}
		told = append(told, t)
	}
	// Undone newest first, since one case's fix may stand on another's.
	for n, t := range slices.Backward(told) {
		j, err := a.journalFor(t.dir)
		if err != nil {
			return nil, err
		}
		for _, i := range j.InForce(m.Name()) {
			if err := j.Undo(m, i.Change, false); err != nil {
				return nil, err
			}
		}
		if told[n].Report, err = a.demoReport(ctx, t); err != nil { // now, so that it says how it stands in the end
			return nil, err
		}
	}
	return told, nil
}

// demoCase goes the way of one failed setup: verdict, rehearsal, fix, rehearsal
// again, undo. Each part goes through the same calls as the commands do, so
// that the demo shows nothing that they could not.
func (a *app) demoCase(ctx context.Context, m *twin.Twin, d demo.Case, into string) (out demoCase, err error) {
	out = demoCase{Log: filepath.Join(into, d.Log), Told: d.Told, dir: filepath.Join(into, d.Folder())}
	if _, err := casefile.Make(out.dir, casefile.About{Title: d.Told, Told: d.Told, Machine: m.Name()}, a.now); err != nil {
		return out, err
	}
	ans, err := why.Ask(ctx, a.question([]string{out.Log}, whyOptions{}, m))
	if err != nil {
		return out, err
	}
	out.Verdict = ans.Verdict
	if err := casefile.Keep(out.dir, ans.Logs, out.Verdict); err != nil {
		return out, err
	}
	at := out.Verdict.FirstWithSteps()
	if at < 0 {
		return out, fmt.Errorf("no remedy of this verdict has steps")
	}
	r := out.Verdict.Remedies[at]
	if out.Plan, err = fix.Draft(m, r.Title, r.Steps); err != nil {
		return out, err
	}
	for _, c := range out.Plan.Changes {
		var b strings.Builder
		writeDiff(&b, Style{Color: a.style.Color, Width: a.style.Width - 8}, c.Before.Lines(m), c.After.Lines(m))
		out.diff = append(out.diff, b.String())
	}
	j, err := a.journalFor(out.dir)
	if err != nil {
		return out, err
	}
	// Before the fix it must fail, after it work, and after undo fail again:
	// else nothing is proved.
	if out.Before, err = a.demoTry(ctx, m, j, out, out.Log); err != nil {
		return out, err
	}
	if err := out.Plan.Apply(m, j); err != nil {
		return out, err
	}
	if out.After, err = a.demoTry(ctx, m, j, out, ""); err != nil {
		return out, err
	}
	for _, i := range j.LastPlan(m.Name()) {
		if err := j.Undo(m, i.Change, false); err != nil {
			return out, err
		}
		out.Undone++
	}
	if out.Again, err = a.demoTry(ctx, m, j, out, ""); err != nil {
		return out, err
	}
	return out, out.Plan.Apply(m, j)
}

// demoTry rehearses a case's package: the one that a log speaks of, or the one
// that was tried last.
func (a *app) demoTry(ctx context.Context, m *twin.Twin, j *fix.Journal, d demoCase, of string) (*casefile.Attempt, error) {
	done, err := retry.Again(ctx, m, j, retry.Wish{Dir: d.dir, Of: of, Now: a.now()})
	if err != nil {
		return nil, err
	}
	return done.Attempt, nil
}

// demoReport writes the page of one case.
func (a *app) demoReport(ctx context.Context, d demoCase) (string, error) {
	inner := *a
	inner.caseDir, inner.json = d.dir, false
	var quiet strings.Builder
	inner.out = &quiet
	return filepath.Join(d.dir, "report.html"), inner.report(ctx, []string{d.Log}, reportOptions{})
}

// rehearsed tells an attempt in a few words.
func rehearsed(t *casefile.Attempt) string {
	if t.Verdict.Worked() {
		return fmt.Sprintf("Rehearsed: it works, exit code %d.", t.Exit)
	}
	where := ""
	if t.Verdict.BrokeAt.Action != nil {
		where = " at " + *t.Verdict.BrokeAt.Action
	}
	return fmt.Sprintf("Rehearsed: it fails%s, exit code %d.", where, t.Exit)
}
