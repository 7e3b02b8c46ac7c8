// This file sums up what was tried and what came of it.

package store

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"time"
)

// A Trial sums up what came of one remedy for one cause.
type Trial struct {
	Class   string `json:"class"`    // of the remedy; empty where a person chose a step
	Remedy  string `json:"remedy"`   // its title, folded
	Times   int    `json:"times"`    // that it was tried
	Helped  int    `json:"helped"`   // of them
	Same    int    `json:"same"`     // it failed from the same cause
	Moved   int    `json:"moved"`    // it failed from another
	MovedTo string `json:"moved_to"` // the cause that came most often in its place; empty: none did
	Toward  string `json:"toward"`   // its title
}

// Trials are the remedies that were tried for a cause, or for what counts for
// it, those that helped most often first.
func (s *Store) Trials(ctx context.Context, cause string) (list []Trial, err error) {
	rows, err := s.query(ctx, s.db, `SELECT t.class, t.remedy, count(*), sum(CASE WHEN t.result = 'helped' THEN 1 ELSE 0 END) AS helped,
			sum(CASE WHEN t.result = 'same' THEN 1 ELSE 0 END), sum(CASE WHEN t.result = 'moved' THEN 1 ELSE 0 END)
		FROM tried t WHERE t.cause = ? OR t.cause IN (SELECT id FROM cause WHERE head = ?) GROUP BY t.class, t.remedy ORDER BY helped DESC, count(*) DESC, t.remedy`, cause, cause)
	if err != nil {
		return nil, err
	}
	for rows.Next() {
		var t Trial
		if err := rows.Scan(&t.Class, &t.Remedy, &t.Times, &t.Helped, &t.Same, &t.Moved); err != nil {
			return nil, errors.Join(err, rows.Close())
		}
		list = append(list, t)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return nil, err
	}
	// Where a remedy moved the failure, the most frequent next one is told.
	for i := range list {
		if list[i].Moved == 0 {
			continue
		}
		err := s.row(ctx, `SELECT c.id, c.title FROM tried t JOIN cause c ON c.id = t.moved_to WHERE t.remedy = ? AND (t.cause = ? OR t.cause IN (SELECT id FROM cause WHERE head = ?))
			GROUP BY c.id, c.title ORDER BY count(*) DESC, c.id LIMIT 1`, list[i].Remedy, cause, cause).Scan(&list[i].MovedTo, &list[i].Toward)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return nil, err
		}
	}
	return list, nil
}

// Counts is where the attempts of a cause count: for itself, or for the head
// that it was joined under. It is empty where the store has no such cause.
func (s *Store) Counts(ctx context.Context, id string) (string, error) {
	head := ""
	err := s.row(ctx, `SELECT CASE WHEN head = '' THEN id ELSE head END FROM cause WHERE id = ?`, id).Scan(&head)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return head, err
}

// mostFollowed is how many machines are followed, those that had the cause
// last: what came next shows on some hundreds as well as on all.
const mostFollowed = 200

// Next are the causes that came next on the machines that had a cause, after
// they had it.
func (s *Store) Next(ctx context.Context, cause string, most int) (list []Count, err error) {
	rows, err := s.query(ctx, s.db, `SELECT c.id, c.title, t.machines, t.attempts
		FROM (SELECT b.cause AS id, count(DISTINCT b.machine) AS machines, count(*) AS attempts
			FROM (SELECT machine, min(happened) AS began FROM attempt WHERE cause = ? AND machine <> '' AND part_of = '' GROUP BY machine ORDER BY 2 DESC LIMIT ?) a
			CROSS JOIN attempt b WHERE b.machine = a.machine AND b.part_of = '' AND b.happened > a.began AND b.cause <> '' AND b.cause <> ? GROUP BY b.cause) t
		JOIN cause c ON c.id = t.id ORDER BY 3 DESC, 1 LIMIT ?`, cause, mostFollowed, cause, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var c Count
		var title string
		if err := rows.Scan(&c.Value, &title, &c.Machines, &c.Attempts); err != nil {
			return nil, err
		}
		c.Value = strings.TrimSpace(c.Value + " " + title)
		list = append(list, c)
	}
	return list, rows.Err()
}

// forgetTried deletes what was tried, by machine or age. A filter with neither
// deletes nothing: it would delete all.
func (s *Store) forgetTried(ctx context.Context, tx *sql.Tx, f Filter) error {
	if f.Machine == "" && f.Before.IsZero() {
		return nil
	}
	where, args := []string{"1 = 1"}, []any{}
	if f.Machine != "" {
		where, args = append(where, "machine = ?"), append(args, strings.ToLower(f.Machine))
	}
	if !f.Before.IsZero() {
		where, args = append(where, "happened < ?"), append(args, f.Before.UTC().Format(time.RFC3339))
	}
	_, err := s.exec(ctx, tx, `DELETE FROM tried WHERE `+strings.Join(where, " AND "), args...)
	return err
}
