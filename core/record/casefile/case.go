// Package casefile keeps everything about one failed setup in one folder that
// can be read without the program: case.yaml, evidence, verdicts, the journal,
// attempts with their logs, what was typed, quarantine, the report.
package casefile

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/bounded"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/mask"
	"hollowkey/core/logs/zipped"
	"hollowkey/core/why/verdict"
)

// The states of a case.
const (
	Open   = "open"
	Closed = "closed"
)

// Live is the place of a machine that is this computer.
const Live = "live"

// About is what case.yaml says.
type About struct {
	Title   string    `yaml:"title" json:"title"`                         // what it is called
	Told    string    `yaml:"told,omitempty" json:"told,omitempty"`       // what the person said
	Machine string    `yaml:"machine,omitempty" json:"machine,omitempty"` // its name; empty before one was named
	Place   string    `yaml:"place,omitempty" json:"place,omitempty"`     // where that machine was: Live, or its twin's whole path
	State   string    `yaml:"state" json:"state"`                         // open or closed
	Outcome string    `yaml:"outcome,omitempty" json:"outcome,omitempty"` // in words, once it is closed
	Opened  time.Time `yaml:"opened" json:"opened"`                       // UTC
	Closed  time.Time `yaml:"closed,omitempty" json:"closed,omitzero"`    // UTC; zero while it is open
	Notes   []Note    `yaml:"notes,omitempty" json:"notes,omitempty"`     // oldest first
}

// A Note is what somebody wrote down.
type Note struct {
	Time time.Time `yaml:"time" json:"time"` // UTC
	Text string    `yaml:"text" json:"text"` // may have several lines
}

// A Case is a folder.
type Case struct {
	Dir string // its folder
	About
	now func() time.Time // the clock, which tests set
}

const (
	// The parts of a case's folder, beside journal and quarantine.
	aboutName    = "case.yaml"
	commandsName = "commands.ndjson"
	evidenceName = "evidence"
	maxAbout     = 4 << 20  // bytes of case.yaml, most of them notes
	maxRecords   = 64 << 20 // bytes of what was typed: a line for each call
	maxRecord    = 16 << 20 // bytes of one verdict or attempt, which keep some hundred lines of logs
)

// Exists says whether a folder holds a case that was opened.
func Exists(dir string) bool {
	_, err := os.Stat(filepath.Join(dir, aboutName))
	return err == nil
}

// quoted is a folder as an argument that every shell reads alike: no folder's
// name has a quote on Windows.
func quoted(dir string) string {
	if strings.ContainsAny(dir, " &()%';,") {
		return `"` + dir + `"`
	}
	return dir
}

// Make opens a new case in a folder, which may hold a journal already. It fails
// where the folder is a case already, or cannot be written.
func Make(dir string, about About, now func() time.Time) (*Case, error) {
	if Exists(dir) {
		return nil, fmt.Errorf("%s holds a case already\nhint: to look at it: hollowkey case --case %s", dir, quoted(dir))
	}
	c := &Case{Dir: dir, About: about, now: now}
	c.State, c.Opened = Open, now().UTC().Truncate(time.Second)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, err
	}
	return c, c.Save()
}

// Discard takes a case back that was just made, and says whether it did: not
// where anything lies in it besides its own file.
func Discard(dir string) bool {
	entries, err := os.ReadDir(dir)
	if err != nil || len(entries) != 1 || entries[0].Name() != aboutName {
		return false
	}
	return os.Remove(filepath.Join(dir, aboutName)) == nil && os.Remove(dir) == nil
}

// List are the cases in a folder, those that are open first, then the newest.
// Folders that are none are passed over; broken tells of cases that cannot be
// read.
func List(root string, now func() time.Time) (list []*Case, broken []error, err error) {
	entries, err := os.ReadDir(root)
	if err != nil {
		return nil, nil, err
	}
	for _, e := range entries {
		dir := filepath.Join(root, e.Name())
		if !e.IsDir() || !Exists(dir) {
			continue
		}
		c, err := Load(dir, now)
		if err != nil {
			broken = append(broken, err)
			continue
		}
		list = append(list, c)
	}
	slices.SortStableFunc(list, func(a, b *Case) int {
		if open := strings.Compare(b.State, a.State); open != 0 { // "open" behind "closed"
			return open
		}
		return b.Opened.Compare(a.Opened)
	})
	return list, broken, nil
}

// Load reads a case. It fails where the folder is none, or holds a record that
// is not ours.
func Load(dir string, now func() time.Time) (*Case, error) {
	f, err := os.Open(filepath.Join(dir, aboutName))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("%s is no case\nhint: to open one there: hollowkey case open --case %s", dir, quoted(dir))
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := bounded.ReadAll(f, maxAbout)
	if err != nil {
		return nil, err
	}
	c := &Case{Dir: dir, now: now}
	d := yaml.NewDecoder(bytes.NewReader(b))
	d.KnownFields(true)
	if err := d.Decode(&c.About); err != nil {
		return nil, fmt.Errorf("%s: %w", filepath.Join(dir, aboutName), err)
	}
	return c, nil
}

// Save writes case.yaml, whole or not at all.
func (c *Case) Save() error {
	b, err := yaml.Marshal(c.About)
	if err != nil {
		return err
	}
	return replaceFile(filepath.Join(c.Dir, aboutName), bytesOf(b))
}

// Note writes something down.
func (c *Case) Note(text string) error {
	c.Notes = append(c.Notes, Note{c.now().UTC().Truncate(time.Second), text})
	return c.Save()
}

// Close ends the case with an outcome.
func (c *Case) Close(outcome string) error {
	c.State, c.Outcome, c.Closed = Closed, outcome, c.now().UTC().Truncate(time.Second)
	return c.Save()
}

// plainName is a file's name that a stranger chose, without what would mislead
// a terminal or a folder.
func plainName(base string) string {
	name := strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || unicode.Is(unicode.Cf, r) || strings.ContainsRune(`<>:"/\|?*`, r) {
			return '_'
		}
		return r
	}, base)
	if name = strings.TrimLeft(strings.TrimRight(name, ". "), "."); name == "" {
		return "unnamed"
	}
	return name
}

// mostEvidence is how many bytes of a zip's entry are kept.
const mostEvidence = 2 << 30

// AddFrom is AddEvidence for what is read from elsewhere, such as a file of the
// machine's: base is its name.
func AddFrom(dir, base string, in io.Reader) (string, error) {
	temp, err := os.MkdirTemp("", "hollowkey-evidence-*")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(temp)
	name := filepath.Join(temp, plainName(base))
	f, err := os.OpenFile(name, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return "", err
	}
	if _, err := io.Copy(f, in); err != nil {
		f.Close()
		return "", err
	}
	if err := f.Close(); err != nil {
		return "", err
	}
	return AddEvidence(dir, name)
}

// AddEvidence copies a file into the case; the same contents are kept once.
// Nothing that lies there is written over; the path of the copy is given.
func AddEvidence(dir, name string) (string, error) {
	if zip, inside, is := zipped.Parts(name); is {
		f, _, err := zipped.Find(zip, inside, mostEvidence)
		if err != nil {
			return "", err
		}
		defer f.Close()
		return AddFrom(dir, path.Base(inside), f)
	}
	in, err := os.Open(name)
	if err != nil {
		return "", err
	}
	defer in.Close()
	to := filepath.Join(dir, evidenceName)
	if err := os.MkdirAll(to, 0o755); err != nil {
		return "", err
	}
	base := filepath.Base(name)
	// Logs of one name from two machines lie beside each other; the same one
	// twice lies there once.
	for n := 1; ; n++ {
		at := filepath.Join(to, base)
		if n > 1 {
			at = filepath.Join(to, fmt.Sprintf("%s-%d%s", strings.TrimSuffix(base, filepath.Ext(base)), n, filepath.Ext(base)))
		}
		same, err := sameContents(in, at)
		if err != nil {
			return "", err
		}
		if same {
			return at, nil
		}
		if _, err := os.Stat(at); err == nil {
			continue
		}
		return at, copyFile(in, at)
	}
}

// Keep copies logs and their verdict into a case; without an open one it does
// nothing. What lies in the case is kept already, and its verdict with the
// attempt.
func Keep(dir string, logs []string, v *verdict.Verdict) error {
	if !Exists(dir) {
		return nil
	}
	for _, l := range logs {
		if rel, err := filepath.Rel(dir, l); err == nil && filepath.IsLocal(rel) || l == "-" {
			continue
		}
		if _, err := AddEvidence(dir, l); err != nil {
			return err
		}
	}
	_, err := AddVerdict(dir, v)
	return err
}

// sameContents says whether a file of the case holds what is to be added.
func sameContents(in *os.File, at string) (bool, error) {
	if _, err := in.Seek(0, io.SeekStart); err != nil {
		return false, err
	}
	other, err := os.Open(at)
	if err != nil {
		return false, nil
	}
	defer other.Close()
	a, err := in.Stat()
	if err != nil {
		return false, err
	}
	if b, err := other.Stat(); err != nil || a.Size() != b.Size() {
		return false, err
	}
	var x, y [64 << 10]byte
	for {
		n, err := io.ReadFull(in, x[:])
		m, _ := io.ReadFull(other, y[:])
		if n != m || !bytes.Equal(x[:n], y[:m]) {
			return false, nil
		}
		if err != nil {
			return errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF), nil
		}
	}
}

// copyFile copies into the case: to a name beside first, so that a copy that is
// cut off is not taken for evidence.
func copyFile(in *os.File, to string) error {
	if _, err := in.Seek(0, io.SeekStart); err != nil {
		return err
	}
	return replaceFile(to, func(w io.Writer) error {
		_, err := io.Copy(w, in)
		return err
	})
}

// AddVerdict keeps a verdict; the same one is kept once.
func AddVerdict(dir string, v *verdict.Verdict) (string, error) {
	b, err := json.MarshalIndent(v, "", "  ")
	if err != nil {
		return "", err
	}
	names, err := numbered(filepath.Join(dir, "verdicts"), ".json")
	if err != nil {
		return "", err
	}
	for _, n := range names {
		if old, err := bounded.ReadFile(n, maxRecord); err == nil && bytes.Equal(old, b) {
			return n, nil
		}
	}
	at := nextName(filepath.Join(dir, "verdicts"), names, ".json")
	if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
		return "", err
	}
	return at, replaceFile(at, bytesOf(b))
}

// Verdicts are the verdicts of a case, oldest first.
func Verdicts(dir string) (list []*verdict.Verdict, err error) {
	names, err := numbered(filepath.Join(dir, "verdicts"), ".json")
	for _, n := range names {
		b, err := bounded.ReadFile(n, maxRecord)
		if err != nil {
			return nil, err
		}
		var v verdict.Verdict
		if err := json.Unmarshal(b, &v); err != nil {
			return nil, fmt.Errorf("%s: %w", n, err)
		}
		list = append(list, &v)
	}
	return list, err
}

// The number before a copied log's name: it says in which order they came into
// the case.
var numberPattern = lazy.MustCompile(`^(\d{4,})\.`)

// numbered lists the files of a folder that are named by a number, in order.
func numbered(dir, ext string) (names []string, err error) {
	entries, err := os.ReadDir(dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	for _, e := range entries {
		if numberPattern.MatchString(e.Name()) && filepath.Ext(e.Name()) == ext {
			names = append(names, filepath.Join(dir, e.Name()))
		}
	}
	slices.Sort(names)
	return names, err
}

// nextName is the name after the last one. Numbers are never used again, since
// reports refer to them.
func nextName(dir string, names []string, ext string) string {
	last := 0
	for _, n := range names {
		if m := numberPattern.FindStringSubmatch(filepath.Base(n)); m != nil {
			if v, err := strconv.Atoi(m[1]); err == nil && v > last {
				last = v
			}
		}
	}
	return filepath.Join(dir, fmt.Sprintf("%04d%s", last+1, ext))
}

// A Command is one call of the program within a case.
type Command struct {
	Time time.Time `json:"time"` // UTC, of its end
	Args []string  `json:"args"` // as they were typed
	Exit int       `json:"exit"` // exit status
}

// Record writes down what was typed, without secrets. It fails where the case
// cannot be written; the command itself has been done by then.
func Record(dir string, now time.Time, args []string, exit int) error {
	if !Exists(dir) {
		return nil
	}
	m := mask.New(nil, nil)
	hidden := make([]string, len(args))
	for i, a := range args {
		hidden[i] = m.Mask(a)
	}
	b, err := json.Marshal(Command{now.UTC().Truncate(time.Second), hidden, exit})
	if err != nil {
		return err
	}
	f, err := appendTo(filepath.Join(dir, commandsName))
	if err != nil {
		return err
	}
	_, err = f.Write(append(b, '\n'))
	return errors.Join(err, f.Close())
}

// Commands are the calls within a case, oldest first. A last line that was cut
// off is left out.
func Commands(dir string) (list []Command, err error) {
	f, err := os.Open(filepath.Join(dir, commandsName))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	d := json.NewDecoder(io.LimitReader(f, maxRecords))
	for {
		var c Command
		if err := d.Decode(&c); err != nil {
			return list, nil
		}
		list = append(list, c)
	}
}
