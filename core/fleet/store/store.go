// Package store keeps what many logs tell in one file: which causes there are, on which
// machines, since when. docs/fleet.md tells its tables.
package store

import (
	"context"
	"database/sql"
	_ "embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	_ "modernc.org/sqlite" // the engine of the file, without C

	"hollowkey/core/fleet/fold"
)

//go:embed schema.sql
var schema string

// A Store is an open file.
type Store struct {
	db   *sql.DB
	name string
}

// Open opens a store; with make it is made where it is not there.
func Open(ctx context.Context, name string, make bool) (*Store, error) {
	if _, err := os.Stat(name); err != nil {
		if !errors.Is(err, fs.ErrNotExist) {
			return nil, err
		}
		if !make {
			return nil, fmt.Errorf("%s is not there\nhint: hollowkey triage add PLACE --store %s makes it", name, name)
		}
		if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
			return nil, err
		}
	}
	// One writer at a time waits for the other; readers never wait. Source: the engine's
	// documentation of write-ahead logging.
	db, err := sql.Open("sqlite", "file:"+filepath.ToSlash(name)+"?_pragma=journal_mode(WAL)&_pragma=synchronous(NORMAL)&_pragma=busy_timeout(10000)")
	if err != nil {
		return nil, err
	}
	if _, err := db.ExecContext(ctx, schema); err != nil {
		return nil, errors.Join(fmt.Errorf("%s is no store: %w", name, err), db.Close())
	}
	return &Store{db, name}, nil
}

// Close closes the file.
func (s *Store) Close() error { return s.db.Close() }

// The states of a file.
const (
	Log    = "log"    // a setup log
	Other  = "other"  // something else
	Unread = "unread" // it could not be read
)

// A File is one that was looked at.
type File struct {
	Path    string
	Bytes   int64
	Changed time.Time
	Hash    string
	State   string
	Reason  string
}

// An Attempt is one run of a setup, as a log tells it.
type Attempt struct {
	ID, Path, Machine, Build  string
	Product, Version, Outcome string
	Exit                      *int
	Happened                  time.Time
	Cause                     *fold.Cause // nil where nothing failed
	Confidence                float64
	Summary                   string
	Line                      int
	Proof                     string
}

// A Found is a file with the attempts that it tells of.
type Found struct {
	File     File
	Attempts []Attempt
}

// Known are the files that were looked at, by path.
func (s *Store) Known(ctx context.Context) (map[string]File, error) {
	rows, err := s.db.QueryContext(ctx, `SELECT path, bytes, changed, hash, state FROM file`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	known := map[string]File{}
	for rows.Next() {
		var f File
		var changed string
		if err := rows.Scan(&f.Path, &f.Bytes, &changed, &f.Hash, &f.State); err != nil {
			return nil, err
		}
		f.Changed, _ = time.Parse(time.RFC3339Nano, changed) // written below
		known[f.Path] = f
	}
	return known, rows.Err()
}

// Add keeps what was found, all of it or nothing.
func (s *Store) Add(ctx context.Context, list []Found) (err error) {
	tx, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, tx.Rollback())
		}
	}()
	for _, f := range list {
		if _, err = tx.ExecContext(ctx, `INSERT INTO file (path, bytes, changed, hash, state, reason) VALUES (?, ?, ?, ?, ?, ?)
			ON CONFLICT (path) DO UPDATE SET bytes = excluded.bytes, changed = excluded.changed, hash = excluded.hash, state = excluded.state, reason = excluded.reason`,
			f.File.Path, f.File.Bytes, f.File.Changed.UTC().Format(time.RFC3339Nano), f.File.Hash, f.File.State, f.File.Reason); err != nil {
			return err
		}
		for _, a := range f.Attempts {
			cause := ""
			if c := a.Cause; c != nil {
				cause = c.ID
				if _, err = tx.ExecContext(ctx, `INSERT INTO cause (id, class, sign, kind, subject, message, action, product, title) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
					ON CONFLICT (id) DO NOTHING`, c.ID, c.Class, c.Sign, c.Kind, c.Subject, c.Message, c.Action, c.Product, c.Title); err != nil {
					return err
				}
			}
			if _, err = tx.ExecContext(ctx, `INSERT INTO attempt (id, path, machine, build, product, version, outcome, exit_code, happened, cause, confidence, summary, line, proof, folding)
				VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (id) DO NOTHING`,
				a.ID, a.Path, a.Machine, a.Build, a.Product, a.Version, a.Outcome, a.Exit, a.Happened.UTC().Format(time.RFC3339), cause, a.Confidence, a.Summary, a.Line, a.Proof, fold.Version); err != nil {
				return err
			}
		}
	}
	return tx.Commit()
}
