// This file answers questions: how often, where, since when.

package store

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
)

// A Filter chooses attempts; what is empty chooses all.
type Filter struct {
	Since, Before  time.Time // of when they happened
	Product, Class string    // a star stands for anything
	Build, Cause   string    // as it stands; the beginning of an ID is enough
	Machine        string    // its name
}

// wholeID is the length of a cause's ID.
const wholeID = 12

// where is the filter in SQL.
func (f Filter) where() (text string, args []any) {
	parts := []string{"a.part_of = ''"} // parts count with their whole
	add := func(part string, arg any) {
		parts = append(parts, part)
		args = append(args, arg)
	}
	// What the database takes for a sign of its own is marked; stars are ours.
	like := func(pattern string) string {
		return strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`, "*", "%").Replace(strings.ToLower(pattern))
	}
	if !f.Since.IsZero() {
		add("a.happened >= ?", f.Since.UTC().Format(time.RFC3339))
	}
	if !f.Before.IsZero() {
		add("a.happened < ?", f.Before.UTC().Format(time.RFC3339))
	}
	if f.Product != "" {
		add(`lower(a.product) LIKE ? ESCAPE '\'`, like(f.Product))
	}
	if f.Class != "" {
		add(`c.class LIKE ? ESCAPE '\'`, like(f.Class))
	}
	if f.Build != "" {
		add("a.build = ?", f.Build)
	}
	if len(f.Cause) == wholeID {
		add("a.cause = ?", strings.ToLower(f.Cause))
	} else if f.Cause != "" { // IDs are hexadecimal: g comes after all that begin so
		add("a.cause >= ?", strings.ToLower(f.Cause))
		add("a.cause < ?", strings.ToLower(f.Cause)+"g")
	}
	if f.Machine != "" {
		add("a.machine = ?", strings.ToLower(f.Machine))
	}
	return strings.Join(parts, " AND "), args
}

// join is what the filter needs beside attempts: nothing, but for a class.
func (f Filter) join() string {
	if f.Class == "" {
		return ""
	}
	return "LEFT JOIN cause c ON c.id = a.cause"
}

// A Row is one cause with how often it came.
type Row struct {
	ID       string    `json:"id"`       // of the cause
	Class    string    `json:"class"`    // of the cause
	Title    string    `json:"title"`    // one phrase
	Subject  string    `json:"subject"`  // folded; may be empty
	Product  string    `json:"product"`  // where the package itself is at fault
	Machines int       `json:"machines"` // that have it; a log that names none counts as one of its own
	Attempts int       `json:"attempts"` // that failed so
	First    time.Time `json:"first"`    // when it was first seen, at all
	Last     time.Time `json:"last"`     // when it was last seen
	Before   int       `json:"before"`   // machines that had it in the time of the same length before
	Example  string    `json:"example"`  // a log
}

// A Sum is the whole that rows are of.
type Sum struct {
	Attempts int `json:"attempts"` // that were chosen
	Failed   int `json:"failed"`   // of them
	Machines int `json:"machines"` // that they were on
	Causes   int `json:"causes"`   // of those that failed
}

// Total sums what a filter chooses.
func (s *Store) Total(ctx context.Context, f Filter) (sum Sum, err error) {
	where, args := f.where()
	err = s.row(ctx,
		`SELECT count(*), coalesce(sum(CASE WHEN a.cause <> '' THEN 1 ELSE 0 END), 0), count(DISTINCT a.who), count(DISTINCT nullif(a.cause, ''))
		FROM attempt a `+f.join()+` WHERE `+where, args...).Scan(&sum.Attempts, &sum.Failed, &sum.Machines, &sum.Causes)
	return sum, err
}

// Top are the causes that a filter chooses, those on most machines first. Where
// the filter says since when, each row has how many machines had it in the time
// before.
func (s *Store) Top(ctx context.Context, f Filter, most int) (list []Row, err error) {
	where, args := f.where()
	rows, err := s.query(ctx, s.db, `SELECT c.id, c.class, c.title, c.subject, c.product, t.machines, t.attempts, t.last,
			(SELECT min(happened) FROM attempt WHERE cause = c.id AND part_of = ''),
			coalesce((SELECT max(path) FROM attempt WHERE cause = c.id AND part_of = '' AND happened = t.last), '')
		FROM (SELECT a.cause AS id, count(DISTINCT a.who) AS machines, count(*) AS attempts, max(a.happened) AS last FROM attempt a `+f.join()+` WHERE a.cause <> '' AND `+where+`
			GROUP BY a.cause ORDER BY machines DESC, attempts DESC, a.cause LIMIT ?) t
		JOIN cause c ON c.id = t.id ORDER BY t.machines DESC, t.attempts DESC, c.class, c.subject, c.id`, append(args, most)...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var r Row
		var last, first string
		if err := rows.Scan(&r.ID, &r.Class, &r.Title, &r.Subject, &r.Product, &r.Machines, &r.Attempts, &last, &first, &r.Example); err != nil {
			return nil, err
		}
		r.First, r.Last = when(first), when(last)
		list = append(list, r)
	}
	if err := rows.Err(); err != nil || f.Since.IsZero() {
		return list, err
	}
	return list, s.before(ctx, f, list)
}

// mostListed is how many causes are asked for by name; more are read from all
// of the time.
const mostListed = 100

// before counts for each row the machines in the time of the same length
// before.
func (s *Store) before(ctx context.Context, f Filter, list []Row) error {
	// The stretch of the same length before: a week is set against the week
	// before it.
	until := f.Before
	if until.IsZero() {
		until = f.Since
		var last sql.NullString
		if err := s.row(ctx, `SELECT max(happened) FROM attempt`).Scan(&last); err != nil {
			return err
		}
		if t := when(last.String); t.After(until) {
			until = t
		}
	}
	g := f
	g.Since, g.Before = f.Since.Add(-until.Sub(f.Since)), f.Since
	where, args := g.where()
	for _, r := range list {
		args = append(args, r.ID)
	}
	if len(list) > 0 && len(list) <= mostListed { // by the causes' own index, where they are few
		where += " AND a.cause IN (" + strings.Repeat("?, ", len(list)-1) + "?)"
	} else {
		args = args[:len(args)-len(list)]
	}
	rows, err := s.query(ctx, s.db, `SELECT a.cause, count(DISTINCT a.who) FROM attempt a `+f.join()+` WHERE `+
		where+` GROUP BY a.cause`, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var id string
		var n int
		if err := rows.Scan(&id, &n); err != nil {
			return err
		}
		if i := slices.IndexFunc(list, func(r Row) bool { return r.ID == id }); i >= 0 {
			list[i].Before = n
		}
	}
	return rows.Err()
}

// New are the causes that were seen for the first time since a moment.
func (s *Store) New(ctx context.Context, since time.Time) (list []Row, err error) {
	rows, err := s.query(ctx, s.db, `SELECT id FROM cause WHERE head = '' AND coalesce((SELECT min(a.happened) FROM attempt a WHERE a.cause = cause.id AND a.part_of = ''), '') >= ?`, since.UTC().Format(time.RFC3339))
	if err != nil {
		return nil, err
	}
	var ids []string
	for rows.Next() {
		var id string
		if err := rows.Scan(&id); err != nil {
			return nil, errors.Join(err, rows.Close())
		}
		ids = append(ids, id)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return nil, err
	}
	// One question for each: there are few new causes in a day, and the index
	// finds them.
	for _, id := range ids {
		one, err := s.Top(ctx, Filter{Cause: id}, 1)
		if err != nil {
			return nil, err
		}
		list = append(list, one...)
	}
	slices.SortStableFunc(list, func(a, b Row) int {
		return cmp.Or(cmp.Compare(b.Machines, a.Machines), cmp.Compare(b.Attempts, a.Attempts), cmp.Compare(a.ID, b.ID))
	})
	return list, nil
}

// A Count is a value with how many machines have it.
type Count struct {
	Value    string `json:"value"`
	Machines int    `json:"machines"`
	Attempts int    `json:"attempts"`
}

// By counts attempts by one of their columns: machine, product, build, or day.
func (s *Store) By(ctx context.Context, f Filter, column string) (list []Count, err error) {
	expression, ok := map[string]string{"machine": "a.machine", "product": "trim(a.product || ' ' || a.version)",
		"build": "a.build", "day": "substr(a.happened, 1, 10)", "outcome": "a.outcome"}[column]
	if !ok {
		return nil, fmt.Errorf("nothing is counted by %q", column)
	}
	order := "2 DESC, 1"
	if column == "day" {
		order = "1"
	}
	where, args := f.where()
	rows, err := s.query(ctx, s.db, `SELECT `+expression+`, count(DISTINCT a.who), count(*) FROM attempt a `+
		f.join()+` WHERE `+where+` GROUP BY 1 ORDER BY `+order, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var c Count
		if err := rows.Scan(&c.Value, &c.Machines, &c.Attempts); err != nil {
			return nil, err
		}
		list = append(list, c)
	}
	return list, rows.Err()
}

// A Seen is one attempt as it is shown.
type Seen struct {
	Path       string    `json:"path"`
	Machine    string    `json:"machine"`
	Build      string    `json:"build"`
	Product    string    `json:"product"`
	Version    string    `json:"version"`
	Outcome    string    `json:"outcome"`
	ExitCode   *int      `json:"exit_code"`
	Happened   time.Time `json:"happened"`
	Cause      string    `json:"cause"` // its ID; empty where nothing failed
	Title      string    `json:"title"`
	Confidence float64   `json:"confidence"`
	Summary    string    `json:"summary"`
	Line       int       `json:"line"`
	Proof      string    `json:"proof"`
}

// Attempts are those that a filter chooses, the surest first where surest is
// set, else the newest.
func (s *Store) Attempts(ctx context.Context, f Filter, surest bool, most int) (list []Seen, err error) {
	order := "a.happened DESC, a.id"
	if surest {
		order = "a.confidence DESC, a.happened DESC"
	}
	where, args := f.where()
	rows, err := s.query(ctx, s.db, `SELECT a.path, a.machine, a.build, a.product, a.version, a.outcome, a.exit_code, a.happened, a.cause, coalesce(c.title, ''), a.confidence, a.summary, a.line, a.proof
		FROM attempt a LEFT JOIN cause c ON c.id = a.cause WHERE `+where+` ORDER BY `+order+` LIMIT ?`, append(args, most)...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var a Seen
		var exit sql.NullInt64
		var at string
		if err := rows.Scan(&a.Path, &a.Machine, &a.Build, &a.Product, &a.Version, &a.Outcome, &exit, &at, &a.Cause,
			&a.Title, &a.Confidence, &a.Summary, &a.Line, &a.Proof); err != nil {
			return nil, err
		}
		if a.Happened = when(at); exit.Valid {
			n := int(exit.Int64)
			a.ExitCode = &n
		}
		list = append(list, a)
	}
	return list, rows.Err()
}

// Unread are the files that could not be read, with the reasons.
func (s *Store) Unread(ctx context.Context) (list []File, err error) {
	rows, err := s.query(ctx, s.db, `SELECT path, bytes, reason FROM file WHERE state = ? ORDER BY path`, Unread)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		f := File{State: Unread}
		if err := rows.Scan(&f.Path, &f.Bytes, &f.Reason); err != nil {
			return nil, err
		}
		list = append(list, f)
	}
	return list, rows.Err()
}

// Forget deletes what is known of a machine, or of all that happened before a
// moment, and tells how many attempts went. Causes that nobody has any more go,
// too.
func (s *Store) Forget(ctx context.Context, machine string, before time.Time) (n int64, err error) {
	f := Filter{Machine: machine, Before: before}
	where, args := f.where()
	tx, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return 0, err
	}
	defer tx.Rollback() // nothing after the commit
	// The files go too: read again, they would else be taken for known.
	if _, err := s.exec(ctx, tx,
		`DELETE FROM file WHERE path IN (SELECT a.path FROM attempt a LEFT JOIN cause c ON c.id = a.cause WHERE `+
			where+`)`, args...); err != nil {
		return 0, err
	}
	res, err := s.exec(ctx, tx,
		`DELETE FROM attempt WHERE id IN (SELECT a.id FROM attempt a LEFT JOIN cause c ON c.id = a.cause WHERE `+where+`)`, args...)
	if err != nil {
		return 0, err
	}
	if err := s.forgetTried(ctx, tx, f); err != nil {
		return 0, err
	}
	if err := s.sweep(ctx, tx); err != nil {
		return 0, err
	}
	if n, err = res.RowsAffected(); err != nil {
		return 0, err
	}
	return n, tx.Commit()
}

// when reads a time as it is kept.
func when(text string) time.Time {
	t, _ := time.Parse(time.RFC3339, text) // written by Add
	return t
}
