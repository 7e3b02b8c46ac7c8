package fix

import (
	"fmt"
	"testing"
	"time"

	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
)

// longJournal writes a journal of so many records, two for each change.
func longJournal(t testing.TB, records int) string {
	t.Helper()
	dir := t.TempDir()
	j, err := OpenJournal(dir, time.Now)
	if err != nil {
		t.Fatal(err)
	}
	if err := j.Hold(nil); err != nil {
		t.Fatal(err)
	}
	defer j.Release()
	step := &kinds.Step{Kind: "service", Target: "TideClock", Args: map[string]string{"name": "TideClock", "start": "manual"}}
	state := func(start machine.StartType) *kinds.State {
		return &kinds.State{Fact: &kinds.ServiceState{Start: start}}
	}
	for i := range records / 2 {
		r, err := j.write(Record{Phase: Begin, Change: i + 1, Plan: fmt.Sprint(i), Machine: "ELLERY-D07",
			Title: "set the start type of the service TideClock", Step: step,
			Before: state("disabled"), After: state("manual")})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := j.write(Record{Phase: Done, Of: r.Seq}); err != nil {
			t.Fatal(err)
		}
	}
	return dir
}

func BenchmarkOpenJournal(b *testing.B) {
	dir := longJournal(b, 100_000)
	for b.Loop() {
		j, err := OpenJournal(dir, time.Now)
		if err != nil || len(j.Records()) != 100_000 || len(j.InForce("ELLERY-D07")) != 50_000 {
			b.Fatal(err)
		}
	}
}
