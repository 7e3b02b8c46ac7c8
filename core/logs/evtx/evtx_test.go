package evtx

import (
	"bytes"
	"encoding/binary"
	"encoding/xml"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/evtx/evtxtest"
)

func some(n int) (events []evtxtest.Event) {
	at := time.Date(2026, 5, 4, 7, 12, 1, 250e6, time.UTC)
	for i := range n {
		events = append(events, evtxtest.Event{Provider: "MsiInstaller", ID: 11708, Level: 4,
			Time: at.Add(time.Duration(i) * time.Second), Channel: "Application",
			Computer: "ELLERY-D07",
			Data:     []string{fmt.Sprintf("Product: Tidebook Desk <%d> -- \"Installation\" failed & ended.\r\nIt says so.", i), "(NULL)"}})
	}
	return events
}

// parsed is an event as a decoder of XML reads it.
type parsed struct {
	System struct {
		Provider struct {
			Name string `xml:",attr"`
		}
		EventID, Level, EventRecordID int
		TimeCreated                   struct {
			SystemTime string `xml:",attr"`
		}
		Channel, Computer string
	}
	EventData struct{ Data []string }
}

func readAll(t testing.TB, b []byte) (events []parsed, l *Log) {
	t.Helper()
	l = New(bytes.NewReader(b))
	text, err := io.ReadAll(l)
	if err != nil {
		t.Fatal(err)
	}
	for line := range strings.Lines(string(text)) {
		var p parsed
		if err := xml.Unmarshal([]byte(line), &p); err != nil {
			t.Fatalf("%v\n%s", err, line)
		}
		events = append(events, p)
	}
	return events, l
}

// TestRead: what was written is read, from several chunks, and is well-formed
// XML.
func TestRead(t *testing.T) {
	want := some(100)
	events, l := readAll(t, evtxtest.Log(want, 30))
	if len(events) != 100 || l.Damaged() != 0 || l.Records() != 100 {
		t.Fatalf("%d events, %d damaged", len(events), l.Damaged())
	}
	for i, e := range events {
		s := e.System
		if s.Provider.Name != "MsiInstaller" || s.EventID != 11708 || s.Level != 4 || s.EventRecordID != i+1 || s.Channel != "Application" ||
			s.Computer != "ELLERY-D07" || s.TimeCreated.SystemTime != want[i].Time.Format("2006-01-02T15:04:05.0000000Z") {
			t.Fatalf("event %d: %+v", i, s)
		}
		if len(e.EventData.Data) != 4 || e.EventData.Data[0] != strings.ReplaceAll(want[i].Data[0], "\r", "") {
			t.Fatalf("event %d says %q", i, e.EventData.Data)
		}
	}
}

// TestDamage: a damaged chunk or record costs itself alone, and is counted.
func TestDamage(t *testing.T) {
	whole := evtxtest.Log(some(100), 25)
	const second = headSize + chunkSize
	for name, c := range map[string]struct {
		hurt   func(b []byte) []byte
		events int
		most   int // damaged
	}{
		"no magic on a chunk":       {func(b []byte) []byte { copy(b[second:], "XXXXXXXX"); return b }, 75, 1},
		"cut in a chunk":            {func(b []byte) []byte { return b[:recordAt(b, second, 21)+9] }, 46, 2}, // what is whole counts
		"cut in the head":           {func(b []byte) []byte { return b[:headSize] }, 0, 0},
		"a record's size":           {func(b []byte) []byte { b[recordAt(b, second, 4)+4] ^= 0x40; return b }, 99, 1},
		"a record's token":          {func(b []byte) []byte { b[recordAt(b, second, 4)+recordHead+4] = 0x33; return b }, 99, 1},
		"a template's offset":       {func(b []byte) []byte { b[recordAt(b, second, 4)+recordHead+12] = 0xff; return b }, 99, 1},
		"the template of a chunk":   {func(b []byte) []byte { b[second+chunkHead+recordHead+14+24+4] = 0x33; return b }, 75, 25},
		"more chunks than the head": {func(b []byte) []byte { binary.LittleEndian.PutUint16(b[42:], 1); return b }, 100, 0},
		"an empty chunk":            {func(b []byte) []byte { clear(b[second : second+chunkSize]); return b }, 75, 0},
	} {
		events, l := readAll(t, c.hurt(bytes.Clone(whole)))
		if len(events) != c.events || l.Damaged() > c.most || c.most > 0 && l.Damaged() == 0 {
			t.Errorf("%s: %d events, %d damaged; want %d and at most %d", name, len(events), l.Damaged(), c.events, c.most)
		}
	}
	if _, err := io.ReadAll(New(strings.NewReader("ElfFile\x00"))); err != ErrTruncated {
		t.Errorf("a head alone: %v", err)
	}
}

// recordAt is where the n-th record of a chunk begins.
func recordAt(b []byte, chunk, n int) int {
	at := chunk + chunkHead
	for range n {
		at += int(binary.LittleEndian.Uint32(b[at+4:]))
	}
	return at
}

// TestValues: each type in words.
func TestValues(t *testing.T) {
	le := binary.LittleEndian
	for _, c := range []struct {
		kind byte
		b    []byte
		want string
	}{
		{typeText, []byte{'a', 0, 0xe4, 0, 0, 0}, "aä"},
		{typeANSI, []byte("berth\x00"), "berth"},
		{typeANSI, []byte{0xe4}, "ä"},
		{typeInt8, []byte{0xff}, "-1"},
		{typeInt16, []byte{0xfe, 0xff}, "-2"},
		{typeInt32, le.AppendUint32(nil, 0x80070005), "-2147024891"},
		{typeInt64, le.AppendUint64(nil, ^uint64(0)), "-1"},
		{typeUint32, le.AppendUint32(nil, 1603), "1603"},
		{typeUint8, []byte{200}, "200"},
		{typeBool, []byte{1, 0, 0, 0}, "true"},
		{typeHex32, le.AppendUint32(nil, 0x80070643), "0x80070643"},
		{typeHex64, le.AppendUint64(nil, 0x8000000000000000), "0x8000000000000000"},
		{typeDouble, le.AppendUint64(nil, 0x3ff8000000000000), "1.5"},
		{typeBinary, []byte{1, 0xab}, "01AB"},
		{typeGUID, []byte{0x33, 0x22, 0x11, 0, 0x55, 0x44, 0x77, 0x66, 0x88, 0x99, 1, 2, 3, 4, 5, 6}, "{00112233-4455-6677-8899-010203040506}"},
		{typeFileTime, le.AppendUint64(nil, 116444736000000000), "1970-01-01T00:00:00.0000000Z"},
		{typeSID, []byte{1, 2, 0, 0, 0, 0, 0, 5, 32, 0, 0, 0, 0x20, 2, 0, 0}, "S-1-5-32-544"},
		{typeSID, []byte{1, 9, 0, 0, 0, 0, 0, 5}, ""},
		{typeArray | typeText, []byte{'a', 0, 0, 0, 'b', 0, 0, 0}, "a, b"},
		{typeArray | typeUint16, []byte{1, 0, 2, 0}, "1, 2"},
		{typeUint32, []byte{1}, ""},
		{typeNull, []byte{1}, ""},
	} {
		if got := (value{kind: c.kind}).text(c.b); got != c.want {
			t.Errorf("type %#x of %x: %q, want %q", c.kind, c.b, got, c.want)
		}
	}
}

// TestBounds: a template that is long, or names itself, costs little.
func TestBounds(t *testing.T) {
	b := evtxtest.Log(some(100), 100)
	at := recordAt(b, headSize, 0) + recordHead + 4 + 1 + 1 + 4 // offset of the first record's template
	definition := int(binary.LittleEndian.Uint32(b[at:]))
	inner := headSize + definition + 24 + 4
	copy(b[inner:], []byte{tokenTemplate, 1, 7, 0, 0, 0}) // within it, itself
	binary.LittleEndian.PutUint32(b[inner+6:], uint32(definition))
	binary.LittleEndian.PutUint32(b[inner+10:], 0) // with no values
	l := New(bytes.NewReader(b))
	text, err := io.ReadAll(l)
	if err != nil || len(text) > 1<<20 || l.Damaged() == 0 {
		t.Errorf("%d bytes, %d damaged, %v", len(text), l.Damaged(), err)
	}
}

func FuzzRead(f *testing.F) {
	one := evtxtest.Log(some(2), 2)
	f.Add(one[headSize+chunkHead : headSize+chunkHead+1400])
	f.Fuzz(func(t *testing.T, records []byte) {
		if len(records) > 4096 {
			t.Skip()
		}
		l := &Log{begun: true, chunk: make([]byte, chunkHead, chunkHead+len(records)), at: chunkHead, r: strings.NewReader("")}
		l.chunk = append(l.chunk, records...)
		text, err := io.ReadAll(l)
		if err != nil || len(text) > 64<<20 {
			t.Fatalf("%d bytes, %v", len(text), err)
		}
	})
}

func BenchmarkRead(b *testing.B) {
	log := evtxtest.Log(some(4000), 60)
	b.SetBytes(int64(len(log)))
	for b.Loop() {
		if _, err := io.Copy(io.Discard, New(bytes.NewReader(log))); err != nil {
			b.Fatal(err)
		}
	}
}
