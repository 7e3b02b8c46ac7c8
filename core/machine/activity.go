// This file is what runs on a machine, who is signed in, and how it starts.

package machine

import (
	"context"
	"strings"
	"time"
)

// Activity is what runs on a machine, who is signed in, and how it starts.
type Activity interface {
	Processes() ([]Process, error)
	// Holders are the processes that keep one of the files open.
	Holders(files ...string) ([]Process, error)
	// EndProcess ends one process; fs.ErrNotExist when it is gone.
	EndProcess(id int) error
	Sessions() ([]Session, error)
	SignOut(session int) error
	SafeBoot() (SafeBoot, error)
	SetSafeBoot(SafeBoot) error
	// Run runs one of the OS's own programs to its end. said gets its output
	// line by line and may be nil. The error is about starting it; how it ended
	// is its exit code.
	Run(ctx context.Context, command []string, said func(line string)) (exitCode int, err error)
	// Reaches resolves a host and asks it for an answer; port 0 stands for 443.
	// The error says which of the two failed, or that it is not known.
	Reaches(ctx context.Context, host string, port int) error
}

// A Process is one running program.
type Process struct {
	ID   int    `json:"id"`             // process number
	Name string `json:"name"`           // of the program's file
	User string `json:"user,omitempty"` // name without its domain; empty where it is not known
}

// A Session is one user who is signed in.
type Session struct {
	ID     int    `json:"id"`     // session number
	User   string `json:"user"`   // name without its domain
	Active bool   `json:"active"` // and not in the background
	Own    bool   `json:"own"`    // the one that this program runs in
}

// SafeBoot says how the OS starts next time.
type SafeBoot string

// The ways to start.
const (
	SafeBootOff     SafeBoot = "off"
	SafeBootMinimal SafeBoot = "minimal"
	SafeBootNetwork SafeBoot = "network"
)

// Tasks are what the OS's scheduler runs.
type Tasks interface {
	// Tasks lists all tasks with their definition.
	Tasks() ([]Task, error)
	SetTaskEnabled(path string, on bool) error
	CreateTask(t Task) error
	DeleteTask(path string) error
}

// A Task is one entry of the scheduler.
type Task struct {
	Path       string `json:"path"`                 // `\Folder\Name`
	Runs       string `json:"runs"`                 // its command line
	Author     string `json:"author,omitempty"`     // as it is registered
	AtLogon    bool   `json:"at_logon"`             // or at start-up
	Enabled    bool   `json:"enabled"`              // it can be started
	Definition string `json:"definition,omitempty"` // XML as the scheduler exports it; a twin may have none
}

// A Section is the very text that an entry has in a twin's file, and the line
// that it begins at: so it can be put back to the byte.
type Section struct {
	File  string `json:"file"`  // where the lines stand, in the twin
	Lines string `json:"lines"` // as they stand, ends of lines too
	At    int    `json:"at"`    // line that they begin at
}

// Verbatim is what twins can do besides: give an entry's text before it is
// deleted and put it back. kind is "key", "service" or "task".
type Verbatim interface {
	Section(kind, name string) (*Section, error)
	PutSection(kind string, s Section) error
}

// A List is one of the files in which a twin is written down.
type List struct {
	Name  string    `json:"name"`  // in the twin's folder
	Sum   string    `json:"sum"`   // SHA-256 of what stands in it, in hex
	Since time.Time `json:"since"` // when it was written last
}

// Listed is what twins can do besides: tell what they are written down in, and
// give a list the time that it had when it reads again as it did then. A change
// on a real machine leaves no such trace.
type Listed interface {
	Lists() []List
	Retime(was List) error
}

// OwnAccount says whether a service's account is one of the OS's own, which
// need no password.
func OwnAccount(account string) bool {
	switch strings.ToLower(account) {
	case "", "localsystem", `nt authority\system`, `nt authority\localservice`, `nt authority\networkservice`, "localservice",
		"networkservice":
		return true
	}
	return strings.HasPrefix(strings.ToLower(account), `nt service\`)
}

// Uptime is how long the machine has been running, 0 when it is not known.
func (f Facts) Uptime() time.Duration {
	if f.Booted.IsZero() || f.Time.IsZero() {
		return 0
	}
	return f.Time.Sub(f.Booted)
}
