package references

import (
	"fmt"
	"strings"
	"testing"

	"hollowkey/core/package/installdb"
	"hollowkey/demo"
)

func planner(t testing.TB) *installdb.Database {
	t.Helper()
	db, err := demo.Planner()
	if err != nil {
		t.Fatal(err)
	}
	return db
}

func TestWhoRefersToWhat(t *testing.T) {
	g, err := Read(planner(t))
	if err != nil {
		t.Fatal(err)
	}
	for place, want := range map[Place]string{
		{"Component", "Planner"}:  "FeatureComponents Complete, Planner; File BerthExe; File TideTable; File ReadMe",
		{"Binary", "ChartSetup"}:  "CustomAction RunChartRuntime",
		{"File", "BerthExe"}:      "Component Planner",
		{"Registry", "SiteValue"}: "Component Settings",
		{"Property",
			"ProductName"}: "CustomAction RefuseDowngrade; LaunchCondition Privileged; LaunchCondition VersionNT >= 501 AND VersionNT < 600",
		{"CustomAction", "RefuseDowngrade"}: "InstallExecuteSequence RefuseDowngrade; InstallUISequence RefuseDowngrade",
		{"Property", "NotThere"}:            "",
	} {
		users, err := g.Users(place)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, u := range users {
			got = append(got, u.Place.String())
		}
		if strings.Join(got, "; ") != want {
			t.Errorf("%s is used by %s, want %s", place, strings.Join(got, "; "), want)
		}
	}
}

func TestFind(t *testing.T) {
	g, err := Read(planner(t))
	if err != nil {
		t.Fatal(err)
	}
	f, err := g.Find("COMPONENT", 1)
	if err != nil || len(f.Tables) != 2 || len(f.Hits) > 1 || len(f.Columns) < 5 {
		t.Errorf("%v, %v, %d rows and %d more, %d columns", err, f.Tables, len(f.Hits), f.More, len(f.Columns))
	}
	if f, _ := g.Find("planner.cab", 5); len(f.Streams) != 0 || len(f.Hits) != 1 || f.Hits[0].Table != "Media" {
		t.Errorf("%+v", f) // a database in memory has no streams of a file yet
	}
	if f, _ := g.Find("150", 5); len(f.Hits) != 2 || f.Hits[0].Key != "RunChartRuntime" {
		t.Errorf("a number: %+v", f.Hits)
	}
}

func TestSelect(t *testing.T) {
	table, err := planner(t).Table("InstallExecuteSequence")
	if err != nil {
		t.Fatal(err)
	}
	for where, want := range map[string]string{
		"Sequence < 100": "FindRelatedProducts AppSearch RefuseDowngrade", `Action ~>< "chart"`: "RunChartRuntime",
		"Condition":                             "RefuseDowngrade RunChartRuntime SetBerthFolder",
		`Condition << "NOT" AND Sequence > 500`: "SetBerthFolder", "NOT Sequence": "",
	} {
		_, rows, err := Select(table, Query{Where: where, Sort: []string{"Sequence"}, Show: []string{"Action"}})
		var got []string
		for _, r := range rows {
			got = append(got, r[0].Text)
		}
		if err != nil || strings.Join(got, " ") != want {
			t.Errorf("%s: %v, %v", where, got, err)
		}
	}
	for _, q := range []Query{{Where: "Depth = 1"}, {Sort: []string{"Depth"}}, {Show: []string{"Depth"}}, {Where: "A ="}} {
		if _, _, err := Select(table, q); err == nil {
			t.Errorf("%+v is taken", q)
		}
	}
	_, rows, err := Select(table, Query{Sort: []string{"-Sequence"}})
	if err != nil || rows[0][0].Text != "InstallFinalize" {
		t.Errorf("the other way round: %v, %v", rows[0], err)
	}
}

// Tens of thousands of rows that refer to one another are indexed in one go.
func BenchmarkIndex(b *testing.B) {
	db := planner(b)
	var changes []installdb.Change
	for i := range 50_000 {
		key := fmt.Sprintf("f%d", i)
		changes = append(changes, installdb.Change{Table: "File", Op: installdb.Put,
			Row: installdb.Row{installdb.TextValue(key), installdb.TextValue("Planner"),
				installdb.TextValue(key), installdb.IntValue(1), {}, {}, {}, installdb.IntValue(int32(10 + i))}})
	}
	if err := db.Apply(&installdb.TransformFile{Changes: changes}); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		g, err := Read(db)
		if err != nil {
			b.Fatal(err)
		}
		if users, err := g.Users(Place{"Component", "Planner"}); err != nil || len(users) < 50_000 {
			b.Fatal(len(users), err)
		}
	}
}
