// This file gathers what a page is made of, with names masked where that is
// asked.

package report

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"time"

	"hollowkey/core/logs/mask"
	"hollowkey/core/logs/trail"
	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
)

// A Request says what a page is about.
type Request struct {
	Stand    casefile.Stand // of the case
	Log      string         // the log to report on; empty: what the case is about
	Question why.Question   // how that log is read and judged, with the machine
	Names    bool           // leave private names in
	Made     time.Time      // of the page
}

// Collect gathers what the page is made of. The verdict is the one that was
// reached before anything was changed, where the case has it. It fails where a
// log that is named cannot be read; one that is gone only leaves the page
// without its picture.
func Collect(ctx context.Context, r Request) (Input, error) {
	st := r.Stand
	in := Input{Title: filepath.Base(st.Folder), About: st.About, Attempts: st.Attempts, Changes: st.Journal.Items(),
		Holds: st.Journal.Holds("", ""), Made: r.Made}
	if m := r.Question.Machine; m != nil {
		facts := m.Facts()
		in.Facts, in.Machine, in.Who = &facts, m.Name(), m
	}
	log := r.Log
	switch {
	case log == "":
		in.Verdict, log = st.Subject()
	default:
		if in.Verdict = st.VerdictOf(log); in.Verdict != nil {
			break
		}
		q := r.Question
		q.Logs = []string{log}
		ans, err := why.Ask(ctx, q)
		if err != nil {
			return in, err
		}
		in.Verdict = ans.Verdict
		if err := casefile.Keep(st.Folder, ans.Logs, ans.Verdict); err != nil {
			return in, err
		}
	}
	if _, err := os.Stat(log); err == nil && log != "" && in.Verdict != nil { // a log that is gone leaves the page without its picture
		if in.Trail, err = why.TrailOf(ctx, log, in.Verdict, trail.Options{}); err != nil {
			return in, err
		}
		in.Around = around(ctx, r.Question, log, in.Verdict)
	}
	switch {
	case st.About != nil:
		in.Title = st.About.Title
	case in.Verdict != nil && in.Verdict.Product.Name != nil:
		in.Title = *in.Verdict.Product.Name
		if !in.Verdict.Worked() {
			in.Title += " does not install"
		}
	}
	if !r.Names {
		in.Mask = masker(st, r.Question.Machine, log)
	}
	return in, nil
}

// beside is how many lines before and after one that proves something are
// shown.
const beside = 2

// around reads the lines that prove a verdict with those beside them, each
// once. What cannot be read is left out.
func around(ctx context.Context, q why.Question, log string, v *verdict.Verdict) (list []Near) {
	q.Logs, q.Said, q.Exit = []string{log}, "", nil
	proof := map[int]bool{}
	for _, e := range v.Evidence {
		if filepath.Base(e.File) == filepath.Base(log) {
			proof[e.Line] = true
		}
	}
	at := map[int]int{} // where a line stands in the list
	for _, e := range v.Evidence {
		if !proof[e.Line] {
			list = append(list, Near{e, true})
			continue
		}
		lines, err := why.Around(ctx, q, e.Line, beside)
		if err != nil {
			return nil
		}
		for _, l := range lines {
			if _, there := at[l.Line]; !there && strings.TrimSpace(l.Text) != "" {
				at[l.Line] = len(list)
				list = append(list, Near{verdict.Line{File: e.File, Line: l.Line, Text: l.Text}, proof[l.Line]})
			}
		}
	}
	return list
}

// masker knows the names that the machine and the case's logs tell.
func masker(st casefile.Stand, m machine.Machine, logs ...string) *mask.Masker {
	users, hosts := machine.PrivateNames(m)
	if st.About != nil {
		hosts = append(hosts, st.About.Machine)
	}
	for _, t := range st.Attempts {
		logs = append(logs, t.LogPath(st.Folder))
		hosts, users = append(hosts, t.Machine), append(users, t.User)
	}
	k := mask.New(users, hosts)
	for _, l := range logs {
		if f, err := os.Open(l); err == nil {
			_ = k.LearnFrom(f) // what cannot be read adds no names
			f.Close()
		}
	}
	return k
}
