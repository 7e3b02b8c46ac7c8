package startup

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
)

// simulate hunts on a made-up machine: the setup fails whenever all items of
// one set are on. skip says which rounds cannot be tested.
func simulate(t *testing.T, n int, sets [][]int, skip func(int) bool) (Result, int) {
	t.Helper()
	var rounds []Round
	for {
		r := Hunt(n, rounds)
		if r.Done {
			return r, len(rounds)
		}
		if len(rounds) > 400 {
			t.Fatalf("%d items, %v: no end after %d rounds", n, sets, len(rounds))
		}
		outcome := Worked
		for _, set := range sets {
			all := true
			for _, i := range set {
				all = all && slices.Contains(r.Next, i)
			}
			if all {
				outcome = Failed
			}
		}
		if skip != nil && skip(len(rounds)) && len(rounds) > 0 {
			outcome = Untested
		}
		rounds = append(rounds, Round{r.Next, outcome})
	}
}

func sorted(sets [][]int) string {
	var out []string
	for _, s := range sets {
		s = slices.Clone(s)
		slices.Sort(s)
		out = append(out, fmt.Sprint(s))
	}
	slices.Sort(out)
	return fmt.Sprint(out)
}

// Hundreds of machines with 1 to 3 culprits among 5 to 200 items, each alone or
// only together: always right, and near the least possible number of rounds.
func TestHunts(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	worst := map[string]int{}
	for range 900 {
		n, k := 5+r.IntN(196), 1+r.IntN(3)
		picked := r.Perm(n)[:k]
		var sets [][]int
		kind := "together"
		if r.IntN(2) == 0 || k == 1 {
			kind = "each alone"
			for _, i := range picked {
				sets = append(sets, []int{i})
			}
		} else {
			sets = [][]int{picked}
		}
		got, rounds := simulate(t, n, sets, nil)
		if sorted(got.Culprits) != sorted(sets) || got.Unsure != nil || got.Elsewhere {
			t.Fatalf("%d items, culprits %v: found %+v", n, sets, got)
		}
		if limit := 1 + k*(Expected(n)-1); rounds > limit {
			t.Errorf("%d items, culprits %v: %d rounds, more than %d", n, sets, rounds, limit)
		}
		name := fmt.Sprintf("%d %s", k, kind)
		worst[name] = max(worst[name], rounds)
	}
	t.Logf("most rounds: %v", worst)
}

func TestUntestedRounds(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 300 {
		n := 5 + r.IntN(60)
		culprit := r.IntN(n)
		got, _ := simulate(t, n, [][]int{{culprit}}, func(round int) bool { return round%4 == 2 })
		found := slices.Contains(got.Unsure, culprit)
		for _, s := range got.Culprits {
			found = found || slices.Equal(s, []int{culprit})
		}
		if !found {
			t.Errorf("%d items, culprit %d: %+v", n, culprit, got)
		}
	}
}

func TestNobodyToBlame(t *testing.T) {
	got := Hunt(9, []Round{{nil, Failed}})
	if !got.Done || !got.Elsewhere {
		t.Errorf("%+v", got)
	}
	if first := Hunt(9, nil); first.Done || len(first.Next) != 0 {
		t.Errorf("the first round must have everything off: %+v", first)
	}
}
