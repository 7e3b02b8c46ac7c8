// Package evtxtest writes binary event logs for tests, as the OS would: a head,
// chunks, and in each the template of an event once, at its first use.
package evtxtest

import (
	"encoding/binary"
	"hash/crc32"
	"time"
	"unicode/utf16"
)

// An Event is one entry of a log.
type Event struct {
	Provider string
	ID       int
	Level    int // 1 critical, 2 error, 3 warning, 4 information
	Time     time.Time
	Channel  string
	Computer string
	Data     []string // at most maxData
}

const (
	headSize  = 4096  // bytes of the file's head, with its padding
	chunkSize = 65536 // bytes of every chunk, full or not
	firstAt   = 512   // where a chunk's records begin: behind its head and its tables of strings and templates
	maxData   = 4     // values of an event; those that setups write have no more
	// The places of the template, in the order of a record's values.
	places = 7 + maxData
)

// Log is a whole log of the events, so many in each chunk.
func Log(events []Event, inChunk int) []byte {
	var chunks [][]byte
	for from := 0; from < len(events); from += inChunk {
		chunks = append(chunks, chunk(events[from:min(len(events), from+inChunk)], from))
	}
	head := make([]byte, headSize)
	copy(head, "ElfFile\x00")
	binary.LittleEndian.PutUint64(head[16:], uint64(max(0, len(chunks)-1)))
	binary.LittleEndian.PutUint64(head[24:], uint64(len(events)+1))
	binary.LittleEndian.PutUint32(head[32:], 128)
	binary.LittleEndian.PutUint16(head[36:], 1)
	binary.LittleEndian.PutUint16(head[38:], 3)
	binary.LittleEndian.PutUint16(head[40:], headSize)
	binary.LittleEndian.PutUint16(head[42:], uint16(len(chunks)))
	binary.LittleEndian.PutUint32(head[124:], crc32.ChecksumIEEE(head[:120]))
	for _, c := range chunks {
		head = append(head, c...)
	}
	return head
}

// A writer fills one chunk.
type writer struct {
	b     []byte
	names map[string]int // where they lie
	at    int            // of the template, 0 before its first use
}

// chunk is 64 KiB of events with their numbers, first being how many stand
// before it.
func chunk(events []Event, first int) []byte {
	w := &writer{b: make([]byte, firstAt, chunkSize), names: map[string]int{}}
	copy(w.b, "ElfChnk\x00")
	binary.LittleEndian.PutUint32(w.b[40:], 128)
	for i, e := range events {
		w.record(e, first+i+1)
	}
	if len(w.b) > chunkSize {
		panic("evtxtest: too many events for one chunk")
	}
	return append(w.b, make([]byte, chunkSize-len(w.b))...)
}

func (w *writer) u8(v ...byte) { w.b = append(w.b, v...) }
func (w *writer) u16(v int)    { w.b = binary.LittleEndian.AppendUint16(w.b, uint16(v)) }
func (w *writer) u32(v int)    { w.b = binary.LittleEndian.AppendUint32(w.b, uint32(v)) }
func (w *writer) u64(v uint64) { w.b = binary.LittleEndian.AppendUint64(w.b, v) }

// text writes letters of two bytes each.
func (w *writer) text(s string) {
	for _, u := range utf16.Encode([]rune(s)) {
		w.u16(int(u))
	}
}

// sized runs fill behind a length of four bytes, which it sets.
func (w *writer) sized(fill func()) {
	at := len(w.b)
	w.u32(0)
	fill()
	binary.LittleEndian.PutUint32(w.b[at:], uint32(len(w.b)-at-4))
}

// name writes the offset of a name, and the name itself the first time.
func (w *writer) name(s string) {
	if at, known := w.names[s]; known {
		w.u32(at)
		return
	}
	at := len(w.b) + 4
	w.names[s] = at
	w.u32(at)
	w.u32(0)
	w.u16(hash(s))
	w.u16(len(utf16.Encode([]rune(s))))
	w.text(s)
	w.u16(0)
}

// hash is that of names. Source: [MS-EVEN6] 2.2.12.1.
func hash(s string) (h int) {
	for _, u := range utf16.Encode([]rune(s)) {
		h = (h*65599 + int(u)) & 0xffffffff
	}
	return h & 0xffff
}

// element writes one: attributes name places, or texts where the place is
// negative.
func (w *writer) element(name string, attributes map[string]int, place int, inner ...func()) {
	token := byte(0x01)
	if len(attributes) > 0 {
		token |= 0x40
	}
	w.u8(token)
	w.u16(0xffff)
	w.sized(func() {
		w.name(name)
		if len(attributes) > 0 {
			w.sized(func() {
				for a, p := range attributes {
					w.u8(0x06)
					w.name(a)
					w.u8(0x0d)
					w.u16(p)
					w.u8(0x01)
				}
			})
		}
		if place < 0 && len(inner) == 0 {
			w.u8(0x03)
			return
		}
		w.u8(0x02)
		if place >= 0 {
			w.u8(0x0e)
			w.u16(place)
			w.u8(0x01)
		}
		for _, f := range inner {
			f()
		}
		w.u8(0x04)
	})
}

// definition writes the template.
func (w *writer) definition() {
	w.u32(0)
	w.b = append(w.b, make([]byte, 16)...) // its GUID
	w.sized(func() {
		w.u8(0x0f, 1, 1, 0)
		of := func(name string, place int) func() { return func() { w.element(name, nil, place) } }
		w.element("Event", nil, -1, func() {
			w.element("System", nil, -1,
				func() { w.element("Provider", map[string]int{"Name": 0}, -1) },
				of("EventID", 1), of("Level", 2),
				func() { w.element("TimeCreated", map[string]int{"SystemTime": 3}, -1) },
				of("EventRecordID", 4), of("Channel", 5), of("Computer", 6))
		}, func() {
			var data []func()
			for i := range maxData {
				data = append(data, of("Data", 7+i))
			}
			w.element("EventData", nil, -1, data...)
		})
		w.u8(0x00)
	})
}

// record writes an event.
func (w *writer) record(e Event, number int) {
	from := len(w.b)
	const to1970 = 116444736000000000 // ticks between 1601 and 1970
	ticks := uint64(e.Time.UnixNano()/100) + to1970
	w.u32(0x2a2a)
	w.u32(0)
	w.u64(uint64(number))
	w.u64(ticks)
	w.u8(0x0f, 1, 1, 0, 0x0c, 1)
	w.u32(7) // the template's number
	if w.at == 0 {
		w.at = len(w.b) + 4
		w.u32(w.at)
		w.definition()
	} else {
		w.u32(w.at)
	}
	w.values(e, number, ticks)
	w.u8(0x00)
	for (len(w.b)-from+4)%8 != 0 { // records are padded
		w.u8(0)
	}
	w.u32(len(w.b) - from + 4)
	binary.LittleEndian.PutUint32(w.b[from+4:], uint32(len(w.b)-from))
}

// values writes what the template's places hold in this record.
func (w *writer) values(e Event, number int, ticks uint64) {
	var kinds []byte
	var all [][]byte
	add := func(kind byte, b []byte) { kinds, all = append(kinds, kind), append(all, b) }
	utf := func(s string) []byte {
		t := &writer{}
		t.text(s)
		return t.b
	}
	add(0x01, utf(e.Provider))
	add(0x06, binary.LittleEndian.AppendUint16(nil, uint16(e.ID)))
	add(0x04, []byte{byte(e.Level)})
	add(0x11, binary.LittleEndian.AppendUint64(nil, ticks))
	add(0x0a, binary.LittleEndian.AppendUint64(nil, uint64(number)))
	add(0x01, utf(e.Channel))
	add(0x01, utf(e.Computer))
	for i := range maxData {
		if i < len(e.Data) {
			add(0x01, utf(e.Data[i]))
		} else {
			add(0x00, nil)
		}
	}
	w.u32(places)
	for i, b := range all {
		w.u16(len(b))
		w.u8(kinds[i], 0)
	}
	for _, b := range all {
		w.b = append(w.b, b...)
	}
}
