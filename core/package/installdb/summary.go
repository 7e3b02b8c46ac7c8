// This file reads and writes the summary information.

package installdb

import (
	"encoding/binary"
	"fmt"
	"slices"
	"strings"
	"time"

	"hollowkey/core/package/compound"
)

// summaryStream is the name of the summary information.
const summaryStream = "\x05SummaryInformation"

// Property is the number of a summary property.
type Property uint32

// The summary properties, with what installer databases keep in them.
// Source: [MS-OLEPS] 2.25.1; the platform SDK, "Summary Property Descriptions".
const (
	SummaryCodePage    Property = 1
	SummaryTitle       Property = 2
	SummarySubject     Property = 3
	SummaryAuthor      Property = 4
	SummaryKeywords    Property = 5
	SummaryComments    Property = 6
	SummaryTemplate    Property = 7 // platform;languages; of a patch its target products
	SummaryLastAuthor  Property = 8 // of a patch its transforms
	SummaryRevision    Property = 9 // package code or patch code; of a transform the two products
	SummaryPrinted     Property = 11
	SummaryCreated     Property = 12
	SummarySaved       Property = 13
	SummaryPages       Property = 14 // the least engine version, 200 for 2.0
	SummaryWords       Property = 15 // kind of source
	SummaryCharacters  Property = 16 // of a transform what it checks and forgives
	SummaryApplication Property = 18
	SummarySecurity    Property = 19
)

var summaryNames = map[Property]string{
	1: "code page", 2: "title", 3: "subject", 4: "author", 5: "keywords", 6: "comments", 7: "template", 8: "last saved by",
	9: "revision", 11: "printed", 12: "created", 13: "saved", 14: "page count", 15: "word count", 16: "character count",
	18: "application", 19: "security",
}

// Name is the property's name in plain words.
func (p Property) Name() string { return summaryNames[p] }

// A Summary is the summary information: at most one value for each number.
type Summary struct {
	CodePage int                    // of its texts
	Texts    map[Property]string    // in UTF-8
	Numbers  map[Property]int32     // such as the schema and the word count
	Times    map[Property]time.Time // UTC
}

// Text gives a text property, empty when it is absent.
func (s *Summary) Text(p Property) string { return s.Texts[p] }

// Number gives a number property, 0 when it is absent.
func (s *Summary) Number(p Property) int { return int(s.Numbers[p]) }

// SetText sets a text property.
func (s *Summary) SetText(p Property, text string) {
	if s.Texts == nil {
		s.Texts = map[Property]string{}
	}
	s.Texts[p] = text
}

// SetNumber sets a number property.
func (s *Summary) SetNumber(p Property, n int) {
	if s.Numbers == nil {
		s.Numbers = map[Property]int32{}
	}
	s.Numbers[p] = int32(n)
}

// The types of property values. Source: [MS-OLEPS] 2.15.
const (
	typeI2       = 2
	typeI4       = 3
	typeLPSTR    = 30
	typeFileTime = 64

	propertyHeader = 48      // bytes before the first section, when there is one
	maxSummary     = 4 << 20 // bytes
	maxProperties  = 256
)

// The identifier of the one property set that a summary stream holds, as its
// bytes lie in the file. [MS-OLEPS] 2.21
var summaryFormat = [16]byte{0xE0, 0x85, 0x9F, 0xF2, 0xF9, 0x4F, 0x68, 0x10, 0xAB, 0x91, 0x08, 0x00, 0x2B, 0x27, 0xB3, 0xD9}

// ReadSummary reads a property set of summary information. Properties of types
// that summary information does not use are left out.
//
// Source: [MS-OLEPS] 2.20 to 2.25.
func ReadSummary(b []byte) (*Summary, error) {
	s := &Summary{}
	if len(b) < propertyHeader || binary.LittleEndian.Uint16(b) != 0xFFFE {
		return nil, damaged("the summary information has no header")
	}
	at := uint64(binary.LittleEndian.Uint32(b[44:]))
	if at+8 > uint64(len(b)) {
		return nil, damaged("the summary information begins at byte %d of %d", at, len(b))
	}
	section := b[at:]
	count := uint64(binary.LittleEndian.Uint32(section[4:]))
	if count > maxProperties || 8+8*count > uint64(len(section)) {
		return nil, damaged("the summary information has %d properties in %d bytes", count, len(section))
	}
	type place struct {
		id Property // which property
		at uint64   // offset in the set
	}
	var places []place
	for i := range count {
		p := section[8+8*i:]
		places = append(places, place{Property(binary.LittleEndian.Uint32(p)), uint64(binary.LittleEndian.Uint32(p[4:]))})
	}
	slices.SortStableFunc(places, func(a, b place) int { return int(a.id) - int(b.id) }) // the code page first
	for _, p := range places {
		if p.at+8 > uint64(len(section)) {
			return nil, damaged("summary property %d lies at byte %d of %d", p.id, p.at, len(section))
		}
		if err := s.read(p.id, section[p.at:]); err != nil {
			return nil, err
		}
	}
	return s, nil
}

// read reads one property. Types that the summary does not have are passed
// over: other programs leave some.
func (s *Summary) read(id Property, v []byte) error {
	// [MS-OLEPS] 2.15: the type stands before the value. Others than these four
	// do not occur in a summary.
	switch binary.LittleEndian.Uint32(v) {
	case typeI2:
		n := int16(binary.LittleEndian.Uint16(v[4:]))
		if id == SummaryCodePage {
			s.CodePage = int(uint16(n))
		} else {
			s.SetNumber(id, int(n))
		}
	case typeI4:
		s.SetNumber(id, int(int32(binary.LittleEndian.Uint32(v[4:]))))
	case typeLPSTR:
		size := uint64(binary.LittleEndian.Uint32(v[4:]))
		if 8+size > uint64(len(v)) {
			return damaged("summary property %d has %d bytes, %d are left", id, size, len(v)-8)
		}
		text := v[8 : 8+size]
		if i := slices.Index(text, 0); i >= 0 {
			text = text[:i]
		}
		s.SetText(id, decodeText(text, s.CodePage))
	case typeFileTime:
		if len(v) < 12 {
			return damaged("summary property %d is cut off", id)
		}
		if s.Times == nil {
			s.Times = map[Property]time.Time{}
		}
		s.Times[id] = compound.Time(binary.LittleEndian.Uint64(v[4:]))
	}
	return nil
}

// Write gives the property set as it stands in a file.
func (s *Summary) Write() ([]byte, error) {
	values := map[Property][]byte{}
	var ids []Property
	put := func(id Property, kind uint32, v []byte) {
		if _, ok := values[id]; !ok {
			ids = append(ids, id)
		}
		for len(v)%4 != 0 {
			v = append(v, 0)
		}
		values[id] = append(binary.LittleEndian.AppendUint32(nil, kind), v...)
	}
	if s.CodePage != 0 {
		put(SummaryCodePage, typeI2, binary.LittleEndian.AppendUint16(nil, uint16(s.CodePage)))
	}
	for id, n := range s.Numbers {
		put(id, typeI4, binary.LittleEndian.AppendUint32(nil, uint32(n)))
	}
	for id, t := range s.Times {
		put(id, typeFileTime, binary.LittleEndian.AppendUint64(nil, uint64(t.UnixNano()/100+116444736000000000)))
	}
	for id, text := range s.Texts {
		b, err := encodeText(text, s.CodePage)
		if err != nil {
			return nil, fmt.Errorf("summary property %d: %w", id, err)
		}
		put(id, typeLPSTR, append(append(binary.LittleEndian.AppendUint32(nil, uint32(len(b)+1)), b...), 0))
	}
	// By their numbers, so that the same summary is written as the same bytes.
	slices.Sort(ids)
	var table, data []byte
	for _, id := range ids {
		table = binary.LittleEndian.AppendUint32(table, uint32(id))
		table = binary.LittleEndian.AppendUint32(table, uint32(8+8*len(ids)+len(data)))
		data = append(data, values[id]...)
	}
	out := []byte{0xFE, 0xFF, 0, 0, 6, 1, 2, 0}
	out = append(out, make([]byte, 16)...)
	out = append(out, 1, 0, 0, 0)
	out = append(out, summaryFormat[:]...)
	out = binary.LittleEndian.AppendUint32(out, propertyHeader)
	out = binary.LittleEndian.AppendUint32(out, uint32(8+len(table)+len(data)))
	out = binary.LittleEndian.AppendUint32(out, uint32(len(ids)))
	return append(append(out, table...), data...), nil
}

// Summary reads the summary information; a database without one has an empty
// one.
func (db *Database) Summary() (*Summary, error) {
	if db.summary != nil {
		return db.summary, nil
	}
	db.summary = &Summary{}
	if db.storage == nil {
		return db.summary, nil
	}
	if e := db.storage.Child(summaryStream); e != nil {
		b, err := db.file.ReadAll(e, maxSummary)
		if err != nil {
			return nil, err
		}
		s, err := ReadSummary(b)
		if err != nil {
			return nil, err
		}
		db.summary = s
	}
	return db.summary, nil
}

// Platform and Languages are the two parts of the template property.
func (s *Summary) Platform() string {
	p, _, _ := strings.Cut(s.Text(SummaryTemplate), ";")
	return strings.TrimSpace(p)
}

// Languages lists the language IDs of the template property.
func (s *Summary) Languages() []string {
	_, l, _ := strings.Cut(s.Text(SummaryTemplate), ";")
	return strings.FieldsFunc(l, func(r rune) bool { return r == ',' || r == ' ' })
}
