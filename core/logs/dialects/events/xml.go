// This file reads an export of an event log, event by event; one that is never
// closed costs itself only.

package events

import (
	"bytes"
	"encoding/xml"
	"strconv"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/textfile"
)

// Exports as XML, read event by event with the standard decoder. An event that
// is not closed, or is damaged, costs itself alone: what could be read of it
// counts, and the next one begins at its own tag.

// Limits of one event. The engine's longest texts have a few kilobytes.
const (
	maxEvent  = 256 << 10 // bytes that are collected of it
	maxDepth  = 32        // elements within each other; the event schema has six
	maxData   = 40        // values of its data
	noValue   = "(NULL)"  // what the installer engine writes for an empty one
	eventTag  = "<Event"
	eventEnd  = "</Event>"
	partJoint = "; "
)

// xmlLevels are the words for the levels. Source: the OS's event schema,
// "LevelType".
var xmlLevels = map[string]string{"0": "Information", "1": "Critical", "2": "Error", "3": "Warning", "4": "Information"}

// xml takes a line of an export: it may hold a part of an event, one, or
// several.
func (r *Reader) xml(l textfile.Line) {
	text := l.Text
	for {
		if !r.inside {
			at := eventStart(text)
			if at < 0 {
				return
			}
			r.inside, r.from, text = true, l.Number, text[at:]
			r.buffer.Reset()
		}
		skip := 0
		if r.buffer.Len() == 0 { // not the tag that it begins with
			skip = min(len(eventTag), len(text))
		}
		end, next := bytes.Index(text, []byte(eventEnd)), eventStart(text[skip:])
		if next >= 0 {
			next += skip
		}
		switch {
		case end >= 0 && (next < 0 || end < next):
			r.keep(text[:end+len(eventEnd)])
			text = text[end+len(eventEnd):]
		case next >= 0: // it was never closed
			r.keep(text[:next])
			text = text[next:]
		default:
			r.keep(text)
			r.keep([]byte{'\n'})
			return
		}
		r.endXML()
	}
}

// eventStart finds the tag of an event, not that of a list of them.
func eventStart(text []byte) int {
	for from := 0; ; {
		at := bytes.Index(text[from:], []byte(eventTag))
		if at < 0 {
			return -1
		}
		at += from
		after := at + len(eventTag)
		if after == len(text) || text[after] == '>' || text[after] == ' ' || text[after] == '\t' {
			return at
		}
		from = after
	}
}

// keep adds to the event that is being read, up to the most that one may have:
// an event that is never closed would else take the whole file.
func (r *Reader) keep(text []byte) {
	if r.buffer.Len()+len(text) <= maxEvent {
		r.buffer.Write(text)
	}
}

// endXML takes the collected event.
func (r *Reader) endXML() {
	if e := decodeEvent(r.buffer.String()); e.source != "" || e.id != 0 {
		e.line = r.from
		r.add(e)
	}
	r.inside = false
	r.buffer.Reset()
}

// decodeEvent reads one event. At the first damage it gives what it has.
func decodeEvent(text string) (e event) {
	d := xml.NewDecoder(strings.NewReader(text))
	d.Strict = false
	var path []string
	var said strings.Builder // text of the element that is open
	var data []string
	message := ""
	for {
		token, err := d.Token()
		if err != nil || len(path) > maxDepth {
			break
		}
		switch t := token.(type) {
		case xml.StartElement:
			path = append(path, t.Name.Local)
			said.Reset()
			switch t.Name.Local {
			case "Provider":
				e.source = attribute(t, "Name", e.source)
			case "TimeCreated":
				e.time = attribute(t, "SystemTime", e.time)
			}
		case xml.CharData:
			said.Write(t)
		case xml.EndElement:
			value := strings.TrimSpace(said.String())
			switch t.Name.Local {
			case "EventID":
				e.id, _ = strconv.Atoi(value)
			case "Level":
				if word, ok := xmlLevels[value]; ok {
					e.level = word
				} else if e.level == "" {
					e.level = value // the rendered word
				}
			case "Message":
				message = strings.ReplaceAll(value, "\r", "")
			case "Data":
				if value != "" && value != noValue && len(data) < maxData {
					data = append(data, strings.ReplaceAll(value, "\r", ""))
				}
			}
			if len(path) > 0 {
				path = path[:len(path)-1]
			}
			said.Reset()
		}
	}
	if e.message = message; message == "" {
		e.message = systemError.ReplaceAllString(strings.Join(data, partJoint), "error $1")
	}
	return e
}

// systemError is how a value names a text of the OS's own: that of a system
// error, such as %%1069.
var systemError = lazy.MustCompile(`%%(\d{1,5})\b`)

// attribute is a value by its name without the prefix, as exports differ in
// that.
func attribute(t xml.StartElement, name, otherwise string) string {
	for _, a := range t.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return otherwise
}
