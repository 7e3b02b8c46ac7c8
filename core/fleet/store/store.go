// Package store keeps what many logs tell: which causes there are, on which machines, since
// when, and what helped. It is one SQLite file, or a PostgreSQL database, with one schema and
// the same SQL. docs/fleet.md tells its tables.
package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	_ "embed"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

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

// Open opens a store; with make a file is made where it is not there. A server's tables are
// made by [Store.Make].
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
	// One writer at a time waits for the other; readers never wait. Source: the engine's
	// documentation of write-ahead logging.
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

// asIs reads the settings of a file that is there. One without tables is left to be made.
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

// openServer opens a database on a server. Its password stands in a file, never in the name.
func openServer(ctx context.Context, name string) (*Store, error) {
	config, err := pgx.ParseConfig(name)
	if err != nil {
		return nil, fmt.Errorf("the store's name: %w", err)
	}
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

// makeOnServer makes the tables on one connection, which holds a lock meanwhile: two that make
// at once would trip over each other's tables.
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

// sql is a query as the store's engine writes the places of its arguments. Our queries hold
// no question mark but these.
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

func (s *Store) exec(ctx context.Context, on executor, query string, args ...any) (sql.Result, error) {
	return on.ExecContext(ctx, s.sql(query), args...)
}

func (s *Store) query(ctx context.Context, on executor, query string, args ...any) (*sql.Rows, error) {
	return on.QueryContext(ctx, s.sql(query), args...)
}

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
	Facts                     *fold.Facts // nil where nothing failed
	Confidence                float64
	Summary                   string
	Line                      int
	Proof                     string
	Refers                    []string // places of logs that this one names as its packages'
}

// A Found is a file with the attempts that it tells of.
type Found struct {
	File     File
	Attempts []Attempt
	Tried    []Tried // where the file is one of a case
}

// A Tried is a remedy that was tried for a cause.
type Tried struct {
	Facts    fold.Facts  // of the failure that it was tried for
	Class    string      // of the remedy
	Remedy   string      // its title, as it was shown
	Result   string      // Helped, Same or Moved
	MovedTo  *fold.Facts // of the failure that came in its place
	Machine  string
	Happened time.Time
	Path     string // of the case
}

// What came of a remedy.
const (
	Helped = "helped" // the setup worked
	Same   = "same"   // it failed from the same cause
	Moved  = "moved"  // it failed from another one
)

// Place is a path as it is looked up: in small letters, with strokes one way.
func Place(path string) string { return strings.ToLower(strings.ReplaceAll(path, `\`, "/")) }

// Known are the files that were looked at, by path.
func (s *Store) Known(ctx context.Context) (map[string]File, error) {
	rows, err := s.query(ctx, s.db, `SELECT path, bytes, changed, hash, state FROM file`)
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
func (s *Store) Add(ctx context.Context, list []Found) error {
	return s.within(ctx, func(tx *sql.Tx) error { return s.AddWithin(ctx, tx, list) })
}

// AddWithin is [Store.Add] in a transaction of the caller's. What is there already is not
// counted again. Rows are written in the order of their keys, so that two that write at once
// wait for each other and never both.
func (s *Store) AddWithin(ctx context.Context, tx *sql.Tx, list []Found) error {
	causes := map[string]fold.Cause{}
	var attempts []Attempt
	var tried []Tried
	list = slices.Clone(list)
	slices.SortFunc(list, func(a, b Found) int { return strings.Compare(a.File.Path, b.File.Path) })
	insert, err := tx.PrepareContext(ctx, s.sql(`INSERT INTO file (path, bytes, changed, hash, state, reason) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (path) DO UPDATE SET bytes = excluded.bytes, changed = excluded.changed, hash = excluded.hash, state = excluded.state, reason = excluded.reason`))
	if err != nil {
		return err
	}
	defer insert.Close()
	for _, f := range list {
		if _, err := insert.ExecContext(ctx, f.File.Path, f.File.Bytes,
			f.File.Changed.UTC().Format(time.RFC3339Nano), f.File.Hash, f.File.State, clean(f.File.Reason)); err != nil {
			return err
		}
		attempts, tried = append(attempts, f.Attempts...), append(tried, f.Tried...)
		for _, a := range f.Attempts {
			if a.Facts != nil {
				c := s.rules.Cause(*a.Facts)
				causes[c.ID] = c
			}
		}
	}
	heads := map[string]string{}
	for _, id := range slices.Sorted(maps.Keys(causes)) {
		head, err := s.addCause(ctx, tx, causes[id])
		if err != nil {
			return err
		}
		heads[id] = head
	}
	slices.SortFunc(attempts, func(a, b Attempt) int { return strings.Compare(a.ID, b.ID) })
	attempt, err := tx.PrepareContext(ctx, s.sql(`INSERT INTO attempt (id, path, place, machine, who, build, product, version, outcome, exit_code, happened, cause, own, part_of, confidence, summary, line, proof, facts, folding)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, '', ?, ?, ?, ?, ?, ?) ON CONFLICT (id) DO NOTHING`))
	if err != nil {
		return err
	}
	defer attempt.Close()
	for _, a := range attempts {
		if err := s.addAttempt(ctx, tx, attempt, a, heads); err != nil {
			return err
		}
	}
	for _, t := range tried {
		if err := s.addTried(ctx, tx, t); err != nil {
			return err
		}
	}
	return nil
}

// clean is a text that both engines keep: without zeros, which one of them refuses.
func clean(text string) string {
	return strings.ToValidUTF8(strings.ReplaceAll(text, "\x00", ""), "�")
}

func (s *Store) addAttempt(ctx context.Context, tx *sql.Tx, insert *sql.Stmt, a Attempt, heads map[string]string) error {
	cause, own, facts := "", "", ""
	if a.Facts != nil {
		b, err := json.Marshal(a.Facts)
		if err != nil {
			return err
		}
		own, facts = s.rules.Cause(*a.Facts).ID, clean(string(b))
		cause = heads[own]
	}
	machine := clean(a.Machine)
	who := machine
	if who == "" {
		who = a.ID
	}
	if _, err := insert.ExecContext(ctx, a.ID, a.Path, Place(a.Path), machine, who, a.Build, clean(a.Product),
		clean(a.Version), a.Outcome, a.Exit, a.Happened.UTC().Format(time.RFC3339), cause, own, a.Confidence,
		clean(a.Summary), a.Line, clean(a.Proof), facts, s.rules.Version); err != nil {
		return err
	}
	for _, r := range a.Refers {
		if _, err := s.exec(ctx, tx, `INSERT INTO refers (place, attempt) VALUES (?, ?) ON CONFLICT DO NOTHING`, clean(r), a.ID); err != nil {
			return err
		}
	}
	return nil
}

// addCause keeps a cause and gives the one that its attempts count for.
func (s *Store) addCause(ctx context.Context, tx *sql.Tx, c fold.Cause) (string, error) {
	if _, err := s.exec(ctx, tx, `INSERT INTO cause (id, class, sign, kind, subject, message, action, product, title, loose, head, how) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, '', '')
		ON CONFLICT (id) DO NOTHING`, c.ID, c.Class, c.Sign, c.Kind, clean(c.Subject), c.Message, clean(c.Action),
		clean(c.Product), clean(c.Title), loose(c.Subject)); err != nil {
		return "", err
	}
	var head string
	err := tx.QueryRowContext(ctx, s.sql(`SELECT head FROM cause WHERE id = ?`), c.ID).Scan(&head)
	if head == "" {
		head = c.ID
	}
	return head, err
}

func (s *Store) addTried(ctx context.Context, tx *sql.Tx, t Tried) error {
	at := t.Happened.UTC().Format(time.RFC3339)
	facts, err := json.Marshal(t.Facts)
	if err != nil {
		return err
	}
	c := s.rules.Cause(t.Facts)
	if _, err := s.addCause(ctx, tx, c); err != nil {
		return err
	}
	moved, next := "", ""
	if t.MovedTo != nil {
		b, err := json.Marshal(t.MovedTo)
		if err != nil {
			return err
		}
		to := s.rules.Cause(*t.MovedTo)
		if _, err := s.addCause(ctx, tx, to); err != nil {
			return err
		}
		moved, next = to.ID, clean(string(b))
	}
	machine := strings.ToLower(clean(t.Machine))
	h := sha256.Sum256([]byte(strings.Join([]string{string(facts), t.Class, t.Remedy, t.Result, next, machine, at}, "\x00")))
	_, err = s.exec(ctx, tx, `INSERT INTO tried (id, cause, class, remedy, result, moved_to, machine, happened, path, facts, moved_facts) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (id) DO NOTHING`,
		hex.EncodeToString(h[:12]), c.ID, t.Class, clean(s.rules.Title(t.Remedy, t.Facts)), t.Result, moved,
		machine, at, t.Path, clean(string(facts)), next)
	return err
}

// refoldTried works the causes of what was tried out anew.
func (s *Store) refoldTried(ctx context.Context, tx *sql.Tx) error {
	rows, err := s.query(ctx, tx, `SELECT id, facts, moved_facts FROM tried`)
	if err != nil {
		return err
	}
	type kept struct{ id, facts, moved string }
	var all []kept
	for rows.Next() {
		var k kept
		if err := rows.Scan(&k.id, &k.facts, &k.moved); err != nil {
			return errors.Join(err, rows.Close())
		}
		all = append(all, k)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	cause := func(text string) (string, error) {
		if text == "" {
			return "", nil
		}
		var f fold.Facts
		if err := json.Unmarshal([]byte(text), &f); err != nil {
			return "", err
		}
		c := s.rules.Cause(f)
		_, err := s.addCause(ctx, tx, c)
		return c.ID, err
	}
	for _, k := range all {
		id, err := cause(k.facts)
		if err != nil {
			return err
		}
		moved, err := cause(k.moved)
		if err != nil {
			return err
		}
		if _, err := s.exec(ctx, tx, `UPDATE tried SET cause = ?, moved_to = ? WHERE id = ?`, id, moved, k.id); err != nil {
			return err
		}
	}
	return nil
}
