// Package servicing reads the logs of the OS's own servicing: of the component
// store (lines such as "2026-01-19 10:00:00, Error   CBS   text") and of image
// servicing, which has the same shape.
package servicing

import (
	"bytes"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A Reader reads one log. Make it with [New].
type Reader struct {
	b       *lines.Builder          // makes the story
	session *story.Action           // the session under way, nil between them
	ended   int                     // the last line that ends a program's work, 0 when there is none
	last    int                     // the last line that is a record
	told    *story.Attempt          // of which a line names the update by its number
	firm    map[*story.Attempt]bool // of which a line says that the whole failed
}

// New makes a reader for the log called file.
func New(file string) *Reader {
	return &Reader{b: lines.New(file, story.Servicing), firm: map[*story.Attempt]bool{}}
}

// CanSkip says that lines may be left out: each is a record.
func (r *Reader) CanSkip() bool { return true }

// Skipped counts lines that were left out.
func (r *Reader) Skipped(n int) { r.b.Skipped(n) }

type entry struct {
	date  string        // year-month-day
	at    time.Duration // time of day
	level string        // as the line says it
	part  string        // CBS, CSI, DISM …
	text  string        // after source and level
}

var levels = map[string]story.Kind{"Info": story.KindData, "Error": story.KindError, "Warning": story.KindWarning, "Perf": story.KindData,
	"Fatal": story.KindError}

// parse takes a line apart: date and time, severity, part, and what is said.
func parse(line []byte) (e entry, ok bool) {
	date, at, n := lines.Stamp(line)
	if n == 0 || date == "" || n+3 > len(line) || line[n] != ',' {
		return e, false
	}
	fields := strings.Fields(string(line[n+1 : min(len(line), n+80)]))
	if len(fields) < 2 {
		return e, false
	}
	if _, known := levels[fields[0]]; !known {
		return e, false
	}
	e = entry{date: date, at: at, level: fields[0], part: fields[1]}
	rest := string(line[n+1:])
	if i := strings.Index(rest, fields[0]); i >= 0 {
		rest = strings.TrimLeft(rest[i+len(fields[0]):], " \t")
	}
	if p, t, ok := strings.Cut(rest, " "); ok && p == fields[1] {
		rest = t
	}
	e.text = strings.TrimSpace(rest)
	return e, e.text != ""
}

// Score counts the lines of this dialect.
func Score(ls [][]byte) (n int) {
	for _, l := range ls {
		if _, ok := parse(l); ok {
			n++
		}
	}
	if n*leastShare < len(ls) {
		return 0
	}
	return 3 * n
}

// leastShare is the share of lines, one in so many, that must be of this
// dialect: a console shows a few of them when somebody searches such a log.
const leastShare = 4

var (
	// A number of eight hexadecimal figures behind a word that makes it a
	// result: an identifier or address has none.
	hresult = lazy.MustCompile(`(?i)(?:HRESULT|hr|result|error|code|status)\s*[:=]?\s*\(?(?:=\s*)?(0x[0-9a-f]{8})`)
	// A package's identity:
	// "Package_for_KB5001…~31bf3856ad364e35~amd64~~10.0.1.2", or its number
	// alone.
	packageID = lazy.MustCompile(`(?i)(?:package|update|feature|capability)(?: name)?[: ]+['"]?([\w.~-]*(?:Package|KB\d|~~|[\w-]+~)[\w.~-]*)`)
	// How a command-line run ends, if the log has one.
	exitLine = lazy.MustCompile(`(?i)(?:exit code|return code|exiting with|exit status)[^0-9x-]*(-?0x[0-9a-f]+|-?\d+)`)
	// Each begins an attempt of its own.
	session = lazy.MustCompile(`(?i)session: (\d+_\d+)|Session (?:initialized|begin)|Initializing Trusted Installer`)
	// What was typed, without the quotes around it.
	command = lazy.MustCompile(`(?i)(?:Executing command line|command line): "?(.+?)"?$`)
)

// harmless are parts of lines that stand in logs of good runs.
var harmless = pieces.New([]string{
	"cannot perform the operation because", "scavenge", "DWLD:", "not applicable", "CBS_E_NOT_APPLICABLE", "0x800f080d",
	"Failed to get session package state",
	"sqm", "SQM", "Warning: Unrecognized packageExtended", "Unrecognized attribute",
	"Failed to internally open package. [HRESULT = 0x800f0805 - CBS_E_INVALID_PACKAGE]",
	"STATUS_OBJECT_NAME_NOT_FOUND", "Failed to OpenPackage using worker session", "Expecting attribute name",
})

// Line takes the next line.
func (r *Reader) Line(l textfile.Line) {
	e, ok := parse(l.Text)
	if !ok {
		if len(bytes.TrimSpace(l.Text)) > 0 {
			r.b.Ensure(l.Number)
			r.b.More(l.Number, strings.TrimSpace(string(l.Text)))
		}
		return
	}
	r.b.Ensure(l.Number)
	if r.last = l.Number; endsWork(e.text) {
		r.ended = l.Number
	}
	raw := string(l.Text)
	r.b.Stamp(l.Number, e.at, e.date)
	kind := levels[e.level]
	low := pieces.Lower(e.text)
	if kind == story.KindData && (strings.Contains(low, "failed") || strings.Contains(low, "corrupt") ||
		strings.Contains(low, "mark store corruption") || strings.Contains(low, "hr:0x8")) {
		kind = story.KindWarning
	}
	if kind == story.KindData && !worth.Any(low) {
		return
	}
	if kind != story.KindError && harmless.Any(e.text) {
		kind = story.KindInfo
	}
	r.shape(l.Number, e, low)
	m := r.b.Add(lines.Entry{Line: l.Number, At: e.at, Date: e.date, Kind: kind, Source: e.part, Text: e.text, Raw: raw})
	r.outcome(l.Number, e, low, m)
}

// worth are parts of lines that are kept though their level is none.
var worth = pieces.New([]string{"exec:", "session", "restart", "reboot", "succe", "complete", "result", "repair", "command", "package",
	"exit code", "end ", "architecture", "option", "policy", "block", "free ", "summary", "(p)", "(f)", "cannot", "missing"})

// servicedKB is the number of the update that is being put in.
var servicedKB = lazy.MustCompile(`\b(?:KB|Identifier): (KB\d{6,8})\b`)

// find matches an expression where the text, low in small letters, holds one of
// the pieces that every match has: few lines do, and looking for a piece is
// quick.
func find(x *lazy.Regexp, low, text string, pieces ...string) []string {
	for _, p := range pieces {
		if strings.Contains(low, p) {
			return x.FindStringSubmatch(text)
		}
	}
	return nil
}

// shape begins sessions and names what is serviced.
func (r *Reader) shape(line int, e entry, low string) {
	if m := find(command, low, e.text, "command line"); m != nil {
		r.b.A.Command = m[1]
	}
	if m := find(servicedKB, low, e.text, "kb:", "identifier:"); m != nil && strings.HasPrefix(e.text, "Exec: Processing") {
		r.b.A.Product.Name, r.told = m[1], r.b.A
	}
	if r.told != r.b.A && (strings.HasPrefix(e.text, "Exec:") || r.b.A.Product.Name == "" || strings.Contains(low, "failed")) {
		if m := find(packageID, low, e.text, "~", "package", "kb"); m != nil {
			r.b.A.Product.Name = strings.Trim(m[1], "'\",.")
		}
	}
	if find(session, low, e.text, "session", "trusted installer") != nil && (r.session == nil || strings.Contains(e.text, "initialized")) {
		if r.session != nil && r.session.EndLine == 0 {
			r.b.End(r.session, line, false, nil, "")
		}
		r.session = r.b.Start(line, "Session", nil)
	}
}

// outcome takes what the last lines of an operation say.
func (r *Reader) outcome(line int, e entry, low string, m *story.Message) {
	a := r.b.A
	if x := find(exitLine, low, e.text, "exit", "return code"); x != nil && !strings.Contains(low, "child process") {
		if n, err := strconv.ParseInt(x[1], 0, 64); err == nil {
			r.b.Exit(line, signed(n), m.Raw)
			a.Success = new(exitcode.Good(signed(n)))
		}
	}
	if strings.Contains(low, "reboot required") && !strings.Contains(low, "required=no") &&
		!strings.Contains(low, "required: no") || strings.Contains(low, "restart is required") ||
		strings.Contains(low, "reboot is required") {
		if !strings.Contains(low, "required: no") && !strings.Contains(low, "required: 0") && !strings.Contains(low, "not required") {
			a.Restart = true
		}
	}
	hr := find(hresult, low, e.text, "0x")
	overall := strings.HasPrefix(e.text, "Exec: Processing complete") ||
		strings.Contains(low, "session: ") && strings.Contains(low, "final") ||
		strings.Contains(low, "failed to process") || strings.Contains(low, "failed to perform operation") ||
		strings.Contains(low, "operation failed") || strings.Contains(low, "failed while processing command") ||
		strings.Contains(low, "failed execution") || strings.Contains(low, "startup processing") ||
		strings.Contains(low, "session processing") && hr != nil
	switch {
	case hr != nil && isFailure(hr[1]) && (overall || m.Kind == story.KindError):
		a.Success = new(false)
		if overall {
			m.Verdict, r.firm[a] = true, true
		}
		if r.session != nil {
			r.b.End(r.session, line, true, nil, m.Raw)
		}
		if n, err := strconv.ParseInt(hr[1], 0, 64); err == nil && overall {
			r.b.Exit(line, signed(n), m.Raw)
		}
	case strings.Contains(low, "the operation completed successfully") || hr != nil && overall && !isFailure(hr[1]),
		strings.HasPrefix(low, "repair complete") && strings.Contains(low, "successfully"):
		a.Success = new(true)
		if a.Exit != nil && a.Exit.Code != 0 {
			a.Exit = nil
		}
		if n := int64(-1); hr != nil && overall {
			if n, _ = strconv.ParseInt(hr[1], 0, 64); n == 0 { // other good ones are no exit code that anybody knows
				r.b.Exit(line, 0, m.Raw)
			}
		}
	}
}

// isFailure says whether a result is a failure: the top bit is set, in the OS's
// own numbers and in those of its kernel.
func isFailure(hex string) bool {
	return strings.HasPrefix(strings.ToLower(hex), "0x8") || strings.HasPrefix(strings.ToLower(hex), "0xc") ||
		strings.HasPrefix(strings.ToLower(hex), "0xd")
}

// signed gives an HRESULT as the number that a program ends with.
func signed(n int64) int { return int(int32(uint32(n))) }

// endLines is how many lines from the end of a log the one stands that ends the
// program's work; the OS's own services say a little more behind it.
const endLines = 40

// endsWork says whether a line tells that the program is done.
func endsWork(text string) bool {
	for _, w := range []string{"Ending", "<-----", "core released", "Finalizing", "shutdown", "Shutting down",
		"Unloading", "Session: ", "successfully", "Repair complete"} {
		if strings.Contains(text, w) {
			return true
		}
	}
	return false
}

// often is from how many times on an error of one shape is noise in a log that
// goes on: the store is asked for thousands of things that it need not have.
const often = 5

// lastError is the line of the last error, 0 for none; in a log without an end
// those that come again and again do not count.
func lastError(a *story.Attempt, ended bool) (line int) {
	for _, m := range a.Messages {
		if m.Kind == story.KindError && (ended || m.Repeated < often) {
			line = max(line, m.Line)
		}
	}
	return line
}

// Finish gives the attempts.
func (r *Reader) Finish() []*story.Attempt {
	all := r.b.Finish()
	for _, a := range all {
		if a.Success != nil && !*a.Success && a.Exit == nil && !r.firm[a] {
			a.Success = nil // one of its lines is an error, but none says that the whole failed
		}
		if a.Success != nil {
			continue
		}
		last := min(a.LastLine, r.last) // what follows may be another program's
		ends := r.ended > last-endLines // else it was cut, or goes on
		if lastError(a, ends) > last-endLines || ends && lastError(a, ends) > 0 {
			a.Success = new(false)
		} else if len(a.Messages) > 0 && ends {
			a.Success = new(true)
		}
	}
	return all
}
