// This file adds to a verdict what the store knows of its cause: how often, and
// what helped.

package learn

import (
	"context"
	"slices"
	"strings"

	"hollowkey/core/fleet/fold"
	"hollowkey/core/fleet/store"
	"hollowkey/core/step"
	"hollowkey/core/why/verdict"
)

const (
	enough   = 3   // times that a remedy was tried, before its outcome says anything
	mostly   = 0.7 // share of them that lets a remedy come first
	seldom   = 0.3 // and that lets it come last
	mostPast = 5   // earlier failures of the same machine that are told
)

// Consult adds to a verdict what a store knows of its cause, and puts the
// remedies that helped here first: among those that the evidence allows, and
// never before one that the machine itself shows to be right.
func Consult(ctx context.Context, s *store.Store, v *verdict.Verdict, machine string) error {
	host := first(v.Host.Name, machine)
	facts, failed := fold.FactsOf(v, host, v.User)
	if !failed {
		return nil
	}
	id := s.Rules().Cause(facts).ID
	counts, err := s.Counts(ctx, id)
	if err != nil {
		return err
	}
	here := &verdict.Here{Store: s.Name(), Cause: id}
	v.Here = here
	if host != "" {
		past, err := s.Attempts(ctx, store.Filter{Machine: host}, false, 200)
		if err != nil {
			return err
		}
		for _, p := range past {
			if p.Cause != "" && len(here.Earlier) < mostPast && !sameLog(p.Path, v) {
				here.Earlier = append(here.Earlier,
					verdict.Earlier{Happened: p.Happened.Format("2006-01-02"), Same: p.Cause == counts, Title: p.Title, Product: p.Product, Log: p.Path})
			}
		}
	}
	if counts == "" { // never seen
		return nil
	}
	here.Cause = counts
	rows, err := s.Top(ctx, store.Filter{Cause: counts}, 1)
	if err != nil {
		return err
	}
	if len(rows) > 0 {
		here.Machines, here.Attempts = rows[0].Machines, rows[0].Attempts
		here.First, here.Last = rows[0].First.Format("2006-01-02"), rows[0].Last.Format("2006-01-02")
	}
	trials, err := s.Trials(ctx, counts)
	if err != nil {
		return err
	}
	order(v, s.Rules(), facts, trials)
	for _, t := range trials {
		here.Tried = append(here.Tried,
			verdict.Tried{Remedy: 1 + index(v.Remedies, s.Rules(), facts, t), Title: t.Remedy, Times: t.Times, Helped: t.Helped})
	}
	return nil
}

// sameLog says whether a log of the store is the one that the verdict is of.
func sameLog(path string, v *verdict.Verdict) bool {
	base := func(p string) string { return p[strings.LastIndexAny(p, `/\!`)+1:] }
	return slices.ContainsFunc(v.Logs, func(l verdict.Log) bool { return strings.EqualFold(base(l.File), base(path)) })
}

// index is the place of the remedy that a trial was of, -1 where the verdict
// has none such.
func index(list []step.Remedy, rules fold.Rules, f fold.Facts, t store.Trial) int {
	return slices.IndexFunc(list, func(r step.Remedy) bool {
		return r.Class == t.Class && strings.EqualFold(rules.Title(r.Title, f), t.Remedy)
	})
}

// order moves the remedies by what came of them here.
func order(v *verdict.Verdict, rules fold.Rules, f fold.Facts, trials []store.Trial) {
	if v.Shown() { // the machine itself shows the cause
		return
	}
	rank := make([]int, len(v.Remedies))
	for _, t := range trials {
		i := index(v.Remedies, rules, f, t)
		if i < 0 || t.Times < enough {
			continue
		}
		switch share := float64(t.Helped) / float64(t.Times); {
		case share >= mostly:
			rank[i] = -1
		case share <= seldom:
			rank[i] = 1
		}
	}
	at := make([]int, len(rank))
	for i := range at {
		at[i] = i
	}
	slices.SortStableFunc(at, func(a, b int) int { return rank[a] - rank[b] })
	moved := make([]step.Remedy, len(at))
	for i, from := range at {
		moved[i] = v.Remedies[from]
	}
	v.Remedies = moved
}
