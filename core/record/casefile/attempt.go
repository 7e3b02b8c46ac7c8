// This file keeps an attempt: written down before it is made, ended after.

package casefile

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"hollowkey/core/bounded"
	"hollowkey/core/why/verdict"
)

// An Attempt is one run of the setup: on the machine, or rehearsed on a twin.
type Attempt struct {
	Number     int              `json:"number"`               // from 1, never used again
	Time       time.Time        `json:"time"`                 // UTC, of its beginning
	Rehearsal  bool             `json:"rehearsal"`            // on a copy of a twin
	Machine    string           `json:"machine"`              // on which
	Package    string           `json:"package"`              // path on the machine
	Switches   string           `json:"switches,omitempty"`   // of a program, as they were given
	Properties []string         `json:"properties,omitempty"` // NAME=VALUE
	Transforms []string         `json:"transforms,omitempty"` // paths on the machine
	User       string           `json:"user,omitempty"`       // as whom; empty: whoever ran it
	Changes    []int            `json:"changes"`              // of the journal that were in force
	Done       bool             `json:"done"`                 // false: it was begun, and its end is not known
	Exit       int              `json:"exit"`                 // as the engine counts
	Log        string           `json:"log"`                  // file in the case
	Assumed    []string         `json:"assumed,omitempty"`    // what a rehearsal could not know
	Verdict    *verdict.Verdict `json:"verdict,omitempty"`    // of its log; nil before it was judged
	Compared   string           `json:"compared,omitempty"`   // with the attempt before: gone, same, further, earlier, moved
}

const attemptsName = "attempts"

// BeginAttempt writes an attempt down before it is made, so that a run that is
// cut off is known of. It fails where the case cannot be written, and then
// nothing is to be run.
func BeginAttempt(dir string, a Attempt) (*Attempt, error) {
	at := filepath.Join(dir, attemptsName)
	names, err := numbered(at, ".json")
	if err != nil {
		return nil, err
	}
	name := nextName(at, names, ".json")
	if _, err := fmt.Sscanf(filepath.Base(name), "%d.", &a.Number); err != nil {
		return nil, err
	}
	a.Log = filepath.Join(attemptsName, strings.TrimSuffix(filepath.Base(name), ".json")+".log")
	if err := os.MkdirAll(at, 0o755); err != nil {
		return nil, err
	}
	return &a, a.save(dir)
}

// save writes the attempt down, whole or not at all.
func (a *Attempt) save(dir string) error {
	b, err := json.MarshalIndent(a, "", "  ")
	if err != nil {
		return err
	}
	return replaceFile(filepath.Join(dir, attemptsName, fmt.Sprintf("%04d.json", a.Number)), bytesOf(b))
}

// End writes down how an attempt ended.
func (a *Attempt) End(dir string) error {
	a.Done = true
	return a.save(dir)
}

// LogPath is where the attempt's log lies.
func (a *Attempt) LogPath(dir string) string { return filepath.Join(dir, a.Log) }

// Attempts are the attempts of a case, oldest first.
func Attempts(dir string) (list []*Attempt, err error) {
	names, err := numbered(filepath.Join(dir, attemptsName), ".json")
	for _, n := range names {
		b, err := bounded.ReadFile(n, maxRecord)
		if err != nil {
			return nil, err
		}
		var a Attempt
		if err := json.Unmarshal(b, &a); err != nil {
			return nil, fmt.Errorf("%s: %w", n, err)
		}
		if a.Log != "" && !filepath.IsLocal(a.Log) {
			return nil, errors.New(n + ": the log lies outside of the case")
		}
		list = append(list, &a)
	}
	return list, err
}
