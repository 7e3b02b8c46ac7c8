// Package intake reads many logs into a store: it walks folders and zips, skips
// what it has read, judges the rest on all processors, and goes on over
// whatever cannot be read.
package intake

import (
	"archive/zip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"hollowkey/core/bounded"
	"hollowkey/core/fleet/fold"
	"hollowkey/core/fleet/learn"
	"hollowkey/core/fleet/store"
	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/zipped"
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
	Cases    int   `json:"cases"`    // of which what was tried is kept
	Tried    int   `json:"tried"`    // remedies that they tell of
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

// Add reads places into a store: folders with all below, zips with what is in
// them, single logs, and names with stars. An interrupted run keeps what it
// has, and another one goes on from there.
func Add(ctx context.Context, s *store.Store, places []string, opt Options) (rep Report, err error) {
	known, err := s.Known(ctx)
	if err != nil {
		return rep, err
	}
	verdict.Prepare(opt.Reading)
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	work, done := make(chan Ref, batch), make(chan store.Found, batch)
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
				f := Read(ctx, i, opt.Reading)
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
	// One goroutine writes, since the store takes one writer; the readers keep
	// it busy.
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
	if err == nil && rep.Logs > 0 {
		err = s.Settle(context.WithoutCancel(ctx))
	}
	return rep, errors.Join(err, walked)
}

// Find finds the files of places that were not read yet, and hands each to ref.
// What cannot be read is told, and kept; the report counts the files that were
// found.
func Find(ctx context.Context, s *store.Store, places []string, opt Options, ref func(Ref) error) (rep Report, err error) {
	known, err := s.Known(ctx)
	if err != nil {
		return rep, err
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	refs, told := make(chan Ref), make(chan store.Found)
	var walked error
	var found atomic.Int64
	go func() {
		defer close(told)
		w := walk{ctx: ctx, known: known, out: refs, done: told, found: &found}
		walked = w.all(places)
	}()
	var unread []store.Found
	// Files that are of use go to the queue as they are found; what cannot be
	// read is noted at the end.
	for {
		select {
		case r := <-refs:
			rep.Files++
			rep.Bytes += r.Bytes
			if err = ref(r); err != nil {
				stop()
				for range told { // the walk ends
				}
				return rep, err
			}
			if opt.Watch != nil {
				opt.Watch(int64(rep.Files), found.Load())
			}
		case f, more := <-told:
			if !more {
				if len(unread) > 0 {
					err = s.Add(ctx, unread)
				}
				return rep, errors.Join(err, walked, ctx.Err())
			}
			rep.take(f, opt.Problem)
			if f.File.State == store.Unread {
				unread = append(unread, f)
			}
		}
	}
}

// take counts a file by what became of it, and hands those that could not be
// read on with the reason.
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
	case store.Case:
		r.Cases++
	default:
		r.Unread++
		if problem != nil {
			problem(f.File.Path, f.File.Reason)
		}
	}
	r.Bytes += f.File.Bytes
	r.Attempts += len(f.Attempts)
	r.Tried += len(f.Tried)
}

// A Ref is one file that is to be read, by this process or another.
type Ref struct {
	Path    string    `json:"path"`              // as the store names it
	Machine string    `json:"machine,omitempty"` // by the place where it lies
	Bytes   int64     `json:"bytes"`
	Changed time.Time `json:"changed"`
	Zip     string    `json:"zip,omitempty"`    // that it is an entry of
	Entry   int       `json:"entry,omitempty"`  // its place there
	Case    bool      `json:"case,omitempty"`   // it stands for a case's folder
	Masked  bool      `json:"masked,omitempty"` // its names are tokens, which other logs use for others
}

// open opens the file where it lies, in a zip too; no more of it is unpacked
// than the longest log has.
func (r Ref) open() (io.ReadCloser, error) {
	if r.Zip != "" {
		return zipped.Open(r.Zip, r.Entry, mostLog)
	}
	return os.Open(r.Path)
}

// Read judges one file.
func Read(ctx context.Context, i Ref, opt verdict.Options) store.Found {
	f := store.File{Path: i.Path, Bytes: i.Bytes, Changed: i.Changed}
	unread := func(err error) store.Found {
		f.State, f.Reason = store.Unread, reason(err)
		return store.Found{File: f}
	}
	if i.Case {
		return readCase(i, f)
	}
	in, err := i.open()
	if err != nil {
		return unread(err)
	}
	defer in.Close()
	hash := sha256.New()
	text := io.TeeReader(io.LimitReader(in, mostLog), hash)
	s, err := verdict.Read(ctx, verdict.Input{Name: i.Path, Text: text}, opt.Reading)
	switch {
	case errors.Is(err, dialects.ErrNoLog), errors.Is(err, dialects.ErrBinary), errors.Is(err, dialects.ErrEmpty):
		f.State = store.Other
		return store.Found{File: f}
	case err != nil:
		return unread(err)
	}
	// The hash is of the whole file, also where its reader needed no more.
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

// readCase reads what was tried in a case, in a folder or in a zip.
func readCase(i Ref, f store.File) store.Found {
	var fsys fs.FS = os.DirFS(filepath.Dir(i.Path))
	if i.Zip != "" {
		z, err := zip.OpenReader(i.Zip)
		if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
			f.State, f.Reason = store.Unread, reason(err)
			return store.Found{File: f}
		}
		defer z.Close()
		_, inside, _ := strings.Cut(i.Path, "!")
		if fsys, err = fs.Sub(z, path.Dir(inside)); err != nil {
			f.State, f.Reason = store.Unread, reason(err)
			return store.Found{File: f}
		}
	}
	tried, err := learn.FromCase(fsys, strings.TrimSuffix(i.Path, "/"+caseName))
	if f.State = store.Case; err != nil {
		f.Reason = reason(err)
	}
	return store.Found{File: f, Tried: tried}
}

// reason says why a file could not be read, without its name, which stands
// beside.
func reason(err error) string {
	text := bounded.Words(err)
	var p *os.PathError
	if errors.As(err, &p) {
		text = strings.TrimPrefix(strings.ReplaceAll(text, p.Path, "it"), "it: ")
	}
	return strings.ReplaceAll(text, "\n", "; ")
}

// attempt is what the store keeps of a verdict.
func attempt(i Ref, hash string, s *story.Story, v *verdict.Verdict) store.Attempt {
	host := firstOf(v.Host.Name, i.Machine)
	if i.Masked {
		host = i.Machine
	}
	a := store.Attempt{ID: hash[:24], Path: i.Path, Machine: strings.ToLower(host), Build: v.Host.Build,
		Outcome: string(v.Outcome), Exit: v.ExitCode,
		Confidence: v.Cause.Confidence, Summary: v.Cause.Summary, Happened: i.Changed}
	if v.Product.Name != nil {
		a.Product = *v.Product.Name
	}
	if v.Product.Version != nil {
		a.Version = *v.Product.Version
	}
	if at := s.Last(); at != nil {
		if began, ok := at.Began(i.Changed); ok {
			a.Happened = began
		}
		a.Refers = refers(i.Path, at)
	}
	// What the cause is told by is kept beside it, so that other rules can
	// group it again.
	if f, ok := fold.FactsOf(v, host, v.User); ok {
		if i.Masked {
			for _, text := range []*string{&f.Subject, &f.Action, &f.Title, &f.Said, &f.Server} {
				*text = tokens.ReplaceAllString(*text, "{$1}")
			}
		}
		a.Facts = &f
	}
	if p := v.ProofLine(); p.Line > 0 {
		a.Line, a.Proof = p.Line, p.Text
	}
	return a
}

// tokens are what stands for masked names; each zip counts them anew.
var tokens = lazy.MustCompile(`\b(user|host|mail|serial|company)\d+\b`)

// refers are the places of the logs that a bootstrapper's log names as its
// packages': they were collected with it, into the same folder or zip.
func refers(of string, a *story.Attempt) (places []string) {
	at := strings.LastIndexAny(of, `/\!`)
	for name, p := range a.Properties {
		if !strings.HasPrefix(name, "log of ") {
			continue
		}
		base := p.Value[strings.LastIndexAny(p.Value, `/\`)+1:]
		if base != "" && !strings.EqualFold(base, of[at+1:]) {
			places = append(places, store.Place(of[:at+1]+base))
		}
	}
	slices.Sort(places)
	return places
}

// firstOf is the first of the texts that is not empty.
func firstOf(list ...string) string {
	for _, s := range list {
		if s != "" {
			return s
		}
	}
	return ""
}

var (
	// ofMachine is what names of machines look like: letters, figures and
	// hyphens, at most 15 of them (NetBIOS); ofWork are folders' names that
	// look so and tell when or what for logs were collected.
	ofMachine = lazy.MustCompile(`^[A-Za-z](?:[A-Za-z0-9-]{2,13})[A-Za-z0-9]$`)
	ofWork    = lazy.MustCompile(`(?i)^(?:v\d.*|(?:logs?|setups?|install\w*|temp|tmp|parts?|disk|week|kw|day|month|batch|run|build|release|version|ver|wave|ring|phase|stage|round|try|attempt|test|new|old|copy|folder|zip|collect\w*|gather\w*|site|group|win|windows|x|q|year)[-_]?\d+[a-z]?)$`)
)

// machineOf is the name of the machine by the folders above a log, the nearest
// first: a folder per machine is how logs are collected.
func machineOf(below string) string {
	parts := strings.FieldsFunc(filepath.ToSlash(below), func(r rune) bool { return r == '/' || r == '!' })
	for k := len(parts) - 2; k >= 0; k-- {
		name := strings.TrimSuffix(parts[k], ".zip")
		if ofMachine.MatchString(name) && strings.ContainsAny(name, "0123456789") && !ofWork.MatchString(name) {
			return name
		}
	}
	return ""
}
