// Package page makes the page of a store: which causes there are, how they came
// day by day, what is new, which products and builds have them.
package page

import (
	"cmp"
	"context"
	_ "embed"
	"fmt"
	"html/template"
	"io"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"hollowkey/core/fleet/store"
	"hollowkey/core/logs/mask"
)

// Options say what a page is of.
type Options struct {
	Filter store.Filter
	Names  bool      // names of machines stay
	Most   int       // causes
	Made   time.Time // when
}

// A Bar is one day of a sparkline.
type Bar struct {
	X, Y, Height int
	Title        string
}

// A Cause is one row.
type Cause struct {
	ID, Class, Title, Subject, Product string
	Machines, Attempts, Share          int
	First, Last                        string
	New                                bool // first seen on the newest day
	Spark                              []Bar
	Sample, Proof                      string
	On                                 []string // machines
	More                               int      // of them, beyond those
	Tried                              []store.Trial
}

// A Helped is a remedy that was tried, and for what.
type Helped struct {
	store.Trial
	Cause, ID string
}

// A Page is what is written.
type Page struct {
	Title, Made, Span string
	Total             store.Sum
	Fresh             int // causes first seen on the newest day
	Causes            []Cause
	Products, Builds  []store.Count
	Helped            []Helped // what helped most often first
}

const (
	sparkDays   = 14 // this week and the one before it
	sparkHeight = 22 // pixels: a line of text
	barWidth    = 7  // pixels; fourteen fit a table's cell on a phone
	mostNames   = 12 // machines named per cause; the rest is counted
	mostHelped  = 15 // remedies: one screen
)

// Collect makes the page. Names of machines become tokens, the same for the
// same machine, unless they are to stay. It fails where the store does.
func Collect(ctx context.Context, s *store.Store, opt Options) (p Page, err error) {
	p.Made = opt.Made.UTC().Format("2006-01-02 15:04") + " UTC"
	if p.Total, err = s.Total(ctx, opt.Filter); err != nil {
		return p, err
	}
	days, err := s.By(ctx, opt.Filter, "day")
	if err != nil {
		return p, err
	}
	if len(days) > 0 {
		p.Span = days[0].Value + " to " + days[len(days)-1].Value
	}
	p.Title = fmt.Sprintf("%d setups failed on %d machines", p.Total.Failed, p.Total.Machines)
	if p.Products, err = s.By(ctx, opt.Filter, "product"); err != nil {
		return p, err
	}
	if p.Builds, err = s.By(ctx, opt.Filter, "build"); err != nil {
		return p, err
	}
	named(p.Products)
	named(p.Builds)
	tokens := map[string]string{}
	hidden := mask.New(nil, nil)
	if !opt.Names {
		all, err := s.By(ctx, store.Filter{}, "machine")
		if err != nil {
			return p, err
		}
		var hosts []string
		for n, m := range all {
			if m.Value != "" {
				tokens[m.Value] = fmt.Sprintf("machine %d", n+1)
				hosts = append(hosts, m.Value)
			}
		}
		hidden = mask.New(nil, hosts)
	}
	rows, err := s.Top(ctx, opt.Filter, opt.Most)
	if err != nil {
		return p, err
	}
	newestDay := ""
	if len(days) > 0 {
		newestDay = days[len(days)-1].Value
	}
	for _, r := range rows {
		c := Cause{ID: r.ID, Class: r.Class, Title: r.Title, Subject: r.Subject, Product: r.Product, Machines: r.Machines, Attempts: r.Attempts,
			Share: 100 * r.Attempts / max(p.Total.Failed, 1), First: r.First.Format("2006-01-02"), Last: r.Last.Format("2006-01-02")}
		if c.New = c.First == newestDay; c.New {
			p.Fresh++
		}
		f := opt.Filter
		f.Cause = r.ID
		if err := c.fill(ctx, s, f, newestDay, tokens, hidden, opt.Names); err != nil {
			return p, err
		}
		if !opt.Names {
			c.Title, c.Subject = hidden.Mask(c.Title), hidden.Mask(c.Subject)
		}
		if strings.Contains(strings.ToLower(c.Title), strings.ToLower(c.Subject)) { // said once is enough
			c.Subject = ""
		}
		for _, t := range c.Tried {
			p.Helped = append(p.Helped, Helped{t, c.Title, c.ID})
		}
		p.Causes = append(p.Causes, c)
	}
	slices.SortStableFunc(p.Helped, func(a, b Helped) int { return b.Trial.Helped - a.Trial.Helped })
	p.Helped = p.Helped[:min(len(p.Helped), mostHelped)]
	return p, nil
}

// named writes what no log told.
func named(list []store.Count) {
	for i := range list {
		list[i].Value = cmp.Or(strings.TrimSpace(list[i].Value), "not told")
	}
}

// fill adds a cause's days, machines and sample.
func (c *Cause) fill(ctx context.Context, s *store.Store, f store.Filter, newest string, tokens map[string]string,
	hidden *mask.Masker, names bool) error {
	days, err := s.By(ctx, f, "day")
	if err != nil {
		return err
	}
	c.Spark = spark(days, newest)
	machines, err := s.By(ctx, f, "machine")
	if err != nil {
		return err
	}
	for _, m := range machines {
		if m.Value == "" {
			continue
		}
		if len(c.On) == mostNames {
			c.More++
			continue
		}
		name := m.Value
		if !names {
			name = tokens[m.Value]
		}
		c.On = append(c.On, name)
	}
	if c.Tried, err = s.Trials(ctx, c.ID); err != nil {
		return err
	}
	sample, err := s.Attempts(ctx, f, true, 1)
	if err != nil || len(sample) == 0 {
		return err
	}
	c.Sample = sample[0].Summary
	if sample[0].Line > 0 {
		c.Proof = fmt.Sprintf("line %d: %s", sample[0].Line, sample[0].Proof)
	}
	if !names {
		for _, text := range []*string{&c.Sample, &c.Proof} {
			if own := sample[0].Machine; own != "" { // by the token that the list of machines has
				*text = regexp.MustCompile(`(?i)`+regexp.QuoteMeta(own)).ReplaceAllLiteralString(*text, tokens[own])
			}
			*text = hidden.Mask(*text)
		}
	}
	return nil
}

// spark is the picture of the last days, up to the newest of the store.
func spark(days []store.Count, newest string) (bars []Bar) {
	last, err := time.Parse("2006-01-02", newest)
	if err != nil {
		return nil
	}
	most, count := 1, map[string]int{}
	for _, d := range days {
		count[d.Value] = d.Machines
		most = max(most, d.Machines)
	}
	for n := range sparkDays {
		day := last.AddDate(0, 0, n-sparkDays+1).Format("2006-01-02")
		h := 0
		if count[day] > 0 {
			h = max(count[day]*sparkHeight/most, 2)
		}
		bars = append(bars, Bar{n * barWidth, sparkHeight - h, h, fmt.Sprintf("%s: %d", day, count[day])})
	}
	return bars
}

//go:embed page.html
var text string

// page is parsed when one is written: most runs write none.
var page = sync.OnceValue(func() *template.Template { return template.Must(template.New("page").Parse(text)) })

// HTML writes the page as one file, with nothing from outside.
func HTML(w io.Writer, p Page) error { return page().Execute(w, p) }
