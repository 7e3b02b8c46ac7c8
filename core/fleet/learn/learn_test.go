package learn

import (
	"context"
	"encoding/json"
	"fmt"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/fleet/fold"
	"hollowkey/core/fleet/store"
	"hollowkey/core/logs/story"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// failure is a verdict on a service that did not start.
func failure(service string) *verdict.Verdict {
	return &verdict.Verdict{Outcome: story.Failed,
		Cause: verdict.Cause{Class: new("service"), Title: service + " did not start", Subject: &signs.Subject{Kind: "service", Name: service}},
		Sign:  "service-start", Host: verdict.Host{Name: "ELLERY-D07"},
		Remedies: []step.Remedy{{Class: "service", Title: "set the start type"},
			{Class: "advice", Title: "ask the vendor"}, {Class: "service", Title: "start it by hand"}}}
}

var worked = &verdict.Verdict{Outcome: story.Succeeded}

// caseOf makes a case's files: its verdict, its changes by their titles, its
// attempts.
func caseOf(t *testing.T, first *verdict.Verdict, titles []string, attempts ...casefile.Attempt) fstest.MapFS {
	t.Helper()
	files := fstest.MapFS{}
	put := func(name string, v any) {
		b, err := json.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		files[name] = &fstest.MapFile{Data: append(b, '\n')}
	}
	put("verdicts/0001.json", first)
	var journal []byte
	for n, title := range titles {
		b, err := json.Marshal(fix.Record{Seq: n + 1, Phase: fix.Begin, Change: n + 1, Title: title})
		if err != nil {
			t.Fatal(err)
		}
		journal = append(append(journal, b...), '\n')
	}
	files["journal.ndjson"] = &fstest.MapFile{Data: journal}
	for n, a := range attempts {
		a.Number, a.Time = n+1, time.Date(2026, 5, 5, 9+n, 0, 0, 0, time.UTC)
		put(fmt.Sprintf("attempts/%04d.json", n+1), a)
	}
	return files
}

// What came of each remedy is told by the attempt after it; what was only
// rehearsed, cut off or cancelled tells nothing.
func TestFromCase(t *testing.T) {
	tell := func(list []store.Tried) string {
		var out []string
		for _, x := range list {
			to := ""
			if x.MovedTo != nil {
				to = ">" + x.MovedTo.Subject
			}
			out = append(out, x.Class+":"+x.Remedy+"="+x.Result+to)
		}
		return strings.Join(out, " ")
	}
	cancelled := &verdict.Verdict{Outcome: story.Cancelled, Cause: verdict.Cause{Class: new("cancelled")}}
	for _, c := range []struct {
		name  string
		files fstest.MapFS
		want  string
	}{
		{"helped", caseOf(t, failure("BerthSync"), []string{"set the start type"},
			casefile.Attempt{Done: true, Changes: []int{1}, Verdict: worked}), "service:set the start type=helped"},
		{"same, then helped", caseOf(t, failure("BerthSync"), []string{"ask the vendor", "start it by hand"},
			casefile.Attempt{Done: true, Changes: []int{1}, Verdict: failure("BerthSync"), Compared: "same"},
			casefile.Attempt{Done: true, Changes: []int{1, 2}, Verdict: worked}), "advice:ask the vendor=same service:start it by hand=helped"},
		{"moved", caseOf(t, failure("BerthSync"), []string{"set the start type"},
			casefile.Attempt{Done: true, Changes: []int{1}, Verdict: failure("TideClock"), Compared: "moved"}),
			"service:set the start type=moved>TideClock"},
		{"a step of a person's", caseOf(t, failure("BerthSync"), []string{"what nobody proposed"},
			casefile.Attempt{Done: true, Changes: []int{1}, Verdict: worked}), ":what nobody proposed=helped"},
		{"nothing was changed", caseOf(t, failure("BerthSync"), nil, casefile.Attempt{Done: true, Verdict: worked}), ""},
		{"rehearsed", caseOf(t, failure("BerthSync"), []string{"set the start type"},
			casefile.Attempt{Done: true, Rehearsal: true, Changes: []int{1}, Verdict: worked}), ""},
		{"cut off", caseOf(t, failure("BerthSync"), []string{"set the start type"}, casefile.Attempt{Changes: []int{1}, Verdict: worked}), ""},
		{"cancelled", caseOf(t, failure("BerthSync"), []string{"set the start type"},
			casefile.Attempt{Done: true, Changes: []int{1}, Verdict: cancelled}), ""},
		{"no case at all", fstest.MapFS{"readme.txt": {Data: []byte("x")}}, ""},
	} {
		list, err := FromCase(c.files, "case")
		if err != nil || tell(list) != c.want {
			t.Errorf("%s: %s, %v; want %s", c.name, tell(list), err, c.want)
		}
	}
	damaged := caseOf(t, failure("BerthSync"), []string{"set the start type"},
		casefile.Attempt{Done: true, Changes: []int{1}, Verdict: worked})
	damaged["attempts/0002.json"] = &fstest.MapFile{Data: []byte("{")}
	if list, err := FromCase(damaged, "case"); err == nil || tell(list) != "service:set the start type=helped" {
		t.Errorf("damaged: %s, %v", tell(list), err)
	}
}

// A remedy that helped here comes first, one that did not comes last, when it
// was tried often enough, and never against what the machine itself shows.
func TestConsult(t *testing.T) {
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "t.db"), true)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	ask := func(v *verdict.Verdict) string {
		t.Helper()
		if err := Consult(ctx, s, v, "ELLERY-D07"); err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, r := range v.Remedies {
			out = append(out, r.Title)
		}
		return strings.Join(out, ", ")
	}
	as := "set the start type, ask the vendor, start it by hand"
	if v := failure("BerthSync"); ask(v) != as || v.Here.Machines != 0 {
		t.Errorf("an empty store: %+v", v.Here)
	}
	facts, _ := fold.FactsOf(failure("BerthSync"), "ELLERY-D07", "")
	try := func(class, title, result string, times int) {
		t.Helper()
		var list []store.Tried
		for n := range times {
			list = append(list, store.Tried{Facts: facts, Class: class, Remedy: title, Result: result,
				Machine: fmt.Sprintf("m%d", n), Happened: time.Date(2026, 5, 5, n, 0, 0, 0, time.UTC)})
		}
		if err := s.Add(ctx, []store.Found{{File: store.File{Path: title + result, State: store.Case}, Tried: list}}); err != nil {
			t.Fatal(err)
		}
	}
	try("service", "start it by hand", store.Helped, enough-1)
	if got := ask(failure("BerthSync")); got != as {
		t.Errorf("tried too seldom: %s", got)
	}
	try("service", "start it by hand", store.Helped, enough+5)
	try("service", "set the start type", store.Same, enough)
	v := failure("BerthSync")
	if got := ask(v); got != "start it by hand, ask the vendor, set the start type" {
		t.Errorf("after some trials: %s", got)
	}
	if len(v.Here.Tried) != 2 || v.Here.Tried[0].Remedy != 1 || v.Here.Tried[1].Remedy != 3 || v.Here.Tried[1].Helped != 0 {
		t.Errorf("%+v", v.Here.Tried)
	}
	shown := failure("BerthSync")
	shown.Machine = []signs.Finding{{Answer: "yes"}}
	if got := ask(shown); got != as {
		t.Errorf("against what the machine shows: %s", got)
	}
	if got := ask(failure("TideClock")); got != as {
		t.Errorf("another cause: %s", got)
	}
	if err := Consult(ctx, s, worked, ""); err != nil || worked.Here != nil {
		t.Errorf("a setup that worked: %+v %v", worked.Here, err)
	}
}
