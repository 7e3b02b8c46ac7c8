// This file does what needs all attempts at once: packages below their chains,
// causes below their heads.

package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/fleet/fold"
)

// Settle does what needs all logs at once: it hangs the logs of packages below
// those of the setups that ran them, and joins causes that differ in one piece
// only. It may be done at any time, and again.
func (s *Store) Settle(ctx context.Context) error {
	return s.within(ctx, func(tx *sql.Tx) error {
		if s.server { // one worker at a time: both write the same rows
			if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(4107221)`); err != nil {
				return err
			}
		}
		if err := s.hang(ctx, tx); err != nil {
			return err
		}
		return s.gatherHeads(ctx, tx)
	})
}

// hang makes parts of the attempts whose logs another one names. The outer one
// counts for the cause of the part that failed, the surest first: its own log
// tells only that a package did.
func (s *Store) hang(ctx context.Context, tx *sql.Tx) error {
	if _, err := s.exec(ctx, tx,
		`UPDATE attempt SET part_of = (SELECT min(r.attempt) FROM refers r WHERE r.place = attempt.place AND r.attempt <> attempt.id)
		WHERE part_of = '' AND place IN (SELECT place FROM refers) AND EXISTS (SELECT 1 FROM refers r WHERE r.place = attempt.place AND r.attempt <> attempt.id)`); err != nil {
		return err
	}
	_, err := s.exec(ctx, tx, `UPDATE attempt SET cause = (SELECT p.cause FROM attempt p WHERE p.part_of <> '' AND p.part_of = attempt.id AND p.cause <> '' ORDER BY p.confidence DESC, p.id LIMIT 1)
		WHERE id IN (SELECT attempt FROM refers) AND cause <> '' AND EXISTS (SELECT 1 FROM attempt p WHERE p.part_of <> '' AND p.part_of = attempt.id AND p.cause <> '')`)
	return err
}

const (
	manyValues = 6 // of one piece, from which on it is not a thing's name but a run's
	// fewMachines is how many machines such a cause has at most: what a run
	// makes up seldom comes twice, what a vendor called so comes everywhere.
	fewMachines = 3
)

// gatherHeads joins causes that differ in one piece of their subject which
// takes many values, each on few machines, under a head that shows the piece as
// a star.
func (s *Store) gatherHeads(ctx context.Context, tx *sql.Tx) error {
	rows, err := s.query(ctx, tx, `SELECT c.id, c.class, c.sign, c.kind, c.subject, c.message, c.action, c.product, c.title
		FROM cause c JOIN attempt a ON a.own = c.id WHERE c.loose = 1 AND c.head = '' AND c.how = ''
		GROUP BY c.id, c.class, c.sign, c.kind, c.subject, c.message, c.action, c.product, c.title
		HAVING count(DISTINCT a.machine) <= ?`, fewMachines)
	if err != nil {
		return err
	}
	var all []fold.Cause
	for rows.Next() {
		var c fold.Cause
		if err := rows.Scan(&c.ID, &c.Class, &c.Sign, &c.Kind, &c.Subject, &c.Message, &c.Action, &c.Product, &c.Title); err != nil {
			return errors.Join(err, rows.Close())
		}
		all = append(all, c)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	for head, under := range heads(all) {
		if _, err := s.exec(ctx, tx, `INSERT INTO cause (id, class, sign, kind, subject, message, action, product, title, loose, head, how) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, 0, '', 'head')
			ON CONFLICT (id) DO NOTHING`, head.ID, head.Class, head.Sign, head.Kind, head.Subject, head.Message,
			head.Action, head.Product, head.Title); err != nil {
			return err
		}
		for _, id := range under {
			if err := s.put(ctx, tx, id, head.ID, "rule"); err != nil {
				return err
			}
		}
	}
	return nil
}

// put lets the attempts of a cause count for a head, or with an empty one for
// itself.
func (s *Store) put(ctx context.Context, tx *sql.Tx, id, head, how string) error {
	if _, err := s.exec(ctx, tx, `UPDATE cause SET head = ?, how = ? WHERE id = ?`, head, how, id); err != nil {
		return err
	}
	counts := head
	if counts == "" {
		counts = id
	}
	_, err := s.exec(ctx, tx, `UPDATE attempt SET cause = ? WHERE own = ?`, counts, id)
	return err
}

// heads finds the groups of causes that differ in one piece.
func heads(all []fold.Cause) map[fold.Cause][]string {
	groups, titles := map[fold.Cause][]string{}, map[string]string{}
	for _, c := range all {
		pieces := split(c.Subject)
		// One piece at a time is left open; causes that then look alike may be
		// one.
		for i, p := range pieces {
			if !piece(p) {
				continue
			}
			h := c
			h.Subject = strings.Join(pieces[:i], "") + "*" + strings.Join(pieces[i+1:], "")
			title := strings.ReplaceAll(c.Title, p, "*")
			h.ID, h.Title = "", ""
			h.ID = headID(h)
			if was, known := titles[h.ID]; !known || title < was { // always the same of several
				titles[h.ID] = title
			}
			groups[h] = append(groups[h], c.ID)
		}
	}
	taken := map[string]bool{}
	out := map[fold.Cause][]string{}
	order := make([]fold.Cause, 0, len(groups))
	for h := range groups {
		order = append(order, h)
	}
	slices.SortFunc(order, func(a, b fold.Cause) int { // the largest first; then always the same
		if n := len(groups[b]) - len(groups[a]); n != 0 {
			return n
		}
		return strings.Compare(a.ID, b.ID)
	})
	// Each cause goes under one head only, the largest.
	for _, h := range order {
		under := slices.DeleteFunc(groups[h], func(id string) bool { return taken[id] })
		if len(under) < manyValues {
			continue
		}
		for _, id := range under {
			taken[id] = true
		}
		h.Title = titles[h.ID]
		out[h] = under
	}
	return out
}

// headID is the ID of what causes have in common that differ in less than makes
// another cause: the head, under which they are told apart.
func headID(c fold.Cause) string {
	return fold.Hash(fmt.Sprintf("head|%s|%s|%s|%s|%d|%s|%s", c.Class, c.Sign, c.Kind, c.Subject, c.Message, c.Action, c.Product))
}

// split parts a name at the signs within paths and addresses, which stay as
// pieces.
func split(name string) (pieces []string) {
	from, whole := 0, 0
	for i, c := range name {
		if i < whole {
			continue
		}
		if n := guidAt(name[i:]); n > 0 { // one piece, whatever its strokes
			if i > from {
				pieces = append(pieces, name[from:i])
			}
			pieces = append(pieces, name[i:i+n])
			from, whole = i+n, i+n
			continue
		}
		if strings.ContainsRune(`\/ .-_:()'",`, c) {
			if i > from {
				pieces = append(pieces, name[from:i])
			}
			pieces = append(pieces, name[i:i+len(string(c))])
			from = i + len(string(c))
		}
	}
	if from < len(name) {
		pieces = append(pieces, name[from:])
	}
	return pieces
}

// guidAt is how many bytes the GUID has that a name begins with; 0 where it
// begins with none.
func guidAt(name string) int {
	const form = "00000000-0000-0000-0000-000000000000"
	if len(name) < len(form) {
		return 0
	}
	for i := range len(form) {
		if c := name[i]; form[i] == '-' && c != '-' || form[i] == '0' && !(c >= '0' && c <= '9' || c >= 'a' && c <= 'f') {
			return 0
		}
	}
	return len(form)
}

// piece says whether a piece may be a run's own: it has a figure in it. Words
// are names of things, which many causes tell apart.
func piece(p string) bool { return len(p) > 1 && strings.ContainsAny(p, "0123456789") || p == folded }

// folded is what stands for a number that was so long that it is a run's own.
const folded = "{number}"

// loose says whether a subject holds a piece that may be a run's own: 1 or 0.
func loose(subject string) int {
	if slices.ContainsFunc(split(subject), piece) {
		return 1
	}
	return 0
}

// Cause is the one whose ID begins so, whether or not it was joined under
// another. It fails where none begins so, and where more than one does.
func (s *Store) Cause(ctx context.Context, beginning string) (id string, err error) {
	rows, err := s.query(ctx, s.db, `SELECT id FROM cause WHERE substr(id, 1, ?) = ? ORDER BY id LIMIT 2`,
		len(beginning), strings.ToLower(beginning))
	if err != nil {
		return "", err
	}
	defer rows.Close()
	var all []string
	for rows.Next() {
		if err := rows.Scan(&id); err != nil {
			return "", err
		}
		all = append(all, id)
	}
	switch {
	case rows.Err() != nil:
		return "", rows.Err()
	case len(all) == 0:
		return "", fmt.Errorf("there is no cause %s", beginning)
	case len(all) > 1:
		return "", fmt.Errorf("%s begins the IDs of several causes", beginning)
	}
	return all[0], nil
}

// Join lets the attempts of causes count for another, until [Store.Part]. It
// fails where the head is not there; one that counted for another counts for
// itself again.
func (s *Store) Join(ctx context.Context, head string, others []string) error {
	return s.within(ctx, func(tx *sql.Tx) error {
		under := ""
		if err := tx.QueryRowContext(ctx, s.sql(`SELECT head FROM cause WHERE id = ?`), head).Scan(&under); err != nil {
			return err
		}
		if under != "" { // it counts for itself again, with all that is to count for it
			if err := s.put(ctx, tx, head, "", "person"); err != nil {
				return err
			}
		}
		for _, id := range others {
			if id == head {
				continue
			}
			if err := s.put(ctx, tx, id, head, "person"); err != nil {
				return err
			}
			if err := s.underneath(ctx, tx, id, head); err != nil {
				return err
			}
		}
		return nil
	})
}

// underneath lets what was joined under a cause follow it to its head.
func (s *Store) underneath(ctx context.Context, tx *sql.Tx, id, head string) error {
	if _, err := s.exec(ctx, tx, `UPDATE attempt SET cause = ? WHERE cause = ?`, head, id); err != nil {
		return err
	}
	_, err := s.exec(ctx, tx, `UPDATE cause SET head = ? WHERE head = ?`, head, id)
	return err
}

// Part lets a cause that was joined under another count for itself again; of a
// head, all that is under it. No rule joins them again.
func (s *Store) Part(ctx context.Context, id string) (n int, err error) {
	err = s.within(ctx, func(tx *sql.Tx) error {
		rows, err := s.query(ctx, tx, `SELECT id FROM cause WHERE head <> '' AND (id = ? OR head = ?)`, id, id)
		if err != nil {
			return err
		}
		var all []string
		for rows.Next() {
			var at string
			if err := rows.Scan(&at); err != nil {
				return errors.Join(err, rows.Close())
			}
			all = append(all, at)
		}
		if err := errors.Join(rows.Err(), rows.Close()); err != nil {
			return err
		}
		for _, at := range all {
			if err := s.put(ctx, tx, at, "", "apart"); err != nil {
				return err
			}
		}
		n = len(all)
		return nil
	})
	return n, err
}

// Refold works the causes of all attempts out anew, by rules of the site behind
// ours; the logs are not read again. What people joined and parted stays where
// the cause is the same.
func (s *Store) Refold(ctx context.Context, site string) (attempts int, err error) {
	rules, err := fold.Load(site)
	if err != nil {
		return 0, err
	}
	before := s.rules
	s.rules = rules
	err = s.within(ctx, func(tx *sql.Tx) error {
		if _, err := s.exec(ctx, tx,
			`INSERT INTO meta (name, value) VALUES ('rules', ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value`, site); err != nil {
			return err
		}
		attempts, err = s.refoldAll(ctx, tx)
		return err
	})
	if err != nil {
		s.rules = before
		return 0, err
	}
	return attempts, s.Settle(ctx)
}

// refoldAll gives each attempt its cause anew, by the rules of now. It reads in
// pages, so that a large store needs no more memory than a small one.
func (s *Store) refoldAll(ctx context.Context, tx *sql.Tx) (n int, err error) {
	// Page by page, each from where the last one ended.
	for last := ""; ; {
		rows, err := s.query(ctx, tx, `SELECT id, facts FROM attempt WHERE id > ? AND facts <> '' ORDER BY id LIMIT 1000`, last)
		if err != nil {
			return n, err
		}
		type kept struct{ id, facts string }
		var page []kept
		for rows.Next() {
			var k kept
			if err := rows.Scan(&k.id, &k.facts); err != nil {
				return n, errors.Join(err, rows.Close())
			}
			page = append(page, k)
		}
		if err := errors.Join(rows.Err(), rows.Close()); err != nil {
			return n, err
		}
		if len(page) == 0 {
			break
		}
		for _, k := range page {
			last = k.id
			var f fold.Facts
			if err := json.Unmarshal([]byte(k.facts), &f); err != nil {
				return n, fmt.Errorf("attempt %s: its facts: %w", k.id, err)
			}
			c := s.rules.Cause(f)
			head, err := s.addCause(ctx, tx, c)
			if err != nil {
				return n, err
			}
			if _, err := s.exec(ctx, tx, `UPDATE attempt SET cause = ?, own = ?, folding = ? WHERE id = ?`, head,
				c.ID, s.rules.Version, k.id); err != nil {
				return n, err
			}
			n++
		}
	}
	if err := s.refoldTried(ctx, tx); err != nil {
		return n, err
	}
	return n, s.sweep(ctx, tx)
}

// sweep deletes the causes that nothing counts for any more.
func (s *Store) sweep(ctx context.Context, tx *sql.Tx) error {
	_, err := s.exec(ctx, tx, `DELETE FROM cause WHERE id NOT IN (SELECT own FROM attempt) AND id NOT IN (SELECT cause FROM attempt) AND id NOT IN (SELECT cause FROM tried) AND id NOT IN (SELECT moved_to FROM tried)`)
	return err
}
