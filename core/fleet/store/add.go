// This file keeps files, attempts and trials, many in one transaction.

package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"strings"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the engine of a server
	_ "modernc.org/sqlite"             // the engine of the file, without C

	"hollowkey/core/fleet/fold"
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

// AddWithin is [Store.Add] in a transaction of the caller's. What is there
// already is not counted again. Rows are written in the order of their keys, so
// that two that write at once wait for each other and never both.
func (s *Store) AddWithin(ctx context.Context, tx *sql.Tx, list []Found) error {
	causes := map[string]fold.Cause{}
	var attempts []Attempt
	var tried []Tried
	list = slices.Clone(list)
	// In one order, so that two workers never wait for each other's rows.
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
	// Causes before attempts: those refer to them.
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

// clean is a text that both engines keep: without zeros, which one of them
// refuses.
func clean(text string) string {
	return strings.ToValidUTF8(strings.ReplaceAll(text, "\x00", ""), "�")
}

// addAttempt keeps one attempt with its cause. Where its cause's head was
// merged into another's, it goes to that one: heads tells which.
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
	// An attempt of an unknown machine counts as one of its own.
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

// addTried keeps what was tried against a cause, and whether that helped.
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
	// The same trial read twice, from a case and from its copy, is one.
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
