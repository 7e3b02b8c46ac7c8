// Package store keeps what many logs tell: which causes there are, on which
// machines, since when, and what helped. It is one SQLite file, or a PostgreSQL
// database, with one schema and the same SQL. docs/fleet.md tells its tables.
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
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5"
	_ "github.com/jackc/pgx/v5/stdlib" // the engine of a server
	_ "modernc.org/sqlite"             // the engine of the file, without C

	"hollowkey/core/fleet/fold"
)

//go:embed schema.sql
var schema string

// version rises when the tables change.
const version = "3"

// A Store is open.
type Store struct {
	db     *sql.DB
	name   string
	server bool // a PostgreSQL database
	rules  fold.Rules
}

// IsServer says whether a store's name is that of a database on a server.
func IsServer(name string) bool {
	return strings.HasPrefix(name, "postgres://") || strings.HasPrefix(name, "postgresql://")
}

// ErrNotMade says that a server's database has no tables of ours.
var ErrNotMade = errors.New("it has no tables for logs")

// Open opens a store; with make a file is made where it is not there. A
// server's tables are made by [Store.Make]. It fails where the file is no
// store.
func Open(ctx context.Context, name string, make bool) (*Store, error) {
	if IsServer(name) {
		return openServer(ctx, name)
	}
	there := true
	if _, err := os.Stat(name); err != nil {
		if !errors.Is(err, fs.ErrNotExist) {
			return nil, err
		}
		there = false
		if !make {
			return nil, fmt.Errorf("%s is not there\nhint: to make it: hollowkey triage add PLACE --store %s", name, name)
		}
		if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
			return nil, err
		}
	}
	// One writer at a time waits for the other; readers never wait. Source: the
	// engine's documentation of write-ahead logging.
	db, err := sql.Open("sqlite", "file:"+filepath.ToSlash(name)+
		"?_pragma=journal_mode(WAL)&_pragma=synchronous(NORMAL)&_pragma=busy_timeout(10000)&_txlock=immediate")
	if err != nil {
		return nil, err
	}
	s := &Store{db: db, name: name}
	if there { // who only asks writes nothing, and may have no right to
		if err = s.asIs(ctx); err == nil && s.Made() {
			return s, nil
		}
	}
	if err == nil {
		err = s.Make(ctx)
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("%s is no store: %w", name, err), db.Close())
	}
	return s, nil
}

// asIs reads the settings of a file that is there. One without tables is left
// to be made.
func (s *Store) asIs(ctx context.Context) error {
	tables := 0
	if err := s.db.QueryRowContext(ctx,
		`SELECT count(*) FROM sqlite_master WHERE type = 'table' AND name IN ('meta', 'attempt')`).Scan(&tables); err != nil || tables == 0 {
		return err
	}
	if tables == 1 {
		return errors.New("its tables are of an earlier version\nhint: make a new store and add the logs to it")
	}
	return s.settings(ctx)
}

// openServer opens a database on a server. Its password stands in a file, never
// in the name.
func openServer(ctx context.Context, name string) (*Store, error) {
	config, err := pgx.ParseConfig(name)
	if err != nil {
		return nil, fmt.Errorf("the store's name: %w", err)
	}
	// A password in a call is seen by everybody who lists processes.
	if strings.Contains(strings.SplitN(strings.TrimPrefix(strings.TrimPrefix(name, "postgresql://"), "postgres://"),
		"@", 2)[0], ":") && strings.Contains(name, "@") || strings.Contains(name, "password=") {
		return nil, errors.New("a password does not belong on the command line, where everybody on the machine " +
			"can read it\nhint: put it into the file that PGPASSFILE or PGSERVICEFILE names")
	}
	db, err := sql.Open("pgx", name)
	if err != nil {
		return nil, err
	}
	s := &Store{db: db, name: fmt.Sprintf("%s on %s", config.Database, config.Host), server: true}
	var have string
	if err := db.QueryRowContext(ctx, `SELECT coalesce(to_regclass('meta')::text, '')`).Scan(&have); err != nil {
		return nil, errors.Join(fmt.Errorf("%s: %w", s.name, err), db.Close())
	}
	if have != "" {
		err = s.settings(ctx)
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("%s: %w", s.name, err), db.Close())
	}
	return s, nil
}

// Made says whether the store has its tables.
func (s *Store) Made() bool { return s.rules.Version > 0 }

// Make makes the tables that are not there yet.
func (s *Store) Make(ctx context.Context) error {
	if s.server {
		return s.makeOnServer(ctx)
	}
	return s.makeTables(ctx, s.db)
}

// makeOnServer makes the tables on one connection, which holds a lock
// meanwhile: two that make at once would trip over each other's tables.
func (s *Store) makeOnServer(ctx context.Context) error {
	c, err := s.db.Conn(ctx)
	if err != nil {
		return err
	}
	defer c.Close()
	if _, err := c.ExecContext(ctx, `SELECT pg_advisory_lock(4107220)`); err != nil {
		return err
	}
	defer c.ExecContext(context.WithoutCancel(ctx), `SELECT pg_advisory_unlock(4107220)`)
	return s.makeTables(ctx, c)
}

// makeTables makes what is not there yet, and notes the version of the tables,
// so that another version of the program can tell.
func (s *Store) makeTables(ctx context.Context, on executor) error {
	if _, err := on.ExecContext(ctx, schema); err != nil {
		return err
	}
	if _, err := s.exec(ctx, on, `INSERT INTO meta (name, value) VALUES ('schema', ?) ON CONFLICT (name) DO NOTHING`, version); err != nil {
		return err
	}
	return s.settings(ctx)
}

// settings reads what the store keeps about itself.
func (s *Store) settings(ctx context.Context) (err error) {
	rows, err := s.db.QueryContext(ctx, `SELECT name, value FROM meta`)
	if err != nil {
		return err
	}
	defer rows.Close()
	kept := map[string]string{}
	for rows.Next() {
		var name, value string
		if err := rows.Scan(&name, &value); err != nil {
			return err
		}
		kept[name] = value
	}
	if err := rows.Err(); err != nil {
		return err
	}
	if have := kept["schema"]; have != version {
		return fmt.Errorf("its tables are of version %s, and this program knows %s\nhint: make a new store and add the logs to it", have, version)
	}
	s.rules, err = fold.Load(kept["rules"])
	return err
}

// Close closes the store.
func (s *Store) Close() error { return s.db.Close() }

// Name is what the store is called where it is told of; it holds no password.
func (s *Store) Name() string { return s.name }

// IsServer says whether the store is a database on a server.
func (s *Store) IsServer() bool { return s.server }

// Rules are those that the store folds by.
func (s *Store) Rules() fold.Rules { return s.rules }

// DB is the open database, for the queue that a server keeps beside the tables.
func (s *Store) DB() *sql.DB { return s.db }

// An executor is a database or a transaction.
type executor interface {
	ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error)
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
	QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row
}

// sql is a query as the store's engine writes the places of its arguments. Our
// queries hold no question mark but these.
func (s *Store) sql(query string) string {
	if !s.server {
		return query
	}
	var b strings.Builder
	n := 0
	for _, c := range query {
		if c == '?' {
			n++
			b.WriteString("$" + strconv.Itoa(n))
			continue
		}
		b.WriteRune(c)
	}
	return b.String()
}

// exec runs a statement, in the words of the database at hand.
func (s *Store) exec(ctx context.Context, on executor, query string, args ...any) (sql.Result, error) {
	return on.ExecContext(ctx, s.sql(query), args...)
}

// query asks for rows, in the words of the database at hand.
func (s *Store) query(ctx context.Context, on executor, query string, args ...any) (*sql.Rows, error) {
	return on.QueryContext(ctx, s.sql(query), args...)
}

// row asks for one row, in the words of the database at hand.
func (s *Store) row(ctx context.Context, query string, args ...any) *sql.Row {
	return s.db.QueryRowContext(ctx, s.sql(query), args...)
}

// within does work in one transaction.
func (s *Store) within(ctx context.Context, do func(tx *sql.Tx) error) (err error) {
	tx, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	if err := do(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}

// The states of a file.
const (
	Log    = "log"    // a setup log
	Other  = "other"  // something else
	Case   = "case"   // a case, of which what was tried is kept
	Unread = "unread" // it could not be read
)

// What came of a remedy.
const (
	Helped = "helped" // the setup worked
	Same   = "same"   // it failed from the same cause
	Moved  = "moved"  // it failed from another one
)
