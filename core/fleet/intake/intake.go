// Package intake reads many logs into a store: it walks folders and zips, skips what it has
// read, judges the rest on all processors, and goes on over whatever cannot be read.
package intake

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"hollowkey/core/fleet/fold"
	"hollowkey/core/fleet/store"
	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/verdict"
)

const (
	batch   = 50        // files that are kept at once
	mostLog = 512 << 20 // bytes of one log
)

// A Report sums a run up.
type Report struct {
	Files    int   `json:"files"`    // that were found
	Known    int   `json:"known"`    // of them read before
	Logs     int   `json:"logs"`     // that were read now and are setup logs
	Others   int   `json:"others"`   // that are something else
	Unread   int   `json:"unread"`   // that could not be read
	Bytes    int64 `json:"bytes"`    // that were read now
	Attempts int   `json:"attempts"` // that the logs tell of
}

// Options steer a run.
type Options struct {
	Reading verdict.Options               // signs of the site
	Workers int                           // 0: one for each processor
	Watch   func(done, found int64)       // hears how many files are done; may be nil
	Problem func(path string, why string) // hears of files that could not be read; may be nil
}

// Add reads places into a store: folders with all below, zips with what is in them, single
// logs, and names with stars. An interrupted run keeps what it has, and another one goes on
// from there.
func Add(ctx context.Context, s *store.Store, places []string, opt Options) (rep Report, err error) {
	known, err := s.Known(ctx)
	if err != nil {
		return rep, err
	}
	verdict.Prepare(opt.Reading)
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	work, done := make(chan item, batch), make(chan store.Found, batch)
	var walked error
	var found atomic.Int64
	go func() {
		defer close(work)
		w := walk{ctx: ctx, known: known, out: work, done: done, found: &found}
		walked = w.all(places)
	}()
	var readers sync.WaitGroup
	workers := opt.Workers
	if workers == 0 {
		workers = runtime.GOMAXPROCS(0)
	}
	for range workers {
		readers.Go(func() {
			for i := range work {
				f := read(ctx, i, opt.Reading)
				if ctx.Err() != nil {
					return
				}
				done <- f
			}
		})
	}
	go func() {
		readers.Wait()
		close(done)
	}()
	var kept []store.Found
	count := int64(0)
	for f := range done {
		count++
		if opt.Watch != nil {
			opt.Watch(count, found.Load())
		}
		rep.take(f, opt.Problem)
		if f.File.State == "" { // read before
			continue
		}
		if kept = append(kept, f); len(kept) < batch {
			continue
		}
		if err == nil {
			if err = s.Add(ctx, kept); err != nil {
				stop() // the rest is only drained
			}
		}
		kept = kept[:0]
	}
	if err == nil && len(kept) > 0 {
		err = s.Add(context.WithoutCancel(ctx), kept) // what was read before an interrupt stays
	}
	return rep, errors.Join(err, walked)
}

func (r *Report) take(f store.Found, problem func(path, why string)) {
	r.Files++
	switch f.File.State {
	case "":
		r.Known++
		return
	case store.Log:
		r.Logs++
	case store.Other:
		r.Others++
	default:
		r.Unread++
		if problem != nil {
			problem(f.File.Path, f.File.Reason)
		}
	}
	r.Bytes += f.File.Bytes
	r.Attempts += len(f.Attempts)
}

// An item is one file to be read.
type item struct {
	path    string // as the store names it
	machine string // by the place where it lies
	bytes   int64
	changed time.Time
	open    func() (io.ReadCloser, error)
}

// read judges one file.
func read(ctx context.Context, i item, opt verdict.Options) store.Found {
	f := store.File{Path: i.path, Bytes: i.bytes, Changed: i.changed}
	unread := func(err error) store.Found {
		f.State, f.Reason = store.Unread, reason(err)
		return store.Found{File: f}
	}
	in, err := i.open()
	if err != nil {
		return unread(err)
	}
	defer in.Close()
	hash := sha256.New()
	text := io.TeeReader(io.LimitReader(in, mostLog), hash)
	s, err := verdict.Read(ctx, verdict.Input{Name: i.path, Text: text}, opt.Reading)
	switch {
	case errors.Is(err, dialects.ErrNoLog), errors.Is(err, dialects.ErrBinary), errors.Is(err, dialects.ErrEmpty):
		f.State = store.Other
		return store.Found{File: f}
	case err != nil:
		return unread(err)
	}
	if _, err := io.Copy(io.Discard, text); err != nil {
		return unread(err)
	}
	f.Hash, f.State = hex.EncodeToString(hash.Sum(nil)), store.Log
	v, err := verdict.Judge(s, opt)
	if err != nil {
		return unread(err)
	}
	return store.Found{File: f, Attempts: []store.Attempt{attempt(i, f.Hash, s, v)}}
}

// reason says why a file could not be read, without its name, which stands beside.
func reason(err error) string {
	var p *os.PathError
	if errors.As(err, &p) {
		err = p.Err
	}
	return strings.ReplaceAll(err.Error(), "\n", "; ")
}

// attempt is what the store keeps of a verdict.
func attempt(i item, hash string, s *story.Story, v *verdict.Verdict) store.Attempt {
	at := s.Last()
	property := func(name string) string {
		if at == nil {
			return ""
		}
		return at.Properties[name].Value
	}
	host, user := property("ComputerName"), property("LogonUser")
	a := store.Attempt{ID: hash[:24], Path: i.path, Machine: strings.ToLower(firstOf(host, i.machine)), Build: firstOf(property("WindowsBuild"), property("WindowsBuildNumber")),
		Outcome: string(v.Outcome), Exit: v.ExitCode, Confidence: v.Cause.Confidence, Summary: v.Cause.Summary}
	if v.Product.Name != nil {
		a.Product = *v.Product.Name
	}
	if v.Product.Version != nil {
		a.Version = *v.Product.Version
	}
	a.Happened = happened(at, i.changed)
	if c, ok := fold.Of(v, firstOf(host, i.machine), firstOf(user, v.User)); ok {
		a.Cause = &c
	}
	if p := v.ProofLine(); p.Line > 0 {
		a.Line, a.Proof = p.Line, p.Text
	}
	return a
}

func firstOf(list ...string) string {
	for _, s := range list {
		if s != "" {
			return s
		}
	}
	return ""
}

var numbers = regexp.MustCompile(`\d+`)

// earliest is the year before which no engine wrote such logs.
const earliest = 1999

// happened is when an attempt began: by the date and the time of day in its log, of which
// the order of day and month is the one that lies nearest before the file's last change;
// else that change.
func happened(a *story.Attempt, changed time.Time) time.Time {
	if a == nil || a.Date == "" {
		return changed
	}
	n := numbers.FindAllString(a.Date, -1)
	if len(n) != 3 {
		return changed
	}
	var best time.Time
	for _, order := range [][3]int{{0, 1, 2}, {2, 0, 1}, {2, 1, 0}} { // y-m-d, m/d/y, d.m.y
		text := fmt.Sprintf("%s-%02s-%02s", n[order[0]], n[order[1]], n[order[2]])
		t, err := time.Parse("2006-01-02", text)
		if err != nil {
			continue
		}
		if a.FirstTime >= 0 {
			t = t.Add(a.FirstTime)
		}
		late := t.After(changed.Add(48 * time.Hour)) // of another zone, at most
		if best.IsZero() || !late && (best.After(changed.Add(48*time.Hour)) || t.After(best)) {
			best = t
		}
	}
	if best.Year() < earliest { // a clock that was never set, or numbers that are no date
		return changed
	}
	return best
}

// ofMachine is what names of machines look like: letters, then figures at the end.
var ofMachine = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9]*(?:-[A-Za-z0-9]+)*-?[A-Za-z]*\d+$`)

// machineOf is the name of the machine by the folders above a log, the nearest first: a
// folder per machine is how logs are collected.
func machineOf(below string) string {
	parts := strings.FieldsFunc(filepath.ToSlash(below), func(r rune) bool { return r == '/' || r == '!' })
	for k := len(parts) - 2; k >= 0; k-- {
		name := strings.TrimSuffix(parts[k], ".zip")
		if ofMachine.MatchString(name) && len(name) > 3 {
			return name
		}
	}
	return ""
}
