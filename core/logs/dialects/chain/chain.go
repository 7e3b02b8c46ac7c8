// Package chain reads the logs of bootstrappers that install a chain of
// packages: lines with process and thread, a time, and a numbered remark,
//
//	[C0E1:B822][2026-01-19T16:41:34]e000: Error 0x80072ee7: …
//
// where i is information, w a warning and e an error.
package chain

import (
	"bytes"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A Reader reads one chain log. Make it with [New].
type Reader struct {
	b        *lines.Builder           // makes the story
	packages map[string]*story.Action // by the bootstrapper's ID of each
	whole    *story.Action            // the bootstrapper's own run
	caching  string                   // package whose payload is being fetched
}

// New makes a reader for the log called file.
func New(file string) *Reader { return &Reader{b: lines.New(file, story.Chain)} }

// CanSkip says that lines may be left out: each is a record.
func (r *Reader) CanSkip() bool { return true }

// Skipped counts lines that were left out.
func (r *Reader) Skipped(n int) { r.b.Skipped(n) }

// entry is a line taken apart.
type entry struct {
	at     time.Duration // time of day
	date   string        // year-month-day, empty when the line has none
	level  byte          // letter of the line: i, w, e
	number int           // message number
	text   []byte        // after the number
}

// parse takes a line apart: process and thread, time, severity with a number,
// and what is said. Lines without that head go on with the one before.
func parse(line []byte) (e entry, ok bool) {
	if len(line) < 20 || line[0] != '[' {
		return e, false
	}
	end := bytes.IndexByte(line, ']')
	if end < 4 || end > 20 || bytes.IndexByte(line[:end], ':') < 0 || end+2 >= len(line) || line[end+1] != '[' {
		return e, false
	}
	rest := line[end+2:]
	date, at, n := lines.Stamp(rest)
	if n == 0 || n+5 >= len(rest) || rest[n] != ']' {
		return e, false
	}
	rest = rest[n+1:]
	if rest[0] != 'i' && rest[0] != 'w' && rest[0] != 'e' {
		return e, false
	}
	colon := bytes.IndexByte(rest[:min(len(rest), 8)], ':')
	if colon < 0 {
		return e, false
	}
	number, err := strconv.Atoi(string(rest[1:colon]))
	if err != nil {
		return e, false
	}
	return entry{at: at, date: date, level: rest[0], number: number, text: bytes.TrimSpace(rest[colon+1:])}, true
}

// Score counts the lines of this dialect.
func Score(ls [][]byte) (n int) {
	for _, l := range ls {
		if _, ok := parse(l); ok {
			n++
		}
	}
	return n
}

// Numbers of remarks that shape the story.
const (
	engineStart    = 1
	exitCode       = 7
	applyBegin     = 300
	applying       = 301
	verified       = 305
	acquiringBox   = 336
	acquiring      = 338
	applied        = 319
	appliedBundle  = 320
	sessionEnd     = 372
	applyComplete  = 399
	variable       = 410
	shuttingDown   = 500
	detectedPkg    = 101
	acquireFailed  = 313
	verifyFailed   = 311
	acquireFailed2 = 314
	cacheFailed    = 317
	cacheFailed2   = 310
)

var (
	// "container: Payload2"
	container = lazy.MustCompile(`container: ([^,: ]+)`)
	// A package or payload of the chain, up to the comma of the next field.
	packageName = lazy.MustCompile(`(?:package|payload): ([^,:]+)`)
	// The number that closes a step: hexadecimal for a system's error, decimal
	// for a program's own exit.
	resultCode = lazy.MustCompile(`(?:result|error|exit code|Exit code): (0x[0-9a-fA-F]+|-?\d+)`)
	// "Setting string variable 'InstallFolder' to value 'C:\…'"
	setTo = lazy.MustCompile(`variable '([^']+)' to value '([^']*)'`)
	// "Variable: Name = value", as the log lists all of them at its end.
	listed = lazy.MustCompile(`^Variable: (\S+) = (.*)$`)
	// A package's own log has the chain's name and the package's behind "log_";
	// that is how the two are joined.
	logOf = lazy.MustCompile(`(?i)log_(.+)$`)
)

// Line takes the next line.
func (r *Reader) Line(l textfile.Line) {
	e, ok := parse(l.Text)
	if !ok {
		if len(bytes.TrimSpace(l.Text)) > 0 {
			r.b.More(l.Number, string(l.Text))
		}
		return
	}
	r.b.Ensure(l.Number)
	if e.number == engineStart && e.level == 'i' && (r.b.A.Exit != nil || r.b.A.Closed) {
		r.b.Begin(l.Number)
		r.packages, r.whole, r.caching = nil, nil, ""
	}
	text := string(e.text)
	r.b.Stamp(l.Number, e.at, e.date)
	r.shape(l.Number, e, text, string(l.Text))
	if m := setTo.FindStringSubmatch(text); m != nil && e.level == 'i' {
		r.variable(l.Number, m[1], m[2])
		return
	}
	if m := listed.FindStringSubmatch(text); m != nil {
		r.variable(l.Number, m[1], m[2])
		return
	}
	kind := story.KindData
	switch e.level {
	case 'e':
		kind = story.KindError
	case 'w':
		kind = story.KindWarning
	}
	if e.number == sessionEnd || e.number == variable {
		return
	}
	number := 0
	if e.level == 'e' { // what a package's own engine said, handed on
		if _, n, _, ok := lines.Numbered(e.text); ok && bytes.Contains(e.text, []byte(". ")) {
			number = n
		}
	}
	r.b.Add(lines.Entry{Line: l.Number, At: e.at, Date: e.date, Kind: kind, Number: number, Text: text, Raw: string(l.Text)})
}

// variable notes a bundle variable; the bundle's name and the logs of its
// packages are among them.
func (r *Reader) variable(line int, name, value string) {
	a := r.b.A
	switch {
	case strings.HasSuffix(name, "BundleName"):
		a.Product.Name = value
	case strings.HasSuffix(name, "BundleVersion"):
		a.Product.Version = value
	case strings.HasSuffix(name, "BundleProviderKey") && strings.HasPrefix(value, "{"):
		a.Product.Code = value
	case strings.HasSuffix(name, "BundleManufacturer"):
		a.Product.Manufacturer = value
	case strings.HasSuffix(name, "OriginalSource"):
		a.Package = value
	case name == "Privileged" || strings.HasSuffix(name, "BundleElevated"):
		if value == "1" {
			a.Elevated = new(true)
		}
	}
	if m := logOf.FindStringSubmatch(name); m != nil && value != "" {
		r.b.Property(line, "log of "+m[1], value)
		return
	}
	r.b.Property(line, name, value)
}

// shape lets the numbered remarks begin and end the actions.
func (r *Reader) shape(line int, e entry, text, raw string) {
	switch e.number {
	case applyBegin:
		r.whole = r.b.Start(line, "Apply", nil)
	case acquiring:
		if m := packageName.FindStringSubmatch(text); m != nil {
			r.begin(line, m[1])
		}
	case acquiringBox:
		if m := container.FindStringSubmatch(text); m != nil {
			r.begin(line, acquire+m[1])
		}
	case verified:
		if m := packageName.FindStringSubmatch(text); m != nil { // it came at a later try
			if a := r.packages[atPath(m[1])]; a != nil {
				a.Failed, a.EndText, a.Code = false, "", nil
			}
		}
	case acquireFailed, acquireFailed2, verifyFailed, cacheFailed, cacheFailed2:
		if m := container.FindStringSubmatch(text); m != nil && e.level == 'e' {
			r.fail(r.begin(line, acquire+m[1]), line, text, raw)
		} else if m := packageName.FindStringSubmatch(text); m != nil && e.level == 'e' {
			a := r.begin(line, strings.TrimSuffix(strings.Fields(m[1])[0], " to"))
			r.fail(a, line, text, raw)
		}
	case applying:
		if m := packageName.FindStringSubmatch(text); m != nil {
			r.begin(line, m[1])
		}
	case applied, appliedBundle:
		if m := packageName.FindStringSubmatch(text); m != nil && e.number == applied {
			a := r.begin(line, m[1])
			code, known := result(text)
			if known && !exitcode.Good(code) {
				r.fail(a, line, text, raw)
			} else {
				r.b.End(a, line, false, nil, "")
			}
			r.b.Within(r.whole)
		}
	case applyComplete:
		if code, ok := result(text); ok {
			if r.whole == nil && len(r.packages) == 0 { // nothing came of it
				r.whole = r.b.Start(line, "Apply", nil)
			}
			if r.whole != nil {
				r.b.End(r.whole, line, !exitcode.Good(code), &code, raw)
			}
			if code != 0 && r.b.A.Exit == nil {
				r.b.Exit(line, code, raw)
			}
		}
	case shuttingDown, exitCode:
		if code, ok := result(text); ok {
			r.b.Exit(line, code, raw)
			r.b.A.Closed = true
		}
	}
}

// acquire is put before a container's name: it is no package, only what
// packages are fetched in.
const acquire = "Acquire "

// atPath is a payload's name without where it lies.
func atPath(name string) string {
	name, _, _ = strings.Cut(name, " at path")
	return strings.TrimSpace(name)
}

// begin opens the action of a package, or goes back to it.
func (r *Reader) begin(line int, name string) *story.Action {
	if r.packages == nil {
		r.packages = map[string]*story.Action{}
	}
	name = strings.TrimSpace(name)
	if at := strings.Index(name, " to working path"); at > 0 {
		name = name[:at]
	}
	a := r.packages[name]
	if a == nil {
		a = r.b.Start(line, name, r.whole)
		r.packages[name] = a
	}
	r.b.Within(a)
	return a
}

// fail ends an action as failed, with the code that the line tells. What
// follows belongs to the action that was open around it.
func (r *Reader) fail(a *story.Action, line int, text, raw string) {
	var code *int
	if c, ok := result(text); ok {
		code = &c
	}
	within := r.b.Action()
	r.b.End(a, line, true, code, raw)
	r.b.Within(within)
	if r.whole != nil {
		r.whole.Failed = true
	}
}

// result reads the number of a remark; an HRESULT that wraps a system error is
// taken as that.
func result(text string) (int, bool) {
	m := resultCode.FindStringSubmatch(text)
	if m == nil {
		return 0, false
	}
	return exitcode.Parse(m[1])
}

// Finish gives the attempts.
func (r *Reader) Finish() []*story.Attempt {
	all := r.b.Finish()
	for _, a := range all {
		if a.Exit != nil && a.Exit.Code == 0 {
			for _, x := range a.Actions { // a package that may fail
				x.Failed = false
			}
		}
	}
	return all
}
