package gatefix_test

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/fix"
	"hollowkey/core/logs/story"
	"hollowkey/core/machine/twin"
	"hollowkey/core/package/alter"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/targets"
	"hollowkey/core/step"
	"hollowkey/core/why"
	"hollowkey/core/why/gatefix"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
	"hollowkey/demo"
	"hollowkey/demo/demotest"
)

// refusal is the verdict on a setup whose package refused at an action.
func refusal(class, action, pack string) *verdict.Verdict {
	return &verdict.Verdict{Outcome: story.Failed, Logs: []verdict.Log{{File: "setup.log"}}, Package: pack,
		Cause: verdict.Cause{Class: &class}, BrokeAt: story.BrokeAt{Action: &action},
		Remedies: []step.Remedy{{Title: "ask the vendor"}}}
}

// failing are the gates of the demo's package that refuse the machine.
func failing(t *testing.T, m *twin.Twin) (list []gates.Gate) {
	t.Helper()
	db, f, err := targets.Open(m, demo.PlannerPath)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	all, err := gates.Find(gates.NewWorld(db, m, nil))
	if err != nil {
		t.Fatal(err)
	}
	for _, g := range all {
		if g.Answer == gates.Fails {
			list = append(list, g)
		}
	}
	return list
}

// Nothing is proposed where no gate can stand behind the cause, or where it is
// not clear which one does.
func TestNothingToPropose(t *testing.T) {
	_, m := demotest.LayOut(t)
	worked := refusal("condition", "LaunchConditions", demo.PlannerPath)
	worked.Outcome = story.Succeeded
	unsure := refusal("condition", "LaunchConditions", demo.PlannerPath)
	unsure.Cause.Class = nil
	for name, v := range map[string]*verdict.Verdict{
		"it worked": worked, "no cause": unsure, "another cause": refusal("service", "StartServices", demo.PlannerPath),
		"no package":                refusal("condition", "LaunchConditions", ""),
		"an action that is no gate": refusal("condition", "InstallFiles", demo.PlannerPath),
	} {
		add(t, v, m)
		if len(v.Remedies) != 1 || len(v.Machine) != 0 {
			t.Errorf("%s: %+v, %+v", name, v.Remedies, v.Machine)
		}
	}
}

// A package that is gone, or that is none, is told, and nothing is made up.
func TestAPackageThatCannotBeRead(t *testing.T) {
	folder, m := demotest.LayOut(t)
	if err := os.Remove(filepath.Join(m.Folder(), "disk", "C", "Deploy", demo.PlannerPackage)); err != nil {
		t.Fatal(err)
	}
	ans, err := why.Ask(t.Context(), why.Question{Logs: []string{filepath.Join(folder, "planner31.log")}, Machine: m})
	if err != nil {
		t.Fatal(err)
	}
	v := ans.Verdict
	if v.FirstWithSteps() >= 0 || len(v.Machine) != 1 || v.Machine[0].Answer != "unknown" ||
		!strings.Contains(v.Machine[0].Text, demo.PlannerPath) {
		t.Errorf("%+v, %+v", v.Remedies, v.Machine)
	}
	for _, pack := range []string{`C:\Deploy\none.msi`, `C:\Deploy\readme.txt`} { // named by a person it is an error
		if _, err := why.Ask(t.Context(), why.Question{Exit: new(1603), Package: pack, Machine: m}); err == nil {
			t.Errorf("%s: no error", pack)
		}
	}
}

// Without a log the package and the machine alone tell which gate refuses.
func TestAPackageAlone(t *testing.T) {
	_, m := demotest.LayOut(t)
	ans, err := why.Ask(t.Context(), why.Question{Exit: new(1603), Package: demo.PlannerPath, Machine: m})
	if err != nil {
		t.Fatal(err)
	}
	v := ans.Verdict
	if *v.Cause.Class != "condition" || v.FirstWithSteps() < 0 || !v.Shown() {
		t.Errorf("%+v, %+v", v.Cause, v.Remedies)
	}
}

// add opens the package of a verdict and adds what its gates say.
func add(t *testing.T, v *verdict.Verdict, m *twin.Twin) {
	t.Helper()
	if v.Package == "" {
		gatefix.Add(v, nil, m)
		return
	}
	db, f, err := targets.Open(m, v.Package)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	gatefix.Add(v, db, m)
}

// Each way that is proposed, when it is taken, lets every gate pass that was
// sure to refuse.
func TestTheProposedWaysOpenTheGates(t *testing.T) {
	folder, m := demotest.LayOut(t)
	refusing := failing(t, m)
	if len(refusing) < 1 {
		t.Fatalf("the demo's package has %d gates that refuse", len(refusing))
	}
	ans, err := why.Ask(context.Background(), why.Question{Logs: []string{filepath.Join(folder, "planner31.log")}, Machine: m})
	if err != nil {
		t.Fatal(err)
	}
	v := ans.Verdict
	found := slices.IndexFunc(v.Machine, func(f signs.Finding) bool { return f.Check == "package-gates" })
	if found < 0 || !strings.Contains(v.Machine[found].Text, "VersionNT") || !strings.Contains(v.Machine[found].Text, "ELLERY-D07") {
		t.Errorf("%+v", v.Machine)
	}
	taken := 0
	for _, r := range v.Remedies {
		if len(r.Steps) == 0 || r.Class != "condition" {
			continue
		}
		taken++
		for _, model := range r.Steps {
			for kind, args := range model {
				if kind == "command" || args["edits"] == "" {
					continue
				}
				db, f, err := targets.Open(m, demo.PlannerPath)
				if err != nil {
					t.Fatal(err)
				}
				if _, err := alter.Apply(db, alter.ParseEdits(args["edits"]), true); err != nil {
					t.Fatal(err)
				}
				after, err := gates.Find(gates.NewWorld(db, m, nil))
				f.Close()
				if err != nil {
					t.Fatal(err)
				}
				for _, g := range after {
					if g.Answer == gates.Fails {
						t.Errorf("%s: the gate %s %q still refuses", r.Title, g.Row, g.Condition)
					}
				}
			}
		}
		if _, err := fix.Draft(m, r.Title, r.Steps); err != nil && !strings.Contains(r.Title, "altered copy") {
			t.Errorf("%s: %v", r.Title, err)
		}
		if r.Undo == "" {
			t.Errorf("%s does not say how it is undone", r.Title)
		}
	}
	if taken < 2 {
		t.Errorf("%d ways are proposed: %+v", taken, v.Remedies)
	}
}

// The gate whose message the log holds is the one that is mended.
func TestTheGateIsTheOneThatSpoke(t *testing.T) {
	_, m := demotest.LayOut(t)
	for _, g := range failing(t, m) {
		v := refusal("condition", g.Row, demo.PlannerPath)
		if g.Kind == gates.Launch {
			v = refusal("condition", "LaunchConditions", demo.PlannerPath)
			v.Evidence = []verdict.Line{{Line: 7, Text: "Product: Berthline Planner -- " + g.Says}}
		}
		add(t, v, m)
		if len(v.Machine) != 1 || v.Machine[0].Answer != "yes" {
			t.Errorf("%s %q: %+v", g.Row, g.Condition, v.Machine)
			continue
		}
		want := g.Row
		if g.Kind == gates.Launch {
			want = g.Condition
		}
		if !strings.Contains(v.Machine[0].Text, want) {
			t.Errorf("the finding on %q: %s", want, v.Machine[0].Text)
		}
	}
}
