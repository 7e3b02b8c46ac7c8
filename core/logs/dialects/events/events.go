// Package events reads entries of the OS's event log that were exported as XML,
// CSV or text, above all those that the installer engine writes there.
package events

import (
	"bytes"
	"encoding/csv"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// An event is one entry of the event log.
type event struct {
	line            int    // where it begins
	source, message string // who wrote it, and what
	level           string // as the export says it
	id              int    // event number
	time            string // as the export says it
}

// A Reader reads one export. Make it with [New].
type Reader struct {
	b       *lines.Builder  // makes the story
	form    form            // which kind of export it is; told by its first lines
	buffer  strings.Builder // an event that goes over several lines
	from    int             // line where the buffer begins
	inside  bool            // of an XML event
	sep     rune            // between the cells of a CSV export
	header  []string        // names of the columns of a CSV export
	events  []event         // in the order of the file
	dropped bool            // there were more than are kept
}

// form is one of the shapes in which event logs are exported. None has a head
// that a program must write, so the first lines decide.
type form uint8

const (
	unknown form = iota
	formXML
	formCSV
	formText
)

// maxEvents of an export are kept. A machine's log of applications holds some
// 30,000 entries of months; those of one setup are a few dozen.
const maxEvents = 20000

// New makes a reader for the export called file.
func New(file string) *Reader { return &Reader{b: lines.New(file, story.Events)} }

// detect tells an export's form by one of its lines. XML is asked for first,
// since its attributes hold commas and its values lines that look like the
// other two.
func detect(l []byte) form {
	t := bytes.TrimSpace(l[:min(len(l), mostHead)])
	switch {
	case eventStart(t) >= 0 || bytes.HasPrefix(t, []byte("<Events")):
		return formXML
	case bytes.Count(t, []byte(",")) >= 3 && !bytes.Contains(t, []byte(": ")) && heads(t):
		return formCSV
	case len(t) > 0 && bytes.IndexByte([]byte("lptLPT"), t[0]) >= 0 && textHead.Match(t):
		return formText
	case row(t):
		return formCSV
	}
	return unknown
}

// heads says whether a line holds, as the head of a column of cells with commas
// between, a name for an event's number.
func heads(line []byte) bool {
	if bytes.HasPrefix(line, []byte("{")) { // an object, one of whose values ends so: "the package is valid"
		return false
	}
	if first, _, _ := bytes.Cut(line, []byte(",")); wrapped(first) {
		return false
	}
	for more := true; more; {
		var cell []byte
		cell, line, more = bytes.Cut(line, []byte(","))
		name := bytes.TrimSuffix(cell, []byte(`"`))
		if n := len(name); more && n >= 2 && bytes.EqualFold(name[n-2:], []byte("id")) {
			return true
		}
		name = bytes.TrimPrefix(name, []byte(`"`))
		if slices.ContainsFunc(numberHeads, func(h string) bool { return len(h) == len(name) && bytes.EqualFold([]byte(h), name) }) {
			return true
		}
	}
	return false
}

// numberHeads are names for an event's number that tools which export events
// write.
var numberHeads = []string{"Event ID", "EventID", "Id", "EreignisID", "ID de l'événement", "ID de l’événement"}

// mostHead is how many bytes of a line tell its form: times, sources and
// numbers stand at its begin.
const mostHead = 4 << 10

// provider is what writes into the event log, where it begins a cell.
var provider = lazy.MustCompile(`^"?(?:MsiInstaller|Service Control Manager|Microsoft-Windows-[\w. -]+|Windows Error Reporting|Application (?:Error|Hang)|` +
	`\.NET Runtime|SideBySide|Application Popup|VSS|ESENT|RestartManager|Windows Defender)"?$`)

// row says whether a line is a row of a table of events: a provider, an event's
// number and a time in cells of their own.
func row(line []byte) bool {
	for _, sep := range []string{",", ";", "\t"} {
		if bytes.Count(line, []byte(sep)) < leastCells-1 {
			continue
		}
		cells := bytes.Split(line, []byte(sep))
		if wrapped(cells[0]) {
			continue
		}
		if !slices.ContainsFunc(cells, func(c []byte) bool { return provider.Match(bytes.TrimSpace(c)) }) {
			continue
		}
		numbered := slices.ContainsFunc(cells, func(c []byte) bool { return isID(strings.Trim(string(bytes.TrimSpace(c)), `"`)) })
		timed := slices.ContainsFunc(cells, func(c []byte) bool {
			_, _, n := lines.Stamp(bytes.Trim(bytes.TrimSpace(c), `"`))
			return n > 0
		})
		if numbered && timed {
			return true
		}
	}
	return false
}

// wrapped says whether the first cell of a row is not the export's alone: another
// program wrote its stamp in front of it.
func wrapped(cell []byte) bool {
	cell = bytes.Trim(bytes.TrimSpace(cell), `"`)
	_, _, n := lines.Stamp(cell)
	return n > 0 && n < len(cell) || bytes.IndexByte(cell, ']') >= 0 ||
		slices.ContainsFunc(joints, func(j []byte) bool { return bytes.Contains(cell, j) })
}

// joints part what another program wrote from what it wrote down.
var joints = [][]byte{[]byte(": "), []byte(" | "), []byte(" - "), []byte("> ")}

const (
	leastCells = 4     // columns that make a table an export: time, level, source, number
	largestID  = 65535 // of an event: 16 bits ([MS-EVEN6] 2.2.4)
)

// isID says whether a text is an event's number.
func isID(v string) bool {
	n, err := strconv.Atoi(v)
	return err == nil && n > 0 && n <= largestID
}

var textHead = lazy.MustCompile(`(?i)^(?:Log Name|Protokollname|TimeCreated)\s*:\s*\S`)

// Score is high for an export of the event log.
func Score(ls [][]byte) (n int) {
	for i, l := range ls[:min(len(ls), 20)] {
		switch detect(l) {
		case unknown:
		case formXML:
			if windows(ls[i:]) {
				return 20 * len(ls)
			}
		default:
			return 20 * len(ls)
		}
	}
	return 0
}

// windows says whether elements named Event are those of the OS's event log,
// which have a part named System; other programs call theirs so too.
func windows(ls [][]byte) bool {
	for _, l := range ls {
		if bytes.Contains(l, []byte("<System>")) || bytes.Contains(l, []byte("<EventID")) || bytes.Contains(l, []byte("win/2004/08/events")) {
			return true
		}
	}
	return false
}

// Line takes the next line.
func (r *Reader) Line(l textfile.Line) {
	if r.form == unknown {
		if r.form = detect(l.Text); r.form == unknown {
			return
		}
		if r.form == formCSV {
			r.sep = separator(l.Text)
			if !row(l.Text) {
				r.header = r.cells(string(l.Text))
				return
			}
		}
	}
	switch r.form {
	case formXML:
		r.xml(l)
	case formCSV:
		r.csv(l)
	case formText:
		r.text(l)
	}
}

// collect adds a line to the event that is being read.
func (r *Reader) collect(l textfile.Line) string {
	if r.buffer.Len() == 0 {
		r.from = l.Number
	}
	if r.buffer.Len()+len(l.Text) < maxEvent {
		r.buffer.Write(l.Text)
		r.buffer.WriteByte('\n')
	}
	return r.buffer.String()
}

// add keeps an event. What is past the limit is dropped and said: an export of
// a whole year is no reason to fill the memory.
func (r *Reader) add(e event) {
	if len(r.events) < maxEvents {
		r.events = append(r.events, e)
	} else {
		r.dropped = true
	}
}

// csv takes a line of a table. A quoted field may go on in the next line, as
// messages of several lines do; one that never ends is cut at the limit of an
// event. Columns that no name tells are guessed by what they hold.
func (r *Reader) csv(l textfile.Line) {
	text := r.collect(l)
	if strings.Count(text, `"`)%2 == 1 && len(text) < maxEvent {
		return // a field goes on in the next line
	}
	r.buffer.Reset()
	cells := r.cells(text)
	if len(cells) < leastCells {
		return
	}
	e := event{line: r.from}
	var rest []string // cells whose column has no name that is known
	for i, v := range cells {
		name := ""
		if i < len(r.header) {
			name = strings.ToLower(strings.Trim(r.header[i], "\ufeff \""))
		}
		if v = strings.TrimSpace(v); !e.named(name, v) {
			rest = append(rest, v)
		}
	}
	for _, v := range rest {
		e.guessed(v)
	}
	r.add(e)
}

// separator is the sign between the cells of a line.
func separator(line []byte) rune {
	for _, sep := range []rune{'\t', ';'} {
		if bytes.Count(line, []byte(string(sep))) >= leastCells-1 {
			return sep
		}
	}
	return ','
}

// cells parts a row. Rows of any length are taken and stray quotes forgiven:
// consoles that export tables do not all double them. nil for a row that still
// cannot be read.
func (r *Reader) cells(line string) []string {
	c := csv.NewReader(strings.NewReader(line))
	c.Comma, c.FieldsPerRecord, c.LazyQuotes = r.sep, -1, true
	cells, err := c.Read()
	if err != nil {
		return nil
	}
	return cells
}

// named takes the cell of a column with a name.
func (e *event) named(name, v string) bool {
	switch {
	case name == "":
		return false
	case strings.Contains(name, "level") || strings.Contains(name, "ebene") || name == "entrytype":
		e.level = v
	case strings.Contains(name, "date") || strings.Contains(name, "time") || strings.Contains(name, "datum"):
		e.time = v
	case strings.Contains(name, "source") || strings.Contains(name, "provider") || strings.Contains(name, "quelle"):
		e.source = v
	case (strings.HasSuffix(name, "id") && !strings.Contains(name, "record") &&
		!strings.Contains(name, "process") && !strings.Contains(name, "user")) && e.id == 0 && isID(v):
		e.id, _ = strconv.Atoi(v)
	case strings.Contains(name, "message") || strings.Contains(name, "description"):
		e.message = v
	default:
		return false
	}
	return true
}

// guessed takes a cell by what it holds.
func (e *event) guessed(v string) {
	_, _, n := lines.Stamp([]byte(v))
	switch {
	case e.time == "" && n > 0:
		e.time = v
	case e.source == "" && provider.MatchString(v):
		e.source = v
	case e.id == 0 && isID(v):
		e.id, _ = strconv.Atoi(v)
	case e.level == "" && peel.Level(v) != peel.Unknown:
		e.level = v
	case len(v) > len(e.message):
		e.message = v
	}
}

var textField = lazy.MustCompile(`^\s*([A-Za-zÄÖÜäöü ]+?)\s*:\s*(.*)$`)

// text takes a line of a list of fields; the first field of the next event ends
// the one before.
func (r *Reader) text(l textfile.Line) {
	if textHead.Match(bytes.TrimSpace(l.Text)) && r.buffer.Len() > 0 {
		r.endText()
	}
	r.collect(l)
}

// endText takes a collected text event apart.
func (r *Reader) endText() {
	e := event{line: r.from}
	inMessage := false
	at := r.from - 1
	for line := range strings.Lines(r.buffer.String()) {
		at++
		line = strings.TrimRight(line, "\r\n")
		m := textField.FindStringSubmatch(line)
		if inMessage || m == nil {
			if inMessage && strings.TrimSpace(line) != "" && !strings.HasPrefix(strings.TrimSpace(line), "<") {
				if e.message == "" {
					e.line = at
				}
				e.message = strings.TrimSpace(e.message + " " + strings.TrimSpace(line))
			}
			continue
		}
		switch strings.ToLower(m[1]) {
		case "source", "quelle", "providername", "provider name":
			e.source = m[2]
		case "event id", "id", "ereignis-id", "ereignis id":
			e.id, _ = strconv.Atoi(m[2])
		case "level", "ebene", "leveldisplayname":
			e.level = m[2]
		case "date", "datum", "timecreated":
			e.time = m[2]
		case "description", "beschreibung", "message":
			e.message, inMessage = m[2], true
			e.line = at // where its words stand, which people read
		}
	}
	if e.source != "" || e.id != 0 {
		r.add(e)
	}
	r.buffer.Reset()
}

// Finish puts the events in the order of their time and makes attempts of them.
func (r *Reader) Finish() []*story.Attempt {
	switch {
	case r.form == formText && r.buffer.Len() > 0:
		r.endText()
	case r.inside:
		r.endXML()
	}
	r.sort()
	for _, e := range r.events {
		r.take(e)
	}
	all := r.b.Finish()
	for _, a := range all {
		if r.dropped {
			a.Dropped++
		}
		if a.Success == nil && a.Exit == nil && slices.ContainsFunc(a.Messages, telling) {
			a.Success = new(false)
		}
	}
	return failedLast(all)
}

// telling says whether a message is the error of a part of the OS that
// installs, or that keeps from installing.
func telling(m *story.Message) bool {
	if m.Kind != story.KindError {
		return false
	}
	if m.Source == "" && unnamed.MatchString(m.Text) { // an export without the column of who wrote it
		return true
	}
	for _, part := range []string{"MsiInstaller", "AppLocker", "AppXDeployment", "AppXPackaging", "CodeIntegrity",
		"Servicing", "WindowsUpdateClient"} {
		if strings.Contains(m.Source, part) {
			return true
		}
	}
	if !ofSetups.MatchString(m.Source) {
		return false
	}
	said := endings.Read(m.Text) // of a vendor's setup, which writes there how it went
	return (said.Failed || notInstalled.MatchString(m.Text)) && !said.Passed && !said.Again
}

// notInstalled says so of the product.
var notInstalled = lazy.MustCompile(`(?i)\b(?:could not|cannot|can't|couldn't) be (?:installed|updated|upgraded|set up)\b|\b(?:was|were) not (?:installed|updated|upgraded|set up)\b|\bfailed to (?:install|update|upgrade)\b`)

// ofSetups are names of programs that install.
var ofSetups = lazy.MustCompile(`(?i)setup|install|updat|deploy|bootstrap`)

// unnamed are texts that only those parts write.
var unnamed = lazy.MustCompile(`(?i)^(?:AppX Deployment operation|AppX-Bereitstellungsvorgang|Product: .+ -- |error 0x8[0-9a-f]{7}: Windows (?:cannot|could not) (?:install|deploy|register))`)

// failedLast puts the last setup that failed behind those of other products
// that went well later: an event log holds the whole machine's, and a person
// asks about the one that failed.
func failedLast(all []*story.Attempt) []*story.Attempt {
	for i := len(all) - 2; i >= 0; i-- {
		a := all[i]
		failed := a.Exit != nil && !exitcode.Good(a.Exit.Code) || a.Exit == nil && a.Success != nil && !*a.Success
		later := all[i+1:]
		if !failed || slices.ContainsFunc(later, func(o *story.Attempt) bool { return o.Product.Name == a.Product.Name }) {
			continue
		}
		if slices.ContainsFunc(later, func(o *story.Attempt) bool { return !worked(o) }) {
			return all
		}
		return append(slices.Delete(slices.Clone(all), i, i+1), a)
	}
	return all
}

// worked says whether nothing of an attempt tells of a failure.
func worked(a *story.Attempt) bool {
	return (a.Exit == nil || exitcode.Good(a.Exit.Code)) && (a.Success == nil || *a.Success)
}
