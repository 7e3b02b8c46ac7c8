// This file fills a store with rows and times questions to it.

package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"hollowkey/core/fleet/crew"
	"hollowkey/core/fleet/fold"
	"hollowkey/core/fleet/store"
)

const (
	atOnce   = 2000 // attempts of one transaction
	ofStores = 90   // days that the attempts are spread over
	asked    = 5    // times that each question is asked; the median is told
)

// ask fills a store, unless it has as many attempts already, and times
// questions to it.
func ask(name string, rows int) error {
	ctx := context.Background()
	s, err := store.Open(ctx, name, true)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := crew.Make(ctx, s); err != nil {
		return err
	}
	sum, err := s.Total(ctx, store.Filter{})
	if err != nil {
		return err
	}
	began := time.Now()
	for n := sum.Attempts; n < rows; n += atOnce {
		if err := s.Add(ctx, attempts(n, min(n+atOnce, rows))); err != nil {
			return err
		}
	}
	if sum.Attempts < rows {
		took := time.Since(began)
		fmt.Printf("%-44s %8.1f s, %.0f a second\n", "filled", took.Seconds(), float64(rows-sum.Attempts)/took.Seconds())
	}
	last := start.AddDate(0, 0, ofStores)
	week := store.Filter{Since: last.AddDate(0, 0, -7)}
	top, err := s.Top(ctx, week, 20)
	if err != nil {
		return err
	}
	cause := store.Filter{Cause: top[len(top)/2].ID}
	for _, q := range []struct {
		what string
		do   func() error
	}{
		{"top of the week", func() error { _, err := s.Top(ctx, week, 20); return err }},
		{"sums of the week", func() error { _, err := s.Total(ctx, week); return err }},
		{"new since yesterday", func() error { _, err := s.New(ctx, last.AddDate(0, 0, -1)); return err }},
		{"a cause: its row", func() error { _, err := s.Top(ctx, cause, 1); return err }},
		{"a cause: machines", func() error { _, err := s.By(ctx, cause, "machine"); return err }},
		{"a cause: days", func() error { _, err := s.By(ctx, cause, "day"); return err }},
		{"a cause: a sample", func() error { _, err := s.Attempts(ctx, cause, true, 1); return err }},
		{"a cause: what came next", func() error { _, err := s.Next(ctx, cause.Cause, 5); return err }},
		{"a machine", func() error {
			_, err := s.Attempts(ctx, store.Filter{Machine: "ellery-d0042"}, false, 1000)
			return err
		}},
		{"top of a product in the week", func() error {
			_, err := s.Top(ctx, store.Filter{Since: week.Since, Product: "Tidebook*"}, 20)
			return err
		}},
		{"settling", func() error { return s.Settle(ctx) }},
	} {
		var took []time.Duration
		for range asked {
			at := time.Now()
			if err := q.do(); err != nil {
				return fmt.Errorf("%s: %w", q.what, err)
			}
			took = append(took, time.Since(at))
		}
		slices.Sort(took)
		fmt.Printf("%-44s %8.1f ms\n", q.what, float64(took[asked/2].Microseconds())/1000)
	}
	return nil
}

var start = time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)

// attempts are made up: 400 causes, of which few make most, 5,000 machines,
// five products.
func attempts(from, to int) (list []store.Found) {
	for n := from; n < to; n++ {
		r := rand.New(rand.NewPCG(uint64(n), 5))
		machine := fmt.Sprintf("ellery-d%04d", r.IntN(5000))
		at := start.AddDate(0, 0, r.IntN(ofStores)).Add(time.Duration(r.IntN(86400)) * time.Second)
		kind := int(400 * r.Float64() * r.Float64() * r.Float64())
		a := store.Attempt{ID: fmt.Sprintf("%024x", n), Path: fmt.Sprintf("//files/logs/%s/%d.log", machine, n),
			Machine: machine, Build: []string{"19045", "22631", "26100"}[r.IntN(3)],
			Product: []string{"Tidebook Desk", "Pilot Roster", "Fairway Radio",
				"Wharfage Ledger", "Berthline Planner"}[r.IntN(5)], Version: "2.8.1", Outcome: "failed", Exit: new(1603),
			Happened: at, Confidence: 0.9, Summary: "The service was asked to start and did not.",
			Line: 200 + r.IntN(500), Proof: "Error 1920. Service failed to start.",
			Facts: &fold.Facts{Class: "service", Sign: "service-start", Kind: "service",
				Subject: fmt.Sprintf("Relay%c%c", 'a'+kind/26, 'a'+kind%26), Message: 1920, Action: "StartServices",
				Title: "the service did not start", Host: machine}}
		if r.IntN(3) == 0 {
			a.Outcome, a.Facts = "succeeded", nil
		}
		list = append(list, store.Found{File: store.File{Path: a.Path, Bytes: 400_000, Changed: at, Hash: a.ID,
			State: store.Log}, Attempts: []store.Attempt{a}})
	}
	return list
}
