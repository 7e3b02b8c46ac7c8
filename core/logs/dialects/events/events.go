// Package events reads entries of the OS's event log that were exported as XML,
// CSV or text, above all those that the installer engine writes there.
package events

import (
	"bytes"
	"encoding/csv"
	"regexp"
	"strconv"
	"strings"

	"hollowkey/core/logs/dialects/lines"
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
	header  []string        // names of the columns of a CSV export
	events  []event         // in the order of the file
	dropped bool            // there were more than are kept
}

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

func detect(l []byte) form {
	t := bytes.TrimSpace(l)
	switch {
	case eventStart(t) >= 0 || bytes.HasPrefix(t, []byte("<Events")):
		return formXML
	case bytes.Count(t, []byte(",")) >= 3 && eventID.Match(t) && !bytes.Contains(t, []byte(": ")):
		return formCSV
	case textHead.Match(t):
		return formText
	}
	return unknown
}

var (
	eventID  = regexp.MustCompile(`(?i)"?(?:Event ?ID|EreignisID|ID)"?,|,"?(?:Event ?ID|Id|EventId|EreignisID|ID de l.événement)"?(?:,|$)`)
	textHead = regexp.MustCompile(`(?i)^(?:Log Name|Protokollname|TimeCreated)\s*:\s*\S`)
)

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

// windows says whether elements named Event are those of the OS's event log, which
// have a part named System; other programs call theirs so too.
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
			r.header, _ = csv.NewReader(bytes.NewReader(l.Text)).Read()
			return
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

func (r *Reader) add(e event) {
	if len(r.events) < maxEvents {
		r.events = append(r.events, e)
	} else {
		r.dropped = true
	}
}

func (r *Reader) csv(l textfile.Line) {
	text := r.collect(l)
	if strings.Count(text, `"`)%2 == 1 && len(text) < maxEvent {
		return // a field goes on in the next line
	}
	r.buffer.Reset()
	c := csv.NewReader(strings.NewReader(text))
	c.FieldsPerRecord, c.LazyQuotes = -1, true
	row, err := c.Read()
	if err != nil || len(row) < 4 {
		return
	}
	e := event{line: r.from}
	for i, v := range row {
		name := ""
		if i < len(r.header) {
			name = strings.ToLower(strings.Trim(r.header[i], "\ufeff \""))
		}
		v = strings.TrimSpace(v)
		switch {
		case strings.Contains(name, "level") || strings.Contains(name, "ebene") || name == "entrytype":
			e.level = v
		case strings.Contains(name, "date") || strings.Contains(name, "time") || strings.Contains(name, "datum"):
			e.time = v
		case strings.Contains(name, "source") || strings.Contains(name, "provider") || strings.Contains(name, "quelle"):
			e.source = v
		case (strings.Contains(name, "id") && !strings.Contains(name, "provider") && !strings.Contains(name, "record") &&
			!strings.Contains(name, "process") && !strings.Contains(name, "user")) && e.id == 0:
			e.id, _ = strconv.Atoi(v)
		case i >= 4 && len(v) > len(e.message) || strings.Contains(name, "message") || strings.Contains(name, "description"):
			e.message = v
		}
	}
	r.add(e)
}

var textField = regexp.MustCompile(`^\s*([A-Za-zÄÖÜäöü ]+?)\s*:\s*(.*)$`)

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
	for line := range strings.Lines(r.buffer.String()) {
		line = strings.TrimRight(line, "\r\n")
		m := textField.FindStringSubmatch(line)
		if inMessage || m == nil {
			if inMessage && strings.TrimSpace(line) != "" && !strings.HasPrefix(strings.TrimSpace(line), "<") {
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
	}
	return all
}
