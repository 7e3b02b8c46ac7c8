// This file tells how a case stands.

package casefile

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/why/verdict"
)

// A Stand is how a case stands: all that is in its folder.
type Stand struct {
	Folder   string             // of the case
	About    *About             // nil when the folder was never opened as a case
	Verdicts []*verdict.Verdict // oldest first
	Attempts []*Attempt         // oldest first
	Commands []Command          // oldest first
	Journal  *fix.Journal       // of all changes
}

// Log is the case's own copy of the log that the last verdict is about; empty
// where it kept none.
func (st Stand) Log() string {
	if len(st.Verdicts) == 0 || len(st.Verdicts[len(st.Verdicts)-1].Logs) == 0 {
		return ""
	}
	return keptAt(st.Folder, st.Verdicts[len(st.Verdicts)-1].Logs[0].File)
}

// Input are the logs that the case is about now, as it keeps them: that of its
// last attempt where that did not work, else those of its last verdict. Empty
// where it kept none.
func (st Stand) Input() (logs []string) {
	if n := len(st.Attempts); n > 0 && st.Attempts[n-1].Done {
		if t := st.Attempts[n-1]; t.Verdict != nil && !t.Verdict.Worked() && plainIn(st.Folder, t.Log) {
			return []string{t.LogPath(st.Folder)}
		}
	}
	if len(st.Verdicts) == 0 {
		return nil
	}
	v, _ := st.Subject()
	for _, l := range v.Logs {
		if kept := keptAt(st.Folder, l.File); kept != "" && !slices.Contains(logs, kept) {
			logs = append(logs, kept)
		}
	}
	return logs
}

// keptAt is the case's own copy of a log; empty where it kept none.
func keptAt(dir, log string) string {
	path := filepath.Join(evidenceName, filepath.Base(strings.ReplaceAll(log, `\`, "/")))
	if !plainIn(dir, path) {
		return ""
	}
	return filepath.Join(dir, path)
}

// plainIn says whether a plain file of a case is there: a link may lead
// anywhere, and so may one that its folder is.
func plainIn(dir, path string) bool {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return false
	}
	defer root.Close()
	info, err := root.Lstat(path)
	return err == nil && info.Mode().IsRegular()
}

// StandOf reads a case's folder. The journal is the caller's: opening it on a
// machine settles what a crash left open.
func StandOf(dir string, j *fix.Journal, now func() time.Time) (st Stand, err error) {
	st = Stand{Folder: dir, Journal: j}
	if Exists(dir) {
		c, err := Load(dir, now)
		if err != nil {
			return st, err
		}
		st.About = &c.About
	}
	if st.Verdicts, err = Verdicts(dir); err != nil {
		return st, err
	}
	if st.Attempts, err = Attempts(dir); err != nil {
		return st, err
	}
	st.Commands, err = Commands(dir)
	return st, err
}

// Holds are what is meant to be temporary and still in force, each told once.
func (st Stand) Holds() []string {
	holds := []string{}
	for _, h := range st.Journal.Holds("", "") {
		if t := h.Hold + " on " + h.Machine; len(holds) == 0 || holds[len(holds)-1] != t {
			holds = append(holds, t)
		}
	}
	return holds
}

// CutOff says whether a run that was cut off left a change done in part.
func (st Stand) CutOff() bool {
	return slices.ContainsFunc(st.Journal.Items(), func(i fix.Item) bool { return i.InPart && i.Status == "done" && i.Hold == "" })
}

// VerdictOf is the verdict on a log as it was reached before anything was
// changed; nil when the case has none.
func (st Stand) VerdictOf(log string) *verdict.Verdict {
	for _, v := range st.Verdicts {
		if len(v.Logs) > 0 && filepath.Base(v.Logs[0].File) == filepath.Base(log) {
			return v
		}
	}
	return nil
}

// Subject is what the case is about: its last verdict on a setup that did not
// work, else its last one, else that of the newest attempt that failed; with
// the log, as it is kept. Both are empty when there is none.
func (st Stand) Subject() (v *verdict.Verdict, log string) {
	if n := len(st.Verdicts); n > 0 {
		v = st.Verdicts[n-1]
		for _, o := range slices.Backward(st.Verdicts) {
			if !o.Worked() {
				v = o
				break
			}
		}
		if len(v.Logs) > 0 {
			log = v.Logs[0].File
			if kept := filepath.Join(st.Folder, evidenceName, filepath.Base(log)); there(kept) {
				log = kept
			}
		}
		return v, log
	}
	for _, t := range slices.Backward(st.Attempts) {
		if t.Verdict != nil && (v == nil || v.Worked()) {
			v, log = t.Verdict, t.LogPath(st.Folder)
		}
	}
	return v, log
}

// there says whether a file is there.
func there(name string) bool {
	_, err := os.Stat(name)
	return err == nil
}
