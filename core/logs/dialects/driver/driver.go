// Package driver reads the OS's log of device and driver setup: sections
// between ">>>" and "<<<", lines that begin with "!!!" for errors and "!" for
// warnings, and an exit status at the end of each section.
package driver

import (
	"bytes"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A Reader reads one log. Make it with [New].
type Reader struct {
	b       *lines.Builder // makes the story
	section *story.Action  // the section under way, nil between them
	failed  bool           // a section of the attempt failed
	broke   *story.Action  // the one whose failure counts so far
}

// New makes a reader for the log called file.
func New(file string) *Reader { return &Reader{b: lines.New(file, story.Driver)} }

// CanSkip says that lines may be left out: each is a record.
func (r *Reader) CanSkip() bool { return true }

// Skipped counts lines that were left out.
func (r *Reader) Skipped(n int) { r.b.Skipped(n) }

// Score counts the lines of this dialect.
func Score(ls [][]byte) (n int) {
	sections := 0
	for _, l := range ls {
		if edge(bytes.TrimSpace(l)) {
			sections++
		}
	}
	if sections < 2 {
		return 0
	}
	for _, l := range ls {
		t := bytes.TrimSpace(l)
		switch {
		case edge(t):
			n++
		case bytes.HasPrefix(t, []byte("!!!")), bytes.HasPrefix(t, []byte("!    ")), part.Match(t):
			n++
		}
	}
	return 3 * n
}

// edge says whether a line begins or ends a section.
func edge(t []byte) bool {
	return bytes.HasPrefix(t, []byte(">>>  ")) || bytes.HasPrefix(t, []byte("<<<  "))
}

var (
	// " dvi: {Install} 10:12:04": the three letters of the part that speaks;
	// "!!!" before it is an error, "!" a warning.
	part = lazy.MustCompile(`^(?:!!!|!)?\s*(dvi|sto|inf|ndv|cpy|flq|sig|ump|pol|idb|bak|utl|cmd|set|ple|tdp|nci|dvs|cci):\s+(.*)$`)
	// ">>> [Device Install (Hardware initiated) - USB\VID…]": what the section
	// is about.
	begins = lazy.MustCompile(`^>>>\s+\[(.+)\]`)
	// ">>>  Section start 2026/03/02 10:12:04.113"
	started = lazy.MustCompile(`^>>>\s+Section start (\S+) (\S+)`)
	// "<<< [Exit status: FAILURE(0xe0000219)]": the one line that decides a
	// section.
	exit = lazy.MustCompile(`^<<<\s+\[Exit status: (\w+)(?:\((0x[0-9a-fA-F]+)\))?\]`)
	// The driver's file, as the section and its parts name it.
	infName = lazy.MustCompile(`(?i)([\w.-]+\.inf)\b`)
)

// Line takes the next line.
func (r *Reader) Line(l textfile.Line) {
	t := string(bytes.TrimSpace(l.Text))
	if t == "" {
		return
	}
	r.b.Ensure(l.Number)
	raw := string(l.Text)
	switch {
	case begins.MatchString(t):
		name := begins.FindStringSubmatch(t)[1]
		r.section = r.b.Start(l.Number, name, nil)
		if !r.failed {
			r.about(name)
		}
		return
	case started.MatchString(t):
		m := started.FindStringSubmatch(t)
		if date, at, n := lines.Stamp([]byte(m[1] + " " + m[2])); n > 0 {
			r.b.Stamp(l.Number, at, date)
		}
		return
	case exit.MatchString(t):
		r.exit(l.Number, exit.FindStringSubmatch(t), raw)
		return
	case strings.HasPrefix(t, "<<<"), strings.HasPrefix(t, ">>>"):
		return
	}
	kind := story.KindData
	switch {
	case strings.HasPrefix(t, "!!!"):
		kind = story.KindError
	case strings.HasPrefix(t, "!"):
		kind = story.KindWarning
	}
	text, source := strings.TrimSpace(strings.TrimLeft(t, "!")), ""
	if m := part.FindStringSubmatch(t); m != nil {
		source, text = m[1], strings.Trim(m[2], "{} ")
	}
	r.b.Add(lines.Entry{Line: l.Number, At: -1, Kind: kind, Source: source, Text: text, Raw: raw})
}

// exit ends a section; the last one that failed gives the attempt's number.
func (r *Reader) exit(line int, m []string, raw string) {
	failed := !strings.EqualFold(m[1], "SUCCESS")
	var code *int
	if m[2] != "" {
		if u, err := strconv.ParseUint(m[2][2:], 16, 32); err == nil {
			code = new(int(int32(uint32(u))))
		}
	}
	a := r.section
	r.b.End(a, line, failed, code, raw)
	r.section = nil
	switch {
	case failed && r.follows(a):
		a.Failed, a.Ignored = false, true
	case failed:
		r.failed, r.broke = true, a
		if a != nil {
			r.about(a.Name)
		}
		r.b.A.Success = new(false)
		if code != nil {
			r.b.Exit(line, *code, raw)
		}
	default:
		if r.failed && a != nil && sameDevice(r.b.A, a) {
			r.failed = false // tried again, and it worked
		}
		if !r.failed {
			r.b.A.Success, r.b.A.Exit = new(true), nil
		}
	}
	r.b.A.Closed = true
}

// about takes the driver package that a section is about, with its folder where
// the section names it: DiInstallDriver - C:\Deploy\card.inf.
func (r *Reader) about(section string) {
	if m := infName.FindStringSubmatch(section); m != nil {
		r.b.A.Package = m[1]
		if _, path, ok := strings.Cut(section, " - "); ok && strings.HasSuffix(path, m[1]) {
			r.b.A.Package = path
		}
	}
}

// burst is how long after a section that failed another one is of the same
// call: a setup that was refused its driver goes on to clear up.
const burst = 30 * time.Second

// clearing are sections that take something away, which need not be there.
var clearing = lazy.MustCompile(`(?i)^\w*(?:uninstall|delete|remove)`)

// follows says whether a section that failed comes out of one before it; of two
// in a burst the first counts, unless it only cleared up.
func (r *Reader) follows(a *story.Action) bool {
	first := r.broke
	if a == nil || first == nil || !first.Failed || a.Name == first.Name || a.Start-first.End > burst || a.Start < first.Start {
		return false
	}
	if clearing.MatchString(first.Name) && !clearing.MatchString(a.Name) {
		first.Failed, first.Ignored = false, true
		return false
	}
	return true
}

// sameDevice says whether a section that failed was of the same kind and
// device.
func sameDevice(at *story.Attempt, a *story.Action) bool {
	for _, x := range at.Actions {
		if x != a && x.Failed && x.Name == a.Name {
			x.Failed, x.Ignored = false, true
			return true
		}
	}
	return false
}

// Finish gives the attempts. A section that the text does not end is still under
// way, however those before it went.
func (r *Reader) Finish() []*story.Attempt {
	if r.section != nil && r.b.A != nil && !r.failed {
		r.b.A.Success, r.b.A.Closed = nil, false
	}
	return r.b.Finish()
}
