// This file writes the engine's log of a rehearsal, which the same reader
// reads.

package rehearse

import (
	"bufio"
	"fmt"
	"io"
	"strings"
	"time"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// logger writes the engine's verbose log: UTF-16LE with byte order mark and CR
// LF, with a clock that goes on by a millisecond a line.
type logger struct {
	w   *bufio.Writer // where the lines go
	end io.Closer     // closed at the end
	now time.Time     // runs on as the setup does; starts at the request's time
}

// newLogger writes as the engine does: UTF-16 with a mark, so that whatever
// reads the engine's logs reads this one.
func newLogger(w io.Writer, started time.Time) *logger {
	t := transform.NewWriter(w, unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder())
	return &logger{w: bufio.NewWriter(t), end: t, now: started}
}

// flush ends the encoding as well; without it the last letters are lost.
func (l *logger) flush() error {
	if err := l.w.Flush(); err != nil {
		return err
	}
	return l.end.Close()
}

// raw writes a line without a stamp.
func (l *logger) raw(format string, args ...any) {
	text := strings.NewReplacer("\r", " ", "\n", " ").Replace(fmt.Sprintf(format, args...))
	l.w.WriteString(text + "\r\n")
}

// side writes a line of one of the engine's two processes. Its clock moves by a
// millisecond for each line: a rehearsal has no time of its own, and readers of
// logs follow the order by it.
func (l *logger) side(who, format string, args ...any) {
	l.now = l.now.Add(time.Millisecond)
	l.raw("MSI (%s) [%s:%03d]: %s", who, l.now.Format("15:04:05"), l.now.Nanosecond()/1e6, fmt.Sprintf(format, args...))
}

// server writes a line of the service's side of the engine.
func (l *logger) server(format string, args ...any) { l.side("s) (9C:E8", format, args...) }

// client writes a line of the calling side of the engine.
func (l *logger) client(format string, args ...any) { l.side("c) (B4:5C", format, args...) }

// clock is the time of day as it stands in lines.
func (l *logger) clock() string { return l.now.Format("15:04:05") }

// op writes an operation of the execution script.
func (l *logger) op(format string, args ...any) { l.server("Executing op: "+format, args...) }

// date is day and time as they stand in the first and the last line.
func (l *logger) date() string { return l.now.Format("1/2/2006  15:04:05") }

// begin writes what the client's process writes before the service takes over.
// A setup within a setup has no client of its own.
func (l *logger) begin(s *session) {
	if s.depth > 0 {
		return
	}
	l.raw("=== Verbose logging started: %s  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\\Windows\\System32\\msiexec.exe ===",
		l.date())
	l.client("******* RunEngine:")
	l.about(s)
	l.client("Client-side and UI is none or basic: Running entire install on the server.")
	l.client("Grabbed execution mutex.")
}

// about hides the command line, as the engine does where it may hold secrets.
func (l *logger) about(s *session) {
	l.raw("           ******* Product: %s", s.req.Package)
	l.raw("           ******* Action: ")
	l.raw("           ******* CommandLine: **********")
}

// head writes what readers look for at the start of an installation: package,
// product code, whether it is a first one.
func (l *logger) head(s *session) {
	l.begin(s)
	l.server("Running installation inside multi-package transaction %s", s.req.Package)
	l.server("******* RunEngine:")
	l.about(s)
	l.server("Original package ==> %s", s.props["OriginalDatabase"])
	l.server("Product Code from property table after transforms:  '%s'", s.props["ProductCode"])
	if s.props["Installed"] == "" {
		l.server("Product not registered: beginning first-time install")
	}
	for _, t := range s.req.Transforms {
		l.server("TRANSFORM: applying '%s'", t)
	}
	l.raw("=== Logging started: %s ===", l.date())
	l.server("Doing action: INSTALL")
	l.raw("Action %s: INSTALL. ", l.clock())
	l.raw("Action start %s: INSTALL.", l.clock())
	l.server("Running ExecuteSequence")
}

// tail writes how it ended in all the places where the engine writes it, for
// each of them is what some reader goes by.
func (l *logger) tail(s *session) {
	value, word, note := 1, "completed successfully", 1707
	if s.res.Exit != 0 && s.res.Exit != exitRestart {
		value, word, note = 3, "failed", 1708
	}
	kind := map[Mode]string{Install: "Installation", Repair: "Configuration", Uninstall: "Removal"}[s.req.Mode]
	l.raw("Action ended %s: INSTALL. Return value %d.", l.clock(), value)
	for _, p := range s.sortedProps() {
		l.raw("Property(S): %s = %s", p, s.shown(p))
	}
	l.server("Note: 1: %d ", note)
	l.server("Product: %s -- %s %s.", s.res.Product, kind, word)
	l.raw("")
	verb := map[Mode]string{Install: "installed", Repair: "reconfigured", Uninstall: "removed"}[s.req.Mode]
	l.server("Windows Installer %s the product. Product Name: %s. Product Version: %s. Product Language: %s. Manufacturer: %s. %s success "+
		"or error status: %d.",
		verb, s.res.Product, s.res.Version, s.props["ProductLanguage"], s.props["Manufacturer"], kind, s.res.Exit)
	l.raw("")
	l.close(s)
}

// close writes the end of the log. A setup within another ends only its own
// part.
func (l *logger) close(s *session) {
	l.server("MainEngineThread is returning %d", s.res.Exit)
	l.raw("=== Logging stopped: %s ===", l.date())
	if s.depth == 0 {
		l.client("MainEngineThread is returning %d", s.res.Exit)
		l.raw("=== Verbose logging stopped: %s ===", l.date())
	}
}

// refused writes the log of a setup that the engine would not begin.
func (s *session) refused(no *stop) {
	s.log.begin(s)
	s.log.server("******* RunEngine:")
	s.log.about(s)
	if no.message != 0 {
		s.log.server("Note: 1: %d ", no.message)
	}
	s.log.raw("%s", no.text)
	s.log.close(s)
}

// complain writes an engine message as the log shows it.
func (s *session) complain(no *stop) {
	if no.message == 0 {
		s.log.server("%s", no.text)
		return
	}
	s.log.server("Note: 1: %d %s", no.message, no.detail)
	text := fmt.Sprintf("Error %d. %s", no.message, no.text)
	if no.message >= 2000 {
		s.log.raw("DEBUG: Error %d:  %s", no.message, no.text)
		text = fmt.Sprintf("The installer has encountered an unexpected error installing this package. This may indicate a problem with this "+
			"package. The error code is %d. The arguments are: %s", no.message, strings.TrimSpace(no.detail))
	}
	s.log.raw("%s", text)
	s.log.server("Product: %s -- %s", s.res.Product, text)
	s.log.raw("")
}
