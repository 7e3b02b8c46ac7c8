// Package learn takes what was tried in cases, and what came of it, into a
// store, and says of a verdict what the store knows: how often its cause was
// seen, what helped, and what happened on the same machine before.
package learn

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/fleet/fold"
	"hollowkey/core/fleet/store"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why/verdict"
)

const (
	maxFile  = 16 << 20 // bytes of one verdict or attempt, as in a case
	maxFiles = 2000     // attempts or verdicts of one case
)

// FromCase reads what was tried in a case: each attempt on the machine before
// which something was changed, with what came of it. name is what the case is
// called in the store. The case may be a folder or lie in a zip; what is
// damaged is told, and the rest counts.
func FromCase(fsys fs.FS, name string) (list []store.Tried, err error) {
	verdicts, bad := read[verdict.Verdict](fsys, "verdicts")
	attempts, alsoBad := read[casefile.Attempt](fsys, "attempts")
	titles, badJournal := journal(fsys)
	err = errors.Join(bad, alsoBad, badJournal)
	var before *verdict.Verdict // of the last failure
	var force []int             // changes that were in force then
	for _, v := range verdicts {
		if !v.Worked() && v.Cause.Class != nil {
			before = v
			break
		}
	}
	for _, a := range attempts {
		if !a.Done || a.Rehearsal || a.Verdict == nil {
			continue
		}
		var tried []string
		for _, c := range a.Changes {
			if t := titles[c]; t != "" && !slices.Contains(force, c) && !slices.Contains(tried, t) {
				tried = append(tried, t)
			}
		}
		if before != nil {
			for _, title := range tried {
				if t, ok := one(before, a, title); ok {
					t.Path = name
					list = append(list, t)
				}
			}
		}
		force = a.Changes
		if !a.Verdict.Worked() {
			before = a.Verdict
		}
	}
	return list, err
}

// one is what came of one remedy.
func one(before *verdict.Verdict, a *casefile.Attempt, title string) (t store.Tried, ok bool) {
	host, user := first(before.Host.Name, a.Machine), before.User
	facts, ok := fold.FactsOf(before, host, user)
	if !ok {
		return t, false
	}
	t = store.Tried{Facts: facts, Remedy: title, Machine: host, Happened: a.Time}
	if i := slices.IndexFunc(before.Remedies, func(r step.Remedy) bool { return r.Title == title }); i >= 0 {
		t.Class = before.Remedies[i].Class
	}
	switch after, failed := fold.FactsOf(a.Verdict, host, user); {
	case a.Verdict.Worked():
		t.Result = store.Helped
	case a.Verdict.Outcome == story.Cancelled || !failed: // it says nothing about the remedy
		return t, false
	case a.Compared == "same":
		t.Result = store.Same
	default:
		t.Result, t.MovedTo = store.Moved, &after
	}
	return t, true
}

// first is the first of the texts that is not empty.
func first(list ...string) string {
	for _, s := range list {
		if s != "" {
			return s
		}
	}
	return ""
}

// A case's records of attempts carry their number as a name.
var numbered = lazy.MustCompile(`^\d{4,}\.json$`)

// read reads the numbered files of a folder, in their order.
func read[T any](fsys fs.FS, dir string) (list []*T, err error) {
	entries, err := fs.ReadDir(fsys, dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	for n, e := range entries {
		if n == maxFiles {
			return list, errors.Join(err, fmt.Errorf("%s: more than %d files", dir, maxFiles))
		}
		if !numbered.MatchString(e.Name()) || !e.Type().IsRegular() {
			continue
		}
		b, bad := bounded(fsys, path.Join(dir, e.Name()))
		v := new(T)
		if bad == nil {
			bad = json.Unmarshal(b, v)
		}
		if bad != nil {
			err = errors.Join(err, fmt.Errorf("%s: %w", path.Join(dir, e.Name()), bad))
			continue
		}
		list = append(list, v)
	}
	return list, err
}

// bounded reads a file of a case, up to a limit.
func bounded(fsys fs.FS, name string) ([]byte, error) {
	f, err := fsys.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxFile+1))
	if err == nil && len(b) > maxFile {
		err = fmt.Errorf("it is longer than %d bytes", maxFile)
	}
	return b, err
}

// journal gives what each change of a case was for.
func journal(fsys fs.FS) (titles map[int]string, err error) {
	titles = map[int]string{}
	b, err := bounded(fsys, "journal.ndjson")
	if errors.Is(err, fs.ErrNotExist) {
		return titles, nil
	}
	if err != nil {
		return titles, err
	}
	lines := bufio.NewScanner(bytes.NewReader(b))
	lines.Buffer(nil, maxFile)
	for lines.Scan() {
		var r fix.Record
		if json.Unmarshal(lines.Bytes(), &r) == nil && r.Phase == fix.Begin && r.Change > 0 {
			titles[r.Change] = strings.TrimSpace(r.Title)
		}
	}
	return titles, lines.Err()
}
