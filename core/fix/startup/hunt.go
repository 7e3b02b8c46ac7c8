// This file halves the items that could be to blame, round by round; it knows
// nothing of machines.

package startup

import (
	"fmt"
	"math/bits"
	"slices"
)

// An Outcome is how the setup went in one round of a hunt.
type Outcome string

// The outcomes.
const (
	Failed   Outcome = "failed"
	Worked   Outcome = "worked"
	Untested Outcome = "could not test"
)

// A Round is one try: the items that were on, and how it went.
type Round struct {
	On      []int   `json:"on"`      // numbers of items
	Outcome Outcome `json:"outcome"` // as the person told it
}

// A Result is what a hunt knows after some rounds.
type Result struct {
	Next []int `json:"next"` // the items that are to be on in the next round
	Done bool  `json:"done"` // nothing is left to try
	// Culprits are the sets of items that break the setup; those of one set
	// only together.
	Culprits [][]int `json:"culprits,omitempty"`
	// Unsure are items among which one is a culprit, where tries that would
	// tell them apart could not be made.
	Unsure []int `json:"unsure,omitempty"`
	// Elsewhere is set when the setup fails with everything off, so that none
	// of the items is to blame.
	Elsewhere bool `json:"elsewhere,omitempty"`
}

// Hunt works out what to try next among n items, of which all on fail. What
// fails with some items on fails with more on, too. The answer follows from the
// rounds alone, so a hunt can be picked up after any restart.
//
// It looks for the shortest beginning of the row that fails: its last item is a
// culprit. If it does not fail alone, its partners are sought before it in the
// same way. Then everything else is tried, for culprits of their own.
func Hunt(n int, rounds []Round) Result {
	h := &hunt{known: map[string]Outcome{}}
	for _, r := range rounds {
		h.known[key(r.On)] = r.Outcome
	}
	var r Result
	if none, ok := h.try(nil); !ok {
		return h.ask()
	} else if none == Failed {
		return Result{Done: true, Elsewhere: true}
	}
	rest := make([]int, n)
	for i := range rest {
		rest[i] = i
	}
	for first := true; len(rest) > 0; first = false {
		if !first {
			outcome, ok := h.try(rest)
			if !ok {
				return h.ask()
			}
			if outcome != Failed {
				break
			}
		}
		set, unsure, ok := h.minimal(rest)
		if !ok {
			return h.ask()
		}
		r.Culprits = append(r.Culprits, set)
		r.Unsure = append(r.Unsure, unsure...)
		rest = slices.DeleteFunc(slices.Clone(rest), func(i int) bool { return slices.Contains(set, i) || slices.Contains(unsure, i) })
	}
	r.Done = true
	return r
}

type hunt struct {
	known map[string]Outcome // outcome by the items that were on
	want  []int              // the round that is missing
}

// key names a round by the items that were on, in whichever order they were
// told.
func key(on []int) string {
	on = slices.Clone(on)
	slices.Sort(on)
	return fmt.Sprint(on)
}

// try gives the outcome of a round; ok is false when it has not been made, and
// it is the next one then.
func (h *hunt) try(on []int) (Outcome, bool) {
	o, ok := h.known[key(on)]
	if !ok {
		h.want = slices.Clone(on)
		slices.Sort(h.want)
	}
	return o, ok
}

// ask ends the reckoning with the round that is missing.
func (h *hunt) ask() Result { return Result{Next: h.want} }

// minimal finds a smallest set among items that fail together.
func (h *hunt) minimal(items []int) (set, unsure []int, ok bool) {
	for candidates := items; ; {
		alone := Worked
		if len(set) > 0 {
			if alone, ok = h.try(set); !ok {
				return nil, nil, false
			}
			if alone == Failed || len(candidates) == 0 {
				return set, unsure, true
			}
		}
		at, among, ok := h.last(candidates, append(slices.Clone(set), unsure...))
		if !ok {
			return nil, nil, false
		}
		if among != nil { // rounds that would tell them apart could not be made
			return set, append(unsure, among...), true
		}
		if at == 0 && alone == Untested && len(candidates) == 1 {
			return set, append(unsure, candidates[0]), true
		}
		if at == 0 && alone == Untested {
			// Whether the first item is needed hangs on the round that could
			// not be made; another item in its stead tells.
			instead, ok := h.try(append(slices.Clone(set), candidates[1]))
			switch {
			case !ok:
				return nil, nil, false
			case instead == Failed:
				return set, unsure, true
			case instead == Untested:
				return set, append(unsure, candidates[0]), true
			}
		}
		set = append(set, candidates[at])
		candidates = candidates[:at]
	}
}

// last finds the item that ends the shortest beginning of candidates that fails
// together with the items with. among is set when it cannot be told further
// apart.
func (h *hunt) last(candidates, with []int) (at int, among []int, ok bool) {
	low, high := 0, len(candidates) // the beginning of length low works, that of high fails
	for high-low > 1 {
		moved := false
		for _, mid := range middles(low, high) {
			outcome, ok := h.try(append(slices.Clone(candidates[:mid]), with...))
			if !ok {
				return 0, nil, false
			}
			if outcome == Untested {
				continue // try another division
			}
			if moved = true; outcome == Failed {
				high = mid
			} else {
				low = mid
			}
			break
		}
		if !moved {
			return 0, slices.Clone(candidates[low:high]), true
		}
	}
	return high - 1, nil, true
}

// middles are the places to divide at, the nearest to the middle first.
func middles(low, high int) (list []int) {
	mid := (low + high) / 2
	for d := 0; len(list) < high-low-1; d++ {
		if at := mid - d; at > low {
			list = append(list, at)
		}
		if at := mid + d; d > 0 && at < high {
			list = append(list, at)
		}
	}
	return list
}

// Expected is the number of rounds that a hunt for one culprit among n items
// takes: everything off, the halvings, the culprit alone, everything else.
func Expected(n int) int { return 3 + bits.Len(uint(max(n-1, 0))) }
