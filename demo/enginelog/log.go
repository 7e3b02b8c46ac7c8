// Package enginelog writes made-up verbose logs in the form of the OS's
// installer engine: for the demo, for tests, and of any size for measuring.
//
// The same setup gives the same log, byte for byte.
package enginelog

import (
	"bufio"
	"fmt"
	"io"
	"math/rand/v2"
	"time"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// A Setup is the made-up setup whose log is written.
type Setup struct {
	Product, Version, Code, Manufacturer string    // of the package
	Package                              string    // path of the package
	Folder                               string    // below Program Files
	User, SID, Computer                  string    // who runs it, and where
	Build                                string    // of the OS; 19045 when empty
	PersonalFolder                       string    // of the user; the usual place when empty
	Started                              time.Time // of the first line
	Files                                int       // number of files, components and their lines
	Folders                              int       // number of folders beside the usual ones
	Services                             []Service // that it starts
	Failure                              Failure   // where and how it breaks
}

// A Service is installed and started by the setup.
type Service struct{ Name, Display string } // as the package names it

// A Failure is where and how the setup fails.
type Failure struct {
	Action string        // immediate or script action; empty when the setup works
	Lines  []string      // what is logged there; lines that begin with "Note: " or "Product: " get the engine's stamp
	Wait   time.Duration // silence before it breaks
}

// Write writes the log as UTF-16LE with byte order mark and CR LF, as the
// engine does.
func Write(w io.Writer, s Setup) error {
	t := transform.NewWriter(w, unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder())
	b := bufio.NewWriterSize(t, 1<<16)
	l := &log{w: b, s: s, now: s.Started, random: rand.New(rand.NewPCG(7, uint64(len(s.Product)*1000+s.Files)))}
	l.run()
	if err := b.Flush(); err != nil {
		return err
	}
	return t.Close()
}

type log struct {
	w      *bufio.Writer // where the lines go
	s      Setup         // what is told
	now    time.Time     // runs on as the setup does
	random *rand.Rand    // seeded, so that a log is the same each time
	failed bool          // it has broken
	code   int           // exit code
}

// raw writes a line without the engine's stamp.
func (l *log) raw(format string, args ...any) { fmt.Fprintf(l.w, format+"\r\n", args...) }

// side writes a line of one of the engine's two processes, up to two
// milliseconds after the one before.
func (l *log) side(side, ids, format string, args ...any) {
	l.now = l.now.Add(time.Duration(l.random.IntN(3)) * time.Millisecond)
	fmt.Fprintf(l.w, "MSI (%s) (%s) [%s:%03d]: ", side, ids, l.now.Format("15:04:05"), l.now.Nanosecond()/1e6)
	l.raw(format, args...)
}

// client writes a line of the process that the user started.
func (l *log) client(format string, args ...any) { l.side("c", "B4:5C", format, args...) }

// server writes a line of the service that does the work.
func (l *log) server(format string, args ...any) { l.side("s", "9C:E8", format, args...) }

// clock is the time as action lines have it, without fractions.
func (l *log) clock() string { return l.now.Format("15:04:05") }

// policies writes the lines that real logs begin and are sown with.
func (l *log) policies(write func(string, ...any)) {
	for _, p := range []string{"TransformsSecure", "DisablePatch", "AllowLockdownPatch", "DisableLUAPatching", "DisableFlyWeightPatching"} {
		write("Machine policy value '%s' is 0", p)
	}
}

// adding writes the line that a property leaves which was not there before.
func (l *log) adding(name, value string) {
	l.server("PROPERTY CHANGE: Adding %s property. Its value is '%s'.", name, value)
}

// action runs an immediate action; it says whether the setup goes on.
func (l *log) action(name, description string, body func()) bool {
	l.server("Doing action: %s", name)
	l.raw("Action %s: %s. %s", l.clock(), name, description)
	l.raw("Action start %s: %s.", l.clock(), name)
	if body != nil {
		body()
	}
	if l.s.Failure.Action == name && !l.failed {
		l.fail()
	}
	value := 1
	if l.failed {
		value = 3
	}
	l.raw("Action ended %s: %s. Return value %d.", l.clock(), name, value)
	return !l.failed
}

// fail writes the failure's lines.
func (l *log) fail() {
	l.failed = true
	l.now = l.now.Add(l.s.Failure.Wait)
	for _, line := range l.s.Failure.Lines {
		switch {
		case len(line) > 6 && line[:6] == "Note: ", len(line) > 9 && line[:9] == "Product: ":
			l.server("%s", line)
		default:
			l.raw("%s", line)
		}
	}
	l.raw("")
}
