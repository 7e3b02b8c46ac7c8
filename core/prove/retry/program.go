// This file runs a vendor's program and finds the logs that it wrote.

package retry

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/finder"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
)

// A Follower is a live machine that runs a program of a vendor's and follows
// all that it starts; still is how many of these run on.
type Follower interface {
	RunProgram(ctx context.Context, path, switches string, patience time.Duration) (exit, still int, err error)
}

// patience is how long what a program started is waited for after it left
// itself: setups that start their real work and leave take minutes, a program
// that a setup starts at its end stays for good.
const patience = 10 * time.Minute

// clockSlack is by how much a file's time may lie before the run began: file
// systems keep times as coarse as 2 seconds.
const clockSlack = 2 * time.Second

// mostNewLogs is how many logs of one run are read together.
const mostNewLogs = 20

// program runs a vendor's program, and finds the logs that it wrote: files that
// appeared or grew meanwhile where setups leave them.
func program(ctx context.Context, m machine.Machine, r Request, a *casefile.Attempt) (logs []string, err error) {
	live, ok := m.(Follower)
	if !ok {
		return nil, fmt.Errorf("%s cannot run a program: %w", m.Name(), machine.ErrUnsupported)
	}
	if f := m.Facts(); !f.Elevated {
		return nil, errors.New("this prompt is not elevated, so the setup would not run as it should\nhint: run it again from an elevated prompt")
	}
	disk, homes := why.DiskOf(m), why.Homes(m)
	homes.Temporary = append(homes.Temporary, filepath.Dir(r.runs())) // some write beside themselves
	before := map[string]finder.File{}
	for _, f := range finder.Find(disk, nil, homes) {
		before[strings.ToLower(f.Path)] = f
	}
	began := time.Now().Add(-clockSlack)
	exit, still, err := live.RunProgram(ctx, r.runs(), r.Switches, patience)
	if err != nil {
		return nil, err
	}
	a.Exit = exit
	if still > 0 {
		a.Assumed = append(a.Assumed, fmt.Sprintf("%d of the processes that it started run on; they are taken to belong to the product", still))
	}
	for _, f := range finder.Find(disk, nil, homes) {
		was, there := before[strings.ToLower(f.Path)]
		if f.Time.Before(began) || there && f.Size == was.Size && f.Time.Equal(was.Time) || len(logs) >= mostNewLogs {
			continue
		}
		logs = append(logs, f.Path)
	}
	slices.Sort(logs)
	return logs, nil
}

// judgeProgram judges the logs of a program's run together with its exit code;
// without any that can be read only the number counts.
func (w Wish) judgeProgram(ctx context.Context, dir string, logs []string, a *casefile.Attempt) error {
	q := w.Question
	q.Logs, q.Said, q.Exit = nil, "", &a.Exit
	var found []told
	for _, l := range logs {
		one := q
		one.Logs, one.Exit = []string{l}, nil
		if ans, err := why.Ask(ctx, one); err == nil {
			found = append(found, told{l, ans.Verdict})
		}
	}
	readable, strange := ofThisRun(found, a.Exit)
	q.Logs = readable
	ans, err := why.Ask(ctx, q)
	if err != nil {
		return err
	}
	a.Verdict = ans.Verdict
	a.Verdict.Package = a.Package
	text := fmt.Sprintf("no log was found that this run wrote; it ended with %d\r\n", a.Exit)
	if len(strange) > 0 {
		a.Verdict.Remarks = append(a.Verdict.Remarks, "left out, as it tells of another setup that ended otherwise: "+strings.Join(strange, ", "))
	}
	if len(readable) > 0 {
		a.Verdict.Remarks = append(a.Verdict.Remarks, "written or gone on with during this run: "+strings.Join(readable, ", "))
		if main := a.Verdict.Logs[0].File; main != "" {
			if b, err := readFile(main); err == nil {
				text = string(b)
			}
		}
		if err := casefile.Keep(dir, readable, a.Verdict); err != nil {
			return err
		}
	}
	return os.WriteFile(a.LogPath(dir), []byte(text), 0o644)
}

// A told is a log that was written during a run, and what it says by itself.
type told struct {
	log string
	v   *verdict.Verdict
}

// ofThisRun parts the logs of a run from those that another program wrote
// meanwhile, to the same folders: where one log agrees with the exit code, a
// log that says the contrary and is not of the same product is strange to it.
func ofThisRun(found []told, exit int) (own, strange []string) {
	good := exitcode.Good(exit)
	agreeing := map[string]bool{} // by the product's name, empty where none is told
	for _, f := range found {
		if agrees(f.v, good) {
			agreeing[product(f.v)] = true
		}
	}
	for _, f := range found {
		if len(agreeing) > 0 && agrees(f.v, !good) && !agreeing[product(f.v)] {
			strange = append(strange, f.log)
		} else {
			own = append(own, f.log)
		}
	}
	return own, strange
}

// agrees says whether a log tells of a good end, or of a bad one; one without an
// end agrees with neither.
func agrees(v *verdict.Verdict, good bool) bool {
	if good {
		return v.Outcome.Worked()
	}
	return v.Outcome == story.Failed || v.Outcome == story.Cancelled
}

// product is the name of what a log says was set up, in small letters.
func product(v *verdict.Verdict) string {
	if v.Product.Name == nil {
		return ""
	}
	return strings.ToLower(*v.Product.Name)
}

// maxKeptLog is how many bytes of a program's main log an attempt keeps beside
// the copy among the evidence.
const maxKeptLog = 64 << 20

// readFile reads a log that a program wrote, if it is no longer than what an
// attempt keeps.
func readFile(name string) ([]byte, error) {
	f, err := textfile.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil || info.Size() > maxKeptLog {
		return nil, errors.Join(err, fmt.Errorf("%s is too large", name))
	}
	b := make([]byte, info.Size())
	n, err := f.Read(b)
	return b[:n], err
}
