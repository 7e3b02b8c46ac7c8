// Package crew lets several machines read logs into one store on a server: the
// files that are to be read are handed out in jobs of a queue that lies in the
// same database, so that what a job found and that it is done are kept together
// or not at all.
package crew

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"runtime"
	"sync"
	"sync/atomic"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
	"github.com/riverqueue/river/rivertype"

	"hollowkey/core/fleet/intake"
	"hollowkey/core/fleet/store"
	"hollowkey/core/why/verdict"
)

const (
	perJob   = 50  // logs of a job: seconds of work, so that little is done twice when a worker dies
	jobsOnce = 100 // that are handed out in one transaction

	jobTimeout = 3 * time.Minute // 50 logs of the largest kind, read over a slow share
	// RescueAfter is how long a job may be with a worker that says nothing any
	// more, before another one takes it.
	RescueAfter = 4 * time.Minute

	cooldown = 10 * time.Millisecond  // between two looks for work while there is some
	poll     = 250 * time.Millisecond // between two looks where there was none
	softStop = 10 * time.Second       // that jobs under way get to end when somebody stops the worker

	mostAttempts = 20 // of one job, before it is given up: an hour of a server that is away
)

// readLogs is a job.
type readLogs struct {
	Files []intake.Ref `json:"files"`
}

// Kind names the job in the queue.
func (readLogs) Kind() string { return "read-logs" }

// ErrNoServer says that a store is a file, which has no queue.
var ErrNoServer = errors.New("only a store on a server hands out work")

// Make makes the tables of a store on a server: ours, and the queue's.
func Make(ctx context.Context, s *store.Store) error {
	if err := s.Make(ctx); err != nil || !s.IsServer() {
		return err
	}
	m, err := rivermigrate.New(riverdatabasesql.New(s.DB()), &rivermigrate.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return err
	}
	_, err = m.Migrate(ctx, rivermigrate.DirectionUp, nil)
	return err
}

// A Handed sums up what was handed out.
type Handed struct {
	intake.Report
	Jobs int `json:"jobs"` // that were handed out
}

// Hand finds the files of places and hands those out that were not read yet.
// What is handed out already and not read yet is not handed out again. Files
// that cannot be read are told as problems and do not end it.
func Hand(ctx context.Context, s *store.Store, places []string, opt intake.Options) (h Handed, err error) {
	if !s.IsServer() {
		return h, ErrNoServer
	}
	client, err := river.NewClient(riverdatabasesql.New(s.DB()), &river.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return h, err
	}
	var files []intake.Ref
	var jobs []river.InsertManyParams
	flush := func() error {
		if len(jobs) == 0 {
			return nil
		}
		res, err := client.InsertManyFast(ctx, jobs)
		h.Jobs += res
		jobs = jobs[:0]
		return err
	}
	job := func() error {
		if len(files) == 0 {
			return nil
		}
		jobs = append(jobs, river.InsertManyParams{Args: readLogs{Files: files},
			InsertOpts: &river.InsertOpts{MaxAttempts: mostAttempts, UniqueOpts: river.UniqueOpts{ByArgs: true,
				ByState: []rivertype.JobState{rivertype.JobStateAvailable, rivertype.JobStatePending,
					rivertype.JobStateRunning, rivertype.JobStateRetryable, rivertype.JobStateScheduled}}}})
		files = nil
		if len(jobs) < jobsOnce {
			return nil
		}
		return flush()
	}
	h.Report, err = intake.Find(ctx, s, places, opt, func(r intake.Ref) error {
		if files = append(files, r); len(files) < perJob {
			return nil
		}
		return job()
	})
	return h, errors.Join(err, job(), flush())
}

// Options steer a worker.
type Options struct {
	Reading     verdict.Options   // signs of the site
	Workers     int               // jobs at once; 0: one for each processor
	UntilEmpty  bool              // stop when nothing is handed out any more
	RescueAfter time.Duration     // 0: RescueAfter
	Watch       func(left int)    // hears how many jobs are left; may be nil
	Told        func(what string) // hears of what goes wrong and is tried again; may be nil
}

// A Done sums up what a worker did.
type Done struct {
	Jobs     int `json:"jobs"`
	Logs     int `json:"logs"`     // that are setup logs
	Others   int `json:"others"`   // that are something else
	Unread   int `json:"unread"`   // that could not be read
	Attempts int `json:"attempts"` // that the logs tell of
	GivenUp  int `json:"given_up"` // jobs that failed too often, of all workers
}

// Work reads what is handed out, until it is stopped, or until nothing is left.
// A job that fails is tried again by whoever takes it next, and is given up
// after a few times; that is no error here.
func Work(ctx context.Context, s *store.Store, opt Options) (done Done, err error) {
	if !s.IsServer() {
		return done, ErrNoServer
	}
	verdict.Prepare(opt.Reading)
	if opt.Told == nil {
		opt.Told = func(string) {}
	}
	w := &worker{store: s, opt: opt}
	workers := river.NewWorkers()
	river.AddWorker(workers, w)
	rescue := opt.RescueAfter
	if rescue == 0 {
		rescue = RescueAfter
	}
	if opt.Workers == 0 {
		opt.Workers = runtime.GOMAXPROCS(0)
	}
	client, err := river.NewClient(riverdatabasesql.New(s.DB()), &river.Config{
		Queues:        map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: opt.Workers}},
		Workers:       workers,
		FetchCooldown: cooldown, FetchPollInterval: poll,
		JobTimeout: min(jobTimeout, rescue*3/4), RescueStuckJobsAfter: rescue,
		RetryPolicy: retries{}, ErrorHandler: w,
		Logger: slog.New(&teller{told: opt.Told}),
	})
	if err != nil {
		return done, err
	}
	working, stop := context.WithCancel(context.WithoutCancel(ctx)) // jobs under way may end when ctx does
	defer stop()
	if err := client.Start(working); err != nil {
		return done, fmt.Errorf("%s: %w", s.Name(), err)
	}
	w.wait(ctx)
	soft, cancel := context.WithTimeout(context.Background(), softStop)
	defer cancel()
	if bad := client.Stop(soft); bad != nil {
		bad = client.StopAndCancel(context.Background())
		err = errors.Join(err, bad)
	}
	done = w.done
	if ctx.Err() == nil && err == nil {
		if err = s.Settle(ctx); err == nil {
			done.GivenUp, err = count(ctx, s, `SELECT count(*) FROM river_job WHERE kind = 'read-logs' AND state = 'discarded'`)
		}
	}
	return done, err
}

// A worker does jobs.
type worker struct {
	river.WorkerDefaults[readLogs]
	store *store.Store
	opt   Options
	mu    sync.Mutex
	done  Done
	told  atomic.Int64 // when the server was last said to be away
}

// wait ends when the worker is stopped, or when nothing is left to do and it is
// to end then.
func (w *worker) wait(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(poll):
		}
		left, err := count(ctx, w.store,
			`SELECT count(*) FROM river_job WHERE kind = 'read-logs' AND state IN ('available', 'pending', 'running', 'retryable', 'scheduled')`)
		if err != nil {
			if ctx.Err() == nil {
				w.away(err)
			}
			continue
		}
		if w.opt.Watch != nil {
			w.opt.Watch(left)
		}
		if left == 0 && w.opt.UntilEmpty {
			return
		}
	}
}

// away tells that the server does not answer, once in a while.
func (w *worker) away(err error) {
	now := time.Now().Unix()
	if last := w.told.Load(); now-last >= 5 && w.told.CompareAndSwap(last, now) {
		w.opt.Told(fmt.Sprintf("%s does not answer, and is asked again: %v", w.store.Name(), err))
	}
}

// count asks the store for one number.
func count(ctx context.Context, s *store.Store, query string) (n int, err error) {
	err = s.DB().QueryRowContext(ctx, query).Scan(&n)
	return n, err
}

// Work does one job: it reads the files, and keeps what they tell together with
// the end of the job.
func (w *worker) Work(ctx context.Context, job *river.Job[readLogs]) error {
	var found []store.Found
	var d Done
	for _, f := range job.Args.Files {
		r := intake.Read(ctx, f, w.opt.Reading)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		switch r.File.State {
		case store.Log:
			d.Logs++
		case store.Other, store.Case:
			d.Others++
		default:
			d.Unread++
		}
		d.Attempts += len(r.Attempts)
		found = append(found, r)
	}
	tx, err := w.store.DB().BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	if err := w.store.AddWithin(ctx, tx, found); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	if _, err := river.JobCompleteTx[*riverdatabasesql.Driver](ctx, tx, job); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	if err := tx.Commit(); err != nil {
		return err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	w.done.Jobs++
	w.done.Logs += d.Logs
	w.done.Others += d.Others
	w.done.Unread += d.Unread
	w.done.Attempts += d.Attempts
	return nil
}

// retries says when a job that failed is tried again.
type retries struct{}

// NextRetry is soon, since what fails is the server.
func (retries) NextRetry(job *rivertype.JobRow) time.Time {
	return time.Now().Add(min(time.Duration(job.Attempt)*2*time.Second, time.Minute))
}

// HandleError tells of a job that failed.
func (w *worker) HandleError(_ context.Context, job *rivertype.JobRow, err error) *river.ErrorHandlerResult {
	w.opt.Told(fmt.Sprintf("job %d, attempt %d of %d: %v", job.ID, job.Attempt, job.MaxAttempts, err))
	return nil
}

// HandlePanic tells of a job at which the program broke; others go on.
func (w *worker) HandlePanic(_ context.Context, job *rivertype.JobRow, value any, _ string) *river.ErrorHandlerResult {
	w.opt.Told(fmt.Sprintf("job %d, attempt %d of %d broke: %v", job.ID, job.Attempt, job.MaxAttempts, value))
	return nil
}
