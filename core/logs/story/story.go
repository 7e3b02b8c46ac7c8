// Package story is the model of what logs tell of a setup: its attempts, and
// in each the actions, messages, properties and results, in order. Every item
// knows the file and the line it was read from.
//
// A story is bounded whatever the size of the log: of actions that went well
// only name, times and result are kept, of one that failed also what was said
// while it ran.
package story

import (
	"fmt"
	"slices"
	"time"
)

// A Dialect names the kind of log that a story was read from.
type Dialect string

// The dialects that can be read.
const (
	Engine     Dialect = "engine"     // verbose log of the OS's installer engine
	Chain      Dialect = "chain"      // bootstrapper that installs a chain of packages
	Script     Dialect = "script"     // script-driven installer, timestamped lines
	Response   Dialect = "response"   // result file of a silent setup
	Servicing  Dialect = "servicing"  // the OS's component store and image servicing
	Driver     Dialect = "driver"     // device and driver setup
	AppPackage Dialect = "apppackage" // app-package deployment
	Events     Dialect = "events"     // entries of the event log
	Generic    Dialect = "generic"    // any other program's debug log
)

// Limits of a story.
const (
	MaxActions    = 20000
	MaxMessages   = 6000
	MaxProperties = 4096
	MaxText       = 2000 // bytes kept of one text
)

// A Story is everything that was read, oldest attempt first. The last attempt
// decides.
type Story struct {
	Dialect  Dialect    // of the main source
	Sources  []Source   // the files that it was read from
	Attempts []*Attempt // in the order of the log
}

// Last is the attempt that decides, nil when there is none.
func (s *Story) Last() *Attempt {
	if len(s.Attempts) == 0 {
		return nil
	}
	return s.Attempts[len(s.Attempts)-1]
}

// A Source is one file that the story was read from.
type Source struct {
	Name     string  // file name as it was given
	Dialect  Dialect // whose words it is written in
	Encoding string  // as it was found out
	Bytes    int64   // size of the file, encoded as it is
	Lines    int     // how many it has
	Unended  bool    // the last line has no line end
	Damaged  int     // parts of a binary log that could not be read
	Host     string  // the machine's name, where a line near the begin tells it
	Build    string  // of the OS, likewise
	Person   string  // who ran it, likewise
	Zone     string  // behind its times: Z or +02:00; empty where they have none
}

// A Place is where in the logs something stands.
type Place struct {
	File string // as the source names it
	Line int    // from 1; 0 when unknown
}

// String is the place as editors and terminals take it: file:line.
func (p Place) String() string { return fmt.Sprintf("%s:%d", p.File, p.Line) }

// A Product is what was being set up; empty strings where the log does not say.
type Product struct {
	Name, Version, Code, Manufacturer, Language string // empty where the log does not tell
}

// An Attempt is one run of a setup.
type Attempt struct {
	Place                          // its first line
	Dialect    Dialect             // whose words it is written in
	Date       string              // as the log writes it
	Product    Product             // what was installed
	Package    string              // path of the package or program that was run
	Command    string              // the command line, as far as the log shows it
	Elevated   *bool               // nil where the log does not tell
	Actions    []*Action           // the outermost ones; others hang below
	Messages   []*Message          // those that are kept, in the order of lines
	Properties map[string]Property // by name; the last value of each
	Policies   map[string]Property // by name
	Exit       *Exit               // nil when the log does not say
	Success    *bool               // what the log says outright about the end, without a number
	Loosely    bool                // its last word alone tells that it worked, in a log without levels: "done"
	Cancelled  bool                // somebody stopped it
	Restart    bool                // a restart is due, or was started
	Rollback   int                 // line where the way back begins; 0 when there is none
	Closed     bool                // the end of the run is in the log
	LastLine   int                 // from 1
	Pace       int                 // lines of the file for each that says something, where blank ones stand between all; else 0 or 1
	FirstTime  time.Duration       // time of day of the first stamp; -1 when there is none
	LastTime   time.Duration       // time of day, with a day for each midnight passed
	Gaps       []Gap               // long silences, longest first
	Entries    int                 // how many entries the lines are; 0 where they are not counted
	Dropped    int                 // actions and messages beyond the limits
}

// Apart is how many lines that say something stand from one message to another
// one behind it; less than 0 when the other stands before it. In a text with a
// blank line behind each other one those do not count.
func (a *Attempt) Apart(from, to *Message) int { return (to.Line - from.Line) / max(a.Pace, 1) }

// A Gap is a silence in the log.
type Gap struct {
	After  int           // line after which nothing came
	Length time.Duration // between two lines that have times
}

// An Exit is the number that the setup ended with.
type Exit struct {
	Place
	Code int    // as a signed number of 32 bits
	Text string // the line's words
}

// A Property is a name's last value.
type Property struct {
	Place
	Value string // as the log shows it; secrets are starred by the engine
}

// Phase says in which part of a run an action ran.
type Phase uint8

// The phases of the installer engine; other dialects use Immediate alone.
const (
	Immediate Phase = iota
	Deferred        // carried out from the installation script
	Rollback        // rolled back
)

// An Action is one step of a setup.
type Action struct {
	Place                  // where it starts
	Name     string        // as the log writes it
	Parent   *Action       // nil for an outermost one
	Phase    Phase         // immediate, deferred or rollback
	Start    time.Duration // time of day, days added after midnight; -1 when unknown
	End      time.Duration // time of day; -1 where it is not known
	EndLine  int           // 0 while it has not ended
	EndText  string        // the line that ended it, kept when it failed
	Result   *int          // as the engine counts: 1 worked, 3 failed
	Failed   bool          // by its own end or code
	Inferred bool          // that it failed follows from what came after
	Ignored  bool          // it failed and the setup went on
	Custom   bool          // not one of the engine's own
	Code     *int          // what the custom action or program returned
	Data     []Line        // the last things that it was doing
	Nested   bool          // begins a setup within the setup
}

// Depth is the number of actions around a.
func (a *Action) Depth() int {
	n := 0
	for p := a.Parent; p != nil && n < 100; p = p.Parent {
		n++
	}
	return n
}

// Within says whether a is outer or runs inside it.
func (a *Action) Within(outer *Action) bool {
	for n := 0; a != nil && n < 100; a, n = a.Parent, n+1 {
		if a == outer {
			return true
		}
	}
	return false
}

// A Line is one line of a log, kept as it was.
type Line struct {
	Place
	Text string // without the line's end
}

// A Kind says what sort of thing a message is.
type Kind uint8

// The kinds, from the most to the least telling.
const (
	KindError   Kind = iota // an error shown to the user or written as such
	KindDebug               // an internal error
	KindResult              // what a custom action or program returned
	KindProduct             // the engine's line about the product
	KindWarning
	KindNote // the engine's numbered remark; most are harmless
	KindInfo
	KindText // what an action itself wrote
	KindData // what an action was working on
)

var kindNames = [...]string{"error", "debug", "result", "product", "warning", "note", "info", "text", "data"}

// String is the word by which JSON has the kind.
func (k Kind) String() string { return kindNames[k] }

// A Message is something that was said while an action ran.
type Message struct {
	Place
	At       time.Duration // time of day
	Kind     Kind          // error, warning, note or other
	Number   int           // of the engine's message, 0 when it has none
	Fields   []string      // Fields[0] is field 1 of the record
	Text     string        // without the line's prefix; lines that go on are parted by \n
	Further  []int         // numbers of the lines that go on
	Raw      string        // as it stands in the log
	Action   *Action       // nil outside of all actions
	Rollback bool          // said on the way back
	Repeated int           // how often the log holds a line of this shape; 0 where it is not counted
	Since    int           // the line of the first of this shape; 0 where it is not counted
	Verdict  bool          // it tells how the run went, not why
	Stopped  bool          // it tells that a person stopped the run
	Source   string        // logger, component or package that said it, where the dialect has one
}

// Field is field n of the record, counted from 1; empty when it has none.
func (m *Message) Field(n int) string {
	if n < 1 || n > len(m.Fields) {
		return ""
	}
	return m.Fields[n-1]
}

// maxAttempts is how many attempts of one log are kept; only the last is
// judged, and a person reads the few before it.
const maxAttempts = 2000

// Latest makes room among the attempts of a log for another one: of too many
// the older half is left out, which the new one notes.
func Latest(all []*Attempt, next *Attempt) []*Attempt {
	if len(all) < maxAttempts {
		return all
	}
	next.Dropped += len(all) / 2
	for _, a := range all[:len(all)/2] {
		next.Dropped += a.Dropped
	}
	return slices.Clone(all[len(all)/2:])
}
