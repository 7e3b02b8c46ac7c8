package events

import (
	"fmt"
	"strings"
	"testing"

	"hollowkey/core/logs/textfile"
)

const entry = `<Event xmlns="http://schemas.example/event"><System><Provider Name="MsiInstaller"/><EventID Qualifiers="0">%d</EventID><Level>2</Level>` +
	`<TimeCreated SystemTime="2026-05-04T09:12:%02d.000Z"/></System><EventData><Data>%s</Data><Data>(NULL)</Data></EventData></Event>`

// feed reads a text line by line and gives the events.
func feed(text string) []event {
	r := New("x.xml")
	n := 0
	for line := range strings.Lines(text) {
		n++
		r.Line(textfile.Line{Number: n, Text: []byte(strings.TrimRight(line, "\r\n"))})
	}
	if r.inside {
		r.endXML()
	}
	return r.events
}

func TestXMLEvents(t *testing.T) {
	one := func(id, sec int, text string) string { return fmt.Sprintf(entry, id, sec, text) }
	unclosed := strings.TrimSuffix(one(11, 1, "lost end"), "</EventData></Event>")
	for _, tt := range []struct{ name, in, want string }{
		{"two in one line", "<Events>" + one(1, 1, "a") + one(2, 2, "b &amp; c") + "</Events>", "1@1 a, 2@1 b & c"},
		{"one over several lines", strings.ReplaceAll(one(1, 1, "first&#13;\nsecond"), "><", ">\n<"), "1@1 first\nsecond"},
		{"an unclosed one before others", "<Events>\n" + unclosed + "\n" + one(2, 2, "b") + "\n" + one(3, 3, "c"), "11@2 lost end, 2@3 b, 3@4 c"},
		{"an unclosed one in the same line", unclosed + one(2, 2, "b"), "11@1 lost end, 2@1 b"},
		{"an unclosed last one", one(1, 1, "a") + "\n" + unclosed, "1@1 a, 11@2 lost end"},
		{"damage within", strings.Replace(one(1, 1, "a"), "<EventData>", "<Event<Data&&>", 1) + "\n" + one(2, 2, "b"), "1@1 , 2@2 b"},
		{"a tag over two lines", strings.Replace(one(1, 1, "a"), "<Event ", "<Event\n", 1), "1@1 a"},
		{"no event", "<Events>\n<EventLog/>\n</Events>", ""},
	} {
		var got []string
		for _, e := range feed(tt.in) {
			got = append(got, fmt.Sprintf("%d@%d %s", e.id, e.line, e.message))
		}
		if g := strings.Join(got, ", "); g != tt.want {
			t.Errorf("%s: %q; want %q", tt.name, g, tt.want)
		}
	}
	if e := feed(one(1, 1, "a"))[0]; e.source != "MsiInstaller" || e.level != "Error" || !strings.HasPrefix(e.time, "2026-05-04T09:12:01") {
		t.Errorf("%+v", e)
	}
}

// However large an event claims to be, only so much of it is kept.
func TestXMLEventsAreBounded(t *testing.T) {
	r := New("x.xml")
	r.Line(textfile.Line{Number: 1,
		Text: []byte(`<Event xmlns="x"><System><Provider Name="A"/><EventID>7</EventID></System><EventData><Data>`)})
	for n := 2; n < 2000; n++ {
		r.Line(textfile.Line{Number: n, Text: []byte(strings.Repeat("tide ", 200))})
	}
	if r.buffer.Len() > maxEvent {
		t.Errorf("%d bytes are kept", r.buffer.Len())
	}
	r.endXML()
	if len(r.events) != 1 || r.events[0].id != 7 {
		t.Errorf("%+v", r.events)
	}
}

func BenchmarkXMLEvents(b *testing.B) {
	text := []byte(fmt.Sprintf(entry, 11708, 1, strings.Repeat("Product: Tidebook -- Installation failed. ", 8)))
	open := []byte(strings.Replace(string(text), "</Event>", "", 1))
	for name, first := range map[string][]byte{"sound": text, "one unclosed": open} {
		b.Run(name, func(b *testing.B) {
			b.SetBytes(int64(len(text)))
			r := New("x.xml")
			r.Line(textfile.Line{Number: 1, Text: first})
			for n := range b.N {
				r.Line(textfile.Line{Number: n + 2, Text: text})
			}
		})
	}
}
